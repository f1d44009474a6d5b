"""The judgement: its update against exact results, its search against brute force, its questions."""

from __future__ import annotations

import itertools
import math
from dataclasses import replace
from decimal import Decimal

import numpy as np
import pytest
from scipy.stats import norm

from axle.contact.cut import cut
from axle.contact.estimate import PatchCentroids
from axle.contact.joint_estimate import PrintObservation, Prior, joint_estimate
from axle.contact.response import pair, response
from axle.decision.calibration import reliability_bins, words_for
from axle.decision.candidates import candidates
from axle.decision.fault_checks import inconsistencies
from axle.decision.faults import fault_hypotheses
from axle.decision.move import Act
from axle.decision.next_move import next_move
from axle.decision.policy import assembled_policy
from axle.decision.probability import in_range_probabilities, probability_as_read
from axle.decision.value_of_information import resolution_probability
from axle.layout import Place
from axle.measure.range import Range
from axle.measure.uncertainty import birge_ratio
from axle.measure.units import IMPERIAL
from axle.shims.pieces import Pack, Piece
from axle.simulator.fault import Fault
from axle.state.reading import Reading, average_repeats
from axle.state.settings import Settings
from axle.stations.depth_posterior import depth_posterior
from axle.stations.station_state import stand
from tests.axle.rig import IN_LB, THOU, mm
from tests.axle.test_advice import PACKS, TRIAL, standing_axle, taken
from tests.axle.test_prints import printed

GEARS = cut("large_cutter", 11, 41, 222.0)
HELD = Prior(
    0.0,
    0.06,
    backlash=0.20,
    backlash_std=0.02,
    per_ring=1.0,
    per_depth=-0.3,
    cut_noise=0.03,
    travel=(1e-3, 1e-3),
)


# ---- the update


def exact(before: Prior, prints: list[PrintObservation], item=GEARS):
    """Depth by the normal equations of the linear model, written out once more."""
    told = response(item)
    by_depth, by_ring = (np.array(told.pattern[k]) for k in ("depth", "ring"))
    base = pair(item).centroids
    q, p = before.per_ring, before.per_depth
    prior = np.diag([before.depth_std**-2, before.backlash_std**-2, *[before.cut_noise**-2] * 4])
    precision, pull = prior.copy(), prior @ np.array([before.depth, before.backlash, 0, 0, 0, 0])
    for shown in prints:
        slope = np.zeros((4, 6))
        slope[:, 0] = by_depth - by_ring * p / q
        slope[:, 1] = -by_ring / q
        slope[:, 2:] = np.eye(4)
        constant = base + by_depth * shown.deeper + by_ring * (shown.backlash - p * shown.deeper) / q
        noise = (
            np.eye(4) * shown.centroids.noise**2
            + np.outer(by_ring, by_ring) * (shown.backlash_std / q) ** 2
        )
        weight = np.linalg.inv(noise)
        precision += slope.T @ weight @ slope
        pull += slope.T @ weight @ (shown.centroids.values - constant)
    covariance = np.linalg.inv(precision)
    return (covariance @ pull)[0], math.sqrt(covariance[0, 0])


@pytest.mark.parametrize(
    ("depth", "deeper"), [(0.02, (0.0,)), (-0.03, (0.0,)), (0.02, (0.0, 0.03)), (0.0, (0.0, -0.02, 0.02))]
)
def test_the_update_is_the_exact_one_where_the_meshing_is_linear(depth, deeper):
    # Linear Gaussian model: the posterior is known in closed form.
    prints = []
    for step in deeper:
        at = depth + step
        lash = 0.20 + HELD.per_depth * at
        shown = pair(GEARS, depth=at, ring=0.0)
        centroids = PatchCentroids(shown.convex.centroid, shown.concave.centroid)
        prints.append(PrintObservation(centroids, step, backlash=lash, backlash_std=0.01))
    found = joint_estimate(GEARS, HELD, tuple(prints))
    mean, spread = exact(HELD, prints)
    assert found.depth == pytest.approx(mean, abs=0.002)
    assert found.depth_std == pytest.approx(spread, rel=0.06)


