"""The break-in as dated legs, and where it stands."""

from __future__ import annotations

import math
from collections.abc import Collection, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from functools import cache
from typing import Annotated, Final

import msgspec
from msgspec import Meta

from axle.data_file import read_table
from axle.errors import AxleError

# How far a car is driven a day where nobody says it [km], and the least that is believed.
USUAL_A_DAY: Final = 40.0
_LEAST_A_DAY: Final = 1.0
MOST_LEGS: Final = 10
_FIRST_YEAR: Final = 1990
_LAST_YEAR: Final = 2100


class Leg(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """One leg of a break-in.

    :param title: what it is.
    :param load: how it is driven.
    :param day: earliest day after the hand-over.
    :param minutes: of driving; 0 where a distance counts.
    :param km: of driving; 0 where minutes count.
    :param cool: minutes to cool down after it.
    :param check: the shop does it.
    :param when: uses for which it counts; every use where it is empty.
    """

    title: Annotated[str, Meta(min_length=2, max_length=60)]
    load: Annotated[str, Meta(max_length=200)] = ""
    day: Annotated[int, Meta(ge=0, le=400)] = 0
    minutes: Annotated[float, Meta(ge=0, le=600)] = 0.0
    km: Annotated[float, Meta(ge=0, le=20000)] = 0.0
    cool: Annotated[float, Meta(ge=0, le=2880)] = 0.0
    check: bool = False
    when: tuple[str, ...] = ()


class _Table(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    legs: tuple[Leg, ...]


@cache
def _table() -> _Table:
    return read_table(__file__, "data/break_in.toml", _Table)


def usual_legs(use: str = "road") -> tuple[Leg, ...]:
    """The break-in where the gear maker gives none.

    :param use: "road", "tow", "track" or "works".
    :source: ``data/break_in.toml``; common practice, from memory.

    >>> [leg.title for leg in usual_legs()][-1]
    '500-mile check'
    """
    return tuple(leg for leg in _table().legs if not leg.when or use in leg.when)


@dataclass(frozen=True)
class DatedLeg:
    """A leg with its day.

    :param number: counted from 1.
    :param leg: what it is.
    :param due: the day on which it can be done, or is expected to be.
    :param done: it is ticked.
    """

    number: int
    leg: Leg
    due: date
    done: bool


@dataclass(frozen=True)
class BreakIn:
    """Where a break-in stands.

    :param legs: in their order.
    """

    legs: tuple[DatedLeg, ...]

    @property
    def next(self) -> DatedLeg | None:
        """The first that is not ticked, or nothing."""
        return next((leg for leg in self.legs if not leg.done), None)

    @property
    def driven(self) -> int:
        """How many legs are ticked."""
        return sum(leg.done for leg in self.legs)

    @property
    def is_done(self) -> bool:
        """Whether every leg is ticked."""
        return self.next is None

    @property
    def check(self) -> DatedLeg | None:
        """The first check in the shop that is still to come, or nothing."""
        return next((leg for leg in self.legs if leg.leg.check and not leg.done), None)


def dated(
    legs: Sequence[Leg], start: date, done: Collection[int] = (), *, a_day: float = USUAL_A_DAY
) -> BreakIn:
    """Put a day to each leg.

    :param legs: in their order, 1 to 10.
    :param start: day of the hand-over.
    :param done: numbers of the legs that are ticked, from 1.
    :param a_day: how far the car is driven a day [km], 1 or more.
    :returns: a leg falls on its earliest day, or when the distance before it has been driven.
    :raises AxleError: for no leg, too many, or a car that is not driven.
    :source: the distance over what is driven a day.

    >>> dated(usual_legs(), date(2026, 12, 1), a_day=50.0).check.due
    datetime.date(2026, 12, 21)
    """
    if not 1 <= len(legs) <= MOST_LEGS:
        raise AxleError("break-in", given=f"{len(legs)} legs", wanted=f"1 to {MOST_LEGS}")
    if not a_day >= _LEAST_A_DAY:
        raise AxleError("driven a day", given=f"{a_day:g} km", wanted=f"{_LEAST_A_DAY:g} km or more")
    if not _FIRST_YEAR <= start.year <= _LAST_YEAR:
        raise AxleError("hand-over", given=f"{start}", wanted=f"a day from {_FIRST_YEAR} to {_LAST_YEAR}")
    found, driven = [], 0
    for number, leg in enumerate(legs, start=1):
        driven += math.ceil(leg.km / a_day)
        due = start + timedelta(days=leg.day + driven)
        found.append(DatedLeg(number, leg, due, number in done))
    return BreakIn(tuple(found))
