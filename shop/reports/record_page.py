"""A job's record line by line: what was written down, by whom, when, and what struck it."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from axle.procedure.findings import parts
from axle.procedure.register import items
from axle.procedure.stations import kind_named, stations
from axle.procedure.steps import step_named
from axle.workflow.progress import StepMarkKind
from shop.jobs.job_axle import JobAxle
from shop.jobs.models import AppendOnly, Pattern

_MARKS = {
    StepMarkKind.BEGUN: "Begun",
    StepMarkKind.DONE: "Done",
    StepMarkKind.WAIVED: "Signed past",
    StepMarkKind.UNDONE: "Taken back",
}


@dataclass(frozen=True)
class RecordRow:
    """One line of the record.

    :param at: when.
    :param by: who, and whether a file says so.
    :param what: what was done.
    :param words: its value, reason or note.
    :param reading: the reading's key where it may be struck, or 0.
    :param struck: whether a later row took it off.
    """

    at: datetime
    by: str
    what: str
    words: str = ""
    reading: int = 0
    struck: bool = False


def rows(axle: JobAxle) -> list[RecordRow]:
    """Every line of a job's record, the newest first."""
    found = [*_readings(axle), *_work(axle), *_prints(axle), *_changes(axle), *_signatures(axle)]
    return sorted(found, key=lambda row: row.at, reverse=True)


def _row(
    row: AppendOnly, what: str, words: str = "", *, struck: bool = False, reading: int = 0
) -> RecordRow:
    return RecordRow(row.at, row.signed_by, what, words, reading=reading, struck=struck)


def _readings(axle: JobAxle) -> list[RecordRow]:
    struck = {row.strikes_id for row in axle.readings if row.strikes_id}
    found = []
    for row in axle.readings:
        kind = kind_named(row.kind)
        at = f", place {row.place}" if kind.places > 1 or kind.most else ""
        if row.value is None:
            found.append(_row(row, f"Struck: {kind.title.lower()}{at}", row.reason))
            continue
        gone = row.pk in struck
        found.append(
            _row(row, f"{kind.title}{at}", row.as_typed, struck=gone, reading=0 if gone else row.pk)
        )
    return found


def _work(axle: JobAxle) -> list[RecordRow]:
    found = [
        _row(row, f"{_MARKS[StepMarkKind(row.mark)]}: {step_named(row.step).title.lower()}", row.reason)
        for row in axle.step_marks
    ]
    found += [
        _row(row, f"{items()[row.item].title}: {row.event}", row.words)
        for row in axle.register
        if row.item in items()
    ]
    found += [
        _row(row, f"{parts()[row.part].title}: {row.decision}", row.reason)
        for row in axle.findings
        if row.part in parts()
    ]
    titles = {group.group: group.title for group in axle.groups}
    found += [
        _row(row, f"{titles.get(row.group, row.group)}, stage {row.stage}", f"{row.typed} {row.unit}")
        for row in axle.tightenings
    ]
    return found


def _prints(axle: JobAxle) -> list[RecordRow]:
    every = list(Pattern.objects.filter(assembly__job=axle.job).order_by("id"))
    gone = {row.withdraws for row in every if row.withdraws}
    return [
        _row(
            row,
            f"{'Taken back: ' if row.withdraws else ''}{row.flank} flank, print {row.number}",
            row.get_taken_display(),
            struck=row.entry in gone,
        )
        for row in every
    ]


def _changes(axle: JobAxle) -> list[RecordRow]:
    undone = {fit.undoes_id for fit in axle.fits if fit.undoes_id}
    found = [
        _row(fit, f"Assembly {fit.assembly.number}: {fit.note}", struck=fit.pk in undone)
        for fit in axle.job.fits.select_related("assembly").order_by("id")
    ]
    found += [
        RecordRow(assembly.started_at, assembly.by, f"Assembly {assembly.number} begun", assembly.note)
        for assembly in axle.assemblies
    ]
    return found


def _signatures(axle: JobAxle) -> list[RecordRow]:
    return [
        _row(
            row,
            f"{'Opened again' if row.withdrawn else 'Signed'}: {stations()[row.station].title.lower()}",
            row.reason,
        )
        for row in axle.job.sign_offs.order_by("id")
        if row.station in stations()
    ]
