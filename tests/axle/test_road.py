"""Road test, temperatures, oil and break-in."""

from __future__ import annotations

import math
from datetime import date

import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.integrate import quad

from axle.errors import AxleError
from axle.road.break_in import Leg, dated, usual_legs
from axle.road.lines import KINDS, Filled, Heard, Planned, Ticked, Warm, read_road_line, road_standing
from axle.road.listen import Sound, is_stop, listen_points, means
from axle.road.oil import filled_to_hole, oil_wanted, usual_volume
from axle.road.temperatures import Temperature, Thermometer, Warmth, judge_heat, places


def read(*points, method=Thermometer.CONTACT):
    return [Temperature(place, minute, celsius, method) for place, minute, celsius in points]


def test_every_sound_of_a_point_is_explained_and_a_growl_stops_the_drive():
    for name, point in listen_points().items():
        for sound in point.sounds[1:]:
            assert means(name, sound).endswith(".")
    assert is_stop("pull", Sound.GROWL)
    assert not is_stop("reversal", Sound.CLUNK)
    with pytest.raises(AxleError):
        means("pull", Sound.LEAK)
    with pytest.raises(AxleError):
        means("somewhere", Sound.TONE)


def test_a_hand_warm_housing_after_an_easy_drive_is_usual():
    # Hand-warm to too hot to hold, some 60 °C, after twenty minutes: common practice, no source.
    found = judge_heat(read(("pinion", 0, 12), ("pinion", 20, 62), ("bottom", 20, 55), ("tube", 20, 30)))
    assert found.warmth is Warmth.USUAL


def test_rise_is_judged_before_height():
    quick = judge_heat(read(("pinion", 10, 40), ("pinion", 14, 76)))
    assert quick.warmth is Warmth.STOP
    assert "a minute" in quick.words[0]
    slow = judge_heat(read(("pinion", 10, 70), ("pinion", 30, 76)))
    assert slow.warmth is Warmth.USUAL


def test_a_pinion_far_ahead_of_the_rest_stops_the_drive():
    found = judge_heat(read(("pinion", 20, 90), ("bottom", 20, 55)))
    assert found.warmth is Warmth.STOP
    assert "preload" in found.words[0]
    assert judge_heat(read(("bottom", 20, 90), ("pinion", 20, 55))).warmth is Warmth.USUAL


def test_bare_metal_never_says_that_all_is_well():
    found = judge_heat(read(("pinion", 20, 30), method=Thermometer.BARE))
    assert found.warmth is Warmth.NOT_READ
    assert "tape or paint" in found.words[-1]


def test_two_readings_within_a_minute_give_no_rise():
    assert judge_heat(read(("pinion", 10, 40), ("pinion", 10.5, 60))).curves[0].rise is None


@given(
    st.lists(
        st.tuples(st.sampled_from(sorted(places())), st.floats(0, 60), st.floats(-20, 119)),
        min_size=1,
        max_size=12,
    ),
    st.floats(120, 300),
)
def test_a_place_at_the_limit_always_stops_the_drive(points, hot):
    assert judge_heat(read(*points, ("bottom", 61, hot))).warmth is Warmth.STOP


@pytest.mark.parametrize(
    "wrong",
    [("roof", 1, 20), ("pinion", -1, 20), ("pinion", 601, 20), ("pinion", 1, 401), ("pinion", 1, -61)],
)
def test_a_temperature_of_nowhere_or_nothing_is_refused(wrong):
    with pytest.raises(AxleError):
        Temperature(*wrong)


def test_modifier_goes_into_clutch_types_alone():
    # Common practice, no source: modifier makes any other locker or gear type slip.
    with_modifier = [
        name
        for name in ("open", "clutch", "helical", "mechanical", "air", "electric", "spool")
        if oil_wanted("road", name).additive.startswith("friction modifier")
    ]
    assert with_modifier == ["clutch"]
    with pytest.raises(AxleError):
        oil_wanted("boat", "open")


def test_usual_volumes_hold_those_of_usual_housings():
    # 190 mm rings take some 1.6 l, 222 mm some 2.3, 248 mm some 3.1 (sheets of several makers, from memory).
    for diameter, litres in ((190, 1.6), (222, 2.3), (248, 3.1)):
        low, high = usual_volume(diameter)
        assert low <= litres <= high


