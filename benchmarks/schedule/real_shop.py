"""A shop as it runs: what was planned is done by people, in times that the plan does not know.

One step more real than the plan's own draws, and without a figure of theirs: steps take gamma times whose
spread differs by step, each shop has a pace of its own, steps are left open, deliveries are forgotten, the
number of assemblies follows another law, and whoever is free takes what is most urgent then. All that the
plan knows of it is what the shop's finished jobs show.
"""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from axle.procedure.steps import Step
from axle.schedule.durations import Assemblies, StepTimes, Timed, assemblies_of, learn
from axle.schedule.job_work import AGAIN
from axle.schedule.list_schedule import Lists
from axle.schedule.problem import Stretch, WorkOrder
from axle.schedule.promise import outlook
from axle.schedule.solver import Effort, solve
from benchmarks.schedule.shops import Shop

_PLAN = Effort(lists=120, deterministic=0.0, rounds=0)
_FINISHED = 30


@dataclass(frozen=True)
class Row:
    """One promise: what was said of it, and whether it was kept."""

    shop: int
    said: float
    kept: float


class World:
    """What is true of one shop and unknown to its plan.

    :param seed: of everything that is drawn.
    """

    def __init__(self, seed: int) -> None:
        self.random = np.random.default_rng(100_000 + seed)
        self.pace = self.random.gamma(35, 1 / 35)
        self.shapes: dict[str, float] = {}
        first = self.random.uniform(0.15, 0.45)
        self.further = [first, (1 - first) * 0.75, (1 - first) * 0.2, (1 - first) * 0.05]

    def minutes(self, name: str, usual: float) -> float:
        """What a step takes once."""
        shape = self.shapes.setdefault(name, self.random.uniform(2.5, 9.0))
        return usual * self.pace * self.random.gamma(shape, 1 / shape)

    def assemblies(self) -> int:
        """How many further assemblies an axle takes."""
        return int(self.random.choice(4, p=self.further))

    def axle(self) -> float:
        """How stubborn one axle is."""
        return float(self.random.gamma(22, 1 / 22))

    def finished(self, steps: tuple[Step, ...]) -> tuple[StepTimes, Assemblies]:
        """What the shop's finished jobs show."""
        timed, counts = [], []
        for job in range(_FINISHED):
            axle = self.axle()
            counts.append(1 + self.assemblies())
            for step in steps:
                if not step.hands_on or self.random.random() < 0.4:
                    continue
                minutes = self.minutes(step.step, step.hands_on) * axle
                if self.random.random() < 0.04:
                    minutes += self.random.exponential(120)
                timed.append(
                    Timed(
                        str(job),
                        step.step,
                        step.station,
                        step.hands_on,
                        minutes,
                        over_break=False,
                        role="builder",
                        layout="outboard",
                    )
                )
        return learn(timed), assemblies_of(counts)


def kept_promises(seed: int) -> Iterator[Row]:
    """Plan a shop, say the chances, and run it once."""
    world = World(seed)
    shop = Shop(seed, jobs=20 + seed % 12, people=2 + seed % 2, learned=world.finished)
    plan = solve(shop.problem, _PLAN).schedule
    said = outlook(shop.problem, plan, shop.works, shop.times, 300).chances
    place = {key: float(n) for n, (key, _) in enumerate(plan.sequence)}
    lists = Lists(shop.problem)
    rows = [[lists.joined.parts[s.key] for s in order.stretches] for order in lists.orders]
    minutes = [
        _true_minutes(order, row, shop, world) for order, row in zip(lists.orders, rows, strict=True)
    ]
    ends = lists.ends(
        [[place[chain[0].key] for chain in row] for row in rows],
        minutes,
        [[_true_delivery(max(s.not_before for s in chain), world) for chain in row] for row in rows],
    )
    for order, end in zip(lists.orders, ends, strict=True):
        if order.promise is not None:
            yield Row(seed, said[order.job], float(end <= order.promise))


def _true_minutes(
    order: WorkOrder, rows: list[tuple[Stretch, ...]], shop: Shop, world: World
) -> list[float]:
    axle = world.axle()
    return [
        sum(_true(s, order, shop, world) * axle + s.wait for s in chain) - chain[-1].wait for chain in rows
    ]


def _true(stretch: Stretch, order: WorkOrder, shop: Shop, world: World) -> float:
    work = shop.works[order.job]
    known = {step.step: step for step in work.steps}
    parts = stretch.key.endswith("+")
    minutes = sum(world.minutes(name, known[name].hands_on) for name in stretch.steps if name != AGAIN)
    if parts:
        minutes *= 0.8
    if AGAIN in stretch.steps:
        minutes += sum(world.minutes(AGAIN, work.further_minutes) for _ in range(world.assemblies()))
    return minutes


def _true_delivery(said: float, world: World) -> float:
    if said <= 480:
        return said
    late = world.random.exponential(0.12) * said if world.random.random() < 0.6 else -0.05 * said
    return said + late + (3 * 24 * 60 if world.random.random() < 0.03 else 0)
