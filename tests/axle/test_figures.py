"""Figures as they are typed, rows as they are kept, deliveries as they come: each against something outside."""

from __future__ import annotations

from datetime import date

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import constants

from axle.data_file import as_shape
from axle.errors import AxleError
from axle.gearing.tyres import Tread, from_loaded_radius, pair_share, read_size, read_tyre
from axle.gearing.vehicle import fields, problems, vehicle_from
from axle.measure.figures import (
    ANGLE,
    DISTANCE,
    LENGTH,
    MINUTES,
    PERCENT,
    PULSES,
    SCALES,
    SPEED,
    SPIN,
    TEMPERATURE,
    VOLUME,
    read_figure,
    read_number,
)
from axle.measure.parse import with_point
from axle.measure.units import share_percent, signed_percent
from axle.road.break_in import Leg, dated
from axle.schedule.delivery import chance_in_time, days_left
from axle.schedule.durations import assumptions

LITRE = 1e-3


@pytest.mark.parametrize(
    ("scale", "ours", "theirs"),
    [
        (SPEED, "mph", constants.mile / 1000),
        (DISTANCE, "miles", constants.mile / 1000),
        (DISTANCE, "m", 1e-3),
        (VOLUME, "qt", constants.gallon / 4 / LITRE),
        (VOLUME, "pt", constants.gallon / 8 / LITRE),
        (VOLUME, "fl oz", constants.fluid_ounce / LITRE),
        (VOLUME, "ml", 1e-3),
        (LENGTH, "in", constants.inch * 1000),
        (LENGTH, "ft", constants.foot * 1000),
        (LENGTH, "cm", 10.0),
        (MINUTES, "h", 60.0),
    ],
)
def test_units_are_those_of_a_reference_package(scale, ours, theirs):
    # scipy.constants: international yard and pound, US liquid measures.
    assert read_figure(f"3 {ours}", scale, "figure") == pytest.approx(3 * theirs, rel=1e-9)


@given(st.floats(-60, 390))
def test_degrees_are_those_of_a_reference_package(celsius):
    shown = constants.convert_temperature(celsius, "Celsius", "Fahrenheit")
    assert read_figure(f"{shown:.6f} °F", TEMPERATURE, "t") == pytest.approx(celsius, abs=1e-5)


@given(st.sampled_from(sorted(SCALES)), st.floats(0.001, 0.999))
def test_what_is_shown_is_read_again_in_either_unit(name, share):
    scale = SCALES[name]
    value = scale.low + share * (scale.high - scale.low)
    for metric in (True, False):
        shown = scale.show(value, metric=metric, decimals=6).replace(",", "")
        again = read_figure(shown, scale, name)
        assert again == pytest.approx(value, rel=1e-5, abs=1e-4)


@pytest.mark.parametrize(
    "scale", [SPEED, DISTANCE, TEMPERATURE, VOLUME, LENGTH, ANGLE, SPIN, PERCENT, PULSES]
)
@pytest.mark.parametrize(
    "text", ["", " ", "one", "1 2", "--3", "1.2.3", "٣", "1e3", "inf", "3 furlongs", "3" * 50]
)
def test_what_is_no_figure_is_refused_with_its_units(scale, text):
    with pytest.raises(AxleError) as problem:
        read_figure(text, scale, "figure")
    assert "is wanted" in str(problem.value)


def test_a_comma_is_a_point_where_it_can_only_be_one():
    assert read_figure("2,3 l", VOLUME, "oil") == pytest.approx(2.3)
    assert with_point("1,200") == "1,200"  # it may be thousands
    with pytest.raises(AxleError):
        read_figure("1,200 rpm", SPIN, "limit")
    assert read_number("0,83", "gear", 0.3, 20) == pytest.approx(0.83)


def test_figures_are_shown_in_the_readers_own_unit_first():
    assert TEMPERATURE.both(100) == "100 °C (212 °F)"
    assert TEMPERATURE.both(100, metric=False) == "212 °F (100 °C)"
    assert SPIN.both(1500) == "1,500 rpm"
    assert DISTANCE.number(804.672, metric=False) == "500"


def test_changes_and_shares_are_written_with_their_sign():
    assert signed_percent(-0.0004) == "0.0 %"
    assert signed_percent(0.00274, 2) == "+0.27 %"
    assert share_percent(1.5) == "150 %"


