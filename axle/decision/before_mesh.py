"""What is still read or set of the pinion before the carrier goes in: in mesh a wrench turns the whole."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import replace
from typing import Final

from axle.decision.move import Act, Move
from axle.decision.pinion_preload import preload_move
from axle.decision.probability import in_range_probabilities
from axle.layout import Place
from axle.measure.units import Dimension, Display, percent
from axle.procedure.names import KindName, StationName
from axle.state.axle_state import AxleState
from axle.state.reading import Reading
from axle.stations.carrier_preload import is_set_by_torque
from axle.stations.mesh import is_in_mesh
from axle.stations.pinion_preload import bite_for
from axle.stations.pinion_trials import preload_packs, trials_of
from axle.stations.preload_readings import (
    PINION,
    comings_together,
    lost_at_first_load,
    torque_spread,
    usual_rise,
)
from axle.stations.station_state import Standing, Status

# So many standard deviations of the difference lie between the middle of the carrier's range and its end.
_SHARP: Final = 3.0
_MOST: Final = 4
# A pack that reads in range is changed while the pinion is still by itself where another is so much surer.
_HARDLY: Final = 0.92
_GAIN: Final = 0.05


def before_mesh(state: AxleState, display: Display, standings: Mapping[str, Standing]) -> Move | None:
    """The pinion's reading or change that costs minutes now, and a strip-down once the carrier is in.

    :param state: the axle, its pinion's preload in range.
    :param display: units of the words.
    :param standings: where it stands.
    :returns: nothing where the carrier may go in.
    :source: common practice; what is held of both pairs.
    """
    standing, newest = standings.get(StationName.PINION_PRELOAD), state.latest(KindName.PINION_TORQUE)
    if standing is None or newest is None or standing.status is not Status.IN_RANGE:
        return None
    if newest.torque_conditions.seal or newest.torque_conditions.bound or is_in_mesh(state):
        return None
    return _again(state, newest) or _surer(state, display, standings)


def _again(state: AxleState, newest: Reading) -> Move | None:
    together, now = comings_together(state)
    asks, title = ((KindName.PINION_TORQUE, 1),), "Read once more: rotating torque of the pinion"
    if now.loaded and not together[newest.order].loaded:
        why = (
            "The axle has been under load since: bearings settle, and the preload falls. With the carrier "
            "out it "
            "can be read; in mesh a wrench turns the whole.",
        )
        return Move.read(title, StationName.PINION_PRELOAD, asks=asks, why=why, again=True)
    wanted = _wanted_count(state, newest)
    if newest.count >= wanted:
        return None
    why = (
        f"The carrier's torque will be the whole less the pinion's, times {state.gears.ratio:.2f}: so is "
        f"every error. "
        f"For this range the pinion alone is read {wanted} times, before the carrier goes in.",
    )
    return Move.read(title, StationName.PINION_PRELOAD, asks=asks, why=why, again=True)


def _wanted_count(state: AxleState, newest: Reading) -> int:
    """How often the pinion's torque is read, so that a subtraction can be told in the carrier's range."""
    limits = state.sheet.range("carrier_preload")
    if limits is None or not is_set_by_torque(state):
        return 2
    once = torque_spread(replace(newest, count=1, std=0.0), state.priors) * state.gears.ratio
    half = (limits.upper - limits.low) / 2
    return min(max(math.ceil((once * _SHARP / half) ** 2), 2), _MOST)


def _surer(state: AxleState, display: Display, standings: Mapping[str, Standing]) -> Move | None:
    """Another pack or one bite more, where what is in reads in range and will hardly stay so."""
    now = in_range_probabilities(state).parts.get(StationName.PINION_PRELOAD, 1.0)
    limits = state.preload_range()
    if now >= _HARDLY or limits is None:
        return None
    loses = lost_at_first_load(state, PINION)[0] * usual_rise(PINION)
    note = f"It reads in range, and is {percent(now)} sure to be so once the axle has run under load"
    if loses:
        shown = f"{display.show(loses, Dimension.TORQUE)} {display.torque.symbol}"
        note += f": bearings settle, usually by {shown}"
    if state.layout.has_preload_pack:
        packs = preload_packs(state, trials_of(state), limits)
        if Place.PRELOAD in state.fixed or not packs or packs[0].probability < now + _GAIN:
            return None
        if packs[0].pack.thickness == state.setting(Place.PRELOAD):
            return None
    elif (bite := bite_for(state)) is None or bite.verdict.value != "bite":
        return None
    move = preload_move(state, display, standings)
    return replace(move, notes=(f"{note}.", *move.notes)) if move.act in (Act.CHANGE, Act.TIGHTEN) else None
