"""The next move of an axle that is together: whatever packs put everything in range at once.

Candidates are what a builder can do from this drawer: leave it, move the carrier, change the preload
pack, change the depth shim with what is coupled to it, and any of these in one strip-down. Each is judged
by its chance that all is in range at the next assembly; among equals the one that touches the fewest parts
is taken, and a move of the carrier before one of the pinion.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, replace
from decimal import Decimal
from typing import Final

from axle.advice.carrier_plan import aim, load_wanted, plan_sides
from axle.advice.carrier_shapes import SidesPlan
from axle.advice.carrier_words import (
    band_of,
    expected_of,
    lash_lines,
    preload_lines,
    side_line,
    stay_notes,
    sum_check,
    title_of,
)
from axle.advice.chance import Chances, chances
from axle.advice.forecast import is_better, locks_gears, nothing_nearer
from axle.advice.held import FARTHEST, DepthHeld, depth_held
from axle.advice.lash import lash_now
from axle.advice.moves import Act, Expected, Move, Swap
from axle.advice.packs import stale_after
from axle.advice.pinion_preload import preload_packs, trials_of
from axle.advice.standing import Standing, Status
from axle.advice.state import AxleState, Settings
from axle.advice.verdict import aim_words
from axle.errors import AxleError
from axle.layout import Place
from axle.limits import Rule
from axle.shims import THICKEST_PACK, Pack, choose
from axle.units import Dimension, Display, percent

# What touching a part costs, as a chance: a pinion comes out with the carrier before it.
_PINION: Final = 0.05
_PART: Final = 0.004
# A preload that reads in range is left alone for less.
_RELOAD: Final = 0.03
# Packs nearer than this to what is fitted are not worth a strip-down [mm].
_SAME: Final = Decimal("0.0076")
_EXACT: Final = Decimal("0.0013")
_LEAST_STEP: Final = 0.0127
# Stations that packs can put right.
SET: Final = ("depth", "pinion_preload", "carrier_preload", "backlash", "pattern")
# The sides stay, move only as far as something is out, or go to the middle while they are out; where the
# carrier's preload only just reads in range, less sure than this, it goes to its middle too.
_SIDES: Final = ("", "moved", "centred")
_PRELOAD_TOO: Final = (*_SIDES, "both")
_HARDLY: Final = 0.9


@dataclass(frozen=True)
class Option:
    """Something that can be done in one strip-down.

    :param swaps: changes; none is to leave it.
    :param chances: by station, once it is done.
    :param deeper: how much deeper the pinion comes [mm].
    :param plan: of the sides, where they are planned.
    :param notes: what the drawer lacks, what stays.
    :param others: other packs that could be made.
    :param touched: places that the work opens.
    :param loads: whether the sides are planned for the preload's middle although it reads in range.
    """

    swaps: tuple[Swap, ...]
    chances: Chances
    deeper: float = 0.0
    plan: SidesPlan | None = None
    notes: tuple[str, ...] = ()
    others: tuple[tuple[Place, Pack], ...] = ()
    touched: frozenset[Place] = field(default_factory=frozenset)
    loads: bool = False

    @property
    def worth(self) -> float:
        """Chance that all is in range, less what is touched for it."""
        pinion = bool(self.touched & {Place.DEPTH, Place.PRELOAD})
        return self.chances.all - _PINION * pinion - _PART * len(self.touched) - _RELOAD * self.loads


def options(state: AxleState, display: Display, standings: Mapping[str, Standing]) -> tuple[Option, ...]:
    """Everything that can be done from this drawer, the most worth first.

    :param state: the axle, together: both sides in, backlash read.
    :param display: units of the words.
    :param standings: where it stands.
    :source: enumeration; near each wanted thickness the drawer's nearest packs are tried.
    """
    held = depth_held(state)
    found = [Option((), chances(state, held=held))]
    sure = found[0].chances.parts.get("carrier_preload", 1.0) >= _HARDLY
    for depth in _depths(state, held):
        # What the sides do goes by the depth alone: it is planned once for all preload packs.
        plans: dict[str, SidesPlan | None] = {"": None}
        for sides in _SIDES[1:] if sure else _PRELOAD_TOO[1:]:
            plan = _sides(state, display, standings, _deeper(state, depth), sides)
            if plan is not None and plan.changes:
                plans[sides] = plan
        for preload in _preloads(state, depth):
            for sides, plan in plans.items():
                made = _made(state, held, depth, preload, plan, loads=sides == "both")
                if made is not None:
                    found.append(made)
    return tuple(sorted(found, key=lambda o: -o.worth))


def _deeper(state: AxleState, depth: Pack | None) -> float:
    """How much deeper another depth shim puts the pinion [mm]."""
    if depth is None:
        return 0.0
    return state.layout.depth_sign * float(depth.thickness - state.setting(Place.DEPTH))


def _depths(state: AxleState, held: DepthHeld | None) -> Iterator[Pack | None]:
    """No other depth shim, then the nearest packs to the one that is wanted."""
    yield None
    if Place.DEPTH in state.fixed:
        return
    if held is None or not _LEAST_STEP <= abs(held.error) <= FARTHEST:
        return
    wanted = float(state.setting(Place.DEPTH)) - state.layout.depth_sign * held.error
    for pack in _near(state, Place.DEPTH, wanted):
        if abs(pack.thickness - state.setting(Place.DEPTH)) > _SAME:
            yield pack


def _preloads(state: AxleState, depth: Pack | None) -> Iterator[Pack | None]:
    """The preload pack as it is, then the surest packs for the depth that is tried."""
    limits = state.preload_range()
    there = _with(state, depth)
    if limits is None and depth is not None and state.layout.preload_per_depth:
        # Nobody judges it: it follows, so that the bearings stay as they are.
        change = depth.thickness - state.setting(Place.DEPTH)
        yield from _near(state, Place.PRELOAD, float(state.setting(Place.PRELOAD) + change))
        return
    yield None
    if limits is None or not state.layout.has_preload_pack or Place.PRELOAD in state.fixed:
        return
    trials = trials_of(there)
    for found in preload_packs(there, trials, limits)[:2]:
        if abs(found.pack.thickness - state.setting(Place.PRELOAD)) > _EXACT:
            yield found.pack


def _near(state: AxleState, place: Place, wanted: float) -> tuple[Pack, ...]:
    asked = Decimal(str(round(wanted, 5)))
    if not 0 < asked < THICKEST_PACK:
        return ()
    choice = choose(asked, _EXACT, state.drawer.get(place, ()))
    packs = [pack for pack in (choice.pack, *choice.nearest) if pack is not None and pack.pieces]
    return tuple({pack.thickness: pack for pack in packs}.values())[:2]


def _with(state: AxleState, depth: Pack | None) -> AxleState:
    if depth is None:
        return state
    return replace(state, settings={**state.settings, Place.DEPTH: depth.thickness})


def _made(
    state: AxleState,
    held: DepthHeld | None,
    depth: Pack | None,
    preload: Pack | None,
    plan: SidesPlan | None,
    *,
    loads: bool,
) -> Option | None:
    swaps: list[Swap] = []
    for place, pack in ((Place.DEPTH, depth), (Place.PRELOAD, preload)):
        if pack is not None:
            asked = _asked(state, held, place, depth)
            swaps.append(Swap(place, state.setting(place), pack.thickness, pack, asked or pack.thickness))
    if depth is not None and state.layout.depth_spoils_sleeve:
        sleeve = state.setting(Place.PRELOAD)
        swaps.append(Swap(Place.PRELOAD, sleeve, sleeve + 1, None, sleeve + 1))
    if plan is not None:
        swaps += [swap for swap in plan.swaps if swap.change]
    if not swaps:
        return None
    after: Settings = {**state.settings, **{swap.place: swap.after for swap in swaps}}
    if locks_gears(state, after):
        return None
    return Option(
        tuple(swaps),
        chances(state, after, held=held),
        _deeper(state, depth),
        plan,
        plan.notes if plan else (),
        plan.others if plan else (),
        frozenset(swap.place for swap in swaps),
        loads,
    )


def _asked(state: AxleState, held: DepthHeld | None, place: Place, depth: Pack | None) -> Decimal | None:
    """What the arithmetic asks for at the pinion's places, before the drawer has its say."""
    if place is Place.DEPTH and held is not None:
        wanted = float(state.setting(place)) - state.layout.depth_sign * held.error
        return Decimal(str(round(wanted, 5)))
    limits, curve = state.preload_range(), trials_of(_with(state, depth)).curve
    if place is Place.PRELOAD and limits is not None and curve is not None:
        return Decimal(str(round(state.layout.preload_sign * curve.setting_for(limits.aim), 5)))
    return None


