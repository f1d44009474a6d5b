"""Rotating torque, its law, its fit, and the carrier's share of it."""

from __future__ import annotations

import math
import random

import pytest
from hypothesis import given
from hypothesis import strategies as st

from axle.carrier.adjusters import thickness_per_hole
from axle.carrier.sides import SideChange, interference_change, plan_change, ring_movement
from axle.carrier.torque import bearing_torque
from axle.errors import AxleError
from axle.layout import every_layout
from axle.measure.units import INCH_POUND
from axle.preload.curve import (
    CARRIER_SLOPE,
    PINION_SLOPE,
    Trial,
    fit,
    interference_for,
    torque_at,
)

IN_LB = float(INCH_POUND.factor)
layouts = st.sampled_from(every_layout())
shares = st.floats(0.2, 0.8)
moves = st.floats(-0.3, 0.3)


def test_line_contact_exponent_iso_ts_16281():
    # Line contact: deflection goes with force^0.9 (ISO/TS 16281), so force, and with it the torque,
    # goes with interference^(1/0.9): twice the interference is 2^(10/9) of the torque.
    assert torque_at(0.2, 40.0) / torque_at(0.1, 40.0) == pytest.approx(2 ** (1 / 0.9))


@given(st.floats(0.001, 0.3), st.floats(5, 80), st.floats(0, 0.5))
def test_torque_and_interference_are_inverse(interference, coefficient, drag):
    torque = torque_at(interference, coefficient, drag)
    assert interference_for(torque, coefficient, drag) == pytest.approx(interference, rel=1e-6)


@given(st.floats(-0.5, 0.0))
def test_end_play_has_no_torque(play):
    assert torque_at(play, 40.0, drag=0.1) == 0.1


def test_end_play_tells_zero_directly():
    curve = fit([Trial(-1.00, end_play=0.05)], PINION_SLOPE)
    assert curve.zero == pytest.approx(-0.95, abs=1e-6)
    # The pack that is 0.05 mm thinner has no play; the middle of 15-25 in·lb lies a little beyond.
    wanted = curve.setting_for(20 * IN_LB)
    assert 0.04 < wanted - (-0.95) < 0.12


def test_one_torque_trial_moves_by_the_prior_slope():
    # The prior says 20 in·lb at 0.003 in: from 10 in·lb, half the torque, to 20 in·lb is
    # 0.003·(1 − 0.5^0.9) in of thinner pack.
    curve = fit([Trial(-0.50, torque=10 * IN_LB)], PINION_SLOPE)
    thinner = curve.setting_for(20 * IN_LB) - (-0.50)
    assert thinner == pytest.approx(0.076 * (1 - 0.5**0.9), rel=0.02)


@pytest.mark.parametrize("factor", [0.6, 1.0, 1.6])
def test_two_trials_find_the_job_s_own_slope(factor):
    truth = PINION_SLOPE.coefficient * factor
    zero = -0.40
    trials = [Trial(s, torque=torque_at(s - zero, truth)) for s in (zero + 0.02, zero + 0.05, zero + 0.08)]
    curve = fit(trials, PINION_SLOPE, torque_step=0.01)
    assert curve.coefficient == pytest.approx(truth, rel=0.12)
    assert curve.zero == pytest.approx(zero, abs=0.006)


def test_the_stated_spread_covers_the_truth():
    # A synthetic check of the statement "one standard deviation": 400 seeded jobs with one trial
    # and a slope drawn from the prior; about 68 % of the truths must lie within one spread.
    # Three binomial deviations of 400 jobs are ±7 %.
    source = random.Random(2026)
    covered, jobs = 0, 400
    for _ in range(jobs):
        coefficient = PINION_SLOPE.coefficient * math.exp(source.gauss(0, math.log(PINION_SLOPE.factor)))
        zero = source.uniform(-0.6, -0.4)
        setting = zero + source.uniform(0.03, 0.06)
        torque = max(torque_at(setting - zero, coefficient) + source.gauss(0, 0.06), 0.05)
        curve = fit([Trial(setting, torque=torque)], PINION_SLOPE)
        aimed = setting + 0.02
        truth = torque_at(aimed - zero, coefficient)
        covered += abs(truth - curve.torque(aimed)) <= curve.torque_spread(aimed)
    assert 0.61 <= covered / jobs <= 0.75


