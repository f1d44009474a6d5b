"""The plan in force: made by the solver, followed from where the work stands, changed knowingly."""

from __future__ import annotations

import time
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from datetime import date, datetime
from math import inf, isfinite
from typing import Any, Final

import numpy as np
from django.db import transaction
from django.utils import timezone

from axle.errors import AxleError
from axle.procedure.flow import machines
from axle.procedure.steps import steps
from axle.schedule.clashes import Hold, ways_out
from axle.schedule.list_schedule import list_schedule
from axle.schedule.problem import Schedule, Stretch, WorkOrder, lateness
from axle.schedule.promise import DRAWS, outlook
from axle.schedule.solver import solve
from shop.jobs import clock
from shop.jobs.models import Job
from shop.people import rules
from shop.people.models import Shop, User
from shop.people.rules import Rejected, Right
from shop.planning.inputs import Clock, Inputs, gather
from shop.planning.models import KeptPlan, Pin

# Shares of the draws whose days are kept with a plan.
_SHARES: Final = tuple(n / 20 for n in range(1, 20))
# A shop of many jobs is drawn fewer times: so many stretches are placed in all, but so often at the least.
_PLACES, _FEWEST = 400_000, 200
# An end that moves by less [min] is not shown, and a start so little ago is now.
_QUARTER: Final = 15


@dataclass(frozen=True)
class Projected:
    """The plan followed from where the work stands now.

    :param inputs: what it is made from.
    :param schedule: times.
    :param kept: the plan in force, or nothing where none was made.
    :param problem: why nothing can be planned, or "".
    """

    inputs: Inputs
    schedule: Schedule
    kept: KeptPlan | None
    problem: str = ""

    def end_day(self, job: str) -> date | None:
        """The day on which a job is done."""
        end = self.schedule.ends.get(job, inf)
        return self.inputs.clock.moment(end).date() if isfinite(end) else None

    def late_minutes(self, job: str) -> float:
        """Working minutes by which a job is late, 0 where it is not or nothing is promised."""
        work = self.inputs.works.get(job)
        if work is None or work.promise is None or job not in self.schedule.ends:
            return 0.0
        worked = self.inputs.problem.shop_hours.worked_at
        return max(worked(self.schedule.ends[job]) - worked(work.promise), 0.0)

    def chance(self, job: str) -> float | None:
        """The chance of a job's promise, as it was said when the plan was made."""
        if self.kept is None:
            return None
        row = self.kept.found.get("jobs", {}).get(job)
        work = self.inputs.works.get(job)
        if not row or work is None or work.promise is None:
            return None
        return chance_by(row["days"], self.inputs.clock.moment(work.promise))

    def day_for(self, job: str, chance: float) -> datetime | None:
        """The moment by which a job is done with a chance, as the plan said."""
        row = (self.kept.found if self.kept else {}).get("jobs", {}).get(job)
        if not row:
            return None
        at = float(np.interp(chance, _SHARES, row["days"]))
        return timezone.localtime(datetime.fromtimestamp(at, tz=timezone.get_current_timezone()))


def chance_by(days: list[float], moment: datetime) -> float:
    """The chance to be done by a moment, from the moments that a plan kept.

    :param days: moment of each share of the draws, in seconds.
    :param moment: by when.
    """
    return float(np.interp(moment.timestamp(), days, _SHARES, left=0.02, right=0.98))


def projected(shop: Shop, now: datetime | None = None) -> Projected:
    """The plan in force, followed from where the work stands."""
    inputs = gather(shop, now)
    kept = KeptPlan.objects.filter(shop=shop).first()
    try:
        return Projected(inputs, followed(inputs, kept), kept)
    except AxleError as problem:
        return Projected(inputs, Schedule((), {}), kept, str(problem))


def followed(inputs: Inputs, kept: KeptPlan | None) -> Schedule:
    """Times of a list of priorities; by the promises where there is no list yet."""
    if kept is None or not inputs.works:
        return list_schedule(inputs.problem)
    prefer = {key: person for key, person in kept.sequence if person in inputs.people}
    return list_schedule(inputs.problem, _priority(inputs, kept), prefer)


