"""What the pages of the road show, and what their forms say."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Any, Final

from django.utils import timezone

from axle.errors import AxleError, quoted
from axle.measure.figures import ANGLE, DISTANCE, LENGTH, MINUTES, SPEED, TEMPERATURE, VOLUME, read_figure
from axle.road.break_in import MOST_LEGS, USUAL_A_DAY, Leg, usual_legs
from axle.road.lines import (
    FILLED_BY,
    OUTCOME_WORDS,
    Became,
    Filled,
    Heard,
    Outcome,
    Planned,
    RoadNote,
    RoadStanding,
    Ticked,
    Warm,
)
from axle.road.listen import SOUND_WORDS, Sound, listen_points
from axle.road.oil import filled_to_hole, oil_wanted, usual_volume
from axle.road.temperatures import THERMOMETER_WORDS, Warmth, places
from shop.drawing.break_in_line import break_in_line
from shop.drawing.heat_chart import heat_chart
from shop.drawing.oil_level import oil_level
from shop.jobs import noted_lines
from shop.jobs.job_axle import JobAxle
from shop.people.request import day_in, one_of, whole_number

# A row of the break-in's form stays empty where it is not wanted.
_LEG_ROWS: Final = 7
_WARMTH_SIGNS: Final = {
    Warmth.USUAL: "good",
    Warmth.WATCH: "wrong",
    Warmth.STOP: "wrong",
    Warmth.NOT_READ: "",
}


def road_test(axle: JobAxle, query: Mapping[str, str]) -> dict[str, Any]:
    """Points to listen at, temperatures, what became of the complaint."""
    del query
    stands = noted_lines.road_of(axle.job)
    metric = axle.display.is_metric
    return {
        "stands": stands,
        "points": [
            {
                "name": name,
                "point": point,
                "sounds": [(sound.value, SOUND_WORDS[sound]) for sound in point.sounds],
                "heard": stands.heard.get(name),
                "heard_words": SOUND_WORDS[Sound(stands.heard[name].line.sound)]
                if name in stands.heard
                else "",
            }
            for name, point in listen_points().items()
        ],
        "drives": [
            {
                "number": number,
                "heat": heat,
                "sign": _WARMTH_SIGNS[heat.warmth],
                "drawing": heat_chart(heat, metric=metric) if heat.curves else None,
            }
            for number, heat in reversed(list(stands.drives.items()))
        ],
        "drive": max(stands.drives, default=1),
        "places": [(name, place.title) for name, place in places().items()],
        "methods": [(method.value, words) for method, words in THERMOMETER_WORDS.items()],
        "degree": "°C" if metric else "°F",
        "speed_unit": "km/h" if metric else "mph",
        "outcomes": [(outcome.value, words) for outcome, words in OUTCOME_WORDS.items()],
        "outcome_words": OUTCOME_WORDS[Outcome(stands.outcome.outcome)] if stands.outcome else "",
        "complaint": axle.job.complaint,
        "noise": axle.job.arrival.get("noise", ""),
        "lines": _lines(axle),
    }


def _lines(axle: JobAxle) -> list[dict[str, Any]]:
    """Temperatures that stand, newest first, each of which may be struck."""
    rows = noted_lines.standing_rows(
        axle.job.road_lines.filter(kind__in=("temperature", "struck")).order_by("id")
    )
    return [
        {"row": row, "place": places()[row.values["place"]].short, "minute": row.values["minute"]}
        for row in reversed(rows)
    ]


def heard_from(given: Mapping[str, str], *, metric: bool) -> list[RoadNote]:
    """What was heard at one point."""
    sound = one_of(Sound, given.get("sound"), "sound")
    speed = given.get("speed", "").strip()
    if speed:
        speed = SPEED.show(read_figure(speed, SPEED, "speed", "km/h" if metric else "mph"), metric=metric)
    return [Heard(given.get("point", ""), sound.value, speed, given.get("words", "").strip()[:200])]


def temperatures_from(given: Mapping[str, str], *, metric: bool) -> list[RoadNote]:
    """Temperatures of several places at one minute."""
    minute = read_figure(given.get("minute", ""), MINUTES, "minutes of driving")
    drive = whole_number(given.get("drive") or "1", "drive", 1, 20)
    unit = "°C" if metric else "°F"
    found: list[RoadNote] = []
    for name, place in places().items():
        text = given.get(f"t-{name}", "").strip()
        if text:
            celsius = read_figure(text, TEMPERATURE, place.title, unit)
            typed = text if any(sign.isalpha() for sign in text) else f"{text} {unit}"
            found.append(
                Warm(name, minute, typed[:40], round(celsius, 2), given.get("method", "contact"), drive)
            )
    if not found:
        raise AxleError("temperature", given="nothing", wanted="one place or more")
    return found


def became_from(given: Mapping[str, str], *, metric: bool) -> list[RoadNote]:
    """What became of the complaint."""
    del metric
    outcome = one_of(Outcome, given.get("outcome"), "complaint")
    words = given.get("words", "").strip()[:200]
    if outcome is not Outcome.GONE and len(words) < 4:
        raise AxleError("complaint", given=quoted(words), wanted="what is heard now, in a few words")
    return [Became(outcome.value, words)]


def oil(axle: JobAxle, query: Mapping[str, str]) -> dict[str, Any]:
    """Which oil, how much of it, and what went in."""
    facts, gears = axle.plan.facts, axle.spec.gears
    stands = noted_lines.road_of(axle.job)
    wanted = oil_wanted(facts["use"], facts["differential"])
    metric = axle.display.is_metric
    asked = {name: query.get(name, "") for name in ("nominal", "hole", "up", "behind")}
    level, error = _level(asked, gears.ring_diameter, metric=metric) if asked["nominal"] else (None, "")
    return {
        "stands": stands,
        "oil_wanted": wanted,
        "volume": " to ".join(
            VOLUME.show(litres, metric=metric) for litres in usual_volume(gears.ring_diameter)
        ),
        "asked": asked,
        "level": level,
        "level_drawing": oil_level(level) if level else None,
        "level_litres": VOLUME.both(level.litres, metric=metric) if level else "",
        "level_error": error,
        "fillers": FILLED_BY.items(),
        "volume_unit": "l" if metric else "qt",
        "length_unit": "mm" if metric else "in",
    }


def _level(asked: Mapping[str, str], diameter: float, *, metric: bool) -> tuple[Any, str]:
    """The oil at the housing's angle, or why it cannot be said."""
    try:
        nominal = read_figure(asked["nominal"], VOLUME, "oil by the sheet", "l" if metric else "qt")
        hole = read_figure(asked["hole"] or "0", LENGTH, "hole under the centre", "mm" if metric else "in")
        up = read_figure(asked["up"] or "0", ANGLE, "pinion up")
        behind = asked["behind"] != "before"
        return filled_to_hole(nominal, diameter, hole, math.radians(up), behind=behind), ""
    except AxleError as problem:
        return None, str(problem)


