"""Pages over the records of the guided work; each is one form and what it feeds."""

import uuid
from collections.abc import Callable, Mapping
from typing import Any

from django.conf import settings
from django.contrib import messages
from django.http import FileResponse, Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse

from axle.carrier.book import DONE_WORDS, Done
from axle.errors import AxleError
from axle.procedure.register import Event
from axle.procedure.stations import kind_named
from axle.units import HOLE, brief, parse
from shop.config.http import IN_WORDS, one_of, posts_only, user_of, whole_number
from shop.instruments import line
from shop.jobs import bolts, bridge, parts, prints, queries, runs, services, simulated
from shop.jobs import carrier as carrier_services
from shop.jobs import heights as height_services
from shop.jobs import timers as timer_services
from shop.jobs import work as work_services
from shop.jobs.change import Stale
from shop.jobs.models import Job, Pattern, Photo
from shop.pattern.marks import patches_from
from shop.people import rules
from shop.people.bridge import display_for
from shop.procedure import carrier as carrier_page
from shop.procedure import pages
from shop.procedure.forms import correction_from, own_group_from

Act = Callable[[Job, Mapping[str, str]], str]


def work(request: HttpRequest, number: int) -> HttpResponse:
    """Parts and variants, and the sequence that follows from them, with its reasons."""

    def choose(job: Job, given: Mapping[str, str]) -> str:
        chosen = {
            name.removeprefix("choice-"): v for name, v in given.items() if name.startswith("choice-")
        }
        reason = given.get("reason-school", "")
        fallen = work_services.choose(
            user_of(request), job, _version(given), chosen, reason, given.get("scope")
        )
        more = f" No longer possible, back to the usual: {', '.join(fallen).lower()}." if fallen else ""
        return f"The sequence follows your choices.{more}"

    return _page(request, number, "work", pages.work, choose)


def tools(request: HttpRequest, number: int) -> HttpResponse:
    """One list of tools, stands, gauges, consumables and parts, ticked before starting."""

    def tick(job: Job, given: Mapping[str, str]) -> str:
        names = [name.removeprefix("tool-") for name in given if name.startswith("tool-")]
        state = {name: given[f"tool-{name}"] for name in names}
        if given.get("all"):
            needs = bridge.load(job).plan.needs
            state = {need.tool.tool: "have" for need in needs}
        work_services.tick_tools(user_of(request), job, _version(given), state)
        return "Kept."

    return _page(request, number, "tools", pages.tools, tick)


def arrival(request: HttpRequest, number: int) -> HttpResponse:
    """The arrival record, and the pattern as found."""

    def keep(job: Job, given: Mapping[str, str]) -> str:
        user = user_of(request)
        if given.get("flank"):
            prints.mark(
                user,
                job,
                _version(given),
                flank=given["flank"],
                patches=patches_from(given["flank"], given),
                entry=_entry(given),
                seen=prints.Seen(taken=Pattern.Taken.AS_FOUND),
            )
            return f"The {given['flank']} flank as found is kept."
        fields = ("complaint", "use", "oil", "gears", "mileage", "unit", "noise", "note")
        work_services.record_arrival(
            user, job, _version(given), **{name: given.get(name, "") for name in fields}
        )
        return "The arrival is taken down."

    return _page(request, number, "arrival", pages.arrival, keep)


def register(request: HttpRequest, number: int) -> HttpResponse:
    """Parts and marks: what came off, how it is told apart, and what is back."""

    def write(job: Job, given: Mapping[str, str]) -> str:
        user = user_of(request)
        if given.get("own"):
            lot, reason = whole_number(given["own"], "piece"), given.get("reason", "")
            what = parts.clear_own(
                user, job, _version(given), lot, None if given.get("do") == "drawer" else reason
            )
            return f"{what.capitalize()}."
        event = one_of(Event, given.get("event"), "what happened")
        row = parts.write_register(
            user,
            job,
            _version(given),
            given.get("item", ""),
            event,
            given.get("words", ""),
            display_for(user),
            _entry(given),
        )
        return f"Written: {pages.item_title(row.item).lower()}, {event.value}."

    return _page(request, number, "register", pages.register_page, write)


def findings(request: HttpRequest, number: int) -> HttpResponse:
    """What the parts look like, why, and what becomes of each."""

    def find(job: Job, given: Mapping[str, str]) -> str:
        row = parts.find(
            user_of(request),
            job,
            _version(given),
            given.get("part", ""),
            given.get("sign", ""),
            given.get("decision", ""),
            given.get("reason", ""),
            _entry(given),
        )
        found = pages.finding(row)
        more = f" Also look at: {found['check']}" if row.sign != "sound" else ""
        return f"{found['part']}: {found['sign']}.{more}"

    return _page(request, number, "findings", pages.findings, find)


