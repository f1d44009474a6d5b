"""One planned change of both sides: what is wanted, what can be made, what comes of it."""

from __future__ import annotations

from dataclasses import replace
from decimal import Decimal
from typing import Final

from axle.backlash.ratios import Ratios
from axle.carrier.sides import Seat, SideChange, change_between, reseat
from axle.carrier.spacers import Gaps, Spacers, first_packs, solve_spacers
from axle.decision.carrier.lock_holes import turn_both
from axle.decision.carrier.shapes import SidesPlan, Start
from axle.decision.carrier.start import room, seat_now, start_of
from axle.decision.move import Swap
from axle.decision.pack_swap import CLOSE, SwapMade, as_thickness, drawer_without, make_swap, thickness
from axle.errors import AxleError
from axle.layout import Place
from axle.measure.range import BacklashLevel, Range
from axle.measure.units import Display
from axle.preload import curve as preload
from axle.shims.choose import reachable
from axle.spec.limits import BacklashLimits, BacklashRule
from axle.state.axle_state import AxleState
from axle.stations.backlash import ratios_now
from axle.stations.carrier_preload import interference_now, wanted_interference
from axle.stations.carrier_torque import torque_curve
from axle.stations.preload_readings import CARRIER, knows, lost_at_first_load, surest_change
from axle.stations.zero_play import interference_setting, sides_are_set, zero_play

_EXACT: Final = Decimal("0.0026")
_THICKEST: Final = 50
# Where a side alone cannot be made, so many packs of the ring's side, so far around, are tried with it.
_TRIED: Final = 12
_TOGETHER: Final = Decimal("0.0762")
# No move takes the ring gear further than this at once [mm]: the largest backlash that a bench reads, over
# the least ratio that is believed.
LARGEST: Final = 2.0
# Nor is more taken up between two sides at once [mm]: the largest play that is read there, and its preload.
MOST_LOAD: Final = 3.2
# Where in the range the smallest place is put: the middle, or the loose end for hot use, since heat
# closes it (common practice).
_AIM: Final = {"tow": 0.7, "track": 0.7}


def too_large(swap: Swap) -> bool:
    """Say whether a side's pack changes by more than any reading can ask for: another pack made up for it.

    :param swap: a change.
    :source: :data:`LARGEST`, :data:`MOST_LOAD`.
    """
    sides = swap.place in (Place.RING, Place.FAR) and swap.pack is not None and swap.before
    return bool(sides) and abs(float(swap.change)) > LARGEST + MOST_LOAD


def aim(state: AxleState, limits: BacklashLimits) -> float:
    """Backlash at which the smallest place is aimed [mm]: the middle, or the loose end for hot use.

    :param state: the axle.
    :param limits: the sheet's.
    :source: common practice.
    """
    if state.use not in _AIM or limits.target is not None:
        return limits.aim
    return limits.low + _AIM[state.use] * (limits.upper - limits.low)


def plan_sides(
    state: AxleState,
    display: Display,
    *,
    backlash: float | None = None,
    interference: float | None = None,
    deeper: float = 0.0,
    hold: bool = False,
    play: float = 0.0,
) -> SidesPlan | None:
    """Plan both sides for a wanted backlash and a wanted interference, out of this drawer.

    :param state: the axle.
    :param display: units of the notes.
    :param backlash: smallest backlash wanted [mm]; what the sheet asks for when left out.
    :param interference: interference wanted [mm]; as it is now when left out.
    :param deeper: how much deeper the pinion comes in the same move [mm].
    :param hold: keep the backlash as it was read, whatever the sheet says.
    :param play: left at the far side on purpose, to be read [mm].
    :returns: nothing where nothing is known of either side.
    :raises AxleError: for what would lock the gears, leave a bearing unloaded or not go into the case.
    :source: :func:`axle.carrier.sides.reseat`; :mod:`axle.backlash.ratios`.
    """
    start = start_of(state)
    if start is None:
        return None
    ratios = ratios_now(state)
    now = seat_now(state, start)
    target = now.loaded if interference is None else interference
    if sides_are_set(state) and abs(target - now.interference) > MOST_LOAD:
        raise AxleError(
            "both sides together",
            given=f"a change of {target - now.interference:.3f} mm",
            wanted=f"{MOST_LOAD:g} mm at the most",
            do="What was read of zero play and what is in cannot both be right: read it again.",
        )
    wanted = _wanted(state, start, backlash, ratios.per_depth * deeper, hold=hold)
    _check_wanted(wanted, target)
    plan = SidesPlan(
        start, wanted, interference=target, change=SideChange(0.0, 0.0), deeper=deeper, made=target
    )
    after = _after(state, start, ratios, plan)
    if state.school == "one_side" and not hold:
        after = _one_sided(state, start, now=now, after=after, ratios=ratios, deeper=deeper)
    after = replace(after, far=after.far - play)
    plan = replace(plan, change=change_between(state.layout, now, after))
    return _foretold(state, _make_sides(state, display, plan), now, ratios)


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
    if not start.fresh and limits.level(governs, largest) is BacklashLevel.IN_RANGE:
        return governs
    if limits.rule is BacklashRule.EVERY and start.largest is not None:
        return limits.aim - (largest - governs) / 2
    return aim(state, limits)


