"""Bearing preload: rotating torque against interference, and the next pack from trials.

Running torque of a tapered roller pair at low speed is close to proportional to its axial force,
and force grows as interference^(10/9) (line contact), so T(i) = T0 + c·i^(10/9) for i > 0. Below
zero there is end play and no torque but T0.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache, lru_cache
from typing import Final

import numpy as np
from scipy.optimize import least_squares
from scipy.special import ndtr

from axle.errors import AxleError

_POWER: Final = 10 / 9
_NODES: Final = 31
# Slopes at which the search for the fit may begin, in standard deviations of their prior.
_STARTS: Final = np.linspace(-2.5, 2.5, 11)
# A torque that cannot be told from none [N·m]; how loose a pack that turns at none may be [mm]: 3 thou, and
# as much either way. From memory.
_NOTHING: Final = 1e-5
_LOOSE: Final = 0.076
# One standard deviation either way of a normal distribution.
_BAND: Final = (0.1587, 0.8413)


@dataclass(frozen=True)
class Slope:
    """What is expected of the torque curve before a trial has been made.

    :param torque: rotating torque [N·m] at ``interference``, more than 0.
    :param interference: i [mm] at which that torque is expected, more than 0.
    :param factor: one standard deviation as a factor either way, more than 1.
    """

    torque: float
    interference: float
    factor: float = 1.16

    @property
    def coefficient(self) -> float:
        """The curve's c [N·m / mm^(10/9)]."""
        return float(self.torque / self.interference**_POWER)


# From memory, wide: 20 in·lb at about 0.003 in of interference on the pinion's pair and at about
# 0.012 in on the carrier's, whose housing gives.
PINION_SLOPE: Final = Slope(2.26, 0.076)
CARRIER_SLOPE: Final = Slope(2.26, 0.30)


@dataclass(frozen=True)
class Trial:
    """One trial: how tight the pack is set, and what was read.

    :param setting: thickness that adds interference one for one [mm]; a preload pack that
        loosens as it thickens enters with its sign turned round.
    :param torque: running torque without seal [N·m], or nothing when end play was read.
    :param end_play: end play [mm], 0 or more, or nothing when torque was read.
    :param std: standard deviation of the reading [N·m or mm]; the usual one when left out.
    """

    setting: float
    torque: float | None = None
    end_play: float | None = None
    std: float | None = None

    def __post_init__(self) -> None:
        if (self.torque is None) == (self.end_play is None):
            raise AxleError("preload trial", given="no reading or two", wanted="torque or end play")
        if (self.torque or 0) < 0 or (self.end_play or 0) < 0:
            raise AxleError("preload trial", given="a negative reading", wanted="0 or more")


@dataclass(frozen=True)
class Curve:
    """Torque against setting, fitted to the trials.

    :param zero: setting of zero play [mm].
    :param coefficient: c [N·m / mm^(10/9)].
    :param drag: T0 [N·m].
    :param zero_spread: standard uncertainty of ``zero`` [mm].
    :param factor_spread: relative standard uncertainty of ``coefficient``.
    :param together: covariance of ``zero`` [mm] and the logarithm of ``coefficient``; with few
        trials the two are strongly tied, since only their difference was read.
    :param trials: number of trials behind it.
    """

    zero: float
    coefficient: float
    drag: float
    zero_spread: float
    factor_spread: float
    together: float
    trials: int

    @property
    def covariance(self) -> np.ndarray:
        """Covariance of ``zero`` [mm] and the logarithm of ``coefficient``, shape (2, 2)."""
        return np.array([[self.zero_spread**2, self.together], [self.together, self.factor_spread**2]])

    def torque(self, setting: float) -> float:
        """Expected torque [N·m] at a setting [mm]."""
        return torque_at(setting - self.zero, self.coefficient, self.drag)

    def setting_for(self, torque: float) -> float:
        """Setting [mm] at which a torque [N·m] is expected."""
        return self.zero + interference_for(torque, self.coefficient, self.drag)

    def torque_spread(self, setting: float) -> float:
        """Standard uncertainty of the expected torque [N·m], from zero and slope together."""
        interference = max(setting - self.zero, 0.0)
        load = self.torque(setting) - self.drag
        slope = _POWER * load / interference if interference else self.coefficient * 0.1
        variance = (
            (load * self.factor_spread) ** 2
            + (slope * self.zero_spread) ** 2
            - 2 * load * slope * self.together
        )
        return math.sqrt(max(variance, 0.0))


