"""What the bench page shows, gathered from the axle: nothing is computed here."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from django.conf import settings
from django.urls import reverse

from axle.decision.move import Act, Move
from axle.measure.units import show
from axle.procedure.names import StationName
from axle.procedure.stations import stations
from axle.stations.inspection import VERDICTS, reuse
from axle.stations.made_up import made_up_titles
from axle.stations.station_state import Slot, Status
from axle.workflow.progress import StepStanding
from shop.bench.panels import carrier, chances, pattern, pinion, steps
from shop.bench.panels.callouts import callouts, flank_pair
from shop.bench.panels.entry import adjusters_panel, entry_panel, packs_panel, slot_of
from shop.bench.panels.history import history_rows, missed_forecasts
from shop.bench.panels.ladder import OVERVIEW, ladder, tabs
from shop.bench.panels.now import now_at
from shop.bench.panels.overview import overview
from shop.bench.panels.practice import practice_card
from shop.bench.panels.spread import spread_strip
from shop.bench.panels.torque import torque_panel
from shop.bench.request import PageRequest
from shop.drawing.section import section
from shop.jobs import countersign
from shop.jobs.actions import signing
from shop.jobs.cross_checks import cross_checks
from shop.jobs.formatting import expected_rows, layout_words, swap_rows
from shop.jobs.job_axle import JobAxle
from shop.jobs.last_act import last_act, last_undone
from shop.jobs.models import Job
from shop.people import rules
from shop.people.models import User
from shop.people.rules import Right


def context(axle: JobAxle, user: User, asked: PageRequest) -> dict[str, Any]:
    """Everything the bench page and its partial are rendered from."""
    station = asked.station if asked.station in stations() else axle.station
    shows_overview = asked.station == OVERVIEW
    goes_on = _goes_on(axle, station) if asked.moves_on and _is_left(axle, station) else None
    if asked.moves_on and goes_on is None and _is_left(axle, station):
        station = following(axle, station)
    standing = axle.standings.get(station)
    outside = station in axle.plan.scope.without
    card = None if outside else steps.card(axle, station, asked.step, asked.out_of_order)
    if card and asked.step and not asked.kind:
        # The step in hand says what is entered under it.
        asked = replace(asked, kind=next((k for k in card["step"].readings if not k.endswith("_run")), ""))
    slot = slot_of(axle, standing, asked) if standing and not outside else None
    move = axle.move
    # On the overview nothing is entered: the Now always leads to where it is done.
    now = now_at(axle, "" if shows_overview else station, slot, goes_on=goes_on is not None)
    may_sign = rules.may(user, Right.SIGN, practice=axle.job.practice)
    return {
        "practice": practice_card(axle, station),
        "goes_on": goes_on,
        "now": now,
        "spread_strip": spread_strip(axle),
        "last_act": last_act(axle),
        "last_undone": last_undone(axle),
        "checks": () if axle.job.practice else cross_checks(axle, station),
        "made_up": () if axle.job.practice else made_up_titles(axle.state, station),
        "record": chances.record_line(axle, move),
        "card": card,
        "outside": outside,
        "scope": axle.plan.scope,
        "shows_card": card is not None and not shows_overview and (standing is None or bool(asked.step)),
        "away": steps.away(axle),
        "in_hand": axle.step,
        "open_holds": _open_holds(axle, station),
        "axle": axle,
        "job": axle.job,
        "display": axle.display,
        "asked": asked,
        "signed": axle.job.state == Job.State.SIGNED,
        "station": stations()[station],
        "cautions": stations()[station].cautions_for(axle.spec.layout),
        "standing": standing,
        "methods": stations()[station].methods_on(axle.spec.layout),
        "overview": overview(axle) if shows_overview else None,
        "ladder": ladder(axle, OVERVIEW if shows_overview else station),
        "tabs": tabs(axle, OVERVIEW if shows_overview else station),
        "layout_words": layout_words(axle),
        "entry": entry_panel(axle, slot, asked) if slot else None,
        "packs": packs_panel(axle, station),
        "adjusters": adjusters_panel(axle, station),
        "move": move,
        "swaps": swap_rows(axle, move),
        "then": _then(axle, move.then) if move.then is not None else None,
        "move_shows_change": move.act is Act.CHANGE,
        "goes_stale": _goes_stale(axle),
        "missed": missed_forecasts(axle),
        "expected": expected_rows(axle, move),
        "history": history_rows(axle),
        "drawing": None
        if station == StationName.PATTERN and not outside
        else section(axle.spec.layout, callouts(axle), flank_pair(axle)),
        "pattern": pattern.context(axle, asked.view, asked.place)
        if station == StationName.PATTERN and not outside
        else None,
        **({} if outside else _panels(axle, station, asked, slot)),
        "has_instrument": bool(settings.LASH_INSTRUMENT) or axle.job.practice,
        "may_sign": may_sign,
        "countersign": station in countersign.waiting(axle),
        "sheet_open": [
            stations()[name].title
            for name, other in axle.standings.items()
            if name != "sheet" and not other.is_done
        ],
        "deviations": signing.deviation_lines(axle, station) if station == StationName.SHEET else (),
        "not_done": bool(axle.not_done) if station == StationName.SHEET else False,
        "inspection": _inspection(axle) if station == StationName.SHEET else None,
        "tighten": torque_panel(axle, station, may_sign=may_sign) if not outside else None,
        "previous_station": _neighbour(axle, station, -1),
        "following_station": _neighbour(axle, station, 1),
    }


def _inspection(axle: JobAxle) -> dict[str, Any] | None:
    """What an inspection is signed on: what was read and seen, and the verdicts there are."""
    if axle.plan.scope.scope != "inspection":
        return None
    return {"held": reuse(axle.state, axle.found, axle.display), "verdicts": VERDICTS.items()}


def _open_holds(axle: JobAxle, station: str) -> tuple[StepStanding, ...]:
    """Holds to be told of: on the sheet all, else those passed over; a practice axle came stripped."""
    if station == StationName.SHEET:
        return axle.open_holds
    return () if axle.job.practice else axle.passed_over


def _panels(axle: JobAxle, station: str, asked: PageRequest, slot: Slot | None) -> dict[str, Any]:
    """What the pinion's stations show in place of the axle's section."""
    if asked.view == "axle":
        return {}
    if station == StationName.DEPTH:
        panel = pinion.depth_panel(axle, slot.kind if slot else "")
        if asked.view == "mark":
            panel["mark"] = pinion.asked_mark(axle, asked.kept)
        return {"depth": panel, "method_in_hand": pinion.method_of(axle, slot.kind) if slot else None}
    if station == StationName.PINION_PRELOAD:
        return {"preload": pinion.preload_panel(axle)}
    if station == StationName.CARRIER_PRELOAD:
        panel = carrier.carrier_panel(axle, slot.kind if slot else "")
        return {"carrier": panel, "method_in_hand": carrier.method_of(axle, slot.kind) if slot else None}
    if station == StationName.BACKLASH:
        return {"lash": carrier.lash_panel(axle, slot.place if slot else 0)}
    return {}


def _goes_on(axle: JobAxle, station: str) -> dict[str, Any] | None:
    """The verdict that is looked at before the work goes on; nothing where the work stays."""
    standing = axle.standings.get(station)
    after = following(axle, station)
    if standing is None or station in (after, StationName.SHEET, StationName.TORQUE):
        return None
    result, value = standing.result, ""
    if result is not None and result.value is not None:
        unit = axle.display.unit_for(result.dimension)
        value = f"{show(result.value, unit)} {unit.symbol}"
    return {
        "title": stations()[after].title,
        "link": f"{reverse('bench', args=[axle.job.number])}?station={after}",
        "value": value,
        "open": [s.step.title.lower() for s in axle.not_done if s.step.station == station],
    }


def following(axle: JobAxle, station: str) -> str:
    """The station at which the work goes on after one: never one before it, whatever is open there.

    :param axle: the job.
    :param station: the one that is left.
    """
    names = axle.plan.stations
    if station not in names or names.index(axle.station) >= names.index(station):
        return axle.station
    later = names[names.index(station) + 1 :]
    return next((name for name in later if not axle.status_of(name).is_done), station)


def _is_left(axle: JobAxle, station: str) -> bool:
    """Whether the work goes on from a station once something was done there."""
    if station == StationName.TORQUE:
        return all(group.is_done for group in axle.torques)
    measured = axle.standings.get(station)
    if measured is not None:
        return measured.is_done
    return axle.status_of(station) is not Status.NOT_BEGUN


def _then(axle: JobAxle, change: Move) -> dict[str, Any]:
    """The change that a reading comes before: it can be made at once."""
    return {"move": change, "swaps": swap_rows(axle, change), "expected": expected_rows(axle, change)}


def _goes_stale(axle: JobAxle) -> list[str]:
    """What the move makes stale of what has been read."""
    return [
        name
        for name in axle.move.stales
        if (name in axle.standings and axle.standings[name].result is not None)
        or axle.state.latest(name) is not None
    ]


def _neighbour(axle: JobAxle, station: str, step: int) -> str:
    names = axle.plan.stations
    index = names.index(station) + step
    return names[index] if 0 <= index < len(names) else station
