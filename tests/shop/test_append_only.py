"""What was read, marked or signed is never changed: the database refuses, whoever asks."""

from __future__ import annotations

import pytest
from django.db import DatabaseError, connection, transaction

from shop.jobs.actions import readings
from shop.jobs.models import (
    Finding,
    Job,
    Pattern,
    Reading,
    RegisterLine,
    SignOff,
    StepMark,
    Tightening,
)

TABLES = {
    "jobs_reading": Reading,
    "jobs_pattern": Pattern,
    "jobs_signoff": SignOff,
    "jobs_stepmark": StepMark,
    "jobs_registerline": RegisterLine,
    "jobs_finding": Finding,
    "jobs_tightening": Tightening,
}


@pytest.mark.parametrize("table", TABLES)
@pytest.mark.parametrize(
    "statement",
    [
        "UPDATE {table} SET `by` = 'somebody else' WHERE id = {row}",
        "UPDATE {table} SET at = NOW()",
        "DELETE FROM {table} WHERE id = {row}",
        "DELETE FROM {table}",
        "REPLACE INTO {table} SELECT * FROM {table} WHERE id = {row}",
        "UPDATE IGNORE {table} SET `by` = 'quietly' WHERE id = {row}",
    ],
)
def test_raw_sql_is_refused(demo, table, statement):
    row = TABLES[table].objects.order_by("id").first()
    before = TABLES[table].objects.count()
    with (
        pytest.raises(DatabaseError, match="append-only"),
        transaction.atomic(),
        connection.cursor() as sql,
    ):
        sql.execute(statement.format(table=table, row=row.pk))
    assert TABLES[table].objects.count() == before
    again = TABLES[table].objects.get(pk=row.pk)
    assert (again.by, again.at) == (row.by, row.at)


@pytest.mark.parametrize("model", TABLES.values())
def test_the_orm_is_refused_too(demo, model):
    row = model.objects.order_by("id").first()
    with pytest.raises(TypeError, match="strikes it"):
        row.save()
    with pytest.raises(TypeError, match="never deleted"):
        row.delete()
    with pytest.raises(DatabaseError, match="append-only"), transaction.atomic():
        model.objects.filter(pk=row.pk).update(by="x")


def test_a_strike_is_a_new_row_with_a_reason(owner):
    job = Job.objects.get(number=412)
    reading = Reading.objects.filter(assembly__job=job, kind="backlash").last()
    strike = readings.strike(owner, job, job.version, reading.pk, "indicator slipped")
    assert strike.strikes_id == reading.pk
    assert strike.value is None
    assert strike.reason == "indicator slipped"
    kept = Reading.objects.get(pk=reading.pk)
    assert (kept.typed, kept.value) == (reading.typed, reading.value)


def test_a_job_keeps_its_history(owner):
    job = Job.objects.get(number=412)
    readings.choose_method(owner, job, job.version, "depth", "old")
    assert job.history.count() > 3
    assert job.history.first().ways == {"depth": "old"}