def _priority(inputs: Inputs, kept: KeptPlan) -> Callable[[WorkOrder, Stretch], float]:
    """Priority by the place in the list; what is new comes where its promise puts it."""
    place = {key: float(n) for n, (key, _) in enumerate(kept.sequence)}
    first: dict[str, float] = {}
    for key, n in place.items():
        first.setdefault(key.split(":")[0], n)
    promises = {job: work.promise or inf for job, work in inputs.works.items()}

    def of_job(job: str) -> float:
        if job in first:
            return first[job]
        later = [n for other, n in first.items() if promises.get(other, inf) > promises.get(job, inf)]
        return min(later, default=float(len(place))) - 0.5

    def priority(order: WorkOrder, stretch: Stretch) -> float:
        return place.get(stretch.key, of_job(order.job))

    return priority


def make(user: User, version: int) -> KeptPlan:
    """Let the solver make the plan, and say what its promises are worth."""
    rules.require_right(user, Right.SCHEDULE)
    shop = rules.shop_of(user)
    begun = time.perf_counter()
    inputs = gather(shop)
    if not inputs.works:
        raise Rejected("There is no open job that can be planned.")
    kept = KeptPlan.objects.filter(shop=shop).first()
    problem = inputs.problem
    found = solve(problem, kept=[followed(inputs, kept)] if kept else [])
    stretches = sum(len(order.stretches) for order in problem.orders)
    draws = max(_FEWEST, min(DRAWS, _PLACES // max(stretches, 1)))
    said = outlook(problem, found.schedule, inputs.works, inputs.times, draws)
    late = lateness(problem, found.schedule.ends)
    ways = ways_out(problem, late) if late > 0 else ()
    jobs = {
        job: {
            "end": _seconds(inputs, found.schedule.ends[job]),
            "days": [_seconds(inputs, said.by_chance(job, share)) for share in _SHARES],
            "hours": [round(float(np.quantile(said.hours[job], share)), 2) for share in (0.1, 0.5, 0.9)],
        }
        for job in inputs.works
    }
    return _keep(
        user,
        shop,
        version,
        [list(pair) for pair in found.schedule.sequence],
        {
            "jobs": jobs,
            "late": round(late, 2),
            "simple": round(lateness(problem, list_schedule(problem).ends), 2),
            "cut": found.cut,
            "draws": draws,
            "ways": [way_words(inputs, way.hold, way.what, way.words, way.saves) for way in ways],
            "seconds": round(time.perf_counter() - begun, 1),
        },
    )


def way_words(inputs: Inputs, hold: Hold, what: str, words: str, saves: float) -> str:
    """A way out as a sentence."""
    job, _, step = what.partition(":")
    title = steps()[step].title.lower() if step in steps() else "its work"
    saved = f"saves {saves:.1f} working hours of lateness, urgent jobs counted more"
    number = inputs.jobs[job].shown_number if job in inputs.jobs else ""
    if hold is Hold.PIN:
        return f"Let go of the time set for “{title}” of job {number}: {saved}."
    if hold is Hold.PART:
        return f"Get {words} of job {number} at once: {saved}."
    return f"One more of “{machines()[what].title.lower()}”: {saved}."


def _seconds(inputs: Inputs, minute: float) -> float:
    far = inputs.clock.moment(minute if isfinite(minute) else 400 * 24 * 60)
    return far.timestamp()


def _keep(
    user: User, shop: Shop, version: int, sequence: list[list[str]], found: Mapping[str, Any]
) -> KeptPlan:
    with transaction.atomic():
        Shop.objects.select_for_update().get(pk=shop.pk)
        row = KeptPlan.objects.filter(shop=shop).first()
        if row is not None and version != row.version:
            raise Rejected(f"{row.by} made another plan meanwhile: look at it first.")
        row = row or KeptPlan(shop=shop, version=0)
        row.sequence, row.found = sequence, dict(found)
        row.made_at, row.by = clock.now(), user.called
        row.version += 1
        row.save()
    return row


@dataclass(frozen=True)
class PinRequest:
    """A stretch that somebody wants at a time, or done by somebody.

    :param job: its number.
    :param step: the first step of the stretch.
    :param person: user name in the plan, or "".
    :param starts_at: when, or nothing.
    """

    job: int
    step: str
    person: str = ""
    starts_at: datetime | None = None


@dataclass(frozen=True)
class EndMoved:
    """What a wish does to one job.

    :param job: the job.
    :param before: when it was done.
    :param after: when it is done then.
    :param late: working minutes late then.
    """

    job: Job
    before: datetime | None
    after: datetime | None
    late: float

    @property
    def is_later(self) -> bool:
        """Whether it is done later than before."""
        return self.before is not None and self.after is not None and self.after > self.before


def consequence(user: User, wish: PinRequest) -> tuple[EndMoved, ...]:
    """What would follow from a wish, without keeping it: the jobs whose end moves by a quarter or more."""
    shop = rules.shop_of(user)
    inputs = gather(shop)
    _check(inputs, wish)
    kept = KeptPlan.objects.filter(shop=shop).first()
    before = followed(inputs, kept)
    name = str(wish.job)
    work = inputs.works[name]
    at = None if wish.starts_at is None else inputs.clock.minute(wish.starts_at)
    wished = inputs.with_work(name, replace(work, pins={**work.pins, wish.step: (at, wish.person)}))
    after = Projected(wished, followed(wished, kept), kept)
    shifts = []
    for job in inputs.works:
        old, new = before.ends[job], after.schedule.ends[job]
        if abs(new - old) >= _QUARTER or job == name:
            shifts.append(
                EndMoved(
                    inputs.jobs[job],
                    _moment(inputs.clock, old),
                    _moment(inputs.clock, new),
                    after.late_minutes(job),
                )
            )
    return tuple(shifts)


def _moment(of: Clock, minute: float) -> datetime | None:
    return of.moment(minute) if isfinite(minute) else None


def _check(inputs: Inputs, wish: PinRequest) -> None:
    name = str(wish.job)
    if name not in inputs.works:
        raise Rejected(f"Job {wish.job} is not in the plan.")
    if wish.step not in {step.step for step in inputs.works[name].steps} | {"again"}:
        raise AxleError("step", given=f"“{wish.step[:30]}”", wanted="a step that is still to be done")
    if wish.person and wish.person not in inputs.people:
        raise Rejected("That person is not planned in this shop.")
    if wish.starts_at is None and not wish.person:
        raise AxleError("wish", given="neither a time nor a person", wanted="one of the two, or both")
    if wish.starts_at is not None:
        at = inputs.clock.minute(wish.starts_at)
        if at < inputs.now - _QUARTER:
            raise AxleError("start", given=f"{wish.starts_at:%-d %b, %H:%M}", wanted="a time to come")
        if not any(start <= at < end for hours in inputs.hours.values() for start, end in hours.spans):
            raise AxleError(
                "start",
                given=f"{wish.starts_at:%a %-d %b, %H:%M}",
                wanted="a time within somebody's hours",
                do="The hours stand under Shop, Hours and machines.",
            )


def pin(user: User, wish: PinRequest) -> Pin:
    """Keep a wish."""
    rules.require_right(user, Right.SCHEDULE)
    shop = rules.shop_of(user)
    inputs = gather(shop)
    _check(inputs, wish)
    row, _ = Pin.objects.update_or_create(
        shop=shop,
        job=inputs.jobs[str(wish.job)],
        step=wish.step,
        defaults={
            "person": inputs.people.get(wish.person),
            "starts_at": wish.starts_at,
            "by": user.called,
            "at": clock.now(),
        },
    )
    return row


def unpin(user: User, job: int, step: str) -> None:
    """Let go of a wish."""
    rules.require_right(user, Right.SCHEDULE)
    Pin.objects.of(rules.shop_of(user)).filter(job__number=job, step=step).delete()
