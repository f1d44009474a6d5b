"""By which way a station is settled."""

from __future__ import annotations

from typing import Final

from axle.layout import Place
from axle.procedure.names import StationName
from axle.procedure.staleness import stale_because
from axle.procedure.stations import Method, kind_named, station_of, stations
from axle.state.axle_state import AxleState
from axle.state.kept import kept
from axle.state.reading import Reading
from axle.state.settings import Settings


@kept
def chosen_method(state: AxleState, station: str) -> Method:
    """The way by which a station is settled: the chosen one, or the last used, or the usual.

    A way that nothing can be read by yet is passed over: with the carrier set first, the whole cannot be
    turned before the pinion is in, whatever was read last time.

    :param state: the axle.
    :param station: its name.
    :source: ``stations.toml``.
    """
    methods = stations()[station].methods_on(state.layout)
    shut = [w for w in methods if w.kinds and not any(can_be_read(k, station, state) for k in w.kinds)]
    open_ones = [method for method in methods if method not in shut] or methods
    chosen = state.methods.get(station)
    for method in open_ones:
        if method.name == chosen:
            return method
    used = [t for t in state.readings if any(t.kind in method.kinds for method in open_ones)]
    if used:
        last = max(used, key=lambda t: t.order)
        return next(method for method in open_ones if last.kind in method.kinds)
    return open_ones[0]


def can_be_read(kind: str, station: str, state: AxleState) -> bool:
    """Say whether a kind can be read where a station stands: a carrier set first has no pinion to turn.

    :param kind: of reading.
    :param station: where it is read.
    :param state: the axle.
    :source: ``readings.toml``: the stations that come before a kind.
    """
    order = state.stations or tuple(stations())
    later = order[order.index(station) + 1 :] if station in order else ()
    return all(_is_read(s, state) for s in kind_named(kind).after if s in later)


def reading_stale(station: str, kind: str, then: Settings, state: AxleState) -> str:
    """Say why a reading no longer holds, or nothing.

    :param station: where it was read.
    :param kind: of reading.
    :param then: what was in the axle [mm or holes].
    :param state: the axle.
    :source: ``stale.toml``. Torques go stale one bolt at a time; a station's other readings all together.
    """
    because = stale_because(kind, state.layout, then, state.settings)
    if kind_named(kind).keeps:
        return because
    return because or stale_because(station, state.layout, then, state.settings)


# What was read of one setting of both sides, and of no other, although it bears on what is fitted later.
_OF_THE_SIDES: Final = frozenset({"zero_play", "carrier_end_play", "spacer_play", "gap_ring", "gap_far"})


def is_present(reading: Reading, state: AxleState) -> bool:
    """Say whether a reading tells of the axle as it is now; else it is of an earlier assembly.

    :param reading: of this axle.
    :param state: the axle.
    :source: ``stale.toml``; a play is one of the packs it was read with.
    """
    if reading.kind in _OF_THE_SIDES:
        sides = (Place.RING, Place.FAR)
        return all(reading.settings.get(p) == state.settings.get(p) for p in sides)
    return not reading_stale(station_of(reading.kind), reading.kind, reading.settings, state)


def _is_read(station: str, state: AxleState) -> bool:
    """Whether something of a station was read on what is in the axle now; a depth may just be fitted."""
    if station == StationName.DEPTH and state.setting(Place.DEPTH):
        return True
    return any(
        t.kind in stations()[station].kinds and not reading_stale(station, t.kind, t.settings, state)
        for t in state.readings
    )
