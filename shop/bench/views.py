"""The bench: one page per job, answered in pieces."""

from dataclasses import replace

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render

from axle.decision.calibration import measured_worlds
from axle.depth.marks import LARGE_MARK, MarkConvention, read_mark
from axle.errors import AxleError
from axle.measure.parse import as_meant, echo, question
from axle.procedure.names import StationName
from axle.procedure.stations import kind_named, station_of
from axle.stations.inspection import InspectionVerdict
from shop.bench import instrument_read
from shop.bench.forms import KEPT, typed_reading
from shop.bench.panels import chances
from shop.bench.panels.job_page import following
from shop.bench.request import PageRequest
from shop.bench.responses import answer, change_job
from shop.instruments import line
from shop.instruments.queries import past_full_scale
from shop.jobs import learned, queries, simulated
from shop.jobs.actions import carrier, figures, moves, opening, readings, signing
from shop.jobs.actions import undo as undo_actions
from shop.jobs.actions.job_change import VersionConflict
from shop.jobs.models import Job, Reading
from shop.people import rules
from shop.people.bridge import display_for
from shop.people.request import (
    USER_ERRORS,
    entry_of,
    one_of,
    plain_number,
    posts_only,
    user_of,
    version_of,
    whole_number,
)
from shop.people.rules import Right


def bench(request: HttpRequest, number: int) -> HttpResponse:
    """The main screen of one job."""
    return answer(request, number, _asked(request))


def _asked(request: HttpRequest) -> PageRequest:
    """What an address asks to see."""
    return PageRequest(
        station=request.GET.get("station", ""),
        kind=request.GET.get("kind", ""),
        place=plain_number(request.GET.get("place"), 0),
        step=request.GET.get("step", ""),
        view=request.GET.get("view", ""),
        kept={name: request.GET[name] for name in ("mark", "convention") if name in request.GET},
    )


def changed(request: HttpRequest, number: int) -> HttpResponse:
    """What somebody else did since a page was shown: nothing, or the page with their act named."""
    job = queries.job_of(user_of(request), number)
    if job.version == plain_number(request.GET.get("version"), 0):
        return HttpResponse(status=204)
    did = job.touched_what or "changed something"
    return answer(request, number, replace(_asked(request), notice=f"{job.touched_by.called} {did}."))


def held_chances(request: HttpRequest) -> HttpResponse:
    """How well the chances that were given have held in this shop."""
    own = user_of(request).shop
    reliability_bins = chances.bands_of(own)
    return render(
        request,
        "bench/chances.html",
        {
            "bands": reliability_bins,
            "count": sum(band.count for band in reliability_bins),
            "learned": chances.learned_rows(own),
            "jobs": learned.jobs_of(own),
            "waiting": figures.waiting(own),
            "may_switch": rules.may(user_of(request), Right.SHOP),
            "worlds": measured_worlds(),
        },
    )


@posts_only
def use_figures(request: HttpRequest, number: int) -> HttpResponse:
    """Learn from a finished job, or leave it out."""
    user = user_of(request)
    queries.job_of(user, number)  # another shop's job is not there
    try:
        learned.switch(user, number, used=request.POST.get("use") == "yes")
    except USER_ERRORS as error:
        messages.error(request, str(error))
    return redirect("chances")


@posts_only
def gather_figures(request: HttpRequest) -> HttpResponse:
    """Ask the jobs what they show that were signed before figures were kept."""
    try:
        count = figures.gather(user_of(request))
    except USER_ERRORS as error:
        messages.error(request, str(error))
    else:
        messages.success(request, f"{count} finished job{'s' if count != 1 else ''} looked through.")
    return redirect("chances")


def figures_table(request: HttpRequest) -> HttpResponse:
    """What finished jobs showed, as an open table."""
    body = chances.figures_csv(user_of(request).shop)
    answer = HttpResponse(body, content_type="text/csv; charset=utf-8")
    answer["Content-Disposition"] = 'attachment; filename="lash-figures.csv"'
    return answer


