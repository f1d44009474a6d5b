"""Photographs of a flank whose patch is known: what the simulator's camera sees.

Written on its own equations: the reader of photographs is held to these pictures and knows nothing of them.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

import numpy as np
from scipy import ndimage

# Reflected share of light, linear (red, green, blue): usual pastes and steel, from memory.
_PASTE: Final = {
    "yellow": (0.84, 0.58, 0.05),
    "white": (0.82, 0.80, 0.74),
    "blue": (0.03, 0.09, 0.36),
    "red": (0.46, 0.03, 0.02),
}
_STEEL: Final = (0.23, 0.235, 0.25)
_HOUSING: Final = (0.06, 0.06, 0.065)
_RASTER: Final = 160


@dataclass(frozen=True)
class Scene:
    """What is photographed and how.

    :param outline: the true patch (u, v), at least three corners; none for a flank nobody printed.
    :param compound: "yellow", "white", "blue" or "red"; empty for bare metal.
    :param size: width and height of the picture [pixels].
    :param tilt: turn about the flank's length and height [degrees], each up to some 40.
    :param roll: turn in the picture [degrees].
    :param fill: share of the picture's width that the flank takes.
    :param aspect: length over height of the flank.
    :param exposure: brightness, about 1; 0.02 is dark.
    :param slope: change of light over the flank, 0 to 1.
    :param glare: share of the flank under a highlight.
    :param blur: of the lens, standard deviation [pixels].
    :param grain: noise of the sensor, standard deviation of 0 to 1.
    :param feather: width of the patch's edge, share of the height.
    :param smear: length over which the patch was dragged, share of the flank.
    :param shift: of the flank's middle from the picture's, share of the picture's width and height.
    """

    outline: tuple[tuple[float, float], ...]
    compound: str = "yellow"
    size: tuple[int, int] = (1000, 640)
    tilt: tuple[float, float] = (0.0, 0.0)
    roll: float = 0.0
    fill: float = 0.75
    aspect: float = 3.4
    exposure: float = 1.0
    slope: float = 0.3
    glare: float = 0.0
    blur: float = 1.0
    grain: float = 0.01
    feather: float = 0.06
    smear: float = 0.0
    shift: tuple[float, float] = (0.0, 0.0)


@dataclass(frozen=True)
class Shot:
    """A picture and where the flank's corners truly are.

    :param image: shape (height, width, 3), 0 to 255.
    :param corners: (x, y) of toe-root, heel-root, heel-top, toe-top [pixels].
    """

    image: np.ndarray
    corners: tuple[tuple[float, float], ...]


def photograph(scene: Scene, seed: int) -> Shot:
    """Take a picture.

    :param scene: what is photographed.
    :param seed: of scratches, grain and highlights; the same seed gives the same picture.
    :source: pinhole camera, diffuse paste and steel, round highlights.
    """
    draw = np.random.default_rng(seed)
    width, height = scene.size
    onto = _camera(scene)
    corners = _mapped(onto, np.array([[0, 0], [1, 0], [1, 1], [0, 1]], dtype=float))
    # Only the window about the flank is worked out; around it lies the housing.
    low = np.clip(np.floor(corners.min(axis=0)).astype(int) - 8, 0, scene.size)
    high = np.clip(np.ceil(corners.max(axis=0)).astype(int) + 8, 0, scene.size)
    x, y = np.meshgrid(np.arange(low[0], high[0]) + 0.5, np.arange(low[1], high[1]) + 0.5)
    flat = _mapped(np.linalg.inv(onto), np.stack([x.ravel(), y.ravel()], -1))
    u, v = (flat[:, i].reshape(x.shape) for i in (0, 1))
    on = (u > 0) & (u < 1) & (v > 0) & (v < 1)
    lit = np.clip(0.85 + scene.slope * ((u - 0.5) * 0.9 + (v - 0.5) * 0.4), 0.1, None) * scene.exposure
    part = _surface(scene, u, v=v, on=on, draw=draw) * lit[..., None] * 0.9
    light = (part + _highlights(scene, u, v, draw)[..., None]).astype(np.float32)
    if scene.blur:
        light = ndimage.gaussian_filter(light, (scene.blur, scene.blur, 0))
    shown = _as_shown(light)
    shown = shown + scene.grain * draw.standard_normal(shown.shape, dtype=np.float32)
    image = np.empty((height, width, 3), dtype=np.uint8)
    image[:] = (_as_shown(np.array(_HOUSING) * scene.exposure) * 255).round()
    image[low[1] : high[1], low[0] : high[0]] = (np.clip(shown, 0, 1) * 255).round()
    return Shot(image, tuple((float(a), float(b)) for a, b in corners))


def _as_shown(light: np.ndarray) -> np.ndarray:
    """Linear light as a picture file has it (IEC 61966-2-1)."""
    light = np.clip(light, 0, 1)
    return np.asarray(np.where(light <= 0.0031308, 12.92 * light, 1.055 * light ** (1 / 2.4) - 0.055))


def _camera(scene: Scene) -> np.ndarray:
    """Homography from (u, v) to the picture."""
    across, up = np.radians(scene.tilt)
    turn = np.radians(scene.roll)
    about_x = np.array([[1, 0, 0], [0, np.cos(up), -np.sin(up)], [0, np.sin(up), np.cos(up)]])
    about_y = np.array(
        [[np.cos(across), 0, np.sin(across)], [0, 1, 0], [-np.sin(across), 0, np.cos(across)]]
    )
    about_z = np.array([[np.cos(turn), -np.sin(turn), 0], [np.sin(turn), np.cos(turn), 0], [0, 0, 1]])
    turned = about_z @ about_x @ about_y
    along = turned @ [scene.aspect, 0, 0]
    upward = turned @ [0, -1.0, 0]
    away = 4 * scene.aspect
    middle = -(along + upward) / 2 + np.array([0, 0, away])
    width, height = scene.size
    focal = scene.fill * width / scene.aspect * away
    lens = np.array(
        [
            [focal, 0, width * (0.5 + scene.shift[0])],
            [0, focal, height * (0.5 + scene.shift[1])],
            [0, 0, 1],
        ]
    )
    return np.asarray(lens @ np.column_stack([along, upward, middle]))


def _mapped(onto: np.ndarray, places: np.ndarray) -> np.ndarray:
    found = np.column_stack([places, np.ones(len(places))]) @ onto.T
    return np.asarray(found[:, :2] / found[:, 2:])


def _surface(
    scene: Scene, u: np.ndarray, v: np.ndarray, on: np.ndarray, draw: np.random.Generator
) -> np.ndarray:
    """Reflected share of light at every pixel."""
    grained = _scratches(u, v, draw)[..., None]
    steel = np.array(_STEEL) * (1 + 0.10 * grained)
    around = np.array(_HOUSING) * (1 + 0.3 * grained)
    if not scene.compound:
        return np.where(on[..., None], steel, around)
    paste = np.array(_PASTE[scene.compound]) * (1 + 0.06 * _scratches(u, v, draw))[..., None]
    wiped = _wiped(scene, u, v)[..., None] * 0.94
    return np.where(on[..., None], wiped * steel + (1 - wiped) * paste, around)


def _wiped(scene: Scene, u: np.ndarray, v: np.ndarray) -> np.ndarray:
    """How far each place is wiped, 0 to 1, feathered and perhaps smeared."""
    if len(scene.outline) < 3:
        return np.zeros_like(u)
    wide = int(_RASTER * scene.aspect)
    gu, gv = np.meshgrid((np.arange(wide) + 0.5) / wide, (np.arange(_RASTER) + 0.5) / _RASTER)
    inside = _inside(np.array(scene.outline), gu, gv).astype(float)
    soft = ndimage.gaussian_filter(inside, scene.feather * _RASTER / 2)
    if scene.smear:
        soft = ndimage.uniform_filter1d(soft, max(int(scene.smear * wide), 1), axis=1, mode="constant")
        soft = ndimage.uniform_filter1d(soft, max(int(scene.smear * _RASTER), 1), axis=0, mode="constant")
    at = np.stack([v * _RASTER - 0.5, u * wide - 0.5])
    return np.asarray(ndimage.map_coordinates(soft, at, order=1, mode="constant"))


def _inside(corners: np.ndarray, u: np.ndarray, v: np.ndarray) -> np.ndarray:
    """Even-odd rule."""
    found = np.zeros(u.shape, dtype=bool)
    for (u0, v0), (u1, v1) in zip(corners, np.roll(corners, -1, axis=0), strict=True):
        if v0 == v1:
            continue
        crosses = (v0 > v) != (v1 > v)
        found ^= crosses & (u < (u1 - u0) * (v - v0) / (v1 - v0) + u0)
    return found


def _scratches(u: np.ndarray, v: np.ndarray, draw: np.random.Generator) -> np.ndarray:
    """Fine lines along the tooth and blotches, about −1 to 1."""
    lines = ndimage.gaussian_filter(draw.normal(0, 1, (90, 40)), (0.7, 3))
    blotches = ndimage.gaussian_filter(draw.normal(0, 1, (90, 40)), 4)
    texture = lines / lines.std() * 0.6 + blotches / blotches.std() * 0.4
    at = np.stack([np.mod(v, 1) * 89, np.mod(u, 1) * 39])
    return np.asarray(np.clip(ndimage.map_coordinates(texture, at, order=1), -2, 2) / 2)


def _highlights(scene: Scene, u: np.ndarray, v: np.ndarray, draw: np.random.Generator) -> np.ndarray:
    """Round highlights that together cover the wanted share of the flank."""
    total = np.zeros_like(u)
    if not scene.glare:
        return total
    count = int(draw.integers(1, 4))
    for _ in range(count):
        share = scene.glare / count
        cu, cv = draw.uniform(0.1, 0.9), draw.uniform(0.15, 0.85)
        long, high = np.sqrt(share / np.pi / 2.0), np.sqrt(share / np.pi * 2.0)
        away = ((u - cu) / long) ** 2 + ((v - cv) / high) ** 2
        total += 3.0 / (1 + np.exp(np.clip(14 * (away - 1), -60, 60)))
    return total
