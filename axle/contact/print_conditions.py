"""How a print was made: what bears on how far it can be believed."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Final

from axle.contact.compound import Compound
from axle.errors import AxleError, quoted

LOADS: Final[Mapping[str, str]] = {
    "brake": "by the brake",
    "pry": "pry bar or wood",
    "hand": "by hand on the ring gear",
    "none": "none",
}
DIRECTIONS: Final[Mapping[str, str]] = {
    "both": "turned both ways",
    "drive": "drive way only",
    "coast": "coast way only",
}
MOST_PLACES: Final = 12
_MOST_TURNS, _MOST_TEETH = 50, 80


@dataclass(frozen=True)
class Making:
    """How a print was made.

    :param compound: its colour.
    :param load: key of :data:`LOADS`.
    :param direction: key of :data:`DIRECTIONS`.
    :param turns: turns of the ring gear, 0 to 50.
    :param teeth: teeth painted at each place, 1 to 80.
    :param places: places painted around the ring gear, 1 to 12.
    :raises AxleError: naming what cannot be.
    """

    compound: Compound = Compound.YELLOW
    load: str = "hand"
    direction: str = "both"
    turns: float = 1.0
    teeth: int = 4
    places: int = 1

    def __post_init__(self) -> None:
        for what, given, words in (
            ("load", self.load, LOADS),
            ("direction", self.direction, DIRECTIONS),
        ):
            if given not in words:
                raise AxleError(f"print, {what}", given=quoted(given, 20), wanted=" or ".join(words))
        for what, number, low, high in (
            ("turns", self.turns, 0, _MOST_TURNS),
            ("teeth", self.teeth, 1, _MOST_TEETH),
            ("places", self.places, 1, MOST_PLACES),
        ):
            if not low <= number <= high:
                raise AxleError(f"print, {what}", given=f"{number:g}", wanted=f"{low} to {high}")

    @property
    def words(self) -> str:
        """How it was made, in one line."""
        turns = f"{self.turns:g} turn{'s' if self.turns != 1 else ''}"
        return (
            f"{self.compound.value} compound on {self.teeth} teeth, load {LOADS[self.load]}, "
            f"{DIRECTIONS[self.direction]}, {turns}"
        )

    @property
    def doubts(self) -> tuple[str, ...]:
        """What makes it say less than it could."""
        lines = []
        if self.turns > 1:
            lines.append(
                f"{self.turns:g} turns: runout averages out. One turn of the ring gear shows it as wander."
            )
        if self.teeth < 3:
            lines.append(
                f"{self.teeth} teeth painted: 3 to 5 side by side tell a stray mark from the pattern."
            )
        if self.load == "none":
            lines.append("Printed without load: the patch is faint and small. Hold the ring gear back.")
        if self.direction != "both":
            lines.append(
                f"Turned the {self.direction} way only: the other flank is not printed. Turn both ways."
            )
        return tuple(lines)


def making_of(given: Mapping[str, object]) -> Making:
    """Read how a print was made from plain data; what is missing is as usual.

    :param given: names of :class:`Making` with plain values.
    :raises AxleError: naming what cannot be used.
    :source: the project's own job format.

    >>> making_of({"compound": "white", "turns": "3"}).doubts[0][:8]
    '3 turns:'
    """
    usual = Making()
    try:
        compound = Compound(str(given.get("compound") or usual.compound.value))
    except ValueError:
        raise AxleError(
            "print, compound",
            given=quoted(str(given.get("compound")), 20),
            wanted=" or ".join(c.value for c in Compound),
        ) from None
    return Making(
        compound,
        str(given.get("load") or usual.load),
        direction=str(given.get("direction") or usual.direction),
        turns=_number(given, "turns", usual.turns),
        teeth=int(_whole(given, "teeth", usual.teeth)),
        places=int(_whole(given, "places", usual.places)),
    )


def _number(given: Mapping[str, object], name: str, usual: float) -> float:
    text = str(given.get(name, "")).strip().replace(",", ".")
    try:
        return float(text) if text else float(usual)
    except ValueError:
        raise AxleError(f"print, {name}", given=quoted(text, 20), wanted="a number") from None


def _whole(given: Mapping[str, object], name: str, usual: int) -> float:
    value = _number(given, name, usual)
    if not math.isfinite(value) or value % 1:
        raise AxleError(f"print, {name}", given=f"{value:g}", wanted="a whole number")
    return value
