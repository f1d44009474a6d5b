"""One function: the state of an axle in, one next move out."""

from __future__ import annotations

from collections.abc import Mapping
from decimal import Decimal
from typing import Final

from axle import preload
from axle.advice.carrier_move import carrier_move, hold_backlash
from axle.advice.moves import Act, Expected, Move, Swap
from axle.advice.packs import CLOSE, make
from axle.advice.results import read_print, wanted_depth
from axle.advice.runs import diagnose
from axle.advice.standing import Standing, Status, in_hand, stand
from axle.advice.state import AxleState, Taken
from axle.contact.reading import first_step
from axle.layout import Place
from axle.procedure.staleness import stales
from axle.procedure.stations import kind_named, stations
from axle.units import IMPERIAL, Dimension, Display

_TORQUE_STEP: Final = 0.113


def next_move(
    state: AxleState,
    display: Display = IMPERIAL,
    standings: Mapping[str, Standing] | None = None,
) -> Move:
    """Choose the next move: what to change, by how much, out of which shims, and why.

    Depth comes before preload, preload before the carrier, backlash before the pattern; a pattern
    sends the work back to depth only while backlash is in range.

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
    standings = standings or stand(state, display)
    station = in_hand(standings)
    standing = standings[station]
    if standing.is_done:
        return Move(Act.DONE, "Signed: print the build sheet", station)
    if station == "sheet":
        return Move(
            Act.SIGN, "Sign the build sheet", station,
            why=("Every station is in range or signed with a reason.",),
        )  # fmt: skip
    if standing.missing and not _change_is_due(standing):
        return _read(standing, state)
    movers = {
        "ring_gear": _ring_move,
        "depth": _depth_move,
        "pinion_preload": _preload_move,
        "carrier_preload": carrier_move,
        "backlash": carrier_move,
        "pattern": _pattern_move,
    }
    mover = movers.get(station)
    return mover(state, display, standings) if mover else _look(standing)


def _change_is_due(standing: Standing) -> bool:
    # Readings still wanted do not hold up a change that the readings taken already decide.
    return standing.status is Status.OUT and standing.result is not None and standing.result.decided


def _read(standing: Standing, state: AxleState) -> Move:
    slot = standing.missing[0]
    if slot.kind == "pattern":
        flank = "drive" if slot.place == 1 else "coast"
        return Move(
            Act.PRINT, f"Mark the {flank} flank", standing.station,
            why=("Clean teeth, thin even compound, three to five teeth, load by hand or brake, turn "
                 "both ways. A poor print is repeated before anything is changed.",),
        )  # fmt: skip
    kind = kind_named(slot.kind)
    where = f", place {slot.place} of {kind.places}" if kind.places > 1 else ""
    notes: tuple[str, ...] = (f"Stale: {standing.stale}.",) if standing.stale else ()
    if standing.station in ("carrier_preload", "backlash") and not _carrier_is_set(state):
        notes = ("Fit the side packs first: nothing is recorded on either side.", *notes)
    if standing.station == "pinion_preload" and not _pinion_is_set(state):
        notes = ("Fit a preload pack first, a little thick: end play is safe, too tight marks the rollers.",
                 *notes)  # fmt: skip
    if standing.station == "depth" and state.layout.depth_sign < 0 and not state.setting(Place.DEPTH):
        notes = (
            "Fit a trial shim under the cartridge first: a gauge can only take away from it.",
            *notes,
        )
    return Move(Act.READ, f"Read: {kind.title.lower()}{where}", standing.station, notes=notes,
                why=(kind.hint,))  # fmt: skip


def _carrier_is_set(state: AxleState) -> bool:
    return state.layout.has_adjusters or all(state.setting(p) for p in (Place.RING, Place.FAR))


def _pinion_is_set(state: AxleState) -> bool:
    return not state.layout.has_preload_pack or bool(state.setting(Place.PRELOAD))


def _ring_move(state: AxleState, display: Display, standings: Mapping[str, Standing]) -> Move:
    """Runout is cured at the faces, by clocking, or by another part: never by a shim."""
    result = standings["ring_gear"].result
    told = diagnose(state, display)
    if not state.runs:
        notes = ("Read around at eight places or more: the angle tells gear from flange.",)
        return Move(Act.LOOK, told.title, "ring_gear", why=result.why if result else (), notes=notes)
    return Move(Act.LOOK, told.title, "ring_gear", why=told.why,
                notes=("No shim cures runout.",))  # fmt: skip


def _depth_move(state: AxleState, display: Display, standings: Mapping[str, Standing]) -> Move:
    result = standings["depth"].result
    if result is None or (result.value is None and result.decided):
        return _look(standings["depth"])
    wanted = wanted_depth(state)
    if wanted is None:
        return _look(standings["depth"])
    tolerance = state.sheet.single("depth_tolerance")
    # Aim well inside: at most half of the tolerance is the drawer's, the rest is the gauge's.
    close = (Decimal(str(tolerance / 4)), Decimal(str(tolerance / 2))) if tolerance else (CLOSE,)
    return _set_depth(state, display, wanted.thickness, result.why, "depth", *close)


def _pattern_move(state: AxleState, display: Display, standings: Mapping[str, Standing]) -> Move:
    reading = read_print(state)
    if reading is None or not reading.depth_error:
        return _look(standings["pattern"])
    step = first_step(reading.depth_error)
    way = "out" if step < 0 else "in"
    target = float(state.setting(Place.DEPTH)) + state.layout.depth_sign * step
    result = standings["pattern"].result
    why = (
        *(result.why if result else ()),
        f"First step: move the pinion {way} by {display.show(abs(step))} {display.length.symbol}; "
        "under 2 thou hardly shows, 5 shows clearly.",
    )
    return _set_depth(state, display, target, why, "pattern", CLOSE)


def _set_depth(
    state: AxleState, display: Display, target: float, why: tuple[str, ...], station: str,
    *close: Decimal,
) -> Move:  # fmt: skip
    """Change the depth shim, and with it what is coupled to it."""
    layout, unit = state.layout, display.length.symbol
    made = make(state, Place.DEPTH, target, display, *close)
    notes = [made.note] if made.note else []
    if made.swap is None:
        return Move(Act.LOOK, "The depth shim cannot be made", station, why=why, notes=tuple(notes))
    if not made.swap.change:
        notes.append("The nearest pack is the one that is fitted: order shims, or sign it with a reason.")
        return Move(Act.LOOK, "No nearer depth shim in the drawer", station, why=why,
                    notes=tuple(notes), others=made.others)  # fmt: skip
    swaps, others, lines = [made.swap], list(made.others), list(why)
    change = float(made.swap.change)
    if layout.preload_per_depth and state.setting(Place.PRELOAD):
        follow = float(state.setting(Place.PRELOAD)) + layout.preload_per_depth * change
        coupled = make(state, Place.PRELOAD, follow, display)
        lines.append(
            f"The stacks are coupled: {_change(change, display)} {unit} at the depth shim asks for "
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
        Act.CHANGE, title, station, tuple(swaps), expected, _stales(swaps, state), tuple(lines),
        tuple(notes), tuple(others),
    )  # fmt: skip


def _preload_move(state: AxleState, display: Display, standings: Mapping[str, Standing]) -> Move:
    standing = standings["pinion_preload"]
    limits = state.preload_range()
    if limits is None or standing.result is None or not standing.result.decided:
        return _look(standing)
    if not state.layout.has_preload_pack:
        return _sleeve_move(state, display, standing)
    sign = state.layout.preload_sign
    trials = preload_trials(state)
    curve = preload.fit(trials, preload.PINION_SLOPE, torque_step=_TORQUE_STEP)
    wanted = sign * curve.setting_for(limits.middle)
    half = abs(curve.setting_for(limits.high) - curve.setting_for(limits.low)) / 4
    made = make(state, Place.PRELOAD, wanted, display, Decimal(str(round(max(half, 0.0025), 5))))
    unit = display.length.symbol
    why = (
        *standing.result.why,
        f"{len(trials)} trial{'s' if len(trials) > 1 else ''}; torque follows interference to the "
        f"power 10/9{', slope from usual bearings' if len(trials) == 1 else ', fitted'}.",
        f"Middle of the range {display.show(limits.middle, Dimension.TORQUE)} "
        f"{display.torque.symbol} is expected at {display.show(wanted)} {unit} of preload pack; a "
        "thicker pack is looser.",
    )
    notes = [made.note] if made.note else []
    if made.swap is None or not made.swap.change:
        notes.append("No nearer pack can be made: order shims, or sign it with a reason.")
        return Move(Act.LOOK, "No nearer preload pack in the drawer", "pinion_preload", why=why,
                    notes=tuple(notes), others=made.others)  # fmt: skip
    setting = sign * float(made.swap.after)
    middle, spread = curve.torque(setting), curve.torque_spread(setting)
    expected = Expected(
        "Pinion rotating torque", max(middle - spread, 0.0), middle + spread, Dimension.TORQUE
    )
    notes.append("The depth shim stays.")
    return Move(
        Act.CHANGE, "Change the preload pack", "pinion_preload", (made.swap,), (expected,),
        _stales([made.swap], state), why, tuple(notes), made.others,
    )  # fmt: skip


def preload_trials(state: AxleState) -> tuple[preload.Trial, ...]:
    """Preload trials of the job that still say something of its stack, oldest first.

    A trial with another depth shim counts only where the stacks are not coupled.

    :param state: the axle, on a layout with a preload pack.
    :source: readings with the preload pack recorded with each.
    """
    sign, coupled = state.layout.preload_sign, state.layout.preload_per_depth
    found = []
    for reading in sorted(state.taken, key=lambda t: t.order):
        pack = reading.settings.get(Place.PRELOAD)
        if reading.kind not in ("pinion_torque", "pinion_end_play") or reading.seal or not pack:
            continue
        depth_change = reading.settings.get(Place.DEPTH, Decimal(0)) - state.setting(Place.DEPTH)
        setting = sign * (float(pack) - coupled * float(depth_change))
        found.append(_trial(reading, setting))
    return tuple(found)


def _trial(reading: Taken, setting: float) -> preload.Trial:
    if reading.kind == "pinion_torque":
        return preload.Trial(setting, torque=reading.value)
    return preload.Trial(setting, end_play=reading.value)


def _sleeve_move(state: AxleState, display: Display, standing: Standing) -> Move:
    limits = state.preload_range()
    sleeve = state.setting(Place.PRELOAD)
    bites = sorted(
        (
            t
            for t in state.taken
            if t.kind == "pinion_torque" and t.settings.get(Place.PRELOAD, Decimal(0)) == sleeve
        ),
        key=lambda t: t.order,
    )
    why = standing.result.why if standing.result else ()
    if limits is None or not bites:
        return Move(Act.TIGHTEN, "Tighten the nut until the play is gone", "pinion_preload", why=why,
                    notes=("Then small bites, and read the torque after each.",))  # fmt: skip
    gain = bites[-1].value - bites[-2].value if len(bites) > 1 else None
    verdict, share = preload.next_bite(bites[-1].value, limits.low, limits.high, gain)
    if verdict == "new sleeve":
        return Move(
            Act.REPLACE, "Fit a new sleeve", "pinion_preload", why=why,
            notes=("Over the range: the sleeve is spent. Never back the nut off.",
                   "Many shops fit a new outer bearing too. Then start again in small bites."),
        )  # fmt: skip
    share_words = f"{share:.0%} of the last bite" if gain else "a small bite, an eighth of a turn at most"
    line = f"The last bite added {display.show(gain, Dimension.TORQUE)}." if gain else ""
    return Move(
        Act.TIGHTEN, f"Tighten the nut: {share_words}", "pinion_preload",
        why=(*why, line) if line else why,
        notes=("Read the torque after every bite: a quarter turn can jump to the limit.",),
    )  # fmt: skip


def _look(standing: Standing) -> Move:
    result = standing.result
    title = f"{stations()[standing.station].title}: {result.words if result else 'look'}"
    notes = ("No change of shims follows from this. Read again, or sign it with a reason.",)
    return Move(Act.LOOK, title, standing.station, why=result.why if result else (), notes=notes)


def _stales(swaps: list[Swap], state: AxleState) -> tuple[str, ...]:
    found: list[str] = []
    for swap in swaps:
        found += [name for name in stales(swap.place, state.layout) if name not in found]
    return tuple(found)


def _change(core: float, display: Display) -> str:
    return f"{'−' if core < 0 else '+'}{display.show(abs(core))}"
