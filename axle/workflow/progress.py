"""How far the work is: each step's state, what holds it, and which step is in hand."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from enum import Enum
from typing import Final

from axle.layout import Layout, Place
from axle.procedure.choices import holds
from axle.procedure.names import KindName
from axle.procedure.sequence import Plan
from axle.procedure.staleness import stale_because, stales
from axle.procedure.stations import kind_named, stations
from axle.procedure.steps import Hold, Step
from axle.state.axle_state import AxleState
from axle.state.settings import Settings
from axle.stations.pinion_trials import trial_reason
from axle.stations.station_state import Standing, Status

# The four results that are measured on the final parts before oil goes in.
FINAL = ("pinion_preload", "carrier_preload", "backlash", "pattern")


class StepMarkKind(Enum):
    """What a person marked on a step."""

    BEGUN = "begun"
    DONE = "done"
    WAIVED = "waived"
    UNDONE = "undone"


class StepStatus(Enum):
    """The state of a step."""

    OPEN = "open"
    BEGUN = "begun"
    HELD = "held"
    DONE = "done"
    WAIVED = "waived"


@dataclass(frozen=True)
class Marked:
    """The newest mark on a step.

    :param mark: what was marked.
    :param order: rises with time.
    :param person: who.
    :param reason: why, for a deviation.
    :param settings: what was in the axle then.
    :param before: steps that come before it and were open then.
    """

    mark: StepMarkKind
    order: int
    person: str
    reason: str = ""
    settings: Settings | None = None
    before: tuple[str, ...] = ()


@dataclass(frozen=True)
class StepStanding:
    """A step as it stands.

    :param step: the step.
    :param status: its state.
    :param held: why its hold point does not let the work past, one sentence each.
    :param marked: the newest mark that holds, or nothing.
    """

    step: Step
    status: StepStatus
    held: tuple[str, ...] = ()
    marked: Marked | None = None

    @property
    def is_passed(self) -> bool:
        """Whether the work may go past it."""
        return self.status in (StepStatus.DONE, StepStatus.WAIVED)


@dataclass(frozen=True)
class Records:
    """What holds look at beside the readings.

    :param marks: newest mark by step.
    :param open_lists: what each list still waits for: "tools", "marks", "shims", "back", "tools_in",
        "findings", "torques".
    :param chosen: choices that were made, not taken as usual.
    :param torqued: groups of fasteners of which every stage is signed and stands.
    :param awaited: by step, what it waits for beside its hold: a part on order, a supplement to be agreed.
    """

    marks: Mapping[str, Marked]
    open_lists: Mapping[str, tuple[str, ...]]
    chosen: frozenset[str]
    torqued: frozenset[str] = frozenset()
    awaited: Mapping[str, tuple[str, ...]] = field(default_factory=dict)


def progress(
    plan: Plan, state: AxleState, standings: Mapping[str, Standing], records: Records
) -> tuple[StepStanding, ...]:
    """Say where every step of a plan stands.

    A hold point passes by its reading or record; a signed deviation passes it too, until a later
    reading of the same kind. A step without one passes when it is marked done, or by the reading that
    proves it.

    :param plan: the work on this axle.
    :param state: the axle.
    :param standings: where its stations stand.
    :param records: marks and lists.
    :source: common practice (the order of the work and its hold points).
    """
    return tuple(
        _awaiting(_stand(step, plan, state=state, standings=standings, records=records), records)
        for step in plan.steps
    )


def _awaiting(standing: StepStanding, records: Records) -> StepStanding:
    """A step that is not passed says what it waits for."""
    words = records.awaited.get(standing.step.step, ())
    if not words or standing.is_passed:
        return standing
    return replace(standing, held=(*words, *standing.held))


@dataclass(frozen=True)
class StationWork:
    """How far the steps of one station are.

    :param station: its name.
    :param passed: number of steps passed.
    :param count: number of steps.
    :param held: hold points that are claimed or open here, beside the station's own.
    """

    station: str
    passed: int
    count: int
    held: tuple[StepStanding, ...]

    @property
    def status(self) -> Status:
        """The state of a station that only its steps settle."""
        if self.passed == self.count:
            return Status.IN_RANGE
        if any(s.status is StepStatus.HELD for s in self.held):
            return Status.OUT
        return Status.BEGUN if self.passed else Status.NOT_BEGUN


def work_at(station: str, of: tuple[StepStanding, ...]) -> StationWork:
    """How far the steps of a station are.

    :param station: its name.
    :param of: every step, in order.
    :source: common practice.
    """
    here = [s for s in of if s.step.station == station]
    held = tuple(
        s for s in here if s.held and not s.is_passed and s.step.hold and s.step.hold.by != "station"
    )
    return StationWork(station, sum(s.is_passed for s in here), count=len(here), held=held)


# Steps by which the final bearings go in.
_FINAL_PARTS: Final = ("final-bearings", "preload-final-stack")


def station_in_hand(plan: Plan, standings: Mapping[str, Standing], of: tuple[StepStanding, ...]) -> str:
    """The station in hand: the first that is not measured yet, or whose steps are not done.

    Steps of a measured station do not hold the work up, only its readings do; a hold point that
    waits for a list does not either, but the build sheet is not signed before it is met.

    :param plan: the work on this axle.
    :param standings: where its measured stations stand.
    :param of: every step, in order.
    :source: the order of the plan.
    """
    # What a reading proves waits for the reading, here as at a measured station.
    free = {s.step.station for s in of if not s.is_passed and not s.held and not s.step.readings}
    for name in plan.stations:
        if stations()[name].is_measured and not standings[name].is_done:
            return name
        if not stations()[name].is_measured and name in free:
            return name
    return plan.stations[-1]


def step_in_hand(of: tuple[StepStanding, ...], station: str) -> StepStanding:
    """The step in hand: the one begun last and not passed, else the next of the station in hand.

    :param of: every step, in order; at least one.
    :param station: the station in hand.
    :source: common practice.
    """
    begun = [s for s in of if s.status is StepStatus.BEGUN and s.marked is not None]
    if begun:
        return max(begun, key=lambda s: s.marked.order if s.marked else 0)
    here = [s for s in of if s.step.station == station]
    return next((s for s in here if not s.is_passed), here[-1] if here else of[-1])


def open_before(step: str, of: tuple[StepStanding, ...]) -> tuple[StepStanding, ...]:
    """The steps that come before one and are not passed: doing it now is out of order.

    :param step: the step.
    :param of: every step, in order.
    :source: the order of the plan.
    """
    place = next(i for i, standing in enumerate(of) if standing.step.step == step)
    return tuple(standing for standing in of[:place] if not standing.is_passed)


def goes_stale(step: Step, layout: Layout) -> tuple[str, ...]:
    """Name the results that doing a step makes stale.

    :param step: the step.
    :param layout: the axle's layout.
    :source: ``stale.toml``.

    >>> from axle.layout import CarrierBy, DepthShim, PreloadBy
    >>> from axle.procedure.steps import step_named
    >>> shims = Layout(DepthShim.HEAD, PreloadBy.SPACER, CarrierBy.OUTBOARD)
    >>> "backlash" in goes_stale(step_named("depth-pack"), shims)
    True
    """
    lines: list[str] = []
    for place in step.changes:
        lines += [name for name in stales(place, layout) if name not in lines]
    return tuple(lines)


def _stand(
    step: Step, plan: Plan, state: AxleState, standings: Mapping[str, Standing], records: Records
) -> StepStanding:
    marked = records.marks.get(step.step)
    if marked is not None and marked.mark is StepMarkKind.UNDONE:
        marked = None
    hold = step.hold
    if hold is None or not holds(hold.where, plan.facts):
        # A hold that does not stop the work here still shows by what it asks for that the step was done.
        met = hold is not None and not _held(hold, step, plan, state, standings, records)
        if met or _is_proven(step, state, records):
            return StepStanding(step, StepStatus.DONE, held=(), marked=marked)
        return _unheld(step, marked)
    held = _held(hold, step, plan=plan, state=state, standings=standings, records=records)
    if not held:
        return StepStanding(step, StepStatus.DONE, held=(), marked=marked)
    if marked is not None and marked.mark is StepMarkKind.WAIVED and _waiver_holds(step, marked, state):
        return StepStanding(step, StepStatus.WAIVED, held=held, marked=marked)
    if marked is not None and marked.mark is StepMarkKind.DONE and hold.by == "signature":
        return StepStanding(step, StepStatus.DONE, held=(), marked=marked)
    begun = marked is not None and marked.mark is StepMarkKind.BEGUN
    if begun:
        return StepStanding(step, StepStatus.BEGUN, held=held, marked=marked)
    claimed = marked is not None and marked.mark is not StepMarkKind.WAIVED
    return StepStanding(step, StepStatus.HELD if claimed else StepStatus.OPEN, held=held, marked=None)


def _is_proven(step: Step, state: AxleState, records: Records) -> bool:
    """Whether a reading or record shows that a step without a hold was done."""
    if any(_read(kind, state) for kind in step.readings):
        return True
    shown = {
        "mark": state.mark.confirmed,
        "print": any(p.assembly == state.assembly for p in state.prints),
        "torque ring": "ring" in records.torqued,
    }
    return any(shown[name] for name in step.proof)


def _unheld(step: Step, marked: Marked | None) -> StepStanding:
    if marked is None:
        return StepStanding(step, StepStatus.OPEN)
    status = {
        StepMarkKind.DONE: StepStatus.DONE,
        StepMarkKind.WAIVED: StepStatus.WAIVED,
        StepMarkKind.BEGUN: StepStatus.BEGUN,
    }[marked.mark]
    return StepStanding(step, status, held=(), marked=marked)


def _waiver_holds(step: Step, marked: Marked, state: AxleState) -> bool:
    later = [t for t in state.readings if t.order > marked.order and t.kind in step.readings]
    if later or step.hold is None:
        return False
    names = step.hold.of if step.hold.by == "station" else FINAL if step.hold.by == "final" else ()
    then = marked.settings or Settings()
    return not any(stale_because(name, state.layout, then, state.settings) for name in names)


def _held(  # noqa: PLR0911 - one line for each kind of hold
    hold: Hold,
    step: Step,
    plan: Plan,
    state: AxleState,
    standings: Mapping[str, Standing],
    records: Records,
) -> tuple[str, ...]:
    """Why the hold does not let the work past; nothing when it does."""
    if hold.by == "station":
        return _station_held(hold.of[0], standings)
    if hold.by == "nil":
        taken = state.latest(hold.of[0])
        title = kind_named(hold.of[0]).title
        if taken is None:
            return (f"{title}: not read yet.",)
        return () if taken.value == 0 else (f"{title}: not nil.",)
    if hold.by == "read":
        return tuple(f"{kind_named(k).title}: not read yet." for k in hold.of if not _read(k, state))
    if hold.by == "choice":
        return () if hold.of[0] in records.chosen else ("Not recorded yet.",)
    if hold.by == "pattern":
        wanted = {"drive", "coast"} - set(state.found)
        return tuple(f"The {flank} flank as found is not marked yet." for flank in sorted(wanted))
    if hold.by == "list":
        return records.open_lists.get(hold.of[0], ())
    if hold.by == "final":
        return _final_held(plan, state, standings, records)
    return ("Wants a signature.",)


def _station_held(name: str, standings: Mapping[str, Standing]) -> tuple[str, ...]:
    standing = standings[name]
    if standing.is_done:
        return ()
    title = stations()[name].title
    if standing.stale:
        return (f"{title}: stale, {standing.stale}.",)
    words = standing.result.words if standing.result else standing.status.value
    return (f"{title}: {words}.",)


def _final_held(
    plan: Plan, state: AxleState, standings: Mapping[str, Standing], records: Records
) -> tuple[str, ...]:
    """Backlash, both preloads and the pattern, each on its own reading and on final parts."""
    lines = [line for name in FINAL for line in _station_held(name, standings)]
    marks = [records.marks[name].mark for name in _FINAL_PARTS if name in records.marks]
    if plan.facts["trial"] == "setup" and StepMarkKind.DONE not in marks:
        lines.insert(0, "The set-up bearings are still in: fit the final ones, then read everything again.")
    elif plan.facts["trial"] == "setup" and not state.setting(Place.BEARINGS):
        lines.insert(0, "Nothing is read on the final bearings yet.")
    torque = state.latest(KindName.PINION_TORQUE)
    trial = trial_reason(state, torque) if torque is not None else ""
    if trial:
        lines.append(f"Pinion preload: a trial, read {trial}. Read it on the final parts.")
    return tuple(lines)


def _read(kind: str, state: AxleState) -> bool:
    return len(state.around(kind)) >= state.places_of(kind)