def _sides(
    state: AxleState, display: Display, standings: Mapping[str, Standing], deeper: float, sides: str
) -> SidesPlan | None:
    carrier = standings.get("carrier_preload")
    stays = carrier is not None and carrier.is_done and sides != "both"
    target, _ = load_wanted(state, is_done=stays)
    backlash = _aimed(state, centred=sides in ("centred", "both"))
    try:
        return plan_sides(state, display, interference=target, deeper=deeper, backlash=backlash)
    except AxleError:
        return None


def _aimed(state: AxleState, *, centred: bool) -> float | None:
    """Backlash to aim at: the middle; where the pattern comes first, the set's own as prints tell it.

    Nothing leaves it to the plan, which lets a backlash that is in range be.
    """
    limits, lash = state.sheet.backlash_limits(), lash_now(state)
    held = depth_held(state) if state.policy == "pattern" else None
    if held is None and centred and limits is not None:
        every = limits.rule is Rule.EVERY and lash is not None
        return limits.aim - lash.around.spread / 2 if every and lash else aim(state, limits)
    if held is None or held.lash is None or limits is None:
        return None
    margin = min((limits.upper - limits.low) / 3, 0.03)
    return min(max(held.lash, limits.low + margin), limits.upper - margin)


def whole_move(
    state: AxleState,
    display: Display,
    standings: Mapping[str, Standing],
    station: str,
    found: tuple[Option, ...],
) -> Move | None:
    """Write out the best option as a move.

    :param state: the axle.
    :param display: units of the words.
    :param standings: where it stands.
    :param station: where the move belongs.
    :param found: options, the most worth first.
    :returns: nothing where no change touches what is out; where none helps, what does.
    :source: :func:`options`.
    """
    best = _best(station, found)
    if best is None:
        return None
    move = _written(state, display, standings, station, best, found)
    return move if is_better(state, move) else nothing_nearer(state, move, display)


