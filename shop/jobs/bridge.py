"""The one bridge from a job's rows to the whole state of its axle, as the core wants it."""

from collections import defaultdict
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from decimal import Decimal
from functools import cached_property
from typing import Any

from axle.advice.moves import Move as Advice
from axle.advice.next_move import next_move
from axle.advice.standing import Standing, in_hand, stand
from axle.advice.state import AxleState, Mark, Print, Settings, Signature, Taken
from axle.contact.reading import Patch
from axle.depth import MarkConvention
from axle.layout import Place, Side
from axle.shims import Piece
from axle.specfile import AxleSpec, read_spec
from axle.units import IMPERIAL, Display
from shop.jobs.models import Assembly, Job, PackPiece, Pattern, Reading, SignOff
from shop.stock.models import Condition, Family, ShimLot

_FAMILIES = {Place.DEPTH: Family.DEPTH, Place.PRELOAD: Family.PRELOAD}


@dataclass(frozen=True)
class Axle:
    """A job's rows, read once, and what the core makes of them."""

    job: Job
    spec: AxleSpec
    state: AxleState
    display: Display
    assemblies: tuple[Assembly, ...]
    readings: tuple[Reading, ...]
    pieces: tuple[PackPiece, ...]
    patterns: tuple[Pattern, ...]

    @property
    def assembly(self) -> Assembly:
        """The assembly in hand."""
        return self.assemblies[-1]

    @cached_property
    def standings(self) -> Mapping[str, Standing]:
        """Where every station stands."""
        return stand(self.state, self.display)

    @property
    def station(self) -> str:
        """The station in hand by the order of the work."""
        return in_hand(self.standings)

    @cached_property
    def move(self) -> Advice:
        """The next move."""
        return next_move(self.state, self.display, self.standings)

    def valid_readings(self) -> list[Reading]:
        """Readings that no later row has struck."""
        return unstruck(self.readings)

    def pieces_of(self, assembly: Assembly) -> dict[str, list[PackPiece]]:
        """Pieces by place in one assembly."""
        found: dict[str, list[PackPiece]] = defaultdict(list)
        for piece in self.pieces:
            if piece.assembly_id == assembly.pk:
                found[piece.place].append(piece)
        return found


def load(job: Job, display: Display = IMPERIAL) -> Axle:
    """Read all rows of a job that bear on its state; the same few queries whatever the job."""
    spec = read_spec(job.sheet)
    assemblies = tuple(job.assemblies.prefetch_related("adjusters").order_by("number"))
    readings = tuple(Reading.objects.filter(assembly__job=job).order_by("id"))
    pieces = tuple(PackPiece.objects.filter(assembly__job=job))
    patterns = tuple(Pattern.objects.filter(assembly__job=job).order_by("id"))
    numbers = {assembly.pk: assembly.number for assembly in assemblies}
    current = assemblies[-1]
    settings = settings_of(current, pieces)
    fitted = _fitted(current, pieces)
    state = AxleState(
        layout=spec.layout,
        gears=spec.gears,
        sheet=spec.sheet,
        new_bearings=job.new_bearings,
        mark=Mark(float(job.mark_value), MarkConvention(job.mark_convention)),
        settings=settings,
        taken=tuple(_taken(reading, numbers) for reading in unstruck(readings)),
        prints=_prints(patterns, numbers),
        signatures=_signatures(job.sign_offs.order_by("id")),
        ways=job.ways,
        drawer=_drawer(job, spec, fitted),
        fitted=fitted,
        assembly=current.number,
    )
    return Axle(job, spec, state, display, assemblies, readings, pieces, patterns)


def now_in(job: Job) -> tuple[AxleSpec, Assembly, dict[str, str]]:
    """The spec, the assembly in hand and what is in it, without the rest of the job."""
    assembly = job.assemblies.order_by("-number")[0]
    return read_spec(job.sheet), assembly, as_json(settings_of(assembly))


def settings_of(assembly: Assembly, pieces: Iterable[PackPiece] | None = None) -> Settings:
    """What is in one assembly: pack thickness by place, or holes."""
    found: dict[Place, Decimal] = {}
    for piece in assembly.pieces.all() if pieces is None else pieces:
        if piece.assembly_id == assembly.pk:
            place = Place(piece.place)
            found[place] = found.get(place, Decimal(0)) + piece.thickness
    for adjuster in assembly.adjusters.all():
        found[Place(adjuster.place)] = adjuster.holes
    return found


