"""Photos of prints, and prints in files, over HTTP."""

from __future__ import annotations

import io
import json
import time
import uuid

import numpy as np
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client

from axle.simulator.ring_paint import Paint
from axle.stations.pattern import read_print
from shop.drawing.flanks import FlankView
from shop.jobs import loading
from shop.jobs.exchange.read import read_job
from shop.jobs.exchange.write import write_job
from shop.jobs.models import Pattern, Photo
from tests.shop.test_bench import words
from tests.shop.test_pattern_pages import AT, TRUE, axle, job, line, post, snapshot, upload

LOW = tuple((u, v - 0.2) for u, v in TRUE)

# ---- photos


def test_a_photo_is_read_corrected_and_kept(pages):
    raw, corners = snapshot(glare=0.04)
    page = upload(pages, raw)
    assert page.status_code == 200
    photo = Photo.objects.last()
    assert page.redirect_chain[-1][0].startswith(f"/jobs/{AT}/pattern/photo/{photo.pk}")
    given = {"flank": "drive", "compound": "yellow", "corners": json.dumps(corners)}
    found = pages.post(f"/jobs/{AT}/pattern/photo/{photo.pk}/read", given)
    assert "of the flank is wiped" in words(found)
    outlines = found.context["outlines"]
    kept = {
        "version": job().version,
        "entry": str(uuid.uuid4()),
        "outlines": outlines,
        "spread": found.context["spread"],
        "beside": found.context["beside"],
        "place": "1",
        "tooth": "9",
    }
    answer = pages.post(f"/jobs/{AT}/pattern/photo/{photo.pk}", given | kept, follow=True)
    assert "kept, read from the photo" in words(answer)
    row = Pattern.objects.last()
    assert (row.taken, row.photo_entry, row.tooth) == ("photo", photo.entry, 9)
    assert np.mean(row.outline, axis=0) == pytest.approx(np.mean(TRUE, axis=0), abs=0.06)
    assert np.array(row.corners) * [photo.width, photo.height] == pytest.approx(np.array(corners), abs=0.1)
    assert photo.focal == 50
    along, up = row.spread
    assert 0 < along < up < 0.08
    assert [each["tooth"] for each in row.beside]
    mark = axle().state.prints[-1].flanks["drive"].first
    assert mark.noise[1] > mark.noise[0] > along
    again = pages.get(f"/jobs/{AT}/pattern/photo/{photo.pk}?flank=drive")
    assert "of the flank is wiped" in words(again)


def test_the_pattern_as_found_is_drawn_or_read_from_a_photo(pages):
    given = {
        "version": job().version,
        "entry": str(uuid.uuid4()),
        "flank": "coast",
        "line": line("coast", TRUE),
    }
    assert "as found is kept" in words(pages.post(f"/jobs/{AT}/arrival", given, follow=True))
    raw, corners = snapshot()
    upload(pages, raw, found="1")
    photo, view = Photo.objects.last(), FlankView("drive")
    kept = {
        "version": job().version,
        "entry": str(uuid.uuid4()),
        "flank": "drive",
        "compound": "yellow",
        "found": "1",
        "corners": json.dumps(corners),
        "shape": json.dumps([[view.to_picture(u, v) for u, v in TRUE]]),
    }
    assert pages.post(f"/jobs/{AT}/pattern/photo/{photo.pk}", kept).url == f"/jobs/{AT}/arrival#pattern"
    assert set(axle().state.found) == {"drive", "coast"}
    assert Pattern.objects.last().photo_entry == photo.entry


@pytest.mark.parametrize(
    ("more", "said"),
    [
        ({"exposure": 0.002}, "too dark"),
        ({"paint": Paint("")}, "no yellow compound on the flank"),
        ({"colour": "blue"}, "this looks blue"),
        ({"tilt": 20.0, "outline": LOW}, "where its root can be seen"),
    ],
)
def test_a_hopeless_photo_is_not_read(pages, more, said):
    raw, corners = snapshot(**more)
    assert "Point at one flank" in words(upload(pages, raw))
    photo = Photo.objects.last()
    given = {"flank": "drive", "compound": "yellow", "corners": json.dumps(corners)}
    page = words(pages.post(f"/jobs/{AT}/pattern/photo/{photo.pk}/read", given))
    assert "Cannot read this" in page
    assert said in page
    kept = given | {"version": job().version, "entry": str(uuid.uuid4()), "outlines": "[]"}
    assert pages.post(f"/jobs/{AT}/pattern/photo/{photo.pk}", kept).status_code == 422


