"""Pinion depth: hand-computed cases per method and layout, and the sign in every one of them."""

from __future__ import annotations

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from axle.depth import (
    MarkConvention,
    by_bar,
    by_gauge_block,
    by_old_shim,
    depth_error,
    mark_deviation,
)
from axle.errors import AxleError
from axle.layout import CarrierBy, DepthShim, Layout, PreloadBy, Side, every_layout

SLEEVE = (PreloadBy.SLEEVE, CarrierBy.ADJUSTERS)
HEAD = Layout(DepthShim.HEAD, *SLEEVE)
CUP = Layout(DepthShim.CUP, *SLEEVE)
CARTRIDGE = Layout(DepthShim.CARTRIDGE, *SLEEVE)
KINDS = (HEAD, CUP, CARTRIDGE)
THOU = 0.0254
small = st.floats(-0.2, 0.2)


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
    found = by_gauge_block(item, trial * THOU, feeler * THOU, mark * THOU)
    assert found.thickness == pytest.approx(thickness * THOU)


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
    found = by_bar(item, trial, bar_offset=bar_offset, stack=stack, gap=gap, nominal=96.5, mark=mark)
    assert found.thickness == pytest.approx(thickness)


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
    found = by_old_shim(
        item, old * THOU, old_mark=old_mark * THOU, new_mark=new_mark * THOU,
        old_height=old_height * THOU, new_height=new_height * THOU,
    )  # fmt: skip
    assert found.thickness == pytest.approx(thickness * THOU)


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
    found = by_gauge_block(item, trial, growth, mark)
    assert rig.distance(found.thickness) == pytest.approx(required)
    bar = by_bar(
        item, trial, bar_offset=20.0, stack=50.0, gap=rig.distance(trial) - 70.0, nominal=nominal,
        mark=mark,
    )  # fmt: skip
    assert bar.thickness == pytest.approx(found.thickness)


@given(st.sampled_from(KINDS), small, small, st.floats(0.5, 1.0))
def test_a_new_pinion_from_the_old_one_lands_where_its_mark_asks(item, old_mark, new_mark, old):
    nominal = 96.5
    # The old pinion sat where its own mark asked.
    base = nominal + old_mark - old if item is CARTRIDGE else nominal + old_mark + old
    found = by_old_shim(item, old, old_mark=old_mark, new_mark=new_mark)
    assert Rig(item, base).distance(found.thickness) == pytest.approx(nominal + new_mark)


@pytest.mark.parametrize("item", [i for i in every_layout() if i.ring_side is Side.LEFT])
def test_depth_error_is_positive_when_too_deep(item):
    rig = Rig(item, 97.0)
    wanted, fitted = 0.5, 0.6
    too_near = rig.distance(wanted) - rig.distance(fitted)
    assert depth_error(item, fitted, wanted) == pytest.approx(too_near)


@given(st.sampled_from(KINDS), st.floats(0.6, 2.0), st.floats(0, 0.5), small)
def test_the_lines_of_the_sum_add_up(item, trial, growth, mark):
    found = by_gauge_block(item, trial, growth, mark)
    assert sum(term.value for term in found.terms) == pytest.approx(found.thickness)
    assert found.terms[0].value == trial


def test_uncertainty_of_a_feeler_gum_4_3_7():
    # JCGM 100:2008, 4.3.7 and 5.1.2: steps of 1 thou and ½ thou, rectangular, in quadrature.
    expected = math.hypot(THOU, 0.5 * THOU) / math.sqrt(12)
    found = by_gauge_block(HEAD, 0.0, 0.75, 0.0)
    assert found.uncertainty == pytest.approx(expected)


@pytest.mark.parametrize(
    ("call", "words"),
    [
        (lambda: by_gauge_block(HEAD, 0.0, 0.2, 0.5), "readings that ask for -0.300 mm was given"),
        (lambda: by_gauge_block(CARTRIDGE, 0.0, 0.2, 0.0), "Check the sign of the mark"),
        (
            lambda: by_bar(HEAD, 0, bar_offset=0, stack=90, gap=0.1, nominal=0, mark=0),
            "nominal mounting distance: 0 mm was given",
        ),
        (
            lambda: by_bar(HEAD, 0, bar_offset=0, stack=90, gap=-0.1, nominal=90, mark=0),
            "gap under the bar: -0.1 mm was given; 0 or more is wanted",
        ),
        (
            lambda: mark_deviation(96.4, MarkConvention.DISTANCE),
            "pinion mark: a distance of 96.4 mm was given",
        ),
    ],
)
def test_what_cannot_be_is_refused_in_words(call, words):
    with pytest.raises(AxleError) as refused:
        call()
    assert words in str(refused.value)
