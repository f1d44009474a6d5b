"""Where the axle stands: each station's state, its number, its limits, and why."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from decimal import Decimal
from enum import Enum

from axle.advice.lash import lash_at
from axle.advice.results import results, valid_run
from axle.advice.runs import newest
from axle.advice.state import AxleState, Settings, Signature, Taken
from axle.advice.verdict import Result
from axle.advice.ways import can_be_read, chosen_way, reading_stale
from axle.depth.marks import MarkConvention
from axle.procedure.staleness import stale_because
from axle.procedure.stations import Way, kind_named, stations
from axle.units import IMPERIAL, Display


class Status(Enum):
    """The state of a station, each with its own sign and word on screen."""

    NOT_BEGUN = "not begun"
    BEGUN = "begun"
    IN_RANGE = "in range"
    OUT = "out"
    STALE = "stale"
    SIGNED = "signed"
    NOT_PART = "not part of this job"


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
    :param way: the chosen way.
    :param signature: the signature that holds, or nothing.
    """

    station: str
    status: Status
    result: Result | None
    stale: str
    missing: tuple[Slot, ...]
    way: Way
    signature: Signature | None = None

    @property
    def is_done(self) -> bool:
        """Whether the work may go past it."""
        return self.status in (Status.IN_RANGE, Status.SIGNED, Status.NOT_PART)


def stand(state: AxleState, display: Display = IMPERIAL) -> Mapping[str, Standing]:
    """Say where every station stands.

    :param state: the axle.
    :param display: units in which reasons are written.
    :source: limits of the job's sheet; staleness by ``stale.toml``.

    >>> from axle.layout import CarrierBy, DepthShim, Layout, PreloadBy
    >>> from axle.gearset import GearSet
    >>> from axle.spec import Sheet
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
    way = chosen_way(state, name)
    if name in state.not_part:
        return Standing(name, Status.NOT_PART, None, "", (), way)
    missing = _missing(name, way, state)
    stale = _stale(name, way, state)
    status = _status(result, stale, missing)
    standing = Standing(name, status, result, stale, missing, way)
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
    return Status.IN_RANGE if result.in_range else Status.OUT


def _missing(name: str, way: Way, state: AxleState) -> tuple[Slot, ...]:
    slots = []
    if name == "ring_gear" and valid_run(state) is not None:
        return ()  # a whole run says more than one figure
    for kind in way.kinds:
        if not can_be_read(kind, name, state):
            continue  # a carrier set first has no pinion to read a backlash against
        needs = kind_named(kind).needs
        if needs and (
            state.sheet.single(needs) is None or state.mark.convention is MarkConvention.DISTANCE
        ):
            continue  # a head height without its master, or beside a marked distance, says nothing
        have = lash_at(state) if kind == "backlash" else state.around(kind)
        for place in range(1, state.places_of(kind) + 1):
            reading = have.get(place)
            if reading is None or _is_wanted_again(name, reading, state):
                slots.append(Slot(kind, place))
    if name == "pattern":
        here = [p for p in state.prints if p.assembly == state.assembly]
        current = max(here, key=lambda p: p.order, default=None)
        stale = current and stale_because(name, state.layout, current.settings, state.settings)
        for place, flank in enumerate(("drive", "coast"), start=1):
            if current is None or stale or flank not in current.flanks:
                slots.append(Slot("pattern", place))
    return tuple(slots)


def _stale(name: str, way: Way, state: AxleState) -> str:
    """The reason why the newest readings of a station no longer hold, if none holds."""
    if name == "pattern":
        if not state.prints:
            return ""
        newest_print = max(state.prints, key=lambda p: p.order)
        return stale_because(name, state.layout, newest_print.settings, state.settings)
    reasons = []
    if name == "ring_gear":
        run, single = newest(state, "ring"), state.latest("ring_runout")
        if run is not None and not (single is not None and single.order > run.order):
            return stale_because(name, state.layout, run.settings, state.settings)
    for kind in way.kinds:
        read = lash_at(state) if kind == "backlash" else state.around(kind)
        for reading in read.values():
            reasons.append(reading_stale(name, kind, reading.settings, state))
    return reasons[0] if reasons and all(reasons) else ""


def _is_wanted_again(name: str, reading: Taken, state: AxleState) -> bool:
    if name == "backlash" and reading.backlash_conditions.doubts:
        return True
    return bool(reading_stale(name, reading.kind, reading.settings, state))


def _still_holds(signature: Signature, name: str, state: AxleState) -> bool:
    later = [t for t in state.taken if t.order > signature.order]
    later_prints = [p for p in state.prints if p.order > signature.order]
    if name == "sheet":
        return not later and not later_prints and same(signature.settings, state.settings)
    if any(t.kind in stations()[name].kinds for t in later):
        return False
    if name == "ring_gear" and any(r.order > signature.order for r in state.runs if r.part == "ring"):
        return False
    if name == "pattern" and later_prints:
        return False
    return not stale_because(name, state.layout, signature.settings, state.settings)


def same(one: Settings, other: Settings) -> bool:
    """Say whether two sets of settings are alike; nothing fitted counts as 0."""
    places = set(one) | set(other)
    return all(one.get(place, Decimal(0)) == other.get(place, Decimal(0)) for place in places)
