"""The map of a job's gears: the pattern at any depth and ring position, what a thou does, and the chart."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from axle.contact.cut import Cut
from axle.contact.gears import computed, cut_of, not_computed
from axle.contact.patch import Patch
from axle.contact.pattern import Pattern
from axle.contact.reading import edges_of
from axle.contact.response import Pair, Response, pair, response
from axle.contact.set_chart import SET, SetChart, set_chart
from axle.contact.target import Target, cut_for_target
from axle.errors import AxleError
from axle.gearset import GearSet
from axle.measure.units import THOU, Display, brief, percent
from axle.state.axle_state import AxleState
from axle.stations.backlash import backlash_around
from axle.stations.pattern import PrintSays
from axle.stations.print_target import Prints

# Rows and columns of the chart [mm]: whole thou, and metric steps near them.
_DEPTHS = {"small": (-6, -3, 0, 3, 6), "whole": (-9, -6, -3, 0, 3, 6, 9)}
_OPENED = {"small": (-3, 0, 3), "whole": (-6, -4, -2, 0, 2, 4, 6)}
_METRIC = 0.025
# A place further off than this is no place of an axle [mm].
_FARTHEST = 1.0
# Scatter of a backlash that was read [mm]: 1 thou.
_READ = 0.0254
_IMPERIAL = 0.0254


@dataclass(frozen=True)
class Looked:
    """The computed pattern at one place, by flank word.

    :param outlines: outlines (u, v) by flank word.
    :param patterns: all that is computed of them, likewise.
    :param opened: change of backlash against depth and ring gear right, as the indicator shows it [mm].
    :param ring: ring offset [mm], > 0 away.
    :param depth: pinion depth error [mm], > 0 too deep.
    """

    outlines: Mapping[str, tuple[np.ndarray, ...]]
    patterns: Mapping[str, Pattern]
    opened: float
    depth: float
    ring: float

    def facts(self) -> str:
        """How large both patches are, what they run over, how they lie to each other, and the error."""
        words = []
        for name, shown in self.patterns.items():
            edges = " and ".join(_runs_over(shown))
            over = f", over the {edges}" if edges else ""
            words.append(f"{name} wiped {percent(shown.area)}{over}")
        drive, coast = (np.array(self.patterns[name].centroid) for name in ("drive", "coast"))
        lies = _moved(coast - drive).replace(" up", " higher").replace(" down", " lower")
        words.append(f"coast lies {lies}")
        error = max(shown.error for shown in self.patterns.values())
        return f"{'; '.join(words).capitalize()}; transmission error {1000 * error:.0f} µm, unloaded."


@dataclass(frozen=True)
class Chart:
    """The chart of a set in words.

    :param cells: the chart.
    :param depths: words of its rows.
    :param opened: words of its columns.
    """

    cells: SetChart
    depths: tuple[str, ...]
    opened: tuple[str, ...]


@dataclass(frozen=True)
class PrintMap:
    """The map of a job's gears, held to its target; only where the set can be computed.

    :param gears: the gear set.
    :param item: the set, cut so that its right place shows the target.
    """

    gears: GearSet
    item: Cut

    def at(self, depth: float, ring: float) -> Looked:
        """The pattern at one place of the pinion and the ring gear [mm].

        :raises AxleError: for a place off the map.
        """
        if max(abs(depth), abs(ring)) > _FARTHEST:
            raise AxleError("slider", given="a place off the map", wanted="at most 1 mm either way")
        found = computed(self.gears)
        per, heel = (found[0].backlash, found[1]) if found else ({"depth": 0.0, "ring": 0.0}, 1.0)
        opened = heel * (per["depth"] * depth + per["ring"] * ring)
        shown = pair(self.item, depth=depth, ring=ring)
        convex = self.gears.drive_convex
        return Looked(
            by_flank(shown, drive_convex=convex),
            patterns(shown, drive_convex=convex),
            opened=opened,
            depth=depth,
            ring=ring,
        )

    def effects(self, display: Display) -> dict[str, str]:
        """What a thou, or two hundredths of a millimetre, deeper and further away does, in words."""
        metric = display.length is not THOU
        step, named = (0.02, "0.02 mm") if metric else (_IMPERIAL, "1 thou")
        found = response(self.item)
        words = {}
        for kind, moved in (("depth", f"{named} deeper"), ("ring", f"{named} further away")):
            per = np.array(found.pattern[kind]).reshape(2, 2) * step
            drive, coast = per if self.gears.drive_convex else per[::-1]
            words[kind] = f"{moved}: drive {_moved(drive)}; coast {_moved(coast)}."
        return words

    def chart(
        self, state: AxleState, display: Display, says: PrintSays | None, size: str = "small"
    ) -> Chart:
        """The chart of this set: rows depth, columns backlash about what is read."""
        metric = display.length is not THOU
        step = _METRIC if metric else _IMPERIAL
        depths = tuple(step * n for n in _DEPTHS[size])
        opened = tuple(step * n for n in _OPENED[size])
        seen = says.centroids if says else None
        # The columns are what the indicator shows at the heel.
        found = computed(self.gears)
        heel = found[1] if found else 1.0
        spread = _READ if backlash_around(state) else SET
        cells = set_chart(
            self.item, depths, tuple(more / heel for more in opened), seen, lash_spread=spread
        )
        return Chart(
            cells,
            tuple(_depth_words(depth, display) for depth in depths),
            tuple(_lash_words(state, more, display) for more in opened),
        )


def print_map(state: AxleState) -> PrintMap | None:
    """The map of a job's gears, or nothing where the set cannot be computed.

    :param state: the axle.
    :source: :mod:`axle.contact.pattern`.
    """
    return map_of(state.gears, Prints(state).target)


def map_of(gears: GearSet, target: Target) -> PrintMap | None:
    """The map of a gear set held to a target, or nothing where the set cannot be computed.

    :param gears: the gear set.
    :param target: the target.
    :source: :mod:`axle.contact.target`.
    """
    if not_computed(gears):
        return None
    return PrintMap(gears, cut_for_target(cut_of(gears), target, gears.drive_convex))


def patterns(shown: Pair, *, drive_convex: bool) -> dict[str, Pattern]:
    """The patterns of both flanks by flank word.

    :param shown: the computed patterns.
    :param drive_convex: the drive flank is the ring gear's convex one.
    :source: the layout's drive flank.
    """
    drive, coast = shown.convex, shown.concave
    if not drive_convex:
        drive, coast = coast, drive
    return {"drive": drive, "coast": coast}


def by_flank(shown: Pair, *, drive_convex: bool) -> dict[str, tuple[np.ndarray, ...]]:
    """Outlines of both flanks by flank word.

    :param shown: the computed patterns.
    :param drive_convex: the drive flank is the ring gear's convex one.
    :source: the layout's drive flank.
    """
    return {name: flank.outlines for name, flank in patterns(shown, drive_convex=drive_convex).items()}


def moved_words(told: Response, depth: float) -> tuple[str, str]:
    """How far a depth moves the patch of the convex and of the concave flank, in words.

    :param told: sensitivities of the set.
    :param depth: how much deeper [mm].
    :source: :func:`axle.contact.response.response`.

    >>> from axle.contact.cut import cut
    >>> moved_words(response(cut("large_cutter", 11, 41, 222.0)), 0.127)[0]
    '10.5 % down, 3.4 % to the toe'
    """
    convex, concave = np.array(told.pattern["depth"]).reshape(2, 2) * depth
    return _moved(convex), _moved(concave)


def place_words(depth: float, ring: float, display: Display) -> tuple[str, str]:
    """A place of the pinion and of the ring gear in words.

    :param depth: pinion depth error [mm], > 0 too deep.
    :param ring: ring offset [mm], > 0 away.
    :param display: units of the words.
    :source: the project's own words.

    >>> from axle.measure.units import IMPERIAL
    >>> place_words(0.1016, -0.0254, IMPERIAL)
    ('4.0 deep', '1.0 near')
    """
    return _way(depth, "deep", "shallow", display), _way(ring, "away", "near", display)


def _way(value: float, more: str, less: str, display: Display) -> str:
    shown = display.show(abs(value))
    if not shown.strip("0."):
        return "as set"
    return f"{shown} {more if value > 0 else less}"


def _lash_words(state: AxleState, more: float, display: Display) -> str:
    around = backlash_around(state)
    if around is not None and around.smallest + more > 0:
        return display.show(around.smallest + more)
    if not more:
        return "as set"
    return f"{'+' if more > 0 else '−'}{display.show(abs(more))}"


def _depth_words(depth: float, display: Display) -> str:
    if not depth:
        return "right"
    return f"{brief(abs(depth), display.length)} {'deep' if depth > 0 else 'shal.'}"


def _runs_over(shown: Pattern) -> tuple[str, ...]:
    patch = Patch(tuple((float(u), float(v)) for u, v in max(shown.outlines, key=len)))
    return edges_of(patch)


def _moved(by: np.ndarray) -> str:
    along, up = float(by[0]), float(by[1])
    return (
        f"{abs(up):.1%} {'up' if up > 0 else 'down'}, {abs(along):.1%} to the "
        f"{'heel' if along > 0 else 'toe'}"
    ).replace("%", " %")
