"""Temperatures of a housing over a drive, by place, against what is usual."""

from __future__ import annotations

from typing import Final

from axle.measure.figures import TEMPERATURE
from axle.road.temperatures import Heat, limits, places
from shop.drawing.axis import Axis
from shop.drawing.svg import Svg, number

_WIDE: Final = 620
_HIGH: Final = 330
_LEFT: Final = 56
_RIGHT: Final = 150
_TOP: Final = 16
_FOOT: Final = 282
# Signs of the places, in their order: each has its own shape, not only its own colour.
_SIGNS: Final = ("in-hand", "void", "dark", "wanting", "wear")
_APART: Final = 18.0


def heat_chart(heat: Heat, *, metric: bool) -> Svg:
    """Draw one drive.

    :param heat: what was read.
    :param metric: the reader thinks in °C.
    """
    svg = Svg(
        _WIDE, _HIGH, label=f"Temperatures of {len(heat.curves)} places over the drive", name="heat-chart"
    )
    points = [point for curve in heat.curves for point in curve.points]
    last = max([minute for minute, _ in points], default=0.0)
    x = Axis(0.0, max(last * 1.08, 20.0), _LEFT, _WIDE - _RIGHT)
    lowest = min([celsius for _, celsius in points], default=0.0)
    y = Axis(min(lowest, 0.0), max([limits().stop * 1.1, *(celsius for _, celsius in points)]), _FOOT, _TOP)
    svg.rect("gap", _LEFT, y.at(y.high), x.end - _LEFT, y.at(limits().stop) - y.at(y.high))
    for value, words in ((limits().stop, "stop"), (limits().watch, "watch it")):
        svg.path(
            "needle" if words == "stop" else "expected", f"M{_LEFT} {number(y.at(value))} H{number(x.end)}"
        )
        svg.text("title", x.end + 8, y.at(value) + 5, f"{words} {TEMPERATURE.show(value, metric=metric)}")
    _axes(svg, x, y, metric=metric)
    ends: list[float] = []
    order = list(places())
    for curve in sorted(heat.curves, key=lambda curve: -curve.last):
        sign = _SIGNS[order.index(curve.place) % len(_SIGNS)]
        at = [(x.at(minute), y.at(celsius)) for minute, celsius in curve.points]
        svg.path("tick-strong", "M" + " L".join(f"{number(a)} {number(b)}" for a, b in at))
        for a, b in at:
            svg.circle(sign, a, b, 6)
        end = at[-1][1] + 5
        while any(abs(end - other) < _APART for other in ends):
            end += _APART
        ends.append(end)
        name = places()[curve.place].short
        svg.text("words", at[-1][0] + 12, end, f"{name} {TEMPERATURE.show(curve.last, metric=metric)}")
    return svg


def _axes(svg: Svg, x: Axis, y: Axis, *, metric: bool) -> None:
    svg.path("tick-strong", f"M{_LEFT} {_TOP} V{_FOOT} H{number(x.end)}")
    for minute in x.ticks(7):
        svg.path("tick", f"M{number(x.at(minute))} {_FOOT} v5")
        svg.text("title", x.at(minute), _FOOT + 20, f"{minute:g}", text_anchor="middle")
    symbol = "°C" if metric else "°F"
    factor, offset = TEMPERATURE.units[symbol.lower()]
    shown = Axis((y.low - offset) / factor, (y.high - offset) / factor, y.start, y.end)
    for value in shown.ticks(6):
        svg.text("title", _LEFT - 8, shown.at(value) + 5, f"{value:g}", text_anchor="end")
        svg.path("tick", f"M{_LEFT - 4} {number(shown.at(value))} h4")
    svg.text("title", x.end, _FOOT + 40, f"{symbol} against minutes of driving", text_anchor="end")
