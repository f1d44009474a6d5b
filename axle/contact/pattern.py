"""The contact pattern of one flank at any place of the pinion: what is wiped as the teeth roll through.

The pair that touches first at a moment is the smallest separation over its contact line and over the
lines of the teeth before and after; whatever lies within the compound's thickness of that is wiped. The
geometry of a flank is computed once; a displacement then only adds fields that are linear in it.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import Final

import numpy as np
from skimage.measure import find_contours

from axle.contact.flank import Flank
from axle.contact.mesh import Contact, displacement, mesh, opened
from axle.errors import AxleError

# Places along and up the flank on which a pattern is drawn, and moments per tooth pitch.
_ALONG, _UP, _MOMENTS, _COLUMNS = 65, 45, 20, 41
# Thickness of the compound square to the flank [mm]: common practice, from memory.
COMPOUND: Final = 0.006
_KINDS: Final = ("depth", "ring", "offset", "tilt")


@dataclass(frozen=True)
class EaseOff:
    """Separation from full conjugate contact, as a ring rotation × r_m: a crowned quadratic.

    :param lengthwise: at half the face from the centre [mm], 0 or more.
    :param profile: at half the height from the centre [mm], 0 or more.
    :param bias: twist between both [mm]; under the geometric mean of twice both, or it is no crown.
    :param centre: (u, v) of the cut's own centre.
    :raises AxleError: for a crown that does not close.
    :source: first-order ease-off; figures from memory.
    """

    lengthwise: float = 0.12
    profile: float = 0.02
    bias: float = 0.0
    centre: tuple[float, float] = (0.45, 0.5)

    def __post_init__(self) -> None:
        if self.lengthwise <= 0 or self.profile <= 0 or self.bias**2 >= 4 * self.lengthwise * self.profile:
            raise AxleError(
                "crowning",
                given=f"{self.lengthwise:g}, {self.profile:g} and a bias of {self.bias:g} mm",
                wanted="a crown: both more than 0, and little bias",
            )

    def at(self, u: np.ndarray, v: np.ndarray) -> np.ndarray:
        """Separation at (u, v), of their shape [mm]."""
        along, up = 2 * (u - self.centre[0]), 2 * (v - self.centre[1])
        return np.asarray(self.lengthwise * along**2 + self.profile * up**2 + self.bias * along * up)


@dataclass(frozen=True)
class Pattern:
    """What is wiped on one flank.

    :param outlines: closed outlines (u, v), each shape (n, 2).
    :param centroid: centre of the wiped area (u, v).
    :param area: share of the flank, 0 to 1.
    :param error: transmission error, peak to peak, as ring rotation × r_m [mm].
    :param first: smallest gap in the middle of the cycle, as ring rotation × r_m [mm].
    """

    outlines: tuple[np.ndarray, ...]
    centroid: tuple[float, float]
    area: float
    error: float
    first: float

    @property
    def reach(self) -> tuple[float, float, float, float]:
        """How far it reaches: (toe end, heel end, root end, top end)."""
        every = np.concatenate(self.outlines)
        low, high = every.min(axis=0), every.max(axis=0)
        return float(low[0]), float(high[0]), float(low[1]), float(high[1])

    @property
    def edges(self) -> tuple[str, ...]:
        """The edges of the flank that it runs over."""
        toe, heel, root, top = self.reach
        over = {"toe": toe <= 0, "heel": heel >= 1, "root": root <= 0, "top": top >= 1}
        return tuple(name for name, runs in over.items() if runs)


@dataclass(frozen=True)
class _Places:
    """Places of a flank in contact, with the gap that one unit of each displacement opens there."""

    u: np.ndarray
    v: np.ndarray
    contact: Contact
    gaps: Mapping[str, np.ndarray]


@dataclass(frozen=True)
class Meshing:
    """A flank in mesh: its geometry, computed once, from which patterns follow.

    :param flank: the ring gear's flank.
    :param ring_teeth: N2.
    :param ratio: N2/N1, more than 0.
    :param offset: E [mm], 0 or more.
    :raises AxleError: where the set does not mesh over the whole flank.
    """

    flank: Flank
    ring_teeth: int
    ratio: float
    offset: float

    @cached_property
    def _grid(self) -> _Places:
        u, v = np.meshgrid(np.linspace(0, 1, _ALONG), np.linspace(0, 1, _UP))
        return self._places(u, v)

    @cached_property
    def _lines(self) -> tuple[_Places, np.ndarray]:
        """Contact lines at those moments, and which of their places are on the flank."""
        angle, moments = self._grid.contact.angle, self._moments
        columns = np.linspace(0, _ALONG - 1, _COLUMNS).round().astype(int)
        heights, v = self._grid.v[:, 0], np.full((len(moments), len(columns)), np.nan)
        for at, column in enumerate(columns):
            along = angle[:, column]
            steps = np.diff(along)
            if not (np.all(steps > 0) or np.all(steps < 0)):
                raise AxleError(
                    "mesh",
                    given="a flank on which contact turns back on itself",
                    wanted="proportions of a gear set whose contact rolls from root to top",
                )
            order = slice(None, None, 1 if steps[0] > 0 else -1)
            v[:, at] = np.interp(moments, along[order], heights[order], left=np.nan, right=np.nan)
        on = np.isfinite(v)
        u = np.broadcast_to(self._grid.u[0, columns], v.shape)
        return self._places(u, np.where(on, v, 0.5)), on

    @property
    def pitch_contact(self) -> Contact:
        """The pitch point in contact, shape (1,)."""
        tooth = self.flank.tooth
        return self._places(
            np.array([0.5]), np.array([tooth.dedendum / (tooth.addendum + tooth.dedendum)])
        ).contact

    def pattern(
        self,
        ease: EaseOff,
        *,
        compound: float = COMPOUND,
        depth: float = 0.0,
        ring: float = 0.0,
        offset: float = 0.0,
        tilt: float = 0.0,
    ) -> Pattern:
        """Compute what is wiped.

        :param ease: the cut's own crown.
        :param compound: thickness square to the flank [mm], more than 0.
        :param depth: pinion depth error [mm].
        :param ring: ring offset [mm].
        :param offset: error of E [mm].
        :param tilt: shaft-angle error [rad].
        """
        moves = dict(zip(_KINDS, (depth, ring, offset, tilt), strict=True))
        first = self._first(ease, moves)
        grid = self._grid
        over = self._separation(grid, ease, moves)
        over -= np.interp(grid.contact.angle, self._moments, first)
        radius = self.flank.tooth.pitch.mean_radius
        outlines = _closed(over - compound / grid.contact.lever * radius)
        area, centroid = _middle(outlines)
        cycle = self._cycle(first)
        return Pattern(outlines, centroid, area=area, error=float(np.ptp(cycle)), first=float(cycle.mean()))

    def transmission_error(self, ease: EaseOff, *, depth: float = 0.0, ring: float = 0.0) -> np.ndarray:
        """Transmission error over one tooth pitch, as ring rotation × r_m [mm], shape (n,), mean 0.

        :param ease: the cut's own crown.
        :param depth: pinion depth error [mm].
        :param ring: ring offset [mm].
        """
        cycle = self._cycle(self._first(ease, {"depth": depth, "ring": ring, "offset": 0.0, "tilt": 0.0}))
        found: np.ndarray = cycle[:-1] - cycle[:-1].mean()
        return found

    @cached_property
    def _moments(self) -> np.ndarray:
        """Ring rotations, a fraction of a tooth pitch apart, over which the flank is in contact [rad]."""
        angle = self._grid.contact.angle
        step = 2 * math.pi / self.ring_teeth / _MOMENTS
        return step * np.arange(
            math.floor(float(angle.min()) / step), math.ceil(float(angle.max()) / step) + 1
        )

    def _cycle(self, first: np.ndarray) -> np.ndarray:
        """One tooth pitch out of the middle of the flank's own time in contact."""
        start = max((len(first) - _MOMENTS) // 2, 0)
        return first[start : start + _MOMENTS + 1]

    def _first(self, ease: EaseOff, moves: Mapping[str, float]) -> np.ndarray:
        """Smallest gap at each moment, this tooth's or a neighbour's."""
        lines, on = self._lines
        gaps = np.where(on, self._separation(lines, ease, moves), np.inf)
        own: np.ndarray = gaps.min(axis=1)
        least = own.copy()
        for away in range(_MOMENTS, len(own), _MOMENTS):
            least[away:] = np.minimum(least[away:], own[:-away])
            least[:-away] = np.minimum(least[:-away], own[away:])
        return least

    def _separation(self, places: _Places, ease: EaseOff, moves: Mapping[str, float]) -> np.ndarray:
        total: np.ndarray = ease.at(places.u, places.v)
        for kind, amount in moves.items():
            if amount:
                total = total + amount * places.gaps[kind]
        return total

    def _places(self, u: np.ndarray, v: np.ndarray) -> _Places:
        angle, height = self.flank.where(u, v)
        contact = mesh(self.flank.at(angle, height), self.flank.normal(angle), self.ratio, self.offset)
        radius = self.flank.tooth.pitch.mean_radius
        gaps = {
            kind: opened(contact, displacement(contact.points, **{kind: 1.0}), radius) for kind in _KINDS
        }
        return _Places(u, v, contact=contact, gaps=gaps)


def _closed(over: np.ndarray) -> tuple[np.ndarray, ...]:
    """Outlines of where a field is under 0, closed along the edges of the flank."""
    padded = np.pad(over, 1, constant_values=1e-9)
    found = []
    for line in find_contours(padded, 0.0):
        v = np.clip((line[:, 0] - 1) / (_UP - 1), 0, 1)
        u = np.clip((line[:, 1] - 1) / (_ALONG - 1), 0, 1)
        found.append(np.column_stack([u, v]))
    return tuple(found)


def _middle(outlines: tuple[np.ndarray, ...]) -> tuple[float, tuple[float, float]]:
    """Area and centre of closed outlines; a hole runs the other way round."""
    area = u = v = 0.0
    for line in outlines:
        a, b = line[:-1], line[1:]
        cross = a[:, 0] * b[:, 1] - b[:, 0] * a[:, 1]
        area += cross.sum() / 2
        u += float(((a[:, 0] + b[:, 0]) * cross).sum() / 6)
        v += float(((a[:, 1] + b[:, 1]) * cross).sum() / 6)
    return abs(float(area)), (float(u / area), float(v / area))
