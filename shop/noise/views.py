"""The page of a noise, before the axle comes apart and after the road test."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from django.http import HttpRequest, HttpResponse

from axle.errors import AxleError, quoted
from axle.noise.account import questions
from axle.noise.lines import Told
from shop.jobs.actions import noise as noise_actions
from shop.jobs.job_axle import JobAxle
from shop.jobs.models import Job
from shop.noise.page import noise_page
from shop.people.request import user_of
from shop.worksheets.page import entry_in, version_in, worksheet


def noise(request: HttpRequest, number: int) -> HttpResponse:
    """What was told at arrival, what it is with odds, what decides it."""
    return _page(request, number, "noise", "arrival")


def noise_after(request: HttpRequest, number: int) -> HttpResponse:
    """The same after the road test, beside what it was before."""
    return _page(request, number, "noise-after", "road")


def _page(request: HttpRequest, number: int, name: str, phase: str) -> HttpResponse:
    def act(job: Job, given: Mapping[str, str]) -> str:
        user, question = user_of(request), given.get("question", "")
        if given.get("do") != "told":
            raise AxleError(
                "act", given=quoted(given.get("do", ""), 20), wanted="one of the page's buttons"
            )
        told = Told(phase, question, given.get("answer", ""))
        noise_actions.tell(user, job, version_in(given), told, entry_in(given))
        known = questions()[question]
        return f"{known.title}: {known.answers.get(told.answer, 'nobody knows')}."

    def gather(axle: JobAxle, query: Mapping[str, str]) -> dict[str, Any]:
        return noise_page(axle, query, phase)

    return worksheet(request, number, name=name, template="noise/noise.html", gather=gather, act=act)
