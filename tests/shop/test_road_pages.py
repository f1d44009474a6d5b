"""From a road test with temperatures to the leaflet: the road's pages, what they refuse, what is kept."""

from __future__ import annotations

import io
import json
import uuid
from datetime import date, timedelta

import pytest
from django.db import DatabaseError, transaction
from django.test import Client
from django.utils import timezone

from shop.jobs import chain, cross_checks, loading, noted_lines
from shop.jobs.exchange import read, seal
from shop.jobs.models import Job, RoadLine
from tests.shop.conftest import post, words


def hand_over(client, job, **more):
    legs = {
        "title-1": "Easy drive",
        "minutes-1": "20",
        "cool-1": "2 h",
        "title-2": "As usual",
        "distance-2": "500",
    }
    legs |= {"title-3": "Check", "check-3": "on"}
    return post(client, job, "break-in", do="break_in", start="2026-12-01", a_day="25", **legs | more)


def test_what_is_heard_is_explained_and_a_growl_stops_the_drive(pages, van):
    page = words(post(pages, van, "road-test", do="heard", point="neutral", sound="hum", speed="45"))
    assert "A tyre: swap front to rear" in page
    assert "45 mph" in page
    page = words(post(pages, van, "road-test", do="heard", point="coast", sound="growl"))
    assert "Stop: back on the stands" in page
    axle = loading.load(van)
    assert any("Road:" in line for line in cross_checks.cross_checks(axle, "sheet"))
    page = words(post(pages, van, "road-test", do="heard", point="coast", sound="quiet"))
    assert "Stop: back on the stands" not in page


def test_temperatures_are_drawn_judged_and_kept_as_typed(pages, van):
    for minute, nose, bottom in (("0", "50", "50"), ("10 min", "40 °C", "38 °C"), ("14", "190", "120")):
        answer = post(
            pages,
            van,
            "road-test",
            do="temperature",
            minute=minute,
            drive="1",
            method="contact",
            **{"t-pinion": nose, "t-bottom": bottom},
        )
    page = words(answer)
    assert "a minute" in page
    assert "Stop" in page
    assert answer.content.decode().count('class="heat-chart"') == 1
    row = RoadLine.objects.filter(job=van, values__place="pinion").order_by("id")[1]
    assert (row.values["typed"], row.values["celsius"]) == ("40 °C", 40)
    first = RoadLine.objects.filter(job=van).order_by("id")[0]
    assert first.values["celsius"] == 10  # 50 in a field of °F
    post(pages, van, "road-test", do="strike", line=row.pk, reason="wrong place")
    assert len(noted_lines.road_of(van).drives[1].curves[0].points) == 2
    with transaction.atomic(), pytest.raises(DatabaseError):
        RoadLine.objects.filter(pk=row.pk).delete()
    assert chain.check(van).holds


@pytest.mark.parametrize(
    ("page", "given", "said"),
    [
        ("road-test", {"do": "heard", "point": "pull", "sound": "song"}, "quiet, tone"),
        ("road-test", {"do": "heard", "point": "roof", "sound": "tone"}, "pull, hold"),
        (
            "road-test",
            {"do": "heard", "point": "pull", "sound": "tone", "speed": "fast"},
            "a number in mph",
        ),
        ("road-test", {"do": "temperature", "minute": "5"}, "one place or more"),
        ("road-test", {"do": "temperature", "minute": "", "t-pinion": "50"}, "a number in min"),
        ("road-test", {"do": "temperature", "minute": "5", "t-pinion": "hot"}, "a number in °F"),
        ("road-test", {"do": "temperature", "minute": "5", "t-pinion": "5000"}, "400 °C"),
        ("road-test", {"do": "temperature", "minute": "5", "t-pinion": "60", "method": "hand"}, "contact"),
        ("road-test", {"do": "outcome", "outcome": "better"}, "gone, same, other"),
        ("road-test", {"do": "outcome", "outcome": "other"}, "what is heard now"),
        ("road-test", {"do": "drive"}, "one of the page's buttons"),
        ("oil", {"do": "oil", "grade": ""}, "as GL-5 75W-90"),
        ("oil", {"do": "oil", "grade": "75W-90", "volume": "lots"}, "a number in qt"),
        ("oil", {"do": "oil", "grade": "75W-90", "by": "nobody"}, "shop, customer"),
        ("break-in", {"do": "break_in", "start": "2026-12-01", "a_day": "20"}, "one leg or more"),
        ("break-in", {"do": "break_in", "start": "soon", "a_day": "20", "title-1": "One"}, "a day, as"),
        (
            "break-in",
            {"do": "break_in", "start": "2026-12-01", "a_day": "0", "title-1": "One"},
            "1 or more",
        ),
        ("break-in", {"do": "leg", "leg": "1"}, "a break-in that was handed over"),
    ],
)
def test_bad_input_on_the_road_s_pages_is_answered_in_words(pages, van, page, given, said):
    answer = post(pages, van, page, **given)
    assert answer.status_code == 422
    assert said in words(answer)
    assert not RoadLine.objects.filter(job=van).exists()


