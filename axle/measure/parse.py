"""What was typed: a number with its unit, and a question where it looks like another unit."""

from __future__ import annotations

import re
from dataclasses import dataclass
from decimal import Decimal
from typing import Final

from axle.errors import AxleError
from axle.measure.units import (
    FOOT_POUND,
    HOLE,
    HUNDREDTH_MM,
    INCH,
    INCH_POUND,
    MM,
    NEWTON_METRE,
    THOU,
    UNITS,
    Dimension,
    Quantity,
    Unit,
    show,
)

_BY_SPELLING: Final = {
    spelling: unit for unit in UNITS for spelling in (*unit.spellings, unit.symbol.lower())
}
_NUMBER = re.compile(r"([+-]?(?:\d+\.?\d*|\.\d+))\s*(.*)", re.DOTALL | re.ASCII)
_LONGEST_ENTRY: Final = 40
_LARGEST: Final = Decimal(1_000_000)
# Nothing in this trade is read to a tenth of a thou's tenth; a builder who types .0085 into a
# field in thou means inches.
_LEAST_THOU: Final = Decimal("0.1")


@dataclass(frozen=True)
class Plausible:
    """The range outside which a reading is questioned, in the core's unit (not a limit)."""

    low: Decimal
    high: Decimal

    def holds(self, core: Decimal) -> bool:
        """Say whether a value in the core's unit lies within, ends included."""
        return self.low <= core <= self.high


def unit_named(name: str, what: str = "unit") -> Unit:
    """Find a unit by its symbol or any usual spelling.

    :param name: symbol or spelling, any case.
    :param what: the field's name, for the error.
    :raises AxleError: when no unit is called that.
    :source: common practice.

    >>> unit_named("in-lb").symbol
    'in·lb'
    """
    key = re.sub(r"\s+", " ", name.strip().lower().replace("\N{MIDDLE DOT}", "·"))
    unit = _BY_SPELLING.get(key) or _BY_SPELLING.get(key.replace(" ", "")) or _as_torque(key)
    if unit is None:
        known = ", ".join(u.symbol for u in UNITS)
        raise AxleError(what, given=f"the unit “{name.strip()[:20]}”", wanted=f"one of {known}")
    return unit


# A torque's two parts in any order, with whatever stands between them: lbf·in, inch-pounds, ft.lbs, N m.
_LENGTH_WORDS: Final = {"in": "in", "inch": "in", "inches": "in", "ft": "ft", "foot": "ft", "feet": "ft"}
_FORCE_WORDS: Final = {"lb", "lbs", "lbf", "pound", "pounds"}
_METRE_WORDS: Final = {"m", "metre", "metres", "meter", "meters"}
_NEWTON_WORDS: Final = {"n", "newton", "newtons"}


def _as_torque(name: str) -> Unit | None:
    """A torque's unit by the words of its parts, or nothing."""
    joined = re.fullmatch(r"(lbf?s?)(in|ft)|(in|ft)(lbf?s?)", name)
    parts = [p for p in joined.groups() if p] if joined else re.split(r"[\s·.*×-]+", name)
    words = set(parts)
    if len(parts) != 2:
        return None
    if words & _NEWTON_WORDS and words & _METRE_WORDS:
        return NEWTON_METRE
    lengths = [_LENGTH_WORDS[word] for word in parts if word in _LENGTH_WORDS]
    if len(lengths) == 1 and words & _FORCE_WORDS:
        return INCH_POUND if lengths[0] == "in" else FOOT_POUND
    return None


