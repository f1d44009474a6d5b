"""What no move explains: readings that cannot belong to one sound axle, and what to suspect.

A reading that does not fit is questioned first: it is read again, a print is made again. Where it stays,
the work stops and what may be wrong is named.
"""

from __future__ import annotations

import math
import tomllib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cache
from pathlib import Path
from typing import Final

from axle.advice.carrier_preload import (
    carrier_torque,
    carrier_trials,
    interference_now,
    torque_curve,
)
from axle.advice.held import APART, DepthHeld, depth_held, prints_here
from axle.advice.lash import OwnMove, backlash_around, expected, learned, locks, own_moves
from axle.advice.moves import Act, Move
from axle.advice.pinion_preload import trials_of
from axle.advice.prints import read_print
from axle.advice.state import AxleState, Taken
from axle.advice.verdict import signed
from axle.layout import Place
from axle.preload.curve import CARRIER_SLOPE, PINION_SLOPE, Curve, Slope, Trial, torque_at
from axle.preload.trials import contradictions
from axle.procedure.stations import kind_named, station_of
from axle.units import Dimension, Display

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


@dataclass(frozen=True)
class Suspect:
    """Something that may be wrong.

    :param key: as in ``suspects.toml``.
    :param words: what it is.
    :param look: what to look at.
    """

    key: str
    words: str
    look: str


@dataclass(frozen=True)
class Trouble:
    """Readings that do not fit.

    :param station: where it shows.
    :param words: what does not fit, one sentence.
    :param suspects: the likeliest first, as in ``suspects.toml``.
    :param again: readings to take again before anybody believes it; ("print", n) for the print.
    :param stops: whether the work stops where it stays.
    """

    station: str
    words: str
    suspects: tuple[str, ...]
    again: tuple[tuple[str, int], ...] = ()
    stops: bool = True


@cache
def suspects() -> Mapping[str, Suspect]:
    """Everything that can be suspected, by key.

    :source: ``suspects.toml``, common practice.

    >>> suspects()["bent_pinion"].words
    'a bent pinion'
    """
    with (Path(__file__).parent / "suspects.toml").open("rb") as file:
        return {key: Suspect(key, **row) for key, row in tomllib.load(file).items()}


def troubles(state: AxleState, display: Display) -> tuple[Trouble, ...]:
    """What does not fit, the gravest first.

    :param state: the axle.
    :param display: units of the words.
    :source: outliers at three standard deviations of what is held; usual causes by common practice.
    """
    held = depth_held(state)
    found = [
        _depth(state, held, display),
        _prints(state, held),
        _lash(state, display),
        _pinion(state, display),
        _carrier(state, display),
        _bent(state, display),
        _zero(state, display),
    ]
    muted = {name for name, s in state.signatures.items() if s.deviation}
    return tuple(t for t in found if t is not None and t.station not in muted)


def trouble_move(state: AxleState, found: tuple[Trouble, ...]) -> Move | None:
    """Question what does not fit, or stop.

    :param state: the axle.
    :param found: as :func:`troubles` gives them.
    :returns: nothing where nothing stops the work.
    :source: common practice: no change is made on a reading that nobody believes.
    """
    first = next((t for t in found if t.again or t.stops), None)
    if first is None:
        return None
    named = tuple(suspects()[key] for key in first.suspects)
    notes = tuple(f"{s.words[:1].upper()}{s.words[1:]}? {s.look}" for s in named)
    if first.again:
        if first.again[0][0] == "print":
            return Move(
                Act.PRINT,
                "Print again before anything is changed",
                first.station,
                why=(first.words,),
                notes=notes,
                suspects=first.suspects,
            )
        title = f"Read again: {kind_named(first.again[0][0]).title.lower()}"
        return Move(
            Act.READ,
            title,
            first.station,
            why=(first.words,),
            notes=notes,
            asks=first.again,
            again=True,
            suspects=first.suspects,
        )
    return Move(
        Act.LOOK,
        f"Stop: look for {named[0].words}",
        first.station,
        why=(first.words,),
        notes=(
            *notes,
            "No move of shims explains these readings. Put it right and read again, or "
            "sign it with a reason.",
        ),
        suspects=first.suspects,
    )


