"""Reads of the practice bench; every one inside the shop's fence."""

from collections.abc import Iterable
from dataclasses import dataclass

from django.http import Http404

from axle.practice.ladder import Exercise, ladder
from shop.jobs.models import PracticeRun
from shop.people.models import User


@dataclass(frozen=True)
class Rung:
    """One exercise as one person stands to it."""

    exercise: Exercise
    number: int
    runs: tuple[PracticeRun, ...]

    @property
    def ended(self) -> tuple[PracticeRun, ...]:
        """Goes that were finished."""
        return tuple(run for run in self.runs if run.ended_at is not None)

    @property
    def best(self) -> PracticeRun | None:
        """The go with the most points."""
        return max(self.ended, key=lambda run: run.points or 0, default=None)

    @property
    def open(self) -> PracticeRun | None:
        """The newest go that is not finished."""
        return next((run for run in reversed(self.runs) if run.ended_at is None), None)


def rungs_of(runs: Iterable[PracticeRun]) -> list[Rung]:
    """The ladder with the goes at each exercise."""
    every = list(runs)
    return [
        Rung(exercise, number, tuple(run for run in every if run.exercise == key))
        for number, (key, exercise) in enumerate(ladder().items(), start=1)
    ]


def runs_of(user: User) -> list[PracticeRun]:
    """A person's own goes, oldest first."""
    return list(PracticeRun.objects.of(user.shop).filter(person=user).select_related("job"))


def run_of(user: User, run_id: int) -> PracticeRun:
    """One go of a person, or of anybody in the shop for its owner; else not found."""
    runs = PracticeRun.objects.of(user.shop).select_related("job", "person")
    if user.role == "apprentice":
        runs = runs.filter(person=user)
    practice_run: PracticeRun | None = runs.filter(pk=run_id).first()
    if practice_run is None:
        raise Http404("There is no such exercise here.")
    return practice_run


def progress_of(user: User) -> list[tuple[User, list[Rung]]]:
    """Everybody of the shop with the ladder as each stands to it."""
    people = User.objects.filter(shop=user.shop, is_active=True).order_by("first_name", "username")
    runs = list(PracticeRun.objects.of(user.shop))
    return [(person, rungs_of(run for run in runs if run.person_id == person.pk)) for person in people]
