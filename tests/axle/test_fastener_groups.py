"""Groups of fasteners: at least, notes, what is assumed, the shop's own, trials."""

from __future__ import annotations

import pytest

from axle.errors import AxleError
from axle.fasteners.groups import (
    Group,
    own_group,
    torque_sheet,
)
from axle.fasteners.signing import Tightened, stand_torques
from axle.layout import Layout
from axle.measure.units import FOOT_POUND, IMPERIAL, METRIC
from axle.procedure.choices import Build
from axle.spec.sheet import Sheet, spec_value
from tests.axle.test_fasteners import ADJUSTERS, BARE, SLEEVE

# ---- at least, figures of notes, what is assumed, groups of the shop's own, trials


def by_name(layout: Layout, sheet: Sheet = BARE, corrected=None) -> dict[str, Group]:
    return {g.group: g for g in torque_sheet(Build(layout).facts, sheet, corrected)}


def test_a_sleeve_s_nut_has_a_least_torque_and_no_upper_limit_but_the_preload():
    # Common practice, no source: the figure is the least, the preload says how far the nut goes.
    nut = by_name(SLEEVE)["nut"]
    assert not nut.wanted.has_top
    assert nut.wanted.words(FOOT_POUND) == "from 140"
    assert nut.question(400 * 1.3558, "400 ft-lb") == ""
    assert nut.question(20 * 1.3558, "20 ft-lb") != ""


@pytest.mark.parametrize(("display", "said"), [(IMPERIAL, "25 ft·lb"), (METRIC, "33.9 N·m")])
def test_a_note_s_figure_is_printed_in_the_reader_s_unit(display, said):
    # 25 ft-lb are 33.9 N-m: 1 ft-lb is 1.355818 N-m (the pound-force and the foot of 1959).
    assert said in by_name(ADJUSTERS)["locks"].note_in(display)


def test_what_nobody_looked_at_is_marked_as_assumed():
    caps = by_name(SLEEVE)["caps"]
    assert "assumed" in caps.fastener
    looked = by_name(SLEEVE, corrected={"caps": {"thread": "1/2-13", "grade": "grade 8"}})["caps"]
    assert "assumed" not in looked.fastener


def test_a_metric_sheet_assumes_metric_threads():
    metric = Sheet("m", {"backlash": spec_value("backlash", "0.15", high="0.25", unit="mm", source="demo")})
    assert by_name(SLEEVE, metric)["ring"].thread.startswith("M")
    assert by_name(SLEEVE)["ring"].thread == "3/8-24"


def test_a_group_of_the_shop_s_own_is_tightened_in_its_order():
    own = {
        "own": True,
        "title": "Spring U-bolts",
        "count": 4,
        "shape": "rectangle",
        "thread": "1/2-20",
        "grade": "grade 5",
        "low": 80.0,
        "high": 100.0,
        "after": "caps",
    }
    groups = [g.group for g in torque_sheet(Build(SLEEVE).facts, BARE, {"own-1": own})]
    assert groups.index("caps") < groups.index("own-1")
    least = own_group("own-2", {k: v for k, v in own.items() if k != "high"})
    assert not least.wanted.has_top


@pytest.mark.parametrize(
    ("field", "value", "said"),
    [
        ("title", "x", "its name"),
        ("thread", "7/9-3", "thread"),
        ("count", 60, "1 to 40"),
        ("grade", "hard", "class"),
        ("low", 0.0, "lower and a higher"),
    ],
)
def test_a_group_that_cannot_be_is_refused(field, value, said):
    own = {"title": "Spindle bolts", "count": 6, "thread": "7/16-20", "grade": "grade 8"}
    own |= {"low": 60.0, "high": 70.0}
    with pytest.raises(AxleError, match=said):
        own_group("own-1", own | {field: value} | ({"high": 0.0} if field == "low" else {}))


def test_a_trial_of_three_bolts_is_signed_by_itself_and_is_no_final_stage():
    # Common practice, no source: a cartridge is tried with three of its five bolts.
    groups = tuple(by_name(ADJUSTERS).values())
    standing = {
        g.group.group: g for g in stand_torques(groups, (), layout=ADJUSTERS, settings={}, display=IMPERIAL)
    }["cartridge"]
    assert standing.trial is not None
    assert "3 of 5" in standing.trial.stage.words
    signed = [Tightened("cartridge", 0, torque=50.0, order=1, settings={})]
    after = {
        g.group.group: g
        for g in stand_torques(groups, signed, layout=ADJUSTERS, settings={}, display=IMPERIAL)
    }["cartridge"]
    assert after.trial.signed is not None
    assert after.next_stage is not None
    assert after.next_stage.stage.number == 1
