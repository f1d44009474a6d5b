"""The step in hand on the bench: do, why, look for, caution, and what lets the work past it."""

from __future__ import annotations

import uuid
from datetime import timedelta
from typing import Any

from django.urls import reverse
from django.utils import timezone

from axle.procedure.names import KindName
from axle.procedure.stations import kind_named, station_of, stations
from axle.workflow.progress import StepStanding, goes_stale, open_before, work_at
from shop.drawing.step_pictures import step_picture
from shop.jobs.actions.steps import OutOfOrder, markable_at
from shop.jobs.job_axle import JobAxle
from shop.jobs.models import Job

VIEWS = {
    "arrival": "Arrival record",
    "back-in": "Everything back in",
    "break-in": "Break-in",
    "findings": "Findings",
    "noise": "Noise",
    "oil": "Oil",
    "ratio": "Which ratio",
    "register": "Register",
    "road-test": "Road test",
    "runout": "Runout",
    "spread": "Spreading log",
    "tools": "List of tools",
    "torque": "Torque sheet",
    "work": "The work",
}
# After this long away the page says what was in hand.
_LONG_AWAY = timedelta(days=2)


def card(axle: JobAxle, station: str, asked: str, refused: OutOfOrder | None = None) -> dict[str, Any]:
    """A station's steps with one of them in full."""
    here = [s for s in axle.progress if s.step.station == station]
    standing = next((s for s in here if s.step.step == asked), None) or _next_of(here, axle)
    step = standing.step
    number = axle.job.number
    return {
        "rows": [_row(axle, s, current=s is standing) for s in here],
        "work": work_at(station, axle.progress),
        "picture": step_picture(step.step),
        "standing": standing,
        "step": step,
        "place": here.index(standing) + 1,
        "before": [s.step.title for s in open_before(step.step, axle.progress)],
        "stale": goes_stale(step, axle.spec.layout),
        "refused": refused,
        "refused_before": [s.step.title for s in refused.before] if refused else [],
        "because": axle.plan.because.get(station, ""),
        "view": {"title": VIEWS[step.view], "link": reverse(step.view, args=[number])}
        if step.view
        else None,
        "readings": [_reading(axle, kind) for kind in step.readings if _reading(axle, kind)],
        "pattern_link": _pattern_link(axle, step.hold.by if step.hold else ""),
        "photos": list(axle.job.photos.filter(step=step.step)),
        "timers": list(axle.job.timers.filter(step=step.step, ended_at=None)),
        "entries": [str(uuid.uuid4()) for _ in range(4)],
        "together": _together(axle, station),
        "wants_signature": step.hold is not None and step.hold.by == "signature",
    }


def _together(axle: JobAxle, station: str) -> dict[str, list[dict[str, str]]]:
    """What may be marked in one go at a station, and what stays open then, each with why."""
    together, rest = markable_at(axle, station)
    return {
        "steps": [{"name": s.step.step, "title": s.step.title} for s in together],
        "rest": [{"title": s.step.title, "why": _why_alone(s)} for s in rest],
    }


def _why_alone(standing: StepStanding) -> str:
    if standing.held:
        return standing.held[0]
    if standing.step.readings:
        return "A reading proves it."
    return "It changes what is in the axle." if standing.step.changes else "Done by itself."


def _next_of(here: list[StepStanding], axle: JobAxle) -> StepStanding:
    if any(s.step.step == axle.step.step.step for s in here):
        return axle.step
    free = [s for s in here if not s.is_passed]
    return next((s for s in free if not s.held), free[0] if free else here[-1])


def away(axle: JobAxle) -> str:
    """What was in hand, when nobody has touched the job for long; else nothing."""
    job = axle.job
    since = timezone.now() - job.touched_at
    if job.state == Job.State.SIGNED or since < _LONG_AWAY:
        return ""
    last = job.touched_what or "changed something"
    return (
        f"{since.days} days since {job.touched_by.called} {last}. In hand: {axle.step.step.title.lower()} "
        f"({stations()[axle.step.step.station].title.lower()})."
    )


def _row(axle: JobAxle, standing: StepStanding, *, current: bool) -> dict[str, Any]:
    step = standing.step
    return {
        "title": step.title,
        "status": standing.status.value,
        "link": f"{reverse('bench', args=[axle.job.number])}?station={step.station}&step={step.step}",
        "current": current,
        "holds": step.hold is not None,
    }


def _reading(axle: JobAxle, kind: str) -> dict[str, str] | None:
    if kind in (KindName.RING_RUN, KindName.FLANGE_RUN):
        return None
    station = station_of(kind)
    link = f"{reverse('bench', args=[axle.job.number])}?station={station}&kind={kind}"
    taken = axle.state.latest(kind)
    shown = ""
    if taken is not None:
        what = kind_named(kind)
        unit = axle.display.unit_for(what.dimension, bolt=what.bolt)
        shown = f"{axle.display.show(taken.value, what.dimension)} {unit.symbol}"
    return {"title": kind_named(kind).title, "link": link, "value": shown}


def _pattern_link(axle: JobAxle, hold: str) -> str:
    return f"{reverse('arrival', args=[axle.job.number])}#pattern" if hold == "pattern" else ""
