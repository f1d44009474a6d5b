"""The pinion's advice from whole states: every method at once, other bearings, trials, bites."""

from __future__ import annotations

from dataclasses import replace
from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from axle.decision.move import Act
from axle.decision.next_move import next_move
from axle.depth.marks import Mark, MarkConvention
from axle.gearset import GearSet
from axle.layout import CarrierBy, DepthShim, Layout, Place, PreloadBy, SpacerSeat
from axle.measure.units import IMPERIAL
from axle.spec.sheet import Sheet, spec_value
from axle.state.axle_state import AxleState
from axle.state.reading import Reading
from axle.stations.bearing_heights import what_heights_change
from axle.stations.depth import depth_packs, depth_start
from axle.stations.depth_measurements import carried_depth, depth_by_method, measured_depth, wanted_depth
from axle.stations.pinion_preload import bite_for, bites_of
from axle.stations.pinion_trials import preload_packs, preload_start, trials_of
from axle.stations.preload_plot import plot_of
from axle.stations.preload_readings import PINION, lost_at_first_load
from axle.stations.station_state import stand
from tests.axle.rig import IN_LB, SHEET, THOU, drawer, mm
from tests.axle.test_pinion import LAYOUTS, Stack

HEAD = Layout(DepthShim.HEAD, PreloadBy.SPACER, CarrierBy.OUTBOARD)
STEP = Layout(DepthShim.CUP, PreloadBy.STEP, CarrierBy.OUTBOARD, spacer_seat=SpacerSeat.SHOULDER)
SLEEVE = Layout(DepthShim.HEAD, PreloadBy.SLEEVE, CarrierBy.OUTBOARD)
MASTERS = replace(
    SHEET,
    values={
        **SHEET.values,
        "nominal_distance": spec_value("nominal_distance", None, high="96.5", unit="mm", source="demo"),
        "seat_distance": spec_value("seat_distance", None, high="136.5", unit="mm", source="demo"),
        "pinion_preload_used": spec_value(
            "pinion_preload_used", "8", high="14", unit="in-lb", source="demo"
        ),
        "pinion_preload_racing": spec_value(
            "pinion_preload_racing", "4", high="6", unit="in-lb", source="demo"
        ),
    },
)
signed = st.floats(-0.1, 0.1)


def axle(layout: Layout = HEAD, *readings: Reading, sheet: Sheet = MASTERS, **more) -> AxleState:
    given = {"drawer": {place: drawer() for place in Place}} | more
    return AxleState(layout, GearSet(9, 38), sheet, readings=readings, **given)


def read(kind: str, value: float, order: int, place: int = 1, settings=None, **more) -> Reading:
    return Reading(kind, place, value=value, order=order, assembly=1, settings=settings or {}, **more)


def every_method(layout: Layout, actual: float, growth: float, shim: Decimal) -> tuple[Reading, ...]:
    """Readings of all seven methods of one pinion, each by its own arithmetic."""
    now = {Place.DEPTH: shim} if shim else {}
    rows = (
        ("depth_feeler", growth),
        ("dial_travel", growth),
        ("bridge_reach", actual + 3.0),
        ("bridge_reading", 3.0),
        ("mic_reading", actual + 17.5),
        ("arbor_diameter", 35.0),
        ("head_height", 40.0),
        ("bar_offset", 20.0),
        ("bar_stack", actual - 20.4),
        ("bar_gap", 0.4),
        ("measured_distance", actual),
    )
    assert layout.depth_sign in (-1, 1)
    return tuple(read(kind, value, n, settings=now) for n, (kind, value) in enumerate(rows, start=1))


@given(st.sampled_from(LAYOUTS), signed, st.floats(0.3, 1.2), st.sampled_from(["0.5", "0.8"]))
def test_seven_methods_on_one_pinion_want_one_shim_on_every_layout(item, mark, base, trial):
    """Where the face really stands follows from lengths alone; a head or cup shim brings it nearer."""
    shim, required = Decimal(trial), 96.5 + mark
    away = -1 if item.depth_shim is DepthShim.CARTRIDGE else 1
    without = 96.5 + away * (base + 0.5)
    actual = without - away * float(shim)
    state = axle(item, *every_method(item, actual, actual - 96.5, shim), mark=Mark(mark))
    found = [method for method in depth_by_method(state) if method.result]
    assert {method.method for method in found} == {"gauge", "dial", "bridge", "mic", "bar", "measured"}
    for method in found:
        assert without - away * method.result.thickness == pytest.approx(required), method.method
    order, compared = measured_depth(state)
    assert compared.disagreements == ()
    assert order == 11


def test_a_method_that_lacks_a_reading_says_which():
    method_results = depth_by_method(axle(HEAD, read("bridge_reach", 98.0, 1)))
    assert (
        method_results[0].problem
        == "not read yet: bridge on the pinion's face, height of the pinion's head."
    )
    assert method_results[0].result is None


