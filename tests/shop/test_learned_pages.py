"""What a shop learns of its jobs, what it signs at, and torques that nobody can read in mesh."""

from __future__ import annotations

import csv
from io import StringIO

import pytest
from django.test import Client
from django.urls import reverse

from axle.state.priors import Quantity, starting_widths
from shop.jobs import learned, loading
from shop.jobs.models import Job, JobFigure, Reading
from shop.people.models import Shop
from tests.shop.test_bench import send, words


def test_a_signed_sheet_keeps_what_its_job_showed(pages):
    # Job 411 of the demo is finished: it was read before and after its first load.
    rows = JobFigure.objects.filter(job__number=411)
    assert rows.exists()
    assert {row.quantity for row in rows} <= {q.value for q in Quantity}
    page = words(pages.get(reverse("chances")))
    assert "What this shop's finished jobs have shown" in page
    title = starting_widths()[Quantity(rows.first().quantity)].title
    assert title in page
    assert "On simulated axles" in page


def test_an_unfinished_job_has_shown_nothing(owner):
    assert not JobFigure.objects.filter(job__number=412).exists()
    assert not JobFigure.objects.filter(job__practice=True).exists()


def test_a_job_is_left_out_and_taken_in_again(pages, owner):
    job = Job.objects.get(number=412)
    assert learned.priors_for(job).learned
    pages.post(reverse("use-figures", args=[411]), {"use": "no"})
    assert not learned.priors_for(job).learned
    assert "left out" in words(pages.get(reverse("chances")))
    row = JobFigure.objects.filter(job__number=411).first()
    assert row.switched_by == owner
    pages.post(reverse("use-figures", args=[411]), {"use": "yes"})
    assert learned.priors_for(job).learned


def test_jobs_signed_before_figures_were_kept_are_looked_through(pages):
    JobFigure.objects.all().delete()
    assert "1 finished job was never looked through" in words(pages.get(reverse("chances")))
    page = words(pages.post(reverse("gather-figures"), follow=True))
    assert "1 finished job looked through." in page
    assert JobFigure.objects.filter(job__number=411).exists()


def test_a_job_does_not_learn_from_itself(pages):
    assert not learned.priors_for(Job.objects.get(number=411)).learned


def test_figures_go_out_as_an_open_table(pages):
    answer = pages.get(reverse("figures-csv"))
    rows = list(csv.DictReader(StringIO(answer.content.decode())))
    assert len(rows) == JobFigure.objects.filter(job__shop__is_demo=True).count()
    assert all(float(row["spread"]) > 0 for row in rows)


def test_a_job_that_has_shown_nothing_is_refused_in_words(pages):
    page = words(pages.post(reverse("use-figures", args=[412]), {"use": "no"}, follow=True))
    assert "only finished jobs are on the list" in page


def test_the_shop_says_from_which_chance_on_it_signs(pages, owner):
    shop = Shop.objects.get(pk=owner.shop_id)
    start = {"name": shop.name, "units": shop.units, "currency": shop.currency, "time_zone": shop.time_zone}
    pages.post(reverse("shop"), {**start, "sign_at": "90"})
    assert loading.load(Job.objects.get(number=412)).state.sign_at == pytest.approx(0.9)
    refused = pages.post(reverse("shop"), {**start, "sign_at": "120"})
    assert refused.status_code == 422
    assert loading.load(Job.objects.get(number=412)).state.sign_at == pytest.approx(0.9)
    pages.post(reverse("shop"), start)
    assert loading.load(Job.objects.get(number=412)).state.sign_at == pytest.approx(0.9)


def test_in_mesh_the_pinion_s_torque_is_refused_in_words_and_kept(pages):
    # Common practice, no source: with the carrier in mesh a wrench turns the whole.
    beside = {"kind": "pinion_torque", "number": 412, "station": "pinion_preload"}
    before = Reading.objects.count()
    answer = send(pages, "21.5", status=422, **beside)
    page = words(answer)
    assert "the carrier is in mesh, so a wrench turns the whole" in page
    assert "before the carrier went in" in page
    assert "21.5" in answer.content.decode()
    assert Reading.objects.count() == before
    for mesh in ("parted", "before"):
        send(pages, "21.5", status=200, mesh=mesh, **beside)
    assert Reading.objects.order_by("-id").first().conditions["mesh"] == "before"
    send(pages, "21.5", status=422, mesh="sometimes", **beside)


def test_what_is_read_again_is_kept_as_such_whatever_it_is(pages):
    send(pages, "2.6", status=200, kind="ring_runout", number=412, station="ring_gear", again="1")
    assert Reading.objects.order_by("-id").first().conditions["again"] is True


def test_the_plan_compares_the_schools_on_the_sheet_s_range(pages):
    for name in ("work", "carrier"):
        page = words(pages.get(reverse(name, args=[412])))
        assert "Right at the second assembly, carrier preload alone, by this sheet's range" in page, name


def test_another_shop_learns_nothing_of_this_one(stranger):
    client = Client()
    client.force_login(stranger)
    page = words(client.get(reverse("chances")))
    assert "Nothing yet" in page
    assert client.post(reverse("use-figures", args=[411]), {"use": "no"}).status_code == 404
    assert JobFigure.objects.filter(job__number=411, used=True).exists()
