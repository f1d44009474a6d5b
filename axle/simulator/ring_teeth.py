"""Teeth of a ring gear as surfaces in space, for the simulator's camera.

Written on its own equations: the tooth's line is a circle of the cutter rolled onto the pitch cone, the
slot is of one width from toe to heel, the depth tapers and the root is filled out.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from enum import IntEnum

import numpy as np


class Face(IntEnum):
    """Surfaces of a tooth."""

    CONVEX = 0
    CONCAVE = 1
    TOP = 2
    ROOT = 3
    HEEL_END = 4
    TOE_END = 5
    RIM = 6


@dataclass(frozen=True)
class RingTeeth:
    """A ring gear as it was really cut.

    :param count: N2.
    :param cone_angle: Γ of the pitch cone [rad].
    :param cone_distance: from the cone's tip to the middle of the face [mm].
    :param face_width: F [mm].
    :param spiral: ψ at the middle of the face [rad].
    :param cutter_radius: r_c [mm].
    :param convex_angle: flank angle of the convex side [rad].
    :param concave_angle: of the concave side [rad].
    :param addendum: at the middle of the face [mm].
    :param dedendum: likewise [mm].
    :param taper: how much the height grows from toe to heel, share of the height in the middle.
    :param bulge: how far a flank stands out in the middle of its height [mm].
    :param generated: 0 for a slot cut by a tool that stands still, 1 for one that rolls with the ring gear.
    :param hand: +1 where the tooth turns anticlockwise on its way out, seen from its top; else −1.
    """

    count: int
    cone_angle: float
    cone_distance: float
    face_width: float
    spiral: float
    cutter_radius: float
    convex_angle: float
    concave_angle: float
    addendum: float
    dedendum: float
    taper: float = 0.25
    bulge: float = 0.0
    generated: float = 0.0
    hand: int = 1

    def flank(self, u: np.ndarray, v: np.ndarray, *, convex: bool) -> np.ndarray:
        """Points of one flank, shape (3, …): u from toe to heel, v from root to top."""
        angle = self._flank_angle(u, v, convex=convex)
        return self._place(u, self._height(u, v), angle)

    def surface(self, face: Face, a: np.ndarray, b: np.ndarray) -> np.ndarray:
        """Points of any surface of a tooth by two shares of it, shape (3, …)."""
        if face in (Face.CONVEX, Face.CONCAVE):
            return self.flank(a, b, convex=face is Face.CONVEX)
        if face is Face.TOP:
            return self._place(a, self._height(a, np.ones_like(a)), self._across(a, np.ones_like(a), b))
        if face is Face.ROOT:
            return self._root(a, b)
        end = np.ones_like(a) if face in (Face.HEEL_END, Face.RIM) else np.zeros_like(a)
        if face is Face.RIM:
            pitch = (
                self._across(end, np.zeros_like(a), np.full_like(a, 0.5))
                + (a - 0.5) * 2 * math.pi / self.count
            )
            return self._place(end, self._height(end, np.zeros_like(a)) - b * 0.7 * self.dedendum, pitch)
        return self._place(end, self._height(end, b), self._across(end, b, a))

    def turned(self, points: np.ndarray, teeth: float) -> np.ndarray:
        """The same points so many teeth further round, shape (3, …)."""
        angle = 2 * math.pi * teeth / self.count
        c, s = math.cos(angle), math.sin(angle)
        return np.stack([c * points[0] - s * points[1], s * points[0] + c * points[1], points[2]])

    def _distance(self, u: np.ndarray) -> np.ndarray:
        return self.cone_distance + (u - 0.5) * self.face_width

    def _height(self, u: np.ndarray, v: np.ndarray) -> np.ndarray:
        grown = 1 + self.taper * (u - 0.5)
        return (v * (self.addendum + self.dedendum) - self.dedendum) * grown

    def _spiral_at(self, u: np.ndarray) -> np.ndarray:
        """Spiral angle from the triangle of cone tip, cutter's middle and the place on its circle."""
        r, away = self._distance(u), self._away
        return np.arcsin(
            np.clip((r**2 + self.cutter_radius**2 - away**2) / (2 * r * self.cutter_radius), -1, 1)
        )

    @property
    def _away(self) -> float:
        """From the cone's tip to the cutter's middle, on the cone laid out flat [mm]."""
        r, c = self.cone_distance, self.cutter_radius
        return math.sqrt(r**2 + c**2 - 2 * r * c * math.sin(self.spiral))

    def _line(self, u: np.ndarray) -> np.ndarray:
        """How far round the tooth's line has got [rad]: law of cosines on the cone laid out flat."""
        r, away = self._distance(u), self._away
        flat = np.arccos(np.clip((r**2 + away**2 - self.cutter_radius**2) / (2 * r * away), -1, 1))
        return -self.hand * flat / math.sin(self.cone_angle)

    def _half(self, u: np.ndarray, v: np.ndarray, angle: float) -> np.ndarray:
        """Half a tooth's thickness as an angle round the ring [rad]: a pitch less a slot of one width."""
        r_mean = self.cone_distance * math.sin(self.cone_angle)
        slot = math.pi * r_mean * math.cos(self.spiral) / self.count
        height = self._height(u, v)
        # The slot's floor lies in its middle, whatever the two flanks' angles are.
        even = (math.tan(self.convex_angle) + math.tan(self.concave_angle)) / 2
        aside = self.dedendum * (math.tan(angle) - even)
        free = slot / 2 + aside + height * math.tan(angle) - self.bulge * 4 * v * (1 - v)
        around = self._distance(u) * math.sin(self.cone_angle) + height * math.cos(self.cone_angle)
        return np.asarray(
            math.pi / self.count - np.maximum(free, 0.05) / (around * np.cos(self._spiral_at(u)))
        )

    def _flank_angle(self, u: np.ndarray, v: np.ndarray, *, convex: bool) -> np.ndarray:
        # The side that looks away from the cutter's middle is convex.
        side = -self.hand if convex else self.hand
        alpha = self.convex_angle if convex else self.concave_angle
        return np.asarray(self._line(u) + side * self._half(u, v, alpha) + self._leaning(u, v))

    def _leaning(self, u: np.ndarray, v: np.ndarray) -> np.ndarray:
        """A tool that stands still is square to the cone in the middle of the face alone [rad]."""
        line, height = self._line(u), self._height(u, v)
        middle = float(self._line(np.array([0.5]))[0])
        around = self._distance(u) * math.sin(self.cone_angle) + height * math.cos(self.cone_angle)
        lean = math.cos(self.cone_angle) * np.sin(middle - line)
        return np.asarray((1 - self.generated) * height * lean / around)

    def _across(self, u: np.ndarray, v: np.ndarray, share: np.ndarray) -> np.ndarray:
        """From the convex flank (0) to the concave one (1) at one height [rad]."""
        one, other = (self._flank_angle(u, v, convex=convex) for convex in (True, False))
        return np.asarray(one + share * (other - one))

    def _root(self, u: np.ndarray, share: np.ndarray) -> np.ndarray:
        """From the convex flank's foot across the slot to the next tooth's concave one."""
        low = np.zeros_like(u)
        start = self._flank_angle(u, low, convex=True)
        end = self._flank_angle(u, low, convex=False) - self.hand * 2 * math.pi / self.count
        depth = self._height(u, low) - 0.14 * self.dedendum * np.sin(math.pi * share) ** 0.7
        return self._place(u, depth, start + share * (end - start))

    def _place(self, u: np.ndarray, height: np.ndarray, angle: np.ndarray) -> np.ndarray:
        r, sine, cosine = self._distance(u), math.sin(self.cone_angle), math.cos(self.cone_angle)
        around = r * sine + height * cosine
        return np.stack([around * np.cos(angle), around * np.sin(angle), -r * cosine + height * sine])
