"""The carrier's torque against its interference as points to be drawn."""

from __future__ import annotations

import math

from axle.advice.carrier_preload import carrier_trials, torque_curve
from axle.advice.pinion_plot import CurvePlot, Point, along
from axle.advice.state import AxleState


def carrier_plot_of(state: AxleState, unit: float = 1.0) -> CurvePlot | None:
    """Points of the carrier's torque curve, or nothing before a trial was read.

    :param state: the axle.
    :param unit: size of the unit in which places along the axis are to be round [mm].
    :source: :func:`axle.advice.carrier_preload.torque_curve`.
    """
    curve, limits = torque_curve(state), state.sheet.range("carrier_preload")
    if curve is None:
        return None
    trials = carrier_trials(state)
    points = tuple(Point(t.setting - curve.zero, t.torque, t.end_play) for t in trials)
    settings = [t.setting for t in trials]
    if limits is not None and math.isfinite(limits.high):
        settings += [curve.setting_for(limits.low), curve.setting_for(limits.high)]
    least, most = min(*settings, curve.zero), max(*settings, curve.zero)
    margin = max(0.12 * (most - least), 0.02)
    reach = (least - margin, most + margin)
    return along("interference", points, curve, reach, 1.0, None, offset=-curve.zero, round_in=unit)
