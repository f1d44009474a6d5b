"""What can be read where the work stands: methods that are shut, trials that tell nothing, hands that judge."""

from __future__ import annotations

from collections import Counter
from dataclasses import replace
from decimal import Decimal

import pytest

from axle.decision.carrier.plan import load_wanted, plan_sides
from axle.decision.fault_checks import inconsistencies
from axle.decision.move import Act
from axle.decision.next_move import next_move
from axle.decision.pack_swap import drawer_without
from axle.decision.probability import in_range_probabilities
from axle.layout import CarrierBy, DepthShim, Layout, Place, PreloadBy
from axle.measure.units import IMPERIAL
from axle.preload.curve import CARRIER_SLOPE, PINION_SLOPE, Trial, fit, interference_for, torque_at
from axle.procedure.stations import stations
from axle.shims.pieces import Pack
from axle.state.axle_state import AxleState
from axle.state.reading import Reading
from axle.stations.carrier_torque import carrier_torque, carrier_trials, torque_curve
from axle.stations.depth import shows_nothing
from axle.stations.method import can_be_read, chosen_method
from axle.stations.station_state import Status, stand
from axle.stations.zero_play import interference_setting
from tests.axle.rig import IN_LB, THOU, mm
from tests.axle.test_advice import PACKS, standing_axle, taken
from tests.axle.test_lash import bare, by
from tests.axle.test_pinion_advice import axle, read

CARTRIDGE = Layout(DepthShim.CARTRIDGE, PreloadBy.SPACER, CarrierBy.OUTBOARD)


def carrier_first() -> tuple[str, ...]:
    """Common practice, no source: on a drop-out housing the carrier's preload comes before the pinion."""
    order = list(stations())
    order.remove("carrier_preload")
    order.insert(order.index("depth"), "carrier_preload")
    return tuple(order)


# ---- methods of measuring


def test_the_whole_cannot_be_turned_before_the_pinion_is_in():
    bench = replace(standing_axle(), stations=carrier_first(), readings=(), settings={})
    assert not can_be_read("total_torque", "carrier_preload", bench)
    assert can_be_read("carrier_torque", "carrier_preload", bench)
    together = replace(standing_axle(), stations=carrier_first())
    assert can_be_read("total_torque", "carrier_preload", together)


def test_a_method_that_is_shut_is_passed_over():
    methods = {"carrier_preload": "subtraction"}
    bench = replace(standing_axle(), stations=carrier_first(), readings=(), settings={}, methods=methods)
    assert chosen_method(bench, "carrier_preload").name == "alone"
    assert chosen_method(replace(standing_axle(), methods=methods), "carrier_preload").name == "subtraction"


def test_a_change_of_the_pinion_shuts_subtraction_again():
    # Common practice, no source: with the pinion out for its shim the carrier goes in first once more.
    state = replace(standing_axle(), stations=carrier_first(), methods={"carrier_preload": "subtraction"})
    apart = replace(state, settings={**PACKS, Place.PRELOAD: mm(22)})
    assert chosen_method(state, "carrier_preload").name == "subtraction"
    assert chosen_method(apart, "carrier_preload").name != "subtraction"


def test_no_end_play_asks_for_the_torque_whatever_way_was_chosen():
    play = taken("pinion_end_play", 0.0, 9, settings=PACKS)
    state = standing_axle()
    state = replace(
        state,
        readings=(*(t for t in state.readings if t.kind != "pinion_torque"), play),
        methods={"pinion_preload": "play"},
    )
    move = next_move(state)
    assert move.act is Act.READ
    assert move.asks == (("pinion_torque", 1),)


# ---- a gauge that shows nothing


def trial(*readings: Reading, depth: str = "0.7") -> AxleState:
    shims = {Place.DEPTH: Decimal(depth)}
    return axle(CARTRIDGE, *(replace(t, settings=t.settings or shims) for t in readings), settings=shims)


