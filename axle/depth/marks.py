"""What a figure etched on a pinion means, and the distance that a pinion is to stand at."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass
from enum import Enum
from typing import Final

from axle.depth.result import Term
from axle.errors import AxleError, quoted
from axle.measure.parse import parse
from axle.measure.uncertainty import EXACT, Measured, rectangular
from axle.measure.units import HUNDREDTH_MM, INCH, MM, THOU, Quantity, Unit

# A deviation is etched in whole thousandths of an inch or hundredths of a millimetre.
THOU_STEP: Final = 0.0254
HUNDREDTH_STEP: Final = 0.01
# A mark beyond this is a unit slip or a whole distance, not a deviation (common practice, no source).
_LARGEST_DEVIATION: Final = 1.0


class MarkConvention(Enum):
    """What a figure marked on the pinion means."""

    LONGER_IS_PLUS = "longer"
    SHORTER_IS_PLUS = "shorter"
    DISTANCE = "distance"


# Units in which pinions are marked, by the name that is chosen beside the mark.
MARK_UNITS: Mapping[str, Unit] = {"thou": THOU, "1/100 mm": HUNDREDTH_MM, "mm": MM, "in": INCH}
# A deviation beyond this is asked about [mm]: 6 thou, more than pinions of one design differ by.
LARGE_MARK: Final = 0.15


def read_mark(text: str, unit: str, what: str = "mark on the pinion") -> Quantity:
    """Read a mark in the unit that was chosen beside it; nothing is guessed from its size.

    :param text: as etched, such as "+2" or "-0"; a unit that is typed behind it counts.
    :param unit: a key of :data:`MARK_UNITS`.
    :param what: the field's name, for the error.
    :returns: the mark; kept with its unit unless that is thou.
    :raises AxleError: for a unit that no pinion is marked in, or a text that is no number.
    :source: common practice: whole thousandths of an inch, hundredths of a millimetre, or a distance.

    >>> read_mark("+0.02", "mm").core
    Decimal('0.02')
    >>> read_mark("2", "1/100 mm").text
    '2 1/100 mm'
    """
    if unit not in MARK_UNITS:
        wanted = " or ".join(MARK_UNITS)
        raise AxleError("unit of the mark", given=quoted(unit, 12), wanted=wanted)
    bare = re.fullmatch(r"[+\-\N{MINUS SIGN}]?[\d.,]+", text.strip()) is not None
    quantity = parse(f"{text.strip()} {unit}" if bare else text, MARK_UNITS[unit], what)
    return Quantity(
        text.strip() if bare and unit == "thou" else quantity.text, quantity.value, quantity.unit
    )


@dataclass(frozen=True)
class Mark:
    """What is etched on the pinion.

    :param value: as etched [mm]; for ``DISTANCE`` the whole distance from axis to face.
    :param convention: what it means; belongs to the gear set.
    :param step: last place of the mark [mm].
    :param confirmed: whether somebody said in words what it means; a mark of zero needs nobody.
    :raises AxleError: for a deviation that no pinion has: the unit is wrong.
    """

    value: float = 0.0
    convention: MarkConvention = MarkConvention.LONGER_IS_PLUS
    step: float = THOU_STEP
    confirmed: bool = True

    def __post_init__(self) -> None:
        if self.convention is MarkConvention.DISTANCE:
            if self.value < 0:
                raise AxleError("pinion mark", given=f"{self.value:g} mm", wanted="a distance over 0")
        elif abs(self.value) > _LARGEST_DEVIATION:
            raise AxleError(
                "pinion mark",
                given=f"a deviation of {self.value:.3f} mm ({self.value / THOU_STEP:.1f} thou)",
                wanted="1 mm (39 thou) or less, either way",
                do="Check its unit: thou, or hundredths of a millimetre. Or is it a whole distance?",
            )

    @property
    def is_clear(self) -> bool:
        """Whether it can be used: confirmed, or a zero that means the same by every convention."""
        return self.confirmed or (self.value == 0 and self.convention is not MarkConvention.DISTANCE)

    @property
    def spread(self) -> float:
        """Standard uncertainty of the mark [mm], from its last place."""
        return rectangular(self.step)


def mark_deviation(value: float, convention: MarkConvention, nominal: float = 0.0) -> float:
    """Turn a pinion's mark into m, the deviation of its mounting distance from nominal.

    :param value: the mark [mm]; for ``DISTANCE`` the marked axis-to-face distance.
    :param convention: what the mark means; belongs to the gear set.
    :param nominal: nominal mounting distance [mm]; wanted for ``DISTANCE`` only.
    :returns: m [mm], > 0 where the pinion wants to sit further from the ring gear's axis.
    :raises AxleError: for a marked distance without a nominal one to compare it with.
    :source: common practice; some makers mark with the opposite sign.

    >>> mark_deviation(0.05, MarkConvention.SHORTER_IS_PLUS)
    -0.05
    """
    if convention is MarkConvention.DISTANCE:
        if nominal <= 0:
            raise AxleError(
                "pinion mark",
                given=f"a distance of {value:g} mm",
                wanted="the axle's nominal mounting distance beside it",
                do="Add it to the spec sheet.",
            )
        return value - nominal
    return value if convention is MarkConvention.LONGER_IS_PLUS else -value + 0.0


@dataclass(frozen=True)
class Masters:
    """The axle's own dimensions, from which the required distance follows.

    :param nominal: nominal mounting distance, ring axis to the pinion's face [mm], or nothing.
    :param seat: ring axis to the pinion's bearing seat [mm], the master that goes with a measured
        head height, or nothing.
    :param head: measured height of the pinion's head, or nothing.
    """

    nominal: float | None = None
    seat: float | None = None
    head: Measured | None = None


def required_terms(mark: Mark, masters: Masters) -> tuple[Term, ...]:
    """Say at what distance from the ring gear's axis the pinion's face is to stand, as a sum.

    A marked distance replaces nominal, mark and head height together. Else a master with a measured
    head height comes before the nominal distance: it leaves the head's own tolerance out.

    :param mark: what is etched on the pinion.
    :param masters: the axle's own dimensions.
    :returns: lines that add up to the required distance [mm].
    :raises AxleError: when the head is taller than its master, or no dimension is known.
    :source: common practice; required = (axis to bearing seat) + m − (head height).

    >>> [term.value for term in required_terms(Mark(0.05), Masters(nominal=90.2))]
    [90.2, 0.05]
    """
    if mark.convention is MarkConvention.DISTANCE:
        return (Term("distance marked on the pinion", mark.value, spread=mark.spread, shared="mark"),)
    deviation = Term(
        "pinion mark", mark_deviation(mark.value, mark.convention), spread=mark.spread, shared="mark"
    )
    if masters.seat and masters.head:
        if masters.head.value >= masters.seat:
            raise AxleError(
                "head height",
                given=f"{masters.head.value:.3f} mm",
                wanted=f"less than the master dimension, {masters.seat:.3f} mm to the bearing seat",
                do="Measure the head from its face to the bearing seat, and check both units.",
            )
        return (
            Term("master: axis to bearing seat", masters.seat),
            deviation,
            Term("head height", -masters.head.value, spread=masters.head.spread, shared="head"),
        )
    if not masters.nominal:
        raise AxleError(
            "required distance",
            given="no nominal mounting distance on the sheet, and no master with a head height",
            wanted="one of the two",
            do="Add it to the spec sheet, or measure depth another way.",
        )
    return (Term("nominal mounting distance", masters.nominal, EXACT.spread), deviation)


def meaning(mark: Mark, depth_sign: int) -> str:
    """Say in words what a mark does to pinion and shim.

    :param mark: what is etched [mm].
    :param depth_sign: the layout's ``depth_sign``.
    :source: common practice.

    >>> meaning(Mark(0.05), 1)
    'The pinion wants to stand further out from the ring gear: a thinner depth shim.'
    """
    if mark.convention is MarkConvention.DISTANCE:
        return "The figure is the whole distance from the ring gear's axis to the pinion's face."
    deviation = mark_deviation(mark.value, mark.convention)
    if not deviation:
        return "Nothing: the pinion wants its nominal distance."
    out = deviation > 0
    thin = out == (depth_sign > 0)
    direction = "further out from" if out else "closer in to"
    shim = "thinner" if thin else "thicker"
    return f"The pinion wants to stand {direction} the ring gear: a {shim} depth shim."
