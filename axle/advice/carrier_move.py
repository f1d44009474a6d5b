"""Moves of the carrier: both sides together, for preload and backlash at once."""

from __future__ import annotations

from collections.abc import Mapping
from decimal import Decimal
from typing import Final

from axle.advice.moves import Act, Expected, Move, Swap
from axle.advice.packs import CLOSE, Made, as_thickness, make, per_hole, thickness
from axle.advice.results import backlash_around, carrier_torque
from axle.advice.standing import Standing
from axle.advice.state import AxleState, Settings
from axle.backlash import Around, BacklashLimits, judge, movement_for
from axle.carrier import sides as carrier
from axle.carrier.sides import SideChange
from axle.layout import Place
from axle.preload import curve as preload
from axle.procedure.staleness import stales
from axle.ratios import Ratios, prior_ratios
from axle.shims import Pack
from axle.spec import Range
from axle.units import Dimension, Display

_EXACT: Final = Decimal("0.0026")


def carrier_move(state: AxleState, display: Display, standings: Mapping[str, Standing]) -> Move:
    """Change both sides so that preload and backlash come right in one move.

    :param state: the axle.
    :param display: units of the words.
    :param standings: where it stands.
    :source: :mod:`axle.carrier` and :mod:`axle.backlash`.
    """
    around, limits = backlash_around(state), state.sheet.backlash_limits()
    ratios = prior_ratios(state.gears, state.sheet.stance)
    lines: list[str] = []
    movement = 0.0
    station = "carrier_preload" if not standings["carrier_preload"].is_done else "backlash"
    if around and limits:
        verdict = judge(around, limits)
        if verdict.level == "in range" and station == "backlash":
            return _spread(standings["backlash"])
        if verdict.level != "in range":
            movement = movement_for(around, limits, ratios)
            lines += _movement_lines(around, limits, ratios, movement, display)
    interference, preload_lines, wanted_sum = _interference(state, display, standings)
    lines += preload_lines
    if not movement and not interference:
        result = standings[station].result
        return Move(Act.LOOK, "Read again before the sides are changed", station,
                    why=result.why if result else ())  # fmt: skip
    change = carrier.plan_change(state.layout, movement, interference)
    swaps, notes, others = _make_sides(state, display, change)
    if not any(swap.change for swap in swaps):
        return Move(Act.LOOK, "No nearer side packs can be made", station, why=tuple(lines),
                    notes=tuple(notes), others=tuple(others))  # fmt: skip
    made = _change_of(state, swaps)
    expected = _expected(state, around, ratios, made, wanted_sum)
    lines += _side_lines(state, change, display)
    notes += _stay_notes(state, made, around)
    found = {name for swap in swaps for name in stales(swap.place, state.layout)}
    return Move(
        Act.CHANGE, _title(movement, interference), station, tuple(swaps), expected,
        tuple(sorted(found)), tuple(lines), tuple(notes), tuple(others),
    )  # fmt: skip


