"""Random axles, drawers and sheets: no advice may crash, lead away, or move further than the bound.

`.venv/bin/python -m benchmarks.random_axles [count] [first seed]`; a share runs in the tests. The axles are
nonsense on purpose: readings that no axle shows together, drawers of three shims, sheets of one end.
"""

from __future__ import annotations

import random
import sys
import time
from collections import Counter
from dataclasses import dataclass, replace
from decimal import Decimal

from axle.contact.mark import Flanked
from axle.contact.patch import Patch
from axle.decision.carrier.plan import LARGEST, MOST_LOAD
from axle.decision.forecast import misses
from axle.decision.move import Move
from axle.decision.next_move import next_move
from axle.decision.probability import in_range_probabilities
from axle.errors import AxleError
from axle.gearset import GearSet, Stance
from axle.layout import Layout, Place, every_layout
from axle.measure.units import IMPERIAL, METRIC, Dimension
from axle.procedure.choices import choices
from axle.procedure.stations import reading_kinds
from axle.shims.pieces import Piece
from axle.spec.sheet import Sheet, spec_keys, spec_value
from axle.state.axle_state import AxleState
from axle.state.reading import Print, Reading
from axle.stations.backlash import HOLE_WORTH
from axle.stations.zero_play import thread_known

_THOU = Decimal("0.0254")
_LAYOUTS = every_layout()
_TOP = {Dimension.LENGTH: 14, Dimension.TORQUE: 30, Dimension.COUNT: 30}
_UNITS = {Dimension.LENGTH: "thou", Dimension.TORQUE: "in·lb", Dimension.COUNT: "holes"}
# Figures that are no limits of a reading, as any sheet has them.
_FIXED = {
    "nominal_distance": ("96.5", "mm"),
    "seat_distance": ("136.5", "mm"),
    "side_packs": ("20", "mm"),
    "preload_start": ("20", "thou"),
    "pinion_nut_pitch": ("1.5", "mm"),
    "adjuster_pitch": ("1.5", "mm"),
    "adjuster_holes": ("24", "holes"),
    "preload_per_hole": ("1.5", "thou"),
}


@dataclass(frozen=True)
class Judged:
    """What came of one random axle; ``wrong`` is empty where nothing is."""

    state: AxleState
    move: Move | None
    wrong: str


def random_axle(seed: int) -> AxleState:
    """An axle that nobody has built: whatever was read on it, out of whatever drawer."""
    source = random.Random(seed)
    layout = source.choice(_LAYOUTS)
    settings = _settings(source, layout)
    schools = [s for s in choices()["school"].values if s != "adjuster_torque" or layout.has_adjusters]
    return AxleState(
        layout,
        GearSet(source.choice((9, 10, 11, 13)), source.choice((35, 38, 41, 43))),
        _sheet(source),
        settings=settings,
        readings=_readings(source, settings),
        prints=_prints(source, settings),
        drawer={place: _drawer(source) for place in layout.shim_places},
        school=source.choice(schools),
        new_bearings=source.random() < 0.7,
        methods={"depth": "trial"} if source.random() < 0.4 else {},
        use=source.choice(("road", "tow", "track")),
        policy=source.choice(("limits", "pattern")),
        old_packs={p: _thou(source, 20, 60) for p in layout.shim_places} if source.random() < 0.5 else {},
        stations=_ORDER if source.random() < 0.8 else (),
    )


def judged(seed: int) -> Judged:
    """Ask for the next move of a random axle, and hold it to what no advice may do."""
    state = random_axle(seed)
    display = METRIC if seed % 3 == 0 else IMPERIAL
    try:
        move = next_move(state, display)
    except AxleError as problem:
        return Judged(state, None, f"refused: {problem}")
    for change in filter(None, (move.ready_change,)):
        wrong = _worse(state, change) or _too_far(state, change) or _odd_words(change)
        if wrong:
            return Judged(state, move, wrong)
    return Judged(state, move, _odd_words(move))


def _worse(state: AxleState, change: Move) -> str:
    if not any(swap.before for swap in change.swaps):
        return ""  # first packs: nothing was in that they could be worse than
    after = state.settings.changed(change.changes)
    now, then = misses(state), misses(state, after)
    common = set(now) & set(then)
    before, later = (sum(of[name] for name in common) for of in (now, then))
    if later > before + 1e-5 and change.title not in _MEANT:
        return f"worse by its own forecast: {dict(now)} to {dict(then)}"
    leave, sure = in_range_probabilities(state).joint, in_range_probabilities(state, after).joint
    if (
        set(in_range_probabilities(state).parts) == set(in_range_probabilities(state, after).parts)
        and sure < leave - 1e-6
    ):
        return "" if change.title in _MEANT else f"less sure than leaving it: {leave:.3f} to {sure:.3f}"
    return ""


# Most of them are past their arrival and their ring gear, so that it is the packs that are in question.
_ORDER = ("depth", "pinion_preload", "carrier_preload", "backlash", "pattern", "sheet")
# Changes that are made before anything is read of what is in: their forecast is that of other bearings.
_MEANT = ("Fit a thicker trial shim", "Fit the preload pack for the final bearings")


