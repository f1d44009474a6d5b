"""Rows of a job as the core's dataclasses: readings, prints, runs, marks, signatures, pieces."""

from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping
from decimal import Decimal
from functools import cached_property

from axle.contact.mark import By, Edge, Flanked, FlankMark, Strength
from axle.contact.patch import Patch
from axle.contact.print_conditions import Making, making_of
from axle.layout import Place, Side
from axle.procedure.names import KindName
from axle.shims.pieces import Piece
from axle.spec.reader import AxleSpec
from axle.state.reading import Print, Run, Signature
from axle.state.reading import Reading as CoreReading
from axle.state.settings import Settings
from axle.workflow.progress import Marked
from axle.workflow.progress import StepMarkKind as StepKind
from shop.jobs.models import (
    AppendOnly,
    Assembly,
    Job,
    PackPiece,
    Pattern,
    PrintMade,
    Reading,
    SignOff,
    StepMark,
)
from shop.stock import tray
from shop.stock.models import Family
from shop.stock.queries import loose, piece_of, sound_lots

_BY = {Pattern.Taken.QUICK.value: By.QUICK, Pattern.Taken.PHOTO.value: By.PHOTO}
_FAMILIES = {Place.DEPTH: Family.DEPTH, Place.PRELOAD: Family.PRELOAD}


def unstruck(readings: Iterable[Reading]) -> list[Reading]:
    """Readings with a value that no later row strikes."""
    rows = list(readings)
    struck = {row.strikes_id for row in rows if row.strikes_id}
    return [row for row in rows if row.value is not None and row.pk not in struck]


def standing_patterns(rows: Iterable[Pattern]) -> tuple[Pattern, ...]:
    """Marks of flanks that no later row takes back."""
    known = list(rows)
    withdrawn = {row.withdraws for row in known if row.withdraws}
    return tuple(row for row in known if row.withdraws is None and row.entry not in withdrawn)


def family_of(place: Place, spec: AxleSpec) -> tuple[str, ...]:
    """Families of shims that fit a place of this axle."""
    if place in _FAMILIES:
        return (_FAMILIES[place],)
    side = spec.layout.side_of(place)
    return (Family.SIDE, Family.LEFT if side is Side.LEFT else Family.RIGHT)


def settings_of(assembly: Assembly, pieces: Iterable[PackPiece] | None = None) -> Settings:
    """What is in one assembly: pack thickness by place, or holes."""
    found: dict[Place, Decimal] = {}
    for piece in assembly.pieces.all() if pieces is None else pieces:
        if piece.assembly_id == assembly.pk:
            place = Place(piece.place)
            found[place] = found.get(place, Decimal(0)) + piece.thickness
    for position in assembly.positions.all():
        found[Place(position.place)] = position.value
    return Settings(found)


def settings_from(stored: Mapping[str, str]) -> Settings:
    """Settings as they were kept beside a row."""
    return Settings({Place(place): Decimal(value) for place, value in stored.items()})


def taken_from(reading: Reading, numbers: Mapping[int, int]) -> CoreReading:
    """A reading as the core takes it."""
    return CoreReading(
        reading.kind,
        reading.place,
        value=float(reading.value or 0),
        order=order_of(reading),
        assembly=numbers[reading.assembly_id],
        settings=settings_from(reading.settings),
        conditions=reading.conditions,
        tool=reading.instrument,
        step=float(reading.resolution) if reading.resolution is not None else None,
        overdue=reading.overdue,
    )


def order_of(row: AppendOnly) -> int:
    """Order in time across tables, in microseconds."""
    return int(row.at.timestamp() * 1_000_000)


def prints_from(
    patterns: Iterable[Pattern], made: Iterable[PrintMade], numbers: Mapping[int, int]
) -> tuple[Print, ...]:
    """Prints by assembly and number; what was found on arrival is none of them."""
    marks: dict[tuple[int, int], dict[str, dict[int, Pattern]]] = defaultdict(lambda: defaultdict(dict))
    for row in patterns:
        if row.taken != Pattern.Taken.AS_FOUND:
            marks[row.assembly_id, row.number][row.flank][row.place] = row
    told = list(made)
    prints = []
    for key, flanks in marks.items():
        newest = max((row for places in flanks.values() for row in places.values()), key=order_of)
        prints.append(
            Print(
                numbers[key[0]],
                order_of(newest),
                settings=settings_from(newest.settings),
                flanks={
                    name: Flanked({place: mark_from(row) for place, row in places.items()})
                    for name, places in flanks.items()
                },
                number=key[1],
                making=making_at(told, key),
            )
        )
    return tuple(prints)


