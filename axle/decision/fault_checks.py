"""Readings that cannot belong to one sound axle: each check, and what to suspect."""

from __future__ import annotations

import math
from typing import Final

from axle.decision.faults import FaultName, Inconsistency
from axle.layout import Place
from axle.measure.range import RangeSide
from axle.measure.repeats import CRITICAL_RANGE, MOST
from axle.measure.units import Dimension, Display
from axle.preload.dirt import chance_of_dirt
from axle.preload.joint import Shows
from axle.procedure.names import KindName, StationName
from axle.procedure.stations import station_of
from axle.state.axle_state import AxleState
from axle.state.kept import kept
from axle.state.reading import Reading, repeatability_of
from axle.stations.backlash import (
    OwnMove,
    backlash_around,
    expected_change,
    is_locked,
    learned_ratios,
    own_moves,
)
from axle.stations.carrier_torque import carrier_torque, carrier_trials
from axle.stations.depth_posterior import APART, DepthEstimate, depth_posterior, prints_here
from axle.stations.mesh import why_not_readable
from axle.stations.method import is_present
from axle.stations.pattern import read_print
from axle.stations.pinion_trials import trials_of
from axle.stations.preload_readings import (
    CARRIER,
    PINION,
    comings_together,
    knows,
    pair_readings,
    pairs_of,
    torque_spread,
)
from axle.stations.result import signed
from axle.stations.zero_play import sides_are_set

# The worst print further off all the rest than this, as a root mean square in standard deviations.
_ODD_PRINT: Final = 2.6
# A print so far off is no eye's scatter: it stops the work.
_FAR_PRINT: Final = 3.5
# A wrench whose two ways differ by more than this does not zero: a whole in·lb either side [N·m].
_NOT_ZERO: Final = 0.17
# And by more than so many standard deviations of their scatter.
_APART: Final = 3.0
# Standard deviations beyond which a slope, or a drag, is not that of sound bearings; beyond which a pair
# settled further than bearings do; and of a reading off all the others.
_STEEP: Final = 3.3
# A carrier that turns so much harder than usual is doubted, and that much harder stops the work: caps that
# are swapped pinch, and a look at their marks costs a minute.
_HARD: Final = 1.25
_TOO_HARD: Final = 2.9
_SETTLED_FAR: Final = 2.5
# So many trials and more are wanted before one that lies off them stops the work: of two either may be
# wrong.
_TO_STOP: Final = 2
# A pinion shallower than the gauge or any old pack allows by this [mm] lacks a slinger.
_SLINGER: Final = 0.28
_MARKED: Final = 0.05
# How often a gauge is far off, and by how much then [mm]; how often a slinger is left out, and over how
# many mm its thickness may lie; how often a mark is taken the wrong way round; how often something else is
# wrong, and over how many mm that may lie. All from memory.
_GAUGE_IS_FAR: Final = 0.08
_FAR_GAUGE: Final = 0.13
_SLINGER_IS_OUT: Final = 0.01
_SLINGERS: Final = 1.2
_MARK_IS_WRONG: Final = 0.02
_ELSE: Final = 0.02
_ANYWHERE: Final = 3.0
# Nearer than this [mm], a tenth of a thou, a pinion is said to be at its depth.
_AT_ITS_DEPTH: Final = 0.0025
# So many prints are made before one that lies far off the gauge is believed.
_PRINTS: Final = 3
# From so many standard deviations on a mark or a slinger is asked after.
_DOUBTED: Final = 2.0
# A cause at least so likely is named; one other than the gauge, so likely, stops the work.
_NAMED: Final = 0.05
_LIKELIER: Final = 0.6
# A gauge gets near, the pattern has the last word: nearer than this to each other nobody stops [mm].
_LAST_WORD: Final = 0.15
# Sleeves spent one after the other that are nobody's hand.
_SPENT: Final = 2
_FAR_OFF: Final = 4.0
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
        _zero(state, display),
        _depth(state, depth_estimate, display),
        _prints(state, depth_estimate),
        _lash(state, display),
        _pinion(state, display),
        _carrier(state, display),
        _bent(state, display),
    ]
    muted = {name for name, s in state.signatures.items() if s.deviation}
    return tuple(t for t in found if t is not None and t.station not in muted)


