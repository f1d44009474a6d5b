"""What a shop has learned from its finished jobs, and what is kept of each."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from functools import lru_cache

from axle.learning.learned import JobFigure, LearnedWidth, learn, priors_of
from axle.state.axle_state import AxleState
from axle.state.priors import Priors, Quantity
from axle.stations.job_figures import job_figures
from shop.jobs import clock
from shop.jobs.models import Job
from shop.jobs.models import JobFigure as Row
from shop.people import rules
from shop.people.models import Shop, User
from shop.people.rules import Rejected, Right

# So many of the newest jobs are learned from: a shop changes its hands and its instruments.
_NEWEST = 60


@dataclass(frozen=True)
class JobRow:
    """A finished job and what it showed.

    :param number: of the job.
    :param title: what it is called.
    :param figures: by quantity.
    :param used: whether it is learned from.
    """

    number: int
    title: str
    figures: tuple[JobFigure, ...]
    used: bool


def keep(job: Job, state: AxleState) -> None:
    """Keep what a job showed once its sheet is signed; a job that somebody switched off stays so."""
    if job.practice:
        return
    off = Row.objects.filter(job=job, used=False).exists()
    Row.objects.filter(job=job).delete()
    Row.objects.bulk_create(
        Row(job=job, quantity=f.quantity.value, value=f.value, std=f.std, used=not off, at=clock.now())
        for f in job_figures(state)
    )


def priors_for(job: Job) -> Priors:
    """What is held of a job before it is read: its shop's other finished jobs, else the starting widths."""
    if job.practice or job.shop_id is None:
        return Priors()
    rows = Row.objects.filter(job__shop=job.shop_id, used=True).exclude(job=job)
    return _priors(tuple(_figures(rows)))


def widths_of(shop: Shop | None) -> tuple[LearnedWidth, ...]:
    """Every quantity that a shop has learned, beside what was held before."""
    return learn(_figures(Row.objects.filter(job__shop=shop, used=True)))


def jobs_of(shop: Shop | None) -> tuple[JobRow, ...]:
    """Finished jobs of a shop with what each showed, the newest first."""
    found: dict[int, list[Row]] = {}
    rows = Row.objects.filter(job__shop=shop).select_related("job").order_by("-job_id", "quantity")
    for row in rows:
        found.setdefault(row.job_id, []).append(row)
    return tuple(
        JobRow(
            own[0].job.number,
            str(own[0].job),
            figures=tuple(_figure(row) for row in own),
            used=own[0].used,
        )
        for own in found.values()
    )


def switch(user: User, number: int, *, used: bool) -> None:
    """Learn from a finished job, or leave it out."""
    rules.require_right(user, Right.SHOP)
    rows = Row.objects.filter(job__shop=user.shop, job__number=number)
    if not rows.exists():
        raise Rejected(
            "That job has shown nothing that is learned from: only finished jobs are on the list."
        )
    rows.update(used=used, switched_by=user)


def _figures(rows: Iterable[Row]) -> list[JobFigure]:
    newest = sorted(rows, key=lambda row: -row.pk)
    jobs = list(dict.fromkeys(row.job_id for row in newest))[:_NEWEST]
    return [_figure(row) for row in newest if row.job_id in jobs]


def _figure(row: Row) -> JobFigure:
    return JobFigure(Quantity(row.quantity), row.value, row.std)


@lru_cache(maxsize=128)
def _priors(figures: tuple[JobFigure, ...]) -> Priors:
    """The same rows give the same figures: a page asks on every press."""
    return priors_of(learn(figures))
