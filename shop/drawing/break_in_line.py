"""The legs of a break-in along their days."""

from __future__ import annotations

from typing import Final

from axle.road.break_in import BreakIn
from shop.drawing.svg import Svg

_WIDE: Final = 760
_ROW: Final = 46
_TOP: Final = 10
_WORDS: Final = 250


def break_in_line(break_in: BreakIn) -> Svg:
    """Draw one row for each leg: done with a tick, the next one filled, its cool-down hatched behind it."""
    high = _TOP * 2 + _ROW * len(break_in.legs)
    svg = Svg(_WIDE, high, label=f"Break-in of {len(break_in.legs)} legs", name="break-in-line")
    following = break_in.next
    first, last = break_in.legs[0].due, break_in.legs[-1].due
    span = max((last - first).days, 1)
    room = _WIDE - _WORDS - 200
    for index, leg in enumerate(break_in.legs):
        y = _TOP + index * _ROW
        x = _WORDS + (leg.due - first).days / span * room
        style = "bar" if leg.done else "bar-begun" if leg is following else "wanting"
        if leg.leg.km:
            # A distance ends on its day.
            start = _WORDS + (break_in.legs[index - 1].due - first).days / span * room if index else _WORDS
            svg.rect(style, start, y + 8, max(x - start, 26.0), 24)
        else:
            svg.rect(style, x, y + 8, 26.0, 24)
            if leg.leg.cool:
                svg.rect("curve-band", x + 26, y + 12, 18.0, 16)
        sign = "✓" if leg.done else "▲" if leg is following else "○"
        svg.text("yes" if leg.done else "words", 6, y + 27, f"{sign} {leg.number}. {leg.leg.title}")
        svg.text("title", max(x, _WORDS) + 54, y + 26, f"{leg.due:%a} {leg.due.day} {leg.due:%b}")
    return svg