@pytest.mark.parametrize(
    ("torque", "play", "words"),
    [(None, None, "no reading or two"), (1.0, 0.1, "no reading or two"), (-1.0, None, "negative")],
)
def test_a_trial_is_one_reading(torque, play, words):
    with pytest.raises(AxleError, match=words):
        Trial(0.0, torque, play)


def test_no_trial_no_curve():
    with pytest.raises(AxleError, match="at least one trial"):
        fit([], CARRIER_SLOPE)


@pytest.mark.parametrize(
    ("total", "pinion", "ratio", "carrier"),
    # By hand: (total − pinion) × N2/N1.
    [(26.0, 22.0, 4.0, 16.0), (25.0, 20.0, 3.727, 18.635), (22.0, 22.0, 4.1, 0.0)],
)
def test_subtraction_times_ratio(total, pinion, ratio, carrier):
    torque, _ = bearing_torque(total, pinion, ratio, total_step=1.0, pinion_step=1.0)
    assert torque == pytest.approx(carrier)


def test_the_window_at_the_pinion_is_narrow():
    # Common practice, no source: 16-24 in·lb at the carrier is only about 2 in·lb wide at the pinion
    # with 3.73.
    assert pytest.approx(2.1, abs=0.1) == (24 - 16) / 3.73
    # So a wrench in steps of 1 in·lb leaves ± 1.5 in·lb: √(1/12 + 1/12) × 3.73 (JCGM 100:2008).
    _, u = bearing_torque(26, 22, 3.73, total_step=1.0, pinion_step=1.0)
    assert u == pytest.approx(3.73 * math.sqrt(2 / 12))


def springs(change: SideChange, sign: int, share: float) -> tuple[float, float]:
    """Movement of the carrier towards R's far side and added interference, from two springs.

    The ring side gives with stiffness k_R, the far side with k_O; λ = k_O/(k_R + k_O). Solved from
    the balance of both forces, not from the closed form.
    """
    k_far, k_ring = share, 1 - share
    ring, far = sign * change.ring, sign * change.far
    # Pushed x away from the ring side: k_R·(ring − x) = k_O·(far + x).
    x = (k_ring * ring - k_far * far) / (k_ring + k_far)
    return -x, ring + far


@given(layouts, moves, moves, shares)
def test_a_planned_change_balances_two_springs(item, wanted_move, wanted_interference, share):
    change = plan_change(item, wanted_move, wanted_interference, share)
    moved, added = springs(change, item.carrier_sign, share)
    assert moved == pytest.approx(wanted_move, abs=1e-9)
    assert added == pytest.approx(wanted_interference, abs=1e-9)


@given(layouts, moves, moves, shares)
def test_movement_and_interference_of_a_change(item, ring, far, share):
    change = SideChange(ring, far)
    moved, added = springs(change, item.carrier_sign, share)
    assert ring_movement(item, change, share) == pytest.approx(moved, abs=1e-9)
    assert interference_change(item, change) == pytest.approx(added, abs=1e-9)


@given(layouts, st.floats(0.01, 0.3))
def test_equal_and_opposite_keeps_the_preload_and_moves_exactly(item, amount):
    change = plan_change(item, amount, 0.0)
    assert change.ring == pytest.approx(-change.far)
    assert interference_change(item, change) == pytest.approx(0.0)
    assert ring_movement(item, change) == pytest.approx(amount)


@given(layouts, st.floats(0.01, 0.3))
def test_the_side_that_opens_the_backlash(item, amount):
    thicker = {item.opens_backlash.value: amount}
    change = SideChange(thicker.get("ring", 0.0), thicker.get("far", 0.0))
    assert ring_movement(item, change) > 0


def test_travel_per_hole():
    # A thread of 1.5 mm pitch with 24 lock holes: 1.5/24 mm.
    assert thickness_per_hole(1.5, 24) == pytest.approx(0.0625)
