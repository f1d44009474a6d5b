"""Everything that was read of both preloads, brought together: what is held of both pairs of bearings."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import Final

import numpy as np

from axle.layout import DepthShim, Place
from axle.measure.range import Range
from axle.measure.uncertainty import birge_ratio, rectangular
from axle.preload.curve import CARRIER_SLOPE, PINION_SLOPE, Curve, Slope
from axle.preload.joint import PairPrior, PairReading, Pairs, PairsPrior, Shows, fit_pairs
from axle.procedure.conditions import TorqueConditions
from axle.procedure.conditions_in_words import unlike
from axle.procedure.names import KindName
from axle.state.axle_state import AxleState
from axle.state.kept import kept
from axle.state.priors import Priors, Quantity
from axle.state.reading import Print, Reading
from axle.state.settings import Settings
from axle.stations.zero_play import interference_setting, sides_are_set, zero_plays

TORQUE_STEP: Final = 0.113
_STARTING: Final = Priors()
_STACK: Final = (Place.DEPTH, Place.PRELOAD, Place.BEARINGS, Place.SLINGER)
_SIDES: Final = (Place.RING, Place.FAR)
# By how much the exponent of real bearings and cases differs from 10/9, one standard deviation; from
# memory.
_BENDS: Final = 0.06
# What an adjuster that is turned back loses in its thread [mm], one standard deviation; from memory.
_SLACK: Final = 0.007
# A sleeve sits wherever its nut left it [mm]: each is its own.
_SLEEVE: Final = 0.3
# A torque that cannot be told from none [N·m], and how loose a pack that turns at none may be [mm]: 3 thou,
# and as much either way; from memory.
_NOTHING: Final = 0.06
_LOOSE: Final = 0.076
# One way of a torque so many standard deviations of their mean off the other: one of the two is misread.
_APART: Final = 3.0
PINION, CARRIER = 0, 1
# So sure by everything read that it is in range, a torque that reads a little out is left.
IN_BY_ALL: Final = 0.6
# Changes of setting that are tried for the surest, and what is as sure as the surest.
_TRIED: Final = 161
_ABOUT_AS_SURE: Final = 0.01
# A change of packs is made of so many pieces where nobody says how many.
PIECES: Final = 3


def torque_spread(reading: Reading, priors: Priors = _STARTING) -> float:
    """Standard deviation of a rotating torque as it was read [N·m].

    :param reading: once or again, one way or both.
    :param priors: what is held of the hand and the wrench.
    :source: step of the wrench; scatter of a hand (``priors.toml``); the mean of n falls with the root of
        n. Both ways that lie apart are known to half of what they differ by.
    """
    hand, share = priors.centre(Quantity.TORQUE_SCATTER), priors.centre(Quantity.TORQUE_SHARE)
    once = math.hypot(rectangular(reading.step or TORQUE_STEP), hand, share * reading.value)
    if reading.torque_conditions.bound:
        once = max(once, 0.5 * reading.value)  # a bound says where it is not
    turnings = 2 if reading.torque_conditions.both else 1
    std = max(once / math.sqrt(reading.count * turnings), reading.std)
    # Read once, one way far from the other: either may be misread, and the mean lies between.
    apart = abs(reading.offs[0]) if reading.count == 1 and reading.offs else 0.0
    return max(std, apart) if apart > _APART * std else std


def pack_std(priors: Priors, pieces: int = PIECES) -> float:
    """How well a changed pack is known [mm]: its pieces, the micrometer's zero, what its joints lose.

    :param priors: what is held of the micrometer and the shims.
    :param pieces: of the pack, 1 or more.
    :source: :func:`axle.measure.uncertainty.pack_uncertainty`; ``priors.toml``.
    """
    return math.hypot(
        priors.std(Quantity.PIECE) * math.sqrt(pieces),
        priors.std(Quantity.MIC_ZERO),
        priors.std(Quantity.JOINT) * max(pieces - 1, 0),
    )


def why_left_out(reading: Reading, state: AxleState, governs: TorqueConditions | None) -> str:
    """Why a trial of the pinion's preload cannot be held to the others; nothing where it can.

    :param reading: of the pinion's rotating torque or end play.
    :param state: the axle.
    :param governs: how the newest torque was read, or nothing.
    :source: unlike is not mixed.
    """
    for place, words in ((Place.BEARINGS, "on other bearings"), (Place.SLINGER, "with another slinger")):
        if reading.settings.at(place) != state.setting(place):
            return f"a trial {words}"
    if reading.kind == KindName.PINION_TORQUE:
        apart = unlike(governs or TorqueConditions(), reading.torque_conditions)
        if apart:
            return f"a trial read with {', '.join(apart)}"
    return ""


def governing(state: AxleState) -> TorqueConditions | None:
    """How the newest rotating torque of the pinion without seal was read: others are held to it.

    :param state: the axle.
    :source: unlike is not mixed.
    """
    torques = [
        t for t in state.readings if t.kind == KindName.PINION_TORQUE and not t.torque_conditions.seal
    ]
    return max(torques, key=lambda t: t.order).torque_conditions if torques else None


@dataclass(frozen=True)
class Together:
    """How often pinion and carrier had come together when something was read.

    :param stack: number of the pinion's coming together, from 0.
    :param sides: number of the carrier's.
    :param loaded: the axle had been loaded on these bearings.
    """

    stack: int
    sides: int
    loaded: bool


@kept
def comings_together(state: AxleState) -> tuple[dict[int, Together], Together]:
    """By order of each reading how often the axle had come together, and how it stands now.

    :param state: the axle.
    :returns: a pinion that came out takes the carrier with it; an adjuster that is turned leaves the
        pinion.
    :source: settings recorded with each reading.
    """
    events: list[Reading | Print] = sorted([*state.readings, *state.prints], key=lambda t: t.order)
    found: dict[int, Together] = {}
    now, before, assembly = Together(0, 0, False), None, 0
    read_on: dict[int, bool] = {}
    for event in events:
        now = _next(state, now, before, event.settings, assembly, event.assembly)
        if isinstance(event, Reading) and _is_bite(state, event, read_on.get(now.stack), now.loaded):
            now = Together(now.stack + 1, now.sides, now.loaded)
        if isinstance(event, Reading) and event.kind == KindName.PINION_TORQUE:
            read_on[now.stack] = now.loaded
        before, assembly = event.settings, event.assembly
        found[event.order] = now
        if isinstance(event, Print):
            now = Together(now.stack, now.sides, loaded=True)
    if before is not None:
        now = _next(state, now, before, state.settings, assembly, state.assembly)
    return found, now


def stack_places(state: AxleState) -> tuple[Place, ...]:
    """Places whose change takes the pinion's bearings apart: a cartridge comes out whole.

    :param state: the axle.
    :source: common practice.
    """
    whole = state.layout.depth_shim is DepthShim.CARTRIDGE
    return tuple(place for place in _STACK if not (whole and place is Place.DEPTH))


def _is_bite(state: AxleState, reading: Reading, read_on: bool | None, loaded: bool) -> bool:
    """Whether the nut on a sleeve was turned since the torque before: nobody reads another one for nothing.

    What is read again counts with what it repeats; read after the first load it is of the same bite.
    """
    if state.layout.has_preload_pack or reading.kind != KindName.PINION_TORQUE or read_on is None:
        return False
    how = reading.torque_conditions
    return bool(how.turned or how.nut_torque) or read_on == loaded


def _next(
    state: AxleState,
    now: Together,
    before: Settings | None,
    settings: Settings,
    assembly: int,
    number: int,
) -> Together:
    if before is None:
        return now
    loaded = now.loaded and before.at(Place.BEARINGS) == settings.at(Place.BEARINGS)
    if not before.same_at(settings, stack_places(state)):
        sides = (
            now.sides if state.layout.has_adjusters and before.same_at(settings, _SIDES) else now.sides + 1
        )
        return Together(now.stack + 1, sides, loaded)
    apart = number != assembly and not state.layout.has_adjusters
    if apart or not before.same_at(settings, _SIDES):
        return Together(now.stack, now.sides + 1, loaded)
    return Together(now.stack, now.sides, loaded)


def pinion_setting(state: AxleState, settings: Settings) -> float:
    """How tight the pinion's stack is set, more is tighter [mm]; 0 of a sleeve, which its nut sets.

    :param state: the axle.
    :param settings: what is in the axle.
    :source: signs and coupling of the layout.
    """
    if not state.layout.has_preload_pack:
        return 0.0
    coupled = state.layout.preload_per_depth
    pack = float(settings.at(Place.PRELOAD)) - coupled * float(settings.at(Place.DEPTH))
    return state.layout.preload_sign * pack


def pairs_prior(state: AxleState) -> PairsPrior:
    """What is held of both pairs and their mesh before this axle is read.

    :param state: the axle.
    :source: ``priors.toml``, or what the shop has learned.
    """
    priors = state.priors
    used = 1.0 if state.new_bearings else priors.centre(Quantity.BED_OF_USED)

    def bed(quantity: Quantity) -> tuple[float, float]:
        width = priors.of(quantity)
        return width.centre * used, width.std

    def slope(usual: Slope, quantity: Quantity, share: float = 1.0) -> Slope:
        width = priors.of(quantity)
        return Slope(usual.torque * width.centre * share, usual.interference, factor=math.exp(width.std))

    idle = priors.of(Quantity.IDLE_DRAG)
    half = 1.0 if state.new_bearings else 0.5
    mesh, seat = priors.of(Quantity.MESH_DRAG), priors.std(Quantity.SIDE_SEAT)
    if state.layout.has_adjusters:
        seat = math.hypot(seat, _SLACK)
    pinion_seat = priors.std(Quantity.PINION_SEAT) if state.layout.has_preload_pack else _SLEEVE
    return PairsPrior(
        PairPrior(
            slope(PINION_SLOPE, Quantity.PINION_STIFFNESS, half),
            (idle.centre, idle.std),
            bed(Quantity.PINION_BED),
            pinion_seat,
            _pack_std(state, PINION),
        ),
        PairPrior(
            slope(CARRIER_SLOPE, Quantity.CARRIER_STIFFNESS),
            (idle.centre, idle.std),
            bed(Quantity.CARRIER_BED),
            seat * math.sqrt(2),
            _pack_std(state, CARRIER),
        ),
        (mesh.centre, mesh.std),
        state.gears.ratio,
        wrench=priors.std(Quantity.WRENCH_SCALE),
        zero=priors.std(Quantity.WRENCH_ZERO),
    )


@kept
def pair_readings(state: AxleState) -> tuple[PairReading, ...]:
    """Everything that was read of both preloads, as the joint fit takes it.

    :param state: the axle.
    :source: the job's records; ``priors.toml`` for how well each is known.
    """
    return tuple(_pair_readings(state))


def _pair_readings(state: AxleState) -> Iterator[PairReading]:
    together, governs = comings_together(state)[0], governing(state)
    play_std = math.hypot(state.priors.centre(Quantity.INDICATOR_SCATTER), rectangular(0.0127))
    for reading in sorted(state.readings, key=lambda t: t.order):
        if reading.kind not in _SHOWS or reading.torque_conditions.seal:
            continue
        now, settings = together[reading.order], reading.settings
        if settings.at(Place.BEARINGS) != state.setting(Place.BEARINGS):
            continue
        of_pinion = reading.kind in (
            KindName.PINION_TORQUE,
            KindName.PINION_END_PLAY,
            KindName.TOTAL_TORQUE,
        )
        if of_pinion and why_left_out(reading, state, governs):
            continue
        if of_pinion and not _stands(state, settings):
            continue
        of_carrier = reading.kind not in (KindName.PINION_TORQUE, KindName.PINION_END_PLAY)
        if of_carrier and not sides_are_set(state, settings):
            continue
        if reading.kind == KindName.TOTAL_TORQUE and governs and unlike(governs, reading.torque_conditions):
            continue
        is_play = reading.kind in (KindName.PINION_END_PLAY, KindName.CARRIER_END_PLAY)
        yield PairReading(
            _SHOWS[KindName(reading.kind)],
            reading.value,
            play_std / math.sqrt(reading.count) if is_play else _torque_std(state, reading),
            pinion=pinion_setting(state, settings) if of_pinion else 0.0,
            carrier=interference_setting(state, settings) if of_carrier else 0.0,
            stack=now.stack,
            sides=now.sides,
            loaded=now.loaded,
            bound=is_play and not reading.value,
        )
    for order, zero in zero_plays(state):
        now = together[order]
        yield PairReading(
            Shows.CARRIER_PLAY,
            0.0,
            zero.uncertainty,
            carrier=zero.interference_setting,
            sides=now.sides,
            stack=now.stack,
            loaded=now.loaded,
            packed=False,
        )


def _torque_std(state: AxleState, reading: Reading) -> float:
    """How well the law explains a torque: less the further it lies from where the pair is set."""
    aim = _aims(state).get(reading.kind, 0.0)
    bends = (
        _BENDS * abs(math.log(reading.value / aim)) * reading.value if aim and reading.value > 0 else 0.0
    )
    return math.hypot(torque_spread(reading, state.priors), bends)


def _aims(state: AxleState) -> dict[str, float]:
    """Torque that each kind is set to: the sheet's, or what is usual [N·m]."""
    pinion, carrier = state.preload_range(), state.sheet.range("carrier_preload")
    alone = pinion.aim if pinion else PINION_SLOPE.torque
    at_carrier = carrier.aim if carrier else CARRIER_SLOPE.torque
    return {
        KindName.PINION_TORQUE: alone,
        KindName.CARRIER_TORQUE: at_carrier,
        KindName.TOTAL_TORQUE: alone + at_carrier / state.gears.ratio,
    }


