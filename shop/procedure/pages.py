"""What the pages of the guided work show, gathered from the axle: nothing is computed here."""

from __future__ import annotations

import uuid
from collections.abc import Mapping
from typing import Any

from django.utils import timezone

from axle.advice.heights import net_preload, what_heights_change
from axle.advice.progress import StepStanding, work_at
from axle.advice.runs import Run, alias_words, holes_words, newest, position_of
from axle.contact.mark import Mark
from axle.contact.reading import target
from axle.fasteners.signing import GroupStanding
from axle.fasteners.threads import classes, threads
from axle.layout import Place
from axle.limits import Range
from axle.procedure.choices import choices
from axle.procedure.findings import DECISIONS, Found, parts, questions, wanted_parts
from axle.procedure.register import LISTS, items, items_of
from axle.procedure.scope import scopes
from axle.procedure.stations import kind_named, stations
from axle.units import brief, show
from shop.drawing import flanks
from shop.drawing.bolts import bolts
from shop.drawing.polar import polar
from shop.drawing.series import series
from shop.jobs import heights as height_services
from shop.jobs import timers as timer_services
from shop.jobs.bolts import used_before
from shop.jobs.bridge import Axle
from shop.jobs.clock import between, in_hours
from shop.jobs.models import Finding, Photo, Reading, Tightening
from shop.jobs.reconcile import reconcile
from shop.jobs.words import in_both
from shop.jobs.work import PART
from shop.people.models import User
from shop.stock import tray

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
# What each reading as received is held against on the finished axle.
_NOW = {
    "arrival_backlash": "backlash",
    "arrival_runout": "ring_runout",
    "arrival_total_torque": "total_torque",
    "arrival_pinion_torque": "pinion_torque",
    "arrival_pinion_play": "pinion_end_play",
}
_EVENTS = {"off": "came off", "back": "back in", "scrapped": "thrown away", "lost": "lost"}


def work(axle: Axle, query: Mapping[str, str]) -> dict[str, Any]:
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
        "parts": groups["parts"],
        "stations": [_station(axle, name) for name in axle.plan.stations],
        "count": len(axle.plan.steps),
        "passed": sum(s.is_passed for s in axle.progress),
        "hands_on": in_hours(axle.plan.hands_on),
        "waiting": in_hours(axle.plan.waiting),
        "waits": [step for step in axle.plan.steps if step.waiting],
        "in_hand": axle.step,
    }


def tools(axle: Axle, query: Mapping[str, str]) -> dict[str, Any]:
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
                "state": axle.job.tools.get(need.tool.tool, ""),
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
            }
        )
    rows = [row for group in groups.values() for row in group]
    return {
        "groups": groups,
        "missing": [row for row in rows if row["state"] == "missing" and row["stops"]],
        "unticked": sum(not row["state"] for row in rows),
        "count": len(rows),
    }


def arrival(axle: Axle, query: Mapping[str, str]) -> dict[str, Any]:
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
                    flank, Mark((patch,)) if patch else None, flanks.Shown(target=[target(flank).outline])
                ),
            }
        )
    return {
        "record": record,
        "named": named,
        "flanks": views,
        "readings": [_as_received(axle, kind) for kind in stations()["arrival"].kinds],
        "photos": [p for p in axle.job.photos.all() if p.step.startswith("arrival")],
        "is_target": axle.state.used_gears,
    }


