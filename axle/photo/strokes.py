"""What a finger puts right on a photograph: places it paints or wipes, patches it drops."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from scipy.spatial import cKDTree
from skimage.measure import label

from axle.errors import AxleError
from axle.photo.patches import HIGH, LONG, Wiped, patches_in
from axle.photo.pose import Pose

_MOST_STROKES, _MOST_POINTS, _MOST_STEPS = 60, 400, 4000
# A tap drops the patch that it touches, or one so near beside it, share of the flank's length.
_BESIDE = 0.03


@dataclass(frozen=True)
class Stroke:
    """A finger's way over the photograph.

    :param wipes: what it goes over is wiped; else it is covered with compound.
    :param radius: of the finger [pixels], more than 0.
    :param points: its way (x, y) [pixels], at least one.
    :raises AxleError: for no way, a finger without size, or a way that is too long.
    """

    wipes: bool
    radius: float
    points: Sequence[tuple[float, float]]

    def __post_init__(self) -> None:
        if not 1 <= len(self.points) <= _MOST_POINTS or not 0 < self.radius < 1000:
            raise AxleError(
                "stroke",
                given=f"{len(self.points)} places, {self.radius:g} pixels wide",
                wanted=f"1 to {_MOST_POINTS} places and some width",
            )


@dataclass(frozen=True)
class Drop:
    """A tap on a patch that is none.

    :param at: where (x, y) [pixels].
    """

    at: tuple[float, float]


def corrected(wiped: Wiped, pose: Pose, corrections: Sequence[Stroke | Drop]) -> Wiped:
    """Patches as a person left them.

    :param wiped: as they were read.
    :param pose: of the flank.
    :param corrections: in the order in which they were made.
    :returns: the patches that are left.
    :raises AxleError: for more corrections than a hand makes, a tap beside every patch, or where nothing is
        left.
    :source: the finger's places laid on the flank by its pose.
    """
    if len(corrections) > _MOST_STROKES:
        raise AxleError("strokes", given=f"{len(corrections)}", wanted=f"at most {_MOST_STROKES}")
    if not corrections:
        return wiped
    mask = wiped.mask.copy()
    for correction in corrections:
        if isinstance(correction, Stroke):
            mask[_under(correction, pose)] = correction.wipes
        else:
            mask[_touched(mask, correction, pose)] = False
    return replace(wiped, mask=mask, patches=patches_in(mask))


def _touched(mask: np.ndarray, drop: Drop, pose: Pose) -> np.ndarray:
    """The patch that a tap touches."""
    rows, columns = np.nonzero(mask)
    if len(rows):
        off, nearest = cKDTree(pose.onto(*_shares(rows, columns))).query(drop.at)
        if off <= _BESIDE * pose.length:
            numbers = label(mask)
            return np.asarray(numbers == numbers[rows[nearest], columns[nearest]])
    raise AxleError("drop", given="a tap beside every patch", wanted="a tap on a patch")


def _under(stroke: Stroke, pose: Pose) -> np.ndarray:
    """Which places of the flat flank a finger went over."""
    way = np.array(stroke.points, dtype=float)
    steps = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(way, axis=0).T))])
    at = np.linspace(0, steps[-1], int(min(steps[-1] / max(stroke.radius / 4, 0.5), _MOST_STEPS)) + 1)
    way = np.column_stack([np.interp(at, steps, way[:, axis]) for axis in (0, 1)])
    rows, columns = np.indices((HIGH, LONG)).reshape(2, -1)
    off, _ = cKDTree(way).query(pose.onto(*_shares(rows, columns)))
    return np.asarray(np.reshape(off, (HIGH, LONG)) <= stroke.radius)


def _shares(rows: np.ndarray, columns: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Where on the flank places of the flat one lie (u, v)."""
    return (columns + 0.5) / LONG, 1 - (rows + 0.5) / HIGH
