"""Teeth that meet: every one with every other, or the same ones again and again."""

from __future__ import annotations

import math
from dataclasses import dataclass
from enum import Enum

from axle.errors import AxleError


class Meeting(Enum):
    """How the teeth of a pair meet."""

    HUNTING = "hunting"
    PARTLY = "partly hunting"
    NOT = "not hunting"


@dataclass(frozen=True)
class TeethMeeting:
    """How the teeth of a ring and pinion meet.

    :param pinion: N1, 5 to 20.
    :param ring: N2, more than N1, up to 80.
    :raises AxleError: outside these ranges.
    """

    pinion: int
    ring: int

    def __post_init__(self) -> None:
        if not 5 <= self.pinion <= 20:
            raise AxleError("pinion teeth", given=f"{self.pinion}", wanted="5 to 20")
        if not self.pinion < self.ring <= 80:
            raise AxleError("ring gear teeth", given=f"{self.ring}", wanted="more than the pinion's, to 80")

    @property
    def common(self) -> int:
        """g, the greatest common divisor of both counts."""
        return math.gcd(self.pinion, self.ring)

    @property
    def kind(self) -> Meeting:
        """Hunting where g is 1, partly where it is more, not where it is the pinion's own count."""
        if self.common == 1:
            return Meeting.HUNTING
        return Meeting.NOT if self.common == self.pinion else Meeting.PARTLY

    @property
    def ring_turns(self) -> int:
        """Turns of the ring gear after which the same teeth meet again: N1/g."""
        return self.pinion // self.common

    @property
    def words(self) -> str:
        """What follows for the work, in a sentence."""
        turns = f"{self.ring_turns} turn{'s' if self.ring_turns > 1 else ''} of the ring gear"
        if self.kind is Meeting.HUNTING:
            return f"Hunting: every tooth meets every other within {turns}; no marks to time."
        painted = f"{self.common} neighbouring painted teeth over {turns} show every pairing"
        if self.kind is Meeting.PARTLY:
            return (
                f"Partly hunting: a ring gear tooth meets {self.ring_turns} teeth of the pinion, never the "
                f"others. Time it by marks; {painted}."
            )
        return f"Not hunting: a ring gear tooth meets one tooth of the pinion. Time it by marks; {painted}."
