"""The axle in section, composed from parts that follow the layout.

Drawn with the ring gear on the left and mirrored where it sits on the right. The pinion's axis
stands upright, its flange at the bottom.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass

from axle.contact.mark import FlankMark
from axle.layout import CarrierBy, DepthShim, Housing, Layout, Place, PreloadBy, Side, SpacerSeat
from shop.drawing import flanks
from shop.drawing.svg import INK, STATUS, Svg, attributes, number

WIDTH, HEIGHT = 730, 522
_AXIS_X, _AXIS_Y = 365, 158


@dataclass(frozen=True)
class Callout:
    """A live value on the drawing, and the way into its measurement.

    :param anchor: part it points at, a key of the anchors below.
    :param title: a few words.
    :param value: number as shown, or "—".
    :param unit: limits, or how many pieces.
    :param status: word of the status; decides colour, shape and dash.
    :param link: address of the measurement.
    """

    anchor: str
    title: str
    value: str
    unit: str
    status: str
    link: str


# Where each callout stands (column, top) and what it points at, with the ring gear on the left.
_ANCHORS: dict[str, tuple[str, int, tuple[float, float]]] = {
    Place.RING.value: ("ring", 36, (189, 128)),
    Place.FAR.value: ("far", 36, (541, 128)),
    "backlash": ("ring", 226, (314, 252)),
    "runout": ("ring", 300, (250, 250)),
    "carrier_preload": ("far", 212, (520, 188)),
    Place.DEPTH.value: ("far", 286, (402, 303)),
    Place.PRELOAD.value: ("far", 364, (389, 399)),
    "pinion_preload": ("far", 442, (424, 480)),
}
_TAG_WIDTH, _TAG_HEIGHT = 168, 54
# So many characters of a value and its limits stand in a tag at full size.
_ROOM = 16


@dataclass(frozen=True)
class FlankPair:
    """The pattern as it stands, drawn small in the corner of the section.

    :param marks: what is wiped by flank word; a flank not marked is left out.
    :param words: what the print says, or when it was taken.
    :param status: word of the status.
    :param link: address of the pattern station.
    """

    marks: Mapping[str, FlankMark]
    words: str
    status: str
    link: str


@dataclass(frozen=True)
class Moved:
    """Parts that are drawn moved, in units of the picture.

    :param ring: of carrier and ring gear, > 0 towards the pinion's teeth.
    :param pinion: of the pinion, > 0 deeper.
    """

    ring: float = 0.0
    pinion: float = 0.0


_STILL = Moved()


def section(
    layout: Layout,
    callouts: tuple[Callout, ...] = (),
    pair: FlankPair | None = None,
    moved: Moved = _STILL,
) -> Svg:
    """Draw the axle's section with its callouts and the pair of flanks."""
    words = (
        f"Section of the axle: depth shim at the {layout.depth_shim.value}, preload by "
        f"{layout.preload_by.value}, carrier by {layout.carrier_by.value.replace('_', ' ')}"
    )
    # With callouts it holds links, which a picture may not.
    role = "group" if callouts else "img"
    svg = Svg(WIDTH, HEIGHT, label=words, name="axle-section", role=role)
    svg.raw(_HATCHES)
    mirrored = layout.ring_side is Side.RIGHT
    svg.raw(f'<g transform="translate({WIDTH} 0) scale(-1 1)">' if mirrored else "<g>")
    _housing(svg, layout)
    _axes(svg)
    svg.raw(f'<g transform="translate({number(moved.ring)} 0)">')
    _carrier(svg, layout)
    svg.raw("</g>")
    for far in (False, True):
        _side(svg, layout, far=far)
    svg.raw(f'<g transform="translate({number(moved.ring)} 0)">')
    _ring_gear(svg)
    svg.raw(f'</g><g transform="translate(0 {number(-moved.pinion)})">')
    _pinion(svg)
    _depth(svg, layout)
    _preload(svg, layout)
    _flange(svg)
    svg.raw("</g></g>")
    for callout in callouts:
        _tag(svg, callout, layout, mirrored=mirrored)
    if pair is not None:
        _pair(svg, pair, mirrored=mirrored)
    return svg


