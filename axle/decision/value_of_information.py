"""What another reading is worth: the chance that it settles a question without a strip-down."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import Final

import numpy as np
from scipy.special import ndtr

from axle.decision.probability import InRange
from axle.layout import Place
from axle.procedure.names import KindName, StationName
from axle.state.axle_state import AxleState
from axle.stations.backlash import backlash_now
from axle.stations.carrier_preload import wanted_interference
from axle.stations.carrier_torque import carrier_torque, torque_curve
from axle.stations.depth_posterior import DepthEstimate, prints_here
from axle.stations.pinion_trials import torque_spread, trials_of
from axle.stations.zero_play import interference_setting

# A question is settled when one station is this sure to be in range, or this sure to be out.
SURE: Final = 0.97
# Readings of one kind on one setting, and prints of one assembly, after which one more says little.
MOST_READINGS: Final = 5
MOST_PRINTS: Final = 4
# Scatter of a repeated reading: backlash [mm]; depth by one print, its cut's centre aside [mm]. From
# memory.
_LASH: Final = 0.006
_PRINT: Final = 0.022
_NODES: Final = 401


@dataclass(frozen=True)
class BestMeasurement:
    """A station that is neither surely in nor surely out.

    :param station: its name.
    :param asks: readings that would tell more, as (kind, place); ("print", 1) for a print.
    :param settles: chance that one more of them settles it.
    """

    station: str
    asks: tuple[tuple[str, int], ...]
    resolution_probability: float


def resolution_probability(
    mean: float, spread: float, noise: float, low: float, high: float, sure: float = SURE
) -> float:
    """Chance that one more reading leaves a quantity surely in its range, or surely out of it.

    :param mean: what is held of it.
    :param spread: one standard deviation, more than 0.
    :param noise: standard deviation of one reading, more than 0.
    :param low: bottom of its range.
    :param high: top of its range.
    :param sure: chance at which it counts as settled, 0.5 to 1.
    :returns: 0 to 1 [1].
    :source: preposterior analysis of a Gaussian (Raiffa and Schlaifer, Applied Statistical Decision
        Theory); summed over the mean that may come.

    >>> resolution_probability(0.0, 1.0, 0.01, -1.0, 1.0) > 0.95
    True
    >>> resolution_probability(0.0, 1.0, 100.0, -1.0, 1.0)
    0.0
    """
    after = spread * noise / math.hypot(spread, noise)
    moves = math.sqrt(max(spread**2 - after**2, 0.0))
    # A yes or no has an edge, which few nodes would miss: many places, evenly, out to four deviations.
    x = np.linspace(-4, 4, _NODES)
    w = np.exp(-(x**2) / 2)
    at = mean + moves * x
    inside = ndtr((high - at) / after) - ndtr((low - at) / after)
    told = (inside >= sure) | (inside <= 1 - sure)
    return float(w @ told / w.sum())


def best_measurement(state: AxleState, held: DepthEstimate | None, now: InRange) -> BestMeasurement | None:
    """The reading that is worth most on the axle as it stands, or nothing where none is worth it.

    :param state: the axle.
    :param held: what is held of its depth.
    :param now: chances as it stands, by station [1].
    :source: :func:`resolution_probability`.
    """
    open_ones = {name: chance for name, chance in now.parts.items() if 1 - SURE < chance < SURE}
    found = [_asked(state, held, name) for name in open_ones]
    worth = [q for q in found if q is not None and q.resolution_probability > 0.15]
    return max(worth, key=lambda q: q.resolution_probability, default=None)


def _asked(state: AxleState, held: DepthEstimate | None, station: str) -> BestMeasurement | None:
    if station == StationName.DEPTH and held is not None:
        return _depth(state, held)
    if station == StationName.BACKLASH:
        return _lash(state)
    if station == StationName.PINION_PRELOAD:
        return _pinion(state)
    return _carrier(state) if station == StationName.CARRIER_PRELOAD else None


def _depth(state: AxleState, held: DepthEstimate) -> BestMeasurement | None:
    here = len(prints_here(state))
    if not here or here >= MOST_PRINTS or held.backlash is None:
        return None
    tolerance = state.depth_tolerance
    chance = resolution_probability(held.error, held.std, noise=_PRINT, low=-tolerance, high=tolerance)
    return BestMeasurement(StationName.PATTERN, (("print", 1),), chance)


def _lash(state: AxleState) -> BestMeasurement | None:
    lash, limits = backlash_now(state), state.sheet.backlash_limits()
    if lash is None or limits is None:
        return None
    place = lash.around.tight_place
    count = (
        state.around(KindName.BACKLASH)[place].count
        if place in state.around(KindName.BACKLASH)
        else MOST_READINGS
    )
    if count >= MOST_READINGS:
        return None
    spread = math.hypot(_LASH / math.sqrt(count), lash.std)
    chance = resolution_probability(
        lash.around.smallest, max(spread, 0.002), noise=_LASH, low=limits.low, high=limits.high
    )
    return BestMeasurement(StationName.BACKLASH, (("backlash", place),), chance)


def _pinion(state: AxleState) -> BestMeasurement | None:
    newest, limits = state.latest(KindName.PINION_TORQUE), state.preload_range()
    if newest is None or limits is None or newest.count >= MOST_READINGS:
        return None
    if not state.layout.has_preload_pack:
        return None  # a nut in bites: each bite is a reading of its own
    curve = trials_of(state).curve
    if curve is None:
        return None
    setting = state.layout.preload_sign * float(state.setting(Place.PRELOAD))
    mean, spread = curve.torque(setting), max(curve.torque_spread(setting), 0.01)
    noise = torque_spread(replace(newest, count=1))
    chance = resolution_probability(mean, spread, noise=noise, low=limits.low, high=limits.high)
    return BestMeasurement(StationName.PINION_PRELOAD, (("pinion_torque", 1),), chance)


def _carrier(state: AxleState) -> BestMeasurement | None:
    found, limits = carrier_torque(state), state.sheet.range("carrier_preload")
    curve = torque_curve(state)
    if found is None or limits is None or curve is None or wanted_interference(state) is not None:
        return None
    _, _, behind = found
    least = min(behind, key=lambda t: t.count)
    if least.count >= MOST_READINGS:
        return None
    setting = interference_setting(state, state.settings)
    mean, spread = curve.torque(setting), max(curve.torque_spread(setting), 0.01)
    noise = torque_spread(replace(least, count=1))
    noise *= state.gears.ratio if len(behind) > 1 else 1.0
    chance = resolution_probability(mean, spread, noise=noise, low=limits.low, high=min(limits.high, 1e6))
    return BestMeasurement(StationName.CARRIER_PRELOAD, ((least.kind, 1),), chance)
