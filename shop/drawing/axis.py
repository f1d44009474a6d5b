"""A straight scale between values and places on a drawing, with round figures along it."""

from __future__ import annotations

import math
from dataclasses import dataclass


@dataclass(frozen=True)
class Axis:
    """Values from low to high between two places of a drawing.

    :param low: value at ``start``.
    :param high: value at ``end``.
    :param start: place.
    :param end: place.
    """

    low: float
    high: float
    start: float
    end: float

    def at(self, value: float) -> float:
        """The place of a value, held between both ends."""
        share = (value - self.low) / ((self.high - self.low) or 1.0)
        return self.start + min(max(share, 0.0), 1.0) * (self.end - self.start)

    def holds(self, value: float) -> bool:
        """Whether a value lies on it."""
        return min(self.low, self.high) <= value <= max(self.low, self.high)

    def ticks(self, most: int = 6) -> tuple[float, ...]:
        """Round values along it, no more than so many."""
        span = self.high - self.low
        if span <= 0:
            return (self.low,)
        step = 10 ** math.floor(math.log10(span))
        for part in (0.1, 0.2, 0.5, 1, 2, 5):
            if span / (step * part) <= most:
                step *= part
                break
        first = math.ceil(self.low / step - 1e-9)
        count = math.floor(self.high / step + 1e-9) - first + 1
        return tuple((first + number) * step for number in range(count))
