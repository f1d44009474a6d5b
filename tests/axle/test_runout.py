"""Runout: fit against known signals and scipy, clocking against brute force, causes against trade."""

from __future__ import annotations

import cmath
import math
import random
from decimal import Decimal

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.optimize import least_squares

from axle.errors import AxleError
from axle.gearset import GearSet
from axle.layout import CarrierBy, DepthShim, Layout, Place, PreloadBy
from axle.measure.units import IMPERIAL
from axle.runout import aliased, best, clockings, in_lash, read_around, split
from axle.spec.sheet import Sheet, spec_value
from axle.state.axle_state import AxleState
from axle.state.reading import Reading, Run
from axle.stations.runout import alias_words, diagnose, holes_words, tell_apart

SIZES = st.floats(0.005, 0.4)
ANGLES = st.floats(0.0, math.tau - 1e-9)


def signal(n: int, *orders: tuple[int, float, float], mean: float = 0.0) -> list[float]:
    """Readings at n places of A·cos(kθ − φ) for each (k, A, φ)."""
    return [mean + sum(a * math.cos(k * math.tau * i / n - p) for k, a, p in orders) for i in range(n)]


@given(st.integers(8, 72), SIZES, ANGLES, SIZES, ANGLES, st.floats(-1, 1))
def test_a_known_signal_comes_back(n, a1, p1, a2, p2, mean):
    run = read_around([signal(n, (1, a1, p1), (2, a2, p2), mean=mean)])
    first, second = run.order(1), run.order(2)
    assert cmath.isclose(first.vector, cmath.rect(a1, p1), abs_tol=1e-9)
    assert cmath.isclose(second.vector, cmath.rect(a2, p2), abs_tol=1e-9)
    assert run.noise == pytest.approx(0, abs=1e-9)
    assert run.doubts == ()
    # The high spot's angle is where the order is largest.
    assert a1 * math.cos(first.angle - p1) == pytest.approx(a1)
    assert a2 * math.cos(2 * second.angle - p2) == pytest.approx(a2)


@given(st.integers(8, 48), st.integers(1, 4), st.integers(0, 10_000))
def test_the_fit_is_scipy_s_least_squares(n, turns, seed):
    noise = random.Random(seed)
    rows = [
        [v + noise.gauss(0, 0.003) for v in signal(n, (1, 0.06, 1.0), (2, 0.02, 2.0))] for _ in range(turns)
    ]
    run = read_around(rows)
    if run.doubts:
        return  # chance threw an outlier, rarely; scipy below knows nothing of that
    angles = np.tile(math.tau * np.arange(n) / n, turns)
    values = np.asarray(rows).ravel()
    top = 3 if n >= 12 else 2

    def residuals(x):
        return (
            x[0]
            + sum(
                x[2 * k - 1] * np.cos(k * angles) + x[2 * k] * np.sin(k * angles) for k in range(1, top + 1)
            )
            - values
        )

    found = least_squares(residuals, np.zeros(2 * top + 1)).x
    for k in range(1, top + 1):
        assert run.order(k).vector == pytest.approx(complex(found[2 * k - 1], found[2 * k]), abs=1e-7)


def test_the_stated_uncertainty_covers_the_truth_two_times_in_three():
    # A standard uncertainty holds the truth in about 68 % of cases (JCGM 100:2008, G.1.3).
    noise = random.Random(7)
    inside = 0
    for _ in range(400):
        run = read_around([[v + noise.gauss(0, 0.004) for v in signal(12, (1, 0.06, 1.0))]])
        first = run.order(1)
        inside += abs(first.amplitude - 0.06) <= first.uncertainty
    assert 0.58 <= inside / 400 <= 0.78


@pytest.mark.parametrize("place", [1, 4, 8])
@pytest.mark.parametrize("size", [0.06, -0.12])
def test_a_reading_that_does_not_belong_is_named_and_left_out(place, size):
    noise = random.Random(place)
    row = [v + noise.gauss(0, 0.0015) for v in signal(12, (1, 0.05, 2.0))]
    row[place - 1] += size
    run = read_around([row])
    assert [doubt.place for doubt in run.doubts] == [place]
    assert run.doubts[0].off == pytest.approx(size, abs=0.015)
    assert run.order(1).amplitude == pytest.approx(0.05, abs=0.004)
    assert run.total >= run.clean


def test_total_indicated_reading_is_largest_less_smallest():
    assert read_around([[0.0, 0.03, 0.11, 0.02]]).total == pytest.approx(0.11)


