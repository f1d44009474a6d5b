"""The shim drawer as its bins: the pieces of each size to scale, and the packs that they make."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from html import escape
from typing import Final

from axle.measure.units import Unit, brief
from axle.shims.coverage import Coverage
from shop.drawing.svg import Svg, number

_CELL, _HIGH, _PER_ROW = 112, 116, 10
_STACK_TOP, _STACK_FOOT, _STACK_WIDE = 8.0, 62.0, 74.0
_MOST_DRAWN: Final = 6
_STRIP_WIDE, _STRIP_HIGH, _STRIP_LEFT, _STRIP_BASE = 1120, 74, 10, 44
_END_LABELS: Final = 5


@dataclass(frozen=True)
class Bin:
    """One size in the drawer.

    :param size: as shown.
    :param thickness: of one piece [mm].
    :param count: pieces that are here.
    :param place: which bin, in words.
    :param note: what else is to be said of it: where others are, or that it runs low.
    :param link: its page.
    :param low: it runs low, or is gone.
    :param off: damaged, and not used.
    """

    size: str
    thickness: float
    count: int
    place: str
    note: str
    link: str
    low: bool = False
    off: bool = False


def bins(family: str, shown: Sequence[Bin]) -> str:
    """Draw the bins of one family, thin to thick.

    :param family: its name, for who does not see the picture.
    :param shown: its sizes.
    """
    rows = -(-len(shown) // _PER_ROW)
    svg = Svg(
        _CELL * _PER_ROW, max(rows, 1) * _HIGH, label=f"{family}: the bins", name="bins", role="group"
    )
    thickest = max((one.thickness for one in shown), default=1.0)
    # Six of the thickest fill a bin; what is too thin to be seen is drawn as thin as can be seen.
    scale = (_STACK_FOOT - _STACK_TOP - 6) / (_MOST_DRAWN * thickest)
    for index, one in enumerate(shown):
        _bin(svg, one, index % _PER_ROW * _CELL, index // _PER_ROW * _HIGH, scale)
    return str(svg)


def _bin(svg: Svg, one: Bin, x: float, y: float, scale: float) -> None:
    spoken = f"{one.size}: {one.count} here{', ' + one.note if one.note else ''}"
    state = "is-off" if one.off else "is-low" if one.low else "is-kept"
    svg.raw(f'<a href="{escape(one.link)}" class="bin {state}" aria-label="{escape(spoken)}">')
    svg.rect("bin", x + 3, y + 2, _CELL - 6, _HIGH - 6, rx="3")
    left, foot = x + (_CELL - _STACK_WIDE) / 2, y + _STACK_FOOT
    high = max(one.thickness * scale, 1.6)
    for piece in range(min(one.count, _MOST_DRAWN)):
        foot -= high + 1
        svg.rect("shim" if piece % 2 == 0 else "shim-pale", left, foot, _STACK_WIDE, high)
    if one.off or one.low:
        svg.text("bin-size", x + 12, y + 28, "✗" if one.off else "▲")
    svg.text("bin-size", x + 12, y + 90, one.size)
    svg.text("bin-count", x + _CELL - 12, y + 90, f"×{one.count}", text_anchor="end")
    svg.text("bin-note", x + 12, y + 106, one.place)
    svg.text("bin-note", x + _CELL - 12, y + 106, one.note, text_anchor="end")
    svg.raw("</a>")


def strip(found: Coverage, unit: Unit) -> str:
    """Every pack that can be made on one line, and the gaps between them.

    :param found: what can be made.
    :param unit: of its ends.
    """
    ends = f"{brief(found.low, unit)} to {brief(found.high, unit)} {unit.symbol}"
    label = f"{len(found.made)} packs from {ends}, {len(found.gaps)} gaps"
    svg = Svg(_STRIP_WIDE, _STRIP_HIGH, label=label, name="coverage")
    low, wide = float(found.low), float(found.high - found.low)
    scale = (_STRIP_WIDE - 2 * _STRIP_LEFT) / wide

    def x(thickness: float) -> float:
        return _STRIP_LEFT + (thickness - low) * scale

    for gap in found.gaps:
        begin, end = x(float(gap.low)), x(float(gap.high))
        svg.rect("gap", begin, 12, max(end - begin, 1.5), _STRIP_BASE - 12)
    for made in found.made:
        tall = max(30 - 5 * (made.pieces - 1), 6)
        style = "tick-strong" if made.pieces <= 2 else "tick"
        svg.path(style, f"M{number(x(float(made.thickness)))} {_STRIP_BASE} v-{tall}")
    svg.path("tick-strong", f"M{_STRIP_LEFT} {_STRIP_BASE} H{_STRIP_WIDE - _STRIP_LEFT}")
    for step in range(_END_LABELS):
        at = low + wide * step / (_END_LABELS - 1)
        anchor = "start" if step == 0 else "end" if step == _END_LABELS - 1 else "middle"
        svg.text("words", x(at), _STRIP_BASE + 22, f"{brief(at, unit)} {unit.symbol}", text_anchor=anchor)
    return str(svg)
