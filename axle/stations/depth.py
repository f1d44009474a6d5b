"""Pinion depth as the readings of one axle tell it: every method used, compared, and judged."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from decimal import Decimal
from typing import Final

from axle.depth.compare import Compared
from axle.depth.marks import meaning
from axle.depth.result import chance_within, depth_error
from axle.layout import DepthShim, Place
from axle.measure.range import Range
from axle.measure.uncertainty import pack_uncertainty, rectangular
from axle.measure.units import Dimension, Display, percent
from axle.procedure.names import KindName, StationName
from axle.procedure.stations import stations
from axle.shims.choose import choose
from axle.shims.pieces import THICKEST_PACK, Pack
from axle.state.axle_state import AxleState
from axle.state.reading import Reading
from axle.stations.depth_measurements import (
    MIC_READING,
    MIC_ZERO,
    MethodResult,
    carried_depth,
    depth_by_method,
    measured_depth,
)
from axle.stations.result import Outcome, Result, signed

# Usual packs where nothing else is known (common practice): the middle of each range is the start.
USUAL_START: Final[Mapping[DepthShim, Range]] = {
    DepthShim.HEAD: Range(0.6604, 0.9144),
    DepthShim.CUP: Range(0.6604, 0.9144),
    DepthShim.CARTRIDGE: Range(0.381, 1.016),
}
# What final bearings may differ by from set-up ones, where the sheet says nothing (common practice,
# no source).
USUAL_DIFFERENCE: Final = 0.0254


@dataclass(frozen=True)
class DepthPack:
    """A depth pack that can be made, and where it would leave the pinion.

    :param pack: its pieces.
    :param error: depth error with it [mm], > 0 too deep.
    :param probability: chance that the pinion is truly within the tolerance, or nothing without one.
    :param fitted: whether it is the one that is in.
    """

    pack: Pack
    error: float
    probability: float | None
    fitted: bool = False


# What a gauge that shows nothing under a cartridge comes to.


def depth_packs(state: AxleState, wanted: Compared) -> tuple[DepthPack, ...]:
    """The packs that the drawer can make near the wanted thickness, and the one that is in.

    :param state: the axle.
    :param wanted: what the measurements come to.
    :source: :func:`axle.shims.choose.choose`, :func:`axle.depth.result.chance_within`.
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
        found[pack.thickness] = DepthPack(pack, error, probability=chance, fitted=pack is fitted)
    return tuple(sorted(found.values(), key=lambda p: abs(p.error)))


