"""The section with a numbered balloon for each part of the register, and whether it is off or back."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from html import escape
from typing import Final

from axle.layout import CarrierBy, DepthShim, Layout, Side
from shop.drawing.section import WIDTH, section
from shop.drawing.svg import Svg, number

Point = tuple[float, float]
# Part and balloon of each item, with the ring gear on the left.
_PLACES: Final[dict[str, tuple[Point, Point]]] = {
    "cap_left": ((198, 124), (96, 60)),
    "cap_right": ((532, 124), (634, 60)),
    "cover_left": ((148, 128), (66, 60)),
    "cover_right": ((582, 128), (664, 60)),
    "adjuster_left": ((182, 130), (50, 130)),
    "adjuster_right": ((548, 130), (680, 130)),
    "gear": ((250, 76), (300, 34)),
    "shim_left": ((189, 178), (50, 214)),
    "shim_right": ((541, 178), (680, 214)),
    "shim_depth": ((402, 303), (610, 300)),
    "slinger": ((400, 297), (610, 348)),
    "shim_preload": ((391, 399), (610, 396)),
    "sleeve": ((345, 374), (150, 372)),
    "spacer": ((345, 374), (150, 372)),
    "old_sleeve": ((345, 384), (150, 420)),
    "clips": ((365, 158), (430, 34)),
    "tools": ((92, 470), (92, 470)),
}
_DEPTH: Final[dict[DepthShim, Point]] = {DepthShim.CUP: (416, 346), DepthShim.CARTRIDGE: (470, 300)}
_SIDES: Final[dict[CarrierBy, Point]] = {CarrierBy.UNDER_CONE: (231, 176), CarrierBy.COVERS: (160, 232)}
_RADIUS: Final = 19.0
_SIGNS: Final = {"back": "✓", "lost": "▲", "off": "↗", "": ""}
_SPOKEN: Final = {"back": "back in", "lost": "lost", "off": "off", "": "not written down"}


@dataclass(frozen=True)
class Balloon:
    """One part of the register on the drawing.

    :param item: its name in ``register.toml``.
    :param title: its words.
    :param number: as it is listed.
    :param state: "back", "lost", "off", or "" where nothing is written.
    :param link: address of its entry.
    :param current: it is in hand.
    """

    item: str
    title: str
    number: int
    state: str
    link: str
    current: bool = False


def tagged(layout: Layout, balloons: Sequence[Balloon]) -> str:
    """Draw the section with its balloons.

    :param layout: of the axle.
    :param balloons: of the job's items; one that has no place on the axle stands beside it.
    """
    svg = section(layout)
    svg.hold_links()
    for balloon in balloons:
        _draw(svg, balloon, layout)
    return str(svg)


def _draw(svg: Svg, balloon: Balloon, layout: Layout) -> None:
    (px, py), (x, y) = _place(balloon.item, layout)
    here = ' aria-current="true"' if balloon.current else ""
    spoken = escape(f"{balloon.number} {balloon.title}: {_SPOKEN[balloon.state]}")
    key = balloon.state or "none"
    svg.raw(f'<a href="{escape(balloon.link)}" class="balloon is-{key}" aria-label="{spoken}"{here}>')
    if (px, py) != (x, y):
        svg.path("lead", f"M{number(x)} {number(y)} L{number(px)} {number(py)}")
        svg.circle("lead-end", px, py, 3.6)
    svg.circle("hit", x, y, _RADIUS + 5, fill="transparent")
    svg.circle("balloon", x, y, _RADIUS)
    svg.text("balloon-number", x, y + 7, str(balloon.number), text_anchor="middle")
    svg.text("balloon-sign", x + _RADIUS + 4, y - 9, _SIGNS[balloon.state])
    svg.raw("</a>")


def _place(item: str, layout: Layout) -> tuple[Point, Point]:
    """Where a part lies and where its balloon stands, as the drawing is turned."""
    part, balloon = _PLACES.get(item, _PLACES["tools"])
    if item == "shim_depth":
        part = _DEPTH.get(layout.depth_shim, part)
    if item in ("shim_left", "shim_right") and layout.carrier_by in _SIDES:
        x, y = _SIDES[layout.carrier_by]
        part = (x, y) if item == "shim_left" else (WIDTH - x, y)
    # What is left or right stays so; only the ring gear stands on the other side.
    if item == "gear" and layout.ring_side is Side.RIGHT:
        part, balloon = (WIDTH - part[0], part[1]), (WIDTH - balloon[0], balloon[1])
    if item == "clips" and layout.ring_side is Side.RIGHT:
        balloon = (WIDTH - balloon[0], balloon[1])
    return part, balloon
