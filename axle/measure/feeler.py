"""Feelers as what they are: an interval between the blade that passes and the one that binds."""

from __future__ import annotations

import re
from dataclasses import dataclass
from decimal import Decimal
from typing import Final

from axle.errors import AxleError
from axle.measure.parse import parse
from axle.measure.uncertainty import Measured, rectangular
from axle.measure.units import Quantity, Unit

_BOUND: Final = re.compile(r"\s*<\s*(\S.*)", re.DOTALL)
_BETWEEN: Final = re.compile(
    r"\s*([\d.]+)\s*(?:-|\.\.|\N{EN DASH}|to)\s*([\d.]+)\s*(.*)", re.DOTALL | re.ASCII
)


@dataclass(frozen=True)
class Interval:
    """A gap known to lie between two blades.

    :param passes: the thickest blade that passes freely [mm], 0 where none will enter.
    :param binds: the thinnest that will not enter [mm], more than ``passes``.
    :raises AxleError: for an interval the wrong way round, or below nothing.
    """

    passes: Decimal
    binds: Decimal

    def __post_init__(self) -> None:
        if not 0 <= self.passes < self.binds:
            raise AxleError(
                "feeler",
                given=f"{self.passes:g} to {self.binds:g} mm",
                wanted="the blade that passes, then the thicker one that binds",
            )

    @property
    def middle(self) -> Decimal:
        """The best estimate [mm]: half way."""
        return (self.passes + self.binds) / 2

    @property
    def measured(self) -> Measured:
        """The gap as a value with its uncertainty, rectangular between the blades.

        Source: JCGM 100:2008, 4.3.7.
        """
        return Measured(float(self.middle), rectangular(float(self.binds - self.passes)))


def parse_feeler(text: str, unit: Unit, what: str) -> tuple[Quantity, Interval | None]:
    """Read what was found with feelers: the blade that drags, two blades, or a bound.

    :param text: such as "12" (drags), "11-13" (11 passes, 13 binds), "<2" (2 will not enter).
    :param unit: the field's unit.
    :param what: the field's name, for the error.
    :returns: the value as typed, and the interval where one was typed.
    :raises AxleError: for what is none of the three.
    :source: common practice; a blade that will not enter bounds the gap, it does not make it zero.

    >>> from axle.measure.units import THOU
    >>> parse_feeler("11-13", THOU, "feeler")[1].middle
    Decimal('0.3048')
    >>> parse_feeler("<2", THOU, "feeler")[0].core
    Decimal('0.0254')
    """
    bound, between = _BOUND.fullmatch(text), _BETWEEN.fullmatch(text)
    if bound:
        least, most = Decimal(0), parse(bound[1], unit, what)
    elif between:
        most = parse(f"{between[2]} {between[3]}".strip(), unit, what)
        # The first blade is in the unit that stands behind the second.
        least = parse(f"{between[1]} {most.unit.symbol}", unit, what).core
    else:
        return parse(text, unit, what), None
    interval = Interval(least, most.core)
    value = interval.middle / most.unit.factor
    return Quantity(text.strip(), value.normalize(), most.unit), interval
