"""What the pattern station shows: both flanks, where the print puts the axle, the chart, the entry."""

from __future__ import annotations

import uuid
from typing import Any

from axle.contact.compound import Compound
from axle.contact.mark import By, Edge, FlankMark, Strength
from axle.contact.patch import HEIGHTS, LENGTHS, SIZES
from axle.contact.pattern_runout import Blamed
from axle.contact.print_conditions import DIRECTIONS, LOADS
from axle.contact.target import TITLES, WORDS, Target, TargetConvention
from axle.measure.units import THOU, Display
from axle.procedure.names import StationName
from axle.state.reading import Print
from axle.stations.pattern import (
    PrintSays,
    depth_words,
    read_print,
    ring_words,
    school_lines,
    wander_words,
)
from axle.stations.pattern_map import Looked, PrintMap, place_words, print_map
from axle.stations.print_target import Prints
from axle.stations.station_state import Status
from shop.bench.panels import pattern_chart
from shop.drawing import flanks
from shop.jobs.job_axle import JobAxle
from shop.jobs.models import Pattern
from shop.jobs.rows import mark_from

# How the page is entered, in the order of its tabs.
VIEWS = {
    "compare": "Compare",
    "draw": "Draw",
    "words": "Words",
    "numbers": "Numbers",
    "photo": "Photo",
    "made": "How it was made",
    "target": "Target",
}
STEP = "pattern-print"
# The sliders reach this far either way, in the shop's unit, by steps of this.
_REACH = {"thou": ("10", "0.5"), "mm": ("0.25", "0.01")}


def context(axle: JobAxle, view: str, place: int) -> dict[str, Any]:
    """Both flanks with what is on them, what the print says, and what the tab in hand asks."""
    says, mapped = read_print(axle.state), print_map(axle.state)
    # Where an earlier assembly stood is told, but not taken for where this one stands.
    current = None if says is None or says.stale else says
    now = _print_in_hand(axle)
    at = place if 1 <= place <= axle.making.places else _wanted_place(axle, now)
    wanted = _wanted(now, at)
    view = view if view in VIEWS else "compare" if current and not wanted else "draw"
    depth, ring = _start(current)
    looked = mapped.at(depth, ring) if mapped else None
    drawn = {
        name: _flank(
            axle, name, view=view, place=at, mapped=mapped, computed=looked.outlines[name] if looked else ()
        )
        for name in ("drive", "coast")
    }
    return {
        "flanks": drawn.values(),
        "entry_id": str(uuid.uuid4()),
        "says": _says(axle, says),
        "view": view,
        "tabs": [{"view": key, "title": title, "current": key == view} for key, title in VIEWS.items()],
        "number": axle.print_number,
        "place": at,
        "places": _places(axle, now, at) if axle.making.places > 1 else [],
        "tooth": _tooth(axle, at),
        "wanted": wanted,
        "sliders": _sliders(mapped, axle.display, depth, ring) if mapped else None,
        "chart": pattern_chart.chart(axle, mapped, current, "small") if mapped else None,
        "refused": pattern_chart.refused(axle),
        "made": _made(axle),
        "quick": {"heights": [*HEIGHTS], "lengths": [*LENGTHS], "sizes": [*SIZES]},
        "edges": [edge.value for edge in Edge],
        "strengths": [strength.value for strength in Strength],
        "targets": _targets(axle),
        "school": WORDS[Prints(axle.state).target.school],
        "photos": list(axle.job.photos.filter(step=STEP).order_by("-id")[:8]),
        "step": STEP,
        "drawing": view in ("draw", "target"),
        "earlier": sorted({p.assembly for p in axle.state.prints if p.assembly != axle.state.assembly}),
        "whole": bool(current and not wanted),
    }


