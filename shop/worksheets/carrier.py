"""What the carrier's page shows: its school, a planned move, the ratio, the book of adjusters, heat."""

from __future__ import annotations

import uuid
from collections.abc import Mapping
from decimal import Decimal
from typing import Any

from axle.carrier.adjuster_log import DONE_WORDS, AdjusterEvent
from axle.carrier.heat import Case
from axle.decision.carrier.lock_holes import locks_around
from axle.decision.carrier.plan import plan_sides
from axle.decision.carrier.school_chances import school_chances
from axle.errors import AxleError
from axle.layout import Housing, Place
from axle.measure.parse import parse, parse_warming
from axle.measure.units import Display, brief, show
from axle.procedure.choices import choices
from axle.stations.backlash import learned_ratios, own_moves
from axle.stations.thermal import Assumed, hot_hint, usual_lengths
from shop.bench.panels.carrier import shown
from shop.drawing.carrier import carrier_method
from shop.jobs.actions.carrier import WantedSides, planned
from shop.jobs.adjuster_log import adjuster_log
from shop.jobs.formatting import expected_rows, side_title, swap_rows
from shop.jobs.job_axle import JobAxle

_CAPS = (AdjusterEvent.LOOSE, AdjusterEvent.NIPPED, AdjusterEvent.TORQUED)
# What may be asked of a move, in words, and the most that can be meant [mm].
_WANTS = (
    ("backlash", "backlash wanted", Decimal("0.8")),
    ("interference", "interference wanted", Decimal("0.7")),
    ("deeper", "pinion deeper by", Decimal(1)),
)
# Warming is typed in kelvin, lengths in millimetres: the hint is no reading.
_HEAT = (
    ("side_span", "between the carrier's cups, mm"),
    ("pinion_span", "between the pinion's cups, mm"),
    ("mounting", "axis to pinion seat, mm"),
    ("housing_rise", "housing warmer by, °C or °F"),
    ("gears_above", "gears over the housing, °C or °F"),
)


def carrier(axle: JobAxle, query: Mapping[str, str]) -> dict[str, Any]:
    """Everything of the carrier on one page."""
    facts = axle.plan.facts
    usual = axle.job.shop.schools.get(axle.spec.layout.carrier_by.value, "")
    schools = choices()["school"].values
    return {
        "schools": [value for value in schools.values() if value.possible(facts)],
        "school": schools[facts["school"]],
        "usual": schools.get(usual),
        "reason": axle.job.reasons.get("school", ""),
        "school_chances": chances_of_schools(axle),
        "plan": plan(axle, query),
        "ratio": ratio(axle),
        "book": _book(axle),
        "heat": heat(axle, query),
        "picture": carrier_method("none", "Carrier", shown(axle)),
    }


def chances_of_schools(axle: JobAxle) -> list[dict[str, Any]]:
    """What each school can reach on this sheet's range; alone too where the housing allows it."""
    facts, layout = axle.plan.facts, axle.spec.layout
    if "carrier_preload" in axle.state.not_part:
        return []
    values = choices()["school"].values
    names = [name for name, value in values.items() if value.possible(facts)]
    if layout.housing is not Housing.INTEGRAL:
        names += [name for name in ("alone", "subtraction") if name not in names]
    told = school_chances(axle.state, axle.display, tuple(names))
    return [
        {"title": values[one.school].title, "told": one, "is_chosen": one.school == facts["school"]}
        for one in told
    ]


def wanted_from(given: Mapping[str, str], display: Display) -> WantedSides:
    """What was asked for: each left out stays as it is.

    :raises AxleError: naming the field that cannot be used.
    """
    found: dict[str, float] = {}
    for name, words, most in _WANTS:
        text = given.get(name, "").strip()
        if not text:
            continue
        typed = parse(text, display.length, words)
        if abs(typed.core) > most:
            top = f"{brief(most, display.length)} {display.length.symbol} at the most"
            raise AxleError(
                words,
                given=f"“{typed.text}”",
                wanted=top,
                do="Thousandths or millimetres? Check the unit.",
            )
        found[name] = float(typed.core)
    return WantedSides(**found)


def plan(axle: JobAxle, query: Mapping[str, str]) -> dict[str, Any]:
    """A move planned by hand, or the next move's own where nothing is asked."""
    asked = {name: query.get(name, "") for name in ("backlash", "interference", "deeper")}
    shown: dict[str, Any] = {"asked": asked, "move": None, "error": "", "rows": (), "locks": ()}
    if not any(asked.values()):
        return shown
    try:
        wanted = wanted_from(query, axle.display)
        move = planned(axle, wanted)
        if move is None:
            shown["error"] = (
                "Nothing is known of either side yet: fit packs and read play or backlash, or use thin "
                "spacers or gaps."
            )
            return shown
        shown |= {
            "move": move,
            "rows": swap_rows(axle, move),
            "expected": expected_rows(axle, move),
            "changes": any(swap.change for swap in move.swaps),
        }
        if axle.spec.layout.has_adjusters:
            shown["locks"] = _locks(axle, wanted)
    except AxleError as problem:
        shown["error"] = str(problem)
    return shown


