"""Where a flank stands before the camera, from the places on the photograph that somebody pointed at.

Fitted are the turn and the place of the computed flank, the focal length, and how bowed, tapered and high
the
tooth truly is, each held to what is usual. Four corners carry the pose; the middles of the long edges
carry bow
and taper too.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Final

import numpy as np

from axle.errors import AxleError
from axle.photo.surface import FlankSurface

# Where on the flank is pointed at, in order: four corners, then the middles of root and top.
NAMES: Final = ("toe-root", "heel-root", "heel-top", "toe-top", "middle of the root", "middle of the top")
PLACES: Final = np.array([[0.0, 0.0], [1.0, 0.0], [1.0, 1.0], [0.0, 1.0], [0.5, 0.0], [0.5, 1.0]])
# Scatter of a finger, share of the flank's length on the picture; a common figure for a lens under the
# finger, from memory.
TAP_SHARE: Final = 0.015
_FILM_DIAGONAL: Final = 43.27

# What is held of focal length, bow, taper and height before the picture is seen, in the order of the last
# four parameters: middles and spreads, from memory. A focal length is a logarithm of the picture's
# diagonals.
_FOCAL_TOLD, _FOCAL_USUAL, _FOCAL_SPREAD = 0.03, math.log(0.85), 0.4
_BOW, _TAPER, _HEIGHT = (1.0, 0.08), (0.22, 0.12), (0.0, 0.04)

# From where a flank is looked at, as parts of the way to the camera along the tooth and up it: over the
# next tooth, so that the root is in sight. From below nobody sees it.
_VIEW: Final = np.array([0.0, 0.42])
_VIEW_SPREAD: Final = np.array([0.4, 0.2])

_TURN, _MIDDLE, _SCALE, _FOCAL, _SHAPE = slice(0, 3), slice(3, 5), 5, 6, slice(7, 10)
_COUNT: Final = 10
_STEPS: Final = np.array([1e-4] * 3 + [1e-2] * 2 + [1e-4] * 2 + [1e-3] * 3)
_ROUNDS: Final = 40
# Two poses are another when they look from so far apart [rad], and close when their costs are so near.
_APART, _NEAR = math.radians(12), 4.0


@dataclass(frozen=True, eq=False)
class Pose:
    """A flank before the camera.

    :param surface: the flank.
    :param start: turn from which the fitted one is counted, shape (3, 3).
    :param values: turn [rad], middle of the flank [pixels] from the picture's middle, logarithm of the
        scale
        [pixels per mm], logarithm of the focal length [pixels], bow, taper, logarithm of the height; (10,).
    :param centre: the picture's middle [pixels].
    :param covariance: of the values, shape (10, 10).
    :param cost: half the sum of squares that is left.
    :param tooth: so many teeth from the one that was pointed at.
    :param on_edges: it was put right by the picture's own edges.
    """

    surface: FlankSurface
    start: np.ndarray
    values: np.ndarray
    centre: np.ndarray
    covariance: np.ndarray
    cost: float = 0.0
    tooth: int = 0
    on_edges: bool = False

    def onto(
        self,
        u: np.ndarray,
        v: np.ndarray,
        values: np.ndarray | None = None,
        tooth: float | np.ndarray | None = None,
    ) -> np.ndarray:
        """Where places of the flank lie on the picture, shape (n, 2) [pixels]."""
        x = self.values if values is None else values
        tooth = self.tooth if tooth is None else tooth
        high = self.surface.root_share + (np.asarray(v) - self.surface.root_share) * math.exp(x[9])
        points = self.surface.at(np.asarray(u), high, bow=x[7], taper=x[8], tooth=tooth)
        local = (points - self.surface.middle) @ (_turned(x[_TURN]) @ self.start).T
        away = math.exp(x[_FOCAL] - x[_SCALE])
        depth = np.maximum(1 + local[:, 2] / away, 0.05)
        at = (local[:, :2] * math.exp(x[_SCALE]) + x[_MIDDLE]) / depth[:, None]
        return np.asarray(at + self.centre)

    def slopes(self, u: np.ndarray, v: np.ndarray, tooth: float | np.ndarray | None = None) -> np.ndarray:
        """How places on the picture move with each value, shape (n, 2, 10)."""
        here = self.onto(u, v, tooth=tooth)
        every = []
        for i, step in enumerate(_STEPS):
            moved = self.values.copy()
            moved[i] += step
            every.append((self.onto(u, v, moved, tooth) - here) / step)
        return np.stack(every, -1)

    def places(self, pixels: np.ndarray, start: np.ndarray | None = None) -> np.ndarray:
        """Which places of the flank lie at pixels: (u, v), shape (n, 2)."""
        found = np.full((len(pixels), 2), 0.5) if start is None else start.copy()
        for _ in range(12):
            off = pixels - self.onto(*found.T)
            step = np.linalg.solve(self.by_place(*found.T), off[..., None])[..., 0]
            found = np.clip(found + np.clip(step, -0.5, 0.5), -0.6, 1.6)
            if np.abs(step).max(initial=0.0) < 1e-7:
                break
        return found

    def by_place(self, u: np.ndarray, v: np.ndarray) -> np.ndarray:
        """How places on the picture move with (u, v), shape (n, 2, 2)."""
        e = 1e-4
        return np.stack(
            [
                (self.onto(u + e, v) - self.onto(u - e, v)) / (2 * e),
                (self.onto(u, v + e) - self.onto(u, v - e)) / (2 * e),
            ],
            -1,
        )

    def scaled(self, by: float) -> Pose:
        """The same pose on a picture so many times as large."""
        size = np.ones(_COUNT)
        size[_MIDDLE] = by
        values = self.values * size
        values[[_SCALE, _FOCAL]] += math.log(by)
        covariance = self.covariance * np.outer(size, size)
        return replace(self, values=values, centre=self.centre * by, covariance=covariance)

    @property
    def towards(self) -> np.ndarray:
        """Way from the flank's middle to the camera, in ways to heel, top and outward, shape (3,)."""
        turn = _turned(self.values[_TURN]) @ self.start
        away = math.exp(self.values[_FOCAL] - self.values[_SCALE])
        scale = math.exp(self.values[_SCALE])
        place = -(turn.T @ np.array([*self.values[_MIDDLE] / scale, away]))
        place = place / np.linalg.norm(place)
        return np.asarray(self.surface.middle_frame @ place)

    @property
    def off_square(self) -> float:
        """How far the camera stands off the flank's normal [rad]."""
        return float(np.arccos(np.clip(self.towards[2], -1, 1)))

    @property
    def corners(self) -> np.ndarray:
        """The six places on the picture, shape (6, 2) [pixels]."""
        return self.onto(*PLACES.T)

    @property
    def length(self) -> float:
        """Length of the flank on the picture [pixels]."""
        at = self.corners
        return float(np.linalg.norm(at[1] - at[0]) + np.linalg.norm(at[2] - at[3])) / 2


