"""A shop of one's own: set up, kept apart from the next one, the demo left, set back and removed."""

from __future__ import annotations

import html
import re

import pytest
from django.test import Client

from demo import PASSWORD
from shop.jobs.models import Job
from shop.people.models import BackupMade, Shop, User
from shop.specs.models import SpecSheet
from shop.stock.models import ShimLot
from tests.shop.conftest import open_van_job, words

FORM = {
    "name": "Untere Schmiede",
    "place": "Talgrund",
    "units": "mm",
    "currency": "CHF",
    "time_zone": "Europe/Zurich",
    "first_name": "Alma",
    "last_name": "Brunn",
    "username": "alma",
    "password": "a-mill-by-the-stream",
}


@pytest.fixture
def empty(demo):
    """An installation of which every shop is removed: as an empty one."""
    from django.utils import timezone

    Shop.objects.update(removed_at=timezone.now())
    return Client()


def test_the_first_page_of_an_empty_installation_makes_a_shop(empty):
    assert empty.get("/sign-in").url == "/set-up"
    assert empty.post("/set-up", FORM).url == "/begin"
    made = Shop.objects.get(name="Untere Schmiede")
    assert (made.place, made.units, made.currency, made.time_zone) == (
        "Talgrund",
        "mm",
        "CHF",
        "Europe/Zurich",
    )
    owner = User.objects.get(username="alma")
    assert (owner.shop, owner.role, owner.units) == (made, "owner", "mm")
    page = words(empty.get("/begin"))
    for line in ("People", "A spec sheet", "Shims", "Gauges", "The first job"):
        assert line in page


def test_nobody_makes_a_second_first_shop(demo):
    client = Client()
    assert client.get("/set-up").url == "/sign-in"
    assert client.post("/set-up", FORM).url == "/sign-in"
    assert not Shop.objects.filter(name=FORM["name"]).exists()


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"name": ""}, "This field is required"),
        ({"units": "furlong"}, "Select a valid choice"),
        ({"time_zone": "Moon/Base"}, "Select a valid choice"),
        ({"username": "alma b"}, "Enter a valid"),
        ({"password": "12345678"}, "too common"),
    ],
)
def test_bad_input_at_set_up_is_answered_in_words(empty, change, said):
    answer = empty.post("/set-up", FORM | change)
    assert answer.status_code == 422
    assert said in words(answer)


def test_the_list_ticks_itself(client, owner):
    client.force_login(owner)
    page = client.get("/begin").content.decode()
    assert page.count('class="is-done"') == 5


def test_a_second_shop_sees_nothing_of_the_first(client, owner):
    client.force_login(owner)
    assert client.get("/shop/another").status_code == 200
    assert client.post("/shop/another", FORM).url == "/begin"
    page = words(client.get("/"))
    assert "Snow blower" not in page
    assert "No jobs yet" in page
    other = Shop.objects.get(name="Untere Schmiede")
    assert not Job.objects.of(other).exists()
    assert not SpecSheet.objects.of(other).exists()
    assert not ShimLot.objects.of(other).exists()
    # Its numbers begin at 1, whatever the other shop's are.
    assert other.next_job_number == 1


def test_a_builder_opens_no_shop_and_removes_none(client, demo):
    client.force_login(User.objects.get(username="mattis"))
    answer = client.post("/shop/another", FORM)
    assert answer.status_code == 422
    assert "Only the owner sets how the shop works" in words(answer)
    client.post("/shop/demo", {"do": "remove"})
    assert Shop.objects.filter(removed_at=None).count() == 1


def test_the_demo_is_removed_and_its_names_are_free(client, owner):
    client.force_login(owner)
    assert client.post("/shop/demo", {"do": "remove"}).url == "/set-up"
    assert Client().post("/sign-in", {"username": "ines", "password": PASSWORD}).status_code == 200
    assert not User.objects.filter(username="ines").exists()
    assert Job.objects.filter(number=411).exists(), "what was written down stays"


