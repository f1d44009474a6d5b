"""Readings: kept as typed, struck by a row of their own, and the way of measuring."""

from __future__ import annotations

import uuid
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from django.utils import timezone

from axle.errors import AxleError
from axle.layout import Place
from axle.measure.units import Quantity
from axle.procedure.conditions import checked, has_dial, has_seal, has_stance
from axle.procedure.instruments import calibration
from axle.procedure.names import KindName
from axle.procedure.stations import ReadingKind, kind_named, station_of, stations
from axle.spec.reader import AxleSpec
from axle.stations.mesh import why_not_readable
from shop.instruments.models import Instrument
from shop.jobs import clock, loading
from shop.jobs.actions.job_change import job_change
from shop.jobs.adjuster_log import adjuster_log
from shop.jobs.models import Assembly, Job, Position, Reading
from shop.people.models import User
from shop.people.rules import Rejected


@dataclass(frozen=True)
class NewReading:
    """One reading as somebody enters it.

    :param kind: as in ``readings.toml``.
    :param place: around the ring, from 1.
    :param quantity: as typed, with its unit.
    :param entry: identity of the entry: sent twice it is stored once.
    :param confidence: "fixture" or "makeshift".
    :param instrument: its name, where it is none of the register.
    :param conditions: how it was read.
    :param tool: the instrument of the register that it was read with, or nothing.
    """

    kind: str
    place: int
    quantity: Quantity
    entry: uuid.UUID
    confidence: str = "fixture"
    instrument: str = ""
    conditions: Mapping[str, Any] | None = None
    tool: int | None = None


def record_reading(user: User, job: Job, version: int, new: NewReading) -> Reading:
    """Store one reading as typed; at a place already read on this setting, strike the old one."""
    what = kind_named(new.kind)
    if new.kind in (KindName.RING_RUN, KindName.FLANGE_RUN):
        raise Rejected("A run around the ring is entered on the runout page, place by place or as a row.")
    what.check(new.quantity.core, new.quantity.text, new.quantity.unit)
    last = (new.conditions or {}).get("places", what.places) if what.most else what.last_place
    if not 1 <= new.place <= last:
        raise AxleError(what.title, given=f"place {new.place}", wanted=f"place 1 to {last}")
    known = Reading.objects.filter(entry=new.entry, assembly__job=job).first()
    if known is not None:
        return known
    with job_change(job, user, version) as change:
        spec, assembly, settings = loading.now_in(change.job)
        if (
            station_of(new.kind) in ("carrier_preload", "backlash", "pattern")
            and adjuster_log(change.job).is_aside
        ):
            raise Rejected(
                "The carrier stands aside: bring it back by the holes it went, then read. See the "
                "carrier's page."
            )
        usual: dict[str, Any] = {"stance": spec.sheet.stance.value} if has_stance(new.kind) else {}
        gauge = _tool(user, what, new.tool) if new.tool is not None else None
        if gauge is not None and has_dial(new.kind) and gauge.revolution is not None:
            usual |= {"shows": gauge.shows, "revolution": float(gauge.revolution)}
        known_conditions = checked(new.kind, usual | dict(new.conditions or {}))
        _check_readable(change.job, what, known_conditions)
        # A reading that repeats another on purpose stands beside it: their mean counts.
        again = bool(known_conditions.get("again"))
        old = (
            None
            if again
            else _same_slot(
                spec,
                assembly,
                settings=settings,
                kind=new.kind,
                place=new.place,
                places=known_conditions.get("places"),
            )
        )
        standing = calibration(gauge.due_on, timezone.localdate()) if gauge else None
        reading = Reading.objects.create(
            entry=new.entry,
            assembly=assembly,
            kind=new.kind,
            place=new.place,
            typed=new.quantity.text,
            unit=new.quantity.unit.symbol,
            value=new.quantity.core,
            at=clock.now(),
            person=user,
            by=user.called,
            settings=settings,
            conditions=known_conditions,
            instrument=gauge.name if gauge else new.instrument,
            confidence=new.confidence,
            strikes=old,
            resolution=gauge.resolution if gauge else None,
            overdue=standing.words if standing and standing.level == "overdue" else "",
            reason="read again" if old else "",
        )
        if new.kind == KindName.CAP_TORQUE:
            # Another torque on the caps is another bore: what was read under the old one goes stale.
            Position.objects.update_or_create(
                assembly=assembly, place=Place.CAPS.value, defaults={"value": round(new.quantity.core, 2)}
            )
        change.what = f"read {what.title.lower()} {new.quantity.text}"
    return reading


