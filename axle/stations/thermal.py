"""What the axle will do when it is warm: a hint, with everything that it assumes."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

from axle.carrier.heat import WARMING, Case, Hot, hot_change
from axle.measure.units import Display
from axle.state.axle_state import AxleState
from axle.stations.backlash import backlash_around, ratios_now
from axle.stations.carrier_preload import interference_now
from axle.stations.result import signed

# Lengths of a usual axle over the ring gear's diameter, from memory; a measured one replaces them.
_SIDE_SPAN: Final = 0.9
_PINION_SPAN: Final = 0.4
_MOUNTING: Final = 0.45


@dataclass(frozen=True)
class Assumed:
    """What a hint assumes.

    :param side_span: between the carrier's cups [mm].
    :param pinion_span: between the pinion's cups [mm].
    :param mounting: ring axis to the pinion's inner bearing seat [mm].
    :param housing_rise: warming of the housing over the cold setting [K].
    :param gears_above: warming of the gears over the housing [K].
    """

    side_span: float
    pinion_span: float
    mounting: float
    housing_rise: float
    gears_above: float


def usual_lengths(state: AxleState) -> Assumed:
    """What is assumed where nothing was measured: by the ring gear's size and the axle's use.

    :param state: the axle.
    :source: from memory; the sheet's distance to the pinion's seat where it gives one.
    """
    ring = state.gears.ring_diameter
    rise, gears = WARMING.get(state.use, WARMING["road"])
    seat = state.sheet.single("seat_distance")
    return Assumed(
        round(_SIDE_SPAN * ring),
        round(_PINION_SPAN * ring),
        mounting=round(seat or _MOUNTING * ring),
        housing_rise=rise,
        gears_above=gears,
    )


@dataclass(frozen=True)
class Hint:
    """A hint, its figures and its words.

    :param hot: the changes [mm].
    :param lines: the same in words, with what is there cold where it is known.
    """

    hot: Hot
    lines: tuple[str, ...]


def hot_hint(state: AxleState, case: Case, assumed: Assumed, display: Display) -> Hint:
    """Foretell hot preload and backlash.

    :param state: the axle.
    :param case: what the housing is cast of.
    :param assumed: lengths and warming.
    :param display: units of the words.
    :raises AxleError: for a length or a warming that cannot be.
    :source: :func:`axle.carrier.heat.hot_change`.
    """
    hot = hot_change(
        case,
        side_span=assumed.side_span,
        pinion_span=assumed.pinion_span,
        mounting=assumed.mounting,
        housing_rise=assumed.housing_rise,
        gears_above=assumed.gears_above,
        per_depth=ratios_now(state).per_depth,
    )
    unit = display.length.symbol
    lines = [f"Carrier interference {signed(hot.carrier, display)} {unit}"]
    now = interference_now(state)
    if now is not None:
        left = now[0] + hot.carrier
        state_words = f"{display.show(left)} hot" if left >= 0 else f"{display.show(-left)} of play hot"
        lines[0] += f": {display.show(now[0])} cold, {state_words}"
    lines.append(f"Pinion bearings {signed(hot.pinion, display)} {unit} of interference")
    around = backlash_around(state)
    line = f"Backlash {signed(hot.backlash, display)} {unit}"
    if around is not None:
        line += (
            f": {display.show(around.smallest)} cold, {display.show(around.smallest + hot.backlash)} hot"
        )
    lines.append(line)
    return Hint(hot, tuple(f"{text}." for text in lines))
