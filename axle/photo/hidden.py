"""What the next tooth hides of a flank: foreseen from the pose, and found on the picture."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import Final

import numpy as np
from scipy import ndimage

from axle.photo.pose import Pose
from axle.photo.surface import FlankSurface

# How far from where it is foreseen the next tooth's edge is looked for, how far it is off as a rule, how
# far it may be tilted [shares of the height], and what being off costs beside how clear the edge is.
_REACH, _OFF, _TILT, _TILTED = 0.3, 0.15, 0.1, 0.05
_OFF_COST, _TILT_COST = 0.075, 0.05
# Columns left out at either end, and how many of the rest are looked at [places of the flat flank].
_AT_ENDS, _EVERY, _RIM = 6, 3, 4
_ENOUGH: Final = 0.4


def hidden_below(pose: Pose, neighbour: FlankSurface | None, u: np.ndarray) -> np.ndarray:
    """Height up to which the next tooth hides a flank, shape (n,) [share of it]; less than 0 for nothing.

    :param pose: of the flank.
    :param neighbour: the next tooth's flank that looks at it.
    :param u: from toe 0 to heel 1, shape (n,).
    :source: the next tooth's edge seen from the camera, laid on the flank.
    """
    if neighbour is None:
        return np.full(len(u), -1.0)
    along = np.linspace(-0.3, 1.3, 33)
    aside = pose.surface.slot_way / 2
    other = replace(pose, surface=_placed(neighbour, pose.surface))
    edge = other.onto(along, np.ones_like(along), tooth=pose.tooth + aside)
    on = pose.places(edge)
    inside = (np.abs(on[:, 0] - 0.5) < 1.0) & (on[:, 1] > -0.59) & (on[:, 1] < 1.59)
    if inside.sum() < 3:
        return np.full(len(u), -1.0)
    order = np.argsort(on[inside, 0])
    return np.asarray(np.interp(u, on[inside][order, 0], on[inside][order, 1]))


def _placed(neighbour: FlankSurface, flank: FlankSurface) -> FlankSurface:
    side = neighbour if neighbour.hand == flank.hand else neighbour.mirrored
    return replace(side, about=flank.middle)


def found_below(flat: np.ndarray, low: np.ndarray) -> np.ndarray:
    """The same from the picture, where the pose is too unsure to foresee it.

    :param flat: the flank laid flat, linear light, shape (rows, columns, 3), rows from the top land down.
    :param low: as foreseen, shape (columns,) [share of the height].
    :returns: shape (columns,): the line, shifted and tilted, across which the picture changes alike all
        along.
    :source: mean of unit changes of colour along a line.
    """
    high, long = flat.shape[:2]
    picture = ndimage.gaussian_filter(np.sqrt(np.clip(flat, 0, 1)), (0.8, 2.0, 0))
    change = np.zeros_like(picture)
    change[1:-1] = picture[2:] - picture[:-2]
    size = np.linalg.norm(change, axis=-1, keepdims=True)
    alike = change / (size + float(np.median(size)) + 1e-6)
    columns = np.arange(_AT_ENDS, long - _AT_ENDS, _EVERY)
    along = 2 * (np.arange(long) + 0.5) / long - 1
    foreseen = (1 - low[columns]) * high - 0.5
    shifts = np.arange(-round(_REACH * high), round(_REACH * high) + 1)
    best, chosen = -math.inf, (0.0, 0.0)
    for tilt in np.linspace(-_TILT, _TILT, 9) * high:
        rows = np.rint(foreseen + shifts[:, None] + tilt * along[columns]).astype(int)
        inside = (rows > _RIM) & (rows < high - _RIM)
        picked = alike[np.clip(rows, 0, high - 1), columns] * inside[..., None]
        count = inside.sum(axis=1)
        worth = np.linalg.norm(picked.sum(axis=1), axis=-1) / np.maximum(count, 1)
        worth = worth * np.sqrt(np.minimum(count / len(columns) / _ENOUGH, 1))
        worth -= _OFF_COST * (shifts / high / _OFF) ** 2 + _TILT_COST * (tilt / high / _TILTED) ** 2
        at = int(worth.argmax())
        if worth[at] > best:
            best, chosen = float(worth[at]), (float(shifts[at]), float(tilt))
    return np.asarray(low - (chosen[0] + chosen[1] * along) / high)
