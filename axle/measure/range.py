"""Limits that a figure is held to: both ends count as in range, and either end may be open."""

from __future__ import annotations

import math
from dataclasses import dataclass
from enum import StrEnum
from typing import Final

from axle.measure.units import Unit, brief

# What is typed is kept to a few decimal places of the core's unit, and converted in binary: so far two
# figures that were typed alike may lie apart [mm or N·m]. Nothing in this trade is read so finely.
ROUNDING: Final = 1e-5
# How far over a least figure, where a sheet gives no top, a move aims: a fifth, so that a reading's scatter
# does not fall below it. Common practice, no source.
_OVER_LEAST: Final = 0.2


class RangeSide(StrEnum):
    """Where a value lies beside a range."""

    UNDER = "under"
    IN_RANGE = "in range"
    OVER = "over"


class BacklashLevel(StrEnum):
    """Where the backlash of an axle lies beside its limits."""

    TIGHT = "tight"
    IN_RANGE = "in range"
    LOOSE = "loose"
    NOT_READ = "not read"


@dataclass(frozen=True)
class Range:
    """Limits in the core's unit, ends included; an open top is infinite, "at most" begins at 0.

    :param low: [mm or N·m].
    :param high: [mm or N·m].
    :param target: the one figure that the sheet gives, where it gives one with a tolerance around it.
    """

    low: float
    high: float
    target: float | None = None

    @property
    def has_top(self) -> bool:
        """Whether there is a top at all."""
        return math.isfinite(self.high)

    @property
    def middle(self) -> float:
        """Half way between the limits, of a range that has both ends."""
        return (self.low + self.high) / 2

    @property
    def aim(self) -> float:
        """What a move aims at: the sheet's one figure, the middle, or a little over a least figure."""
        if self.target is not None:
            return self.target
        return self.middle if self.has_top else self.low * (1 + _OVER_LEAST)

    @property
    def upper(self) -> float:
        """The top, or as far over the aim as the aim lies over the bottom where there is none."""
        return self.high if self.has_top else max(2 * self.aim - self.low, self.low)

    def side(self, value: float) -> RangeSide:
        """Say on which side of the range a value lies; limits are inclusive."""
        if value < self.low - ROUNDING:
            return RangeSide.UNDER
        return RangeSide.OVER if value > self.high + ROUNDING else RangeSide.IN_RANGE

    def holds(self, value: float) -> bool:
        """Say whether a value is in range, ends included."""
        return self.side(value) is RangeSide.IN_RANGE

    def miss(self, value: float) -> float:
        """How far a value lies outside, 0 in range [mm or N·m]."""
        return 0.0 if self.holds(value) else max(self.low - value, value - self.high)

    def words(self, unit: Unit) -> str:
        """Write it in a unit, without the unit's name: "7–11", "from 7", "up to 5", "8 ± 1".

        :param unit: the unit to show it in.
        """
        if self.target is not None:
            return f"{brief(self.target, unit)} ± {brief(self.high - self.target, unit)}"
        if not self.has_top:
            return f"from {brief(self.low, unit)}"
        if not self.low:
            return f"up to {brief(self.high, unit)}"
        return f"{brief(self.low, unit)}–{brief(self.high, unit)}"
