"""Another shop's rows do not exist here: every page, every form, every list."""

from __future__ import annotations

import pytest
from django.urls import reverse

from shop.jobs.models import Job, Reading
from shop.people.models import User
from shop.specs.models import SpecSheet
from shop.stock.models import ShimLot

PAGES = [
    "bench",
    "sheet",
    "sheet-pdf",
    "job-json",
    "readings-csv",
    "pack",
    "take",
    "work",
    "tools",
    "arrival",
    "register",
    "findings",
    "runout",
    "take-runout",
    "spread",
    "torque",
    "photos",
    "heights",
    "pattern-chart",
    "pattern-predicted",
]
FORMS = [
    "reading",
    "undo",
    "way",
    "take-move",
    "sign",
    "reopen",
    "adjusters",
    "fit",
    "mark-pattern",
    "mark-pattern-words",
    "pattern-print",
    "pattern-target",
    "maker-chart",
    "pattern-upload",
    "sleeve",
    "step",
    "station-done",
    "waive-all",
    "timer",
    "photo",
    "tighten",
    "work",
    "tools",
    "arrival",
    "register",
    "findings",
    "runout",
    "clock",
    "spread",
    "torque",
    "heights",
    "confirm-mark",
    "shape",
]


@pytest.fixture
def outside(client, stranger):
    client.force_login(stranger)
    return client


@pytest.mark.parametrize("name", PAGES)
@pytest.mark.parametrize("number", [411, 412])
def test_no_page_of_another_shop_s_job(outside, name, number):
    assert outside.get(reverse(name, args=[number])).status_code == 404


@pytest.mark.parametrize("name", FORMS)
def test_no_form_reaches_another_shop_s_job(outside, name):
    before = Reading.objects.count(), Job.objects.get(number=412).version
    answer = outside.post(
        reverse(name, args=[412]),
        {
            "version": before[1],
            "kind": "backlash",
            "value": "9",
            "station": "backlash",
            "reason": "mine now",
        },
    )
    assert answer.status_code == 404
    assert (Reading.objects.count(), Job.objects.get(number=412).version) == before


def test_nothing_of_another_shop_is_listed(outside, stranger):
    for address in ("/", "/drawer/", "/drawer/make", "/instruments/", "/sheets/", "/people", "/jobs/new"):
        text = outside.get(address).content.decode()
        for word in ("Snow blower", "Post van", "Mattis", "Van rear</a>", "Beam wrench"):
            assert word not in text, f"{word} on {address}"


def test_another_shop_s_sheet_and_shims_are_out_of_reach(outside, owner):
    sheet = SpecSheet.objects.of(owner.shop).first()
    assert outside.get(reverse("edit-sheet", args=[sheet.pk])).status_code == 404
    lot = ShimLot.objects.of(owner.shop).first()
    outside.post(reverse("condition", args=[lot.pk]), {"condition": "damaged"})
    lot.refresh_from_db()
    assert lot.condition == "new"
    answer = outside.post(
        "/jobs/new",
        {
            "title": "X",
            "sheet": sheet.pk,
            "bearings": "new",
            "mark": "0",
            "mark_convention": "longer",
            "arrived_on": "2026-01-02",
        },
    )
    assert answer.status_code == 422
    assert "Select a valid choice" in answer.content.decode()


def test_another_shop_s_person_keeps_the_role(outside, owner):
    person = User.objects.get(username="lio")
    outside.post(reverse("role", args=[person.pk]), {"role": "owner"})
    person.refresh_from_db()
    assert person.role == "apprentice"


def test_a_job_number_is_each_shop_s_own(outside, stranger):
    Job.objects.filter(shop=stranger.shop).delete()
    assert not Job.objects.of(stranger.shop).exists()
    assert Job.objects.of(None).count() == 0


@pytest.mark.parametrize(
    "address",
    ["/", "/jobs/412/", "/drawer/", "/drawer/table.csv", "/instruments/", "/people", "/jobs/412/job.json"],
)
def test_nobody_sees_anything_before_signing_in(client, demo, address):
    answer = client.get(address)
    assert answer.status_code == 302
    assert answer.url.startswith("/sign-in")


def test_a_page_whose_session_ended_is_told_so(client, demo):
    answer = client.post("/jobs/412/reading", {"value": "9"}, headers={"HX-Request": "true"})
    assert answer.status_code == 401
