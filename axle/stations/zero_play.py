"""Where this job's carrier sits: both sides as thickness, and where zero play lies."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from decimal import Decimal
from typing import Final

from axle.backlash.ratios import prior_ratios
from axle.carrier.adjusters import thickness_per_hole
from axle.carrier.sides import Seat, seat_at
from axle.layout import Place
from axle.measure.uncertainty import rectangular
from axle.procedure.names import KindName
from axle.procedure.staleness import stale_because
from axle.state.axle_state import AxleState
from axle.state.kept import kept
from axle.state.priors import Quantity
from axle.state.reading import Reading
from axle.state.settings import Settings

_SIDES: Final = (Place.RING, Place.FAR)
# Backlash a hole is worth where nobody knows the thread: 3 thou, common practice.
_LASH_PER_HOLE: Final = 0.0762
# How well "just slides" and the sum of two packs are known [mm], from memory.
_SLIDES: Final = 0.013
# Step between two blades of a set of feelers [mm]: a thou.
_BLADES: Final = 0.0254
_SUM: Final = 0.005


def thread_known(state: AxleState) -> bool:
    """Say whether the sheet gives the adjusters' thread.

    :param state: the axle.
    :source: the job's sheet.
    """
    return bool(state.sheet.single("adjuster_pitch") and state.sheet.single("adjuster_holes"))


def per_hole(state: AxleState) -> float:
    """Travel of an adjuster per hole [mm]; without a thread on the sheet what is usual.

    :param state: the axle.
    :source: :func:`axle.carrier.adjusters.thickness_per_hole`; common practice, 3 thou of backlash.
    """
    pitch, holes = state.sheet.single("adjuster_pitch"), state.sheet.single("adjuster_holes")
    if pitch and holes:
        return thickness_per_hole(pitch, int(holes))
    prior = prior_ratios(state.gears, state.sheet.stance, state.finished_ratios)
    return _LASH_PER_HOLE / prior.per_ring


def side_in(state: AxleState, settings: Settings, place: Place) -> float:
    """What one side holds as a thickness [mm]; an adjuster's holes count as its travel.

    :param state: the axle.
    :param settings: what was in the axle.
    :param place: which side.
    :source: :func:`per_hole`.
    """
    setting = float(settings.at(place))
    return setting * per_hole(state) if state.layout.has_adjusters else setting


def sides_are_set(state: AxleState, settings: Settings | None = None) -> bool:
    """Say whether both sides are recorded; adjusters stand at their marks where nothing is.

    :param state: the axle.
    :param settings: what was in the axle; what is in it now when left out.
    :source: the job's assemblies.
    """
    where = state.settings if settings is None else settings
    return state.layout.has_adjusters or all(where.get(place) for place in _SIDES)


def ring_alone(state: AxleState, settings: Settings | None = None) -> bool:
    """Say whether the ring gear's side holds a pack and the far side none: the usual first half of a build.

    :param state: the axle.
    :param settings: what was in the axle; what is in it now when left out.
    :source: common practice.
    """
    where = state.settings if settings is None else settings
    return bool(not state.layout.has_adjusters and where.get(Place.RING) and not where.get(Place.FAR))


def interference_setting(state: AxleState, settings: Settings) -> float:
    """Sum of both sides, counted so that more is tighter [mm].

    :param state: the axle.
    :param settings: what was in the axle.
    :source: signs of the layout.
    """
    return state.layout.carrier_sign * sum_of_sides(state, settings)


def sum_of_sides(state: AxleState, settings: Settings) -> float:
    """Both sides together as a builder adds them up [mm].

    :param state: the axle.
    :param settings: what was in the axle.
    :source: :func:`side_in`.
    """
    return sum(side_in(state, settings, place) for place in _SIDES)


@dataclass(frozen=True)
class ZeroPlay:
    """Where zero play lies, by what was read of it.

    :param interference_setting: sum of both sides at zero play, counted so that more is tighter [mm].
    :param uncertainty: standard uncertainty [mm].
    :param by: how it was found, in words.
    :param sign: +1 where a thicker pack is tighter, −1 under covers.
    :param by_indicator: an indicator read the play that was left.
    """

    interference_setting: float
    uncertainty: float
    by: str
    sign: int = 1
    by_indicator: bool = False

    @property
    def thickness(self) -> float:
        """Sum of both sides at zero play as a builder adds it up [mm]."""
        return self.sign * self.interference_setting


@kept
def zero_play(state: AxleState) -> ZeroPlay | None:
    """Zero play by the newest reading that tells it: play left, thin spacers, or gaps.

    :param state: the axle.
    :returns: nothing where none was read on these bearings.
    :source: :mod:`axle.carrier.spacers`; packs and end play.
    """
    found = [z for z in (_by_play(state), *zero_plays(state)) if z is not None]
    if not found:
        return None
    _, newest = max(found, key=lambda item: item[0])
    return replace(newest, sign=state.layout.carrier_sign)


def zero_plays(state: AxleState) -> tuple[tuple[int, ZeroPlay], ...]:
    """Zero play by every way that needs no reading on the packs that are in, each with its order in time.

    :param state: the axle.
    :source: thin spacers and their play; gaps on both sides; packs that just slide.
    """
    found = (_by_spacers(state), _by_gaps(state), _by_sliding(state))
    return tuple(item for item in found if item is not None)


def _valid(state: AxleState, kind: str) -> Reading | None:
    newest = state.latest(kind)
    if newest is None or stale_because(kind, state.layout, newest.settings, state.settings):
        return None
    bearings = newest.settings.at(Place.BEARINGS) == state.setting(Place.BEARINGS)
    return newest if bearings else None


def _u(reading: Reading) -> float:
    return rectangular(reading.step or 0.0127)


def _felt(state: AxleState, *readings: Reading) -> float:
    """Standard uncertainty of a sum of gaps by feelers [mm]: the blade's step, the hand, its own feel."""
    priors = state.priors
    hand = math.hypot(priors.centre(Quantity.FEELER_SCATTER), rectangular(_BLADES))
    scatter = math.sqrt(sum(hand**2 / reading.count for reading in readings))
    return math.hypot(scatter, len(readings) * priors.std(Quantity.FEELER_FEEL))


