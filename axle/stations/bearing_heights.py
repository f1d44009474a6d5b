"""What measured heights of bearings, and a slinger, change in both packs of the pinion."""

from __future__ import annotations

from collections.abc import Sequence

from axle.depth.allowances import for_bearing, for_slinger, preload_for_slinger
from axle.depth.result import Term
from axle.layout import Layout
from axle.measure.uncertainty import Measured, rectangular
from axle.procedure.stations import kind_named
from axle.state.axle_state import AxleState
from axle.stations.pinion_trials import bearings_change

_NAMES = {1: "old", 2: "set-up", 3: "final"}


def what_heights_change(state: AxleState) -> tuple[tuple[str, tuple[Term, ...], float | None], ...]:
    """Changes of depth shim and preload pack for every pair of bearings that was measured.

    :param state: the axle.
    :returns: (what is changed, terms of the depth shim [mm], change of the preload pack [mm] or nothing).
    :source: :mod:`axle.depth.allowances`.
    """
    found: list[tuple[str, tuple[Term, ...], float | None]] = []
    for then, now in ((1, 3), (2, 3), (1, 2)):
        one, other = _measured(state, "stand_inner", then), _measured(state, "stand_inner", now)
        if one is not None and other is not None:
            term = for_bearing(state.layout, one, other)
            change = bearings_change(state, then, now)
            found.append((f"{_NAMES[then]} bearings for {_NAMES[now]} ones", (term,), change))
    slinger = _measured(state, "slinger_thickness", 1)
    if slinger is not None:
        term = for_slinger(state.layout, slinger, 1)
        pack = preload_for_slinger(state.layout, slinger.value, 1, in_stack=False)
        found.append(("slinger put in behind the head", (term,), pack))
        if state.layout.has_preload_pack:
            pack = preload_for_slinger(state.layout, slinger.value, 1, in_stack=True)
            found.append(("slinger put into the preload stack", (), pack))
    return tuple(found)


def net_preload(layout: Layout, terms: Sequence[Term], change: float | None) -> float | None:
    """Change of the preload pack in all: its own, and what the depth shim's change asks of a coupled stack.

    :param layout: the axle's layout.
    :param terms: changes of the depth shim [mm].
    :param change: of the preload pack by itself [mm], or nothing where it is not known.
    :returns: [mm], or nothing.
    :source: coupled stacks: a thicker depth shim asks for as much more in the preload pack.

    >>> from axle.layout import CarrierBy, DepthShim, PreloadBy, SpacerSeat
    >>> seated = SpacerSeat.SHOULDER
    >>> coupled = Layout(DepthShim.HEAD, PreloadBy.SPACER, CarrierBy.OUTBOARD, spacer_seat=seated)
    >>> net_preload(coupled, [Term("slinger put in", -0.5, 0.0)], 0.5)
    0.0
    """
    if change is None:
        return None
    return change + layout.preload_per_depth * sum(term.value for term in terms)


def _measured(state: AxleState, kind: str, place: int) -> Measured | None:
    taken = state.latest(kind, place)
    if taken is None:
        return None
    return Measured(taken.value, rectangular(taken.step or kind_named(kind).step))
