"""Depth methods compared, feelers, allowances, preload fits and bites: laws, and the outside."""

from __future__ import annotations

import math
import random
from decimal import Decimal

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from uncertainties import correlated_values, ufloat

from axle.depth.allowances import (
    Bearing,
    for_bearing,
    for_slinger,
    preload_for_bearings,
    preload_for_slinger,
)
from axle.depth.compare import compare
from axle.depth.result import Term, depth_result
from axle.errors import AxleError
from axle.layout import DepthShim, PreloadBy, SpacerSeat, every_layout
from axle.measure.feeler import Interval, parse_feeler
from axle.measure.uncertainty import Measured, mean_of
from axle.measure.units import MM, THOU
from axle.preload.bites import Bite, BiteVerdict, next_bite
from axle.preload.curve import PINION_SLOPE, Trial, band, chances, fit, predict, torque_at
from axle.preload.trials import both_ways, contradictions

IN_LB = 0.112984829
LAYOUTS = sorted(
    {(i.depth_shim, i.preload_by, i.spacer_seat): i for i in every_layout()}.values(), key=repr
)
layouts = st.sampled_from(LAYOUTS)


def result(value: float, own: float, shared: float = 0.0, name: str = "a"):
    return depth_result(
        [Term(name, value, own), Term("mark", 0.0, spread=shared, shared="mark")], name, name
    )


# ---- comparing methods


def test_weights_without_anything_shared_are_inverse_squares():
    # JCGM 100:2008 leaves it to the reader; Gauss's weighted mean, by hand: 1/1² : 1/2² = 4 : 1.
    found = compare([result(0.80, 0.01), result(0.85, 0.02, name="b")])
    assert found.weights == pytest.approx((0.8, 0.2))
    assert found.thickness == pytest.approx(0.81)


def test_the_compared_uncertainty_against_the_uncertainties_package():
    # Two methods on one mark: the package carries the covariance by itself.
    own, shared = (0.01, 0.02), 0.0073
    mark = ufloat(0, shared)
    one, other = ufloat(0.80, own[0]) + mark, ufloat(0.81, own[1]) + mark
    found = compare([result(0.80, own[0], shared), result(0.81, own[1], shared, "b")])
    mean = found.weights[0] * one + found.weights[1] * other
    assert found.thickness == pytest.approx(mean.nominal_value)
    assert found.uncertainty == pytest.approx(mean.std_dev)


def test_a_shared_mark_is_not_averaged_away():
    many = [result(0.8, 0.01, 0.02, str(n)) for n in range(50)]
    assert compare(many).uncertainty > 0.02


@given(st.lists(st.tuples(st.floats(0.5, 1.0), st.floats(0.003, 0.05)), min_size=1, max_size=6))
def test_the_mean_lies_among_the_results_and_the_weights_add_up(rows):
    found = compare([result(value, own, 0.007, str(n)) for n, (value, own) in enumerate(rows)])
    assert sum(found.weights) == pytest.approx(1)
    assert min(v for v, _ in rows) - 1e-9 <= found.thickness <= max(v for v, _ in rows) + 1e-9


def test_methods_that_cannot_both_be_right_are_called_out():
    found = compare([result(0.80, 0.01), result(0.81, 0.01, name="b"), result(0.95, 0.01, name="c")])
    assert {(d.one.method, d.other.method) for d in found.disagreements} == {("a", "c"), ("b", "c")}
    # The spread is widened: χ² per degree of freedom is far over one.
    assert found.uncertainty > 0.01 / math.sqrt(3) * 5


def test_comparing_nothing_is_refused():
    with pytest.raises(AxleError, match="at least one way"):
        compare([])


# ---- feelers


