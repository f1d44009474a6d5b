"""How an exercise begins: a round of questions, or a job on a simulated axle with what is given fitted."""

import random
import uuid
from decimal import Decimal

from django.db import transaction
from django.utils import timezone

from axle.layout import Place
from axle.measure.parse import parse
from axle.measure.units import THOU
from axle.practice.best import crushed_right, right_packs
from axle.practice.ladder import Exercise, exercise_named, fault_of, spec_for, subject_of
from axle.procedure.register import Event
from axle.procedure.stations import kind_named
from axle.shims.choose import choose
from axle.shims.pieces import Piece
from axle.simulator.axle import AxleAssembly, SimulatedAxle
from axle.simulator.fault import Fault
from axle.simulator.measure import first_settings
from axle.simulator.true_axle import drawn
from axle.spec.reader import starter_specs
from shop.jobs import clock, loading, numbers
from shop.jobs.actions import readings, signing, steps
from shop.jobs.actions.job_change import finish_change
from shop.jobs.actions.packs import rebuild
from shop.jobs.job_axle import JobAxle, item_of
from shop.jobs.models import Assembly, Job, PracticeRun, RegisterLine
from shop.jobs.simulated import SET, Simulated, read_instrument
from shop.people.models import Shop, User
from shop.people.rules import Rejected
from shop.stock import services as stock
from shop.stock.models import Family

_SEEDS = 1_000_000
_SIZES = (2, 3, 4, 5, 6, 7, 8, 9, 10, 12, 15, 20, 25, 30, 40, 60, 80, 100, 120)
_FAMILIES = (Family.DEPTH, Family.PRELOAD, Family.SIDE)
_DRAWER = tuple((family, str(size)) for family in _FAMILIES for size in _SIZES)
_EXACT = Decimal("0.0026")


def start(user: User, key: str) -> PracticeRun:
    """Begin an exercise: a round of questions, or a job on a simulated axle."""
    if user.shop is None:
        raise Rejected("You belong to no shop; ask its owner to let you in.")
    exercise = exercise_named(key)
    seed = random.SystemRandom().randrange(1, _SEEDS)
    return start_with(user, exercise, seed)


def start_with(user: User, exercise: Exercise, seed: int) -> PracticeRun:
    """Begin an exercise on the axle, or the questions, of a seed."""
    fault = fault_of(exercise, seed)
    run = PracticeRun(
        shop=user.shop,
        person=user,
        exercise=exercise.key,
        seed=seed,
        fault=fault.value if fault else "",
        started_at=clock.now(),
    )
    if exercise.kind != "axle":
        run.save()
        return run
    assert user.shop is not None
    with transaction.atomic():
        # The shop's row is held first: whoever begins at the same moment waits, and takes the next number.
        held = numbers.locked(user.shop)
        stock.stock_practice_drawer(user, _DRAWER)
        run.job = _job(user, exercise, run, held)
        run.save()
        _as_given(user, run.job, exercise, run)
        finish_change(run.job, user, "began an exercise")
        _stripped(user, run.job)
        if not exercise.is_whole:
            _read_before(user, run.job, exercise)
    return run


# What was read of a station that is given, before the exercise begins.
_READ_BEFORE = {
    "depth": ("old_shim", "old_mark"),
    "pinion_preload": ("pinion_torque",),
    "carrier_preload": ("total_torque",),
}


def _read_before(user: User, job: Job, exercise: Exercise) -> None:
    """Readings of what is given, by the same instruments: the rest is the exercise."""
    given = [kind for station in exercise.given for kind in _READ_BEFORE[station]]
    for kind in ("ring_runout", *given):
        now: Job = Job.objects.get(pk=job.pk)
        shown = read_instrument(now, kind_named(kind), 1, 1)
        if shown is not None:
            readings.record_reading(
                user,
                now,
                now.version,
                readings.NewReading(kind=kind, place=1, quantity=shown, entry=uuid.uuid4(), instrument=SET),
            )


def _stripped(user: User, job: Job) -> None:
    """The axle lies stripped and clean on the bench: what comes before the ring gear is done."""

    def now() -> Job:
        found: Job = Job.objects.of(user.shop).get(pk=job.pk)
        return found

    signing.sign(user, now(), now().version, "arrival", "practice: taken as it lies on the bench")
    for station in ("teardown", "inspect", "prepare", "fit"):
        job = now()
        together, _ = steps.markable_at(loading.load(job), station)
        if together:
            steps.mark_together(user, job, job.version, station, [s.step.step for s in together])


