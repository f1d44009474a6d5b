"""Trials that contradict each other, wrenches that do not zero, and what a pack starts from."""

from __future__ import annotations

import math
from collections.abc import Sequence
from itertools import combinations
from typing import Final

from axle.errors import AxleError
from axle.preload.curve import Curve, Slope, Trial

# A pack tighter by more than this should read tighter.
_TELLS: Final = 0.0127
_FAR: Final = 2.5

CAUSES_TIGHT: Final = "dirt or a burr in the stack, a seal left in, bearings dry or not settled"
CAUSES_LOOSE: Final = "a cup not seated, a nut not at its torque, a piece left out of the pack"


def both_ways(clockwise: float, anticlockwise: float) -> tuple[float, float]:
    """Correct a wrench that does not zero by turning both ways.

    :param clockwise: torque read turning one way [N·m], 0 or more.
    :param anticlockwise: torque read turning the other way [N·m], 0 or more.
    :returns: (torque [N·m], the wrench's offset [N·m]).
    :raises AxleError: for a negative reading.
    :source: common practice: the offset adds one way and takes away the other, so the mean is free
        of it.

    >>> both_ways(2.5, 2.1)
    (2.3, 0.2)
    """
    if min(clockwise, anticlockwise) < 0:
        raise AxleError("rotating torque", given="a negative reading", wanted="0 or more, both ways")
    return (clockwise + anticlockwise) / 2, round((clockwise - anticlockwise) / 2, 9)


def contradictions(trials: Sequence[Trial], curve: Curve, prior: Slope) -> tuple[str, ...]:
    """Say where trials cannot all be right, with the usual causes.

    :param trials: as they were fitted.
    :param curve: the curve fitted to them.
    :param prior: the slope that was expected.
    :returns: one line for each contradiction; none where all agree.
    :source: torque rises and end play falls as a pack gets tighter; usual causes by common practice.

    >>> from axle.preload.curve import PINION_SLOPE, fit
    >>> odd = [Trial(0.0, torque=2.0), Trial(0.05, torque=1.0)]
    >>> len(contradictions(odd, fit(odd, PINION_SLOPE), PINION_SLOPE))
    1
    """
    for one, other in combinations(trials, 2):
        loose, tight = sorted((one, other), key=lambda t: t.setting)
        if tight.setting - loose.setting > _TELLS and _reads_looser(tight, loose):
            return (
                "Two trials contradict each other: the tighter pack read looser. Either the first read "
                f"too tight ({CAUSES_TIGHT}) or the second too loose ({CAUSES_LOOSE}). Read the pack "
                "that is in again before another is made.",
            )
    lines = []
    told = sum(1 for trial in trials if trial.torque)
    ratio = math.log(curve.coefficient / prior.coefficient) / math.log(prior.factor)
    if told > 1 and abs(ratio) > _FAR:
        steep = ratio > 0
        lines.append(
            f"Torque rises {'far faster' if steep else 'far slower'} from pack to pack than bearings "
            f"do: look for {CAUSES_TIGHT if steep else CAUSES_LOOSE}."
        )
    for trial in trials:
        if trial.torque is None:
            continue
        expected = curve.torque(trial.setting)
        noise = max(0.1, 0.1 * expected)
        if abs(trial.torque - expected) > 3 * noise:
            high = trial.torque > expected
            lines.append(
                f"One trial reads {'tighter' if high else 'looser'} than the others allow: look for "
                f"{CAUSES_TIGHT if high else CAUSES_LOOSE}."
            )
            break
    return tuple(lines)


def _reads_looser(tight: Trial, loose: Trial) -> bool:
    if tight.torque is not None and loose.torque is not None:
        return tight.torque < loose.torque - max(0.1, 0.1 * loose.torque)
    if tight.end_play is not None and loose.end_play is not None:
        return tight.end_play > loose.end_play + _TELLS
    return bool(tight.end_play and loose.torque)
