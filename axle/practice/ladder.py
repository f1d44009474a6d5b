"""The ladder of exercises."""

from __future__ import annotations

import random
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from typing import Any

from axle.data_file import read_table
from axle.errors import AxleError
from axle.simulator.fault import Fault
from axle.simulator.true_axle import Subject
from axle.spec.reader import AxleSpec, read_spec, starter_specs


@dataclass(frozen=True)
class Exercise:
    """One rung of the ladder.

    :param key: its name in files.
    :param title: on a page.
    :param words: what it is about.
    :param kind: "pattern", "shim", "sound" or "axle".
    :param questions: how many are asked, for all but the last.
    :param sheet: key of a starter sheet, for an axle.
    :param goal: stations that are judged.
    :param given: stations that are right already when it begins.
    :param par: assemblies and readings of a good hand.
    :param faults: one of these is planted, unseen.
    """

    key: str
    title: str
    words: str
    kind: str
    questions: int = 0
    sheet: str = ""
    goal: tuple[str, ...] = ()
    given: tuple[str, ...] = ()
    par: tuple[int, int] = (1, 1)
    faults: tuple[str, ...] = ()

    @property
    def is_whole(self) -> bool:
        """Whether a whole axle is built: nothing is given."""
        return self.kind == "axle" and not self.given


@cache
def ladder() -> Mapping[str, Exercise]:
    """Every exercise by key, the easiest first.

    :source: ``ladder.toml``, made up.

    >>> next(iter(ladder()))
    'read-pattern'
    """
    rows = read_table(__file__, "ladder.toml", dict[str, Any])
    lists = ("goal", "given", "par", "faults")
    return {
        key: Exercise(key=key, **(row | {n: tuple(row[n]) for n in lists if n in row}))
        for key, row in rows.items()
    }


def exercise_named(key: str) -> Exercise:
    """An exercise by its key.

    :param key: key of :func:`ladder`.
    :raises AxleError: for one that is not there.
    :source: ``ladder.toml``.

    >>> exercise_named("which-way").questions
    8
    """
    try:
        return ladder()[key]
    except KeyError:
        raise AxleError("exercise", given=f"“{key[:30]}”", wanted="one of the ladder") from None


def spec_for(exercise: Exercise) -> AxleSpec:
    """The sheet that an exercise is built to.

    :param exercise: of the kind "axle".
    :source: ``starter_specs.toml``: made up.

    >>> spec_for(exercise_named("whole-axle")).gears.ring_teeth
    38
    """
    return read_spec(starter_specs()[exercise.sheet])


def subject_of(spec: AxleSpec, *, used: bool = False) -> Subject:
    """What anybody may know of an axle by its sheet.

    :param spec: the sheet.
    :param used: the bearings are used ones.
    :source: the sheet; usual figures for what it leaves open.
    """
    sheet = spec.sheet
    backlash = sheet.backlash_limits()
    pinion = sheet.range("pinion_preload_used" if used else "pinion_preload_new")
    holes = sheet.single("adjuster_holes")
    nominal, seat, head = sheet.single("nominal_distance"), sheet.single("seat_distance"), 40.0
    if nominal and seat:
        head = seat - nominal
    elif seat:
        nominal = seat - head
    return Subject(
        spec.layout,
        spec.gears,
        backlash=backlash.middle if backlash else 0.2,
        pinion_torque=pinion.middle if pinion else 2.26,
        pitch=sheet.single("adjuster_pitch") or 1.5,
        holes=int(holes) if holes else 24,
        nut_pitch=sheet.single("pinion_nut_pitch") or 1.5,
        used=used,
        nominal=nominal or 90.0,
        head=head,
    )


def fault_of(exercise: Exercise, seed: int) -> Fault | None:
    """The fault that is planted in an exercise, by its seed; nothing where none is.

    :param exercise: the exercise.
    :param seed: any whole number.
    :source: one of the exercise's own, alike likely.
    """
    if not exercise.faults:
        return None
    return Fault(random.Random(seed).choice(exercise.faults))
