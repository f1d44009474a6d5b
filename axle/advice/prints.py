"""What the prints of an assembly say: words of the trade, where they put the axle, and by which school."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Final

from axle.advice.lash import backlash_around
from axle.advice.state import AxleState, Print
from axle.backlash import judge
from axle.contact.cut import Cut
from axle.contact.estimate import Middles, Placed, place
from axle.contact.gears import cut_of, not_computed
from axle.contact.goal import TITLES, WORDS, Goal, School, aimed, goal_of, goals
from axle.contact.mark import Flanked, Mark
from axle.contact.reading import PatternReading, depth_tolerance, read_pattern
from axle.contact.wander import Wander, wander
from axle.procedure.staleness import stale_because
from axle.units import Display

_BOTH: Final = frozenset(("drive", "coast"))
# Middles of two prints of one assembly further apart than this are not the same pattern: more than three
# times the scatter of their difference, shares of the flank.
DISAGREES: Final = 0.13
# Two schools whose depths lie nearer than this say the same [mm]: 1 thou.
_SAME: Final = 0.0254


@dataclass(frozen=True)
class PrintSays:
    """What the newest print says, with those of the same assembly that agree with it.

    :param read: in words, against the target.
    :param goal: the target it is held to.
    :param says: "good", "too deep", "too shallow" or "unclear".
    :param good: whether the pattern can be signed as it is.
    :param depth_error: what to take out of the depth [mm], > 0 too deep; 0 when none is told.
    :param findings: sentences, the deciding one first.
    :param disputed: where practitioners disagree about it.
    :param placed: where it puts the axle, or None where the set cannot be computed.
    :param refused: why it cannot be computed.
    :param backlash: "in range", "tight", "loose" or "not read".
    :param wander: how it wanders around the ring gear, or None with fewer than three places.
    :param middles: the middles that were placed, or None.
    :param count: prints that agree.
    :param assembly: number of the assembly that was printed.
    :param stale: why it no longer holds; empty where it does.
    """

    read: PatternReading
    goal: Goal
    says: str
    good: bool
    depth_error: float
    findings: tuple[str, ...]
    disputed: str
    placed: Placed | None
    refused: str
    backlash: str
    wander: Wander | None
    middles: Middles | None
    count: int
    assembly: int
    stale: str


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
    def goals(self) -> Mapping[School, Goal]:
        """Targets of this set."""
        return goals(self.state.found if self.state.used_gears else {}, self.state.chart)

    @property
    def goal(self) -> Goal:
        """The target in hand: as chosen where that can be had, else the usual one."""
        return goal_of(self.goals, self.state.aim)

    @property
    def refused(self) -> str:
        """Why the set cannot be computed; empty where it can."""
        return not_computed(self.state.gears)

    def aimed(self, goal: Goal) -> Cut | None:
        """The set cut so that its right place shows a target; None where it cannot be computed."""
        if self.refused:
            return None
        return aimed(cut_of(self.state.gears), goal, self.state.gears.drive_convex)

    def placed(self, middles: Middles, goal: Goal) -> Placed | None:
        """Where a print puts the axle, held to a target."""
        item = self.aimed(goal)
        if item is None:
            return None
        trust = (goal.drive_trust, 1.0) if self.state.gears.drive_convex else (1.0, goal.drive_trust)
        return place(item, replace(middles, trust=trust), cut_noise=goal.cut_noise)

    def same_assembly(self, newest: Print) -> list[Print]:
        """Whole prints of the newest one's assembly, on what is in it now, oldest first."""
        return sorted(
            (
                p for p in self.state.prints
                if p.assembly == newest.assembly and set(p.flanks) >= _BOTH
                and not stale_because("pattern", self.state.layout, p.settings, newest.settings)
            ),
            key=lambda p: p.order,
        )  # fmt: skip


