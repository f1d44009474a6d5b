"""The made-up shop's hours, suppliers, orders, estimates and promises: all of it invented."""

from __future__ import annotations

import uuid
from collections.abc import Iterable
from datetime import date, timedelta
from decimal import Decimal
from typing import Any, Final

from django.utils import timezone

from axle.ledger.sums import parse_amount
from axle.parts.bill import bill
from demo.noise import open_noise
from demo.road import open_road
from shop.jobs import loading
from shop.jobs.actions import job_change, money, part_lines
from shop.jobs.actions.money import Offer
from shop.jobs.actions.part_lines import NewLine
from shop.jobs.models import Job, MoneySheet, PartLine
from shop.people import terms
from shop.people.models import User
from shop.planning import draft
from shop.planning import plan as plans
from shop.planning.plan import PinRequest
from shop.stock import suppliers
from shop.stock.models import Supplier
from shop.stock.suppliers import NewPrice

_WEEK: Final = {f"day-{day}": "7:30-12, 13-16:30" for day in range(5)}
_RATES: Final = {"rate-owner": "84", "rate-builder": "72", "rate-apprentice": "38"}
_SHARES: Final = {"margin": "22", "consumables": "3", "tax": "20", "deposit": "30", "promise_at": "80"}

# Supplier: days, contact, prices by part.
_SUPPLIERS: Final[dict[str, tuple[str, str, dict[str, str]]]] = {
    "Talbahn gears and bearings": (
        "4",
        "order desk, by telephone until noon",
        {
            "bearing_inner": "41.20",
            "bearing_outer": "33.80",
            "bearing_carrier": "38.50",
            "gear_set": "412.00",
            "sleeve": "7.40",
            "pinion_nut": "9.80",
            "ring_bolts": "26.00",
            "lock_tabs": "5.20",
            "depth_shims": "3.10",
            "preload_shims": "1.90",
            "side_shims": "4.40",
        },
    ),
    "Seals and oil, lower town": (
        "1",
        "van comes at eleven",
        {
            "pinion_seal": "12.60",
            "axle_seals": "9.90",
            "cartridge_ring": "4.10",
            "sealant": "11.30",
            "oil": "8.70",
            "oil_locker": "8.70",
            "threadlocker": "14.20",
            "compound": "18.00",
            "cleaner": "6.50",
            "modifier": "13.90",
            "clips": "6.30",
        },
    ),
    "Machine shop at the bridge": ("6", "ask for the boring mill", {"housing_work": "95.00"}),
}
_KIT: Final = ("bearing_inner", "bearing_outer", "bearing_carrier", "pinion_seal", "pinion_nut", "sleeve")
# Job: days from today to its promise, urgency.
_PROMISES: Final = {
    412: (3, 2),
    413: (8, 1),
    415: (5, 3),
    416: (10, 1),
    417: (6, 1),
    418: (5, 2),
}


def open_business(owner: User, builder: User, apprentice: User) -> None:
    """Write down how the shop works, what it buys, and what it promised."""
    terms.change(owner, {"do": "hours", **_WEEK, "country": "AT", "region": "5"})
    terms.change(
        owner,
        {"do": "machines", "machine-bench": "8"}
        | {f"machine-{name}": "1" for name in ("press", "oven", "freezer", "spreader", "washer", "hoist")},
    )
    not_included = "Shafts, brakes and the driveshaft; the way to the shop and back."
    terms.change(owner, {"do": "money", **_RATES, **_SHARES, "not_included": not_included})
    able = ["arrival", "teardown", "inspect", "prepare", "fit", "ring_gear", "pattern", "finish"]
    terms.change(owner, {"do": "person", "person": str(apprentice.pk), "planned": "on"}, able)
    today = timezone.localdate()
    away = str(today + timedelta(days=(8 - today.weekday()) % 7 + 1))
    terms.add_absence(
        owner, {"person": str(apprentice.pk), "first": away, "last": away, "reason": "trade school"}
    )
    by_name = {name: _supplier(owner, name) for name in _SUPPLIERS}
    suppliers.keep_price(
        owner,
        by_name["Talbahn gears and bearings"].pk,
        NewPrice("", "Bearing kit with seal, nut and sleeve", Decimal("176.00"), holds=_KIT),
    )
    # What a job comes to is worked out once, after all of it.
    with job_change.finish_changes_once():
        _jobs(owner, builder, by_name, today)
        open_road(owner, builder)
        open_noise(owner, builder)
    for job in Job.objects.of(owner.shop).filter(number__in=(411, *_PROMISES)):
        job_change.finish_change(job, owner, job.touched_what)
    plans.make(owner, 0)
    job = _job(owner, 416)
    step = loading.load(job).step.step.step
    plans.pin(owner, PinRequest(416, step, str(builder.pk)))


