"""The ratio tag as it is stamped or printed: teeth, ratio, date, job, oil."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

from shop.drawing.svg import Svg

_WIDE: Final = 420
_HIGH: Final = 170
_LONGEST: Final = 44


@dataclass(frozen=True)
class TagWords:
    """What stands on it."""

    teeth: str
    ratio: str
    day: str
    job: str
    oil: str


def ratio_tag(words: TagWords) -> Svg:
    """Draw it at its own proportions, with the hole for the cover bolt."""
    svg = Svg(_WIDE, _HIGH, label=f"Ratio tag: {words.teeth}, {words.ratio}", name="ratio-tag")
    svg.rect("steel", 4, 4, _WIDE - 8, _HIGH - 8, rx="14")
    svg.circle("void", 40, _HIGH / 2, 20)
    svg.text("place", 84, 66, words.teeth, font_size="56")
    svg.text("place", _WIDE - 20, 66, words.ratio, font_size="44", text_anchor="end")
    svg.text("words", 84, 102, f"{words.day} · {words.job}")
    oil = words.oil if len(words.oil) <= _LONGEST else f"{words.oil[: _LONGEST - 1]}…"
    svg.text("title", 84, 130, oil)
    return svg
