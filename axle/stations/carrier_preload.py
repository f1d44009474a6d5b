"""What the readings of the carrier's preload come to, by the school that the job follows."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import Final

from axle.carrier.schools import Usual, usual_interference
from axle.carrier.torque import window_at_pinion
from axle.depth.result import chance_within
from axle.layout import CarrierBy
from axle.measure.range import Range
from axle.measure.uncertainty import rectangular
from axle.measure.units import Dimension, Display, percent
from axle.procedure.conditions import conditions_of
from axle.procedure.conditions_in_words import unlike
from axle.procedure.names import KindName, StationName
from axle.procedure.stations import kind_named
from axle.state.axle_state import AxleState
from axle.state.kept import kept
from axle.stations.carrier_torque import carrier_torque
from axle.stations.method import chosen_method
from axle.stations.preload_readings import CARRIER, IN_BY_ALL, chance_of_torque, torque_now
from axle.stations.result import Outcome, Result, against, end_play, torque_result
from axle.stations.zero_play import (
    ZeroPlay,
    interference_setting,
    per_hole,
    sides_are_set,
    sum_of_sides,
    zero_play,
)

# Ways that set an interference and judge the packs by it.
BY_INTERFERENCE: Final = ("packs", "feelers", "gaps")
BY_HAND: Final = ("taps", "pull")
# A float this small cannot be told from none on a bench [mm]: a thou, common practice.
_FLOAT: Final = 0.0254
_PACKS_U: Final = 0.005
_LIGHT_TAPS: Final = 3


@dataclass(frozen=True)
class WantedInterference:
    """The interference that is asked for.

    :param limits: both sides together [mm].
    :param source: where it comes from, in words.
    :param kept: share of an adjuster's travel that the bearings keep as preload; 1 for packs.
    """

    limits: Range
    source: str
    kept: float = 1.0


@kept
def wanted_interference(state: AxleState) -> WantedInterference | None:
    """What the sheet, or else the school, asks for as interference.

    :param state: the axle.
    :returns: nothing for a school that reads torque or feel, on a sheet that gives none.
    :source: the job's sheet; ``schools.toml``.
    """
    kept = 1.0
    stated = state.sheet.single("preload_per_hole")
    if state.school == "holes" and stated:
        kept = stated / per_hole(state)
    own = state.sheet.range("carrier_interference")
    if own is not None:
        return WantedInterference(_zero_float(own), state.sheet.source("carrier_interference"), kept)
    usual = _usual(state)
    return (
        WantedInterference(_zero_float(Range(usual.low, usual.high)), usual.source, kept) if usual else None
    )


def is_set_by_torque(state: AxleState) -> bool:
    """Say whether the carrier's preload is held to the sheet's torque, and not to an interference.

    :param state: the axle.
    :source: the job's sheet; :func:`wanted_interference`.
    """
    return state.sheet.range("carrier_preload") is not None and wanted_interference(state) is None


def _usual(state: AxleState) -> Usual | None:
    """What the layout, the school or the chosen way asks for; nothing where torque or feel is the measure.

    The figure of packs that are driven in belongs to the schools that drive them in, and to no other.
    """
    table, method = usual_interference(), chosen_method(state, StationName.CARRIER_PRELOAD).name
    own = table.get(state.school)
    if state.layout.carrier_by is CarrierBy.COVERS:
        return table["cover_loose"] if own is not None or method in BY_INTERFERENCE else None
    if own is not None or method not in BY_INTERFERENCE:
        return own
    if state.layout.has_adjusters:
        return table["holes"]
    return table.get(method)


def _zero_float(limits: Range) -> Range:
    """No preload and no float: as much either way as cannot be told from none on a bench."""
    if limits.target == 0:
        return Range(-limits.high, limits.high, 0.0)
    return limits if limits.high else Range(-_FLOAT / 2, _FLOAT / 2, 0.0)


def _sets_interference(state: AxleState) -> bool:
    return chosen_method(state, StationName.CARRIER_PRELOAD).name in BY_INTERFERENCE


@kept
def interference_now(state: AxleState) -> tuple[float, float, ZeroPlay] | None:
    """Interference of what is fitted, with its standard uncertainty [mm]; below zero it is play.

    :param state: the axle.
    :returns: nothing before zero play is known and both sides are set.
    :source: sum of both sides less the sum at zero play.
    """
    zero = zero_play(state)
    if zero is None or not sides_are_set(state):
        return None
    return (
        interference_setting(state, state.settings) - zero.interference_setting,
        math.hypot(zero.uncertainty, _PACKS_U),
        zero,
    )


def carrier_verdict(state: AxleState, display: Display) -> Result | None:
    """Judge the carrier's preload by the chosen way.

    :param state: the axle.
    :param display: units of the words.
    :source: limits of the job's sheet; ``schools.toml``.
    """
    method = chosen_method(state, StationName.CARRIER_PRELOAD).name
    if method in BY_INTERFERENCE:
        return _by_interference(state, display)
    if method == "taps":
        return _by_feel(state)
    if method == "pull":
        return _by_pull(state, display)
    if method == "play" and state.school == "zero_float":
        return _by_float(state, display)
    return _by_torque(state, display)


def _by_interference(state: AxleState, display: Display) -> Result | None:
    zero = zero_play(state)
    if zero is None:
        return None
    unit = display.length.symbol
    wanted = wanted_interference(state)
    found = interference_now(state)
    line = f"Zero play at {display.show(zero.thickness)} {unit} in both sides together ({zero.by})."
    if wanted is None and found is not None:
        return _torque_decides(state, display, found[0], line)
    if found is None or wanted is None:
        return Result(
            None,
            Dimension.LENGTH,
            limits=wanted.limits if wanted else None,
            outcome=Outcome.FIT_BOTH_SIDES,
            why=(line,),
        )
    interference, u, _ = found
    now = display.show(sum_of_sides(state, state.settings))
    value = interference * wanted.kept
    if interference < 0 and not wanted.limits.holds(value):
        why = f"Now {now} {unit}: {display.show(-interference)} {unit} of play is left."
        return Result(
            -interference,
            Dimension.LENGTH,
            limits=Range(0.0, 0.0),
            outcome=Outcome.END_PLAY,
            why=(line, why),
            uncertainty=u,
        )
    limits = wanted.limits
    lines = [
        line,
        f"Now {now} {unit}: interference {display.show(interference)} ± {display.show(u)} {unit}.",
    ]
    if wanted.kept != 1.0:
        lines.append(
            f"Of an adjuster's travel the bearings keep {percent(wanted.kept)} as preload, by the sheet: "
            f"{display.show(value)} {unit}."
        )
    lines.append(
        against(limits, value, source=wanted.source, unit=unit, display=display, dimension=Dimension.LENGTH)
    )
    outcome = Outcome.of_preload(limits.side(value))
    return Result(value, Dimension.LENGTH, limits=limits, outcome=outcome, why=tuple(lines), uncertainty=u)


def _torque_decides(state: AxleState, display: Display, interference: float, line: str) -> Result:
    """Packs over zero play where nobody says how much: the sheet's torque decides, else it is asked."""
    unit = display.length.symbol
    over = "over zero play" if interference >= 0 else "of play"
    how = f"Now {display.show(abs(interference))} {unit} {over}."
    if state.sheet.range("carrier_preload") is None:
        why = (
            "Neither the sheet nor this school says how much interference: choose a school that does, or "
            "give the sheet a figure."
        )
        return Result.undecided(Outcome.HOW_MUCH, (line, how, why))
    read = _by_torque(state, display)
    if read is None or interference < 0:
        if interference < 0:
            return end_play(-interference, display, "Play is left: it wants packs for its torque.")
        why = "This school reads torque: the sheet's range decides, not the packs."
        return Result.undecided(Outcome.READ_TORQUE, (line, how, why))
    return replace(read, why=(line, how, *read.why))


