"""What the pages of the guided work show, gathered from the axle: nothing is computed here."""

from __future__ import annotations

import uuid
from collections.abc import Mapping
from datetime import datetime
from typing import Any

from django.utils import timezone

from axle.contact.mark import FlankMark
from axle.contact.reading import target_patch
from axle.measure.units import show
from axle.procedure.choices import choices
from axle.procedure.findings import wanted_parts
from axle.procedure.names import StationName
from axle.procedure.scope import scopes
from axle.procedure.stations import kind_named, stations
from axle.workflow.progress import StepStanding, work_at
from shop.drawing import flanks
from shop.drawing.day_line import Wait, day_line
from shop.jobs.actions import timers as timers_actions
from shop.jobs.actions.steps import PART
from shop.jobs.clock import between, in_hours
from shop.jobs.job_axle import JobAxle
from shop.jobs.models import Photo
from shop.people.models import User
from shop.worksheets.carrier import chances_of_schools

_KINDS = {
    "stand": "Stands and lifting",
    "tool": "Tools",
    "gauge": "Gauges",
    "consumable": "Consumables",
    "part": "Parts",
}
# How the bolts of a group of the shop's own lie.
SHAPE_WORDS = {
    "circle": "in a circle: star order",
    "rectangle": "around a rectangle",
    "pair": "a pair",
    "pair_of_circles": "a circle on each side",
    "single": "one",
}
# So many characters of a wait stand beside its bar.
_WAIT_WORDS = 34
# What each reading as received is held against on the finished axle.
_NOW = {
    "arrival_backlash": "backlash",
    "arrival_runout": "ring_runout",
    "arrival_total_torque": "total_torque",
    "arrival_pinion_torque": "pinion_torque",
    "arrival_pinion_play": "pinion_end_play",
}


def work(axle: JobAxle, query: Mapping[str, str]) -> dict[str, Any]:
    """Choices, the sequence with its reasons, and how long it takes."""
    del query
    facts = axle.plan.facts
    groups: dict[str, list[dict[str, Any]]] = {"variants": [], "parts": []}
    for name, choice in choices().items():
        possible = [value for value in choice.values.values() if value.possible(facts)]
        if choice.group in groups and len(possible) > 1:
            now = choice.values[facts[name]]
            usual = choice.values[choice.usual(facts)]
            groups[choice.group].append(
                {"name": name, "title": choice.title, "values": possible, "now": now, "usual": usual}
            )
    return {
        "scopes": scopes().values(),
        "scope": axle.plan.scope,
        "variants": groups["variants"],
        "school_chances": chances_of_schools(axle),
        "parts": groups["parts"],
        "stations": [_station(axle, name) for name in axle.plan.stations],
        "count": len(axle.plan.steps),
        "passed": sum(s.is_passed for s in axle.progress),
        "hands_on": in_hours(axle.plan.hands_on),
        "waiting": in_hours(axle.plan.waiting),
        "waits": [step for step in axle.plan.steps if step.waiting],
        "in_hand": axle.step,
    }


def tools(axle: JobAxle, query: Mapping[str, str]) -> dict[str, Any]:
    """Everything the job asks for, by kind, with what is missing first."""
    del query
    groups: dict[str, list[dict[str, Any]]] = {title: [] for title in _KINDS.values()}
    for need in axle.plan.needs:
        groups[_KINDS[need.tool.kind]].append(
            {
                "name": need.tool.tool,
                "title": need.tool.title,
                "stops": need.tool.stops,
                "first": need.first.title,
                "state": axle.tool_state(need.tool.tool),
                "owned": need.tool.tool in axle.job.shop.tools_owned,
            }
        )
    for part in wanted_parts(axle.found):
        name = f"{PART}{part.part}"
        groups[_KINDS["part"]].append(
            {
                "name": name,
                "title": f"New: {part.title.lower()}",
                "stops": True,
                "first": "replaced by the findings",
                "state": axle.job.tools.get(name, ""),
                "owned": False,
            }
        )
    rows = [row for group in groups.values() for row in group]
    return {
        "groups": {title: [r for r in group if not r["owned"]] for title, group in groups.items()},
        "owned": [row for row in rows if row["owned"]],
        "missing": [row for row in rows if row["state"] == "missing" and row["stops"]],
        "unticked": sum(not row["state"] for row in rows),
        "count": sum(not row["owned"] for row in rows),
    }


