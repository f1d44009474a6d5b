"""Runout around the ring, exaggerated: readings, first order, high spot, bolt holes, expectation."""

from __future__ import annotations

import cmath
import math

from axle.measure.units import Unit, show
from axle.runout import Runout
from shop.drawing.svg import Svg, number

_SIZE, _MIDDLE = 520, 260
_BASE, _REACH, _BOLTS, _NUMBERS = 132, 58, 240, 213
# More places than this leave no room for their numbers.
_NUMBERED = 24


def polar(run: Runout, unit: Unit, bolts: int, expected: complex | None = None) -> Svg:
    """Draw a run as distance from a circle; what is only expected is dashed and hollow."""
    svg = Svg(
        _SIZE,
        _SIZE,
        label=f"Runout at {run.places} places, {show(run.total, unit)} {unit.symbol}",
        name="polar",
    )
    middle = sum(run.readings) / run.places
    away = max([*(abs(v - middle) for v in run.readings), abs(expected or 0), 1e-6])
    scale = _REACH / away
    svg.circle("thin", _MIDDLE, _MIDDLE, _BOLTS)
    svg.circle("axis", _MIDDLE, _MIDDLE, _BASE)
    _bolt_holes(svg, bolts)
    if expected is not None:
        svg.path("expected", _curve(expected, scale))
    first = run.order(1)
    if first is not None:
        svg.path("target", _curve(first.vector, scale))
    doubtful = {doubt.place for doubt in run.doubts}
    for place, value in enumerate(run.readings, start=1):
        a = math.tau * (place - 1) / run.places
        radius = _BASE + (value - middle) * scale
        x, y = _at(a, radius)
        bx, by = _at(a, _BASE)
        svg.path("tick", f"M{number(bx)} {number(by)} L{number(x)} {number(y)}")
        if place in doubtful:
            svg.polygon("doubt", [(x, y - 11), (x + 10, y + 7), (x - 10, y + 7)])
        else:
            svg.circle("ink", x, y, 5)
        if run.places <= _NUMBERED:
            tx, ty = _at(a, _NUMBERS)
            svg.text("title", tx, ty + 5, str(place), text_anchor="middle", font_size="13")
    if first is not None:
        _high_spot(svg, first.angle)
        words = f"high spot {math.degrees(first.angle):.0f}°"
        svg.text("unit", _MIDDLE, _MIDDLE + 42, words, text_anchor="middle", font_size="15")
    text = show(run.total, unit)
    svg.text("value", _MIDDLE, _MIDDLE - 4, text, text_anchor="middle", font_size="44")
    svg.text(
        "unit", _MIDDLE, _MIDDLE + 19, f"{unit.symbol} indicated", text_anchor="middle", font_size="15"
    )
    return svg


def places_around(places: int, bolts: int) -> Svg:
    """The ring before it is read: where the places lie, the mark at the top, and the bolt holes.

    :param places: that are read, 3 or more.
    :param bolts: of the ring gear.
    """
    svg = Svg(_SIZE, _SIZE, label=f"{places} places around the ring, place 1 at the mark", name="polar")
    svg.circle("thin", _MIDDLE, _MIDDLE, _BOLTS)
    svg.circle("axis", _MIDDLE, _MIDDLE, _BASE)
    _bolt_holes(svg, bolts)
    for place in range(1, places + 1):
        a = math.tau * (place - 1) / places
        x, y = _at(a, _BASE)
        svg.circle("in-hand" if place == 1 else "wanting", x, y, 9)
        if places <= _NUMBERED:
            tx, ty = _at(a, _NUMBERS)
            svg.text("title", tx, ty + 6, str(place), text_anchor="middle", font_size="17")
    _high_spot(svg, 0.0)
    for line, words in enumerate(("mark at the top,", "places clockwise")):
        svg.text("unit", _MIDDLE, _MIDDLE + 22 * line, words, text_anchor="middle", font_size="17")
    return svg


def _bolt_holes(svg: Svg, bolts: int) -> None:
    for bolt in range(bolts):
        x, y = _at(math.tau * bolt / bolts, _BOLTS)
        svg.circle("void", x, y, 10)
        svg.text("place", x, y + 5, str(bolt + 1), text_anchor="middle", font_size="13", font_weight="600")


def _high_spot(svg: Svg, angle: float) -> None:
    """A wedge outside the readings that points to the high spot."""
    tip = _at(angle, _BASE + _REACH + 4)
    left, right = _at(angle - 0.08, _NUMBERS - 9), _at(angle + 0.08, _NUMBERS - 9)
    svg.polygon("in-hand", [tip, left, right])


def _curve(vector: complex, scale: float) -> str:
    size, phase = cmath.polar(vector)
    points = []
    for step in range(73):
        a = math.tau * step / 72
        points.append(_at(a, _BASE + size * math.cos(a - phase) * scale))
    return "M" + " L".join(f"{number(x)} {number(y)}" for x, y in points) + "Z"


def _at(angle: float, radius: float) -> tuple[float, float]:
    return _MIDDLE + radius * math.sin(angle), _MIDDLE - radius * math.cos(angle)
