"""Wiped patches on one flank: outlines in flank coordinates, drawn, typed or picked from a few words.

Coordinates on the ring gear's flank: u from 0 at the toe to 1 at the heel, v from 0 at the root to
1 at the top land.
"""

from __future__ import annotations

import math
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from itertools import product
from typing import Final, Protocol

import numpy as np
from scipy import ndimage
from skimage.draw import line as between
from skimage.measure import approximate_polygon, find_contours

from axle.errors import AxleError, quoted

# Quick marks: where a patch's middle lies and how far it reaches from it, in shares of the flank; common
# practice, no source.
HEIGHTS: Final[Mapping[str, float]] = {
    "at the root": 0.16,
    "low": 0.34,
    "a little low": 0.42,
    "central": 0.5,
    "a little high": 0.58,
    "high": 0.66,
    "at the top": 0.84,
}
LENGTHS: Final[Mapping[str, float]] = {
    "at the toe": 0.16,
    "to the toe": 0.32,
    "a little to the toe": 0.39,
    "central": 0.46,
    "a little to the heel": 0.54,
    "to the heel": 0.62,
    "at the heel": 0.84,
}
SIZES: Final[Mapping[str, tuple[float, float]]] = {
    "small": (0.13, 0.15),
    "usual": (0.21, 0.24),
    "large": (0.32, 0.34),
}


class Wiped(Protocol):
    """What is wiped on one flank, of one patch or of several."""

    @property
    def centroid(self) -> tuple[float, float]:
        """Centre of the wiped area (u, v)."""

    @property
    def reach(self) -> tuple[float, float, float, float]:
        """How far it reaches: (toe end, heel end, root end, top end)."""

    def runs(self, band: float) -> Mapping[str, float]:
        """How far it runs along each edge of the flank, share of that edge."""


# Places looked at along each side of an outline; cells into which a flank is divided to fill a drawn line,
# and the least that is a patch.
_ALONG_A_SIDE = 12
_ROWS, _COLUMNS, _LEAST_CELLS = 160, 320, 60


