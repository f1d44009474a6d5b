"""The torque curve of one axle as points to be drawn: against the pack, or against the nut."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Final

import numpy as np

from axle.layout import Place
from axle.measure.range import Range
from axle.preload.bites import BiteVerdict, Scale, fit_bites, places
from axle.preload.curve import Curve, band
from axle.procedure.names import KindName
from axle.state.axle_state import AxleState
from axle.stations.carrier_torque import carrier_trials, torque_curve
from axle.stations.pinion_preload import bite_for, bites_of, nut_pitch
from axle.stations.pinion_trials import Trials, preload_packs, trials_of

_POINTS: Final = 60


@dataclass(frozen=True)
class Point:
    """One trial or bite.

    :param x: pack thickness [mm], or the nut's place in ``CurvePlot.unit``.
    :param torque: rotating torque [N·m], or nothing where end play was read.
    :param play: end play [mm], or nothing.
    :param alike: whether it was held to the others; what was left out is shown as such.
    """

    x: float
    torque: float | None
    play: float | None = None
    alike: bool = True


@dataclass(frozen=True)
class CurvePlot:
    """What is drawn.

    :param unit: "pack" for a thickness [mm], "°" or "N·m" for the nut, "bite" where nobody followed it.
    :param points: trials or bites, oldest first.
    :param xs: places along the curve, shape (n,); empty where no curve is fitted.
    :param low: bottom of what is held possible two times in three [N·m], shape (n,).
    :param middle: the curve [N·m], shape (n,).
    :param high: top of it [N·m], shape (n,).
    :param expected: where the next one is expected, (x, torque [N·m]), or nothing.
    :param marks: round places along x to be written under it.
    """

    unit: str
    points: tuple[Point, ...]
    xs: tuple[float, ...] = ()
    low: tuple[float, ...] = ()
    middle: tuple[float, ...] = ()
    high: tuple[float, ...] = ()
    expected: tuple[float, float] | None = None
    marks: tuple[float, ...] = ()


def plot_of(state: AxleState, unit: float = 1.0) -> CurvePlot | None:
    """Points of the axle's torque curve, or nothing before anything was read.

    :param state: the axle.
    :param unit: size of the unit in which places along a pack are to be round [mm].
    :source: :func:`axle.preload.curve.band`; the trials or the bites.
    """
    return _of_trials(state, unit) if state.layout.has_preload_pack else _of_bites(state)


def _of_trials(state: AxleState, unit: float) -> CurvePlot | None:
    trials = trials_of(state)
    if trials.curve is None:
        return None
    curve, sign = trials.curve, state.layout.preload_sign
    # A setting is a tightness: the pack's thickness with its sign turned round.
    used = {t.order for t in trials.readings}
    points = tuple(Point(sign * t.setting, t.torque, t.end_play) for t in trials.used) + tuple(
        Point(float(t.settings[Place.PRELOAD]), t.value, alike=False)
        for t in state.readings
        if t.kind == KindName.PINION_TORQUE and t.order not in used and t.settings.get(Place.PRELOAD)
    )
    limits = state.preload_range()
    expected = _next_pack(state, trials, limits)
    settings = [t.setting for t in trials.used]
    if limits is not None:
        settings += [curve.setting_for(limits.low), curve.setting_for(limits.upper)]
    settings += [sign * expected[0]] if expected else []
    least, most = min(*settings, curve.zero), max(settings)
    margin = max(0.12 * (most - least), 0.02)
    reach = (least - margin, most + margin)
    return along(
        "pack", points, curve=curve, reach=reach, per=float(sign), expected=expected, round_in=unit
    )


def _next_pack(state: AxleState, trials: Trials, limits: Range | None) -> tuple[float, float] | None:
    if limits is None:
        return None
    packs = preload_packs(state, trials, limits)
    best = next((p for p in packs if p.pack.thickness != state.setting(Place.PRELOAD)), None)
    newest = trials.readings[-1]
    if best is None or (newest.kind == KindName.PINION_TORQUE and limits.holds(newest.value)):
        return None
    return float(best.pack.thickness), best.torque


def _of_bites(state: AxleState) -> CurvePlot | None:
    log = bites_of(state)
    if not log:
        return None
    found = places(log, nut_pitch(state))
    curve = fit_bites(log, nut_pitch(state))
    if found is None or curve is None:
        points = tuple(Point(float(n), bite.torque) for n, bite in enumerate(log, start=1))
        return CurvePlot("bite", points, marks=tuple(point.x for point in points))
    scale, at = found
    advice = bite_for(state)
    total = sum(b.angle or 0.0 for b in log[1:])
    first, last = log[0].nut_torque or 0.0, log[-1].nut_torque or 0.0
    span = (0.0, total) if scale is Scale.ANGLE else (first, last)
    # How far along x one millimetre of equivalent interference goes.
    per = (span[1] - span[0]) / (at[-1] - at[0]) if at[-1] > at[0] else 1.0
    points = tuple(Point(span[0] + (a - at[0]) * per, bite.torque) for a, bite in zip(at, log, strict=True))
    expected = None
    if advice is not None and advice.verdict is BiteVerdict.BITE:
        expected = (points[-1].x + advice.amount, (advice.low + advice.high) / 2)
    right = at[-1] + max(0.25 * (at[-1] - at[0]), 15 / per)
    if expected:
        right = max(right, at[0] + (expected[0] - span[0]) / per)
    curve_plot = along(
        scale.value,
        points,
        curve=curve,
        reach=(at[0], right),
        per=per,
        expected=expected,
        offset=span[0] - at[0] * per,
    )
    return CurvePlot(
        "°" if scale is Scale.ANGLE else "N·m",
        curve_plot.points,
        xs=curve_plot.xs,
        low=curve_plot.low,
        middle=curve_plot.middle,
        high=curve_plot.high,
        expected=expected,
        marks=curve_plot.marks,
    )


def along(
    unit: str,
    points: tuple[Point, ...],
    curve: Curve,
    reach: tuple[float, float],
    per: float,
    expected: tuple[float, float] | None,
    offset: float = 0.0,
    round_in: float = 1.0,
) -> CurvePlot:
    """Points of a fitted curve with what it holds possible, along the axis of a drawing.

    :param unit: what the axis counts in, as :class:`CurvePlot` names it.
    :param points: trials or bites.
    :param curve: the fitted curve.
    :param reach: settings at both ends [mm].
    :param per: how far along the axis one millimetre of setting goes.
    :param expected: where the next one is expected, or nothing.
    :param offset: place along the axis of a setting of 0.
    :param round_in: size of the unit in which marks are to be round.
    :source: :func:`axle.preload.curve.band`.
    """
    settings = np.linspace(*reach, _POINTS)
    xs = offset + settings * per
    order = np.argsort(xs)
    low, middle, high = (tuple(float(v) for v in values[order]) for values in band(curve, settings))
    ends = (float(xs.min()) / round_in, float(xs.max()) / round_in)
    marks = tuple(mark * round_in for mark in _round(*ends))
    return CurvePlot(
        unit,
        points,
        xs=tuple(float(x) for x in xs[order]),
        low=low,
        middle=middle,
        high=high,
        expected=expected,
        marks=marks,
    )


def _round(least: float, most: float) -> tuple[float, ...]:
    """Four to eight round places between two ends."""
    rough = (most - least) / 6 or 1.0
    power = 10.0 ** np.floor(np.log10(rough))
    step = float(next(power * f for f in (1, 2, 5, 10) if power * f >= rough))
    first = np.ceil(least / step) * step
    return tuple(float(v) for v in np.arange(first, most + step / 1e6, step))


def carrier_plot_of(state: AxleState, unit: float = 1.0) -> CurvePlot | None:
    """Points of the carrier's torque curve, or nothing before a trial was read.

    :param state: the axle.
    :param unit: size of the unit in which places along the axis are to be round [mm].
    :source: :func:`axle.stations.carrier_torque.torque_curve`.
    """
    curve, limits = torque_curve(state), state.sheet.range("carrier_preload")
    if curve is None:
        return None
    trials = carrier_trials(state)
    points = tuple(Point(t.setting - curve.zero, t.torque, t.end_play) for t in trials)
    settings = [t.setting for t in trials]
    if limits is not None and math.isfinite(limits.high):
        settings += [curve.setting_for(limits.low), curve.setting_for(limits.high)]
    least, most = min(*settings, curve.zero), max(*settings, curve.zero)
    margin = max(0.12 * (most - least), 0.02)
    reach = (least - margin, most + margin)
    return along(
        "interference",
        points,
        curve=curve,
        reach=reach,
        per=1.0,
        expected=None,
        offset=-curve.zero,
        round_in=unit,
    )
