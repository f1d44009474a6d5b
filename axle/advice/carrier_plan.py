"""One planned change of both sides: where it starts, what is wanted, what can be made, what comes of it."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from decimal import Decimal
from typing import Final

from axle.advice.carrier_preload import (
    carrier_trials,
    interference_now,
    torque_curve,
    wanted_interference,
)
from axle.advice.lash import Lash, lash_now, put_right, ratios_now, rests_of
from axle.advice.moves import Swap
from axle.advice.packs import CLOSE, Made, as_thickness, make, thickness
from axle.advice.seats import per_hole, seat_in, sides_are_set, zero_play
from axle.advice.state import AxleState, Taken
from axle.backlash import BacklashLimits, Rule
from axle.carrier.adjusters import nearest_locks
from axle.carrier.sides import Seat, SideChange, change_between, reseat, seat_at
from axle.carrier.spacers import Gaps, Pushed, Spacers, first_packs, solve_spacers
from axle.errors import AxleError
from axle.layout import Place
from axle.preload import curve as preload
from axle.procedure.staleness import stale_because
from axle.ratios import Ratios
from axle.shims import Pack
from axle.uncertainty import rectangular
from axle.units import Display

_EXACT: Final = Decimal("0.0026")
# What a predicted backlash repeats to beside its ratio [mm]: a reading's own step and hand.
_REPEATS: Final = 0.0127
# How far packs may stand over zero play before nobody drives them in [mm]: the usual limit of a
# spread housing, 0.020 in, and a fifth of it for the drive.
_MOST_OVER: Final = 0.61
# Half widths that weigh a miss of preload against one of backlash where the sheet sets neither [mm].
_HALF_LASH, _HALF_LOAD, _HELD = 0.05, 0.02, 0.004
# Where in the range the smallest place is put: the middle, or the loose end for hot use, since heat
# closes it (common practice).
_AIM: Final = {"tow": 0.7, "track": 0.7}


@dataclass(frozen=True)
class Start:
    """Where a plan starts from: a seat, and the backlash that was read on it.

    :param seat: how the carrier sat when the backlash was read.
    :param smallest: governing backlash there [mm], or nothing before one was read.
    :param largest: largest place [mm], or nothing.
    :param unsure: standard uncertainty of ``smallest`` [mm].
    :param by: where it was read, in words.
    :param measured: what a first fit was measured by, where both packs follow in closed form.
    """

    seat: Seat
    smallest: float | None = None
    largest: float | None = None
    unsure: float = _REPEATS
    by: str = ""
    measured: Spacers | Gaps | None = None

    @property
    def fresh(self) -> bool:
        """Whether both packs are fitted anew, so that the middle of the range costs nothing more."""
        return self.measured is not None and self.smallest is not None


@dataclass(frozen=True)
class SidesPlan:
    """Both sides as they are to be, and what is expected of them.

    :param start: where it starts.
    :param wanted: governing backlash that is aimed at [mm], or nothing.
    :param interference: interference that is aimed at [mm].
    :param change: what the arithmetic asks of both sides [mm of thickness].
    :param deeper: how much deeper the pinion comes in the same move [mm].
    :param swaps: what can be made, the ring side first.
    :param notes: what the drawer lacks.
    :param others: other packs that could be made.
    :param smallest: predicted smallest backlash with its standard uncertainty [mm], or nothing.
    :param spread: predicted spread around the ring [mm], or nothing.
    :param made: interference that the swaps make [mm].
    """

    start: Start
    wanted: float | None
    interference: float
    change: SideChange
    deeper: float = 0.0
    swaps: tuple[Swap, ...] = ()
    notes: tuple[str, ...] = ()
    others: tuple[tuple[Place, Pack], ...] = ()
    smallest: tuple[float, float] | None = None
    spread: float | None = None
    made: float = 0.0

    @property
    def changes(self) -> bool:
        """Whether anything is to be changed at all."""
        return any(swap.change for swap in self.swaps)


def aim(state: AxleState, limits: BacklashLimits) -> float:
    """Backlash at which the smallest place is aimed [mm]: the middle, or the loose end for hot use.

    :param state: the axle.
    :param limits: the sheet's.
    :source: common practice.
    """
    return limits.low + _AIM.get(state.use, 0.5) * (limits.high - limits.low)


def start_of(state: AxleState) -> Start | None:
    """Where a plan may start: backlash on the axle as it is, with thin spacers, or held by hand.

    :param state: the axle.
    :returns: nothing before anything is known of either side.
    :source: the newest reading that holds.
    """
    start = _where_read(state, ratios_now(state).share)
    if start is None or zero_play(state) is not None:
        return start
    # Without a zero play that was read the torques tell it, or else what is in now counts as zero.
    curve = torque_curve(state)
    zero = curve.zero if curve else start.seat.ring + start.seat.far
    return replace(start, seat=replace(start.seat, zero=zero))


def _where_read(state: AxleState, share: float) -> Start | None:
    lash = lash_now(state)
    if lash is not None:
        seat = seat_in(state, state.settings, rests_of(lash.pushed), share)
        if seat is not None:
            return Start(seat, *_governing(state, lash), "the backlash as it is now")
    spacers, held = _first_readings(state)
    if spacers is not None and not (held is not None and held.order > spacers.order):
        return _from_spacers(state, spacers, share)
    gaps = _from_gaps(state, held, share)
    if gaps is not None:
        return gaps
    seat = seat_in(state, state.settings, share=share)
    return Start(seat) if seat is not None else None


def _governing(state: AxleState, lash: Lash) -> tuple[float, float, float]:
    around = lash.around
    unsure = math.hypot(_REPEATS, lash.unsure)
    return around.smallest, around.largest, unsure


def _first_readings(state: AxleState) -> tuple[Taken | None, Taken | None]:
    found = []
    for kind in ("spacer_backlash", "held_backlash"):
        newest = state.latest(kind)
        stale = newest and stale_because(kind, state.layout, newest.settings, state.settings)
        found.append(None if stale else newest)
    return found[0], found[1]


def _from_spacers(state: AxleState, backlash: Taken, share: float) -> Start | None:
    thin, play, zero = state.latest("thin_spacer"), state.latest("spacer_play"), zero_play(state)
    if thin is None or play is None or zero is None:
        return None
    value, unsure = put_right(state, backlash)
    pushed = Pushed(backlash.backlash_conditions.pushed or Pushed.AWAY.value)
    u = math.hypot(_REPEATS, unsure)
    total = state.layout.carrier_sign * zero.tightness
    seat = seat_at(state.layout, thin.value, thin.value, total, share, pushed.rests)
    spacers = Spacers(thin.value, play.value, value, pushed, backlash_u=u)
    return Start(seat, value, None, u, "the smallest backlash with thin spacers in", spacers)


def _from_gaps(state: AxleState, held: Taken | None, share: float) -> Start | None:
    ring, far, zero = state.latest("gap_ring"), state.latest("gap_far"), zero_play(state)
    if ring is None or far is None or zero is None or state.layout.has_adjusters:
        return None
    in_ring, in_far = (float(ring.settings.get(place, 0)) for place in (Place.RING, Place.FAR))
    total = state.layout.carrier_sign * zero.tightness
    side = in_ring + ring.value
    seat = seat_at(state.layout, side, total - side, total, share)
    gaps = Gaps(ring.value, far.value, in_ring, in_far)
    if held is None:
        return Start(seat, by="the gaps on both sides", measured=gaps)
    value, unsure = put_right(state, held)
    u = math.hypot(rectangular(held.step or 0.0254), unsure, _REPEATS)
    by = "the backlash at which the carrier was held"
    return Start(seat, value, None, u, by, replace(gaps, backlash=value, backlash_u=u))


def _after(state: AxleState, start: Start, ratios: Ratios, plan: SidesPlan) -> Seat:
    """Both sides for what is wanted: in closed form from a first fit, else from the seat as it was read."""
    wanted, load, layout = plan.wanted, plan.interference, state.layout
    shift = ratios.per_depth * plan.deeper
    held = start.measured
    if held is not None and (wanted is not None or isinstance(held, Gaps)):
        aimed = (wanted or 0.0) - shift
        more = {"per_ring_u": ratios.ring_spread, "share": ratios.share}
        if isinstance(held, Spacers):
            both = solve_spacers(layout, held, aimed, load, ratios.per_ring, **more)
        else:
            both = first_packs(layout, held, aimed, load, ratios.per_ring, **more)
        sign = layout.carrier_sign
        return replace(start.seat, ring=sign * both.ring, far=sign * both.far)
    closed = 0.0
    if wanted is not None and start.smallest is not None:
        closed = (wanted - start.smallest - shift) / ratios.per_ring
    return reseat(start.seat, closed, load)


def plan_sides(
    state: AxleState, display: Display, *, backlash: float | None = None,
    interference: float | None = None, deeper: float = 0.0, hold: bool = False,
) -> SidesPlan | None:  # fmt: skip
    """Plan both sides for a wanted backlash and a wanted interference, out of this drawer.

    :param state: the axle.
    :param display: units of the notes.
    :param backlash: smallest backlash wanted [mm]; what the sheet asks for when left out.
    :param interference: interference wanted [mm]; as it is now when left out.
    :param deeper: how much deeper the pinion comes in the same move [mm].
    :param hold: keep the backlash as it was read, whatever the sheet says.
    :returns: nothing where nothing is known of either side.
    :raises AxleError: for what would lock the gears, leave a bearing unloaded or not go into the case.
    :source: :func:`axle.carrier.sides.reseat`; :mod:`axle.ratios`.
    """
    start = start_of(state)
    if start is None:
        return None
    ratios = ratios_now(state)
    now = _seat_now(state, start)
    target = now.loaded if interference is None else interference
    wanted = _wanted(state, start, backlash, ratios.per_depth * deeper, hold=hold)
    _check_wanted(wanted, target)
    plan = SidesPlan(start, wanted, target, SideChange(0.0, 0.0), deeper=deeper, made=target)
    after = _after(state, start, ratios, plan)
    if state.school == "one_side" and not hold:
        after = _one_sided(state, start, now, after, ratios, deeper)
    plan = replace(plan, change=change_between(state.layout, now, after))
    return _foretold(state, _make_sides(state, display, plan), now, ratios)


def foretell(
    state: AxleState, ring: Decimal, far: Decimal, deeper: float = 0.0
) -> tuple[Seat, tuple[float, float] | None] | None:
    """What settings of both sides would bring: the seat, and the smallest backlash with its spread.

    :param state: the axle.
    :param ring: pack [mm] or holes on the ring gear's side.
    :param far: the same on the far side.
    :param deeper: how much deeper the pinion comes [mm].
    :returns: nothing where nothing is known of either side.
    :source: :meth:`axle.ratios.Ratios.shift`.
    """
    start = start_of(state)
    if start is None:
        return None
    each = per_hole(state) if state.layout.has_adjusters else 1.0
    sign = state.layout.carrier_sign
    seat = replace(start.seat, ring=sign * float(ring) * each, far=sign * float(far) * each)
    if start.smallest is None:
        return seat, None
    opened, u = ratios_now(state).shift(start.seat, seat, deeper)
    return seat, (start.smallest + opened, math.hypot(u, start.unsure))


@dataclass(frozen=True)
class LockRow:
    """Both adjusters at lock holes, and what is expected there.

    :param ring: holes of the ring side's.
    :param far: holes of the far side's.
    :param smallest: smallest backlash expected [mm], or nothing.
    :param interference: interference expected [mm]; below zero it is play.
    :param in_range: whether both are in range, as far as they are known.
    """

    ring: float
    far: float
    smallest: float | None
    interference: float
    in_range: bool


def locks_around(state: AxleState, plan: SidesPlan, most: int = 5) -> tuple[LockRow, ...]:
    """Lock holes near a plan, the best first: where a lock does not line up, the next one in range.

    :param state: the axle.
    :param plan: what is wanted.
    :param most: number of rows.
    :source: :func:`axle.carrier.adjusters.nearest_locks`; :func:`foretell`.
    """
    limits, wanted = state.sheet.backlash_limits(), wanted_interference(state)
    asked = _holes_asked(state, plan)
    rows = []
    for pair in nearest_locks(*asked, state.hole_step, _miss_of(state, plan))[:most]:
        found = foretell(state, Decimal(str(pair.ring)), Decimal(str(pair.far)), plan.deeper)
        if found is None:
            continue
        seat, lash = found
        good = limits is None or lash is None or limits.low <= lash[0] <= limits.high
        if wanted is not None and zero_play(state) is not None:
            good = good and wanted.limits.side(seat.interference * wanted.kept) == "in range"
        rows.append(LockRow(pair.ring, pair.far, lash[0] if lash else None, seat.interference, good))
    return tuple(rows)


def check_setting(state: AxleState, display: Display, ring: Decimal, far: Decimal) -> tuple[str, ...]:
    """What is wrong with settings of both sides, in words: gears that lock, bearings without load.

    :param state: the axle.
    :param display: units of the words.
    :param ring: pack [mm] or holes on the ring gear's side.
    :param far: the same on the far side.
    :source: :func:`foretell`.
    """
    found = foretell(state, ring, far)
    if found is None:
        return ()
    seat, lash = found
    unit, words = display.length.symbol, []
    if lash is not None and lash[0] <= 0:
        words.append(
            f"The gears would lock: smallest backlash {display.show(lash[0])} {unit}. Locked gears bend "
            "a flange."
        )
    known = zero_play(state) is not None
    if known and seat.interference < -_REPEATS and state.school != "zero_float":
        words.append(
            f"It unloads the bearings: {display.show(-seat.interference)} {unit} of play would be left."
        )
    if known and seat.interference > _room(state, seat):
        words.append(
            f"It will not go into the case: {display.show(seat.interference)} {unit} over zero play."
        )
    return tuple(words)


def _room(state: AxleState, seat: Seat) -> float:
    most = state.sheet.single("side_packs")
    if most is not None and state.layout.carrier_sign > 0 and not state.layout.has_adjusters:
        return most - seat.zero
    return _MOST_OVER


def _wanted(
    state: AxleState, start: Start, backlash: float | None, shift: float, *, hold: bool
) -> float | None:
    if start.smallest is None:
        return None
    if backlash is not None:
        return backlash
    if hold:
        return start.smallest
    limits = state.sheet.backlash_limits()
    if limits is None:
        return start.smallest
    governs = start.smallest + shift
    largest = governs if start.largest is None else start.largest + shift
    hair = 1e-6
    top = governs if limits.rule is Rule.SMALLEST else largest
    if not start.fresh and limits.low - hair <= governs and top <= limits.high + hair:
        return governs
    if limits.rule is Rule.EVERY and start.largest is not None:
        return limits.middle - (largest - governs) / 2
    return aim(state, limits)


def _check_wanted(wanted: float | None, interference: float) -> None:
    if wanted is not None and wanted <= 0:
        raise AxleError(
            "backlash wanted", given=f"{wanted:.3f} mm", wanted="more than 0",
            do="Gears without backlash lock, and locked gears bend a flange.",
        )  # fmt: skip
    if interference < 0:
        raise AxleError(
            "carrier preload wanted", given=f"{interference:.3f} mm", wanted="0 or more",
            do="It would leave the bearings unloaded.",
        )  # fmt: skip


def _seat_now(state: AxleState, start: Start) -> Seat:
    """What is in the axle now, in the frame of the start."""
    if not sides_are_set(state):
        return replace(start.seat, ring=0.0, far=0.0)
    sign = state.layout.carrier_sign
    ring, far = (sign * thickness(state, place) for place in (Place.RING, Place.FAR))
    return replace(start.seat, ring=ring, far=far)


def _one_sided(
    state: AxleState, start: Start, now: Seat, after: Seat, ratios: Ratios, deeper: float
) -> Seat:
    """By the school of one side the far pack alone, where that leaves the backlash in range."""
    if not sides_are_set(state):
        return after
    alone = replace(now, far=now.far + after.interference - now.interference)
    limits = state.sheet.backlash_limits()
    if start.smallest is None or limits is None:
        return alone
    opened, _ = ratios.shift(start.seat, alone, deeper)
    return alone if limits.low <= start.smallest + opened <= limits.high else after


def _make_sides(state: AxleState, display: Display, plan: SidesPlan) -> SidesPlan:
    """Packs: the ring side first, then the far side so that the sum holds. Adjusters: both at once."""
    if state.layout.has_adjusters:
        return replace(plan, swaps=_turn_both(state, plan))
    change = plan.change
    ring = make(state, Place.RING, thickness(state, Place.RING) + change.ring, display)
    off = as_thickness(state, ring.swap) - change.ring if ring.swap is not None else 0.0
    aimed = thickness(state, Place.FAR) + change.far - off
    # The sum is the preload: hold it to a tenth of a thou if the drawer can, else to half a thou.
    far = make(state, Place.FAR, aimed, display, _EXACT, CLOSE)
    made: tuple[Made, Made] = (ring, far)
    return replace(
        plan, swaps=tuple(m.swap for m in made if m.swap is not None),
        notes=tuple(m.note for m in made if m.note), others=tuple(o for m in made for o in m.others),
    )  # fmt: skip


def _turn_both(state: AxleState, plan: SidesPlan) -> tuple[Swap, ...]:
    """The pair of lock holes that comes nearest in backlash and preload together."""
    asked = _holes_asked(state, plan)
    found = nearest_locks(*asked, state.hole_step, _miss_of(state, plan))
    if not found:
        return ()
    holes = (found[0].ring, found[0].far)
    return tuple(
        Swap(place, state.setting(place), Decimal(str(after)), None, Decimal(str(round(want, 4))))
        for place, after, want in zip((Place.RING, Place.FAR), holes, asked, strict=True)
    )


def _holes_asked(state: AxleState, plan: SidesPlan) -> tuple[float, float]:
    """Positions of both adjusters that the arithmetic asks for, before the locks have their say."""
    each = per_hole(state)
    return (
        float(state.setting(Place.RING)) + plan.change.ring / each,
        float(state.setting(Place.FAR)) + plan.change.far / each,
    )


def _miss_of(state: AxleState, plan: SidesPlan) -> Callable[[float, float], float]:
    """How far a pair of holes misses what is wanted, each part over half of its range."""
    each, ratios, start = per_hole(state), ratios_now(state), plan.start
    now = _seat_now(state, start)
    limits, load = state.sheet.backlash_limits(), wanted_interference(state)
    half_lash = max((limits.high - limits.low) / 2 if limits else _HALF_LASH, 1e-6)
    half_load = (load.limits.high - load.limits.low) / 2 / load.kept if load else _HALF_LOAD
    held = abs(plan.interference - now.loaded) < _HELD
    half_load = _HELD if held else max(half_load, _HELD)
    zero_known = bool(carrier_trials(state)) or zero_play(state) is not None
    goal = reseat(start.seat, 0.0, plan.interference)

    def miss(ring: float, far: float) -> float:
        seat = replace(now, ring=ring * each, far=far * each)
        if zero_known and seat.interference < -_REPEATS:
            return math.inf  # it would unload the bearings
        if start.smallest is None or plan.wanted is None:
            off = ratios.per_ring * (seat.position - goal.position)
        else:
            there = start.smallest + ratios.shift(start.seat, seat, plan.deeper)[0]
            if there <= 0:
                return math.inf  # it would lock the gears
            off = there - plan.wanted
        return float(((seat.interference - plan.interference) / half_load) ** 2 + (off / half_lash) ** 2)

    return miss


def _foretold(state: AxleState, plan: SidesPlan, now: Seat, ratios: Ratios) -> SidesPlan:
    """Put beside a plan what its swaps bring, and refuse what would do harm."""
    sign = state.layout.carrier_sign
    by_place = {swap.place: as_thickness(state, swap) for swap in plan.swaps}
    seat = replace(
        now, ring=now.ring + sign * by_place.get(Place.RING, 0.0),
        far=now.far + sign * by_place.get(Place.FAR, 0.0),
    )  # fmt: skip
    start = plan.start
    if zero_play(state) is not None and plan.swaps and seat.interference > _room(state, seat):
        raise AxleError(
            "both sides together", given=f"{seat.interference:.3f} mm over zero play",
            wanted=f"{_room(state, seat):.3f} mm at the most that this case takes",
            do="Ask for less preload, or look at what was read.",
        )  # fmt: skip
    smallest = None
    if start.smallest is not None:
        opened, u = ratios.shift(start.seat, seat, plan.deeper)
        smallest = (start.smallest + opened, math.hypot(u, start.unsure))
        if smallest[0] <= 0 and plan.swaps:
            raise AxleError(
                "move", given=f"a smallest backlash of {smallest[0]:.3f} mm", wanted="more than 0",
                do="The gears would lock, and locked gears bend a flange.",
            )  # fmt: skip
    spread = None
    if start.smallest is not None and start.largest is not None:
        spread = start.largest - start.smallest
    return replace(plan, smallest=smallest, spread=spread, made=seat.interference)


def load_wanted(state: AxleState, *, is_done: bool) -> tuple[float | None, preload.Curve | None]:
    """Interference to aim at [mm], and the torque curve it was read from where torque is read.

    :param state: the axle.
    :param is_done: whether the carrier's preload is in range already, so that it stays.
    :returns: (nothing where it stays as it is, nothing where no torque is read).
    :source: :func:`axle.advice.carrier_preload.wanted_interference`; :func:`axle.preload.curve.fit`.
    """
    wanted, known = wanted_interference(state), interference_now(state)
    limits, curve = state.sheet.range("carrier_preload"), torque_curve(state)
    if wanted is not None:
        if is_done and known is not None:
            return None, None
        return wanted.limits.middle / wanted.kept, None
    if limits is None or curve is None:
        return None, None
    if is_done:
        return None, curve
    middle = limits.middle if math.isfinite(limits.high) else limits.low
    return (curve.setting_for(middle) if limits.high > 0 else curve.zero) - curve.zero, curve
