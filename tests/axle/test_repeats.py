"""Readings of one thing taken again: critical ranges, published outliers, humps, and what asks for one more."""

from __future__ import annotations

import pytest
from scipy.stats import studentized_range

from axle.errors import AxleError
from axle.measure.repeats import CRITICAL_RANGE, LENGTH_SLIPS, MOST, TORQUE_SLIPS, brought_together
from axle.state.reading import Reading, average_repeats

# W. J. Dixon, Ratios involving extreme values (1951), with the values that textbooks use for his test of one
# outlier: 0.167 is rejected at 90 %.
DIXON = (0.189, 0.167, 0.187, 0.183, 0.186, 0.182, 0.181, 0.184, 0.181, 0.177)


@pytest.mark.parametrize("count", sorted(CRITICAL_RANGE))
def test_critical_ranges_are_those_of_the_studentized_range(count):
    # ISO 5725-6:1994, table 1: the 95 % point of the range of n normal results, in standard deviations.
    assert CRITICAL_RANGE[count] == pytest.approx(studentized_range.ppf(0.95, count, 1e7), abs=0.06)


def test_within_the_critical_range_the_mean_counts():
    told = brought_together([0.2000, 0.2165], 0.006)
    assert told.agrees
    assert told.value == pytest.approx(0.20825)
    assert not brought_together([0.2000, 0.2172], 0.006).agrees


def test_a_published_outlier_does_not_average_in():
    rest = [value for value in DIXON if value != 0.167]
    told = brought_together(DIXON, 0.0033)
    assert not told.agrees
    assert told.value == pytest.approx(sum(rest) / len(rest), abs=0.001)


@pytest.mark.parametrize("slip", [slip for slip in LENGTH_SLIPS if slip > 0.1])
def test_a_named_slip_leaves_two_humps_until_one_more_tells(slip):
    two = brought_together([0.2032, 0.2032 + slip], 0.006)
    assert two.wants_more
    assert len(two.humps) > 1
    assert sum(hump.probability for hump in two.humps) == pytest.approx(1.0, abs=0.02)
    three = brought_together([0.2032, 0.2032 + slip, 0.2062], 0.006)
    assert three.value == pytest.approx(0.2047, abs=0.002)
    assert not three.wants_more


def test_two_that_differ_a_little_too_much_ask_for_one_more():
    # ISO 5725-6, 5.2.2: beyond 2.8 standard deviations one more is taken, whatever the two may be of.
    told = brought_together([0.2032, 0.2286], 0.006)
    assert not told.agrees
    assert told.wants_more


def test_never_the_closest_two_alone_are_kept():
    # Three in a row, none far out: beyond the critical range all of them still count.
    told = brought_together([0.200, 0.204, 0.226], 0.006)
    assert not told.agrees
    assert told.value > 0.2025


def test_after_four_the_median_stands_for_readings_that_do_not_agree():
    told = brought_together([2.0, 2.6, 3.2, 3.8], 0.05, TORQUE_SLIPS)
    assert not told.agrees
    assert told.scatters
    assert not told.wants_more
    assert told.value == pytest.approx(2.9)
    assert MOST == 4


def test_what_was_read_before_a_load_is_not_mixed_with_what_was_read_after_it():
    first = Reading("total_torque", 1, value=3.0, order=1, assembly=1, settings={})
    again = Reading(
        "total_torque", 1, value=2.9, order=5, assembly=1, settings={}, conditions={"again": True}
    )
    assert len(average_repeats([first, again])) == 1
    assert [t.value for t in average_repeats([first, again], loads=[3])] == [3.0, 2.9]


@pytest.mark.parametrize(("values", "std"), [((), 0.01), ((1.0,), 0.0)])
def test_nothing_to_bring_together_is_refused(values, std):
    with pytest.raises(AxleError):
        brought_together(values, std)
