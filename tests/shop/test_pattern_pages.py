"""The pattern over HTTP: marks of every kind, places, repeats, targets, the map, photos, files."""

from __future__ import annotations

import json
import uuid
from functools import lru_cache

import numpy as np
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from axle.contact.gears import cut_of
from axle.layout import Place
from axle.simulator.ring_scenes import as_file, print_snap
from axle.stations.pattern import read_print
from axle.stations.pattern_map import print_map
from demo.player import Bench
from shop.drawing.flanks import FlankView
from shop.jobs import loading
from shop.jobs.job_axle import JobAxle
from shop.jobs.models import Job, Pattern, PrintMade
from shop.specs.models import SpecSheet
from tests.shop.test_bench import HTMX, words

AT = 418
TRUE = ((0.28, 0.3), (0.4, 0.22), (0.6, 0.3), (0.62, 0.6), (0.5, 0.74), (0.34, 0.66))


def job(number: int = AT) -> Job:
    return Job.objects.filter(number=number).earliest("pk")


def axle(number: int = AT) -> JobAxle:
    return loading.load(job(number))


def post(client, page="pattern", number=AT, status=200, **given):
    given = {"version": job(number).version, "entry": str(uuid.uuid4())} | given
    answer = client.post(f"/jobs/{number}/{page}", given, headers=HTMX)
    assert answer.status_code == status, words(answer)[:400]
    return answer


def line(flank: str, outline) -> str:
    view = FlankView(flank)
    return json.dumps([view.to_picture(u, v) for u, v in outline])


def snapshot(outline=TRUE, **more) -> tuple[bytes, list[list[float]]]:
    """A picture of a print as a JPEG, with the true places of its drive flank in its pixels."""
    gears = axle().state.gears
    return _drawn(cut_of(gears), outline, gears.drive_convex, tuple(more.items()))


@lru_cache(maxsize=16)
def _drawn(item, outline, convex, more) -> tuple[bytes, list[list[float]]]:
    scene = {"colour": "yellow", "seed": 3, "size": (880, 660), **dict(more)}
    snap = print_snap(item, outline, convex=convex, **scene)
    return as_file(snap), snap.shot.points[0].tolist()


def upload(client, raw, **given):
    given = {"version": job().version, "entry": str(uuid.uuid4()), "flank": "drive", **given}
    file = SimpleUploadedFile("print.jpg", raw, "image/jpeg")
    return client.post(f"/jobs/{AT}/pattern/photo", given | {"photo": file}, follow=True)


# ---- marks


def test_a_line_drawn_around_is_the_patch(pages):
    post(pages, flank="coast", line=line("coast", TRUE), edge="hard", strength="dark", tooth="14")
    row = Pattern.objects.last()
    assert (row.flank, row.edge, row.strength, row.tooth, row.place) == ("coast", "hard", "dark", 14, 1)
    us, vs = np.array(row.outline).T
    assert (us.min(), us.max(), vs.min(), vs.max()) == pytest.approx((0.28, 0.62, 0.22, 0.74), abs=0.01)


def test_one_more_patch_is_added_and_dragged_corners_keep_how_it_was_seen(pages):
    post(pages, flank="drive", line=line("drive", TRUE), strength="faint")
    small = [(0.7, 0.4), (0.8, 0.4), (0.8, 0.6), (0.7, 0.6)]
    post(pages, flank="drive", line=line("drive", small), strength="faint", add="1")
    assert len(Pattern.objects.last().more) == 1
    view = FlankView("drive")
    moved = [
        [view.to_picture(u, v) for u, v in shape] for shape in (TRUE, [(u, v - 0.1) for u, v in small])
    ]
    post(pages, flank="drive", shape=json.dumps(moved))
    row = Pattern.objects.last()
    assert (row.strength, len(row.more)) == ("faint", 1)
    assert min(v for _, v in row.more[0]) == pytest.approx(0.3, abs=1e-3)


def test_three_words_a_flank_mark_both_at_once(pages):
    count = Pattern.objects.count()
    given = {
        f"{f}-{n}": w
        for f in ("drive", "coast")
        for n, w in (("height", "low"), ("length", "to the toe"), ("size", "usual"))
    }
    entries = {f"{flank}-entry": str(uuid.uuid4()) for flank in ("drive", "coast")}
    answer = post(pages, "pattern/words", **given, **entries)
    assert Pattern.objects.count() == count + 2
    assert {row.taken for row in Pattern.objects.order_by("-id")[:2]} == {"quick"}
    assert "too deep" in words(answer)
    post(pages, "pattern/words", **given, **entries)
    assert Pattern.objects.count() == count + 2, "the same form sent again is harmless"


