"""What the speedometer and the odometer show after a change of ratio or tyres, and what puts them right."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import Enum
from typing import Final

from axle.errors import AxleError
from axle.measure.uncertainty import Measured, combined

# Speeds at which it is looked at [km/h].
TEST_SPEEDS: Final = (40.0, 80.0, 120.0)
_LEAST_TEETH: Final = 6
_MOST_TEETH: Final = 60
_OTHER_DRIVE: Final = 2
_SHOWN: Final = 5


class Sensor(Enum):
    """Where the speed is taken from."""

    SHAFT = "shaft"
    RING = "ring"
    HUB = "hub"
    UNKNOWN = "unknown"


SENSOR_WORDS: Final = {
    Sensor.SHAFT: "at the gearbox or transfer case, before the axle",
    Sensor.RING: "at the ring gear or carrier",
    Sensor.HUB: "at the wheel hub",
    Sensor.UNKNOWN: "not known",
}


@dataclass(frozen=True)
class Shown:
    """What a speedometer shows for one kilometre an hour.

    :param factor: shown over true, with its standard uncertainty.
    """

    factor: Measured

    @property
    def off(self) -> float:
        """By what share it shows too much; below 0 too little."""
        return self.factor.value - 1

    @property
    def two_std(self) -> float:
        """Twice its standard uncertainty, from the tyres."""
        return 2 * self.factor.spread

    def at(self, speed: float) -> float:
        """What it shows at a true speed."""
        return self.factor.value * speed

    def meets_regulation(self, speed: float) -> bool:
        """Whether it keeps to UN Regulation 39 there: 0 ≤ shown − true ≤ true/10 + 4 km/h."""
        over = self.at(speed) - speed
        return -1e-9 <= over <= speed / 10 + 4 + 1e-9

    @property
    def is_legal(self) -> bool:
        """Whether it keeps to it at every speed at which it is looked at."""
        return all(self.meets_regulation(speed) for speed in TEST_SPEEDS)


def shown_after(
    sensor: Sensor,
    *,
    old_ratio: float,
    new_ratio: float,
    old_tyre: Measured,
    new_tyre: Measured,
    before: float = 1.0,
) -> Shown:
    """What the speedometer shows once ratio and tyres are changed and nothing else is.

    :param sensor: where the speed is taken from.
    :param old_ratio: R_old.
    :param new_ratio: R_new.
    :param old_tyre: C_old [mm].
    :param new_tyre: C_new [mm].
    :param before: what it showed over the truth before, 0.5 to 1.5.
    :returns: before·(R_new/R_old)·(C_old/C_new); at ring gear or hub the ratio drops out.
    :raises AxleError: for a sensor that is not known, or a figure of none.
    :source: the sensor's turns on a kilometre, new over old.

    >>> from axle.measure.uncertainty import EXACT, Measured
    >>> same = Measured(2200.0)
    >>> round(shown_after(Sensor.SHAFT, old_ratio=41 / 15, new_ratio=41 / 11, old_tyre=same,
    ...     new_tyre=same).factor.value, 3)
    1.364
    """
    if sensor is Sensor.UNKNOWN:
        raise AxleError("speed sensor", given="not known", wanted="where it sits")
    if not 0.5 <= before <= 1.5:
        raise AxleError("speedometer before", given=f"{before:.2f}", wanted="0.5 to 1.5 of the truth")
    by_ratio = new_ratio / old_ratio if sensor is Sensor.SHAFT else 1.0
    value = before * by_ratio * old_tyre.value / new_tyre.value
    # Tyres that were not changed are the same ones: what is not known of them drops out.
    same = old_tyre == new_tyre
    share = 0.0 if same else combined(old_tyre.spread / old_tyre.value, new_tyre.spread / new_tyre.value)
    return Shown(Measured(value, value * share))


@dataclass(frozen=True)
class DriveGears:
    """A pair of speedometer gears, and what it leaves.

    :param drive: teeth on the gearbox's output.
    :param driven: teeth on the cable.
    :param error: shown over true, less 1 [1].
    """

    drive: int
    driven: int
    error: float


def drive_gears(shown: Shown, drive: int, driven: int) -> tuple[DriveGears, ...]:
    """Whole-toothed gears that put a mechanical speedometer right, those that never show too little first.

    :param shown: what it shows without them.
    :param drive: teeth on the gearbox's output, 3 to 60.
    :param driven: teeth on the cable, 6 to 60.
    :returns: up to five pairs, each with the error that is left; other drive gears within two teeth.
    :raises AxleError: for teeth out of range.
    :source: cable turns = output turns·drive/driven; UN Regulation 39 allows too much, never too little.

    >>> from axle.measure.uncertainty import Measured
    >>> found = drive_gears(Shown(Measured(1.1)), 8, 18)[0]
    >>> found.drive, found.driven, round(found.error * 100, 1)
    (9, 22, 1.3)
    """
    if not 3 <= drive <= _MOST_TEETH or not _LEAST_TEETH <= driven <= _MOST_TEETH:
        raise AxleError(
            "speedometer gears", given=f"{drive} and {driven} teeth", wanted="3 to 60 and 6 to 60"
        )
    found = []
    for other in range(max(3, drive - _OTHER_DRIVE), min(_MOST_TEETH, drive + _OTHER_DRIVE) + 1):
        exact = driven * shown.factor.value * other / drive
        for teeth in (int(exact), int(exact) + 1):
            if _LEAST_TEETH <= teeth <= _MOST_TEETH:
                found.append(DriveGears(other, teeth, exact / teeth - 1))
    found.sort(key=lambda gears: (gears.error < -1e-9, abs(gears.error), abs(gears.drive - drive)))
    return tuple(found[:_SHOWN])


def pulses_after(pulses: float, shown: Shown) -> float:
    """The pulses on a kilometre to set a control unit to.

    :param pulses: that it is set to now [1/km], above 0.
    :param shown: what the speedometer shows without it.
    :returns: pulses·shown/true [1/km].
    :raises AxleError: for pulses of none.
    :source: the sensor gives so many more on a true kilometre.

    >>> from axle.measure.uncertainty import Measured
    >>> pulses_after(5000, Shown(Measured(1.1)))
    5500.0
    """
    if not pulses > 0:
        raise AxleError("pulses", given=f"{pulses:g} /km", wanted="more than 0")
    return pulses * shown.factor.value


def scale_factor(shown: Shown) -> float:
    """What the shown speed is multiplied by to be true.

    :param shown: what it shows.
    :returns: true over shown [1].
    :source: the inverse of :func:`shown_after`.

    >>> from axle.measure.uncertainty import Measured
    >>> scale_factor(Shown(Measured(1.25)))
    0.8
    """
    return 1 / shown.factor.value


def corrected(shown: Shown, factors: Sequence[float]) -> Shown:
    """What a speedometer shows once it is corrected.

    :param shown: before.
    :param factors: each multiplies what is shown.
    :source: :func:`scale_factor`.

    >>> from axle.measure.uncertainty import Measured
    >>> before = Shown(Measured(1.25))
    >>> corrected(before, [scale_factor(before)]).factor.value
    1.0
    """
    value, share = shown.factor.value, shown.factor.spread / shown.factor.value
    for factor in factors:
        value *= factor
    return Shown(Measured(value, value * share))
