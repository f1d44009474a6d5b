"""The carrier over HTTP: schools, backlash conditions, planned moves, the book, instruments on the line."""

from __future__ import annotations

import uuid
from datetime import date

import pytest

from axle.layout import Place
from axle.measure.parse import parse
from axle.measure.units import THOU
from shop.jobs import loading
from shop.jobs.actions import opening
from shop.jobs.actions.opening import NewJob
from shop.jobs.models import Job, Reading
from shop.specs.models import SpecSheet
from tests.shop.test_bench import HTMX, send, words

ADJUSTERS = 417


def job(number: int = ADJUSTERS) -> Job:
    return Job.objects.get(number=number)


def post(client, page="carrier", number=ADJUSTERS, **given):
    given = {"version": job(number).version, "entry": str(uuid.uuid4())} | given
    return client.post(f"/jobs/{number}/{page}", given)


def state(number: int = ADJUSTERS):
    return loading.load(job(number)).state


def new_job(axle: str) -> NewJob:
    return NewJob(
        axle,
        "",
        complaint="",
        arrived_on=date(2026, 3, 2),
        promised_on=None,
        new_bearings=True,
        mark=parse("0", THOU),
        mark_convention="longer",
    )


# ---- schools


def test_a_new_job_follows_the_shop_s_usual_school(owner):
    sheet = SpecSheet.objects.of(owner.shop).get(name__startswith="Van rear")
    owner.shop.schools = {"outboard": "feelers"}
    owner.shop.save()
    made = opening.open_job(
        owner,
        sheet,
        new_job("Van"),
    )
    assert loading.load(made).plan.facts["school"] == "feelers"
    owner.shop.schools = {"outboard": "both_sides"}
    owner.shop.save()
    assert loading.load(Job.objects.get(pk=made.pk)).plan.facts["school"] == "feelers", (
        "an open job keeps its own"
    )


def test_another_school_than_the_usual_wants_a_reason(pages):
    refused = post(pages, does="school", school="zero_float")
    assert refused.status_code == 422
    assert "“zero end float” without a reason was given" in words(refused)
    kept = post(pages, does="school", school="zero_float", reason="maker asks for none")
    assert kept.status_code == 302
    assert "maker asks for none" in words(pages.get("/jobs/417/?station=carrier_preload"))
    assert job().reasons == {"school": "maker asks for none"}
    assert post(pages, does="school", school="holes").status_code == 302
    assert job().reasons == {}


def test_a_school_that_the_axle_cannot_follow_is_refused(pages):
    refused = post(pages, does="school", school="feelers", reason="as always")
    assert refused.status_code == 422
    assert "Carrier preload is found by" in words(refused)


def test_the_owner_alone_sets_the_shop_s_ways(client, apprentice, owner):
    client.force_login(apprentice)
    client.post("/people/ways", {"school-outboard": "tap_in"})
    owner.shop.refresh_from_db()
    assert owner.shop.schools["outboard"] == "subtraction"
    client.force_login(owner)
    answer = client.post("/people/ways", {"school-adjusters": "tap_in"}, follow=True)
    assert "“tap-in feel” was given" in words(answer)
    client.post("/people/ways", {"school-outboard": "tap_in", "ring_side": "crown side", "far_side": ""})
    owner.shop.refresh_from_db()
    assert (owner.shop.schools, owner.shop.ring_side_name) == ({"outboard": "tap_in"}, "crown side")
    assert "crown side" in words(client.get("/jobs/412/"))


# ---- backlash


def test_conditions_are_kept_with_a_reading_and_judge_it(pages):
    send(
        pages,
        "9",
        place="2",
        questioned="9",
        lash="1",
        places="4",
        caps="nipped",
        settled="1",
        held="1",
        status=200,
    )
    row = Reading.objects.order_by("-id").first()
    assert row.conditions["caps"] == "nipped"
    page = words(pages.get("/jobs/412/?station=backlash&kind=backlash&place=3"))
    assert "Caps nipped." in page
    assert "s-doubt" in page


