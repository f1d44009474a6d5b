"""Both final side packs in closed form: from thin spacers and play, or from the gaps of a first fit."""

from __future__ import annotations

import math
from dataclasses import dataclass
from enum import Enum

from axle.errors import AxleError
from axle.layout import Layout
from axle.measure.range import Range


class Pushed(Enum):
    """Where the carrier lay while play was left and backlash was read."""

    AWAY = "away"
    TOWARDS = "towards"
    CENTRED = "centred"

    @property
    def rests(self) -> float:
        """Share of the play that lies on the ring gear's side."""
        return {"away": 0.0, "towards": 1.0, "centred": 0.5}[self.value]


@dataclass(frozen=True)
class BothSides:
    """Both final packs, and how sure they are.

    :param ring: pack on the ring gear's side [mm].
    :param far: pack on the far side [mm].
    :param moved: d, how far the ring gear comes towards the pinion from where it lay [mm].
    :param position_u: standard uncertainty of the ring gear's place [mm].
    :param sum_u: standard uncertainty of the interference [mm].
    """

    ring: float
    far: float
    moved: float
    position_u: float
    sum_u: float


@dataclass(frozen=True)
class Spacers:
    """What is read with equal thin spacers in.

    :param thickness: t₀ of each spacer [mm], more than 0.
    :param play: P, total play [mm], 0 or more: equal feelers of both sides added, or by indicator.
    :param backlash: B, smallest backlash around the ring as this indicator reads it [mm], 0 or more.
    :param pushed: where the carrier lay while B was read.
    :param length_u: standard uncertainty of play and spacers [mm].
    :param backlash_u: standard uncertainty of B [mm].
    :raises AxleError: for a thickness, a play or a backlash that cannot be.
    """

    thickness: float
    play: float
    backlash: float
    pushed: Pushed = Pushed.AWAY
    length_u: float = 0.01
    backlash_u: float = 0.006

    def __post_init__(self) -> None:
        if self.thickness <= 0:
            raise AxleError("thin spacers", given=f"{self.thickness:g} mm", wanted="more than 0")
        for what, value in (("total play", self.play), ("backlash", self.backlash)):
            if value < 0:
                raise AxleError(what, given=f"{value:g} mm", wanted="0 or more")


def solve_spacers(
    layout: Layout,
    spacers: Spacers,
    wanted: float,
    interference: float,
    per_ring: float,
    *,
    per_ring_u: float = 0.0,
    share: float = 0.5,
) -> BothSides:
    """Solve both final packs from one reading with thin spacers.

    d = (B − B_wanted)/q with the carrier pushed away from the pinion, P − (B_wanted − B)/q pushed
    towards it, P/2 + (B − B_wanted)/q in the middle; t_R = t₀ + d + λ·i, t_O = t₀ + P − d +
    (1 − λ)·i. Under covers the same increments come off t₀.

    :param layout: the axle's layout.
    :param spacers: what was read.
    :param wanted: B_wanted, smallest backlash wanted [mm], 0 or more.
    :param interference: i wanted [mm], 0 or more.
    :param per_ring: q, backlash per ring gear movement as this indicator reads it [1], more than 0.
    :param per_ring_u: standard uncertainty of q [1].
    :param share: λ, 0 to 1.
    :returns: both packs [mm].
    :raises AxleError: when no place between the spacers gives the wanted backlash, or a pack would
        be thinner than nothing.
    :source: lengths laid end to end; common practice as a chart.

    >>> from axle.layout import CarrierBy, DepthShim, PreloadBy
    >>> shims = Layout(DepthShim.HEAD, PreloadBy.SLEEVE, CarrierBy.OUTBOARD)
    >>> both = solve_spacers(shims, Spacers(5.0, 1.0, 0.60), 0.20, 0.30, per_ring=0.8)
    >>> round(both.ring, 3), round(both.far, 3)
    (5.65, 5.65)
    """
    if wanted < 0 or interference < 0:
        raise AxleError("wanted", given=f"{min(wanted, interference):g} mm", wanted="0 or more")
    if per_ring <= 0:
        raise AxleError("backlash ratio", given=f"{per_ring:g}", wanted="more than 0")
    step = (spacers.backlash - wanted) / per_ring
    moved = spacers.pushed.rests * spacers.play + step
    if not Range(0.0, spacers.play).holds(moved):
        near = spacers.backlash + per_ring * spacers.pushed.rests * spacers.play
        raise AxleError(
            "thin spacers",
            given=f"a wanted backlash of {wanted:.3f} mm between {near - per_ring * spacers.play:.3f} "
            f"and {near:.3f} mm that these spacers allow",
            wanted="a backlash that the play of the carrier reaches",
            do="Thinner spacers on the side that is in the way, or look at the pinion's depth.",
        )
    sign = layout.carrier_sign
    ring = spacers.thickness + sign * (moved + share * interference)
    far = spacers.thickness + sign * (spacers.play - moved + (1 - share) * interference)
    _check_packs(ring, far)
    position_u = math.hypot(spacers.backlash_u / per_ring, step * per_ring_u / per_ring)
    return BothSides(
        ring,
        far,
        moved=moved,
        position_u=math.hypot(position_u, spacers.length_u),
        sum_u=2 * spacers.length_u,
    )