def _by_feel(state: AxleState) -> Result | None:
    newest = state.latest(KindName.TAP_IN)
    if newest is None:
        return None
    kind, grade = kind_named(KindName.TAP_IN), int(newest.value)
    outcome = Outcome(kind.grades[grade - 1])
    direction = "thinner" if grade > _LIGHT_TAPS else "thicker"
    why = [f"The last pack: {outcome.value}."]
    if outcome.passes:
        why.append("Light taps of a brass or shim driver are the school's measure (common practice).")
    else:
        why.append(f"It should need light taps: the last pack one size {direction}.")
    return Result(None, Dimension.COUNT, limits=None, outcome=outcome, why=tuple(why))


def _by_pull(state: AxleState, display: Display) -> Result | None:
    newest = state.latest(KindName.ADJUSTER_PULL)
    if newest is None:
        return None
    unit = display.bolt_torque
    bolts = Display(display.length, unit, unit)
    shown = bolts.show(newest.value, Dimension.TORQUE)
    how = conditions_of(newest.kind, newest.conditions)
    if getattr(how, "settled", True) is False:
        why = f"{shown} {unit.symbol}, bearings not stabilised: turn the carrier and pull again."
        return Result.undecided(Outcome.NOT_STABILISED, (why,), dimension=Dimension.TORQUE)
    limits, source = state.sheet.range("adjuster_torque"), state.sheet.source("adjuster_torque")
    if limits is None:
        limits, source = Range(94.9, 101.7), "common practice: 70 to 75 ft·lb"
    line = against(
        limits, newest.value, source=source, unit=unit.symbol, display=bolts, dimension=Dimension.TORQUE
    )
    outcome = Outcome.of_preload(limits.side(newest.value))
    lines = (f"Last adjuster, bearings stabilised: {shown} {unit.symbol}.", line)
    # The verdict's own number is shown in the unit of rotating torques, so it is left to the words.
    return Result(None, Dimension.TORQUE, limits=limits, outcome=outcome, why=lines)


