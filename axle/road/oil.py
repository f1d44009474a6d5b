"""Oil: which, with what in it, and how much at the angle at which the housing hangs."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cache

import msgspec

from axle.data_file import read_table
from axle.errors import AxleError


class _Volume(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    per_cube: float
    share: float
    clearance: float
    hole_out: float


class _Grade(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    oil: str
    why: str


class _Table(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    grade: dict[str, _Grade]
    additive: dict[str, str]
    volume: _Volume


@cache
def _table() -> _Table:
    return read_table(__file__, "data/oil.toml", _Table)


@dataclass(frozen=True)
class OilWanted:
    """Which oil goes in.

    :param grade: class and viscosity.
    :param why: for this use, in a sentence.
    :param additive: what goes into it for the differential.
    """

    grade: str
    why: str
    additive: str


def oil_wanted(use: str, differential: str) -> OilWanted:
    """The usual oil for a use and a differential.

    :param use: "road", "tow", "track" or "works".
    :param differential: as a job has it, such as "clutch".
    :raises AxleError: for a use or a differential that is none.
    :source: ``data/oil.toml``; common practice, from memory; the maker's sheet comes first.

    >>> oil_wanted("road", "mechanical").additive
    'none: modifier makes it slip'
    """
    table = _table()
    if use not in table.grade:
        raise AxleError("use", given=f"“{use[:20]}”", wanted=", ".join(table.grade))
    if differential not in table.additive:
        raise AxleError("differential", given=f"“{differential[:20]}”", wanted=", ".join(table.additive))
    grade = table.grade[use]
    return OilWanted(grade.oil, grade.why, table.additive[differential])


def usual_volume(ring_diameter: float) -> tuple[float, float]:
    """How much a housing usually takes, by the size of its ring gear.

    :param ring_diameter: D2 [mm], 100 to 400.
    :returns: least and most [l].
    :raises AxleError: for a ring gear that no axle of a car has.
    :source: ``data/oil.toml``: volume goes with the cube of the size; from memory, 25 % either way.

    >>> [round(volume, 1) for volume in usual_volume(222)]
    [1.6, 2.7]
    """
    if not 100 <= ring_diameter <= 400:
        raise AxleError("ring gear diameter", given=f"{ring_diameter:g} mm", wanted="100 to 400 mm")
    volume = _table().volume
    middle = volume.per_cube * (ring_diameter / 1000) ** 3
    return middle * (1 - volume.share), middle * (1 + volume.share)


@dataclass(frozen=True)
class OilLevel:
    """Oil in a housing that hangs at an angle, filled to its hole.

    :param litres: how much stands in it.
    :param level: height of the oil over the axle's centre [mm].
    :param radius: of the bowl [mm].
    :param ring_radius: of the ring gear [mm].
    :param hole_out: how far the hole lies from the axle's centre, level [mm].
    :param pinion_up: by how much the nose points higher than at the sheet's angle [rad].
    :param behind: the hole is in the rear cover.
    """

    litres: float
    level: float
    radius: float
    ring_radius: float
    hole_out: float
    pinion_up: float
    behind: bool


def filled_to_hole(
    nominal: float, ring_diameter: float, hole: float, pinion_up: float, *, behind: bool = True
) -> OilLevel:
    """How much oil stands in a housing filled to its hole, where the housing hangs at another angle.

    The bowl is taken as a cylinder around the axle's centre; its width follows from the nominal volume.

    :param nominal: V of the sheet, level to the hole at the sheet's angle [l], above 0 to 30.
    :param ring_diameter: D2 [mm], 100 to 400.
    :param hole: height of the hole under the axle's centre at that angle [mm]; below 0 above it.
    :param pinion_up: by how much the pinion's nose points higher than there [rad], −0.6 to 0.6.
    :param behind: the hole is in the rear cover; else beside the pinion.
    :returns: what stands in it; a hole behind goes down as the nose comes up, and less goes in.
    :raises AxleError: outside these ranges, or where the hole leaves the bowl.
    :source: segment of a circle, A = r²·acos(−y/r) + y·√(r² − y²), y the level over the centre.

    >>> filled_to_hole(2.2, 222, 30, 0.0).litres
    2.2
    >>> round(filled_to_hole(2.2, 222, 30, math.radians(5)).litres, 2)
    1.84
    """
    if not 0 < nominal <= 30:
        raise AxleError("oil", given=f"{nominal:g} l", wanted="above 0, to 30 l")
    usual_volume(ring_diameter)
    if not -0.6 <= pinion_up <= 0.6:
        raise AxleError("angle", given=f"{math.degrees(pinion_up):.0f}°", wanted="−34 to 34°")
    table = _table().volume
    radius = ring_diameter / 2 + table.clearance
    out = table.hole_out * ring_diameter * (1 if behind else -1)
    level = -hole * math.cos(pinion_up) - out * math.sin(pinion_up)
    for height in (-hole, level):
        if not -0.98 * radius < height < 0.98 * radius:
            raise AxleError(
                "fill hole",
                given=f"{-height:.0f} mm under the centre",
                wanted=f"inside the housing, within {0.98 * radius:.0f} mm of it",
            )
    litres = nominal * _segment(level, radius) / _segment(-hole, radius)
    across = out * math.cos(pinion_up) - hole * math.sin(pinion_up)
    return OilLevel(litres, level, radius, ring_diameter / 2, abs(across), pinion_up, behind)


def _segment(level: float, radius: float) -> float:
    return radius**2 * math.acos(-level / radius) + level * math.sqrt(radius**2 - level**2)
