"""Changes to a job's parts: lines of the bill, what becomes of them, deliveries, claims."""

from __future__ import annotations

import uuid
from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date, timedelta
from decimal import Decimal

from django.db import transaction
from django.db.models import Max
from django.utils import timezone

from axle.errors import AxleError
from axle.measure.units import MM, Quantity
from axle.parts import lines as part_states
from axle.parts.bill import Kind, bill, parts, steps_waiting
from axle.parts.lines import LineState
from shop.jobs import clock, loading, noted_lines
from shop.jobs.actions.job_change import job_change
from shop.jobs.job_axle import JobAxle
from shop.jobs.models import Delivery, Job, Order, PartLine
from shop.people import rules
from shop.people.models import Shop, User
from shop.people.rules import Rejected, Right
from shop.stock import services
from shop.stock.models import PriceLine, Supplier
from shop.stock.services import Lot

# No line of a job holds more.
MOST = Decimal(500)
_BOUGHT = (PartLine.State.ORDERED, PartLine.State.ON_ITS_WAY, PartLine.State.HERE, PartLine.State.FITTED)


@dataclass(frozen=True)
class NewLine:
    """A line as it is put on a job's list."""

    words: str
    kind: str = PartLine.Kind.PART
    quantity: Decimal = Decimal(1)
    unit: str = ""
    part: str = ""
    why: str = ""
    owner: str = PartLine.Owner.SHOP
    supplier: Supplier | None = None
    price: Decimal | None = None
    charge: Decimal | None = None
    family: str = ""
    size: Decimal | None = None
    state: str = PartLine.State.NEEDED


def draw_up(user: User, job: Job, version: int, names: Iterable[str]) -> int:
    """Put lines of the bill on the list; what stands there already is left alone. Says how many."""
    rules.require_right(user, Right.PARTS)
    with job_change(job, user, version) as change:
        axle = loading.load(change.job)
        wanted = {line.part.part: line for line in bill(axle.plan.facts, axle.found, axle.plan)}
        there = set(PartLine.objects.filter(job=job).values_list("part", flat=True))
        chosen = [name for name in dict.fromkeys(names) if name not in there]
        unknown = [name for name in chosen if name not in wanted]
        if unknown:
            raise AxleError(
                "bill of parts", given=f"“{unknown[0][:30]}”", wanted="lines of this job's bill"
            )
        prices = cheapest(user.shop, chosen)
        passed = {s.step.step for s in axle.progress if s.is_passed}
        for name in chosen:
            line, price = wanted[name], prices.get(name)
            _create(
                user,
                change.job,
                NewLine(
                    line.part.title,
                    line.part.kind.value,
                    quantity=Decimal(str(line.quantity)),
                    unit=line.part.unit,
                    part=name,
                    why=line.why,
                    supplier=price.supplier if price else None,
                    price=price.price if price else None,
                    state=_state_of(name, axle, passed),
                ),
                uuid.uuid4(),
            )
            if price is not None and price.core:
                core = NewLine(
                    f"Core deposit: {line.part.title.lower()}",
                    Kind.CORE.value,
                    why="paid back when the old part is returned",
                    supplier=price.supplier,
                    price=price.core,
                )
                _create(user, change.job, core, uuid.uuid4())
        change.what = f"put {len(chosen)} parts on the list"
    return len(chosen)


def _state_of(part: str, axle: JobAxle, passed: Collection[str]) -> str:
    """A part whose every step is passed is in the axle already."""
    waiting = steps_waiting(part, axle.plan.steps)
    is_in = bool(waiting) and all(step in passed for step in waiting)
    return PartLine.State.FITTED if is_in else PartLine.State.NEEDED


def cheapest(shop: Shop | None, names: Iterable[str]) -> dict[str, PriceLine]:
    """The lowest price that a shop knows of each part."""
    rows = PriceLine.objects.of(shop).filter(part__in=list(names), supplier__retired=False)
    found: dict[str, PriceLine] = {}
    for row in rows.select_related("supplier").order_by("price", "pk"):
        found.setdefault(row.part, row)
    return found


def add_line(user: User, job: Job, version: int, line: NewLine, entry: uuid.UUID) -> PartLine:
    """Put a line of one's own on a job's list."""
    rules.require_right(user, Right.PARTS)
    known = PartLine.objects.filter(job=job, entry=entry).first()
    if known is not None:
        return known
    if line.price is not None or line.charge is not None:
        rules.require_right(user, Right.ORDER)
    with job_change(job, user, version, signed=job.state == Job.State.SIGNED) as change:
        row = _create(user, change.job, line, entry)
        change.what = f"put {row.words.lower()} on the parts list"
    return row


def add_lines(user: User, job: Job, version: int, lines: Sequence[NewLine]) -> int:
    """Put several lines on a job's list at once; says how many."""
    rules.require_right(user, Right.PARTS)
    with job_change(job, user, version) as change:
        for line in lines:
            _create(user, change.job, line, uuid.uuid4())
        change.what = f"put {len(lines)} lines on the parts list"
    return len(lines)


