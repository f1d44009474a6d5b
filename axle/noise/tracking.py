"""Computed order tracking: a recording by turns of the ring gear, its speed fitted to what turns."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final, Literal

import numpy as np
from scipy import fft
from scipy.ndimage import gaussian_filter1d, map_coordinates, uniform_filter1d

from axle.errors import AxleError
from axle.noise.bands import LOW_RATE, Bands
from axle.noise.speed import SpeedTrack

# Below so many turns of the ring gear a second nothing is tracked: it hardly moves.
_LEAST_TURNS: Final = 1.2
# Turns in a block while the speed is fitted; what is averaged in the end is 1 over 16 turns.
_FIT_TURNS: Final = 8
_FIT_BLOCKS: Final = 500
# Relative speed is looked for within so much, in such steps; by no more than two steps a block.
_WANDERS: Final = 0.025
_STEP: Final = 0.001
# Orders that are looked at while it is fitted.
_FIT_ORDERS: Final = (3.0, 90.0)
# A step between two blocks costs so much of what the blocks show; from memory.
_STIFF: Final = 0.1
_ROUNDS: Final = 4
# So much a share more that stands out counts for, in natural logarithms of odds; set on simulated drives.
_CLEARLY: Final = 12.0
# A speed that varies by less than this hardly tells the clocks apart.
_VARIES: Final = 0.06
# No scale is looked for with more than this; tones would be taken for each other then.
_MOST_OFF: Final = 0.03
MOST_ORDER: Final = 160
_PER_TURN: Final = 2 * MOST_ORDER


@dataclass(frozen=True)
class Tracked:
    """Where the ring gear stood all along.

    :param times: seconds, evenly spaced, shape (n,).
    :param angle: turns of the ring gear since the start, shape (n,).
    :param turns: turns a second, shape (n,).
    :param clock: what was added to the track's clock [s].
    :param wander: relative correction of the speed, one standard deviation over the recording [1].
    """

    times: np.ndarray
    angle: np.ndarray
    turns: np.ndarray
    clock: float
    wander: float


@dataclass(frozen=True)
class Blocks:
    """Spectra in orders, block by block.

    :param power: shape (blocks, orders).
    :param orders: shape (orders,).
    :param middles: time of each block's middle [s], shape (blocks,).
    """

    power: np.ndarray
    orders: np.ndarray
    middles: np.ndarray


def laid(track: SpeedTrack, seconds: float, rate: float = 50.0) -> Tracked:
    """A track laid over a recording, as it was given.

    :param track: speeds.
    :param seconds: length of the recording [s].
    :param rate: points a second [Hz].
    :raises AxleError: for a vehicle that stood.
    :source: angle is the integral of speed.

    >>> from axle.noise.speed import by_marks
    >>> float(laid(by_marks([(0.0, 22.0)], 2.2), 10.0).angle[-1].round())
    100.0
    """
    times = np.arange(0.0, seconds + 1 / rate, 1 / rate)
    turns = track.at(times)
    if float(np.mean(turns > _LEAST_TURNS)) < 0.1 or float(turns.max()) <= _LEAST_TURNS:
        raise AxleError(
            "speed",
            given=f"at most {float(turns.max()) * 60:.0f} turns of the ring gear a minute",
            wanted="a recording of driving, faster than a walk",
        )
    return Tracked(times, _integral(turns, rate), turns=turns, clock=0.0, wander=0.0)


def _integral(turns: np.ndarray, rate: float) -> np.ndarray:
    between = (turns[1:] + turns[:-1]) / 2 / rate
    return np.concatenate([[0.0], np.cumsum(between)])


def in_orders(
    signals: np.ndarray,
    rate: float,
    tracked: Tracked,
    turns: int,
    *,
    spline: Literal[1, 3] = 3,
    most: int = 100_000,
) -> Blocks:
    """Spectra of blocks of so many turns, half overlapping; the resolution is 1 over the turns.

    :param signals: each channel or band, shape (channels, n), at ``rate``; their powers are summed.
    :param rate: their rate [Hz].
    :param tracked: where the ring gear stood.
    :param turns: turns of the ring gear in a block, 4 or more for its sidebands.
    :param spline: order of the interpolation, 3, or 1 where it may be rough.
    :param most: so many blocks at the most; of a longer recording they are spread over it.
    :raises AxleError: for fewer turns than one block.
    :source: computed order tracking (Fyfe and Munck 1997, from memory), cubic interpolation, Hann windows.
    """
    whole = float(tracked.angle[-1])
    if whole < turns:
        raise AxleError(
            "recording",
            given=f"{whole:.0f} turns of the ring gear",
            wanted=f"{turns} or more",
            do="Record for longer.",
        )
    # So many samples a turn that the slowest part that counts still holds the whole band: nothing folds.
    slow = max(float(np.quantile(tracked.turns, 0.05)), _LEAST_TURNS, float(tracked.turns.max()) * 0.3)
    per_turn = max(_PER_TURN, fft.next_fast_len(int(np.ceil(rate / slow))))
    angles = np.arange(0, int(whole * per_turn)) / per_turn
    times = np.interp(angles, tracked.angle, tracked.times)
    size = turns * per_turn
    hop = max(size // 2, (len(angles) - size) // most + 1)
    count = 1 + (len(angles) - size) // hop
    if count < 1:
        count, size = 1, len(angles)
    window = np.hanning(size).astype(np.float32)
    keep = turns * MOST_ORDER + 1
    power = np.zeros((count, keep), dtype=np.float32)
    for row in signals:
        places = (times * rate)[np.newaxis]
        even = map_coordinates(row.astype(np.float32), places, np.float32, order=spline, mode="nearest")
        for at in range(0, count, 64):
            some = [even[k * hop : k * hop + size] * window for k in range(at, min(at + 64, count))]
            found = fft.rfft(np.array(some), axis=1, workers=2)[:, :keep]
            power[at : at + len(some), : found.shape[1]] += found.real**2 + found.imag**2
    middles = np.interp((np.arange(count) * hop + size / 2) / per_turn, tracked.angle, tracked.times)
    moving = np.interp(middles, tracked.times, tracked.turns) > max(
        _LEAST_TURNS, float(tracked.turns.max()) * 0.3
    )
    return Blocks(power[moving], np.arange(keep) / turns, middles[moving])


def floor_of(power: np.ndarray, per_order: int, reach: float = 2.5) -> np.ndarray:
    """What a spectrum would be without its lines: its level around, lines cut down first.

    :param power: shape (..., orders), more than 0.
    :param per_order: bins in one order.
    :param reach: orders on either side.
    :source: mean of logarithms over the reach, taken again with what stands out cut off.
    """
    size = int(2 * reach * per_order) | 1
    level = np.log(power)
    around = uniform_filter1d(level, size, axis=-1, mode="nearest")
    for over in (1.5, 1.0):
        around = uniform_filter1d(np.minimum(level, around + over), size, axis=-1, mode="nearest")
    found: np.ndarray = np.exp(around)
    return found


def fitted(bands: Bands, track: SpeedTrack, most: float = 45.0) -> Tracked:
    """Lay a track over a recording and fit its clock and its slow wander to all that turns in it.

    Blocks are brought to lie over each other by their spectra in logarithmic orders: what turns with the
    axle lies still then, whichever part it is. The scale as a whole stays open: an order's place tells it
    later.

    :param bands: the recording.
    :param track: its speeds.
    :param most: so much of a long recording is looked at for the clock [s].
    :raises AxleError: for a vehicle that stood.
    :source: dynamic programming over relative shifts (Sakoe and Chiba 1978, from memory).
    """
    best = laid(track, bands.seconds)
    varies = float(np.std(best.turns) / np.mean(best.turns))
    signals = _signals(bands)
    if track.clock_std > 0 and varies > _VARIES:
        seconds = min(bands.seconds, most)
        short = [(row[: int(seconds * rate)], rate) for row, rate in signals]
        clock = _clocked(short, track, seconds).clock
        laid_out = laid(track.shifted(clock), bands.seconds)
        best = Tracked(laid_out.times, laid_out.angle, turns=laid_out.turns, clock=clock, wander=0.0)
    gain, path, middles = _wandered(signals, best)
    if gain <= 0 or not len(middles):
        return best
    change = np.interp(best.times, middles, gaussian_filter1d(path, 1.5))
    turns = best.turns * (1 + change)
    step = best.times[1] - best.times[0]
    return Tracked(
        best.times,
        _integral(turns, 1 / step),
        turns=turns,
        clock=best.clock,
        wander=float(np.std(path)),
    )


def _clocked(signals: list[tuple[np.ndarray, float]], track: SpeedTrack, seconds: float) -> Tracked:
    """The offset of the clock at which what turns stands out most."""
    reach = 2.5 * track.clock_std

    def sharp(offset: float) -> float:
        tracked = laid(track.shifted(offset), seconds)
        return sum(_sharp(rows) for rows in _whitened(signals, tracked, quick=True)[0])

    offsets = np.arange(-reach, reach + 0.01, max(0.25, reach / 12))
    found = np.array([sharp(float(offset)) for offset in offsets])
    # A clock is held to be right unless clearly more stands out at another.
    middle = int(np.abs(offsets).argmin())
    gains = _CLEARLY * np.log((found + 1e-12) / (found[middle] + 1e-12))
    standing = gains - (offsets / track.clock_std) ** 2 / 2
    best = float(offsets[int(standing.argmax())])
    near = best + np.array([-0.16, -0.08, 0.0, 0.08, 0.16])
    best = 0.0 if standing.max() < 1.5 else float(max(near, key=sharp))
    shifted = laid(track.shifted(best), seconds)
    return Tracked(shifted.times, shifted.angle, turns=shifted.turns, clock=best, wander=0.0)


def scale_std(track: SpeedTrack, tracked: Tracked) -> float:
    """How well the scale of the speed is known, one standard deviation [1].

    On a drive that only pulls, or only slows down, a clock that is off looks like a scale that is off.

    :param track: as it was told.
    :param tracked: as it was laid over the recording.
    :source: the scale's own spread and the clock's, by the speed's mean change.
    """
    slope = abs(float(np.polyfit(tracked.times, tracked.turns, 1)[0])) / float(np.mean(tracked.turns))
    return min(float(np.hypot(track.scale_std, slope * track.clock_std)), _MOST_OFF)


def _sharp(rows: np.ndarray) -> float:
    return float((np.mean(rows, axis=0) ** 3).sum())


def _signals(bands: Bands) -> list[tuple[np.ndarray, float]]:
    """What is laid over itself: the low band, and the envelopes in two groups, at rates that suffice."""
    step = 2 if bands.low_rate == LOW_RATE else 1
    low = bands.low.mean(axis=0)
    found: list[tuple[np.ndarray, float]] = [(_thinned(low, step), bands.low_rate / step)]
    if len(bands.edges):
        half = (len(bands.envelopes) + 1) // 2
        for group in (bands.envelopes[:half], bands.envelopes[half:]):
            if len(group):
                row = np.mean(group, axis=0)
                found.append((_thinned(row, 2), bands.envelope_rate / 2))
    return found


def _thinned(row: np.ndarray, step: int) -> np.ndarray:
    """Every other sample of a row that was freed of what would fold."""
    if step == 1:
        return row
    size = len(row) // step * step
    spectrum = fft.rfft(row[:size], workers=2)[: size // step // 2 + 1]
    found: np.ndarray = fft.irfft(spectrum, size // step, workers=2).astype(np.float32) / step
    return found


def _whitened(
    signals: list[tuple[np.ndarray, float]], tracked: Tracked, *, quick: bool = False
) -> tuple[list[np.ndarray], np.ndarray]:
    """Each block's spectrum over its floor in logarithmic orders, signal by signal."""
    grid = np.exp(np.arange(np.log(_FIT_ORDERS[0]), np.log(_FIT_ORDERS[1]), _STEP * (2 if quick else 1)))
    found, middles = [], np.zeros(0)
    for row, rate in signals[: 2 if quick else 3]:
        blocks = in_orders(
            row[np.newaxis], rate, tracked, _FIT_TURNS, spline=1 if quick else 3, most=_FIT_BLOCKS
        )
        power = blocks.power[:, : int(_FIT_ORDERS[1] * 1.05) * _FIT_TURNS] + 1e-20
        over = np.log(power) - np.log(floor_of(power, _FIT_TURNS))
        over = np.clip(over - 1.0, 0.0, 4.0)
        places = grid * _FIT_TURNS
        first = np.minimum(places.astype(int), over.shape[1] - 2)
        share = (places - first).astype(np.float32)
        found.append(over[:, first] * (1 - share) + over[:, first + 1] * share)
        middles = blocks.middles
    return found, middles


