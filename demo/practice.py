"""What the demo shop has practised: two rounds of questions and one axle's carrier, by the apprentice."""

from __future__ import annotations

import uuid
from typing import Final

from axle.advice.moves import Act
from axle.practice.ladder import exercise_named
from axle.procedure.stations import kind_named
from axle.simulator.measure import patches
from shop.jobs import bridge, exercises, practice, prints, services, simulated
from shop.jobs.models import Job, PracticeRun
from shop.people.models import User
from shop.practice.page import right_answer

_SEED: Final = 2718
_MOST: Final = 30


def practise(person: User) -> None:
    """Answer two rounds, with a slip each, and build one carrier as the hints say."""
    for key in ("read-pattern", "which-way"):
        _round(person, key)
    _axle(person, "backlash-station")


def _round(person: User, key: str) -> None:
    run = exercises.start_with(person, exercise_named(key), _SEED)
    while run.ended_at is None:
        right, asked = right_answer(run)
        given = "a slip" if len(run.answers) == 1 else right
        run = practice.answer(person, run, given, right, asked)


def _axle(person: User, key: str) -> None:
    run = exercises.start_with(person, exercise_named(key), _SEED)
    practice.hint(person, _job(run), _job(run).version)
    for _ in range(_MOST):
        axle = bridge.load(_job(run))
        if all(axle.standings[name].is_done for name in exercise_named(key).goal):
            break
        if axle.move.swaps:
            services.take_move(person, axle.job, axle.job.version)
            continue
        if axle.move.act is Act.PRINT:
            _print(person, run)
            continue
        slots = axle.move.asks or [
            (slot.kind, slot.place)
            for name in ("pinion_preload", *exercise_named(key).goal)
            for slot in axle.standings[name].missing
        ]
        for kind, place in slots:
            _read(person, run, kind, place, again=axle.move.again)
    practice.finish(person, _job(run), _job(run).version)


def _print(person: User, run: PracticeRun) -> None:
    """Both flanks, as somebody draws them who looks well."""
    job = _job(run)
    found = simulated.simulated_axle(job)
    assert found is not None
    wiped = patches(found.axle, found.source(7))
    marks = {flank: ([patch.simplified()], uuid.uuid4()) for flank, patch in wiped.items()}
    prints.mark_all(person, job, job.version, marks, prints.Seen())


def _read(person: User, run: PracticeRun, kind: str, place: int, *, again: bool) -> None:
    job, what = _job(run), kind_named(kind)
    shown = simulated.take(job, what, place, what.places)
    assert shown is not None
    services.take_reading(
        person,
        job,
        job.version,
        kind=kind,
        place=place,
        quantity=shown,
        entry=uuid.uuid4(),
        instrument=simulated.SET,
        conditions={"again": True} if again else None,
    )


def _job(run: PracticeRun) -> Job:
    job: Job = Job.objects.get(practice_run=run)
    return job
