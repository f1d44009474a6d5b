"""What a shop's finished jobs teach: partial pooling against a published example, calibration by simulation."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import pytest
from scipy.stats import kstest

from axle.errors import AxleError
from axle.learning.learned import FEW, JobFigure, learn, priors_of
from axle.learning.pooling import FREEDOM, SPREAD_OF_SPREAD, pool
from axle.state.priors import Priors, Quantity, starting_widths
from axle.stations.job_figures import job_figures
from axle.stations.preload_readings import pairs_prior
from benchmarks.closed_loop import lash_follower
from benchmarks.closed_loop.shop import case
from tests.axle.test_advice import standing_axle

# Rubin (1981); Gelman and others, Bayesian Data Analysis, section 5.5: effects of coaching in eight schools with
# their standard errors, and the posterior medians of table 5.2 there.
EFFECTS = (28.0, 8.0, -3.0, 7.0, -1.0, 1.0, 18.0, 12.0)
ERRORS = (15.0, 10.0, 16.0, 11.0, 9.0, 11.0, 10.0, 18.0)
MEDIANS = (10.0, 8.0, 7.0, 8.0, 5.0, 6.0, 10.0, 8.0)
SHOPS = 400


def test_eight_schools_are_drawn_together_as_published():
    found = pool(
        EFFECTS, ERRORS, between=math.inf, within=30.0, freedom=math.inf, spread_of_spread=math.inf
    )
    assert found.offset == pytest.approx(8.0, abs=0.5)
    assert found.offset_std == pytest.approx(5.0, abs=0.6)
    for mine, published in zip(found.each, MEDIANS, strict=True):
        # Means lie a little over medians where a posterior is skewed.
        assert mine == pytest.approx(published, abs=1.6)


def test_what_is_held_of_a_shop_is_calibrated_over_simulated_shops():
    # Simulation-based calibration (Talts and others, 2018): the rank of what was drawn is uniform.
    source, between, within, ranks = np.random.default_rng(7), 0.2, 0.25, []
    for _ in range(SHOPS):
        jobs = int(source.integers(3, 30))
        shop, spread = source.normal(0, between), within * math.exp(source.normal(0, SPREAD_OF_SPREAD))
        stds = source.uniform(0.05, 0.3, jobs)
        shown = shop + np.hypot(spread, stds) * source.standard_t(FREEDOM, jobs)
        ranks.append(pool(list(shown), list(stds), between=between, within=within).below(shop))
    assert kstest(ranks, "uniform").pvalue > 0.01


def test_one_bad_job_does_not_make_the_shop():
    good = pool([0.1] * 12, [0.05] * 12, between=0.3, within=0.1)
    bad = pool([*[0.1] * 12, 3.0], [0.05] * 13, between=0.3, within=0.1)
    assert bad.offset == pytest.approx(good.offset, abs=0.03)


def test_without_jobs_what_was_held_stays_and_few_jobs_tell_no_spread():
    assert learn([]) == ()
    assert priors_of(()) == Priors()
    one = learn([JobFigure(Quantity.MESH_DRAG, 0.08, 0.2)])[0]
    before = starting_widths()[Quantity.MESH_DRAG]
    assert before.centre < one.now.centre < 0.08
    assert one.pooled.jobs < FEW
    assert one.pooled.spread == pytest.approx(math.sqrt(1 - before.shop) * before.std, rel=0.01)
    many = learn([JobFigure(Quantity.MESH_DRAG, 0.08, 0.1)] * 40)[0]
    assert many.now.std < one.now.std <= before.std
    assert many.now.centre == pytest.approx(0.08, rel=0.05)


def test_a_quantity_that_is_each_axle_s_own_is_hardly_learned():
    learned = learn([JobFigure(Quantity.IDLE_DRAG, 0.2, 0.1)] * 40)[0]
    assert learned.now.centre < 0.2


@pytest.mark.parametrize(("values", "stds"), [([1.0], []), ([1.0], [0.0])])
def test_figures_without_spreads_are_refused(values, stds):
    with pytest.raises(AxleError, match="a spread more than 0 for each"):
        pool(values, stds, between=1.0, within=1.0)


def test_a_finished_job_shows_figures_of_its_bearings_and_hands():
    outcome, state = lash_follower.finish(case(505, preloads=True, world="usual"))
    figures = {f.quantity: f for f in job_figures(state)}
    assert outcome.done
    assert Quantity.TORQUE_SCATTER in figures
    assert all(f.std > 0 for f in figures.values())
    # What the shop has learned does not make its own figures: they are taken without it.
    told = learn([JobFigure(Quantity.MESH_DRAG, 0.2, 0.1)] * 9)
    assert job_figures(replace(state, priors=priors_of(told))) == job_figures(state)


def test_what_was_learned_is_held_of_the_next_axle():
    state = standing_axle()
    learned = priors_of(learn([JobFigure(Quantity.MESH_DRAG, 0.1, 0.1)] * 20))
    assert pairs_prior(replace(state, priors=learned)).mesh[0] > 2 * pairs_prior(state).mesh[0]