def _wandered(
    signals: list[tuple[np.ndarray, float]], tracked: Tracked
) -> tuple[float, np.ndarray, np.ndarray]:
    """The relative speed of each block: how much more stands out, the path, and the blocks' times."""
    whitened, middles = _whitened(signals, tracked)
    count = min(len(rows) for rows in whitened)
    if count < 4:
        return 0.0, np.zeros(0), np.zeros(0)
    rows = [gaussian_filter1d(one[:count], 1.0, axis=1) for one in whitened]
    reach = round(_WANDERS / _STEP)
    path = np.zeros(count, dtype=int)
    before = sum(float((np.mean(one, axis=0) ** 3).sum()) for one in rows)
    for turn in range(_ROUNDS):
        width = (6.0, 4.0, 2.0, 1.0)[turn]
        gains = np.zeros((count, 2 * reach + 1))
        for one in rows:
            shifted = np.array([np.roll(row, -move) for row, move in zip(one, path, strict=True)])
            mean = gaussian_filter1d(shifted.mean(axis=0), width)
            usual = gaussian_filter1d(mean, 60)
            peaks = np.clip(mean - usual, 0, None)
            scale = float(np.sqrt((peaks**2).sum())) + 1e-9
            for at, move in enumerate(range(-reach, reach + 1)):
                gains[:, at] += one @ np.roll(peaks, move) / scale
        path = _smoothest(gains) - reach
    shifted_sum = sum(
        float((np.mean([np.roll(r, -m) for r, m in zip(one, path, strict=True)], axis=0) ** 3).sum())
        for one in rows
    )
    centred = path - np.mean(path)
    # A block whose lines lie a step higher went faster than was held by that step.
    return shifted_sum - before * 1.02, centred * _STEP, middles[:count]


def _smoothest(gains: np.ndarray) -> np.ndarray:
    """The path through most gain that moves by at most two steps a block, each step at a price."""
    count, width = gains.shape
    price = _STIFF * float(np.std(gains))
    moves = np.array([0, -1, 1, -2, 2])
    total, came = gains[0].copy(), np.zeros((count, width), dtype=np.int8)
    for at in range(1, count):
        wide = np.pad(total, 2, constant_values=-np.inf)
        choices = np.array([wide[2 + move : 2 + move + width] - price * abs(move) for move in moves])
        pick = choices.argmax(axis=0)
        total = gains[at] + choices[pick, np.arange(width)]
        came[at] = moves[pick]
    path = np.zeros(count, dtype=int)
    path[-1] = int(total.argmax())
    for at in range(count - 1, 0, -1):
        path[at - 1] = path[at] + came[at, path[at]]
    return path
