"""How the bench answers: a change is made, and its page or its piece shows what came of it."""

from collections.abc import Callable
from dataclasses import replace

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from shop.bench.page import Asked, context
from shop.config.http import IN_WORDS, user_of
from shop.jobs import bridge, queries
from shop.jobs.change import Stale
from shop.jobs.models import Job
from shop.people.bridge import display_for


def change_job(
    request: HttpRequest, number: int, asked: Asked, act: Callable[[Job], Asked]
) -> HttpResponse:
    """Make a change and show what came of it; what was typed is never lost."""
    job = queries.job_of(user_of(request), number)
    try:
        return answer(request, number, act(job), settled=job.settled)
    except Stale as stale:
        words = f"{stale} Nothing of yours is lost: look, then send it again."
        return answer(request, number, replace(asked, error=words), status=409)
    except IN_WORDS as problem:
        return answer(request, number, replace(asked, error=str(problem)), status=422)


def answer(
    request: HttpRequest, number: int, asked: Asked, status: int = 200, settled: bridge.Axle | None = None
) -> HttpResponse:
    """The bench of a job: the whole page, or its piece for htmx."""
    user = user_of(request)
    display = display_for(user)
    if settled is None:
        axle = bridge.load(queries.job_of(user, number), display)
    else:
        # In the units of the change's own words nothing need be worked out again.
        axle = settled if settled.display == display else replace(settled, display=display)
    partial = bool(request.headers.get("HX-Request")) and not request.headers.get("HX-Boosted")
    template = "bench/partials/bench.html" if partial else "bench/bench.html"
    return render(request, template, context(axle, user, asked), status=status)
