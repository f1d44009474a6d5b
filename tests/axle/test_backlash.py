"""Backlash around the ring, its verdict, and the movement that corrects it."""

from __future__ import annotations

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from axle.backlash.around import Around, check_backlash, movement_for
from axle.backlash.ratios import Ratios, prior_ratios
from axle.errors import AxleError
from axle.gearset import GearSet, Stance
from axle.spec.limits import BacklashLimits, BacklashRule

THOU = 0.0254
readings = st.dictionaries(st.integers(1, 8), st.floats(0, 0.6), min_size=1)


def around(*thou: float) -> Around:
    return Around({place: value * THOU for place, value in enumerate(thou, start=1)})


def limits(low=7.0, high=11.0, spread=3.0, rule=BacklashRule.SMALLEST) -> BacklashLimits:
    return BacklashLimits(low * THOU, high * THOU, variation=spread * THOU, rule=rule)


@pytest.mark.parametrize(
    ("values", "rule", "level", "spread_ok"),
    [
        # Common practice, no source: the smallest governs, the spread bounds the rest, ends count.
        ((9, 9.5, 8.9, 9.2), BacklashRule.SMALLEST, "in range", True),
        ((7, 8, 7.5, 9), BacklashRule.SMALLEST, "in range", True),
        ((11, 12, 13, 14), BacklashRule.SMALLEST, "in range", True),
        ((11, 12, 13, 14.1), BacklashRule.SMALLEST, "in range", False),
        ((6.9, 9, 9, 9), BacklashRule.SMALLEST, "tight", True),
        ((11.3, 11.9, 11.6, 12.1), BacklashRule.SMALLEST, "loose", True),
        ((10, 10.5, 11, 11.4), BacklashRule.EVERY, "loose", True),
        ((7, 8, 9, 10), BacklashRule.EVERY, "in range", True),
        ((6.5, 8, 9, 9.5), BacklashRule.EVERY, "tight", True),
        # An average of 9 hides a tight spot.
        ((5, 11, 11, 9), BacklashRule.SMALLEST, "tight", False),
    ],
)
def test_verdicts(values, rule, level, spread_ok):
    verdict = check_backlash(around(*values), limits(rule=rule))
    assert (verdict.level, verdict.variation_ok) == (level, spread_ok)
    assert verdict.in_range == (level == "in range" and spread_ok)


def test_a_limit_in_one_unit_meets_a_reading_in_another():
    # 0.011 in is 0.2794 mm exactly: a reading typed so is in range, not over by binary rounding.
    assert check_backlash(Around({1: 0.2794}), limits()).level == "in range"
    assert check_backlash(Around({1: 11 * 0.0254}), BacklashLimits(0.1778, 0.2794, 0.1)).level == "in range"


@given(readings)
def test_summary_of_what_was_read(values):
    found = Around(values)
    assert found.smallest == min(values.values())
    assert found.largest == max(values.values())
    assert found.variation == pytest.approx(found.largest - found.smallest)
    assert values[found.tight_place] == found.smallest


@given(readings, st.floats(0.3, 1.1))
def test_the_planned_movement_brings_the_smallest_to_the_middle(values, per_ring):
    found, wanted = Around(values), limits()
    move = movement_for(found, wanted, Ratios(per_ring, -0.3, 0.1))
    assert found.smallest + per_ring * move == pytest.approx(wanted.middle)


@given(readings, st.floats(0.3, 1.1))
def test_where_every_place_must_be_in_the_middle_of_all_goes_to_the_middle(values, per_ring):
    found, wanted = Around(values), limits(rule=BacklashRule.EVERY)
    move = movement_for(found, wanted, Ratios(per_ring, -0.3, 0.1))
    middle = (found.smallest + found.largest) / 2
    assert middle + per_ring * move == pytest.approx(wanted.middle)


@given(readings)
def test_too_loose_moves_towards_the_pinion(values):
    found, wanted = Around(values), limits()
    level = check_backlash(found, wanted).level
    assume(level != "in range")
    move = movement_for(found, wanted, Ratios(0.8, -0.3, 0.1))
    assert (move < 0) == (level == "loose")


def test_rules_of_thumb():
    # Common practice, no source: to close 0.007 of backlash takes about 0.010 of shim moved from one
    # side to the other. The indicator's stance is not told, so compare with square to the flank.
    ratios = prior_ratios(GearSet(11, 41), Stance.SQUARE)
    found = around(16, 16, 16, 16)
    shim = abs(movement_for(found, limits(9, 9), ratios)) / THOU
    assert shim == pytest.approx(10, rel=0.15)


@pytest.mark.parametrize(
    ("call", "words"),
    [
        (lambda: Around({}), "no reading was given"),
        (lambda: Around({1: -0.01}), "a negative reading was given"),
        (lambda: limits(11, 7), "low to high is wanted"),
        (lambda: limits(-1, 7), "low to high is wanted"),
        (lambda: limits(spread=0), "backlash spread: 0 mm was given"),
    ],
)
def test_what_cannot_be_is_refused(call, words):
    with pytest.raises(AxleError) as refused:
        call()
    assert words in str(refused.value)
