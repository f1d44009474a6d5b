"""Right at every edge: pinion, prints, packs and adjusters."""

from __future__ import annotations

import math
from dataclasses import replace
from decimal import Decimal
from itertools import pairwise

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from axle.contact.mark import By, Flanked, FlankMark
from axle.contact.patch import HEIGHTS, LENGTHS, SIZES, Patch
from axle.contact.print_conditions import Making
from axle.contact.reading import read_flank, read_pattern
from axle.decision.carrier.plan import plan_sides
from axle.decision.move import Act
from axle.decision.next_move import next_move
from axle.decision.pack_swap import choose_pack
from axle.decision.probability import in_range_probabilities
from axle.depth.allowances import for_slinger, preload_for_slinger
from axle.gearset import GearSet
from axle.layout import CarrierBy, DepthShim, Layout, Place, PreloadBy, SpacerSeat
from axle.measure.range import BacklashLevel
from axle.measure.uncertainty import Measured
from axle.measure.units import IMPERIAL
from axle.shims.pieces import Piece, PieceRole
from axle.spec.sheet import Figure, spec_value
from axle.state.axle_state import AxleState
from axle.state.reading import Print, Reading
from axle.stations.bearing_heights import net_preload
from axle.stations.depth_posterior import depth_posterior
from axle.stations.pattern import read_print
from axle.stations.pinion_trials import trial_reason, trials_of
from axle.stations.station_state import stand
from benchmarks.closed_loop.shop import LAYOUTS
from benchmarks.random_axles import judged
from tests.axle.rig import IN_LB, SHEET, THOU, drawer, mm
from tests.axle.test_advice import PACKS, TRIAL, standing_axle, taken, with_print
from tests.axle.test_edges import ADJUSTERS, AT_ZERO, wound
from tests.axle.test_lash import bare, lash
from tests.shares import share_of

# ---- the pinion: cartridge and sleeve, a torque of nothing, the seal


def sleeve_axle(depth: DepthShim = DepthShim.HEAD, *torques: tuple[float, dict], **more) -> AxleState:
    layout = Layout(depth, PreloadBy.SLEEVE, CarrierBy.OUTBOARD)
    packs = {Place.DEPTH: mm(29), Place.RING: mm(193), Place.FAR: mm(190)}
    readings = tuple(
        Reading(
            "pinion_torque",
            1,
            value=value * IN_LB,
            order=50 + n,
            assembly=1,
            settings=packs,
            conditions=how,
        )
        for n, (value, how) in enumerate(torques)
    )
    rest = tuple(replace(t, settings=packs) for t in standing_axle().readings if "torque" not in t.kind)
    return AxleState(
        layout,
        GearSet(9, 38),
        SHEET,
        settings=packs,
        readings=(*rest, *readings),
        drawer={place: drawer() for place in Place},
        **more,
    )


def test_a_cartridge_s_shim_spoils_no_sleeve_and_makes_no_preload_stale():
    # Common practice, no source: under a cartridge the shim has no part in the preload.
    for depth, spoils in ((DepthShim.HEAD, True), (DepthShim.CUP, True), (DepthShim.CARTRIDGE, False)):
        state = sleeve_axle(depth, (20, {}))
        moved = replace(state, settings={**state.settings, Place.DEPTH: mm(34)})
        assert bool(stand(moved)["pinion_preload"].stale) is spoils
        sure, after = (
            in_range_probabilities(state).parts["pinion_preload"],
            in_range_probabilities(state, moved.settings).parts["pinion_preload"],
        )
        assert (after == pytest.approx(sure)) is not spoils


def test_a_torque_of_nothing_asks_for_the_play_and_puts_zero_nowhere():
    packs = {Place.DEPTH: mm(29), Place.PRELOAD: mm(30)}
    nothing = (
        taken("depth_feeler", 0.0, 1, settings=packs),
        taken("pinion_torque", 0.0, 2, settings=packs),
    )
    state = AxleState(
        standing_axle().layout,
        GearSet(9, 38),
        SHEET,
        settings=packs,
        readings=nothing,
        drawer={place: drawer() for place in Place},
        stations=("depth", "pinion_preload", "sheet"),
    )
    assert trials_of(state).curve.zero_spread > 0.05
    move = next_move(state)
    assert move.act is Act.READ
    assert move.asks == (("pinion_end_play", 1),)
    play = taken("pinion_end_play", 0.15, 3, settings=packs)
    change = next_move(replace(state, readings=(*nothing, play))).ready_change
    assert change is not None
    assert -0.30 < float(change.swaps[0].change) < -0.15  # the play, and the preload


@pytest.mark.parametrize(
    ("torque", "says"),
    # Common practice, no source: the seal goes in before the crush, and drags some inch-pounds.
    [(29, "in range"), (18, "loose"), (36, "tight")],
)
def test_a_bite_with_the_seal_in_is_judged_less_the_seal_s_drag(torque, says):
    state = sleeve_axle(DepthShim.HEAD, (torque, {"seal": True}))
    result = stand(state)["pinion_preload"].result
    assert result.words == says
    assert "seal drags" in result.why[0]
    move = next_move(replace(state, stations=("pinion_preload", "sheet")))
    assert move.act is {"in range": Act.SIGN, "loose": Act.TIGHTEN, "tight": Act.REPLACE}[says]