def test_only_a_demo_is_removed(client, owner):
    Shop.objects.filter(pk=owner.shop_id).update(is_demo=False)
    client.force_login(owner)
    page = client.post("/shop/demo", {"do": "remove"}, follow=True)
    assert "Only the demo shop can be set back or removed." in words(page)


def test_the_owner_s_page_shows_the_age_of_the_newest_backup(client, owner):
    from datetime import timedelta

    from django.utils import timezone

    client.force_login(owner)
    assert "No backup was made yet" in words(client.get("/shop"))
    BackupMade.objects.create(
        at=timezone.now() - timedelta(hours=5), name="lash-night.tar.gz", size=4_000_000
    )
    assert "✓ The newest is 5 hours old: lash-night.tar.gz" in words(client.get("/shop"))
    BackupMade.objects.update(at=timezone.now() - timedelta(days=4))
    assert "▲ The newest is 4 days old" in words(client.get("/shop"))


# ---- sheets


def sheet_form(client, address: str) -> dict[str, str]:
    """What a browser would send of a sheet's form as it stands."""
    page = client.get(address).content.decode()
    form = page[
        page.index('<form method="post" class="sheet"') : page.index(
            "</form>", page.index('<form method="post" class="sheet"')
        )
    ]
    found = {}
    for tag in re.findall(r"<input[^>]*>", form):
        name, value = re.search(r'name="([^"]+)"', tag), re.search(r'value="([^"]*)"', tag)
        if name:
            found[name[1]] = html.unescape(value[1]) if value else ""
    for name, body in re.findall(r'<select name="([^"]+)"[^>]*>(.*?)</select>', form, re.DOTALL):
        chosen = re.search(r'<option value="([^"]*)" selected', body) or re.search(
            r'<option value="([^"]*)"', body
        )
        found[name] = chosen[1]
    for name, body in re.findall(r'<textarea name="([^"]+)"[^>]*>(.*?)</textarea>', form, re.DOTALL):
        found[name] = body.strip()
    found.pop("csrfmiddlewaretoken", None)
    return found


def test_a_new_sheet_begins_with_pictures_of_the_layouts(client, owner):
    client.force_login(owner)
    page = client.get("/sheets/new").content.decode()
    assert page.count("<svg") >= 4


def test_a_starter_s_figures_are_hints_and_nothing_more(client, owner):
    client.force_login(owner)
    page = client.get("/sheets/new?from=works-van").content.decode()
    low = re.search(r'<input[^>]*name="backlash-low"[^>]*>', page)[0]
    assert 'placeholder="7"' in low
    assert 'value="' not in low
    given = sheet_form(client, "/sheets/new?from=works-van") | {
        "name": "Our own axle",
        "pinion_teeth": "10",
        "ring_teeth": "41",
        "ring_diameter": "222",
        "backlash-low": "6",
        "backlash-high": "10",
    }
    assert client.post("/sheets/new?from=works-van", given).status_code == 302
    made = SpecSheet.objects.get(name="Our own axle")
    values = {value.key: value for value in made.values.all()}
    assert set(values) == {"backlash"}
    assert values["backlash"].source == "maker"


def test_hints_are_in_the_unit_in_which_the_row_begins(client, owner):
    """7 thou are 0.178 mm: a grey 7 beside mm would mean another axle."""
    Shop.objects.filter(pk=owner.shop_id).update(units="mm")
    client.force_login(owner)
    page = client.get("/sheets/new?from=works-van").content.decode()
    low = re.search(r'<input[^>]*name="backlash-low"[^>]*>', page)[0]
    assert 'placeholder="0.178"' in low


@pytest.mark.parametrize(
    ("starter", "has", "has_not"),
    [
        ("works-van", "preload_start", "adjuster_pitch"),
        ("funicular-truck", "cartridge_torque", "cover_torque"),
    ],
)
def test_only_the_rows_that_a_layout_has_are_asked_for(client, owner, starter, has, has_not):
    client.force_login(owner)
    page = client.get(f"/sheets/new?from={starter}").content.decode()
    assert f'name="{has}-high"' in page
    assert f'name="{has_not}-high"' not in page