def test_three_corners_or_crossed_ones_are_refused_in_words(pages):
    raw, corners = snapshot()
    upload(pages, raw)
    address = f"/jobs/{AT}/pattern/photo/{Photo.objects.last().pk}/read"
    for given, said in (
        (corners[:3], "3 points was given; four, or six is wanted"),
        ([corners[0], corners[2], corners[1], corners[3]], "corners that cross"),
        ([[0, 0], *corners[1:]], "a corner at or past the picture's edge"),
    ):
        page = pages.post(address, {"flank": "drive", "compound": "yellow", "corners": json.dumps(given)})
        assert said in words(page).replace("’", "'")


@pytest.mark.parametrize(
    ("raw", "said"),
    [
        (b"not a picture", "a file that is no picture"),
        (b"x" * (21 * 1024 * 1024), "at most 20 MB is wanted"),
    ],
    ids=["text", "bytes"],
)
def test_what_is_no_photo_is_refused_in_words(pages, raw, said):
    count = Photo.objects.count()
    assert said in words(upload(pages, raw))
    assert Photo.objects.count() == count


def test_no_photo_of_another_shop_is_read(client, stranger):
    photo = Photo.objects.filter(job__number=AT).first()
    client.force_login(stranger)
    for address in (f"/jobs/{AT}/pattern/photo/{photo.pk}", f"/jobs/{AT}/pattern/photo/{photo.pk}/read"):
        assert client.post(address, {}).status_code == 404


def phone_address(pages, settings) -> str:
    """Where a phone is led by the square code that is shown at the bench."""
    settings.LASH_PHONE_ADDRESS = "https://lash.workshop.example"
    page = pages.get(f"/jobs/{AT}/pattern/phone")
    assert "<svg" in page.content.decode()
    address = page.context["address"]
    assert address.startswith("https://lash.workshop.example/phone/")
    return address.removeprefix("https://lash.workshop.example")


def test_without_an_address_the_page_says_how_to_set_one(pages, settings):
    settings.LASH_PHONE_ADDRESS = ""
    page = pages.get(f"/jobs/{AT}/pattern/phone")
    assert "LASH_PHONE_ADDRESS" in words(page)
    assert "code" not in page.context


def test_a_phone_adds_photos_to_its_job_under_who_showed_the_code(pages, owner, settings):
    address, phone = phone_address(pages, settings), Client()
    assert f"{job().title} · shown by" in words(phone.get(address))
    raw, _ = snapshot()
    count = Photo.objects.count()
    entry = str(uuid.uuid4())
    for _ in range(2):
        file = SimpleUploadedFile("print.jpg", raw, "image/jpeg")
        assert "It waits at the bench" in words(phone.post(address, {"photo": file, "entry": entry}))
    photo = Photo.objects.last()
    assert Photo.objects.count() == count + 1, "sent twice, kept once"
    assert (photo.job.number, photo.person, photo.step) == (AT, owner, "pattern-print")
    assert "link" in photo.caption
    assert (
        f"pattern/photo/{photo.pk}" in pages.get(f"/jobs/{AT}/?station=pattern&view=photo").content.decode()
    )
    assert phone.get(f"/jobs/{AT}/").url.startswith("/sign-in"), "it opens nothing else"


