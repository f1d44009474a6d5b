"""What came out of an axle against what went into it, piece by piece with the drawer."""

from collections import defaultdict
from dataclasses import dataclass
from decimal import Decimal

from axle.procedure.register import Event
from shop.jobs.job_axle import JobAxle, item_of
from shop.stock.queries import out_for


@dataclass(frozen=True)
class PackLine:
    """One place of a job: what came out of the axle, what is in it, and what the drawer gave for it."""

    place: str
    old: tuple[Decimal, ...]
    fitted: tuple[Decimal, ...]
    drawn: int
    difference: int

    @property
    def agrees(self) -> bool:
        """Whether as many pieces are in the axle as the drawer gave."""
        return self.difference == 0


def reconcile(axle: JobAxle) -> list[PackLine]:
    """Hold what is fitted at each place to what the drawer gave for this job and has not got back."""
    job = axle.job
    drawn: dict[str, int] = defaultdict(int)
    for (_, name), count in out_for(job.shop, job.number).items():
        drawn[name] += count
    old = {row.item: row.pieces for row in axle.register if row.event == Event.OFF.value and row.pieces}
    fitted = axle.pieces_of(axle.assembly)
    pack_lines = []
    for place in axle.spec.layout.shim_places:
        pieces = fitted.get(place.value, [])
        given = [piece for piece in pieces if piece.lot_id]
        pack_lines.append(
            PackLine(
                place.value,
                tuple(Decimal(piece) for piece in old.get(item_of(place, axle.spec), [])),
                fitted=tuple(piece.thickness for piece in pieces),
                drawn=drawn[place.value],
                difference=drawn[place.value] - len(given),
            )
        )
    return pack_lines
