"""What a job covers: stations left out ask nothing, places left alone are never changed, a signed verdict."""

from __future__ import annotations

from dataclasses import replace
from decimal import Decimal

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from axle.decision.move import Act
from axle.decision.next_move import next_move
from axle.decision.policy import is_together
from axle.errors import AxleError
from axle.fasteners.groups import torque_sheet
from axle.layout import CarrierBy, Place
from axle.measure.units import IMPERIAL
from axle.procedure.choices import Build
from axle.procedure.findings import Found, not_looked_at, parts
from axle.procedure.register import items, items_of, open_items
from axle.procedure.scope import scope_of, scopes
from axle.procedure.sequence import plan, too_early
from axle.procedure.stations import stations
from axle.procedure.steps import steps
from axle.spec.sheet import spec_value
from axle.stations.inspection import InspectionVerdict, check, reuse
from axle.stations.station_state import Status, stand
from benchmarks.closed_loop.shop import LAYOUTS
from tests.axle.rig import SHEET, THOU, drawer, mm
from tests.axle.test_advice import PACKS, taken, with_print
from tests.axle.test_lash import bare, by, lash
from tests.shares import share_of

PINION = (Place.DEPTH, Place.PRELOAD)


def covering(state, scope: str):
    """The state of a job that covers so much, as the bridge hands it on."""
    what = scopes()[scope]
    order = plan(Build(state.layout, scope=scope)).stations
    return replace(state, not_part=what.without, fixed=what.fixed, stations=order)


def test_every_scope_names_what_there_is():
    for scope in scopes().values():
        assert scope.without <= set(stations())
        assert scope.steps <= set(steps())
        assert scope.parts <= set(parts())
        assert scope.items <= set(items())


@pytest.mark.parametrize("scope", scopes())
@pytest.mark.parametrize("layout", LAYOUTS, ids=str)
def test_what_is_left_out_asks_for_nothing(layout, scope):
    build = Build(layout, scope=scope)
    laid, left = plan(build), scopes()[scope]
    assert set(laid.stations) == set(stations()), "a station left out is shown as left out"
    assert not {step.station for step in laid.steps} & left.without
    assert not too_early(laid)
    assert not {item.item for item in items_of(build.facts)} & left.items
    assert not {group.group for group in torque_sheet(build.facts, SHEET)} & left.groups
    state = covering(replace(bare(), layout=layout, drawer={}), scope)
    standings = stand(state)
    for name in left.without & set(standings):
        assert standings[name].status is Status.NOT_PART
        assert standings[name].is_done
        assert not standings[name].missing
    assert next_move(state).station not in left.without


@pytest.mark.parametrize("scope", ["pinion_set", "carrier"])
@settings(max_examples=share_of(100, 40))
@given(
    layout=st.sampled_from(LAYOUTS),
    far=st.integers(-14, 14),
    backlash=st.integers(1, 24),
    height=st.floats(0.1, 0.6),
)
def test_a_pinion_that_others_set_is_never_moved(scope, layout, far, backlash, height):
    ring = PACKS[Place.RING] if not layout.has_adjusters else Decimal(0)
    settings = {p: v for p, v in PACKS.items() if p not in PINION}
    settings[Place.RING] = ring
    settings[Place.FAR] = ring + mm(far) if not layout.has_adjusters else Decimal(far)
    shims = {p: drawer() for p in (Place.DEPTH, Place.PRELOAD, Place.RING, Place.FAR)}
    state = replace(bare(), layout=layout, drawer=shims, settings=settings, sheet=SHEET)
    state = covering(with_print(lash(state, *[float(backlash)] * 4), (height, height + 0.35)), scope)
    move = next_move(state)
    assert not {s.place for s in move.swaps} & set(PINION)
    assert move.then is None or not {s.place for s in move.then.swaps} & set(PINION)
    if move.act is Act.READ:
        assert move.station not in scopes()[scope].without


def test_advice_of_a_carrier_job_begins_at_the_carrier():
    shims = {p: drawer() for p in (Place.RING, Place.FAR)}
    settings = {p: v for p, v in PACKS.items() if p not in PINION}
    state = lash(
        replace(bare(), layout=by(CarrierBy.OUTBOARD), drawer=shims, settings=settings), 3, 3, 3, 3
    )
    state = covering(
        replace(
            state,
            sheet=SHEET,
            readings=(*state.readings, taken("carrier_torque", 1.9, order=99, settings=settings)),
        ),
        "carrier",
    )
    assert is_together(state, stand(state))
    move = next_move(state)
    assert {s.place for s in move.swaps} <= {Place.RING, Place.FAR}


def test_a_print_against_a_pinion_that_others_set_names_it_and_moves_nothing():
    shims = {p: drawer() for p in PACKS}
    state = lash(replace(bare(), layout=by(CarrierBy.OUTBOARD), drawer=shims, settings=PACKS), 9, 9, 9, 9)
    read = (*state.readings, taken("carrier_torque", 1.9, order=99, settings=PACKS))
    state = covering(with_print(replace(state, sheet=SHEET, readings=read), (0.02, 0.4)), "pinion_set")
    move = next_move(state)
    assert move.act in (Act.LOOK, Act.PRINT, Act.READ)
    assert not move.swaps


def test_parts_left_out_are_not_waited_for():
    assert not [line for line in not_looked_at((), scopes()["carrier"].parts) if "Pinion" in line]
    assert [line for line in not_looked_at(()) if "Pinion" in line]
    facts = Build(LAYOUTS[0], scope="bare").facts
    assert open_items("back", facts, ()) == open_items("shims", facts, ()) == ()
    assert scope_of({}).scope == "whole"


def test_an_inspection_holds_what_was_read_to_the_limits_for_using_it_on():
    reuse_limits = {
        "reuse_backlash": spec_value("reuse_backlash", "5", high="16", unit="thou", source="demo")
    }
    sheet = replace(SHEET, values={**SHEET.values, **reuse_limits})
    read = (taken("arrival_side_play", 0.05), taken("arrival_backlash", 18 * THOU))
    state = covering(replace(bare(), sheet=sheet, readings=read), "inspection")
    found = [Found("pinion_outer", "flaked", decision="replace", reason="pitted race")]
    reuse_lines = reuse(state, found, IMPERIAL)
    out = [line.words for line in reuse_lines if line.is_out]
    assert [w for w in out if w.startswith("Side play") or "side play" in w.lower()]
    assert [w for w in out if "18.0 thou" in w and "5" in w and "16" in w]
    assert [w for w in out if "pitted race" in w]
    assert [line for line in reuse_lines if "not looked at" in line.words and not line.is_out]
    with pytest.raises(AxleError, match="Beyond its limit"):
        check(InspectionVerdict("serviceable", until="spring"), reuse_lines)
    check(InspectionVerdict("serviceable", "new outer bearing", "spring"), reuse_lines)
    check(InspectionVerdict("not"), reuse_lines)


@pytest.mark.parametrize(
    ("given", "said"),
    [
        (("fine",), "serviceable"),
        (("work", "", "spring"), "the work that has to be done"),
        (("serviceable",), "a date, a distance"),
    ],
)
def test_a_verdict_without_what_it_needs_is_refused(given, said):
    with pytest.raises(AxleError, match=said):
        InspectionVerdict(*given)


def test_a_verdict_is_written_as_it_is_signed():
    assert InspectionVerdict("work", "new seals", "next service").lines == (
        "Serviceable once the work is done.",
        "With: new seals.",
        "Until: next service.",
    )