def test_two_depths_tell_the_set_s_own_centre_apart():
    # A set whose patches lie off by themselves: one depth cannot tell, two depths do not help either
    # unless their difference is known; prints of one depth average their own scatter alone.
    shown = pair(GEARS, depth=0.0)
    one = PrintObservation(
        PatchCentroids(shown.convex.centroid, shown.concave.centroid), 0.0, backlash=0.2, backlash_std=0.01
    )
    single = joint_estimate(GEARS, HELD, (one,))
    four = joint_estimate(GEARS, HELD, (one,) * 4)
    assert four.depth_std < single.depth_std
    # The centre's own scatter is left however often one prints.
    floor = exact(HELD, [replace(one, centroids=replace(one.centroids, noise=1e-4), backlash_std=1e-4)])[1]
    assert four.depth_std > floor * 0.95


def test_nothing_printed_leaves_what_was_held():
    found = joint_estimate(GEARS, HELD, ())
    assert (found.depth, found.depth_std) == (HELD.depth, HELD.depth_std)


def test_a_gauge_and_a_print_are_weighed_by_their_spreads():
    # Near the right place: further off, what a print tells is no longer Gaussian.
    state = standing_axle()
    both = depth_posterior(replace(state, prints=(printed(state, 1),)))
    assert both.gauge is not None
    assert both.prints is not None
    weights = both.gauge[1] ** -2, both.prints[1] ** -2
    mean = (both.gauge[0] * weights[0] + both.prints[0] * weights[1]) / sum(weights)
    assert both.error == pytest.approx(mean, abs=0.005)
    # A print that lies where the gauge has it makes the job's four figures scatter by nearly nothing.
    assert both.std == pytest.approx(sum(weights) ** -0.5 * birge_ratio(0.0, 4), rel=0.06)


def test_readings_taken_again_are_their_mean():
    first = Reading("pinion_torque", 1, value=2.0, order=1, assembly=1, settings={})
    again = replace(first, value=2.06, order=2, conditions={"again": True})
    third = replace(again, value=1.94, order=3)
    (mean,) = average_repeats([first, again, third])
    assert mean.value == pytest.approx(2.0)
    assert (mean.count, mean.order) == (3, 3)
    assert mean.discrepancy == pytest.approx(-0.09)
    assert average_repeats([mean]) == (mean,)
    # On other packs it repeats nothing.
    moved = replace(again, settings={Place.PRELOAD: mm(20)})
    assert [t.count for t in average_repeats([first, moved])] == [1, 1]


# ---- chances and the worth of a reading


@pytest.mark.parametrize(("mean", "spread", "noise"), [(0.0, 1.0, 0.5), (0.9, 0.5, 0.3), (2.0, 1.0, 1.0)])
def test_what_a_reading_settles_against_draws(mean, spread, noise):
    source = np.random.default_rng(5)
    truth = source.normal(mean, spread, 200_000)
    seen = truth + source.normal(0, noise, len(truth))
    after = spread * noise / math.hypot(spread, noise)
    at = (mean / spread**2 + seen / noise**2) * after**2
    inside = norm.cdf((1 - at) / after) - norm.cdf((-1 - at) / after)
    share = np.mean((inside >= 0.9) | (inside <= 0.1))
    assert resolution_probability(mean, spread, noise=noise, low=-1, high=1, sure=0.9) == pytest.approx(
        share, abs=0.05
    )


def test_a_torque_s_chance_is_the_normal_s():
    limits = Range(1.7, 2.8)

    def read(value, count=1):
        return probability_as_read(
            Reading("pinion_torque", 1, value=value, order=1, assembly=1, settings={}, count=count), limits
        )

    assert read(2.25) > 0.999
    assert read(1.7) == pytest.approx(0.5, abs=0.01)
    assert read(1.68, count=9) < read(1.68)


def test_the_chance_of_all_is_made_of_its_parts():
    in_range = in_range_probabilities(standing_axle())
    assert set(in_range.parts) == {"depth", "pinion_preload", "carrier_preload", "backlash"}
    apart = math.prod(in_range.parts.values())
    assert in_range.joint == pytest.approx(apart * in_range.tie)
    # Both preloads hang together: one is taken off the other. By how much is what the draws say.
    assert 0.9 < in_range.tie < 1.1
    assert in_range.without({"carrier_preload"}).tie == 1.0
    loose = in_range_probabilities(standing_axle(lash=(13, 13, 13, 13)))
    assert loose.parts["backlash"] < 1e-3