def runout(request: HttpRequest, number: int) -> HttpResponse:
    """Readings around the ring gear or the flange, and which part is to blame."""

    def take(job: Job, given: Mapping[str, str]) -> str:
        user = user_of(request)
        unit = display_for(user).length
        row = [parse(text, unit, "runout") for text in given.get("readings", "").replace(";", " ").split()]
        run = runs.take_turn(
            user,
            job,
            _version(given),
            given.get("part", ""),
            whole_number(given.get("places"), "places", 3, 72),
            whole_number(given.get("run") or "0", "run", 0, 999),
            row,
            _entry(given),
        )
        return f"Run {run}: {len(row)} reading{'s' if len(row) != 1 else ''} kept."

    return _page(request, number, "runout", pages.runout, take)


def take_runout(request: HttpRequest, number: int) -> HttpResponse:
    """Read the instrument at the next place and put it behind what stands in the row already."""
    job = queries.job_of(user_of(request), number)
    given = request.GET
    row, error = given.get("readings", "").split(), ""
    try:
        kind = kind_named(runs.KINDS.get(given.get("part", ""), "ring_run"))
        places = whole_number(given.get("places"), "places", 3, 72)
        at = len(row) % places + 1
        taken = simulated.take(job, kind, at, places) or line.take(kind, at, places)
        row.append(brief(taken.core, display_for(user_of(request)).length))
    except AxleError as problem:
        error = str(problem)
    return render(request, "procedure/partials/run_values.html", {"values": " ".join(row), "error": error})


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
        taken = simulated.take(job, kind, place, kind.places)
        taken = taken or line.take(kind, place, max(place, kind.places))
        shown |= {"value": taken.text, "taken": True}
    except AxleError as problem:
        shown["error"] = str(problem)
    return render(request, "procedure/partials/take_field.html", shown)


@posts_only
def clock(request: HttpRequest, number: int) -> HttpResponse:
    """Record that the ring gear was turned on its flange."""

    def turn(job: Job, given: Mapping[str, str]) -> str:
        holes = whole_number(given.get("holes"), "holes", 0, 48)
        runs.set_clock(user_of(request), job, _version(given), holes)
        return (
            f"The gear is clocked by {holes} holes. Runout, backlash and pattern are stale: "
            "read around again."
        )

    return _page(request, number, "runout", pages.runout, turn)


def heights(request: HttpRequest, number: int) -> HttpResponse:
    """Stand heights and widths of the pinion's bearings, old, set-up and final; the slinger."""

    def keep(job: Job, given: Mapping[str, str]) -> str:
        user = user_of(request)
        unit = display_for(user).length
        read = {}
        for kind, place, name in pages.height_fields():
            text = given.get(name, "")
            if text.strip():
                read[kind, place] = height_services.checked(kind_named(kind), place, text, unit)
        count = height_services.keep(user, job, _version(given), read, _entry(given))
        return f"{count} kept." if count else "Nothing new to keep."

    return _page(request, number, "heights", pages.heights, keep)


def carrier(request: HttpRequest, number: int) -> HttpResponse:
    """The carrier: its school, a move planned by hand, the book of its adjusters, the hint of heat."""

    def put(job: Job, given: Mapping[str, str]) -> str:
        user, does = user_of(request), given.get("does", "")
        if does == "school":
            school = given.get("school", "")
            carrier_services.choose_school(user, job, _version(given), school, given.get("reason", ""))
            return "The school is chosen: steps and readings follow it."
        if does == "plan":
            display = display_for(user)
            wanted = carrier_page.wanted_from(given, display)
            move = carrier_services.make_plan(user, job, _version(given), wanted, display)
            return f"{move.title}: fitted, assembly {move.assembly.number}."
        done = one_of(Done, does, "what was done")
        holes = parse(given.get("holes", "") or "0", HOLE, "holes").value
        torque = given.get("torque", "").strip()
        bolts_unit = display_for(user).bolt_torque
        carrier_services.write_line(
            user,
            job,
            _version(given),
            done,
            _entry(given),
            ring=holes,
            far=-holes,
            torque=parse(torque, bolts_unit, "torque on the caps") if torque else None,
            words=given.get("words", ""),
        )
        return f"Written down: {DONE_WORDS[done]}."

    return _page(request, number, "carrier", carrier_page.carrier, put)


def spread(request: HttpRequest, number: int) -> HttpResponse:
    """How far the housing is spread, for how long, and how far it was."""

    def read(job: Job, given: Mapping[str, str]) -> str:
        user = user_of(request)
        quantity = parse(given.get("value", ""), display_for(user).length, "spread")
        services.take_reading(
            user, job, _version(given), kind="spread", place=1, quantity=quantity, entry=_entry(given)
        )
        return "Logged."

    return _page(request, number, "spread", pages.spread, read)


