"""The pages of a noise: before the axle comes apart, under the hand, and after the road test."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from django.http import HttpRequest, HttpResponse

from axle.errors import AxleError, quoted
from axle.measure.figures import read_number
from axle.noise.account import questions
from axle.noise.by_hand import MOST_TURNS
from axle.noise.lines import Count, Felt, Told
from shop.jobs.actions import noise as noise_actions
from shop.jobs.job_axle import JobAxle
from shop.jobs.models import Job
from shop.noise.hand_page import hand_page
from shop.noise.page import noise_page
from shop.people.request import user_of, whole_number
from shop.worksheets.page import entry_in, version_in, worksheet


def noise(request: HttpRequest, number: int) -> HttpResponse:
    """What was told at arrival, what it is with odds, what decides it."""
    return _page(request, number, "noise", "arrival")


def noise_after(request: HttpRequest, number: int) -> HttpResponse:
    """The same after the road test, beside what it was before."""
    return _page(request, number, "noise-after", "road")


def by_hand(request: HttpRequest, number: int) -> HttpResponse:
    """What the hand feels on the bench, by the way it is turned, and what is counted."""

    def act(job: Job, given: Mapping[str, str]) -> str:
        user, version, entry = user_of(request), version_in(given), entry_in(given)
        assembly = job.assemblies.order_by("-number")[0].number
        match given.get("do", ""):
            case "felt":
                felt = Felt(assembly, given.get("flank", ""), given.get("feel", ""))
                noise_actions.feel(user, job, version, felt, entry)
                return f"{felt.flank.capitalize()} side: {felt.feel}."
            case "count":
                counted = Count(
                    assembly,
                    given.get("feel", ""),
                    given.get("shaft", ""),
                    turns=read_number(given.get("turns", ""), "turns", 0.0, MOST_TURNS),
                    count=read_number(given.get("count", ""), "times felt", 0.0, MOST_TURNS * 100),
                )
                noise_actions.count(user, job, version, counted, entry)
                return f"Counted: {counted.count:g} in {counted.turns:g} turns."
            case "strike":
                line = whole_number(given.get("line"), "line")
                noise_actions.strike(user, job, version, line, given.get("reason", ""), entry)
                return "Struck: it stays to be seen, and counts no more."
            case other:
                raise AxleError("act", given=quoted(other, 20), wanted="one of the page's buttons")

    return worksheet(
        request, number, name="by-hand", template="noise/by_hand.html", gather=hand_page, act=act
    )


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
