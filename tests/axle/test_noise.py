"""What a noise is by account: facts of the trade, laws of odds, and customers that the table does not know."""

from __future__ import annotations

import math
from collections import Counter
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from axle.errors import AxleError
from axle.gearset import GearSet
from axle.layout import CarrierBy, DepthShim, Layout, Place, PreloadBy
from axle.measure.units import IMPERIAL
from axle.noise.account import account, by_group, causes, check_answers, odds, questions
from axle.noise.by_hand import hand_says, signs_of, told_by_count, turns_to_tell
from axle.noise.lines import Told, answers_of, read_noise_line, standing_account
from axle.simulator.customers import NoisyWorld
from axle.state.axle_state import AxleState
from axle.state.felt import Felt, turned
from axle.state.settings import Settings
from axle.stations.by_hand import click_chance, with_hand
from axle.stations.depth_posterior import depth_posterior
from tests.axle.rig import SHEET, mm

ANSWERS = st.dictionaries(st.sampled_from(sorted(questions())), st.integers(0, 7), max_size=8).map(
    lambda drawn: {
        name: list(questions()[name].answers)[place % len(questions()[name].answers)]
        for name, place in drawn.items()
    }
)


@pytest.mark.parametrize(
    ("answers", "cause"),
    [
        # Common practice, no source: a steady growl that follows road speed and changes in a bend is a wheel bearing;
        ({"sound": "growl", "speed": "rising", "bend": "side", "neutral": "yes"}, "wheel_bearing"),
        # a clear tone on the pull alone, in one band, is the gears; on the overrun alone, their coast side;
        ({"sound": "tone", "drive": "yes", "coast": "no", "speed": "band", "neutral": "no"}, "gear_drive"),
        ({"sound": "howl", "drive": "no", "coast": "yes", "speed": "band", "neutral": "no"}, "gear_coast"),
        # a hum that changes with the surface and stays in neutral is a tyre;
        ({"sound": "hum", "surface": "changes", "neutral": "yes"}, "tyre"),
        # a clunk on taking up the drive, from under the floor, is a joint;
        ({"sound": "clunk", "speed": "takes_up", "where": "floor"}, "joint"),
        # chatter in tight turns is the differential's own; a shake at speed the shaft.
        ({"sound": "chatter", "bend": "tight"}, "differential"),
        ({"sound": "shake", "speed": "band", "float": "yes", "where": "floor"}, "shaft"),
    ],
)
def test_the_usual_accounts_name_the_usual_causes(answers, cause):
    chances = odds(answers)
    assert max(chances, key=chances.get) == cause


def test_what_no_axle_work_cures_is_said_first():
    found = account({"sound": "hum", "surface": "changes", "neutral": "yes"})
    assert found.first[0].name == "tyre"
    assert "No axle work cures it" in found.first[0].cause.cure
    assert account({"sound": "tone", "drive": "yes", "coast": "no", "speed": "band"}).first == ()


def test_heat_at_the_nose_is_told_of_since_preload_is_silent():
    assert "silent until it burns" in account({"heat": "hot"}).silent
    assert account({"heat": "usual"}).silent == ""


@given(ANSWERS)
def test_odds_are_chances(answers):
    chances = odds(answers)
    assert sum(chances.values()) == pytest.approx(1)
    assert all(0 < chance < 1 for chance in chances.values())
    assert sum(by_group(chances).values()) == pytest.approx(1)


@given(ANSWERS)
def test_answers_in_another_order_give_the_same_odds(answers):
    other = dict(reversed(answers.items()))
    assert odds(other) == pytest.approx(odds(answers))


@given(ANSWERS)
def test_what_is_asked_next_was_not_answered_and_narrows(answers):
    found = account(answers)
    assert not {one.name for one in found.next} & set(answers)
    assert all(one.bits >= 0 for one in found.next)


def test_one_answer_alone_never_settles_it():
    for name, question in questions().items():
        for answer in question.answers:
            if not question.is_check:
                assert not account({name: answer}).is_settled


def test_the_first_thing_is_asked_not_done_and_a_cheap_check_comes_before_a_dear_one():
    assert not account({}).next[0].question.is_check
    told = dict.fromkeys(("drive", "coast", "float", "neutral"), "yes")
    told |= {"sound": "hum", "surface": "same", "bend": "same", "speed": "rising", "where": "everywhere"}
    checks = [one for one in account(told).next if one.question.is_check]
    assert checks[0].question.minutes <= checks[-1].question.minutes


def test_a_check_that_finds_what_it_looks_for_moves_the_odds_there():
    told = {"sound": "growl", "speed": "rising"}
    for check, answer, cause in (
        ("swap", "moved", "tyre"),
        ("jack", "wheel", "wheel_bearing"),
        ("flange", "play", "pinion_bearing"),
        ("joints", "loose", "joint"),
    ):
        assert odds(told | {check: answer})[cause] > 1.5 * odds(told)[cause]


