"""Zero play by the indicator, the first load before the sides change, and dirt told from misread figures."""

from __future__ import annotations

import math
from dataclasses import replace
from itertools import product

import numpy as np
import pytest

from axle.decision.carrier.play_first import interference_std, loose_by, play_std, read_play
from axle.decision.first_load import load_first
from axle.decision.move import Act, Move, Swap
from axle.decision.next_move import next_move
from axle.errors import AxleError
from axle.layout import CarrierBy, DepthShim, Housing, Layout, Place, PreloadBy
from axle.measure.units import IMPERIAL
from axle.preload.dirt import chance_of_dirt
from axle.preload.joint import Shows
from axle.state.priors import Priors, Quantity
from axle.state.reading import Reading
from axle.stations.preload_readings import interference_draws, pair_readings, torque_spread
from axle.stations.zero_play import interference_setting, zero_play
from benchmarks.closed_loop import lash_follower
from benchmarks.closed_loop.shop import case
from tests.axle.rig import THOU, mm
from tests.axle.test_advice import PACKS, standing_axle, taken

COVERS = Layout(DepthShim.HEAD, PreloadBy.SPACER, CarrierBy.COVERS, housing=Housing.SIDE_COVER)


def with_gaps(layout: Layout, **more):
    """Both gaps read by feelers, twice each, with nothing in on either side."""
    settings = {Place.DEPTH: PACKS[Place.DEPTH], Place.PRELOAD: PACKS[Place.PRELOAD]}
    kept = ("arrival_side_play", "arrival_runout", "ring_runout", "depth_feeler", "pinion_torque")
    readings = [replace(t, settings=settings) for t in standing_axle().readings if t.kind in kept]
    gaps = (("held_backlash", 9.0, 40), ("gap_ring", 193.0, 41), ("gap_far", 190.0, 42))
    for kind, thou, order in gaps:
        readings.append(replace(taken(kind, thou * THOU, order, settings=settings), count=2))
    return replace(
        standing_axle(),
        layout=layout,
        settings=settings,
        school="both_sides",
        methods={"carrier_preload": "gaps"},
        readings=tuple(readings),
        **more,
    )


def test_under_covers_the_range_is_too_narrow_for_feelers():
    # 0.05 to 0.10 mm against two gaps of a blade's step each: sum of squares written out anew.
    state = with_gaps(COVERS)
    zero = zero_play(state)
    priors = Priors()
    half = 0.025
    without = math.erf(half / interference_std(zero.uncertainty, priors) / math.sqrt(2))
    with_play = math.erf(half / interference_std(play_std(priors), priors) / math.sqrt(2))
    assert with_play - without > 0.05
    # Common practice, no source: 3 thou of play; and so much that some is left in spite of the feelers.
    assert loose_by(state) == pytest.approx(max(3 * THOU, 3 * zero.uncertainty))
    wide = Layout(DepthShim.HEAD, PreloadBy.SPACER, CarrierBy.OUTBOARD)
    assert loose_by(with_gaps(wide)) is None
    # A hand whose feelers are known to a tenth needs no play.
    sharp = {Quantity.FEELER_SCATTER: 0.001, Quantity.FEELER_FEEL: 0.0}
    told = with_gaps(COVERS, priors=Priors().told(sharp, share=0.01))
    assert loose_by(told) is None or zero_play(told).uncertainty < zero.uncertainty


def test_packs_left_loose_are_read_twice_and_then_made_up():
    state = with_gaps(COVERS)
    settings = {**state.settings, Place.RING: mm(195), Place.FAR: mm(191)}
    # Under covers a thicker pack is looser: 386 thou over a zero play of 383 leave 3 thou.
    fitted = replace(state, settings=settings)
    asked = read_play(fitted, IMPERIAL)
    assert asked.asks == (("carrier_end_play", 1),)
    assert not asked.again
    once = replace(
        fitted, readings=(*fitted.readings, taken("carrier_end_play", 3.4 * THOU, 50, settings=settings))
    )
    assert read_play(once, IMPERIAL).again
    twice = replace(once, readings=(*once.readings[:-1], replace(once.readings[-1], count=2)))
    assert read_play(twice, IMPERIAL) is None
    zero = zero_play(twice)
    assert zero.by_indicator
    # Zero play lies 3.4 thou tighter than what is in: packs that thin by so much just slide.
    assert zero.interference_setting - interference_setting(twice, twice.settings) == pytest.approx(
        3.4 * THOU
    )
    # Tight packs hide zero: nothing is asked there.
    tight = replace(state, settings={**settings, Place.FAR: mm(186)})
    assert read_play(tight, IMPERIAL) is None