def test_a_head_height_is_not_asked_for_without_its_master():
    bare = replace(MASTERS, values={k: v for k, v in MASTERS.values.items() if k != "seat_distance"})
    missing = {s.kind for s in stand(axle(HEAD, sheet=bare, methods={"depth": "bridge"}))["depth"].missing}
    assert missing == {"bridge_reach", "bridge_reading"}
    whole = Mark(96.4, MarkConvention.DISTANCE)
    marked = axle(HEAD, mark=whole, methods={"depth": "bridge"})
    assert "head_height" not in {s.kind for s in stand(marked)["depth"].missing}


def test_an_unconfirmed_mark_is_not_used():
    state = axle(HEAD, read("depth_feeler", 0.75, 1), mark=Mark(0.05, confirmed=False))
    assert wanted_depth(state) is None
    assert stand(state)["depth"].result.words == "confirm the mark"


def test_an_overdue_instrument_is_named_in_the_verdict():
    state = axle(
        HEAD, read("depth_feeler", 0.75, 1, tool="Feelers", step=0.05, overdue="overdue since May")
    )
    why = stand(state)["depth"].result.why
    assert "Feelers was overdue for calibration (overdue since May)." in why
    # Its step of 0.05 mm enters the result: JCGM 100:2008, 4.3.7.
    assert measured_depth(state)[1].results[0].terms[1].spread == pytest.approx(0.05 / 12**0.5)


def test_packs_near_the_wanted_one_with_where_they_leave_the_pinion():
    fitted = {Place.DEPTH: mm(30)}
    state = axle(HEAD, read("depth_feeler", 0.0, 1, settings=fitted), settings=fitted)
    packs = depth_packs(state, measured_depth(state)[1])
    assert packs[0].error == pytest.approx(0, abs=0.02)
    assert packs[0].probability > 0.98
    chances = [pack.probability for pack in packs]
    assert chances == sorted(chances, reverse=True)


# ---- starts


@pytest.mark.parametrize(
    ("layout", "least", "most"),
    # Common practice, no source: 0.026 to 0.036 in under a head, 0.015 to 0.040 under a cartridge.
    [(HEAD, 26, 36), (replace(SLEEVE, depth_shim=DepthShim.CARTRIDGE), 15, 40)],
)
def test_without_a_gauge_it_starts_from_the_usual_or_the_old_pack(layout, least, most):
    assert least * THOU <= depth_start(axle(layout))[0] <= most * THOU
    assert depth_start(axle(layout, old_packs={Place.DEPTH: mm(33)})) == (float(mm(33)), "the old pack")
    trial = axle(layout, methods={"depth": "trial"}, stations=("depth", "pinion_preload", "sheet"))
    move = next_move(trial)
    assert (move.act, move.station) == (Act.CHANGE, "depth")


def test_against_a_step_it_starts_looser_than_with_a_spacer():
    # Common practice, no source: 0.020 in with a spacer; too few against a step mark the rollers.
    spacer, step = preload_start(axle(HEAD)), preload_start(axle(STEP))
    assert spacer[0] == pytest.approx(20 * THOU)
    assert step[0] > spacer[0] + 5 * THOU
    assert "starts loose" in step[1]
    assert preload_start(axle(SLEEVE)) is None


# ---- other bearings and the slinger


@given(st.sampled_from(LAYOUTS), signed, signed, signed, signed)
def test_final_bearings_get_the_packs_that_keep_the_setting(item, dh_in, dw_in, dh_out, dw_out):
    """Set up on slip-on bearings, built on final ones: truth by lengths laid end to end."""
    before = Stack(item)
    after = Stack(item, (20.0 + dh_in, 18.0 + dw_in), (16.0 + dh_out, 14.0 + dw_out))
    depth = Decimal("0.8")
    then = {Place.DEPTH: depth, Place.PRELOAD: Decimal("1.0"), Place.BEARINGS: Decimal(0)}
    now = then | {Place.BEARINGS: Decimal(1)}
    heights = [
        read(kind, value, n, place)
        for n, (kind, place, value) in enumerate(
            (k, p, v)
            for k, two, three in (
                ("stand_inner", 20.0, 20.0 + dh_in),
                ("width_inner", 18.0, 18.0 + dw_in),
                ("stand_outer", 16.0, 16.0 + dh_out),
                ("width_outer", 14.0, 14.0 + dw_out),
            )
            for p, v in ((2, two), (3, three))
        )
    ]
    state = axle(item, *heights, read("depth_feeler", 0.0, 20, settings=then), settings=now, trial="setup")
    carried = carried_depth(state)
    assert after.face(carried.thickness) == pytest.approx(before.face(0.8))
    told = {title: change for title, _, change in what_heights_change(state)}
    change = told["set-up bearings for final ones"]
    if not item.has_preload_pack:
        assert change is None
    elif item.depth_shim is not DepthShim.CARTRIDGE:
        coupled = item.preload_per_depth * (carried.thickness - 0.8)
        assert after.interference(carried.thickness, 1.0 + change + coupled) == pytest.approx(
            before.interference(0.8, 1.0)
        )


