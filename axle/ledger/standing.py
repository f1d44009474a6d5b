"""What an owner asks of the shop as a whole: hours sold and worked, money out, what was done twice."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from decimal import Decimal


@dataclass(frozen=True)
class JobMoney:
    """What the ledger of one job says.

    :param job: its number as it is shown.
    :param hours: hours that somebody was at it, by assembly from 1.
    :param sold: hours on its account.
    :param parts: (price, quantity) of what was bought for it and is not charged yet.
    :param charged: its account with tax, or nothing where none is written.
    :param paid: what came in.
    :param moves: the station of every change that was made on it.
    """

    job: str
    hours: Mapping[int, Decimal]
    sold: Decimal = Decimal(0)
    parts: tuple[tuple[Decimal, Decimal], ...] = ()
    charged: Decimal | None = None
    paid: Decimal = Decimal(0)
    moves: tuple[str, ...] = ()


@dataclass(frozen=True)
class Standing:
    """The shop as a whole.

    :param sold: hours on accounts.
    :param worked: hours that somebody was at jobs.
    :param parts: money in parts that are not charged yet.
    :param again: hours of assemblies after the first.
    :param stations: (station, changes made there), most first.
    :param due: (job, what is still to be paid) of every account that is not settled.
    """

    sold: Decimal
    worked: Decimal
    parts: Decimal
    again: Decimal
    stations: tuple[tuple[str, int], ...]
    due: tuple[tuple[str, Decimal], ...] = field(default=())


def standing(quarter: Iterable[JobMoney], every: Iterable[JobMoney]) -> Standing:
    """Sum up a shop's jobs.

    :param quarter: jobs of the time that is looked at.
    :param every: all jobs, for what is outstanding.
    :source: sums; an assembly after the first is work that was done again.

    >>> job = JobMoney("0001", {1: Decimal(6), 2: Decimal(2)}, sold=Decimal(7))
    >>> standing([job], []).again
    Decimal('2')
    """
    rows, all_rows = list(quarter), list(every)
    none = Decimal(0)
    moved = Counter(station for row in rows for station in row.moves)
    return Standing(
        sold=sum((row.sold for row in rows), none),
        worked=sum((hours for row in rows for hours in row.hours.values()), none),
        parts=sum((price * count for row in all_rows for price, count in row.parts), none),
        again=sum((hours for row in rows for number, hours in row.hours.items() if number > 1), none),
        stations=tuple(moved.most_common()),
        due=tuple(
            (row.job, row.charged - row.paid)
            for row in all_rows
            if row.charged is not None and row.charged != row.paid
        ),
    )
