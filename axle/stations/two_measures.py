"""One preload by two measures: what both say, and which the sheet puts first."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from axle.layout import Place
from axle.measure.range import Range, RangeSide
from axle.measure.units import Dimension, Display
from axle.state.axle_state import AxleState
from axle.state.settings import Settings
from axle.stations.carrier_preload import interference_now, wanted_interference
from axle.stations.carrier_torque import carrier_torque, torque_curve
from axle.stations.zero_play import interference_setting


@dataclass(frozen=True)
class Measure:
    """The carrier's preload by one measure.

    :param limits: its range [mm or N·m].
    :param value: what it comes to now [mm or N·m].
    """

    limits: Range
    value: float

    @property
    def side(self) -> RangeSide:
        """Under, in or over its range."""
        return self.limits.side(self.value)


def measures(state: AxleState, after: Settings | None = None) -> Mapping[str, Measure]:
    """The carrier's preload by interference and by torque, where both have a range and were read.

    :param state: the axle.
    :param after: what is in it once something is changed; as it is when left out.
    :returns: by "interference" and "torque"; nothing unless there are two.
    :source: :mod:`axle.stations.carrier_preload`; the fitted curve for what is not read yet.
    """
    known, wanted = interference_now(state), wanted_interference(state)
    found, limits = carrier_torque(state), state.sheet.range("carrier_preload")
    if known is None or wanted is None or found is None or limits is None:
        return {}
    if not found[2][0].settings.same_at(state.settings, (Place.RING, Place.FAR)):
        return {}
    over, torque = known[0], found[0]
    if after is not None:
        curve = torque_curve(state)
        if curve is None:
            return {}
        change = interference_setting(state, after) - interference_setting(state, state.settings)
        over, torque = over + change, curve.torque(interference_setting(state, after))
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
