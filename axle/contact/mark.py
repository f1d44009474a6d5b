"""What is wiped on one flank of one tooth, how it is known, and how far its middle can be believed."""

from __future__ import annotations

import math
import statistics
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from enum import Enum
from typing import Final

from axle.contact.patch import Patch
from axle.errors import AxleError


class Edge(Enum):
    """How a patch ends."""

    FEATHERED = "feathered"
    HARD = "hard"


class Strength(Enum):
    """How clearly compound is wiped."""

    CLEAR = "clear"
    FAINT = "faint"
    DARK = "dark"


class By(Enum):
    """How a patch came to be known."""

    QUICK = "quick"
    HAND = "hand"
    PHOTO = "photo"


# Scatter of a patch's middle by how it is known, share of the flank; from memory. A faint print is a
# worse one. Words are rounded to a twelfth of the tooth. A photo says its own; one that was read before
# photos
# knew a flank's bow is off in height by 0.1 to 0.2.
NOISE: Final[Mapping[By, float]] = {By.QUICK: 0.04, By.HAND: 0.03, By.PHOTO: 0.15}
_FAINT: Final = 1.5
# What one print differs from the next by, however well it is read; from memory.
_PRINT_TO_PRINT: Final = 0.02
# A height known worse than this says little: share of the flank.
_VAGUE: Final = 0.08


@dataclass(frozen=True)
class FlankMark:
    """Everything that is wiped on one flank of one tooth.

    :param patches: at least one.
    :param edge: how they end: feathered is good, hard at an end is overload.
    :param strength: how clearly the compound is wiped.
    :param by: how it is known.
    :param tooth: the tooth's number from the mark, from 1, where somebody counted; else 0.
    :param spread: standard deviation of its middle along and up, as a photo was read; none where nothing
        says.
    :param beside: middles (u, v) on other teeth of the same photo.
    :raises AxleError: without a patch.
    """

    patches: tuple[Patch, ...]
    edge: Edge = Edge.FEATHERED
    strength: Strength = Strength.CLEAR
    by: By = By.HAND
    tooth: int = 0
    spread: tuple[float, float] | None = None
    beside: tuple[tuple[float, float], ...] = ()

    def __post_init__(self) -> None:
        if not self.patches:
            raise AxleError("print", given="no patch", wanted="the wiped patch of one flank at least")

    @property
    def area(self) -> float:
        """Share of the flank that is wiped."""
        return sum(patch.area for patch in self.patches)

    @property
    def centroid(self) -> tuple[float, float]:
        """Centre of the wiped area (u, v); with other teeth the median of all, this one counted twice."""
        shares = [patch.area / self.area for patch in self.patches]
        centroids = [patch.centroid for patch in self.patches]
        own = (
            sum(share * middle[0] for share, middle in zip(shares, centroids, strict=True)),
            sum(share * middle[1] for share, middle in zip(shares, centroids, strict=True)),
        )
        every = (own, own, *self.beside)
        return statistics.median(u for u, _ in every), statistics.median(v for _, v in every)

    @property
    def reach(self) -> tuple[float, float, float, float]:
        """How far all of it reaches: (toe end, heel end, root end, top end)."""
        return _around(patch.reach for patch in self.patches)

    def runs(self, band: float) -> Mapping[str, float]:
        """How far any patch runs along each edge, share of that edge."""
        return _furthest(patch.runs(band) for patch in self.patches)

    @property
    def percent(self) -> tuple[str, str, str, str]:
        """How far all of it reaches, in whole per cent as a builder types it."""
        toe, heel, root, top = (f"{100 * share:.0f}" for share in self.reach)
        return toe, heel, root, top

    @property
    def noise(self) -> tuple[float, float]:
        """Scatter of its middle, share of length and of height."""
        by = _FAINT if self.strength is Strength.FAINT else 1.0
        if self.spread is None:
            return NOISE[self.by] * by, NOISE[self.by] * by
        along, up = (math.hypot(part, _PRINT_TO_PRINT) * by for part in self.spread)
        return along, up

    @property
    def is_vague(self) -> bool:
        """Whether it was read from a photo that hardly tells its height."""
        return self.by is By.PHOTO and self.noise[1] > _VAGUE


@dataclass(frozen=True)
class Flanked:
    """One flank of one print, at one place around the ring gear or at several.

    :param marks: by place, at least one.
    :raises AxleError: without a mark.
    """

    marks: Mapping[int, FlankMark]

    def __post_init__(self) -> None:
        if not self.marks:
            raise AxleError("print", given="no place", wanted="one place around the ring gear at least")

    @classmethod
    def of(cls, patch: Patch) -> Flanked:
        """One patch, drawn at one place."""
        return cls({1: FlankMark((patch,))})

    @property
    def first(self) -> FlankMark:
        """The mark at the first place."""
        return self.marks[min(self.marks)]

    @property
    def area(self) -> float:
        """Share of the flank that is wiped, mean of the places."""
        return sum(mark.area for mark in self.marks.values()) / len(self.marks)

    @property
    def centroid(self) -> tuple[float, float]:
        """Centre of the wiped area (u, v), mean of the places."""
        centroids = [mark.centroid for mark in self.marks.values()]
        return (
            sum(u for u, _ in centroids) / len(centroids),
            sum(v for _, v in centroids) / len(centroids),
        )

    @property
    def reach(self) -> tuple[float, float, float, float]:
        """How far it reaches at any place: (toe end, heel end, root end, top end)."""
        return _around(mark.reach for mark in self.marks.values())

    def runs(self, band: float) -> Mapping[str, float]:
        """How far it runs along each edge at any place, share of that edge."""
        return _furthest(mark.runs(band) for mark in self.marks.values())

    @property
    def is_quick(self) -> bool:
        """Whether all of it was said in words."""
        return all(mark.by is By.QUICK for mark in self.marks.values())

    @property
    def is_vague(self) -> bool:
        """Whether any of it was read from a photo that hardly tells its height."""
        return any(mark.is_vague for mark in self.marks.values())

    @property
    def edges_hard(self) -> bool:
        """Whether any place ends hard."""
        return any(mark.edge is Edge.HARD for mark in self.marks.values())

    @property
    def noise(self) -> tuple[float, float]:
        """Scatter of the mean of the places, along and up: half of it does not average out."""
        by = math.sqrt((1 + 1 / len(self.marks)) / 2)
        along, up = (max(mark.noise[axis] for mark in self.marks.values()) * by for axis in (0, 1))
        return along, up


def _furthest(runs: Iterable[Mapping[str, float]]) -> Mapping[str, float]:
    every = list(runs)
    return {name: max(each[name] for each in every) for name in every[0]}


def _around(
    reaches: Iterable[tuple[float, float, float, float]],
) -> tuple[float, float, float, float]:
    every = list(reaches)
    return (
        min(reach[0] for reach in every),
        max(reach[1] for reach in every),
        min(reach[2] for reach in every),
        max(reach[3] for reach in every),
    )