@pytest.mark.parametrize(
    ("text", "unit", "middle", "width"),
    [
        ("11-13", THOU, 12, 2),
        ("11..13", THOU, 12, 2),
        ("11 to 13 thou", THOU, 12, 2),
        ("<2", THOU, 1, 2),
        ("0.28-0.33", MM, 12.0079, 1.9685),
    ],
)
def test_a_feeler_is_an_interval(text, unit, middle, width):
    quantity, interval = parse_feeler(text, unit, "feeler")
    assert float(quantity.core) == pytest.approx(middle * 0.0254, abs=1e-6)
    # JCGM 100:2008, 4.3.7: rectangular, half the width over √3.
    assert interval.measured.spread == pytest.approx(width * 0.0254 / 2 / math.sqrt(3), abs=1e-6)
    assert quantity.text == text


def test_one_blade_that_drags_is_one_value():
    quantity, interval = parse_feeler("12", THOU, "feeler")
    assert quantity.core == Decimal("0.3048")
    assert interval is None


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("13-11", "then the thicker one that binds"),
        ("", "nothing"),
        ("<x", "a number in thou"),
        ("5-5", "binds"),
    ],
)
def test_what_feelers_cannot_say(text, words):
    with pytest.raises(AxleError, match=words):
        parse_feeler(text, THOU, "feeler")


def test_a_bound_is_not_a_zero():
    # Common practice, no source: a feeler that will not enter says "less than", never nothing.
    assert Interval(Decimal(0), Decimal("0.05")).measured.value == pytest.approx(0.025)


def test_repeats_lessen_the_scatter_and_not_the_resolution():
    # JCGM 100:2008, 4.2.3: s/√n; the resolution stays.
    measured = mean_of([1.0, 2.0, 3.0], 0.5)
    assert measured.value == 2.0
    assert measured.spread == pytest.approx(math.hypot(1 / math.sqrt(3), 0.5))


# ---- bearings and slingers, against lengths laid end to end


class Stack:
    """Pinion, bearings and shims as lengths laid end to end; signs follow from the geometry."""

    def __init__(self, layout, inner=(20.0, 18.0), outer=(16.0, 14.0), slinger=0.0, in_stack=0.0):
        self.layout, self.inner, self.outer = layout, inner, outer
        self.slinger, self.in_stack = slinger, in_stack

    def face(self, depth: float) -> float:
        """Where the head's bearing seat stands, out from the ring axis: cup seats at 100."""
        if self.layout.depth_shim is DepthShim.CARTRIDGE:
            return 100.0 + depth - self.inner[0] - self.slinger
        return 100.0 - depth - self.inner[0] - self.slinger

    def interference(self, depth: float, pack: float) -> float:
        """Distance between cup seats taken up by both bearings, over what the spacer leaves."""
        head_shim = depth if self.layout.depth_shim is DepthShim.HEAD else 0.0
        cup_shim = depth if self.layout.depth_shim is DepthShim.CUP else 0.0
        # From the shoulder at the pinion's head outwards, along the shaft: cup seats are 60 apart.
        inner_back = head_shim + self.slinger if self.layout.spacer_seat is SpacerSeat.SHOULDER else 0.0
        if self.layout.spacer_seat is SpacerSeat.SHOULDER:
            # The spacer stands on the shaft: the outer cone's back face is a fixed way from the head.
            outer_front = 30.0 + pack + self.in_stack
            cups = (
                self.inner[0] + inner_back + cup_shim - (outer_front - 60.0) - self.outer[1] + self.outer[0]
            )
            return cups - 62.0
        # Between the cones: from the inner cone's face over the spacer to the outer cone.
        apart = pack + self.in_stack
        return self.inner[0] - self.inner[1] - apart + self.outer[0] - self.outer[1] + cup_shim