def test_a_phone_sends_several_photos_at_once(pages, settings):
    address, phone = phone_address(pages, settings), Client()
    raw, _ = snapshot()
    count, entry = Photo.objects.count(), str(uuid.uuid4())
    for _ in range(2):
        files = [SimpleUploadedFile(f"{name}.jpg", raw, "image/jpeg") for name in ("one", "two")]
        files.insert(1, SimpleUploadedFile("note.txt", b"no picture"))
        answer = phone.post(address, {"photo": files, "entry": entry})
        assert answer.status_code == 422, "what was no picture is named, the others are kept"
        assert "2 photos sent" in words(answer)
        assert "note.txt" in words(answer)
    assert Photo.objects.count() == count + 2, "sent twice, each kept once"
    many = [SimpleUploadedFile(f"{n}.jpg", raw, "image/jpeg") for n in range(13)]
    assert "13 pictures" in words(phone.post(address, {"photo": many, "entry": str(uuid.uuid4())}))


def test_a_phone_s_link_that_is_over_or_changed_or_of_somebody_gone_is_refused(
    pages, owner, settings, monkeypatch
):
    address, phone = phone_address(pages, settings), Client()
    assert phone.get(address[:-2] + "xx").status_code == 403
    assert phone.post("/phone/none", {}).status_code == 403
    answer = phone.post(
        address, {"photo": SimpleUploadedFile("a.jpg", b"no picture"), "entry": str(uuid.uuid4())}
    )
    assert (answer.status_code, "no picture" in words(answer)) == (422, True)
    assert phone.post(address, {}).status_code == 422
    owner.is_active = False
    owner.save()
    assert "This link is over" in words(phone.get(address))
    owner.is_active = True
    owner.save()
    now = time.time()
    monkeypatch.setattr("django.core.signing.time.time", lambda: now + 3700)
    assert phone.get(address).status_code == 403


@pytest.mark.parametrize(
    "given",
    [
        {"strokes": "[{}]"},
        {"strokes": '[{"wipes":true,"radius":1e9,"points":[[1,1]]}]'},
        {"strokes": "not json"},
        {"strokes": '[{"wipes":true,"radius":5,"points":[[1e99,1]]}]'},
        {"strokes": '[{"drops": ["x"]}]'},
        {"strokes": '[{"drops": [1e400, 7]}]'},
    ],
)
def test_odd_corrections_are_answered_in_words(pages, given):
    raw, corners = snapshot()
    upload(pages, raw)
    address = f"/jobs/{AT}/pattern/photo/{Photo.objects.last().pk}/read"
    asked = {"flank": "drive", "compound": "yellow", "corners": json.dumps(corners)}
    page = pages.post(address, asked | given)
    assert page.status_code == 200
    assert "was given;" in words(page)


@pytest.mark.parametrize(
    "told", [{"spread": "[1]"}, {"spread": "[2,3]"}, {"beside": '[{"tooth":99}]'}, {"beside": "{"}]
)
def test_an_odd_reading_is_not_kept(pages, told):
    raw, corners = snapshot()
    upload(pages, raw)
    photo = Photo.objects.last()
    kept = {
        "version": job().version,
        "entry": str(uuid.uuid4()),
        "flank": "drive",
        "compound": "yellow",
        "place": "1",
        "corners": json.dumps(corners),
        "outlines": json.dumps([TRUE]),
    }
    answer = pages.post(f"/jobs/{AT}/pattern/photo/{photo.pk}", kept | told)
    assert answer.status_code == 422
    assert "a reading that is none" in words(answer)


def test_the_build_sheet_says_how_the_print_was_made_and_where_it_puts_the_pinion(pages):
    page = words(pages.get("/jobs/411/sheet"))
    assert "Print 1: yellow compound on 4 teeth, load by the brake, turned both ways, 1 turn." in page
    assert "Pinion in place: " in page
    assert "held to a little toe-side." in page


# ---- files


def test_prints_go_out_and_come_in_whole(pages, stranger):
    post(pages, "pattern/print", again="1", places="2", compound="blue")
    post(pages, flank="drive", line=line("drive", TRUE), edge="hard", tooth="3", place="2")
    answer = pages.get(f"/jobs/{AT}/job.json")
    made, keeps = read_job(stranger, io.BytesIO(answer.content), len(answer.content))
    assert keeps
    assert write_job(made) == write_job(job())
    assert read_print(loading.load(made).state) == read_print(axle().state)
