"""Each decision by itself: what is left out, what governs, what is aimed at, how sure it is."""

from __future__ import annotations

import math
from dataclasses import replace
from decimal import Decimal

import pytest
import uncertainties

from axle.backlash.around import Around, check_backlash
from axle.backlash.ratios import Ratios, Seen, learn
from axle.carrier.torque import bearing_torque
from axle.contact.mark import Flanked
from axle.contact.patch import Patch
from axle.decision.carrier.plan import aim
from axle.decision.first_load import last_check
from axle.decision.probability import in_range_probabilities, predict_backlash, probability_as_read
from axle.decision.remeasure import recheck_outlier, recheck_variation
from axle.decision.value_of_information import best_measurement
from axle.layout import Place
from axle.measure.range import BacklashLevel, Range
from axle.procedure.names import KindName, StationName
from axle.procedure.stations import reading_kinds, stations
from axle.spec.limits import BacklashLimits, BacklashRule
from axle.stations.carrier_preload import interference_now
from axle.stations.depth_posterior import APART, depth_posterior
from axle.stations.pinion_trials import torque_spread
from axle.stations.print_target import centroids_of
from axle.stations.result import Outcome
from axle.stations.station_state import Status, stand
from tests.axle.rig import IN_LB, THOU, mm
from tests.axle.test_advice import PACKS, TRIAL, standing_axle, taken
from tests.axle.test_judgement import instead
from tests.axle.test_lash import bare, lash, play
from tests.axle.test_prints import printed

PRIOR = Ratios(0.9, -0.3, std=0.12)


def test_names_of_stations_and_kinds_are_those_of_the_tables():
    assert [name.value for name in StationName] == list(stations())
    assert [name.value for name in KindName] == list(reading_kinds())


# ---- what a job's own moves teach


def test_one_move_is_learned_by_bayes_rule():
    # By hand: variance of q 0.108² = 0.011664; the move's own 0.008²; gain = 0.011664·(−0.1)/1.8064e-4.
    move = Seen(-0.10, 0.0, 0.0, -0.070, uncertainty=0.008)
    gain = 0.108**2 * -0.10 / (0.01 * 0.108**2 + 0.008**2)
    assert learn(PRIOR, [move]).ratios.per_ring == pytest.approx(0.9 + gain * (-0.070 + 0.09), abs=1e-9)


@pytest.mark.parametrize(("moved", "opened"), [(-0.10, 0.07), (0.10, -0.07)])
def test_a_gear_that_went_the_other_way_is_left_out_and_the_good_move_counts(moved, opened):
    # No ratio explains backlash that opens when the gear comes nearer: a cup was not home.
    odd, good = Seen(moved, 0.0, 0.0, opened), Seen(-0.10, 0.0, 0.0, -0.078)
    assert learn(PRIOR, [odd]).ratios == PRIOR
    alone, both = learn(PRIOR, [good]), learn(PRIOR, [odd, good])
    assert both.ratios.per_ring == pytest.approx(alone.ratios.per_ring)
    assert (both.odd, both.ratios.moves) == ((odd,), 1)


def test_a_move_further_out_than_two_deviations_counts_for_less():
    near = Seen(-0.10, 0.0, 0.0, -0.09 + 0.02)
    far = Seen(-0.10, 0.0, 0.0, -0.09 + 0.036)  # 2.7 of its standard deviations
    learned = learn(PRIOR, [far]).ratios.per_ring
    straight = 0.9 + (0.9 - learn(PRIOR, [near]).ratios.per_ring) * -0.036 / 0.02
    assert straight < learned < 0.9
    assert not learn(PRIOR, [far]).odd


# ---- gauge and prints


def between(discrepancy: float):
    """An axle whose gauge and prints lie so many standard deviations apart."""
    state = standing_axle()
    low, high = 0.5, 30.0
    for _ in range(40):
        middle = (low + high) / 2
        made = replace(state, prints=(printed(state, middle),))
        if depth_posterior(made).discrepancy < discrepancy:
            low = middle
        else:
            high = middle
    return made


def test_gauge_and_print_two_and_a_half_deviations_apart_are_weighed():
    depth_estimate = depth_posterior(between(2.5))
    assert depth_estimate.discrepancy == pytest.approx(2.5, abs=0.2)
    assert depth_estimate.gauge[0] < depth_estimate.error < depth_estimate.prints[0] * 0.98


def test_three_and_a_half_deviations_apart_the_pattern_has_the_last_word():
    # Common practice, no source: a gauge gets near, the pattern has the last word.
    depth_estimate = depth_posterior(between(3.5))
    assert depth_estimate.discrepancy > APART
    assert depth_estimate.error == pytest.approx(depth_estimate.prints[0], abs=1e-6)
    # Further apart than three deviations, one of the two is off by more than was held of it.
    assert depth_estimate.std > depth_estimate.prints[1]


