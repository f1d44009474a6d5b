"""Which stations are judged by figures that nobody took from a sheet."""

from __future__ import annotations

from typing import Final

from axle.spec.sheet import spec_keys
from axle.state.axle_state import AxleState

# Keys of the sheet that a station is judged by, beside the pinion's own preload.
_KEYS: Final = {
    "ring_gear": ("ring_runout",),
    "depth": ("depth_tolerance", "nominal_distance"),
    "carrier_preload": ("carrier_preload", "carrier_interference", "adjuster_torque"),
    "backlash": ("backlash", "backlash_spread"),
    "torque": ("ring_bolt_torque", "pinion_nut_torque", "cap_torque"),
}


def made_up_titles(state: AxleState, station: str) -> tuple[str, ...]:
    """Name the made-up figures that a station is judged by.

    :param state: the axle.
    :param station: its name.
    :returns: titles of the sheet's values, none where all come from somewhere.
    :source: the sheet's own sources.

    >>> from axle.gearset import GearSet
    >>> from axle.layout import CarrierBy, DepthShim, Layout, PreloadBy
    >>> from axle.spec.sheet import Sheet, spec_value
    >>> sheet = Sheet("x", {"backlash": spec_value("backlash", "7", "11", "thou", "demo")})
    >>> layout = Layout(DepthShim.HEAD, PreloadBy.SPACER, CarrierBy.OUTBOARD)
    >>> made_up_titles(AxleState(layout, GearSet(9, 38), sheet), "backlash")
    ('Backlash at the heel',)
    """
    keys = (state.preload_key,) if station == "pinion_preload" else _KEYS.get(station, ())
    return tuple(spec_keys()[key].title for key in keys if state.sheet.is_made_up(key))
