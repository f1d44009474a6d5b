"""What a click under the hand says of the pinion's depth, beside the gauge and the print."""

from __future__ import annotations

from typing import Final

import numpy as np
from scipy.special import ndtr

from axle.layout import Place
from axle.state.axle_state import AxleState
from axle.state.felt import Turned, turned
from axle.stations.zero_play import deeper_between

# How often the drive flanks alone click under the hand, by depth error [mm]: seldom on a pinion that stands
# right or shallow, on every other one that is clearly too deep. Common practice says which way; the figures
# are from memory.
_SELDOM: Final = 0.04
_OFTEN: Final = 0.5
_FROM: Final = 0.10
_OVER: Final = 0.04
# Where the depth is looked at: so many standard deviations either way, in so many steps.
_REACH: Final = 5.0
_STEPS: Final = 401


def click_chance(error: np.ndarray) -> np.ndarray:
    """Chance that the drive flanks alone click.

    :param error: depth error [mm], > 0 too deep, any shape.
    :returns: chance [1], the same shape.
    :source: common practice for the direction; figures from memory.

    >>> click_chance(np.array([-0.2, 0.2])).round(2).tolist()
    [0.04, 0.54]
    """
    chance: np.ndarray = _SELDOM + _OFTEN * ndtr((error - _FROM) / _OVER)
    return chance


def of_this_pinion(state: AxleState) -> tuple[Turned, ...]:
    """Assemblies turned by hand on the bearings, slinger and clocking that are in now, oldest first.

    :param state: the axle.
    :source: the job's records.
    """
    stands = (Place.BEARINGS, Place.SLINGER, Place.CLOCK)
    return tuple(t for t in turned(state.felt) if t.settings.same_at(state.settings, stands))


def with_hand(state: AxleState, before: tuple[float, float]) -> tuple[float, float]:
    """The depth error as it is held once the hand was asked: mean and width of Bayes' rule.

    A click on the drive alone speaks for a deep pinion; both ways turned without one speak a little
    against it; a click on both says nothing of depth.

    :param state: the axle.
    :param before: depth error and one standard deviation [mm], as held without the hand.
    :source: Bayes' rule; :func:`click_chance`.
    """
    mean, std = before
    told = [one for one in of_this_pinion(state) if one.clicks_on_drive_alone or one.is_quiet]
    if not told or std <= 0:
        return before
    error = mean + std * np.linspace(-_REACH, _REACH, _STEPS)
    weight = np.exp(-(((error - mean) / std) ** 2) / 2)
    for one in told:
        then = error + deeper_between(state, state.settings, one.settings)
        chance = click_chance(then)
        weight *= chance if one.clicks_on_drive_alone else 1 - chance
    weight /= weight.sum()
    centre = float(weight @ error)
    return centre, float(np.sqrt(weight @ (error - centre) ** 2))
