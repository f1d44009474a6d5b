"""What a thou of depth or of ring movement does to the pattern and to the backlash of a set."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from axle.contact.cut import Cut
from axle.contact.pattern import COMPOUND, Pattern

# Steps of the differences [mm]: 2 thou, about the least that shows.
_STEP = 0.05


@dataclass(frozen=True)
class Pair:
    """The patterns of both flanks of a set.

    :param convex: on the ring's convex flank.
    :param concave: on its concave flank.
    """

    convex: Pattern
    concave: Pattern

    @property
    def centroids(self) -> np.ndarray:
        """(u, v) of the convex and of the concave flank, shape (4,)."""
        return np.array([*self.convex.centroid, *self.concave.centroid])

    @property
    def apart(self) -> tuple[float, float]:
        """How far the concave patch lies past the convex one, along and up (u, v)."""
        return (
            self.concave.centroid[0] - self.convex.centroid[0],
            self.concave.centroid[1] - self.convex.centroid[1],
        )


@dataclass(frozen=True)
class Response:
    """Change per mm of a displacement.

    :param pattern: of (u, v) on the convex and the concave flank, by "depth" and "ring" [1/mm].
    :param backlash: in the plane of rotation at the mean radius, likewise [1].
    """

    pattern: Mapping[str, tuple[float, ...]]
    backlash: Mapping[str, float]


def pair(item: Cut, *, compound: float = COMPOUND, **by: float) -> Pair:
    """Patterns of both flanks at one place of the pinion.

    :param item: the set as it was cut.
    :param compound: its thickness square to the flank [mm].
    :param by: depth, ring, offset [mm] and tilt [rad], as :meth:`Meshing.pattern` takes them.
    :raises AxleError: where the set cannot be cut or does not mesh.
    :source: models of the project, first order, rigid, unloaded.

    >>> from axle.contact.cut import cut
    >>> pair(cut("large_cutter", 11, 41, 222.0), depth=0.1).convex.centroid[1] < 0.5
    True
    """
    return _pair(item, compound, tuple(sorted(by.items())))


@lru_cache(maxsize=1024)
def _pair(item: Cut, compound: float, by: tuple[tuple[str, float], ...]) -> Pair:
    convex, concave = (
        item.meshing(convex=side).pattern(item.ease(convex=side), compound=compound, **dict(by))
        for side in (True, False)
    )
    return Pair(convex, concave)


@lru_cache(maxsize=256)
def response(item: Cut) -> Response:
    """Sensitivities of a set about its right place, by differences.

    :param item: the set as it was cut.
    :returns: per mm of depth and of ring movement.
    :source: central differences of the computed pattern; the gap that closes first on both flanks.

    >>> from axle.contact.cut import cut
    >>> found = response(cut("large_cutter", 11, 41, 222.0))
    >>> round(found.backlash["ring"], 2)
    0.86
    """
    pattern, backlash = {}, {}
    for kind in ("depth", "ring"):
        low, high = (pair(item, **{kind: step}) for step in (-_STEP, _STEP))
        pattern[kind] = tuple((high.centroids - low.centroids) / (2 * _STEP))
        first = [p.convex.first + p.concave.first for p in (low, high)]
        backlash[kind] = (first[1] - first[0]) / (2 * _STEP)
    return Response(pattern, backlash)