def test_answers_that_are_none_are_refused_in_words():
    for wrong in ({"song": "yes"}, {"drive": "perhaps"}):
        with pytest.raises(AxleError) as problem:
            check_answers(wrong)
        assert "is wanted" in str(problem.value)
    for kind, values in (
        ("hum", {}),
        ("told", {"phase": "later", "question": "drive", "answer": "yes"}),
        ("told", {"phase": "road", "question": "drive", "answer": "x"}),
        ("told", {"phase": "road"}),
    ):
        with pytest.raises(AxleError):
            read_noise_line(kind, values)


def test_what_nobody_knows_says_nothing_and_is_not_asked_again():
    told = {"sound": "growl"}
    assert odds(told | {"bend": "unknown"}) == odds(told)
    assert "bend" not in {one.name for one in account(told | {"bend": "unknown"}).next}


def test_answers_before_and_after_do_not_mix():
    lines = [Told("arrival", "drive", "yes"), Told("road", "drive", "no"), Told("arrival", "drive", "no")]
    assert answers_of(lines, "arrival") == {"drive": "no"}
    assert answers_of(lines, "road") == {"drive": "no"}
    assert standing_account([], "road") is None


def test_every_cause_of_the_customers_is_one_of_the_account():
    world = NoisyWorld(1)
    seen = Counter(world.customer().cause for _ in range(600))
    assert set(seen) <= set(causes())
    assert len(seen) >= 10


def test_customers_that_the_table_does_not_know_are_told_apart_on_their_account_alone():
    # A seeded share of benchmarks/noise_account.py, where 4,000 customers of 40 fresh worlds come to 81 %.
    right, logs, flat = 0, 0.0, 0.0
    count = 0
    for seed in range(100, 106):
        world = NoisyWorld(seed)
        for _ in range(60):
            customer = world.customer()
            groups = by_group(odds(customer.answers))
            group = causes()[customer.cause].group
            right += next(iter(groups)) == group
            logs += math.log(groups[group])
            flat += math.log(by_group(odds({}))[group])
            count += 1
    assert right / count > 0.74
    # The odds say more than how often each group comes (log score, proper).
    assert logs > flat + 0.5 * count


def test_more_answers_do_not_worsen_the_log_score():
    world, some, every = NoisyWorld(7), 0.0, 0.0
    for _ in range(250):
        customer = world.customer()
        group = causes()[customer.cause].group
        few = dict(list(customer.answers.items())[:3])
        some += math.log(by_group(odds(few))[group])
        every += math.log(by_group(odds(customer.answers))[group])
    assert every > some


# By hand.

GEARS = GearSet(11, 41)
BARE = AxleState(Layout(DepthShim.HEAD, PreloadBy.SPACER, CarrierBy.OUTBOARD), GEARS, SHEET)


def deep_or_not(*felt: Felt):
    """The depth as it is held on an axle with a pack in, before any print, with what the hand felt."""
    now = Settings({Place.DEPTH: mm(30)})
    return depth_posterior(
        replace(BARE, settings=now, felt=tuple(replace(one, settings=now) for one in felt))
    )


def hand(drive: str, coast: str, assembly: int = 1) -> tuple[Felt, ...]:
    return (
        Felt(drive, "drive", assembly, Settings(), assembly * 10),
        Felt(coast, "coast", assembly, Settings(), assembly * 10 + 1),
    )


def test_a_click_on_the_drive_side_alone_speaks_for_a_deep_pinion():
    # Common practice, no source: a pinion that is too deep clicks under the hand on the drive side.
    before = deep_or_not()
    clicked, quiet, both = (
        deep_or_not(*hand(*felt))
        for felt in (("click", "smooth"), ("smooth", "smooth"), ("click", "click"))
    )
    assert clicked.error > before.error + 0.03
    assert clicked.std < before.std
    # Both ways turned without one speaks a little against it; a click both ways says nothing of depth.
    assert 0 < before.error - quiet.error < (clicked.error - before.error) / 2
    assert (both.error, both.std) == (before.error, before.std)
    # One way alone is half a reading.
    half = deep_or_not(Felt("click", "drive", 1, Settings(), 1))
    assert half.error == before.error


