"""Lines that are noted once, about ratio, road and noise, and struck by a later one."""

from __future__ import annotations

import uuid
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, TypeVar

from axle.errors import AxleError, quoted
from shop.jobs import clock, loading, noted_lines
from shop.jobs.actions.job_change import job_change
from shop.jobs.models import Job, NoiseLine, RatioLine, RoadLine
from shop.people import rules
from shop.people.models import User
from shop.people.rules import Rejected, Right

Row = TypeVar("Row", RatioLine, RoadLine, NoiseLine)
# A choice is no reading: the next one takes its place.
_NOT_STRUCK = ("chosen", "answered")


@dataclass(frozen=True)
class Note:
    """A line as it is noted.

    :param kind: its name, as in the core.
    :param values: plain data, held to its kind by the core already.
    :param said: what it did, for the log of who was last at the job.
    """

    kind: str
    values: Mapping[str, Any]
    said: str


def note(
    model: type[Row],
    user: User,
    job: Job,
    version: int,
    lines: Sequence[Note],
    entry: uuid.UUID,
    *,
    signed: bool = False,
) -> None:
    """Note lines together; sent again, they are the same ones.

    :param lines: one or more.
    :param signed: whether they may be noted after the build sheet is signed.
    """
    if model.objects.filter(job=job, entry=entry).exists():
        return
    with job_change(job, user, version, signed=signed and job.state == Job.State.SIGNED) as change:
        for number, line in enumerate(lines):
            write(model, user, change.job, line, uuid.uuid5(entry, f"{number}") if number else entry)
        change.what = lines[0].said


def write(
    model: type[Row], user: User, job: Job, line: Note, entry: uuid.UUID, strikes: Row | None = None
) -> Row:
    """Write a line into a job that is held already."""
    return model.objects.create(
        job=job,
        kind=line.kind,
        values=dict(line.values),
        strikes=strikes,
        entry=entry,
        at=clock.now(),
        person=user,
        by=user.called,
        settings=loading.now_in(job)[2],
    )


def strike(
    model: type[Row], user: User, job: Job, version: int, number: int, reason: str, entry: uuid.UUID
) -> None:
    """Strike a line: it stays to be seen, and counts no more."""
    rules.require_right(user, Right.MEASURE)
    if len(reason.strip()) < 4:
        raise AxleError("reason", given=quoted(reason), wanted="why it does not hold, in a few words")
    if model.objects.filter(job=job, entry=entry).exists():
        return
    signed = model is not RatioLine and job.state == Job.State.SIGNED
    with job_change(job, user, version, signed=signed) as change:
        rows = noted_lines.standing_rows(model.objects.filter(job=job).order_by("id"))
        row = next((row for row in rows if row.pk == number), None)
        if row is None:
            raise Rejected("That line is struck already, or was never there.")
        if row.kind in _NOT_STRUCK:
            raise Rejected("A choice is not struck: choose another set, and the customer is asked again.")
        line = Note(noted_lines.STRUCK, {"reason": reason.strip()[:200]}, "struck a line")
        write(model, user, change.job, line, entry, strikes=row)
        change.what = line.said
