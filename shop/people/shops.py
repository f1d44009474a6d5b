"""Shops: set up, changed, opened beside another; the demo set back or removed."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import timedelta
from decimal import Decimal
from typing import Final
from zoneinfo import ZoneInfo, available_timezones

from django.conf import settings
from django.db import transaction
from django.utils import timezone
from django.utils.module_loading import import_string

from axle.errors import AxleError, quoted
from axle.procedure.steps import tools
from shop.people import rules, sign_ins
from shop.people.models import BackupMade, Role, Shop, SignIn, Units, User
from shop.people.rules import Rejected, Right

# Kinds of the list that outlast a job.
LASTING: Final = ("stand", "tool", "gauge")

CURRENCIES = ("EUR", "CHF", "USD", "GBP", "CAD", "AUD", "NOK", "SEK", "DKK", "PLN", "CZK", "JPY")


@dataclass(frozen=True)
class ShopWords:
    """What a shop is called, and how it counts."""

    name: str
    place: str
    units: str
    currency: str
    time_zone: str
    sign_at: Decimal | None = None

    def __post_init__(self) -> None:
        if len(self.name.strip()) < 2:
            raise AxleError("name of the shop", given=quoted(self.name, 20), wanted="two letters or more")
        if self.units not in Units.values:
            raise AxleError("units", given=quoted(self.units, 10), wanted="thou or mm")
        if self.currency not in CURRENCIES:
            raise AxleError("currency", given=quoted(self.currency, 10), wanted=", ".join(CURRENCIES))
        if self.time_zone not in available_timezones():
            raise AxleError(
                "time zone", given=quoted(self.time_zone, 30), wanted="one such as Europe/Vienna"
            )


@dataclass(frozen=True)
class OwnerWords:
    """Who owns a new shop, and how the person signs in."""

    first_name: str
    last_name: str
    username: str
    password: str


def open_shops() -> bool:
    """Whether there is any shop to sign in to."""
    return Shop.objects.filter(removed_at=None).exists()


def set_up(shop: ShopWords, owner: OwnerWords) -> User:
    """Make the first shop of an installation, with its owner.

    :raises Rejected: once there is a shop: the next one is opened by an owner.
    """
    with transaction.atomic():
        # Rows of removed shops are locked too, so that two first visitors make one shop.
        list(Shop.objects.select_for_update())
        if open_shops():
            raise Rejected("There is a shop here already: sign in, or ask its owner to let you in.")
        return _make(shop, owner)


def open_another(by: User, shop: ShopWords, owner: OwnerWords) -> User:
    """Open one more shop on this server, with people, numbers and words of its own."""
    rules.require_right(by, Right.SHOP)
    with transaction.atomic():
        return _make(shop, owner)


def _make(shop: ShopWords, owner: OwnerWords) -> User:
    made = Shop.objects.create(
        name=shop.name.strip()[:80],
        place=shop.place.strip()[:80],
        units=shop.units,
        currency=shop.currency,
        time_zone=shop.time_zone,
    )
    return User.objects.create_user(
        username=owner.username,
        password=owner.password,
        first_name=owner.first_name,
        last_name=owner.last_name,
        role=Role.OWNER,
        shop=made,
        units=made.units,
    )


def change(owner: User, words: ShopWords) -> None:
    """Change what the shop is called, and how it counts."""
    rules.require_right(owner, Right.SHOP)
    shop = owner.shop
    assert shop is not None  # the guard lets nobody without a shop on
    shop.name, shop.place = words.name.strip()[:80], words.place.strip()[:80]
    shop.units, shop.currency, shop.time_zone = words.units, words.currency, words.time_zone
    if words.sign_at is not None:
        shop.sign_at = words.sign_at
    shop.save(update_fields=["name", "place", "units", "currency", "time_zone", "sign_at"])


def own_tools(owner: User, names: Iterable[str]) -> tuple[str, ...]:
    """Keep which tools, gauges and stands the shop has.

    :raises AxleError: for one that is not on the list.
    """
    rules.require_right(owner, Right.SHOP)
    shop = owner.shop
    assert shop is not None  # the guard lets nobody without a shop on
    wanted = frozenset(names)
    known = tuple(name for name, tool in tools().items() if tool.kind in LASTING)
    unknown = sorted(wanted - frozenset(known))
    if unknown:
        raise AxleError("tool", given=quoted(unknown[0]), wanted="a tool, gauge or stand of the list")
    shop.tools_owned = [name for name in known if name in wanted]
    shop.save(update_fields=["tools_owned"])
    return tuple(shop.tools_owned)


def remove_demo(owner: User, *, again: bool) -> None:
    """Remove the demo shop: its people sign in no more. Or set it back: a fresh one takes its place."""
    rules.require_right(owner, Right.SHOP)
    with transaction.atomic():
        assert owner.shop is not None  # the guard lets nobody without a shop on
        held = Shop.objects.select_for_update().get(pk=owner.shop.pk)
        if not held.is_demo or held.removed_at is not None:
            raise Rejected("Only the demo shop can be set back or removed.")
        _retire(owner, held)
        if again:
            import_string(settings.LASH_DEMO)()


def _retire(owner: User, shop: Shop) -> None:
    """Close a shop: its names are free again, its sign-ins end; what was written down stays."""
    shop.removed_at = timezone.now()
    shop.save(update_fields=["removed_at"])
    for person in shop.people.all():
        sign_ins.end(owner, SignIn.objects.filter(user=person))
        person.username = f"removed-{person.pk}-{person.username}"[:150]
        person.is_active = False
        person.save(update_fields=["username", "is_active"])


def backup_age() -> timedelta | None:
    """How long ago the newest backup was made; nothing where there is none."""
    newest = BackupMade.objects.order_by("-at").first()
    return timezone.now() - newest.at if newest else None


def zone_of(shop: Shop | None) -> ZoneInfo | None:
    """The shop's clock."""
    return ZoneInfo(shop.time_zone) if shop is not None else None
