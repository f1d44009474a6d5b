"""Both pairs of bearings fitted together: against importance sampling, and what one more reading does."""

from __future__ import annotations

import math

import numpy as np
import pytest
from scipy.stats import multivariate_t

from axle.errors import AxleError
from axle.measure.uncertainty import birge_ratio
from axle.preload.curve import CARRIER_SLOPE, PINION_SLOPE, Slope
from axle.preload.joint import PairPrior, PairReading, Pairs, PairsPrior, Shows, fit_pairs
from axle.stations.preload_readings import pair_readings, pairs_prior
from benchmarks.closed_loop import lash_follower
from benchmarks.closed_loop.shop import case

LOW, HIGH = 1.7, 2.8


def wide(factor: float = 1.35) -> PairsPrior:
    pinion = PairPrior(
        Slope(PINION_SLOPE.torque, PINION_SLOPE.interference, factor), (0.025, 0.5), (0.005, 0.6), 0.004
    )
    carrier = PairPrior(
        Slope(CARRIER_SLOPE.torque, CARRIER_SLOPE.interference, factor), (0.025, 0.5), (0.008, 0.6), 0.007
    )
    return PairsPrior(pinion, carrier, (0.036, 0.6), 3.73, wrench=0.02)


def log_posterior(
    readings, prior: PairsPrior, x: np.ndarray, stacks: int, sides: int, about, refs
) -> np.ndarray:
    """Written from the law alone: T = T0 + c·i^(10/9), Student's t of 5, what is held before."""
    log = -((x[:, 0] - about[0]) ** 2 + (x[:, 4] - about[4]) ** 2) / (2 * 3.0**2)
    log = log - (np.delete(x, (0, 4), axis=1) ** 2).sum(axis=1) / 2
    # Each pack's own error: unknowns after the seats, by pair and by setting, as they come.
    packs = [
        ("pinion", round(r.pinion, 4)) for r in readings if r.of_pinion and r.packed and prior.pinion.pack
    ]
    packs += [
        ("carrier", round(r.carrier, 4))
        for r in readings
        if r.of_carrier and r.packed and prior.carrier.pack
    ]
    errors = {pack: 9 + stacks + sides + n for n, pack in enumerate(dict.fromkeys(packs))}
    for r in readings:
        shown = np.zeros(len(x))
        for which, pair, of in ((0, prior.pinion, r.of_pinion), (1, prior.carrier, r.of_carrier)):
            if not of:
                continue
            seat = x[:, 9 + r.stack] if which == 0 else x[:, 9 + stacks + r.sides]
            zero, stiff = x[:, 4 * which], pair.slope.coefficient * pair.slope.factor ** x[:, 4 * which + 1]
            if refs[which] is not None:
                zero = refs[which] - (np.exp(zero) / stiff) ** 0.9  # there the torque is the unknown
            at = (r.carrier if which else r.pinion) - zero + pair.seat * seat
            pack = ("carrier", round(r.carrier, 4)) if which else ("pinion", round(r.pinion, 4))
            if r.packed and pack in errors:
                at = at + pair.pack * x[:, errors[pack]]
            if r.loaded:
                at = at - pair.bed[0] * np.exp(pair.bed[1] * x[:, 4 * which + 3])
            if r.shows in (Shows.PINION_PLAY, Shows.CARRIER_PLAY):
                shown = shown - at
                continue
            loads = (at + np.sqrt(at**2 + 0.0015**2)) / 2
            torque = pair.idle[0] * np.exp(pair.idle[1] * x[:, 4 * which + 2]) + stiff * loads ** (10 / 9)
            shown = shown + (torque / prior.ratio if which and r.shows is Shows.TOTAL_TORQUE else torque)
        if r.shows is Shows.TOTAL_TORQUE:
            shown = shown + prior.mesh[0] * np.exp(prior.mesh[1] * x[:, 8])
        log = log - 3 * np.log1p(((r.value - shown) / r.std) ** 2 / 5)
    return log


def in_range(
    pairs: Pairs, which: int, drawn: np.ndarray, setting: float, seat: int, loaded: bool
) -> np.ndarray:
    torque = pairs.torque(which, pairs.interference(which, setting, drawn, seat=seat, loaded=loaded), drawn)
    return (torque >= LOW) & (torque <= HIGH)


