"""Fasteners: stress areas and proof loads against the standards' tables, order, stages, questions."""

from __future__ import annotations

import math
from decimal import Decimal
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from axle.errors import AxleError
from axle.fasteners.groups import (
    SHAPES,
    corrected_group,
    tightening_order,
    torque_sheet,
)
from axle.fasteners.signing import Tightened, check_next, open_torques, stand_torques
from axle.fasteners.threads import (
    adapter_setting,
    clamp,
    classes,
    plausible_torque,
    proof_load,
    proof_stress,
    thread_named,
    threads,
)
from axle.layout import CarrierBy, DepthShim, Hand, Housing, Layout, Place, PreloadBy, every_layout
from axle.measure.units import FOOT_POUND, IMPERIAL, METRIC
from axle.procedure.choices import Build
from axle.spec.sheet import Sheet, spec_value

BARE = Sheet("bare", {})
SLEEVE = Layout(DepthShim.HEAD, PreloadBy.SLEEVE, CarrierBy.OUTBOARD)
FT_LB = float(FOOT_POUND.factor)
SHIMS = Layout(DepthShim.HEAD, PreloadBy.SPACER, CarrierBy.OUTBOARD)
ADJUSTERS = Layout(
    DepthShim.CARTRIDGE, PreloadBy.SLEEVE, carrier_by=CarrierBy.ADJUSTERS, housing=Housing.DROP_OUT
)


@pytest.mark.parametrize(
    ("name", "area"),
    [
        # ISO 898-1:2013, tables 4 and 6: nominal stress areas [mm²] (from memory).
        ("M6x1", 20.1),
        ("M8x1.25", 36.6),
        ("M10x1.5", 58.0),
        ("M12x1.75", 84.3),
        ("M14x2", 115),
        ("M16x2", 157),
        ("M18x2.5", 192),
        ("M20x2.5", 245),
        ("M22x2.5", 303),
        ("M24x3", 353),
        ("M27x3", 459),
        ("M30x3.5", 561),
        ("M8x1", 39.2),
        ("M10x1.25", 61.2),
        ("M10x1", 64.5),
        ("M12x1.25", 92.1),
        ("M12x1.5", 88.1),
        ("M14x1.5", 125),
        ("M16x1.5", 167),
        ("M18x1.5", 216),
        ("M20x1.5", 272),
        ("M22x1.5", 333),
        ("M24x2", 384),
        ("M27x2", 496),
        ("M30x2", 621),
    ],
)
def test_thread_stress_area_iso_898_1(name, area):
    # The tables are rounded to three figures.
    assert thread_named(name).stress_area == pytest.approx(area, rel=0.004)


@pytest.mark.parametrize(
    ("name", "square_inches"),
    [
        # ASME B1.1 / SAE J429 table of stress areas [in²] (from memory).
        ("1/4-20", 0.0318),
        ("1/4-28", 0.0364),
        ("5/16-18", 0.0524),
        ("5/16-24", 0.0580),
        ("3/8-16", 0.0775),
        ("3/8-24", 0.0878),
        ("7/16-14", 0.1063),
        ("7/16-20", 0.1187),
        ("1/2-13", 0.1419),
        ("1/2-20", 0.1599),
        ("9/16-12", 0.182),
        ("9/16-18", 0.203),
        ("5/8-11", 0.226),
        ("5/8-18", 0.256),
        ("3/4-10", 0.334),
        ("3/4-16", 0.373),
        ("7/8-9", 0.462),
        ("7/8-14", 0.509),
        ("1-8", 0.606),
        ("1-12", 0.663),
        ("1-14", 0.679),
        ("1-1/8-12", 0.856),
        ("1-1/4-12", 1.073),
    ],
)
def test_thread_stress_area_asme_b1_1(name, square_inches):
    assert thread_named(name).stress_area / 645.16 == pytest.approx(square_inches, rel=0.003)


@pytest.mark.parametrize(
    ("name", "grade", "newtons"),
    [
        # ISO 898-1:2013, tables 5 and 7: proof loads [N] (from memory).
        ("M6x1", "8.8", 11_600),
        ("M8x1.25", "8.8", 21_200),
        ("M10x1.5", "8.8", 33_700),
        ("M12x1.75", "8.8", 48_900),
        ("M16x2", "8.8", 91_000),
        ("M20x2.5", "8.8", 147_000),
        ("M24x3", "8.8", 212_000),
        ("M8x1.25", "10.9", 30_400),
        ("M10x1.5", "10.9", 48_100),
        ("M12x1.75", "10.9", 70_000),
        ("M16x2", "10.9", 130_000),
        ("M20x2.5", "10.9", 203_000),
        ("M10x1.5", "12.9", 56_300),
        ("M12x1.75", "12.9", 81_800),
        ("M16x2", "12.9", 152_000),
        ("M10x1.25", "10.9", 50_800),
        ("M12x1.25", "10.9", 76_400),
    ],
)
def test_proof_load_iso_898_1(name, grade, newtons):
    # The table works with areas rounded to three figures, and rounds again.
    assert proof_load(thread_named(name), grade) == pytest.approx(newtons, rel=0.01)


