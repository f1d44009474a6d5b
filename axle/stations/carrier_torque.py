"""The carrier bearings' torque: as it was read, trial by trial, and the curve through them."""

from __future__ import annotations

import math
from typing import Final

from axle.carrier.torque import bearing_torque
from axle.layout import Place
from axle.measure.uncertainty import rectangular
from axle.preload import curve as preload
from axle.procedure.conditions_in_words import unlike
from axle.procedure.names import KindName
from axle.procedure.stations import kind_named
from axle.state.axle_state import AxleState
from axle.state.kept import kept
from axle.state.priors import Quantity
from axle.state.reading import Reading
from axle.state.settings import Settings
from axle.stations.preload_readings import curve_of, torque_spread
from axle.stations.zero_play import interference_setting, per_hole, sides_are_set

_MOST_TRIALS: Final = 6


@kept
def carrier_torque(state: AxleState) -> tuple[float, float, tuple[Reading, ...]] | None:
    """Rotating torque of the carrier bearings with its uncertainty, and the readings behind it.

    :param state: the axle.
    :returns: (torque [N·m], standard uncertainty [N·m], readings), or nothing.
    :source: :func:`axle.carrier.torque.bearing_torque`, or the torque read at the carrier: the newer, and
        of two on the same sides the one at the carrier, which is known better.
    """
    alone, total = state.latest(KindName.CARRIER_TORQUE), state.latest(KindName.TOTAL_TORQUE)
    pinion = _pinion_beside(state, total) if total else None
    if total and pinion and not (alone and (alone.order > total.order or _same_sides(alone, total))):
        torque, u = bearing_torque(
            total.value,
            pinion.value,
            state.gears.ratio,
            total_step=total.step or kind_named(KindName.TOTAL_TORQUE).step,
            pinion_step=pinion.step or kind_named(KindName.PINION_TORQUE).step,
        )
        return torque, u, (total, pinion)
    if alone:
        return alone.value, rectangular(alone.step or kind_named(KindName.CARRIER_TORQUE).step), (alone,)
    return None


def _same_sides(one: Reading, other: Reading) -> bool:
    return one.settings.same_at(other.settings, (Place.RING, Place.FAR))


@kept
def carrier_trials(state: AxleState) -> tuple[preload.Trial, ...]:
    """Carrier preload trials of the job, oldest first, as tightness of both sides together.

    :param state: the axle.
    :source: end play and zero play with the packs recorded; torques by subtraction or alone.
    """
    found: dict[tuple[float, str], tuple[int, preload.Trial]] = {}
    for reading in sorted(state.readings, key=lambda t: t.order):
        trial = _trial(state, reading, _pinion_beside(state, reading))
        if trial is not None:
            # The carrier alone and the whole less the pinion are two witnesses: neither replaces the other.
            found[round(trial.setting, 5), reading.kind] = (reading.order, trial)
    newest = sorted(found.values(), key=lambda item: item[0])[-_MOST_TRIALS:]
    return tuple(trial for _, trial in newest)


@kept
def torque_curve(state: AxleState) -> preload.Curve | None:
    """The carrier's torque against interference, by this job's trials; nothing before one tells.

    :param state: the axle.
    :source: :func:`axle.preload.curve.fit`.
    """
    if not carrier_trials(state):
        return None
    return curve_of(state, 1)


def torque_per_hole(state: AxleState) -> float | None:
    """Rotating torque that one hole more adds, both adjusters where they are [N·m].

    Learned from this job's own trials, never from what a hole is worth in backlash.

    :param state: the axle.
    :returns: nothing without adjusters, or before a trial was read.
    :source: :func:`torque_curve`; the adjuster's thread.
    """
    curve = torque_curve(state)
    if curve is None or not state.layout.has_adjusters:
        return None
    at = max(interference_setting(state, state.settings), curve.zero)
    return curve.torque(at + per_hole(state)) - curve.torque(at)


def _pinion_beside(state: AxleState, total: Reading) -> Reading | None:
    """The pinion's own torque that one of the whole is held to: the newest on the same packs."""
    places = (Place.DEPTH, Place.PRELOAD, Place.BEARINGS, Place.SLINGER)
    alike = [
        t
        for t in state.readings
        if t.kind == KindName.PINION_TORQUE and t.settings.same_at(total.settings, places)
    ]
    return max(alike, key=lambda t: t.order) if alike else state.latest(KindName.PINION_TORQUE)


def _trial(state: AxleState, reading: Reading, pinion: Reading | None) -> preload.Trial | None:
    settings: Settings = reading.settings
    if not sides_are_set(state, settings):
        return None
    if settings.at(Place.BEARINGS) != state.setting(Place.BEARINGS):
        return None
    at = interference_setting(state, settings)
    if reading.kind == KindName.ZERO_PLAY or (
        reading.kind == KindName.CARRIER_END_PLAY and reading.value > 0
    ):
        return preload.Trial(at, end_play=reading.value)
    if reading.kind == KindName.CARRIER_TORQUE:
        return preload.Trial(at, torque=reading.value, std=torque_spread(reading, state.priors))
    if reading.kind == KindName.TOTAL_TORQUE and pinion is not None:
        if unlike(reading.torque_conditions, pinion.torque_conditions):
            return None
        mesh = state.priors.of(Quantity.MESH_DRAG)
        torque = (reading.value - pinion.value - mesh.centre) * state.gears.ratio
        each = torque_spread(reading, state.priors), torque_spread(pinion, state.priors)
        spread = math.hypot(*each, mesh.spread) * state.gears.ratio
        return preload.Trial(at, torque=max(torque, 0.0), std=spread) if torque > -3 * spread else None
    return None
