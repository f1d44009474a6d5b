"""Lists of measured things: runout, heights, the carrier, torques."""

from __future__ import annotations

from collections.abc import Mapping

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from axle.carrier.adjuster_log import DONE_WORDS, AdjusterEvent
from axle.errors import AxleError
from axle.measure.parse import parse
from axle.measure.units import HOLE, brief
from axle.procedure.names import KindName
from axle.procedure.stations import kind_named
from shop.instruments import line
from shop.jobs import queries, simulated
from shop.jobs.actions import carrier as carrier_actions
from shop.jobs.actions import heights as heights_actions
from shop.jobs.actions import readings
from shop.jobs.actions import runout as runout_actions
from shop.jobs.actions import torque as torque_actions
from shop.jobs.models import Job
from shop.people.bridge import display_for
from shop.people.request import one_of, posts_only, user_of, whole_number
from shop.worksheets import carrier as carrier_page
from shop.worksheets import measured_pages
from shop.worksheets.forms import correction_from, own_group_from
from shop.worksheets.page import entry_in, version_in, worksheet


def runout(request: HttpRequest, number: int) -> HttpResponse:
    """Readings around the ring gear or the flange, and which part is to blame."""

    def take(job: Job, given: Mapping[str, str]) -> str:
        user = user_of(request)
        unit = display_for(user).length
        row = [parse(text, unit, "runout") for text in given.get("readings", "").replace(";", " ").split()]
        run = runout_actions.add_run(
            user,
            job,
            version_in(given),
            given.get("part", ""),
            whole_number(given.get("places"), "places", 3, 72),
            whole_number(given.get("run") or "0", "run", 0, 999),
            row,
            entry_in(given),
        )
        return f"Run {run}: {len(row)} reading{'s' if len(row) != 1 else ''} kept."

    return worksheet(request, number, name="runout", gather=measured_pages.runout, act=take)


def take_runout(request: HttpRequest, number: int) -> HttpResponse:
    """Read the instrument at the next place and put it behind what stands in the row already."""
    job = queries.job_of(user_of(request), number)
    given = request.GET
    row, error = given.get("readings", "").split(), ""
    try:
        kind = kind_named(runout_actions.KINDS.get(given.get("part", ""), "ring_run"))
        places = whole_number(given.get("places"), "places", 3, 72)
        at = len(row) % places + 1
        taken = simulated.read_instrument(job, kind, at, places) or line.take(kind, at, places)
        row.append(brief(taken.core, display_for(user_of(request)).length))
    except AxleError as problem:
        error = str(problem)
    return render(request, "worksheets/partials/run_values.html", {"values": " ".join(row), "error": error})


def take_field(request: HttpRequest, number: int) -> HttpResponse:
    """Read the instrument into one field of a page with many; it is kept with the page's own button."""
    job = queries.job_of(user_of(request), number)
    given = request.GET
    name = given.get("name", "")[:40]
    # What stands in the field comes along under the field's own name: a refusal leaves it there.
    shown: dict[str, object] = {
        "job": job,
        "name": name,
        "value": given.get(name, ""),
        "big": given.get("big", ""),
    }
    try:
        kind = kind_named(given.get("kind", ""))
        shown |= {"kind": kind.kind, "label": kind.title}
        shown["place"] = place = whole_number(given.get("place") or "1", "place", 1, 99)
        taken = simulated.read_instrument(job, kind, place, kind.places)
        taken = taken or line.take(kind, place, max(place, kind.places))
        shown |= {"value": taken.text, "taken": True}
    except AxleError as problem:
        shown["error"] = str(problem)
    return render(request, "worksheets/partials/take_field.html", shown)


def heights(request: HttpRequest, number: int) -> HttpResponse:
    """Stand heights and widths of the pinion's bearings, old, set-up and final; the slinger."""

    def keep(job: Job, given: Mapping[str, str]) -> str:
        user = user_of(request)
        unit = display_for(user).length
        read = {}
        for kind, place, name in measured_pages.height_fields():
            text = given.get(name, "")
            if text.strip():
                read[kind, place] = heights_actions.checked(kind_named(kind), place, text, unit)
        count = heights_actions.keep(user, job, version_in(given), read, entry_in(given))
        return f"{count} kept." if count else "Nothing new to keep."

    return worksheet(request, number, name="heights", gather=measured_pages.heights, act=keep)


