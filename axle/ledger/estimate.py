"""The hours of an estimate as lines: each stage with its share of the range."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from decimal import Decimal
from typing import Final

from axle.ledger.sums import Group, Line, Terms, rounded

# Hours are written so fine.
_FINEST: Final = Decimal("0.01")


def work_lines(
    minutes: Mapping[tuple[str, str], float],
    hours: tuple[float, float, float],
    rates: Mapping[str, Decimal],
    usual: Decimal,
    fixed: float = 0.0,
) -> Iterator[Line]:
    """Share the hours of a job out over its stages, in the proportion of what these usually take.

    The ends of every line's range add up to the ends of the whole, but for the work at a fixed price.

    :param minutes: usual minutes by (stage, role whose hour is charged); each pair has a line.
    :param hours: of the whole job: one in ten is below, the middle, one in ten is above.
    :param rates: price of an hour by role.
    :param usual: price of an hour of a role without a rate.
    :param fixed: minutes of the job that are at a fixed price, and have no line here.
    :source: proportions.

    >>> lines = work_lines({("Set", ""): 60.0, ("Close", ""): 30.0}, (1.0, 1.5, 3.0), {}, Decimal(80))
    >>> [(line.words, str(line.quantity), str(line.high)) for line in lines]
    [('Set', '1.00', '2.00'), ('Close', '0.50', '1.00')]
    """
    total = sum(minutes.values()) + fixed
    stages = [stage for stage, _ in minutes]
    for (stage, role), taken in minutes.items():
        share = Decimal(str(taken / total)) if total else Decimal(0)
        low, middle, high = ((share * Decimal(str(end))).quantize(_FINEST) for end in hours)
        if middle:
            yield Line(
                Group.WORK,
                f"{stage}, {role}" if role and stages.count(stage) > 1 else stage,
                middle,
                "h",
                rates.get(role, usual),
                stage=stage,
                low=low,
                high=high,
            )


def small_things(worked: Decimal, terms: Terms) -> Line | None:
    """Small things as a share of the work; nothing where the shop asks for none.

    :param worked: amount of the work, before tax, 0 or more.
    :param terms: the shop's.

    >>> line = small_things(Decimal("612.00"), Terms({}, consumables=Decimal(3)))
    >>> str(line.amount) if line else ""
    '18.36'
    """
    if not terms.consumables or not worked:
        return None
    words = f"Small things, {terms.consumables.normalize():f} % of the work"
    price = rounded(worked * terms.consumables / 100)
    return Line(Group.CONSUMABLES, words, Decimal(1), "", price, stage="Parts")
