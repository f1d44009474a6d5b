"""Limits that a figure is held to: both ends count as in range, and either end may be open."""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum

from axle.errors import AxleError
from axle.measure.range import ROUNDING, BacklashLevel, Range, RangeSide


class BacklashRule(Enum):
    """Which of the readings around the ring must lie in the range."""

    SMALLEST = "smallest"
    EVERY = "every"


@dataclass(frozen=True)
class BacklashLimits:
    """Limits for backlash at the heel; both ends count as in range.

    :param low: least backlash [mm], 0 or more.
    :param high: greatest backlash [mm], not under ``low``; infinite where the sheet gives none.
    :param variation: greatest difference around the ring [mm], more than 0.
    :param rule: whether the smallest reading governs or every one does.
    :param target: the sheet's one figure [mm], where it gives one.
    :raises AxleError: when the limits contradict each other.
    """

    low: float
    high: float
    variation: float
    rule: BacklashRule = BacklashRule.SMALLEST
    target: float | None = None

    def __post_init__(self) -> None:
        if not 0 <= self.low <= self.high:
            raise AxleError(
                "backlash limits", given=f"{self.low:g} to {self.high:g} mm", wanted="low to high"
            )
        if self.variation <= 0:
            raise AxleError("backlash spread", given=f"{self.variation:g} mm", wanted="more than 0")

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

    def level(self, smallest: float, largest: float) -> BacklashLevel:
        """Judge the governing readings [mm]; limits are inclusive."""
        governs = smallest if self.rule is BacklashRule.SMALLEST else largest
        if self.range.side(smallest) is RangeSide.UNDER:
            return BacklashLevel.TIGHT
        return BacklashLevel.LOOSE if self.range.side(governs) is RangeSide.OVER else BacklashLevel.IN_RANGE

    def allows_variation(self, spread: float) -> bool:
        """Say whether a difference around the ring [mm] is allowed."""
        return spread <= self.variation + ROUNDING
