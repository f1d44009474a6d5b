"""Shims as pieces, packs of them, and the rules by which packs are made up."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal
from enum import Enum
from typing import Final

from axle.errors import AxleError

# 0.00001 mm holds a tenth of a thou (0.00254 mm) and a micrometre exactly.
FINEST: Final = Decimal("0.00001")
MOST_PIECES: Final = 8
# No pack is thicker than this [mm]: a long solid spacer and its shims.
THICKEST_PACK: Final = 50


class PieceRole(Enum):
    """What part a piece plays in a pack."""

    SELECT = "select"
    BASE = "base"
    MASTER = "master"
    SPACER = "spacer"


@dataclass(frozen=True)
class Piece:
    """One shim as it was measured.

    :param key: whatever tells the drawer which one it is.
    :param thickness: as mic'd [mm], more than 0 and under 25; a solid spacer's under 50.
    :param damaged: torn, holed, creased or burred; never chosen.
    :param role: select shim, base or master shim, or solid spacer.
    :param cast: cast iron: breaks when cocked, and is not stacked on another.
    :param fitted: already in the place; taken before an equal one from the drawer.
    :param miced: whether its thickness was measured, and is not only what is marked on it.
    :param own: the axle's own, as it came out; taken before one from the drawer.
    :raises AxleError: for a thickness that no shim has.
    """

    key: int
    thickness: Decimal
    damaged: bool = False
    role: PieceRole = PieceRole.SELECT
    cast: bool = False
    fitted: bool = False
    miced: bool = True
    own: bool = False

    def __post_init__(self) -> None:
        most = thickest(self.role is PieceRole.SPACER)
        if not 0 < self.thickness < most:
            raise AxleError("shim", given=f"{self.thickness} mm", wanted=f"more than 0, under {most} mm")

    @property
    def is_base(self) -> bool:
        """Whether it is a base or master shim, which comes first in its pack."""
        return self.role in (PieceRole.BASE, PieceRole.MASTER)


@dataclass(frozen=True)
class Rules:
    """How packs are made up.

    :param most: largest number of pieces in a pack, 1 to 12.
    :param thin: a piece under this is thin [mm].
    :param most_thin: largest number of thin pieces in a pack, 0 or more.
    :param base_first: whether a pack must hold one base or master shim where the drawer has one.
    :raises AxleError: for a rule that makes no sense.
    """

    most: int = MOST_PIECES
    thin: Decimal = Decimal("0.1905")
    most_thin: int = 3
    base_first: bool = False

    def __post_init__(self) -> None:
        if not 1 <= self.most <= 12 or self.most_thin < 0:
            raise AxleError(
                "pack rule",
                given=f"{self.most} pieces, {self.most_thin} thin ones",
                wanted="1 to 12 pieces, 0 or more thin ones",
            )


# Thin is under 7½ thou, three of them at the most (common practice for few thin ones, no source for
# the figures).
USUAL: Final = Rules()


@dataclass(frozen=True)
class Pack:
    """A choice of pieces, thick ones first."""

    pieces: tuple[Piece, ...]

    @property
    def thickness(self) -> Decimal:
        """Sum of the pieces [mm]."""
        return sum((piece.thickness for piece in self.pieces), Decimal(0))


_APART: Final = Decimal("0.0254")


def thickest(is_spacer: bool) -> int:
    """What one piece is thinner than [mm].

    :param is_spacer: whether it is a solid spacer, and no shim.
    :source: common practice.

    >>> thickest(True), thickest(False)
    (50, 25)
    """
    return 50 if is_spacer else 25


def miced(readings: Sequence[Decimal]) -> Decimal:
    """Thickness of one piece from every reading of the micrometer: their mean, to 0.00001 mm.

    :param readings: of one piece [mm], one or more.
    :returns: thickness [mm]; a single reading stays as it is, so that a tenth of a thou is exact.
    :raises AxleError: for no reading, or readings more than a thou apart.
    :source: mean as JCGM 100:2008, 4.2.1; a thou apart is dirt or two pieces (common practice, no
        source).

    >>> miced([Decimal("0.508"), Decimal("0.510")])
    Decimal('0.50900')
    """
    if not readings:
        raise AxleError("mic'd thickness", given="nothing", wanted="one reading or more")
    if max(readings) - min(readings) > _APART:
        raise AxleError(
            "mic'd thickness",
            given=", ".join(f"{reading:.4f}" for reading in readings) + " mm",
            wanted="readings within 1 thou of each other",
            do="Wipe it, look for a burr, and mic it again; or it is two pieces.",
        )
    return (sum(readings, Decimal(0)) / len(readings)).quantize(FINEST)
