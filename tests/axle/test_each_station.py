"""Small tests of what stations make of readings: which count, which are left out, and how surely."""

from __future__ import annotations

import cmath
import math
from dataclasses import replace
from decimal import Decimal

import pytest

from axle.layout import DepthShim, Place, PreloadBy
from axle.measure.units import METRIC
from axle.shims.pieces import Pack, Piece
from axle.stations.backlash import backlash_around
from axle.stations.depth import pack_spread
from axle.stations.depth_measurements import depth_by_method, measured_depth
from axle.stations.depth_posterior import depth_posterior
from axle.stations.pinion_preload import bite_for
from axle.stations.pinion_trials import trials_of
from axle.stations.runout import diagnose, tell_apart
from benchmarks.random_axles import random_axle
from tests.axle.figures import figures_of
from tests.axle.rig import IN_LB, THOU, mm
from tests.axle.test_advice import PACKS, SHIMS, TRIAL, standing_axle, taken, with_print
from tests.axle.test_pinion_advice import axle as pinion
from tests.axle.test_pinion_advice import preload_axle, read, trial
from tests.axle.test_runout import axle as runs_of
from tests.axle.test_runout import ring, signal, turned

# ---- order of the records


@pytest.mark.parametrize("seed", range(41_000, 41_012))
def test_records_may_come_in_any_order(seed):
    # Records carry their own order; how a database lists them says nothing.
    state = random_axle(seed)
    turned_about = replace(
        state,
        readings=state.readings[::-1],
        prints=state.prints[::-1],
        runs=state.runs[::-1],
    )
    assert list(figures_of(turned_about)) == list(figures_of(state))


def test_a_place_read_twice_counts_as_it_was_read_last():
    state = standing_axle(lash=(9, 9, 9, 9))
    late = taken("backlash", 12 * THOU, order=7, place=2, settings=PACKS)
    for readings in ((*state.readings, late), (late, *state.readings)):
        around = backlash_around(replace(state, readings=readings))
        assert around.places[2] == pytest.approx(12 * THOU)


# ---- depth


def two_methods(before: dict, now: dict):
    return pinion(
        SHIMS,
        read("depth_feeler", 0.60, 1, settings=before),
        read("dial_travel", 0.80, 2, settings=now),
        settings=now,
    )


def test_a_method_read_on_another_shim_gives_way_to_one_read_on_this():
    # A pinion that is set with another shim is measured afresh; the other figure is kept, and not weighed.
    state = two_methods({Place.SLINGER: mm(20)}, {Place.SLINGER: mm(31)})
    stale = {m.method: m.stale for m in depth_by_method(state) if m.result}
    assert stale["gauge"]
    assert not stale["dial"]
    order, compared = measured_depth(state)
    assert order == 2
    assert [r.method for r in compared.results] == ["dial"]


def test_methods_read_on_the_same_setting_are_weighed_together():
    order, compared = measured_depth(two_methods({}, {}))
    assert order == 2
    assert {r.method for r in compared.results} == {"gauge", "dial"}


@pytest.mark.parametrize(("steps", "coarsest"), [((0.01, 0.05), 0.05), ((0.05, 0.01), 0.05)])
def test_repeats_are_as_sure_as_the_coarsest_instrument(steps, coarsest):
    # JCGM 100:2008, 4.3.7: a step of width w has the standard uncertainty w/√12.
    readings = [read("depth_feeler", 0.60, n, n, step=step) for n, step in enumerate(steps, start=1)]
    result = next(m.result for m in depth_by_method(pinion(SHIMS, *readings)) if m.method == "gauge")
    term = next(t for t in result.terms if t.label == "feeler that drags")
    assert term.spread == pytest.approx(coarsest / math.sqrt(12), rel=0.01)


