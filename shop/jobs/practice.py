"""A job on a simulated axle: how it is opened, what its instruments show, how it ends."""

import io
import random
import uuid
from collections.abc import Mapping
from dataclasses import dataclass
from decimal import Decimal
from functools import cached_property
from itertools import pairwise

from django.db import transaction
from django.utils import timezone
from PIL import Image

from axle.advice.held import depth_held
from axle.contact.patch import Patch
from axle.errors import AxleError
from axle.layout import Place
from axle.practice.best import Best, best_of, crushed_right, right_packs
from axle.practice.ladder import Exercise, exercise_named, fault_of, spec_for, subject_of
from axle.practice.score import Attempt, Score, answers_score, score
from axle.procedure.conditions import has_seal
from axle.procedure.register import Event
from axle.procedure.stations import ReadingKind, kind_named
from axle.shims import Piece, choose
from axle.simulator.axle import Axle, Built, Limits, out_of_range
from axle.simulator.hidden import Fault, Hidden, drawn
from axle.simulator.measure import Asked, both_ways, first_settings, patches, piece_off, read
from axle.simulator.photo import Scene, photograph
from axle.specfile import AxleSpec, read_spec, starter_specs
from axle.units import FOOT_POUND, INCH_POUND, THOU, Dimension, Quantity, parse
from shop.jobs import bridge, clock, photos, services, work
from shop.jobs.assemblies import rebuild
from shop.jobs.change import changing, settle
from shop.jobs.models import Assembly, Job, PackPiece, Photo, PracticeRun, RegisterLine
from shop.jobs.rows import settings_of
from shop.people.models import User
from shop.people.rules import Refused
from shop.stock import services as stock
from shop.stock.models import Family

# Numbers of practice jobs begin here, far off any of the shop's own.
FIRST_NUMBER = 90001
_SEEDS = 1_000_000
# What a reading taken here is said to be read with.
SET = "practice instruments"
_SIZES = [
    "2",
    "3",
    "4",
    "5",
    "6",
    "7",
    "8",
    "9",
    "10",
    "12",
    "15",
    "20",
    "25",
    "30",
    "40",
    "60",
    "80",
    "100",
    "120",
]
_DRAWER = tuple((family, size) for family in (Family.DEPTH, Family.PRELOAD, Family.SIDE) for size in _SIZES)
_EXACT = Decimal("0.0026")
# What is truly out of range, by the station that judges it.
_JUDGED = {
    "depth": ("depth", "pattern"), "backlash": ("backlash",), "spread": ("backlash",),
    "runout": ("backlash",), "pinion preload": ("pinion_preload",), "carrier preload": ("carrier_preload",),
}  # fmt: skip


@dataclass(frozen=True)
class Simulated:
    """The simulated axle of a practice job, as the job's rows have built it."""

    job: Job
    run: PracticeRun
    spec: AxleSpec

    @cached_property
    def hidden(self) -> Hidden:
        """Its truth."""
        fault = Fault(self.run.fault) if self.run.fault else None
        return drawn(subject_of(self.spec, used=not self.job.new_bearings), self.run.seed, fault)

    @cached_property
    def axle(self) -> Axle:
        """It, in one piece."""
        assemblies = list(self.job.assemblies.order_by("number").prefetch_related("positions"))
        pieces = list(PackPiece.objects.filter(assembly__job=self.job).select_related("lot"))
        now = settings_of(assemblies[-1], pieces)
        return Axle(
            self.hidden,
            Built(
                {place: float(value) for place, value in now.items()}, self._off(assemblies, pieces),
                loaded=self.run.prints > 0, turned=self._turned(now),
            ),
        )  # fmt: skip

    def _turned(self, now: Mapping[Place, Decimal]) -> float:
        """Turn of the nut on the sleeve that is in; a new sleeve has none."""
        return self.run.turned if int(now.get(Place.PRELOAD, 0)) == self.run.sleeve else 0.0

    def _off(self, assemblies: list[Assembly], pieces: list[PackPiece]) -> dict[Place, float]:
        """What each pack truly holds over its label; the first new one may hold a shim that lies."""
        packs: dict[int, dict[Place, tuple[int, ...]]] = {}
        for piece in pieces:
            held = packs.setdefault(piece.assembly_id, {})
            place = Place(piece.place)
            held[place] = (*held.get(place, ()), piece.lot_id or 0)
        rows = [packs.get(assembly.pk, {}) for assembly in assemblies]
        seed = self.run.seed
        off = {
            place: sum(piece_off(seed, key, miced=True) for key in keys) for place, keys in rows[-1].items()
        }
        for before, after in pairwise(rows):
            new = next(
                (p for p, keys in after.items() if before.get(p, keys) != keys and p is not Place.PRELOAD),
                None,
            )
            if new is not None:
                if rows[-1].get(new) == after[new]:
                    off[new] += self.hidden.shim_off
                break
        return off

    @property
    def limits(self) -> Limits:
        """What the sheet asks of the truth."""
        return limits_of(self.spec, used=not self.job.new_bearings)

    def source(self, salt: int = 0) -> random.Random:
        """Scatter of the next reading: the same until something is stored."""
        return random.Random(f"{self.run.seed}-{self.job.version}-{salt}")  # noqa: S311


