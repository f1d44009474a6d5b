"""Every sign of every layout, against the trade's rules."""

from __future__ import annotations

from itertools import product

import pytest

from axle.errors import AxleError
from axle.layout import (
    CarrierBy,
    DepthShim,
    Flank,
    Hand,
    Housing,
    Layout,
    Place,
    PreloadBy,
    Side,
    SpacerSeat,
    every_layout,
)

ALL = every_layout()


def layout(depth=DepthShim.HEAD, preload=PreloadBy.SPACER, carrier=CarrierBy.OUTBOARD, **more):
    return Layout(depth, preload, carrier, **more)


def test_every_possible_combination_computes():
    # Counted by hand from the refusals: of 3 x 3 x 4 x 3 x 2 x 2 x 2 x 2 combinations, a preload
    # kind and its seat agree in 4 of 6 (sleeve between cones; spacer either; step on a shoulder),
    # and a carrier kind and its housing in 3·3 + 1 of 12.
    assert len(ALL) == 3 * 4 * 10 * 2 * 2 * 2
    assert len(set(ALL)) == len(ALL)


@pytest.mark.parametrize(
    ("depth", "sign"),
    # Common practice, no source: thicker is deeper under the head and behind the cup, shallower
    # under a bolted cartridge.
    [(DepthShim.HEAD, 1), (DepthShim.CUP, 1), (DepthShim.CARTRIDGE, -1)],
)
def test_depth_sign(depth, sign):
    assert {item.depth_sign for item in ALL if item.depth_shim is depth} == {sign}


def test_a_slinger_goes_deeper_on_every_layout():
    assert {item.slinger_depth_sign for item in ALL} == {1}


@pytest.mark.parametrize(
    ("preload", "sign", "has_pack"),
    # Common practice, no source: more shim is less preload; a sleeve is only ever tightened.
    [(PreloadBy.SLEEVE, 0, False), (PreloadBy.SPACER, -1, True), (PreloadBy.STEP, -1, True)],
)
def test_preload_sign(preload, sign, has_pack):
    found = [item for item in ALL if item.preload_by is preload]
    assert {item.preload_sign for item in found} == {sign}
    assert {item.has_preload_pack for item in found} == {has_pack}


@pytest.mark.parametrize(
    ("depth", "preload", "seat", "coupled"),
    [
        (DepthShim.HEAD, PreloadBy.SPACER, SpacerSeat.SHOULDER, 1),
        (DepthShim.CUP, PreloadBy.SPACER, SpacerSeat.SHOULDER, 1),
        (DepthShim.HEAD, PreloadBy.STEP, SpacerSeat.SHOULDER, 1),
        (DepthShim.CUP, PreloadBy.STEP, SpacerSeat.SHOULDER, 1),
        (DepthShim.HEAD, PreloadBy.SPACER, SpacerSeat.BETWEEN_CONES, 0),
        (DepthShim.CUP, PreloadBy.SPACER, SpacerSeat.BETWEEN_CONES, 1),
        (DepthShim.CARTRIDGE, PreloadBy.SPACER, SpacerSeat.SHOULDER, 0),
        (DepthShim.CARTRIDGE, PreloadBy.SPACER, SpacerSeat.BETWEEN_CONES, 0),
        (DepthShim.CARTRIDGE, PreloadBy.STEP, SpacerSeat.SHOULDER, 0),
        (DepthShim.HEAD, PreloadBy.SLEEVE, SpacerSeat.BETWEEN_CONES, 0),
        (DepthShim.CUP, PreloadBy.SLEEVE, SpacerSeat.BETWEEN_CONES, 0),
    ],
)
def test_coupling_of_depth_and_preload(depth, preload, seat, coupled):
    assert layout(depth, preload, spacer_seat=seat).preload_per_depth == coupled


