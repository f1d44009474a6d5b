"""What the lists of measured things show: heights, runout, spread, torques."""

from __future__ import annotations

import uuid
from collections.abc import Mapping
from typing import Any, Final

from axle.fasteners.signing import GroupStanding
from axle.fasteners.threads import classes, threads
from axle.layout import Place
from axle.measure.range import Range, RangeSide
from axle.measure.units import brief, show
from axle.procedure.names import KindName, StationName
from axle.procedure.stations import kind_named
from axle.state.reading import Run
from axle.stations.bearing_heights import net_preload, what_heights_change
from axle.stations.runout import alias_words, holes_words, newest, position_of
from shop.bench.panels.spread import spread_limit, spread_readings, spread_since
from shop.drawing.bolts import bolts
from shop.drawing.polar import places_around, polar
from shop.drawing.series import series
from shop.jobs.actions import heights as heights_actions
from shop.jobs.actions.torque import used_before
from shop.jobs.formatting import in_both
from shop.jobs.job_axle import JobAxle
from shop.jobs.models import Reading, Tightening
from shop.worksheets.pages import SHAPE_WORDS

# Around the ring, where nothing else was chosen: common practice.
USUAL_PLACES: Final = 8


def height_fields() -> list[tuple[str, int, str]]:
    """Every field of the heights page: kind, place and the form's name for it."""
    return [
        (kind, place, f"{kind}-{place}")
        for kind in heights_actions.KINDS
        for place in range(1, kind_named(kind).last_place + 1)
    ]


def heights(axle: JobAxle, query: Mapping[str, str]) -> dict[str, Any]:
    """What was measured of bearings and slinger, and what follows for both packs."""
    del query
    # As typed: a size shown rounded and sent again would be another size.
    typed = {(row.kind, row.place): row.as_typed for row in axle.valid_readings()}
    rows = []
    for kind in heights_actions.KINDS:
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
        "names": kind_named(KindName.STAND_INNER).names,
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


def runout(axle: JobAxle, query: Mapping[str, str]) -> dict[str, Any]:
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
    unread = None if drawing else places_around(USUAL_PLACES, state.ring_bolts)
    going = [] if chosen is None else _unfinished(axle, chosen.part, chosen.number)
    return {
        "chosen": chosen,
        "part": part or (chosen.part if chosen else "ring"),
        "drawing": drawing,
        "unread": unread,
        "usual_places": USUAL_PLACES,
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
        "play": state.latest(KindName.ARRIVAL_SIDE_PLAY),
        "clock": int(state.setting(Place.CLOCK)),
    }


def spread(axle: JobAxle, query: Mapping[str, str]) -> dict[str, Any]:
    """The spreading log with its alarm."""
    del query
    rows, limit = spread_readings(axle), spread_limit(axle)
    unit = axle.display.length
    values = [float(row.value or 0) for row in rows]
    since, allowed = spread_since(rows), Range(0.0, limit)
    return {
        "spread_label": "Spread now",
        "rows": list(reversed(rows)),
        "drawing": series(values[-9:], limit, unit, "Housing spread") if rows else None,
        "limit": brief(limit, unit),
        "source": axle.spec.sheet.source("housing_spread"),
        "now": show(values[-1], unit) if values else "",
        "over": any(allowed.side(value) is RangeSide.OVER for value in values),
        "over_now": bool(values) and allowed.side(values[-1]) is RangeSide.OVER,
        "since": since,
        "applies": any(step.step == "teardown-spread" for step in axle.plan.steps),
        "hint": kind_named(KindName.SPREAD).hint,
    }


def torque(axle: JobAxle, query: Mapping[str, str]) -> dict[str, Any]:
    """Every group with its order, stages and signatures."""
    del query
    signed = {(row.group, row.stage, int(row.at.timestamp() * 1_000_000)): row for row in axle.tightenings}
    rows = []
    for standing in axle.torques:
        group = standing.group
        unit = group.unit_in(axle.display)
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
                "unit": unit.symbol,
                "both": in_both(group.wanted, unit),
                "figures": group.wanted.words(unit),
                "order": " ".join(str(bolt) for bolt in group.order),
            }
        )
    return {
        "rows": rows,
        "unit": axle.display.bolt_torque.symbol,
        "threads": list(threads()),
        "grades": list(classes()),
        "shapes": SHAPE_WORDS.items(),
        "used_before": used_before(axle.job),
    }


def _trial_row(axle: JobAxle, standing: GroupStanding) -> Tightening | None:
    """Who signed the trial's torque that stands."""
    if standing.trial is None or standing.trial.signed is None:
        return None
    rows = [row for row in axle.tightenings if (row.group, row.stage) == (standing.group.group, 0)]
    return rows[-1] if rows else None


def _run_words(axle: JobAxle, run: Run) -> dict[str, Any]:
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


def _run_row(axle: JobAxle, run: Run) -> dict[str, Any]:
    first = run.result.order(1)
    return {
        "run": run,
        "part": "ring gear" if run.part == "ring" else "flange",
        "total": show(run.result.total, axle.display.length),
        "angle": f"{first.degrees:.0f}°" if first else "—",
    }


def _unfinished(axle: JobAxle, part: str, number: int) -> list[dict[str, Any]]:
    """A run whose last turn is not whole yet: how far it is."""
    rows = [
        row
        for row in axle.valid_readings()
        if row.kind == f"{part}_run" and row.conditions["run"] == number
    ]
    return _rest(rows, part, number)


def _any_unfinished(axle: JobAxle) -> list[dict[str, Any]]:
    rows = [row for row in axle.valid_readings() if row.kind in (KindName.RING_RUN, KindName.FLANGE_RUN)]
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


def _clockings(axle: JobAxle) -> list[dict[str, Any]]:
    """Each clocking with what was expected of it and what came of it, side by side."""
    unit = axle.display.length
    found = []
    for move in axle.job.moves.standing().filter(station=StationName.RING_GEAR).order_by("id"):
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
