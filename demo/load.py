"""The made-up shop: the workshop that serves the works yard of a mountain town.

Every name and number here is invented. The jobs are made through the same services as a builder's
own entries, so nothing in them could not have been entered at the bench.
"""

from __future__ import annotations

import contextlib
import io
import uuid
from collections.abc import Iterator, Mapping
from datetime import UTC, datetime, timedelta
from decimal import Decimal
from typing import Any

import numpy as np
from django.db import transaction
from django.utils import timezone
from PIL import Image

from axle.advice.print_map import print_map
from axle.advice.progress import Mark
from axle.carrier.book import Done
from axle.contact.patch import Patch
from axle.errors import AxleError
from axle.layout import Place
from axle.procedure import register
from axle.procedure.findings import parts
from axle.procedure.stations import kind_named
from axle.simulator.photo import Scene, photograph
from axle.specfile import starter_specs
from axle.units import FOOT_POUND, IMPERIAL, INCH_POUND, THOU, Quantity, parse, unit_named
from demo import PASSWORD
from demo.photo import PHOTOGRAPHED
from demo.practice import practise
from shop.instruments import services as instruments
from shop.instruments.services import Given
from shop.jobs import bolts, bridge, carrier, change, clock, photos, prints, runs, services, timers, work
from shop.jobs import parts as part_services
from shop.jobs.models import Job, Pattern
from shop.jobs.services import NewJob
from shop.people import services as people
from shop.people.models import Role, Shop, User
from shop.specs.models import SpecSheet
from shop.specs.services import save_sheet
from shop.stock import services as stock
from shop.stock.services import Lot

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
                self.user,
                job,
                job.version,
                kind=kind,
                place=place,
                quantity=parse(text, unit, kind),
                entry=uuid.uuid4(),
            )

    def lash(self, *values: str) -> None:
        """Read backlash around, at as many places as there are values."""
        for place, text in enumerate(values, start=1):
            job = self.job
            services.take_reading(
                self.user,
                job,
                job.version,
                kind="backlash",
                place=place,
                quantity=parse(text, THOU, "backlash"),
                entry=uuid.uuid4(),
                conditions={"places": len(values)},
            )

    def bite(self, turned: float, torque: str) -> None:
        """Turn a sleeve's nut and read the rotating torque after it."""
        job = self.job
        services.take_reading(
            self.user,
            job,
            job.version,
            kind="pinion_torque",
            place=1,
            quantity=parse(torque, INCH_POUND, "torque"),
            entry=uuid.uuid4(),
            conditions={"turned": turned},
        )

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
        """Do the next move, and keep what the last one came to; what is asked for again is read again."""
        self.read_again()
        job = self.job
        change.keep_outcome(bridge.load(job))

        services.take_move(self.user, job, job.version)

    def read_again(self) -> None:
        """Read once more whatever the advice asks for once more."""
        for _ in range(12):
            axle = bridge.load(self.job)
            if not axle.move.again:
                break
            for kind, place in axle.move.asks:
                self._again(axle, kind, place)

    def _again(self, axle: bridge.Axle, kind: str, place: int) -> None:
        """Read a place once more: it shows what it showed."""
        last = next(r for r in reversed(axle.valid_readings()) if (r.kind, r.place) == (kind, place))
        job, unit = self.job, unit_named(last.unit)
        services.take_reading(
            self.user,
            job,
            job.version,
            kind=kind,
            place=place,
            quantity=parse(last.typed, unit, kind),
            entry=uuid.uuid4(),
            conditions={**last.conditions, "again": True},
        )

    def adjust(self, ring: str, far: str) -> None:
        """Turn both adjusters."""
        job = self.job
        carrier.set_adjusters(self.user, job, job.version, Decimal(ring), Decimal(far))

    def book(self, done: Done, holes: str = "0", words: str = "") -> None:
        """Write a line into the book of adjusters and caps."""
        job = self.job
        carrier.write_line(
            self.user,
            job,
            job.version,
            done,
            uuid.uuid4(),
            ring=Decimal(holes),
            far=-Decimal(holes),
            words=words,
        )

    def made(self, **how: str) -> None:
        """Say how the print in hand was made."""
        job = self.job
        prints.make(self.user, job, job.version, how, uuid.uuid4())

    def print(self, thou_deep: str, *, up: float = 0.0, along: float = 0.0, place: int = 1) -> None:
        """Mark both flanks as they would look so deep, and as a hand draws them: a little off."""
        job = self.job
        mapped = print_map(bridge.load(job).state)
        assert mapped is not None
        shown = mapped.at(float(parse(thou_deep, THOU).core), 0.0).outlines
        marks = {
            flank: ([_by_hand(max(lines, key=len), along, up)], uuid.uuid4())
            for flank, lines in shown.items()
        }
        prints.mark_all(self.user, job, job.version, marks, prints.Seen(place=place))

    def photograph(self, flank: str) -> None:
        """Keep a photo of the flank that was marked last."""
        job = self.job
        file = io.BytesIO(picture_of(job, flank))
        photos.keep(
            self.user,
            job,
            job.version,
            "pattern-print",
            file,
            len(file.getvalue()),
            uuid.uuid4(),
            f"{flank} flank, tooth 14",
        )

    def mark_found(self, flank: str, toe: float, heel: float, root: float, top: float) -> None:
        """Mark a flank as found on arrival."""
        job = self.job
        patch = Patch.box(toe, heel, root, top)
        prints.mark(
            self.user,
            job,
            job.version,
            flank=flank,
            patches=[patch],
            entry=uuid.uuid4(),
            seen=prints.Seen(taken=Pattern.Taken.AS_FOUND),
        )

    def choose(self, **given: str) -> None:
        """Choose parts and variants."""
        job = self.job
        work.choose(self.user, job, job.version, given)

    def take_down(self, complaint: str, **given: str) -> None:
        """The arrival record beside the readings."""
        usual = {
            "use": "works",
            "oil": "clean",
            "gears": "new",
            "mileage": "",
            "unit": "km",
            "noise": "",
            "note": "",
        }
        job = self.job
        work.record_arrival(self.user, job, job.version, complaint=complaint, **(usual | given))

    def tick_all(self) -> None:
        """Everything on the list is at hand."""
        job = self.job
        needs = bridge.load(job).plan.needs
        work.tick_tools(self.user, job, job.version, {need.tool.tool: "have" for need in needs})

    def finish(self, *stations: str) -> None:
        """Do every step of these stations that nothing holds, where any is open."""
        for station in stations:
            job = self.job
            with contextlib.suppress(AxleError), transaction.atomic():
                work.finish_station(self.user, job, job.version, station)

    def settle(self) -> None:
        """Work out what the changes so far came to."""
        job = self.job
        change.settle(job, self.user, job.touched_what)

    def off(self, item: str, words: str) -> None:
        """Write down what came off."""
        self._register(item, register.Event.OFF, words)

    def back(self, item: str, words: str = "") -> None:
        """Write down what is back."""
        self._register(item, register.Event.BACK, words)

    def _register(self, item: str, event: register.Event, words: str) -> None:
        job = self.job
        part_services.write_register(
            self.user, job, job.version, item, event, words, IMPERIAL, uuid.uuid4()
        )

    def find(self, part: str, sign: str, decision: str, reason: str) -> None:
        """Keep a finding."""
        job = self.job
        part_services.find(self.user, job, job.version, part, sign, decision, reason, uuid.uuid4())

    def look_at_the_rest(self) -> None:
        """Everything that has no finding yet is sound."""
        seen = {row.part for row in self.job.findings.all()}
        for part in parts():
            if part not in seen:
                self.find(part, "sound", "keep", "")

    def run(self, part: str, *values: str, places: int = 8) -> None:
        """Read once or more around the ring gear or the flange."""
        job = self.job
        row = [parse(value, THOU, "runout") for value in values]
        runs.take_turn(self.user, job, job.version, part, places, 0, row, uuid.uuid4())

    def torque_all(self) -> None:
        """Sign every stage of the torque sheet at the middle of its range."""
        while True:
            job = self.job
            standing = next((g for g in bridge.load(job).torques if not g.is_done), None)
            if standing is None or standing.next_stage is None:
                return
            stage = standing.next_stage.stage
            middle = bolts.as_set(stage.wanted.aim)
            bolts.sign_stage(
                self.user, job, job.version, standing.group.group, stage.number, middle, uuid.uuid4()
            )

    def step(self, name: str, mark: Mark = Mark.DONE, reason: str = "") -> None:
        """Mark a step."""
        job = self.job
        work.mark_step(self.user, job, job.version, name, mark, uuid.uuid4(), reason=reason, knowing=True)

    def sign(self, station: str, reason: str = "") -> None:
        """Sign a station."""
        job = self.job
        services.sign(self.user, job, job.version, station, reason)


