"""What the readings of each station come to: one number, its limits, and the sum in words."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import replace
from typing import Final

from axle.backlash.around import Around, check_backlash, once_around, tooth_at
from axle.contact.pattern_runout import places_that_tell, tells_pinion
from axle.measure.uncertainty import rectangular
from axle.measure.units import Dimension, Display
from axle.procedure.names import KindName, StationName
from axle.procedure.staleness import stale_because
from axle.procedure.stations import kind_named
from axle.state.axle_state import AxleState
from axle.state.kept import kept
from axle.state.reading import Run
from axle.stations.backlash import backlash_now, backlash_readings, correct_for_indicator, ratios_now
from axle.stations.carrier_preload import carrier_verdict
from axle.stations.depth import depth_verdict
from axle.stations.depth_posterior import depth_posterior
from axle.stations.pattern import (
    depth_words,
    read_print,
    ring_words,
    school_lines,
    wander_words,
)
from axle.stations.pinion_preload import preload_verdict
from axle.stations.print_target import Prints
from axle.stations.result import Outcome, Result, against, range_words
from axle.stations.runout import newest
from axle.stations.two_measures import disagreement

# Backlash that rises and falls by less than this once a turn tells nothing [mm]: a tenth of a thou.
_STILL: Final = 0.0025


@kept
def results(state: AxleState, display: Display) -> Mapping[str, Result]:
    """Work out every station that has readings.

    :param state: the axle.
    :param display: units of the words.
    :returns: results by station; a station without readings is left out.
    :source: the modules of the core; limits of the job's sheet.
    """
    judges: Mapping[str, Callable[[AxleState, Display], Result | None]] = {
        "arrival": _arrival,
        "ring_gear": _ring_gear,
        "depth": depth_verdict,
        "pinion_preload": preload_verdict,
        "carrier_preload": _carrier,
        "backlash": _backlash,
        "pattern": _pattern,
        "torque": _torque,
    }
    found = {name: judge(state, display) for name, judge in judges.items()}
    return {name: result for name, result in found.items() if result is not None}


def valid_run(state: AxleState) -> Run | None:
    """The newest run around the ring gear, where the gear still stands as it was read.

    :param state: the axle.
    :source: ``stale.toml``.
    """
    run = newest(state, "ring")
    single = state.latest(KindName.RING_RUNOUT)
    if run is None or (single is not None and single.order > run.order):
        return None
    return None if stale_because(StationName.RING_GEAR, state.layout, run.settings, state.settings) else run


def _arrival(state: AxleState, display: Display) -> Result | None:
    read = [t for t in state.readings if t.kind.startswith("arrival_")]
    if not read:
        return None
    unit = display.length.symbol
    why = []
    play, runout = state.latest(KindName.ARRIVAL_SIDE_PLAY), state.latest(KindName.ARRIVAL_RUNOUT)
    if play:
        nil = "nil: runout can be believed" if not play.value else "not nil: runout is not believed"
        why.append(f"Side play {display.show(play.value)} {unit}: {nil}.")
    if runout:
        line = against(
            state.sheet.range("ring_runout"),
            runout.value,
            source=state.sheet.source("ring_runout"),
            unit=unit,
            display=display,
            dimension=Dimension.LENGTH,
        )
        why.append(f"Runout {display.show(runout.value)} {unit}. {line}")
    around = state.around(KindName.ARRIVAL_BACKLASH)
    if around:
        places = ", ".join(display.show(t.value) for t in around.values())
        why.append(f"Backlash as found {places} {unit}. Kept as the baseline, not judged.")
    return Result(None, Dimension.LENGTH, limits=None, outcome=Outcome.RECORDED, why=tuple(why))


def _ring_gear(state: AxleState, display: Display) -> Result | None:
    single = state.latest(KindName.RING_RUNOUT)
    run = newest(state, "ring")
    if run is not None and single is not None and single.order > run.order:
        run = None
    if run is not None:
        value, u = run.result.clean, 2 * run.vector_uncertainty
        lead = f"Run {run.number} around the ring gear at {run.result.places} places"
    elif single is not None:
        value, u, lead = (
            single.value,
            rectangular(kind_named(KindName.RING_RUNOUT).step),
            "Ring gear runout",
        )
    else:
        return None
    limits = state.sheet.range("ring_runout")
    unit = display.length.symbol
    line = against(
        limits,
        value,
        source=state.sheet.source("ring_runout"),
        unit=unit,
        display=display,
        dimension=Dimension.LENGTH,
    )
    outcome = Outcome.of_side(limits.side(value) if limits else None)
    return Result(
        value,
        Dimension.LENGTH,
        limits=limits,
        outcome=outcome,
        why=(f"{lead}: {display.show(value)} {unit}.", line),
        uncertainty=u,
    )


def _carrier(state: AxleState, display: Display) -> Result | None:
    result, words = carrier_verdict(state, display), disagreement(state, display)
    return replace(result, why=(*result.why, words)) if result is not None and words else result


def _backlash(state: AxleState, display: Display) -> Result | None:
    lash = backlash_now(state)
    if lash is None:
        return _not_judged(state, display)
    around = lash.around
    limits, unit = state.sheet.backlash_limits(), display.length.symbol
    tooth = tooth_at(around.tight_place, state.lash_places, state.gears.ring_teeth)
    why = [
        f"Smallest {display.show(around.smallest)} at place {around.tight_place} (about tooth {tooth} of "
        f"{state.gears.ring_teeth}), largest {display.show(around.largest)}, spread "
        f"{display.show(around.variation)} {unit}."
    ]
    if lash.std > 0:
        why.append(
            f"Put right for how the indicator stood: known to ± {display.show(lash.std)} {unit} by "
            "that alone."
        )
    if limits is None:
        why.append("The sheet gives no backlash: it is recorded, not judged.")
        return Result(
            around.smallest, Dimension.LENGTH, limits=None, outcome=Outcome.RECORDED, why=tuple(why)
        )
    verdict = check_backlash(around, limits)
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
    if limits.variation != float("inf"):
        fits = "within" if verdict.variation_ok else "over"
        why.append(
            f"Spread {fits} {display.show(limits.variation)} {unit} "
            f"({state.sheet.source('backlash_spread')})"
            + ("." if verdict.variation_ok else ": runout; no shim cures it.")
        )
    if not lash.is_locked:
        why += _wave_lines(state, around, display)
    outcome = Outcome(verdict.level.value)
    if outcome is Outcome.IN_RANGE and not verdict.variation_ok:
        outcome = Outcome.SPREAD_OVER
    if lash.is_locked:
        outcome = Outcome.LOCKED
    return Result(
        around.smallest,
        Dimension.LENGTH,
        limits=limits.range,
        outcome=outcome,
        why=tuple(why),
        uncertainty=math.hypot(rectangular(kind_named(KindName.BACKLASH).step), lash.std),
    )


def _not_judged(state: AxleState, display: Display) -> Result | None:
    """Readings that are stale, or were taken through something that has to be put right first."""
    old = backlash_readings(state)
    if not old:
        return None
    around = Around({place: correct_for_indicator(state, reading)[0] for place, reading in old.items()})
    doubts = sorted({doubt for t in old.values() for doubt in t.backlash_conditions.doubts})
    smallest = f"{display.show(around.smallest)} {display.length.symbol}"
    why = [f"Smallest {smallest} at place {around.tight_place}."]
    if not doubts:
        return Result.undecided(
            Outcome.STALE, tuple(why), value=around.smallest, limits=state.sheet.range("backlash")
        )
    why.append(f"Not judged: read with {', '.join(doubts)}. Put that right and read again.")
    return Result.undecided(Outcome.READ_AGAIN, tuple(why))


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
    mounted = state.latest(KindName.RING_RUNOUT)
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
        depth_estimate = depth_posterior(state)
        if depth_estimate is not None and depth_estimate.count + bool(depth_estimate.gauge) > says.count:
            # What the gauge and earlier prints still weigh is said, so that verdict and estimate agree.
            direction = "deep" if depth_estimate.error > 0 else "shallow"
            line += (
                f" With all that was read of it: {display.show(abs(depth_estimate.error))} ± "
                f"{display.show(depth_estimate.std)} {display.length.symbol} too {direction}; "
                "the verdict goes by that."
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
            direction = "deep" if says.depth_error > 0 else "shallow"
            why.append(
                f"The heights put the pinion about {display.show(abs(says.depth_error))} "
                f"{display.length.symbol} too {direction}: an estimate from one print."
            )
    why += school_lines(state, says, display)
    if says.wander is not None:
        why.append(wander_words(says.wander, state.gears.ratio))
    newest = Prints(state).newest
    why += newest.making.doubts if newest else ()
    if says.disputed:
        why.append(says.disputed)
    outcome = Outcome(says.says.value)
    if outcome is Outcome.GOOD and not says.good:
        outcome = Outcome.EDGE_CONTACT
    return Result(None, Dimension.LENGTH, limits=None, outcome=outcome, why=tuple(why))


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
            limits,
            reading.value,
            source=state.sheet.source(kind),
            unit=unit.symbol,
            display=bolts,
            dimension=Dimension.TORQUE,
        )
        shown = bolts.show(reading.value, Dimension.TORQUE)
        why.append(f"{kind_named(kind).title} {shown} {unit.symbol}. {line}")
        good = good and (limits is None or limits.holds(reading.value))
    if not seen:
        return None
    outcome = Outcome.IN_RANGE if good else Outcome.OUT
    return Result(None, Dimension.TORQUE, limits=None, outcome=outcome, why=tuple(why), decided=not good)
