"""The shape of a verdict on a station, and the lines of words that verdicts share."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from typing import Final

from axle.measure.range import Range, RangeSide
from axle.measure.units import Dimension, Display


class Outcome(StrEnum):
    """What a station comes to, in the few words that stand on its sign."""

    IN_RANGE = "in range"
    RECORDED = "recorded"
    BY_PATTERN = "by pattern"
    GOOD = "good"
    LIGHT_TAPS = "light taps"
    UNDER = "under"
    OVER = "over"
    OUT = "out"
    LOOSE = "loose"
    TIGHT = "tight"
    BY_ALL = "in by all readings"
    END_PLAY = "end play"
    FLOAT_LEFT = "float left"
    SPREAD_OVER = "spread over"
    LOCKED = "locked"
    TOO_DEEP = "too deep"
    TOO_SHALLOW = "too shallow"
    UNCLEAR = "unclear"
    WANDERS = "wanders"
    EDGE_CONTACT = "edge contact"
    FALLS_IN = "falls in"
    SLIDES_IN = "slides in by hand"
    HEAVY_BLOWS = "heavy blows"
    READ_TORQUE = "read torque"
    READ_AGAIN = "read again"
    STALE = "stale"
    UNLIKE = "unlike"
    SEAL_IN = "seal in"
    NOT_TOLD = "not told"
    NOT_STABILISED = "not stabilised"
    PINION_NOT_READ = "pinion not read"
    HOW_MUCH = "how much?"
    FIT_BOTH_SIDES = "fit both sides"
    FIT_A_SHIM = "fit a shim"
    TRIAL_TOO_THIN = "trial too thin"
    CONFIRM_THE_MARK = "confirm the mark"
    SHEET_LACKS_A_FIGURE = "sheet lacks a figure"
    CANNOT_BE = "cannot be"

    @property
    def passes(self) -> bool:
        """Whether the work may go past a station that came to this."""
        return self in _PASSING

    @classmethod
    def of_preload(cls, side: RangeSide | None) -> Outcome:
        """Loose, in range or tight; recorded where there are no limits."""
        return cls.RECORDED if side is None else _OF_PRELOAD[side]

    @classmethod
    def of_side(cls, side: RangeSide | None) -> Outcome:
        """Under, in range or over; recorded where there are no limits."""
        return cls.RECORDED if side is None else cls(side.value)


_PASSING: Final = frozenset(
    {
        Outcome.IN_RANGE,
        Outcome.RECORDED,
        Outcome.BY_PATTERN,
        Outcome.GOOD,
        Outcome.LIGHT_TAPS,
        Outcome.BY_ALL,
    }
)
_OF_PRELOAD: Final = {
    RangeSide.UNDER: Outcome.LOOSE,
    RangeSide.IN_RANGE: Outcome.IN_RANGE,
    RangeSide.OVER: Outcome.TIGHT,
}


@dataclass(frozen=True)
class Result:
    """What a station's readings come to.

    :param value: the number in the core's unit [mm or N·m]; nothing for a pattern.
    :param dimension: what it measures.
    :param limits: what it is held to, or nothing when the sheet has no limits.
    :param outcome: the verdict.
    :param why: numbered lines of arithmetic, with the limit and its source.
    :param uncertainty: standard uncertainty of ``value``, 0 where none is stated.
    :param decided: whether more readings could not put it back in range.
    """

    value: float | None
    dimension: Dimension
    limits: Range | None
    outcome: Outcome
    why: tuple[str, ...]
    uncertainty: float = 0.0
    decided: bool = True

    @classmethod
    def undecided(
        cls,
        outcome: Outcome,
        why: tuple[str, ...],
        *,
        value: float | None = None,
        dimension: Dimension = Dimension.LENGTH,
        limits: Range | None = None,
    ) -> Result:
        """A station of which more has to be read, said or fitted before it is judged."""
        return cls(value, dimension, limits=limits, outcome=outcome, why=why, decided=False)

    @property
    def in_range(self) -> bool:
        """Whether the work may go past it."""
        return self.outcome.passes

    @property
    def words(self) -> str:
        """The verdict, a few words."""
        return self.outcome.value


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
    return Result(value, Dimension.LENGTH, limits=limits, outcome=Outcome.END_PLAY, why=(line,))


def torque_result(value: float, limits: Range | None, source: str, display: Display, label: str) -> Result:
    """Hold a rotating torque to its range."""
    unit = display.torque.symbol
    line = against(limits, value, source=source, unit=unit, display=display, dimension=Dimension.TORQUE)
    why = (f"{label}: {display.show(value, Dimension.TORQUE)} {unit}.", line)
    outcome = Outcome.of_preload(limits.side(value) if limits else None)
    return Result(value, Dimension.TORQUE, limits=limits, outcome=outcome, why=why)


def signed(core: float, display: Display) -> str:
    """Write a core length with its sign in front."""
    text = display.show(abs(core))
    return f"−{text}" if core < 0 else f"+{text}"