def parse(text: str, default: Unit, what: str = "value") -> Quantity:
    """Read what a builder typed: a number, alone or with a unit.

    A number alone takes the field's unit; in a field in thou a number below 0.1 is taken as
    inches, since ".0085" is never a fraction of a thou. A minus before a zero is a production
    mark and means zero.

    :param text: such as "8.5", ".0085", "8.5 thou", "0.22 mm", "19 in-lb", "-0".
    :param default: the field's unit.
    :param what: the field's name, for the error.
    :raises AxleError: empty, not a number, a unit of the wrong dimension, or absurdly large.
    :source: common practice.

    >>> parse("8.5", THOU).core
    Decimal('0.21590')
    >>> parse(".0085", THOU).unit.symbol
    'in'
    >>> parse("-0", THOU).value
    Decimal('0')
    """
    example = f"a number in {default.symbol}, such as {_example(default)}"
    typed = text.strip().replace("\N{MINUS SIGN}", "-")
    if not typed:
        raise AxleError(what, given="nothing", wanted=example)
    shown = f"“{typed[:24]}”"
    if len(typed) > _LONGEST_ENTRY:
        raise AxleError(what, given=shown, wanted=example)
    typed = with_point(typed)
    if re.fullmatch(r"[+-]?\d+,\d+.*", typed):
        raise AxleError(what, given=shown, wanted=example, do="Write the decimal point as a point.")
    match = _NUMBER.fullmatch(typed)
    if match is None:
        raise AxleError(what, given=shown, wanted=example)
    value = Decimal(match[1])
    unit = unit_named(match[2], what) if match[2].strip() else default
    if unit.dimension is not default.dimension:
        raise AxleError(what, given=shown, wanted=f"a {default.dimension.value} in {default.symbol}")
    if abs(value) > _LARGEST:
        raise AxleError(what, given=shown, wanted=f"less than {_LARGEST:,} {unit.symbol}")
    if unit is THOU and not match[2].strip() and 0 < abs(value) < _LEAST_THOU:
        unit = INCH
    return Quantity(text.strip(), value or Decimal(0), unit)


def with_point(typed: str) -> str:
    """A decimal comma as a point, where it can only be one: three digits behind it may be thousands.

    :param typed: a number as typed, with or without a unit.
    :source: common practice.

    >>> with_point("0,22 mm"), with_point("1,200")
    ('0.22 mm', '1,200')
    """
    comma = re.fullmatch(r"([+-]?\d*),(\d+)(\D.*)?", typed, re.DOTALL | re.ASCII)
    if comma is None or (len(comma[2]) == 3 and comma[1].lstrip("+-").lstrip("0")):
        return typed
    return f"{comma[1]}.{comma[2]}{comma[3] or ''}"


_WARMING = re.compile(
    r"\s*([+-]?\d+(?:[.,]\d+)?)\s*(?:°|degrees?)?\s*([CFK]?)\s*", re.IGNORECASE | re.ASCII
)


def parse_warming(text: str, what: str = "warming") -> float:
    """Read by how many degrees something warms, in °C or °F; a number alone is in °C.

    :param text: such as "50", "50 °C" or "90 °F".
    :param what: the field's name, for the error.
    :returns: difference of temperature [K].
    :raises AxleError: for what is no difference of temperature.
    :source: a degree Fahrenheit is 5/9 of a kelvin.

    >>> parse_warming("90 °F"), parse_warming("50")
    (50.0, 50.0)
    """
    found = _WARMING.fullmatch(text)
    if found is None:
        raise AxleError(what, given=f"“{text.strip()[:20]}”", wanted="a number in °C or °F, such as 50 °C")
    degrees = float(found[1].replace(",", "."))
    return degrees * 5 / 9 if found[2].upper() == "F" else degrees


def echo(quantity: Quantity) -> str:
    """Repeat a quantity in both systems, so that a slip of unit is seen at once.

    :param quantity: what was typed.
    :source: common practice.

    >>> echo(parse("11.6", THOU))
    '0.0116 in · 0.295 mm'
    >>> echo(parse("19", INCH_POUND))
    '19.0 in·lb · 2.15 N·m'
    """
    both = {
        Dimension.LENGTH: (INCH, MM),
        Dimension.TORQUE: (INCH_POUND, NEWTON_METRE),
        Dimension.COUNT: (HOLE,),
    }[quantity.unit.dimension]
    if quantity.unit is FOOT_POUND:
        both = (FOOT_POUND, NEWTON_METRE)
    return " · ".join(f"{show(quantity.core, unit)} {unit.symbol}" for unit in both)


