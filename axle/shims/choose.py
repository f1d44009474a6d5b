"""Choosing the pieces of a pack from what is in the drawer, exactly.

Sums are formed on the whole numbers of the finest step that all the drawer's sizes share, as bits
of one large integer: bit n is set when some choice of pieces adds up to n steps. Shifting by a
piece's size adds that piece to every choice at once. Pieces come in layers, of which a choice takes
one piece at the most: so a rule such as "one cast shim, no more" is a layer.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal
from typing import Final

from axle.errors import AxleError
from axle.shims.pieces import THICKEST_PACK, USUAL, Pack, Piece, Rules
from axle.shims.subset_sums import SubsetSums

# Packs of few pieces are looked for first: most drawers have one, and it costs a quarter.
_STAGES: Final = (2, 4, 12)


@dataclass(frozen=True)
class PackChoice:
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


def choose(
    wanted: Decimal, tolerance: Decimal, drawer: Iterable[Piece], rules: Rules = USUAL
) -> PackChoice:
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
        return PackChoice(None, ())
    limit = wanted + max(tolerance, *(p.thickness for p in sound))
    for most in sorted({min(stage, rules.most) for stage in _STAGES}):
        table = SubsetSums(sound, limit, replace(rules, most=most))
        low = math.ceil((wanted - tolerance) / table.step)
        high = math.floor((wanted + tolerance) / table.step)
        centre = wanted / table.step
        for count in range(1, most + 1):
            total = table.nearest_within(count, low, high, centre)
            if total is not None:
                return PackChoice(table.pack(count, total), _either_side(table, centre))
    return PackChoice(None, _either_side(table, centre))


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
    table = SubsetSums(sound, wanted + reach, rules)
    low = max(math.ceil((wanted - reach) / table.step), 1)
    high = math.floor((wanted + reach) / table.step)
    fewest: dict[int, int] = {}
    for count in range(1, rules.most + 1):
        for total in table.totals(count, low, high):
            fewest.setdefault(total, count)
    return tuple(Reach(total * table.step, fewest[total]) for total in sorted(fewest))


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
    lines = []
    if sum(piece.cast for piece in pieces) > 1:
        lines.append("Cast shims are not stacked: they break when one is cocked.")
    thin = sum(piece.thickness < rules.thin for piece in pieces)
    if thin > rules.most_thin:
        lines.append(f"{thin} thin pieces spring: few thick ones are better.")
    if len(pieces) > rules.most:
        lines.append(f"{len(pieces)} pieces are many: {rules.most} is the most the drawer offers.")
    if rules.base_first and not any(p.is_base for p in pieces) and any(p.is_base for p in drawer):
        lines.append("No base shim in it: base shims go in on both sides first.")
    return tuple(lines)


def _with_ordered(
    wanted: Decimal, tolerance: Decimal, group: tuple[Decimal, ...], table: SubsetSums | None, most: int
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


def _either_side(table: SubsetSums, centre: Decimal) -> tuple[Pack, ...]:
    below, above = table.below(math.floor(centre)), table.above(math.ceil(centre))
    return tuple(table.pack(count, total) for count, total in (below, above) if total)


def _check(wanted: Decimal, tolerance: Decimal) -> None:
    if not 0 < wanted < THICKEST_PACK:
        raise AxleError(
            "wanted pack", given=f"{wanted:.3f} mm", wanted=f"more than 0, under {THICKEST_PACK} mm"
        )
    if tolerance < 0:
        raise AxleError("pack rule", given=f"±{tolerance} mm", wanted="±0 or more")


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
    tables: dict[int, SubsetSums | None] = {}
    for groups in (singles, pairs):
        found = []
        for group in groups:
            thin_left = rules.most_thin - sum(size < rules.thin for size in group)
            if thin_left < 0 or len(group) > rules.most:
                continue
            if thin_left not in tables:
                fewer = replace(rules, most_thin=thin_left)
                tables[thin_left] = SubsetSums(sound, wanted + tolerance, fewer) if sound else None
            order = _with_ordered(
                wanted, tolerance, group=group, table=tables[thin_left], most=rules.most - len(group)
            )
            if order is not None:
                found.append(order)
        if found:
            found.sort(key=lambda o: (o.pieces, abs(o.thickness - wanted), tuple(-s for s in o.sizes)))
            return tuple(found[:6])
    return ()
