"""The pitch point against its own definition, a worked example, and two cones that roll on each other."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from axle.contact.pitch import pitch_point, solve_pitch, spiral_bevel
from axle.errors import AxleError

teeth = st.sampled_from(
    [(8, 41), (9, 38), (9, 41), (10, 41), (11, 41), (12, 41), (13, 40), (15, 41), (16, 41)]
)
rings = st.floats(150, 300)


EXAMPLE = {
    "ring_diameter": 222.0,
    "face_width": 32.0,
    "offset": 38.0,
    "spiral": math.radians(28.2),
    "cutter_radius": 114.3,
}


def test_the_example_set():
    # Worked example of the project's models: 41/11, 222 mm ring, 32 mm face, E = 38 mm, r_c = 114.3 mm.
    found = solve_pitch(11, 41, **EXAMPLE)
    degrees = [math.degrees(a) for a in (found.ring_angle, found.pinion_angle, found.pinion_spiral)]
    assert degrees == pytest.approx([72.5, 16.3, 50.0], abs=0.06)
    assert math.degrees(found.limit_pressure_angle) == pytest.approx(-7.8, abs=0.05)
    assert found.limit_radius == pytest.approx(114.3)
    # common practice, no source: with an offset 2 to 5 degrees under atan(N2/N1)
    assert 2 <= math.degrees(math.atan(41 / 11) - found.ring_angle) <= 5


@settings(max_examples=25)
@given(teeth, rings, st.floats(0.10, 0.20), st.floats(22, 34), st.floats(0.40, 0.60))
def test_the_pitch_point_is_what_it_is_defined_as(counts, ring, offset, spiral, cutter):
    n1, n2 = counts
    e = offset * ring
    found = solve_pitch(
        n1,
        n2,
        ring_diameter=ring,
        face_width=0.144 * ring,
        offset=e,
        spiral=math.radians(spiral),
        cutter_radius=cutter * ring,
    )
    p, n, t = (np.array(v) for v in (found.point, found.normal, found.tooth))
    assert found.residual < 1e-9
    # the normal meets both axes
    assert np.cross(p, n)[2] == pytest.approx(0, abs=1e-9 * ring)
    assert np.cross(p - [0, e, 0], n)[0] == pytest.approx(0, abs=1e-9 * ring)
    # the sliding has nothing along the normal, and runs along the tooth
    sliding = np.cross([0, 0, 1], p) - n2 / n1 * np.cross([1, 0, 0], p - [0, e, 0])
    assert sliding @ n == pytest.approx(0, abs=1e-9 * ring)
    assert abs(sliding @ t) == pytest.approx(np.linalg.norm(sliding))
    # pitch angles are those of the normal to the axes
    assert found.ring_angle == pytest.approx(math.asin(n[2]))
    assert found.pinion_angle == pytest.approx(math.asin(n[0]))
    assert found.pinion_spiral > found.ring_spiral
    # the ring lies under the axis of the pinion
    assert p[2] < 0
    # both tooth systems share one normal pitch: N1/N2 = r1·cos ψ1/(r2·cos ψ2)
    r1 = math.hypot(p[1] - e, p[2])
    pitch = r1 * math.cos(found.pinion_spiral) / (found.mean_radius * math.cos(found.ring_spiral))
    assert pitch == pytest.approx(n1 / n2, rel=1e-9)
    assert found.limit_radius == pytest.approx(cutter * ring, rel=1e-6)


@given(teeth, rings, st.floats(20, 40))
def test_a_small_offset_comes_to_the_spiral_bevel(counts, ring, spiral):
    n1, n2 = counts
    bevel = spiral_bevel(n2 / n1, 0.43 * ring, math.radians(spiral))
    near = pitch_point(
        n2 / n1, 0.43 * ring, offset=1e-4 * ring, spiral=math.radians(spiral), ring_angle=bevel.ring_angle
    )
    assert near.pinion_angle == pytest.approx(bevel.pinion_angle, abs=1e-3)
    assert near.pinion_spiral == pytest.approx(bevel.pinion_spiral, abs=2e-3)
    assert near.point[2] == pytest.approx(bevel.point[2], rel=1e-2)


def test_what_cannot_be_is_refused_in_words():
    with pytest.raises(AxleError, match="proportions that one cutter can make"):
        solve_pitch(11, 41, **{**EXAMPLE, "cutter_radius": 5.0})
    with pytest.raises(AxleError, match="offset: 120 mm was given"):
        pitch_point(41 / 11, 95.0, offset=120.0, spiral=0.5, ring_angle=1.2)
    with pytest.raises(AxleError, match="proportions that have a pitch point"):
        pitch_point(41 / 11, 95.0, offset=38.0, spiral=math.radians(89.9), ring_angle=1.2)
