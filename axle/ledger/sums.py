"""Lines of money and what they add up to."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from decimal import ROUND_HALF_UP, Decimal, InvalidOperation
from enum import Enum
from typing import Final

from axle.errors import AxleError

CENT: Final = Decimal("0.01")
_HUNDRED: Final = Decimal(100)
# No amount of a workshop's job is larger.
MOST: Final = Decimal(1_000_000)


class Group(Enum):
    """What a line of money is for."""

    WORK = "work"
    PARTS = "parts"
    CONSUMABLES = "consumables"
    OUTSIDE = "outside work"
    OTHER = "other"


def rounded(amount: Decimal) -> Decimal:
    """An amount in cents, half a cent up.

    :param amount: any.
    :source: commercial rounding, DIN 1333.

    >>> rounded(Decimal("2.345"))
    Decimal('2.35')
    """
    return amount.quantize(CENT, rounding=ROUND_HALF_UP)


def parse_amount(text: str, what: str, *, below_zero: bool = False) -> Decimal:
    """Read an amount of money.

    :param text: digits with a point or a comma before the cents.
    :param what: the field's name, for a refusal.
    :param below_zero: whether it may be less than nothing.
    :raises AxleError: for what is no amount, below 0, or beyond a million.

    >>> parse_amount("1 249,50", "price")
    Decimal('1249.50')
    """
    plain = text.strip().replace("\u00a0", "").replace(" ", "").replace("'", "").replace("’", "")
    if "," in plain and "." in plain:
        grouped = "," if plain.rindex(",") < plain.rindex(".") else "."
        plain = plain.replace(grouped, "")
    try:
        amount = Decimal(plain.replace(",", "."))
    except InvalidOperation:
        amount = Decimal("NaN")
    if not amount.is_finite() or len(amount.as_tuple().digits) > 12:
        raise AxleError(what, given=f"“{text[:20]}”", wanted="an amount, as 12.50")
    if (amount < 0 and not below_zero) or abs(amount) > MOST:
        least = f"{-MOST:,}" if below_zero else "0"
        raise AxleError(what, given=f"{amount}", wanted=f"{least} to {MOST:,}")
    return rounded(amount)


@dataclass(frozen=True)
class Line:
    """A line of an estimate, a supplement or an account.

    :param group: what it is for.
    :param words: what it is.
    :param quantity: how much, 0 or more.
    :param unit: "h", "l" or "" for pieces.
    :param price: of one, before tax.
    :param stage: of the work it belongs to, or "".
    :param low: quantity of which one in ten is below, or nothing where it is sure.
    :param high: quantity of which one in ten is above, or nothing.
    :param credit: whether it is paid back: a claim, a core.
    """

    group: Group
    words: str
    quantity: Decimal
    unit: str
    price: Decimal
    stage: str = ""
    low: Decimal | None = None
    high: Decimal | None = None
    credit: bool = False

    def __post_init__(self) -> None:
        if self.quantity < 0:
            raise AxleError(self.words, given=f"{self.quantity}", wanted="a quantity of 0 or more")
        if self.price < 0:
            raise AxleError(
                self.words,
                given=f"a price of {self.price}",
                wanted="0 or more",
                do="What is paid back is a credit, not a price below nothing.",
            )

    @property
    def amount(self) -> Decimal:
        """Quantity times price, in cents; below 0 for a credit."""
        return self._at(self.quantity)

    def _at(self, quantity: Decimal) -> Decimal:
        return rounded(quantity * self.price) * (-1 if self.credit else 1)

    @property
    def least(self) -> Decimal:
        """The amount at the low end."""
        return self._at(self.quantity if self.low is None else self.low)

    @property
    def most(self) -> Decimal:
        """The amount at the high end."""
        return self._at(self.quantity if self.high is None else self.high)


@dataclass(frozen=True)
class Terms:
    """What a shop asks for its work.

    :param rates: price of an hour by role, before tax.
    :param margin: on parts [%], 0 or more.
    :param consumables: share of the work for small things [%], 0 or more.
    :param tax: on everything [%], 0 to 50.
    :param deposit: share of an estimate asked for beforehand [%], 0 to 100.
    :param set_up: fixed price of a set-up in place of its hours, or nothing.
    """

    rates: Mapping[str, Decimal]
    margin: Decimal = Decimal(0)
    consumables: Decimal = Decimal(0)
    tax: Decimal = Decimal(0)
    deposit: Decimal = Decimal(0)
    set_up: Decimal | None = None

    def __post_init__(self) -> None:
        limits = {"margin": 300, "consumables": 50, "tax": 50, "deposit": 100}
        for name, most in limits.items():
            value = getattr(self, name)
            if not 0 <= value <= most:
                raise AxleError(name, given=f"{value} %", wanted=f"0 to {most} %")
        for role, rate in self.rates.items():
            if rate < 0:
                raise AxleError(f"rate of the {role}", given=f"{rate}", wanted="0 or more")

    def charged(self, cost: Decimal) -> Decimal:
        """What a part is sold for.

        :param cost: what it cost, 0 or more.

        >>> Terms({}, margin=Decimal(25)).charged(Decimal("10.00"))
        Decimal('12.50')
        """
        return rounded(cost * (1 + self.margin / _HUNDRED))


@dataclass(frozen=True)
class Totals:
    """What lines add up to.

    :param groups: amount by group, before tax.
    :param net: before tax.
    :param tax: on it.
    :param gross: what is paid.
    :param least: what is paid at the low end of each line's range.
    :param most: at the high end.
    :param deposit: asked for beforehand.
    :param paid: what came in already.
    """

    groups: Mapping[Group, Decimal]
    net: Decimal
    tax: Decimal
    gross: Decimal
    least: Decimal
    most: Decimal
    deposit: Decimal = Decimal(0)
    paid: Decimal = Decimal(0)

    @property
    def due(self) -> Decimal:
        """What is still to be paid; below 0 where too much was."""
        return self.gross - self.paid


def add_up(lines: Iterable[Line], terms: Terms, paid: Decimal = Decimal(0)) -> Totals:
    """Add lines up, with tax.

    :param lines: any number.
    :param terms: the shop's tax and deposit.
    :param paid: what came in already, 0 or more.
    :source: tax on the sum of the lines, once, each line rounded to a cent before.

    >>> line = Line(Group.WORK, "set-up", Decimal(3), "h", Decimal(80))
    >>> add_up([line], Terms({}, tax=Decimal(20))).gross
    Decimal('288.00')
    """
    rows = list(lines)
    groups = {
        group: sum((line.amount for line in rows if line.group is group), Decimal(0)) for group in Group
    }
    net = sum(groups.values(), Decimal(0))
    tax = rounded(net * terms.tax / _HUNDRED)
    ends = [sum((getattr(line, end) for line in rows), Decimal(0)) for end in ("least", "most")]
    least, most = (end + rounded(end * terms.tax / _HUNDRED) for end in ends)
    return Totals(
        {group: amount for group, amount in groups.items() if amount},
        net=net,
        tax=tax,
        gross=net + tax,
        least=least,
        most=most,
        deposit=rounded((net + tax) * terms.deposit / _HUNDRED),
        paid=paid,
    )


@dataclass(frozen=True)
class Against:
    """An estimate against what came, of one stage or group.

    :param what: which.
    :param estimate: what was said, hours or money.
    :param actual: what came.
    """

    what: str
    estimate: Decimal
    actual: Decimal

    @property
    def over(self) -> Decimal:
        """By how much more came than was said; below 0 where less did."""
        return self.actual - self.estimate


def against(estimate: Mapping[str, Decimal], actual: Mapping[str, Decimal]) -> tuple[Against, ...]:
    """What was said against what came, one line for each that either has.

    :param estimate: hours or money by stage.
    :param actual: the same, as it came.

    >>> against({"work": Decimal(8)}, {"work": Decimal(9)})[0].over
    Decimal('1')
    """
    names = list(dict.fromkeys([*estimate, *actual]))
    return tuple(
        Against(name, estimate.get(name, Decimal(0)), actual.get(name, Decimal(0))) for name in names
    )
