"""Backlash around the ring gear: its range as a band, the tight spot, and its wave once a turn."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass

from axle.backlash.around import Wave
from axle.measure.range import Range
from axle.measure.units import Unit, brief, show
from shop.drawing.svg import Svg, number

_SIZE, _MIDDLE = 500, 250
_HUB, _REACH, _RIM = 56, 110, 172
# Where the range is written: between the first two places.
_BESIDE = 0.42 * math.tau


@dataclass(frozen=True)
class LashShown:
    """What the picture shows.

    :param places: backlash by place [mm].
    :param count: number of places around the ring.
    :param limits: range [mm], or nothing.
    :param in_hand: the place that is read now, or nothing.
    :param wave: first order, or nothing.
    :param doubtful: places whose reading is not judged.
    :param expected: smallest backlash expected of the next move [mm], or nothing.
    :param ring_teeth: N2, for the tooth of the tight spot.
    """

    places: Mapping[int, float]
    count: int
    limits: Range | None = None
    in_hand: int | None = None
    wave: Wave | None = None
    doubtful: frozenset[int] = frozenset()
    expected: Range | None = None
    ring_teeth: int = 0


def lash_around(shown: LashShown, unit: Unit) -> Svg:
    """Draw backlash as distance from the middle; what is only expected is hollow and dashed."""
    svg = Svg(
        _SIZE,
        _SIZE,
        label=f"Backlash at {shown.count} places around the ring gear, {unit.symbol}",
        name="lash",
    )
    top = max([*shown.places.values(), *_ends(shown.limits), *_ends(shown.expected), 1e-6])

    def reach(value: float) -> float:
        return _HUB + _REACH * max(value, 0.0) / top

    svg.circle("thin", _MIDDLE, _MIDDLE, _RIM + 14)
    for tooth in range(shown.ring_teeth):
        a = math.tau * tooth / shown.ring_teeth
        svg.path("thin", f"M{_point(a, _RIM + 10)} L{_point(a, _RIM + 14)}")
    if shown.limits is not None:
        outer, inner = reach(shown.limits.upper), reach(shown.limits.low)
        svg.path("band", _disc(outer) + _disc(inner), fill_rule="evenodd")
        for end, radius in ((shown.limits.high, outer), (shown.limits.low, inner)):
            if not math.isfinite(end):
                continue
            x, y = _at(_BESIDE / shown.count, radius + 3)
            svg.text("title", x, y, brief(end, unit), font_size="17")
    svg.circle("axis", _MIDDLE, _MIDDLE, _HUB)
    if shown.wave is not None:
        mean = sum(shown.places.values()) / len(shown.places)
        svg.path("target", _wave(shown.wave, mean, reach))
    if shown.expected is not None:
        for end in (shown.expected.low, shown.expected.high):
            svg.circle("expected", _MIDDLE, _MIDDLE, reach(end))
    tight = min(shown.places, key=lambda p: shown.places[p]) if shown.places else None
    for place in range(1, shown.count + 1):
        _place(svg, shown, unit=unit, place=place, reach=reach, is_tight=place == tight)
    if shown.places:
        smallest = min(shown.places.values())
        svg.text("value", _MIDDLE, _MIDDLE + 10, show(smallest, unit), text_anchor="middle", font_size="46")
        svg.text("unit", _MIDDLE, _MIDDLE + 28, "smallest", text_anchor="middle", font_size="16")
    else:
        svg.text("unit", _MIDDLE, _MIDDLE + 5, "none read", text_anchor="middle", font_size="15")
    return svg


def _place(
    svg: Svg, shown: LashShown, unit: Unit, place: int, reach: Callable[[float], float], *, is_tight: bool
) -> None:
    a = math.tau * (place - 1) / shown.count
    value = shown.places.get(place)
    radius = reach(value) if value is not None else _HUB + _REACH / 2
    x, y = _at(a, radius)
    if value is not None:
        svg.path("tick", f"M{_point(a, _HUB)} L{number(x)} {number(y)}")
    if place == shown.in_hand:
        svg.circle("in-hand", x, y, 9)
    elif value is None:
        svg.circle("wanting", x, y, 6)
    elif place in shown.doubtful:
        svg.polygon("doubt", [(x, y - 10), (x + 9, y + 7), (x - 9, y + 7)])
    else:
        svg.circle("ink", x, y, 6)
    if is_tight:
        tip, left, right = _at(a, _RIM + 6), _at(a - 0.06, _RIM + 24), _at(a + 0.06, _RIM + 24)
        svg.polygon("in-hand", [tip, left, right])
    tx, ty = _at(a, _RIM + 46)
    words = show(value, unit) if value is not None else "—"
    svg.text("place", tx, ty + 2, words, text_anchor="middle", font_size="26", font_weight="600")
    svg.text("title", tx, ty + 18, str(place), text_anchor="middle", font_size="15")


def _wave(wave: Wave, mean: float, reach: Callable[[float], float]) -> str:
    points = []
    for step in range(73):
        a = math.tau * step / 72
        points.append(_point(a, reach(mean - wave.amplitude * math.cos(a - wave.tight))))
    return "M" + " L".join(points) + "Z"


def _disc(radius: float) -> str:
    return f"M{_MIDDLE} {number(_MIDDLE - radius)}a{number(radius)} {number(radius)} 0 1 0 .01 0Z"


def _ends(limits: Range | None) -> list[float]:
    return [] if limits is None else [limits.low, limits.upper]


def _at(a: float, radius: float) -> tuple[float, float]:
    return _MIDDLE + radius * math.sin(a), _MIDDLE - radius * math.cos(a)


def _point(a: float, radius: float) -> str:
    x, y = _at(a, radius)
    return f"{number(x)} {number(y)}"
