"""A candidate as a move, in words: title, arithmetic, what is expected, and the runner-up."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Final

from axle.decision.candidates import Candidate
from axle.decision.carrier.explain import (
    band_of,
    expected_of,
    lash_lines,
    preload_lines,
    side_line,
    stay_notes,
    sum_check,
    title_of,
)
from axle.decision.carrier.plan import load_wanted
from axle.decision.move import Expected, Move, Swap
from axle.decision.pack_swap import stale_after
from axle.layout import Place
from axle.measure.units import Dimension, Display, percent
from axle.procedure.names import StationName
from axle.state.axle_state import AxleState
from axle.stations.by_hand import of_this_pinion
from axle.stations.depth_posterior import depth_posterior
from axle.stations.pinion_trials import trials_of
from axle.stations.result import aim_words
from axle.stations.station_state import Standing


def as_move(
    state: AxleState,
    display: Display,
    standings: Mapping[str, Standing],
    station: str,
    best: Candidate,
    found: tuple[Candidate, ...],
) -> Move:
    """An option as a move, with its arithmetic and what is expected of it."""
    lines = [*_depth_lines(state, display, best), *_preload_lines(state, display, best)]
    notes = list(best.notes)
    expected: list[Expected] = []
    if best.plan is not None:
        carrier = standings[StationName.CARRIER_PRELOAD]
        target, own = load_wanted(state, is_done=carrier.is_done and not best.loads)
        lines += preload_lines(state, display, standing=carrier, target=target, curve=own)
        lines += lash_lines(state, best.plan, display)
        lines += [side_line(state, best.plan, display), sum_check(state, best.plan, display)]
        expected += expected_of(state, best.plan, own)
        if best.touched <= {Place.RING, Place.FAR}:
            notes += stay_notes(state, best.plan, target, display)
    elif best.in_range.backlash is not None and best.deeper:
        moved, std = best.in_range.backlash
        notes.append(f"The sides stay: backlash {display.show(moved)} {display.length.symbol} is expected.")
        expected.append(band_of("Smallest backlash", moved, std))
    expected += _preload_expected(state, best)
    return Move.change(
        _title(state, best),
        station,
        swaps=best.swaps,
        expected=tuple(expected),
        stales=stale_after(best.swaps, state),
        why=tuple(filter(None, lines)),
        notes=tuple(notes),
        others=best.others,
        probability=best.in_range.joint,
        parts=tuple(best.in_range.parts.items()),
        runner_up=_runner_up(best, found),
    )


# What has to change where a station stays out although leaving it looked best.
CURES: Final = {
    "depth": frozenset({Place.DEPTH}),
    "pattern": frozenset({Place.DEPTH}),
    "pinion_preload": frozenset({Place.PRELOAD}),
    "carrier_preload": frozenset({Place.RING, Place.FAR}),
    "backlash": frozenset({Place.RING, Place.FAR}),
}
_PARTS: Final = {
    "depth": frozenset({Place.DEPTH}),
    "preload": frozenset({Place.PRELOAD}),
    "sides": frozenset({Place.RING, Place.FAR}),
}
_WORDS: Final = {"depth": "the depth shim", "preload": "the preload pack", "sides": "both sides"}


def _touches(candidate: Candidate) -> list[str]:
    return [name for name, places in _PARTS.items() if candidate.touched & places]


def _named(candidate: Candidate) -> str:
    words = [_WORDS[name] for name in _touches(candidate)]
    sleeve = any(s.place is Place.PRELOAD and s.pack is None for s in candidate.swaps)
    if sleeve:
        words = ["a new sleeve" if w == _WORDS["preload"] else w for w in words]
    return words[0] if len(words) == 1 else f"{', '.join(words[:-1])} and {words[-1]}"


def _title(state: AxleState, candidate: Candidate) -> str:
    touched = _touches(candidate)
    if touched == ["sides"] and candidate.plan is not None:
        return title_of(state, candidate.plan)
    return f"Change {_named(candidate)}"


def _runner_up(best: Candidate, found: tuple[Candidate, ...]) -> str:
    """The next best that touches other parts, and why not that one."""
    other = next((o for o in found if o.touched != best.touched), None)
    if other is None:
        return ""
    what = f"Change {_named(other)}" if other.swaps else "Leave it as it is"
    chance = f"{percent(other.in_range.joint)} sure"
    gap = best.in_range.joint - other.in_range.joint
    if gap > 0.02:
        worst = min(other.in_range.parts, key=lambda name: other.in_range.parts[name])
        name = worst.replace("_", " ")
        return f"{what}: {chance}; {name} would be in with {percent(other.in_range.parts[worst])}."
    return f"{what}: {chance} as well{', and more comes apart' if other.swaps else ''}."


def _depth_lines(state: AxleState, display: Display, candidate: Candidate) -> list[str]:
    depth_estimate = depth_posterior(state)
    if depth_estimate is None or not candidate.deeper:
        return []
    unit = display.length.symbol
    by = []
    if depth_estimate.gauge is not None:
        by.append("the gauge")
    if depth_estimate.count:
        by.append(f"{depth_estimate.count} print{'s' if depth_estimate.count > 1 else ''}")
    if any(one.clicks_on_drive_alone for one in of_this_pinion(state)):
        by.append("a click under the hand")
    direction = "deep" if depth_estimate.error > 0 else "shallow"
    to = "out" if candidate.deeper < 0 else "in"
    lines = [
        f"By {' and '.join(by) or 'what is usual'} the pinion is "
        f"{display.show(abs(depth_estimate.error))} ± {display.show(depth_estimate.std)} {unit} "
        f"too {direction}: move it {to} by {display.show(abs(candidate.deeper))}."
    ]
    if state.layout.preload_per_depth and Place.PRELOAD in candidate.touched:
        lines.append("The stacks are coupled: the preload pack follows the depth shim.")
    if Place.PRELOAD in candidate.touched and not state.layout.has_preload_pack:
        lines.append("A crushed sleeve is not used again: a new one goes in.")
    return lines


def _preload_swap(candidate: Candidate) -> Swap | None:
    """The preload pack that an option changes; a new sleeve is none."""
    return next((s for s in candidate.swaps if s.place is Place.PRELOAD and s.pack is not None), None)


def _preload_lines(state: AxleState, display: Display, candidate: Candidate) -> list[str]:
    swap, limits = _preload_swap(candidate), state.preload_range()
    if swap is None or limits is None:
        return []
    aimed = display.show(limits.aim, Dimension.TORQUE)
    return [
        f"Preload pack {display.show(float(swap.before))} → {display.show(float(swap.after))} "
        f"{display.length.symbol} for {aimed} {display.torque.symbol}{aim_words(limits)}."
    ]


def _preload_expected(state: AxleState, candidate: Candidate) -> list[Expected]:
    swap = _preload_swap(candidate)
    if swap is None:
        return []
    after = state.settings.changed(candidate.changes)
    curve = trials_of(replace(state, settings=after)).curve
    if curve is None:
        return []
    setting = state.layout.preload_sign * float(swap.after)
    middle, spread = curve.torque(setting), curve.torque_spread(setting)
    return [Expected.around("Pinion rotating torque", middle, spread, Dimension.TORQUE)]