_SHOWS: Final = {
    KindName.PINION_TORQUE: Shows.PINION_TORQUE,
    KindName.PINION_END_PLAY: Shows.PINION_PLAY,
    KindName.TOTAL_TORQUE: Shows.TOTAL_TORQUE,
    KindName.CARRIER_TORQUE: Shows.CARRIER_TORQUE,
    KindName.CARRIER_END_PLAY: Shows.CARRIER_PLAY,
}


def _stands(state: AxleState, settings: Settings) -> bool:
    """Whether the pinion's preload pack is recorded, on an axle that has one."""
    return bool(settings.get(Place.PRELOAD)) or not state.layout.has_preload_pack


@kept
def pairs_of(state: AxleState) -> Pairs:
    """Both pairs of bearings as everything that was read has them.

    :param state: the axle.
    :source: :func:`axle.preload.joint.fit_pairs`, its widths by the Birge ratio of this job.
    """
    readings = list(pair_readings(state))
    pinions = [r for r in readings if r.shows is Shows.PINION_TORQUE]
    plays = any(r.shows is Shows.PINION_PLAY and not r.bound for r in readings)
    if state.layout.has_preload_pack and pinions and not plays and max(r.value for r in pinions) < _NOTHING:
        # Torques of nothing bound zero play on one side only: how loose, nobody read.
        tightest = max(pinions, key=lambda r: r.pinion)
        loose = PairReading(
            Shows.PINION_PLAY,
            _LOOSE,
            _LOOSE,
            pinion=tightest.pinion,
            stack=tightest.stack,
            sides=tightest.sides,
        )
        readings.append(loose)
    found = fit_pairs(tuple(readings), pairs_prior(state))
    return replace(found, scatter=birge_ratio(found.chi_square, found.count))


