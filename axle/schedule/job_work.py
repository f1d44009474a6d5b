"""The work that is left on a job, as stretches that one person does in a row."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from itertools import pairwise
from typing import Final

from axle.errors import AxleError
from axle.procedure.flow import flow_of, is_apart_from, machines, machines_of
from axle.procedure.stations import stations
from axle.procedure.steps import Step
from axle.schedule.durations import StepTimes
from axle.schedule.problem import BENCH, Stretch, WorkOrder

# A stretch is at most so long [min]: longer ones fit into few days.
_LONGEST: Final = 180
# A machine that is wanted for less [min] holds nobody up, a wait that is shorter is stood by, and a step
# that may not pause and is shorter is finished before the break.
_SHORT_USE: Final = 15
_SHORT_WAIT: Final = 15
_SHORT_STEP: Final = 30
# Name of the stretch of further assemblies, in place of a step.
AGAIN: Final = "again"
_READ_AGAIN: Final = ("pattern", "backlash", "carrier_preload", "pinion_preload", "depth")


@dataclass(frozen=True)
class Begun:
    """A step that somebody is at.

    :param step: its name.
    :param person: who.
    :param minutes: working minutes since it was begun, 0 or more.
    """

    step: str
    person: str
    minutes: float


@dataclass(frozen=True)
class PartComes:
    """When a part is here that a step waits for.

    :param at: clock minute.
    :param words: which part, and from whom.
    :param supplier: who sends it, or "".
    """

    at: float
    words: str
    supplier: str = ""


@dataclass(frozen=True)
class JobWork:
    """The work that is left on one job.

    :param job: its name in the plan.
    :param stations: its stations in order.
    :param layout: where the carrier's shims are, for what steps take.
    :param steps: steps that are left, in order.
    :param begun: the step in hand, or nothing.
    :param further: chances of 0, 1, 2, ... further assemblies.
    :param further_minutes: minutes of work of one of them.
    :param parts: when what a step waits for is here, by step.
    :param pins: clock minute and person, by the first step of a stretch; either may be nothing.
    :param promise: clock minute, or nothing.
    :param weight: how urgent, 1 is usual.
    :param is_apart: whether its axle is apart already.
    """

    job: str
    stations: tuple[str, ...]
    layout: str
    steps: tuple[Step, ...]
    begun: Begun | None = None
    further: tuple[float, ...] = (1.0,)
    further_minutes: float = 0.0
    parts: Mapping[str, PartComes] = field(default_factory=dict)
    pins: Mapping[str, tuple[float | None, str]] = field(default_factory=dict)
    promise: float | None = None
    weight: float = 1.0
    is_apart: bool = False

    @property
    def expected_further(self) -> float:
        """Further assemblies on the average."""
        return sum(number * chance for number, chance in enumerate(self.further))


@dataclass(frozen=True)
class ShopMeans:
    """Who and what a shop has for its work.

    :param may: stations by person for whose steps they are planned.
    :param roles: role by person.
    :param machines: how many there are, by machine; what is not named is as usual.
    """

    may: Mapping[str, frozenset[str]]
    roles: Mapping[str, str]
    machines: Mapping[str, int]

    def count(self, machine: str) -> int:
        """How many there are of a machine."""
        return self.machines.get(machine, machines()[machine].usual)

    @property
    def counted(self) -> dict[str, int]:
        """Machines that can be short: fewer than people, and the benches."""
        people = len(self.may)
        return {
            name: self.count(name) for name in machines() if name == BENCH or 0 < self.count(name) < people
        }

    def able(self, station: str) -> tuple[str, ...]:
        """People for a station's steps."""
        return tuple(sorted(person for person, names in self.may.items() if station in names))


@dataclass(frozen=True)
class _Piece:
    """A step, or the part of it before or after its wait."""

    step: Step
    minutes: float
    who: tuple[str, ...]
    machines: tuple[str, ...]
    pauses: bool
    apart: bool
    wait: float = 0
    wait_machines: tuple[str, ...] = ()
    lag: float | None = None
    part: PartComes | None = None
    with_next: bool = False
    begun: bool = False
    is_rest: bool = False


def work_order(work: JobWork, times: StepTimes, means: ShopMeans) -> WorkOrder:
    """A job as a plan takes it.

    :param work: what is left of it.
    :param times: what steps take.
    :param means: who and what the shop has.
    :raises AxleError: where nobody may do what is left.
    """
    pieces = list(_pieces(work, times, means))
    stretches = [_stretch(work, group) for group in _grouped(pieces, work.pins)]
    _add_further(work, means, stretches)
    return WorkOrder(
        work.job, tuple(stretches), promise=work.promise, weight=work.weight, on_bench=work.is_apart
    )


