"""What is asked while it can still be read: twice where it decides, before the mesh closes, before the first load."""

from __future__ import annotations

from dataclasses import replace

import pytest

from axle.decision.before_mesh import before_mesh
from axle.decision.carrier.loose import drag_of_mesh
from axle.decision.carrier.school_chances import school_chances
from axle.decision.first_load import before_load
from axle.decision.move import Act
from axle.decision.next_move import next_move
from axle.decision.probability import in_range_probabilities
from axle.decision.read_twice import hump_words, read_twice
from axle.decision.remeasure import odd_places, recheck_place
from axle.decision.value_of_information import with_the_mesh_parted
from axle.layout import CarrierBy, DepthShim, Housing, Layout, Place, PreloadBy
from axle.measure.units import IMPERIAL
from axle.procedure.stations import reading_kinds
from axle.state.priors import Priors, Quantity
from axle.state.reading import Reading, average_repeats
from axle.stations.mesh import is_in_mesh, why_not_readable
from axle.stations.station_state import stand
from tests.axle.rig import IN_LB, THOU, mm
from tests.axle.test_advice import PACKS, TRIAL, standing_axle, taken
from tests.axle.test_judgement import printed

PINION_ONLY = {Place.DEPTH: PACKS[Place.DEPTH], Place.PRELOAD: PACKS[Place.PRELOAD]}


def before_the_carrier(*torques: float):
    """The pinion is in and read, nothing is fitted on the carrier's sides yet [in·lb]."""
    state = standing_axle()
    kept = [t for t in state.readings if t.kind not in ("pinion_torque", "total_torque", "backlash")]
    read = [
        taken("pinion_torque", torque * IN_LB, 50 + n, settings=PINION_ONLY)
        for n, torque in enumerate(torques)
    ]
    kept = [replace(t, settings=PINION_ONLY) if t.kind == "depth_feeler" else t for t in kept]
    return replace(state, settings=PINION_ONLY, readings=(*kept, *read))


def test_in_mesh_the_pinion_alone_cannot_be_read():
    # Common practice, no source: with the carrier in mesh a wrench turns the whole.
    state = standing_axle()
    assert is_in_mesh(state)
    assert "turns the whole" in why_not_readable("pinion_torque", state, {})
    for mesh in ("parted", "before"):
        assert why_not_readable("pinion_torque", state, {"mesh": mesh}) == ""
    assert why_not_readable("total_torque", state, {}) == ""


def test_before_the_carrier_is_in_everything_can_be_read():
    state = before_the_carrier(20)
    assert not is_in_mesh(state)
    assert why_not_readable("pinion_torque", state, {}) == ""


def test_a_mesh_that_was_parted_is_none():
    state = standing_axle()
    read = replace(taken("pinion_torque", 2.2, 90, settings=PACKS), conditions={"mesh": "parted"})
    assert not is_in_mesh(replace(state, readings=(*state.readings, read)))


def test_what_needs_a_mesh_is_data():
    kinds = reading_kinds()
    assert kinds["pinion_torque"].mesh == "parted"
    assert kinds["backlash"].mesh == kinds["total_torque"].mesh == "closed"
    assert {kind.mesh for kind in kinds.values()} == {"", "parted", "closed"}


def test_a_torque_that_decides_is_read_twice_before_the_carrier_goes_in():
    once = before_the_carrier(20)
    asked = read_twice(once, stand(once), "carrier_preload")
    assert asked.asks == (("pinion_torque", 1),)
    assert asked.again
    twice = replace(
        once, readings=tuple(replace(t, count=2) if t.kind == "pinion_torque" else t for t in once.readings)
    )
    assert read_twice(twice, stand(twice), "carrier_preload") is None


def test_two_that_differ_too_much_ask_for_a_third():
    state = before_the_carrier(20)
    apart = tuple(
        replace(t, count=2, disagrees=True) if t.kind == "pinion_torque" else t for t in state.readings
    )
    asked = read_twice(replace(state, readings=apart), stand(state), "carrier_preload")
    assert "None is thrown away" in asked.why[0]


def test_a_subtraction_on_a_narrow_range_wants_the_pinion_more_often():
    state = before_the_carrier(20)
    many = tuple(replace(t, count=2) if t.kind == "pinion_torque" else t for t in state.readings)
    state = replace(state, readings=many)
    sharp = replace(
        state, priors=Priors().told({Quantity.TORQUE_SCATTER: 0.005, Quantity.TORQUE_SHARE: 0.001})
    )
    rough = replace(state, priors=Priors().told({Quantity.TORQUE_SCATTER: 0.12}))
    assert before_mesh(sharp, IMPERIAL, stand(sharp)) is None
    assert before_mesh(rough, IMPERIAL, stand(rough)).asks == (("pinion_torque", 1),)


