"""Every way of finding the depth shim: each a sum of what was read, with its uncertainty.

Each takes the layout, the trial shim that is fitted (t_trial, or nothing) and what was read, and
gives t = t_trial + s·(actual − required), s the layout's ``depth_sign``.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

from axle.depth.marks import Mark, MarkConvention, Masters, mark_deviation, required_terms
from axle.depth.result import DepthResult, Term, depth_result
from axle.errors import AxleError
from axle.layout import Layout
from axle.measure.uncertainty import Measured, rectangular

# How well a hand tells drag from bind, and a tool from a tool that rocks: half a thou either way
# (common practice, no source).
FEEL: Final = Term("feel of the drag", 0.0, rectangular(0.0254))
ROCKING: Final = Term("turning point of the tool", 0.0, rectangular(0.0127))
# Housing and bearings stay, but the old setting is somebody else's: taken as good to a thou
# (common practice, no source).
OLD_SETTING: Final = Term("whoever set it before", 0.0, 0.0254)


def by_gauge_block(
    layout: Layout, trial: Measured, growth: Measured, mark: Mark, nominal: float | None = None
) -> DepthResult:
    """Depth shim from a gauge block and cross arbor.

    The feeler that just drags between block and arbor is how much further out the pinion sits
    than a zero-marked one should, with the trial shim that is fitted (or none).

    :param layout: the axle's layout.
    :param trial: t_trial, depth shim fitted while gauging [mm], 0 or more.
    :param growth: g, the dragging feeler: actual − required for a zero mark [mm].
    :param mark: what is etched on the pinion.
    :param nominal: nominal mounting distance [mm], for a pinion marked with the whole distance.
    :raises AxleError: when the answer would be thinner than nothing.
    :source: common practice.

    >>> from axle.layout import CarrierBy, DepthShim, PreloadBy
    >>> head = Layout(DepthShim.HEAD, PreloadBy.SLEEVE, CarrierBy.ADJUSTERS)
    >>> round(by_gauge_block(head, Measured(0.0), Measured(0.80), Mark(0.05)).thickness, 3)
    0.75
    """
    return _by_growth(
        layout,
        trial,
        growth=growth,
        mark=mark,
        nominal=nominal,
        label="feeler that drags",
        named=("gauge block and arbor", "gauge"),
    )


def by_dial(
    layout: Layout, trial: Measured, travel: Measured, mark: Mark, nominal: float | None = None
) -> DepthResult:
    """Depth shim from a dial gauge zeroed on its plate at the greatest deflection.

    What the plunger travels when it leaves the plate is the shim for a zero-marked pinion, under
    the same conditions as a gauge block's feeler.

    :param layout: the axle's layout.
    :param trial: t_trial, depth shim fitted while gauging [mm], 0 or more.
    :param travel: travel off the plate [mm], 0 or more; see :func:`travel_from_figure`.
    :param mark: what is etched on the pinion.
    :param nominal: nominal mounting distance [mm], for a pinion marked with the whole distance.
    :raises AxleError: when the answer would be thinner than nothing.
    :source: common practice.

    >>> from axle.layout import CarrierBy, DepthShim, PreloadBy
    >>> head = Layout(DepthShim.HEAD, PreloadBy.SLEEVE, CarrierBy.ADJUSTERS)
    >>> round(by_dial(head, Measured(0.0), Measured(0.80), Mark(0.05)).thickness, 3)
    0.75
    """
    return _by_growth(
        layout,
        trial,
        growth=travel,
        mark=mark,
        nominal=nominal,
        label="travel off the plate",
        named=("dial over a plate", "dial"),
    )


def travel_from_figure(figure: float, revolution: float) -> float:
    """Travel of a plunger off its plate, where the figure pointed at is what the gauge means.

    :param figure: what the hand points at [mm], 0 to one revolution.
    :param revolution: one revolution of the dial [mm], more than 0.
    :returns: travel [mm].
    :raises AxleError: for a figure beyond one revolution.
    :source: one revolution less the travel is the figure (from memory): so travel is one
        revolution less the figure.

    >>> round(travel_from_figure(1.74, 2.54), 2)
    0.8
    """
    if revolution <= 0 or not 0 <= figure <= revolution:
        raise AxleError(
            "figure on the dial",
            given=f"{figure:.3f} mm on a dial of {revolution:.3f} mm a turn",
            wanted="a figure of 0 to one revolution",
            do="Check the gauge in the instrument register.",
        )
    return revolution - figure


@dataclass(frozen=True)
class Bar:
    """A straight bar over slip gauges that stand on the pinion's face.

    :param offset: b, how far the bar's lower face lies from the ring axis towards the pinion [mm]:
        half an arbor centred in the bores, half the bore for a bar resting on the bottom of the
        bores, 0 for a bar across faces in the axis plane.
    :param stack: slip gauges on the pinion's face [mm].
    :param gap: what is left between stack and bar [mm], 0 or more; a feeler that will not enter
        bounds it.
    :raises AxleError: for a negative gap or slips of no thickness.
    """

    offset: Measured
    stack: Measured
    gap: Measured

    def __post_init__(self) -> None:
        if self.gap.value < 0:
            raise AxleError("gap under the bar", given=f"{self.gap.value:g} mm", wanted="0 or more")
        if self.stack.value <= 0:
            raise AxleError("slip gauges", given=f"{self.stack.value:g} mm", wanted="more than 0")


def by_bar(layout: Layout, trial: Measured, bar: Bar, mark: Mark, masters: Masters) -> DepthResult:
    """Depth shim from a straight bar on slip gauges: actual = b + stack + gap.

    :param layout: the axle's layout.
    :param trial: t_trial, depth shim fitted while measuring [mm], 0 or more.
    :param bar: the bar, its slips and the gap [mm].
    :param mark: what is etched on the pinion.
    :param masters: the axle's own dimensions.
    :raises AxleError: without a dimension to hold it to, or for a negative answer.
    :source: common practice.

    >>> from axle.layout import CarrierBy, DepthShim, PreloadBy
    >>> head = Layout(DepthShim.HEAD, PreloadBy.SLEEVE, CarrierBy.ADJUSTERS)
    >>> bar = Bar(Measured(20.0), Measured(70.0), Measured(0.55))
    >>> round(by_bar(head, Measured(0.5), bar, Mark(), Masters(90.2)).thickness, 3)
    0.85
    """
    actual = (
        Term("bar to ring axis", bar.offset.value, bar.offset.spread),
        Term("slip gauges", bar.stack.value, bar.stack.spread),
        Term("gap", bar.gap.value, bar.gap.spread),
    )
    return _by_distance(
        layout,
        trial,
        actual=actual,
        mark=mark,
        masters=masters,
        extra=FEEL,
        named=("bar on slip gauges", "bar"),
    )


def by_bridge(
    layout: Layout, trial: Measured, reach: Measured, reading: Measured, mark: Mark, masters: Masters
) -> DepthResult:
    """Depth shim from a dial bridge across the bearing bores: actual = calibrated reach − reading.

    :param layout: the axle's layout.
    :param trial: t_trial, depth shim fitted while measuring [mm], 0 or more.
    :param reach: distance from the axis that the bridge shows as zero [mm]; another pointer is
        another reach.
    :param reading: what the dial shows on the pinion's face [mm].
    :param mark: what is etched on the pinion.
    :param masters: the axle's own dimensions.
    :raises AxleError: without a dimension to hold it to, for a reading beyond the reach, or for a
        negative answer.
    :source: common practice.

    >>> from axle.layout import CarrierBy, DepthShim, PreloadBy
    >>> head = Layout(DepthShim.HEAD, PreloadBy.SLEEVE, CarrierBy.ADJUSTERS)
    >>> master = Masters(seat=130.2, head=Measured(40.0))
    >>> round(by_bridge(head, Measured(0.5), Measured(92.0), Measured(1.45), Mark(), master).thickness, 3)
    0.85
    """
    if reading.value >= reach.value:
        raise AxleError(
            "bridge reading",
            given=f"{reading.value:.3f} mm",
            wanted=f"less than the bridge's reach of {reach.value:.3f} mm",
        )
    actual = (
        Term("bridge's reach", reach.value, reach.spread),
        Term("bridge reading", -reading.value, reading.spread),
    )
    return _by_distance(
        layout,
        trial,
        actual=actual,
        mark=mark,
        masters=masters,
        extra=ROCKING,
        named=("depth bridge", "bridge"),
    )


def by_micrometer(
    layout: Layout, trial: Measured, reading: Measured, arbor: Measured, mark: Mark, masters: Masters
) -> DepthResult:
    """Depth shim from a depth micrometer over an arbor: actual = reading − half the arbor.

    :param layout: the axle's layout.
    :param trial: t_trial, depth shim fitted while measuring [mm], 0 or more.
    :param reading: from the far face of the arbor to the pinion's face [mm].
    :param arbor: diameter of the arbor in the bearing bores [mm].
    :param mark: what is etched on the pinion.
    :param masters: the axle's own dimensions.
    :raises AxleError: without a dimension to hold it to, for an arbor as large as the reading, or
        for a negative answer.
    :source: common practice.

    >>> from axle.layout import CarrierBy, DepthShim, PreloadBy
    >>> head = Layout(DepthShim.HEAD, PreloadBy.SLEEVE, CarrierBy.ADJUSTERS)
    >>> found = by_micrometer(head, Measured(0.5), Measured(110.55), Measured(40.0), Mark(), Masters(90.2))
    >>> round(found.thickness, 3)
    0.85
    """
    if arbor.value / 2 >= reading.value:
        raise AxleError(
            "depth micrometer",
            given=f"{reading.value:.3f} mm over an arbor of {arbor.value:.3f} mm",
            wanted="a reading from the arbor's far face, well over half the arbor",
        )
    actual = (
        Term("depth micrometer", reading.value, reading.spread),
        Term("half the arbor", -arbor.value / 2, arbor.spread / 2),
    )
    return _by_distance(
        layout,
        trial,
        actual=actual,
        mark=mark,
        masters=masters,
        extra=ROCKING,
        named=("depth micrometer over an arbor", "mic"),
    )


def by_distance(
    layout: Layout, trial: Measured, distance: Measured, mark: Mark, masters: Masters
) -> DepthResult:
    """Depth shim from a distance that a tool gives ready worked out.

    :param layout: the axle's layout.
    :param trial: t_trial, depth shim fitted while measuring [mm], 0 or more.
    :param distance: measured distance from the ring gear's axis to the pinion's face [mm].
    :param mark: what is etched on the pinion.
    :param masters: the axle's own dimensions.
    :raises AxleError: without a dimension to hold it to, or for a negative answer.
    :source: common practice.

    >>> from axle.layout import CarrierBy, DepthShim, PreloadBy
    >>> head = Layout(DepthShim.HEAD, PreloadBy.SLEEVE, CarrierBy.ADJUSTERS)
    >>> round(by_distance(head, Measured(0.5), Measured(90.55), Mark(0.05), Masters(90.2)).thickness, 3)
    0.8
    """
    actual = (Term("measured distance", distance.value, distance.spread),)
    return _by_distance(
        layout,
        trial,
        actual=actual,
        mark=mark,
        masters=masters,
        extra=ROCKING,
        named=("distance ready worked out", "measured"),
    )


@dataclass(frozen=True)
class OldPinion:
    """The pinion that came out, whose shim was right for it.

    :param shim: t_old [mm], 0 or more.
    :param mark: what is etched on it; its convention must be the new one's.
    :param old_height: h_old, stand height of the old inner bearing, or nothing.
    :param new_height: h_new, stand height of the new one, or nothing.
    """

    shim: Measured
    mark: Mark
    old_height: Measured | None = None
    new_height: Measured | None = None


def by_old_shim(layout: Layout, old: OldPinion, mark: Mark, nominal: float | None = None) -> DepthResult:
    """Depth shim from the old shim and what the old and new pinions are marked.

    t_new = t_old − s·(m_new − m_old) + s·(h_old − h_new). Valid for equal nominal distance, head
    height and mark convention.

    :param layout: the axle's layout.
    :param old: the old pinion with its shim.
    :param mark: what is etched on the new one.
    :param nominal: nominal mounting distance [mm], for pinions marked with the whole distance.
    :raises AxleError: when the answer would be thinner than nothing, or the marks are by different
        conventions.
    :source: common practice.

    >>> from axle.layout import CarrierBy, DepthShim, PreloadBy
    >>> head = Layout(DepthShim.HEAD, PreloadBy.SLEEVE, CarrierBy.ADJUSTERS)
    >>> round(by_old_shim(head, OldPinion(Measured(0.80), Mark(0.05)), Mark(-0.02)).thickness, 3)
    0.87
    """
    if old.mark.convention is not mark.convention:
        raise AxleError(
            "marks",
            given=f"“{old.mark.convention.value}” and “{mark.convention.value}”",
            wanted="one convention for the old and the new pinion",
            do="The difference of two marks means nothing across conventions: use a gauge.",
        )
    s = layout.depth_sign
    terms = [Term("old depth shim", old.shim.value, old.shim.spread)]
    if mark.convention is MarkConvention.DISTANCE:
        # Their difference counts, so no nominal distance is wanted.
        terms.append(
            Term(
                "new pinion's distance less the old one's",
                -s * (mark.value - old.mark.value),
                spread=mark.spread,
                shared="mark",
            )
        )
    else:
        terms += [
            Term(
                "new pinion's mark",
                -s * mark_deviation(mark.value, mark.convention),
                spread=mark.spread,
                shared="mark",
            ),
            Term(
                "old pinion's mark",
                s * mark_deviation(old.mark.value, old.mark.convention),
                old.mark.spread,
            ),
        ]
    if old.old_height and old.new_height:
        terms += [
            Term("old bearing's stand height", s * old.old_height.value, old.old_height.spread),
            Term("new bearing's stand height", -s * old.new_height.value, old.new_height.spread),
        ]
    return depth_result((*terms, OLD_SETTING), "old shim and marks", "old")


def _by_growth(
    layout: Layout,
    trial: Measured,
    growth: Measured,
    mark: Mark,
    nominal: float | None,
    label: str,
    named: tuple[str, str],
) -> DepthResult:
    s = layout.depth_sign
    m = mark_deviation(mark.value, mark.convention, nominal or 0.0)
    title, method = named
    terms = (
        Term("depth shim fitted while gauging", trial.value, spread=trial.spread, shared="trial"),
        Term(label if s > 0 else f"{label} (cartridge: taken off)", s * growth.value, growth.spread),
        Term("pinion mark", -s * m, spread=mark.spread, shared="mark"),
        FEEL if method == "gauge" else ROCKING,
    )
    return depth_result(terms, title, method)


def _by_distance(
    layout: Layout,
    trial: Measured,
    actual: tuple[Term, ...],
    mark: Mark,
    masters: Masters,
    extra: Term,
    named: tuple[str, str],
) -> DepthResult:
    s = layout.depth_sign
    terms = (
        Term("depth shim fitted while measuring", trial.value, spread=trial.spread, shared="trial"),
        *(term.times(s) for term in actual),
        *(term.times(-s) for term in required_terms(mark, masters)),
        extra,
    )
    return depth_result(terms, *named)
