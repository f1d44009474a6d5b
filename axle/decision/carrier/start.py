"""Where a plan of the carrier starts, and what settings of both sides would bring from there."""

from __future__ import annotations

import math
from dataclasses import replace
from decimal import Decimal
from typing import Final

from axle.carrier.sides import Seat, seat_at
from axle.carrier.spacers import Gaps, Pushed, Spacers
from axle.decision.carrier.shapes import REPEATS, Start
from axle.decision.pack_swap import thickness
from axle.layout import Place
from axle.measure.uncertainty import rectangular
from axle.measure.units import Display
from axle.preload.curve import CARRIER_SLOPE, interference_for
from axle.procedure.names import KindName
from axle.procedure.staleness import stale_because
from axle.state.axle_state import AxleState
from axle.state.kept import kept
from axle.state.reading import Reading
from axle.state.settings import Settings
from axle.stations.backlash import BacklashNow, backlash_now, correct_for_indicator, ratios_now, rests_of
from axle.stations.carrier_preload import wanted_interference
from axle.stations.carrier_torque import torque_curve
from axle.stations.zero_play import carrier_seat, per_hole, ring_alone, sides_are_set, zero_play

# How far packs may stand over zero play before nobody drives them in [mm]: the usual limit of a
# spread housing, 0.020 in, and a fifth of it for the drive.
_MOST_OVER: Final = 0.61


@kept
def start_of(state: AxleState) -> Start | None:
    """Where a plan may start: backlash on the axle as it is, with thin spacers, or held by hand.

    :param state: the axle.
    :returns: nothing before anything is known of either side.
    :source: the newest reading that holds.
    """
    start = _where_read(state, ratios_now(state).share)
    if start is None or zero_play(state) is not None or ring_alone(state):
        return start
    # Without a zero play that was read the torques tell it, or else what is in now counts as zero.
    curve = torque_curve(state)
    zero = curve.zero if curve else start.seat.ring + start.seat.far
    return replace(start, seat=replace(start.seat, zero=zero))


def _where_read(state: AxleState, share: float) -> Start | None:
    lash = backlash_now(state)
    if lash is not None:
        seat = carrier_seat(state, state.settings, rests_of(lash.pushed), share)
        if seat is not None:
            where = _governing(state, lash)
            return Start(seat, *where, "the backlash as it is now", locked=lash.is_locked)
    spacers, held = _first_readings(state)
    if spacers is not None and not (held is not None and held.order > spacers.order):
        return _from_spacers(state, spacers, share)
    gaps = _from_gaps(state, held, share)
    if gaps is not None:
        return gaps
    seat = carrier_seat(state, state.settings, share=share)
    return Start(seat) if seat is not None else None


def _governing(state: AxleState, lash: BacklashNow) -> tuple[float, float, float]:
    around = lash.around
    std = math.hypot(REPEATS, lash.std)
    return around.smallest, around.largest, std


def _first_readings(state: AxleState) -> tuple[Reading | None, Reading | None]:
    found = []
    for kind in ("spacer_backlash", "held_backlash"):
        newest = state.latest(kind)
        stale = newest and stale_because(kind, state.layout, newest.settings, state.settings)
        found.append(None if stale else newest)
    return found[0], found[1]


def _from_spacers(state: AxleState, backlash: Reading, share: float) -> Start | None:
    thin, play, zero = (
        state.latest(KindName.THIN_SPACER),
        state.latest(KindName.SPACER_PLAY),
        zero_play(state),
    )
    if thin is None or play is None or zero is None or not thin.value:
        return None
    value, std = correct_for_indicator(state, backlash)
    pushed = Pushed(backlash.backlash_conditions.pushed or Pushed.AWAY.value)
    u = math.hypot(REPEATS, std)
    total = zero.thickness
    seat = seat_at(state.layout, thin.value, far=thin.value, zero=total, share=share, rests=pushed.rests)
    # Where zero play was read better since, the play between the spacers is what it makes of it.
    told = zero.interference_setting - state.layout.carrier_sign * 2 * thin.value
    spacers = Spacers(thin.value, max(told, 0.0), backlash=value, pushed=pushed, backlash_u=u)
    return Start(
        seat,
        value,
        largest=None,
        std=u,
        by="the smallest backlash with thin spacers in",
        measured=spacers,
    )


