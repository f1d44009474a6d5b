"""The sequence of steps for one axle: computed from its facts, and able to say why."""

from __future__ import annotations

import heapq
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache, lru_cache
from graphlib import CycleError, TopologicalSorter
from types import MappingProxyType
from typing import Any

from axle.data_file import read_table
from axle.errors import AxleError
from axle.procedure.choices import Build, Condition, Facts, condition_from, holds
from axle.procedure.scope import Scope, scope_of
from axle.procedure.stations import kind_named, stations
from axle.procedure.steps import Step, Tool, steps, tools


@dataclass(frozen=True)
class OrderRule:
    """What moves a station, and why.

    :param station: the station that moves.
    :param before: the station it then stands right before, or "".
    :param after: the station it then stands right after, or "".
    :param because: the reason, as the page says it.
    """

    station: str
    before: str
    after: str
    because: str
    where: Condition
    unless: Condition

    def holds_on(self, facts: Facts) -> bool:
        """Say whether the rule holds on an axle with these facts."""
        return holds(self.where, facts) and not (self.unless and holds(self.unless, facts))


@dataclass(frozen=True)
class Need:
    """Something that has to be at hand, with the step that first asks for it."""

    tool: Tool
    first: Step


@dataclass(frozen=True)
class Plan:
    """The work on one axle, in order.

    :param facts: what it follows from.
    :param stations: stations in order.
    :param steps: steps in order.
    :param because: reason by station, where a rule placed it.
    """

    facts: Mapping[str, str]
    stations: tuple[str, ...]
    steps: tuple[Step, ...]
    because: Mapping[str, str]

    def of(self, station: str) -> tuple[Step, ...]:
        """The steps of one station, in order."""
        return tuple(step for step in self.steps if step.station == station)

    def find(self, name: str) -> Step:
        """A step of this plan by name.

        :raises AxleError: when the job has no such step.
        """
        for step in self.steps:
            if step.step == name:
                return step
        raise AxleError("step", given=f"“{name[:40]}”", wanted="a step of this job")

    @property
    def scope(self) -> Scope:
        """What the job covers, and what is not part of it."""
        return scope_of(self.facts)

    @property
    def hands_on(self) -> int:
        """Minutes of work in all."""
        return sum(step.hands_on for step in self.steps)

    @property
    def waiting(self) -> int:
        """Minutes of waiting in all, one after the other."""
        return sum(step.waiting for step in self.steps)

    @property
    def needs(self) -> tuple[Need, ...]:
        """Everything the job asks for, each once, in the order of its first use."""
        found: dict[str, Need] = {}
        for step in self.steps:
            for name in step.tools:
                found.setdefault(name, Need(tools()[name], step))
        return tuple(found.values())


def plan(build: Build) -> Plan:
    """Lay out the work on one axle.

    Steps keep the order of their stations and files, except that a step waits for those it comes
    after.

    :param build: the axle as it is to be built.
    :raises AxleError: when steps wait for each other in a circle.
    :source: ``steps/``, ``sequence.toml``; common practice.

    >>> from axle.layout import CarrierBy, DepthShim, Layout, PreloadBy
    >>> shims = Layout(DepthShim.HEAD, PreloadBy.SPACER, CarrierBy.OUTBOARD)
    >>> plan(Build(shims)).steps[0].step
    'arrival-complaint'
    """
    return _laid_out(tuple(build.facts.items()))


def too_early(of: Plan) -> tuple[tuple[Step, str], ...]:
    """Name the readings that a plan asks for before they can be taken.

    :param of: the plan.
    :returns: (step, reading kind) for each; none on a sound plan.
    :source: ``after`` of ``readings.toml``.
    """
    rank = {name: place for place, name in enumerate(of.stations)}
    return tuple(
        (step, kind)
        for step in of.steps
        for kind in step.readings
        if any(rank[needed] > rank[step.station] for needed in kind_named(kind).after)
    )


@lru_cache(maxsize=64)
def _laid_out(given: tuple[tuple[str, str], ...]) -> Plan:
    """The plan that follows from facts: the same for every job that is alike, and never changed."""
    facts = dict(given)
    order, because = _stations(facts)
    rank = {name: place for place, name in enumerate(order)}
    scope = scope_of(facts)
    left_out = scope.steps | {s.step for s in steps().values() if s.station in scope.without}
    wanted = [s for s in steps().values() if s.belongs(facts) and s.step not in left_out]
    wanted.sort(key=lambda step: rank[step.station])
    return Plan(MappingProxyType(facts), order, steps=_sorted(wanted), because=MappingProxyType(because))


def _stations(facts: Facts) -> tuple[tuple[str, ...], dict[str, str]]:
    order, because = list(stations()), {}
    for rule in rules():
        if rule.holds_on(facts):
            order.remove(rule.station)
            place = order.index(rule.before) if rule.before else order.index(rule.after) + 1
            order.insert(place, rule.station)
            because[rule.station] = rule.because
    return tuple(order), because


def _sorted(wanted: list[Step]) -> tuple[Step, ...]:
    """Every step after those that it follows; of several that are free, the earliest first."""
    place = {step.step: index for index, step in enumerate(wanted)}
    graph = TopologicalSorter({step.step: [a for a in step.after if a in place] for step in wanted})
    try:
        graph.prepare()
    except CycleError as circle:
        stuck = ", ".join(sorted(set(circle.args[1])))
        raise AxleError("steps", given=f"a circle among {stuck}", wanted="an order") from None
    free: list[int] = []
    ordered: list[Step] = []
    while graph.is_active():
        for name in graph.get_ready():
            heapq.heappush(free, place[name])
        step = wanted[heapq.heappop(free)]
        ordered.append(step)
        graph.done(step.step)
    return tuple(ordered)


@cache
def rules() -> tuple[OrderRule, ...]:
    """Every rule that moves a station.

    :raises AxleError: when one names a station that does not exist.
    :source: ``sequence.toml``; common practice.
    """
    rows = read_table(__file__, "data/sequence.toml", dict[str, list[dict[str, Any]]])["rule"]
    for row in rows:
        for name in (row["station"], row.get("before"), row.get("after")):
            if name and name not in stations():
                raise AxleError("sequence.toml", given=f"“{name}”", wanted="a station")
    return tuple(
        OrderRule(
            row["station"],
            row.get("before", ""),
            after=row.get("after", ""),
            because=row["because"],
            where=condition_from("sequence.toml", row["where"]),
            unless=condition_from("sequence.toml", row.get("unless", {})),
        )
        for row in rows
    )
