"""What a finger puts right on a photograph: places it paints or wipes, patches it drops."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace

import numpy as np
from scipy.spatial import cKDTree
from skimage.measure import label

from axle.errors import AxleError
from axle.photo.patches import HIGH, LONG, Wiped, patches_in
from axle.photo.pose import Pose

_MOST_STROKES, _MOST_POINTS, _MOST_STEPS = 60, 400, 4000


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


def corrected(wiped: Wiped, pose: Pose, strokes: Sequence[Stroke], dropped: Collection[int]) -> Wiped:
    """Patches as a person left them.

    :param wiped: as they were read.
    :param pose: of the flank.
    :param strokes: in order.
    :param dropped: numbers of patches that are none, from 0, the largest first.
    :returns: the patches that are left.
    :raises AxleError: for more strokes than a hand makes, or where nothing is left.
    :source: the finger's places laid on the flank by its pose.
    """
    if len(strokes) > _MOST_STROKES:
        raise AxleError("strokes", given=f"{len(strokes)}", wanted=f"at most {_MOST_STROKES}")
    if not strokes and not dropped:
        return wiped
    mask = wiped.mask.copy()
    if dropped:
        numbers = label(mask)
        sizes = np.bincount(numbers.ravel())[1:]
        order = np.argsort(-sizes) + 1
        for place, number in enumerate(order):
            if place in dropped:
                mask[numbers == number] = False
    for stroke in strokes:
        mask[_under(stroke, pose)] = stroke.wipes
    return replace(wiped, mask=mask, patches=patches_in(mask))


def _under(stroke: Stroke, pose: Pose) -> np.ndarray:
    """Which places of the flat flank a finger went over."""
    way = np.array(stroke.points, dtype=float)
    steps = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(way, axis=0).T))])
    at = np.linspace(0, steps[-1], int(min(steps[-1] / max(stroke.radius / 4, 0.5), _MOST_STEPS)) + 1)
    way = np.column_stack([np.interp(at, steps, way[:, axis]) for axis in (0, 1)])
    u, v = np.meshgrid((np.arange(LONG) + 0.5) / LONG, 1 - (np.arange(HIGH) + 0.5) / HIGH)
    off, _ = cKDTree(way).query(pose.onto(u.ravel(), v.ravel()))
    return np.asarray(np.reshape(off, (HIGH, LONG)) <= stroke.radius)
