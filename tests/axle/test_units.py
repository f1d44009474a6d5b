"""Units and what a builder types, held to the exact definitions."""

from __future__ import annotations

from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from axle.errors import AxleError
from axle.measure.parse import Plausible, echo, parse, parse_warming, question, unit_named
from axle.measure.units import (
    FOOT_POUND,
    HOLE,
    HUNDREDTH_MM,
    IMPERIAL,
    INCH,
    INCH_POUND,
    METRIC,
    MM,
    NEWTON_METRE,
    THOU,
    UNITS,
    Dimension,
    brief,
    show,
)

ROTATING = Plausible(Decimal("0.2"), Decimal(6))
LASH = Plausible(Decimal(0), Decimal("0.8"))


@pytest.mark.parametrize(
    ("unit", "factor"),
    [
        # NIST SP 811 (2008), appendix B.8: inch 2.54 E-02 m exactly, mil 2.54 E-05 m exactly,
        # pound-force inch 1.129848 E-01 N·m, pound-force foot 1.355818 E+00 N·m.
        (INCH, "25.4"),
        (THOU, "0.0254"),
        (MM, "1"),
        (HUNDREDTH_MM, "0.01"),
        (INCH_POUND, "0.1129848"),
        (FOOT_POUND, "1.355818"),
        (NEWTON_METRE, "1"),
    ],
)
def test_factors_nist_sp_811(unit, factor):
    places = Decimal(1).scaleb(Decimal(factor).as_tuple().exponent)
    assert unit.factor.quantize(places) == Decimal(factor)


def test_a_foot_pound_is_twelve_inch_pounds():
    # Definition of the foot; "people invert it" (common practice, no source).
    assert FOOT_POUND.factor == 12 * INCH_POUND.factor


def test_a_pound_force_inch_from_its_definition():
    # 1 lb = 0.453 592 37 kg (international yard and pound agreement, 1959), g_n = 9.806 65 m/s2
    # (3rd CGPM, 1901), 1 in = 0.0254 m.
    exact = Decimal("0.45359237") * Decimal("9.80665") * Decimal("0.0254")
    assert INCH_POUND.factor == exact


@pytest.mark.parametrize(
    ("typed", "default", "core", "symbol"),
    [
        ("8.5", THOU, "0.2159", "thou"),
        (".0085", THOU, "0.2159", "in"),
        ("0.0085", THOU, "0.2159", "in"),
        ("8.5 thou", MM, "0.2159", "thou"),
        ("0.22 mm", THOU, "0.22", "mm"),
        ("0.22mm", THOU, "0.22", "mm"),
        ("  11  ", THOU, "0.2794", "thou"),
        ("+3", THOU, "0.0762", "thou"),
        ("\N{MINUS SIGN}2", THOU, "-0.0508", "thou"),
        ("-0", THOU, "0", "thou"),
        ("-0.000", THOU, "0", "thou"),
        ("0", THOU, "0", "thou"),
        ("5 1/100mm", THOU, "0.05", "1/100 mm"),
        ("5 hundredths", THOU, "0.05", "1/100 mm"),
        ('0.029"', MM, "0.7366", "in"),
        ("29 mils", MM, "0.7366", "thou"),
        ("2.", THOU, "0.0508", "thou"),
        ("60", FOOT_POUND, "81.34907689", "ft·lb"),
        ("2 N·m", INCH_POUND, "2", "N·m"),
        ("2 Nm", INCH_POUND, "2", "N·m"),
        ("12 in-lb", FOOT_POUND, "1.355817948", "in·lb"),
        ("12 IN LBS", FOOT_POUND, "1.355817948", "in·lb"),
        ("1 lb-ft", INCH_POUND, "1.355817948", "ft·lb"),
        ("2.5", HOLE, "2.5", "holes"),
        ("1 hole", HOLE, "1", "holes"),
    ],
)
def test_what_builders_type(typed, default, core, symbol):
    quantity = parse(typed, default)
    assert quantity.unit.symbol == symbol
    assert quantity.core == pytest.approx(Decimal(core), abs=Decimal("1e-8"))
    assert quantity.text == typed.strip()


