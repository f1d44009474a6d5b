"""Where the carrier stands between its bearings: what side packs or adjusters do to it.

R is the ring gear's side, O the far one. Interference i and ring offset follow from both packs
together, so a change of one is always planned with the other.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

from axle.errors import AxleError
from axle.layout import Layout


@dataclass(frozen=True)
class SideChange:
    """A change of both side packs [mm], or of both adjusters as the same thickness [mm].

    :param ring: change on the ring gear's side, > 0 thicker or turned in.
    :param far: change on the far side, > 0 thicker or turned in.
    """

    ring: float
    far: float


def plan_change(
    layout: Layout, ring_movement: float, interference: float, share: float = 0.5
) -> SideChange:
    """Find the change of both sides that moves the ring gear and changes the preload as wanted.

    Δt_R + Δt_O = Δi and, under preload, Δoffset = λ·Δt_O − (1 − λ)·Δt_R; both signs turn round
    under bolted side covers.

    :param layout: the axle's layout.
    :param ring_movement: Δ ring offset wanted [mm], > 0 away from the pinion.
    :param interference: Δi wanted [mm], > 0 more carrier preload.
    :param share: λ = k_O/(k_R + k_O) from the stiffnesses of the two sides, 0 to 1.
    :source: equilibrium of two elastic sides; common practice for the half.

    >>> from axle.layout import CarrierBy, DepthShim, PreloadBy
    >>> shims = Layout(DepthShim.HEAD, PreloadBy.SLEEVE, CarrierBy.OUTBOARD)
    >>> plan_change(shims, -0.06, 0.0)
    SideChange(ring=0.06, far=-0.06)
    """
    sign = layout.carrier_sign
    ring = share * interference - ring_movement
    far = (1 - share) * interference + ring_movement
    return SideChange(sign * ring, sign * far)


def ring_movement(layout: Layout, change: SideChange, share: float = 0.5) -> float:
    """Ring gear movement that a change of both sides brings under preload.

    :param layout: the axle's layout.
    :param change: what is changed on both sides.
    :param share: λ, as in :func:`plan_change`.
    :returns: Δ ring offset [mm], > 0 away from the pinion.
    :source: as :func:`plan_change`, read the other way.

    >>> from axle.layout import CarrierBy, DepthShim, PreloadBy
    >>> shims = Layout(DepthShim.HEAD, PreloadBy.SLEEVE, CarrierBy.OUTBOARD)
    >>> ring_movement(shims, SideChange(ring=0.06, far=-0.06))
    -0.06
    """
    sign = layout.carrier_sign
    return sign * (share * change.far - (1 - share) * change.ring)


def interference_change(layout: Layout, change: SideChange) -> float:
    """Change of carrier interference that a change of both sides brings.

    :param layout: the axle's layout.
    :param change: what is changed on both sides.
    :returns: Δi [mm], > 0 more preload.
    :source: Δi = ±(Δt_R + Δt_O).

    >>> from axle.layout import CarrierBy, DepthShim, Housing, PreloadBy
    >>> covers = Layout(DepthShim.HEAD, PreloadBy.SLEEVE, CarrierBy.COVERS, Housing.SIDE_COVER)
    >>> interference_change(covers, SideChange(ring=0.05, far=0.05))
    -0.1
    """
    return layout.carrier_sign * (change.ring + change.far)


@dataclass(frozen=True)
class Seat:
    """How a carrier sits between its two sides, as lengths that push it inwards.

    :param ring: tightness of the ring gear's side [mm]: a pack outboard or under the cone as it is,
        a pack under a cover with its sign turned round, an adjuster's travel.
    :param far: the same of the far side [mm].
    :param zero: sum of both at zero play [mm].
    :param share: λ = k_O/(k_R + k_O), 0 to 1.
    :param rests: where the carrier lies while play is left: 0 against the ring side (pushed away
        from the pinion), 1 against the far side, ½ held in the middle.
    :raises AxleError: for a share or a place of rest outside 0 to 1.
    """

    ring: float
    far: float
    zero: float
    share: float = 0.5
    rests: float = 0.0

    def __post_init__(self) -> None:
        for what, value in (("compliance share", self.share), ("place of rest", self.rests)):
            if not 0 <= value <= 1:
                raise AxleError(what, given=f"{value:g}", wanted="0 to 1")

    @property
    def interference(self) -> float:
        """Interference i [mm]; below zero it is end play."""
        return self.ring + self.far - self.zero

    @property
    def loaded(self) -> float:
        """What of the interference there is, 0 while play is left [mm]."""
        return max(self.interference, 0.0)

    @property
    def rigid(self) -> float:
        """Ring offset if nothing gave way, but for a constant [mm], > 0 away from the pinion."""
        return -self.ring - self.rests * max(-self.interference, 0.0)

    @property
    def position(self) -> float:
        """Ring offset but for a constant [mm], > 0 away from the pinion."""
        return self.rigid + self.share * self.loaded


def reseat(seat: Seat, movement: float, interference: float) -> Seat:
    """Find both sides for a wanted movement of the ring gear and a wanted interference.

    :param seat: how the carrier sits now, with play or under preload.
    :param movement: Δ ring offset wanted [mm], > 0 away from the pinion.
    :param interference: i wanted afterwards [mm], 0 or more.
    :returns: the seat afterwards, under preload [mm].
    :raises AxleError: for a wanted interference below zero.
    :source: equilibrium of two elastic sides; with play left the carrier follows the side it lies on.

    >>> loose = Seat(ring=5.0, far=5.0, zero=10.3)
    >>> after = reseat(loose, movement=-0.06, interference=0.3)
    >>> round(after.ring, 3), round(after.far, 3)
    (5.21, 5.39)
    """
    if interference < 0:
        raise AxleError(
            "carrier preload",
            given=f"{interference:.3f} mm of interference",
            wanted="0 or more",
            do="End play is not a preload: ask for zero float instead.",
        )
    ring = seat.share * interference - (seat.position + movement)
    return replace(seat, ring=ring, far=seat.zero + interference - ring)


def seat_at(
    layout: Layout, ring: float, far: float, zero: float, share: float = 0.5, rests: float = 0.0
) -> Seat:
    """Seat of a carrier by the thickness on both sides.

    :param layout: the axle's layout.
    :param ring: pack, or travel of the adjuster, on the ring gear's side [mm].
    :param far: the same on the far side [mm].
    :param zero: sum of both thicknesses at zero play [mm].
    :param share: λ.
    :param rests: where the carrier lies while play is left, as in :class:`Seat`.
    :source: a pack under a cover holds it further out: signs turn round.

    >>> from axle.layout import CarrierBy, DepthShim, Housing, PreloadBy
    >>> covers = Layout(DepthShim.HEAD, PreloadBy.SLEEVE, CarrierBy.COVERS, Housing.SIDE_COVER)
    >>> round(seat_at(covers, 0.5, 0.5, 1.2).interference, 3)
    0.2
    """
    sign = layout.carrier_sign
    return Seat(sign * ring, sign * far, zero=sign * zero, share=share, rests=rests)


def change_between(layout: Layout, before: Seat, after: Seat) -> SideChange:
    """Change of thickness from one seat to another.

    :param layout: the axle's layout.
    :param before: the seat now.
    :param after: the seat wanted.
    :returns: what is changed on both sides [mm].
    :source: as :func:`seat_at`, read the other way.

    >>> from axle.layout import CarrierBy, DepthShim, PreloadBy
    >>> shims = Layout(DepthShim.HEAD, PreloadBy.SLEEVE, CarrierBy.OUTBOARD)
    >>> change_between(shims, Seat(5.0, 5.0, 10.0), Seat(5.25, 5.0, 10.0))
    SideChange(ring=0.25, far=0.0)
    """
    sign = layout.carrier_sign
    return SideChange(sign * (after.ring - before.ring), sign * (after.far - before.far))
