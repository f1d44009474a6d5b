"""Rows altered by somebody with the database's own rights: the triggers are off, the chain is not."""

from __future__ import annotations

import pytest
from django.db import connection

from shop.jobs import chain
from shop.jobs.models import Job, Reading
from tests.conftest import restore_demo

_ALTERED = [
    ("jobs_reading", "update", "UPDATE jobs_reading SET value = value + 0.01 WHERE id = {row}"),
    ("jobs_reading", "update", "UPDATE jobs_reading SET `by` = 'Somebody Else' WHERE id = {row}"),
    ("jobs_reading", "update", "UPDATE jobs_reading SET at = at + INTERVAL 1 DAY WHERE id = {row}"),
    ("jobs_reading", "delete", "DELETE FROM jobs_reading WHERE id = {row}"),
]


@pytest.fixture
def job(transactional_db) -> Job:
    restore_demo()
    return Job.objects.get(number=412)


@pytest.mark.parametrize(("table", "verb", "statement"), _ALTERED)
def test_the_first_row_that_does_not_fit_is_named(job, table, verb, statement):
    row = Reading.objects.filter(assembly__job=job, kind="backlash", strikes=None).last()
    with connection.cursor() as sql:
        sql.execute(f"SHOW CREATE TRIGGER {table}_no_{verb}")
        made = sql.fetchone()[2]
        sql.execute(f"DROP TRIGGER {table}_no_{verb}")
        try:
            sql.execute(statement.format(row=row.pk))
        finally:
            sql.execute(made)
    verdict = chain.check(job)
    assert f"Readings, row {row.pk} " in verdict.wrong
    assert ("is gone" in verdict.wrong) == (verb == "delete")


def test_a_link_taken_away_is_named(job):
    with connection.cursor() as sql:
        sql.execute("SHOW CREATE TRIGGER jobs_chainlink_no_delete")
        made = sql.fetchone()[2]
        sql.execute("DROP TRIGGER jobs_chainlink_no_delete")
        try:
            sql.execute("DELETE FROM jobs_chainlink WHERE job_id = %s AND number = 3", [job.pk])
        finally:
            sql.execute(made)
    assert chain.check(job).wrong.startswith("Link 3 is gone")
