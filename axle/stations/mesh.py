"""Whether pinion and ring gear are in mesh, and what can be read as they stand."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from axle.layout import Place
from axle.procedure.conditions import has_seal
from axle.procedure.stations import kind_named
from axle.state.axle_state import AxleState
from axle.state.kept import kept
from axle.state.reading import Print, Reading
from axle.stations.preload_readings import comings_together
from axle.stations.zero_play import sides_are_set

CLOSED, PARTED, BEFORE = "closed", "parted", "before"


@kept
def is_in_mesh(state: AxleState) -> bool:
    """Say whether the carrier is in and in mesh: something was read or printed so since it last came apart.

    :param state: the axle.
    :source: the job's records: settings and assembly of each reading; ``readings.toml`` for what takes a
        mesh.
    """
    if not (state.setting(Place.DEPTH) and sides_are_set(state)):
        return False
    together, now = comings_together(state)
    events: tuple[Reading | Print, ...] = (*state.readings, *state.prints)
    for event in events:
        then = together[event.order]
        same_sides = then.sides == now.sides or (state.layout.has_adjusters and then.stack == now.stack)
        if then.stack != now.stack or not same_sides or not _shows_mesh(event):
            continue
        if not _parted_since(state, event.order):
            return True
    return False


def _shows_mesh(event: Reading | Print) -> bool:
    return isinstance(event, Print) or kind_named(event.kind).mesh == CLOSED


def _parted_since(state: AxleState, order: int) -> bool:
    """Whether the mesh was parted for a reading after that."""
    return any(
        t.order > order and has_seal(t.kind) and t.torque_conditions.mesh == PARTED for t in state.readings
    )


def why_not_readable(kind: str, state: AxleState, conditions: Mapping[str, Any]) -> str:
    """Say why a kind cannot be read as the axle stands, or nothing.

    :param kind: as in ``readings.toml``.
    :param state: the axle.
    :param conditions: typed beside it: a mesh that was parted for it, or a reading from before it was
        closed.
    :source: common practice: in mesh a wrench turns the whole.
    """
    if kind_named(kind).mesh != PARTED or not is_in_mesh(state):
        return ""
    if conditions.get("mesh") in (PARTED, BEFORE):
        return ""
    return "the carrier is in mesh, so a wrench turns the whole"
