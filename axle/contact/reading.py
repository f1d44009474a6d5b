"""Reading a contact pattern that was marked on the two flanks.

Coordinates on the ring gear's flank: u from 0 at the toe to 1 at the heel, v from 0 at the root to
1 at the top land.
"""

from __future__ import annotations

import tomllib
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import Any

from axle.contact.patch import Patch, Wiped
from axle.errors import AxleError


@dataclass(frozen=True)
class FlankReading:
    """One flank in words: height, length and the edges it runs over."""

    height: str
    length: str
    edges: tuple[str, ...]


@dataclass(frozen=True)
class PatternReading:
    """What a print of both flanks says.

    :param drive: the drive flank in words.
    :param coast: the coast flank in words.
    :param says: "good", "too deep", "too shallow" or "unclear".
    :param good: whether the pattern can be signed as it is.
    :param depth_error: estimated depth error [mm], > 0 too deep; 0 when none can be told.
    :param findings: sentences, the deciding one first.
    :param disputed: where practitioners disagree about it.
    :param hard: flanks whose patch ends hard.
    """

    drive: FlankReading
    coast: FlankReading
    says: str
    good: bool
    depth_error: float
    findings: tuple[str, ...]
    disputed: str
    hard: tuple[str, ...] = ()


# Where the schools part, and the backlash is out: both are named, and why one goes first.
_DISPUTED: Mapping[tuple[tuple[str, str], str], str] = {
    (("low", "low"), "tight"): (
        "Low on both flanks with a tight backlash: one school opens the backlash, the other moves the "
        "pinion out. Open the backlash into its range first and print again; what stays low is depth."
    ),
    (("high", "high"), "loose"): (
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

    >>> read_flank(Patch.box(0.2, 0.6, 0.1, 0.5), 0.45).height
    'low'
    """
    chart = _chart()
    u, v = patch.centroid
    height = _band(v - target_height, chart["height_band"], ("low", "central", "high"))
    length = _band(u - target_length, chart["length_band"], ("toe", "central", "heel"))
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
    backlash: str,
    aims: Mapping[str, tuple[float, float]] | None = None,
    hard: tuple[str, ...] = (),
) -> PatternReading:
    """Read both flanks together, with backlash read first.

    :param drive: patch on the drive flank.
    :param coast: patch on the coast flank.
    :param backlash: "in range", "tight", "loose" or "not read"; depth is told only when backlash
        is in range, since one school reads the same pattern as backlash.
    :param aims: where the middles should lie (u, v) [1], by flank word; the chart's when none are given.
    :param hard: flanks whose patch ends hard.
    :source: common practice (chart.toml).

    >>> low = Patch.box(0.2, 0.6, 0.1, 0.4)
    >>> read_pattern(low, low, backlash="in range").says
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
    says, depth_error = found["says"], 0.0
    if says in ("too deep", "too shallow"):
        if backlash != "in range":
            says = "unclear"
            findings.insert(
                0, f"Backlash is {backlash}. Depth is not told from a pattern until it is in range."
            )
        else:
            depth_error = _depth_error(drive, coast, says, aims)
    edges = on_drive.edges + on_coast.edges
    disputed = found["disputed"] if backlash == "in range" else ""
    both = (on_drive.height, on_coast.height)
    if (both, backlash) in _DISPUTED:
        disputed = _DISPUTED[both, backlash]
    return PatternReading(
        on_drive,
        on_coast,
        says,
        says == "good" and not edges and not hard,
        depth_error,
        tuple(findings),
        disputed,
        hard,
    )


def target(flank: str) -> Patch:
    """Where a good patch lies on a flank: central in height, central to a little toe-side.

    :param flank: "drive" or "coast".
    :source: common practice (chart.toml); the gear maker's chart comes first.

    >>> round(target("drive").centroid[1], 2)
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


def first_step(depth_error: float) -> float:
    """How far to move the pinion on the strength of a print: between 2 and 5 thou.

    :param depth_error: estimate from the print [mm].
    :returns: change of depth error to make [mm], of the opposite sign.
    :source: common practice (0.002 in is about the least that shows, 0.005 in shows clearly).

    >>> first_step(0.3)
    -0.127
    """
    if not depth_error:
        return 0.0
    chart = _chart()
    size = min(max(abs(depth_error), chart["least_step_mm"]), chart["first_step_mm"])
    return float(-size if depth_error > 0 else size)


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


def _depth_error(drive: Wiped, coast: Wiped, says: str, aims: Mapping[str, tuple[float, float]]) -> float:
    chart = _chart()
    estimates = (
        (aims["drive"][1] - drive.centroid[1]) / chart["drive_height_per_mm"],
        (aims["coast"][1] - coast.centroid[1]) / chart["coast_height_per_mm"],
    )
    mean = sum(estimates) / 2
    least = chart["least_step_mm"]
    return float(max(mean, least) if says == "too deep" else min(mean, -least))


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
    if drive.length == coast.length != "central":
        near = "near" if drive.length == "toe" else "far"
        return [
            f"Both flanks lie towards the {drive.length}. Charts say the ring gear is too {near}; "
            "within the backlash range that moves it little, so if it stays suspect the cut, the "
            "offset or the shaft angle."
        ]
    return []


def _band(offset: float, band: float, names: tuple[str, str, str]) -> str:
    return names[0] if offset < -band else names[2] if offset > band else names[1]


@cache
def _chart() -> dict[str, Any]:
    with (Path(__file__).parent / "chart.toml").open("rb") as file:
        chart = tomllib.load(file)
    heights = ("low", "central", "high")
    wanted = {(drive, coast) for drive in heights for coast in heights}
    given = {(finding["drive"], finding["coast"]) for finding in chart["finding"]}
    if wanted != given:
        raise AxleError("chart.toml", given=f"{len(given)} findings", wanted="one per pair of heights")
    return chart
