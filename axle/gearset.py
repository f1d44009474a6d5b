"""A ring and pinion as a builder knows it, and what its geometry says of backlash.

The closed forms give backlash in the plane of rotation at the mean radius. What an indicator
shows there is another quantity; :func:`indicated` converts.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from enum import Enum

from axle.errors import AxleError


class Stance(Enum):
    """How the indicator stands on the heel when backlash is read."""

    ALONG = "along"
    SQUARE = "square"
    UNSURE = "unsure"


@dataclass(frozen=True)
class GearSet:
    """Tooth counts and usual proportions of a ring and pinion.

    :param pinion_teeth: N1, 5 to 20.
    :param ring_teeth: N2, more than N1, up to 80.
    :param ring_diameter: D2, outside diameter of the ring gear [mm], 100 to 400.
    :param face_width: F [mm], more than 0 and under a third of D2.
    :param offset: E, how far the pinion's axis passes the ring's [mm]; 0 for a spiral bevel.
    :param ring_spiral: ψ, spiral angle of the ring gear at the mean point [rad].
    :param drive_angle: α_d, pressure angle of the drive flank [rad].
    :param coast_angle: α_c, pressure angle of the coast flank [rad].
    :param family: family of cut, for what is not known of it.
    :param cutter_radius: r_c [mm]; the family's when 0.
    :param working_depth: h_w at the mean point [mm]; the usual one when 0.
    :param addendum_share: of the ring's tooth, share of h_w; the usual one when 0.
    :param drive_convex: the drive flank is the ring gear's convex one.
    :param assumed: figures that are the family's, not the maker's.
    :raises AxleError: when a value is outside these ranges.
    :source: usual proportions from memory, to be replaced by the gear maker's figures.
    """

    pinion_teeth: int
    ring_teeth: int
    ring_diameter: float = 222.0
    face_width: float = 32.0
    offset: float = 38.0
    ring_spiral: float = math.radians(28.2)
    drive_angle: float = math.radians(15.0)
    coast_angle: float = math.radians(27.0)
    family: str = "large_cutter"
    cutter_radius: float = 0.0
    working_depth: float = 0.0
    addendum_share: float = 0.0
    drive_convex: bool = True
    assumed: tuple[str, ...] = ()

    def __post_init__(self) -> None:
        _within("pinion teeth", self.pinion_teeth, 5, 20)
        _within("ring gear teeth", self.ring_teeth, self.pinion_teeth + 1, 80)
        _within("ring gear diameter, mm", self.ring_diameter, 100, 400)
        _within("face width, mm", self.face_width, 1, self.ring_diameter / 3)
        _within("offset, mm", abs(self.offset), 0, self.ring_diameter / 3)
        _within("ring spiral angle, rad", self.ring_spiral, 0, math.radians(60))
        _within("drive pressure angle, rad", self.drive_angle, math.radians(5), math.radians(40))
        _within("coast pressure angle, rad", self.coast_angle, math.radians(5), math.radians(40))
        if self.cutter_radius:
            _within("cutter radius, mm", self.cutter_radius, 0.2 * self.ring_diameter, self.ring_diameter)
        if self.working_depth:
            _within("working depth, mm", self.working_depth, 1, self.ring_diameter / 8)
        if self.addendum_share:
            _within("ring gear's addendum, share of the working depth", self.addendum_share, 0.05, 0.6)

    @property
    def ratio(self) -> float:
        """N2/N1."""
        return self.ring_teeth / self.pinion_teeth

    @property
    def is_hunting(self) -> bool:
        """Whether every tooth meets every tooth, so that no timing marks matter."""
        return math.gcd(self.pinion_teeth, self.ring_teeth) == 1

    @property
    def ring_pitch_angle(self) -> float:
        """Γ [rad]: exact for a spiral bevel; for an offset pinion the usual first guess.

        The guess atan(N2/(1.2·N1)) is within about 2° for automotive sets (from memory).
        """
        enlargement = 1.2 if self.offset else 1.0
        return math.atan(self.ring_teeth / (enlargement * self.pinion_teeth))

    @property
    def pinion_pitch_angle(self) -> float:
        """γ [rad], taken as the complement of Γ."""
        return math.pi / 2 - self.ring_pitch_angle

    @property
    def mean_radius(self) -> float:
        """r_m = D2/2 − (F/2)·sin Γ [mm]."""
        return self.ring_diameter / 2 - self.face_width / 2 * math.sin(self.ring_pitch_angle)

    @property
    def heel_over_mean(self) -> float:
        """R_heel/r_m."""
        return self.ring_diameter / 2 / self.mean_radius


def backlash_per_ring_movement(gears: GearSet) -> float:
    """Backlash opened per unit of ring gear movement away from the pinion.

    In the plane of rotation at the mean radius: (tan α_d + tan α_c)·sin Γ/cos ψ. Exact for a
    rigid displacement, also for unequal flank angles.

    :param gears: the gear set.
    :returns: ratio [1], 0.72 to 0.98 for automotive sets.
    :source: rigid-body displacement of the two flanks, derived in the tests.

    >>> round(backlash_per_ring_movement(GearSet(11, 41)), 2)
    0.84
    """
    return _flank_sum(gears) * math.sin(gears.ring_pitch_angle) / math.cos(gears.ring_spiral)


def backlash_per_depth(gears: GearSet) -> float:
    """Backlash changed per unit of pinion depth; negative, since deeper closes it.

    In the plane of rotation at the mean radius: −(tan α_d + tan α_c)·sin γ/cos ψ.

    :param gears: the gear set.
    :returns: ratio [1], −0.23 to −0.40 for automotive sets.
    :source: rigid-body displacement of the two flanks, derived in the tests.

    >>> round(backlash_per_depth(GearSet(11, 41)), 2)
    -0.27
    """
    return -_flank_sum(gears) * math.sin(gears.pinion_pitch_angle) / math.cos(gears.ring_spiral)


def indicated(gears: GearSet, stance: Stance) -> float:
    """What an indicator at the heel shows per unit of backlash at the mean radius.

    A plunger along the heel's motion reads the movement at the heel's radius; one square to the
    flank reads that times cos α·cos ψ, α the mean of both flank angles.

    :param gears: the gear set.
    :param stance: how the indicator stands; one that nobody told counts as in line with the motion.
    :returns: factor [1].
    :source: direction cosines of the plunger, the flank's normal and the motion.

    >>> round(indicated(GearSet(11, 41), Stance.ALONG), 2)
    1.16
    """
    if stance is not Stance.SQUARE:
        return gears.heel_over_mean
    mean_angle = (gears.drive_angle + gears.coast_angle) / 2
    return gears.heel_over_mean * math.cos(mean_angle) * math.cos(gears.ring_spiral)


def _flank_sum(gears: GearSet) -> float:
    return math.tan(gears.drive_angle) + math.tan(gears.coast_angle)


def _within(what: str, value: float, low: float, high: float) -> None:
    if not low <= value <= high:
        raise AxleError(what, given=f"{value:g}", wanted=f"{low:g} to {high:g}")
