"""The pages of a noise: before the axle comes apart, under the hand, and after the road test."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, render

from axle.errors import AxleError, quoted
from axle.measure.figures import read_number
from axle.noise.account import questions
from axle.noise.by_hand import MOST_TURNS
from axle.noise.lines import Count, HandFelt, Told
from shop.jobs import loading, queries
from shop.jobs.actions import noise as noise_actions
from shop.jobs.actions import recordings
from shop.jobs.job_axle import JobAxle
from shop.jobs.models import Job, SoundFile, SoundWork
from shop.noise import recorded as record_actions
from shop.noise.hand_page import hand_page
from shop.noise.page import noise_page
from shop.noise.recordings_page import recordings_page
from shop.noise.sound_answer import sound_answer
from shop.noise.speed_map import speed_map, time_map
from shop.people.bridge import display_for
from shop.people.request import user_of, whole_number
from shop.people.rules import Rejected
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
                felt = HandFelt(assembly, given.get("flank", ""), given.get("feel", ""))
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


def recordings_before(request: HttpRequest, number: int) -> HttpResponse:
    """Recordings before the axle comes apart."""
    return _recordings(request, number, "recordings", "arrival")


def recordings_after(request: HttpRequest, number: int) -> HttpResponse:
    """Recordings after the road test, beside what was before."""
    return _recordings(request, number, "recordings-after", "road")


def _recordings(request: HttpRequest, number: int, name: str, phase: str) -> HttpResponse:
    def act(job: Job, given: Mapping[str, str]) -> str:
        user = user_of(request)
        axle = loading.load(job, display_for(user))
        files = request.FILES
        match given.get("do", ""):
            case "record":
                sound = files.get("sound")
                if sound is None:
                    raise AxleError("recording", given="no file", wanted="a file of sound")
                return record_actions.record(user, axle, given, phase, sound, files.get("track"))
            case "simulate":
                return record_actions.simulate(user, axle, given, phase)
            case "again":
                return record_actions.again(user, axle, given, files.get("track"))
            case "keep":
                work = recordings.work_of(job, whole_number(given.get("work"), "recording"))
                recordings.keep_verdict(user, job, version_in(given), work, entry_in(given))
                return "Kept: it stands on the build sheet."
            case "strike":
                line = whole_number(given.get("line"), "line")
                reason = given.get("reason", "")
                noise_actions.strike(user, job, version_in(given), line, reason, entry_in(given))
                return "Struck: it stays to be seen, and counts no more."
            case other:
                raise AxleError("act", given=quoted(other, 20), wanted="one of the page's buttons")

    def gather(axle: JobAxle, query: Mapping[str, str]) -> dict[str, Any]:
        return recordings_page(axle, query, phase)

    return worksheet(request, number, name=name, template="noise/recordings.html", gather=gather, act=act)


def recording_state(request: HttpRequest, number: int, work_id: int) -> HttpResponse:
    """How far a recording is; asks again by itself, and shows the page when it is done."""
    job = queries.job_of(user_of(request), number)
    found = _work(job, work_id)
    answer = render(request, "noise/state.html", {"job": job, "work": found})
    if found.state in (SoundWork.State.DONE, SoundWork.State.FAILED):
        answer["HX-Refresh"] = "true"
    return answer


def recording_sound(request: HttpRequest, number: int, sound_id: int) -> HttpResponse:
    """The file of a recording, whole or the part that a player asks for."""
    job = queries.job_of(user_of(request), number)
    row = get_object_or_404(SoundFile, line__job=job, line__pk=sound_id)
    return sound_answer(request, row.file, row.line.values["name"])


def recording_map(request: HttpRequest, number: int, work_id: int) -> HttpResponse:
    """The map of a recording, time or speed across, frequency up, with the axle's orders over it."""
    job = queries.job_of(user_of(request), number)
    found = _work(job, work_id)
    try:
        result = recordings.result_of(found)
    except AxleError:
        raise Http404 from None
    machine = recordings.given_of(found).machine
    orders = [o / result.scale for o in (machine.ring_teeth, 2 * machine.ring_teeth, machine.ratio)]
    if request.GET.get("by") == "speed":
        if not result.map.by_speed:
            raise Http404
        return HttpResponse(speed_map(result.map, orders), content_type="image/png")
    return HttpResponse(time_map(result.map, orders), content_type="image/png")


def _work(job: Job, number: int) -> SoundWork:
    try:
        return recordings.work_of(job, number)
    except Rejected:
        raise Http404 from None
