"""The two flanks of a ring gear tooth as a face-mill cutter leaves them: cones swept by straight blades.

The cutter's circle passes through the pitch point along the tooth, its axis stands square to the pitch
plane. The inside blade cuts the convex flank, the outside blade the concave one. On a flank u runs from
the toe (0) to the heel (1), v from the root (0) to the top (1), both in the axial plane of the ring.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property
from typing import Final

import numpy as np

from axle.contact.pitch import PitchPoint
from axle.errors import AxleError

_ROUNDS: Final = 30
_CLOSE: Final = 1e-10


@dataclass(frozen=True)
class Tooth:
    """A ring gear tooth: where it stands, how long and high it is, and how it was cut.

    :param pitch: the pitch point.
    :param face_width: F [mm], more than 0.
    :param addendum: height of the tooth over the pitch cone [mm], more than 0.
    :param dedendum: depth of the tooth under it, without the clearance [mm], more than 0.
    :param cutter_radius: r_c [mm], more than 0.
    :raises AxleError: for a length that cannot be.
    """

    pitch: PitchPoint
    face_width: float
    addendum: float
    dedendum: float
    cutter_radius: float

    def __post_init__(self) -> None:
        for what, value in (
            ("face width", self.face_width),
            ("addendum", self.addendum),
            ("dedendum", self.dedendum),
            ("cutter radius", self.cutter_radius),
        ):
            if value <= 0:
                raise AxleError(what, given=f"{value:g} mm", wanted="more than 0")

    @cached_property
    def frame(self) -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
        """P, pitch normal, outward cutter radius at P and tooth direction there, each shape (3,)."""
        point, normal, tooth = (
            np.array(v) for v in (self.pitch.point, self.pitch.normal, self.pitch.tooth)
        )
        outward = np.cross(normal, tooth)
        # Of the two sides the centre may lie on, the spiral angle grows towards the heel on one.
        if self._spiral_growth(point, normal, outward, tooth) < 0:
            outward = -outward
        return point, normal, outward, tooth

    def _spiral_growth(
        self, point: np.ndarray, normal: np.ndarray, outward: np.ndarray, tooth: np.ndarray
    ) -> float:
        turned = []
        for angle in (-0.05, 0.05):
            away = math.cos(angle) * outward + math.sin(angle) * tooth
            at = point + self.cutter_radius * (away - outward)
            along = np.cross(normal, away)
            radius = math.hypot(at[0], at[1])
            generator = np.array([at[0] / radius, at[1] / radius, 0.0]) * math.sin(self.pitch.ring_angle)
            generator[2] = -math.cos(self.pitch.ring_angle)
            lean = abs(float(along @ generator)) / float(np.linalg.norm(generator))
            turned.append((radius, math.acos(min(lean, 1.0))))
        (r0, s0), (r1, s1) = turned
        return (s1 - s0) * (r1 - r0)


@dataclass(frozen=True)
class Flank:
    """One flank of a ring gear tooth.

    :param tooth: the tooth.
    :param convex: the convex flank rather than the concave one.
    :param pressure_angle: α [rad], 0 to 60°.
    :raises AxleError: for an angle outside that.
    """

    tooth: Tooth
    convex: bool
    pressure_angle: float

    def __post_init__(self) -> None:
        if not 0 < self.pressure_angle < math.radians(60):
            raise AxleError(
                "pressure angle", given=f"{math.degrees(self.pressure_angle):.1f}°", wanted="0 to 60°"
            )

    @property
    def _side(self) -> int:
        """The inside blade's cone narrows towards the top of the tooth, the outside blade's widens."""
        return 1 if self.convex else -1

    def at(self, angle: np.ndarray, height: np.ndarray) -> np.ndarray:
        """Points of the flank by cutter angle [rad] and height over the pitch plane [mm], shape (3, …)."""
        point, normal, outward, _ = self.tooth.frame
        centre = point - self.tooth.cutter_radius * outward
        radius = self.tooth.cutter_radius - self._side * height * math.tan(self.pressure_angle)
        return np.asarray(
            _column(centre, angle) + radius * self._away(angle) + height * _column(normal, angle)
        )

    def normal(self, angle: np.ndarray) -> np.ndarray:
        """Unit normals out of the metal by cutter angle [rad], shape (3, …): the blade is straight."""
        _, pitch_normal, _, _ = self.tooth.frame
        sine, cosine = math.sin(self.pressure_angle), math.cos(self.pressure_angle)
        return np.asarray(sine * _column(pitch_normal, angle) + self._side * cosine * self._away(angle))

    def where(self, u: np.ndarray, v: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """Cutter angle [rad] and height [mm] of the flank at (u, v), each of their shape.

        :raises AxleError: where the cutter does not reach a place of the flank.
        """
        u, v = np.broadcast_arrays(np.asarray(u, dtype=float), np.asarray(v, dtype=float))
        wanted = self._axial(u, v)
        angle = np.zeros_like(u) + (u - 0.5) * self.tooth.face_width / self.tooth.cutter_radius * self._turn
        height = v * (self.tooth.addendum + self.tooth.dedendum) - self.tooth.dedendum
        for _ in range(_ROUNDS):
            off = self._in_plane(self.at(angle, height)) - wanted
            if float(np.max(np.abs(off))) < _CLOSE:
                return angle, height
            by_angle, by_height = self._slopes(angle, height)
            det = by_angle[0] * by_height[1] - by_angle[1] * by_height[0]
            angle = angle - (by_height[1] * off[0] - by_height[0] * off[1]) / det
            height = height - (by_angle[0] * off[1] - by_angle[1] * off[0]) / det
        raise AxleError(
            "flank",
            given="a place that the cutter does not reach",
            wanted="proportions that this cutter can cut",
        )

    @property
    def _turn(self) -> float:
        """+1 where a growing cutter angle goes to the heel, −1 where it goes to the toe."""
        near = self._in_plane(self.at(np.array([-0.01, 0.01]), np.zeros(2)))
        return 1.0 if near[0, 1] > near[0, 0] else -1.0

    def _away(self, angle: np.ndarray) -> np.ndarray:
        """Outward cutter radius, shape (3, …)."""
        _, _, outward, tooth = self.tooth.frame
        return np.asarray(np.cos(angle) * _column(outward, angle) + np.sin(angle) * _column(tooth, angle))

    def _axial(self, u: np.ndarray, v: np.ndarray) -> np.ndarray:
        """Radius and height above the ring's plane of (u, v), shape (2, …)."""
        tooth, pitch = self.tooth, self.tooth.pitch
        along = (u - 0.5) * tooth.face_width
        up = v * (tooth.addendum + tooth.dedendum) - tooth.dedendum
        sine, cosine = math.sin(pitch.ring_angle), math.cos(pitch.ring_angle)
        return np.array(
            [
                pitch.mean_radius + along * sine + up * cosine,
                pitch.point[2] - along * cosine + up * sine,
            ]
        )

    @staticmethod
    def _in_plane(points: np.ndarray) -> np.ndarray:
        return np.array([np.hypot(points[0], points[1]), points[2]])

    def _slopes(self, angle: np.ndarray, height: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """How radius and height in the axial plane change with cutter angle and blade height."""
        points = self.at(angle, height)
        _, normal, outward, tooth = self.tooth.frame
        radius = self.tooth.cutter_radius - self._side * height * math.tan(self.pressure_angle)
        around = -np.sin(angle) * _column(outward, angle) + np.cos(angle) * _column(tooth, angle)
        by_angle = radius * around
        by_height = _column(normal, angle) - self._side * math.tan(self.pressure_angle) * self._away(angle)
        reach = np.hypot(points[0], points[1])
        first, second = (
            np.array([(points[0] * d[0] + points[1] * d[1]) / reach, d[2]]) for d in (by_angle, by_height)
        )
        return first, second


def _column(vector: np.ndarray, like: np.ndarray) -> np.ndarray:
    """A vector that broadcasts against values of a shape, shape (3, 1, …)."""
    return vector.reshape(3, *([1] * np.ndim(like)))
