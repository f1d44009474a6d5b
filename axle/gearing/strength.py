"""What another tooth pair does to the strength of a set: a warning, not a calculation of life."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Final

from axle.errors import AxleError
from axle.gearset import GearSet

# Under so much of the old pinion's size, or of so few teeth, a set is called weak: from memory.
SMALL: Final = 0.85
FEW_TEETH: Final = 7
# Teeth that share the load along the face: under this a set is loud and bears on one tooth. From memory.
LITTLE_OVERLAP: Final = 1.0


def overlap(gears: GearSet) -> float:
    """Overlap along the face: how many teeth carry at once because they lie askew.

    :param gears: the set; N1 5 to 20, angles [rad], lengths [mm].
    :returns: m_F ≈ F·tan ψ/(2π·r_m/N2) [1].
    :source: face contact ratio of spiral bevel gears at the mean cone, from memory.

    >>> round(overlap(GearSet(11, 41)), 2)
    1.17
    """
    pitch = 2 * math.pi * gears.mean_radius / gears.ring_teeth
    return gears.face_width * math.tan(gears.ring_spiral) / pitch


def pinion_size(old: float, new: float) -> float:
    """The new pinion's diameter over the old one's, on one size of ring gear.

    :param old: ratio before, above 1.
    :param new: ratio now.
    :returns: R_old/R_new [1].
    :raises AxleError: for a ratio of none.
    :source: the ring gear's diameter stays, the pinion's follows its share of teeth.

    >>> round(pinion_size(41 / 15, 41 / 11), 3)
    0.733
    """
    if not (old > 1 and new > 1):
        raise AxleError("ratio", given=f"{old:g} and {new:g}", wanted="more than 1")
    return old / new


@dataclass(frozen=True)
class Strength:
    """How another pair stands against the one that was in it.

    :param size: pinion's diameter over the old one's, or nothing where that is not known.
    :param overlap: teeth that carry at once along the face.
    :param teeth: of the pinion.
    """

    size: float | None
    overlap: float
    teeth: int

    @property
    def is_weak(self) -> bool:
        """Whether it is worth a warning."""
        return self.teeth < FEW_TEETH or (self.size is not None and self.size < SMALL)
