"""What a drawer could make, as a number line around the wanted thickness."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

from axle.measure.units import Unit, brief, show
from shop.drawing.svg import Svg, number

_WIDE: Final = 560
_HIGH: Final = 142
_LEFT: Final = 26
_BASE: Final = 88


@dataclass(frozen=True)
class Tick:
    """A thickness that can be made [mm], with how many pieces it takes."""

    thickness: float
    pieces: int


@dataclass(frozen=True)
class NumberLine:
    """What a number line shows.

    :param wanted: wanted thickness [mm].
    :param reach: how far either way it goes [mm].
    :param close: tolerance either way [mm].
    :param ticks: what can be made.
    :param fitted: what is in now [mm], or nothing.
    :param chosen: the pack that is offered [mm], or nothing.
    """

    wanted: float
    reach: float
    close: float
    ticks: Sequence[Tick]
    fitted: float | None = None
    chosen: float | None = None


def number_line(shown: NumberLine, unit: Unit) -> Svg:
    """Draw it: the taller a tick, the fewer pieces it is made of."""
    label = f"{len(shown.ticks)} thicknesses can be made around {show(shown.wanted, unit)} {unit.symbol}"
    svg = Svg(_WIDE, _HIGH, label=label, name="reach")
    scale = (_WIDE - 2 * _LEFT) / (2 * shown.reach)

    def x(thickness: float) -> float:
        return _LEFT + (thickness - shown.wanted + shown.reach) * scale

    svg.rect("band", x(shown.wanted - shown.close), 22, 2 * shown.close * scale, _BASE - 22)
    for tick in shown.ticks:
        tall = max(52 - 7 * (tick.pieces - 1), 8)
        style = "tick-strong" if tick.pieces <= 2 else "tick" if tick.pieces <= 4 else "hatch"
        svg.path(style, f"M{number(x(tick.thickness))} {_BASE} v-{tall}")
    svg.path("tick-strong", f"M{_LEFT} {_BASE} H{_WIDE - _LEFT}")
    svg.path("axis", f"M{number(x(shown.wanted))} 18 V{_BASE + 5}")
    svg.text(
        "title",
        x(shown.wanted),
        13,
        f"wanted {show(shown.wanted, unit)} {unit.symbol}",
        text_anchor="middle",
    )
    for end, anchor in ((shown.wanted - shown.reach, "start"), (shown.wanted + shown.reach, "end")):
        svg.text("title", x(end), _BASE + 19, brief(max(end, 0.0), unit), text_anchor=anchor)
    for value, words, low, style in (
        (shown.chosen, "offered", 0, "in-hand"),
        (shown.fitted, "in now", 19, "ink"),
    ):
        if value is not None and abs(value - shown.wanted) <= shown.reach:
            at = x(value)
            svg.polygon(style, [(at, _BASE + 2), (at - 6, _BASE + 13), (at + 6, _BASE + 13)])
            side = "start" if at < _WIDE / 2 else "end"
            svg.text(
                "title",
                at + (10 if side == "start" else -10),
                _BASE + 33 + low,
                f"{words} {show(value, unit)}",
                text_anchor=side,
            )
    return svg
