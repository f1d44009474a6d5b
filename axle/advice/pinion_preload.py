"""Pinion bearing preload as the readings of one axle tell it: trials, bites, and the verdict."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from decimal import Decimal
from typing import Final

from axle.advice.state import AxleState, Taken
from axle.advice.verdict import READ_TORQUE, Result, end_play, range_words, torque_result
from axle.depth.allowances import Bearing, preload_for_bearings
from axle.layout import Place, PreloadBy
from axle.limits import ROUNDING, Range
from axle.preload.bites import NUT_PITCH, Bite, NextBite, next_bite
from axle.preload.curve import PINION_SLOPE, Curve, Trial, chances, fit
from axle.preload.seal import SealDrag, drag_between, usual_drag
from axle.preload.trials import contradictions
from axle.procedure.conditions import FIGURE_WORDS, TorqueConditions, unlike, words_of
from axle.procedure.stations import kind_named
from axle.shims import THICKEST_PACK, Pack, choose
from axle.uncertainty import Measured, rectangular
from axle.units import Dimension, Display

TORQUE_STEP: Final = 0.113
# Where nothing else is known: 0.020 in of shims with a solid spacer; against a step half as much again,
# since too few under full torque mark the rollers (common practice).
_SPACER_START: Final = 0.508
_STEP_MORE: Final = 0.254
_ZERO: Final = Decimal(0)
# Scatter of one rotating torque: at the least [N·m], and as a share of it; from memory.
_HAND: Final = 0.035
_HAND_SHARE: Final = 0.015


@dataclass(frozen=True)
class Trials:
    """The trials that can be held to each other, and those that cannot.

    :param used: as the curve takes them, oldest first.
    :param readings: the readings behind them, alike in order.
    :param left_out: what was left out and why, a line each.
    :param curve: fitted to the used ones, or nothing where there is none.
    :param contradictions: where they cannot all be right.
    """

    used: tuple[Trial, ...]
    readings: tuple[Taken, ...]
    left_out: tuple[str, ...]
    curve: Curve | None
    contradictions: tuple[str, ...]


@dataclass(frozen=True)
class PreloadPack:
    """A preload pack that can be made, with what is expected of it.

    :param pack: its pieces.
    :param torque: expected rotating torque [N·m].
    :param spread: its standard uncertainty [N·m].
    :param chance: chance that it reads in range.
    :param under: chance that it reads under.
    :param over: chance that it reads over.
    """

    pack: Pack
    torque: float
    spread: float
    chance: float
    under: float
    over: float


def trials_of(state: AxleState) -> Trials:
    """Preload trials that still say something of the stack that is in.

    The newest reading without a seal governs; readings under other conditions, and with a seal in, are
    left out, and said so. A trial
    with another depth shim counts with what the coupling of the stacks makes of it; one on other
    bearings, or with another slinger, does not count.

    :param state: the axle, on a layout with a preload pack.
    :source: readings with the preload pack recorded with each.
    """
    sign, coupled = state.layout.preload_sign, state.layout.preload_per_depth
    readings = [
        t
        for t in sorted(state.taken, key=lambda t: t.order)
        if t.kind in ("pinion_torque", "pinion_end_play") and t.settings.get(Place.PRELOAD)
    ]
    torques = [t for t in readings if t.kind == "pinion_torque" and not t.torque_conditions.seal]
    governs = torques[-1].torque_conditions if torques else None
    used: list[Trial] = []
    behind: list[Taken] = []
    left: list[str] = []
    for reading in readings:
        reason = _left_out(reading, state, governs)
        if reason:
            left.append(reason)
            continue
        change = reading.settings.get(Place.DEPTH, _ZERO) - state.setting(Place.DEPTH)
        pack = float(reading.settings.get(Place.PRELOAD, _ZERO))
        setting = sign * (pack - coupled * float(change))
        if reading.kind == "pinion_torque":
            used.append(Trial(setting, torque=reading.value, spread=torque_spread(reading)))
        elif reading.value:
            used.append(Trial(setting, end_play=reading.value))
        else:
            continue  # no play says that zero lies somewhere on the loose side: the torque tells where
        behind.append(reading)
    if not used:
        return Trials((), (), tuple(left), None, ())
    curve = fit(used, PINION_SLOPE, torque_step=TORQUE_STEP)
    odd = contradictions(used, curve, PINION_SLOPE)
    return Trials(tuple(used), tuple(behind), tuple(left), curve, odd)


def torque_spread(reading: Taken) -> float:
    """Standard deviation of a rotating torque as it was read [N·m].

    :param reading: once or again, one way or both.
    :source: step of the wrench, scatter of a hand (from memory); the mean of n falls with the root of n.
    """
    once = math.hypot(rectangular(reading.step or TORQUE_STEP), _HAND, _HAND_SHARE * reading.value)
    if reading.torque_conditions.bound:
        once = max(once, 0.5 * reading.value)  # a bound says where it is not
    ways = 2 if reading.torque_conditions.both else 1
    return once / math.sqrt(reading.count * ways)


def _left_out(reading: Taken, state: AxleState, governs: TorqueConditions | None) -> str:
    for place, words in ((Place.BEARINGS, "on other bearings"), (Place.SLINGER, "with another slinger")):
        if reading.settings.get(place, _ZERO) != state.setting(place):
            return f"a trial {words}"
    if reading.kind == "pinion_torque":
        apart = unlike(governs or TorqueConditions(), reading.torque_conditions)
        if apart:
            return f"a trial read with {', '.join(apart)}"
    return ""


def preload_packs(state: AxleState, trials: Trials, limits: Range) -> tuple[PreloadPack, ...]:
    """Packs around the one that the middle of the range asks for, the surest first.

    :param state: the axle, on a layout with a preload pack.
    :param trials: with a fitted curve.
    :param limits: range of the rotating torque [N·m].
    :source: :func:`axle.preload.curve.chances`, :func:`axle.shims.choose`.
    """
    curve, sign = trials.curve, state.layout.preload_sign
    if curve is None:
        return ()
    wanted = Decimal(str(round(sign * curve.setting_for(limits.aim), 5)))
    if not 0 < wanted < THICKEST_PACK:
        return ()
    drawer = state.drawer.get(Place.PRELOAD, ())
    width = abs(curve.setting_for(limits.upper) - curve.setting_for(limits.low))
    close = Decimal(str(round(max(width / 4, 0.0025), 5)))
    choice = choose(wanted, close, drawer)
    packs = [p for p in (choice.pack, *choice.nearest) if p is not None]
    found: dict[Decimal, PreloadPack] = {}
    for pack in packs:
        setting = sign * float(pack.thickness)
        under, inside, over = chances(curve, setting, limits.low, limits.high, noise=_noise(limits))
        found.setdefault(
            pack.thickness,
            PreloadPack(pack, curve.torque(setting), curve.torque_spread(setting), inside, under, over),
        )
    return tuple(sorted(found.values(), key=lambda p: (-round(p.chance, 2), len(p.pack.pieces))))


def _noise(limits: Range) -> float:
    """How a repeated reading of one pack scatters: half the wrench's step and 3 % (from memory)."""
    return max(TORQUE_STEP / 2, 0.03 * limits.aim)