def _locks(axle: JobAxle, wanted: WantedSides) -> list[dict[str, Any]]:
    sides = plan_sides(
        axle.state,
        axle.display,
        backlash=wanted.backlash,
        interference=wanted.interference,
        deeper=wanted.deeper,
        hold=wanted.backlash is None,
    )
    if sides is None:
        return []
    return [
        {
            "ring": f"{row.ring:g}",
            "far": f"{row.far:g}",
            "smallest": axle.display.show(row.smallest) if row.smallest is not None else "—",
            "load": axle.display.show(row.interference),
            "good": row.in_range,
        }
        for row in locks_around(axle.state, sides)
    ]


def ratio(axle: JobAxle) -> dict[str, Any]:
    """The ratio with the moves of this job it was learned from."""
    state, display = axle.state, axle.display
    learned = learned_ratios(state)
    ratios = learned.ratios
    rows = []
    for move in own_moves(state):
        said = ratios.opened_by(move.seen)
        rows.append(
            {
                "sides": _change(axle, move.before, move.after),
                "deeper": show(move.seen.deeper, display.length, sign=True) if move.seen.deeper else "",
                "opened": show(move.seen.opened, display.length, sign=True),
                "said": show(said, display.length, sign=True),
                "places": move.places,
                "odd": move.seen in learned.odd,
            }
        )
    return {
        "rows": rows,
        "per_ring": ratios.per_ring,
        "u": ratios.ring_std,
        "share": ratios.share,
        "share_u": ratios.share_spread,
        "per_depth": f"{abs(ratios.per_depth):.2f}",
        "moves": ratios.moves,
    }


def _change(axle: JobAxle, before: Mapping[Place, Decimal], after: Mapping[Place, Decimal]) -> str:
    words = []
    for place, name in ((Place.RING, "ring"), (Place.FAR, "far")):
        change = after.get(place, Decimal(0)) - before.get(place, Decimal(0))
        if change:
            shown = (
                f"{change.normalize():+f} h"
                if axle.spec.layout.has_adjusters
                else show(change, axle.display.length, sign=True)
            )
            words.append(f"{name} {shown}")
    return ", ".join(words).replace("-", "−") or "neither side"


def _book(axle: JobAxle) -> dict[str, Any]:
    """The book of adjusters and caps, the newest line first."""
    now = adjuster_log(axle.job)
    has = axle.spec.layout.has_adjusters
    return {
        "now": now,
        "has_adjusters": has,
        "lines": [
            {
                "words": DONE_WORDS[AdjusterEvent(row.done)],
                "ring": row.ring,
                "far": row.far,
                "note": row.words,
                "by": row.signed_by,
                "at": row.at,
            }
            for row in axle.job.carrier_lines.order_by("-id")[:8]
        ],
        "caps": [(done.value, DONE_WORDS[done]) for done in _CAPS],
        "back": f"{now.way_back:g}",
        "entries": [str(uuid.uuid4()) for _ in range(4)],
        "bolt_unit": axle.display.bolt_torque.symbol,
        "positions": [
            {"title": side_title(axle, place), "holes": axle.state.settings.get(place)}
            for place in (Place.RING, Place.FAR)
        ],
    }


def heat(axle: JobAxle, query: Mapping[str, str]) -> dict[str, Any]:
    """The hint of heat, with everything that it assumes open to be changed."""
    case = Case(axle.plan.facts["case"])
    usual = usual_lengths(axle.state)
    fields = [
        {"name": name, "title": title, "value": query.get(name) or f"{getattr(usual, name):g}"}
        for name, title in _HEAT
    ]
    shown: dict[str, Any] = {
        "fields": fields,
        "case": choices()["case"].values[case.value].title,
        "error": "",
    }
    try:
        assumed = Assumed(**{row["name"]: _figure(row) for row in fields})
        shown["lines"] = hot_hint(axle.state, case, assumed, axle.display).lines
    except AxleError as problem:
        shown["error"], shown["lines"] = str(problem), ()
    return shown


_WARMINGS = ("housing_rise", "gears_above")


def _figure(row: Mapping[str, str]) -> float:
    """A length in mm, or by how much something warms."""
    if row["name"] in _WARMINGS:
        return parse_warming(row["value"], row["title"])
    return _number(row["title"], row["value"])


def _number(what: str, text: str) -> float:
    try:
        return float(text)
    except ValueError:
        raise AxleError(what, given=f"“{text[:20]}”", wanted="a number") from None
