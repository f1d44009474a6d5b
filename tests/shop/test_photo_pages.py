"""Photos of prints, and prints in files, over HTTP."""

from __future__ import annotations

import io
import json
import uuid

import numpy as np
import pytest

from axle.stations.pattern import read_print
from shop.drawing.flanks import FlankView
from shop.jobs import loading
from shop.jobs.exchange.read import read_job
from shop.jobs.exchange.write import write_job
from shop.jobs.models import Pattern, Photo
from tests.shop.test_bench import words
from tests.shop.test_pattern_pages import AT, TRUE, axle, job, line, post, snapshot, upload

# ---- photos


def test_a_photo_is_read_corrected_and_kept(pages):
    raw, corners = snapshot(glare=0.04, tilt=(10.0, 6.0))
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
        "place": "1",
        "tooth": "9",
    }
    answer = pages.post(f"/jobs/{AT}/pattern/photo/{photo.pk}", given | kept, follow=True)
    assert "kept, read from the photo" in words(answer)
    row = Pattern.objects.last()
    assert (row.taken, row.photo_entry, row.tooth) == ("photo", photo.entry, 9)
    assert np.mean(row.outline, axis=0) == pytest.approx(np.mean(TRUE, axis=0), abs=0.06)
    assert np.array(row.corners) * [photo.width, photo.height] == pytest.approx(np.array(corners), abs=0.1)
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
        ({"compound": ""}, "no yellow compound on the flank"),
        ({"glare": 0.7}, "glare"),
    ],
)
def test_a_hopeless_photo_is_not_read(pages, more, said):
    raw, corners = snapshot(**more)
    assert "Tap" in words(upload(pages, raw))
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
        (corners[:3], "3 points was given; four is wanted"),
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
