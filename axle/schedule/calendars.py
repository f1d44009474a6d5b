"""Working hours: what of the clock a person works, and how work runs over it.

Clock times are minutes from the Monday at midnight with which a plan begins, by the shop's own clock.
"""

from __future__ import annotations

import re
from bisect import bisect_right
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import date, timedelta
from functools import cached_property
from itertools import accumulate, pairwise
from math import inf
from typing import Final

from axle.errors import AxleError

DAY: Final = 24 * 60
Span = tuple[int, int]

_SPAN: Final = re.compile(r"^(\d{1,2})(?:[:.](\d{2}))?\s*(?:-|–|to)\s*(\d{1,2})(?:[:.](\d{2}))?$")
# Below this a difference of clock times is rounding.
_NEAR: Final = 1e-6


def parse_hours(text: str, day: str = "hours") -> tuple[Span, ...]:
    """Read the hours of one day.

    :param text: spans of a day, "8-12, 13-17" or "7:30-16"; nothing for a free day.
    :param day: the field's name, for a refusal.
    :returns: (from, to) in minutes of the day, in order and apart.
    :raises AxleError: for what is no span, ends before it begins, or overlaps.

    >>> parse_hours("8-12, 13:00-16:30")
    ((480, 720), (780, 990))
    """
    spans = []
    for part in (p.strip() for p in text.split(",")):
        if not part:
            continue
        found = _SPAN.match(part)
        if found is None:
            raise AxleError(
                day,
                given=f"“{part[:20]}”",
                wanted="spans of a day, as 8-12, 13-17",
                do="Leave the field empty for a free day.",
            )
        hours = [int(found[i] or 0) for i in (1, 2, 3, 4)]
        start, end = hours[0] * 60 + hours[1], hours[2] * 60 + hours[3]
        if not 0 <= start < end <= DAY or max(hours[1], hours[3]) > 59:
            raise AxleError(
                day, given=f"“{part}”", wanted="a span that ends after it begins, within 0 to 24 o'clock"
            )
        spans.append((start, end))
    spans.sort()
    for before, after in pairwise(spans):
        if after[0] < before[1]:
            raise AxleError(day, given=f"“{text[:40]}”", wanted="spans that do not overlap")
    return tuple(spans)


def hours_words(spans: Iterable[Span]) -> str:
    """Write the hours of a day as they are typed.

    >>> hours_words(((480, 720), (780, 990)))
    '8-12, 13-16:30'
    """

    def clock(minute: int) -> str:
        return f"{minute // 60}:{minute % 60:02d}" if minute % 60 else f"{minute // 60}"

    return ", ".join(f"{clock(start)}-{clock(end)}" for start, end in spans)


