"""What the page of turning by hand shows: each way, each assembly, what it means, what was counted."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, Final

from axle.layout import Place
from axle.measure.units import percent
from axle.noise.by_hand import hand_says, signs_of, told_by_count, turns_to_tell
from axle.noise.lines import Count, HandFelt, read_noise_line
from axle.state.felt import Feel, Flank, turned
from shop.drawing.odds import Bar, odds_bars
from shop.jobs import noted_lines
from shop.jobs.job_axle import JobAxle

_FLANKS: Final = {
    Flank.DRIVE.value: "Drive side: the flange turned as driving ahead, the ring gear held back",
    Flank.COAST.value: "Coast side: the other way, or the ring gear turned while the flange is held back",
}
_SHAFTS: Final = {"pinion": "the flange", "ring": "the ring gear"}


def hand_page(axle: JobAxle, query: Mapping[str, str]) -> dict[str, Any]:
    """Everything on the page."""
    del query
    every = turned(axle.state.felt)
    now = next((one for one in every if one.assembly == axle.state.assembly), None)
    rows = noted_lines.standing_rows(axle.job.noise_lines.exclude(kind="told").order_by("id"))
    lines = [(row, read_noise_line(row.kind, row.values)) for row in rows]
    counts = [line for _, line in lines if isinstance(line, Count) and line.assembly == axle.state.assembly]
    return {
        "asked": [
            {"flank": flank, "words": words, "felt": getattr(now, flank) if now else ""}
            for flank, words in _FLANKS.items()
        ],
        "feels": [feel.value for feel in Feel],
        "counted_feels": [feel.value for feel in Feel if feel is not Feel.SMOOTH],
        "says": hand_says(axle.state, axle.display),
        "signs": signs_of(now, used=axle.state.used_gears) if now else (),
        "assemblies": [
            {
                "number": one.assembly,
                "drive": one.drive,
                "coast": one.coast,
                "shim": axle.display.show(one.settings.at(Place.DEPTH))
                if one.settings.at(Place.DEPTH)
                else "",
            }
            for one in every
        ],
        "unit": axle.display.length.symbol,
        "shafts": _SHAFTS,
        "counted": _counted(axle, counts[-1]) if counts else None,
        "lines": [
            {"row": row, "words": _words(line)} for row, line in lines if isinstance(line, HandFelt | Count)
        ],
    }


def _counted(axle: JobAxle, line: Count) -> dict[str, Any]:
    found = told_by_count(line.count, line.turns, line.shaft, axle.state.gears)
    more = turns_to_tell(found)
    likely = found[0] if found else None
    return {
        "words": _words(line),
        "likely": likely,
        "chance": percent(likely.chance) if likely else "",
        "drawing": odds_bars([Bar(one.rate.title, one.chance, axle=True) for one in found[:4]], key="")
        if found
        else None,
        "more": more,
        "shaft": _SHAFTS[line.shaft],
        "marks": [one.rate.check for one in found[:2]],
    }


def _words(line: HandFelt | Count) -> str:
    if isinstance(line, HandFelt):
        return f"assembly {line.assembly}, {line.flank} side: {line.feel}"
    turns = f"{line.turns:g} turns of {_SHAFTS[line.shaft]}"
    return f"assembly {line.assembly}: {line.feel}, {line.count:g} in {turns}"