def test_rows_that_do_not_fit_are_named_by_their_place():
    for values, said in (
        ({"title": "One", "minutes": 900}, "at most 600"),
        ({"title": "O"}, "2 characters"),
        ({"title": "One", "day": -1}, "0 or more"),
        ({"title": "One", "minutes": "long"}, "minutes"),
        ({}, "title"),
        ([], "object"),
    ):
        with pytest.raises(AxleError) as problem:
            as_shape("leg", values, Leg)
        assert "is wanted" in str(problem.value)
        assert said in str(problem.value) or "a row of its kind" in str(problem.value)
    assert as_shape("leg", {"title": "One", "minutes": 20}, Leg).minutes == 20


def test_a_delivery_in_time_is_as_often_as_in_draws():
    # The plan's own draws: a supplier's and a delivery's factor, both lognormal with mean 1.
    random, width = np.random.default_rng(5), assumptions().width
    factor = np.ones(200_000)
    for std in (width.supplier, width.delivery):
        factor = factor * np.exp(std * random.standard_normal(len(factor)) - std**2 / 2)
    for days, until in ((4, 3), (4, 4), (4, 6), (10, 9), (1, 2), (0, 1)):
        came = np.mean(days + max(days, 1) * (factor - 1) <= until)
        assert chance_in_time(days, until) == pytest.approx(came, abs=0.012)


def test_a_delivery_that_is_wanted_before_it_is_ordered_never_comes_in_time():
    assert chance_in_time(3, 0) == chance_in_time(3, -5) == 0
    with pytest.raises(AxleError):
        chance_in_time(-1, 5)
    assert days_left(date(2026, 12, 5), date(2026, 12, 5)) < 0


@given(st.integers(0, 60), st.integers(1, 60))
def test_more_time_is_never_a_smaller_chance(days, until):
    assert chance_in_time(days, until + 1) >= chance_in_time(days, until)


def test_a_loaded_radius_lies_between_the_size_and_what_it_rolls():
    size = read_size("265/70R17")
    rolls = from_loaded_radius(size, 380, Tread.NEW)
    assert 2 * 3.14159 * 380 < rolls.value < 3.14159 * size.diameter
    for wrong in (0, 200, 500):
        with pytest.raises(AxleError):
            from_loaded_radius(size, wrong)
    assert read_tyre("265/70R17, 380 mm loaded", Tread.NEW).value == pytest.approx(rolls.value)


def test_measured_tyres_err_apart_and_tyres_of_one_size_together():
    size, rolled = read_tyre("265/70R17"), read_tyre("24.1 m in 10 turns")
    assert pair_share(size, size) < size.share
    assert pair_share(rolled, rolled) == pytest.approx(rolled.share * 2**0.5)
    assert pair_share(size, rolled) > pair_share(rolled, rolled)


@pytest.mark.parametrize("name", sorted(fields()))
def test_every_field_of_a_vehicle_takes_its_own_example_and_refuses_half_of_it(name):
    field = fields()[name]
    examples = {
        "tyre": "265/70R17",
        "ratio": "41/11",
        "range": "3.08 to 3.73",
        "gears": "3.59 2.19 1.41 1 0.83",
        "curve": "1500:210, 2500:320",
        "choice": next(iter(field.values), ""),
        "number": f"{(field.low + field.high) / 2:.0f}" if field.whole else "1",
        "figure": f"{(field.low + field.high) / 2:.1f}",
    }
    more = {"drive_teeth": "8", "driven_teeth": "19"} if name in ("drive_teeth", "driven_teeth") else {}
    assert problems(more | {name: examples[field.kind]}) == {}
    assert name in problems({name: f"{examples[field.kind]} of it"})
    assert name in problems({name: "x" * 121})


def test_a_shaft_is_known_once_all_three_figures_are():
    sizes = {"shaft_rear_length": "55 in", "shaft_rear_outside": "3 in"}
    assert not vehicle_from(sizes).shafts
    whole = vehicle_from(sizes | {"shaft_rear_wall": "0.083 in"})
    (shaft,) = whole.shafts.values()
    assert shaft.tube.length == pytest.approx(1397)
    assert shaft.angles is None


def test_legs_by_distance_take_as_long_as_the_car_is_driven():
    legs = [Leg("One", minutes=20), Leg("Two", km=100, day=1), Leg("Three", km=50, day=1, check=True)]
    for a_day, days in ((10, 16), (50, 4), (1000, 3)):
        found = dated(legs, date(2026, 12, 1), a_day=a_day)
        assert (found.legs[-1].due - date(2026, 12, 1)).days == days
        assert found.check.number == 3
        assert found.driven == 0
