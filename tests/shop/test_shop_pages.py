"""Sheets, drawer, people, jobs: pages of the shop, on demo data and on an empty shop."""

from __future__ import annotations

import pytest

from axle.spec.sheet import spec_keys
from shop.jobs.models import Job
from shop.people.models import Shop, User
from shop.specs.forms import SheetForm, starter
from shop.specs.models import SpecSheet
from shop.stock.models import ShimLot


@pytest.fixture
def as_owner(client, owner):
    client.force_login(owner)
    return client


@pytest.fixture
def as_apprentice(client, apprentice):
    client.force_login(apprentice)
    return client


@pytest.fixture
def empty(client, db):
    """The owner of a shop in which nothing is."""
    shop = Shop.objects.create(name="Leere Werkstatt")
    user = User.objects.create_user("pia", password="nothing-here-yet", role="owner", shop=shop)
    client.force_login(user)
    return client


@pytest.mark.parametrize(
    ("address", "said"),
    [
        ("/", "No jobs yet."),
        ("/?q=van", "No job matches “van”."),
        ("/drawer/", "The drawer is empty."),
        ("/sheets/", "No sheets yet."),
        ("/jobs/new", "There is no spec sheet yet"),
        ("/people", "pia"),
    ],
)
def test_an_empty_shop_says_what_to_do(empty, address, said):
    answer = empty.get(address)
    assert answer.status_code == 200
    assert said in answer.content.decode()


@pytest.mark.parametrize(
    ("search", "found"),
    [
        ("blower", {412, 414}),
        ("413", {413}),
        ("post van", {411}),
        ("winter 412", {412}),
        ("0412", {412}),
        ("%", set()),
        ("²", set()),
        ("\x00", set()),
    ],
)
def test_jobs_are_found_by_number_axle_and_customer(as_owner, search, found):
    text = as_owner.get("/", {"q": search}).content.decode()
    assert {n for n in (411, 412, 413, 414) if f"/jobs/{n}/" in text} == found


def test_the_list_shows_where_each_job_stands(as_owner):
    text = " ".join(as_owner.get("/").content.decode().split())
    for words in (
        "out of range: Backlash",
        "out of range: Pattern",
        "Close the backlash",
        "▲ late by",
        "Ines Korb",
    ):
        assert words in text
    # Past the last page stands the first, not an empty one.
    assert "0412" in as_owner.get("/", {"page": 9999}).content.decode()
    part = as_owner.get("/", {"q": "van"}, headers={"HX-Request": "true", "HX-Target": "job-list"})
    assert part.content.decode().lstrip().startswith('<div id="job-list"')


def job_form(**more) -> dict:
    sheet = SpecSheet.objects.filter(name__startswith="Van").first()
    return {
        "title": "Sweeper 4, rear",
        "customer": "Yard",
        "sheet": sheet.pk,
        "bearings": "new",
        "mark": "-2",
        "mark_convention": "longer",
        "arrived_on": "2026-11-02",
        "promised_on": "2026-11-20",
    } | more


def test_a_job_is_opened_with_its_own_copy_of_the_sheet(as_owner):
    answer = as_owner.post("/jobs/new", job_form())
    assert answer.status_code == 302
    job = Job.objects.get(number=419)
    assert job.sheet["values"]["backlash"]["low"] == "7"
    assert (job.mark_typed, float(job.mark_value)) == ("-2", pytest.approx(-0.0508))
    assert job.summary["next"].startswith("Read: side play")


@pytest.mark.parametrize(
    ("field", "value", "said"),
    [
        ("title", "", "This field is required"),
        ("title", "x" * 121, "at most 120"),
        ("mark", "minus two", "mark on the pinion: “minus two” was given"),
        ("mark", "50", "at most 1 mm (0.039 in) is wanted"),
        ("mark", "2 in-lb", "a length in thou is wanted"),
        ("sheet", "999999", "Select a valid choice"),
        ("sheet", "x", "Select a valid choice"),
        ("arrived_on", "soon", "Enter a valid date"),
        ("promised_on", "2026-10-01", "before it arrived"),
        ("mark_convention", "distance", "20 to 300 mm is wanted"),
        ("mark_convention", "sideways", "Select a valid choice"),
        ("bearings", "lost", "Select a valid choice"),
    ],
)
def test_a_job_that_cannot_be_is_refused_in_words(as_owner, field, value, said):
    answer = as_owner.post("/jobs/new", job_form(**{field: value}))
    assert answer.status_code == 422
    assert said in answer.content.decode().replace("&#x27;", "'")
    assert not Job.objects.filter(number=419).exists()


