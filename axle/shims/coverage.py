"""Which thicknesses a drawer makes over a whole range, and where its gaps lie."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from decimal import Decimal

from axle.errors import AxleError
from axle.shims.choose import Reach, reachable
from axle.shims.pieces import USUAL, Piece, Rules


@dataclass(frozen=True)
class Gap:
    """Thicknesses that no pack comes near enough to.

    :param low: where it begins [mm].
    :param high: where it ends [mm].
    """

    low: Decimal
    high: Decimal


@dataclass(frozen=True)
class Coverage:
    """What a drawer makes between two thicknesses.

    :param low: thinnest that is looked at [mm].
    :param high: thickest [mm].
    :param made: each thickness that can be made, thin to thick.
    :param gaps: where nothing comes near enough.
    """

    low: Decimal
    high: Decimal
    made: tuple[Reach, ...]
    gaps: tuple[Gap, ...]


def coverage(
    drawer: Iterable[Piece], low: Decimal, high: Decimal, close: Decimal, rules: Rules = USUAL
) -> Coverage:
    """Everything that a drawer makes between two thicknesses.

    :param drawer: the pieces at hand.
    :param low: thinnest pack that could be wanted [mm], more than 0.
    :param high: thickest [mm], more than ``low``.
    :param close: how near a pack has to come [mm], 0 or more.
    :param rules: how packs are made up.
    :raises AxleError: for an end or a nearness that makes no sense.
    :source: :func:`axle.shims.choose.reachable`; a gap is what lies further than ``close`` from all of it.

    >>> drawer = [Piece(1, Decimal("0.5")), Piece(2, Decimal("0.3"))]
    >>> found = coverage(drawer, Decimal("0.3"), Decimal("0.9"), Decimal("0.05"))
    >>> [(str(gap.low), str(gap.high)) for gap in found.gaps]
    [('0.35000', '0.45000'), ('0.55000', '0.75000'), ('0.85000', '0.9')]
    """
    if not 0 < low < high or close < 0:
        given = f"{low} to {high} mm, {close} mm near"
        raise AxleError(
            "range of packs", given=given, wanted="more than 0, thin before thick, 0 or more near"
        )
    middle, reach = (low + high) / 2, (high - low) / 2
    made = reachable(middle, reach, drawer, rules)
    return Coverage(low, high, made, tuple(_gaps([one.thickness for one in made], low, high, close)))


def _gaps(made: Sequence[Decimal], low: Decimal, high: Decimal, close: Decimal) -> Iterable[Gap]:
    begins = low
    for thickness in made:
        if thickness - close > begins:
            yield Gap(begins, thickness - close)
        begins = max(begins, thickness + close)
    if begins < high:
        yield Gap(begins, high)
