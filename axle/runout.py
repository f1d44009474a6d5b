"""Runout around a gear or a flange: its orders, what does not belong, and where it comes from.

Readings at n equal angles are fitted by r(θ) = a₀ + Σ A_k·cos(kθ − φ_k). Order 1 is tilt (an axial
reading) or eccentricity (a radial one), order 2 a warp, order 3 is looked for with 12 places or
more; the rest is noise. Angles count from the mark on the carrier, the way the places are numbered.
"""

from __future__ import annotations

import cmath
import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np
from numpy.typing import NDArray
from scipy.special import stdtrit

from axle.errors import AxleError
from axle.measure.uncertainty import combined, rectangular

FEWEST_FOR_FIT: Final = 8
FEWEST_FOR_THIRD: Final = 12
MOST_PLACES: Final = 72
_SAME_TURN: Final = 1e-6
# A reading is doubted only where chance would do the same less than once in a hundred runs.
_CHANCE: Final = 0.01


@dataclass(frozen=True)
class Order:
    """One order of the runout.

    :param order: k, how often it rises in a turn.
    :param amplitude: A_k, half of what the indicator swings by it [mm].
    :param angle: where its (first) high spot lies, 0 to 2π/k [rad].
    :param uncertainty: standard uncertainty of A_k [mm].
    """

    order: int
    amplitude: float
    angle: float
    uncertainty: float

    @property
    def degrees(self) -> float:
        """The angle in degrees, as a page shows it."""
        return math.degrees(self.angle)

    @property
    def vector(self) -> complex:
        """A_k·e^{iφ_k}, φ_k = k·angle [mm]."""
        return cmath.rect(self.amplitude, self.order * self.angle)


@dataclass(frozen=True)
class Doubt:
    """A reading that does not belong to the rest.

    :param place: place, from 1.
    :param off: what it lies off the fit of the others [mm].
    """

    place: int
    off: float


@dataclass(frozen=True)
class Runout:
    """What a run of readings says.

    :param places: n, number of places.
    :param turns: number of turns averaged.
    :param readings: mean reading at each place [mm].
    :param total: total indicated reading, largest less smallest, all places [mm].
    :param clean: the same without the doubtful places [mm].
    :param orders: fitted orders, the first one first; none with fewer than 8 places.
    :param residuals: reading less fit at each place [mm]; none without a fit.
    :param doubts: readings that do not belong.
    :param noise: standard deviation of one place about the fit [mm].
    :param repeat: standard deviation of one reading from turn to turn [mm]; 0 with one turn.
    """

    places: int
    turns: int
    readings: tuple[float, ...]
    total: float
    clean: float
    orders: tuple[Order, ...]
    residuals: tuple[float, ...]
    doubts: tuple[Doubt, ...]
    noise: float
    repeat: float

    def order(self, k: int) -> Order | None:
        """The fitted order k, or nothing."""
        return next((order for order in self.orders if order.order == k), None)

    @property
    def high_place(self) -> int:
        """The place nearest to the high spot: of the first order, or of the readings as they are."""
        first = self.order(1)
        if first is None:
            return max(range(self.places), key=lambda i: self.readings[i]) + 1
        return round(first.angle / math.tau * self.places) % self.places + 1


@dataclass(frozen=True)
class Split:
    """Runout told apart into what turns with the gear and what stays with the flange.

    :param gear: g, the gear's own vector at the first clocking [mm].
    :param flange: c, the flange's vector [mm].
    :param uncertainty: standard uncertainty of either's length [mm].
    :param turned: α, how far the gear was turned between the two readings [rad].
    :param first: T₁, first-order vector before [mm].
    :param second: T₂, the same after [mm].
    :param reading: standard uncertainty of T₁ and T₂ [mm].
    """

    gear: complex
    flange: complex
    uncertainty: float
    turned: float
    first: complex
    second: complex
    reading: float


@dataclass(frozen=True)
class Clocking:
    """One bolt position of the gear and the runout to expect there.

    :param holes: how many holes on from the first reading's position, 0 to n − 1.
    :param total: expected total indicated reading of the first order [mm].
    :param uncertainty: its standard uncertainty [mm].
    """

    holes: int
    total: float
    uncertainty: float