def picture_of(job: Job, flank: str) -> bytes:
    """A photo of the flank that was marked last, as the simulated camera takes it."""
    patch = max(bridge.load(job).state.prints, key=lambda p: p.order).flanks[flank].first.patches[0]
    scene = Scene(patch.outline, **PHOTOGRAPHED)
    file = io.BytesIO()
    Image.fromarray(photograph(scene, seed=7).image).save(file, "JPEG", quality=88)
    return file.getvalue()


def _as_here(key: str, row: Mapping[str, Any]) -> dict[str, Any]:
    """A starter sheet as this shop keeps it: indicators along the heel, two with a closer tolerance."""
    close = {"high": "2", "unit": "thou"} if key in ("funicular-truck", "snow-blower") else {}
    tolerance = row["values"]["depth_tolerance"] | close
    return {**row, "stance": "along", "values": {**row["values"], "depth_tolerance": tolerance}}


@transaction.atomic
def load_demo() -> bool:
    """Make the demo shop in an empty database; say whether it was made."""
    if Shop.objects.select_for_update().exists():
        return False
    shop = Shop.objects.create(name="Obere Werkstatt", place="Varnholt", next_job_number=411)
    owner = _person(shop, "ines", "Ines", "Korb", Role.OWNER)
    builder = _person(shop, "mattis", "Mattis", "Oran", Role.BUILDER)
    apprentice = _person(shop, "lio", "Lio", "Feld", Role.APPRENTICE)
    people.set_ways(owner, {"adjusters": "holes", "outboard": "subtraction"}, "tooth side", "plain side")
    sheets = {key: save_sheet(owner, _as_here(key, row)) for key, row in starter_specs().items()}
    _fill_drawer(owner)
    _fill_register(owner)
    now = timezone.now()
    morning = now.replace(hour=7, minute=40, second=0, microsecond=0, tzinfo=UTC)
    if morning > now:
        # Loaded at night the demo's day is yesterday: nothing in it lies ahead.
        morning -= timedelta(days=1)
    _finished(builder, sheets["works-van"], morning - timedelta(days=9))
    _out(owner, sheets["works-van"], morning - timedelta(days=1))
    _at_depth(builder, sheets["funicular-truck"], morning - timedelta(days=3))
    _at_preload(builder, sheets["snow-blower"], morning - timedelta(days=16))
    _at_runout(owner, sheets["works-van"], morning - timedelta(hours=4))
    _at_bites(builder, sheets["funicular-truck"], morning - timedelta(days=2))
    _at_adjusters(owner, sheets["funicular-truck"], morning - timedelta(days=1))
    _at_pattern(owner, sheets["works-van"], morning - timedelta(hours=5))
    practise(apprentice)
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
                Lot(family, nominal, (miced,), count, "new", f"{family[0].upper()}{len(size)}", low_at=low),
            )
    torn = parse("26", THOU)
    stock.receive(owner, Lot("depth", torn, (torn,), 1, "damaged", "scrap"))
    base = parse("68.1", THOU)
    stock.receive(
        owner,
        Lot(
            "side",
            parse("68", THOU),
            (base, parse("68", THOU)),
            4,
            "good",
            "B1",
            "cast, 84 ring",
            "base",
            cast=True,
        ),
    )
    stock.keep_kit(
        owner,
        "Pinion assortment, small",
        [Lot("depth", parse(size, THOU), (), 2) for size in ("20", "22", "25", "28")]
        + [Lot("preload", parse(size, THOU), (), 4) for size in ("3", "5", "10")],
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


def _open(
    user: User,
    sheet: SpecSheet,
    title: str,
    customer: str,
    complaint: str,
    arrived: datetime,
    mark: str = "0",
    *,
    new_bearings: bool = True,
) -> Bench:
    job = services.open_job(
        user,
        sheet,
        NewJob(
            title=title,
            customer=customer,
            complaint=complaint,
            arrived_on=arrived.date(),
            promised_on=(arrived + timedelta(days=14)).date(),
            new_bearings=new_bearings,
            mark=parse(mark, THOU),
            mark_convention="longer",
        ),
    )
    services.confirm_mark(user, job, job.version, parse(mark, THOU), "longer")
    return Bench(user, job)


def _by_hand(outline: np.ndarray, along: float, up: float) -> Patch:
    """An outline as somebody draws it around the feathered edge."""
    middle = outline.mean(axis=0)
    drawn = np.clip(middle + 0.95 * (outline - middle) + [along, up], 0.0, 1.0)
    return Patch(tuple((float(u), float(v)) for u, v in drawn)).simplified(28)


@contextlib.contextmanager
def _past(start: datetime) -> Iterator[list[Bench]]:
    """Enter things as if it were then; what they come to is worked out once, at the end."""
    made: list[Bench] = []
    with clock.beginning(start):
        with change.settled_later():
            yield made
        for bench in made:
            bench.settle()


def _strip(bench: Bench, side: str, shims: dict[str, str], tools: str = "6") -> None:
    """Teardown to clean, inspected parts, as on any axle of this shop."""
    layout = bridge.load(bench.job).spec.layout
    bench.off("tools", tools)
    if layout.carrier_by.value == "covers":
        marked = ("cover_left", "cover_right")
    else:
        marked = ("cap_left", "cap_right")
    for item, dots in zip(marked, ("one dot", "two dots"), strict=True):
        bench.off(item, f"punched, {dots}, dots down")
    if layout.has_adjusters:
        bench.off("adjuster_left", "punched, hole 7 at the lock")
        bench.off("adjuster_right", "punched, hole 3 at the lock")
    bench.off("gear", f"scribed line, high spot two bolts to the {side}")
    for item, words in shims.items():
        bench.off(item, words)
    bench.finish("arrival", "teardown")


def _clean(bench: Bench) -> None:
    bench.look_at_the_rest()
    bench.finish("inspect", "prepare", "fit")


def _finished(user: User, sheet: SpecSheet, start: datetime) -> None:
    """Right at the second assembly: signed."""
    with _past(start) as made:
        bench = _open(
            user,
            sheet,
            "Post van 7, rear",
            "Works yard, post vans",
            "Whine on the drive side from 60 up",
            start,
            mark="-2",
        )
        made.append(bench)
        bench.take_down("Whine on the drive side from 60 up", use="road", oil="dark", mileage="148200")
        bench.arrive("2.5", ("14", "13.5", "14.5", "14"), "31")
        bench.mark_found("drive", 0.42, 0.96, 0.36, 0.86)
        bench.mark_found("coast", 0.18, 0.66, 0.3, 0.78)
        bench.tick_all()
        _strip(
            bench,
            "left",
            {
                "shim_depth": "25.1",
                "shim_preload": "14.9 + 5",
                "shim_left": "120 + 60 + 8",
                "shim_right": "120 + 60 + 10",
                "clips": "2 clips and the bolt, in the left bag",
            },
        )
        bench.find("pinion_inner", "blue", "replace", "galled at the large ends")
        bench.find("pinion_outer", "driven", "replace", "driven through at teardown")
        bench.find("housing", "burr", "dress", "edge of the left bore, filed")
        _clean(bench)
        bench.run(
            "ring",
            *[
                "1",
                "1.7",
                "2",
                "1.6",
                "0.9",
                "0.3",
                "0.1",
                "0.4",
                "1.1",
                "1.6",
                "2",
                "1.7",
                "1",
                "0.3",
                "0",
                "0.3",
            ],
        )
        bench.finish("ring_gear")
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
        bench.made(compound="yellow", load="brake")
        bench.print("0.8", up=-0.01)
        bench.finish("depth", "pinion_preload", "carrier_preload", "backlash", "pattern")
        for item in ("cap_left", "cap_right", "gear", "clips"):
            bench.back(item)
        bench.finish("final")
        bench.torque_all()
        bench.back("tools", "6")
        bench.finish("torque", "finish")
        bench.step("final-oil")
        bench.sign("sheet")


def _out(user: User, sheet: SpecSheet, start: datetime) -> None:
    """Backlash loose, and a pattern that says nothing until it is in."""
    with _past(start) as made:
        bench = _open(
            user,
            sheet,
            "Snow blower 3, rear",
            "Works yard, winter service",
            "Clunk at the turn-round, oil grey",
            start,
        )
        made.append(bench)
        bench.take_down("Clunk at the turn-round, oil grey", oil="water", mileage="31900")
        bench.arrive("1.5", ("19", "18", "19", "20"), "34")
        bench.mark_found("drive", 0.3, 0.8, 0.3, 0.8)
        bench.mark_found("coast", 0.3, 0.76, 0.34, 0.8)
        bench.tick_all()
        _strip(
            bench,
            "right",
            {
                "shim_depth": "30.1",
                "shim_preload": "11.5 + 7",
                "shim_left": "120 + 60 + 10",
                "shim_right": "120 + 60 + 15",
                "clips": "2 clips and the bolt",
            },
        )
        bench.find("carrier_left", "rust", "replace", "water line across the cup")
        _clean(bench)
        bench.run("ring", *["0.4", "0.9", "1.3", "1.5", "1.2", "0.7", "0.3", "0.1"])
        bench.finish("ring_gear")
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
        bench.print("-2.4", up=0.01, along=0.02)
        bench.read_again()
        bench.finish("depth", "pinion_preload", "carrier_preload")


def _at_depth(user: User, sheet: SpecSheet, start: datetime) -> None:
    """Cartridge and adjusters: depth is measured, the shim is next."""
    with _past(start) as made:
        bench = _open(
            user,
            sheet,
            "Funicular maintenance truck, centre axle",
            "Varnholt funicular",
            "Re-geared for the upper section",
            start,
            mark="3",
        )
        made.append(bench)
        bench.choose(order="pinion_first", ratio="changed", trial="setup", cartridge="in_place")
        bench.take_down("Re-geared for the upper section", oil="clean", mileage="8800")
        bench.arrive("4", ("11", "12", "11.5", "12"), "24")
        bench.tick_all()
        _strip(bench, "left", {"shim_depth": "20 + 9"})
        _clean(bench)
        bench.run("ring", *["2", "3", "3.6", "3.4", "2.3", "1.2", "0.6", "1"])
        bench.finish("ring_gear")
        bench.fit(Place.DEPTH, "31")
        bench.read("depth_feeler", "6")
        bench.read("bridge_reach", "90 mm")
        bench.read("bridge_reading", "38.4", "38.2", "38.3")
        bench.read("head_height", "42.31 mm")
        bench.read("stand_inner", "1184.2", "1182.9")


def _at_preload(user: User, sheet: SpecSheet, start: datetime) -> None:
    """Coupled stacks, used bearings and gears, end play on the first trial."""
    with _past(start) as made:
        bench = _open(
            user,
            sheet,
            "Snow blower 1, front",
            "Works yard, winter service",
            "Leaks at the flange, growl in the cold",
            start,
            new_bearings=False,
        )
        made.append(bench)
        bench.choose(depth_by="old")
        bench.take_down(
            "Leaks at the flange, growl in the cold", oil="clean", gears="used", mileage="22750"
        )
        bench.arrive("3", ("9", "9.5", "10", "9"), "22")
        bench.mark_found("drive", 0.2, 0.7, 0.34, 0.82)
        bench.mark_found("coast", 0.16, 0.62, 0.36, 0.82)
        bench.tick_all()
        _strip(
            bench,
            "left",
            {
                "shim_depth": "31",
                "shim_preload": "30.1 + 15",
                "shim_left": "40 + 20",
                "shim_right": "40 + 15",
                "clips": "2 clips and the bolt",
            },
        )
        bench.find("pinion_outer", "dull", "replace", "frosted, growls by hand")
        _clean(bench)
        bench.run("ring", *["1", "1.6", "2.2", "2.4", "2", "1.3", "0.7", "0.6"])
        bench.finish("ring_gear")
        bench.read("old_shim", "31")
        bench.read("old_mark", "1")
        bench.move()
        bench.finish("depth")
        bench.fit(Place.PRELOAD, "30.1", "14.9")
        bench.read("pinion_end_play", "4")


def _at_runout(user: User, sheet: SpecSheet, start: datetime) -> None:
    """Runout over its limit, read at two clockings: the best bolt position is worked out."""
    with _past(start) as made:
        bench = _open(
            user,
            sheet,
            "Ski-lift workshop van, rear",
            "Varnholt lifts",
            "Hum that comes and goes, once a wheel turn",
            start,
        )
        made.append(bench)
        bench.take_down("Hum that comes and goes, once a wheel turn", oil="clean", mileage="90300")
        bench.arrive("9", ("8", "10", "12", "9.5"), "27")
        bench.tick_all()
        _strip(
            bench,
            "right",
            {
                "shim_depth": "27",
                "shim_preload": "20",
                "shim_left": "120 + 60 + 10",
                "shim_right": "120 + 60 + 12.1",
                "clips": "2 clips and the bolt",
            },
        )
        bench.run("flange", *["0.2", "0.9", "1.5", "1.8", "1.7", "1.1", "0.4", "0"])
        _clean(bench)
        bench.run(
            "ring",
            *["3.8", "5.5", "7.0", "7.7", "7.2", "6.2", "4.3", "2.3", "1.1", "0.4", "0.6", "1.9"],
            *["3.7", "5.5", "7.0", "7.7", "7.2", "6.1", "4.4", "2.3", "1.1", "0.4", "0.6", "2.0"],
            places=12,
        )
        job = bench.job
        runs.set_clock(user, job, job.version, 5)
        bench.run(
            "ring",
            *["6.8", "5.5", "4.1", "2.4", "1.2", "1.0", "1.3", "2.3", "4.0", "5.7", "6.6", "7.1"],
            places=12,
        )
    timers.start(user, bench.job, "ring gear in the oven", 15, "ring-seat")


def _at_bites(user: User, sheet: SpecSheet, start: datetime) -> None:
    """A sleeve half crushed: the log of the nut says how far the next bite may go."""
    with _past(start) as made:
        bench = _open(
            user,
            sheet,
            "Timber trailer tug, rear",
            "Works yard, forest service",
            "Pinion seal weeps, play at the flange",
            start,
            mark="-1",
        )
        made.append(bench)
        bench.choose(order="pinion_first")
        bench.take_down("Pinion seal weeps, play at the flange", oil="clean", mileage="12400")
        bench.arrive("3", ("10", "11", "10.5", "11"), "20")
        bench.tick_all()
        _strip(bench, "right", {"shim_depth": "24"})
        _clean(bench)
        bench.run("ring", *["1", "1.8", "2.2", "2", "1.4", "0.8", "0.4", "0.5"])
        bench.finish("ring_gear")
        for turned, torque in ((0, "1"), (15, "2.5"), (12, "5"), (10, "8.5"), (10, "12.5")):
            bench.bite(turned, torque)


def _at_adjusters(user: User, sheet: SpecSheet, start: datetime) -> None:
    """Threaded adjusters: preload by holes past zero, one move made, backlash still a little loose."""
    with _past(start) as made:
        bench = _open(
            user,
            sheet,
            "Ropeway inspection car, driven axle",
            "Varnholt funicular",
            "Clunk when the rope takes up",
            start,
            mark="1",
        )
        made.append(bench)
        bench.choose(order="pinion_first", lash_places="eight", cartridge="in_place")
        bench.take_down("Clunk when the rope takes up", use="tow", oil="clean", mileage="5300")
        bench.arrive("2", ("18", "19", "18.5", "19"), "18")
        bench.tick_all()
        _strip(bench, "right", {"shim_depth": "27"})
        _clean(bench)
        bench.run("ring", *["0.8", "1.3", "1.7", "1.6", "1.1", "0.6", "0.2", "0.4"])
        bench.finish("ring_gear")
        bench.fit(Place.DEPTH, "31")
        bench.read("depth_feeler", "5")
        bench.move()
        bench.read("depth_feeler", "0.5")
        for turned, torque in ((0, "2"), (20, "9"), (12, "17.5"), (5, "20")):
            bench.bite(turned, torque)
        bench.adjust("0", "0")
        bench.read("zero_play", "6.5")
        bench.lash("18.2", "18.6", "19.1", "19.4", "19.2", "18.7", "18.3", "18")
        bench.move()
        bench.book(Done.TORQUED)
        bench.book(Done.MARKED, words="paint, yellow, at both locks")
        bench.book(Done.ASIDE, "-6", "pinion in past the ring gear")
        bench.book(Done.BACK, "6")
        bench.lash("12.3", "12.8", "13.3", "13.6", "13.4", "12.9", "12.5", "12.2")
        bench.finish("depth", "pinion_preload")


def _at_pattern(user: User, sheet: SpecSheet, start: datetime) -> None:
    """Everything in range but the pattern: shallow on the first assembly, a little deep on the second."""
    with _past(start) as made:
        bench = _open(
            user,
            sheet,
            "Avalanche patrol carrier, rear",
            "Pass road service",
            "New ring and pinion, howls on the overrun",
            start,
        )
        made.append(bench)
        bench.take_down("New ring and pinion, howls on the overrun", oil="clean", mileage="18400")
        bench.arrive("2", ("9", "9.5", "10", "9.5"), "24")
        bench.tick_all()
        _strip(
            bench,
            "right",
            {
                "shim_depth": "27.1",
                "shim_preload": "20 + 5",
                "shim_left": "120 + 60 + 10",
                "shim_right": "120 + 60 + 10",
                "clips": "2 clips and the bolt",
            },
        )
        _clean(bench)
        bench.run("ring", *["0.6", "1.1", "1.4", "1.3", "0.9", "0.5", "0.2", "0.3"])
        bench.finish("ring_gear")
        bench.read("depth_feeler", "27")
        bench.move()
        bench.fit(Place.PRELOAD, "14.9", "5")
        bench.read("pinion_torque", "22")
        bench.fit(Place.RING, "100", "80.2", "10")
        bench.fit(Place.FAR, "100", "80.2", "12.1")
        bench.read("total_torque", "25.2")
        bench.read("backlash", "9.9", "9.6", "10", "9.8")
        bench.made(compound="yellow", load="hand", teeth="4")
        bench.print("-5", up=0.01, along=-0.01)
        bench.fit(Place.DEPTH, "21", "15")
        bench.read("depth_feeler", "27")
        bench.fit(Place.RING, "100", "80.2", "8")
        bench.fit(Place.FAR, "100", "80.2", "12.1", "2")
        bench.fit(Place.PRELOAD, "14.9", "5")
        bench.read("pinion_torque", "21")
        bench.read("total_torque", "24.4")
        bench.read("backlash", "9.4", "9.2", "9.6", "9.5")
        bench.made(compound="yellow", load="brake", teeth="4", places="3")
        for place, up in ((1, 0.012), (2, -0.01), (3, -0.014)):
            bench.print("4", up=up, along=0.012, place=place)
        bench.photograph("drive")
        services.choose_way(user, bench.job, bench.job.version, "depth", "trial")
        bench.read_again()
        bench.finish("depth", "pinion_preload", "carrier_preload", "backlash")
