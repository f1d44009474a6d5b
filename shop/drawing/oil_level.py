"""Oil in a housing at its angle, filled to the hole."""

from __future__ import annotations

import math
from typing import Final

from axle.road.oil import OilLevel
from shop.drawing.svg import Svg, number

_WIDE: Final = 380
_HIGH: Final = 250
_CENTRE: Final = (200.0, 120.0)
_RADIUS: Final = 100.0


def oil_level(level: OilLevel) -> Svg:
    """Draw the bowl from the side, pinion to the left, turned by its angle; oil stands level."""
    svg = Svg(_WIDE, _HIGH, label="Oil in the housing, filled to its hole", name="oil-level")
    x, y = _CENTRE
    turn = math.degrees(level.pinion_up)
    stub = [(x - 196, y - 26), (x - 80, y - 50), (x - 80, y + 50), (x - 196, y + 26)]
    svg.polygon("steel", stub, transform=f"rotate({number(turn)} {x} {y})")
    svg.circle("void", x, y, _RADIUS)
    scale = _RADIUS / level.radius
    top = y - level.level * scale
    half = math.sqrt(max(_RADIUS**2 - (y - top) ** 2, 0.0))
    large = 1 if top < y else 0
    arc = f"A{_RADIUS} {_RADIUS} 0 {large} 0 {number(x + half)} {number(top)}"
    svg.path("wear", f"M{number(x - half)} {number(top)} {arc} Z")
    svg.path("tick-strong", f"M{number(x - half)} {number(top)} H{number(x + half)}")
    svg.circle("thin", x, y, level.ring_radius * scale)
    side = 1 if level.behind else -1
    hole = x + side * level.hole_out * scale
    svg.circle("doubt", min(max(hole, 12.0), _WIDE - 12.0), top, 8)
    svg.text("title", min(hole + 14, _WIDE - 60) if side > 0 else max(hole - 50, 4), top - 14, "hole")
    svg.text("words", 8, _HIGH - 8, f"pinion {abs(turn):.0f}° {'up' if turn >= 0 else 'down'}")
    return svg
