"""Shims to buy so that the packs that may be wanted can be made."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from decimal import Decimal
from typing import Final

from axle.shims.coverage import coverage
from axle.shims.pieces import USUAL, Piece, Rules

_FINEST: Final = Decimal("0.00001")


@dataclass(frozen=True)
class ShimToBuy:
    """A size that closes gaps.

    :param size: nominal thickness [mm].
    :param closes: width of the gaps that it closes [mm].
    """

    size: Decimal
    closes: Decimal


def shims_to_buy(
    drawer: Sequence[Piece],
    sizes: Iterable[Decimal],
    *,
    low: Decimal,
    high: Decimal,
    close: Decimal,
    most: int = 4,
    rules: Rules = USUAL,
) -> tuple[ShimToBuy, ...]:
    """The sizes that close most of what cannot be made, one after the other.

    :param drawer: the pieces at hand.
    :param sizes: sizes that can be bought [mm].
    :param low: thinnest pack that may be wanted [mm], more than 0.
    :param high: thickest [mm], more than ``low``.
    :param close: how near a pack has to come [mm].
    :param most: sizes at most.
    :param rules: how packs are made up.
    :returns: each with what it closes; none where there is no gap, or none that a size closes.
    :source: greedy covering (Chvátal, 1979), from memory.
    """
    held = list(drawer)
    found: list[ShimToBuy] = []
    offered = sorted(set(sizes))
    gap = _gap(held, low, high, close, rules)
    while gap > 0 and len(found) < most and offered:
        left = [(_gap([*held, Piece(-1, size)], low, high, close, rules), size) for size in offered]
        least, size = min(left)
        if least >= gap:
            break
        found.append(ShimToBuy(size, (gap - least).quantize(_FINEST)))
        held.append(Piece(-1 - len(found), size))
        gap = least
    return tuple(found)


def _gap(drawer: Sequence[Piece], low: Decimal, high: Decimal, close: Decimal, rules: Rules) -> Decimal:
    gaps = coverage(drawer, low, high, close, rules).gaps
    return sum((gap.high - gap.low for gap in gaps), Decimal(0))
