"""The chart of one set of gears: how its pattern looks at each depth and backlash.

Printed charts are drawn for one cut and read on another; this one is computed for the set in hand. Along a
row the depth stays; along a column the backlash stays, so the ring gear follows the pinion.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

from axle.contact.cut import Cut
from axle.contact.estimate import CUT_NOISE, PatchCentroids
from axle.contact.response import Pair, pair, response

# How far backlash may be off that was set and not read [mm]: 3 thou.
SET: Final = 0.08


@dataclass(frozen=True)
class Cell:
    """One place of the chart.

    :param depth: pinion depth error [mm], > 0 too deep.
    :param opened: backlash over what it is set to [mm].
    :param ring: ring offset that gives it [mm], > 0 away from the pinion.
    :param pair: the patterns there.
    """

    depth: float
    opened: float
    ring: float
    pair: Pair


@dataclass(frozen=True)
class SetChart:
    """The chart.

    :param rows: cells, one row per depth.
    :param nearest: row and column of the cell that explains the print best, or None without a print.
    """

    rows: tuple[tuple[Cell, ...], ...]
    nearest: tuple[int, int] | None


def set_chart(
    item: Cut,
    depths: Sequence[float],
    opened: Sequence[float],
    seen: PatchCentroids | None = None,
    cut_noise: float = CUT_NOISE,
    lash_spread: float = SET,
) -> SetChart:
    """Compute a set's chart and mark the cell nearest to a print.

    :param item: the set.
    :param depths: pinion depth errors of the rows [mm].
    :param opened: backlash over what it is set to, of the columns [mm].
    :param seen: the print.
    :param cut_noise: scatter of the cut's own centre, share of the flank.
    :param lash_spread: how far the backlash may be from the middle column [mm]; less where it was read.
    :returns: rows as given, columns as given.
    :raises AxleError: where the set cannot be computed.
    :source: the computed pattern; a print alone hardly tells columns apart, so backlash as read counts too.

    >>> from axle.contact.cut import cut
    >>> found = set_chart(cut("large_cutter", 11, 41, 222.0), (-0.1, 0.0, 0.1), (0.0,))
    >>> [round(row[0].pair.convex.centroid[1], 1) for row in found.rows]
    [0.6, 0.5, 0.4]
    """
    per = response(item).backlash
    rows = []
    for depth in depths:
        cells = []
        for more in opened:
            ring = (more - per["depth"] * depth) / per["ring"]
            cells.append(Cell(depth, more, ring=ring, pair=pair(item, depth=depth, ring=ring)))
        rows.append(tuple(cells))
    nearest = None
    if seen is not None:
        places = [(r, c) for r in range(len(rows)) for c in range(len(rows[r]))]
        nearest = min(places, key=lambda at: _misses(rows[at[0]][at[1]], seen, cut_noise, lash_spread))
    return SetChart(tuple(rows), nearest)


def _misses(cell: Cell, seen: PatchCentroids, cut_noise: float, lash_spread: float) -> float:
    off = seen.values - cell.pair.centroids[seen.read]
    return float(off @ (off / seen.variance(cut_noise))) + (cell.opened / lash_spread) ** 2