def _depth(state: AxleState, held: DepthHeld | None, display: Display) -> Trouble | None:
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
        return Trouble("pattern", words, ("slinger_out", "bad_print"), again)
    off = held.prints[0] - held.gauge[0]
    if held.apart < APART or abs(off) < _LAST_WORD:
        return None
    spread = math.hypot(held.gauge[1], held.prints[1])
    words = (
        f"The gauge puts the pinion {_deep(held.gauge[0], display)}, the prints "
        f"{_deep(held.prints[0], display)}: {held.apart:.1f} standard deviations apart."
    )
    keys = ["wrong_gauge", "unseated_cup", "bad_print"]
    mark = state.mark.value
    if off < -_SLINGER + spread:
        keys.insert(0, "slinger_out")
    if abs(mark) >= _MARKED and abs(off + 2 * mark) < 3 * spread:
        keys.insert(0, "wrong_mark")
    return Trouble("pattern", words, tuple(keys), again)


def _deep(error: float, display: Display) -> str:
    way = "too deep" if error > 0 else "too shallow"
    return f"{display.show(abs(error))} {display.length.symbol} {way}"


def _prints(state: AxleState, held: DepthHeld | None) -> Trouble | None:
    """Prints of two assemblies that do not follow the depth shim between them."""
    says = read_print(state)
    if says is not None and says.disagree and not says.stale:
        return Trouble("pattern", says.disagree, ("bad_print",), (("print", 1),))
    if held is None or held.misfit < _ODD_PRINT:
        return None
    depths = {p.settings.get(Place.DEPTH) for p in state.prints}
    again = (("print", 1),) if len(prints_here(state)) == 1 else ()
    words = f"A print lies {held.misfit:.1f} standard deviations off what these gears can show."
    if len(depths) > 1:
        words = "The prints do not follow the depth shim that was changed between them."
        return Trouble("pattern", words, ("mislabelled_shim", "unseated_cup", "bad_print"), again)
    newest = max(state.prints, key=lambda p: p.order)
    if any(flank.is_photo for flank in newest.flanks.values()):
        return Trouble("pattern", words, ("bad_print",), again, stops=False)
    return Trouble("pattern", words, ("bad_print", "wrong_cut", "bent_pinion"), again)


def _lash(state: AxleState, display: Display) -> Trouble | None:
    """The last move that no ratio of these gears explains; the second such one stops the work."""
    if state.school == "zero_float":
        return None  # by feel: how far the sides were from no play is not known well enough
    moves, found = own_moves(state), learned(state)
    if not moves:
        return None
    last, stays = moves[-1], _stays_behind(state, moves[-1])
    if not stays and last.seen not in found.odd:
        return None
    due = expected(state).opened_by(last.seen) if stays else found.ratios.opened_by(last.seen)
    words = (
        f"The last change moved the backlash by {signed(last.seen.opened, display)} "
        f"{display.length.symbol} where {signed(due, display)} was due."
    )
    read = state.around("backlash")
    again = tuple(("backlash", place) for place, t in read.items() if t.count == 1)
    keys = ["mislabelled_shim", "unseated_cup", "swapped_caps"]
    if not last.seen.deeper and state.layout.has_adjusters:
        keys = ["cup_left_behind", "swapped_caps"]
    return Trouble("backlash", words, tuple(keys), again, stops=len(found.odd) > 1)


def _stays_behind(state: AxleState, move: OwnMove) -> bool:
    """Whether an adjuster was turned and the backlash hardly followed: its cup may have stayed behind."""
    if not state.layout.has_adjusters or move.seen.deeper:
        return False
    due = expected(state).opened_by(move.seen)
    return abs(due) > 3 * move.seen.uncertainty and move.seen.opened / due < _FOLLOWS


