"""What another reading is worth: the chance that it settles a question without a strip-down."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import Final

import numpy as np
from scipy.special import ndtr

from axle.decision.costs import minutes
from axle.decision.probability import InRange
from axle.layout import Place
from axle.measure.range import Range
from axle.preload.joint import PairReading, Shows
from axle.procedure.names import KindName, StationName
from axle.state.axle_state import AxleState
from axle.state.priors import Quantity
from axle.stations.backlash import backlash_now
from axle.stations.carrier_preload import BY_HAND, wanted_interference
from axle.stations.depth_posterior import DepthEstimate, prints_here
from axle.stations.mesh import PARTED, why_not_readable
from axle.stations.method import chosen_method
from axle.stations.preload_readings import (
    CARRIER,
    PINION,
    comings_together,
    interference_draws,
    knows,
    pairs_of,
    pinion_setting,
    torque_draws,
    torque_spread,
)
from axle.stations.zero_play import interference_setting, sides_are_set

# A question is settled when one station is this sure to be in range, or this sure to be out.
SURE: Final = 0.97
# Readings of one kind on one setting, and prints of one assembly, after which one more says little.
MOST_READINGS: Final = 5
MOST_PRINTS: Final = 4
# A reading that settles its question less often than this is not worth its minutes.
WORTH_ASKING: Final = 0.15
# What a reading shows of a quantity, as a share of variance, under which it tells nothing.
_TELLS: Final = 0.01
# Depth by one print, its cut's centre aside [mm]; from memory.
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


def best_measurement(
    state: AxleState, held: DepthEstimate | None, now: InRange, least: float = WORTH_ASKING
) -> BestMeasurement | None:
    """The reading that is worth most on the axle as it stands, or nothing where none is worth it.

    :param state: the axle.
    :param held: what is held of its depth.
    :param now: chances as it stands, by station [1].
    :param least: chance that it settles its question under which it is not worth its minutes, 0 to 1.
    :source: :func:`resolution_probability`.
    """
    open_ones = {name: chance for name, chance in now.parts.items() if 1 - SURE < chance < SURE}
    found = [_asked(state, held, name) for name in open_ones]
    worth = [q for q in found if q is not None and q.resolution_probability > least]
    return max(worth, key=lambda q: q.resolution_probability, default=None)


def _asked(state: AxleState, held: DepthEstimate | None, station: str) -> BestMeasurement | None:
    if station == StationName.DEPTH and held is not None:
        return _depth(state, held)
    if station == StationName.BACKLASH:
        return _lash(state)
    limits = _limits_of(state, station)
    return None if limits is None else _preload(state, station, *limits)


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
    once = state.priors.centre(Quantity.INDICATOR_SCATTER)
    spread = math.hypot(once / math.sqrt(count), lash.std)
    chance = resolution_probability(
        lash.around.smallest, max(spread, 0.002), noise=once, low=limits.low, high=limits.high
    )
    return BestMeasurement(StationName.BACKLASH, (("backlash", place),), chance)


def _limits_of(state: AxleState, station: str) -> tuple[int, Range, bool] | None:
    """Which pair a station judges, its limits, and whether they are of a torque."""
    if station == StationName.PINION_PRELOAD:
        limits = state.preload_range()
        return None if limits is None else (PINION, limits, True)
    wanted, limits = wanted_interference(state), state.sheet.range("carrier_preload")
    if station != StationName.CARRIER_PRELOAD or chosen_method(state, station).name in BY_HAND:
        return None
    if wanted is not None:
        return CARRIER, Range(wanted.limits.low / wanted.kept, wanted.limits.upper / wanted.kept), False
    return None if limits is None else (CARRIER, limits, True)


def _preload(
    state: AxleState, station: str, which: int, limits: Range, is_torque: bool, *, parted: bool = False
) -> BestMeasurement | None:
    """The torque that tells most of a preload, by how what it would show hangs together with it."""
    if not knows(state, which):
        return None
    drawn = torque_draws if is_torque else interference_draws
    held = drawn(state, which, state.settings)
    mean, spread = float(held.mean()), max(float(held.std()), 1e-6)
    found = []
    for kind, shown, std in torques_to_read(state, parted=parted):
        if parted and kind != KindName.PINION_TORQUE:
            continue
        both = np.cov(held, shown)
        share = both[0, 1] ** 2 / (both[0, 0] * (both[1, 1] + std**2) + 1e-18)
        if share < _TELLS:
            continue
        noise = spread * math.sqrt((1 - share) / share)
        chance = resolution_probability(mean, spread, noise=noise, low=limits.low, high=limits.upper)
        found.append(BestMeasurement(station, ((kind, 1),), chance))
    return max(found, key=lambda q: q.resolution_probability, default=None)


def with_the_mesh_parted(state: AxleState, now: InRange) -> tuple[BestMeasurement, float] | None:
    """The pinion's own torque, which only a parted mesh lets be read, where it would settle a preload.

    :param state: the axle, in mesh.
    :param now: chances as it stands, by station [1].
    :returns: what it settles, and the minutes that parting the mesh costs; nothing where it settles little.
    :source: :func:`resolution_probability`; ``costs.toml``.
    """
    stations = (StationName.PINION_PRELOAD, StationName.CARRIER_PRELOAD)
    open_ones = [name for name in stations if 1 - SURE < now.parts.get(name, 1.0) < SURE]
    found = [
        told
        for name in open_ones
        if (limits := _limits_of(state, name)) and (told := _preload(state, name, *limits, parted=True))
    ]
    best = max(found, key=lambda q: q.resolution_probability, default=None)
    if best is None or best.resolution_probability < WORTH_ASKING:
        return None
    return best, minutes(state.layout, (Place.RING, Place.FAR))


def torques_to_read(state: AxleState, *, parted: bool = False) -> list[tuple[str, np.ndarray, float]]:
    """Torques that can be read as the axle stands and were not read too often: what each would show.

    :param state: the axle.
    :param parted: the mesh is parted for it.
    :returns: by kind, draws of what it would show and the standard deviation of one reading [N·m].
    :source: :mod:`axle.stations.mesh`; :meth:`axle.preload.joint.Pairs.shown`.
    """
    pairs = pairs_of(state)
    found: list[tuple[str, np.ndarray, float]] = []
    how = {"mesh": PARTED} if parted else {}
    together, now = comings_together(state)
    for kind, shows in (
        (KindName.TOTAL_TORQUE, Shows.TOTAL_TORQUE),
        (KindName.PINION_TORQUE, Shows.PINION_TORQUE),
    ):
        newest = state.latest(kind)
        if newest is None or why_not_readable(kind, state, how) or newest.torque_conditions.seal:
            continue
        if not sides_are_set(state) and kind == KindName.TOTAL_TORQUE:
            continue
        if together[newest.order] == now and newest.count >= MOST_READINGS:
            continue
        if now.stack >= pairs.stacks or now.sides >= pairs.sides:
            continue
        std = torque_spread(replace(newest, count=1, std=0.0), state.priors)
        reading = PairReading(
            shows,
            newest.value,
            std,
            pinion=pinion_setting(state, state.settings),
            carrier=interference_setting(state, state.settings) if sides_are_set(state) else 0.0,
            stack=now.stack,
            sides=now.sides,
            loaded=now.loaded,
        )
        found.append((kind, pairs.shown(reading), std))
    return found