@given(layouts, st.floats(-0.3, 0.3), st.floats(-0.3, 0.3), st.floats(-0.3, 0.3), st.floats(-0.3, 0.3))
def test_other_bearings_keep_depth_and_interference_when_allowed_for(item, dh_in, dw_in, dh_out, dw_out):
    old = Stack(item)
    new = Stack(item, (20.0 + dh_in, 18.0 + dw_in), (16.0 + dh_out, 14.0 + dw_out))
    depth = 0.8
    change = for_bearing(item, Measured(20.0), Measured(20.0 + dh_in)).value
    assert new.face(depth + change) == pytest.approx(old.face(depth))
    if not item.has_preload_pack or item.depth_shim is DepthShim.CARTRIDGE:
        return
    pairs = [
        (Bearing(Measured(h), Measured(w)), Bearing(Measured(h + dh), Measured(w + dw)))
        for h, w, dh, dw in ((20.0, 18.0, dh_in, dw_in), (16.0, 14.0, dh_out, dw_out))
    ]
    pack = preload_for_bearings(item, pairs[0], pairs[1]).value
    # At the same depth shim: the depth change brings its own coupled change.
    assert new.interference(depth, 1.0 + pack) == pytest.approx(old.interference(depth, 1.0))
    coupled = item.preload_per_depth * change
    both = new.interference(depth + change, 1.0 + pack + coupled)
    assert both == pytest.approx(old.interference(depth, 1.0))


@given(layouts, st.floats(0.3, 1.5), st.sampled_from([1, -1]))
def test_a_slinger_is_allowed_for_by_its_thickness(item, thick, added):
    without, behind, stacked = Stack(item), Stack(item, slinger=thick), Stack(item, in_stack=thick)
    old, new = (without, behind) if added > 0 else (behind, without)
    change = for_slinger(item, Measured(thick), added).value
    assert new.face(2.0 + change) == pytest.approx(old.face(2.0))
    if not item.has_preload_pack or item.depth_shim is DepthShim.CARTRIDGE:
        return
    pack = preload_for_slinger(item, thick, added, in_stack=False)
    assert new.interference(2.0, 3.0 + pack) == pytest.approx(old.interference(2.0, 3.0))
    old, new = (without, stacked) if added > 0 else (stacked, without)
    pack = preload_for_slinger(item, thick, added, in_stack=True)
    assert new.interference(2.0, 3.0 + pack) == pytest.approx(old.interference(2.0, 3.0))


@given(layouts, st.floats(-0.5, 0.5))
def test_a_coupled_pack_follows_the_depth_shim(item, change):
    assume(item.has_preload_pack and item.depth_shim is not DepthShim.CARTRIDGE)
    stack = Stack(item)
    pack = item.preload_per_depth * change
    assert stack.interference(0.8 + change, 1.0 + pack) == pytest.approx(stack.interference(0.8, 1.0))


# ---- the torque curve


def test_chances_against_drawing_the_curve_ten_thousand_times():
    curve = fit([Trial(0.0, torque=0.5), Trial(0.02, torque=1.2)], PINION_SLOPE)
    drawn = np.random.default_rng(7).multivariate_normal([curve.zero, 0.0], curve.covariance, 20_000)
    setting, noise = 0.045, 0.05
    torques = [torque_at(setting - z, curve.coefficient * math.exp(c)) for z, c in drawn]
    read = np.array(torques) + np.random.default_rng(8).normal(0, noise, 20_000)
    under, inside, over = chances(curve, setting, 1.7, 2.8, noise=noise)
    assert under == pytest.approx((read < 1.7).mean(), abs=0.02)
    assert over == pytest.approx((read > 2.8).mean(), abs=0.02)
    assert under + inside + over == pytest.approx(1)


