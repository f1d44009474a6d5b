"""Limits that a figure is held to: both ends count as in range, and either end may be open."""

from __future__ import annotations

import math
from dataclasses import dataclass
from enum import Enum
from typing import Final

from axle.errors import AxleError
from axle.units import Unit, brief

# What is typed is kept to a few decimal places of the core's unit, and converted in binary: so far two
# figures that were typed alike may lie apart [mm or N·m]. Nothing in this trade is read so finely.
ROUNDING: Final = 1e-5
# How far over a least figure, where a sheet gives no top, a move aims: a fifth, so that a reading's scatter
# does not fall below it. Common practice, no source.
_OVER_LEAST: Final = 0.2


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

    def side(self, value: float) -> str:
        """Say "under", "in range" or "over" for a value; limits are inclusive."""
        if value < self.low - ROUNDING:
            return "under"
        return "over" if value > self.high + ROUNDING else "in range"

    def holds(self, value: float) -> bool:
        """Say whether a value is in range, ends included."""
        return self.side(value) == "in range"

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


class Rule(Enum):
    """Which of the readings around the ring must lie in the range."""

    SMALLEST = "smallest"
    EVERY = "every"


@dataclass(frozen=True)
class BacklashLimits:
    """Limits for backlash at the heel; both ends count as in range.

    :param low: least backlash [mm], 0 or more.
    :param high: greatest backlash [mm], not under ``low``; infinite where the sheet gives none.
    :param spread: greatest difference around the ring [mm], more than 0.
    :param rule: whether the smallest reading governs or every one does.
    :param target: the sheet's one figure [mm], where it gives one.
    :raises AxleError: when the limits contradict each other.
    """

    low: float
    high: float
    spread: float
    rule: Rule = Rule.SMALLEST
    target: float | None = None

    def __post_init__(self) -> None:
        if not 0 <= self.low <= self.high:
            raise AxleError(
                "backlash limits", given=f"{self.low:g} to {self.high:g} mm", wanted="low to high"
            )
        if self.spread <= 0:
            raise AxleError("backlash spread", given=f"{self.spread:g} mm", wanted="more than 0")

    @property
    def range(self) -> Range:
        """The limits of the governing reading [mm]."""
        return Range(self.low, self.high, self.target)

    @property
    def middle(self) -> float:
        """Half way between the limits [mm], where both are given."""
        return self.range.middle

    @property
    def aim(self) -> float:
        """The backlash to aim the smallest reading at [mm]."""
        return self.range.aim

    @property
    def upper(self) -> float:
        """The top [mm], or as far over the aim as the aim lies over the bottom where there is none."""
        return self.range.upper

    def level(self, smallest: float, largest: float) -> str:
        """Say "tight", "loose" or "in range" of the governing readings [mm]; limits are inclusive."""
        governs = smallest if self.rule is Rule.SMALLEST else largest
        if self.range.side(smallest) == "under":
            return "tight"
        return "loose" if self.range.side(governs) == "over" else "in range"

    def allows_spread(self, spread: float) -> bool:
        """Say whether a difference around the ring [mm] is allowed."""
        return spread <= self.spread + ROUNDING
