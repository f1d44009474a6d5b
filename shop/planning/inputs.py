"""What a plan is made from, gathered from the shop's rows."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from datetime import date, datetime, timedelta
from functools import cached_property
from typing import Any, Final

from django.utils import timezone

from axle.errors import AxleError
from axle.measure.units import IMPERIAL
from axle.parts.bill import steps_waiting
from axle.parts.lines import AWAITED, LineState
from axle.procedure.flow import may_do
from axle.schedule.calendars import Span, WorkingTime
from axle.schedule.durations import Assemblies, StepTimes, assemblies_of, learn
from axle.schedule.horizon import with_blocks
from axle.schedule.job_work import JobWork, PartComes, ShopMeans, work_order
from axle.schedule.problem import Problem
from shop.jobs import loading
from shop.jobs.models import Job, MoneySheet, PartLine, Timer
from shop.jobs.work_left import job_work, timed_from
from shop.people.hours import closed_days, hours_of_person, terms_of, week_of
from shop.people.models import Absence, PersonHours, Shop, ShopTerms, User
from shop.planning.models import Pin

# Days over which a plan looks: what is not done by then is not planned.
_DAYS: Final = 400
# A delivery comes by noon of its day, a promise is kept by the evening of its day [min].
NOON: Final = 12 * 60
EVENING: Final = 17 * 60
# So many of the newest signed jobs are learned from.
_LEARNED: Final = 60
# Days after which the answer to a supplement is expected.
_ANSWER_DAYS: Final = 1


@dataclass(frozen=True)
class Clock:
    """The plan's clock: minutes from a Monday's midnight, by the shop's own time.

    :param monday: the day.
    """

    monday: date

    def minute(self, moment: datetime) -> float:
        """A moment on the plan's clock."""
        local = timezone.localtime(moment).replace(tzinfo=None)
        return (local - datetime.combine(self.monday, datetime.min.time())).total_seconds() / 60

    def at(self, day: date, minute: float = 0) -> float:
        """A minute of a day on the plan's clock."""
        return (day - self.monday).days * 24 * 60 + minute

    def moment(self, minute: float) -> datetime:
        """A minute of the plan's clock as a moment."""
        naive = datetime.combine(self.monday, datetime.min.time()) + timedelta(minutes=minute)
        return timezone.make_aware(naive)


@dataclass(frozen=True)
class Inputs:
    """What a plan is made from.

    :param shop: whose.
    :param clock: its clock.
    :param now: the minute that is planned from.
    :param jobs: open jobs by their name in the plan.
    :param people: people who are planned, by their name in the plan.
    :param works: the work left, by job.
    :param means: who and what the shop has.
    :param times: what steps take.
    :param hours: of each person.
    :param left_out: jobs that cannot be planned, with the reason.
    """

    shop: Shop
    clock: Clock
    now: float
    jobs: Mapping[str, Job]
    people: Mapping[str, User]
    works: Mapping[str, JobWork]
    means: ShopMeans
    times: StepTimes
    hours: Mapping[str, WorkingTime]
    left_out: tuple[tuple[str, str], ...]

    @cached_property
    def problem(self) -> Problem:
        """The problem, later jobs in blocks."""
        orders = tuple(work_order(work, self.times, self.means) for work in self.works.values())
        whole = Problem(orders, self.hours, self.means.counted, now=self.now)
        return with_blocks(whole) if orders else whole

    def with_work(self, job: str, work: JobWork) -> Inputs:
        """The same with another work of one job."""
        return replace(self, works={**self.works, job: work})


def gather(shop: Shop, now: datetime | None = None) -> Inputs:
    """What the plan of a shop is made from, as it stands."""
    moment = now or timezone.now()
    today = timezone.localtime(moment).date()
    clock = Clock(today - timedelta(days=today.weekday()))
    terms = terms_of(shop)
    people = planned_people(shop)
    own = {row.user_id: row for row in PersonHours.objects.filter(user__in=people)}
    hours = _hours(people, own, terms, clock)
    means = ShopMeans(
        {str(p.pk): may_do(p.role, own[p.pk].may if p.pk in own else ()) for p in people},
        {str(p.pk): p.role for p in people},
        {name: int(count) for name, count in terms.machines.items()},
    )
    times, assemblies = learned(shop)
    jobs = {
        str(job.number): job
        for job in Job.objects.of(shop).filter(practice=False, state=Job.State.OPEN).order_by("number")
    }
    works, left_out = {}, []
    given = _OpenRows(shop, jobs.values(), clock, moment, people)
    week = week_of(terms.week)
    for name, job in jobs.items():
        work = given.work(job, assemblies, week)
        try:
            work_order(work, times, means)
        except AxleError as problem:
            left_out.append((name, str(problem)))
        else:
            works[name] = work
    return Inputs(
        shop,
        clock,
        clock.minute(moment),
        jobs=jobs,
        people={str(p.pk): p for p in people},
        works=works,
        means=means,
        times=times,
        hours=hours,
        left_out=tuple(left_out),
    )


