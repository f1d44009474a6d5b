"""Marking compound on the simulator's ring gear: a film with streaks, missed spots and a wiped patch."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Final

import numpy as np
from scipy import ndimage

from axle.data_file import read_table
from axle.simulator.ring_teeth import Face

_COLOURS: Final = read_table(__file__, "ring_scene.toml", dict[str, Any])
_RASTER: Final = (120, 400)
_ALONG, _UP = _RASTER[1], _RASTER[0]


@dataclass(frozen=True)
class Paint:
    """The compound and how it was put on.

    :param colour: "yellow", "white", "blue", "red"; empty for bare metal.
    :param film: thickness, in films of which one hides 63 % of the metal.
    :param streaks: scatter of the thickness along the brush, share.
    :param left: what stays on the wiped patch, share of the film.
    :param border: how much thicker the film is piled around the patch, share.
    :param feather: width of the patch's edge, share of the height.
    :param missed: share of the tops that the brush missed, 0 to 1.
    :param missed_on_flank: spots on each flank that it missed, about so many.
    """

    colour: str = "yellow"
    film: float = 3.5
    streaks: float = 0.15
    left: float = 0.05
    border: float = 0.3
    feather: float = 0.1
    missed: float = 0.1
    missed_on_flank: float = 0.0


def coat(
    paint: Paint,
    outlines: Mapping[int, Sequence[Sequence[tuple[float, float]]]],
    *,
    convex: bool,
    painted: tuple[int, int],
    drawn: Any,
    draw: np.random.Generator,
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Colour of the ground, of every pixel of the ring gear, and how it shines.

    :param paint: the compound.
    :param outlines: what is wiped on the flank that is looked at, by tooth.
    :param convex: that flank is the convex one.
    :param painted: first and last tooth with compound.
    :param drawn: which surface each pixel shows.
    :param draw: source of chance.
    :returns: linear colours (height, width, 3) twice, and a share (height, width).
    :source: a film that lets light through by its thickness (Beer and Lambert).
    """
    metal = {name: np.array(value) for name, value in _COLOURS["metal"].items()}
    shape = drawn.face.shape
    blotch = ndimage.gaussian_filter(draw.normal(0, 1, (shape[0] // 8 + 2, shape[1] // 8 + 2)), 3)
    blotch = ndimage.zoom(blotch / blotch.std(), 8, order=1)[: shape[0], : shape[1]]
    ground = metal["ground"] * (1 + 0.35 * np.clip(blotch, -2, 2))[..., None]
    lines = _lines(draw)
    film = np.zeros(shape)
    grooves = np.zeros(shape)
    tops = _spots(draw, paint.missed, 0.06)
    for face in Face:
        for k in drawn.teeth:
            here = (drawn.face == face) & (drawn.tooth == k)
            if not here.any():
                continue
            at = np.stack([drawn.b[here] * (_UP - 1), drawn.a[here] * (_ALONG - 1)])
            grooves[here] = ndimage.map_coordinates(
                np.roll(lines, 17 * k, axis=1), at, order=1, mode="nearest"
            )
            if not paint.colour or not painted[0] <= k <= painted[1]:
                continue
            film[here] = ndimage.map_coordinates(
                _film(paint, face, k, outlines=outlines, convex=convex, tops=tops, draw=draw),
                at,
                order=1,
                mode="nearest",
            )
    steel = metal["steel"] * (1 + 0.16 * grooves)[..., None]
    hidden = 1 - np.exp(-np.maximum(film, 0))
    if not paint.colour:
        return ground, steel, np.ones(shape)
    # A thick film is a little darker and fuller in colour than a thin one.
    full = np.array(_COLOURS["paste"][paint.colour]) * (1.04 - 0.02 * np.clip(film, 0, 8))[..., None]
    colour = hidden[..., None] * full + (1 - hidden[..., None]) * steel
    return ground, colour, 1 - 0.6 * hidden


def _film(
    paint: Paint,
    face: Face,
    tooth: int,
    *,
    outlines: Mapping[int, Sequence[Sequence[tuple[float, float]]]],
    convex: bool,
    tops: np.ndarray,
    draw: np.random.Generator,
) -> np.ndarray:
    """Thickness of the film on one surface of one tooth, on a raster."""
    if face in (Face.HEEL_END, Face.TOE_END, Face.RIM):
        return np.asarray(paint.film * (_spots(draw, 0.5, 0.1) > 0.5) * 0.7)
    streaks = ndimage.gaussian_filter(draw.normal(0, 1, _RASTER), (2.0, 30.0))
    film = paint.film * np.exp(paint.streaks * streaks / streaks.std())
    if face is Face.TOP:
        # What the brush misses on one top it misses on the next in much the same place.
        return np.asarray(film * (1 - np.clip(tops + 0.3 * _spots(draw, paint.missed / 3, 0.06), 0, 1)))
    looked_at = face is (Face.CONVEX if convex else Face.CONCAVE)
    if looked_at and tooth in outlines:
        wiped, ring = wiped_share(outlines[tooth], paint.feather)
        film = film * (1 + paint.border * ring) * (1 - (1 - paint.left) * wiped)
    if draw.random() < paint.missed_on_flank:
        film = film * (1 - _one_spot(draw))
    return np.asarray(film)


def wiped_share(
    outlines: Sequence[Sequence[tuple[float, float]]], feather: float
) -> tuple[np.ndarray, np.ndarray]:
    """How far each place of a flank is wiped, and how far it lies just beside what is, on a raster.

    :param outlines: closed lines (u, v).
    :param feather: width of the edge, share of the height.
    :returns: shares, each of the raster's shape: rows from the root up.
    :source: the even-odd rule, softened.
    """
    u, v = np.meshgrid(np.linspace(0, 1, _ALONG), np.linspace(0, 1, _UP))
    inside = np.zeros(_RASTER, dtype=bool)
    for line in outlines:
        corners = np.array(line)
        for (u0, v0), (u1, v1) in zip(corners, np.roll(corners, -1, axis=0), strict=True):
            if v0 != v1:
                inside ^= ((v0 > v) != (v1 > v)) & (u < (u1 - u0) * (v - v0) / (v1 - v0) + u0)
    # The edge is as wide in space along the tooth as up it.
    soft = ndimage.gaussian_filter(inside.astype(float), (feather * _UP / 2, feather * _ALONG / 8))
    beside = ndimage.gaussian_filter(inside.astype(float), (8.0, 9.0)) * (1 - soft)
    return soft, np.asarray(beside / max(beside.max(), 1e-9))


def _lines(draw: np.random.Generator) -> np.ndarray:
    """Grinding lines along the tooth, about −1 to 1."""
    fine = ndimage.gaussian_filter(draw.normal(0, 1, _RASTER), (0.6, 25.0))
    broad = ndimage.gaussian_filter(draw.normal(0, 1, _RASTER), (6.0, 40.0))
    return np.asarray(np.clip(0.7 * fine / fine.std() + 0.3 * broad / broad.std(), -2, 2) / 2)


def _spots(draw: np.random.Generator, share: float, size: float) -> np.ndarray:
    """Bare spots with hard edges over so large a share of a surface."""
    if share <= 0.01:
        return np.zeros(_RASTER)
    field = ndimage.gaussian_filter(draw.normal(0, 1, _RASTER), (size * _UP * 3, size * _ALONG))
    level = np.quantile(field, 1 - share)
    return np.asarray(1 / (1 + np.exp(-np.clip((field - level) / field.std() * 18, -50, 50))))


def _one_spot(draw: np.random.Generator) -> np.ndarray:
    """One bare spot at an edge of a flank, hard at its border."""
    u, v = np.meshgrid(np.linspace(0, 1, _ALONG), np.linspace(0, 1, _UP))
    cu = draw.choice([draw.uniform(0.0, 0.08), draw.uniform(0.92, 1.0)])
    cv, long, high = draw.uniform(0.2, 1.0), draw.uniform(0.02, 0.07), draw.uniform(0.05, 0.2)
    off = np.hypot((u - cu) / long, (v - cv) / high) + 0.15 * np.sin(9 * np.arctan2(v - cv, u - cu))
    return np.asarray(1 / (1 + np.exp(np.clip((off - 1) * 12, -50, 50))))
