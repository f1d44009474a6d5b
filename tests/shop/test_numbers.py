"""Numbers of jobs: no file and no second person can stop a shop from opening its next one."""

from __future__ import annotations

import io
import json

import pytest

from shop.jobs import numbers
from shop.jobs.actions import exercises
from shop.jobs.exchange import read, write
from shop.jobs.models import Job
from tests.shop.conftest import open_van_job


def brought_in(owner, number: int) -> Job:
    """A demo job's file taken in under another number."""
    data = write.write_job(Job.objects.get(shop=owner.shop, number=414))
    data["job"]["number"] = number
    text = json.dumps(data).encode()
    return read.read_job(owner, io.BytesIO(text), len(text))[0]


@pytest.mark.parametrize("number", [90000, 90001, 1_499_999_999])
def test_a_large_number_of_a_file_does_not_move_the_shop_s_count(owner, number):
    before = open_van_job(owner).number
    assert brought_in(owner, number).number == number
    assert open_van_job(owner).number == before + 1


def test_the_shop_s_count_steps_past_what_files_took(owner):
    first = open_van_job(owner).number
    assert brought_in(owner, first + 1).number == first + 1
    assert brought_in(owner, first + 2).number == first + 2
    assert open_van_job(owner).number == first + 3


def test_a_file_numbered_like_a_practice_axle_gets_a_number_of_the_shop_s(owner):
    assert brought_in(owner, numbers.FIRST_OF_PRACTICE + 3).number < 1000


def test_practice_axles_are_counted_apart(owner):
    run = exercises.start(owner, "backlash-station")
    assert run.job.number >= numbers.FIRST_OF_PRACTICE
    assert run.job.shown_number.startswith("P")
