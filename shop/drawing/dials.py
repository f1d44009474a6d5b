"""A gauge face with the range as an arc, backlash around the ring, and a pack to scale."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence

from axle.measure.range import Range
from axle.measure.units import Unit, show
from shop.drawing.svg import Svg, number

_SWEEP = 0.75 * math.pi


def gauge(value: float | None, limits: Range | None, unit: Unit, expected: Range | None = None) -> Svg:
    """Draw a dial: scale from zero, range as an arc, the reading as the needle.

    What is expected is a hollow dashed arc, never a needle.
    """
    factor = float(unit.factor)
    shown = [v / factor for v in _ends(limits) + ([value] if value is not None else [])]
    top = _round_up(max([*shown, 0.5 * 10**-unit.decimals * 10]) * 1.3)
    svg = Svg(210, 200, label=f"Dial in {unit.symbol}", name="gauge")
    svg.circle("face", 105, 102, 92)

    def angle(core: float) -> float:
        return -_SWEEP + 2 * _SWEEP * min(max(core / factor / top, 0), 1)

    if limits is not None:
        svg.path(
            "range", _arc(105, 102, radius=76, a=angle(limits.low), b=angle(min(limits.high, top * factor)))
        )
    if expected is not None:
        svg.path("expected", _arc(105, 102, radius=64, a=angle(expected.low), b=angle(expected.high)))
    for step in range(21):
        a = -_SWEEP + 2 * _SWEEP * step / 20
        strong = step % 5 == 0
        outer, inner = _polar(105, 102, 86, a), _polar(105, 102, 73 if strong else 80, a)
        svg.path("tick-strong" if strong else "tick", f"M{_point(outer)} L{_point(inner)}")
        if strong:
            x, y = _polar(105, 102, 54, a)
            svg.text(
                "dial",
                x,
                y + 6,
                f"{top * step / 20:g}",
                text_anchor="middle",
                font_size="17",
                font_weight="600",
                font_family="Barlow Condensed",
            )
    if value is not None:
        good = limits is None or limits.holds(value)
        tip = _polar(105, 102, 70, angle(value))
        svg.path("needle-ok" if good else "needle", f"M105 102 L{_point(tip)}")
    svg.circle("ink", 105, 102, 6)
    svg.text("title", 105, 186, unit.symbol, text_anchor="middle")
    return svg


def around(
    places: Mapping[int, float], count: int, limits: Range | None, unit: Unit, in_hand: int | None
) -> Svg:
    """Draw readings around the ring gear as distances from the centre, with the range as a band."""
    svg = Svg(
        226, 200, label=f"Readings at {count} places around the ring gear, {unit.symbol}", name="around"
    )
    cx, cy, reach = 113, 104, 64
    ends = _ends(limits) + list(places.values())
    scale = reach / max([*ends, 1e-6])
    if limits is not None:
        outer, inner = limits.upper * scale, limits.low * scale
        hole = f"M{cx} {number(cy - inner)}a{number(inner)} {number(inner)} 0 1 0 .01 0Z" if inner else ""
        svg.path(
            "band",
            f"M{cx} {number(cy - outer)}a{number(outer)} {number(outer)} 0 1 0 .01 0Z{hole}",
            fill_rule="evenodd",
        )
    middle = limits.aim * scale if limits else 46
    for place in range(1, count + 1):
        a = 2 * math.pi * (place - 1) / count
        core = places.get(place)
        radius = core * scale if core is not None else middle
        x, y = _polar(cx, cy, radius, a)
        if core is not None:
            svg.path("tick", f"M{cx} {cy} L{number(x)} {number(y)}")
        style = "in-hand" if place == in_hand else "ink" if core is not None else "wanting"
        svg.circle(style, x, y, 8 if place == in_hand else 6)
        sideways = math.sin(a)
        words = show(core, unit) if core is not None else f"{place}"
        # Beside the point where there is room, else above or below it.
        if abs(sideways) > 0.7:
            tx, ty, anchor = x + math.copysign(12, sideways), y + 6, "start" if sideways > 0 else "end"
        else:
            tx, ty, anchor = x, y - 12 if y < cy else y + 22, "middle"
        svg.text(
            "place",
            tx,
            ty,
            words,
            text_anchor=anchor,
            font_size="18",
            font_weight="600",
            font_family="Barlow Condensed",
        )
    svg.text("title", 4, 14, "places around")
    svg.text("title", 4, 30, "the ring gear")
    return svg


def stack(pieces: Sequence[float], unit: Unit, *, hollow: bool = False) -> Svg:
    """Draw a pack to scale, each piece with its size; a planned pack is hollow and dashed."""
    total = sum(pieces) or 1.0
    width, x = 300.0, 0.0
    svg = Svg(
        300,
        44,
        label=f"Pack of {len(pieces)} pieces, {show(sum(pieces), unit)} {unit.symbol}",
        name="stack",
    )
    for index, piece in enumerate(pieces):
        wide = piece / total * (width - 2)
        style = "expected" if hollow else ("shim", "shim-pale")[index % 2]
        svg.rect(style, x + 1, 2, wide, 40)
        if wide > 34:
            svg.text(
                "piece",
                x + 1 + wide / 2,
                28,
                show(piece, unit),
                text_anchor="middle",
                font_size="16",
                font_weight="600",
                font_family="Barlow Condensed",
            )
        x += wide
    return svg


def _ends(limits: Range | None) -> list[float]:
    return [] if limits is None else [limits.low, limits.upper]


def _polar(cx: float, cy: float, radius: float, a: float) -> tuple[float, float]:
    return cx + radius * math.sin(a), cy - radius * math.cos(a)


def _point(xy: tuple[float, float]) -> str:
    return f"{number(xy[0])} {number(xy[1])}"


def _arc(cx: float, cy: float, radius: float, a: float, b: float) -> str:
    large = 1 if b - a > math.pi else 0
    start, end = _polar(cx, cy, radius, a), _polar(cx, cy, radius, b)
    return f"M{_point(start)} A{radius} {radius} 0 {large} 1 {_point(end)}"


def _round_up(value: float) -> float:
    """The next 1, 2, 4, 5 or 10 times a power of ten: scales that divide into four."""
    if value <= 0:
        return 1.0
    power: float = 10.0 ** math.floor(math.log10(value))
    return next(step * power for step in (1, 2, 4, 6, 8, 10, 20) if step * power >= value * 0.999)
