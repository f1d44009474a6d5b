"""What the page of recordings shows: each with what it says, before beside after, and its form."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, Final

from axle.errors import AxleError
from axle.gearing.vehicle import End, vehicle_from
from axle.measure.figures import SPEED
from axle.measure.units import percent
from axle.noise.compare import compared, driven_alike
from axle.noise.hearing import RECORDERS
from axle.noise.lines import PHASES, KeptVerdict, Recorded, read_noise_line
from axle.noise.recording import TONES, Given, Result, titles
from axle.noise.told import bearing_titles
from axle.noise.verdict import heard_causes
from shop.drawing.odds import Bar, odds_bars
from shop.drawing.order_marks import order_marks
from shop.drawing.order_spectrum import OrderLine, order_spectrum
from shop.drawing.section import Callout, section
from shop.jobs import noted_lines
from shop.jobs.actions import recordings
from shop.jobs.job_axle import JobAxle
from shop.jobs.models import NoiseLine, SoundFile, SoundWork
from shop.noise.recording_form import SPEED_WORDS, typed_of

# Where a cause stands on the drawing of the axle; what is not in the axle stands beside it.
_PLACES: Final = {
    "gear_drive": "backlash",
    "gear_coast": "backlash",
    "gear_tooth": "runout",
    "pinion_bearing": "pinion_preload",
    "carrier_bearing": "carrier_preload",
}
_LEAST_DRAWN: Final = 0.03
_LEVEL_WORDS: Final = {
    "mesh drive": "gear mesh, drive",
    "mesh coast": "gear mesh, coast",
    "mesh float": "gear mesh, float",
    "mesh all": "gear mesh, whole",
    "tread": "strongest other line",
    "blows": "blows, over chance",
    "joints": "joints of the driveshaft",
    "shaft": "driveshaft",
    "engine": "engine",
}
# What the complaint is answered by, after the work.
_ANSWERS: Final = ("gear mesh, drive", "gear mesh, coast", "gear mesh, whole", "blows, over chance")


def recordings_page(axle: JobAxle, query: Mapping[str, str], phase: str) -> dict[str, Any]:
    """Everything on the page.

    :param phase: "arrival" or "road".
    """
    rows = noted_lines.standing_rows(axle.job.noise_lines.order_by("id"))
    lines = [(row, read_noise_line(row.kind, row.values)) for row in rows]
    mine = [(row, line) for row, line in lines if isinstance(line, Recorded) and line.phase == phase]
    kept = {line.recording: line for _, line in lines if isinstance(line, KeptVerdict)}
    asked = query.get("recording", "")
    shown = next(((r, x) for r, x in mine if str(r.pk) == asked), mine[-1] if mine else None)
    work = _work(shown[0]) if shown else None
    before = _before(lines) if phase == "road" else None
    given = recordings.given_of(work) if work else None
    result, unread = _result(work)
    return {
        "phase": phase,
        "phase_words": PHASES[phase],
        "recordings": [
            {
                "row": row,
                "line": line,
                "shown": bool(shown and row.pk == shown[0].pk),
                "kept": kept.get(str(row.entry)),
            }
            for row, line in mine
        ],
        "shown": shown[0] if shown else None,
        "line": shown[1] if shown else None,
        "has_file": bool(shown and SoundFile.objects.filter(line=shown[0]).exists()),
        "work": work,
        "says": _says(axle, result, given, before) if given and result else None,
        "unread": unread,
        "kept_alone": _alone(kept.get(str(shown[0].entry))) if shown and work is None else None,
        "form": typed_of(given, axle) if given else _usual(axle, phase),
        "recorders": {name: one.title for name, one in RECORDERS.items()},
        "speed_kinds": SPEED_WORDS,
        "tones": TONES,
        "speed_unit": "km/h" if axle.display.is_metric else "mph",
        "bearings": bearing_titles(),
        "was": _was(list(kept.values())) if phase == "road" else "",
        "is_kept": bool(shown and str(shown[0].entry) in kept),
    }


def _result(work: SoundWork | None) -> tuple[Result | None, str]:
    """What a recording said, or why it cannot be read here."""
    if work is None or not work.result:
        return None, ""
    try:
        return recordings.result_of(work), ""
    except AxleError as problem:
        return None, str(problem)


def _alone(line: KeptVerdict | None) -> dict[str, Any] | None:
    """A kept verdict whose sound is elsewhere."""
    if line is None:
        return None
    return {"chance": percent(line.chance), "title": line.title, "reasons": line.reasons}


def _was(kept: list[KeptVerdict]) -> str:
    """What the recording before was taken for, once somebody kept that."""
    before = [line for line in kept if line.phase == "arrival"]
    return f"{before[-1].title}, {percent(before[-1].chance)}" if before else ""


def _work(row: NoiseLine) -> SoundWork | None:
    found: SoundWork | None = row.works.order_by("-id").first()
    return found


def _usual(axle: JobAxle, phase: str) -> dict[str, Any]:
    """The form before anything is told: the tyre of the job's vehicle, the teeth that are in there."""
    around = ""
    if axle.job.vehicle is not None:
        tyre = vehicle_from(axle.job.vehicle.figures).after.get(End(axle.job.vehicle_end))
        around = f"{tyre.circumference.value:.0f} mm" if tyre is not None else ""
    settled = noted_lines.ratio_of(axle.job).settled if phase == "arrival" else None
    gears = axle.state.gears
    teeth = settled.teeth if settled is not None else f"{gears.ring_teeth}/{gears.pinion_teeth}"
    return {"recorder": "phone", "speed_kind": "marks", "around": around, "teeth": teeth}


