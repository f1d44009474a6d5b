"""The words of a move of the carrier: what is wanted, by which ratio, the sum, what is expected."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import Final

from axle.decision.carrier.plan import aim
from axle.decision.carrier.shapes import SidesPlan
from axle.decision.move import Expected, Swap
from axle.decision.pack_swap import as_thickness
from axle.layout import Place
from axle.measure.units import Dimension, Display
from axle.preload import curve as preload
from axle.spec.limits import BacklashLimits
from axle.state.axle_state import AxleState
from axle.stations.backlash import backlash_around, learned_ratios, ratios_now
from axle.stations.carrier_preload import wanted_interference
from axle.stations.result import aim_words, signed
from axle.stations.station_state import Standing
from axle.stations.zero_play import per_hole, thread_known, zero_play

# A change of preload under this is the drawer's, not the builder's [mm].
_SEEN: Final = 0.005
# A sum of both sides that changes by no more than a tenth of a thou stays as it is [mm]: what a mic reads.
_SUM_STAYS: Final = 0.0026


def lash_lines(state: AxleState, plan: SidesPlan, display: Display) -> list[str]:
    """What is wanted of the backlash, and by which ratio it is moved."""
    start, unit = plan.start, display.length.symbol
    if start.smallest is None or plan.wanted is None:
        return []
    if start.locked:
        by = display.show((plan.wanted - start.smallest) / ratios_now(state).per_ring)
        return [
            f"The gears lock: the backlash is 0 or less. It is opened by one step of {by} {unit} and "
            "read; if it still locks, by one more.",
            ratio_line(state, display),
        ]
    off = start.smallest - plan.wanted
    if abs(off) < 1e-6:
        return []
    limits = state.sheet.backlash_limits()
    direction, where = ("close", "towards") if off > 0 else ("open", "away from")
    lead = f"Smallest {display.show(start.smallest)} ({start.by}) to {display.show(plan.wanted)}"
    by = display.show(abs(off) / ratios_now(state).per_ring)
    return [
        f"{lead}{_aim(state, limits, plan.wanted)}: {direction} {display.show(abs(off))} {unit}.",
        f"{ratio_line(state, display)} Move the ring gear {by} {unit} {where} the pinion.",
    ]


def _aim(state: AxleState, limits: BacklashLimits | None, wanted: float) -> str:
    if limits is None or abs(aim(state, limits) - wanted) > 1e-9:
        return ""
    return aim_words(limits.range) if abs(wanted - limits.aim) < 1e-9 else ", the loose end for hot use"


def ratio_line(state: AxleState, display: Display) -> str:
    """Say what ratio of backlash to movement a plan goes by, and where it comes from.

    :param state: the axle.
    :param display: units of the words.
    :source: :mod:`axle.backlash.ratios`.
    """
    learned = learned_ratios(state)
    ratios, unit = learned.ratios, display.length.symbol
    spread = ratios.per_ring * ratios.std
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
        words += f", {display.show(each)} ± {display.show(each * ratios.std)} per hole both ways"
    return f"{words}."


def preload_lines(
    state: AxleState,
    display: Display,
    standing: Standing,
    target: float | None,
    curve: preload.Curve | None,
) -> list[str]:
    """Say what preload is wanted, and by what."""
    if target is None or standing.result is None:
        return []
    unit = display.length.symbol
    lines = list(standing.result.why[:1])
    if curve is not None:
        limits = state.sheet.range("carrier_preload")
        aimed = limits.aim if limits else 0.0
        count = f"{curve.trials} trial{'s' if curve.trials > 1 else ''}"
        lines.append(
            f"The aim in the carrier's range, {display.show(aimed, Dimension.TORQUE)} "
            f"{display.torque.symbol} is expected at {display.show(target)} {unit} of interference "
            f"({count}; torque follows interference to the power 10/9)."
        )
    else:
        lines.append(f"Wanted interference {display.show(target)} {unit}, both sides together.")
    return lines


def side_line(state: AxleState, plan: SidesPlan, display: Display) -> str:
    """Say what the arithmetic asks of both sides."""
    change, unit = plan.change, display.length.symbol
    line = (
        f"Ring side {signed(change.ring, display)}, far side {signed(change.far, display)} {unit}: "
        f"together {signed(change.ring + change.far, display)}."
    )
    if state.layout.carrier_sign < 0:
        line += " Under side covers a thicker shim is looser and lets the ring gear follow it."
    return line


def hold_line(state: AxleState, plan: SidesPlan, display: Display) -> str:
    """Say how the backlash is held while the pinion moves: what goes from which side to which."""
    start, unit = plan.start.smallest, display.length.symbol
    if start is None or not plan.deeper:
        return ""
    ring = plan.change.ring
    give, get = ("far side", "ring side") if ring > 0 else ("ring side", "far side")
    kept = display.show(start)
    if state.layout.has_adjusters:
        moved = f"wind the {get} in and the {give} out by {display.show(abs(ring))} {unit} of travel"
    else:
        moved = f"move {display.show(abs(ring))} {unit} from the {give} to the {get}"
    return f"To hold {kept}: {moved}."


def sum_check(state: AxleState, plan: SidesPlan, display: Display) -> str:
    """Add the packs up again, as a check against the preload that is wanted."""
    zero = zero_play(state)
    if zero is None:
        return ""
    unit = display.length.symbol
    sides = {swap.place: as_thickness(state, swap) for swap in plan.swaps}
    each = per_hole(state) if state.layout.has_adjusters else 1.0
    ring, far = (float(state.setting(p)) * each + sides.get(p, 0.0) for p in (Place.RING, Place.FAR))
    total = zero.thickness
    return (
        f"Sum check: {display.show(ring)} + {display.show(far)} = {display.show(ring + far)}; zero play at "
        f"{display.show(total)}, so {display.show(plan.made)} {unit} of interference, "
        f"{display.show(plan.interference)} wanted."
    )


def expected_of(state: AxleState, plan: SidesPlan, curve: preload.Curve | None) -> tuple[Expected, ...]:
    """What is read next if a plan is done: smallest backlash, spread, and the preload.

    :param state: the axle.
    :param plan: the plan.
    :param curve: the torque curve, where the chosen way reads torque.
    :source: :class:`axle.decision.carrier.plan.SidesPlan`.
    """
    expected = []
    if plan.smallest is not None:
        expected.append(band_of("Smallest backlash", *plan.smallest))
    if plan.variation is not None:
        expected.append(band_of("Spread around the ring", plan.variation, 0.0127))
    if curve is not None:
        at = curve.zero + plan.made
        middle, spread = curve.torque(at), max(curve.torque_spread(at), 0.05)
        # Not told where nothing of it is known: a band wider than the figure says nothing.
        if spread < middle:
            expected.append(Expected.around("Carrier torque", middle, spread, Dimension.TORQUE))
    elif wanted_interference(state) is not None and (zero := zero_play(state)) is not None:
        if plan.made < 0:
            expected.append(band_of("End play of the carrier", -plan.made, zero.uncertainty))
        else:
            expected.append(band_of("Carrier interference", plan.made, 0.0127))
    return tuple(expected)


def band_of(label: str, middle: float, spread: float) -> Expected:
    """An expected length with one standard deviation either way."""
    return Expected.around(label, middle, spread, Dimension.LENGTH)


def stay_notes(state: AxleState, plan: SidesPlan, target: float | None, display: Display) -> Sequence[str]:
    """Say what stays as it is, and what is provisional."""
    notes = []
    more = state.layout.carrier_sign * sum(as_thickness(state, swap) for swap in plan.swaps)
    if abs(more) <= _SUM_STAYS:
        notes.append("Carrier preload unchanged.")
    elif target is None:
        tighter = "tighter" if more > 0 else "looser"
        notes.append(
            f"Both sides together come {display.show(abs(more))} {display.length.symbol} {tighter}: the "
            "drawer makes it no nearer."
        )
    if state.layout.has_adjusters:
        notes += turning_order(plan.swaps)
    notes.append("The pinion stays; the pattern is read again.")
    around = backlash_around(state)
    if around is not None and len(around.places) < state.lash_places:
        notes.append(f"Provisional: {len(around.places)} of {state.lash_places} places read.")
    return notes


def turning_order(swaps: Iterable[Swap]) -> list[str]:
    """Say in which order both adjusters turn, so that neither gears nor bearings are forced on the way.

    :param swaps: what is turned.
    :source: common practice.
    """
    turned = {swap.place: swap.change for swap in swaps if swap.change}
    ring, far = turned.get(Place.RING, 0), turned.get(Place.FAR, 0)
    settle = "Then settle the cups: pinion half a turn each way, 5 to 10 times."
    if ring < 0 < far:
        return [f"Back the ring side off first, then wind the far side in. {settle}"]
    if far < 0 < ring:
        return [f"Back the far side off first, then wind the ring side in. {settle}"]
    if ring > 0 and far > 0:
        return [f"Far side first, the ring side last: so the gears cannot lock on the way. {settle}"]
    return [settle] if turned else []


def title_of(state: AxleState, plan: SidesPlan) -> str:
    """Name a change of both sides in a few words."""
    start = plan.start.smallest
    moved = plan.wanted is not None and start is not None and abs(plan.wanted - start) > 1e-6
    change = plan.change.ring + plan.change.far
    loads = abs(change) > _SEEN
    one = sum(bool(swap.change) for swap in plan.swaps) == 1
    if moved and loads:
        return "Change both sides: backlash and preload"
    if moved and (plan.wanted or 0.0) < (start or 0.0):
        return "Close the backlash"
    if moved:
        return "Open the backlash"
    side = " on one side" if one else ""
    gains = change * state.layout.carrier_sign > 0
    return f"Add carrier preload{side}" if gains else f"Ease the carrier preload{side}"


def depth_line(state: AxleState, display: Display, deeper: float) -> str:
    """Say what a change of depth does to the backlash.

    :param state: the axle.
    :param display: units of the words.
    :param deeper: change of depth [mm], > 0 deeper.
    :source: :mod:`axle.backlash.ratios`.
    """
    around, ratios = backlash_around(state), ratios_now(state)
    shift, unit = ratios.per_depth * deeper, display.length.symbol
    direction = "Deeper" if deeper > 0 else "Shallower"
    does = "closes" if shift < 0 else "opens"
    line = (
        f"{direction} by {display.show(abs(deeper))} {unit} × {abs(ratios.per_depth):.2f} "
        f"{does} the backlash by about {display.show(abs(shift))}"
    )
    if around is None:
        return f"{line}."
    return (
        f"{line}: smallest {display.show(around.smallest)} becomes {display.show(around.smallest + shift)}."
    )
