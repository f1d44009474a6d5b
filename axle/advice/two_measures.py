"""One preload by two measures: what both say, which the sheet puts first, and what a move does to each."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Final

from axle.advice.carrier_preload import (
    carrier_torque,
    interference_now,
    torque_curve,
    wanted_interference,
)
from axle.advice.moves import Act, Move
from axle.advice.seats import tightness
from axle.advice.state import AxleState, Settings
from axle.layout import Place
from axle.limits import Range
from axle.units import Dimension, Display

# A reading that was taken so often is not asked for again.
_OFTEN: Final = 2


@dataclass(frozen=True)
class Measure:
    """The carrier's preload by one measure.

    :param limits: its range [mm or N·m].
    :param value: what it comes to now [mm or N·m].
    """

    limits: Range
    value: float

    @property
    def side(self) -> str:
        """Under, in or over its range."""
        return self.limits.side(self.value)


def measures(state: AxleState, after: Settings | None = None) -> Mapping[str, Measure]:
    """The carrier's preload by interference and by torque, where both have a range and were read.

    :param state: the axle.
    :param after: what is in it once something is changed; as it is when left out.
    :returns: by "interference" and "torque"; nothing unless there are two.
    :source: :mod:`axle.advice.carrier_preload`; the fitted curve for what is not read yet.
    """
    known, wanted = interference_now(state), wanted_interference(state)
    found, limits = carrier_torque(state), state.sheet.range("carrier_preload")
    if known is None or wanted is None or found is None or limits is None:
        return {}
    if any(found[2][0].settings.get(p, 0) != state.setting(p) for p in (Place.RING, Place.FAR)):
        return {}
    over, torque = known[0], found[0]
    if after is not None:
        curve = torque_curve(state)
        if curve is None:
            return {}
        change = tightness(state, after) - tightness(state, state.settings)
        over, torque = over + change, curve.torque(tightness(state, after))
    return {"interference": Measure(wanted.limits, over * wanted.kept), "torque": Measure(limits, torque)}


def disagreement(state: AxleState, display: Display) -> str:
    """Say that two measures of the carrier's preload disagree, and which the sheet puts first.

    :param state: the axle.
    :param display: units of the words.
    :returns: "" where they agree, or only one is known.
    :source: the job's sheet; common practice where it gives both.
    """
    found = measures(state)
    if not found or found["interference"].side == found["torque"].side:
        return ""
    packs, torque = found["interference"], found["torque"]
    own = state.sheet.range("carrier_interference") is not None
    first = (
        "The sheet gives both: packs set it, the torque proves it."
        if own
        else "The sheet gives the torque, the school the interference: the torque goes first."
    )
    length, unit = display.length.symbol, display.torque.symbol
    return (
        f"Two measures disagree: {display.show(packs.value)} {length} of interference is {packs.side} "
        f"({packs.limits.words(display.length)}), {display.show(torque.value, Dimension.TORQUE)} {unit} of "
        f"torque is {torque.side} ({torque.limits.words(display.torque)}). {first}"
    )


def ask_the_other(state: AxleState, display: Display, move: Move) -> Move:
    """Ask before a move leaves the range of the measure that it does not go by.

    :param state: the axle.
    :param display: units of the words.
    :param move: the move.
    :returns: the same move where both measures stay in range; else the reading first, with the move below.
    :source: common practice: what two measures dispute is read again before anything comes apart.
    """
    sides = {swap.place for swap in move.swaps} & {Place.RING, Place.FAR}
    if move.act is not Act.CHANGE or not sides:
        return move
    after = {**state.settings, **{swap.place: swap.after for swap in move.swaps}}
    now, then = measures(state), measures(state, after)
    leaves = [
        name
        for name in now
        if name in then and now[name].side == "in range" and then[name].side != "in range"
    ]
    if not leaves:
        return move
    words = f"{disagreement(state, display)} This move is expected to leave the range of the {leaves[0]}."
    found = carrier_torque(state)
    if found is None or found[2][0].count >= _OFTEN:
        return replace(move, notes=(words.strip(), *move.notes))
    kind = found[2][0].kind
    return Move(
        Act.READ,
        "Read the torque again: two measures disagree",
        "carrier_preload",
        why=(words.strip(),),
        asks=((kind, 1),),
        again=True,
        then=move,
    )