def test_chances_are_counted_in_ten_bands():
    told = [(0.85, True)] * 8 + [(0.85, False)] * 2 + [(0.3, True)] + [(1.0, True)]
    found = reliability_bins(told)
    assert [band.count for band in found] == [0, 0, 0, 1, 0, 0, 0, 0, 10, 1]
    assert found[8].share == pytest.approx(0.8)
    assert found[8].spread == pytest.approx(math.sqrt(0.85 * 0.15 / 10))  # binomial
    assert found[8].fits
    assert not reliability_bins([(0.95, False)] * 10)[9].fits
    assert words_for(0.82, found).startswith("Of 10 moves in this shop")
    assert words_for(0.35, found) == ""


# ---- the search


def small(*thou: float, first: int = 0) -> tuple[Piece, ...]:
    return tuple(Piece(first + n, mm(size)) for n, size in enumerate(thou))


SMALL = {
    Place.DEPTH: small(29, 27, 26, 24.5, 3, 2),
    Place.PRELOAD: small(21.5, first=20),
    Place.RING: small(193, 190, 187, 6, 3, 4.5, first=40),
    Place.FAR: small(190, 186, 193, 5, 3, 7.5, first=60),
}


def every_pack(pieces: tuple[Piece, ...]) -> set[Decimal]:
    return {Pack(some).thickness for count in (1, 2, 3) for some in itertools.combinations(pieces, count)}


@pytest.mark.parametrize(("lash", "deep"), [(13, 0), (4, 0), (13, 5), (9, -6), (5, 4)])
def test_the_search_finds_what_trying_every_pack_finds(lash, deep):
    state = standing_axle(lash=(lash,) * 4, methods=TRIAL, drawer=SMALL)
    state = replace(state, prints=(printed(state, deep),)) if deep else state
    found = candidates(state, IMPERIAL, stand(state))
    depths = every_pack(SMALL[Place.DEPTH]) if deep else {PACKS[Place.DEPTH]}
    near = [d for d in depths if abs(float(d - PACKS[Place.DEPTH])) < 9 * THOU]
    rings, fars = (
        [t for t in every_pack(SMALL[p]) if abs(float(t - PACKS[p])) < 12 * THOU]
        for p in (Place.RING, Place.FAR)
    )
    best = 0.0
    for depth, ring, far in itertools.product(near, rings, fars):
        # The sum of both sides is the preload: pairs far off it are out whatever else.
        if abs(float(ring + far - PACKS[Place.RING] - PACKS[Place.FAR])) < 6 * THOU:
            after = Settings({**PACKS, Place.DEPTH: depth, Place.RING: ring, Place.FAR: far})
            best = max(best, in_range_probabilities(state, after).joint)
    # What is touched costs: 0.05 for the pinion, 0.004 for each of four places.
    assert found[0].in_range.joint >= best - 0.066


def test_a_carrier_move_comes_before_a_pinion_move_where_both_would_do():
    state = standing_axle(lash=(12.2, 12, 12.4, 12.1))
    move = next_move(state).ready_change
    assert {swap.place for swap in move.swaps} == {Place.RING, Place.FAR}
    assert move.runner_up


def test_a_move_says_its_chance_what_it_is_made_of_and_what_else_could_be_done():
    move = next_move(standing_axle(lash=(13.1, 12.8, 13.4, 13.0))).ready_change
    assert move.probability is not None
    assert 0.5 < move.probability < 1
    assert dict(move.parts)["backlash"] > 0.9
    assert "sure" in move.runner_up


def test_pattern_first_lets_the_backlash_go_where_the_set_wants_it():
    state = standing_axle(lash=(14, 14, 14, 14), methods=TRIAL)
    state = replace(state, prints=(printed(state, 0),))
    limits = next_move(state).ready_change
    pattern = next_move(replace(state, policy="pattern")).ready_change
    told = [next(e for e in m.expected if e.label == "Smallest backlash") for m in (limits, pattern)]
    assert all(7 * THOU < (e.low + e.high) / 2 < 11 * THOU for e in told)


