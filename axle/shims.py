"""Choosing the pieces of a pack from what is in the drawer, exactly.

Sums are formed on the whole numbers of the finest step that all the drawer's sizes share, as bits
of one large integer: bit n is set when some choice of pieces adds up to n steps. Shifting by a
piece's size adds that piece to every choice at once.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from decimal import Decimal
from typing import Final

from axle.errors import AxleError

# 0.00001 mm holds a tenth of a thou (0.00254 mm) and a micrometre exactly.
_FINEST: Final = Decimal("0.00001")
MOST_PIECES: Final = 8


@dataclass(frozen=True)
class Piece:
    """One shim as it was measured.

    :param key: whatever tells the drawer which one it is.
    :param thickness: as mic'd [mm], more than 0 and under 25.
    :param damaged: torn, holed, creased or burred; never chosen.
    :raises AxleError: for a thickness that no shim has.
    """

    key: int
    thickness: Decimal
    damaged: bool = False

    def __post_init__(self) -> None:
        if not 0 < self.thickness < 25:
            raise AxleError("shim", given=f"{self.thickness} mm", wanted="more than 0, under 25 mm")


@dataclass(frozen=True)
class Pack:
    """A choice of pieces, thick ones first."""

    pieces: tuple[Piece, ...]

    @property
    def thickness(self) -> Decimal:
        """Sum of the pieces [mm]."""
        return sum((piece.thickness for piece in self.pieces), Decimal(0))


@dataclass(frozen=True)
class Choice:
    """What the drawer offers for a wanted thickness.

    :param pack: the pack within tolerance with the fewest pieces; nothing when none fits.
    :param nearest: the next packs below and above the wanted thickness that can be made.
    """

    pack: Pack | None
    nearest: tuple[Pack, ...]


def choose(wanted: Decimal, tolerance: Decimal, drawer: Iterable[Piece], most: int = MOST_PIECES) -> Choice:
    """Choose the pack for a wanted thickness: fewest pieces, then nearest, then thick ones first.

    :param wanted: t [mm], more than 0.
    :param tolerance: how far the pack may be off [mm], 0 or more.
    :param drawer: the pieces at hand, each as mic'd.
    :param most: largest number of pieces in a pack, 1 to 12.
    :returns: the pack, and the nearest pack on either side of the wanted thickness.
    :raises AxleError: for a wanted thickness or tolerance that makes no sense.
    :source: common practice (few thick pieces spring less than many thin ones); exact by
        construction, held to brute force in the tests.

    >>> drawer = [Piece(1, Decimal("0.50")), Piece(2, Decimal("0.25")), Piece(3, Decimal("0.30"))]
    >>> [p.key for p in choose(Decimal("0.76"), Decimal("0.02"), drawer).pack.pieces]
    [1, 2]
    """
    if not 0 < wanted < 50:
        raise AxleError("wanted pack", given=f"{wanted:.3f} mm", wanted="more than 0, under 50 mm")
    if tolerance < 0 or not 1 <= most <= 12:
        raise AxleError(
            "pack rule", given=f"±{tolerance} mm, {most} pieces", wanted="±0 or more, 1 to 12 pieces"
        )
    sound = sorted((p for p in drawer if not p.damaged), key=lambda p: p.thickness)
    if not sound:
        return Choice(None, ())
    table = _Sums(sound, wanted + max(tolerance, sound[-1].thickness), most)
    low = math.ceil((wanted - tolerance) / table.step)
    high = math.floor((wanted + tolerance) / table.step)
    centre = wanted / table.step
    fitting = None
    for count in range(1, most + 1):
        total = table.nearest_within(count, low, high, centre)
        if total is not None:
            fitting = table.pack(count, total)
            break
    below, above = table.below(math.floor(centre)), table.above(math.ceil(centre))
    nearest = tuple(table.pack(count, total) for count, total in (below, above) if total)
    return Choice(fitting, nearest)


def named_pieces(sizes: Sequence[Decimal], drawer: Iterable[Piece]) -> Pack:
    """Find the pieces that a builder names by their size, each the nearest sound one.

    :param sizes: wanted sizes [mm], as read off the pieces.
    :param drawer: the pieces at hand, each as mic'd.
    :raises AxleError: when no sound piece lies within 0.2 thou of a named size.
    :source: common practice (a size is read to a tenth of a thou).

    >>> named_pieces([Decimal("0.25")], [Piece(4, Decimal("0.252"))]).thickness
    Decimal('0.252')
    """
    loose = [piece for piece in drawer if not piece.damaged]
    chosen = []
    for size in sizes:
        near = min(loose, key=lambda piece: abs(piece.thickness - size), default=None)
        if near is None or abs(near.thickness - size) > Decimal("0.00508"):
            raise AxleError(
                "piece",
                given=f"{size.normalize():f} mm",
                wanted="a sound piece of that size from the drawer",
                do="Name another, or type one thickness and let the drawer choose.",
            )
        loose.remove(near)
        chosen.append(near)
    return Pack(tuple(sorted(chosen, key=lambda piece: -piece.thickness)))


class _Sums:
    """Which sums can be made with how many pieces; remembers enough to name the pieces."""

    def __init__(self, pieces: Sequence[Piece], limit: Decimal, most: int) -> None:
        self._pieces = pieces
        self._most = most
        whole = [_steps(piece.thickness) for piece in pieces]
        divisor = math.gcd(*whole)
        self.step = _FINEST * divisor
        self._sizes = [size // divisor for size in whole]
        mask = (1 << (int(limit / self.step) + 2)) - 1
        # _after[n][k]: sums of exactly k of the first n pieces (thinnest first).
        row = [1] + [0] * most
        self._after = [tuple(row)]
        for size in self._sizes:
            for count in range(most, 0, -1):
                row[count] |= (row[count - 1] << size) & mask
            self._after.append(tuple(row))

    def nearest_within(self, count: int, low: int, high: int, centre: Decimal) -> int | None:
        """Find the sum of ``count`` pieces within [low, high] that lies nearest the centre."""
        if high < max(low, 1):
            return None
        bits = self._after[-1][count] & ((1 << (high + 1)) - 1)
        bits = bits >> max(low, 0) << max(low, 0)
        best: int | None = None
        for candidate in (
            _highest(bits & ((1 << (math.floor(centre) + 1)) - 1)),
            _lowest(bits >> math.ceil(centre) << math.ceil(centre)),
        ):
            if candidate is not None and (best is None or abs(candidate - centre) < abs(best - centre)):
                best = candidate
        return best

    def below(self, start: int) -> tuple[int, int | None]:
        """Find the largest sum up to ``start`` and the fewest pieces that make it."""
        total = _highest(self._any() & ((1 << (start + 1)) - 1) & ~1)
        return self._fewest(total)

    def above(self, start: int) -> tuple[int, int | None]:
        """Find the smallest sum from ``start`` up and the fewest pieces that make it."""
        total = _lowest(self._any() >> start << start)
        return self._fewest(total)

    def pack(self, count: int, total: int | None) -> Pack:
        """Name pieces that make a sum, the thickest that can take part first."""
        chosen = []
        for n in range(len(self._pieces), 0, -1):
            if not count or total is None:
                break
            rest = total - self._sizes[n - 1]
            if rest >= 0 and self._after[n - 1][count - 1] >> rest & 1:
                chosen.append(self._pieces[n - 1])
                count, total = count - 1, rest
        return Pack(tuple(chosen))

    def _any(self) -> int:
        every = 0
        for bits in self._after[-1][1:]:
            every |= bits
        return every

    def _fewest(self, total: int | None) -> tuple[int, int | None]:
        if total is None:
            return 0, None
        for count in range(1, self._most + 1):
            if self._after[-1][count] >> total & 1:
                return count, total
        return 0, None


def _steps(thickness: Decimal) -> int:
    steps = thickness / _FINEST
    if steps != steps.to_integral_value():
        raise AxleError(
            "shim", given=f"{thickness} mm", wanted="a thickness to five places of a millimetre"
        )
    return int(steps)


def _highest(bits: int) -> int | None:
    return bits.bit_length() - 1 if bits else None


def _lowest(bits: int) -> int | None:
    return (bits & -bits).bit_length() - 1 if bits else None