def test_a_figure_typed_over_a_made_up_one_loses_its_source(client, owner):
    client.force_login(owner)
    sheet = SpecSheet.objects.of(owner.shop).get(name__startswith="Van rear")
    given = sheet_form(client, f"/sheets/{sheet.pk}/")
    assert given["backlash-source"] == "demo"
    client.post(f"/sheets/{sheet.pk}/", given | {"backlash-high": "10"})
    values = {value.key: value.source for value in sheet.values.all()}
    assert values["backlash"] == "not_said"
    assert values["ring_runout"] == "demo"


def test_versions_are_kept_and_say_which_jobs_were_built_to_them(client, owner):
    client.force_login(owner)
    sheet = SpecSheet.objects.of(owner.shop).get(name__startswith="Van rear")
    first = open_van_job(owner)
    given = sheet_form(client, f"/sheets/{sheet.pk}/")
    client.post(f"/sheets/{sheet.pk}/", given | {"backlash-high": "10", "backlash-source": "maker"})
    client.post(f"/sheets/{sheet.pk}/", given | {"backlash-high": "10", "backlash-source": "maker"})
    sheet.refresh_from_db()
    assert sheet.version == 2, "the same again is no new version"
    second = open_van_job(owner)
    assert (first.built_to_version, second.built_to_version) == (1, 2)
    page = words(client.get(f"/sheets/{sheet.pk}/versions/1"))
    assert first.shown_number in page
    assert second.shown_number not in page


def test_a_change_to_a_parent_is_offered_to_its_children(client, owner):
    client.force_login(owner)
    parent = SpecSheet.objects.of(owner.shop).get(name__startswith="Van rear")
    given = sheet_form(client, f"/sheets/new?parent={parent.pk}") | {
        "name": "Van rear, larger ring",
        "ring_diameter": "240",
    }
    assert client.post(f"/sheets/new?parent={parent.pk}", given).status_code == 302
    child = SpecSheet.objects.get(name="Van rear, larger ring")
    assert child.parent == parent
    changed = sheet_form(client, f"/sheets/{parent.pk}/")
    changed |= {"backlash-high": "10", "ring_runout-high": "5"}
    client.post(f"/sheets/{parent.pk}/", changed)
    assert "that one changed" in words(client.get("/sheets/"))
    page = words(client.get(f"/sheets/{child.pk}/"))
    assert "7 to 11 thou" in page
    assert "7 to 10 thou" in page
    client.post(f"/sheets/{child.pk}/follow", {"take": ["backlash"]})
    values = {value.key: value.high for value in child.values.all()}
    assert values["backlash"] == 10
    assert values["ring_runout"] == 6, "what was not ticked stays"
    assert "that one changed" not in words(client.get("/sheets/"))


def test_an_odd_torque_is_asked_about(client, owner):
    client.force_login(owner)
    sheet = SpecSheet.objects.of(owner.shop).get(name__startswith="Van rear")
    given = sheet_form(client, f"/sheets/{sheet.pk}/") | {
        "ring_bolt_torque-low": "5",
        "ring_bolt_torque-high": "6",
        "ring_bolt_torque-unit": "in·lb",
    }
    page = client.post(f"/sheets/{sheet.pk}/", given, follow=True)
    assert "Ring gear bolts: 6 in·lb. Is the unit right?" in words(page)


def test_a_sheet_of_another_shop_is_no_parent_and_no_copy(client, stranger, owner):
    sheet = SpecSheet.objects.of(owner.shop).first()
    client.force_login(stranger)
    for name in ("copy", "parent"):
        assert client.get(f"/sheets/new?{name}={sheet.pk}").status_code == 404
    assert client.post(f"/sheets/{sheet.pk}/follow", {"take": ["backlash"]}).status_code == 404
    assert client.get(f"/sheets/{sheet.pk}/versions/1").status_code == 404