@posts_only
def confirm_mark(request: HttpRequest, number: int) -> HttpResponse:
    """Say what the mark on the pinion means."""
    typed, convention = request.POST.get("mark", ""), request.POST.get("convention", "")
    unit = request.POST.get("unit", "") or "thou"
    kept = {"mark": typed, "convention": convention, "unit": unit}
    page_request = PageRequest(station=StationName.DEPTH, view="mark", kept=kept)

    def put(job: Job) -> PageRequest:
        mark = read_mark(typed, unit)
        opening.one_mark(mark, convention)
        large = convention != MarkConvention.DISTANCE.value and abs(float(mark.core)) > LARGE_MARK
        if large and request.POST.get("questioned") != f"{typed} {unit}":
            words = f"{echo(mark)}? That is a large mark. Is its unit right? The same again keeps it."
            return replace(page_request, question=words)
        opening.confirm_mark(user_of(request), job, version_of(request), mark, convention)
        return PageRequest(
            station=StationName.DEPTH, notice="The mark is confirmed: depth is worked out with it."
        )

    return change_job(request, number, page_request, put)


@posts_only
def reading(request: HttpRequest, number: int) -> HttpResponse:
    """Store one reading; question what is unusual once, and refuse what cannot be."""
    given = request.POST
    typed, kind_name = given.get("value", ""), given.get("kind", "")
    page_request = PageRequest(
        given.get("station", ""),
        kind_name,
        place=_place(given.get("place")),
        typed=typed,
        kept={name: given[name] for name in KEPT if name in given},
    )

    def store(job: Job) -> PageRequest:
        kind = kind_named(kind_name)
        display = display_for(user_of(request))
        quantity, conditions = typed_reading(kind, given.dict(), display)
        kind.check(quantity.core, quantity.text, quantity.unit)
        home = display.unit_for(kind.dimension, bolt=kind.bolt)
        doubt = question(quantity, kind.plausible, kind.finest, home)
        if doubt is None and given.get("tool"):
            doubt = past_full_scale(job.shop, whole_number(given["tool"], "instrument"), quantity)
        current = job.version == version_of(request)
        again = bool(conditions.get("again"))
        if (
            doubt is None
            and current
            and not again
            and readings.read_already(job, kind, page_request.place, conditions)
        ):
            words = (
                f"Place {page_request.place} is read already on this setting. "
                "Another place, or read it again?"
            )
            doubt = (words, None)
        if doubt and given.get("questioned") != typed.strip():
            words, meant = doubt
            return replace(
                page_request,
                question=words,
                suggestion=as_meant(quantity, meant) if meant else "",
                entry=given.get("entry", ""),
            )
        readings.record_reading(
            user_of(request),
            job,
            version_of(request),
            readings.NewReading(
                kind=kind_name,
                place=page_request.place,
                quantity=quantity,
                entry=entry_of(given.get("entry")),
                confidence=one_of(Reading.Confidence, given.get("confidence", "fixture"), "confidence"),
                instrument=given.get("instrument", "")[:80],
                conditions=conditions,
                tool=whole_number(given["tool"], "instrument") if given.get("tool") else None,
            ),
        )
        return PageRequest(station=station_of(kind_name), moves_on=True)

    return change_job(request, number, page_request, store)


@posts_only
def undo(request: HttpRequest, number: int) -> HttpResponse:
    """Undo the last act: a reading, a fit or a move, a mark, a print."""
    page_request = PageRequest(station=request.POST.get("station", ""))

    def take_back(job: Job) -> PageRequest:
        act = undo_actions.undo(user_of(request), job, version_of(request))
        row = act.rows[0]
        return PageRequest(
            station=act.station or page_request.station,
            kind=row.kind if isinstance(row, Reading) else "",
            place=row.place if isinstance(row, Reading) else 0,
            notice=f"Undone: {act.words}. It stays on record.",
        )

    return change_job(request, number, page_request, take_back)


@posts_only
def redo(request: HttpRequest, number: int) -> HttpResponse:
    """Do again what was undone last."""
    page_request = PageRequest(station=request.POST.get("station", ""))

    def again(job: Job) -> PageRequest:
        act = undo_actions.redo(user_of(request), job, version_of(request))
        return PageRequest(station=act.station or page_request.station, notice=f"Again: {act.words}.")

    return change_job(request, number, page_request, again)


@posts_only
def way(request: HttpRequest, number: int) -> HttpResponse:
    """Settle a station by another way of measuring."""
    station, chosen = request.POST.get("station", ""), request.POST.get("way", "")

    def choose(job: Job) -> PageRequest:
        readings.choose_method(user_of(request), job, version_of(request), station, chosen)
        return PageRequest(station=station)

    return change_job(request, number, PageRequest(station=station), choose)


