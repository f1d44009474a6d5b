"""Backlash around the ring gear: what governs, what it says of runout, and what corrects it."""

from __future__ import annotations

import cmath
import math
from collections.abc import Mapping
from dataclasses import dataclass

from axle.backlash.ratios import Ratios
from axle.errors import AxleError
from axle.measure.range import BacklashLevel
from axle.spec.limits import BacklashLimits, BacklashRule


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
    def variation(self) -> float:
        """Largest less smallest [mm]: a runout test."""
        return self.largest - self.smallest

    @property
    def tight_place(self) -> int:
        """Number of the tightest place."""
        return min(self.places, key=lambda place: self.places[place])

    @property
    def mean(self) -> float:
        """Mean of the places [mm]: shown, never judged, since it hides a tight spot."""
        return sum(self.places.values()) / len(self.places)


@dataclass(frozen=True)
class Wave:
    """Backlash once around the ring: its first order.

    :param amplitude: half of what it rises and falls once a turn [mm].
    :param tight: angle of the tight spot, from place 1 the way the places count [rad].
    :param places: n, number of places behind it.
    :param runout: indicated runout of the ring gear that would bring it [mm].
    """

    amplitude: float
    tight: float
    places: int
    runout: float

    @property
    def total(self) -> float:
        """What it rises and falls once a turn [mm]."""
        return 2 * self.amplitude


def once_around(around: Around, places: int, per_ring: float) -> Wave | None:
    """First order of backlash around the ring, and the runout that would explain it.

    b(θ) = b₀ + A·cos(θ − φ) by least squares over n equally spaced places. A ring gear that wobbles
    by an amplitude x moves the backlash by q·x, and an indicator shows twice an amplitude.

    :param around: readings by place [mm].
    :param places: n, 4 or more; every one of them must have been read.
    :param per_ring: q, backlash per ring gear movement [1], more than 0.
    :returns: nothing with fewer places, or where one is missing; angles in [rad].
    :source: discrete Fourier transform; the ratio of :mod:`axle.backlash.ratios`.

    >>> wave = once_around(Around({1: 0.20, 2: 0.25, 3: 0.30, 4: 0.25}), 4, per_ring=1.0)
    >>> round(wave.amplitude, 3), round(wave.runout, 3), round(math.degrees(wave.tight))
    (0.05, 0.1, 0)
    """
    if places < 4 or set(around.places) != set(range(1, places + 1)):
        return None
    turns = [cmath.exp(1j * math.tau * (p - 1) / places) for p in range(1, places + 1)]
    first = 2 / places * sum(around.places[p + 1] * turn for p, turn in enumerate(turns))
    tight = (cmath.phase(first) + math.pi) % math.tau
    if math.isclose(tight, math.tau, abs_tol=1e-9):
        tight = 0.0
    return Wave(abs(first), tight, places=places, runout=2 * abs(first) / per_ring)


def tooth_at(place: int, places: int, teeth: int) -> int:
    """Number of the ring gear's tooth at a place, counted from the mark at place 1.

    :param place: from 1.
    :param places: n, number of places around the ring.
    :param teeth: N2.
    :returns: tooth, 1 to N2; the nearest, since places need not fall on teeth; no unit.
    :source: counting.

    >>> tooth_at(3, 4, 41)
    22
    """
    return round((place - 1) * teeth / places + 1e-9) % teeth + 1


@dataclass(frozen=True)
class BacklashVerdict:
    """How readings stand to the limits: each finding is a short sentence in the trade's words."""

    in_range: bool
    level: BacklashLevel
    variation_ok: bool


def check_backlash(around: Around, limits: BacklashLimits) -> BacklashVerdict:
    """Judge backlash by the sheet's rule; limits are inclusive.

    :param around: readings by place [mm].
    :param limits: the sheet's limits [mm].
    :returns: verdict; ``level`` is that of the governing reading.
    :source: common practice (the smallest of at least three places governs).

    >>> check_backlash(Around({1: 0.30, 2: 0.29}), BacklashLimits(0.18, 0.28, 0.08)).level.value
    'loose'
    """
    level = limits.level(around.smallest, around.largest)
    spread_ok = limits.allows_variation(around.variation)
    return BacklashVerdict(level is BacklashLevel.IN_RANGE and spread_ok, level, spread_ok)


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
    if limits.rule is BacklashRule.EVERY:
        at = (around.smallest + around.largest) / 2
    return (limits.aim - at) / ratios.per_ring
