"""Keeps the chain over a job's record, and checks it.

Rows are linked in the order in which they were written. Whoever changes, adds or takes away a row behind
the program's back cannot make its link: that wants the shop's secret, which is not in the database. What
this does not show: the newest links taken away together with their rows.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import UTC, datetime
from decimal import Decimal
from typing import Any, Final

from django.db import models
from django.db.models import Max

from shop.jobs import keys
from shop.jobs.models import (
    Assembly,
    CarrierLine,
    ChainLink,
    CustomerAnswer,
    Delivery,
    Finding,
    Fit,
    Job,
    MoneySheet,
    Move,
    NoiseLine,
    Pattern,
    Payment,
    Photo,
    PrintMade,
    RatioLine,
    Reading,
    RegisterLine,
    RoadLine,
    SignOff,
    StepMark,
    Tightening,
)

_PURPOSE: Final = "record"
_START: Final = "0" * 64
# What may change on a row after it was written: what came of a move.
_LATER: Final = {"moves": frozenset({"outcome", "held"})}


@dataclass(frozen=True)
class LinkedTable:
    """A table whose rows are in the chain.

    :param name: what a row is called where one does not fit.
    :param model: its rows.
    :param path: from a row to its job.
    """

    name: str
    model: type[models.Model]
    path: str = "job"

    def rows(self, job: Job) -> models.QuerySet[Any]:
        """The table's rows of a job, oldest first."""
        return self.model._default_manager.filter(**{self.path: job}).order_by("pk")


TABLES: Final = (
    LinkedTable("assemblies", Assembly),
    LinkedTable("fits", Fit),
    LinkedTable("moves", Move),
    LinkedTable("readings", Reading, "assembly__job"),
    LinkedTable("prints", PrintMade, "assembly__job"),
    LinkedTable("patterns", Pattern, "assembly__job"),
    LinkedTable("step marks", StepMark),
    LinkedTable("register", RegisterLine),
    LinkedTable("findings", Finding),
    LinkedTable("carrier lines", CarrierLine),
    LinkedTable("tightenings", Tightening),
    LinkedTable("photos", Photo),
    LinkedTable("signatures", SignOff),
    LinkedTable("deliveries", Delivery, "line__job"),
    LinkedTable("money sheets", MoneySheet),
    LinkedTable("answers", CustomerAnswer),
    LinkedTable("payments", Payment),
    LinkedTable("ratio lines", RatioLine),
    LinkedTable("road lines", RoadLine),
    LinkedTable("noise lines", NoiseLine),
)


@dataclass(frozen=True)
class Verdict:
    """What a check of a job's record came to.

    :param count: links checked.
    :param wrong: the first row that does not fit, in words, or "".
    """

    count: int
    wrong: str = ""

    @property
    def holds(self) -> bool:
        """Whether every row is as it was written."""
        return not self.wrong


def extend(job: Job) -> None:
    """Link the rows that were written since the chain was last extended; the job's row is held."""
    linked = ChainLink.objects.filter(job=job).order_by("table").values("table").annotate(newest=Max("row"))
    newest = {link["table"]: link["newest"] for link in linked}
    fresh = [
        (table, row) for table in TABLES for row in table.rows(job).filter(pk__gt=newest.get(table.name, 0))
    ]
    if not fresh:
        return
    last = ChainLink.objects.filter(job=job).order_by("-number").first()
    number, before = (last.number, last.digest) if last else (0, _START)
    links = []
    for table, row in fresh:
        number += 1
        before = _digest(job, before, number, table, row)
        links.append(ChainLink(job=job, number=number, table=table.name, row=row.pk, digest=before))
    ChainLink.objects.bulk_create(links)


def check(job: Job) -> Verdict:
    """Hold every row of a job's record to its link; names the first that does not fit."""
    rows = {(table.name, row.pk): (table, row) for table in TABLES for row in table.rows(job)}
    before, count = _START, 0
    for link in ChainLink.objects.filter(job=job).order_by("number"):
        count += 1
        found = rows.pop((link.table, link.row), None)
        where = f"{link.table}, row {link.row} (link {link.number})"
        if link.number != count:
            return Verdict(count - 1, f"Link {count} is gone: the next there is names {where}.")
        if found is None:
            return Verdict(count, f"{where.capitalize()} is gone.")
        if link.digest != _digest(job, before, link.number, *found):
            return Verdict(count, f"{where.capitalize()} is not as it was written{_by(found[1])}.")
        before = link.digest
    if rows:
        name, pk = min(rows, key=lambda key: key[1])
        return Verdict(count, f"{name.capitalize()}, row {pk} was never linked{_by(rows[name, pk][1])}.")
    return Verdict(count)


def check_all(jobs: models.QuerySet[Job]) -> Iterator[tuple[Job, Verdict]]:
    """Check jobs one by one."""
    for job in jobs.select_related("shop").iterator():
        yield job, check(job)


def _digest(job: Job, before: str, number: int, table: LinkedTable, row: models.Model) -> str:
    left_out = _LATER.get(table.name, frozenset())
    content = {
        field.attname: _plain(field.value_from_object(row))
        for field in row._meta.concrete_fields
        if field.name not in left_out
    }
    text = keys.canonical({"before": before, "number": number, "table": table.name, "row": content})
    return keys.digest(job.shop, _PURPOSE, text)


def _plain(value: Any) -> Any:
    """A field's value as text that is the same whenever it is read."""
    if isinstance(value, Decimal):
        return f"{value:.8f}"
    if isinstance(value, datetime):
        return value.astimezone(UTC).isoformat(timespec="microseconds")
    if isinstance(value, models.fields.files.FieldFile):
        return value.name
    if isinstance(value, dict | list | str | int | float | bool) or value is None:
        return value
    return str(value)


def _by(row: models.Model) -> str:
    person = getattr(row, "by", "")
    return f" (by {person})" if person else ""
