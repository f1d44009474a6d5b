"""The pages of the plan: the week's board, a stretch and what follows from moving it, a person's day."""

from __future__ import annotations

from datetime import date, datetime, timedelta
from math import isfinite, nan
from typing import Any

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils import timezone

from axle.errors import AxleError
from shop.drawing.week_board import week_board
from shop.people import rules
from shop.people.models import Shop, User
from shop.people.request import USER_ERRORS, posts_only, user_of, whole_number
from shop.people.rules import Right
from shop.planning import plan as plans
from shop.planning.board import PlanPage
from shop.planning.models import CalendarLink
from shop.planning.plan import PinRequest, Projected


def plan(request: HttpRequest) -> HttpResponse:
    """The shop's week."""
    return render(request, "planning/plan.html", _context(request))


def _context(request: HttpRequest, **more: Any) -> dict[str, Any]:
    user = user_of(request)
    shop = shop_of(user)
    asked = request.GET if request.method == "GET" else request.POST
    projected = plans.projected(shop)
    today = timezone.localdate()
    week = week_in(asked.get("week"), today)
    shown = PlanPage(projected, week, asked.get("at", ""))
    drawn = shown.board() if projected.inputs.people else None
    return {
        "shown": shown,
        "plan": projected,
        "kept": projected.kept,
        "board": drawn,
        "drawing": week_board(drawn) if drawn and drawn.days else "",
        "narrow": week_board(drawn.narrow) if drawn and drawn.days else "",
        "people": shown.people(),
        "promises": shown.promises(),
        "week": week,
        "before": week - timedelta(days=7),
        "after": week + timedelta(days=7),
        "today": today,
        "table": _table(shown, week),
        "stretch": _stretch(shown, asked.get("at", "")),
        "may_plan": rules.may(user, Right.SCHEDULE),
        "version": projected.kept.version if projected.kept else 0,
        "left_out": [(projected.inputs.jobs[job], why) for job, why in projected.inputs.left_out],
        "links": CalendarLink.objects.of(shop).filter(withdrawn_at=None).select_related("person"),
        "feed": request.session.pop("new-feed", ""),
        **more,
    }


def shop_of(user: User) -> Shop:
    """The person's shop; the guard lets nobody without one on."""
    assert user.shop is not None
    return user.shop


def week_in(text: str | None, today: date) -> date:
    """The first of the seven days that an address names; today where it names none."""
    try:
        named = date.fromisoformat(text or "")
    except ValueError:
        return today
    return named if abs((named - today).days) <= 370 else today


def _table(shown: PlanPage, week: date) -> list[dict[str, Any]]:
    """The board as a table, by person: what a screen reader is told."""
    low = shown.inputs.clock.at(week)
    return [
        {
            "name": person.called,
            "rows": [
                shown.doing(placed)
                for placed in shown.plan.schedule.placed
                if placed.person == name and low <= placed.start < low + 7 * 24 * 60
            ],
        }
        for name, person in shown.inputs.people.items()
    ]


def _stretch(shown: PlanPage, key: str) -> dict[str, Any] | None:
    """The stretch that is shown beside the board."""
    placed = shown.plan.schedule.by_key.get(key)
    if placed is None:
        return None
    job, _, step = key.partition(":")
    doing = shown.doing(placed)
    return {
        "doing": doing,
        "person": placed.person,
        "step": step,
        "can_move": step in {s.step for s in shown.inputs.works[job].steps},
        "pinned": step in shown.inputs.works[job].pins,
        "who": [(name, shown.inputs.people[name].called) for name in shown.problem.stretch[key].who],
        "late": shown.plan.late_minutes(job),
    }


