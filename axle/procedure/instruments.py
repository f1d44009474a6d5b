"""Kinds of instruments, and whether the calibration of one still holds."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date
from functools import cache
from typing import Any

from axle.data_file import read_table
from axle.errors import AxleError
from axle.measure.units import Dimension
from axle.procedure.stations import reading_kinds

# So long before it is due an instrument is named, so that it can be sent away in time.
_SOON_DAYS = 30


@dataclass(frozen=True)
class InstrumentKind:
    """One entry of ``instruments.toml``.

    :param kind: its name in records.
    :param title: in the trade's words.
    :param dimension: what it measures.
    :param step: usual resolution [mm or N·m].
    :param months: usual time between calibrations.
    :param dial: whether the figure on its dial may be meant instead of the travel.
    """

    kind: str
    title: str
    dimension: Dimension
    step: float
    months: int
    dial: bool


@dataclass(frozen=True)
class Calibration:
    """How the calibration of an instrument stands.

    :param level: "good", "soon", "overdue" or "unknown".
    :param words: the same for a person.
    """

    level: str
    words: str


@cache
def instrument_kinds() -> Mapping[str, InstrumentKind]:
    """Every kind of instrument by name.

    :raises AxleError: when a reading names a kind that does not exist.
    :source: ``instruments.toml``.
    """
    rows = read_table(__file__, "data/instruments.toml", dict[str, Any])
    named = {name for kind in reading_kinds().values() for name in kind.instruments}
    if named - set(rows):
        raise AxleError(
            "readings.toml", given=", ".join(sorted(named - set(rows))), wanted="known instruments"
        )
    return {
        name: InstrumentKind(
            name,
            row["title"],
            dimension=Dimension(row["dimension"]),
            step=row["step"],
            months=row["months"],
            dial=row.get("dial", False),
        )
        for name, row in rows.items()
    }


def calibration(due: date | None, today: date) -> Calibration:
    """Say whether an instrument's calibration holds on a day.

    :param due: the day it is due, or nothing where nobody wrote it down.
    :param today: the day.
    :source: common practice.

    >>> calibration(date(2026, 3, 1), date(2026, 3, 4)).words
    'overdue since 1 March 2026'
    """
    if due is None:
        return Calibration("unknown", "no calibration on record")
    shown = f"{due.day} {due:%B %Y}"
    if due < today:
        return Calibration("overdue", f"overdue since {shown}")
    if (due - today).days <= _SOON_DAYS:
        return Calibration("soon", f"due on {shown}")
    return Calibration("good", f"good until {shown}")