def final(layout: Layout, *readings: Reading, depth: float = 30) -> AxleState:
    """Final bearings are in: what was read on the set-up ones is stale."""
    settings = {Place.DEPTH: mm(depth), Place.PRELOAD: mm(20), Place.BEARINGS: Decimal(1)}
    rest = ("depth", "pinion_preload", "sheet")
    return axle(layout, *readings, settings=settings, trial="setup", stations=rest)


SETUP = {Place.DEPTH: mm(30), Place.PRELOAD: mm(20), Place.BEARINGS: Decimal(0)}
HEIGHTS = tuple(
    read(kind, value * THOU, n, place)
    for n, (kind, place, value) in enumerate(
        [
            ("stand_inner", 2, 1180),
            ("stand_inner", 3, 1183),
            ("width_inner", 2, 800),
            ("width_inner", 3, 800),
            ("stand_outer", 2, 700),
            ("stand_outer", 3, 702),
            ("width_outer", 2, 600),
            ("width_outer", 3, 600),
        ]
    )
)


def test_the_pack_for_the_final_bearings_is_the_next_move_and_then_the_last_check():
    feeler = read("depth_feeler", 0.0, 20, settings=SETUP)
    move = next_move(final(HEAD, *HEIGHTS, feeler))
    # By hand, in thou: a bearing taller by 3 wants a head shim thinner by 3.
    assert move.swaps[0].after == mm(27)
    assert "last check" in " ".join(move.why)
    fitted = final(HEAD, *HEIGHTS, feeler, depth=27)
    assert next_move(fitted).act is Act.READ
    for off, words in ((0.5, "The last check agrees."), (3.0, "Too far: look for a cup not seated")):
        again = read("depth_feeler", off * THOU, 30, settings=dict(fitted.settings))
        why = stand(replace(fitted, readings=(*fitted.readings, again)))["depth"].result.why
        assert any(words in line for line in why), why


def test_the_preload_pack_for_the_final_bearings_follows_heights_and_widths():
    feeler = read("depth_feeler", 0.0, 40, settings=dict(final(HEAD).settings))
    torque = read("pinion_torque", 20 * IN_LB, 21, settings=SETUP)
    move = next_move(final(HEAD, *HEIGHTS, feeler, torque))
    # By hand, in thou: 3 + 2 taller, widths alike: 5 more of pack, depth left alone.
    assert (move.station, move.swaps[0].after) == ("pinion_preload", mm(25))


def test_a_slinger_left_out_of_the_trials_is_carried_over():
    # Common practice, no source: added at final assembly it undoes the setting by its thickness.
    then = {Place.DEPTH: mm(30)}
    state = axle(
        HEAD,
        read("slinger_thickness", 20 * THOU, 1),
        read("depth_feeler", 0.0, 2, settings=then),
        settings=then | {Place.SLINGER: Decimal(1)},
    )
    assert carried_depth(state).thickness == pytest.approx(10 * THOU, abs=1e-4)


# ---- trials and bites


def trial(pack: float, torque: float, order: int, **conditions) -> Reading:
    return read(
        "pinion_torque", torque * IN_LB, order, settings={Place.PRELOAD: mm(pack)}, conditions=conditions
    )


def preload_axle(*readings: Reading, layout: Layout = HEAD, **more) -> AxleState:
    rest = ("pinion_preload", "sheet")
    now = dict(readings[-1].settings) if readings else {}
    return axle(layout, *readings, settings=now, stations=rest, **more)


def test_trials_under_other_conditions_are_not_mixed_and_are_said():
    state = preload_axle(
        trial(24, 8, 1, oil="dry"),
        trial(23, 9, 2, figure="breakaway"),
        trial(22, 12, 3, seal=True),
        trial(21, 6, 4),
        trial(20.5, 10, 5),
    )
    trials = trials_of(state)
    assert len(trials.used) == 2
    assert sorted(trials.left_out) == [
        "a trial read with breakaway peak",
        "a trial read with dry",
        "a trial read with the seal in",
    ]
    assert any("unlike is not mixed" in line for line in next_move(state).why)
    assert sum(not point.alike for point in plot_of(state).points) == 3