def _too_far(state: AxleState, change: Move) -> str:
    worth = 1.5 / 24 if thread_known(state) else HOLE_WORTH[0]
    for swap in change.swaps:
        if swap.place in (Place.RING, Place.FAR) and swap.pack is None:
            most = (LARGEST + MOST_LOAD) / worth
            if abs(float(swap.change)) > most:
                return f"{swap.change} holes at once"
        elif swap.before and abs(float(swap.change)) > LARGEST + MOST_LOAD:
            return f"{swap.change} mm at once"
    return ""


def _odd_words(move: Move) -> str:
    told = [move.title, *move.why, *move.notes, move.runner_up]
    odd = next((words for words in told if "inf" in words.split() or "nan" in words), "")
    band = next((e for e in move.expected if e.low > e.high), None)
    return f"says “{odd}”" if odd else f"a band from {band.low} to {band.high}" if band else ""


def _thou(source: random.Random, low: float, high: float) -> Decimal:
    return (Decimal(round(source.uniform(low, high) * 2)) / 2 * _THOU).quantize(Decimal("0.00001"))


def _settings(source: random.Random, layout: Layout) -> dict[Place, Decimal]:
    found = {}
    for place in (Place.DEPTH, Place.PRELOAD):
        if source.random() < 0.8 and (place is Place.DEPTH or layout.has_preload_pack):
            found[place] = _thou(source, 10, 60)
    if source.random() < 0.8:
        for place in (Place.RING, Place.FAR):
            if layout.has_adjusters:
                found[place] = Decimal(source.randint(-20, 20)) / 2
            else:
                found[place] = _thou(source, 150, 250)
    return found


def _drawer(source: random.Random) -> tuple[Piece, ...]:
    kinds = source.choice(((3, 60), (20, 25), (2, 120), (5, 80)))
    count = source.choice((0, 1, 3, 6, 40))
    return tuple(Piece(key, _thou(source, *kinds)) for key in range(count))


def _sheet(source: random.Random) -> Sheet:
    values = {}
    for key, known in spec_keys().items():
        if key in _FIXED:
            if source.random() < 0.7:
                figure, unit = _FIXED[key]
                values[key] = spec_value(key, None, high=figure, unit=unit, source="demo")
            continue
        if source.random() < 0.25:
            continue
        low, high = sorted(source.sample(range(_TOP[known.dimension]), 2))
        ends = source.choice(((low, high), (low, high), (low, None), (None, high), (low, low), (0, 0)))
        if not known.has_low:
            ends = (None, high + 1)
        texts = [None if end is None else str(end) for end in ends]
        values[key] = spec_value(key, *texts, _UNITS[known.dimension], "demo")
    return Sheet("random", values, stance=source.choice(tuple(Stance)))


def _readings(source: random.Random, settings: dict[Place, Decimal]) -> tuple[Reading, ...]:
    found = []
    read = source.choice((0.2, 0.5, 0.9, 1.0, 1.0))
    for name, kind in reading_kinds().items():
        if name.endswith("_run") or name == "spread" or source.random() > read:
            continue
        low, high = float(kind.plausible.low), float(kind.plausible.high)
        for place in range(1, kind.places + 1):
            few = source.uniform(low, high) / 6
            value = source.choice((0.0, low, source.uniform(low, high), few, few, few))
            if kind.grades:
                value = float(source.randint(1, len(kind.grades)))
            then = dict(settings)
            if source.random() < 0.08:
                then[source.choice((Place.RING, Place.FAR, Place.DEPTH))] = _thou(source, 10, 220)
            found.append(
                Reading(name, place, value=max(value, 0.0), order=len(found) + 1, assembly=1, settings=then)
            )
    source.shuffle(found)
    return tuple(replace(t, order=n) for n, t in enumerate(found, start=1))


def _prints(source: random.Random, settings: dict[Place, Decimal]) -> tuple[Print, ...]:
    prints = []
    for number in range(source.choice((0, 0, 1, 2))):
        flanks = {}
        for name in ("drive", "coast"):
            u, v = source.uniform(0.1, 0.5), source.uniform(0.05, 0.5)
            flanks[name] = Flanked.of(Patch.box(u, u + 0.35, v, v + 0.4))
        prints.append(Print(1, 1000 + number, settings=settings, flanks=flanks, number=number + 1))
    return tuple(prints)


def main() -> int:
    """Judge many random axles, and print what was wrong."""
    count = int(sys.argv[1]) if len(sys.argv) > 1 else 20_000
    first = int(sys.argv[2]) if len(sys.argv) > 2 else 0
    wrong, acts, began = Counter[str](), Counter[str](), time.perf_counter()
    for seed in range(first, first + count):
        try:
            found = judged(seed)
        except Exception as problem:  # noqa: BLE001 - whatever it is, it is counted and named
            found = Judged(random_axle(seed), None, f"crash: {type(problem).__name__}: {problem}")
        acts[found.move.act.value if found.move else "none"] += 1
        if found.wrong:
            wrong[found.wrong.split(":")[0]] += 1
            print(seed, found.wrong)
    seconds = time.perf_counter() - began
    print(f"{count} axles in {seconds:.0f} s; wrong {sum(wrong.values())}: {dict(wrong)}")
    print(f"moves {dict(acts)}")
    return 1 if wrong else 0


if __name__ == "__main__":
    sys.exit(main())
