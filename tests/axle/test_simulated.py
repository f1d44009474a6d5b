"""Simulated axles: their own equations against the layouts' signs, their spreads, their faults."""

from __future__ import annotations

import math
import random
import statistics
from dataclasses import replace

import pytest

from axle.errors import AxleError
from axle.gearset import GearSet
from axle.layout import CarrierBy, DepthShim, Layout, Place, PreloadBy
from axle.measure.range import Range
from axle.practice.best import right_packs
from axle.simulator.axle import AxleAssembly, Limits, SimulatedAxle, out_of_range
from axle.simulator.fault import FAULT_WORDS, Fault
from axle.simulator.measure import (
    MeasurementRequest,
    both_ways,
    first_settings,
    patches,
    piece_off,
    read,
    truth,
)
from axle.simulator.true_axle import Subject, sample_axle
from axle.spec.limits import BacklashLimits
from benchmarks.closed_loop.shop import LAYOUTS
from tests.shares import share_of

THOU = 0.0254
GEARS = GearSet(9, 38)
SHIMS = Layout(DepthShim.HEAD, PreloadBy.SPACER, CarrierBy.OUTBOARD)
LIMITS = Limits(
    3 * THOU,
    BacklashLimits(6 * THOU, 10 * THOU, 4 * THOU),
    places=4,
    pinion=Range(1.7, 2.8),
    carrier=Range(1.7, 2.8),
    runout=5 * THOU,
)


def true_axle(layout: Layout = SHIMS, seed: int = 3, fault: Fault | None = None):
    return sample_axle(Subject(layout, GEARS, 8 * THOU), seed, fault)


def right(layout: Layout = SHIMS, seed: int = 3, fault: Fault | None = None) -> SimulatedAxle:
    """An axle with the packs that are truly right, loaded once."""
    found = true_axle(layout, seed, fault)
    crush = found.pinion.interference(2.25) / found.sleeve_share / found.subject.nut_pitch * 360
    return SimulatedAxle(
        found, AxleAssembly(dict(right_packs(found, LIMITS)), loaded=True, turned=found.slack + crush)
    )


def thicker(axle: SimulatedAxle, place: Place, by: float) -> SimulatedAxle:
    settings = {**axle.built.settings, place: axle.built.settings.get(place, 0.0) + by}
    return replace(axle, built=replace(axle.built, settings=settings))


def test_the_same_seed_gives_the_same_axle_and_another_one_another():
    assert true_axle(seed=5) == true_axle(seed=5)
    assert true_axle(seed=5) != true_axle(seed=6)


@pytest.mark.parametrize("layout", LAYOUTS, ids=str)
def test_what_a_thicker_shim_does_follows_the_layout(layout):
    # The table of the trade, by the layout; the simulator has its own geometry for it.
    axle = right(layout)
    step = 2.0 if layout.has_adjusters else 5 * THOU
    deeper = thicker(axle, Place.DEPTH, 5 * THOU)
    assert (deeper.depth_error - axle.depth_error) * layout.depth_sign == pytest.approx(5 * THOU)
    if layout.has_preload_pack:
        packed = thicker(axle, Place.PRELOAD, 2 * THOU)
        assert packed.pinion_interference < axle.pinion_interference
        # Coupled stacks: what the depth shim takes, the preload pack gives back.
        both = thicker(deeper, Place.PRELOAD, layout.preload_per_depth * 5 * THOU)
        assert both.pinion_interference == pytest.approx(axle.pinion_interference)
    for place in (Place.RING, Place.FAR):
        more = thicker(axle, place, step)
        assert (more.carrier_interference - axle.carrier_interference) * layout.carrier_sign > 0
        opens = more.lash(1, 4) > axle.lash(1, 4)
        assert opens is (place is layout.opens_backlash)


