"""Readings that cannot belong to one sound axle: each check, and what to suspect."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace
from typing import Final

from axle.decision.faults import FaultName, Inconsistency
from axle.layout import Place
from axle.measure.range import RangeSide
from axle.measure.units import Dimension, Display
from axle.preload.curve import CARRIER_SLOPE, PINION_SLOPE, Curve, Slope, Trial, torque_at
from axle.preload.trials import contradictions
from axle.procedure.names import KindName, StationName
from axle.procedure.stations import station_of
from axle.state.axle_state import AxleState
from axle.state.kept import kept
from axle.state.reading import Reading
from axle.stations.backlash import (
    OwnMove,
    backlash_around,
    expected_change,
    is_locked,
    learned_ratios,
    own_moves,
)
from axle.stations.carrier_preload import interference_now
from axle.stations.carrier_torque import carrier_torque, carrier_trials, torque_curve
from axle.stations.depth_posterior import APART, DepthEstimate, depth_posterior, prints_here
from axle.stations.pattern import read_print
from axle.stations.pinion_trials import trials_of
from axle.stations.result import signed

# The worst print further off all the rest than this, as a root mean square in standard deviations.
_ODD_PRINT: Final = 2.6
# A wrench whose two ways differ by more than this does not zero: a whole in·lb either side [N·m].
_NOT_ZERO: Final = 0.17
# A torque that reads so much otherwise the second time, as a share of it: scatter, or something moved.
_SCATTERS: Final = 0.12
# Standard deviations of a slope beyond which bearings are not sound.
_STEEP: Final = 3.5
# A pinion shallower than the gauge or any old pack allows by this [mm] lacks a slinger.
_SLINGER: Final = 0.28
_MARKED: Final = 0.05
# A gauge gets near, the pattern has the last word: nearer than this to each other nobody stops [mm].
_LAST_WORD: Final = 0.15
# Sleeves spent one after the other that are nobody's hand.
_SPENT: Final = 2
# A trial further off its curve than so many standard deviations and so large a share is none of them.
_FAR_OFF: Final = 4.0
_FAR_SHARE: Final = 0.3
# Of what is due, so much at the least a backlash moves where the cups follow their adjusters.
_FOLLOWS: Final = 0.35
# What of a backlash spread the ring gear's own runout does not explain [mm].
_UNEXPLAINED: Final = 0.05


@kept
def inconsistencies(state: AxleState, display: Display) -> tuple[Inconsistency, ...]:
    """What does not fit, the gravest first.

    :param state: the axle.
    :param display: units of the words.
    :source: outliers at three standard deviations of what is held; usual causes by common practice.
    """
    depth_estimate = depth_posterior(state)
    found = [
        _depth(state, depth_estimate, display),
        _prints(state, depth_estimate),
        _lash(state, display),
        _pinion(state, display),
        _carrier(state, display),
        _bent(state, display),
        _zero(state, display),
    ]
    muted = {name for name, s in state.signatures.items() if s.deviation}
    return tuple(t for t in found if t is not None and t.station not in muted)


def _depth(state: AxleState, held: DepthEstimate | None, display: Display) -> Inconsistency | None:
    """A gauge and prints that do not speak of one pinion; a print that no old pack allows."""
    if held is None or held.prints is None:
        return None
    unit = display.length.symbol
    again = (("print", 1),) if len(prints_here(state)) == 1 else ()
    if held.gauge is None:
        if held.prints[0] > -_SLINGER - held.prints[1]:
            return None
        words = (
            f"The print puts the pinion {display.show(-held.prints[0])} {unit} too shallow, far off a pack."
        )
        return Inconsistency(
            StationName.PATTERN,
            words,
            fault_hypotheses=(FaultName.SLINGER_OUT, FaultName.BAD_PRINT),
            again=again,
        )
    off = held.prints[0] - held.gauge[0]
    if held.discrepancy < APART or abs(off) < _LAST_WORD:
        return None
    spread = math.hypot(held.gauge[1], held.prints[1])
    words = (
        f"The gauge puts the pinion {_deep(held.gauge[0], display)}, the prints "
        f"{_deep(held.prints[0], display)}: {held.discrepancy:.1f} standard deviations apart."
    )
    keys = [FaultName.WRONG_GAUGE, FaultName.UNSEATED_CUP, FaultName.BAD_PRINT]
    mark = state.mark.value
    if off < -_SLINGER + spread:
        keys.insert(0, FaultName.SLINGER_OUT)
    if abs(mark) >= _MARKED and abs(off + 2 * mark) < 3 * spread:
        keys.insert(0, FaultName.WRONG_MARK)
    return Inconsistency(StationName.PATTERN, words, fault_hypotheses=tuple(keys), again=again)


def _deep(error: float, display: Display) -> str:
    direction = "too deep" if error > 0 else "too shallow"
    return f"{display.show(abs(error))} {display.length.symbol} {direction}"


def _prints(state: AxleState, held: DepthEstimate | None) -> Inconsistency | None:
    """Prints of two assemblies that do not follow the depth shim between them."""
    says = read_print(state)
    if says is not None and says.disagree and not says.stale:
        return Inconsistency(
            StationName.PATTERN,
            says.disagree,
            fault_hypotheses=(FaultName.BAD_PRINT,),
            again=(("print", 1),),
        )
    if held is None or held.misfit < _ODD_PRINT:
        return None
    depths = {p.settings.get(Place.DEPTH) for p in state.prints}
    again = (("print", 1),) if len(prints_here(state)) == 1 else ()
    words = f"A print lies {held.misfit:.1f} standard deviations off what these gears can show."
    if len(depths) > 1:
        words = "The prints do not follow the depth shim that was changed between them."
        return Inconsistency(
            StationName.PATTERN,
            words,
            fault_hypotheses=(FaultName.MISLABELLED_SHIM, FaultName.UNSEATED_CUP, FaultName.BAD_PRINT),
            again=again,
        )
    newest = max(state.prints, key=lambda p: p.order)
    if any(flank.is_photo for flank in newest.flanks.values()):
        return Inconsistency(
            StationName.PATTERN, words, fault_hypotheses=(FaultName.BAD_PRINT,), again=again, stops=False
        )
    return Inconsistency(
        StationName.PATTERN,
        words,
        fault_hypotheses=(FaultName.BAD_PRINT, FaultName.WRONG_CUT, FaultName.BENT_PINION),
        again=again,
    )


def _lash(state: AxleState, display: Display) -> Inconsistency | None:
    """The last move that no ratio of these gears explains; the second such one stops the work."""
    if state.school == "zero_float":
        return None  # by feel: how far the sides were from no play is not known well enough
    moves, found = own_moves(state), learned_ratios(state)
    if not moves:
        return None
    last, stays = moves[-1], _stays_behind(state, moves[-1])
    if not stays and last.seen not in found.odd:
        return None
    due = expected_change(state).opened_by(last.seen) if stays else found.ratios.opened_by(last.seen)
    words = (
        f"The last change moved the backlash by {signed(last.seen.opened, display)} "
        f"{display.length.symbol} where {signed(due, display)} was due."
    )
    read = state.around(KindName.BACKLASH)
    again = tuple(("backlash", place) for place, t in read.items() if t.count == 1)
    keys = [FaultName.MISLABELLED_SHIM, FaultName.UNSEATED_CUP, FaultName.SWAPPED_CAPS]
    if not last.seen.deeper and state.layout.has_adjusters:
        keys = [FaultName.CUP_LEFT_BEHIND, FaultName.SWAPPED_CAPS]
    return Inconsistency(
        StationName.BACKLASH, words, fault_hypotheses=tuple(keys), again=again, stops=len(found.odd) > 1
    )


def _stays_behind(state: AxleState, move: OwnMove) -> bool:
    """Whether an adjuster was turned and the backlash hardly followed: its cup may have stayed behind."""
    if not state.layout.has_adjusters or move.seen.deeper:
        return False
    due = expected_change(state).opened_by(move.seen)
    return abs(due) > 3 * move.seen.uncertainty and move.seen.opened / due < _FOLLOWS


def _pinion(state: AxleState, display: Display) -> Inconsistency | None:
    newest = state.latest(KindName.PINION_TORQUE)
    if newest is None or newest.torque_conditions.seal:
        return None
    fell = _moved_while_read(newest, display)
    if fell is not None:
        return Inconsistency(StationName.PINION_PRELOAD, *fell)
    if not state.layout.has_preload_pack:
        return _sleeves(state)
    trials = trials_of(state)
    if trials.curve is None:
        return None
    odd = _odd(trials.used, trials.curve, PINION_SLOPE)
    again = (("pinion_torque", 1),) if newest.count == 1 else ()
    if odd:
        keys = (
            FaultName.DRY_BEARING,
            FaultName.MISLABELLED_SHIM,
            FaultName.UNSEATED_CUP,
            FaultName.WRENCH_NOT_ZERO,
        )
        return Inconsistency(StationName.PINION_PRELOAD, odd, fault_hypotheses=keys, again=again)
    steep = _steepness(trials.curve, PINION_SLOPE)
    if any(t.torque for t in trials.used) and abs(steep) > _STEEP:
        return Inconsistency(StationName.PINION_PRELOAD, *_steep_words(steep, "pinion"), again)
    return None


def _sleeves(state: AxleState) -> Inconsistency | None:
    """Two sleeves spent one after the other: it was not the hand."""
    limits, newest = state.preload_range(), {}
    for reading in sorted(state.readings, key=lambda t: t.order):
        if reading.kind == KindName.PINION_TORQUE and not reading.torque_conditions.seal:
            newest[reading.settings.at(Place.PRELOAD)] = reading.value
    last = list(newest.values())[-2:]
    if (
        limits is None
        or len(last) < _SPENT
        or any(limits.side(value) is not RangeSide.OVER for value in last)
    ):
        return None
    words = "Two sleeves in a row went over the range."
    return Inconsistency(
        StationName.PINION_PRELOAD,
        words,
        (FaultName.UNSEATED_CUP, FaultName.DRY_BEARING, FaultName.WRENCH_NOT_ZERO),
    )


def _moved_while_read(reading: Reading, display: Display) -> tuple[str, tuple[FaultName, ...]] | None:
    """A torque that reads otherwise the second time on the same packs."""
    least = max(_SCATTERS * reading.value, 3 * (reading.step or 0.0565), 0.2)
    if abs(reading.discrepancy) < least:
        return None
    by = display.show(abs(reading.discrepancy), Dimension.TORQUE)
    fell = reading.discrepancy < 0
    words = f"It read {by} {display.torque.symbol} {'less' if fell else 'more'} when it was read again."
    keys = (
        (FaultName.UNSEATED_CUP, FaultName.DRY_BEARING)
        if fell
        else (FaultName.DRY_BEARING, FaultName.UNSEATED_CUP)
    )
    return words, keys


def _odd(trials: Sequence[Trial], curve: Curve, prior: Slope) -> str:
    """Why trials cannot all be right: a tighter pack that reads looser, or one far off all the rest."""
    turned = next((w for w in contradictions(trials, curve, prior) if w.startswith("Two trials")), "")
    for trial in trials:
        if trial.torque is None or trial.std is None:
            continue
        due = curve.torque(trial.setting)
        if abs(trial.torque - due) > max(_FAR_OFF * trial.std, _FAR_SHARE * due):
            high = "tighter" if trial.torque > due else "looser"
            return (
                f"One trial reads {high} than the others allow: look for dirt, a seal left in, a nut not "
                "at its torque or a piece left out."
            )
    # Torques no further apart than they scatter turn nothing round.
    torques = [t.torque for t in trials if t.torque is not None]
    scatter = _FAR_OFF * max((t.std or 0.0 for t in trials), default=0.0)
    alike = bool(torques) and max(torques) - min(torques) <= scatter
    return "" if alike else turned


def _steepness(curve: Curve, prior: Slope) -> float:
    return math.log(curve.coefficient / prior.coefficient) / math.log(prior.factor)


def _steep_words(steep: float, part: str) -> tuple[str, tuple[FaultName, ...]]:
    if steep > 0:
        keys = (
            (FaultName.DRY_BEARING, FaultName.WRENCH_NOT_ZERO)
            if part == "pinion"
            else (FaultName.SWAPPED_CAPS, FaultName.DRY_BEARING)
        )
        return f"The {part}'s torque is far higher than bearings so tight turn at.", keys
    keys = (FaultName.UNSEATED_CUP, FaultName.MISLABELLED_SHIM)
    return f"The {part}'s torque is far lower than bearings so tight turn at.", keys


def _carrier(state: AxleState, display: Display) -> Inconsistency | None:
    total = state.latest(KindName.TOTAL_TORQUE)
    if total is not None:
        fell = _moved_while_read(total, display)
        if fell is not None:
            return Inconsistency(StationName.CARRIER_PRELOAD, *fell)
    found, curve, trials = carrier_torque(state), torque_curve(state), carrier_trials(state)
    if found is None:
        return None
    torque, std, behind = found
    again = ((behind[0].kind, 1),) if behind[0].count == 1 else ()
    if torque < -3 * std:
        words = "The pinion alone drags more than the whole axle does: one of the two is wrong."
        return Inconsistency(
            StationName.CARRIER_PRELOAD,
            words,
            fault_hypotheses=(FaultName.UNSEATED_CUP, FaultName.DRY_BEARING, FaultName.WRENCH_NOT_ZERO),
            again=again,
        )
    pinched = _by_interference(state, trials)
    if pinched is not None:
        return replace(pinched, again=again)
    if curve is None:
        return None
    odd = _odd(trials, curve, CARRIER_SLOPE)
    if odd and len(trials) > 1:
        keys = (FaultName.SWAPPED_CAPS, FaultName.MISLABELLED_SHIM, FaultName.UNSEATED_CUP)
        return Inconsistency(StationName.CARRIER_PRELOAD, odd, fault_hypotheses=keys, again=again)
    steep = _steepness(curve, CARRIER_SLOPE)
    if abs(steep) > _STEEP:
        return Inconsistency(StationName.CARRIER_PRELOAD, *_steep_words(steep, "carrier"), again)
    return None


def _bent(state: AxleState, display: Display) -> Inconsistency | None:
    """Backlash that rises and falls by more than the ring gear's own runout brings."""
    around, limits = backlash_around(state), state.sheet.backlash_limits()
    runout = state.latest(KindName.RING_RUNOUT)
    if around is None or limits is None or limits.allows_variation(around.variation):
        return None
    if is_locked(around.smallest):
        return None  # how tight the tightest place is nobody knows: the spread is none
    explained = learned_ratios(state).ratios.per_ring * runout.value if runout else 0.0
    if runout is None or around.variation <= explained + _UNEXPLAINED:
        return None
    words = (
        f"The backlash varies by {display.show(around.variation)} {display.length.symbol} around the ring; "
        f"its runout explains {display.show(explained)}."
    )
    return Inconsistency(StationName.BACKLASH, words, (FaultName.BENT_PINION, FaultName.SWAPPED_CAPS))