def test_a_sheet_s_range_with_the_seal_in_comes_before_any_drag():
    sealed = spec_value("pinion_preload_seal", "20", high="30", unit="in-lb", source="maker")
    sheet = replace(SHEET, values={**SHEET.values, "pinion_preload_seal": sealed})
    for torque, says in ((29, "in range"), (19, "loose")):
        state = replace(sleeve_axle(DepthShim.HEAD, (torque, {"seal": True})), sheet=sheet)
        assert stand(state)["pinion_preload"].result.words == says


@pytest.mark.parametrize("how", [{"nut": "set_up"}, {"sleeve": "out"}])
def test_a_trial_never_meets_the_hold_for_final_parts(how):
    state = sleeve_axle(DepthShim.HEAD, (20, how))
    reading = state.latest("pinion_torque")
    assert trial_reason(state, reading)
    assert trial_reason(state, replace(reading, conditions={})) == ""
    trial = spec_value("pinion_preload_trial", "8", high="14", unit="in-lb", source="maker")
    sheet = replace(SHEET, values={**SHEET.values, "pinion_preload_trial": trial})
    assert stand(replace(state, sheet=sheet))["pinion_preload"].result.words == "tight"


def test_running_and_breakaway_are_not_compared():
    state = sleeve_axle(DepthShim.HEAD, (20, {"figure": "breakaway"}))
    assert stand(state)["pinion_preload"].result.words == "unlike"
    by_peak = replace(state, sheet=replace(SHEET, figure=Figure.BREAKAWAY))
    assert stand(by_peak)["pinion_preload"].result.words == "in range"


def test_a_turn_that_was_typed_is_used_by_the_next_bite():
    for log in (
        ((8, {"turned": 15}),),
        ((4, {}), (8, {"turned": 12})),
        ((2, {}), (4, {}), (8, {"turned": 12})),
    ):
        move = next_move(replace(sleeve_axle(DepthShim.HEAD, *log), stations=("pinion_preload", "sheet")))
        assert move.act is Act.TIGHTEN
        assert move.amount > 0, log
        assert not any("Enter how far" in note for note in move.notes)


# ---- prints


def said(state: AxleState, drive: tuple[str, str, str], coast: tuple[str, str, str], order: int) -> Print:
    flanks = {
        name: Flanked({1: FlankMark((Patch.quick(*three),), by=By.QUICK)})
        for name, three in (("drive", drive), ("coast", coast))
    }
    return Print(state.assembly, order, settings=state.settings, flanks=flanks, number=order)


@given(st.sampled_from([*HEIGHTS]), st.sampled_from([*LENGTHS]), st.sampled_from([*SIZES]))
def test_words_for_a_patch_are_the_words_that_are_shown_again(height, length, size):
    patch = Patch.quick(height, length, size)
    assert Patch.quick(*patch.quick_words).outline == patch.outline
    # Large and to the toe is not over the edge: only what is called at an edge reaches it.
    over = set(read_flank(patch, 0.45).edges)
    called = {word.removeprefix("at the ") for word in (height, length) if word.startswith("at the ")}
    assert over <= called


def test_a_little_lies_between_the_words_that_builders_had():
    heights = [HEIGHTS[word] for word in ("low", "a little low", "central", "a little high", "high")]
    assert heights == sorted(heights)
    assert max(b - a for a, b in pairwise(heights)) < 1 / 11


def test_the_same_words_again_are_no_new_evidence():
    words = ("low", "central", "usual")
    state = standing_axle(methods=TRIAL)
    one = replace(state, prints=(said(state, words, words, 1),))
    four = replace(state, prints=tuple(said(state, words, words, n) for n in (1, 2, 3, 4)))
    assert depth_posterior(four).std == pytest.approx(depth_posterior(one).std)
    assert depth_posterior(four).count == 1


def test_flanks_that_contradict_each_other_are_printed_again():
    state = standing_axle(methods=TRIAL)
    item = said(state, ("low", "central", "usual"), ("high", "central", "usual"), 1)
    move = next_move(replace(state, prints=(item,)))
    assert move.act is Act.PRINT
    assert "contradict" in " ".join(move.why)


def test_a_photo_counts_for_little_says_so_and_does_not_accuse_the_cut():
    state = standing_axle(methods=TRIAL)
    taken_so = {
        by: replace(
            state,
            prints=(
                Print(
                    1,
                    9,
                    settings=PACKS,
                    flanks={
                        name: Flanked({1: FlankMark((Patch.box(0.3, 0.7, low, low + 0.4),), by=by)})
                        for name, low in (("drive", 0.05), ("coast", 0.5))
                    },
                ),
            ),
        )
        for by in (By.HAND, By.PHOTO)
    }
    assert depth_posterior(taken_so[By.PHOTO]).std > 1.5 * depth_posterior(taken_so[By.HAND]).std
    told = " ".join(read_print(taken_so[By.PHOTO]).findings)
    assert "photo" in told
    assert "suspect the cut" not in told


