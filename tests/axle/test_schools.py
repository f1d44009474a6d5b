"""The schools of preload: each led by its own way, hints by layout, two measures that disagree."""

from __future__ import annotations

import re
from dataclasses import replace
from decimal import Decimal

import pytest

from axle.carrier.schools import usual_interference
from axle.decision.move import Act
from axle.decision.next_move import next_move
from axle.layout import CarrierBy, DepthShim, Layout, Place, PreloadBy, SpacerSeat, every_layout
from axle.measure.units import IMPERIAL
from axle.procedure.choices import Build
from axle.procedure.sequence import plan
from axle.procedure.stations import reading_kinds, station_of, stations
from axle.spec.sheet import spec_value
from axle.stations.carrier_preload import wanted_interference
from axle.stations.pinion_trials import preload_start
from axle.stations.station_state import stand
from axle.stations.two_measures import disagreement
from benchmarks.closed_loop.shop import LAYOUTS
from tests.axle.rig import IN_LB, SHEET, THOU, drawer, mm
from tests.axle.test_advice import PACKS, taken
from tests.axle.test_lash import bare, by, lash, play

COVERS, ADJUSTERS, SHIMS = (by(c) for c in (CarrierBy.COVERS, CarrierBy.ADJUSTERS, CarrierBy.OUTBOARD))
NO_TORQUE = replace(SHEET, values={k: v for k, v in SHEET.values.items() if k != "carrier_preload"})


def without_torques(state):
    """The state before the whole was turned."""
    return replace(state, readings=tuple(t for t in state.readings if t.kind != "total_torque"))


# ---- hints and cautions follow the layout


@pytest.mark.parametrize("layout", every_layout(), ids=str)
def test_every_hint_speaks_of_what_the_axle_has(layout):
    for name, kind in reading_kinds().items():
        methods = [method for method in stations()[station_of(name)].methods if name in method.kinds]
        if methods and not [m for m in methods if m in stations()[station_of(name)].methods_on(layout)]:
            continue  # not offered on this layout
        hint = kind.hint_on(layout)
        assert re.search(r"[.!]$", hint), (name, hint)
        if layout.carrier_by is CarrierBy.COVERS:
            assert not re.search(r"\bcaps?\b", hint), (name, hint)
        if layout.has_adjusters:
            assert "Packs" not in hint, (name, hint)
            assert not re.search(r"[Ss]hims? (just|under)", hint), (name, hint)
        else:
            assert "adjuster" not in hint.lower(), (name, hint)
        if not layout.has_preload_pack and name.startswith("pinion_"):
            assert "preload pack" not in hint, (name, hint)


def test_under_covers_too_tight_asks_for_shims_put_in():
    # Common practice, no source: a thicker shim holds a cover further out.
    assert "put some in first" in reading_kinds()["zero_play"].hint_on(COVERS)
    assert "take some out first" in reading_kinds()["zero_play"].hint_on(SHIMS)
    assert "wind one out first" in reading_kinds()["zero_play"].hint_on(ADJUSTERS)


@pytest.mark.parametrize("layout", LAYOUTS, ids=str)
def test_no_step_speaks_of_caps_under_covers_or_of_adjusters_on_shims(layout):
    for step in plan(Build(layout)).steps:
        if step.station not in ("carrier_preload", "backlash"):
            continue
        if layout.carrier_by is CarrierBy.COVERS:
            assert not re.search(r"\b[Cc]aps? (on|torqued|in stages|nipped)\b", step.text), step.step
        if not layout.has_adjusters:
            assert "adjuster" not in step.text.lower(), step.step
        else:
            assert not re.search(r"\b(pack|packs|shims)\b", step.text), step.step


# ---- from zero play


def test_from_zero_play_takes_its_interference_from_the_layout_and_the_way():
    # Common practice, no source: covers 0.05 to 0.10 mm, adjusters 1 to 3 thou past zero play.
    for school in ("subtraction", "both_sides", "one_side"):
        limits = wanted_interference(bare(COVERS, school)).limits
        assert (limits.low, limits.high) == pytest.approx((0.05, 0.10)), school
    limits = wanted_interference(bare(ADJUSTERS, "subtraction")).limits
    assert (limits.low, limits.high) == pytest.approx((1 * THOU, 3 * THOU))
    driven = usual_interference()["both_sides"]
    assert wanted_interference(bare(SHIMS, "both_sides")).limits.low == pytest.approx(driven.low)


