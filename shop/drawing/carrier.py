"""The carrier between its sides, seen from above with the builder behind it: what each school measures.

The pinion comes from the front, at the top. Lengths are not to scale; what matters is between which
faces each figure lies.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Final

from axle.layout import CarrierBy
from axle.procedure.names import KindName
from shop.drawing.svg import Svg, number

_WIDE: Final = 520
_HIGH: Final = 380
_AXIS: Final = 178
_HALF: Final = 46


@dataclass(frozen=True)
class SideShown:
    """One side of the carrier as the picture labels it.

    :param title: its name.
    :param now: what is in it, as shown.
    :param to: what is planned, as shown, or "".
    """

    title: str
    now: str
    to: str = ""


@dataclass(frozen=True)
class CarrierShown:
    """What the picture shows.

    :param by: what positions the carrier.
    :param ring_left: whether the ring gear is on the left, seen from behind.
    :param ring: the ring gear's side.
    :param far: the far side.
    :param values: shown value by reading kind; "" where nothing was read.
    :param asked: the kind that is read now, or "".
    """

    by: CarrierBy
    ring_left: bool
    ring: SideShown
    far: SideShown
    values: Mapping[str, str] = field(default_factory=dict)
    asked: str = ""


def carrier_method(method: str, title: str, shown: CarrierShown) -> Svg:
    """Draw the carrier with what one way measures, the figure that is read now picked out."""
    svg = Svg(_WIDE, _HIGH, label=f"{title}: what is measured", name="carrier-way")
    _housing(svg, shown)
    _case(svg, shown, pinion=method != "alone")
    overlays: Mapping[str, Callable[[Svg, CarrierShown], None]] = {
        "packs": _play,
        "play": _play,
        "feelers": _feelers,
        "gaps": _gaps,
        "taps": _taps,
        "pull": _pull,
        "alone": _alone,
        "subtraction": _subtraction,
    }
    overlays.get(method, _play)(svg, shown)
    _labels(svg, shown)
    return svg


def _x(shown: CarrierShown, x: float) -> float:
    """A place along the axis counted from the ring gear's end, whichever side that is."""
    return x if shown.ring_left else _WIDE - x


def _box(svg: Svg, shown: CarrierShown, style: str, x: float, y: float, wide: float, high: float) -> None:
    left = x if shown.ring_left else _WIDE - x - wide
    svg.rect(style, left, y, wide, high)


def _housing(svg: Svg, shown: CarrierShown) -> None:
    svg.path("axis", f"M10 {_AXIS} H{_WIDE - 10}")
    for at in (0, 1):
        # Wall, then the bearing, mirrored for the other end.
        def put(style: str, x: float, wide: float, high: float, off: float = 0.0, at: int = at) -> None:
            left = x if at == 0 else _WIDE - x - wide
            svg.rect(style, left, _AXIS - high / 2 + off, wide, high)

        put("dark", 14, 34, 150)
        if shown.by is CarrierBy.ADJUSTERS:
            put("shim", 48, 24, 108)
            for notch in (-38, -14, 10, 34):
                put("void", 48, 24, 8, notch)
        elif shown.by is CarrierBy.OUTBOARD:
            put("shim", 48, 14, 100)
            put("shim-pale", 62, 10, 100)
        elif shown.by is CarrierBy.COVERS:
            put("steel", 2, 12, 196)
            put("shim", 14, 10, 40, 86)
            put("shim", 14, 10, 40, -86)
        bearing = 48 if shown.by in (CarrierBy.UNDER_CONE, CarrierBy.COVERS) else 72
        put("steel", bearing, 40, 2 * _HALF + 8)
        for off in (-30, 30):
            put("roller", bearing + 10, 20, 24, off)
        if shown.by is CarrierBy.UNDER_CONE:
            put("shim", 88, 14, 76)
            put("shim-pale", 102, 10, 76)


