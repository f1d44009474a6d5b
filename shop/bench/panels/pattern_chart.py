"""The chart of a job's gears as a page shows it, and what was taken for the gears."""

from __future__ import annotations

import math
from functools import lru_cache
from typing import Any

from axle.contact.cut import Cut, family_named
from axle.contact.gears import cut_of, not_computed
from axle.contact.response import pair
from axle.stations.pattern import PrintSays
from axle.stations.pattern_map import PrintMap, by_flank
from shop.drawing import set_chart
from shop.drawing.svg import Svg
from shop.jobs.job_axle import JobAxle


def chart(axle: JobAxle, mapped: PrintMap, says: PrintSays | None, size: str) -> dict[str, Any]:
    """The chart of this set as rows of drawn cells."""
    made = mapped.chart(axle.state, axle.display, says, size)
    nearest = made.cells.nearest
    rows = []
    for r, (words, cells) in enumerate(zip(made.depths, made.cells.rows, strict=True)):
        drawn = []
        for c, cell in enumerate(cells):
            label = f"{words}, backlash {made.opened[c]}"
            drawing = _cell(
                mapped.item, mapped.gears.drive_convex, depth=cell.depth, ring=cell.ring, label=label
            )
            drawn.append({"drawing": drawing, "nearest": nearest == (r, c)})
        rows.append({"words": words, "cells": drawn})
    return {"columns": made.opened, "rows": rows, "unit": axle.display.length.symbol}


@lru_cache(maxsize=2048)
def _cell(item: Cut, drive_convex: bool, depth: float, ring: float, label: str) -> Svg:
    """A cell as it is drawn: the same for the same gears, so it is drawn once."""
    return set_chart.cell(by_flank(pair(item, depth=depth, ring=ring), drive_convex=drive_convex), label)


def refused(axle: JobAxle) -> str:
    """Why the pattern of these gears cannot be computed; empty where it can."""
    return not_computed(axle.spec.gears)


def gear_rows(axle: JobAxle) -> list[dict[str, str]]:
    """What was taken for the gears of a job, and whether the sheet or the family of cut says so."""
    if refused(axle):
        return []
    gears = axle.spec.gears
    family = family_named(gears.family)
    item = cut_of(gears)
    rows = [
        ("Teeth", f"{gears.pinion_teeth} and {gears.ring_teeth}", ""),
        ("Ring gear", f"{gears.ring_diameter:g} mm", ""),
        ("Family of cut", family.name, ""),
        ("Face width", f"{gears.face_width:.1f} mm", "face_width"),
        ("Pinion offset", f"{gears.offset:.1f} mm", "offset"),
        ("Ring spiral", _degrees(gears.ring_spiral), "ring_spiral"),
        ("Drive flank angle", _degrees(gears.drive_angle), "drive_angle"),
        ("Coast flank angle", _degrees(gears.coast_angle), "coast_angle"),
        ("Cutter radius", f"{item.cutter_radius:.1f} mm", "" if gears.cutter_radius else "cutter_radius"),
    ]
    assumed = {*gears.assumed, *([] if gears.cutter_radius else ["cutter_radius"])}
    return [
        {
            "title": title,
            "value": value,
            "source": "usual proportion of the family" if name in assumed else "the job's sheet",
        }
        for title, value, name in rows
    ]


def _degrees(angle: float) -> str:
    return f"{math.degrees(angle):.1f}°"
