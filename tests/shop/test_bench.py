"""The bench over HTTP: what is answered to what is typed."""

from __future__ import annotations

import re
import uuid

import pytest
from django.db import OperationalError

from shop.jobs.models import Job, Reading, SignOff

HTMX = {"HX-Request": "true"}


def send(client, value, *, kind="backlash", place="1", number=412, status=None, twice=True, **more):
    """Type one reading; one at a place that is read already is meant, unless ``twice`` is not."""
    job = Job.objects.get(number=number)
    given = {
        "version": job.version,
        "station": "backlash",
        "kind": kind,
        "place": place,
        "value": value,
        "entry": str(uuid.uuid4()),
    } | more
    answer = client.post(f"/jobs/{number}/reading", given, headers=HTMX)
    if twice and "is read already on this setting" in answer.content.decode():
        answer = client.post(f"/jobs/{number}/reading", given | {"questioned": value.strip()}, headers=HTMX)
    if status is not None:
        assert answer.status_code == status, answer.content.decode()[:2000]
    return answer


def words(answer) -> str:
    return re.sub(r"\s+", " ", answer.content.decode().replace("&#x27;", "'").replace("&quot;", '"'))


@pytest.mark.parametrize(
    ("value", "more", "said"),
    [
        ("", {}, "Backlash: nothing was given; a number in thou, such as 8.5 is wanted."),
        ("about nine", {}, "Backlash: “about nine” was given"),
        ("9 in-lb", {}, "a length in thou is wanted"),
        ("9 furlongs", {}, "the unit “furlongs” was given"),
        ("-9", {}, "Backlash: “-9” was given; 0 or more is wanted."),
        ("900000", {}, "Check the unit."),
        ("9" * 30, {}, "less than 1,000,000 thou is wanted"),
        ("8,500", {}, "Write the decimal point as a point."),
        ("9", {"kind": "horn"}, "one that a station takes is wanted"),
        ("9", {"place": "77"}, "place 1 to 4 is wanted"),
        ("²", {"place": "²"}, "Backlash: “²” was given"),
        ("9", {"version": "x"}, "page version: “x” was given"),
        ("9", {"version": ""}, "page version"),
        ("9", {"entry": "x"}, "entry: no identity was given"),
        ("9", {"confidence": "sure"}, "confidence: “sure” was given; fixture, makeshift is wanted."),
        ("<script>alert(1)</script>", {}, "&lt;script&gt;"),
    ],
)
def test_bad_input_is_answered_in_words_and_kept_in_the_field(pages, value, more, said):
    count = Reading.objects.count()
    answer = send(pages, value, status=422, **more)
    assert said in words(answer)
    assert Reading.objects.count() == count
    if value and "<" not in value:
        assert f'value="{value}"' in answer.content.decode()


def test_an_unusual_value_is_questioned_once_and_then_kept(pages):
    count = Reading.objects.count()
    answer = send(pages, "90", status=200)
    assert "90 thou? That is unusual here." in words(answer)
    assert Reading.objects.count() == count
    send(pages, "90", questioned="90", status=200)
    assert Reading.objects.count() == count + 1
    assert Reading.objects.last().typed == "90"


def test_a_foot_pound_typed_for_inch_pounds_is_questioned(pages):
    answer = send(pages, "19 ft-lb", kind="pinion_torque", station="pinion_preload", status=200)
    assert "Did you mean 19 in·lb?" in words(answer)
    assert 'data-value="19 in·lb"' in answer.content.decode()


def test_a_stored_reading_is_kept_as_typed(pages, owner):
    send(pages, ".0111", status=200, confidence="makeshift")
    row = Reading.objects.last()
    assert (row.typed, row.unit, row.by, row.confidence) == (".0111", "in", "Ines Korb", "makeshift")
    assert float(row.value) == pytest.approx(0.28194)
    assert (row.conditions["stance"], row.conditions["caps"]) == ("along", "torqued")
    assert row.settings["ring"] == "4.87934"


def test_a_stale_page_is_told_and_keeps_what_was_typed(pages):
    version = Job.objects.get(number=412).version
    send(pages, "11.1", status=200)
    answer = send(pages, "10.7", place="2", version=version, status=409)
    assert "Ines Korb read backlash 11.1 at" in words(answer)
    assert 'value="10.7"' in answer.content.decode()
    assert not Reading.objects.filter(typed="10.7").exists()