def sheet_form(shop: Shop, key="works-van", **more) -> dict:
    """What a browser sends of the unchanged form: a list's first choice where none is chosen."""
    form = SheetForm(shop, plain=starter(key))
    data = {}
    for name, field in form.fields.items():
        choices = getattr(field, "choices", None)
        data[name] = form[name].value() or (choices[0][0] if choices else "")
    return data | {"name": "New axle"} | more


@pytest.mark.parametrize("key", ["works-van", "funicular-truck", "snow-blower", "side-cover"])
def test_a_sheet_is_begun_from_a_starter(as_owner, owner, key):
    assert as_owner.get(f"/sheets/new?from={key}").status_code == 200
    answer = as_owner.post(f"/sheets/new?from={key}", sheet_form(owner.shop, key))
    assert answer.status_code == 302
    sheet = SpecSheet.objects.get(name="New axle")
    assert sheet.values.get(key="backlash").source == "demo"
    assert sheet.values.count() <= len(spec_keys())


def test_a_sheet_is_changed_and_keeps_its_history(as_owner, owner):
    sheet = SpecSheet.objects.of(owner.shop).get(name__startswith="Van")
    data = sheet_form(owner.shop, name=sheet.name) | {
        "backlash-low": "6",
        "backlash-source": "maker",
        "cap_torque-low": "",
        "cap_torque-high": "",
    }
    assert as_owner.post(f"/sheets/{sheet.pk}/", data).status_code == 302
    value = sheet.values.get(key="backlash")
    assert (value.low, value.source) == (6, "maker")
    assert value.history.count() == 2
    assert not sheet.values.filter(key="cap_torque").exists()


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"name": ""}, "This field is required"),
        ({"name": "VAN rear, integral, solid spacer"}, "There is a sheet"),
        ({"backlash-low": "12"}, "Backlash at the heel"),
        ({"backlash-low": "tight"}, "“tight” was given"),
        ({"backlash-unit": "in·lb"}, "Select a valid choice"),
        ({"carrier_by": "covers"}, "side-cover shims in a housing of the kind “integral”"),
        (
            {"preload_by": "sleeve", "spacer_seat": "shoulder"},
            "a collapsible sleeve with shims on a shoulder",
        ),
        ({"ring_teeth": "8"}, "ring gear teeth: 8 was given"),
        ({"ring_diameter": "9999"}, "ring gear diameter"),
        ({"face_width": "-1"}, "greater than or equal to 0"),
        ({"pinion_teeth": "x"}, "whole number"),
    ],
)
def test_a_sheet_that_cannot_be_is_refused_in_words(as_owner, owner, change, said):
    answer = as_owner.post("/sheets/new", sheet_form(owner.shop, **change))
    text = answer.content.decode().replace("&#x27;", "'")
    assert answer.status_code == 422
    assert said in text or "the lower figure first" in text
    assert not SpecSheet.objects.filter(name="New axle").exists()


def test_an_apprentice_reads_sheets_and_does_not_change_them(as_apprentice, apprentice):
    sheet = SpecSheet.objects.of(apprentice.shop).first()
    assert "An apprentice reads sheets" in as_apprentice.get(f"/sheets/{sheet.pk}/").content.decode()
    answer = as_apprentice.post("/sheets/new", sheet_form(apprentice.shop))
    assert answer.status_code == 422
    assert "An apprentice does not change sheets" in answer.content.decode()


def receive(client, **more):
    data = {
        "family": "depth",
        "miced": "23",
        "nominal": "",
        "quantity": "2",
        "condition": "new",
        "bin": "D9",
    }
    return client.post("/drawer/", data | more)


def test_shims_are_received_and_like_ones_join(as_owner, owner):
    assert receive(as_owner).status_code == 302
    assert receive(as_owner, quantity="3").status_code == 302
    lot = ShimLot.objects.of(owner.shop).get(bin="D9")
    assert (lot.quantity, float(lot.miced), lot.typed) == (5, pytest.approx(23 * 0.0254), "23")
    assert list(lot.movements.values_list("change", flat=True)) == [2, 3]


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"miced": ""}, "a size, as mic&#x27;d or as marked is wanted"),
        ({"miced": "30 30.1 36"}, "readings within 1 thou of each other"),
        ({"miced": "thin"}, "thickness: “thin” was given"),
        ({"miced": "0"}, "more than 0 and under 25 mm"),
        ({"miced": "-5"}, "more than 0 and under 25 mm"),
        ({"miced": "5 in"}, "Check the unit."),
        ({"nominal": "5 in-lb"}, "a length in thou is wanted"),
        ({"quantity": "0"}, "greater than or equal to 1"),
        ({"quantity": "9999"}, "less than or equal to 500"),
        ({"family": "roof"}, "Select a valid choice"),
    ],
)
def test_shims_that_cannot_be_are_refused(as_owner, owner, change, said):
    before = ShimLot.objects.count()
    answer = receive(as_owner, **change)
    assert answer.status_code == 422
    assert said in answer.content.decode()
    assert ShimLot.objects.count() == before


