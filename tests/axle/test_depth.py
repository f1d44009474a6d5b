"""Pinion depth: hand-computed cases per method and layout, and the sign in every one of them."""

from __future__ import annotations

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st
from uncertainties import ufloat

from axle.depth.marks import Mark, MarkConvention, Masters, mark_deviation, meaning
from axle.depth.methods import (
    Bar,
    OldPinion,
    by_bar,
    by_bridge,
    by_dial,
    by_distance,
    by_gauge_block,
    by_micrometer,
    by_old_shim,
    travel_from_figure,
)
from axle.depth.result import chance_within, depth_error
from axle.errors import AxleError
from axle.layout import CarrierBy, DepthShim, Layout, PreloadBy, Side, every_layout
from axle.measure.uncertainty import Measured

SLEEVE = (PreloadBy.SLEEVE, CarrierBy.ADJUSTERS)
HEAD = Layout(DepthShim.HEAD, *SLEEVE)
CUP = Layout(DepthShim.CUP, *SLEEVE)
CARTRIDGE = Layout(DepthShim.CARTRIDGE, *SLEEVE)
KINDS = (HEAD, CUP, CARTRIDGE)
THOU = 0.0254
small = st.floats(-0.2, 0.2)
M = Measured


@pytest.mark.parametrize(
    ("item", "trial", "feeler", "mark", "thickness"),
    [
        # In thou, by hand: a head shim grows by the feeler and shrinks by a + mark (longer).
        (HEAD, 0, 30, 0, 30),
        (HEAD, 0, 30, 2, 28),
        (HEAD, 0, 30, -2, 32),
        (HEAD, 20, 9, 0, 29),
        (HEAD, 20, 9, 1, 28),
        (CUP, 0, 35, 3, 32),
        (CUP, 10, 22, -1, 33),
        # A cartridge comes down by the feeler and up by a + mark: thicker is shallower.
        (CARTRIDGE, 31, 6, 0, 25),
        (CARTRIDGE, 31, 6, 3, 28),
        (CARTRIDGE, 31, 6, -3, 22),
        (CARTRIDGE, 20, 0, 0, 20),
    ],
)
def test_gauge_block_by_hand(item, trial, feeler, mark, thickness):
    depth_result = by_gauge_block(item, M(trial * THOU), M(feeler * THOU), Mark(mark * THOU))
    assert depth_result.thickness == pytest.approx(thickness * THOU)


@pytest.mark.parametrize(
    ("item", "trial", "bar_offset", "stack", "gap", "mark", "thickness"),
    [
        # In mm, nominal mounting distance 96.5, by hand: actual = b + stack + gap.
        (HEAD, 0.0, 22.0, 75.0, 0.30, 0.0, 0.80),
        (HEAD, 0.5, 22.0, 75.0, 0.30, 0.0, 1.30),
        (HEAD, 0.5, 22.0, 74.5, 0.10, 0.05, 0.55),
        (HEAD, 0.0, 0.0, 97.0, 0.25, -0.05, 0.80),
        (CUP, 0.4, 40.0, 56.8, 0.05, 0.0, 0.75),
        (CARTRIDGE, 1.0, 22.0, 74.6, 0.20, 0.0, 0.70),
        (CARTRIDGE, 1.0, 22.0, 74.6, 0.20, 0.1, 0.80),
    ],
)
def test_bar_on_slips_by_hand(item, trial, bar_offset, stack, gap, mark, thickness):
    depth_result = by_bar(
        item, M(trial), bar=Bar(M(bar_offset), M(stack), M(gap)), mark=Mark(mark), masters=Masters(96.5)
    )
    assert depth_result.thickness == pytest.approx(thickness)


@pytest.mark.parametrize(
    ("item", "old", "old_mark", "new_mark", "old_height", "new_height", "thickness"),
    [
        # In thou, by hand: subtract the new mark, add the old, and a taller bearing takes shim away.
        (HEAD, 30, 2, 2, 0, 0, 30),
        (HEAD, 30, 2, -1, 0, 0, 33),
        (HEAD, 30, -1, 2, 0, 0, 27),
        (HEAD, 30, 0, 0, 800, 803, 27),
        (CUP, 24, 1, 3, 0, 0, 22),
        (CARTRIDGE, 24, 1, 3, 0, 0, 26),
        (CARTRIDGE, 24, 3, 0, 0, 0, 21),
        (CARTRIDGE, 24, 0, 0, 800, 798, 22),
    ],
)
def test_old_shim_and_marks_by_hand(item, old, old_mark, new_mark, old_height, new_height, thickness):
    heights = (M(old_height * THOU), M(new_height * THOU)) if old_height else (None, None)
    pinion = OldPinion(M(old * THOU), Mark(old_mark * THOU), *heights)
    depth_result = by_old_shim(item, pinion, Mark(new_mark * THOU))
    assert depth_result.thickness == pytest.approx(thickness * THOU)


