"""Why a promise cannot be kept, and the ways out: each pin, part and machine is let go in turn."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from enum import Enum
from itertools import islice

from axle.schedule.list_schedule import list_schedule
from axle.schedule.problem import Problem, Stretch, lateness
from axle.schedule.solver import Effort, solve


class Hold(Enum):
    """What stands in the way."""

    PIN = "pin"
    PART = "part"
    MACHINE = "machine"
    PERSON = "person"


@dataclass(frozen=True)
class WayOut:
    """Something that, let go, makes up time.

    :param hold: what kind of thing it is.
    :param what: the stretch of a pin or a part, or the machine.
    :param words: of the part.
    :param saves: weighted working hours of lateness that it saves, above 0.
    :param late: what is left of it.
    """

    hold: Hold
    what: str
    words: str
    saves: float
    late: float


# So many ways out are looked for by the solver, and shown.
_QUICK = Effort(lists=60, deterministic=0.0, rounds=0)
_SHOWN = 2
# So many things are let go at most, each on its own.
_TRIED = 24
# A way out saves at least so many hours.
_WORTH = 0.25


def ways_out(problem: Problem, late: float) -> tuple[WayOut, ...]:
    """The two ways out that change least for what they save.

    :param problem: what is planned.
    :param late: weighted lateness of its plan in hours, above 0.
    :returns: two at most, the one that saves most first; none where nothing alone helps.
    """
    found = []
    for hold, what, words, loose in islice(_loosened(problem), _TRIED):
        left = lateness(loose, solve(loose, _QUICK).schedule.ends)
        if late - left > _WORTH:
            found.append(WayOut(hold, what, words, saves=late - left, late=left))
    return tuple(sorted(found, key=lambda way: -way.saves)[:_SHOWN])


def _loosened(problem: Problem) -> Iterator[tuple[Hold, str, str, Problem]]:
    """Pins of any job, parts of the jobs that are late, machines: what is likelier to help comes first."""
    ends = list_schedule(problem).ends
    stretches = [(order, stretch) for order in problem.orders for stretch in order.stretches]
    for _, stretch in stretches:
        if stretch.pinned is not None:
            yield Hold.PIN, stretch.key, "", _with(problem, stretch, pinned=None)
    for order, stretch in stretches:
        late = order.promise is not None and ends[order.job] > order.promise
        if late and stretch.not_before > problem.now:
            yield Hold.PART, stretch.key, stretch.part, _with(problem, stretch, not_before=0.0)
    for machine, count in problem.machines.items():
        more = {**problem.machines, machine: count + 1}
        yield Hold.MACHINE, machine, "", replace(problem, machines=more)


def _with(problem: Problem, stretch: Stretch, **other: object) -> Problem:
    def change(each: Stretch) -> Stretch:
        return replace(each, **other) if each.key == stretch.key else each  # type: ignore[arg-type]

    return replace(
        problem,
        orders=tuple(
            replace(order, stretches=tuple(change(s) for s in order.stretches)) for order in problem.orders
        ),
    )