def _from_gaps(state: AxleState, held: Reading | None, share: float) -> Start | None:
    ring, far, zero = state.latest(KindName.GAP_RING), state.latest(KindName.GAP_FAR), zero_play(state)
    if ring is None or far is None or zero is None or state.layout.has_adjusters:
        return None
    in_ring, in_far = (float(ring.settings.at(place)) for place in (Place.RING, Place.FAR))
    total = zero.thickness
    side = in_ring + ring.value
    seat = seat_at(state.layout, side, far=total - side, zero=total, share=share)
    # The gap on the far side is what zero play, as it was read best, leaves of it.
    gaps = Gaps(ring.value, max(total - side - in_far, 0.0), in_ring=in_ring, in_far=in_far)
    if held is None:
        return Start(seat, by="the gaps on both sides", measured=gaps)
    value, std = correct_for_indicator(state, held)
    u = math.hypot(rectangular(held.step or 0.0254), std, REPEATS)
    by = "the backlash at which the carrier was held"
    return Start(
        seat, value, largest=None, std=u, by=by, measured=replace(gaps, backlash=value, backlash_u=u)
    )


def seat_now(state: AxleState, start: Start) -> Seat:
    """What is in the axle now, in the frame of a start.

    :param state: the axle.
    :param start: where a plan starts.
    :source: :func:`axle.carrier.sides.seat_at`.
    """
    if not sides_are_set(state):
        return replace(start.seat, ring=0.0, far=0.0)
    sign = state.layout.carrier_sign
    ring, far = (sign * thickness(state, place) for place in (Place.RING, Place.FAR))
    return replace(start.seat, ring=ring, far=far)


def predict_sides(
    state: AxleState, ring: Decimal, far: Decimal, deeper: float = 0.0
) -> tuple[Seat, tuple[float, float] | None] | None:
    """What settings of both sides would bring: the seat, and the smallest backlash with its spread.

    :param state: the axle.
    :param ring: pack [mm] or holes on the ring gear's side.
    :param far: the same on the far side.
    :param deeper: how much deeper the pinion comes [mm].
    :returns: nothing where nothing is known of either side.
    :source: :meth:`axle.backlash.ratios.Ratios.shift`.
    """
    start = start_of(state)
    if start is None:
        return None
    each = per_hole(state) if state.layout.has_adjusters else 1.0
    sign = state.layout.carrier_sign
    seat = replace(start.seat, ring=sign * float(ring) * each, far=sign * float(far) * each)
    if ring_alone(state, Settings({Place.RING: ring, Place.FAR: far})):
        seat = replace(seat, zero=seat.ring)  # pushed against one side it has neither play nor preload
    return seat, start.after(*ratios_now(state).shift(start.seat, seat, deeper))


def check_setting(state: AxleState, display: Display, ring: Decimal, far: Decimal) -> tuple[str, ...]:
    """What is wrong with settings of both sides, in words: gears that lock, bearings without load.

    :param state: the axle.
    :param display: units of the words.
    :param ring: pack [mm] or holes on the ring gear's side.
    :param far: the same on the far side.
    :source: :func:`predict_sides`.
    """
    found = predict_sides(state, ring, far)
    if found is None:
        return ()
    seat, lash = found
    unit, words = display.length.symbol, []
    if lash is not None and lash[0] <= 0:
        words.append(
            f"The gears would lock: smallest backlash {display.show(lash[0])} {unit}. Locked gears bend "
            "a flange."
        )
    known = zero_play(state) is not None
    if known and seat.interference < -REPEATS and state.school != "zero_float":
        words.append(
            f"It unloads the bearings: {display.show(-seat.interference)} {unit} of play would be left."
        )
    if known and seat.interference > room(state, seat):
        words.append(
            f"It will not go into the case: {display.show(seat.interference)} {unit} over zero play."
        )
    return tuple(words)


def room(state: AxleState, seat: Seat) -> float:
    """How much interference this case takes [mm].

    :param state: the axle.
    :param seat: where zero play lies.
    :source: the job's sheet; the usual limit of a spread housing.
    """
    most = state.sheet.single("side_packs")
    if most is not None and state.layout.carrier_sign > 0 and not state.layout.has_adjusters:
        return most - seat.zero
    return _MOST_OVER


def far_pack_interference(state: AxleState) -> float:
    """Interference that the far pack adds to the gap [mm]: the sheet's or the school's, else by the torque.

    :param state: the axle.
    :source: :func:`axle.stations.carrier_preload.wanted_interference`; the usual slope, from memory.
    """
    wanted = wanted_interference(state)
    if wanted is not None:
        return max(wanted.limits.aim / wanted.kept, 0.0)
    limits = state.sheet.range("carrier_preload")
    aimed = limits.aim if limits is not None else CARRIER_SLOPE.torque
    return interference_for(aimed, CARRIER_SLOPE.coefficient)
