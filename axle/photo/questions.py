"""What a photograph of a flank leaves open, and only the person who took it can say."""

from __future__ import annotations

from enum import Enum
from typing import Final

import numpy as np

from axle.contact.cut import Cut
from axle.errors import AxleError
from axle.photo.pose import NAMES, Pose, are_close, poses, sense
from axle.photo.refusals import Cause, Unreadable, unreadable
from axle.photo.surface import surface_of

# So much less cost on the other flank, or with toe and heel swapped, is asked about; not asked where the
# places fit well as they are, to this cost a place.
_ANOTHER_FLANK: Final = 6.0
_OTHER_ENDS: Final = 1.5
_FITS_WELL: Final = 0.5
# The same places with toe and heel swapped.
_SWAPPED: Final = (1, 0, 3, 2, 4, 5)


class Question(Enum):
    """What only the person can say."""

    MIRROR = "mirror"
    FLANK = "flank"
    ENDS = "ends"


def questions_about(
    item: Cut | None,
    taps: np.ndarray,
    size: tuple[int, int],
    focal: float | None,
    *,
    convex: bool,
    both: tuple[Pose, ...],
) -> tuple[Question, ...]:
    """What is asked about places that were pointed at.

    :param item: the gear set as it was cut, or None.
    :param taps: four or six places, shape (n, 2) [pixels].
    :param size: width and height of the picture [pixels].
    :param focal: focal length as on a 35 mm film [mm], or None.
    :param convex: they are said to lie on the ring gear's convex flank.
    :param both: the poses that fit, the likeliest first.
    :returns: the questions, none where all is plain.
    :source: a flank is higher at the heel, and bowed to one side; costs are half squares of what is left.
    """
    asked = [Question.MIRROR] if are_close(both) else []
    cost = both[0].cost
    if item is None:
        return tuple(asked)
    if len(taps) == len(NAMES) and cost > _ANOTHER_FLANK:
        other = _cost(item, taps, size, focal, convex=not convex)
        if cost - other > _ANOTHER_FLANK:
            asked.append(Question.FLANK)
    if cost > _FITS_WELL * len(taps):
        other = _cost(item, taps[list(_SWAPPED[: len(taps)])], size, focal, convex=convex)
        if cost - other > _OTHER_ENDS:
            asked.append(Question.ENDS)
    return tuple(asked)


def not_on_this_flank(questions: tuple[Question, ...]) -> Unreadable:
    """The refusal of places that are not this flank's corners, with what is likelier.

    :param questions: what is asked about them.
    :returns: the error.
    :source: the project's own words.

    >>> not_on_this_flank((Question.ENDS,)).given
    'places that get lower towards the heel'
    """
    given, do = "places that are not this flank's corners", "point at the corners again, under the lens"
    if Question.FLANK in questions:
        given, do = "places that bend as on the other flank", "choose the other flank, or point at it again"
    elif Question.ENDS in questions:
        given, do = "places that get lower towards the heel", "swap toe and heel, or point at them again"
    return unreadable(Cause.FRAME, given, do, tuple(question.value for question in questions))


def hand_seen(taps: np.ndarray, *, convex: bool) -> int:
    """Hand of the ring gear as the corners were pointed at: +1 anticlockwise on the way out, else −1.

    :param taps: shape (n, 2) [pixels].
    :param convex: the flank is the convex one.
    :source: on one hand the convex flank has its toe on the left when its root is below, on the other on
        the right.
    """
    return sense(taps) if convex else -sense(taps)


def _cost(
    item: Cut, taps: np.ndarray, size: tuple[int, int], focal: float | None, *, convex: bool
) -> float:
    try:
        return poses(surface_of(item, convex=convex), taps, size, focal)[0].cost
    except AxleError:
        return np.inf
