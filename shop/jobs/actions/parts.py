"""Changes to a job's register of parts and marks, and its findings."""

import uuid

from axle.errors import AxleError
from axle.measure.units import Display
from axle.procedure import register
from axle.procedure.findings import Found, parts
from shop.jobs import clock, loading
from shop.jobs.actions.job_change import job_change
from shop.jobs.models import Finding, Job, RegisterLine
from shop.people.models import User
from shop.stock import tray

# Replaced, the pinion is built to the range of new bearings.
PINION_BEARINGS = ("pinion_inner", "pinion_outer")


def write_register(
    user: User,
    job: Job,
    version: int,
    item: str,
    event: register.Event,
    words: str,
    display: Display,
    entry: uuid.UUID,
) -> RegisterLine:
    """Write one line: what came off and how it is marked, what is back, what is lost."""
    known = RegisterLine.objects.filter(job=job, entry=entry).first()
    if known is not None:
        return known
    with job_change(job, user, version) as change:
        axle = loading.load(change.job)
        items = {found.item: found for found in register.items_of(axle.plan.facts)}
        if item not in items:
            raise AxleError("register", given=f"“{item[:20]}”", wanted="an item of this job")
        line = register.entry(items[item], event, words, display)
        row = RegisterLine.objects.create(
            job=change.job,
            item=item,
            event=event.value,
            words=line.words,
            pieces=[f"{piece:.5f}" for piece in line.pieces],
            count=line.count,
            entry=entry,
            at=clock.now(),
            person=user,
            by=user.called,
            settings=loading.as_json(axle.state.settings),
        )
        if not change.job.practice:
            _lay_on_tray(user, change.job, line)
        change.what = f"wrote {items[item].title.lower()}: {event.value}"
    return row


def _lay_on_tray(user: User, job: Job, line: register.Entry) -> None:
    """What came out lies on the job's tray; what is scrapped or lost does so no more."""
    if line.event is register.Event.OFF:
        tray.lay(user, job.number, line.item, line.pieces)
    elif line.event in (register.Event.SCRAPPED, register.Event.LOST):
        tray.throw_away(user, job.number, line.item, line.words)


def clear_own(user: User, job: Job, version: int, lot_id: int, reason: str | None) -> str:
    """Scrap a piece of the tray with a reason, or sell it to the drawer; what was done, in words."""
    with job_change(job, user, version, signed=job.state == Job.State.SIGNED) as change:
        if reason is None:
            tray.to_drawer(user, job.number, lot_id)
            change.what = "sold a piece of its own to the drawer"
        else:
            tray.scrap(user, job.number, lot_id, reason)
            change.what = "scrapped a piece of its own"
    return change.what


def find(
    user: User, job: Job, version: int, part: str, sign: str, decision: str, reason: str, entry: uuid.UUID
) -> Finding:
    """Keep a finding with its decision and reason."""
    known = Finding.objects.filter(job=job, entry=entry).first()
    if known is not None:
        return known
    found = Found(part, sign, decision=decision, reason=reason.strip()[:200])
    with job_change(job, user, version) as change:
        row = Finding.objects.create(
            job=change.job,
            part=found.part,
            sign=found.sign,
            decision=found.decision,
            reason=found.reason,
            entry=entry,
            at=clock.now(),
            person=user,
            by=user.called,
        )
        change.what = f"found {parts()[part].title.lower()}: {found.seen.title}"
        if decision == "replace" and part in PINION_BEARINGS and not change.job.new_bearings:
            # New bearings have a preload range of their own.
            change.job.new_bearings = True
            change.job.save(update_fields=["new_bearings"])
            change.what += "; the pinion bearings are new now"
    return row
