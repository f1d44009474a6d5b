"""Runs of runout readings on one axle, and which of its parts they blame."""

from __future__ import annotations

import cmath
import math
from dataclasses import dataclass
from enum import StrEnum
from typing import TYPE_CHECKING

from axle.measure.range import Range
from axle.measure.units import Display, show
from axle.procedure.names import KindName
from axle.runout import Clocking, Runout, Split, aliased, best, clockings, split
from axle.state.kept import kept
from axle.state.reading import Run

if TYPE_CHECKING:
    from axle.state.axle_state import AxleState

# Vectors of two clockings tell gear from flange only where they differ by more than this many times
# their own uncertainty.
_TELLING = 2.0
_BURR_SHARE = 0.5


class RunoutAction(StrEnum):
    """What the runs ask for next, or the part that they blame."""

    PLAY = "play"
    READ = "read"
    GOOD = "good"
    DIRT = "dirt"
    WARP = "warp"
    FLANGE = "flange"
    TURN = "turn"
    CLOCK = "clock"
    CARRIER = "carrier"
    GEAR = "gear"


@dataclass(frozen=True)
class Diagnosis:
    """Which part the runs blame, and what to do about it.

    :param act: what to do.
    :param title: what to do next.
    :param why: numbered lines that lead there.
    :param told: gear and flange told apart, where two clockings allow it.
    :param positions: what to expect at every bolt position, as seen from the gear's place now.
    :param best: the best of them.
    """

    act: RunoutAction
    title: str
    why: tuple[str, ...]
    told: Split | None = None
    positions: tuple[Clocking, ...] = ()
    best: Clocking | None = None


def newest(state: AxleState, part: str) -> Run | None:
    """The newest run on a part, or nothing.

    :param state: the axle.
    :param part: "ring" or "flange".
    :source: the job's runs.
    """
    return max((run for run in state.runs if run.part == part), key=lambda run: run.order, default=None)


def tell_apart(state: AxleState) -> Split | None:
    """Gear and flange told apart by the newest run and the newest one at another clocking.

    :param state: the axle.
    :returns: vectors as seen from the gear's place now, or nothing where one clocking alone was read.
    :source: :func:`axle.runout.split`.
    """
    now = newest(state, "ring")
    if now is None or now.result.order(1) is None:
        return None
    bolts = state.ring_bolts
    others = [
        run
        for run in state.runs
        if run.part == "ring" and (run.clock - now.clock) % bolts and run.result.order(1) is not None
    ]
    if not others:
        return None
    # Of several, the one that was turned nearest to half a turn tells the most.
    other = max(others, key=lambda r: (abs(math.sin(math.pi * (r.clock - now.clock) / bolts)), r.order))
    turned = math.tau * ((other.clock - now.clock) % bolts) / bolts
    first, second = now.result.order(1), other.result.order(1)
    if first is None or second is None:
        return None
    u = max(now.vector_uncertainty, other.vector_uncertainty)
    return split(first.vector, second.vector, turned, reading=u)


@kept
def diagnose(state: AxleState, display: Display) -> Diagnosis:  # noqa: PLR0911 - a ladder of causes, in the order of the trade
    """Lead from the runs to the part that is to blame: burr or chip, clocking, carrier, gear.

    :param state: the axle.
    :param display: units of the words.
    :source: order of causes by common practice; limits of the job's sheet.
    """
    unit = display.length
    play = state.latest(KindName.ARRIVAL_SIDE_PLAY)
    if play is not None and play.value > 0 and not state.play_accepted:
        line = f"Side play {show(play.value, unit)} {unit.symbol}: the carrier wanders as it turns."
        return Diagnosis(RunoutAction.PLAY, "Take the side play out first", (line,))
    ring, flange = newest(state, "ring"), newest(state, "flange")
    if ring is None:
        if flange is None:
            return Diagnosis(RunoutAction.READ, "Read around the ring gear", ("No run is entered yet.",))
        return _flange_alone(state, flange, display)
    run = ring.result
    limit = state.sheet.single("ring_runout")
    why = [_measured("Ring gear", run, display)]
    if limit is not None:
        source = state.sheet.source("ring_runout")
        why.append(f"Limit {show(limit, unit)} {unit.symbol} ({source}).")
    if run.doubts:
        places = ", ".join(f"{d.place} ({show(d.off, unit, sign=True)})" for d in run.doubts)
        why.append(f"Does not belong to the rest: place {places} {unit.symbol}.")
    if limit is None or Range(0.0, limit).holds(run.clean):
        if limit is not None and not Range(0.0, limit).holds(run.total):
            why.append(
                f"Without it {show(run.clean, unit)} {unit.symbol}: in range. That is dirt or a nick."
            )
            return Diagnosis(
                RunoutAction.DIRT, "Clean, take off the burr, read that place again", tuple(why)
            )
        return Diagnosis(RunoutAction.GOOD, "Runout in range: leave the clocking as it is", tuple(why))
    first, second = run.order(1), run.order(2)
    if first is None or second is None:
        why.append("Fewer than 8 places give no angle.")
        return Diagnosis(RunoutAction.READ, "Read around at 8 places or more", tuple(why))
    if run.doubts and max(abs(d.off) for d in run.doubts) > _BURR_SHARE * 2 * first.amplitude:
        return Diagnosis(RunoutAction.DIRT, "Clean, take off the burr, read again", tuple(why))
    if second.amplitude > first.amplitude:
        why.append(
            f"It rises twice a turn ({show(2 * second.amplitude, unit)} against "
            f"{show(2 * first.amplitude, unit)} {unit.symbol} once a turn): a warp, not cured by clocking."
        )
        return Diagnosis(
            RunoutAction.WARP, "Loosen the bolts, seat the gear again evenly, read again", tuple(why)
        )
    return _by_two_clockings(state, flange, why=why, limit=limit, display=display)