def test_fewer_than_eight_places_give_no_angle_and_fewer_than_twelve_no_third_order():
    assert read_around([signal(6, (1, 0.05, 0))]).orders == ()
    assert read_around([signal(8, (1, 0.05, 0))]).order(3) is None
    assert read_around([signal(12, (3, 0.05, 0))]).order(3).amplitude == pytest.approx(0.05)


def test_turns_are_averaged_and_their_scatter_told():
    run = read_around([[0.0] * 8, [0.02] * 8, [0.04] * 8])
    assert run.readings == pytest.approx([0.02] * 8)
    assert run.repeat == pytest.approx(0.02)


@pytest.mark.parametrize(
    ("turns", "words"),
    [
        ([], "no reading"),
        ([[0, 1, 2], [0, 1]], "as many in every turn"),
        ([[0.0, 0.1]], "3 to 72"),
        ([[0.0] * 80], "3 to 72"),
        ([[0.0, math.nan, 0.1]], "no number"),
    ],
)
def test_a_run_that_cannot_be_is_refused(turns, words):
    with pytest.raises(AxleError, match=words):
        read_around(turns)


@given(st.floats(1.5, 8), st.integers(8, 40))
def test_a_pinion_order_above_half_the_places_shows_as_another(ratio, n):
    seen = aliased(ratio, n)
    if ratio <= n / 2:
        assert seen is None
    else:
        # Sampled at n places both orders are the same readings, up to their sign of turning.
        angles = [math.tau * i / n for i in range(n)]
        real = [math.cos(ratio * a) for a in angles]
        assert [math.cos(seen * a) for a in angles] == pytest.approx(real, abs=1e-9)


@given(SIZES, ANGLES, SIZES, ANGLES, st.integers(4, 16), st.data())
def test_two_clockings_give_gear_and_flange_back(c, pc, g, pg, bolts, data):
    holes = data.draw(st.integers(1, bolts - 1))
    turned = math.tau * holes / bolts
    flange, gear = cmath.rect(c, pc), cmath.rect(g, pg)
    told = split(flange + gear, flange + gear * cmath.exp(1j * turned), turned)
    assert told.gear == pytest.approx(gear, abs=1e-9)
    assert told.flange == pytest.approx(flange, abs=1e-9)


@given(SIZES, ANGLES, SIZES, ANGLES, st.integers(2, 24), st.data())
def test_the_best_position_is_the_best_of_all(c, pc, g, pg, bolts, data):
    holes = data.draw(st.integers(1, bolts - 1))
    turned = math.tau * holes / bolts
    flange, gear = cmath.rect(c, pc), cmath.rect(g, pg)
    positions = clockings(split(flange + gear, flange + gear * cmath.exp(1j * turned), turned), bolts)
    # Brute force: turn the gear's vector through every hole and read the total off the sum itself.
    angles = np.linspace(0, math.tau, 1441)
    totals = []
    for hole in range(bolts):
        there = flange + gear * cmath.exp(1j * math.tau * hole / bolts)
        wave = (there * np.exp(-1j * angles)).real
        totals.append(float(wave.max() - wave.min()))
    assert [p.total for p in positions] == pytest.approx(totals, rel=1e-4, abs=1e-6)
    assert best(positions).total == pytest.approx(min(totals), rel=1e-4, abs=1e-6)


def test_half_a_turn_tells_the_most_and_a_whole_one_nothing():
    one, two = 0.03 + 0.01j, 0.02 - 0.01j
    u = [split(one, two, math.tau * h / 10, reading=0.002).uncertainty for h in range(1, 10)]
    assert min(u) == u[4] == pytest.approx(0.002 * math.sqrt(2) / 2)
    with pytest.raises(AxleError, match="Half a turn tells the most"):
        split(one, two, math.tau)
    with pytest.raises(AxleError, match="not a whole one"):
        split(one, two, math.pi, order=2)


def test_the_expected_uncertainty_is_that_of_many_trials():
    # JCGM 101: propagation by trial, against the propagated figure.
    rng = np.random.default_rng(3)
    flange, gear, turned, u = 0.03 + 0.01j, 0.05 - 0.02j, math.pi, 0.001

    def shaken() -> complex:
        return complex(*rng.normal(0, u, 2))

    found = [
        clockings(split(flange + gear + shaken(), flange - gear + shaken(), turned), 10)[3].total
        for _ in range(2000)
    ]
    told = clockings(split(flange + gear, flange - gear, turned, reading=u), 10)[3]
    assert np.std(found) == pytest.approx(told.uncertainty, rel=0.1)


def test_a_wedge_shows_in_the_backlash():
    assert in_lash(0.05, 0.7, 1.0) == pytest.approx(0.035)
    with pytest.raises(AxleError, match="above 0"):
        in_lash(0.05, 0.7, 0)


