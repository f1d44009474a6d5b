"""The pose of a computed flank, held to exact projections, to laws, and to teeth built on other equations."""

from __future__ import annotations

import math

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from axle.contact.cut import cut, families, tooth
from axle.contact.flank import Flank
from axle.errors import AxleError
from axle.photo.edges import hidden_below
from axle.photo.pose import NAMES, PLACES, are_close, poses, sense
from axle.photo.questions import hand_seen
from axle.photo.reading import checked
from axle.photo.surface import plain_surface, surface_of
from axle.simulator.ring_scenes import print_snap
from axle.simulator.ring_teeth import RingTeeth

SIZE, FOCAL = (1600, 1200), 50.0
PIXELS = FOCAL / math.hypot(36, 24) * math.hypot(*SIZE)
GRID = np.array([(u, v) for u in np.linspace(0.1, 0.9, 5) for v in np.linspace(0.1, 0.9, 5)])
FAMILIES = sorted(families())


def flank_points(family: str, places: np.ndarray, *, convex: bool, mirrored: bool = False) -> np.ndarray:
    """Points of the computed flank itself, from the cutter's cones."""
    item = cut(family, 11, 41, 222.0)
    flank = Flank(tooth(item), convex, item.convex_angle if convex else item.concave_angle)
    points = flank.at(*flank.where(*places.T)).T
    return points * [1, -1, 1] if mirrored else points


def pinhole(points: np.ndarray, about: np.ndarray, turn: np.ndarray, away: float) -> np.ndarray:
    """Central projection through a point: the plainest camera there is."""
    seen = (points - about) @ turn.T + [0.0, 0.0, away]
    return np.asarray(seen[:, :2] / seen[:, 2:] * PIXELS + np.array(SIZE) / 2)


def looked_at(family: str, *, convex: bool, tilt: float, lean: float, roll: float, mirrored: bool = False):
    """Pixels of the six places and of a grid, with a camera so far off the flank's normal."""
    about = flank_points(family, np.array([[0.5, 0.5]]), convex=convex, mirrored=mirrored)[0]
    ends = np.array([[0.48, 0.5], [0.52, 0.5], [0.5, 0.48], [0.5, 0.52]])
    toe, heel, low, high = flank_points(family, ends, convex=convex, mirrored=mirrored)
    along, up = (heel - toe) / np.linalg.norm(heel - toe), high - low
    up = (up - (up @ along) * along) / np.linalg.norm(up - (up @ along) * along)
    out = np.cross(along, up) * (1 if convex != mirrored else -1)
    towards = math.cos(tilt) * out + math.sin(tilt) * (math.cos(lean) * up + math.sin(lean) * along)
    towards /= np.linalg.norm(towards)
    right = np.cross(-towards, up)
    right /= np.linalg.norm(right)
    turn = Rotation.from_rotvec([0, 0, roll]).as_matrix() @ np.stack(
        [right, np.cross(-towards, right), -towards]
    )
    return [
        pinhole(flank_points(family, p, convex=convex, mirrored=mirrored), about, turn, 110.0)
        for p in (PLACES, GRID)
    ]


@pytest.mark.parametrize("mirrored", [False, True], ids=["one hand", "other hand"])
@pytest.mark.parametrize("convex", [True, False], ids=["convex", "concave"])
@pytest.mark.parametrize("family", FAMILIES)
def test_exact_taps_give_the_exact_map(family, convex, mirrored):
    for tilt, lean, roll in ((0.5, 0.2, 0.3), (0.65, -0.4, 2.0)):
        taps, pixels = looked_at(family, convex=convex, tilt=tilt, lean=lean, roll=roll, mirrored=mirrored)
        surface = surface_of(cut(family, 11, 41, 222.0), convex=convex)
        pose = poses(surface, taps, SIZE, FOCAL, tap_share=1e-4)[0]
        assert np.abs(pose.places(pixels) - GRID).max() < 0.005
        assert math.degrees(pose.off_square) == pytest.approx(math.degrees(tilt), abs=3)


@pytest.mark.parametrize("family", FAMILIES)
def test_the_surface_is_the_cutter_s_cone(family):
    surface = surface_of(cut(family, 11, 41, 222.0), convex=True)
    assert surface.at(*GRID.T) == pytest.approx(flank_points(family, GRID, convex=True), abs=1e-4)


