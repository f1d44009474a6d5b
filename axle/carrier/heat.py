"""What heat does to a cold setting: a hint with its assumptions, never a limit."""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum
from typing import Final

from axle.errors import AxleError


class Case(Enum):
    """What the housing is cast of."""

    IRON = "iron"
    ALUMINIUM = "aluminium"


# Linear expansion per kelvin, from memory: handbook figures scatter by about 1e-6.
STEEL: Final = 11.5e-6
EXPANSION: Final = {Case.IRON: 11.0e-6, Case.ALUMINIUM: 23.0e-6}
# Warming of the housing over the cold setting, and of the gears over the housing [K], by use; from
# memory, wide.
WARMING: Final = {"road": (60.0, 15.0), "works": (60.0, 15.0), "tow": (80.0, 25.0), "track": (100.0, 40.0)}


@dataclass(frozen=True)
class Hot:
    """How a cold setting changes when the axle is warm.

    :param carrier: change of carrier interference [mm]; below zero it opens.
    :param pinion: change of pinion bearing interference [mm]; above zero it rises.
    :param deeper: change of pinion depth [mm], > 0 deeper.
    :param backlash: change of backlash [mm]; below zero it closes.
    """

    carrier: float
    pinion: float
    deeper: float
    backlash: float


def hot_change(
    case: Case,
    *,
    side_span: float,
    pinion_span: float,
    mounting: float,
    housing_rise: float,
    gears_above: float,
    per_depth: float,
) -> Hot:
    """Foretell what warming does to preload and backlash.

    Δ = (α_housing − α_steel)·L·ΔT opens the carrier's interference (the housing is outside) and
    raises the pinion's (the housing between the cones pulls the cups apart). The pinion's face comes
    nearer by what gears and pinion are warmer than the housing, and away by what the housing grows
    more than steel.

    :param case: what the housing is cast of.
    :param side_span: L between the carrier's cups [mm], 50 to 800.
    :param pinion_span: L between the pinion's cups [mm], 20 to 400.
    :param mounting: ring axis to the pinion's inner bearing seat [mm], 20 to 300.
    :param housing_rise: ΔT of the housing over the cold setting [K], −60 to 150.
    :param gears_above: how much warmer the gears are than the housing [K], 0 to 100.
    :param per_depth: backlash per pinion depth [1], negative.
    :returns: the changes [mm].
    :raises AxleError: for a length or a warming outside these ranges.
    :source: linear expansion; coefficients and warming from memory.

    >>> hot = hot_change(Case.ALUMINIUM, side_span=200, pinion_span=80, mounting=100,
    ...                  housing_rise=60, gears_above=15, per_depth=-0.3)
    >>> round(hot.carrier, 3), round(hot.pinion, 3)
    (-0.138, 0.055)
    """
    for what, value, low, high in (
        ("span of the carrier's cups, mm", side_span, 50, 800),
        ("span of the pinion's cups, mm", pinion_span, 20, 400),
        ("mounting distance, mm", mounting, 20, 300),
        ("warming of the housing, K", housing_rise, -60, 150),
        ("gears over the housing, K", gears_above, 0, 100),
    ):
        if not low <= value <= high:
            raise AxleError(what, given=f"{value:g}", wanted=f"{low:g} to {high:g}")
    apart = (EXPANSION[case] - STEEL) * housing_rise
    deeper = STEEL * gears_above * mounting - apart * mounting
    return Hot(-apart * side_span, apart * pinion_span, deeper=deeper, backlash=per_depth * deeper)
