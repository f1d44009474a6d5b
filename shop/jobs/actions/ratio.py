"""Changes to a job's ratio: its vehicle, what was counted, the set chosen, the customer's answer."""

from __future__ import annotations

import uuid
from collections.abc import Sequence
from typing import Final

import msgspec

from axle.errors import AxleError, quoted
from axle.gearing.compare import Comparison
from axle.gearing.fits import CarrierFit
from axle.gearing.lines import Answered, RatioNote, read_ratio_line
from axle.procedure.choices import still_possible
from shop.jobs import loading, noted_lines
from shop.jobs.actions.job_change import job_change
from shop.jobs.actions.noting import Note, note, write
from shop.jobs.actions.part_lines import NewLine, chosen_set
from shop.jobs.job_axle import JobAxle
from shop.jobs.models import Job, RatioLine
from shop.jobs.models.job import End
from shop.people import rules
from shop.people.models import User
from shop.people.rules import Rejected, Right
from shop.vehicles.models import Vehicle

_SAID: Final = {
    "counted": "counted turns",
    "teeth": "counted teeth",
    "tag": "read the tag",
    "looked_up": "looked up what the set has to fit",
}
_MOST_REASONS: Final = 20
_LONGEST_REASON: Final = 400
# Two ratios of one tooth pair.
_SAME: Final = 1e-9


def link_vehicle(user: User, job: Job, version: int, vehicle: Vehicle | None, end: str) -> None:
    """Say which vehicle the axle is of, and at which end."""
    rules.require_right(user, Right.MEASURE)
    if end not in End.values:
        raise AxleError("end of the vehicle", given=quoted(end), wanted="front or rear")
    if vehicle is not None and vehicle.shop_id != job.shop_id:
        raise Rejected("That vehicle is not one of this shop's.")
    with job_change(job, user, version) as change:
        change.job.vehicle, change.job.vehicle_end = vehicle, end
        change.job.save(update_fields=["vehicle", "vehicle_end"])
        change.what = f"named the vehicle: {vehicle}" if vehicle else "took the vehicle off"


def note_ratio(user: User, job: Job, version: int, kind: str, line: RatioNote, entry: uuid.UUID) -> None:
    """Note what was counted, read off a tag, or looked up."""
    rules.require_right(user, Right.MEASURE)
    values = msgspec.to_builtins(line)
    read_ratio_line(kind, values)
    note(RatioLine, user, job, version, [Note(kind, values, _SAID[kind])], entry)


def choose_set(
    user: User,
    job: Job,
    version: int,
    found: Comparison,
    entry: uuid.UUID,
    *,
    reasons: Sequence[str] = (),
    old_ratio: float | None = None,
) -> RatioLine:
    """Choose the set that the axle is built with: sheet, choices and parts follow it.

    :param found: the set with what it does.
    :param reasons: why, as the page showed it.
    :param old_ratio: what was in the axle, or nothing.
    """
    rules.require_right(user, Right.PLAN, practice=job.practice)
    known = RatioLine.objects.filter(job=job, entry=entry).first()
    if known is not None:
        return known
    offer = found.offer
    with job_change(job, user, version) as change:
        axle = loading.load(change.job)
        _refuse_once_set(axle, found)
        gears = change.job.sheet["gears"]
        values = {
            "pinion": offer.pinion,
            "ring": offer.ring,
            "sold_as": offer.sold_as,
            "supplier": offer.supplier,
            "price": "" if offer.price is None else f"{offer.price:.2f}",
            "days": offer.days,
            "thick": offer.thick,
            "carrier": found.carrier.value,
            "before": f"{gears['ring_teeth']}/{gears['pinion_teeth']}",
            "old_ratio": old_ratio,
            "reasons": [reason[:_LONGEST_REASON] for reason in reasons[:_MOST_REASONS]],
        }
        read_ratio_line("chosen", values)
        said = f"chose the set {offer.teeth}"
        row = write(RatioLine, user, change.job, Note("chosen", values, said), entry)
        teeth = {"pinion_teeth": offer.pinion, "ring_teeth": offer.ring}
        change.job.sheet = {**change.job.sheet, "gears": {**gears, **teeth}}
        change.job.choices = _follow(axle, found)
        change.job.save(update_fields=["sheet", "choices"])
        if not job.practice:
            sold = f", sold as {offer.sold_as}" if offer.sold_as else ""
            words, why = f"Ring and pinion {offer.teeth}{sold}", "the ratio that was chosen"
            line = NewLine(words, part="gear_set", why=why, price=offer.price)
            changes = values["before"] != offer.teeth
            chosen_set(user, change.job, line, offer.supplier, changes=changes)
        change.what = said
    return row


def _refuse_once_set(axle: JobAxle, found: Comparison) -> None:
    """Readings of a set hold for its teeth: another one is another job."""
    now = axle.spec.gears
    same = (now.pinion_teeth, now.ring_teeth) == (found.offer.pinion, found.offer.ring)
    if not same and (axle.state.prints or axle.state.latest("backlash") is not None):
        raise AxleError(
            "set",
            given=f"{found.offer.teeth} after {now.ring_teeth}/{now.pinion_teeth} was read",
            wanted="a choice before the gears are set",
            do="Open a new job for another set.",
        )


def _follow(axle: JobAxle, found: Comparison) -> dict[str, str]:
    """What a job's choices become with a set; those that this axle cannot have fall."""
    job, now = axle.job, axle.spec.gears
    changed = found.change is not None and abs(found.change) > _SAME
    if found.change is None:
        # Nobody knows what was in it: another pair than the sheet's is another ratio.
        other = (now.pinion_teeth, now.ring_teeth) != (found.offer.pinion, found.offer.ring)
        changed = other or axle.plan.facts["ratio"] == "changed"
    wanted = {
        **job.choices,
        "gears": "new",
        "ratio": "changed" if changed else "same",
        "passes": "yes" if found.passes else "no",
        "carrier_from": "other" if found.carrier is CarrierFit.OTHER else "own",
    }
    return still_possible(axle.spec.layout, wanted, job.scope)


def answer_set(user: User, job: Job, version: int, answer: Answered, entry: uuid.UUID) -> None:
    """Take down the customer's yes or no to the set that stands."""
    rules.require_right(user, Right.MONEY)
    values = msgspec.to_builtins(answer)
    read_ratio_line("answered", values)
    if noted_lines.ratio_of(job).chosen is None:
        raise AxleError("answer", given="one to no set", wanted="a set that was chosen")
    said = f"took down that {answer.name} said {'yes' if answer.agreed else 'no'} to the set"
    note(RatioLine, user, job, version, [Note("answered", values, said)], entry)