def knows(state: AxleState, which: int) -> bool:
    """Say whether anything was read of a pair that tells where it stands.

    :param state: the axle.
    :param which: 0 for the pinion's pair, 1 for the carrier's.
    :source: the job's records.
    """
    pairs = pairs_of(state)
    if which == PINION and not state.layout.has_preload_pack:
        return any(
            r.of_pinion and r.stack == comings_together(state)[1].stack for r in pair_readings(state)
        )
    return pairs.knows_carrier if which else pairs.knows_pinion


def interference_draws(
    state: AxleState, which: int, after: Settings, *, pieces: int = PIECES
) -> np.ndarray:
    """Interference of a pair once the axle has run under load, one figure for each draw [mm].

    :param state: the axle, of which something was read of this pair.
    :param which: 0 for the pinion's pair, 1 for the carrier's.
    :param after: what is in it then.
    :param pieces: of a pack that is changed.
    :source: :class:`axle.preload.joint.Pairs`.
    """
    pairs, now = pairs_of(state), comings_together(state)[1]
    pinion_stays = after.same_at(state.settings, stack_places(state))
    sides_stay = after.same_at(state.settings, _SIDES)
    if which == PINION:
        changed = not pinion_stays
        setting, seat = pinion_setting(state, after), now.stack if pinion_stays else None
    else:
        changed = not sides_stay
        opened = changed or not (pinion_stays or state.layout.has_adjusters)
        setting, seat = interference_setting(state, after), None if opened else now.sides
    pack = _pack_std(state, which, pieces) if changed else None
    return pairs.interference(which, setting, pairs.draws, seat=seat, loaded=True, pack=pack)