def pack_spread(pack: Pack) -> float:
    """Standard uncertainty of a pack [mm]: mic'd pieces, and half a thou either way for the others.

    :param pack: its pieces.
    :source: :func:`axle.measure.uncertainty.pack_uncertainty`; common practice for what is only marked.
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
    if state.methods.get("depth") == "trial":
        return _by_trial(state, display)
    methods = depth_by_method(state)
    if not methods:
        return None
    measured = measured_depth(state)
    if measured is None:
        problem = next((method.problem for method in methods if method.problem), "")
        if not problem:
            return None
        outcome = Outcome.SHEET_LACKS_A_FIGURE if "sheet" in problem else Outcome.CANNOT_BE
        return Result(None, Dimension.LENGTH, limits=None, outcome=outcome, why=(problem,))
    if not state.mark.is_clear:
        why = (
            "The mark on the pinion is not confirmed: say first what its sign means.",
            meaning(state.mark, state.layout.depth_sign),
        )
        return Result.undecided(Outcome.CONFIRM_THE_MARK, why)
    if shows_nothing(state) is not None:
        thin = "The gauge shows nothing: the trial shim is too thin by nobody knows how much."
        more = "Fit a thicker one and read again."
        return Result(None, Dimension.LENGTH, limits=None, outcome=Outcome.TRIAL_TOO_THIN, why=(thin, more))
    return _judged(state, display, methods, *measured)


def shows_nothing(state: AxleState) -> Reading | None:
    """The reading of a gauge that has shown nothing yet on a trial shim under a cartridge.

    Such a gauge is only taken away from: 0 says "or less". Once one showed something, 0 is a last check.

    :param state: the axle.
    :source: common practice.
    """
    read = [t for t in state.readings if t.kind in (KindName.DEPTH_FEELER, KindName.DIAL_TRAVEL)]
    if state.layout.depth_sign > 0 or not read or any(t.value > 0 for t in read) or state.prints:
        return None
    return max(read, key=lambda t: t.order)


def _judged(
    state: AxleState, display: Display, methods: tuple[MethodResult, ...], order: int, wanted: Compared
) -> Result:
    unit = display.length.symbol
    why = list(_sums(wanted, display))
    why += [f"{method_title(method.method)}: {method.problem}" for method in methods if method.problem]
    why += [words for method in methods for words in method.overdue]
    why += _last_check(state, wanted, display)
    fitted = float(state.setting(Place.DEPTH))
    tolerance = state.sheet.single("depth_tolerance")
    if not fitted:
        why.append("No depth shim is fitted yet.")
        return Result.undecided(Outcome.FIT_A_SHIM, tuple(why))
    off = depth_error(state.layout, fitted, wanted.thickness)
    limits = Range(-tolerance, tolerance) if tolerance is not None else None
    direction = "deep" if off > 0 else "shallow"
    why.append(f"Fitted {display.show(fitted)} {unit}: {display.show(abs(off))} {unit} {direction}.")
    if tolerance is None:
        why.append("The sheet gives no tolerance for depth: the pattern has the last word.")
    else:
        chance = chance_within(off, wanted.uncertainty, tolerance)
        source = state.sheet.source("depth_tolerance")
        why.append(
            f"Allowed {display.show(tolerance)} {unit} either way ({source}): "
            f"{percent(chance)} sure to be within."
        )
    good = limits is None or limits.holds(off)
    outcome = Outcome.IN_RANGE if good else Outcome(f"too {direction}")
    if not good and any(p.order > order and {"drive", "coast"} <= set(p.flanks) for p in state.prints):
        # Else a move made by the pattern would be undone by the gauge, and made again, for ever.
        why.append("A print was taken since: a gauge gets near, the pattern has the last word.")
        outcome = Outcome.BY_PATTERN
    return Result(
        off,
        Dimension.LENGTH,
        limits=limits,
        outcome=outcome,
        why=tuple(why),
        uncertainty=wanted.uncertainty,
    )


def _sums(wanted: Compared, display: Display) -> list[str]:
    unit = display.length.symbol
    why = []
    for result, weight in zip(wanted.results, wanted.weights, strict=True):
        lead = f"{result.title}, weight {percent(weight)}: " if len(wanted.results) > 1 else ""
        terms = ", ".join(f"{t.label} {signed(t.value, display)}" for t in result.terms if t.value)
        why.append(
            f"{lead}{terms or 'nothing to add or take away'} = {display.show(result.thickness)} {unit}."
        )
    why.append(
        f"Wanted depth shim {display.show(wanted.thickness)} ± "
        f"{display.show(wanted.uncertainty)} {unit}, by {wanted.title}."
    )
    if any(result.method == "old" for result in wanted.results):
        why.append("The old shim holds for pinions of equal nominal distance and head height only.")
    for apart in wanted.disagreements:
        why.append(
            f"{apart.one.title.capitalize()} and {apart.other.title} disagree by "
            f"{display.show(apart.apart)} {unit}, where {display.show(apart.expected)} would be usual: "
            "read both again, the rougher first; burrs, an unseated cup and a wrong sign come first."
        )
    return why


def method_title(method: str) -> str:
    """Title of a way of finding depth.

    :param method: its name.
    :source: ``stations.toml``.

    >>> method_title("gauge")
    'Gauge block'
    """
    return next(w.title for w in stations()[StationName.DEPTH].methods if w.name == method)


def _last_check(state: AxleState, wanted: Compared, display: Display) -> list[str]:
    """Hold depth on the final bearings to what the set-up ones foretold."""
    carried = carried_depth(state)
    measured_now = any(
        not method.stale for method in depth_by_method(state) if method.result and method.method != "old"
    )
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
        return Result.undecided(Outcome.FIT_A_SHIM, why)
    why = (f"Fitted {display.show(fitted)} {display.length.symbol}; the pattern alone decides.",)
    return Result(None, Dimension.LENGTH, limits=None, outcome=Outcome.BY_PATTERN, why=why)
