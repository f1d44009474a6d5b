"""Trials of the pinion's preload: the curve through them, and the packs that come of it."""

from __future__ import annotations

from dataclasses import dataclass
from decimal import Decimal
from typing import Final

import numpy as np

from axle.depth.allowances import Bearing, preload_for_bearings
from axle.layout import Place, PreloadBy
from axle.measure.range import Range
from axle.measure.uncertainty import Measured
from axle.preload.curve import PINION_SLOPE, Curve, Trial, fit
from axle.preload.trials import contradictions
from axle.procedure.names import KindName
from axle.shims.choose import choose
from axle.shims.pieces import THICKEST_PACK, Pack
from axle.state.axle_state import AxleState
from axle.state.kept import kept
from axle.state.reading import Reading
from axle.stations.preload_readings import (
    PINION,
    TORQUE_STEP,
    curve_of,
    governing,
    knows,
    pairs_prior,
    surest_change,
    torque_draws,
    torque_spread,
    why_left_out,
)

# Where nothing else is known: 0.020 in of shims with a solid spacer; against a step half as much again,
# since too few under full torque mark the rollers (common practice).
_SPACER_START: Final = 0.508
_STEP_MORE: Final = 0.254


@dataclass(frozen=True)
class Trials:
    """The trials that can be held to each other, and those that cannot.

    :param used: as the curve takes them, oldest first.
    :param readings: the readings behind them, alike in order.
    :param left_out: what was left out and why, a line each.
    :param curve: fitted to the used ones, or nothing where there is none.
    :param contradictions: where they cannot all be right.
    """

    used: tuple[Trial, ...]
    readings: tuple[Reading, ...]
    left_out: tuple[str, ...]
    curve: Curve | None
    contradictions: tuple[str, ...]


@dataclass(frozen=True)
class PreloadPack:
    """A preload pack that can be made, with what is expected of it.

    :param pack: its pieces.
    :param torque: expected rotating torque [N·m].
    :param std: its standard uncertainty [N·m].
    :param probability: chance that it reads in range.
    :param under: chance that it reads under.
    :param over: chance that it reads over.
    """

    pack: Pack
    torque: float
    std: float
    probability: float
    under: float
    over: float


@kept
def trials_of(state: AxleState) -> Trials:
    """Preload trials that still say something of the stack that is in.

    The newest reading without a seal governs; readings under other conditions, and with a seal in, are
    left out, and said so. A trial
    with another depth shim counts with what the coupling of the stacks makes of it; one on other
    bearings, or with another slinger, does not count.

    :param state: the axle, on a layout with a preload pack.
    :source: readings with the preload pack recorded with each.
    """
    sign, coupled = state.layout.preload_sign, state.layout.preload_per_depth
    readings = [
        t
        for t in sorted(state.readings, key=lambda t: t.order)
        if t.kind in (KindName.PINION_TORQUE, KindName.PINION_END_PLAY) and t.settings.get(Place.PRELOAD)
    ]
    governs = governing(state)
    used: list[Trial] = []
    behind: list[Reading] = []
    left: list[str] = []
    for reading in readings:
        reason = why_left_out(reading, state, governs)
        if reason:
            left.append(reason)
            continue
        change = reading.settings.at(Place.DEPTH) - state.setting(Place.DEPTH)
        pack = float(reading.settings.at(Place.PRELOAD))
        setting = sign * (pack - coupled * float(change))
        if reading.kind == KindName.PINION_TORQUE:
            used.append(Trial(setting, torque=reading.value, std=torque_spread(reading, state.priors)))
        elif reading.value:
            used.append(Trial(setting, end_play=reading.value))
        else:
            continue  # no play says that zero lies somewhere on the loose side: the torque tells where
        behind.append(reading)
    if not used:
        return Trials((), (), left_out=tuple(left), curve=None, contradictions=())
    curve = curve_of(state, 0) or fit(used, PINION_SLOPE, torque_step=TORQUE_STEP)
    odd = contradictions(used, curve, pairs_prior(state).pinion.slope)
    return Trials(tuple(used), tuple(behind), left_out=tuple(left), curve=curve, contradictions=odd)