def preload_start(state: AxleState) -> tuple[float, str] | None:
    """A preload pack to start from, loose rather than tight, with where it comes from.

    :param state: the axle, on a layout with a preload pack.
    :source: the old pack with what other bearings change, else the sheet, else common practice.
    """
    if not state.layout.has_preload_pack:
        return None
    against_step = state.layout.preload_by is PreloadBy.STEP
    old = state.old_packs.get(Place.PRELOAD)
    if old:
        start = float(old)
        words = "the old sleeve's length as it came off" if state.spacer_kit else "the old pack"
        before = state.old_packs.get(Place.DEPTH)
        if before and state.layout.preload_per_depth and state.setting(Place.DEPTH):
            start += state.layout.preload_per_depth * float(state.setting(Place.DEPTH) - before)
            words = f"{words}, with what the depth shim asks for"
        change = bearings_change(state, 1, 2 if state.trial == "setup" else 3)
        if change is not None:
            start, words = start + change, f"{words}, corrected for the other bearings"
    elif (usual := state.sheet.single("preload_start")) is not None:
        start, words = usual, state.sheet.source("preload_start")
    else:
        start, words = _SPACER_START, "the usual start, common practice"
    if against_step:
        return start + _STEP_MORE, f"{words}, and 10 thou more: against a step it starts loose"
    return start, words


def bearings_change(state: AxleState, then: int, now: int) -> float | None:
    """Change of the preload pack [mm] from one set of bearings to another, or nothing where not measured.

    :param state: the axle.
    :param then: which bearings the pack was right for: 1 old, 2 set-up, 3 final.
    :param now: which go in.
    :source: :func:`axle.depth.allowances.preload_for_bearings`.
    """
    if not state.layout.has_preload_pack:
        return None
    pairs = []
    for which in ("inner", "outer"):
        stands = [state.latest(f"stand_{which}", place) for place in (then, now)]
        widths = [state.latest(f"width_{which}", place) for place in (then, now)]
        if None in stands or None in widths:
            return None
        made = [
            Bearing(Measured(s.value), Measured(w.value))
            for s, w in zip(stands, widths, strict=True)
            if s and w
        ]
        pairs.append((made[0], made[1]))
    return preload_for_bearings(state.layout, pairs[0], pairs[1]).value


