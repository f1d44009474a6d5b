"""What the bench shows of the pinion: ways of measuring compared, the mark, the torque curve."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from axle.depth.marks import MARK_UNITS, MarkConvention, mark_deviation, meaning, read_mark
from axle.depth.marks import Mark as PinionMark
from axle.errors import AxleError
from axle.layout import Place
from axle.measure.units import MM, THOU, Dimension, brief, show
from axle.procedure.conditions_in_words import words_of
from axle.procedure.names import KindName, StationName
from axle.procedure.stations import Method, kind_named, stations
from axle.stations.depth import depth_packs, method_title
from axle.stations.depth_measurements import carried_depth, depth_by_method, measured_depth
from axle.stations.method import chosen_method
from axle.stations.pinion_preload import bite_for, bites_of
from axle.stations.pinion_trials import preload_packs, trials_of
from axle.stations.preload_plot import plot_of
from shop.bench.panels.curve import curve_panel
from shop.drawing.depth_methods import Figures, Meaning, depth_method, mark_meaning
from shop.drawing.svg import Svg
from shop.jobs.actions import opening
from shop.jobs.formatting import MARK_WORDS
from shop.jobs.job_axle import JobAxle


def depth_panel(axle: JobAxle, asked: str) -> dict[str, Any]:
    """The method in hand as a picture, all methods compared, and the packs that can be made."""
    state, display = axle.state, axle.display
    method = method_of(axle, asked) or chosen_method(state, StationName.DEPTH)
    measured = measured_depth(state)
    compared = measured[1] if measured and state.mark.is_clear else None
    methods = depth_by_method(state)
    weights = (
        dict(zip((r.method for r in compared.results), compared.weights, strict=True)) if compared else {}
    )
    return {
        "drawing": depth_method(method.name, method.title, _figures(axle, method.kinds, asked)),
        "methods": [
            {
                "title": method_title(found.method),
                "first": next(
                    w.kinds[0] for w in stations()[StationName.DEPTH].methods if w.name == found.method
                ),
                "result": found.result if state.mark.is_clear else None,
                "weight": weights.get(found.method),
                "problem": found.problem,
                "stale": found.stale,
                "overdue": found.overdue,
            }
            for found in methods
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


def method_of(axle: JobAxle, kind: str) -> Method | None:
    """The method of finding depth that a kind belongs to; the chosen one where several share it."""
    chosen = chosen_method(axle.state, StationName.DEPTH)
    methods = [method for method in stations()[StationName.DEPTH].methods if kind in method.kinds]
    return chosen if chosen in methods else next(iter(methods), None)


def asked_mark(axle: JobAxle, given: Mapping[str, str]) -> dict[str, Any]:
    """The mark as somebody is about to confirm it; what makes no sense is shown as it is kept."""
    kept = axle.job.mark_typed
    unit = given.get("unit") or _unit_of(kept)
    try:
        typed = given.get("mark", kept)
        mark = opening.one_mark(
            read_mark(typed, unit, "mark"), given.get("convention", axle.job.mark_convention)
        )
    except AxleError:
        mark, typed = axle.state.mark, kept
    panel = mark_panel(axle, replace(mark, confirmed=False), typed)
    return panel | {"is_clear": False, "unit": unit, "units": list(MARK_UNITS)}


def _unit_of(typed: str) -> str:
    """The unit that stands behind a mark as it is kept; thou where none does."""
    return next((name for name in ("1/100 mm", "mm", "in") if typed.endswith(name)), "thou")


def mark_panel(axle: JobAxle, mark: PinionMark, typed: str) -> dict[str, Any]:
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


_READ_AS = {MarkConvention.LONGER_IS_PLUS: "+ is longer", MarkConvention.SHORTER_IS_PLUS: "+ is shorter"}
_STANDS = {1: "stands further out", -1: "stands closer in", 0: "stands here"}


def _mark_drawing(mark: PinionMark, typed: str) -> Svg:
    """Both ways in which makers mark, the one that is read by framed."""
    if mark.convention is MarkConvention.DISTANCE:
        whole = Meaning("axis to face", 0, "at this distance", chosen=True)
        return mark_meaning(f"{show(mark.value, MM)} mm", [whole])
    both = f"{show(mark.value, THOU, sign=True)} thou · {show(mark.value, MM, sign=True)} mm"
    meanings = []
    for convention, title in _READ_AS.items():
        deviation = mark_deviation(mark.value, convention)
        shift = (deviation > 0) - (deviation < 0)
        meanings.append(Meaning(title, shift, _STANDS[shift], chosen=convention is mark.convention))
    return mark_meaning(typed, meanings, both)


def _figures(axle: JobAxle, kinds: tuple[str, ...], asked: str) -> Figures:
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
    return Figures(values, asked, shim=shim, depth_shim=axle.spec.layout.depth_shim)


def preload_panel(axle: JobAxle) -> dict[str, Any]:
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


def _trials(axle: JobAxle) -> list[dict[str, Any]]:
    state, display = axle.state, axle.display
    used = {t.order for t in trials_of(state).readings}
    kinds = ("pinion_torque", "pinion_end_play")
    readings = sorted((t for t in state.readings if t.kind in kinds), key=lambda t: t.order)
    return [
        {
            "where": display.show(t.settings.at(Place.PRELOAD)),
            "read": display.show(t.value, kind_named(t.kind).dimension),
            "unit": display.unit_for(kind_named(t.kind).dimension).symbol,
            "play": t.kind == KindName.PINION_END_PLAY,
            "words": ", ".join(words_of(t.torque_conditions, axle.display.bolt_torque)),
            "used": t.order in used,
        }
        for t in readings[-7:]
    ]


def _bites(axle: JobAxle) -> list[dict[str, Any]]:
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


def _curve(axle: JobAxle) -> Svg | None:
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

    return curve_panel(
        plot,
        limits=axle.state.preload_range(),
        label=labels[plot.unit],
        marks=tuple((x, written(x)) for x in plot.marks),
        unit=display.torque,
    )
