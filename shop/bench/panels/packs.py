"""Packs offered at the bench: for a wanted thickness, or for pieces that a builder names."""

from __future__ import annotations

import re
from dataclasses import dataclass
from decimal import Decimal

from axle.decision.carrier.start import check_setting
from axle.decision.pack_swap import FAR_OFF, choose_pack, rules_for
from axle.errors import AxleError
from axle.layout import Place
from axle.measure.parse import parse
from axle.shims.choose import broken_rules, named_pieces
from axle.shims.pieces import Pack, Piece
from shop.drawing import dials
from shop.drawing.svg import Svg
from shop.jobs.job_axle import JobAxle
from shop.jobs.rows import family_of
from shop.stock.making import Made, around
from shop.stock.queries import catalogue, shapes_of


@dataclass(frozen=True)
class Offer:
    """One pack that the drawer can make."""

    words: str
    thickness: Decimal
    lots: str
    drawing: Svg
    warnings: tuple[str, ...] = ()


def made_for(axle: JobAxle, place: Place, wanted: str) -> Made | None:
    """The number line around one wanted thickness, and what to order; nothing for named pieces."""
    if "+" in wanted or not wanted.strip():
        return None
    asked = parse(wanted, axle.display.length, "pack").core.quantize(Decimal("0.00001"))
    sizes = catalogue(axle.job.shop, family_of(place, axle.spec))
    return around(
        asked,
        axle.state.drawer.get(place, ()),
        sizes,
        axle.display,
        fitted=axle.state.setting(place) or None,
        rules=rules_for(place),
    )


def offers(axle: JobAxle, place: Place, wanted: str) -> list[Offer]:
    """Offer packs: one number is a wanted thickness, several are the pieces themselves.

    :raises AxleError: for a place or an entry that makes no sense.
    """
    if place not in axle.spec.layout.shim_places:
        raise AxleError("pack", given=f"the {place.value} place", wanted="a place of this layout")
    unit, drawer = axle.display.length, axle.state.drawer.get(place, ())
    texts = [text for text in re.split(r"\s*\+\s*", wanted.strip()) if text]
    sizes = [parse(text, unit, "pack").core for text in texts]
    if len(sizes) > 1:
        pack = named_pieces(sizes, drawer)
        broken = broken_rules(pack.pieces, drawer, rules_for(place))
        return [_offer(axle, "As named", pack, (*broken, *_harm(axle, place, pack)))]
    choice = choose_pack(sizes[0], Decimal("0.0127"), drawer, place)
    found = []
    if choice.pack:
        broken = broken_rules(choice.pack.pieces, drawer, rules_for(place))
        found.append(
            _offer(axle, "Fewest pieces", choice.pack, (*broken, *_harm(axle, place, choice.pack)))
        )
    for pack in choice.nearest:
        if abs(pack.thickness - sizes[0]) > FAR_OFF:
            continue  # a pack so far off is no answer to what was asked
        if all(offer.thickness != pack.thickness for offer in found):
            side = "Next thinner" if pack.thickness < sizes[0] else "Next thicker"
            side = "Exact, of more pieces" if pack.thickness == sizes[0] else side
            found.append(_offer(axle, side, pack, _harm(axle, place, pack)))
    if found:
        return found
    near = min(choice.nearest, key=lambda p: abs(p.thickness - sizes[0]), default=None)
    if near is None:
        raise AxleError(
            "drawer", given="no sound shim for this place", wanted="at least one", do="Receive shims first."
        )
    asked = f"{axle.display.show(sizes[0])} {unit.symbol}"
    nearest = f"{axle.display.show(near.thickness)}, the nearest that the drawer makes"
    raise AxleError(
        "pack",
        given=asked,
        wanted=nearest,
        do="Order shims that make it; what to order stands below.",
    )


def _harm(axle: JobAxle, place: Place, pack: Pack) -> tuple[str, ...]:
    """What a side pack would do to gears and bearings, with what is on the other side."""
    if place not in (Place.RING, Place.FAR):
        return ()
    sides = {p: axle.state.setting(p) for p in (Place.RING, Place.FAR)} | {place: pack.thickness}
    if not all(sides.values()):
        return ()
    return check_setting(axle.state, axle.display, sides[Place.RING], sides[Place.FAR])


def _offer(axle: JobAxle, words: str, pack: Pack, warnings: tuple[str, ...] = ()) -> Offer:
    pieces: tuple[Piece, ...] = pack.pieces
    drawing = dials.stack([float(p.thickness) for p in pieces], axle.display.length, hollow=True)
    return Offer(
        words,
        pack.thickness,
        lots=",".join(str(piece.key) for piece in pieces),
        drawing=drawing,
        warnings=warnings,
    )


def shapes(axle: JobAxle, place: Place) -> list[str]:
    """Shapes that the drawer knows for a place of this axle."""
    if place not in axle.spec.layout.shim_places:
        return []
    return shapes_of(axle.job.shop, family_of(place, axle.spec))
