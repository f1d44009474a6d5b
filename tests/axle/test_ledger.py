"""Money by worked accounts, parts by their rules."""

from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from axle.errors import AxleError
from axle.layout import CarrierBy, DepthShim, Layout, PreloadBy, every_layout
from axle.ledger.estimate import small_things, work_lines
from axle.ledger.standing import JobMoney, standing
from axle.ledger.sums import Group, Line, Terms, add_up, against, parse_amount, rounded
from axle.parts.bill import bill, kit_savings, parts, prompts, steps_waiting
from axle.parts.lines import LineState, change, following, received
from axle.parts.shims_to_buy import shims_to_buy
from axle.procedure.choices import Build
from axle.procedure.findings import Found
from axle.procedure.sequence import plan
from axle.shims.pieces import Piece

D = Decimal


def test_a_worked_account():
    """By hand: 8.5 h at 72.00 is 612.00; two bearings at 38.50 and 22 % are 93.94; 3 % of the work 18.36;
    a claim of 12.60 back; net 711.70, tax 20 % 142.34, gross 854.04; a deposit of 30 % is 256.21."""
    terms = Terms({"builder": D(72)}, margin=D(22), consumables=D(3), tax=D(20), deposit=D(30))
    assert terms.charged(D("38.50")) == D("46.97")
    lines = [
        Line(Group.WORK, "Work", D("8.5"), "h", D(72)),
        Line(Group.PARTS, "Carrier bearing", D(2), "", terms.charged(D("38.50"))),
        Line(Group.CONSUMABLES, "Small things", D(1), "", rounded(D("612.00") * 3 / 100)),
        Line(Group.OTHER, "Claim settled", D(1), "", D("12.60"), credit=True),
    ]
    totals = add_up(lines, terms, paid=D("256.21"))
    assert (totals.net, totals.tax, totals.gross) == (D("711.70"), D("142.34"), D("854.04"))
    assert totals.deposit == D("256.21")
    assert totals.due == D("597.83")
    assert totals.groups[Group.OTHER] == D("-12.60")


def test_the_range_of_an_estimate_by_hand():
    """8 h, 6 to 11, at 50.00 and a part of 100.00; tax 20 %: 600 less 120, at most 780."""
    lines = [
        Line(Group.WORK, "Work", D(8), "h", D(50), low=D(6), high=D(11)),
        Line(Group.PARTS, "Gears", D(1), "", D(100)),
    ]
    totals = add_up(lines, Terms({}, tax=D(20)))
    assert (totals.least, totals.gross, totals.most) == (D("480.00"), D("600.00"), D("780.00"))


def test_hours_are_shared_out_by_stage_and_by_role():
    """By hand: 60 of 120 minutes of 4 h are 2 h at 72; 30 are 1 h at 38 and 1 h without a rate at 50."""
    minutes = {("Set", "builder"): 60.0, ("Set", "apprentice"): 30.0, ("Close", ""): 30.0}
    lines = list(work_lines(minutes, (2.0, 4.0, 8.0), {"builder": D(72), "apprentice": D(38)}, usual=D(50)))
    assert [(line.words, line.amount) for line in lines] == [
        ("Set, builder", D("144.00")),
        ("Set, apprentice", D("38.00")),
        ("Close", D("50.00")),
    ]
    assert sum(line.low for line in lines) == 2
    assert sum(line.high for line in lines) == 8
    half = list(work_lines(minutes, (2.0, 4.0, 8.0), {}, usual=D(50), fixed=120.0))
    assert sum(line.quantity for line in half) == 2


def test_without_work_there_is_no_line_and_without_a_share_no_small_things():
    assert list(work_lines({}, (0.0, 0.0, 0.0), {}, usual=D(50))) == []
    assert small_things(D(0), Terms({}, consumables=D(3))) is None
    assert small_things(D(100), Terms({})) is None


@given(st.lists(st.tuples(st.integers(0, 999), st.integers(0, 99999)), max_size=12))
def test_a_sum_is_the_sum_of_its_lines_and_of_its_groups(rows):
    groups = list(Group)
    lines = [
        Line(groups[n % len(groups)], "line", D(quantity) / 100, "", D(price) / 100)
        for n, (quantity, price) in enumerate(rows)
    ]
    totals = add_up(lines, Terms({}, tax=D("19")))
    assert totals.net == sum((line.amount for line in lines), D(0)) == sum(totals.groups.values(), D(0))
    assert totals.gross == totals.net + totals.tax
    assert abs(totals.tax - totals.net * D("0.19")) <= D("0.005")


@pytest.mark.parametrize(
    ("text", "amount"),
    [
        ("1.249,50", "1249.50"),
        ("1,249.50", "1249.50"),
        ("12", "12.00"),
        ("0,5", "0.50"),
        ("1’000", "1000.00"),
    ],
)
def test_amounts_are_read_in_both_forms(text, amount):
    assert parse_amount(text, "price") == D(amount)


@pytest.mark.parametrize("text", ["", "twelve", "-5", "NaN", "Infinity", "1e9", "9" * 14, "1.2.3"])
def test_what_is_no_amount_is_refused_in_words(text):
    with pytest.raises(AxleError, match="wanted"):
        parse_amount(text, "price")


def test_a_price_below_nothing_and_terms_beyond_sense_are_refused():
    with pytest.raises(AxleError, match="credit"):
        Line(Group.PARTS, "seal", D(1), "", D(-1))
    for field in ("margin", "tax", "deposit", "consumables"):
        with pytest.raises(AxleError, match=field):
            Terms({}, **{field: D(301)})
    with pytest.raises(AxleError, match="rate"):
        Terms({"builder": D(-1)})