def read_around(turns: Sequence[Sequence[float]], step: float = 0.0127) -> Runout:
    """Fit a run of readings around a gear or flange.

    :param turns: readings by turn [mm], each turn the same n places, 3 to 72, first at the mark.
    :param step: resolution of the indicator [mm], above 0.
    :returns: orders only for 8 places or more, the third only for 12 or more.
    :raises AxleError: for no reading, turns of unequal length, or too few or too many places.
    :source: least squares; doubtful readings by externally studentised residuals with Bonferroni's
        bound (Cook and Weisberg, Residuals and Influence in Regression, 1982, from memory).

    >>> run = read_around([[0.1 * math.cos(math.tau * i / 8) for i in range(8)]])
    >>> round(run.order(1).amplitude, 3), run.high_place
    (0.1, 1)
    """
    values = _turns(turns)
    n = values.shape[1]
    mean = values.mean(axis=0)
    repeat = float(np.sqrt(values.var(axis=0, ddof=1).mean())) if len(values) > 1 else 0.0
    whole = float(mean.max() - mean.min())
    readings = tuple(float(v) for v in mean)
    if n < FEWEST_FOR_FIT:
        return Runout(
            n,
            len(values),
            readings=readings,
            total=whole,
            clean=whole,
            orders=(),
            residuals=(),
            doubts=(),
            noise=0.0,
            repeat=repeat,
        )
    top = 3 if n >= FEWEST_FOR_THIRD else 2
    matrix = _matrix(n, top)
    floor = rectangular(step) / math.sqrt(len(values))
    keep, doubts = _without_doubtful(matrix, mean, 2 * step, floor)
    fitted, noise, covariance = _least_squares(matrix[keep], mean[keep], floor)
    residuals = mean - matrix @ fitted
    clean = mean[keep]
    return Runout(
        n,
        len(values),
        readings=readings,
        total=whole,
        clean=float(clean.max() - clean.min()),
        orders=_orders(fitted, covariance, top),
        residuals=tuple(float(v) for v in residuals),
        doubts=tuple(Doubt(i + 1, float(residuals[i])) for i in doubts),
        noise=noise,
        repeat=repeat,
    )


def aliased(ratio: float, places: int) -> float | None:
    """As which order a pinion's N₂/N₁ rises a turn show up at n places, or nothing where they show true.

    :param ratio: N₂/N₁, above 1.
    :param places: n, 1 or more.
    :returns: the order it is taken for, 0 to n/2.
    :raises AxleError: for a ratio that no axle has.
    :source: sampling theorem: orders above n/2 fold back.

    >>> aliased(4.0, 16) is None, aliased(6.0, 8)
    (True, 2.0)
    """
    if ratio < 1 or places < 1:
        raise AxleError("ratio", given=f"{ratio:g} at {places} places", wanted="1 or more of both")
    if ratio <= places / 2:
        return None
    return abs(ratio - places * round(ratio / places))


def split(first: complex, second: complex, turned: float, *, order: int = 1, reading: float = 0.0) -> Split:
    """Tell gear from flange by two readings with the gear clocked in between.

    T = c + g·e^{ikα}: the flange's part stays, the gear's goes round with it.

    :param first: T₁, vector of the order before [mm].
    :param second: T₂, vector of the order after [mm].
    :param turned: α, how far the gear was turned on the flange [rad].
    :param order: k, 1 or more.
    :param reading: standard uncertainty of each vector's length [mm], 0 or more.
    :returns: g = (T₂ − T₁)/(e^{ikα} − 1), c = T₁ − g, u = u_T·√2/(2·|sin(kα/2)|).
    :raises AxleError: where kα is a whole turn: both readings then say the same.
    :source: vector algebra; propagation by JCGM 100:2008, 5.1.2.

    >>> half = split(complex(0.03, 0), complex(0.01, 0), math.pi)
    >>> round(half.gear.real, 3), round(half.flange.real, 3)
    (0.01, 0.02)
    """
    sine = abs(math.sin(order * turned / 2))
    if sine < _SAME_TURN:
        raise AxleError(
            "clocking",
            given=f"the gear turned by {math.degrees(turned):.0f}° in between",
            wanted="a turn that is not a whole one",
            do="Half a turn tells the most.",
        )
    gear = (second - first) / (cmath.exp(1j * order * turned) - 1)
    return Split(
        gear,
        first - gear,
        uncertainty=reading * math.sqrt(2) / (2 * sine),
        turned=turned,
        first=first,
        second=second,
        reading=reading,
    )


def clockings(told: Split, bolts: int) -> tuple[Clocking, ...]:
    """Work out the runout to expect at every bolt position.

    :param told: gear and flange told apart, order 1.
    :param bolts: number of ring gear bolts, 2 to 48.
    :returns: one per position, the first reading's position first.
    :raises AxleError: for a number of bolts that no ring gear has.
    :source: |c + g·e^{i2πj/n}| doubled; u from T₁ and T₂, which the expectation is a sum of.

    >>> [round(c.total, 3) for c in clockings(split(0.03 + 0j, 0.01 + 0j, math.pi), 2)]
    [0.06, 0.02]
    """
    if not 2 <= bolts <= 48:
        raise AxleError("ring gear bolts", given=f"{bolts}", wanted="2 to 48")
    turn = cmath.exp(1j * told.turned) - 1
    found = []
    for holes in range(bolts):
        there = cmath.exp(1j * math.tau * holes / bolts)
        share = (there - 1) / turn
        u = combined(abs(1 - share), abs(share)) * told.reading
        found.append(Clocking(holes, 2 * abs(told.flange + told.gear * there), 2 * u))
    return tuple(found)


