"""Ratio, tyres, speedometer, driveshaft: held to published figures and to laws that hold for every car."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.integrate import solve_ivp

from axle.errors import AxleError
from axle.gearing.both_ends import Agreement, Centre, both_ends, ratio_match
from axle.gearing.compare import AxleFacts, DrawbackKind, compare, every_gear, restoring, wanted_ratio
from axle.gearing.counted import Count, Wheels, from_counted_turns, from_tag, from_teeth
from axle.gearing.fits import CarrierFit, carrier_fit, check_order, order_questions, passes
from axle.gearing.lines import Answered, Chosen, LookedUp, Teeth, ratio_standing, read_ratio_line
from axle.gearing.offers import Offer, pairs_near, read_offers, read_pair, read_ratio
from axle.gearing.recommend import recommend, what_else_changes
from axle.gearing.shaft import JointAngle, Tube, equal_angle, joint_acceleration, judge_shaft
from axle.gearing.speedometer import (
    Sensor,
    Shown,
    corrected,
    drive_gears,
    pulses_after,
    scale_factor,
    shown_after,
)
from axle.gearing.speeds import Driveline, TorqueCurve, best_pull, ratio_for, restoring_ratio
from axle.gearing.strength import overlap
from axle.gearing.teeth import Meeting, TeethMeeting
from axle.gearing.tyres import Tread, from_size, from_turns, read_size, read_tyre
from axle.gearing.vehicle import End, fields, problems, vehicle_from
from axle.gearset import GearSet
from axle.measure.figures import SPEED, TEMPERATURE, VOLUME, read_figure
from axle.measure.uncertainty import Measured

RATIO = st.floats(2.0, 7.5)
ROLLS = st.floats(1500.0, 3300.0)
CAR = {
    "tyre_front": "245/70R16",
    "tyre_front_new": "285/75R16",
    "ratio_front": "41/11",
    "ratio_rear": "41/11",
    "gears": "3.59 2.19 1.41 1 0.83",
    "transfer": "1 2.72",
    "idle": "750",
    "torque_peak": "1900",
    "limit": "4200",
    "cruise": "100",
    "sensor": "shaft",
    "carrier_rear": "3.08 to 3.73",
}


@pytest.mark.parametrize(
    ("size", "diameter"),
    # Overall diameters of the tyre standards' tables (ETRTO and TRA yearbooks), from memory [mm].
    [
        ("205/55R16", 632),
        ("265/70R17", 804),
        ("195/65 R 15", 635),
        ("LT245/75R16", 774),
        ("315/75R16", 878),
    ],
)
def test_a_size_gives_the_diameter_of_the_tyre_tables(size, diameter):
    assert read_size(size).diameter == pytest.approx(diameter, abs=1.5)


def test_rolling_circumference_of_205_55_r16_is_that_of_the_tyre_table():
    # ETRTO: 1.93 m for 205/55 R16 (from memory); π times the diameter would be 1.985 m.
    rolls = from_size(read_size("205/55R16"), Tread.NEW)
    assert rolls.value == pytest.approx(1930, rel=0.003)
    assert rolls.value < 0.975 * math.pi * read_size("205/55R16").diameter


def test_both_notations_name_tyres_of_one_height():
    # 31x10.50R15 and 265/75R15 are sold for one another (common practice, no source).
    assert read_size("31x10.50R15").diameter == pytest.approx(read_size("265/75R15").diameter, rel=0.02)
    assert read_size("31×10.5-15").construction == "bias"
    assert read_size("265/70-17").construction == "bias"
    assert read_size("265/70/17").construction == "radial"


def test_a_worn_tread_is_two_per_cent_and_wear_that_nobody_saw_widens():
    new, worn, unseen = (
        from_size(read_size("265/70R17"), t) for t in (Tread.NEW, Tread.WORN, Tread.UNKNOWN)
    )
    assert worn.value / new.value == pytest.approx(0.98)
    assert unseen.share > new.share


def test_a_rolled_distance_is_the_closer_the_more_turns():
    assert from_turns(2410 * 10, 10).share < from_turns(2410 * 2, 2).share
    assert read_tyre("39.5 ft in 5 turns").value == pytest.approx(39.5 * 304.8 / 5)
    assert read_tyre("415 /km").turns_per_km == pytest.approx(415)


@pytest.mark.parametrize(
    "text",
    [
        "1/0R16",
        "0/0R0",
        "265",
        "",
        "265/70R17R",
        "99x99R99",
        "-3 m in 2 turns",
        "12 m in 0 turns",
        "20/5R99",
    ],
)
def test_a_tyre_that_is_none_is_refused_with_the_forms_that_are_read(text):
    with pytest.raises(AxleError) as problem:
        read_tyre(text)
    assert "is wanted" in str(problem.value)


@pytest.mark.parametrize("text", ["65 mph 3", "65 km/h mph", "abc", "1e9", "nan", "∞", "-5", "3 ft 2 in"])
def test_a_speed_that_is_none_is_refused_in_words(text):
    with pytest.raises(AxleError):
        read_figure(text, SPEED, "speed")


def test_units_of_figures_are_exact():
    # NIST SP 811, appendix B: mile, degree Fahrenheit, US quart.
    assert read_figure("100 mph", SPEED, "v") == pytest.approx(160.9344)
    assert read_figure("-40 °F", TEMPERATURE, "t") == pytest.approx(-40)
    assert read_figure("1 qt", VOLUME, "v") == pytest.approx(0.946352946)


def test_engine_speed_is_the_handbook_rule_in_its_own_units():
    # Handbooks of the trade: rpm = mph × ratio × 336 / tyre diameter [in], for a wheel that rolls π·D; from memory.
    line = Driveline(3.73, math.pi * 31 * 25.4, gear=1.0)
    assert line.rpm(60 * 1.609344) == pytest.approx(60 * 3.73 * 336.13 / 31, rel=1e-3)


def test_2_73_to_3_73_is_36_4_per_cent_by_its_teeth():
    found = compare(
        Offer(11, 41, "3.73"), vehicle_from({}), AxleFacts(End.REAR, GearSet(11, 41), old_ratio=41 / 15)
    )
    assert found.change == pytest.approx(0.3636, abs=5e-5)
    assert pytest.approx(0.3663, abs=5e-5) == 3.73 / 2.73 - 1  # by its names, which is wrong


@given(old=RATIO, was=ROLLS, now=ROLLS, speed=st.floats(20, 160), gear=st.floats(0.6, 4.5))
def test_the_restoring_ratio_restores_every_engine_speed(old, was, now, speed, gear):
    back = restoring_ratio(old, was, now)
    assert Driveline(back, now, gear).rpm(speed) == pytest.approx(Driveline(old, was, gear).rpm(speed))


@given(ratio=RATIO, rolls=ROLLS, speed=st.floats(20, 160), slip=st.floats(0, 0.1))
def test_speed_and_engine_speed_are_each_others_inverse(ratio, rolls, speed, slip):
    line = Driveline(ratio, rolls, 0.83, 1.0, slip)
    assert line.speed(line.rpm(speed)) == pytest.approx(speed)
    assert ratio_for(line.rpm(speed), speed, line) == pytest.approx(ratio)


@given(
    old=RATIO,
    new=RATIO,
    was=ROLLS,
    now=ROLLS,
    sensor=st.sampled_from([Sensor.SHAFT, Sensor.RING, Sensor.HUB]),
)
def test_a_speedometer_and_its_correction_cancel(old, new, was, now, sensor):
    shown = shown_after(
        sensor, old_ratio=old, new_ratio=new, old_tyre=Measured(was, 10.0), new_tyre=Measured(now, 10.0)
    )
    assert corrected(shown, [scale_factor(shown)]).at(80) == pytest.approx(80)
    # A unit set to the pulses that now come shows the truth: shown is by pulses over pulses set.
    assert shown.factor.value / (pulses_after(5000, shown) / 5000) == pytest.approx(1)
    if sensor is not Sensor.SHAFT:
        assert shown.factor.value == pytest.approx(was / now)


def test_regulation_39_allows_too_much_and_never_too_little():
    # UN Regulation 39, 5.3: 0 ≤ V1 − V2 ≤ V2/10 + 4 km/h.
    assert Shown(Measured(1.0)).is_legal
    assert Shown(Measured(1.1)).is_legal
    assert not Shown(Measured(0.995)).is_legal
    at_40 = Shown(Measured(1.2))  # 48 at 40: 8 over, 8 allowed
    assert at_40.meets_regulation(40)
    assert not at_40.meets_regulation(80)  # 16 over, 12 allowed


@given(factor=st.floats(0.7, 1.4), drive=st.integers(6, 12), driven=st.integers(14, 30))
def test_whole_teeth_leave_the_error_that_is_named(factor, drive, driven):
    shown = Shown(Measured(factor))
    for gears in drive_gears(shown, drive, driven):
        cable = factor * (gears.drive / gears.driven) / (drive / driven)
        assert cable - 1 == pytest.approx(gears.error)
    errors = [gears.error for gears in drive_gears(shown, drive, driven)]
    assert errors == sorted(errors, key=lambda error: (error < -1e-9, abs(error)))


def test_41_10_with_37_9_is_0_27_per_cent():
    # 4.100 and 4.111: sold as one another for both ends of a car (common practice, no source).
    tyre = read_tyre("24.10 m in 10 turns")
    found = both_ends(41 / 10, tyre, 37 / 9, tyre)
    assert abs(found.apart) * 100 == pytest.approx(0.27, abs=0.005)
    assert found.agreement is Agreement.HOLDS
    assert "faster" in found.words or "within" in found.words


def test_sizes_alone_cannot_show_one_per_cent_and_say_what_would():
    tyre = read_tyre("265/70R17")
    found = both_ends(41 / 11, tyre, 41 / 11, tyre)
    assert found.agreement is Agreement.NOT_SHOWN
    assert "roll all four wheels" in found.words


def test_a_front_axle_with_the_larger_ratio_runs_slower_and_is_pushed():
    tyre = read_tyre("24.10 m in 10 turns")
    found = both_ends(4.56, tyre, 4.10, tyre)
    assert found.apart > 0.1
    assert "the front would run slower" in found.words
    assert "pushes the front" in found.words
    other = both_ends(4.10, tyre, 4.56, tyre, centre=Centre.OPEN)
    assert "the front would run faster" in other.words
    assert "centre differential" in other.words
    chosen = both_ends(4.10, tyre, 4.10, tyre, overdrive=0.95)
    assert chosen.apart == pytest.approx(-0.05)  # the front shaft turns 1/0.95 times as fast
    assert chosen.agreement is Agreement.HOLDS
    assert "on purpose" in chosen.words


@given(one=RATIO, other=RATIO, first=ROLLS, second=ROLLS)
def test_swapping_both_ends_turns_the_difference_round(one, other, first, second):
    front, rear = (read_tyre(f"{rolls:.1f} mm") for rolls in (first, second))
    ahead, behind = both_ends(one, front, other, rear), both_ends(other, rear, one, front)
    assert (1 + ahead.apart) * (1 + behind.apart) == pytest.approx(1)


def test_ratios_match_within_one_per_cent():
    assert ratio_match(4.10, 37 / 9).holds
    assert not ratio_match(3.73, 4.10).holds
    with pytest.raises(AxleError):
        ratio_match(0, 4.10)


@given(pinion=st.integers(5, 16), ring=st.integers(30, 60))
def test_teeth_that_meet_are_those_of_the_turning_gears(pinion, ring):
    # Turned tooth by tooth until the start comes back.
    pairs, step = set(), 0
    while (step % ring, step % pinion) not in pairs:
        pairs.add((step % ring, step % pinion))
        step += 1
    meeting = TeethMeeting(pinion, ring)
    assert len(pairs) == meeting.ring_turns * ring
    assert len({p for r, p in pairs if r == 0}) == pinion // meeting.common
    # g neighbouring ring teeth, painted, meet every tooth of the pinion within N1/g turns.
    painted = {p for r, p in pairs if r < meeting.common}
    assert painted == set(range(pinion))


def test_hunting_partly_and_not():
    # 41/11 hunts, 40/12 partly (g 4), 36/12 and 33/11 do not: gcd.
    assert TeethMeeting(11, 41).kind is Meeting.HUNTING
    assert TeethMeeting(12, 40).kind is Meeting.PARTLY
    assert TeethMeeting(12, 36).kind is TeethMeeting(11, 33).kind is Meeting.NOT
    for pinion, ring in ((0, 41), (4, 41), (21, 41), (11, 11), (11, 81)):
        with pytest.raises(AxleError):
            TeethMeeting(pinion, ring)


@given(
    pinion=st.integers(6, 15),
    ring=st.integers(33, 50),
    turns=st.floats(3, 20),
    share=st.floats(0, 1),
    off=st.floats(-0.5, 0.5),
    held=st.booleans(),
    sign=st.sampled_from([-1, 1]),
)
def test_an_interval_of_counted_turns_always_holds_the_true_pair(
    pinion, ring, turns, share, off, held, sign
):
    ratio = ring / pinion
    left, right = (0.0, 2 * turns) if held else (2 * turns * share, 2 * turns * (1 - share))
    # The pinion is read to eighths: it truly stood up to half a step away at each end.
    read = ratio * turns + off * 0.25
    count = Count(Wheels.HELD if held else Wheels.BOTH, sign * read, sign * left, sign * right)
    low, high = count.interval
    assert low <= ratio <= high
    if held or (left and right):
        found = from_counted_turns(count, [Offer(pinion, ring)])
        assert f"{ring}/{pinion}" in [offer.teeth for offer in found.fits]


def test_enough_turns_leave_one_of_two_near_ratios():
    few = from_counted_turns(Count(Wheels.BOTH, 3.75, 1, 1), [Offer(11, 41), Offer(11, 39)])
    assert not few.is_settled
    assert few.turns
    assert few.turns > 1
    held = from_counted_turns(Count(Wheels.HELD, 3.75, 0, 2), [Offer(11, 41), Offer(11, 39)])
    assert held.turns
    assert held.turns >= few.turns


def test_equal_ratios_are_never_told_apart_by_turns():
    found = from_counted_turns(Count(Wheels.BOTH, 150, 50, 50, 0.01, 0.01), [Offer(12, 36), Offer(11, 33)])
    assert {"36/12", "33/11"} <= set(found.same)
    assert from_teeth(11, 33).is_settled


@pytest.mark.parametrize(
    ("count", "words"),
    [
        ({"wheels": Wheels.FREE, "pinion": 4, "left": 1, "right": 0}, "left free"),
        ({"wheels": Wheels.HELD, "pinion": 4, "left": 2, "right": 0, "differential": "spool"}, "spool"),
        ({"wheels": Wheels.BOTH, "pinion": 4, "left": 1, "right": -1}, "against each other"),
        ({"wheels": Wheels.BOTH, "pinion": 0, "left": 1, "right": 1}, "no turn"),
        ({"wheels": Wheels.HELD, "pinion": 4, "left": 1, "right": 1}, "both wheels"),
    ],
)
def test_a_count_that_says_nothing_is_refused_with_its_reason(count, words):
    with pytest.raises(AxleError) as problem:
        Count(**count)
    assert words in str(problem.value)


def test_a_tag_is_read_by_teeth_by_name_and_with_its_letter():
    assert from_tag("41 11").is_settled
    assert "41/11" in [offer.teeth for offer in from_tag("3.73").fits]
    assert "limited slip" in from_tag("3L73").words
    for wrong in ("", "no tag", "99 2", "373"):
        with pytest.raises(AxleError):
            from_tag(wrong)


def test_first_critical_speed_of_a_tube_of_the_design_manual():
    # 76.2 mm outside, 72.9 inside, 1400 mm: 6510 rpm by n = 1.21e8·√(D² + d²)/L² (steel), driveshaft manuals.
    assert Tube(1400, 76.2, 1.65).critical == pytest.approx(6510, rel=3e-3)
    assert Tube(700, 76.2, 1.65).critical == pytest.approx(4 * Tube(1400, 76.2, 1.65).critical)


def test_first_critical_speed_is_that_of_a_beam_solved_by_finite_differences():
    # EI·y'''' = ρA·ω²·y, pinned ends; steel of the reference tables: 206.8 GPa, 7860 kg/m³.
    count, length, outside, inside = 400, 1.4, 0.0762, 0.0729
    step = length / count
    second = (
        np.diag(np.full(count - 1, -2.0)) + np.eye(count - 1, k=1) + np.eye(count - 1, k=-1)
    ) / step**2
    inertia, area = math.pi / 64 * (outside**4 - inside**4), math.pi / 4 * (outside**2 - inside**2)
    square = np.linalg.eigvalsh(second @ second).min() * 206.8e9 * inertia / (7860 * area)
    assert Tube(1400, 76.2, 1.65).critical == pytest.approx(math.sqrt(square) * 30 / math.pi, rel=1e-3)


def test_the_acceleration_behind_a_joint_is_that_of_its_motion():
    # tan θ2 = tan θ1·cos β… differentiated by hand nowhere: the speed is integrated over one turn and compared.
    beta, rpm = math.radians(8), 2500.0
    omega = rpm * math.pi / 30

    def out(theta):
        return omega * math.cos(beta) / (1 - math.sin(beta) ** 2 * math.cos(theta) ** 2)

    angles = np.linspace(0, 2 * math.pi, 20_001)
    speeds = np.array([out(theta) for theta in angles])
    largest = np.max(np.abs(np.gradient(speeds, angles))) * omega
    assert joint_acceleration(rpm, beta) == pytest.approx(largest, rel=0.03)
    turned = solve_ivp(lambda t, _: [out(omega * t)], (0, 2 * math.pi / omega), [0.0], rtol=1e-9).y[0, -1]
    assert turned == pytest.approx(2 * math.pi, rel=1e-5)  # what one joint takes it gives back each turn


def test_equal_angles_in_phase_cancel_and_a_quarter_turn_apart_add():
    three = JointAngle(math.radians(3))
    assert equal_angle(three, three) == 0
    assert equal_angle(three, three, in_phase=False) == pytest.approx(math.radians(3) * math.sqrt(2))
    both = JointAngle(math.radians(3), math.radians(4))
    assert math.tan(both.angle) ** 2 == pytest.approx(
        math.tan(math.radians(3)) ** 2 + math.tan(math.radians(4)) ** 2
    )


def test_a_shaft_over_seventy_per_cent_of_its_critical_speed_does_not_hold():
    tube = Tube(1600, 63.5, 2.0)
    assert judge_shaft(tube, 0.69 * tube.critical, 1000).holds
    assert not judge_shaft(tube, 0.71 * tube.critical, 1000).holds
    assert judge_shaft(tube, 3000, tube.critical / 2).near_half


def test_a_carrier_break_asks_for_another_carrier_or_a_thick_gear():
    takes = (3.08, 3.73)
    assert carrier_fit(Offer(11, 41), takes) is CarrierFit.FITS
    assert carrier_fit(Offer(10, 41), takes) is CarrierFit.OTHER
    assert carrier_fit(Offer(10, 41, thick=True), takes) is CarrierFit.THICK
    assert carrier_fit(Offer(11, 41, carrier_low=3.92, carrier_high=5.13), takes) is CarrierFit.OTHER
    assert carrier_fit(Offer(11, 41), None) is CarrierFit.UNKNOWN
    assert not passes(Offer(8, 43))


def test_overlap_falls_with_fewer_and_larger_teeth():
    assert overlap(GearSet(11, 41)) > overlap(GearSet(9, 33))


def test_sold_names_are_near_their_teeth_and_no_other_ratio():
    assert Offer(11, 41, "3.73").ratio == pytest.approx(3.727, abs=5e-4)
    for name in ("4.10", "x", "nan"):
        with pytest.raises(AxleError):
            Offer(11, 41, name)


def test_every_pair_near_a_ratio_lies_near_it_and_can_be_cut():
    found = pairs_near(4.1, 0.03)
    assert {"41/10", "37/9", "45/11"} <= {offer.teeth for offer in found}
    assert all(abs(offer.ratio / 4.1 - 1) <= 0.03 and offer.pinion >= 7 for offer in found)


def test_pairs_and_ratios_are_read_in_either_order():
    assert read_pair("11-41") == read_pair("41/11") == (11, 41)
    assert read_ratio("41:11") == pytest.approx(41 / 11)
    for wrong in ("0/11", "41/0", "41", "", "12.9", "1.0", "-3.73", "41/11/2"):
        with pytest.raises(AxleError):
            read_ratio(wrong)


def test_a_table_of_sets_names_the_row_that_cannot_be_used():
    rows = [{"teeth": "41/11", "sold_as": "3.73", "price": "310", "days": "4"}, {"teeth": "41/x"}]
    assert read_offers(rows[:1])[0].days == 4
    with pytest.raises(AxleError) as problem:
        read_offers(rows)
    assert "row 2" in str(problem.value)


def test_a_vehicle_says_which_field_cannot_be_used():
    wrong = problems(
        {"tyre_front": "1/0R16", "slip": "-4", "idle": "900", "limit": "800", "cruise": "65 mph", "x": "1"}
    )
    assert set(wrong) == {"tyre_front", "slip", "limit", "x"}
    with pytest.raises(AxleError):
        vehicle_from({"gears": "0"})
    for name, field in fields().items():
        assert problems({name: "\N{SNOWMAN}" * 3}), (name, field.kind)


def test_two_ratios_speak_of_four_driven_wheels_until_somebody_says_otherwise():
    both = {"ratio_front": "41/10", "ratio_rear": "37/9"}
    assert vehicle_from(both).centre is Centre.LOCKED
    assert vehicle_from(both | {"centre": "unknown"}).centre is Centre.LOCKED
    assert vehicle_from(both | {"centre": "none"}).centre is Centre.NONE
    assert vehicle_from({"ratio_rear": "37/9"}).centre is Centre.NONE


def test_a_vehicle_with_nothing_known_compares_and_recommends_nothing():
    facts = AxleFacts(End.REAR, GearSet(11, 41))
    found = compare(Offer(11, 41), vehicle_from({}), facts)
    assert found.rpm is found.shown is found.ends is found.off_wanted is None
    assert recommend([found]) is None


def test_the_set_that_gives_the_old_engine_speed_back_is_named_unless_it_costs_a_carrier():
    facts = AxleFacts(End.REAR, GearSet(11, 41), old_ratio=41 / 11)
    wide = vehicle_from(CAR | {"carrier_rear": "3.08 to 5.13"})
    offers = [Offer(11, 41, "3.73"), Offer(10, 41, "4.10"), Offer(9, 41, "4.56"), Offer(8, 39, "4.88")]
    back = restoring(wide, facts)
    said = recommend([compare(offer, wide, facts) for offer in offers])
    assert said is not None
    nearest = min(offers, key=lambda offer: abs(offer.ratio / back - 1))
    assert said.best.offer == nearest
    assert wanted_ratio(wide, facts) == back
    at_a_price = recommend([compare(offer, vehicle_from(CAR), facts) for offer in offers])
    assert at_a_price.order[0].offer == nearest
    assert DrawbackKind.CARRIER in {point.kind for point in at_a_price.best.drawbacks}
    assert any("carrier break" in reason for reason in at_a_price.reasons)


def test_a_wanted_engine_speed_comes_before_the_old_one():
    facts = AxleFacts(End.REAR, GearSet(11, 41), old_ratio=41 / 11)
    car = vehicle_from(CAR | {"wanted_rpm": "2000"})
    ratio = wanted_ratio(car, facts)
    top = every_gear(car, facts, ratio)[-1]
    assert top.rpm(car.cruise) == pytest.approx(2000)


def test_late_parts_and_the_other_end_are_drawbacks():
    facts = AxleFacts(End.REAR, GearSet(11, 41), old_ratio=41 / 11, other_ratio=41 / 11)
    rolled = CAR | {"tyre_front_new": "24.6 m in 10 turns"}
    found = compare(Offer(10, 41, "4.10"), vehicle_from(rolled), facts, in_time=0.4)
    points = {point.kind for point in found.drawbacks}
    assert {DrawbackKind.ENDS_OVER, DrawbackKind.LATE} <= points
    held = compare(Offer(11, 41, "3.73"), vehicle_from(rolled), facts, in_time=0.9)
    assert held.ends.agreement is Agreement.HOLDS


def test_what_else_changes_follows_what_changes():
    facts = AxleFacts(End.REAR, GearSet(11, 41), old_ratio=41 / 11)
    same = compare(Offer(11, 41, "3.73"), vehicle_from(CAR), facts)
    other = compare(Offer(10, 41, "4.10"), vehicle_from(CAR), facts)
    assert what_else_changes(same, tyres=False) == ()
    words = " ".join(what_else_changes(other, tyres=False))
    assert "tag" in words
    assert "Speedometer" in words
    assert "Shaft ends" in words


def test_an_order_waits_for_every_answer_and_names_what_differs():
    assert not check_order({}).may_order
    every = dict.fromkeys(order_questions(), "28")
    assert check_order(every).may_order
    assert not check_order(every).differ
    other = check_order(every | {"yoke_splines": "27"})
    assert other.may_order
    assert "yoke" in other.differ[0].lower()
    with pytest.raises(AxleError):
        check_order({"what": "28"})


def test_a_later_choice_wants_another_answer():
    lines = [Chosen(11, 41), Answered(agreed=True, name="Pia Holl"), Chosen(10, 41)]
    standing = ratio_standing([*lines, LookedUp(dict.fromkeys(order_questions(), "28")), Teeth(11, 41)])
    assert standing.chosen == Chosen(10, 41)
    assert standing.holds == ("The customer has not answered yet.",)
    assert standing.settled.teeth == "41/11"
    with pytest.raises(AxleError):
        read_ratio_line("chosen", {"pinion": 0, "ring": 41})
    with pytest.raises(AxleError):
        read_ratio_line("counted", {"wheels": "free", "pinion": 4, "left": 1, "right": 0})


def test_pull_follows_the_curve_and_the_gear():
    curve = TorqueCurve(((1000, 200), (2000, 300), (4000, 250)))
    assert curve.torque(1500) == pytest.approx(250)
    assert curve.torque(900) is None
    lines = [Driveline(3.73, 2400, gear) for gear in (3.6, 2.1, 1.0)]
    gear, force = best_pull(lines, curve, 30)
    assert gear == 0
    assert force == pytest.approx(max(filter(None, (_pull(line, curve) for line in lines))))
    with pytest.raises(AxleError):
        TorqueCurve(((2000, 300), (1000, 200)))


def _pull(line, curve):
    # Power in is power out: F·v = T·ω (no losses).
    torque = curve.torque(line.rpm(30))
    return None if torque is None else torque * line.rpm(30) * math.pi / 30 / (30 / 3.6)


@given(ratio=RATIO, rolls=ROLLS)
def test_a_set_with_the_old_exact_ratio_changes_nothing(ratio, rolls):
    offer = Offer(11, 41)
    car = vehicle_from({"tyre_front": f"{rolls:.0f} mm", "gears": "1", "cruise": "90", "sensor": "shaft"})
    found = compare(offer, car, AxleFacts(End.FRONT, GearSet(11, 41), old_ratio=offer.ratio))
    assert found.rpm_change == pytest.approx(0)
    assert found.shown.factor.value == pytest.approx(1)
    assert replace(found, drawbacks=()).cost == pytest.approx(0)
