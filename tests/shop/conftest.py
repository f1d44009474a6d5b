"""What tests of pages share."""

from __future__ import annotations

import html
import re
import uuid
from datetime import date

import pytest

from axle.measure.parse import parse
from axle.measure.units import THOU
from demo.player import Bench
from shop.jobs.actions import opening
from shop.jobs.actions.opening import NewJob
from shop.jobs.models import Job
from shop.people.models import User
from shop.specs.models import SpecSheet


@pytest.fixture
def pages(client, owner):
    """A browser's place, signed in as the demo shop's owner."""
    client.force_login(owner)
    return client


def words(answer) -> str:
    """What a page says, without its marks."""
    return " ".join(html.unescape(re.sub(r"<[^>]+>", " ", answer.content.decode())).split())


def entry() -> str:
    """The identity that a form's page gives its entry."""
    return str(uuid.uuid4())


def post(client, job, page, **given):
    """Send a form of a job's page, as fresh as the page would be."""
    job.refresh_from_db()
    return client.post(
        f"/jobs/{job.number}/{page}", {"version": job.version, "entry": entry(), **given}, follow=True
    )


@pytest.fixture
def van(owner) -> Job:
    """A new job on the works van's sheet."""
    return open_van_job(owner)


def open_van_job(owner: User) -> Job:
    """A new job on the works van's sheet, its mark not confirmed yet."""
    sheet = SpecSheet.objects.of(owner.shop).get(name__startswith="Van rear")
    new_job = NewJob(
        "Test van",
        "",
        complaint="",
        arrived_on=date(2026, 3, 2),
        promised_on=None,
        new_bearings=True,
        mark=parse("2", THOU),
        mark_convention="longer",
    )
    return opening.open_job(owner, sheet, new_job)


@pytest.fixture
def fresh(owner) -> Bench:
    """The bench of a new job."""
    return Bench(owner, open_van_job(owner))