def _by_play(state: AxleState) -> tuple[int, ZeroPlay] | None:
    plays = [_valid(state, kind) for kind in ("zero_play", "carrier_end_play")]
    # No play left on packs whose school reads torque says that they are tight, not where zero lies.
    told = [
        t
        for t in plays
        if t is not None
        and (t.value > 0 or t.kind == KindName.ZERO_PLAY)
        and sides_are_set(state, t.settings)
    ]
    if not told:
        return None
    newest = max(told, key=lambda t: t.order)
    u = math.hypot(_u(newest), _SUM) if newest.value else math.hypot(_SLIDES, _SUM)
    by = "play left between the packs" if newest.value else "packs that just slide"
    if state.layout.has_adjusters:
        by = "play left at the adjusters" if newest.value else "adjusters where play is just gone"
    zero = ZeroPlay(
        interference_setting(state, newest.settings) + newest.value, u, by, by_indicator=newest.value > 0
    )
    return newest.order, zero


def _by_spacers(state: AxleState) -> tuple[int, ZeroPlay] | None:
    thin, play = _valid(state, "thin_spacer"), _valid(state, "spacer_play")
    if thin is None or play is None:
        return None
    sign, feel = state.layout.carrier_sign, state.priors.centre(Quantity.FEELER_FEEL)
    u = math.hypot(2 * state.priors.std(Quantity.MIC_ZERO), _felt(state, play), _SUM)
    return play.order, ZeroPlay(sign * 2 * thin.value + play.value - feel, u, "thin spacers and play")


def _by_gaps(state: AxleState) -> tuple[int, ZeroPlay] | None:
    ring, far = _valid(state, "gap_ring"), _valid(state, "gap_far")
    if ring is None or far is None or state.layout.has_adjusters:
        return None
    held = sum(side_in(state, ring.settings, place) for place in _SIDES)
    sign, feel = state.layout.carrier_sign, state.priors.centre(Quantity.FEELER_FEEL)
    u = math.hypot(_felt(state, ring, far), _SUM)
    gaps = ring.value + far.value - 2 * feel
    return max(ring.order, far.order), ZeroPlay(sign * (held + gaps), u, "gaps on both sides")


def _by_sliding(state: AxleState) -> tuple[int, ZeroPlay] | None:
    told = _valid(state, KindName.ZERO_PLAY)
    if told is None or not sides_are_set(state, told.settings):
        return None
    u = math.hypot(_u(told), _SUM) if told.value else math.hypot(_SLIDES, _SUM)
    by = "play left between the packs" if told.value else "packs that just slide"
    zero = ZeroPlay(
        interference_setting(state, told.settings) + told.value, u, by, by_indicator=told.value > 0
    )
    return told.order, zero


def carrier_seat(
    state: AxleState, settings: Settings, rests: float = 0.0, share: float = 0.5
) -> Seat | None:
    """How the carrier sat with some settings; taken as under preload where zero play is not known.

    :param state: the axle.
    :param settings: what was in the axle.
    :param rests: where it lay while there was play, as in :class:`axle.carrier.sides.Seat`.
    :param share: λ.
    :returns: nothing where one of the sides is not recorded.
    :source: :func:`axle.carrier.sides.seat_at`.
    """
    if ring_alone(state, settings):
        # The far side is empty and the carrier lies against the ring side's pack: that seat is known.
        sign, ring = state.layout.carrier_sign, side_in(state, settings, Place.RING)
        return Seat(sign * ring, 0.0, zero=sign * ring, share=share, rests=0.0)
    if not sides_are_set(state, settings):
        return None
    zero = zero_play(state)
    ring, far = (side_in(state, settings, place) for place in _SIDES)
    if zero is None:
        # A preload deep enough that no change in hand can reach its end: differences alone count. It is
        # counted from what is in now, so that two settings differ by what their packs do.
        total = sum_of_sides(state, state.settings) if sides_are_set(state) else ring + far
        return seat_at(
            state.layout,
            ring,
            far=far,
            zero=total - state.layout.carrier_sign * _DEEP,
            share=share,
            rests=rests,
        )
    return seat_at(state.layout, ring, far=far, zero=zero.thickness, share=share, rests=rests)


_DEEP: Final = 100.0


def deeper_between(state: AxleState, before: Settings, after: Settings) -> float:
    """How much deeper the pinion came between two settings [mm].

    :param state: the axle.
    :param before: what was in the axle.
    :param after: what is in it.
    :source: sign of the layout.
    """
    change = after.get(Place.DEPTH, Decimal(0)) - before.get(Place.DEPTH, Decimal(0))
    return state.layout.depth_sign * float(change)
