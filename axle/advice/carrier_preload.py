"""What the readings of the carrier's preload come to, by the school that the job follows."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import Final

from axle.advice.pinion_preload import torque_spread
from axle.advice.seats import Zero, per_hole, sides_are_set, sum_of_sides, tightness, zero_play
from axle.advice.state import AxleState, Settings, Taken
from axle.advice.verdict import READ_TORQUE, Result, against, end_play, torque_result
from axle.advice.ways import chosen_way
from axle.carrier.schools import Usual, usual_interference
from axle.carrier.torque import bearing_torque, window_at_pinion
from axle.depth.result import chance_within
from axle.layout import CarrierBy, Place
from axle.limits import Range
from axle.preload import curve as preload
from axle.procedure.conditions import conditions_of, unlike
from axle.procedure.stations import kind_named
from axle.uncertainty import rectangular
from axle.units import Dimension, Display, percent

# Ways that set an interference and judge the packs by it.
BY_INTERFERENCE: Final = ("packs", "feelers", "gaps")
BY_HAND: Final = ("taps", "pull")
# A float this small cannot be told from none on a bench [mm]: a thou, common practice.
_FLOAT: Final = 0.0254
_PACKS_U: Final = 0.005
_LIGHT_TAPS: Final = 3
# What the mesh drags at the pinion, so that a subtraction reads high [N·m]: 0.2 in·lb, from memory.
MESH_DRAG: Final = 0.023
_MESH_U: Final = 0.014
_MOST_TRIALS: Final = 6


@dataclass(frozen=True)
class Wanted:
    """The interference that is asked for.

    :param limits: both sides together [mm].
    :param source: where it comes from, in words.
    :param kept: share of an adjuster's travel that the bearings keep as preload; 1 for packs.
    """

    limits: Range
    source: str
    kept: float = 1.0


def wanted_interference(state: AxleState) -> Wanted | None:
    """What the sheet, or else the school, asks for as interference.

    :param state: the axle.
    :returns: nothing for a school that reads torque or feel, on a sheet that gives none.
    :source: the job's sheet; ``schools.toml``.
    """
    kept = 1.0
    stated = state.sheet.single("preload_per_hole")
    if state.school == "holes" and stated:
        kept = stated / per_hole(state)
    own = state.sheet.range("carrier_interference")
    if own is not None:
        return Wanted(_zero_float(own), state.sheet.source("carrier_interference"), kept)
    usual = _usual(state)
    return Wanted(_zero_float(Range(usual.low, usual.high)), usual.source, kept) if usual else None


def _usual(state: AxleState) -> Usual | None:
    """What the layout, the school or the chosen way asks for; nothing where torque or feel is the measure.

    The figure of packs that are driven in belongs to the schools that drive them in, and to no other.
    """
    table, way = usual_interference(), chosen_way(state, "carrier_preload").way
    own = table.get(state.school)
    if state.layout.carrier_by is CarrierBy.COVERS:
        return table["cover_loose"] if own is not None or way in BY_INTERFERENCE else None
    if own is not None or way not in BY_INTERFERENCE:
        return own
    if state.layout.has_adjusters:
        return table["holes"]
    return table.get(way)


def _zero_float(limits: Range) -> Range:
    """No preload and no float: as much either way as cannot be told from none on a bench."""
    if limits.target == 0:
        return Range(-limits.high, limits.high, 0.0)
    return limits if limits.high else Range(-_FLOAT / 2, _FLOAT / 2, 0.0)


def _sets_interference(state: AxleState) -> bool:
    return chosen_way(state, "carrier_preload").way in BY_INTERFERENCE


def interference_now(state: AxleState) -> tuple[float, float, Zero] | None:
    """Interference of what is fitted, with its standard uncertainty [mm]; below zero it is play.

    :param state: the axle.
    :returns: nothing before zero play is known and both sides are set.
    :source: sum of both sides less the sum at zero play.
    """
    zero = zero_play(state)
    if zero is None or not sides_are_set(state):
        return None
    return tightness(state, state.settings) - zero.tightness, math.hypot(zero.uncertainty, _PACKS_U), zero


def carrier_verdict(state: AxleState, display: Display) -> Result | None:
    """Judge the carrier's preload by the chosen way.

    :param state: the axle.
    :param display: units of the words.
    :source: limits of the job's sheet; ``schools.toml``.
    """
    way = chosen_way(state, "carrier_preload").way
    if way in BY_INTERFERENCE:
        return _by_interference(state, display)
    if way == "taps":
        return _by_feel(state)
    if way == "pull":
        return _by_pull(state, display)
    if way == "play" and state.school == "zero_float":
        return _by_float(state, display)
    return _by_torque(state, display)


def _by_interference(state: AxleState, display: Display) -> Result | None:
    zero = zero_play(state)
    if zero is None:
        return None
    unit = display.length.symbol
    wanted = wanted_interference(state)
    found = interference_now(state)
    line = f"Zero play at {display.show(zero.thickness)} {unit} in both sides together ({zero.by})."
    if wanted is None and found is not None:
        return _torque_decides(state, display, found[0], line)
    if found is None or wanted is None:
        return Result(
            None, Dimension.LENGTH, wanted.limits if wanted else None, False, "fit both sides", (line,)
        )
    interference, u, _ = found
    now = display.show(sum_of_sides(state, state.settings))
    value = interference * wanted.kept
    if interference < 0 and not wanted.limits.holds(value):
        why = f"Now {now} {unit}: {display.show(-interference)} {unit} of play is left."
        return Result(-interference, Dimension.LENGTH, Range(0.0, 0.0), False, "end play", (line, why), u)
    limits = wanted.limits
    lines = [
        line,
        f"Now {now} {unit}: interference {display.show(interference)} ± {display.show(u)} {unit}.",
    ]
    if wanted.kept != 1.0:
        lines.append(
            f"Of an adjuster's travel the bearings keep {percent(wanted.kept)} as preload, by the sheet: "
            f"{display.show(value)} {unit}."
        )
    lines.append(against(limits, value, wanted.source, unit, display, Dimension.LENGTH))
    side = limits.side(value)
    words = {"under": "loose", "over": "tight"}.get(side, side)
    return Result(value, Dimension.LENGTH, limits, side == "in range", words, tuple(lines), u)


def _torque_decides(state: AxleState, display: Display, interference: float, line: str) -> Result:
    """Packs over zero play where nobody says how much: the sheet's torque decides, else it is asked."""
    unit = display.length.symbol
    over = "over zero play" if interference >= 0 else "of play"
    how = f"Now {display.show(abs(interference))} {unit} {over}."
    if state.sheet.range("carrier_preload") is None:
        why = (
            "Neither the sheet nor this school says how much interference: choose a school that does, or "
            "give the sheet a figure."
        )
        return Result(None, Dimension.LENGTH, None, False, "how much?", (line, how, why), decided=False)
    read = _by_torque(state, display)
    if read is None or interference < 0:
        if interference < 0:
            return end_play(-interference, display, "Play is left: it wants packs for its torque.")
        why = "This school reads torque: the sheet's range decides, not the packs."
        return Result(None, Dimension.LENGTH, None, False, READ_TORQUE, (line, how, why), decided=False)
    return replace(read, why=(line, how, *read.why))