def _case(svg: Svg, shown: CarrierShown, *, pinion: bool) -> None:
    _box(svg, shown, style="steel", x=112, y=_AXIS - 36, wide=296, high=72)
    _box(svg, shown, style="steel", x=150, y=_AXIS - 62, wide=22, high=124)
    x = [_x(shown, v) for v in (172, 196, 214)]
    top, foot = _AXIS - 112, _AXIS + 112
    svg.polygon(
        "gear",
        [(x[0], top), (x[1], top + 4), (x[2], top + 44), (x[2], foot - 44), (x[1], foot - 4), (x[0], foot)],
    )
    svg.path(
        "hatch",
        " ".join(
            f"M{number(x[1])} {top + 10 + 9 * k} L{number(x[2])} {top + 48 + 6 * k}"
            for k in range(18)
            if top + 48 + 6 * k < foot - 44
        ),
    )
    style = "gear" if pinion else "ghost-housing"
    head = [_x(shown, v) for v in (206, 224, 300, 306)]
    svg.polygon(style, [(head[0], 64), (head[1], 112), (head[2], 112), (head[3], 64)])
    _box(svg, shown, style="steel" if pinion else "ghost-housing", x=236, y=6, wide=44, high=58)


def _labels(svg: Svg, shown: CarrierShown) -> None:
    for side, at_left in ((shown.ring, shown.ring_left), (shown.far, not shown.ring_left)):
        x, anchor = (14, "start") if at_left else (_WIDE - 14, "end")
        svg.text("title", x, _HIGH - 64, side.title, text_anchor=anchor, font_size="16")
        svg.text("value", x, _HIGH - 35, side.now, text_anchor=anchor, font_size="32")
        if side.to:
            svg.text("unit", x, _HIGH - 12, f"→ {side.to} expected", text_anchor=anchor, font_size="19")


def _arrow(svg: Svg, style: str, x0: float, y0: float, x1: float, y1: float) -> None:
    svg.path(style, f"M{number(x0)} {number(y0)} L{number(x1)} {number(y1)}")
    long = max(((x1 - x0) ** 2 + (y1 - y0) ** 2) ** 0.5, 1e-6)
    ux, uy = (x1 - x0) / long, (y1 - y0) / long
    foot = (x1 - 9 * ux, y1 - 9 * uy)
    barbs = [(foot[0] - 4 * k * uy, foot[1] + 4 * k * ux) for k in (1, -1)]
    svg.polygon("ink", [(x1, y1), *barbs])


def _figure(
    svg: Svg, shown: CarrierShown, kind: str, title: str, x: float, y: float, anchor: str = "middle"
) -> None:
    """A figure's name, and what was read of it."""
    value = shown.values.get(kind, "")
    weight = "700" if kind == shown.asked else "500"
    svg.text("title", x, y, title, text_anchor=anchor, font_weight=weight, font_size="17")
    words = value or ("read now" if kind == shown.asked else "—")
    svg.text("place", x, y + 26, words, text_anchor=anchor, font_size="28", font_weight="600")


def _style(shown: CarrierShown, kind: str) -> str:
    return "needle" if kind == shown.asked else "tick-strong"


def _play(svg: Svg, shown: CarrierShown) -> None:
    kind = (
        "zero_play" if shown.values.get("zero_play") or shown.asked == "zero_play" else "carrier_end_play"
    )
    x = _x(shown, 330)
    for end in (-34, 34):
        _arrow(svg, _style(shown, kind), x0=x, y0=_AXIS + 62, x1=x + end, y1=_AXIS + 62)
    _indicator(svg, _x(shown, 150), _AXIS - 50, _x(shown, 130))
    _figure(svg, shown, kind=kind, title="play, side to side", x=x, y=_AXIS + 90)


def _indicator(svg: Svg, tip: float, y: float, at: float) -> None:
    svg.path("tick-strong", f"M{number(tip)} {number(y)} H{number(at)}")
    svg.circle("face", at, y, 12)
    svg.path("needle-ok", f"M{number(at)} {number(y)} l6 -7")


def _blade(svg: Svg, shown: CarrierShown, x: float, kind: str) -> None:
    svg.path(_style(shown, kind), f"M{number(x)} {_AXIS - 108} V{_AXIS - 34}")
    top, foot = _AXIS - 132, _AXIS - 108
    svg.polygon("tag", [(x - 8, top), (x + 8, top), (x + 6, foot), (x - 6, foot)], stroke="currentColor")


