"""The computed pattern against moved surfaces, the meshing's own definition, and what the trade sees."""

from __future__ import annotations

import math
from functools import cache

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import brentq

from axle.contact.flank import Flank, Tooth
from axle.contact.mesh import displacement, mesh, opened
from axle.contact.pattern import COMPOUND, EaseOff, Meshing
from axle.contact.pitch import solve_pitch
from axle.errors import AxleError

RING, FACE, OFFSET, RATIO = 222.0, 32.0, 38.0, 41 / 11
# Flank angles of the models' example: drive 15 degrees, coast 27.
ANGLES = {"drive": math.radians(15), "coast": math.radians(27)}


@cache
def flank(which: str, cutter: float = 114.3) -> Flank:
    pitch = solve_pitch(
        11,
        41,
        ring_diameter=RING,
        face_width=FACE,
        offset=OFFSET,
        spiral=math.radians(50),
        cutter_radius=cutter,
        of_pinion=True,
    )
    return Flank(
        Tooth(pitch, FACE, addendum=1.9, dedendum=6.3, cutter_radius=cutter),
        which == "drive",
        ANGLES[which],
    )


@cache
def meshing(which: str, cutter: float = 114.3) -> Meshing:
    return Meshing(flank(which, cutter), 41, ratio=RATIO, offset=OFFSET)


def moved(which: str, cutter: float = 114.3, **by: float) -> np.ndarray:
    item = meshing(which, cutter)
    return np.array(item.pattern(EaseOff(), **by).centroid) - item.pattern(EaseOff()).centroid


def places(which: str):
    item = flank(which)
    angle, height = item.where(*np.meshgrid(np.linspace(0, 1, 7), np.linspace(0, 1, 5)))
    return item, angle, height


@pytest.mark.parametrize("which", ["drive", "coast"])
def test_in_contact_the_normal_is_square_to_the_sliding(which):
    item, angle, height = places(which)
    contact = mesh(item.at(angle, height), item.normal(angle), RATIO, OFFSET)
    r, n = contact.points, contact.normals
    stands = np.array([0.0, OFFSET, 0.0]).reshape(3, 1, 1)
    z, x = np.array([0, 0, 1.0]).reshape(3, 1, 1), np.array([1.0, 0, 0]).reshape(3, 1, 1)
    sliding = np.cross(z, r, axis=0) - RATIO * np.cross(x, r - stands, axis=0)
    assert np.abs(np.sum(sliding * n, axis=0)).max() < 1e-9 * RING
    # the pitch point touches as it was cut
    assert meshing(which).pitch_contact.angle == pytest.approx([0.0], abs=0.01)


@pytest.mark.parametrize("which", ["drive", "coast"])
def test_contact_lines_run_where_the_angle_does_not_change(which):
    item, angle, height = places(which)

    def phi(a, h):
        return mesh(item.at(a, h), item.normal(a), RATIO, OFFSET).angle

    step = 1e-6
    by_angle = (phi(angle + step, height) - phi(angle - step, height)) / (2 * step)
    by_height = (phi(angle, height + step) - phi(angle, height - step)) / (2 * step)
    # along (−dφ/dh, dφ/da) the angle stays, to second order
    small = 1e-4
    length = np.hypot(by_angle, by_height)
    along = phi(angle - small * by_height / length, height + small * by_angle / length)
    assert np.abs(along - phi(angle, height)).max() < 1e-7


def test_both_flanks_would_curve_alike_at_the_limit_angle():
    """At P the root of the meshing is double for the limit normal: it lies 7.8° past upright, on the drive
    flank's side, so the drive flank's 15° and the coast flank's 27° stand about as far from it."""
    pitch = flank("drive").tooth.pitch
    point, normal, outward, _ = flank("drive").tooth.frame

    def turning(alpha: float) -> float:
        n = math.sin(alpha) * normal + math.cos(alpha) * outward
        m = np.cross(point, n)
        return float(m[1])

    assert brentq(turning, -0.5, 0.5) == pytest.approx(pitch.limit_pressure_angle, rel=0.01)


@settings(max_examples=30)
@given(
    st.sampled_from(["drive", "coast"]),
    st.floats(0.1, 0.9),
    st.floats(0.1, 0.9),
    st.tuples(*(st.floats(-0.2, 0.2) for _ in range(3))),
    st.floats(-5e-4, 5e-4),
)
def test_gaps_are_those_of_moved_surfaces(which, u, v, moves, tilt):
    """The pinion's surface, taken as the ring's own tangent sphere, is moved and the ring turned to meet it."""
    item = flank(which)
    angle, height = item.where(np.array([u]), np.array([v]))
    contact = mesh(item.at(angle, height), item.normal(angle), RATIO, OFFSET)
    depth, ring, offset = moves
    move = displacement(contact.points, depth=depth, ring=ring, offset=offset, tilt=tilt)
    r, n = contact.points[:, 0], contact.normals[:, 0]
    delta = np.array([-depth, offset, ring]) + tilt * np.cross([0, 1, 0], r)
    # a plane through r, moved by delta: the ring's place turned by θ must come to lie in it
    way = math.copysign(1.0, r[0] * n[1] - r[1] * n[0])

    def off(theta: float) -> float:
        turned = np.array(
            [
                math.cos(theta) * r[0] - math.sin(theta) * r[1],
                math.sin(theta) * r[0] + math.cos(theta) * r[1],
                r[2],
            ]
        )
        return float((turned - r - delta) @ n)

    radius = item.tooth.pitch.mean_radius
    exact = way * brentq(off, -0.02, 0.02) * radius
    assert opened(contact, move, radius)[0] == pytest.approx(
        exact, abs=0.003 * (1e-3 + sum(map(abs, moves)))
    )


