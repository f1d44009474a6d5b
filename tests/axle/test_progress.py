"""Holds, signed deviations, the register, findings, and a used set's target."""

from __future__ import annotations

from dataclasses import replace
from decimal import Decimal

import pytest

from axle.contact.mark import Flanked
from axle.contact.patch import Patch
from axle.errors import AxleError
from axle.layout import CarrierBy, DepthShim, Layout, Place, PreloadBy
from axle.measure.units import IMPERIAL
from axle.procedure.choices import Build
from axle.procedure.findings import Found, contaminated, not_looked_at, parts, signs
from axle.procedure.register import Entry, Event, entry, items, items_of, open_items
from axle.procedure.sequence import plan
from axle.procedure.steps import step_named
from axle.state.reading import Print, Reading
from axle.stations.pattern import read_print
from axle.stations.station_state import Status
from axle.stations.station_state import stand as stations_stand
from axle.workflow.progress import (
    Marked,
    Records,
    StepMarkKind,
    StepStatus,
    goes_stale,
    open_before,
    progress,
    station_in_hand,
    step_in_hand,
    work_at,
)
from tests.axle.test_advice import PACKS, standing_axle, with_print

ADJUSTERS = Layout(DepthShim.HEAD, PreloadBy.SLEEVE, CarrierBy.ADJUSTERS)
NOTHING = Records({}, {}, frozenset())


def walk(state, records=NOTHING, **chosen):
    made = plan(Build(state.layout, True, chosen))
    standings = stations_stand(state)
    return made, standings, progress(made, state, standings, records)


def find(steps, name):
    return next(s for s in steps if s.step.step == name)


def test_a_hold_passes_by_its_reading():
    _, _, steps = walk(standing_axle())
    assert find(steps, "arrival-side-play").status is StepStatus.DONE
    assert find(steps, "backlash-places").status is StepStatus.DONE
    held = find(steps, "pattern-good")
    assert held.status is StepStatus.OPEN
    assert held.held == ("Pattern: not begun.",)


def test_side_play_that_is_not_nil_holds():
    state = standing_axle()
    loose = replace(
        state,
        readings=(
            Reading("arrival_side_play", 1, value=0.08, order=9, assembly=1, settings={}),
            *state.readings,
        ),
    )
    _, _, steps = walk(loose)
    assert find(steps, "arrival-side-play").held == ("Side play of the carrier, as received: not nil.",)


def test_a_signed_deviation_passes_a_hold_until_it_is_read_again():
    state = standing_axle()
    loose = replace(
        state,
        readings=(
            Reading("arrival_side_play", 1, value=0.08, order=9, assembly=1, settings={}),
            *state.readings,
        ),
    )
    marks = {
        "arrival-side-play": Marked(StepMarkKind.WAIVED, 10, person="Ines", reason="set is scrap anyway")
    }
    _, _, steps = walk(loose, replace(NOTHING, marks=marks))
    assert find(steps, "arrival-side-play").status is StepStatus.WAIVED
    again = replace(
        loose,
        readings=(
            *loose.readings,
            Reading("arrival_side_play", 1, value=0.09, order=11, assembly=1, settings={}),
        ),
    )
    _, _, steps = walk(again, replace(NOTHING, marks=marks))
    assert find(steps, "arrival-side-play").status is StepStatus.OPEN


def test_a_deviation_on_a_station_falls_when_the_axle_is_changed():
    state = with_print(standing_axle(), (0.6, 0.95))
    marks = {
        "pattern-good": Marked(StepMarkKind.WAIVED, 20, person="Ines", reason="ran quietly", settings=PACKS)
    }
    records = replace(NOTHING, marks=marks)
    assert find(walk(state, records)[2], "pattern-good").status is StepStatus.WAIVED
    moved = replace(state, settings={**PACKS, Place.DEPTH: Decimal("0.7")})
    assert find(walk(moved, records)[2], "pattern-good").status is StepStatus.OPEN


def test_a_list_holds_until_it_is_closed_and_claims_do_not_help():
    open_lists = {"marks": ("Bearing cap, left: not marked yet.",)}
    marks = {"teardown-marks-caps": Marked(StepMarkKind.DONE, 3, "Lio")}
    _, _, steps = walk(standing_axle(), Records(marks, open_lists, frozenset()))
    assert find(steps, "teardown-marks-caps").status is StepStatus.HELD
    assert work_at("teardown", steps).status is Status.OUT
    _, _, steps = walk(standing_axle(), Records(marks, {}, frozenset()))
    assert find(steps, "teardown-marks-caps").status is StepStatus.DONE