def predicted(mapped: PrintMap, display: Display, depth: float, ring: float) -> dict[str, str]:
    """The computed pattern at one place of the sliders, as path data and words."""
    looked = mapped.at(depth, ring)
    words = place_words(depth, ring, display)
    return {
        "drive": flanks.outlines_path("drive", looked.outlines["drive"], 2),
        "coast": flanks.outlines_path("coast", looked.outlines["coast"], 2),
        "depth": words[0],
        "ring": words[1],
        "backlash": _opened(looked, display),
        "facts": looked.facts(),
    }


def _opened(looked: Looked, display: Display) -> str:
    lash = display.show(abs(looked.opened))
    return "as set" if not lash.strip("0.") else f"{'+' if looked.opened > 0 else '−'}{lash}"


def _print_in_hand(axle: JobAxle) -> Print | None:
    return next(
        (
            p
            for p in axle.state.prints
            if p.assembly == axle.state.assembly and p.number == axle.print_number
        ),
        None,
    )


def _wanted_place(axle: JobAxle, now: Print | None) -> int:
    return next((at for at in range(1, axle.making.places + 1) if _wanted(now, at)), 1)


def _wanted(now: Print | None, place: int) -> str:
    """The flank that is still to be marked at a place."""
    flanks_now = now.flanks if now else {}
    return next(
        (n for n in ("drive", "coast") if n not in flanks_now or place not in flanks_now[n].marks), ""
    )


def _start(says: PrintSays | None) -> tuple[float, float]:
    """Where the sliders start: where the print puts the axle."""
    if says is None or says.placed is None or not says.placed.plausible:
        return 0.0, 0.0
    return says.placed.depth, says.placed.ring if says.placed.tells_ring else 0.0


_USUAL_WORDS = ("central", "central", "usual")


def _flank(
    axle: JobAxle, name: str, view: str, place: int, mapped: PrintMap | None, computed: Any
) -> dict[str, Any]:
    row = mark_row(axle, name, place)
    mark = mark_from(row) if row else None
    stale = axle.standings[StationName.PATTERN].status is Status.STALE
    said = mark.patches[0].quick_words if mark is not None and mark.by is By.QUICK else None
    words = [f"{axle.spec.layout.flank_side(name).value} flank"]
    if row is not None:
        words.append(row.get_taken_display())
        words += [", ".join(said)] if said else []
        words += [f"tooth {row.tooth}"] if row.tooth else []
        words += [f"place {place}"] if axle.making.places > 1 else []
        words += ["hard edge"] if row.edge == Edge.HARD.value else []
        words += [row.strength] if row.strength != Strength.CLEAR.value else []
    shown = flanks.Shown(
        computed=computed if view == "compare" else (),
        target=_target_outlines(axle, name, mapped, view),
        ghosts=_ghosts(axle, name),
        words=" · ".join(words),
        stale=stale,
        handles=view == "draw",
    )
    return {
        "flank": name,
        "mark": mark,
        "reach": _percent(mark),
        "said": dict(
            zip(("height", "length", "size"), said or ("central", "central", "usual"), strict=True)
        ),
        "drawing": flanks.flank(name, mark, shown),
        "entry": str(uuid.uuid4()),
    }


def is_whole(axle: JobAxle) -> bool:
    """Whether the print in hand is marked on both flanks at every place."""
    now = _print_in_hand(axle)
    return not any(_wanted(now, place) for place in range(1, axle.making.places + 1))


def mark_row(axle: JobAxle, flank: str, place: int) -> Pattern | None:
    """The newest row of a flank at a place of the print in hand."""
    rows = [
        row
        for row in axle.patterns
        if (row.flank, row.place, row.number) == (flank, place, axle.print_number)
        and row.assembly_id == axle.assembly.pk
        and row.taken != Pattern.Taken.AS_FOUND
    ]
    return rows[-1] if rows else None


def _ghosts(axle: JobAxle, name: str) -> list[Any]:
    newest: dict[int, Print] = {}
    for made in sorted(axle.state.prints, key=lambda p: p.order):
        if made.assembly != axle.state.assembly and name in made.flanks:
            newest[made.assembly] = made
    return [patch for made in newest.values() for patch in made.flanks[name].first.patches]