def torque_at(interference: float, coefficient: float, drag: float = 0.0) -> float:
    """Rotating torque of a pair at an interference.

    :param interference: i [mm]; below zero there is end play.
    :param coefficient: c [N·m / mm^(10/9)].
    :param drag: T0, torque of oil and cage [N·m].
    :source: load-dependent part of Palmgren's model (Harris, Rolling Bearing Analysis); line
        contact deflection as force^0.9 (ISO/TS 16281).

    >>> torque_at(-0.05, 40.0)
    0.0
    """
    return float(drag + coefficient * max(interference, 0.0) ** _POWER)


def interference_for(torque: float, coefficient: float, drag: float = 0.0) -> float:
    """Interference at which a rotating torque is reached; the inverse of :func:`torque_at`.

    :param torque: T [N·m]; at or under T0 the answer is 0.
    :param coefficient: c [N·m / mm^(10/9)], more than 0.
    :param drag: T0 [N·m].
    :source: as :func:`torque_at`.

    >>> round(interference_for(torque_at(0.08, 40.0), 40.0), 6)
    0.08
    """
    return float((max(torque - drag, 0.0) / coefficient) ** (1 / _POWER))


def fit(trials: Sequence[Trial], prior: Slope, *, torque_step: float = 0.113) -> Curve:
    """Fit the curve to the trials, with the slope's prior holding it where trials are few.

    :param trials: one or more; only those that tell something of zero play count.
    :param prior: expected slope with its spread.
    :param torque_step: step of the torque wrench [N·m].
    :returns: the fitted curve with its spread.
    :raises AxleError: when no trial tells where zero play lies.
    :source: least squares with a log-normal prior on c; spreads from the Jacobian.

    >>> curve = fit([Trial(0.0, end_play=0.05)], PINION_SLOPE)
    >>> round(curve.zero, 3)
    0.05
    """
    if not trials:
        raise AxleError("preload trials", given="none", wanted="at least one trial")
    return _fitted(tuple(trials), prior, torque_step)


@lru_cache(maxsize=256)
def _fitted(trials: tuple[Trial, ...], prior: Slope, torque_step: float) -> Curve:
    """The same trials give the same curve: verdict, move and drawing ask for it one after another."""
    torque_sigma = max(torque_step / 2, 0.03 * max((t.torque or 0) for t in trials), 0.05)
    play_sigma = 0.008
    drag = 0.0
    tightest = max(trial.setting for trial in trials)
    told = any(t.end_play is not None or (t.torque or 0.0) > _NOTHING for t in trials)

    def residuals(x: np.ndarray) -> np.ndarray:
        zero, log_ratio = float(x[0]), float(x[1])
        c = prior.coefficient * math.exp(log_ratio)
        rows = [log_ratio / math.log(prior.factor)]
        if not told:
            # Torques of nothing bound zero play on one side only: how loose, nobody read.
            rows.append((zero - tightest - _LOOSE) / _LOOSE)
        for trial in trials:
            if trial.torque is not None:
                expected = torque_at(trial.setting - zero, c, drag)
                rows.append((trial.torque - expected) / (trial.std or torque_sigma))
            else:
                off = (zero - trial.setting) - (trial.end_play or 0)
                rows.append(off / (trial.std or play_sigma))
        return np.array(rows)

    # Below zero play the torque does not depend on where zero lies: a search can stand still there. Each of
    # many slopes with each trial's own zero is tried, and the search begins at the best.
    starts = [
        np.array([_zero_of(trial, prior.coefficient * math.exp(log)), log])
        for trial in trials
        for log in _STARTS * math.log(prior.factor)
    ]
    start = min(starts, key=lambda x: float(np.sum(residuals(x) ** 2)))
    found = least_squares(residuals, start, x_scale=np.array([0.02, 0.3]))
    jacobian = np.asarray(found.jac, dtype=float)
    covariance = np.linalg.pinv(jacobian.T @ jacobian)
    return Curve(
        zero=float(found.x[0]),
        coefficient=prior.coefficient * math.exp(float(found.x[1])),
        drag=drag,
        zero_spread=math.sqrt(max(float(covariance[0, 0]), 0.0)),
        factor_spread=math.sqrt(max(float(covariance[1, 1]), 0.0)),
        together=float(covariance[0, 1]),
        trials=len(trials),
    )


