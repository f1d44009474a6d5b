"""Where on the map of a set a print puts the axle: depth error and ring offset, each with its spread.

The middles of both patches are compared: a builder's brush and compound change how large a patch is,
hardly where its middle lies. The estimate is the most likely place given the print and what is held before
it; the spread is that of the linearised sum of both.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from functools import cached_property, lru_cache
from typing import Final

import numpy as np

from axle.contact.cut import Cut
from axle.contact.pattern import COMPOUND
from axle.contact.response import pair
from axle.errors import AxleError

# Scatter of a print's centre, and of a cut's own centre from set to set, in shares of length and height:
# common practice, from memory.
PRINT_NOISE: Final = 0.03
CUT_NOISE: Final = 0.03
# What is held before the print [mm]: a pinion set without a gauge, and a ring gear set by its backlash.
_DEPTH_BEFORE, _RING_BEFORE = 0.25, 0.08
# A print that narrows the spread by less than this tells nothing of that quantity.
_TELLS: Final = 0.8
_ROUNDS: Final = 12
_STEP: Final = 0.02
_SETTLED: Final = 1e-4
_FARTHEST: Final = 1.0


@dataclass(frozen=True)
class PositionPrior:
    """What is held of depth error and ring offset before a print.

    :param depth: mean [mm], > 0 too deep.
    :param depth_std: one standard deviation [mm], more than 0.
    :param ring: mean [mm], > 0 away from the pinion.
    :param ring_std: one standard deviation [mm], more than 0.
    :raises AxleError: for a spread that is not more than 0.
    """

    depth: float = 0.0
    depth_std: float = _DEPTH_BEFORE
    ring: float = 0.0
    ring_std: float = _RING_BEFORE

    def __post_init__(self) -> None:
        for what, spread in (("depth spread", self.depth_std), ("ring spread", self.ring_std)):
            if spread <= 0:
                raise AxleError(what, given=f"{spread:g} mm", wanted="more than 0")

    @property
    def mean(self) -> np.ndarray:
        """Depth and ring, shape (2,) [mm]."""
        return np.array([self.depth, self.ring])

    @property
    def precision(self) -> np.ndarray:
        """Inverse covariance, shape (2, 2) [1/mm²]."""
        return np.diag([self.depth_std**-2, self.ring_std**-2])


_WIDE: Final = PositionPrior()


@dataclass(frozen=True)
class PatchCentroids:
    """Where the patches of both flanks have their middle.

    :param convex: (u, v) on the ring's convex flank, or None where it was not read.
    :param concave: (u, v) on its concave flank, likewise.
    :param noise: standard deviation of each, share of length or height, more than 0; one for all, or of
        (u, v) on the convex and (u, v) on the concave flank.
    :param trust: what multiplies it on the convex and on the concave flank; more than 1 counts for less.
    :raises AxleError: when neither was read.
    """

    convex: tuple[float, float] | None
    concave: tuple[float, float] | None
    noise: float | tuple[float, float, float, float] = PRINT_NOISE
    trust: tuple[float, float] = (1.0, 1.0)

    def __post_init__(self) -> None:
        if self.convex is None and self.concave is None:
            raise AxleError("print", given="no patch", wanted="the patch of one flank at least")

    @cached_property
    def read(self) -> np.ndarray:
        """Which of (u, v, u, v) were read."""
        return np.repeat([self.convex is not None, self.concave is not None], 2)

    @cached_property
    def values(self) -> np.ndarray:
        """Those that were read."""
        return np.array([x for centre in (self.convex, self.concave) if centre for x in centre])

    @cached_property
    def scatter(self) -> np.ndarray:
        """Standard deviation of each of (u, v, u, v), as it is trusted."""
        return np.asarray(np.repeat(self.trust, 2) * np.broadcast_to(self.noise, 4))

    def widened(self, by: float) -> PatchCentroids:
        """The same with so many times the scatter."""
        if isinstance(self.noise, tuple):
            first, second, third, fourth = (each * by for each in self.noise)
            return replace(self, noise=(first, second, third, fourth))
        return replace(self, noise=self.noise * by)

    def variance(self, cut_noise: float) -> np.ndarray:
        """Variance of each that was read, with that of the cut's own centre."""
        return np.asarray(self.scatter[self.read] ** 2 + cut_noise**2)