def filled_from(given: Mapping[str, str], *, metric: bool) -> list[RoadNote]:
    """The oil that went in."""
    grade = " ".join(given.get("grade", "").split())
    if len(grade) < 2:
        raise AxleError("oil", given=quoted(grade), wanted="its class and viscosity, as GL-5 75W-90")
    volume = given.get("volume", "").strip()
    litres = read_figure(volume, VOLUME, "volume", "l" if metric else "qt") if volume else None
    return [
        Filled(
            grade[:120],
            given.get("additive", "").strip()[:120],
            VOLUME.show(litres, metric=metric) if litres is not None else "",
            litres,
            given.get("by", "shop"),
            given.get("change", "").strip()[:200],
        )
    ]


def break_in(axle: JobAxle, query: Mapping[str, str], typed: Mapping[str, str]) -> dict[str, Any]:
    """The legs, where they stand, and the form that hands them over."""
    stands = noted_lines.road_of(axle.job)
    legs = usual_legs(axle.plan.facts["use"])
    kept = stands.planned.legs if stands.planned and "usual" not in query else legs
    return {
        "stands": stands,
        "drawing": break_in_line(stands.break_in) if stands.break_in else None,
        "following": stands.break_in.next if stands.break_in else None,
        "rows": [
            _typed_row(number, typed) if typed else _leg_row(number, kept, metric=axle.display.is_metric)
            for number in range(1, _LEG_ROWS + 1)
        ],
        "a_day": DISTANCE.number(
            stands.planned.a_day if stands.planned else USUAL_A_DAY, metric=axle.display.is_metric
        ),
        "source": stands.planned.source if stands.planned else "common practice, no source",
        "start": stands.planned.start if stands.planned else timezone.localdate(),
        "today": timezone.localdate(),
        "distance_unit": "km" if axle.display.is_metric else "miles",
        "shown_legs": leg_rows(stands, metric=axle.display.is_metric),
        "open": stands.planned is None or typed or "change" in query or "usual" in query,
    }


