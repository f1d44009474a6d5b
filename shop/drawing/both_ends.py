"""How far the front axle lies from the rear one, with what is not known, against one per cent."""

from __future__ import annotations

from typing import Final

from axle.gearing.both_ends import CLOSE, BothEnds
from shop.drawing.axis import Axis
from shop.drawing.svg import Svg, number

_WIDE: Final = 460
_HIGH: Final = 92
_AXIS: Final = 44
# The drawing shows so many times the limit either way, at least.
_AROUND: Final = 2.0


def both_ends_bar(ends: BothEnds) -> Svg:
    """Draw the difference as a dot, twice its uncertainty as a bar, the limit as a band."""
    svg = Svg(_WIDE, _HIGH, label=f"Front against rear: {ends.apart * 100:.2f} %", name="both-ends")
    low, high = ends.interval
    reach = max(_AROUND * CLOSE, abs(low), abs(high)) * 1.1
    x = Axis(-reach, reach, 20.0, _WIDE - 20.0)
    svg.rect("band", x.at(-CLOSE), _AXIS - 20, x.at(CLOSE) - x.at(-CLOSE), 40)
    svg.path("tick-strong", f"M20 {_AXIS} H{_WIDE - 20}")
    for value, words in ((-CLOSE, "−1 %"), (0.0, "0"), (CLOSE, "+1 %")):
        svg.path("tick", f"M{number(x.at(value))} {_AXIS - 20} v40")
        svg.text("title", x.at(value), _AXIS + 36, words, text_anchor="middle")
    svg.rect("shim-pale", x.at(low), _AXIS - 7, max(x.at(high) - x.at(low), 3.0), 14)
    svg.circle("in-hand", x.at(ends.apart), _AXIS, 8)
    svg.text("title", 20, 14, "front faster")
    svg.text("title", _WIDE - 20, 14, "front slower", text_anchor="end")
    return svg
