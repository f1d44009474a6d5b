"""Backlash around the ring gear, and the ring gear movement that corrects it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from enum import Enum

from axle.errors import AxleError
from axle.gearset import GearSet, Stance, backlash_per_depth, backlash_per_ring_movement, indicated


class Rule(Enum):
    """Which of the readings around the ring must lie in the range."""

    SMALLEST = "smallest"
    EVERY = "every"


@dataclass(frozen=True)
class BacklashLimits:
    """Limits for backlash at the heel; both ends count as in range.

    :param low: least backlash [mm], 0 or more.
    :param high: greatest backlash [mm], not under ``low``.
    :param spread: greatest difference around the ring [mm], more than 0.
    :param rule: whether the smallest reading governs or every one does.
    :raises AxleError: when the limits contradict each other.
    """

    low: float
    high: float
    spread: float
    rule: Rule = Rule.SMALLEST

    def __post_init__(self) -> None:
        if not 0 <= self.low <= self.high:
            raise AxleError(
                "backlash limits", given=f"{self.low:g} to {self.high:g} mm", wanted="low to high"
            )
        if self.spread <= 0:
            raise AxleError("backlash spread", given=f"{self.spread:g} mm", wanted="more than 0")

    @property
    def middle(self) -> float:
        """The backlash to aim the smallest reading at [mm]."""
        return (self.low + self.high) / 2


@dataclass(frozen=True)
class Around:
    """Backlash read at places around the ring gear [mm], by place number."""

    places: Mapping[int, float]

    def __post_init__(self) -> None:
        if not self.places:
            raise AxleError("backlash", given="no reading", wanted="at least one place")
        if min(self.places.values()) < 0:
            raise AxleError("backlash", given="a negative reading", wanted="0 or more at every place")

    @property
    def smallest(self) -> float:
        """The tightest place [mm]; it governs, since an average hides a tight spot."""
        return min(self.places.values())

    @property
    def largest(self) -> float:
        """The loosest place [mm]."""
        return max(self.places.values())

    @property
    def spread(self) -> float:
        """Largest less smallest [mm]: a runout test."""
        return self.largest - self.smallest

    @property
    def tight_place(self) -> int:
        """Number of the tightest place."""
        return min(self.places, key=lambda place: self.places[place])


@dataclass(frozen=True)
class Verdict:
    """How readings stand to the limits: each finding is a short sentence in the trade's words."""

    in_range: bool
    level: str
    spread_ok: bool


def judge(around: Around, limits: BacklashLimits) -> Verdict:
    """Judge backlash by the sheet's rule; limits are inclusive.

    :param around: readings by place [mm].
    :param limits: the sheet's limits [mm].
    :returns: verdict; ``level`` is "tight", "loose" or "in range" of the governing reading.
    :source: common practice (the smallest of at least three places governs).

    >>> judge(Around({1: 0.30, 2: 0.29}), BacklashLimits(0.18, 0.28, 0.08)).level
    'loose'
    """
    # Readings come in thousandths of an inch or hundredths of a millimetre: a nanometre of binary
    # rounding must not decide a reading that sits on the limit.
    hair = 1e-6
    governing_high = around.smallest if limits.rule is Rule.SMALLEST else around.largest
    if around.smallest < limits.low - hair:
        level = "tight"
    elif governing_high > limits.high + hair:
        level = "loose"
    else:
        level = "in range"
    spread_ok = around.spread <= limits.spread + hair
    return Verdict(level == "in range" and spread_ok, level, spread_ok)


@dataclass(frozen=True)
class Ratios:
    """What the indicator shows per movement, expected from the gears' geometry.

    :param per_ring: backlash opened per ring gear movement away from the pinion [1].
    :param per_depth: backlash changed per pinion depth [1], negative.
    :param spread: relative standard spread of both.
    """

    per_ring: float
    per_depth: float
    spread: float


def prior_ratios(gears: GearSet, stance: Stance) -> Ratios:
    """Expected ratios before this job has shown its own.

    :param gears: the gear set.
    :param stance: how the indicator stands at the heel.
    :returns: expected ratios [1] and their relative spread [1].
    :source: closed forms of :mod:`axle.gearset`; spread of usual sets around them from memory.

    >>> round(prior_ratios(GearSet(11, 41), Stance.SQUARE).per_ring, 2)
    0.8
    """
    shown = indicated(gears, stance)
    return Ratios(backlash_per_ring_movement(gears) * shown, backlash_per_depth(gears) * shown, spread=0.12)


def movement_for(around: Around, limits: BacklashLimits, ratios: Ratios) -> float:
    """Ring gear movement that brings the governing reading to where it should be.

    The smallest place goes to the middle of the range; where every place must be in range, the
    middle of the readings does.

    :param around: readings by place [mm].
    :param limits: the sheet's limits [mm].
    :param ratios: backlash per movement.
    :returns: Δ ring offset [mm], > 0 away from the pinion.
    :source: common practice.

    >>> limits = BacklashLimits(0.18, 0.28, 0.08)
    >>> round(movement_for(Around({1: 0.30, 2: 0.31}), limits, Ratios(0.8, -0.3, 0.1)), 4)
    -0.0875
    """
    at = around.smallest
    if limits.rule is Rule.EVERY:
        at = (around.smallest + around.largest) / 2
    return (limits.middle - at) / ratios.per_ring
