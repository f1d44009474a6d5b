"""The practice bench: the ladder, rounds of questions, simulated axles and how each went."""

from collections.abc import Callable

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse

from axle.errors import AxleError
from axle.practice.ladder import exercise_named
from axle.procedure.stations import stations
from shop.jobs import queries as jobs
from shop.jobs.actions import exercises, practice
from shop.jobs.actions.job_change import VersionConflict
from shop.jobs.models import Job, Pattern, PracticeRun
from shop.people import rules
from shop.people.bridge import display_for
from shop.people.models import User
from shop.people.request import USER_ERRORS, one_of, posts_only, user_of, version_of, whole_number
from shop.people.rules import Right
from shop.practice import page, queries


def ladder(request: HttpRequest) -> HttpResponse:
    """Every exercise, with how a person stands to it."""
    user = user_of(request)
    rungs = queries.rungs_of(queries.runs_of(user))
    return render(
        request,
        "practice/ladder.html",
        {
            "rungs": rungs,
            "done": sum(r.best is not None for r in rungs),
            "may_see": rules.may(user, Right.PEOPLE),
        },
    )


def people(request: HttpRequest) -> HttpResponse:
    """Everybody's progress, for the owner."""
    user = user_of(request)
    if not rules.may(user, Right.PEOPLE):
        messages.error(request, "Only the shop's owner sees everybody's progress.")
        return redirect("practice")
    return render(request, "practice/people.html", page.people_context(queries.progress_of(user)))


@posts_only
def start(request: HttpRequest) -> HttpResponse:
    """Begin an exercise."""
    try:
        run = exercises.start(user_of(request), request.POST.get("exercise", ""))
    except USER_ERRORS as problem:
        messages.error(request, str(problem))
        return redirect("practice")
    return _to(run)


def run(request: HttpRequest, run_id: int) -> HttpResponse:
    """A round of questions, or how an exercise on an axle went."""
    user = user_of(request)
    practice_run = queries.run_of(user, run_id)
    if practice_run.job is None:
        return render(request, "practice/round.html", page.round_context(practice_run))
    if practice_run.ended_at is None:
        return _to(practice_run)
    return render(request, "practice/result.html", page.result_context(practice_run, display_for(user)))


def sound(request: HttpRequest, run_id: int, number: int) -> HttpResponse:
    """The sound of a question."""
    practice_run = queries.run_of(user_of(request), run_id)
    try:
        return HttpResponse(page.sound_asked(practice_run, number), content_type="audio/wav")
    except AxleError:
        raise Http404 from None


@posts_only
def answer(request: HttpRequest, run_id: int) -> HttpResponse:
    """Keep the answer to the question in hand."""
    user = user_of(request)
    practice_run = queries.run_of(user, run_id)
    try:
        given = request.POST.get("answer", "")
        if not given:
            raise AxleError("answer", given="nothing", wanted="one of the answers")
        if request.POST.get("number") == str(len(practice_run.answers) + 1):
            practice.answer(user, practice_run, given[:20], *page.right_answer(practice_run))
    except USER_ERRORS as problem:
        messages.error(request, str(problem))
    return redirect("practice-run", run_id)


@posts_only
def round_hint(request: HttpRequest, run_id: int) -> HttpResponse:
    """A hint to the question in hand."""
    user = user_of(request)
    practice.hint_in_round(user, queries.run_of(user, run_id))
    return redirect("practice-run", run_id)


@posts_only
def hint(request: HttpRequest, number: int) -> HttpResponse:
    """Show the next move of a practice job."""
    return _change(request, number, practice.hint)


@posts_only
def nut(request: HttpRequest, number: int) -> HttpResponse:
    """Turn the pinion nut on."""
    typed = request.POST.get("degrees", "")

    def turn(user: User, job: Job, version: int) -> None:
        practice.turn_nut(user, job, version, whole_number(typed, "turn of the nut, degrees", 1, 360))

    return _change(request, number, turn)


@posts_only
def name_fault(request: HttpRequest, number: int) -> HttpResponse:
    """Say what is wrong with the axle."""
    named = request.POST.get("named", "")

    def name(user: User, job: Job, version: int) -> None:
        practice.name_fault(user, job, version, named)

    return _change(request, number, name)


@posts_only
def make_print(request: HttpRequest, number: int) -> HttpResponse:
    """Print a flank of a practice axle and go on to read its photo."""
    user = user_of(request)
    job = jobs.job_of(user, number)
    try:
        flank = one_of(Pattern.Flank, request.POST.get("flank"), "flank").value
        place = whole_number(request.POST.get("place") or "1", "place", 1, 8)
        kept, _, corners = practice.make_print(user, job, version_of(request), flank, place)
    except (*USER_ERRORS, VersionConflict) as problem:
        messages.error(request, str(problem))
        return redirect(f"{reverse('bench', args=[number])}?station=pattern")
    address = reverse("pattern-photo", args=[number, kept.pk])
    return redirect(f"{address}?flank={flank}&place=1&compound=yellow&corners={corners.replace(' ', '')}")


@posts_only
def finish(request: HttpRequest, number: int) -> HttpResponse:
    """End the exercise and score it."""
    user = user_of(request)
    job = jobs.job_of(user, number)
    try:
        found = practice.finish(user, job, version_of(request))
    except (*USER_ERRORS, VersionConflict) as problem:
        messages.error(request, str(problem))
        return redirect("bench", number)
    return redirect("practice-run", found.pk)


def _to(found: PracticeRun) -> HttpResponse:
    if found.job is None:
        return redirect("practice-run", found.pk)
    goal = exercise_named(found.exercise).goal
    station = "" if len(goal) > 3 else f"?station={goal[0]}"
    return redirect(f"{reverse('bench', args=[found.job.number])}{station}")


def _change(request: HttpRequest, number: int, act: Callable[[User, Job, int], None]) -> HttpResponse:
    user = user_of(request)
    job = jobs.job_of(user, number)
    try:
        act(user, job, version_of(request))
    except (*USER_ERRORS, VersionConflict) as problem:
        messages.error(request, str(problem))
    station = request.POST.get("station", "")
    return redirect(
        reverse("bench", args=[number]) + (f"?station={station}" if station in stations() else "")
    )