@posts_only
def make(request: HttpRequest) -> HttpResponse:
    """Let the solver make the plan."""
    user = user_of(request)
    try:
        kept = plans.make(user, whole_number(request.POST.get("version"), "plan"))
    except USER_ERRORS as problem:
        return render(request, "planning/plan.html", _context(request, error=str(problem)), status=422)
    found = kept.found
    late = f"{found['late']:.1f} weighted hours late" if found["late"] else "nothing late"
    messages.success(
        request,
        f"The plan is made: {late}; by promise alone it would be {found['simple']:.1f}. "
        f"It took {found['seconds']:.1f} s{', cut off' if found['cut'] else ''}.",
    )
    return redirect("plan")


@posts_only
def move(request: HttpRequest) -> HttpResponse:
    """Show what follows from moving a stretch; keep it where that was seen; let it go."""
    user = user_of(request)
    act = request.POST.get("do", "look")
    try:
        if act == "free":
            plans.unpin(user, whole_number(request.POST.get("job"), "job"), request.POST.get("step", ""))
            messages.success(request, "It is let go: the plan puts it where it fits.")
            return _back(request)
        rules.require_right(user, Right.SCHEDULE)
        wish = _wish(request, user)
        if act == "keep":
            plans.pin(user, wish)
            messages.success(request, "Kept: the plan goes around it.")
            return _back(request)
        shifts = plans.consequence(user, wish)
    except USER_ERRORS as problem:
        return render(
            request,
            "planning/plan.html",
            _context(request, error=str(problem), typed=request.POST.dict()),
            status=422,
        )
    return render(
        request,
        "planning/plan.html",
        _context(request, shifts=shifts, wish=wish, typed=request.POST.dict()),
    )


def _back(request: HttpRequest) -> HttpResponse:
    return redirect(f"{reverse('plan')}?week={week_in(request.POST.get('week'), timezone.localdate())}")


def _wish(request: HttpRequest, user: User) -> PinRequest:
    given = request.POST
    starts_at = None
    if given.get("share"):
        starts_at = _dropped(given["share"], user, given.get("week"), given.get("board") == "narrow")
    elif given.get("day") or given.get("time"):
        starts_at = _moment(given.get("day", ""), given.get("time", ""))
    return PinRequest(
        whole_number(given.get("job"), "job"), given.get("step", ""), given.get("person", ""), starts_at
    )


def _moment(day: str, time: str) -> datetime:
    try:
        naive = datetime.fromisoformat(f"{day}T{time or '08:00'}")
    except ValueError:
        raise AxleError(
            "start", given=f"“{day[:12]} {time[:8]}”", wanted="a day and a time, as 2026-12-01 and 08:00"
        ) from None
    return timezone.make_aware(naive.replace(tzinfo=None))


def _dropped(share: str, user: User, week: str | None, narrow: bool) -> datetime:
    """Where a bar was dropped: a share of the board's width, to the quarter of an hour."""
    try:
        at = float(share)
    except ValueError:
        at = nan
    if not isfinite(at):
        raise AxleError("place on the board", given=f"“{share[:12]}”", wanted="a share of its width")
    projected = plans.projected(shop_of(user))
    shown = PlanPage(projected, week_in(week, timezone.localdate()))
    board = shown.board().narrow if narrow else shown.board()
    minute = round(board.minute(at) / 15) * 15
    return projected.inputs.clock.moment(max(minute, projected.inputs.now))


def person_day(request: HttpRequest, person_id: int) -> HttpResponse:
    """One person's day, step by step."""
    user = user_of(request)
    projected: Projected = plans.projected(shop_of(user))
    person = projected.inputs.people.get(str(person_id))
    if person is None:
        raise Http404("That person is not planned in this shop.")
    today = timezone.localdate()
    try:
        day = date.fromisoformat(request.GET.get("day", ""))
    except ValueError:
        day = today
    if abs((day - today).days) > 370:
        day = today
    shown = PlanPage(projected, day - timedelta(days=day.weekday()))
    return render(
        request,
        "planning/person_day.html",
        {
            "person": person,
            "day": day,
            "before": day - timedelta(days=1),
            "after": day + timedelta(days=1),
            "stretches": shown.day_of(str(person_id), day),
            "now": next(row for row in shown.people() if row.link == request.path),
        },
    )
