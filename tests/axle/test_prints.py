"""Prints as a job has them: how they are marked and made, several places, repeats, schools, the set's own chart."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from axle.contact.cut import cut, families
from axle.contact.estimate import PatchCentroids
from axle.contact.gears import cut_of
from axle.contact.mark import Flanked, FlankMark, Strength
from axle.contact.patch import Patch
from axle.contact.pattern_runout import wander
from axle.contact.print_conditions import making_of
from axle.contact.response import pair, response
from axle.contact.set_chart import set_chart
from axle.contact.target import TargetConvention, cut_for_target, targets
from axle.errors import AxleError
from axle.gearset import GearSet
from axle.measure.units import IMPERIAL
from axle.state.reading import Print
from axle.stations.pattern import (
    Prints,
    by_school,
    read_print,
    school_lines,
    wander_words,
)
from axle.stations.pattern_map import print_map
from tests.axle.test_advice import PACKS, standing_axle

THOU = 0.0254
BOX = Patch.box(0.25, 0.65, 0.3, 0.7)


def printed(state, thou_deep: float, number: int = 1, up: float = 0.0, **more) -> Print:
    """A print as the state's own gears show it so deep."""
    shown = print_map(replace(state, prints=())).at(thou_deep * THOU, 0.0).outlines
    flanks = {}
    for name, lines in shown.items():
        outline = np.clip(max(lines, key=len) + np.array([0.0, up]), 0, 1)
        flanks[name] = Flanked.of(Patch(tuple((float(u), float(v)) for u, v in outline)))
    return Print(1, 100 + number, settings=PACKS, flanks=flanks, number=number, **more)


def with_prints(*prints: Print, **more):
    return replace(standing_axle(), prints=prints, **more)


# ---- marks


def test_a_circle_drawn_by_hand_has_a_circle_s_area():
    # Plane geometry: πr² in the drawn coordinates, whichever way round and however often it is gone around
    around = [(0.5 + 0.2 * math.cos(t), 0.5 + 0.2 * math.sin(t)) for t in np.linspace(0, 2 * math.pi, 80)]
    for line in (around, around[::-1], around + around[:30]):
        patch = Patch.drawn(line)
        assert patch.area == pytest.approx(math.pi * 0.04, rel=0.02)
        assert patch.centroid == pytest.approx((0.5, 0.5), abs=0.005)


def test_a_line_past_the_flank_is_held_to_it():
    assert Patch.drawn([(-1, -1), (2, -1), (2, 2), (-1, 2)]).area == pytest.approx(1, abs=0.02)


@pytest.mark.parametrize("line", [[(0.2, 0.2), (0.7, 0.7)], [(0.5, 0.5)] * 9])
def test_a_line_around_nothing_is_refused(line):
    with pytest.raises(AxleError, match="a line around nothing was given"):
        Patch.drawn(line)


@given(st.integers(20, 90), st.floats(0.05, 0.3), st.floats(0.05, 0.3))
@settings(max_examples=30)
def test_fewer_corners_are_the_same_patch(count, along, up):
    angles = np.linspace(0, 2 * math.pi, count, endpoint=False)
    patch = Patch(tuple((0.5 + along * math.cos(a), 0.5 + up * math.sin(a)) for a in angles))
    fewer = patch.simplified()
    assert len(fewer.outline) <= 16
    assert fewer.centroid == pytest.approx(patch.centroid, abs=0.02)
    assert fewer.area == pytest.approx(patch.area, rel=0.15)


def test_two_patches_have_their_common_middle():
    # Statics: the middle of two areas lies between them as the areas weigh
    small, large = Patch.box(0.1, 0.2, 0.4, 0.6), Patch.box(0.5, 0.8, 0.4, 0.6)
    both = FlankMark((small, large))
    weighed = (small.area * 0.15 + large.area * 0.65) / (small.area + large.area)
    assert both.centroid[0] == pytest.approx(weighed)
    assert both.reach[:2] == (0.1, 0.8)


def test_a_tip_that_touches_is_no_edge_but_a_run_along_it_is():
    # common practice, no source: a feathered tip may touch, a patch that follows the edge overloads it
    tip = Patch(((0.4, 0.0), (0.6, 0.4), (0.4, 0.8), (0.2, 0.4)))
    assert tip.runs(0.03)["root"] < 0.05
    assert Patch.box(0.2, 0.8, 0.0, 0.5).runs(0.03)["root"] > 0.25


def test_three_words_make_a_patch_and_another_word_is_refused():
    low, high = Patch.quick("low", "to the toe", "usual"), Patch.quick("high", "to the heel", "large")
    assert low.centroid[1] < 0.5 < high.centroid[1]
    assert low.centroid[0] < high.centroid[0]
    assert low.area < high.area
    with pytest.raises(AxleError, match="patch height: “lowish” was given; at the root or low"):
        Patch.quick("lowish", "central", "usual")


