"""Readings on which a dear change rests: read twice, and once more where the two do not agree."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Final

from axle.decision.move import Act, Move
from axle.decision.remeasure import read_again
from axle.layout import Place
from axle.measure.range import ROUNDING, RangeSide
from axle.measure.repeats import MOST, brought_together
from axle.measure.units import IMPERIAL, Display, percent
from axle.procedure.names import KindName, StationName
from axle.procedure.stations import ReadingKind, kind_named, reading_kinds, station_of, stations
from axle.state.axle_state import AxleState
from axle.state.reading import Reading, repeatability_of
from axle.stations.mesh import why_not_readable
from axle.stations.method import is_present
from axle.stations.station_state import Standing, Status

# What a reading that is taken with the mesh parted stands on.
READ_BEFORE_MESH: Final = {
    "pinion_torque": (Place.DEPTH, Place.PRELOAD, Place.BEARINGS, Place.SLINGER),
    "carrier_torque": (Place.RING, Place.FAR, Place.BEARINGS),
}


def read_twice(
    state: AxleState, standings: Mapping[str, Standing], station: str, display: Display = IMPERIAL
) -> Move | None:
    """A reading that decides a pack and was taken once, or whose repeats differ by more than they should.

    :param state: the axle.
    :param standings: where it stands.
    :param station: the one in hand: what is in range and past decides no pack any more.
    :param display: units of the words.
    :returns: nothing where all that can be read again was read twice and agrees.
    :source: common practice: a minute against a strip-down; critical ranges of ISO 5725-6.
    """
    for name, kind in reading_kinds().items():
        # A depth is measured in one way: what belongs to another is not asked for.
        ways = standings[station].method if station == StationName.DEPTH else stations()[station]
        in_hand = name in ways.kinds
        if not kind.twice or not (in_hand or name in READ_BEFORE_MESH):
            continue
        if (asked := _wanted(state, kind, display)) and not _is_signed(standings, name):
            place, words = asked
            title = f"Read once more: {kind.title.lower()}"
            again = kind.repeats == 1
            return Move.read(title, station_of(name), asks=((name, place),), why=(words,), again=again)
    return _bolt_again(state, standings)


def before_a_stop(state: AxleState, standing: Standing, move: Move) -> Move:
    """A reading that was taken once is taken again before the work stops for it.

    :param state: the axle.
    :param standing: the station in hand.
    :param move: the next one.
    :returns: the same move where nothing stops, or all that can be read again was.
    :source: common practice: one figure that is misread stops nobody.
    """
    if move.act not in (Act.LOOK, Act.REPLACE) or move.faults or move.station != standing.station:
        return move
    if standing.missing or (move.act is Act.LOOK and not any(state.drawer.values())):
        return move  # another reading comes first; without shims nothing follows from a second one
    read = [
        newest
        for kind in standing.method.kinds
        for newest in state.around(kind).values()
        if is_present(newest, state) and not why_not_readable(kind, state, {})
    ]
    doubted = [t for t in read if t.count == 1 or (t.disagrees and t.count < MOST)]
    if not doubted:
        return move
    newest = max(doubted, key=lambda t: t.order)
    why = "The work would stop for it: a figure that is misread costs a minute to read again."
    asked = read_again(newest.kind, newest.place, move.station, (why, *move.why))
    return replace(asked, notes=move.notes, others=move.others)


def _bolt_again(state: AxleState, standings: Mapping[str, Standing]) -> Move | None:
    """A bolt under its range is tightened; one that reads over it, once, is first of all misread."""
    for name, kind in reading_kinds().items():
        limits = state.sheet.range(kind.limit) if kind.bolt and kind.limit else None
        if limits is None or name == KindName.ADJUSTER_PULL or _is_signed(standings, name):
            continue
        for reading in state.around(name).values():
            once = reading.count == 1 or (reading.disagrees and reading.count < MOST)
            if limits.holds(reading.value) or not is_present(reading, state):
                continue
            asks = ((name, reading.place),)
            if limits.side(reading.value) is RangeSide.UNDER:
                why = ("It is under its range. Tighten it in stages to the range, and enter what it took.",)
                title = f"Tighten to the range: {kind.title.lower()}"
                return Move.read(title, station_of(name), asks=asks, why=why)
            if once:
                why = ("It is out of its limits. Read the wrench again before anything is turned.",)
                title = f"Read again: {kind.title.lower()}"
                return Move.read(title, station_of(name), asks=asks, why=why, again=True)
    return None


def _is_signed(standings: Mapping[str, Standing], kind: str) -> bool:
    standing = standings.get(station_of(kind))
    return standing is None or standing.status in (Status.SIGNED, Status.NOT_PART)


def hump_words(reading: Reading, display: Display) -> str:
    """What readings that disagree may be of: each with its chance, never their mean.

    :param reading: of several.
    :param display: units of the words.
    :source: :func:`axle.measure.repeats.brought_together`.
    """
    if len(reading.humps) < 2:
        return ""
    dimension = kind_named(reading.kind).dimension
    shown = [f"{display.show(value, dimension)} ({percent(chance)})" for value, chance in reading.humps[:3]]
    return f" They may be of {' or of '.join(shown)}, and of nothing between."


def _wanted(state: AxleState, kind: ReadingKind, display: Display) -> tuple[int, str] | None:
    """The place at which a kind is read once more, and why; nothing where it is not."""
    newest = _standing(state, kind)
    if newest is None or newest.value <= ROUNDING or why_not_readable(kind.kind, state, {}):
        return None
    if kind.kind == KindName.PINION_TORQUE and _is_on_its_way(state, newest):
        return None  # the next bite of the nut is a reading of its own
    if kind.repeats > 1:
        taken = [t for t in state.around(kind.kind).values() if t.settings == newest.settings]
        values = [t.value for t in sorted(taken, key=lambda t: t.order)]
        place = max(t.place for t in taken) + 1
        more = brought_together(values, repeatability_of(newest, state.priors)).wants_more
        return _asked(len(values), more, place) if place <= kind.repeats else None
    asked = _asked(newest.count, newest.disagrees, newest.place)
    return asked and (asked[0], asked[1] + hump_words(newest, display))


def _is_on_its_way(state: AxleState, newest: Reading) -> bool:
    """Whether a sleeve's nut is still to be turned on after a torque, or the sleeve is spent."""
    limits = state.preload_range()
    bitten = not state.layout.has_preload_pack
    return bitten and limits is not None and limits.side(newest.value) is not RangeSide.IN_RANGE


def _asked(count: int, disagrees: bool, place: int) -> tuple[int, str] | None:
    if count == 1:
        return (
            place,
            "It decides a pack: a figure that is misread costs a strip-down, a second reading a minute.",
        )
    if disagrees and count < MOST:
        return place, (
            f"{count} readings differ by more than such readings do: one of them is misread, or something "
            f"moved. "
            "None is thrown away until one more tells which."
        )
    return None


def _standing(state: AxleState, kind: ReadingKind) -> Reading | None:
    """The newest reading of a kind, where nothing was changed since that it stands on."""
    newest = max(state.around(kind.kind).values(), key=lambda t: t.order, default=None)
    if newest is None or (
        kind_named(kind.kind).mesh == "closed" and newest.disagrees is False and newest.count > 1
    ):
        return None
    places = READ_BEFORE_MESH.get(kind.kind)
    same = (
        newest.settings.same_at(state.settings, places)
        if places
        else newest.settings.same_as(state.settings)
    )
    return newest if same else None
