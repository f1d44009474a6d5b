"""What all tests share: a shop with people, sheets and a drawer."""

from __future__ import annotations

from datetime import timedelta
from typing import TYPE_CHECKING

import pytest
from hypothesis import HealthCheck, settings

if TYPE_CHECKING:
    from shop.people.models import User


# Speed is measured under benchmarks/, so no example has a deadline. A gate says the same of the same tree
# twice: other examples are tried by hand with --hypothesis-profile=default.
settings.register_profile(
    "gate", deadline=None, derandomize=True, suppress_health_check=[HealthCheck.too_slow]
)
settings.load_profile("gate")


@pytest.fixture(scope="session", autouse=True)
def _empty_tables_by_truncate():
    """Empty tables between live-server tests by TRUNCATE: DELETE on append-only tables is refused."""
    from django.db.backends.mysql.operations import DatabaseOperations

    usual = DatabaseOperations.sql_flush

    def flush(self, style, tables, *, reset_sequences=False, allow_cascade=False):
        # Emptying a table costs as much when it is empty already, and most are.
        full = [table for table in tables if _has_rows(self.connection, table)]
        return usual(self, style, full, reset_sequences=True, allow_cascade=allow_cascade)

    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(DatabaseOperations, "sql_flush", flush)
        yield


@pytest.fixture(scope="session")
def django_db_setup(django_db_setup, django_db_blocker):
    """The demo shop is in the test database from the start; a test's own changes are rolled back."""
    from demo.load import load_demo

    with django_db_blocker.unblock():
        load_demo()
        _bring_photos_back()
        _let_waits_run_on()
        _copy_tables(to_snapshot=True)


def _let_waits_run_on() -> None:
    """A wait of the demo that runs out becomes an alert on every page: no test hangs on the hour."""
    from django.utils import timezone

    from shop.jobs.models import Timer

    Timer.objects.filter(ended_at=None).update(due_at=timezone.now() + timedelta(days=1))


def _bring_photos_back() -> None:
    """A database that is used again has rows of photos whose files were in another run's memory."""
    from django.core.files.base import ContentFile

    from demo.player import picture_of
    from shop.jobs.actions.photos import cleaned
    from shop.jobs.models import Photo

    for photo in Photo.objects.all():
        if photo.original.storage.exists(photo.original.name):
            continue
        picture = cleaned(picture_of(photo.job, "drive"))
        for file, raw in ((photo.original, picture.original), (photo.shown, picture.shown)):
            file.storage.save(file.name, ContentFile(raw))


def _has_rows(connection, table: str) -> bool:
    with connection.cursor() as sql:
        sql.execute(f"SELECT 1 FROM {connection.ops.quote_name(table)} LIMIT 1")  # noqa: S608 - own names
        return sql.fetchone() is not None


def restore_demo() -> None:
    """Put the demo shop back as it was loaded, from copies of its tables: quicker than loading it."""
    _copy_tables(to_snapshot=False)


def _copy_tables(*, to_snapshot: bool) -> None:
    from django.db import connection

    tables = [name for name in connection.introspection.django_table_names() if name != "django_migrations"]
    with connection.cursor() as sql:
        sql.execute("SET foreign_key_checks = 0")
        for table in tables:
            copy = f"snapshot_{table}"
            if to_snapshot:
                sql.execute(f"DROP TABLE IF EXISTS {copy}")
                sql.execute(f"CREATE TABLE {copy} AS SELECT * FROM {table}")  # noqa: S608 - own names
            elif _has_rows(connection, copy):
                sql.execute(f"INSERT IGNORE INTO {table} SELECT * FROM {copy}")  # noqa: S608 - own names
        sql.execute("SET foreign_key_checks = 1")


@pytest.fixture
def demo(db):
    """The demo shop, as ./start loads it."""


@pytest.fixture
def owner(demo) -> User:
    from shop.people.models import User

    return User.objects.get(username="ines")


@pytest.fixture
def apprentice(demo) -> User:
    from shop.people.models import User

    return User.objects.get(username="lio")


@pytest.fixture
def stranger(demo) -> User:
    """The owner of another shop."""
    from shop.people.models import Shop, User

    other = Shop.objects.create(name="Untere Werkstatt", place="Talgrund")
    return User.objects.create_user("nora", password="other-side-of-the-pass", role="owner", shop=other)
