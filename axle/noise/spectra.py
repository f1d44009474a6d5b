"""Averaged spectra in orders, by what the drive was doing: how far each order stands over the floor."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Final

import numpy as np
from scipy import signal
from scipy.ndimage import uniform_filter1d

from axle.errors import AxleError, quoted
from axle.noise.bands import Bands
from axle.noise.tracking import Blocks, Tracked, floor_of, in_orders

STATES: Final = ("drive", "coast", "float")
# Turns of the ring gear in a block: resolution 1/16 order. Sidebands of the ring gear need 4 or more.
TURNS: Final = 16
LEAST_TURNS: Final = 4
# Blocks that overlap by half count as so many of their number (Welch 1967, Hann window, from memory).
_INDEPENDENT: Final = 0.9
# A line is spread by what is left of the speed's wander, relative.
_SPREAD: Final = 0.003
# From so much on a hump is told [dB]; where the speed hardly varies an order keeps its frequency too.
_HUMP: Final = 5.0
_VARIES: Final = 0.05
_THIRD_OCTAVE: Final = 2 ** (1 / 6) - 2 ** (-1 / 6)


@dataclass(frozen=True)
class Span:
    """What the drive was doing for a while.

    :param begins: [s].
    :param ends: [s], after it begins.
    :param state: "drive", "coast" or "float".
    :raises AxleError: for a span that is none.
    """

    begins: float
    ends: float
    state: str

    def __post_init__(self) -> None:
        if self.state not in STATES:
            raise AxleError("mark", given=quoted(self.state, 20), wanted=", ".join(STATES))
        if not 0 <= self.begins < self.ends:
            raise AxleError(
                "mark", given=f"{self.begins:g} to {self.ends:g} s", wanted="a begin before its end"
            )


@dataclass(frozen=True)
class SpectralLine:
    """A line of a spectrum.

    :param order: its place.
    :param over: its power over the floor of its third octave [dB].
    :param sigmas: how many standard deviations it stands over nothing.
    """

    order: float
    over: float
    sigmas: float


@dataclass(frozen=True)
class MeanSpectrum:
    """A mean spectrum over its floor.

    :param ratio: power over the floor, about 1 where nothing is, shape (orders,).
    :param blocks: blocks that were averaged.
    :param turns: turns in a block: the orders lie 1/turns apart.
    """

    ratio: np.ndarray
    blocks: int
    turns: int

    @cached_property
    def _sums(self) -> np.ndarray:
        return np.concatenate([[0.0], np.cumsum(self.ratio - 1.0)])

    def half_width(self, order: float) -> float:
        """Half of a line's width [bins]."""
        return 1.5 + _SPREAD * order * self.turns

    def sigmas_at(self, orders: np.ndarray) -> np.ndarray:
        """How far a line at each order would stand over nothing, in standard deviations."""
        low, high = self._edges(orders)
        excess = self._sums[high] - self._sums[low]
        found: np.ndarray = excess / np.sqrt((high - low) / max(self.blocks * _INDEPENDENT, 1e-9))
        return found

    def line(self, low: float, high: float) -> SpectralLine:
        """The line that stands out most between two orders."""
        orders = np.arange(low, high + 0.5 / self.turns, 0.5 / self.turns)
        sigmas = self.sigmas_at(orders)
        at = int(sigmas.argmax())
        return SpectralLine(float(orders[at]), self.over_at(float(orders[at])), float(sigmas[at]))

    def over_at(self, order: float) -> float:
        """Power of a line over the floor of its third octave [dB], not under −40."""
        low, high = self._edges(np.array([order]))
        excess = float(self._sums[high[0]] - self._sums[low[0]])
        bins = _THIRD_OCTAVE * order * self.turns
        return 10 * math.log10(max(excess / max(bins, 1.0), 1e-4))

    def _edges(self, orders: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        middle = orders * self.turns
        half = 1.5 + _SPREAD * middle
        low = np.clip(np.round(middle - half).astype(int), 0, len(self.ratio) - 1)
        high = np.clip(np.round(middle + half).astype(int) + 1, 1, len(self.ratio))
        return low, np.maximum(high, low + 1)


@dataclass(frozen=True)
class Spectra:
    """All mean spectra of a recording.

    :param tones: of the sound itself, by state; "all" is the whole.
    :param blows: of the envelopes, by state, one for each band.
    :param edges: of those bands [Hz], shape (k, 2).
    :param turns_per_second: mean speed of the ring gear [1/s].
    :param varies: relative spread of the speed [1].
    :param heard_from: lowest order that was heard.
    :param resonance: a hump that keeps its frequency while the speed changes: [Hz] and height [dB].
    """

    tones: Mapping[str, MeanSpectrum]
    blows: Mapping[str, tuple[MeanSpectrum, ...]]
    edges: np.ndarray
    turns_per_second: float
    varies: float
    heard_from: float
    resonance: tuple[float, float] = (0.0, 0.0)


def spectra_of(
    bands: Bands, tracked: Tracked, spans: Sequence[Span], *, lowest: float = 0.0, turns: int = TURNS
) -> Spectra:
    """Average a recording in orders, whole and by what the drive was doing.

    :param bands: the recording.
    :param tracked: where the ring gear stood.
    :param spans: what the drive was doing; where nobody said, only the whole is there.
    :param lowest: frequency under which the recorder hears nothing [Hz].
    :param turns: turns of the ring gear in a block, 4 or more; fewer where the recording is short.
    :raises AxleError: for a recording of fewer than four turns.
    :source: computed order tracking, averaged over floor; Welch's method.
    """
    whole = float(tracked.angle[-1])
    turns = max(LEAST_TURNS, min(turns, int(whole / 4)))
    tone = in_orders(bands.low, bands.low_rate, tracked, turns)
    rows = [row[np.newaxis] for row in bands.envelopes]
    blows = [in_orders(row, bands.envelope_rate, tracked, turns, spline=1) for row in rows]
    states = {"all": np.ones(len(tone.middles), dtype=bool)}
    for state in STATES:
        inside = _inside(tone.middles, spans, state)
        if np.count_nonzero(inside) >= 3:
            states[state] = inside
    moving = tracked.turns[tracked.turns > tracked.turns.max() * 0.3]
    speed = float(moving.mean())
    varies = float(moving.std() / speed)
    return Spectra(
        {state: _mean(tone, mask, turns) for state, mask in states.items()},
        {state: tuple(_mean(one, mask, turns, 1.2) for one in blows) for state, mask in states.items()},
        edges=bands.edges,
        turns_per_second=speed,
        varies=varies,
        heard_from=lowest / speed,
        resonance=_resonance(bands, lowest) if varies > _VARIES else (0.0, 0.0),
    )


def _resonance(bands: Bands, lowest: float) -> tuple[float, float]:
    """The highest hump of the spectrum by frequency: what turns is smeared there, what rings is not."""
    size = min(int(2 ** np.ceil(np.log2(bands.low_rate / 2))), bands.low.shape[1])
    frequencies, power = signal.welch(bands.low[0], bands.low_rate, nperseg=size)
    inside = (frequencies > max(lowest * 1.3, 20.0)) & (frequencies < 0.42 * bands.low_rate)
    grid = np.exp(np.arange(np.log(frequencies[inside][0]), np.log(frequencies[inside][-1]), 0.02))
    level = 10 * np.log10(np.interp(grid, frequencies, power) + 1e-20)
    # Wide against a hump of some tenth of its frequency; the slope of road noise is in it.
    over = level - uniform_filter1d(level, 61, mode="nearest")
    over[:15] = over[-15:] = 0.0
    at = int(over.argmax())
    return (float(grid[at]), float(over[at])) if over[at] > _HUMP else (0.0, 0.0)


def _inside(middles: np.ndarray, spans: Sequence[Span], state: str) -> np.ndarray:
    found = np.zeros(len(middles), dtype=bool)
    for span in spans:
        if span.state == state:
            found |= (middles >= span.begins) & (middles < span.ends)
    return found


def _mean(blocks: Blocks, mask: np.ndarray, turns: int, reach: float = 2.5) -> MeanSpectrum:
    """Each block over its own floor, then averaged: a loud stretch of road counts no more than another."""
    power = blocks.power[: len(mask)][mask[: len(blocks.power)]].astype(np.float64) + 1e-20
    ratio = np.mean(power / floor_of(power, turns, reach), axis=0)
    # The floor of a few lines, and its logarithm's mean, are put back: nothing is at 1. What is nothing
    # changes slowly with the order.
    ratio /= floor_of(ratio[np.newaxis], turns, 1.6 * reach)[0]
    ratio /= float(np.median(ratio))
    return MeanSpectrum(ratio, int(np.count_nonzero(mask)), turns)