def _pack_std(state: AxleState, which: int, pieces: int = PIECES) -> float:
    """Error of the packs of a pair as they were measured [mm]; none of adjusters, or of a sleeve."""
    if which == PINION:
        return pack_std(state.priors, pieces) if state.layout.has_preload_pack else 0.0
    return 0.0 if state.layout.has_adjusters else math.sqrt(2) * pack_std(state.priors, pieces)


def torque_draws(state: AxleState, which: int, after: Settings, *, pieces: int = PIECES) -> np.ndarray:
    """True torque of a pair once the axle has run under load, one figure for each draw [N·m].

    :param state: as for :func:`interference_draws`.
    :param which: likewise.
    :param after: likewise.
    :param pieces: likewise.
    :source: :class:`axle.preload.joint.Pairs`.
    """
    pairs = pairs_of(state)
    return pairs.torque(which, interference_draws(state, which, after, pieces=pieces), pairs.draws)


def _seated_anew(state: AxleState, which: int, after: Settings) -> np.ndarray:
    """Interference of a pair that comes together anew: how it sat before says nothing then."""
    pairs = pairs_of(state)
    setting = interference_setting(state, after) if which else pinion_setting(state, after)
    return pairs.interference(which, setting, pairs.draws, seat=None, loaded=True, anew=True)


