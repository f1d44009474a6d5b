"""Reading photographs, held to rendered pictures whose patch is known and to pictures nobody could read."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from axle.contact.corners import flatten
from axle.contact.photo import Compound, PhotoReading, read_photo
from axle.errors import AxleError
from axle.simulator.photo import Scene, Shot, photograph
from tests.shares import least_right, share_of

HOPELESS = 50
SEEDS = range(5000, 5000 + share_of(200, 30))
COMPOUNDS = ["yellow", "white", "blue", "red"]
SIZE = (640, 420)


def some_patch(draw: np.random.Generator) -> tuple[tuple[float, float], ...]:
    """A round-cornered patch somewhere near the middle."""
    middle, lean = (draw.uniform(0.3, 0.7), draw.uniform(0.35, 0.65)), draw.uniform(-0.12, 0.2)
    long, high = draw.uniform(0.1, 0.25), draw.uniform(0.18, 0.33)
    t = np.linspace(0, 2 * np.pi, 40, endpoint=False)
    size = 1 + 0.12 * np.cos(2 * t + draw.uniform(0, 6)) + 0.08 * np.cos(3 * t + draw.uniform(0, 6))
    u = middle[0] + size * (long * np.cos(t) + lean * high * np.sin(t))
    v = middle[1] + size * high * np.sin(t)
    return tuple((float(a), float(b)) for a, b in zip(np.clip(u, 0, 1), np.clip(v, 0, 1), strict=True))


def some_scene(seed: int) -> Scene:
    """Tilt to 30°, highlights on up to a tenth of the flank, blur to 3 pixels, every compound in turn."""
    draw = np.random.default_rng(seed)
    return Scene(
        some_patch(draw),
        COMPOUNDS[seed % 4],
        SIZE,
        tilt=(draw.uniform(-30, 30), draw.uniform(-30, 30)),
        roll=draw.uniform(-15, 15),
        fill=draw.uniform(0.55, 0.75),
        exposure=draw.uniform(0.45, 1.2),
        slope=draw.uniform(0, 0.9),
        glare=draw.uniform(0, 0.1),
        blur=draw.uniform(0, 3),
        grain=draw.uniform(0.003, 0.03),
        feather=draw.uniform(0.02, 0.15),
    )


def pointed_at(shot: Shot, seed: int) -> tuple[tuple[float, float], ...]:
    """Corners as a finger finds them: off by up to 1 % of the flank."""
    draw, corners = np.random.default_rng(seed), np.array(shot.corners)
    size = [np.linalg.norm(corners[1] - corners[0]), np.linalg.norm(corners[2] - corners[1])]
    return tuple(map(tuple, (corners + draw.uniform(-0.01, 0.01, (4, 2)) * size).tolist()))


def covered(outlines) -> np.ndarray:
    """Even-odd raster of outlines."""
    u, v = np.meshgrid((np.arange(300) + 0.5) / 300, (np.arange(100) + 0.5) / 100)
    inside = np.zeros(u.shape, dtype=bool)
    for line in outlines:
        for (u0, v0), (u1, v1) in zip(line, (*line[1:], line[0]), strict=True):
            if v0 != v1:
                inside ^= ((v0 > v) != (v1 > v)) & (u < (u1 - u0) * (v - v0) / (v1 - v0) + u0)
    return inside


def is_right(scene: Scene, found: PhotoReading) -> bool:
    """Centroid within 0.03 of length and height, and overlap over 0.8."""
    truth, read = covered([scene.outline]), covered([blob.outline for blob in found.blobs])
    v, u = np.nonzero(truth)
    middle = (u.mean() + 0.5) / 300, (v.mean() + 0.5) / 100
    off = np.abs(np.array(found.centroid) - middle).max()
    return bool(off < 0.03 and (truth & read).sum() > 0.8 * (truth | read).sum())


def test_photographs_are_read():
    right = 0
    for seed in SEEDS:
        scene = some_scene(seed)
        shot = photograph(scene, seed)
        try:
            right += is_right(
                scene, read_photo(shot.image, pointed_at(shot, seed), Compound(scene.compound))
            )
        except AxleError:
            continue
    assert right >= least_right(0.95, len(SEEDS))


def test_hopeless_photographs_are_refused():
    """Cut off by the picture's edge, smeared, dark, without compound: said so, hardly ever a wrong patch."""
    wrong, refused = 0, 0
    for number in range(HOPELESS):
        seed = 6000 + number
        draw, scene = np.random.default_rng(seed), some_scene(seed)
        spoilt = (
            replace(scene, fill=0.9, shift=(float(draw.choice([-1, 1])) * draw.uniform(0.2, 0.4), 0.0)),
            replace(scene, smear=draw.uniform(0.45, 0.8)),
            replace(scene, exposure=draw.uniform(0.001, 0.008), glare=0.0, grain=0.02),
            replace(scene, compound=""),
            replace(scene, outline=()),
        )[number % 5]
        shot = photograph(spoilt, seed)
        corners = tuple((min(max(x, 0), SIZE[0]), min(max(y, 0), SIZE[1])) for x, y in shot.corners)
        try:
            photo_reading = read_photo(shot.image, corners, Compound(scene.compound))
        except AxleError as error:
            refused += "Cannot read this" in str(error)
        else:
            wrong += not (spoilt.outline and spoilt.compound and is_right(spoilt, photo_reading))
    assert wrong <= 2
    assert refused > 35


