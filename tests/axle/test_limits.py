"""Limits as sheets print them: ends included in every unit, one end open, one figure, two manuals."""

from __future__ import annotations

import math
from dataclasses import replace
from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from axle.backlash.around import Around, check_backlash
from axle.carrier.schools import usual_interference
from axle.decision.next_move import next_move
from axle.errors import AxleError
from axle.fasteners.groups import torque_sheet
from axle.layout import CarrierBy, DepthShim, Housing, Layout, Place, PreloadBy
from axle.measure.parse import parse
from axle.measure.range import Range
from axle.measure.units import FOOT_POUND, INCH_POUND, MM, THOU, UNITS, Dimension
from axle.measure.units import IMPERIAL as SHOWN
from axle.preload.bites import Bite, BiteVerdict, next_bite
from axle.procedure.choices import Build
from axle.procedure.sequence import plan
from axle.procedure.stations import reading_kinds
from axle.spec.limits import BacklashLimits
from axle.spec.reader import read_spec, starter_specs
from axle.spec.sheet import Sheet, SpecValue, spec_keys, spec_value
from axle.state.axle_state import AxleState
from axle.state.reading import Reading
from axle.stations.station_state import Status, stand
from tests.axle.rig import SHEET, drawer, mm
from tests.axle.test_advice import LAYOUTS, PACKS, standing_axle

LENGTHS = [u for u in UNITS if u.dimension is Dimension.LENGTH]
TORQUES = [u for u in UNITS if u.dimension is Dimension.TORQUE]
figures = st.decimals("0.1", "400", places=3).filter(lambda d: d > 0)
# What a reading is kept to in the records: eight places of the core's unit.
kept = Decimal("1e-8")


def given_as(key: str, low: str | None, high: str | None, unit: str, **more: str) -> Sheet:
    return replace(
        SHEET,
        values={**SHEET.values, key: spec_value(key, low, high=high, unit=unit, source="maker", **more)},
    )


@given(st.sampled_from(LENGTHS + TORQUES), figures, figures)
def test_a_figure_typed_as_a_limit_is_in_range_when_it_is_typed_as_a_reading(unit, one, other):
    """Common practice, no source: limits are inclusive, whatever the unit and the figure."""
    low, high = sorted((one, other))
    key = "backlash" if unit.dimension is Dimension.LENGTH else "pinion_preload_new"
    limits = given_as(key, str(low), str(high), unit.symbol).range(key)
    for text in (low, high):
        stored = float(parse(f"{text} {unit.symbol}", unit).core.quantize(kept))
        assert limits.side(stored) == "in range"
        if unit.dimension is Dimension.LENGTH:
            around = check_backlash(
                Around({1: stored, 2: stored}), BacklashLimits(limits.low, limits.high, 1.0)
            )
            assert around.level == "in range"
        else:
            assert next_bite([Bite(stored)], limits.low, limits.high).verdict is BiteVerdict.STOP


@pytest.mark.parametrize(("figure", "low", "high"), [("16", "16", "30"), ("25", "15", "25")])
def test_a_pinion_on_its_limit_in_inch_pounds_is_in_range(figure, low, high):
    # Both ends of usual ranges of sleeve axles (common practice, no source).
    sheet = given_as("pinion_preload_new", low, high, "in-lb")
    value = float(parse(figure, INCH_POUND).core.quantize(kept))
    sleeve = Layout(DepthShim.HEAD, PreloadBy.SLEEVE, CarrierBy.OUTBOARD)
    read = (Reading("pinion_torque", 1, value=value, order=1, assembly=1, settings={}),)
    base = standing_axle()
    state = AxleState(sleeve, base.gears, sheet, readings=read)
    assert stand(state)["pinion_preload"].result.words == "in range"


def test_the_schools_take_the_trade_s_own_figures_at_both_ends():
    # Common practice, no source: 5 or 8 thou on the far side alone; 1 to 3 thou past zero play.
    for school, low, high in (("one_side", 5, 8), ("holes", 1, 3), ("both_sides", 10, 14)):
        usual = usual_interference()[school]
        for thou in (low, high):
            assert Range(usual.low, usual.high).side(float(mm(thou))) == "in range", school


@pytest.mark.parametrize("symbol", ["thou", "mm"])
def test_pieces_typed_and_added_up_reach_a_limit_of_interference(symbol):
    sizes = {"thou": ("3.1", "4.9", "8"), "mm": ("0.07", "0.13", "0.2")}[symbol]
    unit = THOU if symbol == "thou" else MM
    total = sum(parse(size, unit).core for size in sizes[:2])
    limits = given_as("carrier_interference", "0", sizes[2], symbol).range("carrier_interference")
    assert limits.side(float(total)) == "in range"


# ---- one end open, one figure


ENDS = [("at least", ("7", None)), ("at most", (None, "7")), ("one", ("7", "7")), ("nil", ("0", "0"))]


