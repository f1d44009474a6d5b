"""Pinion bearing preload as the readings of one axle tell it: trials, bites, and the verdict."""

from __future__ import annotations

import math
from dataclasses import replace
from decimal import Decimal
from typing import Final

from axle.layout import Place
from axle.measure.range import ROUNDING, Range
from axle.measure.uncertainty import rectangular
from axle.measure.units import Dimension, Display, percent
from axle.preload.bites import NUT_PITCH, Bite, NextBite, next_bite
from axle.preload.seal import SealDrag, drag_between, usual_drag
from axle.procedure.condition_words import FIGURE_WORDS
from axle.procedure.conditions_in_words import words_of
from axle.procedure.names import KindName
from axle.procedure.stations import kind_named
from axle.state.axle_state import AxleState
from axle.state.reading import Reading
from axle.stations.pinion_trials import trial_reason
from axle.stations.preload_readings import (
    IN_BY_ALL,
    PINION,
    TORQUE_STEP,
    chance_of_torque,
    comings_together,
    lost_at_first_load,
    torque_spread,
    usual_rise,
)
from axle.stations.result import Outcome, Result, end_play, range_words, torque_result

_ZERO: Final = Decimal(0)


def seal_drag(state: AxleState, reading: Reading) -> SealDrag:
    """What the seal of this axle drags: as it was read here, else by the sheet, else as usual.

    :param state: the axle.
    :param reading: with the seal in.
    :source: the difference of two readings of one stack; the job's sheet; ``seal.toml``.
    """
    dry = [
        t
        for t in state.readings
        if t.kind == KindName.PINION_TORQUE
        and not t.torque_conditions.seal
        and t.order < reading.order
        and not _apart(t, reading)
        and t.value <= reading.value
    ]
    turned = not state.layout.has_preload_pack and reading.torque_conditions.turned
    if dry and not turned:
        last = max(dry, key=lambda t: t.order)
        return SealDrag(
            reading.value - last.value,
            math.hypot(torque_spread(reading), torque_spread(last)),
            "read on this axle",
        )
    stated = state.sheet.range("seal_drag")
    if stated is not None:
        return drag_between(stated.low, stated.upper, state.sheet.source("seal_drag"))
    return usual_drag()


def sealed_range(state: AxleState, reading: Reading) -> Range | None:
    """The sheet's range with the seal in, for a reading that was taken so; else nothing.

    :param state: the axle.
    :param reading: of the pinion's rotating torque.
    :source: the job's sheet.
    """
    return state.sheet.range("pinion_preload_seal") if reading.torque_conditions.seal else None


def freed_of_seal(state: AxleState, reading: Reading) -> tuple[float, float]:
    """A rotating torque without its seal's drag, and the standard uncertainty of that drag [N·m].

    :param state: the axle.
    :param reading: with the seal in or without.
    :source: :func:`seal_drag`.
    """
    if not reading.torque_conditions.seal:
        return reading.value, 0.0
    drag = seal_drag(state, reading)
    return max(reading.value - drag.torque, 0.0), drag.spread


def bite_readings(state: AxleState) -> tuple[Reading, ...]:
    """Rotating torques of the sleeve that is in, oldest first; those read without it are trials.

    :param state: the axle, on a layout with a collapsible sleeve.
    :source: rotating torques with the sleeve's number in their settings.
    """
    sleeve = state.setting(Place.PRELOAD)
    return tuple(
        t
        for t in sorted(state.readings, key=lambda t: t.order)
        if t.kind == KindName.PINION_TORQUE
        and t.settings.at(Place.PRELOAD) == sleeve
        and t.torque_conditions.sleeve == "in"
        and t.torque_conditions.nut != "set_up"
    )


def bites_of(state: AxleState) -> tuple[Bite, ...]:
    """The log of the sleeve that is in: each bite of its nut and what was read after it.

    The seal goes in before the crush, so its drag is taken off; by a range with the seal in it stays.

    :param state: the axle, on a layout with a collapsible sleeve.
    :source: rotating torques with the nut's turn or torque in their conditions.
    """
    readings = bite_readings(state)
    as_read = bool(readings) and sealed_range(state, readings[-1]) is not None
    bites = []
    for reading in readings:
        how = reading.torque_conditions
        if as_read and not how.seal:
            continue  # the range is for the seal in: before it was, the torque is another
        torque = reading.value if as_read else freed_of_seal(state, reading)[0]
        bites.append(Bite(torque, how.turned, how.nut_torque))
    return tuple(bites)


def nut_pitch(state: AxleState) -> float:
    """Pitch of the pinion nut's thread [mm]: the sheet's, or the usual one.

    :param state: the axle.
    :source: the sheet; 1.5 mm from memory.
    """
    return state.sheet.single("pinion_nut_pitch") or NUT_PITCH


