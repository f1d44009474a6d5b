"""A collapsible sleeve: how far the next bite of its nut may go.

Tightening past zero play crushes the sleeve and loads the bearings at once, so rotating torque
against the nut follows the same law as against a shim pack, on a scale of its own. What a sleeve
was crushed to stays: the nut is never backed off.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from enum import Enum
from functools import lru_cache
from typing import Final

import numpy as np
from scipy.special import ndtr

from axle.errors import AxleError
from axle.measure.range import Range, RangeSide
from axle.preload.curve import PINION_SLOPE, Curve, Slope, Trial, fit, predict

# How much of the nut's advance becomes interference, the rest being taken up by sleeve, threads and
# housing: about a fifth, since a quarter turn of a 1.5 mm thread can take a pair from nothing to its
# limit. Common practice for the quarter turn; the share is from memory, and wide.
NUT_SHARE: Final = 0.2
NUT_PITCH: Final = 1.5
SLEEVE_SLOPE: Final = Slope(PINION_SLOPE.torque, PINION_SLOPE.interference, factor=2.0)
# Against the nut's own torque instead of its angle: about 40 N·m more at the nut for a usual
# preload, from memory and wider still.
_TORQUE_SCALE: Final = PINION_SLOPE.interference / 40.0
TORQUE_SLOPE: Final = Slope(PINION_SLOPE.torque, PINION_SLOPE.interference, factor=3.0)
# A hand on a long bar stops within about three degrees of where it meant to (common practice, no
# source), and cannot be asked for less than two.
HAND: Final = 3.0
LEAST_BITE: Final = 2.0
# Nobody is told to turn further than this at once, however loose it still reads.
MOST_BITE: Final = 45.0


class Scale(Enum):
    """What the nut's place is read by."""

    ANGLE = "angle"
    NUT_TORQUE = "nut torque"


@dataclass(frozen=True)
class Bite:
    """One bite of the nut and what was read after it.

    :param torque: rotating torque after it [N·m], 0 or more.
    :param angle: how far the nut was turned [degrees], or nothing where nobody looked.
    :param nut_torque: torque at the nut [N·m], or nothing.
    """

    torque: float
    angle: float | None = None
    nut_torque: float | None = None

    def __post_init__(self) -> None:
        if self.torque < 0:
            raise AxleError("rotating torque", given=f"{self.torque:g} N·m", wanted="0 or more")
        if self.angle is not None and self.angle < 0:
            raise AxleError(
                "bite",
                given=f"{self.angle:g}°",
                wanted="a turn that tightens, 0° or more",
                do="A nut on a sleeve is never backed off: over the range means a new sleeve.",
            )


class BiteVerdict(Enum):
    """What the log of bites comes to."""

    BITE = "bite"
    STOP = "stop"
    NEW_SLEEVE = "new sleeve"


@dataclass(frozen=True)
class NextBite:
    """How far the next bite may go.

    :param verdict: bite, stop, or a new sleeve.
    :param amount: the bite in degrees, or at the nut [N·m], or as a share of the last one.
    :param unit: "°", "N·m" or "of the last".
    :param low: expected torque less one standard deviation [N·m].
    :param high: expected torque and one standard deviation [N·m].
    :param over: chance that it passes the top of the range.
    :param inside: chance that it ends in the range.
    :param curve: the fitted curve, where the nut was followed.
    """

    verdict: BiteVerdict
    amount: float = 0.0
    unit: str = ""
    low: float = 0.0
    high: float = 0.0
    over: float = 0.0
    inside: float = 0.0
    curve: Curve | None = None


def places(bites: Sequence[Bite], pitch: float = NUT_PITCH) -> tuple[Scale, tuple[float, ...]] | None:
    """Where the nut stood at each bite, as equivalent interference.

    :param bites: the log, oldest first.
    :param pitch: of the nut's thread [mm], more than 0.
    :returns: (what it is read by, places [mm]), or nothing where nobody followed the nut.
    :raises AxleError: for a pitch of nothing.
    :source: the nut's advance, and the share of it from memory.

    >>> places([Bite(0.0, 0.0), Bite(1.0, 30.0)])[1]
    (0.0, 0.025)
    """
    if pitch <= 0:
        raise AxleError("nut thread", given=f"{pitch:g} mm", wanted="a pitch of more than 0")
    if all(bite.angle is not None for bite in bites[1:]) and (len(bites) > 1 or bites[0].angle is not None):
        turned = np.cumsum([0.0, *(bite.angle or 0.0 for bite in bites[1:])])
        return Scale.ANGLE, tuple(float(a) * _per_degree(pitch) for a in turned)
    if len(bites) > 1 and all(bite.nut_torque is not None for bite in bites):
        return Scale.NUT_TORQUE, tuple((bite.nut_torque or 0.0) * _TORQUE_SCALE for bite in bites)
    return None


def followed(bites: Sequence[Bite]) -> tuple[Bite, ...]:
    """The end of a log from which on the nut was followed; all of it where nobody looked at the last bite.

    :param bites: the log, oldest first, one or more.
    :source: an angle that nobody wrote down breaks the chain; what was turned since is known.

    >>> [b.torque for b in followed([Bite(0.2), Bite(0.6), Bite(1.1, 15.0)])]
    [0.6, 1.1]
    """
    first = len(bites) - 1
    while first > 0 and bites[first].angle is not None:
        first -= 1
    return tuple(bites[first:]) if first < len(bites) - 1 else tuple(bites)