def stack_interference(item: Layout, depth_shim: float, preload_pack: float) -> float:
    """Interference of the pinion pair from the lengths along the shaft, told independently.

    The cups stand in the housing, the cones on the shaft. With shims behind the inner cup the cups
    come nearer the head by the shim; with shims under the head the inner cone moves away from the
    head by it. What the spacer bears on decides what the nut pulls against.
    """
    cups_apart = 40.0
    if item.depth_shim is DepthShim.CUP:
        cups_apart += depth_shim  # the inner cup moves towards the head, away from the outer cup
    head_shim = depth_shim if item.depth_shim is DepthShim.HEAD else 0.0
    if item.spacer_seat is SpacerSeat.BETWEEN_CONES:
        cones_apart = 40.0 + preload_pack
    else:
        # From the shoulder to the outer cone is fixed by the pack; the inner cone sits on the head's
        # side and moves towards the shoulder with its shim.
        cones_apart = 40.0 + preload_pack - head_shim
    return cups_apart - cones_apart


@pytest.mark.parametrize("item", [i for i in ALL if i.has_preload_pack and i.ring_side is Side.LEFT])
def test_coupled_stacks_keep_the_interference(item):
    before = stack_interference(item, 0.70, 1.00)
    after = stack_interference(item, 0.80, 1.00 + 0.10 * item.preload_per_depth)
    assert after == pytest.approx(before)


@pytest.mark.parametrize("item", [i for i in ALL if i.has_preload_pack and i.ring_side is Side.LEFT])
def test_a_thicker_preload_pack_loosens(item):
    change = stack_interference(item, 0.7, 1.1) - stack_interference(item, 0.7, 1.0)
    assert change == pytest.approx(0.1 * item.preload_sign)


@pytest.mark.parametrize(
    ("carrier", "sign", "opens"),
    # Common practice, no source: the ring gear moves away from the thicker side, except under
    # bolted covers, where it follows the shim.
    [
        (CarrierBy.OUTBOARD, 1, Place.FAR),
        (CarrierBy.UNDER_CONE, 1, Place.FAR),
        (CarrierBy.ADJUSTERS, 1, Place.FAR),
        (CarrierBy.COVERS, -1, Place.RING),
    ],
)
def test_carrier_signs(carrier, sign, opens):
    found = [item for item in ALL if item.carrier_by is carrier]
    assert {item.carrier_sign for item in found} == {sign}
    assert {item.opens_backlash for item in found} == {opens}


@pytest.mark.parametrize("item", ALL)
def test_places_and_sides(item):
    assert item.side_of(Place.RING) is item.ring_side
    assert item.side_of(Place.FAR) is not item.ring_side
    assert (Place.RING in item.shim_places) != item.has_adjusters
    assert (Place.PRELOAD in item.shim_places) == item.has_preload_pack
    assert item.shim_places[0] is Place.DEPTH


def test_a_pinion_place_has_no_side():
    with pytest.raises(AxleError, match="a side of the carrier is wanted"):
        layout().side_of(Place.DEPTH)


@pytest.mark.parametrize(
    ("choice", "words"),
    [
        (
            {"preload": PreloadBy.STEP},
            "preload shims against a step with the spacer between the cones was given",
        ),
        (
            {"preload": PreloadBy.SLEEVE, "spacer_seat": SpacerSeat.SHOULDER},
            "a collapsible sleeve with shims on a shoulder was given",
        ),
        ({"carrier": CarrierBy.COVERS}, "side-cover shims in a housing of the kind “integral” was given"),
        (
            {"carrier": CarrierBy.COVERS, "housing": Housing.DROP_OUT},
            "a housing with side covers is wanted",
        ),
    ],
)
def test_an_impossible_combination_is_refused_by_name(choice, words):
    with pytest.raises(AxleError) as refused:
        layout(**choice)
    assert words in str(refused.value)
    assert str(refused.value).endswith("Change one of the two.")


def test_refused_and_built_together_are_all():
    kinds = (DepthShim, PreloadBy, CarrierBy, Housing, Side, SpacerSeat, Flank, Hand)
    refused = 0
    for choice in product(*kinds):
        try:
            Layout(*choice)
        except AxleError:
            refused += 1
    total = 1
    for kind in kinds:
        total *= len(kind)
    assert refused + len(ALL) == total
