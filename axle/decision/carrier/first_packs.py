"""Moves of the carrier: both sides together, for preload and backlash at once."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Final

from axle.backlash.around import check_backlash
from axle.decision.carrier.by_hand import by_hand
from axle.decision.carrier.explain import (
    expected_of,
    lash_lines,
    preload_lines,
    side_line,
    stay_notes,
    sum_check,
    title_of,
)
from axle.decision.carrier.plan import load_wanted, plan_sides
from axle.decision.carrier.play_first import loose_by, loose_line
from axle.decision.carrier.start import start_of
from axle.decision.move import Move, look
from axle.decision.pack_swap import make_swap
from axle.errors import AxleError
from axle.layout import Place
from axle.measure.range import BacklashLevel
from axle.measure.units import Display
from axle.preload import curve as preload
from axle.procedure.names import KindName, StationName
from axle.procedure.staleness import stales
from axle.procedure.stations import kind_named
from axle.state.axle_state import AxleState
from axle.stations.backlash import backlash_around
from axle.stations.carrier_preload import BY_HAND, wanted_interference
from axle.stations.result import signed
from axle.stations.station_state import Standing
from axle.stations.zero_play import sides_are_set, zero_play

# By the school of one side the backlash stands so far under its range before the preload shim goes in
# [mm]: 2 to 3 thou, common practice. It is never set nearer to nothing than a quarter of its least.
_UNDER: Final = 0.0635


def carrier_move(state: AxleState, display: Display, standings: Mapping[str, Standing]) -> Move:
    """Change both sides so that preload and backlash come right in one move.

    :param state: the axle.
    :param display: units of the words.
    :param standings: where it stands.
    :source: :mod:`axle.decision.carrier.plan`.
    """
    station = "carrier_preload" if not standings[StationName.CARRIER_PRELOAD].is_done else "backlash"
    standing = standings[station]
    if station == StationName.CARRIER_PRELOAD and standing.method.name in BY_HAND:
        return by_hand(state, display, standing)
    around, limits = backlash_around(state), state.sheet.backlash_limits()
    if (
        station == StationName.BACKLASH
        and around
        and limits
        and check_backlash(around, limits).level is BacklashLevel.IN_RANGE
    ):
        return _spread(standing)
    if _wants_backlash(state, standings):
        return _read_backlash(state)
    target, curve = load_wanted(state, is_done=standings[StationName.CARRIER_PRELOAD].is_done)
    try:
        plan = plan_sides(state, display, interference=target)
    except AxleError as problem:
        return Move.look("No side packs do both", station, why=(str(problem),))
    if plan is None or (target is None and plan.wanted is None):
        return look(standing)
    lines = [
        *preload_lines(state, display, standing=standing, target=target, curve=curve),
        *lash_lines(state, plan, display),
    ]
    if not plan.changes:
        return Move.look(
            "No nearer side packs can be made",
            station,
            why=tuple(lines),
            notes=plan.notes,
            others=plan.others,
        )
    lines += [side_line(state, plan, display), sum_check(state, plan, display)]
    notes = (*plan.notes, *stay_notes(state, plan, target, display))
    found = {name for swap in plan.swaps for name in stales(swap.place, state.layout)}
    return Move.change(
        title_of(state, plan),
        station,
        swaps=plan.swaps,
        expected=expected_of(state, plan, curve),
        stales=tuple(sorted(found)),
        why=tuple(filter(None, lines)),
        notes=notes,
        others=plan.others,
    )


def first_packs_move(state: AxleState, display: Display, standing: Standing) -> Move | None:
    """Side packs to start from, where none are recorded: by gaps, by thin spacers, or the old ones.

    :param state: the axle.
    :param display: units of the words.
    :param standing: the carrier's preload as it stands.
    :returns: nothing where nothing is known yet, or something is fitted already.
    :source: :mod:`axle.decision.carrier.plan`; common practice for the old packs.
    """
    if state.layout.has_adjusters or any(state.setting(p) for p in (Place.RING, Place.FAR)):
        return None
    start = start_of(state)
    if start is not None and zero_play(state) is not None:
        return _from_zero(state, display, standing)
    old = {p: v for p, v in state.old_packs.items() if p in (Place.RING, Place.FAR)}
    if len(old) < 2 or not state.usual_packs or standing.method.name in ("feelers", "gaps"):
        return None
    changes = {place: change for place in old if (change := _bearing_change(state, place)) is not None}
    corrected = [
        f"The {state.layout.side_of(place).value} bearing stands otherwise than the old one: "
        f"{signed(change, display)} {display.length.symbol} at its pack."
        for place, change in changes.items()
    ]
    made = [make_swap(state, p, float(value) + changes.get(p, 0.0), display) for p, value in old.items()]
    swaps = tuple(m.swap for m in made if m.swap is not None)
    if len(swaps) < 2:
        return None
    shown = " and ".join(display.show(value) for value in old.values())
    why = [f"{shown} {display.length.symbol} came out; from there play and backlash are read.", *corrected]
    found = tuple(sorted({name for s in swaps for name in stales(s.place, state.layout)}))
    return Move.change(
        "Fit the side packs to start from",
        standing.station,
        swaps=swaps,
        expected=(),
        stales=found,
        why=tuple(why),
        notes=tuple(m.note for m in made if m.note),
        others=tuple(o for m in made for o in m.others),
    )


def _bearing_change(state: AxleState, place: Place) -> float | None:
    """Change of a side's pack for its new bearing [mm]: thinner for a taller one, but under covers."""
    kind = f"stand_{state.layout.side_of(place).value}"
    old, new = state.latest(kind, 1), state.latest(kind, 3)
    if old is None or new is None:
        return None
    return -state.layout.carrier_sign * (new.value - old.value)


