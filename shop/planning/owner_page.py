"""The owner's page, gathered from the shop's rows."""

from __future__ import annotations

from datetime import date, timedelta
from decimal import Decimal
from typing import Any, Final

from django.utils import timezone

from axle.ledger.standing import JobMoney, standing
from axle.ledger.sums import rounded
from axle.parts.lines import COUNTED, LineState
from axle.procedure.stations import stations
from shop.jobs.models import Job, MoneySheet, PartLine
from shop.people.hours import currency_of, terms_of
from shop.people.models import Shop
from shop.planning import plan as plans
from shop.planning.board import PlanPage
from shop.planning.draft import ledger_terms, rate_of
from shop.planning.inputs import learned

_QUARTER: Final = timedelta(days=92)
# So many of the newest jobs are looked at.
_JOBS: Final = 400


def owner_page(shop: Shop) -> dict[str, Any]:
    """Work in hand, promised and late, hours sold against hours worked, parts, what was done twice."""
    today = timezone.localdate()
    since = today - _QUARTER
    jobs = list(
        Job.objects.of(shop)
        .filter(practice=False)
        .prefetch_related("money_sheets", "part_lines", "payments", "moves")
        .order_by("-touched_at")[:_JOBS]
    )
    shown = PlanPage(plans.projected(shop), today - timedelta(days=today.weekday()))
    promises = shown.promises()
    recent = [job for job in jobs if job.touched_at.date() >= since]
    found = standing([_money_of(job, since) for job in recent], [_money_of(job, since) for job in jobs])
    titles, numbers = stations(), {job.shown_number: job for job in jobs}
    return {
        "currency": currency_of(shop),
        "in_hand": [job for job in jobs if job.state == Job.State.OPEN],
        "late": [promise for promise in promises if promise.late],
        "risky": [promise for promise in promises if promise.risky and not promise.late],
        "standing": found,
        "again_costs": rounded(found.again * rate_of(ledger_terms(terms_of(shop)))),
        "again_from": [(titles[n].title if n in titles else n, count) for n, count in found.stations],
        "due": [(numbers[number], amount) for number, amount in found.due],
        "finished": [job for job in recent if job.state == Job.State.SIGNED],
        "since": since,
    }


def learned_page(shop: Shop) -> dict[str, Any]:
    """What the shop's own jobs show of its time, and how many jobs each figure rests on."""
    times, assemblies = learned(shop)
    titles = stations()
    groups = [("every step", times.shop)]
    groups += [(f"done by the {role}", found) for role, found in sorted(times.roles.items())]
    groups += [(titles[name].title, found) for name, found in times.stations.items() if name in titles]
    return {
        "learned": [(words, found) for words, found in groups if found.jobs],
        "times": times,
        "assemblies": list(enumerate(assemblies.shares, start=1)),
        "assembly_jobs": assemblies.jobs,
    }


def _money_of(job: Job, since: date) -> JobMoney:
    sheets = [s for s in job.money_sheets.all() if s.kind == MoneySheet.Kind.ACCOUNT]
    newest = sheets[-1] if sheets else None
    sold = newest.lines if newest is not None and newest.at.date() >= since else []
    return JobMoney(
        job.shown_number,
        {int(number): Decimal(str(hours)) for number, hours in job.summary.get("hours", {}).items()},
        sold=sum((Decimal(line["quantity"]) for line in sold if line["unit"] == "h"), Decimal(0)),
        parts=() if newest else tuple(_bought(job)),
        charged=Decimal(newest.totals["gross"]) if newest else None,
        paid=sum((payment.amount for payment in job.payments.all()), Decimal(0)),
        moves=tuple(move.station for move in job.moves.all()),
    )


def _bought(job: Job) -> list[tuple[Decimal, Decimal]]:
    return [
        (line.price, line.quantity)
        for line in job.part_lines.all()
        if LineState(line.state) in COUNTED and line.price is not None and line.owner == PartLine.Owner.SHOP
    ]
