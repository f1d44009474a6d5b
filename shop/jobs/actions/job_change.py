"""The one way to change a job: hold its row, refuse a page that is behind, settle what follows."""

from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass

from django.db import transaction
from django.utils import timezone

from axle.stations.station_state import Status
from shop.jobs import chain, clock, loading, noted_lines
from shop.jobs.job_axle import JobAxle
from shop.jobs.models import Job, Move
from shop.people.models import User
from shop.people.rules import Rejected

_later: ContextVar[bool] = ContextVar("later", default=False)


class VersionConflict(Exception):
    """The page shows an older state than the records hold; nothing was written."""

    def __init__(self, job: Job) -> None:
        self.job = job
        who, what = job.touched_by.called, job.touched_what or "made a change"
        super().__init__(f"{who} {what} at {timezone.localtime(job.touched_at):%H:%M:%S}.")


@dataclass
class JobChange:
    job: Job
    what: str = ""


@contextmanager
def job_change(job: Job, user: User, version: int, *, signed: bool = False) -> Iterator[JobChange]:
    """Hold the job's row; refuse a page that is behind or a job that is signed."""
    with transaction.atomic():
        held = Job.objects.of(user.shop).select_for_update().filter(pk=job.pk).first()
        if held is None:
            raise Rejected("There is no such job in this shop.")
        if held.version != version:
            raise VersionConflict(held)
        if (held.state == Job.State.SIGNED) != signed:
            raise Rejected(
                "The build sheet is signed: open the job again, with a reason, before changing it."
                if not signed
                else "The job is open already."
            )
        change = JobChange(held)
        yield change
        job.axle_after = finish_change(held, user, change.what)


@contextmanager
def finish_changes_once() -> Iterator[None]:
    """Make many changes and work out what follows once, by :func:`finish_change` at their end."""
    token = _later.set(True)
    try:
        yield
    finally:
        _later.reset(token)


def finish_change(job: Job, user: User, what: str) -> JobAxle | None:
    """Raise the version, say who did what, and work out what the jobs page shows."""
    job.version += 1
    job.touched_at = clock.now()
    job.touched_by, job.touched_what = user, what[:160]
    if _later.get():
        job.save()
        return None
    chain.extend(job)
    axle = loading.load(job)
    job.summary = loading.summary(axle)
    job.check_due = noted_lines.check_due(job)
    job.save()
    keep_outcome(axle)
    return axle


def keep_outcome(axle: JobAxle) -> None:
    """Put beside the newest move what its stations came to."""
    move = axle.job.moves.standing().filter(assembly=axle.assembly).order_by("-id").first()
    if move is None:
        return
    outcome = {
        name: {
            "status": standing.status.value,
            "value": standing.result.value,
            "words": standing.result.words,
        }
        for name, standing in axle.standings.items()
        if standing.result is not None and standing.status in (Status.IN_RANGE, Status.RECORDED, Status.OUT)
    }
    held = _held(axle, move)
    if outcome != move.outcome or held != move.held:
        move.outcome, move.held = outcome, held
        move.save(update_fields=["outcome", "held"])


# The station whose reading says whether a part of a chance came about.
_SHOWS = {"depth": "pattern"}


def _held(axle: JobAxle, move: Move) -> bool | None:
    """Whether all that a chance was given for came in, at its first readings; nothing before these."""
    if move.chance is None or move.held is not None:
        return move.held
    seen = []
    for part in move.parts:
        station = _SHOWS.get(part, part)
        standing = axle.standings.get(station)
        if standing is None or standing.status is Status.SIGNED:
            continue
        if standing.status is Status.OUT:
            return False
        seen.append(standing.status is Status.IN_RANGE)
    return True if seen and all(seen) else None
