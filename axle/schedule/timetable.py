"""A plan from its list of priorities: each person and machine takes its work in the list's order."""

from __future__ import annotations

import heapq
from collections.abc import Sequence

from axle.schedule.linked import link
from axle.schedule.problem import BENCH, Placed, Problem, Schedule


def timetable(problem: Problem, sequence: Sequence[tuple[str, str]]) -> Schedule:
    """Place stretches in a given order, each as early as its person, its machines and its job let it.

    :param problem: what is planned.
    :param sequence: (stretch, person) in the plan's order, each job's own order kept; of what follows at
        once, the first.
    :returns: times; infinite where the hours of the plan do not reach so far.
    :source: serial schedule generation (Kolisch, 1996), from memory.
    """
    joined = link(problem)
    linked = joined.problem
    now = float(linked.now)
    free = dict.fromkeys(linked.people, now)
    machines = {name: [now] * max(count, 1) for name, count in linked.machines.items() if name != BENCH}
    holding = {order.job for order in linked.orders if order.on_bench}
    spare = linked.machines.get(BENCH, len(linked.orders)) - len(holding)
    benches, crowded = [now] * max(spare, 0), max(-spare, 0)
    ready = {order.job: now for order in linked.orders}
    last = {order.stretches[-1].key for order in linked.orders if order.stretches}
    placed = []
    for key, person in sequence:
        if key not in joined.parts:
            continue
        stretch, order = linked.stretch[key], linked.order_of[key]
        at = max(ready[order.job], free[person], stretch.not_before, stretch.pinned or 0.0)
        used = [name for name in {*stretch.machines, *stretch.wait_machines} if name in machines]
        at = max([at, *(machines[name][0] for name in used)])
        if stretch.apart and order.job not in holding:
            holding.add(order.job)
            at = max(at, heapq.heappop(benches)) if benches else at
        hours = linked.people[person]
        start = hours.start_at(at, stretch.minutes, pauses=stretch.pauses)
        end = free[person] = hours.end_at(start, stretch.minutes)
        placed.append(Placed(key, person, start, end))
        ready[order.job] = end + stretch.wait
        for name in used:
            heapq.heapreplace(machines[name], ready[order.job] if name in stretch.wait_machines else end)
        if key in last and order.job in holding:
            if crowded:
                crowded -= 1
            else:
                heapq.heappush(benches, ready[order.job])
    return Schedule(joined.apart(placed, problem.people), ready)
