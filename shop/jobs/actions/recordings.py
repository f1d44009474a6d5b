"""Recordings of a noise: kept as they came, listened to outside the request, kept by a person."""

from __future__ import annotations

import hashlib
import uuid
from collections.abc import Mapping
from datetime import timedelta
from typing import IO, Any, Final

import msgspec
from django.core.files.base import File
from django.db import transaction
from django.db.models import Q

from axle.errors import AxleError
from axle.noise.lines import KeptVerdict, Recorded, read_noise_line
from axle.noise.recording import Given, Result, check_given
from shop.jobs import clock, noted_lines
from shop.jobs.actions.job_change import job_change
from shop.jobs.actions.noting import Note, note, write
from shop.jobs.models import Job, NoiseLine, SoundFile, SoundWork
from shop.people import rules
from shop.people.models import User
from shop.people.rules import Rejected, Right

# A worker that gave no sign of life for so long has stopped; a recording that stopped so many is given up.
_SILENT: Final = timedelta(seconds=90)
_MOST_TRIES: Final = 3
_CHUNK: Final = 1 << 20


def keep(
    user: User,
    job: Job,
    version: int,
    recorded: Mapping[str, Any],
    file: IO[bytes],
    given: Given,
    entry: uuid.UUID,
) -> NoiseLine:
    """Keep a recording and put it where a worker listens to it.

    :param recorded: fields of the core's ``Recorded`` but its digest.
    """
    rules.require_right(user, Right.MEASURE)
    known = NoiseLine.objects.filter(job=job, entry=entry).first()
    if known is not None:
        return known
    check_given(given)
    line = Recorded(**recorded, sha256=_digest(file))
    values = msgspec.to_builtins(line)
    read_noise_line("recorded", values)
    with job_change(job, user, version, signed=job.state == Job.State.SIGNED) as change:
        row = write(NoiseLine, user, change.job, Note("recorded", values, "kept a recording"), entry)
        sound = SoundFile(line=row)
        file.seek(0)
        sound.file.save(line.name, File(file), save=True)
        _ask(user, row, given)
        change.what = "kept a recording"
    return row


def ask_again(user: User, job: Job, number: int, given: Given) -> SoundWork:
    """Listen to a recording again, with other things told beside it."""
    rules.require_right(user, Right.MEASURE)
    check_given(given)
    row = line_of(job, number)
    if not SoundFile.objects.filter(line=row).exists():
        raise Rejected("Its file is not here: it came with a job file. Record it again.")
    return _ask(user, row, given)


def _ask(user: User, row: NoiseLine, given: Given) -> SoundWork:
    return SoundWork.objects.create(
        line=row, given=msgspec.to_builtins(given), asked_at=clock.now(), asked_by=user
    )


def keep_verdict(user: User, job: Job, version: int, work: SoundWork, entry: uuid.UUID) -> None:
    """Keep what a recording said: it stands on the build sheet and goes with the job's file."""
    rules.require_right(user, Right.MEASURE)
    if work.state != SoundWork.State.DONE or not (result := result_of(work)).outcomes:
        raise AxleError("verdict", given="none yet", wanted="a recording that was listened to")
    first = result.outcomes[0]
    heard = KeptVerdict(
        work.line.values["phase"],
        recording=str(work.line.entry),
        title=f"{first.title} (simulated drive)" if work.line.values.get("simulated") else first.title,
        names=tuple(first.names),
        chance=round(min(first.chance, 1.0), 4),
        reasons=tuple(result.reasons),
        levels={name: (round(x.over, 2), round(x.sigmas, 1)) for name, x in result.levels.items()},
        speed=round(result.speed, 2),
    )
    values = msgspec.to_builtins(heard)
    read_noise_line("heard", values)
    signed = Note("heard", values, "kept what a recording says")
    note(NoiseLine, user, job, version, [signed], entry, signed=True)


def line_of(job: Job, number: int) -> NoiseLine:
    """A recording of a job that stands.

    :raises Rejected: for one that is struck, or another job's.
    """
    rows = noted_lines.standing_rows(job.noise_lines.order_by("id"))
    row = next((row for row in rows if row.pk == number and row.kind == "recorded"), None)
    if row is None:
        raise Rejected("That recording is struck, or was never there.")
    return row


def newest_of(job: Job) -> SoundWork:
    """What was asked last of a job's recordings.

    :raises Rejected: where nothing was.
    """
    work = SoundWork.objects.select_related("line").filter(line__job=job).order_by("-id").first()
    if work is None:
        raise Rejected("No recording of this job was listened to.")
    return work


def work_of(job: Job, number: int) -> SoundWork:
    """What was asked of one of a job's recordings.

    :raises Rejected: for another job's.
    """
    work = SoundWork.objects.select_related("line").filter(line__job=job, pk=number).first()
    if work is None:
        raise Rejected("That was never asked of a recording of this job.")
    return work


def result_of(work: SoundWork) -> Result:
    """What a recording said.

    :raises AxleError: for one that another version of Lash listened to, and this one cannot read.
    """
    try:
        return msgspec.convert(work.result, Result)
    except msgspec.ValidationError:
        raise AxleError(
            "recording",
            given="what another version of Lash made of it",
            wanted="what this one does",
            do="Listen to it again.",
        ) from None


def given_of(work: SoundWork) -> Given:
    """What was told beside it."""
    return msgspec.convert(work.given, Given, strict=False)


def take_next() -> SoundWork | None:
    """Take a recording that waits, or one whose worker stopped; two workers never take the same.

    The row is held for the moment of taking alone: rows that others hold are skipped.
    """
    now = clock.now()
    with transaction.atomic():
        stopped = Q(state=SoundWork.State.RUNNING) & (Q(beat_at__lt=now - _SILENT) | Q(beat_at=None))
        waiting = SoundWork.objects.select_for_update(skip_locked=True).filter(
            Q(state=SoundWork.State.WAITING) | stopped
        )
        work = waiting.order_by("id").first()
        if work is None:
            return None
        if work.tries >= _MOST_TRIES:
            _end(work, SoundWork.State.FAILED, "It stopped the worker three times. Record again, shorter.")
            return None
        work.state, work.beat_at, work.progress = SoundWork.State.RUNNING, now, 0
        work.tries += 1
        work.save(update_fields=["state", "beat_at", "tries", "progress"])
    return work


def beat(work: SoundWork, progress: int) -> None:
    """Say that the worker is alive, and how far it is."""
    SoundWork.objects.filter(pk=work.pk).update(beat_at=clock.now(), progress=progress)


def finish(work: SoundWork, result: Result) -> None:
    """Store what a recording said."""
    work.result = msgspec.to_builtins(result)
    _end(work, SoundWork.State.DONE, "")


def fail(work: SoundWork, words: str) -> None:
    """Say why a recording could not be listened to."""
    _end(work, SoundWork.State.FAILED, words)


def _end(work: SoundWork, state: str, words: str) -> None:
    work.state, work.words, work.beat_at = state, words[:500], clock.now()
    work.progress = 100
    work.save(update_fields=["state", "words", "beat_at", "result", "progress"])


def _digest(file: IO[bytes]) -> str:
    found = hashlib.sha256()
    file.seek(0)
    while chunk := file.read(_CHUNK):
        found.update(chunk)
    return found.hexdigest()
