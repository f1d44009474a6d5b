"""What the bench shows of the pinion: ways of measuring compared, the mark, the torque curve."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from axle.advice.pinion_depth import (
    carried_depth,
    depth_packs,
    found_by,
    measured_depth,
    stations_way,
)
from axle.advice.pinion_plot import plot_of
from axle.advice.pinion_preload import bite_for, bites_of, preload_packs, trials_of
from axle.advice.ways import chosen_way
from axle.depth.marks import MARK_UNITS, MarkConvention, mark_deviation, meaning, read_mark
from axle.depth.marks import Mark as PinionMark
from axle.errors import AxleError
from axle.layout import Place
from axle.procedure.conditions import words_of
from axle.procedure.stations import Way, kind_named, stations
from axle.units import MM, THOU, Dimension, brief, show
from shop.drawing.curve import Dot, Plot, curve
from shop.drawing.depth_ways import Figures, depth_way, mark_meaning
from shop.drawing.svg import Svg
from shop.jobs import services
from shop.jobs.bridge import Axle
from shop.jobs.words import MARK_WORDS


def depth_panel(axle: Axle, asked: str) -> dict[str, Any]:
    """The way in hand as a picture, all ways compared, and the packs that can be made."""
    state, display = axle.state, axle.display
    way = way_of(axle, asked) or chosen_way(state, "depth")
    measured = measured_depth(state)
    compared = measured[1] if measured and state.mark.is_clear else None
    ways = found_by(state)
    weights = (
        dict(zip((r.way for r in compared.results), compared.weights, strict=True)) if compared else {}
    )
    return {
        "drawing": depth_way(way.way, way.title, _figures(axle, way.kinds, asked)),
        "ways": [
            {
                "title": stations_way(found.way),
                "way": found.way,
                "first": next(w.kinds[0] for w in stations()["depth"].ways if w.way == found.way),
                "result": found.result if state.mark.is_clear else None,
                "weight": weights.get(found.way),
                "problem": found.problem,
                "stale": found.stale,
                "overdue": found.overdue,
            }
            for found in ways
        ],
        "compared": compared,
        "several": compared is not None and len(compared.results) > 1,
        "disagreements": compared.disagreements if compared else (),
        "packs": depth_packs(state, compared) if compared else (),
        "tolerance": state.sheet.single("depth_tolerance"),
        "mark": mark_panel(axle, state.mark, axle.job.mark_typed),
        "carried": carried_depth(state),
        "unit": display.length.symbol,
    }


def way_of(axle: Axle, kind: str) -> Way | None:
    """The way of finding depth that a kind belongs to; the chosen one where several share it."""
    chosen = chosen_way(axle.state, "depth")
    ways = [way for way in stations()["depth"].ways if kind in way.kinds]
    return chosen if chosen in ways else next(iter(ways), None)


def asked_mark(axle: Axle, given: Mapping[str, str]) -> dict[str, Any]:
    """The mark as somebody is about to confirm it; what makes no sense is shown as it is kept."""
    kept = axle.job.mark_typed
    unit = given.get("unit") or _unit_of(kept)
    try:
        typed = given.get("mark", kept)
        mark = services.one_mark(
            read_mark(typed, unit, "mark"), given.get("convention", axle.job.mark_convention)
        )
    except AxleError:
        mark, typed = axle.state.mark, kept
    panel = mark_panel(axle, replace(mark, confirmed=False), typed)
    return panel | {"is_clear": False, "unit": unit, "units": list(MARK_UNITS)}


def _unit_of(typed: str) -> str:
    """The unit that stands behind a mark as it is kept; thou where none does."""
    return next((name for name in ("1/100 mm", "mm", "in") if typed.endswith(name)), "thou")


def mark_panel(axle: Axle, mark: PinionMark, typed: str) -> dict[str, Any]:
    """What the mark means, in words and as a picture."""
    words = meaning(mark, axle.spec.layout.depth_sign)
    return {
        "typed": typed,
        "convention": mark.convention.value,
        "words": words,
        "means": MARK_WORDS[mark.convention],
        "is_clear": mark.is_clear,
        "by": axle.job.mark_confirmed,
        "drawing": _mark_drawing(mark, typed),
        "conventions": [(c.value, text) for c, text in MARK_WORDS.items()],
    }


def _mark_drawing(mark: PinionMark, typed: str) -> Svg:
    both = f"{show(mark.value, THOU, sign=True)} thou · {show(mark.value, MM, sign=True)} mm"
    if mark.convention is MarkConvention.DISTANCE:
        return mark_meaning(f"{show(mark.value, MM)} mm", 0, "face at this distance")
    deviation = mark_deviation(mark.value, mark.convention)
    shift = (deviation > 0) - (deviation < 0)
    words = {1: "stands further out", -1: "stands closer in", 0: "stands here"}[shift]
    return mark_meaning(typed, shift, words, both)


def _figures(axle: Axle, kinds: tuple[str, ...], asked: str) -> Figures:
    state, display = axle.state, axle.display
    values = {}
    for kind in kinds:
        if kind_named(kind).needs and state.sheet.single(kind_named(kind).needs) is None:
            continue
        newest = state.latest(kind)
        values[kind] = display.show(newest.value) if newest else ""
    seat = state.sheet.single("seat_distance")
    if seat is not None:
        values["seat_distance"] = display.show(seat)
    fitted = state.setting(Place.DEPTH)
    shim = display.show(fitted) if fitted else "none in"
    return Figures(values, asked, shim, axle.spec.layout.depth_shim)


def preload_panel(axle: Axle) -> dict[str, Any]:
    """The torque curve with its trials or bites, and what may be done next."""
    state, display = axle.state, axle.display
    unit, limits = display.torque, state.preload_range()
    sleeve = not axle.spec.layout.has_preload_pack
    panel: dict[str, Any] = {
        "drawing": _curve(axle),
        "sleeve": sleeve,
        "unit": unit.symbol,
        "limits": "",
        "rows": _bites(axle) if sleeve else _trials(axle),
        "packs": (),
        "bite": None,
        "left_out": (),
        "fitted": state.setting(Place.PRELOAD),
    }
    if limits is not None:
        panel["limits"] = limits.words(unit)
    if sleeve:
        panel["bite"] = bite_for(state)
        return panel
    trials = trials_of(state)
    if trials.curve is not None and limits is not None:
        panel["packs"] = preload_packs(state, trials, limits)
    return panel | {"left_out": trials.left_out, "contradictions": trials.contradictions}


def _trials(axle: Axle) -> list[dict[str, Any]]:
    state, display = axle.state, axle.display
    used = {t.order for t in trials_of(state).readings}
    kinds = ("pinion_torque", "pinion_end_play")
    readings = sorted((t for t in state.taken if t.kind in kinds), key=lambda t: t.order)
    return [
        {
            "where": display.show(t.settings.get(Place.PRELOAD, 0)),
            "read": display.show(t.value, kind_named(t.kind).dimension),
            "unit": display.unit_for(kind_named(t.kind).dimension).symbol,
            "play": t.kind == "pinion_end_play",
            "words": ", ".join(words_of(t.torque_conditions, axle.display.bolt_torque)),
            "used": t.order in used,
        }
        for t in readings[-7:]
    ]


def _bites(axle: Axle) -> list[dict[str, Any]]:
    display = axle.display
    return [
        {
            "where": f"+{bite.angle:g}°" if bite.angle else "0°" if bite.angle == 0 else "—",
            "nut": display.bolt_torque and bite.nut_torque and show(bite.nut_torque, display.bolt_torque),
            "read": display.show(bite.torque, Dimension.TORQUE),
            "unit": display.torque.symbol,
            "words": "",
            "used": True,
        }
        for bite in bites_of(axle.state)[-9:]
    ]


def _curve(axle: Axle) -> Svg | None:
    plot = plot_of(axle.state, float(axle.display.length.factor))
    if plot is None:
        return None
    display = axle.display
    labels = {
        "pack": f"preload pack, {display.length.symbol}; thicker is looser",
        "°": "nut turned since the first reading, °",
        "N·m": f"torque at the nut, {display.bolt_torque.symbol}",
        "bite": "bites of the nut, one after another",
    }

    def written(x: float) -> str:
        if plot.unit == "pack":
            return brief(x, display.length)
        return show(x, display.bolt_torque) if plot.unit == "N·m" else f"{x:g}"

    return curve(
        Plot(
            plot.xs,
            plot.low,
            plot.middle,
            plot.high,
            tuple(Dot(p.x, p.torque, p.play, p.alike) for p in plot.points),
            axle.state.preload_range(),
            plot.expected,
            labels[plot.unit],
            tuple((x, written(x)) for x in plot.marks),
        ),
        display.torque,
    )
