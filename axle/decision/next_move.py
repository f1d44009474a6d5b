"""One function: the state of an axle in, one next move out."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Final

from axle.decision.before_mesh import before_mesh
from axle.decision.carrier.by_hand import before_the_pull, last_size
from axle.decision.carrier.explain import turning_order
from axle.decision.carrier.first_packs import carrier_move, first_packs_move
from axle.decision.carrier.loose import drag_of_mesh
from axle.decision.carrier.play_first import read_play
from axle.decision.depth_move import depth_move, set_depth
from axle.decision.faults import FaultName
from axle.decision.first_load import before_load, load_first
from axle.decision.forecast import is_better, nothing_nearer, starts_well
from axle.decision.move import Act, Move, look
from axle.decision.pack_swap import CLOSE, place_words
from axle.decision.pinion_preload import carried_preload, preload_move, start_preload
from axle.decision.policy import assembled_policy, unsigned
from axle.decision.probability import in_range_probabilities
from axle.decision.read_twice import READ_BEFORE_MESH, before_a_stop, read_twice
from axle.decision.ring_first import ring_first
from axle.decision.two_measures import ask_the_other
from axle.decision.value_of_information import with_the_mesh_parted
from axle.layout import Place
from axle.measure.units import IMPERIAL, Display, percent
from axle.procedure.names import KindName, StationName
from axle.procedure.stations import kind_named
from axle.state.axle_state import AxleState
from axle.state.kept import kept
from axle.stations.depth import shows_nothing
from axle.stations.depth_measurements import carried_depth
from axle.stations.method import can_be_read, chosen_method, reading_stale
from axle.stations.pinion_preload import asks_play
from axle.stations.result import Outcome, signed
from axle.stations.runout import diagnose
from axle.stations.station_state import Standing, Status, in_hand, stand
from axle.stations.zero_play import sides_are_set

# Read as received through side play these say nothing.
_NO_PLAY: Final = ("arrival_runout",)
_RUNOUT: Final = (FaultName.GEAR_RUNOUT, FaultName.FLANGE_BURR)


@kept
def next_move(state: AxleState, display: Display = IMPERIAL) -> Move:
    """Choose the next move: what to change, by how much, out of which shims, and why.

    Until the axle first stands together, depth comes before preload and preload before the carrier;
    from then on the whole is judged and one move may change several packs.

    :param state: the axle.
    :param display: units in which reasons are written.
    :returns: the move; :attr:`Act.READ` while the station in hand wants readings.
    :source: order of the work by common practice; arithmetic of the core's modules.

    >>> from axle.layout import CarrierBy, DepthShim, Layout, PreloadBy
    >>> from axle.gearset import GearSet
    >>> from axle.spec.sheet import Sheet
    >>> layout = Layout(DepthShim.HEAD, PreloadBy.SPACER, CarrierBy.OUTBOARD)
    >>> next_move(AxleState(layout, GearSet(9, 38), Sheet("x", {}))).act.value
    'read'
    """
    chosen = _chosen(state, display, stand(state, display))
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
        return Move.done("Signed: print the build sheet", station)
    twice = read_twice(state, standings, station, display)
    move = before_a_stop(state, standing, _of_station(state, display, standings, station))
    # Once more, where a pack hangs on it now, or the work would stop for it; a torque that no mesh lets be
    # read later, at once.
    waits = move.ready_change is None and move.act is not Act.LOOK
    if twice is None or (waits and twice.asks[0][0] not in READ_BEFORE_MESH):
        return move
    if move.act is Act.READ and move.asks and move.asks[0][0] == twice.asks[0][0]:
        return move  # it is read again anyway, and that says why
    # What is read once more never hides the change that could be made on what was read so far.
    change = move.ready_change
    if standing.missing and twice.asks[0][0] in standing.method.kinds:
        # What the chosen way still wants comes before what is read again.
        slot = standing.missing[0]
        twice = replace(_read(standing, state, display), asks=((slot.kind, slot.place),))
    return replace(twice, then=change, why=(*twice.why, *(change.why if change else ())))


def _of_station(
    state: AxleState, display: Display, standings: Mapping[str, Standing], station: str
) -> Move:
    """The move at the station in hand, were nothing read again first; the first load is told from after."""
    return before_load(state, load_first(state, _judged(state, display, standings, station)))


def _judged(state: AxleState, display: Display, standings: Mapping[str, Standing], station: str) -> Move:
    standing = standings[station]
    judged = (
        _half_built(state, display, station)
        or (_while_loose(state, display) if station == StationName.CARRIER_PRELOAD else None)
        or _of_pinion_alone(state, display, standings)
        or assembled_policy(state, display, standings)
    )
    if judged is not None:
        return judged
    if station == StationName.SHEET:
        return Move.sign(
            "Sign the build sheet",
            station,
            why=("Every station is in range or signed with a reason.", *_how_sure(state, standings)),
            probability=unsigned(in_range_probabilities(state), standings).joint,
        )
    first = first_packs_move(state, display, standing) if station == StationName.CARRIER_PRELOAD else None
    if first is not None and (not standing.missing or standing.method.name not in ("feelers", "gaps")):
        return first if starts_well(first) else nothing_nearer(state, first, display)
    if standing.missing and not _change_is_due(standing):
        return _before_reading(state, display, standing) or _read(standing, state, display)
    if standing.result is not None and standing.result.outcome is Outcome.READ_TORQUE:
        return _torque_instead(state, standing)
    movers = {
        "ring_gear": _ring_move,
        "depth": depth_move,
        "pinion_preload": preload_move,
        "carrier_preload": carrier_move,
        "backlash": carrier_move,
    }
    mover = movers.get(station)
    return _never_worse(state, mover(state, display, standings), display) if mover else look(standing)


def _while_loose(state: AxleState, display: Display) -> Move | None:
    """What is read while the carrier still has play."""
    return read_play(state, display) or drag_of_mesh(state)


def _how_sure(state: AxleState, standings: Mapping[str, Standing]) -> tuple[str, ...]:
    """The chance that all is truly in range, as it is said beside the signature."""
    now = unsigned(in_range_probabilities(state), standings)
    if not now.parts:
        return ()
    least = min(now.parts, key=lambda name: now.parts[name])
    words = f"By everything that was read it is {percent(now.joint)} sure that all of it is truly in range"
    line = f"{words}; {least.replace('_', ' ')} is the least sure, with {percent(now.parts[least])}."
    if now.joint >= state.sign_at:
        return (line,)
    told = with_the_mesh_parted(state, now)
    if told is None:
        return line, "It is under the shop's limit, and nothing that can still be read would settle it."
    asked, price = told
    return line, (
        f"It is under the shop's limit. What would settle it with {percent(asked.resolution_probability)}: "
        f"the pinion's own torque with the mesh parted, about {price:.0f} min of work; backlash and "
        f"pattern "
        "are read again after it."
    )


def _of_pinion_alone(state: AxleState, display: Display, standings: Mapping[str, Standing]) -> Move | None:
    """What of the pinion is read or set before the carrier goes in, once its station is past."""
    if "pinion_preload" in state.not_part:
        return None
    return before_mesh(state, display, standings)


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
    return Move.look(
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
    ours = station != StationName.SHEET and "pinion_preload" not in state.not_part
    if ours and asks_play(state) is not None:
        return Move.read(
            "Read: end play of the pinion",
            StationName.PINION_PRELOAD,
            asks=((KindName.PINION_END_PLAY, 1),),
            why=("It turns at nothing: that is loose, and does not say by how much. The end play does.",),
        )
    if station == StationName.CARRIER_PRELOAD and _is_pulled_next(state):
        return before_the_pull(state, display)
    return (
        ring_first(state, display)
        if station in (StationName.CARRIER_PRELOAD, StationName.BACKLASH)
        else None
    )


def _is_pulled_next(state: AxleState) -> bool:
    """Whether the carrier is set by an adjuster's torque, and none was pulled on what is in."""
    pulled = state.latest(KindName.ADJUSTER_PULL)
    stale = pulled is None or reading_stale(
        StationName.CARRIER_PRELOAD, pulled.kind, pulled.settings, state
    )
    return chosen_method(state, StationName.CARRIER_PRELOAD).name == "pull" and bool(stale)


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
    if standing.station == StationName.CARRIER_PRELOAD and sides_are_set(state):
        if standing.method.name == "taps":
            return last_size(state, display, standing)
        return None
    if standing.station == StationName.PINION_PRELOAD:
        if not _pinion_is_set(state):
            return start_preload(state, display)
        return carried_preload(state, display) if state.layout.has_preload_pack else None
    if standing.station != StationName.DEPTH or not state.setting(Place.DEPTH):
        return None
    carried = carried_depth(state)
    if carried is None or abs(float(state.setting(Place.DEPTH)) - carried.thickness) <= float(CLOSE):
        return None
    unit = display.length.symbol
    why = tuple(f"{t.label}: {signed(t.value, display)} {unit} at the depth shim." for t in carried.terms)
    sure = f"{display.show(carried.thickness)} ± {display.show(carried.uncertainty)} {unit}"
    last = f"Foretold {sure}; then depth is measured again, as the last check."
    return set_depth(state, display, carried.thickness, (*why, last), "depth", CLOSE)