def _depth(state: AxleState, held: DepthEstimate | None, display: Display) -> Inconsistency | None:
    """A gauge and prints that do not speak of one pinion; a print that no old pack allows."""
    if held is None or held.prints is None:
        return None
    unit, here = display.length.symbol, len(prints_here(state))
    again = (("print", 1),) if here == 1 else ()
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
    if held.discrepancy < _DOUBTED or abs(off) < _LAST_WORD:
        return None
    spread = math.hypot(held.gauge[1], held.prints[1])
    words = (
        f"The gauge puts the pinion {_deep(held.gauge[0], display)}, the prints "
        f"{_deep(held.prints[0], display)}: {held.discrepancy:.1f} standard deviations apart."
    )
    keys = [FaultName.WRONG_GAUGE, FaultName.UNSEATED_CUP, FaultName.BAD_PRINT]
    again = (("print", 1),) if 0 < here < _PRINTS else ()
    chances = _why_apart(off, spread, state.mark.value)
    named = sorted((key for key in chances if chances[key] > _NAMED), key=lambda key: -chances[key])
    keys = [*(key for key in named if key not in keys), *keys]
    asked_early = (FaultName.WRONG_MARK, FaultName.SLINGER_OUT)
    if held.discrepancy < APART and keys[0] not in asked_early:
        return None
    # A gauge gets near, the pattern has the last word: the work stops where something else is likelier.
    stops = held.discrepancy >= APART and 1 - chances[FaultName.WRONG_GAUGE] > _LIKELIER
    return Inconsistency(StationName.PATTERN, words, tuple(keys), again, stops=stops)


def _why_apart(off: float, spread: float, mark: float) -> dict[FaultName, float]:
    """What puts prints so far [mm] from a gauge: the chance of each, with the spread of the two [mm]."""
    wide = math.hypot(spread, _FAR_GAUGE)
    weighed = {
        FaultName.WRONG_GAUGE: _GAUGE_IS_FAR * _density(off, wide),
        FaultName.UNSEATED_CUP: _ELSE / _ANYWHERE,
    }
    if off < -_SLINGER + spread:
        weighed[FaultName.SLINGER_OUT] = _SLINGER_IS_OUT / _SLINGERS
    if abs(mark) >= _MARKED:
        weighed[FaultName.WRONG_MARK] = _MARK_IS_WRONG * _density(off + 2 * mark, spread)
    total = sum(weighed.values())
    return {key: chance / total for key, chance in weighed.items()}


def _density(off: float, spread: float) -> float:
    return math.exp(-((off / spread) ** 2) / 2) / spread / math.sqrt(2 * math.pi)


def _deep(error: float, display: Display) -> str:
    if abs(error) < _AT_ITS_DEPTH:
        return "at its depth"
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
            stops=held.misfit > _FAR_PRINT,
        )
    newest = max(state.prints, key=lambda p: p.order)
    if any(flank.is_vague for flank in newest.flanks.values()):
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
    scatters = _scatters(state, newest, display)
    if scatters is not None:
        return scatters
    if not state.layout.has_preload_pack:
        spent = _sleeves(state)
        return spent or _settled_far(state, PINION)
    trials = trials_of(state)
    if trials.curve is None:
        return None
    odd, asks = _off_the_others(state, Shows.PINION_TORQUE)
    if odd:
        keys = (
            FaultName.DRY_BEARING,
            FaultName.MISLABELLED_SHIM,
            FaultName.UNSEATED_CUP,
            FaultName.WRENCH_NOT_ZERO,
        )
        return Inconsistency(
            StationName.PINION_PRELOAD,
            odd,
            fault_hypotheses=keys,
            again=asks,
            stops=len(trials.used) > _TO_STOP,
        )
    steep = _steepness(state, PINION)
    if abs(steep) > _STEEP and sum(1 for t in trials.used if t.torque) > 1:
        found = _steep_words(steep, "pinion")
        return Inconsistency(StationName.PINION_PRELOAD, *found, _if_not_sure(state, newest))
    return _settled_far(state, PINION)


def _if_not_sure(state: AxleState, reading: Reading) -> tuple[tuple[str, int], ...]:
    """The reading again, where it was taken once or disagrees, and can be taken as the axle stands."""
    often = reading.count > 1 and not (reading.disagrees and reading.count < MOST)
    if often or not _can_be_read_again(state, reading):
        return ()
    return ((reading.kind, reading.place),)


