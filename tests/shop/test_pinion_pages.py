"""The pinion over HTTP: marks, ways, conditions, instruments, heights, and the drawer around them."""

from __future__ import annotations

import re

import pytest

from axle.layout import Place
from axle.measure.parse import parse
from axle.measure.units import THOU
from demo.player import Bench
from shop.jobs import loading
from shop.jobs.actions import opening
from shop.jobs.models import Job, Reading
from tests.shop.test_bench import HTMX, send, words


def read(client, bench, value, kind, **more):
    station = more.pop("station", "depth")
    return send(client, value, kind=kind, number=bench.number, station=station, **more)


def state(bench):
    return loading.load(bench.job).state


# ---- the mark


def test_nothing_is_worked_out_from_a_mark_before_its_meaning_is_confirmed(pages, fresh):
    bench = f"/jobs/{fresh.number}/"
    assert "What does the mark mean?" in words(pages.get(f"{bench}?station=depth"))
    read(pages, fresh, "30", "depth_feeler", status=200)
    axle = loading.load(fresh.job)
    assert axle.standings["depth"].result.words == "confirm the mark"
    mark = {"version": fresh.job.version, "mark": "2", "convention": "shorter"}
    answer = pages.post(f"{bench}mark", mark, headers=HTMX)
    assert answer.status_code == 200
    # By hand, in thou: 30 by the feeler, and a shorter pinion wants 2 more under its head.
    assert loading.load(fresh.job).standings["depth"].result.why[0].endswith("= 32.0 thou.")
    assert fresh.job.mark_confirmed.startswith("Ines Korb")
    assert fresh.job.history.count() > 1


def test_the_picture_of_a_mark_follows_the_convention_that_is_tried(pages, fresh):
    page = f"/jobs/{fresh.number}/?station=depth&view=mark&mark=2&convention="
    assert "further out from the ring gear: a thinner depth shim" in words(pages.get(f"{page}longer"))
    assert "closer in to the ring gear: a thicker depth shim" in words(pages.get(f"{page}shorter"))
    assert "whole distance" in words(pages.get(f"{page}distance&mark=96.5 mm"))
    assert pages.get(f"{page}sideways").status_code == 200
    assert fresh.job.mark_confirmed == ""


@pytest.mark.parametrize(
    ("mark", "convention", "said"),
    [
        ("5 mm", "longer", "Check its unit: thou, or hundredths of a millimetre."),
        ("50", "shorter", "1 mm (39 thou) or less, either way is wanted"),
        ("2", "distance", "20 to 300 mm is wanted"),
        ("two", "longer", "mark on the pinion: “two” was given"),
        ("2", "sideways", "mark: “sideways” was given; a known convention is wanted"),
    ],
)
def test_a_mark_that_cannot_be_is_refused_in_words(pages, fresh, mark, convention, said):
    given = {"version": fresh.job.version, "mark": mark, "convention": convention}
    answer = pages.post(f"/jobs/{fresh.number}/mark", given, headers=HTMX)
    assert answer.status_code == 422
    assert said in words(answer)
    assert not fresh.job.mark_confirmed


def test_a_mark_in_hundredths_has_its_own_last_place(fresh, owner):
    opening.confirm_mark(owner, fresh.job, fresh.job.version, parse("5 1/100mm", THOU), "longer")
    mark = state(fresh).mark
    assert (mark.value, mark.step) == (pytest.approx(0.05), 0.01)


# ---- readings with intervals, repeats and conditions


def test_feelers_are_kept_as_an_interval(pages, fresh):
    read(pages, fresh, "11-13", "depth_feeler", status=200)
    row = Reading.objects.last()
    assert (row.typed, float(row.value)) == ("11-13", pytest.approx(12 * 0.0254))
    assert row.conditions == {"passes": pytest.approx(0.2794), "binds": pytest.approx(0.3302)}
    read(pages, fresh, "<2", "depth_feeler", status=200)
    assert Reading.objects.last().conditions["passes"] == 0
    answer = read(pages, fresh, "13-11", "depth_feeler", status=422)
    assert "the blade that passes, then the thicker one that binds" in words(answer)


def test_repeats_are_averaged_until_the_shim_is_changed(pages, fresh, owner):
    opening.confirm_mark(owner, fresh.job, fresh.job.version, parse("0", THOU), "longer")
    for place, value in enumerate(("30", "31", "32"), start=1):
        read(pages, fresh, value, "depth_feeler", place=str(place), status=200)
    assert (
        loading.load(fresh.job).standings["depth"].result.why[-2].startswith("Wanted depth shim 31.0 ± 0.")
    )
    fresh.fit(Place.DEPTH, "30")
    read(pages, fresh, "2", "depth_feeler", status=200)
    # One reading on the new shim: the three on none are another setting.
    assert [t.place for t in state(fresh).repeats("depth_feeler")] == [1]
    assert "too shallow" not in loading.load(fresh.job).standings["depth"].result.words


