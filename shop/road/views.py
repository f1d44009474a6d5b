"""Pages of a job's road: oil, road test, break-in, and the leaflet for the customer."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any, Final, Protocol

from django.http import HttpRequest, HttpResponse
from django.template.loader import render_to_string

from axle.errors import AxleError, quoted
from axle.road.lines import RoadNote
from shop.config.answers import file_answer
from shop.jobs import loading, queries
from shop.jobs.actions import noting, road
from shop.jobs.job_axle import JobAxle
from shop.jobs.models import Job, RoadLine
from shop.people.bridge import display_for
from shop.people.request import user_of, whole_number
from shop.reports.pdf import as_pdf
from shop.road import page
from shop.worksheets.page import entry_in, version_in, worksheet


class Reader(Protocol):
    """Reads what one form says."""

    def __call__(self, given: Mapping[str, str], *, metric: bool) -> list[RoadNote]: ...


_READERS: Final[Mapping[str, Reader]] = {
    "heard": page.heard_from,
    "temperature": page.temperatures_from,
    "outcome": page.became_from,
    "oil": page.filled_from,
    "break_in": page.planned_from,
    "leg": page.ticked_from,
}


def _note(request: HttpRequest, job: Job, given: Mapping[str, str]) -> str:
    """Write down what one form of a page says."""
    user, kind = user_of(request), given.get("do", "")
    if kind == "strike":
        line, reason = whole_number(given.get("line"), "line"), given.get("reason", "")
        noting.strike(RoadLine, user, job, version_in(given), line, reason, entry_in(given))
        return "Struck: it stays to be seen, and counts no more."
    if kind not in _READERS:
        raise AxleError("act", given=quoted(kind, 20), wanted="one of the page's buttons")
    metric = display_for(user).is_metric
    road.note_road(user, job, version_in(given), _READERS[kind](given, metric=metric), entry_in(given))
    return "Written down."


def road_test(request: HttpRequest, number: int) -> HttpResponse:
    """What to listen for, temperatures by time and place, what became of the complaint."""
    return _page(request, number, "road-test", "road/road_test.html", page.road_test)


def oil(request: HttpRequest, number: int) -> HttpResponse:
    """Which oil, how much at the housing's angle, who fills it, when it is changed."""
    return _page(request, number, "oil", "road/oil.html", page.oil)


def break_in(request: HttpRequest, number: int) -> HttpResponse:
    """The break-in as dated legs, each ticked by customer or shop."""

    def gather(axle: JobAxle, query: Mapping[str, str]) -> dict[str, Any]:
        sent = request.POST.dict() if request.POST.get("do") == "break_in" else {}
        return page.break_in(axle, query, sent)

    return _page(request, number, "break-in", "road/break_in.html", gather)


def _page(
    request: HttpRequest, number: int, name: str, template: str, gather: Callable[..., dict[str, Any]]
) -> HttpResponse:
    def act(job: Job, given: Mapping[str, str]) -> str:
        return _note(request, job, given)

    return worksheet(request, number, name=name, template=template, gather=gather, act=act)


def leaflet(request: HttpRequest, number: int) -> HttpResponse:
    """The leaflet as a page to be looked at before it is printed."""

    def gather(axle: JobAxle, query: Mapping[str, str]) -> dict[str, Any]:
        del query
        return page.leaflet(axle)

    return worksheet(request, number, name="leaflet", template="road/leaflet.html", gather=gather, act=None)


def leaflet_pdf(request: HttpRequest, number: int) -> HttpResponse:
    """The leaflet on paper."""
    user = user_of(request)
    axle = loading.load(queries.job_of(user, number), display_for(user))
    text = render_to_string("road/leaflet_print.html", page.leaflet(axle), request)
    name = f"job-{axle.job.shown_number}-leaflet.pdf"
    return file_answer(as_pdf(text), "application/pdf", name, shown=True)
