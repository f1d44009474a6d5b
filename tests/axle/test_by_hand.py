"""Sums worked by hand, at the ends of what each takes: one figure each, with where it comes from."""

from __future__ import annotations

import math
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from axle.contact.mark import Flanked, FlankMark
from axle.contact.patch import HEIGHTS, LENGTHS, Patch
from axle.contact.pattern_runout import wander
from axle.contact.pitch import solve_pitch, spiral_bevel
from axle.errors import AxleError
from axle.fasteners.star_order import tightening_order
from axle.fasteners.threads import adapter_setting
from axle.gearset import GearSet
from axle.preload.bites import Bite, BiteVerdict, next_bite
from axle.procedure.conditions import FeelerConditions
from axle.procedure.steady import read_back

# ---- gears


@given(st.floats(2.5, 6.0), st.floats(60, 160), st.floats(0.1, 0.8))
def test_tooth_and_pitch_plane_of_a_spiral_bevel_are_unit_and_square(ratio, radius, spiral):
    # ISO 23509, 3: the tooth lies in the pitch plane, at the spiral angle from the cone's element.
    point = spiral_bevel(ratio, radius, spiral)
    tooth, normal = np.array(point.tooth), np.array(point.normal)
    assert np.linalg.norm(tooth) == pytest.approx(1)
    assert np.linalg.norm(normal) == pytest.approx(1)
    assert tooth @ normal == pytest.approx(0, abs=1e-12)
    element = np.array([math.sin(point.ring_angle), 0.0, -math.cos(point.ring_angle)])
    assert tooth @ element == pytest.approx(math.cos(spiral))
    assert math.tan(point.ring_angle) == pytest.approx(ratio)
    assert point.ring_angle + point.pinion_angle == pytest.approx(math.pi / 2)


def test_the_mean_radius_is_half_a_face_inside_the_outer_one():
    # ISO 23509, table of the pitch cone: r_m = d_e/2 − (b/2)·sin δ, with tan δ = z2/z1 at right angles.
    angle = math.atan(40 / 10)
    found = solve_pitch(
        10, 40, ring_diameter=200.0, face_width=30.0, offset=0.0, spiral=0.6, cutter_radius=100.0
    )
    assert found.mean_radius == pytest.approx(100.0 - 15.0 * math.sin(angle))
    assert found.ring_angle == pytest.approx(angle)


@pytest.mark.parametrize(
    ("field", "least", "most"),
    [
        ("cutter_radius", 0.2 * 222.0, 222.0),
        ("working_depth", 1.0, 222.0 / 8),
        ("addendum_share", 0.05, 0.6),
        ("drive_angle", math.radians(5), math.radians(40)),
    ],
)
def test_a_set_takes_figures_up_to_both_ends_of_their_range(field, least, most):
    for value in (least, most):
        assert getattr(GearSet(9, 38, **{field: value}), field) == value
    for value in (least * 0.99, most * 1.01):
        with pytest.raises(AxleError):
            GearSet(9, 38, **{field: value})


# ---- patches


def test_words_for_a_place_run_from_one_end_to_the_other():
    for words in (HEIGHTS, LENGTHS):
        assert list(words.values()) == sorted(words.values())
    # By definition: “low” is as far from the middle as “high”.
    heights = list(HEIGHTS.values())
    assert [a + b for a, b in zip(heights, reversed(heights), strict=True)] == pytest.approx([1.0] * 7)
    # Common practice, no source: the middle of a central pattern is a little to the toe of the tooth's own.
    assert 0.4 < LENGTHS["central"] < 0.5


@pytest.mark.parametrize("axis", ["along", "up"])
def test_a_pattern_wanders_along_or_up_as_its_patches_do(axis):
    shifts = [0.1 * math.cos(math.tau * k / 6) for k in range(6)]
    marks = {
        k + 1: FlankMark(
            (
                Patch.box(0.2 + s, 0.6 + s, 0.3, 0.6)
                if axis == "along"
                else Patch.box(0.2, 0.6, 0.3 + s, 0.6 + s),
            )
        )
        for k, s in enumerate(shifts)
    }
    found = wander({"drive": Flanked(marks)}, 6, 3.73)
    moved, still = (found.along, found.up) if axis == "along" else (found.up, found.along)
    assert moved == pytest.approx(0.2, abs=0.01)
    assert still == pytest.approx(0, abs=0.01)
    assert found.places == 6


# ---- torques


def test_without_angles_a_bite_is_a_share_of_the_last_by_twice_its_gain():
    # By hand: 0.4 N·m to the bottom of the range, the last bite gave 0.5: 0.4/(2 · 0.5) = 0.4 of it.
    found = next_bite([Bite(0.0), Bite(0.6), Bite(1.1)], 1.5, 2.2)
    assert found.verdict is BiteVerdict.BITE
    assert found.amount == pytest.approx(0.4)


def test_an_adapter_lengthens_the_wrench_by_its_reach():
    # Lever arms: the same hand force on a lever a fifth longer turns a fifth harder.
    assert adapter_setting(120.0, 400.0, 80.0) == pytest.approx(100.0)
    assert adapter_setting(120.0, 400.0, 80.0, math.pi / 2) == pytest.approx(120.0)
    assert adapter_setting(0.0, 400.0, 80.0) == 0
    for wrong in ((-1.0, 400.0, 80.0), (120.0, 0.0, 80.0), (120.0, 400.0, -1.0)):
        with pytest.raises(AxleError):
            adapter_setting(*wrong)


@pytest.mark.parametrize("shape", ["circle", "caps", "pair", "single"])
@pytest.mark.parametrize("count", [1, 2, 10, 40])
def test_every_bolt_is_tightened_once(shape, count):
    order = tightening_order(shape, count)
    assert sorted(order) == list(range(1, count + 1))
    assert order[0] == 1


@pytest.mark.parametrize("count", [0, 41])
def test_no_bolts_or_too_many_are_refused(count):
    with pytest.raises(AxleError):
        tightening_order("circle", count)


def test_on_a_circle_the_second_bolt_is_across_from_the_first():
    # Common practice, no source: across, never beside.
    order = tightening_order("circle", 10)
    apart = [min((b - a) % 10, (a - b) % 10) for a, b in pairwise(order)]
    assert apart[0] == 5
    assert min(apart) > 1


# ---- what was typed or sent


def test_a_feeler_that_will_not_enter_at_all_is_an_interval_from_nothing():
    assert FeelerConditions(passes=0, binds=0.04).binds == 0.04
    for passes, binds in ((0.04, 0.04), (-0.01, 0.04), (0.05, 0.04)):
        with pytest.raises(AxleError):
            FeelerConditions(passes=passes, binds=binds)


def test_samples_are_kept_in_their_order_of_time_and_wild_ones_dropped():
    samples = read_back("200:1.5;100:-2.5;300:-2000000;400:2000000;x:1;2000000000000:1")
    assert [(s.at, s.value) for s in samples] == [(100, -2.5), (200, 1.5)]