@dataclass(frozen=True)
class WorkingTime:
    """The hours that somebody works, as spans of the clock.

    :param spans: (from, to) in clock minutes, in order and apart.
    """

    spans: tuple[Span, ...]

    @cached_property
    def starts(self) -> list[int]:
        """Where each span begins."""
        return [start for start, _ in self.spans]

    @cached_property
    def _done(self) -> list[float]:
        """Minutes worked before each span, and in all."""
        return [0.0, *accumulate(float(end - start) for start, end in self.spans)]

    @property
    def total(self) -> float:
        """Minutes of work in all."""
        return self._done[-1]

    @cached_property
    def longest(self) -> int:
        """The longest span, in minutes."""
        return max((end - start for start, end in self.spans), default=0)

    def worked_at(self, clock: float) -> float:
        """Minutes of work before a time of the clock.

        >>> WorkingTime(((480, 720), (780, 1020))).worked_at(790)
        250.0
        """
        index = bisect_right(self.starts, clock) - 1
        if index < 0:
            return 0.0
        start, end = self.spans[index]
        return self._done[index] + max(min(clock, end) - start, 0.0)

    def start_at(self, earliest: float, minutes: float, *, pauses: bool) -> float:
        """The first time at or after one at which work of so many minutes can begin.

        :param earliest: clock minutes.
        :param minutes: minutes of work, 0 or more.
        :param pauses: whether the work may stop over a break; else it lies within one span.
        :returns: clock minutes; infinite where it fits nowhere.

        >>> WorkingTime(((480, 720), (780, 1020))).start_at(700, 30, pauses=False)
        780
        """
        index = bisect_right(self.starts, earliest) - 1
        if index < 0 or earliest >= self.spans[index][1]:
            index += 1
        for start, end in self.spans[index:]:
            begins = max(earliest, start)
            if pauses or begins + minutes <= end + _NEAR:
                return begins
        return inf

    def end_at(self, start: float, minutes: float) -> float:
        """When work that begins at a time ends, its breaks left out.

        :param start: clock minutes.
        :param minutes: minutes of work, 0 or more.
        :returns: clock minutes; infinite where the hours do not reach so far.

        >>> WorkingTime(((480, 720), (780, 1020))).end_at(700, 30)
        790.0
        """
        index = bisect_right(self.starts, start) - 1
        left = minutes
        for low, high in self.spans[max(index, 0) :]:
            room = high - max(start, low)
            if left <= room + _NEAR:
                return float(max(start, low) + left)
            left -= max(room, 0.0)
        return inf

    def clock_at(self, worked: float) -> float:
        """The time of the clock at which so many minutes are worked.

        :param worked: minutes of work, 0 or more.
        :returns: clock minutes; infinite where there is not so much work.
        """
        return self.end_at(self.spans[0][0], worked) if self.spans else inf

    def without(self, away: Iterable[Span]) -> WorkingTime:
        """The same hours less spans in which the person is away.

        >>> WorkingTime(((480, 720), (780, 1020))).without([(600, 800)]).spans
        ((480, 600), (800, 1020))
        """
        spans = list(self.spans)
        for start, end in away:
            kept = []
            for low, high in spans:
                kept += [(low, min(high, start))] if low < start else []
                kept += [(max(low, end), high)] if high > end else []
            spans = [span for span in kept if span[0] < span[1]]
        return WorkingTime(tuple(spans))


def working_time(
    monday: date, days: int, week: Mapping[int, tuple[Span, ...]], closed: Iterable[date] = ()
) -> WorkingTime:
    """The hours of so many days.

    :param monday: the day at whose midnight the clock begins.
    :param days: number of days, 1 or more.
    :param week: hours of a day by weekday, Monday 0 to Sunday 6.
    :param closed: days without work: public holidays.
    :raises AxleError: for a week without hours.

    >>> working_time(date(2026, 11, 23), 2, {0: ((480, 720),), 1: ((480, 720),)}).spans
    ((480, 720), (1920, 2160))
    """
    if not any(week.values()):
        raise AxleError(
            "hours of the week",
            given="no hours on any day",
            wanted="hours on one day or more, as 8-12, 13-17",
        )
    off = set(closed)
    spans: list[Span] = []
    for number in range(days):
        day = monday + timedelta(days=number)
        if day not in off:
            spans += [
                (number * DAY + start, number * DAY + end) for start, end in week.get(day.weekday(), ())
            ]
    return WorkingTime(tuple(spans))


def joined(hours: Iterable[WorkingTime]) -> WorkingTime:
    """The hours in which anybody works; breaks stay where all have them.

    >>> joined([WorkingTime(((0, 60),)), WorkingTime(((30, 90), (120, 150)))]).spans
    ((0, 90), (120, 150))
    """
    cuts: list[list[int]] = []
    for start, end in sorted(span for person in hours for span in person.spans):
        if cuts and start <= cuts[-1][1]:
            cuts[-1][1] = max(cuts[-1][1], end)
        else:
            cuts.append([start, end])
    return WorkingTime(tuple((start, end) for start, end in cuts))
