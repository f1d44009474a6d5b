"""Edges of a flank, held to pictures made of plain areas: another renderer than the simulator's."""

from __future__ import annotations

import numpy as np
import pytest
from skimage.draw import polygon

from axle.contact.cut import cut
from axle.photo.edges import refined
from axle.photo.hidden import found_below
from axle.photo.pose import PLACES, Pose, held, poses
from axle.photo.search import likeliest
from axle.photo.surface import surface_of

SIZE = (900, 700)
SURFACE = surface_of(cut("large_cutter", 11, 41, 222.0), convex=True)
# Corners and middles of a flank on the picture, from which the true pose is fitted.
AIMED_AT = np.array([[240, 430], [660, 440], [664, 330], [246, 336], [450, 452], [450, 346]], dtype=float)
GROUND, LAND, FLANK, LIGHT = (0.05, 0.05, 0.05), (0.7, 0.5, 0.05), (0.4, 0.28, 0.03), (0.9, 0.85, 0.8)


@pytest.fixture(scope="module")
def true() -> Pose:
    """Some flank before the camera."""
    return poses(SURFACE, AIMED_AT, SIZE, 40.0)[0]


def painted(pose: Pose, line_at: float = 0.0) -> np.ndarray:
    """A flank, its land above it, and perhaps a line of light on the land, so far from the edge [pixels]."""
    picture = np.full((SIZE[1], SIZE[0], 3), GROUND)
    t = np.linspace(0, 1, 60)
    top, root = (pose.onto(t, np.full(60, v)) for v in (1.0, 0.0))
    areas = [(FLANK, np.vstack([top, root[::-1]])), (LAND, np.vstack([top, (top - [0, 50])[::-1]]))]
    if line_at:
        areas.append((LIGHT, np.vstack([top - [0, line_at], (top - [0, line_at + 7])[::-1]])))
    for colour, outline in areas:
        rows, columns = polygon(outline[:, 1], outline[:, 0], picture.shape[:2])
        picture[rows, columns] = colour
    return picture


@pytest.mark.parametrize("line_at", [0.0, 8.0])
def test_a_line_of_light_is_no_edge(true, line_at):
    """What lies on either side of an edge differs; on either side of a line of light it does not."""
    draw = np.random.default_rng(4)
    exact = true.onto(*PLACES.T)
    taps = exact + draw.uniform(0.01, 0.02, exact.shape) * draw.choice([-1, 1], exact.shape) * true.length
    start = poses(SURFACE, taps, SIZE, 40.0)[0]
    found, edges = refined(start, taps, painted(true, line_at), held(SIZE, 40.0), None)
    assert {edge.name for edge in edges} >= {"top", "toe", "heel"}
    top = [2, 3, 5]
    # Along an edge nothing on it tells where its middle is; across it everything does.
    off = np.abs(found.onto(*PLACES[top].T) - exact[top])[:, 1] / true.length
    assert off.max() < 0.004, off


def painted_ring(pose: Pose) -> np.ndarray:
    """Seven teeth, the farthest first, each with its own land above it."""
    picture = np.full((SIZE[1], SIZE[0], 3), GROUND)
    t = np.linspace(0, 1, 60)
    teeth = sorted(range(-3, 4), key=lambda k: float(pose.onto(t, np.ones(60), tooth=k)[:, 1].mean()))
    for k in teeth:
        top, root = (pose.onto(t, np.full(60, v), tooth=k) for v in (1.0, 0.0))
        for colour, far in ((LAND, top - [0, 26]), (FLANK, root)):
            outline = np.vstack([top, far[::-1]])
            rows, columns = polygon(outline[:, 1], outline[:, 0], picture.shape[:2])
            picture[rows, columns] = colour
    return picture


@pytest.mark.parametrize("off", [-0.02, 0.0, 0.02])
def test_a_whole_pose_is_found_by_the_edges_of_all_teeth(true, off):
    """A finger that sets the whole top too high or too low does not hold the pose there."""
    exact = true.onto(*PLACES.T)
    taps = exact.copy()
    taps[[2, 3, 5], 1] += off * true.length
    taps[[0, 3], 0] += 0.012 * true.length
    start = poses(SURFACE, taps, SIZE, 40.0)[0]
    kinds = likeliest(start, np.sqrt(painted_ring(true)).astype(np.float32))
    worth = [w for _, w in kinds]
    assert worth == sorted(worth, reverse=True)
    t = np.linspace(0.1, 0.9, 9)
    for k in (-2, -1, 0, 1, 2):
        found, wanted = (pose.onto(t, np.ones(9), tooth=k) for pose in (kinds[0][0], true))
        # Along an edge nothing on it tells where its middle is; its ends tell.
        assert np.abs((found - wanted)[:, 1]).max() < 0.012 * true.length, k


def test_a_picture_without_steps_leaves_the_pose_where_the_finger_had_it(true):
    grey = np.full((SIZE[1], SIZE[0], 3), 0.4, dtype=np.float32)
    (found, _), *_ = likeliest(true, grey)
    assert np.abs(found.corners - true.corners).max() < 0.002 * true.length


@pytest.mark.parametrize("foreseen", [0.15, 0.3, 0.45])
def test_the_next_tooth_is_found_where_the_pose_does_not_foresee_it(foreseen):
    """A flat flank whose lowest third is the next tooth's land, with a print over it."""
    flat = np.empty((80, 240, 3))
    flat[:] = FLANK
    edge = 0.3 + 0.04 * np.linspace(-1, 1, 240)
    hidden = (1 - (np.arange(80)[:, None] + 0.5) / 80) < edge
    flat[hidden] = LAND
    flat[25:40, 80:150] = 0.2
    flat += np.random.default_rng(1).normal(0, 0.004, flat.shape)
    found = found_below(flat, np.full(240, foreseen))
    assert np.abs(found - edge).max() < 0.025
