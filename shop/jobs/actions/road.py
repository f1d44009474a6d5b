"""What the road showed: sounds, temperatures, oil, break-in, what became of the complaint."""

from __future__ import annotations

import uuid
from collections.abc import Sequence
from typing import Final

import msgspec

from axle.errors import AxleError
from axle.road.lines import RoadNote, Ticked, kind_of, read_road_line
from shop.jobs import noted_lines
from shop.jobs.actions.noting import Note, note
from shop.jobs.models import Job, RoadLine
from shop.people import rules
from shop.people.models import User
from shop.people.rules import Rejected, Right

_SAID: Final = {
    "heard": "listened on the road",
    "temperature": "read temperatures",
    "outcome": "took down what became of the complaint",
    "oil": "took down the oil",
    "break_in": "handed the break-in over",
    "leg": "ticked a leg of the break-in",
}


def note_road(user: User, job: Job, version: int, lines: Sequence[RoadNote], entry: uuid.UUID) -> None:
    """Note what the road showed, also after the build sheet is signed: the car is on the road then."""
    rules.require_right(user, Right.MEASURE)
    if RoadLine.objects.filter(job=job, entry=entry).exists():
        return
    notes = []
    for line in lines:
        kind, values = kind_of(line), msgspec.to_builtins(line)
        read_road_line(kind, values)
        if isinstance(line, Ticked):
            _check_leg(job, line)
        notes.append(Note(kind, values, _SAID[kind]))
    note(RoadLine, user, job, version, notes, entry, signed=True)


def _check_leg(job: Job, line: Ticked) -> None:
    stands = noted_lines.road_of(job).break_in
    if stands is None:
        raise AxleError("break-in", given="a leg ticked", wanted="a break-in that was handed over")
    legs = {leg.number: leg for leg in stands.legs}
    if line.leg not in legs:
        raise AxleError("leg", given=f"{line.leg}", wanted=f"1 to {len(legs)}")
    if legs[line.leg].done:
        raise Rejected(f"Leg {line.leg} is ticked already.")
