"""Photographs of a painted ring gear, as a phone in the hand takes them; what was printed is known.

Small quadrangles of every tooth's surfaces are drawn from the farthest to the nearest, then painted and
lit.
"""

from __future__ import annotations

import io
import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Final

import numpy as np
from PIL import Image
from scipy import ndimage

from axle.simulator.ring_paint import Paint, coat
from axle.simulator.ring_teeth import Face, RingTeeth

# Where a flank is pointed at: four corners, then the middles of its long edges.
POINTED_AT: Final = ((0.0, 0.0), (1.0, 0.0), (1.0, 1.0), (0.0, 1.0), (0.5, 0.0), (0.5, 1.0))
# Side of a quadrangle and samples along each of its sides [pixels].
_SIDE: Final = 5.0
_SAMPLES: Final = 8
# What is nearer to the lens is out of its sight [mm].
_NEAREST: Final = 12.0
_FILM_DIAGONAL: Final = 43.27


@dataclass(frozen=True)
class RingScene:
    """What is photographed and how.

    :param teeth: the ring gear.
    :param convex: the flank that is looked at is the convex one.
    :param outlines: what is wiped on that flank, closed lines (u, v), by tooth from the one in the middle
        (0).
    :param paint: the compound and how it was put on.
    :param painted: first and last tooth that was painted.
    :param size: width and height of the picture [pixels].
    :param tilt: camera off the flank's normal [degrees], 0 or more.
    :param lean: of that tilt from the tooth's top towards the heel [degrees].
    :param roll: of the camera [degrees].
    :param fill: length of the flank, share of the picture's longer side.
    :param aside: middle of the flank off the picture's, shares of its width and height.
    :param focal: focal length as on a 35 mm film [mm].
    :param distortion: of the lens at the picture's corner, share.
    :param off_axis: the lens' axis off the picture's middle, shares of the longer side.
    :param exposure: brightness, about 1.
    :param slope: change of light over the flank, 0 to 1.
    :param light: where it comes from, (towards heel, towards top, towards camera).
    :param gloss: of metal and paste, 0 to 1.
    :param glare: strength of an elongated highlight, 0 for none.
    :param shadow: of the next tooth, 0 for none to 1.
    :param blur: standard deviation of the lens' blur [pixels].
    :param grain: of the sensor, standard deviation of 0 to 1.
    :param quality: of the file's compression, 1 to 100; 0 keeps every pixel.
    """

    teeth: RingTeeth
    convex: bool
    outlines: Mapping[int, Sequence[Sequence[tuple[float, float]]]]
    paint: Paint = field(default_factory=Paint)
    painted: tuple[int, int] = (-2, 2)
    size: tuple[int, int] = (1200, 900)
    tilt: float = 30.0
    lean: float = 0.0
    roll: float = 0.0
    fill: float = 0.5
    aside: tuple[float, float] = (0.0, 0.0)
    focal: float = 26.0
    distortion: float = 0.0
    off_axis: tuple[float, float] = (0.0, 0.0)
    exposure: float = 0.9
    slope: float = 0.2
    light: tuple[float, float, float] = (0.3, 0.8, 0.6)
    gloss: float = 0.2
    glare: float = 0.0
    shadow: float = 0.0
    blur: float = 0.8
    grain: float = 0.008
    quality: int = 92


@dataclass(frozen=True)
class RingShot:
    """A picture, and where things truly are on it.

    :param image: shape (height, width, 3), 0 to 255.
    :param points: by tooth, where its flank's corners and the middles of its long edges are, in the order
        of
        :data:`POINTED_AT`, shape (6, 2) [pixels].
    :param hidden: by tooth, share of its flank that something else hides, 0 to 1.
    :param shown: by pixel, u and v of the flank that is looked at and its tooth; not a number elsewhere.
    """

    image: np.ndarray
    points: Mapping[int, np.ndarray]
    hidden: Mapping[int, float]
    shown: np.ndarray


@dataclass(frozen=True)
class _Camera:
    """A lens with its place in space.

    :param turn: rows are the picture's x and y and the way ahead, shape (3, 3).
    :param place: where it stands, shape (3,) [mm].
    :param focal: [pixels].
    :param middle: where the lens' axis meets the picture, shape (2,) [pixels].
    :param distortion: at the corner, share.
    :param corner: from the middle to a corner [pixels].
    """

    turn: np.ndarray
    place: np.ndarray
    focal: float
    middle: np.ndarray
    distortion: float
    corner: float

    def seen(self, points: np.ndarray) -> np.ndarray:
        """Points (3, …) as x, y and distance ahead, shape (3, …)."""
        flat = self.turn @ (points.reshape(3, -1) - self.place[:, None])
        ahead = np.maximum(flat[2], 1.0)
        x, y = self.focal * flat[0] / ahead, self.focal * flat[1] / ahead
        bent = 1 + self.distortion * (x**2 + y**2) / self.corner**2
        return np.stack([self.middle[0] + x * bent, self.middle[1] + y * bent, flat[2]]).reshape(
            points.shape
        )


