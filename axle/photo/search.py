"""Poses tried on the picture: along the edges of a flank and of its neighbours the picture must step.

An edge is a step between what lies on either side of it, all along it. A line of light is narrower, a bare
spot is shorter. So whole poses are compared, by all their edges together; no edge is settled on its own.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Final

import numpy as np
from scipy import ndimage

from axle.photo.pose import Pose

# Teeth whose edges are looked at, and what they count for: a long edge, an end.
_TEETH: Final = (0, 1, -1, 2, -2, 3, -3)
_STATIONS: Final = 24
_WEIGHTS: Final = {"top": 1.0, "toe": 0.5, "heel": 0.5}
# Where an end begins to stand clear of the next tooth, on the flank pointed at and on others.
_END_FROM: Final = (0.3, 0.5)
# A step between two sides that counts, in roots of light.
_STEP: Final = 0.02
# Least share of a line that has to lie on the picture.
_LEAST_SEEN: Final = 0.4
# The step just at an edge counts so many times, for it is blurred; it has to go the same way in colour
# as the step farther off, by this cosine, or the edge counts for this share.
_BLURRED, _SAME_WAY, _OTHER_WAY = 1.5, 0.7, 0.3


@dataclass(frozen=True)
class _Level:
    """One round of trying.

    :param count: poses drawn for each that is gone on with.
    :param spread: how far from it, in spreads of what the taps leave open.
    :param side: how far to either side of an edge is looked [length].
    :param blur: over how much is averaged there [length].
    :param near: as `side` and `blur`, for the step just at the edge; None where it is not looked at.
    """

    count: int
    spread: float
    side: float
    blur: float
    near: tuple[float, float] | None = None


_LEVELS: Final = (
    _Level(700, 1.0, 0.016, 0.010),
    _Level(120, 0.4, 0.014, 0.007),
    _Level(120, 0.2, 0.013, 0.006, (0.006, 0.003)),
    _Level(120, 0.1, 0.013, 0.006, (0.0045, 0.002)),
)
# Price of a step of one spread; kinds of poses that are gone on with, and how many of each; poses are of
# one kind where their top edges lie nearer than this [length]. More draws find chance lines: measured.
_PRICE, _KINDS, _KEPT, _ALIKE = 0.15, 3, 6, 0.012


def likeliest(pose: Pose, picture: np.ndarray) -> tuple[tuple[Pose, float], ...]:
    """The poses that put most edges where the picture steps, the best first, each with its worth.

    :param pose: as the taps have it, with what they leave open as its covariance.
    :param picture: roots of light 0 to 1, shape (height, width, 3).
    :source: poses drawn about the best so far, closer from round to round.
    """
    draw = np.random.default_rng(1)
    roots = np.linalg.cholesky(pose.covariance + 1e-14 * np.eye(len(pose.values)))
    kinds: list[tuple[np.ndarray, float]] = [(np.zeros((1, len(pose.values))), 0.0)]
    for number, level in enumerate(_LEVELS):
        layers = _layers(picture, level, pose.length)
        after = []
        for steps, _ in kinds:
            base = steps[0]
            frame = _Frame.of(replace(pose, values=pose.values + roots @ base), roots)
            wide = level.spread * (draw.uniform(0.3, 1.3, (level.count, 1)) if number == 0 else 1.0)
            near = steps[np.arange(level.count) % len(steps)]
            every = np.concatenate([steps, near + wide * draw.standard_normal((level.count, len(base)))])
            worth = frame.worth(every - base, layers, level) - _PRICE * np.sum(every**2, axis=1)
            after += _kinds_of(frame, every, every - base, worth, _KINDS if number == 0 else 1)
        kinds = after
    kinds.sort(key=lambda kind: -kind[1])
    return tuple((replace(pose, values=pose.values + roots @ steps[0]), worth) for steps, worth in kinds)


@dataclass(frozen=True, eq=False)
class _Frame:
    """The edges of a flank and of its neighbours on the picture, and how they move with a pose.

    :param at: stations, shape (lines, stations, 2) [pixels].
    :param slopes: how they move with a step of one spread, shape (lines, stations, 2, values).
    :param across: ways out of the flank, square to the edges, shape (lines, stations, 2).
    :param length: of the flank [pixels].
    """

    at: np.ndarray
    slopes: np.ndarray
    across: np.ndarray
    length: float

    @staticmethod
    def of(pose: Pose, roots: np.ndarray) -> _Frame:
        """The edges of a pose."""
        u, v, teeth, _ = _lines()
        flat_u, flat_v, tooth = u.ravel(), v.ravel(), pose.tooth + teeth.ravel()
        at = pose.onto(flat_u, flat_v, tooth=tooth).reshape(*u.shape, 2)
        slopes = (pose.slopes(flat_u, flat_v, tooth) @ roots).reshape(*u.shape, 2, -1)
        along = np.gradient(at, axis=1)
        across = np.stack([-along[..., 1], along[..., 0]], -1)
        across /= np.linalg.norm(across, axis=-1, keepdims=True) + 1e-9
        inside = pose.onto(np.clip(flat_u, 0.1, 0.9), np.clip(flat_v, 0.1, 0.9), tooth=tooth)
        out = np.sign(np.sum(across * (at - inside.reshape(at.shape)), axis=(1, 2)))
        return _Frame(at, slopes, across * out[:, None, None], pose.length)

    def worth(self, steps: np.ndarray, layers: tuple[np.ndarray, ...], level: _Level) -> np.ndarray:
        """How much the picture steps along all edges, for each step of the pose, shape (m,)."""
        at = self.at + np.einsum("lsic,mc->mlsi", self.slopes, steps)
        step, seen = self._step(at, layers[0], level.side)
        strength = np.linalg.norm(step, axis=-1)
        if level.near is not None:
            near, _ = self._step(at, layers[1], level.near[0])
            size = np.linalg.norm(near, axis=-1)
            cosine = np.sum(near * step, axis=-1) / (size * strength + 1e-9)
            strength = np.minimum(strength, _BLURRED * size)
            strength = strength * np.where(cosine < _SAME_WAY, _OTHER_WAY, 1.0)
        weights = _lines()[3]
        worth = np.where(seen > _LEAST_SEEN, seen * np.log1p(strength / _STEP), 0.0)
        return np.asarray(worth @ weights)

    def _step(self, at: np.ndarray, layer: np.ndarray, side: float) -> tuple[np.ndarray, np.ndarray]:
        """Median step across each line, outside less inside, (m, lines, 3); and how much of it is seen."""
        off = self.across * (side * self.length)
        inside, seen = _looked(layer, at - off)
        outside, too = _looked(layer, at + off)
        seen &= too
        step = np.median(outside - inside, axis=2)
        return step, seen.mean(axis=2)


def _looked(layer: np.ndarray, at: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Colours at places, and which of them are on the picture."""
    x, y = np.floor(at[..., 0]).astype(np.int32), np.floor(at[..., 1]).astype(np.int32)
    height, width = layer.shape[:2]
    inside = (x >= 0) & (y >= 0) & (x < width) & (y < height)
    return layer[np.clip(y, 0, height - 1), np.clip(x, 0, width - 1)], inside


