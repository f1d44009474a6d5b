"""Travel of patches read off a spline, and the update of depth, against brute force and simulated sets."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import pytest

from axle.contact.cut import cut
from axle.contact.estimate import PatchCentroids
from axle.contact.gears import cut_of
from axle.contact.joint_estimate import PrintObservation, Prior, joint_estimate
from axle.contact.response import pair, response
from axle.contact.target import cut_for_target, targets
from axle.contact.travel import FARTHEST, travel
from axle.gearset import GearSet
from axle.layout import CarrierBy, DepthShim, Layout, PreloadBy
from axle.simulator.true_axle import Subject, sample_axle

GEARS = cut("large_cutter", 11, 41, 222.0)
OTHERS = [GEARS, cut("large_cutter", 9, 38, 222.0), cut("small_cutter", 10, 41, 235.0)]
LAYOUT = Layout(DepthShim.HEAD, PreloadBy.SPACER, CarrierBy.OUTBOARD)
HELD = Prior(0.0, 0.127, backlash=0.2, backlash_std=0.03, per_ring=1.05, per_depth=-0.4)


def at(*values: float) -> np.ndarray:
    return np.array(values)


# ---- travel


@pytest.mark.parametrize("item", OTHERS)
def test_the_spline_gives_what_the_meshing_gives(item):
    source = np.random.default_rng(11)
    depth, ring = source.normal(0, 0.15, 40), source.uniform(-0.3, 0.45, 40)
    due = np.array([pair(item, depth=d, ring=r).centroids for d, r in zip(depth, ring, strict=True)])
    # A print scatters by 0.03 of the flank (models §8): a fifth of that is not seen.
    assert np.abs(travel(item).centroids(depth, ring) - due).max() < 0.006


@pytest.mark.parametrize("item", OTHERS)
def test_near_the_right_place_it_moves_as_the_response_says(item):
    told, step = response(item), 0.02
    map_ = travel(item)
    by_depth = (map_.centroids(at(step), at(0.0)) - map_.centroids(at(-step), at(0.0)))[0] / (2 * step)
    assert by_depth == pytest.approx(np.array(told.pattern["depth"]), abs=0.08)
    assert map_.by_ring(at(0.0), at(0.0))[0] == pytest.approx(np.array(told.pattern["ring"]), abs=0.08)


def test_a_pinion_that_comes_deeper_shows_the_usual_signs():
    # Models §8: too deep, the drive (convex) patch lies low on the ring's tooth, and so does the coast
    # patch; the ring gear away from the pinion puts both the other way.
    map_ = travel(GEARS)
    right, deep, away = (map_.centroids(at(d), at(r))[0] for d, r in ((0.0, 0.0), (0.1, 0.0), (0.0, 0.1)))
    assert all(deep[[1, 3]] < right[[1, 3]])
    assert all(away[[1, 3]] > right[[1, 3]])


def test_beyond_the_farthest_place_a_patch_stays():
    map_ = travel(GEARS)
    assert np.array_equal(map_.centroids(at(FARTHEST), at(0.0)), map_.centroids(at(2.0), at(0.0)))
    assert np.array_equal(map_.by_ring(at(0.0), at(-FARTHEST)), map_.by_ring(at(0.0), at(-3.0)))


# ---- the update, by brute force


def drawn_at_random(before: Prior, shown: PrintObservation, count: int) -> tuple[float, float, float]:
    """Mean and spread of the depth and mean of the backlash by importance sampling from what was held.

    Each draw is one whole axle; it counts by how likely it shows the print.
    """
    source = np.random.default_rng(5)
    depth = source.normal(before.depth, before.depth_std, count)
    lash = source.normal(before.backlash, before.backlash_std, count)
    centre = source.normal(0, before.cut_noise, (count, 4))
    along, up = before.travel
    covariance = np.diag([along**2, up**2, along**2, up**2])
    covariance[1, 3] = covariance[3, 1] = 0.75 * up**2
    share = source.multivariate_normal(np.zeros(4), covariance, count)
    ring = (shown.backlash + source.normal(0, shown.backlash_std, count) - lash) / before.per_ring
    ring -= before.per_depth / before.per_ring * (depth + shown.deeper)
    map_ = travel(GEARS)
    right = map_.centroids(at(0.0), at(0.0))
    seen = right + (1 + share) * (map_.centroids(depth + shown.deeper, ring) - right) + centre
    off = (shown.centroids.values - seen) / shown.centroids.noise
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
    seen = PrintObservation(
        PatchCentroids(shown.convex.centroid, shown.concave.centroid),
        0.0,
        backlash=backlash,
        backlash_std=0.015,
    )
    found = joint_estimate(GEARS, HELD, (seen,))
    mean, spread, lash = drawn_at_random(HELD, seen, 400_000)
    assert found.depth == pytest.approx(mean, abs=0.003)
    assert found.depth_std == pytest.approx(spread, rel=0.06)
    assert found.backlash == pytest.approx(lash, abs=0.002)


def test_what_is_held_of_travel_is_kept_from_print_to_print():
    # The share by which this set travels is the same in each print: four prints of one assembly do not
    # average it out, two assemblies tell it.
    shown = pair(GEARS, depth=0.25, ring=0.1)
    one = PrintObservation(
        PatchCentroids(shown.convex.centroid, shown.concave.centroid), 0.0, backlash=0.2, backlash_std=0.01
    )
    four = joint_estimate(GEARS, HELD, (one,) * 4)
    known = joint_estimate(GEARS, replace(HELD, travel=(1e-3, 1e-3)), (one,) * 4)
    assert four.depth_std > 1.1 * known.depth_std
    less = pair(GEARS, depth=0.02, ring=0.0)
    # The shim took out 0.23: as the pinion stands now, the first print was made that much deeper.
    before = replace(one, deeper=0.23)
    after = PrintObservation(
        PatchCentroids(less.convex.centroid, less.concave.centroid), 0.0, backlash=0.2, backlash_std=0.01
    )
    moved = joint_estimate(GEARS, HELD, (before,) * 4 + (after,))
    assert moved.depth_std < four.depth_std


def test_a_flank_that_was_not_read_tells_nothing():
    shown = pair(GEARS, depth=0.1)
    both = PrintObservation(
        PatchCentroids(shown.convex.centroid, shown.concave.centroid), 0.0, backlash=0.16, backlash_std=0.01
    )
    drive = replace(both, centroids=PatchCentroids(shown.convex.centroid, None))
    one, two = (joint_estimate(GEARS, HELD, (seen,)).depth_std for seen in (drive, both))
    assert two < one < HELD.depth_std


def test_an_unread_backlash_says_nothing_of_the_backlash():
    shown = pair(GEARS, depth=0.1)
    seen = PrintObservation(PatchCentroids(shown.convex.centroid, shown.concave.centroid))
    found = joint_estimate(GEARS, HELD, (seen,))
    assert (found.backlash, found.backlash_std) == pytest.approx((HELD.backlash, HELD.backlash_std))
    assert found.depth == pytest.approx(0.1, abs=found.depth_std / 2)


def test_spreads_are_those_of_simulated_sets():
    # Sets the advice never sees (other spiral, cutter, crowning and centres): the depth lies as far off as
    # is said. Mean square of 120 standard deviations: 1 ± 0.13, three times that is allowed.
    squares, source = [], np.random.default_rng(2)
    usual = targets({}, {})
    for seed in range(120):
        gears = (GearSet(11, 41, 222.0), GearSet(9, 38, 222.0))[seed % 2]
        true_axle = sample_axle(Subject(LAYOUT, gears), 9000 + seed)
        item = cut_for_target(cut_of(gears), next(iter(usual.values())), gears.drive_convex)
        depth = float(source.normal(0, 0.127))
        backlash = float(source.uniform(0.1, 0.4))
        ring = (backlash - true_axle.lash_right - true_axle.per_depth * depth) / true_axle.per_ring
        true = pair(true_axle.cut, depth=depth, ring=ring)
        read = source.normal(0, 0.03, 4)
        centroids = PatchCentroids(
            tuple(np.array(true.convex.centroid) + read[:2]),
            tuple(np.array(true.concave.centroid) + read[2:]),
        )
        prior = Prior(
            0.0,
            0.127,
            backlash=true_axle.subject.backlash,
            backlash_std=0.03,
            per_ring=true_axle.per_ring,
            per_depth=true_axle.per_depth,
        )
        found = joint_estimate(
            item, prior, (PrintObservation(centroids, 0.0, backlash=backlash, backlash_std=0.01),)
        )
        squares.append(((found.depth - depth) / found.depth_std) ** 2)
    assert 0.6 < np.mean(squares) < 1.4
