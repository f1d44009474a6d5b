"""A job is opened, and its mark confirmed."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date
from typing import Any, Final

from django.db import transaction
from django.utils import timezone

from axle.depth.marks import Mark, MarkConvention
from axle.errors import AxleError
from axle.measure.units import Quantity
from axle.procedure.choices import still_possible
from axle.procedure.scope import scope_named
from axle.spec.reader import read_spec
from axle.spec.sheet import Sheet
from shop.jobs import clock, loading, numbers
from shop.jobs.actions.job_change import finish_change, job_change
from shop.jobs.models import Assembly, Job
from shop.people.models import Shop, User
from shop.people.rules import Rejected
from shop.specs.bridge import plain
from shop.specs.models import SpecSheet

# Schools that judge the carrier by a torque, and those that judge it by what its packs or holes are over.
BY_TORQUE: Final = frozenset({"subtraction", "alone", "cover_tight", "adjuster_torque"})
BY_PACKS: Final = ("both_sides", "holes")


@dataclass(frozen=True)
class NewJob:
    """What opens a job."""

    title: str
    customer: str
    complaint: str
    arrived_on: date
    promised_on: date | None
    new_bearings: bool
    mark: Quantity
    mark_convention: str
    scope: str = "whole"


def open_job(user: User, sheet: SpecSheet, given: NewJob) -> Job:
    """Open a job with its own copy of a sheet and its first assembly."""
    shop = user.shop
    if shop is None or sheet.shop_id != shop.pk:
        raise Rejected("That sheet is not one of this shop's.")
    with transaction.atomic():
        locked_shop = numbers.locked(shop)
        now = clock.now()
        job = Job(
            shop=shop,
            number=numbers.next_number(locked_shop),
            title=given.title,
            customer=given.customer,
            complaint=given.complaint,
            arrived_on=given.arrived_on,
            promised_on=given.promised_on,
            sheet=plain(sheet),
            built_to=sheet,
            built_to_version=sheet.version,
            new_bearings=given.new_bearings,
            mark_typed=given.mark.text,
            mark_value=given.mark.core,
            mark_convention=given.mark_convention,
            touched_at=now,
            touched_by=user,
            touched_what="opened the job",
            scope=scope_named(given.scope).scope,
            choices=_usual_school(shop, plain(sheet), given.scope),
        )
        job.save()
        Assembly.objects.create(job=job, number=1, started_at=now, started_by=user, by=user.called)
        finish_change(job, user, "opened the job")
    return job


def _usual_school(shop: Shop, sheet: Mapping[str, Any], scope: str) -> dict[str, str]:
    """The school this shop usually follows on such an axle, kept with the job as it was opened.

    Where the sheet gives interference and no torque, its own figure decides the start; the bench asks.
    """
    spec = read_spec(sheet)
    layout = spec.layout
    school = shop.schools.get(layout.carrier_by.value)
    if gives_interference_alone(spec.sheet) and (not school or school in BY_TORQUE):
        possible = [still_possible(layout, {"school": name}, scope) for name in BY_PACKS]
        return next((chosen for chosen in possible if chosen), {})
    return still_possible(layout, {"school": school}, scope) if school else {}


def gives_interference_alone(sheet: Sheet) -> bool:
    """Whether a sheet says how much interference the carrier has, and no torque."""
    return sheet.range("carrier_interference") is not None and sheet.range("carrier_preload") is None


def confirm_mark(user: User, job: Job, version: int, mark: Quantity, convention: str) -> None:
    """Say what the mark on the pinion means; nothing is worked out from a mark before."""
    meant = one_mark(mark, convention)
    with job_change(job, user, version) as change:
        change.job.mark_typed, change.job.mark_value = mark.text, meant.value
        change.job.mark_convention = convention
        change.job.mark_confirmed = f"{user.called}, {timezone.localtime(clock.now()):%-d %B %Y}"
        change.job.save(update_fields=["mark_typed", "mark_value", "mark_convention", "mark_confirmed"])
        change.what = "confirmed the mark on the pinion"


def one_mark(mark: Quantity, convention: str) -> Mark:
    """A mark as typed, by a convention; refused where no pinion has one like it."""
    try:
        known = MarkConvention(convention)
    except ValueError:
        raise AxleError("mark", given=f"“{convention[:20]}”", wanted="a known convention") from None
    if known is MarkConvention.DISTANCE and not 20 <= mark.core <= 300:
        raise AxleError(
            "pinion mark",
            given=f"a distance of “{mark.text}”",
            wanted="20 to 300 mm",
            do="Is it a deviation, or in another unit?",
        )
    return Mark(float(mark.core), known, loading.mark_step(mark.text))