@pytest.mark.parametrize("layout", LAYOUTS[::5], ids=str)
@pytest.mark.parametrize(("_name", "ends"), ENDS)
def test_no_sheet_of_one_end_stops_an_axle_on_any_layout(layout, _name, ends):
    """Every key at once with one end: each reading is judged, and a move follows."""
    values = {}
    for key, known in spec_keys().items():
        unit = {Dimension.LENGTH: "thou", Dimension.TORQUE: "in·lb", Dimension.COUNT: "holes"}[
            known.dimension
        ]
        if known.has_low:
            values[key] = spec_value(key, *ends, "ft·lb" if known.bolt else unit, "maker")
        elif key.startswith("backlash"):
            values[key] = spec_value(key, None, high="3", unit=unit, source="maker")
    sheet = replace(SHEET, values=values)
    readings = [
        Reading(name, place, value=float(value), order=n * 10 + place, assembly=1, settings=PACKS)
        for n, (name, kind) in enumerate(reading_kinds().items())
        if not kind.grades and not name.endswith("_run")
        for value in [max(float(kind.plausible.low), float(kind.plausible.high) / 4)]
        for place in range(1, kind.places + 1)
    ]
    more = {"drawer": {place: drawer() for place in Place}, "settings": PACKS}
    state = AxleState(layout, standing_axle().gears, sheet, readings=tuple(readings), **more)
    assert stand(state)
    assert next_move(state).title


@pytest.mark.parametrize(("low", "high"), [("40", None), (None, "25"), ("45", "45")])
@pytest.mark.parametrize("starter", sorted(starter_specs()))
def test_the_torque_sheet_of_a_maker_who_prints_one_end_can_be_worked(starter, low, high):
    spec = read_spec(starter_specs()[starter])
    bolts = {
        key: spec_value(key, low, high=high, unit="ft-lb", source="maker")
        for key, k in spec_keys().items()
        if k.bolt
    }
    facts = plan(Build(spec.layout, new_bearings=True, chosen={})).facts
    for group in torque_sheet(facts, replace(spec.sheet, values={**spec.sheet.values, **bolts})):
        last = group.targets(SHOWN)[-1]
        assert last.wanted.holds(float(((low and 45) or 20) * FOOT_POUND.factor)), group.title
        assert "inf" not in last.figures


def test_one_figure_has_the_tolerance_that_is_said_or_what_is_usual():
    """JCGM 100 knows no figure without a tolerance; which one is usual is common practice, no source."""
    alone = given_as("carrier_preload", "0.5", "0.5", "N·m").range("carrier_preload")
    assert (alone.aim, alone.side(0.45), alone.side(0.7)) == (0.5, "in range", "over")
    said = given_as("carrier_preload", "0.5", "0.5", "N·m", tolerance="0.02").range("carrier_preload")
    assert (said.side(0.48), said.side(0.47)) == ("in range", "under")
    assert said.words(INCH_POUND) == "4.4 ± 0.2"
    lash = given_as("backlash", "8", "8", "thou").backlash_limits()
    assert (lash.level(7 * 0.0254, 0), lash.level(6.9 * 0.0254, 0)) == ("in range", "tight")


def test_zero_float_is_neither_preload_nor_play_to_what_a_bench_can_tell():
    floated = Layout(
        DepthShim.HEAD, PreloadBy.SLEEVE, carrier_by=CarrierBy.ADJUSTERS, housing=Housing.DROP_OUT
    )
    sheet = given_as("carrier_interference", "0", "0", "thou")
    packs = {Place.DEPTH: mm(29), Place.RING: Decimal(0), Place.FAR: Decimal(0)}
    read = Reading("zero_play", 1, value=0.01, order=1, assembly=1, settings=packs)
    state = AxleState(
        floated,
        standing_axle().gears,
        sheet,
        readings=(read,),
        settings=packs,
        school="zero_float",
        methods={"carrier_preload": "packs"},
    )
    assert stand(state)["carrier_preload"].status is Status.IN_RANGE
    loose = replace(state, readings=(replace(read, value=0.06),))
    assert stand(loose)["carrier_preload"].result.words == "end play"


def test_open_ends_say_so_and_aim_inside():
    least, most = Range(0.8, math.inf), Range(0.0, 0.8)
    assert least.words(THOU).startswith("from ")
    assert most.words(THOU).startswith("up to ")
    assert least.holds(least.aim)
    assert most.holds(most.aim)
    assert least.side(9.0) == "in range"


# ---- two manuals


def test_of_two_manuals_the_one_in_force_is_named_and_the_other_is_kept():
    row = {"low": "15", "high": "25", "unit": "in·lb", "source": "maker", "note": "1998 book"}
    second = {"low": "20", "high": "30", "unit": "in·lb", "source": "published", "note": "handbook"}
    data = starter_specs()["works-van"]
    for force, low, source in (
        ("first", 15, "maker's sheet, 1998 book"),
        ("second", 20, "published, handbook"),
    ):
        values = {**data["values"], "pinion_preload_new": row | {"second": second, "in_force": force}}
        sheet = read_spec({**data, "values": values}).sheet
        assert sheet.range("pinion_preload_new").low == pytest.approx(low * float(INCH_POUND.factor))
        assert sheet.source("pinion_preload_new") == source
        assert sheet.not_in_force("pinion_preload_new").source_words != source
    assert sheet.not_in_force("backlash") is None


@pytest.mark.parametrize(
    ("given", "words"),
    [
        (
            {"low": Decimal(7), "high": Decimal(9), "tolerance": Decimal(1)},
            "one figure, the same as low and as high",
        ),
        (
            {"low": Decimal(7), "high": Decimal(9), "by_second": True},
            "the figures that are said to be in force",
        ),
        ({"low": None, "high": Decimal(9), "tolerance": Decimal(-1)}, "0 or more is wanted"),
    ],
)
def test_a_row_that_contradicts_itself_is_refused(given, words):
    source = spec_value("backlash", "7", high="9", unit="thou", source="maker").source
    with pytest.raises(AxleError, match=words):
        SpecValue(unit=THOU, source=source, **given)
