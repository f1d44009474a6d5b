"""A row for each thing that may be wrong: what is read, and what is suspected first. Common practice, no source."""

from __future__ import annotations

from dataclasses import replace

import pytest

from axle.contact.mark import By
from axle.decision.fault_checks import inconsistencies
from axle.decision.move import Act
from axle.decision.next_move import next_move
from axle.layout import Place
from axle.measure.units import IMPERIAL
from tests.axle.rig import IN_LB, THOU, mm
from tests.axle.test_advice import PACKS, TRIAL, standing_axle, taken
from tests.axle.test_edges_of_parts import sleeve_axle
from tests.axle.test_judgement import instead
from tests.axle.test_prints import printed


def again(kind: str, value: float, discrepancy: float):
    """An axle on which a torque was read twice, otherwise the second time [in·lb]."""
    reading = taken(kind, value * IN_LB, 12, settings=PACKS)
    return instead(standing_axle(), replace(reading, count=2, discrepancy=discrepancy * IN_LB))


def on_prints(*thou: float, **more):
    state = standing_axle(**more)
    prints = tuple(printed(state, deep, n) for n, deep in enumerate(thou, start=1))
    return replace(state, prints=prints)


def by_photo():
    state = on_prints(9, 9, methods=TRIAL)
    photos = []
    for made in state.prints:
        flanks = {}
        for name, flank in made.flanks.items():
            marks = {place: replace(mark, by=By.PHOTO) for place, mark in flank.marks.items()}
            flanks[name] = replace(flank, marks=marks)
        photos.append(replace(made, flanks=flanks))
    return replace(state, prints=tuple(photos))


def over_twice():
    state = sleeve_axle()
    spent = [
        replace(
            taken("pinion_torque", 40 * IN_LB, 60 + n),
            settings={**state.settings, Place.PRELOAD: n},
        )
        for n in (1, 2)
    ]
    return replace(state, settings={**state.settings, Place.PRELOAD: 2}, readings=(*state.readings, *spent))


def stiff(torque: float):
    """End play was read on a thicker pack, so that zero is known, and then a torque [in·lb]."""
    thicker = {**PACKS, Place.PRELOAD: mm(26)}
    play = taken("pinion_end_play", 3 * THOU, 2, settings=thicker)
    state = instead(standing_axle(), taken("pinion_torque", torque * IN_LB, 3, settings=PACKS))
    return replace(state, readings=(*state.readings, play))


def uneven(*lash: float):
    return instead(standing_axle(lash=lash), taken("ring_runout", 0.5 * THOU, settings=PACKS))


ROWS = [
    ("a pinion that no old pack allows", on_prints(-24, methods=TRIAL), "pattern", "slinger_out"),
    ("prints far shallower than the gauge", on_prints(-17), "pattern", "slinger_out"),
    ("prints far deeper than the gauge", on_prints(17), "pattern", "wrong_gauge"),
    ("two prints that disagree", on_prints(0, 11, methods=TRIAL), "pattern", "bad_print"),
    ("a pinion torque that fell", again("pinion_torque", 20, -8), "pinion_preload", "unseated_cup"),
    ("a pinion torque that rose", again("pinion_torque", 20, 8), "pinion_preload", "dry_bearing"),
    ("a total torque that fell", again("total_torque", 24, -8), "carrier_preload", "unseated_cup"),
    ("a total torque that rose", again("total_torque", 24, 8), "carrier_preload", "dry_bearing"),
    ("two sleeves in a row", over_twice(), "pinion_preload", "unseated_cup"),
    ("a torque far too high for its interference", stiff(95), "pinion_preload", "dry_bearing"),
    (
        "a pinion that drags more than the whole",
        instead(standing_axle(), taken("total_torque", 10 * IN_LB, 4, settings=PACKS)),
        "carrier_preload",
        "unseated_cup",
    ),
    ("backlash that varies on a true ring", uneven(8, 12.5, 8, 12.5), "backlash", "bent_pinion"),
]


@pytest.mark.parametrize(("words", "state", "station", "first"), ROWS, ids=[row[0] for row in ROWS])
def test_what_is_suspected_first(words, state, station, first):
    found = [one for one in inconsistencies(state, IMPERIAL) if one.station == station]
    assert found, words
    assert found[0].fault_hypotheses[0] == first
    assert found[0].words


def test_a_difference_that_a_hand_makes_is_no_fault():
    for discrepancy in (-1, 1):
        assert not inconsistencies(again("pinion_torque", 20, discrepancy), IMPERIAL)


def test_one_sleeve_over_is_the_hand():
    state = over_twice()
    once = tuple(t for t in state.readings if t.order != 62)
    assert not inconsistencies(replace(state, readings=once), IMPERIAL)


def test_what_lies_far_off_the_gauge_is_printed_three_times_before_anything_stops():
    for asked in (on_prints(17), on_prints(17, 17)):
        assert inconsistencies(asked, IMPERIAL)[0].again == (("print", 1),)
        assert next_move(asked).act is Act.PRINT
    often = on_prints(17, 17, 17)
    assert inconsistencies(often, IMPERIAL)[0].again == ()
    assert next_move(often).act is Act.LOOK


def test_variation_that_the_ring_gear_s_own_runout_explains_is_no_bent_pinion():
    even = instead(standing_axle(lash=(8, 12.5, 8, 12.5)), taken("ring_runout", 5 * THOU, settings=PACKS))
    assert not [one for one in inconsistencies(even, IMPERIAL) if one.station == "backlash"]


def test_prints_from_photos_do_not_stop_the_work():
    assert not [one for one in inconsistencies(by_photo(), IMPERIAL) if one.stops]


def both_ways(*figures: tuple[float, float]):
    """An axle whose pinion's torque was read both ways, so often, before the carrier went in [in·lb]."""
    means = tuple((one + other) / 2 * IN_LB for one, other in figures)
    offs = tuple((one - other) / 2 * IN_LB for one, other in figures)
    reading = replace(
        taken("pinion_torque", sorted(figures)[len(figures) // 2][0] * IN_LB, 60, settings=PACKS),
        values=means,
        offs=offs,
        count=len(figures),
        conditions={"both": [figures[-1][0] * IN_LB, figures[-1][1] * IN_LB]},
    )
    kept = [
        t for t in standing_axle().readings if t.kind not in ("pinion_torque", "total_torque", "backlash")
    ]
    return replace(standing_axle(), readings=(*kept, reading))


def of_pinion(state):
    return [t for t in inconsistencies(state, IMPERIAL) if t.station == "pinion_preload"]


def test_a_torque_that_never_comes_back_is_dirt():
    # Common practice, no source: clean bearings turn alike both ways and every time.
    (found,) = of_pinion(both_ways((26, 18), (17, 25), (24, 17), (18, 27)))
    assert found.fault_hypotheses[0] == "dry_bearing"
    assert found.stops


def test_two_figures_misread_in_eight_are_not():
    # A ten and a five read for another figure, once each way: the other six agree to a half.
    found = of_pinion(both_ways((31.5, 21.5), (21.5, 22), (21.5, 27), (21.5, 22.5)))
    assert not any(t.stops for t in found)


def test_one_figure_misread_is_read_again_before_anything_is_said():
    (found,) = of_pinion(both_ways((31.5, 21.5)))
    assert found.again == (("pinion_torque", 1),)
    assert not found.stops