@dataclass(frozen=True, eq=False)
class Sighting:
    """Places of a flank that were seen at pixels.

    :param places: (u, v), shape (n, 2).
    :param pixels: shape (n, 2).
    :param weights: what makes their residuals of one spread, shape (n, 2, 2): rows of zeros count for
        nothing.
    :param tooth: so many teeth from the one that was pointed at.
    """

    places: np.ndarray
    pixels: np.ndarray
    weights: np.ndarray
    tooth: int | np.ndarray = 0


@dataclass(frozen=True, eq=False)
class Held:
    """What is held of a pose's values before the picture is looked at.

    :param middle: shape (10,).
    :param precision: inverse covariance, shape (10, 10).
    """

    middle: np.ndarray
    precision: np.ndarray

    def scaled(self, by: float) -> Held:
        """The same on a picture so many times as large."""
        middle = self.middle.copy()
        middle[_FOCAL] += math.log(by)
        return Held(middle, self.precision)


def held(size: tuple[int, int], focal: float | None) -> Held:
    """What is held of any flank on any picture.

    :param size: width and height [pixels].
    :param focal: as on a 35 mm film, as the file tells it [mm], more than 0; None where it does not.
    :returns: middle and precision of a pose's values.
    :source: usual phones and usual teeth, from memory; a file's focal length to 3 %.
    """
    diagonal = math.hypot(*size)
    middle, spread = np.zeros(_COUNT), np.full(_COUNT, np.inf)
    if focal:
        middle[_FOCAL], spread[_FOCAL] = math.log(focal / _FILM_DIAGONAL * diagonal), _FOCAL_TOLD
    else:
        middle[_FOCAL], spread[_FOCAL] = _FOCAL_USUAL + math.log(diagonal), _FOCAL_SPREAD
    for i, (mean, std) in enumerate((_BOW, _TAPER, _HEIGHT)):
        middle[7 + i], spread[7 + i] = mean, std
    return Held(middle, np.diag(np.where(np.isfinite(spread), 1 / spread**2, 0.0)))


