"""Generated questions for the ear: a simulated drive, its spectrum, and what makes the noise."""

from __future__ import annotations

import random
from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache
from typing import Final

from axle.errors import AxleError
from axle.noise.bands import split
from axle.noise.recording import Given, Result, ToldSpeed, analyse
from axle.noise.verdict import heard_causes
from axle.simulator.recorder import Recording, RecordingWorld

# What each exercise asks to tell apart.
ASKED: Final[Mapping[str, tuple[str, ...]]] = {
    "hear-which": ("gear_drive", "pinion_bearing", "wheel_bearing", "tyre", "engine"),
    "hear-load": ("gear_drive", "gear_coast", "tyre"),
    "hear-blows": ("gear_tooth", "pinion_bearing", "wheel_bearing"),
}
HINTS: Final[Mapping[str, str]] = {
    "hear-which": "A tone at the mesh answers to load; a tread lies elsewhere and does not; blows show in "
    "the lower drawing.",
    "hear-load": "Compare where it pulls with where it coasts: gears are loud on one, a tyre on both.",
    "hear-blows": "Blows at the pinion's own turns are a tooth; many times a turn of the pinion its "
    "bearings; a few times a wheel turn the wheel's.",
}
_SECONDS: Final = 24.0
_RATE: Final = 16_000


@dataclass(frozen=True)
class SoundQuestion:
    """A drive, and what makes its noise.

    :param answers: what it may be, by name, in words.
    :param answer: what it is.
    :param taken: the drive.
    :param result: what an analysis shows of it: its spectrum is drawn.
    :param given: what is told beside it.
    """

    answers: Mapping[str, str]
    answer: str
    taken: Recording
    result: Result
    given: Given


@lru_cache(maxsize=24)
def sound_question(exercise: str, seed: int) -> SoundQuestion:
    """Make a question for the ear.

    :param exercise: key of :data:`ASKED`.
    :param seed: any whole number; the same one asks the same.
    :raises AxleError: for an exercise that asks for no sound.
    :source: the simulated recorder; its spectrum by the analysis.
    """
    if exercise not in ASKED:
        raise AxleError("exercise", given=f"“{exercise[:30]}”", wanted=", ".join(ASKED))
    truth = random.Random(seed).choice(ASKED[exercise])
    world = RecordingWorld(seed, (_RATE,))
    taken = world.recording(truth, seed, level=10.0, seconds=_SECONDS)
    given = Given(
        "phone",
        ToldSpeed("marks", marks=tuple((float(t), float(v)) for t, v in taken.speeds)),
        taken.circumference,
        *taken.teeth,
        spans=tuple(span for span in taken.marks if span[1] - span[0] > 0.2),
    )
    result = analyse(split(iter([taken.sound]), taken.rate), given)
    answers = {name: heard_causes()[name].title for name in ASKED[exercise]}
    return SoundQuestion(answers, truth, taken, result, given)