def test_chances_are_kept_over_many_synthetic_axles():
    """What is foretold as likely comes about as often: noise and slope drawn, the truth unknown."""
    source, predicted, came = random.Random(3), [], []
    for _ in range(300):
        c = PINION_SLOPE.coefficient * math.exp(source.gauss(0, math.log(PINION_SLOPE.factor)))
        zero = source.uniform(-0.1, 0.1)

        def read(setting: float, c: float = c, zero: float = zero) -> float:
            return max(torque_at(setting - zero, c) * source.gauss(1, 0.03) + source.gauss(0, 0.03), 0.0)

        trials = [Trial(zero + 0.02, torque=read(zero + 0.02))]
        aim = fit(trials, PINION_SLOPE).setting_for(1.4)
        trials.append(Trial(aim, torque=read(aim)))
        curve = fit(trials, PINION_SLOPE)
        setting = curve.setting_for(2.26)
        predicted.append(chances(curve, setting, 1.8, 2.7, noise=0.06)[1])
        came.append(1.8 <= read(setting) <= 2.7)
    share = sum(came) / len(came)
    assert share == pytest.approx(sum(predicted) / len(predicted), abs=0.1)
    assert share > 0.7


def test_a_band_is_low_middle_high_and_never_below_nothing():
    curve = fit([Trial(0.0, end_play=0.05)], PINION_SLOPE)
    low, middle, high = band(curve, np.linspace(-0.05, 0.2, 20))
    assert (low >= 0).all()
    assert (low <= middle + 1e-12).all()
    assert (middle <= high).all()


def test_prediction_weights_add_up_and_bracket_the_curve():
    curve = fit([Trial(0.0, torque=1.0)], PINION_SLOPE)
    torques, weights = predict(curve, np.array([0.03]))
    assert weights.sum() == pytest.approx(1)
    assert torques.min() < curve.torque(0.03) < torques.max()


def test_a_range_the_wrong_way_round_is_refused():
    with pytest.raises(AxleError, match="the lower figure first"):
        chances(fit([Trial(0.0, torque=1.0)], PINION_SLOPE), 0.0, 3.0, 2.0)


@pytest.mark.parametrize(
    ("trials", "words"),
    [
        # Common practice, no source: a tighter pack cannot read looser; dirt, a dry or unseated bearing.
        ([Trial(0.0, torque=2.0), Trial(0.05, torque=1.0)], "the tighter pack read looser"),
        ([Trial(0.0, end_play=0.02), Trial(0.05, end_play=0.08)], "the tighter pack read looser"),
        ([Trial(0.0, torque=1.0), Trial(0.05, end_play=0.08)], "the tighter pack read looser"),
        ([Trial(0.0, torque=0.3), Trial(0.02, torque=8.0)], "Torque rises far faster"),
    ],
)
def test_contradictory_trials_are_said_with_the_usual_causes(trials, words):
    lines = contradictions(trials, fit(trials, PINION_SLOPE), PINION_SLOPE)
    assert words in lines[0]
    assert "dirt" in lines[0] or "unseated" in lines[0]


settings_made = st.lists(st.integers(0, 40).map(lambda n: n * 0.0025), min_size=1, max_size=4)


@given(st.floats(-0.05, 0.05), st.floats(0.7, 1.5), settings_made)
def test_trials_of_one_sound_stack_do_not_contradict(zero, factor, settings):
    c = PINION_SLOPE.coefficient * factor
    trials = [
        Trial(s, torque=torque_at(s - zero, c)) if s > zero else Trial(s, end_play=zero - s)
        for s in settings
    ]
    assert contradictions(trials, fit(trials, PINION_SLOPE), PINION_SLOPE) == ()


def test_a_wrench_that_does_not_zero_is_corrected_by_the_mean():
    # Common practice, no source: two in·lb high one way are two low the other.
    torque, offset = both_ways(20 * IN_LB, 16 * IN_LB)
    assert torque == pytest.approx(18 * IN_LB)
    assert offset == pytest.approx(2 * IN_LB)


# ---- bites of a sleeve's nut