def test_faint_prints_and_few_places_are_believed_less():
    clear, faint = FlankMark((BOX,)), FlankMark((BOX,), strength=Strength.FAINT)
    assert faint.noise > clear.noise
    assert Flanked({1: clear, 2: clear, 3: clear}).noise < Flanked({1: clear}).noise
    # what a whole print has wrong is in each of its places: it does not average out
    assert Flanked(dict.fromkeys(range(1, 13), clear)).noise[1] > clear.noise[1] / math.sqrt(2)


def test_how_a_print_was_made_is_doubted_in_words():
    # common practice, no source: three to five teeth, loaded, both ways, one turn
    assert making_of({"compound": "blue", "load": "brake", "turns": "1"}).doubts == ()
    poor = making_of({"load": "none", "direction": "drive", "turns": "4,5", "teeth": 1})
    assert [doubt.split(":")[0] for doubt in poor.doubts] == [
        "4.5 turns",
        "1 teeth painted",
        "Printed without load",
        "Turned the drive way only",
    ]
    for bad, words in (
        ({"compound": "green"}, "yellow or white or blue or red"),
        ({"load": "jack"}, "brake or pry"),
        ({"turns": "many"}, "a number"),
        ({"turns": "-1"}, "0 to 50"),
        ({"turns": "nan"}, "0 to 50"),
        ({"places": "13"}, "1 to 12"),
        ({"teeth": "2.5"}, "a whole number"),
        ({"teeth": "inf"}, "a whole"),
    ):
        with pytest.raises(AxleError, match=words):
            making_of(bad)


# ---- around the ring gear


def around(count: int, order: float, size: float, noise: float = 0.0, seed: int = 1) -> dict[str, Flanked]:
    """A pattern that wanders so many times a turn, by a size either way in height."""
    draw, marks = np.random.default_rng(seed), {}
    for k in range(count):
        up = size * math.cos(order * 2 * math.pi * k / count + 0.7) + noise * draw.normal()
        marks[k + 1] = FlankMark((Patch.box(0.25, 0.65, 0.3 + up, 0.6 + up),))
    return {"drive": Flanked(marks), "coast": Flanked(marks)}


@pytest.mark.parametrize(("order", "blames"), [(1.0, "ring"), (2.0, "ring"), (41 / 11, "pinion")])
@pytest.mark.parametrize("seed", range(5))
def test_the_order_tells_ring_gear_from_pinion(order, blames, seed):
    # Models §7: once or twice around is the ring gear or carrier, N2/N1 times the pinion
    found = wander(around(8, order, size=0.09, noise=0.012, seed=seed), 8, 41 / 11)
    assert found.blames == blames
    assert found.order == pytest.approx(order)


def test_three_places_show_wander_but_cannot_tell_its_part():
    found = wander(around(3, 1.0, 0.1), 3, 41 / 11)
    assert found.blames == "not told"
    assert "print 7 places" in wander_words(found, 41 / 11)
    assert wander(around(2, 1.0, 0.1), 2, 41 / 11) is None


def test_what_folds_onto_the_ring_s_turn_is_not_called_the_pinion():
    # at 5 places 4 times a turn looks like once: aliasing, as in runout
    found = wander(around(5, 4.0, 0.1), 5, 4.0)
    assert (found.blames, found.tells) == ("not told", 7)
    # Nor is the ring gear blamed where the pinion's turns would look the same: 4.1 a turn at six places.
    assert wander(around(6, 2.0, 0.1), 6, 4.1).blames == "not told"
    assert wander(around(7, 2.0, 0.1), 7, 4.1).blames == "ring"


def test_counted_teeth_say_where_the_places_are():
    # Five teeth anywhere around a 41-tooth ring gear: the pinion's turn is told where even places would fold it
    teeth, marks = (1, 7, 12, 22, 30, 36), {}
    for number, tooth in enumerate(teeth, start=1):
        up = 0.1 * math.cos(41 / 11 * 2 * math.pi * (tooth - 1) / 41)
        marks[number] = FlankMark((Patch.box(0.25, 0.65, 0.3 + up, 0.6 + up),), tooth=tooth)
    found = wander({"drive": Flanked(marks)}, 6, 41 / 11, 41)
    assert (found.blames, found.order) == ("pinion", pytest.approx(41 / 11))


def test_a_steady_pattern_is_called_steady():
    found = wander(around(6, 1.0, 0.01, 0.01), 6, 3.73)
    assert found.blames == "nothing"
    assert "no more wander" in wander_words(found, 3.73)


# ---- targets and the chart


@pytest.mark.parametrize("family", sorted(families()))
@pytest.mark.parametrize("school", ["toe", "central"])
def test_a_set_aimed_at_a_target_shows_it_when_it_is_right(family, school):
    target = targets({}, {})[TargetConvention(school)]
    shown = pair(cut_for_target(cut(family, 9, 41, 222.0), target, True))
    assert shown.convex.centroid == pytest.approx(target.drive, abs=0.01)
    assert shown.concave.centroid == pytest.approx(target.coast, abs=0.01)


