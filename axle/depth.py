"""Pinion depth: from a measurement and a mark to the depth shim that is wanted.

In every method t = t_trial + s·(actual − required), both being the distance from the ring gear's
axis to the pinion's reference face, s the layout's ``depth_sign``.
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum

from axle.errors import AxleError
from axle.layout import Layout
from axle.uncertainty import combined, rectangular


class MarkConvention(Enum):
    """What a figure marked on the pinion means."""

    LONGER_IS_PLUS = "longer"
    SHORTER_IS_PLUS = "shorter"
    DISTANCE = "distance"


@dataclass(frozen=True)
class Term:
    """One line of a sum that ends in a thickness.

    :param label: what the line is, in the trade's words.
    :param value: signed contribution [mm].
    """

    label: str
    value: float


@dataclass(frozen=True)
class DepthResult:
    """The depth shim that is wanted, with the sum that leads to it.

    :param thickness: t [mm].
    :param uncertainty: standard uncertainty of t [mm].
    :param terms: the lines of the sum; they add up to ``thickness``.
    :param method: how it was found.
    """

    thickness: float
    uncertainty: float
    terms: tuple[Term, ...]
    method: str


def mark_deviation(value: float, convention: MarkConvention, nominal: float = 0.0) -> float:
    """Turn a pinion's mark into m, the deviation of its mounting distance from nominal.

    :param value: the mark [mm]; for ``DISTANCE`` the marked axis-to-face distance.
    :param convention: what the mark means; belongs to the gear set.
    :param nominal: nominal mounting distance [mm]; wanted for ``DISTANCE`` only.
    :returns: m [mm], > 0 where the pinion wants to sit further from the ring gear's axis.
    :raises AxleError: for a marked distance without a nominal one to compare it with.
    :source: common practice; some makers mark with the opposite sign.

    >>> mark_deviation(0.05, MarkConvention.SHORTER_IS_PLUS)
    -0.05
    """
    if convention is MarkConvention.DISTANCE:
        if nominal <= 0:
            raise AxleError(
                "pinion mark",
                given=f"a distance of {value:g} mm",
                wanted="the axle's nominal mounting distance beside it",
                do="Add it to the spec sheet.",
            )
        return value - nominal
    return value if convention is MarkConvention.LONGER_IS_PLUS else -value + 0.0


def by_gauge_block(
    layout: Layout, trial: float, growth: float, mark: float, *, resolution: float = 0.0254
) -> DepthResult:
    """Depth shim from a gauge block and cross arbor.

    The feeler that just drags between block and arbor is how much further out the pinion sits
    than a zero-marked one should, with the trial shim that is fitted (or none).

    :param layout: the axle's layout.
    :param trial: t_trial, depth shim fitted while gauging [mm], 0 or more.
    :param growth: g, the dragging feeler: actual − required for a zero mark [mm].
    :param mark: m, deviation of the mounting distance [mm].
    :param resolution: step between feelers [mm].
    :raises AxleError: when the answer would be thinner than nothing.
    :source: common practice.

    >>> from axle.layout import CarrierBy, DepthShim, PreloadBy
    >>> head = Layout(DepthShim.HEAD, PreloadBy.SLEEVE, CarrierBy.ADJUSTERS)
    >>> round(by_gauge_block(head, 0.0, 0.80, 0.05).thickness, 3)
    0.75
    """
    s = layout.depth_sign
    terms = (
        Term("depth shim fitted while gauging", trial),
        Term("feeler that drags" if s > 0 else "feeler that drags (cartridge: taken off)", s * growth),
        Term("pinion mark", -s * mark),
    )
    return _result(terms, combined(rectangular(resolution), rectangular(0.0127)), "gauge block and arbor")


def by_bar(
    layout: Layout,
    trial: float,
    *,
    bar_offset: float,
    stack: float,
    gap: float,
    nominal: float,
    mark: float,
    resolution: float = 0.0254,
) -> DepthResult:
    """Depth shim from a straight bar on slip gauges.

    :param layout: the axle's layout.
    :param trial: t_trial, depth shim fitted while measuring [mm].
    :param bar_offset: b, how far the bar's lower face lies from the ring axis towards the pinion
        [mm]: half an arbor centred in the bores, half the bore for a bar resting on the bottom of
        the bores, 0 for a bar across faces in the axis plane.
    :param stack: slip gauges on the pinion's face [mm].
    :param gap: what is left between stack and bar [mm], 0 or more.
    :param nominal: nominal mounting distance [mm], more than 0.
    :param mark: m, deviation of the mounting distance [mm].
    :param resolution: step between feelers [mm].
    :raises AxleError: without a nominal mounting distance, or for a negative gap or answer.
    :source: common practice.

    >>> from axle.layout import CarrierBy, DepthShim, PreloadBy
    >>> head = Layout(DepthShim.HEAD, PreloadBy.SLEEVE, CarrierBy.ADJUSTERS)
    >>> bar = dict(bar_offset=20.0, stack=70.0, gap=0.55, nominal=90.2, mark=0.0)
    >>> round(by_bar(head, 0.5, **bar).thickness, 3)
    0.85
    """
    if nominal <= 0:
        raise AxleError(
            "nominal mounting distance",
            given=f"{nominal:g} mm",
            wanted="the axle's own figure",
            do="Add it to the spec sheet, or measure depth another way.",
        )
    if gap < 0:
        raise AxleError("gap under the bar", given=f"{gap:g} mm", wanted="0 or more")
    s = layout.depth_sign
    terms = (
        Term("depth shim fitted while measuring", trial),
        Term("bar to ring axis", s * bar_offset),
        Term("slip gauges", s * stack),
        Term("gap", s * gap),
        Term("nominal mounting distance", -s * nominal),
        Term("pinion mark", -s * mark),
    )
    return _result(terms, combined(rectangular(resolution), rectangular(0.0127)), "bar on slip gauges")


def by_distance(
    layout: Layout, trial: float, distance: float, nominal: float, mark: float, *, step: float = 0.0127
) -> DepthResult:
    """Depth shim from the distance that a dial over its plate, or a bridge, comes to.

    :param layout: the axle's layout.
    :param trial: t_trial, depth shim fitted while measuring [mm], 0 or more.
    :param distance: measured distance from the ring gear's axis to the pinion's face [mm].
    :param nominal: nominal mounting distance [mm], more than 0.
    :param mark: m, deviation of the mounting distance [mm].
    :param step: resolution of the instrument [mm].
    :raises AxleError: without a nominal mounting distance, or for a negative answer.
    :source: common practice.

    >>> from axle.layout import CarrierBy, DepthShim, PreloadBy
    >>> head = Layout(DepthShim.HEAD, PreloadBy.SLEEVE, CarrierBy.ADJUSTERS)
    >>> round(by_distance(head, 0.5, 90.55, 90.2, 0.05).thickness, 3)
    0.8
    """
    if nominal <= 0:
        raise AxleError(
            "nominal mounting distance", given=f"{nominal:g} mm", wanted="the axle's own figure",
            do="Add it to the spec sheet, or measure depth another way.",
        )  # fmt: skip
    s = layout.depth_sign
    terms = (
        Term("depth shim fitted while measuring", trial),
        Term("measured distance", s * distance),
        Term("nominal mounting distance", -s * nominal),
        Term("pinion mark", -s * mark),
    )
    return _result(terms, combined(rectangular(step), rectangular(0.0127)), "dial or bridge")


def by_old_shim(
    layout: Layout,
    old_shim: float,
    *,
    old_mark: float,
    new_mark: float,
    old_height: float = 0.0,
    new_height: float = 0.0,
) -> DepthResult:
    """Depth shim from the old shim and what the old and new pinions are marked.

    t_new = t_old − s·(m_new − m_old) + s·(h_old − h_new). Valid for equal nominal distance, head
    height and mark convention.

    :param layout: the axle's layout.
    :param old_shim: t_old [mm], 0 or more.
    :param old_mark: m_old [mm].
    :param new_mark: m_new [mm].
    :param old_height: h_old, stand height of the old inner bearing [mm].
    :param new_height: h_new, stand height of the new inner bearing [mm].
    :raises AxleError: when the answer would be thinner than nothing.
    :source: common practice.

    >>> from axle.layout import CarrierBy, DepthShim, PreloadBy
    >>> head = Layout(DepthShim.HEAD, PreloadBy.SLEEVE, CarrierBy.ADJUSTERS)
    >>> round(by_old_shim(head, 0.80, old_mark=0.05, new_mark=-0.02).thickness, 3)
    0.87
    """
    s = layout.depth_sign
    terms = (
        Term("old depth shim", old_shim),
        Term("new pinion's mark", -s * new_mark),
        Term("old pinion's mark", s * old_mark),
        Term("old bearing's stand height", s * old_height),
        Term("new bearing's stand height", -s * new_height),
    )
    kept = tuple(term for term in terms[:3]) + tuple(term for term in terms[3:] if term.value)
    # Housing and bearings stay, but the old setting is somebody else's: common practice takes it
    # as good to about two thou.
    return _result(kept, combined(0.025, rectangular(0.0254)), "old shim and marks")


def depth_error(layout: Layout, fitted: float, wanted: float) -> float:
    """How much too deep the pinion sits with a pack, from the pack that is wanted.

    :param layout: the axle's layout.
    :param fitted: thickness of the depth pack in the axle [mm].
    :param wanted: thickness that the measurement asks for [mm].
    :returns: depth error [mm], > 0 too deep.
    :source: the layout's sign.

    >>> from axle.layout import CarrierBy, DepthShim, PreloadBy
    >>> cartridge = Layout(DepthShim.CARTRIDGE, PreloadBy.SLEEVE, CarrierBy.ADJUSTERS)
    >>> round(depth_error(cartridge, 0.50, 0.45), 3)
    -0.05
    """
    return layout.depth_sign * (fitted - wanted)


def _result(terms: tuple[Term, ...], uncertainty: float, method: str) -> DepthResult:
    thickness = sum(term.value for term in terms)
    if thickness < 0:
        raise AxleError(
            "depth shim",
            given=f"readings that ask for {thickness:.3f} mm",
            wanted="0 or more",
            do="Check the sign of the mark, the trial shim and the unit of each reading.",
        )
    return DepthResult(thickness, uncertainty, terms, method)
