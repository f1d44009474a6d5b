"""The order in which the bolts of a group are tightened."""

from __future__ import annotations

from axle.errors import AxleError


def tightening_order(shape: str, count: int) -> tuple[int, ...]:
    """Bolt numbers in the order in which they are tightened.

    :param shape: one of ``SHAPES``; bolts are numbered once round.
    :param count: n, number of bolts, 1 to 40.
    :returns: each number once; on a circle or rectangle across and then as far from the last as can
        be (star order), on caps and pairs from side to side.
    :raises AxleError: for a number that cannot be.
    :source: common practice (star order).

    >>> tightening_order("circle", 5), tightening_order("circle", 8)
    ((1, 3, 5, 2, 4), (1, 5, 3, 7, 2, 6, 4, 8))
    """
    if not 1 <= count <= 40:
        raise AxleError("bolts", given=f"{count}", wanted="1 to 40")
    half = count // 2
    if shape == "pair_of_circles" and count % 2 == 0:
        one = tightening_order("circle", half)
        return one + tuple(number + half for number in one)
    if shape == "caps" and count % 2 == 0:
        # One bolt of each cap in turn: both caps come down level.
        return tuple(n for i in range(1, half + 1) for n in (i, i + half))
    if shape in ("single", "pair", "caps"):
        return tuple(range(1, count + 1))
    if count % 2:
        return tuple(1 + (i * half) % count for i in range(count))
    pairs = [0]
    while len(pairs) < half:
        rest = [p for p in range(half) if p not in pairs]
        pairs.append(max(rest, key=lambda p: (_nearest(p, pairs, half), _apart(p, pairs[-1], half), -p)))
    order: list[int] = []
    for p in pairs:
        ends = (p, p + half)
        first = max(ends, key=lambda e: _apart(e, order[-1] - 1, count)) if order else p
        order += [first + 1, (first + half) % count + 1]
    return tuple(order)


def _nearest(place: int, others: list[int], count: int) -> int:
    return min(_apart(place, other, count) for other in others)


def _apart(one: int, other: int, count: int) -> int:
    away = abs(one - other) % count
    return min(away, count - away)
