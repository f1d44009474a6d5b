"""A group of bolts as they lie, numbered in the order in which they are tightened."""

from __future__ import annotations

import math

from axle.fasteners.groups import Group
from shop.drawing.svg import Svg

_WIDE, _HIGH = 300, 220


def bolts(group: Group) -> Svg:
    """Draw the group; the number in each bolt is its turn, the small one outside its place."""
    svg = Svg(
        _WIDE, _HIGH, label=f"{group.title}: {group.count}, in the order {_said(group)}", name="bolts"
    )
    places = _places(group)
    _outline(svg, group)
    turn = {bolt: index for index, bolt in enumerate(group.order, start=1)}
    ordered = [places[bolt - 1] for bolt in group.order]
    if group.count > 2:
        svg.path("expected", "M" + " L".join(f"{x:.1f} {y:.1f}" for x, y in ordered[:4]))
    radius = 15 if group.count <= 14 else 10
    for bolt, (x, y) in enumerate(places, start=1):
        svg.polygon("void" if turn[bolt] > 1 else "in-hand", _hexagon(x, y, radius))
        svg.text(
            "place",
            x,
            y + 6,
            str(turn[bolt]),
            text_anchor="middle",
            font_size="17",
            font_weight="600",
            font_family="Barlow Condensed",
        )
    return svg


def _said(group: Group) -> str:
    return ", ".join(str(bolt) for bolt in group.order)


def _places(group: Group) -> list[tuple[float, float]]:
    cx, cy = _WIDE / 2, _HIGH / 2
    if group.shape == "single":
        return [(cx, cy)]
    if group.shape == "pair":
        return [(cx + (i - (group.count - 1) / 2) * 70, cy) for i in range(group.count)]
    if group.shape == "caps":
        half = group.count // 2
        sides = [(cx - 80, i) for i in range(half)] + [(cx + 80, i) for i in range(group.count - half)]
        return [(x, cy + (i - (half - 1) / 2) * 80) for x, i in sides]
    if group.shape == "pair_of_circles":
        half = group.count // 2
        return [_round(cx - 76, cy, radius=58, index=i, count=half) for i in range(half)] + [
            _round(cx + 76, cy, radius=58, index=i, count=group.count - half)
            for i in range(group.count - half)
        ]
    if group.shape == "rectangle":
        return [_on_rectangle(cx, cy, i, group.count) for i in range(group.count)]
    return [_round(cx, cy, radius=84, index=i, count=group.count) for i in range(group.count)]


def _round(cx: float, cy: float, radius: float, index: int, count: int) -> tuple[float, float]:
    angle = math.tau * index / max(count, 1)
    return cx + radius * math.sin(angle), cy - radius * math.cos(angle)


def _on_rectangle(cx: float, cy: float, index: int, count: int) -> tuple[float, float]:
    """Evenly round the edge of a rectangle, from the middle of its top, clockwise."""
    wide, high = 226.0, 160.0
    along = ((index / count) * 2 * (wide + high) + wide / 2) % (2 * (wide + high))
    left, top = cx - wide / 2, cy - high / 2
    if along <= wide:
        return left + along, top
    if along <= wide + high:
        return left + wide, top + along - wide
    if along <= 2 * wide + high:
        return left + wide - (along - wide - high), top + high
    return left, top + high - (along - 2 * wide - high)


def _outline(svg: Svg, group: Group) -> None:
    cx, cy = _WIDE / 2, _HIGH / 2
    if group.shape == "circle":
        svg.circle("thin", cx, cy, 106)
        svg.circle("thin", cx, cy, 56)
    elif group.shape == "rectangle":
        svg.rect("thin", cx - 134, cy - 102, 268, 204, rx="22")
        svg.rect("thin", cx - 92, cy - 58, 184, 116, rx="14")
    elif group.shape == "pair_of_circles":
        svg.circle("thin", cx - 76, cy, 28)
        svg.circle("thin", cx + 76, cy, 28)
    elif group.shape == "caps":
        for x in (cx - 80, cx + 80):
            svg.rect("thin", x - 28, cy - 78, 56, 156, rx="24")


def _hexagon(x: float, y: float, radius: float) -> list[tuple[float, float]]:
    return [_round(x, y, radius=radius, index=i, count=6) for i in range(6)]