@dataclass(frozen=True)
class Patch:
    """The wiped patch on one flank, as a closed outline.

    :param outline: corners (u, v), each 0 to 1, at least three, spanning some area.
    :raises AxleError: for a corner off the flank or an outline without area.
    """

    outline: tuple[tuple[float, float], ...]

    def __post_init__(self) -> None:
        if len(self.outline) < 3:
            raise AxleError(
                "patch", given=f"{len(self.outline)} corners", wanted="an outline of at least three"
            )
        for u, v in self.outline:
            if not (0 <= u <= 1 and 0 <= v <= 1):
                raise AxleError(
                    "patch",
                    given=f"a corner at {u:.0%} of the length, {v:.0%} of the height",
                    wanted="0 % to 100 % of both",
                )
        if self.area < 1e-4:
            raise AxleError("patch", given="an outline without area", wanted="a patch one can see")

    @classmethod
    def box(cls, toe: float, heel: float, root: float, top: float) -> Patch:
        """Make a patch from how far it reaches: four shares of the flank, 0 to 1.

        :raises AxleError: when an end lies before its start, or off the flank.
        """
        for name, low, high in (("length", toe, heel), ("height", root, top)):
            if low >= high:
                raise AxleError(
                    f"patch {name}",
                    given=f"from {low:.0%} to {high:.0%}",
                    wanted="a start below its end",
                )
        # Eight corners: a patch is feathered and round, never a rectangle.
        du, dv = (heel - toe) / 4, (top - root) / 4
        return cls(
            (
                (toe + du, root),
                (heel - du, root),
                (heel, root + dv),
                (heel, top - dv),
                (heel - du, top),
                (toe + du, top),
                (toe, top - dv),
                (toe, root + dv),
            )
        )

    @classmethod
    def from_percent(cls, toe: str, heel: str, root: str, top: str, *, flank: str = "") -> Patch:
        """Make a patch from four typed numbers, each a per cent of the flank.

        :raises AxleError: naming the number that cannot be used.
        """
        shares = []
        for name, text in (("toe", toe), ("heel", heel), ("root", root), ("top", top)):
            try:
                value = float(text.strip().removesuffix("%"))
            except ValueError:
                value = math.nan
            if not 0 <= value <= 100:
                shown = quoted(text, 20)
                raise AxleError(
                    f"{flank} patch, {name} end".strip(), given=shown, wanted="a number from 0 to 100"
                )
            shares.append(value / 100)
        return cls.box(*shares)

    @property
    def percent(self) -> tuple[str, str, str, str]:
        """How far it reaches, as :meth:`from_percent` takes it."""
        toe, heel, root, top = (f"{100 * share:.0f}" for share in self.reach)
        return toe, heel, root, top

    @property
    def area(self) -> float:
        """Share of the flank that is wiped."""
        return abs(self._signed_area())

    @property
    def centroid(self) -> tuple[float, float]:
        """Centre of the wiped area (u, v)."""
        six = 6 * self._signed_area()
        u = sum((a[0] + b[0]) * (a[0] * b[1] - b[0] * a[1]) for a, b in self._edges())
        v = sum((a[1] + b[1]) * (a[0] * b[1] - b[0] * a[1]) for a, b in self._edges())
        return u / six, v / six

    @property
    def reach(self) -> tuple[float, float, float, float]:
        """How far it reaches: (toe end, heel end, root end, top end)."""
        us, vs = [u for u, _ in self.outline], [v for _, v in self.outline]
        return min(us), max(us), min(vs), max(vs)

    def runs(self, band: float) -> Mapping[str, float]:
        """How far it runs along each edge, share of that edge: a tip that only touches runs nowhere.

        :param band: how near the edge counts as over it, share of the flank.
        """
        corners = np.array([*self.outline, self.outline[0]])
        steps = np.linspace(0, 1, _ALONG_A_SIDE)[:, None, None]
        every = (corners[:-1] + steps * np.diff(corners, axis=0)).reshape(-1, 2)
        u, v = every.T
        over = {"toe": u < band, "heel": u > 1 - band, "root": v < band, "top": v > 1 - band}
        return {
            name: float(np.ptp((v if name in ("toe", "heel") else u)[near])) if near.any() else 0.0
            for name, near in over.items()
        }

    def _edges(self) -> list[tuple[tuple[float, float], tuple[float, float]]]:
        return list(zip(self.outline, (*self.outline[1:], self.outline[0]), strict=True))

    def _signed_area(self) -> float:
        return sum(a[0] * b[1] - b[0] * a[1] for a, b in self._edges()) / 2

    @classmethod
    def drawn(cls, points: Sequence[tuple[float, float]]) -> Patch:
        """Make a patch from a line drawn around it: closed, held to the flank, loops of the hand filled.

        :raises AxleError: when it goes around no area.
        """
        corners = np.clip(np.array(points, dtype=float), 0.0, 1.0)
        cells = np.rint(corners * [_COLUMNS - 1, _ROWS - 1]).astype(int) + 1
        line = np.zeros((_ROWS + 2, _COLUMNS + 2), dtype=bool)
        for (x0, y0), (x1, y1) in zip(cells, np.roll(cells, -1, axis=0), strict=True):
            line[between(y0, x0, y1, x1)] = True
        # What the line encloses, however often it goes around; its own cells count half.
        inside = ndimage.binary_fill_holes(line) & ~line
        lines = find_contours(inside + 0.5 * line, 0.4) if inside.sum() > _LEAST_CELLS else []
        if not lines:
            raise AxleError("patch", given="a line around nothing", wanted="one around the wiped area")
        outline = approximate_polygon(max(lines, key=len), 0.7)[:-1]
        return cls(
            tuple(
                (
                    min(max(float(x - 1) / (_COLUMNS - 1), 0.0), 1.0),
                    min(max(float(y - 1) / (_ROWS - 1), 0.0), 1.0),
                )
                for y, x in outline
            )
        )

    def simplified(self, most: int = 16) -> Patch:
        """The same patch by no more corners than a hand can drag."""
        tolerance, line = 0.004, np.array([*self.outline, self.outline[0]])
        while len(line) - 1 > most:
            line = approximate_polygon(line, tolerance)
            tolerance *= 1.4
        return Patch(tuple((float(u), float(v)) for u, v in line[:-1]))

    @classmethod
    def quick(cls, height: str, length: str, size: str) -> Patch:
        """Make a patch from three words, as somebody calls it across the shop.

        :raises AxleError: naming the word that is none of the marks.
        """
        asked: tuple[tuple[str, str, Collection[str]], ...] = (
            ("height", height, HEIGHTS),
            ("length", length, LENGTHS),
            ("size", size, SIZES),
        )
        for name, given, words in asked:
            if given not in words:
                raise AxleError(f"patch {name}", given=quoted(given, 20), wanted=" or ".join(words))
        half_length, half_height = SIZES[size]
        toe, heel = _ends(LENGTHS[length], half_length, at_edge=length.startswith("at "))
        root, top = _ends(HEIGHTS[height], half_height, at_edge=height.startswith("at "))
        return cls.box(toe, heel, root, top)

    @property
    def quick_words(self) -> tuple[str, str, str] | None:
        """The three words (height, length, size) that make this patch, or nothing where none do."""
        mine = np.round(np.array(self.outline), 3)
        for words in product(HEIGHTS, LENGTHS, SIZES):
            other = np.round(np.array(Patch.quick(*words).outline), 3)
            if mine.shape == other.shape and np.allclose(mine, other, atol=0.0015):
                return words
        return None


# A patch that is not said to be at an edge keeps so far away from it, share of the flank.
_INSIDE: Final = 0.05


def _ends(middle: float, half: float, *, at_edge: bool) -> tuple[float, float]:
    """Both ends of a patch around its middle: what is called large and to the toe does not run over it."""
    if at_edge:
        return max(middle - half, 0.0), min(middle + half, 1.0)
    half = min(half, middle - _INSIDE, 1 - _INSIDE - middle)
    return middle - half, middle + half