def _by_feel(state: AxleState) -> Result | None:
    newest = state.latest("tap_in")
    if newest is None:
        return None
    kind, grade = kind_named("tap_in"), int(newest.value)
    words = kind.grades[grade - 1]
    good = grade == _LIGHT_TAPS
    way = "thinner" if grade > _LIGHT_TAPS else "thicker"
    why = [f"The last pack: {words}."]
    if good:
        why.append("Light taps of a brass or shim driver are the school's measure (common practice).")
    else:
        why.append(f"It should need light taps: the last pack one size {way}.")
    return Result(None, Dimension.COUNT, None, good, words, tuple(why))


def _by_pull(state: AxleState, display: Display) -> Result | None:
    newest = state.latest("adjuster_pull")
    if newest is None:
        return None
    unit = display.bolt_torque
    bolts = Display(display.length, unit, unit)
    shown = bolts.show(newest.value, Dimension.TORQUE)
    how = conditions_of(newest.kind, newest.conditions)
    if getattr(how, "settled", True) is False:
        why = f"{shown} {unit.symbol}, bearings not stabilised: turn the carrier and pull again."
        return Result(None, Dimension.TORQUE, None, False, "not stabilised", (why,), decided=False)
    limits, source = state.sheet.range("adjuster_torque"), state.sheet.source("adjuster_torque")
    if limits is None:
        limits, source = Range(94.9, 101.7), "common practice: 70 to 75 ft·lb"
    line = against(limits, newest.value, source, unit.symbol, bolts, Dimension.TORQUE)
    side = limits.side(newest.value)
    words = {"under": "loose", "over": "tight"}.get(side, side)
    lines = (f"Last adjuster, bearings stabilised: {shown} {unit.symbol}.", line)
    # The verdict's own number is shown in the unit of rotating torques, so it is left to the words.
    return Result(None, Dimension.TORQUE, limits, side == "in range", words, lines)


