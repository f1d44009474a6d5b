"""What the register of instruments says."""

from dataclasses import dataclass
from datetime import date

from axle.measure.units import MM, NEWTON_METRE, Dimension, Display, Quantity, Unit, show
from axle.procedure.instruments import Calibration, calibration, instrument_kinds
from axle.procedure.stations import ReadingKind
from shop.instruments.models import Instrument
from shop.people.models import Shop


@dataclass(frozen=True)
class Line:
    """One instrument as its page shows it."""

    row: Instrument
    title: str
    resolution: str
    standing: Calibration
    is_length: bool


def register_of(shop: Shop | None, today: date, display: Display) -> list[Line]:
    """Every instrument with its kind's title, its resolution and how its calibration stands."""
    lines = []
    for row in Instrument.objects.of(shop).order_by("retired", "kind", "name"):
        kind = instrument_kinds()[row.kind]
        unit = display.unit_for(kind.dimension, bolt=kind.kind == "torque_wrench")
        resolution = f"{show(row.resolution, unit)} {unit.symbol}"
        lines.append(
            Line(
                row,
                kind.title,
                resolution=resolution,
                standing=calibration(row.due_on, today),
                is_length=kind.dimension is Dimension.LENGTH,
            )
        )
    return lines


def fitting(shop: Shop | None, kind: ReadingKind, today: date) -> list[tuple[Instrument, Calibration]]:
    """Instruments in use that a kind can be read with, the usual sort first."""
    rows = Instrument.objects.of(shop).filter(kind__in=kind.instruments, retired=False)
    ordered = sorted(rows, key=lambda row: (kind.instruments.index(row.kind), row.name))
    return [(row, calibration(row.due_on, today)) for row in ordered]


def past_full_scale(shop: Shop | None, tool: int, quantity: Quantity) -> tuple[str, Unit | None] | None:
    """Ask about a figure that is beyond the full scale of the instrument it is said to be read with."""
    instrument: Instrument | None = Instrument.objects.of(shop).filter(pk=tool).first()
    if instrument is None or instrument.full_scale is None or quantity.core <= instrument.full_scale:
        return None
    most = f"{show(instrument.full_scale, quantity.unit)} {quantity.unit.symbol}"
    return (
        f"{quantity.text} on {instrument.name}? It reads to {most}. Another instrument, or another unit?",
        None,
    )


def full_scale_words(row: Instrument) -> str:
    """An instrument's full scale as it would be typed, in the core's unit; "" where it has none."""
    if row.full_scale is None:
        return ""
    unit = MM if instrument_kinds()[row.kind].dimension is Dimension.LENGTH else NEWTON_METRE
    return f"{row.full_scale.normalize():f} {unit.symbol}"
