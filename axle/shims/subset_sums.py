"""Every thickness that a drawer can make, as bits of one large number."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Sequence
from decimal import Decimal
from typing import Final

from axle.errors import AxleError
from axle.shims.pieces import FINEST, Pack, Piece, Rules

# Rows kept to name the pieces again: every so many layers, the ones between are made anew.
_CHECKPOINT: Final = 48


class SubsetSums:
    """Which sums can be made with how many pieces; remembers enough to name the pieces."""

    def __init__(self, pieces: Sequence[Piece], limit: Decimal, rules: Rules) -> None:
        self._most = rules.most
        self._layers, self._must, thin = _layers(pieces, rules)
        whole = [_steps(p.thickness) for layer in self._layers for p in layer]
        divisor = math.gcd(*whole)
        self.step = FINEST * divisor
        self._shifts = [[_steps(p.thickness) // divisor for p in layer] for layer in self._layers]
        self._mask = (1 << (int(limit / self.step) + 2)) - 1
        self._caps = [
            min(rules.most_thin, rules.most) if n < thin else rules.most for n in range(len(self._layers))
        ]
        self._kept = {0: self._first()}
        row = self._kept[0]
        for n in range(len(self._layers)):
            row = self._add(row, n)
            if (n + 1) % _CHECKPOINT == 0:
                self._kept[n + 1] = row
        self._last = row

    @property
    def needs_base(self) -> bool:
        """Whether every pack must hold a base shim."""
        return self._must >= 0

    def _first(self) -> tuple[int, ...]:
        """Nothing chosen: one sum, of no pieces."""
        return (1, *[0] * self._most)

    def _add(self, row: tuple[int, ...], n: int) -> tuple[int, ...]:
        """Offer a layer's pieces to every choice: at most one of them, or exactly one."""
        cap = self._caps[n]
        made = [0] * len(row) if n == self._must else list(row)
        for shift in self._shifts[n]:
            for count in range(cap, 0, -1):
                made[count] |= (row[count - 1] << shift) & self._mask
        return tuple(made)

    def _after(self, n: int) -> list[tuple[int, ...]]:
        """Rows from the checkpoint at or under layer ``n`` up to it."""
        start = n - n % _CHECKPOINT
        rows = [self._kept[start]]
        for layer in range(start, n):
            rows.append(self._add(rows[-1], layer))
        return rows

    def totals(self, count: int, low: int, high: int) -> list[int]:
        """Every sum of ``count`` pieces within [low, high], in steps."""
        bits = (self._last[count] & ((1 << (high + 1)) - 1)) >> low if high >= low else 0
        found = []
        while bits:
            lowest = bits & -bits
            found.append(low + lowest.bit_length() - 1)
            bits ^= lowest
        return found

    def nearest_within(self, count: int, low: int, high: int, centre: Decimal) -> int | None:
        """Find the sum of ``count`` pieces within [low, high] that lies nearest the centre."""
        if high < max(low, 1):
            return None
        bits = self._last[count] & ((1 << (high + 1)) - 1)
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
        return self._fewest(_highest(self._any() & ((1 << (start + 1)) - 1) & ~1))

    def above(self, start: int) -> tuple[int, int | None]:
        """Find the smallest sum from ``start`` up and the fewest pieces that make it."""
        return self._fewest(_lowest(self._any() >> start << start))

    def pack(self, count: int, total: int | None) -> Pack:
        """Name pieces that make a sum, the thickest that can take part first."""
        chosen: list[Piece] = []
        n = len(self._layers)
        while n and count and total is not None:
            rows = self._after(n - 1)
            for before in range(n, n - len(rows), -1):
                row = rows[before - 1 - (n - len(rows))]
                for piece, shift in zip(self._layers[before - 1], self._shifts[before - 1], strict=True):
                    rest = total - shift
                    if 0 < count <= self._caps[before - 1] and rest >= 0 and row[count - 1] >> rest & 1:
                        chosen.append(piece)
                        count, total = count - 1, rest
                        break
            n -= len(rows)
        return Pack(tuple(sorted(chosen, key=lambda piece: -piece.thickness)))

    def _any(self) -> int:
        every = 0
        for bits in self._last[1:]:
            every |= bits
        return every

    def _fewest(self, total: int | None) -> tuple[int, int | None]:
        if total is None:
            return 0, None
        for count in range(1, self._most + 1):
            if self._last[count] >> total & 1:
                return count, total
        return 0, None


def _layers(pieces: Sequence[Piece], rules: Rules) -> tuple[list[list[Piece]], int, int]:
    """Sort pieces into layers, thin ones first, and say which a pack must take from, or −1.

    The last figure is how many layers hold a thin piece, which a rule bounds.

    More of one size than a pack can hold are of no use and are left in the drawer.
    """
    seen: Counter[tuple[Decimal, bool, bool]] = Counter()
    singles, bases, casts = [], [], []
    for piece in sorted(pieces, key=lambda p: (not p.fitted, not p.own)):
        kind = (piece.thickness, piece.cast, piece.is_base)
        seen[kind] += 1
        grouped = piece.cast or (rules.base_first and piece.is_base)
        if seen[kind] > (1 if grouped else rules.most):
            continue
        if rules.base_first and piece.is_base:
            bases.append(piece)
        elif piece.cast:
            casts.append(piece)
        else:
            singles.append(piece)
    # Naming goes from the last layer back: thick before thin, fitted before loose, own before bought.
    singles.sort(key=lambda p: (p.thickness, p.fitted, p.own))
    thin = [[p] for p in singles if p.thickness < rules.thin]
    thick = [[p] for p in singles if p.thickness >= rules.thin]
    groups = [group for group in (casts, bases) if group]
    for group in groups:
        group.sort(key=lambda p: (-p.thickness, not p.fitted, not p.own))
    layers = thin + groups + thick
    return layers, (len(thin) + len(groups) - 1 if bases else -1), len(thin)


def _steps(thickness: Decimal) -> int:
    steps = thickness / FINEST
    if steps != steps.to_integral_value():
        raise AxleError(
            "shim", given=f"{thickness} mm", wanted="a thickness to five places of a millimetre"
        )
    return int(steps)


def _highest(bits: int) -> int | None:
    return bits.bit_length() - 1 if bits else None


def _lowest(bits: int) -> int | None:
    return (bits & -bits).bit_length() - 1 if bits else None