# ---- what does not fit


def with_both(torque: float, other: float, count: int = 1) -> Reading:
    reading = taken("pinion_torque", (torque + other) / 2 * IN_LB, 3, settings=PACKS)
    both = [torque * IN_LB, other * IN_LB]
    return replace(reading, conditions={"both": both}, offs=((both[0] - both[1]) / 2,) * count, count=count)


def instead(state, reading: Reading):
    others = tuple(t for t in state.readings if (t.kind, t.place) != (reading.kind, reading.place))
    return replace(state, readings=(*others, reading))


def keys(state) -> set[str]:
    return {key for trouble in inconsistencies(state, IMPERIAL) for key in trouble.fault_hypotheses}


def test_a_sound_axle_raises_no_question():
    assert inconsistencies(standing_axle(), IMPERIAL) == ()


def test_every_fault_that_can_be_planted_can_be_suspected():
    assert {fault.value for fault in Fault} <= set(fault_hypotheses())
    assert all(s.words and s.look for s in fault_hypotheses().values())


def test_a_wrench_that_does_not_zero_shows_both_ways():
    # common practice, no source: read both ways, the mean is free of the wrench's zero
    state = instead(standing_axle(), with_both(24, 16))
    move = assembled_policy(state, IMPERIAL, stand(state))
    assert move.act is Act.READ
    assert move.again
    assert "wrench_not_zero" in move.faults
    assert assembled_policy(instead(standing_axle(), with_both(24, 16, 2)), IMPERIAL, stand(state)) is None


def test_a_torque_that_does_not_come_back_is_a_dry_bearing():
    fell = replace(taken("pinion_torque", 20 * IN_LB, 3, settings=PACKS), count=2, discrepancy=6 * IN_LB)
    state = instead(standing_axle(), fell)
    assert "dry_bearing" in keys(state)
    assert next_move(state).act is Act.LOOK


def test_a_torque_that_falls_after_the_print_is_a_cup_that_was_not_home():
    fell = replace(taken("total_torque", 14 * IN_LB, 12, settings=PACKS), count=2, discrepancy=-12 * IN_LB)
    assert "unseated_cup" in keys(instead(standing_axle(), fell))


def test_the_second_change_that_did_something_else_is_a_shim_that_lies():
    """One odd move may be a cup or a misread place; the fault is called when the next is odd as well."""
    state = standing_axle()
    for n, ring in enumerate((196, 199)):
        moved = {**PACKS, Place.RING: mm(ring), Place.FAR: mm(383 - ring)}
        reads = (12 + 3 * n) * THOU  # it should have closed, and it opened
        more = tuple(
            replace(taken("backlash", reads, order=20 + n, place=p, settings=moved), count=2)
            for p in (1, 2, 3, 4)
        )
        state = replace(state, settings=moved, readings=(*state.readings, *more))
        assert "mislabelled_shim" in keys(state)
        move = next_move(state)
        assert (move.act is Act.LOOK) == bool(n), move.title
        assert any("where" in words and "was due" in words for words in (*move.notes, *move.why))
    assert move.title.startswith("Stop")


def test_a_mark_that_means_the_opposite_is_named_by_its_size():
    state = standing_axle(mark=replace(standing_axle().mark, value=5 * THOU, confirmed=True))
    # Gauge and mark put it right; by the print it is twice the mark off.
    feeler = taken("depth_feeler", 5 * THOU, 2, settings=PACKS)
    state = instead(state, feeler)
    twice = (printed(state, -10), replace(printed(state, -10, 2), order=12))
    found = inconsistencies(replace(state, prints=twice), IMPERIAL)
    assert found[0].fault_hypotheses[0] == "wrong_mark"


def test_a_station_signed_with_a_reason_is_not_questioned_again():
    from axle.state.reading import Signature

    fell = replace(taken("pinion_torque", 20 * IN_LB, 3, settings=PACKS), count=2, discrepancy=6 * IN_LB)
    state = instead(standing_axle(), fell)
    sign = Signature(99, deviation=True, reason="bearing oiled since", person="Ines", settings=PACKS)
    assert "dry_bearing" not in keys(replace(state, signatures={"pinion_preload": sign}))
