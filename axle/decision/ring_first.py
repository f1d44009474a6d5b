"""One side at a time: a ring-side pack with the carrier pushed against it, then the far pack from the gap.

The usual first half of side shims. The far side stays empty, so the pushed side's seat is known; each pack
and its backlash shows the ratio; then the far pack is the gap that is left, plus the preload.
"""

from __future__ import annotations

import math
from typing import Final

from axle.decision.carrier.explain import band_of, ratio_line
from axle.decision.carrier.start import far_pack_interference
from axle.decision.forecast import nothing_nearer
from axle.decision.move import Move
from axle.decision.pack_swap import CLOSE, make_swap, stale_after
from axle.layout import Place
from axle.measure.range import Range
from axle.measure.units import Display
from axle.procedure.names import KindName, StationName
from axle.procedure.staleness import stale_because
from axle.procedure.stations import kind_named
from axle.state.axle_state import AxleState
from axle.stations.backlash import backlash_now, ratios_now
from axle.stations.result import aim_words
from axle.stations.zero_play import ring_alone, side_in

# What a predicted backlash repeats to [mm].
_REPEATS: Final = 0.0085


def ring_first(state: AxleState, display: Display) -> Move | None:
    """The next move of a build whose far side is still empty.

    :param state: the axle.
    :param display: units of the words.
    :returns: nothing where both sides are in, or none is.
    :source: common practice; :mod:`axle.backlash.ratios` for what a pack moves.
    """
    if not ring_alone(state):
        return None
    limits, lash = state.sheet.backlash_limits(), backlash_now(state)
    if limits is None:
        return _far_pack(state, display)
    if lash is None or len(lash.around.places) < min(3, state.lash_places):
        read = () if lash is None else tuple(lash.around.places)
        wanted = tuple(("backlash", p) for p in range(1, state.lash_places + 1) if p not in read)
        return Move.read(
            "Push the carrier against the ring-side pack and read the backlash",
            StationName.BACKLASH,
            asks=wanted,
            why=(kind_named(KindName.BACKLASH).hint_on(state.layout),),
            notes=("Wedge it, or push it by hand and hold it: the far side stays empty for now.",),
        )
    opens = _opened_by_preload(state)
    wanted_range = Range(limits.low - opens, limits.high - opens)
    if wanted_range.holds(lash.around.smallest) and not lash.is_locked:
        return _far_pack(state, display)
    return _next_ring_pack(state, display, limits.aim - opens)


def _opened_by_preload(state: AxleState) -> float:
    """What the preload of the far pack will open the backlash by [mm]."""
    ratios = ratios_now(state)
    return ratios.per_ring * ratios.share * far_pack_interference(state)


def _next_ring_pack(state: AxleState, display: Display, target: float) -> Move:
    ratios, lash, unit = ratios_now(state), backlash_now(state), display.length.symbol
    smallest = lash.around.smallest if lash is not None else 0.0
    moved = (target - smallest) / ratios.per_ring
    now = side_in(state, state.settings, Place.RING)
    swap_made = make_swap(state, Place.RING, now - state.layout.carrier_sign * moved, display, CLOSE)
    opens = display.show(_opened_by_preload(state))
    limits = state.sheet.backlash_limits()
    aimed = f"{display.show(target + _opened_by_preload(state))}{aim_words(limits.range) if limits else ''}"
    direction = "closer" if moved < 0 else "away"
    why = [
        f"Smallest {display.show(smallest)} {unit}, the carrier against this pack; {aimed} is wanted in "
        f"the end, and the far pack's preload opens it by about {opens}: {display.show(target)} now.",
        f"{ratio_line(state, display)} The ring gear goes {display.show(abs(moved))} {unit} {direction}.",
    ]
    if lash is not None and lash.is_locked:
        why[0] = "The gears lock against this pack: it is opened by one step and read again."
    if swap_made.swap is None or not swap_made.swap.change:
        return Move.look(
            "No nearer ring-side pack in the drawer",
            StationName.CARRIER_PRELOAD,
            why=tuple(why),
            notes=(swap_made.note,) if swap_made.note else (),
            others=swap_made.others,
        )
    reached = smallest - state.layout.carrier_sign * float(swap_made.swap.change) * ratios.per_ring
    spread = math.hypot(abs(reached - smallest) * ratios.std, _REPEATS)
    move = Move.change(
        "Fit the next ring-side pack",
        StationName.CARRIER_PRELOAD,
        swaps=(swap_made.swap,),
        expected=(band_of("Smallest backlash", reached, spread),),
        stales=stale_after([swap_made.swap], state),
        why=tuple(why),
        notes=(
            *((swap_made.note,) if swap_made.note else ()),
            "The far side stays empty. Push the carrier against it and read again.",
        ),
        others=swap_made.others,
    )
    nearer = reached > 0 and abs(reached - target) < abs(smallest - target)
    return move if nearer else nothing_nearer(state, move, display)


def _far_pack(state: AxleState, display: Display) -> Move:
    """The far pack: the gap that is left, and the preload on top of it."""
    gap, unit = state.latest(KindName.GAP_FAR), display.length.symbol
    if gap is None or stale_because(
        StationName.CARRIER_PRELOAD, state.layout, gap.settings, state.settings
    ):
        return Move.read(
            "Read: gap on the far side",
            StationName.CARRIER_PRELOAD,
            asks=((KindName.GAP_FAR, 1),),
            why=(
                "The backlash is where it should be with the carrier against the ring-side pack.",
                kind_named(KindName.GAP_FAR).hint_on(state.layout),
            ),
        )
    load, sign = far_pack_interference(state), state.layout.carrier_sign
    swap_made = make_swap(state, Place.FAR, gap.value + sign * load, display, CLOSE)
    adds = "plus" if sign > 0 else "less"
    why = (
        f"Gap {display.show(gap.value)} {unit} {adds} {display.show(load)} {unit} for the preload = "
        f"{display.show(gap.value + sign * load)}.",
    )
    if swap_made.swap is None or not swap_made.swap.change:
        return Move.look(
            "No far pack can be made",
            StationName.CARRIER_PRELOAD,
            why=why,
            notes=(swap_made.note,) if swap_made.note else (),
            others=swap_made.others,
        )
    return Move.change(
        "Fit the far pack: the gap and the preload",
        StationName.CARRIER_PRELOAD,
        swaps=(swap_made.swap,),
        expected=(),
        stales=stale_after([swap_made.swap], state),
        why=why,
        notes=(
            *((swap_made.note,) if swap_made.note else ()),
            "Then backlash and preload are read together.",
        ),
        others=swap_made.others,
    )
