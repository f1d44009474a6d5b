"""A job's gear set as the contact engine takes it, and usual figures for what nobody knows of it."""

from __future__ import annotations

from collections.abc import Mapping
from functools import lru_cache

from axle.contact.cut import Cut, cut, family_named, tooth
from axle.contact.response import Response, response
from axle.errors import AxleError
from axle.gearset import GearSet


def cut_of(gears: GearSet) -> Cut:
    """A gear set as it was cut.

    :param gears: the gear set.
    :returns: the set, lengths [mm] and angles [rad].
    :raises AxleError: for a ratio or ring gear outside what can be computed.
    :source: the sheet's figures; ``families.toml`` for the rest.

    >>> round(cut_of(GearSet(11, 41)).cutter_radius)
    114
    """
    convex, concave = gears.drive_angle, gears.coast_angle
    if not gears.drive_convex:
        convex, concave = concave, convex
    return cut(
        gears.family,
        gears.pinion_teeth,
        gears.ring_teeth,
        gears.ring_diameter,
        face_width=gears.face_width,
        offset=gears.offset,
        ring_spiral=gears.ring_spiral,
        cutter_radius=gears.cutter_radius or None,
        convex_angle=convex,
        concave_angle=concave,
        working_depth=gears.working_depth or None,
        addendum_share=gears.addendum_share or None,
    )


def usual_figures(
    family: str,
    pinion_teeth: int,
    ring_teeth: int,
    ring_diameter: float,
    known: Mapping[str, float],
    *,
    drive_convex: bool,
) -> dict[str, float]:
    """Fill in what nobody knows of a gear set from its family of cut.

    :param family: key of the family.
    :param pinion_teeth: N1.
    :param ring_teeth: N2.
    :param ring_diameter: D2 [mm].
    :param known: figures that are known, by field of :class:`GearSet`, lengths [mm] and angles [rad].
    :param drive_convex: the drive flank is the ring gear's convex one.
    :returns: face width and offset [mm], ring spiral and both pressure angles [rad].
    :raises AxleError: where the spiral is not known and cannot be worked out.
    :source: ``families.toml``; the ring's spiral by the pitch point.

    >>> found = usual_figures("large_cutter", 11, 41, 222.0, {}, drive_convex=True)
    >>> round(found["offset"]), round(found["face_width"])
    (38, 32)
    """
    usual = family_named(family)
    drive, coast = usual.convex_angle, usual.concave_angle
    if not drive_convex:
        drive, coast = coast, drive
    found = {
        "face_width": usual.face_width * ring_diameter,
        "offset": usual.offset * ring_diameter,
        "drive_angle": drive,
        "coast_angle": coast,
        **known,
    }
    if "ring_spiral" not in found:
        found["ring_spiral"] = _spiral(
            family,
            pinion_teeth,
            n2=ring_teeth,
            diameter=ring_diameter,
            width=found["face_width"],
            offset=found["offset"],
        )
    return found


@lru_cache(maxsize=256)
def _spiral(family: str, n1: int, n2: int, diameter: float, width: float, offset: float) -> float:
    try:
        made = tooth(cut(family, n1, n2, diameter, face_width=width, offset=offset))
    except AxleError as problem:
        raise AxleError(
            "ring spiral angle",
            given=f"nothing, and {problem.what} {problem.given}",
            wanted="the maker's figure, where it cannot be worked out",
        ) from None
    return made.pitch.ring_spiral


@lru_cache(maxsize=128)
def not_computed(gears: GearSet) -> str:
    """Why no pattern can be computed for a gear set.

    :param gears: the gear set.
    :returns: what is wanted instead in words, ratio [1] or ring gear [mm]; empty where it can be.
    :source: :mod:`axle.contact.pitch` and :mod:`axle.contact.mesh`.

    >>> not_computed(GearSet(11, 41)), not_computed(GearSet(20, 41))[:17]
    ('', 'ratio: 41/20 = 2.')
    """
    try:
        item = cut_of(gears)
        for convex in (True, False):
            item.meshing(convex=convex).pattern(item.ease(convex=convex))
    except AxleError as refused:
        return str(refused)
    return ""


def computed(gears: GearSet) -> tuple[Response, float] | None:
    """What the computed pattern says of a set's backlash, or nothing where the set cannot be computed.

    :param gears: the gear set.
    :returns: sensitivities at the mean radius [1], and R_heel/r_m [1].
    :source: :mod:`axle.contact.response`.

    >>> found = computed(GearSet(11, 41))
    >>> round(found[0].backlash["ring"], 2), round(found[1], 2)
    (0.86, 1.16)
    """
    try:
        item = cut_of(gears)
        return response(item), gears.ring_diameter / 2 / tooth(item).pitch.mean_radius
    except AxleError:
        return None
