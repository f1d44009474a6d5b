"""One preload by two measures: what both say, which the sheet puts first, and what a move does to each."""

from __future__ import annotations

from dataclasses import replace
from typing import Final

from axle.decision.move import Act, Move
from axle.layout import Place
from axle.measure.range import RangeSide
from axle.measure.units import Display
from axle.procedure.names import StationName
from axle.state.axle_state import AxleState
from axle.stations.carrier_torque import carrier_torque
from axle.stations.two_measures import disagreement, measures

# A reading that was taken so often is not asked for again.
_OFTEN: Final = 2


def ask_the_other(state: AxleState, display: Display, move: Move) -> Move:
    """Ask before a move leaves the range of the measure that it does not go by.

    :param state: the axle.
    :param display: units of the words.
    :param move: the move.
    :returns: the same move where both measures stay in range; else the reading first, with the move below.
    :source: common practice: what two measures dispute is read again before anything comes apart.
    """
    sides = {swap.place for swap in move.swaps} & {Place.RING, Place.FAR}
    if move.act is not Act.CHANGE or not sides:
        return move
    after = state.settings.changed(move.changes)
    now, then = measures(state), measures(state, after)
    leaves = [
        name
        for name in now
        if name in then
        and now[name].side is RangeSide.IN_RANGE
        and then[name].side is not RangeSide.IN_RANGE
    ]
    if not leaves:
        return move
    words = f"{disagreement(state, display)} This move is expected to leave the range of the {leaves[0]}."
    found = carrier_torque(state)
    if found is None or found[2][0].count >= _OFTEN:
        return replace(move, notes=(words.strip(), *move.notes))
    kind = found[2][0].kind
    return Move.read(
        "Read the torque again: two measures disagree",
        StationName.CARRIER_PRELOAD,
        why=(words.strip(),),
        asks=((kind, 1),),
        again=True,
        then=move,
    )
