"""The illustrated page about the contact pattern, drawn by the engine."""

from __future__ import annotations

import math
from typing import Any

from axle.contact.cut import Cut, cut
from axle.contact.response import pair, response
from axle.measure.units import Display, brief
from axle.stations.pattern_map import moved_words
from shop.drawing import set_chart

# The set of the drawings: a usual light axle, and a depth that shows clearly, 6 thou.
_TEETH, _RING, _DEEP = (11, 41), 222.0, 0.1524
_CUTTERS = (("large_cutter", 114.3), ("middle_cutter", 95.0), ("small_cutter", 76.0))
_ANGLES = ((15, 27), (19, 25), (22, 22))


def context(display: Display) -> dict[str, Any]:
    """Everything the page shows."""
    usual = cut("large_cutter", *_TEETH, _RING)
    depth = f"{brief(_DEEP, display.length)} {display.length.symbol}"
    read = [
        ("Right", "central, a little to the toe on the drive flank", {}),
        ("Too deep", f"{depth}: drive low and to the toe, coast low", {"depth": _DEEP}),
        ("Too shallow", f"{depth}: drive high and to the heel, coast high", {"depth": -_DEEP}),
        ("Ring gear away", f"{depth}, far past its range: hardly moved", {"ring": _DEEP}),
    ]
    cutters = []
    for family, radius in _CUTTERS:
        item = cut(family, *_TEETH, _RING, cutter_radius=radius)
        along = response(item).pattern["depth"][2] * _DEEP
        direction = "hardly along" if abs(along) < 0.008 else "to the heel" if along > 0 else "to the toe"
        words = f"cutter of {radius:.0f} mm: coast low and {direction}"
        cutters.append(_cell(item, f"{family.split('_')[0].title()} cutter,", words, {"depth": _DEEP}))
    return {
        "read": [_cell(usual, title + ",", words, move) for title, words, move in read],
        "cutters": cutters,
        "angles": [_angle_row(*angles) for angles in _ANGLES],
        "depth": depth,
    }


def _cell(item: Cut, title: str, words: str, move: dict[str, float]) -> dict[str, Any]:
    shown, before = pair(item, **move), pair(item)
    outlines = {"drive": shown.convex.outlines, "coast": shown.concave.outlines}
    ghosts = {"drive": before.convex.outlines, "coast": before.concave.outlines} if move else {}
    return {"drawing": set_chart.cell(outlines, f"{title} {words}", ghosts), "title": title, "words": words}


def _angle_row(drive: int, coast: int) -> dict[str, str]:
    item = cut(
        "large_cutter", *_TEETH, _RING, convex_angle=math.radians(drive), concave_angle=math.radians(coast)
    )
    drive_words, coast_words = moved_words(response(item), _DEEP)
    return {"title": f"{drive}° and {coast}°", "drive": drive_words, "coast": coast_words}