@pytest.mark.parametrize(
    ("typed", "words"),
    [
        ("", "nothing was given"),
        ("   ", "nothing was given"),
        ("tight", "“tight” was given"),
        ("8.5 parsecs", "the unit “parsecs” was given"),
        ("8.5 N·m", "a length in thou is wanted"),
        ("8,500", "Write the decimal point as a point."),
        ("1e3", "the unit “e3” was given"),
        ("--3", "“--3” was given"),
        ("3/8", "the unit “/8” was given"),
        ("99999999", "less than 1,000,000 thou is wanted"),
        ("9" * 60, "a number in thou"),
        ("nan", "“nan” was given"),
        ("inf", "“inf” was given"),
        ("8.5\x00", "is wanted"),
        ("٣", "is wanted"),
    ],
)
def test_what_cannot_be_a_length_is_refused_in_words(typed, words):
    with pytest.raises(AxleError) as refused:
        parse(typed, THOU, "backlash")
    assert words in str(refused.value)
    assert str(refused.value).startswith("backlash: ")


def test_an_error_keeps_its_parts():
    with pytest.raises(AxleError) as refused:
        parse("tight", THOU, "backlash")
    assert refused.value.what == "backlash"
    assert refused.value.given == "“tight”"
    assert refused.value.wanted == "a number in thou, such as 8.5"


@pytest.mark.parametrize(
    ("typed", "default", "plausible", "asked", "meant"),
    [
        # Common practice, no source: in·lb for ft·lb, hundredths of a millimetre for thou.
        ("19 ft-lb", INCH_POUND, ROTATING, "Did you mean 19 in·lb?", "in·lb"),
        ("0.2 in", THOU, LASH, "Did you mean 0.2 mm?", "mm"),
        ("90 in", THOU, LASH, "Usual is", None),
        ("900", INCH_POUND, ROTATING, "Usual is 1.8 to 53.1 in·lb.", None),
    ],
)
def test_unusual_magnitudes_are_questioned(typed, default, plausible, asked, meant):
    doubt = question(parse(typed, default), plausible)
    assert doubt is not None
    words, unit = doubt
    if meant is None:
        assert asked in words
    else:
        assert words.startswith(f"{typed.split()[0]} ")
        assert unit is not None


@pytest.mark.parametrize("typed", ["8.5", ".0085", "0.2 mm", "0"])
def test_usual_magnitudes_are_not_questioned(typed):
    assert question(parse(typed, THOU), LASH) is None


@pytest.mark.parametrize(
    ("typed", "default", "both"),
    [
        ("11.6", THOU, "0.0116 in · 0.295 mm"),
        ("0.295 mm", THOU, "0.0116 in · 0.295 mm"),
        ("22", INCH_POUND, "22.0 in·lb · 2.49 N·m"),
        ("60", FOOT_POUND, "60 ft·lb · 81.35 N·m"),
        ("2", HOLE, "2.0 holes"),
    ],
)
def test_both_systems_are_echoed(typed, default, both):
    assert echo(parse(typed, default)) == both


@pytest.mark.parametrize(
    ("core", "unit", "sign", "shown"),
    [
        (0.2159, THOU, False, "8.5"),
        (-0.0762, THOU, True, "\N{MINUS SIGN}3.0"),
        (0.0762, THOU, True, "+3.0"),
        (-0.0001, THOU, False, "0.0"),
        (-0.0001, THOU, True, "+0.0"),
        (Decimal("0.7366"), INCH, False, "0.0290"),
        (2.2597, INCH_POUND, False, "20.0"),
        (0.00127, THOU, False, "0.1"),
    ],
)
def test_values_are_shown_with_usual_places(core, unit, sign, shown):
    assert show(core, unit, sign=sign) == shown


def test_limits_are_shown_briefly():
    assert [brief(v, THOU) for v in (0.1778, 0.2794, 0.2159, 0.0)] == ["7", "11", "8.5", "0"]
    assert brief(135.6, FOOT_POUND) == "100"