def read_print(state: AxleState) -> PrintSays | None:
    """What the prints of the newest assembly say, or nothing before both flanks are marked.

    :param state: the axle.
    :source: :mod:`axle.contact.reading` for the words, :mod:`axle.contact.estimate` for the place.
    """
    prints = Prints(state)
    newest = prints.newest
    if newest is None or _BOTH - set(newest.flanks):
        return None
    every = prints.same_assembly(newest)
    agreeing = [p for p in every if p is newest or not apart(p, newest)]
    flanks = {name: _together(name, agreeing) for name in sorted(_BOTH)}
    goal = prints.goal
    backlash = _backlash(state)
    read = read_pattern(
        flanks["drive"], flanks["coast"], backlash=backlash,
        aims={"drive": goal.drive, "coast": goal.coast},
        hard=tuple(name for name in ("drive", "coast") if flanks[name].edges_hard),
    )  # fmt: skip
    middles = _middles(flanks, state, len(agreeing))
    placed = prints.placed(middles, goal)
    wanders = wander(newest.flanks, newest.making.places, state.gears.ratio, state.gears.ring_teeth)
    says, depth_error, findings = _judged(read, placed, backlash)
    if len(every) > 1 and len(agreeing) == 1:
        says, depth_error = "unclear", 0.0
        findings.insert(0, _disagree_words(every, newest))
    if goal.school in (School.OLD, School.CHART):
        findings.append(f"Held to {WORDS[goal.school]}.")
    good = says == "good" and not (read.drive.edges + read.coast.edges) and not read.hard
    return PrintSays(
        read, goal, says, good, depth_error, tuple(findings), read.disputed, placed, prints.refused,
        backlash, wanders, middles, len(agreeing), newest.assembly,
        stale_because("pattern", state.layout, newest.settings, state.settings),
    )  # fmt: skip


def by_school(state: AxleState, says: PrintSays) -> Mapping[School, Placed]:
    """Where the same print puts the axle by every school.

    :param state: the axle.
    :param says: what the print says.
    :source: :func:`axle.contact.estimate.place`.
    """
    prints, found = Prints(state), {}
    for school, goal in prints.goals.items():
        placed = prints.placed(says.middles, goal) if says.middles else None
        if placed is not None:
            found[school] = placed
    return found


def school_lines(state: AxleState, says: PrintSays, display: Display) -> tuple[str, ...]:
    """By which school the verdict goes, and what the others say where they differ.

    :param state: the axle.
    :param says: what the print says.
    :param display: units of the words.
    :source: common practice: the schools disagree where a patch should lie.
    """
    lines = [f"Held to {TITLES[says.goal.school]}."]
    if says.placed is None:
        return tuple(lines)
    for school, placed in by_school(state, says).items():
        if school is not says.goal.school and abs(placed.depth - says.placed.depth) > _SAME:
            lines.append(f"To {TITLES[school]} instead: {depth_words(placed, display)}.")
    return tuple(lines)


def depth_words(placed: Placed, display: Display) -> str:
    """Depth error in words, with its spread.

    :param placed: where the print puts the axle.
    :param display: units of the words.
    :source: the project's own words.
    """
    unit, spread = display.length.symbol, display.show(placed.spreads[0])
    if not placed.tells_depth:
        return "cannot be told from this print"
    if abs(placed.depth) < depth_tolerance():
        way = "deep" if placed.depth > 0 else "shallow"
        return f"in place: {display.show(abs(placed.depth))} {way} ± {spread} {unit}"
    way = "deep" if placed.depth > 0 else "shallow"
    return f"too {way} by {display.show(abs(placed.depth))} ± {spread} {unit}"


def ring_words(placed: Placed, state: AxleState, backlash: str, display: Display) -> str:
    """The ring gear's place in words, or that a print cannot tell it.

    :param placed: where the print puts the axle.
    :param state: the axle.
    :param backlash: "in range", "tight", "loose" or "not read".
    :param display: units of the words.
    :source: the project's own words; models of the project for why.
    """
    if not placed.tells_ring:
        around = backlash_around(state)
        read = f"backlash {display.show(around.smallest)} is {backlash}" if around else ""
        rest = read if read and backlash != "not read" else "read the backlash"
        return f"cannot be told from this print; {rest}"
    way = "away" if placed.ring > 0 else "near"
    spread = display.show(placed.spreads[1])
    return f"{display.show(abs(placed.ring))} too {way} ± {spread} {display.length.symbol}"