def making_at(told: Iterable[PrintMade], upto: tuple[int, int]) -> Making:
    """How a print of an assembly was made: as was told of it, else as of the newest print before it."""
    until = [row for row in told if (row.assembly_id, row.number) <= upto]
    return making_of(until[-1].making) if until else Making()


def mark_from(row: Pattern) -> FlankMark:
    """What is wiped on one flank, as the core takes it."""
    return FlankMark(
        tuple(patch_of(outline) for outline in (row.outline, *row.more)),
        Edge(row.edge),
        strength=Strength(row.strength),
        by=_BY.get(row.taken, By.HAND),
        tooth=row.tooth or 0,
        spread=(float(row.spread[0]), float(row.spread[1])) if row.spread else None,
        beside=tuple((float(each["u"]), float(each["v"])) for each in row.beside),
    )


def patch_of(outline: Iterable[Iterable[float]]) -> Patch:
    """An outline as it is kept, as the core takes it."""
    return Patch(tuple((float(u), float(v)) for u, v in outline))


def marks_from(rows: Iterable[StepMark]) -> dict[str, Marked]:
    """The newest mark on each step."""
    return {
        row.step: Marked(
            StepKind(row.mark),
            order_of(row),
            person=row.signed_by,
            reason=row.reason,
            settings=settings_from(row.settings),
            before=tuple(row.before),
        )
        for row in rows
    }


def runs_from(readings: Iterable[Reading]) -> tuple[Run, ...]:
    """Runs around ring gear and flange, whole turns only."""
    found: dict[tuple[str, int], list[Reading]] = defaultdict(list)
    for row in unstruck(readings):
        if row.kind in (KindName.RING_RUN, KindName.FLANGE_RUN):
            found[row.kind, row.conditions["run"]].append(row)
    runs = []
    for (kind, number), rows in found.items():
        count = rows[0].conditions["places"]
        turns: dict[int, dict[int, float]] = defaultdict(dict)
        for row in rows:
            turns[row.conditions["turn"]][row.place] = float(row.value or 0)
        whole = tuple(
            tuple(turn[place] for place in range(1, count + 1))
            for turn in turns.values()
            if set(range(1, count + 1)) <= set(turn)
        )
        if whole:
            newest = max(rows, key=order_of)
            runs.append(
                Run(
                    number,
                    kind.removesuffix("_run"),
                    turns=whole,
                    order=order_of(newest),
                    settings=settings_from(newest.settings),
                )
            )
    return tuple(sorted(runs, key=lambda run: run.order))


def signatures_from(rows: Iterable[SignOff]) -> dict[str, Signature]:
    """The signature that stands at each station."""
    found: dict[str, Signature] = {}
    for row in rows:
        if row.withdrawn:
            found.pop(row.station, None)
        else:
            found[row.station] = Signature(
                order_of(row),
                row.deviation,
                reason=row.reason,
                person=row.signed_by,
                settings=settings_from(row.settings),
            )
    return found


def pieces_at(assembly: Assembly, pieces: Iterable[PackPiece]) -> dict[Place, tuple[Piece, ...]]:
    """The pieces fitted in one assembly, by place."""
    found: dict[Place, tuple[Piece, ...]] = {}
    for row in pieces:
        if row.assembly_id == assembly.pk:
            place = Place(row.place)
            found[place] = (*found.get(place, ()), piece_of(row.lot, row.thickness, fitted=True))
    return found


class Drawer(Mapping[Place, tuple[Piece, ...]]):
    """The drawer's pieces by place, read when first asked for: most changes never ask."""

    def __init__(self, job: Job, spec: AxleSpec, fitted: Mapping[Place, tuple[Piece, ...]]) -> None:
        self._given = (job, spec, fitted)

    @cached_property
    def _pieces(self) -> dict[Place, tuple[Piece, ...]]:
        return _pieces_for(*self._given)

    def __getitem__(self, place: Place) -> tuple[Piece, ...]:
        return self._pieces[place]

    def __iter__(self) -> Iterator[Place]:
        return iter(self._pieces)

    def __len__(self) -> int:
        return len(self._pieces)


def _pieces_for(
    job: Job, spec: AxleSpec, fitted: Mapping[Place, tuple[Piece, ...]]
) -> dict[Place, tuple[Piece, ...]]:
    lots = sound_lots(job.shop, practice=job.practice)
    own = [] if job.practice else tray.lots(job.shop, job.number)
    found = {}
    for place in spec.layout.shim_places:
        shape, families = job.shapes.get(place.value, ""), family_of(place, spec)
        # The axle's own pieces fit it, whatever shape is asked for, and are offered first.
        found[place] = (*fitted.get(place, ()), *loose(own, families), *loose(lots, families, shape))
    return found
