"""Standard uncertainties, combined as in the GUM (JCGM 100:2008)."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

from axle.errors import AxleError

# For how many readings it counts that the widths are held to be right: by the log score of what was said,
# in simulated worlds (docs/decisions/035).
_HELD_AS: Final = 12.0
# No job scatters by less, or by more, than this against what is held. From memory.
_LEAST_RATIO: Final = 0.5
_MOST_RATIO: Final = 2.0


@dataclass(frozen=True)
class Measured:
    """A measured value with its standard uncertainty.

    :param value: best estimate, in the core's unit.
    :param spread: standard uncertainty, same unit, 0 or more.
    :raises AxleError: for a negative spread.
    """

    value: float
    spread: float = 0.0

    def __post_init__(self) -> None:
        if self.spread < 0:
            raise AxleError("uncertainty", given=f"{self.spread:g}", wanted="0 or more")


EXACT: Final = Measured(0.0)


def mean_of(readings: Sequence[float], *spreads: float) -> Measured:
    """Average repeated readings of one quantity.

    :param readings: one or more, in one unit.
    :param spreads: standard uncertainties that every reading has alike, such as the instrument's
        resolution; averaging does not lessen them.
    :raises AxleError: when there are no readings.
    :source: JCGM 100:2008, 4.2.3 and 5.1.2.

    >>> mean_of([1.0, 2.0, 3.0]).value
    2.0
    """
    return Measured(sum(readings) / max(len(readings), 1), combined(repeatability(readings), *spreads))


def rectangular(step: float) -> float:
    """Standard uncertainty of a value known only to lie within one step of a scale.

    :param step: full width of the step, same unit as the result, 0 or more.
    :raises AxleError: for a negative step.
    :source: JCGM 100:2008, 4.3.7 (half width over √3).

    >>> round(rectangular(0.0254), 5)
    0.00733
    """
    if step < 0:
        raise AxleError("resolution", given=f"{step:g}", wanted="0 or more")
    return step / (2 * math.sqrt(3))


def repeatability(readings: Sequence[float]) -> float:
    """Standard uncertainty of the mean of repeated readings, s/√n; 0 for a single reading.

    :param readings: repeated readings of one quantity, any unit.
    :raises AxleError: when there are none.
    :source: JCGM 100:2008, 4.2.3.

    >>> round(repeatability([1.0, 2.0, 3.0]), 4)
    0.5774
    """
    count = len(readings)
    if count == 0:
        raise AxleError("readings", given="none", wanted="at least one")
    if count == 1:
        return 0.0
    mean = sum(readings) / count
    variance = sum((value - mean) ** 2 for value in readings) / (count - 1)
    return math.sqrt(variance / count)


def combined(*parts: float) -> float:
    """Combine independent standard uncertainties: root of the sum of squares.

    :param parts: standard uncertainties in one unit.
    :source: JCGM 100:2008, 5.1.2.

    >>> combined(3.0, 4.0)
    5.0
    """
    return math.hypot(*parts)


def pack_uncertainty(pieces: int, zero_error: float, random: float) -> float:
    """Standard uncertainty of a pack measured piece by piece with one micrometer.

    The micrometer's zero error is the same in every piece, so it adds once per piece; the random
    part grows with the root of the number.

    :param pieces: n, number of pieces, 0 or more.
    :param zero_error: standard uncertainty of the micrometer's zero [mm].
    :param random: standard uncertainty of one reading [mm].
    :source: JCGM 100:2008, 5.2 (correlated and independent parts).

    >>> round(pack_uncertainty(4, 0.001, 0.002), 5)
    0.00566
    """
    return combined(pieces * zero_error, math.sqrt(pieces) * random)


def birge_ratio(chi_square: float, count: int) -> float:
    """By how much readings scatter more than the widths that are held of them: 1 where they are right.

    One figure stands for all widths of one job: hands, parts and instruments of a careful shop are better
    than what is held of all shops, those of a hurried one worse.

    :param chi_square: squares of what each reading lies off what was held before it, in variances of that,
        added up; 0 or more.
    :param count: n, readings behind it, 0 or more.
    :returns: √((ν + χ²)/(ν + n)) with ν = 12, no less than 0.5 and no more than 2; 1 for no reading.
    :raises AxleError: for a sum of squares or a number under 0.
    :source: R. T. Birge, Physical Review 40 (1932), 207, from memory; the weight of what was held before by
        the scaled inverse χ² (Gelman and others, Bayesian Data Analysis, 2.6).

    >>> birge_ratio(0.0, 0)
    1.0
    >>> round(birge_ratio(40.0, 10), 2)
    1.54
    """
    if chi_square < 0 or count < 0:
        raise AxleError("scatter", given=f"{chi_square:g} of {count} readings", wanted="0 or more of both")
    ratio = math.sqrt((_HELD_AS + chi_square) / (_HELD_AS + count))
    return min(max(ratio, _LEAST_RATIO), _MOST_RATIO)