@dataclass(frozen=True)
class PositionEstimate:
    """Where a print puts the axle.

    :param depth: pinion depth error [mm], > 0 too deep.
    :param ring: ring offset [mm], > 0 away from the pinion.
    :param covariance: of both, shape (2, 2) as nested tuples [mm²].
    :param tells_depth: whether the print narrows depth.
    :param tells_ring: whether it narrows the ring's place.
    :param misfit: what the best place leaves unexplained, in standard deviations of the print.
    """

    depth: float
    ring: float
    covariance: tuple[tuple[float, float], tuple[float, float]]
    tells_depth: bool
    tells_ring: bool
    misfit: float

    @property
    def stds(self) -> tuple[float, float]:
        """Standard deviations of depth and ring [mm]."""
        return math.sqrt(self.covariance[0][0]), math.sqrt(self.covariance[1][1])

    @property
    def plausible(self) -> bool:
        """Whether some place of these gears explains the print: else suspect the cut, or print again."""
        return self.misfit < 3


@lru_cache(maxsize=512)
def place(
    item: Cut,
    seen: PatchCentroids,
    *,
    before: PositionPrior = _WIDE,
    cut_noise: float = CUT_NOISE,
    compound: float = COMPOUND,
) -> PositionEstimate:
    """Place a print on the map of a set.

    :param item: the set as it was cut.
    :param seen: the print.
    :param before: what is held of both before it [mm]; else a pinion set without a gauge.
    :param cut_noise: scatter of the cut's own centre; less where a chart or the old wear shows it, or 0.
    :param compound: its thickness square to the flank [mm].
    :returns: the most likely place with its covariance [mm].
    :raises AxleError: where the set cannot be computed.
    :source: Gauss–Newton on a Gaussian posterior (Tarantola, Inverse Problem Theory).

    >>> from axle.contact.cut import cut
    >>> gears = cut("large_cutter", 11, 41, 222.0)
    >>> shown = pair(gears, depth=0.1)
    >>> centroids = PatchCentroids(shown.convex.centroid, shown.concave.centroid, 0.001)
    >>> found = place(gears, centroids, cut_noise=0.0)
    >>> round(found.depth, 2)
    0.1
    """
    variance = seen.variance(cut_noise)
    at = before.mean

    def predicted(where: np.ndarray) -> np.ndarray:
        shown = pair(item, compound=compound, depth=float(where[0]), ring=float(where[1]))
        return np.asarray(shown.centroids[seen.read])

    def cost(where: np.ndarray, shown: np.ndarray) -> float:
        held, off = where - before.mean, seen.values - shown
        return float(held @ before.precision @ held + off @ (off / variance))

    shown = predicted(at)
    slope = np.zeros((len(shown), 2))
    for _ in range(_ROUNDS):
        slope = np.column_stack(
            [(predicted(at + step) - predicted(at - step)) / (2 * _STEP) for step in _STEP * np.eye(2)]
        )
        precision = before.precision + slope.T @ (slope / variance[:, None])
        pull = before.precision @ (before.mean - at) + slope.T @ ((seen.values - shown) / variance)
        move = np.linalg.solve(precision, pull)
        move *= min(1.0, _FARTHEST / float(np.abs(move).max() + 1e-12))
        worth = cost(at, shown)
        # A patch that runs off the flank hardly moves any more: the step is halved until it helps.
        while True:
            nearer = np.clip(at + move, -_FARTHEST, _FARTHEST)
            shown_there = predicted(nearer)
            if cost(nearer, shown_there) <= worth or float(np.abs(move).max()) < _SETTLED:
                break
            move = move / 2
        at, shown = nearer, shown_there
        if float(np.abs(move).max()) < _SETTLED:
            break
    covariance = np.linalg.inv(before.precision + slope.T @ (slope / variance[:, None]))
    spreads = np.sqrt(np.diag(covariance))
    off = seen.values - shown
    (a, b), (c, d) = covariance.tolist()
    return PositionEstimate(
        float(at[0]),
        float(at[1]),
        covariance=((a, b), (c, d)),
        tells_depth=bool(spreads[0] < _TELLS * before.depth_std),
        tells_ring=bool(spreads[1] < _TELLS * before.ring_std),
        misfit=math.sqrt(float(off @ (off / variance)) / max(len(off) - 1, 1)),
    )