def _from_zero(state: AxleState, display: Display, standing: Standing) -> Move:
    wanted = wanted_interference(state)
    target = wanted.limits.aim if wanted else preload_start(state)
    if target is None:
        return Move.look(
            "How much carrier preload?",
            standing.station,
            why=("Neither the sheet nor the way of setting says how much preload there is to be.",),
            notes=("Choose a way that sets an interference, or give the sheet a range.",),
        )
    limits = state.sheet.backlash_limits()
    one_side = state.school == "one_side" and limits is not None
    before = max(limits.low - _UNDER, limits.low / 4) if one_side and limits is not None else None
    loose = None if one_side else loose_by(state)
    over = 0.0 if one_side or loose is not None else target
    try:
        plan = plan_sides(state, display, interference=over, backlash=before, play=loose or 0.0)
    except AxleError as problem:
        return Move.look("No side packs can be made of this", standing.station, why=(str(problem),))
    if plan is None or len(plan.swaps) < 2:
        notes = plan.notes if plan else ()
        return Move.look("No side packs can be made", standing.station, notes=notes)
    zero = zero_play(state)
    unit = display.length.symbol
    adds = display.show(over)
    lines = [f"Zero play by {zero.by}; {adds} {unit} of interference is added." if zero else ""]
    if zero and loose is not None:
        lines = [f"Zero play by {zero.by}.", loose_line(state, display)]
    if one_side and before is not None:
        lines.append(
            "By this way the backlash stands 2 to 3 thou under its least first, at "
            f"{display.show(before)} {unit}; the preload shim on the far side, {display.show(target)} "
            f"{unit}, then opens it."
        )
    lines += [*lash_lines(state, plan, display), sum_check(state, plan, display)]
    found = {name for swap in plan.swaps for name in stales(swap.place, state.layout)}
    title = "Fit both side packs"
    if loose is not None:
        title = "Fit both side packs a little loose, to read the play"
    return Move.change(
        "Fit both side packs, before the preload shim" if one_side else title,
        standing.station,
        swaps=plan.swaps,
        expected=expected_of(state, plan, None),
        stales=tuple(sorted(found)),
        why=tuple(filter(None, lines)),
        notes=plan.notes,
        others=plan.others,
    )


def preload_start(state: AxleState) -> float | None:
    """Interference to start from where torque is the measure: the expected slope to the middle [mm].

    :param state: the axle.
    :returns: nothing where the sheet gives no torque.
    :source: :data:`axle.preload.curve.CARRIER_SLOPE`, from memory.
    """
    limits = state.sheet.range("carrier_preload")
    if limits is None:
        return None
    return preload.interference_for(limits.aim, preload.CARRIER_SLOPE.coefficient)


def _wants_backlash(state: AxleState, standings: Mapping[str, Standing]) -> bool:
    """Whether the backlash, read now, would let one move set both: the pinion is in and right."""
    if not sides_are_set(state) or state.sheet.backlash_limits() is None:
        return False
    if standings[StationName.CARRIER_PRELOAD].is_done:
        return False
    around, start = backlash_around(state), start_of(state)
    if around is not None:
        # Begun, it is read all around: the smallest place governs, and one place hides it.
        return len(around.places) < state.lash_places
    if start is not None and start.smallest is not None:
        return False
    return all(name in standings and standings[name].is_done for name in ("depth", "pinion_preload"))


def _read_backlash(state: AxleState) -> Move:
    note = "One planned move then sets preload and backlash together."
    pushed = "While there is play, push the carrier away from the pinion: the other way may lock the gears."
    play = state.latest(KindName.CARRIER_END_PLAY) or state.latest(KindName.ZERO_PLAY)
    notes = (note, pushed) if play is not None and play.value > 0 else (note,)
    hint = kind_named(KindName.BACKLASH).hint_on(state.layout)
    return Move.read(
        "Read the backlash too, before the sides change", StationName.BACKLASH, notes=notes, why=(hint,)
    )


def _spread(standing: Standing) -> Move:
    why = standing.result.why if standing.result else ()
    note = "The spread is runout of gear, carrier or flange: find the cause, or sign it with a reason."
    return Move.look(
        "Backlash spread is over: look for runout", StationName.BACKLASH, why=why, notes=(note,)
    )
