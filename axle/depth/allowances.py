"""What a change of bearings or a slinger does to a depth that was measured without it."""

from __future__ import annotations

from dataclasses import dataclass

from axle.depth.result import Term
from axle.layout import Layout, SpacerSeat
from axle.measure.uncertainty import Measured


@dataclass(frozen=True)
class Bearing:
    """A bearing as it is measured on a plate.

    :param stand: h, height of cone and cup together [mm].
    :param width: w, width of the cone [mm], or nothing.
    """

    stand: Measured
    width: Measured | None = None


def for_bearing(layout: Layout, old: Measured, new: Measured) -> Term:
    """Change of the depth shim when the inner bearing is changed for one of another height.

    A taller bearing pushes the pinion's head further in, wherever the depth shim sits.

    :param layout: the axle's layout.
    :param old: stand height of the bearing that depth was measured with [mm].
    :param new: stand height of the bearing that goes in [mm].
    :source: t_new = t_old + s·(h_old − h_new); common practice.

    >>> from axle.layout import CarrierBy, DepthShim, PreloadBy
    >>> head = Layout(DepthShim.HEAD, PreloadBy.SLEEVE, CarrierBy.ADJUSTERS)
    >>> round(for_bearing(head, Measured(21.50), Measured(21.55)).value, 3)
    -0.05
    """
    spread = (old.spread**2 + new.spread**2) ** 0.5
    change = layout.depth_sign * (old.value - new.value)
    return Term("inner bearing: stand height then less now", change, spread)


def for_slinger(layout: Layout, thickness: Measured, added: int) -> Term:
    """Change of the depth shim when a slinger between head and inner bearing comes in or goes out.

    :param layout: the axle's layout.
    :param thickness: of the slinger [mm].
    :param added: +1 when it was put in since depth was measured, −1 when it was left out.
    :source: a slinger there moves the pinion deeper on every layout; common practice.

    >>> from axle.layout import CarrierBy, DepthShim, PreloadBy
    >>> cartridge = Layout(DepthShim.CARTRIDGE, PreloadBy.SLEEVE, CarrierBy.ADJUSTERS)
    >>> for_slinger(cartridge, Measured(0.5), 1).value
    0.5
    """
    change = -layout.depth_sign * layout.slinger_depth_sign * added * thickness.value
    return Term("slinger put in" if added > 0 else "slinger left out", change, thickness.spread)


def preload_for_bearings(
    layout: Layout, inner: tuple[Bearing, Bearing], outer: tuple[Bearing, Bearing]
) -> Term:
    """Change of the preload pack when both pinion bearings are changed.

    :param layout: the axle's layout, with a preload pack.
    :param inner: inner bearing, old and new, widths given [mm].
    :param outer: outer bearing, old and new, widths given [mm].
    :source: Δh_inner + Δh_outer − Δw_outer where the spacer bears on a shoulder, and a further
        −Δw_inner where it stands between the cones.

    >>> from axle.layout import CarrierBy, DepthShim, PreloadBy
    >>> head = Layout(DepthShim.HEAD, PreloadBy.SPACER, CarrierBy.OUTBOARD)
    >>> same = Bearing(Measured(20.0), Measured(18.0))
    >>> taller = Bearing(Measured(20.1), Measured(18.0))
    >>> round(preload_for_bearings(head, (same, taller), (same, same)).value, 3)
    0.1
    """
    parts = [(inner[1].stand, 1), (inner[0].stand, -1), (outer[1].stand, 1), (outer[0].stand, -1)]
    parts += _widths(outer)
    if layout.spacer_seat is SpacerSeat.BETWEEN_CONES:
        parts += _widths(inner)
    value = sum(sign * part.value for part, sign in parts)
    spread = sum(part.spread**2 for part, _ in parts) ** 0.5
    return Term("other bearings: heights and widths", value, spread)


def preload_for_slinger(layout: Layout, thickness: float, added: int, *, in_stack: bool) -> float:
    """Change of the preload pack that keeps the interference when a slinger comes in or goes out.

    :param layout: the axle's layout.
    :param thickness: of the slinger [mm].
    :param added: +1 when it is put in, −1 when it is left out.
    :param in_stack: whether it lies in the preload stack instead of behind the pinion's head.
    :returns: change of the pack [mm]; in the stack it does the work of a shim.
    :source: behind the head it raises the preload where the spacer bears on a shoulder; in the stack
        it lowers the interference like a shim.

    >>> from axle.layout import CarrierBy, DepthShim, PreloadBy
    >>> head = Layout(DepthShim.HEAD, PreloadBy.SPACER, CarrierBy.OUTBOARD)
    >>> preload_for_slinger(head, 0.5, 1, in_stack=True)
    -0.5
    """
    if not layout.has_preload_pack:
        return 0.0
    if in_stack:
        return -added * thickness
    return added * thickness if layout.spacer_seat is SpacerSeat.SHOULDER else 0.0


def _widths(pair: tuple[Bearing, Bearing]) -> list[tuple[Measured, int]]:
    old, new = pair
    if old.width is None or new.width is None:
        return []
    return [(new.width, -1), (old.width, 1)]
