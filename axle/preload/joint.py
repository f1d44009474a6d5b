"""Both pairs of bearings from all that was read: pinion alone, carrier alone, the whole, play.

A pair turns at T = T0 + c·i^(10/9) for an interference i > 0. Unknown of each pair are the setting of zero
play, c over the usual one, T0, and by how much the interference falls at first load; of the axle the drag
of its mesh; of each coming together how the parts sat. The whole shows the pinion's torque, the carrier's
over the ratio and the mesh's drag, so that a sum ties both pairs together. All of it is fitted at once.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from enum import Enum
from functools import cache, cached_property, lru_cache
from typing import Final

import numpy as np
from scipy.special import ndtri
from scipy.stats import qmc

from axle.errors import AxleError
from axle.preload.curve import Slope

_POWER: Final = 10 / 9
# Over so much interference a pair begins to load [mm]: no kink for the search to stand still at.
_RAMP: Final = 0.0015
# Where zero play lies nobody knows before it is read [mm].
_ANYWHERE: Final = 3.0
# A residual further out than so many standard deviations counts for less (Student's t).
_FREEDOM: Final = 5.0
_ROUNDS: Final = 25
_SETTLED: Final = 1e-6
# Every reading nearer than so many standard deviations fits; else so many starts are tried at the most.
_FITS: Final = 3.0
_DESCENTS: Final = 8
_DRAWS: Final = 512
_STEP: Final = 1e-5
# A torque over this shows a pair loaded [N·m]; no interference less than that is worked with [mm].
_LOADED: Final = 0.3
_LEAST: Final = 1e-3
# A seat that scatters by more than this is each coming together's own [mm].
_OWN_SEAT: Final = 0.1
_AT_LAST: Final = 1e-4


class Shows(Enum):
    """What a reading shows."""

    PINION_TORQUE = "pinion torque"
    CARRIER_TORQUE = "carrier torque"
    TOTAL_TORQUE = "total torque"
    PINION_PLAY = "pinion end play"
    CARRIER_PLAY = "carrier end play"


@dataclass(frozen=True)
class PairReading:
    """One reading of one pair or of both.

    :param shows: what.
    :param value: [N·m or mm].
    :param std: its standard deviation [N·m or mm], more than 0.
    :param pinion: setting of the pinion's pair, more is tighter [mm], where it bears on the reading.
    :param carrier: of the carrier's, likewise [mm].
    :param stack: number of the pinion's coming together, from 0.
    :param sides: number of the carrier's, from 0.
    :param loaded: the axle had been loaded before.
    :param bound: no play was found, which says that the pair is not loose, and not how tight it is.
    :param packed: its setting is that of packs, measured with an error; not so a gap that was read.
    :raises AxleError: for a spread that is not more than 0.
    """

    shows: Shows
    value: float
    std: float
    pinion: float = 0.0
    carrier: float = 0.0
    stack: int = 0
    sides: int = 0
    loaded: bool = False
    bound: bool = False
    packed: bool = True

    def __post_init__(self) -> None:
        if self.std <= 0:
            raise AxleError("reading", given=f"a spread of {self.std:g}", wanted="more than 0")

    @property
    def of_pinion(self) -> bool:
        """Whether the pinion's pair bears on it."""
        return self.shows in (Shows.PINION_TORQUE, Shows.PINION_PLAY, Shows.TOTAL_TORQUE)

    @property
    def of_carrier(self) -> bool:
        """Whether the carrier's pair bears on it."""
        return self.shows in (Shows.CARRIER_TORQUE, Shows.CARRIER_PLAY, Shows.TOTAL_TORQUE)


@dataclass(frozen=True)
class PairPrior:
    """What is held of one pair before it is read.

    :param slope: expected torque, with its spread as a factor.
    :param idle: T0 [N·m] and the standard deviation of its logarithm.
    :param bed: what the interference loses at first load [mm], and the same of it.
    :param seat: scatter of its setting from one coming together to the next [mm], more than 0.
    :param pack: error of its packs as they were measured [mm], the same whenever the same packs are in; 0
        where no packs set it.
    """

    slope: Slope
    idle: tuple[float, float]
    bed: tuple[float, float]
    seat: float
    pack: float = 0.0


