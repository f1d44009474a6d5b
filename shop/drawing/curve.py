"""Rotating torque against the pack or the nut: the fitted curve, its band, the range, the trials."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

from axle.measure.range import Range
from axle.measure.units import Unit, brief, show
from shop.drawing.svg import Svg, number

_WIDE: Final = 430
_HIGH: Final = 320
_LEFT: Final = 40
_RIGHT: Final = 14
_TOP: Final = 18
_FOOT: Final = 262


@dataclass(frozen=True)
class Dot:
    """One trial or bite: where, and what was read; end play stands below the line."""

    x: float
    torque: float | None
    play: float | None = None
    alike: bool = True


@dataclass(frozen=True)
class Plot:
    """What is drawn; torques in N·m, x as it is labelled.

    :param xs: places along the curve.
    :param low: bottom of what is held possible two times in three.
    :param middle: the curve.
    :param high: top of it.
    :param dots: what was read, oldest first.
    :param limits: range of the torque, or nothing.
    :param expected: (x, torque) of the next trial, or nothing.
    :param label: of the x axis.
    :param marks: (x, words) along the x axis.
    """

    xs: Sequence[float]
    low: Sequence[float]
    middle: Sequence[float]
    high: Sequence[float]
    dots: Sequence[Dot]
    limits: Range | None
    expected: tuple[float, float] | None
    label: str
    marks: Sequence[tuple[float, str]]


def curve(plot: Plot, unit: Unit) -> Svg:
    """Draw it; what is expected is hollow and dashed, never like a reading."""
    svg = Svg(_WIDE, _HIGH, label=f"Rotating torque in {unit.symbol} against {plot.label}", name="curve")
    at = [
        *plot.xs,
        *(dot.x for dot in plot.dots if dot.alike),
        *((plot.expected[0],) if plot.expected else ()),
    ]
    left, right = min(at), max(at)
    width = (right - left) or 1.0
    torques = [dot.torque for dot in plot.dots if dot.torque is not None and dot.alike]
    top = 1.15 * max([*torques, *((plot.limits.upper * 1.35,) if plot.limits else ()), *plot.middle, 0.5])
    if plot.limits:
        top = min(top, max(2.6 * plot.limits.upper, 1.15 * max(torques, default=0.0)))

    def x(value: float) -> float:
        across: float = (value - left) / width * (_WIDE - _LEFT - _RIGHT)
        return _LEFT + across

    def y(torque: float) -> float:
        up: float = min(torque, top) / top * (_FOOT - _TOP)
        return _FOOT - up

    if plot.limits:
        svg.rect(
            "band",
            _LEFT,
            y(min(plot.limits.high, top)),
            _WIDE - _LEFT - _RIGHT,
            y(plot.limits.low) - y(min(plot.limits.high, top)),
        )
        for limit in (plot.limits.low, plot.limits.high):
            if limit == float("inf"):
                continue
            svg.text("title", _LEFT - 6, y(limit) + 5, brief(limit, unit), text_anchor="end")
    if plot.xs:
        upper = [(x(a), y(t)) for a, t in zip(plot.xs, plot.high, strict=True)]
        lower = [(x(a), y(t)) for a, t in zip(plot.xs, plot.low, strict=True)]
        svg.polygon("curve-band", [*upper, *reversed(lower)])
        svg.path("tick-strong", _joined([(x(a), y(t)) for a, t in zip(plot.xs, plot.middle, strict=True)]))
    svg.path("tick-strong", f"M{_LEFT} {_TOP} V{_FOOT} H{_WIDE - _RIGHT}")
    svg.text("title", _LEFT - 6, _FOOT + 5, "0", text_anchor="end")
    for place, words in plot.marks:
        svg.path("tick", f"M{number(x(place))} {_FOOT} v6")
        svg.text("title", x(place), _FOOT + 21, words, text_anchor="middle")
    for count, dot in enumerate((d for d in plot.dots if left <= d.x <= right), start=1):
        _dot(svg, dot, count=count, x=x(dot.x), y=y(dot.torque or 0.0), unit=unit)
    if plot.expected:
        place, torque = plot.expected
        svg.circle("expected", x(place), y(torque), 9)
        svg.text(
            "title",
            x(place) + 13,
            y(torque) + 5,
            f"expected {show(torque, unit)}",
            **({"text_anchor": "end", "dx": "-26"} if x(place) > _WIDE - 150 else {}),
        )
    svg.text("title", 4, _HIGH - 24, f"{unit.symbol} against {plot.label}")
    svg.text("title", 4, _HIGH - 6, "yellow: two times in three; green: the range")
    return svg


def _dot(svg: Svg, dot: Dot, count: int, x: float, y: float, unit: Unit) -> None:
    """A trial with its number; end play as a mark on the foot, what is left out as a cross."""
    if not dot.alike:
        svg.path("needle", f"M{number(x - 6)} {number(y - 6)} l12 12 m0 -12 l-12 12")
        return
    if dot.torque is None:
        svg.polygon("wanting", [(x, _FOOT - 2), (x - 7, _FOOT - 15), (x + 7, _FOOT - 15)])
        svg.text("title", x, _FOOT - 20, "play", text_anchor="middle")
        return
    svg.circle("in-hand", x, y, 7)
    beside = x < _LEFT + 16  # on the axis a number would be crossed out by it
    svg.text(
        "place",
        x + (10 if beside else 0),
        y - 13,
        show(dot.torque, unit),
        font_size="16",
        font_weight="600",
        text_anchor="start" if beside else "middle",
    )
    svg.text("title", x + 14, y + 16, f"{count}", text_anchor="middle", font_size="12")


def _joined(points: Sequence[tuple[float, float]]) -> str:
    return "M" + " L".join(f"{number(x)} {number(y)}" for x, y in points)
