"""What an exercise is worth: right at few assemblies and readings, nothing skipped, nothing signed away."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

# Points out of a hundred, made up: what each thing costs.
_ASSEMBLY: Final = 15
_READING: Final = 1
_MOST_READINGS: Final = 15
_HINT: Final = 4
_MOST_HINTS: Final = 40
_SKIPPED: Final = 5
_SIGNED_OUT: Final = 15
_WRONG: Final = 50
_FAULT_MISSED: Final = 40
_UNBUILT: Final = 100
_FREE_MINUTES: Final = 60
_QUARTER_HOUR: Final = 2


@dataclass(frozen=True)
class Attempt:
    """How one exercise went.

    :param assemblies: builds until it was called done, from 1.
    :param readings: readings and prints taken.
    :param par: assemblies and readings of a good hand.
    :param hints: hints asked for.
    :param skipped: hold points passed over.
    :param signed_out: stations signed out of range.
    :param minutes: from the start to the end.
    :param wrong: what was truly out of range at the end.
    :param fault: whether something was planted.
    :param named: whether it was named.
    :param spoilt: what the planted fault spoils and is excused; everything where that is not told.
    :param built: whether the axle once stood together, or as far as the exercise goes.
    """

    assemblies: int
    readings: int
    par: tuple[int, int]
    hints: int = 0
    skipped: int = 0
    signed_out: int = 0
    minutes: float = 0.0
    wrong: tuple[str, ...] = ()
    fault: bool = False
    named: bool = False
    built: bool = True
    spoilt: frozenset[str] | None = None


@dataclass(frozen=True)
class Score:
    """Points and what they are made of.

    :param points: 0 to 100.
    :param lines: (words, points), the first is what one starts with.
    """

    points: int
    lines: tuple[tuple[str, int], ...]


def score(of: Attempt) -> Score:
    """Score an attempt.

    :param of: how it went; minutes [min].
    :returns: 0 to 100 points, with a line for each thing that cost some.
    :source: made up; a strip-down costs the most after a wrong axle, as on a bench.

    >>> score(Attempt(2, 20, (2, 25))).points, score(Attempt(4, 20, (2, 25), hints=1)).points
    (100, 66)
    """
    lines = [("an axle that is right at once", 100)]

    def cost(words: str, points: int) -> None:
        if points:
            lines.append((words, -points))

    over = max(of.assemblies - of.par[0], 0)
    cost(f"{of.assemblies} assemblies where {of.par[0]} do", over * _ASSEMBLY)
    more = max(of.readings - of.par[1], 0)
    cost(f"{of.readings} readings where {of.par[1]} do", min(more * _READING, _MOST_READINGS))
    cost(f"{of.hints} hint{'s' if of.hints != 1 else ''}", min(of.hints * _HINT, _MOST_HINTS))
    cost(f"{of.skipped} hold points skipped", of.skipped * _SKIPPED)
    cost(f"{of.signed_out} stations signed out of range", of.signed_out * _SIGNED_OUT)
    if of.fault:
        cost("what was wrong with it was not named", 0 if of.named else _FAULT_MISSED)
    blamed = [
        name for name in of.wrong if not of.fault or (of.spoilt is not None and name not in of.spoilt)
    ]
    if blamed:
        cost(f"truly out of range at the end: {', '.join(blamed)}", _WRONG)
    if not of.built:
        cost("the axle was never built", _UNBUILT)
    late = max(of.minutes - _FREE_MINUTES, 0.0)
    cost(f"{of.minutes:.0f} minutes", min(int(late // 15) * _QUARTER_HOUR, 10))
    return Score(max(sum(points for _, points in lines), 0), tuple(lines))


def answers_score(right: int, asked: int, hints: int = 0) -> Score:
    """Score a round of questions.

    :param right: answered rightly.
    :param asked: asked, 1 or more.
    :param hints: hints asked for.
    :returns: 0 to 100 points.
    :source: made up.

    >>> answers_score(5, 6).points
    83
    """
    points = round(100 * right / asked)
    lines = [(f"{right} of {asked} right", points)]
    if hints:
        lines.append((f"{hints} hint{'s' if hints != 1 else ''}", -_HINT * hints))
    return Score(max(points - _HINT * hints, 0), tuple(lines))
