"""The worlds that axles are simulated in: the advice knows neither their code nor their figures."""

from __future__ import annotations

import ast
import math
import random
import statistics
from pathlib import Path

import pytest

from axle.errors import AxleError
from axle.gearset import GearSet
from axle.layout import CarrierBy, DepthShim, Layout, Place, PreloadBy
from axle.simulator.axle import AxleAssembly, SimulatedAxle
from axle.simulator.measure import MeasurementRequest, read
from axle.simulator.misread import misread
from axle.simulator.seats import Seats
from axle.simulator.true_axle import Subject, sample_axle, spreads
from axle.simulator.workshop import draw_shop
from axle.simulator.world import WORLDS, world_named
from axle.state.priors import Quantity, starting_widths

ROOT = Path(__file__).parents[2]
# The same quantity as the advice holds it and as a world draws it: (quantity, its figure, group, name).
SAME = [
    (Quantity.PINION_STIFFNESS, "std", "bearings", "pinion_log_std"),
    (Quantity.CARRIER_STIFFNESS, "std", "bearings", "carrier_log_std"),
    (Quantity.PINION_BED, "centre", "bearings", "pinion_bed"),
    (Quantity.CARRIER_BED, "centre", "bearings", "carrier_bed"),
    (Quantity.PINION_BED, "std", "bearings", "bed_log_std"),
    (Quantity.BED_OF_USED, "centre", "bearings", "bed_used"),
    (Quantity.MESH_DRAG, "centre", "mesh", "drag"),
    (Quantity.MESH_DRAG, "std", "mesh", "log_std"),
    (Quantity.PINION_SEAT, "std", "seats", "pinion_std"),
    (Quantity.SIDE_SEAT, "std", "seats", "side_std"),
    (Quantity.DEPTH_SEAT, "std", "seats", "depth_std"),
    (Quantity.TORQUE_SCATTER, "centre", "hands", "torque_std"),
    (Quantity.TORQUE_SHARE, "centre", "hands", "torque_share"),
    (Quantity.WRENCH_SCALE, "std", "hands", "wrench_scale_std"),
    (Quantity.WRENCH_ZERO, "std", "hands", "wrench_zero_std"),
    (Quantity.FEELER_FEEL, "std", "hands", "feel_std"),
    (Quantity.FEELER_SCATTER, "centre", "hands", "feel_scatter"),
    (Quantity.INDICATOR_SCATTER, "centre", "hands", "indicator_std"),
    (Quantity.GAUGE_LEAVES, "std", "depth", "gauge_sigma"),
    (Quantity.OLD_PACK, "std", "depth", "guess_sigma"),
    (Quantity.PIECE, "std", "packs", "piece_std"),
    (Quantity.MIC_ZERO, "std", "packs", "mic_zero_std"),
    (Quantity.PRINT_SCATTER, "centre", "hands", "print_std"),
    (Quantity.PRINT_COMMON, "centre", "hands", "print_common_std"),
    (Quantity.EYE, "std", "hands", "eye_std"),
    (Quantity.CUT_CENTRE, "std", "cut", "centre_sigma"),
    (Quantity.LAPPED, "std", "backlash", "right_sigma"),
    (Quantity.RATIO, "std", "cut", "indicator_sigma"),
    (Quantity.MISREAD, "centre", "hands", "misread_chance"),
]


@pytest.mark.parametrize(("quantity", "of", "group", "name"), SAME, ids=[f"{r[0]}-{r[1]}" for r in SAME])
def test_no_width_that_the_advice_holds_is_a_world_s_own(quantity, of, group, name):
    held = getattr(starting_widths()[quantity], of)
    for world in WORLDS:
        drawn = world_named(world).figure(group, name)
        assert abs(held / drawn - 1) > 0.05, f"{world}: {drawn:g}"


def test_every_width_says_where_it_comes_from():
    for quantity, width in starting_widths().items():
        assert width.title, quantity
        assert width.source, quantity


@pytest.mark.parametrize(
    "room", ["decision", "stations", "state", "learning", "preload", "contact", "measure"]
)
def test_nothing_that_judges_imports_a_simulated_axle(room):
    for path in (ROOT / "axle" / room).rglob("*.py"):
        for node in ast.walk(ast.parse(path.read_text())):
            module = node.module or "" if isinstance(node, ast.ImportFrom) else ""
            names = [alias.name for alias in node.names] if isinstance(node, ast.Import) else [module]
            assert not any(n.startswith(("axle.simulator", "axle.practice")) for n in names), path.name


