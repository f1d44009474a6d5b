"""The plan: the simple rule, then lists of priorities, then constraint programming; it only gets better."""

from __future__ import annotations

import random
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Final

from ortools.sat.python import cp_model

from axle.schedule.constraints import Constraints
from axle.schedule.linked import Linked, link
from axle.schedule.list_schedule import list_schedule
from axle.schedule.list_search import ListSearch
from axle.schedule.problem import Goal, Placed, Problem, Schedule
from axle.schedule.timetable import timetable

# Seed of everything that is drawn here and in the solver.
_SEED: Final = 20


@dataclass(frozen=True)
class Effort:
    """How long a plan may be looked for, counted so that the same problem always has the same plan.

    :param lists: lists of priorities that are tried.
    :param places: stretches that they place in all, at most: a large shop tries fewer lists.
    :param deterministic: the solver's own deterministic time in all.
    :param each: of one improvement.
    :param freed: jobs that one improvement moves.
    :param rounds: improvements at most.
    :param wall: seconds after which the solver is cut off all the same; a plan that was cut says so.
    """

    lists: int = 450
    places: int = 120_000
    deterministic: float = 0.03
    each: float = 0.015
    freed: int = 4
    rounds: int = 8
    wall: float = 20.0


@dataclass(frozen=True)
class Solved:
    """A plan and how it was found.

    :param schedule: the plan.
    :param simple: cost of the simple rule, earliest promise first.
    :param cost: cost of the plan, never more.
    :param proven: whether it was shown that no plan costs less, with the solver's minutes.
    :param cut: whether the wall limit cut the search off.
    """

    schedule: Schedule
    simple: float
    cost: float
    proven: bool = False
    cut: bool = False


def solve(problem: Problem, effort: Effort | None = None, kept: Sequence[Schedule] = ()) -> Solved:
    """Find a plan.

    :param problem: what is planned.
    :param effort: how long to look; the usual where nothing is said.
    :param kept: plans to start from beside the simple rule: the one in force.
    :returns: the best plan found, the same for the same problem; never worse than the simple rule.
    :raises AxleError: when something fits nowhere in the hours of the plan.
    :source: CP-SAT of OR-Tools; large neighbourhood search (Shaw, 1998) and simulated annealing
        (Kirkpatrick, Gelatt and Vecchi, 1983), from memory.
    """
    effort = effort or Effort()
    simple = list_schedule(problem)
    best = _Best(problem, simple)
    if not any(order.stretches for order in problem.orders):
        return Solved(simple, best.cost, cost=best.cost, proven=True)
    for schedule in kept:
        best.offer(schedule)
    order = sorted(best.schedule.ends, key=lambda job: best.schedule.ends[job])
    stretches = sum(len(job.stretches) for job in problem.orders)
    best.offer(ListSearch(problem, _SEED).run(min(effort.lists, effort.places // stretches), order))
    search = _Search(link(problem), effort, best)
    search.run()
    return Solved(
        best.schedule, simple.cost(problem), cost=best.cost, proven=search.proven, cut=search.was_cut
    )


@dataclass
class _Best:
    """The best plan so far."""

    problem: Problem
    schedule: Schedule

    def __post_init__(self) -> None:
        self.cost = self.schedule.cost(self.problem)

    def offer(self, schedule: Schedule) -> bool:
        """Take a plan where it is better."""
        cost = schedule.cost(self.problem)
        if cost < self.cost - 1e-9:
            self.schedule, self.cost = schedule, cost
            return True
        return False


@dataclass
class _Search:
    """Improves the best plan a few jobs at a time, while the others stand."""

    joined: Linked
    effort: Effort
    best: _Best
    proven: bool = False
    was_cut: bool = False
    spent: float = 0.0
    seconds: float = 0.0
    draw: random.Random = field(default_factory=lambda: random.Random(_SEED))  # noqa: S311

    def run(self) -> None:
        """Search until the effort is spent."""
        jobs = [order.job for order in self.joined.problem.orders if order.stretches]
        if len(jobs) <= self.effort.freed or self.best.problem.goal is Goal.MAKESPAN:
            self.proven = self._improve(set(jobs), self.effort.deterministic)
            return
        for _ in range(self.effort.rounds):
            left = self.effort.deterministic - self.spent
            late = self._late(jobs)
            if left <= 0 or self.was_cut or not late:
                return
            self._improve(self._neighbourhood(jobs, late), min(left, self.effort.each))

    def _late(self, jobs: Sequence[str]) -> list[str]:
        ends, orders = self.best.schedule.ends, {o.job: o for o in self.best.problem.orders}
        return [j for j in jobs if (p := orders[j].promise) is not None and p < ends[j]]

    def _neighbourhood(self, jobs: Sequence[str], late: Sequence[str]) -> set[str]:
        """Jobs that stand near a late one in the plan."""
        ends, middle, count = self.best.schedule.ends, self.draw.choice(late), self.effort.freed
        near = sorted((j for j in jobs if j != middle), key=lambda job: abs(ends[job] - ends[middle]))
        return {middle, *self.draw.sample(near[: 3 * count], min(count - 1, len(near)))}

    def _improve(self, chosen: set[str], limit: float) -> bool:
        """Move some jobs for the better; says whether nothing better is left for them."""
        problem = self.joined.problem
        model = Constraints(problem, problem.shop_hours, self._as_linked(), chosen)
        solver = cp_model.CpSolver()
        solver.parameters.num_workers = 1
        solver.parameters.random_seed = _SEED
        solver.parameters.max_deterministic_time = max(limit, 0.001)
        solver.parameters.max_time_in_seconds = max(self.effort.wall - self.seconds, 0.01)
        # A schedule has little of a linear programme in it: bounds by it cost more than they prune.
        solver.parameters.linearization_level = 0
        solver.parameters.cp_model_probing_level = 0
        if len(chosen) < len(problem.orders):
            # Small and asked often: what prepares a large model costs more than it saves.
            solver.parameters.cp_model_presolve = False
            solver.parameters.symmetry_level = 0
        status = solver.solve(model.model)
        self.spent += max(solver.response_proto.deterministic_time, 0.001)
        self.seconds += solver.wall_time
        self.was_cut = self.seconds >= self.effort.wall
        if status not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
            return False
        self.best.offer(timetable(self.best.problem, model.sequence(solver)))
        return status == cp_model.OPTIMAL

    def _as_linked(self) -> Schedule:
        """The best plan with what follows at once as one stretch."""
        of = self.best.schedule
        placed = []
        for key, chain in self.joined.parts.items():
            first, last = of.by_key[key], of.by_key[chain[-1].key]
            placed.append(Placed(key, first.person, first.start, last.end))
        return Schedule(tuple(sorted(placed, key=lambda p: p.start)), of.ends)
