"""Random shops: open jobs of real procedures, some begun, with people, machines, parts and promises."""

import random
from collections.abc import Callable
from dataclasses import replace
from datetime import date

from axle.layout import Layout, every_layout
from axle.procedure.choices import Build
from axle.procedure.flow import may_do
from axle.procedure.sequence import plan
from axle.procedure.steps import Step
from axle.schedule.calendars import DAY, WorkingTime, working_time
from axle.schedule.durations import Assemblies, StepTimes, assemblies_of
from axle.schedule.horizon import with_blocks
from axle.schedule.job_work import JobWork, PartComes, ShopMeans, work_order
from axle.schedule.problem import BENCH, Problem

_WEEK = dict.fromkeys(range(5), ((480, 720), (780, 1020)))
_MONDAY = date(2026, 11, 23)
_ROLES = ("owner", "builder", "apprentice", "builder")
_EVENING = 17 * 60


class Shop:
    """One random shop: its jobs, its people, and the problem that its plan solves.

    :param seed: of everything that is drawn.
    :param jobs: open jobs.
    :param people: 2 or more.
    :param learned: what the shop's finished jobs show, from the steps of an axle; nothing for a new shop.
    """

    def __init__(
        self,
        seed: int,
        jobs: int = 30,
        people: int = 2,
        learned: Callable[[tuple[Step, ...]], tuple[StepTimes, Assemblies]] | None = None,
    ) -> None:
        draw = random.Random(seed)
        names = [f"person{n}" for n in range(people)]
        self.roles = dict(zip(names, _ROLES, strict=False))
        self.means = ShopMeans(
            {
                name: may_do(role, ["all"] if role != "apprentice" else [])
                for name, role in self.roles.items()
            },
            self.roles,
            {BENCH: draw.choice([3, 4]), "press": draw.choice([1, 1, 0])},
        )
        layouts = list(every_layout())
        whole = plan(Build(layouts[0])).steps
        self.times, assemblies = learned(whole) if learned else (StepTimes(), assemblies_of([]))
        drafts = [_draft(draw, str(n), draw.choice(layouts), assemblies) for n in range(jobs)]
        minutes = sum(work_order(w, self.times, self.means).minutes for w in drafts)
        load = draw.uniform(0.80, 0.95)
        span = minutes / people / load
        self.hours = working_time(_MONDAY, int(span / 480 * 7 / 5 * 2) + 60, _WEEK)
        self.works = {w.job: _promised(draw, w, self.hours, span) for w in drafts}
        self.load = load
        orders = tuple(work_order(w, self.times, self.means) for w in self.works.values())
        self.whole = Problem(orders, dict.fromkeys(names, self.hours), self.means.counted, now=480)
        self.problem = with_blocks(self.whole)


def _draft(draw: random.Random, job: str, layout: Layout, assemblies: Assemblies) -> JobWork:
    steps = plan(Build(layout)).steps
    begun = draw.random() < 0.1
    left = steps[draw.randrange(len(steps) // 2) if begun else 0 :]
    return JobWork(
        job,
        plan(Build(layout)).stations,
        layout.carrier_by.value,
        left,
        further=assemblies.further(0, None),
        further_minutes=draw.choice([35.0, 60.0, 90.0]),
        weight=draw.choice([1, 1, 1, 2, 3]),
        is_apart=begun and left[0].station not in {"arrival", "teardown"} and job in {"0", "1", "2"},
    )


def _promised(draw: random.Random, work: JobWork, hours: WorkingTime, span: float) -> JobWork:
    due = hours.clock_at(draw.uniform(0.12, 1.0) * span)
    parts = {}
    if draw.random() < 0.3:
        late_step = work.steps[len(work.steps) // 3]
        parts[late_step.step] = PartComes(
            draw.uniform(0.1, 0.5) * due, "bearings", f"supplier{draw.randrange(3)}"
        )
    return replace(work, promise=due // DAY * DAY + _EVENING, parts=parts)