def fit_bites(
    bites: Sequence[Bite], pitch: float = NUT_PITCH, *, torque_step: float = 0.113
) -> Curve | None:
    """Fit rotating torque against the nut's place.

    :param bites: the log, oldest first.
    :param pitch: of the nut's thread [mm].
    :param torque_step: step of the torque wrench [N·m].
    :returns: the curve over equivalent interference [mm], or nothing where nobody followed the nut.
    :source: :func:`axle.preload.curve.fit` with a wide slope.

    >>> fit_bites([Bite(0.2), Bite(0.6, 15.0), Bite(1.1, 15.0)]).trials
    3
    """
    found = places(bites, pitch)
    if found is None:
        return None
    scale, at = found
    slope = SLEEVE_SLOPE if scale is Scale.ANGLE else TORQUE_SLOPE
    # A torque of nothing before any that counts says only that play or free travel is left.
    trials = [Trial(place, torque=bite.torque) for place, bite in zip(at, bites, strict=True)]
    loaded = [trial for trial in trials if trial.torque]
    return fit(trials if loaded else trials[-1:], slope, torque_step=torque_step)


def next_bite(
    bites: Sequence[Bite],
    low: float,
    high: float,
    *,
    limit: float = 0.05,
    pitch: float = NUT_PITCH,
    target: float | None = None,
    std: float = 0.0,
) -> NextBite:
    """Say how far the next bite may go without passing the range.

    The largest bite up to the middle of the range whose chance of passing the top stays under the
    limit, and no more than twice the last. Where nobody followed the nut it is a share of the last
    bite, from what that one added.

    :param bites: the log of this sleeve, oldest first, one or more.
    :param low: bottom of the range [N·m].
    :param high: top of the range [N·m]; infinite where there is none.
    :param limit: chance of overshoot that is accepted, 0.001 to 0.5.
    :param pitch: of the nut's thread [mm].
    :param target: the sheet's one figure [N·m], where it gives one.
    :param std: standard uncertainty of what was taken off for a seal [N·m].
    :raises AxleError: for an empty log, or a limit outside what makes sense.
    :source: common practice (small bites, measured each time; never backed off); the fitted curve.

    >>> next_bite([Bite(2.0)], 1.5, 1.75).verdict.value
    'new sleeve'
    >>> next_bite([Bite(1.6)], 1.5, 1.75).verdict.value
    'stop'
    """
    if not bites:
        raise AxleError("log of bites", given="nothing", wanted="at least one rotating torque")
    if not 0.001 <= limit <= 0.5:
        raise AxleError("chance of overshoot", given=f"{limit:.1%}", wanted="0.1 % to 50 %")
    return _planned(tuple(bites), Range(low, high, target), limit=limit, pitch=pitch, std=std)


@lru_cache(maxsize=128)
def _planned(bites: tuple[Bite, ...], limits: Range, limit: float, pitch: float, std: float) -> NextBite:
    """The same log gives the same bite: verdict, move and drawing ask for it one after another."""
    now = bites[-1].torque
    side = limits.side(now)
    if side is not RangeSide.UNDER:
        return NextBite(BiteVerdict.NEW_SLEEVE if side is RangeSide.OVER else BiteVerdict.STOP)
    bites = followed(bites)
    curve, found = fit_bites(bites, pitch), places(bites, pitch)
    if curve is None or found is None:
        return _share_of_last(bites, limits.low)
    scale, at = found
    unit = _per_degree(pitch) if scale is Scale.ANGLE else _TORQUE_SCALE
    hand = HAND * _per_degree(pitch) if scale is Scale.ANGLE else 5.0 * _TORQUE_SCALE
    least, most = (LEAST_BITE, MOST_BITE) if scale is Scale.ANGLE else (2.0, 60.0)
    sizes = np.arange(least, most + 0.5, 1.0)
    torques, weights = predict(curve, at[-1] + sizes * unit, setting_spread=hand)
    # What is read now is known: the curve is moved on to it before it is carried further.
    torques = torques + (now - curve.torque(at[-1]))
    noise = math.hypot(max(0.06, 0.04 * limits.upper), std)
    over = ndtr((torques - limits.high) / noise) @ weights
    under = ndtr((limits.low - torques) / noise) @ weights
    mean = torques @ weights
    # However sure the curve: no bite is more than twice the last, and a sleeve's first is small.
    largest = max(2 * _last(bites, scale), 15.0)
    fit_for = (over <= limit) & (mean <= limits.aim) & (sizes <= largest)
    index = int(np.nonzero(fit_for)[0][-1]) if fit_for.any() else 0
    spread = float(np.sqrt(max(((torques[index] - mean[index]) ** 2) @ weights, 0.0)))
    return NextBite(
        BiteVerdict.BITE,
        float(sizes[index]),
        unit="°" if scale is Scale.ANGLE else "N·m",
        low=max(float(mean[index]) - spread, 0.0),
        high=float(mean[index]) + spread,
        over=float(over[index]),
        inside=float(max(1 - over[index] - under[index], 0.0)),
        curve=curve,
    )


def _last(bites: Sequence[Bite], scale: Scale) -> float:
    """Size of the last bite on its scale."""
    if scale is Scale.ANGLE:
        return bites[-1].angle or 0.0
    return (bites[-1].nut_torque or 0.0) - (bites[-2].nut_torque or 0.0)


def _share_of_last(bites: Sequence[Bite], low: float) -> NextBite:
    """The torque rises faster with each bite: reach the bottom of the range at twice the last gain."""
    gain = bites[-1].torque - bites[-2].torque if len(bites) > 1 else 0.0
    share = min(1.0, (low - bites[-1].torque) / (2 * gain)) if gain > 0 else 0.5
    return NextBite(BiteVerdict.BITE, share, "of the last")


def _per_degree(pitch: float) -> float:
    """Equivalent interference per degree of the nut [mm]."""
    return pitch / 360 * NUT_SHARE
