"""What is done on a job on a simulated axle besides the work itself: hints, the nut, prints, the score."""

import io
import uuid
from dataclasses import dataclass

from django.db import transaction
from PIL import Image

from axle.advice.held import depth_held
from axle.advice.judge import is_together
from axle.contact.patch import Patch
from axle.errors import AxleError
from axle.layout import Place
from axle.practice.best import SPOILS, Best, best_of
from axle.practice.ladder import Exercise, exercise_named
from axle.practice.score import Attempt, Score, answers_score, score
from axle.simulator.axle import out_of_range
from axle.simulator.hidden import Fault
from axle.simulator.measure import patches
from axle.simulator.photo import Scene, photograph
from axle.specfile import read_spec
from axle.units import Dimension
from shop.jobs import bridge, clock, photos
from shop.jobs.change import changing
from shop.jobs.models import Job, Photo, PracticeRun
from shop.jobs.simulated import Simulated, simulated_axle
from shop.people.models import User
from shop.people.rules import Refused

_SHOTS = 1_000_000
# What is truly out of range, by the station that judges it.
_JUDGED = {
    "depth": ("depth", "pattern"),
    "backlash": ("backlash",),
    "spread": ("backlash",),
    "runout": ("backlash",),
    "pinion preload": ("pinion_preload",),
    "carrier preload": ("carrier_preload",),
}


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
    found = simulated_axle(job)
    if found is None:
        raise Refused("Only a practice axle prints itself.")
    source = found.source(7)
    wiped = patches(found.axle, source, place, 8)[flank]
    scene = Scene(
        wiped.outline,
        tilt=(source.uniform(-12, 12), source.uniform(-12, 12)),
        roll=source.uniform(-4, 4),
        glare=source.uniform(0, 0.01),
    )
    shot = photograph(scene, source.randrange(_SHOTS))
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
    spoilt = SPOILS[Fault(run.fault)] if run.fault else frozenset()
    wrong = wrong_of(found, exercise)
    excused = {station for name in spoilt for station in _JUDGED[name]}
    signed = [
        s
        for name, s in axle.state.signatures.items()
        if s.deviation and name in exercise.goal and name not in excused
    ]
    unread = [name for name in exercise.goal if axle.standings[name].result is None]
    built = len(unread) < len(exercise.goal) and (
        not exercise.is_whole or is_together(axle.state, axle.standings)
    )
    minutes = (clock.now() - run.started_at).total_seconds() / 60
    return score(
        Attempt(
            axle.assembly.number,
            len(axle.valid_readings()) + run.prints,
            exercise.par,
            run.hints,
            len(unread),
            len(signed),
            minutes,
            wrong,
            bool(run.fault),
            run.named == run.fault,
            built,
            spoilt,
        )
    )


def wrong_of(found: Simulated, exercise: Exercise) -> tuple[str, ...]:
    """What is truly out of range of what an exercise judges."""
    return tuple(
        name
        for name in out_of_range(found.axle, found.limits)
        if any(station in exercise.goal for station in _JUDGED[name])
    )


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
        Told(
            "Depth error",
            built.depth_error,
            held.error if held else None,
            held.spread if held else None,
            Dimension.LENGTH,
        ),
    ]
    lash = axle.standings["backlash"].result
    rows.append(
        Told(
            "Smallest backlash",
            min(built.lashes(4)),
            lash.value if lash else None,
            lash.uncertainty if lash else None,
            Dimension.LENGTH,
        )
    )
    for label, station, true in (
        ("Pinion torque", "pinion_preload", built.pinion_torque),
        ("Carrier torque", "carrier_preload", built.carrier_torque),
    ):
        result = axle.standings[station].result
        told = result is not None and result.dimension is Dimension.TORQUE
        rows.append(
            Told(
                label,
                true,
                result.value if result and told else None,
                result.uncertainty if result and told else None,
                Dimension.TORQUE,
            )
        )
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