@dataclass(frozen=True)
class PairsPrior:
    """What is held of both pairs and the mesh between them.

    :param pinion: the pinion's pair.
    :param carrier: the carrier's.
    :param mesh: drag at the pinion [N·m], and the standard deviation of its logarithm.
    :param ratio: N2/N1, more than 1.
    :param wrench: relative standard deviation of the wrench's scale.
    :param zero: of what it shows at nothing [N·m].
    """

    pinion: PairPrior
    carrier: PairPrior
    mesh: tuple[float, float]
    ratio: float
    wrench: float = 0.0
    zero: float = 0.0


# Unknowns, in order: of the pinion zero play, logarithm of c, of T0 and of the bedding in, each of the last
# three in standard deviations; the same of the carrier; mesh; then the seats of each coming together and
# the errors of each pack, likewise.
_EACH: Final = 4
_MESH: Final = 8
# By pair: which unknown is the error of the packs of a setting.
_Packs = tuple[dict[int, int], dict[int, int]]
_SEATS: Final = 9


@dataclass(frozen=True, eq=False)
class Pairs:
    """Both pairs as they are held once everything is read.

    :param prior: what was held before.
    :param mean: of the unknowns, zero play in mm, all else in standard deviations of its prior.
    :param root: a square root of their covariance, shape (n, n).
    :param stacks: comings together of the pinion.
    :param knows_pinion: something was read of the pinion's pair.
    :param knows_carrier: something was read of the carrier's.
    :param residuals: by reading, in its standard deviations, as it was given.
    :param references: by pair, setting of a torque that was read of it [mm]: its first unknown is then the
        logarithm of the torque there [N·m] in place of zero play, since a torque ties zero play and c
        together along a curve.
    :param chi_square: what the readings and the unknowns lie off, squared and in variances, added up.
    :param count: readings behind it, less one for each pair.
    :param scatter: by how much every width is larger than held
        (:func:`axle.measure.uncertainty.birge_ratio`).
    :param packs: by pair and setting [mm], the unknown that is the error of the packs that made it.
    """

    prior: PairsPrior
    mean: np.ndarray
    root: np.ndarray
    stacks: int
    sides: int
    knows_pinion: bool
    knows_carrier: bool
    residuals: tuple[float, ...]
    references: tuple[float | None, float | None] = (None, None)
    chi_square: float = 0.0
    count: int = 0
    scatter: float = 1.0
    packs: _Packs = ({}, {})

    def zero(self, which: int, drawn: np.ndarray) -> np.ndarray:
        """Setting of zero play of one pair, one figure for each draw [mm].

        :param which: 0 for the pinion's pair, 1 for the carrier's.
        :param drawn: as :attr:`draws` gives them.
        """
        pair = self.prior.carrier if which else self.prior.pinion
        first = which * _EACH
        return _zero(pair, self.references[which], drawn[:, first], drawn[:, first + 1])

    @property
    def covariance(self) -> np.ndarray:
        """Covariance of the unknowns, shape (n, n)."""
        return np.asarray(self.root @ self.root.T)

    @cached_property
    def draws(self) -> np.ndarray:
        """Unknowns held possible, alike likely, shape (k, n + 5); the last five normal by the scatter.

        :source: quasi-random normal points (Sobol), the same at each call.
        """
        points = self.scatter * normal_points(len(self.mean) + 5)
        unknowns = self.mean + points[:, : len(self.mean)] @ self.root.T
        return np.hstack([unknowns, points[:, len(self.mean) :]])

    def interference(
        self,
        which: int,
        setting: float,
        drawn: np.ndarray,
        *,
        seat: int | None,
        loaded: bool,
        anew: bool = False,
        pack: float | None = None,
    ) -> np.ndarray:
        """Interference of one pair at a setting, one figure for each draw [mm].

        :param which: 0 for the pinion's pair, 1 for the carrier's.
        :param setting: more is tighter [mm].
        :param drawn: as :attr:`draws` gives them.
        :param seat: number of the coming together; nothing for one that is still to be.
        :param loaded: whether it has been loaded.
        :param anew: packs are made up that were not in yet: of their error nothing is known.
        :param pack: standard deviation of the error of such packs [mm]; the prior's when left out.
        """
        first, count = which * _EACH, len(self.mean)
        pair = self.prior.carrier if which else self.prior.pinion
        found = setting - self.zero(which, drawn)
        at = _SEATS + (self.stacks if which else 0)
        known = seat is not None and seat < (self.sides if which else self.stacks)
        scatter = _seat(pair, known and not which and seat == self.stacks - 1)
        found = found + scatter * (drawn[:, at + (seat or 0)] if known else drawn[:, count + which])
        error = None if anew else self.packs[which].get(_key(setting))
        std = pair.pack if pack is None or error is not None else pack
        found = found + std * drawn[:, count + 2 + which if error is None else error]
        return found - _bed(pair, drawn[:, first + 3]) if loaded else found

    def torque(self, which: int, interference: np.ndarray, drawn: np.ndarray) -> np.ndarray:
        """Torque of one pair at interferences that belong to the draws, as it truly is [N·m].

        :param which: 0 for the pinion's pair, 1 for the carrier's.
        :param interference: shape (k,) [mm].
        :param drawn: as :attr:`draws` gives them.
        """
        first = which * _EACH
        pair = self.prior.carrier if which else self.prior.pinion
        shown = _torque(pair, drawn[:, first + 1], drawn[:, first + 2], interference)
        return np.asarray(shown / (1 + self.prior.wrench * drawn[:, -1]))

    def shown(self, reading: PairReading) -> np.ndarray:
        """What one reading more would show, without its own scatter, one figure for each draw [N·m or mm].

        :param reading: taken on a coming together that is there; its value does not count.
        """
        model = _Model(
            (reading,), self.prior, self.stacks, self.sides, references=self.references, packs=self.packs
        )
        return model.expected(self.draws[:, : len(self.mean)])[:, 0]

    def reached(self, which: int, torque: float) -> np.ndarray:
        """Interference at which one pair turns at a true torque, one figure for each draw [mm].

        :param which: 0 for the pinion's pair, 1 for the carrier's.
        :param torque: [N·m]; at or under what a loose pair turns at it is that of no load.
        """
        first, pair = which * _EACH, self.prior.carrier if which else self.prior.pinion
        drawn = self.draws
        idle = pair.idle[0] * np.exp(pair.idle[1] * drawn[:, first + 2])
        c = pair.slope.coefficient * np.exp(math.log(pair.slope.factor) * drawn[:, first + 1])
        loads = np.maximum((torque * (1 + self.prior.wrench * drawn[:, -1]) - idle) / c, 1e-9) ** (
            1 / _POWER
        )
        return np.asarray(loads - _RAMP**2 / (4 * loads))

    def expected_bed(self, which: int) -> tuple[float, float]:
        """What a pair loses at first load, median and standard deviation [mm].

        :param which: 0 for the pinion's pair, 1 for the carrier's.
        """
        drawn = _bed(self.prior.carrier if which else self.prior.pinion, self.draws[:, which * _EACH + 3])
        return float(np.median(drawn)), float(drawn.std())

    def in_its_deviations(self, which: int, what: str) -> float:
        """How far an unknown lies from what was held before, in standard deviations of that.

        :param which: 0 for the pinion's pair, 1 for the carrier's.
        :param what: "slope", "bed", or "mesh", which is both pairs'.
        :raises KeyError: for another word.
        """
        at = {"slope": which * _EACH + 1, "bed": which * _EACH + 3, "mesh": _MESH}[what]
        return float(self.mean[at])

    def mesh_drag(self) -> tuple[float, float]:
        """Drag of the mesh at the pinion, mean and standard deviation [N·m]."""
        centre, log_std = self.prior.mesh
        drawn = centre * np.exp(log_std * self.draws[:, _MESH])
        return float(drawn.mean()), float(drawn.std())


