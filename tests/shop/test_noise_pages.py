"""A complaint to its odds by account: the page, what it refuses, what is kept."""

from __future__ import annotations

import io
import json

import pytest
from django.db import DatabaseError, transaction
from django.test import Client

from axle.noise.account import questions
from shop.drawing.odds import Bar, odds_bars
from shop.jobs import chain, loading, noted_lines
from shop.jobs.exchange import read, seal
from shop.jobs.models import Job, NoiseLine
from tests.shop.conftest import post, words


def tell(client, job, page="noise", **answers):
    for question, answer in answers.items():
        found = post(client, job, page, do="told", question=question, answer=answer)
    return found


def test_an_account_ranks_the_causes_and_says_first_what_no_axle_work_cures(pages, van):
    page = words(pages.get(f"/jobs/{van.number}/noise"))
    assert "Press what the customer tells" in page
    assert all(question.title in page for question in questions().values())
    answer = tell(pages, van, sound="hum", surface="changes", neutral="yes")
    page = words(answer)
    assert "Said first: no axle work cures this." in page
    assert "a tyre, or its tread" in page
    assert "Asked next" in page
    assert 'class="odds"' in answer.content.decode()


def test_a_later_answer_takes_the_place_of_an_earlier_and_nobody_may_know(pages, van):
    tell(pages, van, drive="yes")
    tell(pages, van, drive="no")
    assert noted_lines.noise_of(van)[-1].answer == "no"
    page = words(tell(pages, van, drive="unknown"))
    assert "nobody knows" in page
    assert "Press what the customer tells" in page
    assert NoiseLine.objects.filter(job=van).count() == 3
    assert chain.check(van).holds
    row = NoiseLine.objects.filter(job=van).first()
    with transaction.atomic(), pytest.raises(DatabaseError):
        NoiseLine.objects.filter(pk=row.pk).update(kind="other")


@pytest.mark.parametrize(
    ("given", "said"),
    [
        ({"do": "sing"}, "one of the page's buttons"),
        ({"do": "told", "question": "song", "answer": "yes"}, "a question of the list"),
        ({"do": "told", "question": "drive", "answer": "maybe"}, "yes, no"),
        ({"do": "told"}, "a question of the list"),
    ],
)
def test_what_is_no_answer_is_refused_in_words(pages, van, given, said):
    answer = post(pages, van, "noise", **given)
    assert answer.status_code == 422
    assert said in words(answer)


def test_before_and_after_stand_side_by_side_and_on_the_build_sheet(pages, owner):
    job = Job.objects.of(owner.shop).get(number=412)
    tell(pages, job, sound="tone", drive="yes", coast="no", speed="band")
    page = words(tell(pages, job, "noise/after", sound="hum", surface="changes"))
    assert "Before: the gears, on the drive side" in page
    sheet = words(pages.get(f"/jobs/{job.number}/sheet"))
    assert "Noise before" in sheet
    assert "Noise after" in sheet


def test_heat_is_told_of_before_anybody_drives_on(pages, van):
    assert "silent until it burns" in words(tell(pages, van, heat="hot"))


def test_the_account_is_told_after_signing_too(pages, owner, apprentice):
    job = Job.objects.of(owner.shop).get(number=411)
    client = Client()
    client.force_login(apprentice)
    assert "hum" in words(tell(client, job, "noise/after", sound="hum"))


def test_a_job_file_carries_the_account_without_loss(pages, owner, van):
    tell(pages, van, sound="growl", bend="side")
    tell(pages, van, bend="unknown")
    van.refresh_from_db()
    first = seal.sealed(van)
    text = json.dumps(first).encode()
    again, _ = read.read_job(owner, io.BytesIO(text), len(text))
    assert noted_lines.noise_of(again) == noted_lines.noise_of(van)
    assert seal.sealed(again)["noise_lines"] == first["noise_lines"]


def test_bars_are_as_long_as_their_chance():
    svg = str(odds_bars([Bar("one", 0.5, axle=True), Bar("two", 0.25, axle=False)]))
    assert 'width="75"' in svg
    assert 'width="37.5"' in svg
    assert svg.count("s-wanting") == 1


def test_a_click_under_the_hand_is_a_reading_of_its_assembly(pages, van):
    page = words(post(pages, van, "by-hand", do="felt", flank="drive", feel="click"))
    assert "once around the ring gear each way" in page
    assert "A pinion that is too deep" in page
    page = words(post(pages, van, "by-hand", do="felt", flank="coast", feel="smooth"))
    assert "A click on the drive side alone speaks for a pinion that is too deep." in page
    felt = loading.load(Job.objects.get(pk=van.pk)).state.felt
    assert [(one.flank, one.feel, one.assembly) for one in felt] == [
        ("drive", "click", 1),
        ("coast", "smooth", 1),
    ]
    row = NoiseLine.objects.filter(job=van, kind="felt").first()
    page = words(post(pages, van, "by-hand", do="strike", line=row.pk, reason="wrong way"))
    assert "Struck" in page
    assert [one.flank for one in loading.load(Job.objects.get(pk=van.pk)).state.felt] == ["coast"]
    # What was felt goes with the job's file, and is a reading there too.
    raw = seal.sealed(Job.objects.get(pk=van.pk))
    assert [row["kind"] for row in raw["noise_lines"]] == ["felt", "felt", "struck"]


@pytest.mark.parametrize(
    ("given", "wanted"),
    [
        ({"do": "felt", "flank": "up", "feel": "click"}, "drive, coast"),
        ({"do": "felt", "flank": "drive", "feel": "soft"}, "smooth, click, clunk"),
        ({"do": "count", "feel": "click", "shaft": "pinion", "turns": "0", "count": "3"}, "more than 0"),
        ({"do": "count", "feel": "click", "shaft": "pinion", "turns": "ten", "count": "3"}, "“ten”"),
        ({"do": "count", "feel": "click", "shaft": "", "turns": "10", "count": "3"}, "pinion or ring"),
        ({"do": "strike", "line": "1", "reason": "no"}, "why it does not hold"),
        ({"do": "burn"}, "one of the page's buttons"),
    ],
)
def test_what_is_no_reading_of_the_hand_is_refused_in_words(pages, van, given, wanted):
    answer = post(pages, van, "by-hand", **given)
    assert answer.status_code == 422
    assert wanted in words(answer)
    assert not NoiseLine.objects.filter(job=van).exists()


def test_a_count_names_what_comes_by_and_how_long_to_count(pages, van):
    page = words(
        post(pages, van, "by-hand", do="count", feel="click", shaft="pinion", turns="20", count="20")
    )
    assert "once a turn of the pinion" in page
    page = words(
        post(pages, van, "by-hand", do="count", feel="rough", shaft="pinion", turns="3", count="1")
    )
    assert "Not told apart yet: count over" in page
    page = words(
        post(pages, van, "by-hand", do="count", feel="rough", shaft="ring", turns="100", count="9000")
    )
    assert "Nothing in an axle comes by so often." in page