def bite_for(state: AxleState) -> NextBite | None:
    """How far the next bite may go, or nothing before a torque was read or without a range.

    :param state: the axle, on a layout with a collapsible sleeve.
    :source: :func:`axle.preload.bites.next_bite`.
    """
    readings = bite_readings(state)
    if not readings or state.layout.has_preload_pack:
        return None
    newest, bites = readings[-1], bites_of(state)
    limits = sealed_range(state, newest) or state.preload_range()
    if limits is None or not bites:
        return None
    std = 0.0 if sealed_range(state, newest) else freed_of_seal(state, newest)[1]
    loses, loses_std = (each * usual_rise(PINION) for each in lost_at_first_load(state, PINION))
    # New bearings lose some of it at first load: the nut goes on until what is left is surely in.
    aim = min(limits.aim + loses, limits.aim + (limits.upper - limits.aim) / 2)
    return next_bite(
        bites,
        min(limits.low + loses + (0.0 if limits.holds(bites[-1].torque) else loses_std), aim),
        limits.high,
        limit=state.overshoot,
        pitch=nut_pitch(state),
        target=aim,
        std=std,
    )


def asks_play(state: AxleState) -> Reading | None:
    """A rotating torque of nothing on a pack of which no end play was read: it says loose, not how loose.

    :param state: the axle, on a layout with a preload pack.
    :returns: that torque, or nothing.
    :source: common practice: no torque is a bound, the play says where zero lies.
    """
    newest = state.latest(KindName.PINION_TORQUE)
    if newest is None or newest.value > ROUNDING or not state.layout.has_preload_pack:
        return None
    stack = (Place.DEPTH, Place.PRELOAD, Place.BEARINGS, Place.SLINGER)
    now = newest.settings.same_at(state.settings, stack)
    play = state.latest(KindName.PINION_END_PLAY)
    told = play is not None and not _apart(play, newest)
    return None if told or not now else newest


def preload_verdict(state: AxleState, display: Display) -> Result | None:
    """Judge the pinion's preload by its newest reading.

    :param state: the axle.
    :param display: units of the words.
    :source: the sheet's range for these bearings, this use, and seal in or not.
    """
    torque, play = state.latest(KindName.PINION_TORQUE), state.latest(KindName.PINION_END_PLAY)
    newest = max((r for r in (torque, play) if r), key=lambda r: r.order, default=None)
    if newest is None:
        return None
    if newest.kind == KindName.PINION_END_PLAY and newest.value > 0:
        return end_play(newest.value, display, "Pinion bearings want preload: end play cannot pass.")
    if newest.kind == KindName.PINION_END_PLAY:
        why = ("No end play. Read the rotating torque: no play does not yet say preload.",)
        return Result.undecided(Outcome.READ_TORQUE, why, value=0.0)
    if newest.torque_conditions.figure != state.sheet.figure.value:
        return _another_figure(newest, state, display)
    if newest.torque_conditions.bound:
        return _bounded(newest, state, display)
    if newest.torque_conditions.seal:
        return _with_seal(newest, state, display)
    trial = trial_reason(state, newest)
    key = state.preload_key
    if trial and state.sheet.range("pinion_preload_trial") is not None:
        key = "pinion_preload_trial"
    figure = FIGURE_WORDS[newest.torque_conditions.figure]
    result = torque_result(
        newest.value,
        state.sheet.range(key),
        source=state.sheet.source(key),
        display=display,
        label=f"{'New' if state.new_bearings else 'Used'} bearings, {figure} torque without seal",
    )
    more = _about(newest, state, display)
    if newest.value == 0 and play is not None and play.value == 0 and not _apart(play, newest):
        more += ("No torque and no end play: the pack stands at zero play, which passes only on arrival.",)
    outcome = result.outcome
    by_all = "" if trial or result.in_range else _in_by_all(state, newest, display)
    if by_all:
        outcome, more = Outcome.BY_ALL, (*more, by_all)
    if trial:
        more += (f"A trial, read {trial}: the final build is read again.",)
    if asks_play(state) is not None:
        more += ("A torque of nothing says loose, not how loose: the end play tells.",)
    return Result(
        result.value,
        result.dimension,
        limits=result.limits,
        outcome=outcome,
        why=(*result.why, *more),
        uncertainty=rectangular(newest.step or kind_named(KindName.PINION_TORQUE).step),
    )


def _in_by_all(state: AxleState, newest: Reading, display: Display) -> str:
    """Why a torque a little out of range is left: by everything read it will be in once loaded."""
    limits, together = state.preload_range(), comings_together(state)
    if limits is None or together[0][newest.order].stack != together[1].stack:
        return ""
    inside = chance_of_torque(state, PINION, limits)
    if inside < IN_BY_ALL:
        return ""
    loses, _ = lost_at_first_load(state, PINION)
    by = display.show(loses * usual_rise(PINION), Dimension.TORQUE)
    settles = (
        f" New bearings usually lose about {by} {display.torque.symbol} at first load." if loses else ""
    )
    return (
        f"By everything that was read it is {percent(inside)} sure to be in range once the axle has run "
        f"under load: it is left.{settles}"
    )