SHEET = Sheet(
    "trial",
    {
        "ring_runout": spec_value("ring_runout", None, high="0.10", unit="mm", source="maker"),
        "flange_runout": spec_value("flange_runout", None, high="0.08", unit="mm", source="maker"),
    },
)
LAYOUT = Layout(DepthShim.HEAD, PreloadBy.SPACER, CarrierBy.OUTBOARD)


def axle(*runs: Run, play: float | None = 0.0, **more) -> AxleState:
    taken = (
        ()
        if play is None
        else (Reading("arrival_side_play", 1, value=play, order=1, assembly=1, settings={}),)
    )
    return AxleState(LAYOUT, GearSet(9, 38), SHEET, readings=taken, runs=runs, **more)


def ring(row: list[float], clock: int = 0, order: int = 5, part: str = "ring", number: int = 1) -> Run:
    return Run(number, part, turns=(tuple(row),), order=order, settings={Place.CLOCK: Decimal(clock)})


def turned(flange: complex, gear: complex, holes: int, n: int = 12) -> list[float]:
    there = flange + gear * cmath.exp(1j * math.tau * holes / 10)
    size, phase = cmath.polar(there)
    return signal(n, (1, size, phase))


@pytest.mark.parametrize(
    ("state", "act"),
    [
        # Common practice, no source: side play first, then burr or chip, clocking, carrier, gear.
        (axle(play=0.05), "play"),
        (axle(play=0.05, play_accepted=True), "read"),
        (axle(), "read"),
        (axle(ring(signal(12, (1, 0.04, 1.0)))), "good"),
        (
            axle(ring([v + (0.15 if i == 5 else 0) for i, v in enumerate(signal(12, (1, 0.03, 1.0)))])),
            "dirt",
        ),
        (axle(ring(signal(12, (2, 0.09, 1.0), (1, 0.02, 0.0)))), "warp"),
        (axle(ring(signal(6, (1, 0.09, 1.0)))), "read"),
        (axle(ring(signal(12, (1, 0.09, 1.0)))), "turn"),
        (axle(ring(turned(0.05, 0.06, 0)), ring(turned(0.05, 0.06, 5), 5, 4)), "clock"),
        (axle(ring(turned(0.14, 0.02, 0)), ring(turned(0.14, 0.02, 5), 5, 4)), "carrier"),
        (axle(ring(turned(0.02, 0.14, 0)), ring(turned(0.02, 0.14, 5), 5, 4)), "gear"),
        (axle(ring(signal(8, (1, 0.02, 1.0)), part="flange")), "good"),
        (axle(ring(signal(8, (1, 0.06, 1.0)), part="flange")), "flange"),
    ],
)
def test_which_part_is_to_blame(state, act):
    diagnosis = diagnose(state, IMPERIAL)
    assert diagnosis.act == act, diagnosis
    assert diagnosis.title
    assert diagnosis.why


def test_a_gear_is_clocked_to_cancel_its_flange():
    # Flange and gear alike at the same angle: half a turn of the gear takes the runout out.
    state = axle(ring(turned(0.05, 0.05, 0)), ring(turned(0.05, 0.05, 3), 3, 4))
    diagnosis = diagnose(state, IMPERIAL)
    assert diagnosis.best.holes == 5
    assert diagnosis.best.total == pytest.approx(0, abs=1e-6)
    assert "7.9 → 0.0 thou" in diagnosis.title


def test_gear_and_flange_are_told_as_seen_from_the_gear_s_place_now():
    flange, gear = cmath.rect(0.03, 0.4), cmath.rect(0.06, 2.0)
    state = axle(ring(turned(flange, gear, 0), 0, 4), ring(turned(flange, gear, 4), 4, 5))
    told = tell_apart(state)
    assert told.flange == pytest.approx(flange)
    assert told.gear == pytest.approx(gear * cmath.exp(1j * math.tau * 4 / 10))
    assert tell_apart(axle(ring(turned(flange, gear, 0)))) is None


def test_a_run_that_is_too_coarse_for_the_pinion_says_so():
    run = read_around([signal(8, (1, 0.05, 0.0))])
    words = alias_words(38 / 9, run)
    assert "4.22 times a turn" in words
    assert "9 places or more" in words
    assert alias_words(38 / 9, read_around([signal(12, (1, 0.05, 0.0))])) == ""


def test_the_short_way_round():
    assert holes_words(3, 10).startswith("by 3 holes the way")
    assert holes_words(9, 10).startswith("by 1 hole against")
    assert holes_words(0, 10) == "where it is"
