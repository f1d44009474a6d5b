"""What the bench shows of the carrier: its school as a picture, zero play and load; backlash around."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from axle.backlash.around import once_around, tooth_at
from axle.carrier.torque import window_at_pinion
from axle.decision.move import Act
from axle.layout import Place
from axle.measure.range import Range
from axle.measure.units import Dimension, brief, show
from axle.procedure.choices import choices
from axle.procedure.condition_words import CAPS_WORDS, INDICATOR_WORDS, PUSHED_WORDS, STANCE_WORDS
from axle.procedure.conditions import BacklashConditions
from axle.procedure.conditions_in_words import words_of
from axle.procedure.names import KindName, StationName
from axle.procedure.staleness import stale_because
from axle.procedure.stations import Method, kind_named, stations
from axle.state.reading import Reading
from axle.stations.backlash import (
    backlash_now,
    backlash_readings,
    correct_for_indicator,
    hole_worth,
    learned_ratios,
    ratios_now,
)
from axle.stations.carrier_preload import BY_INTERFERENCE, interference_now, wanted_interference
from axle.stations.carrier_torque import carrier_trials, torque_per_hole
from axle.stations.method import chosen_method, is_present
from axle.stations.preload_plot import carrier_plot_of
from axle.stations.zero_play import sides_are_set, sum_of_sides, zero_play
from shop.bench.panels.curve import curve_panel
from shop.drawing.backlash import LashShown, lash_around
from shop.drawing.carrier import CarrierShown, SideShown, carrier_method
from shop.drawing.svg import Svg
from shop.jobs.actions.opening import BY_TORQUE, gives_interference_alone
from shop.jobs.adjuster_log import adjuster_log
from shop.jobs.formatting import side_title
from shop.jobs.job_axle import JobAxle

_KINDS = (
    "zero_play",
    "carrier_end_play",
    "thin_spacer",
    "spacer_play",
    "spacer_backlash",
    "gap_ring",
    "gap_far",
    "held_backlash",
    "tap_in",
    "adjuster_pull",
    "carrier_torque",
    "total_torque",
    "pinion_torque",
)
_TORQUES = ("subtraction", "alone")
_MOST_ROWS = 6


def method_of(axle: JobAxle, kind: str) -> Method:
    """The method of the carrier's preload that a kind belongs to; the chosen one where several do."""
    chosen = chosen_method(axle.state, StationName.CARRIER_PRELOAD)
    methods = [
        m for m in stations()[StationName.CARRIER_PRELOAD].methods_on(axle.spec.layout) if kind in m.kinds
    ]
    return chosen if not methods or chosen in methods else methods[0]


def carrier_panel(axle: JobAxle, asked: str) -> dict[str, Any]:
    """The school in hand as a picture, what is known of zero play and load, and the trials."""
    state, display = axle.state, axle.display
    method = method_of(axle, asked)
    layout, school = axle.spec.layout, axle.plan.facts["school"]
    zero, now, wanted = zero_play(state), interference_now(state), wanted_interference(state)
    rows = []
    if zero is not None:
        rows.append(
            (
                "Zero play, both sides",
                f"{display.show(zero.thickness)} ± {display.show(zero.uncertainty)}",
                zero.by,
            )
        )
    if sides_are_set(state) and any(state.setting(p) for p in (Place.RING, Place.FAR)):
        rows.append(("In now, both sides", display.show(sum_of_sides(state, state.settings)), ""))
    if now is not None:
        words = "interference" if now[0] >= 0 else "play left"
        rows.append((words.capitalize(), f"{display.show(abs(now[0]))} ± {display.show(now[1])}", ""))
    if wanted is not None and method.name in BY_INTERFERENCE:
        limits = wanted.limits.words(display.length)
        rows.append(("Wanted", limits, wanted.source))
    hole = torque_per_hole(state)
    if hole is not None and method.name in _TORQUES:
        worth = f"{display.show(hole, Dimension.TORQUE)} {display.torque.symbol}"
        rows.append(("One hole more adds", worth, "by this job's trials"))
    return {
        "drawing": _torque_curve(axle)
        if method.name in _TORQUES and carrier_trials(state)
        else carrier_method(method.name, method.title, shown(axle, asked)),
        "school": choices()["school"].values[school],
        "asks_school": _asks_school(axle),
        "reason": axle.job.reasons.get("school", ""),
        "rows": rows,
        "unit": display.length.symbol,
        "trials": _trials(axle) if method.name not in BY_INTERFERENCE else [],
        "window": _window(axle) if method.name == "subtraction" else "",
        "book": adjuster_log(axle.job) if layout.has_adjusters else None,
    }


