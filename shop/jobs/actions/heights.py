"""Heights and widths of the pinion's bearings, and the slinger: entered together, read one by one."""

import uuid
from collections.abc import Mapping
from decimal import Decimal

from django.db import transaction

from axle.errors import AxleError
from axle.measure.parse import parse, question
from axle.measure.units import Quantity, Unit, show
from axle.procedure.stations import ReadingKind
from shop.jobs import loading
from shop.jobs.actions import readings
from shop.jobs.actions.job_change import finish_change, finish_changes_once
from shop.jobs.models import Job
from shop.people.models import User

KINDS = (
    "stand_inner",
    "stand_outer",
    "width_inner",
    "width_outer",
    "stand_left",
    "stand_right",
    "slinger_thickness",
)


def checked(kind: ReadingKind, place: int, text: str, unit: Unit) -> Quantity:
    """Read one field; a size that no bearing or slinger has is refused with what may be meant.

    :raises AxleError: naming the field.
    """
    what = ", ".join(word for word in (kind.title, kind.place_words(place)) if word)
    quantity = parse(text, unit, what)
    kind.check(quantity.core, quantity.text, quantity.unit)
    doubt = question(quantity, kind.plausible)
    if doubt is not None:
        ends = (show(end, unit) for end in (kind.plausible.low, kind.plausible.high))
        usual = f"{' to '.join(ends)} {unit.symbol}"
        raise AxleError(what, given=f"“{text.strip()}”", wanted=usual, do=doubt[0])
    return quantity


def keep(
    user: User, job: Job, version: int, given: Mapping[tuple[str, int], Quantity], entry: uuid.UUID
) -> int:
    """Keep those that are new or changed; says how many. All of them, or none."""
    known = loading.load(job).state
    fresh = {
        (kind, place): quantity
        for (kind, place), quantity in given.items()
        if (last := known.latest(kind, place)) is None
        or Decimal(repr(last.value)).quantize(Decimal("0.00001"))
        != quantity.core.quantize(Decimal("0.00001"))
    }
    if not fresh:
        return 0
    with transaction.atomic(), finish_changes_once():
        for (kind, place), quantity in fresh.items():
            readings.record_reading(
                user,
                job,
                version,
                readings.NewReading(
                    kind=kind, place=place, quantity=quantity, entry=uuid.uuid5(entry, f"{kind} {place}")
                ),
            )
            version += 1
        held = Job.objects.of(user.shop).select_for_update().get(pk=job.pk)
    finish_change(held, user, f"measured {len(fresh)} heights")
    return len(fresh)