@posts_only
def school(request: HttpRequest, number: int) -> HttpResponse:
    """Say by which school the carrier is judged, where sheet and shop differ."""
    page_request = PageRequest(station=StationName.CARRIER_PRELOAD)
    chosen = request.POST.get("school", "")

    def choose(job: Job) -> PageRequest:
        reason = "chosen where the sheet gives interference"
        carrier.choose_school(user_of(request), job, version_of(request), chosen, reason)
        return page_request

    return change_job(request, number, page_request, choose)


@posts_only
def strike(request: HttpRequest, number: int) -> HttpResponse:
    """Strike any reading of the record, with the reason."""
    user, given = user_of(request), request.POST
    job = queries.job_of(user, number)
    try:
        row = whole_number(given.get("reading"), "reading")
        readings.strike(user, job, version_of(request), row, given.get("reason", ""))
        messages.success(request, "Struck. The reading and the reason stay on record.")
    except (VersionConflict, *USER_ERRORS) as problem:
        messages.error(request, f"{problem} Nothing was changed.")
    return redirect("record", number)


@posts_only
def take_move(request: HttpRequest, number: int) -> HttpResponse:
    """Do the next move."""

    def take(job: Job) -> PageRequest:
        move = moves.apply_move(user_of(request), job, version_of(request))
        words = f"{move.title}: fitted from the drawer, assembly {move.assembly.number}."
        # What is read again comes next, not a step of the teardown that nobody marked.
        after = job.axle_after
        return PageRequest(station=following(after, StationName.RING_GEAR) if after else "", notice=words)

    return change_job(request, number, PageRequest(station=request.POST.get("station", "")), take)


@posts_only
def sign(request: HttpRequest, number: int) -> HttpResponse:
    """Sign a station, with a reason where it is out of range; or the whole sheet."""
    station, reason = request.POST.get("station", ""), request.POST.get("reason", "")
    given = {name: request.POST.get(name, "")[:200] for name in ("verdict", "work", "until")}
    page_request = PageRequest(
        station=station, typed=reason, kept=given if "verdict" in request.POST else {}
    )

    def put(job: Job) -> PageRequest:
        verdict = InspectionVerdict(**given) if "verdict" in request.POST else None
        signing.sign(user_of(request), job, version_of(request), station, reason, verdict)
        return PageRequest(station=station, moves_on=station != StationName.SHEET, notice="Signed.")

    return change_job(request, number, page_request, put)


@posts_only
def reopen(request: HttpRequest, number: int) -> HttpResponse:
    """Open a signed job again."""
    reason = request.POST.get("reason", "")

    def put(job: Job) -> PageRequest:
        signing.reopen(user_of(request), job, version_of(request), reason)
        return PageRequest(notice="Open again. The earlier signature stays on record.")

    return change_job(request, number, PageRequest(station=StationName.SHEET, typed=reason), put)


def take(request: HttpRequest, number: int) -> HttpResponse:
    """Read the chosen instrument into the entry; it is stored by Next, as a typed one is.

    Asked to wait until it is steady, the answer asks again by itself until the reading has held.
    """
    user, given = user_of(request), request.GET
    job = queries.job_of(user, number)
    shown: dict[str, object] = {"value": given.get("value", ""), "job": job, "taken": True}
    try:
        kind = kind_named(given.get("kind", ""))
        shown["unit_symbol"] = display_for(user).unit_for(kind.dimension, bolt=kind.bolt).symbol
        places = whole_number(given["places"], "places", 1, 99) if given.get("places") else 0
        at = _place(given.get("place"))
        read = simulated.read_instrument(job, kind, at, places, given.get("pushed", ""))
        if read is not None:
            name, taken = simulated.SET, read
        else:
            name, wire = instrument_read.chosen(user, given.get("tool", ""))
            taken = line.take(kind, at, places, wire)
        shown |= {"value": taken.text, "instrument": name}
        if given.get("steady"):
            shown |= instrument_read.watch(kind, taken, given.get("seen", ""), given.get("value", ""))
    except AxleError as problem:
        shown["error"] = str(problem)
    return render(request, "bench/partials/value.html", shown)


def _place(text: str | None) -> int:
    return plain_number(text, 1)
