"""What the register of instruments says."""

from datetime import date

from axle.procedure.instruments import Calibration, calibration, instrument_kinds
from axle.procedure.stations import ReadingKind
from shop.instruments.models import Instrument
from shop.people.models import Shop


def register_of(shop: Shop | None, today: date) -> list[tuple[Instrument, str, Calibration]]:
    """Every instrument with its kind's title and how its calibration stands."""
    return [
        (row, instrument_kinds()[row.kind].title, calibration(row.due_on, today))
        for row in Instrument.objects.of(shop).order_by("retired", "kind", "name")
    ]


def fitting(shop: Shop | None, kind: ReadingKind, today: date) -> list[tuple[Instrument, Calibration]]:
    """Instruments in use that a kind can be read with, the usual sort first."""
    rows = Instrument.objects.of(shop).filter(kind__in=kind.instruments, retired=False)
    ordered = sorted(rows, key=lambda row: (kind.instruments.index(row.kind), row.name))
    return [(row, calibration(row.due_on, today)) for row in ordered]
