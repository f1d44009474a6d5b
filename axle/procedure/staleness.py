"""What a change makes stale: one graph, read from ``stale.toml``.

A result is stale when what was in the axle as it was read differs from what is in it now at a
place that bears on the result. No flag is kept: the packs recorded with the reading tell.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from decimal import Decimal
from functools import cache
from typing import Any

from axle.data_file import read_table
from axle.layout import Layout, Place


@dataclass(frozen=True)
class Change:
    """One entry of the graph: a place, and the results that its change makes stale."""

    place: Place
    title: str
    stales: frozenset[str]
    where: str

    def holds_on(self, layout: Layout) -> bool:
        """Say whether the entry applies to a layout."""
        if self.where == "coupled":
            return layout.preload_per_depth != 0
        if self.where == "sleeve":
            return layout.depth_spoils_sleeve
        return True


@cache
def changes() -> tuple[Change, ...]:
    """Every entry of the graph.

    :source: ``stale.toml``.
    """
    rows = read_table(__file__, "data/stale.toml", dict[str, list[dict[str, Any]]])["change"]
    return tuple(
        Change(
            Place(row["place"]), row["title"], stales=frozenset(row["stales"]), where=row.get("where", "")
        )
        for row in rows
    )


def stale_because(
    result: str, layout: Layout, then: Mapping[Place, Decimal], now: Mapping[Place, Decimal]
) -> str:
    """Say why a result no longer holds, or nothing when it does.

    :param result: station or reading kind, as in ``stale.toml``.
    :param layout: the axle's layout.
    :param then: thickness, holes or whatever is set there by place when it was read.
    :param now: the same now.
    :source: ``stale.toml``.

    >>> from axle.layout import CarrierBy, DepthShim, PreloadBy
    >>> shims = Layout(DepthShim.HEAD, PreloadBy.SPACER, CarrierBy.OUTBOARD)
    >>> stale_because("backlash", shims, {Place.RING: Decimal(1)}, {Place.RING: Decimal(2)})
    'the ring side was changed'
    """
    for change in changes():
        if result in change.stales and change.holds_on(layout):
            before, after = then.get(change.place), now.get(change.place)
            # Caps of which nobody wrote the torque down count as torqued, until they are loosened (0).
            if change.where == "known" and (after is None or (before is None and after != 0)):
                continue
            # Nothing recorded is nothing set: an empty place, an adjuster at its mark.
            if (before or 0) != (after or 0):
                return change.title
    return ""


def stales(place: Place, layout: Layout) -> tuple[str, ...]:
    """List what a change at a place makes stale on a layout.

    :param place: where the change is made.
    :param layout: the axle's layout.
    :source: ``stale.toml``.

    >>> from axle.layout import CarrierBy, DepthShim, PreloadBy
    >>> shims = Layout(DepthShim.CUP, PreloadBy.SPACER, CarrierBy.OUTBOARD)
    >>> "pinion_preload" in stales(Place.DEPTH, shims)
    True
    """
    lines: list[str] = []
    for change in changes():
        if change.place is place and change.holds_on(layout):
            lines += sorted(change.stales - set(lines))
    return tuple(lines)