def trial_reason(state: AxleState, reading: Taken) -> str:
    """Why a rotating torque is a trial's and never stands for the final one; nothing for a final reading.

    :param state: the axle.
    :param reading: of the pinion's rotating torque.
    :source: common practice: a trial torque never stands for the final one.
    """
    how = reading.torque_conditions
    if how.nut == "set_up":
        return "with a set-up nut"
    if how.sleeve == "out" and not state.layout.has_preload_pack:
        return "without the sleeve"
    if state.trial == "setup" and not reading.settings.get(Place.BEARINGS):
        return "on set-up bearings"
    return ""


def seal_drag(state: AxleState, reading: Taken) -> SealDrag:
    """What the seal of this axle drags: as it was read here, else by the sheet, else as usual.

    :param state: the axle.
    :param reading: with the seal in.
    :source: the difference of two readings of one stack; the job's sheet; ``seal.toml``.
    """
    dry = [
        t
        for t in state.taken
        if t.kind == "pinion_torque"
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


def sealed_range(state: AxleState, reading: Taken) -> Range | None:
    """The sheet's range with the seal in, for a reading that was taken so; else nothing.

    :param state: the axle.
    :param reading: of the pinion's rotating torque.
    :source: the job's sheet.
    """
    return state.sheet.range("pinion_preload_seal") if reading.torque_conditions.seal else None


def freed_of_seal(state: AxleState, reading: Taken) -> tuple[float, float]:
    """A rotating torque without its seal's drag, and the standard uncertainty of that drag [N·m].

    :param state: the axle.
    :param reading: with the seal in or without.
    :source: :func:`seal_drag`.
    """
    if not reading.torque_conditions.seal:
        return reading.value, 0.0
    drag = seal_drag(state, reading)
    return max(reading.value - drag.torque, 0.0), drag.spread


def bite_readings(state: AxleState) -> tuple[Taken, ...]:
    """Rotating torques of the sleeve that is in, oldest first; those read without it are trials.

    :param state: the axle, on a layout with a collapsible sleeve.
    :source: rotating torques with the sleeve's number in their settings.
    """
    sleeve = state.setting(Place.PRELOAD)
    return tuple(
        t
        for t in sorted(state.taken, key=lambda t: t.order)
        if t.kind == "pinion_torque"
        and t.settings.get(Place.PRELOAD, _ZERO) == sleeve
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
    found = []
    for reading in readings:
        how = reading.torque_conditions
        if as_read and not how.seal:
            continue  # the range is for the seal in: before it was, the torque is another
        torque = reading.value if as_read else freed_of_seal(state, reading)[0]
        found.append(Bite(torque, how.turned, how.nut_torque))
    return tuple(found)


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
    unsure = 0.0 if sealed_range(state, newest) else freed_of_seal(state, newest)[1]
    return next_bite(
        bites,
        limits.low,
        limits.high,
        limit=state.overshoot,
        pitch=nut_pitch(state),
        target=limits.target,
        unsure=unsure,
    )


def asks_play(state: AxleState) -> Taken | None:
    """A rotating torque of nothing on a pack of which no end play was read: it says loose, not how loose.

    :param state: the axle, on a layout with a preload pack.
    :returns: that torque, or nothing.
    :source: common practice: no torque is a bound, the play says where zero lies.
    """
    newest = state.latest("pinion_torque")
    if newest is None or newest.value > ROUNDING or not state.layout.has_preload_pack:
        return None
    stack = (Place.DEPTH, Place.PRELOAD, Place.BEARINGS, Place.SLINGER)
    now = all(newest.settings.get(p, _ZERO) == state.setting(p) for p in stack)
    play = state.latest("pinion_end_play")
    told = play is not None and not _apart(play, newest)
    return None if told or not now else newest


def preload_verdict(state: AxleState, display: Display) -> Result | None:
    """Judge the pinion's preload by its newest reading.

    :param state: the axle.
    :param display: units of the words.
    :source: the sheet's range for these bearings, this use, and seal in or not.
    """
    torque, play = state.latest("pinion_torque"), state.latest("pinion_end_play")
    newest = max((r for r in (torque, play) if r), key=lambda r: r.order, default=None)
    if newest is None:
        return None
    if newest.kind == "pinion_end_play" and newest.value > 0:
        return end_play(newest.value, display, "Pinion bearings want preload: end play cannot pass.")
    if newest.kind == "pinion_end_play":
        why = ("No end play. Read the rotating torque: no play does not yet say preload.",)
        return Result(0.0, Dimension.LENGTH, None, False, READ_TORQUE, why, decided=False)
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
        state.sheet.source(key),
        display,
        f"{'New' if state.new_bearings else 'Used'} bearings, {figure} torque without seal",
    )
    more = _about(newest, state, display)
    if newest.value == 0 and play is not None and play.value == 0 and not _apart(play, newest):
        more += ("No torque and no end play: the pack stands at zero play, which passes only on arrival.",)
    if trial:
        more += (f"A trial, read {trial}: the final build is read again.",)
    if asks_play(state) is not None:
        more += ("A torque of nothing says loose, not how loose: the end play tells.",)
    return Result(
        result.value,
        result.dimension,
        result.limits,
        result.in_range,
        result.words,
        (*result.why, *more),
        rectangular(newest.step or kind_named("pinion_torque").step),
    )


def _about(newest: Taken, state: AxleState, display: Display) -> tuple[str, ...]:
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
        for t in state.taken
        if t.kind == "pinion_torque"
        and t.settings.get(Place.BEARINGS, _ZERO) != newest.settings.get(Place.BEARINGS, _ZERO)
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


def _bounded(newest: Taken, state: AxleState, display: Display) -> Result:
    """A torque of which only one side is known: judged where that side already decides."""
    limits, over = state.preload_range(), newest.torque_conditions.bound == "over"
    shown = f"{display.show(newest.value, Dimension.TORQUE)} {display.torque.symbol}"
    line = f"It turns {'harder' if over else 'easier'} than {shown}; by how much is not known."
    if limits is None:
        return Result(newest.value, Dimension.TORQUE, None, True, "recorded", (line,))
    tells = newest.value >= limits.high if over else newest.value <= limits.low
    source = state.sheet.source(state.preload_key)
    why = (line, f"{range_words(limits, display.torque.symbol, display, Dimension.TORQUE)} ({source}).")
    if not tells:
        return Result(newest.value, Dimension.TORQUE, limits, False, "not told", why, decided=False)
    return Result(newest.value, Dimension.TORQUE, limits, False, "tight" if over else "loose", why)


def _another_figure(newest: Taken, state: AxleState, display: Display) -> Result:
    """A running torque beside a range for the breakaway peak, or the other way round: not compared."""
    was, wanted = (FIGURE_WORDS[f] for f in (newest.torque_conditions.figure, state.sheet.figure.value))
    shown = f"{display.show(newest.value, Dimension.TORQUE)} {display.torque.symbol}"
    words = f"{shown} is the {was} figure; the sheet's range is for the {wanted} one. Read it so."
    return Result(newest.value, Dimension.TORQUE, None, False, "unlike", (words,), decided=False)


def _with_seal(newest: Taken, state: AxleState, display: Display) -> Result:
    """A figure with the seal in: held to a range with seal, or freed of the seal's own drag."""
    sealed, unit = sealed_range(state, newest), display.torque.symbol
    if sealed is not None:
        source = state.sheet.source("pinion_preload_seal")
        return torque_result(newest.value, sealed, source, display, "Running torque, seal in")
    drag = seal_drag(state, newest)
    if drag == usual_drag() and state.layout.has_preload_pack:
        # Here the seal goes in last: nobody need guess what it drags.
        shown = f"{display.show(newest.value, Dimension.TORQUE)} {unit}"
        words = f"{shown} with the seal in: kept and not judged. The range is for no seal: read it without."
        return Result(newest.value, Dimension.TORQUE, None, False, "seal in", (words,), decided=False)
    value, u = freed_of_seal(state, newest)
    shown, off, spread = (
        display.show(figure, Dimension.TORQUE) for figure in (newest.value, drag.torque, drag.spread)
    )
    result = torque_result(
        value,
        state.preload_range(),
        state.sheet.source(state.preload_key),
        display,
        "Running torque less the seal's drag",
    )
    line = f"With the seal in {shown} {unit}: the seal drags {off} {unit} (± {spread}, {drag.source})."
    why = (line, *result.why)
    return replace(result, why=why, uncertainty=math.hypot(u, rectangular(newest.step or TORQUE_STEP)))


def _apart(one: Taken, other: Taken) -> bool:
    """Whether the stack was changed between two readings."""
    places = (Place.DEPTH, Place.PRELOAD, Place.BEARINGS, Place.SLINGER)
    return any(one.settings.get(p, _ZERO) != other.settings.get(p, _ZERO) for p in places)