def _typed_row(number: int, typed: Mapping[str, str]) -> dict[str, Any]:
    """A row of the form as it was sent and refused."""
    names = ("title", "load", "day", "minutes", "distance", "cool")
    row: dict[str, Any] = {name: typed.get(f"{name}-{number}", "") for name in names}
    return row | {"number": number, "check": typed.get(f"check-{number}") == "on"}


def _leg_row(number: int, legs: Any, *, metric: bool) -> dict[str, Any]:
    leg = legs[number - 1] if number <= len(legs) else None
    return {
        "number": number,
        "title": leg.title if leg else "",
        "load": leg.load if leg else "",
        "day": leg.day if leg else "",
        "minutes": f"{leg.minutes:g}" if leg and leg.minutes else "",
        "distance": DISTANCE.number(leg.km, metric=metric) if leg and leg.km else "",
        "cool": f"{leg.cool:g}" if leg and leg.cool else "",
        "check": bool(leg and leg.check),
    }


def leg_rows(stands: RoadStanding, *, metric: bool) -> list[dict[str, Any]]:
    """The legs as a page or a leaflet says them."""
    if stands.break_in is None:
        return []
    following = stands.break_in.next
    return [
        {
            "leg": leg,
            "much": _much(leg.leg, metric=metric),
            "cool": MINUTES.show(leg.leg.cool) if leg.leg.cool else "",
            "next": leg is following,
        }
        for leg in stands.break_in.legs
    ]


def _much(leg: Leg, *, metric: bool) -> str:
    said = [f"{leg.minutes:g} minutes"] if leg.minutes else []
    if leg.km:
        said.append(DISTANCE.show(leg.km, metric=metric))
    return ", ".join(said) or "in the shop"


def planned_from(given: Mapping[str, str], *, metric: bool) -> list[RoadNote]:
    """The break-in as it is handed over."""
    unit = "km" if metric else "miles"
    legs = []
    for number in range(1, min(_LEG_ROWS, MOST_LEGS) + 1):
        title = " ".join(given.get(f"title-{number}", "").split())
        if not title:
            continue
        where = f"leg {number}"
        minutes, km, cool = (
            given.get(f"{name}-{number}", "").strip() for name in ("minutes", "distance", "cool")
        )
        legs.append(
            Leg(
                title[:60],
                given.get(f"load-{number}", "").strip()[:200],
                whole_number(given.get(f"day-{number}") or "0", f"{where}, day", 0, 400),
                read_figure(minutes, MINUTES, f"{where}, minutes") if minutes else 0.0,
                read_figure(km, DISTANCE, f"{where}, distance", unit) if km else 0.0,
                read_figure(cool, MINUTES, f"{where}, cool down") if cool else 0.0,
                given.get(f"check-{number}") == "on",
            )
        )
    if not legs:
        raise AxleError("break-in", given="no leg", wanted="one leg or more, each with a title")
    a_day = read_figure(given.get("a_day", ""), DISTANCE, "driven a day", unit)
    source = given.get("source", "").strip()[:200]
    return [Planned(legs, day_in(given.get("start"), "day of the hand-over"), a_day, source)]


def ticked_from(given: Mapping[str, str], *, metric: bool) -> list[RoadNote]:
    """A leg that was driven, or a check that was made."""
    del metric
    day = day_in(given.get("day") or str(timezone.localdate()), "day")
    if day > timezone.localdate():
        raise AxleError("day", given=f"{day}", wanted="today or before: a leg is ticked once it is driven")
    leg = whole_number(given.get("leg"), "leg", 1, MOST_LEGS)
    return [Ticked(leg, day, given.get("who", "").strip()[:120], given.get("words", "").strip()[:200])]


def leaflet(axle: JobAxle) -> dict[str, Any]:
    """What the customer takes along: break-in, oil, temperatures, cautions."""
    stands = noted_lines.road_of(axle.job)
    facts, gears = axle.plan.facts, axle.spec.gears
    metric = axle.display.is_metric
    return {
        "job": axle.job,
        "stands": stands,
        "legs": leg_rows(stands, metric=metric),
        "drawing": break_in_line(stands.break_in) if stands.break_in else None,
        "teeth": f"{gears.ring_teeth}/{gears.pinion_teeth}",
        "ratio": f"{gears.ratio:.2f}",
        "oil": stands.oil,
        "oil_wanted": oil_wanted(facts["use"], facts["differential"]),
        "outcome": OUTCOME_WORDS[Outcome(stands.outcome.outcome)] if stands.outcome else "",
        "today": timezone.localdate(),
    }