def _before(lines: list[tuple[NoiseLine, Any]]) -> tuple[Result, NoiseLine] | None:
    """What the newest recording before the work said, that was listened to."""
    for row, line in reversed(lines):
        if isinstance(line, Recorded) and line.phase == "arrival":
            work = _work(row)
            result, _ = _result(work)
            if result is not None and result.absolute:
                return result, row
    return None


def _says(
    axle: JobAxle, result: Result, given: Given, before: tuple[Result, NoiseLine] | None
) -> dict[str, Any]:
    first = result.outcomes[0] if result.outcomes else None
    marks = order_marks(given)
    lines = [OrderLine(x.orders, x.levels, words, style) for x, words, style in _tones(result, before)]
    blows = [OrderLine(result.blows.orders, result.blows.levels, "envelope: blows")]
    metric = axle.display.is_metric
    return {
        "result": result,
        "first": first,
        "chance": percent(first.chance) if first else "",
        "cures": titles(first.names) if first else [],
        "odds": odds_bars(
            [
                Bar(one.title, one.chance, all(heard_causes()[name].axle for name in one.names))
                for one in result.outcomes[:6]
            ]
        )
        if first
        else None,
        "would": [one.would for one in result.outcomes[:2] if one.would],
        "drawing": _on_the_axle(axle, result),
        "spectrum": order_spectrum(lines, marks["tones"], unheard=result.heard_from * result.scale),
        "blows": order_spectrum(blows, marks["blows"], most=60.0) if result.blows.orders else None,
        "parts": [(title, percent(share)) for title, share in result.parts],
        "speed": SPEED.show(result.speed * 3.6, metric=metric),
        "slowest": SPEED.show(result.map.slowest * given.circumference * 3.6 / result.scale, metric=metric),
        "fastest": SPEED.show(result.map.fastest * given.circumference * 3.6 / result.scale, metric=metric),
        "scale": f"{(1 / result.scale - 1) * 100:+.1f} %".replace("-", "−"),
        "table": (table := _table(result, before[0] if before else None)),
        "apart": _apart(result, before[0] if before else None, metric=metric),
        "became": [row for row in table if row["change"] and row["words"] in _ANSWERS],
    }


def _apart(result: Result, before: Result | None, *, metric: bool) -> str:
    """A caution where before and now were not driven alike."""
    if before is None:
        return ""
    speeds = [SPEED.show(one.speed * 3.6, metric=metric) for one in (before, result)]
    words = []
    if not driven_alike(result, before):
        words.append(f"Before at {speeds[0]}, now at {speeds[1]}: drive both at one speed to compare them.")
    other = {state for state in before.tones if state != "all"} ^ {s for s in result.tones if s != "all"}
    if other:
        words.append(f"Not on both: {', '.join(sorted(other))}. Levels are compared at equal load alone.")
    return " ".join(words)


def _tones(result: Result, before: tuple[Result, NoiseLine] | None) -> list[tuple[Any, str, str]]:
    found = [(before[0].tones["all"], "before", "expected")] if before else []
    words = "now" if before else "the whole recording"
    return [*found, (result.tones["all"], words, "tick")]


def _on_the_axle(axle: JobAxle, result: Result) -> Any:
    """The axle with each cause at its place; what is likely is drawn as out."""
    drawn: dict[str, tuple[str, float]] = {}
    for one in result.outcomes:
        for name in one.names:
            place = _PLACES.get(name)
            if place is not None and one.chance >= _LEAST_DRAWN:
                title, chance = drawn.get(place, ("", 0.0))
                drawn[place] = (title or _short(name), max(chance, one.chance))
    callouts = tuple(
        Callout(
            place,
            title,
            percent(chance),
            "",
            status="out" if chance >= 0.5 else "begun",
            link="#says",
        )
        for place, (title, chance) in drawn.items()
    )
    return section(axle.spec.layout, callouts)


def _short(name: str) -> str:
    return {
        "gear_drive": "Gears",
        "gear_coast": "Gears",
        "gear_tooth": "Tooth",
        "pinion_bearing": "Pinion bearing",
        "carrier_bearing": "Carrier bearing",
    }[name]


def _table(result: Result, before: Result | None) -> list[dict[str, str]]:
    """Levels, and where there is a before, what became of them."""
    return [
        {
            "words": _LEVEL_WORDS[one.name],
            "before": _level(one.before) if before else "",
            "now": "not recorded" if one.missing else _level(one.now),
            "change": "gone" if one.gone else _level(one.change) if one.change is not None else "",
        }
        for one in compared(result.levels, before.levels if before else {})
        if one.name in _LEVEL_WORDS
    ]


def _level(over: float | None) -> str:
    return "not over the floor" if over is None else f"{over:+.0f} dB".replace("-", "−")
