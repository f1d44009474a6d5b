"""What a job's record says of time: how long a step took, and the hours of each assembly."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Mapping
from datetime import datetime, timedelta
from itertools import pairwise

from axle.schedule.calendars import DAY, Span, working_time
from axle.schedule.durations import assumptions


def spent(begun: datetime, done: datetime, week: Mapping[int, tuple[Span, ...]]) -> tuple[float, bool]:
    """Working minutes between two moments, and whether a break lay between.

    :param begun: by the shop's clock, without a zone.
    :param done: not before it.
    :param week: the shop's hours by weekday.
    :returns: (minutes, whether a break lay between); outside all hours the minutes of the clock count.

    >>> week = {0: ((480, 720), (780, 1020))}
    >>> spent(datetime(2026, 11, 23, 11, 50), datetime(2026, 11, 23, 13, 10), week)
    (20.0, True)
    """
    first = begun.date() - timedelta(days=begun.weekday())
    origin = datetime.combine(first, datetime.min.time())
    low, high = ((moment - origin).total_seconds() / 60 for moment in (begun, done))
    days = int(high // DAY) + 1
    if not any(week.values()):
        return high - low, False
    hours = working_time(first, days, week)
    minutes = hours.worked_at(high) - hours.worked_at(low)
    inside = any(start <= low <= high <= end for start, end in hours.spans)
    if minutes <= 0:
        # Evening work: the record is right, the week is not.
        return high - low, begun.date() != done.date()
    return minutes, not inside


def hours_between(acts: Iterable[tuple[datetime, str]]) -> dict[str, float]:
    """Hours that somebody was at a job, by what it was for, as its record shows them.

    :param acts: (moment, what for) of every reading and mark, in any order; each ends the time before it.
    :returns: hours by what for; a gap longer than that of ``spreads.toml`` is nobody's work.
    :source: ``data/spreads.toml``; common practice, no source.

    >>> nine = datetime(2026, 11, 23, 9)
    >>> hours_between([(nine, "1"), (nine + timedelta(minutes=30), "1"), (nine + timedelta(hours=9), "2")])
    {'1': 0.5}
    """
    known = sorted(acts)
    gap = timedelta(minutes=assumptions().evidence.gap)
    minutes: dict[str, float] = defaultdict(float)
    for (before, _), (moment, what_for) in pairwise(known):
        if moment - before <= gap:
            minutes[what_for] += (moment - before).total_seconds() / 60
    return {what_for: round(total / 60, 2) for what_for, total in sorted(minutes.items()) if total}
