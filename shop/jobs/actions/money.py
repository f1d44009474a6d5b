"""Changes to a job's money: what is offered and agreed, payments, the promise."""

from __future__ import annotations

import uuid
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from typing import Any

from django.utils import timezone

from axle.errors import AxleError
from axle.ledger.sums import Line, Totals
from axle.procedure.steps import steps
from shop.jobs import clock
from shop.jobs.actions.job_change import job_change
from shop.jobs.models import CustomerAnswer, Job, MoneySheet, Payment
from shop.people import rules
from shop.people.models import User
from shop.people.rules import Rejected, Right

# Nothing is promised further ahead.
_FURTHEST = 730


@dataclass(frozen=True)
class Offer:
    """A sheet as it goes to the customer."""

    kind: str
    lines: Sequence[Line]
    totals: Totals
    tax: Decimal
    hours: Sequence[float] = ()
    words: str = ""
    step: str = ""


def issue(user: User, job: Job, version: int, offer: Offer, entry: uuid.UUID) -> MoneySheet:
    """Write an estimate, a supplement or an account; it is never changed, a later one takes its place."""
    rules.require_right(user, Right.MONEY)
    known = MoneySheet.objects.filter(job=job, entry=entry).first()
    if known is not None:
        return known
    if not offer.lines:
        raise AxleError(offer.kind, given="no line", wanted="one line or more")
    if offer.step and offer.step not in steps():
        raise AxleError("step", given=f"“{offer.step[:30]}”", wanted="a step of this job")
    if job.shop is None:
        raise Rejected("This job belongs to no shop.")
    with job_change(job, user, version, signed=job.state == Job.State.SIGNED) as change:
        kind = MoneySheet.Kind(offer.kind)
        number = MoneySheet.objects.filter(job=job, kind=kind).count() + 1
        sheet = MoneySheet.objects.create(
            job=change.job,
            entry=entry,
            kind=kind,
            number=number,
            lines=[as_row(line) for line in offer.lines],
            totals=as_totals(offer),
            currency=job.shop.currency,
            words=offer.words.strip()[:500],
            step=offer.step,
            at=clock.now(),
            person=user,
            by=user.called,
        )
        change.what = f"wrote {kind.label} {number}"
    return sheet


def as_row(line: Line) -> dict[str, Any]:
    """A line as it is kept."""
    return {
        "group": line.group.value,
        "words": line.words,
        "quantity": str(line.quantity),
        "unit": line.unit,
        "price": str(line.price),
        "stage": line.stage,
        "low": None if line.low is None else str(line.low),
        "high": None if line.high is None else str(line.high),
        "credit": line.credit,
        "amount": str(line.amount),
    }


def as_totals(offer: Offer) -> dict[str, Any]:
    """Sums as they are kept."""
    totals = offer.totals
    names = ("net", "tax", "gross", "least", "most", "deposit", "paid", "due")
    return {
        **{name: str(getattr(totals, name)) for name in names},
        "groups": {group.value: str(amount) for group, amount in totals.groups.items()},
        "rate": str(offer.tax),
        "hours": [round(hours, 2) for hours in offer.hours],
    }


def answer(
    user: User, job: Job, version: int, sheet_id: int, agreed: bool, name: str, how: str, entry: uuid.UUID
) -> CustomerAnswer:
    """Take down the customer's yes or no, with who said it."""
    rules.require_right(user, Right.MONEY)
    known = CustomerAnswer.objects.filter(job=job, entry=entry).first()
    if known is not None:
        return known
    if len(name.strip()) < 2:
        raise AxleError("who said it", given=f"“{name.strip()}”", wanted="the customer's name")
    with job_change(job, user, version, signed=job.state == Job.State.SIGNED) as change:
        sheet = MoneySheet.objects.filter(job=job, pk=sheet_id).first()
        if sheet is None or sheet.kind == MoneySheet.Kind.ACCOUNT:
            raise Rejected("That is not an estimate or a supplement of this job.")
        row = CustomerAnswer.objects.create(
            job=change.job,
            sheet=sheet,
            agreed=agreed,
            name=name.strip()[:120],
            how=how.strip()[:120],
            entry=entry,
            at=clock.now(),
            person=user,
            by=user.called,
        )
        change.what = (
            f"{row.name} said {'yes' if agreed else 'no'} to {sheet.get_kind_display()} {sheet.number}"
        )
    return row


def pay(user: User, job: Job, version: int, amount: Decimal, words: str, entry: uuid.UUID) -> Payment:
    """Take down money that came in, or went back."""
    rules.require_right(user, Right.MONEY)
    known = Payment.objects.filter(job=job, entry=entry).first()
    if known is not None:
        return known
    if not amount:
        raise AxleError("payment", given="0", wanted="an amount; below 0 for what was paid back")
    with job_change(job, user, version, signed=job.state == Job.State.SIGNED) as change:
        row = Payment.objects.create(
            job=change.job,
            amount=amount,
            words=words.strip()[:120],
            entry=entry,
            at=clock.now(),
            person=user,
            by=user.called,
        )
        change.what = "took down a payment"
    return row


def promise(
    user: User, job: Job, version: int, day: date | None, urgency: int, belongs_to: int | None = None
) -> Job:
    """Promise a day, say how urgent it is, and which job shares its vehicle."""
    rules.require_right(user, Right.SCHEDULE)
    today = timezone.localdate()
    if day is not None and day != job.promised_on and not 0 <= (day - today).days <= _FURTHEST:
        raise AxleError(
            "promise",
            given=f"{day}",
            wanted="today or a later day, within two years",
            do="A day that is past cannot be kept: promise a new one.",
        )
    if urgency not in (1, 2, 3):
        raise AxleError("urgency", given=f"{urgency}", wanted="1 usual, 2 urgent, 3 most urgent")
    with job_change(job, user, version) as change:
        partner = None
        if belongs_to is not None:
            partner = Job.objects.of(user.shop).filter(number=belongs_to, practice=False).first()
            if partner is None or partner.pk == job.pk:
                raise Rejected(f"There is no other job {belongs_to} in this shop.")
            if partner.belongs_to_id is not None or change.job.with_it.exists():
                raise Rejected(
                    "One job of a vehicle is the first, and the others belong to it: name that one."
                )
        change.job.promised_on, change.job.urgency, change.job.belongs_to = day, urgency, partner
        change.job.save(update_fields=["promised_on", "urgency", "belongs_to"])
        change.what = f"promised {day:%-d %b}" if day else "took the promise back"
    for other in vehicle_of(change.job):
        # One vehicle leaves on one day.
        if other.pk != job.pk and other.state == Job.State.OPEN and other.promised_on != day:
            with job_change(other, user, other.version) as with_it:
                with_it.job.promised_on = day
                with_it.job.save(update_fields=["promised_on"])
                with_it.what = f"is promised with job {job.shown_number}"
    return change.job


def vehicle_of(job: Job) -> tuple[Job, ...]:
    """The jobs of one vehicle, the one that the others belong to first; a job alone is its own."""
    first = job.belongs_to or job
    return (first, *first.with_it.order_by("number"))