def _by_float(state: AxleState, display: Display) -> Result | None:
    newest = state.latest("carrier_end_play")
    if newest is None:
        return None
    unit = display.length.symbol
    own = state.sheet.range("carrier_interference")
    limits = Range(0.0, own.high if own is not None and own.target == 0 else _FLOAT / 2)
    good = limits.holds(newest.value)
    why = (
        f"End float {display.show(newest.value)} {unit} after ten turns.",
        f"Wanted none: under {display.show(limits.high)} {unit} cannot be told from it (common practice).",
    )
    words = "in range" if good else "float left"
    return Result(
        newest.value, Dimension.LENGTH, limits, good, words, why, rectangular(newest.step or 0.0127)
    )


def carrier_torque(state: AxleState) -> tuple[float, float, tuple[Taken, ...]] | None:
    """Rotating torque of the carrier bearings with its uncertainty, and the readings behind it.

    :param state: the axle.
    :returns: (torque [N·m], standard uncertainty [N·m], readings), or nothing.
    :source: :func:`axle.carrier.torque.bearing_torque`, or the torque read at the carrier: the newer, and
        of two on the same sides the one at the carrier, which is known better.
    """
    alone, total = state.latest("carrier_torque"), state.latest("total_torque")
    pinion = _pinion_beside(state, total) if total else None
    if total and pinion and not (alone and (alone.order > total.order or _same_sides(alone, total))):
        torque, u = bearing_torque(
            total.value,
            pinion.value,
            state.gears.ratio,
            total_step=total.step or kind_named("total_torque").step,
            pinion_step=pinion.step or kind_named("pinion_torque").step,
        )
        return torque, u, (total, pinion)
    if alone:
        return alone.value, rectangular(alone.step or kind_named("carrier_torque").step), (alone,)
    return None


def _same_sides(one: Taken, other: Taken) -> bool:
    return all(one.settings.get(p, 0) == other.settings.get(p, 0) for p in (Place.RING, Place.FAR))


def _by_torque(state: AxleState, display: Display) -> Result | None:
    play = state.latest("carrier_end_play")
    found = carrier_torque(state)
    if play and (found is None or play.order > max(t.order for t in found[2][:1])):
        limits = state.sheet.range("carrier_preload")
        if play.value == 0 and limits and limits.low == 0 and limits.target == 0:
            why = ("No end play, and the sheet asks for none: zero float.",)
            return Result(0.0, Dimension.LENGTH, None, True, "in range", why)
        if play.value == 0:
            why = ("No end play. Read the rotating torque: no play does not yet say preload.",)
            return Result(0.0, Dimension.LENGTH, None, False, READ_TORQUE, why, decided=False)
        return end_play(play.value, display, "Carrier bearings want preload: play is left.")
    if found is None:
        if state.latest("total_torque"):
            why = ("Read the pinion's rotating torque alone first: it is taken off the total.",)
            return Result(None, Dimension.TORQUE, None, False, "pinion not read", why, decided=False)
        return None
    torque, u, behind = found
    apart = unlike(behind[0].torque_conditions, behind[-1].torque_conditions)
    if apart:
        words = (
            f"The two torques were not read alike (the pinion alone: {', '.join(apart)}): read both alike."
        )
        return Result(None, Dimension.TORQUE, None, False, "unlike", (words,), decided=False)
    lines = []
    unit = display.torque.symbol
    limits = state.sheet.range("carrier_preload")
    if len(behind) == 2:
        total, pinion = (display.show(t.value, Dimension.TORQUE) for t in behind)
        lines.append(
            f"({total} whole − {pinion} pinion) × {state.gears.ratio:.3f} = "
            f"{display.show(torque, Dimension.TORQUE)} ± {display.show(u, Dimension.TORQUE)} {unit} "
            "at the carrier; the mesh's drag makes it read high."
        )
        if torque < 0:
            lines.append("The pinion alone drags more than the whole: one of the two is wrong.")
        elif limits is not None and math.isfinite(limits.high):
            lines.append(_how_sure(state, display, torque, u, limits))
    result = torque_result(
        torque, limits, state.sheet.source("carrier_preload"), display, "Carrier bearings"
    )
    return Result(
        result.value,
        result.dimension,
        result.limits,
        result.in_range,
        result.words,
        (*lines, *result.why),
        u,
    )


