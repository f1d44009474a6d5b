"""Steps, waits, photos and torques signed at the bench."""

from __future__ import annotations

from dataclasses import replace
from http import HTTPStatus

from django.http import HttpRequest, HttpResponse

from axle.errors import AxleError
from axle.measure.parse import parse
from axle.procedure.names import StationName
from axle.procedure.stations import stations
from axle.workflow.progress import StepMarkKind
from shop.bench.request import PageRequest
from shop.bench.responses import change_job
from shop.jobs.actions import photos, steps, timers, torque
from shop.jobs.actions.steps import OutOfOrder
from shop.jobs.models import Job
from shop.people.bridge import display_for
from shop.people.request import entry_of, one_of, posts_only, user_of, version_of, whole_number


@posts_only
def step(request: HttpRequest, number: int) -> HttpResponse:
    """Mark a step begun, done, taken back, or passed with a signed reason."""
    given = request.POST
    name, station = given.get("step", ""), given.get("station", "")
    shown = station in stations() and not stations()[station].is_measured
    page_request = PageRequest(station=station, step=name, typed=given.get("reason", ""))

    def put(job: Job) -> PageRequest:
        mark = one_of(StepMarkKind, given.get("mark"), "mark")
        try:
            steps.mark_step(
                user_of(request),
                job,
                version_of(request),
                name,
                mark,
                entry_of(given.get("entry")),
                reason=given.get("reason", ""),
                knowing=bool(given.get("knowing")),
            )
        except OutOfOrder as problem:
            return replace(page_request, out_of_order=problem)
        if mark is StepMarkKind.DONE:
            return PageRequest(station=station, moves_on=shown)
        return page_request

    return change_job(request, number, page_request, put)


@posts_only
def station_done(request: HttpRequest, number: int) -> HttpResponse:
    """Mark the steps done that were listed and ticked."""
    station, names = request.POST.get("station", ""), request.POST.getlist("done")

    def put(job: Job) -> PageRequest:
        rest = steps.mark_together(user_of(request), job, version_of(request), station, names)
        words = f"{len(names)} step{'s' if len(names) != 1 else ''} marked done."
        if rest:
            words += f" Still open: {'; '.join(s.step.title.lower() for s in rest)}."
        return PageRequest(station=station, moves_on=True, notice=words)

    return change_job(request, number, PageRequest(station=station, view="together"), put)


@posts_only
def waive_all(request: HttpRequest, number: int) -> HttpResponse:
    """Sign past every open hold with one reason."""
    reason = request.POST.get("reason", "")

    def put(job: Job) -> PageRequest:
        count = steps.waive_all(user_of(request), job, version_of(request), reason)
        return PageRequest(
            station=StationName.SHEET, notice=f"{count} holds signed past: each stands on the sheet."
        )

    return change_job(request, number, PageRequest(station=StationName.SHEET, typed=reason), put)


@posts_only
def timer(request: HttpRequest, number: int) -> HttpResponse:
    """Start a wait."""
    given = request.POST
    page_request = PageRequest(station=given.get("station", ""), step=given.get("step", ""))

    def put(job: Job) -> PageRequest:
        minutes = whole_number(given.get("minutes"), "minutes", 1, timers.LONGEST)
        made = timers.start(user_of(request), job, given.get("title", ""), minutes, given.get("step", ""))
        return replace(page_request, notice=f"Running: {made.title}, {made.minutes} min.")

    return change_job(request, number, page_request, put)


@posts_only
def photo(request: HttpRequest, number: int) -> HttpResponse:
    """Keep a photo on a step; it is sent behind the page, which then hears of it."""
    given = request.POST
    page_request = PageRequest(station=given.get("station", ""), step=given.get("step", ""))

    def put(job: Job) -> PageRequest:
        file = request.FILES.get("photo")
        if file is None:
            raise AxleError("photo", given="nothing", wanted="a picture from the camera or a file")
        photos.keep(
            user_of(request),
            job,
            # A photo takes its time: what was stored meanwhile does not stand against it.
            job.version,
            page_request.step,
            file,
            file.size or 0,
            entry_of(given.get("entry")),
            given.get("caption", ""),
        )
        return replace(page_request, notice="Photo kept, without its location.")

    answer = change_job(request, number, page_request, put)
    if answer.status_code == HTTPStatus.OK and request.headers.get("HX-Request"):
        answer = HttpResponse(status=HTTPStatus.NO_CONTENT)
        answer["HX-Trigger"] = "photo-kept"
    return answer


@posts_only
def tighten(request: HttpRequest, number: int) -> HttpResponse:
    """Sign one stage of one group of fasteners; question a torque that cannot be meant."""
    given = request.POST
    typed, group = given.get("value", ""), given.get("group", "")
    station = given.get("station", "") or StationName.TORQUE
    page_request = PageRequest(station=station, typed=typed)

    def put(job: Job) -> PageRequest:
        user = user_of(request)
        unit = torque.unit_of(job, group, display_for(user))
        quantity = torque.at_the_bolt(
            parse(typed, unit, "torque"),
            given.get("length", ""),
            given.get("adapter", ""),
            given.get("angle", ""),
        )
        doubt = torque.doubt(job, group, quantity)
        if doubt and given.get("questioned") != typed.strip():
            return replace(page_request, question=doubt, entry=given.get("entry", ""))
        torque.sign_stage(
            user,
            job,
            version_of(request),
            group,
            whole_number(given.get("stage"), "stage", 1, 20),
            quantity,
            entry_of(given.get("entry")),
            given.get("words", ""),
        )
        return PageRequest(station=station, moves_on=station == StationName.TORQUE)

    return change_job(request, number, page_request, put)
