"""What is written down after a build: sounds, temperatures, oil, break-in, the complaint's end."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import date
from enum import Enum
from typing import Annotated, Any, Final

import msgspec
from msgspec import Meta

from axle.data_file import as_shape
from axle.errors import AxleError
from axle.road.break_in import USUAL_A_DAY, BreakIn, Leg, dated
from axle.road.listen import Sound, is_stop, means
from axle.road.temperatures import Heat, Temperature, Thermometer, judge_heat

_Words = Annotated[str, Meta(max_length=200)]
_Typed = Annotated[str, Meta(max_length=40)]


class Outcome(Enum):
    """What became of the complaint."""

    GONE = "gone"
    SAME = "same"
    OTHER = "other"


OUTCOME_WORDS: Final = {
    Outcome.GONE: "gone",
    Outcome.SAME: "the same",
    Outcome.OTHER: "another one now",
}
FILLED_BY: Final = {"shop": "here", "customer": "by the customer"}


class Heard(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What was heard at one point of the road test."""

    point: str
    sound: str
    speed: _Typed = ""
    words: _Words = ""


class Warm(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """One temperature, as typed and in °C."""

    place: str
    minute: float
    typed: _Typed
    celsius: float
    method: str = "contact"
    drive: Annotated[int, Meta(ge=1, le=20)] = 1


class Became(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What became of the complaint."""

    outcome: str
    words: _Words = ""


class Filled(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """The oil that went in, or goes in elsewhere."""

    grade: Annotated[str, Meta(min_length=2, max_length=120)]
    additive: Annotated[str, Meta(max_length=120)] = ""
    volume: _Typed = ""
    litres: Annotated[float, Meta(ge=0, le=30)] | None = None
    by: str = "shop"
    change: _Words = ""


class Planned(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """The break-in that was handed over."""

    legs: Annotated[list[Leg], Meta(min_length=1, max_length=10)]
    start: date
    a_day: Annotated[float, Meta(ge=1, le=5000)] = USUAL_A_DAY
    source: _Words = ""


class Ticked(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A leg that was driven, or a check that was made."""

    leg: Annotated[int, Meta(ge=1, le=10)]
    day: date
    by: Annotated[str, Meta(max_length=120)] = ""
    words: _Words = ""


RoadNote = Heard | Warm | Became | Filled | Planned | Ticked
KINDS: Final[Mapping[str, type[RoadNote]]] = {
    "heard": Heard,
    "temperature": Warm,
    "outcome": Became,
    "oil": Filled,
    "break_in": Planned,
    "leg": Ticked,
}


def read_road_line(kind: str, values: Mapping[str, Any]) -> RoadNote:
    """A row of a job's road, held to what its kind has.

    :param kind: its name.
    :param values: plain data.
    :raises AxleError: for a kind that is none, or a row that its kind cannot have.
    :source: :data:`KINDS`.

    >>> read_road_line("outcome", {"outcome": "gone"}).outcome
    'gone'
    """
    if kind not in KINDS:
        raise AxleError("road", given=f"“{kind[:20]}”", wanted=", ".join(KINDS))
    line = as_shape("road", values, KINDS[kind])
    if isinstance(line, Heard):
        means(line.point, _one(Sound, line.sound, "sound"))
    elif isinstance(line, Warm):
        temperature_of(line)
    elif isinstance(line, Became):
        _one(Outcome, line.outcome, "complaint")
    elif isinstance(line, Filled) and line.by not in FILLED_BY:
        raise AxleError("filled by", given=f"“{line.by[:20]}”", wanted=", ".join(FILLED_BY))
    elif isinstance(line, Planned):
        dated(line.legs, line.start, a_day=line.a_day)
    return line


def kind_of(line: RoadNote) -> str:
    """The name under which a row is kept.

    :param line: the row.
    :source: :data:`KINDS`.

    >>> kind_of(Became("gone"))
    'outcome'
    """
    return next(kind for kind, shape in KINDS.items() if isinstance(line, shape))


def temperature_of(line: Warm) -> Temperature:
    """The temperature behind a row.

    :param line: the row.
    :raises AxleError: for a place or a way that is none, or a temperature out of range.
    :source: :class:`axle.road.temperatures.Temperature`.
    """
    return Temperature(line.place, line.minute, line.celsius, _one(Thermometer, line.method, "taken by"))


def _one(kind: type[Enum], value: str, what: str) -> Any:
    try:
        return kind(value)
    except ValueError:
        wanted = ", ".join(str(member.value) for member in kind)
        raise AxleError(what, given=f"“{value[:20]}”", wanted=wanted) from None


@dataclass(frozen=True)
class HeardAt:
    """What was heard at a point, with what it means.

    :param line: as written.
    :param means: what it means, or "".
    :param stop: nobody drives on.
    """

    line: Heard
    means: str
    stop: bool


@dataclass(frozen=True)
class RoadStanding:
    """Where a job's road stands.

    :param heard: the newest of each point, in the order of the test.
    :param drives: what the temperatures say, by drive.
    :param outcome: of the complaint, or nothing.
    :param oil: that went in, newest, or nothing.
    :param break_in: where it stands, or nothing.
    :param planned: the break-in as it was handed over, or nothing.
    """

    heard: Mapping[str, HeardAt]
    drives: Mapping[int, Heat]
    outcome: Became | None
    oil: Filled | None
    break_in: BreakIn | None
    planned: Planned | None

    @property
    def stops(self) -> tuple[str, ...]:
        """Why nobody drives on, in sentences."""
        sounds = tuple(one.means for one in self.heard.values() if one.stop)
        newest = self.drives[max(self.drives)] if self.drives else None
        heat = newest.words[:1] if newest is not None and newest.warmth.value == "stop" else ()
        return (*sounds, *heat)


def road_standing(lines: Iterable[RoadNote]) -> RoadStanding:
    """Where a job's road stands, from its rows.

    :param lines: that stand, oldest first.
    :returns: the newest of each kind; ticks count for the break-in handed over before them.
    :source: the rows in their order.

    >>> road_standing([]).break_in is None
    True
    """
    heard: dict[str, HeardAt] = {}
    warm: dict[int, list[Temperature]] = {}
    outcome = oil = planned = None
    ticks: set[int] = set()
    for line in lines:
        if isinstance(line, Heard):
            sound = Sound(line.sound)
            heard[line.point] = HeardAt(line, means(line.point, sound), is_stop(line.point, sound))
        elif isinstance(line, Warm):
            warm.setdefault(line.drive, []).append(temperature_of(line))
        elif isinstance(line, Became):
            outcome = line
        elif isinstance(line, Filled):
            oil = line
        elif isinstance(line, Planned):
            planned, ticks = line, set()
        else:
            ticks.add(line.leg)
    stands = dated(planned.legs, planned.start, ticks, a_day=planned.a_day) if planned else None
    return RoadStanding(
        heard,
        {drive: judge_heat(read) for drive, read in sorted(warm.items())},
        outcome,
        oil,
        stands,
        planned,
    )
