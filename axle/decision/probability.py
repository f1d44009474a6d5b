"""Chance that everything is truly in range, as the axle stands or once some packs are changed."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace
from decimal import Decimal
from typing import Final

from scipy.special import ndtr

from axle.decision.carrier.start import predict_sides
from axle.layout import Place
from axle.measure.range import Range
from axle.measure.units import IMPERIAL
from axle.preload.curve import chances as torque_chances
from axle.procedure.names import KindName, StationName
from axle.procedure.staleness import stale_because
from axle.spec.limits import BacklashLimits, BacklashRule
from axle.state.axle_state import AxleState
from axle.state.reading import Reading
from axle.state.settings import Settings
from axle.stations.backlash import backlash_now
from axle.stations.carrier_preload import BY_HAND, carrier_verdict, interference_now, wanted_interference
from axle.stations.carrier_torque import carrier_torque, torque_curve
from axle.stations.depth_posterior import DepthEstimate, depth_posterior
from axle.stations.method import chosen_method
from axle.stations.pinion_preload import freed_of_seal, sealed_range
from axle.stations.pinion_trials import torque_spread, trials_of
from axle.stations.zero_play import deeper_between, interference_setting, sides_are_set

# What a new pack of mic'd pieces is off [mm]; what a reading of backlash repeats to [mm]; what bearings'
# torque differs from one turning to the next [N·m]. From memory.
PACK: Final = 0.004
_LASH: Final = 0.006
_TURNING: Final = 0.05
# How often a judgement by hand (taps, a steady pull) that says in, that says out, or that is still to be
# made on other packs, proves right. From memory.
_FELT_IN: Final = 0.85
_FELT_OUT: Final = 0.15
_FELT_ANEW: Final = 0.7
# A sleeve that is bitten anew ends in range so often where each bite is read (from the bites' own chance).
_NEW_SLEEVE: Final = 0.93


@dataclass(frozen=True)
class InRange:
    """Chances by station; a station that is not judged is left out.

    :param parts: by station, 0 to 1.
    :param backlash: smallest backlash that is expected, with its standard deviation [mm], or nothing.
    """

    parts: Mapping[str, float]
    backlash: tuple[float, float] | None = None

    @property
    def joint(self) -> float:
        """That all is in range at once; the parts hardly hang together, since each is read by itself."""
        return math.prod(self.parts.values())


def in_range_probabilities(
    state: AxleState, after: Settings | None = None, *, held: DepthEstimate | None = None
) -> InRange:
    """Chance that everything is truly in range.

    :param state: the axle.
    :param after: what is in it once something is changed; as it is when left out.
    :param held: what is held of its depth, where that is known already.
    :returns: by station, each 0 to 1.
    :source: spreads of what is held (JCGM 100:2008), independent from station to station.
    """
    changed = state.settings if after is None else after
    deeper = deeper_between(state, state.settings, changed)
    parts: dict[str, float] = {}
    held = held or depth_posterior(state)
    # A pinion that is not part of the job is not judged; one whose depth is only not measured is.
    if held is not None and Place.DEPTH not in state.fixed:
        parts["depth"] = depth_probability(state, held, changed)
    pinion = None if "pinion_preload" in state.not_part else _pinion(state, changed)
    if pinion is not None:
        parts["pinion_preload"] = pinion
    carrier = _carrier(state, changed)
    if carrier is not None:
        parts["carrier_preload"] = carrier
    elif state.sheet.range("carrier_preload") is not None and carrier_torque(state) is not None:
        # Read, and no trial comes of it: whatever is in now is not right, and nothing is known of others.
        same = interference_setting(state, changed) == interference_setting(state, state.settings)
        parts["carrier_preload"] = 0.0 if same else 0.5
    lash = predict_backlash(state, changed, deeper)
    limits = state.sheet.backlash_limits()
    if lash is not None and limits is not None:
        parts["backlash"] = _lash_chance(limits, *lash)
    return InRange(parts, lash[:2] if lash else None)


def depth_probability(state: AxleState, held: DepthEstimate, after: Settings) -> float:
    """Chance that the depth is truly within its tolerance.

    :param state: the axle.
    :param held: what is held of it.
    :param after: what is in it afterwards [mm].
    :source: the sheet; ``chart.toml``.
    """
    deeper = deeper_between(state, state.settings, after)
    return held.within(state.depth_tolerance, deeper, PACK if deeper else 0.0)


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
        return reads, math.hypot(_LASH / math.sqrt(_count(state)), now.std), now.around.variation
    found = predict_sides(state, ring, far, deeper)
    if found is None or found[1] is None:
        return None
    return *found[1], now.around.variation if now else None


def _count(state: AxleState) -> int:
    read = [t.count for t in state.around(KindName.BACKLASH).values()]
    return min(read, default=1)


def _lash_chance(limits: BacklashLimits, smallest: float, std: float, spread: float | None) -> float:
    std = max(std, 0.003)
    high = limits.high
    if limits.rule is BacklashRule.EVERY:
        high -= spread or 0.0
    inside = float(ndtr((high - smallest) / std) - ndtr((limits.low - smallest) / std))
    if spread is not None and math.isfinite(limits.variation):
        inside *= float(ndtr((limits.variation - spread) / (_LASH * math.sqrt(2))))
    return max(inside, 0.0)


def _pinion(state: AxleState, after: Settings) -> float | None:
    limits = state.preload_range()
    if limits is None:
        return None
    newest = state.latest(KindName.PINION_TORQUE)
    deeper = after.get(Place.DEPTH, Decimal(0)) != state.setting(Place.DEPTH)
    if not state.layout.has_preload_pack:
        another = after.get(Place.PRELOAD, Decimal(0)) != state.setting(Place.PRELOAD)
        if another or (deeper and state.layout.depth_spoils_sleeve):
            return _NEW_SLEEVE
        if newest is None or stale_because(
            StationName.PINION_PRELOAD, state.layout, newest.settings, state.settings
        ):
            return _NEW_SLEEVE
        value, u = freed_of_seal(state, newest)
        sealed = sealed_range(state, newest)
        return probability_as_read(newest, sealed or limits, value=newest.value if sealed else value, std=u)
    there = replace(state, settings=after)
    trials = trials_of(there)
    if trials.curve is None:
        return None
    changed = after.get(Place.PRELOAD, Decimal(0)) != state.setting(Place.PRELOAD)
    setting = state.layout.preload_sign * float(after.get(Place.PRELOAD, Decimal(0)))
    _, inside, _ = torque_chances(
        trials.curve,
        setting,
        limits.low,
        limits.high,
        noise=_TURNING / 2,
        setting_spread=PACK if changed or deeper else 0.0,
    )
    return inside


def probability_as_read(
    reading: Reading, limits: Range, *, value: float | None = None, std: float = 0.0
) -> float:
    """Chance that a rotating torque is truly in range by its own readings alone.

    :param reading: once or the mean of several [N·m].
    :param limits: what it is held to [N·m].
    :param value: what it comes to once a seal's drag is taken off [N·m]; as read when left out.
    :param std: standard uncertainty of that drag [N·m].
    :source: :func:`axle.stations.pinion_trials.torque_spread`, and that of the turning.

    >>> round(probability_as_read(Reading("pinion_torque", 1, 2.0, 1, 1, {}), Range(1.7, 2.8)), 2)
    1.0
    """
    value = reading.value if value is None else value
    spread = math.hypot(torque_spread(reading), _TURNING / math.sqrt(reading.count), std)
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


def _carrier(state: AxleState, after: Settings) -> float | None:
    """By hand, by the interference that is wanted, or by torque where the sheet has it and it was read."""
    if chosen_method(state, StationName.CARRIER_PRELOAD).name in BY_HAND:
        return _by_hand(state, after)
    if not sides_are_set(state, after):
        return None
    limits = state.sheet.range("carrier_preload")
    wanted = wanted_interference(state)
    change = interference_setting(state, after) - interference_setting(state, state.settings)
    known = interference_now(state)
    if wanted is not None and known is not None:
        at, u, _ = known
        u = math.hypot(u, PACK if change else 0.0)
        low, high = (limit / wanted.kept for limit in (wanted.limits.low, wanted.limits.high))
        at += change
        return float(ndtr((high - at) / u) - ndtr((low - at) / u))
    curve = torque_curve(state)
    if limits is None or curve is None:
        return None
    setting = interference_setting(state, after)
    if not math.isfinite(limits.high):
        limits = Range(limits.low, 1e6)
    _, inside, _ = torque_chances(
        curve,
        setting,
        limits.low,
        limits.high,
        noise=_TURNING,
        setting_spread=PACK if change else 0.0,
    )
    return inside
