"""Maps of a recording: time or speed across, frequency up, with the axle's orders drawn over them."""

from __future__ import annotations

import io
from collections.abc import Sequence
from typing import Final

import numpy as np
from PIL import Image, ImageDraw

from axle.noise.recording import Mapped

SIZE: Final = (800, 320)
_DARK, _PALE, _LINE = (27, 42, 56), (251, 250, 246), (196, 54, 27)


def time_map(mapped: Mapped, orders: Sequence[float]) -> bytes:
    """A PNG of levels by time and frequency.

    :param orders: drawn over it, where the speed puts them.
    """
    return _drawn(mapped.levels, np.array(mapped.turns), mapped.highest, orders)


def speed_map(mapped: Mapped, orders: Sequence[float]) -> bytes:
    """A PNG of levels by speed and frequency: what turns lies on a ray, what rings on a level line.

    :param orders: drawn over it.
    """
    turns = np.linspace(mapped.slowest, mapped.fastest, max(len(mapped.by_speed[0]), 2))
    return _drawn(mapped.by_speed, turns, mapped.highest, orders)


def _drawn(
    rows: Sequence[Sequence[int]], turns: np.ndarray, highest: float, orders: Sequence[float]
) -> bytes:
    levels = np.array(rows, dtype=float)[::-1]
    share = np.clip((levels + 4) / 24, 0, 1)[..., np.newaxis]
    colours = (1 - share) * np.array(_PALE) + share * np.array(_DARK)
    picture = Image.fromarray(colours.astype(np.uint8)).resize(SIZE, Image.Resampling.BILINEAR)
    draw = ImageDraw.Draw(picture)
    x = np.linspace(0, SIZE[0] - 1, len(turns))
    for order in orders:
        y = SIZE[1] * (1 - order * turns / highest)
        for at in range(0, len(x) - 1, 2):
            if 0 < y[at] < SIZE[1] and 0 < y[at + 1] < SIZE[1]:
                draw.line([(x[at], y[at]), (x[at + 1], y[at + 1])], fill=_LINE, width=2)
    out = io.BytesIO()
    picture.save(out, "PNG")
    return out.getvalue()


def pointed_at(mapped: Mapped, x: int, y: int) -> tuple[float, float]:
    """The moment [s] and the frequency [Hz] at a place of the picture."""
    across = min(max(x, 0), SIZE[0]) / SIZE[0]
    up = 1 - min(max(y, 0), SIZE[1]) / SIZE[1]
    return across * mapped.seconds, up * mapped.highest