def test_a_piece_that_was_only_marked_is_less_sure_than_one_that_was_measured():
    one, two = (pack_spread(Pack((Piece(1, Decimal("0.5"), miced=miced),))) for miced in (False, True))
    # Half a thou either way of the mark, JCGM 100:2008, 4.3.7.
    assert one == pytest.approx(0.0127 / math.sqrt(3))
    assert two < one


def test_where_the_set_cannot_be_computed_a_print_is_weighed_by_its_height():
    # By hand: the mean of two independent figures is weighted by their inverse squares.
    state = with_print(standing_axle(methods=TRIAL), (0.62, 0.95))
    bare = replace(state, prints=(), gears=replace(state.gears, cutter_radius=45.0))
    seen = replace(bare, prints=state.prints)
    before, after = depth_posterior(bare), depth_posterior(seen)
    print_error, print_std = after.prints
    weights = before.std**-2, print_std**-2
    assert after.error == pytest.approx(
        (before.error * weights[0] + print_error * weights[1]) / sum(weights)
    )
    assert after.std == pytest.approx(sum(weights) ** -0.5)
    assert print_error < 0  # a high pattern is of a pinion too shallow


# ---- preload of the pinion


def test_trials_are_taken_oldest_first():
    rows = [trial(21.0, 0.9, 3), trial(21.5, 2.4, 1), trial(21.2, 1.5, 2)]
    trials = trials_of(preload_axle(*rows))
    assert [t.torque / IN_LB for t in trials.used] == pytest.approx([2.4, 1.5, 0.9])
    assert [r.order for r in trials.readings] == [1, 2, 3]


def test_a_trial_in_dry_bearings_is_left_out_of_a_pack():
    rows = [trial(21.0, 0.9, 1), trial(21.3, 1.6, 2, oil="dry"), trial(21.5, 2.4, 3)]
    trials = trials_of(preload_axle(*rows))
    assert [r.order for r in trials.readings] == [1, 3]
    assert "dry" in trials.left_out[0]


def test_a_spacer_knows_no_bite():
    assert bite_for(preload_axle(trial(21.0, 0.9, 1))) is None
    sleeve = replace(SHIMS, preload_by=PreloadBy.SLEEVE, depth_shim=DepthShim.HEAD)
    assert bite_for(preload_axle(layout=sleeve)) is None


# ---- runout


def test_of_several_clockings_the_one_nearest_half_a_turn_is_used():
    # The flange's vector is found the surest where the gear stood half a turn on: there they differ the most.
    flange, gear = cmath.rect(0.03, 0.4), cmath.rect(0.06, 2.0)
    wrong = signal(12, (1, 0.2, 0.0))
    state = runs_of(
        ring(turned(flange, gear, 0), 0, 9),
        ring(wrong, 1, 8),
        ring(turned(flange, gear, 5), 5, 4),
        ring(wrong, 9, 7),
    )
    assert tell_apart(state).flange == pytest.approx(flange)


def test_parts_told_apart_are_as_unsure_as_the_less_sure_run():
    row, other = turned(0.05, 0.06, 0), turned(0.05, 0.06, 5)
    rough = [value + 0.02 * math.cos(5 * math.tau * n / 12) for n, value in enumerate(other)]
    both = tell_apart(runs_of(ring(row, 0, 5), ring(rough, 5, 4)))
    swapped = tell_apart(runs_of(ring(row, 0, 4), ring(rough, 5, 5)))
    clean = tell_apart(runs_of(ring(row, 0, 5), ring(other, 5, 4)))
    assert both.uncertainty == pytest.approx(swapped.uncertainty)
    assert both.uncertainty > clean.uncertainty


def test_a_sheet_without_a_limit_of_runout_names_none():
    state = runs_of(ring(signal(12, (1, 0.04, 1.0))))
    values = {name: value for name, value in state.sheet.values.items() if name != "ring_runout"}
    bare = replace(state, sheet=replace(state.sheet, values=values))
    assert any(line.startswith("Limit") for line in diagnose(state, METRIC).why)
    assert not any(line.startswith("Limit") for line in diagnose(bare, METRIC).why)
