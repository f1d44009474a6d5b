"""Which stages of the torque sheet are signed and still stand, and which may be signed next."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal

from axle.errors import AxleError
from axle.fasteners.groups import Group, Stage
from axle.layout import Layout, Place
from axle.measure.units import Display
from axle.procedure.staleness import stale_because


@dataclass(frozen=True)
class Tightened:
    """One signed stage.

    :param group: name of the group.
    :param stage: number of the stage, from 1.
    :param torque: what the wrench was set to [N·m].
    :param order: rises with time.
    :param settings: what was in the axle then.
    """

    group: str
    stage: int
    torque: float
    order: int
    settings: Mapping[Place, Decimal]


@dataclass(frozen=True)
class StageStanding:
    """A stage as it stands.

    :param stage: the stage.
    :param signed: the signature that holds, or nothing.
    :param stale: why an earlier signature no longer holds, or "".
    :param waits: what has to be signed before it, or "".
    """

    stage: Stage
    signed: Tightened | None
    stale: str
    waits: str


@dataclass(frozen=True)
class GroupStanding:
    """A group as it stands."""

    group: Group
    stages: tuple[StageStanding, ...]
    trial: StageStanding | None = None

    @property
    def is_done(self) -> bool:
        """Whether every stage is signed and stands."""
        return all(stage.signed is not None for stage in self.stages)

    @property
    def next_stage(self) -> StageStanding | None:
        """The first stage that is not signed, or nothing."""
        return next((stage for stage in self.stages if stage.signed is None), None)


def stand_torques(
    groups: Sequence[Group],
    signed: Iterable[Tightened],
    layout: Layout,
    settings: Mapping[Place, Decimal],
    display: Display,
) -> tuple[GroupStanding, ...]:
    """Say where every group and stage stands.

    A stage holds while it was signed after the stage under it and nothing has changed since that
    makes its torque stale.

    :param groups: the torque sheet.
    :param signed: signed stages, oldest first.
    :param layout: the axle's layout.
    :param settings: what is in the axle now.
    :param display: units of the words.
    :source: common practice; ``stale.toml``.
    """
    latest = {(row.group, row.stage): row for row in signed}
    done: set[str] = set()
    group_standings = []
    for group in groups:
        before = [other.title for other in groups if other.group in group.after and other.group not in done]
        waits = f"{before[0].lower()} first" if before else ""
        stages: list[StageStanding] = []
        under = 0
        for stage in group.targets(display):
            row = latest.get((group.group, stage.number))
            stale = ""
            if row is not None:
                stale = _stale(group, row, layout, settings)
                if stale or waits or row.order < under:
                    row = None
            if row is not None:
                under = row.order
            stages.append(StageStanding(stage, row, stale=stale, waits=waits))
            if row is None and not waits:
                waits = f"{stage.words} first"
        group_standings.append(
            GroupStanding(
                group,
                tuple(stages),
                _trial(group, latest, layout=layout, settings=settings, display=display),
            )
        )
        if group_standings[-1].is_done:
            done.add(group.group)
    return tuple(group_standings)


def check_next(of: Sequence[GroupStanding], group: str, stage: int) -> StageStanding:
    """Refuse to sign a stage before the one under it.

    :param of: every group as it stands.
    :param group: name of the group.
    :param stage: number of the stage, from 1.
    :returns: the stage.
    :raises AxleError: for a group or stage that the sheet does not have, or one that waits.
    :source: common practice.
    """
    standing = next((g for g in of if g.group.group == group), None)
    if standing is None:
        raise AxleError("fasteners", given=f"“{group[:30]}”", wanted="a group of this job's torque sheet")
    offered: list[StageStanding] = [*standing.stages]
    if standing.trial is not None:
        offered.append(standing.trial)
    stage_standing = next((s for s in offered if s.stage.number == stage), None)
    title = standing.group.title
    if stage_standing is None:
        raise AxleError(title, given=f"stage {stage}", wanted=f"1 to {len(standing.stages)}")
    if stage_standing.waits:
        raise AxleError(
            title,
            given=f"{stage_standing.stage.words} before its turn",
            wanted=stage_standing.waits,
            do="Sign that one first.",
        )
    return stage_standing


def open_torques(of: Sequence[GroupStanding]) -> tuple[str, ...]:
    """Name the groups whose stages are not all signed.

    :param of: every group as it stands.
    :source: common practice.
    """
    lines = []
    for standing in of:
        waiting = standing.next_stage
        if waiting is not None:
            reason = f"stale, {waiting.stale}" if waiting.stale else f"{waiting.stage.words} not signed"
            lines.append(f"{standing.group.title}: {reason}.")
    return tuple(lines)


def _trial(
    group: Group,
    latest: Mapping[tuple[str, int], Tightened],
    layout: Layout,
    settings: Mapping[Place, Decimal],
    display: Display,
) -> StageStanding | None:
    """The torque of a trial: a few of the bolts, signed by itself, and no stage of the final ones."""
    if not group.trial:
        return None
    row = latest.get((group.group, 0))
    stale = _stale(group, row, layout, settings) if row is not None else ""
    words = f"trial, {group.trial} of {group.count} bolts"
    stage = Stage(0, words, wanted=group.wanted, figures=group.wanted.words(group.unit_in(display)))
    return StageStanding(stage, None if stale else row, stale=stale, waits="")


def _stale(group: Group, row: Tightened, layout: Layout, settings: Mapping[Place, Decimal]) -> str:
    return stale_because(group.reading, layout, row.settings, settings) if group.reading else ""