@pytest.mark.parametrize(
    ("torque", "verdict"),
    # In in·lb, range 15 to 25, ends included. Common practice, no source: over it is a new sleeve.
    [
        (26, BiteVerdict.NEW_SLEEVE),
        (25, BiteVerdict.STOP),
        (15, BiteVerdict.STOP),
        (14, BiteVerdict.BITE),
        (0, BiteVerdict.BITE),
    ],
)
def test_bite_stop_or_new_sleeve(torque, verdict):
    bites = [Bite(0.1, 10.0), Bite(torque * IN_LB, 5.0)]
    assert next_bite(bites, 15 * IN_LB, 25 * IN_LB).verdict is verdict
    assert next_bite([Bite(torque * IN_LB)], 15 * IN_LB, 25 * IN_LB).verdict is verdict


def crush(seed: int, limit: float) -> tuple[bool, int]:
    """Crush one synthetic sleeve by the advice; says whether it went over, and in how many bites."""
    source = random.Random(seed)
    per_degree = 1.5 / 360 * 0.2 * math.exp(source.gauss(0, 0.5))
    c = PINION_SLOPE.coefficient * math.exp(source.gauss(0, 0.3))
    at, low, high = 0.0, 14 * IN_LB, 19 * IN_LB
    bites = [Bite(0.0)]
    for count in range(60):
        advice = next_bite(bites, low, high, limit=limit)
        if advice.verdict is not BiteVerdict.BITE:
            return advice.verdict is BiteVerdict.NEW_SLEEVE, count
        turned = max(advice.amount if advice.unit == "°" else 8.0, 0.0)
        at += max(turned + source.gauss(0, 2.0), 0.3)
        torque = torque_at(at * per_degree - 0.02, c) * source.gauss(1, 0.02)
        bites.append(Bite(max(round(torque / 0.0565) * 0.0565, 0.0), turned))
    return False, 60


def test_overshoot_stays_near_the_chosen_chance():
    over = {limit: sum(crush(seed, limit)[0] for seed in range(120)) / 120 for limit in (0.01, 0.10)}
    assert over[0.01] <= 0.06
    assert over[0.10] <= 0.20
    assert sum(crush(seed, 0.05)[1] for seed in range(40)) / 40 < 25


@given(st.floats(0.1, 1.4), st.floats(2, 20), st.sampled_from([0.01, 0.05, 0.2]))
def test_a_bite_keeps_the_chance_or_is_the_least_there_is(gain, turn, limit):
    bites = [Bite(0.0), Bite(gain / 2, turn), Bite(gain, turn)]
    found = next_bite(bites, 1.58, 2.15, limit=limit)
    if found.verdict is BiteVerdict.BITE and found.amount > 2:
        assert found.over <= limit + 1e-9


def test_nobody_is_told_to_back_off():
    with pytest.raises(AxleError, match="never backed off"):
        Bite(1.0, -5.0)
    with pytest.raises(AxleError, match="at least one rotating torque"):
        next_bite([], 1.0, 2.0)
    with pytest.raises(AxleError, match="chance of overshoot"):
        next_bite([Bite(0.0)], 1.0, 2.0, limit=0.9)


def test_a_bite_by_the_torque_on_the_nut():
    # Read by the nut's own torque where nobody can see an angle.
    bites = [Bite(0.3, nut_torque=280.0), Bite(0.7, nut_torque=290.0), Bite(1.1, nut_torque=300.0)]
    found = next_bite(bites, 1.58, 2.15)
    assert found.unit == "N·m"
    assert 2 <= found.amount <= 40


def test_correlated_values_are_what_the_package_makes_of_a_covariance():
    """The fit's covariance, propagated by an independent package through the linearised curve."""
    curve = fit([Trial(0.0, torque=0.6), Trial(0.03, torque=1.6)], PINION_SLOPE)
    zero, log_c = correlated_values([curve.zero, math.log(curve.coefficient)], curve.covariance)
    torque = (2.718281828459045**log_c) * (0.045 - zero) ** (10 / 9)
    assert curve.torque_spread(0.045) == pytest.approx(torque.std_dev, rel=1e-3)
    assert {PreloadBy.SPACER, PreloadBy.STEP} == {i.preload_by for i in LAYOUTS if i.has_preload_pack}