@dataclass(frozen=True)
class Gaps:
    """What is measured with the carrier held by hand at a likely backlash, cups in, no old shims.

    :param ring: gap on the ring gear's side [mm]; under a cover the gap beneath its flange.
    :param far: gap on the far side [mm].
    :param in_ring: what is in that place already [mm], 0 for nothing.
    :param in_far: the same on the far side [mm].
    :param backlash: B at which the carrier was held [mm], or nothing where it was not read.
    :param length_u: standard uncertainty of each gap [mm].
    :param backlash_u: standard uncertainty of B [mm].
    :raises AxleError: for a gap below zero.
    """

    ring: float
    far: float
    in_ring: float = 0.0
    in_far: float = 0.0
    backlash: float | None = None
    length_u: float = 0.025
    backlash_u: float = 0.02

    def __post_init__(self) -> None:
        if min(self.ring, self.far, self.in_ring, self.in_far) < 0:
            raise AxleError("gap", given="less than nothing", wanted="0 or more on both sides")


def first_packs(
    layout: Layout,
    gaps: Gaps,
    wanted: float,
    interference: float,
    per_ring: float,
    *,
    per_ring_u: float = 0.0,
    share: float = 0.5,
) -> BothSides:
    """First packs without old shims: the gap on each side, moved to the wanted backlash, preload added.

    :param layout: the axle's layout.
    :param gaps: what was measured.
    :param wanted: smallest backlash wanted [mm].
    :param interference: i wanted [mm], 0 or more.
    :param per_ring: q, backlash per ring gear movement [1], more than 0.
    :param per_ring_u: standard uncertainty of q [1].
    :param share: λ, 0 to 1.
    :returns: both packs [mm]; without a backlash read the ring gear stays where it was held.
    :raises AxleError: when a pack would be thinner than nothing.
    :source: lengths laid end to end; common practice.

    >>> from axle.layout import CarrierBy, DepthShim, PreloadBy
    >>> shims = Layout(DepthShim.HEAD, PreloadBy.SLEEVE, CarrierBy.OUTBOARD)
    >>> both = first_packs(shims, Gaps(5.2, 5.4, backlash=0.25), 0.20, 0.30, per_ring=1.0)
    >>> round(both.ring, 3), round(both.far, 3)
    (5.4, 5.5)
    """
    if per_ring <= 0:
        raise AxleError("backlash ratio", given=f"{per_ring:g}", wanted="more than 0")
    if interference < 0:
        raise AxleError("carrier preload", given=f"{interference:g} mm", wanted="0 or more")
    moved = 0.0 if gaps.backlash is None else (gaps.backlash - wanted) / per_ring
    sign = layout.carrier_sign
    ring = gaps.in_ring + gaps.ring + sign * (moved + share * interference)
    far = gaps.in_far + gaps.far + sign * (-moved + (1 - share) * interference)
    _check_packs(ring, far)
    position_u = math.hypot(gaps.length_u, moved * per_ring_u / per_ring)
    if gaps.backlash is not None:
        position_u = math.hypot(position_u, gaps.backlash_u / per_ring)
    return BothSides(ring, far, moved=moved, position_u=position_u, sum_u=math.sqrt(2) * gaps.length_u)


def _check_packs(ring: float, far: float) -> None:
    for what, pack in (("ring side", ring), ("far side", far)):
        if pack <= 0:
            raise AxleError(
                f"pack on the {what}",
                given=f"{pack:.3f} mm",
                wanted="more than nothing",
                do="The carrier would have to stand inside its housing: read again.",
            )
