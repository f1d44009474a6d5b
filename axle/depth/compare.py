"""Several ways of finding depth, weighed against each other; disagreement is called out."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations
from typing import Final

import numpy as np

from axle.depth.result import DepthResult
from axle.errors import AxleError

# Two results further apart than this many standard uncertainties of their difference do not agree.
_APART: Final = 2.0
_LEAST_OWN: Final = 1e-4


@dataclass(frozen=True)
class Disagreement:
    """Two methods that cannot both be right.

    :param one: the thinner result.
    :param other: the thicker.
    :param apart: difference [mm].
    :param expected: standard uncertainty of that difference [mm].
    """

    one: DepthResult
    other: DepthResult
    apart: float
    expected: float


@dataclass(frozen=True)
class Compared:
    """What the methods come to together.

    :param thickness: weighted mean t [mm].
    :param uncertainty: its standard uncertainty [mm], widened where the methods disagree.
    :param results: the methods, in the order given.
    :param weights: weight of each, adding up to 1.
    :param disagreements: pairs that do not agree, the worst first.
    """

    thickness: float
    uncertainty: float
    results: tuple[DepthResult, ...]
    weights: tuple[float, ...]
    disagreements: tuple[Disagreement, ...]

    @property
    def title(self) -> str:
        """How it was found, in words."""
        if len(self.results) == 1:
            return self.results[0].title
        return f"{len(self.results)} methods, weighted"


def compare(results: Sequence[DepthResult]) -> Compared:
    """Weigh depth results by their uncertainty.

    What they share (the mark, the trial shim, the head height) is right or wrong in all of them, so
    it takes no part in the weights and is not lessened by averaging. Where they scatter more than
    they should, the uncertainty is widened by the square root of χ² per degree of freedom.

    :param results: one or more, each of another method.
    :raises AxleError: when there are none.
    :source: generalised least squares with the full covariance; widening by the Birge ratio (from
        memory).

    >>> from axle.depth.result import Term, depth_result
    >>> sure = depth_result([Term("a", 0.80, 0.01)], "a", "a")
    >>> rough = depth_result([Term("b", 0.83, 0.02)], "b", "b")
    >>> round(compare([sure, rough]).thickness, 4)
    0.806
    """
    if not results:
        raise AxleError("depth", given="no result", wanted="at least one way of measuring")
    values = np.array([r.thickness for r in results])
    cover = np.array([[one.shared_with(other) for other in results] for one in results])
    cover += np.diag([max(r.own, _LEAST_OWN) ** 2 for r in results])
    inverse = np.linalg.inv(cover)
    total = float(inverse.sum())
    weights = inverse.sum(axis=1) / total
    mean = float(weights @ values)
    away = values - mean
    freedom = len(results) - 1
    excess = math.sqrt(max(float(away @ inverse @ away) / freedom, 1.0)) if freedom else 1.0
    apart = []
    for i, j in combinations(range(len(results)), 2):
        spread = math.sqrt(float(cover[i, i] + cover[j, j] - 2 * cover[i, j]))
        difference = abs(float(values[i] - values[j]))
        if difference > _APART * spread:
            low, high = sorted((results[i], results[j]), key=lambda r: r.thickness)
            apart.append(Disagreement(low, high, apart=difference, expected=spread))
    return Compared(
        mean,
        math.sqrt(1 / total) * excess,
        results=tuple(results),
        weights=tuple(float(w) for w in weights),
        disagreements=tuple(sorted(apart, key=lambda d: -d.apart / d.expected)),
    )
