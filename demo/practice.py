"""What the demo shop has practised: two rounds of questions and one axle's carrier, by the apprentice."""

from __future__ import annotations

import uuid
from collections.abc import Mapping, Sequence
from typing import Final

from axle.decision.move import Move
from axle.practice.follower import Follower
from axle.practice.ladder import exercise_named
from axle.procedure.stations import kind_named
from axle.simulator.measure import patches
from axle.stations.station_state import Standing
from shop.jobs import loading, simulated
from shop.jobs.actions import exercises, moves, practice, prints, readings
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
    _OnJob(person, run, exercise_named(key).goal).follow(_MOST)
    practice.finish(person, _job(run), _job(run).version)


class _OnJob(Follower):
    """Follows the hints through the shop's own changes, on a job of the practice bench."""

    def __init__(self, person: User, run: PracticeRun, goal: tuple[str, ...]) -> None:
        self.person, self.run, self.goal = person, run, goal

    def advice(self) -> Move:
        return loading.load(_job(self.run)).move

    def standings(self) -> Mapping[str, Standing]:
        return loading.load(_job(self.run)).standings

    def is_finished(self) -> bool:
        standings = self.standings()
        return all(standings[name].is_done for name in self.goal)

    def wanted(self, move: Move) -> Sequence[tuple[str, int]]:
        standings = self.standings()
        return move.asks or [
            (slot.kind, slot.place)
            for name in ("pinion_preload", *self.goal)
            for slot in standings[name].missing
        ]

    def change(self, move: Move) -> None:
        job = _job(self.run)
        moves.apply_move(self.person, job, job.version)

    def read(self, kind: str, place: int, *, again: bool) -> None:
        job, what = _job(self.run), kind_named(kind)
        shown = simulated.read_instrument(job, what, place, what.places)
        assert shown is not None
        readings.record_reading(
            self.person,
            job,
            job.version,
            readings.NewReading(
                kind=kind,
                place=place,
                quantity=shown,
                entry=uuid.uuid4(),
                instrument=simulated.SET,
                conditions={"again": True} if again else None,
            ),
        )

    def make_print(self) -> None:
        """Both flanks, as somebody draws them who looks well."""
        job = _job(self.run)
        found = simulated.simulated_axle(job)
        assert found is not None
        wiped = patches(found.axle, found.source(7))
        marks = {flank: ([patch.simplified()], uuid.uuid4()) for flank, patch in wiped.items()}
        prints.mark_all(self.person, job, job.version, marks, prints.Seen())


def _job(run: PracticeRun) -> Job:
    job: Job = Job.objects.get(practice_run=run)
    return job
