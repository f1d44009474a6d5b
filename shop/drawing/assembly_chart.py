"""One value by assembly, with its range."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

from axle.measure.range import Range
from axle.measure.units import Unit, show
from shop.drawing.svg import Svg, number

_WIDE: Final = 240
_HIGH: Final = 112
_LEFT: Final = 32
_TOP: Final = 30
_FOOT: Final = 84
_LABEL: Final = 106


@dataclass(frozen=True)
class ByAssembly:
    """One value by assembly.

    :param title: what it is.
    :param points: (number of the assembly, value), in order.
    :param limits: its range, or nothing.
    :param unit: unit that is shown.
    """

    title: str
    points: Sequence[tuple[int, float]]
    limits: Range | None
    unit: Unit


def assembly_chart(shown: ByAssembly) -> Svg:
    """Draw a value by assembly: the band, a point for each, the newest in yellow.

    :param shown: what is drawn, with at least one point.
    """
    unit, limits = shown.unit, shown.limits
    words = ", ".join(f"assembly {n}: {show(v, unit)}" for n, v in shown.points)
    svg = Svg(_WIDE, _HIGH, label=f"{shown.title} in {unit.symbol}. {words}.", name="assembly-chart")
    values = [value for _, value in shown.points]
    ends = []
    if limits is not None:
        ends = [limits.low, limits.high] if limits.has_top else [limits.low]
    low, high = min([*values, *ends]), max([*values, *ends])
    span = (high - low) or max(abs(high), 1e-6)
    scale = (_FOOT - _TOP) / span

    def at(value: float) -> float:
        return _FOOT - (value - low) * scale

    if ends:
        top = at(ends[-1]) if len(ends) > 1 else _TOP
        svg.rect("band", _LEFT - 18, top, _WIDE - 2 * (_LEFT - 18), max(at(ends[0]) - top, 3))
    step = (_WIDE - 2 * _LEFT) / max(len(values) - 1, 1)
    places = [(_LEFT + index * step, at(value)) for index, value in enumerate(values)]
    if len(values) == 1:
        places = [(_WIDE / 2, places[0][1])]
    line = " L".join(f"{number(x)} {number(y)}" for x, y in places)
    svg.path("tick-strong", f"M{line}")
    for (count, value), (x, y) in zip(shown.points, places, strict=True):
        newest = count == shown.points[-1][0]
        out = limits is not None and not limits.holds(value)
        svg.circle("in-hand" if newest else "ink", x, y, 6 if newest else 4.5)
        svg.text(
            "place",
            x,
            y - 11,
            f"▲{show(value, unit)}" if out else show(value, unit),
            text_anchor="middle",
            font_size="20" if newest else "16",
            font_weight="600",
        )
        svg.text("title", x, _LABEL, str(count), text_anchor="middle")
    return svg