def _by_two_clockings(
    state: AxleState, flange: Run | None, why: list[str], limit: float, display: Display
) -> Diagnosis:
    unit = display.length
    told = tell_apart(state)
    if told is None:
        lines = (
            *why,
            "Once a turn: a burr or chip between the faces, the clocking, the carrier, or the gear, in "
            "that order.",
        )
        half = state.half_turn
        return Diagnosis(
            RunoutAction.TURN,
            f"File and clean the faces; if it stays, turn the gear {half} holes and read again",
            lines,
        )
    positions = clockings(told, state.ring_bolts)
    chosen = best(positions)
    why.append(
        f"Two clockings: gear {show(2 * abs(told.gear), unit)}, flange {show(2 * abs(told.flange), unit)} "
        f"± {show(2 * told.uncertainty, unit)} {unit.symbol} of indicated runout each."
    )
    now = positions[0].total
    away = holes_words(chosen.holes, state.ring_bolts)
    why.append(
        f"Best of {state.ring_bolts} positions: {away}, {show(now, unit)} → {show(chosen.total, unit)} ± "
        f"{show(chosen.uncertainty, unit)} {unit.symbol}."
    )
    flange_limit = state.sheet.single("flange_runout")
    if (
        chosen.holes
        and Range(0.0, limit).holds(chosen.total)
        and now - chosen.total > _TELLING * chosen.uncertainty
    ):
        title = f"Clock the gear {away}: {show(now, unit)} → {show(chosen.total, unit)} {unit.symbol}"
        return Diagnosis(
            RunoutAction.CLOCK, title, why=tuple(why), told=told, positions=positions, best=chosen
        )
    carrier = 2 * abs(told.flange)
    measured = flange.result.clean if flange is not None else carrier
    over = flange_limit is not None and not Range(0.0, flange_limit).holds(measured)
    if over or carrier >= 2 * abs(told.gear):
        why.append("No position brings it in, and the flange carries the larger part.")
        if flange is not None and flange_limit is not None:
            why.append(
                f"Flange alone {show(measured, unit)} {unit.symbol}, limit {show(flange_limit, unit)}."
            )
        return Diagnosis(
            RunoutAction.CARRIER,
            "The carrier is to blame: file its flange, else replace it",
            why=tuple(why),
            told=told,
            positions=positions,
            best=chosen,
        )
    why.append("No position brings it in, and the part that goes round with the gear is the larger.")
    return Diagnosis(
        RunoutAction.GEAR,
        "The gear is to blame, last of all: replace the matched pair",
        why=tuple(why),
        told=told,
        positions=positions,
        best=chosen,
    )


def _flange_alone(state: AxleState, flange: Run, display: Display) -> Diagnosis:
    unit = display.length
    limit = state.sheet.single("flange_runout")
    why = [_measured("Flange", flange.result, display)]
    if limit is not None:
        why.append(f"Limit {show(limit, unit)} {unit.symbol} ({state.sheet.source('flange_runout')}).")
    if limit is None or Range(0.0, limit).holds(flange.result.clean):
        return Diagnosis(
            RunoutAction.GOOD, "Flange in range: fit the ring gear and read around it", tuple(why)
        )
    why.append("A burr or chip under a bearing cup or on the face reads the same: file and repeat first.")
    return Diagnosis(RunoutAction.FLANGE, "File and clean the flange, read it again", tuple(why))


def _measured(part: str, run: Runout, display: Display) -> str:
    unit = display.length
    turns = f", mean of {run.turns} turns" if run.turns > 1 else ""
    first = run.order(1)
    angle = ""
    if first is not None:
        angle = (
            f"; once a turn {show(2 * first.amplitude, unit)} with its high spot at "
            f"{first.degrees:.0f}°, place {run.high_place}"
        )
    return f"{part}: {show(run.total, unit)} {unit.symbol} indicated at {run.places} places{turns}{angle}."


def alias_words(ratio: float, run: Runout) -> str:
    """Say where a pinion's own runout would hide at this number of places, or nothing.

    :param ratio: N₂/N₁, above 1.
    :param run: the run.
    :source: :func:`axle.runout.aliased`.
    """
    seen_as = aliased(ratio, run.places)
    if seen_as is None:
        return ""
    least = math.ceil(2 * ratio)
    return (
        f"The pinion's own runout comes {ratio:.2f} times a turn; at {run.places} places it shows as "
        f"{seen_as:.1f} times a turn. Read at {least} places or more to see it."
    )


def position_of(told: Split, positions: tuple[Clocking, ...], holes: int) -> complex:
    """The vector to expect at a bolt position, for a drawing.

    :param told: gear and flange told apart.
    :param positions: every position.
    :param holes: holes on from the gear's place now.
    :source: c + g·e^{iα}.
    """
    return told.flange + told.gear * cmath.exp(1j * math.tau * holes / len(positions))


def holes_words(holes: int, bolts: int) -> str:
    """Say how far to turn the gear, with its direction, the short way round.

    :param holes: bolt holes on, 0 to n − 1.
    :param bolts: n, number of bolts.
    :source: common practice.

    >>> holes_words(8, 10)
    'by 2 holes against the way the places count'
    """
    if not holes:
        return "where it is"
    if holes <= bolts // 2:
        return f"by {holes} hole{'s' if holes > 1 else ''} the way the places count"
    back = bolts - holes
    return f"by {back} hole{'s' if back > 1 else ''} against the way the places count"