def test_on_shims_a_school_that_reads_torque_never_takes_the_driven_in_figure():
    state = play(without_torques(bare(SHIMS, "subtraction")), 4)
    assert wanted_interference(state) is None
    fitted = replace(state, settings={**PACKS, Place.RING: mm(201), Place.FAR: mm(198)})
    result = stand(fitted)["carrier_preload"].result
    assert result.words == "read torque"
    asked = replace(fitted, sheet=NO_TORQUE)
    assert stand(asked)["carrier_preload"].result.words == "how much?"


def test_with_neither_a_figure_nor_a_torque_it_asks():
    gaps = [
        taken(kind, value * THOU, n, settings={})
        for n, (kind, value) in enumerate(
            (("held_backlash", 9), ("gap_ring", 190), ("gap_far", 185)), start=200
        )
    ]
    state = replace(bare(SHIMS, "subtraction", "gaps"), sheet=NO_TORQUE, readings=(*bare().readings, *gaps))
    empty = {p: v for p, v in PACKS.items() if p in (Place.DEPTH, Place.PRELOAD)}
    move = next_move(replace(state, settings=empty, drawer={place: drawer() for place in Place}))
    assert not move.swaps or move.title != "Fit both side packs"


# ---- one side, taps, pull, same packs


def first_fit(school: str, layout: Layout = SHIMS):
    """Gaps on both sides and the backlash that the carrier was held at, nothing fitted on the sides yet."""
    pinion = {p: v for p, v in PACKS.items() if p in (Place.DEPTH, Place.PRELOAD)}
    state = bare(layout, school, "gaps")
    kept = tuple(t for t in state.readings if t.kind not in ("total_torque", "backlash"))
    rows = (("held_backlash", 9.0), ("gap_ring", 190.0), ("gap_far", 185.0))
    read = tuple(
        replace(taken(k, v * THOU, 200 + n, settings=pinion), count=2) for n, (k, v) in enumerate(rows)
    )
    shims = {place: drawer() for place in Place}
    return replace(state, settings=pinion, readings=(*kept, *read), drawer=shims)


def test_by_one_side_the_first_build_stands_under_its_range():
    # Common practice, no source: 2 to 3 thou under the least before the preload shim goes in.
    move = next_move(first_fit("one_side"))
    assert move.act is Act.CHANGE
    assert "before the preload shim" in move.title
    lash_band = next(e for e in move.expected if e.label == "Smallest backlash")
    middle = (lash_band.low + lash_band.high) / 2
    assert 7 * THOU - 3.2 * THOU <= middle <= 7 * THOU - 1.8 * THOU
    total = sum(float(s.after) for s in move.swaps)
    assert total == pytest.approx(375 * THOU, abs=0.03), "just sliding: no preload yet"
    both = next_move(first_fit("both_sides"))
    assert sum(float(s.after) for s in both.swaps) > total + 9 * THOU


def test_tap_in_confirms_a_size_that_the_play_tells():
    state = play(without_torques(bare(SHIMS, "tap_in", "taps")), 4)
    move = next_move(state)
    assert move.act is Act.CHANGE
    (swap,) = move.swaps
    assert swap.place is Place.FAR
    # 4 thou of play and a last pack 5 to 8 over its gap: 10.5 thou at once, not one size.
    assert float(swap.change) == pytest.approx(10.5 * THOU, abs=0.6 * THOU)
    fitted = replace(state, settings={**state.settings, Place.FAR: swap.after})
    assert next_move(fitted).act is Act.READ


def test_before_the_adjuster_s_torque_the_backlash_stands_under_its_range():
    at = {**PACKS, Place.RING: Decimal(0), Place.FAR: Decimal(0)}
    state = bare(ADJUSTERS, "adjuster_torque", "pull", settings=at)
    state = without_torques(state)
    wide = next_move(lash(state, 9.5, 9.5, 9.5, 9.5))
    assert wide.title == "Bring the backlash under its range first"
    assert {s.place for s in wide.swaps} == {Place.RING, Place.FAR}
    aimed = next(e for e in wide.expected if e.label == "Smallest backlash")
    smallest = (aimed.low + aimed.high) / 2 / THOU
    assert smallest < 7, "under its range, which begins at 7"
    under = next_move(lash(state, *[smallest] * 4))
    assert under.asks == (("adjuster_pull", 1),), under
    band = next(e for e in under.expected if e.label == "Smallest backlash")
    assert 7 * THOU < (band.low + band.high) / 2 < 11 * THOU


