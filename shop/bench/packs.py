"""Packs offered at the bench: for a wanted thickness, or for pieces that a builder names."""

from __future__ import annotations

import re
from dataclasses import dataclass
from decimal import Decimal

from axle.errors import AxleError
from axle.layout import Place
from axle.shims import Pack, Piece, choose, named_pieces
from axle.units import parse
from shop.drawing import dials
from shop.drawing.svg import Svg
from shop.jobs.bridge import Axle


@dataclass(frozen=True)
class Offer:
    """One pack that the drawer can make."""

    words: str
    thickness: Decimal
    lots: str
    drawing: Svg


def offers(axle: Axle, place: Place, wanted: str) -> list[Offer]:
    """Offer packs: one number is a wanted thickness, several are the pieces themselves.

    :raises AxleError: for a place or an entry that makes no sense.
    """
    if place not in axle.spec.layout.shim_places:
        raise AxleError("pack", given=f"the {place.value} place", wanted="a place of this layout")
    unit, drawer = axle.display.length, axle.state.drawer.get(place, ())
    texts = [text for text in re.split(r"\s*\+\s*", wanted.strip()) if text]
    sizes = [parse(text, unit, "pack").core for text in texts]
    if len(sizes) > 1:
        return [_offer(axle, "As named", named_pieces(sizes, drawer))]
    choice = choose(sizes[0], Decimal("0.0127"), drawer)
    found = [_offer(axle, "Fewest pieces", choice.pack)] if choice.pack else []
    for pack in choice.nearest:
        if all(offer.thickness != pack.thickness for offer in found):
            side = "Next thinner" if pack.thickness < sizes[0] else "Next thicker"
            found.append(_offer(axle, side, pack))
    if not found:
        raise AxleError(
            "drawer",
            given="no sound shim for this place",
            wanted="at least one",
            do="Receive shims first.",
        )
    return found


def _offer(axle: Axle, words: str, pack: Pack) -> Offer:
    pieces: tuple[Piece, ...] = pack.pieces
    drawing = dials.stack([float(p.thickness) for p in pieces], axle.display.length, hollow=True)
    return Offer(words, pack.thickness, ",".join(str(piece.key) for piece in pieces), drawing)
