"""A job's parts and money in its file: lines with their deliveries, sheets with their answers, payments."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from shop.jobs.exchange.row_tables import ANSWERS, DELIVERIES, MONEY_SHEETS, PART_LINES, PAYMENTS, refuse
from shop.jobs.models import CustomerAnswer, Delivery, Job, MoneySheet, PartLine, Payment
from shop.people.models import User
from shop.stock.models import Supplier


def write_ledger(job: Job) -> dict[str, Any]:
    """Everything of a job's parts and money, as plain data."""
    lines = job.part_lines.select_related("supplier").prefetch_related("deliveries").order_by("id")
    answers = job.answers.select_related("sheet").order_by("id")
    return {
        "part_lines": [
            PART_LINES.write(
                line,
                supplier=line.supplier.name if line.supplier else line.from_supplier,
                deliveries=[DELIVERIES.write(row) for row in line.deliveries.all()],
            )
            for line in lines
        ],
        "money_sheets": [MONEY_SHEETS.write(sheet) for sheet in job.money_sheets.order_by("id")],
        "answers": [ANSWERS.write(row, sheet=str(row.sheet.entry)) for row in answers],
        "payments": [PAYMENTS.write(row) for row in job.payments.order_by("id")],
    }


def read_ledger(user: User, job: Job, data: Mapping[str, Any]) -> None:
    """Make a job's parts and money from its file.

    A supplier is that of the same name here; where there is none its name is kept as words. An order of
    the other shop is none of this one: what it waits for is kept with its day.
    """
    here = {row.name: row for row in Supplier.objects.of(user.shop).filter(retired=False)}
    for given in data.get("part_lines", []):
        values = PART_LINES.values(given, user)
        name, deliveries = values.pop("supplier"), values.pop("deliveries")
        line = PartLine.objects.create(
            job=job, supplier=here.get(name), from_supplier="" if name in here else name, **values
        )
        for row in deliveries:
            Delivery.objects.create(line=line, person=user, **DELIVERIES.values(row, user))
    sheets: dict[str, MoneySheet] = {}
    for given in data.get("money_sheets", []):
        sheets[given["entry"]] = MoneySheet.objects.create(job=job, **MONEY_SHEETS.values(given, user))
    for given in data.get("answers", []):
        if given["sheet"] not in sheets:
            refuse("answers", f"an answer to {given['sheet']}", "an answer to a sheet of this file")
        values = ANSWERS.values(given, user) | {"sheet": sheets[given["sheet"]]}
        CustomerAnswer.objects.create(job=job, **values)
    for given in data.get("payments", []):
        Payment.objects.create(job=job, **PAYMENTS.values(given, user))
