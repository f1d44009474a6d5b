"""Placing a print on a set's map: noisy prints of axles whose place is known, and what a print cannot tell."""

from __future__ import annotations

import math

import numpy as np
import pytest
from scipy.optimize import minimize

from axle.contact.cut import cut, families
from axle.contact.estimate import Belief, Middles, place
from axle.contact.response import pair
from axle.errors import AxleError

TEETH = [(16, 40), (13, 40), (11, 41), (10, 41), (9, 41), (8, 41), (7, 43)]
SETS = 500


def test_noisy_prints_of_five_hundred_sets():
    """With print noise 0.03 of the flank depth comes back within 0.0015 in (1 σ) when the cut's own centre is
    known, and the stated spread covers the truth as often as a normal law says, within four standard errors
    of the count."""
    draw = np.random.default_rng(41)
    off, depth_scores, ring_scores = [], [], []
    before = Belief(depth_spread=0.127, ring_spread=0.08)
    for _ in range(SETS):
        teeth = TEETH[draw.integers(len(TEETH))]
        gears = cut(str(draw.choice(sorted(families()))), *teeth, float(draw.choice([160, 200, 222, 260])))
        depth, ring = draw.normal(0, before.depth_spread), draw.normal(0, before.ring_spread)
        shown = pair(gears, depth=depth, ring=ring).centroids + draw.normal(0, 0.03, 4)
        found = place(
            gears, Middles(tuple(shown[:2]), tuple(shown[2:]), 0.03), before=before, cut_noise=0.0
        )
        off.append(found.depth - depth)
        depth_scores.append((found.depth - depth) / found.spreads[0])
        ring_scores.append((found.ring - ring) / found.spreads[1])
    assert np.std(off) < 0.0015 * 25.4
    for scores in (np.abs(depth_scores), np.abs(ring_scores)):
        for within, share in ((1, 0.683), (2, 0.954)):
            error = math.sqrt(share * (1 - share) / SETS)
            assert np.mean(scores < within) == pytest.approx(share, abs=4 * error)


def test_the_most_likely_place_is_the_one_a_general_search_finds():
    # reference: scipy's simplex on the same sum
    gears, before = cut("middle_cutter", 9, 41, 222.0), Belief(0.02, 0.15, -0.03, 0.1)
    seen = Middles((0.43, 0.41), (0.47, 0.44))

    def cost(where) -> float:
        held = (where - before.mean) / [before.depth_spread, before.ring_spread]
        left = (seen.values - pair(gears, depth=where[0], ring=where[1]).centroids) / 0.03
        return float(held @ held + left @ left)

    best = minimize(cost, before.mean, method="Nelder-Mead", options={"xatol": 1e-4, "fatol": 1e-5}).x
    found = place(gears, seen, before=before, cut_noise=0.0)
    assert (found.depth, found.ring) == pytest.approx(best, abs=2e-3)


def test_the_rings_place_cannot_be_told_when_its_backlash_is_known():
    # Models §8: ring movement within the backlash range moves a pattern by about 0.02 of the face
    gears = cut("large_cutter", 11, 41, 222.0)
    shown = pair(gears, depth=0.1)
    found = place(gears, Middles(shown.convex.centroid, shown.concave.centroid))
    assert found.tells_depth
    assert not found.tells_ring
    assert found.depth == pytest.approx(0.1, abs=0.02)


def test_one_flank_alone_says_less_than_both():
    gears = cut("large_cutter", 11, 41, 222.0)
    shown = pair(gears, depth=-0.08)
    both = place(gears, Middles(shown.convex.centroid, shown.concave.centroid))
    alone = place(gears, Middles(shown.convex.centroid, None))
    assert both.spreads[0] < alone.spreads[0]
    assert alone.depth < 0


def test_an_unknown_cut_widens_the_spread():
    gears = cut("large_cutter", 11, 41, 222.0)
    seen = Middles((0.45, 0.45), (0.42, 0.45))
    assert place(gears, seen).spreads[0] > place(gears, seen, cut_noise=0.0).spreads[0]


def test_a_print_that_no_place_explains_is_called_so():
    # low on one flank, high on the other: depth moves both the same way
    gears = cut("large_cutter", 11, 41, 222.0)
    assert not place(gears, Middles((0.45, 0.25), (0.42, 0.75))).plausible
    assert place(gears, Middles((0.45, 0.45), (0.42, 0.46))).plausible


def test_what_cannot_be_is_refused():
    with pytest.raises(AxleError, match="the patch of one flank at least"):
        Middles(None, None)
    with pytest.raises(AxleError, match="ring spread"):
        Belief(ring_spread=0.0)
