"""Chance that everything is truly in range, as the axle stands or once some packs are changed."""

from __future__ import annotations

import math
from collections.abc import Collection, Mapping
from dataclasses import dataclass
from decimal import Decimal
from typing import Final

import numpy as np
from scipy.special import ndtr

from axle.decision.carrier.start import predict_sides
from axle.layout import Place
from axle.measure.range import Range
from axle.measure.uncertainty import rectangular
from axle.measure.units import IMPERIAL
from axle.procedure.names import KindName, StationName
from axle.procedure.staleness import stale_because
from axle.spec.limits import BacklashLimits, BacklashRule
from axle.state.axle_state import AxleState
from axle.state.priors import Quantity
from axle.state.reading import Reading
from axle.state.settings import Settings
from axle.stations.backlash import BACKLASH_STEP, backlash_now, ratios_now
from axle.stations.carrier_preload import BY_HAND, carrier_verdict, wanted_interference
from axle.stations.depth_posterior import DepthEstimate, depth_posterior
from axle.stations.method import chosen_method
from axle.stations.pinion_preload import freed_of_seal, sealed_range
from axle.stations.preload_readings import (
    interference_draws,
    knows,
    lost_at_first_load,
    pack_std,
    pairs_of,
    torque_draws,
    torque_spread,
    usual_rise,
)
from axle.stations.zero_play import deeper_between, sides_are_set

# How often a judgement by hand (taps, a steady pull) that says in, that says out, or that is still to be
# made on other packs, proves right. From memory.
_FELT_IN: Final = 0.85
_FELT_OUT: Final = 0.15
_FELT_ANEW: Final = 0.7
# Where in its range a nut that is turned in bites comes to stand about the aim: a standard deviation, as a
# share of the range. From memory.
_STOPS: Final = 0.15


@dataclass(frozen=True)
class InRange:
    """Chances by station; a station that is not judged is left out.

    :param parts: by station, 0 to 1.
    :param backlash: smallest backlash that is expected, with its standard deviation [mm], or nothing.
    :param tie: how much likelier both preloads are in range at once than each by itself would have it: they
        were read with one wrench, and one was taken off the other.
    """

    parts: Mapping[str, float]
    backlash: tuple[float, float] | None = None
    tie: float = 1.0

    @property
    def joint(self) -> float:
        """That all is in range at once."""
        return min(math.prod(self.parts.values()) * self.tie, 1.0)

    def without(self, names: Collection[str]) -> InRange:
        """The same without some stations."""
        left = {name: part for name, part in self.parts.items() if name not in names}
        return InRange(left, self.backlash, self.tie if set(left) >= _PRELOADS else 1.0)


_PRELOADS: Final = frozenset({"pinion_preload", "carrier_preload"})


def in_range_probabilities(
    state: AxleState, after: Settings | None = None, *, held: DepthEstimate | None = None
) -> InRange:
    """Chance that everything is truly in range once the axle has run under load.

    :param state: the axle.
    :param after: what is in it once something is changed; as it is when left out.
    :param held: what is held of its depth, where that is known already.
    :returns: by station, each 0 to 1.
    :source: what is held of each (JCGM 100:2008); both preloads from the same draws
        (:mod:`axle.preload.joint`), depth and backlash by themselves.
    """
    changed = state.settings if after is None else Settings.of(after)
    deeper = deeper_between(state, state.settings, changed)
    parts: dict[str, float] = {}
    held = held or depth_posterior(state)
    # A pinion that is not part of the job is not judged; one whose depth is only not measured is.
    if held is not None and Place.DEPTH not in state.fixed:
        parts["depth"] = depth_probability(state, held, changed)
    pinion = None if "pinion_preload" in state.not_part else _pinion(state, changed)
    if pinion is not None:
        parts["pinion_preload"] = _share(pinion)
    carrier = _carrier(state, changed)
    if carrier is not None:
        parts["carrier_preload"] = _share(carrier)
    lash = predict_backlash(state, changed, deeper)
    limits = state.sheet.backlash_limits()
    if lash is not None and limits is not None:
        parts["backlash"] = _lash_chance(state, limits, *lash)
    return InRange(parts, lash[:2] if lash else None, _tie(pinion, carrier))


