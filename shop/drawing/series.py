"""A log of readings one after the other, with the limit they must not cross."""

from __future__ import annotations

from collections.abc import Sequence

from axle.measure.units import Unit, show
from shop.drawing.svg import Svg, number

_WIDE, _HIGH, _LEFT, _FOOT, _TOP = 640, 260, 62, 228, 20


def series(values: Sequence[float], limit: float | None, unit: Unit, title: str) -> Svg:
    """Draw readings as bars in the order in which they were taken; one over the limit is marked."""
    svg = Svg(_WIDE, _HIGH, label=f"{title}, {len(values)} readings in {unit.symbol}", name="series")
    top = max([*values, (limit or 0) * 1.25, 1e-6])
    scale = (_FOOT - _TOP) / top
    step = min((_WIDE - _LEFT - 12) / max(len(values), 1), 64)
    if limit is not None:
        y = _FOOT - limit * scale
        svg.path("needle", f"M{_LEFT} {number(y)} H{_WIDE - 8}")
        svg.text("title", _LEFT - 6, y + 5, show(limit, unit), text_anchor="end")
        svg.text("title", _WIDE - 10, y - 6, "limit", text_anchor="end")
    svg.path("tick-strong", f"M{_LEFT} {_FOOT} H{_WIDE - 8}")
    svg.text("title", _LEFT - 6, _FOOT + 5, "0", text_anchor="end")
    for index, value in enumerate(values):
        x = _LEFT + index * step + step * 0.18
        over = limit is not None and value > limit + 1e-9
        svg.rect("doubt" if over else "shim", x, _FOOT - value * scale, step * 0.64, value * scale)
        svg.text(
            "place",
            x + step * 0.32,
            _FOOT - value * scale - 6,
            f"▲{show(value, unit)}" if over else show(value, unit),
            text_anchor="middle",
            font_size="15",
            font_weight="600",
        )
    svg.text("title", _LEFT, _HIGH - 10, f"{title}, {unit.symbol}, oldest first")
    return svg