def preload_packs(state: AxleState, trials: Trials, limits: Range) -> tuple[PreloadPack, ...]:
    """Packs around the one that is surest to be in range once run under load, the surest first.

    :param state: the axle, on a layout with a preload pack.
    :param trials: with a fitted curve.
    :param limits: range of the rotating torque [N·m].
    :source: :func:`axle.stations.preload_readings.surest_change`, :func:`axle.shims.choose.choose`.
    """
    curve = trials.curve
    if curve is None or not knows(state, PINION):
        return ()
    wanted = wanted_pack(state, limits)
    if not 0 < wanted < THICKEST_PACK:
        return ()
    drawer = state.drawer.get(Place.PRELOAD, ())
    width = abs(curve.setting_for(limits.upper) - curve.setting_for(limits.low))
    close = Decimal(str(round(max(width / 8, 0.0025), 5)))
    choice = choose(wanted, close, drawer)
    packs = [p for p in (choice.pack, *choice.nearest) if p is not None]
    found: dict[Decimal, PreloadPack] = {}
    for pack in packs:
        if pack.thickness not in found:
            found[pack.thickness] = _with_pack(state, pack, limits)
    return tuple(sorted(found.values(), key=lambda p: (-round(p.probability, 2), len(p.pack.pieces))))


def wanted_pack(state: AxleState, limits: Range) -> Decimal:
    """The preload pack that is surest to be in range, whatever the drawer makes [mm].

    :param state: the axle, of which something was read of the pinion's pair.
    :param limits: range of the rotating torque [N·m].
    :source: :func:`axle.stations.preload_readings.surest_change`.
    """
    tighter, _ = surest_change(state, PINION, state.settings, limits, is_torque=True)
    pack = float(state.setting(Place.PRELOAD)) + state.layout.preload_sign * tighter
    return Decimal(str(round(pack, 5)))


def _with_pack(state: AxleState, pack: Pack, limits: Range) -> PreloadPack:
    after = state.settings.changed({Place.PRELOAD: pack.thickness})
    torques = torque_draws(state, PINION, after, pieces=max(len(pack.pieces), 1))
    under, over = float((torques < limits.low).mean()), float((torques > limits.high).mean())
    return PreloadPack(
        pack,
        float(np.median(torques)),
        std=float(torques.std()),
        probability=1.0 - under - over,
        under=under,
        over=over,
    )


def preload_start(state: AxleState) -> tuple[float, str] | None:
    """A preload pack to start from, loose rather than tight, with where it comes from.

    :param state: the axle, on a layout with a preload pack.
    :source: the old pack with what other bearings change, else the sheet, else common practice.
    """
    if not state.layout.has_preload_pack:
        return None
    against_step = state.layout.preload_by is PreloadBy.STEP
    old = state.old_packs.get(Place.PRELOAD)
    if old:
        start = float(old)
        words = "the old sleeve's length as it came off" if state.spacer_kit else "the old pack"
        before = state.old_packs.get(Place.DEPTH)
        if before and state.layout.preload_per_depth and state.setting(Place.DEPTH):
            start += state.layout.preload_per_depth * float(state.setting(Place.DEPTH) - before)
            words = f"{words}, with what the depth shim asks for"
        change = bearings_change(state, 1, 2 if state.trial == "setup" else 3)
        if change is not None:
            start, words = start + change, f"{words}, corrected for the other bearings"
    elif (usual := state.sheet.single("preload_start")) is not None:
        start, words = usual, state.sheet.source("preload_start")
    else:
        start, words = _SPACER_START, "the usual start, common practice"
    if against_step:
        return start + _STEP_MORE, f"{words}, and 10 thou more: against a step it starts loose"
    return start, words


def bearings_change(state: AxleState, then: int, now: int) -> float | None:
    """Change of the preload pack [mm] from one set of bearings to another, or nothing where not measured.

    :param state: the axle.
    :param then: which bearings the pack was right for: 1 old, 2 set-up, 3 final.
    :param now: which go in.
    :source: :func:`axle.depth.allowances.preload_for_bearings`.
    """
    if not state.layout.has_preload_pack:
        return None
    pairs = []
    for which in ("inner", "outer"):
        stands = [state.latest(f"stand_{which}", place) for place in (then, now)]
        widths = [state.latest(f"width_{which}", place) for place in (then, now)]
        if None in stands or None in widths:
            return None
        made = [
            Bearing(Measured(s.value), Measured(w.value))
            for s, w in zip(stands, widths, strict=True)
            if s and w
        ]
        pairs.append((made[0], made[1]))
    return preload_for_bearings(state.layout, pairs[0], pairs[1]).value


def trial_reason(state: AxleState, reading: Reading) -> str:
    """Why a rotating torque is a trial's and never stands for the final one; nothing for a final reading.

    :param state: the axle.
    :param reading: of the pinion's rotating torque.
    :source: common practice: a trial torque never stands for the final one.
    """
    how = reading.torque_conditions
    if how.nut == "set_up":
        return "with a set-up nut"
    if how.sleeve == "out" and not state.layout.has_preload_pack:
        return "without the sleeve"
    if state.trial == "setup" and not reading.settings.get(Place.BEARINGS):
        return "on set-up bearings"
    return ""
