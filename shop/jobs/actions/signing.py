"""Signatures: a station, a deviation with its reason, the build sheet, and its opening again."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Final

from axle.errors import AxleError, quoted
from axle.procedure.names import StationName
from axle.procedure.stations import stations
from axle.procedure.steps import step_named
from axle.stations.inspection import VERDICTS, InspectionVerdict, check, reuse
from axle.stations.station_state import Status
from shop.jobs import clock, countersign, learned, loading, noted_lines
from shop.jobs.actions.job_change import job_change
from shop.jobs.job_axle import JobAxle
from shop.jobs.models import Job, SignOff
from shop.people import rules
from shop.people.models import User
from shop.people.rules import Rejected, Right
from shop.vehicles import services as vehicles

# How lines begin that are signed over with the build sheet.
SIGNED_OVER: Final = ("Not done, ", "Done out of order: ", "Made-up figures, ")


def sign(
    user: User,
    job: Job,
    version: int,
    station: str,
    reason: str = "",
    verdict: InspectionVerdict | None = None,
) -> SignOff:
    """Sign a station as it stands; out of range it is a deviation and wants a reason.

    An inspection is signed with its verdict.
    """
    rules.require_right(user, Right.SIGN, practice=job.practice)
    if station not in stations() or not stations()[station].is_measured:
        raise AxleError("station", given=f"“{station[:30]}”", wanted="a station that is measured")
    with job_change(job, user, version) as change:
        axle = loading.load(change.job)
        standing = axle.standings[station]
        others = [s for name, s in axle.standings.items() if name not in ("sheet", station)]
        if station == StationName.SHEET:
            open_ones = [stations()[s.station].title.lower() for s in others if not s.is_done]
            open_ones += [f"“{s.step.title.lower()}”" for s in axle.open_holds]
            waits = countersign.waiting(axle)
            if waits:
                raise Rejected(
                    f"A builder has not countersigned yet: {countersign.words_for(waits)}. Look at each, "
                    "and sign it."
                )
            if open_ones:
                raise Rejected(
                    f"The build sheet cannot be signed: {', '.join(open_ones)} not in range or "
                    "signed. Read them, or sign each with a reason."
                )
            open_steps = not_done_lines(axle)
            if open_steps and verdict is None and len(reason.strip()) < 4:
                raise AxleError(
                    "reason",
                    given=quoted(reason),
                    wanted="why steps are not done, in a few words",
                    do=f"Or do them first: each stands on the sheet as a deviation. {open_steps[0]}",
                )
        if station in axle.plan.scope.without:
            raise AxleError(
                "station", given=stations()[station].title.lower(), wanted="one that is part of this job"
            )
        judged = (Status.IN_RANGE, Status.RECORDED)
        deviation = station != StationName.SHEET and standing.status not in judged
        if deviation and len(reason.strip()) < 4:
            raise AxleError(
                "reason",
                given=quoted(reason),
                wanted="why this is accepted, in a few words",
            )
        signed = SignOff.objects.create(
            job=change.job,
            station=station,
            deviation=deviation,
            reason=reason.strip()[:500],
            statement=[*_statement(axle, station, verdict), *deviation_lines(axle, station)],
            at=clock.now(),
            person=user,
            by=user.called,
            settings=loading.as_json(axle.state.settings),
        )
        if station == StationName.SHEET:
            change.job.state = Job.State.SIGNED
            learned.keep(change.job, axle.state)
            _tell_vehicle(user, change.job)
        change.what = f"signed {stations()[station].title.lower()}"
    return signed


def _tell_vehicle(user: User, job: Job) -> None:
    """The vehicle has the chosen ratio from now on: its next job begins from it."""
    chosen = noted_lines.ratio_of(job).chosen
    if chosen is not None and job.vehicle is not None:
        vehicles.has_now(user, job.vehicle, job.vehicle_end, chosen.offer.teeth)


def deviation_lines(axle: JobAxle, station: str) -> list[str]:
    """What is signed over with the build sheet: steps not done, orders passed, made-up figures."""
    if station != StationName.SHEET:
        return []
    return [line[:500] for line in (*not_done_lines(axle), *passed_order_lines(axle), *made_up_lines(axle))]


def not_done_lines(axle: JobAxle) -> list[str]:
    """Steps that nobody did and nothing proves, a line a station."""
    by_station: dict[str, list[str]] = {}
    for standing in axle.not_done:
        by_station.setdefault(standing.step.station, []).append(standing.step.title.lower())
    return [
        f"Not done, {stations()[station].title.lower()}: {'; '.join(titles)}."
        for station, titles in by_station.items()
    ]


def passed_order_lines(axle: JobAxle) -> list[str]:
    """Steps that were done before others that come first."""
    return [
        f"Done out of order: {s.step.title.lower()}, before {_first_of(s.marked.before)} "
        f"({s.marked.person})."
        for s in axle.out_of_order
        if s.marked is not None
    ]


def made_up_lines(axle: JobAxle) -> list[str]:
    """Results that rest on a figure that nobody took from a sheet."""
    titles = [stations()[name].title.lower() for name in axle.made_up]
    return [f"Made-up figures, not the maker's: {', '.join(titles)}."] if titles else []


def _first_of(names: Sequence[str]) -> str:
    titles = [step_named(name).title.lower() for name in names[:3]]
    more = f" and {len(names) - 3} more" if len(names) > 3 else ""
    return f"{'; '.join(titles)}{more}"


def _statement(axle: JobAxle, station: str, verdict: InspectionVerdict | None) -> list[str]:
    """What is signed, in words: the verdict of an inspection, else the station's result."""
    if station == StationName.SHEET and axle.plan.scope.scope == "inspection":
        if verdict is None:
            raise AxleError("verdict", given="none", wanted=", ".join(VERDICTS.values()).lower())
        reuse_lines = reuse(axle.state, axle.found, axle.display)
        check(verdict, reuse_lines)
        return [*verdict.lines, *(line.words for line in reuse_lines)]
    result = axle.standings[station].result
    return list(result.why) if result else []


def reopen(user: User, job: Job, version: int, reason: str) -> None:
    """Withdraw the build sheet's signature so that work can go on; both stay on record."""
    rules.require_right(user, Right.REOPEN)
    if not reason.strip():
        raise AxleError("reason", given="nothing", wanted="why the job is opened again")
    with job_change(job, user, version, signed=True) as change:
        SignOff.objects.create(
            job=change.job,
            station=StationName.SHEET,
            withdrawn=True,
            reason=reason.strip()[:500],
            at=clock.now(),
            person=user,
            by=user.called,
        )
        change.job.state = Job.State.OPEN
        change.what = "opened the job again"
