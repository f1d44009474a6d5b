"""Choosing the pieces of a pack from what is in the drawer, exactly.

Sums are formed on the whole numbers of the finest step that all the drawer's sizes share, as bits
of one large integer: bit n is set when some choice of pieces adds up to n steps. Shifting by a
piece's size adds that piece to every choice at once. Pieces come in layers, of which a choice takes
one piece at the most: so a rule such as "one cast shim, no more" is a layer.
"""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal
from enum import Enum
from typing import Final

from axle.errors import AxleError

# 0.00001 mm holds a tenth of a thou (0.00254 mm) and a micrometre exactly.
_FINEST: Final = Decimal("0.00001")
_APART: Final = Decimal("0.0254")
MOST_PIECES: Final = 8
# Rows kept to name the pieces again: every so many layers, the ones between are made anew.
_CHECKPOINT: Final = 48
# Packs of few pieces are looked for first: most drawers have one, and it costs a quarter.
_STAGES: Final = (2, 4, 12)


# No pack is thicker than this [mm]: a long solid spacer and its shims.
THICKEST_PACK: Final = 50


def thickest(is_spacer: bool) -> int:
    """What one piece is thinner than [mm].

    :param is_spacer: whether it is a solid spacer, and no shim.
    :source: common practice.

    >>> thickest(True), thickest(False)
    (50, 25)
    """
    return 50 if is_spacer else 25


class Role(Enum):
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
    role: Role = Role.SELECT
    cast: bool = False
    fitted: bool = False
    miced: bool = True
    own: bool = False

    def __post_init__(self) -> None:
        most = thickest(self.role is Role.SPACER)
        if not 0 < self.thickness < most:
            raise AxleError("shim", given=f"{self.thickness} mm", wanted=f"more than 0, under {most} mm")

    @property
    def is_base(self) -> bool:
        """Whether it is a base or master shim, which comes first in its pack."""
        return self.role in (Role.BASE, Role.MASTER)


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


@dataclass(frozen=True)
class Choice:
    """What the drawer offers for a wanted thickness.

    :param pack: the pack within tolerance with the fewest pieces; nothing when none fits.
    :param nearest: the next packs below and above the wanted thickness, of up to 2, 4 or 8 pieces
        as the pack itself needs: eight pieces for a tenth of a thou are no help to anybody.
    """

    pack: Pack | None
    nearest: tuple[Pack, ...]


@dataclass(frozen=True)
class Reach:
    """A thickness that the drawer can make.

    :param thickness: sum [mm].
    :param pieces: fewest pieces that make it.
    """

    thickness: Decimal
    pieces: int


@dataclass(frozen=True)
class Order:
    """What to order so that a wanted pack could be made.

    :param sizes: nominal sizes of the pieces to order [mm], thick ones first.
    :param thickness: the pack that could then be made [mm].
    :param pieces: number of its pieces, the ordered ones included.
    """

    sizes: tuple[Decimal, ...]
    thickness: Decimal
    pieces: int


def choose(wanted: Decimal, tolerance: Decimal, drawer: Iterable[Piece], rules: Rules = USUAL) -> Choice:
    """Choose the pack for a wanted thickness: fewest pieces, then nearest, then thick ones first.

    :param wanted: t [mm], more than 0.
    :param tolerance: how far the pack may be off [mm], 0 or more.
    :param drawer: the pieces at hand, each as mic'd.
    :param rules: how packs are made up.
    :returns: the pack, and the nearest pack on either side of the wanted thickness.
    :raises AxleError: for a wanted thickness or tolerance that makes no sense.
    :source: common practice (few thick pieces spring less than many thin ones); exact by
        construction, held to brute force in the tests.

    >>> drawer = [Piece(1, Decimal("0.50")), Piece(2, Decimal("0.25")), Piece(3, Decimal("0.30"))]
    >>> [p.key for p in choose(Decimal("0.76"), Decimal("0.02"), drawer).pack.pieces]
    [1, 2]
    """
    _check(wanted, tolerance)
    sound = [p for p in drawer if not p.damaged]
    if not sound:
        return Choice(None, ())
    limit = wanted + max(tolerance, *(p.thickness for p in sound))
    for most in sorted({min(stage, rules.most) for stage in _STAGES}):
        table = _Sums(sound, limit, replace(rules, most=most))
        low = math.ceil((wanted - tolerance) / table.step)
        high = math.floor((wanted + tolerance) / table.step)
        centre = wanted / table.step
        for count in range(1, most + 1):
            total = table.nearest_within(count, low, high, centre)
            if total is not None:
                return Choice(table.pack(count, total), _either_side(table, centre))
    return Choice(None, _either_side(table, centre))


def reachable(
    wanted: Decimal, reach: Decimal, drawer: Iterable[Piece], rules: Rules = USUAL
) -> tuple[Reach, ...]:
    """Every thickness around a wanted one that the drawer can make, thin to thick.

    :param wanted: t [mm], more than 0.
    :param reach: how far either way to look [mm], 0 or more.
    :param drawer: the pieces at hand.
    :param rules: how packs are made up.
    :raises AxleError: for a wanted thickness or reach that makes no sense.
    :source: as :func:`choose`.

    >>> drawer = [Piece(1, Decimal("0.50")), Piece(2, Decimal("0.25")), Piece(3, Decimal("0.30"))]
    >>> [str(r.thickness) for r in reachable(Decimal("0.76"), Decimal("0.05"), drawer)]
    ['0.75000', '0.80000']
    """
    _check(wanted, reach)
    sound = [p for p in drawer if not p.damaged]
    if not sound:
        return ()
    table = _Sums(sound, wanted + reach, rules)
    low = max(math.ceil((wanted - reach) / table.step), 1)
    high = math.floor((wanted + reach) / table.step)
    fewest: dict[int, int] = {}
    for count in range(1, rules.most + 1):
        for total in table.totals(count, low, high):
            fewest.setdefault(total, count)
    return tuple(Reach(total * table.step, fewest[total]) for total in sorted(fewest))