def _read(standing: Standing, state: AxleState, display: Display) -> Move:
    slot = standing.missing[0]
    if slot.kind == StationName.PATTERN:
        flank = "drive" if slot.place == 1 else "coast"
        return Move.make_print(
            f"Mark the {flank} flank",
            standing.station,
            why=(
                "Clean teeth, thin even compound, three to five teeth, load by hand or brake, turn "
                "both ways. A poor print is repeated before anything is changed.",
            ),
        )
    play = state.latest(KindName.ARRIVAL_SIDE_PLAY)
    if slot.kind in _NO_PLAY and play is not None and play.value > 0 and not state.play_accepted:
        shown = f"{display.show(play.value)} {display.length.symbol}"
        return Move.look(
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
    at_carrier = standing.station in (StationName.CARRIER_PRELOAD, StationName.BACKLASH)
    if at_carrier and not _carrier_is_set(state) and (not kind.keeps or slot.kind == KindName.ZERO_PLAY):
        notes = (
            "Fit the side packs first: nothing is recorded on either side. Usual: a ring-side pack, the "
            "carrier pushed against it, the far side still empty, and read the backlash.",
            *notes,
        )
    if standing.station == StationName.PINION_PRELOAD and not _pinion_is_set(state):
        notes = (
            "Fit a preload pack first, a little thick: end play is safe, too tight marks the rollers.",
            *notes,
        )
    if (
        standing.station == StationName.DEPTH
        and state.layout.depth_sign < 0
        and not state.setting(Place.DEPTH)
    ):
        notes = (
            "Fit a trial shim under the cartridge first: a gauge can only take away from it.",
            *notes,
        )
    return Move.read(
        f"Read: {kind.title.lower()}{where}",
        standing.station,
        notes=notes,
        why=(kind.hint_on(state.layout),),
    )


def _torque_instead(state: AxleState, standing: Standing) -> Move:
    """No end play: the torque is read, whatever way was chosen."""
    kinds = (
        ("pinion_torque",)
        if standing.station == StationName.PINION_PRELOAD
        else ("total_torque", "carrier_torque")
    )
    kind = next((k for k in kinds if can_be_read(k, standing.station, state)), kinds[-1])
    why = standing.result.why if standing.result else ()
    title = f"Read: {kind_named(kind).title.lower()}"
    return Move.read(title, standing.station, why=why, asks=((kind, 1),))


def _carrier_is_set(state: AxleState) -> bool:
    return sides_are_set(state)


def _pinion_is_set(state: AxleState) -> bool:
    return not state.layout.has_preload_pack or bool(state.setting(Place.PRELOAD))


def _ring_move(state: AxleState, display: Display, standings: Mapping[str, Standing]) -> Move:
    """Runout is cured at the faces, by clocking, or by another part: never by a shim."""
    result = standings[StationName.RING_GEAR].result
    diagnosis = diagnose(state, display)
    if not state.runs:
        notes = ("Read around at eight places or more: the angle tells gear from flange.",)
        return Move.look(
            diagnosis.title,
            StationName.RING_GEAR,
            why=result.why if result else (),
            notes=notes,
            faults=_RUNOUT,
        )
    return Move.look(
        diagnosis.title,
        StationName.RING_GEAR,
        why=diagnosis.why,
        notes=("No shim cures runout.",),
        faults=_RUNOUT,
    )