@pytest.mark.parametrize(
    ("form", "given", "said"),
    [
        ("pattern", {"flank": "roof", "line": "[[60,60],[500,150]]"}, "drive or coast is wanted"),
        ("pattern", {"flank": "drive", "line": "[[1,1]]"}, "a line drawn around the wiped area"),
        ("pattern", {"flank": "drive", "line": "][" * 9}, "places on the drawing"),
        ("pattern", {"flank": "drive", "line": "[[NaN, 1], [2, 2]]"}, "places on the drawing"),
        ("pattern", {"flank": "drive", "shape": "[" * 500}, "places on the drawing"),
        (
            "pattern",
            {"flank": "drive", "shape": "[[[50,150],[50,150],[50,150]]]"},
            "an outline without area",
        ),
        ("pattern", {"flank": "drive", "line": "[[60,60],[500,150]]", "edge": "torn"}, "feathered or hard"),
        ("pattern", {"flank": "drive", "line": "[[60,60],[500,150]]", "tooth": "140"}, "1 to 80"),
        ("pattern", {"flank": "drive", "line": "[[60,60],[500,150]]", "place": "40"}, "1 to 12"),
        ("pattern/words", {"drive-height": "so so"}, "patch height: “so so” was given"),
        ("pattern/print", {"turns": "a few"}, "print, turns: “a few” was given; a number is wanted"),
        ("pattern/print", {"places": "40"}, "print, places: 40 was given; 1 to 12 is wanted"),
        ("pattern/print", {"compound": "green"}, "yellow or white or blue or red is wanted"),
        ("pattern/target", {"aim": "old"}, "target: “old” was given; toe or central is wanted"),
        ("pattern/maker", {"flank": "drive", "toe": "40", "heel": "20"}, "drive patch, root end"),
    ],
)
def test_what_cannot_be_marked_is_refused_in_words(pages, form, given, said):
    before = Pattern.objects.count(), PrintMade.objects.count(), job().version
    assert said in words(post(pages, form, status=422, **given))
    assert (Pattern.objects.count(), PrintMade.objects.count(), job().version) == before


# ---- places and repeats


def test_three_places_are_asked_for_one_after_another(pages):
    post(pages, "pattern/print", again="1", places="3", turns="1")
    for place in (1, 2, 3):
        page = words(pages.get(f"/jobs/{AT}/?station=pattern"))
        assert f"mark the drive flank, place {place}" in page
        for flank in ("drive", "coast"):
            answer = post(pages, flank=flank, line=line(flank, TRUE), place=str(place), view="draw")
    assert "no more wander than a print's own scatter" in words(answer).replace("’", "'")
    assert set(read_print(axle().state).centroids.__dict__) >= {"convex", "concave"}


def test_a_pattern_that_wanders_is_said(pages):
    post(pages, "pattern/print", again="1", places="3")
    for place, up in ((1, 0.12), (2, -0.08), (3, -0.04)):
        for flank in ("drive", "coast"):
            shifted = [(u, v + up) for u, v in TRUE]
            answer = post(pages, flank=flank, line=line(flank, shifted), place=str(place), view="draw")
    page = words(answer)
    assert "Wanders around the ring gear by" in page
    assert "3 places do not tell the ring gear's turn from the pinion's" in page.replace("’", "'")


def test_more_than_one_turn_warns_that_runout_averages_out(pages):
    assert "4 turns: runout averages out" in words(post(pages, "pattern/print", turns="4"))


def test_a_second_print_that_disagrees_is_printed_again(pages):
    post(pages, "pattern/print", again="1", places="1")
    assert axle().print_number == 2
    high = [(u, min(v + 0.24, 1.0)) for u, v in TRUE]
    for flank in ("drive", "coast"):
        answer = post(pages, flank=flank, line=line(flank, high), view="draw")
    assert "Prints of this assembly disagree by" in words(answer)
    assert axle().standings["pattern"].result.words == "unclear"


def test_a_new_assembly_keeps_how_prints_are_made_and_shows_the_old_verdict_as_old(pages, owner):
    Bench(owner, job()).fit(Place.DEPTH, "33")
    page = words(pages.get(f"/jobs/{AT}/?station=pattern"))
    assert "What assembly" in page
    assert "Print this assembly." in page
    assert "is-nearest" not in page
    # three places, as told of the print before, wander as three places do
    for place, up in ((1, 0.1), (2, -0.06), (3, -0.06)):
        for flank in ("drive", "coast"):
            shifted = [(u, v + up) for u, v in TRUE]
            post(pages, flank=flank, line=line(flank, shifted), place=str(place), view="draw")
    assert "Wanders around the ring gear by" in words(pages.get(f"/jobs/{AT}/?station=pattern"))


# ---- targets


