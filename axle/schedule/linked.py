"""Stretches that follow at once, as one: who puts a gear into the oven stays with it."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace

from axle.schedule.calendars import WorkingTime
from axle.schedule.problem import Placed, Problem, Stretch


@dataclass(frozen=True)
class Linked:
    """A problem in which stretches that follow at once are one, and the way back.

    :param problem: with no largest lag left.
    :param parts: the stretches that each key stands for, in order.
    """

    problem: Problem
    parts: Mapping[str, tuple[Stretch, ...]]

    def apart(self, placed: Iterable[Placed], people: Mapping[str, WorkingTime]) -> tuple[Placed, ...]:
        """Places of the single stretches."""
        found = []
        for place in placed:
            chain, at = self.parts[place.key], place.start
            if len(chain) == 1:
                found.append(place)
                continue
            for stretch in chain:
                end = people[place.person].end_at(at, stretch.minutes)
                found.append(Placed(stretch.key, place.person, at, end))
                at = end + stretch.wait
        return tuple(sorted(found, key=lambda place: place.start))


def link(problem: Problem) -> Linked:
    """Join what has to follow within a largest lag to one stretch that is not interrupted.

    The person stays with it over the wait: short, and a hot part waits for nobody.
    """
    parts: dict[str, tuple[Stretch, ...]] = {}
    orders = []
    for order in problem.orders:
        stretches = []
        chain: list[Stretch] = []
        for stretch in order.stretches:
            chain.append(stretch)
            if stretch.largest_lag is None:
                stretches.append(_joined(chain))
                parts[chain[0].key] = tuple(chain)
                chain = []
        if chain:
            stretches.append(_joined(chain))
            parts[chain[0].key] = tuple(chain)
        orders.append(replace(order, stretches=tuple(stretches)))
    return Linked(replace(problem, orders=tuple(orders)), parts)


def _joined(chain: list[Stretch]) -> Stretch:
    if len(chain) == 1:
        return replace(chain[0], largest_lag=None)
    first, last = chain[0], chain[-1]
    who = tuple(p for p in first.who if all(p in s.who for s in chain)) or first.who
    machines = {m for s in chain for m in (*s.machines, *(s.wait_machines if s is not last else ()))}
    return replace(
        first,
        minutes=sum(s.minutes for s in chain) + sum(s.wait for s in chain[:-1]),
        who=who,
        machines=tuple(sorted(machines)),
        pauses=False,
        wait=last.wait,
        wait_machines=last.wait_machines,
        largest_lag=None,
        apart=any(s.apart for s in chain),
        not_before=max(s.not_before for s in chain),
        part=next((s.part for s in chain if s.part), ""),
        steps=tuple(name for s in chain for name in s.steps),
    )
