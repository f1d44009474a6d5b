"""List scheduling: whoever is free takes the most urgent work that can be begun.

The simple rule that a plan is held to, the way in which a kept plan is followed from where the work
really stands, and what the search for a better plan tries over and over: written for speed.
"""

from __future__ import annotations

import heapq
from bisect import bisect_right, insort
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from math import inf

from axle.errors import AxleError
from axle.schedule.linked import Linked, link
from axle.schedule.problem import BENCH, Placed, Problem, Schedule, Stretch, WorkOrder

Priority = Callable[[WorkOrder, Stretch], float]


def earliest_promise(order: WorkOrder, stretch: Stretch) -> float:
    """The simple rule: what is promised first comes first."""
    return order.promise if order.promise is not None else inf


def list_schedule(
    problem: Problem, priority: Priority = earliest_promise, prefer: Mapping[str, str] | None = None
) -> Schedule:
    """Place every stretch in the order of the clock, of several at once the most urgent first.

    :param problem: what is planned.
    :param priority: of a stretch, the smallest first.
    :param prefer: the person wanted for a stretch, where the start is no later for it.
    :returns: a plan in which nobody waits while there is work that can be begun.
    :raises AxleError: when something fits nowhere in the hours of the plan.
    :source: parallel schedule generation (Kolisch, Serial and parallel resource-constrained project
        scheduling methods revisited, 1996), from memory.
    """
    lists = Lists(problem, prefer or {})
    return lists.schedule([[priority(order, s) for s in order.stretches] for order in lists.orders])


@dataclass(frozen=True)
class _Work:
    """A stretch by numbers: people and machines as places in lists."""

    stretch: Stretch
    who: tuple[int, ...]
    machines: tuple[int, ...]
    wait_machines: tuple[int, ...]
    pauses: bool
    wanted: int = -1

    @property
    def plain(self) -> bool:
        """Whether it wants nothing but a person."""
        return self.pauses and not self.machines and not self.wait_machines and not self.stretch.apart


class Lists:
    """A problem prepared for many list schedules.

    :param problem: what is planned.
    :param prefer: the person wanted for a stretch, where the start is no later for it.
    """

    def __init__(self, problem: Problem, prefer: Mapping[str, str] | None = None) -> None:
        self.problem = problem
        self.joined: Linked = link(problem)
        self.orders: tuple[WorkOrder, ...] = self.joined.problem.orders
        self.people = tuple(problem.people)
        self.hours = tuple(problem.people.values())
        names = tuple(name for name in problem.machines if name != BENCH)
        self.counts = tuple(max(problem.machines[name], 1) for name in names)
        machine = {name: index for index, name in enumerate(names)}
        person = {name: index for index, name in enumerate(self.people)}
        wanted = prefer or {}

        def work(s: Stretch) -> _Work:
            held = tuple(machine[m] for m in s.wait_machines if m in machine)
            return _Work(
                s,
                who=tuple(person[name] for name in s.who),
                machines=tuple(machine[m] for m in s.machines if m in machine and machine[m] not in held),
                wait_machines=held,
                pauses=s.pauses,
                wanted=person.get(wanted.get(s.key, ""), -1),
            )

        self.work = tuple(tuple(work(s) for s in order.stretches) for order in self.orders)
        self.minutes = [[s.minutes for s in order.stretches] for order in self.orders]
        self.earliest = [[max(s.not_before, s.pinned or 0.0) for s in o.stretches] for o in self.orders]
        # What somebody wants begun at a time keeps its person free for it.
        self.kept_free = tuple(
            sorted(
                (self.earliest[i][n], i, n)
                for i, row in enumerate(self.work)
                for n, work in enumerate(row)
                if work.stretch.pinned is not None and work.who == (number,)
            )
            for number in range(len(self.people))
        )

    def schedule(self, priorities: Sequence[Sequence[float]]) -> Schedule:
        """Place everything by priorities of each job's stretches, the smallest first."""
        run = _Run(self, priorities)
        run.go()
        named = [
            Placed(self.work[i][n].stretch.key, self.people[person], start, end)
            for i, n, person, start, end in run.placed
        ]
        named.sort(key=lambda place: place.start)
        jobs = {order.job: end for order, end in zip(self.orders, run.ends, strict=True)}
        return Schedule(self.joined.apart(named, self.problem.people), jobs)

    def ends(
        self,
        priorities: Sequence[Sequence[float]],
        minutes: Sequence[Sequence[float]] | None = None,
        earliest: Sequence[Sequence[float]] | None = None,
    ) -> list[float]:
        """When each job ends.

        :param priorities: of each job's stretches, the smallest first.
        :param minutes: what each takes in place of what is planned.
        :param earliest: clock minute before which each cannot begin, in place of what is planned.
        """
        run = _Run(self, priorities, minutes, earliest)
        run.go()
        return run.ends