def test_two_ways_are_compared_on_the_page(pages):
    page = words(pages.get("/jobs/413/?station=depth"))
    assert "together" in page
    assert "Gauge block" in page
    assert "Packs from the drawer" in page


def test_a_torque_read_both_ways_is_free_of_the_wrench_s_zero(pages):
    given = {"oil": "oiled", "attitude": "level", "nut_torque": "200", "station": "pinion_preload"}
    send(pages, "20/16", kind="pinion_torque", number=414, status=200, **given)
    row = Reading.objects.last()
    assert float(row.value) == pytest.approx(18 * 0.112985, rel=1e-4)
    assert row.conditions["both"] == [pytest.approx(2.2597, rel=1e-3), pytest.approx(1.8078, rel=1e-3)]
    assert row.conditions["nut_torque"] == pytest.approx(271.16, rel=1e-3)
    assert "the mean is free of the wrench's zero" in words(pages.get("/jobs/414/?station=pinion_preload"))


def test_conditions_are_kept_when_an_entry_is_questioned(pages):
    answer = send(
        pages,
        "19 ft-lb",
        kind="pinion_torque",
        number=414,
        station="pinion_preload",
        status=200,
        oil="dry",
        seal="1",
        confidence="makeshift",
    )
    page = answer.content.decode()
    assert 'value="dry" selected' in page
    assert re.search(r'name="seal" value="1" checked', page)
    assert re.search(r'name="confidence" value="makeshift" checked', page)


def test_trials_under_other_conditions_are_left_out_and_said_so(pages):
    send(pages, "9", kind="pinion_torque", number=414, station="pinion_preload", status=200, oil="dry")
    # By common practice dry bearings read otherwise: the newest reading's conditions govern.
    job = Job.objects.get(number=414)
    fresh = Bench(job.touched_by, job)
    fresh.fit(Place.PRELOAD, "20", "20")
    send(pages, "4", kind="pinion_torque", number=414, station="pinion_preload", status=200, oil="oiled")
    page = words(pages.get("/jobs/414/?station=pinion_preload"))
    assert "a trial read with dry" in page
    assert "left out" in page


@pytest.mark.parametrize(
    ("more", "said"),
    [
        ({"turned": "-5"}, "never backed off"),
        ({"turned": "far"}, "nut turned: “far” was given; a number is wanted"),
        ({"nut_torque": "tight"}, "torque at the nut: “tight” was given"),
        ({"oil": "tar"}, "oil: “tar” was given"),
        ({"tool": "x"}, "instrument: “x” was given"),
        ({"tool": "999999"}, "not in use in this shop's register"),
    ],
)
def test_conditions_that_cannot_be_are_refused_and_kept_in_the_form(pages, more, said):
    count = Reading.objects.count()
    answer = send(
        pages, "12", kind="pinion_torque", number=416, station="pinion_preload", status=422, **more
    )
    assert said in words(answer)
    assert Reading.objects.count() == count


def test_negative_end_play_is_refused(pages):
    answer = send(pages, "-2", kind="pinion_end_play", number=414, station="pinion_preload", status=422)
    assert "0 or more is wanted" in words(answer)


def test_a_head_taller_than_its_master_is_refused_in_words(pages):
    send(pages, "140 mm", kind="head_height", number=413, station="depth", questioned="140 mm", status=200)
    assert "less than the master dimension, 131.200 mm" in words(pages.get("/jobs/413/?station=depth"))


def test_bites_lead_to_a_stop_and_an_overshoot_to_a_new_sleeve(pages):
    bite = {"kind": "pinion_torque", "number": 416, "station": "pinion_preload", "status": 200}
    send(pages, "20", turned="15", **bite)
    assert loading.load(Job.objects.get(number=416)).standings["pinion_preload"].is_done
    assert "■ Stop." in words(pages.get("/jobs/416/?station=pinion_preload"))
    send(pages, "30", turned="5", **bite)
    # Common practice, no source: no sleeve is thrown away for a torque that was read once.
    assert loading.load(Job.objects.get(number=416)).move.asks == (("pinion_torque", 1),)
    send(pages, "30", again="1", **bite)
    axle = loading.load(Job.objects.get(number=416))
    assert axle.move.title == "Fit a new sleeve"
    assert "preload-resleeve" in {step.step for step in axle.plan.steps}
    assert "never back off" in words(pages.get("/jobs/416/?station=pinion_preload"))
