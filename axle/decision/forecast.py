"""What an axle is expected to come to, and whether a change is better than leaving it as it is."""

from __future__ import annotations

from collections.abc import Mapping
from decimal import Decimal
from typing import Final

import numpy as np

from axle.decision.carrier.plan import too_large
from axle.decision.move import Move, Swap
from axle.decision.pack_swap import FAR_OFF, place_words
from axle.decision.probability import in_range_probabilities, predict_backlash
from axle.layout import Place, PreloadBy
from axle.measure.range import Range
from axle.measure.units import THOU, Display
from axle.procedure.names import StationName
from axle.shims.choose import to_order
from axle.shims.pieces import THICKEST_PACK
from axle.spec.limits import BacklashRule
from axle.state.axle_state import AxleState
from axle.state.settings import Settings
from axle.stations.carrier_preload import BY_HAND, wanted_interference
from axle.stations.depth_posterior import depth_posterior
from axle.stations.method import chosen_method
from axle.stations.preload_readings import CARRIER, PINION, interference_draws, knows, torque_draws
from axle.stations.zero_play import deeper_between, sides_are_set

# A change that is less sure than this to put all in range is no move, where the drawer is to blame.
_HOPELESS: Final = 0.01
# What the drawer makes further from what was asked than this is another pack [mm]: a thou and a half.
_OTHER_PACK: Final = Decimal("0.0381")
# Torque that a pair would turn at if play counted on past zero [N·m per mm], so that more play is worse.
_PAST_ZERO: Final = 30.0
_SAME: Final = 1e-6
_CLOSE: Final = Decimal("0.0127")


def misses(state: AxleState, after: Settings | None = None) -> Mapping[str, float]:
    """How far each station is expected to miss its range, in halves of that range; 0 in range.

    :param state: the axle.
    :param after: what is in it once something is changed; as it is when left out.
    :returns: by station; one of which nothing is known is left out.
    :source: what is held of depth, preloads and backlash; limits of the job's sheet.
    """
    changed = state.settings if after is None else after
    found: dict[str, float | None] = {
        "depth": _depth(state, changed),
        "pinion_preload": _pinion(state, changed),
        "carrier_preload": _carrier(state, changed),
        "backlash": _backlash(state, changed),
    }
    return {name: miss for name, miss in found.items() if miss is not None}


def is_better(state: AxleState, move: Move) -> bool:
    """Say whether a change is better than leaving the axle as it is, by what is held of it.

    :param state: the axle.
    :param move: the change.
    :source: never worse in what is expected, never less sure, and not hopeless for want of shims.
    """
    after = state.settings.changed(move.changes)
    if locks_gears(state, after) or any(too_large(swap) for swap in move.swaps):
        return False
    now, then = misses(state), misses(state, after)
    common = set(now) & set(then)
    before, later = (sum(of[name] for name in common) for of in (now, then))
    if later > before + _SAME:
        return False
    leave, change = in_range_probabilities(state).parts, in_range_probabilities(state, after).parts
    known = set(leave) & set(change)
    sure, surer = 1.0, 1.0
    for name in known:
        sure, surer = sure * leave[name], surer * change[name]
    if known and surer < sure - _SAME:
        return False
    short = any(_is_other_pack(swap) for swap in move.swaps)
    if known and surer < _HOPELESS and short:
        return False
    return not (short and later >= before - _SAME and surer <= sure + _SAME)


def starts_well(move: Move) -> bool:
    """Say whether the drawer makes first packs near what was asked.

    :param move: packs for places in which nothing is yet.
    :source: 5 thou, the step that shows clearly (common practice).
    """
    return all(swap.pack is None or abs(swap.after - swap.asked) <= FAR_OFF for swap in move.swaps)


def locks_gears(state: AxleState, after: Settings) -> bool:
    """Say whether a change is expected to leave no backlash.

    :param state: the axle.
    :param after: what is in it afterwards.
    :source: :func:`axle.decision.probability.predict_backlash`.
    """
    lash = predict_backlash(state, after, deeper_between(state, state.settings, after))
    moved = not after.same_at(state.settings, (Place.RING, Place.FAR, Place.DEPTH))
    return moved and lash is not None and lash[0] <= 0


