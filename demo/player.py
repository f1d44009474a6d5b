"""Plays a job of the demo: everything that a person would enter, through the services of the shop."""

from __future__ import annotations

import io
import tomllib
import uuid
from collections.abc import Callable, Mapping
from datetime import datetime, timedelta
from decimal import Decimal
from pathlib import Path
from typing import Any

import numpy as np

from axle.carrier.adjuster_log import AdjusterEvent
from axle.contact.gears import cut_of
from axle.contact.patch import Patch
from axle.decision.move import Act
from axle.layout import CarrierBy, Place
from axle.measure.parse import parse, unit_named
from axle.measure.units import FOOT_POUND, IMPERIAL, INCH_POUND, THOU
from axle.procedure import register
from axle.procedure.findings import parts
from axle.procedure.stations import kind_named
from axle.simulator.ring_scenes import as_file, print_snap
from axle.stations.pattern_map import print_map
from axle.workflow.progress import StepMarkKind
from demo.photo import PHOTOGRAPHED
from shop.jobs import clock, loading
from shop.jobs.actions import (
    carrier,
    job_change,
    moves,
    opening,
    packs,
    photos,
    prints,
    readings,
    signing,
    steps,
    timers,
)
from shop.jobs.actions import parts as parts_actions
from shop.jobs.actions import runout as runout_actions
from shop.jobs.actions import torque as torque_actions
from shop.jobs.actions.opening import NewJob
from shop.jobs.job_axle import JobAxle
from shop.jobs.models import Job, Pattern
from shop.people.models import User
from shop.specs.models import SpecSheet