def test_each_person_reads_in_the_units_chosen():
    assert IMPERIAL.unit_for(Dimension.TORQUE) is INCH_POUND
    assert IMPERIAL.unit_for(Dimension.TORQUE, bolt=True) is FOOT_POUND
    assert METRIC.unit_for(Dimension.LENGTH) is MM
    assert METRIC.unit_for(Dimension.COUNT) is HOLE
    assert METRIC.unit_for(Dimension.TORQUE, bolt=True).symbol == "N·m"
    assert show(Decimal("81.35"), METRIC.bolt_torque) == "81.4"


@given(
    st.decimals(min_value="-999", max_value="999", places=4, allow_nan=False),
    st.sampled_from([unit for unit in UNITS if unit is not THOU]),
)
def test_a_typed_number_comes_back_as_typed(number, unit):
    quantity = parse(f"{number} {unit.symbol}", unit)
    assert quantity.core == number * unit.factor
    assert quantity.core / unit.factor == pytest.approx(number)


@given(st.sampled_from(UNITS), st.booleans())
def test_every_spelling_is_known(unit, upper):
    for spelling in (*unit.spellings, unit.symbol):
        assert unit_named(spelling.upper() if upper else spelling) is unit


@given(st.text(max_size=60))
def test_no_text_does_anything_but_parse_or_be_refused(text):
    try:
        quantity = parse(text, THOU)
    except AxleError as refused:
        assert refused.wanted  # noqa: PT017 - either outcome is right, and each is looked at
    else:
        assert abs(quantity.value) <= 1_000_000


@pytest.mark.parametrize(
    ("typed", "symbol"),
    # Common practice, no source: all of these are written on wrenches and sheets.
    [
        ("19 lbf·in", "in·lb"),
        ("19 lbf-in", "in·lb"),
        ("19 inch-pounds", "in·lb"),
        ("19 in.lbs", "in·lb"),
        ("19 pound inches", "in·lb"),
        ("60 lbf·ft", "ft·lb"),
        ("60 foot-pounds", "ft·lb"),
        ("60 lb-ft", "ft·lb"),
        ("60 feet pounds", "ft·lb"),
        ("60 ftlbs", "ft·lb"),
        ("2 newton metres", "N·m"),
        ("2 N m", "N·m"),
    ],
)
def test_torques_are_known_by_every_name_that_a_wrench_bears(typed, symbol):
    assert parse(typed, INCH_POUND).unit.symbol == symbol


@pytest.mark.parametrize(
    ("typed", "value"), [("8,5", "8.5"), ("0,285", "0.285"), ("-2,25 mm", "-2.25"), (",5", ".5")]
)
def test_a_decimal_comma_is_one_where_it_can_only_be_that(typed, value):
    assert parse(typed, THOU).value == Decimal(value)


@pytest.mark.parametrize(
    ("typed", "unit", "step", "meant"),
    [
        ("0.25", THOU, "0.0127", "0.25 mm"),
        ("0.010", MM, "0.0127", "0.01 in"),
        ("0.66", THOU, "0.0254", "0.66 mm"),
        ("18", MM, "0.0127", "0.18 mm"),
    ],
)
def test_a_bare_number_finer_than_can_be_read_or_in_another_unit_is_asked_about(typed, unit, step, meant):
    doubt = question(parse(typed, unit), LASH, Decimal(step))
    assert doubt is not None
    assert f"Did you mean {meant}?" in doubt[0]
    assert (
        question(parse(f"{typed} {unit.symbol}", unit), Plausible(Decimal(0), Decimal(30)), Decimal(step))
        is None
    )


def test_warming_is_read_in_either_scale():
    # A kelvin is 9/5 of a degree Fahrenheit.
    assert parse_warming("90 °F") == parse_warming("50 °C") == parse_warming("50") == 50
    with pytest.raises(AxleError, match="°C or °F"):
        parse_warming("hot")
