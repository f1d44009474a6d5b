"""What goes into and comes out of the shim drawer."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from decimal import Decimal
from typing import Any, Final

from django.db import transaction

from axle.errors import AxleError
from axle.measure.parse import parse, unit_named
from axle.measure.units import MM, THOU, Quantity
from axle.shims.pieces import miced, thickest
from shop.people import rules
from shop.people.models import User
from shop.people.rules import Rejected, Right
from shop.stock.models import Condition, Family, Kit, ShimLot, ShimRole, StockMovement

FINEST: Final = Decimal("0.00001")
MOST_OF_A_SIZE: Final = 500
# A size written in the reader's unit comes back so near [mm].
_ROUNDED: Final = Decimal("0.0005")
Kind = StockMovement.Kind


@dataclass(frozen=True)
class Lot:
    """Like pieces, as they are put into the drawer.

    ``miced`` holds every reading of the micrometer; none where only what is marked is known.
    """

    family: str
    nominal: Quantity
    miced: tuple[Quantity, ...] = ()
    quantity: int = 1
    condition: str = Condition.NEW
    bin: str = ""
    shape: str = ""
    role: str = ShimRole.SELECT
    cast: bool = False
    kit: str = ""
    low_at: int = 0

    @property
    def thickness(self) -> Decimal:
        """Mean of the readings, or the nominal size."""
        if not self.miced:
            return self.nominal.core.quantize(FINEST)
        return miced([reading.core for reading in self.miced])


def withdraw(
    user: User,
    lot_id: int,
    families: tuple[str, ...],
    reason: str,
    *,
    job: int,
    place: str,
    shape: str = "",
    practice: bool = False,
) -> ShimLot:
    """Take one piece for a job: of the drawer or its own tray, for practice of the practice drawer."""
    rows = ShimLot.objects
    lots = rows.for_practice(user.shop) if practice else rows.for_job(user.shop, job)
    lot: ShimLot | None = lots.select_for_update().filter(pk=lot_id).first()
    if lot is None:
        raise Rejected("That shim is not in this shop's drawer.")
    if lot.family not in families:
        raise Rejected(f"A shim for “{lot.get_family_display()}” does not fit there.")
    if lot.shape not in ("", shape):
        takes = f"takes “{shape}”" if shape else "has no shape chosen"
        raise Rejected(f"The {lot.typed} shim is of the shape “{lot.shape}”; this place {takes}.")
    if lot.condition == Condition.DAMAGED:
        raise Rejected(f"The {lot.typed} shim is damaged and is not fitted.")
    if lot.quantity < 1:
        raise Rejected(f"The drawer has no {lot.typed} shim left{_where_gone(lot)}.")
    move(user, lot, change=-1, reason=reason, kind=Kind.OUT, job=job, place=place)
    return lot


def put_back(user: User, lot_id: int, reason: str, *, job: int, place: str) -> None:
    """Put one piece back into its lot."""
    lot = ShimLot.objects.filter(shop=user.shop).select_for_update().get(pk=lot_id)
    move(user, lot, change=1, reason=f"back from {reason}", kind=Kind.BACK, job=job, place=place)


def stock_practice_drawer(user: User, sizes: Iterable[tuple[str, str]]) -> None:
    """Fill the drawer of the practice bench, once for a shop.

    :param sizes: (family, thousandths of an inch as text).
    """
    if user.shop is None or ShimLot.objects.for_practice(user.shop).exists():
        return
    for family, thou in sizes:
        size = parse(thou, THOU, "practice shim")
        ShimLot.objects.create(
            shop=user.shop,
            family=family,
            nominal=size.core.quantize(FINEST),
            miced=size.core.quantize(FINEST),
            typed=size.text,
            quantity=40,
            practice=True,
            bin="practice",
            readings=[str(size.core)],
        )


def receive(user: User, given: Lot, reason: str = "received") -> ShimLot:
    """Put new pieces into the drawer; like pieces join the lot that is there."""
    if user.shop is None:
        raise Rejected("You belong to no shop; ask its owner to let you in.")
    _check(given)
    with transaction.atomic():
        like = {
            "family": given.family,
            "miced": given.thickness,
            "condition": given.condition,
            "bin": given.bin,
            "shape": given.shape,
            "role": given.role,
            "cast": given.cast,
            "kit": given.kit,
            "is_miced": bool(given.miced),
        }
        mine = ShimLot.objects.of(user.shop).select_for_update()
        lot: ShimLot = mine.filter(**like).order_by("pk").first() or ShimLot.objects.create(
            shop=user.shop,
            nominal=given.nominal.core.quantize(FINEST),
            quantity=0,
            low_at=given.low_at,
            typed=" ".join(q.text for q in given.miced)[:40] or given.nominal.text,
            readings=[str(q.core) for q in given.miced],
            **like,
        )
        if given.low_at and lot.low_at != given.low_at:
            lot.low_at = given.low_at
            lot.save(update_fields=["low_at"])
        if lot.quantity + given.quantity > MOST_OF_A_SIZE:
            raise AxleError(
                "quantity",
                given=f"{lot.quantity + given.quantity}",
                wanted=f"{MOST_OF_A_SIZE} or fewer of a size",
            )
        move(user, lot, change=given.quantity, reason=reason, kind=Kind.IN)
    return lot


def receive_many(user: User, lots: Sequence[Lot], reason: str) -> int:
    """Put many lots into the drawer together, or none of them; says how many pieces."""
    with transaction.atomic():
        for given in lots:
            receive(user, given, reason)
    return sum(given.quantity for given in lots)


def take_table(user: User, rows: Sequence[tuple[Lot, int | None]]) -> tuple[int, int]:
    """Take a table in, whole or not at all: lines with a lot's own number are its count, others a delivery.

    :returns: pieces received, and lots whose count was corrected.
    """
    rules.require_right(user, Right.STOCK_OUT)
    received, corrected = 0, 0
    with transaction.atomic():
        for given, number in rows:
            lot = _same_lot(user, given, number)
            if lot is None:
                if given.quantity:
                    receive(user, given, "from a table")
                    received += given.quantity
            elif lot.quantity != given.quantity:
                move(
                    user,
                    lot,
                    change=given.quantity - lot.quantity,
                    reason="counted, from a table",
                    kind=Kind.SORT,
                )
                corrected += 1
    return received, corrected


def _same_lot(user: User, given: Lot, number: int | None) -> ShimLot | None:
    """The drawer's lot that a line of its own table tells of: the number and the pieces have to agree."""
    if number is None:
        return None
    rows = ShimLot.objects.of(user.shop).select_for_update()
    lot: ShimLot | None = rows.filter(pk=number, family=given.family).first()
    if lot is None:
        return None
    size = given.thickness if given.miced else given.nominal.core.quantize(FINEST)
    return lot if abs(lot.miced - size) <= _ROUNDED else None


