"""The closed backlash ratios against a rigid-body displacement of the two flanks."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from axle.backlash.ratios import prior_ratios
from axle.errors import AxleError
from axle.gearset import (
    GearSet,
    Stance,
    backlash_per_depth,
    backlash_per_ring_movement,
    indicated,
)

sets = st.builds(
    GearSet,
    pinion_teeth=st.integers(7, 14),
    ring_teeth=st.integers(30, 52),
    ring_diameter=st.floats(150, 300),
    face_width=st.floats(20, 45),
    offset=st.sampled_from([0.0, 25.0, 38.0]),
    ring_spiral=st.floats(math.radians(20), math.radians(40)),
    drive_angle=st.floats(math.radians(12), math.radians(25)),
    coast_angle=st.floats(math.radians(15), math.radians(30)),
)


def rigid_body_backlash(gears: GearSet, move_of_ring, move_of_pinion) -> float:
    """Backlash opened in the plane of rotation at the mean point, from vectors alone.

    Axes at the mean point of the ring gear: x along the ring's radius, y along its motion, z along
    its axis from its metal towards the pinion. Each flank's normal is built from the pitch cone's
    normal and the tooth's direction; a rotation dφ closes what the displacement opened.
    """
    gamma = gears.ring_pitch_angle
    # The pitch cone's generatrix leans by Γ from the axis; its normal points towards the pinion.
    generatrix = np.array([math.sin(gamma), 0.0, -math.cos(gamma)])
    cone_normal = np.array([math.cos(gamma), 0.0, math.sin(gamma)])
    motion = np.array([0.0, 1.0, 0.0])
    psi = gears.ring_spiral
    across = math.cos(psi) * motion + math.sin(psi) * generatrix  # square to the tooth
    shift = np.asarray(move_of_pinion) - np.asarray(move_of_ring)
    opened = 0.0
    for angle, side in ((gears.drive_angle, 1.0), (gears.coast_angle, -1.0)):
        normal = math.sin(angle) * cone_normal + side * math.cos(angle) * across
        assert np.linalg.norm(normal) == pytest.approx(1.0)
        gap = float(normal @ shift)  # opens where the pinion leaves along the normal
        opened += gap / abs(float(normal @ motion))
    return opened


@given(sets)
def test_ring_movement_opens_what_the_rigid_body_says(gears):
    # The ring gear moves away from the pinion: against z.
    opened = rigid_body_backlash(gears, [0.0, 0.0, -1.0], [0.0, 0.0, 0.0])
    assert backlash_per_ring_movement(gears) == pytest.approx(opened, rel=1e-9)


@given(sets)
def test_depth_closes_what_the_rigid_body_says(gears):
    # Deeper: the pinion moves along its own axis towards the ring's axis, against x. Its cone
    # touches the ring's along the generatrix, so along x it opens by cos Γ = sin γ.
    opened = rigid_body_backlash(gears, [0.0, 0.0, 0.0], [-1.0, 0.0, 0.0])
    assert backlash_per_depth(gears) == pytest.approx(opened, rel=1e-9)


@given(sets)
def test_a_shift_along_the_tooth_opens_nothing(gears):
    # A movement of the pinion about the ring's axis only turns it: nothing opens, whatever the
    # flank angles.
    assert rigid_body_backlash(gears, [0, 0, 0], [0.0, 1.0, 0.0]) == pytest.approx(0.0, abs=1e-12)


def test_usual_sets_fall_within_the_published_range_of_ratios():
    for teeth in ((9, 41), (11, 41), (10, 37), (13, 40)):
        gears = GearSet(*teeth)
        # From memory: 0.72-0.98 at the mean radius, depth about 0.23-0.40.
        assert 0.72 <= backlash_per_ring_movement(gears) <= 0.98
        assert 0.20 <= -backlash_per_depth(gears) <= 0.40


@pytest.mark.parametrize(
    ("teeth", "angles"),
    [((11, 41), (15, 27)), ((13, 40), (15, 27)), ((9, 41), (20, 20)), ((10, 37), (20, 20))],
)
@pytest.mark.parametrize("diameter", [180.0, 222.0, 260.0])
def test_square_to_the_flank_agrees_with_the_trade(teeth, angles, diameter):
    # Common practice, no source: 0.010 of shim moves about 0.007 of backlash, 0.005 about 0.003, one
    # and a quarter of shim for one of backlash: 0.6 to 0.8 as an indicator square to the flank shows
    # it. Flank angles of one usual hypoid set, or 20° both, usual for spiral bevels (from memory).
    drive, coast = (math.radians(angle) for angle in angles)
    gears = GearSet(
        *teeth, diameter, 0.145 * diameter, 0.17 * diameter, drive_angle=drive, coast_angle=coast
    )
    # The trade's figures have one decimal, so they are met at one decimal.
    assert 0.6 <= round(prior_ratios(gears, Stance.SQUARE).per_ring, 1) <= 0.8


@given(sets)
def test_an_indicator_along_the_motion_reads_the_heel(gears):
    # The heel turns with the ring: R_heel/r_m of what the mean radius does.
    assert indicated(gears, Stance.ALONG) == pytest.approx(gears.ring_diameter / 2 / gears.mean_radius)
    assert indicated(gears, Stance.SQUARE) < indicated(gears, Stance.ALONG)


def test_heel_over_mean_of_usual_sets():
    # From memory: 1.13 to 1.17.
    for diameter in (180.0, 222.0, 260.0):
        gears = GearSet(11, 41, ring_diameter=diameter, face_width=0.145 * diameter)
        assert 1.13 <= gears.heel_over_mean <= 1.17


def test_pitch_angle_of_a_spiral_bevel_is_exact():
    # Two cones that roll without offset: tan Γ = N2/N1 (any gear handbook).
    gears = GearSet(10, 40, offset=0.0)
    assert math.tan(gears.ring_pitch_angle) == pytest.approx(4.0)
    assert gears.ring_pitch_angle + gears.pinion_pitch_angle == pytest.approx(math.pi / 2)


def test_an_offset_set_has_a_smaller_pitch_angle():
    # A worked example solved on the pitch point, from memory: Γ 72.5° for 41/11, 38 mm offset.
    gears = GearSet(11, 41)
    assert math.degrees(gears.ring_pitch_angle) == pytest.approx(72.5, abs=0.5)


@pytest.mark.parametrize(
    ("teeth", "ratio", "hunting"),
    [((9, 38), 4.222, True), ((11, 41), 3.727, True), ((10, 40), 4.0, False), ((9, 39), 4.333, False)],
)
def test_ratio_and_hunting(teeth, ratio, hunting):
    # gcd(N1, N2) = 1: every tooth meets every tooth.
    gears = GearSet(*teeth)
    assert gears.ratio == pytest.approx(ratio, abs=5e-4)
    assert gears.is_hunting is hunting


@pytest.mark.parametrize(
    ("given_values", "words"),
    [
        ({"pinion_teeth": 3}, "pinion teeth: 3 was given; 5 to 20"),
        ({"ring_teeth": 9}, "ring gear teeth: 9 was given"),
        ({"ring_diameter": 30}, "ring gear diameter, mm: 30 was given; 100 to 400"),
        ({"face_width": 120}, "face width, mm: 120 was given"),
        ({"offset": 200}, "offset, mm: 200 was given"),
        ({"ring_spiral": 1.5}, "ring spiral angle"),
        ({"drive_angle": 0.0}, "drive pressure angle"),
        ({"coast_angle": 1.2}, "coast pressure angle"),
    ],
)
def test_gears_that_cannot_be_are_refused(given_values, words):
    usual = {"pinion_teeth": 9, "ring_teeth": 38}
    with pytest.raises(AxleError) as refused:
        GearSet(**(usual | given_values))
    assert words in str(refused.value)
