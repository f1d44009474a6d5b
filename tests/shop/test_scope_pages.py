"""What a job covers, through the pages: stations left out, the build sheet, an inspection's verdict."""

from __future__ import annotations

import uuid

import pytest

from axle.procedure.scope import scopes
from axle.procedure.stations import stations
from shop.jobs import loading
from shop.jobs.models import Job
from tests.shop.test_bench import HTMX, send, words
from tests.shop.test_edges import keep_sheet, open_job


@pytest.mark.parametrize("scope", scopes())
def test_every_page_of_a_job_that_covers_less_shows_and_says_so(pages, owner, scope):
    job = open_job(pages, keep_sheet(pages, owner, "Scope"), scope=scope)
    for name in stations():
        answer = pages.get(f"/jobs/{job.number}/?station={name}")
        assert answer.status_code == 200, name
        outside = name in scopes()[scope].without
        assert ("Not part of this job" in words(answer)) is outside, name
    for page in ("sheet", "torque", "carrier", "work", "register", "findings", "tools"):
        assert pages.get(f"/jobs/{job.number}/{page}").status_code == 200, page
    sheet = words(pages.get(f"/jobs/{job.number}/sheet"))
    assert (scopes()[scope].words.split(":")[0] in sheet) is (scope != "whole")
    assert pages.get(f"/jobs/{job.number}/sheet.pdf").status_code == 200


def test_what_a_job_covers_is_changed_on_the_page_of_the_work(pages, owner):
    job = open_job(pages, keep_sheet(pages, owner, "Scope"), scope="carrier")
    assert loading.load(job).state.fixed
    given = {"version": job.version, "scope": "whole"}
    assert pages.post(f"/jobs/{job.number}/work", given).status_code == 302
    assert not loading.load(Job.objects.get(pk=job.pk)).state.fixed


def test_an_inspection_ends_in_a_signed_verdict(pages, owner):
    figures = {"reuse_backlash-low": "5", "reuse_backlash-high": "16"}
    job = open_job(pages, keep_sheet(pages, owner, "Inspect", **figures), scope="inspection")
    arrival = [
        ("arrival_side_play", "0", "1"),
        ("arrival_runout", "2", "1"),
        ("arrival_total_torque", "20", "1"),
    ]
    arrival += [("arrival_backlash", "18", str(place)) for place in (1, 2, 3, 4)]
    for kind, value, place in arrival:
        send(
            pages,
            value,
            kind=kind,
            place=place,
            number=job.number,
            station="arrival",
            questioned=value,
            status=200,
        )
    job.refresh_from_db()
    given = {"version": job.version, "station": "arrival", "reason": "none needed"}
    pages.post(f"/jobs/{job.number}/waive", given, headers=HTMX)

    def sign(**fields):
        job.refresh_from_db()
        form = {"version": job.version, "station": "sheet", "entry": str(uuid.uuid4())} | fields
        return pages.post(f"/jobs/{job.number}/sign", form, headers=HTMX)

    shown = words(pages.get(f"/jobs/{job.number}/?station=sheet"))
    assert "Until when" in shown, shown[-3000:]
    assert "Range 5.0 to 16.0 thou" in shown
    refused = sign(verdict="serviceable", work="", until="spring")
    assert refused.status_code == 422
    assert "Beyond its limit" in words(refused)
    assert 'value="spring"' in words(refused), "nothing typed is lost"
    assert sign(verdict="work", work="reset the backlash", until="next service").status_code == 200
    job.refresh_from_db()
    assert job.state == Job.State.SIGNED
    printed = words(pages.get(f"/jobs/{job.number}/sheet"))
    assert "Serviceable once the work is done." in printed
    assert "With: reset the backlash." in printed
    assert "Until: next service." in printed


def test_a_scope_that_does_not_exist_is_refused(pages, owner):
    sheet = keep_sheet(pages, owner, "Scope")
    from tests.shop.test_shop_pages import job_form

    answer = pages.post("/jobs/new", job_form(sheet=sheet.pk, mark="0", scope="half"))
    assert answer.status_code == 422
    assert "half is not one of the available choices" in words(answer)


@pytest.mark.parametrize("scope", scopes())
def test_in_an_empty_shop_every_page_of_a_new_job_shows(client, stranger, scope):
    client.force_login(stranger)
    sheet = keep_sheet(
        client, stranger, "A first sheet of a shop whose names are as long as the field lets them"
    )
    job = open_job(client, sheet, scope=scope, title="x" * 120)
    for page in (
        "work",
        "tools",
        "arrival",
        "register",
        "findings",
        "heights",
        "torque",
        "carrier",
        "sheet",
    ):
        assert client.get(f"/jobs/{job.number}/{page}").status_code == 200, page
    for name in stations():
        assert client.get(f"/jobs/{job.number}/?station={name}").status_code == 200, name
