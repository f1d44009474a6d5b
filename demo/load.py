"""The made-up shop: the workshop that serves the works yard of a mountain town.

Every name and number here is invented. The jobs are made through the same services as a builder's
own entries, so nothing in them could not have been entered at the bench.
"""

from __future__ import annotations

import uuid
from datetime import UTC, datetime, timedelta
from decimal import Decimal

from django.db import transaction
from django.utils import timezone

from axle.contact.reading import Patch
from axle.layout import Place
from axle.procedure.stations import kind_named
from axle.specfile import starter_specs
from axle.units import FOOT_POUND, INCH_POUND, THOU, Quantity, parse
from demo import PASSWORD
from shop.jobs import bridge, clock, services
from shop.jobs.models import Job
from shop.jobs.services import NewJob
from shop.people.models import Role, Shop, User
from shop.specs.models import SpecSheet
from shop.specs.services import save_sheet
from shop.stock import services as stock

_DEPTH = ("10", "12", "15", "17", "19.9", "20", "21", "22.1", "24", "25", "27", "29.1", "30", "31", "33")
_PRELOAD = ("3", "5", "7", "10", "11.5", "14.9", "20", "30.1")
_SIDE = ("2", "3", "4", "5", "6", "8", "10", "12.1", "15", "20", "30", "40", "60", "80.2", "100", "120")


class Bench:
    """Enters things at the bench as a person does, always on the newest page."""

    def __init__(self, user: User, job: Job) -> None:
        self.user, self.number = user, job.number

    @property
    def job(self) -> Job:
        """The job as it is now."""
        job: Job = Job.objects.of(self.user.shop).get(number=self.number)
        return job

    def read(self, kind: str, *values: str) -> None:
        """Read one kind at places 1, 2, … ."""
        for place, text in enumerate(values, start=1):
            job, what = self.job, kind_named(kind)
            unit = {"length": THOU, "torque": FOOT_POUND if what.bolt else INCH_POUND}[what.dimension.value]
            services.take_reading(
                self.user, job, job.version, kind=kind, place=place,
                quantity=parse(text, unit, kind), entry=uuid.uuid4(),
            )  # fmt: skip

    def arrive(self, runout: str, backlash: tuple[str, ...], torque: str) -> None:
        """The baseline of an axle as received."""
        self.read("arrival_side_play", "0")
        self.read("arrival_runout", runout)
        self.read("arrival_backlash", *backlash)
        self.read("arrival_total_torque", torque)

    def fit(self, place: Place, *sizes: str) -> None:
        """Fit named pieces from the drawer."""
        job = self.job
        drawer = bridge.load(job).state.drawer[place]
        lots = []
        for size in sizes:
            want = parse(size, THOU).core
            lots.append(min(drawer, key=lambda p: abs(p.thickness - want)).key)
        services.fit_pack(self.user, job, job.version, place, lots)

    def move(self) -> None:
        """Do the next move."""
        job = self.job
        services.take_move(self.user, job, job.version)

    def adjust(self, ring: str, far: str) -> None:
        """Turn both adjusters."""
        job = self.job
        services.set_adjusters(self.user, job, job.version, Decimal(ring), Decimal(far))

    def mark(self, flank: str, toe: float, heel: float, root: float, top: float) -> None:
        """Mark the wiped patch of a flank."""
        job = self.job
        patch = Patch.box(toe, heel, root, top)
        services.mark_pattern(self.user, job, job.version, flank=flank, patch=patch, entry=uuid.uuid4())

    def sign(self, station: str, reason: str = "") -> None:
        """Sign a station."""
        job = self.job
        services.sign(self.user, job, job.version, station, reason)


@transaction.atomic
def load_demo() -> bool:
    """Make the demo shop in an empty database; say whether it was made."""
    if Shop.objects.select_for_update().exists():
        return False
    shop = Shop.objects.create(name="Obere Werkstatt", place="Varnholt", next_job_number=411)
    owner = _person(shop, "ines", "Ines", "Korb", Role.OWNER)
    builder = _person(shop, "mattis", "Mattis", "Oran", Role.BUILDER)
    _person(shop, "lio", "Lio", "Feld", Role.APPRENTICE)
    sheets = {key: save_sheet(owner, row) for key, row in starter_specs().items()}
    _fill_drawer(owner)
    morning = timezone.now().replace(hour=7, minute=40, second=0, microsecond=0, tzinfo=UTC)
    _finished(builder, sheets["works-van"], morning - timedelta(days=9))
    _out(owner, sheets["works-van"], morning - timedelta(days=1))
    _at_depth(builder, sheets["funicular-truck"], morning - timedelta(days=3))
    _at_preload(builder, sheets["snow-blower"], morning - timedelta(days=16))
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
            stock.receive(
                owner, family=family, nominal=nominal, miced=miced, quantity=count,
                condition="new", bin_name=f"{family[0].upper()}{len(size)}",
            )  # fmt: skip
    torn = parse("26", THOU)
    stock.receive(
        owner, family="depth", nominal=torn, miced=torn, quantity=1, condition="damaged",
        bin_name="scrap",
    )  # fmt: skip