def _target_outlines(axle: JobAxle, name: str, mapped: PrintMap | None, view: str) -> Any:
    target = Prints(axle.state).target
    if view == "target" and name in axle.state.chart:
        return [axle.state.chart[name].outline]
    if target.school is TargetConvention.OLD:
        return [axle.state.found[name].outline]
    if target.school is TargetConvention.CHART:
        return [axle.state.chart[name].outline]
    return mapped.at(0.0, 0.0).outlines[name] if mapped else ()


def _says(axle: JobAxle, says: PrintSays | None) -> dict[str, Any] | None:
    if says is None:
        return None
    placed, display = says.placed, axle.display
    return {
        "pinion": depth_words(placed, display) if placed and placed.plausible else says.says,
        "ring": ring_words(placed, axle.state, says.backlash, display) if placed else "",
        "finding": says.findings[0] if says.findings else "",
        "schools": school_lines(axle.state, says, display),
        "disputed": says.disputed,
        "wander": wander_words(says.wander, axle.spec.gears.ratio) if says.wander else "",
        "wanders": bool(says.wander and says.wander.blames is not Blamed.NOTHING),
        "doubts": axle.making.doubts,
        "count": says.count,
        "stale": says.stale,
        "assembly": says.assembly,
    }


def _sliders(mapped: PrintMap, display: Display, depth: float, ring: float) -> dict[str, Any]:
    reach, step = _REACH["thou" if display.length is THOU else "mm"]
    words, effects = place_words(depth, ring, display), mapped.effects(display)
    ends = {"depth": ("shallow", "deep"), "ring": ("near", "away")}
    rows = [
        {
            "name": name,
            "title": title,
            "value": display.show(value).replace("−", "-"),
            "shown": shown,
            "reach": reach,
            "step": step,
            "low": ends[name][0],
            "high": ends[name][1],
            "effect": effects[name],
        }
        for name, title, value, shown in (
            ("depth", "Pinion depth", depth, words[0]),
            ("ring", "Ring gear", ring, words[1]),
        )
    ]
    return {
        "rows": rows,
        "unit": display.length.symbol,
        "lash": _opened(mapped.at(depth, ring), display),
        "facts": mapped.at(depth, ring).facts(),
    }


def _places(axle: JobAxle, now: Print | None, at: int) -> list[dict[str, Any]]:
    return [
        {"place": place, "done": not _wanted(now, place), "current": place == at}
        for place in range(1, axle.making.places + 1)
    ]


def _tooth(axle: JobAxle, place: int) -> int | str:
    rows = [row for row in (mark_row(axle, name, place) for name in ("drive", "coast")) if row]
    return next((row.tooth for row in rows if row.tooth), "")


def _made(axle: JobAxle) -> dict[str, Any]:
    making, stored = axle.making, bool(axle.prints_made)
    return {
        "stored": stored,
        "compounds": [c.value for c in Compound],
        "compound": making.compound.value,
        "loads": LOADS,
        "load": making.load,
        "directions": DIRECTIONS,
        "direction": making.direction,
        # How a print was made is said by who made it; the next one is most likely made the same way.
        "turns": f"{making.turns:g}" if stored else "",
        "teeth": making.teeth if stored else "",
        "places": making.places if stored else "",
        "doubts": making.doubts,
        "words": making.words,
    }


def _targets(axle: JobAxle) -> dict[str, Any]:
    prints = Prints(axle.state)
    now: Target = prints.target
    rows = [
        {
            "value": school.value,
            "title": TITLES[school],
            "words": WORDS[school],
            "offered": school in prints.targets,
            "current": school is now.school,
        }
        for school in TargetConvention
    ]
    return {"rows": rows, "chart": sorted(axle.spec.chart)}


def _percent(mark: FlankMark | None) -> dict[str, str]:
    """How far a patch reaches, as the four numbers a builder types."""
    if mark is None:
        return {}
    return dict(zip(("toe", "heel", "root", "top"), mark.percent, strict=True))