class Bench:
    """Enters things at the bench as a person does, always on the newest page."""

    def __init__(self, user: User, job: Job) -> None:
        self.user, self.number = user, job.number

    @property
    def job(self) -> Job:
        """The job as it is now."""
        job: Job = Job.objects.of(self.user.shop).get(number=self.number)
        return job

    def _do(self, act: Callable[..., Any], *arguments: object, **named: object) -> None:
        """Change the job as it is now."""
        job = self.job
        act(self.user, job, job.version, *arguments, **named)

    def _record(self, kind: str, text: str, place: int = 1, **conditions: object) -> None:
        what = kind_named(kind)
        unit = {"length": THOU, "torque": FOOT_POUND if what.bolt else INCH_POUND}[what.dimension.value]
        self._do(
            readings.record_reading,
            readings.NewReading(
                kind=kind,
                place=place,
                quantity=parse(text, unit, kind),
                entry=uuid.uuid4(),
                conditions=conditions,
            ),
        )

    def read(self, kind: str, *values: str) -> None:
        """Read one kind at places 1, 2, … ."""
        for place, text in enumerate(values, start=1):
            self._record(kind, text, place)

    def lash(self, *values: str) -> None:
        """Read backlash around, at as many places as there are values."""
        for place, text in enumerate(values, start=1):
            self._record("backlash", text, place, places=len(values))

    def bite(self, turned: float, torque: str) -> None:
        """Turn a sleeve's nut and read the rotating torque after it."""
        self._record("pinion_torque", torque, turned=turned)

    def arrive(self, runout: str, backlash: tuple[str, ...], torque: str) -> None:
        """The baseline of an axle as received."""
        self.read("arrival_side_play", "0")
        self.read("arrival_runout", runout)
        self.read("arrival_backlash", *backlash)
        self.read("arrival_total_torque", torque)

    def fit(self, where: str, *sizes: str) -> None:
        """Fit named pieces from the drawer."""
        job = self.job
        place = Place(where)
        drawer = loading.load(job).state.drawer[place]
        lots = []
        for size in sizes:
            want = parse(size, THOU).core
            lots.append(min(drawer, key=lambda p: abs(p.thickness - want)).key)
        packs.fit_pack(self.user, job, job.version, place, lots)

    def move(self) -> None:
        """Do the next move, and keep what the last one came to; what is asked for again is read again."""
        self.read_again()
        job = self.job
        job_change.keep_outcome(loading.load(job))

        moves.apply_move(self.user, job, job.version)

    def read_again(self) -> None:
        """Read once more whatever the advice asks for once more."""
        for _ in range(20):
            axle = loading.load(self.job)
            known = {r.kind for r in axle.valid_readings()}
            if axle.move.act is not Act.READ or not {kind for kind, _ in axle.move.asks} <= known:
                break
            if not axle.move.asks:
                break
            for kind, place in axle.move.asks:
                self._again(axle, kind, place)

    def _again(self, axle: JobAxle, kind: str, place: int) -> None:
        """Read something once more: it shows what it showed, at another place of a repeat too."""
        read = [r for r in axle.valid_readings() if r.kind == kind]
        here = [r for r in read if r.place == place]
        last = (here or read)[-1]
        job, unit = self.job, unit_named(last.unit)
        readings.record_reading(
            self.user,
            job,
            job.version,
            readings.NewReading(
                kind=kind,
                place=place,
                quantity=parse(last.typed, unit, kind),
                entry=uuid.uuid4(),
                conditions={**last.conditions, "again": True} if here else dict(last.conditions),
            ),
        )

    def adjust(self, ring: str, far: str) -> None:
        """Turn both adjusters."""
        self._do(carrier.set_adjusters, Decimal(ring), Decimal(far))

    def log(self, done: str, holes: str = "0", words: str = "") -> None:
        """Write a line into the log of adjusters and caps."""
        self._do(
            carrier.write_line,
            AdjusterEvent(done),
            uuid.uuid4(),
            ring=Decimal(holes),
            far=-Decimal(holes),
            words=words,
        )

    def made(self, **how: str) -> None:
        """Say how the print in hand was made."""
        self._do(prints.make, how, uuid.uuid4())

    def print(self, thou_deep: str, *, up: float = 0.0, along: float = 0.0, place: int = 1) -> None:
        """Mark both flanks as they would look so deep, and as a hand draws them: a little off."""
        job = self.job
        mapped = print_map(loading.load(job).state)
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
        self._do(steps.choose, given)

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
        self._do(steps.record_arrival, complaint=complaint, **(usual | given))

    def tick_all(self) -> None:
        """Everything on the list is at hand."""
        job = self.job
        needs = loading.load(job).plan.needs
        steps.tick_tools(self.user, job, job.version, {need.tool.tool: "have" for need in needs})

    def finish(self, *stations: str) -> None:
        """Do every step of these stations that nothing holds, where any is open."""
        for station in stations:
            job = self.job
            together, rest = steps.markable_at(loading.load(job), station)
            if together:
                names = [standing.step.step for standing in together]
                steps.mark_together(self.user, job, job.version, station, names)
            for standing in rest:
                if not standing.held:
                    self.step(standing.step.step)

    def settle(self) -> None:
        """Work out what the changes so far came to."""
        job = self.job
        job_change.finish_change(job, self.user, job.touched_what)

    def off(self, item: str, words: str) -> None:
        """Write down what came off."""
        self._register(item, register.Event.OFF, words)

    def back(self, item: str, words: str = "") -> None:
        """Write down what is back."""
        self._register(item, register.Event.BACK, words)

    def _register(self, item: str, event: register.Event, words: str) -> None:
        self._do(parts_actions.write_register, item, event, words, IMPERIAL, uuid.uuid4())

    def find(self, part: str, sign: str, decision: str, reason: str) -> None:
        """Keep a finding."""
        self._do(parts_actions.find, part, sign, decision, reason, uuid.uuid4())

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
        runout_actions.add_run(self.user, job, job.version, part, places, 0, row, uuid.uuid4())

    def torque_all(self) -> None:
        """Sign every stage of the torque sheet at the middle of its range."""
        while True:
            job = self.job
            standing = next((g for g in loading.load(job).torques if not g.is_done), None)
            if standing is None or standing.next_stage is None:
                return
            stage = standing.next_stage.stage
            middle = torque_actions.as_set(stage.wanted.aim)
            torque_actions.sign_stage(
                self.user, job, job.version, standing.group.group, stage.number, middle, uuid.uuid4()
            )

    def strip(self, side: str, tools: str = "6", **shims: str) -> None:
        """Teardown to clean, inspected parts, as on any axle of this shop."""
        layout = loading.load(self.job).spec.layout
        self.off("tools", tools)
        covers = layout.carrier_by is CarrierBy.COVERS
        marked = ("cover_left", "cover_right") if covers else ("cap_left", "cap_right")
        for item, dots in zip(marked, ("one dot", "two dots"), strict=True):
            self.off(item, f"punched, {dots}, dots down")
        if layout.has_adjusters:
            self.off("adjuster_left", "punched, hole 7 at the lock")
            self.off("adjuster_right", "punched, hole 3 at the lock")
        self.off("gear", f"scribed line, high spot two bolts to the {side}")
        for item, words in shims.items():
            self.off(item, words)
        self.finish("arrival", "teardown")

    def clean(self) -> None:
        """Everything looked at and cleaned."""
        self.look_at_the_rest()
        self.finish("inspect", "prepare", "fit")

    def clock(self, holes: int) -> None:
        """Turn the ring gear on its flange."""
        self._do(runout_actions.set_clock, holes)

    def method(self, station: str, method: str) -> None:
        """Settle a station by another way of measuring."""
        self._do(readings.choose_method, station, method)

    def wait(self, title: str, minutes: int, step: str) -> None:
        """Start a wait; it runs from when the demo is loaded."""
        timers.start(self.user, self.job, title, minutes, step)

    def step(self, name: str) -> None:
        """Mark a step as done."""
        self._do(steps.mark_step, name, StepMarkKind.DONE, uuid.uuid4(), knowing=True)

    def sign(self, station: str, reason: str = "") -> None:
        """Sign a station."""
        self._do(signing.sign, station, reason)