def limits_of(spec: AxleSpec, *, used: bool) -> Limits:
    """What a sheet asks of the truth."""
    sheet = spec.sheet
    return Limits(
        max(sheet.single("depth_tolerance") or 0.0, 0.0762), sheet.backlash_limits(), 4,
        sheet.range("pinion_preload_used" if used else "pinion_preload_new"),
        sheet.range("carrier_preload"), runout=sheet.single("ring_runout") or 1.0,
    )  # fmt: skip


def simulated(job: Job) -> Simulated | None:
    """The simulated axle of a practice job; nothing for a real one."""
    if not job.practice:
        return None
    return Simulated(job, job.practice_run, read_spec(job.sheet))


def take(job: Job, kind: ReadingKind, place: int, places: int, pushed: str = "") -> Quantity | None:
    """Read the simulated axle; nothing for a real job, whose instruments stand on the line."""
    found = simulated(job)
    if found is None:
        return None
    asked = Asked(kind.kind, place, places or kind.places, pushed)
    source = found.source(place)
    if has_seal(kind.kind) and not kind.kind.startswith("arrival"):
        one, other = (
            f"{value / float(INCH_POUND.factor):.1f}" for value in both_ways(found.axle, asked, source)
        )
        mean = (Decimal(one) + Decimal(other)) / 2
        return Quantity(f"{one}/{other} {INCH_POUND.symbol}", mean, INCH_POUND)
    value = read(found.axle, asked, source)
    if kind.dimension is Dimension.TORQUE:
        unit = FOOT_POUND if kind.bolt else INCH_POUND
        return parse(f"{value / float(unit.factor):.1f} {unit.symbol}", unit, kind.title)
    if kind.grades:
        return Quantity(kind.grades[int(value) - 1], Decimal(int(value)), THOU)
    return parse(f"{value / float(THOU.factor):.1f} {THOU.symbol}", THOU, kind.title)


def start(user: User, key: str) -> PracticeRun:
    """Begin an exercise: a round of questions, or a job on a simulated axle."""
    if user.shop is None:
        raise Refused("You belong to no shop; ask its owner to let you in.")
    exercise = exercise_named(key)
    seed = random.SystemRandom().randrange(1, _SEEDS)
    return start_with(user, exercise, seed)


def start_with(user: User, exercise: Exercise, seed: int) -> PracticeRun:
    """Begin an exercise on the axle, or the questions, of a seed."""
    fault = fault_of(exercise, seed)
    run = PracticeRun(
        shop=user.shop, person=user, exercise=exercise.key, seed=seed, fault=fault.value if fault else "",
        started_at=clock.now(),
    )  # fmt: skip
    if exercise.kind != "axle":
        run.save()
        return run
    with transaction.atomic():
        stock.stock_practice_drawer(user, _DRAWER)
        run.job = _job(user, exercise, run)
        run.save()
        _as_given(user, run.job, exercise, run)
        settle(run.job, user, "began an exercise")
        _stripped(user, run.job)
        if not exercise.is_whole:
            _read_before(user, run.job, exercise)
    return run