def question(
    quantity: Quantity, plausible: Plausible, finest: Decimal | None = None, home: Unit | None = None
) -> tuple[str, Unit | None] | None:
    """Question a magnitude that is unusual for what it measures.

    :param quantity: what was typed.
    :param plausible: the usual range, in the core's unit.
    :param finest: what can be read at all of it [mm], or nothing: a bare number under it is asked about.
    :param home: unit in which the reader thinks; that of the quantity when left out.
    :returns: nothing when the value is usual; else the question, and the unit that would make
        it usual if there is one.
    :source: common practice (in·lb and ft·lb, thou and hundredths of a millimetre are confused).

    >>> question(parse("19 ft-lb", INCH_POUND), Plausible(Decimal("0.2"), Decimal(6)))[0]
    '19 ft·lb? That is unusual here. Did you mean 19 in·lb?'
    """
    too_fine = finest is not None and _is_bare(quantity) and 0 < abs(quantity.core) < finest
    if plausible.holds(quantity.core) and not too_fine:
        return None
    number = f"{quantity.value.normalize():f}"
    least = finest if too_fine and finest is not None else Decimal(0)
    odd = "finer than it is read" if too_fine else "unusual"
    asked = f"{number} {quantity.unit.symbol}? That is {odd} here."
    for unit in _likely(home or quantity.unit):
        same_kind = unit.dimension is quantity.unit.dimension and unit is not quantity.unit
        meant = quantity.value * unit.factor
        if same_kind and plausible.holds(meant) and abs(meant) >= least:
            return f"{asked} Did you mean {as_meant(quantity, unit)}?", unit
    if too_fine:
        return f"{asked} It is read to {show(least, quantity.unit)} {quantity.unit.symbol}.", None
    usual = f"{show(plausible.low, quantity.unit)} to {show(plausible.high, quantity.unit)}"
    return f"{asked} Usual is {usual} {quantity.unit.symbol}.", None


def _is_bare(quantity: Quantity) -> bool:
    """Whether a number was typed without a unit."""
    return re.fullmatch(r"[+-]?[\d.,]+", quantity.text.replace("\N{MINUS SIGN}", "-").strip()) is not None


def _likely(unit: Unit) -> tuple[Unit, ...]:
    """Units that may have been meant, the likeliest first: a metric shop thinks in hundredths."""
    torques = (INCH_POUND, FOOT_POUND, NEWTON_METRE)
    if unit in (MM, HUNDREDTH_MM):
        return (*torques, HUNDREDTH_MM, MM, INCH, THOU)
    return (*torques, THOU, INCH, HUNDREDTH_MM, MM)


def as_meant(quantity: Quantity, unit: Unit) -> str:
    """A number in another unit, as it would be typed: hundredths as millimetres.

    :param quantity: what was typed.
    :param unit: what it may have been meant in.
    :source: common practice.

    >>> as_meant(parse("18", MM), HUNDREDTH_MM)
    '0.18 mm'
    """
    value, shown = quantity.value, unit
    if unit is HUNDREDTH_MM:
        value, shown = quantity.value / 100, MM
    return f"{value.normalize():f} {shown.symbol}"


def _example(unit: Unit) -> str:
    return {"thou": "8.5", "in": "0.0085", "mm": "0.22", "in·lb": "19", "ft·lb": "60"}.get(unit.symbol, "2")


def between_ends(one: Quantity, other: Quantity, text: str) -> Quantity:
    """What was read where a dial stood at two figures: the distance between them.

    :param one: where it stood at one end of the swing.
    :param other: where it stood at the other, in the same unit.
    :param text: both as typed.
    :source: common practice.

    >>> float(between_ends(parse("40", THOU), parse("52", THOU), "40 to 52").value)
    12.0
    """
    return Quantity(text.strip(), abs(other.value - one.value), other.unit)
