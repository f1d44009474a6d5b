"""The section with its shims as handles: what is dragged, and where the gears go, exaggerated."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Final

from axle.layout import CarrierBy, DepthShim, Layout, Place, Side
from shop.drawing.section import WIDTH, Moved, section
from shop.drawing.svg import number

# Where each handle stands with the ring gear on the left, and which way thicker is dragged.
_HANDLES: Final[dict[Place, tuple[float, float]]] = {
    Place.DEPTH: (470, 300),
    Place.PRELOAD: (470, 398),
    Place.RING: (150, 60),
    Place.FAR: (580, 60),
}
_SHIMS: Final[dict[Place, tuple[float, float]]] = {
    Place.DEPTH: (402, 303),
    Place.PRELOAD: (389, 399),
    Place.RING: (189, 128),
    Place.FAR: (541, 128),
}
_NAMES: Final = {
    Place.DEPTH: "depth",
    Place.PRELOAD: "preload",
    Place.RING: "ring side",
    Place.FAR: "far side",
}


@dataclass(frozen=True)
class Handle:
    """One shim that can be dragged.

    :param place: where it is.
    :param words: its change, as shown.
    :param field: name of the field that a drag turns.
    """

    place: Place
    words: str
    field: str


def moving(layout: Layout, moved: Moved, handles: Mapping[Place, Handle]) -> str:
    """Draw the section with its parts moved and its handles.

    :param layout: of the axle.
    :param moved: of pinion and ring gear, in units of the picture.
    :param handles: by place.
    """
    svg = section(layout, moved=moved)
    svg.hold_links()
    mirrored = layout.ring_side is Side.RIGHT
    for place, handle in handles.items():
        x, y = _HANDLES[place]
        px, py = _SHIMS[place]
        if place is Place.DEPTH and layout.depth_shim is not DepthShim.HEAD:
            px, py = {DepthShim.CUP: (416.0, 346.0), DepthShim.CARTRIDGE: (440.0, 300.0)}[layout.depth_shim]
        if place in (Place.RING, Place.FAR) and layout.carrier_by is CarrierBy.COVERS:
            px, py = (160.0, 84.0) if place is Place.RING else (570.0, 84.0)
        if mirrored:
            x, px = WIDTH - x, WIDTH - px
        svg.raw(f'<g class="drag" data-drag="{handle.field}">')
        svg.path("lead", f"M{number(x)} {number(y)} L{number(px)} {number(py)}")
        svg.rect("handle", x - 54, y - 20, 108, 40, rx="20")
        svg.text("words", x, y - 2, _NAMES[place], text_anchor="middle")
        svg.text("bin-count", x, y + 15, handle.words, text_anchor="middle")
        svg.raw("</g>")
    return str(svg)
