"""Several people at once, each with a connection of their own."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor

import pytest
from django.db import connection

from shop.jobs.actions import exercises
from shop.people.models import User
from tests.conftest import restore_demo


@pytest.fixture
def shop_owner(transactional_db) -> User:
    """The demo shop's owner; what is written is really written, so that others see it."""
    restore_demo()
    return User.objects.get(username="ines")


def test_twelve_people_begin_an_exercise_at_once(shop_owner):
    def begin(_: int) -> int:
        try:
            return exercises.start(shop_owner, "backlash-station").job.number
        finally:
            connection.close()

    with ThreadPoolExecutor(12) as pool:
        found = list(pool.map(begin, range(12)))
    assert len(set(found)) == 12
