"""Where the carrier stands between its bearings: what side packs or adjusters do to it.

R is the ring gear's side, O the far one. Interference i and ring offset follow from both packs
together, so a change of one is always planned with the other.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

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


def bearing_torque(
    total: float, pinion: float, ratio: float, *, total_step: float, pinion_step: float
) -> tuple[float, float]:
    """Rotating torque of the carrier bearings by subtraction, with its standard uncertainty.

    (total at the pinion − pinion alone)·N2/N1, u = (N2/N1)·√(u_total² + u_pinion²). The drag of
    the mesh is in it, so it reads high.

    :param total: rotating torque of the whole, read at the pinion [N·m].
    :param pinion: rotating torque of the pinion alone under the same conditions [N·m].
    :param ratio: N2/N1.
    :param total_step: step of the wrench when the whole was read [N·m].
    :param pinion_step: step of the wrench when the pinion was read [N·m].
    :returns: (torque at the carrier, its standard uncertainty) [N·m].
    :source: the ratio of speeds; JCGM 100:2008 for the uncertainty.

    >>> torque, u = bearing_torque(2.9, 2.3, 3.73, total_step=0.113, pinion_step=0.113)
    >>> round(torque, 2), round(u, 2)
    (2.24, 0.17)
    """
    u = math.hypot(total_step, pinion_step) / (2 * math.sqrt(3))
    return (total - pinion) * ratio, ratio * u


def thickness_per_hole(pitch: float, holes_per_turn: int) -> float:
    """Free travel of a threaded adjuster per lock hole, the same as a thicker shim outboard.

    :param pitch: thread pitch [mm], more than 0.
    :param holes_per_turn: lock holes around the adjuster, more than 0.
    :returns: travel [mm] per hole; past zero play the bearings and housing give way too.
    :source: the thread.

    >>> round(thickness_per_hole(1.5, 30), 3)
    0.05
    """
    return pitch / holes_per_turn
