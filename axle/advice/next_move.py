"""One function: the state of an axle in, one next move out."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from decimal import Decimal
from typing import Final

from axle.advice.by_hand import before_the_pull, last_size
from axle.advice.carrier_move import carrier_move, first_packs_move, hold_backlash
from axle.advice.carrier_words import turning_order
from axle.advice.forecast import is_better, nothing_nearer, starts_well
from axle.advice.held import FARTHEST
from axle.advice.judge import judge
from axle.advice.looking import look
from axle.advice.moves import Act, Expected, Move
from axle.advice.packs import CLOSE, make, place_words, stale_after
from axle.advice.pinion_depth import (
    TRIAL_TOO_THIN,
    DepthPack,
    carried_depth,
    depth_packs,
    depth_start,
    shows_nothing,
    wanted_depth,
)
from axle.advice.pinion_move import carried_preload, preload_move, start_preload
from axle.advice.pinion_preload import asks_play
from axle.advice.prints import read_print
from axle.advice.ring_first import ring_first
from axle.advice.runs import diagnose
from axle.advice.seats import sides_are_set
from axle.advice.standing import Standing, Status, in_hand, stand
from axle.advice.state import AxleState, Taken
from axle.advice.two_measures import ask_the_other
from axle.advice.verdict import READ_TORQUE, Result, signed
from axle.advice.ways import can_be_read, chosen_way, reading_stale
from axle.contact.reading import first_step
from axle.layout import Place
from axle.procedure.stations import kind_named
from axle.units import IMPERIAL, Display, percent

# Read as received through side play these say nothing.
_NO_PLAY: Final = ("arrival_runout",)
_RUNOUT: Final = ("gear_runout", "flange_burr")
# A depth further off than this is found in steps [mm]: a patch at the edge of the flank hardly moves.
_BOLDEST: Final = 0.254
# How much thicker a trial shim is made when a gauge shows nothing [mm].
_THICKER: Final = 0.5


def next_move(
    state: AxleState,
    display: Display = IMPERIAL,
    standings: Mapping[str, Standing] | None = None,
) -> Move:
    """Choose the next move: what to change, by how much, out of which shims, and why.

    Until the axle first stands together, depth comes before preload and preload before the carrier;
    from then on the whole is judged and one move may change several packs.

    :param state: the axle.
    :param display: units in which reasons are written.
    :param standings: where it stands, when that is known already.
    :returns: the move; :attr:`Act.READ` while the station in hand wants readings.
    :source: order of the work by common practice; arithmetic of the core's modules.

    >>> from axle.layout import CarrierBy, DepthShim, Layout, PreloadBy
    >>> from axle.gearset import GearSet
    >>> from axle.spec import Sheet
    >>> layout = Layout(DepthShim.HEAD, PreloadBy.SPACER, CarrierBy.OUTBOARD)
    >>> next_move(AxleState(layout, GearSet(9, 38), Sheet("x", {}))).act.value
    'read'
    """
    chosen = _chosen(state, display, standings or stand(state, display))
    return _within_scope(state, display, ask_the_other(state, display, _in_order(state, chosen)))


def _in_order(state: AxleState, move: Move) -> Move:
    """Every move of adjusters says in which order they turn: out before in, so that nothing locks."""
    then = _in_order(state, move.then) if move.then is not None else None
    sides = [swap for swap in move.swaps if swap.place in (Place.RING, Place.FAR)]
    if not state.layout.has_adjusters or move.act is not Act.CHANGE or not sides:
        return replace(move, then=then) if then is not move.then else move
    more = tuple(line for line in turning_order(sides) if line not in move.notes)
    return replace(move, notes=(*more, *move.notes), then=then)


def _chosen(state: AxleState, display: Display, standings: Mapping[str, Standing]) -> Move:
    """The move as the order of the work and the whole axle ask for it."""
    station = in_hand(standings)
    standing = standings[station]
    if standing.is_done:
        return Move(Act.DONE, "Signed: print the build sheet", station)
    judged = _half_built(state, display, station) or judge(state, display, standings)
    if judged is not None:
        return judged
    if station == "sheet":
        return Move(
            Act.SIGN,
            "Sign the build sheet",
            station,
            why=("Every station is in range or signed with a reason.",),
        )
    first = first_packs_move(state, display, standing) if station == "carrier_preload" else None
    if first is not None and (not standing.missing or standing.way.way not in ("feelers", "gaps")):
        return first if starts_well(first) else nothing_nearer(state, first, display)
    if standing.missing and not _change_is_due(standing):
        return _before_reading(state, display, standing) or _read(standing, state, display)
    if standing.result is not None and standing.result.words == READ_TORQUE:
        return _torque_instead(state, standing)
    movers = {
        "ring_gear": _ring_move,
        "depth": _depth_move,
        "pinion_preload": preload_move,
        "carrier_preload": carrier_move,
        "backlash": carrier_move,
        "pattern": _pattern_move,
    }
    mover = movers.get(station)
    return _never_worse(state, mover(state, display, standings), display) if mover else look(standing)


def _within_scope(state: AxleState, display: Display, move: Move) -> Move:
    """A move that leaves alone what is not part of the job; what it would have changed is said."""
    outside = [swap for swap in move.swaps if swap.place in state.fixed]
    if move.then is not None and any(swap.place in state.fixed for swap in move.then.swaps):
        return replace(move, then=None)
    if not outside:
        return move
    unit = display.length.symbol
    asked = "; ".join(
        f"{place_words(s.place)} {display.show(s.before)} → {display.show(s.after)} {unit}" for s in outside
    )
    return Move(
        Act.LOOK,
        "What is read asks for the pinion, and that is not part of this job",
        move.station,
        why=move.why,
        notes=(
            f"It would be: {asked}. Tell whoever set it, widen what the job covers, or sign it with a "
            "reason.",
        ),
    )


def _half_built(state: AxleState, display: Display, station: str) -> Move | None:
    """What comes before the whole can be judged: a loose pinion's play, a far side that is still empty."""
    ours = station != "sheet" and "pinion_preload" not in state.not_part
    if ours and asks_play(state) is not None:
        return Move(
            Act.READ,
            "Read: end play of the pinion",
            "pinion_preload",
            asks=(("pinion_end_play", 1),),
            why=("It turns at nothing: that is loose, and does not say by how much. The end play does.",),
        )
    if station == "carrier_preload" and _is_pulled_next(state):
        return before_the_pull(state, display)
    return ring_first(state, display) if station in ("carrier_preload", "backlash") else None


