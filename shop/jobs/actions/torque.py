"""Changes to a job's torque sheet: corrections from the parts in hand, and signed stages."""

import math
import uuid
from collections.abc import Mapping
from decimal import Decimal
from typing import Any

from axle.errors import AxleError, quoted
from axle.fasteners.groups import corrected_group, own_group
from axle.fasteners.signing import check_next
from axle.fasteners.threads import adapter_setting
from axle.layout import Place
from axle.measure.units import FOOT_POUND, Display, Quantity, Unit
from shop.jobs import clock, loading
from shop.jobs.actions.job_change import job_change
from shop.jobs.models import Job, Position, Reading, Tightening
from shop.people import rules
from shop.people.models import User
from shop.people.rules import Right

# So many groups of its own has a job at the most; so many other jobs are looked through for theirs.
_MOST_OWN = 12
_LOOKED_AT = 40


def correct(user: User, job: Job, version: int, group: str, given: Mapping[str, Any]) -> None:
    """Correct a group's count, thread, class, hand, coating or torque from the part in hand."""
    rules.require_right(user, Right.TORQUES, practice=job.practice)
    with job_change(job, user, version) as change:
        axle = loading.load(change.job)
        known = {found.group: found for found in axle.groups}
        if group not in known:
            raise AxleError("fasteners", given=f"“{group[:20]}”", wanted="a group of this job")
        corrected_group(known[group], given)  # refused here if it cannot be
        held = change.job
        held.fasteners = {**held.fasteners, group: {**held.fasteners.get(group, {}), **given}}
        held.save(update_fields=["fasteners"])
        change.what = f"corrected the {known[group].title.lower()}"


def add_group(user: User, job: Job, version: int, given: Mapping[str, Any]) -> None:
    """Add a group of the shop's own to a job's torque sheet."""
    rules.require_right(user, Right.TORQUES, practice=job.practice)
    with job_change(job, user, version) as change:
        held = change.job
        taken = {int(name.removeprefix("own-")) for name in held.fasteners if name.startswith("own-")}
        name = f"own-{max(taken, default=0) + 1}"
        if len(taken) >= _MOST_OWN:
            raise AxleError("groups of the shop's own", given="one more", wanted=f"{_MOST_OWN} at the most")
        made = own_group(name, given)  # refused here if it cannot be
        known = {group.group for group in loading.load(held).groups}
        if made.after and made.after[0] not in known:
            raise AxleError("order", given=f"after “{made.after[0][:20]}”", wanted="a group of this job")
        held.fasteners = {**held.fasteners, name: {**given, "own": True}}
        held.save(update_fields=["fasteners"])
        change.what = f"added {made.title.lower()} to the torque sheet"


def drop_group(user: User, job: Job, version: int, group: str) -> None:
    """Take a group of the shop's own off a torque sheet; one that was signed stays on record."""
    rules.require_right(user, Right.TORQUES, practice=job.practice)
    with job_change(job, user, version) as change:
        held = change.job
        if not held.fasteners.get(group, {}).get("own"):
            raise AxleError("fasteners", given=f"“{group[:20]}”", wanted="a group of the shop's own")
        if Tightening.objects.filter(job=held, group=group).exists():
            raise AxleError(
                "fasteners", given="a group that was signed", wanted="one that nobody signed yet"
            )
        held.fasteners = {name: row for name, row in held.fasteners.items() if name != group}
        held.save(update_fields=["fasteners"])
        change.what = "took a group off the torque sheet"


def used_before(job: Job) -> list[dict[str, Any]]:
    """Groups of the shop's own on its other jobs, the newest first, each title once."""
    found: dict[str, dict[str, Any]] = {}
    others = Job.objects.of(job.shop).filter(practice=False).exclude(pk=job.pk).order_by("-touched_at")
    for number, fasteners in others.values_list("number", "fasteners")[:_LOOKED_AT]:
        for name, row in fasteners.items():
            if row.get("own"):
                found.setdefault(row["title"], {**row, "from": f"{number} {name}"})
    mine = {row.get("title") for row in job.fasteners.values()}
    return [row for title, row in found.items() if title not in mine]


