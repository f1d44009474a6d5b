"""How much backlash comes of a movement: expected from the gears, then learned from the job's moves.

Backlash follows the ring gear's offset x by q, and the pinion's depth by p. Under preload a change of
one side alone moves the ring gear by the share λ that the far side holds against it, so a change of
the loaded interference opens q·λ. Written with a = q·λ all three are linear in what was changed:
Δb = q·Δrigid + a·Δloaded + p·Δdeeper.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np

from axle.carrier.sides import Seat
from axle.contact.gears import computed
from axle.errors import AxleError
from axle.gearset import GearSet, Stance, backlash_per_depth, backlash_per_ring_movement, indicated

# Spread of usual sets around the closed forms, of sets whose meshing is computed around that, and of the
# two sides' stiffness around one half; from memory.
USUAL_SPREAD: Final = 0.12
_COMPUTED_SPREAD: Final = 0.06
_DEPTH_SPREAD: Final = 0.25
_SHARE_SPREAD: Final = 0.07
# Where nobody told how the indicator stands: shops name or show 0.6, 0.7, 0.8 and 1.0 of backlash per ring
# gear movement (common practice), and this holds them all.
UNSURE_RATIO: Final = 0.8
UNSURE_SPREAD: Final = 0.15 / UNSURE_RATIO
# How far axles of one shop differ in it, read by the same hands with the same indicator; from memory.
_AXLES_DIFFER: Final = 0.05
# No axle reads less or more of a movement than this, whatever its moves seem to show; ratios that shops
# name lie between 0.5 and 1.0 (common practice), computed ones up to 1.15.
BOUNDS: Final = (0.4, 1.4)
# A move further out than so many standard deviations is learned with caution, and further than that is odd.
_CAUTION: Final = 2.0
_ODD: Final = 3.0


@dataclass(frozen=True)
class Ratios:
    """What the indicator shows per movement.

    :param per_ring: q, backlash opened per ring gear movement away from the pinion [1].
    :param per_depth: p, backlash changed per pinion depth [1], negative.
    :param std: relative standard spread of q, 0 or more.
    :param share: λ, share of a one-sided shim that moves the ring gear, 0 to 1.
    :param moves: number of this job's own moves behind it.
    :param tied: covariance of (q, a, p), shape (3, 3), rows one after another; as expected from the
        gears when empty.
    """

    per_ring: float
    per_depth: float
    std: float
    share: float = 0.5
    moves: int = 0
    tied: tuple[float, ...] = ()

    @property
    def mean(self) -> np.ndarray:
        """(q, a, p), shape (3,)."""
        return np.array([self.per_ring, self.per_ring * self.share, self.per_depth])

    @property
    def covariance(self) -> np.ndarray:
        """Covariance of (q, a, p), shape (3, 3)."""
        if self.tied:
            return np.array(self.tied).reshape(3, 3)
        q, share = self.per_ring, self.share
        var = (self.std * q) ** 2
        depth = (max(self.std, _DEPTH_SPREAD) * self.per_depth) ** 2
        return np.array(
            [
                [var, share * var, 0.0],
                [share * var, share**2 * var + (q * _SHARE_SPREAD) ** 2, 0.0],
                [0.0, 0.0, depth],
            ]
        )

    @property
    def ring_std(self) -> float:
        """Standard uncertainty of q [1]."""
        return self.per_ring * self.std

    @property
    def share_spread(self) -> float:
        """Standard uncertainty of λ [1]."""
        q, cov = self.per_ring, self.covariance
        gradient = np.array([-self.share / q, 1 / q, 0.0])
        return float(math.sqrt(max(gradient @ cov @ gradient, 0.0)))

    def opened_by(self, seen: Seen) -> float:
        """Change of backlash that a move of the job should have brought [mm]."""
        return float(seen.row @ self.mean)

    def shift(self, before: Seat, after: Seat, deeper: float = 0.0) -> tuple[float, float]:
        """Change of backlash that a move brings, with its standard uncertainty [mm]."""
        row = np.array([after.rigid - before.rigid, after.loaded - before.loaded, deeper])
        return float(row @ self.mean), float(math.sqrt(max(row @ self.covariance @ row, 0.0)))


@dataclass(frozen=True)
class Seen:
    """One move of this job and what it did to the backlash.

    :param rigid: change of ring offset if nothing gave way [mm].
    :param loaded: change of the loaded interference [mm].
    :param deeper: change of pinion depth [mm], > 0 deeper.
    :param opened: change of backlash, mean of the places read both times [mm].
    :param uncertainty: standard uncertainty of ``opened`` [mm], more than 0.
    """

    rigid: float
    loaded: float
    deeper: float
    opened: float
    uncertainty: float = 0.008

    def __post_init__(self) -> None:
        if self.uncertainty <= 0:
            raise AxleError("move", given="no uncertainty", wanted="more than 0")

    @property
    def row(self) -> np.ndarray:
        """(Δrigid, Δloaded, Δdeeper), shape (3,) [mm]."""
        return np.array([self.rigid, self.loaded, self.deeper])


@dataclass(frozen=True)
class Learned:
    """Ratios after a job's own moves.

    :param ratios: as they stand now.
    :param odd: moves that hardly fit: learned with caution, or left out where no ratio explains them.
    """

    ratios: Ratios
    odd: tuple[Seen, ...] = ()


def prior_ratios(gears: GearSet, stance: Stance, finished: Sequence[tuple[float, float]] = ()) -> Ratios:
    """Expected ratios before this job has shown its own.

    :param gears: the gear set.
    :param stance: how the indicator stands at the heel.
    :param finished: ratio per ring gear movement that finished jobs of the shop on such axles came to, each
        with its standard uncertainty [1]; they count where nobody told how the indicator stands.
    :returns: expected ratios [1] and their relative spread [1].
    :source: the computed pattern (:mod:`axle.contact.response`); closed forms of :mod:`axle.gearset` for a
        set that cannot be computed; spread of usual sets around them from memory. Where the stance is not
        told, common practice: 0.8 ± 0.15.

    >>> round(prior_ratios(GearSet(11, 41), Stance.SQUARE).per_ring, 2)
    0.82
    >>> prior_ratios(GearSet(11, 41), Stance.UNSURE).per_ring
    0.8
    """
    shown = indicated(gears, stance)
    found = computed(gears)
    if found is not None:
        told, heel_over_mean = found
        shown *= heel_over_mean / gears.heel_over_mean
        by_gears = Ratios(
            told.backlash["ring"] * shown, told.backlash["depth"] * shown, std=_COMPUTED_SPREAD
        )
    else:
        by_gears = Ratios(
            backlash_per_ring_movement(gears) * shown,
            backlash_per_depth(gears) * shown,
            std=USUAL_SPREAD,
        )
    if stance is not Stance.UNSURE:
        return by_gears
    ratio, spread = _of_finished(finished)
    return Ratios(ratio, by_gears.per_depth * ratio / by_gears.per_ring, std=spread / ratio)


def _of_finished(finished: Sequence[tuple[float, float]]) -> tuple[float, float]:
    """What is expected of the next axle of a shop, with its standard deviation [1]."""
    own = UNSURE_RATIO * UNSURE_SPREAD
    weights = [1 / (own**2 - _AXLES_DIFFER**2)]
    values = [UNSURE_RATIO]
    for ratio, u in finished:
        weights.append(1 / (u**2 + _AXLES_DIFFER**2))
        values.append(ratio)
    mean = sum(w * v for w, v in zip(weights, values, strict=True)) / sum(weights)
    return mean, math.sqrt(1 / sum(weights) + _AXLES_DIFFER**2)


def learn(prior: Ratios, moves: Sequence[Seen], bounds: tuple[float, float] = BOUNDS) -> Learned:
    """Bring a job's own moves to bear on the expected ratios, one after another.

    A move further out than two standard deviations counts for less the further out it is, so that one cup
    that did not follow, or one misread place, does not make the ratio. One that no axle's ratio explains,
    such as a gear that came nearer when it was moved away, is left out.

    :param prior: expected ratios.
    :param moves: moves of this job, oldest first.
    :param bounds: least and largest ratio per ring gear movement that is believed [1].
    :returns: ratios [1] with their covariance, and the moves beyond three standard deviations.
    :source: linear Gaussian update (least squares with a prior), exact within two standard deviations;
        beyond them the noise grows with the residual (as in robust least squares); JCGM 100:2008.

    >>> found = learn(Ratios(0.9, -0.3, 0.12), [Seen(-0.10, 0.0, 0.0, -0.070)])
    >>> round(found.ratios.per_ring, 2), found.ratios.moves
    (0.77, 1)
    """
    mean, cov, odd, used = prior.mean, prior.covariance, [], 0
    for move in moves:
        row = move.row
        variance = float(row @ cov @ row) + move.uncertainty**2
        residual = move.opened - float(row @ mean)
        if abs(residual) > _ODD * math.sqrt(variance):
            odd.append(move)
            if not _could_be(move, float(row @ mean), bounds, float(mean[0])):
                continue
        variance = max(variance, (residual / _CAUTION) ** 2)
        gain = cov @ row / variance
        mean, cov = mean + gain * residual, cov - np.outer(gain, row @ cov)
        used += 1
    if not used:
        return Learned(prior, tuple(odd))
    share = min(max(float(mean[1] / mean[0]), 0.0), 1.0) if mean[0] > 0 else prior.share
    q = min(max(float(mean[0]), bounds[0]), bounds[1])
    spread = math.sqrt(max(float(cov[0, 0]), 0.0)) / q
    ratios = Ratios(
        q,
        min(float(mean[2]), 0.0),
        std=spread,
        share=share,
        moves=used,
        tied=tuple(float(v) for v in cov.ravel()),
    )
    return Learned(ratios, tuple(odd))


def _could_be(move: Seen, due: float, bounds: tuple[float, float], ratio: float) -> bool:
    """Whether any ratio that an axle can have explains a move, its readings' scatter allowed for."""
    if abs(due) < move.uncertainty:
        return False
    share, slack = move.opened / due, _ODD * move.uncertainty / abs(due)
    return bounds[0] / ratio - slack <= share <= bounds[1] / ratio + slack