def carrier(request: HttpRequest, number: int) -> HttpResponse:
    """The carrier: its school, a move planned by hand, the book of its adjusters, the hint of heat."""

    def put(job: Job, given: Mapping[str, str]) -> str:
        user, does = user_of(request), given.get("does", "")
        if does == "school":
            school = given.get("school", "")
            carrier_actions.choose_school(user, job, version_in(given), school, given.get("reason", ""))
            return "The school is chosen: steps and readings follow it."
        if does == "plan":
            display = display_for(user)
            wanted = carrier_page.wanted_from(given, display)
            move = carrier_actions.make_plan(user, job, version_in(given), wanted, display)
            return f"{move.title}: fitted, assembly {move.assembly.number}."
        done = one_of(AdjusterEvent, does, "what was done")
        holes = parse(given.get("holes", "") or "0", HOLE, "holes").value
        torque = given.get("torque", "").strip()
        bolts_unit = display_for(user).bolt_torque
        carrier_actions.write_line(
            user,
            job,
            version_in(given),
            done,
            entry_in(given),
            ring=holes,
            far=-holes,
            torque=parse(torque, bolts_unit, "torque on the caps") if torque else None,
            words=given.get("words", ""),
        )
        return f"Written down: {DONE_WORDS[done]}."

    return worksheet(request, number, name="carrier", gather=carrier_page.carrier, act=put)


def spread(request: HttpRequest, number: int) -> HttpResponse:
    """How far the housing is spread, for how long, and how far it was."""

    def read(job: Job, given: Mapping[str, str]) -> str:
        user = user_of(request)
        quantity = parse(given.get("value", ""), display_for(user).length, "spread")
        readings.record_reading(
            user,
            job,
            version_in(given),
            readings.NewReading(kind=KindName.SPREAD, place=1, quantity=quantity, entry=entry_in(given)),
        )
        return "Logged."

    return worksheet(request, number, name="spread", gather=measured_pages.spread, act=read)


def torque(request: HttpRequest, number: int) -> HttpResponse:
    """The torque sheet: every group with its count, thread, stages, order and signatures."""

    def correct(job: Job, given: Mapping[str, str]) -> str:
        user = user_of(request)
        if given.get("do") == "add":
            torque_actions.add_group(user, job, version_in(given), own_group_from(given, display_for(user)))
            return "Added to this job's torque sheet."
        if given.get("do") == "again":
            again = [row for row in torque_actions.used_before(job) if row["from"] == given.get("from")]
            if not again:
                raise AxleError(
                    "group", given="one that is not there", wanted="one of the shop's other jobs"
                )
            known = {
                name: value for name, value in again[0].items() if name not in ("from", "own", "after")
            }
            torque_actions.add_group(user, job, version_in(given), known)
            return "Taken over from another job."
        if given.get("do") == "drop":
            torque_actions.drop_group(user, job, version_in(given), given.get("group", ""))
            return "Taken off the torque sheet."
        if given.get("do") == "trial":
            unit = torque_actions.unit_of(job, given.get("group", ""), display_for(user))
            torque = parse(given.get("value", ""), unit, "trial torque")
            torque_actions.sign_stage(
                user,
                job,
                version_in(given),
                given.get("group", ""),
                0,
                torque,
                entry_in(given),
                given.get("words", ""),
            )
            return "The trial's torque is signed; the final stages are signed on the bench."
        name = given.get("group", "")
        fields = correction_from(given, torque_actions.unit_of(job, name, display_for(user)))
        torque_actions.correct(user, job, version_in(given), name, fields)
        return "Corrected for this job."

    return worksheet(request, number, name="torque", gather=measured_pages.torque, act=correct)


@posts_only
def clock(request: HttpRequest, number: int) -> HttpResponse:
    """Record that the ring gear was turned on its flange."""

    def turn(job: Job, given: Mapping[str, str]) -> str:
        holes = whole_number(given.get("holes"), "holes", 0, 48)
        runout_actions.set_clock(user_of(request), job, version_in(given), holes)
        return (
            f"The gear is clocked by {holes} holes. Runout, backlash and pattern are stale: "
            "read around again."
        )

    return worksheet(request, number, name="runout", gather=measured_pages.runout, act=turn)
