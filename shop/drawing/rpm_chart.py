"""Engine speed against road speed in every gear: as it was, and with the set in hand."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

from axle.gearing.speeds import Driveline
from axle.measure.figures import SPEED
from shop.drawing.axis import Axis
from shop.drawing.svg import Svg, number

_WIDE: Final = 620
_HIGH: Final = 342
_LEFT: Final = 58
_RIGHT: Final = 142
_TOP: Final = 18
_FOOT: Final = 292


@dataclass(frozen=True)
class RpmChart:
    """What is drawn; speeds in km/h.

    :param before: one driveline for each gear, as it was; empty where nobody knows.
    :param now: one for each gear with the set in hand.
    :param idle: of the engine [rpm], or nothing.
    :param peak: where it gives most torque [rpm], or nothing.
    :param limit: its largest speed [rpm], or nothing.
    :param cruise: speed [km/h], or nothing.
    :param top: the fastest that is drawn [km/h].
    :param metric: the reader thinks in km/h.
    """

    before: Sequence[Driveline]
    now: Sequence[Driveline]
    idle: float | None
    peak: float | None
    limit: float | None
    cruise: float | None
    top: float
    metric: bool


def rpm_chart(chart: RpmChart) -> Svg:
    """Draw it: the set in hand in full lines, what was before dashed."""
    svg = Svg(_WIDE, _HIGH, label="Engine speed against road speed in every gear", name="rpm-chart")
    highest = chart.limit or max(line.rpm(chart.top) for line in chart.now[-1:])
    x = Axis(0.0, chart.top, _LEFT, _WIDE - _RIGHT)
    y = Axis(0.0, highest * 1.06, _FOOT, _TOP)
    _limits(svg, chart, x, y)
    for line in chart.before:
        _gear(svg, "expected", line, x, y, highest)
    for index, line in enumerate(chart.now, start=1):
        end = _gear(svg, "tick-strong", line, x, y, highest)
        svg.text("place", end[0], end[1] - 4, str(index), text_anchor="middle", font_size="17")
    _axes(svg, chart, x, y)
    _cruise(svg, chart, x, y)
    return svg


def _gear(svg: Svg, style: str, line: Driveline, x: Axis, y: Axis, highest: float) -> tuple[float, float]:
    """One gear from standing to the engine's limit, or to the end of the drawing; gives its end."""
    speed = min(line.speed(highest), x.high)
    end = x.at(speed), y.at(line.rpm(speed))
    svg.path(style, f"M{number(_LEFT)} {number(_FOOT)} L{number(end[0])} {number(end[1])}")
    return end


def _limits(svg: Svg, chart: RpmChart, x: Axis, y: Axis) -> None:
    """What the engine says: idle, most torque, limit, each with its word at the right edge."""
    for rpm, style, words in (
        (chart.idle, "thin", "idle"),
        (chart.peak, "target", "most torque"),
        (chart.limit, "needle", "limit"),
    ):
        if rpm is None:
            continue
        at = y.at(rpm)
        svg.path(style, f"M{_LEFT} {number(at)} H{number(x.end)}")
        svg.text("title", x.end + 8, at + 5, f"{words} {rpm:,.0f}")


def _axes(svg: Svg, chart: RpmChart, x: Axis, y: Axis) -> None:
    svg.path("tick-strong", f"M{_LEFT} {_TOP} V{_FOOT} H{number(x.end)}")
    for rpm in y.ticks(6)[1:]:
        if rpm <= y.high:
            svg.text("title", _LEFT - 8, y.at(rpm) + 5, f"{rpm:,.0f}", text_anchor="end")
            svg.path("tick", f"M{_LEFT - 4} {number(y.at(rpm))} h4")
    factor = SPEED.units["km/h" if chart.metric else "mph"][0]
    shown = Axis(0.0, x.high / factor, x.start, x.end)
    for speed in shown.ticks(8)[1:]:
        svg.text("title", shown.at(speed), _FOOT + 20, f"{speed:.0f}", text_anchor="middle")
        svg.path("tick", f"M{number(shown.at(speed))} {_FOOT} v5")
    unit = "km/h" if chart.metric else "mph"
    svg.text(
        "title",
        x.end,
        _FOOT + 42,
        f"rpm against {unit}; full: this set, dashed: as it was",
        text_anchor="end",
    )


def _cruise(svg: Svg, chart: RpmChart, x: Axis, y: Axis) -> None:
    """Where the engine turns at cruise in top gear: before hollow, now filled."""
    if chart.cruise is None or not chart.now or not x.holds(chart.cruise):
        return
    at = x.at(chart.cruise)
    svg.path("axis", f"M{number(at)} {_FOOT} V{_TOP}")
    if chart.before:
        svg.circle("wanting", at, y.at(chart.before[-1].rpm(chart.cruise)), 8)
    rpm = chart.now[-1].rpm(chart.cruise)
    svg.circle("in-hand", at, y.at(rpm), 8)
    svg.text("place", at + 14, min(y.at(rpm) + 30, _FOOT - 8), f"{rpm:,.0f}", font_size="26")