@given(st.floats(-0.3, 0.3), st.floats(0.01, 0.3), st.booleans())
def test_a_click_moves_the_depth_its_own_way_for_any_pinion(error, std, clicks):
    # Bayes' rule by draws: an independent sum of the same rule.
    state = replace(BARE, felt=hand("click" if clicks else "smooth", "smooth"))
    mean, width = with_hand(state, (error, std))
    drawn = np.random.default_rng(5).normal(error, std, 200_000)
    weight = click_chance(drawn) if clicks else 1 - click_chance(drawn)
    assert mean == pytest.approx(np.average(drawn, weights=weight), abs=0.02 * std + 1e-4)
    # Not narrower by law: where the hand speaks against the gauge, both are kept.
    off = np.sqrt(np.average((drawn - mean) ** 2, weights=weight))
    assert width == pytest.approx(off, rel=0.02)
    assert (mean - error) * (1 if clicks else -1) >= -1e-6


def test_the_click_must_be_gone_after_the_move():
    before = Settings({Place.DEPTH: mm(30)})
    after = Settings({Place.DEPTH: mm(30 - 6 * BARE.layout.depth_sign)})
    clicked = tuple(replace(one, settings=before) for one in hand("click", "smooth"))
    moved = replace(BARE, settings=after, assembly=2, felt=clicked)
    assert "must be gone" in hand_says(moved, IMPERIAL).asks
    still = replace(
        moved, felt=(*clicked, *(replace(one, settings=after) for one in hand("click", "smooth", 2)))
    )
    assert hand_says(still, IMPERIAL).still
    assert "count it before it is moved again" in hand_says(still, IMPERIAL).words[0]
    gone = replace(
        moved, felt=(*clicked, *(replace(one, settings=after) for one in hand("smooth", "smooth", 2)))
    )
    assert hand_says(gone, IMPERIAL).gone


@pytest.mark.parametrize(
    ("count", "turns", "shaft", "name"),
    [
        # The geometry of the mesh at 41/11: the ring gear turns once in 3.73 turns of the pinion, one pinion tooth
        # meets one ring tooth once in 41 turns of the pinion (the numbers share no factor).
        (20, 20, "pinion", "pinion"),
        (8, 30, "pinion", "ring"),
        (10, 10, "ring", "ring"),
        (37, 10, "ring", "pinion"),
        (1, 41, "pinion", "pair"),
        (3, 33, "ring", "pair"),
        # A cage turns a little under half as fast as the shaft in it (vibration handbooks).
        (17, 40, "pinion", "pinion_cage"),
        (170, 20, "pinion", "pinion_race"),
    ],
)
def test_what_comes_by_is_told_by_counting(count, turns, shaft, name):
    found = told_by_count(count, turns, shaft, GEARS)
    assert found[0].name == name
    assert sum(one.chance for one in found) <= 1.0 + 1e-9


def test_a_short_count_names_how_long_to_count():
    found = told_by_count(1, 3, "pinion", GEARS)
    more = turns_to_tell(found)
    assert 10 <= more <= 40
    first = {one.name for one in found[:2]}
    again = told_by_count(round(more / GEARS.ratio), more, "pinion", GEARS)
    assert again[0].name in first
    assert again[0].chance > 0.8
    with pytest.raises(AxleError, match="more than 0"):
        told_by_count(1, 0, "pinion", GEARS)
    with pytest.raises(AxleError, match="at most 100 a turn"):
        told_by_count(1000, 2, "pinion", GEARS)


def test_each_feel_names_its_bench_check_and_the_shield_is_looked_at_first():
    # Common practice, no source: what rubs once a turn of the pinion is the shield, looked at before anything
    # comes apart; used gears off their old wear howl on the overrun.
    def titles(drive, coast, *, used=False):
        return [sign.title for sign in signs_of(turned(hand(drive, coast))[0], used=used)]

    assert titles("rough", "rough")[0] == "The flange's shield rubs"
    assert "Sharp edges along the teeth" in titles("rough", "smooth")
    assert titles("click", "smooth")[0] == "A pinion that is too deep"
    assert "Used gears off their old wear" in titles("smooth", "rough", used=True)
    assert "Used gears off their old wear" not in titles("smooth", "rough")
    assert titles("smooth", "smooth") == []


@pytest.mark.parametrize(
    ("kind", "values", "wanted"),
    [
        ("felt", {"assembly": 1, "flank": "left", "feel": "click"}, "drive, coast"),
        ("felt", {"assembly": 0, "flank": "drive", "feel": "click"}, "1 to 200"),
        ("felt", {"assembly": 1, "flank": "drive", "feel": "odd"}, "smooth, click"),
        (
            "count",
            {"assembly": 1, "feel": "click", "shaft": "wheel", "turns": 3, "count": 1},
            "pinion or ring",
        ),
        ("count", {"assembly": 1, "feel": "click", "shaft": "ring", "turns": 0, "count": 1}, "more than 0"),
    ],
)
def test_a_line_of_the_hand_is_held_to_its_kind(kind, values, wanted):
    with pytest.raises(AxleError) as found:
        read_noise_line(kind, values)
    assert wanted in str(found.value)