def picture_of(job: Job, flank: str) -> bytes:
    """A photo of the flank that was marked last, as the simulated camera takes it."""
    state = loading.load(job).state
    patch = max(state.prints, key=lambda p: p.order).flanks[flank].first.patches[0]
    convex = (flank == "drive") == state.gears.drive_convex
    return as_file(print_snap(cut_of(state.gears), patch.outline, convex=convex, **PHOTOGRAPHED))


def _by_hand(outline: np.ndarray, along: float, up: float) -> Patch:
    """An outline as somebody draws it around the feathered edge."""
    middle = outline.mean(axis=0)
    drawn = np.clip(middle + 0.95 * (outline - middle) + [along, up], 0.0, 1.0)
    return Patch(tuple((float(u), float(v)) for u, v in drawn)).simplified(28)


def scripts() -> tuple[Mapping[str, Any], ...]:
    """The jobs of the demo, in the order of their numbers: one file each, in ``demo/jobs``."""
    files = sorted((Path(__file__).parent / "jobs").glob("*.toml"))
    return tuple(tomllib.loads(file.read_text(encoding="utf-8")) for file in files)


def play(script: Mapping[str, Any], user: User, sheet: SpecSheet, morning: datetime) -> None:
    """Enter a script as if it were then; what it comes to is worked out once, at the end.

    :param script: as in ``demo/jobs``: each line of ``enter`` names a method of :class:`Bench`, its
        arguments, and last, in braces, those by name.
    :param user: who enters it.
    :param sheet: what the axle is built to.
    :param morning: of the demo's day.
    """
    start = morning - timedelta(days=script.get("days_ago", 0), hours=script.get("hours_ago", 0))
    waits = [line for line in script["enter"] if line[0] == "wait"]
    with clock.beginning(start):
        with job_change.finish_changes_once():
            bench = _opened(script, user, sheet, start)
            for line in script["enter"]:
                if line not in waits:
                    _enter(bench, line)
        bench.settle()
    for line in waits:
        _enter(bench, line)


def _enter(bench: Bench, line: list[Any]) -> None:
    verb, *arguments = line
    named = arguments.pop() if arguments and isinstance(arguments[-1], dict) else {}
    getattr(bench, verb)(*arguments, **named)


def _opened(script: Mapping[str, Any], user: User, sheet: SpecSheet, start: datetime) -> Bench:
    mark = parse(script["mark"], THOU)
    job = opening.open_job(
        user,
        sheet,
        NewJob(
            title=script["title"],
            customer=script["customer"],
            complaint=script["complaint"],
            arrived_on=start.date(),
            promised_on=(start + timedelta(days=14)).date(),
            new_bearings=script.get("new_bearings", True),
            mark=mark,
            mark_convention="longer",
        ),
    )
    opening.confirm_mark(user, job, job.version, mark, "longer")
    return Bench(user, job)