def poses(
    surface: FlankSurface,
    taps: np.ndarray,
    size: tuple[int, int],
    focal: float | None,
    *,
    tap_share: float = TAP_SHARE,
) -> tuple[Pose, ...]:
    """Poses that bring a flank onto the places pointed at, the likeliest first; a second one is its mirror.

    :param surface: the flank, of either hand: the taps' turning sense says of which.
    :param taps: (x, y) of four or six places in the order of :data:`NAMES`, shape (n, 2) [pixels].
    :param size: width and height of the picture [pixels].
    :param focal: as on a 35 mm film [mm], or None.
    :param tap_share: scatter of a finger, share of the flank's length, more than 0.
    :returns: one or two poses.
    :raises AxleError: for other than four or six places, or places that no flank can have.
    :source: Gauss and Newton's steps from a fan of ways to look at it; Levenberg's damping.
    """
    if taps.shape not in ((4, 2), (6, 2)):
        raise AxleError("taps", given=f"{len(taps)} places", wanted="four corners, or six places")
    side = surface if sense(taps) == surface.outward else surface.mirrored
    before = held(size, focal)
    found: list[Pose] = []
    for start in _starts(side, taps, np.array(size) / 2, before):
        pose = fitted(start, [tapped(taps, tap_share)], before)
        if pose.towards[2] < 0.05:
            continue
        if all(_angle(pose, other) > _APART for other in found):
            found.append(pose)
        else:
            found = [pose if _angle(pose, o) <= _APART and pose.cost < o.cost else o for o in found]
    if not found:
        raise AxleError(
            "taps", given="places that no flank can have", wanted="the corners of one flank, in order"
        )
    return tuple(sorted(found, key=lambda pose: pose.cost)[:2])


def tapped(taps: np.ndarray, share: float = TAP_SHARE) -> Sighting:
    """Places pointed at, with a finger's scatter.

    :param taps: shape (n, 2) [pixels].
    :param share: that scatter, of the flank's length.
    :source: :data:`TAP_SHARE`.
    """
    weights = np.eye(2) / (share * tap_length(taps))
    return Sighting(PLACES[: len(taps)], taps, np.tile(weights, (len(taps), 1, 1)))


def are_close(both: tuple[Pose, ...]) -> bool:
    """Whether two poses cannot be told apart by their costs.

    :param both: as :func:`poses` gives them.
    :source: a ratio of likelihoods of e⁴ tells two apart.
    """
    return len(both) > 1 and both[1].cost - both[0].cost < _NEAR


def sense(taps: np.ndarray) -> int:
    """Which way round the corners were pointed at: +1 with the toe left when the root is below, else −1.

    :param taps: shape (n, 2) [pixels], y downward; the first four are the corners.
    :source: signed area of a polygon.
    """
    x, y = taps[:4].T
    area = float(np.sum(x * np.roll(y, -1) - np.roll(x, -1) * y))
    return -1 if area > 0 else 1


def tap_length(taps: np.ndarray) -> float:
    """Length of the flank that was pointed at [pixels].

    :param taps: shape (n, 2) [pixels].
    :source: mean of both long sides.
    """
    return float(np.linalg.norm(taps[1] - taps[0]) + np.linalg.norm(taps[2] - taps[3])) / 2


def _turned(by: np.ndarray) -> np.ndarray:
    """Matrix of a turn by a vector (Rodrigues), shape (3, 3)."""
    angle = math.sqrt(float(by @ by))
    x, y, z = by
    cross = np.array([[0.0, -z, y], [z, 0.0, -x], [-y, x, 0.0]])
    first, second = (
        (math.sin(angle) / angle, (1 - math.cos(angle)) / angle**2) if angle > 1e-6 else (1.0, 0.5)
    )
    return np.asarray(np.eye(3) + first * cross + second * cross @ cross)


def _angle(one: Pose, other: Pose) -> float:
    return float(np.arccos(np.clip(one.towards @ other.towards, -1, 1)))


