"""The shape of a verdict on a station, and the lines of words that verdicts share."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

from axle.limits import Range
from axle.units import Dimension, Display

# What a station without end play comes to: no play does not yet say preload.
READ_TORQUE: Final = "read torque"


@dataclass(frozen=True)
class Result:
    """What a station's readings come to.

    :param value: the number in the core's unit [mm or N·m]; nothing for a pattern.
    :param dimension: what it measures.
    :param limits: what it is held to, or nothing when the sheet has no limits.
    :param in_range: whether it is in range.
    :param words: the verdict, a few words.
    :param why: numbered lines of arithmetic, with the limit and its source.
    :param uncertainty: standard uncertainty of ``value``, 0 where none is stated.
    :param decided: whether more readings could not put it back in range.
    """

    value: float | None
    dimension: Dimension
    limits: Range | None
    in_range: bool
    words: str
    why: tuple[str, ...]
    uncertainty: float = 0.0
    decided: bool = True


def against(
    limits: Range | None, value: float, source: str, unit: str, display: Display, dimension: Dimension
) -> str:
    """Write the line that holds a value to its limits and names their source."""
    if limits is None:
        return f"The sheet gives no limits for it ({source}): it is recorded, not judged."
    return f"{range_words(limits, unit, display, dimension)} ({source}): {limits.side(value)}."


def range_words(limits: Range, unit: str, display: Display, dimension: Dimension) -> str:
    """Write limits at the head of a line, whichever of their ends a sheet gives."""
    low = display.show(limits.low, dimension)
    if limits.target is not None:
        off = display.show(limits.high - limits.target, dimension)
        return f"Wanted {display.show(limits.target, dimension)} ± {off} {unit}"
    if not limits.has_top:
        return f"At least {low} {unit}"
    high = display.show(limits.high, dimension)
    return f"Range {low} to {high} {unit}" if limits.low else f"At most {high} {unit}"


def aim_words(limits: Range) -> str:
    """Say what a move's aim is among its limits, behind the figure."""
    if limits.target is not None:
        return ", the sheet's figure"
    return ", the middle" if limits.has_top else ", a little over the least"


def end_play(value: float, display: Display, verdict: str) -> Result:
    """Judge end play where preload is wanted: it never passes."""
    line = f"End play {display.show(value)} {display.length.symbol}. {verdict}"
    limits = Range(0.0, 0.0)
    return Result(value, Dimension.LENGTH, limits, False, "end play", (line,))


def torque_result(value: float, limits: Range | None, source: str, display: Display, label: str) -> Result:
    """Hold a rotating torque to its range."""
    unit = display.torque.symbol
    line = against(limits, value, source, unit, display, Dimension.TORQUE)
    why = (f"{label}: {display.show(value, Dimension.TORQUE)} {unit}.", line)
    side = limits.side(value) if limits else "recorded"
    words = {"under": "loose", "over": "tight"}.get(side, side)
    good = side in ("in range", "recorded")
    return Result(value, Dimension.TORQUE, limits, good, words, why)


def signed(core: float, display: Display) -> str:
    """Write a core length with its sign in front."""
    text = display.show(abs(core))
    return f"−{text}" if core < 0 else f"+{text}"