def as_json(settings: Settings) -> dict[str, str]:
    """Settings as they are kept beside a reading."""
    return {place.value: f"{value:.5f}" for place, value in settings.items()}


def unstruck(readings: Iterable[Reading]) -> list[Reading]:
    """Readings with a value that no later row strikes."""
    rows = list(readings)
    struck = {row.strikes_id for row in rows if row.strikes_id}
    return [row for row in rows if row.value is not None and row.pk not in struck]


def family_of(place: Place, spec: AxleSpec) -> tuple[str, ...]:
    """Families of shims that fit a place of this axle."""
    if place in _FAMILIES:
        return (_FAMILIES[place],)
    side = spec.layout.side_of(place)
    return (Family.SIDE, Family.LEFT if side is Side.LEFT else Family.RIGHT)


def summary(axle: Axle) -> dict[str, Any]:
    """What the jobs page shows of a job, in words."""
    out = [
        {"station": name, "words": standing.result.words if standing.result else ""}
        for name, standing in axle.standings.items()
        if standing.status.value == "out"
    ]
    return {
        "station": axle.station,
        "status": axle.standings[axle.station].status.value,
        "out": out,
        "stale": [n for n, s in axle.standings.items() if s.status.value == "stale"],
        "next": axle.move.title,
        "assembly": axle.assembly.number,
    }


def _settings(stored: Mapping[str, str]) -> Settings:
    return {Place(place): Decimal(value) for place, value in stored.items()}


def _taken(reading: Reading, numbers: Mapping[int, int]) -> Taken:
    return Taken(
        reading.kind, reading.place, float(reading.value or 0), _order(reading),
        numbers[reading.assembly_id], _settings(reading.settings),
        seal=bool(reading.conditions.get("seal")),
    )  # fmt: skip


def _order(row: Reading | Pattern | SignOff) -> int:
    """Order in time across tables, in microseconds."""
    return int(row.at.timestamp() * 1_000_000)


def _prints(patterns: Iterable[Pattern], numbers: Mapping[int, int]) -> tuple[Print, ...]:
    found: dict[int, dict[str, Pattern]] = defaultdict(dict)
    for pattern in patterns:
        found[pattern.assembly_id][pattern.flank] = pattern
    prints = []
    for assembly, flanks in found.items():
        newest = max(flanks.values(), key=_order)
        patches = {
            name: Patch(tuple((float(u), float(v)) for u, v in row.outline)) for name, row in flanks.items()
        }
        prints.append(Print(numbers[assembly], _order(newest), _settings(newest.settings), patches))
    return tuple(prints)


def _signatures(rows: Iterable[SignOff]) -> dict[str, Signature]:
    found: dict[str, Signature] = {}
    for row in rows:
        if row.withdrawn:
            found.pop(row.station, None)
        else:
            found[row.station] = Signature(
                _order(row), row.deviation, row.reason, row.by, _settings(row.settings)
            )
    return found


def _fitted(assembly: Assembly, pieces: Iterable[PackPiece]) -> dict[Place, tuple[Piece, ...]]:
    found: dict[Place, tuple[Piece, ...]] = {}
    for row in pieces:
        if row.assembly_id == assembly.pk:
            place = Place(row.place)
            found[place] = (*found.get(place, ()), Piece(row.lot_id or 0, row.thickness))
    return found


def _drawer(
    job: Job, spec: AxleSpec, fitted: Mapping[Place, tuple[Piece, ...]]
) -> dict[Place, tuple[Piece, ...]]:
    lots = list(ShimLot.objects.of(job.shop).filter(quantity__gt=0).exclude(condition=Condition.DAMAGED))
    found = {}
    for place in spec.layout.shim_places:
        families = family_of(place, spec)
        loose = tuple(
            Piece(lot.pk, lot.miced)
            for lot in lots
            if lot.family in families
            # No pack takes more than a dozen of one size.
            for _ in range(min(lot.quantity, 12))
        )
        found[place] = fitted.get(place, ()) + loose
    return found
