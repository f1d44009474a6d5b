"""The list of jobs: each with its ladder, what is next and when it is promised."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, datetime, timedelta
from typing import Any, Final

from django.utils import timezone
from django.utils.timesince import timesince

from axle.measure.units import IMPERIAL
from axle.procedure.names import StationName
from axle.procedure.stations import station_groups, stations
from axle.stations.station_state import Status
from shop.jobs import loading, queries
from shop.jobs.models import Job, Timer
from shop.jobs.queries import Shown
from shop.people.models import User

_PAGE: Final = 25
# The torque sheet is turned at other stations: it has no dot of its own.
_NO_DOT: Final = (StationName.TORQUE,)


@dataclass(frozen=True)
class Dot:
    """One station of a job's ladder.

    :param title: of the station.
    :param status: in words.
    :param key: of its sign.
    """

    title: str
    status: str
    key: str


@dataclass(frozen=True)
class ListedJob:
    """One row of the list.

    :param job: of the records.
    :param ladder: dots in their groups.
    :param words: the ladder in words.
    :param next: what is next.
    :param late: by how much it is past its promised date, or "".
    :param touched: how long ago somebody was at it.
    :param waits: running waits.
    """

    job: Job
    ladder: tuple[tuple[Dot, ...], ...]
    words: str
    next: str
    late: str
    touched: str
    waits: tuple[Timer, ...]


def context(user: User, search: str, shown: str, number: int) -> dict[str, Any]:
    """What the list is rendered from: a page of rows, and whether there is another."""
    chip = Shown(shown) if shown in Shown.values else (None if search else Shown.OPEN)
    first = (max(number, 1) - 1) * _PAGE
    found = queries.rows_of(queries.jobs_of(user, search, chip), first, _PAGE + 1)
    if not found and first:
        return context(user, search, shown, 1)  # past the last page
    today = timezone.localdate()
    return {
        "rows": [listed(job, today) for job in found[:_PAGE]],
        "search": search,
        "shown": chip.value if chip else "",
        "chips": [(choice.value, choice.label) for choice in Shown],
        "checks": queries.checks_due(user, today) if not search and max(number, 1) == 1 else [],
        "number": max(number, 1),
        "newer": number - 1 if number > 1 else 0,
        "is_empty": not found and not queries.jobs_of(user).exists(),
        "older": number + 1 if len(found) > _PAGE else 0,
    }


def ago(moment: datetime) -> str:
    """How long ago something was, in words."""
    if timezone.now() - moment < timedelta(minutes=1):
        return "just now"
    return f"{timesince(moment, depth=1)} ago"


def late_by(job: Job, today: date) -> str:
    """By how much an open job is past its promised date, in words; "" where it is not."""
    promised = job.promised_on
    if job.state != Job.State.OPEN or promised is None or promised >= today:
        return ""
    return timesince(promised, today, depth=1)


def listed(job: Job, today: date) -> ListedJob:
    """One job as its row shows it."""
    if "ladder" not in job.summary:
        # Kept before ladders were: worked out once.
        job.summary = loading.summary(loading.load(job, IMPERIAL))
        Job.objects.filter(pk=job.pk).update(summary=job.summary)
    kept: dict[str, str] = job.summary["ladder"]
    ladder = tuple(
        tuple(
            Dot(stations()[name].title, kept[name], kept[name].replace(" ", "-"))
            for name in group.stations
            if name in kept and name not in _NO_DOT
        )
        for group in station_groups()
    )
    dots = [dot for group in ladder for dot in group]
    done = sum(1 for dot in dots if Status(dot.status).is_done)
    out = [dot.title for dot in dots if dot.status == Status.OUT.value]
    words = f"{done} of {len(dots)} stations done" + (f"; out of range: {', '.join(out)}" if out else "")
    return ListedJob(
        job=job,
        ladder=tuple(group for group in ladder if group),
        words=words,
        next="Signed" if job.state == Job.State.SIGNED else job.summary["next"],
        late=late_by(job, today),
        touched=ago(job.touched_at),
        waits=tuple(job.waits),  # type: ignore[attr-defined]
    )