def _layers(picture: np.ndarray, level: _Level, length: float) -> tuple[np.ndarray, ...]:
    """The picture averaged as a level wants it."""
    blurs = (level.blur, *(level.near[1:] if level.near else ()))
    return tuple(ndimage.gaussian_filter(picture, (blur * length, blur * length, 0)) for blur in blurs)


def _kinds_of(
    frame: _Frame, every: np.ndarray, moved: np.ndarray, worth: np.ndarray, most: int
) -> list[tuple[np.ndarray, float]]:
    """The best steps, those of one kind together, the best kind first."""
    top = frame.at[0] + np.einsum("sic,mc->msi", frame.slopes[0], moved)
    off = np.sum(top * frame.across[0], axis=-1) / frame.length
    left = np.argsort(worth)[::-1]
    kinds: list[tuple[np.ndarray, float]] = []
    while len(left) and len(kinds) < most:
        best = left[0]
        same = np.abs(off[left] - off[best]).max(axis=1) < _ALIKE if most > 1 else np.ones(len(left), bool)
        kinds.append((every[left[same][:_KEPT]], float(worth[best])))
        left = left[~same]
    return kinds


@lru_cache(maxsize=1)
def _lines() -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
    """Stations of the edges: u, v and tooth, each (lines, stations), the flank's own top first; weights."""
    rows, weights = [], []
    for k in _TEETH:
        for name, weight in _WEIGHTS.items():
            t = np.linspace(0.04 if name == "top" else _END_FROM[k != 0], 0.96, _STATIONS)
            fixed = np.full(len(t), 0.0 if name == "toe" else 1.0)
            u, v = (t, fixed) if name == "top" else (fixed, t)
            rows.append((u, v, np.full(len(t), float(k))))
            weights.append(weight / max(abs(k), 1) ** 0.5)
    u, v, teeth = (np.stack(x) for x in zip(*rows, strict=True))
    return u, v, teeth, np.array(weights)