@pytest.mark.parametrize(
    ("more", "said"),
    [
        ({"caps": "glued"}, "caps: “glued” was given"),
        ({"lean": "70"}, "0 to 45 ° is wanted"),
        ({"lean": "steep"}, "indicator off its line: “steep” was given"),
        ({"radius": "2"}, "20 to 300 mm is wanted"),
        ({"places": "99"}, "3 to 12 is wanted"),
    ],
)
def test_conditions_that_cannot_be_are_answered_in_words(pages, more, said):
    answer = send(
        pages,
        "9",
        place="2",
        questioned="9",
        lash="1",
        held="1",
        settled="1",
        **({"places": "4"} | more),
        status=422,
    )
    assert said in words(answer)
    assert 'value="9"' in answer.content.decode()


def test_one_place_read_twice_is_questioned(pages):
    count = Reading.objects.count()
    answer = send(pages, "9.1", place="2", twice=False, status=200)
    assert "Place 2 is read already on this setting." in words(answer)
    assert Reading.objects.count() == count
    send(pages, "9.1", place="2", questioned="9.1", status=200)
    newest = Reading.objects.order_by("-id").first()
    assert newest.strikes is not None, "the first stays, struck"


def test_millimetres_typed_for_thousandths_are_questioned(pages):
    answer = words(send(pages, "9 mm", place="2", twice=False, status=200))
    assert "9 mm? That is unusual here. Did you mean 9 thou?" in answer
    assert "That is unusual here" in words(send(pages, "230", place="2", status=200))


def test_more_places_keep_those_that_fall_together(pages):
    send_places = pages.post(
        "/jobs/412/places", {"version": job(412).version, "lash_places": "eight"}, headers=HTMX
    )
    assert send_places.status_code == 200
    standing = loading.load(job(412)).standings["backlash"]
    assert [slot.place for slot in standing.missing] == [2, 4, 6, 8]
    refused = pages.post(
        "/jobs/412/places", {"version": job(412).version, "lash_places": "ninety"}, headers=HTMX
    )
    assert refused.status_code == 422


def test_tap_in_is_kept_as_its_words(pages):
    post(pages, number=412, does="school", school="tap_in", reason="cast shims on this one")
    page = words(pages.get("/jobs/412/?station=carrier_preload&kind=tap_in"))
    assert "light taps" in page
    send(pages, "light taps", kind="tap_in", number=412, station="carrier_preload", status=200)
    assert Reading.objects.order_by("-id").first().as_typed == "light taps"
    assert loading.load(job(412)).standings["carrier_preload"].is_done
    refused = send(pages, "gently", kind="tap_in", number=412, station="carrier_preload", status=422)
    assert "falls in or slides in by hand or light taps or heavy blows is wanted" in words(refused)


# ---- planned moves


def test_a_move_planned_by_hand_names_sides_three_ways_and_is_done(pages):
    page = words(pages.get("/jobs/417/carrier?backlash=10&interference=&deeper="))
    for part in (
        "Ring-gear side · right · “tooth side”",
        "near edge goes",
        "Sum check:",
        "Lock holes near it",
    ):
        assert part in page
    before = dict(state().settings)
    assert post(pages, does="plan", backlash="10", interference="", deeper="").status_code == 302
    after = state().settings
    assert after[Place.RING] - before[Place.RING] == -(after[Place.FAR] - before[Place.FAR]) > 0
    move = job().moves.order_by("-id").first()
    assert {e["label"] for e in move.expected} >= {"Smallest backlash", "Spread around the ring"}


@pytest.mark.parametrize(
    ("query", "said"),
    [
        ("backlash=200", "31.5 thou at the most is wanted. Thousandths or millimetres?"),
        ("backlash=-3", "Gears without backlash lock"),
        ("interference=-2", "It would leave the bearings unloaded"),
        ("interference=27", "that this case takes"),
        ("backlash=nine", "backlash wanted: “nine” was given"),
        ("deeper=2 in-lb", "a length in thou is wanted"),
        ("side_span=9", "span of the carrier's cups, mm: 9 was given"),
        ("housing_rise=hot", "housing warmer by, °C or °F: “hot” was given"),
    ],
)
def test_what_cannot_be_planned_is_said_and_nothing_is_lost(pages, query, said):
    answer = pages.get(f"/jobs/417/carrier?{query}")
    assert answer.status_code == 200
    assert said in words(answer)


def test_nothing_known_of_either_side_is_said(pages):
    assert "Nothing is known of either side yet" in words(
        pages.get("/jobs/413/carrier?backlash=9")
    ) or "holes" in words(pages.get("/jobs/413/carrier?backlash=9"))
    assert "Nothing is known of either side yet" in words(pages.get("/jobs/414/carrier?backlash=9"))
