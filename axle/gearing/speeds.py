"""Engine speed, road speed and pull: what a ratio does in every gear."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from axle.errors import AxleError


@dataclass(frozen=True)
class Driveline:
    """What lies between the engine and the road.

    :param ratio: R of the axle, N2/N1, above 1.
    :param circumference: C, rolling circumference of the driven wheels [mm], above 0.
    :param gear: ratio of the gear, above 0.
    :param transfer: ratio of the transfer case, above 0; 1 where there is none.
    :param slip: share by which the converter's outlet lags behind the engine, 0 to 0.5.
    :raises AxleError: outside these ranges.
    """

    ratio: float
    circumference: float
    gear: float = 1.0
    transfer: float = 1.0
    slip: float = 0.0

    def __post_init__(self) -> None:
        for what, value in (
            ("ratio", self.ratio),
            ("rolling circumference", self.circumference),
            ("gear", self.gear),
            ("transfer case", self.transfer),
        ):
            if not value > 0:
                raise AxleError(what, given=f"{value:g}", wanted="more than 0")
        if not 0 <= self.slip <= 0.5:
            raise AxleError("converter slip", given=f"{self.slip:.0%}", wanted="0 to 50 %")

    @property
    def overall(self) -> float:
        """Turns of the engine for one of the wheel, without slip [1]."""
        return self.ratio * self.gear * self.transfer

    def rpm(self, speed: float) -> float:
        """Engine speed at a road speed.

        :param speed: v [km/h].
        :returns: n = v·R·gear·transfer/(C·(1 − slip)) [rpm].
        """
        return self.wheel_rpm(speed) * self.overall / (1 - self.slip)

    def speed(self, rpm: float) -> float:
        """Road speed at an engine speed [km/h], the other way round."""
        return rpm * (1 - self.slip) / self.overall * self.circumference * 60 / 1e6

    def wheel_rpm(self, speed: float) -> float:
        """Turns of the wheel in a minute at a road speed [km/h]."""
        return speed * 1e6 / 60 / self.circumference

    def shaft_rpm(self, speed: float) -> float:
        """Turns of the driveshaft in a minute at a road speed [km/h]."""
        return self.wheel_rpm(speed) * self.ratio

    def pull(self, torque: float) -> float:
        """Force at the road, losses left out.

        :param torque: of the engine [N·m].
        :returns: F = 2π·T·R·gear·transfer/C [N].
        """
        return 2 * math.pi * torque * self.overall / (self.circumference / 1000)


def restoring_ratio(old: float, old_tyre: float, new_tyre: float) -> float:
    """The ratio that gives the old engine speeds back on other tyres.

    :param old: ratio that was in it.
    :param old_tyre: rolling circumference before [mm].
    :param new_tyre: rolling circumference now [mm].
    :returns: R_old·C_new/C_old [1].
    :source: n = v·R·gear/C, the same before and after.

    >>> round(restoring_ratio(3.73, 2200, 2500), 2)
    4.24
    """
    return old * new_tyre / old_tyre


def ratio_for(rpm: float, speed: float, driveline: Driveline) -> float:
    """The ratio that gives a wanted engine speed at a road speed.

    :param rpm: wanted [rpm], above 0.
    :param speed: v [km/h], above 0.
    :param driveline: the rest of the driveline; its own ratio does not count.
    :returns: R [1].
    :raises AxleError: for an engine or a car that stands.
    :source: n = v·R·gear·transfer/(C·(1 − slip)).

    >>> line = Driveline(3.0, 2200.0, gear=0.8)
    >>> round(ratio_for(line.rpm(100.0), 100.0, line), 6)
    3.0
    """
    if rpm <= 0 or speed <= 0:
        raise AxleError("wanted engine speed", given=f"{rpm:g} rpm at {speed:g} km/h", wanted="more than 0")
    return rpm / driveline.rpm(speed) * driveline.ratio


@dataclass(frozen=True)
class TorqueCurve:
    """What an engine gives at full throttle, as points.

    :param points: (speed [rpm], torque [N·m]) by rising speed, two or more.
    :raises AxleError: for fewer, or where the speeds do not rise.
    """

    points: tuple[tuple[float, float], ...]

    def __post_init__(self) -> None:
        speeds = [rpm for rpm, _ in self.points]
        if len(speeds) < 2 or speeds != sorted(set(speeds)):
            raise AxleError(
                "torque curve",
                given=f"{len(speeds)} points",
                wanted="two or more with rising speed, as 1500:210, 2500:320, 3800:290",
            )

    def torque(self, rpm: float) -> float | None:
        """Torque at an engine speed, straight between the points; nothing beyond them."""
        for (low, at_low), (high, at_high) in zip(self.points, self.points[1:], strict=False):
            if low <= rpm <= high:
                return at_low + (at_high - at_low) * (rpm - low) / (high - low)
        return None


def best_pull(lines: Sequence[Driveline], curve: TorqueCurve, speed: float) -> tuple[int, float] | None:
    """The gear that pulls hardest at a road speed.

    :param lines: one for each gear, in order.
    :param curve: of the engine.
    :param speed: v [km/h].
    :returns: (index of the gear, force at the road [N]), or nothing where no gear can.
    :source: :meth:`Driveline.pull`.
    """
    found = []
    for index, line in enumerate(lines):
        torque = curve.torque(line.rpm(speed))
        if torque is not None:
            found.append((index, line.pull(torque)))
    return max(found, key=lambda gear: gear[1], default=None)
