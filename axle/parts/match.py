"""Whether both ends of one vehicle match."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

from axle.errors import AxleError

# Both ends of a four-wheel drive within so much of each other: common practice, no source.
CLOSE: Final = 0.01


@dataclass(frozen=True)
class RatioMatch:
    """Two ratios beside each other.

    :param first: of one axle.
    :param second: of the other.
    """

    first: float
    second: float

    @property
    def apart(self) -> float:
        """How far they lie apart, as a share of the smaller."""
        return abs(self.first - self.second) / min(self.first, self.second)

    @property
    def holds(self) -> bool:
        """Whether they match."""
        return self.apart <= CLOSE


def ratio_match(first: float, second: float) -> RatioMatch:
    """Hold the ratios of both ends of a vehicle to each other.

    :param first: ring gear teeth by pinion teeth, above 0.
    :param second: the same of the other axle.
    :raises AxleError: for a ratio that is none.
    :source: within 1 %, common practice, no source.

    >>> ratio_match(41 / 11, 3.73).holds, ratio_match(3.73, 4.10).holds
    (True, False)
    """
    for ratio in (first, second):
        if not ratio > 0:
            raise AxleError("ratio", given=f"{ratio:g}", wanted="more than 0")
    return RatioMatch(first, second)
