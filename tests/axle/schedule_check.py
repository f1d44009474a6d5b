"""What every plan keeps to, checked from the plan alone: a second derivation that knows no solver."""

from collections import defaultdict
from itertools import pairwise

from axle.schedule.problem import BENCH, Problem, Schedule

NEAR = 1e-6


def faults(problem: Problem, schedule: Schedule) -> list[str]:
    """Everything that a plan does wrong, in words; none on a sound one."""
    wrong = []
    by_key = schedule.by_key
    for order in problem.orders:
        before = None
        for stretch in order.stretches:
            place = by_key[stretch.key]
            wrong += _within_hours(problem, stretch, place)
            if place.start < max(problem.now, stretch.not_before) - NEAR:
                wrong.append(f"{stretch.key} begins before it can")
            if place.person not in stretch.who:
                wrong.append(f"{stretch.key} is done by {place.person}")
            if before is not None:
                ready = by_key[before.key].end + before.wait
                if place.start < ready - NEAR:
                    wrong.append(f"{stretch.key} begins before {before.key} and its wait are over")
                if before.largest_lag is not None and place.start > ready + before.largest_lag + NEAR:
                    wrong.append(f"{stretch.key} does not follow {before.key} at once")
            before = stretch
        if order.stretches and schedule.ends[order.job] + NEAR < by_key[order.stretches[-1].key].end:
            wrong.append(f"job {order.job} is done before its last stretch")
    return wrong + _two_places(problem, schedule) + _machines(problem, schedule)


def _within_hours(problem, stretch, place) -> list[str]:
    spans = problem.people[place.person].spans
    worked = sum(max(min(place.end, high) - max(place.start, low), 0.0) for low, high in spans)
    wrong = []
    if abs(worked - stretch.minutes) > NEAR:
        wrong.append(f"{stretch.key} takes {worked} min of hours in place of {stretch.minutes}")
    if stretch.minutes and not any(low - NEAR <= place.start < high for low, high in spans):
        wrong.append(f"{stretch.key} begins outside hours")
    if not stretch.pauses and abs(place.end - place.start - stretch.minutes) > NEAR:
        wrong.append(f"{stretch.key} is interrupted")
    return wrong


def _two_places(problem, schedule) -> list[str]:
    wrong = []
    for person in problem.people:
        own = sorted((p for p in schedule.placed if p.person == person), key=lambda p: (p.start, p.end))
        wrong += [f"{person} is at {a.key} and {b.key}" for a, b in pairwise(own) if b.start < a.end - NEAR]
    return wrong


def _machines(problem, schedule) -> list[str]:
    uses = defaultdict(list)
    for order in problem.orders:
        for stretch in order.stretches:
            place = schedule.by_key[stretch.key]
            for name in stretch.machines:
                uses[name].append((place.start, place.end))
            for name in stretch.wait_machines:
                uses[name].append((place.end, place.end + stretch.wait))
        apart = [schedule.by_key[s.key].start for s in order.stretches if s.apart]
        if apart or order.on_bench:
            begins = problem.now if order.on_bench else min(apart)
            uses[BENCH].append((begins, schedule.ends[order.job]))
    wrong = []
    for name, spans in uses.items():
        if name not in problem.machines:
            continue
        events = sorted(
            [(start, 1) for start, _ in spans] + [(end, -1) for _, end in spans], key=lambda e: (e[0], e[1])
        )
        held, limit = 0, max(problem.machines[name], 1)
        if name == BENCH:
            limit = max(limit, sum(order.on_bench for order in problem.orders))
        for at, change in events:
            held += change
            if held > limit:
                wrong.append(f"{name} is in use {held} times at {at}")
                break
    return wrong
