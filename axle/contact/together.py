"""Several prints of one set, the backlash beside each, and what a gauge said: where the pinion stands.

One set's own centre is the same in every print, and its right backlash is: each is held once, with its
scatter from set to set, so that prints of several assemblies tell them apart from a depth that is off.
Unknown are the depth error d, the backlash β at the right place, and the set's own centre c (four shares
of the flank). A print whose pinion stands deeper by δ, read at a backlash b, shows
f(d + δ, (b − β − p·(d + δ))/q) + c, f being the meshing of the set.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Final

import numpy as np

from axle.contact.cut import Cut
from axle.contact.estimate import CUT_NOISE, Middles
from axle.contact.response import pair
from axle.errors import AxleError

# Places beyond which a patch lies off the flank and moves no more [mm].
_FARTHEST: Final = 0.75
# A step of the difference quotients, and a change of depth under which the search has settled [mm].
_STEP: Final = 0.02
_SETTLED: Final = 2e-4
_ROUNDS: Final = 8
# Share by which the travel of a patch differs between sets of one cut, from memory.
_TRAVEL: Final = 0.15
# Where the ring gear lies when no backlash was read beside a print [mm].
_RING_UNREAD: Final = 0.08


@dataclass(frozen=True)
class Shown:
    """One print with what is known of where it was taken.

    :param middles: of both patches.
    :param deeper: δ, how much deeper the pinion stood than it does now [mm].
    :param backlash: b, mean of the places on those settings [mm], or nothing where it was not read.
    :param unsure: how far the ring gear at the printed teeth may stand from its mean, as backlash [mm].
    """

    middles: Middles
    deeper: float = 0.0
    backlash: float | None = None
    unsure: float = 0.012


@dataclass(frozen=True)
class Before:
    """What is held before any print.

    :param depth: depth error as the pinion stands now [mm].
    :param depth_spread: one standard deviation [mm], more than 0.
    :param lash: β, backlash of the set at its right place [mm].
    :param lash_spread: one standard deviation [mm], more than 0.
    :param per_ring: q, backlash per ring gear movement as it is read [1], more than 0.
    :param per_depth: p, backlash per depth as it is read [1].
    :param cut_noise: scatter of the set's own centre, share of the flank, 0 or more.
    :raises AxleError: for a spread or a ratio that is not more than 0.
    """

    depth: float
    depth_spread: float
    lash: float
    lash_spread: float
    per_ring: float
    per_depth: float
    cut_noise: float = CUT_NOISE

    def __post_init__(self) -> None:
        for what in ("depth_spread", "lash_spread", "per_ring"):
            if getattr(self, what) <= 0:
                raise AxleError(
                    what.replace("_", " "), given=f"{getattr(self, what):g}", wanted="more than 0"
                )


@dataclass(frozen=True)
class Together:
    """What all of it comes to.

    :param depth: depth error as the pinion stands now [mm], > 0 too deep.
    :param depth_spread: one standard deviation [mm].
    :param lash: β, backlash of this set at its right place [mm].
    :param lash_spread: one standard deviation [mm].
    :param tie: covariance of depth and β [mm²].
    :param misfits: by print, how far it lies from what the others and the gauge make of it: the root mean
        square of its residuals in standard deviations.
    """

    depth: float
    depth_spread: float
    lash: float
    lash_spread: float
    tie: float
    misfits: tuple[float, ...] = ()


@lru_cache(maxsize=256)
def together(item: Cut, before: Before, prints: tuple[Shown, ...]) -> Together:
    """Bring every print of a set to bear on its depth, with the gauge and the backlash.

    :param item: the set, cut so that its right place shows the target.
    :param before: what is held before them; lengths [mm].
    :param prints: oldest first; none leaves what was held.
    :returns: the most likely depth [mm] and backlash [mm], with their spreads from the linearised sum.
    :raises AxleError: where the set cannot be computed.
    :source: Gauss–Newton on a Gaussian posterior (Tarantola, Inverse Problem Theory).

    >>> from axle.contact.cut import cut
    >>> gears = cut("large_cutter", 11, 41, 222.0)
    >>> shown = pair(gears, depth=0.1, ring=0.0)
    >>> held = Before(0.0, 0.25, 0.2, 0.02, 1.0, -0.3, cut_noise=0.001)
    >>> seen = Shown(Middles(shown.convex.centroid, shown.concave.centroid, 0.002), 0.0, 0.17, 0.001)
    >>> round(together(gears, held, (seen,)).depth, 2)
    0.1
    """
    spreads = np.array([before.depth_spread, before.lash_spread, *[max(before.cut_noise, 1e-4)] * 4])
    prior = np.diag(spreads**-2)
    mean = np.array([before.depth, before.lash, 0.0, 0.0, 0.0, 0.0])
    if not prints:
        return Together(before.depth, before.depth_spread, before.lash, before.lash_spread, 0.0)
    at = mean.copy()
    cost, rows = _cost(item, before, prints, prior, mean, at)
    for _ in range(_ROUNDS):
        precision, pull = prior.copy(), prior @ (mean - at)
        for slope, weight, off in rows:
            precision += slope.T @ weight @ slope
            pull += slope.T @ weight @ off
        move = np.linalg.solve(precision, pull)
        move *= min(1.0, _FARTHEST / 2 / (abs(float(move[0])) + 1e-12))
        # A patch that runs off the flank hardly moves any more: the step is halved until it helps.
        for _halving in range(6):
            there, rows_there = _cost(item, before, prints, prior, mean, at + move)
            if there <= cost + 1e-9:
                break
            move = move / 2
        at, cost, rows = at + move, there, rows_there
        if abs(float(move[0])) < _SETTLED:
            break
    precision = prior + sum((s.T @ w @ s for s, w, _ in rows), np.zeros((6, 6)))
    covariance = np.linalg.inv(precision)
    misfits = tuple(math.sqrt(float(off @ weight @ off) / len(off)) for _, weight, off in rows)
    return Together(
        float(at[0]), math.sqrt(float(covariance[0, 0])), float(at[1]), math.sqrt(float(covariance[1, 1])),
        float(covariance[0, 1]), misfits,
    )  # fmt: skip


_Row = tuple[np.ndarray, np.ndarray, np.ndarray]


def _cost(
    item: Cut, before: Before, prints: Sequence[Shown], prior: np.ndarray, mean: np.ndarray, at: np.ndarray
) -> tuple[float, list[_Row]]:
    """Misfit at a place, and by print its slopes, weights and what it leaves."""
    rows = [_row(item, before, shown, at) for shown in prints]
    held = at - mean
    return float(held @ prior @ held) + sum(float(off @ w @ off) for _, w, off in rows), rows


def _row(item: Cut, before: Before, shown: Shown, at: np.ndarray) -> _Row:
    read = shown.middles.read
    depth = float(at[0]) + shown.deeper
    q, p = before.per_ring, before.per_depth
    ring = 0.0 if shown.backlash is None else (shown.backlash - float(at[1]) - p * depth) / q
    middle = _middles(item, depth, ring)
    by_depth = (_middles(item, depth + _STEP, ring) - _middles(item, depth - _STEP, ring)) / (2 * _STEP)
    by_ring = (_middles(item, depth, ring + _STEP) - _middles(item, depth, ring - _STEP)) / (2 * _STEP)
    known = shown.backlash is not None
    slope = np.zeros((4, 6))
    slope[:, 0] = by_depth - (by_ring * p / q if known else 0.0)
    slope[:, 1] = -by_ring / q if known else 0.0
    slope[:, 2:] = np.eye(4)
    aside = shown.unsure / q if known else _RING_UNREAD
    # Print scatter, and how far sets of one cut differ in how their patches travel; the ring gear's place
    # moves all four together.
    travelled = middle - _middles(item, 0.0, 0.0)
    noise = np.diag((np.repeat(shown.middles.trust, 2) * shown.middles.noise) ** 2)
    noise = noise + np.diag((_TRAVEL * travelled) ** 2)
    noise = noise + np.outer(by_ring, by_ring) * aside**2
    weight = np.linalg.inv(noise[np.ix_(read, read)])
    off = shown.middles.values - (middle + at[2:])[read]
    return slope[read], weight, off


def _middles(item: Cut, depth: float, ring: float) -> np.ndarray:
    # Rounded to a tenth of a micrometre, so that the same place is worked out once.
    depth, ring = (round(min(max(x, -_FARTHEST), _FARTHEST), 4) for x in (depth, ring))
    return np.asarray(pair(item, depth=depth, ring=ring).centroids)
