"""Travel of patches read off a spline, and the update of depth, against brute force and simulated sets."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import pytest

from axle.contact.cut import cut
from axle.contact.estimate import Middles
from axle.contact.gears import cut_of
from axle.contact.goal import aimed, goals
from axle.contact.response import pair, response
from axle.contact.together import Before, Shown, together
from axle.contact.travel import FARTHEST, travel
from axle.gearset import GearSet
from axle.layout import CarrierBy, DepthShim, Layout, PreloadBy
from axle.simulator.hidden import Subject, draw

GEARS = cut("large_cutter", 11, 41, 222.0)
OTHERS = [GEARS, cut("large_cutter", 9, 38, 222.0), cut("small_cutter", 10, 41, 235.0)]
LAYOUT = Layout(DepthShim.HEAD, PreloadBy.SPACER, CarrierBy.OUTBOARD)
HELD = Before(0.0, 0.127, 0.2, 0.03, 1.05, -0.4)


def at(*values: float) -> np.ndarray:
    return np.array(values)


# ---- travel


@pytest.mark.parametrize("item", OTHERS)
def test_the_spline_gives_what_the_meshing_gives(item):
    source = np.random.default_rng(11)
    depth, ring = source.normal(0, 0.15, 40), source.uniform(-0.3, 0.45, 40)
    due = np.array([pair(item, depth=d, ring=r).centroids for d, r in zip(depth, ring, strict=True)])
    # A print scatters by 0.03 of the flank (models §8): a fifth of that is not seen.
    assert np.abs(travel(item).middles(depth, ring) - due).max() < 0.006


@pytest.mark.parametrize("item", OTHERS)
def test_near_the_right_place_it_moves_as_the_response_says(item):
    told, step = response(item), 0.02
    map_ = travel(item)
    by_depth = (map_.middles(at(step), at(0.0)) - map_.middles(at(-step), at(0.0)))[0] / (2 * step)
    assert by_depth == pytest.approx(np.array(told.pattern["depth"]), abs=0.08)
    assert map_.by_ring(at(0.0), at(0.0))[0] == pytest.approx(np.array(told.pattern["ring"]), abs=0.08)


def test_a_pinion_that_comes_deeper_shows_the_usual_signs():
    # Models §8: too deep, the drive (convex) patch lies low on the ring's tooth, and so does the coast
    # patch; the ring gear away from the pinion puts both the other way.
    map_ = travel(GEARS)
    right, deep, away = (map_.middles(at(d), at(r))[0] for d, r in ((0.0, 0.0), (0.1, 0.0), (0.0, 0.1)))
    assert all(deep[[1, 3]] < right[[1, 3]])
    assert all(away[[1, 3]] > right[[1, 3]])


def test_beyond_the_farthest_place_a_patch_stays():
    map_ = travel(GEARS)
    assert np.array_equal(map_.middles(at(FARTHEST), at(0.0)), map_.middles(at(2.0), at(0.0)))
    assert np.array_equal(map_.by_ring(at(0.0), at(-FARTHEST)), map_.by_ring(at(0.0), at(-3.0)))


# ---- the update, by brute force


def drawn_at_random(before: Before, shown: Shown, count: int) -> tuple[float, float, float]:
    """Mean and spread of the depth and mean of the backlash by importance sampling from what was held.

    Each draw is one whole axle; it counts by how likely it shows the print.
    """
    source = np.random.default_rng(5)
    depth = source.normal(before.depth, before.depth_spread, count)
    lash = source.normal(before.lash, before.lash_spread, count)
    centre = source.normal(0, before.cut_noise, (count, 4))
    along, up = before.travel
    covariance = np.diag([along**2, up**2, along**2, up**2])
    covariance[1, 3] = covariance[3, 1] = 0.75 * up**2
    share = source.multivariate_normal(np.zeros(4), covariance, count)
    ring = (shown.backlash + source.normal(0, shown.unsure, count) - lash) / before.per_ring
    ring -= before.per_depth / before.per_ring * (depth + shown.deeper)
    map_ = travel(GEARS)
    right = map_.middles(at(0.0), at(0.0))
    seen = right + (1 + share) * (map_.middles(depth + shown.deeper, ring) - right) + centre
    off = (shown.middles.values - seen) / shown.middles.noise
    weights = np.exp(-(off**2).sum(axis=1) / 2)
    weights /= weights.sum()
    mean = float(weights @ depth)
    return mean, math.sqrt(float(weights @ (depth - mean) ** 2)), float(weights @ lash)


@pytest.mark.parametrize(
    ("depth", "ring", "backlash"),
    [(0.0, 0.0, 0.2), (0.2, 0.05, 0.17), (-0.25, -0.05, 0.25), (0.1, 0.3, 0.5)],
)
def test_the_update_is_bayes_rule_by_brute_force(depth, ring, backlash):
    # Self-normalised importance sampling (Robert and Casella, Monte Carlo Statistical Methods, 3.3): a
    # million whole axles, each weighed by how well it explains the print.
    shown = pair(GEARS, depth=depth, ring=ring)
    seen = Shown(Middles(shown.convex.centroid, shown.concave.centroid), 0.0, backlash, 0.015)
    found = together(GEARS, HELD, (seen,))
    mean, spread, lash = drawn_at_random(HELD, seen, 400_000)
    assert found.depth == pytest.approx(mean, abs=0.003)
    assert found.depth_spread == pytest.approx(spread, rel=0.06)
    assert found.lash == pytest.approx(lash, abs=0.002)


def test_what_is_held_of_travel_is_kept_from_print_to_print():
    # The share by which this set travels is the same in each print: four prints of one assembly do not
    # average it out, two assemblies tell it.
    shown = pair(GEARS, depth=0.25, ring=0.1)
    one = Shown(Middles(shown.convex.centroid, shown.concave.centroid), 0.0, 0.2, 0.01)
    four = together(GEARS, HELD, (one,) * 4)
    known = together(GEARS, replace(HELD, travel=(1e-3, 1e-3)), (one,) * 4)
    assert four.depth_spread > 1.1 * known.depth_spread
    less = pair(GEARS, depth=0.02, ring=0.0)
    # The shim took out 0.23: as the pinion stands now, the first print was made that much deeper.
    before = replace(one, deeper=0.23)
    after = Shown(Middles(less.convex.centroid, less.concave.centroid), 0.0, 0.2, 0.01)
    moved = together(GEARS, HELD, (before,) * 4 + (after,))
    assert moved.depth_spread < four.depth_spread


def test_a_flank_that_was_not_read_tells_nothing():
    shown = pair(GEARS, depth=0.1)
    both = Shown(Middles(shown.convex.centroid, shown.concave.centroid), 0.0, 0.16, 0.01)
    drive = replace(both, middles=Middles(shown.convex.centroid, None))
    one, two = (together(GEARS, HELD, (seen,)).depth_spread for seen in (drive, both))
    assert two < one < HELD.depth_spread


def test_an_unread_backlash_says_nothing_of_the_backlash():
    shown = pair(GEARS, depth=0.1)
    seen = Shown(Middles(shown.convex.centroid, shown.concave.centroid))
    found = together(GEARS, HELD, (seen,))
    assert (found.lash, found.lash_spread) == pytest.approx((HELD.lash, HELD.lash_spread))
    assert found.depth == pytest.approx(0.1, abs=found.depth_spread / 2)


def test_spreads_are_those_of_simulated_sets():
    # Sets the advice never sees (other spiral, cutter, crowning and centres): the depth lies as far off as
    # is said. Mean square of 120 standard deviations: 1 ± 0.13, three times that is allowed.
    squares, source = [], np.random.default_rng(2)
    usual = goals({}, {})
    for seed in range(120):
        gears = (GearSet(11, 41, 222.0), GearSet(9, 38, 222.0))[seed % 2]
        hidden = draw(Subject(LAYOUT, gears), 9000 + seed)
        item = aimed(cut_of(gears), next(iter(usual.values())), gears.drive_convex)
        depth = float(source.normal(0, 0.127))
        backlash = float(source.uniform(0.1, 0.4))
        ring = (backlash - hidden.lash_right - hidden.per_depth * depth) / hidden.per_ring
        true = pair(hidden.cut, depth=depth, ring=ring)
        read = source.normal(0, 0.03, 4)
        middles = Middles(
            tuple(np.array(true.convex.centroid) + read[:2]),
            tuple(np.array(true.concave.centroid) + read[2:]),
        )
        held = Before(0.0, 0.127, hidden.subject.backlash, 0.03, hidden.per_ring, hidden.per_depth)
        found = together(item, held, (Shown(middles, 0.0, backlash, 0.01),))
        squares.append(((found.depth - depth) / found.depth_spread) ** 2)
    assert 0.6 < np.mean(squares) < 1.4