def test_the_maker_s_chart_is_kept_with_the_gears_and_held_to(pages, owner):
    outline = [(0.3, 0.4), (0.7, 0.4), (0.7, 0.9), (0.3, 0.9)]
    for flank in ("drive", "coast"):
        post(pages, "pattern/maker", flank=flank, line=line(flank, outline))
    assert set(job().sheet["chart"]) == {"drive", "coast"}
    sheet = SpecSheet.objects.of(owner.shop).get(name=job().sheet["name"])
    assert set(sheet.chart) == {"drive", "coast"}
    page = words(pages.get(f"/jobs/{AT}/?station=pattern"))
    assert "Held to the maker's chart." in page.replace("’", "'")
    assert "To a little toe-side instead:" in page
    post(pages, "pattern/target", aim="central")
    assert "Held to central." in words(pages.get(f"/jobs/{AT}/?station=pattern"))
    post(pages, "pattern/target", aim="chart")
    post(pages, "pattern/maker", drop="1")
    assert "chart" not in job().sheet
    # a job opened later has the chart from its sheet
    assert pages.get(f"/sheets/{sheet.pk}/").content.decode().count('class="flank flank-') == 2
    sheet.refresh_from_db()
    assert set(sheet.chart) == {"drive", "coast"}


def test_an_apprentice_does_not_draw_the_maker_s_chart(client, apprentice):
    client.force_login(apprentice)
    answer = post(client, "pattern/maker", status=422, flank="drive", line=line("drive", TRUE))
    assert "Ask a builder" in words(answer)


# ---- the map


def test_the_sliders_ask_for_the_pattern_at_a_place(pages):
    found = pages.get(f"/jobs/{AT}/pattern/predicted?depth=4&ring=-1").json()
    assert (found["depth"], found["ring"]) == ("4.0 deep", "1.0 near")
    outlines = print_map(axle().state).at(4 * 0.0254, -0.0254).outlines
    x, y = (float(n) for n in found["drive"][1:].split(" L")[0].split())
    assert (x, y) == pytest.approx(FlankView("drive").to_picture(*outlines["drive"][0][0]), abs=0.1)
    for query, said in (
        ("depth=&ring=0", "depth: nothing was given"),
        ("depth=0&ring=x", "ring: “x” was given"),
        ("depth=900&ring=0", "at most 1 mm either way"),
    ):
        answer = pages.get(f"/jobs/{AT}/pattern/predicted?{query}")
        assert answer.status_code == 422
        assert said in answer.json()["error"]


def test_the_chart_marks_one_cell_and_says_what_was_taken_for_the_gears(pages):
    page = pages.get(f"/jobs/{AT}/pattern/chart").content.decode()
    assert page.count("is-nearest") == 1
    assert page.count('class="cell"') == 49
    assert "usual proportion of the family" in page
    assert "the job's sheet" in page.replace("&#x27;", "'")
    bench = pages.get(f"/jobs/{AT}/?station=pattern").content.decode()
    assert bench.count('class="cell"') == 15


def test_gears_that_cannot_be_computed_are_said_and_the_page_still_works(pages):
    held = job()
    held.sheet["gears"] |= {"pinion_teeth": 20, "ring_teeth": 41}
    held.save()
    for address in ("?station=pattern", "?station=pattern&view=compare", "pattern/chart"):
        answer = pages.get(f"/jobs/{AT}/{address}")
        assert answer.status_code == 200
        assert "2.5 to 7.2 for a computed pattern" in words(answer)
    assert pages.get(f"/jobs/{AT}/pattern/predicted?depth=1&ring=0").status_code == 422


def test_a_sheet_may_know_no_more_than_teeth_and_diameter(pages, owner):
    sheet = SpecSheet.objects.of(owner.shop).get(name=job().sheet["name"])
    page = pages.get(f"/sheets/{sheet.pk}/")
    form = page.context["form"]
    given = {f.name: f.value() for f in form if f.value() is not None}
    given |= {
        f.name: f.field.choices[0][0]
        for f in form
        if "-" in f.name and hasattr(f.field, "choices") and not f.value()
    }
    unknown = ("face_width", "offset", "ring_spiral", "drive_angle", "coast_angle", "cutter_radius")
    given |= dict.fromkeys(unknown, "") | {"family": "small_cutter", "hand": "left"}
    answer = pages.post(f"/sheets/{sheet.pk}/", given)
    assert answer.status_code == 302, answer.context["form"].errors
    sheet.refresh_from_db()
    assert (sheet.family, sheet.hand, sheet.offset) == ("small_cutter", "left", None)
    refused = pages.post(f"/sheets/{sheet.pk}/", given | {"pinion_teeth": "20", "ring_teeth": "41"})
    assert "ring spiral angle" in words(refused)
    assert refused.status_code == 422


def test_the_guide_is_drawn_by_the_engine(pages):
    page = pages.get("/guide/pattern").content.decode()
    assert page.count('class="cell"') == 7
    # Models §8: with a small cutter deep moves the coast flank to the toe, with a large one to the heel
    assert "cutter of 76 mm: coast low and to the toe" in page
    assert "cutter of 114 mm: coast low and to the heel" in page
