"""The made-up shop: the workshop that serves the works yard of a mountain town.

Every name and number here is invented. The jobs are made through the same services as a builder's
own entries, so nothing in them could not have been entered at the bench.
"""

from __future__ import annotations

from collections.abc import Mapping
from datetime import UTC, timedelta
from decimal import Decimal
from typing import Any

from django.db import transaction
from django.utils import timezone

from axle.measure.parse import parse
from axle.measure.units import INCH_POUND, THOU, Quantity
from axle.spec.reader import starter_specs
from demo import PASSWORD
from demo.business import open_business
from demo.player import play, scripts
from demo.practice import practise
from shop.instruments import services as instruments
from shop.instruments.services import Given
from shop.people import services as people
from shop.people.models import Role, Shop, User
from shop.specs.services import save_sheet
from shop.stock import services as stock
from shop.stock.services import Lot

_DEPTH = ("10", "12", "15", "17", "19.9", "20", "21", "22.1", "24", "25", "27", "29.1", "30", "31", "33")
_PRELOAD = ("3", "5", "7", "10", "11.5", "14.9", "20", "30.1")
_SIDE = ("2", "3", "4", "5", "6", "8", "10", "12.1", "15", "20", "30", "40", "60", "80.2", "100", "120")


def _as_here(key: str, row: Mapping[str, Any]) -> dict[str, Any]:
    """A starter sheet as this shop keeps it: indicators along the heel, two with a closer tolerance."""
    close = {"high": "2", "unit": "thou"} if key in ("funicular-truck", "snow-blower") else {}
    tolerance = row["values"]["depth_tolerance"] | close
    return {**row, "stance": "along", "values": {**row["values"], "depth_tolerance": tolerance}}


@transaction.atomic
def load_demo() -> bool:
    """Make the demo shop where there is none; say whether it was made."""
    if Shop.objects.select_for_update().filter(removed_at=None, is_demo=True).exists():
        return False
    shop = Shop.objects.create(name="Obere Werkstatt", place="Varnholt", next_job_number=411, is_demo=True)
    owner = _person(shop, "ines", first="Ines", last="Korb", role=Role.OWNER)
    builder = _person(shop, "mattis", first="Mattis", last="Oran", role=Role.BUILDER)
    apprentice = _person(shop, "lio", first="Lio", last="Feld", role=Role.APPRENTICE)
    people.set_ways(owner, {"adjusters": "holes", "outboard": "subtraction"}, "tooth side", "plain side")
    sheets = {key: save_sheet(owner, _as_here(key, row)) for key, row in starter_specs().items()}
    _fill_drawer(owner)
    _fill_register(owner)
    now = timezone.now()
    morning = now.replace(hour=7, minute=40, second=0, microsecond=0, tzinfo=UTC)
    if morning > now:
        # Loaded at night the demo's day is yesterday: nothing in it lies ahead.
        morning -= timedelta(days=1)
    people_by_name = {person.username: person for person in (owner, builder)}
    for script in scripts():
        play(script, people_by_name[script["person"]], sheets[script["sheet"]], morning)
    practise(apprentice)
    open_business(owner, builder, apprentice)
    return True


def _person(shop: Shop, username: str, first: str, last: str, role: str) -> User:
    return User.objects.create_user(
        username=username, password=PASSWORD, first_name=first, last_name=last, role=role, shop=shop
    )


def _fill_drawer(owner: User) -> None:
    for family, sizes, count in (("depth", _DEPTH, 3), ("preload", _PRELOAD, 4), ("side", _SIDE, 6)):
        for size in sizes:
            miced = parse(size, THOU)
            nominal = Quantity(size, miced.value.quantize(Decimal(1)), THOU)
            low = 2 if family == "depth" and size in ("29.1", "30", "31") else 0
            stock.receive(
                owner,
                Lot(
                    family,
                    nominal,
                    miced=(miced,),
                    quantity=count,
                    condition="new",
                    bin=f"{family[0].upper()}{len(size)}",
                    low_at=low,
                ),
            )
    torn = parse("26", THOU)
    stock.receive(owner, Lot("depth", torn, miced=(torn,), quantity=1, condition="damaged", bin="scrap"))
    base = parse("68.1", THOU)
    stock.receive(
        owner,
        Lot(
            "side",
            parse("68", THOU),
            miced=(base, parse("68", THOU)),
            quantity=4,
            condition="good",
            bin="B1",
            shape="cast, 84 ring",
            role="base",
            cast=True,
        ),
    )
    stock.keep_kit(
        owner,
        "Pinion assortment, small",
        [Lot("depth", parse(size, THOU), miced=(), quantity=2) for size in ("20", "22", "25", "28")]
        + [Lot("preload", parse(size, THOU), miced=(), quantity=4) for size in ("3", "5", "10")],
    )


def _fill_register(owner: User) -> None:
    """Instruments, one of them overdue."""
    today = timezone.localdate()
    for name, kind, step, months_left, line in (
        ("Micrometer 1", "micrometer", parse("0.1", THOU), 7, "micrometer"),
        ("Feelers, long set", "feelers", parse("1", THOU), 10, ""),
        ("Depth bridge A", "bridge", parse("0.5", THOU), 4, ""),
        ("Bench indicator", "indicator", parse("0.5", THOU), 1, "indicator"),
        ("Beam wrench", "rotating_wrench", parse("1", INCH_POUND), -2, "wrench"),
        ("Depth micrometer", "depth_micrometer", parse("0.1", THOU), 9, ""),
    ):
        due = today + timedelta(days=30 * months_left + 5)
        instruments.keep(
            owner,
            Given(name, kind, step, calibrated_on=due - timedelta(days=365), due_on=due, line=line),
        )
