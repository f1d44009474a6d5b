"""Reads of jobs; every one inside the shop's fence."""

from typing import Any

from django.db.models import Prefetch, Q, QuerySet, Sum
from django.http import Http404
from django.urls import reverse

from shop.instruments.models import Instrument
from shop.jobs.models import Job, Timer
from shop.people.models import Shop, User
from shop.specs.models import SpecSheet
from shop.stock.models import ShimLot


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


def first_things(user: User) -> list[dict[str, Any]]:
    """What a shop needs before its first job, and how much of each is there."""
    shop = user.shop
    pieces = ShimLot.objects.of(shop).aggregate(pieces=Sum("quantity"))["pieces"] or 0
    # What it is, how many there are, how many do, why, and where it is put in.
    lines = (
        ("People", _people(shop), 2, "Builders sign, apprentices measure.", "people"),
        ("A spec sheet", SpecSheet.objects.of(shop).count(), 1, "What an axle is built to.", "new-sheet"),
        ("Shims", pieces, 1, "As mic'd: packs are chosen from what is there.", "drawer"),
        ("Gauges", _gauges(shop), 1, "What each reads to, and when it is due.", "instruments"),
        ("The first job", _jobs(shop), 1, "What arrived, and what it is built to.", "new-job"),
    )
    acts = {
        "people": "Let somebody in",
        "new-sheet": "New sheet",
        "drawer": "Fill the drawer",
        "instruments": "Write them down",
        "new-job": "Open it",
    }
    return [
        {
            "title": title,
            "done": have >= enough,
            "have": f"{have} so far",
            "why": why,
            "link": reverse(page),
            "act": acts[page],
        }
        for title, have, enough, why, page in lines
    ]


def _people(shop: Shop | None) -> int:
    return User.objects.filter(shop=shop, is_active=True).count()


def _gauges(shop: Shop | None) -> int:
    return Instrument.objects.of(shop).filter(retired=False).count()


def _jobs(shop: Shop | None) -> int:
    return Job.objects.of(shop).filter(practice=False).count()


def job_of(user: User, number: int) -> Job:
    """One job of a person's shop, or not found: another shop's job does not exist here."""
    job: Job | None = (
        Job.objects.of(user.shop).select_related("shop", "touched_by").filter(number=number).first()
    )
    if job is None:
        raise Http404(f"There is no job {number} in this shop.")
    return job