def _key(setting: float) -> int:
    """A setting to a tenth of a micrometre: what is nearer than that is the same packs."""
    return round(setting * 1e4)


def _packs(readings: Sequence[PairReading], prior: PairsPrior, first: int) -> _Packs:
    """Which unknown is the error of which packs, numbered from the first one on."""
    found: tuple[dict[int, int], dict[int, int]] = ({}, {})
    for which, pair in enumerate((prior.pinion, prior.carrier)):
        for r in readings:
            bears = r.of_carrier if which else r.of_pinion
            if pair.pack and bears and r.packed:
                key = _key(r.carrier if which else r.pinion)
                found[which].setdefault(key, first + len(found[0]) + len(found[1]))
    return found


def _seat(pair: PairPrior, is_last: bool) -> float:
    """Scatter of how a pair sits at one coming together [mm]; none at the last bite of a sleeve."""
    return _AT_LAST if is_last and pair.seat > _OWN_SEAT else pair.seat


def _zero(pair: PairPrior, reference: float | None, first: np.ndarray, slope: np.ndarray) -> np.ndarray:
    """Setting of zero play by the first unknown: itself, or the torque's logarithm at a reference."""
    if reference is None:
        return first
    c = pair.slope.coefficient * np.exp(math.log(pair.slope.factor) * slope)
    return np.asarray(reference - (np.exp(np.clip(first, -9.0, 6.0)) / c) ** (1 / _POWER))


