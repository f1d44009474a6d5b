"""What is held of the pinion's depth: by the gauge, by every print of the job, by both, and by the hand."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import Final

from axle.contact.joint_estimate import JointEstimate, PrintObservation, Prior, joint_estimate
from axle.contact.reading import PatternVerdict, read_pattern
from axle.depth.result import chance_within, depth_error
from axle.errors import AxleError
from axle.layout import Place
from axle.measure.range import BacklashLevel
from axle.measure.uncertainty import birge_ratio
from axle.procedure.names import KindName
from axle.state.axle_state import AxleState
from axle.state.kept import kept
from axle.state.priors import Quantity, starting_widths
from axle.state.reading import Print, Reading
from axle.state.settings import Settings
from axle.stations.backlash import correct_for_indicator, ratios_now
from axle.stations.by_hand import with_hand
from axle.stations.depth_measurements import wanted_depth
from axle.stations.print_target import BOTH, Prints, apart, centroids_of, without_repeats
from axle.stations.zero_play import deeper_between

# How well heights of a patch tell depth where the set cannot be computed, from memory.
_BY_HEIGHTS: Final = 0.08
# A gauge and the prints further apart than this, in standard deviations, do not speak of one pinion.
APART: Final = 3.0
# How often a gauge or a print is off by far more than is held of it, and by how much: a burr under the
# arbor, a smeared patch, a cut of its own; from memory.
_TAIL: Final = 0.03
_TAIL_TIMES: Final = 2.5
# From so many standard deviations on they widen each other, and by so much at the most.
WIDENS: Final = 2.0
_MOST_WIDER: Final = 1.6
_WIDE: Final = 0.5
# No pinion that was ever in its axle is further off than this [mm], 60 thou: a reading is wrong then.
FARTHEST: Final = 1.5


@dataclass(frozen=True)
class DepthEstimate:
    """What is held of the depth as the pinion stands now.

    :param error: depth error [mm], > 0 too deep.
    :param std: one standard deviation [mm].
    :param gauge: by the gauge alone, with its standard deviation [mm], or nothing.
    :param prints: by the prints alone, likewise.
    :param count: prints behind it.
    :param misfit: the worst print's residual against all the rest, in standard deviations.
    :param backlash: backlash of this set at its right place [mm], as the prints tell it, or nothing.
    :param backlash_std: its standard deviation [mm].
    """

    error: float
    std: float
    gauge: tuple[float, float] | None = None
    prints: tuple[float, float] | None = None
    count: int = 0
    misfit: float = 0.0
    backlash: float | None = None
    backlash_std: float = 0.0

    @property
    def discrepancy(self) -> float:
        """How far the gauge and the prints lie apart, in standard deviations; 0 without both."""
        if self.gauge is None or self.prints is None:
            return 0.0
        return abs(self.gauge[0] - self.prints[0]) / math.hypot(self.gauge[1], self.prints[1])

    def within(self, tolerance: float, moved: float = 0.0, std: float = 0.0) -> float:
        """Chance that the pinion is truly within a tolerance [mm], once it came deeper by so much."""
        usual = chance_within(self.error + moved, math.hypot(self.std, std), tolerance)
        wide = chance_within(self.error + moved, math.hypot(_TAIL_TIMES * self.std, std), tolerance)
        return (1 - _TAIL) * usual + _TAIL * wide


@kept
def depth_posterior(state: AxleState) -> DepthEstimate | None:
    """What is held of the depth as the pinion stands now.

    :param state: the axle.
    :returns: nothing before a depth shim is in.
    :source: :func:`axle.contact.joint_estimate.joint_estimate`, its width by the Birge ratio of this job's
        prints; common practice for what a gauge leaves; :func:`axle.stations.by_hand.with_hand`.
    """
    fitted = float(state.setting(Place.DEPTH))
    if not fitted:
        return None
    gauge = _by_gauge(state, fitted)
    quantity = Quantity.OLD_PACK if Place.DEPTH in state.old_packs else Quantity.USUAL_PACK
    before = with_hand(state, gauge or (0.0, state.priors.std(quantity)))
    printed = tuple(_of_this_pinion(state))
    if not printed:
        return DepthEstimate(*before, gauge)
    prints = Prints(state)
    found = _computed(state, prints, printed, before)
    if found is None:
        return _by_heights(state, printed, before, gauge)
    alone = _computed(state, prints, printed, (0.0, _WIDE)) if gauge else found
    told = (alone.depth, alone.depth_std) if alone else None
    std, least = found.depth_std, 0.0
    if gauge and told:
        # A gauge and prints that lie apart widen each other: one of the two is off by more than was held of
        # it.
        apart = abs(gauge[0] - told[0]) / math.hypot(gauge[1], told[1])
        if apart > APART and alone:
            # Practitioners agree on one thing: a gauge gets near, the pattern has the last word.
            found, std = alone, alone.depth_std * _MOST_WIDER
            least = 1.0
        elif apart > WIDENS:
            least = 1.0
            wider = _computed(state, prints, printed, (gauge[0], gauge[1] * (apart / WIDENS) ** 2)) or found
            found, std = wider, wider.depth_std * min(apart / WIDENS, _MOST_WIDER)
    # Of what is believed in the end: a gauge that is left out does not make the prints scatter, and what
    # lies apart makes no job surer.
    scatter = max(birge_ratio(found.chi_square, found.count), least)
    return DepthEstimate(
        found.depth,
        std * scatter,
        gauge=gauge,
        prints=told,
        count=len(printed),
        misfit=max(found.misfits, default=0.0),
        backlash=found.backlash,
        backlash_std=found.backlash_std,
    )


def prints_here(state: AxleState) -> list[Print]:
    """Whole prints of the assembly in hand, oldest first.

    :param state: the axle.
    :source: the job's records.
    """
    mine = (p for p in state.prints if p.assembly == state.assembly and set(p.flanks) >= BOTH)
    return without_repeats(sorted(mine, key=lambda p: p.order))


def _by_gauge(state: AxleState, fitted: float) -> tuple[float, float] | None:
    if state.methods.get("depth") == "trial":
        return None
    wanted = wanted_depth(state)
    if wanted is None:
        return None
    leaves = state.priors.of(Quantity.GAUGE_LEAVES)
    error = depth_error(state.layout, fitted, wanted.thickness) - leaves.centre
    return error, math.hypot(wanted.uncertainty, leaves.std)


def _of_this_pinion(state: AxleState) -> list[Print]:
    """Whole prints on these bearings, this slinger and this clocking, oldest first.

    Of an assembly's prints those that agree with its newest count: a poor one is not averaged in.
    """
    stands = (Place.BEARINGS, Place.SLINGER, Place.CLOCK)
    mine = sorted(
        (p for p in state.prints if set(p.flanks) >= BOTH and p.settings.same_at(state.settings, stands)),
        key=lambda p: p.order,
    )
    newest = {p.assembly: p for p in mine}
    kept = [p for p in mine if p is newest[p.assembly] or not apart(p, newest[p.assembly])]
    return without_repeats(kept)


def _computed(
    state: AxleState, prints: Prints, printed: tuple[Print, ...], before: tuple[float, float]
) -> JointEstimate | None:
    item = prints.cut_for_target(prints.target)
    if item is None:
        return None
    ratios, limits = ratios_now(state), state.sheet.backlash_limits()
    middle = limits.aim if limits else 0.2
    target = prints.target
    prior = Prior(
        *before,
        middle,
        state.priors.std(Quantity.WORN if state.used_gears else Quantity.LAPPED),
        ratios.per_ring,
        ratios.per_depth,
        target.cut_noise,
        eye=state.priors.std(Quantity.EYE),
    )
    try:
        return joint_estimate(item, prior, tuple(_shown(state, prints, p) for p in printed))
    except AxleError:
        return None


def _shown(state: AxleState, prints: Prints, item: Print) -> PrintObservation:
    centroids = centroids_of(item.flanks, state, 1)
    trust = prints.target.drive_trust
    weighed = (trust, 1.0) if state.gears.drive_convex else (1.0, trust)
    lash, std = _lash_on(state, item.settings)
    # As it is drawn here, by the hand that drew it; a shop's own scatter where that was learned.
    hand = state.priors.centre(Quantity.PRINT_SCATTER) / starting_widths()[Quantity.PRINT_SCATTER].centre
    return PrintObservation(
        replace(centroids, trust=weighed).widened(hand),
        deeper_between(state, state.settings, item.settings),
        backlash=lash,
        backlash_std=std,
        common=state.priors.centre(Quantity.PRINT_COMMON),
    )


def _lash_on(state: AxleState, settings: Settings) -> tuple[float | None, float]:
    """Mean backlash read on some settings, and how far the printed teeth may be from that mean."""
    places = (Place.RING, Place.FAR, Place.DEPTH, Place.CLOCK)
    newest: dict[int, Reading] = {}
    for reading in sorted(state.readings, key=lambda t: t.order):
        same = reading.settings.same_at(settings, places)
        if reading.kind == KindName.BACKLASH and same and not reading.backlash_conditions.doubts:
            newest[reading.place] = reading
    values = [correct_for_indicator(state, reading)[0] for reading in newest.values()]
    if not values or not min(values):
        return None, 0.0  # gears that lock do not tell where the ring gear is
    return sum(values) / len(values), math.hypot((max(values) - min(values)) / 3, 0.01)


def _by_heights(
    state: AxleState,
    printed: tuple[Print, ...],
    before: tuple[float, float],
    gauge: tuple[float, float] | None,
) -> DepthEstimate:
    """Depth by the usual chart, where the set cannot be computed: each print a thou or three."""
    newest = printed[-1]
    read = read_pattern(newest.flanks["drive"], newest.flanks["coast"], backlash=BacklashLevel.IN_RANGE)
    if read.says is PatternVerdict.UNCLEAR:
        return DepthEstimate(*before, gauge, None, len(printed))
    told = read.depth_error - deeper_between(state, state.settings, newest.settings)
    weights = before[1] ** -2, _BY_HEIGHTS**-2
    mean = (before[0] * weights[0] + told * weights[1]) / sum(weights)
    return DepthEstimate(
        mean, sum(weights) ** -0.5, gauge=gauge, prints=(told, _BY_HEIGHTS), count=len(printed)
    )
