"""Figures that are neither shims nor torques, as they are typed: speeds, temperatures, volumes."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Final

from axle.errors import AxleError, quoted
from axle.measure.parse import with_point

_NUMBER = re.compile(r"([+-]?(?:\d+\.?\d*|\.\d+))\s*(.*)", re.DOTALL | re.ASCII)
_LONGEST: Final = 40


@dataclass(frozen=True)
class Scale:
    """What a figure measures: the unit in which it is kept, and those in which it may be typed.

    :param symbol: of the unit in which it is kept.
    :param units: (factor, offset) by spelling in lower case: kept = typed × factor + offset.
    :param low: least that is taken, in the unit in which it is kept.
    :param high: most that is taken.
    :param other: the unit in which a shop that thinks in inches reads it; the same where it is "".
    :param decimals: places shown.
    """

    symbol: str
    units: Mapping[str, tuple[float, float]]
    low: float
    high: float
    other: str = ""
    decimals: int = 0

    def show(self, value: float, *, metric: bool = True, decimals: int | None = None) -> str:
        """A kept value with its unit: in the other one where a shop thinks in inches."""
        places = self.decimals if decimals is None else decimals
        symbol = self.symbol if metric or not self.other else self.other
        factor, offset = self.units[symbol.lower()]
        return f"{(value - offset) / factor:,.{places}f} {symbol}"

    def number(self, value: float, *, metric: bool = True) -> str:
        """A kept value as it would be typed into a field in the reader's unit."""
        return self.show(value, metric=metric).rsplit(" ", 1)[0].replace(",", "")

    def both(self, value: float, *, metric: bool = True) -> str:
        """A kept value in both units, the reader's own first."""
        if not self.other:
            return self.show(value)
        return f"{self.show(value, metric=metric)} ({self.show(value, metric=not metric)})"


SPEED: Final = Scale(
    "km/h",
    {"km/h": (1, 0), "kmh": (1, 0), "kph": (1, 0), "mph": (1.609344, 0), "mi/h": (1.609344, 0)},
    0,
    400,
    "mph",
)
DISTANCE: Final = Scale(
    "km",
    {
        "km": (1, 0),
        "miles": (1.609344, 0),
        "mile": (1.609344, 0),
        "mi": (1.609344, 0),
        "m": (0.001, 0),
    },
    0,
    5_000_000,
    "miles",
)
# A temperature that an axle has from a winter yard to burnt oil.
TEMPERATURE: Final = Scale(
    "°C",
    {"°c": (1, 0), "c": (1, 0), "° c": (1, 0), "°f": (5 / 9, -160 / 9), "f": (5 / 9, -160 / 9)},
    -60,
    400,
    "°F",
)
VOLUME: Final = Scale(
    "l",
    {
        "l": (1, 0),
        "litre": (1, 0),
        "litres": (1, 0),
        "liter": (1, 0),
        "liters": (1, 0),
        "ml": (0.001, 0),
        # US liquid measures: 1 gallon is 231 cubic inches.
        "qt": (0.946352946, 0),
        "quart": (0.946352946, 0),
        "quarts": (0.946352946, 0),
        "pt": (0.473176473, 0),
        "pint": (0.473176473, 0),
        "pints": (0.473176473, 0),
        "fl oz": (0.0295735295625, 0),
        "oz": (0.0295735295625, 0),
    },
    0,
    30,
    "qt",
    2,
)
LENGTH: Final = Scale(
    "mm",
    {"mm": (1, 0), "cm": (10, 0), "m": (1000, 0), "in": (25.4, 0), '"': (25.4, 0), "ft": (304.8, 0)},
    0,
    500_000,
    "in",
)
ANGLE: Final = Scale("°", {"°": (1, 0), "deg": (1, 0), "degrees": (1, 0)}, -45, 45, "", 1)
SPIN: Final = Scale("rpm", {"rpm": (1, 0), "1/min": (1, 0), "/min": (1, 0)}, 0, 20_000)
PERCENT: Final = Scale("%", {"%": (1, 0), "per cent": (1, 0), "percent": (1, 0)}, -100, 100, "", 1)
PULSES: Final = Scale(
    "/km",
    {"/km": (1, 0), "per km": (1, 0), "/mile": (1 / 1.609344, 0), "per mile": (1 / 1.609344, 0)},
    0,
    2_000_000,
    "/mile",
)
MINUTES: Final = Scale("min", {"min": (1, 0), "minutes": (1, 0), "h": (60, 0), "hours": (60, 0)}, 0, 6000)

SCALES: Final[Mapping[str, Scale]] = {
    "speed": SPEED,
    "distance": DISTANCE,
    "temperature": TEMPERATURE,
    "volume": VOLUME,
    "length": LENGTH,
    "angle": ANGLE,
    "spin": SPIN,
    "percent": PERCENT,
    "pulses": PULSES,
    "minutes": MINUTES,
}


def read_figure(text: str, scale: Scale, what: str, unit: str = "") -> float:
    """Read a figure with its unit; a number alone takes the field's unit.

    :param text: such as "65 mph", "104", "180 °F".
    :param scale: what it measures.
    :param what: the field's name, for the error.
    :param unit: of a number alone; that of the scale when left out.
    :returns: the value in the scale's unit.
    :raises AxleError: for no number, two units, a unit of something else, or what is out of range.
    :source: mile 1.609344 km, inch 25.4 mm, gallon 231 in³, all exact; °F = 9/5 °C + 32.

    >>> round(read_figure("65 mph", SPEED, "speed"), 1), round(read_figure("212 °F", TEMPERATURE, "oil"))
    (104.6, 100)
    """
    default = unit or scale.symbol
    typed = with_point(text.strip().replace("\N{MINUS SIGN}", "-"))
    wanted = f"a number in {default}"
    match = _NUMBER.fullmatch(typed)
    if match is None or len(typed) > _LONGEST:
        raise AxleError(what, given=quoted(text), wanted=wanted)
    spelling = " ".join(match[2].lower().split()) or default.lower()
    if spelling not in scale.units:
        known = ", ".join(dict.fromkeys(name for name in (scale.symbol, scale.other, default) if name))
        raise AxleError(what, given=quoted(text), wanted=f"one number with one unit: {known}")
    factor, offset = scale.units[spelling]
    value = float(match[1]) * factor + offset
    if not scale.low <= value <= scale.high:
        raise AxleError(
            what, given=quoted(text), wanted=f"{scale.both(scale.low)} to {scale.both(scale.high)}"
        )
    return value


def read_number(text: str, what: str, low: float, high: float) -> float:
    """Read a number without a unit.

    :param text: as typed.
    :param what: the field's name, for the error.
    :param low: least that is taken.
    :param high: most that is taken.
    :raises AxleError: for no number, or one out of range.
    :source: the project's own words.

    >>> read_number("0.83", "gear", 0.3, 20)
    0.83
    """
    typed = with_point(text.strip())
    match = _NUMBER.fullmatch(typed)
    if match is None or match[2] or len(typed) > _LONGEST or not low <= float(match[1]) <= high:
        raise AxleError(what, given=quoted(text), wanted=f"a number from {low:g} to {high:g}")
    return float(match[1])
