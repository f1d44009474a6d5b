"""Families of cut over the ratios and rings that are treated: what must come out for all of them."""

from __future__ import annotations

import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from axle.contact.cut import Cut, cut, families, tooth
from axle.contact.response import pair, response
from axle.errors import AxleError

# Ratios from 2.5 to 7.2, as tooth counts met in axles.
TEETH = [(16, 40), (15, 41), (13, 40), (12, 41), (11, 41), (10, 41), (9, 41), (8, 41), (7, 43), (6, 43)]
sets = st.builds(
    lambda family, teeth, ring: cut(family, *teeth, ring),
    st.sampled_from(sorted(families())),
    st.sampled_from(TEETH),
    st.floats(150, 300),
)


@settings(max_examples=30)
@given(sets)
def test_depth_is_height_on_every_set(item: Cut):
    # Models §8, "must come out": deep is low on both flanks and to the toe on the drive flank; depth moves the
    # pattern mainly in height.
    found = response(item).pattern["depth"]
    drive_u, drive_v, _, coast_v = found
    assert drive_v < 0
    assert coast_v < 0
    assert drive_u < 0
    assert abs(drive_v) > 2 * abs(drive_u)


@settings(max_examples=30)
@given(sets)
def test_open_is_a_little_to_the_heel_on_every_set(item: Cut):
    found = response(item).pattern
    drive_u, drive_v, _, _ = found["ring"]
    assert drive_u > abs(drive_v)
    # Models §8: ring movement does less, about 0.02 of the face for 4 thou on a 222 mm ring.
    assert drive_u * 0.1 * item.ring_diameter / 222 < 0.04
    assert abs(drive_v) < 0.3 * abs(found["depth"][1])


@settings(max_examples=30)
@given(sets)
def test_backlash_lies_where_axles_show_it(item: Cut):
    # Models §6: 0.72 to 0.98 per ring movement at the mean radius for automotive sets; depth closes it.
    found = response(item).backlash
    assert 0.70 < found["ring"] < 0.98
    assert -0.65 < found["depth"] < -0.19


@settings(max_examples=20)
@given(sets, st.floats(-0.15, 0.15), st.floats(-0.15, 0.15))
def test_a_set_twice_as_large_has_the_same_pattern_for_twice_the_move(item: Cut, depth: float, ring: float):
    """Geometry knows no size, so the reference is a set of 150 mm and the compound scaled with it."""
    scale = item.ring_diameter / 150
    small = pair(_of(item, 150.0), compound=0.006, depth=depth, ring=ring)
    large = pair(item, compound=0.006 * scale, depth=depth * scale, ring=ring * scale)
    assert large.centroids == pytest.approx(small.centroids, abs=1e-6)
    assert large.convex.area == pytest.approx(small.convex.area, abs=1e-6)


def test_the_cutter_turns_the_coast_flanks_travel_round():
    # Models §8: why charts disagree. Small to the toe, large to the heel, for deep and for open alike.
    for kind in ("depth", "ring"):
        travel = [
            response(cut(f"{size}_cutter", 11, 41, 222.0)).pattern[kind][2]
            for size in ("small", "middle", "large")
        ]
        assert travel[0] < travel[1] < travel[2]
        assert travel[0] < 0 < travel[2]


def test_proportions_of_the_example():
    item = cut("large_cutter", 11, 41, 222.0)
    # Example of the models: 32 mm face, 38 mm offset, 114.3 mm cutter
    figures = (item.face_width, item.offset, item.cutter_radius)
    assert figures == pytest.approx((32.0, 38.0, 114.3), rel=0.002)
    assert math.degrees(tooth(item).pitch.ring_angle) == pytest.approx(72.5, abs=0.1)


def test_what_is_known_replaces_what_is_usual():
    item = cut("large_cutter", 11, 41, 222.0, offset=-30.0, cutter_radius=95.25, ring_spiral=0.5)
    assert (item.offset, item.cutter_radius, item.spiral, item.spiral_of_pinion) == (
        30.0,
        95.25,
        0.5,
        False,
    )
    # above and below centre are mirror images
    assert item == cut("large_cutter", 11, 41, 222.0, offset=30.0, cutter_radius=95.25, ring_spiral=0.5)


@pytest.mark.parametrize(
    ("given_values", "words"),
    [
        (("large_cutter", 20, 41, 222.0), "ratio: 41/20 = 2.05 was given; 2.5 to 7.2"),
        (("large_cutter", 11, 41, 120.0), "ring gear diameter: 120 mm was given; 150 to 300 mm"),
        (("round_cutter", 11, 41, 222.0), "family of cut: “round_cutter” was given"),
    ],
)
def test_what_is_not_treated_is_refused_in_words(given_values, words):
    with pytest.raises(AxleError, match=words):
        cut(*given_values)


def test_a_set_that_cannot_be_cut_is_refused_in_words():
    with pytest.raises(AxleError, match="proportions"):
        pair(cut("large_cutter", 11, 41, 222.0, cutter_radius=15.0))


def _of(item: Cut, ring: float) -> Cut:
    scale = ring / item.ring_diameter
    made = cut(_family(item), item.pinion_teeth, item.ring_teeth, ring)
    assert made.offset == pytest.approx(scale * item.offset)
    return made


def _family(item: Cut) -> str:
    """The family whose cutter it has."""
    return min(
        families(),
        key=lambda key: (
            abs(families()[key].cutter_radius - item.cutter_radius / item.ring_diameter)
            + abs(families()[key].offset - item.offset / item.ring_diameter)
        ),
    )