def test_undo_strikes_the_newest_reading_and_goes_back_to_it(pages):
    send(pages, "11.1", status=200)
    job = Job.objects.get(number=412)
    answer = pages.post("/jobs/412/undo", {"version": job.version}, headers=HTMX)
    assert "Undone: backlash, place" in words(answer)
    strike = Reading.objects.last()
    assert strike.strikes.typed == "11.1"
    assert strike.reason == "undone at the bench"


def test_a_lost_database_is_said_and_nothing_breaks(pages, monkeypatch):
    def lost(*args, **kwargs):
        raise OperationalError(2006, "Server has gone away")

    monkeypatch.setattr("shop.jobs.queries.job_of", lost)
    answer = send(pages, "9.1", status=503)
    assert answer.content.decode() == "The records cannot be reached."
    page = pages.get("/jobs/412/")
    assert page.status_code == 503
    assert "What was stored before is safe" in page.content.decode()


@pytest.mark.parametrize(
    ("address", "given", "said"),
    [
        ("sign", {"station": "backlash", "reason": ""}, "reason: nothing was given"),
        ("sign", {"station": "horn"}, "a station that is measured"),
        ("sign", {"station": "sheet"}, "The build sheet cannot be signed"),
        ("reopen", {"reason": "x"}, "The job is open already."),
        ("way", {"station": "depth", "way": "guess"}, "way of measuring: “guess” was given"),
        ("fit", {"place": "roof", "lots": "1"}, "place: “roof” was given; depth, preload, ring, far"),
        ("fit", {"place": "depth", "lots": "1;drop"}, "shim: “1;drop” was given; a whole number"),
        ("fit", {"place": "depth", "lots": "999999"}, "not in this shop's drawer"),
        ("fit", {"place": "depth", "lots": ""}, "at least one piece"),
        ("adjusters", {"ring": "1", "far": "1"}, "an axle with threaded adjusters"),
        ("adjusters", {"ring": "", "far": "1"}, "ring-side adjuster: nothing was given"),
        ("adjusters", {"ring": "1.1", "far": "1"}, "holes in quarters"),
        ("sleeve", {}, "an axle that has one"),
        (
            "pattern",
            {"flank": "drive", "toe": "60", "heel": "20", "root": "1", "top": "2"},
            "a start below its end",
        ),
        (
            "pattern",
            {"flank": "roof", "toe": "10", "heel": "20", "root": "1", "top": "20"},
            "drive or coast",
        ),
        (
            "pattern",
            {"flank": "drive", "x0": "nan", "y0": "1", "x1": "2", "y1": "3"},
            "a place on the drawing",
        ),
        (
            "pattern",
            {"flank": "drive", "x0": "1", "y0": "1", "x1": "2", "y1": "3"},
            "a line drawn around the wiped",
        ),
    ],
)
def test_every_form_answers_bad_input_in_words(pages, address, given, said):
    job = Job.objects.get(number=412)
    usual = {"version": job.version, "entry": str(uuid.uuid4()), "station": "backlash"}
    answer = pages.post(f"/jobs/412/{address}", usual | given, headers=HTMX)
    assert answer.status_code == 422
    assert said in words(answer)
    assert Job.objects.get(number=412).version == job.version


@pytest.mark.parametrize(
    ("wanted", "said"),
    [
        ("29", "Fit 29.1"),
        ("19.9 + 10", "As named"),
        ("19.9 + 0.37", "a sound piece of that size"),
        ("thick", "pack: “thick” was given"),
        ("4000", "under 50 mm is wanted"),
        ("0", "more than 0"),
        ("26", "Next thicker"),
    ],
)
def test_packs_are_offered_from_the_drawer(pages, wanted, said):
    answer = pages.get("/jobs/412/pack", {"place": "depth", "wanted": wanted, "station": "depth"})
    assert answer.status_code == 200
    assert said in words(answer)


def test_a_damaged_shim_is_never_offered(pages):
    answer = words(pages.get("/jobs/412/pack", {"place": "depth", "wanted": "26"}))
    assert "Fit 26.0" not in answer


