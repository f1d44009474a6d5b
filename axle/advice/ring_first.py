"""One side at a time: a ring-side pack with the carrier pushed against it, then the far pack from the gap.

The usual first half of side shims. The far side stays empty, so the pushed side's seat is known; each pack
and its backlash shows the ratio; then the far pack is the gap that is left, plus the preload.
"""

from __future__ import annotations

import math
from typing import Final

from axle.advice.carrier_preload import wanted_interference
from axle.advice.carrier_words import band_of, ratio_line
from axle.advice.forecast import nothing_nearer
from axle.advice.lash import lash_now, ratios_now
from axle.advice.moves import Act, Move
from axle.advice.packs import CLOSE, make, stale_after
from axle.advice.seats import ring_alone, side_in
from axle.advice.state import AxleState
from axle.advice.verdict import aim_words
from axle.layout import Place
from axle.limits import Range
from axle.preload.curve import CARRIER_SLOPE, interference_for
from axle.procedure.staleness import stale_because
from axle.procedure.stations import kind_named
from axle.units import Display

# What a predicted backlash repeats to [mm].
_REPEATS: Final = 0.0085


def ring_first(state: AxleState, display: Display) -> Move | None:
    """The next move of a build whose far side is still empty.

    :param state: the axle.
    :param display: units of the words.
    :returns: nothing where both sides are in, or none is.
    :source: common practice; :mod:`axle.ratios` for what a pack moves.
    """
    if not ring_alone(state):
        return None
    limits, lash = state.sheet.backlash_limits(), lash_now(state)
    if limits is None:
        return _far_pack(state, display)
    if lash is None or len(lash.around.places) < min(3, state.lash_places):
        read = () if lash is None else tuple(lash.around.places)
        wanted = tuple(("backlash", p) for p in range(1, state.lash_places + 1) if p not in read)
        return Move(
            Act.READ,
            "Push the carrier against the ring-side pack and read the backlash",
            "backlash",
            asks=wanted,
            why=(kind_named("backlash").hint_on(state.layout),),
            notes=("Wedge it, or push it by hand and hold it: the far side stays empty for now.",),
        )
    opens = _opened_by_preload(state)
    wanted_range = Range(limits.low - opens, limits.high - opens)
    if wanted_range.holds(lash.around.smallest) and not lash.is_locked:
        return _far_pack(state, display)
    return _next_ring_pack(state, display, limits.aim - opens)


def load_of(state: AxleState) -> float:
    """Interference that the far pack adds to the gap [mm]: the sheet's or the school's, else by the torque.

    :param state: the axle.
    :source: :func:`axle.advice.carrier_preload.wanted_interference`; the usual slope, from memory.
    """
    wanted = wanted_interference(state)
    if wanted is not None:
        return max(wanted.limits.aim / wanted.kept, 0.0)
    limits = state.sheet.range("carrier_preload")
    aimed = limits.aim if limits is not None else CARRIER_SLOPE.torque
    return interference_for(aimed, CARRIER_SLOPE.coefficient)


def _opened_by_preload(state: AxleState) -> float:
    """What the preload of the far pack will open the backlash by [mm]."""
    ratios = ratios_now(state)
    return ratios.per_ring * ratios.share * load_of(state)


def _next_ring_pack(state: AxleState, display: Display, target: float) -> Move:
    ratios, lash, unit = ratios_now(state), lash_now(state), display.length.symbol
    smallest = lash.around.smallest if lash is not None else 0.0
    moved = (target - smallest) / ratios.per_ring
    now = side_in(state, state.settings, Place.RING)
    made = make(state, Place.RING, now - state.layout.carrier_sign * moved, display, CLOSE)
    opens = display.show(_opened_by_preload(state))
    limits = state.sheet.backlash_limits()
    aimed = f"{display.show(target + _opened_by_preload(state))}{aim_words(limits.range) if limits else ''}"
    way = "closer" if moved < 0 else "away"
    why = [
        f"Smallest {display.show(smallest)} {unit}, the carrier against this pack; {aimed} is wanted in "
        f"the end, and the far pack's preload opens it by about {opens}: {display.show(target)} now.",
        f"{ratio_line(state, display)} The ring gear goes {display.show(abs(moved))} {unit} {way}.",
    ]
    if lash is not None and lash.is_locked:
        why[0] = "The gears lock against this pack: it is opened by one step and read again."
    if made.swap is None or not made.swap.change:
        return Move(
            Act.LOOK,
            "No nearer ring-side pack in the drawer",
            "carrier_preload",
            why=tuple(why),
            notes=(made.note,) if made.note else (),
            others=made.others,
        )
    reached = smallest - state.layout.carrier_sign * float(made.swap.change) * ratios.per_ring
    spread = math.hypot(abs(reached - smallest) * ratios.spread, _REPEATS)
    move = Move(
        Act.CHANGE,
        "Fit the next ring-side pack",
        "carrier_preload",
        (made.swap,),
        (band_of("Smallest backlash", reached, spread),),
        stale_after([made.swap], state),
        tuple(why),
        (
            *((made.note,) if made.note else ()),
            "The far side stays empty. Push the carrier against it and read again.",
        ),
        made.others,
    )
    nearer = reached > 0 and abs(reached - target) < abs(smallest - target)
    return move if nearer else nothing_nearer(state, move, display)


def _far_pack(state: AxleState, display: Display) -> Move:
    """The far pack: the gap that is left, and the preload on top of it."""
    gap, unit = state.latest("gap_far"), display.length.symbol
    if gap is None or stale_because("carrier_preload", state.layout, gap.settings, state.settings):
        return Move(
            Act.READ,
            "Read: gap on the far side",
            "carrier_preload",
            asks=(("gap_far", 1),),
            why=(
                "The backlash is where it should be with the carrier against the ring-side pack.",
                kind_named("gap_far").hint_on(state.layout),
            ),
        )
    load, sign = load_of(state), state.layout.carrier_sign
    made = make(state, Place.FAR, gap.value + sign * load, display, CLOSE)
    adds = "plus" if sign > 0 else "less"
    why = (
        f"Gap {display.show(gap.value)} {unit} {adds} {display.show(load)} {unit} for the preload = "
        f"{display.show(gap.value + sign * load)}.",
    )
    if made.swap is None or not made.swap.change:
        return Move(
            Act.LOOK,
            "No far pack can be made",
            "carrier_preload",
            why=why,
            notes=(made.note,) if made.note else (),
            others=made.others,
        )
    return Move(
        Act.CHANGE,
        "Fit the far pack: the gap and the preload",
        "carrier_preload",
        (made.swap,),
        (),
        stale_after([made.swap], state),
        why,
        (*((made.note,) if made.note else ()), "Then backlash and preload are read together."),
        made.others,
    )