def _asks_school(axle: JobAxle) -> list[tuple[str, str]]:
    """The schools to choose between where the sheet gives interference and this shop reads torque."""
    usual = axle.job.shop.schools.get(axle.spec.layout.carrier_by.value, "subtraction")
    school = axle.plan.facts["school"]
    answered = axle.job.reasons.get("school") or school in BY_TORQUE
    if answered or usual not in BY_TORQUE or not gives_interference_alone(axle.spec.sheet):
        return []
    titles = choices()["school"].values
    return [(name, titles[name].title) for name in (school, usual)]


def shown(axle: JobAxle, asked: str = "") -> CarrierShown:
    """The carrier as its picture shows it, with what the next move takes it to."""
    state, layout = axle.state, axle.spec.layout
    values = {}
    for kind in _KINDS:
        newest = state.latest(kind)
        values[kind] = _as_shown(axle, newest) if newest and is_present(newest, state) else ""
    sides = {}
    planned = {s.place: s.after for s in axle.move.swaps} if axle.move.act is Act.CHANGE else {}
    for place in (Place.RING, Place.FAR):
        set_here = place in state.settings
        now = _setting(axle, state.setting(place)) if set_here else "—"
        after = planned.get(place)
        to = _setting(axle, after) if after is not None and after != state.setting(place) else ""
        sides[place] = SideShown(side_title(axle, place), now, to)
    return CarrierShown(
        layout.carrier_by,
        layout.ring_side.value == "left",
        ring=sides[Place.RING],
        far=sides[Place.FAR],
        values=values,
        asked=asked,
    )


def _setting(axle: JobAxle, value: Any) -> str:
    if axle.spec.layout.has_adjusters:
        return f"{value:.1f} holes".replace("-", "−")
    return axle.display.show(value)


def _as_shown(axle: JobAxle, taken: Reading) -> str:
    kind = kind_named(taken.kind)
    if kind.grades:
        return kind.grades[int(taken.value) - 1]
    unit = axle.display.unit_for(kind.dimension, bolt=kind.bolt)
    return f"{show(taken.value, unit)} {unit.symbol}"


def _window(axle: JobAxle) -> str:
    limits = axle.spec.sheet.range("carrier_preload")
    if limits is None or not limits.has_top:
        return ""
    wide = window_at_pinion(limits.low, limits.high, axle.spec.gears.ratio)
    return f"{axle.display.show(wide, Dimension.TORQUE)} {axle.display.torque.symbol}"


def _trials(axle: JobAxle) -> list[dict[str, str]]:
    """Readings of the carrier's preload, the newest last, with what was in the axle then."""
    state, display = axle.state, axle.display
    kinds = ("zero_play", "carrier_end_play", "carrier_torque", "total_torque", "tap_in", "adjuster_pull")
    readings = sorted((t for t in state.readings if t.kind in kinds), key=lambda t: t.order)[-_MOST_ROWS:]
    return [
        {
            "where": display.show(sum_of_sides(state, t.settings)),
            "read": _as_shown(axle, t),
            "what": kind_named(t.kind).title,
            "stale": stale_because(StationName.CARRIER_PRELOAD, state.layout, t.settings, state.settings),
        }
        for t in readings
    ]


def _torque_curve(axle: JobAxle) -> Svg | None:
    """Torque against interference by this job's trials, with the range as a band."""
    plot = carrier_plot_of(axle.state, float(axle.display.length.factor))
    if plot is None:
        return None
    unit = axle.display.length
    return curve_panel(
        plot,
        limits=axle.spec.sheet.range("carrier_preload"),
        label=f"interference of both sides, {unit.symbol}; below 0 it is play",
        marks=tuple((x, brief(x, unit)) for x in plot.marks),
        unit=axle.display.torque,
    )