def _about(newest: Reading, state: AxleState, display: Display) -> tuple[str, ...]:
    """How it was read, and what the set-up bearings read before."""
    lines = []
    words = words_of(newest.torque_conditions, display.bolt_torque)
    if words:
        lines.append(f"Read: {', '.join(words)}.")
    both = newest.torque_conditions.both
    if both:
        one, other = (display.show(value, Dimension.TORQUE) for value in both)
        lines.append(f"{one} one way, {other} the other: the mean is free of the wrench's zero.")
    if newest.overdue:
        lines.append(f"{newest.tool} was overdue for calibration ({newest.overdue}).")
    before = [
        t
        for t in state.readings
        if t.kind == KindName.PINION_TORQUE
        and t.settings.at(Place.BEARINGS) != newest.settings.at(Place.BEARINGS)
        and t.order < newest.order
    ]
    if before:
        last = max(before, key=lambda t: t.order)
        change = display.show(newest.value - last.value, Dimension.TORQUE)
        lines.append(
            f"On the bearings before it read {display.show(last.value, Dimension.TORQUE)} "
            f"{display.torque.symbol}: {change} of difference. The final bearings have the last check."
        )
    return tuple(lines)


def _bounded(newest: Reading, state: AxleState, display: Display) -> Result:
    """A torque of which only one side is known: judged where that side already decides."""
    limits, over = state.preload_range(), newest.torque_conditions.bound == "over"
    shown = f"{display.show(newest.value, Dimension.TORQUE)} {display.torque.symbol}"
    line = f"It turns {'harder' if over else 'easier'} than {shown}; by how much is not known."
    if limits is None:
        return Result(newest.value, Dimension.TORQUE, limits=None, outcome=Outcome.RECORDED, why=(line,))
    tells = newest.value >= limits.high if over else newest.value <= limits.low
    source = state.sheet.source(state.preload_key)
    why = (line, f"{range_words(limits, display.torque.symbol, display, Dimension.TORQUE)} ({source}).")
    if not tells:
        return Result.undecided(
            Outcome.NOT_TOLD, why, value=newest.value, dimension=Dimension.TORQUE, limits=limits
        )
    return Result(
        newest.value,
        Dimension.TORQUE,
        limits=limits,
        outcome=Outcome.TIGHT if over else Outcome.LOOSE,
        why=why,
    )


def _another_figure(newest: Reading, state: AxleState, display: Display) -> Result:
    """A running torque beside a range for the breakaway peak, or the other way round: not compared."""
    was, wanted = (FIGURE_WORDS[f] for f in (newest.torque_conditions.figure, state.sheet.figure.value))
    shown = f"{display.show(newest.value, Dimension.TORQUE)} {display.torque.symbol}"
    words = f"{shown} is the {was} figure; the sheet's range is for the {wanted} one. Read it so."
    return Result.undecided(Outcome.UNLIKE, (words,), value=newest.value, dimension=Dimension.TORQUE)


def _with_seal(newest: Reading, state: AxleState, display: Display) -> Result:
    """A figure with the seal in: held to a range with seal, or freed of the seal's own drag."""
    sealed, unit = sealed_range(state, newest), display.torque.symbol
    if sealed is not None:
        source = state.sheet.source("pinion_preload_seal")
        return torque_result(
            newest.value, sealed, source=source, display=display, label="Running torque, seal in"
        )
    drag = seal_drag(state, newest)
    if drag == usual_drag() and state.layout.has_preload_pack:
        # Here the seal goes in last: nobody need guess what it drags.
        shown = f"{display.show(newest.value, Dimension.TORQUE)} {unit}"
        words = f"{shown} with the seal in: kept and not judged. The range is for no seal: read it without."
        return Result.undecided(Outcome.SEAL_IN, (words,), value=newest.value, dimension=Dimension.TORQUE)
    value, u = freed_of_seal(state, newest)
    shown, off, spread = (
        display.show(figure, Dimension.TORQUE) for figure in (newest.value, drag.torque, drag.spread)
    )
    result = torque_result(
        value,
        state.preload_range(),
        source=state.sheet.source(state.preload_key),
        display=display,
        label="Running torque less the seal's drag",
    )
    line = f"With the seal in {shown} {unit}: the seal drags {off} {unit} (± {spread}, {drag.source})."
    why = (line, *result.why)
    return replace(result, why=why, uncertainty=math.hypot(u, rectangular(newest.step or TORQUE_STEP)))


def _apart(one: Reading, other: Reading) -> bool:
    """Whether the stack was changed between two readings."""
    places = (Place.DEPTH, Place.PRELOAD, Place.BEARINGS, Place.SLINGER)
    return not one.settings.same_at(other.settings, places)
