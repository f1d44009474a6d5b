"""Partial pooling: what several jobs of one shop say of a figure, held against what is held of all shops.

A job's figure y lies about m + a with a spread of its own: m is what is held of all shops, a how this shop
differs, and t the spread from job to job. y = m + a + t·e + u·e', where u is how well the job shows it. e
is Student's t, so that one bad job does not make the shop. a and t are summed over on a grid.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np
from scipy.special import gammaln

from axle.errors import AxleError

# Student's t of so many degrees of freedom: a bad job counts for little.
FREEDOM: Final = 5.0
_OFFSETS: Final = 161
_SPREADS: Final = 31
_REACH: Final = 4.5
# Spread of the spread from job to job itself, as a standard deviation of its logarithm; from memory.
SPREAD_OF_SPREAD: Final = 0.4


@dataclass(frozen=True)
class Pooled:
    """What is held of a shop's figure once its jobs are pooled.

    :param offset: a, how the shop differs from all shops, mean.
    :param offset_std: its standard deviation.
    :param spread: t, spread from job to job, mean.
    :param next_std: standard deviation of the next job's figure about the shop's.
    :param jobs: number of jobs behind it.
    :param each: each job's own figure over m, drawn towards the shop's, in the order given.
    :param offsets: a on the grid.
    :param weights: chance of each, adding up to 1.
    """

    offset: float
    offset_std: float
    spread: float
    next_std: float
    jobs: int
    each: tuple[float, ...] = ()
    offsets: tuple[float, ...] = ()
    weights: tuple[float, ...] = ()

    def below(self, offset: float) -> float:
        """Chance that the shop's own offset lies below a figure, 0 to 1.

        :param offset: in the unit of the figures.
        """
        grid, weights = np.array(self.offsets), np.cumsum(self.weights) - np.array(self.weights) / 2
        return float(np.interp(offset, grid, weights))


def pool(
    values: Sequence[float],
    stds: Sequence[float],
    *,
    between: float,
    within: float,
    freedom: float = FREEDOM,
    spread_of_spread: float = SPREAD_OF_SPREAD,
) -> Pooled:
    """Pool the figures of one shop's jobs.

    :param values: y less m, one for each job, in the figure's unit or as logarithms.
    :param stds: u, how well each job shows it, more than 0.
    :param between: standard deviation of a between shops, more than 0; infinite where nothing is held of
        it.
    :param within: t as it is held before, more than 0.
    :param freedom: degrees of freedom of the spread from job to job; infinite for a normal one.
    :param spread_of_spread: standard deviation of t's logarithm; infinite for a t that is flat from 0 to
        ``within``.
    :returns: mean and spread of a and of t; with no job what was held.
    :raises AxleError: for figures without spreads, or a spread that is not more than 0.
    :source: hierarchical model by summing over a grid (Gelman and others, Bayesian Data Analysis, 5.4).

    >>> pool([], [], between=0.2, within=0.3).offset_std
    0.2
    >>> round(pool([0.3] * 20, [0.05] * 20, between=0.2, within=0.1).offset, 2)
    0.3
    """
    if len(values) != len(stds) or any(s <= 0 for s in stds) or between <= 0 or within <= 0:
        raise AxleError(
            "jobs to pool", given="figures without spreads", wanted="a spread more than 0 for each"
        )
    if not values:
        return Pooled(0.0, between, spread=within, next_std=within, jobs=0)
    y, u = np.array(values), np.array(stds)
    offsets, log_a = _offsets(y, u, between)
    spreads, log_t = _spreads(within, spread_of_spread)
    scale = np.sqrt(spreads[:, None] ** 2 + u[None, :] ** 2)
    off = (y[None, None, :] - offsets[:, None, None]) / scale[None, :, :]
    log = _density(off, freedom) - np.log(scale)[None, :, :]
    total = log.sum(axis=2) + log_a[:, None] + log_t[None, :]
    weights = np.exp(total - total.max())
    weights /= weights.sum()
    by_offset, by_spread = weights.sum(axis=1), weights.sum(axis=0)
    mean = float(by_offset @ offsets)
    variance = float(by_offset @ (offsets - mean) ** 2)
    tail = freedom / (freedom - 2) if math.isfinite(freedom) else 1.0
    drawn = spreads[:, None] ** 2 / scale**2
    own = offsets[:, None, None] + drawn[None] * (y[None, None, :] - offsets[:, None, None])
    return Pooled(
        mean,
        math.sqrt(variance),
        spread=float(by_spread @ spreads),
        next_std=math.sqrt(tail * float(by_spread @ spreads**2)),
        jobs=len(values),
        each=tuple(float(x) for x in np.einsum("at,atj->j", weights, own)),
        offsets=tuple(float(x) for x in offsets),
        weights=tuple(float(x) for x in by_offset),
    )


def _offsets(y: np.ndarray, u: np.ndarray, between: float) -> tuple[np.ndarray, np.ndarray]:
    """Offsets that are summed over, with the logarithm of what is held of each."""
    if math.isfinite(between):
        grid = np.linspace(-_REACH * between, _REACH * between, _OFFSETS)
        return grid, -((grid / between) ** 2) / 2
    reach = 2 * float(np.ptp(y)) + 3 * float(u.max())
    grid = np.linspace(float(y.mean()) - reach, float(y.mean()) + reach, 4 * _OFFSETS)
    return grid, np.zeros(len(grid))


def _spreads(within: float, spread_of_spread: float) -> tuple[np.ndarray, np.ndarray]:
    if math.isfinite(spread_of_spread):
        steps = np.linspace(-3.0, 3.0, _SPREADS)
        return within * np.exp(spread_of_spread * steps), -(steps**2) / 2
    grid = np.linspace(within / (8 * _SPREADS), within, 8 * _SPREADS)
    return grid, np.zeros(len(grid))


def _density(off: np.ndarray, freedom: float) -> np.ndarray:
    if not math.isfinite(freedom):
        return np.asarray(-(off**2) / 2)
    constant = float(gammaln((freedom + 1) / 2) - gammaln(freedom / 2)) - math.log(freedom * math.pi) / 2
    return np.asarray(constant - (freedom + 1) / 2 * np.log1p(off**2 / freedom))