def planned_people(shop: Shop) -> list[User]:
    """People of a shop who are planned."""
    rows = User.objects.filter(shop=shop, is_active=True).exclude(hours__planned=False)
    return list(rows.order_by("first_name", "username"))


def _hours(
    people: Iterable[User], own: Mapping[int, PersonHours], terms: ShopTerms, clock: Clock
) -> dict[str, WorkingTime]:
    away = list(Absence.objects.filter(user__in=list(people), last__gte=clock.monday))
    closed = closed_days(terms.country, terms.region, clock.monday, _DAYS)
    return {
        str(p.pk): hours_of_person(p, own.get(p.pk), terms, away, (clock.monday, _DAYS), closed)
        for p in people
    }


def kept_work(job: Job) -> dict[str, Any]:
    """The work left on a job as it is kept; worked out once for a job of before."""
    if "work" not in job.summary:
        job.summary = loading.summary(loading.load(job, IMPERIAL))
        Job.objects.filter(pk=job.pk).update(summary=job.summary)
    kept: dict[str, Any] = job.summary["work"]
    return kept


def learned(shop: Shop) -> tuple[StepTimes, Assemblies]:
    """What the shop's own jobs show: what steps take, and how many assemblies."""
    rows = Job.objects.of(shop).filter(practice=False).order_by("-touched_at")[:_LEARNED]
    timed, counts = [], []
    for row in rows.values("number", "state", "summary"):
        summary = row["summary"]
        layout = summary.get("work", {}).get("layout", "")
        timed += timed_from(str(row["number"]), layout, summary.get("timed", ()))
        if row["state"] == Job.State.SIGNED and summary.get("assembly"):
            counts.append(int(summary["assembly"]))
    return learn(timed), assemblies_of(counts)


class _OpenRows:
    """What bears on the work of all jobs: parts, answers, waits, pins; read once for all of them."""

    def __init__(
        self, shop: Shop, jobs: Iterable[Job], clock: Clock, moment: datetime, people: Iterable[User]
    ) -> None:
        rows = list(jobs)
        self.clock, self.moment = clock, moment
        self.people = {str(person.pk) for person in people}
        awaited = [state.value for state in AWAITED]
        self.lines = _by_job(
            PartLine.objects.filter(job__in=rows, state__in=awaited).select_related("supplier")
        )
        supplements = MoneySheet.objects.filter(kind=MoneySheet.Kind.SUPPLEMENT, answers=None)
        self.supplements = _by_job(supplements.filter(job__in=rows))
        self.waits = _by_job(Timer.objects.filter(job__in=rows, ended_at=None, due_at__gt=moment))
        self.pins = _by_job(Pin.objects.of(shop).filter(job__in=rows))

    def work(self, job: Job, assemblies: Assemblies, week: Mapping[int, tuple[Span, ...]]) -> JobWork:
        """The work left on one job, with all that bears on it."""
        work = job_work(kept_work(job), str(job.number), assemblies, self.moment, week)
        promise = None if job.promised_on is None else self.clock.at(job.promised_on, EVENING)
        return replace(
            work,
            parts=self._parts(job, work),
            pins={
                pin.step: (
                    None if pin.starts_at is None else self.clock.minute(pin.starts_at),
                    str(pin.person_id) if pin.person_id else "",
                )
                for pin in self.pins.get(job.pk, ())
            },
            promise=promise,
            weight=float(job.urgency),
        )

    def _parts(self, job: Job, work: JobWork) -> dict[str, PartComes]:
        """By step, the last thing that it waits for."""
        found: dict[str, PartComes] = {}

        def add(steps: Iterable[str], comes: PartComes) -> None:
            for step in steps:
                if step not in found or found[step].at < comes.at:
                    found[step] = comes

        today = timezone.localtime(self.moment).date()
        for line in self.lines.get(job.pk, ()):
            supplier = line.supplier.name if line.supplier else ""
            due = line.due_on
            if due is None and line.supplier is not None:
                due = today + timedelta(days=line.supplier.days)
            if due is not None:
                words = f"{line.words.lower()} ({LineState(line.state).value})"
                at = self.clock.at(max(due, today), NOON)
                add(steps_waiting(line.part, work.steps), PartComes(at, words, supplier))
        for sheet in self.supplements.get(job.pk, ()):
            at = self.clock.at(today + timedelta(days=_ANSWER_DAYS), NOON)
            add([sheet.step], PartComes(at, f"answer to supplement {sheet.number}"))
        for wait in self.waits.get(job.pk, ()):
            at = self.clock.minute(wait.due_at)
            add([step.step for step in work.steps[:1]], PartComes(at, wait.title))
        return found


def _by_job(rows: Iterable[Any]) -> dict[int, list[Any]]:
    found: dict[int, list[Any]] = {}
    for row in rows:
        found.setdefault(row.job_id, []).append(row)
    return found