def _best(station: str, found: tuple[Option, ...]) -> Option | None:
    """The option that is worth most; where that is to leave it, the surest that could cure the station."""
    if found[0].swaps:
        return found[0]
    cures = [option for option in found if option.touched & _CURES[station]]
    return max(cures, key=lambda option: option.chances.all, default=None)


def _written(
    state: AxleState,
    display: Display,
    standings: Mapping[str, Standing],
    station: str,
    best: Option,
    found: tuple[Option, ...],
) -> Move:
    """An option as a move, with its arithmetic and what is expected of it."""
    lines = [*_depth_lines(state, display, best), *_preload_lines(state, display, best)]
    notes = list(best.notes)
    expected: list[Expected] = []
    if best.plan is not None:
        carrier = standings["carrier_preload"]
        target, own = load_wanted(state, is_done=carrier.is_done and not best.loads)
        lines += preload_lines(state, display, carrier, target, own)
        lines += lash_lines(state, best.plan, display)
        lines += [side_line(state, best.plan, display), sum_check(state, best.plan, display)]
        expected += expected_of(state, best.plan, own)
        if best.touched <= {Place.RING, Place.FAR}:
            notes += stay_notes(state, best.plan, target, display)
    elif best.chances.lash is not None and best.deeper:
        moved, unsure = best.chances.lash
        notes.append(f"The sides stay: backlash {display.show(moved)} {display.length.symbol} is expected.")
        expected.append(band_of("Smallest backlash", moved, unsure))
    expected += _preload_expected(state, best)
    return Move(
        Act.CHANGE,
        _title(state, best),
        station,
        best.swaps,
        tuple(expected),
        stale_after(best.swaps, state),
        tuple(filter(None, lines)),
        tuple(notes),
        best.others,
        chance=best.chances.all,
        parts=tuple(best.chances.parts.items()),
        runner_up=_runner_up(best, found),
    )


