"""The pitch point of a ring and pinion: where both pitch cones touch, and which way the tooth runs there.

Frame: z along the ring's axis, from the ring's metal towards the pinion; x along the pinion's axis, away
from the ring's; y along their common perpendicular, on which the pinion's axis stands at E. The ring lies
under the pinion's axis, so z is negative on its teeth. A line through the pitch point meets both axes; it
is the normal of both pitch cones, so the sliding velocity lies in the pitch plane and is the tooth's
direction.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Final

from scipy.optimize import brentq

from axle.errors import AxleError

# Pitch angles of the ring among which the one that fits the cutter is looked for [rad].
_LEAST_ANGLE, _MOST_ANGLE = math.radians(40), math.radians(87)
# Shares of the way from the ring's axis to the pinion's between which the pitch point lies.
_SHARES: Final = (0.05, 0.9999)

_Triple = tuple[float, float, float]


@dataclass(frozen=True)
class PitchPoint:
    """A pitch point and the angles at it.

    :param point: P, shape (3,) as a tuple [mm].
    :param normal: unit normal of the pitch plane, out of the ring's cone, shape (3,) as a tuple [1].
    :param tooth: unit tooth direction in the pitch plane, shape (3,) as a tuple [1].
    :param ring_angle: Γ [rad].
    :param pinion_angle: γ [rad].
    :param ring_spiral: ψ2 [rad].
    :param pinion_spiral: ψ1 [rad].
    :param mean_radius: r_m of the ring [mm].
    :param residual: largest of what the equations left over [1].
    """

    point: tuple[float, float, float]
    normal: tuple[float, float, float]
    tooth: tuple[float, float, float]
    ring_angle: float
    pinion_angle: float
    ring_spiral: float
    pinion_spiral: float
    mean_radius: float
    residual: float = 0.0

    @property
    def cone_distances(self) -> tuple[float, float]:
        """R1 and R2, from the cones' tips to P [mm]."""
        to_pinion_axis = math.hypot(self.point[1] - self._offset, self.point[2])
        return to_pinion_axis / math.sin(self.pinion_angle), self.mean_radius / math.sin(self.ring_angle)

    @property
    def _offset(self) -> float:
        """E, where the normal meets the pinion's axis."""
        (x, y, z), (nx, ny, nz) = self.point, self.normal
        del x, nx
        return y - ny * z / nz

    @property
    def limit_pressure_angle(self) -> float:
        """α_lim [rad]: flank angle at which both flanks would curve alike."""
        r1, r2 = self.cone_distances
        s1, s2 = self.pinion_spiral, self.ring_spiral
        t1, t2 = math.tan(self.pinion_angle), math.tan(self.ring_angle)
        slope = -(t1 * t2 / math.cos(s1 - s2)) * (r1 * math.sin(s1) - r2 * math.sin(s2))
        return math.atan(slope / (r1 * t1 + r2 * t2))

    @property
    def limit_radius(self) -> float:
        """ρ_lim [mm]: cutter radius that this pitch point belongs to."""
        r1, r2 = self.cone_distances
        s1, s2, limit = self.pinion_spiral, self.ring_spiral, self.limit_pressure_angle
        t1, t2 = math.tan(self.pinion_angle), math.tan(self.ring_angle)
        below = -math.tan(limit) * (math.tan(s1) / (r1 * t1) + math.tan(s2) / (r2 * t2))
        below += 1 / (r1 * math.cos(s1)) - 1 / (r2 * math.cos(s2))
        return (math.tan(s1) - math.tan(s2)) / (math.cos(limit) * below)


def spiral_bevel(ratio: float, mean_radius: float, spiral: float) -> PitchPoint:
    """Pitch point without an offset: both cones share a generator, and the sliding vanishes.

    :param ratio: N2/N1, more than 0.
    :param mean_radius: r_m of the ring [mm].
    :param spiral: ψ of both [rad].
    :returns: the pitch point, on the pinion's side of the ring [mm].
    :source: two cones that roll on each other.

    >>> round(math.degrees(spiral_bevel(41 / 11, 96.0, 0.6).ring_angle), 2)
    74.98
    """
    angle = math.atan(ratio)
    height = mean_radius / ratio
    along, across = math.cos(spiral), math.sin(spiral)
    tooth = (along * math.sin(angle), across, -along * math.cos(angle))
    return PitchPoint(
        (mean_radius, 0.0, -height),
        (math.cos(angle), 0.0, math.sin(angle)),
        tooth=tooth,
        ring_angle=angle,
        pinion_angle=math.pi / 2 - angle,
        ring_spiral=spiral,
        pinion_spiral=spiral,
        mean_radius=mean_radius,
    )


def pitch_point(
    ratio: float,
    mean_radius: float,
    offset: float,
    spiral: float,
    ring_angle: float,
    *,
    of_pinion: bool = False,
) -> PitchPoint:
    """Pitch point with an offset, for a wanted spiral and pitch angle of the ring.

    :param ratio: N2/N1, more than 0.
    :param mean_radius: r_m of the ring [mm], more than E.
    :param offset: E [mm], more than 0; below centre and above are mirror images.
    :param spiral: ψ2 of the ring, or ψ1 of the pinion [rad].
    :param ring_angle: Γ [rad].
    :param of_pinion: the spiral is the pinion's.
    :returns: the pitch point on the pinion's side, ψ2 < ψ1 [mm, rad].
    :raises AxleError: where there is none.
    :source: common normal that meets both axes; sliding velocity v12 = z×r − (N2/N1)·x×(r − O1).

    >>> found = pitch_point(41 / 11, 95.74, 38.0, math.radians(28.2), math.radians(72.5))
    >>> round(math.degrees(found.pinion_angle), 1), round(math.degrees(found.pinion_spiral))
    (16.3, 50)
    """
    if not 0 < offset < mean_radius:
        raise AxleError("offset", given=f"{offset:g} mm", wanted=f"more than 0, under {mean_radius:.0f} mm")

    def left_over(share: float) -> float:
        found = _found(share, ratio, mean_radius=mean_radius, offset=offset, ring_angle=ring_angle)
        return (found.pinion_spiral if of_pinion else found.ring_spiral) - spiral

    low, high = _SHARES
    if left_over(low) * left_over(high) > 0:
        raise AxleError(
            "gear set",
            given=f"a spiral of {math.degrees(spiral):.1f}° at an offset of {offset:g} mm",
            wanted="proportions that have a pitch point",
        )
    share = float(brentq(left_over, low, high, xtol=1e-15, rtol=1e-14))
    return replace(
        _found(share, ratio, mean_radius=mean_radius, offset=offset, ring_angle=ring_angle),
        residual=abs(left_over(share)),
    )