@pytest.mark.parametrize(
    ("value", "convention", "nominal", "deviation"),
    [
        (0.05, MarkConvention.LONGER_IS_PLUS, 0.0, 0.05),
        (0.05, MarkConvention.SHORTER_IS_PLUS, 0.0, -0.05),
        (-0.0, MarkConvention.SHORTER_IS_PLUS, 0.0, 0.0),
        (96.45, MarkConvention.DISTANCE, 96.5, -0.05),
        (96.60, MarkConvention.DISTANCE, 96.5, 0.10),
    ],
)
def test_mark_conventions(value, convention, nominal, deviation):
    found = mark_deviation(value, convention, nominal)
    assert found == pytest.approx(deviation)
    assert math.copysign(1, found) == 1 or found < 0  # never a minus zero


class Rig:
    """A housing and pinion told by lengths alone: where the pinion's face really comes to sit."""

    def __init__(self, item: Layout, face_without_shim: float) -> None:
        self.item, self.base = item, face_without_shim

    def distance(self, shim: float) -> float:
        """Ring axis to the pinion's face: a head or cup shim brings it nearer, a cartridge's away."""
        if self.item.depth_shim is DepthShim.CARTRIDGE:
            return self.base + shim
        return self.base - shim


@given(st.sampled_from(KINDS), st.floats(0.3, 1.2), small, st.floats(0.0, 0.8))
def test_the_wanted_shim_puts_the_face_at_its_mounting_distance(item, base_growth, mark, trial):
    nominal = 96.5
    required = nominal + mark
    # Head and cup start too far out and need shim; a cartridge starts too near.
    base = nominal - base_growth - 0.5 if item is CARTRIDGE else nominal + base_growth + 0.5
    rig = Rig(item, base)
    growth = rig.distance(trial) - nominal  # what a gauge for a zero mark shows
    t, marked, master = M(trial), Mark(mark), Masters(nominal)
    depth_result = by_gauge_block(item, t, M(growth), marked)
    assert rig.distance(depth_result.thickness) == pytest.approx(required)
    actual, seat = rig.distance(trial), Masters(seat=nominal + 41.0, head=M(41.0))
    others = (
        by_dial(item, t, M(growth), marked),
        by_bar(item, t, bar=Bar(M(20.0), M(50.0), M(actual - 70.0)), mark=marked, masters=master),
        by_bridge(item, t, reach=M(actual + 2.5), reading=M(2.5), mark=marked, masters=seat),
        by_micrometer(item, t, reading=M(actual + 15.0), arbor=M(30.0), mark=marked, masters=seat),
        by_distance(
            item, t, distance=M(actual), mark=Mark(required, MarkConvention.DISTANCE), masters=Masters()
        ),
        by_gauge_block(item, t, M(growth), Mark(-mark, MarkConvention.SHORTER_IS_PLUS)),
        by_gauge_block(
            item, t, growth=M(growth), mark=Mark(required, MarkConvention.DISTANCE), nominal=nominal
        ),
    )
    for other in others:
        assert other.thickness == pytest.approx(depth_result.thickness), other.method


@given(st.sampled_from(KINDS), small, small, st.floats(0.7, 1.2), small)
def test_a_new_pinion_from_the_old_one_lands_where_its_mark_asks(item, old_mark, new_mark, old, taller):
    nominal = 96.5
    # The old pinion sat where its own mark asked; a taller new bearing pushes the new one in.
    base = nominal + old_mark - old if item is CARTRIDGE else nominal + old_mark + old
    pinion = OldPinion(M(old), Mark(old_mark), old_height=M(30.0), new_height=M(30.0 + taller))
    depth_result = by_old_shim(item, pinion, Mark(new_mark))
    assert Rig(item, base - taller).distance(depth_result.thickness) == pytest.approx(nominal + new_mark)
    marks = (Mark(nominal + m, MarkConvention.DISTANCE) for m in (old_mark, new_mark))
    whole = by_old_shim(
        item, OldPinion(M(old), next(marks), old_height=M(30.0), new_height=M(30.0 + taller)), next(marks)
    )
    assert whole.thickness == pytest.approx(depth_result.thickness)