def test_a_world_that_is_held_out_is_drawn_anew_at_each_number():
    one, other = world_named("held_out 1"), world_named("held_out 2")
    assert one.groups == world_named("held_out 1").groups
    drags = {w.figure("mesh", "drag") for w in (one, other, world_named("usual"))}
    assert len(drags) == 3
    for name in ("held_out", "held_out x", "dreamt"):
        with pytest.raises(AxleError, match="held_out 1, 2 and so on"):
            world_named(name)


def test_a_shop_s_hands_differ_as_its_world_says():
    # JCGM 100:2008, 4.2: the standard deviation of a sample of n is known to 1 over the root of 2 n.
    world = world_named("usual")
    scales = [draw_shop(world, n).hands.wrench_scale for n in range(400)]
    assert statistics.stdev(scales) == pytest.approx(
        world.figure("hands", "wrench_scale_std"), rel=3 / math.sqrt(800)
    )


def built(world: str, seed: int = 3, *, loaded: bool = False) -> SimulatedAxle:
    subject = Subject(Layout(DepthShim.HEAD, PreloadBy.SPACER, CarrierBy.OUTBOARD), GearSet(11, 41, 222.0))
    true = sample_axle(subject, seed, world=world_named(world))
    packs = {
        Place.DEPTH: true.right_pack,
        Place.PRELOAD: true.zero_pack - 0.08,
        Place.RING: true.zero / 2 + 0.15,
        Place.FAR: true.zero / 2 + 0.15,
    }
    return SimulatedAxle(true, AxleAssembly(packs, loaded=loaded))


@pytest.mark.parametrize("world", WORLDS)
def test_preload_falls_at_first_load(world):
    # Common practice, no source: new bearings settle, and the torque falls, by more on new ones.
    new, settled = built(world), built(world, loaded=True)
    assert settled.pinion_torque < new.pinion_torque
    assert settled.carrier_torque < new.carrier_torque
    assert settled.total_torque < new.total_torque


def test_torque_rises_with_interference_and_its_inverse_undoes_it():
    spring = built("rough").true_axle.carrier
    torques = [spring.torque(i / 100) for i in range(60)]
    assert torques == sorted(torques)
    for torque in (0.5, 2.0, 4.0):
        assert spring.torque(spring.interference(torque)) == pytest.approx(torque, rel=1e-6)


def test_figures_are_misread_as_often_as_a_world_says():
    # A binomial share of n lies within three standard deviations of its chance.
    axle, source, n = built("rough"), random.Random(4), 4000
    hands = axle.true_axle.wear.hands
    wide = 6 * max(hands.indicator_std, 0.004) + 0.0026
    truth = axle.lash(1, 6)
    far = sum(
        abs(read(axle, MeasurementRequest("backlash", 1, 6), source) - truth) > wide for _ in range(n)
    )
    assert far / n <= hands.misread_chance + 3 * math.sqrt(hands.misread_chance / n)
    # Of the slips a place read for another, and a digit of a thou, mostly lie within the scatter.
    assert far / n >= hands.misread_chance / 5


def test_a_slip_is_one_of_those_that_are_made():
    # Common practice, no source: a digit, two digits the other way round, a turn of the dial's small hand.
    seen = {
        round(
            misread(18.5 * 0.1129848, random.Random(n), torque=True, dial=False, step=0.0565) / 0.1129848, 1
        )
        for n in range(60)
    }
    assert seen <= {17.5, 19.5, 8.5, 28.5, 81.5}
    assert 81.5 in seen
    dial = {
        round(misread(8.0 * 0.0254, random.Random(n), torque=False, dial=True, step=0.0025) / 0.0254, 1)
        for n in range(80)
    }
    assert {58.0, 108.0} <= dial


def test_a_seat_is_another_at_each_coming_together():
    axle = built("usual").true_axle
    seats = Seats(axle, random.Random(1))
    found = []
    for _ in range(200):
        seats.come_apart({Place.RING}, {Place.RING: 5.0})
        found.append(seats.off[Place.RING])
    assert statistics.stdev(found) == pytest.approx(axle.wear.side_seat, rel=3 / math.sqrt(400))
    # Each joint between two pieces loses a little: a pack of five is thinner than its sum.
    assert seats.pack_off([0.0] * 5) == pytest.approx(-4 * axle.wear.squeeze)
    assert spreads()["faults"]["dry"][0] > 1
