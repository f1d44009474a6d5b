"""The constraints of a plan, for the solver: some jobs are moved, the others stand where the plan has them.

Times are minutes of the shop's own axis: one of them is a minute in which somebody works.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from math import ceil, floor
from typing import Any, Final

from ortools.sat.python import cp_model

from axle.schedule.calendars import DAY, WorkingTime
from axle.schedule.problem import BENCH, Goal, Problem, Schedule, Stretch, WorkOrder

# Working minutes by which a job may move out of the time that the moved jobs take now.
_ROOM: Final = 2 * 8 * 60
# What a minute late weighs against a minute to a job's end.
LATE: Final = 1000


class Constraints:
    """One improvement as a model.

    :param problem: nothing in it has to follow at once (:func:`axle.schedule.linked.link`).
    :param axis: the hours in which anybody works.
    :param plan: of the same stretches.
    :param chosen: jobs that are moved.
    """

    def __init__(self, problem: Problem, axis: WorkingTime, plan: Schedule, chosen: set[str]) -> None:
        self.problem, self.axis, self.plan, self.chosen = problem, axis, plan, chosen
        self.model = cp_model.CpModel()
        self.start: dict[str, Any] = {}
        self.over: dict[str, Any] = {}
        self.does: dict[tuple[str, str], Any] = {}
        self.of_person: dict[str, list[Any]] = {person: [] for person in problem.people}
        self.of_machine: dict[str, list[Any]] = {name: [] for name in problem.machines}
        self.orders = [order for order in problem.orders if order.job in chosen]
        self._set_window()
        self.breaks = self._breaks()
        for order in self.orders:
            self._add_order(order)
        self._add_others()
        self._add_capacities()
        self._add_goal()

    def _set_window(self) -> None:
        moved = [p for p in self.plan.placed if self.problem.order_of[p.key].job in self.chosen]
        worked = self.axis.worked_at
        self.low = max(ceil(worked(self.problem.now)), floor(worked(min(p.start for p in moved))) - _ROOM)
        longest = max(ceil(s.wait) for order in self.orders for s in order.stretches)
        self.high = ceil(worked(max(p.end for p in moved))) + _ROOM + longest

    def _breaks(self) -> list[tuple[int, int]]:
        """Breaks of the window: where on the axis, and minutes of the clock that they last."""
        found, worked = [], 0
        for (low, high), (after, _) in zip(self.axis.spans, self.axis.spans[1:], strict=False):
            worked += high - low
            if self.low <= worked <= self.high:
                found.append((worked, after - high))
        return found

    def _add_order(self, order: WorkOrder) -> None:
        ready: Any = self.low
        for stretch in order.stretches:
            start = self._add_start(stretch)
            self.model.add(start >= ready)
            self.over[stretch.key] = ready = self._wait_over(stretch, start + ceil(stretch.minutes))
            self._add_person(stretch, start)
            for machine in {*stretch.machines, *stretch.wait_machines} & set(self.of_machine):
                held = stretch.wait_machines and machine in stretch.wait_machines
                end = ready if held else start + ceil(stretch.minutes)
                size = self.model.new_int_var(0, self.high - self.low, "")
                self.of_machine[machine].append(self.model.new_interval_var(start, size, end, ""))

    def _add_start(self, stretch: Stretch) -> Any:
        size = ceil(stretch.minutes)
        at = self.plan.by_key[stretch.key]
        here = round(self.axis.worked_at(at.start))
        wanted = self.axis.worked_at(max(stretch.not_before, stretch.pinned or 0.0))
        domain = cp_model.Domain(max(self.low, ceil(wanted)), self.high)
        if not stretch.pauses and size > 1:
            for worked, _ in self.breaks:
                domain = domain.intersection_with(
                    cp_model.Domain(worked - size + 1, worked - 1).complement()
                )
        if stretch.begun or stretch.pinned is not None or domain.is_empty():
            domain = cp_model.Domain(here, here)
        start = self.model.new_int_var_from_domain(domain, stretch.key)
        self.model.add_hint(start, here)
        self.start[stretch.key] = start
        return start

    def _wait_over(self, stretch: Stretch, end: Any) -> Any:
        """When its wait is over: a wait runs on by night, while the axis stands still."""
        wait = ceil(stretch.wait)
        if not wait:
            return end
        model = self.model
        over = model.new_int_var(self.low, self.high + wait, "")
        model.add(over >= end)
        ways = [model.new_bool_var("")]
        model.add(over >= end + wait).only_enforce_if(ways[0])
        for place, (worked, _) in enumerate(self.breaks):
            # Before this break it ends, and the wait lasts through so many breaks from it on.
            asleep = 0
            for reached, lasts in self.breaks[place:]:
                asleep += lasts
                way = model.new_bool_var("")
                model.add(end <= worked).only_enforce_if(way)
                model.add(over >= reached).only_enforce_if(way)
                model.add(over >= end + wait - asleep).only_enforce_if(way)
                ways.append(way)
                if asleep >= wait:
                    break
        model.add_bool_or(ways)
        return over

    def _add_person(self, stretch: Stretch, start: Any) -> None:
        size, here = ceil(stretch.minutes), self.plan.by_key[stretch.key].person
        who = (here,) if stretch.begun else stretch.who
        literals = []
        for person in who:
            literal = self.model.new_bool_var("") if len(who) > 1 else self.model.new_constant(1)
            self.does[stretch.key, person] = literal
            literals.append(literal)
            if len(who) > 1:
                self.model.add_hint(literal, person == here)
            self.of_person[person].append(
                self.model.new_optional_fixed_size_interval_var(start, size, literal, "")
            )
        self.model.add_exactly_one(literals)

    def _add_others(self) -> None:
        """Jobs that stand take their people and machines; what touches is one."""
        busy: dict[tuple[str, str], list[tuple[int, int]]] = {}
        worked = self.axis.worked_at
        for placed in self.plan.placed:
            if self.problem.order_of[placed.key].job in self.chosen:
                continue
            stretch = self.problem.stretch[placed.key]
            start, end = floor(worked(placed.start)), ceil(worked(placed.end))
            busy.setdefault(("person", placed.person), []).append((start, end))
            for machine in {*stretch.machines, *stretch.wait_machines} & set(self.of_machine):
                held = placed.end + (stretch.wait if machine in stretch.wait_machines else 0)
                busy.setdefault(("machine", machine), []).append((start, ceil(worked(held))))
        for (kind, name), spans in busy.items():
            target = self.of_person[name] if kind == "person" else self.of_machine[name]
            alone = kind == "person" or self.problem.machines[name] == 1
            for low, high in _merged(spans) if alone else spans:
                if high > self.low and low < self.high and high > low:
                    target.append(self.model.new_fixed_size_interval_var(low, high - low, ""))

    def _add_capacities(self) -> None:
        model = self.model
        for person, hours in self.problem.people.items():
            away = [
                model.new_fixed_size_interval_var(low, high - low, "")
                for low, high in _away_on(self.axis, hours, self.low, self.high)
            ]
            model.add_no_overlap(self.of_person[person] + away)
        for machine, intervals in self.of_machine.items():
            count = self.problem.machines[machine]
            if machine != BENCH and count == 1:
                model.add_no_overlap(intervals)
            elif machine != BENCH and count < len(intervals):
                model.add_cumulative(intervals, [1] * len(intervals), count)
        self._add_benches()

    def _add_benches(self) -> None:
        count, model = self.problem.machines.get(BENCH), self.model
        if count is None or count >= len(self.problem.orders):
            return
        intervals = []
        for order in self.problem.orders:
            apart = next((s.key for s in order.stretches if s.apart), None)
            if apart is None and not order.on_bench:
                continue
            if order.job not in self.chosen:
                begins = self.problem.now if order.on_bench else self.plan.by_key[apart or ""].start
                low = floor(self.axis.worked_at(begins))
                high = ceil(self.axis.worked_at(self.plan.ends[order.job]))
                if high > self.low and low < self.high:
                    intervals.append(model.new_fixed_size_interval_var(low, max(high - low, 0), ""))
                continue
            start = self.low if order.on_bench or apart is None else self.start[apart]
            size = model.new_int_var(0, self.high - self.low + DAY, "")
            intervals.append(model.new_interval_var(start, size, self.over[order.stretches[-1].key], ""))
        holding = sum(order.on_bench for order in self.problem.orders)
        model.add_cumulative(intervals, [1] * len(intervals), max(count, holding, 1))

    def _add_goal(self) -> None:
        model, terms = self.model, []
        ends = {order.job: self.over[order.stretches[-1].key] for order in self.orders}
        top = self.high + DAY
        if self.problem.goal is Goal.MAKESPAN:
            makespan = model.new_int_var(0, top, "makespan")
            model.add_max_equality(makespan, list(ends.values()))
            model.minimize(makespan)
            return
        for order in self.orders:
            terms.append(ends[order.job])
            if order.promise is not None:
                late = model.new_int_var(0, top, "")
                model.add(late >= ends[order.job] - floor(self.axis.worked_at(order.promise)))
                terms.append(round(LATE * order.weight) * late)
        model.minimize(sum(terms))

    def sequence(self, solver: cp_model.CpSolver) -> list[tuple[str, str]]:
        """(stretch, person) in the order of the starts that were found."""
        worked = self.axis.worked_at
        at = {p.key: worked(p.start) for p in self.plan.placed}
        by = {p.key: p.person for p in self.plan.placed}
        at |= {key: float(solver.value(start)) for key, start in self.start.items()}
        by |= {key: person for (key, person), literal in self.does.items() if solver.value(literal)}
        place = {s.key: n for n, s in enumerate(s for o in self.problem.orders for s in o.stretches)}
        return [(key, by[key]) for key in sorted(place, key=lambda key: (at[key], place[key]))]


def _merged(spans: Sequence[tuple[int, int]]) -> Iterator[tuple[int, int]]:
    joined: list[list[int]] = []
    for low, high in sorted(spans):
        if joined and low <= joined[-1][1]:
            joined[-1][1] = max(joined[-1][1], high)
        else:
            joined.append([low, high])
    yield from ((low, high) for low, high in joined)


def _away_on(axis: WorkingTime, hours: WorkingTime, low: int, high: int) -> Iterator[tuple[int, int]]:
    """Where on the shop's axis somebody does not work, within a window."""
    at = low
    for begins, ends in hours.spans:
        start, end = floor(axis.worked_at(begins)), ceil(axis.worked_at(ends))
        if start > at:
            yield at, min(start, high)
        at = max(at, end)
        if at >= high:
            return
    yield at, high + DAY