def lash_panel(axle: JobAxle, in_hand: int) -> dict[str, Any]:
    """Backlash around the ring: the picture, what governs, what it says of runout, and the ratio."""
    state, display = axle.state, axle.display
    readings, lash, limits = (
        backlash_readings(state),
        backlash_now(state),
        axle.spec.sheet.backlash_limits(),
    )
    places = {place: correct_for_indicator(state, t)[0] for place, t in readings.items()}
    current = {} if lash is None else dict(lash.around.places)
    doubtful = frozenset(place for place in places if place not in current)
    wave = once_around(lash.around, state.lash_places, ratios_now(state).per_ring) if lash else None
    expected = next(
        (Range(e.low, e.high) for e in axle.move.expected if e.label == "Smallest backlash"), None
    )
    drawing = lash_around(
        LashShown(
            places,
            state.lash_places,
            limits=limits.range if limits else None,
            in_hand=in_hand or None,
            wave=wave,
            doubtful=doubtful,
            expected=expected if axle.move.act is Act.CHANGE else None,
            ring_teeth=axle.spec.gears.ring_teeth,
        ),
        display.length,
    )
    facts = []
    if lash is not None:
        around = lash.around
        rule = "Smallest, it governs" if axle.spec.sheet.backlash_rule.value == "smallest" else "Smallest"
        bounded = limits is not None and limits.variation < float("inf")
        most = f"≤ {brief(limits.variation, display.length)}" if limits and bounded else ""
        tooth = tooth_at(around.tight_place, state.lash_places, axle.spec.gears.ring_teeth)
        facts = [
            (rule, display.show(around.smallest), f"place {around.tight_place}, about tooth {tooth}"),
            ("Largest", display.show(around.largest), ""),
            ("Spread, a runout test", display.show(around.variation), most),
            ("Mean, not judged", display.show(around.mean), "hides a tight spot"),
        ]
    if wave is not None:
        rough = ", roughly" if wave.places < 8 else ""
        facts.append(
            (
                "Once a turn",
                display.show(wave.total),
                f"as a runout of {display.show(wave.runout)} would{rough}",
            )
        )
    return {
        "drawing": drawing,
        "facts": facts,
        "unit": display.length.symbol,
        "limits": limits,
        "ratio": ratio_rows(axle),
        "counts": choices()["lash_places"].values.values(),
        "count": axle.plan.facts["lash_places"],
        "words": sorted({w for t in readings.values() for w in words_of(t.backlash_conditions)}),
    }


def ratio_rows(axle: JobAxle) -> dict[str, Any]:
    """The ratio as it stands, expected or learned, and for an adjuster the hole."""
    state, display = axle.state, axle.display
    learned = learned_ratios(state)
    ratios = learned.ratios
    row = {
        "per_ring": f"{ratios.per_ring:.2f} ± {ratios.ring_std:.2f}",
        "per_depth": f"{abs(ratios.per_depth):.2f}",
        "share": f"{ratios.share:.2f} ± {ratios.share_spread:.2f}",
        "moves": ratios.moves,
        "odd": len(learned.odd),
        "hole": "",
    }
    if axle.spec.layout.has_adjusters:
        each = hole_worth(state)
        row["hole"] = f"{display.show(each.value)} ± {display.show(each.spread)} {display.length.symbol}"
    return row


def lash_conditions(axle: JobAxle, kind: str, kept: Mapping[str, str]) -> dict[str, Any]:
    """How the last backlash was read, which the next one most likely is too."""
    last = axle.state.latest(kind)
    known = last.backlash_conditions if last else BacklashConditions(stance=axle.spec.sheet.stance.value)
    if not claimed_before(axle, kind):
        # What somebody has to see to himself is said for each assembly anew.
        known = replace(known, settled=False, held=False)
    caps = axle.state.settings.get(Place.CAPS)
    if caps is not None:
        known = replace(known, caps="torqued" if caps else "nipped")
    how = kept if "lash" in kept else None
    play = kind == KindName.SPACER_BACKLASH or _has_play(axle)
    now = {
        "caps": how.get("caps", "torqued") if how else known.caps,
        "settled": bool(how.get("settled")) if how else known.settled,
        "held": bool(how.get("held")) if how else known.held,
        "indicator": how.get("indicator", "plunger") if how else known.indicator,
        "stance": how.get("stance", known.stance) if how else known.stance,
        "lean": how.get("lean", "") if how else f"{known.lean:g}" if known.lean else "",
        "radius": how.get("radius", "") if how else axle.display.show(known.radius) if known.radius else "",
        "pushed": how.get("pushed", "") if how else (known.pushed or "away") if play else "",
    }
    said = [CAPS_WORDS.get(str(now["caps"]), "caps")]
    if now["pushed"]:
        said.append(PUSHED_WORDS.get(str(now["pushed"]), ""))
    return now | {
        "words": ", ".join(filter(None, said)),
        "claimed": now["settled"] and now["held"],
        "has_play": play,
        "places": axle.state.lash_places,
        "caps_words": CAPS_WORDS.items(),
        "indicators": INDICATOR_WORDS.items(),
        "pushes": [(v, w) for v, w in PUSHED_WORDS.items()],
        "stances": STANCE_WORDS.items(),
        "unit": axle.display.length.symbol,
    }


def claimed_before(axle: JobAxle, kind: str) -> bool:
    """Whether a kind was read on this assembly by somebody who said how; simulated hands always do."""
    here = (row for row in axle.valid_readings() if row.assembly_id == axle.assembly.pk)
    return axle.job.practice or any(row.kind == kind for row in here)


def _has_play(axle: JobAxle) -> bool:
    now = interference_now(axle.state)
    return now is not None and now[0] < 0