def keep_kit(user: User, name: str, lines: Sequence[Lot]) -> Kit:
    """Write down what a kit holds, so that it can be received as a unit."""
    if user.shop is None:
        raise Rejected("You belong to no shop; ask its owner to let you in.")
    if not name.strip() or not lines:
        raise AxleError(
            "kit", given="no name or no line", wanted="a name, and at least one size with its number"
        )
    for line in lines:
        _check(line)
    kit, _ = Kit.objects.update_or_create(
        shop=user.shop, name=name.strip()[:60], defaults={"lines": [_line(line) for line in lines]}
    )
    return kit


def receive_kit(user: User, kit_id: int, count: int, bin_name: str = "") -> tuple[Kit, int]:
    """Receive a kit as a unit: its pieces go in by what is marked, to be mic'd before they are trusted."""
    kit: Kit | None = Kit.objects.of(user.shop).filter(pk=kit_id).first()
    if kit is None:
        raise Rejected("That kit is not one of this shop's.")
    lots = [_lot_of(line, kit.name, count, bin_name) for line in kit.lines]
    return kit, receive_many(user, lots, f"kit “{kit.name}”")


def mic(user: User, lot_id: int, readings: tuple[Quantity, ...], pieces: int) -> ShimLot:
    """Sort pieces out of a lot by what the micrometer says of them."""
    with transaction.atomic():
        lot = _held(user, lot_id)
        if not 1 <= pieces <= lot.quantity:
            raise AxleError(
                "pieces", given=f"{pieces}", wanted=f"1 to {lot.quantity}, as many as the lot has"
            )
        if not readings:
            raise AxleError("mic'd thickness", given="nothing", wanted="one reading or more")
        new = Lot(
            lot.family,
            Quantity(lot.typed, lot.nominal, MM),
            miced=readings,
            quantity=pieces,
            condition=lot.condition,
            bin=lot.bin,
            shape=lot.shape,
            role=lot.role,
            cast=lot.cast,
            kit=lot.kit,
            low_at=lot.low_at,
        )
        move(user, lot, change=-pieces, reason="mic'd", kind=Kind.SORT)
        return receive(user, new, "mic'd")