def _is_pulled_next(state: AxleState) -> bool:
    """Whether the carrier is set by an adjuster's torque, and none was pulled on what is in."""
    pulled = state.latest("adjuster_pull")
    stale = pulled is None or reading_stale("carrier_preload", pulled.kind, pulled.settings, state)
    return chosen_way(state, "carrier_preload").way == "pull" and bool(stale)


def _never_worse(state: AxleState, move: Move, display: Display) -> Move:
    """A change that is better than leaving the axle as it is; else what to order, and what else helps."""
    if move.act is not Act.CHANGE or _helps(state, move):
        return move
    return nothing_nearer(state, move, display)


def _helps(state: AxleState, move: Move) -> bool:
    """Whether a change is better than leaving it; a first pack has to come near what was asked."""
    depth = any(swap.place is Place.DEPTH for swap in move.swaps)
    if depth and shows_nothing(state) is not None:
        return True  # a thicker trial is meant to be further off
    if any(swap.before or swap.pack is None for swap in move.swaps):
        return is_better(state, move)
    return starts_well(move)


def _change_is_due(standing: Standing) -> bool:
    # Readings still wanted do not hold up a change that the readings taken already decide.
    return standing.status is Status.OUT and standing.result is not None and standing.result.decided


def _before_reading(state: AxleState, display: Display, standing: Standing) -> Move | None:
    """A pack that is fitted before anything is read: a start, or what other bearings ask for."""
    if standing.station == "carrier_preload" and sides_are_set(state):
        if standing.way.way == "taps":
            return last_size(state, display, standing)
        return None
    if standing.station == "pinion_preload":
        if not _pinion_is_set(state):
            return start_preload(state, display)
        return carried_preload(state, display) if state.layout.has_preload_pack else None
    if standing.station != "depth" or not state.setting(Place.DEPTH):
        return None
    carried = carried_depth(state)
    if carried is None or abs(float(state.setting(Place.DEPTH)) - carried.thickness) <= float(CLOSE):
        return None
    unit = display.length.symbol
    why = tuple(f"{t.label}: {signed(t.value, display)} {unit} at the depth shim." for t in carried.terms)
    sure = f"{display.show(carried.thickness)} ± {display.show(carried.uncertainty)} {unit}"
    last = f"Foretold {sure}; then depth is measured again, as the last check."
    return _set_depth(state, display, carried.thickness, (*why, last), "depth", CLOSE)