def test_on_a_used_set_the_coast_flank_counts_most():
    # common practice, no source: the coast flank howls
    state = with_prints(found={"drive": BOX, "coast": BOX}, used_gears=True)
    prints = Prints(state)
    assert prints.target.school is TargetConvention.OLD
    item = prints.cut_for_target(prints.target)
    right = pair(item)
    drive_off = PatchCentroids(
        (right.convex.centroid[0], right.convex.centroid[1] - 0.08), right.concave.centroid
    )
    coast_off = PatchCentroids(
        right.convex.centroid, (right.concave.centroid[0], right.concave.centroid[1] - 0.08)
    )
    told = [abs(prints.placed(centroids, prints.target).depth) for centroids in (drive_off, coast_off)]
    assert told[1] > 2 * told[0]


@pytest.mark.parametrize("family", ["large_cutter", "small_cutter", "spiral_bevel"])
def test_the_chart_marks_the_cell_the_print_was_made_at(family):
    item = cut(family, 11, 41, 222.0)
    depths, opened = [n * THOU for n in (-6, -3, 0, 3, 6)], [n * THOU for n in (-3, 0, 3)]
    plain = set_chart(item, depths, opened)
    assert plain.nearest is None
    for row in range(5):
        cell = plain.rows[row][1]
        found = set_chart(
            item,
            depths,
            opened,
            PatchCentroids(*(p.centroid for p in (cell.pair.convex, cell.pair.concave))),
        )
        assert found.nearest == (row, 1)


def test_along_a_row_only_backlash_changes_and_along_a_column_only_depth():
    item = cut("large_cutter", 11, 41, 222.0)
    per = response(item).backlash
    for row in set_chart(item, (-0.1, 0.0, 0.1), (-0.05, 0.0, 0.05)).rows:
        for cell in row:
            assert per["ring"] * cell.ring + per["depth"] * cell.depth == pytest.approx(
                cell.opened, abs=1e-9
            )


# ---- what a print says


@pytest.mark.parametrize("deep", [-7, -5, -4, 4, 5, 7])
@pytest.mark.parametrize(
    "gears",
    [
        GearSet(9, 38),
        GearSet(11, 41, 235.0),
        GearSet(
            10,
            41,
            215.0,
            offset=0.0,
            ring_spiral=math.radians(35),
            drive_angle=math.radians(20),
            coast_angle=math.radians(20),
            family="spiral_bevel",
        ),
    ],
)
def test_the_depth_it_was_printed_at_comes_back(deep, gears):
    # Without a gauge; with one the two are weighed.
    state = replace(standing_axle(methods={"depth": "trial"}), gears=gears)
    says = read_print(replace(state, prints=(printed(state, deep),)))
    assert says.says == ("too deep" if deep > 0 else "too shallow")
    assert says.depth_error / THOU == pytest.approx(deep, abs=0.8)
    assert not says.placed.tells_ring


@pytest.mark.parametrize("deep", [-2, 0, 2])
def test_within_three_thou_is_good(deep):
    # common practice, no source: 0.003 in either way is right
    state = standing_axle()
    says = read_print(replace(state, prints=(printed(state, deep),)))
    assert says.good
    assert says.depth_error == 0.0


def test_a_drive_flank_cut_concave_is_read_on_the_concave_flank():
    state = standing_axle()
    angles = {"drive_angle": state.gears.coast_angle, "coast_angle": state.gears.drive_angle}
    turned = replace(state, gears=replace(state.gears, drive_convex=False, **angles))
    says = read_print(replace(turned, prints=(printed(turned, 9),)))
    assert says.says == "too deep"
    assert cut_of(turned.gears).convex_angle == turned.gears.coast_angle


def test_two_prints_that_disagree_are_printed_again():
    # common practice, no source: a poor print is repeated before anything is changed
    state = standing_axle()
    says = read_print(with_prints(printed(state, 5), printed(state, -5, 2)))
    assert says.says == "unclear"
    assert says.depth_error == 0
    assert says.findings[0].startswith("Prints of this assembly disagree by")
    third = read_print(with_prints(printed(state, 5), printed(state, -5, 2), printed(state, 4.6, 3)))
    assert (third.says, third.count) == ("too deep", 2)


def test_prints_that_agree_narrow_the_depth():
    state = standing_axle()
    one = read_print(with_prints(printed(state, 5)))
    two = read_print(with_prints(printed(state, 5.5), printed(state, 4.5, 2)))
    assert two.count == 2
    assert two.placed.stds[0] < one.placed.stds[0]


def test_schools_are_named_and_said_where_they_differ():
    state = with_prints(printed(standing_axle(), 4))
    lines = school_lines(state, read_print(state), IMPERIAL)
    assert lines[0] == "Held to a little toe-side."
    central = replace(state, aim="central")
    depths = {school: placed.depth for school, placed in by_school(central, read_print(central)).items()}
    assert set(depths) == {TargetConvention.TOE, TargetConvention.CENTRAL}
    assert read_print(central).target.school is TargetConvention.CENTRAL
    high = Patch.box(0.25, 0.65, 0.45, 0.85)
    charted = replace(state, chart={"drive": high, "coast": high})
    said = school_lines(charted, read_print(charted), IMPERIAL)
    assert said[0] == "Held to the maker's chart."
    assert any(line.startswith("To a little toe-side instead: too deep by") for line in said)