def _supplier(owner: User, name: str) -> Supplier:
    days, contact, prices = _SUPPLIERS[name]
    row = suppliers.keep_supplier(owner, {"name": name, "days": days, "contact": contact})
    for part, price in prices.items():
        suppliers.keep_price(owner, row.pk, NewPrice(part, "", parse_amount(price, "price")))
    return row


def _jobs(owner: User, builder: User, by_name: dict[str, Supplier], today: date) -> None:
    for number, (days, urgency) in _PROMISES.items():
        job = _job(owner, number)
        money.promise(owner, job, job.version, today + timedelta(days=days), urgency)
    for number in (412, 413, 416):
        _draw_up(builder, _job(owner, number))
    seals = by_name["Seals and oil, lower town"]
    lines = PartLine.objects.filter(job__number=412, job__shop=owner.shop, supplier=seals, state="needed")
    part_lines.place_order(
        owner, [line.pk for line in lines[:4]], seals.pk, today + timedelta(days=1), uuid.uuid4()
    )
    bearings = by_name["Talbahn gears and bearings"]
    carrier = PartLine.objects.filter(
        job__number__in=(412, 416), job__shop=owner.shop, supplier=bearings, state="needed"
    )
    part_lines.place_order(
        owner,
        [line.pk for line in carrier],
        bearings.pk,
        today + timedelta(days=3),
        uuid.uuid4(),
        "both at once",
    )
    seal = PartLine.objects.filter(job__number=412, job__shop=owner.shop, state="ordered", supplier=seals)[
        0
    ]
    part_lines.receive(builder, seal.pk, seal.quantity, uuid.uuid4())
    job = _job(owner, 413)
    own = NewLine(
        "Depth shims that came with the axle", "shim", owner="customer", why="brought by the customer"
    )
    part_lines.add_line(builder, job, job.version, own, uuid.uuid4())
    _estimates(owner)


def _draw_up(user: User, job: Job) -> None:
    axle = loading.load(job)
    wanted = bill(axle.plan.facts, axle.found, axle.plan)
    part_lines.draw_up(user, job, job.version, [line.part.part for line in wanted])


def _estimates(owner: User) -> None:
    for number, agreed in ((412, "Works yard, office"), (413, "")):
        job = _job(owner, number)
        found = draft.estimate(job)
        assert found.hours is not None
        ends = (found.hours.low, found.hours.median, found.hours.high)
        words = "Shafts, brakes and the driveshaft."
        sheet = money.issue(
            owner,
            job,
            job.version,
            _offer(MoneySheet.Kind.ESTIMATE, found, ends, words),
            uuid.uuid4(),
        )
        if agreed:
            job = _job(owner, number)
            money.answer(owner, job, job.version, sheet.pk, True, agreed, "by telephone", uuid.uuid4())
    job = _job(owner, 412)
    more = draft.supplement(
        job,
        "Left carrier bearing and cup: water line across the cup",
        Decimal(1),
        Decimal("46.90"),
        Decimal("0.5"),
    )
    money.issue(
        owner,
        job,
        job.version,
        _offer(
            MoneySheet.Kind.SUPPLEMENT, more, (), "Water line across the cup of the left carrier bearing."
        ),
        uuid.uuid4(),
    )
    job = _job(owner, 411)
    final = draft.account(job, Decimal("8.5"))
    money.issue(owner, job, job.version, _offer(MoneySheet.Kind.ACCOUNT, final, (), ""), uuid.uuid4())


def _offer(kind: str, found: Any, hours: Iterable[float], words: str) -> Offer:
    return Offer(kind, found.lines, found.totals, tax=Decimal(20), hours=tuple(hours), words=words)


def _job(owner: User, number: int) -> Job:
    job: Job = Job.objects.of(owner.shop).get(number=number)
    return job