def hold_backlash(
    state: AxleState, display: Display, deeper: float
) -> tuple[list[Swap], list[str], list[str], tuple[Expected, ...]]:
    """Plan the side changes that hold the backlash while the pinion moves.

    :param state: the axle before the move.
    :param display: units of the words.
    :param deeper: change of depth error [mm], > 0 deeper.
    :returns: swaps, lines of arithmetic, notes, and the backlash expected.
    :source: :func:`axle.backlash.prior_ratios`.
    """
    around, limits = backlash_around(state), state.sheet.backlash_limits()
    if around is None or limits is None:
        return [], [], [], ()
    ratios = prior_ratios(state.gears, state.sheet.stance)
    shift = ratios.per_depth * deeper
    moved = Around({p: max(v + shift, 0.0) for p, v in around.places.items()})
    unit, way = display.length.symbol, "closes" if shift < 0 else "opens"
    lines = [
        f"Depth {'+' if deeper > 0 else '−'}{display.show(abs(deeper))} {unit} × "
        f"{abs(ratios.per_depth):.2f} {way} backlash by {display.show(abs(shift))}: smallest "
        f"{display.show(around.smallest)} becomes {display.show(moved.smallest)}."
    ]
    if judge(moved, limits).level == "in range":
        notes = [f"The sides stay: backlash {display.show(moved.smallest)} {unit} is still in range."]
        spread = abs(shift) * ratios.spread + 0.0127
        return [], lines, notes, (_band("Smallest backlash", moved.smallest, spread),)
    movement = movement_for(moved, limits, ratios)
    change = carrier.plan_change(state.layout, movement, 0.0)
    swaps, notes, _ = _make_sides(state, display, change)
    made = _change_of(state, swaps)
    at = moved.smallest + ratios.per_ring * carrier.ring_movement(state.layout, made)
    spread = 0.0127 + ratios.spread * (abs(shift) + abs(movement * ratios.per_ring))
    lines += _movement_lines(moved, limits, ratios, movement, display)
    lines += _side_lines(state, change, display)
    return (
        [swap for swap in swaps if swap.change], lines, notes,
        (_band("Smallest backlash", at, spread),),
    )  # fmt: skip


def _spread(standing: Standing) -> Move:
    why = standing.result.why if standing.result else ()
    note = "The spread is runout of gear, carrier or flange: find the cause, or sign it with a reason."
    return Move(Act.LOOK, "Backlash spread is over: look for runout", "backlash", why=why, notes=(note,))


def _movement_lines(
    around: Around, limits: BacklashLimits, ratios: Ratios, movement: float, display: Display
) -> list[str]:
    unit, aim = display.length.symbol, limits.middle
    off = around.smallest - aim
    way, where = ("close", "towards") if off > 0 else ("open", "away from")
    return [
        f"Smallest {display.show(around.smallest)} to the middle, {display.show(aim)}: {way} "
        f"{display.show(abs(off))} {unit}.",
        f"{ratios.per_ring:.2f} of backlash per {unit} of ring gear movement (from the gears' "
        f"angles): move the ring gear {display.show(abs(movement))} {unit} {where} the pinion.",
    ]


def _interference(
    state: AxleState, display: Display, standings: Mapping[str, Standing]
) -> tuple[float, list[str], tuple[preload.Curve, Range] | None]:
    """Interference to add [mm], the lines that say so, and the curve it was read from."""
    limits, standing = state.sheet.range("carrier_preload"), standings["carrier_preload"]
    trials = carrier_trials(state)
    if limits is None or not trials:
        return 0.0, [], None
    curve = preload.fit(trials, preload.CARRIER_SLOPE, torque_step=0.113 * state.gears.ratio)
    if standing.is_done or standing.result is None:
        return 0.0, [], (curve, limits)
    now = _sum_setting(state, state.settings)
    wanted = curve.setting_for(limits.middle) if limits.high > 0 else curve.zero
    change, unit = wanted - now, display.length.symbol
    count = f"{len(trials)} trial{'s' if len(trials) > 1 else ''}"
    lines = [
        *standing.result.why[:1],
        f"Middle of the carrier's range {display.show(limits.middle, Dimension.TORQUE)} "
        f"{display.torque.symbol} is expected with {display.show(abs(change))} {unit} "
        f"{'more' if change > 0 else 'less'} interference ({count}; torque follows interference to "
        "the power 10/9).",
    ]
    return change, lines, (curve, limits)


def carrier_trials(state: AxleState) -> tuple[preload.Trial, ...]:
    """Carrier preload trials of the job, newest last, as tightness of both sides together.

    :param state: the axle.
    :source: end play with the packs recorded, and the newest torque by subtraction or alone.
    """
    found = []
    play = state.latest("carrier_end_play")
    if play and _is_set(state, play.settings):
        found.append(preload.Trial(_sum_setting(state, play.settings), end_play=play.value))
    torque = carrier_torque(state)
    if torque and torque[0] >= 0 and _is_set(state, torque[2][0].settings):
        setting = _sum_setting(state, torque[2][0].settings)
        found.append(preload.Trial(setting, torque=torque[0]))
    return tuple(found)