def torque_now(state: AxleState, which: int) -> tuple[float, float]:
    """Torque of a pair as it stands, by everything that was read: median and standard deviation [N·m].

    :param state: the axle, of which something was read of this pair.
    :param which: 0 for the pinion's pair, 1 for the carrier's.
    :source: :class:`axle.preload.joint.Pairs`.
    """
    pairs, now = pairs_of(state), comings_together(state)[1]
    setting = (
        interference_setting(state, state.settings) if which else pinion_setting(state, state.settings)
    )
    seat = now.sides if which else now.stack
    at = pairs.interference(which, setting, pairs.draws, seat=seat, loaded=now.loaded)
    torque = pairs.torque(which, at, pairs.draws)
    return float(np.median(torque)), float(torque.std())


def chance_of_torque(state: AxleState, which: int, limits: Range) -> float:
    """Chance that a pair's torque is in range once the axle has run under load, packs as they are.

    :param state: the axle.
    :param which: 0 for the pinion's pair, 1 for the carrier's.
    :param limits: [N·m].
    :returns: 0 where nothing was read of it.
    :source: :func:`torque_draws`.
    """
    if not knows(state, which):
        return 0.0
    torques = torque_draws(state, which, state.settings)
    return float(((torques >= limits.low) & (torques <= limits.high)).mean())