def _scatters(state: AxleState, reading: Reading, display: Display) -> Inconsistency | None:
    """A torque that does not come back, however often it is read."""
    apart = CRITICAL_RANGE[2] * repeatability_of(reading, state.priors)
    moved = not reading.values and abs(reading.discrepancy) > apart
    if not (reading.disagrees or reading.scatters or moved):
        return None
    by = display.show(abs(reading.discrepancy), Dimension.TORQUE)
    way = "less" if reading.discrepancy < 0 else "more"
    words = (
        f"It read {by} {display.torque.symbol} {way} when it was read again, {reading.count} times in all."
    )
    again: tuple[tuple[str, int], ...] = ()
    if reading.disagrees and reading.count < MOST and _can_be_read_again(state, reading):
        again = ((reading.kind, reading.place),)
    # A cup that comes home, or bearings that settle, let the torque fall; dirt lets it rise.
    keys = (FaultName.DRY_BEARING, FaultName.UNSEATED_CUP)
    keys = keys[::-1] if reading.discrepancy < 0 else keys
    stops = not again and (reading.scatters or moved)
    return Inconsistency(station_of(reading.kind), words, keys, again, stops=stops)


def _off_the_others(state: AxleState, shows: Shows) -> tuple[str, tuple[tuple[str, int], ...]]:
    """Why a torque of this coming together cannot belong with everything else, and what to read again.

    What was read before it came apart cannot be read again: it counts for less, and stops nobody.

    :returns: no words where each can belong.
    """
    now = comings_together(state)[1]
    left = [
        (abs(residual), residual)
        for read, residual in zip(pair_readings(state), pairs_of(state).residuals, strict=False)
        if read.shows is shows
        and (not read.of_pinion or read.stack == now.stack)
        and (not read.of_carrier or read.sides == now.sides)
    ]
    most, residual = max(left, default=(0.0, 0.0))
    if most < _FAR_OFF:
        return "", ()
    words = (
        f"One reading is {'tighter' if residual > 0 else 'looser'} than the others allow: look for dirt, a "
        "seal left in, a nut not at its torque or a piece left out."
    )
    newest = state.latest(_KINDS[shows])
    return words, _if_not_sure(state, newest) if newest is not None else ()


_KINDS: Final = {
    Shows.PINION_TORQUE: KindName.PINION_TORQUE,
    Shows.CARRIER_TORQUE: KindName.CARRIER_TORQUE,
    Shows.TOTAL_TORQUE: KindName.TOTAL_TORQUE,
}


def _settled_far(state: AxleState, which: int) -> Inconsistency | None:
    """A pair that lost far more at first load than bearings settle."""
    pairs, total = pairs_of(state), state.latest(KindName.TOTAL_TORQUE)
    if not comings_together(state)[1].loaded or total is None or total.count < 2:
        return None
    if pairs.in_its_deviations(which, "bed") < _SETTLED_FAR:
        return None
    part = "carrier" if which else "pinion"
    words = f"The {part}'s preload fell at first load by far more than bearings settle."
    station = StationName.CARRIER_PRELOAD if which else StationName.PINION_PRELOAD
    return Inconsistency(station, words, (FaultName.UNSEATED_CUP, FaultName.MISLABELLED_SHIM))


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


def _steepness(state: AxleState, which: int) -> float:
    """How much steeper a pair turns than is usual, in standard deviations of what is usual."""
    return pairs_of(state).in_its_deviations(which, "slope")


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
    found = carrier_torque(state)
    if found is None:
        return None
    torque, _, behind = found
    scatters = _scatters(state, behind[0], display)
    if scatters is not None:
        return scatters
    again = tuple(ask for reading in behind for ask in _if_not_sure(state, reading))
    together, alike = comings_together(state)[0], len(behind) == 2
    # Read on both sides of a load, the difference is what bearings settle: it says nothing of a fault.
    alike = alike and together[behind[0].order].loaded == together[behind[-1].order].loaded
    spread = math.hypot(*(torque_spread(t, state.priors) for t in behind)) * state.gears.ratio
    if alike and torque < -3 * spread:
        words = "The pinion alone drags more than the whole axle does: one of the two is wrong."
        keys = (FaultName.UNSEATED_CUP, FaultName.DRY_BEARING, FaultName.WRENCH_NOT_ZERO)
        return Inconsistency(StationName.CARRIER_PRELOAD, words, fault_hypotheses=keys, again=again)
    if not knows(state, CARRIER):
        return None
    pairs = pairs_of(state)
    steep, drags = _steepness(state, CARRIER), pairs.in_its_deviations(CARRIER, "mesh")
    hard = max(steep, drags)
    if hard > _HARD:
        words = "The carrier turns far harder than its packs, so far over zero play, make it."
        caps = (FaultName.SWAPPED_CAPS, FaultName.DRY_BEARING)
        return Inconsistency(StationName.CARRIER_PRELOAD, words, caps, again, stops=hard > _TOO_HARD)
    for shows in (Shows.TOTAL_TORQUE, Shows.CARRIER_TORQUE):
        odd, asks = _off_the_others(state, shows)
        if odd:
            others = (FaultName.SWAPPED_CAPS, FaultName.MISLABELLED_SHIM, FaultName.UNSEATED_CUP)
            # A cup that stays behind an adjuster comes home at first load: until then nothing is wrong yet.
            stays = state.layout.has_adjusters and not comings_together(state)[1].loaded
            stops = len(carrier_trials(state)) > _TO_STOP and not stays
            return Inconsistency(StationName.CARRIER_PRELOAD, odd, others, asks or again, stops=stops)
    if steep < -_STEEP:
        return Inconsistency(StationName.CARRIER_PRELOAD, *_steep_words(steep, "carrier"), again)
    return _settled_far(state, CARRIER)