def _feelers(svg: Svg, shown: CarrierShown) -> None:
    for x in (70, _WIDE - 70):
        _blade(svg, shown, _x(shown, x), "spacer_play")
    _figure(svg, shown, kind=KindName.THIN_SPACER, title="thin spacer, each", x=_x(shown, 392), y=32)
    _figure(svg, shown, kind=KindName.SPACER_PLAY, title="total play", x=_x(shown, 388), y=84)
    _figure(
        svg, shown, kind=KindName.SPACER_BACKLASH, title="smallest backlash", x=_x(shown, 330), y=_AXIS + 84
    )
    _indicator(svg, _x(shown, 214), _AXIS + 64, _x(shown, 244))
    _arrow(svg, "expected", x0=_x(shown, 320), y0=_AXIS, x1=_x(shown, 262), y1=_AXIS)
    svg.text("title", _x(shown, 330), _AXIS + 22, "push this way", text_anchor="middle")


def _gaps(svg: Svg, shown: CarrierShown) -> None:
    for x, kind in ((70, "gap_ring"), (_WIDE - 70, "gap_far")):
        _blade(svg, shown, _x(shown, x), kind)
    _figure(svg, shown, kind=KindName.GAP_RING, title="gap here", x=_x(shown, 142), y=32)
    _figure(svg, shown, kind=KindName.GAP_FAR, title="gap here", x=_x(shown, 384), y=32)
    _figure(
        svg,
        shown,
        kind=KindName.HELD_BACKLASH,
        title="held at a backlash of",
        x=_x(shown, 330),
        y=_AXIS + 84,
    )
    _indicator(svg, _x(shown, 214), _AXIS + 64, _x(shown, 244))


def _taps(svg: Svg, shown: CarrierShown) -> None:
    x = _x(shown, _WIDE - 60)
    svg.rect("steel", x - 9, 6, 18, 76)
    _arrow(svg, _style(shown, "tap_in"), x0=x, y0=84, x1=x, y1=124)
    _figure(
        svg, shown, kind=KindName.TAP_IN, title="the last pack went in with", x=_x(shown, 330), y=_AXIS + 84
    )


def _pull(svg: Svg, shown: CarrierShown) -> None:
    x = _x(shown, _WIDE - 60)
    svg.path("tick-strong", f"M{number(x)} {_AXIS - 52} L{number(_x(shown, _WIDE - 74))} 14")
    svg.circle("steel", x, _AXIS - 52, 9)
    _figure(svg, shown, kind=KindName.ADJUSTER_PULL, title="last adjuster's torque", x=_x(shown, 372), y=40)
    svg.text("title", _x(shown, 330), _AXIS + 84, "turn it between pulls", text_anchor="middle")
    _turning(svg, _x(shown, 330), _AXIS + 54)


def _turning(svg: Svg, x: float, y: float) -> None:
    svg.path("tick-strong", f"M{number(x - 26)} {y} q26 16 52 0")
    svg.polygon("ink", [(x + 28, y - 2), (x + 17, y), (x + 23, y + 9)])


def _alone(svg: Svg, shown: CarrierShown) -> None:
    x = _x(shown, 161)
    svg.path("tick-strong", f"M{number(x)} {_AXIS + 56} L{number(_x(shown, 262))} {_AXIS + 116}")
    svg.circle("steel", x, _AXIS + 56, 8)
    _figure(
        svg,
        shown,
        kind=KindName.CARRIER_TORQUE,
        title="torque at the carrier",
        x=_x(shown, 350),
        y=_AXIS + 84,
    )
    svg.text("title", _x(shown, 330), 44, "pinion out, or ring gear off", text_anchor="middle")


def _subtraction(svg: Svg, shown: CarrierShown) -> None:
    x = _x(shown, 258)
    svg.path("tick-strong", f"M{number(x)} 12 L{number(_x(shown, 356))} 40")
    svg.circle("steel", x, 12, 8)
    _figure(svg, shown, kind=KindName.TOTAL_TORQUE, title="whole, at the pinion", x=_x(shown, 404), y=46)
    _figure(svg, shown, kind=KindName.PINION_TORQUE, title="pinion alone", x=_x(shown, 404), y=102)
    _turning(svg, _x(shown, 330), _AXIS + 54)