def arrival(axle: JobAxle, query: Mapping[str, str]) -> dict[str, Any]:
    """The arrival record, the readings as received, and the pattern as found."""
    del query
    facts, record = axle.plan.facts, axle.job.arrival
    named = {
        name: {
            "title": choices()[name].title,
            "values": list(choices()[name].values.values()),
            "now": facts[name] if name in axle.job.choices or name != "oil" else "not_seen",
        }
        for name in ("use", "oil", "gears")
    }
    views = []
    for flank in ("drive", "coast"):
        patch = axle.state.found.get(flank)
        ends = dict(zip(("toe", "heel", "root", "top"), patch.percent, strict=True)) if patch else {}
        views.append(
            {
                "flank": flank,
                "patch": patch,
                "reach": ends,
                "entry": str(uuid.uuid4()),
                "drawn": str(uuid.uuid4()),
                "photo": str(uuid.uuid4()),
                "drawing": flanks.flank(
                    flank,
                    FlankMark((patch,)) if patch else None,
                    flanks.Shown(target=[target_patch(flank).outline]),
                ),
            }
        )
    return {
        "record": record,
        "named": named,
        "flanks": views,
        "readings": [_as_received(axle, kind) for kind in stations()[StationName.ARRIVAL].kinds],
        "photos": [p for p in axle.job.photos.all() if p.step.startswith("arrival")],
        "is_target": axle.state.used_gears,
    }


def photos(axle: JobAxle, query: Mapping[str, str]) -> dict[str, Any]:
    """Every photo with the step it was taken at."""
    del query
    titles = {step.step: step for step in axle.plan.steps}
    rows: list[dict[str, Any]] = [
        {
            "photo": photo,
            "title": titles[photo.step].title if photo.step in titles else photo.step,
            "station": titles[photo.step].station if photo.step in titles else "arrival",
        }
        for photo in Photo.objects.filter(job=axle.job)
    ]
    return {"rows": rows}


def timers(user: User) -> dict[str, Any]:
    """Every running wait, with what is left of it."""
    now = timezone.now()
    running = list(timers_actions.running(user))
    rows = [
        {"timer": timer, "due": timer.due_at <= now, "left": between(now, timer.due_at)}
        for timer in running
    ]
    drawn = [
        Wait(
            f"{timer.job.shown_number} {timer.title}"[:_WAIT_WORDS],
            _local(timer.started_at),
            _local(timer.due_at),
        )
        for timer in running
    ]
    return {"rows": rows, "line": day_line(drawn, _local(now)) if drawn else ""}


def _local(moment: datetime) -> datetime:
    return timezone.localtime(moment)


def _station(axle: JobAxle, name: str) -> dict[str, Any]:
    done = work_at(name, axle.progress)
    return {
        "name": name,
        "title": stations()[name].title,
        "work": done,
        "because": axle.plan.because.get(name, ""),
        "key": axle.status_of(name).value.replace(" ", "-"),
        "steps": [_step(s) for s in axle.progress if s.step.station == name],
    }


def _step(standing: StepStanding) -> dict[str, Any]:
    return {"step": standing.step, "status": standing.status.value, "held": standing.held}


def _as_received(axle: JobAxle, kind: str) -> dict[str, Any]:
    what = kind_named(kind)
    unit = axle.display.unit_for(what.dimension)
    now = _NOW.get(kind, "")

    def shown(name: str) -> str:
        return " · ".join(show(t.value, unit) for t in axle.state.around(name).values())

    return {
        "title": what.title,
        "value": shown(kind),
        "unit": unit.symbol,
        "kind": kind,
        "now": shown(now) if now else "",
    }