def _pair(svg: Svg, pair: FlankPair, *, mirrored: bool) -> None:
    left = WIDTH - 268 if mirrored else 8
    signs = {"out": "▲ ", "stale": "◌ ", "in range": "✓ ", "recorded": "○ ", "signed": "■ "}
    sign = signs.get(pair.status, "")
    key = pair.status.replace(" ", "-")
    svg.raw(f'<a href="{pair.link}" class="callout is-{key}" data-bench="">')
    svg.text("title", left, 424, f"Pattern: {sign}{pair.words}", fill=STATUS[pair.status])
    for index, name in enumerate(("drive", "coast")):
        place = {"x": str(left + index * 132), "y": "430", "width": "128", "height": "70"}
        svg.raw(flanks.small(name, pair.marks.get(name), stale=pair.status == "stale", **place))
        svg.text("title", left + index * 132 + 50, 514, name)
    svg.rect("hit", left, 408, 262, 108, fill="transparent")
    svg.raw("</a>")


_HATCHES = (
    '<defs><pattern id="cast" width="7" height="7" patternUnits="userSpaceOnUse" '
    f'patternTransform="rotate(45)"><path {attributes("hatch", d="M0 0V7")}/></pattern>'
    '<pattern id="cast-carrier" width="6" height="6" patternUnits="userSpaceOnUse" '
    f'patternTransform="rotate(-45)"><path {attributes("hatch", d="M0 0V6")}/></pattern></defs>'
)


def _both(svg: Svg, style: str, d: str, **more: str) -> None:
    """Draw a path and its mirror image about the pinion's axis, hatched the same way."""
    svg.path(style, d, **more)
    svg.path(style, _flip(d), **more)


def _flip(d: str) -> str:
    def turn(match: re.Match[str]) -> str:
        letter, rest = match[1], [float(n) for n in match[2].replace(",", " ").split()]
        if letter == "V":
            return match[0]
        flipped = [WIDTH - n if letter == "H" or i % 2 == 0 else n for i, n in enumerate(rest)]
        return letter + " ".join(number(n) for n in flipped) + " "

    return re.sub(r"([MLHVC])([^MLHVCZ]*)", turn, d)


def _housing(svg: Svg, layout: Layout) -> None:
    """The casting: a bowl around the carrier and a neck around the pinion, or none (cartridge)."""
    cartridge = layout.depth_shim is DepthShim.CARTRIDGE
    neck = "L312 294 H250" if cartridge else "L312 302 V350 H322 V404 H312 V472 H290 V304 L284 292"
    inside = f"C228 258 300 268 312 294 {neck}"
    if layout.housing is Housing.INTEGRAL:
        _both(
            svg,
            "cast",
            f"M365 42 C270 44 222 62 216 100 V118 H180 V198 H216 V226 {inside} "
            "C236 276 206 264 200 230 V218 H150 V98 H200 C206 48 250 22 365 22",
        )
    elif layout.housing is Housing.DROP_OUT:
        svg.path("ghost-housing", "M104 204 V150 C104 60 250 22 365 22 C480 22 626 60 626 150 V204")
        _both(
            svg,
            "cast",
            f"M216 100 V118 H180 V198 H216 V226 {inside} C236 276 206 264 200 230 V224 H104 V206 "
            "H160 V100 H216 Z",
        )
        _both(svg, "axis", "M156 158 H182")
    else:
        _both(svg, "cast", "M365 42 C270 44 222 62 216 92 H168 V76 C196 40 270 22 365 22")
        _both(svg, "cast", f"M168 224 H216 {inside} C236 274 200 262 190 250 L184 240 H168 Z")
        _covers(svg, layout)
    if cartridge:
        _cartridge(svg)


def _covers(svg: Svg, layout: Layout) -> None:
    shims = "shim" if layout.carrier_by is CarrierBy.COVERS else "thin"
    for top in (76, 224):
        _both(svg, shims, f"M160 {top} H168 V{top + 16} H160 Z")
        if shims == "shim":
            _both(svg, "shim-pale", f"M156 {top} H160 V{top + 16} H156 Z")
    _both(svg, "cast", "M140 76 H156 V106 H216 V118 H180 V198 H216 V210 H156 V240 H140 Z")


def _cartridge(svg: Svg) -> None:
    _both(svg, "cast", "M250 306 H312 V350 H322 V404 H312 V472 H290 V326 H250 Z")
    _both(svg, "axis", "M270 288 V334")