@pytest.mark.parametrize(("kind", "method"), [("depth_feeler", "gauge"), ("dial_travel", "dial")])
def test_a_trial_under_a_cartridge_that_shows_nothing_is_made_thicker(kind, method):
    # Common practice, no source: a gauge can only take away from a trial shim.
    side_play = taken("arrival_side_play", 0.0)
    state = replace(trial(read(kind, 0.0, 1), side_play), methods={"depth": method}, stations=("depth",))
    assert shows_nothing(state) is not None
    assert stand(state)["depth"].status is Status.OUT
    move = next_move(state)
    assert move.title == "Fit a thicker trial shim"
    (swap,) = (s for s in move.swaps if s.place is Place.DEPTH)
    assert swap.change > Decimal("0.4")
    fitted = replace(state, settings={Place.DEPTH: swap.after})
    again = next_move(fitted)
    assert (again.act, again.asks) == (Act.READ, ((kind, 1),))


def test_nothing_shown_once_something_was_is_a_last_check():
    thick = {Place.DEPTH: Decimal("1.2")}
    state = trial(read("depth_feeler", 0.5, 1, settings=thick), read("depth_feeler", 0.0, 2))
    assert shows_nothing(state) is None
    assert stand(replace(state, stations=("depth",)))["depth"].result.words != "trial too thin"


def test_a_head_shim_s_gauge_that_shows_nothing_is_right():
    assert shows_nothing(axle(replace(CARTRIDGE, depth_shim=DepthShim.HEAD))) is None
    assert stand(standing_axle())["depth"].status is Status.IN_RANGE


# ---- two witnesses of one preload


def both_read(alone: float, whole: float) -> AxleState:
    """The carrier read alone, then by subtraction, on the same packs [in·lb]."""
    state = standing_axle()
    more = taken("carrier_torque", alone * IN_LB, 2, settings=PACKS)
    rest = tuple(t for t in state.readings if t.kind != "total_torque")
    return replace(state, readings=(*rest, more, taken("total_torque", whole * IN_LB, 9, settings=PACKS)))


def test_on_the_same_sides_the_carrier_alone_counts_for_more():
    # Models §5: a subtraction carries the ratio times both readings' errors.
    state = both_read(20.0, 26.0)
    torque, std, behind = carrier_torque(state)
    assert [t.kind for t in behind] == ["carrier_torque"]
    assert torque == pytest.approx(20 * IN_LB)
    assert std < 0.05
    assert len(carrier_trials(state)) == 2
    curve = torque_curve(state)
    at = interference_setting(state, state.settings)
    assert curve.torque(at) == pytest.approx(20 * IN_LB, rel=0.05)


def test_after_a_change_of_sides_the_newer_counts():
    state = both_read(20.0, 26.0)
    moved = {**PACKS, Place.RING: PACKS[Place.RING] + mm(2), Place.FAR: PACKS[Place.FAR] - mm(2)}
    newer = taken("total_torque", 25.0 * IN_LB, 11, settings=moved)
    state = replace(state, settings=moved, readings=(*state.readings, newer))
    assert carrier_torque(state)[2][0].kind == "total_torque"


def test_the_aim_is_how_much_tighter_than_now_the_curve_asks_for():
    # Zero by play and zero by the curve differ; the packs come out by the curve: its own torque is aimed at.
    state = replace(both_read(12.0, 23.0), methods={"carrier_preload": "alone"})
    target, curve = load_wanted(state, is_done=False)
    now = interference_setting(state, state.settings)
    limits = state.sheet.range("carrier_preload")
    moved = curve.setting_for(limits.middle) - now
    assert curve.torque(now + moved) == pytest.approx(limits.middle, rel=1e-6)
    assert target is not None
    assert moved > 0  # 12 in·lb is under its range


# ---- judgements by hand


@pytest.mark.parametrize(("grade", "low", "high"), [(3, 0.7, 0.95), (1, 0.0, 0.3), (4, 0.0, 0.3)])
def test_taps_enter_the_chance_with_their_own_doubt(grade, low, high):
    # Common practice, no source: light taps of a driver are the school's measure, and hands differ.
    state = bare(school="tap_in", method="taps")
    state = replace(state, readings=(*state.readings, taken("tap_in", grade, 60, settings=state.settings)))
    assert low < in_range_probabilities(state).parts["carrier_preload"] < high


