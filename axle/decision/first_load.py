"""What the first load changes: bearings settle, and what was read before it is read again after it."""

from __future__ import annotations

from dataclasses import replace
from typing import Final

from axle.decision.move import Act, Move
from axle.decision.remeasure import read_again, still_holds
from axle.layout import Place
from axle.procedure.names import KindName, StationName
from axle.state.axle_state import AxleState
from axle.stations.backlash import backlash_now
from axle.stations.carrier_preload import is_set_by_torque
from axle.stations.preload_readings import comings_together
from axle.stations.zero_play import interference_setting, sides_are_set

# Gears this tight lock under a hand [mm]: nothing is printed on them.
LOCKED: Final = 0.0127
# Both sides together changed by less than this leave the preload as it is [mm]: half a thou.
_SAME_PRELOAD: Final = 0.0127


def before_load(state: AxleState, move: Move) -> Move:
    """A print loads the axle: what bearings lose then only shows where the torque was read before.

    :param state: the axle.
    :param move: the next one.
    :returns: the torque of the whole first, twice, before the first print; else the same move.
    :source: common practice: bearings settle at first load.
    """
    if move.act is not Act.PRINT or comings_together(state)[1].loaded or not sides_are_set(state):
        return move
    pinion, total = state.latest(KindName.PINION_TORQUE), state.latest(KindName.TOTAL_TORQUE)
    if pinion is None or pinion.torque_conditions.seal or not _is_judged(state):
        return move
    there = total is not None and still_holds(state, total)
    if there and total is not None and total.count >= _wanted_totals(state):
        return move
    why = (
        "The print is the first load, and bearings settle under it: the torque before and after it tells "
        "how much preload they lose.",
    )
    again = read_again("total_torque", 1, StationName.CARRIER_PRELOAD, why)
    again = replace(again, then=move.then, notes=move.notes if move.then else ())
    if there:
        return again
    title = "Read the rotating torque of the whole, before the first load"
    return replace(again, title=title, again=False)


def load_first(state: AxleState, move: Move) -> Move:
    """A change of the sides waits for the first load, where the carrier's torque is told from the whole.

    With the carrier out the pinion is read by itself. Read after the load it is what it will stay, and the
    whole less it is the carrier's; read before it, nobody knows which of the two pairs settled.

    :param state: the axle.
    :param move: the next one.
    :returns: a print before that change, with the change that it comes before; the same move where the
        preload stays, or nothing is told by it.
    :source: common practice: bearings settle at first load.
    """
    sides = {swap.place for swap in move.swaps} & {Place.RING, Place.FAR}
    if move.act is not Act.CHANGE or not sides or state.layout.has_adjusters or not sides_are_set(state):
        return move
    pinion, lash = state.latest(KindName.PINION_TORQUE), backlash_now(state)
    if comings_together(state)[1].loaded or pinion is None or pinion.torque_conditions.seal:
        return move
    after = state.settings.changed(move.changes)
    tighter = interference_setting(state, after) - interference_setting(state, state.settings)
    if not state.new_bearings or abs(tighter) < _SAME_PRELOAD:
        return move  # they have settled, or the preload stays as it was read
    if not is_set_by_torque(state) or lash is None or lash.around.smallest < LOCKED:
        return move
    return Move.make_print(
        "Mark the flanks before it comes apart: the first load",
        StationName.PATTERN,
        why=(
            "Bearings settle at first load. Loaded now, the pinion is read by itself while the carrier is "
            "out, as it will stay; the carrier's torque is then the whole less that.",
            *move.why,
        ),
        notes=("Clean teeth, thin even compound, load by hand or brake, turn both ways.",),
        then=move,
    )


def _wanted_totals(state: AxleState) -> int:
    """How often the whole is read before the first load: twice where the carrier is judged by it."""
    return 2 if is_set_by_torque(state) else 1


def _is_judged(state: AxleState) -> bool:
    """Whether a preload of this job is held to a torque."""
    pinion = "pinion_preload" not in state.not_part and state.preload_range() is not None
    return pinion or state.sheet.range("carrier_preload") is not None


def last_check(state: AxleState) -> Move | None:
    """The rotating torque once more after the print was loaded: what settled, or was not home, shows now.

    :param state: the axle.
    :returns: nothing before a print, without a torque of the pinion, or once it was read since that load.
    :source: common practice.
    """
    total, newest = (
        state.latest(KindName.TOTAL_TORQUE),
        max(state.prints, key=lambda p: p.order, default=None),
    )
    if newest is None or state.latest(KindName.PINION_TORQUE) is None or not _is_judged(state):
        return None
    held = total is not None and still_holds(state, total)
    if total is not None and held and comings_together(state)[0][total.order].loaded:
        return None
    why = ("The print was loaded since: bearings settle, and a cup not home gives way; the torque falls.",)
    move = read_again("total_torque", 1, StationName.CARRIER_PRELOAD, why)
    if not held:
        return replace(move, title="Read the rotating torque of the whole, as the last check", again=False)
    return replace(move, title="Read the rotating torque once more, as the last check")
