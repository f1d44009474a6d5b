"""Quantities at the edge: what a builder types, kept as typed, and what the core computes with.

A number is kept twice, as typed with its unit and converted to the core's unit, so that
0.0085 in stays 0.0085 in on the build sheet in ten years.
"""

from __future__ import annotations

from dataclasses import dataclass
from decimal import ROUND_HALF_UP, Decimal
from enum import Enum
from typing import Final


class Dimension(Enum):
    """What a quantity measures; decides which units it can be typed in."""

    LENGTH = "length"
    TORQUE = "torque"
    COUNT = "count"


@dataclass(frozen=True)
class Unit:
    """A unit a builder types or reads.

    :param symbol: as shown on screen.
    :param dimension: what it measures.
    :param factor: one of this unit in the core's unit [mm or N·m], exact.
    :param spellings: other ways people type it, in lower case.
    :param decimals: places shown on screen.
    """

    symbol: str
    dimension: Dimension
    factor: Decimal
    spellings: tuple[str, ...]
    decimals: int


# 1 in = 25.4 mm and 1 lbf = 4.448 221 615 260 5 N exactly (international yard and pound, 1959;
# standard gravity), so 1 in·lb = 4.448 221 615 260 5 N x 0.0254 m.
_POUND_FORCE: Final = Decimal("4.4482216152605")

THOU = Unit("thou", Dimension.LENGTH, Decimal("0.0254"), ("thou", "th", "mil", "mils", "thous"), 1)
INCH = Unit("in", Dimension.LENGTH, Decimal("25.4"), ("in", "inch", "inches", '"'), 4)
MM = Unit("mm", Dimension.LENGTH, Decimal(1), ("mm", "millimetre", "millimeter"), 3)
HUNDREDTH_MM = Unit("1/100 mm", Dimension.LENGTH, Decimal("0.01"), ("1/100mm", "cmm", "hundredths"), 1)
INCH_POUND = Unit(
    "in·lb",
    Dimension.TORQUE,
    _POUND_FORCE * Decimal("0.0254"),
    ("in-lb", "inlb", "in.lb", "in*lb", "lb-in", "lbin", "in-lbs", "inlbs", "in lb", "in lbs"),
    1,
)
FOOT_POUND = Unit(
    "ft·lb",
    Dimension.TORQUE,
    _POUND_FORCE * Decimal("0.3048"),
    ("ft-lb", "ftlb", "ft.lb", "ft*lb", "lb-ft", "lbft", "ft-lbs", "ftlbs", "ft lb", "ft lbs"),
    0,
)
NEWTON_METRE = Unit("N·m", Dimension.TORQUE, Decimal(1), ("nm", "n-m", "n.m", "n*m", "n m"), 2)
# A bolt's torque is read to a tenth of this at best; the same unit, shown shorter.
BOLT_NEWTON_METRE = Unit("N·m", Dimension.TORQUE, Decimal(1), (), 1)
HOLE = Unit("holes", Dimension.COUNT, Decimal(1), ("holes", "hole"), 1)

UNITS: Final = (THOU, INCH, MM, HUNDREDTH_MM, INCH_POUND, FOOT_POUND, NEWTON_METRE, HOLE)


@dataclass(frozen=True)
class Display:
    """The units in which a shop reads its screens."""

    length: Unit = THOU
    torque: Unit = INCH_POUND
    bolt_torque: Unit = FOOT_POUND

    @property
    def is_metric(self) -> bool:
        """Whether the reader thinks in millimetres, and so in km/h, °C and litres."""
        return self.length is MM

    def unit_for(self, dimension: Dimension, *, bolt: bool = False) -> Unit:
        """Choose the unit for a dimension; bolts have their own torque unit."""
        if dimension is Dimension.LENGTH:
            return self.length
        if dimension is Dimension.TORQUE:
            return self.bolt_torque if bolt else self.torque
        return HOLE

    def show(self, core: Decimal | float, dimension: Dimension = Dimension.LENGTH) -> str:
        """Write a core value in the shop's unit, without the unit's name."""
        return show(core, self.unit_for(dimension))


IMPERIAL: Final = Display()
METRIC: Final = Display(MM, NEWTON_METRE, BOLT_NEWTON_METRE)


def show(core: Decimal | float, unit: Unit, *, sign: bool = False) -> str:
    """Write a core value in a unit with that unit's usual places, without the unit's name.

    :param core: value in the core's unit [mm or N·m].
    :param unit: the unit to show it in.
    :param sign: write a plus before positive values.
    :source: common practice.

    >>> show(0.2159, THOU), show(0.076, THOU, sign=True)
    ('8.5', '+3.0')
    """
    value = (Decimal(str(core)) if isinstance(core, float) else core) / unit.factor
    rounded = value.quantize(Decimal(1).scaleb(-unit.decimals), ROUND_HALF_UP)
    if not rounded:
        rounded = abs(rounded)
    return (
        f"{rounded:+}".replace("-", "\N{MINUS SIGN}")
        if sign
        else f"{rounded}".replace("-", "\N{MINUS SIGN}")
    )


def brief(core: Decimal | float, unit: Unit) -> str:
    """Write a core value as :func:`show` does, without zeros that say nothing; for limits.

    :param core: value in the core's unit [mm or N·m].
    :param unit: the unit to show it in.
    :source: common practice.

    >>> brief(0.1778, THOU), brief(0.2159, THOU)
    ('7', '8.5')
    """
    shown = show(core, unit)
    return shown.rstrip("0").rstrip(".") if "." in shown else shown


def percent(share: float) -> str:
    """Write a chance in whole percent; never as certain what is not.

    :param share: 0 to 1.
    :source: common practice.

    >>> percent(0.774), percent(0.002), percent(0.9991), percent(1.0)
    ('77 %', 'under 1 %', 'over 99 %', '100 %')
    """
    if 0 < share < 0.005:
        return "under 1 %"
    if 0.995 <= share < 1:
        return "over 99 %"
    return f"{share * 100:.0f} %"


def share_percent(share: float) -> str:
    """Write a share in whole percent; one of over a whole too.

    :param share: 0 and more.
    :source: common practice.

    >>> share_percent(0.998), share_percent(1.024)
    ('100 %', '102 %')
    """
    return f"{share * 100:.0f} %"


def signed_percent(share: float, decimals: int = 1) -> str:
    """Write a change in percent, with its sign.

    :param share: change over what it was, −1 and more.
    :param decimals: places shown.
    :source: common practice.

    >>> signed_percent(0.3636), signed_percent(-0.02), signed_percent(0.0)
    ('+36.4 %', '−2.0 %', '0.0 %')
    """
    shown = f"{abs(share) * 100:.{decimals}f} %"
    if not float(shown.removesuffix(" %")):
        return shown
    return f"{'+' if share > 0 else chr(0x2212)}{shown}"


@dataclass(frozen=True)
class Quantity:
    """A value as typed, with its unit, and the same value in the core's unit.

    :param text: exactly what was typed.
    :param value: the number in ``unit``.
    :param unit: the unit it was typed in, or the field's unit when none was typed.
    """

    text: str
    value: Decimal
    unit: Unit

    @property
    def core(self) -> Decimal:
        """The value in the core's unit [mm or N·m], exact."""
        return self.value * self.unit.factor
