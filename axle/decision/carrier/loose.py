"""What is read while the carrier is loose: less the pinion, the whole is then the drag of the mesh."""

from __future__ import annotations

from axle.decision.move import Move
from axle.layout import Place
from axle.procedure.names import KindName, StationName
from axle.state.axle_state import AxleState
from axle.stations.carrier_preload import is_set_by_torque

_SIDES = (Place.RING, Place.FAR)


def drag_of_mesh(state: AxleState) -> Move | None:
    """The torque of the whole while play is left, twice, where the carrier's torque will be a subtraction.

    :param state: the axle.
    :returns: nothing where no play was read on what is in, or no torque is judged.
    :source: common practice: a carrier that is loose bears no load, so the whole less the pinion is the
        mesh.
    """
    play, pinion = state.latest(KindName.CARRIER_END_PLAY), state.latest(KindName.PINION_TORQUE)
    if play is None or play.value <= 0 or not play.settings.same_at(state.settings, _SIDES):
        return None
    if not is_set_by_torque(state):
        return None
    if pinion is None or pinion.torque_conditions.seal or not state.setting(Place.DEPTH):
        return None
    total = state.latest(KindName.TOTAL_TORQUE)
    here = total is not None and total.settings.same_as(state.settings)
    if total is not None and here and total.count > 1 and not total.disagrees:
        return None
    why = (
        "The carrier is loose: the whole less the pinion is now the drag of the mesh, which is taken off "
        "the "
        "carrier's torque later.",
    )
    title = "Read: rotating torque of the whole, carrier loose"
    asks = ((KindName.TOTAL_TORQUE, 1),)
    return Move.read(title, StationName.CARRIER_PRELOAD, asks=asks, why=why, again=here)