def _first(pair: PairPrior, reference: float | None, zero: float, slope: float) -> float:
    """The first unknown of a pair whose zero play lies at a setting [mm]."""
    if reference is None:
        return zero
    c = pair.slope.coefficient * math.exp(math.log(pair.slope.factor) * slope)
    return math.log(c * max(reference - zero, _LEAST) ** _POWER)


def _references(readings: Sequence[PairReading], prior: PairsPrior) -> tuple[float | None, float | None]:
    """By pair the setting of the last torque that shows it loaded; nothing where its play was read.

    Play tells zero play itself, and then zero play is the better unknown.
    """
    found: list[float | None] = [None, None]
    played = {Shows.PINION_PLAY: 0, Shows.CARRIER_PLAY: 1}
    told = {played[r.shows] for r in readings if r.shows in played and not r.bound}
    pinion = [r.value for r in readings if r.shows is Shows.PINION_TORQUE]
    for r in readings:
        if r.shows is Shows.PINION_TORQUE and r.value > _LOADED:
            found[0] = r.pinion
        if r.shows is Shows.CARRIER_TORQUE and r.value > _LOADED:
            found[1] = r.carrier
        rest = prior.ratio * (r.value - (pinion[-1] if pinion else r.value / 2) - prior.mesh[0])
        if r.shows is Shows.TOTAL_TORQUE and rest > _LOADED:
            found[1] = r.carrier
    return None if 0 in told else found[0], None if 1 in told else found[1]


def _bed(pair: PairPrior, units: np.ndarray) -> np.ndarray:
    centre, log_std = pair.bed
    return np.asarray(centre * np.exp(log_std * units))


def _torque(pair: PairPrior, slope: np.ndarray, idle: np.ndarray, interference: np.ndarray) -> np.ndarray:
    loads = _over(interference)
    c = pair.slope.coefficient * np.exp(math.log(pair.slope.factor) * slope)
    return np.asarray(pair.idle[0] * np.exp(pair.idle[1] * idle) + c * loads**_POWER)


def _over(figures: np.ndarray) -> np.ndarray:
    """What of them is over nothing, without a kink."""
    return np.asarray((figures + np.sqrt(figures**2 + _RAMP**2)) / 2)