def sign_stage(
    user: User,
    job: Job,
    version: int,
    group: str,
    stage: int,
    torque: Quantity,
    entry: uuid.UUID,
    words: str = "",
) -> Tightening:
    """Sign one stage of one group; the last full one stores the reading of its station."""
    rules.require_right(user, Right.SIGN, practice=job.practice)
    known = Tightening.objects.filter(job=job, entry=entry).first()
    if known is not None:
        return known
    with job_change(job, user, version) as change:
        axle = loading.load(change.job)
        standing = check_next(axle.torques, group, stage)
        what = next(found for found in axle.groups if found.group == group)
        if not standing.stage.wanted.holds(float(torque.core)) and len(words.strip()) < 4:
            unit = what.unit_in(axle.display).symbol
            raise AxleError(
                what.title,
                given=f"“{torque.text}”",
                wanted=f"{standing.stage.figures} {unit}",
                do="Or write beside it why it was set otherwise.",
            )
        settings = loading.as_json(axle.state.settings)
        now = clock.now()
        last = [s for s in what.targets(axle.display) if s.words != "check pass"][-1]
        if what.reading and stage == last.number:
            Reading.objects.create(
                assembly=axle.assembly,
                kind=what.reading,
                typed=torque.text,
                unit=torque.unit.symbol,
                value=torque.core,
                at=now,
                person=user,
                by=user.called,
                settings=settings,
                conditions={},
            )
            if what.reading == "cap_torque":
                Position.objects.update_or_create(
                    assembly=axle.assembly,
                    place=Place.CAPS.value,
                    defaults={"value": round(torque.core, 2)},
                )
        row = Tightening.objects.create(
            job=change.job,
            group=group,
            stage=stage,
            typed=torque.text,
            unit=torque.unit.symbol,
            value=torque.core,
            words=words.strip()[:200],
            entry=entry,
            at=now,
            person=user,
            by=user.called,
            settings=settings,
        )
        change.what = f"signed {what.title.lower()}, {standing.stage.words}"
    return row


def unit_of(job: Job, group: str, display: Display) -> Unit:
    """The unit in which a group's torques are shown and typed.

    :raises AxleError: for a group that the job has not.
    """
    found = next((known for known in loading.load(job).groups if known.group == group), None)
    if found is None:
        raise AxleError("fasteners", given=f"“{group[:20]}”", wanted="a group of this job")
    return found.unit_in(display)


def at_the_bolt(typed: Quantity, length: str, adapter: str, angle: str) -> Quantity:
    """What a wrench set so gives at the bolt, where an adapter lengthens it; kept as typed."""
    if not adapter.strip():
        return typed
    lever = (_number(length, "wrench length"), _number(adapter, "adapter"))
    turned = math.radians(_number(angle or "0", "adapter's angle"))
    share = adapter_setting(1.0, *lever, turned)
    value = typed.value / Decimal(str(round(share, 6)))
    return Quantity(f"{typed.text} with an adapter", value, typed.unit)


def doubt(job: Job, group: str, torque: Quantity) -> str:
    """Ask about a torque that cannot be meant for the group's thread and class."""
    axle = loading.load(job)
    what = next((found for found in axle.groups if found.group == group), None)
    if what is None:
        raise AxleError("fasteners", given=f"“{group[:20]}”", wanted="a group of this job")
    shown = f"{torque.value.normalize():f} {torque.unit.symbol}"
    return what.question(float(torque.core), shown)


def _number(text: str, what: str) -> float:
    try:
        value = float(text.strip())
    except ValueError:
        value = math.nan
    if not math.isfinite(value) or abs(value) > 5000:
        raise AxleError(what, given=quoted(text, 12), wanted="a number")
    return value


def as_set(wanted: float) -> Quantity:
    """A wanted torque as a builder would set it: to the foot-pound."""
    value = Decimal(str(round(wanted / float(FOOT_POUND.factor))))
    return Quantity(f"{value}", value, FOOT_POUND)