def _how_sure(state: AxleState, display: Display, torque: float, u: float, limits: Range) -> str:
    """The error band of a subtraction, held to the width of its range."""
    wide = window_at_pinion(limits.low, limits.high, state.gears.ratio)
    inside = chance_within(torque - limits.middle, u, (limits.high - limits.low) / 2)
    return (
        f"The range is {display.show(wide, Dimension.TORQUE)} {display.torque.symbol} wide at the pinion, "
        f"and the difference is known to ± {display.show(u / state.gears.ratio, Dimension.TORQUE)}: "
        f"{percent(inside)} sure to be in it."
    )


def carrier_trials(state: AxleState) -> tuple[preload.Trial, ...]:
    """Carrier preload trials of the job, oldest first, as tightness of both sides together.

    :param state: the axle.
    :source: end play and zero play with the packs recorded; torques by subtraction or alone.
    """
    found: dict[tuple[float, str], tuple[int, preload.Trial]] = {}
    for reading in sorted(state.taken, key=lambda t: t.order):
        trial = _trial(state, reading, _pinion_beside(state, reading))
        if trial is not None:
            # The carrier alone and the whole less the pinion are two witnesses: neither replaces the other.
            found[round(trial.setting, 5), reading.kind] = (reading.order, trial)
    newest = sorted(found.values(), key=lambda item: item[0])[-_MOST_TRIALS:]
    return tuple(trial for _, trial in newest)


def torque_curve(state: AxleState) -> preload.Curve | None:
    """The carrier's torque against interference, by this job's trials; nothing before one tells.

    :param state: the axle.
    :source: :func:`axle.preload.curve.fit`.
    """
    trials = carrier_trials(state)
    if not trials:
        return None
    return preload.fit(trials, preload.CARRIER_SLOPE, torque_step=0.113 * state.gears.ratio)


def torque_per_hole(state: AxleState) -> float | None:
    """Rotating torque that one hole more adds, both adjusters where they are [N·m].

    Learned from this job's own trials, never from what a hole is worth in backlash.

    :param state: the axle.
    :returns: nothing without adjusters, or before a trial was read.
    :source: :func:`torque_curve`; the adjuster's thread.
    """
    curve = torque_curve(state)
    if curve is None or not state.layout.has_adjusters:
        return None
    at = max(tightness(state, state.settings), curve.zero)
    return curve.torque(at + per_hole(state)) - curve.torque(at)


def _pinion_beside(state: AxleState, total: Taken) -> Taken | None:
    """The pinion's own torque that one of the whole is held to: the newest on the same packs."""
    places = (Place.DEPTH, Place.PRELOAD, Place.BEARINGS, Place.SLINGER)
    alike = [
        t
        for t in state.taken
        if t.kind == "pinion_torque"
        and all(t.settings.get(p, 0) == total.settings.get(p, 0) for p in places)
    ]
    return max(alike, key=lambda t: t.order) if alike else state.latest("pinion_torque")


def _trial(state: AxleState, reading: Taken, pinion: Taken | None) -> preload.Trial | None:
    settings: Settings = reading.settings
    if not sides_are_set(state, settings):
        return None
    if settings.get(Place.BEARINGS, 0) != state.setting(Place.BEARINGS):
        return None
    at = tightness(state, settings)
    if reading.kind == "zero_play" or (reading.kind == "carrier_end_play" and reading.value > 0):
        return preload.Trial(at, end_play=reading.value)
    if reading.kind == "carrier_torque":
        return preload.Trial(at, torque=reading.value, spread=torque_spread(reading))
    if reading.kind == "total_torque" and pinion is not None:
        if unlike(reading.torque_conditions, pinion.torque_conditions):
            return None
        torque = (reading.value - pinion.value - MESH_DRAG) * state.gears.ratio
        spread = math.hypot(torque_spread(reading), torque_spread(pinion), _MESH_U) * state.gears.ratio
        return preload.Trial(at, torque=max(torque, 0.0), spread=spread) if torque > -3 * spread else None
    return None