@pytest.mark.parametrize("world", ["mild", "usual", "rough"])
@pytest.mark.parametrize("number", [9, 12])
def test_the_chance_is_that_of_importance_sampling(world, number):
    # Importance sampling of the same posterior, written anew: a wide t about the fit, reweighted.
    _, state = lash_follower.finish(case(number, preloads=True, world=world))
    readings, prior = pair_readings(state), pairs_prior(state)
    pairs = fit_pairs(readings, prior)
    source, count = np.random.default_rng(3), 400_000
    proposal = multivariate_t(pairs.mean, 1.1 * pairs.covariance, df=12, allow_singular=True)
    x = proposal.rvs(count, random_state=source)
    log = log_posterior(
        readings, prior, x, pairs.stacks, pairs.sides, pairs.mean, pairs.references
    ) - proposal.logpdf(x)
    weights = np.exp(log - log.max())
    weights /= weights.sum()
    assert 1 / (weights**2).sum() > 300, "too few draws count"
    drawn = np.hstack([x, source.standard_normal((count, 5))])
    for which in (0, 1):
        last = [r for r in readings if (r.of_carrier if which else r.of_pinion)][-1]
        setting, seat = (last.carrier, last.sides) if which else (last.pinion, last.stack)
        exact = float(weights @ in_range(pairs, which, drawn, setting, seat, loaded=True))
        fitted = float(in_range(pairs, which, pairs.draws, setting, seat, loaded=True).mean())
        assert fitted == pytest.approx(exact, abs=0.06)


def test_a_pack_has_one_error_wherever_it_goes_in():
    # Plays alone are linear: the same by generalised least squares with the whole covariance written out.
    slope = Slope(CARRIER_SLOPE.torque, CARRIER_SLOPE.interference, 1.35)
    pair = PairPrior(slope, (0.025, 0.5), (0.008, 0.6), seat=0.006, pack=0.009)
    prior = PairsPrior(pair, pair, (0.036, 0.6), 3.73)
    plays = ((0, -0.10, 0.031), (1, -0.05, -0.035), (2, -0.10, 0.043))
    std = 0.004
    readings = tuple(
        PairReading(Shows.CARRIER_PLAY, 0.1 + value, std, carrier=at, sides=n) for n, at, value in plays
    )
    pairs = fit_pairs(readings, prior)
    settings = np.array([at for _, at, _ in plays])
    same = (settings[:, None] == settings[None, :]).astype(float)
    covariance = 3.0**2 + (0.006**2 + std**2) * np.eye(3) + 0.009**2 * same
    zeros = settings + 0.1 + np.array([value for *_, value in plays])
    weights = np.linalg.solve(covariance, 3.0**2 + 0.009**2 * (settings == -0.05))
    # Heavy tails let readings that agree count a little less than a normal would have it.
    again = pairs.interference(1, -0.05, pairs.draws, seat=None, loaded=False)
    assert -0.05 - again.mean() == pytest.approx(zeros.mean() + weights @ (zeros - zeros.mean()), abs=0.002)
    anew = pairs.interference(1, -0.05, pairs.draws, seat=None, loaded=False, anew=True)
    assert again.std() < anew.std()
    left = 3.0**2 + 0.009**2 - weights @ (3.0**2 + 0.009**2 * (settings == -0.05)) + 0.006**2
    assert again.std() == pytest.approx(math.sqrt(left), rel=0.1)


def simulated(
    source: np.random.Generator, prior: PairsPrior, count: int
) -> tuple[list[PairReading], float]:
    """Torques of the whole on an axle drawn from what is held, and the carrier's own once it has run."""
    zero, pinion = source.normal(0, 0.02), source.uniform(1.9, 2.5)
    c = prior.carrier.slope.coefficient * prior.carrier.slope.factor ** source.standard_normal()
    bed = prior.carrier.bed[0] * math.exp(prior.carrier.bed[1] * source.standard_normal())
    mesh = prior.mesh[0] * math.exp(prior.mesh[1] * source.standard_normal())
    at = source.uniform(0.22, 0.36)
    carrier = 0.025 + c * max(at - zero, 0.0) ** (10 / 9)
    readings = [
        PairReading(Shows.CARRIER_PLAY, 0.1 + zero + source.normal(0, 0.006), 0.006, carrier=-0.1),
        PairReading(Shows.PINION_TORQUE, pinion + source.normal(0, 0.05), 0.05),
    ]
    readings += [
        PairReading(
            Shows.TOTAL_TORQUE,
            pinion + carrier / prior.ratio + mesh + source.normal(0, 0.06),
            0.06,
            carrier=at,
        )
        for _ in range(count)
    ]
    return readings, 0.025 + c * max(at - zero - bed, 0.0) ** (10 / 9)


