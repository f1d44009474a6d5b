"""Pictures of the steps that are done most: where the indicator stands, what is pressed, in which order."""

from __future__ import annotations

from functools import cache

import msgspec

from axle.data_file import read_table
from axle.errors import AxleError
from shop.drawing.marks import Mark, put
from shop.drawing.svg import Svg, number

WIDTH, HEIGHT = 320, 200


class _Block(msgspec.Struct):
    marks: list[Mark]


class _Picture(msgspec.Struct):
    title: str
    steps: list[str]
    marks: list[Mark] = []
    blocks: list[tuple[str, float, float, float]] = []
    words: list[tuple[str, float, float, str, str]] = []


class _File(msgspec.Struct):
    block: dict[str, _Block]
    picture: dict[str, _Picture]


def step_picture(step: str) -> tuple[str, str] | None:
    """The picture of a step with its words, or nothing.

    :param step: its name.
    """
    return _drawn().get(step)


def pictured() -> frozenset[str]:
    """Steps that have a picture."""
    return frozenset(_drawn())


@cache
def _drawn() -> dict[str, tuple[str, str]]:
    file = read_table(__file__, "data/steps.toml", _File)
    found: dict[str, tuple[str, str]] = {}
    for picture in file.picture.values():
        drawn = _draw(picture, file.block)
        for step in picture.steps:
            if step in found:
                raise AxleError("steps.toml", given=f"two pictures of “{step}”", wanted="one of each step")
            found[step] = drawn, picture.title
    return found


def _draw(picture: _Picture, blocks: dict[str, _Block]) -> str:
    svg = Svg(WIDTH, HEIGHT, label=picture.title, name="step-picture")
    put(svg, picture.marks)
    for name, x, y, turned in picture.blocks:
        svg.raw(f'<g transform="translate({number(x)} {number(y)}) rotate({number(turned)})">')
        put(svg, blocks[name].marks)
        svg.raw("</g>")
    for style, x, y, anchor, words in picture.words:
        svg.text(style, x, y, words, text_anchor=anchor)
    return str(svg)
