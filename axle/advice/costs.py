"""What a change costs in minutes, and whether a reading before it is worth its own."""

from __future__ import annotations

import tomllib
from collections.abc import Iterable
from functools import cache
from pathlib import Path
from typing import Any

from axle.layout import Layout, Place

# A change of an hour is weighed in full; a reading before a cheaper one has to save as much more.
_FULL = 60.0


def minutes(layout: Layout, places: Iterable[Place]) -> float:
    """Minutes that a change costs: its dearest part, with what is read again after it.

    :param layout: the axle's layout.
    :param places: what is changed.
    :returns: [min]; 0 where nothing is.
    :source: ``costs.toml``, common practice.

    >>> from axle.layout import CarrierBy, DepthShim, Housing, PreloadBy
    >>> dropped = Layout(DepthShim.CARTRIDGE, PreloadBy.SLEEVE, CarrierBy.ADJUSTERS, Housing.DROP_OUT)
    >>> minutes(dropped, [Place.RING, Place.FAR]), minutes(dropped, [Place.DEPTH, Place.RING])
    (15.0, 45.0)
    """
    costs, again = _costs()["change"], _costs()["again"]
    found = [0.0]
    for place in places:
        if place in (Place.RING, Place.FAR) and layout.has_adjusters:
            found.append(costs["adjusters"] + again["adjusters"])
        elif place in (Place.RING, Place.FAR):
            found.append(costs["side_packs"][layout.housing.value] + again["other"])
        elif place is Place.DEPTH:
            found.append(costs["depth"][layout.depth_shim.value] + again["other"])
        elif place is Place.PRELOAD:
            cost = costs["preload"] if layout.has_preload_pack else costs["sleeve"]
            found.append(cost + again["other"])
    return float(max(found))


def weight(layout: Layout, places: Iterable[Place]) -> float:
    """How much a change's chance weighs against a reading's minutes, 0 to 1: 1 from an hour on.

    :param layout: the axle's layout.
    :param places: what is changed.
    :source: :func:`minutes`.
    """
    return min(minutes(layout, places) / _FULL, 1.0)


def reading_minutes(what: str) -> float:
    """Minutes that one more reading or print costs.

    :param what: "read" or "print".
    :source: ``costs.toml``, common practice.

    >>> reading_minutes("print") > reading_minutes("read")
    True
    """
    return float(_costs()["reading"][what])


@cache
def _costs() -> dict[str, Any]:
    with (Path(__file__).parent / "costs.toml").open("rb") as file:
        return tomllib.load(file)
