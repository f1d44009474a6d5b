"""Drawings of ratio and road: what they show lies where its value says."""

from __future__ import annotations

import math
import re
from datetime import date
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from axle.gearing.both_ends import both_ends
from axle.gearing.speeds import Driveline
from axle.gearing.tyres import read_tyre
from axle.road.break_in import dated, usual_legs
from axle.road.oil import filled_to_hole
from axle.road.temperatures import Temperature, judge_heat, limits
from shop.drawing.axis import Axis
from shop.drawing.both_ends import both_ends_bar
from shop.drawing.break_in_line import break_in_line
from shop.drawing.heat_chart import heat_chart
from shop.drawing.oil_level import oil_level
from shop.drawing.ratio_line import RatioMark, ratio_line
from shop.drawing.ratio_tag import TagWords, ratio_tag
from shop.drawing.rpm_chart import RpmChart, rpm_chart


def circles(svg, style):
    marks = re.findall(rf'<circle class="s-{style}"[^>]*cx="([\d.-]+)" cy="([\d.-]+)"', str(svg))
    found = [(float(x), float(y)) for x, y in marks]
    if not found:
        marks = re.findall(rf'<circle class="s-{style}"[^>]*', str(svg))
        found = [
            (float(re.search(r'cx="([\d.-]+)"', m)[1]), float(re.search(r'cy="([\d.-]+)"', m)[1]))
            for m in marks
        ]
    return found


def texts(svg):
    """(x, y, words) of every text."""
    found = []
    for marks, words in re.findall(r"<text ([^>]*)>([^<]*)</text>", str(svg)):
        place = {name: float(re.search(rf'\b{name}="([\d.-]+)"', marks)[1]) for name in ("x", "y")}
        found.append((place["x"], place["y"], words))
    return found


@given(st.floats(-1e4, 1e4), st.floats(0.01, 1e4), st.integers(2, 9))
def test_ticks_are_round_within_the_scale_and_no_more_than_asked(low, span, most):
    scale = Axis(low, low + span, 0.0, 100.0)
    ticks = scale.ticks(most)
    assert len(ticks) <= most + 1
    assert all(low - 1e-6 * span <= tick <= low + span * (1 + 1e-6) for tick in ticks)
    steps = [after - before for before, after in pairwise(ticks)]
    if steps:
        leading = steps[0] / 10 ** math.floor(math.log10(steps[0]) + 1e-9)
        assert min(abs(leading - round_) for round_ in (1, 2, 5, 10)) < 1e-3


@given(st.floats(-50, 150))
def test_a_scale_holds_what_is_beyond_its_ends(value):
    scale = Axis(0.0, 100.0, 10.0, 210.0)
    assert 10 <= scale.at(value) <= 210
    if scale.holds(value):
        assert scale.at(value) == pytest.approx(10 + 2 * value)


def chart(**more):
    usual = {
        "before": [Driveline(3.15, 2400, gear) for gear in (4.0, 2.0, 1.0)],
        "now": [Driveline(3.73, 2500, gear) for gear in (4.0, 2.0, 1.0)],
        "idle": 750.0,
        "peak": 1800.0,
        "limit": 4000.0,
        "cruise": 90.0,
        "top": 140.0,
        "metric": True,
    }
    return RpmChart(**usual | more)


def test_the_dot_at_cruise_lies_at_its_engine_speed():
    svg = rpm_chart(chart())
    (now,), (before,) = circles(svg, "in-hand"), circles(svg, "wanting")
    assert now[0] == before[0]
    rpm = {words: y for _, y, words in texts(svg) if re.fullmatch(r"[\d,]+", words)}
    per = (rpm["3,000"] - rpm["1,000"]) / 2000  # two labels of the axis give its scale
    lies = 1000 + (now[1] + 5 - rpm["1,000"]) / per
    assert lies == pytest.approx(Driveline(3.73, 2500).rpm(90), rel=0.01)
    assert now[1] < before[1]  # higher up is faster


def test_speeds_are_labelled_in_the_reader_s_unit():
    assert any("km/h" in words for _, _, words in texts(rpm_chart(chart())))
    assert any("mph" in words for _, _, words in texts(rpm_chart(chart(metric=False))))


def test_an_engine_of_which_nothing_is_known_is_drawn_all_the_same():
    svg = str(rpm_chart(chart(idle=None, peak=None, limit=None, cruise=None, before=[])))
    assert "limit" not in svg
    assert svg.count("s-tick-strong") == 4  # three gears and the axes