def test_half_a_cent_goes_up():
    """Commercial rounding, DIN 1333."""
    assert [rounded(D(text)) for text in ("0.005", "1.004", "2.675")] == [D("0.01"), D("1.00"), D("2.68")]


def test_estimate_against_what_came():
    rows = against({"Set": D(4), "Close": D(2)}, {"Set": D(5), "Road": D(1)})
    assert [(row.what, row.over) for row in rows] == [("Set", D(1)), ("Close", D(-2)), ("Road", D(1))]


def test_the_shop_as_a_whole_by_hand():
    jobs = [
        JobMoney(
            "1", {1: D(5), 2: D("1.5")}, sold=D(6), charged=D(100), paid=D(40), moves=("depth", "depth")
        ),
        JobMoney("2", {1: D(4)}, parts=((D(10), D(2)),), moves=("backlash",)),
    ]
    found = standing(jobs, jobs)
    assert (found.sold, found.worked, found.again, found.parts) == (D(6), D("10.5"), D("1.5"), D(20))
    assert found.due == (("1", D(60)),)
    assert found.stations[0] == ("depth", 2)


def bill_of(layout, found=(), **chosen):
    build = Build(layout, chosen=chosen)
    laid = plan(build)
    return {line.part.part: line for line in bill(laid.facts, found, laid)}


SLEEVE = Layout(DepthShim.HEAD, PreloadBy.SLEEVE, CarrierBy.OUTBOARD)


def test_what_is_new_by_rule():
    """Common practice, no source: seals, nuts and sleeves are single use."""
    lines = bill_of(SLEEVE)
    assert {"sleeve", "pinion_nut", "pinion_seal", "sealant", "oil", "gear_set"} <= set(lines)
    assert "modifier" not in lines
    assert "modifier" in bill_of(SLEEVE, differential="clutch")
    spacer = Layout(DepthShim.HEAD, PreloadBy.SPACER, CarrierBy.OUTBOARD)
    assert "sleeve" not in bill_of(spacer)
    assert "ring_bolts" in bill_of(SLEEVE, ring_bolts="dry_patch")
    assert "lock_tabs" in bill_of(Layout(DepthShim.CARTRIDGE, PreloadBy.SLEEVE, CarrierBy.ADJUSTERS))


def test_a_finding_asks_for_its_part_and_says_so():
    lines = bill_of(
        SLEEVE, [Found("carrier_left", "rust", decision="replace", reason="water line")], gears="used"
    )
    assert lines["bearing_carrier"].why.startswith("found: Carrier bearing")
    assert "gear_set" not in lines


def test_every_layout_has_a_bill_whose_lines_hold_steps():
    for layout in every_layout():
        laid = plan(Build(layout))
        for line in bill(laid.facts, (), laid):
            assert line.quantity > 0
            if line.part.tools:
                assert steps_waiting(line.part.part, laid.steps)
    assert prompts(bill(laid.facts, (), laid))
    assert steps_waiting("no such part", laid.steps) == ()


def test_a_kit_is_counted_by_what_is_wanted_of_it():
    """By hand: 41.20 + 33.80 + 2 · 38.50 = 152.00 against 140.00; what is not wanted saves nothing."""
    wanted = {"bearing_inner": 1, "bearing_outer": 1, "bearing_carrier": 2}
    holds = {**wanted, "pinion_seal": 1}
    prices = {"bearing_inner": 41.2, "bearing_outer": 33.8, "bearing_carrier": 38.5, "pinion_seal": 12.6}
    (saving,) = kit_savings(wanted, [("kit", holds, 140.0)], prices)
    assert saving.saves == pytest.approx(12.0)
    assert kit_savings({"pinion_seal": 1}, [("kit", holds, 140.0)], prices) == ()


def test_a_line_goes_its_way_and_no_other():
    assert change("seal", LineState.NEEDED, LineState.ORDERED) is LineState.ORDERED
    for state, to in ((LineState.NEEDED, LineState.FITTED), (LineState.RETURNED, LineState.HERE)):
        with pytest.raises(AxleError, match="to become"):
            change("seal", state, to)
    for state in LineState:
        assert state not in following(state)


def test_more_than_was_ordered_is_refused_in_words():
    assert received("seal", 3, 0, 2) is LineState.ON_ITS_WAY
    assert received("seal", 3, 2, 1) is LineState.HERE
    with pytest.raises(AxleError, match="3 ordered, 2 here already"):
        received("seal", 3, 2, 2)
    with pytest.raises(AxleError, match="0 delivered"):
        received("seal", 3, 2, 0)


def test_the_shim_to_buy_closes_most_of_what_cannot_be_made():
    """By hand: 0.5 and 0.3 leave 0.35 to 0.45 and 0.55 to 0.60 open; 0.1 makes 0.4 and 0.6, 0.02 closes a part."""
    drawer = [Piece(1, D("0.5")), Piece(2, D("0.3"))]
    found = shims_to_buy(
        drawer, [D("0.1"), D("0.02")], low=D("0.3"), high=D("0.6"), close=D("0.05"), most=1
    )
    assert [(shim.size, shim.closes) for shim in found] == [(D("0.1"), D("0.15"))]
    assert shims_to_buy(drawer, [], low=D("0.3"), high=D("1.0"), close=D("0.05")) == ()
    assert parts()["depth_shims"].kind.value == "shim"
