"""Spec sheets, starter sheets, and a whole spec as plain data."""

from __future__ import annotations

import copy
import math
from decimal import Decimal

import pytest

from axle.errors import AxleError
from axle.layout import CarrierBy, DepthShim, PreloadBy
from axle.measure.range import Range
from axle.measure.units import INCH_POUND, THOU, Dimension
from axle.spec.limits import BacklashRule
from axle.spec.reader import LAYOUT_CHOICES, choice_words, read_spec, starter_specs
from axle.spec.sheet import SOURCE_WORDS, Sheet, Source, SpecValue, spec_keys, spec_value


def sheet(**values) -> Sheet:
    return Sheet("test", {key: spec_value(key, *row) for key, row in values.items()})


def test_a_range_in_the_core_s_unit():
    found = sheet(backlash=("7", "11", "thou", "maker")).range("backlash")
    assert found.low == pytest.approx(0.1778)
    assert found.high == pytest.approx(0.2794)
    assert found.middle == pytest.approx(0.2286)


@pytest.mark.parametrize(
    ("value", "side"),
    # Limits are inclusive, whatever the unit of limit and reading (common practice, no source).
    [(0.1778, "in range"), (0.2794, "in range"), (7 * 0.0254, "in range"), (0.17, "under"), (0.28, "over")],
)
def test_limits_are_inclusive(value, side):
    assert sheet(backlash=("7", "11", "thou", "maker")).range("backlash").side(value) == side


def test_open_ends():
    found = sheet(ring_runout=(None, "6", "thou", "maker"), cap_torque=("50", None, "ft-lb", "maker"))
    assert found.range("ring_runout").low == 0.0
    assert found.range("cap_torque").high == math.inf
    assert found.range("backlash") is None
    assert found.single("ring_runout") == pytest.approx(0.1524)
    assert found.single("backlash") is None


def test_every_value_says_where_it_comes_from():
    found = sheet(
        backlash=("7", "11", "thou", "maker", "page 12"), backlash_spread=(None, "3", "thou", "demo")
    )
    assert found.source("backlash") == "maker's sheet, page 12"
    assert found.source("backlash_spread") == "made up for the demo"
    assert found.source("cap_torque") == "not on the sheet"
    assert set(SOURCE_WORDS) == set(Source)


def test_backlash_limits_with_and_without_spread():
    both = sheet(backlash=("7", "11", "thou", "demo"), backlash_spread=(None, "3", "thou", "demo"))
    assert both.backlash_limits().variation == pytest.approx(0.0762)
    assert sheet(backlash=("7", "11", "thou", "demo")).backlash_limits().variation == math.inf
    assert sheet().backlash_limits() is None


@pytest.mark.parametrize(
    ("row", "words"),
    [
        (("backlash", "11", "7", "thou", "demo"), "the lower figure first is wanted"),
        (("backlash", "-1", "7", "thou", "demo"), "limit: -1 thou was given; 0 or more"),
        (("backlash", "tight", "7", "thou", "demo"), "“tight” was given; a number such as 8.5"),
        (("backlash", "nan", "7", "thou", "demo"), "a number such as 8.5"),
        (("backlash", "7", "9e99", "thou", "demo"), "a number such as 8.5"),
        (("backlash", "7", "11", "furlong", "demo"), "the unit “furlong” was given"),
        (("backlash", "7", "11", "thou", "hearsay"), "source: “hearsay” was given"),
        (("horn", "7", "11", "thou", "demo"), "spec sheet: “horn” was given"),
    ],
)
def test_a_value_that_cannot_be_is_refused(row, words):
    with pytest.raises(AxleError) as refused:
        spec_value(*row)
    assert words in str(refused.value)


@pytest.mark.parametrize(
    ("values", "words"),
    [
        ({"horn": SpecValue(None, Decimal(1), unit=THOU, source=Source.DEMO)}, "“horn” was given"),
        (
            {"backlash": SpecValue(None, Decimal(1), unit=INCH_POUND, source=Source.DEMO)},
            "Backlash at the heel: a value in in·lb was given; a length is wanted",
        ),
    ],
)
def test_a_sheet_that_cannot_be_is_refused(values, words):
    with pytest.raises(AxleError) as refused:
        Sheet("x", values)
    assert words in str(refused.value)


def test_every_starter_sheet_reads_and_says_it_is_made_up():
    for name, data in starter_specs().items():
        spec = read_spec(data)
        assert spec.sheet.name == data["name"], name
        assert {value.source for value in spec.sheet.values.values()} == {Source.DEMO}
        assert spec.sheet.backlash_limits() is not None
        assert spec.sheet.range("pinion_preload_new").low > spec.sheet.range("pinion_preload_used").low


def test_starters_cover_the_kinds_of_layout():
    layouts = [read_spec(data).layout for data in starter_specs().values()]
    assert {item.depth_shim for item in layouts} == set(DepthShim)
    assert {item.preload_by for item in layouts} == set(PreloadBy)
    assert {item.carrier_by for item in layouts} == set(CarrierBy)


@pytest.mark.parametrize("name", ["pinion_preload_new", "pinion_preload_used"])
def test_used_bearings_run_at_about_half(name):
    # Common practice, no source: used bearings run at about half the torque of new ones.
    found = read_spec(starter_specs()["works-van"]).sheet
    ratio = found.range("pinion_preload_used").middle / found.range("pinion_preload_new").middle
    assert 0.4 <= ratio <= 0.6
    assert spec_keys()[name].dimension is Dimension.TORQUE


@pytest.mark.parametrize(
    ("path", "value", "words"),
    [
        (("layout", "depth_shim"), "roof", "depth shim: “roof” was given; head or cup or cartridge"),
        (("layout", "carrier_by"), "covers", "side-cover shims in a housing of the kind “integral”"),
        (("gears", "ring_teeth"), "many", "ring teeth: “many” was given; a whole number of teeth"),
        (("gears", "face_width"), "wide", "face width: “wide” was given; a number is wanted"),
        (("gears", "family"), "worm", "family of cut: “worm” was given; large_cutter or"),
        (("gears", "pinion_teeth"), 2, "pinion teeth: 2 was given"),
        (("layout",), 7, "layout: nothing usable was given"),
        (("backlash_rule",), "mean", "backlash rule: “mean” was given; smallest or every"),
        (("stance",), "", "stance: “” was given"),
        (
            ("values", "backlash"),
            {"low": "9", "high": "7", "unit": "thou", "source": "demo"},
            "lower figure",
        ),
    ],
)
def test_a_bad_spec_is_refused_naming_the_entry(path, value, words):
    data = copy.deepcopy(starter_specs()["works-van"])
    inner = data
    for part in path[:-1]:
        inner = inner[part]
    inner[path[-1]] = value
    with pytest.raises(AxleError) as refused:
        read_spec(data)
    assert words in str(refused.value)


def test_angles_come_in_degrees_and_rules_as_words():
    data = copy.deepcopy(starter_specs()["works-van"]) | {"backlash_rule": "every"}
    spec = read_spec(data)
    assert spec.gears.drive_angle == pytest.approx(math.radians(15))
    assert spec.sheet.backlash_rule is BacklashRule.EVERY


def test_every_choice_has_words():
    for name, kind in LAYOUT_CHOICES.items():
        assert {member.value for member in kind} <= set(choice_words()[name])


def test_a_range_says_its_side():
    assert Range(1.0, 2.0).side(1.5) == "in range"
    assert Range(1.0, 2.0).side(2.0 + 1e-12) == "in range"