@pytest.mark.parametrize("which", ["drive", "coast"])
def test_deep_is_low_and_shallow_is_high(which):
    # common practice, no source: depth moves the pattern mainly in height
    deep, shallow = moved(which, depth=0.127), moved(which, depth=-0.127)
    assert deep[1] < -0.05
    assert shallow[1] > 0.05
    assert abs(deep[1]) > 2 * abs(deep[0])


def test_the_example_sets_orders_of_magnitude():
    # Trial figures of the project's models: 0.127 mm deeper moves the drive patch 0.10 of the height down and
    # 0.035 of the length to the toe, the coast patch 0.15 down and 0.015 to the heel.
    assert moved("drive", depth=0.127) == pytest.approx([-0.035, -0.10], abs=0.01)
    assert moved("coast", depth=0.127) == pytest.approx([0.015, -0.15], abs=0.03)


def test_more_backlash_moves_the_drive_flank_a_little_to_the_heel():
    # common practice, no source
    u, v = moved("drive", ring=0.1)
    assert 0.005 < u < 0.04
    assert abs(v) < u


def test_the_cutter_decides_where_the_coast_flank_goes():
    # Models of the project: 76 mm to the toe, 95 mm hardly, 114 mm to the heel, for deep and for open alike.
    for by in ({"depth": 0.127}, {"ring": 0.1}):
        small, middle, large = (moved("coast", cutter, **by)[0] for cutter in (76.0, 95.0, 114.3))
        assert small < -0.008
        assert abs(middle) < 0.006
        assert large > 0.005


def test_backlash_is_that_of_the_closed_forms():
    """Models §6, exact at the mean point: (tan α_d + tan α_c)·sin Γ/cos ψ per ring, −…·sin γ/cos ψ per depth."""
    pitch = flank("drive").tooth.pitch
    sums = {"depth": 0.0, "ring": 0.0}
    for which in ANGLES:
        contact = meshing(which).pitch_contact
        for kind in sums:
            move = displacement(contact.points, **{kind: 1.0})
            sums[kind] += float(opened(contact, move, pitch.mean_radius)[0])
    tangents = sum(math.tan(a) for a in ANGLES.values()) / math.cos(pitch.ring_spiral)
    assert sums["ring"] == pytest.approx(tangents * math.sin(pitch.ring_angle), rel=0.03)
    assert sums["depth"] == pytest.approx(-tangents * math.sin(pitch.pinion_angle), rel=0.03)


def test_what_is_wiped_is_within_the_compound_of_what_touches_first():
    """A second way to the union: at each moment every place of three teeth, one by one."""
    item, ease = meshing("drive"), EaseOff()
    pitch_angle = 2 * math.pi / 41
    grid = np.meshgrid(np.linspace(0, 1, 41), np.linspace(0, 1, 41))
    angle, height = item.flank.where(*grid)
    contact = mesh(item.flank.at(angle, height), item.flank.normal(angle), RATIO, OFFSET)
    move = displacement(contact.points, depth=0.05)
    radius = item.flank.tooth.pitch.mean_radius
    gap = ease.at(*grid) + opened(contact, move, radius)
    phase = contact.angle % pitch_angle
    wiped = np.zeros(grid[0].shape, dtype=bool)
    for moment in np.linspace(0, pitch_angle, 60, endpoint=False):
        near = np.abs((phase - moment + pitch_angle / 2) % pitch_angle - pitch_angle / 2) < pitch_angle / 60
        wiped |= near & (gap - gap[near].min() < COMPOUND / contact.lever * radius)
    mean = np.array([grid[0][wiped].mean(), grid[1][wiped].mean()])
    pattern = item.pattern(ease, depth=0.05)
    assert pattern.centroid == pytest.approx(mean, abs=0.015)
    assert pattern.area == pytest.approx(wiped.mean(), rel=0.1)


def test_edges_are_named_and_a_heavier_print_is_larger():
    item = meshing("drive")
    assert item.pattern(EaseOff()).edges == ()
    assert item.pattern(EaseOff(), depth=0.25).edges == ("root",)
    assert item.pattern(EaseOff(centre=(0.05, 0.5))).edges == ("toe",)
    assert item.pattern(EaseOff(), compound=0.012).area > 1.2 * item.pattern(EaseOff()).area
    assert item.pattern(EaseOff()).error > 0


def test_a_crown_that_is_none_is_refused():
    with pytest.raises(AxleError, match="crowning"):
        EaseOff(0.1, 0.02, bias=0.1)