# A chance by draws, or one that is said of the whole.
_Chance = np.ndarray | float


def _share(chance: _Chance) -> float:
    return float(np.mean(chance))


def _tie(pinion: _Chance | None, carrier: _Chance | None) -> float:
    if not isinstance(pinion, np.ndarray) or not isinstance(carrier, np.ndarray):
        return 1.0
    apart = _share(pinion) * _share(carrier)
    return float(np.mean(pinion & carrier)) / apart if apart else 1.0


def depth_probability(state: AxleState, held: DepthEstimate, after: Settings) -> float:
    """Chance that the depth is truly within its tolerance.

    :param state: the axle.
    :param held: what is held of it.
    :param after: what is in it afterwards [mm].
    :source: the sheet; ``chart.toml``.
    """
    deeper = deeper_between(state, state.settings, after)
    priors = state.priors
    std = 0.0
    if not after.same_at(state.settings, (Place.DEPTH, Place.PRELOAD)):
        # It comes out and sits anew: how it sat before is in what is held of it, and no longer there.
        std = math.sqrt(2) * priors.std(Quantity.DEPTH_SEAT)
    if deeper:
        std = math.hypot(std, pack_std(priors))
    return held.within(state.depth_tolerance, deeper, std)


def predict_backlash(
    state: AxleState, after: Settings, deeper: float
) -> tuple[float, float, float | None] | None:
    """Smallest backlash expected with some settings, its spread, and the spread around the ring as read.

    :param state: the axle.
    :param after: what is in it afterwards.
    :param deeper: how much deeper the pinion comes [mm].
    :returns: [mm]; nothing before a backlash was read.
    :source: :func:`axle.decision.carrier.start.predict_sides`.
    """
    now = backlash_now(state)
    ring, far = (Decimal(after.get(place, 0)) for place in (Place.RING, Place.FAR))
    still = ring == state.setting(Place.RING) and far == state.setting(Place.FAR) and not deeper
    if now is not None and still:
        reads = now.around.smallest
        return (
            reads,
            math.hypot(_once(state) / math.sqrt(_count(state, now.around.tight_place)), now.std),
            now.around.variation,
        )
    found = predict_sides(state, ring, far, deeper)
    if found is None or found[1] is None:
        return None
    expected, std = found[1]
    std = math.hypot(std, _sits_anew(state, deeper))
    return expected, std, now.around.variation if now else None


def _once(state: AxleState) -> float:
    """Standard deviation of one reading of backlash [mm]."""
    return math.hypot(state.priors.centre(Quantity.INDICATOR_SCATTER), rectangular(BACKLASH_STEP))


def _sits_anew(state: AxleState, deeper: float) -> float:
    """What a backlash may differ by since carrier, or pinion too, sits otherwise than before [mm]."""
    ratios, priors = ratios_now(state), state.priors
    seat = priors.std(Quantity.SIDE_SEAT)
    side = seat * (1.0 if state.layout.has_adjusters else math.sqrt(2))
    pack = 0.0 if state.layout.has_adjusters else pack_std(priors)
    pinion = math.hypot(math.sqrt(2) * priors.std(Quantity.DEPTH_SEAT), pack_std(priors)) if deeper else 0.0
    return math.hypot(ratios.per_ring * math.hypot(side, pack), ratios.per_depth * pinion)


def _count(state: AxleState, place: int) -> int:
    """How often the governing place was read."""
    read = state.around(KindName.BACKLASH)
    return read[place].count if place in read else 1


def _lash_chance(
    state: AxleState, limits: BacklashLimits, smallest: float, std: float, spread: float | None
) -> float:
    std = max(std, 0.003) * pairs_of(state).scatter
    high = limits.high
    if limits.rule is BacklashRule.EVERY:
        high -= spread or 0.0
    inside = float(ndtr((high - smallest) / std) - ndtr((limits.low - smallest) / std))
    if spread is not None and math.isfinite(limits.variation):
        inside *= float(ndtr((limits.variation - spread) / (_once(state) * math.sqrt(2))))
    return max(inside, 0.0)