@pytest.mark.parametrize(("layout", "sign"), [(SHIMS, -1), (COVERS, 1), (by(CarrierBy.UNDER_CONE), -1)])
def test_the_same_packs_go_back_corrected_for_their_bearings(layout, sign):
    # Common practice, no source: a taller bearing takes its pack thinner, under a cover thicker.
    pinion = {p: v for p, v in PACKS.items() if p in (Place.DEPTH, Place.PRELOAD)}
    state = bare(layout, "same_packs")
    heights = (
        replace(taken("stand_left", 24.00, 300), place=1),
        replace(taken("stand_left", 24.05, 301), place=3),
    )
    kept = tuple(t for t in state.readings if t.kind not in ("total_torque", "backlash"))
    state = replace(
        state,
        settings=pinion,
        readings=(*kept, *heights),
        drawer={place: drawer() for place in Place},
        old_packs={Place.RING: mm(193), Place.FAR: mm(190)},
    )
    move = next_move(state)
    assert move.act is Act.CHANGE, move
    moved = {s.place: float(s.after) for s in move.swaps}
    assert moved[Place.RING] == pytest.approx(193 * THOU + sign * 0.05, abs=0.02)
    assert moved[Place.FAR] == pytest.approx(190 * THOU, abs=0.02)


# ---- two measures of one preload


def test_two_measures_that_disagree_are_both_named_and_asked_about():
    limits = {
        "carrier_interference": spec_value(
            "carrier_interference", "10", high="14", unit="thou", source="published"
        )
    }
    sheet = replace(SHEET, values={**SHEET.values, **limits})
    state = play(bare(SHIMS, "both_sides"), 4)
    at = {**PACKS, Place.RING: mm(201), Place.FAR: mm(198)}
    loose = replace(
        state,
        settings=at,
        sheet=sheet,
        readings=(*state.readings, replace(taken("carrier_torque", 4 * IN_LB, 400, settings=at), count=1)),
    )
    words = disagreement(loose, IMPERIAL)
    assert "interference is in range" in words
    assert "torque is under" in words
    assert "The sheet gives both" in words
    assert words in stand(loose)["carrier_preload"].result.why
    agreed = replace(
        loose, readings=(*state.readings, taken("carrier_torque", 15 * IN_LB, 400, settings=at))
    )
    assert disagreement(agreed, IMPERIAL) == ""


# ---- the pinion: a kit, a step, seats


def test_a_kit_starts_from_the_old_sleeve_s_length():
    spacer = Layout(DepthShim.HEAD, PreloadBy.SPACER, CarrierBy.OUTBOARD)
    state = replace(bare(spacer), spacer_kit=True, old_packs={Place.PRELOAD: mm(1180)}, settings={})
    start, words = preload_start(state)
    assert start == pytest.approx(1180 * THOU)
    assert "old sleeve" in words


def test_a_stack_against_a_step_with_nothing_known_is_built_up_by_hand():
    step = Layout(DepthShim.HEAD, PreloadBy.STEP, CarrierBy.OUTBOARD, spacer_seat=SpacerSeat.SHOULDER)
    fit = {Place.DEPTH: mm(29)}
    state = replace(bare(step), settings=fit, drawer={place: drawer() for place in Place})
    kept = tuple(
        replace(t, settings=fit)
        for t in state.readings
        if t.kind == "depth_feeler" or "arrival" in t.kind or t.kind == "ring_runout"
    )
    move = next_move(replace(state, readings=kept))
    assert move.station == "pinion_preload"
    assert any("finger-tight nut" in note for note in move.notes)


def test_seats_slingers_and_set_up_cups_are_choices_with_their_steps():
    sleeve = Layout(DepthShim.HEAD, PreloadBy.SLEEVE, CarrierBy.OUTBOARD)
    spacer = Layout(DepthShim.HEAD, PreloadBy.SPACER, CarrierBy.OUTBOARD, spacer_seat=SpacerSeat.SHOULDER)
    cases = (
        (sleeve, {"sleeve_seat": "shoulder"}, "preload-sleeve-seat"),
        (spacer, {}, "preload-spacer-seat"),
        (spacer, {"spacer_kit": "kit"}, "preload-kit"),
        (sleeve, {"slinger": "flange"}, "depth-slinger"),
        (sleeve, {"trial": "setup", "setup_parts": "cups"}, "fit-setup-cups"),
    )
    for layout, chosen, step in cases:
        assert plan(Build(layout, chosen=chosen)).find(step).do


def test_locked_gears_are_opened_before_an_adjuster_is_wound_to_its_torque():
    at = {**PACKS, Place.RING: Decimal(0), Place.FAR: Decimal(0)}
    state = without_torques(bare(ADJUSTERS, "adjuster_torque", "pull", settings=at))
    move = next_move(lash(state, 0, 0, 0, 0))
    assert move.asks != (("adjuster_pull", 1),)
