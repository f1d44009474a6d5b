"""By which way a station is settled."""

from __future__ import annotations

from axle.advice.state import AxleState
from axle.procedure.stations import Way, stations


def chosen_way(state: AxleState, station: str) -> Way:
    """The way by which a station is settled: the chosen one, or the last used, or the usual.

    :param state: the axle.
    :param station: its name.
    :source: ``stations.toml``.
    """
    ways = stations()[station].ways_on(state.layout)
    chosen = state.ways.get(station)
    for way in ways:
        if way.way == chosen:
            return way
    used = [t for t in state.taken if any(t.kind in way.kinds for way in ways)]
    if used:
        last = max(used, key=lambda t: t.order)
        return next(way for way in ways if last.kind in way.kinds)
    return ways[0]
