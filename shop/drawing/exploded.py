"""The axle taken apart: every part that is inspected, each a way to its finding."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache
from html import escape
from typing import Any, Final

import msgspec

from axle.data_file import read_table
from shop.drawing.marks import Mark, put
from shop.drawing.svg import Svg

WIDTH, HEIGHT = 640, 470
_SIGNS: Final = {"sound": "✓ ", "seen": "▲ ", "open": "○ "}
_SPOKEN: Final = {"sound": "sound", "seen": "something was found", "open": "not looked at yet"}


@dataclass(frozen=True)
class ExplodedPart:
    """One part of the drawing.

    :param part: its name.
    :param title: its words.
    :param state: "sound", "seen" or "open", which is not looked at yet.
    :param link: address of its finding.
    :param current: it is looked at now.
    """

    part: str
    title: str
    state: str
    link: str
    current: bool = False


class _Drawn(msgspec.Struct):
    words: tuple[float, float, str]
    hit: tuple[float, float, float, float]
    marks: list[Mark]


def exploded(shown: Sequence[ExplodedPart]) -> str:
    """Draw the parts with how far each is looked at.

    :param shown: in any order; a part that is not named is drawn, but leads nowhere.
    """
    label = "The axle taken apart, each part with its finding"
    svg = Svg(WIDTH, HEIGHT, label=label, name="exploded", role="group")
    svg.path("axis", _axes())
    by_name = {one.part: one for one in shown}
    for name, drawn in _parts().items():
        one = by_name.get(name)
        if one is None:
            put(svg, drawn.marks)
            continue
        spoken = escape(f"{one.title}: {_SPOKEN[one.state]}")
        here = ' aria-current="true"' if one.current else ""
        svg.raw(f'<a href="{escape(one.link)}" class="part is-{one.state}" aria-label="{spoken}"{here}>')
        svg.rect("hit", *drawn.hit, fill="transparent", rx="4")
        put(svg, drawn.marks)
        x, y, anchor = drawn.words
        svg.text("part-name", x, y, f"{_SIGNS[one.state]}{one.title}", text_anchor=anchor)
        svg.raw("</a>")
    return str(svg)


def _axes() -> str:
    return str(_file()["axes"])


@cache
def _parts() -> dict[str, _Drawn]:
    return {
        name: msgspec.convert(row, _Drawn, strict=False)
        for name, row in _file().items()
        if isinstance(row, dict)
    }


@cache
def _file() -> dict[str, Any]:
    return read_table(__file__, "data/exploded.toml", dict[str, Any])
