"""How the bench answers: a change is made, and its page or its piece shows what came of it."""

from collections.abc import Callable
from dataclasses import replace

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from shop.bench.panels.job_page import context
from shop.bench.request import PageRequest
from shop.jobs import loading, queries
from shop.jobs.actions.job_change import VersionConflict
from shop.jobs.job_axle import JobAxle
from shop.jobs.models import Job
from shop.people.bridge import display_for
from shop.people.request import USER_ERRORS, user_of


def change_job(
    request: HttpRequest, number: int, asked: PageRequest, act: Callable[[Job], PageRequest]
) -> HttpResponse:
    """Make a change and show what came of it; what was typed is never lost."""
    job = queries.job_of(user_of(request), number)
    try:
        return answer(request, number, act(job), axle_after=job.axle_after)
    except VersionConflict as stale:
        words = f"{stale} Nothing of yours is lost: look, then send it again."
        return answer(request, number, replace(asked, error=words), status=409)
    except USER_ERRORS as problem:
        return answer(request, number, replace(asked, error=str(problem)), status=422)


def answer(
    request: HttpRequest,
    number: int,
    asked: PageRequest,
    status: int = 200,
    axle_after: JobAxle | None = None,
) -> HttpResponse:
    """The bench of a job: the whole page, or its piece for htmx."""
    user = user_of(request)
    display = display_for(user)
    if axle_after is None:
        axle = loading.load(queries.job_of(user, number), display)
    else:
        # In the units of the change's own words nothing need be worked out again.
        axle = axle_after if axle_after.display == display else replace(axle_after, display=display)
    partial = bool(request.headers.get("HX-Request")) and not request.headers.get("HX-Boosted")
    template = "bench/partials/bench.html" if partial else "bench/bench.html"
    return render(request, template, context(axle, user, asked), status=status)
