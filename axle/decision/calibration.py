"""Chances that were given, held to what came of them: ten bands, each with its binomial spread."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass
from functools import cache
from typing import Any, Final

from axle.data_file import read_table
from axle.measure.units import percent

BANDS: Final = 10
# Fewer moves than this say nothing yet.
_LEAST: Final = 3


@dataclass(frozen=True)
class ReliabilityBin:
    """Moves whose chance lay between two tenths.

    :param low: lower end, 0 to 0.9.
    :param count: moves.
    :param held: of them, those that came about.
    :param mean: mean of the chances that were given, 0 to 1.
    """

    low: float
    count: int
    held: int
    mean: float

    @property
    def share(self) -> float:
        """Share that came about; 0 without moves."""
        return self.held / self.count if self.count else 0.0

    @property
    def spread(self) -> float:
        """Binomial standard deviation of that share, were the mean chance right."""
        return math.sqrt(self.mean * (1 - self.mean) / self.count) if self.count else 0.0

    @property
    def words(self) -> str:
        """Its ends, in words."""
        return f"{round(100 * self.low)}–{round(100 * (self.low + 1 / BANDS))} %"

    @property
    def fits(self) -> bool:
        """Whether it held as often as was said: within two standard deviations, or 5 in 100 of many."""
        off = abs(self.share - self.mean)
        return off <= max(2 * self.spread, 0.05 if self.count >= 400 else 0.0)


@dataclass(frozen=True)
class MeasuredWorld:
    """What the closed loop came to in one simulated world, both preloads judged.

    :param title: of the world.
    :param axles: built there.
    :param second: share right at the second assembly, 0 to 1.
    :param third: at the third.
    :param falsely: of those called done, not in range.
    :param stops: stopped though nothing was wrong.
    """

    title: str
    axles: int
    second: float
    third: float
    falsely: float
    stops: float


@cache
def measured_worlds() -> tuple[MeasuredWorld, ...]:
    """What was measured in each simulated world.

    :source: ``measured.toml``, written by the closed loop.

    >>> measured_worlds()[0].second > 0.5
    True
    """
    rows = read_table(__file__, "measured.toml", dict[str, dict[str, Any]])
    return tuple(MeasuredWorld(**row) for row in rows.values())


def reliability_bins(moves: Iterable[tuple[float, bool]]) -> tuple[ReliabilityBin, ...]:
    """Sort moves into ten bands of their chance.

    :param moves: chance [1] and whether it came about.
    :returns: ten bands, the lowest first.
    :source: reliability diagram, ten bands of equal width; binomial spread.

    >>> reliability_bins([(0.85, True), (0.88, True), (0.81, False)])[8].held
    2
    """
    rows: list[list[tuple[float, bool]]] = [[] for _ in range(BANDS)]
    for chance, held in moves:
        rows[min(int(chance * BANDS), BANDS - 1)].append((chance, held))
    return tuple(
        ReliabilityBin(
            at / BANDS,
            len(row),
            held=sum(held for _, held in row),
            mean=sum(chance for chance, _ in row) / len(row) if row else 0.0,
        )
        for at, row in enumerate(rows)
    )


def words_for(chance: float, found: tuple[ReliabilityBin, ...]) -> str:
    """What moves of a like chance came to, in one line.

    :param chance: of the move in hand [1].
    :param found: ten bands.
    :returns: nothing while there are too few to say.
    :source: :func:`reliability_bins`.

    >>> words_for(0.85, reliability_bins([(0.85, True)] * 9 + [(0.85, False)]))
    'Of 10 moves in this shop that were 80–90 % sure, 9 came in: 90 %.'
    """
    band = found[min(int(chance * BANDS), BANDS - 1)]
    if band.count < _LEAST:
        return ""
    return (
        f"Of {band.count} moves in this shop that were {band.words} sure, {band.held} came in: "
        f"{percent(band.share)}."
    )