def photograph_ring(scene: RingScene, seed: int) -> RingShot:
    """Take a picture of a painted ring gear.

    :param scene: what is photographed, lengths [mm].
    :param seed: of streaks, spots and grain; the same seed gives the same picture.
    :returns: the picture and where the flanks truly are on it.
    :source: pinhole camera with a bent lens; diffuse and glossy reflection; a film that lets metal through.
    """
    draw = np.random.default_rng(seed)
    camera = _camera(scene)
    drawn = _Drawn(scene, camera)
    light = _lit(scene, camera, drawn, draw)
    if scene.blur:
        light = ndimage.gaussian_filter(light, (scene.blur, scene.blur, 0))
    shown = np.where(
        light <= 0.0031308, 12.92 * light, 1.055 * np.maximum(light, 1e-9) ** (1 / 2.4) - 0.055
    )
    noise = scene.grain * draw.standard_normal(shown.shape, dtype=np.float32)
    image = (np.clip(np.clip(shown, 0, 1) + noise, 0, 1) * 255).round().astype(np.uint8)
    if scene.quality:
        image = _through_a_file(image, scene.quality)
    points = {k: _pointed_at(scene, camera, k) for k in drawn.teeth}
    face = Face.CONVEX if scene.convex else Face.CONCAVE
    on = drawn.face == face
    flank = np.where(on[..., None], np.stack([drawn.a, drawn.b, drawn.tooth], -1), np.nan)
    return RingShot(image, points, drawn.hidden(face), flank)


def _through_a_file(image: np.ndarray, quality: int) -> np.ndarray:
    file = io.BytesIO()
    Image.fromarray(image).save(file, "JPEG", quality=quality)
    return np.asarray(Image.open(file).convert("RGB"))


def _pointed_at(scene: RingScene, camera: _Camera, tooth: int) -> np.ndarray:
    u, v = np.array(POINTED_AT).T
    points = scene.teeth.turned(scene.teeth.flank(u, v, convex=scene.convex), tooth)
    return np.asarray(camera.seen(points)[:2].T)


def _frame_of(scene: RingScene) -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
    """Middle of the flank, and the ways to the heel, to the top and out of the metal there."""
    at = np.array([0.5, 0.49, 0.51, 0.5, 0.5]), np.array([0.5, 0.5, 0.5, 0.49, 0.51])
    points = scene.teeth.flank(*at, convex=scene.convex)
    along, up = points[:, 2] - points[:, 1], points[:, 4] - points[:, 3]
    along, up = along / np.linalg.norm(along), up / np.linalg.norm(up)
    out = np.cross(along, up)
    # Out of the metal is away from the other flank.
    other = scene.teeth.flank(np.array([0.5]), np.array([0.5]), convex=not scene.convex)[:, 0]
    out *= math.copysign(1.0, float(out @ (points[:, 0] - other))) / np.linalg.norm(out)
    return points[:, 0], along, up, out


def _camera(scene: RingScene) -> _Camera:
    middle, along, up, out = _frame_of(scene)
    tilt, lean, roll = (math.radians(x) for x in (scene.tilt, scene.lean, scene.roll))
    towards = math.cos(tilt) * out + math.sin(tilt) * (math.cos(lean) * up + math.sin(lean) * along)
    towards = towards / np.linalg.norm(towards)
    width, height = scene.size
    focal = scene.focal / _FILM_DIAGONAL * math.hypot(width, height)
    away = focal * scene.teeth.face_width / math.cos(scene.teeth.spiral) / (scene.fill * max(width, height))
    ahead = -towards
    right = np.cross(ahead, up)
    right /= np.linalg.norm(right)
    down = np.cross(ahead, right)
    c, s = math.cos(roll), math.sin(roll)
    turn = np.stack([c * right + s * down, -s * right + c * down, ahead])
    aside = np.array(scene.aside) * [width, height] / focal * away
    place = middle + away * towards - aside[0] * turn[0] - aside[1] * turn[1]
    off = np.array(scene.off_axis) * max(width, height)
    return _Camera(
        turn,
        place,
        focal,
        middle=np.array([width, height]) / 2 + off,
        distortion=scene.distortion,
        corner=math.hypot(width, height) / 2,
    )


