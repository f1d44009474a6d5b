"""Lock holes of both adjusters: the pair that comes nearest, and the ones around it."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import replace
from decimal import Decimal

from axle.carrier.adjusters import nearest_locks
from axle.carrier.sides import reseat
from axle.decision.carrier.shapes import REPEATS, LockRow, SidesPlan
from axle.decision.carrier.start import predict_sides, seat_now
from axle.decision.move import Swap
from axle.layout import Place
from axle.state.axle_state import AxleState
from axle.stations.backlash import ratios_now
from axle.stations.carrier_preload import wanted_interference
from axle.stations.carrier_torque import carrier_trials
from axle.stations.zero_play import per_hole, zero_play

# Half widths that weigh a miss of preload against one of backlash where the sheet sets neither [mm].
_HALF_LASH, _HALF_LOAD, _HELD = 0.05, 0.02, 0.004


def locks_around(state: AxleState, plan: SidesPlan, most: int = 5) -> tuple[LockRow, ...]:
    """Lock holes near a plan, the best first: where a lock does not line up, the next one in range.

    :param state: the axle.
    :param plan: what is wanted.
    :param most: number of rows.
    :source: :func:`axle.carrier.adjusters.nearest_locks`;
        :func:`axle.decision.probability.predict_backlash`.
    """
    limits, wanted = state.sheet.backlash_limits(), wanted_interference(state)
    asked = _holes_asked(state, plan)
    rows = []
    for pair in nearest_locks(*asked, state.hole_step, _miss_of(state, plan))[:most]:
        found = predict_sides(state, Decimal(str(pair.ring)), Decimal(str(pair.far)), plan.deeper)
        if found is None:
            continue
        seat, lash = found
        good = limits is None or lash is None or limits.range.holds(lash[0])
        if wanted is not None and zero_play(state) is not None:
            good = good and wanted.limits.holds(seat.interference * wanted.kept)
        rows.append(
            LockRow(
                pair.ring,
                pair.far,
                smallest=lash[0] if lash else None,
                interference=seat.interference,
                in_range=good,
            )
        )
    return tuple(rows)


def turn_both(state: AxleState, plan: SidesPlan) -> tuple[Swap, ...]:
    """The pair of lock holes that comes nearest in backlash and preload together.

    :param state: the axle.
    :param plan: what is wanted.
    :returns: nothing where every pair would lock the gears or unload a bearing.
    :source: :func:`axle.carrier.adjusters.nearest_locks`.
    """
    asked = _holes_asked(state, plan)
    lock_choices = nearest_locks(*asked, state.hole_step, _miss_of(state, plan))
    if not lock_choices:
        return ()
    holes = (lock_choices[0].ring, lock_choices[0].far)
    return tuple(
        Swap(
            place,
            state.setting(place),
            after=Decimal(str(after)),
            pack=None,
            asked=Decimal(str(round(want, 4))),
        )
        for place, after, want in zip((Place.RING, Place.FAR), holes, asked, strict=True)
    )


def _holes_asked(state: AxleState, plan: SidesPlan) -> tuple[float, float]:
    """Positions of both adjusters that the arithmetic asks for, before the locks have their say."""
    each = per_hole(state)
    return (
        float(state.setting(Place.RING)) + plan.change.ring / each,
        float(state.setting(Place.FAR)) + plan.change.far / each,
    )


def _miss_of(state: AxleState, plan: SidesPlan) -> Callable[[float, float], float]:
    """How far a pair of holes misses what is wanted, each part over half of its range."""
    each, ratios, start = per_hole(state), ratios_now(state), plan.start
    now = seat_now(state, start)
    limits, load = state.sheet.backlash_limits(), wanted_interference(state)
    half_lash = max((limits.upper - limits.low) / 2 if limits else _HALF_LASH, 1e-6)
    half_load = (load.limits.upper - load.limits.low) / 2 / load.kept if load else _HALF_LOAD
    held = abs(plan.interference - now.loaded) < _HELD
    half_load = _HELD if held else max(half_load, _HELD)
    zero_known = bool(carrier_trials(state)) or zero_play(state) is not None
    target = reseat(start.seat, 0.0, plan.interference)

    def miss(ring: float, far: float) -> float:
        seat = replace(now, ring=ring * each, far=far * each)
        if zero_known and seat.interference < -REPEATS:
            return math.inf  # it would unload the bearings
        if start.smallest is None or plan.wanted is None:
            off = ratios.per_ring * (seat.position - target.position)
        else:
            there = start.smallest + ratios.shift(start.seat, seat, plan.deeper)[0]
            if there <= 0:
                return math.inf  # it would lock the gears
            off = there - plan.wanted
        return float(((seat.interference - plan.interference) / half_load) ** 2 + (off / half_lash) ** 2)

    return miss