def _job(user: User, exercise: Exercise, run: PracticeRun, held: Shop) -> Job:
    spec = spec_for(exercise)
    true_axle = drawn(subject_of(spec), run.seed, Fault(run.fault) if run.fault else None)
    now = clock.now()
    mark = parse(f"{round(true_axle.mark / float(THOU.factor))} {THOU.symbol}", THOU, "mark")
    told = "" if exercise.is_whole else "the practice bench"
    job = Job.objects.create(
        shop=held,
        number=numbers.next_of_practice(held),
        practice=True,
        title=exercise.title,
        customer="Practice bench",
        complaint=exercise.words,
        arrived_on=timezone.localdate(),
        sheet=starter_specs()[exercise.sheet],
        new_bearings=True,
        mark_typed=mark.text,
        mark_value=mark.core,
        mark_confirmed=told,
        touched_at=now,
        touched_by=user,
        touched_what="began an exercise",
        ways=_ways(exercise),
    )
    Assembly.objects.create(job=job, number=1, started_at=now, started_by=user, by=user.called)
    first = first_settings(run.seed, SimulatedAxle(true_axle, AxleAssembly()))
    for place in spec.layout.shim_places:
        RegisterLine.objects.create(
            job=job,
            item=item_of(place, spec),
            event=Event.OFF.value,
            words="as it came",
            pieces=[str(Decimal(str(round(first[place], 5))))],
            at=now,
            person=user,
            by=user.called,
            entry=uuid.uuid4(),
        )
    return job


def _ways(exercise: Exercise) -> dict[str, str]:
    """Depth by a gauge where it is the exercise, by the old shim where it is given, else by trial."""
    if "depth" in exercise.goal:
        return {}
    return {"depth": "old" if "depth" in exercise.given else "trial"}


def _as_given(user: User, job: Job, exercise: Exercise, run: PracticeRun) -> None:
    """Fit what an exercise begins with: right where it is given, as it came where it is the exercise."""
    simulated = Simulated(job, run, spec_for(exercise))
    true_axle, layout = simulated.true_axle, simulated.spec.layout
    if exercise.is_whole and not layout.has_adjusters:
        return
    right, first = (
        right_packs(true_axle, simulated.limits),
        first_settings(run.seed, SimulatedAxle(true_axle, AxleAssembly())),
    )
    if exercise.is_whole:
        # The adjusters stand where they came in: counted from there the marks are near, as on a bench.
        stood = {p: Decimal(round(first[p] * 2)) / 2 for p in (Place.RING, Place.FAR)}
        rebuild(user, loading.load(job), {}, stood, note="as it came in")
        return
    wanted: dict[Place, float] = {}
    if "depth" not in exercise.goal:
        wanted[Place.DEPTH] = right[Place.DEPTH] if "depth" in exercise.given else first[Place.DEPTH]
    if layout.has_preload_pack and "pinion_preload" not in exercise.goal:
        follow = wanted.get(Place.DEPTH, true_axle.right_pack) - true_axle.right_pack
        wanted[Place.PRELOAD] = right[Place.PRELOAD] + (follow if true_axle.stack_follows else 0.0)
    of_sides = right if "carrier_preload" in exercise.given and "backlash" not in exercise.goal else first
    if "pinion_preload" not in exercise.goal or "carrier_preload" in exercise.given:
        wanted |= {place: of_sides[place] for place in (Place.RING, Place.FAR)}
    axle = loading.load(job)
    holes: dict[Place, Decimal] = {
        place: Decimal(round(value * 2)) / 2
        for place, value in wanted.items()
        if layout.has_adjusters and place in (Place.RING, Place.FAR)
    }
    packs = {
        place: [piece.key for piece in _nearest(axle, place, value)]
        for place, value in wanted.items()
        if place not in holes
    }
    rebuild(user, axle, packs, holes, note="as the exercise begins")
    if not layout.has_preload_pack and "pinion_preload" not in exercise.goal:
        run.turned = crushed_right(true_axle)
        run.save(update_fields=["turned"])


def _nearest(axle: JobAxle, place: Place, wanted: float) -> tuple[Piece, ...]:
    asked = Decimal(str(round(wanted, 5)))
    found = choose(asked, _EXACT, axle.state.drawer.get(place, ()))
    pack = found.pack or min(found.nearest, key=lambda p: abs(p.thickness - asked))
    return pack.pieces
