"""What another reading is worth: the chance that it settles a question without a strip-down."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import Final

import numpy as np
from scipy.special import ndtr

from axle.advice.carrier_preload import carrier_torque, torque_curve, wanted_interference
from axle.advice.chance import Chances
from axle.advice.held import DepthHeld, prints_here
from axle.advice.lash import lash_now
from axle.advice.pinion_preload import torque_spread, trials_of
from axle.advice.seats import tightness
from axle.advice.state import AxleState
from axle.layout import Place

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
class Question:
    """A station that is neither surely in nor surely out.

    :param station: its name.
    :param asks: readings that would tell more, as (kind, place); ("print", 1) for a print.
    :param settles: chance that one more of them settles it.
    """

    station: str
    asks: tuple[tuple[str, int], ...]
    settles: float


def settles(mean: float, spread: float, noise: float, low: float, high: float, sure: float = SURE) -> float:
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

    >>> settles(0.0, 1.0, 0.01, -1.0, 1.0) > 0.95, settles(0.0, 1.0, 100.0, -1.0, 1.0)
    (True, 0.0)
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


def question(state: AxleState, held: DepthHeld | None, now: Chances) -> Question | None:
    """The reading that is worth most on the axle as it stands, or nothing where none is worth it.

    :param state: the axle.
    :param held: what is held of its depth.
    :param now: chances as it stands, by station [1].
    :source: :func:`settles`.
    """
    open_ones = {name: chance for name, chance in now.parts.items() if 1 - SURE < chance < SURE}
    found = [_asked(state, held, name) for name in open_ones]
    worth = [q for q in found if q is not None and q.settles > 0.15]
    return max(worth, key=lambda q: q.settles, default=None)


def _asked(state: AxleState, held: DepthHeld | None, station: str) -> Question | None:
    if station == "depth" and held is not None:
        return _depth(state, held)
    if station == "backlash":
        return _lash(state)
    if station == "pinion_preload":
        return _pinion(state)
    return _carrier(state) if station == "carrier_preload" else None


def _depth(state: AxleState, held: DepthHeld) -> Question | None:
    here = len(prints_here(state))
    if not here or here >= MOST_PRINTS or held.lash is None:
        return None
    tolerance = state.depth_tolerance
    chance = settles(held.error, held.spread, _PRINT, -tolerance, tolerance)
    return Question("pattern", (("print", 1),), chance)


def _lash(state: AxleState) -> Question | None:
    lash, limits = lash_now(state), state.sheet.backlash_limits()
    if lash is None or limits is None:
        return None
    place = lash.around.tight_place
    count = state.around("backlash")[place].count if place in state.around("backlash") else MOST_READINGS
    if count >= MOST_READINGS:
        return None
    spread = math.hypot(_LASH / math.sqrt(count), lash.unsure)
    chance = settles(lash.around.smallest, max(spread, 0.002), _LASH, limits.low, limits.high)
    return Question("backlash", (("backlash", place),), chance)


def _pinion(state: AxleState) -> Question | None:
    newest, limits = state.latest("pinion_torque"), state.preload_range()
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
    chance = settles(mean, spread, noise, limits.low, limits.high)
    return Question("pinion_preload", (("pinion_torque", 1),), chance)


def _carrier(state: AxleState) -> Question | None:
    found, limits = carrier_torque(state), state.sheet.range("carrier_preload")
    curve = torque_curve(state)
    if found is None or limits is None or curve is None or wanted_interference(state) is not None:
        return None
    _, _, behind = found
    least = min(behind, key=lambda t: t.count)
    if least.count >= MOST_READINGS:
        return None
    setting = tightness(state, state.settings)
    mean, spread = curve.torque(setting), max(curve.torque_spread(setting), 0.01)
    noise = torque_spread(replace(least, count=1))
    noise *= state.gears.ratio if len(behind) > 1 else 1.0
    chance = settles(mean, spread, noise, limits.low, min(limits.high, 1e6))
    return Question("carrier_preload", ((least.kind, 1),), chance)