@pytest.mark.parametrize("number", [9004, 9028])
def test_an_axle_under_covers_comes_in_range_by_its_play(number):
    # Of the usual world, whose hands and seats the advice does not know; the truth is the simulator's.
    drawn = case(number, preloads=True, world="usual")
    out, state = lash_follower.finish(drawn)
    assert drawn.layout.carrier_by is CarrierBy.COVERS
    assert any("a little loose" in line for line in out.log)
    plays = [
        r for r in pair_readings(state) if r.shows is Shows.CARRIER_PLAY and not r.bound and r.value > 0
    ]
    assert plays
    # The play is known better than the gaps are, and so is what is held of the interference.
    held = interference_draws(state, 1, state.settings)
    assert min(r.std for r in plays) < 0.01
    assert held.std() < 0.02


def sides_changed() -> Move:
    swap = Swap(Place.FAR, before=PACKS[Place.FAR], after=mm(193), pack=None, asked=mm(193))
    return Move.change("Add carrier preload", "carrier_preload", swaps=(swap,), why=("3 thou more.",))


def test_the_first_load_comes_before_the_sides_change_where_the_whole_tells_the_carrier():
    # Common practice, no source: bearings settle at first load, and only the pinion is then read by itself.
    state, move = standing_axle(), sides_changed()
    asked = load_first(state, move)
    assert asked.act is Act.PRINT
    assert asked.then == move
    loaded = next_move(state)
    assert loaded.act in (Act.PRINT, Act.READ, Act.SIGN)
    # Locked gears print nothing; packs that are judged by their interference need no torque.
    assert load_first(standing_axle(lash=(0, 0, 0, 0)), move) == move
    assert (
        load_first(replace(state, school="both_sides", methods={"carrier_preload": "gaps"}), move) == move
    )
    assert load_first(replace(state, settings={}), move) == move
    only_pinion = Move.change("x", "depth", swaps=(replace(move.swaps[0], place=Place.DEPTH),))
    assert load_first(state, only_pinion) == only_pinion


def test_dirt_is_told_from_a_figure_misread():
    # Drawn one step more real than the reader has it: a dirty bearing scatters every figure, by any share of
    # the torque; a misread one is off by digits of the wrench.
    source = np.random.default_rng(5)
    std, torque = 0.07, 2.3
    some, much = (
        [chance_of_dirt(source.normal(0, share * torque, 8), std, torque) for _ in range(200)]
        for share in (0.2, 0.3)
    )
    sound = [chance_of_dirt(source.normal(0, std, 8), std, torque) for _ in range(200)]
    misread = []
    for _ in range(200):
        figures = source.normal(0, std, 8)
        figures[source.integers(0, 8, 2)] += source.choice([-2.26, -1.13, 1.13, 2.26], 2)
        misread.append(chance_of_dirt(figures, std, torque))
    assert np.mean(np.array(some) > 0.5) > 0.7
    assert np.mean(np.array(much) > 0.5) > 0.95
    assert np.mean(np.array(sound) > 0.5) < 0.01
    assert np.mean(np.array(misread) > 0.5) < 0.05


def test_a_hand_twice_as_hurried_is_not_dirt():
    source = np.random.default_rng(6)
    hurried = [chance_of_dirt(source.normal(0, 2 * 0.07, 8), 0.07, 2.3) for _ in range(200)]
    assert np.mean(np.array(hurried) > 0.5) < 0.05


@pytest.mark.parametrize(("std", "torque"), [(0.0, 1.0), (-0.1, 1.0), (0.1, -1.0)])
def test_no_dirt_is_told_of_nothing(std, torque):
    with pytest.raises(AxleError):
        chance_of_dirt([0.1], std, torque)


def test_no_order_of_figures_and_no_side_matters():
    figures = (0.4, -0.3, 0.05)
    found = {
        round(chance_of_dirt([sign * figures[n] for n in turned], 0.07, 2.3), 9)
        for turned, sign in product(((0, 1, 2), (2, 0, 1), (1, 2, 0)), (-1, 1))
    }
    assert len(found) == 1


def test_a_torque_whose_two_ways_lie_apart_is_known_to_half_of_that():
    agrees = Reading(
        "pinion_torque",
        1,
        value=2.3,
        order=1,
        assembly=1,
        settings={},
        conditions={"both": [2.27, 2.33]},
        offs=(-0.03,),
    )
    apart = replace(agrees, offs=(1.13,), conditions={"both": [3.43, 1.17]})
    assert torque_spread(apart) == pytest.approx(1.13)
    assert torque_spread(agrees) < 0.06
    # Read again, what several come to stands for them.
    assert torque_spread(replace(apart, count=3, offs=(1.13, 0.02, -0.01))) < 0.06
