"""Reading a contact pattern that was marked on the two flanks.

Coordinates on the ring gear's flank: u from 0 at the toe to 1 at the heel, v from 0 at the root to
1 at the top land.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum
from functools import cache
from typing import Any, TypeVar

from axle.contact.patch import Patch, Wiped
from axle.data_file import read_table
from axle.errors import AxleError
from axle.measure.range import BacklashLevel

T = TypeVar("T")


class Height(StrEnum):
    """Where a patch lies between root and top."""

    LOW = "low"
    CENTRAL = "central"
    HIGH = "high"


class Length(StrEnum):
    """Where a patch lies between toe and heel."""

    TOE = "toe"
    CENTRAL = "central"
    HEEL = "heel"


class PatternVerdict(StrEnum):
    """What a print says of the pinion's depth, and whether it can be signed."""

    GOOD = "good"
    TOO_DEEP = "too deep"
    TOO_SHALLOW = "too shallow"
    UNCLEAR = "unclear"
    WANDERS = "wanders"

    @property
    def tells_depth(self) -> bool:
        """Whether it says which way the pinion is off."""
        return self in (PatternVerdict.TOO_DEEP, PatternVerdict.TOO_SHALLOW)


@dataclass(frozen=True)
class FlankReading:
    """One flank in words: height, length and the edges it runs over."""

    height: Height
    length: Length
    edges: tuple[str, ...]


@dataclass(frozen=True)
class PatternReading:
    """What a print of both flanks says.

    :param drive: the drive flank in words.
    :param coast: the coast flank in words.
    :param says: its verdict.
    :param good: whether the pattern can be signed as it is.
    :param depth_error: estimated depth error [mm], > 0 too deep; 0 when none can be told.
    :param findings: sentences, the deciding one first.
    :param disputed: where practitioners disagree about it.
    :param hard: flanks whose patch ends hard.
    """

    drive: FlankReading
    coast: FlankReading
    says: PatternVerdict
    good: bool
    depth_error: float
    findings: tuple[str, ...]
    disputed: str
    hard: tuple[str, ...] = ()


# Where the schools part, and the backlash is out: both are named, and why one goes first.
_DISPUTED: Mapping[tuple[tuple[Height, Height], BacklashLevel], str] = {
    ((Height.LOW, Height.LOW), BacklashLevel.TIGHT): (
        "Low on both flanks with a tight backlash: one school opens the backlash, the other moves the "
        "pinion out. Open the backlash into its range first and print again; what stays low is depth."
    ),
    ((Height.HIGH, Height.HIGH), BacklashLevel.LOOSE): (
        "High on both flanks with a loose backlash: one school closes the backlash, the other moves the "
        "pinion in. Close the backlash into its range first and print again; what stays high is depth."
    ),
}


def read_flank(patch: Wiped, target_length: float, target_height: float = 0.5) -> FlankReading:
    """Put one flank into words.

    :param patch: the wiped patch.
    :param target_length: u at which its centre should lie, share of the length [1].
    :param target_height: v at which its centre should lie, 0 to 1.
    :source: common practice; bands of chart.toml.

    >>> read_flank(Patch.box(0.2, 0.6, 0.1, 0.5), 0.45).height.value
    'low'
    """
    chart = _chart()
    u, v = patch.centroid
    height = _band(v - target_height, chart["height_band"], tuple(Height))
    length = _band(u - target_length, chart["length_band"], tuple(Length))
    return FlankReading(height, length, edges_of(patch))


def edges_of(patch: Wiped) -> tuple[str, ...]:
    """The edges of the flank that a patch runs over: a feathered tip that only touches is none.

    :param patch: the wiped patch, in shares of the flank [1].
    :source: common practice; bands of chart.toml.

    >>> edges_of(Patch.box(0.2, 0.7, 0.0, 0.5))
    ('root',)
    """
    chart = _chart()
    runs = patch.runs(chart["edge_band"])
    return tuple(name for name, run in runs.items() if run >= chart["edge_run"])