@pytest.mark.parametrize("layout", LAYOUTS[::5], ids=str)
def test_the_right_packs_are_in_the_middle_of_every_range(layout):
    axle = right(layout)
    assert out_of_range(axle, LIMITS) == ()
    assert axle.depth_error == pytest.approx(0.0, abs=1e-9)
    assert min(axle.lashes(4)) == pytest.approx(8 * THOU, abs=2e-4)
    if layout.has_preload_pack:
        assert axle.pinion_torque == pytest.approx(2.25, abs=1e-3)
    assert axle.carrier_torque == pytest.approx(2.25, abs=1e-3)


def test_what_is_out_is_named_without_noise():
    axle = right()
    assert "depth" in out_of_range(thicker(axle, Place.DEPTH, 3.2 * THOU), LIMITS)
    assert "pinion preload" in out_of_range(thicker(axle, Place.PRELOAD, 4 * THOU), LIMITS)
    lines = out_of_range(thicker(axle, Place.FAR, 12 * THOU), LIMITS)
    assert {"backlash", "carrier preload"} <= set(lines)
    assert out_of_range(right(fault=Fault.GEAR_RUNOUT), LIMITS) >= ("runout",)


def test_axles_differ_as_much_as_is_said():
    found = [true_axle(seed=seed) for seed in range(share_of(300, 150))]
    gauge = [axle.gauge_off / THOU for axle in found]
    assert statistics.pstdev(gauge) == pytest.approx(1.2, rel=0.12)
    stiff = [axle.pinion.torque(0.076) / 2.26 for axle in found]
    assert 0.74 < min(stiff) < 0.8
    assert 1.2 < max(stiff) < 1.26
    first = [first_settings(axle.seed, SimulatedAxle(axle, AxleAssembly())) for axle in found]
    guess = [(s[Place.DEPTH] - a.right_pack) / THOU for s, a in zip(first, found, strict=True)]
    assert statistics.pstdev(guess) == pytest.approx(5.0, rel=0.12)
    lash = [
        sum(SimulatedAxle(a, AxleAssembly(dict(s), loaded=True)).lashes(8)) / 8 / THOU
        for s, a in zip(first, found, strict=True)
    ]
    assert min(lash) > 0.5
    assert max(lash) < 27
    assert statistics.fmean(lash) == pytest.approx(13.5, abs=1.5)
    assert max(SimulatedAxle(a, AxleAssembly()).runout for a in found) / THOU < 4.7
    assert all(0.6 < a.per_ring < 1.4 and -0.6 < a.per_depth < -0.15 for a in found)


def test_readings_scatter_about_the_truth_by_their_instrument():
    axle, source = right(), random.Random(4)
    for kind, step in (("backlash", 0.1 * THOU), ("pinion_torque", 0.0565), ("mic_reading", 0.1 * THOU)):
        measurement_request = MeasurementRequest(kind)
        shown = [read(axle, measurement_request, source) for _ in range(400)]
        assert statistics.fmean(shown) == pytest.approx(truth(axle, measurement_request), abs=0.01)
        assert all(math.isclose(v / step, round(v / step), abs_tol=1e-6) for v in shown)
        assert statistics.pstdev(shown) > 0.1 * step


def test_every_way_of_finding_depth_wants_the_same_shim():
    # t = t_trial + s(actual - required), by whatever tool; with nothing fitted.
    found = true_axle(Layout(DepthShim.HEAD, PreloadBy.SPACER, CarrierBy.OUTBOARD), 9)
    axle = SimulatedAxle(found, AxleAssembly())
    required = 90.0 + found.mark
    wanted = found.right_pack + found.gauge_off
    assert truth(axle, MeasurementRequest("measured_distance")) - required == pytest.approx(wanted)
    assert truth(axle, MeasurementRequest("depth_feeler")) - found.mark == pytest.approx(wanted)
    assert 92.0 - truth(axle, MeasurementRequest("bridge_reading")) - required == pytest.approx(wanted)
    assert truth(axle, MeasurementRequest("mic_reading")) - 20.0 - required == pytest.approx(wanted)
    assert 20.0 + 69.0 + truth(axle, MeasurementRequest("bar_gap")) - required == pytest.approx(wanted)


