"""How a gear set was cut: what its maker or a measurement tells, and usual proportions for the rest."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import cache, lru_cache
from typing import Any, Final

from axle.contact.flank import Flank, Tooth
from axle.contact.pattern import EaseOff, Meshing
from axle.contact.pitch import solve_pitch
from axle.data_file import read_table
from axle.errors import AxleError

_LEAST_RATIO, _MOST_RATIO = 2.5, 7.2
_LEAST_RING, _MOST_RING = 150.0, 300.0
# The ring on which the families' crowning is stated [mm].
_STATED_ON: Final = 222.0
_PLAIN: Final = EaseOff()
_ANGLES: Final = ("pinion_spiral", "convex_angle", "concave_angle")


@dataclass(frozen=True)
class Family:
    """Usual proportions of a kind of gear set, as shares of the ring gear's diameter where lengths.

    :param key: its name in files.
    :param name: its name on a page.
    :param words: what it is.
    :param offset: E/D2 [1].
    :param face_width: F/D2 [1].
    :param pinion_spiral: ψ1 [rad].
    :param cutter_radius: r_c/D2 [1].
    :param convex_angle: α of the ring's convex flank [rad].
    :param concave_angle: α of its concave flank [rad].
    :param lengthwise: crowning along the face, on a ring of 222 mm [mm].
    :param profile: crowning up the tooth, likewise [mm].
    :param convex_centre: (u, v) of the cut's own centre.
    :param concave_centre: likewise.
    """

    key: str
    name: str
    words: str
    offset: float
    face_width: float
    pinion_spiral: float
    cutter_radius: float
    convex_angle: float
    concave_angle: float
    lengthwise: float
    profile: float
    convex_centre: tuple[float, float]
    concave_centre: tuple[float, float]


@dataclass(frozen=True)
class Cut:
    """A gear set as it was cut, every figure settled.

    :param pinion_teeth: N1.
    :param ring_teeth: N2; N2/N1 from 2.5 to 7.2.
    :param ring_diameter: D2 [mm], 150 to 300.
    :param face_width: F [mm].
    :param offset: E [mm], 0 or more: the pinion above centre is the mirror image.
    :param spiral: ψ2 of the ring, or ψ1 of the pinion [rad].
    :param spiral_of_pinion: the spiral is the pinion's.
    :param cutter_radius: r_c [mm].
    :param convex_angle: α of the ring's convex flank [rad].
    :param concave_angle: α of its concave flank [rad].
    :param convex_ease: crown of the convex flank.
    :param concave_ease: crown of the concave one.
    :param working_depth: h_w at the mean point [mm]; the usual one when 0.
    :param addendum_share: of the ring's tooth, share of the working depth; the usual one when 0.
    :raises AxleError: for a ratio or ring outside what is treated.
    """

    pinion_teeth: int
    ring_teeth: int
    ring_diameter: float
    face_width: float
    offset: float
    spiral: float
    spiral_of_pinion: bool
    cutter_radius: float
    convex_angle: float
    concave_angle: float
    convex_ease: EaseOff
    concave_ease: EaseOff
    working_depth: float = 0.0
    addendum_share: float = 0.0

    def __post_init__(self) -> None:
        if not _LEAST_RATIO <= self.ratio <= _MOST_RATIO:
            raise AxleError(
                "ratio",
                given=f"{self.ring_teeth}/{self.pinion_teeth} = {self.ratio:.2f}",
                wanted=f"{_LEAST_RATIO} to {_MOST_RATIO} for a computed pattern",
            )
        if not _LEAST_RING <= self.ring_diameter <= _MOST_RING:
            raise AxleError(
                "ring gear diameter",
                given=f"{self.ring_diameter:g} mm",
                wanted=f"{_LEAST_RING:g} to {_MOST_RING:g} mm for a computed pattern",
            )

    @property
    def ratio(self) -> float:
        """N2/N1."""
        return self.ring_teeth / self.pinion_teeth

    def ease(self, *, convex: bool) -> EaseOff:
        """Crown of a flank."""
        return self.convex_ease if convex else self.concave_ease

    def meshing(self, *, convex: bool) -> Meshing:
        """A flank in mesh; computed once for a set.

        :raises AxleError: where no such set can be cut or meshes.
        """
        # The crown is no part of the geometry: the same flank meshes for every target a builder holds.
        return _meshing(replace(self, convex_ease=_PLAIN, concave_ease=_PLAIN), convex)


@cache
def families() -> Mapping[str, Family]:
    """Families of cut by key.

    :source: ``families.toml``: usual proportions, from memory.

    >>> families()["spiral_bevel"].offset
    0.0
    """
    rows = read_table(__file__, "families.toml", dict[str, Any])
    found = {}
    for key, row in rows.items():
        angles = {name: math.radians(row[name]) for name in _ANGLES}
        centres = {name: tuple(row[name]) for name in ("convex_centre", "concave_centre")}
        found[key] = Family(key=key, **(row | angles | centres))
    return found


def family_named(key: str) -> Family:
    """A family by its key.

    :param key: key of :func:`families`.
    :returns: its proportions, lengths as shares of D2 [1] and angles [rad].
    :raises AxleError: for one that is not there.
    :source: ``families.toml``.

    >>> family_named("small_offset").name
    'Small offset, even flanks'
    """
    try:
        return families()[key]
    except KeyError:
        raise AxleError("family of cut", given=f"“{key}”", wanted=" or ".join(families())) from None


def usual_family(offset: float | None) -> str:
    """The family taken when nobody named one.

    :param offset: E [mm], where known.
    :returns: key of :func:`families`.
    :source: common practice: a pinion on the ring's centre is a spiral bevel, any other a hypoid.

    >>> usual_family(0.0), usual_family(None)
    ('spiral_bevel', 'large_cutter')
    """
    return "spiral_bevel" if offset == 0 else "large_cutter"


def cut(
    family: str,
    pinion_teeth: int,
    ring_teeth: int,
    ring_diameter: float,
    *,
    face_width: float | None = None,
    offset: float | None = None,
    ring_spiral: float | None = None,
    cutter_radius: float | None = None,
    convex_angle: float | None = None,
    concave_angle: float | None = None,
    working_depth: float | None = None,
    addendum_share: float | None = None,
) -> Cut:
    """Settle how a set was cut: what is known, and the family's usual proportions for the rest.

    :param family: key of :func:`families`.
    :param pinion_teeth: N1.
    :param ring_teeth: N2.
    :param ring_diameter: D2 [mm].
    :param face_width: F [mm], where known.
    :param offset: E [mm], where known; above or below centre.
    :param ring_spiral: ψ2 [rad], where known.
    :param cutter_radius: r_c [mm], where known.
    :param convex_angle: α of the ring's convex flank [rad], where known.
    :param concave_angle: α of its concave flank [rad], where known.
    :param working_depth: h_w at the mean point [mm], where known.
    :param addendum_share: of the ring's tooth, share of the working depth, where known.
    :raises AxleError: for a family that is not there, or figures outside what is treated.
    :source: ``families.toml``.

    >>> round(cut("large_cutter", 11, 41, 222.0).offset, 1)
    38.0
    """
    usual = family_named(family)

    def known(value: float | None, share: float) -> float:
        return share if value is None else value

    crown = {
        "lengthwise": usual.lengthwise * ring_diameter / _STATED_ON,
        "profile": usual.profile * ring_diameter / _STATED_ON,
    }
    return Cut(
        pinion_teeth,
        ring_teeth,
        ring_diameter=ring_diameter,
        face_width=known(face_width, usual.face_width * ring_diameter),
        offset=abs(known(offset, usual.offset * ring_diameter)),
        spiral=known(ring_spiral, usual.pinion_spiral),
        spiral_of_pinion=ring_spiral is None,
        cutter_radius=known(cutter_radius, usual.cutter_radius * ring_diameter),
        convex_angle=known(convex_angle, usual.convex_angle),
        concave_angle=known(concave_angle, usual.concave_angle),
        convex_ease=EaseOff(centre=usual.convex_centre, **crown),
        concave_ease=EaseOff(centre=usual.concave_centre, **crown),
        working_depth=working_depth or 0.0,
        addendum_share=addendum_share or 0.0,
    )


@lru_cache(maxsize=256)
def tooth(item: Cut) -> Tooth:
    """The ring gear's tooth: working depth 2·m_n at the mean point, its addendum by the ratio.

    :param item: the set as it was cut.
    :returns: the tooth, lengths in [mm].
    :raises AxleError: where no such set can be cut.
    :source: h_mw = 2·m_mn, addendum share 0.21 + 0.29/u²: ISO 23509's usual factors, from memory.

    >>> made = tooth(cut("large_cutter", 11, 41, 222.0))
    >>> round(made.addendum, 1), round(made.dedendum, 1)
    (1.9, 6.3)
    """
    pitch = solve_pitch(
        item.pinion_teeth,
        item.ring_teeth,
        ring_diameter=item.ring_diameter,
        face_width=item.face_width,
        offset=item.offset,
        spiral=item.spiral,
        cutter_radius=item.cutter_radius,
        of_pinion=item.spiral_of_pinion,
    )
    module = 2 * pitch.mean_radius * math.cos(pitch.ring_spiral) / item.ring_teeth
    depth = item.working_depth or 2 * module
    share = item.addendum_share or 0.21 + 0.29 / item.ratio**2
    return Tooth(
        pitch,
        item.face_width,
        addendum=share * depth,
        dedendum=(1 - share) * depth,
        cutter_radius=item.cutter_radius,
    )


# Half a megabyte each.
@lru_cache(maxsize=96)
def _meshing(item: Cut, convex: bool) -> Meshing:  # lru_cache keys on positions
    angle = item.convex_angle if convex else item.concave_angle
    return Meshing(Flank(tooth(item), convex, angle), item.ring_teeth, ratio=item.ratio, offset=item.offset)