@cache
def normal_points(dimensions: int) -> np.ndarray:
    """Points of so many standard normal variables, evenly spread, shape (512, n).

    :param dimensions: n, 1 or more.
    :source: Sobol's sequence, scrambled with a fixed seed (scipy.stats.qmc), through the normal quantile.

    >>> points = normal_points(3)
    >>> bool(abs(points.mean()) < 0.01 and abs(points.std() - 1) < 0.01)
    True
    """
    points = qmc.Sobol(dimensions, scramble=True, rng=7).random(_DRAWS)
    return np.asarray(ndtri(np.clip(points, 1e-6, 1 - 1e-6)))


class _Model:
    """What readings are expected to show, for many sets of unknowns at once."""

    def __init__(
        self,
        readings: Sequence[PairReading],
        prior: PairsPrior,
        stacks: int = 0,
        sides: int = 0,
        references: tuple[float | None, float | None] | None = None,
        packs: _Packs | None = None,
    ) -> None:
        self.prior = prior
        self.references = _references(readings, prior) if references is None else references
        self.stacks = max(stacks, 1 + max((r.stack for r in readings), default=0))
        self.sides = max(sides, 1 + max((r.sides for r in readings), default=0))
        first = _SEATS + self.stacks + self.sides
        self.packs = _packs(readings, prior, first) if packs is None else packs
        self.size = first + sum(len(of) for of in self.packs)
        self.values = np.array([r.value for r in readings])
        self.stds = np.array([r.std for r in readings])
        self.settings = np.array([[r.pinion for r in readings], [r.carrier for r in readings]])
        self.seats = np.array(
            [
                [_SEATS + r.stack for r in readings],
                [_SEATS + self.stacks + r.sides for r in readings],
            ]
        )
        # A sleeve sits wherever its nut left it: zero play is counted from the last bite.
        self.scatter = np.array(
            [
                [_seat(prior.pinion, r.stack == self.stacks - 1) for r in readings],
                [prior.carrier.seat] * len(readings),
            ]
        )
        # Packs that were not in yet are as they were measured, as far as anybody knows.
        self.errors = np.array(
            [
                [self.packs[0].get(_key(r.pinion), -1) if r.packed else -1 for r in readings],
                [self.packs[1].get(_key(r.carrier), -1) if r.packed else -1 for r in readings],
            ]
        )
        self.loaded = np.array([r.loaded for r in readings])
        shows = [r.shows for r in readings]
        self.pinion_share = np.array([s in (Shows.PINION_TORQUE, Shows.TOTAL_TORQUE) for s in shows], float)
        self.carrier_share = np.array(
            [
                1.0 if s is Shows.CARRIER_TORQUE else 1 / prior.ratio if s is Shows.TOTAL_TORQUE else 0.0
                for s in shows
            ]
        )
        self.mesh_share = np.array([s is Shows.TOTAL_TORQUE for s in shows], float)
        self.plays = np.array(
            [[s is Shows.PINION_PLAY for s in shows], [s is Shows.CARRIER_PLAY for s in shows]]
        )
        self.bounds = np.array([r.bound for r in readings], bool)
        spreads = np.ones(self.size)
        spreads[[0, _EACH]] = _ANYWHERE
        self.held = spreads**-2

    def expected(self, unknowns: np.ndarray) -> np.ndarray:
        """Shape (k, readings), of unknowns of shape (k, size)."""
        shown = np.zeros((len(unknowns), len(self.values)))
        for which, pair in enumerate((self.prior.pinion, self.prior.carrier)):
            first = which * _EACH
            zero = _zero(pair, self.references[which], unknowns[:, [first]], unknowns[:, [first + 1]])
            seats = self.scatter[which] * unknowns[:, self.seats[which]]
            off = np.where(self.errors[which] < 0, 0.0, unknowns[:, self.errors[which]])
            at = self.settings[which] - zero + seats + pair.pack * off
            at = at - self.loaded * _bed(pair, unknowns[:, [first + 3]])
            torque = _torque(pair, unknowns[:, [first + 1]], unknowns[:, [first + 2]], at)
            share = self.carrier_share if which else self.pinion_share
            shown += share * torque
            shown += np.where(self.plays[which], np.where(self.bounds, _over(-at), -at), 0.0)
        centre, log_std = self.prior.mesh
        return shown + self.mesh_share * centre * np.exp(log_std * unknowns[:, [_MESH]])

    def cost(self, unknowns: np.ndarray, about: np.ndarray) -> np.ndarray:
        """Twice the negative logarithm of the posterior, heavy tails for the readings, shape (k,)."""
        off = (self.values - self.expected(unknowns)) / self.stds
        return np.asarray(
            ((_FREEDOM + 1) * np.log1p(off**2 / _FREEDOM)).sum(axis=1)
            + ((unknowns - about) ** 2 * self.held).sum(axis=1)
        )


