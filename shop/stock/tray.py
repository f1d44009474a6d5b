"""The tray of a job: what came out of its axle, apart from the shop's drawer."""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal
from typing import Final

from django.db.models import Sum

from axle.errors import AxleError
from axle.measure.units import MM, Quantity
from shop.people.models import Shop, User
from shop.people.rules import Rejected
from shop.stock import services
from shop.stock.models import Condition, Family, ShimLot, ShimRole, StockMovement

# What each item of the register fits; a side's shim may go to the other side.
FAMILIES: Final = {
    "shim_depth": Family.DEPTH,
    "shim_preload": Family.PRELOAD,
    "spacer": Family.PRELOAD,
    "shim_left": Family.SIDE,
    "shim_right": Family.SIDE,
}
_Kind = StockMovement.Kind
_PUT: Final = (_Kind.IN, _Kind.SORT)


@dataclass(frozen=True)
class Own:
    """Like pieces of one axle and where they are now."""

    lot: ShimLot
    in_axle: int
    gone: int


def lots(shop: Shop | None, job_number: int) -> list[ShimLot]:
    """Pieces on the tray that may be fitted."""
    rows = ShimLot.objects.on_tray(shop, job_number).filter(quantity__gt=0)
    return list(rows.exclude(condition=Condition.DAMAGED))


def owned(shop: Shop | None, job_number: int) -> list[Own]:
    """Everything that came out of a job's axle: on the tray, in the axle, scrapped or sold."""
    found = []
    for lot in ShimLot.objects.on_tray(shop, job_number):
        sums = dict(lot.movements.order_by().values_list("kind").annotate(pieces=Sum("change")))
        out = -(sums.get(_Kind.OUT, 0) + sums.get(_Kind.BACK, 0))
        found.append(Own(lot, out, -sums.get(_Kind.SCRAP, 0)))
    return [own for own in found if own.lot.quantity or own.in_axle or own.gone]


def lay(user: User, job_number: int, item: str, pieces: Sequence[Decimal]) -> None:
    """Put on the tray what a line of the register says came out.

    A line that corrects an earlier one changes only what differs: nothing is received twice.
    """
    if item not in FAMILIES:
        return
    wanted = Counter(piece.quantize(Decimal("0.00001")) for piece in pieces)
    rows = ShimLot.objects.on_tray(user.shop, job_number).select_for_update().filter(tray_item=item)
    known = {lot.miced: lot for lot in rows}
    for size in sorted({*wanted, *known}):
        lot = known.get(size) or _new(user, job_number, item, size)
        put = lot.movements.filter(kind__in=_PUT).aggregate(pieces=Sum("change"))["pieces"] or 0
        change = wanted.get(size, 0) - put
        if change > 0:
            services.move(user, lot, change, f"came out of job {job_number}", _Kind.IN)
        elif change < 0 and lot.quantity:
            # What is in the axle, or was scrapped, was there: only what lies here can be a slip.
            slip = min(-change, lot.quantity)
            services.move(user, lot, -slip, "the register was corrected", _Kind.SORT)


def throw_away(user: User, job_number: int, item: str, reason: str) -> None:
    """Scrap what lies on the tray of one item of the register."""
    rows = ShimLot.objects.on_tray(user.shop, job_number).select_for_update()
    for lot in rows.filter(tray_item=item, quantity__gt=0):
        services.move(user, lot, -lot.quantity, f"scrapped: {reason}", _Kind.SCRAP)


def scrap(user: User, job_number: int, lot_id: int, reason: str) -> ShimLot:
    """Scrap one lot of the tray, with the reason."""
    if not reason.strip():
        raise AxleError("reason", given="nothing", wanted="why it is scrapped, in a few words")
    lot = _held(user, job_number, lot_id)
    services.move(user, lot, -lot.quantity, f"scrapped: {reason.strip()}", _Kind.SCRAP)
    return lot


def to_drawer(user: User, job_number: int, lot_id: int) -> ShimLot:
    """Sell what is left of a lot to the shop's drawer."""
    lot = _held(user, job_number, lot_id)
    size = Quantity(lot.typed, lot.miced, MM)
    given = services.Lot(
        lot.family,
        size,
        (size,),
        lot.quantity,
        Condition.GOOD,
        role=lot.role,
    )
    services.move(user, lot, -lot.quantity, "sold to the drawer", _Kind.SCRAP)
    return services.receive(user, given, f"from job {job_number}")


def _held(user: User, job_number: int, lot_id: int) -> ShimLot:
    rows = ShimLot.objects.on_tray(user.shop, job_number)
    lot: ShimLot | None = rows.select_for_update().filter(pk=lot_id).first()
    if lot is None or not lot.quantity:
        raise Rejected("That piece is not on this job's tray.")
    return lot


def _new(user: User, job_number: int, item: str, size: Decimal) -> ShimLot:
    if user.shop is None:
        raise Rejected("You belong to no shop; ask its owner to let you in.")
    lot: ShimLot = ShimLot.objects.create(
        shop=user.shop,
        family=FAMILIES[item],
        nominal=size,
        miced=size,
        typed=f"{size.normalize():f} mm",
        quantity=0,
        condition=Condition.GOOD,
        bin="tray",
        tray_job=job_number,
        tray_item=item,
        role=ShimRole.SPACER if item == "spacer" else ShimRole.SELECT,
        readings=[str(size)],
    )
    return lot