def scrap(user: User, lot_id: int, pieces: int, reason: str) -> ShimLot:
    """Throw pieces away, with the reason; they stay on record."""
    rules.require_right(user, Right.STOCK_OUT)
    with transaction.atomic():
        lot = _held(user, lot_id)
        if not 1 <= pieces <= lot.quantity:
            raise AxleError(
                "pieces", given=f"{pieces}", wanted=f"1 to {lot.quantity}, as many as the lot has"
            )
        if not reason.strip():
            raise AxleError("reason", given="nothing", wanted="why it is scrapped, in a few words")
        move(user, lot, change=-pieces, reason=f"scrapped: {reason.strip()}", kind=Kind.SCRAP)
    return lot


def set_condition(user: User, lot_id: int, condition: str) -> ShimLot:
    """Say that a lot is damaged, or sound again after a look."""
    if condition not in Condition.values:
        raise AxleError("condition", given=f"“{condition[:20]}”", wanted="new, good or damaged")
    rules.require_right(user, Right.STOCK_IN if condition == Condition.DAMAGED else Right.STOCK_OUT)
    with transaction.atomic():
        lot = _held(user, lot_id)
        lot.condition = condition
        lot.save(update_fields=["condition"])
    return lot


def set_low(user: User, lot_id: int, low_at: int) -> ShimLot:
    """Say under how many pieces a lot is on the list of what runs low; 0 for never."""
    rules.require_right(user, Right.STOCK_OUT)
    with transaction.atomic():
        lot = _held(user, lot_id)
        lot.low_at = low_at
        lot.save(update_fields=["low_at"])
    return lot


def _held(user: User, lot_id: int) -> ShimLot:
    lot: ShimLot | None = ShimLot.objects.of(user.shop).select_for_update().filter(pk=lot_id).first()
    if lot is None:
        raise Rejected("That shim is not in this shop's drawer.")
    return lot


def _check(given: Lot) -> None:
    known = (
        ("family", given.family, Family),
        ("condition", given.condition, Condition),
        ("role", given.role, ShimRole),
    )
    for what, value, choices in known:
        if value not in choices.values:
            raise AxleError(what, given=f"“{value[:20]}”", wanted=", ".join(choices.values))
    most = thickest(given.role == ShimRole.SPACER)
    for reading in (*given.miced, given.nominal):
        if not 0 < reading.core < most:
            raise AxleError("thickness", given=f"“{reading.text}”", wanted=f"more than 0, under {most} mm")
    if not 1 <= given.quantity <= MOST_OF_A_SIZE:
        raise AxleError("quantity", given=f"{given.quantity}", wanted=f"1 to {MOST_OF_A_SIZE}")


def _where_gone(lot: ShimLot) -> str:
    """Where the last piece of a lot went, so that one shim is not looked for in two places."""
    last = lot.movements.filter(kind=Kind.OUT).order_by("-id").first()
    return f": the last one went to {last.reason}" if last else ": somebody took the last one"


def _line(given: Lot) -> dict[str, Any]:
    return {
        "family": given.family,
        "shape": given.shape,
        "role": given.role,
        "cast": given.cast,
        "nominal": given.nominal.text,
        "unit": given.nominal.unit.symbol,
        "quantity": given.quantity,
    }


def _lot_of(line: dict[str, Any], kit: str, count: int, bin_name: str) -> Lot:
    return Lot(
        line["family"],
        parse(line["nominal"], unit_named(line["unit"]), "kit"),
        miced=(),
        quantity=line["quantity"] * count,
        condition=Condition.NEW,
        bin=bin_name,
        shape=line["shape"],
        role=line["role"],
        cast=line["cast"],
        kit=kit,
    )


def move(
    user: User, lot: ShimLot, change: int, reason: str, kind: Kind, job: int | None = None, place: str = ""
) -> None:
    """Change how many pieces a lot has, and keep why."""
    lot.quantity += change
    lot.save(update_fields=["quantity"])
    StockMovement.objects.create(
        lot=lot, change=change, reason=reason[:120], person=user, kind=kind, job_number=job, place=place
    )