def test_low_on_both_flanks_with_tight_backlash_names_both_schools():
    low = Patch.box(0.3, 0.7, 0.05, 0.35)
    disputed = read_pattern(low, low, backlash=BacklashLevel.TIGHT).disputed
    assert "opens the backlash" in disputed
    assert "moves the pinion out" in disputed


def test_a_pattern_that_wanders_far_is_not_good():
    marks = {
        n + 1: FlankMark((Patch.box(0.25, 0.65, 0.28 + s, 0.68 + s),))
        for n, s in enumerate(0.1 * math.cos(math.tau * k / 7) for k in range(7))
    }
    state = standing_axle(methods=TRIAL)
    flanks = {"drive": Flanked(marks), "coast": Flanked(marks)}
    item = Print(1, 9, settings=state.settings, flanks=flanks, number=1, making=Making(places=7))
    says = read_print(replace(state, prints=(item,)))
    assert not says.good
    assert says.wander.up > 0.15


# ---- packs


def test_what_can_be_made_is_never_called_impossible():
    base = Piece(1, mm(68), role=PieceRole.BASE)
    alone = Piece(2, Decimal("1.25"))
    thin = tuple(Piece(10 + n, mm(5)) for n in range(6))
    pack_choice = choose_pack(Decimal("1.25"), Decimal("0.005"), (base, alone), Place.RING)
    assert [piece.key for piece in pack_choice.pack.pieces] == [2]
    six = choose_pack(mm(30), Decimal("0.005"), thin, Place.DEPTH)
    assert six.pack.thickness == mm(30)
    both = choose_pack(
        mm(71), Decimal("0.005"), (base, *thin, Piece(3, mm(3)), Piece(4, mm(71))), Place.RING
    )
    assert both.pack.pieces[0].is_base  # a base shim first, where it does


def test_the_axle_s_own_piece_is_taken_before_a_bought_one():
    drawer_ = (Piece(1, mm(30)), Piece(2, mm(30), own=True), Piece(3, mm(30)))
    assert choose_pack(mm(30), Decimal("0.001"), drawer_, Place.DEPTH).pack.pieces[0].key == 2


def test_sides_are_chosen_together_so_that_the_sum_comes_right():
    """Neither side can be made alone; together the preload's sum can (common practice: the sum is the preload)."""
    state = standing_axle(lash=(13, 13, 13, 13))
    sides = tuple(Piece(n, mm(size)) for n, size in enumerate((195.5, 198.5, 184.5, 187.5, 185.8)))
    pieces = {**{place: drawer() for place in Place}, Place.RING: sides, Place.FAR: sides}
    plan = plan_sides(replace(state, drawer=pieces), IMPERIAL)
    total = sum(s.after for s in plan.swaps)
    assert abs(total - (PACKS[Place.RING] + PACKS[Place.FAR])) <= mm(0.6), plan.swaps


def test_coupled_stacks_show_one_net_change_that_leaves_no_play():
    for layout in LAYOUTS:
        slinger = for_slinger(layout, Measured(0.5), 1)
        alone = preload_for_slinger(layout, 0.5, 1, in_stack=False)
        net = net_preload(layout, [slinger], alone)
        if layout.has_preload_pack and layout.depth_sign > 0 and layout.spacer_seat is SpacerSeat.SHOULDER:
            # Half a millimetre in at the slinger, out at the shim: the stack on the shoulder is as it was.
            assert net == pytest.approx(0)


def test_one_tolerance_of_depth_named_where_it_comes_from():
    state = standing_axle()
    assert state.depth_tolerance == pytest.approx(2 * THOU)
    assert state.depth_tolerance_source == "made up for the demo"
    bare_sheet = replace(SHEET, values={k: v for k, v in SHEET.values.items() if k != "depth_tolerance"})
    assert "common practice" in replace(state, sheet=bare_sheet).depth_tolerance_source


# ---- adjusters


@settings(max_examples=share_of(100, 40))
@given(st.integers(1, 28), st.floats(-30.0, 30.0), st.floats(0.05, 0.5))
def test_every_move_of_adjusters_says_in_which_order_they_turn(backlash, holes, height):
    state = lash(bare(ADJUSTERS, "holes", settings=AT_ZERO), *[float(backlash)] * 4)
    state = with_print(wound(state, str(round(holes)), str(-round(holes))), (height, height + 0.4))
    move = next_move(state).ready_change
    if move is not None and any(s.change for s in move.swaps if s.place in (Place.RING, Place.FAR)):
        assert any("settle the cups" in note for note in move.notes), move.notes


def test_a_gauge_that_shows_nothing_excuses_no_other_move():
    # Found by random axles: a loose pinion was to get a pack that is looser still.
    for seed in (401518, 60728, 50045):
        assert not judged(seed).wrong
