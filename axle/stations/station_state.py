"""Where the axle stands: each station's state, its number, its limits, and why."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from enum import Enum
from typing import Final

from axle.depth.marks import MarkConvention
from axle.measure.units import IMPERIAL, Display
from axle.procedure.names import KindName, StationName
from axle.procedure.staleness import stale_because
from axle.procedure.stations import Method, kind_named, stations
from axle.state.axle_state import AxleState
from axle.state.kept import kept
from axle.state.reading import Reading, Signature
from axle.stations.backlash import backlash_readings
from axle.stations.method import can_be_read, chosen_method, reading_stale
from axle.stations.result import Outcome, Result
from axle.stations.results import results, valid_run
from axle.stations.runout import newest
from axle.stations.zero_play import sides_are_set


class Status(Enum):
    """The state of a station, each with its own sign and word on screen."""

    NOT_BEGUN = "not begun"
    BEGUN = "begun"
    IN_RANGE = "in range"
    RECORDED = "recorded"
    OUT = "out"
    STALE = "stale"
    SIGNED = "signed"
    NOT_PART = "not part of this job"

    @property
    def is_done(self) -> bool:
        """Whether nothing is left to do at such a station."""
        return self in (Status.IN_RANGE, Status.RECORDED, Status.SIGNED, Status.NOT_PART)


@dataclass(frozen=True)
class Slot:
    """A reading that a station still wants.

    :param kind: as in ``readings.toml``.
    :param place: place around the ring, from 1.
    """

    kind: str
    place: int


@dataclass(frozen=True)
class Standing:
    """A station as it stands.

    :param station: its name.
    :param status: its state.
    :param result: what the readings come to, or nothing.
    :param stale: why the result no longer holds, or "".
    :param missing: readings still wanted for the chosen way, in order.
    :param method: the chosen way.
    :param signature: the signature that holds, or nothing.
    """

    station: str
    status: Status
    result: Result | None
    stale: str
    missing: tuple[Slot, ...]
    method: Method
    signature: Signature | None = None

    @property
    def is_done(self) -> bool:
        """Whether the work may go past it."""
        return self.status in (Status.IN_RANGE, Status.RECORDED, Status.SIGNED, Status.NOT_PART)


@kept
def stand(state: AxleState, display: Display = IMPERIAL) -> Mapping[str, Standing]:
    """Say where every station stands.

    :param state: the axle.
    :param display: units in which reasons are written.
    :source: limits of the job's sheet; staleness by ``stale.toml``.

    >>> from axle.layout import CarrierBy, DepthShim, Layout, PreloadBy
    >>> from axle.gearset import GearSet
    >>> from axle.spec.sheet import Sheet
    >>> layout = Layout(DepthShim.HEAD, PreloadBy.SPACER, CarrierBy.OUTBOARD)
    >>> stand(AxleState(layout, GearSet(9, 38), Sheet("x", {})))["backlash"].status.value
    'not begun'
    """
    found = results(state, display)
    order = state.stations or tuple(stations())
    return {name: _station(name, state, found.get(name)) for name in order if stations()[name].is_measured}


def in_hand(standings: Mapping[str, Standing]) -> str:
    """Name the station in hand: the first that is not done, or the last.

    :param standings: every station, in order.
    :source: common practice (the order of the work).
    """
    for name, standing in standings.items():
        if not standing.is_done:
            return name
    return next(reversed(list(standings)))


def _station(name: str, state: AxleState, result: Result | None) -> Standing:
    method = chosen_method(state, name)
    if name in state.not_part:
        return Standing(name, Status.NOT_PART, result=None, stale="", missing=(), method=method)
    missing = _missing(name, method, state)
    stale = _stale(name, method, state)
    status = _status(result, stale, missing)
    standing = Standing(name, status, result=result, stale=stale, missing=missing, method=method)
    signature = state.signatures.get(name)
    if signature and _still_holds(signature, name, state):
        return replace(standing, status=Status.SIGNED, signature=signature)
    return standing


def _status(result: Result | None, stale: str, missing: tuple[Slot, ...]) -> Status:
    if result is None:
        return Status.STALE if stale else Status.NOT_BEGUN
    if stale:
        return Status.STALE
    if missing:
        # What is read so far may already be out; then it is said before the last place is read.
        return Status.OUT if result.decided and not result.in_range else Status.BEGUN
    if result.outcome is Outcome.RECORDED:
        return Status.RECORDED  # read, and held to nothing
    return Status.IN_RANGE if result.in_range else Status.OUT


_BEFORE_PACKS: Final = frozenset({KindName.SPACER_BACKLASH, KindName.HELD_BACKLASH})


def _missing(name: str, method: Method, state: AxleState) -> tuple[Slot, ...]:
    slots = []
    if name == StationName.RING_GEAR and valid_run(state) is not None:
        return ()  # a whole run says more than one figure
    for kind in method.kinds:
        if not can_be_read(kind, name, state):
            continue  # a carrier set first has no pinion to read a backlash against
        if kind in _BEFORE_PACKS and state.around(kind) and sides_are_set(state):
            continue  # it was for the first packs, and they are in
        needs = kind_named(kind).needs
        if needs and (
            state.sheet.single(needs) is None or state.mark.convention is MarkConvention.DISTANCE
        ):
            continue  # a head height without its master, or beside a marked distance, says nothing
        have = backlash_readings(state) if kind == KindName.BACKLASH else state.around(kind)
        for place in range(1, state.places_of(kind) + 1):
            reading = have.get(place)
            if reading is None or _is_wanted_again(name, reading, state):
                slots.append(Slot(kind, place))
    if name == StationName.PATTERN:
        here = [p for p in state.prints if p.assembly == state.assembly]
        current = max(here, key=lambda p: p.order, default=None)
        stale = current and stale_because(name, state.layout, current.settings, state.settings)
        for place, flank in enumerate(("drive", "coast"), start=1):
            if current is None or stale or flank not in current.flanks:
                slots.append(Slot("pattern", place))
    return tuple(slots)


def _stale(name: str, method: Method, state: AxleState) -> str:
    """The reason why the newest readings of a station no longer hold, if none holds."""
    if name == StationName.PATTERN:
        if not state.prints:
            return ""
        newest_print = max(state.prints, key=lambda p: p.order)
        return stale_because(name, state.layout, newest_print.settings, state.settings)
    reasons = []
    if name == StationName.RING_GEAR:
        run, single = newest(state, "ring"), state.latest(KindName.RING_RUNOUT)
        if run is not None and not (single is not None and single.order > run.order):
            return stale_because(name, state.layout, run.settings, state.settings)
    for kind in method.kinds:
        read = backlash_readings(state) if kind == KindName.BACKLASH else state.around(kind)
        for reading in read.values():
            reasons.append(reading_stale(name, kind, reading.settings, state))
    return reasons[0] if reasons and all(reasons) else ""


def _is_wanted_again(name: str, reading: Reading, state: AxleState) -> bool:
    if name == StationName.BACKLASH and reading.backlash_conditions.doubts:
        return True
    return bool(reading_stale(name, reading.kind, reading.settings, state))


def _still_holds(signature: Signature, name: str, state: AxleState) -> bool:
    later = [t for t in state.readings if t.order > signature.order]
    later_prints = [p for p in state.prints if p.order > signature.order]
    if name == StationName.SHEET:
        return not later and not later_prints and signature.settings.same_as(state.settings)
    if any(t.kind in stations()[name].kinds for t in later):
        return False
    if name == StationName.RING_GEAR and any(
        r.order > signature.order for r in state.runs if r.part == "ring"
    ):
        return False
    if name == StationName.PATTERN and later_prints:
        return False
    return not stale_because(name, state.layout, signature.settings, state.settings)