def test_a_figure_with_the_seal_in_is_freed_of_the_seal_s_drag_on_the_same_stack():
    state = preload_axle(trial(20, 18, 1), trial(20, 24, 2, seal=True))
    result = stand(state)["pinion_preload"].result
    assert result.in_range
    assert "the seal drags 6.0 in·lb" in result.why[0]
    alone = stand(preload_axle(trial(20, 24, 2, seal=True)))["pinion_preload"].result
    assert alone.words == "seal in"
    sealed = spec_value("pinion_preload_seal", "20", high="30", unit="in-lb", source="demo")
    sheet = replace(MASTERS, values={**MASTERS.values, "pinion_preload_seal": sealed})
    assert stand(preload_axle(trial(20, 24, 2, seal=True), sheet=sheet))["pinion_preload"].is_done


def test_two_contradictory_trials_make_no_pack():
    move = next_move(preload_axle(trial(20, 8, 1), trial(18, 4, 2)))
    assert (move.act, move.title) == (Act.READ, "Read again: rotating torque of the pinion")
    assert "dirt" in move.why[0]
    assert not move.swaps


def test_racing_takes_its_own_range():
    assert preload_axle(trial(20, 5, 1), use="track").preload_range().high == pytest.approx(6 * IN_LB)
    assert stand(preload_axle(trial(20, 5, 1), use="track"))["pinion_preload"].is_done
    assert not stand(preload_axle(trial(20, 5, 1)))["pinion_preload"].is_done


def test_no_torque_and_no_play_is_zero_play_and_not_preload():
    # Common practice, no source: a zero reading can pass on arrival; end play can pass nowhere.
    settings = {Place.PRELOAD: mm(20)}
    state = preload_axle(read("pinion_end_play", 0.0, 1, settings=settings), trial(20, 0, 2))
    result = stand(state)["pinion_preload"].result
    assert not result.in_range
    assert any("zero play" in line for line in result.why)
    move = next_move(state)
    assert move.swaps[0].change < 0  # tighter


def test_the_surest_pack_comes_first_and_the_middle_is_expected():
    state = preload_axle(trial(24, 4, 1), trial(23, 9, 2))
    limits, trials = state.preload_range(), trials_of(state)
    packs = preload_packs(state, trials, limits)
    assert packs[0].probability == max(p.probability for p in packs)
    assert packs[0].probability + packs[0].under + packs[0].over == pytest.approx(1)
    assert limits.side(packs[0].torque) == "in range"


def test_a_new_sleeve_begins_its_own_log():
    first = {Place.PRELOAD: Decimal(1)}
    readings = (
        read("pinion_torque", 30 * IN_LB, 1, settings={}),
        read("pinion_torque", 2 * IN_LB, 2, settings=first),
        read("pinion_torque", 6 * IN_LB, 3, settings=first, conditions={"turned": 15}),
    )
    state = axle(SLEEVE, *readings, settings=first, stations=("pinion_preload", "sheet"))
    assert [b.angle for b in bites_of(state)] == [None, 15]
    assert bite_for(state).unit == "°"
    plot = plot_of(state)
    assert plot.unit == "°"
    assert plot.points[-1].x == pytest.approx(15)
    assert plot.expected[0] == pytest.approx(15 + bite_for(state).amount)


def test_a_lower_chosen_risk_makes_a_smaller_bite():
    log = [
        read("pinion_torque", t * IN_LB, n, conditions={"turned": a})
        for n, (a, t) in enumerate([(0, 1), (15, 3), (15, 8)], start=1)
    ]
    careful, bold = (
        bite_for(axle(SLEEVE, *log, overshoot=risk, stations=("pinion_preload", "sheet")))
        for risk in (0.001, 0.3)
    )
    assert careful.amount <= bold.amount
    assert careful.over <= 0.001 or careful.amount == 2


def test_a_depth_change_by_hand_keeps_the_trials_through_the_coupling():
    """Trials of a coupled stack still count with another depth shim: laid end to end they agree."""
    stack = Stack(STEP)
    zero = next(p / 1000 for p in range(3000) if stack.interference(0.8, p / 1000) <= 0)
    before = {Place.DEPTH: Decimal("0.8"), Place.PRELOAD: Decimal(str(round(zero + 0.05, 3)))}
    now = {Place.DEPTH: Decimal("0.9"), Place.PRELOAD: Decimal(str(round(zero + 0.15, 3)))}
    play = stack.interference(0.8, zero + 0.05)
    state = axle(STEP, read("pinion_end_play", -play, 1, settings=before), settings=now)
    curve, lost = trials_of(state).curve, lost_at_first_load(state, PINION)[0]
    # The curve is that of the pair once it has settled under load, by as much as is still to be lost.
    pack = (curve.zero - lost) * STEP.preload_sign
    assert stack.interference(0.9, pack) == pytest.approx(0, abs=2e-3)


def test_words_of_the_advice_are_in_the_reader_s_units():
    state = preload_axle(trial(24, 4, 1))
    assert "thou" in " ".join(next_move(state, IMPERIAL).why)