def _read(standing: Standing, state: AxleState, display: Display) -> Move:
    slot = standing.missing[0]
    if slot.kind == "pattern":
        flank = "drive" if slot.place == 1 else "coast"
        return Move(
            Act.PRINT,
            f"Mark the {flank} flank",
            standing.station,
            why=(
                "Clean teeth, thin even compound, three to five teeth, load by hand or brake, turn "
                "both ways. A poor print is repeated before anything is changed.",
            ),
        )
    play = state.latest("arrival_side_play")
    if slot.kind in _NO_PLAY and play is not None and play.value > 0 and not state.play_accepted:
        shown = f"{display.show(play.value)} {display.length.symbol}"
        return Move(
            Act.LOOK,
            "Side play first: runout cannot be read through it",
            standing.station,
            why=(f"Side play of {shown} was read: it has to be nil before runout is believed.",),
            notes=(
                "Take the play up, or press the carrier to one side, and read it again; or sign the "
                "step past with a reason.",
            ),
        )
    kind = kind_named(slot.kind)
    places = state.places_of(slot.kind)
    where = f", place {slot.place} of {places}" if places > 1 else ""
    notes: tuple[str, ...] = (f"Stale: {standing.stale}.",) if standing.stale else ()
    at_carrier = standing.station in ("carrier_preload", "backlash")
    if at_carrier and not _carrier_is_set(state) and (not kind.keeps or slot.kind == "zero_play"):
        notes = (
            "Fit the side packs first: nothing is recorded on either side. Usual: a ring-side pack, the "
            "carrier pushed against it, the far side still empty, and read the backlash.",
            *notes,
        )
    if standing.station == "pinion_preload" and not _pinion_is_set(state):
        notes = (
            "Fit a preload pack first, a little thick: end play is safe, too tight marks the rollers.",
            *notes,
        )
    if standing.station == "depth" and state.layout.depth_sign < 0 and not state.setting(Place.DEPTH):
        notes = (
            "Fit a trial shim under the cartridge first: a gauge can only take away from it.",
            *notes,
        )
    return Move(
        Act.READ,
        f"Read: {kind.title.lower()}{where}",
        standing.station,
        notes=notes,
        why=(kind.hint_on(state.layout),),
    )


def _torque_instead(state: AxleState, standing: Standing) -> Move:
    """No end play: the torque is read, whatever way was chosen."""
    kinds = (
        ("pinion_torque",) if standing.station == "pinion_preload" else ("total_torque", "carrier_torque")
    )
    kind = next((k for k in kinds if can_be_read(k, standing.station, state)), kinds[-1])
    why = standing.result.why if standing.result else ()
    title = f"Read: {kind_named(kind).title.lower()}"
    return Move(Act.READ, title, standing.station, why=why, asks=((kind, 1),))


def _carrier_is_set(state: AxleState) -> bool:
    return sides_are_set(state)


def _pinion_is_set(state: AxleState) -> bool:
    return not state.layout.has_preload_pack or bool(state.setting(Place.PRELOAD))


def _ring_move(state: AxleState, display: Display, standings: Mapping[str, Standing]) -> Move:
    """Runout is cured at the faces, by clocking, or by another part: never by a shim."""
    result = standings["ring_gear"].result
    told = diagnose(state, display)
    if not state.runs:
        notes = ("Read around at eight places or more: the angle tells gear from flange.",)
        return Move(
            Act.LOOK,
            told.title,
            "ring_gear",
            why=result.why if result else (),
            notes=notes,
            suspects=_RUNOUT,
        )
    return Move(
        Act.LOOK, told.title, "ring_gear", why=told.why, notes=("No shim cures runout.",), suspects=_RUNOUT
    )


def _depth_move(state: AxleState, display: Display, standings: Mapping[str, Standing]) -> Move:
    result = standings["depth"].result
    nothing = shows_nothing(state)
    if result is not None and nothing is not None and result.words == TRIAL_TOO_THIN:
        return _thicker_trial(state, display, result, nothing)
    if result is None or (result.value is None and result.decided):
        return look(standings["depth"])
    if state.ways.get("depth") == "trial":
        return _start_depth(state, display, standings["depth"])
    wanted = wanted_depth(state)
    if wanted is None:
        return look(standings["depth"])
    if state.setting(Place.DEPTH) and result.value is not None and abs(result.value) > FARTHEST:
        note = (
            "No pinion is so far off: read again, and check the mark's sign, the trial shim and every unit."
        )
        return Move(Act.LOOK, "The depth readings cannot be right", "depth", why=result.why, notes=(note,))
    tolerance = state.sheet.single("depth_tolerance")
    # Aim well inside: at most half of the tolerance is the drawer's, the rest is the gauge's.
    close = (Decimal(str(tolerance / 4)), Decimal(str(tolerance / 2))) if tolerance else (CLOSE,)
    move = _set_depth(state, display, wanted.thickness, result.why, "depth", *close)
    made = next((p for p in depth_packs(state, wanted) if _is_offered(p, move)), None)
    if made is None or made.chance is None or tolerance is None:
        return move
    allowed = f"± {display.show(tolerance)} {display.length.symbol}"
    return replace(move, notes=(f"Within {allowed}: {percent(made.chance)} sure.", *move.notes))


