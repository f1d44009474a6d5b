"""By which way a station is settled."""

from __future__ import annotations

from axle.advice.state import AxleState, Settings
from axle.layout import Place
from axle.procedure.staleness import stale_because
from axle.procedure.stations import Way, kind_named, stations


def chosen_way(state: AxleState, station: str) -> Way:
    """The way by which a station is settled: the chosen one, or the last used, or the usual.

    A way that nothing can be read by yet is passed over: with the carrier set first, the whole cannot be
    turned before the pinion is in, whatever was read last time.

    :param state: the axle.
    :param station: its name.
    :source: ``stations.toml``.
    """
    ways = stations()[station].ways_on(state.layout)
    shut = [w for w in ways if w.kinds and not any(can_be_read(k, station, state) for k in w.kinds)]
    open_ones = [way for way in ways if way not in shut] or ways
    chosen = state.ways.get(station)
    for way in open_ones:
        if way.way == chosen:
            return way
    used = [t for t in state.taken if any(t.kind in way.kinds for way in open_ones)]
    if used:
        last = max(used, key=lambda t: t.order)
        return next(way for way in open_ones if last.kind in way.kinds)
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


def _is_read(station: str, state: AxleState) -> bool:
    """Whether something of a station was read on what is in the axle now; a depth may just be fitted."""
    if station == "depth" and state.setting(Place.DEPTH):
        return True
    return any(
        t.kind in stations()[station].kinds and not reading_stale(station, t.kind, t.settings, state)
        for t in state.taken
    )
