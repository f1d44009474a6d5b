"""What is planned: jobs as chains of stretches, people with their hours, machines with their counts."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import Enum
from functools import cached_property

from axle.errors import AxleError
from axle.schedule.calendars import WorkingTime, joined

# The place where an axle stands while it is apart: counted like a machine, held from job to job's end.
BENCH = "bench"


class Goal(Enum):
    """What a plan is judged by."""

    LATENESS = "weighted lateness"
    MAKESPAN = "end of the last job"


@dataclass(frozen=True)
class Stretch:
    """Work that one person does in a row, with the wait that follows.

    :param key: its name, once in a plan.
    :param minutes: minutes of work, 0 or more.
    :param who: people who may do it, one or more.
    :param machines: machines in use throughout.
    :param pauses: whether it may stop over a break or a night.
    :param wait: minutes of the clock that pass before the next may begin.
    :param wait_machines: machines in use during the wait.
    :param largest_lag: minutes after the wait within which the next has to begin, or nothing.
    :param not_before: clock minute before which it cannot begin: a part is not here.
    :param part: the part that it waits for, in words, or "".
    :param pinned: clock minute at which somebody wants it begun, or nothing.
    :param begun: whether somebody is at it now.
    :param apart: whether the axle holds a bench from here on.
    :param steps: steps of the procedure that it consists of.
    """

    key: str
    minutes: float
    who: tuple[str, ...]
    machines: tuple[str, ...] = ()
    pauses: bool = True
    wait: float = 0
    wait_machines: tuple[str, ...] = ()
    largest_lag: float | None = None
    not_before: float = 0
    part: str = ""
    pinned: float | None = None
    begun: bool = False
    apart: bool = False
    steps: tuple[str, ...] = ()

    def __post_init__(self) -> None:
        if self.minutes < 0 or self.wait < 0:
            raise AxleError(
                f"stretch {self.key}", given=f"{self.minutes:g} and {self.wait:g} min", wanted="0 or more"
            )
        if not self.who:
            raise AxleError(
                f"stretch {self.key}",
                given="nobody who may do it",
                wanted="one person or more",
                do="Say under Hours and machines what each person may do.",
            )


@dataclass(frozen=True)
class WorkOrder:
    """One job of a plan.

    :param job: its name.
    :param stretches: its work in order, one or more.
    :param promise: clock minute at which it is promised, or nothing.
    :param weight: how much an hour late costs, above 0; 1 is usual.
    :param on_bench: whether its axle is apart already.
    """

    job: str
    stretches: tuple[Stretch, ...]
    promise: float | None = None
    weight: float = 1.0
    on_bench: bool = False

    @cached_property
    def minutes(self) -> float:
        """Minutes of work in all."""
        return sum(s.minutes for s in self.stretches)


@dataclass(frozen=True)
class Problem:
    """Everything that a plan is made from.

    :param orders: the jobs.
    :param people: hours by person.
    :param machines: how many there are of each, :data:`BENCH` among them; what is not named is plenty.
    :param now: clock minute before which nothing begins.
    :param goal: what the plan is judged by.
    """

    orders: tuple[WorkOrder, ...]
    people: Mapping[str, WorkingTime]
    machines: Mapping[str, int] = field(default_factory=dict)
    now: float = 0
    goal: Goal = Goal.LATENESS

    def __post_init__(self) -> None:
        for order in self.orders:
            for stretch in order.stretches:
                unknown = [p for p in stretch.who if p not in self.people]
                none_left = [m for m in stretch.machines if self.machines.get(m, 1) < 1]
                if unknown or none_left:
                    raise AxleError(
                        f"stretch {stretch.key}",
                        given=", ".join(unknown + none_left),
                        wanted="people and machines of the shop",
                    )

    @cached_property
    def shop_hours(self) -> WorkingTime:
        """The hours in which anybody works."""
        return joined(self.people.values())

    @cached_property
    def order_of(self) -> Mapping[str, WorkOrder]:
        """The job of each stretch, by the stretch's key."""
        return {s.key: order for order in self.orders for s in order.stretches}

    @cached_property
    def stretch(self) -> Mapping[str, Stretch]:
        """Stretches by key."""
        return {s.key: s for order in self.orders for s in order.stretches}


@dataclass(frozen=True)
class Placed:
    """A stretch with its place in a plan.

    :param key: the stretch.
    :param person: who does it.
    :param start: clock minute.
    :param end: clock minute, breaks in between included.
    """

    key: str
    person: str
    start: float
    end: float


@dataclass(frozen=True)
class Schedule:
    """A plan: every stretch with its place, by start.

    :param placed: in the order of their starts.
    :param ends: clock minute at which each job is done.
    """

    placed: tuple[Placed, ...]
    ends: Mapping[str, float]

    @cached_property
    def by_key(self) -> Mapping[str, Placed]:
        """Places by stretch."""
        return {p.key: p for p in self.placed}

    def cost(self, problem: Problem) -> float:
        """What the plan is judged by, less is better.

        :returns: the end of the last job; or the sum of weight times hours late, working hours of the
            shop, and a thousandth of the hours to each end so that nothing is left lying.
        """
        if problem.goal is Goal.MAKESPAN:
            return max(self.ends.values(), default=0.0)
        worked = problem.shop_hours.worked_at
        return lateness(problem, self.ends) + 1e-3 * sum(worked(end) for end in self.ends.values()) / 60

    @cached_property
    def sequence(self) -> tuple[tuple[str, str], ...]:
        """(stretch, person) in the order of the starts: the plan as a list of priorities."""
        return tuple((p.key, p.person) for p in self.placed)


def lateness(problem: Problem, ends: Mapping[str, float]) -> float:
    """Weighted working hours of the shop by which jobs are late.

    :param problem: the jobs with their promises.
    :param ends: clock minute at which each is done.
    """
    worked = problem.shop_hours.worked_at
    return sum(
        order.weight * max(worked(ends[order.job]) - worked(order.promise), 0.0) / 60
        for order in problem.orders
        if order.promise is not None
    )
