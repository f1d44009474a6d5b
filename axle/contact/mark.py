"""What is wiped on one flank of one tooth, how it is known, and how far its middle can be believed."""

from __future__ import annotations

import math
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
# worse one. Words are rounded to a twelfth of the tooth. A photo is read as if the flank were flat: a bowed
# one puts its height off by 0.1 to 0.2.
NOISE: Final[Mapping[By, float]] = {By.QUICK: 0.04, By.HAND: 0.03, By.PHOTO: 0.15}
_FAINT: Final = 1.5


@dataclass(frozen=True)
class FlankMark:
    """Everything that is wiped on one flank of one tooth.

    :param patches: at least one.
    :param edge: how they end: feathered is good, hard at an end is overload.
    :param strength: how clearly the compound is wiped.
    :param by: how it is known.
    :param tooth: the tooth's number from the mark, from 1, where somebody counted; else 0.
    :raises AxleError: without a patch.
    """

    patches: tuple[Patch, ...]
    edge: Edge = Edge.FEATHERED
    strength: Strength = Strength.CLEAR
    by: By = By.HAND
    tooth: int = 0

    def __post_init__(self) -> None:
        if not self.patches:
            raise AxleError("print", given="no patch", wanted="the wiped patch of one flank at least")

    @property
    def area(self) -> float:
        """Share of the flank that is wiped."""
        return sum(patch.area for patch in self.patches)

    @property
    def centroid(self) -> tuple[float, float]:
        """Centre of the wiped area (u, v)."""
        shares = [patch.area / self.area for patch in self.patches]
        centroids = [patch.centroid for patch in self.patches]
        return (
            sum(share * middle[0] for share, middle in zip(shares, centroids, strict=True)),
            sum(share * middle[1] for share, middle in zip(shares, centroids, strict=True)),
        )

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
    def noise(self) -> float:
        """Scatter of its middle, share of length and of height."""
        return NOISE[self.by] * (_FAINT if self.strength is Strength.FAINT else 1.0)


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
    def is_photo(self) -> bool:
        """Whether any of it was read from a photo."""
        return any(mark.by is By.PHOTO for mark in self.marks.values())

    @property
    def edges_hard(self) -> bool:
        """Whether any place ends hard."""
        return any(mark.edge is Edge.HARD for mark in self.marks.values())

    @property
    def noise(self) -> float:
        """Scatter of the mean of the places: half of it is the print's own, and does not average out."""
        worst = max(mark.noise for mark in self.marks.values())
        return worst * math.sqrt((1 + 1 / len(self.marks)) / 2)


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
