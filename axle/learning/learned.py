"""What a shop is held to be like, from the figures of its finished jobs."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from typing import Final

from axle.learning.pooling import Pooled, pool
from axle.state.priors import Priors, Quantity, Width, starting_widths

# Fewer jobs than this leave the spread from job to job as it is held of all shops.
FEW: Final = 5
# Quantities that are the shop's as a whole once they are learned: what is left of their spread is from job
# to job.
_LEAST_SHARE: Final = 0.05


@dataclass(frozen=True)
class JobFigure:
    """What one finished job showed of one quantity.

    :param quantity: which.
    :param value: in its unit; more than 0 where its logarithm is spread.
    :param std: how well the job shows it: standard deviation in its unit, or of its logarithm; more than 0.
    """

    quantity: Quantity
    value: float
    std: float


@dataclass(frozen=True)
class LearnedWidth:
    """What is held of one quantity in one shop, beside what was held before.

    :param quantity: which.
    :param before: the starting width.
    :param now: with the shop's jobs.
    :param pooled: behind it, in the unit of the spread.
    """

    quantity: Quantity
    before: Width
    now: Width
    pooled: Pooled


def learn(figures: Iterable[JobFigure]) -> tuple[LearnedWidth, ...]:
    """Learn a shop from its jobs' figures.

    :param figures: of finished jobs, each its own.
    :returns: by quantity, in the order of ``priors.toml``; quantities without figures are left out.
    :source: :func:`axle.learning.pooling.pool`.
    """
    by_quantity: dict[Quantity, list[JobFigure]] = {}
    for figure in figures:
        by_quantity.setdefault(figure.quantity, []).append(figure)
    return tuple(_learned(name, by_quantity[name]) for name in Quantity if by_quantity.get(name))


def priors_of(learned: Iterable[LearnedWidth]) -> Priors:
    """What is held of an axle that comes to the shop.

    :param learned: as :func:`learn` gives it.
    :source: the shop's figures in place of the starting widths.
    """
    found: Mapping[Quantity, Width] = {one.quantity: one.now for one in learned}
    return Priors(dict(found))


def _learned(quantity: Quantity, figures: list[JobFigure]) -> LearnedWidth:
    before = starting_widths()[quantity]
    share = max(before.shop, _LEAST_SHARE)
    between, within = math.sqrt(share) * before.std, math.sqrt(max(1 - share, _LEAST_SHARE)) * before.std
    offs = [
        math.log(f.value / before.centre) if before.is_log else f.value - before.centre for f in figures
    ]
    held = {"between": between, "within": within}
    # Under five jobs nobody tells a spread: it stays as it is held of all shops.
    fixed = {"spread_of_spread": 1e-3} if len(figures) < FEW else {}
    pooled = pool(offs, [f.std for f in figures], **held, **fixed)
    std = math.hypot(pooled.offset_std, pooled.next_std)
    centre = before.centre * math.exp(pooled.offset) if before.is_log else before.centre + pooled.offset
    return LearnedWidth(quantity, before, replace(before, centre=centre, std=min(std, before.std)), pooled)
