"""Pinion depth as the readings of one axle tell it: every method used, compared, and judged."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from decimal import Decimal
from typing import Final

from axle.advice.state import AxleState, Taken
from axle.advice.verdict import Result, signed
from axle.depth.allowances import for_bearing, for_slinger
from axle.depth.compare import Compared, compare
from axle.depth.marks import Mark, Masters, meaning
from axle.depth.methods import (
    Bar,
    OldPinion,
    by_bar,
    by_bridge,
    by_dial,
    by_distance,
    by_gauge_block,
    by_micrometer,
    by_old_shim,
    travel_from_figure,
)
from axle.depth.result import DepthResult, Term, chance_within, depth_error
from axle.errors import AxleError
from axle.layout import DepthShim, Place
from axle.limits import Range
from axle.procedure.conditions import DialConditions, FeelerConditions, conditions_of
from axle.procedure.staleness import stale_because
from axle.procedure.stations import kind_named, stations
from axle.shims import THICKEST_PACK, Pack, choose
from axle.uncertainty import Measured, mean_of, pack_uncertainty, rectangular
from axle.units import Dimension, Display, percent

# A micrometer's zero and one reading with it, each about half a tenth of a thou (from memory).
MIC_ZERO: Final = 0.0013
MIC_READING: Final = 0.0025
# Usual packs where nothing else is known (common practice): the middle of each range is the start.
USUAL_START: Final[Mapping[DepthShim, Range]] = {
    DepthShim.HEAD: Range(0.6604, 0.9144),
    DepthShim.CUP: Range(0.6604, 0.9144),
    DepthShim.CARTRIDGE: Range(0.381, 1.016),
}
# What final bearings may differ by from set-up ones, where the sheet says nothing (common practice,
# no source).
USUAL_DIFFERENCE: Final = 0.0254
_OLD, _SETUP, _FINAL = 1, 2, 3


@dataclass(frozen=True)
class WayFound:
    """What one method's readings come to.

    :param way: name of the method.
    :param result: its result, or nothing.
    :param problem: why there is none, in words, or "".
    :param order: place in time of its newest reading.
    :param stale: why it no longer holds, or "".
    :param overdue: instruments whose calibration was overdue, in words.
    """

    way: str
    result: DepthResult | None
    problem: str
    order: int
    stale: str
    overdue: tuple[str, ...] = ()


@dataclass(frozen=True)
class DepthPack:
    """A depth pack that can be made, and where it would leave the pinion.

    :param pack: its pieces.
    :param error: depth error with it [mm], > 0 too deep.
    :param chance: chance that the pinion is truly within the tolerance, or nothing without one.
    :param fitted: whether it is the one that is in.
    """

    pack: Pack
    error: float
    chance: float | None
    fitted: bool = False


@dataclass(frozen=True)
class Carried:
    """A depth measured on other bearings or without the slinger, carried over by arithmetic.

    :param thickness: t for what is in the axle now [mm].
    :param uncertainty: its standard uncertainty [mm].
    :param terms: what was added to the result that was measured.
    """

    thickness: float
    uncertainty: float
    terms: tuple[Term, ...]


# What a gauge that shows nothing under a cartridge comes to.
TRIAL_TOO_THIN: Final = "trial too thin"


def found_by(state: AxleState) -> tuple[WayFound, ...]:
    """What every method that has readings comes to, in the station's order.

    :param state: the axle.
    :source: :mod:`axle.depth.methods`.
    """
    ways: Mapping[str, Callable[[AxleState], DepthResult | None]] = {
        "gauge": _gauge,
        "dial": _dial,
        "bridge": _bridge,
        "mic": _mic,
        "bar": _bar,
        "old": _old,
        "measured": _measured,
    }
    found = []
    for way in stations()["depth"].ways:
        readings = _readings(state, way.kinds)
        # A head height belongs to several methods: alone it is none of them.
        mine = [t for t in readings if t.kind != "head_height"]
        if not mine:
            continue
        on_pinion = [t for t in mine if kind_named(t.kind).after] or mine
        newest = max(on_pinion, key=lambda t: t.order)
        stale = (
            ""
            if way.way == "old"
            else stale_because("depth", state.layout, newest.settings, state.settings)
        )
        result, problem = None, ""
        try:
            result = ways[way.way](state)
        except AxleError as error:
            problem = str(error)
        if result is None and not problem:
            problem = _lacking(state, way.kinds)
        found.append(WayFound(way.way, result, problem, newest.order, stale, _overdue(readings)))
    return tuple(found)


def measured_depth(state: AxleState) -> tuple[int, Compared] | None:
    """All depth measurements that still hold, compared, and the newest one's place in time.

    Where none holds any more the stale ones are compared, so that there is something to show.

    :param state: the axle.
    :returns: (order of the newest reading, what they come to), or nothing.
    :source: :func:`axle.depth.compare.compare`.
    """
    usable = [way for way in found_by(state) if way.result is not None]
    fresh = [way for way in usable if not way.stale] or usable
    if not fresh:
        return None
    results = [way.result for way in fresh if way.result is not None]
    return max(way.order for way in fresh), compare(results)


def wanted_depth(state: AxleState) -> Compared | None:
    """The depth shim that the measurements ask for, or nothing while the mark is not confirmed.

    :param state: the axle.
    :source: :mod:`axle.depth`.
    """
    measured = measured_depth(state)
    return measured[1] if measured and state.mark.is_clear else None


def carried_depth(state: AxleState) -> Carried | None:
    """The newest depth measured on other bearings or with another slinger, for what is in now.

    :param state: the axle.
    :returns: nothing where depth holds as it was measured, or heights are not known.
    :source: :mod:`axle.depth.allowances`.
    """
    old = [
        way for way in found_by(_before(state)) if way.result is not None and way.stale and way.way != "old"
    ]
    if not old or not state.mark.is_clear:
        return None
    newest = max(old, key=lambda way: way.order)
    then = next(t.settings for t in state.taken if t.order == newest.order)
    terms: list[Term] = []
    zero = Decimal(0)
    if then.get(Place.BEARINGS, zero) != state.setting(Place.BEARINGS):
        was, now = _height(state, _SETUP if state.trial == "setup" else _OLD), _height(state, _FINAL)
        if was is None or now is None:
            return None
        terms.append(for_bearing(state.layout, was, now))
    added = int(state.setting(Place.SLINGER) == 1) - int(then.get(Place.SLINGER, zero) == 1)
    if added:
        slinger = _one(state, "slinger_thickness")
        if slinger is None:
            return None
        terms.append(for_slinger(state.layout, slinger, added))
    result = newest.result
    if not terms or result is None:
        return None
    spread = (result.uncertainty**2 + sum(term.spread**2 for term in terms)) ** 0.5
    return Carried(result.thickness + sum(term.value for term in terms), spread, tuple(terms))


def _before(state: AxleState) -> AxleState:
    """The axle as it was measured before its bearings or slinger changed: without what was read since."""
    kinds = {kind for way in stations()["depth"].ways for kind in way.kinds if kind_named(kind).after}
    stale = (
        t
        for t in state.taken
        if t.kind not in kinds or stale_because("depth", state.layout, t.settings, state.settings)
    )
    return replace(state, taken=tuple(stale))


def depth_packs(state: AxleState, wanted: Compared) -> tuple[DepthPack, ...]:
    """The packs that the drawer can make near the wanted thickness, and the one that is in.

    :param state: the axle.
    :param wanted: what the measurements come to.
    :source: :func:`axle.shims.choose`, :func:`axle.depth.result.chance_within`.
    """
    tolerance = state.sheet.single("depth_tolerance")
    asked = Decimal(str(round(wanted.thickness, 5)))
    packs: list[Pack] = []
    if 0 < asked < THICKEST_PACK:
        drawer = state.drawer.get(Place.DEPTH, ())
        close = Decimal(str(round((tolerance or 0.0508) / 2, 5)))
        choice = choose(asked, close, drawer)
        packs = [pack for pack in (choice.pack, *choice.nearest) if pack is not None]
    fitted = Pack(state.fitted.get(Place.DEPTH, ()))
    found: dict[Decimal, DepthPack] = {}
    for pack in (fitted, *packs):
        if not pack.pieces or pack.thickness in found:
            continue
        error = depth_error(state.layout, float(pack.thickness), wanted.thickness)
        made = pack_spread(pack)
        spread = (wanted.uncertainty**2 + made**2) ** 0.5
        chance = chance_within(error, spread, tolerance) if tolerance is not None else None
        found[pack.thickness] = DepthPack(pack, error, chance, pack is fitted)
    return tuple(sorted(found.values(), key=lambda p: abs(p.error)))


def pack_spread(pack: Pack) -> float:
    """Standard uncertainty of a pack [mm]: mic'd pieces, and half a thou either way for the others.

    :param pack: its pieces.
    :source: :func:`axle.uncertainty.pack_uncertainty`; common practice for what is only marked.
    """
    marked = sum(not piece.miced for piece in pack.pieces)
    measured = pack_uncertainty(len(pack.pieces) - marked, MIC_ZERO, MIC_READING)
    return math.sqrt(measured**2 + marked * rectangular(0.0254) ** 2)


def depth_start(state: AxleState) -> tuple[float, str] | None:
    """A thickness to start from where depth is not measured, with where it comes from.

    :param state: the axle.
    :source: the old pack, else the sheet, else common practice; the pattern decides afterwards.
    """
    old = state.old_packs.get(Place.DEPTH)
    if old:
        return float(old), "the old pack"
    usual = state.sheet.range("depth_start")
    if usual is not None:
        return usual.aim, state.sheet.source("depth_start")
    return USUAL_START[state.layout.depth_shim].aim, "the usual start, common practice"


def depth_verdict(state: AxleState, display: Display) -> Result | None:
    """Judge the pinion's depth by all its measurements, or leave it to the pattern.

    :param state: the axle.
    :param display: units of the words.
    :source: :func:`measured_depth`; the sheet's tolerance.
    """
    if state.ways.get("depth") == "trial":
        return _by_trial(state, display)
    ways = found_by(state)
    if not ways:
        return None
    measured = measured_depth(state)
    if measured is None:
        problem = next((way.problem for way in ways if way.problem), "")
        if not problem:
            return None
        words = "sheet lacks a figure" if "sheet" in problem else "cannot be"
        return Result(None, Dimension.LENGTH, None, False, words, (problem,))
    if not state.mark.is_clear:
        why = (
            "The mark on the pinion is not confirmed: say first what its sign means.",
            meaning(state.mark, state.layout.depth_sign),
        )
        return Result(None, Dimension.LENGTH, None, False, "confirm the mark", why, decided=False)
    if shows_nothing(state) is not None:
        thin = "The gauge shows nothing: the trial shim is too thin by nobody knows how much."
        more = "Fit a thicker one and read again."
        return Result(None, Dimension.LENGTH, None, False, TRIAL_TOO_THIN, (thin, more))
    return _judged(state, display, ways, *measured)


def shows_nothing(state: AxleState) -> Taken | None:
    """The reading of a gauge that has shown nothing yet on a trial shim under a cartridge.

    Such a gauge is only taken away from: 0 says "or less". Once one showed something, 0 is a last check.

    :param state: the axle.
    :source: common practice.
    """
    read = [t for t in state.taken if t.kind in ("depth_feeler", "dial_travel")]
    if state.layout.depth_sign > 0 or not read or any(t.value > 0 for t in read) or state.prints:
        return None
    return max(read, key=lambda t: t.order)


def _judged(
    state: AxleState, display: Display, ways: tuple[WayFound, ...], order: int, wanted: Compared
) -> Result:
    unit = display.length.symbol
    why = list(_sums(wanted, display))
    why += [f"{stations_way(way.way)}: {way.problem}" for way in ways if way.problem]
    why += [words for way in ways for words in way.overdue]
    why += _last_check(state, wanted, display)
    fitted = float(state.setting(Place.DEPTH))
    tolerance = state.sheet.single("depth_tolerance")
    if not fitted:
        why.append("No depth shim is fitted yet.")
        return Result(None, Dimension.LENGTH, None, False, "fit a shim", tuple(why), decided=False)
    off = depth_error(state.layout, fitted, wanted.thickness)
    limits = Range(-tolerance, tolerance) if tolerance is not None else None
    way = "deep" if off > 0 else "shallow"
    why.append(f"Fitted {display.show(fitted)} {unit}: {display.show(abs(off))} {unit} {way}.")
    if tolerance is None:
        why.append("The sheet gives no tolerance for depth: the pattern has the last word.")
    else:
        chance = chance_within(off, wanted.uncertainty, tolerance)
        source = state.sheet.source("depth_tolerance")
        why.append(
            f"Allowed {display.show(tolerance)} {unit} either way ({source}): "
            f"{percent(chance)} sure to be within."
        )
    good = limits is None or limits.side(off) == "in range"
    words = "in range" if good else f"too {way}"
    if not good and any(p.order > order and {"drive", "coast"} <= set(p.flanks) for p in state.prints):
        # Else a move made by the pattern would be undone by the gauge, and made again, for ever.
        why.append("A print was taken since: a gauge gets near, the pattern has the last word.")
        good, words = True, "by pattern"
    return Result(off, Dimension.LENGTH, limits, good, words, tuple(why), wanted.uncertainty)


def _sums(wanted: Compared, display: Display) -> list[str]:
    unit = display.length.symbol
    why = []
    for result, weight in zip(wanted.results, wanted.weights, strict=True):
        lead = f"{result.method}, weight {percent(weight)}: " if len(wanted.results) > 1 else ""
        terms = ", ".join(f"{t.label} {signed(t.value, display)}" for t in result.terms if t.value)
        why.append(
            f"{lead}{terms or 'nothing to add or take away'} = {display.show(result.thickness)} {unit}."
        )
    why.append(
        f"Wanted depth shim {display.show(wanted.thickness)} ± "
        f"{display.show(wanted.uncertainty)} {unit}, by {wanted.method}."
    )
    if any(result.way == "old" for result in wanted.results):
        why.append("The old shim holds for pinions of equal nominal distance and head height only.")
    for apart in wanted.disagreements:
        why.append(
            f"{apart.one.method.capitalize()} and {apart.other.method} disagree by "
            f"{display.show(apart.apart)} {unit}, where {display.show(apart.expected)} would be usual: "
            "read both again, the rougher first; burrs, an unseated cup and a wrong sign come first."
        )
    return why


def stations_way(way: str) -> str:
    """Title of a way of finding depth.

    :param way: its name.
    :source: ``stations.toml``.

    >>> stations_way("gauge")
    'Gauge block'
    """
    return next(w.title for w in stations()["depth"].ways if w.way == way)


def _last_check(state: AxleState, wanted: Compared, display: Display) -> list[str]:
    """Hold depth on the final bearings to what the set-up ones foretold."""
    carried = carried_depth(state)
    measured_now = any(not way.stale for way in found_by(state) if way.result and way.way != "old")
    if carried is None or not measured_now:
        return []
    allowed, unit = state.sheet.single("setup_difference"), display.length.symbol
    source = state.sheet.source("setup_difference") if allowed is not None else "common practice"
    allowed = USUAL_DIFFERENCE if allowed is None else allowed
    off = wanted.thickness - carried.thickness
    lead = (
        f"Foretold from before {display.show(carried.thickness)}, now measured "
        f"{display.show(wanted.thickness)} {unit}: {display.show(abs(off))} apart, "
        f"{display.show(allowed)} allowed ({source})"
    )
    if Range(-allowed, allowed).holds(off):
        return [f"{lead}. The last check agrees."]
    return [f"{lead}. Too far: look for a cup not seated, dirt behind it, or a height measured wrongly."]


def _by_trial(state: AxleState, display: Display) -> Result | None:
    fitted = state.setting(Place.DEPTH)
    if not fitted:
        why = ("No depth shim is fitted yet: start with the old pack, or from the usual thickness.",)
        return Result(None, Dimension.LENGTH, None, False, "fit a shim", why, decided=False)
    why = (f"Fitted {display.show(fitted)} {display.length.symbol}; the pattern alone decides.",)
    return Result(None, Dimension.LENGTH, None, True, "by pattern", why)


def _readings(state: AxleState, kinds: tuple[str, ...]) -> list[Taken]:
    return [t for kind in kinds for t in state.around(kind).values()]


def _one(state: AxleState, kind: str, place: int | None = None) -> Measured | None:
    """A quantity from its repeated readings, with resolution, feeler interval and scatter."""
    named = state.latest(kind, place) if place is not None else None
    readings = state.repeats(kind) if place is None else (named,) if named else ()
    if not readings:
        return None
    step = max(t.step if t.step is not None else kind_named(kind).step for t in readings)
    widths = [_interval(t) for t in readings]
    width = max((w for w in widths if w is not None), default=step)
    return mean_of([_value(t) for t in readings], rectangular(width))


def _interval(taken: Taken) -> float | None:
    found = conditions_of(taken.kind, taken.conditions)
    if isinstance(found, FeelerConditions) and found.binds is not None:
        return found.binds - (found.passes or 0.0)
    return None


def _value(taken: Taken) -> float:
    found = conditions_of(taken.kind, taken.conditions)
    if isinstance(found, DialConditions) and found.shows == "figure":
        return travel_from_figure(taken.value, found.revolution or 0.0)
    return taken.value


def _trial(state: AxleState, kind: str) -> Measured:
    """The depth shim that was in when a kind was read."""
    reading = state.repeats(kind)[0]
    thickness = float(reading.settings.get(Place.DEPTH, 0))
    pieces = len(state.fitted.get(Place.DEPTH, ())) or 2
    return Measured(thickness, pack_uncertainty(pieces, MIC_ZERO, MIC_READING) if thickness else 0.0)


def _masters(state: AxleState) -> Masters:
    return Masters(
        state.sheet.single("nominal_distance"),
        state.sheet.single("seat_distance"),
        _one(state, "head_height"),
    )


def _height(state: AxleState, which: int) -> Measured | None:
    return _one(state, "stand_inner", which)


def _gauge(state: AxleState) -> DepthResult | None:
    feeler = _one(state, "depth_feeler")
    if feeler is None:
        return None
    trial, nominal = _trial(state, "depth_feeler"), state.sheet.single("nominal_distance")
    return by_gauge_block(state.layout, trial, feeler, state.mark, nominal)


def _dial(state: AxleState) -> DepthResult | None:
    travel = _one(state, "dial_travel")
    if travel is None:
        return None
    trial, nominal = _trial(state, "dial_travel"), state.sheet.single("nominal_distance")
    return by_dial(state.layout, trial, travel, state.mark, nominal)


def _bridge(state: AxleState) -> DepthResult | None:
    reach, reading = _one(state, "bridge_reach"), _one(state, "bridge_reading")
    if reach is None or reading is None:
        return None
    trial = _trial(state, "bridge_reading")
    return by_bridge(state.layout, trial, reach, reading, state.mark, _masters(state))


def _mic(state: AxleState) -> DepthResult | None:
    reading, arbor = _one(state, "mic_reading"), _one(state, "arbor_diameter")
    if reading is None or arbor is None:
        return None
    return by_micrometer(
        state.layout, _trial(state, "mic_reading"), reading, arbor, state.mark, _masters(state)
    )


def _bar(state: AxleState) -> DepthResult | None:
    offset, stack, gap = (_one(state, kind) for kind in ("bar_offset", "bar_stack", "bar_gap"))
    if offset is None or stack is None or gap is None:
        return None
    return by_bar(
        state.layout, _trial(state, "bar_gap"), Bar(offset, stack, gap), state.mark, _masters(state)
    )


def _old(state: AxleState) -> DepthResult | None:
    shim, mark = _one(state, "old_shim"), state.latest("old_mark")
    if shim is None or mark is None:
        return None
    old = OldPinion(
        shim,
        Mark(mark.value, state.mark.convention, state.mark.step),
        _height(state, _OLD),
        _height(state, _SETUP if state.trial == "setup" and not state.setting(Place.BEARINGS) else _FINAL),
    )
    return by_old_shim(state.layout, old, state.mark, state.sheet.single("nominal_distance"))


def _measured(state: AxleState) -> DepthResult | None:
    distance = _one(state, "measured_distance")
    if distance is None:
        return None
    return by_distance(
        state.layout, _trial(state, "measured_distance"), distance, state.mark, _masters(state)
    )


def _lacking(state: AxleState, kinds: tuple[str, ...]) -> str:
    lacking = [
        kind_named(kind).title.lower()
        for kind in kinds
        if not state.around(kind)
        and (not kind_named(kind).needs or state.sheet.single(kind_named(kind).needs))
    ]
    return f"not read yet: {', '.join(lacking)}." if lacking else ""


def _overdue(readings: list[Taken]) -> tuple[str, ...]:
    named = {t.tool: t.overdue for t in readings if t.overdue}
    return tuple(f"{tool} was overdue for calibration ({words})." for tool, words in named.items())
