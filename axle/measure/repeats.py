"""Readings of one thing taken again: whether they agree, and what they come to if one is misread."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Final

import numpy as np
from scipy.signal import find_peaks

from axle.errors import AxleError

# Critical range of n readings, in standard deviations of repeatability: 95 % of such ranges are smaller.
CRITICAL_RANGE: Final = {2: 2.8, 3: 3.3, 4: 3.6, 5: 3.9, 6: 4.0, 7: 4.2, 8: 4.3}
# After so many the median stands for them (ISO 5725-6).
MOST: Final = 4
_TWO: Final = 2
# Usual slips of a length [mm]: a turn of the dial's small hand, two of them, a digit; of a torque [N·m] a
# digit of an inch-pound, and of tens.
LENGTH_SLIPS: Final = (1.27, 2.54, 0.0254, 0.254)
TORQUE_SLIPS: Final = (0.113, 1.13)
# How often a figure is misread, and what of that is no slip that has a name; from memory.
_MISREAD: Final = 0.02
_NAMELESS: Final = 0.5
_TIMES_WIDER: Final = 12.0
_SURE: Final = 0.9
_REACH: Final = 4.0
_FINENESS: Final = 5
# A hump less likely than this is none.
_LEAST: Final = 0.002


@dataclass(frozen=True)
class Hump:
    """One thing that readings may be of.

    :param value: its middle, in the unit of the readings.
    :param probability: 0 to 1.
    """

    value: float
    probability: float


@dataclass(frozen=True)
class Repeated:
    """What readings of one thing come to.

    :param value: what they come to, in their unit.
    :param std: its standard deviation.
    :param agrees: they differ by no more than such readings do.
    :param wants_more: they do not, and one more is worth taking.
    :param scatters: they do not, were read often enough, and still speak of more than one thing.
    :param humps: what they may be of, the likeliest first; one where they agree.
    """

    value: float
    std: float
    agrees: bool
    wants_more: bool
    humps: tuple[Hump, ...]
    scatters: bool = False


def brought_together(
    values: Sequence[float], std: float, slips: Sequence[float] = LENGTH_SLIPS
) -> Repeated:
    """Bring readings of one thing together.

    Readings within their critical range are averaged. Beyond it one more is wanted, up to four; until then
    each is a normal reading, a wide one, or one of the usual slips, and none is thrown away because two
    others lie closer.

    :param values: one or more, in one unit.
    :param std: standard deviation of repeatability of one of them, more than 0.
    :param slips: by what a misread figure is usually off, either way.
    :returns: what they come to, in that unit.
    :raises AxleError: for no reading, or a spread that is not more than 0.
    :source: critical ranges of ISO 5725-6:1994, 5.2, table 1; mixture of a normal, a wide and slipped
        normals (Box and Tiao, A Bayesian approach to some outlier problems, Biometrika 55, 1968).

    >>> brought_together([0.200, 0.206], 0.006).agrees
    True
    >>> brought_together([0.200, 0.327], 0.006).wants_more
    True
    >>> round(brought_together([0.200, 0.327, 0.203], 0.006).value, 2)
    0.2
    """
    if not values:
        raise AxleError("readings", given="none", wanted="at least one")
    if std <= 0:
        raise AxleError("repeatability", given=f"{std:g}", wanted="more than 0")
    count, mean = len(values), sum(values) / len(values)
    spread = max(values) - min(values)
    most = CRITICAL_RANGE.get(count, CRITICAL_RANGE[max(CRITICAL_RANGE)])
    if count == 1 or spread <= most * std:
        return Repeated(
            mean, std / math.sqrt(count), agrees=True, wants_more=False, humps=(Hump(mean, 1.0),)
        )
    humps, wide = _humps(np.array(values), std, slips)
    best = humps[0]
    value = best.value if best.probability >= _SURE or count < MOST else float(np.median(values))
    return Repeated(
        value,
        wide if best.probability < _SURE else std / math.sqrt(max(count - 1, 1)),
        agrees=False,
        # Two alone never tell which of them it was.
        wants_more=count < MOST and (count == _TWO or best.probability < _SURE),
        humps=humps,
        scatters=count >= MOST and best.probability < _SURE,
    )


def _humps(values: np.ndarray, std: float, slips: Sequence[float]) -> tuple[tuple[Hump, ...], float]:
    """What the readings may be of, with the standard deviation over all of it."""
    either = np.array([sign * slip for slip in slips for sign in (-1, 1)])
    reach = float(np.abs(either).max()) + _REACH * std
    low = values.min() - reach
    grid = np.arange(max(low, 0.0) if values.min() >= 0 else low, values.max() + reach, std / _FINENESS)
    off = values[:, None] - grid[None, :]
    slipped = np.mean([_density(off - slip, std) for slip in either], axis=0)
    misread = _NAMELESS * _anywhere(off, _TIMES_WIDER * std) + (1 - _NAMELESS) * slipped
    log = np.log((1 - _MISREAD) * _density(off, std) + _MISREAD * misread + 1e-300).sum(axis=0)
    weights = np.exp(log - log.max())
    weights /= weights.sum()
    mean = float(weights @ grid)
    return _peaks(grid, log, weights), math.sqrt(float(weights @ (grid - mean) ** 2))


def _peaks(grid: np.ndarray, log: np.ndarray, weights: np.ndarray) -> tuple[Hump, ...]:
    """Each hump from the trough before it to the one after it."""
    peaks, _ = find_peaks(np.concatenate([[-np.inf], log, [-np.inf]]), prominence=1.0)
    tops = peaks - 1
    troughs = [int(one + np.argmin(log[one:other])) for one, other in pairwise(tops)]
    ends = [0, *troughs, len(grid)]
    found = []
    for begin, end in pairwise(ends):
        mass = float(weights[begin:end].sum())
        if mass > _LEAST:
            found.append(Hump(float(weights[begin:end] @ grid[begin:end] / mass), mass))
    return tuple(sorted(found, key=lambda hump: -hump.probability))


def _density(off: np.ndarray, std: float) -> np.ndarray:
    return np.asarray(np.exp(-((off / std) ** 2) / 2) / std)


def _anywhere(off: np.ndarray, std: float) -> np.ndarray:
    """Of a figure that may be off by anything: Cauchy's, on the scale of the densities above."""
    return np.asarray(math.sqrt(2 / math.pi) / (std * (1 + (off / std) ** 2)))
