"""Judgement over the whole axle: question, print, change or leave, once it is together."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from math import prod
from typing import Final

from axle.decision.best_change import best_change
from axle.decision.candidates import SET, Candidate, candidates, is_due
from axle.decision.costs import minutes, reading_minutes
from axle.decision.fault_checks import inconsistencies
from axle.decision.faults import Inconsistency, fault_move, suspected
from axle.decision.first_load import LOCKED, last_check
from axle.decision.move import Act, Move
from axle.decision.probability import InRange, in_range_probabilities
from axle.decision.remeasure import (
    recheck_outlier,
    recheck_place,
    recheck_variation,
    reduce_variance,
)
from axle.decision.value_of_information import BestMeasurement, best_measurement
from axle.layout import Place
from axle.measure.units import Display, percent
from axle.procedure.names import StationName
from axle.procedure.staleness import stale_because
from axle.procedure.stations import kind_named, stations
from axle.state.axle_state import AxleState
from axle.stations.backlash import backlash_now
from axle.stations.depth_posterior import depth_posterior
from axle.stations.result import Outcome
from axle.stations.station_state import Standing, Status, in_hand
from axle.stations.zero_play import sides_are_set

# Under the chance at which it may be signed a change is made that is surer by so much. A first build is
# meant to be changed once; after that a strip-down wants a better reason.
_GAIN_FIRST: Final = 0.05
_GAIN: Final = 0.12
# And of an axle that is likelier in range than not a change has to take so much of the doubt away: else it
# is as doubtful as before.
_MORE_LIKELY_IN: Final = 0.5
_OF_THE_DOUBT: Final = 0.65
# What a reading has to settle at the least to be asked for before a signature that is not sure.
_LAST_WORTH: Final = 0.03
# What else is in range is so sure before one question is worth a reading of its own.
_REST: Final = 0.6
_ASKED: Final = 0.1
# A change that costs no more than this [min] is as good as free; a backlash further out than this [mm] is
# brought near first: 20 thou.
_FREE: Final = 15.0
_HOUR: Final = 60.0
_FAR_OUT: Final = 0.508


def assembled_policy(state: AxleState, display: Display, standings: Mapping[str, Standing]) -> Move | None:
    """The move that the whole of the axle asks for, or nothing where the order of the work decides.

    :param state: the axle.
    :param display: units of the words.
    :param standings: where it stands.
    :source: models of the project: state, update, search; common practice for what is questioned.
    """
    if in_hand(standings) == StationName.SHEET and standings[StationName.SHEET].is_done:
        return None
    odd = recheck_place(state)
    if odd is not None:
        return odd
    wide = _spread_alone(state, standings)
    if wide is not None and not inconsistencies(state, display):
        return recheck_variation(state, wide)
    if _by_its_own(state, standings):
        return None
    found = inconsistencies(state, display)
    stopped = fault_move(state, found)
    if not is_together(state, standings):
        return stopped
    if stopped is not None:
        return _with_change(state, display, standings, stopped)
    if all(standings[name].is_done for name in SET if name in standings):
        return _with_doubts(_settle(state, display, standings), found)
    return _with_doubts(_change(state, display, standings) if is_due(standings) else None, found)


def _with_doubts(move: Move | None, found: tuple[Inconsistency, ...]) -> Move | None:
    """What does not fit and does not stop the work is named beside the move."""
    if move is None or not found:
        return move
    named = tuple(key for trouble in found for key in trouble.fault_hypotheses)
    words = tuple(f"{trouble.words} {suspected(trouble)}" for trouble in found)
    return replace(move, notes=(*move.notes, *words), faults=(*move.faults, *named))


def _with_change(
    state: AxleState, display: Display, standings: Mapping[str, Standing], asked: Move
) -> Move:
    """A reading that is asked for again, with the change that could be made on what was read so far."""
    if asked.act not in (Act.READ, Act.PRINT) or not is_due(standings):
        return asked
    move = best_change(
        state,
        display,
        standings=standings,
        station=_worst(standings, in_range_probabilities(state)),
        found=candidates(state, display, standings),
    )
    return replace(asked, then=move) if move.act is Act.CHANGE else asked


def is_together(state: AxleState, standings: Mapping[str, Standing]) -> bool:
    """Say whether pinion and carrier are in and the backlash is read as they are.

    :param state: the axle.
    :param standings: where it stands.
    :source: common practice.
    """
    pinion_in = state.setting(Place.DEPTH) or Place.DEPTH in state.fixed
    if not (pinion_in and sides_are_set(state)) or backlash_now(state) is None:
        return False
    pinion = standings.get(StationName.PINION_PRELOAD)
    return pinion is None or pinion.status is Status.NOT_PART or pinion.result is not None


def _spread_alone(state: AxleState, standings: Mapping[str, Standing]) -> float | None:
    """By how much the spread of the backlash is over, where nothing else is out [mm]; else nothing."""
    out = [name for name in SET if name in standings and standings[name].status is Status.OUT]
    lash, limits = backlash_now(state), state.sheet.backlash_limits()
    if out != ["backlash"] or lash is None or limits is None:
        return None
    result = standings[StationName.BACKLASH].result
    if result is None or result.outcome is not Outcome.SPREAD_OVER:
        return None
    return lash.around.variation - limits.variation


def _by_its_own(state: AxleState, standings: Mapping[str, Standing]) -> bool:
    """Stations that settle something first: a depth that cannot be, a sleeve on its way."""
    depth, pinion = standings.get(StationName.DEPTH), standings.get(StationName.PINION_PRELOAD)
    if depth is not None and depth.status is Status.OUT and depth.result is not None:
        return depth.result.value is None and in_hand(standings) == StationName.DEPTH
    bitten = not state.layout.has_preload_pack
    return bitten and pinion is not None and pinion.status is Status.OUT


def _change(state: AxleState, display: Display, standings: Mapping[str, Standing]) -> Move:
    """Something is out of range: print or read again where that is worth it, else the best option.

    What is read or printed first never hides the change: it goes along, and can be made at once.
    """
    now = in_range_probabilities(state)
    found = candidates(state, display, standings)
    move = best_change(state, display, standings=standings, station=_worst(standings, now), found=found)
    first = _first(state, standings, now, found[0])
    if first is None or (first.act is Act.PRINT and move.act is not Act.CHANGE):
        return move
    if move.act is not Act.CHANGE:
        return first
    return replace(first, then=move, why=(*first.why, *move.why))


def _first(
    state: AxleState, standings: Mapping[str, Standing], now: InRange, best: Candidate
) -> Move | None:
    """What is read or printed before a change, where it saves more than it costs."""
    places = {swap.place for swap in best.swaps}
    if _print_first(state, standings, now, places):
        return _print_too(standings)
    asked = best_measurement(state, depth_posterior(state), unsigned(now, standings))
    if asked is not None and _rest_is_fine(asked, now) and _pays(state, asked, places):
        return _read_again(asked, now)
    after = state.settings.changed(best.changes)
    return (
        reduce_variance(state, after, best.in_range.joint)
        if best.swaps
        else recheck_outlier(state, standings, now)
    )


def _pays(state: AxleState, asked: BestMeasurement, places: set[Place]) -> bool:
    """Whether one more reading costs less than what it saves of the change that it may spare."""
    kind = "print" if asked.asks[0][0] == "print" else "read"
    return not places or asked.resolution_probability * minutes(state.layout, places) > reading_minutes(
        kind
    )


def _settle(state: AxleState, display: Display, standings: Mapping[str, Standing]) -> Move | None:
    """Every reading is in range: whether the axle is surely so, and if not, what would make it."""
    now = unsigned(in_range_probabilities(state), standings)
    held = depth_posterior(state)
    asked = best_measurement(state, held, now)
    if asked is not None:
        return _read_again(asked, now)
    last = last_check(state)
    if last is not None:
        return last
    if now.joint >= state.sign_at:
        return None
    found = candidates(state, display, standings)
    gain = _GAIN_FIRST if state.assembly == 1 else _GAIN
    if now.joint > _MORE_LIKELY_IN:
        gain = max(gain, _OF_THE_DOUBT * (1 - now.joint))
    change = None
    if found[0].swaps and found[0].in_range.joint - now.joint >= gain:
        change = best_change(
            state, display, standings=standings, station=_worst(standings, now), found=found
        )
    # Under the limit nobody signs before the one reading is taken that would settle it, while there is one.
    asked = best_measurement(state, held, now, least=_LAST_WORTH)
    if asked is not None:
        move = _read_again(asked, now)
        return replace(move, then=change if change is not None and change.act is Act.CHANGE else None)
    if change is None or change.act is not Act.CHANGE:
        return None
    note = f"Every reading is in range, but it is only {percent(now.joint)} sure that the axle is."
    return replace(change, notes=(note, *change.notes))


def unsigned(now: InRange, standings: Mapping[str, Standing]) -> InRange:
    """Chances without the stations that somebody signed for out of range.

    :param now: chances by station.
    :param standings: where the axle stands.
    :source: common practice: a deviation that is signed for is nobody's question any more.
    """
    signed = {name for name, s in standings.items() if s.signature is not None and s.signature.deviation}
    if "pattern" in signed:
        signed.add("depth")
    return now.without(signed)


def _print_first(
    state: AxleState, standings: Mapping[str, Standing], now: InRange, places: set[Place]
) -> bool:
    """Whether a print, made now, could save a strip-down: the depth is not sure, and the gears turn."""
    lash, limits = backlash_now(state), state.sheet.backlash_limits()
    if lash is None or lash.around.smallest < LOCKED or "pattern" not in standings:
        return False
    far = limits is not None and limits.range.miss(lash.around.smallest) > _FAR_OUT
    if far and minutes(state.layout, places) <= _FREE:
        # A change of minutes is made first where the backlash is so far out that a print says little.
        return False
    # A print costs its minutes, and saves a strip-down as often as the depth proves wrong.
    saved = max(minutes(state.layout, (Place.DEPTH, Place.RING, Place.FAR)), _HOUR)
    if (1 - now.parts.get("depth", 0.0)) * saved <= reading_minutes("print"):
        return False
    newest = max(state.prints, key=lambda p: p.order, default=None)
    return newest is None or bool(
        len(newest.flanks) < 2
        or stale_because(StationName.PATTERN, state.layout, newest.settings, state.settings)
    )


def _print_too(standings: Mapping[str, Standing]) -> Move:
    missing = standings[StationName.PATTERN].missing
    flank = "drive" if not missing or missing[0].place == 1 else "coast"
    return Move.make_print(
        f"Mark the {flank} flank too, before it comes apart",
        StationName.PATTERN,
        why=(
            "The depth is not sure yet. A print now, at whatever backlash there is, lets one strip-down "
            "set depth and backlash together.",
        ),
        notes=("Clean teeth, thin even compound, load by hand or brake, turn both ways.",),
    )


def _part_of(asked: BestMeasurement) -> str:
    return "depth" if asked.station == StationName.PATTERN else asked.station


def _rest_is_fine(asked: BestMeasurement, now: InRange) -> bool:
    """Whether the open question alone keeps the axle from being done."""
    name = _part_of(asked)
    rest = prod(chance for station, chance in now.parts.items() if station != name)
    return rest > _REST and now.parts.get(name, 0.0) > _ASKED


def _read_again(asked: BestMeasurement, now: InRange) -> Move:
    sure, settles = percent(now.parts[_part_of(asked)]), percent(asked.resolution_probability)
    what = stations()[asked.station].title.lower()
    why = (
        f"It is {sure} sure that {what} is in range: one more reading settles it with {settles}, and is "
        "cheaper than a strip-down.",
    )
    if asked.asks[0][0] == "print":
        return Move.make_print("Print once more before anything is decided", asked.station, why=why)
    title = kind_named(asked.asks[0][0]).title.lower()
    return Move.read(f"Read again: {title}", asked.station, why=why, asks=asked.asks, again=True)


def _worst(standings: Mapping[str, Standing], now: InRange) -> str:
    """The station at which the move is shown: the first that is out, else the least sure."""
    for name in SET:
        if name in standings and not standings[name].is_done:
            return name
    least = min(now.parts, key=lambda name: now.parts[name], default="pattern")
    return "pattern" if least == "depth" else least