def test_corners_are_where_the_camera_says():
    """Steel in one corner of a white flank comes out in that corner."""
    corner = ((0, 0), (0.12, 0), (0.12, 0.3), (0, 0.3))
    shot = photograph(Scene(corner, "white", SIZE, tilt=(25, -20), roll=10, slope=0), 1)
    light = flatten(shot.image, shot.corners)
    toe_root, heel_top = light[-16:-8, 8:20].mean(axis=(0, 1)), light[8:16, -20:-8].mean(axis=(0, 1))
    assert heel_top.sum() > 1.8 * toe_root.sum()


@pytest.mark.parametrize("chosen", list(Compound))
@pytest.mark.parametrize("painted", COMPOUNDS)
def test_a_wrong_colour_is_refused_or_read_right_never_turned_round(painted, chosen):
    scene = some_scene(5000 + COMPOUNDS.index(painted))
    scene = replace(scene, glare=0.0)
    shot = photograph(scene, 5)
    photo_reading, words = None, ""
    try:
        photo_reading = read_photo(shot.image, shot.corners, chosen)
    except AxleError as refused:
        words = refused.do
    if photo_reading is None:
        assert painted != chosen.value
        assert words.startswith("Cannot read this: ")
    else:
        assert is_right(scene, photo_reading)


def test_two_blobs_are_both_found():
    left = ((0.2, 0.3), (0.35, 0.3), (0.35, 0.7), (0.2, 0.7))
    right = ((0.6, 0.3), (0.75, 0.3), (0.75, 0.7), (0.6, 0.7))
    # a narrow bridge outside the flank joins them, so that one outline makes both
    both = (*left[:2], (0.35, -0.5), (0.6, -0.5), *right, (0.6, -0.4), (0.35, -0.4), *left[2:])
    shot = photograph(Scene(both, "blue", SIZE), 3)
    photo_reading = read_photo(shot.image, shot.corners, Compound.BLUE)
    assert len(photo_reading.blobs) == 2
    assert photo_reading.centroid[0] == pytest.approx(0.475, abs=0.03)


@pytest.mark.parametrize(
    ("corners", "words"),
    [
        (((50, 300), (600, 300), (50, 100), (600, 100)), "corners that cross"),
        (((50, 300), (600, 300), (600, 100)), "3 points"),
        (((50, 300), (60, 300), (60, 290), (50, 290)), "fewer than 40 pixels"),
        (((0, 300), (600, 300), (600, 100), (50, 100)), "past the picture's edge"),
    ],
)
def test_corners_that_cannot_be_are_refused(corners, words):
    with pytest.raises(AxleError, match=words):
        read_photo(np.full((420, 640, 3), 128, dtype=np.uint8), corners, Compound.YELLOW)


def test_a_seed_is_a_picture():
    one, two = (photograph(some_scene(9), 9).image for _ in range(2))
    assert np.array_equal(one, two)