def register_page(axle: Axle, query: Mapping[str, str]) -> dict[str, Any]:
    """Every item with its history, and what is open for each list."""
    del query
    lines: dict[str, list[dict[str, Any]]] = {}
    for row in axle.register:
        lines.setdefault(row.item, []).append(
            {
                "event": _EVENTS[row.event],
                "key": row.event,
                "words": row.words or str(row.count or ""),
                "by": row.by,
                "at": row.at,
            }
        )
    rows = []
    for item in items_of(axle.plan.facts):
        said = lines.get(item.item, [])
        last = said[-1]["key"] if said else ""
        rows.append(
            {
                "item": item,
                "lines": said,
                "last": last,
                "entry": str(uuid.uuid4()),
                "offers": _offers(item.kind, last),
            }
        )
    words = {
        "marks": "Marks",
        "shims": "Shims measured",
        "back": "Back in at reassembly",
        "tools_in": "Small tools counted in",
    }
    return {
        "rows": rows,
        "lists": [(words[name], axle.records.open_lists[name]) for name in LISTS],
        "packs": reconcile(axle),
        "own": [(item_title(own.lot.tray_item), own) for own in tray.owned(axle.job.shop, axle.job.number)],
    }


def height_fields() -> list[tuple[str, int, str]]:
    """Every field of the heights page: kind, place and the form's name for it."""
    return [
        (kind, place, f"{kind}-{place}")
        for kind in height_services.KINDS
        for place in range(1, kind_named(kind).last_place + 1)
    ]


def heights(axle: Axle, query: Mapping[str, str]) -> dict[str, Any]:
    """What was measured of bearings and slinger, and what follows for both packs."""
    del query
    # As typed: a size shown rounded and sent again would be another size.
    typed = {(row.kind, row.place): row.as_typed for row in axle.valid_readings()}
    rows = []
    for kind in height_services.KINDS:
        what = kind_named(kind)
        cells = [
            {
                "name": f"{kind}-{place}",
                "value": typed.get((kind, place), ""),
                "place": place,
                "label": f"{what.title}, {what.place_words(place)}",
            }
            for place in range(1, what.last_place + 1)
        ]
        rows.append({"kind": kind, "title": what.title, "hint": what.hint, "cells": cells})
    return {
        "rows": rows[:-1],
        "slinger": rows[-1],
        "names": kind_named("stand_inner").names,
        "follows": [
            {
                "title": title,
                "terms": terms,
                "carried": carried,
                "net": net_preload(axle.spec.layout, terms, carried),
            }
            for title, terms, carried in what_heights_change(axle.state)
        ],
        "unit": axle.display.length.symbol,
    }


def findings(axle: Axle, query: Mapping[str, str]) -> dict[str, Any]:
    """Every part with what was seen on it."""
    del query
    newest_of = {row.part: row for row in axle.findings}
    rows = []
    for name, part in parts().items():
        row = newest_of.get(name)
        rows.append(
            {
                "part": part,
                "found": finding(row) if row else None,
                "entry": str(uuid.uuid4()),
                "photo_step": "inspect-bearings",
            }
        )
    return {
        "rows": rows,
        "decisions": DECISIONS,
        "asked": questions(axle.found, axle.job.choices.get("oil", "")),
        "wanted": wanted_parts(axle.found),
        "open": axle.records.open_lists["findings"],
        "flush": any(step.step == "inspect-flush" for step in axle.plan.steps),
    }


def finding(row: Finding) -> dict[str, Any]:
    """One finding in words."""
    found = Found(row.part, row.sign, row.decision, row.reason)
    return {
        "part": parts()[row.part].title,
        "sign": found.seen.title,
        "key": row.sign,
        "cause": found.seen.cause,
        "check": found.seen.check,
        "decision": DECISIONS[row.decision],
        "decided": row.decision,
        "reason": row.reason,
        "by": row.by,
        "at": row.at,
    }