def test_a_pattern_never_signs_a_preload():
    # Common practice, no source: each of the four stands on its own reading.
    state = with_print(standing_axle(), (0.3, 0.7))
    without = replace(state, readings=tuple(t for t in state.readings if t.kind != "pinion_torque"))
    held = find(walk(without)[2], "final-recheck").held
    assert any(line.startswith("Pinion preload") for line in held)
    assert find(walk(state)[2], "final-recheck").held == ()


def test_trial_bearings_hold_the_last_readings_until_the_final_ones_are_read():
    state = with_print(standing_axle(), (0.3, 0.7))
    held = find(walk(state, trial="setup")[2], "final-recheck").held
    assert "set-up bearings are still in" in held[0]
    fitted = replace(state, settings={**PACKS, Place.BEARINGS: Decimal(1)})
    marks = {"final-bearings": Marked(StepMarkKind.DONE, 30, "Ines")}
    _, standings, steps = walk(fitted, replace(NOTHING, marks=marks), trial="setup")
    assert standings["backlash"].status is Status.STALE
    assert standings["backlash"].stale == "other bearings were fitted"
    assert len(find(steps, "final-recheck").held) == 4


def test_a_new_clocking_makes_runout_backlash_and_pattern_stale():
    # Common practice, no source.
    state = with_print(standing_axle(), (0.3, 0.7))
    clocked = replace(state, settings={**PACKS, Place.CLOCK: Decimal(4)})
    standings = stations_stand(clocked)
    for name in ("ring_gear", "backlash", "pattern"):
        assert standings[name].status is Status.STALE, name
        assert standings[name].stale == "the ring gear was re-clocked"
    assert standings["carrier_preload"].status is Status.IN_RANGE


def test_another_cap_torque_makes_the_backlash_stale_and_the_first_does_not():
    state = standing_axle()
    first = replace(state, settings={**PACKS, Place.CAPS: Decimal(80)})
    assert stations_stand(first)["backlash"].status is Status.IN_RANGE
    read = tuple(replace(t, settings={**PACKS, Place.CAPS: Decimal(70)}) for t in state.readings)
    again = replace(first, readings=read)
    assert stations_stand(again)["backlash"].stale == "the caps were torqued otherwise"


def test_the_step_in_hand_is_the_one_begun_last_else_the_next():
    made, standings, steps = walk(standing_axle())
    station = station_in_hand(made, standings, steps)
    assert station == "teardown"
    assert step_in_hand(steps, station).step.step == "teardown-tools-count"
    marks = {
        "fit-heat": Marked(StepMarkKind.BEGUN, 4, "Lio"),
        "fit-press": Marked(StepMarkKind.BEGUN, 2, "Lio"),
    }
    _, _, steps = walk(standing_axle(), replace(NOTHING, marks=marks))
    assert step_in_hand(steps, "teardown").step.step == "fit-heat"


def test_out_of_order_names_what_comes_first_and_what_goes_stale():
    _, _, steps = walk(standing_axle())
    before = [s.step.step for s in open_before("teardown-carrier", steps)]
    assert "teardown-tools-count" in before
    assert "arrival-side-play" not in before
    assert {"backlash", "pattern"} <= set(goes_stale(step_named("final-bearings"), ADJUSTERS))
    assert goes_stale(step_named("prepare-clean"), ADJUSTERS) == ()


def test_a_used_set_is_held_to_its_old_pattern():
    # Common practice, no source: the old wear is the target, the coast flank first.
    old = Patch.box(0.25, 0.65, 0.5, 0.9)
    state = replace(standing_axle(), found={"drive": old, "coast": old}, used_gears=True)
    same = replace(
        state,
        prints=(Print(1, 9, settings=PACKS, flanks={"drive": Flanked.of(old), "coast": Flanked.of(old)}),),
    )
    assert read_print(same).says == "good"
    assert any("old wear" in line for line in read_print(same).findings)
    assert read_print(replace(same, used_gears=False)).says == "too shallow"
    ideal = Patch.box(0.25, 0.65, 0.3, 0.7)
    chart = replace(
        state,
        prints=(
            Print(1, 9, settings=PACKS, flanks={"drive": Flanked.of(ideal), "coast": Flanked.of(ideal)}),
        ),
    )
    assert read_print(chart).says == "too deep"


FACTS = Build(ADJUSTERS, True, {"slinger": "yes"}).facts


