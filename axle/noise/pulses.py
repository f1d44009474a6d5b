"""Pulses of a tachometer on a recording's channel, found block by block."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Final

import numpy as np

from axle.errors import AxleError

# A channel whose highs and lows lie nearer than this has no pulses [full scale 1].
_LEAST_SWING: Final = 1e-3


class PulseTimes:
    """Times at which a channel rises through the middle between its usual low and high.

    It has risen once it is a quarter of the swing over the middle, and may rise again once it has been as
    far under it: noise about the middle counts no pulse twice.
    """

    def __init__(self, rate: int, extremes: Sequence[tuple[float, float]]) -> None:
        """Set the levels.

        :param rate: samples a second [Hz], more than 0.
        :param extremes: lowest and highest value of each block, full scale 1, at least one block.
        :raises AxleError: for no block, or a rate that is none.
        :source: Schmitt's trigger; medians over the blocks leave out one that a knock has gone through.

        >>> found = PulseTimes(10, [(0.0, 1.0)])
        >>> found.feed(np.array([0.0, 0, 1, 1, 0]))
        >>> found.feed(np.array([0.0, 1, 1, 0, 0]))
        >>> found.times.tolist()
        [0.2, 0.6]
        """
        if rate <= 0 or not extremes:
            raise AxleError(
                "pulses", given=f"{len(extremes)} blocks at {rate} Hz", wanted="a recording with samples"
            )
        low, high = np.median(extremes, axis=0)
        self._rate, self._swing = rate, float(high - low)
        self._over, self._under = (float((low + high) / 2 + side * self._swing / 4) for side in (1, -1))
        self._is_up, self._at = False, 0
        self._found: list[np.ndarray] = []

    def feed(self, block: np.ndarray) -> None:
        """Go on with the next block.

        :param block: samples, shape (n,).
        """
        up, down = np.flatnonzero(block > self._over), np.flatnonzero(block < self._under)
        places = np.concatenate([up, down])
        order = np.argsort(places, kind="stable")
        is_up = np.concatenate([np.ones(len(up), bool), np.zeros(len(down), bool)])[order]
        before = np.concatenate([[self._is_up], is_up[:-1]]) if len(is_up) else is_up
        self._found.append((self._at + places[order][is_up & ~before]) / self._rate)
        self._is_up = bool(is_up[-1]) if len(is_up) else self._is_up
        self._at += len(block)

    @property
    def times(self) -> np.ndarray:
        """When pulses rose so far, shape (m,) [s]; none where the channel hardly moves."""
        if self._swing <= _LEAST_SWING or not self._found:
            return np.zeros(0)
        return np.concatenate(self._found)
