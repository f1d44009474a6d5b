"""The chance to keep a promise, and the hours of a job: draws over all that is not known."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Final

import numpy as np
from numpy.typing import NDArray
from scipy.stats import norm

from axle.errors import AxleError
from axle.procedure.steps import step_named
from axle.schedule.durations import StepTimes, assumptions
from axle.schedule.job_work import AGAIN, JobWork, PartComes
from axle.schedule.list_schedule import Lists
from axle.schedule.problem import Problem, Schedule, Stretch

Minutes = NDArray[np.float64]
DRAWS: Final = 1000
_SEED: Final = 20
# A delivery that is late is late by a share of its time, at least of one day [min].
_SHORTEST_DELIVERY: Final = 24 * 60.0


@dataclass(frozen=True)
class Range80:
    """What is to be expected of a figure that is not known: never one figure.

    :param median: in the middle of the draws.
    :param low: one in ten is below.
    :param high: one in ten is above.
    """

    median: float
    low: float
    high: float


def range_of(values: Minutes) -> Range80:
    """The middle and the 80 % range of draws.

    :param values: one or more draws.

    >>> range_of(np.arange(101.0)).high
    90.0
    """
    low, median, high = np.quantile(values, [0.1, 0.5, 0.9])
    return Range80(float(median), float(low), high=float(high))


@dataclass(frozen=True)
class Outlook:
    """When jobs are done, draw by draw.

    :param done: clock minute by job, shape (draws,).
    :param hours: hours of work by job, shape (draws,).
    :param promises: clock minute by job that has a promise.
    """

    done: Mapping[str, Minutes]
    hours: Mapping[str, Minutes]
    promises: Mapping[str, float]

    @cached_property
    def chances(self) -> Mapping[str, float]:
        """The chance of each promise: the share of draws that keep it, never quite 0 or 1."""
        return {job: self.chance_of(job, promise) for job, promise in self.promises.items()}

    def chance_of(self, job: str, promise: float) -> float:
        """The chance that a job is done by a time.

        :param job: which.
        :param promise: clock minute.
        """
        draws = self.done[job]
        return float((np.sum(draws <= promise) + 0.5) / (draws.size + 1))

    def by_chance(self, job: str, chance: float) -> float:
        """The clock minute by which a job is done with a chance.

        :param job: which.
        :param chance: 0 to 1.
        """
        return float(np.quantile(self.done[job], chance))


def outlook(
    problem: Problem,
    schedule: Schedule,
    works: Mapping[str, JobWork],
    times: StepTimes,
    draws: int = DRAWS,
) -> Outlook:
    """Follow a plan's priorities over draws of what steps, assemblies and deliveries take.

    :param problem: what was planned.
    :param schedule: the plan.
    :param works: the work left, by job.
    :param times: what steps take, with their width.
    :param draws: number of draws, 1 or more.
    :returns: draws of each job's end and hours; the same for the same plan.
    :source: Monte Carlo under the plan's list as a policy: whoever is free takes the first that can be
        begun; widths of ``data/spreads.toml`` and of the shop's own jobs.
    """
    drawn = _Drawn(problem, schedule, works, times, draws)
    lists = Lists(problem)
    place = {key: float(n) for n, (key, _) in enumerate(schedule.sequence)}
    rows = [[lists.joined.parts[s.key] for s in order.stretches] for order in lists.orders]
    priorities = [[place[chain[0].key] for chain in row] for row in rows]
    minutes = [[drawn.joined(chain) for chain in row] for row in rows]
    earliest = [[drawn.parts_of(chain) for chain in row] for row in rows]
    done = np.full((len(lists.orders), draws), np.inf)
    for number in range(draws):
        try:
            done[:, number] = lists.ends(
                priorities,
                [[float(m[number]) for m in row] for row in minutes],
                [
                    [
                        known if at is None else float(at[number])
                        for at, known in zip(row, plan, strict=True)
                    ]
                    for row, plan in zip(earliest, lists.earliest, strict=True)
                ],
            )
        except AxleError:
            # The hours of the plan do not reach so far: what is not done is late.
            continue
    hours: dict[str, Minutes] = defaultdict(lambda: np.zeros(draws))
    for order in problem.orders:
        for stretch in order.stretches:
            hours[order.job] = hours[order.job] + drawn.minutes[stretch.key] / 60
    promises = {o.job: o.promise for o in problem.orders if o.promise is not None}
    return Outlook({order.job: done[n] for n, order in enumerate(lists.orders)}, dict(hours), promises)


class _Drawn:
    """Draws of what is not known: a factor of each axle, person and supplier is shared by all its steps."""

    def __init__(
        self,
        problem: Problem,
        schedule: Schedule,
        works: Mapping[str, JobWork],
        times: StepTimes,
        draws: int,
    ) -> None:
        self.random = np.random.default_rng(_SEED)
        self.draws, self.times, self.works = draws, times, works
        width = assumptions().width
        self.person = {name: self._factor(width.person) for name in problem.people}
        self.suppliers: dict[str, Minutes] = {}
        self.now = problem.now
        self.minutes: dict[str, Minutes] = {}
        by = {placed.key: placed.person for placed in schedule.placed}
        for order in problem.orders:
            axle = self._factor(width.axle)
            for stretch in order.stretches:
                shared = axle * self.person[by[stretch.key]]
                self.minutes[stretch.key] = self._stretch(works.get(order.job), stretch, shared)

    def _factor(self, width: float) -> Minutes:
        """A factor whose mean is 1."""
        return _factor(self.random, width, self.draws)

    def _stretch(self, work: JobWork | None, stretch: Stretch, shared: Minutes) -> Minutes:
        """Minutes of a stretch: the sum over its steps, each with its own draw."""
        weights = [self._usual(name) for name in stretch.steps if name != AGAIN]
        total = sum(weights)
        found = np.zeros(self.draws)
        if AGAIN in stretch.steps and work is not None:
            found = self._further(work)
            planned = work.expected_further * work.further_minutes if total else stretch.minutes
        else:
            planned = 0.0
        rest = max(stretch.minutes - planned, 0.0)
        if not weights:
            plain = rest * self._factor(self.times.width) if rest and AGAIN not in stretch.steps else 0.0
            return (found + plain) * shared
        shares = [rest * w / total if total else rest / len(weights) for w in weights]
        for number, share in enumerate(shares):
            begun = stretch.begun and number == 0
            found = found + (self._left(work, share) if begun else share * self._factor(self.times.width))
        return found * shared

    @staticmethod
    def _usual(name: str) -> float:
        return float(step_named(name).hands_on)

    def _left(self, work: JobWork | None, share: float) -> Minutes:
        """What is left of a step that was begun: it has lasted so long already, so it lasts longer."""
        elapsed = work.begun.minutes if work is not None and work.begun is not None else 0.0
        width = self.times.width
        median = (share + elapsed) * np.exp(-(width**2) / 2)
        if elapsed <= 0:
            return share * self._factor(width)
        low = float(norm.cdf(np.log(elapsed / median) / width))
        drawn = norm.ppf(low + (1 - low) * self.random.random(self.draws))
        whole = median * np.exp(width * np.clip(drawn, -6, 6))
        return np.asarray(np.maximum(whole - elapsed, 0.0))

    def _further(self, work: JobWork) -> Minutes:
        """Minutes of further assemblies: how many by the judgement's chances, each with its own draw."""
        chances = np.asarray(work.further) / sum(work.further)
        numbers = self.random.choice(len(chances), size=self.draws, p=chances)
        found = np.zeros(self.draws)
        for number in range(1, len(chances)):
            found = found + np.where(
                numbers >= number, work.further_minutes * self._factor(self.times.width), 0
            )
        return found

    def joined(self, chain: Sequence[Stretch]) -> Minutes:
        """Minutes of what follows at once, its waits with it."""
        found = np.zeros(self.draws)
        for number, stretch in enumerate(chain):
            last = number == len(chain) - 1
            found = found + self.minutes[stretch.key] + (0.0 if last else stretch.wait)
        return found

    def parts_of(self, chain: Sequence[Stretch]) -> Minutes | None:
        """When the parts are here that stretches wait for; nothing where none are wanted."""
        comes: list[PartComes] = []
        for stretch in chain:
            work = self.works.get(stretch.key.split(":")[0])
            comes += [work.parts[name] for name in stretch.steps if work and name in work.parts]
        if not comes:
            return None
        at = np.full(self.draws, self.now)
        for part in comes:
            at = np.maximum(at, self._arrival(part))
        return at

    def _arrival(self, part: PartComes) -> Minutes:
        """When a delivery comes: about its day, a supplier's all alike early or late."""
        width = assumptions().width
        if part.supplier not in self.suppliers:
            self.suppliers[part.supplier] = self._factor(width.supplier)
        left = max(part.at - self.now, 0.0)
        if left <= 0:
            return np.full(self.draws, part.at)
        scatter = max(left, _SHORTEST_DELIVERY)
        late = scatter * (self.suppliers[part.supplier] * self._factor(width.delivery) - 1)
        return np.asarray(np.maximum(part.at + late, self.now))


def hours_of(work: JobWork, times: StepTimes, draws: int = DRAWS) -> Minutes:
    """Hours of work of one job by itself: what an estimate is made from.

    :param work: the work left.
    :param times: what steps take.
    :param draws: number of draws.
    :returns: hours, shape (draws,); the same for the same job.
    """
    random = np.random.default_rng(_SEED)
    width = assumptions().width
    shared = _factor(random, float(np.hypot(width.axle, width.person)), draws)
    minutes = np.array([times.minutes(step, layout=work.layout) for step in work.steps])
    each = np.exp(times.width * random.standard_normal((draws, len(minutes))) - times.width**2 / 2)
    found = each @ minutes
    chances = np.asarray(work.further) / sum(work.further)
    numbers = random.choice(len(chances), size=draws, p=chances)
    for number in range(1, len(chances)):
        again = work.further_minutes * _factor(random, times.width, draws)
        found = found + np.where(numbers >= number, again, 0.0)
    return np.asarray(found * shared / 60)


def _factor(random: np.random.Generator, width: float, draws: int) -> Minutes:
    """Lognormal factors whose mean is 1."""
    return np.asarray(np.exp(width * random.standard_normal(draws) - width**2 / 2))