@given(st.floats(-0.2, 0.2), st.floats(10, 60))
def test_oil_to_the_hole_is_the_integral_of_the_bowl(tilt, hole):
    radius, out = 222 / 2 + 15, 0.62 * 222

    def area(level):
        return quad(lambda y: 2 * math.sqrt(max(radius**2 - y**2, 0)), -radius, level, limit=200)[0]

    level = -hole * math.cos(tilt) - out * math.sin(tilt)
    if abs(level) < 0.97 * radius:
        expected = 2.2 * area(level) / area(-hole)
        assert filled_to_hole(2.2, 222, hole, tilt).litres == pytest.approx(expected, rel=1e-4)


def test_a_nose_that_points_up_takes_less_behind_and_more_in_front():
    behind, before = (filled_to_hole(2.2, 222, 30, 0.07, behind=side).litres for side in (True, False))
    assert behind < 2.2 < before
    with pytest.raises(AxleError):
        filled_to_hole(2.2, 222, 300, 0.0)


def test_the_usual_break_in_is_easy_drives_that_cool_down_then_500_miles_without_load():
    # About 15 to 20 min of easy driving, cool fully, a few times; 500 miles without towing; change the oil:
    # common practice, no source.
    legs = usual_legs()
    easy = [leg for leg in legs if leg.minutes]
    assert len(easy) >= 2
    assert all(15 <= leg.minutes <= 20 and leg.cool >= 60 for leg in easy)
    assert sum(leg.km for leg in legs) == pytest.approx(500 * 1.609344)
    assert "tow" in usual_legs("tow")[-1].title.lower()


def test_legs_fall_on_days_by_what_is_driven():
    found = dated(usual_legs(), date(2026, 12, 1), {1}, a_day=100.0)
    assert found.next.number == 2
    assert found.check.due == date(2026, 12, 13)  # 3 days, then 805 km at 100 a day: 9 days
    assert not found.is_done
    assert dated(usual_legs(), date(2026, 12, 1), {1, 2, 3, 4, 5}).is_done
    with pytest.raises(AxleError):
        dated([], date(2026, 12, 1))
    with pytest.raises(AxleError):
        dated(usual_legs(), date(2026, 12, 1), a_day=0)
    with pytest.raises(AxleError):
        dated(usual_legs(), date(9990, 1, 1))


def test_rows_of_the_road_are_held_to_their_kind():
    for kind, values in (
        ("heard", {"point": "pull", "sound": "leak"}),
        ("temperature", {"place": "pinion", "minute": 5, "typed": "x", "celsius": 900}),
        ("outcome", {"outcome": "better"}),
        ("oil", {"grade": "75W-90", "by": "nobody"}),
        ("break_in", {"legs": [], "start": "2026-12-01"}),
        ("leg", {"leg": 0, "day": "2026-12-01"}),
        ("song", {}),
        ("leg", {"leg": 1, "day": "soon"}),
    ):
        with pytest.raises(AxleError):
            read_road_line(kind, values)
    assert set(KINDS) == {"heard", "temperature", "outcome", "oil", "break_in", "leg"}


def test_ticks_count_for_the_break_in_they_were_made_on():
    first = Planned([Leg("One", minutes=20), Leg("Two", km=100)], date(2026, 12, 1))
    standing = road_standing([first, Ticked(1, date(2026, 12, 1))])
    assert standing.break_in.next.number == 2
    again = road_standing([first, Ticked(1, date(2026, 12, 1)), first])
    assert again.break_in.next.number == 1


def test_a_growl_or_a_hot_nose_says_stop_in_words():
    standing = road_standing(
        [
            Heard("coast", "growl"),
            Warm("pinion", 10, "194 °F", 90.0),
            Warm("bottom", 10, "55", 55.0),
            Filled("75W-90"),
        ]
    )
    assert len(standing.stops) == 2
    assert standing.oil.grade == "75W-90"
    assert road_standing([Heard("coast", "growl"), Heard("coast", "quiet")]).stops == ()