def apart(one: Print, other: Print) -> float:
    """How far apart two prints of one assembly lie where that is more than scatter; else 0.

    :param one: a whole print.
    :param other: another.
    :source: the scatter of a print, :data:`axle.contact.mark.NOISE`.
    """
    most = max(
        abs(a - b)
        for name in _BOTH
        for a, b in zip(one.flanks[name].centroid, other.flanks[name].centroid, strict=True)
    )
    return most if most > DISAGREES else 0.0


def wander_words(found: Wander, ratio: float) -> str:
    """How a pattern wanders around the ring gear, and which part to look at.

    :param found: the wander.
    :param ratio: N2/N1 [1].
    :source: common practice: once or twice a turn is the ring gear or carrier, N2/N1 times the pinion.
    """
    if found.blames == "nothing":
        return f"The same at all {found.places} places: no more wander than a print's own scatter."
    much = (
        f"Wanders around the ring gear by {found.along:.0%} of the length and {found.up:.0%} of the height"
    )
    if found.blames == "ring":
        often = "once" if found.order == 1 else "twice"
        return f"{much}, {often} a turn: ring gear or carrier runout. Read the runout."
    if found.blames == "pinion":
        return f"{much}, about {ratio:.1f} times a turn: pinion runout or a bent pinion."
    return (
        f"{much}. {found.places} places do not tell the ring gear's turn from the pinion's: read the "
        "runout, or print six places."
    )


def _judged(read: PatternReading, placed: Placed | None, backlash: str) -> tuple[str, float, list[str]]:
    findings = list(read.findings)
    if backlash != "in range" or placed is None or (read.says == "unclear" and not placed.plausible):
        return read.says, read.depth_error, findings
    if not placed.plausible:
        findings.insert(0, "No depth and backlash of these gears give both patches: print again. If it "
                        "stays, suspect the cut, the offset or the shaft angle.")  # fmt: skip
        return "unclear", 0.0, findings
    if not placed.tells_depth:
        findings.insert(0, "The patches run off the flank: depth cannot be told from them.")
        return "unclear", 0.0, findings
    if abs(placed.depth) < depth_tolerance():
        if read.says != "good":
            findings[0] = "As near as a print tells, by where both patches lie together."
        return "good", 0.0, findings
    says = "too deep" if placed.depth > 0 else "too shallow"
    if says != read.says:
        way = "out" if placed.depth > 0 else "in"
        findings[0] = f"Both patches together put the pinion {says}: move it {way}."
    return says, placed.depth, findings


def _backlash(state: AxleState) -> str:
    around, limits = backlash_around(state), state.sheet.backlash_limits()
    return judge(around, limits).level if around and limits else "not read"


def _together(name: str, prints: Sequence[Print]) -> Flanked:
    """One flank of several prints of the same assembly, as if each were a place more."""
    marks: dict[int, Mark] = {}
    for each in prints:
        for mark in each.flanks[name].marks.values():
            marks[len(marks) + 1] = mark
    return Flanked(marks)


def _middles(flanks: Mapping[str, Flanked], state: AxleState, prints: int) -> Middles:
    drive, coast = flanks["drive"].centroid, flanks["coast"].centroid
    convex, concave = (drive, coast) if state.gears.drive_convex else (coast, drive)
    # Prints average out; within one print the places share what is wrong with it.
    noise = max(flank.noise for flank in flanks.values()) / prints**0.5
    return Middles(convex, concave, noise)


def _disagree_words(every: Sequence[Print], newest: Print) -> str:
    most = max(apart(p, newest) for p in every if p is not newest)
    return (
        f"Prints of this assembly disagree by {most:.0%} of the flank: clean the teeth and print again "
        "before anything is changed."
    )