def _open(
    user: User, sheet: SpecSheet, title: str, customer: str, complaint: str, arrived: datetime,
    mark: str = "0", *, new_bearings: bool = True,
) -> Bench:  # fmt: skip
    job = services.open_job(
        user, sheet,
        NewJob(
            title=title, customer=customer, complaint=complaint, arrived_on=arrived.date(),
            promised_on=(arrived + timedelta(days=14)).date(), new_bearings=new_bearings,
            mark=parse(mark, THOU), mark_convention="longer",
        ),
    )  # fmt: skip
    return Bench(user, job)


def _finished(user: User, sheet: SpecSheet, start: datetime) -> None:
    """Right at the second assembly: signed."""
    with clock.beginning(start):
        bench = _open(
            user, sheet, "Post van 7, rear", "Works yard, post vans", "Whine on the drive side from 60 up",
            start, mark="-2",
        )  # fmt: skip
        bench.arrive("2.5", ("14", "13.5", "14.5", "14"), "31")
        bench.read("depth_feeler", "27")
        bench.move()
        bench.fit(Place.PRELOAD, "20")
        bench.read("pinion_torque", "22")
        bench.fit(Place.RING, "120", "60", "10")
        bench.fit(Place.FAR, "120", "60", "12.1")
        bench.read("total_torque", "25.2")
        bench.read("backlash", "13.1", "12.8", "13.4", "13")
        bench.move()
        bench.read("total_torque", "25.3")
        bench.read("backlash", "9.3", "8.9", "9.5", "9.2")
        bench.mark("drive", 0.24, 0.68, 0.28, 0.74)
        bench.mark("coast", 0.22, 0.62, 0.26, 0.70)
        bench.read("pinion_nut_torque", "205")
        bench.read("ring_bolt_torque", "60")
        bench.read("cap_torque", "58")
        bench.sign("sheet")


def _out(user: User, sheet: SpecSheet, start: datetime) -> None:
    """Backlash loose, and a pattern that says nothing until it is in."""
    with clock.beginning(start):
        bench = _open(
            user, sheet, "Snow blower 3, rear", "Works yard, winter service",
            "Clunk at the turn-round, oil grey", start,
        )  # fmt: skip
        bench.arrive("1.5", ("19", "18", "19", "20"), "34")
        bench.read("depth_feeler", "29")
        bench.move()
        bench.fit(Place.PRELOAD, "11.5", "10")
        bench.read("pinion_torque", "22")
        bench.fit(Place.RING, "120", "60", "6")
        bench.fit(Place.FAR, "120", "60", "15")
        bench.read("total_torque", "25")
        bench.read("backlash", "15.9", "15.6", "16.2", "16")
        bench.fit(Place.RING, "120", "60", "12.1")
        bench.fit(Place.FAR, "120", "60", "10")
        bench.read("total_torque", "25.1")
        bench.read("backlash", "11.9", "11.3", "11.6", "12.1")
        bench.mark("drive", 0.34, 0.78, 0.48, 0.9)
        bench.mark("coast", 0.3, 0.68, 0.5, 0.92)


def _at_depth(user: User, sheet: SpecSheet, start: datetime) -> None:
    """Cartridge and adjusters: depth is measured, the shim is next."""
    with clock.beginning(start):
        bench = _open(
            user, sheet, "Funicular maintenance truck, centre axle", "Varnholt funicular",
            "Re-geared for the upper section", start, mark="3",
        )  # fmt: skip
        bench.arrive("4", ("11", "12", "11.5", "12"), "24")
        bench.fit(Place.DEPTH, "31")
        bench.read("depth_feeler", "6")


def _at_preload(user: User, sheet: SpecSheet, start: datetime) -> None:
    """Coupled stacks, used bearings, end play on the first trial."""
    with clock.beginning(start):
        bench = _open(
            user, sheet, "Snow blower 1, front", "Works yard, winter service",
            "Leaks at the flange, growl in the cold", start, new_bearings=False,
        )  # fmt: skip
        bench.arrive("3", ("9", "9.5", "10", "9"), "22")
        bench.read("old_shim", "31")
        bench.read("old_mark", "1")
        bench.move()
        bench.fit(Place.PRELOAD, "30.1", "14.9")
        bench.read("pinion_end_play", "4")