def test_a_lot_is_called_damaged_and_sound_again(as_owner, owner):
    lot = ShimLot.objects.of(owner.shop).filter(family="depth", condition="new").first()
    as_owner.post(f"/drawer/{lot.pk}/condition", {"condition": "damaged"})
    lot.refresh_from_db()
    assert lot.condition == "damaged"
    answer = as_owner.post(f"/drawer/{lot.pk}/condition", {"condition": "bent"}, follow=True)
    assert "condition: “bent” was given" in answer.content.decode()
    answer = as_owner.post("/drawer/999999/condition", {"condition": "new"}, follow=True)
    assert "not in this shop&#x27;s drawer" in answer.content.decode()


def person(**more) -> dict:
    return {
        "first_name": "Uma",
        "last_name": "Rey",
        "username": "uma",
        "role": "builder",
        "password": "a-long-way-down",
    } | more


def test_the_owner_lets_people_in(as_owner, owner):
    assert as_owner.post("/people", person()).status_code == 302
    uma = User.objects.get(username="uma")
    assert (uma.shop, uma.role) == (owner.shop, "builder")
    assert uma.check_password("a-long-way-down")


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"username": "mattis"}, "“mattis” is taken"),
        ({"password": "short"}, "too short"),
        ({"password": "password123"}, "too common"),
        ({"username": "u m a"}, "valid"),
        ({"role": "king"}, "valid choice"),
    ],
)
def test_a_person_who_cannot_be_is_refused(as_owner, change, said):
    answer = as_owner.post("/people", person(**change))
    assert answer.status_code == 422
    assert said in answer.content.decode()


def test_roles_are_the_owner_s_to_give(client, owner, apprentice):
    client.force_login(apprentice)
    answer = client.post("/people", person(), follow=True)
    assert "Only the owner lets people in and go." in answer.content.decode()
    client.post(f"/people/{apprentice.pk}/role", {"role": "owner"})
    apprentice.refresh_from_db()
    assert apprentice.role == "apprentice"
    client.force_login(owner)
    client.post(f"/people/{apprentice.pk}/role", {"role": "builder"})
    apprentice.refresh_from_db()
    assert apprentice.role == "builder"
    answer = client.post(f"/people/{owner.pk}/role", {"role": "builder"}, follow=True)
    assert "A shop keeps at least one owner." in answer.content.decode()


def test_signing_in_is_throttled(client, demo):
    given = {"username": "ines", "password": "wrong"}
    answers = [client.post("/sign-in", given).status_code for _ in range(9)]
    assert answers[0] == 200
    assert answers[-1] == 429
    right = client.post("/sign-in", {"username": "ines", "password": "snow-on-the-pass"})
    assert right.status_code == 429
    # Somebody else's name still signs in from the same bench.
    other = client.post("/sign-in", {"username": "mattis", "password": "snow-on-the-pass"})
    assert other.status_code == 302


def test_each_reads_in_chosen_units(as_owner, owner):
    as_owner.post("/me/units", {"units": "mm", "back": "/jobs/412/"})
    owner.refresh_from_db()
    assert owner.units == "mm"
    assert "0.287" in as_owner.get("/jobs/412/").content.decode()
    answer = as_owner.post("/me/units", {"units": "furlong", "back": "https://elsewhere.invalid/"})
    assert answer.url == "/"
    owner.refresh_from_db()
    assert owner.units == "mm"


def test_answers_carry_a_strict_policy(as_owner):
    answer = as_owner.get("/")
    policy = answer["Content-Security-Policy"]
    assert "script-src 'self'" in policy
    assert "unsafe" not in policy
    assert "default-src 'none'" in policy
    assert answer["X-Frame-Options"] == "DENY"
    assert answer["X-Content-Type-Options"] == "nosniff"
    assert answer["Referrer-Policy"] == "same-origin"


def test_what_leads_nowhere_is_said(as_owner):
    answer = as_owner.get("/jobs/9999/")
    assert answer.status_code == 404
    assert "Not in this shop" in answer.content.decode()


def test_a_form_without_its_token_is_told_to_reload(owner):
    from django.test import Client

    client = Client(enforce_csrf_checks=True)
    client.force_login(owner)
    answer = client.post("/me/units", {"units": "mm"})
    assert answer.status_code == 403
    assert "from before you signed in" in answer.content.decode()


def test_health(client, db):
    assert client.get("/healthy").json() == {"healthy": True}