def test_packs_still_to_be_tapped_in_are_judged_less_surely():
    state = bare(school="tap_in", method="taps")
    state = replace(state, readings=(*state.readings, taken("tap_in", 3, 60, settings=state.settings)))
    thicker = {**state.settings, Place.FAR: state.setting(Place.FAR) + mm(2)}
    now, then = (in_range_probabilities(state, after).parts["carrier_preload"] for after in (None, thicker))
    assert then < now


def test_a_steady_pull_enters_the_chance():
    # Common practice, no source: 70 to 75 ft·lb on the last adjuster.
    at = {Place.RING: Decimal(0), Place.FAR: Decimal(0)}
    state = bare(by(CarrierBy.ADJUSTERS), "adjuster_torque", "pull", settings=at)
    good, weak = (
        in_range_probabilities(
            replace(
                state,
                readings=(Reading("adjuster_pull", 1, value=value, order=60, assembly=1, settings=at),),
            )
        ).parts
        for value in (98.0, 60.0)
    )
    assert good["carrier_preload"] > 0.8
    assert weak["carrier_preload"] < 0.2


# ---- the search for the curve


@pytest.mark.parametrize("slope", [PINION_SLOPE, CARRIER_SLOPE])
@pytest.mark.parametrize("stiff", [0.7, 0.85, 1.0, 1.2, 1.35])
@pytest.mark.parametrize("first", [0.12, 0.2, 0.5])  # four times what a torque scatters, and more
def test_a_first_trial_that_hardly_drags_does_not_strand_the_search(slope, stiff, first):
    # Exact law of line contact (ISO/TS 16281: load ~ deflection to the power 10/9), one bearing pair softer
    # or stiffer than usual by what catalogues let them differ.
    coefficient = stiff * slope.coefficient
    near = interference_for(first, coefficient)
    far = interference_for(2.0, coefficient)
    spreads = 0.03, 0.04
    trials = [
        Trial(at, torque=torque_at(at, coefficient), std=spread)
        for at, spread in zip((near, far), spreads, strict=True)
    ]
    curve = fit(trials, slope)
    for made, spread in zip(trials, spreads, strict=True):
        assert curve.torque(made.setting) == pytest.approx(made.torque, abs=2.5 * spread)
    assert curve.coefficient / slope.coefficient == pytest.approx(stiff, rel=0.25)
    assert curve.factor_spread < 0.148  # two trials tell more of the slope than its prior


def test_a_sound_soft_pair_is_not_called_dry():
    low = taken("pinion_torque", 1.25 * IN_LB, 8, settings={**PACKS, Place.PRELOAD: mm(24.5)})
    right = taken("pinion_torque", 20 * IN_LB, 9, settings=PACKS)
    state = standing_axle()
    rest = tuple(t for t in state.readings if t.kind != "pinion_torque")
    found = inconsistencies(replace(state, readings=(*rest, low, right)), IMPERIAL)
    assert "pinion_preload" not in [t.station for t in found]


# ---- one drawer for both sides


def test_a_shim_that_goes_to_the_ring_side_is_not_offered_to_the_far_side():
    # A shim is in one place: the two 40s of this drawer cannot be both sides' at once.
    state = standing_axle()
    shared = tuple(replace(piece, fitted=False) for piece in state.drawer[Place.RING])
    state = replace(state, drawer={**state.drawer, Place.RING: shared, Place.FAR: shared})
    plan = plan_sides(state, IMPERIAL, backlash=12 * THOU)
    used = [piece.key for swap in plan.swaps for piece in swap.pack.pieces]
    held = Counter(piece.key for piece in shared)
    assert all(count <= held[key] for key, count in Counter(used).items())


def test_what_a_side_has_in_already_stays_its_own():
    state = standing_axle()
    mine = replace(state.drawer[Place.RING][0], fitted=True)
    left = drawer_without(state, Place.FAR, Pack((mine,)))
    assert left.drawer[Place.FAR] == state.drawer[Place.FAR]
    one = replace(mine, fitted=False)
    fewer = drawer_without(state, Place.FAR, Pack((one,))).drawer[Place.FAR]
    assert len(fewer) == len(state.drawer[Place.FAR]) - 1
    assert drawer_without(state, Place.FAR, None) is state
