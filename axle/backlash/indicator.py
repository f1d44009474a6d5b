"""What an indicator at the ring gear shows of backlash, by how it stands and where it touches."""

from __future__ import annotations

import math

from axle.errors import AxleError
from axle.gearset import GearSet, Stance

_MOST_LEAN = 45.0


def correction(
    gears: GearSet, wanted: Stance, stood: Stance, *, lean: float = 0.0, radius: float | None = None
) -> tuple[float, float]:
    """Factor that turns a reading as it was taken into one as the sheet wants it.

    The tip moves along p, the flank's normal is n, the motion m: backlash in the plane of rotation is
    reading·(p·n)/(m·n), times R/r from the radius touched to the heel. A plunger along the motion
    that leans by δ to a side nobody wrote down has p·n/(m·n) = cos δ ± sin δ·tan θ/√2, θ the angle of
    n to m; one square to the flank has cos δ alone.

    :param gears: the gear set.
    :param wanted: how the sheet wants the indicator to stand.
    :param stood: how it stood; for a lever, which way its tip moves, square to the lever.
    :param lean: δ, degrees by which it stood off that, 0 to 45.
    :param radius: r at which it touched [mm], or nothing for the heel.
    :returns: (factor [1], its standard uncertainty [1]).
    :raises AxleError: for a lean or a radius that cannot be.
    :source: direction cosines, derived in the tests from vectors.

    >>> gears = GearSet(11, 41)
    >>> correction(gears, Stance.ALONG, Stance.ALONG)
    (1.0, 0.0)
    >>> round(correction(gears, Stance.ALONG, Stance.SQUARE)[0], 2)
    1.22
    """
    if not 0 <= lean <= _MOST_LEAN:
        raise AxleError(
            "indicator",
            given=f"{lean:g}° off",
            wanted=f"0 to {_MOST_LEAN:g}°",
            do="Set its plunger in line with the heel's motion and read again.",
        )
    heel = gears.ring_diameter / 2
    if radius is not None and not 0.5 * heel <= radius <= 1.2 * heel:
        raise AxleError(
            "indicator",
            given=f"{radius:g} mm from the axis",
            wanted=f"{0.5 * heel:.0f} to {1.2 * heel:.0f} mm on this ring gear",
        )
    normal_to_motion = _cosine(gears)
    # p·n over m·n: 1 along the motion, 1/cos θ square to the flank.
    slope = {Stance.ALONG: 1.0, Stance.SQUARE: 1 / normal_to_motion}
    angle = math.radians(lean)
    if Stance.UNSURE in (wanted, stood):
        # Nobody told how one of the two stands: a reading counts as it is. Where the sheet is sure, it may
        # be off by half of what lies between the two ways to stand.
        slope = dict.fromkeys(Stance, 1.0)
    factor = slope[stood] * math.cos(angle) / slope[wanted]
    std = (1 / normal_to_motion - 1) / 2 if wanted is not Stance.UNSURE and stood is Stance.UNSURE else 0.0
    if stood is Stance.ALONG:
        tangent = math.sqrt(1 / normal_to_motion**2 - 1)
        std = math.sin(angle) * tangent / math.sqrt(2) / slope[wanted]
    reach = heel / radius if radius is not None else 1.0
    return factor * reach, std * reach


def _cosine(gears: GearSet) -> float:
    """m·n = cos α·cos ψ, α the mean of both flank angles, as :func:`axle.gearset.indicated` has it."""
    return math.cos((gears.drive_angle + gears.coast_angle) / 2) * math.cos(gears.ring_spiral)
