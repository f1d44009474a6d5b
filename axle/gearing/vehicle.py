"""The vehicle around an axle, from what somebody typed of it: everything may be left open."""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from enum import Enum
from functools import cache
from typing import Any, Final

import msgspec

from axle.data_file import read_table
from axle.errors import AxleError, quoted
from axle.gearing.both_ends import Centre
from axle.gearing.offers import read_ratio
from axle.gearing.shaft import JointAngle, Tube
from axle.gearing.speedometer import Sensor, Shown
from axle.gearing.speeds import TorqueCurve
from axle.gearing.tyres import Rolling, Tread, read_tyre
from axle.measure.figures import SCALES, read_figure, read_number
from axle.measure.uncertainty import Measured

LONGEST: Final = 120


class End(Enum):
    """Which axle of a vehicle."""

    FRONT = "front"
    REAR = "rear"

    @property
    def other(self) -> End:
        """The axle at the other end."""
        return End.REAR if self is End.FRONT else End.FRONT


class Field(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """One thing that is asked of a vehicle, as in ``data/vehicle.toml``."""

    title: str
    group: str
    kind: str
    scale: str = ""
    low: float = 0
    high: float = 0
    whole: bool = False
    values: dict[str, str] = {}
    hint: str = ""


GROUPS: Final = {
    "tyres": "Tyres",
    "axles": "Axles",
    "gearbox": "Gearbox",
    "engine": "Engine and use",
    "speedometer": "Speedometer",
    "shafts": "Driveshafts",
}


@dataclass(frozen=True)
class ShaftFacts:
    """One driveshaft of a vehicle.

    :param tube: its longest piece.
    :param angles: of the joints at gearbox and axle, or nothing where they are not known.
    :param in_phase: its yokes lie in one plane.
    """

    tube: Tube
    angles: tuple[JointAngle, JointAngle] | None
    in_phase: bool


@dataclass(frozen=True)
class Vehicle:
    """A vehicle as far as it is known.

    :param before: tyres as they were, by end.
    :param after: tyres from now on, by end.
    :param ratios: R of the axles as they are, by end.
    :param carriers: least and largest ratio that a carrier takes, by end.
    :param shafts: driveshafts, by end.
    :param centre: what joins both axles.
    :param overdrive: turns of the rear shaft for one of the front shaft.
    :param gears: of the gearbox, first to top.
    :param transfer: of the transfer case, high to low; (1,) where there is none.
    :param slip: of the converter at cruise, as a share.
    :param idle: of the engine [rpm], or nothing.
    :param torque_peak: where it gives most torque [rpm], or nothing.
    :param limit: its largest speed [rpm], or nothing.
    :param curve: torque at full throttle, or nothing.
    :param cruise: speed [km/h], or nothing.
    :param wanted_rpm: engine speed wanted there, or nothing for as it was.
    :param top_speed: fastest it is driven [km/h], or nothing.
    :param sensor: where the speed is taken.
    :param shows: what the speedometer shows over the truth now.
    :param pulses: to which its unit is set [1/km], or nothing.
    :param drive_gears: teeth of a mechanical one, on the output and on the cable, or nothing.
    """

    before: Mapping[End, Rolling]
    after: Mapping[End, Rolling]
    ratios: Mapping[End, float]
    carriers: Mapping[End, tuple[float, float]]
    shafts: Mapping[End, ShaftFacts]
    centre: Centre
    overdrive: float
    gears: tuple[float, ...]
    transfer: tuple[float, ...]
    slip: float
    idle: float | None
    torque_peak: float | None
    limit: float | None
    curve: TorqueCurve | None
    cruise: float | None
    wanted_rpm: float | None
    top_speed: float | None
    sensor: Sensor
    shows: float
    pulses: float | None
    drive_gears: tuple[int, int] | None

    @property
    def shows_now(self) -> Shown:
        """What the speedometer shows as it is."""
        return Shown(Measured(self.shows))


@cache
def fields() -> Mapping[str, Field]:
    """Everything that is asked of a vehicle, by name.

    :source: ``data/vehicle.toml``.

    >>> fields()["cruise"].scale
    'speed'
    """
    return read_table(__file__, "data/vehicle.toml", dict[str, Field])


def problems(typed: Mapping[str, str]) -> dict[str, AxleError]:
    """What cannot be used of what was typed, by field.

    :param typed: text by field; a field that is not asked is a problem too.
    :source: :func:`vehicle_from`.

    >>> sorted(problems({"tyre_front": "1/0R16", "cruise": "65 mph"}))
    ['tyre_front']
    """
    return _read(typed)[1]


def vehicle_from(typed: Mapping[str, str]) -> Vehicle:
    """The vehicle that somebody described.

    :param typed: text by field; what is left out is not known.
    :raises AxleError: for the first field that cannot be used.
    :source: ``data/vehicle.toml``.

    >>> vehicle_from({"tyre_front": "265/70R17"}).after[End.REAR].size.text
    '265/70R17'
    """
    values, wrong = _read(typed)
    if wrong:
        raise next(iter(wrong.values()))
    before = _ends(values, "tyre_front", "tyre_rear")
    ratios = {end: values[f"ratio_{end.value}"] for end in End if f"ratio_{end.value}" in values}
    teeth = (values.get("drive_teeth"), values.get("driven_teeth"))
    return Vehicle(
        before=before,
        after=_after(before, values),
        ratios=ratios,
        carriers={end: values[f"carrier_{end.value}"] for end in End if f"carrier_{end.value}" in values},
        shafts={end: shaft for end in End if (shaft := _shaft(end, values)) is not None},
        centre=_centre(values.get("centre", "unknown"), ratios),
        overdrive=values.get("overdrive", 1.0),
        gears=values.get("gears", ()),
        transfer=tuple(sorted(values.get("transfer", (1.0,)))),
        slip=values.get("slip", 0.0) / 100,
        idle=values.get("idle"),
        torque_peak=values.get("torque_peak"),
        limit=values.get("limit"),
        curve=values.get("curve"),
        cruise=values.get("cruise"),
        wanted_rpm=values.get("wanted_rpm"),
        top_speed=values.get("top_speed"),
        sensor=Sensor(values.get("sensor", "unknown")),
        shows=1 + values.get("speedometer", 0.0) / 100,
        pulses=values.get("pulses"),
        drive_gears=(int(teeth[0]), int(teeth[1])) if teeth[0] and teeth[1] else None,
    )


def _centre(told: str, ratios: Mapping[End, float]) -> Centre:
    """What joins both axles: where it is not told, two ratios speak of four driven wheels."""
    if told == "unknown":
        return Centre.LOCKED if len(ratios) == len(End) else Centre.NONE
    return Centre(told)


def _ends(values: Mapping[str, Any], front: str, rear: str) -> dict[End, Rolling]:
    """Tyres of both ends: one that is told counts for the other too."""
    told = {End.FRONT: values.get(front), End.REAR: values.get(rear)}
    found = {}
    for end in End:
        tyre = told[end] or told[end.other]
        if tyre is not None:
            found[end] = tyre
    return found


def _after(before: Mapping[End, Rolling], values: Mapping[str, Any]) -> dict[End, Rolling]:
    return {**before, **_ends(values, "tyre_front_new", "tyre_rear_new")}


def _shaft(end: End, values: Mapping[str, Any]) -> ShaftFacts | None:
    names = [f"shaft_{end.value}_{name}" for name in ("length", "outside", "wall")]
    if any(name not in values for name in names):
        return None
    length, outside, wall = (values[name] for name in names)
    box, axle = (_joint(values, f"angle_{end.value}_{at}") for at in ("box", "axle"))
    angles = (box, axle) if box is not None and axle is not None else None
    return ShaftFacts(Tube(length, outside, wall), angles, values.get("phase", "in") == "in")


def _joint(values: Mapping[str, Any], name: str) -> JointAngle | None:
    if name not in values:
        return None
    return JointAngle(math.radians(values[name]), math.radians(values.get(f"{name}_above", 0.0)))


def _read(typed: Mapping[str, str]) -> tuple[dict[str, Any], dict[str, AxleError]]:
    values: dict[str, Any] = {}
    wrong: dict[str, AxleError] = {}
    for name, text in typed.items():
        field = fields().get(name)
        if field is None:
            wrong[name] = AxleError("vehicle", given=quoted(name), wanted="a field of the list")
        elif text.strip():
            try:
                values[name] = _value(field, name, text, typed)
            except AxleError as problem:
                wrong[name] = problem
    return values, wrong | _together(values)


def _value(field: Field, name: str, text: str, typed: Mapping[str, str]) -> Any:
    what = field.title
    if len(text) > LONGEST:
        raise AxleError(what, given=f"{len(text)} characters", wanted=f"at most {LONGEST}")
    if field.kind == "tyre":
        tread = typed.get("tread_new", "new") if name.endswith("_new") else typed.get("tread", "unknown")
        return read_tyre(text, Tread(tread if tread in Tread._value2member_map_ else "unknown"), what)
    if field.kind == "figure":
        return _within(field, read_figure(text, SCALES[field.scale], what), text)
    if field.kind == "number":
        value = read_number(text, what, field.low, field.high)
        if field.whole and value != int(value):
            raise AxleError(what, given=quoted(text), wanted="a whole number")
        return value
    readers: dict[str, Callable[[str, str], Any]] = {
        "ratio": read_ratio,
        "range": _range,
        "gears": _gears,
        "curve": _curve,
    }
    if field.kind in readers:
        return readers[field.kind](text, what)
    if text not in field.values:
        raise AxleError(what, given=quoted(text), wanted=", ".join(field.values.values()))
    return text


def _within(field: Field, value: float, text: str) -> float:
    if not field.low <= value <= field.high:
        scale = SCALES[field.scale]
        wanted = f"{scale.both(field.low)} to {scale.both(field.high)}"
        raise AxleError(field.title, given=quoted(text), wanted=wanted)
    return value


def _range(text: str, what: str) -> tuple[float, float]:
    parts = re.split(r"\s*(?:\bto\b|–|(?<=\d)\s*-\s*(?=\d+\.))\s*", text.strip())
    if len(parts) != 2:
        raise AxleError(what, given=quoted(text), wanted="two ratios, as 3.08 to 3.73")
    low, high = (read_ratio(part, what) for part in parts)
    if low > high:
        raise AxleError(what, given=quoted(text), wanted="the smaller ratio first")
    return low, high


def _gears(text: str, what: str) -> tuple[float, ...]:
    parts = [part for part in re.split(r"[\s;/]+", text.strip()) if part]
    if not 1 <= len(parts) <= 18:
        raise AxleError(
            what, given=quoted(text), wanted="ratios with blanks between, as 3.59 2.19 1.41 1 0.83"
        )
    return tuple(sorted((read_number(part, what, 0.3, 20) for part in parts), reverse=True))


def _curve(text: str, what: str) -> TorqueCurve:
    wanted = "points as 1500:210, 2500:320, 3800:290"
    points = []
    for part in [part for part in re.split(r"[,;\s]+", text.strip()) if part]:
        pair = part.split(":")
        if len(pair) != 2:
            raise AxleError(what, given=quoted(text), wanted=wanted)
        points.append((read_number(pair[0], what, 100, 20_000), read_number(pair[1], what, 1, 5000)))
    return TorqueCurve(tuple(points))


def _together(values: Mapping[str, Any]) -> dict[str, AxleError]:
    """What does not go together."""
    wrong = {}
    idle, peak, limit = (values.get(name) for name in ("idle", "torque_peak", "limit"))
    for low, high, name, words in (
        (idle, peak, "torque_peak", "above idle"),
        (peak, limit, "limit", "above the speed of most torque"),
        (idle, limit, "limit", "above idle"),
    ):
        if low is not None and high is not None and low >= high:
            wrong[name] = AxleError(fields()[name].title, given=f"{high:.0f} rpm", wanted=words)
    if (values.get("drive_teeth") is None) != (values.get("driven_teeth") is None):
        missing = "driven_teeth" if values.get("driven_teeth") is None else "drive_teeth"
        wrong[missing] = AxleError(fields()[missing].title, given="nothing", wanted="both tooth counts")
    return wrong
