"""Ratios along a line: sets that can be had, what is wanted, what a carrier takes, what a count allows."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

from shop.drawing.axis import Axis
from shop.drawing.svg import Svg, number

_WIDE: Final = 760
_HIGH: Final = 132
_EDGE: Final = 26
_AXIS: Final = 74
# Words of two sets stand so far apart at least.
_ROOM: Final = 58
# More sets than this are drawn as strokes.
_CROWD: Final = 20


@dataclass(frozen=True)
class RatioMark:
    """A set on the line.

    :param ratio: where.
    :param words: beside it.
    :param chosen: it is the one in hand.
    """

    ratio: float
    words: str
    chosen: bool = False


def ratio_line(
    marks: Sequence[RatioMark],
    *,
    wanted: tuple[float, str] | None = None,
    band: tuple[float, float] | None = None,
    band_words: str = "",
) -> Svg:
    """Draw the line; words that would lie on others are left out, the chosen one's never.

    :param marks: sets, the most important first.
    :param wanted: a ratio with what it is called.
    :param band: from and to: shaded.
    :param band_words: what the band is.
    """
    svg = Svg(_WIDE, _HIGH, label=f"{len(marks)} sets along their ratios", name="ratio-line")
    ends = [mark.ratio for mark in marks] + ([wanted[0]] if wanted else [])
    if band is not None and not ends:
        ends = list(band)
    low, high = min(ends), max(ends)
    room = max((high - low) * 0.08, 0.03 * high)
    if band is not None and band_words.startswith("the count"):
        low, high = min(low, band[0]), max(high, band[1])
    scale = Axis(low - room, high + room, _EDGE, _WIDE - _EDGE)
    if band is not None and band[1] > scale.low and band[0] < scale.high:
        left, right = scale.at(band[0]), scale.at(band[1])
        svg.rect("band", left, _AXIS - 20, max(right - left, 2.0), 40)
        svg.text("title", min(left + 4, _WIDE - 240), _AXIS - 26, band_words)
    svg.path("tick-strong", f"M{_EDGE} {_AXIS} H{_WIDE - _EDGE}")
    for tick in scale.ticks(8):
        svg.path("tick", f"M{number(scale.at(tick))} {_AXIS} v6")
        svg.text("title", scale.at(tick), _HIGH - 6, f"{tick:g}", text_anchor="middle")
    taken: list[float] = []
    crowded = len(marks) > _CROWD
    for mark in sorted(marks, key=lambda mark: not mark.chosen):
        at = scale.at(mark.ratio)
        if mark.chosen or not crowded:
            svg.circle("in-hand" if mark.chosen else "void", at, _AXIS, 9 if mark.chosen else 6)
        else:
            svg.path("tick-strong", f"M{number(at)} {_AXIS - 7} v14")
        if all(abs(at - other) >= _ROOM for other in taken):
            taken.append(at)
            svg.text("place", at, _AXIS + 30, mark.words, text_anchor="middle", font_size="18")
    if wanted is not None:
        at = scale.at(wanted[0])
        svg.polygon("ink", [(at, _AXIS - 12), (at - 8, _AXIS - 30), (at + 8, _AXIS - 30)])
        anchor = "end" if at > _WIDE - 200 else "start"
        svg.text("words", at + (-12 if anchor == "end" else 12), 22, wanted[1], text_anchor=anchor)
        svg.path("thin", f"M{number(at)} 26 V{_AXIS - 30}")
    return svg
