"""The four corners of a flank on its photograph, and the flank laid flat by them."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Final

import numpy as np
from scipy import ndimage
from skimage.transform import ProjectiveTransform

from axle.errors import AxleError

# The flank laid flat, in pixels, and samples per pixel along each way.
LONG, HIGH = 240, 80
_FINE: Final = 2
_BORDER: Final = 0.002
_LEAST_SIDE: Final = 40


def flatten(image: np.ndarray, corners: tuple[tuple[float, float], ...]) -> np.ndarray:
    """Lay a flank flat by its four corners.

    :param image: the photograph, shape (height, width, 3), 0 to 255.
    :param corners: (x, y) of toe-root, heel-root, heel-top, toe-top [pixels].
    :returns: linear light 0 to 1, shape (80, 240, 3): rows from the top land to the root, toe to the left.
    :raises AxleError: for corners off the picture, in the wrong order, or too near each other.
    :source: projective map of four points.

    >>> grey = np.full((200, 400, 3), 255, dtype=np.uint8)
    >>> flatten(grey, ((50, 150), (350, 150), (350, 50), (50, 50))).shape
    (80, 240, 3)
    """
    pixels = np.array(corners, dtype=float)
    _check_corners(pixels, image.shape[1], image.shape[0])
    low = np.maximum(np.floor(pixels.min(axis=0)).astype(int) - 2, 0)
    high = np.ceil(pixels.max(axis=0)).astype(int) + 3
    part = image[low[1] : high[1], low[0] : high[0], :3].astype(np.float32) / 255
    part = np.where(part <= 0.04045, part / 12.92, ((part + 0.055) / 1.055) ** 2.4)
    flat = np.array([[0, 0], [1, 0], [1, 1], [0, 1]], dtype=float)
    to_picture = ProjectiveTransform.from_estimate(flat, pixels - low)
    if not to_picture:
        raise AxleError("corners", given="four points that span no area", wanted="the corners of one flank")
    u = (np.arange(LONG * _FINE) + 0.5) / (LONG * _FINE)
    v = 1 - (np.arange(HIGH * _FINE) + 0.5) / (HIGH * _FINE)
    places = to_picture(np.stack(np.meshgrid(u, v), axis=-1).reshape(-1, 2))
    fine = np.stack(
        [ndimage.map_coordinates(part[..., c], places.T[::-1], order=1, mode="nearest") for c in range(3)],
        -1,
    )
    return np.asarray(fine.reshape(HIGH, _FINE, LONG, _FINE, 3).mean(axis=(1, 3)))


def corners_in(
    width: int, height: int, shares: Sequence[Sequence[float]]
) -> tuple[tuple[float, float], ...]:
    """Corners given as shares of a picture, in its pixels.

    :param width: of the picture [pixels].
    :param height: of the picture [pixels].
    :param shares: (x, y) of each corner, 0 to 1.
    :source: the project's own job format.

    >>> corners_in(400, 200, [[0.5, 0.5]])
    ((200.0, 100.0),)
    """
    return tuple((x * width, y * height) for x, y in shares)


def corner_shares(
    width: int, height: int, corners: Sequence[Sequence[float]]
) -> tuple[tuple[float, float], ...]:
    """Corners in a picture's pixels, as shares of it held to its edges: what is kept.

    :param width: of the picture [pixels], more than 0.
    :param height: of the picture [pixels], more than 0.
    :param corners: (x, y) of each corner [pixels].
    :source: the project's own job format.

    >>> corner_shares(400, 200, [[200.0, 100.0]])
    ((0.5, 0.5),)
    """
    return tuple((min(max(x / width, 0.0), 1.0), min(max(y / height, 0.0), 1.0)) for x, y in corners)


def _check_corners(pixels: np.ndarray, width: int, height: int) -> None:
    if pixels.shape != (4, 2) or not np.all(np.isfinite(pixels)):
        raise AxleError("corners", given=f"{len(pixels)} points", wanted="the four corners of one flank")
    margin = _BORDER * max(width, height)
    if (pixels < margin).any() or (pixels > np.array([width, height]) - margin).any():
        raise unreadable("a corner at or past the picture's edge", "take the whole flank in")
    following = np.roll(pixels, -1, axis=0) - pixels
    turns = np.cross(
        np.pad(following, ((0, 0), (0, 1))), np.pad(np.roll(following, -1, axis=0), ((0, 0), (0, 1)))
    )[:, 2]
    if not (np.all(turns > 0) or np.all(turns < 0)):
        raise AxleError(
            "corners",
            given="corners that cross",
            wanted="toe-root, heel-root, heel-top, toe-top in that order",
        )
    if np.hypot(*following.T).min() < _LEAST_SIDE:
        raise unreadable("a flank of fewer than 40 pixels", "take the picture from nearer")


def unreadable(why: str, do: str) -> AxleError:
    """The refusal of a photograph.

    :param why: what is seen.
    :param do: what to do about it.
    :returns: the error, 1 sentence; no unit.
    :source: the project's own words.

    >>> unreadable("a picture too dark", "more light").do
    'Cannot read this: more light.'
    """
    return AxleError("photo", given=why, wanted="a print that can be read", do=f"Cannot read this: {do}.")