def _pieces(work: JobWork, times: StepTimes, means: ShopMeans) -> Iterator[_Piece]:
    counted = means.counted
    order = {step.step: place for place, step in enumerate(work.steps)}
    done_meanwhile: set[str] = set()
    for step in work.steps:
        if step.step in done_meanwhile:
            continue
        flow = flow_of(step.step)
        piece = _piece(step, work, times, means)
        if not step.waiting:
            yield piece
            continue
        on = (flow.on,) if flow.on in counted else ()
        inside = [
            work.steps[order[name]]
            for name in flow.meanwhile
            if name in order and order[name] > order[step.step] and name not in done_meanwhile
        ]
        before = piece.minutes if flow.before is None else min(float(flow.before), piece.minutes)
        filled = [_piece(other, work, times, means) for other in inside if other.step not in work.parts]
        filled = [other for other in filled if set(other.who) & set(piece.who)]
        done_meanwhile |= {other.step.step for other in filled}
        left = max(step.waiting - sum(other.minutes for other in filled), 0.0)
        first = replace(piece, minutes=before)
        if left < _SHORT_WAIT and flow.lag is None:
            first, left = replace(first, minutes=before + left), 0.0
        rest = piece.minutes - before
        chain = [first, *filled]
        chain[-1] = replace(chain[-1], wait=left, wait_machines=on, lag=flow.lag if rest else None)
        yield from chain
        if rest > 0:
            yield replace(piece, minutes=rest, part=None, begun=False, is_rest=True)


def _piece(step: Step, work: JobWork, times: StepTimes, means: ShopMeans) -> _Piece:
    who, begun = means.able(step.station), work.begun
    if not who:
        raise AxleError(
            f"plan of job {work.job}",
            given=f"nobody for {stations()[step.station].title.lower()}",
            wanted="somebody who may do it",
            do="Say under Hours and machines what each person does.",
        )
    roles = {means.roles[person] for person in who}
    minutes = times.minutes(step, roles.pop() if len(roles) == 1 else "", work.layout)
    # A machine that is not there: the other way costs its minutes.
    missing = [machines()[name].costs for name in machines_of(step) if means.count(name) == 0]
    minutes += sum(missing)
    is_begun = begun is not None and begun.step == step.step
    if is_begun and begun is not None:
        minutes = max(minutes - begun.minutes, minutes * 0.1, 1.0)
        who = (begun.person,) if begun.person in means.may else who
    flow = flow_of(step.step)
    return _Piece(
        step,
        minutes,
        who=who,
        machines=tuple(m for m in machines_of(step) if m in means.counted and minutes >= _SHORT_USE),
        pauses=flow.pauses or minutes < _SHORT_STEP,
        apart=is_apart_from(step.station, work.stations),
        part=work.parts.get(step.step),
        with_next=flow.with_next,
        begun=is_begun,
    )


def _grouped(pieces: Sequence[_Piece], pins: Collection[str]) -> Iterator[list[_Piece]]:
    """Pieces that go together: the same people and machines, no wait, no part and no pin in between."""
    group: list[_Piece] = []
    for before, piece in pairwise([None, *pieces]):
        assert piece is not None
        goes_on = (
            before is not None
            and not before.wait
            and (piece.is_rest or piece.step.step not in pins)
            # What follows at once stands alone with it: the rest may pause.
            and before.lag is None
            and piece.lag is None
            and not (len(group) == 1 and before.is_rest and flow_of(before.step.step).lag is not None)
            and (piece.part is None or piece.part == before.part)
            and piece.apart == before.apart
            and (
                before.with_next
                or (
                    piece.who == before.who
                    and piece.machines == before.machines
                    and piece.pauses == before.pauses
                    and sum(p.minutes for p in group) + piece.minutes <= _LONGEST
                )
            )
        )
        if group and not goes_on:
            yield group
            group = []
        group.append(piece)
    if group:
        yield group


def _stretch(work: JobWork, group: Sequence[_Piece]) -> Stretch:
    first, last = group[0], group[-1]
    who = tuple(person for person in first.who if all(person in piece.who for piece in group)) or first.who
    part = max((p.part for p in group if p.part is not None), key=lambda part: part.at, default=None)
    key = f"{work.job}:{first.step.step}" + ("+" if first.is_rest else "")
    at, person = (None, "") if first.is_rest else work.pins.get(first.step.step, (None, ""))
    return Stretch(
        key,
        max(round(sum(p.minutes for p in group)), 1),
        who=(person,) if person in who else who,
        machines=tuple(sorted({name for p in group for name in p.machines})),
        pauses=all(p.pauses for p in group) and last.lag is None,
        wait=round(last.wait),
        wait_machines=last.wait_machines,
        largest_lag=last.lag,
        not_before=part.at if part else 0.0,
        part=part.words if part else "",
        pinned=at,
        begun=first.begun,
        apart=first.apart,
        steps=tuple(dict.fromkeys(p.step.step for p in group)),
    )


def _add_further(work: JobWork, means: ShopMeans, stretches: list[Stretch]) -> None:
    """Put the further assemblies that are to be expected after the last station that reads them."""
    minutes = round(work.expected_further * work.further_minutes)
    last = next((name for name in _READ_AGAIN if name in work.stations), "")
    who = means.able(last) if last else ()
    if not minutes or not who:
        return
    station_of = {step.step: step.station for step in work.steps}
    after = [n for n, s in enumerate(stretches) if any(station_of[name] in _READ_AGAIN for name in s.steps)]
    place = after[-1] + 1 if after else 0
    again = Stretch(f"{work.job}:{AGAIN}", minutes, who, apart=True, steps=(AGAIN,))
    stretches.insert(place, again)
