"""Suppliers of a shop, and what they ask."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from decimal import Decimal

from axle.errors import AxleError
from axle.parts.bill import parts
from shop.people import rules
from shop.people.models import User
from shop.people.request import whole_number
from shop.people.rules import Rejected, Right
from shop.stock.models import PriceLine, Supplier

_LONGEST = 365


@dataclass(frozen=True)
class NewPrice:
    """What a supplier asks for a part, or for a kit of several."""

    part: str
    words: str
    price: Decimal
    holds: tuple[str, ...] = ()
    core: Decimal = Decimal(0)


def keep_supplier(user: User, given: Mapping[str, str]) -> Supplier:
    """Write a supplier down, change one, or let one go."""
    rules.require_right(user, Right.ORDER)
    if user.shop is None:
        raise Rejected("You belong to no shop; ask its owner to let you in.")
    number = given.get("supplier", "").strip()
    row = None
    if number:
        key = whole_number(number, "supplier")
        row = Supplier.objects.of(user.shop).filter(pk=key).first()
    if row is None and (number or given.get("retire")):
        raise Rejected("That supplier is not one of this shop's.")
    row = row or Supplier(shop=user.shop)
    if given.get("retire"):
        row.retired = True
        row.save(update_fields=["retired"])
        return row
    name, days = given.get("name", "").strip(), given.get("days", "").strip()
    if len(name) < 2:
        raise AxleError("supplier", given=f"“{name}”", wanted="a name of two letters or more")
    others = Supplier.objects.of(user.shop).filter(name__iexact=name).exclude(pk=row.pk)
    if others.exists():
        raise AxleError("supplier", given=f"“{name[:40]}”", wanted="a name that is not on the list yet")
    if not (days.isascii() and days.isdigit()) or int(days) > _LONGEST:
        raise AxleError("days of delivery", given=f"“{days[:8]}”", wanted=f"0 to {_LONGEST}")
    row.name, row.days, row.retired = name[:80], int(days), False
    row.contact, row.note = given.get("contact", "").strip()[:120], given.get("note", "").strip()[:200]
    row.save()
    return row


def keep_price(user: User, supplier_id: int, given: NewPrice) -> PriceLine:
    """Write down what a supplier asks for a part or a kit; a newer price takes the place of the old."""
    rules.require_right(user, Right.ORDER)
    supplier = Supplier.objects.of(user.shop).filter(pk=supplier_id, retired=False).first()
    if supplier is None or user.shop is None:
        raise Rejected("That supplier is not one of this shop's.")
    known = parts()
    wrong = [name for name in (given.part, *given.holds) if name and name not in known]
    if wrong:
        raise AxleError("part", given=f"“{wrong[0][:24]}”", wanted="a part of the list")
    if bool(given.part) == bool(given.holds):
        raise AxleError(
            "price",
            given="a part and a kit at once, or neither",
            wanted="one part, or the parts that a kit holds",
        )
    if given.holds and len(given.holds) < 2:
        raise AxleError("kit", given="one part", wanted="two parts or more")
    words = given.words.strip() or (known[given.part].title if given.part else "")
    if len(words) < 2:
        raise AxleError("kit", given="no name", wanted="what it is called")
    holds = {name: known[name].quantity for name in given.holds}
    row, _ = PriceLine.objects.update_or_create(
        shop=user.shop,
        supplier=supplier,
        part=given.part,
        words=words[:80],
        defaults={"price": given.price, "holds": holds, "core": given.core},
    )
    return row


def drop_price(user: User, price_id: int) -> None:
    """Take a price off the list."""
    rules.require_right(user, Right.ORDER)
    gone, _ = PriceLine.objects.of(user.shop).filter(pk=price_id).delete()
    if not gone:
        raise Rejected("That price is gone already.")