@pytest.mark.parametrize(
    ("name", "grade", "pounds"),
    [
        # SAE J429 table: proof loads [lbf] (from memory).
        ("1/4-20", "grade 5", 2_700),
        ("3/8-16", "grade 5", 6_600),
        ("3/8-24", "grade 5", 7_450),
        ("7/16-14", "grade 5", 9_050),
        ("1/2-13", "grade 5", 12_100),
        ("5/8-11", "grade 5", 19_200),
        ("3/8-16", "grade 8", 9_300),
        ("3/8-24", "grade 8", 10_500),
        ("7/16-14", "grade 8", 12_800),
        ("7/16-20", "grade 8", 14_200),
        ("1/2-13", "grade 8", 17_000),
        ("1/2-20", "grade 8", 19_200),
        ("5/8-11", "grade 8", 27_100),
    ],
)
def test_proof_load_sae_j429(name, grade, pounds):
    assert proof_load(thread_named(name), grade) / 4.4482216 == pytest.approx(pounds, rel=0.006)


def test_proof_stress_steps_at_its_diameter():
    assert proof_stress("8.8", 16.0) == 580
    assert proof_stress("8.8", 18.0) == 600
    assert proof_stress("grade 5", 25.4) == pytest.approx(85 * 6.894757, rel=1e-6)
    assert proof_stress("grade 5", 28.575) == pytest.approx(74 * 6.894757, rel=1e-6)


@pytest.mark.parametrize(
    ("typed", "name"), [("m10", "M10x1.5"), ("M12 x 1.25", "M12x1.25"), ("3/8-24 UNF", "3/8-24")]
)
def test_threads_are_found_as_builders_write_them(typed, name):
    assert thread_named(typed).name == name


@pytest.mark.parametrize("typed", ["", "M11", "3/8", "7/16-13", "loose"])
def test_a_thread_that_is_none_is_refused(typed):
    with pytest.raises(AxleError, match="diameter and pitch"):
        thread_named(typed)


def test_a_class_or_factor_that_is_none_is_refused():
    with pytest.raises(AxleError, match=r"8\.8, 10\.9"):
        proof_stress("9.8", 10)
    with pytest.raises(AxleError, match=r"0\.08 to 0\.4"):
        clamp(50, thread_named("M10"), 0.9)


@pytest.mark.parametrize(
    ("thread", "grade", "low", "high"),
    [
        # Usual figures of the trade in ft·lb (common practice, no source): none of them is questioned.
        ("3/8-24", "grade 8", 55, 65),
        ("7/16-14", "grade 8", 45, 65),
        ("1/2-13", "grade 8", 80, 100),
        ("5/16-18", "grade 5", 20, 25),
        ("7/16-20", "grade 8", 95, 102),
        ("M10", "10.9", 43, 43),
    ],
)
def test_usual_torques_are_plausible_and_twelve_times_as_much_is_not(thread, grade, low, high):
    limits = plausible_torque(thread_named(thread), grade)
    assert limits.low <= low * FT_LB
    assert high * FT_LB <= limits.high
    for wrong in (12 * low, high / 12):
        assert limits.side(wrong * FT_LB) != "in range"


@given(st.floats(1, 500), st.floats(100, 900), st.floats(0, 90), st.floats(0, math.pi))
def test_an_adapter_in_line_takes_less_and_square_changes_nothing(wanted, length, adapter, angle):
    setting = adapter_setting(wanted, length, adapter, angle)
    # The force at the grip is the same in both: moments about the bolt (statics).
    force = setting / length
    assert force * (length + adapter * math.cos(angle)) == pytest.approx(wanted)
    assert adapter_setting(wanted, length, adapter, math.pi / 2) == pytest.approx(wanted)


def test_an_adapter_that_cannot_be_is_refused():
    with pytest.raises(AxleError, match="above 0"):
        adapter_setting(100, 0, 50)
    with pytest.raises(AxleError, match="past the grip"):
        adapter_setting(100, 40, 50, math.pi)


@given(st.sampled_from([s for s in SHAPES if s != "single"]), st.integers(2, 40))
def test_every_bolt_is_tightened_once(shape, count):
    assert sorted(tightening_order(shape, count)) == list(range(1, count + 1))