def _by_float(state: AxleState, display: Display) -> Result | None:
    newest = state.latest(KindName.CARRIER_END_PLAY)
    if newest is None:
        return None
    unit = display.length.symbol
    own = state.sheet.range("carrier_interference")
    limits = Range(0.0, own.high if own is not None and own.target == 0 else _FLOAT / 2)
    good = limits.holds(newest.value)
    why = (
        f"End float {display.show(newest.value)} {unit} after ten turns.",
        f"Wanted none: under {display.show(limits.high)} {unit} cannot be told from it (common practice).",
    )
    outcome = Outcome.IN_RANGE if good else Outcome.FLOAT_LEFT
    return Result(
        newest.value,
        Dimension.LENGTH,
        limits=limits,
        outcome=outcome,
        why=why,
        uncertainty=rectangular(newest.step or 0.0127),
    )


def _by_torque(state: AxleState, display: Display) -> Result | None:
    play = state.latest(KindName.CARRIER_END_PLAY)
    found = carrier_torque(state)
    if play and (found is None or play.order > max(t.order for t in found[2][:1])):
        limits = state.sheet.range("carrier_preload")
        if play.value == 0 and limits and limits.low == 0 and limits.target == 0:
            why = ("No end play, and the sheet asks for none: zero float.",)
            return Result(0.0, Dimension.LENGTH, limits=None, outcome=Outcome.IN_RANGE, why=why)
        if play.value == 0:
            why = ("No end play. Read the rotating torque: no play does not yet say preload.",)
            return Result.undecided(Outcome.READ_TORQUE, why, value=0.0)
        return end_play(play.value, display, "Carrier bearings want preload: play is left.")
    if found is None:
        if state.latest(KindName.TOTAL_TORQUE):
            why = ("Read the pinion's rotating torque alone first: it is taken off the total.",)
            return Result.undecided(Outcome.PINION_NOT_READ, why, dimension=Dimension.TORQUE)
        return None
    torque, u, behind = found
    apart = unlike(behind[0].torque_conditions, behind[-1].torque_conditions)
    if apart:
        words = (
            f"The two torques were not read alike (the pinion alone: {', '.join(apart)}): read both alike."
        )
        return Result.undecided(Outcome.UNLIKE, (words,), dimension=Dimension.TORQUE)
    lines = []
    unit = display.torque.symbol
    limits = state.sheet.range("carrier_preload")
    if len(behind) == 2:
        total, pinion = (display.show(t.value, Dimension.TORQUE) for t in behind)
        lines.append(
            f"({total} whole − {pinion} pinion) × {state.gears.ratio:.3f} = "
            f"{display.show(torque, Dimension.TORQUE)} ± {display.show(u, Dimension.TORQUE)} {unit} "
            "at the carrier; the mesh's drag makes it read high."
        )
        if torque < 0:
            lines.append("The pinion alone drags more than the whole: one of the two is wrong.")
        elif limits is not None and limits.has_top:
            lines.append(_how_sure(state, display, torque=torque, u=u, limits=limits))
    result = torque_result(
        torque,
        limits,
        source=state.sheet.source("carrier_preload"),
        display=display,
        label="Carrier bearings",
    )
    outcome, more = result.outcome, ""
    if limits is not None and not result.in_range:
        inside = chance_of_torque(state, CARRIER, limits)
        if inside >= IN_BY_ALL:
            outcome, more = Outcome.BY_ALL, _by_all_words(state, display, inside)
    return Result(
        result.value,
        result.dimension,
        limits=result.limits,
        outcome=outcome,
        why=tuple(filter(None, (*lines, *result.why, more))),
        uncertainty=u,
    )


def _by_all_words(state: AxleState, display: Display, inside: float) -> str:
    value, std = (display.show(part, Dimension.TORQUE) for part in torque_now(state, CARRIER))
    return (
        f"By everything that was read, the drag of the mesh and what bearings settle included, it is "
        f"{value} ± {std} "
        f"{display.torque.symbol}, and {percent(inside)} sure to be in range: it is left."
    )


def _how_sure(state: AxleState, display: Display, torque: float, u: float, limits: Range) -> str:
    """The error band of a subtraction, held to the width of its range."""
    wide = window_at_pinion(limits.low, limits.high, state.gears.ratio)
    inside = chance_within(torque - limits.middle, u, (limits.high - limits.low) / 2)
    return (
        f"The range is {display.show(wide, Dimension.TORQUE)} {display.torque.symbol} wide at the pinion, "
        f"and the difference is known to ± {display.show(u / state.gears.ratio, Dimension.TORQUE)}: "
        f"{percent(inside)} sure to be in it."
    )