def test_thin_spacers_and_gaps_tell_where_zero_play_is():
    for carrier in (CarrierBy.OUTBOARD, CarrierBy.UNDER_CONE):
        axle = SimulatedAxle(true_axle(Layout(DepthShim.HEAD, PreloadBy.SPACER, carrier)), AxleAssembly())
        thin, play = (truth(axle, MeasurementRequest(kind)) for kind in ("thin_spacer", "spacer_play"))
        assert 2 * thin + play == pytest.approx(axle.true_axle.zero)
        ring, far = (truth(axle, MeasurementRequest(kind)) for kind in ("gap_ring", "gap_far"))
        assert ring + far == pytest.approx(axle.true_axle.zero)


def test_deeper_prints_lower_on_both_flanks():
    # common practice, no source: low on both flanks is too deep
    at = {n: patches(thicker(right(), Place.DEPTH, n * 6 * THOU), random.Random(1)) for n in (-1, 0, 1)}
    for flank in ("drive", "coast"):
        heights = [at[n][flank].centroid[1] for n in (-1, 0, 1)]
        assert heights[0] > heights[1] > heights[2]


@pytest.mark.parametrize("fault", list(Fault))
def test_a_fault_shows_where_it_should(fault):
    sound, odd = true_axle(seed=11), true_axle(seed=11, fault=fault)
    assert odd.fault is fault
    assert FAULT_WORDS[fault]
    before, after = (
        SimulatedAxle(h, AxleAssembly(dict(right_packs(h, LIMITS)), loaded=True)) for h in (sound, odd)
    )
    shows = {
        Fault.GEAR_RUNOUT: lambda: after.runout > before.runout + 3 * THOU,
        Fault.FLANGE_BURR: lambda: after.runout > before.runout + 3 * THOU,
        Fault.BENT_PINION: lambda: max(after.lashes(8)) - min(after.lashes(8)) > 5 * THOU,
        Fault.UNSEATED_CUP: lambda: (
            replace(after, built=replace(after.built, loaded=False)).pinion_interference
            > after.pinion_interference + 2 * THOU
        ),
        Fault.DRY_BEARING: lambda: odd.pinion.torque(0.07) > 1.7 * sound.pinion.torque(0.07),
        Fault.WRONG_MARK: lambda: odd.distance - 90.0 == pytest.approx(-odd.mark),
        Fault.SLINGER_OUT: lambda: after.depth_error < before.depth_error - 15 * THOU,
        Fault.SWAPPED_CAPS: lambda: after.carrier_torque > before.carrier_torque + 1.0,
        Fault.MISLABELLED_SHIM: lambda: abs(odd.shim_off) > 4 * THOU,
        Fault.WRENCH_NOT_ZERO: lambda: (
            abs(_mean(after) - after.pinion_torque)
            < 0.1
            < read(after, MeasurementRequest("pinion_torque"), random.Random(2)) - after.pinion_torque
        ),
    }
    assert shows[fault]()


def _mean(axle: SimulatedAxle) -> float:
    return statistics.fmean(both_ways(axle, MeasurementRequest("pinion_torque"), random.Random(2)))


def test_a_shim_is_off_by_the_same_whenever_it_is_fitted():
    assert piece_off(3, 40, miced=True) == piece_off(3, 40, miced=True)
    many = [piece_off(3, key, miced=True) for key in range(400)]
    assert statistics.pstdev(many) == pytest.approx(0.0013, rel=0.15)


def test_what_cannot_be_read_is_refused_in_words():
    with pytest.raises(AxleError, match="one that a simulated axle answers"):
        truth(right(), MeasurementRequest("horn"))
    with pytest.raises(AxleError, match="more than 0"):
        Subject(SHIMS, GEARS, backlash=0.0)