def test_after_a_load_the_pinion_is_read_again_while_the_carrier_is_out():
    state = standing_axle(methods=TRIAL)
    loaded = replace(state, prints=(replace(printed(state, 0), order=60),))
    apart = replace(loaded, settings={**PACKS, Place.FAR: mm(187)}, assembly=2)
    move = next_move(apart)
    assert move.asks == (("pinion_torque", 1),)
    assert "under load since" in move.why[0]


def test_what_only_a_parted_mesh_would_settle_is_named_with_its_price():
    # Loaded since it was read, the pinion may have settled: what is left nobody reads in mesh.
    state = standing_axle(methods=TRIAL)
    state = replace(state, prints=(replace(printed(state, 0), order=60),))
    now = in_range_probabilities(state)
    told = with_the_mesh_parted(state, now)
    assert told is not None
    asked, price = told
    assert asked.asks == (("pinion_torque", 1),)
    assert asked.resolution_probability > 0.15
    # costs.toml: side packs of a housing in one piece come out in an hour.
    assert price == 60


def test_readings_that_disagree_are_shown_as_what_they_may_be_of():
    apart = [
        Reading("pinion_torque", 1, value=2.2, order=1, assembly=1, settings=PINION_ONLY),
        Reading(
            "pinion_torque",
            1,
            value=3.33,
            order=2,
            assembly=1,
            settings=PINION_ONLY,
            conditions={"again": True},
        ),
    ]
    (told,) = average_repeats(apart)
    assert told.disagrees
    words = hump_words(told, IMPERIAL)
    assert "of 19.5" in words
    assert "of 29.5" in words
    assert hump_words(apart[0], IMPERIAL) == ""


def test_the_first_load_comes_after_the_torque_of_the_whole():
    # Common practice, no source: bearings settle at first load, so the torque is read before it.
    state = standing_axle()
    bare = replace(state, readings=tuple(t for t in state.readings if t.kind != "total_torque"))
    print_ = next_move(state)
    assert print_.act is Act.PRINT
    asked = before_load(bare, print_)
    assert asked.asks == (("total_torque", 1),)
    assert before_load(state, print_) == print_


def test_while_the_carrier_is_loose_the_whole_shows_the_drag_of_the_mesh():
    state = standing_axle()
    play = taken("carrier_end_play", 5 * THOU, 70, settings=PACKS)
    loose = replace(state, readings=(*(t for t in state.readings if t.kind != "total_torque"), play))
    assert drag_of_mesh(loose).asks == (("total_torque", 1),)
    assert drag_of_mesh(state) is None


def wave(*thou: float):
    state = standing_axle(lash=(9.0,))
    read = [
        replace(taken("backlash", t * THOU, 40, place=p, settings=PACKS), conditions={"places": 6})
        for p, t in enumerate(thou, start=1)
    ]
    kept = [t for t in state.readings if t.kind != "backlash"]
    return replace(state, lash_places=6, readings=(*kept, *read))


def test_a_place_off_the_wave_of_the_others_is_read_again():
    # Runout of gear and flange comes once a turn: readings around the ring lie on one wave (first harmonic).
    on = wave(9.0, 9.9, 9.9, 9.0, 8.1, 8.1)
    assert recheck_place(on) is None
    off = wave(9.0, 9.9, 9.9, 14.0, 8.1, 8.1)
    assert recheck_place(off).asks == (("backlash", 4),)
    assert "figure misread" in recheck_place(off).why[0]
    assert odd_places({1: 0.2, 2: 0.21}, off) == []


def test_one_place_that_is_misread_calls_no_pinion_bent():
    move = next_move(wave(9.0, 9.9, 9.9, 14.9, 8.1, 8.1))
    assert (move.act, move.asks) == (Act.READ, (("backlash", 4),))


@pytest.mark.parametrize("school", ["alone", "subtraction", "both_sides"])
def test_every_school_says_what_it_can_reach(school):
    told = school_chances(standing_axle(), IMPERIAL, (school,))[0]
    assert 0 < told.chance <= 1
    assert told.words


def test_read_alone_is_surer_than_a_subtraction_and_a_narrow_range_says_so():
    # JCGM 100:2008, 5.1.2: every error of a difference counts, and the ratio multiplies it.
    housing = Layout(DepthShim.CARTRIDGE, PreloadBy.SLEEVE, CarrierBy.ADJUSTERS, Housing.DROP_OUT)
    state = replace(standing_axle(), layout=housing)
    alone, less = school_chances(state, IMPERIAL, ("alone", "subtraction"))
    assert alone.chance > less.chance
    rough = replace(state, priors=Priors().told({Quantity.TORQUE_SCATTER: 0.2}))
    assert school_chances(rough, IMPERIAL, ("subtraction",))[0].narrow
    assert school_chances(state, IMPERIAL, ("tap_in_by_eye",)) == ()
