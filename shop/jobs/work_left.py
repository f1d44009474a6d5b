"""What a job's record says of its time, kept in its summary: steps that are left, and what others took."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from datetime import datetime
from typing import Any, Final

from django.utils import timezone

from axle.decision.costs import minutes as change_minutes
from axle.decision.move import Act
from axle.layout import Place
from axle.procedure.flow import is_apart_from
from axle.procedure.stations import stations
from axle.procedure.steps import steps
from axle.schedule.calendars import Span
from axle.schedule.durations import Assemblies, Timed
from axle.schedule.job_work import Begun, JobWork
from axle.schedule.timing import hours_between, spent
from axle.workflow.progress import StepMarkKind, StepStatus
from shop.jobs.job_axle import JobAxle
from shop.people.hours import terms_of, week_of
from shop.people.models import User

# What is read again after a change [min], beside what the change itself costs.
_READ_AGAIN: Final = 30


def work_left(axle: JobAxle) -> dict[str, Any]:
    """The work left on a job, as it is kept beside the summary.

    :param axle: the job.
    """
    begun = next((s for s in axle.progress if s.status is StepStatus.BEGUN and s.marked), None)
    marks = [row for row in axle.step_marks if begun and row.step == begun.step.step]
    move = axle.move if axle.move.act is Act.CHANGE else axle.move.then
    ends = axle.move.act in (Act.SIGN, Act.DONE)
    built = any(reading.kind in ("backlash", "total_torque") for reading in axle.valid_readings())
    places = [swap.place for swap in move.swaps] if move is not None else [Place.RING, Place.FAR]
    stands = is_apart_from(axle.station, axle.plan.stations)
    return {
        "steps": [s.step.step for s in axle.progress if not s.is_passed],
        "stations": list(axle.plan.stations),
        "layout": axle.spec.layout.carrier_by.value,
        "begun": {
            "step": begun.step.step,
            "person": marks[-1].person_id,
            "at": marks[-1].at.isoformat(),
        }
        if begun and marks
        else None,
        "assembly": 0 if not built else axle.assembly.number,
        "ends": ends,
        "chance": move.probability if move is not None else None,
        "again": change_minutes(axle.spec.layout, places or [Place.RING]) + _READ_AGAIN,
        "apart": stands and any(s.is_passed for s in axle.progress if s.step.station == "teardown"),
    }


def job_work(
    kept: dict[str, Any],
    name: str,
    assemblies: Assemblies,
    now: datetime | None = None,
    week: Mapping[int, tuple[Span, ...]] | None = None,
) -> JobWork:
    """The work left, as a plan or an estimate takes it.

    :param kept: as :func:`work_left` made it.
    :param name: of the job in the plan.
    :param assemblies: how many the shop's axles take.
    :param now: the moment that is planned from; nothing where a step in hand does not matter.
    :param week: the shop's hours: a step that was begun yesterday evening has not lasted all night.
    """
    known = steps()
    begun = kept.get("begun")
    lasted = 0.0
    if begun and now is not None:
        at = min(datetime.fromisoformat(begun["at"]), now)
        lasted, _ = spent(_by_clock(at), _by_clock(now), week or {})
    chance = kept.get("chance")
    further = (1.0,) if kept.get("ends") else assemblies.further(int(kept.get("assembly", 0)), chance)
    return JobWork(
        name,
        tuple(kept["stations"]),
        kept["layout"],
        tuple(known[step] for step in kept["steps"] if step in known),
        begun=Begun(begun["step"], str(begun["person"]), lasted) if begun and now is not None else None,
        further=further,
        further_minutes=float(kept.get("again", 60)),
        is_apart=bool(kept.get("apart")),
    )


def timed_steps(axle: JobAxle) -> list[list[Any]]:
    """[step, usual minutes, minutes, over a break, role] of every step that was begun and then done."""
    week = week_of(terms_of(axle.job.shop).week) if axle.job.shop else {}
    known, found = steps(), []
    begun: dict[str, datetime] = {}
    for row in axle.step_marks:
        if row.mark == StepMarkKind.BEGUN.value:
            begun[row.step] = row.at
        elif row.mark == StepMarkKind.DONE.value and row.step in begun and row.step in known:
            first, last = (_by_clock(moment) for moment in (begun.pop(row.step), row.at))
            minutes, broken = spent(first, last, week)
            if known[row.step].hands_on:
                found.append(
                    [row.step, known[row.step].hands_on, round(minutes, 1), broken, row.person.role]
                )
    return found


def timed_from(job: str, layout: str, rows: Iterable[list[Any]]) -> list[Timed]:
    """Kept times as the core learns from them."""
    known = steps()
    return [
        Timed(job, step, known[step].station, float(usual), float(minutes), bool(broken), role, layout)
        for step, usual, minutes, broken, role in rows
        if step in known and usual
    ]


def hours_worked(axle: JobAxle) -> tuple[dict[str, float], dict[str, float], dict[str, float]]:
    """Hours that somebody was at the job: by assembly, by station, and by the person's role."""
    numbers = {assembly.pk: assembly.number for assembly in axle.assemblies}
    starts = sorted((assembly.started_at, assembly.number) for assembly in axle.assemblies)
    station_of = {kind: name for name in stations() for kind in stations()[name].kinds}
    known = steps()
    by_assembly, by_station, by_role = [], [], []
    people = {row.person_id for row in (*axle.readings, *axle.step_marks)}
    roles = dict(User.objects.filter(pk__in=people).values_list("pk", "role"))
    for row in axle.readings:
        moment = _by_clock(row.at)
        by_role.append((moment, roles[row.person_id]))
        by_assembly.append((moment, str(numbers[row.assembly_id])))
        by_station.append((moment, station_of.get(row.kind, "arrival")))
    for mark in axle.step_marks:
        moment = _by_clock(mark.at)
        by_role.append((moment, roles[mark.person_id]))
        by_assembly.append((moment, str(max((n for at, n in starts if at <= mark.at), default=1))))
        if mark.step in known:
            by_station.append((moment, known[mark.step].station))
    return hours_between(by_assembly), hours_between(by_station), hours_between(by_role)


def _by_clock(moment: datetime) -> datetime:
    return timezone.localtime(moment).replace(tzinfo=None)
