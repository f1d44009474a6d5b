"""Gear sets that a shop can get: its list, as a form and as a table."""

from __future__ import annotations

import csv
import io
from collections.abc import Mapping
from typing import Final

from django.db import transaction

from axle.errors import AxleError, quoted
from axle.gearing.offers import Offer, read_offers
from shop.config.cells import from_cell, text_cell
from shop.config.table_file import read_rows
from shop.people import rules
from shop.people.models import Shop, User
from shop.people.rules import Rejected, Right
from shop.stock.models import GearOffer, Supplier

COLUMNS: Final = (
    "teeth",
    "sold_as",
    "ring_diameter",
    "price",
    "days",
    "carrier_low",
    "carrier_high",
    "thickness",
    "thick",
    "supplier",
)
_MOST: Final = 1000
# Two ring gears are of one size within so much [mm].
_ONE_SIZE: Final = 1.5


def offers_of(shop: Shop | None, ring_diameter: float | None = None) -> tuple[Offer, ...]:
    """The shop's list as the core has it: what fits a ring gear's size, or all of it."""
    rows = GearOffer.objects.of(shop).select_related("supplier")
    return tuple(
        as_offer(row)
        for row in rows
        if ring_diameter is None
        or row.ring_diameter is None
        or abs(row.ring_diameter - ring_diameter) <= _ONE_SIZE
    )


def as_offer(row: GearOffer) -> Offer:
    """A row as the core has it; a set without its own time takes its supplier's."""
    days = row.days if row.days is not None else row.supplier.days if row.supplier else None
    return Offer(
        row.pinion,
        row.ring,
        sold_as=row.sold_as,
        price=row.price,
        days=days,
        carrier_low=row.carrier_low,
        carrier_high=row.carrier_high,
        thickness=row.thickness,
        supplier=row.supplier.name if row.supplier else "",
        thick=row.thick,
        ring_diameter=row.ring_diameter,
    )


def keep(user: User, given: Mapping[str, str]) -> GearOffer:
    """Put a set on the list; one with the same teeth, size and supplier takes the place of the old."""
    rules.require_right(user, Right.ORDER)
    shop = rules.shop_of(user)
    (offer,) = read_offers([given])
    with transaction.atomic():
        Shop.objects.select_for_update().get(pk=shop.pk)
        return _keep(shop, offer)


def drop(user: User, number: int) -> None:
    """Take a set off the list."""
    rules.require_right(user, Right.ORDER)
    row = GearOffer.objects.of(user.shop).filter(pk=number).first()
    if row is None:
        raise Rejected("That set is off the list already.")
    row.delete()


def take_in(user: User, data: bytes) -> int:
    """Take a table of sets in, whole, or refuse it naming the row; says how many sets."""
    rules.require_right(user, Right.ORDER)
    shop = rules.shop_of(user)
    rows = read_rows(data, "table of gear sets", COLUMNS, ("teeth",))
    if not rows:
        raise AxleError("table of gear sets", given="no row", wanted="one set or more")
    offers = []
    for number, row in rows:
        try:
            (offer,) = read_offers([{name: from_cell(cell) for name, cell in row.items()}])
        except AxleError as problem:
            what = problem.what.removeprefix("row 1, ")
            raise AxleError(
                f"row {number}, {what}",
                given=problem.given,
                wanted=problem.wanted,
                do="Nothing was taken in.",
            ) from None
        offers.append(offer)
    with transaction.atomic():
        Shop.objects.select_for_update().get(pk=shop.pk)
        for offer in offers:
            _keep(shop, offer)
    return len(offers)


def _keep(shop: Shop, offer: Offer) -> GearOffer:
    supplier = None
    if offer.supplier:
        supplier = Supplier.objects.of(shop).filter(name__iexact=offer.supplier, retired=False).first()
        if supplier is None:
            raise AxleError(
                "supplier", given=quoted(offer.supplier), wanted="one of the shop's suppliers, or nothing"
            )
    found: GearOffer
    found, made = GearOffer.objects.update_or_create(
        shop=shop,
        pinion=offer.pinion,
        ring=offer.ring,
        ring_diameter=offer.ring_diameter,
        supplier=supplier,
        thick=offer.thick,
        defaults={
            "sold_as": offer.sold_as,
            "price": offer.price,
            "days": offer.days,
            "carrier_low": offer.carrier_low,
            "carrier_high": offer.carrier_high,
            "thickness": offer.thickness,
        },
    )
    if made and GearOffer.objects.of(shop).count() > _MOST:
        raise Rejected(f"The list holds {_MOST} sets: take some off first.")
    return found


def as_table(shop: Shop | None) -> str:
    """The list as CSV; read back unchanged it changes nothing."""
    out = io.StringIO()
    table = csv.writer(out, lineterminator="\r\n")
    table.writerow(COLUMNS)
    for row in GearOffer.objects.of(shop).select_related("supplier"):
        table.writerow(
            [
                f"{row.ring}/{row.pinion}",
                row.sold_as,
                _number(row.ring_diameter),
                "" if row.price is None else f"{row.price:.2f}",
                "" if row.days is None else row.days,
                _number(row.carrier_low),
                _number(row.carrier_high),
                _number(row.thickness),
                "yes" if row.thick else "no",
                text_cell(row.supplier.name) if row.supplier else "",
            ]
        )
    return out.getvalue()


def _number(value: float | None) -> str:
    return "" if value is None else f"{value:g}"