# What was read of a station that is given, before the exercise begins.
_READ_BEFORE = {
    "depth": ("old_shim", "old_mark"), "pinion_preload": ("pinion_torque",),
    "carrier_preload": ("total_torque",),
}  # fmt: skip


def _read_before(user: User, job: Job, exercise: Exercise) -> None:
    """Readings of what is given, by the same instruments: the rest is the exercise."""
    given = [kind for station in exercise.given for kind in _READ_BEFORE[station]]
    for kind in ("ring_runout", *given):
        now: Job = Job.objects.get(pk=job.pk)
        shown = take(now, kind_named(kind), 1, 1)
        if shown is not None:
            services.take_reading(
                user, now, now.version, kind=kind, place=1, quantity=shown, entry=uuid.uuid4(),
                instrument=SET,
            )  # fmt: skip


def _stripped(user: User, job: Job) -> None:
    """The axle lies stripped and clean on the bench: what comes before the ring gear is done."""

    def now() -> Job:
        found: Job = Job.objects.of(user.shop).get(pk=job.pk)
        return found

    services.sign(user, now(), now().version, "arrival", "practice: taken as it lies on the bench")
    for station in ("teardown", "inspect", "prepare", "fit"):
        work.finish_station(user, now(), now().version, station)


def _job(user: User, exercise: Exercise, run: PracticeRun) -> Job:
    assert user.shop is not None
    spec = spec_for(exercise)
    hidden = drawn(subject_of(spec), run.seed, Fault(run.fault) if run.fault else None)
    newest = Job.objects.of(user.shop).filter(practice=True).order_by("-number").first()
    now = clock.now()
    mark = parse(f"{round(hidden.mark / float(THOU.factor))} {THOU.symbol}", THOU, "mark")
    told = "" if exercise.is_whole else "the practice bench"
    job = Job.objects.create(
        shop=user.shop, number=newest.number + 1 if newest else FIRST_NUMBER, practice=True,
        title=exercise.title, customer="Practice bench", complaint=exercise.words,
        arrived_on=timezone.localdate(), sheet=starter_specs()[exercise.sheet], new_bearings=True,
        mark_typed=mark.text, mark_value=mark.core, mark_confirmed=told, touched_at=now, touched_by=user,
        touched_what="began an exercise",
        ways=_ways(exercise),
    )  # fmt: skip
    Assembly.objects.create(job=job, number=1, started_at=now, started_by=user, by=user.called)
    first = first_settings(run.seed, Axle(hidden, Built()))
    for place in spec.layout.shim_places:
        RegisterLine.objects.create(
            job=job, item=bridge.item_of(place, spec), event=Event.OFF.value, words="as it came",
            pieces=[str(Decimal(str(round(first[place], 5))))], at=now, person=user, by=user.called,
            entry=uuid.uuid4(),
        )  # fmt: skip
    return job


def _ways(exercise: Exercise) -> dict[str, str]:
    """Depth by a gauge where it is the exercise, by the old shim where it is given, else by trial."""
    if "depth" in exercise.goal:
        return {}
    return {"depth": "old" if "depth" in exercise.given else "trial"}


def _as_given(user: User, job: Job, exercise: Exercise, run: PracticeRun) -> None:
    """Fit what an exercise begins with: right where it is given, as it came where it is the exercise."""
    found = Simulated(job, run, spec_for(exercise))
    hidden, layout = found.hidden, found.spec.layout
    if exercise.is_whole:
        return
    right, first = right_packs(hidden, found.limits), first_settings(run.seed, Axle(hidden, Built()))
    wanted: dict[Place, float] = {}
    if "depth" not in exercise.goal:
        wanted[Place.DEPTH] = right[Place.DEPTH] if "depth" in exercise.given else first[Place.DEPTH]
    if layout.has_preload_pack and "pinion_preload" not in exercise.goal:
        follow = wanted.get(Place.DEPTH, hidden.right_pack) - hidden.right_pack
        wanted[Place.PRELOAD] = right[Place.PRELOAD] + (follow if hidden.stack_follows else 0.0)
    of_sides = right if "carrier_preload" in exercise.given and "backlash" not in exercise.goal else first
    if "pinion_preload" not in exercise.goal or "carrier_preload" in exercise.given:
        wanted |= {place: of_sides[place] for place in (Place.RING, Place.FAR)}
    axle = bridge.load(job)
    holes: dict[Place, Decimal] = {
        place: Decimal(round(value * 2)) / 2 for place, value in wanted.items()
        if layout.has_adjusters and place in (Place.RING, Place.FAR)
    }  # fmt: skip
    packs = {
        place: [piece.key for piece in _nearest(axle, place, value)]
        for place, value in wanted.items() if place not in holes
    }  # fmt: skip
    rebuild(user, axle, packs, holes, note="as the exercise begins")
    if not layout.has_preload_pack and "pinion_preload" not in exercise.goal:
        run.turned = crushed_right(hidden)
        run.save(update_fields=["turned"])