def _pinion(state: AxleState, after: Settings) -> _Chance | None:
    limits = state.preload_range()
    if limits is None:
        return None
    newest = state.latest(KindName.PINION_TORQUE)
    if not state.layout.has_preload_pack:
        if newest is None or _is_bitten_anew(state, newest, after):
            return new_sleeve(state, limits)
        if newest.torque_conditions.seal:
            value, u = freed_of_seal(state, newest)
            sealed = sealed_range(state, newest)
            value = newest.value if sealed else value
            return probability_as_read(newest, sealed or limits, value=value, std=u)
    if not knows(state, 0):
        return None
    return _inside(torque_draws(state, 0, after), limits)


def _is_bitten_anew(state: AxleState, newest: Reading, after: Settings) -> bool:
    another = after.at(Place.PRELOAD) != state.setting(Place.PRELOAD)
    deeper = after.at(Place.DEPTH) != state.setting(Place.DEPTH)
    if another or (deeper and state.layout.depth_spoils_sleeve):
        return True
    return bool(stale_because(StationName.PINION_PRELOAD, state.layout, newest.settings, state.settings))


def _inside(figures: np.ndarray, limits: Range) -> np.ndarray:
    return np.asarray((figures >= limits.low) & (figures <= limits.high))


def new_sleeve(state: AxleState, limits: Range) -> float:
    """Chance that a sleeve that is still to be bitten ends in range, where each bite is read.

    :param state: the axle.
    :param limits: of the rotating torque [N·m].
    :source: where a nut stops in its range, the reading there, and what new bearings lose at first load.
    """
    priors, aim = state.priors, limits.aim
    loses = lost_at_first_load(state, 0)[1] * usual_rise(0)
    read = math.hypot(priors.centre(Quantity.TORQUE_SCATTER), priors.centre(Quantity.TORQUE_SHARE) * aim)
    scale = priors.std(Quantity.WRENCH_SCALE) * aim
    stops = _STOPS * (limits.upper - limits.low)
    spread = math.hypot(loses, read, scale, stops)
    return float(ndtr((limits.upper - aim) / spread) - ndtr((limits.low - aim) / spread))


def probability_as_read(
    reading: Reading, limits: Range, *, value: float | None = None, std: float = 0.0
) -> float:
    """Chance that a rotating torque is truly in range by its own readings alone.

    :param reading: once or the mean of several [N·m].
    :param limits: what it is held to [N·m].
    :param value: what it comes to once a seal's drag is taken off [N·m]; as read when left out.
    :param std: standard uncertainty of that drag [N·m].
    :source: :func:`axle.stations.preload_readings.torque_spread`.

    >>> round(probability_as_read(Reading("pinion_torque", 1, 2.0, 1, 1, {}), Range(1.7, 2.8)), 2)
    1.0
    """
    value = reading.value if value is None else value
    spread = math.hypot(torque_spread(reading), std)
    high = float(ndtr((limits.high - value) / spread)) if math.isfinite(limits.high) else 1.0
    return max(high - float(ndtr((limits.low - value) / spread)), 0.0)


def _by_hand(state: AxleState, after: Settings) -> float | None:
    """What a judgement is worth: of the packs it was made on, else of packs still to be judged."""
    felt = carrier_verdict(state, IMPERIAL)
    if felt is None or not felt.decided:
        return None
    if any(Decimal(after.get(p, 0)) != state.setting(p) for p in (Place.RING, Place.FAR)):
        return _FELT_ANEW
    return _FELT_IN if felt.in_range else _FELT_OUT


def _carrier(state: AxleState, after: Settings) -> _Chance | None:
    """By hand, by the interference that is wanted, or by torque where the sheet has it and it was read."""
    if chosen_method(state, StationName.CARRIER_PRELOAD).name in BY_HAND:
        return _by_hand(state, after)
    if not sides_are_set(state, after) or not knows(state, 1):
        return None
    wanted, limits = wanted_interference(state), state.sheet.range("carrier_preload")
    if wanted is not None:
        return _inside(interference_draws(state, 1, after) * wanted.kept, wanted.limits)
    return None if limits is None else _inside(torque_draws(state, 1, after), limits)