@pytest.mark.parametrize("drive_convex", [True, False])
def test_the_drive_flank_is_the_convex_one_unless_the_set_says_otherwise(drive_convex):
    state = standing_axle()
    state = replace(state, gears=replace(state.gears, drive_convex=drive_convex))
    flanks = {
        "drive": Flanked.of(Patch.box(0.2, 0.6, 0.1, 0.5)),
        "coast": Flanked.of(Patch.box(0.3, 0.7, 0.5, 0.9)),
    }
    patch_centroids = centroids_of(flanks, state, 1)
    drive, coast = (0.4, 0.3), (0.5, 0.7)
    convex, concave = (drive, coast) if drive_convex else (coast, drive)
    assert patch_centroids.convex == pytest.approx(convex)
    assert patch_centroids.concave == pytest.approx(concave)


def test_backlash_beside_a_print_is_that_of_its_own_settings():
    # A print is read with the backlash of the assembly it was made on, whatever was read since.
    state = standing_axle(methods=TRIAL, lash=(9.3, 8.9, 9.5, 9.2))
    here = replace(state, prints=(printed(state, 0),))
    moved = {**PACKS, Place.RING: mm(196), Place.FAR: mm(187)}
    later = lash(replace(here, settings=moved), 6, 6, 6, 6, settings=moved, order=300)
    assert depth_posterior(later).backlash == pytest.approx(depth_posterior(here).backlash, abs=0.012)


# ---- what governs


@pytest.mark.parametrize(
    ("rule", "places", "level", "fits"),
    [
        (BacklashRule.SMALLEST, (0.19, 0.30), BacklashLevel.IN_RANGE, False),
        (BacklashRule.EVERY, (0.19, 0.30), BacklashLevel.LOOSE, False),
        (BacklashRule.EVERY, (0.19, 0.27), BacklashLevel.IN_RANGE, True),
        (BacklashRule.SMALLEST, (0.17, 0.20), BacklashLevel.TIGHT, False),
        (BacklashRule.SMALLEST, (0.29, 0.30), BacklashLevel.LOOSE, False),
    ],
)
def test_the_smallest_place_or_every_place_governs(rule, places, level, fits):
    limits = BacklashLimits(0.18, 0.28, variation=0.09, rule=rule)
    verdict = check_backlash(Around(dict(enumerate(places, start=1))), limits)
    assert (verdict.level, verdict.in_range) == (level, fits)


def test_a_torque_of_the_bolts_is_in_range_only_if_every_one_is():
    good = taken("cap_torque", 78.6, 20, settings=PACKS)
    bad = taken("ring_bolt_torque", 60.0, 21, settings=PACKS)
    state = standing_axle()
    for readings, outcome in (
        ((good,), Outcome.IN_RANGE),
        ((good, bad), Outcome.OUT),
        ((bad,), Outcome.OUT),
    ):
        result = stand(replace(state, readings=(*state.readings, *readings)))["torque"].result
        assert result.outcome is outcome
        assert result.in_range == (outcome is Outcome.IN_RANGE)


@pytest.mark.parametrize(("use", "share"), [("road", 0.5), ("tow", 0.7), ("track", 0.7)])
def test_where_in_its_range_the_backlash_is_aimed(use, share):
    # Common practice, no source: heat closes it, so a hot axle is set towards the loose end.
    limits = BacklashLimits(0.18, 0.28, variation=0.08)
    assert aim(replace(standing_axle(), use=use), limits) == pytest.approx(0.18 + share * 0.10)


# ---- how sure


def test_torque_of_the_carrier_by_subtraction_against_the_uncertainties_package():
    total, pinion = uncertainties.ufloat(2.9, 0.016), uncertainties.ufloat(2.2, 0.016)
    due = (total - pinion) * 38 / 9
    step = 0.016 * math.sqrt(12)
    value, u = bearing_torque(2.9, 2.2, 38 / 9, total_step=step, pinion_step=step)
    assert value == pytest.approx(due.nominal_value, abs=0.1)  # less what the mesh drags
    assert u == pytest.approx(due.std_dev, rel=0.35)


def test_interference_against_the_uncertainties_package():
    state = play(bare(), 4)
    fitted = replace(state, settings={**PACKS, Place.RING: mm(201), Place.FAR: mm(198)})
    value, u, zero = interference_now(fitted)
    packs = uncertainties.ufloat(16 * THOU, math.sqrt(max(u**2 - zero.uncertainty**2, 0)))
    due = packs - uncertainties.ufloat(4 * THOU, zero.uncertainty)
    assert value == pytest.approx(due.nominal_value, abs=1e-6)
    assert u == pytest.approx(due.std_dev, rel=1e-6)


@pytest.mark.parametrize(("count", "both"), [(1, False), (4, False), (1, True), (4, True)])
def test_the_mean_of_n_torques_is_surer_by_the_root_of_n(count, both):
    reading = taken("pinion_torque", 2.26, 3)
    more = replace(reading, count=count, conditions={"both": [2.3, 2.2]} if both else {})
    assert torque_spread(more) == pytest.approx(torque_spread(reading) / math.sqrt(count * (1 + both)))