def _bent(state: AxleState, display: Display) -> Inconsistency | None:
    """Backlash that rises and falls by more than the ring gear's own runout brings."""
    around, limits = backlash_around(state), state.sheet.backlash_limits()
    runout = state.latest(KindName.RING_RUNOUT)
    if around is None or limits is None or limits.allows_variation(around.variation):
        return None
    if is_locked(around.smallest):
        return None  # how tight the tightest place is nobody knows: the spread is none
    read = state.around(KindName.BACKLASH)
    ends = (around.tight_place, max(around.places, key=lambda place: around.places[place]))
    again = tuple(("backlash", place) for place in ends if place in read and read[place].count < 2)
    explained = learned_ratios(state).ratios.per_ring * runout.value if runout else 0.0
    if runout is None or around.variation <= explained + _UNEXPLAINED:
        return None
    words = (
        f"The backlash varies by {display.show(around.variation)} {display.length.symbol} around the ring; "
        f"its runout explains {display.show(explained)}."
    )
    return Inconsistency(
        StationName.BACKLASH, words, (FaultName.BENT_PINION, FaultName.SWAPPED_CAPS), again
    )


def _zero(state: AxleState, display: Display) -> Inconsistency | None:
    """A wrench that shows one torque one way and another the other: its zero, or bearings that scatter.

    One reading of several that does so is misread, and says nothing of the wrench.
    """
    for kind in (KindName.PINION_TORQUE, KindName.TOTAL_TORQUE, KindName.CARRIER_TORQUE):
        newest = state.latest(kind)
        if newest is None or not newest.offs:
            continue
        offs = sorted(newest.offs, key=abs)
        most, second = abs(offs[-1]), abs(offs[-2]) if len(offs) > 1 else 0.0
        # Half of what two ways differ by scatters as their mean does, and more on a larger torque.
        limit = max(_NOT_ZERO, _APART * repeatability_of(newest, state.priors))
        if most < limit:
            continue
        by = f"{display.show(most, Dimension.TORQUE)} {display.torque.symbol}"
        words = f"One way reads {by} more than the mean of both."
        again = _both_ways_again(state, newest) if len(offs) < MOST else ()
        keys = (FaultName.WRENCH_NOT_ZERO, FaultName.DRY_BEARING)
        if len(offs) == 1 or (second < limit and len(offs) == 2):
            if again:
                return Inconsistency(station_of(kind), words, keys, again, stops=False)
            continue
        both = max(offs) >= limit and min(offs) <= -limit
        if both and (again or _is_dirty(state, newest)):
            words = "Read both ways and again, the torque does not come back: it scatters."
            return Inconsistency(station_of(kind), words, keys[::-1], again)
    return None


def _is_dirty(state: AxleState, reading: Reading) -> bool:
    """Whether all that was read of a torque speaks of dirt rather than of figures misread."""
    figures = [
        value + way * off
        for value, off in zip(reading.values, reading.offs, strict=False)
        for way in (-1, 1)
    ]
    std = math.sqrt(2) * repeatability_of(reading, state.priors)
    return chance_of_dirt([f - reading.value for f in figures], std, reading.value) > _LIKELIER


def _both_ways_again(state: AxleState, reading: Reading) -> tuple[tuple[str, int], ...]:
    """The torque once more both ways; in mesh the whole's, which shows the wrench's zero as well."""
    if _can_be_read_again(state, reading):
        return ((reading.kind, reading.place),)
    total = state.latest(KindName.TOTAL_TORQUE)
    twice = total is not None and total.order > reading.order and len(total.offs) > 1
    return ((KindName.TOTAL_TORQUE, 1),) if sides_are_set(state) and not twice else ()


def _can_be_read_again(state: AxleState, reading: Reading) -> bool:
    return is_present(reading, state) and not why_not_readable(reading.kind, state, {})