# What has to change where a station stays out although leaving it looked best.
_CURES: Final = {
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


def _touches(option: Option) -> list[str]:
    return [name for name, places in _PARTS.items() if option.touched & places]


def _named(option: Option) -> str:
    words = [_WORDS[name] for name in _touches(option)]
    sleeve = any(s.place is Place.PRELOAD and s.pack is None for s in option.swaps)
    if sleeve:
        words = ["a new sleeve" if w == _WORDS["preload"] else w for w in words]
    return words[0] if len(words) == 1 else f"{', '.join(words[:-1])} and {words[-1]}"


def _title(state: AxleState, option: Option) -> str:
    touched = _touches(option)
    if touched == ["sides"] and option.plan is not None:
        return title_of(state, option.plan)
    return f"Change {_named(option)}"


def _runner_up(best: Option, found: tuple[Option, ...]) -> str:
    """The next best that touches other parts, and why not that one."""
    other = next((o for o in found if o.touched != best.touched), None)
    if other is None:
        return ""
    what = f"Change {_named(other)}" if other.swaps else "Leave it as it is"
    chance = f"{percent(other.chances.all)} sure"
    gap = best.chances.all - other.chances.all
    if gap > 0.02:
        worst = min(other.chances.parts, key=lambda name: other.chances.parts[name])
        name = worst.replace("_", " ")
        return f"{what}: {chance}; {name} would be in with {percent(other.chances.parts[worst])}."
    return f"{what}: {chance} as well{', and more comes apart' if other.swaps else ''}."


def _depth_lines(state: AxleState, display: Display, option: Option) -> list[str]:
    held = depth_held(state)
    if held is None or not option.deeper:
        return []
    unit = display.length.symbol
    by = []
    if held.gauge is not None:
        by.append("the gauge")
    if held.count:
        by.append(f"{held.count} print{'s' if held.count > 1 else ''}")
    way = "deep" if held.error > 0 else "shallow"
    to = "out" if option.deeper < 0 else "in"
    lines = [
        f"By {' and '.join(by) or 'what is usual'} the pinion is {display.show(abs(held.error))} ± "
        f"{display.show(held.spread)} {unit} too {way}: move it {to} by {display.show(abs(option.deeper))}."
    ]
    if state.layout.preload_per_depth and Place.PRELOAD in option.touched:
        lines.append("The stacks are coupled: the preload pack follows the depth shim.")
    if Place.PRELOAD in option.touched and not state.layout.has_preload_pack:
        lines.append("A crushed sleeve is not used again: a new one goes in.")
    return lines


def _preload_swap(option: Option) -> Swap | None:
    """The preload pack that an option changes; a new sleeve is none."""
    return next((s for s in option.swaps if s.place is Place.PRELOAD and s.pack is not None), None)


def _preload_lines(state: AxleState, display: Display, option: Option) -> list[str]:
    swap, limits = _preload_swap(option), state.preload_range()
    if swap is None or limits is None:
        return []
    aimed = display.show(limits.aim, Dimension.TORQUE)
    return [
        f"Preload pack {display.show(float(swap.before))} → {display.show(float(swap.after))} "
        f"{display.length.symbol} for {aimed} {display.torque.symbol}{aim_words(limits)}."
    ]


def _preload_expected(state: AxleState, option: Option) -> list[Expected]:
    swap = _preload_swap(option)
    if swap is None:
        return []
    after = {**state.settings, **{s.place: s.after for s in option.swaps}}
    curve = trials_of(replace(state, settings=after)).curve
    if curve is None:
        return []
    setting = state.layout.preload_sign * float(swap.after)
    middle, spread = curve.torque(setting), curve.torque_spread(setting)
    return [Expected.around("Pinion rotating torque", middle, spread, Dimension.TORQUE)]


def is_due(standings: Mapping[str, Standing]) -> bool:
    """Say whether a station that packs can put right is out of range.

    :param standings: where the axle stands.
    :source: the sheet's limits.
    """
    return any(
        standings[name].status is Status.OUT
        and (result := standings[name].result) is not None
        and result.decided
        for name in SET
        if name in standings
    )