def test_a_refused_break_in_keeps_what_was_typed(pages, van):
    answer = hand_over(pages, van, **{"minutes-1": "some"})
    assert answer.status_code == 422
    assert 'value="As usual"' in answer.content.decode()


def test_oil_by_volume_at_an_angle_and_by_the_differential(pages, van):
    page = words(pages.get(f"/jobs/{van.number}/oil?nominal=2.4&hole=1.2&up=6"))
    assert "filled to the hole" in page
    page = words(pages.get(f"/jobs/{van.number}/oil?nominal=2.4&hole=900&up=6"))
    assert "inside the housing" in page
    van.choices = {**van.choices, "differential": "clutch"}
    van.save()
    assert "friction modifier" in words(pages.get(f"/jobs/{van.number}/oil"))
    page = words(post(pages, van, "oil", do="oil", grade="GL-5 75W-90", volume="2.3", by="customer"))
    assert "2.30 qt" in page
    assert "You fill it" in words(pages.get(f"/jobs/{van.number}/leaflet"))


def test_a_break_in_is_dated_ticked_and_reminds(pages, owner, van):
    page = words(hand_over(pages, van))
    assert "Easy drive" in page
    van.refresh_from_db()
    assert van.check_due == date(2026, 12, 21)  # 500 miles at 25 a day
    answer = post(pages, van, "break-in", do="leg", leg="1", day=str(timezone.localdate()), who="Ada Horn")
    assert "Next: As usual" in words(answer)
    again = post(pages, van, "break-in", do="leg", leg="1", who="Ada Horn")
    assert "ticked already" in words(again)
    ahead = post(
        pages, van, "break-in", do="leg", leg="2", day=str(timezone.localdate() + timedelta(days=2))
    )
    assert "today or before" in words(ahead)
    calendar = pages.get(f"/jobs/{van.number}/promise.ics").content.decode()
    assert "DTSTART;VALUE=DATE:20261221" in calendar
    Job.objects.filter(pk=van.pk).update(check_due=timezone.localdate() + timedelta(days=3))
    assert "check of the break-in about" in words(pages.get("/"))


def test_the_road_goes_on_after_the_build_sheet_is_signed(pages, owner):
    job = Job.objects.of(owner.shop).get(number=411)
    assert job.state == Job.State.SIGNED
    stands = noted_lines.road_of(job)
    assert stands.outcome.outcome == "gone"
    page = words(post(pages, job, "break-in", do="leg", leg="4", who="Works yard"))
    assert "500-mile check" in page
    sheet = words(pages.get(f"/jobs/{job.number}/sheet"))
    assert "Oil and road" in sheet
    assert "Complaint gone" in sheet


def test_the_leaflet_tells_the_legs_the_oil_and_when_to_stop(pages, van):
    assert "has not been handed over yet" in words(pages.get(f"/jobs/{van.number}/leaflet"))
    hand_over(pages, van)
    page = words(pages.get(f"/jobs/{van.number}/leaflet"))
    for said in ("Easy drive", "500 miles", "Stop, and call us", "The maker's sheet"):
        assert said in page
    assert pages.get(f"/jobs/{van.number}/leaflet.pdf").content[:5] == b"%PDF-"


def test_an_apprentice_writes_the_road_down(apprentice, van):
    client = Client()
    client.force_login(apprentice)
    assert "✓ gone" in words(post(client, van, "road-test", do="outcome", outcome="gone"))


def test_a_page_that_is_behind_writes_nothing(pages, van):
    given = {"version": van.version, "entry": str(uuid.uuid4()), "do": "outcome", "outcome": "gone"}
    pages.post(f"/jobs/{van.number}/road-test", given)
    late = pages.post(f"/jobs/{van.number}/road-test", {**given, "entry": str(uuid.uuid4())})
    assert late.status_code == 409
    assert RoadLine.objects.filter(job=van).count() == 1
    # The same form sent twice is one line.
    pages.post(f"/jobs/{van.number}/road-test", given)
    assert RoadLine.objects.filter(job=van).count() == 1


def test_a_job_file_carries_the_road_without_loss(owner):
    job = Job.objects.of(owner.shop).get(number=411)
    first = seal.sealed(job)
    assert first["road_lines"]
    text = json.dumps(first).encode()
    again, _ = read.read_job(owner, io.BytesIO(text), len(text))
    assert seal.sealed(again)["road_lines"] == first["road_lines"]
    assert noted_lines.road_of(again) == noted_lines.road_of(job)
    assert again.check_due == job.check_due
