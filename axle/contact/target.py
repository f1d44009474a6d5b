"""Where a good patch of a set lies: the schools, and the set cut so that its right place shows it.

A target is two middles, one per flank. The set is taken as cut so that it shows them when depth and ring
gear are right, so that what a print differs from its target is what the axle is off.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from enum import Enum
from functools import lru_cache
from typing import Final

from axle.contact.cut import Cut
from axle.contact.estimate import CUT_NOISE
from axle.contact.mark import NOISE, By
from axle.contact.patch import Patch
from axle.contact.reading import usual_middles
from axle.contact.response import pair

_ROUNDS: Final = 4
# The coast flank howls: on a used set its old wear counts for more, so the drive flank's for less.
_DRIVE_TRUST_ON_OLD: Final = 2.0


class TargetConvention(Enum):
    """What a print is held to."""

    TOE = "toe"
    CENTRAL = "central"
    OLD = "old"
    CHART = "chart"


WORDS: Final[Mapping[TargetConvention, str]] = {
    TargetConvention.TOE: "central to a little toe-side: load moves it to the heel",
    TargetConvention.CENTRAL: "central on both flanks",
    TargetConvention.OLD: "the old wear, the coast flank most: it howls",
    TargetConvention.CHART: "the gear maker's chart",
}
TITLES: Final[Mapping[TargetConvention, str]] = {
    TargetConvention.TOE: "a little toe-side",
    TargetConvention.CENTRAL: "central",
    TargetConvention.OLD: "the old wear",
    TargetConvention.CHART: "the maker's chart",
}
_CENTRAL: Final = (0.5, 0.5)


@dataclass(frozen=True)
class Target:
    """A target.

    :param school: whose.
    :param drive: middle on the drive flank (u, v).
    :param coast: middle on the coast flank (u, v).
    :param drive_trust: what multiplies the drive flank's scatter; more than 1 counts for less.
    :param cut_noise: scatter of the set's own centre about it, share of the flank.
    """

    school: TargetConvention
    drive: tuple[float, float]
    coast: tuple[float, float]
    drive_trust: float = 1.0
    cut_noise: float = CUT_NOISE


def targets(old: Mapping[str, Patch], chart: Mapping[str, Patch]) -> dict[TargetConvention, Target]:
    """Every target this set can be held to.

    :param old: the wear as found, by flank word, of a used set; else empty.
    :param chart: the maker's chart as drawn by the shop, likewise.
    :returns: by school; the old wear and the chart only where both flanks are drawn.
    :source: common practice.

    >>> [school.value for school in targets({}, {})]
    ['toe', 'central']
    """
    toe = usual_middles()
    found = {
        TargetConvention.TOE: Target(TargetConvention.TOE, toe["drive"], toe["coast"]),
        TargetConvention.CENTRAL: Target(TargetConvention.CENTRAL, _CENTRAL, _CENTRAL),
    }
    both = {"drive", "coast"}
    if both <= set(old):
        found[TargetConvention.OLD] = Target(
            TargetConvention.OLD,
            old["drive"].centroid,
            coast=old["coast"].centroid,
            drive_trust=_DRIVE_TRUST_ON_OLD,
            cut_noise=NOISE[By.HAND],
        )
    if both <= set(chart):
        found[TargetConvention.CHART] = Target(
            TargetConvention.CHART,
            chart["drive"].centroid,
            chart["coast"].centroid,
            cut_noise=NOISE[By.HAND],
        )
    return found


def usual_convention(offered: Mapping[TargetConvention, Target]) -> TargetConvention:
    """The school a set is held to when nobody chose: its old wear, then the chart, then a little toe-side.

    :param offered: targets of :func:`targets`, middles as shares of the flank [1].
    :source: common practice: the maker's chart before any rule; a used set runs quietly only where it
        ran in.

    >>> usual_convention(targets({}, {})).value
    'toe'
    """
    return next(
        s for s in (TargetConvention.OLD, TargetConvention.CHART, TargetConvention.TOE) if s in offered
    )


def target_of(offered: Mapping[TargetConvention, Target], aim: str) -> Target:
    """The target in hand: as chosen where it can be had, else the usual one.

    :param offered: targets of :func:`targets`, middles as shares of the flank [1].
    :param aim: a school's value, or "usual".
    :source: common practice.

    >>> target_of(targets({}, {}), "central").school.value, target_of(targets({}, {}), "chart").school.value
    ('central', 'toe')
    """
    chosen = next((school for school in offered if school.value == aim), None)
    return offered[chosen or usual_convention(offered)]


@lru_cache(maxsize=128)
def cut_for_target(item: Cut, target: Target, drive_convex: bool) -> Cut:
    """The set, cut so that its right place shows the target.

    :param item: the set.
    :param target: the target.
    :param drive_convex: the drive flank is the ring gear's convex one.
    :returns: the set with other crown centres; patterns near an edge come as near as they can.
    :raises AxleError: where the set cannot be computed.
    :source: fixed-point iteration on the computed middles.

    >>> from axle.contact.cut import cut
    >>> central = targets({}, {})[TargetConvention.CENTRAL]
    >>> found = pair(cut_for_target(cut("large_cutter", 11, 41, 222.0), central, True))
    >>> abs(found.convex.centroid[0] - 0.5) < 0.005
    True
    """
    convex, concave = (target.drive, target.coast) if drive_convex else (target.coast, target.drive)
    cut = _centred(item, convex, concave)
    for _ in range(_ROUNDS):
        shown = pair(cut)
        cut = _centred(
            item,
            _moved(cut.convex_ease.centre, convex, shown.convex.centroid),
            _moved(cut.concave_ease.centre, concave, shown.concave.centroid),
        )
    return cut


def _centred(item: Cut, convex: tuple[float, float], concave: tuple[float, float]) -> Cut:
    return replace(
        item,
        convex_ease=replace(item.convex_ease, centre=convex),
        concave_ease=replace(item.concave_ease, centre=concave),
    )


def _moved(
    centre: tuple[float, float], wanted: tuple[float, float], shown: tuple[float, float]
) -> tuple[float, float]:
    u, v = (min(max(c + w - s, -0.2), 1.2) for c, w, s in zip(centre, wanted, shown, strict=True))
    return u, v
