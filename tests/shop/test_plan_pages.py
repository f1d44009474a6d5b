"""The plan's pages: hours, the board, moving a stretch, calendars, the owner's page."""

from __future__ import annotations

import json
from datetime import date, datetime, timedelta

import pytest
from django.test import Client
from django.urls import reverse
from django.utils import timezone
from icalendar import Calendar

from shop.jobs.models import Job
from shop.people.models import Absence, PersonHours, Shop, ShopTerms, User
from shop.planning import plan as plans
from shop.planning.inputs import gather
from shop.planning.models import CalendarLink, KeptPlan, Pin
from shop.planning.plan import PinRequest
from tests.axle.schedule_check import faults
from tests.shop.conftest import words


def next_monday() -> date:
    today = timezone.localdate()
    return today + timedelta(days=7 - today.weekday())


def test_the_plan_of_the_demo_is_sound_and_shows_every_open_job(pages, owner):
    projected = plans.projected(owner.shop)
    assert not faults(projected.inputs.problem, projected.schedule)
    text = words(pages.get("/plan"))
    open_jobs = Job.objects.of(owner.shop).filter(practice=False, state=Job.State.OPEN)
    for job in open_jobs:
        assert job.title in text
    assert "Promises" in text
    for person in ("Ines Korb", "Mattis Oran", "Lio Feld"):
        assert person in text


def test_the_plan_is_made_once_and_says_what_it_is_worth(pages, owner):
    kept = KeptPlan.objects.get(shop=owner.shop)
    answer = pages.post("/plan/make", {"version": kept.version}, follow=True)
    assert "The plan is made" in words(answer)
    fresh = KeptPlan.objects.get(shop=owner.shop)
    assert fresh.version == kept.version + 1
    assert fresh.found["late"] <= fresh.found["simple"] + 1e-6
    for row in fresh.found["jobs"].values():
        assert row["days"] == sorted(row["days"])
    # A page that is behind makes no second plan over it.
    answer = pages.post("/plan/make", {"version": kept.version})
    assert answer.status_code == 422
    assert "made another plan meanwhile" in words(answer)


def test_a_stretch_is_moved_once_its_consequence_was_seen(pages, owner):
    projected = plans.projected(owner.shop)
    key = next(p.key for p in projected.schedule.placed if "414:" in p.key and "block" not in p.key)
    step = key.split(":")[1]
    Pin.objects.all().delete()
    given = {"job": "414", "step": step, "day": str(next_monday()), "time": "10:00", "person": ""}
    looked = pages.post("/plan/move", {**given, "do": "look"})
    assert "What follows, not kept yet" in words(looked)
    assert not Pin.objects.exists()
    pages.post("/plan/move", {**given, "do": "keep"})
    pin = Pin.objects.get()
    assert timezone.localtime(pin.starts_at).hour == 10
    after = plans.projected(owner.shop)
    placed = after.schedule.by_key[f"414:{step}"]
    assert after.inputs.clock.moment(placed.start) >= pin.starts_at
    pages.post("/plan/move", {"do": "free", "job": "414", "step": step})
    assert not Pin.objects.exists()


@pytest.mark.parametrize(
    ("given", "said"),
    [
        ({"day": "yesterday", "time": ""}, "a day and a time"),
        ({"day": "2020-01-01", "time": "10:00"}, "a time to come"),
        ({"day": "next", "time": "3:00"}, "a day and a time"),
        ({"person": "999999"}, "not planned in this shop"),
        ({"step": "no-such-step", "person": "1"}, "still to be done"),
        ({"job": "9999", "person": "1"}, "not in the plan"),
        ({}, "neither a time nor a person"),
        ({"share": "nowhere"}, "a share of its width"),
        ({"share": "NaN"}, "a share of its width"),
    ],
)
def test_what_cannot_be_moved_is_refused_in_words(pages, owner, given, said):
    step = gather(owner.shop).works["414"].steps[0].step
    answer = pages.post("/plan/move", {"job": "414", "step": step, "do": "look", **given})
    assert answer.status_code == 422
    assert said in words(answer)
    assert Pin.objects.count() <= 1


def test_a_bar_dropped_outside_hours_lands_within_them_or_is_refused(pages, owner):
    step = gather(owner.shop).works["414"].steps[0].step
    for share in ("0", "0.5", "1", "7"):
        answer = pages.post("/plan/move", {"job": "414", "step": step, "do": "look", "share": share})
        assert answer.status_code in (200, 422)


