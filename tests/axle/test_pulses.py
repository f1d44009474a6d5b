"""Pulses of a tachometer, held to square waves whose edges are known and to a reference of SciPy's."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.signal import find_peaks, square

from axle.errors import AxleError
from axle.noise.pulses import PulseTimes

RATE = 8000


def found(signal: np.ndarray, cuts=(), rate: int = RATE) -> np.ndarray:
    blocks = np.split(signal, sorted(cuts))
    pulses = PulseTimes(rate, [(b.min(), b.max()) for b in blocks if len(b)])
    for block in blocks:
        pulses.feed(block)
    return pulses.times


def wave(hertz: float, seconds: float = 2.0, noise: float = 0.0) -> np.ndarray:
    t = (np.arange(int(seconds * RATE)) + 0.5) / RATE
    return 0.4 * square(2 * np.pi * hertz * t) + noise * np.random.default_rng(1).standard_normal(len(t))


@pytest.mark.parametrize("hertz", [3.0, 40.0, 333.0])
def test_a_square_wave_rises_once_a_period(hertz):
    times = found(wave(hertz))
    assert times == pytest.approx(np.arange(len(times)) / hertz, abs=1.01 / RATE)
    assert len(times) == int(2 * hertz)


@given(st.lists(st.integers(1, 15_999), max_size=6, unique=True))
def test_it_does_not_matter_where_blocks_end(cuts):
    signal = wave(20.0, noise=0.02)
    whole = PulseTimes(RATE, [(-0.4, 0.4)])
    parts = PulseTimes(RATE, [(-0.4, 0.4)])
    whole.feed(signal)
    for block in np.split(signal, sorted(cuts)):
        parts.feed(block)
    assert np.array_equal(whole.times, parts.times)


def test_noise_about_the_middle_counts_no_pulse_twice():
    """As many as SciPy finds peaks of the smoothed wave's slope."""
    signal = wave(25.0, noise=0.06)
    slope = np.convolve(signal, np.r_[np.ones(40), -np.ones(40)], mode="same")
    peaks, _ = find_peaks(slope, height=15, distance=160)
    times = found(signal)
    assert abs(len(times) - len(peaks)) <= 1
    assert np.diff(times) == pytest.approx(1 / 25, abs=2 / RATE)


def test_a_knock_in_one_block_moves_no_level():
    signal = wave(10.0)
    signal[8100] = 30.0
    assert len(found(signal, cuts=(4000, 8000, 12_000))) in (20, 21)


def test_a_channel_that_hardly_moves_has_none():
    assert len(found(1e-5 * wave(10.0))) == 0


@pytest.mark.parametrize(("rate", "extremes"), [(0, [(0.0, 1.0)]), (RATE, [])])
def test_no_samples_are_refused(rate, extremes):
    with pytest.raises(AxleError, match="with samples"):
        PulseTimes(rate, extremes)