def test_turning_scaling_and_mirroring_the_picture_change_nothing():
    taps, pixels = looked_at("large_cutter", convex=True, tilt=0.55, lean=0.1, roll=0.4)
    surface = surface_of(cut("large_cutter", 11, 41, 222.0), convex=True)
    rng = np.random.default_rng(3)
    taps = taps + rng.normal(0, 4, taps.shape)
    first = poses(surface, taps, SIZE, FOCAL)[0].places(pixels)

    def turned(points):
        return np.column_stack([SIZE[1] - points[:, 1], points[:, 0]])

    quarter = poses(surface, turned(taps), SIZE[::-1], FOCAL)[0].places(turned(pixels))
    large = poses(surface, taps * 2, (SIZE[0] * 2, SIZE[1] * 2), FOCAL)[0].places(pixels * 2)
    flipped = [np.column_stack([SIZE[0] - p[:, 0], p[:, 1]]) for p in (taps, pixels)]
    mirror = poses(surface, flipped[0], SIZE, FOCAL)[0].places(flipped[1])
    for other in (quarter, large, mirror):
        assert other == pytest.approx(first, abs=2e-3)


@pytest.mark.parametrize("convex", [True, False])
@pytest.mark.parametrize("family", FAMILIES)
def test_the_simulator_s_teeth_are_the_same_teeth_on_other_equations(family, convex):
    """A circle rolled onto the cone against the cutter's own cones: a second derivation, within half a mm."""
    item = cut(family, 11, 41, 222.0)
    made = tooth(item)
    teeth = RingTeeth(
        41,
        made.pitch.ring_angle,
        made.pitch.mean_radius / math.sin(made.pitch.ring_angle),
        face_width=made.face_width,
        spiral=made.pitch.ring_spiral,
        cutter_radius=made.cutter_radius,
        convex_angle=item.convex_angle,
        concave_angle=item.concave_angle,
        addendum=made.addendum,
        dedendum=made.dedendum,
        taper=0.0,
    )
    ours = flank_points(family, GRID, convex=convex)
    theirs = teeth.flank(*GRID.T, convex=convex).T
    ours, theirs = ours - ours.mean(axis=0), theirs - theirs.mean(axis=0)
    turn, _ = Rotation.align_vectors(ours, theirs)
    assert np.linalg.norm(turn.apply(theirs) - ours, axis=1).max() < 0.5


@pytest.mark.parametrize("convex", [True, False])
def test_what_the_next_tooth_hides_is_foreseen(convex):
    line = ((0.3, 0.5), (0.6, 0.5), (0.6, 0.8), (0.3, 0.8))
    item = cut("middle_cutter", 11, 41, 222.0)
    for tilt in (26.0, 34.0, 44.0):
        snap = print_snap(item, line, convex=convex, colour="blue", seed=4, tilt=tilt, size=(600, 450))
        here = snap.shot.shown[..., 2] == 0
        u, v = snap.shot.shown[here][:, :2].T
        truly = np.array([v[abs(u - at) < 0.05].min() for at in (0.3, 0.5, 0.7)])
        pose = poses(surface_of(item, convex=convex), snap.shot.points[0], (600, 450), 50.0)[0]
        low = hidden_below(pose, surface_of(item, convex=not convex), np.array([0.3, 0.5, 0.7]))
        assert np.clip(low, 0, 1) == pytest.approx(np.clip(truly, 0, 1), abs=0.1)


def test_an_uncomputed_set_is_a_bowed_sheet():
    taps, pixels = looked_at("large_cutter", convex=True, tilt=0.5, lean=0.1, roll=0.0)
    pose = poses(plain_surface(convex=True), taps, SIZE, FOCAL, tap_share=1e-4)[0]
    off = np.abs(pose.places(pixels) - GRID)
    assert off.max() < 0.06


def test_the_way_round_tells_the_hand():
    left, right = (
        looked_at("large_cutter", convex=True, tilt=0.5, lean=0, roll=0, mirrored=m)[0]
        for m in (False, True)
    )
    assert sense(left) == -sense(right) == 1
    assert hand_seen(left, convex=True) == -hand_seen(right, convex=True) == -hand_seen(left, convex=False)


def test_both_mirror_poses_are_named_where_neither_is_likelier():
    """From straight before it a flank may lean either way: the costs are near."""
    taps, _ = looked_at("spiral_bevel", convex=True, tilt=0.05, lean=0, roll=0)
    both = poses(surface_of(cut("spiral_bevel", 11, 41, 222.0), convex=True), taps[:4], SIZE, None)
    assert not are_close(both[:1])
    assert len(both) in (1, 2)


@pytest.mark.parametrize(
    ("taps", "words"),
    [
        (((50, 300), (600, 300), (50, 100), (600, 100)), "corners that cross"),
        (((50, 300), (600, 300), (600, 100)), "3 points"),
        (((50, 300), (80, 300), (80, 290), (50, 290)), "fewer than 60 pixels"),
        (((0, 300), (600, 300), (600, 100), (50, 100)), "past the picture's edge"),
        (((50, math.nan), (600, 300), (600, 100), (50, 100)), "4 points"),
    ],
)
def test_corners_that_cannot_be_are_refused(taps, words):
    with pytest.raises(AxleError, match=words):
        checked(np.array(taps, dtype=float), 640, 420)


def test_six_places_have_names():
    assert len(NAMES) == len(PLACES) == 6
