"""What the page of counted turns shows."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import msgspec

from axle.gearing.counted import WHEELS_WORDS, InThere, Wheels
from axle.gearing.lines import Counted, RatioNote, Tag, Teeth, ratio_standing, read_ratio_line
from axle.gearing.offers import read_pair
from axle.gearing.teeth import TeethMeeting
from axle.measure.figures import read_number
from shop.drawing.ratio_line import RatioMark, ratio_line
from shop.gearing.inputs import RatioInputs
from shop.jobs import noted_lines
from shop.jobs.job_axle import JobAxle

_KINDS = ("counted", "teeth", "tag")
_PARTS = {"whole": 1.0, "half": 0.5, "quarter": 0.25, "eighth": 0.125, "sixteenth": 0.0625}
PART_WORDS = {
    "eighth": "an eighth of a turn",
    "sixteenth": "a sixteenth",
    "quarter": "a quarter",
    "half": "half a turn",
    "whole": "a whole turn",
}


def counted_page(axle: JobAxle, query: Mapping[str, str]) -> dict[str, Any]:
    """What was counted, what it leaves, and the forms for more."""
    del query
    found = RatioInputs(axle)
    rows = [
        row for row in noted_lines.standing_rows(axle.job.ratio_lines.order_by("id")) if row.kind in _KINDS
    ]
    shown = []
    for row in rows:
        one = ratio_standing([read_ratio_line(row.kind, row.values)], found.sold).counted[0]
        shown.append({"row": row, "found": one, "drawing": _drawing(one), "words": _words(one)})
    return {
        "lines": list(reversed(shown)),
        "wheels": [(wheels.value, words) for wheels, words in WHEELS_WORDS.items()],
        "parts": PART_WORDS.items(),
        "differential": axle.plan.facts["differential"],
        "settled": found.standing.settled,
        "sheet_teeth": f"{axle.spec.gears.ring_teeth}/{axle.spec.gears.pinion_teeth}",
        "meeting": TeethMeeting(axle.spec.gears.pinion_teeth, axle.spec.gears.ring_teeth).words,
    }


def _drawing(one: InThere) -> Any:
    if one.is_settled or not one.fits:
        return None
    marks = [RatioMark(offer.ratio, offer.teeth, chosen=index == 0) for index, offer in enumerate(one.fits)]
    return ratio_line(marks, band=(one.low, one.high), band_words="the count allows")


def _words(one: InThere) -> list[str]:
    """What a line comes to, in sentences."""
    if one.is_settled:
        return [f"{one.fits[0].teeth}, {one.fits[0].ratio:.3f}."]
    said = [f"Between {one.low:.3f} and {one.high:.3f}."]
    if not one.fits:
        return [*said, "No pair that could be cut lies there: count again."]
    if one.same:
        said.append(f"{', '.join(one.same)} have one and the same ratio: count the teeth.")
    if one.turns:
        said.append(f"The nearest two are told apart after {one.turns} turns of each counted wheel.")
    return said


def note_from(given: Mapping[str, str], differential: str) -> tuple[str, RatioNote]:
    """A line from the page's form: its kind and what it says."""
    kind = given.get("do", "")
    if kind == "teeth":
        pinion, ring = read_pair(f"{given.get('ring', '')}/{given.get('pinion', '')}", "counted teeth")
        return kind, Teeth(pinion, ring)
    if kind == "tag":
        return kind, Tag(given.get("tag", "").strip()[:20])
    part = _PARTS.get(given.get("part", ""), 0.125)
    held = given.get("wheels") == Wheels.HELD.value
    # Whose field is empty was held; with both counted both are asked.
    left = given.get("left", "").strip() or ("0" if held else "")
    right = given.get("right", "").strip() or ("0" if held else "")
    values = {
        "wheels": given.get("wheels", ""),
        "pinion": read_number(given.get("turns", ""), "turns of the pinion", -200, 200),
        "left": read_number(left, "turns of the left wheel", -200, 200),
        "right": read_number(right, "turns of the right wheel", -200, 200),
        "start": part,
        "end": part,
        "differential": differential,
    }
    read_ratio_line("counted", values)
    return "counted", msgspec.convert(values, Counted)
