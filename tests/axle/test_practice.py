"""The practice bench's own sums: questions held to the trade's table of signs, scores, the best way."""

from __future__ import annotations

import pytest

from axle.errors import AxleError
from axle.layout import Place
from axle.practice.best import SPOILS, best_of
from axle.practice.ladder import exercise_named, fault_of, ladder, spec_for, subject_of
from axle.practice.questions import (
    PATTERN_ANSWERS,
    SHIM_ANSWERS,
    pattern_question,
    shim_question,
)
from axle.practice.score import Attempt, answers_score, score
from axle.practice.sounds import ASKED, sound_question
from axle.procedure.stations import stations
from axle.simulator.axle import AxleAssembly, Limits, SimulatedAxle, out_of_range
from axle.simulator.fault import Fault
from axle.simulator.true_axle import sample_axle
from axle.spec.reader import starter_specs


def test_the_ladder_climbs_from_questions_to_a_whole_axle_with_something_wrong():
    rungs = list(ladder().values())
    assert [r.kind for r in rungs[:2]] == ["pattern", "shim"]
    assert rungs[-1].is_whole
    assert set(rungs[-1].faults) == {fault.value for fault in Fault}
    asked = [rung for rung in rungs if rung.kind != "axle"]
    # Questions come before axles: to look, to think, to hear.
    assert rungs[: len(asked)] == asked
    assert {rung.key for rung in asked if rung.kind == "sound"} == set(ASKED)
    for rung in rungs[len(asked) :]:
        assert rung.sheet in starter_specs()
        assert {*rung.goal, *rung.given} <= set(stations())
        assert not set(rung.goal) & set(rung.given)
        assert spec_for(rung).gears.ring_teeth > 0
    with pytest.raises(AxleError, match="one of the ladder"):
        exercise_named("headstand")


@pytest.mark.parametrize("seed", range(60))
def test_which_way_a_shim_moves_it_is_the_trade_s_table(seed):
    # The table of what a thicker shim does: common practice, no source; signs of the layout.
    asked = shim_question(seed)
    layout = asked.layout
    assert asked.answer in SHIM_ANSWERS[asked.place]
    right = {
        "depth": "deeper" if layout.depth_sign > 0 else "shallower",
        "preload": "less",
        "sides": "more" if layout.carrier_sign > 0 else "less",
        "ring": "opens" if layout.opens_backlash is Place.RING else "closes",
        "far": "opens" if layout.opens_backlash is Place.FAR else "closes",
    }
    assert asked.answer == right[asked.place]


@pytest.mark.parametrize("seed", range(12))
def test_a_print_to_read_shows_what_its_answer_says(seed):
    # common practice, no source: low on both flanks is deep, high is shallow
    asked = pattern_question(seed)
    assert asked.answer in PATTERN_ANSWERS
    height = sum(patch.centroid[1] for patch in asked.patches.values()) / 2
    if asked.answer == "deep":
        assert height < 0.49
    elif asked.answer == "shallow":
        assert height > 0.51
    assert pattern_question(seed) == asked


def test_a_score_says_what_it_is_made_of():
    good = score(Attempt(2, 20, (2, 20)))
    assert (good.points, len(good.lines)) == (100, 1)
    worse = score(Attempt(3, 24, (2, 20), hints=2, skipped=1, signed_out=1, minutes=80))
    told = dict(worse.lines)
    assert told["3 assemblies where 2 do"] == -15
    assert told["24 readings where 20 do"] == -4
    assert told["2 hints"] == -8
    assert worse.points == 100 + sum(p for p in told.values() if p < 0)
    assert score(Attempt(2, 20, (2, 20), wrong=("depth",))).points == 50
    assert score(Attempt(9, 99, (2, 20), hints=40)).points == 0
    assert answers_score(6, 6, hints=1).points == 96


def test_a_planted_fault_is_scored_by_its_name_and_not_by_an_axle_that_cannot_be_right():
    missed = score(Attempt(2, 20, (3, 30), fault=True, wrong=("runout",)))
    named = score(Attempt(2, 20, (3, 30), fault=True, named=True, wrong=("runout",)))
    assert named.points == 100
    assert missed.points == 60


def test_every_fault_comes_up_and_only_where_one_is_planted():
    found = {fault_of(exercise_named("whole-fault"), seed) for seed in range(200)}
    assert found == set(Fault)
    assert fault_of(exercise_named("whole-axle"), 5) is None


@pytest.mark.parametrize("key", [key for key, rung in ladder().items() if rung.is_whole])
def test_what_would_have_been_right_is_right(key):
    spec = spec_for(exercise_named(key))
    sheet = spec.sheet
    limits = Limits(
        0.0762,
        sheet.backlash_limits(),
        places=4,
        pinion=sheet.range("pinion_preload_new"),
        carrier=sheet.range("carrier_preload"),
        runout=sheet.single("ring_runout"),
    )
    true_axle = sample_axle(subject_of(spec), 77)
    best = best_of(true_axle, limits)
    crush = true_axle.pinion.interference(true_axle.subject.pinion_torque) / true_axle.sleeve_share
    turned = true_axle.slack + crush / true_axle.subject.nut_pitch * 360
    built = AxleAssembly(dict(best.packs), loaded=True, turned=turned)
    assert out_of_range(SimulatedAxle(true_axle, built), limits) == ()
    assert len(best.steps) >= 4
    assert (
        best_of(sample_axle(subject_of(spec), 77, Fault.DRY_BEARING), limits)
        .steps[0]
        .startswith("Find what")
    )


def test_an_unbuilt_axle_does_not_score_though_its_fault_was_named():
    named = Attempt(1, 3, (3, 30), fault=True, named=True, built=False)
    assert score(named).points == 0


def test_every_fault_says_what_it_spoils_and_nothing_else_is_excused():
    assert set(SPOILS) == set(Fault)
    kinds = {"depth", "backlash", "spread", "runout", "pinion preload", "carrier preload"}
    assert all(spoilt and spoilt < kinds for spoilt in SPOILS.values())
    left = Attempt(
        2, 20, (3, 30), fault=True, named=True, wrong=("backlash",), spoilt=frozenset({"spread"})
    )
    excused = Attempt(
        2, 20, (3, 30), fault=True, named=True, wrong=("spread",), spoilt=frozenset({"spread"})
    )
    assert score(left).points < score(excused).points == 100


def test_a_question_for_the_ear_is_made_once_and_shows_nothing_of_its_answer():
    asked = sound_question("hear-load", 4)
    assert asked is sound_question("hear-load", 4)
    assert asked.answer in asked.answers
    assert set(asked.answers) == set(ASKED["hear-load"])
    assert asked.taken.truth == asked.answer
    # Pulling and coasting are told beside it, or there would be nothing to tell gears by.
    assert {state for _, _, state in asked.given.spans} & {"drive", "coast"}
    assert asked.result.tones["all"].orders
    with pytest.raises(AxleError, match="hear-which"):
        sound_question("hear-nothing", 1)
