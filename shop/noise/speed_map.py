"""The map of a recording: time across, frequency up, with the axle's orders drawn over it, as a picture."""

from __future__ import annotations

import io
from collections.abc import Sequence
from typing import Final

import numpy as np
from PIL import Image, ImageDraw

from axle.noise.recording import Mapped

SIZE: Final = (800, 320)
_DARK, _PALE, _LINE = (27, 42, 56), (251, 250, 246), (196, 54, 27)


def speed_map(mapped: Mapped, orders: Sequence[float]) -> bytes:
    """A PNG of it.

    :param orders: drawn over it, where the speed puts them.
    """
    levels = np.array(mapped.levels, dtype=float)[::-1]
    share = np.clip((levels + 4) / 24, 0, 1)[..., np.newaxis]
    colours = (1 - share) * np.array(_PALE) + share * np.array(_DARK)
    picture = Image.fromarray(colours.astype(np.uint8)).resize(SIZE, Image.Resampling.BILINEAR)
    draw = ImageDraw.Draw(picture)
    turns = np.array(mapped.turns)
    x = np.linspace(0, SIZE[0] - 1, len(turns))
    for order in orders:
        y = SIZE[1] * (1 - order * turns / mapped.highest)
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
