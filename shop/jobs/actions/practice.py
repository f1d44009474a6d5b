"""What is done on a job on a simulated axle besides the work itself: hints, the nut, prints, the score."""

import io
import uuid
from dataclasses import dataclass

import numpy as np
from django.db import transaction

from axle.contact.gears import cut_of
from axle.contact.patch import Patch
from axle.decision.policy import is_together
from axle.errors import AxleError
from axle.layout import Place
from axle.measure.units import Dimension
from axle.practice.best import SPOILS, Best, best_of
from axle.practice.ladder import Exercise, exercise_named
from axle.practice.score import Attempt, Score, answers_score, score
from axle.procedure.names import KindName, StationName
from axle.simulator.axle import out_of_range
from axle.simulator.fault import Fault
from axle.simulator.measure import patches
from axle.simulator.ring_scenes import as_file, print_snap
from axle.stations.depth_posterior import depth_posterior
from shop.jobs import clock, loading
from shop.jobs.actions import photos
from shop.jobs.actions.job_change import job_change
from shop.jobs.job_axle import JobAxle
from shop.jobs.loading import spec_of
from shop.jobs.models import Job, Photo, PracticeRun
from shop.jobs.simulated import Simulated, simulated_axle
from shop.people.models import User
from shop.people.rules import Rejected

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
    with job_change(job, user, version) as change:
        run = _open_run(change.job)
        run.hints += 1
        run.hint_version = version + 1
        run.save(update_fields=["hints", "hint_version"])
        change.what = "asked for a hint"


def turn_nut(user: User, job: Job, version: int, degrees: int) -> None:
    """Turn the pinion nut on; a sleeve is crushed by it."""
    with job_change(job, user, version) as change:
        run = _open_run(change.job)
        now = loading.load(change.job).state.setting(Place.PRELOAD)
        if int(now) != run.sleeve:
            run.sleeve, run.turned = int(now), 0.0
        run.turned += degrees
        run.save(update_fields=["turned", "sleeve"])
        change.what = f"turned the nut by {degrees}°"


def name_fault(user: User, job: Job, version: int, named: str) -> None:
    """Say what is wrong with the axle."""
    if named not in {fault.value for fault in Fault}:
        raise AxleError("what is wrong", given=f"“{named[:30]}”", wanted="one of the list")
    with job_change(job, user, version) as change:
        run = _open_run(change.job)
        run.named = named
        run.save(update_fields=["named"])
        change.what = "named what is wrong"


def make_print(user: User, job: Job, version: int, flank: str, place: int) -> tuple[Photo, Patch, str]:
    """Print a flank and photograph it: the photo, what is truly wiped, where to point at it."""
    simulated = simulated_axle(job)
    if simulated is None:
        raise Rejected("Only a practice axle prints itself.")
    source = simulated.source(7)
    wiped = patches(simulated.axle, source, place, 8)[flank]
    gears = loading.load(job).state.gears
    snap = print_snap(
        cut_of(gears),
        wiped.outline,
        convex=(flank == "drive") == gears.drive_convex,
        colour="yellow",
        seed=source.randrange(_SHOTS),
    )
    raw = as_file(snap)
    kept = photos.keep(
        user,
        job,
        version,
        "pattern-print",
        io.BytesIO(raw),
        len(raw),
        uuid.uuid4(),
        f"practice print, {flank}",
    )
    PracticeRun.objects.filter(pk=simulated.run.pk).update(prints=simulated.run.prints + 1)
    corners = np.round(snap.shot.points[0], 1).tolist()
    return kept, wiped, str(corners)


def finish(user: User, job: Job, version: int) -> PracticeRun:
    """End an exercise: score it on the truth."""
    with job_change(job, user, version, signed=job.state == Job.State.SIGNED) as change:
        run = _open_run(change.job)
        told = scored(change.job, run)
        run.ended_at, run.points, run.lines = clock.now(), told.points, [list(line) for line in told.lines]
        run.save(update_fields=["ended_at", "points", "lines"])
        change.what = "finished the exercise"
    return run


def scored(job: Job, run: PracticeRun) -> Score:
    """What an attempt comes to, as the job stands."""
    axle, found = loading.load(job), Simulated(job, run, spec_of(job))
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
            par=exercise.par,
            hints=run.hints,
            skipped=len(unread),
            signed_out=len(signed),
            minutes=minutes,
            wrong=wrong,
            fault=bool(run.fault),
            named=run.named == run.fault,
            built=built,
            spoilt=spoilt,
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


def truth_of(axle: JobAxle, found: Simulated) -> list[Told]:
    """The truth beside what was believed, line by line."""
    built, state = found.axle, axle.state
    depth_estimate = depth_posterior(state)
    rows = [
        Told(
            "Depth error",
            built.depth_error,
            believed=depth_estimate.error if depth_estimate else None,
            spread=depth_estimate.std if depth_estimate else None,
            dimension=Dimension.LENGTH,
        ),
    ]
    lash = axle.standings[StationName.BACKLASH].result
    rows.append(
        Told(
            "Smallest backlash",
            min(built.lashes(4)),
            believed=lash.value if lash else None,
            spread=lash.uncertainty if lash else None,
            dimension=Dimension.LENGTH,
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
                believed=result.value if result and told else None,
                spread=result.uncertainty if result and told else None,
                dimension=Dimension.TORQUE,
            )
        )
    read = state.latest(KindName.RING_RUNOUT)
    rows.append(
        Told(
            "Ring gear runout",
            built.runout,
            believed=read.value if read else None,
            spread=None,
            dimension=Dimension.LENGTH,
        )
    )
    return rows


def best_packs(found: Simulated) -> Best:
    """The packs that were truly right, and the fewest steps."""
    return best_of(found.true_axle, found.limits)


def answer(user: User, run: PracticeRun, given: str, right: str, asked: int) -> PracticeRun:
    """Keep one answer of a round; the last one ends it."""
    with transaction.atomic():
        practice_run: PracticeRun = (
            PracticeRun.objects.of(user.shop).select_for_update().get(pk=run.pk, person=user)
        )
        if practice_run.ended_at is not None:
            raise Rejected("This round is over: begin another.")
        practice_run.answers = [*practice_run.answers, {"given": given, "right": right}]
        if len(practice_run.answers) >= asked:
            good = sum(row["given"] == row["right"] for row in practice_run.answers)
            told = answers_score(good, asked, practice_run.hints)
            practice_run.ended_at, practice_run.points = clock.now(), told.points
            practice_run.lines = [list(line) for line in told.lines]
        practice_run.save()
    return practice_run


def hint_in_round(user: User, run: PracticeRun) -> None:
    """One hint more in a round of questions."""
    with transaction.atomic():
        practice_run: PracticeRun = (
            PracticeRun.objects.of(user.shop).select_for_update().get(pk=run.pk, person=user)
        )
        practice_run.hints += 1
        practice_run.hint_version = len(practice_run.answers) + 1
        practice_run.save(update_fields=["hints", "hint_version"])


def _open_run(job: Job) -> PracticeRun:
    if not job.practice:
        raise Rejected("This is a real job: nothing of it is simulated.")
    run: PracticeRun = PracticeRun.objects.select_for_update().get(job=job)
    if run.ended_at is not None:
        raise Rejected("This exercise is over: begin another.")
    return run
