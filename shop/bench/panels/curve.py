"""The fitted curve of a preload, as the pinion's and the carrier's panel show it."""

from __future__ import annotations

from axle.measure.range import Range
from axle.measure.units import Unit
from axle.stations.preload_plot import CurvePlot
from shop.drawing.curve import Dot, Plot, curve
from shop.drawing.svg import Svg


def curve_panel(
    plot: CurvePlot,
    *,
    limits: Range | None,
    label: str,
    marks: tuple[tuple[float, str], ...],
    unit: Unit,
) -> Svg:
    """Draw trials, the curve through them, and where the next one is expected.

    :param limits: wanted rotating torque [N·m], or nothing.
    :param label: what stands along x.
    :param marks: places along x, and what is written under each.
    :param unit: unit of torque shown.
    """
    return curve(
        Plot(
            plot.xs,
            plot.low,
            middle=plot.middle,
            high=plot.high,
            dots=tuple(Dot(p.x, p.torque, play=p.play, alike=p.alike) for p in plot.points),
            limits=limits,
            expected=plot.expected,
            label=label,
            marks=marks,
        ),
        unit,
    )
