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

from axle.decision.carrier.plan import aim, load_wanted, plan_sides
from axle.decision.carrier.shapes import SidesPlan
from axle.decision.forecast import locks_gears
from axle.decision.move import Swap
from axle.decision.pack_swap import make_swap
from axle.decision.probability import InRange, in_range_probabilities
from axle.errors import AxleError
from axle.layout import Place
from axle.measure.units import Display
from axle.procedure.names import StationName
from axle.shims.choose import choose
from axle.shims.pieces import THICKEST_PACK, Pack
from axle.spec.limits import BacklashRule
from axle.state.axle_state import AxleState
from axle.state.settings import Settings
from axle.stations.backlash import backlash_now
from axle.stations.depth_posterior import FARTHEST, DepthEstimate, depth_posterior
from axle.stations.pinion_trials import preload_packs, trials_of, wanted_pack
from axle.stations.preload_readings import PINION, knows
from axle.stations.station_state import Standing, Status

# What touching a part costs, as a chance: a pinion comes out with the carrier before it.
_PINION: Final = 0.05
_PART: Final = 0.004
# A preload pack that reads in range is changed with the depth shim only for so much.
_PACK_TOO: Final = 0.03
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
class Candidate:
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
    in_range: InRange
    deeper: float = 0.0
    plan: SidesPlan | None = None
    notes: tuple[str, ...] = ()
    others: tuple[tuple[Place, Pack], ...] = ()
    touched: frozenset[Place] = field(default_factory=frozenset)
    loads: bool = False

    @property
    def changes(self) -> Mapping[Place, Decimal]:
        """What it sets, by place [mm or holes]."""
        return {swap.place: swap.after for swap in self.swaps}

    @property
    def worth(self) -> float:
        """Chance that all is in range, less what is touched for it."""
        pinion = bool(self.touched & {Place.DEPTH, Place.PRELOAD})
        preload = _PACK_TOO * any(s.place is Place.PRELOAD and s.pack is not None for s in self.swaps)
        touched = _PART * len(self.touched) + _RELOAD * self.loads + preload
        return self.in_range.joint - _PINION * pinion - touched


def candidates(
    state: AxleState, display: Display, standings: Mapping[str, Standing]
) -> tuple[Candidate, ...]:
    """Everything that can be done from this drawer, the most worth first.

    :param state: the axle, together: both sides in, backlash read.
    :param display: units of the words.
    :param standings: where it stands.
    :source: enumeration; near each wanted thickness the drawer's nearest packs are tried.
    """
    depth_estimate = depth_posterior(state)
    found = [Candidate((), in_range_probabilities(state, held=depth_estimate))]
    sure = found[0].in_range.parts.get("carrier_preload", 1.0) >= _HARDLY
    for depth in _depths(state, depth_estimate):
        # What the sides do goes by the depth alone: it is planned once for all preload packs.
        plans: dict[str, SidesPlan | None] = {"": None}
        for sides in _SIDES[1:] if sure else _PRELOAD_TOO[1:]:
            plan = _sides(state, display, standings=standings, deeper=_deeper(state, depth), sides=sides)
            if plan is not None and plan.changes:
                plans[sides] = plan
        for preload in _preloads(state, depth):
            for sides, plan in plans.items():
                made = _made(
                    state, depth_estimate, depth=depth, preload=preload, plan=plan, loads=sides == "both"
                )
                if made is not None:
                    found.append(made)
    return tuple(sorted(found, key=lambda o: -o.worth))


def _deeper(state: AxleState, depth: Pack | None) -> float:
    """How much deeper another depth shim puts the pinion [mm]."""
    if depth is None:
        return 0.0
    return state.layout.depth_sign * float(depth.thickness - state.setting(Place.DEPTH))


def _depths(state: AxleState, held: DepthEstimate | None) -> Iterator[Pack | None]:
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
    return replace(state, settings=state.settings.changed({Place.DEPTH: depth.thickness}))


def _made(
    state: AxleState,
    held: DepthEstimate | None,
    depth: Pack | None,
    preload: Pack | None,
    plan: SidesPlan | None,
    *,
    loads: bool,
) -> Candidate | None:
    swaps: list[Swap] = []
    for place, pack in ((Place.DEPTH, depth), (Place.PRELOAD, preload)):
        if pack is not None:
            asked = _asked(state, held, place, depth)
            swaps.append(
                Swap(
                    place,
                    state.setting(place),
                    after=pack.thickness,
                    pack=pack,
                    asked=asked or pack.thickness,
                )
            )
    if depth is not None and state.layout.depth_spoils_sleeve:
        sleeve = state.setting(Place.PRELOAD)
        swaps.append(Swap(Place.PRELOAD, sleeve, after=sleeve + 1, pack=None, asked=sleeve + 1))
    if plan is not None:
        swaps += [swap for swap in plan.swaps if swap.change]
    if not swaps:
        return None
    after: Settings = state.settings.changed({swap.place: swap.after for swap in swaps})
    if locks_gears(state, after):
        return None
    return Candidate(
        tuple(swaps),
        in_range_probabilities(state, after, held=held),
        deeper=_deeper(state, depth),
        plan=plan,
        notes=plan.notes if plan else (),
        others=plan.others if plan else (),
        touched=frozenset(swap.place for swap in swaps),
        loads=loads,
    )


def _asked(
    state: AxleState, held: DepthEstimate | None, place: Place, depth: Pack | None
) -> Decimal | None:
    """What the arithmetic asks for at the pinion's places, before the drawer has its say."""
    if place is Place.DEPTH and held is not None:
        wanted = float(state.setting(place)) - state.layout.depth_sign * held.error
        return Decimal(str(round(wanted, 5)))
    limits, there = state.preload_range(), _with(state, depth)
    if place is Place.PRELOAD and limits is not None and knows(there, PINION):
        return wanted_pack(there, limits)
    return None


def what_is_lacking(
    state: AxleState, display: Display, standings: Mapping[str, Standing], places: frozenset[Place]
) -> tuple[tuple[str, ...], tuple[tuple[Place, Pack], ...]]:
    """What the drawer lacks for what the arithmetic asks at some places, and the nearest that it makes.

    :param state: the axle.
    :param display: units of the words.
    :param standings: where it stands.
    :param places: where something is out.
    :source: :func:`axle.decision.pack_swap.make_swap`.
    """
    if places & {Place.RING, Place.FAR}:
        plan = _sides(state, display, standings=standings, deeper=0.0, sides="centred")
        return (plan.notes, plan.others) if plan is not None else ((), ())
    estimate = depth_posterior(state)
    asked = [(place, _asked(state, estimate, place, None)) for place in places]
    made = [make_swap(state, place, float(t), display, _EXACT) for place, t in asked if t is not None]
    return tuple(m.note for m in made if m.note), tuple(other for m in made for other in m.others)


def _sides(
    state: AxleState, display: Display, standings: Mapping[str, Standing], deeper: float, sides: str
) -> SidesPlan | None:
    carrier = standings.get(StationName.CARRIER_PRELOAD)
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
    limits, lash = state.sheet.backlash_limits(), backlash_now(state)
    held = depth_posterior(state) if state.policy == "pattern" else None
    if held is None and centred and limits is not None:
        every = limits.rule is BacklashRule.EVERY and lash is not None
        return limits.aim - lash.around.variation / 2 if every and lash else aim(state, limits)
    if held is None or held.backlash is None or limits is None:
        return None
    margin = min((limits.upper - limits.low) / 3, 0.03)
    return min(max(held.backlash, limits.low + margin), limits.upper - margin)


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
