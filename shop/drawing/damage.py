"""What is seen on a part, as small drawings: the part as it is, and over it what the damage adds."""

from __future__ import annotations

from functools import cache

import msgspec

from axle.data_file import read_table
from axle.errors import AxleError
from axle.procedure.findings import parts
from shop.drawing.marks import Mark, put
from shop.drawing.svg import Svg

WIDTH, HEIGHT = 132, 84


class _Base(msgspec.Struct):
    marks: list[Mark]


class _File(msgspec.Struct):
    base: dict[str, str]
    part: dict[str, _Base]
    sign: dict[str, list[Mark]]


def damage(part: str, sign: str) -> str:
    """One sign on one part.

    :param part: its name in ``findings.toml``.
    :param sign: likewise.
    :raises AxleError: for a part or a sign that is not drawn.
    """
    drawn = _file()
    if part not in drawn.base or sign not in drawn.sign:
        raise AxleError(
            "drawing", given=f"“{part[:20]}, {sign[:20]}”", wanted="a part and a sign of findings.toml"
        )
    seen = {one.sign: one.title for one in parts()[part].signs}.get(sign, sign)
    svg = Svg(WIDTH, HEIGHT, label=f"{parts()[part].title}: {seen}", name="damage")
    base = drawn.base[part]
    seen_on = drawn.sign.get(f"{base}_{sign}", drawn.sign[sign])
    put(svg, (*drawn.part[base].marks, *seen_on))
    return str(svg)


@cache
def _file() -> _File:
    return read_table(__file__, "data/damage.toml", _File)