def _axes(svg: Svg) -> None:
    svg.path("axis", f"M118 {_AXIS_Y}H612")
    svg.path("axis", f"M{_AXIS_X} 56V516")


def _carrier(svg: Svg, layout: Layout) -> None:
    shoulder = 238 if layout.carrier_by is CarrierBy.UNDER_CONE else 225
    d = (
        f"M194 144 H{shoulder} V128 C240 96 270 86 304 84 H426 C460 86 490 96 {WIDTH - shoulder} 128 "
        f"V144 H536 V172 H{WIDTH - shoulder} V188 C490 220 460 230 426 232 H304 C270 230 240 220 "
        f"{shoulder} 188 V172 H194 Z"
    )
    svg.path("cast-carrier", d)
    svg.rect("void", 268, 108, 190, 100, rx="8")
    svg.circle("steel", _AXIS_X, _AXIS_Y, 13)
    _both(svg, "steel", "M300 132 L330 118 V198 L300 184 Z")


def _side(svg: Svg, layout: Layout, *, far: bool) -> None:
    """One side bearing with what positions it; the cup's back faces outwards."""

    def x(value: float) -> float:
        return WIDTH - value if far else value

    def ring(style: str, left: float, right: float, outer: float, inner: float) -> None:
        for y in (outer, 2 * _AXIS_Y - inner):
            svg.rect(style, min(x(left), x(right)), y, right - left, inner - outer)

    def turned(style: str, points: list[tuple[float, float]]) -> None:
        svg.polygon(style, [(x(px), py) for px, py in points])
        svg.polygon(style, [(x(px), 2 * _AXIS_Y - py) for px, py in points])

    turned("steel", [(198, 120), (224, 120), (224, 125), (198, 130)])
    turned("roller", [(200, 131), (222, 126), (222, 134), (200, 138)])
    turned("steel", [(198, 139), (224, 135), (224, 144), (198, 144)])
    if layout.carrier_by is CarrierBy.OUTBOARD:
        for left, right, style in ((180, 187, "shim"), (187, 192, "shim-pale"), (192, 198, "shim")):
            ring(style, left, right, 119, 142)
    elif layout.carrier_by is CarrierBy.UNDER_CONE:
        for left, right, style in ((225, 231, "shim"), (231, 238, "shim-pale")):
            ring(style, left, right, 131, 144)
        ring("cast", 180, 198, 119, 134)
    elif layout.carrier_by is CarrierBy.ADJUSTERS:
        ring("shim", 172, 198, 117, 142)
        for step in range(5):
            edge = x(174 + step * 5)
            svg.path("thin", f"M{number(edge)} 114 V121 M{number(edge)} 195 V202")
    else:
        ring("cast", 180, 198, 119, 134)


def _ring_gear(svg: Svg) -> None:
    svg.polygon("gear", [(254, 54), (276, 54), (312, 64), (312, 82), (276, 92), (254, 92)])
    svg.polygon("gear", [(254, 224), (276, 224), (312, 234), (312, 254), (276, 264), (254, 264)])
    svg.rect("gear", 245, 54, 10, 210)
    for step in range(5):
        cut = 284 + step * 6
        svg.path("thin", f"M{cut} {57 + step * 1.6:.1f} V{89 - step * 1.6:.1f}")
        svg.path("thin", f"M{cut} {227 + step * 1.6:.1f} V{261 - step * 1.6:.1f}")


def _pinion(svg: Svg) -> None:
    svg.polygon("gear", [(316, 246), (402, 246), (415, 292), (405, 300), (325, 300), (313, 292)])
    for step in range(7):
        top = 324 + step * 12
        svg.path("thin", f"M{top} 247 C{top + 4} 262 {top + 2} 280 {top - 3} 298")
    svg.rect("steel", 349, 300, 32, 158)
    _both(svg, "steel", "M312 308 L318 308 L326 342 L312 342 Z")
    _both(svg, "roller", "M319 311 L328 311 L334 340 L327 340 Z")
    _both(svg, "steel", "M329 308 L349 308 L349 342 L335 342 Z")
    _both(svg, "steel", "M312 404 L326 404 L319 434 L312 434 Z")
    _both(svg, "roller", "M327 406 L334 406 L328 432 L320 432 Z")
    _both(svg, "steel", "M335 404 L349 404 L349 434 L329 434 Z")


