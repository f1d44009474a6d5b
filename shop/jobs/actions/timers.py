"""Waits: started, heard or stopped; they run in the records, not in a page."""

from datetime import timedelta

from django.db import transaction
from django.db.models import QuerySet

from axle.errors import AxleError, quoted
from shop.jobs import clock
from shop.jobs.models import Job, Timer
from shop.people.models import User
from shop.people.rules import Rejected

LONGEST = 24 * 60


def start(user: User, job: Job, title: str, minutes: int, step: str = "") -> Timer:
    """Start a wait."""
    title = title.strip()
    if len(title) < 3:
        raise AxleError("wait", given=quoted(title), wanted="what is waited for")
    if not 1 <= minutes <= LONGEST:
        raise AxleError("wait", given=f"{minutes} minutes", wanted=f"1 to {LONGEST} minutes")
    if job.shop_id != user.shop_id:
        raise Rejected("There is no such job in this shop.")
    now = clock.now()
    return Timer.objects.create(
        job=job,
        step=step[:40],
        title=title[:60],
        minutes=minutes,
        started_at=now,
        due_at=now + timedelta(minutes=minutes),
        by=user.called,
    )


def end(user: User, job: Job, timer_id: int) -> Timer:
    """Say that a wait was heard, or stop it before it is due."""
    with transaction.atomic():
        timer = Timer.objects.select_for_update().filter(pk=timer_id, job=job, job__shop=user.shop).first()
        if timer is None:
            raise Rejected("There is no such wait on this job.")
        if timer.ended_at is None:
            timer.ended_at, timer.ended_by = clock.now(), user.called
            timer.save(update_fields=["ended_at", "ended_by"])
    return timer


def running(user: User) -> QuerySet[Timer]:
    """Every wait of a person's shop that nobody has ended, the next due first."""
    return Timer.objects.filter(job__shop=user.shop, ended_at=None).select_related("job").order_by("due_at")