def _check_wanted(wanted: float | None, interference: float) -> None:
    if wanted is not None and wanted <= 0:
        raise AxleError(
            "backlash wanted",
            given=f"{wanted:.3f} mm",
            wanted="more than 0",
            do="Gears without backlash lock, and locked gears bend a flange.",
        )
    if interference < 0:
        raise AxleError(
            "carrier preload wanted",
            given=f"{interference:.3f} mm",
            wanted="0 or more",
            do="It would leave the bearings unloaded.",
        )


def _after(state: AxleState, start: Start, ratios: Ratios, plan: SidesPlan) -> Seat:
    """Both sides for what is wanted: in closed form from a first fit, else from the seat as it was read."""
    wanted, load, layout = plan.wanted, plan.interference, state.layout
    shift = ratios.per_depth * plan.deeper
    held = start.measured
    if held is not None and (wanted is not None or isinstance(held, Gaps)):
        aimed = (wanted or 0.0) - shift
        more = {"per_ring_u": ratios.ring_std, "share": ratios.share}
        if isinstance(held, Spacers):
            both = solve_spacers(
                layout, held, wanted=aimed, interference=load, per_ring=ratios.per_ring, **more
            )
        else:
            both = first_packs(
                layout, held, wanted=aimed, interference=load, per_ring=ratios.per_ring, **more
            )
        sign = layout.carrier_sign
        return replace(start.seat, ring=sign * both.ring, far=sign * both.far)
    closed = 0.0
    if wanted is not None and start.smallest is not None:
        closed = (wanted - start.smallest - shift) / ratios.per_ring
    return reseat(start.seat, min(max(closed, -LARGEST), LARGEST), load)


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
    return alone if limits.range.holds(start.smallest + opened) else after


def _make_sides(state: AxleState, display: Display, plan: SidesPlan) -> SidesPlan:
    """Packs: the ring side first, then the far side so that the sum holds. Adjusters: both at once."""
    if state.layout.has_adjusters:
        return replace(plan, swaps=turn_both(state, plan))
    change = plan.change
    ring = make_swap(state, Place.RING, thickness(state, Place.RING) + change.ring, display)
    off = as_thickness(state, ring.swap) - change.ring if ring.swap is not None else 0.0
    aimed = thickness(state, Place.FAR) + change.far - off
    # Both sides are made up from the same shims: what the ring side takes is not there for the far side.
    left = drawer_without(state, Place.FAR, ring.swap.pack if ring.swap is not None else None)
    # The sum is the preload: hold it to a tenth of a thou if the drawer can, else to half a thou.
    far = make_swap(left, Place.FAR, aimed, display, _EXACT, CLOSE)
    made: tuple[SwapMade, SwapMade] = (ring, far)
    if ring.note or far.note:
        made = _together(state, display, plan, made)
    return replace(
        plan,
        swaps=tuple(m.swap for m in made if m.swap is not None),
        notes=tuple(m.note for m in made if m.note),
        others=tuple(o for m in made for o in m.others),
    )