def _depth(svg: Svg, layout: Layout) -> None:
    head = "shim" if layout.depth_shim is DepthShim.HEAD else "gear"
    svg.rect(head, 328, 300, 74, 4.5)
    svg.rect("shim-pale" if head == "shim" else "gear", 328, 304.5, 74, 3.5)
    if layout.depth_shim is DepthShim.CUP:
        _both(svg, "shim", "M312 342 H328 V346.5 H312 Z")
        _both(svg, "shim-pale", "M312 346.5 H328 V350 H312 Z")
    else:
        _both(svg, "cast", "M312 342 H324 V350 H312 Z")
    if layout.depth_shim is DepthShim.CARTRIDGE:
        _both(svg, "shim", "M250 294 H312 V301 H250 Z")
        _both(svg, "shim-pale", "M250 301 H312 V306 H250 Z")


def _preload(svg: Svg, layout: Layout) -> None:
    if layout.preload_by is PreloadBy.SLEEVE:
        _both(
            svg,
            "shim",
            "M341 342 V360 C341 368 331 370 331 376 C331 382 341 384 341 392 V404 H349 V392 "
            "C349 384 339 382 339 376 C339 370 349 368 349 360 V342 Z",
        )
        return
    if layout.spacer_seat is SpacerSeat.BETWEEN_CONES:
        _both(svg, "steel", "M340 342 H349 V394 H340 Z")
    else:
        _both(svg, "steel", "M343 342 H349 V394 H343 Z")
        if layout.preload_by is PreloadBy.SPACER:
            _both(svg, "steel", "M339 370 H349 V394 H339 Z")
    _both(svg, "shim", "M339 394 H349 V399.5 H339 Z")
    _both(svg, "shim-pale", "M339 399.5 H349 V404 H339 Z")


def _flange(svg: Svg) -> None:
    _both(svg, "dark", "M313 440 H344 V450 H313 Z")
    svg.path("gear", "M334 434 H396 V462 H424 V490 H306 V462 H334 Z")
    svg.rect("steel", 350, 490, 30, 12)


def _tag(svg: Svg, callout: Callout, layout: Layout, *, mirrored: bool) -> None:
    column, top, (px, py) = _ANCHORS[callout.anchor]
    if callout.anchor == Place.DEPTH.value:
        px, py = {DepthShim.CUP: (416, 346), DepthShim.CARTRIDGE: (470, 300)}.get(
            layout.depth_shim, (px, py)
        )
    if callout.anchor in (Place.RING.value, Place.FAR.value):
        shift = {CarrierBy.UNDER_CONE: 42, CarrierBy.COVERS: -27}.get(layout.carrier_by, 0)
        drop = -42 if layout.carrier_by is CarrierBy.COVERS else 10 if shift else 0
        px, py = px + (shift if px < _AXIS_X else -shift), py + drop
    if mirrored:
        px = WIDTH - px
    on_left = (column == "ring") != mirrored
    x = 8 if on_left else WIDTH - 8 - _TAG_WIDTH
    colour = STATUS[callout.status]
    key = callout.status.replace(" ", "-")
    dashed = {"stroke_dasharray": "5 4"} if callout.status in ("stale", "not begun") else {}
    start = x + _TAG_WIDTH if on_left else x
    svg.raw(f'<a href="{callout.link}" class="callout is-{key}" data-bench="">')
    svg.path(
        "lead",
        f"M{start} {top + 27} L{number(px)} {number(py)}",
        fill="none",
        stroke=colour,
        stroke_width="1.6",
    )
    svg.circle("dot", px, py, 3.6, fill=colour, stroke=INK, stroke_width="0.5")
    svg.rect("tag", x, top, _TAG_WIDTH, _TAG_HEIGHT, stroke=colour, **dashed)
    svg.rect("tab", x, top, 6, _TAG_HEIGHT, fill=colour)
    svg.text("title", x + 13, top + 17, callout.title)
    sign = {"out": "▲ ", "stale": "◌ "}.get(callout.status, "")
    value = f"{sign}{callout.value}"
    # Three places of a millimetre and their limits go beside one another a little smaller.
    size = {"font_size": "22"} if len(value) + len(callout.unit) > _ROOM else {}
    svg.text("value", x + 13, top + 45, value, **size)
    svg.text("tag-unit", x + _TAG_WIDTH - 8, top + 45, callout.unit, text_anchor="end")
    svg.raw("</a>")
