"""The plan as a calendar: a feed behind a secret address, and one event for a job's promise."""

from __future__ import annotations

import secrets
from datetime import UTC, date, datetime, timedelta
from typing import Final

from django.http import Http404, HttpRequest, HttpResponse
from django.urls import reverse
from django.utils import timezone
from icalendar import Calendar, Event, vText

from shop.config.answers import file_answer
from shop.jobs import clock
from shop.jobs.models import Job
from shop.people import rules
from shop.people.models import Shop, User
from shop.people.rules import Rejected, Right
from shop.planning.board import PlanPage
from shop.planning.models import CalendarLink
from shop.planning.plan import projected

_PRODUCT: Final = "-//Lash//plan//EN"
_REFRESH: Final = timedelta(minutes=30)


def make_link(user: User, person: User | None) -> CalendarLink:
    """Make a secret address: of one's own work, or for builders of anybody's or of the whole shop."""
    if person is None or person.pk != user.pk:
        rules.require_right(user, Right.SCHEDULE)
    if user.shop is None or (person is not None and person.shop_id != user.shop_id):
        raise Rejected("That person does not work in this shop.")
    return CalendarLink.objects.create(
        shop=user.shop,
        person=person,
        secret=secrets.token_urlsafe(32),
        made_at=clock.now(),
        made_by=user.called,
    )


def withdraw_link(user: User, link_id: int) -> None:
    """Withdraw an address: it is gone for whoever has it."""
    link = CalendarLink.objects.of(user.shop).filter(pk=link_id, withdrawn_at=None).first()
    if link is None:
        raise Rejected("That calendar address is gone already.")
    if link.person_id != user.pk:
        rules.require_right(user, Right.SCHEDULE)
    link.withdrawn_at = clock.now()
    link.save(update_fields=["withdrawn_at"])


def feed_of(secret: str, request: HttpRequest) -> HttpResponse:
    """The calendar behind a secret address; nothing says whether an address was ever there."""
    link = CalendarLink.objects.select_related("shop", "person").filter(secret=secret).first()
    gone = link is None or link.withdrawn_at is not None or link.shop.removed_at is not None
    if gone or (link is not None and link.person is not None and not link.person.is_active):
        raise Http404("There is no calendar at this address.")
    assert link is not None
    with timezone.override(link.shop.time_zone):
        return as_file(shop_calendar(link.shop, link.person, request), "lash-plan.ics")


def shop_calendar(shop: Shop, person: User | None, request: HttpRequest) -> Calendar:
    """The plan of the next weeks: one event for each stretch of work, one for each promise."""
    plan = projected(shop)
    shown = PlanPage(plan, plan.inputs.clock.monday)
    calendar = _calendar(f"{shop.name}: {person.called if person else 'plan'}")
    for placed in plan.schedule.placed:
        if person is not None and placed.person != str(person.pk):
            continue
        doing = shown.doing(placed)
        who = plan.inputs.people[placed.person].called
        summary = f"{doing.job.shown_number} {doing.title}" + ("" if person else f" ({who})")
        calendar.add_component(
            _event(
                f"stretch-{shop.identity}-{placed.key}",
                summary,
                doing.start,
                doing.end,
                f"{doing.job.title}. {doing.wait}".strip(),
                request.build_absolute_uri(doing.link),
            )
        )
    if person is None:
        for job in plan.inputs.jobs.values():
            if job.promised_on is not None:
                calendar.add_component(promise_event(job, request))
        for job in Job.objects.of(shop).filter(practice=False).exclude(check_due=None):
            calendar.add_component(check_event(job, request))
    return calendar


def job_calendar(job: Job, request: HttpRequest) -> Calendar:
    """One job's promise, and the check of its break-in, as events."""
    if job.promised_on is None and job.check_due is None:
        raise Rejected("Nothing is promised for this job yet: promise a day first.")
    calendar = _calendar(f"Job {job.shown_number}")
    if job.promised_on is not None:
        calendar.add_component(promise_event(job, request))
    if job.check_due is not None:
        calendar.add_component(check_event(job, request))
    return calendar


def check_event(job: Job, request: HttpRequest) -> Event:
    """The check of a job's break-in, a whole day."""
    assert job.check_due is not None
    link = reverse("break-in", args=[job.number])
    return _whole_day(
        "check", job, f"check of {job.title}", job.check_due, request.build_absolute_uri(link)
    )


def promise_event(job: Job, request: HttpRequest) -> Event:
    """A job's promise, a whole day."""
    assert job.promised_on is not None
    link = reverse("bench", args=[job.number])
    words = f"promised: {job.title}"
    return _whole_day("promise", job, words, job.promised_on, request.build_absolute_uri(link))


def _whole_day(kind: str, job: Job, words: str, day: date, link: str) -> Event:
    """Something of a job that takes a whole day and keeps nobody busy."""
    event = Event()
    event.add("uid", f"{kind}-{job.shop.identity if job.shop else ''}-{job.number}@lash")
    event.add("dtstamp", timezone.now())
    event.add("summary", f"Job {job.shown_number} {words}")
    event.add("dtstart", day)
    event.add("dtend", day + timedelta(days=1))
    event.add("transp", "TRANSPARENT")
    event.add("url", link)
    if job.customer:
        event.add("description", job.customer)
    return event


def as_file(calendar: Calendar, name: str) -> HttpResponse:
    """A calendar as a file."""
    answer = file_answer(calendar.to_ical(), "text/calendar; charset=utf-8", name, shown=True)
    answer["Cache-Control"] = "private, max-age=300"
    return answer


def _calendar(name: str) -> Calendar:
    calendar = Calendar()
    calendar.add("prodid", _PRODUCT)
    calendar.add("version", "2.0")
    calendar.add("method", "PUBLISH")
    calendar["X-WR-CALNAME"] = vText(name)
    calendar.add("refresh-interval", _REFRESH)
    return calendar


def _event(uid: str, summary: str, start: datetime, end: datetime, words: str, link: str) -> Event:
    event = Event()
    event.add("uid", f"{uid}@lash")
    event.add("dtstamp", timezone.now())
    event.add("dtstart", start.astimezone(tz=UTC))
    event.add("dtend", end.astimezone(tz=UTC))
    event.add("summary", summary)
    event.add("description", words)
    event.add("url", link)
    return event