def to_order(
    wanted: Decimal,
    tolerance: Decimal,
    drawer: Iterable[Piece],
    sizes: Iterable[Decimal],
    rules: Rules = USUAL,
) -> tuple[Order, ...]:
    """What to order so that a wanted pack could be made: one piece if one will do, else two.

    :param wanted: t [mm], more than 0.
    :param tolerance: how far the pack may be off [mm], 0 or more.
    :param drawer: the pieces at hand.
    :param sizes: sizes that can be ordered [mm].
    :param rules: how packs are made up.
    :returns: orders, the fewest pieces first, then the nearest; none where nothing helps.
    :raises AxleError: for a wanted thickness or tolerance that makes no sense.
    :source: as :func:`choose`.

    >>> drawer = [Piece(1, Decimal("0.50"))]
    >>> to_order(Decimal("0.80"), Decimal("0.01"), drawer, [Decimal("0.25"), Decimal("0.30")])[0].sizes
    (Decimal('0.30'),)
    """
    _check(wanted, tolerance)
    sound = [p for p in drawer if not p.damaged]
    known = sorted(set(sizes), reverse=True)
    singles = [(size,) for size in known]
    pairs = [(one, other) for n, one in enumerate(known) for other in known[n:]]
    tables: dict[int, _Sums | None] = {}
    for groups in (singles, pairs):
        found = []
        for group in groups:
            thin_left = rules.most_thin - sum(size < rules.thin for size in group)
            if thin_left < 0 or len(group) > rules.most:
                continue
            if thin_left not in tables:
                fewer = replace(rules, most_thin=thin_left)
                tables[thin_left] = _Sums(sound, wanted + tolerance, fewer) if sound else None
            order = _with_ordered(wanted, tolerance, group, tables[thin_left], rules.most - len(group))
            if order is not None:
                found.append(order)
        if found:
            found.sort(key=lambda o: (o.pieces, abs(o.thickness - wanted), tuple(-s for s in o.sizes)))
            return tuple(found[:6])
    return ()


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
    return (sum(readings, Decimal(0)) / len(readings)).quantize(_FINEST)


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
        near = min(loose, key=lambda piece: (abs(piece.thickness - size), not piece.fitted), default=None)
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


def broken_rules(pieces: Sequence[Piece], drawer: Iterable[Piece], rules: Rules = USUAL) -> tuple[str, ...]:
    """Say which rules a pack that a builder named goes against; it may be fitted all the same.

    :param pieces: the pack.
    :param drawer: the pieces at hand.
    :param rules: how packs are made up.
    :source: common practice.

    >>> broken_rules([Piece(1, Decimal("2"), cast=True), Piece(2, Decimal("1"), cast=True)], [])
    ('Cast shims are not stacked: they break when one is cocked.',)
    """
    found = []
    if sum(piece.cast for piece in pieces) > 1:
        found.append("Cast shims are not stacked: they break when one is cocked.")
    thin = sum(piece.thickness < rules.thin for piece in pieces)
    if thin > rules.most_thin:
        found.append(f"{thin} thin pieces spring: few thick ones are better.")
    if len(pieces) > rules.most:
        found.append(f"{len(pieces)} pieces are many: {rules.most} is the most the drawer offers.")
    if rules.base_first and not any(p.is_base for p in pieces) and any(p.is_base for p in drawer):
        found.append("No base shim in it: base shims go in on both sides first.")
    return tuple(found)


class _Sums:
    """Which sums can be made with how many pieces; remembers enough to name the pieces."""

    def __init__(self, pieces: Sequence[Piece], limit: Decimal, rules: Rules) -> None:
        self._most = rules.most
        self._layers, self._must, thin = _layers(pieces, rules)
        whole = [_steps(p.thickness) for layer in self._layers for p in layer]
        divisor = math.gcd(*whole)
        self.step = _FINEST * divisor
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


def _with_ordered(
    wanted: Decimal, tolerance: Decimal, group: tuple[Decimal, ...], table: _Sums | None, most: int
) -> Order | None:
    """The pack with the fewest pieces that ordered ones make possible, or nothing."""
    bought = sum(group, Decimal(0))
    if abs(bought - wanted) <= tolerance and (table is None or not table.needs_base):
        return Order(group, bought, len(group))
    rest = wanted - bought
    if rest <= 0 or table is None:
        return None
    low, high = math.ceil((rest - tolerance) / table.step), math.floor((rest + tolerance) / table.step)
    for count in range(1, most + 1):
        total = table.nearest_within(count, low, high, rest / table.step)
        if total is not None:
            return Order(group, bought + total * table.step, len(group) + count)
    return None


def _either_side(table: _Sums, centre: Decimal) -> tuple[Pack, ...]:
    below, above = table.below(math.floor(centre)), table.above(math.ceil(centre))
    return tuple(table.pack(count, total) for count, total in (below, above) if total)


def _check(wanted: Decimal, tolerance: Decimal) -> None:
    if not 0 < wanted < THICKEST_PACK:
        raise AxleError(
            "wanted pack", given=f"{wanted:.3f} mm", wanted=f"more than 0, under {THICKEST_PACK} mm"
        )
    if tolerance < 0:
        raise AxleError("pack rule", given=f"±{tolerance} mm", wanted="±0 or more")


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
