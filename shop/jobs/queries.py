"""Reads of jobs; every one inside the shop's fence."""

from django.db.models import Prefetch, Q, QuerySet
from django.http import Http404

from shop.jobs.models import Job, Timer
from shop.people.models import User


def jobs_of(user: User, search: str = "") -> QuerySet[Job]:
    """Jobs of a person's shop, the last touched first, those that match a search."""
    waits = Prefetch("timers", Timer.objects.filter(ended_at=None), to_attr="waits")
    jobs = Job.objects.of(user.shop).filter(practice=False)
    jobs = jobs.select_related("touched_by").prefetch_related(waits)
    jobs = jobs.order_by("state", "-touched_at")
    for word in search.split()[:6]:
        match = Q(title__icontains=word) | Q(customer__icontains=word)
        if word.isascii() and word.isdigit() and len(word) < 9:
            match |= Q(number=int(word))
        jobs = jobs.filter(match)
    return jobs


def job_of(user: User, number: int) -> Job:
    """One job of a person's shop, or not found: another shop's job does not exist here."""
    job: Job | None = (
        Job.objects.of(user.shop).select_related("shop", "touched_by").filter(number=number).first()
    )
    if job is None:
        raise Http404(f"There is no job {number} in this shop.")
    return job
