"""Moves of the carrier: both sides together, for preload and backlash at once."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence

from axle.advice.carrier_plan import SidesPlan, aim, load_wanted, plan_sides, start_of
from axle.advice.carrier_preload import wanted_interference
from axle.advice.lash import backlash_around, learned, ratios_now
from axle.advice.looking import look
from axle.advice.moves import Act, Expected, Move, Swap
from axle.advice.packs import as_thickness, make
from axle.advice.seats import per_hole, sides_are_set, thread_known, zero_play
from axle.advice.standing import Standing
from axle.advice.state import AxleState
from axle.advice.verdict import signed
from axle.backlash import BacklashLimits, judge
from axle.errors import AxleError
from axle.layout import Place
from axle.preload import curve as preload
from axle.procedure.staleness import stales
from axle.procedure.stations import kind_named
from axle.units import Dimension, Display

# A change of feel by one size of shim [mm]: 2 thou, common practice.
_ONE_SIZE = 0.0508


def carrier_move(state: AxleState, display: Display, standings: Mapping[str, Standing]) -> Move:
    """Change both sides so that preload and backlash come right in one move.

    :param state: the axle.
    :param display: units of the words.
    :param standings: where it stands.
    :source: :mod:`axle.advice.carrier_plan`.
    """
    station = "carrier_preload" if not standings["carrier_preload"].is_done else "backlash"
    standing = standings[station]
    if station == "carrier_preload" and standing.way.way in ("taps", "pull"):
        return _by_hand(state, display, standing)
    around, limits = backlash_around(state), state.sheet.backlash_limits()
    if station == "backlash" and around and limits and judge(around, limits).level == "in range":
        return _spread(standing)
    if _wants_backlash(state, standings):
        return _read_backlash(state)
    target, curve = load_wanted(state, is_done=standings["carrier_preload"].is_done)
    try:
        plan = plan_sides(state, display, interference=target)
    except AxleError as problem:
        return Move(Act.LOOK, "No side packs do both", station, why=(str(problem),))
    if plan is None or (target is None and plan.wanted is None):
        return look(standing)
    lines = [*_preload_lines(state, display, standing, target, curve), *_lash_lines(state, plan, display)]
    if not plan.changes:
        return Move(Act.LOOK, "No nearer side packs can be made", station, why=tuple(lines),
                    notes=plan.notes, others=plan.others)  # fmt: skip
    lines += [_side_line(state, plan, display), _sum_check(state, plan, display)]
    notes = (*plan.notes, *_stay_notes(state, plan, target))
    found = {name for swap in plan.swaps for name in stales(swap.place, state.layout)}
    moves_ring = plan.smallest is not None and plan.start.smallest is not None
    return Move(
        Act.CHANGE, _title(state, plan, moves_ring=moves_ring), station, plan.swaps,
        expected_of(state, plan, curve), tuple(sorted(found)), tuple(filter(None, lines)), notes,
        plan.others,
    )  # fmt: skip


def hold_backlash(
    state: AxleState, display: Display, deeper: float
) -> tuple[list[Swap], list[str], list[str], tuple[Expected, ...]]:
    """Plan the side changes that hold the backlash while the pinion moves.

    :param state: the axle before the move.
    :param display: units of the words.
    :param deeper: change of depth error [mm], > 0 deeper.
    :returns: swaps, lines of arithmetic, notes, and the backlash expected.
    :source: :mod:`axle.advice.carrier_plan`; :mod:`axle.ratios`.
    """
    around, limits = backlash_around(state), state.sheet.backlash_limits()
    if around is None or limits is None:
        return [], [], [], ()
    ratios = ratios_now(state)
    shift = ratios.per_depth * deeper
    line = depth_line(state, display, deeper)
    moved = around.smallest + shift
    unit = display.length.symbol
    largest = around.largest + shift
    if limits.low <= moved and (moved if limits.rule.value == "smallest" else largest) <= limits.high:
        notes = [f"The sides stay: backlash {display.show(moved)} {unit} is still in range."]
        spread = math.hypot(abs(shift) * ratios.spread, 0.0127)
        return [], [line], notes, (_band("Smallest backlash", moved, spread),)
    try:
        plan = plan_sides(state, display, deeper=deeper)
    except AxleError as problem:
        return [], [line, str(problem)], ["The sides are planned once the depth is right."], ()
    if plan is None:
        return [], [line], [], ()
    lines = [line, *_lash_lines(state, plan, display), _side_line(state, plan, display)]
    swaps = [swap for swap in plan.swaps if swap.change]
    return swaps, list(filter(None, lines)), list(plan.notes), expected_of(state, plan, None)


def depth_line(state: AxleState, display: Display, deeper: float) -> str:
    """Say what a change of depth does to the backlash.

    :param state: the axle.
    :param display: units of the words.
    :param deeper: change of depth [mm], > 0 deeper.
    :source: :mod:`axle.ratios`.
    """
    around, ratios = backlash_around(state), ratios_now(state)
    shift, unit = ratios.per_depth * deeper, display.length.symbol
    way = "Deeper" if deeper > 0 else "Shallower"
    does = "closes" if shift < 0 else "opens"
    line = (
        f"{way} by {display.show(abs(deeper))} {unit} × {abs(ratios.per_depth):.2f} {does} the backlash by "
        f"about {display.show(abs(shift))}"
    )
    if around is None:
        return f"{line}."
    return (
        f"{line}: smallest {display.show(around.smallest)} becomes {display.show(around.smallest + shift)}."
    )


def first_packs_move(state: AxleState, display: Display, standing: Standing) -> Move | None:
    """Side packs to start from, where none are recorded: by gaps, by thin spacers, or the old ones.

    :param state: the axle.
    :param display: units of the words.
    :param standing: the carrier's preload as it stands.
    :returns: nothing where nothing is known yet, or something is fitted already.
    :source: :mod:`axle.advice.carrier_plan`; common practice for the old packs.
    """
    if state.layout.has_adjusters or any(state.setting(p) for p in (Place.RING, Place.FAR)):
        return None
    start = start_of(state)
    if start is not None and zero_play(state) is not None:
        return _from_zero(state, display, standing)
    old = {p: v for p, v in state.old_packs.items() if p in (Place.RING, Place.FAR)}
    if len(old) < 2 or not state.usual_packs or standing.way.way in ("feelers", "gaps"):
        return None
    made = [make(state, place, float(value), display) for place, value in old.items()]
    swaps = tuple(m.swap for m in made if m.swap is not None)
    if len(swaps) < 2:
        return None
    shown = " and ".join(display.show(value) for value in old.values())
    why = (f"{shown} {display.length.symbol} came out; from there play and backlash are read.",)
    return Move(
        Act.CHANGE, "Fit the side packs to start from", standing.station, swaps, (),
        tuple(sorted({name for s in swaps for name in stales(s.place, state.layout)})), why,
        tuple(m.note for m in made if m.note), tuple(o for m in made for o in m.others),
    )  # fmt: skip


def _from_zero(state: AxleState, display: Display, standing: Standing) -> Move:
    wanted = wanted_interference(state)
    target = wanted.limits.middle if wanted else preload_start(state)
    try:
        plan = plan_sides(state, display, interference=target)
    except AxleError as problem:
        return Move(Act.LOOK, "No side packs can be made of this", standing.station, why=(str(problem),))
    if plan is None or len(plan.swaps) < 2:
        notes = plan.notes if plan else ()
        return Move(Act.LOOK, "No side packs can be made", standing.station, notes=notes)
    zero = zero_play(state)
    unit = display.length.symbol
    lines = [
        f"Zero play by {zero.by}; {display.show(target)} {unit} of interference is added." if zero else ""
    ]
    lines += [*_lash_lines(state, plan, display), _sum_check(state, plan, display)]
    found = {name for swap in plan.swaps for name in stales(swap.place, state.layout)}
    return Move(
        Act.CHANGE, "Fit both side packs", standing.station, plan.swaps, expected_of(state, plan, None),
        tuple(sorted(found)), tuple(filter(None, lines)), plan.notes, plan.others,
    )  # fmt: skip


def preload_start(state: AxleState) -> float:
    """Interference to start from where torque is the measure: the expected slope to the middle [mm].

    :param state: the axle.
    :source: :data:`axle.preload.curve.CARRIER_SLOPE`, from memory.
    """
    limits = state.sheet.range("carrier_preload")
    middle = limits.middle if limits and math.isfinite(limits.high) else preload.CARRIER_SLOPE.torque
    return preload.interference_for(middle, preload.CARRIER_SLOPE.coefficient)


def _wants_backlash(state: AxleState, standings: Mapping[str, Standing]) -> bool:
    """Whether the backlash, read now, would let one move set both: the pinion is in and right."""
    if not sides_are_set(state) or state.sheet.backlash_limits() is None:
        return False
    if standings["carrier_preload"].is_done or backlash_around(state) is not None:
        return False
    start = start_of(state)
    if start is not None and start.smallest is not None:
        return False
    order = list(standings)
    before = order[: order.index("carrier_preload")]
    return all(name in before and standings[name].is_done for name in ("depth", "pinion_preload"))


def _read_backlash(state: AxleState) -> Move:
    note = "One planned move then sets preload and backlash together."
    pushed = "While there is play, push the carrier away from the pinion: the other way may lock the gears."
    play = state.latest("carrier_end_play") or state.latest("zero_play")
    notes = (note, pushed) if play is not None and play.value > 0 else (note,)
    hint = kind_named("backlash").hint
    return Move(
        Act.READ, "Read the backlash too, before the sides change", "backlash", notes=notes, why=(hint,)
    )


def _by_hand(state: AxleState, display: Display, standing: Standing) -> Move:
    """Schools that no figure leads: one size at a time, by feel, or wind on."""
    result = standing.result
    if standing.way.way == "pull" or result is None or result.value is None:
        title = "Wind the last adjuster on to its torque, turning the carrier between pulls"
        why = result.why if result else ()
        notes = ("A torque that falls when it is pulled again is still settling.",)
        return Move(Act.LOOK, title, standing.station, why=why, notes=notes)
    tight = result.words == "heavy blows"
    change = -_ONE_SIZE if tight else _ONE_SIZE
    made = make(state, Place.FAR, float(state.setting(Place.FAR)) + change, display)
    if made.swap is None or not made.swap.change:
        return Move(Act.LOOK, "No nearer last pack in the drawer", standing.station, why=result.why)
    found = tuple(sorted(stales(Place.FAR, state.layout)))
    title = "Take one size out of the last pack" if tight else "Add one size to the last pack"
    return Move(Act.CHANGE, title, standing.station, (made.swap,), (), found, result.why,
                ("Judge it again as it goes in.",), made.others)  # fmt: skip


def _spread(standing: Standing) -> Move:
    why = standing.result.why if standing.result else ()
    note = "The spread is runout of gear, carrier or flange: find the cause, or sign it with a reason."
    return Move(Act.LOOK, "Backlash spread is over: look for runout", "backlash", why=why, notes=(note,))


def _lash_lines(state: AxleState, plan: SidesPlan, display: Display) -> list[str]:
    """What is wanted of the backlash, and by which ratio it is moved."""
    start, unit = plan.start, display.length.symbol
    if start.smallest is None or plan.wanted is None:
        return []
    off = start.smallest - plan.wanted
    if abs(off) < 1e-6:
        return []
    limits = state.sheet.backlash_limits()
    way, where = ("close", "towards") if off > 0 else ("open", "away from")
    lead = f"Smallest {display.show(start.smallest)} ({start.by}) to {display.show(plan.wanted)}"
    by = display.show(abs(off) / ratios_now(state).per_ring)
    return [
        f"{lead}{_aim(state, limits)}: {way} {display.show(abs(off))} {unit}.",
        f"{ratio_line(state, display)} Move the ring gear {by} {unit} {where} the pinion.",
    ]


def _aim(state: AxleState, limits: BacklashLimits | None) -> str:
    if limits is None:
        return ""
    return (
        ", the middle" if abs(aim(state, limits) - limits.middle) < 1e-9 else ", the loose end for hot use"
    )


def ratio_line(state: AxleState, display: Display) -> str:
    """Say what ratio of backlash to movement a plan goes by, and where it comes from.

    :param state: the axle.
    :param display: units of the words.
    :source: :mod:`axle.ratios`.
    """
    found = learned(state)
    ratios, unit = found.ratios, display.length.symbol
    spread = ratios.per_ring * ratios.spread
    if ratios.moves:
        moves = f"{ratios.moves} move{'s' if ratios.moves > 1 else ''} of this job"
        by = f"learned from {moves}"
    elif state.layout.has_adjusters and not thread_known(state):
        by = "common practice for a hole"
    else:
        by = "from the gears' angles"
    words = f"{ratios.per_ring:.2f} ± {spread:.2f} of backlash per {unit} of ring gear movement ({by})"
    if state.layout.has_adjusters:
        each = ratios.per_ring * per_hole(state)
        words += f", {display.show(each)} ± {display.show(each * ratios.spread)} per hole both ways"
    return f"{words}."


def _preload_lines(
    state: AxleState,
    display: Display,
    standing: Standing,
    target: float | None,
    curve: preload.Curve | None,
) -> list[str]:
    if target is None or standing.result is None:
        return []
    unit = display.length.symbol
    lines = list(standing.result.why[:1])
    if curve is not None:
        limits = state.sheet.range("carrier_preload")
        middle = limits.middle if limits else 0.0
        count = f"{curve.trials} trial{'s' if curve.trials > 1 else ''}"
        lines.append(
            f"Middle of the carrier's range {display.show(middle, Dimension.TORQUE)} "
            f"{display.torque.symbol} is expected at {display.show(target)} {unit} of interference "
            f"({count}; torque follows interference to the power 10/9)."
        )
    else:
        lines.append(f"Wanted interference {display.show(target)} {unit}, both sides together.")
    return lines


def _side_line(state: AxleState, plan: SidesPlan, display: Display) -> str:
    change, unit = plan.change, display.length.symbol
    line = (
        f"Ring side {signed(change.ring, display)}, far side {signed(change.far, display)} {unit}: "
        f"together {signed(change.ring + change.far, display)}."
    )
    if state.layout.carrier_sign < 0:
        line += " Under side covers a thicker shim is looser and lets the ring gear follow it."
    return line


def _sum_check(state: AxleState, plan: SidesPlan, display: Display) -> str:
    """Add the packs up again, as a check against the preload that is wanted."""
    zero = zero_play(state)
    if zero is None:
        return ""
    unit = display.length.symbol
    sides = {swap.place: as_thickness(state, swap) for swap in plan.swaps}
    each = per_hole(state) if state.layout.has_adjusters else 1.0
    ring, far = (float(state.setting(p)) * each + sides.get(p, 0.0) for p in (Place.RING, Place.FAR))
    total = state.layout.carrier_sign * zero.tightness
    return (
        f"Sum check: {display.show(ring)} + {display.show(far)} = {display.show(ring + far)}; zero play at "
        f"{display.show(total)}, so {display.show(plan.made)} {unit} of interference, "
        f"{display.show(plan.interference)} wanted."
    )


def expected_of(state: AxleState, plan: SidesPlan, curve: preload.Curve | None) -> tuple[Expected, ...]:
    """What is read next if a plan is done: smallest backlash, spread, and the preload.

    :param state: the axle.
    :param plan: the plan.
    :param curve: the torque curve, where the school reads torque.
    :source: :class:`axle.advice.carrier_plan.SidesPlan`.
    """
    found = []
    if plan.smallest is not None:
        found.append(_band("Smallest backlash", *plan.smallest))
    if plan.spread is not None:
        found.append(_band("Spread around the ring", plan.spread, 0.0127))
    if curve is not None:
        at = curve.zero + plan.made
        middle, spread = curve.torque(at), max(curve.torque_spread(at), 0.05)
        found.append(
            Expected("Carrier torque", max(middle - spread, 0.0), middle + spread, Dimension.TORQUE)
        )
    elif wanted_interference(state) is not None and zero_play(state) is not None:
        found.append(_band("Carrier interference", plan.made, 0.0127))
    return tuple(found)


def _band(label: str, middle: float, spread: float) -> Expected:
    return Expected(label, max(middle - spread, 0.0), middle + spread, Dimension.LENGTH)


def _stay_notes(state: AxleState, plan: SidesPlan, target: float | None) -> Sequence[str]:
    notes = []
    if target is None:
        notes.append("Carrier preload unchanged.")
    notes.append("The pinion stays; the pattern is read again.")
    read = len(backlash_around(state).places) if backlash_around(state) else 0  # type: ignore[union-attr]
    if 0 < read < state.lash_places:
        notes.append(f"Provisional: {read} of {state.lash_places} places read.")
    return notes


def _title(state: AxleState, plan: SidesPlan, *, moves_ring: bool) -> str:
    start = plan.start.smallest
    moved = moves_ring and plan.wanted is not None and start is not None and abs(plan.wanted - start) > 1e-6
    change = plan.change.ring + plan.change.far
    loads = abs(change) > 0.005
    one = sum(bool(swap.change) for swap in plan.swaps) == 1
    if moved and loads:
        return "Change both sides: backlash and preload"
    if moved:
        assert start is not None and plan.wanted is not None  # noqa: PT018 - said above
        return "Close the backlash" if plan.wanted < start else "Open the backlash"
    side = " on one side" if one else ""
    gains = change * state.layout.carrier_sign > 0
    return f"Add carrier preload{side}" if gains else f"Ease the carrier preload{side}"
