"""From a wanted thickness at a place to a swap that the drawer can make."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from decimal import ROUND_HALF_EVEN, Decimal
from typing import Final

from axle.decision.move import Swap
from axle.layout import Place
from axle.measure.units import Display
from axle.procedure.staleness import stales
from axle.shims.choose import PackChoice, choose
from axle.shims.pieces import THICKEST_PACK, Pack, Piece, Rules
from axle.state.axle_state import AxleState
from axle.stations.zero_play import per_hole, side_in

# Half a thou either way is closer than a pack can be held on the bench.
CLOSE: Final = Decimal("0.0127")


# A pack further off what was asked than this is no answer to it [mm]: 5 thou, the step that shows clearly.
FAR_OFF: Final = Decimal("0.127")
# No pack of this trade is so thick [mm].


@dataclass(frozen=True)
class SwapMade:
    """What the drawer makes of a wanted thickness.

    :param swap: the change; nothing when the drawer has nothing for the place.
    :param note: what the drawer lacks, or "".
    :param others: the nearest packs on either side.
    """

    swap: Swap | None
    note: str
    others: tuple[tuple[Place, Pack], ...]


def rules_for(place: Place) -> Rules:
    """How packs are made up at a place: on the carrier's sides a base shim comes first.

    :param place: where.
    :source: common practice.

    >>> rules_for(Place.RING).base_first, rules_for(Place.DEPTH).base_first
    (True, False)
    """
    return Rules(base_first=place in (Place.RING, Place.FAR))


def choose_pack(asked: Decimal, tolerance: Decimal, drawer: Iterable[Piece], place: Place) -> PackChoice:
    """The pack for a thickness at a place: by the rules first, then whatever pieces make it all the same.

    :param asked: thickness wanted [mm].
    :param tolerance: how far the pack may be off [mm].
    :param drawer: the pieces at hand.
    :param place: where.
    :source: common practice: a base shim first, few thin pieces; but what can be made is never called
        impossible.
    """
    pieces, rules = tuple(drawer), rules_for(place)
    looser = (rules, replace(rules, base_first=False), Rules(most_thin=rules.most))
    first = choose(asked, tolerance, pieces, rules)
    for more in looser[1:]:
        if first.pack is not None:
            break
        pack_choice = choose(asked, tolerance, pieces, more)
        if pack_choice.pack is not None:
            return pack_choice
        first = first if first.nearest else pack_choice
    return first


def make_swap(
    state: AxleState, place: Place, wanted: float, display: Display, *tolerances: Decimal
) -> SwapMade:
    """Turn a wanted thickness into pieces.

    :param state: the axle.
    :param place: where.
    :param wanted: thickness wanted [mm].
    :param display: units of the note.
    :param tolerances: how far the pack may be off [mm], each tried in turn; half a thou if none.
    :source: :func:`axle.shims.choose.choose`.
    """
    before = state.setting(place)
    name, unit = place_words(place), display.length.symbol
    asked = Decimal(str(wanted)).quantize(Decimal("0.00001"), ROUND_HALF_EVEN)
    if not 0 < asked < THICKEST_PACK:
        return SwapMade(None, f"The {name} would have to be {display.show(wanted)} {unit}.", ())
    for tolerance in tolerances or (CLOSE,):
        choice = choose_pack(asked, tolerance, state.drawer.get(place, ()), place)
        if choice.pack is not None:
            break
    fits = choice.pack.thickness if choice.pack else None
    others = tuple((place, pack) for pack in choice.nearest if pack.thickness != fits)
    if choice.pack is not None:
        return SwapMade(
            Swap(place, before, after=choice.pack.thickness, pack=choice.pack, asked=asked), "", others
        )
    if not choice.nearest:
        note = f"The drawer holds no sound shims for the {name}: {display.show(wanted)} {unit} wanted."
        return SwapMade(None, note, ())
    nearest = min(choice.nearest, key=lambda pack: abs(pack.thickness - asked))
    made = " or ".join(display.show(pack.thickness) for pack in choice.nearest)
    note = (
        f"The drawer cannot make {display.show(wanted)} {unit} for the {name}; "
        f"the nearest it makes is {made}."
    )
    return SwapMade(Swap(place, before, after=nearest.thickness, pack=nearest, asked=asked), note, others)


def drawer_without(state: AxleState, place: Place, pack: Pack | None) -> AxleState:
    """The state with a drawer from which another place has taken its pack.

    :param state: the axle.
    :param place: whose drawer it is.
    :param pack: what the other place takes; what it has in already is nobody else's.
    :source: a shim is in one place.
    """
    if pack is None:
        return state
    taken = [piece.key for piece in pack.pieces if not piece.fitted]
    left = []
    for piece in state.drawer.get(place, ()):
        if piece.key in taken and not piece.fitted:
            taken.remove(piece.key)
        else:
            left.append(piece)
    return replace(state, drawer={**state.drawer, place: tuple(left)})


def place_words(place: Place) -> str:
    """Name a place as a builder does, in the middle of a sentence."""
    return {
        Place.DEPTH: "depth shim",
        Place.PRELOAD: "preload pack",
        Place.RING: "ring side",
        Place.FAR: "far side",
    }[place]


def thickness(state: AxleState, place: Place) -> float:
    """What is fitted at a place as a thickness [mm]; an adjuster's holes count as its travel."""
    if place in (Place.RING, Place.FAR):
        return side_in(state, state.settings, place)
    return float(state.setting(place))


def as_thickness(state: AxleState, swap: Swap) -> float:
    """Change that a swap makes, as a thickness [mm]."""
    change = float(swap.change)
    return change if swap.pack is not None else change * per_hole(state)


def stale_after(swaps: Sequence[Swap], state: AxleState) -> tuple[str, ...]:
    """What some changes make stale, each named once.

    :param swaps: the changes.
    :param state: the axle.
    :source: ``stale.toml``.
    """
    lines: list[str] = []
    for swap in swaps:
        lines += [name for name in stales(swap.place, state.layout) if name not in lines]
    return tuple(lines)
