"""Reads of jobs; every one inside the shop's fence."""

from datetime import date, timedelta
from typing import Any, Final

from django.db.models import Exists, OuterRef, Prefetch, Q, QuerySet, Sum, TextChoices
from django.http import Http404
from django.urls import reverse

from shop.instruments.models import Instrument
from shop.jobs.models import Job, Timer
from shop.people.models import Shop, User
from shop.specs.models import SpecSheet
from shop.stock.models import ShimLot

# So many open jobs are offered to switch to.
_SWITCHED: Final = 12
# A check of a break-in is told of so many days before it is due.
_TOLD_BEFORE: Final = timedelta(days=14)


class Shown(TextChoices):
    """Which jobs a list shows."""

    OPEN = "open", "Open"
    WAITING = "waiting", "Waiting"
    MINE = "mine", "Mine"
    SIGNED = "signed", "Signed"


def jobs_of(user: User, search: str = "", shown: Shown | None = None) -> QuerySet[Job]:
    """Jobs of a person's shop that match a search.

    Open ones come by their promised date, the soonest first and those without one last; signed ones, and
    the finds of a search, by when they were touched. People are fetched beside the jobs: joined, all of the
    shop would be sorted before the first page is taken.
    """
    running = Timer.objects.filter(ended_at=None)
    jobs = Job.objects.of(user.shop).filter(practice=False).defer("sheet", "arrival", "tools", "fasteners")
    jobs = jobs.prefetch_related(Prefetch("timers", running, to_attr="waits"), "touched_by")
    if shown is Shown.SIGNED:
        jobs = jobs.filter(state=Job.State.SIGNED).order_by("-touched_at")
    elif shown is None:
        jobs = jobs.order_by("-touched_at")
    else:
        jobs = jobs.filter(state=Job.State.OPEN).order_by("promised_on", "number")
    if shown is Shown.WAITING:
        jobs = jobs.filter(Exists(running.filter(job=OuterRef("pk"))))
    if shown is Shown.MINE:
        jobs = jobs.filter(touched_by=user)
    for word in search.split()[:6]:
        match = Q(title__icontains=word) | Q(customer__icontains=word)
        if word.isascii() and word.isdigit() and len(word) < 9:
            match |= Q(number=int(word))
        jobs = jobs.filter(match)
    return jobs


def rows_of(jobs: QuerySet[Job], first: int, count: int) -> list[Job]:
    """So many jobs of a list from its first on, those without a promised date last.

    As two reads, each in the order of its index: one order over both would sort the whole shop.
    """
    if "promised_on" not in jobs.query.order_by:
        return list(jobs[first : first + count])
    dated, undated = jobs.filter(promised_on__isnull=False), jobs.filter(promised_on=None)
    found = list(dated[first : first + count])
    if len(found) < count:
        rest = max(first - dated.count(), 0)
        found += undated[rest : rest + count - len(found)]
    return found


def open_jobs(user: User) -> QuerySet[Job]:
    """The jobs of a shop that were touched last and are not signed: what a bench switches between."""
    jobs = Job.objects.of(user.shop).filter(practice=False, state=Job.State.OPEN)
    return jobs.only("number", "title", "practice").order_by("-touched_at")[:_SWITCHED]


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
        "people": "Add somebody",
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


def checks_due(user: User, today: date) -> list[Job]:
    """Jobs whose break-in is to be checked soon, or should have been."""
    rows = Job.objects.of(user.shop).filter(practice=False, check_due__lte=today + _TOLD_BEFORE)
    return list(rows.order_by("check_due", "number"))