@pytest.mark.parametrize("item", [i for i in every_layout() if i.ring_side is Side.LEFT])
def test_depth_error_is_positive_when_too_deep(item):
    rig = Rig(item, 97.0)
    wanted, fitted = 0.5, 0.6
    too_near = rig.distance(wanted) - rig.distance(fitted)
    assert depth_error(item, fitted, wanted) == pytest.approx(too_near)


@given(st.sampled_from(KINDS), st.floats(0.6, 2.0), st.floats(0, 0.5), small)
def test_the_lines_of_the_sum_add_up(item, trial, growth, mark):
    depth_result = by_gauge_block(item, M(trial), M(growth), Mark(mark))
    assert sum(term.value for term in depth_result.terms) == pytest.approx(depth_result.thickness)
    assert depth_result.terms[0].value == trial


@pytest.mark.parametrize(
    ("item", "trial", "reach", "reading", "seat", "head", "mark", "thickness"),
    [
        # In mm, by hand: actual = reach − reading; required = seat + m − head.
        (HEAD, 0.0, 98.0, 0.7, 140.5, 44.0, 0.0, 0.80),
        (HEAD, 0.5, 98.0, 1.2, 140.5, 44.0, 0.05, 0.75),
        (CUP, 0.5, 98.0, 1.2, 140.5, 44.1, 0.0, 0.90),
        (CARTRIDGE, 1.0, 98.0, 1.2, 140.5, 44.0, 0.0, 0.70),
        (CARTRIDGE, 1.0, 98.0, 1.2, 140.5, 44.0, 0.1, 0.80),
    ],
)
def test_bridge_with_master_and_head_height_by_hand(
    item, trial, reach, reading, seat, head, mark, thickness
):
    master = Masters(seat=seat, head=M(head))
    depth_result = by_bridge(
        item, M(trial), reach=M(reach), reading=M(reading), mark=Mark(mark), masters=master
    )
    assert depth_result.thickness == pytest.approx(thickness)


def test_a_slip_stack_chosen_for_the_wanted_distance_leaves_the_growth_as_gap():
    # models: with the stack chosen as required − b, the gap is the growth wanted.
    required, b = 96.5 + 0.05, 20.0
    bar = Bar(M(b), M(required - b), M(0.31))
    assert by_bar(HEAD, M(0.0), bar=bar, mark=Mark(0.05), masters=Masters(96.5)).thickness == pytest.approx(
        0.31
    )


def test_the_figure_pointed_at_is_a_revolution_less_the_travel():
    # From memory: on a dial of 0.100 in a turn that points at 70 thou the plunger travelled 30.
    assert travel_from_figure(70 * THOU, 100 * THOU) == pytest.approx(30 * THOU)


def test_uncertainty_of_a_feeler_gum_4_3_7():
    # JCGM 100:2008, 4.3.7 and 5.1.2: feeler step, feel and mark, each a thou wide, in quadrature.
    depth_result = by_gauge_block(HEAD, M(0.0), M(0.75, THOU / math.sqrt(12)), Mark(0.0))
    assert depth_result.uncertainty == pytest.approx(math.sqrt(3) * THOU / math.sqrt(12))


def test_uncertainty_of_a_bridge_against_the_uncertainties_package():
    # The same sum propagated by an independent package.
    trial, reach, reading = ufloat(0.5, 0.003), ufloat(98.0, 0.004), ufloat(1.2, 0.005)
    head, mark, rock = (
        ufloat(44.0, 0.002),
        ufloat(0.05, THOU / math.sqrt(12)),
        ufloat(0, THOU / 2 / 12**0.5),
    )
    wanted = trial - ((reach - reading) - (140.5 + mark - head)) + rock
    item = CARTRIDGE
    depth_result = by_bridge(
        item,
        M(0.5, 0.003),
        reach=M(98.0, 0.004),
        reading=M(1.2, 0.005),
        mark=Mark(0.05),
        masters=Masters(seat=140.5, head=M(44.0, 0.002)),
    )
    assert depth_result.thickness == pytest.approx(wanted.nominal_value)
    assert depth_result.uncertainty == pytest.approx(wanted.std_dev)


