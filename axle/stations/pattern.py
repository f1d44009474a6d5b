"""What the prints of an assembly say: words of the trade, where they put the axle, and by which school."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Final

from axle.backlash.around import check_backlash
from axle.contact.estimate import PatchCentroids, PositionEstimate
from axle.contact.pattern_runout import Blamed, Wander, wander
from axle.contact.reading import (
    Height,
    PatternReading,
    PatternVerdict,
    depth_tolerance,
    read_pattern,
    wander_limit,
)
from axle.contact.target import TITLES, WORDS, Target, TargetConvention
from axle.depth.result import chance_within
from axle.measure.range import BacklashLevel
from axle.measure.units import Display
from axle.procedure.names import StationName
from axle.procedure.staleness import stale_because
from axle.state.axle_state import AxleState
from axle.state.kept import kept
from axle.state.reading import Print
from axle.stations.backlash import backlash_around
from axle.stations.depth_posterior import depth_posterior
from axle.stations.print_target import BOTH, Prints, apart, centroids_of, one_flank
from axle.stations.zero_play import deeper_between

# So sure of the depth a print is called good.
_GOOD: Final = 0.6
# Two schools whose depths lie nearer than this say the same [mm]: 1 thou.
_SAME: Final = 0.0254


@dataclass(frozen=True)
class PrintSays:
    """What the newest print says, with those of the same assembly that agree with it.

    :param read: in words, against the target.
    :param target: the target it is held to.
    :param says: its verdict.
    :param good: whether the pattern can be signed as it is.
    :param depth_error: what to take out of the depth [mm], > 0 too deep; 0 when none is told.
    :param findings: sentences, the deciding one first.
    :param disputed: where practitioners disagree about it.
    :param placed: where it puts the axle, or None where the set cannot be computed.
    :param refused: why it cannot be computed.
    :param backlash: its level.
    :param wander: how it wanders around the ring gear, or None with fewer than three places.
    :param centroids: the middles that were placed, or None.
    :param count: prints that agree.
    :param assembly: number of the assembly that was printed.
    :param stale: why it no longer holds; empty where it does.
    :param disagree: that the prints of this assembly disagree, in words; empty where they do not.
    """

    read: PatternReading
    target: Target
    says: PatternVerdict
    good: bool
    depth_error: float
    findings: tuple[str, ...]
    disputed: str
    placed: PositionEstimate | None
    refused: str
    backlash: BacklashLevel
    wander: Wander | None
    centroids: PatchCentroids | None
    count: int
    assembly: int
    stale: str
    disagree: str = ""


@kept
def read_print(state: AxleState) -> PrintSays | None:
    """What the prints of the newest assembly say, or nothing before both flanks are marked.

    :param state: the axle.
    :source: :mod:`axle.contact.reading` for the words, :mod:`axle.contact.estimate` for the place.
    """
    prints = Prints(state)
    newest = prints.newest
    if newest is None or BOTH - set(newest.flanks):
        return None
    every = prints.same_assembly(newest)
    agreeing = [p for p in every if p is newest or not apart(p, newest)]
    flanks = {name: one_flank(name, agreeing) for name in sorted(BOTH)}
    target = prints.target
    backlash = _backlash(state)
    read = read_pattern(
        flanks["drive"],
        flanks["coast"],
        backlash=backlash,
        aims={"drive": target.drive, "coast": target.coast},
        hard=tuple(name for name in ("drive", "coast") if flanks[name].edges_hard),
    )
    centroids = centroids_of(flanks, state, len(agreeing))
    placed = prints.placed(centroids, target)
    wanders = wander(newest.flanks, newest.making.places, state.gears.ratio, state.gears.ring_teeth)
    told = _held_then(state, newest)
    says, depth_error, findings = _judged(
        read, placed, held=told, backlash=backlash, tolerance=max(state.depth_tolerance, depth_tolerance())
    )
    disagree = _disagree_words(every, newest) if len(every) > 1 and len(agreeing) == 1 else ""
    if not disagree and _contradict(read):
        disagree = (
            "The flanks contradict each other: one says too deep, the other too shallow, and their mean "
            "would say nothing. Clean the teeth and print again."
        )
    if disagree:
        says, depth_error = PatternVerdict.UNCLEAR, 0.0
        findings.insert(0, disagree)
    vague = [newest.flanks[name] for name in BOTH if newest.flanks[name].is_vague]
    if vague:
        findings = [f for f in findings if "suspect the cut" not in f]
        findings.append(
            "Read from a photo: its height is known to "
            f"{max(flank.noise[1] for flank in vague):.2f} of the tooth only. "
            "Drawn by hand, or from a photo where the root can be seen, it tells more."
        )
    far = wanders is not None and max(wanders.along, wanders.up) > wander_limit()
    if far:
        says = PatternVerdict.WANDERS if says is PatternVerdict.GOOD else says
        findings.append(
            f"It wanders by more than {wander_limit():.0%} of the flank: find what turns it first."
        )
    if target.school in (TargetConvention.OLD, TargetConvention.CHART):
        findings.append(f"Held to {WORDS[target.school]}.")
    over = bool(read.drive.edges + read.coast.edges)
    if says is PatternVerdict.GOOD and over and told is not None and not read.hard:
        # Depth and backlash are right: a feathered end is how this set was cut, and no shim moves it away.
        findings.append("It feathers out over an edge: as these gears were cut, no depth moves it away.")
        over = False
    good = says is PatternVerdict.GOOD and not over and not read.hard and not far
    return PrintSays(
        read,
        target,
        says=says,
        good=good,
        depth_error=depth_error,
        findings=tuple(findings),
        disputed=read.disputed,
        placed=placed,
        refused=prints.refused,
        backlash=backlash,
        wander=wanders,
        centroids=centroids,
        count=len(agreeing),
        assembly=newest.assembly,
        stale=stale_because(StationName.PATTERN, state.layout, newest.settings, state.settings),
        disagree=disagree,
    )


def by_school(state: AxleState, says: PrintSays) -> Mapping[TargetConvention, PositionEstimate]:
    """Where the same print puts the axle by every school.

    :param state: the axle.
    :param says: what the print says.
    :source: :func:`axle.contact.estimate.place`.
    """
    prints, found = Prints(state), {}
    for school, target in prints.targets.items():
        placed = prints.placed(says.centroids, target) if says.centroids else None
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
    lines = [f"Held to {TITLES[says.target.school]}."]
    if says.placed is None:
        return tuple(lines)
    for school, placed in by_school(state, says).items():
        if school is not says.target.school and abs(placed.depth - says.placed.depth) > _SAME:
            told = depth_words(placed, display)
            lines.append(f"To {TITLES[school]} instead: {told}.")
    return tuple(lines)


def depth_words(placed: PositionEstimate, display: Display) -> str:
    """Depth error in words, with its spread.

    :param placed: where the print puts the axle.
    :param display: units of the words.
    :source: the project's own words.
    """
    unit, spread = display.length.symbol, display.show(placed.stds[0])
    if not placed.tells_depth:
        return "cannot be told from this print"
    if abs(placed.depth) < depth_tolerance():
        direction = "deep" if placed.depth > 0 else "shallow"
        return f"in place: {display.show(abs(placed.depth))} {direction} ± {spread} {unit}"
    direction = "deep" if placed.depth > 0 else "shallow"
    return f"too {direction} by {display.show(abs(placed.depth))} ± {spread} {unit}"


def ring_words(
    placed: PositionEstimate, state: AxleState, backlash: BacklashLevel, display: Display
) -> str:
    """The ring gear's place in words, or that a print cannot tell it.

    :param placed: where the print puts the axle.
    :param state: the axle.
    :param backlash: its level.
    :param display: units of the words.
    :source: the project's own words; models of the project for why.
    """
    if not placed.tells_ring:
        around = backlash_around(state)
        read = f"backlash {display.show(around.smallest)} is {backlash}" if around else ""
        rest = read if read and backlash is not BacklashLevel.NOT_READ else "read the backlash"
        return f"cannot be told from this print; {rest}"
    direction = "away" if placed.ring > 0 else "near"
    spread = display.show(placed.stds[1])
    return f"{display.show(abs(placed.ring))} too {direction} ± {spread} {display.length.symbol}"


def wander_words(found: Wander, ratio: float) -> str:
    """How a pattern wanders around the ring gear, and which part to look at.

    :param found: the wander.
    :param ratio: N2/N1 [1].
    :source: common practice: once or twice a turn is the ring gear or carrier, N2/N1 times the pinion.
    """
    if found.blames is Blamed.NOTHING:
        return f"The same at all {found.places} places: no more wander than a print's own scatter."
    much = (
        f"Wanders around the ring gear by {found.along:.0%} of the length and {found.up:.0%} of the height"
    )
    if found.blames is Blamed.RING:
        often = "once" if found.order == 1 else "twice"
        return f"{much}, {often} a turn: ring gear or carrier runout. Read the runout."
    if found.blames is Blamed.PINION:
        return f"{much}, about {ratio:.1f} times a turn: pinion runout or a bent pinion."
    print_more = f"print {found.tells} places" if found.tells else "say each tooth's number"
    return (
        f"{much}. {found.places} places do not tell the ring gear's turn from the pinion's: read the "
        f"runout, or {print_more}."
    )


def _held_then(state: AxleState, newest: Print) -> tuple[float, float] | None:
    """Depth error as it was when a print was made, by everything that is known now."""
    depth_estimate = depth_posterior(state)
    if depth_estimate is None or depth_estimate.backlash is None:
        return None
    return depth_estimate.error + deeper_between(state, state.settings, newest.settings), depth_estimate.std


def _judged(
    read: PatternReading,
    placed: PositionEstimate | None,
    held: tuple[float, float] | None,
    backlash: BacklashLevel,
    tolerance: float,
) -> tuple[PatternVerdict, float, list[str]]:
    findings = list(read.findings)
    if placed is None or (read.says is PatternVerdict.UNCLEAR and not placed.plausible):
        return read.says, read.depth_error, findings
    if held is None and backlash is not BacklashLevel.IN_RANGE:
        return read.says, read.depth_error, findings
    if not placed.plausible:
        findings.insert(
            0,
            "No depth and backlash of these gears give both patches: print again. If it "
            "stays, suspect the cut, the offset or the shaft angle.",
        )
        return PatternVerdict.UNCLEAR, 0.0, findings
    if not placed.tells_depth:
        findings.insert(0, "The patches run off the flank: depth cannot be told from them.")
        return PatternVerdict.UNCLEAR, 0.0, findings
    error, spread = held if held is not None else (placed.depth, placed.stds[0])
    if chance_within(error, spread, tolerance) > _GOOD:
        if read.says is not PatternVerdict.GOOD:
            findings[0] = "As near as a print tells, by where both patches lie together."
        return PatternVerdict.GOOD, 0.0, findings
    says = PatternVerdict.TOO_DEEP if error > 0 else PatternVerdict.TOO_SHALLOW
    if says != read.says:
        direction = "out" if error > 0 else "in"
        findings[0] = f"Both patches together put the pinion {says}: move it {direction}."
    return says, error, findings


def _backlash(state: AxleState) -> BacklashLevel:
    around, limits = backlash_around(state), state.sheet.backlash_limits()
    return check_backlash(around, limits).level if around and limits else BacklashLevel.NOT_READ


def _contradict(read: PatternReading) -> bool:
    """Whether one flank lies as of a deep pinion and the other as of a shallow one."""
    return {read.drive.height, read.coast.height} == {Height.LOW, Height.HIGH}


def _disagree_words(every: Sequence[Print], newest: Print) -> str:
    most = max(apart(p, newest) for p in every if p is not newest)
    return (
        f"Prints of this assembly disagree by {most:.0%} of the flank: clean the teeth and print again "
        "before anything is changed."
    )
