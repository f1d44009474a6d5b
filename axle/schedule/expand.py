"""A plan step by step: where each step of a stretch lies, for a person's day."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from axle.procedure.steps import Step, steps
from axle.schedule.calendars import WorkingTime
from axle.schedule.durations import StepTimes
from axle.schedule.problem import Placed, Stretch


@dataclass(frozen=True)
class PlacedStep:
    """A step with its place in a plan.

    :param step: the step; nothing for further assemblies.
    :param start: clock minute.
    :param end: clock minute.
    """

    step: Step | None
    start: float
    end: float


def steps_of(
    placed: Placed, stretch: Stretch, hours: WorkingTime, times: StepTimes
) -> Iterator[PlacedStep]:
    """The steps of a stretch one after the other, its minutes shared out as they usually are.

    :param placed: where it lies.
    :param stretch: what it consists of.
    :param hours: of the person.
    :param times: what steps take.
    """
    known = steps()
    shares = [times.minutes(known[name]) if name in known else stretch.minutes for name in stretch.steps]
    total = sum(shares)
    at = placed.start
    for name, share in zip(stretch.steps, shares, strict=True):
        minutes = stretch.minutes * share / total if total else stretch.minutes / len(shares)
        end = hours.end_at(at, minutes)
        yield PlacedStep(known.get(name), at, end)
        at = end