@given(st.integers(5, 40))
def test_a_star_goes_across(count):
    # Common practice, no source: the next bolt is never a neighbour.
    order = tightening_order("circle", count)
    for one, two in pairwise(order):
        apart = abs(one - two) % count
        assert min(apart, count - apart) >= max(count // 4, 2), order


def test_four_five_and_ten_bolts_as_the_trade_draws_them():
    # Common practice, no source.
    assert tightening_order("circle", 4) == (1, 3, 2, 4)
    assert tightening_order("circle", 5) == (1, 3, 5, 2, 4)
    assert tightening_order("circle", 10)[:2] == (1, 6)


def groups_of(layout, sheet=None, corrected=None, **chosen):
    return torque_sheet(Build(layout, True, chosen).facts, sheet or Sheet("x", {}), corrected)


@pytest.mark.parametrize("layout", every_layout()[::23], ids=str)
def test_every_axle_has_its_bolts_and_no_others(layout):
    names = {group.group for group in groups_of(layout)}
    assert {"ring", "nut", "plugs"} <= names
    assert ("cartridge" in names) == (layout.depth_shim is DepthShim.CARTRIDGE)
    assert ("locks" in names) == layout.has_adjusters
    assert ("side_covers" in names) == (layout.carrier_by is CarrierBy.COVERS)
    assert ("caps" in names) == (layout.carrier_by is not CarrierBy.COVERS)
    ring = groups_of(layout)[0]
    assert (ring.hand == "left") == (layout.bolt_hand is Hand.LEFT)


def test_no_usual_torque_of_the_sheet_is_questioned():
    for layout in (SHIMS, ADJUSTERS):
        for group in groups_of(layout, cover="load_bolts") if layout is SHIMS else groups_of(layout):
            for stage in group.targets(IMPERIAL):
                for torque in (stage.wanted.low, stage.wanted.high):
                    assert group.question(torque, "") == "", group.group


def test_inch_pounds_and_foot_pounds_are_told_apart():
    ring = groups_of(SHIMS)[0]
    assert "in in·lb, not ft·lb" in ring.question(720 * FT_LB, "720 ft·lb")
    assert "in ft·lb, not in·lb" in ring.question(60 / 12 * FT_LB, "60 in·lb")
    assert "12 in·lb are 1 ft·lb" in ring.question(60 / 12 * FT_LB, "60 in·lb")


def test_the_sheet_s_figure_comes_before_the_usual_one():
    sheet = Sheet(
        "x",
        {"ring_bolt_torque": spec_value("ring_bolt_torque", "70", high="80", unit="ft·lb", source="maker")},
    )
    ring = groups_of(SHIMS, sheet)[0]
    assert ring.wanted.low == pytest.approx(70 * FT_LB)
    assert "maker" in ring.source
    assert "common practice" in groups_of(SHIMS)[0].source


def test_stages_rise_to_full_torque_and_end_with_a_check():
    ring = groups_of(SHIMS)[0]
    stages = ring.targets(IMPERIAL)
    assert [s.words for s in stages] == ["50%", "75%", "full torque", "check pass"]
    assert [s.figures for s in stages] == ["27–33", "41–49", "55–65", "55–65"]
    assert ring.targets(METRIC)[0].figures.startswith("37")


@pytest.mark.parametrize(
    ("given_", "words"),
    [
        ({"thread": "M11"}, "diameter and pitch"),
        ({"count": 0}, "1 to 40"),
        ({"grade": "soft"}, r"8\.8"),
        ({"hand": "both"}, "right or left"),
        ({"low": 80.0, "high": 20.0}, "a lower and a higher"),
    ],
)
def test_a_correction_that_cannot_be_is_refused(given_, words):
    with pytest.raises(AxleError, match=words):
        corrected_group(groups_of(SHIMS)[0], given_)


def tightened(group, stage, order, settings=None):
    return Tightened(group, stage, torque=80.0, order=order, settings=settings or {})


def stand(signed, layout=SHIMS, settings=None):
    return stand_torques(
        groups_of(layout), signed, layout=layout, settings=settings or {}, display=IMPERIAL
    )


def test_a_stage_waits_for_the_one_under_it_and_a_group_for_the_one_before():
    with pytest.raises(AxleError, match="75% first"):
        check_next(stand([tightened("ring", 1, 1)]), "ring", 3)
    assert check_next(stand([tightened("ring", 1, 1)]), "ring", 2).stage.words == "75%"
    with pytest.raises(AxleError, match="bearing caps first"):
        check_next(stand([], ADJUSTERS), "locks", 1)
    with pytest.raises(AxleError, match="a group of this job"):
        check_next(stand([]), "roof", 1)
    with pytest.raises(AxleError, match="1 to 4"):
        check_next(stand([]), "ring", 9)


def test_a_stage_signed_again_voids_those_above_it():
    ring = stand([tightened("ring", n, n) for n in (1, 2, 3, 4)])[0]
    assert ring.is_done
    again = stand([*(tightened("ring", n, n) for n in (1, 2, 3, 4)), tightened("ring", 1, 9)])[0]
    assert not again.is_done
    assert again.next_stage.stage.number == 2


def test_a_change_makes_torques_stale_and_says_why():
    done = [tightened("ring", n, n) for n in (1, 2, 3, 4)]
    ring = stand(done, settings={Place.CLOCK: Decimal(4)})[0]
    assert ring.next_stage.stale == "the ring gear was re-clocked"
    assert "stale, the ring gear was re-clocked" in open_torques([ring])[0]


def test_every_thread_and_class_computes():
    for thread in threads().values():
        for grade in classes():
            assert plausible_torque(thread, grade).low > 0