def _starts(surface: FlankSurface, taps: np.ndarray, centre: np.ndarray, before: Held) -> list[Pose]:
    """Poses to begin from: a fan of ways to look, each turned and sized onto the taps."""
    frame = surface.middle_frame
    places = PLACES[: len(taps)]
    points = surface.at(*places.T, taper=_TAPER[0])
    points = points - surface.at(np.array([0.5]), np.array([0.5]))[0]
    middle = taps.mean(axis=0)
    ranked = []
    for tilt in np.radians([8, 30, 50, 68]):
        for lean in np.radians(np.arange(0, 360, 30 if tilt > 0.3 else 120)):
            view = np.array(
                [math.sin(tilt) * math.sin(lean), math.sin(tilt) * math.cos(lean), math.cos(tilt)]
            )
            ahead = -(view @ frame)
            right = np.cross(ahead, frame[1])
            right /= np.linalg.norm(right)
            turn = np.stack([right, np.cross(ahead, right), ahead])
            flat = (points @ turn.T)[:, :2]
            flat0 = flat - flat.mean(axis=0)
            want = taps - middle
            # Turn and size in the picture that bring one onto the other: a complex quotient.
            a, b = flat0 @ [1, 1j], want @ [1, 1j]
            by = np.vdot(a, b) / np.vdot(a, a)
            left = float(np.abs(by * a - b).sum())
            c, s = by.real / abs(by), by.imag / abs(by)
            spun = np.array([[c, -s, 0], [s, c, 0], [0, 0, 1.0]]) @ turn
            values = before.middle.copy()
            values[_MIDDLE] = middle - centre - (flat.mean(axis=0) * abs(by)) @ np.array([[c, s], [-s, c]])
            values[_SCALE] = math.log(abs(by))
            ranked.append((left, Pose(surface, spun, values, centre, np.eye(_COUNT))))
    ranked.sort(key=lambda row: row[0])
    chosen: list[Pose] = []
    for _, pose in ranked:
        if all(_angle(pose, other) > math.radians(25) for other in chosen):
            chosen.append(pose)
        if len(chosen) == 6:
            break
    return chosen


def fitted(pose: Pose, sightings: Sequence[Sighting], before: Held, rounds: int = _ROUNDS) -> Pose:
    """The pose that brings a flank onto what was seen of it and of its neighbours.

    :param pose: to begin from.
    :param sightings: what was seen [pixels].
    :param before: what is held of the values.
    :param rounds: most steps.
    :returns: the pose, its covariance and its cost.
    :source: least squares, Levenberg's damping.
    """
    damp = 1e-3
    now, left, cost = pose, *_left(pose, sightings, before)
    information = np.eye(_COUNT)
    for _ in range(rounds):
        slope = np.concatenate([*(_slopes(now, seen) for seen in sightings), _view_slopes(now)])
        information = slope.T @ slope + before.precision
        pull = slope.T @ left - before.precision @ (now.values - before.middle)
        step = np.linalg.solve(information + damp * np.diag(np.diag(information) + 1e-9), pull)
        step[_SHAPE] = np.clip(step[_SHAPE], -0.3, 0.3)
        tried = replace(now, values=now.values + step)
        left_then, cost_then = _left(tried, sightings, before)
        if cost_then < cost:
            done = cost - cost_then < 1e-5 * (1 + cost)
            now, left, cost, damp = tried, left_then, cost_then, max(damp / 5, 1e-9)
            if done:
                break
        else:
            damp *= 6
            if damp > 1e6:
                break
    covariance = np.linalg.inv(information + 1e-12 * np.eye(_COUNT))
    return replace(now, covariance=covariance, cost=cost)


def _slopes(pose: Pose, seen: Sighting) -> np.ndarray:
    by = pose.slopes(seen.places[:, 0], seen.places[:, 1], pose.tooth + seen.tooth)
    return np.asarray(np.einsum("nij,njk->nik", seen.weights, by).reshape(-1, _COUNT))


def _left(pose: Pose, sightings: Sequence[Sighting], before: Held) -> tuple[np.ndarray, float]:
    rows = [
        np.einsum(
            "nij,nj->ni",
            seen.weights,
            seen.pixels - pose.onto(seen.places[:, 0], seen.places[:, 1], tooth=pose.tooth + seen.tooth),
        ).ravel()
        for seen in sightings
    ]
    left = np.concatenate([*rows, (_VIEW - pose.towards[:2]) / _VIEW_SPREAD])
    off = pose.values - before.middle
    return left, float(left @ left + off @ before.precision @ off) / 2


def _view_slopes(pose: Pose) -> np.ndarray:
    """How the way to the camera moves with each value, in spreads of what is held of it, shape (2, 10)."""
    every = np.zeros((2, _COUNT))
    for i in range(7):
        moved = [
            replace(pose, values=pose.values + sign * _STEPS[i] * np.eye(_COUNT)[i]) for sign in (1, -1)
        ]
        every[:, i] = (moved[0].towards - moved[1].towards)[:2] / (2 * _STEPS[i]) / _VIEW_SPREAD
    return every