def test_the_register_asks_for_what_this_axle_has():
    names = {item.item for item in items_of(FACTS)}
    assert {
        "cap_left",
        "adjuster_right",
        "gear",
        "shim_depth",
        "slinger",
        "sleeve",
        "clips",
        "tools",
    } == names - {
        "cap_right",
        "adjuster_left",
    }
    assert "shim_left" not in names


@pytest.mark.parametrize(
    ("item", "event", "words", "said"),
    [
        ("cap_left", Event.OFF, "", "punched or scribed"),
        ("cap_left", Event.OFF, "paint dot", "Paint washes off"),
        ("shim_depth", Event.OFF, "", "each piece as mic'd"),
        ("shim_depth", Event.OFF, "20 + soft", "a number in thou"),
        ("shim_depth", Event.OFF, "20 + 4000", "Check the unit"),
        ("shim_depth", Event.LOST, "", "why, in a few words"),
        ("tools", Event.OFF, "a few", "a number, 0 to 500"),
    ],
)
def test_a_line_that_says_too_little_is_refused(item, event, words, said):
    with pytest.raises(AxleError, match=said):
        entry(items()[item], event, words, IMPERIAL)


def line(item, event, words):
    return entry(items()[item], event, words, IMPERIAL)


def test_a_lost_shim_is_a_hold_until_it_is_found():
    off = line("shim_depth", Event.OFF, "20 + 9")
    lost = [off, line("shim_depth", Event.LOST, "not on the bearing")]
    assert "lost (not on the bearing)" in next(w for w in open_items("shims", FACTS, lost) if "Depth" in w)
    assert "still in the axle" in next(w for w in open_items("back", FACTS, lost) if "Depth" in w)
    found = [*lost, line("shim_depth", Event.BACK, "20 + 9")]
    assert not any("Depth" in w for w in open_items("back", FACTS, found))


def test_what_was_never_written_down_is_not_accounted_for():
    assert "Bearing cap, left: never written down, so it cannot be asked back." in open_items(
        "back", FACTS, []
    )


def test_one_shim_of_two_back_is_one_too_few():
    lines = [line("shim_depth", Event.OFF, "20 + 9"), line("shim_depth", Event.BACK, "20")]
    assert "2 pieces came off, 1 are back" in next(
        w for w in open_items("back", FACTS, lines) if "Depth" in w
    )


def test_a_dial_tip_that_is_not_back_is_a_hold():
    lines = [line("tools", Event.OFF, "6"), line("tools", Event.BACK, "5")]
    assert open_items("tools_in", FACTS, lines) == (
        "Small tools and dial tips: 1 of 6 not back: look in the housing.",
    )
    assert open_items("tools_in", FACTS, [*lines, line("tools", Event.BACK, "6")]) == ()
    assert "not counted out" in open_items("tools_in", FACTS, [])[0]


def test_a_pack_that_was_changed_on_purpose_asks_for_no_old_pieces():
    lines = [line("shim_depth", Event.OFF, "20 + 9")]
    assert any("Depth" in w for w in open_items("back", FACTS, lines))
    assert not any("Depth" in w for w in open_items("back", FACTS, lines, {"shim_depth": 1}))
    with pytest.raises(AxleError, match="marks, shims, back, tools_in"):
        open_items("roof", FACTS, [])


def test_an_entry_of_none_counts_as_measured():
    assert line("shim_depth", Event.OFF, "none") == Entry("shim_depth", Event.OFF, "none")


def test_bearings_say_why_they_died():
    # Common practice, no source: blue and galled is lubrication, flaked is overload.
    assert "Lubrication" in signs()["blue"].cause
    assert "Overload" in signs()["flaked"].cause
    assert contaminated([Found("carrier_left", "rust", decision="replace", reason="water line")])
    assert not contaminated([Found("carrier_left", "blue", decision="replace", reason="galled")])
    assert len(not_looked_at([Found("gears", "sound", decision="keep", reason="")])) == len(parts()) - 1


@pytest.mark.parametrize(
    ("given_", "said"),
    [
        (("roof", "sound", "keep", ""), "a part that is inspected"),
        (("gears", "bent", "keep", "x"), "chipped"),
        (("gears", "chipped", "weld", "why not"), "keep, dress or replace"),
        (("gears", "chipped", "keep", ""), "why it is kept"),
    ],
)
def test_a_finding_without_a_decision_and_a_reason_is_refused(given_, said):
    with pytest.raises(AxleError, match=said):
        Found(*given_)