def nothing_nearer(state: AxleState, move: Move, display: Display) -> Move:
    """What is said instead of a change that does not help: what to order, and what else helps.

    :param state: the axle.
    :param move: the change that is not worth its strip-down.
    :param display: units of the words.
    :source: common practice.
    """
    after = state.settings.changed(move.changes)
    if locks_gears(state, after):
        return Move.look(
            "That would lock the gears",
            move.station,
            why=move.why,
            others=move.others,
            notes=(
                "With what the drawer makes the backlash would be gone, and locked gears bend a flange. "
                "Open the backlash in the same strip-down, or order shims for the sides.",
            ),
        )
    notes = [words for swap in move.swaps if (words := order_words(state, swap, display))]
    if move.station == StationName.PINION_PRELOAD and state.layout.preload_by is PreloadBy.SPACER:
        limits = state.sheet.range("pinion_nut_torque")
        within = f" ({limits.words(display.bolt_torque)} {display.bolt_torque.symbol})" if limits else ""
        notes.append(
            f"On a solid spacer the nut's own torque, within its range{within}, is the fine trim: more is "
            "a little tighter. Shims of half a thou are made, too."
        )
    notes.append("Or sign it with a reason.")
    places = {swap.place for swap in move.swaps}
    what = {Place.DEPTH: "depth shim", Place.PRELOAD: "preload pack"}
    named = what[next(iter(places))] if len(places) == 1 and places <= set(what) else "pack"
    return Move.look(
        f"No nearer {named} in the drawer",
        move.station,
        why=(*move.why, "Nothing that the drawer makes is expected to be better than what is in."),
        notes=tuple(notes),
        others=move.others,
    )


def order_words(state: AxleState, swap: Swap, display: Display) -> str:
    """Which shim to order so that a wanted pack could be made; nothing where the drawer makes it.

    :param state: the axle.
    :param swap: with what was asked.
    :param display: units of the words.
    :source: :func:`axle.shims.choose.to_order`, sizes a thou or a hundredth of a millimetre apart.
    """
    if swap.pack is None or not 0 < swap.asked < THICKEST_PACK or abs(swap.after - swap.asked) <= _CLOSE:
        return ""
    step = THOU.factor if display.length.symbol in ("thou", "in") else Decimal("0.01")
    least = 2 if step == THOU.factor else 5
    sizes = [step * n for n in range(least, 41 if least == 2 else 101)]
    sizes.append((swap.asked / step).quantize(Decimal(1)) * step)
    orders = to_order(swap.asked, _CLOSE, state.drawer.get(swap.place, ()), sizes)
    unit, asked = display.length.symbol, display.show(swap.asked)
    cannot = f"The drawer cannot make {asked} {unit} for the {place_words(swap.place)}"
    if not orders:
        return f"{cannot}: order shims of other sizes."
    new = " and ".join(display.show(size) for size in orders[0].sizes)
    made = "" if len(orders[0].sizes) == orders[0].pieces else ", which makes it with what is there"
    return f"{cannot}: order {new} {unit}{made}."


def _is_other_pack(swap: Swap) -> bool:
    return swap.pack is not None and abs(swap.after - swap.asked) > _OTHER_PACK


def _half(limits: Range) -> float:
    return max((limits.upper - limits.low) / 2, 1e-3)


def _depth(state: AxleState, after: Settings) -> float | None:
    depth_estimate = depth_posterior(state)
    if depth_estimate is None or (depth_estimate.gauge is None and depth_estimate.prints is None):
        return None
    tolerance = state.depth_tolerance
    error = depth_estimate.error + deeper_between(state, state.settings, after)
    return Range(-tolerance, tolerance).miss(error) / tolerance


def _pinion(state: AxleState, after: Settings) -> float | None:
    limits = state.preload_range()
    if limits is None or not state.layout.has_preload_pack or not knows(state, PINION):
        return None
    return _of_pair(state, PINION, after, limits)


def _carrier(state: AxleState, after: Settings) -> float | None:
    if chosen_method(state, StationName.CARRIER_PRELOAD).name in BY_HAND:
        return None
    if not sides_are_set(state, after) or not knows(state, CARRIER):
        return None
    wanted, limits = wanted_interference(state), state.sheet.range("carrier_preload")
    if wanted is not None:
        at = float(np.median(interference_draws(state, CARRIER, after))) * wanted.kept
        return wanted.limits.miss(at) / _half(wanted.limits)
    return None if limits is None else _of_pair(state, CARRIER, after, limits)


def _of_pair(state: AxleState, which: int, after: Settings, limits: Range) -> float:
    """A pair's torque; below zero play it goes on falling, so that more play is worse."""
    torque = float(np.median(torque_draws(state, which, after)))
    play = min(float(np.median(interference_draws(state, which, after))), 0.0)
    return limits.miss(torque + play * _PAST_ZERO) / _half(limits)


def _backlash(state: AxleState, after: Settings) -> float | None:
    limits = state.sheet.backlash_limits()
    lash = predict_backlash(state, after, deeper_between(state, state.settings, after))
    if limits is None or lash is None:
        return None
    smallest, _, spread = lash
    worst = limits.range.miss(smallest)
    if limits.rule is BacklashRule.EVERY:
        worst = max(worst, limits.range.miss(smallest + (spread or 0.0)))
    return worst / _half(limits.range)
