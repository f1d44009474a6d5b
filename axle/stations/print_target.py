"""The prints of an axle as its gears' map takes them: targets, middles, and which prints agree."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Final

from axle.contact.cut import Cut
from axle.contact.estimate import PatchCentroids, PositionEstimate, place
from axle.contact.gears import cut_of, not_computed
from axle.contact.mark import Flanked, FlankMark
from axle.contact.target import Target, TargetConvention, cut_for_target, target_of, targets
from axle.procedure.names import StationName
from axle.procedure.staleness import stale_because
from axle.state.axle_state import AxleState
from axle.state.reading import Print

BOTH: Final = frozenset(("drive", "coast"))
# Middles of two prints of one assembly further apart than this are not the same pattern: more than three
# times the scatter of their difference, shares of the flank.
DISAGREES: Final = 0.13


@dataclass(frozen=True)
class Prints:
    """The prints of one axle, and the targets they can be held to.

    :param state: the axle.
    """

    state: AxleState

    @property
    def newest(self) -> Print | None:
        """The newest print."""
        return max(self.state.prints, key=lambda p: p.order, default=None)

    @cached_property
    def targets(self) -> Mapping[TargetConvention, Target]:
        """Targets of this set."""
        return targets(self.state.found if self.state.used_gears else {}, self.state.chart)

    @property
    def target(self) -> Target:
        """The target in hand: as chosen where that can be had, else the usual one."""
        return target_of(self.targets, self.state.aim)

    @property
    def refused(self) -> str:
        """Why the set cannot be computed; empty where it can."""
        return not_computed(self.state.gears)

    def cut_for_target(self, target: Target) -> Cut | None:
        """The set cut so that its right place shows a target; None where it cannot be computed."""
        if self.refused:
            return None
        return cut_for_target(cut_of(self.state.gears), target, self.state.gears.drive_convex)

    def placed(self, centroids: PatchCentroids, target: Target) -> PositionEstimate | None:
        """Where a print puts the axle, held to a target."""
        item = self.cut_for_target(target)
        if item is None:
            return None
        trust = (target.drive_trust, 1.0) if self.state.gears.drive_convex else (1.0, target.drive_trust)
        return place(item, replace(centroids, trust=trust), cut_noise=target.cut_noise)

    def same_assembly(self, newest: Print) -> list[Print]:
        """Whole prints of the newest one's assembly, on what is in it now, oldest first."""
        mine = sorted(
            (
                p
                for p in self.state.prints
                if p.assembly == newest.assembly
                and set(p.flanks) >= BOTH
                and not stale_because(StationName.PATTERN, self.state.layout, p.settings, newest.settings)
            ),
            key=lambda p: p.order,
        )
        return without_repeats(mine)


def same_words(one: Print, other: Print) -> bool:
    """Say whether two prints were said in the same words: the same rounding, and no new evidence.

    :param one: a whole print.
    :param other: another.
    :source: a rounding does not average out.
    """
    return all(
        one.flanks[name].is_quick
        and other.flanks[name].is_quick
        and one.flanks[name].centroid == other.flanks[name].centroid
        for name in BOTH
    )


def without_repeats(prints: Sequence[Print]) -> list[Print]:
    """Prints without those that say the same words again of the same assembly; the newest of them stays.

    :param prints: whole prints, oldest first.
    :source: :func:`same_words`.
    """
    return [
        p
        for n, p in enumerate(prints)
        if not any(q.assembly == p.assembly and same_words(p, q) for q in prints[n + 1 :])
    ]


def apart(one: Print, other: Print) -> float:
    """How far apart two prints of one assembly lie where that is more than scatter; else 0.

    :param one: a whole print.
    :param other: another.
    :source: the scatter of a print, :data:`axle.contact.mark.NOISE`.
    """
    most = max(
        abs(a - b)
        for name in BOTH
        for a, b in zip(one.flanks[name].centroid, other.flanks[name].centroid, strict=True)
    )
    return most if most > DISAGREES else 0.0


def one_flank(name: str, prints: Sequence[Print]) -> Flanked:
    """One flank of several prints of the same assembly, as if each were a place more.

    :param name: flank word.
    :param prints: whole prints, at least one.
    :source: prints that agree average out.
    """
    marks: dict[int, FlankMark] = {}
    for each in prints:
        for mark in each.flanks[name].marks.values():
            marks[len(marks) + 1] = mark
    return Flanked(marks)


def centroids_of(flanks: Mapping[str, Flanked], state: AxleState, prints: int) -> PatchCentroids:
    """Middles of both patches as the ring gear's flanks have them, with their scatter.

    :param flanks: what is wiped, by flank word.
    :param state: the axle.
    :param prints: number of prints they are the mean of.
    :source: :data:`axle.contact.mark.NOISE`.
    """
    drive, coast = flanks["drive"].centroid, flanks["coast"].centroid
    convex, concave = (drive, coast) if state.gears.drive_convex else (coast, drive)
    # Prints average out; within one print the places share what is wrong with it.
    order = ("drive", "coast") if state.gears.drive_convex else ("coast", "drive")
    (u1, v1), (u2, v2) = (flanks[name].noise for name in order)
    noise = u1 if u1 == v1 == u2 == v2 else (u1, v1, u2, v2)
    return PatchCentroids(convex, concave, noise).widened(prints**-0.5)