@pytest.mark.parametrize(
    ("error", "spread", "tolerance", "chance"),
    # Table of the normal distribution: 68.27 % within one, 95.45 % within two standard deviations.
    [(0.0, 1.0, 1.0, 0.6827), (0.0, 1.0, 2.0, 0.9545), (1.0, 1.0, 1.0, 0.4772), (0.5, 0.0, 0.4, 0.0)],
)
def test_chance_within_a_tolerance_normal_table(error, spread, tolerance, chance):
    assert chance_within(error, spread, tolerance) == pytest.approx(chance, abs=5e-5)


@pytest.mark.parametrize(
    ("mark", "sign", "words"),
    [
        # Common practice, no source: longer means further out, so less shim under the head.
        (Mark(0.05), 1, ("further out", "thinner")),
        (Mark(0.05), -1, ("further out", "thicker")),
        (Mark(-0.05), 1, ("closer in", "thicker")),
        (Mark(0.05, MarkConvention.SHORTER_IS_PLUS), 1, ("closer in", "thicker")),
        (Mark(-0.0), 1, ("Nothing",)),
        (Mark(96.5, MarkConvention.DISTANCE), 1, ("whole distance",)),
    ],
)
def test_what_a_mark_means_in_words(mark, sign, words):
    assert all(word in meaning(mark, sign) for word in words)


def test_a_mark_is_clear_when_confirmed_or_zero():
    assert Mark(0.0, confirmed=False).is_clear
    assert not Mark(0.05, confirmed=False).is_clear
    assert not Mark(96.5, MarkConvention.DISTANCE, confirmed=False).is_clear


@pytest.mark.parametrize(
    ("call", "words"),
    [
        (
            lambda: by_gauge_block(HEAD, M(0), M(0.2), Mark(0.5)),
            "readings that ask for -0.300 mm was given",
        ),
        (lambda: by_gauge_block(CARTRIDGE, M(0), M(0.2), Mark()), "Check the sign of the mark"),
        (
            lambda: by_bar(HEAD, M(0), bar=Bar(M(0), M(90), M(0.1)), mark=Mark(), masters=Masters()),
            "required distance: no nominal mounting distance on the sheet",
        ),
        (lambda: Bar(M(0), M(90), M(-0.1)), "gap under the bar: -0.1 mm was given; 0 or more is wanted"),
        (lambda: Bar(M(0), M(0), M(0.1)), "slip gauges: 0 mm was given; more than 0 is wanted"),
        (
            lambda: mark_deviation(96.4, MarkConvention.DISTANCE),
            "pinion mark: a distance of 96.4 mm was given",
        ),
        (lambda: Mark(5.0), "Check its unit: thou, or hundredths of a millimetre."),
        (
            lambda: by_bridge(
                HEAD, M(0), reach=M(98), reading=M(1), mark=Mark(), masters=Masters(seat=40.0, head=M(44.0))
            ),
            "head height: 44.000 mm was given; less than the master dimension, 40.000 mm",
        ),
        (
            lambda: by_bridge(HEAD, M(0), reach=M(2), reading=M(3), mark=Mark(), masters=Masters(96.5)),
            "bridge reading: 3.000 mm was given",
        ),
        (
            lambda: by_micrometer(
                HEAD, M(0), reading=M(14), arbor=M(30), mark=Mark(), masters=Masters(96.5)
            ),
            "well over half the arbor",
        ),
        (
            lambda: travel_from_figure(3.0, 2.54),
            "figure on the dial: 3.000 mm on a dial of 2.540 mm a turn",
        ),
        (
            lambda: by_old_shim(
                HEAD, OldPinion(M(0.7), Mark(0.05, MarkConvention.SHORTER_IS_PLUS)), Mark(0.05)
            ),
            "one convention for the old and the new pinion is wanted",
        ),
        (lambda: chance_within(0, -1, 1), "tolerance"),
        (lambda: M(1.0, -0.1), "uncertainty: -0.1 was given"),
    ],
)
def test_what_cannot_be_is_refused_in_words(call, words):
    with pytest.raises(AxleError) as refused:
        call()
    assert words in str(refused.value)