def test_a_person_s_day_goes_step_by_step(pages, owner):
    placed = plans.projected(owner.shop)
    first = placed.schedule.placed[0]
    day = placed.inputs.clock.moment(first.start).date()
    text = words(pages.get(f"/plan/people/{first.person}?day={day}"))
    assert "Job" in text
    assert pages.get(f"/plan/people/{first.person}?day=never").status_code == 200
    assert pages.get("/plan/people/999999").status_code == 404


def test_hours_machines_and_rates_are_kept_and_refused_in_words(pages, owner):
    week = {f"day-{n}": "9-12" for n in range(5)}
    pages.post("/shop/hours", {"do": "hours", **week, "country": "AT", "region": "5"})
    terms = ShopTerms.objects.get(shop=owner.shop)
    assert terms.week["0"] == "9-12"
    spans = gather(owner.shop).problem.shop_hours.spans
    assert all(low % 1440 == 540 for low, _ in spans)
    for given, said in (
        ({"do": "hours"}, "hours on one day or more"),
        ({"do": "hours", **week, "day-0": "12-9"}, "ends after it begins"),
        ({"do": "hours", **week, "country": "XX"}, "two letters"),
        ({"do": "hours", **week, "country": "AT", "region": "nowhere"}, "region"),
        ({"do": "machines", "machine-bench": "0"}, "1 or more"),
        ({"do": "machines", "machine-bench": "1", "machine-press": "many"}, "0 to 50"),
        ({"do": "money", "rate-builder": "-5"}, "0 to"),
        ({"do": "money", "tax": "90"}, "0 to 50"),
        ({"do": "money", "promise_at": "20"}, "50 to 99"),
        ({"do": "person", "person": "999999"}, "does not work in this shop"),
        ({"do": "nothing"}, "hours, machines, money or person"),
    ):
        answer = pages.post("/shop/hours", given)
        assert answer.status_code == 422, given
        assert said in words(answer), given


def test_a_public_holiday_and_an_absence_are_free(pages, owner):
    lio = User.objects.get(username="lio")
    monday = next_monday()
    answer = pages.post(
        "/shop/hours/absence", {"person": lio.pk, "first": str(monday), "last": str(monday)}, follow=True
    )
    assert "the plan goes around it" in words(answer)
    inputs = gather(owner.shop)
    low = inputs.clock.at(monday)
    assert not [s for s in inputs.hours[str(lio.pk)].spans if low <= s[0] < low + 1440]
    for given, said in (
        ({"person": lio.pk, "first": "soon"}, "a day, as"),
        ({"person": lio.pk, "first": "2027-02-02", "last": "2027-02-01"}, "or later"),
        ({"person": "0", "first": "2027-02-02"}, "does not work in this shop"),
    ):
        assert said in words(pages.post("/shop/hours/absence", given, follow=True))
    row = Absence.objects.filter(user=lio, first=monday).first()
    pages.post("/shop/hours/absence", {"back": row.pk})
    assert not Absence.objects.filter(pk=row.pk).exists()


def test_somebody_who_may_nothing_leaves_the_job_out_in_words(pages, owner):
    for person in User.objects.filter(shop=owner.shop):
        PersonHours.objects.update_or_create(user=person, defaults={"may": ["arrival"], "week": {}})
    text = words(pages.get("/plan"))
    assert "is not in the plan" in text
    assert "nobody for" in text


def test_hours_too_short_for_what_may_not_pause_are_said_on_every_page(pages, owner):
    pages.post("/shop/hours", {"do": "hours", **{f"day-{n}": "9-9:10" for n in range(5)}})
    for page in ("/plan", "/jobs/415/money", "/shop/standing", "/orders"):
        assert pages.get(page).status_code == 200
    assert "has to fit between two breaks" in words(pages.get("/plan"))
    version = KeptPlan.objects.get(shop=owner.shop).version
    answer = pages.post("/plan/make", {"version": version})
    assert answer.status_code == 422
    assert "has to fit between two breaks" in words(answer)


def test_a_step_begun_yesterday_evening_has_not_lasted_all_night(owner):
    job = Job.objects.of(owner.shop).get(number=415)
    kept = job.summary["work"]
    friday = timezone.make_aware(datetime(2026, 11, 20, 16, 20))
    kept["begun"] = {"step": kept["steps"][0], "person": owner.pk, "at": friday.isoformat()}
    Job.objects.filter(pk=job.pk).update(summary=job.summary)
    monday = timezone.make_aware(datetime(2026, 11, 23, 7, 50))
    assert gather(owner.shop, monday).works["415"].begun.minutes == pytest.approx(30)


