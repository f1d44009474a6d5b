"""Stations, readings and the graph of what goes stale."""

from __future__ import annotations

from decimal import Decimal

import pytest

from axle.errors import AxleError
from axle.layout import (
    CarrierBy,
    DepthShim,
    Hand,
    Housing,
    Layout,
    Place,
    PreloadBy,
    SpacerSeat,
    every_layout,
)
from axle.procedure.conditions import checked, has_seal, has_stance
from axle.procedure.staleness import changes, stale_because, stales
from axle.procedure.stations import kind_named, reading_kinds, station_of, stations

HEAD_SPACER = Layout(DepthShim.HEAD, PreloadBy.SPACER, CarrierBy.OUTBOARD)
CUP_SPACER = Layout(DepthShim.CUP, PreloadBy.SPACER, CarrierBy.OUTBOARD)
STEP = Layout(DepthShim.HEAD, PreloadBy.STEP, CarrierBy.OUTBOARD, spacer_seat=SpacerSeat.SHOULDER)
SLEEVE = Layout(DepthShim.HEAD, PreloadBy.SLEEVE, CarrierBy.ADJUSTERS)


def test_the_stations_stand_in_the_order_of_the_work():
    # Common practice, no source: teardown, inspection, cleaning, bearings and ring gear, depth, pinion
    # preload, carrier preload, backlash, pattern, final build, torques, oil and road, build sheet.
    assert list(stations()) == [
        "arrival",
        "teardown",
        "inspect",
        "prepare",
        "fit",
        "ring_gear",
        "depth",
        "pinion_preload",
        "carrier_preload",
        "backlash",
        "pattern",
        "final",
        "torque",
        "finish",
        "sheet",
    ]


def test_every_reading_belongs_to_one_station():
    for kind in reading_kinds():
        owners = [name for name, station in stations().items() if kind in station.kinds]
        assert owners == [station_of(kind)]


def test_every_station_has_a_caution_where_the_work_can_hurt():
    for station in stations().values():
        assert station.cautions, station.station
    spoken = " ".join(c for s in stations().values() for c in s.cautions_for(HEAD_SPACER))
    for word in ("stands", "press", "Spread", "Lift", "Fingers", "solvents", "maker's"):
        assert word in spoken


@pytest.mark.parametrize("layout", every_layout()[::11], ids=str)
def test_left_hand_threads_and_spreading_are_flagged_where_they_occur(layout):
    # Common practice, no source: said before loosening (arrival) and before tightening (torque).
    left = layout.bolt_hand is Hand.LEFT
    for station in ("arrival", "torque"):
        first = stations()[station].cautions_for(layout)[0]
        assert ("left-hand threads" in first) == left
    spread = any("0.020 in" in c for c in stations()["carrier_preload"].cautions_for(layout))
    assert spread == (layout.housing is Housing.INTEGRAL)


@pytest.mark.parametrize("kind", list(reading_kinds()))
def test_every_reading_says_how_it_is_taken(kind):
    what = kind_named(kind)
    assert len(what.hint) > 20
    assert what.hint.endswith((".", "?"))
    assert what.plausible.low < what.plausible.high
    assert what.step > 0


@pytest.mark.parametrize(
    ("kind", "typed_mm", "words"),
    [
        ("backlash", "-0.1", "Backlash: “x” was given; 0 or more is wanted."),
        ("backlash", "90", "Check the unit."),
        ("pinion_torque", "-1", "0 or more is wanted"),
        ("pinion_torque", "5000", "0 to 6 N·m is wanted"),
    ],
)
def test_a_reading_that_cannot_be_is_refused(kind, typed_mm, words):
    with pytest.raises(AxleError) as refused:
        kind_named(kind).check(Decimal(typed_mm), "x")
    assert words in str(refused.value)


def test_a_mark_may_be_negative():
    kind_named("old_mark").check(Decimal("-0.05"), "-2")


def test_an_unknown_kind_is_refused():
    with pytest.raises(AxleError, match="one that a station takes"):
        kind_named("horn")


