"""What prints say in words, and of sets that cannot be computed."""

from __future__ import annotations

from dataclasses import replace

import pytest

from axle.contact.cut import cut
from axle.contact.estimate import PatchCentroids, place
from axle.contact.mark import Edge, Flanked
from axle.contact.patch import Patch
from axle.contact.print_conditions import Making
from axle.decision.move import Act
from axle.decision.next_move import next_move
from axle.gearset import GearSet
from axle.layout import Place
from axle.measure.units import IMPERIAL, METRIC
from axle.state.reading import Print
from axle.stations.pattern import (
    depth_words,
    read_print,
    ring_words,
)
from axle.stations.pattern_map import print_map
from tests.axle.test_advice import PACKS, standing_axle
from tests.axle.test_prints import THOU, printed, with_prints


def test_no_place_explains_it_then_suspect_the_cut():
    both_toe = Patch.box(0.03, 0.3, 0.3, 0.7)
    made = Print(
        1, 9, settings=PACKS, flanks={"drive": Flanked.of(both_toe), "coast": Flanked.of(both_toe)}
    )
    says = read_print(with_prints(made))
    assert says.says == "unclear"
    assert "suspect the cut, the offset or the shaft angle" in says.findings[0]


def test_a_hard_edge_is_never_good():
    # common practice, no source: a hard edge at top, root or ends is overload: do not run
    state = standing_axle()
    made = printed(state, 0)
    hard = {name: Flanked({1: replace(flank.first, edge=Edge.HARD)}) for name, flank in made.flanks.items()}
    says = read_print(with_prints(replace(made, flanks=hard)))
    assert says.says == "good"
    assert not says.good
    assert any("ends hard: overload" in line for line in says.findings)


def test_a_set_that_cannot_be_computed_is_read_by_the_usual_chart():
    state = with_prints(printed(standing_axle(), 5), gears=GearSet(20, 43))
    says = read_print(state)
    assert says.placed is None
    assert "2.5 to 7.2 for a computed pattern" in says.refused
    assert says.says == "too deep"
    assert print_map(state) is None


def test_what_a_print_says_in_words_and_what_it_cannot_tell():
    state = with_prints(printed(standing_axle(), 5))
    says = read_print(state)
    assert depth_words(says.placed, IMPERIAL).startswith("too deep by ")
    assert depth_words(says.placed, METRIC).endswith("mm")
    told = ring_words(says.placed, state, says.backlash, IMPERIAL)
    assert told.startswith("cannot be told from this print; backlash ")
    assert told.endswith("is in range")


def test_the_move_takes_out_what_the_print_puts_in():
    state = standing_axle(methods={"depth": "trial"})
    once = next_move(replace(state, prints=(printed(state, 6),)))
    # One print of a pinion that far off leaves much open: another is cheaper than a strip-down.
    assert once.act is Act.PRINT
    often = tuple(printed(state, 6, number=number) for number in range(1, 5))
    move = next_move(replace(state, prints=often))
    assert move.act is Act.CHANGE
    depth = next(swap for swap in move.swaps if swap.place is Place.DEPTH)
    assert float(depth.change) / THOU == pytest.approx(-6, abs=1.2)


def test_the_map_says_what_a_thou_does():
    # Models §8: 1 thou of depth is about 0.02 of the height on the drive flank, 0.03 on the coast flank
    words = print_map(standing_axle()).effects(IMPERIAL)
    assert words["depth"].startswith("1 thou deeper: drive 2.")
    assert "% down" in words["depth"]
    assert words["ring"].startswith("1 thou further away: drive 0.")
    assert print_map(standing_axle()).effects(METRIC)["depth"].startswith("0.02 mm deeper")


def test_a_known_making_is_kept_with_the_print():
    state = standing_axle()
    made = printed(state, 0, making=Making(turns=3))
    assert "runout averages out" in made.making.doubts[0]


def test_a_chart_known_better_narrows_more_than_a_rule():
    gears = cut("large_cutter", 11, 41, 222.0)
    seen = PatchCentroids((0.44, 0.42), (0.42, 0.4))
    rule, chart = place(gears, seen, cut_noise=0.03), place(gears, seen, cut_noise=0.0)
    assert chart.stds[0] < rule.stds[0]
