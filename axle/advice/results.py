"""What the readings of each station come to: one number, its limits, and the sum in words."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import replace
from typing import Final

from axle.advice.carrier_preload import carrier_verdict
from axle.advice.held import depth_held
from axle.advice.lash import lash_at, lash_now, put_right, ratios_now
from axle.advice.pinion_depth import depth_verdict
from axle.advice.pinion_preload import preload_verdict
from axle.advice.printed import Prints
from axle.advice.prints import (
    depth_words,
    read_print,
    ring_words,
    school_lines,
    wander_words,
)
from axle.advice.runs import Run, newest
from axle.advice.state import AxleState
from axle.advice.two_measures import disagreement
from axle.advice.verdict import Result, against, range_words
from axle.backlash import Around, judge, once_around, tooth_at
from axle.contact.wander import places_that_tell, tells_pinion
from axle.procedure.staleness import stale_because
from axle.procedure.stations import kind_named
from axle.uncertainty import rectangular
from axle.units import Dimension, Display

# Backlash that rises and falls by less than this once a turn tells nothing [mm]: a tenth of a thou.
_STILL: Final = 0.0025


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
        "carrier_preload": _carrier,
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
            state.sheet.range("ring_runout"),
            runout.value,
            state.sheet.source("ring_runout"),
            unit,
            display,
            Dimension.LENGTH,
        )
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
        value,
        Dimension.LENGTH,
        limits,
        side in ("in range", "recorded"),
        side,
        (f"{lead}: {display.show(value)} {unit}.", line),
        u,
    )


def _carrier(state: AxleState, display: Display) -> Result | None:
    result, words = carrier_verdict(state, display), disagreement(state, display)
    return replace(result, why=(*result.why, words)) if result is not None and words else result


def _backlash(state: AxleState, display: Display) -> Result | None:
    lash = lash_now(state)
    if lash is None:
        return _not_judged(state, display)
    around = lash.around
    limits, unit = state.sheet.backlash_limits(), display.length.symbol
    tooth = tooth_at(around.tight_place, state.lash_places, state.gears.ring_teeth)
    why = [
        f"Smallest {display.show(around.smallest)} at place {around.tight_place} (about tooth {tooth} of "
        f"{state.gears.ring_teeth}), largest {display.show(around.largest)}, spread "
        f"{display.show(around.spread)} {unit}."
    ]
    if lash.unsure > 0:
        why.append(
            f"Put right for how the indicator stood: known to ± {display.show(lash.unsure)} {unit} by "
            "that alone."
        )
    if limits is None:
        why.append("The sheet gives no backlash: it is recorded, not judged.")
        return Result(around.smallest, Dimension.LENGTH, None, True, "recorded", tuple(why))
    verdict = judge(around, limits)
    if lash.is_locked:
        why.append(
            f"The gears lock at place {around.tight_place}: backlash there is 0 or less, and nobody knows "
            "by how much. Open it, and read."
        )
    rule = "the smallest governs" if limits.rule.value == "smallest" else "every place must be in"
    why.append(
        f"{range_words(limits.range, unit, display, Dimension.LENGTH)}, {rule} "
        f"({state.sheet.source('backlash')}): {verdict.level}."
    )
    if limits.spread != float("inf"):
        fits = "within" if verdict.spread_ok else "over"
        why.append(
            f"Spread {fits} {display.show(limits.spread)} {unit} "
            f"({state.sheet.source('backlash_spread')})"
            + ("." if verdict.spread_ok else ": runout; no shim cures it.")
        )
    if not lash.is_locked:
        why += _wave_lines(state, around, display)
    words = verdict.level
    if verdict.level == "in range" and not verdict.spread_ok:
        words = "spread over"
    if lash.is_locked:
        words = "locked"
    return Result(
        around.smallest,
        Dimension.LENGTH,
        limits.range,
        verdict.in_range,
        words,
        tuple(why),
        math.hypot(rectangular(kind_named("backlash").step), lash.unsure),
    )


def _not_judged(state: AxleState, display: Display) -> Result | None:
    """Readings that are stale, or were taken through something that has to be put right first."""
    old = lash_at(state)
    if not old:
        return None
    around = Around({place: put_right(state, reading)[0] for place, reading in old.items()})
    doubts = sorted({doubt for t in old.values() for doubt in t.backlash_conditions.doubts})
    smallest = f"{display.show(around.smallest)} {display.length.symbol}"
    why = [f"Smallest {smallest} at place {around.tight_place}."]
    if not doubts:
        return Result(
            around.smallest,
            Dimension.LENGTH,
            state.sheet.range("backlash"),
            False,
            "stale",
            tuple(why),
            decided=False,
        )
    why.append(f"Not judged: read with {', '.join(doubts)}. Put that right and read again.")
    return Result(None, Dimension.LENGTH, None, False, "read again", tuple(why), decided=False)


def _wave_lines(state: AxleState, around: Around, display: Display) -> list[str]:
    """What backlash says of runout, where enough places were read."""
    wave = once_around(around, state.lash_places, ratios_now(state).per_ring)
    if wave is None or wave.total < _STILL:
        return []
    unit = display.length.symbol
    pinion = state.gears.ratio
    if not tells_pinion(pinion, state.lash_places):
        more = places_that_tell(pinion)
        at = f" at {more} places it shows which" if more else ""
        return [
            f"Once a turn it rises and falls by {display.show(2 * wave.amplitude)} {unit}. At "
            f"{state.lash_places} places the pinion's {pinion:.2f} turns look the same as the ring gear's:"
            f"{at or ' read the runout'}."
        ]
    line = (
        f"Once a turn it rises and falls by {display.show(2 * wave.amplitude)} {unit}: a ring gear that "
        f"runs out by about {display.show(wave.runout)} would do that"
    )
    mounted = state.latest("ring_runout")
    read = valid_run(state)
    seen = read.result.clean if read else mounted.value if mounted else None
    if seen is not None:
        line += f"; {display.show(seen)} was read on it"
    return [f"{line}."]


def _pattern(state: AxleState, display: Display) -> Result | None:
    says = read_print(state)
    if says is None:
        return None
    why = list(says.findings)
    for name, flank in (("Drive", says.read.drive), ("Coast", says.read.coast)):
        why.append(f"{name}: {flank.height} in height, {flank.length} in length.")
    if says.placed is not None:
        count = f"{says.count} prints that agree" if says.count > 1 else "one print"
        told = depth_words(says.placed, display)
        line = f"Pinion, computed for these gears: {told}, from {count}."
        held = depth_held(state)
        if held is not None and held.count + bool(held.gauge) > says.count:
            # What the gauge and earlier prints still weigh is said, so that verdict and estimate agree.
            way = "deep" if held.error > 0 else "shallow"
            line += (
                f" With all that was read of it: {display.show(abs(held.error))} ± "
                f"{display.show(held.spread)} {display.length.symbol} too {way}; the verdict goes by that."
            )
        why.append(line)
        why.append(
            "The spread holds a print's own scatter and how far sets of one cut differ: from this print "
            "alone they cannot be told apart."
        )
        why.append(f"Ring gear: {ring_words(says.placed, state, says.backlash, display)}.")
    else:
        why.append(f"Not computed for this set: {says.refused} The usual chart is read instead.")
        if says.depth_error:
            way = "deep" if says.depth_error > 0 else "shallow"
            why.append(
                f"The heights put the pinion about {display.show(abs(says.depth_error))} "
                f"{display.length.symbol} too {way}: an estimate from one print."
            )
    why += school_lines(state, says, display)
    if says.wander is not None:
        why.append(wander_words(says.wander, state.gears.ratio))
    newest = Prints(state).newest
    why += newest.making.doubts if newest else ()
    if says.disputed:
        why.append(says.disputed)
    words = says.says if says.good or says.says != "good" else "edge contact"
    return Result(None, Dimension.LENGTH, None, says.good, words, tuple(why))


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