class _Drawn:
    """Which surface each pixel shows, and where on it."""

    def __init__(self, scene: RingScene, camera: _Camera) -> None:
        self.scene, self.camera = scene, camera
        self.teeth = range(-6, 7)
        pieces = [self._piece(k, face) for k in self.teeth for face in Face]
        corners = np.concatenate([p[0] for p in pieces])
        where = np.concatenate([p[1] for p in pieces])
        marks = np.concatenate([p[2] for p in pieces])
        width, height = scene.size
        inside = (
            (corners[:, 2].min(-1) > _NEAREST)
            & (np.ptp(corners[:, 0], axis=-1) < 4 * _SIDE)
            & (np.ptp(corners[:, 1], axis=-1) < 4 * _SIDE)
            & (corners[:, 0].max(-1) > 0)
            & (corners[:, 0].min(-1) < width)
            & (corners[:, 1].max(-1) > 0)
            & (corners[:, 1].min(-1) < height)
        )
        corners, where, marks = corners[inside], where[inside], marks[inside]
        order = np.argsort(-corners[:, 2].mean(-1))
        self._fill(corners[order], where[order], marks[order])

    def _piece(self, tooth: int, face: Face) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """Quadrangles of one surface: corners (n, 3, 4), shares (n, 2, 4), tooth and face (n, 2)."""
        teeth, camera = self.scene.teeth, self.camera

        def seen(a: np.ndarray, b: np.ndarray) -> np.ndarray:
            return camera.seen(teeth.turned(teeth.surface(face, a, b), tooth))

        rough = np.meshgrid(np.linspace(0, 1, 9), np.linspace(0, 1, 5))
        at = seen(*rough)
        width, height = self.scene.size
        if at[0].max() < 0 or at[0].min() > width or at[1].max() < 0 or at[1].min() > height:
            return np.empty((0, 3, 4)), np.empty((0, 2, 4)), np.empty((0, 2))
        long = np.hypot(*np.diff(at[:2], axis=2)).sum(-1).max()
        high = np.hypot(*np.diff(at[:2], axis=1)).sum(-2).max()
        na, nb = (int(np.clip(math.ceil(x / _SIDE), 2, 400)) for x in (long, high))
        a, b = np.meshgrid(np.linspace(0, 1, na + 1), np.linspace(0, 1, nb + 1))
        fine = seen(a, b)
        both = np.stack([a, b])

        def cornered(grid: np.ndarray) -> np.ndarray:
            four = [grid[:, :-1, :-1], grid[:, :-1, 1:], grid[:, 1:, :-1], grid[:, 1:, 1:]]
            return np.stack([g.reshape(len(grid), -1).T for g in four], -1)

        count = na * nb
        return cornered(fine), cornered(both), np.tile([tooth, int(face)], (count, 1)).astype(float)

    def _fill(self, corners: np.ndarray, where: np.ndarray, marks: np.ndarray) -> None:
        width, height = self.scene.size
        t = (np.arange(_SAMPLES) + 0.5) / _SAMPLES
        s, r = (g.ravel() for g in np.meshgrid(t, t))
        blend = np.stack([(1 - s) * (1 - r), s * (1 - r), (1 - s) * r, s * r])
        winner = np.full(width * height, -1, dtype=np.int64)
        for first in range(0, len(corners), 20_000):
            part = corners[first : first + 20_000]
            x = np.floor(part[:, 0] @ blend).astype(np.int64)
            y = np.floor(part[:, 1] @ blend).astype(np.int64)
            on = (x >= 0) & (x < width) & (y >= 0) & (y < height)
            number = (first + np.arange(len(part)))[:, None] * len(s) + np.arange(len(s))
            winner[(y * width + x)[on]] = number[on]
        held = winner >= 0
        quad, sample = np.divmod(np.where(held, winner, 0), len(s))
        shares = np.einsum("nij,jn->in", where[quad], blend[:, sample])
        blank = np.where(held, 1.0, np.nan)
        self.a, self.b = ((shares[i] * blank).reshape(height, width) for i in (0, 1))
        self.tooth = (marks[quad, 0] * blank).reshape(height, width)
        self.face = np.where(held, marks[quad, 1], -1).astype(int).reshape(height, width)
        self.every = corners, where, marks

    def hidden(self, face: Face) -> dict[int, float]:
        """By tooth, the share of one of its surfaces that is hidden or off the picture."""
        found = {}
        u, v = np.meshgrid(np.linspace(0.02, 0.98, 40), np.linspace(0.03, 0.97, 16))
        width, height = self.scene.size
        for k in self.teeth:
            points = self.scene.teeth.turned(self.scene.teeth.surface(face, u, v), k)
            x, y, _ = self.camera.seen(points)
            on = (x >= 0) & (x < width) & (y >= 0) & (y < height)
            ix, iy = (np.where(on, value, 0).astype(int) for value in (x, y))
            same = on & (self.face[iy, ix] == face) & (self.tooth[iy, ix] == k)
            found[k] = float(1 - same.mean())
        return found

    def normals(self) -> np.ndarray:
        """Unit normals towards the camera, shape (height, width, 3) in the camera's frame."""
        out = np.zeros((*self.face.shape, 3))
        teeth = self.scene.teeth
        for face in Face:
            for k in self.teeth:
                here = (self.face == face) & (self.tooth == k)
                if not here.any():
                    continue
                a, b = np.meshgrid(np.linspace(0, 1, 41), np.linspace(0, 1, 21))
                points = self.camera.turn @ teeth.turned(teeth.surface(face, a, b), k).reshape(3, -1)
                points = points.reshape(3, *a.shape)
                by_b, by_a = np.gradient(points, axis=(1, 2))
                normal = np.cross(by_a, by_b, axis=0)
                normal /= np.linalg.norm(normal, axis=0) + 1e-12
                at = np.stack([self.b[here] * 20, self.a[here] * 40])
                found = np.stack(
                    [ndimage.map_coordinates(n, at, order=1, mode="nearest") for n in normal], -1
                )
                found *= -np.sign(found[:, 2:] + 1e-9)
                out[here] = found
        return out


