"""How warm a housing gets: rise first, then height, then which place is ahead of the others."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from enum import Enum
from functools import cache
from typing import Final

import msgspec

from axle.data_file import read_table
from axle.errors import AxleError
from axle.measure.figures import TEMPERATURE

_LONGEST: Final = 600.0


class Thermometer(Enum):
    """How a temperature was taken."""

    CONTACT = "contact"
    PAINTED = "painted"
    BARE = "bare"


THERMOMETER_WORDS: Final = {
    Thermometer.CONTACT: "probe that touches",
    Thermometer.PAINTED: "infrared, on a painted or taped spot",
    Thermometer.BARE: "infrared, on bare metal",
}


class Limits(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What is usual, as in ``data/temperatures.toml``."""

    rise_watch: float
    rise_stop: float
    watch: float
    stop: float
    ahead_watch: float
    ahead_stop: float
    least_minutes: float


class HousingPlace(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A place of a housing, as in ``data/temperatures.toml``."""

    title: str
    short: str


class _Table(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    places: dict[str, HousingPlace]
    limits: Limits


@cache
def _table() -> _Table:
    return read_table(__file__, "data/temperatures.toml", _Table)


def places() -> Mapping[str, HousingPlace]:
    """Where a housing is measured, by name.

    :source: ``data/temperatures.toml``.

    >>> list(places())[0]
    'pinion'
    """
    return _table().places


def limits() -> Limits:
    """What is usual.

    :source: ``data/temperatures.toml``; from memory, common practice.

    >>> limits().stop
    120.0
    """
    return _table().limits


@dataclass(frozen=True)
class Temperature:
    """One temperature of a housing.

    :param place: where, as in ``data/temperatures.toml``.
    :param minute: since the drive began, 0 to 600.
    :param celsius: T [°C], −60 to 400.
    :param method: how it was taken.
    :raises AxleError: outside these ranges.
    """

    place: str
    minute: float
    celsius: float
    method: Thermometer = Thermometer.CONTACT

    def __post_init__(self) -> None:
        if self.place not in places():
            raise AxleError("place", given=f"“{self.place[:20]}”", wanted=", ".join(places()))
        if not 0 <= self.minute <= _LONGEST:
            raise AxleError("minute", given=f"{self.minute:g}", wanted=f"0 to {_LONGEST:g} after the start")
        if not TEMPERATURE.low <= self.celsius <= TEMPERATURE.high:
            raise AxleError("temperature", given=f"{self.celsius:g} °C", wanted="−60 to 400 °C")

    @property
    def counts(self) -> bool:
        """Whether it is judged: bare metal hides its heat from an infrared thermometer."""
        return self.method is not Thermometer.BARE


class Warmth(Enum):
    """How warm it is."""

    NOT_READ = "not read"
    USUAL = "usual"
    WATCH = "watch it"
    STOP = "stop"


@dataclass(frozen=True)
class PlaceCurve:
    """The temperatures of one place.

    :param place: its name.
    :param points: (minute, °C) that count, by time.
    :param rise: of the last of them over the one before [K/min], or nothing.
    :param minutes_left: until it reaches the stop limit at this rise, or nothing.
    """

    place: str
    points: tuple[tuple[float, float], ...]
    rise: float | None
    minutes_left: float | None

    @property
    def last(self) -> float:
        """The newest [°C]."""
        return self.points[-1][1]


@dataclass(frozen=True)
class Heat:
    """What the temperatures of one drive say.

    :param warmth: of all together.
    :param curves: by place, those that were read.
    :param words: why, in sentences, the worst first.
    :param left_out: readings that do not count.
    """

    warmth: Warmth
    curves: tuple[PlaceCurve, ...]
    words: tuple[str, ...]
    left_out: int


def judge_heat(read: Iterable[Temperature]) -> Heat:
    """Judge a drive's temperatures: rise first, then height, then the pinion against the rest.

    :param read: temperatures of one drive, in any order.
    :returns: warmth with its reasons; bare metal under an infrared thermometer is left out and said.
    :source: ``data/temperatures.toml``; from memory, common practice.

    >>> judge_heat([Temperature("pinion", 10, 60), Temperature("pinion", 12, 82)]).warmth.value
    'stop'
    """
    given = sorted(read, key=lambda one: one.minute)
    counted = [one for one in given if one.counts]
    curves = tuple(
        _curve(place, [one for one in counted if one.place == place])
        for place in places()
        if any(one.place == place for one in counted)
    )
    said = [*_rises(curves), *_heights(curves), *_ahead(curves)]
    said.sort(key=lambda line: line[0] is not Warmth.STOP)
    words = [line[1] for line in said]
    left_out = len(given) - len(counted)
    if left_out:
        words.append("Bare metal under an infrared thermometer reads far too cold: tape or paint the spot.")
    if not curves:
        return Heat(Warmth.NOT_READ, (), tuple(words), left_out)
    worst = Warmth.USUAL
    if said:
        worst = Warmth.STOP if said[0][0] is Warmth.STOP else Warmth.WATCH
    else:
        top = max(curves, key=lambda curve: curve.last)
        warmest = f"{places()[top.place].title}, {TEMPERATURE.both(top.last)}"
        words.insert(0, f"Warmest is the {warmest}: usual after a drive.")
    return Heat(worst, curves, tuple(words), left_out)


def _curve(place: str, read: list[Temperature]) -> PlaceCurve:
    # Two at one minute are one place read twice: the warmer one is nearer the truth.
    at: dict[float, float] = {}
    for one in read:
        at[one.minute] = max(one.celsius, at.get(one.minute, one.celsius))
    points = tuple(sorted(at.items()))
    rise = left = None
    if len(points) > 1:
        last = points[-1]
        before = next((p for p in reversed(points[:-1]) if last[0] - p[0] >= limits().least_minutes), None)
        if before is not None:
            rise = (last[1] - before[1]) / (last[0] - before[0])
            if rise > 0 and last[1] < limits().stop:
                left = (limits().stop - last[1]) / rise
    return PlaceCurve(place, points, rise, left)


def _rises(curves: Iterable[PlaceCurve]) -> list[tuple[Warmth, str]]:
    said = []
    for curve in curves:
        if curve.rise is None or curve.rise < limits().rise_watch:
            continue
        level = Warmth.STOP if curve.rise >= limits().rise_stop else Warmth.WATCH
        what = "Stop and let it cool" if level is Warmth.STOP else "Read again in two minutes"
        left = ""
        if curve.minutes_left is not None:
            at = TEMPERATURE.both(limits().stop)
            left = f"; at that rise it is at {at} in {curve.minutes_left:.0f} min"
        said.append(
            (
                level,
                f"The {places()[curve.place].title} rises {curve.rise:.1f} °C a minute "
                f"({curve.rise * 1.8:.0f} °F){left}. {what}.",
            )
        )
    return said


def _heights(curves: Iterable[PlaceCurve]) -> list[tuple[Warmth, str]]:
    said = []
    for curve in curves:
        if curve.last >= limits().stop:
            said.append(
                (
                    Warmth.STOP,
                    f"The {places()[curve.place].title} stands at {TEMPERATURE.both(curve.last)}: stop, "
                    "let it cool, drain the oil and look at it.",
                )
            )
        elif curve.last >= limits().watch:
            said.append(
                (
                    Warmth.WATCH,
                    f"The {places()[curve.place].title} stands at {TEMPERATURE.both(curve.last)}: warm for "
                    "an easy drive; new bearings may do so once.",
                )
            )
    return said


def _ahead(curves: tuple[PlaceCurve, ...]) -> list[tuple[Warmth, str]]:
    pinion = next((curve for curve in curves if curve.place == "pinion"), None)
    others = [curve for curve in curves if curve.place != "pinion"]
    if pinion is None or not others:
        return []
    ahead = pinion.last - max(curve.last for curve in others)
    if ahead < limits().ahead_watch:
        return []
    level = Warmth.STOP if ahead >= limits().ahead_stop else Warmth.WATCH
    what = (
        "stop: its preload is too high, or it runs dry"
        if level is Warmth.STOP
        else "watch its preload and its oil"
    )
    return [
        (level, f"The pinion's nose is {ahead:.0f} °C ({ahead * 1.8:.0f} °F) warmer than the rest: {what}.")
    ]