def chosen_set(user: User, job: Job, line: NewLine, supplier: str, *, changes: bool) -> None:
    """Put the chosen ring and pinion on the list, in place of one that is not ordered yet.

    :param supplier: by name, or "".
    :param changes: it is another set than the job was built to before.
    :raises AxleError: where another one is ordered already, or here.
    """
    lines = list(PartLine.objects.filter(job=job, part=line.part))
    going = [row for row in lines if row.state in _BOUGHT]
    if going and changes and going[0].words != line.words:
        raise AxleError(
            "set",
            given=f"another one while {going[0].words.lower()} is {going[0].state}",
            wanted="that one returned or called off first",
        )
    seller = Supplier.objects.of(job.shop).filter(name=supplier, retired=False).first()
    held = next((row for row in lines if LineState(row.state) in part_states.OPEN), None)
    if held is not None:
        held.words, held.supplier, held.price, held.why = line.words, seller, line.price, line.why
        held.save()
    elif not going:
        _create(user, job, replace(line, supplier=seller), uuid.uuid4())


def _create(user: User, job: Job, line: NewLine, entry: uuid.UUID) -> PartLine:
    words = line.words.strip()
    if len(words) < 2:
        raise AxleError("part", given=f"“{words}”", wanted="what it is, in general terms")
    _check_quantity(words, line.quantity)
    return PartLine.objects.create(
        job=job,
        entry=entry,
        part=line.part,
        words=words[:120],
        kind=PartLine.Kind(line.kind),
        quantity=line.quantity,
        unit=line.unit[:8],
        why=line.why[:200],
        state=line.state,
        owner=line.owner,
        supplier=line.supplier,
        price=line.price,
        charge=line.charge,
        family=line.family,
        size=line.size,
        by=user.called,
        at=clock.now(),
    )


def _check_quantity(words: str, quantity: Decimal) -> None:
    if not quantity.is_finite() or not 0 < quantity <= MOST:
        raise AxleError(
            f"quantity of {words.lower()}", given=f"{quantity}", wanted=f"more than 0, to {MOST}"
        )


def change_line(user: User, job: Job, version: int, line_id: int, given: Mapping[str, object]) -> PartLine:
    """Change what stands on a line, or let it become something else.

    :param given: any of state, owner, quantity, supplier, price, charge, claim, claim_settled, credit, why.
    """
    rules.require_right(user, Right.PARTS)
    if {"price", "charge", "supplier", "credit"} & set(given):
        rules.require_right(user, Right.ORDER)
    with job_change(job, user, version, signed=job.state == Job.State.SIGNED) as change:
        row = _line_of(change.job, line_id)
        fields = dict(given)
        if "state" in fields:
            to = LineState(fields.pop("state"))
            if to is LineState.ORDERED:
                raise Rejected("A line is ordered from the order list, with its supplier and a date.")
            row.state = part_states.change(row.words, LineState(row.state), to).value
            if to is LineState.NEEDED:
                row.order, row.due_on, row.received, row.arrived_on = None, None, Decimal(0), None
            elif to is LineState.HERE:
                row.received, row.arrived_on = row.quantity, timezone.localdate()
        for name, value in fields.items():
            setattr(row, name, value)
        _check_quantity(row.words, row.quantity)
        if row.received > row.quantity:
            raise AxleError(
                f"quantity of {row.words.lower()}",
                given=f"{row.quantity.normalize():f}",
                wanted=f"{row.received.normalize():f} or more, as many as are here",
            )
        row.save()
        change.what = f"changed {row.words.lower()} on the parts list: {row.state}"
    return row


def _line_of(job: Job, line_id: int) -> PartLine:
    row = PartLine.objects.select_for_update().filter(job=job, pk=line_id).first()
    if row is None:
        raise Rejected("That line is not on this job's list.")
    return row


def spoil(user: User, job: Job, version: int, line_id: int, reason: str, entry: uuid.UUID) -> PartLine:
    """A part that was here is spoilt: its line says so, and a new one is needed."""
    rules.require_right(user, Right.PARTS)
    known = PartLine.objects.filter(job=job, entry=entry).first()
    if known is not None:
        return known
    if len(reason.strip()) < 3:
        raise AxleError("spoilt", given=f"“{reason.strip()}”", wanted="how it was spoilt, in a few words")
    with job_change(job, user, version) as change:
        row = _line_of(change.job, line_id)
        if LineState(row.state) not in (LineState.HERE, LineState.FITTED):
            raise AxleError(row.words, given=row.state, wanted="a part that is here")
        row.kind, row.why = PartLine.Kind.WASTED, f"spoilt: {reason.strip()}"[:200]
        row.save()
        new = _create(
            user,
            change.job,
            NewLine(
                row.words,
                Kind(parts()[row.part].kind).value if row.part in parts() else PartLine.Kind.PART,
                quantity=row.quantity,
                unit=row.unit,
                part=row.part,
                why=f"in place of one spoilt: {reason.strip()}",
                supplier=row.supplier,
                price=row.price,
            ),
            entry,
        )
        change.what = f"spoilt {row.words.lower()}: {reason.strip()[:60]}"
    return new