@lru_cache(maxsize=512)
def fit_pairs(readings: tuple[PairReading, ...], prior: PairsPrior) -> Pairs:
    """Fit both pairs to everything that was read of them.

    :param readings: torques [N·m] and plays [mm], each with its settings [mm].
    :param prior: what is held before.
    :returns: both pairs; with no reading what was held.
    :source: maximum of the posterior by Gauss-Newton with damping (Levenberg, Marquardt), readings with
        Student's t of 5 degrees of freedom for figures that are misread; covariance from the curvature
        there (Laplace's method).

    >>> slope = Slope(2.26, 0.076, 1.3)
    >>> pair = PairPrior(slope, (0.02, 0.5), (0.005, 0.5), 0.004)
    >>> found = fit_pairs(
    ...     (PairReading(Shows.PINION_PLAY, 0.05, 0.006, pinion=0.0),),
    ...     PairsPrior(pair, pair, (0.03, 0.5), 3.7),
    ... )
    >>> round(float(found.mean[0]), 2), found.knows_carrier
    (0.05, False)
    """
    knows = any(r.of_pinion for r in readings), any(r.of_carrier for r in readings)
    model = _Model(readings, prior)
    about = np.zeros(model.size)
    # Zero play is held where the readings put it by the usual slope, to within anything.
    for which, starts in enumerate(_zeros(readings, prior)):
        pair = prior.carrier if which else prior.pinion
        if starts:
            about[which * _EACH] = _first(pair, model.references[which], float(np.median(starts)), 0.0)
    if not readings:
        spreads = 1 / np.sqrt(model.held)
        return Pairs(prior, about, np.diag(spreads), model.stacks, model.sides, *knows, residuals=())
    at = _likeliest(model, _starts(model, readings, prior, about), about)
    jacobian, off = _jacobian(model, at)
    # A reading far off counts for little in where the fit lies, and for as little in how sure it is.
    weight = (_FREEDOM + 1) / (_FREEDOM + (off / model.stds) ** 2) / model.stds**2
    weight = np.minimum(weight, model.stds**-2)
    curvature = jacobian.T @ (weight[:, None] * jacobian) + np.diag(model.held)
    root = np.linalg.cholesky(np.linalg.inv(curvature) + 1e-14 * np.eye(model.size))
    return Pairs(
        prior,
        at,
        root,
        model.stacks,
        model.sides,
        *knows,
        residuals=tuple(float(r) for r in off / model.stds),
        references=model.references,
        chi_square=float(model.cost(at[None], about)[0]),
        # The first reading of a pair puts its zero play somewhere, and cannot lie off.
        count=max(len(readings) - sum(knows), 0),
        packs=model.packs,
    )


def _likeliest(model: _Model, starts: np.ndarray, about: np.ndarray) -> np.ndarray:
    """The likeliest unknowns: from the best start, and from others where that leaves a reading far off.

    A reading far off may be misread, or the search may have come to rest in a wrong hollow.
    """
    best, least = starts[0], math.inf
    for start in starts[:_DESCENTS]:
        at, cost = _descended(model, start, about)
        if cost < least:
            best, least = at, cost
        off = (model.values - model.expected(best[None])[0]) / model.stds
        if np.abs(off).max() < _FITS:
            break
    return np.asarray(best)


