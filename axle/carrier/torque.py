"""Rotating torque of the carrier bearings: by subtraction, and how sure that is."""

from __future__ import annotations

import math

from axle.errors import AxleError


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


def window_at_pinion(low: float, high: float, ratio: float) -> float:
    """How wide a carrier's range is where it is read, at the pinion.

    :param low: bottom of the range at the carrier [N·m].
    :param high: top of the range at the carrier [N·m], not under ``low``.
    :param ratio: N2/N1, more than 0.
    :returns: width at the pinion [N·m].
    :raises AxleError: for a range the wrong way round.
    :source: the ratio of speeds; check value of common practice: 16 to 24 in·lb at 3.73 is about
        2 in·lb wide.

    >>> round(window_at_pinion(16, 24, 3.73), 1)  # in in·lb as well as in N·m
    2.1
    """
    if high < low:
        raise AxleError("carrier preload", given=f"{low:g} to {high:g} N·m", wanted="low to high")
    return (high - low) / ratio
