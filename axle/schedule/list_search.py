"""Searches the lists of priorities for a better plan: annealing over the order of the jobs."""

from __future__ import annotations

import math
import random
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

from axle.schedule.list_schedule import Lists
from axle.schedule.problem import Goal, Problem, Schedule

# Share of the best cost that a step may lose at the start.
_WARMTH: Final = 0.03
# Steps without a better plan after which the search goes back to the best.
_PATIENCE: Final = 150
# Places by which a job moves in the list, and how far up a late one goes.
_FAR, _UP = 8, 6


@dataclass(frozen=True)
class _Tried:
    cost: float
    late: tuple[float, ...]
    rank: tuple[int, ...]


class ListSearch:
    """Lists of jobs by priority, judged by the plan that each gives.

    :param problem: what is planned.
    :param seed: of everything that is drawn.
    """

    def __init__(self, problem: Problem, seed: int) -> None:
        self.problem, self.lists = problem, Lists(problem)
        self.draw = random.Random(seed)  # noqa: S311  # a search, nothing secret
        self.orders = self.lists.orders
        hours = problem.shop_hours
        self.due = [math.inf if o.promise is None else hours.worked_at(o.promise) for o in self.orders]

    def run(self, tries: int, start: Sequence[str] = ()) -> Schedule:
        """The best plan of so many lists.

        :param tries: lists that are tried.
        :param start: jobs in an order to begin from, beside the usual ones.
        """
        best = here = min((self._try(rank) for rank in self._starts(start)), key=lambda tried: tried.cost)
        since = 0
        for number in range(tries if len(self.orders) > 1 else 0):
            tried = self._try(self._moved(here))
            warmth = max(_WARMTH * best.cost * (1 - number / tries) ** 2, 1e-9)
            if tried.cost <= here.cost or self.draw.random() < math.exp((here.cost - tried.cost) / warmth):
                here = tried
            since += 1
            if tried.cost < best.cost - 1e-9:
                best, since = tried, 0
            if since > _PATIENCE:
                here, since = best, 0
        return self.lists.schedule(self._priorities(best.rank))

    def _starts(self, start: Sequence[str]) -> list[tuple[int, ...]]:
        """Orders to begin from: by promise, and by what is left until it, more or less of the work off."""
        jobs = range(len(self.orders))
        work = [order.minutes for order in self.orders]
        weight = [order.weight for order in self.orders]
        ranks = [tuple(sorted(jobs, key=lambda i, f=f: self.due[i] - f * work[i])) for f in (0.0, 1.5, 2.0)]  # type: ignore[misc]
        ranks.append(tuple(sorted(jobs, key=lambda i: self.due[i] - 300 * weight[i])))
        place = {job: n for n, job in enumerate(start)}
        if place:
            ranks.append(tuple(sorted(jobs, key=lambda i: place.get(self.orders[i].job, len(place)))))
        return ranks

    def _priorities(self, rank: Sequence[int]) -> list[list[float]]:
        given: list[list[float]] = [[] for _ in rank]
        for place, i in enumerate(rank):
            given[i] = [float(place)] * len(self.orders[i].stretches)
        return given

    def _try(self, rank: tuple[int, ...]) -> _Tried:
        ends = self.lists.ends(self._priorities(rank))
        if self.problem.goal is Goal.MAKESPAN:
            return _Tried(max(ends), tuple(ends), rank)
        worked = self.problem.shop_hours.worked_at
        late, cost = [], 0.0
        for order, due, end in zip(self.orders, self.due, ends, strict=True):
            at = worked(end)
            over = order.weight * max(at - due, 0.0) / 60
            late.append(over)
            cost += over + 1e-3 * at / 60
        return _Tried(cost, tuple(late), rank)

    def _moved(self, of: _Tried) -> tuple[int, ...]:
        """A list a little otherwise: a late job goes up, or one moves, or two change places."""
        rank, count, kind = list(of.rank), len(of.rank), self.draw.random()
        total = sum(of.late)
        if kind < 0.5 and total > 0:
            job = self.draw.choices(range(count), of.late)[0]
            place = rank.index(job)
            near = self.draw.random() >= 0.4
            up = place - self.draw.randint(1, _UP) if near else self.draw.randint(0, place)
            rank.insert(max(up, 0), rank.pop(place))
            return tuple(rank)
        place = self.draw.randrange(count)
        other = min(max(place + self.draw.randint(-_FAR, _FAR), 0), count - 1)
        if kind < 0.75:
            rank.insert(other, rank.pop(place))
        else:
            rank[place], rank[other] = rank[other], rank[place]
        return tuple(rank)
