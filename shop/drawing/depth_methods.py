"""What each way of finding pinion depth measures, as a small cut through housing and pinion.

The ring gear's axis runs across the picture; the pinion points up at it. Lengths are not to scale:
what matters is between which faces each figure lies.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Final

from axle.layout import DepthShim
from axle.procedure.names import KindName
from shop.drawing.svg import Svg, number

_WIDE: Final = 400
_HIGH: Final = 330
_AXIS: Final = 74
_MID: Final = 186
_FACE: Final = 196
_SEAT: Final = 244


@dataclass(frozen=True)
class Figures:
    """What the picture says beside its lines.

    :param values: shown value by reading kind; "" where nothing was read.
    :param asked: the kind that is read now, or "".
    :param shim: what is fitted, as shown.
    :param depth_shim: where the depth shim sits.
    """

    values: Mapping[str, str]
    asked: str
    shim: str
    depth_shim: DepthShim


def depth_method(method: str, title: str, figures: Figures) -> Svg:
    """Draw one way of measuring, with the figure that is read now picked out."""
    svg = Svg(_WIDE, _HIGH, label=f"{title}: what is measured", name="depth-way")
    _pinion(svg, figures)
    {
        "gauge": _gauge,
        "dial": _dial,
        "bridge": _bridge,
        "mic": _mic,
        "bar": _bar,
        "old": _old,
        "measured": _measured,
        "trial": _trial,
    }.get(method, _measured)(svg, figures)
    return svg


@dataclass(frozen=True)
class Meaning:
    """One way to read a mark.

    :param title: of the way.
    :param shift: +1 further out from the ring gear's axis, −1 closer in, 0 where it stands.
    :param words: for the pinion's face.
    :param chosen: it is the one that is read by.
    """

    title: str
    shift: int
    words: str
    chosen: bool


def mark_meaning(etched: str, meanings: Sequence[Meaning], amount: str = "") -> Svg:
    """Draw what a mark does, each way it can be read beside the other, against ring gear and axis.

    :param etched: the mark as etched.
    :param meanings: one or two ways to read it.
    :param amount: how far, with its sign, in both systems.
    """
    chosen = next((one for one in meanings if one.chosen), meanings[0])
    svg = Svg(_WIDE, 250, label=f"Mark {etched}: {chosen.words} {amount}".strip(), name="mark-meaning")
    wide = _WIDE / len(meanings)
    for index, one in enumerate(meanings):
        _meaning(svg, one, etched, left=index * wide, wide=wide)
    if amount:
        svg.text("words", _WIDE / 2, 244, amount, text_anchor="middle")
    return svg


def _meaning(svg: Svg, one: Meaning, etched: str, left: float, wide: float) -> None:
    nominal, face = 132.0, 132.0 + 24 * one.shift
    ring, middle = left + 22, left + wide * 0.58
    if one.chosen:
        svg.rect("chosen", left + 3, 3, wide - 6, 222, rx="4")
    svg.path("axis", f"M{number(left + 10)} 66 H{number(left + wide - 10)}")
    svg.rect("gear", ring, 34, 12, 150)
    svg.path(
        "gear", f"M{number(ring + 12)} 38 l20 6 v22 l-20 4 Z M{number(ring + 12)} 146 l20 4 v22 l-20 6 Z"
    )
    svg.path("expected", f"M{number(ring + 40)} {number(nominal)} H{number(left + wide - 12)}")
    svg.path("gear", f"M{number(middle - 36)} {number(face)} h72 l14 30 h-100 Z")
    svg.rect("steel", middle - 14, face + 30, 28, max(212 - face - 30, 4))
    svg.text("words", middle, face + 22, etched, text_anchor="middle")
    if one.shift:
        svg.path("needle-ok", f"M{number(middle + 62)} {number(nominal)} V{number(face)}")
        tip, x = 7 * one.shift, middle + 62
        svg.polygon("ink", [(x, face), (x - 5, face - tip), (x + 5, face - tip)])
    svg.text("words", left + wide / 2, 24, one.title, text_anchor="middle")
    svg.text("title", left + wide - 12, 88, one.words, text_anchor="end")


def _axis(svg: Svg) -> None:
    svg.path("axis", f"M20 {_AXIS} H{_WIDE - 20}")
    svg.text("title", 22, 18, "ring gear axis")
    svg.path("thin", f"M34 24 V{_AXIS}")


def _pinion(svg: Svg, figures: Figures) -> None:
    _axis(svg)
    svg.path("gear", f"M{_MID - 60} {_FACE} h120 l24 48 h-168 Z")
    svg.rect("steel", _MID - 28, _SEAT, 56, _HIGH - _SEAT - 4)
    for side in (-1, 1):
        x = _MID + side * 58
        shim_at = _SEAT if figures.depth_shim is DepthShim.HEAD else _SEAT + 44
        top = _SEAT + 10 if figures.depth_shim is DepthShim.HEAD else _SEAT
        svg.rect("steel", x - 30, top, 60, 44)
        svg.rect("roller", x - 10, top + 8, 20, 28)
        svg.rect("shim", x - 30, shim_at, 60, 10)
        svg.path("hatch", f"M{x - 30} {_SEAT + 60} h60 M{x - 30} {_SEAT + 68} h60")
    words = {"head": "head shim", "cup": "cup shim", "cartridge": "cartridge shim"}[
        figures.depth_shim.value
    ]
    svg.text("title", _MID - 96, _SEAT + 42, f"{words}", text_anchor="end")
    svg.text("title", _MID - 96, _SEAT + 60, figures.shim, text_anchor="end")


def _length(
    svg: Svg, x: float, top: float, foot: float, kind: str, title: str, figures: Figures, side: int = 1
) -> None:
    """A length between two faces, with its name and what was read of it on one side."""
    asked = kind == figures.asked
    style = "needle" if asked else "tick-strong"
    svg.path("thin", f"M{number(x - 9)} {number(top)} h18 M{number(x - 9)} {number(foot)} h18")
    svg.path(style, f"M{number(x)} {number(top)} V{number(foot)}")
    if foot - top > 22:
        svg.polygon("ink", [(x, top), (x - 4, top + 8), (x + 4, top + 8)])
        svg.polygon("ink", [(x, foot), (x - 4, foot - 8), (x + 4, foot - 8)])
    middle, value = (top + foot) / 2, figures.values.get(kind, "")
    more = {"text_anchor": "end"} if side < 0 else {}
    bold = {"font_weight": "700"} if asked else {}
    svg.text("title", x + side * 12, middle - (2 if value else -5), title, **more, **bold)
    if value:
        svg.text("place", x + side * 12, middle + 17, value, font_size="18", font_weight="600", **more)


def _arbor(svg: Svg, radius: int = 34) -> None:
    svg.circle("steel", _MID, _AXIS, radius)
    svg.path("thin", f"M{_MID - 8} {_AXIS} h16 M{_MID} {_AXIS - 8} v16")
    svg.text("title", _MID - radius - 8, _AXIS + 24, "arbor", text_anchor="end")


def _gauge(svg: Svg, figures: Figures) -> None:
    _arbor(svg)
    svg.rect("dark", _MID - 22, 132, 44, _FACE - 132)
    svg.text("title", _MID - 30, 168, "gauge block", text_anchor="end")
    svg.rect("in-hand", _MID - 22, _AXIS + 34, 44, 132 - _AXIS - 34)
    _length(
        svg,
        _MID + 52,
        top=_AXIS + 34,
        foot=132,
        kind=KindName.DEPTH_FEELER,
        title="feeler that drags",
        figures=figures,
    )


def _dial(svg: Svg, figures: Figures) -> None:
    svg.rect("steel", 76, _AXIS - 10, 260, 20)
    svg.circle("face", _MID + 30, _AXIS - 34, 26)
    svg.path("needle", f"M{_MID + 30} {_AXIS - 34} l12 -14")
    svg.rect("dark", _MID - 56, 152, 52, 14)
    svg.text("title", _MID - 64, 150, "plate: zero here", text_anchor="end")
    svg.path("ghost", f"M{_MID - 30} {_AXIS + 10} V152")
    svg.path("tick-strong", f"M{_MID + 30} {_AXIS + 10} V{_FACE}")
    _length(svg, _MID + 92, top=152, foot=_FACE, kind=KindName.DIAL_TRAVEL, title="travel", figures=figures)


def _bridge(svg: Svg, figures: Figures) -> None:
    svg.rect("steel", 76, _AXIS - 12, 260, 24)
    svg.circle("face", _MID, _AXIS - 36, 24)
    svg.path("needle", f"M{_MID} {_AXIS - 36} l12 -12")
    svg.path("tick-strong", f"M{_MID} {_AXIS + 12} V{_FACE}")
    svg.path("ghost", f"M{_MID - 40} 224 h300")
    svg.text("title", _MID + 264, 222, "zero")
    _length(
        svg, _MID + 128, top=_AXIS, foot=224, kind=KindName.BRIDGE_REACH, title="reach", figures=figures
    )
    _length(
        svg,
        _MID + 94,
        top=_FACE,
        foot=224,
        kind=KindName.BRIDGE_READING,
        title="reading",
        figures=figures,
        side=-1,
    )
    _master(svg, figures)


def _mic(svg: Svg, figures: Figures) -> None:
    _arbor(svg, 40)
    svg.rect("dark", _MID - 9, 6, 18, _AXIS - 46)
    svg.path("tick-strong", f"M{_MID} {_AXIS - 40} V{_FACE}")
    _length(
        svg,
        _MID + 72,
        top=_AXIS - 40,
        foot=_FACE,
        kind=KindName.MIC_READING,
        title="micrometer",
        figures=figures,
    )
    svg.path("thin", f"M{_MID - 40} {_AXIS} v46 M{_MID + 40} {_AXIS} v46 M{_MID - 40} {_AXIS + 40} h80")
    bold = {"font_weight": "700"} if figures.asked == "arbor_diameter" else {}
    diameter = figures.values.get("arbor_diameter", "")
    svg.text("title", _MID - 48, _AXIS + 46, f"Ø {diameter}", text_anchor="end", **bold)
    _master(svg, figures)


def _bar(svg: Svg, figures: Figures) -> None:
    svg.path("ghost-housing", f"M80 {_AXIS} a30 30 0 1 0 0.1 0 M300 {_AXIS} a30 30 0 1 0 0.1 0")
    svg.rect("steel", 66, _AXIS + 12, 252, 22)
    for top in (142, 160, 178):
        svg.rect("roller", _MID - 20, top, 40, 18)
    svg.rect("in-hand", _MID - 20, _AXIS + 34, 40, 142 - _AXIS - 34)
    _length(svg, 338, top=_AXIS, foot=_AXIS + 34, kind=KindName.BAR_OFFSET, title="bar", figures=figures)
    _length(svg, _MID + 34, top=_AXIS + 34, foot=142, kind=KindName.BAR_GAP, title="gap", figures=figures)
    _length(svg, _MID + 104, top=142, foot=_FACE, kind=KindName.BAR_STACK, title="slips", figures=figures)
    _master(svg, figures)


def _old(svg: Svg, figures: Figures) -> None:
    svg.text("title", _MID, 112, "the old pinion stood right on its own shim", text_anchor="middle")
    for x, kind, title in ((36, "old_shim", "old shim"), (206, "old_mark", "old mark")):
        asked = kind == figures.asked
        svg.rect("in-hand" if asked else "tag", x, 126, 150, 56, stroke="#1b2a38")
        svg.text("title", x + 10, 146, title)
        svg.text("value", x + 10, 174, figures.values.get(kind) or "—")


def _measured(svg: Svg, figures: Figures) -> None:
    _length(
        svg,
        _MID + 60,
        top=_AXIS,
        foot=_FACE,
        kind=KindName.MEASURED_DISTANCE,
        title="axis to face",
        figures=figures,
    )


def _trial(svg: Svg, figures: Figures) -> None:
    svg.path("flank", f"M{_MID - 70} 152 q70 -34 140 0 l-8 32 q-62 -26 -124 0 Z")
    svg.path("wiped", f"M{_MID - 34} 148 q34 -14 68 0 l-4 16 q-30 -12 -60 0 Z")
    svg.text("title", _MID, 108, f"the pattern decides; in now {figures.shim}", text_anchor="middle")


def _master(svg: Svg, figures: Figures) -> None:
    """Head height, and the master that goes with it."""
    if "head_height" in figures.values:
        _length(
            svg,
            92,
            top=_FACE,
            foot=_SEAT,
            kind=KindName.HEAD_HEIGHT,
            title="head",
            figures=figures,
            side=-1,
        )
        _length(svg, 22, top=_AXIS, foot=_SEAT, kind="seat_distance", title="master", figures=figures)