def read_pattern(
    drive: Wiped,
    coast: Wiped,
    *,
    backlash: BacklashLevel,
    aims: Mapping[str, tuple[float, float]] | None = None,
    hard: tuple[str, ...] = (),
) -> PatternReading:
    """Read both flanks together, with backlash read first.

    :param drive: patch on the drive flank.
    :param coast: patch on the coast flank.
    :param backlash: its level; depth is told only when backlash is in range, since one school reads the
        same pattern as backlash.
    :param aims: where the middles should lie (u, v) [1], by flank word; the chart's when none are given.
    :param hard: flanks whose patch ends hard.
    :source: common practice (chart.toml).

    >>> low = Patch.box(0.2, 0.6, 0.1, 0.4)
    >>> read_pattern(low, low, backlash=BacklashLevel.IN_RANGE).says.value
    'too deep'
    """
    chart = _chart()
    aims = usual_middles() | dict(aims or {})
    on_drive, on_coast = read_flank(drive, *aims["drive"]), read_flank(coast, *aims["coast"])
    found = next(
        f for f in chart["finding"] if (f["drive"], f["coast"]) == (on_drive.height, on_coast.height)
    )
    findings = [found["cause"], *_edge_findings(on_drive, on_coast)]
    findings += [f"The {name} patch ends hard: overload there, do not run it so." for name in hard]
    findings += _opposite(drive, coast)
    findings += _lengthwise(on_drive, on_coast)
    says, depth_error = PatternVerdict(found["says"]), 0.0
    if says.tells_depth:
        if backlash is not BacklashLevel.IN_RANGE:
            says = PatternVerdict.UNCLEAR
            findings.insert(
                0, f"Backlash is {backlash}. Depth is not told from a pattern until it is in range."
            )
        else:
            depth_error = _depth_error(drive, coast, says, aims)
    edges = on_drive.edges + on_coast.edges
    disputed = found["disputed"] if backlash is BacklashLevel.IN_RANGE else ""
    both = (on_drive.height, on_coast.height)
    if (both, backlash) in _DISPUTED:
        disputed = _DISPUTED[both, backlash]
    return PatternReading(
        on_drive,
        on_coast,
        says=says,
        good=says is PatternVerdict.GOOD and not edges and not hard,
        depth_error=depth_error,
        findings=tuple(findings),
        disputed=disputed,
        hard=hard,
    )


def target_patch(flank: str) -> Patch:
    """Where a good patch lies on a flank: central in height, central to a little toe-side.

    :param flank: "drive" or "coast".
    :source: common practice (chart.toml); the gear maker's chart comes first.

    >>> round(target_patch("drive").centroid[1], 2)
    0.5
    """
    chart = _chart()
    u = chart[f"{flank}_target_length"]
    return Patch.box(u - 0.2, u + 0.2, 0.25, 0.75)


def depth_tolerance() -> float:
    """Depth error within which a computed pattern is called good [mm].

    :source: common practice (0.003 in either way is right; chart.toml).

    >>> depth_tolerance()
    0.0762
    """
    return float(_chart()["depth_tolerance_mm"])


def wander_limit() -> float:
    """How far a pattern may wander around the ring gear and still be called good, share of the flank.

    :source: common practice, no source for the figure (chart.toml); no unit.

    >>> wander_limit()
    0.15
    """
    return float(_chart()["wander_limit"])


def usual_middles() -> dict[str, tuple[float, float]]:
    """Where each patch's middle should lie by the trade's chart.

    :returns: (u, v) by flank word, shares of the flank [1].
    :source: common practice (chart.toml).

    >>> usual_middles()["drive"]
    (0.45, 0.5)
    """
    chart = _chart()
    return {
        name: (float(chart[f"{name}_target_length"]), float(chart["height_centre"]))
        for name in ("drive", "coast")
    }


def _depth_error(
    drive: Wiped, coast: Wiped, says: PatternVerdict, aims: Mapping[str, tuple[float, float]]
) -> float:
    chart = _chart()
    estimates = (
        (aims["drive"][1] - drive.centroid[1]) / chart["drive_height_per_mm"],
        (aims["coast"][1] - coast.centroid[1]) / chart["coast_height_per_mm"],
    )
    mean = sum(estimates) / 2
    least = chart["least_step_mm"]
    return float(max(mean, least) if says is PatternVerdict.TOO_DEEP else min(mean, -least))


def _edge_findings(drive: FlankReading, coast: FlankReading) -> list[str]:
    return [
        f"The {name} patch runs over the {edge}: overload there, do not run it so."
        for name, flank in (("drive", drive), ("coast", coast))
        for edge in flank.edges
    ]


def _opposite(drive: Wiped, coast: Wiped) -> list[str]:
    difference = coast.centroid[1] - drive.centroid[1]
    if abs(difference) < 0.05:
        return ["Main contacts lie opposite each other."]
    where = "higher" if difference > 0 else "lower"
    return [f"Main contacts are not opposite: coast sits {abs(difference):.0%} of the height {where}."]


def _lengthwise(drive: FlankReading, coast: FlankReading) -> list[str]:
    if drive.length == coast.length != Length.CENTRAL:
        near = "near" if drive.length is Length.TOE else "far"
        return [
            f"Both flanks lie towards the {drive.length}. Charts say the ring gear is too {near}; "
            "within the backlash range that moves it little, so if it stays suspect the cut, the "
            "offset or the shaft angle."
        ]
    return []


def _band(offset: float, band: float, names: tuple[T, ...]) -> T:
    return names[0] if offset < -band else names[2] if offset > band else names[1]


@cache
def _chart() -> dict[str, Any]:
    chart = read_table(__file__, "chart.toml", dict[str, Any])
    heights = tuple(Height)
    wanted = {(drive, coast) for drive in heights for coast in heights}
    given = {(finding["drive"], finding["coast"]) for finding in chart["finding"]}
    if wanted != given:
        raise AxleError("chart.toml", given=f"{len(given)} findings", wanted="one per pair of heights")
    return chart
