"""Pages over the records of the guided work; each is one form and what it feeds."""

from collections.abc import Mapping
from typing import Any

from django.http import FileResponse, Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, render

from axle.errors import AxleError
from axle.procedure.register import Event
from shop.bench.print_forms import patches_from
from shop.jobs import loading, queries
from shop.jobs.actions import parts, prints, steps
from shop.jobs.actions import timers as timers_actions
from shop.jobs.job_axle import JobAxle
from shop.jobs.models import Job, Pattern, Photo
from shop.people.bridge import display_for
from shop.people.request import USER_ERRORS, one_of, posts_only, user_of, whole_number
from shop.worksheets import findings_page, moves_page, pages, register_page
from shop.worksheets.page import entry_in, version_in, worksheet


def work(request: HttpRequest, number: int) -> HttpResponse:
    """Parts and variants, and the sequence that follows from them, with its reasons."""

    def choose(job: Job, given: Mapping[str, str]) -> str:
        chosen = {
            name.removeprefix("choice-"): v for name, v in given.items() if name.startswith("choice-")
        }
        reason = given.get("reason-school", "")
        fallen = steps.choose(user_of(request), job, version_in(given), chosen, reason, given.get("scope"))
        more = f" No longer possible, back to the usual: {', '.join(fallen).lower()}." if fallen else ""
        return f"The sequence follows your choices.{more}"

    return worksheet(request, number, name="work", gather=pages.work, act=choose)


def tools(request: HttpRequest, number: int) -> HttpResponse:
    """One list of tools, stands, gauges, consumables and parts, ticked before starting."""

    def tick(job: Job, given: Mapping[str, str]) -> str:
        names = [name.removeprefix("tool-") for name in given if name.startswith("tool-")]
        state = {name: given[f"tool-{name}"] for name in names}
        if given.get("all"):
            needs = loading.load(job).plan.needs
            state = {need.tool.tool: "have" for need in needs}
        steps.tick_tools(user_of(request), job, version_in(given), state)
        return "Kept."

    return worksheet(request, number, name="tools", gather=pages.tools, act=tick)


def arrival(request: HttpRequest, number: int) -> HttpResponse:
    """The arrival record, and the pattern as found."""

    def keep(job: Job, given: Mapping[str, str]) -> str:
        user = user_of(request)
        if given.get("flank"):
            prints.mark(
                user,
                job,
                version_in(given),
                flank=given["flank"],
                patches=patches_from(given["flank"], given),
                entry=entry_in(given),
                seen=prints.Seen(taken=Pattern.Taken.AS_FOUND),
            )
            return f"The {given['flank']} flank as found is kept."
        fields = ("complaint", "use", "oil", "gears", "mileage", "unit", "noise", "note")
        steps.record_arrival(user, job, version_in(given), **{name: given.get(name, "") for name in fields})
        return "The arrival is taken down."

    return worksheet(request, number, name="arrival", gather=pages.arrival, act=keep)


def register(request: HttpRequest, number: int) -> HttpResponse:
    """Parts and marks: what came off, and how it is told apart."""
    return _register(request, number, "register")


def back_in(request: HttpRequest, number: int) -> HttpResponse:
    """Everything back in: what came off is asked for again."""
    return _register(request, number, "back-in")


def _register(request: HttpRequest, number: int, name: str) -> HttpResponse:
    def write(job: Job, given: Mapping[str, str]) -> str:
        user = user_of(request)
        if given.get("own"):
            lot, reason = whole_number(given["own"], "piece"), given.get("reason", "")
            what = parts.clear_own(
                user, job, version_in(given), lot, None if given.get("do") == "drawer" else reason
            )
            return f"{what.capitalize()}."
        event = one_of(Event, given.get("event"), "what happened")
        row = parts.write_register(
            user,
            job,
            version_in(given),
            given.get("item", ""),
            event,
            given.get("words", ""),
            display_for(user),
            entry_in(given),
        )
        written = register_page.event_words(row.event)
        return f"Written: {register_page.item_title(row.item).lower()}, {written}."

    def gather(axle: JobAxle, query: Mapping[str, str]) -> dict[str, Any]:
        # What was refused stays in hand.
        asked = {**query, "item": request.POST.get("item", query.get("item", ""))}
        return register_page.register_page(axle, asked, going_back=name == "back-in")

    return worksheet(request, number, name=name, template="register", gather=gather, act=write)


def findings(request: HttpRequest, number: int) -> HttpResponse:
    """What the parts look like, why, and what becomes of each."""

    def find(job: Job, given: Mapping[str, str]) -> str:
        row = parts.find(
            user_of(request),
            job,
            version_in(given),
            given.get("part", ""),
            given.get("sign", ""),
            given.get("decision", ""),
            given.get("reason", ""),
            entry_in(given),
        )
        found = findings_page.finding(row)
        more = f" Also look at: {found['check']}" if row.sign != "sound" else ""
        return f"{found['part']}: {found['sign']}.{more}"

    def gather(axle: JobAxle, query: Mapping[str, str]) -> dict[str, Any]:
        # What was refused stays in hand.
        typed = {name: request.POST[name] for name in ("part", "sign") if name in request.POST}
        return findings_page.findings(axle, {**query, **typed})

    return worksheet(request, number, name="findings", gather=gather, act=find)


def moves(request: HttpRequest, number: int) -> HttpResponse:
    """What moves on this axle when a shim changes; nothing is stored."""
    if request.headers.get("HX-Request"):
        user = user_of(request)
        axle = loading.load(queries.job_of(user, number), display_for(user))
        shown = moves_page.of_job(axle, request.GET.dict())
        return render(request, "worksheets/partials/moves.html", shown)
    return worksheet(request, number, name="moves", gather=moves_page.of_job, act=None)


def what_moves(request: HttpRequest) -> HttpResponse:
    """What moves on an axle of any layout."""
    display = display_for(user_of(request))
    try:
        shown = moves_page.of_layout(request.GET.dict(), display)
    except AxleError as problem:
        shown = moves_page.of_layout({}, display) | {"error": str(problem)}
        return render(request, "worksheets/what_moves.html", shown, status=422)
    part = request.headers.get("HX-Request") and not request.headers.get("HX-Boosted")
    return render(
        request, "worksheets/partials/moves.html" if part else "worksheets/what_moves.html", shown
    )


def photos(request: HttpRequest, number: int) -> HttpResponse:
    """Every photo of the job, by step."""
    return worksheet(request, number, name="photos", gather=pages.photos, act=None)


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
    return render(request, "worksheets/partials/timers.html", pages.timers(user_of(request)))


@posts_only
def end_timer(request: HttpRequest, number: int, timer_id: int) -> HttpResponse:
    """Say that a wait was heard, or stop it."""
    user = user_of(request)
    job = queries.job_of(user, number)
    try:
        timers_actions.end(user, job, timer_id)
    except USER_ERRORS:
        # Somebody else's wait, or one that is gone: the list itself tells.
        return render(request, "worksheets/partials/timers.html", pages.timers(user), status=422)
    return render(request, "worksheets/partials/timers.html", pages.timers(user))


def _photo(request: HttpRequest, number: int, photo_id: int) -> Photo:
    job = queries.job_of(user_of(request), number)
    photo: Photo = get_object_or_404(Photo, job=job, pk=photo_id)
    if not photo.original.storage.exists(str(photo.original.name)):
        raise Http404
    return photo