def _pinion(state: AxleState, display: Display) -> Trouble | None:
    newest = state.latest("pinion_torque")
    if newest is None or newest.torque_conditions.seal:
        return None
    fell = _moved_while_read(newest, display)
    if fell is not None:
        return Trouble("pinion_preload", *fell)
    if not state.layout.has_preload_pack:
        return _sleeves(state)
    trials = trials_of(state)
    if trials.curve is None:
        return None
    odd = _odd(trials.used, trials.curve, PINION_SLOPE)
    again = (("pinion_torque", 1),) if newest.count == 1 else ()
    if odd:
        keys = ("dry_bearing", "mislabelled_shim", "unseated_cup", "wrench_not_zero")
        return Trouble("pinion_preload", odd, keys, again)
    steep = _steepness(trials.curve, PINION_SLOPE)
    if any(t.torque for t in trials.used) and abs(steep) > _STEEP:
        return Trouble("pinion_preload", *_steep_words(steep, "pinion"), again)
    return None


def _sleeves(state: AxleState) -> Trouble | None:
    """Two sleeves spent one after the other: it was not the hand."""
    limits, newest = state.preload_range(), {}
    for reading in sorted(state.taken, key=lambda t: t.order):
        if reading.kind == "pinion_torque" and not reading.torque_conditions.seal:
            newest[reading.settings.get(Place.PRELOAD, 0)] = reading.value
    last = list(newest.values())[-2:]
    if limits is None or len(last) < _SPENT or any(limits.side(value) != "over" for value in last):
        return None
    words = "Two sleeves in a row went over the range."
    return Trouble("pinion_preload", words, ("unseated_cup", "dry_bearing", "wrench_not_zero"))


def _moved_while_read(reading: Taken, display: Display) -> tuple[str, tuple[str, ...]] | None:
    """A torque that reads otherwise the second time on the same packs."""
    least = max(_SCATTERS * reading.value, 3 * (reading.step or 0.0565), 0.2)
    if abs(reading.apart) < least:
        return None
    by = display.show(abs(reading.apart), Dimension.TORQUE)
    fell = reading.apart < 0
    words = f"It read {by} {display.torque.symbol} {'less' if fell else 'more'} when it was read again."
    keys = ("unseated_cup", "dry_bearing") if fell else ("dry_bearing", "unseated_cup")
    return words, keys


def _odd(trials: Sequence[Trial], curve: Curve, prior: Slope) -> str:
    """Why trials cannot all be right: a tighter pack that reads looser, or one far off all the rest."""
    turned = next((w for w in contradictions(trials, curve, prior) if w.startswith("Two trials")), "")
    for trial in trials:
        if trial.torque is None or trial.spread is None:
            continue
        due = curve.torque(trial.setting)
        if abs(trial.torque - due) > max(_FAR_OFF * trial.spread, _FAR_SHARE * due):
            high = "tighter" if trial.torque > due else "looser"
            return (
                f"One trial reads {high} than the others allow: look for dirt, a seal left in, a nut not "
                "at its torque or a piece left out."
            )
    # Torques no further apart than they scatter turn nothing round.
    torques = [t.torque for t in trials if t.torque is not None]
    scatter = _FAR_OFF * max((t.spread or 0.0 for t in trials), default=0.0)
    alike = bool(torques) and max(torques) - min(torques) <= scatter
    return "" if alike else turned


def _steepness(curve: Curve, prior: Slope) -> float:
    return math.log(curve.coefficient / prior.coefficient) / math.log(prior.factor)


def _steep_words(steep: float, part: str) -> tuple[str, tuple[str, ...]]:
    if steep > 0:
        keys = ("dry_bearing", "wrench_not_zero") if part == "pinion" else ("swapped_caps", "dry_bearing")
        return f"The {part}'s torque is far higher than bearings so tight turn at.", keys
    keys = ("unseated_cup", "mislabelled_shim")
    return f"The {part}'s torque is far lower than bearings so tight turn at.", keys