class _Run:
    """One pass over the clock: whoever is free first takes the most urgent work that can be begun."""

    def __init__(
        self,
        lists: Lists,
        priorities: Sequence[Sequence[float]],
        minutes: Sequence[Sequence[float]] | None = None,
        earliest: Sequence[Sequence[float]] | None = None,
    ) -> None:
        self.lists, self.priorities = lists, priorities
        self.minutes, self.earliest = minutes or lists.minutes, earliest or lists.earliest
        now, orders = float(lists.problem.now), lists.orders
        self.free = [now] * len(lists.people)
        self.machines = [[now] * count for count in lists.counts]
        holding = sum(order.on_bench for order in orders)
        benches = lists.problem.machines.get(BENCH, len(orders) or 1)
        self.benches = [now] * max(benches - holding, 0)
        # More lie apart already than there are benches: those over come off before one is free.
        self.crowded = max(holding - benches, 0)
        self.holds = [order.on_bench for order in orders]
        self.following = [0] * len(orders)
        self.ends = [now] * len(orders)
        self.placed: list[tuple[int, int, int, float, float]] = []
        self.ready: list[tuple[float, int]] = []
        self.later: list[tuple[float, int]] = []
        for i, order in enumerate(orders):
            if order.stretches:
                self._follows(i, now)
        self.left = sum(len(row) for row in lists.work)
        self.skipped = [0] * len(lists.people)

    def go(self) -> None:
        """Place everything.

        :raises AxleError: when something fits nowhere.
        """
        turns = [
            (hours.start_at(self.free[p], 0.0, pauses=True), p) for p, hours in enumerate(self.lists.hours)
        ]
        heapq.heapify(turns)
        # Who found nothing, and nothing to wait for, looks again when somebody takes something.
        idle: list[int] = []
        while self.left:
            if not turns:
                raise self._nowhere()
            at, person = heapq.heappop(turns)
            if at < self.free[person]:
                at = self.lists.hours[person].start_at(self.free[person], 0.0, pauses=True)
                if at != inf:
                    heapq.heappush(turns, (at, person))
                continue
            while self.later and self.later[0][0] <= at:
                _, i = heapq.heappop(self.later)
                insort(self.ready, (self.priorities[i][self.following[i]], i))
            by = self._take_first(person, at)
            if by is None:
                at = self._next_time(person, at)
                if at == inf:
                    idle.append(person)
            else:
                for other in idle:
                    heapq.heappush(turns, (at, other))
                idle = []
                at = self.lists.hours[person].start_at(max(self.free[person], at), 0.0, pauses=True)
            if at != inf:
                heapq.heappush(turns, (at, person))

    def _take_first(self, person: int, at: float) -> int | None:
        """Give the most urgent work that can be begun now to somebody; says to whom."""
        lists = self.lists
        kept = lists.kept_free[person]
        until = self._kept_free_until(person, at) if kept else inf
        hours = lists.hours[person]
        stops = hours.spans[bisect_right(hours.starts, at) - 1][1]
        for place, (_, i) in enumerate(self.ready):
            n = self.following[i]
            work = lists.work[i][n]
            if person not in work.who:
                continue
            if not work.plain and not self._can_begin(i, work, at, stops):
                continue
            if until < inf and work.stretch.pinned is None and hours.end_at(at, self.minutes[i][n]) > until:
                continue
            by = person if work.wanted in {-1, person} else self._wanted_or(person, i, work, at)
            del self.ready[place]
            self._take(i, work, by, at)
            return by
        return None

    def _can_begin(self, i: int, work: _Work, at: float, stops: float) -> bool:
        """Whether there are a machine and a bench for it, and time enough before a break."""
        if not work.pauses and at + self.minutes[i][self.following[i]] > stops:
            return False
        for machine in work.machines + work.wait_machines:
            if self.machines[machine][0] > at:
                return False
        return not work.stretch.apart or self.holds[i] or (bool(self.benches) and self.benches[0] <= at)

    def _wanted_or(self, person: int, i: int, work: _Work, at: float) -> int:
        """The person who is wanted for it, where that one is free as well."""
        wanted = work.wanted
        if wanted in work.who and self.free[wanted] <= at:
            minutes = self.minutes[i][self.following[i]]
            if self.lists.hours[wanted].start_at(at, minutes, pauses=work.pauses) == at:
                return wanted
        return person

    def _take(self, i: int, work: _Work, person: int, at: float) -> None:
        n, wait = self.following[i], work.stretch.wait
        end = self.free[person] = self.lists.hours[person].end_at(at, self.minutes[i][n])
        if end == inf:
            raise _nowhere(work.stretch, "it fits into nobody's hours")
        self.placed.append((i, n, person, at, end))
        for machine in work.machines:
            heapq.heapreplace(self.machines[machine], end)
        for machine in work.wait_machines:
            heapq.heapreplace(self.machines[machine], end + wait)
        if work.stretch.apart and not self.holds[i]:
            self.holds[i] = True
            heapq.heappop(self.benches)
        self.left -= 1
        self.following[i] = n + 1
        if n + 1 < len(self.lists.work[i]):
            self._follows(i, end + wait)
            return
        self.ends[i] = end + wait
        if self.holds[i] and self.crowded:
            self.crowded -= 1
        elif self.holds[i]:
            heapq.heappush(self.benches, self.ends[i])

    def _follows(self, i: int, ready: float) -> None:
        heapq.heappush(self.later, (max(ready, self.earliest[i][self.following[i]]), i))

    def _kept_free_until(self, person: int, at: float) -> float:
        """When somebody has to be free for what is wanted at a time; what was missed waits its turn."""
        kept = self.lists.kept_free[person]
        while self.skipped[person] < len(kept):
            wanted, i, n = kept[self.skipped[person]]
            if self.following[i] > n or (wanted <= at and self.following[i] < n):
                self.skipped[person] += 1
                continue
            return wanted
        return inf

    def _next_time(self, person: int, at: float) -> float:
        """When somebody who finds nothing now looks again."""
        after = [self.later[0][0]] if self.later else []
        after += [row[0] for row in self.machines if row[0] > at]
        after += [time for time in self.benches[:1] if time > at]
        after += [time for time in self.free if time > at]
        hours = self.lists.hours[person]
        index = bisect_right(hours.starts, at)
        after += hours.starts[index : index + 1]
        return hours.start_at(min(after), 0.0, pauses=True) if after else inf

    def _nowhere(self) -> AxleError:
        i = next(i for i, n in enumerate(self.following) if n < len(self.lists.work[i]))
        return _nowhere(self.lists.work[i][self.following[i]].stretch, "it fits nowhere")


def _nowhere(stretch: Stretch, why: str) -> AxleError:
    return AxleError(
        f"plan of {stretch.key}",
        given=why,
        wanted="hours, a bench and people enough",
        do="Look at hours and absences; what may not pause has to fit between two breaks.",
    )
