"""Every change to a job, each in one place: permission, transaction, audit.

Services take plain values. Each locks the job's row, checks that the page that asks has seen the
newest state, writes, and works out the summary that the jobs page shows.
"""

import uuid
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date
from typing import Any

from django.db import transaction
from django.utils import timezone

from axle.advice.inspection import VERDICTS, Verdict, check, reuse
from axle.depth.marks import Mark, MarkConvention
from axle.errors import AxleError, quoted
from axle.layout import Place
from axle.procedure.choices import still_possible
from axle.procedure.conditions import checked, has_dial, has_stance
from axle.procedure.instruments import calibration
from axle.procedure.scope import scope_named
from axle.procedure.stations import ReadingKind, kind_named, station_of, stations
from axle.specfile import AxleSpec, read_spec
from axle.units import Quantity
from shop.instruments.models import Instrument
from shop.jobs import bridge, clock, countersign
from shop.jobs.assemblies import rebuild
from shop.jobs.book import book
from shop.jobs.change import changing, settle
from shop.jobs.models import Assembly, Job, Move, Position, Reading, SignOff
from shop.jobs.moves import keep_move
from shop.people import rules
from shop.people.models import Shop, User
from shop.people.rules import Refused
from shop.specs.bridge import plain
from shop.specs.models import SpecSheet


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
        raise Refused("That sheet is not one of this shop's.")
    with transaction.atomic():
        fence = type(shop).objects.select_for_update().get(pk=shop.pk)
        now = clock.now()
        job = Job(
            shop=shop,
            number=fence.next_job_number,
            title=given.title,
            customer=given.customer,
            complaint=given.complaint,
            arrived_on=given.arrived_on,
            promised_on=given.promised_on,
            sheet=plain(sheet),
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
        fence.next_job_number += 1
        fence.save(update_fields=["next_job_number"])
        job.save()
        Assembly.objects.create(job=job, number=1, started_at=now, started_by=user, by=user.called)
        settle(job, user, "opened the job")
    return job


def _usual_school(shop: Shop, sheet: Mapping[str, Any], scope: str) -> dict[str, str]:
    """The school this shop usually follows on such an axle, kept with the job as it was opened."""
    layout = read_spec(sheet).layout
    school = shop.schools.get(layout.carrier_by.value)
    return still_possible(layout, {"school": school}, scope) if school else {}


def take_reading(
    user: User,
    job: Job,
    version: int,
    *,
    kind: str,
    place: int,
    quantity: Quantity,
    entry: uuid.UUID,
    confidence: str = "fixture",
    instrument: str = "",
    conditions: Mapping[str, Any] | None = None,
    tool: int | None = None,
) -> Reading:
    """Store one reading as typed; at a place already read on this setting, strike the old one.

    ``tool`` is the instrument of the register that it was read with.
    """
    what = kind_named(kind)
    if kind in ("ring_run", "flange_run"):
        raise Refused("A run around the ring is entered on the runout page, place by place or as a row.")
    what.check(quantity.core, quantity.text, quantity.unit)
    last = (conditions or {}).get("places", what.places) if what.most else what.last_place
    if not 1 <= place <= last:
        raise AxleError(what.title, given=f"place {place}", wanted=f"place 1 to {last}")
    known = Reading.objects.filter(entry=entry, assembly__job=job).first()
    if known is not None:
        return known
    with changing(job, user, version) as change:
        spec, assembly, settings = bridge.now_in(change.job)
        if station_of(kind) in ("carrier_preload", "backlash", "pattern") and book(change.job).is_aside:
            raise Refused(
                "The carrier stands aside: bring it back by the holes it went, then read. See the "
                "carrier's page."
            )
        usual: dict[str, Any] = {"stance": spec.sheet.stance.value} if has_stance(kind) else {}
        gauge = _tool(user, what, tool) if tool is not None else None
        if gauge is not None and has_dial(kind) and gauge.revolution is not None:
            usual |= {"shows": gauge.shows, "revolution": float(gauge.revolution)}
        known_conditions = checked(kind, usual | dict(conditions or {}))
        # A reading that repeats another on purpose stands beside it: their mean counts.
        again = bool(known_conditions.get("again"))
        old = (
            None
            if again
            else _same_slot(spec, assembly, settings, kind, place, known_conditions.get("places"))
        )
        standing = calibration(gauge.due_on, timezone.localdate()) if gauge else None
        reading = Reading.objects.create(
            entry=entry,
            assembly=assembly,
            kind=kind,
            place=place,
            typed=quantity.text,
            unit=quantity.unit.symbol,
            value=quantity.core,
            at=clock.now(),
            person=user,
            by=user.called,
            settings=settings,
            conditions=known_conditions,
            instrument=gauge.name if gauge else instrument,
            confidence=confidence,
            strikes=old,
            resolution=gauge.resolution if gauge else None,
            overdue=standing.words if standing and standing.level == "overdue" else "",
            reason="read again" if old else "",
        )
        if kind == "cap_torque":
            # Another torque on the caps is another bore: what was read under the old one goes stale.
            Position.objects.update_or_create(
                assembly=assembly, place=Place.CAPS.value, defaults={"value": round(quantity.core, 2)}
            )
        change.what = f"read {what.title.lower()} {quantity.text}"
    return reading


def confirm_mark(user: User, job: Job, version: int, mark: Quantity, convention: str) -> None:
    """Say what the mark on the pinion means; nothing is worked out from a mark before."""
    meant = one_mark(mark, convention)
    with changing(job, user, version) as change:
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
    return Mark(float(mark.core), known, bridge.mark_step(mark.text))


def choose_shape(user: User, job: Job, version: int, place: Place, shape: str) -> None:
    """Say which shape of shim fits a place of this axle; "" for any."""
    with changing(job, user, version) as change:
        if place not in bridge.load(change.job).spec.layout.shim_places:
            raise AxleError("shape", given=f"the {place.value} place", wanted="a place of this layout")
        kept = {name: known for name, known in change.job.shapes.items() if name != place.value}
        change.job.shapes = kept | ({place.value: shape.strip()[:40]} if shape.strip() else {})
        change.job.save(update_fields=["shapes"])
        change.what = f"chose the shape of the {place.value} shims"


def strike_last(user: User, job: Job, version: int, reason: str) -> Reading | None:
    """Strike the newest valid reading with a row of its own; nothing is lost."""
    with changing(job, user, version) as change:
        axle = bridge.load(change.job)
        valid = axle.valid_readings()
        if not valid:
            raise Refused("There is no reading to undo on this job.")
        last = max(valid, key=lambda row: row.pk)
        strike_row = _strike(user, last, reason)
        change.what = f"struck {kind_named(last.kind).title.lower()} {last.typed}"
    return strike_row


def strike(user: User, job: Job, version: int, reading_id: int, reason: str) -> Reading:
    """Strike one reading, with the reason."""
    if not reason.strip():
        raise AxleError("reason", given="nothing", wanted="a few words on why it is struck")
    with changing(job, user, version) as change:
        valid = {row.pk: row for row in bridge.load(change.job).valid_readings()}
        if reading_id not in valid:
            raise Refused("That reading is struck already, or is not one of this job's.")
        row = _strike(user, valid[reading_id], reason.strip()[:200])
        change.what = f"struck {kind_named(row.kind).title.lower()}"
    return row


def choose_way(user: User, job: Job, version: int, station: str, way: str) -> None:
    """Settle a station by another way of measuring."""
    known = stations().get(station)
    if known is None or way not in {w.way for w in known.ways}:
        raise AxleError("way of measuring", given=f"“{way}”", wanted="one that the station offers")
    with changing(job, user, version) as change:
        change.job.ways = {**change.job.ways, station: way}
        change.job.save(update_fields=["ways"])
        change.what = f"chose another way at {known.title.lower()}"


def fit_pack(user: User, job: Job, version: int, place: Place, lots: list[int]) -> None:
    """Fit named pieces at a place by hand; starts a new assembly when a pack comes out."""
    with changing(job, user, version) as change:
        axle = bridge.load(change.job)
        if place not in axle.spec.layout.shim_places:
            raise AxleError("pack", given=f"the {place.value} place", wanted="a place of this layout")
        if not lots:
            raise AxleError("pack", given="no piece", wanted="at least one piece from the drawer")
        rebuild(user, axle, {place: lots}, {}, note=f"{place.value} pack fitted")
        change.what = f"fitted the {Place(place).value} pack"


def new_sleeve(user: User, job: Job, version: int) -> None:
    """Record that a new collapsible sleeve is in: what was read on the old one no longer holds."""
    with changing(job, user, version) as change:
        axle = bridge.load(change.job)
        if axle.spec.layout.has_preload_pack:
            raise AxleError("sleeve", given="a new sleeve", wanted="an axle that has one")
        number = axle.state.setting(Place.PRELOAD) + 1
        rebuild(user, axle, {}, {Place.PRELOAD: number}, note="new sleeve", always=True)
        change.what = "fitted a new sleeve"


def take_move(user: User, job: Job, version: int) -> Move:
    """Do the next move: fit its packs from the drawer and keep it with what it expects."""
    with changing(job, user, version) as change:
        axle = bridge.load(change.job)
        advice = axle.move.change
        if advice is None:
            raise Refused("There is no change of shims to make now: the page was behind.")
        if book(change.job).is_aside and any(s.place in (Place.RING, Place.FAR) for s in advice.swaps):
            raise Refused("The carrier stands aside: bring it back first, by the holes it went.")
        move = keep_move(user, axle, advice)
        change.what = f"took the move “{advice.title}”"
    return move


def sign(
    user: User, job: Job, version: int, station: str, reason: str = "", verdict: Verdict | None = None
) -> SignOff:
    """Sign a station as it stands; out of range it is a deviation and wants a reason.

    An inspection is signed with its verdict.
    """
    rules.must(
        rules.may_sign_on(user, practice=job.practice),
        "An apprentice does not sign: ask a builder or the owner.",
    )
    if station not in stations() or not stations()[station].is_measured:
        raise AxleError("station", given=f"“{station[:30]}”", wanted="a station that is measured")
    with changing(job, user, version) as change:
        axle = bridge.load(change.job)
        standing = axle.standings[station]
        others = [s for name, s in axle.standings.items() if name not in ("sheet", station)]
        if station == "sheet":
            open_ones = [stations()[s.station].title.lower() for s in others if not s.is_done]
            open_ones += [f"“{s.step.title.lower()}”" for s in axle.open_holds]
            waits = countersign.waiting(axle)
            if waits:
                raise Refused(
                    f"A builder has not countersigned yet: {countersign.words_for(waits)}. Look at each, "
                    "and sign it."
                )
            if open_ones:
                raise Refused(
                    f"The build sheet cannot be signed: {', '.join(open_ones)} not in range or "
                    "signed. Read them, or sign each with a reason."
                )
        if station in axle.plan.scope.without:
            raise AxleError(
                "station", given=stations()[station].title.lower(), wanted="one that is part of this job"
            )
        deviation = station != "sheet" and standing.status.value != "in range"
        if deviation and len(reason.strip()) < 4:
            raise AxleError(
                "reason",
                given=quoted(reason),
                wanted="why this is accepted, in a few words",
            )
        signed = SignOff.objects.create(
            job=change.job,
            station=station,
            deviation=deviation,
            reason=reason.strip()[:500],
            statement=_statement(axle, station, verdict),
            at=clock.now(),
            person=user,
            by=user.called,
            settings=bridge.as_json(axle.state.settings),
        )
        if station == "sheet":
            change.job.state = Job.State.SIGNED
        change.what = f"signed {stations()[station].title.lower()}"
    return signed


def _statement(axle: bridge.Axle, station: str, verdict: Verdict | None) -> list[str]:
    """What is signed, in words: the verdict of an inspection, else the station's result."""
    if station == "sheet" and axle.plan.scope.scope == "inspection":
        if verdict is None:
            raise AxleError("verdict", given="none", wanted=", ".join(VERDICTS.values()).lower())
        held = reuse(axle.state, axle.found, axle.display)
        check(verdict, held)
        return [*verdict.lines, *(line.words for line in held)]
    result = axle.standings[station].result
    return list(result.why) if result else []


def reopen(user: User, job: Job, version: int, reason: str) -> None:
    """Withdraw the build sheet's signature so that work can go on; both stay on record."""
    rules.must(rules.may_sign(user), "An apprentice does not reopen a signed job: ask a builder.")
    if not reason.strip():
        raise AxleError("reason", given="nothing", wanted="why the job is opened again")
    with changing(job, user, version, signed=True) as change:
        SignOff.objects.create(
            job=change.job,
            station="sheet",
            withdrawn=True,
            reason=reason.strip()[:500],
            at=clock.now(),
            person=user,
            by=user.called,
        )
        change.job.state = Job.State.OPEN
        change.what = "opened the job again"


def read_already(job: Job, kind: ReadingKind, place: int, conditions: Mapping[str, Any]) -> bool:
    """Whether a place around the ring was read on this setting: twice is a slip more often than not."""
    if kind.places == 1:
        return False
    spec, assembly, settings = bridge.now_in(job)
    places = checked(kind.kind, conditions).get("places")
    return _same_slot(spec, assembly, settings, kind.kind, place, places) is not None


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
    if kind_named(kind).series or (kind == "pinion_torque" and not spec.layout.has_preload_pack):
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
    found: Instrument | None = Instrument.objects.of(user.shop).filter(pk=tool, retired=False).first()
    if found is None:
        raise Refused("That instrument is not in use in this shop's register.")
    if kind.instruments and found.kind not in kind.instruments:
        raise Refused(f"{found.name} does not read {kind.title.lower()}: choose another instrument.")
    return found


def _strike(user: User, reading: Reading, reason: str) -> Reading:
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