def _nearest(axle: bridge.Axle, place: Place, wanted: float) -> tuple[Piece, ...]:
    asked = Decimal(str(round(wanted, 5)))
    found = choose(asked, _EXACT, axle.state.drawer.get(place, ()))
    pack = found.pack or min(found.nearest, key=lambda p: abs(p.thickness - asked))
    return pack.pieces


def hint(user: User, job: Job, version: int) -> None:
    """Show the next move as this job stands; it costs."""
    with changing(job, user, version) as change:
        run = _open_run(change.job)
        run.hints += 1
        run.hint_version = version + 1
        run.save(update_fields=["hints", "hint_version"])
        change.what = "asked for a hint"


def turn_nut(user: User, job: Job, version: int, degrees: int) -> None:
    """Turn the pinion nut on; a sleeve is crushed by it."""
    with changing(job, user, version) as change:
        run = _open_run(change.job)
        now = bridge.load(change.job).state.setting(Place.PRELOAD)
        if int(now) != run.sleeve:
            run.sleeve, run.turned = int(now), 0.0
        run.turned += degrees
        run.save(update_fields=["turned", "sleeve"])
        change.what = f"turned the nut by {degrees}°"


def name_fault(user: User, job: Job, version: int, named: str) -> None:
    """Say what is wrong with the axle."""
    if named not in {fault.value for fault in Fault}:
        raise AxleError("what is wrong", given=f"“{named[:30]}”", wanted="one of the list")
    with changing(job, user, version) as change:
        run = _open_run(change.job)
        run.named = named
        run.save(update_fields=["named"])
        change.what = "named what is wrong"


def make_print(user: User, job: Job, version: int, flank: str, place: int) -> tuple[Photo, Patch, str]:
    """Print a flank and photograph it: the photo, what is truly wiped, its corners in the picture."""
    found = simulated(job)
    if found is None:
        raise Refused("Only a practice axle prints itself.")
    source = found.source(7)
    wiped = patches(found.axle, source, place, 8)[flank]
    scene = Scene(
        wiped.outline, tilt=(source.uniform(-12, 12), source.uniform(-12, 12)), roll=source.uniform(-4, 4),
        glare=source.uniform(0, 0.01),
    )  # fmt: skip
    shot = photograph(scene, source.randrange(_SEEDS))
    file = io.BytesIO()
    Image.fromarray(shot.image).save(file, "JPEG", quality=92)
    size = file.tell()
    file.seek(0)
    kept = photos.keep(
        user, job, version, "pattern-print", file, size, uuid.uuid4(), f"practice print, {flank}"
    )
    PracticeRun.objects.filter(pk=found.run.pk).update(prints=found.run.prints + 1)
    corners = [[round(x, 1), round(y, 1)] for x, y in shot.corners]
    return kept, wiped, str(corners)


def finish(user: User, job: Job, version: int) -> PracticeRun:
    """End an exercise: score it on the truth."""
    with changing(job, user, version, signed=job.state == Job.State.SIGNED) as change:
        run = _open_run(change.job)
        told = scored(change.job, run)
        run.ended_at, run.points, run.lines = clock.now(), told.points, [list(line) for line in told.lines]
        run.save(update_fields=["ended_at", "points", "lines"])
        change.what = "finished the exercise"
    return run


