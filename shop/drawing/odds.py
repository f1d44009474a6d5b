"""Causes with their odds, as bars: those that axle work cures full, the others hollow."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

from axle.measure.units import percent
from shop.drawing.svg import Svg

_WIDE: Final = 460
_ROW: Final = 40
_WORDS: Final = 236
_FULL: Final = 150.0
_KEY: Final = "full: axle work cures it; hollow: it does not"


@dataclass(frozen=True)
class Bar:
    """One cause.

    :param title: what it is.
    :param chance: that it is behind the noise [1].
    :param axle: axle work cures it.
    """

    title: str
    chance: float
    axle: bool


def odds_bars(bars: Sequence[Bar], key: str = _KEY) -> Svg:
    """Draw the bars, likeliest first, each with its chance."""
    svg = Svg(
        _WIDE,
        _ROW * len(bars) + (30 if key else 6),
        label=f"{len(bars)} causes with their odds",
        name="odds",
    )
    for index, bar in enumerate(bars):
        y = index * _ROW
        svg.text("words", 4, y + 26, bar.title)
        svg.rect("in-hand" if bar.axle else "wanting", _WORDS, y + 8, max(bar.chance * _FULL, 2.0), 24)
        svg.text("place", _WORDS + bar.chance * _FULL + 8, y + 28, percent(bar.chance), font_size="22")
    if key:
        svg.text("title", 4, _ROW * len(bars) + 20, key)
    return svg