def surest_change(
    state: AxleState, which: int, after: Settings, limits: Range, *, is_torque: bool
) -> tuple[float, float]:
    """By how much tighter a pair has to come to be in range most surely once it has run under load.

    :param state: the axle.
    :param which: 0 for the pinion's pair, 1 for the carrier's.
    :param after: what is in it before that change.
    :param limits: of its torque [N·m] or its interference [mm].
    :param is_torque: they are of the torque.
    :returns: (change of its setting, tighter is more [mm]; chance that it is then in range).
    :source: the middle of all changes that are about as sure as the surest.
    """
    pairs, at = pairs_of(state), _seated_anew(state, which, after)
    if is_torque:
        low, high = (pairs.reached(which, end) - at for end in (limits.low, limits.upper))
    else:
        low, high = limits.low - at, limits.upper - at
    tried = np.linspace(float(np.quantile(low, 0.1)), float(np.quantile(high, 0.9)), _TRIED)
    inside = ((low[None, :] <= tried[:, None]) & (tried[:, None] <= high[None, :])).mean(axis=1)
    best = inside >= inside.max() - _ABOUT_AS_SURE
    return float(tried[best].mean()), float(inside.max())


def usual_rise(which: int) -> float:
    """By how much the torque of a usual pair rises with its interference, where it is usually set [N·m/mm].

    :param which: 0 for the pinion's pair, 1 for the carrier's.
    :source: slope of the power law at :data:`axle.preload.curve.PINION_SLOPE` or the carrier's.
    """
    slope = CARRIER_SLOPE if which else PINION_SLOPE
    return 10 / 9 * slope.torque / slope.interference


def lost_at_first_load(state: AxleState, which: int) -> tuple[float, float]:
    """Interference that a pair is still to lose at first load, median and standard deviation [mm].

    :param state: the axle.
    :param which: 0 for the pinion's pair, 1 for the carrier's.
    :returns: nothing to lose once it was loaded.
    :source: ``priors.toml``; what readings before and after a load have shown.
    """
    return (0.0, 0.0) if comings_together(state)[1].loaded else pairs_of(state).expected_bed(which)


def curve_of(state: AxleState, which: int) -> Curve | None:
    """Torque of one pair against its setting, once it has run in under load.

    :param state: the axle.
    :param which: 0 for the pinion's pair, as thickness that tightens with the depth shim that is in; 1 for
        the carrier's, as both sides together.
    :returns: nothing before something was read of it.
    :source: :func:`pairs_of`.
    """
    if not knows(state, which):
        return None
    pairs, first = pairs_of(state), 4 * which
    pair = pairs.prior.carrier if which else pairs.prior.pinion
    log = math.log(pair.slope.factor)
    bed, bed_std = pairs.expected_bed(which)
    zeros, slopes = pairs.zero(which, pairs.draws), log * pairs.draws[:, first + 1]
    zero, together = float(np.median(zeros)) + bed, np.cov(zeros, slopes)
    if which == PINION and state.layout.has_preload_pack:
        depth = float(state.setting(Place.DEPTH))
        zero += state.layout.preload_sign * state.layout.preload_per_depth * depth
    return Curve(
        zero=zero,
        coefficient=pair.slope.coefficient * math.exp(log * float(pairs.mean[first + 1])),
        drag=pair.idle[0],
        zero_spread=math.sqrt(float(together[0, 0]) + bed_std**2),
        factor_spread=math.sqrt(float(together[1, 1])),
        together=float(together[0, 1]),
        trials=sum(1 for r in pair_readings(state) if (r.of_carrier if which else r.of_pinion)),
    )