def test_a_bound_is_hardly_a_reading():
    bound = replace(taken("pinion_torque", 2.26, 3), conditions={"bound": "over"})
    assert torque_spread(bound) == pytest.approx(0.5 * 2.26)


def test_the_chance_of_a_reading_is_the_normal_integral():
    # NIST/SEMATECH e-Handbook, table of the normal distribution: 68.27 % lie within one deviation.
    reading = taken("pinion_torque", 2.2, 3)
    spread = torque_spread(reading)
    assert probability_as_read(reading, Range(2.2 - spread, 2.2 + spread)) == pytest.approx(
        0.6827, abs=1e-4
    )
    assert probability_as_read(reading, Range(2.2, math.inf)) == pytest.approx(0.5)
    loose = probability_as_read(reading, Range(2.2, 3.2), std=0.5)
    assert loose < probability_as_read(reading, Range(2.2, 3.2))


def test_a_pack_that_is_changed_is_less_sure_than_one_that_was_read():
    state = standing_axle()
    thick = state.settings.changed({Place.PRELOAD: mm(21.5) + Decimal("0.00001")})
    same, other = (
        in_range_probabilities(state, s).parts["pinion_preload"] for s in (state.settings, thick)
    )
    assert other < same - 1e-4


def test_backlash_that_nothing_moves_is_as_it_was_read():
    state = standing_axle()
    smallest, std, variation = predict_backlash(state, state.settings, 0.0)
    assert (smallest / THOU, variation / THOU) == pytest.approx((8.9, 0.6))
    moved = state.settings.changed({Place.RING: mm(196), Place.FAR: mm(187)})
    later, wider, _ = predict_backlash(state, moved, 0.0)
    # Closed forms (AGMA 2005 and textbooks): 0.72 to 0.98 at the mean radius, 1.13 to 1.17 of it at the heel.
    assert 3 * 0.72 * 1.13 < (smallest - later) / THOU < 3 * 0.98 * 1.17
    assert wider > std


def test_the_chance_of_backlash_falls_with_its_variation():
    even, uneven = (standing_axle(lash=(8.9, 8.9 + more, 9, 9)) for more in (0.5, 3.4))
    parts = [in_range_probabilities(state).parts["backlash"] for state in (even, uneven)]
    assert parts[0] > 0.99
    assert parts[1] < 0.5


# ---- readings that are taken once more


def test_a_reading_that_all_else_contradicts_is_read_again():
    state = standing_axle()
    high = replace(taken("total_torque", 33 * IN_LB, 4, settings=PACKS), count=1)
    odd = instead(state, high)
    standings = stand(odd)
    assert standings["carrier_preload"].status is Status.OUT
    now = in_range_probabilities(odd)
    sure = replace(now, parts={**now.parts, "carrier_preload": 0.8})
    move = recheck_outlier(odd, standings, sure)
    assert move.asks[0][0] in ("total_torque", "carrier_torque")
    assert move.again
    std = replace(now, parts={**now.parts, "carrier_preload": 0.3})
    assert recheck_outlier(odd, standings, std) is None


def test_only_a_variation_within_scatter_is_read_again():
    state = standing_axle(lash=(8.9, 12.2, 9, 9))
    move = recheck_variation(state, 0.3 * THOU)
    assert {place for _, place in move.asks} == {1, 2}  # the tightest and the loosest
    # However far it is over, both ends are read twice before anybody looks for runout.
    twice = replace(state, readings=tuple(replace(t, count=2) for t in state.readings))
    assert recheck_variation(state, 2 * THOU) is not None
    assert recheck_variation(twice, 2 * THOU) is None


def test_the_rotating_torque_is_read_once_more_after_a_print_was_loaded():
    state = standing_axle()
    assert last_check(state) is None
    after = replace(state, prints=(replace(printed(state, 0), order=9),))
    once = instead(after, replace(taken("total_torque", 24 * IN_LB, 4, settings=PACKS), count=1))
    assert last_check(once).asks == (("total_torque", 1),)
    assert last_check(instead(once, replace(taken("total_torque", 24 * IN_LB, 12, settings=PACKS)))) is None


def test_the_measurement_that_tells_most_is_asked_for():
    state = standing_axle(lash=(7.3, 8.9, 9, 9))  # near the edge of its range
    now = in_range_probabilities(state)
    edge = replace(now, parts={**now.parts, "backlash": 0.9})
    asked = best_measurement(state, depth_posterior(state), edge)
    assert (asked.station, asked.asks) == ("backlash", (("backlash", 1),))
    settled = replace(now, parts=dict.fromkeys(now.parts, 0.99))
    assert best_measurement(state, depth_posterior(state), settled) is None
