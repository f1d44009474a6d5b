"""What a change of the carrier, or of the pinion's depth, would bring: planned before it is made."""

from __future__ import annotations

import math

from axle.decision.carrier.explain import (
    depth_line,
    expected_of,
    hold_line,
    lash_lines,
    side_line,
    sum_check,
    title_of,
    turning_order,
)
from axle.decision.carrier.plan import plan_sides
from axle.decision.move import Move, Swap
from axle.decision.pack_swap import CLOSE, make_swap, stale_after
from axle.layout import Place
from axle.measure.units import Display
from axle.procedure.names import StationName
from axle.state.axle_state import AxleState
from axle.stations.carrier_torque import torque_curve
from axle.stations.zero_play import zero_play


def what_if(
    state: AxleState,
    display: Display,
    *,
    backlash: float | None = None,
    interference: float | None = None,
    deeper: float = 0.0,
) -> Move | None:
    """Plan both sides for what a builder wants, with a change of depth if one is asked for.

    :param state: the axle.
    :param display: units of the words.
    :param backlash: smallest backlash wanted [mm]; as it is when left out.
    :param interference: carrier interference wanted [mm]; as it is when left out.
    :param deeper: how much deeper the pinion is to come [mm].
    :returns: nothing where nothing is known of either side.
    :raises AxleError: for what would lock the gears, unload a bearing, or not go into the case.
    :source: :mod:`axle.decision.carrier.plan`.
    """
    swaps: list[Swap] = []
    notes: list[str] = []
    if deeper:
        depth, note = _depth_swap(state, display, deeper)
        swaps += depth
        notes += note
        # What the drawer makes of the depth is what the sides are planned for.
        deeper = state.layout.depth_sign * float(depth[0].change) if depth else deeper
    plan = plan_sides(
        state, display, backlash=backlash, interference=interference, deeper=deeper, hold=backlash is None
    )
    if plan is None:
        return None
    lines = [depth_line(state, display, deeper)] if deeper else []
    if deeper and backlash is None:
        lines.append(hold_line(state, plan, display))
    lines += lash_lines(state, plan, display)
    lines += [side_line(state, plan, display), sum_check(state, plan, display)]
    if zero_play(state) is None:
        by = "the torque curve tells it" if torque_curve(state) else "what is in now counts as zero"
        notes.append(f"Zero play is not read: {by}.")
    if plan.start.smallest is None:
        notes.append("No backlash is read yet: where the ring gear comes to stand is not foretold.")
    if state.layout.has_adjusters:
        notes += turning_order(plan.swaps)
    swaps += [swap for swap in plan.swaps if swap.change]
    title = title_of(state, plan)
    if deeper and backlash is None:
        title = "Move the pinion and hold the backlash"
    return Move.change(
        title,
        StationName.BACKLASH,
        swaps=tuple(swaps),
        expected=expected_of(state, plan, None),
        stales=stale_after(swaps, state),
        why=tuple(filter(None, lines)),
        notes=(*notes, *plan.notes),
        others=plan.others,
    )


def _depth_swap(state: AxleState, display: Display, deeper: float) -> tuple[list[Swap], list[str]]:
    """The depth shim for a change of depth, and what is coupled to it."""
    layout = state.layout
    if not state.setting(Place.DEPTH):
        return [], ["No depth shim is recorded: fit it first, then both are planned together."]
    target = float(state.setting(Place.DEPTH)) + layout.depth_sign * deeper
    swap_made = make_swap(state, Place.DEPTH, target, display, CLOSE)
    if swap_made.swap is None:
        return [], [swap_made.note]
    swaps, notes = [swap_made.swap], [swap_made.note] if swap_made.note else []
    if layout.preload_per_depth and state.setting(Place.PRELOAD):
        follow = float(state.setting(Place.PRELOAD)) + layout.preload_per_depth * float(
            swap_made.swap.change
        )
        coupled = make_swap(state, Place.PRELOAD, follow, display)
        if coupled.swap is not None and coupled.swap.change:
            swaps.append(coupled.swap)
            notes.append("The preload pack follows: its stack is coupled to the depth shim.")
    if math.isclose(float(swap_made.swap.change), 0.0, abs_tol=1e-9):
        notes.append("The drawer makes no other depth shim near that.")
    return swaps, notes