def _lit(scene: RingScene, camera: _Camera, drawn: _Drawn, draw: np.random.Generator) -> np.ndarray:
    """Linear light of every pixel, shape (height, width, 3)."""
    ground, colour, shine = coat(
        scene.paint, scene.outlines, convex=scene.convex, painted=scene.painted, drawn=drawn, draw=draw
    )
    normals = drawn.normals()
    _, along, up, _ = _frame_of(scene)
    light = camera.turn @ (scene.light[0] * along + scene.light[1] * up) + np.array(
        [0.0, 0.0, -scene.light[2]]
    )
    light = light / np.linalg.norm(light)
    square = np.clip(normals @ light, 0, 1)
    half = light + np.array([0.0, 0.0, -1.0])
    half = half / np.linalg.norm(half)
    mirror = np.clip(normals @ half, 0, 1)
    lamp = 0.42 + 0.75 * square
    height, width = drawn.face.shape
    y, x = np.mgrid[-1 : 1 : height * 1j, -1 : 1 : width * 1j]
    way = draw.uniform(0, 2 * math.pi)
    lamp = lamp * (1 + scene.slope * (math.cos(way) * x + math.sin(way) * y))
    shade = _shaded(scene, drawn)
    lit = colour * (lamp * shade)[..., None]
    lit += (shine * scene.gloss * (0.5 * mirror**40 + 0.12 * mirror**8) * shade)[..., None]
    lit += _highlight(scene, drawn, draw)[..., None]
    return np.asarray(
        np.where((drawn.face >= 0)[..., None], lit, ground) * scene.exposure, dtype=np.float32
    )


def _shaded(scene: RingScene, drawn: _Drawn) -> np.ndarray:
    """Less light near the root, and the shadow of the next tooth."""
    flank = (drawn.face == Face.CONVEX) | (drawn.face == Face.CONCAVE)
    low = np.where(flank, 1 - 0.4 * np.exp(-np.clip(drawn.b, 0, 1) / 0.2), 1.0)
    low = np.where(drawn.face == Face.ROOT, 0.55, low)
    if scene.shadow:
        edge = 0.12 + 0.35 * scene.shadow + 0.2 * scene.shadow * (drawn.a - 0.5)
        dark = 1 / (1 + np.exp(np.clip((drawn.b - edge) / 0.025, -50, 50)))
        low = np.where(flank, low * (1 - 0.55 * scene.shadow * dark), low)
    return np.asarray(np.nan_to_num(low, nan=1.0))


def _highlight(scene: RingScene, drawn: _Drawn, draw: np.random.Generator) -> np.ndarray:
    """An elongated highlight along each flank and land."""
    total = np.zeros(drawn.face.shape)
    where, run, length = draw.uniform(0.15, 0.85), draw.uniform(0.2, 0.8), draw.uniform(0.1, 0.45)
    if not scene.glare:
        return total
    for face in (Face.CONVEX, Face.CONCAVE, Face.TOP):
        here = drawn.face == face
        off = ((drawn.b - where) / (0.05 + 0.05 * scene.glare)) ** 2 + ((drawn.a - run) / length) ** 2
        total = np.where(here, scene.glare * 1.3 * np.exp(-off), total)
    return np.asarray(np.nan_to_num(total))
