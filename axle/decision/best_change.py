"""The best candidate written out as a move; where none helps, what does."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from axle.decision.candidates import Candidate, candidates, what_is_lacking
from axle.decision.explain import CURES, as_move
from axle.decision.forecast import is_better, nothing_nearer
from axle.decision.move import Move
from axle.measure.units import Display
from axle.procedure.stations import stations
from axle.state.axle_state import AxleState
from axle.stations.station_state import Standing


def best_change(
    state: AxleState,
    display: Display,
    standings: Mapping[str, Standing],
    station: str,
    found: tuple[Candidate, ...],
) -> Move:
    """Write out the best candidate as a move.

    :param state: the axle.
    :param display: units of the words.
    :param standings: where it stands.
    :param station: where the move belongs.
    :param found: candidates, the most worth first.
    :returns: the change; where none helps, what does.
    :source: :func:`candidates`.
    """
    best = _best(station, found)
    if best is None:
        return _nothing_in_drawer(state, display, standings, station)
    move = as_move(state, display, standings=standings, station=station, best=best, found=found)
    return move if is_better(state, move) else nothing_nearer(state, move, display)


def _nothing_in_drawer(
    state: AxleState, display: Display, standings: Mapping[str, Standing], station: str
) -> Move:
    """What is said where no candidate touches what is out: the job, or the drawer, has nothing for it."""
    if CURES[station] & state.fixed:
        # What it would take is worked out all the same, and said to whoever set the fixed part.
        free = replace(state, fixed=frozenset())
        found = candidates(free, display, standings)
        return best_change(free, display, standings=standings, station=station, found=found)
    result = standings[station].result
    notes, others = what_is_lacking(state, display, standings, CURES[station])
    return Move.look(
        f"Nothing in this drawer changes it: {stations()[station].title.lower()}",
        station,
        why=result.why if result else (),
        notes=(*notes, "Put other sizes in the drawer, read again, or sign it with a reason."),
        others=others,
    )


def _best(station: str, found: tuple[Candidate, ...]) -> Candidate | None:
    """The candidate worth most; where that is to leave it, the surest that could cure the station."""
    if found[0].swaps:
        return found[0]
    cures = [one for one in found if one.touched & CURES[station]]
    return max(cures, key=lambda one: one.in_range.joint, default=None)
