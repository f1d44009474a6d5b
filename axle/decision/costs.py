"""What a change costs in minutes, and whether a reading before it is worth its own."""

from __future__ import annotations

from collections.abc import Iterable
from functools import cache
from typing import Any

from axle.data_file import read_table
from axle.layout import Layout, Place

# A change of an hour is weighed in full; a reading before a cheaper one has to save as much more.
_FULL = 60.0


def minutes(layout: Layout, places: Iterable[Place]) -> float:
    """Minutes that a change costs: its dearest part, since the others are reached on the way.

    :param layout: the axle's layout.
    :param places: what is changed.
    :returns: [min]; 0 where nothing is.
    :source: ``costs.toml``, common practice.

    >>> from axle.layout import CarrierBy, DepthShim, Housing, PreloadBy
    >>> dropped = Layout(DepthShim.CARTRIDGE, PreloadBy.SLEEVE, CarrierBy.ADJUSTERS, Housing.DROP_OUT)
    >>> minutes(dropped, [Place.RING, Place.FAR]), minutes(dropped, [Place.DEPTH, Place.RING])
    (10.0, 15.0)
    """
    costs = _costs()["change"]
    found = [0.0]
    for place in places:
        if place in (Place.RING, Place.FAR):
            found.append(
                costs["adjusters"] if layout.has_adjusters else costs["side_packs"][layout.housing.value]
            )
        elif place is Place.DEPTH:
            found.append(costs["depth"][layout.depth_shim.value])
        elif place is Place.PRELOAD:
            found.append(costs["preload"] if layout.has_preload_pack else costs["sleeve"])
    return float(max(found))


def weight(layout: Layout, places: Iterable[Place]) -> float:
    """How much a change's chance weighs against a reading's minutes, 0 to 1: 1 from an hour on.

    What is read again after the change counts with it.

    :param layout: the axle's layout.
    :param places: what is changed.
    :source: :func:`minutes`.
    """
    changed = tuple(places)
    wound = layout.has_adjusters and all(place in (Place.RING, Place.FAR) for place in changed)
    again = float(_costs()["again"]["adjusters" if wound else "other"])
    return min((minutes(layout, changed) + again) / _FULL, 1.0)


def reading_minutes(what: str) -> float:
    """Minutes that one more reading or print costs.

    :param what: "read" or "print".
    :source: ``costs.toml``, common practice.

    >>> reading_minutes("print") > reading_minutes("read")
    True
    """
    return float(_costs()["reading"][what])


@cache
def _costs() -> dict[str, dict[str, Any]]:
    return read_table(__file__, "costs.toml", dict[str, dict[str, Any]])