def best(of: Sequence[Clocking]) -> Clocking:
    """The position with the least runout; of two alike, the one fewer holes away.

    :param of: positions of :func:`clockings`.
    :source: brute force over all positions.

    >>> best(clockings(split(0.03 + 0j, 0.01 + 0j, math.pi), 10)).holes
    5
    """
    count = len(of)
    return min(of, key=lambda c: (round(c.total, 9), min(c.holes, count - c.holes)))


def in_lash(amplitude: float, pressure_share: float, radius_ratio: float) -> float:
    """How far a wedge behind the ring gear moves the backlash around the ring.

    :param amplitude: A, first order of the axial runout at the face that was read [mm].
    :param pressure_share: q, backlash per axial move of the ring gear.
    :param radius_ratio: mean radius of the teeth over the radius at which A was read, above 0.
    :returns: amplitude of the backlash around the ring [mm].
    :raises AxleError: for a radius ratio of 0 or less.
    :source: rigid tilt: the axial move grows with the radius.

    >>> round(in_lash(0.05, 0.7, 0.8), 3)
    0.028
    """
    if radius_ratio <= 0:
        raise AxleError("radius ratio", given=f"{radius_ratio:g}", wanted="above 0")
    return pressure_share * amplitude * radius_ratio


_Vector = NDArray[np.float64]


def _turns(turns: Sequence[Sequence[float]]) -> _Vector:
    if not turns or not turns[0]:
        raise AxleError("runout", given="no reading", wanted="readings around one turn or more")
    lengths = {len(turn) for turn in turns}
    if len(lengths) > 1:
        counts = ", ".join(str(len(turn)) for turn in turns)
        raise AxleError("runout", given=f"turns of {counts} readings", wanted="as many in every turn")
    if not 3 <= len(turns[0]) <= MOST_PLACES:
        raise AxleError("runout", given=f"{len(turns[0])} places", wanted=f"3 to {MOST_PLACES}")
    values = np.asarray(turns, dtype=float)
    if not np.isfinite(values).all():
        raise AxleError("runout", given="something that is no number", wanted="readings in numbers")
    return values


def _matrix(n: int, top: int) -> _Vector:
    angles = math.tau * np.arange(n) / n
    columns = [np.ones(n)]
    for k in range(1, top + 1):
        columns += [np.cos(k * angles), np.sin(k * angles)]
    return np.column_stack(columns)


def _least_squares(matrix: _Vector, values: _Vector, floor: float) -> tuple[_Vector, float, _Vector]:
    fitted, *_ = np.linalg.lstsq(matrix, values, rcond=None)
    left = len(values) - matrix.shape[1]
    rest = values - matrix @ fitted
    noise = math.sqrt(float(rest @ rest) / left) if left > 0 else 0.0
    scatter = max(noise, floor)
    covariance = np.asarray(scatter**2 * np.linalg.inv(matrix.T @ matrix), dtype=np.float64)
    return np.asarray(fitted, dtype=np.float64), noise, covariance


def _without_doubtful(
    matrix: _Vector, values: _Vector, least: float, floor: float
) -> tuple[list[int], list[int]]:
    """Set aside, one by one, at most a quarter of the readings that the rest contradict."""
    keep = list(range(len(values)))
    doubts: list[int] = []
    while len(keep) - 1 - matrix.shape[1] >= 2 and len(doubts) < len(values) // 4:
        worst, size, off = -1, 0.0, 0.0
        for place in keep:
            others = [i for i in keep if i != place]
            fitted, noise, covariance = _least_squares(matrix[others], values[others], floor)
            row = matrix[place]
            away = float(values[place] - row @ fitted)
            spread = math.sqrt(max(noise, floor) ** 2 + float(row @ covariance @ row))
            if abs(away) / spread > size:
                worst, size, off = place, abs(away) / spread, away
        left = len(keep) - 1 - matrix.shape[1]
        bound = float(stdtrit(left, 1 - _CHANCE / (2 * len(keep))))
        if size <= bound or abs(off) <= least:
            break
        keep.remove(worst)
        doubts.append(worst)
    return keep, sorted(doubts)


def _orders(fitted: _Vector, covariance: _Vector, top: int) -> tuple[Order, ...]:
    orders = []
    for k in range(1, top + 1):
        a, b = float(fitted[2 * k - 1]), float(fitted[2 * k])
        amplitude = math.hypot(a, b)
        along = np.array([a, b]) / amplitude if amplitude else np.array([1.0, 0.0])
        part = covariance[2 * k - 1 : 2 * k + 1, 2 * k - 1 : 2 * k + 1]
        angle = (math.atan2(b, a) % math.tau) / k
        orders.append(Order(k, amplitude, angle=angle, uncertainty=math.sqrt(float(along @ part @ along))))
    return tuple(orders)
