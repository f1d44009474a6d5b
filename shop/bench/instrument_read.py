"""Taking a reading from an instrument: which one, and whether it has held still."""

from __future__ import annotations

import time
from typing import Any

from axle.errors import AxleError
from axle.measure.units import Quantity
from axle.procedure.stations import ReadingKind
from axle.procedure.steady import Sample, give_up, held_steady, read_back, written
from shop.instruments.models import Instrument
from shop.people.models import User
from shop.people.request import whole_number

SET = "simulated bench set"


def chosen(user: User, tool: str) -> tuple[str, str]:
    """The instrument's name in the register and on the line; the set's own where none is chosen.

    :raises AxleError: for one that is not connected.
    """
    if not tool:
        return SET, ""
    row = (
        Instrument.objects.of(user.shop).filter(pk=whole_number(tool, "instrument"), retired=False).first()
    )
    if row is None:
        raise AxleError("instrument", given="one that is not in use", wanted="one of this shop's register")
    if not row.line:
        raise AxleError(
            "instrument",
            given=f"“{row.name}”, which is not connected",
            wanted="one with a name on the line",
            do="Type what you read, or write its name on the line into the register.",
        )
    return row.name, row.line


def watch(kind: ReadingKind, taken: Quantity, seen: str, typed: str) -> dict[str, Any]:
    """Add a sample to those of this watch, and say whether it is to be asked again."""
    before = read_back(seen)
    now = Sample(time.time(), float(taken.core))
    samples = (*before, now)
    if before and typed.strip():
        # The field is empty while a reading is watched: what stands there now somebody typed.
        return {"value": typed, "taken": False}
    if held_steady(samples, kind.step):
        return {"steady": "held"}
    if give_up(samples):
        return {"steady": "never"}
    return {"steady": "wait", "seen": written(samples), "shows": taken.text}
