"""What stands at an edge, through the pages: sheets with one end, two manuals, odd words, locked gears."""

from __future__ import annotations

import pytest

from axle.procedure.stations import reading_kinds, stations
from axle.spec import spec_keys
from shop.jobs import bridge
from shop.jobs.models import Job
from shop.specs.forms import SheetForm, starter
from shop.specs.models import SpecSheet
from tests.shop.test_bench import send, words
from tests.shop.test_shop_pages import job_form


@pytest.fixture
def pages(client, owner):
    client.force_login(owner)
    return client


def sheet_form(owner, key: str = "works-van", **more: str) -> dict[str, str]:
    """The form of a starter sheet as a browser sends it."""
    form = SheetForm(owner.shop, plain=starter(key))
    found = {name: form[name].value() for name in form.fields}
    # A select without a value sends its first choice.
    found |= {n: f.choices[0][0] for n, f in form.fields.items() if hasattr(f, "choices") and not found[n]}
    return {name: "" if value is None else str(value) for name, value in found.items()} | more


def keep_sheet(pages, owner, name: str, key: str = "works-van", **more: str) -> SpecSheet:
    answer = pages.post("/sheets/new", sheet_form(owner, key, name=name, **more))
    assert answer.status_code == 302, words(answer).split("▲")[1:]
    return SpecSheet.objects.get(name=name)


def open_job(pages, sheet: SpecSheet, **more: str) -> Job:
    answer = pages.post("/jobs/new", job_form(sheet=sheet.pk, mark="0", **more))
    assert answer.status_code == 302, words(answer).split("▲")[1:]
    return Job.objects.latest("pk")


ENDS = {"at least": ("7", ""), "at most": ("", "7"), "one figure": ("7", "7"), "nil": ("0", "0")}


@pytest.mark.parametrize(
    ("key", "ends"),
    [("works-van", "at least"), ("funicular-truck", "at least"), ("works-van", "at most"), ("side-cover", "at most"),
     ("works-van", "one figure"), ("funicular-truck", "nil")],
)  # fmt: skip
def test_a_sheet_of_one_end_goes_from_its_form_through_every_station_to_paper(pages, owner, key, ends):
    low, high = ENDS[ends]
    figures = {}
    for name, known in spec_keys().items():
        if known.has_low:
            figures |= {f"{name}-low": low, f"{name}-high": high}
    sheet = keep_sheet(pages, owner, f"Ends {key} {ends}", key, **figures)
    kept = sheet.values.get(key="pinion_preload_new")
    assert [None if v is None else f"{v.normalize():f}" for v in (kept.low, kept.high)] == [
        low or None,
        high or None,
    ]
    job = open_job(pages, sheet)
    # At its mark; every reading that the bench takes is stored and judged.
    for name in ("arrival", "pinion_preload", "carrier_preload", "backlash", "torque"):
        assert pages.get(f"/jobs/{job.number}/?station={name}").status_code == 200
    for name, kind in reading_kinds().items():
        if not kind.limit or name in ("spread", "arrival_runout"):
            continue
        answer = send(pages, "7", kind=name, number=job.number, questioned="7", station="arrival")
        assert answer.status_code in (200, 422), (name, answer.status_code)
    for name in stations():
        assert pages.get(f"/jobs/{job.number}/?station={name}").status_code == 200, name
    for page in ("sheet", "torque", "carrier", "work"):
        assert pages.get(f"/jobs/{job.number}/{page}").status_code == 200, page


def test_two_manuals_stand_on_a_sheet_and_the_one_in_force_is_printed(pages, owner):
    other = {
        "pinion_preload_new-second-low": "20", "pinion_preload_new-second-high": "30",
        "pinion_preload_new-second-unit": "in·lb", "pinion_preload_new-second-source": "published",
        "pinion_preload_new-second-note": "green handbook", "pinion_preload_new-in_force": "second",
    }  # fmt: skip
    sheet = keep_sheet(pages, owner, "Two manuals", **other)
    shown = words(pages.get(f"/sheets/{sheet.pk}/"))
    assert "published, green handbook" in shown
    job = open_job(pages, sheet)
    limits = bridge.load(job).state.preload_range()
    assert round(limits.low, 3) == 2.26  # 20 in·lb by the conversion of 1959
    send(pages, "22", kind="pinion_torque", number=job.number, questioned="22", station="pinion_preload")
    printed = words(pages.get(f"/jobs/{job.number}/sheet"))
    assert "published, green handbook; not in force: 18–27 (made up for the demo)" in printed


def test_a_tolerance_beside_a_range_is_refused_in_words(pages, owner):
    given = sheet_form(owner, name="Odd", **{"backlash-tolerance": "1"})
    answer = pages.post("/sheets/new", given)
    assert answer.status_code == 422
    assert "one figure, the same as low and as high" in words(answer)