def runout(axle: Axle, query: Mapping[str, str]) -> dict[str, Any]:
    """Runs around ring gear and flange, drawn, with the part that is to blame."""
    state, unit = axle.state, axle.display.length
    part = query.get("part", "") if query.get("part") in ("ring", "flange") else ""
    chosen = newest(state, part) if part else newest(state, "ring") or newest(state, "flange")
    told = axle.diagnosis
    drawing = None
    if chosen is not None:
        expected = None
        if told.told is not None and told.best is not None and chosen.part == "ring":
            expected = position_of(told.told, told.positions, told.best.holes)
        drawing = polar(chosen.result, unit, state.ring_bolts, expected)
    going = [] if chosen is None else _unfinished(axle, chosen.part, chosen.number)
    return {
        "chosen": chosen,
        "part": part or (chosen.part if chosen else "ring"),
        "drawing": drawing,
        "result": _run_words(axle, chosen) if chosen else None,
        "diagnosis": told,
        "positions": [
            {
                "holes": p.holes,
                "words": holes_words(p.holes, state.ring_bolts),
                "total": show(p.total, unit),
                "u": show(p.uncertainty, unit),
                "best": p is told.best,
            }
            for p in told.positions
        ],
        "runs": [_run_row(axle, run) for run in reversed(state.runs)],
        "unfinished": going or _any_unfinished(axle),
        "clockings": _clockings(axle),
        "bolts": state.ring_bolts,
        "play": state.latest("arrival_side_play"),
        "clock": int(state.setting(Place.CLOCK)),
    }


def spread(axle: Axle, query: Mapping[str, str]) -> dict[str, Any]:
    """The spreading log with its alarm."""
    del query
    rows = [row for row in axle.valid_readings() if row.kind == "spread"]
    limit = axle.spec.sheet.single("housing_spread") or _LIMIT
    unit = axle.display.length
    values = [float(row.value or 0) for row in rows]
    since, allowed = _since(rows), Range(0.0, limit)
    return {
        "spread_label": "Spread now",
        "rows": list(reversed(rows)),
        "drawing": series(values[-9:], limit, unit, "Housing spread") if rows else None,
        "limit": brief(limit, unit),
        "source": axle.spec.sheet.source("housing_spread"),
        "now": show(values[-1], unit) if values else "",
        "over": any(allowed.side(value) == "over" for value in values),
        "over_now": bool(values) and allowed.side(values[-1]) == "over",
        "since": since,
        "applies": any(step.step == "teardown-spread" for step in axle.plan.steps),
        "hint": kind_named("spread").hint,
    }


def torque(axle: Axle, query: Mapping[str, str]) -> dict[str, Any]:
    """Every group with its order, stages and signatures."""
    del query
    unit = axle.display.bolt_torque
    signed = {(row.group, row.stage, int(row.at.timestamp() * 1_000_000)): row for row in axle.tightenings}
    rows = []
    for standing in axle.torques:
        group = standing.group
        stages = []
        for stage in standing.stages:
            row = None
            if stage.signed is not None:
                row = signed.get((group.group, stage.stage.number, stage.signed.order))
            stages.append({"stage": stage.stage, "row": row, "stale": stage.stale, "waits": stage.waits})
        rows.append(
            {
                "group": group,
                "stages": stages,
                "done": standing.is_done,
                "drawing": bolts(group),
                "note": group.note_in(axle.display),
                "own": group.group.startswith("own-"),
                "trial": standing.trial,
                "trial_row": _trial_row(axle, standing),
                "entry": str(uuid.uuid4()),
                "both": in_both(group.wanted, unit),
                "figures": group.wanted.words(unit),
                "order": " ".join(str(bolt) for bolt in group.order),
            }
        )
    return {
        "rows": rows,
        "unit": unit,
        "threads": list(threads()),
        "grades": list(classes()),
        "shapes": SHAPE_WORDS.items(),
        "used_before": used_before(axle.job),
    }


def _trial_row(axle: Axle, standing: GroupStanding) -> Tightening | None:
    """Who signed the trial's torque that stands."""
    if standing.trial is None or standing.trial.signed is None:
        return None
    rows = [row for row in axle.tightenings if (row.group, row.stage) == (standing.group.group, 0)]
    return rows[-1] if rows else None


def photos(axle: Axle, query: Mapping[str, str]) -> dict[str, Any]:
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
    rows = [
        {"timer": timer, "due": timer.due_at <= now, "left": between(now, timer.due_at)}
        for timer in timer_services.running(user)
    ]
    return {"rows": rows}


def item_title(item: str) -> str:
    """An item of the register as its title."""
    return items()[item].title


