"""What a change of any shim moves: depth, backlash and both preloads at once, with the signs in words."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from axle.backlash.ratios import Ratios
from axle.carrier.sides import SideChange, interference_change, ring_movement
from axle.errors import AxleError
from axle.layout import DepthShim, Layout, Place
from axle.measure.units import Display, percent

# Beyond this nothing is set by shims [mm], 40 thou.
FARTHEST = 1.0


@dataclass(frozen=True)
class Effects:
    """What changed packs move, under preload.

    :param deeper: of the pinion [mm], > 0 deeper.
    :param away: of the ring gear [mm], > 0 away from the pinion.
    :param backlash: change as it is read [mm].
    :param carrier: change of carrier interference [mm], > 0 tighter.
    :param pinion: change of pinion bearing interference [mm], > 0 tighter; nothing on a sleeve.
    :param spoils_sleeve: the change takes a crushed sleeve apart.
    :param lines: each change and what it does, in words.
    """

    deeper: float
    away: float
    backlash: float
    carrier: float
    pinion: float | None
    spoils_sleeve: bool
    lines: tuple[str, ...]


def what_moves(
    layout: Layout,
    ratios: Ratios,
    changes: Mapping[Place, float],
    display: Display,
    *,
    per_hole: float = 1.0,
) -> Effects:
    """Work out what changed packs move.

    :param layout: of the axle.
    :param ratios: backlash per ring gear movement and per depth, and how the two sides share a load [1].
    :param changes: by place, thickness more [mm], or holes turned in.
    :param display: units of the words.
    :param per_hole: travel of an adjuster per hole [mm].
    :raises AxleError: for a change of more than 1 mm.
    :source: signs of the layout; equilibrium of two elastic sides (:mod:`axle.carrier.sides`).

    >>> from axle.backlash.ratios import prior_ratios
    >>> from axle.gearset import GearSet, Stance
    >>> from axle.layout import CarrierBy, PreloadBy
    >>> from axle.measure.units import IMPERIAL
    >>> shims = Layout(DepthShim.HEAD, PreloadBy.SLEEVE, CarrierBy.OUTBOARD)
    >>> ratios = prior_ratios(GearSet(11, 41), Stance.UNSURE)
    >>> found = what_moves(shims, ratios, {Place.RING: 0.1, Place.FAR: -0.1}, IMPERIAL)
    >>> round(found.away, 3), round(found.backlash, 3), round(found.carrier, 3)
    (-0.1, -0.08, 0.0)
    """
    each = per_hole if layout.has_adjusters else 1.0
    depth, pack = changes.get(Place.DEPTH, 0.0), changes.get(Place.PRELOAD, 0.0)
    side = SideChange(changes.get(Place.RING, 0.0) * each, changes.get(Place.FAR, 0.0) * each)
    for change in (depth, pack, side.ring, side.far):
        if abs(change) > FARTHEST:
            raise AxleError("change of a pack", given=f"{change:.2f} mm", wanted="at most 1 mm either way")
    deeper, away = layout.depth_sign * depth, ring_movement(layout, side, ratios.share)
    carrier = interference_change(layout, side)
    pinion = layout.preload_sign * (pack - layout.preload_per_depth * depth)
    backlash = ratios.per_ring * away + ratios.per_depth * deeper
    return Effects(
        deeper,
        away,
        backlash=backlash,
        carrier=carrier,
        pinion=pinion if layout.has_preload_pack else None,
        spoils_sleeve=layout.depth_spoils_sleeve and bool(depth),
        lines=tuple(_lines(layout, depth, pack, side, ratios.share, display)),
    )


_ABOUT = {
    DepthShim.HEAD: "A thicker shim under the head",
    DepthShim.CUP: "A thicker shim behind the inner cup",
    DepthShim.CARTRIDGE: "A thicker shim under the cartridge",
}


def _lines(
    layout: Layout, depth: float, pack: float, side: SideChange, share: float, display: Display
) -> list[str]:
    def shown(value: float) -> str:
        return f"{display.show(abs(value))} {display.length.symbol}"

    lines = []
    if depth:
        way = "deeper, to the ring gear" if layout.depth_sign > 0 else "out, away from the ring gear"
        said = "so this one" if depth > 0 else "so a thinner one the other way:"
        deeper = "deeper" if layout.depth_sign * depth > 0 else "out"
        lines.append(f"{_ABOUT[layout.depth_shim]} sets the pinion {way}; {said} {shown(depth)} {deeper}.")
        if layout.preload_per_depth:
            lines.append(
                "The stacks are coupled: the preload pack follows by the same, else the preload changes."
            )
        if layout.depth_spoils_sleeve:
            lines.append("The crushed sleeve comes apart with it: a new sleeve.")
    if pack:
        tighter = "looser" if pack > 0 else "tighter"
        lines.append(f"Preload pack {'thicker' if pack > 0 else 'thinner'} by {shown(pack)}: {tighter}.")
    for change, ring in ((side.ring, True), (side.far, False)):
        if change:
            gives = 1 - share if ring else share
            lines.append(_side_line(layout, change, shown, percent(gives), ring=ring))
    return lines


def _side_line(
    layout: Layout, change: float, shown: Callable[[float], str], part: str, *, ring: bool
) -> str:
    inwards = layout.carrier_sign * change > 0
    towards = inwards if ring else not inwards
    place = "Ring side" if ring else "Far side"
    if layout.has_adjusters:
        what = "turned in" if change > 0 else "turned out"
    else:
        what = "thicker" if change > 0 else "thinner"
    covers = ", under a cover" if layout.carrier_sign < 0 else ""
    return (
        f"{place} {what} by {shown(change)}{covers}: the ring gear goes "
        f"{'to' if towards else 'away from'} the pinion by {part} of it, and the carrier is "
        f"{'tighter' if inwards else 'looser'} by all of it."
    )
