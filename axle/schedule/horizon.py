"""The near two weeks by stretch, later jobs in blocks: nobody plans a step of next month to the minute."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Final

from axle.errors import AxleError
from axle.schedule.calendars import DAY
from axle.schedule.list_schedule import list_schedule
from axle.schedule.problem import Problem, Stretch, WorkOrder

NEAR: Final = 14 * DAY
# A wait that is longer [min] is kept behind a block.
_WAIT: Final = 60
_BLOCK: Final = "block"


def with_blocks(problem: Problem, near: float = NEAR) -> Problem:
    """Put jobs that begin later into blocks.

    :param problem: every job by stretch.
    :param near: clock minutes from now that are planned by stretch.
    :returns: the problem with one block for each run of stretches of the same people in a later job.
    """
    try:
        simple = list_schedule(problem)
    except AxleError:
        # Something fits nowhere: whoever plans it is told so, with the whole before them.
        return problem
    first = {p.key.split(":")[0]: p.start for p in reversed(simple.placed)}
    edge = problem.now + near
    return replace(
        problem,
        orders=tuple(
            _in_blocks(order) if order.stretches and first.get(order.job, 0.0) > edge else order
            for order in problem.orders
        ),
    )


def is_block(key: str) -> bool:
    """Whether a stretch stands for a part of a later job."""
    return f":{_BLOCK}" in key


def _in_blocks(order: WorkOrder) -> WorkOrder:
    groups: list[list[Stretch]] = []
    for stretch in order.stretches:
        fits = groups and groups[-1][0].who == stretch.who and groups[-1][0].apart == stretch.apart
        if fits and stretch.pinned is None and not stretch.begun:
            groups[-1].append(stretch)
        else:
            groups.append([stretch])
    return replace(order, stretches=tuple(_block(order, n, group) for n, group in enumerate(groups)))


def _block(order: WorkOrder, number: int, group: Sequence[Stretch]) -> Stretch:
    first = group[0]
    waits = sum(s.wait for s in group if s.wait >= _WAIT)
    return replace(
        first,
        key=f"{order.job}:{_BLOCK}{number}",
        minutes=sum(s.minutes for s in group),
        machines=(),
        wait=waits,
        wait_machines=(),
        largest_lag=None,
        pauses=True,
        not_before=max(s.not_before for s in group),
        part=next((s.part for s in group if s.part), ""),
        steps=tuple(name for s in group for name in s.steps),
    )