def scored(job: Job, run: PracticeRun) -> Score:
    """What an attempt comes to, as the job stands."""
    axle, found = bridge.load(job), Simulated(job, run, read_spec(job.sheet))
    exercise = exercise_named(run.exercise)
    wrong = wrong_of(found, exercise)
    signed = [s for name, s in axle.state.signatures.items() if s.deviation and name in exercise.goal]
    unread = [name for name in exercise.goal if axle.standings[name].result is None]
    minutes = (clock.now() - run.started_at).total_seconds() / 60
    return score(
        Attempt(
            axle.assembly.number, len(axle.valid_readings()) + run.prints, exercise.par, run.hints,
            len(unread), len(signed), minutes, wrong, bool(run.fault), run.named == run.fault,
        )
    )  # fmt: skip


def wrong_of(found: Simulated, exercise: Exercise) -> tuple[str, ...]:
    """What is truly out of range of what an exercise judges."""
    return tuple(
        name for name in out_of_range(found.axle, found.limits)
        if any(station in exercise.goal for station in _JUDGED[name])
    )  # fmt: skip


@dataclass(frozen=True)
class Told:
    """The truth beside what was believed."""

    label: str
    true: float
    believed: float | None
    spread: float | None
    dimension: Dimension


def truth_of(axle: bridge.Axle, found: Simulated) -> list[Told]:
    """The truth beside what was believed, line by line."""
    built, state = found.axle, axle.state
    held = depth_held(state)
    rows = [
        Told("Depth error", built.depth_error, held.error if held else None,
             held.spread if held else None, Dimension.LENGTH),
    ]  # fmt: skip
    lash = axle.standings["backlash"].result
    rows.append(
        Told("Smallest backlash", min(built.lashes(4)), lash.value if lash else None,
             lash.uncertainty if lash else None, Dimension.LENGTH)
    )  # fmt: skip
    for label, station, true in (
        ("Pinion torque", "pinion_preload", built.pinion_torque),
        ("Carrier torque", "carrier_preload", built.carrier_torque),
    ):
        result = axle.standings[station].result
        told = result is not None and result.dimension is Dimension.TORQUE
        rows.append(
            Told(label, true, result.value if result and told else None,
                 result.uncertainty if result and told else None, Dimension.TORQUE)
        )  # fmt: skip
    read = state.latest("ring_runout")
    rows.append(
        Told("Ring gear runout", built.runout, read.value if read else None, None, Dimension.LENGTH)
    )
    return rows


def best_packs(found: Simulated) -> Best:
    """The packs that were truly right, and the fewest steps."""
    return best_of(found.hidden, found.limits)


def answer(user: User, run: PracticeRun, given: str, right: str, asked: int) -> PracticeRun:
    """Keep one answer of a round; the last one ends it."""
    with transaction.atomic():
        held: PracticeRun = (
            PracticeRun.objects.of(user.shop).select_for_update().get(pk=run.pk, person=user)
        )
        if held.ended_at is not None:
            raise Refused("This round is over: begin another.")
        held.answers = [*held.answers, {"given": given, "right": right}]
        if len(held.answers) >= asked:
            good = sum(row["given"] == row["right"] for row in held.answers)
            told = answers_score(good, asked, held.hints)
            held.ended_at, held.points = clock.now(), told.points
            held.lines = [list(line) for line in told.lines]
        held.save()
    return held


def hint_in_round(user: User, run: PracticeRun) -> None:
    """One hint more in a round of questions."""
    with transaction.atomic():
        held: PracticeRun = (
            PracticeRun.objects.of(user.shop).select_for_update().get(pk=run.pk, person=user)
        )
        held.hints += 1
        held.hint_version = len(held.answers) + 1
        held.save(update_fields=["hints", "hint_version"])


def _open_run(job: Job) -> PracticeRun:
    if not job.practice:
        raise Refused("This is a real job: nothing of it is simulated.")
    run: PracticeRun = PracticeRun.objects.select_for_update().get(job=job)
    if run.ended_at is not None:
        raise Refused("This exercise is over: begin another.")
    return run