@pytest.mark.parametrize(
    "query",
    [
        "?station=horn",
        "?place=x",
        "?place=99999999999",
        "?kind=horn&station=depth",
        "?place=²",
        "?place=-1",
    ],
)
def test_odd_addresses_show_the_bench(pages, query):
    assert pages.get(f"/jobs/412/{query}").status_code == 200


@pytest.mark.parametrize("number", [411, 412, 413, 414])
@pytest.mark.parametrize("units", ["thou", "mm"])
def test_every_station_of_every_demo_job_shows(pages, owner, number, units):
    owner.units = units
    owner.save()
    for station in (
        "arrival",
        "depth",
        "pinion_preload",
        "carrier_preload",
        "backlash",
        "pattern",
        "torque",
        "sheet",
    ):
        answer = pages.get(f"/jobs/{number}/?station={station}")
        assert answer.status_code == 200
        text = answer.content.decode()
        assert "<svg" in text or station == "sheet"
        assert 'style="' not in text  # the policy forbids inline styles
        assert "<script>" not in text


def test_one_answer_for_a_form_and_the_whole_page_share_their_parts(pages):
    full = pages.get("/jobs/412/").content.decode()
    part = pages.get("/jobs/412/", headers=HTMX).content.decode()
    assert part.lstrip().startswith('<div id="bench"')
    strip = re.compile(r'name="entry" value="[^"]*"')
    assert strip.sub("", part).strip() in strip.sub("", full)


def test_signing_from_the_page(pages):
    job = Job.objects.get(number=412)
    answer = pages.post(
        "/jobs/412/sign",
        {"version": job.version, "station": "backlash", "reason": "loose on purpose: hot use"},
        headers=HTMX,
    )
    assert answer.status_code == 200
    assert SignOff.objects.last().reason == "loose on purpose: hot use"
    assert "loose on purpose" in words(pages.get("/jobs/412/sheet"))


@pytest.mark.parametrize(
    "address",
    ["/jobs/99999999999999999999999/", "/sheets/99999999999999999999999/", "/jobs/0/", "/jobs/412/unknown"],
)
def test_numbers_beyond_any_row_lead_nowhere(pages, address):
    assert pages.get(address).status_code == 404


def test_a_wrong_method_is_refused(pages):
    assert pages.get("/jobs/412/reading").status_code == 405


def test_a_page_asks_what_changed_and_hears_of_it_once(pages):
    version = Job.objects.get(number=412).version
    assert pages.get(f"/jobs/412/changed?version={version}&station=backlash").status_code == 204
    send(pages, "11.4", status=200)
    newest = Job.objects.get(number=412).version
    answer = pages.get(f"/jobs/412/changed?version={version}&station=backlash", headers=HTMX)
    assert answer.status_code == 200
    assert "Ines Korb read backlash" in words(answer)
    assert f"changed?version={newest}" in words(answer)
    # What was looked at stays: the step, the view.
    step = words(pages.get("/jobs/412/changed?version=1&station=final&step=final-register", headers=HTMX))
    assert "Everything back in" in step
    assert "&amp;step=final-register" in step
    # A figure that is no version is no error: the page is shown anew.
    assert pages.get("/jobs/412/changed?version=x").status_code == 200
    assert pages.get("/jobs/9999/changed?version=1").status_code == 404


def test_the_overview_says_what_is_open_and_leads_to_what_is_next(pages):
    page = words(pages.get("/jobs/412/?station=overview"))
    assert "<title>Overview · job 0412 · Lash</title>" in page
    assert "Backlash: loose" in page
    assert page.index("Backlash: loose") < page.index("Final build: not begun")
    assert "Backlash, smallest" in page
    assert "Do it <kbd>F4</kbd>" in page
    # Where the next thing is a reading, the Now leads to its station.
    reading = words(pages.get("/jobs/418/?station=overview"))
    assert re.search(r'id="now">.*?href="/jobs/418/\?station=pattern".*?>Go', reading)
    assert "Nothing is open." in words(pages.get("/jobs/411/?station=overview"))


def test_the_ladder_opens_the_group_that_is_shown(pages):
    page = words(pages.get("/jobs/412/?station=teardown"))
    ladder = page[page.index('aria-label="Stations"') : page.index("Station before")]
    assert [group for group in ("Take in", "Prepare", "Set", "Close", "Sign") if group not in ladder] == []
    assert "Inspection" in ladder
    assert "Pinion depth" not in ladder
