"""The drawer as a page draws it: each family's bins, and what they make."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal
from typing import Final

from django.urls import reverse

from axle.measure.units import Display
from axle.shims.coverage import Coverage, coverage
from axle.shims.pieces import Piece
from shop.drawing.bins import Bin, bins, strip
from shop.stock.making import CLOSE
from shop.stock.models import Condition, Family
from shop.stock.queries import Whereabouts, loose

# What is looked at: from one thin piece to two thick ones, and no further than any pack [mm].
_THICKEST: Final = Decimal(12)


@dataclass(frozen=True)
class FamilyDrawn:
    """One family of the drawer.

    :param title: its name.
    :param bins: its sizes, drawn.
    :param strip: the packs they make, drawn; "" where there are none.
    :param gaps: how many gaps there are.
    :param made: how many packs.
    """

    title: str
    bins: str
    strip: str = ""
    gaps: int = 0
    made: int = 0


def drawn(rows: Sequence[Whereabouts], display: Display) -> list[FamilyDrawn]:
    """Every family that the drawer has, drawn.

    :param rows: its lots, with where their pieces are.
    :param display: units of the words.
    """
    found = []
    for value, words in Family.choices:
        own = [row for row in rows if row.lot.family == value]
        if own:
            found.append(_family(str(words).capitalize(), value, own, display))
    return found


def _family(title: str, family: str, rows: list[Whereabouts], display: Display) -> FamilyDrawn:
    shown = bins(title, [_bin(row, display) for row in sorted(rows, key=lambda row: row.lot.miced)])
    sound = [row.lot for row in rows if row.lot.quantity and row.lot.condition != Condition.DAMAGED]
    found = _covers(loose(sound, (family,)))
    if found is None:
        return FamilyDrawn(title, shown)
    return FamilyDrawn(
        title, shown, strip(found, display.length), gaps=len(found.gaps), made=len(found.made)
    )


def _covers(pieces: list[Piece]) -> Coverage | None:
    """What pieces make from the thinnest to twice the thickest; nothing where there is one size only."""
    sizes = sorted({piece.thickness for piece in pieces})
    if not sizes:
        return None
    high = min(2 * sizes[-1], _THICKEST)
    return coverage(pieces, sizes[0], high, CLOSE) if high > sizes[0] else None


def _bin(row: Whereabouts, display: Display) -> Bin:
    lot, out = row.lot, sum(count for _, _, count in row.out)
    return Bin(
        display.show(lot.miced),
        float(lot.miced),
        count=lot.quantity,
        place=lot.bin,
        note=f"{out} out" if out else "",
        link=reverse("lot", args=[lot.pk]),
        low=row.is_low or not lot.quantity,
        off=lot.condition == Condition.DAMAGED,
    )