def test_one_more_reading_does_not_make_the_chances_worse():
    # Log score and Brier score (Gneiting and Raftery, 2007) over 500 axles, paired, two standard errors.
    source, prior = np.random.default_rng(11), wide()
    logs, briers = [], []
    for _ in range(500):
        readings, true = simulated(source, prior, 2)
        came = LOW <= true <= HIGH
        scores = []
        for told in (readings[:-1], readings):
            pairs = fit_pairs(tuple(told), prior)
            chance = float(in_range(pairs, 1, pairs.draws, readings[-1].carrier, 0, loaded=True).mean())
            chance = min(max(chance, 0.005), 0.995)
            scores.append((-math.log(chance if came else 1 - chance), (chance - came) ** 2))
        logs.append(scores[1][0] - scores[0][0])
        briers.append(scores[1][1] - scores[0][1])
    for gained in (np.array(logs), np.array(briers)):
        assert gained.mean() < 2 * gained.std() / math.sqrt(len(gained))


def test_the_drag_of_the_mesh_is_learned_while_the_carrier_is_loose():
    # Common practice, no source: a carrier in play bears no load, so the whole less the pinion is the mesh.
    loose = [
        PairReading(Shows.PINION_TORQUE, 2.2, 0.03),
        PairReading(Shows.CARRIER_PLAY, 0.2, 0.006, carrier=-0.2),
        PairReading(Shows.TOTAL_TORQUE, 2.32, 0.03, carrier=-0.2),
    ]
    before, after = wide(), fit_pairs(tuple(loose), wide())
    assert after.mesh_drag()[0] > 1.5 * before.mesh[0]


def test_a_reading_far_off_counts_for_little():
    good = [
        PairReading(Shows.PINION_TORQUE, 2.2, 0.04),
        PairReading(Shows.PINION_PLAY, 0.05, 0.006, pinion=-0.126),
    ]
    bad = [*good, PairReading(Shows.PINION_TORQUE, 8.1, 0.04)]
    for readings in (good, bad):
        pairs = fit_pairs(tuple(readings), wide())
        at = pairs.interference(0, 0.0, pairs.draws, seat=0, loaded=False)
        assert float(np.median(pairs.torque(0, at, pairs.draws))) == pytest.approx(2.2, abs=0.12)


def test_a_spread_of_nothing_is_refused():
    with pytest.raises(AxleError, match="more than 0"):
        PairReading(Shows.PINION_TORQUE, 2.0, 0.0)


def test_the_birge_ratio_is_bayes_rule_for_a_scale_that_is_not_known():
    # Gelman and others, Bayesian Data Analysis, section 2.6: scaled inverse chi square, here by summing over
    # a grid of scales; the mean of the precision is what the ratio holds.
    chi_square, count, held = 23.0, 12, 12.0
    scales = np.geomspace(0.05, 20, 20001)
    log = -(held + count) * np.log(scales) - (held + chi_square) / (2 * scales**2) - np.log(scales)
    weights = np.exp(log - log.max()) * np.gradient(scales)
    precision = float((weights / scales**2).sum() / weights.sum())
    assert birge_ratio(chi_square, count) == pytest.approx(precision**-0.5, rel=1e-3)


def test_readings_that_do_not_fit_make_a_job_less_sure_and_readings_that_do_make_it_surer():
    source = np.random.default_rng(5)
    for times, below in ((0.3, True), (2.5, False)):
        readings = tuple(
            PairReading(Shows.PINION_TORQUE, 2.2 + times * 0.05 * source.standard_normal(), 0.05)
            for _ in range(20)
        )
        found = fit_pairs(readings, wide())
        assert (birge_ratio(found.chi_square, found.count) < 1) is below


@pytest.mark.parametrize(("chi_square", "count"), [(-1.0, 3), (3.0, -1)])
def test_a_scatter_under_nothing_is_refused(chi_square, count):
    with pytest.raises(AxleError, match="0 or more"):
        birge_ratio(chi_square, count)