def _thicker_trial(state: AxleState, display: Display, result: Result, newest: Taken) -> Move:
    """A gauge that shows nothing: a thicker trial shim, then the same gauge again."""
    if newest.settings.get(Place.DEPTH) != state.setting(Place.DEPTH):
        title = f"Read again: {kind_named(newest.kind).title.lower()}"
        return Move(Act.READ, title, "depth", why=result.why, asks=((newest.kind, 1),))
    thicker = float(state.setting(Place.DEPTH)) + _THICKER
    move = _set_depth(state, display, thicker, result.why, "depth", CLOSE, Decimal("0.0635"))
    return replace(move, title="Fit a thicker trial shim") if move.swaps else move


def _is_offered(pack: DepthPack, move: Move) -> bool:
    return any(s.place is Place.DEPTH and s.after == pack.pack.thickness for s in move.swaps)


def _start_depth(state: AxleState, display: Display, standing: Standing) -> Move:
    """Without a gauge: the old pack or a usual one, and then the pattern."""
    start = depth_start(state)
    if start is None or state.setting(Place.DEPTH):
        return look(standing)
    thickness, source = start
    why = (f"{display.show(thickness)} {display.length.symbol}: {source}. The pattern decides from here.",)
    return _set_depth(state, display, thickness, why, "depth", CLOSE, Decimal("0.0635"))


def _pattern_move(state: AxleState, display: Display, standings: Mapping[str, Standing]) -> Move:
    says = read_print(state)
    if says is None or not says.depth_error:
        return look(standings["pattern"])
    told = says.placed is not None
    step = -says.depth_error if told else first_step(says.depth_error)
    step = min(max(step, -_BOLDEST), _BOLDEST)
    way = "out" if step < 0 else "in"
    target = float(state.setting(Place.DEPTH)) + state.layout.depth_sign * step
    result = standings["pattern"].result
    by = f"move the pinion {way} by {display.show(abs(step))} {display.length.symbol}"
    why = (
        *(result.why if result else ()),
        f"By what is computed for these gears: {by}."
        if told
        else f"First step: {by}; under 2 thou hardly shows, 5 shows clearly.",
    )
    return _set_depth(state, display, target, why, "pattern", CLOSE)


def _set_depth(
    state: AxleState,
    display: Display,
    target: float,
    why: tuple[str, ...],
    station: str,
    *close: Decimal,
) -> Move:
    """Change the depth shim, and with it what is coupled to it."""
    layout, unit = state.layout, display.length.symbol
    made = make(state, Place.DEPTH, target, display, *close)
    notes = [made.note] if made.note else []
    if made.swap is None:
        return Move(Act.LOOK, "The depth shim cannot be made", station, why=why, notes=tuple(notes))
    if not made.swap.change:
        notes.append("The nearest pack is the one that is fitted: order shims, or sign it with a reason.")
        return Move(
            Act.LOOK,
            "No nearer depth shim in the drawer",
            station,
            why=why,
            notes=tuple(notes),
            others=made.others,
        )
    swaps, others, lines = [made.swap], list(made.others), list(why)
    change = float(made.swap.change)
    if layout.preload_per_depth and state.setting(Place.PRELOAD):
        follow = float(state.setting(Place.PRELOAD)) + layout.preload_per_depth * change
        coupled = make(state, Place.PRELOAD, follow, display)
        lines.append(
            f"The stacks are coupled: {signed(change, display)} {unit} at the depth shim asks for "
            "the same at the preload pack."
        )
        if coupled.swap and coupled.swap.change:
            swaps.append(coupled.swap)
        notes += [coupled.note] if coupled.note else []
    deeper = layout.depth_sign * change
    expected: tuple[Expected, ...] = ()
    if made.swap.before:
        side_swaps, side_lines, side_notes, expected = hold_backlash(state, display, deeper)
        swaps += side_swaps
        lines += side_lines
        notes += side_notes
    title = "Fit the depth shim" if not made.swap.before else "Change the depth shim"
    return Move(
        Act.CHANGE,
        title,
        station,
        tuple(swaps),
        expected,
        stale_after(swaps, state),
        tuple(lines),
        tuple(notes),
        tuple(others),
    )
