"""A recording taken apart in one pass: a low band, envelopes of higher bands, what it went through."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Final

import numpy as np
from scipy import fft
from scipy.ndimage import gaussian_filter1d

from axle.errors import AxleError

# Rates that come out [Hz]: of the low band, and of each envelope.
LOW_RATE: Final = 6400
ENVELOPE_RATE: Final = 3200
# Blocks are so long [s]; so much of each end is thrown away, since a block's ends ring.
_BLOCK: Final = 8.0
_EDGE: Final = 0.5
# Envelopes are taken of half octaves from here to there [Hz].
_FIRST: Final = 500.0
_LAST: Final = 12_000.0
# A filter's edges are soft over so much of its band.
_SOFT: Final = 0.12
# What a recording may be.
LEAST_RATE, MOST_RATE = 100, 192_000
LEAST_SECONDS, MOST_SECONDS = 4.0, 15 * 60.0
# Frames for the long spectrum and for levels [s].
_FRAME: Final = 0.05
# Samples this near to full scale are at it.
_FULL: Final = 0.995


@dataclass(frozen=True)
class Health:
    """What a recording went through.

    :param clipped: share of its samples that stand at full scale [1].
    :param levels: level of each frame of 0.05 s [dB], shape (n,).
    :param spectrum: mean power by frequency, shape (m,).
    :param frequencies: of ``spectrum`` [Hz].
    :param gaps: share of frames far under the usual level, as noise suppression leaves them [1].
    :param cut_at: where a coder or a filter cut it off [Hz], or 0.
    """

    clipped: float
    levels: np.ndarray
    spectrum: np.ndarray
    frequencies: np.ndarray
    gaps: float
    cut_at: float


@dataclass(frozen=True)
class Bands:
    """A recording taken apart.

    :param seconds: how long it is [s].
    :param rate: its own sampling rate [Hz].
    :param low: the low band, each channel or axis, shape (channels, n), at ``low_rate``.
    :param low_rate: its rate [Hz].
    :param edges: lower and upper edge of each envelope's band [Hz], shape (k, 2).
    :param envelopes: over their own slow level, about 0, shape (k, m), at ``envelope_rate``.
    :param envelope_rate: their rate [Hz].
    :param health: what the recording went through.
    """

    seconds: float
    rate: int
    low: np.ndarray
    low_rate: int
    edges: np.ndarray
    envelopes: np.ndarray
    envelope_rate: int
    health: Health


def bands_for(rate: int) -> np.ndarray:
    """Edges of the half octaves that a sampling rate holds [Hz], shape (k, 2).

    :param rate: sampling rate [Hz].
    :source: half octaves from 500 Hz, up to 12 kHz or 0.46 of the rate.

    >>> bands_for(8000).round().astype(int).tolist()[0]
    [500, 707]
    """
    edges = _FIRST * math.sqrt(2) ** np.arange(12)
    pairs = np.column_stack([edges[:-1], edges[1:]])
    found: np.ndarray = pairs[pairs[:, 1] <= min(_LAST, 0.46 * rate)]
    return found


class Splitter:
    """Takes blocks of samples as they come, and holds no more than a few seconds of them.

    :param rate: sampling rate [Hz, 100 to 192000].
    :param channels: 1 or more; averaged over power where they are axes, else over samples by the caller.
    :raises AxleError: for a rate or a length that is none.
    :source: fast convolution by overlapping blocks (Oppenheim and Schafer, from memory).
    """

    def __init__(self, rate: int, channels: int = 1) -> None:
        if not LEAST_RATE <= rate <= MOST_RATE:
            raise AxleError("sampling rate", given=f"{rate} Hz", wanted=f"{LEAST_RATE} to {MOST_RATE} Hz")
        self.rate, self.channels = rate, channels
        self.low_rate = min(LOW_RATE, rate)
        self.edges = bands_for(rate)
        self._whole = round(_BLOCK * rate)
        self._edge = round(_EDGE * rate)
        self._kept = np.zeros((channels, self._edge), dtype=np.float32)
        self._low: list[np.ndarray] = []
        self._envelopes: list[np.ndarray] = []
        self._count, self._clipped = 0, 0
        self._levels: list[np.ndarray] = []
        self._frame = max(16, round(_FRAME * rate))
        self._power = np.zeros(self._frame // 2 + 1)
        self._frames = 0

    def feed(self, block: np.ndarray) -> None:
        """Take the next samples, shape (n, channels) or (n,), full scale 1."""
        samples = np.asarray(block, dtype=np.float32)
        samples = samples[np.newaxis] if samples.ndim == 1 else samples.T
        if samples.shape[0] != self.channels:
            raise AxleError("channels", given=f"{samples.shape[0]}", wanted=f"{self.channels}")
        # What is no number is silence: a broken file says less, and breaks nothing.
        samples = np.nan_to_num(samples, nan=0.0, posinf=0.0, neginf=0.0)
        self._count += samples.shape[1]
        if self._count > MOST_SECONDS * self.rate * 1.001:
            raise AxleError("recording", given="more than 15 minutes", wanted="15 minutes at the most")
        self._watch(samples[0])
        self._kept = np.concatenate([self._kept, samples], axis=1)
        while self._kept.shape[1] >= self._whole:
            self._split(self._kept[:, : self._whole])
            self._kept = self._kept[:, self._whole - 2 * self._edge :]

    def finish(self) -> Bands:
        """What it all came to.

        :raises AxleError: for a recording that is too short, or silent.
        """
        seconds = self._count / self.rate
        if seconds < LEAST_SECONDS:
            raise AxleError(
                "recording",
                given=f"{seconds:.1f} s",
                wanted=f"{LEAST_SECONDS:g} s to 15 minutes, a minute is good",
            )
        # The end is filled with silence up to whole blocks, and cut off again.
        missing = self._whole + 2 * self._edge
        kept = np.concatenate([self._kept, np.zeros((self.channels, missing), np.float32)], axis=1)
        while kept.shape[1] >= self._whole:
            self._split(kept[:, : self._whole])
            kept = kept[:, self._whole - 2 * self._edge :]
        low = np.concatenate(self._low, axis=1)[:, : int(seconds * self.low_rate)]
        if not np.any(low):
            raise AxleError("recording", given="silence", wanted="sound", do="Record again.")
        envelopes = np.zeros((len(self.edges), int(seconds * ENVELOPE_RATE)), np.float32)
        for at in range(len(self.edges)):
            row = np.concatenate([piece[at] for piece in self._envelopes])[: envelopes.shape[1]]
            envelopes[at, : len(row)] = steady(row, ENVELOPE_RATE)
        self._envelopes.clear()
        return Bands(
            seconds,
            self.rate,
            low=low,
            low_rate=self.low_rate,
            edges=self.edges,
            envelopes=envelopes,
            envelope_rate=ENVELOPE_RATE,
            health=self._health(),
        )

    def _split(self, block: np.ndarray) -> None:
        """One block by its spectrum: the low band and each band's envelope, ends cut off."""
        spectrum = fft.rfft(block, axis=1, workers=2)
        bins = round(_BLOCK * self.low_rate)
        half = bins // 2 + 1
        low = spectrum[:, :half] * _soft_end(half)
        made = fft.irfft(low, bins, axis=1, workers=2) * (bins / self._whole)
        self._low.append(_middle(made, round(_EDGE * self.low_rate)).astype(np.float32))
        size = round(_BLOCK * ENVELOPE_RATE)
        rows = []
        for first, last in self.edges:
            a, b = round(first * _BLOCK), min(round(last * _BLOCK), spectrum.shape[1])
            piece = np.zeros((self.channels, max(size, b - a)), dtype=np.complex64)
            piece[:, : b - a] = spectrum[:, a:b] * _soft_both(b - a)
            wave = fft.ifft(piece, axis=1, workers=2)
            if wave.shape[1] != size:
                places = np.arange(size) * (wave.shape[1] / size)
                wave = wave[:, places.astype(int)]
            power = (wave.real**2 + wave.imag**2).sum(axis=0)
            rows.append(_middle(power[np.newaxis], round(_EDGE * ENVELOPE_RATE))[0])
        if rows:
            self._envelopes.append(np.sqrt(np.array(rows)).astype(np.float32))

    def _watch(self, samples: np.ndarray) -> None:
        """Clipping, levels and the long spectrum, of the samples as they came."""
        self._clipped += int(np.count_nonzero(np.abs(samples) >= _FULL))
        whole = len(samples) // self._frame * self._frame
        if not whole:
            return
        frames = samples[:whole].reshape(-1, self._frame)
        power = np.einsum("ij,ij->i", frames, frames) / self._frame
        self._levels.append(10 * np.log10(power + 1e-12))
        window = np.hanning(self._frame).astype(np.float32)
        some = frames[:: max(1, len(frames) // 200)]
        self._power += (np.abs(fft.rfft(some * window, axis=1)) ** 2).sum(axis=0)
        self._frames += len(some)

    def _health(self) -> Health:
        levels = np.concatenate(self._levels) if self._levels else np.zeros(1)
        spectrum = self._power / max(self._frames, 1)
        frequencies = np.arange(len(spectrum)) * self.rate / self._frame
        usual = float(np.median(levels))
        return Health(
            self._clipped / max(self._count, 1),
            levels=levels,
            spectrum=spectrum,
            frequencies=frequencies,
            gaps=float(np.mean(levels < usual - 25)),
            cut_at=_cut(frequencies, spectrum, self.rate),
        )


def _cut(frequencies: np.ndarray, spectrum: np.ndarray, rate: int) -> float:
    """Where the spectrum falls off a cliff well below half the rate, as a coder leaves it, or 0 [Hz]."""
    if rate < 16_000 or not np.any(spectrum > 0):
        return 0.0
    level = 10 * np.log10(spectrum + spectrum.max() * 1e-12)
    step = max(1, round(600 / (frequencies[1] or 1)))
    for at in range(step, len(level) - step):
        if 2500 < frequencies[at] < 0.45 * rate:
            below, above = level[at - step : at].mean(), level[at + step // 2 : at + step + 1].max()
            if below - above > 24 and level[at + step :].max() < below - 20:
                return float(frequencies[at])
    return 0.0


def steady(envelope: np.ndarray, rate: float) -> np.ndarray:
    """An envelope without its slow changes, and with a stone's blow cut down.

    :param envelope: shape (n,), 0 or more.
    :param rate: its rate [Hz].
    :source: local mean over 0.4 s; blows are held to 6 times it.
    """
    size = max(1, round(0.4 * rate / 16))
    short = envelope[: len(envelope) // 16 * 16].reshape(-1, 16).mean(axis=1)
    slow = gaussian_filter1d(short, size / 2.5, mode="nearest") + 1e-12
    usual = np.interp(np.arange(len(envelope)), np.arange(len(short)) * 16 + 7.5, slow)
    relative: np.ndarray = np.minimum(envelope / usual, 6.0) - 1.0
    return relative.astype(np.float32)


def _middle(rows: np.ndarray, edge: int) -> np.ndarray:
    return rows[:, edge : rows.shape[1] - edge]


def _soft_end(size: int) -> np.ndarray:
    """1, falling softly to 0 at the upper end."""
    gain = np.ones(size, dtype=np.float32)
    soft = max(2, int(size * _SOFT / 2))
    gain[-soft:] = 0.5 + 0.5 * np.cos(np.linspace(0, np.pi, soft))
    return gain


def _soft_both(size: int) -> np.ndarray:
    gain = _soft_end(size)
    both: np.ndarray = gain * gain[::-1]
    return both


def split(blocks: Iterator[np.ndarray], rate: int, channels: int = 1) -> Bands:
    """Take a whole recording apart.

    :param blocks: samples as they come, full scale 1, each shape (n, channels) or (n,).
    :param rate: sampling rate [Hz, 100 to 192000].
    :param channels: 1 or more.
    :raises AxleError: for a recording that is too short, too long, or silent.
    :source: :class:`Splitter`.
    """
    splitter = Splitter(rate, channels)
    for block in blocks:
        splitter.feed(block)
    return splitter.finish()
