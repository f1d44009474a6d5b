"""Several prints of one set, the backlash beside each, and what a gauge said: where the pinion stands.

One set's own centre is the same in every print, its right backlash is, and how far its patches travel is:
each is held once, with its scatter from set to set, so that prints of several assemblies tell them apart
from a depth that is off. Unknown are the depth error d, the backlash β at the right place, the set's own
centre c (four shares of the flank) and the share s by which each of the four travels more than the nominal
set's. A print whose pinion stands deeper by δ, read at a backlash b, shows
f₀ + (1 + s)·(f(d + δ, (b − β − p·(d + δ))/q) − f₀) + c, f being the meshing of the set, f₀ at its right
place.

Once d is given, all the rest enters linearly: it is integrated out exactly at each of many depths, and the
depth is summed over them. A best fit of all at once would lean to small depths with large travels.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Final

import numpy as np

from axle.contact.cut import Cut
from axle.contact.estimate import CUT_NOISE, PatchCentroids
from axle.contact.travel import FARTHEST, travel
from axle.errors import AxleError

# Depths summed over: so many, out to so many standard deviations of what was held, to this at the least,
# no further than patches tell [mm].
_DEPTHS: Final = 201
_DEVIATIONS: Final = 4.5
_LEAST: Final = 0.3
# Share by which the travel of a patch differs between sets of one cut, along the flank and up it, and how
# far both flanks' travel up it goes together: computed for sets whose spiral differs by 1 degree, cutter
# by 3 % and crowning by a fifth.
TRAVEL: Final = (0.22, 0.14)
_TOGETHER: Final = 0.75
# Where the ring gear lies when no backlash was read beside a print [mm].
_RING_UNREAD: Final = 0.08
# What is common to both flanks moves their middles alike, along and up, in the order (u, v, u, v).
_ALIKE: Final = np.kron(np.ones((2, 2)), np.eye(2))
# A print whose middles lie further off all the rest than this, as a root mean square in standard
# deviations, counts as if it scattered so much more: faint, smeared or badly seen.
_ODD: Final = 1.7
# Noise of a flank that was not read: it tells nothing.
_NOT_READ: Final = 1e3


@dataclass(frozen=True)
class PrintObservation:
    """One print with what is known of where it was taken.

    :param centroids: of both patches.
    :param deeper: δ, how much deeper the pinion stood than it does now [mm].
    :param backlash: b, mean of the places on those settings [mm], or nothing where it was not read.
    :param backlash_std: how far the ring gear at the printed teeth stands from its mean, as backlash [mm].
    :param common: scatter that both flanks of one print share, share of the flank.
    """

    centroids: PatchCentroids
    deeper: float = 0.0
    backlash: float | None = None
    backlash_std: float = 0.012
    common: float = 0.0


@dataclass(frozen=True)
class Prior:
    """What is held before any print.

    :param depth: depth error as the pinion stands now [mm].
    :param depth_std: one standard deviation [mm], more than 0.
    :param backlash: β, backlash of the set at its right place [mm].
    :param backlash_std: one standard deviation [mm], more than 0.
    :param per_ring: q, backlash per ring gear movement as it is read [1], more than 0.
    :param per_depth: p, backlash per depth as it is read [1].
    :param cut_noise: scatter of the set's own centre, share of the flank, 0 or more.
    :param travel: share by which its patches travel otherwise than the nominal set's, along the flank and
        up it, more than 0.
    :param eye: how far one eye sees every middle otherwise than it is, share of the flank.
    :raises AxleError: for a spread or a ratio that is not more than 0.
    """

    depth: float
    depth_std: float
    backlash: float
    backlash_std: float
    per_ring: float
    per_depth: float
    cut_noise: float = CUT_NOISE
    travel: tuple[float, float] = TRAVEL
    eye: float = 0.0

    def __post_init__(self) -> None:
        for what in ("depth_std", "backlash_std", "per_ring"):
            if getattr(self, what) <= 0:
                raise AxleError(
                    what.replace("_", " "), given=f"{getattr(self, what):g}", wanted="more than 0"
                )


@dataclass(frozen=True)
class JointEstimate:
    """What all of it comes to.

    :param depth: depth error as the pinion stands now [mm], > 0 too deep.
    :param depth_std: one standard deviation [mm].
    :param backlash: β, backlash of this set at its right place [mm].
    :param backlash_std: one standard deviation [mm].
    :param covariance: covariance of depth and β [mm²].
    :param misfits: by print, how far it lies from what the others and the gauge make of it: the root mean
        square of its residuals in standard deviations.
    :param chi_square: what the prints and all that is unknown lie off, squared and in variances, added up.
    :param count: figures that were read of the prints: four of each.
    """

    depth: float
    depth_std: float
    backlash: float
    backlash_std: float
    covariance: float
    misfits: tuple[float, ...] = ()
    chi_square: float = 0.0
    count: int = 0


@lru_cache(maxsize=256)
def joint_estimate(item: Cut, before: Prior, prints: tuple[PrintObservation, ...]) -> JointEstimate:
    """Bring every print of a set to bear on its depth, with the gauge and the backlash.

    :param item: the set, cut so that its right place shows the target.
    :param before: what is held before them; lengths [mm].
    :param prints: oldest first; none leaves what was held.
    :returns: mean depth [mm] and backlash [mm] with their standard deviations.
    :raises AxleError: where the set cannot be computed.
    :source: Bayes' rule, summed over depth, all else integrated out as a linear Gaussian model (Bishop,
        Pattern Recognition and Machine Learning, section 2.3).

    >>> from axle.contact.cut import cut
    >>> from axle.contact.response import pair
    >>> gears = cut("large_cutter", 11, 41, 222.0)
    >>> shown = pair(gears, depth=0.1, ring=0.0)
    >>> held = Prior(0.0, 0.25, 0.2, 0.02, 1.0, -0.3, cut_noise=0.001)
    >>> centroids = PatchCentroids(shown.convex.centroid, shown.concave.centroid, 0.002)
    >>> seen = PrintObservation(centroids, 0.0, 0.17, 0.001)
    >>> round(joint_estimate(gears, held, (seen,)).depth, 2)
    0.1
    """
    if not prints:
        return JointEstimate(
            before.depth,
            before.depth_std,
            backlash=before.backlash,
            backlash_std=before.backlash_std,
            covariance=0.0,
        )
    found = _summed(item, before, prints)
    odd = [max(misfit / _ODD, 1.0) for misfit in found.misfits]
    if len(prints) == 1 or max(odd) == 1.0:
        return found
    # Read as if they scattered more; how far off they were is kept.
    wider = tuple(
        replace(shown, centroids=shown.centroids.widened(by)) for shown, by in zip(prints, odd, strict=True)
    )
    return replace(_summed(item, before, wider), misfits=found.misfits)


def _summed(item: Cut, before: Prior, prints: tuple[PrintObservation, ...]) -> JointEstimate:
    """All prints brought together as they were read."""
    reach = min(max(_DEVIATIONS * before.depth_std, _LEAST), FARTHEST)
    depths = np.linspace(before.depth - reach, before.depth + reach, _DEPTHS)
    rows = [_row(item, before, shown, depths) for shown in prints]
    held = _rest_held(before)
    precision = held + sum(row.information for row in rows)
    pull = sum(row.pull for row in rows)
    covariance = np.linalg.inv(precision)
    rest = np.einsum("nij,nj->ni", covariance, pull)
    # The likelihood of what was printed at each depth, all but the depth integrated out.
    log = sum(row.log for row in rows) + (np.einsum("ni,ni->n", pull, rest)) / 2
    log = log - np.linalg.slogdet(precision)[1] / 2 - ((depths - before.depth) / before.depth_std) ** 2 / 2
    weights = np.exp(log - log.max())
    weights /= weights.sum()
    depth, lash = float(weights @ depths), float(weights @ rest[:, 0])
    off, lash_off = depths - depth, rest[:, 0] - lash
    nearest = int(np.argmin(abs(off)))
    square = sum(float(row.square[nearest]) for row in rows) - float(
        np.asarray(pull)[nearest] @ rest[nearest]
    )
    square += ((depths[nearest] - before.depth) / before.depth_std) ** 2
    return JointEstimate(
        depth,
        math.sqrt(float(weights @ off**2)),
        backlash=before.backlash + lash,
        backlash_std=math.sqrt(float(weights @ (lash_off**2 + covariance[:, 0, 0]))),
        covariance=float(weights @ (off * lash_off)),
        misfits=tuple(row.misfit(nearest, rest[nearest]) for row in rows),
        chi_square=max(square, 0.0),
        count=int(sum(row.read.sum() for row in rows)),
    )


def _rest_held(before: Prior) -> np.ndarray:
    """Precision of what is held of all but the depth: backlash, centre, travel."""
    along, up = before.travel
    spreads = np.array([before.backlash_std, *[max(before.cut_noise, 1e-4)] * 4, along, up, along, up])
    covariance = np.diag(spreads**2)
    # One eye sees both flanks' middles the same way off, along and up.
    covariance[1:5, 1:5] += before.eye**2 * _ALIKE
    covariance[6, 8] = covariance[8, 6] = _TOGETHER * up**2
    return np.asarray(np.linalg.inv(covariance))


@dataclass(frozen=True, eq=False)
class _Row:
    """One print at each of the depths.

    :param slope: of the four middles by the rest, shape (n, 4, 9).
    :param weight: inverse covariance of the print, shape (n, 4, 4).
    :param off: what it shows beyond the nominal set, shape (n, 4) [share of the flank].
    :param read: which of the four were read.
    """

    slope: np.ndarray
    weight: np.ndarray
    off: np.ndarray
    read: np.ndarray

    @property
    def information(self) -> np.ndarray:
        """What it adds to the precision of the rest."""
        return np.asarray(np.einsum("nji,njk,nkl->nil", self.slope, self.weight, self.slope))

    @property
    def pull(self) -> np.ndarray:
        """Where it pulls the rest."""
        return np.asarray(np.einsum("nji,njk,nk->ni", self.slope, self.weight, self.off))

    @property
    def log(self) -> np.ndarray:
        """Logarithm of its likelihood were the rest as it is held."""
        return np.asarray(np.linalg.slogdet(self.weight)[1] - self.square) / 2

    @property
    def square(self) -> np.ndarray:
        """Square of what it shows beyond the nominal set, in its variances."""
        return np.asarray(np.einsum("ni,nij,nj->n", self.off, self.weight, self.off))

    def misfit(self, at: int, rest: np.ndarray) -> float:
        """Root mean square of what it leaves at one depth, in standard deviations."""
        left = self.off[at] - self.slope[at] @ rest
        return math.sqrt(float(left @ self.weight[at] @ left) / self.read.sum())


def _row(item: Cut, before: Prior, shown: PrintObservation, depths: np.ndarray) -> _Row:
    depth = np.clip(depths + shown.deeper, -FARTHEST, FARTHEST)
    q, known = before.per_ring, shown.backlash is not None
    ring = np.zeros_like(depth)
    if shown.backlash is not None:
        ring = (shown.backlash - before.backlash - before.per_depth * depth) / q
    map_ = travel(item)
    right = map_.centroids(np.zeros(1), np.zeros(1))
    travelled = map_.centroids(depth, ring) - right
    by_ring = map_.by_ring(depth, ring)
    slope = np.zeros((len(depth), 4, 9))
    slope[:, :, 0] = -by_ring / q if known else 0.0
    slope[:, :, 1:5] = np.eye(4)
    slope[:, range(4), range(5, 9)] = travelled
    # Print scatter; the ring gear's place moves all four together.
    centroids = shown.centroids
    noise = np.where(centroids.read, centroids.scatter, _NOT_READ)
    aside = shown.backlash_std / q if known else _RING_UNREAD
    covariance = np.diag(noise**2) + aside**2 * by_ring[:, :, None] * by_ring[:, None, :]
    covariance = covariance + shown.common**2 * _ALIKE
    values = np.zeros(4)
    values[centroids.read] = centroids.values
    off = np.where(centroids.read, values - right - travelled, 0.0)
    return _Row(slope, np.linalg.inv(covariance), off=off, read=centroids.read)
