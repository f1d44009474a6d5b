"""Undoing the last act, and doing it again."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from django.db import models

from axle.workflow.progress import StepMarkKind
from shop.jobs import clock, loading
from shop.jobs.actions.job_change import job_change
from shop.jobs.actions.packs import put_back_as
from shop.jobs.actions.readings import strike_row
from shop.jobs.job_axle import JobAxle
from shop.jobs.last_act import UNDONE, LastAct, again_entry, last_act, last_undone
from shop.jobs.models import AppendOnly, Fit, Job, Move, Pattern, Reading, StepMark
from shop.people import rules
from shop.people.models import User
from shop.people.rules import Rejected, Right


def undo(user: User, job: Job, version: int) -> LastAct:
    """Undo the last act: strike its reading, take its mark back, or put in what was in there before."""
    with job_change(job, user, version) as change:
        axle = loading.load(change.job)
        act = last_act(axle)
        if act is None:
            raise Rejected("There is nothing on this job to undo.")
        first = act.rows[0]
        if isinstance(first, Reading):
            strike_row(user, first, UNDONE)
        elif isinstance(first, StepMark):
            _take_back(user, axle, [row for row in act.rows if isinstance(row, StepMark)])
        elif isinstance(first, Fit):
            put_back_as(user, axle, first.before, f"undone: {act.words}", undoes=first)
        elif isinstance(first, Pattern):
            _copy(first, user, axle, withdraws=first.entry)
        change.what = f"undid {act.words}"
    return act


def redo(user: User, job: Job, version: int) -> LastAct:
    """Do again what was undone last."""
    with job_change(job, user, version) as change:
        axle = loading.load(change.job)
        act = last_undone(axle)
        if act is None:
            raise Rejected("There is nothing that was just undone: something else was done since.")
        first, entry = act.rows[0], again_entry(act.undoing[0])
        if isinstance(first, Fit):
            _fit_again(user, axle, first, entry)
        elif isinstance(first, StepMark):
            _mark_again(user, axle, act)
        else:
            _same_axle(axle, first)
            _copy(first, user, axle, entry=entry)
        change.what = f"did again {act.words}"
    return act


def _take_back(user: User, axle: JobAxle, rows: Sequence[StepMark]) -> None:
    if any(row.mark == StepMarkKind.WAIVED.value for row in rows):
        rules.require_right(user, Right.SIGN, practice=axle.job.practice)
    now = clock.now()
    for row in rows:
        StepMark.objects.create(
            job=axle.job,
            step=row.step,
            mark=StepMarkKind.UNDONE.value,
            reason=UNDONE,
            at=now,
            person=user,
            by=user.called,
            settings=loading.as_json(axle.state.settings),
        )


def _mark_again(user: User, axle: JobAxle, act: LastAct) -> None:
    if any(isinstance(row, StepMark) and row.mark == StepMarkKind.WAIVED.value for row in act.rows):
        rules.require_right(user, Right.SIGN, practice=axle.job.practice)
    now = clock.now()
    for row, undoing in zip(act.rows, act.undoing, strict=True):
        _copy(row, user, axle, entry=again_entry(undoing), at=now)


def _fit_again(user: User, axle: JobAxle, fit: Fit, entry: Any) -> None:
    again = put_back_as(user, axle, fit.after, fit.note, entry=entry)
    move = Move.objects.filter(fit=fit).first()
    if move is not None:
        kept = {f.attname: getattr(move, f.attname) for f in move._meta.concrete_fields}
        for name in ("id", "fit_id", "assembly_id", "outcome", "held"):
            kept.pop(name)
        kept |= {"taken_at": clock.now(), "taken_by_id": user.pk, "by": user.called}
        Move.objects.create(**kept, fit=again, assembly=again.assembly)


def _same_axle(axle: JobAxle, row: AppendOnly) -> None:
    """What was read or printed is only true of what was in the axle then."""
    if row.settings != loading.as_json(axle.state.settings):
        raise Rejected("Something else is in the axle now than when it was read: read it again.")


def _copy(row: AppendOnly, user: User, axle: JobAxle, **change: Any) -> None:
    """The same row once more, by whoever does it now."""
    left_out = {"id", "entry", "at", "person_id", "by", "strikes_id", "from_file", "withdraws"}
    fields: list[models.Field[Any, Any]] = list(row._meta.concrete_fields)
    kept = {f.attname: getattr(row, f.attname) for f in fields if f.attname not in left_out}
    if "assembly_id" in kept:
        kept["assembly_id"] = axle.assembly.pk
    kept |= {"at": clock.now(), "person_id": user.pk, "by": user.called} | change
    type(row)._default_manager.create(**kept)
