"""Moves of the depth shim where depth is settled by a gauge, an old pack or a trial."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from decimal import Decimal
from typing import Final

from axle.decision.carrier.explain import depth_line
from axle.decision.move import Move, look
from axle.decision.pack_swap import CLOSE, make_swap, stale_after
from axle.layout import Place
from axle.measure.units import Display, percent
from axle.procedure.names import StationName
from axle.procedure.stations import kind_named
from axle.state.axle_state import AxleState
from axle.state.reading import Reading
from axle.stations.backlash import backlash_around
from axle.stations.depth import DepthPack, depth_packs, depth_start, shows_nothing
from axle.stations.depth_measurements import wanted_depth
from axle.stations.depth_posterior import FARTHEST
from axle.stations.result import Outcome, Result, signed
from axle.stations.station_state import Standing

# How much thicker a trial shim is made when a gauge shows nothing [mm].
_THICKER: Final = 0.5


def depth_move(state: AxleState, display: Display, standings: Mapping[str, Standing]) -> Move:
    """The depth shim that a gauge, an old pack or a trial asks for, or what is read first.

    :param state: the axle.
    :param display: units of the words.
    :param standings: where each station stands.
    :source: :func:`axle.stations.depth.depth_verdict`; common practice.
    """
    result = standings[StationName.DEPTH].result
    nothing = shows_nothing(state)
    if result is not None and nothing is not None and result.outcome is Outcome.TRIAL_TOO_THIN:
        return _thicker_trial(state, display, result, nothing)
    if result is None or (result.value is None and result.decided):
        return look(standings[StationName.DEPTH])
    if state.methods.get("depth") == "trial":
        return start_depth(state, display, standings[StationName.DEPTH])
    wanted = wanted_depth(state)
    if wanted is None:
        return look(standings[StationName.DEPTH])
    if state.setting(Place.DEPTH) and result.value is not None and abs(result.value) > FARTHEST:
        note = (
            "No pinion is so far off: read again, and check the mark's sign, the trial shim and every unit."
        )
        return Move.look(
            "The depth readings cannot be right", StationName.DEPTH, why=result.why, notes=(note,)
        )
    tolerance = state.sheet.single("depth_tolerance")
    # Aim well inside: at most half of the tolerance is the drawer's, the rest is the gauge's.
    close = (Decimal(str(tolerance / 4)), Decimal(str(tolerance / 2))) if tolerance else (CLOSE,)
    move = set_depth(state, display, wanted.thickness, result.why, "depth", *close)
    made = next((p for p in depth_packs(state, wanted) if _is_offered(p, move)), None)
    if made is None or made.probability is None or tolerance is None:
        return move
    allowed = f"± {display.show(tolerance)} {display.length.symbol}"
    return replace(move, notes=(f"Within {allowed}: {percent(made.probability)} sure.", *move.notes))


def _thicker_trial(state: AxleState, display: Display, result: Result, newest: Reading) -> Move:
    """A gauge that shows nothing: a thicker trial shim, then the same gauge again."""
    if newest.settings.get(Place.DEPTH) != state.setting(Place.DEPTH):
        title = f"Read again: {kind_named(newest.kind).title.lower()}"
        return Move.read(title, StationName.DEPTH, why=result.why, asks=((newest.kind, 1),))
    thicker = float(state.setting(Place.DEPTH)) + _THICKER
    move = set_depth(state, display, thicker, result.why, "depth", CLOSE, Decimal("0.0635"))
    return replace(move, title="Fit a thicker trial shim") if move.swaps else move


def _is_offered(pack: DepthPack, move: Move) -> bool:
    return any(s.place is Place.DEPTH and s.after == pack.pack.thickness for s in move.swaps)


def start_depth(state: AxleState, display: Display, standing: Standing) -> Move:
    """Without a gauge: the old pack or a usual one, and then the pattern."""
    start = depth_start(state)
    if start is None or state.setting(Place.DEPTH):
        return look(standing)
    thickness, source = start
    why = (f"{display.show(thickness)} {display.length.symbol}: {source}. The pattern decides from here.",)
    return set_depth(state, display, thickness, why, "depth", CLOSE, Decimal("0.0635"))


def set_depth(
    state: AxleState,
    display: Display,
    target: float,
    why: tuple[str, ...],
    station: str,
    *close: Decimal,
) -> Move:
    """Change the depth shim, and with it what is coupled to it."""
    layout, unit = state.layout, display.length.symbol
    swap_made = make_swap(state, Place.DEPTH, target, display, *close)
    notes = [swap_made.note] if swap_made.note else []
    if swap_made.swap is None:
        return Move.look("The depth shim cannot be made", station, why=why, notes=tuple(notes))
    if not swap_made.swap.change:
        notes.append("The nearest pack is the one that is fitted: order shims, or sign it with a reason.")
        return Move.look(
            "No nearer depth shim in the drawer",
            station,
            why=why,
            notes=tuple(notes),
            others=swap_made.others,
        )
    swaps, others, lines = [swap_made.swap], list(swap_made.others), list(why)
    change = float(swap_made.swap.change)
    if layout.preload_per_depth and state.setting(Place.PRELOAD):
        follow = float(state.setting(Place.PRELOAD)) + layout.preload_per_depth * change
        coupled = make_swap(state, Place.PRELOAD, follow, display)
        lines.append(
            f"The stacks are coupled: {signed(change, display)} {unit} at the depth shim asks for "
            "the same at the preload pack."
        )
        if coupled.swap and coupled.swap.change:
            swaps.append(coupled.swap)
        notes += [coupled.note] if coupled.note else []
    deeper = layout.depth_sign * change
    if swap_made.swap.before and backlash_around(state) is not None:
        lines.append(depth_line(state, display, deeper))
    title = "Fit the depth shim" if not swap_made.swap.before else "Change the depth shim"
    return Move.change(
        title,
        station,
        swaps=tuple(swaps),
        stales=stale_after(swaps, state),
        why=tuple(lines),
        notes=tuple(notes),
        others=tuple(others),
    )