@given(st.lists(st.floats(2.5, 6.5), min_size=1, max_size=40, unique=True))
def test_words_of_sets_on_the_line_never_lie_on_each_other(ratios):
    marks = [RatioMark(ratio, f"{index}/9", chosen=index == 0) for index, ratio in enumerate(ratios)]
    svg = ratio_line(marks)
    at = sorted(x for x, _, words in texts(svg) if "/" in words)
    assert all(after - before >= 57 for before, after in pairwise(at))
    assert "0/9" in [words for _, _, words in texts(svg)]


def test_sets_stand_in_the_order_of_their_ratios():
    svg = ratio_line(
        [RatioMark(4.1, "b"), RatioMark(3.55, "a"), RatioMark(4.88, "c")], wanted=(4.0, "wanted 4.00")
    )
    named = sorted((x, words) for x, _, words in texts(svg) if words in "abc")
    assert [words for _, words in named] == ["a", "b", "c"]
    low, high = named[0][0], named[2][0]
    wanted = next(x for x, _, words in texts(svg) if words.startswith("wanted")) - 12
    assert (wanted - low) / (high - low) == pytest.approx((4.0 - 3.55) / (4.88 - 3.55), abs=0.01)


@pytest.mark.parametrize(("front", "rear"), [(41 / 10, 37 / 9), (4.56, 4.10), (3.73, 3.73)])
def test_a_difference_between_the_ends_lies_on_its_side(front, rear):
    tyre = read_tyre("24.1 m in 10 turns")
    ends = both_ends(front, tyre, rear, tyre)
    ((x, _),) = circles(both_ends_bar(ends), "in-hand")
    assert (x > 230.5) == (ends.apart > 1e-9)
    assert (x < 229.5) == (ends.apart < -1e-9)


def test_temperatures_rise_on_the_drawing_as_they_were_read():
    heat = judge_heat([Temperature("pinion", minute, 10 + 3 * minute) for minute in (0, 5, 10, 15)])
    svg = heat_chart(heat, metric=True)
    dots = circles(svg, "in-hand")
    assert len(dots) == 4
    steps = [(b[0] - a[0], a[1] - b[1]) for a, b in pairwise(dots)]
    assert all(step == pytest.approx(steps[0], abs=0.2) for step in steps)
    said = [words for _, _, words in texts(svg)]
    assert f"stop {limits().stop:.0f} °C" in said
    assert "stop 248 °F" in [words for _, _, words in texts(heat_chart(heat, metric=False))]


def test_names_of_places_at_one_temperature_do_not_lie_on_each_other():
    heat = judge_heat(
        [Temperature(place, 10, 50) for place in ("pinion", "ring_side", "far_side", "bottom")]
    )
    ends = sorted(y for _, y, words in texts(heat_chart(heat, metric=True)) if "50 °C" in words)
    assert len(ends) == 4
    assert all(after - before >= 17 for before, after in pairwise(ends))


def test_legs_of_a_break_in_follow_each_other():
    found = dated(usual_legs("tow"), date(2026, 12, 1), {1}, a_day=50.0)
    svg = break_in_line(found)
    said = [words for _, _, words in texts(svg)]
    assert said[0].startswith("✓ 1.")
    assert any(words.startswith("▲ 2.") for words in said)
    days = [leg.due for leg in found.legs]
    assert days == sorted(days)
    widths = re.findall(r'<rect class="s-(?:bar|bar-begun|wanting)"[^>]*\bx="([\d.]+)"', str(svg))
    assert len(widths) == len(found.legs)


@pytest.mark.parametrize("up", [-0.2, 0.0, 0.2])
@pytest.mark.parametrize("behind", [True, False])
def test_oil_stands_level_at_the_hole(up, behind):
    level = filled_to_hole(2.2, 222, 20, up, behind=behind)
    svg = oil_level(level)
    ((hole_x, hole_y),) = circles(svg, "doubt")
    surface = re.search(r'd="M([\d.]+) ([\d.]+) H([\d.]+)"', str(svg))
    assert float(surface[2]) == pytest.approx(hole_y, abs=0.1)
    assert (hole_x > 200) == behind


def test_a_tag_with_long_words_stays_within_its_edge():
    svg = ratio_tag(TagWords("41/11", "3.73", "27 Nov 2026", "job 0413", "x" * 200))
    said = [words for _, _, words in texts(svg)]
    assert max(len(words) for words in said) <= 44
    assert "41/11" in said