def _is_set(state: AxleState, settings: Settings) -> bool:
    if state.layout.has_adjusters:
        return per_hole(state) is not None
    return all(settings.get(place) for place in (Place.RING, Place.FAR))


def _sum_setting(state: AxleState, settings: Settings) -> float:
    total = float(sum(settings.get(place, Decimal(0)) for place in (Place.RING, Place.FAR)))
    if state.layout.has_adjusters:
        total *= per_hole(state) or 0.0
    return state.layout.carrier_sign * total


def _make_sides(
    state: AxleState, display: Display, change: SideChange
) -> tuple[list[Swap], list[str], list[tuple[Place, Pack]]]:
    """Make the ring side first, then the far side so that the wanted sum still holds."""
    ring = make(state, Place.RING, thickness(state, Place.RING) + change.ring, display)
    off = 0.0
    if ring.swap is not None:
        off = as_thickness(state, ring.swap) - change.ring
    target = thickness(state, Place.FAR) + change.far - off
    # The sum is the preload: hold it to a tenth of a thou if the drawer can, else to half a thou.
    far = make(state, Place.FAR, target, display, _EXACT, CLOSE)
    made: tuple[Made, Made] = (ring, far)
    swaps = [m.swap for m in made if m.swap is not None]
    notes = [m.note for m in made if m.note]
    others = [other for m in made for other in m.others]
    return swaps, notes, others


def _change_of(state: AxleState, swaps: list[Swap]) -> SideChange:
    by_place = {swap.place: as_thickness(state, swap) for swap in swaps}
    return SideChange(by_place.get(Place.RING, 0.0), by_place.get(Place.FAR, 0.0))


def _expected(
    state: AxleState, around: Around | None, ratios: Ratios, made: SideChange,
    wanted_sum: tuple[preload.Curve, Range] | None,
) -> tuple[Expected, ...]:  # fmt: skip
    found = []
    if around:
        shift = ratios.per_ring * carrier.ring_movement(state.layout, made)
        spread = 0.0127 + abs(shift) * ratios.spread
        found.append(_band("Smallest backlash", max(around.smallest + shift, 0.0), spread))
    added = carrier.interference_change(state.layout, made)
    if wanted_sum and abs(added) > 0.005:
        curve, _ = wanted_sum
        setting = _sum_setting(state, state.settings) + added
        middle, spread = curve.torque(setting), curve.torque_spread(setting)
        found.append(
            Expected("Carrier torque", max(middle - spread, 0.0), middle + spread, Dimension.TORQUE)
        )
    return tuple(found)


def _band(label: str, middle: float, spread: float) -> Expected:
    return Expected(label, max(middle - spread, 0.0), middle + spread, Dimension.LENGTH)


def _side_lines(state: AxleState, change: SideChange, display: Display) -> list[str]:
    unit = display.length.symbol

    def words(value: float) -> str:
        return f"{'+' if value >= 0 else '−'}{display.show(abs(value))}"

    line = (
        f"Ring side {words(change.ring)}, far side {words(change.far)} {unit}: together "
        f"{words(change.ring + change.far)}."
    )
    if state.layout.carrier_sign < 0:
        line += " Under side covers a thicker shim is looser and lets the ring gear follow it."
    return [line]


def _stay_notes(state: AxleState, made: SideChange, around: Around | None) -> list[str]:
    notes = []
    if abs(carrier.interference_change(state.layout, made)) <= 0.005:
        notes.append("Carrier preload unchanged.")
    notes.append("The pinion stays; the pattern is read again.")
    if around and len(around.places) < 4:
        read = len(around.places)
        notes.append(f"Provisional: {read} of 4 places read.")
    return notes


def _title(movement: float, interference: float) -> str:
    if movement and interference:
        return "Change both sides: backlash and preload"
    if movement:
        return "Close the backlash" if movement < 0 else "Open the backlash"
    return "Add carrier preload" if interference > 0 else "Ease the carrier preload"