@lru_cache(maxsize=256)
def solve_pitch(
    pinion_teeth: int,
    ring_teeth: int,
    ring_diameter: float,
    face_width: float,
    offset: float,
    spiral: float,
    cutter_radius: float,
    *,
    of_pinion: bool = False,
) -> PitchPoint:
    """Pitch point of a set cut with a cutter of a radius: Γ follows from the limit curvature.

    :param pinion_teeth: N1.
    :param ring_teeth: N2.
    :param ring_diameter: D2 [mm].
    :param face_width: F [mm].
    :param offset: E [mm]; its sign does not matter.
    :param spiral: ψ2 of the ring, or ψ1 of the pinion [rad].
    :param cutter_radius: r_c [mm], more than 0.
    :param of_pinion: the spiral is the pinion's.
    :returns: the pitch point at r_m = D2/2 − (F/2)·sin Γ.
    :raises AxleError: where no pitch angle fits the cutter.
    :source: limit radius of curvature = cutter radius, as in ISO 23509 method 1; formulas from memory.

    >>> found = solve_pitch(11, 41, 222.0, 32.0, 38.0, math.radians(28.2), 114.3)
    >>> round(math.degrees(found.ring_angle), 1), round(math.degrees(found.pinion_angle), 1)
    (72.5, 16.3)
    """
    ratio = ring_teeth / pinion_teeth

    def at(angle: float) -> PitchPoint:
        radius = ring_diameter / 2 - face_width / 2 * math.sin(angle)
        return pitch_point(
            ratio, radius, offset=abs(offset), spiral=spiral, ring_angle=angle, of_pinion=of_pinion
        )

    if not offset:
        angle = math.atan(ratio)
        return spiral_bevel(ratio, ring_diameter / 2 - face_width / 2 * math.sin(angle), spiral)

    def apart(angle: float) -> float:
        return 1 / at(angle).limit_radius - 1 / cutter_radius

    try:
        # The larger the pitch angle, the flatter the limit: one angle belongs to one cutter.
        return at(float(brentq(apart, _LEAST_ANGLE, _MOST_ANGLE, xtol=1e-13)))
    except (AxleError, ValueError):
        raise AxleError(
            "gear set",
            given=f"{pinion_teeth}/{ring_teeth}, offset {abs(offset):g} mm, cutter {cutter_radius:g} mm",
            wanted="proportions that one cutter can make",
            do="Check ring diameter, offset and cutter radius.",
        ) from None


def _found(share: float, ratio: float, mean_radius: float, offset: float, ring_angle: float) -> PitchPoint:
    """What stands at one point of the ring's pitch cone, by its share of the way to the pinion's axis.

    The normal meets the ring's axis at (0, 0, z_a) and the pinion's at (E/tan θ, E, 0), so Γ alone gives
    z_a = −tan Γ·E/sin θ and the height of P. Plain numbers: the search for a set comes here some hundred
    times.
    """
    sine = share * offset / mean_radius
    cosine = math.sqrt(1 - sine**2)
    slope = math.tan(ring_angle)
    point = (mean_radius * cosine, mean_radius * sine, slope * (mean_radius - offset / sine))
    normal = _unit((cosine, sine, slope))
    to_pinion = (point[0], point[1] - offset, point[2])
    around_ring, around_pinion = (-point[1], point[0], 0.0), (0.0, -to_pinion[2], to_pinion[1])
    # The sliding v12 = z×r − (N2/N1)·x×(r − O1) runs to the toe; the tooth is taken towards the heel.
    tooth = _unit((-around_ring[0], ratio * around_pinion[1] - around_ring[1], ratio * around_pinion[2]))
    # Generators of both cones, away from their tips: in the pitch plane and the plane of the axis.
    ring, pinion = _unit(_cross(around_ring, normal)), _unit(_cross(around_pinion, normal))
    return PitchPoint(
        point,
        normal,
        tooth=tooth,
        ring_angle=ring_angle,
        pinion_angle=math.asin(normal[0]),
        ring_spiral=_turned(ring, tooth, normal),
        pinion_spiral=_turned(pinion, tooth, normal),
        mean_radius=mean_radius,
    )


def _turned(generator: _Triple, tooth: _Triple, normal: _Triple) -> float:
    """Spiral angle between −90° and 90°, seen along the normal."""
    along, across = _dot(generator, tooth), _dot(_cross(generator, tooth), normal)
    return math.atan(across / along)


def _dot(a: _Triple, b: _Triple) -> float:
    return a[0] * b[0] + a[1] * b[1] + a[2] * b[2]


def _cross(a: _Triple, b: _Triple) -> _Triple:
    return a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]


def _unit(vector: _Triple) -> _Triple:
    length = math.sqrt(_dot(vector, vector))
    return vector[0] / length, vector[1] / length, vector[2] / length
