"""The ring gear's flanks against finite differences, the tooth's own angles, and the shape of a cut."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from axle.contact.flank import Flank, Tooth
from axle.contact.pitch import solve_pitch
from axle.errors import AxleError


def tooth(n1=11, n2=41, ring=222.0, offset=0.171, spiral=28.2, cutter=0.515) -> Tooth:
    pitch = solve_pitch(
        n1,
        n2,
        ring_diameter=ring,
        face_width=0.144 * ring,
        offset=offset * ring,
        spiral=math.radians(spiral),
        cutter_radius=cutter * ring,
    )
    high = 0.036 * ring
    return Tooth(pitch, 0.144 * ring, addendum=0.2 * high, dedendum=0.8 * high, cutter_radius=cutter * ring)


teeth = st.builds(
    tooth,
    st.sampled_from([8, 9, 11, 13]),
    st.sampled_from([39, 40, 41]),
    st.floats(150, 300),
    st.floats(0.1, 0.19),
    st.floats(24, 33),
    st.floats(0.42, 0.58),
)
GRID = np.array(np.meshgrid(np.linspace(0, 1, 5), np.linspace(0, 1, 4)))


@settings(max_examples=12)
@given(teeth, st.booleans(), st.floats(10, 30))
def test_normals_stand_square_to_the_surface(item, convex, degrees):
    flank = Flank(item, convex, math.radians(degrees))
    angle, height = flank.where(*GRID)
    step = 1e-5
    along = (flank.at(angle + step, height) - flank.at(angle - step, height)) / (2 * step)
    up = (flank.at(angle, height + step) - flank.at(angle, height - step)) / (2 * step)
    numeric = np.cross(along, up, axis=0)
    numeric /= np.linalg.norm(numeric, axis=0)
    normal = flank.normal(angle)
    assert np.linalg.norm(normal, axis=0) == pytest.approx(np.ones(GRID[0].shape))
    assert np.abs(np.sum(numeric * normal, axis=0)) == pytest.approx(np.ones(GRID[0].shape), abs=1e-8)
    # both flanks look up, out of the root
    assert np.all(np.tensordot(np.array(item.pitch.normal), normal, axes=1) > 0)


@settings(max_examples=12)
@given(teeth, st.booleans())
def test_every_place_of_the_flank_is_found(item, convex):
    flank = Flank(item, convex, math.radians(20))
    points = flank.at(*flank.where(*GRID))
    radius, height = np.hypot(points[0], points[1]), points[2]
    middle = np.array([item.pitch.mean_radius, item.pitch.point[2]])
    generator = np.array([math.sin(item.pitch.ring_angle), -math.cos(item.pitch.ring_angle)])
    square = np.array([-generator[1], generator[0]])
    apart = np.array([radius, height]) - middle[:, None, None]
    along = np.tensordot(generator, apart, axes=1) / item.face_width + 0.5
    up = (np.tensordot(square, apart, axes=1) + item.dedendum) / (item.addendum + item.dedendum)
    assert along == pytest.approx(GRID[0], abs=1e-9)
    assert up == pytest.approx(GRID[1], abs=1e-9)


@settings(max_examples=12)
@given(teeth)
def test_the_spiral_is_as_given_in_the_middle_and_grows_to_the_heel(item):
    flank = Flank(item, convex=True, pressure_angle=math.radians(15))
    spirals = []
    on_cone = item.dedendum / (item.addendum + item.dedendum)
    for u in (0.1, 0.5, 0.9):
        angle, height = flank.where(np.array([u]), np.array([on_cone]))
        step = 1e-6
        along = (flank.at(angle + step, height) - flank.at(angle - step, height))[:, 0]
        point = flank.at(angle, height)[:, 0]
        out = np.array([point[0], point[1], 0]) / math.hypot(point[0], point[1])
        generator = math.sin(item.pitch.ring_angle) * out + np.array(
            [0, 0, -math.cos(item.pitch.ring_angle)]
        )
        spirals.append(math.acos(abs(along @ generator) / np.linalg.norm(along)))
    assert spirals[1] == pytest.approx(item.pitch.ring_spiral, abs=1e-5)
    assert spirals[0] < spirals[1] < spirals[2]


def test_both_flanks_stand_a_tooth_apart_at_the_root_and_nearer_at_the_top():
    item = tooth()
    convex, concave = Flank(item, True, math.radians(15)), Flank(item, False, math.radians(27))
    grow = []
    for height in (-2.0, 0.0, 2.0):
        a, b = (f.at(np.array([0.0]), np.array([height]))[:, 0] for f in (convex, concave))
        grow.append(float((a - b) @ item.frame[2]))
    # the blades' cones meet at the pitch plane: over it the tooth narrows by both flank angles
    assert grow[1] == pytest.approx(0, abs=1e-12)
    assert grow[2] - grow[1] == pytest.approx(
        -2 * (math.tan(math.radians(15)) + math.tan(math.radians(27)))
    )


@pytest.mark.parametrize("given_value", [{"pressure_angle": 0.0}, {"pressure_angle": 1.2}])
def test_what_cannot_be_is_refused(given_value):
    with pytest.raises(AxleError, match="pressure angle"):
        Flank(tooth(), convex=True, **given_value)
    with pytest.raises(AxleError, match="addendum"):
        Tooth(tooth().pitch, 30, addendum=0, dedendum=5, cutter_radius=100)