def _check_readable(job: Job, what: ReadingKind, conditions: Mapping[str, Any]) -> None:
    """Refuse a torque of one pair that nobody can take while both are in mesh."""
    if what.mesh != "parted" or not has_seal(what.kind):
        return
    why = why_not_readable(what.kind, loading.load(job).state, conditions)
    if why:
        raise Rejected(
            f"{what.title}: {why}. Read the whole; or say how it was read: with the mesh parted for it, "
            f"or before "
            "the carrier went in."
        )


def strike(user: User, job: Job, version: int, reading_id: int, reason: str) -> Reading:
    """Strike one reading, with the reason."""
    if not reason.strip():
        raise AxleError("reason", given="nothing", wanted="a few words on why it is struck")
    with job_change(job, user, version) as change:
        valid = {row.pk: row for row in loading.load(change.job).valid_readings()}
        if reading_id not in valid:
            raise Rejected("That reading is struck already, or is not one of this job's.")
        row = strike_row(user, valid[reading_id], reason.strip()[:200])
        change.what = f"struck {kind_named(row.kind).title.lower()} {valid[reading_id].typed}"
    return row


def choose_method(user: User, job: Job, version: int, station: str, method: str) -> None:
    """Settle a station by another way of measuring."""
    known = stations().get(station)
    if known is None or method not in {w.name for w in known.methods}:
        raise AxleError("way of measuring", given=f"“{method}”", wanted="one that the station offers")
    with job_change(job, user, version) as change:
        change.job.ways = {**change.job.ways, station: method}
        change.job.save(update_fields=["ways"])
        change.what = f"chose another way at {known.title.lower()}"


def read_already(job: Job, kind: ReadingKind, place: int, conditions: Mapping[str, Any]) -> bool:
    """Whether a place around the ring was read on this setting: twice is a slip more often than not."""
    if kind.places == 1:
        return False
    spec, assembly, settings = loading.now_in(job)
    places = checked(kind.kind, conditions).get("places")
    return (
        _same_slot(spec, assembly, settings=settings, kind=kind.kind, place=place, places=places)
        is not None
    )


def _same_slot(
    spec: AxleSpec,
    assembly: Assembly,
    settings: Mapping[str, str],
    kind: str,
    place: int,
    places: int | None = None,
) -> Reading | None:
    """The valid reading that a new one at the same place and settings replaces.

    Rotating torque after each bite of a sleeve's nut is a series: the nut moved in between, so
    nothing is struck.
    """
    if kind_named(kind).series or (kind == KindName.PINION_TORQUE and not spec.layout.has_preload_pack):
        return None
    same = Reading.objects.filter(
        assembly=assembly, kind=kind, place=place, value__isnull=False, struck_by=None
    ).order_by("-id")
    # Place 2 of 4 is another place than 2 of 8.
    usual = kind_named(kind).places
    return next(
        (
            row
            for row in same
            if row.settings == settings and row.conditions.get("places", usual) == (places or usual)
        ),
        None,
    )


def _tool(user: User, kind: ReadingKind, tool: int) -> Instrument:
    """An instrument of the shop's register that this kind can be read with."""
    instrument: Instrument | None = Instrument.objects.of(user.shop).filter(pk=tool, retired=False).first()
    if instrument is None:
        raise Rejected("That instrument is not in use in this shop's register.")
    if kind.instruments and instrument.kind not in kind.instruments:
        raise Rejected(f"{instrument.name} does not read {kind.title.lower()}: choose another instrument.")
    return instrument


def strike_row(user: User, reading: Reading, reason: str) -> Reading:
    """Strike a reading by a row of its own; inside a change of the job."""
    return Reading.objects.create(
        assembly=reading.assembly,
        kind=reading.kind,
        place=reading.place,
        at=clock.now(),
        person=user,
        by=user.called,
        strikes=reading,
        reason=reason,
        settings=reading.settings,
    )