def _zero(state: AxleState, display: Display) -> Inconsistency | None:
    """A wrench that shows one torque one way and another the other: its zero, or bearings that scatter."""
    for kind in ("pinion_torque", "total_torque"):
        newest = state.latest(kind)
        if newest is None or not newest.offs or max(abs(off) for off in newest.offs) < _NOT_ZERO:
            continue
        by = display.show(max(abs(off) for off in newest.offs), Dimension.TORQUE)
        words = f"One way reads {by} {display.torque.symbol} more than the mean of both."
        if len(newest.offs) == 1:
            asks = ((kind, 1),)
            return Inconsistency(
                station_of(kind),
                words,
                fault_hypotheses=(FaultName.WRENCH_NOT_ZERO, FaultName.DRY_BEARING),
                again=asks,
                stops=False,
            )
        if max(newest.offs) - min(newest.offs) > _NOT_ZERO and min(map(abs, newest.offs)) < _NOT_ZERO:
            words = "Read both ways and again, the torque does not come back: it scatters."
            return Inconsistency(
                StationName.PINION_PRELOAD, words, (FaultName.DRY_BEARING, FaultName.WRENCH_NOT_ZERO)
            )
    return None


def _by_interference(state: AxleState, trials: Sequence[Trial]) -> Inconsistency | None:
    """A torque of the carrier that the interference, where it is known, does not explain."""
    known, newest = interference_now(state), trials[-1] if trials else None
    if known is None or newest is None or newest.torque is None:
        return None
    at, u, _ = known
    torque, std = newest.torque, newest.std or 0.0
    due = torque_at(at, CARRIER_SLOPE.coefficient)
    per = torque_at(max(at, 0.0) + 0.01, CARRIER_SLOPE.coefficient) - due
    spread = math.hypot(due * math.log(CARRIER_SLOPE.factor), per / 0.01 * u, std, 0.1)
    if torque < due + _STEEP * spread:
        return None
    words = "The carrier turns far harder than its packs, so far over zero play, make it."
    return Inconsistency(
        StationName.CARRIER_PRELOAD, words, (FaultName.SWAPPED_CAPS, FaultName.DRY_BEARING)
    )