@pytest.mark.parametrize(
    ("layout", "place", "stale"),
    [
        # Common practice, no source: a depth shim stales backlash and pattern, and the preload pack
        # where the stacks are coupled or a sleeve was crushed; a side shim or adjuster stales
        # backlash, pattern and carrier preload.
        (HEAD_SPACER, Place.DEPTH, {"backlash", "pattern"}),
        (CUP_SPACER, Place.DEPTH, {"backlash", "pattern", "pinion_preload"}),
        (STEP, Place.DEPTH, {"backlash", "pattern", "pinion_preload"}),
        (SLEEVE, Place.DEPTH, {"backlash", "pattern", "pinion_preload"}),
        (HEAD_SPACER, Place.PRELOAD, {"pinion_preload"}),
        (HEAD_SPACER, Place.RING, {"backlash", "pattern", "carrier_preload"}),
        (SLEEVE, Place.FAR, {"backlash", "pattern", "carrier_preload"}),
    ],
)
def test_what_a_change_makes_stale(layout, place, stale):
    judged = {"pinion_preload", "carrier_preload", "backlash", "pattern"}
    assert set(stales(place, layout)) & judged == stale


def test_a_preload_pack_leaves_backlash_and_pattern_alone():
    assert not {"backlash", "pattern", "carrier_preload"} & set(stales(Place.PRELOAD, HEAD_SPACER))


@pytest.mark.parametrize("layout", every_layout()[::37])
def test_nothing_changed_nothing_stale(layout):
    packs = {place: Decimal(1) for place in Place}
    for change in changes():
        for result in change.stales:
            assert stale_because(result, layout, packs, dict(packs)) == ""


def test_the_reason_names_what_was_changed():
    before, after = {Place.FAR: Decimal("1.0")}, {Place.FAR: Decimal("1.1")}
    assert stale_because("pattern", HEAD_SPACER, before, after) == "the far side was changed"
    assert stale_because("pinion_preload", HEAD_SPACER, before, after) == ""


def test_filling_an_empty_place_is_a_change():
    assert stale_because("backlash", HEAD_SPACER, {}, {Place.RING: Decimal(1)})


AROUND = {
    "stance": "along",
    "indicator": "plunger",
    "lean": 0.0,
    "caps": "torqued",
    "settled": True,
    "held": True,
    "pushed": "",
    "places": 4,
}
AS_USUAL = {
    "seal": False,
    "oil": "oiled",
    "attitude": "nose_up",
    "figure": "running",
    "nut": "final",
}


@pytest.mark.parametrize(
    ("kind", "given", "kept"),
    [
        ("pinion_torque", {}, AS_USUAL),
        ("pinion_torque", {"seal": True, "turned": 15}, AS_USUAL | {"seal": True, "turned": 15}),
        ("bar_gap", {"passes": 0.0, "binds": 0.05}, {"passes": 0.0, "binds": 0.05}),
        ("dial_travel", {}, {"shows": "travel"}),
        ("backlash", {}, AROUND),
        ("backlash", {"stance": "square"}, AROUND | {"stance": "square"}),
        ("depth_feeler", {}, {}),
    ],
)
def test_conditions_are_part_of_the_reading(kind, given, kept):
    assert checked(kind, given) == kept


@pytest.mark.parametrize(
    ("kind", "given", "words"),
    [
        ("backlash", {"stance": "askew"}, "indicator: “askew” was given; along or square"),
        ("backlash", {"seal": True}, "condition: “seal” was given"),
        ("depth_feeler", {"seal": True}, "one that this reading has"),
        ("pinion_torque", {"seal": "maybe"}, "seal: “maybe” was given"),
        ("pinion_torque", {"oil": "tar"}, "oil: “tar” was given; oiled, dry, soaked"),
        ("pinion_torque", {"turned": -5}, "never backed off"),
        ("pinion_torque", {"turned": "far"}, "bite: “far” was given"),
        ("depth_feeler", {"binds": 0.1}, "one end of an interval"),
        ("bar_gap", {"passes": 0.3, "binds": 0.1}, "then the thicker one that binds"),
        ("dial_travel", {"shows": "figure"}, "how much one revolution of the dial is"),
    ],
)
def test_conditions_that_cannot_be_are_refused(kind, given, words):
    with pytest.raises(AxleError) as refused:
        checked(kind, given)
    assert words in str(refused.value)


def test_a_reading_can_be_repeated_once_more_up_to_its_number():
    kind = kind_named("depth_feeler")
    assert kind.repeats_offered(()) == (1,)
    assert kind.repeats_offered({1, 2}) == (1, 2, 3)
    assert kind.repeats_offered(range(1, 6)) == (1, 2, 3, 4, 5)
    assert kind_named("backlash").repeats_offered({1, 2}) == ()
    assert kind_named("stand_inner").place_words(2) == "set-up"


def test_which_readings_know_a_seal_or_a_stance():
    assert has_seal("total_torque")
    assert not has_seal("carrier_end_play")
    assert has_stance("arrival_backlash")
    assert not has_stance("pinion_torque")
