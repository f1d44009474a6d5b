"""What goes into and comes out of the shim drawer."""

from decimal import Decimal
from typing import Final

from django.db import transaction

from axle.errors import AxleError
from axle.units import Quantity
from shop.people.models import User
from shop.people.rules import Refused
from shop.stock.models import Condition, Family, ShimLot, StockMovement

_FINEST: Final = Decimal("0.00001")


def take(user: User, lot_id: int, families: tuple[str, ...], reason: str) -> ShimLot:
    """Take one piece out of a lot of the person's shop."""
    lot: ShimLot | None = ShimLot.objects.of(user.shop).select_for_update().filter(pk=lot_id).first()
    if lot is None:
        raise Refused("That shim is not in this shop's drawer.")
    if lot.family not in families:
        raise Refused(f"A shim for “{lot.get_family_display()}” does not fit there.")
    if lot.condition == Condition.DAMAGED:
        raise Refused(f"The {lot.typed} shim is damaged and is not fitted.")
    if lot.quantity < 1:
        raise Refused(f"The drawer has no {lot.typed} shim left: somebody took the last one.")
    _change(user, lot, -1, reason)
    return lot


def put_back(user: User, lot_id: int, reason: str) -> None:
    """Put one piece back into its lot."""
    lot = ShimLot.objects.of(user.shop).select_for_update().get(pk=lot_id)
    _change(user, lot, 1, f"back from {reason}")


def receive(
    user: User, *, family: str, nominal: Quantity, miced: Quantity, quantity: int, condition: str,
    bin_name: str,
) -> ShimLot:  # fmt: skip
    """Put new pieces into the drawer; like pieces join the lot that is there."""
    if family not in Family.values or condition not in Condition.values:
        raise AxleError("shim", given=f"“{family}”, “{condition}”", wanted="a known family and condition")
    if not 0 < miced.core < 25:
        raise AxleError("mic'd thickness", given=f"“{miced.text}”", wanted="more than 0, under 25 mm")
    # A thickness is kept to 0.00001 mm, which holds a tenth of a thou exactly.
    size = miced.core.quantize(_FINEST)
    with transaction.atomic():
        lot: ShimLot
        lot, _ = ShimLot.objects.of(user.shop).select_for_update().get_or_create(
            shop=user.shop, family=family, miced=size, condition=condition, bin=bin_name,
            defaults={"nominal": nominal.core.quantize(_FINEST), "typed": miced.text, "quantity": 0},
        )  # fmt: skip
        if lot.quantity + quantity > 500:
            raise AxleError("quantity", given=f"{lot.quantity + quantity}", wanted="500 or fewer of a size")
        _change(user, lot, quantity, "received")
    return lot


def set_condition(user: User, lot_id: int, condition: str) -> ShimLot:
    """Say that a lot is damaged, or sound again after a look."""
    if condition not in Condition.values:
        raise AxleError("condition", given=f"“{condition}”", wanted="new, good or damaged")
    with transaction.atomic():
        lot: ShimLot | None = ShimLot.objects.of(user.shop).select_for_update().filter(pk=lot_id).first()
        if lot is None:
            raise Refused("That shim is not in this shop's drawer.")
        lot.condition = condition
        lot.save(update_fields=["condition"])
    return lot


def _change(user: User, lot: ShimLot, change: int, reason: str) -> None:
    lot.quantity += change
    lot.save(update_fields=["quantity"])
    StockMovement.objects.create(lot=lot, change=change, reason=reason[:120], person=user)