def _carrier(state: AxleState, display: Display) -> Trouble | None:
    total = state.latest("total_torque")
    if total is not None:
        fell = _moved_while_read(total, display)
        if fell is not None:
            return Trouble("carrier_preload", *fell)
    found, curve, trials = carrier_torque(state), torque_curve(state), carrier_trials(state)
    if found is None:
        return None
    torque, unsure, behind = found
    again = ((behind[0].kind, 1),) if behind[0].count == 1 else ()
    if torque < -3 * unsure:
        words = "The pinion alone drags more than the whole axle does: one of the two is wrong."
        return Trouble("carrier_preload", words, ("unseated_cup", "dry_bearing", "wrench_not_zero"), again)
    pinched = _by_interference(state, trials)
    if pinched is not None:
        return replace(pinched, again=again)
    if curve is None:
        return None
    odd = _odd(trials, curve, CARRIER_SLOPE)
    if odd and len(trials) > 1:
        keys = ("swapped_caps", "mislabelled_shim", "unseated_cup")
        return Trouble("carrier_preload", odd, keys, again)
    steep = _steepness(curve, CARRIER_SLOPE)
    if abs(steep) > _STEEP:
        return Trouble("carrier_preload", *_steep_words(steep, "carrier"), again)
    return None


def _bent(state: AxleState, display: Display) -> Trouble | None:
    """Backlash that rises and falls by more than the ring gear's own runout brings."""
    around, limits = backlash_around(state), state.sheet.backlash_limits()
    runout = state.latest("ring_runout")
    if around is None or limits is None or limits.allows_spread(around.spread):
        return None
    if locks(around.smallest):
        return None  # how tight the tightest place is nobody knows: the spread is none
    explained = learned(state).ratios.per_ring * runout.value if runout else 0.0
    if runout is None or around.spread <= explained + _UNEXPLAINED:
        return None
    words = (
        f"The backlash varies by {display.show(around.spread)} {display.length.symbol} around the ring; "
        f"its runout explains {display.show(explained)}."
    )
    return Trouble("backlash", words, ("bent_pinion", "swapped_caps"))


def _zero(state: AxleState, display: Display) -> Trouble | None:
    """A wrench that shows one torque one way and another the other: its zero, or bearings that scatter."""
    for kind in ("pinion_torque", "total_torque"):
        newest = state.latest(kind)
        if newest is None or not newest.offs or max(abs(off) for off in newest.offs) < _NOT_ZERO:
            continue
        by = display.show(max(abs(off) for off in newest.offs), Dimension.TORQUE)
        words = f"One way reads {by} {display.torque.symbol} more than the mean of both."
        if len(newest.offs) == 1:
            asks = ((kind, 1),)
            return Trouble(station_of(kind), words, ("wrench_not_zero", "dry_bearing"), asks, stops=False)
        if max(newest.offs) - min(newest.offs) > _NOT_ZERO and min(map(abs, newest.offs)) < _NOT_ZERO:
            words = "Read both ways and again, the torque does not come back: it scatters."
            return Trouble("pinion_preload", words, ("dry_bearing", "wrench_not_zero"))
    return None


def _by_interference(state: AxleState, trials: Sequence[Trial]) -> Trouble | None:
    """A torque of the carrier that the interference, where it is known, does not explain."""
    known, newest = interference_now(state), trials[-1] if trials else None
    if known is None or newest is None or newest.torque is None:
        return None
    at, u, _ = known
    torque, unsure = newest.torque, newest.spread or 0.0
    due = torque_at(at, CARRIER_SLOPE.coefficient)
    per = torque_at(max(at, 0.0) + 0.01, CARRIER_SLOPE.coefficient) - due
    spread = math.hypot(due * math.log(CARRIER_SLOPE.factor), per / 0.01 * u, unsure, 0.1)
    if torque < due + _STEEP * spread:
        return None
    words = "The carrier turns far harder than its packs, so far over zero play, make it."
    return Trouble("carrier_preload", words, ("swapped_caps", "dry_bearing"))
