"""What the bench shows beside a practice job: the exercise, its hints, what only a simulated axle needs."""

from __future__ import annotations

from typing import Any

from axle.practice.ladder import exercise_named
from axle.procedure.names import StationName
from axle.procedure.stations import stations
from axle.simulator.fault import FAULT_WORDS
from shop.jobs.job_axle import JobAxle
from shop.jobs.models import PracticeRun

_PRINT_PLACES = range(1, 9)


def practice_card(axle: JobAxle, station: str) -> dict[str, Any] | None:
    """The exercise of a practice job as it stands; nothing for a real job."""
    if not axle.job.practice:
        return None
    run: PracticeRun = axle.job.practice_run
    exercise = exercise_named(run.exercise)
    has_sleeve = not axle.spec.layout.has_preload_pack
    done = [name for name in exercise.goal if axle.standings[name].is_done]
    return {
        "run": run,
        "exercise": exercise,
        "over": run.ended_at is not None,
        "goal": [stations()[name].title.lower() for name in exercise.goal],
        "done": len(done),
        "count": len(exercise.goal),
        "shows_move": run.hint_version == axle.job.version or run.ended_at is not None,
        "prints": station == StationName.PATTERN,
        "places": _PRINT_PLACES,
        "nut": has_sleeve and station == StationName.PINION_PRELOAD,
        "turned": f"{run.turned:.0f}",
        "faults": [(fault.value, words) for fault, words in FAULT_WORDS.items()] if exercise.faults else [],
    }