# Without a figure on the sheet: common practice, no source.
_LIMIT = 0.508


def _station(axle: Axle, name: str) -> dict[str, Any]:
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


def _as_received(axle: Axle, kind: str) -> dict[str, Any]:
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


def _offers(kind: str, last: str) -> list[tuple[str, str]]:
    if kind == "tool":
        return [("off", "Counted out"), ("back", "Counted in")]
    if kind == "scrap":
        return [("scrapped", "Thrown away")]
    if not last:
        return [("off", "Came off")]
    return [("back", "Back in"), ("scrapped", "Thrown away"), ("lost", "Lost"), ("off", "Write again")]


def _run_words(axle: Axle, run: Run) -> dict[str, Any]:
    unit, result = axle.display.length, run.result
    orders = [
        {
            "order": order.order,
            "words": {1: "once a turn", 2: "twice a turn", 3: "three times"}[order.order],
            "total": show(2 * order.amplitude, unit),
            "u": show(2 * order.uncertainty, unit),
            "angle": f"{order.degrees:.0f}°",
        }
        for order in result.orders
    ]
    doubts = [f"place {d.place}, off by {show(d.off, unit, sign=True)}" for d in result.doubts]
    residuals = [show(v, unit, sign=True) for v in result.residuals]
    return {
        "orders": orders,
        "doubts": doubts,
        "residuals": residuals,
        "total": show(result.total, unit),
        "clean": show(result.clean, unit),
        "noise": show(result.noise, unit),
        "repeat": show(result.repeat, unit),
        "turns": result.turns,
        "places": result.places,
        "high": result.high_place,
        "alias": alias_words(axle.spec.gears.ratio, result),
    }


def _run_row(axle: Axle, run: Run) -> dict[str, Any]:
    first = run.result.order(1)
    return {
        "run": run,
        "part": "ring gear" if run.part == "ring" else "flange",
        "total": show(run.result.total, axle.display.length),
        "angle": f"{first.degrees:.0f}°" if first else "—",
    }


def _unfinished(axle: Axle, part: str, number: int) -> list[dict[str, Any]]:
    """A run whose last turn is not whole yet: how far it is."""
    rows = [
        row
        for row in axle.valid_readings()
        if row.kind == f"{part}_run" and row.conditions["run"] == number
    ]
    return _rest(rows, part, number)


def _any_unfinished(axle: Axle) -> list[dict[str, Any]]:
    rows = [row for row in axle.valid_readings() if row.kind in ("ring_run", "flange_run")]
    if not rows:
        return []
    last = rows[-1]
    part, number = last.kind.removesuffix("_run"), last.conditions["run"]
    return _rest([r for r in rows if r.kind == last.kind and r.conditions["run"] == number], part, number)


def _rest(rows: list[Reading], part: str, number: int) -> list[dict[str, Any]]:
    if not rows:
        return []
    places = rows[0].conditions["places"]
    got = len(rows) % places
    return [{"part": part, "run": number, "places": places, "next": got + 1}] if got else []


def _clockings(axle: Axle) -> list[dict[str, Any]]:
    """Each clocking with what was expected of it and what came of it, side by side."""
    unit = axle.display.length
    found = []
    for move in axle.job.moves.filter(station="ring_gear").order_by("id"):
        order = int(move.taken_at.timestamp() * 1_000_000)
        later = [run for run in axle.state.runs if run.part == "ring" and run.order > order]
        came = show(later[0].result.clean, unit) if later else ""
        expected = move.expected[0] if move.expected else None
        found.append(
            {
                "title": move.title,
                "by": move.by,
                "at": move.taken_at,
                "expected": "–".join(show(expected[e], unit) for e in ("low", "high")) if expected else "",
                "came": came,
            }
        )
    return found


def _since(rows: list[Reading]) -> Any:
    """When the housing was last let back, if it is spread now."""
    spread_since = None
    for row in rows:
        if not row.value:
            spread_since = None
        elif spread_since is None:
            spread_since = row.at
    return spread_since