def place_order(
    user: User, line_ids: Sequence[int], supplier_id: int, due_on: date, entry: uuid.UUID, note: str = ""
) -> Order:
    """Order lines of one or more jobs from one supplier."""
    rules.require_right(user, Right.ORDER)
    known: Order | None = Order.objects.of(user.shop).filter(entry=entry).first()
    if known is not None:
        return known
    supplier: Supplier | None = Supplier.objects.of(user.shop).filter(pk=supplier_id, retired=False).first()
    if supplier is None or user.shop is None:
        raise Rejected("That supplier is not one of this shop's.")
    if due_on < timezone.localdate():
        raise AxleError("delivery", given=f"{due_on}", wanted="today or a later day")
    with transaction.atomic():
        # The shop's row orders what two people order at once.
        Shop.objects.select_for_update().get(pk=supplier.shop_id)
        rows = list(
            PartLine.objects.filter(
                pk__in=line_ids, job__shop=user.shop, job__practice=False
            ).select_related("job")
        )
        if not rows or len(rows) != len(set(line_ids)):
            raise Rejected("Some of these lines are gone: look at the list again.")
        gone = [row for row in rows if LineState(row.state) not in part_states.OPEN]
        if gone:
            raise Rejected(f"{gone[0].words} of job {gone[0].job.shown_number} is {gone[0].state} already.")
        _check_sets(rows)
        newest = Order.objects.of(user.shop).aggregate(newest=Max("number"))["newest"] or 0
        order = Order.objects.create(
            shop=user.shop,
            number=newest + 1,
            supplier=supplier,
            entry=entry,
            placed_at=clock.now(),
            placed_by=user,
            by=user.called,
            due_on=due_on,
            note=note.strip()[:200],
        )
        for row in rows:
            row.order, row.supplier, row.due_on = order, supplier, due_on
            row.state = part_states.change(row.words, LineState(row.state), LineState.ORDERED).value
            row.save()
        _touch(user, {row.job for row in rows}, f"ordered from {supplier.name}")
    return order


def _check_sets(rows: Iterable[PartLine]) -> None:
    """A ring and pinion that was chosen for its ratio waits for its answers."""
    for row in rows:
        why = noted_lines.ratio_of(row.job).holds if row.part == "gear_set" else ()
        if why:
            more = f" And {len(why) - 1} more." if len(why) > 1 else ""
            raise Rejected(
                f"{row.words} of job {row.job.shown_number} is not ordered yet. {why[0]}{more} "
                "Answer them on the page of its ratio."
            )


def receive(
    user: User, line_id: int, quantity: Decimal, entry: uuid.UUID, miced: tuple[Quantity, ...] = ()
) -> PartLine:
    """Take in what came of an ordered line; shims go into the drawer with what the micrometer says."""
    rules.require_right(user, Right.PARTS)
    with transaction.atomic():
        row = (
            PartLine.objects.select_for_update()
            .filter(pk=line_id, job__shop=user.shop)
            .select_related("job", "supplier")
            .first()
        )
        if row is None:
            raise Rejected("That line is not on this shop's list.")
        if Delivery.objects.filter(line=row, entry=entry).exists():
            return row
        if LineState(row.state) not in part_states.AWAITED:
            raise Rejected(f"{row.words} is {row.state} already: nothing more of it is awaited.")
        if not quantity.is_finite():
            raise AxleError(row.words, given=f"{quantity}", wanted="how many came")
        state = part_states.received(
            row.words, float(row.quantity), before=float(row.received), now=float(quantity)
        )
        if row.kind == PartLine.Kind.SHIM and row.family and row.size is not None:
            _into_drawer(user, row, quantity, miced)
        Delivery.objects.create(
            line=row,
            entry=entry,
            quantity=quantity,
            at=clock.now(),
            person=user,
            by=user.called,
            miced=[str(q.core) for q in miced],
        )
        row.received += quantity
        row.state, row.arrived_on = state.value, timezone.localdate()
        row.save()
        _touch(user, {row.job}, f"took in {row.words.lower()}")
    return row


def _into_drawer(user: User, row: PartLine, quantity: Decimal, miced: tuple[Quantity, ...]) -> None:
    if quantity != quantity.to_integral_value():
        raise AxleError(row.words, given=f"{quantity}", wanted="whole pieces")
    assert row.size is not None
    nominal = Quantity(f"{row.size.normalize():f} mm", row.size, MM)
    services.receive(
        user,
        Lot(row.family, nominal, miced=miced, quantity=int(quantity)),
        f"delivered for job {row.job.shown_number}",
    )


def _touch(user: User, jobs: Iterable[Job], what: str) -> None:
    """Let each job know that its parts changed."""
    for job in sorted(jobs, key=lambda job: job.pk):
        fresh = Job.objects.get(pk=job.pk)
        with job_change(fresh, user, fresh.version, signed=fresh.state == Job.State.SIGNED) as change:
            change.what = what


def usual_due(supplier: Supplier, today: date) -> date:
    """When a delivery of a supplier is to be expected."""
    return today + timedelta(days=supplier.days)