def _together(
    state: AxleState, display: Display, plan: SidesPlan, alone: tuple[SwapMade, SwapMade]
) -> tuple[SwapMade, SwapMade]:
    """Both sides chosen at once where each alone cannot be made: the sum comes right, then the place."""
    change = plan.change
    wanted = [
        (place, thickness(state, place) + step)
        for place, step in ((Place.RING, change.ring), (Place.FAR, change.far))
    ]
    asked = [Decimal(str(round(value, 5))) for _, value in wanted]
    if not all(0 < value < _THICKEST for value in asked):
        return alone
    total = asked[0] + asked[1]
    rings = reachable(asked[0], _TOGETHER, state.drawer.get(Place.RING, ()))
    best, least = alone, _off(alone, total, asked[0])
    for reach in sorted(rings, key=lambda r: abs(r.thickness - asked[0]))[:_TRIED]:
        ring = make_swap(state, Place.RING, float(reach.thickness), display, Decimal(0))
        if ring.swap is None:
            continue
        left = drawer_without(state, Place.FAR, ring.swap.pack)
        far = make_swap(left, Place.FAR, float(total - reach.thickness), display, _EXACT, CLOSE)
        pair = (replace(ring, swap=replace(ring.swap, asked=asked[0])), far)
        if far.swap is not None and _off(pair, total, asked[0]) < least:
            far = replace(far, swap=replace(far.swap, asked=asked[1]))
            best, least = (pair[0], far), _off(pair, total, asked[0])
    return best


def _off(made: tuple[SwapMade, SwapMade], total: Decimal, ring: Decimal) -> Decimal:
    """How far two packs miss the sum that is wanted, and at half the weight the ring gear's place."""
    if made[0].swap is None or made[1].swap is None:
        return Decimal(1000)
    sides = made[0].swap.after + made[1].swap.after
    return abs(sides - total) + abs(made[0].swap.after - ring) / 2


def _foretold(state: AxleState, plan: SidesPlan, now: Seat, ratios: Ratios) -> SidesPlan:
    """Put beside a plan what its swaps bring, and refuse what would do harm."""
    sign = state.layout.carrier_sign
    by_place = {swap.place: as_thickness(state, swap) for swap in plan.swaps}
    seat = replace(
        now,
        ring=now.ring + sign * by_place.get(Place.RING, 0.0),
        far=now.far + sign * by_place.get(Place.FAR, 0.0),
    )
    start = plan.start
    if zero_play(state) is not None and plan.swaps and seat.interference > room(state, seat):
        raise AxleError(
            "both sides together",
            given=f"{seat.interference:.3f} mm over zero play",
            wanted=f"{room(state, seat):.3f} mm at the most that this case takes",
            do="Ask for less preload, or look at what was read.",
        )
    smallest = start.after(*ratios.shift(start.seat, seat, plan.deeper))
    if smallest is not None and smallest[0] <= 0 and plan.swaps:
        raise AxleError(
            "move",
            given=f"a smallest backlash of {smallest[0]:.3f} mm",
            wanted="more than 0",
            do="The gears would lock, and locked gears bend a flange.",
        )
    spread = None
    if start.smallest is not None and start.largest is not None:
        spread = start.largest - start.smallest
    return replace(plan, smallest=smallest, variation=spread, made=seat.interference)


def load_wanted(state: AxleState, *, is_done: bool) -> tuple[float | None, preload.Curve | None]:
    """Interference to aim at [mm], and the torque curve it was read from where torque is read.

    :param state: the axle.
    :param is_done: whether the carrier's preload is in range already, so that it stays.
    :returns: (nothing where it stays as it is, nothing where no torque is read).
    :source: :func:`axle.stations.carrier_preload.wanted_interference`; :func:`axle.preload.curve.fit`.
    """
    wanted, known = wanted_interference(state), interference_now(state)
    limits, curve = state.sheet.range("carrier_preload"), torque_curve(state)
    if wanted is not None:
        if is_done and known is not None:
            return None, None
        if known is None or not knows(state, CARRIER):
            return wanted.limits.aim / wanted.kept + lost_at_first_load(state, CARRIER)[0], None
        return max(known[0] + _tighter(state, wanted.limits, wanted.kept), 0.0), None
    if limits is None or curve is None:
        return None, None
    if is_done:
        return None, curve
    tighter, _ = surest_change(state, CARRIER, state.settings, limits, is_torque=True)
    now = interference_setting(state, state.settings)
    # Zero play as it was read and as all trials together put it differ a little: what counts is how much
    # tighter than now it has to be.
    return max((known[0] if known else now - curve.zero) + tighter, 0.0), curve


def _tighter(state: AxleState, limits: Range, kept: float) -> float:
    """How much tighter both sides have to come for an interference once it has run under load [mm]."""
    asked = Range(limits.low / kept, limits.upper / kept)
    return surest_change(state, CARRIER, state.settings, asked, is_torque=False)[0]
