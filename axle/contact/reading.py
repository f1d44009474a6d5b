"""Reading a contact pattern that was marked on the two flanks.

Coordinates on the ring gear's flank: u from 0 at the toe to 1 at the heel, v from 0 at the root to
1 at the top land.
"""

from __future__ import annotations

import math
import tomllib
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import Any

from axle.errors import AxleError, quoted


@dataclass(frozen=True)
class Patch:
    """The wiped patch on one flank, as a closed outline.

    :param outline: corners (u, v), each 0 to 1, at least three, spanning some area.
    :raises AxleError: for a corner off the flank or an outline without area.
    """

    outline: tuple[tuple[float, float], ...]

    def __post_init__(self) -> None:
        if len(self.outline) < 3:
            raise AxleError(
                "patch", given=f"{len(self.outline)} corners", wanted="an outline of at least three"
            )
        for u, v in self.outline:
            if not (0 <= u <= 1 and 0 <= v <= 1):
                raise AxleError(
                    "patch",
                    given=f"a corner at {u:.0%} of the length, {v:.0%} of the height",
                    wanted="0 % to 100 % of both",
                )
        if self.area < 1e-4:
            raise AxleError("patch", given="an outline without area", wanted="a patch one can see")

    @classmethod
    def box(cls, toe: float, heel: float, root: float, top: float) -> Patch:
        """Make a patch from how far it reaches: four shares of the flank, 0 to 1.

        :raises AxleError: when an end lies before its start, or off the flank.
        """
        for name, low, high in (("length", toe, heel), ("height", root, top)):
            if low >= high:
                raise AxleError(
                    f"patch {name}",
                    given=f"from {low:.0%} to {high:.0%}",
                    wanted="a start below its end",
                )
        # Eight corners: a patch is feathered and round, never a rectangle.
        du, dv = (heel - toe) / 4, (top - root) / 4
        return cls(
            (
                (toe + du, root), (heel - du, root), (heel, root + dv), (heel, top - dv),
                (heel - du, top), (toe + du, top), (toe, top - dv), (toe, root + dv),
            )
        )  # fmt: skip

    @classmethod
    def from_percent(cls, toe: str, heel: str, root: str, top: str, *, flank: str = "") -> Patch:
        """Make a patch from four typed numbers, each a per cent of the flank.

        :raises AxleError: naming the number that cannot be used.
        """
        shares = []
        for name, text in (("toe", toe), ("heel", heel), ("root", root), ("top", top)):
            try:
                value = float(text.strip().removesuffix("%"))
            except ValueError:
                value = math.nan
            if not 0 <= value <= 100:
                shown = quoted(text, 20)
                raise AxleError(
                    f"{flank} patch, {name} end".strip(), given=shown, wanted="a number from 0 to 100"
                )
            shares.append(value / 100)
        return cls.box(*shares)

    @property
    def percent(self) -> tuple[str, str, str, str]:
        """How far it reaches, as :meth:`from_percent` takes it."""
        toe, heel, root, top = (f"{100 * share:.0f}" for share in self.reach)
        return toe, heel, root, top

    @property
    def area(self) -> float:
        """Share of the flank that is wiped."""
        return abs(self._signed_area())

    @property
    def centroid(self) -> tuple[float, float]:
        """Centre of the wiped area (u, v)."""
        six = 6 * self._signed_area()
        u = sum((a[0] + b[0]) * (a[0] * b[1] - b[0] * a[1]) for a, b in self._edges())
        v = sum((a[1] + b[1]) * (a[0] * b[1] - b[0] * a[1]) for a, b in self._edges())
        return u / six, v / six

    @property
    def reach(self) -> tuple[float, float, float, float]:
        """How far it reaches: (toe end, heel end, root end, top end)."""
        us, vs = [u for u, _ in self.outline], [v for _, v in self.outline]
        return min(us), max(us), min(vs), max(vs)

    def _edges(self) -> list[tuple[tuple[float, float], tuple[float, float]]]:
        return list(zip(self.outline, (*self.outline[1:], self.outline[0]), strict=True))

    def _signed_area(self) -> float:
        return sum(a[0] * b[1] - b[0] * a[1] for a, b in self._edges()) / 2


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
    """

    drive: FlankReading
    coast: FlankReading
    says: str
    good: bool
    depth_error: float
    findings: tuple[str, ...]
    disputed: str


def read_flank(patch: Patch, target_length: float, target_height: float = 0.5) -> FlankReading:
    """Put one flank into words.

    :param patch: the wiped patch.
    :param target_length: u at which its centre should lie, 0 to 1.
    :param target_height: v at which its centre should lie, 0 to 1.
    :source: common practice; bands of chart.toml.

    >>> read_flank(Patch.box(0.2, 0.6, 0.1, 0.5), 0.45).height
    'low'
    """
    chart = _chart()
    u, v = patch.centroid
    height = _band(v - target_height, chart["height_band"], ("low", "central", "high"))
    length = _band(u - target_length, chart["length_band"], ("toe", "central", "heel"))
    toe, heel, root, top = patch.reach
    edge = chart["edge_band"]
    edges = tuple(
        name
        for name, over in (
            ("toe", toe < edge), ("heel", heel > 1 - edge),
            ("root", root < edge), ("top", top > 1 - edge),
        )
        if over
    )  # fmt: skip
    return FlankReading(height, length, edges)


def read_pattern(
    drive: Patch, coast: Patch, *, backlash: str, targets: Mapping[str, Patch] | None = None
) -> PatternReading:
    """Read both flanks together, with backlash read first.

    :param drive: patch on the drive flank.
    :param coast: patch on the coast flank.
    :param backlash: "in range", "tight", "loose" or "not read"; depth is told only when backlash
        is in range, since one school reads the same pattern as backlash.
    :param targets: patches to match, by flank word: the old wear of a used set; the chart's when
        none are given.
    :source: common practice (chart.toml).

    >>> low = Patch.box(0.2, 0.6, 0.1, 0.4)
    >>> read_pattern(low, low, backlash="in range").says
    'too deep'
    """
    chart = _chart()
    aims = _aims(targets or {})
    on_drive, on_coast = read_flank(drive, *aims["drive"]), read_flank(coast, *aims["coast"])
    found = next(
        f for f in chart["finding"] if (f["drive"], f["coast"]) == (on_drive.height, on_coast.height)
    )
    findings = [found["cause"], *_edge_findings(on_drive, on_coast)]
    findings += _opposite(drive, coast)
    findings += _lengthwise(on_drive, on_coast)
    if targets:
        findings.append("Held to the set's old wear, not to a chart: the coast flank first.")
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
    return PatternReading(
        on_drive, on_coast, says, says == "good" and not edges, depth_error, tuple(findings),
        found["disputed"] if backlash == "in range" else "",
    )  # fmt: skip


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


def _aims(targets: Mapping[str, Patch]) -> dict[str, tuple[float, float]]:
    """Where each patch's centre should lie (u, v)."""
    chart = _chart()
    usual = {
        name: (float(chart[f"{name}_target_length"]), float(chart["height_centre"]))
        for name in ("drive", "coast")
    }
    return usual | {name: patch.centroid for name, patch in targets.items()}


def _depth_error(drive: Patch, coast: Patch, says: str, aims: Mapping[str, tuple[float, float]]) -> float:
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


def _opposite(drive: Patch, coast: Patch) -> list[str]:
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