def torque(request: HttpRequest, number: int) -> HttpResponse:
    """The torque sheet: every group with its count, thread, stages, order and signatures."""

    def correct(job: Job, given: Mapping[str, str]) -> str:
        user = user_of(request)
        if given.get("do") == "add":
            bolts.add_group(user, job, _version(given), own_group_from(given, display_for(user)))
            return "Added to this job's torque sheet."
        if given.get("do") == "again":
            again = [row for row in bolts.used_before(job) if row["from"] == given.get("from")]
            if not again:
                raise AxleError(
                    "group", given="one that is not there", wanted="one of the shop's other jobs"
                )
            known = {
                name: value for name, value in again[0].items() if name not in ("from", "own", "after")
            }
            bolts.add_group(user, job, _version(given), known)
            return "Taken over from another job."
        if given.get("do") == "drop":
            bolts.drop_group(user, job, _version(given), given.get("group", ""))
            return "Taken off the torque sheet."
        if given.get("do") == "trial":
            torque = parse(given.get("value", ""), display_for(user).bolt_torque, "trial torque")
            bolts.sign_stage(
                user,
                job,
                _version(given),
                given.get("group", ""),
                0,
                torque,
                _entry(given),
                given.get("words", ""),
            )
            return "The trial's torque is signed; the final stages are signed on the bench."
        fields = correction_from(given, display_for(user))
        bolts.correct(user, job, _version(given), given.get("group", ""), fields)
        return "Corrected for this job."

    return _page(request, number, "torque", pages.torque, correct)


def photos(request: HttpRequest, number: int) -> HttpResponse:
    """Every photo of the job, by step."""
    return _page(request, number, "photos", pages.photos, None)


def photo_shown(request: HttpRequest, number: int, photo_id: int) -> FileResponse:
    """A photo, upright and small enough for a page."""
    photo = _photo(request, number, photo_id)
    return FileResponse(photo.shown.open("rb"), content_type="image/jpeg")


def photo_original(request: HttpRequest, number: int, photo_id: int) -> FileResponse:
    """A photo as it came from the camera, less its location."""
    photo = _photo(request, number, photo_id)
    return FileResponse(photo.original.open("rb"), as_attachment=True, filename=photo.name)


def timers(request: HttpRequest) -> HttpResponse:
    """Every running wait of the shop; asks again by itself."""
    return render(request, "procedure/partials/timers.html", pages.timers(user_of(request)))


@posts_only
def end_timer(request: HttpRequest, number: int, timer_id: int) -> HttpResponse:
    """Say that a wait was heard, or stop it."""
    user = user_of(request)
    job = queries.job_of(user, number)
    try:
        timer_services.end(user, job, timer_id)
    except IN_WORDS:
        # Somebody else's wait, or one that is gone: the list itself tells.
        return render(request, "procedure/partials/timers.html", pages.timers(user), status=422)
    return render(request, "procedure/partials/timers.html", pages.timers(user))


def _page(
    request: HttpRequest, number: int, name: str, gather: Callable[..., dict[str, Any]], act: Act | None
) -> HttpResponse:
    """Show a page; on a post make its change, and lose nothing of what was typed when it is refused."""
    user = user_of(request)
    job = queries.job_of(user, number)
    error, status = "", 200
    if request.method == "POST" and act is not None:
        try:
            messages.success(request, act(job, request.POST.dict()))
            return redirect(f"{reverse(name, args=[number])}{_anchor(request)}")
        except Stale as stale:
            error, status = f"{stale} Nothing of yours is lost: look, then send it again.", 409
        except IN_WORDS as problem:
            error, status = str(problem), 422
        job = queries.job_of(user, number)
    axle = bridge.load(job, display_for(user))
    typed = request.POST.dict() if status != 200 else {}
    shared = {
        "axle": axle,
        "job": job,
        "display": axle.display,
        "error": error,
        "typed": typed,
        "here": name,
        "signed": job.state == Job.State.SIGNED,
        "may_sign": rules.may_sign_on(user, practice=job.practice),
        "entry_id": str(uuid.uuid4()),
        "has_instrument": bool(settings.LASH_INSTRUMENT) or job.practice,
    }
    query = request.GET.dict()
    return render(request, f"procedure/{name}.html", shared | gather(axle, query), status=status)


def _anchor(request: HttpRequest) -> str:
    """Back to where the form stood on a long page."""
    anchor = request.POST.get("anchor", "")
    return f"#{anchor}" if anchor.replace("-", "").replace("_", "").isalnum() else ""


def _photo(request: HttpRequest, number: int, photo_id: int) -> Photo:
    job = queries.job_of(user_of(request), number)
    photo: Photo = get_object_or_404(Photo, job=job, pk=photo_id)
    if not photo.original.storage.exists(str(photo.original.name)):
        raise Http404
    return photo


def _version(given: Mapping[str, str]) -> int:
    return whole_number(given.get("version"), "page version")


def _entry(given: Mapping[str, str]) -> uuid.UUID:
    try:
        return uuid.UUID(given.get("entry", ""))
    except ValueError:
        raise AxleError(
            "entry", given="no identity", wanted="the page's own", do="Reload the page."
        ) from None
