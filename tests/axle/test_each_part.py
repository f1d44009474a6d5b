"""A sleeve's bites, torque over interference, heat, signatures: each decision by itself."""

from __future__ import annotations

import math
from dataclasses import replace
from decimal import Decimal

import numpy as np
import pytest
import uncertainties

from axle.carrier.heat import Case, hot_change
from axle.decision.carrier.by_hand import by_hand
from axle.decision.costs import weight
from axle.decision.policy import is_together
from axle.decision.probability import in_range_probabilities
from axle.decision.remeasure import reduce_variance
from axle.layout import CarrierBy, DepthShim, Layout, Place, PreloadBy
from axle.measure.units import IMPERIAL
from axle.preload.bites import Bite, BiteVerdict, next_bite
from axle.preload.curve import PINION_SLOPE, Trial, fit, torque_at
from axle.preload.trials import contradictions
from axle.runout import read_around
from axle.spec.sheet import Sheet, spec_value
from axle.state.settings import Settings
from axle.stations.carrier_preload import wanted_interference
from axle.stations.pinion_preload import seal_drag
from axle.stations.pinion_trials import torque_spread, trials_of
from axle.stations.result import Outcome
from axle.stations.station_state import Status, stand
from tests.axle.rig import IN_LB, SHEET, THOU, mm
from tests.axle.test_advice import PACKS, SHIMS, standing_axle, taken
from tests.axle.test_judgement import instead
from tests.axle.test_lash import bare

# ---- bites of a sleeve's nut


def test_a_bite_is_never_more_than_twice_the_last_nor_a_first_one_large():
    # Common practice, no source: small bites, measured each time. Far under the range the curve would go on.
    far = [Bite(0.3), Bite(0.35, 12.0)]
    assert next_bite(far, 30.0, 40.0).amount == 24
    assert next_bite([Bite(0.3), Bite(0.35, 4.0)], 30.0, 40.0).amount == 15
    assert next_bite([Bite(0.3), Bite(0.35, 20.0)], 30.0, 40.0).amount == 40


def test_over_the_range_a_new_sleeve_and_in_it_a_stop():
    assert next_bite([Bite(2.9)], 1.7, 2.8).verdict is BiteVerdict.NEW_SLEEVE
    assert next_bite([Bite(2.8)], 1.7, 2.8).verdict is BiteVerdict.STOP
    assert next_bite([Bite(1.69)], 1.7, 2.8).verdict is BiteVerdict.BITE


# ---- torque over interference


def test_twice_the_interference_is_the_load_of_line_contact():
    # Palmgren: approach of line contact goes with the 0.9th power of the load (Harris, Rolling Bearing
    # Analysis), so the load, and a torque proportional to it, with the power 10/9 of the interference.
    assert torque_at(0.10, 40.0) / torque_at(0.05, 40.0) == pytest.approx(2 ** (1 / 0.9))


def test_a_trial_off_all_the_rest_is_called_tighter_or_looser():
    trials = [Trial(0.00, torque=1.0), Trial(0.05, torque=3.0), Trial(0.10, torque=5.4)]
    for torque, word in ((9.0, "tighter"), (3.1, "looser")):
        odd = [*trials, Trial(0.12, torque=torque)]
        words = contradictions(odd, fit(trials, PINION_SLOPE), PINION_SLOPE)
        assert any(word in line or "tighter pack read looser" in line for line in words)
    assert not contradictions(trials, fit(trials, PINION_SLOPE), PINION_SLOPE)


def test_a_thinner_preload_pack_is_tighter():
    state = standing_axle()
    curve = trials_of(state).curve
    sign = state.layout.preload_sign
    assert curve.torque(sign * 21.0 * THOU) > curve.torque(sign * 21.5 * THOU)


# ---- heat, runout


HOT_AXLE = {
    "side_span": 200,
    "pinion_span": 80,
    "mounting": 100,
    "housing_rise": 60,
    "per_depth": -0.3,
}


def test_an_aluminium_housing_opens_the_carrier_and_tightens_the_pinion():
    # By hand: (23.0 − 11.5)·10⁻⁶/K · 60 K = 6.9·10⁻⁴; over 200 and 80 mm.
    hot = hot_change(Case.ALUMINIUM, gears_above=15, **HOT_AXLE)
    assert (hot.carrier, hot.pinion) == pytest.approx((-0.138, 0.0552))
    assert hot.deeper == pytest.approx(11.5e-6 * 15 * 100 - 6.9e-4 * 100)
    assert hot.backlash == pytest.approx(-0.3 * hot.deeper)


def test_gears_warmer_than_an_iron_housing_close_the_backlash():
    hot = hot_change(Case.IRON, gears_above=25, **HOT_AXLE)
    assert hot.deeper > 0 > hot.backlash


@pytest.mark.parametrize(("place", "degrees"), [(1, 0), (3, 90), (6, 225)])
def test_the_high_spot_is_where_the_indicator_stood_highest(place, degrees):
    around = [2 + math.cos(2 * math.pi * (k - place + 1) / 8) for k in range(8)]
    runout = read_around([around], 0.01)
    assert runout.high_place == place
    assert runout.order(1).degrees % 360 == pytest.approx(degrees, abs=1e-6)
    assert runout.order(1).amplitude == pytest.approx(1)


# ---- words and states


