"""Depth by each method of measuring, and what the measured depth asks of the shim."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from decimal import Decimal
from typing import Final

from axle.depth.allowances import for_bearing, for_slinger
from axle.depth.compare import Compared, compare
from axle.depth.marks import Mark, Masters
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
from axle.depth.result import DepthResult, Term
from axle.errors import AxleError
from axle.layout import Place
from axle.measure.repeats import brought_together
from axle.measure.uncertainty import Measured, mean_of, pack_uncertainty, rectangular
from axle.procedure.conditions import DialConditions, FeelerConditions, conditions_of
from axle.procedure.names import KindName, StationName
from axle.procedure.staleness import stale_because
from axle.procedure.stations import kind_named, stations
from axle.state.axle_state import AxleState
from axle.state.kept import kept
from axle.state.reading import Reading, repeatability_of

# A micrometer's zero and one reading with it, each about half a tenth of a thou (from memory).
MIC_ZERO: Final = 0.0013
MIC_READING: Final = 0.0025
_OLD, _SETUP, _FINAL = 1, 2, 3


@dataclass(frozen=True)
class MethodResult:
    """What one method's readings come to.

    :param method: name of the method.
    :param result: its result, or nothing.
    :param problem: why there is none, in words, or "".
    :param order: place in time of its newest reading.
    :param stale: why it no longer holds, or "".
    :param overdue: instruments whose calibration was overdue, in words.
    """

    method: str
    result: DepthResult | None
    problem: str
    order: int
    stale: str
    overdue: tuple[str, ...] = ()


@dataclass(frozen=True)
class CarriedDepth:
    """A depth measured on other bearings or without the slinger, carried over by arithmetic.

    :param thickness: t for what is in the axle now [mm].
    :param uncertainty: its standard uncertainty [mm].
    :param terms: what was added to the result that was measured.
    """

    thickness: float
    uncertainty: float
    terms: tuple[Term, ...]


@kept
def depth_by_method(state: AxleState) -> tuple[MethodResult, ...]:
    """What every method that has readings comes to, in the station's order.

    :param state: the axle.
    :source: :mod:`axle.depth.methods`.
    """
    methods: Mapping[str, Callable[[AxleState], DepthResult | None]] = {
        "gauge": _gauge,
        "dial": _dial,
        "bridge": _bridge,
        "mic": _mic,
        "bar": _bar,
        "old": _old,
        "measured": _measured,
    }
    method_results = []
    for method in stations()[StationName.DEPTH].methods:
        readings = _readings(state, method.kinds)
        # A head height belongs to several methods: alone it is none of them.
        mine = [t for t in readings if t.kind != KindName.HEAD_HEIGHT]
        if not mine:
            continue
        on_pinion = [t for t in mine if kind_named(t.kind).after] or mine
        newest = max(on_pinion, key=lambda t: t.order)
        stale = (
            ""
            if method.name == "old"
            else stale_because(StationName.DEPTH, state.layout, newest.settings, state.settings)
        )
        result, problem = None, ""
        try:
            result = methods[method.name](state)
        except AxleError as error:
            problem = str(error)
        if result is None and not problem:
            problem = _lacking(state, method.kinds)
        method_results.append(
            MethodResult(
                method.name,
                result,
                problem=problem,
                order=newest.order,
                stale=stale,
                overdue=_overdue(readings),
            )
        )
    return tuple(method_results)


@kept
def measured_depth(state: AxleState) -> tuple[int, Compared] | None:
    """All depth measurements that still hold, compared, and the newest one's place in time.

    Where none holds any more the stale ones are compared, so that there is something to show.

    :param state: the axle.
    :returns: (order of the newest reading, what they come to), or nothing.
    :source: :func:`axle.depth.compare.compare`.
    """
    usable = [method for method in depth_by_method(state) if method.result is not None]
    fresh = [method for method in usable if not method.stale] or usable
    if not fresh:
        return None
    results = [method.result for method in fresh if method.result is not None]
    return max(method.order for method in fresh), compare(results)


@kept
def wanted_depth(state: AxleState) -> Compared | None:
    """The depth shim that the measurements ask for, or nothing while the mark is not confirmed.

    :param state: the axle.
    :source: :mod:`axle.depth`.
    """
    measured = measured_depth(state)
    return measured[1] if measured and state.mark.is_clear else None


@kept
def carried_depth(state: AxleState) -> CarriedDepth | None:
    """The newest depth measured on other bearings or with another slinger, for what is in now.

    :param state: the axle.
    :returns: nothing where depth holds as it was measured, or heights are not known.
    :source: :mod:`axle.depth.allowances`.
    """
    old = [
        method
        for method in depth_by_method(_before(state))
        if method.result is not None and method.stale and method.method != "old"
    ]
    if not old or not state.mark.is_clear:
        return None
    newest = max(old, key=lambda method: method.order)
    then = next(t.settings for t in state.readings if t.order == newest.order)
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
    return CarriedDepth(result.thickness + sum(term.value for term in terms), spread, tuple(terms))


def _before(state: AxleState) -> AxleState:
    """The axle as it was measured before its bearings or slinger changed: without what was read since."""
    kinds = {
        kind
        for method in stations()[StationName.DEPTH].methods
        for kind in method.kinds
        if kind_named(kind).after
    }
    stale = (
        t
        for t in state.readings
        if t.kind not in kinds or stale_because(StationName.DEPTH, state.layout, t.settings, state.settings)
    )
    return replace(state, readings=tuple(stale))


def _readings(state: AxleState, kinds: tuple[str, ...]) -> list[Reading]:
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
    values = [_value(t) for t in readings]
    told = brought_together(values, repeatability_of(readings[0], state.priors))
    if not told.agrees:
        return Measured(told.value, math.hypot(told.std, rectangular(width)))
    return mean_of(values, rectangular(width))


def _interval(taken: Reading) -> float | None:
    conditions = conditions_of(taken.kind, taken.conditions)
    if isinstance(conditions, FeelerConditions) and conditions.binds is not None:
        return conditions.binds - (conditions.passes or 0.0)
    return None


def _value(taken: Reading) -> float:
    conditions = conditions_of(taken.kind, taken.conditions)
    if isinstance(conditions, DialConditions) and conditions.shows == "figure":
        return travel_from_figure(taken.value, conditions.revolution or 0.0)
    return taken.value


def _trial(state: AxleState, kind: str) -> Measured:
    """The depth shim that was in when a kind was read."""
    reading = state.repeats(kind)[0]
    thickness = float(reading.settings.at(Place.DEPTH))
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
    return by_gauge_block(state.layout, trial, growth=feeler, mark=state.mark, nominal=nominal)


def _dial(state: AxleState) -> DepthResult | None:
    travel = _one(state, "dial_travel")
    if travel is None:
        return None
    trial, nominal = _trial(state, "dial_travel"), state.sheet.single("nominal_distance")
    return by_dial(state.layout, trial, travel=travel, mark=state.mark, nominal=nominal)


def _bridge(state: AxleState) -> DepthResult | None:
    reach, reading = _one(state, "bridge_reach"), _one(state, "bridge_reading")
    if reach is None or reading is None:
        return None
    trial = _trial(state, "bridge_reading")
    return by_bridge(
        state.layout, trial, reach=reach, reading=reading, mark=state.mark, masters=_masters(state)
    )


def _mic(state: AxleState) -> DepthResult | None:
    reading, arbor = _one(state, "mic_reading"), _one(state, "arbor_diameter")
    if reading is None or arbor is None:
        return None
    return by_micrometer(
        state.layout,
        _trial(state, "mic_reading"),
        reading=reading,
        arbor=arbor,
        mark=state.mark,
        masters=_masters(state),
    )


def _bar(state: AxleState) -> DepthResult | None:
    offset, stack, gap = (_one(state, kind) for kind in ("bar_offset", "bar_stack", "bar_gap"))
    if offset is None or stack is None or gap is None:
        return None
    return by_bar(
        state.layout,
        _trial(state, "bar_gap"),
        bar=Bar(offset, stack, gap),
        mark=state.mark,
        masters=_masters(state),
    )


def _old(state: AxleState) -> DepthResult | None:
    shim, mark = _one(state, "old_shim"), state.latest(KindName.OLD_MARK)
    if shim is None or mark is None:
        return None
    old = OldPinion(
        shim,
        Mark(mark.value, state.mark.convention, state.mark.step),
        old_height=_height(state, _OLD),
        new_height=_height(
            state, _SETUP if state.trial == "setup" and not state.setting(Place.BEARINGS) else _FINAL
        ),
    )
    return by_old_shim(state.layout, old, state.mark, state.sheet.single("nominal_distance"))


def _measured(state: AxleState) -> DepthResult | None:
    distance = _one(state, "measured_distance")
    if distance is None:
        return None
    return by_distance(
        state.layout,
        _trial(state, "measured_distance"),
        distance=distance,
        mark=state.mark,
        masters=_masters(state),
    )


def _lacking(state: AxleState, kinds: tuple[str, ...]) -> str:
    lacking = [
        kind_named(kind).title.lower()
        for kind in kinds
        if not state.around(kind)
        and (not kind_named(kind).needs or state.sheet.single(kind_named(kind).needs))
    ]
    return f"not read yet: {', '.join(lacking)}." if lacking else ""


def _overdue(readings: list[Reading]) -> tuple[str, ...]:
    named = {t.tool: t.overdue for t in readings if t.overdue}
    return tuple(f"{tool} was overdue for calibration ({words})." for tool, words in named.items())