def _zero_of(trial: Trial, coefficient: float) -> float:
    """Where one trial alone would put zero play."""
    if trial.end_play is not None:
        return trial.setting + trial.end_play
    if (trial.torque or 0.0) <= _NOTHING:
        return trial.setting + _LOOSE
    return trial.setting - interference_for(trial.torque or 0.0, coefficient)


def predict(
    curve: Curve, settings: np.ndarray, *, setting_spread: float = 0.0
) -> tuple[np.ndarray, np.ndarray]:
    """Torques that a curve holds possible at some settings, each with its weight.

    :param curve: the fitted curve.
    :param settings: shape (n,) [mm].
    :param setting_spread: standard uncertainty with which a setting is made [mm], 0 or more.
    :returns: (torques [N·m], shape (n, k); weights, shape (k,), adding up to 1).
    :source: Gauss-Hermite quadrature over the curve's covariance, so that the kink at zero play is
        kept.

    >>> curve = fit([Trial(0.0, end_play=0.05)], PINION_SLOPE)
    >>> torques, weights = predict(curve, np.array([0.126]))
    >>> bool(abs(weights.sum() - 1) < 1e-12)
    True
    """
    grid, weights = _nodes()
    values, vectors = np.linalg.eigh(curve.covariance + np.diag([setting_spread**2, 0.0]))
    spread = vectors @ (np.sqrt(np.clip(values, 0.0, None))[:, None] * grid)
    zero = curve.zero + spread[0]
    coefficient = curve.coefficient * np.exp(np.clip(spread[1], -6, 6))
    interference = np.clip(settings[:, None] - zero[None, :], 0.0, None)
    return curve.drag + coefficient[None, :] * interference**_POWER, weights


@cache
def _nodes() -> tuple[np.ndarray, np.ndarray]:
    """Places of two standard normal variables and their weights, shapes (2, k) and (k,)."""
    x, w = np.polynomial.hermite_e.hermegauss(_NODES)
    return np.array(np.meshgrid(x, x)).reshape(2, -1), np.outer(w, w).ravel() / w.sum() ** 2


def chances(
    curve: Curve,
    setting: float,
    low: float,
    high: float,
    *,
    noise: float = 0.05,
    setting_spread: float = 0.0,
) -> tuple[float, float, float]:
    """Chances that the next torque reads under, in, or over a range.

    :param curve: the fitted curve.
    :param setting: setting to be fitted [mm].
    :param low: bottom of the range [N·m].
    :param high: top of the range [N·m]; infinite where there is none.
    :param noise: standard uncertainty of a reading [N·m], more than 0.
    :param setting_spread: standard uncertainty with which the setting is made [mm].
    :returns: (under, in, over), adding up to 1.
    :raises AxleError: for a range the wrong way round.
    :source: :func:`predict`.

    >>> curve = fit([Trial(0.0, end_play=0.05)], PINION_SLOPE)
    >>> round(sum(chances(curve, 0.126, 1.5, 2.5)), 9)
    1.0
    """
    if low > high:
        raise AxleError("range", given=f"{low:g} to {high:g} N·m", wanted="the lower figure first")
    torques, weights = predict(curve, np.array([setting]), setting_spread=setting_spread)
    under = float(weights @ ndtr((low - torques[0]) / noise))
    over = float(weights @ ndtr((torques[0] - high) / noise)) if math.isfinite(high) else 0.0
    return under, max(1.0 - under - over, 0.0), over


def band(curve: Curve, settings: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """The curve with what it holds possible two times in three, for a drawing.

    :param curve: the fitted curve.
    :param settings: shape (n,) [mm].
    :returns: (low, middle, high) [N·m], each of shape (n,): the 16th percentile, the curve, the 84th.
    :source: :func:`predict`; quantiles, so that the kink at zero play is not smeared.

    >>> low, middle, high = band(fit([Trial(0.0, end_play=0.05)], PINION_SLOPE), np.array([0.1]))
    >>> bool(low[0] < middle[0] < high[0])
    True
    """
    torques, weights = predict(curve, settings)
    order = np.argsort(torques, axis=1)
    sorted_torques = np.take_along_axis(torques, order, axis=1)
    share = np.cumsum(weights[order], axis=1)
    rows = np.arange(len(settings))
    low, high = (
        sorted_torques[rows, np.minimum((share < level).sum(axis=1), len(weights) - 1)] for level in _BAND
    )
    middle = np.array([curve.torque(float(s)) for s in settings])
    return np.minimum(low, middle), middle, np.maximum(high, middle)
