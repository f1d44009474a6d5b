"""Placing a print on a set's map: noisy prints of axles whose place is known, and what a print cannot tell."""

from __future__ import annotations

import math

import numpy as np
import pytest
from scipy.optimize import minimize

from axle.contact.cut import cut, families
from axle.contact.estimate import PatchCentroids, PositionPrior, place
from axle.contact.response import pair
from axle.errors import AxleError
from tests.shares import share_of

TEETH = [(16, 40), (13, 40), (11, 41), (10, 41), (9, 41), (8, 41), (7, 43)]
SETS = share_of(500, 80)


def test_noisy_prints_of_many_sets():
    """With print noise 0.03 of the flank depth comes back within 0.0015 in (1 σ) when the cut's own centre is
    known, and the stated spread covers the truth as often as a normal law says, within four standard errors
    of the count."""
    draw = np.random.default_rng(41)
    off, depth_scores, ring_scores = [], [], []
    before = PositionPrior(depth_std=0.127, ring_std=0.08)
    for _ in range(SETS):
        teeth = TEETH[draw.integers(len(TEETH))]
        gears = cut(str(draw.choice(sorted(families()))), *teeth, float(draw.choice([160, 200, 222, 260])))
        depth, ring = draw.normal(0, before.depth_std), draw.normal(0, before.ring_std)
        shown = pair(gears, depth=depth, ring=ring).centroids + draw.normal(0, 0.03, 4)
        position_estimate = place(
            gears, PatchCentroids(tuple(shown[:2]), tuple(shown[2:]), 0.03), before=before, cut_noise=0.0
        )
        off.append(position_estimate.depth - depth)
        depth_scores.append((position_estimate.depth - depth) / position_estimate.stds[0])
        ring_scores.append((position_estimate.ring - ring) / position_estimate.stds[1])
    assert np.std(off) < 0.0015 * 25.4
    for scores in (np.abs(depth_scores), np.abs(ring_scores)):
        for within, share in ((1, 0.683), (2, 0.954)):
            error = math.sqrt(share * (1 - share) / SETS)
            assert np.mean(scores < within) == pytest.approx(share, abs=4 * error)


def test_the_most_likely_place_is_the_one_a_general_search_finds():
    # reference: scipy's simplex on the same sum
    gears, before = (
        cut("middle_cutter", 9, 41, 222.0),
        PositionPrior(0.02, 0.15, ring=-0.03, ring_std=0.1),
    )
    seen = PatchCentroids((0.43, 0.41), (0.47, 0.44))

    def cost(where) -> float:
        held = (where - before.mean) / [before.depth_std, before.ring_std]
        left = (seen.values - pair(gears, depth=where[0], ring=where[1]).centroids) / 0.03
        return float(held @ held + left @ left)

    best = minimize(cost, before.mean, method="Nelder-Mead", options={"xatol": 1e-4, "fatol": 1e-5}).x
    position_estimate = place(gears, seen, before=before, cut_noise=0.0)
    assert (position_estimate.depth, position_estimate.ring) == pytest.approx(best, abs=2e-3)


def test_the_rings_place_cannot_be_told_when_its_backlash_is_known():
    # Models §8: ring movement within the backlash range moves a pattern by about 0.02 of the face
    gears = cut("large_cutter", 11, 41, 222.0)
    shown = pair(gears, depth=0.1)
    position_estimate = place(gears, PatchCentroids(shown.convex.centroid, shown.concave.centroid))
    assert position_estimate.tells_depth
    assert not position_estimate.tells_ring
    assert position_estimate.depth == pytest.approx(0.1, abs=0.02)


def test_one_flank_alone_says_less_than_both():
    gears = cut("large_cutter", 11, 41, 222.0)
    shown = pair(gears, depth=-0.08)
    both = place(gears, PatchCentroids(shown.convex.centroid, shown.concave.centroid))
    alone = place(gears, PatchCentroids(shown.convex.centroid, None))
    assert both.stds[0] < alone.stds[0]
    assert alone.depth < 0


def test_an_unknown_cut_widens_the_spread():
    gears = cut("large_cutter", 11, 41, 222.0)
    seen = PatchCentroids((0.45, 0.45), (0.42, 0.45))
    assert place(gears, seen).stds[0] > place(gears, seen, cut_noise=0.0).stds[0]


def test_a_print_that_no_place_explains_is_called_so():
    # low on one flank, high on the other: depth moves both the same way
    gears = cut("large_cutter", 11, 41, 222.0)
    assert not place(gears, PatchCentroids((0.45, 0.25), (0.42, 0.75))).plausible
    assert place(gears, PatchCentroids((0.45, 0.45), (0.42, 0.46))).plausible


def test_what_cannot_be_is_refused():
    with pytest.raises(AxleError, match="the patch of one flank at least"):
        PatchCentroids(None, None)
    with pytest.raises(AxleError, match="ring spread"):
        PositionPrior(ring_std=0.0)