def _descended(model: _Model, at: np.ndarray, about: np.ndarray) -> tuple[np.ndarray, float]:
    """The nearest hollow of the cost, and its cost, by Gauss-Newton with damping."""
    damping, cost = 1e-3, float(model.cost(at[None], about)[0])
    for _ in range(_ROUNDS):
        jacobian, off = _jacobian(model, at)
        weight = (_FREEDOM + 1) / (_FREEDOM + (off / model.stds) ** 2) / model.stds**2
        curvature = jacobian.T @ (weight[:, None] * jacobian) + np.diag(model.held)
        pull = jacobian.T @ (weight * off) - model.held * (at - about)
        moved = False
        for _ in range(8):
            step = np.linalg.solve(curvature + damping * np.diag(np.diag(curvature)), pull)
            tried = at + step
            worth = float(model.cost(tried[None], about)[0])
            if worth <= cost + 1e-12:
                moved = True
                damping = max(damping / 5, 1e-9)
                break
            damping *= 5
        if not moved:
            break
        at, gained, cost = tried, cost - worth, worth
        if gained < _SETTLED:
            break
    return at, cost


def _jacobian(model: _Model, at: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Slope of what is expected by each unknown, and what was read beyond it."""
    steps = np.vstack([at, at + _STEP * np.eye(model.size)])
    shown = model.expected(steps)
    return (shown[1:] - shown[0]).T / _STEP, model.values - shown[0]


def _sit(start: np.ndarray, zero: float, readings: Sequence[PairReading], prior: PairsPrior) -> None:
    """Begin where each bite of a sleeve left its nut by its own torque: bites have nothing in common."""
    seat = prior.pinion.seat
    if seat <= _OWN_SEAT:
        return
    last = max(r.stack for r in readings)
    for r in readings:
        if r.shows is Shows.PINION_TORQUE and r.stack != last:
            own = r.pinion - _reached(prior.pinion, r.value)
            start[_SEATS + r.stack] = (zero - own) / seat


def _zeros(readings: Sequence[PairReading], prior: PairsPrior) -> tuple[list[float], list[float]]:
    """Where each reading alone would put zero play of each pair."""
    found: tuple[list[float], list[float]] = ([], [])
    pinion = [r.value for r in readings if r.shows is Shows.PINION_TORQUE]
    for r in readings:
        if r.shows is Shows.PINION_PLAY:
            found[0].append(r.pinion + r.value)
        elif r.shows is Shows.CARRIER_PLAY:
            found[1].append(r.carrier + r.value)
        elif r.shows is Shows.PINION_TORQUE:
            found[0].append(r.pinion - _reached(prior.pinion, r.value))
        elif r.shows is Shows.CARRIER_TORQUE:
            found[1].append(r.carrier - _reached(prior.carrier, r.value))
        else:
            rest = prior.ratio * (r.value - (pinion[-1] if pinion else r.value / 2) - prior.mesh[0])
            found[1].append(r.carrier - _reached(prior.carrier, rest))
            if not pinion:
                found[0].append(r.pinion - _reached(prior.pinion, r.value / 2))
    return found


def _reached(pair: PairPrior, torque: float) -> float:
    """Interference at which a usual pair turns at a torque [mm]."""
    return float((max(torque - pair.idle[0], 0.0) / pair.slope.coefficient) ** (1 / _POWER))


def _starts(
    model: _Model, readings: Sequence[PairReading], prior: PairsPrior, about: np.ndarray
) -> np.ndarray:
    """Places to begin at, the best first: each reading's own zero play, with soft and stiff bearings."""
    starts = []
    pinions, carriers = (list(zeros) or [0.0] for zeros in _zeros(readings, prior))
    for pinion in {*pinions, float(np.median(pinions))}:
        for carrier in {*carriers, float(np.median(carriers))}:
            for slope in (-1.0, 0.0, 1.0):
                start = about.copy()
                start[0] = _first(prior.pinion, model.references[0], pinion, slope)
                start[_EACH] = _first(prior.carrier, model.references[1], carrier, slope)
                start[[1, _EACH + 1]] = slope
                _sit(start, pinion, readings, prior)
                starts.append(start)
    tried = np.array(starts)
    return np.asarray(tried[np.argsort(model.cost(tried, about))])