def test_a_calendar_is_read_at_a_secret_address_until_it_is_withdrawn(pages, owner):
    page = pages.post("/plan/calendar", {"whose": "shop"}, follow=True)
    link = CalendarLink.objects.get()
    address = reverse("plan-feed", args=[link.secret])
    assert address in words(page)
    assert address not in words(pages.get("/plan")), "an address is shown once"
    answer = Client().get(address)
    assert answer["Content-Type"].startswith("text/calendar")
    raw = answer.content
    # RFC 5545: lines end in CRLF (3.1), none is longer than 75 octets (3.1), the calendar has a version and a
    # product (3.6), each event a UID and a DTSTAMP (3.6.1).
    assert raw.count(b"\n") == raw.count(b"\r\n")
    assert max(len(line) for line in raw.split(b"\r\n")) <= 75
    read = Calendar.from_ical(raw)
    assert str(read["version"]) == "2.0"
    assert read["prodid"]
    events = read.walk("VEVENT")
    assert events
    seen = set()
    for event in events:
        assert event["uid"] not in seen
        seen.add(event["uid"])
        assert event["dtstamp"].dt.tzinfo is not None
        assert event["dtend"].dt > event["dtstart"].dt
    stretches = [e for e in events if isinstance(e["dtstart"].dt, datetime)]
    placed = plans.projected(owner.shop).schedule.placed
    assert len(stretches) == len(placed)
    pages.post("/plan/calendar", {"withdraw": link.pk})
    assert Client().get(address).status_code == 404
    assert Client().get(reverse("plan-feed", args=["guessed"])).status_code == 404


def test_an_apprentice_makes_a_calendar_of_its_own_only(apprentice, owner):
    client = Client()
    client.force_login(apprentice)
    text = words(client.post("/plan/calendar", {"whose": "shop"}, follow=True))
    assert "An apprentice does not change the plan" in text
    client.post("/plan/calendar", {"whose": str(apprentice.pk)})
    assert CalendarLink.objects.get().person == apprentice


def test_a_promise_is_an_event_of_its_own(pages, owner):
    read = Calendar.from_ical(pages.get("/jobs/412/promise.ics").content)
    (event,) = read.walk("VEVENT")
    assert event["dtstart"].dt == Job.objects.of(owner.shop).get(number=412).promised_on
    Job.objects.of(owner.shop).filter(number=412).update(promised_on=None)
    assert "promise a day first" in words(pages.get("/jobs/412/promise.ics", follow=True))


def test_the_owner_s_page_is_the_owner_s(pages, apprentice):
    assert "jobs in hand" in words(pages.get("/shop/standing"))
    client = Client()
    client.force_login(apprentice)
    answer = client.get("/shop/standing")
    assert answer.status_code == 403
    assert "Only the owner" in words(answer)


def test_an_empty_shop_has_a_plan_page_that_says_what_to_do(stranger):
    client = Client()
    client.force_login(stranger)
    text = words(client.get("/plan"))
    assert "No job is open" in text
    stranger.role = "owner"
    stranger.save(update_fields=["role"])
    assert "no open job" in words(client.post("/plan/make", {"version": "0"}))
    assert client.get("/orders").status_code == 200
    assert client.get("/shop/standing").status_code == 200
    assert Shop.objects.filter(pk=stranger.shop_id).exists()


def test_the_plan_follows_a_step_that_is_done(pages, owner):
    before = gather(owner.shop).works["414"]
    job = Job.objects.of(owner.shop).get(number=414)
    step = next(s.step for s in before.steps if s.step == job.summary["step"] or True)
    entry = "6b0f3a52-52b1-4a1e-9c33-1f5b8a1e2d3c"
    answer = pages.post(
        "/jobs/414/step",
        {"version": job.version, "step": step, "mark": "done", "entry": entry, "knowing": "1"},
    )
    assert answer.status_code in (200, 302, 422)
    after = gather(owner.shop).works["414"]
    assert len(after.steps) <= len(before.steps)
    assert json.dumps(Job.objects.of(owner.shop).get(number=414).summary["work"])


def test_a_wish_without_a_person_or_a_time_is_none(owner):
    step = gather(owner.shop).works["414"].steps[0].step
    with pytest.raises(Exception, match="neither a time nor a person"):
        plans.pin(owner, PinRequest(414, step))
