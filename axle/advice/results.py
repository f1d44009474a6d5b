"""What the readings of each station come to: one number, its limits, and the sum in words."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from axle.advice.pinion_depth import depth_verdict
from axle.advice.pinion_preload import preload_verdict
from axle.advice.runs import Run, newest
from axle.advice.state import AxleState, Taken
from axle.advice.verdict import Result, against, end_play, torque_result
from axle.backlash import Around, judge
from axle.carrier.torque import bearing_torque
from axle.contact.reading import PatternReading, read_pattern
from axle.procedure.conditions import unlike
from axle.procedure.staleness import stale_because
from axle.procedure.stations import kind_named
from axle.spec import Range
from axle.uncertainty import rectangular
from axle.units import Dimension, Display


def results(state: AxleState, display: Display) -> Mapping[str, Result]:
    """Work out every station that has readings.

    :param state: the axle.
    :param display: units of the words.
    :returns: results by station; a station without readings is left out.
    :source: the modules of the core; limits of the job's sheet.
    """
    ways: Mapping[str, Callable[[AxleState, Display], Result | None]] = {
        "arrival": _arrival,
        "ring_gear": _ring_gear,
        "depth": depth_verdict,
        "pinion_preload": preload_verdict,
        "carrier_preload": _carrier_preload,
        "backlash": _backlash,
        "pattern": _pattern,
        "torque": _torque,
    }
    found = {name: way(state, display) for name, way in ways.items()}
    return {name: result for name, result in found.items() if result is not None}


def valid_run(state: AxleState) -> Run | None:
    """The newest run around the ring gear, where the gear still stands as it was read.

    :param state: the axle.
    :source: ``stale.toml``.
    """
    run = newest(state, "ring")
    single = state.latest("ring_runout")
    if run is None or (single is not None and single.order > run.order):
        return None
    return None if stale_because("ring_gear", state.layout, run.settings, state.settings) else run


def backlash_around(state: AxleState) -> Around | None:
    """Backlash at the places read on the axle as it is set now, or nothing.

    :param state: the axle.
    :source: newest reading at each place that is not stale.
    """
    now = {
        place: reading.value
        for place, reading in state.around("backlash").items()
        if not stale_because("backlash", state.layout, reading.settings, state.settings)
    }
    return Around(now) if now else None


def read_print(state: AxleState) -> PatternReading | None:
    """What the print of the assembly in hand says, or nothing before both flanks are marked.

    :param state: the axle.
    :source: :mod:`axle.contact.reading`.
    """
    newest = max(state.prints, key=lambda p: p.order, default=None)
    if newest is None or {"drive", "coast"} - set(newest.patches):
        return None
    around, limits = backlash_around(state), state.sheet.backlash_limits()
    level = judge(around, limits).level if around and limits else "not read"
    old = state.found if state.used_gears else {}
    return read_pattern(
        newest.patches["drive"], newest.patches["coast"], backlash=level,
        targets={name: patch for name, patch in old.items() if {"drive", "coast"} <= set(old)},
    )  # fmt: skip


def carrier_torque(state: AxleState) -> tuple[float, float, tuple[Taken, ...]] | None:
    """Rotating torque of the carrier bearings with its uncertainty, and the readings behind it.

    :param state: the axle.
    :returns: (torque [N·m], standard uncertainty [N·m], readings), or nothing.
    :source: :func:`axle.carrier.torque.bearing_torque`, or the torque read at the carrier, the newer.
    """
    alone, total = state.latest("carrier_torque"), state.latest("total_torque")
    pinion = state.latest("pinion_torque")
    if total and pinion and not (alone and alone.order > total.order):
        torque, u = bearing_torque(
            total.value, pinion.value, state.gears.ratio,
            total_step=kind_named("total_torque").step, pinion_step=kind_named("pinion_torque").step,
        )  # fmt: skip
        return torque, u, (total, pinion)
    if alone:
        return alone.value, rectangular(kind_named("carrier_torque").step), (alone,)
    return None


def _arrival(state: AxleState, display: Display) -> Result | None:
    read = [t for t in state.taken if t.kind.startswith("arrival_")]
    if not read:
        return None
    unit = display.length.symbol
    why = []
    play, runout = state.latest("arrival_side_play"), state.latest("arrival_runout")
    if play:
        nil = "nil: runout can be believed" if not play.value else "not nil: runout is not believed"
        why.append(f"Side play {display.show(play.value)} {unit}: {nil}.")
    if runout:
        line = against(
            state.sheet.range("ring_runout"), runout.value, state.sheet.source("ring_runout"), unit,
            display, Dimension.LENGTH,
        )  # fmt: skip
        why.append(f"Runout {display.show(runout.value)} {unit}. {line}")
    around = state.around("arrival_backlash")
    if around:
        places = ", ".join(display.show(t.value) for t in around.values())
        why.append(f"Backlash as found {places} {unit}. Kept as the baseline, not judged.")
    return Result(None, Dimension.LENGTH, None, True, "recorded", tuple(why))


def _ring_gear(state: AxleState, display: Display) -> Result | None:
    single = state.latest("ring_runout")
    run = newest(state, "ring")
    if run is not None and single is not None and single.order > run.order:
        run = None
    if run is not None:
        value, u = run.result.clean, 2 * run.vector_uncertainty
        lead = f"Run {run.number} around the ring gear at {run.result.places} places"
    elif single is not None:
        value, u, lead = single.value, rectangular(kind_named("ring_runout").step), "Ring gear runout"
    else:
        return None
    limits = state.sheet.range("ring_runout")
    unit = display.length.symbol
    line = against(limits, value, state.sheet.source("ring_runout"), unit, display, Dimension.LENGTH)
    side = limits.side(value) if limits else "recorded"
    return Result(
        value, Dimension.LENGTH, limits, side in ("in range", "recorded"), side,
        (f"{lead}: {display.show(value)} {unit}.", line), u,
    )  # fmt: skip


def _carrier_preload(state: AxleState, display: Display) -> Result | None:
    play = state.latest("carrier_end_play")
    found = carrier_torque(state)
    if play and (found is None or play.order > max(t.order for t in found[2][:1])):
        limits = state.sheet.range("carrier_preload")
        if play.value == 0 and limits and limits.low == 0:
            why = ("No end play, and the sheet asks for none: zero float.",)
            return Result(0.0, Dimension.LENGTH, None, True, "in range", why)
        if play.value == 0:
            why = ("No end play. Read the rotating torque: no play does not yet say preload.",)
            return Result(0.0, Dimension.LENGTH, None, False, "read torque", why, decided=False)
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
    if len(behind) == 2:
        total, pinion = (display.show(t.value, Dimension.TORQUE) for t in behind)
        lines.append(
            f"({total} whole − {pinion} pinion) × {state.gears.ratio:.3f} = "
            f"{display.show(torque, Dimension.TORQUE)} ± {display.show(u, Dimension.TORQUE)} {unit} "
            "at the carrier; the mesh's drag makes it read high."
        )
        if torque < 0:
            lines.append("The pinion alone drags more than the whole: one of the two is wrong.")
    result = torque_result(
        torque, state.sheet.range("carrier_preload"), state.sheet.source("carrier_preload"), display,
        "Carrier bearings",
    )  # fmt: skip
    return Result(
        result.value, result.dimension, result.limits, result.in_range, result.words,
        (*lines, *result.why), u,
    )  # fmt: skip


def _backlash(state: AxleState, display: Display) -> Result | None:
    around = backlash_around(state)
    if around is None:
        old = state.around("backlash")
        if not old:
            return None
        around = Around({place: reading.value for place, reading in old.items()})
    limits, unit = state.sheet.backlash_limits(), display.length.symbol
    why = [
        f"Smallest {display.show(around.smallest)} at place {around.tight_place}, largest "
        f"{display.show(around.largest)}, spread {display.show(around.spread)} {unit}."
    ]
    if limits is None:
        why.append("The sheet gives no backlash: it is recorded, not judged.")
        return Result(around.smallest, Dimension.LENGTH, None, True, "recorded", tuple(why))
    verdict = judge(around, limits)
    rule = "the smallest governs" if limits.rule.value == "smallest" else "every place must be in"
    why.append(
        f"Range {display.show(limits.low)} to {display.show(limits.high)} {unit}, {rule} "
        f"({state.sheet.source('backlash')}): {verdict.level}."
    )
    if limits.spread != float("inf"):
        fits = "within" if verdict.spread_ok else "over"
        why.append(
            f"Spread {fits} {display.show(limits.spread)} {unit} "
            f"({state.sheet.source('backlash_spread')})"
            + ("." if verdict.spread_ok else ": runout; no shim cures it.")
        )
    words = verdict.level
    if verdict.level == "in range" and not verdict.spread_ok:
        words = "spread over"
    return Result(
        around.smallest, Dimension.LENGTH, Range(limits.low, limits.high), verdict.in_range, words,
        tuple(why), rectangular(kind_named("backlash").step),
    )  # fmt: skip


def _pattern(state: AxleState, display: Display) -> Result | None:
    reading = read_print(state)
    if reading is None:
        return None
    why = list(reading.findings)
    for name, flank in (("Drive", reading.drive), ("Coast", reading.coast)):
        why.append(f"{name}: {flank.height} in height, {flank.length} in length.")
    if reading.depth_error:
        way = "deep" if reading.depth_error > 0 else "shallow"
        why.append(
            f"The heights put the pinion about {display.show(abs(reading.depth_error))} "
            f"{display.length.symbol} too {way}: an estimate from one print."
        )
    if reading.disputed:
        why.append(reading.disputed)
    words = reading.says if reading.good or reading.says != "good" else "edge contact"
    return Result(None, Dimension.LENGTH, None, reading.good, words, tuple(why))


def _torque(state: AxleState, display: Display) -> Result | None:
    why, good, seen = [], True, 0
    unit = display.bolt_torque
    bolts = Display(display.length, unit, unit)
    for kind in ("pinion_nut_torque", "ring_bolt_torque", "cap_torque"):
        reading = state.latest(kind)
        if reading is None or stale_because(kind, state.layout, reading.settings, state.settings):
            continue
        seen += 1
        limits = state.sheet.range(kind)
        line = against(
            limits, reading.value, state.sheet.source(kind), unit.symbol, bolts, Dimension.TORQUE
        )
        shown = bolts.show(reading.value, Dimension.TORQUE)
        why.append(f"{kind_named(kind).title} {shown} {unit.symbol}. {line}")
        good = good and (limits is None or limits.side(reading.value) == "in range")
    if not seen:
        return None
    words = "in range" if good else "out"
    return Result(None, Dimension.TORQUE, None, good, words, tuple(why), decided=not good)
