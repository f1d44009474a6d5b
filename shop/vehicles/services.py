"""Changes to what a shop knows of its vehicles."""

from __future__ import annotations

import uuid
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from django.db import transaction
from django.utils import timezone

from axle.errors import AxleError, quoted
from axle.gearing.vehicle import vehicle_from
from shop.people import rules
from shop.people.models import Shop, User
from shop.people.rules import Rejected, Right
from shop.vehicles.models import Vehicle


@dataclass(frozen=True)
class VehicleWords:
    """A vehicle as a form gives it."""

    name: str
    note: str = ""
    figures: Mapping[str, str] = field(default_factory=dict)


def vehicle_of(user: User, number: int) -> Vehicle:
    """One of the shop's vehicles.

    :raises Rejected: for one that is not.
    """
    row: Vehicle | None = Vehicle.objects.of(user.shop).filter(pk=number).first()
    if row is None:
        raise Rejected("That vehicle is not one of this shop's.")
    return row


def keep(user: User, given: VehicleWords, number: int | None = None, version: int = 0) -> Vehicle:
    """Describe a vehicle, a new one or one that is known; every field is checked before one is kept.

    :param number: of the one that is known.
    :param version: of it, as the page showed it.
    """
    rules.require_right(user, Right.MEASURE)
    shop = rules.shop_of(user)
    name = " ".join(given.name.split())
    if len(name) < 2:
        raise AxleError("vehicle", given=quoted(given.name), wanted="its name, two letters or more")
    figures = {key: text.strip() for key, text in given.figures.items() if text.strip()}
    vehicle_from(figures)
    with transaction.atomic():
        Shop.objects.select_for_update().get(pk=shop.pk)
        others = Vehicle.objects.of(shop).filter(name__iexact=name)
        row = vehicle_of(user, number) if number is not None else Vehicle(shop=shop, version=0)
        if others.exclude(pk=row.pk).exists():
            raise AxleError(
                "vehicle",
                given=f"{quoted(name)}, which is on the list",
                wanted="another name, or that vehicle chosen from the list",
            )
        if number is not None and row.version != version:
            raise Rejected(
                f"{row.by} changed this vehicle since the page was made: look at it, then send yours again."
            )
        row.name, row.note, row.figures = name[:80], given.note.strip()[:200], figures
        row.version += 1
        row.touched_at, row.by = timezone.now(), user.called
        row.save()
    return row


def has_now(user: User, vehicle: Vehicle, end: str, teeth: str) -> None:
    """Say what ratio an axle of a vehicle has, once the build sheet is signed."""
    held = Vehicle.objects.select_for_update().get(pk=vehicle.pk)
    name = f"ratio_{end}"
    if held.figures.get(name) == teeth:
        return
    held.figures = {**held.figures, name: teeth}
    held.version += 1
    held.touched_at, held.by = timezone.now(), user.called
    held.save()


def from_file(user: User, given: Mapping[str, Any]) -> Vehicle:
    """The vehicle of a job file: the shop's own where it is known here, else a new one."""
    shop = rules.shop_of(user)
    known: Vehicle | None = Vehicle.objects.of(shop).filter(identity=given["identity"]).first()
    if known is not None:
        return known
    vehicle_from(given["figures"])
    name = given["name"]
    if Vehicle.objects.of(shop).filter(name__iexact=name).exists():
        name = f"{name[:70]} ({uuid.UUID(given['identity']).hex[:6]})"
    row: Vehicle = Vehicle.objects.create(
        shop=shop,
        identity=given["identity"],
        name=name,
        note=given["note"],
        figures=given["figures"],
        touched_at=timezone.now(),
        by=user.called,
    )
    return row