def test_a_signature_out_of_range_is_kept_until_it_is_read_again():
    from axle.state.reading import Signature

    state = standing_axle(lash=(13, 13, 13, 13))
    sign = Signature(50, deviation=True, reason="set loose", person="Ines", settings=PACKS)
    signed = replace(state, signatures={"backlash": sign})
    assert stand(signed)["backlash"].status is Status.SIGNED
    again = taken("backlash", 13 * THOU, 60, settings=PACKS)
    assert stand(replace(signed, readings=(*state.readings, again)))["backlash"].status is Status.OUT


def test_settings_are_compared_place_by_place():
    one = Settings({Place.RING: Decimal(3)})
    assert one.same_as(Settings({Place.RING: Decimal(3), Place.FAR: Decimal(0)}))
    assert not one.same_as(Settings({Place.RING: Decimal(3), Place.FAR: Decimal(1)}))
    assert one.same_at(Settings(), [Place.FAR])
    assert one.changed({Place.FAR: Decimal(1)}).at(Place.FAR) == 1
    assert one.at(Place.FAR) == 0


def test_a_sheet_without_figures_records_and_passes():
    state = replace(
        standing_axle(),
        sheet=Sheet("x", {"ring_runout": spec_value("ring_runout", None, "2", "thou", "demo")}),
    )
    result = stand(state)["ring_gear"].result
    assert result.outcome is Outcome.IN_RANGE
    high = instead(state, taken("ring_runout", 3 * THOU))
    assert stand(high)["ring_gear"].result.outcome is Outcome.OVER
    bare_sheet = replace(state, sheet=Sheet("x", {}))
    assert stand(bare_sheet)["ring_gear"].result.outcome is Outcome.RECORDED
    assert np.isfinite(stand(bare_sheet)["ring_gear"].result.value)
    assert Layout(DepthShim.HEAD, PreloadBy.SPACER, CarrierBy.OUTBOARD) == SHIMS
    assert SHEET.range("backlash").low / THOU == pytest.approx(7)


def test_a_torque_scatters_as_its_step_and_a_hand_together():
    # JCGM 100:2008: a step is known to its half over √3; independent parts add as squares.
    step, hand, share = (uncertainties.ufloat(0, s) for s in (0.0565 / math.sqrt(12), 0.046, 0.0205 * 2.26))
    reading = replace(taken("pinion_torque", 2.26, 3), step=0.0565)
    assert torque_spread(reading) == pytest.approx((step + hand + share).std_dev, rel=1e-6)


@pytest.mark.parametrize(("grade", "change"), [(4, -2), (1, 2), (2, 2)])
def test_taps_change_the_last_pack_by_one_size(grade, change):
    # Common practice, no source: heavy blows are too thick, one that slides in is too thin, by 2 thou.
    state = bare(method="taps", school="taps")
    judged = replace(state, readings=(*state.readings, taken("tap_in", grade, 30, settings=PACKS)))
    move = by_hand(judged, IMPERIAL, stand(judged)["carrier_preload"])
    assert [float(s.change) / THOU for s in move.swaps] == [pytest.approx(change, abs=0.6)]


def test_a_seal_s_drag_is_the_difference_to_the_newest_reading_without_it():
    readings = (
        taken("pinion_torque", 18 * IN_LB, 3, settings=PACKS),
        taken("pinion_torque", 20 * IN_LB, 5, settings=PACKS),
    )
    sealed = replace(taken("pinion_torque", 25 * IN_LB, 7, settings=PACKS), conditions={"seal": True})
    state = replace(standing_axle(), readings=(*readings, sealed))
    drag = seal_drag(state, sealed)
    assert drag.torque / IN_LB == pytest.approx(5)
    due = uncertainties.ufloat(0, torque_spread(sealed)) - uncertainties.ufloat(
        0, torque_spread(readings[1])
    )
    assert drag.spread == pytest.approx(due.std_dev)


def test_more_readings_of_a_scattered_torque_are_asked_for_before_a_strip_down():
    state = instead(
        standing_axle(lash=(13, 13, 13, 13)), taken("total_torque", 24 * IN_LB, 4, settings=PACKS)
    )
    moved = state.settings.changed({Place.RING: mm(197), Place.FAR: mm(186)})
    planned = in_range_probabilities(state, moved).joint
    move = reduce_variance(state, moved, planned)
    sure = in_range_probabilities(
        instead(state, replace(state.latest("total_torque"), count=3)), moved
    ).joint
    assert (move is not None) == ((sure - planned) * weight(state.layout, [Place.RING, Place.FAR]) >= 0.012)
    assert reduce_variance(state, moved, 0.98) is None
    assert planned < sure


def test_zero_float_is_as_much_either_way_as_cannot_be_told_from_none():
    values = {
        **SHEET.values,
        "carrier_interference": spec_value(
            "carrier_interference", None, high="0", unit="thou", source="maker"
        ),
    }
    limits = wanted_interference(replace(bare(), sheet=Sheet("x", values))).limits
    assert (limits.low, limits.high) == pytest.approx((-limits.high, limits.high))
    assert 0 < limits.high <= 2 * THOU


def test_a_pinion_that_is_not_in_the_job_does_not_keep_the_whole_from_being_judged():
    state = standing_axle()
    standings = dict(stand(state))
    assert is_together(state, standings)
    del standings["pinion_preload"]
    assert is_together(state, standings)
    unread = replace(state, readings=tuple(t for t in state.readings if t.kind != "pinion_torque"))
    assert not is_together(unread, stand(unread))
