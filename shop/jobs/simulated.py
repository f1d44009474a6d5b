"""The simulated axle of a practice job, and what its instruments show."""

import random
from collections.abc import Mapping
from dataclasses import dataclass
from decimal import Decimal
from functools import cached_property
from itertools import pairwise

from axle.contact.reading import depth_tolerance
from axle.layout import Place
from axle.measure.parse import parse
from axle.measure.units import FOOT_POUND, INCH_POUND, THOU, Dimension, Quantity
from axle.practice.ladder import subject_of
from axle.procedure.conditions import has_seal
from axle.procedure.stations import ReadingKind
from axle.simulator.axle import AxleAssembly, Limits, SimulatedAxle
from axle.simulator.fault import Fault
from axle.simulator.measure import MeasurementRequest, both_ways, piece_off, read
from axle.simulator.true_axle import TrueAxle, drawn
from axle.spec.reader import AxleSpec
from shop.jobs.loading import spec_of
from shop.jobs.models import Assembly, Job, PackPiece, PracticeRun
from shop.jobs.rows import settings_of

# What a reading taken here is said to be read with.
SET = "practice instruments"


@dataclass(frozen=True)
class Simulated:
    """The simulated axle of a practice job, as the job's rows have built it."""

    job: Job
    run: PracticeRun
    spec: AxleSpec

    @cached_property
    def true_axle(self) -> TrueAxle:
        """Its truth."""
        fault = Fault(self.run.fault) if self.run.fault else None
        return drawn(subject_of(self.spec, used=not self.job.new_bearings), self.run.seed, fault)

    @cached_property
    def axle(self) -> SimulatedAxle:
        """It, in one piece."""
        assemblies = list(self.job.assemblies.order_by("number").prefetch_related("positions"))
        pieces = list(PackPiece.objects.filter(assembly__job=self.job).select_related("lot"))
        now = settings_of(assemblies[-1], pieces)
        return SimulatedAxle(
            self.true_axle,
            AxleAssembly(
                {place: float(value) for place, value in now.items()},
                self._off(assemblies, pieces),
                loaded=self.run.prints > 0,
                turned=self._turned(now),
            ),
        )

    def _turned(self, now: Mapping[Place, Decimal]) -> float:
        """Turn of the nut on the sleeve that is in; a new sleeve has none."""
        return self.run.turned if int(now.get(Place.PRELOAD, 0)) == self.run.sleeve else 0.0

    def _off(self, assemblies: list[Assembly], pieces: list[PackPiece]) -> dict[Place, float]:
        """What each pack truly holds over its label; the first new one may hold a shim that lies."""
        packs: dict[int, dict[Place, tuple[int, ...]]] = {}
        for piece in pieces:
            held = packs.setdefault(piece.assembly_id, {})
            place = Place(piece.place)
            held[place] = (*held.get(place, ()), piece.lot_id or 0)
        rows = [packs.get(assembly.pk, {}) for assembly in assemblies]
        seed = self.run.seed
        off = {
            place: sum(piece_off(seed, key, miced=True) for key in keys) for place, keys in rows[-1].items()
        }
        for before, after in pairwise(rows):
            new = next(
                (p for p, keys in after.items() if before.get(p, keys) != keys and p is not Place.PRELOAD),
                None,
            )
            if new is not None:
                if rows[-1].get(new) == after[new]:
                    off[new] += self.true_axle.shim_off
                break
        return off

    @property
    def limits(self) -> Limits:
        """What the sheet asks of the truth."""
        return limits_of(self.spec, used=not self.job.new_bearings)

    def source(self, salt: int = 0) -> random.Random:
        """Scatter of the next reading: the same until something is stored."""
        return random.Random(f"{self.run.seed}-{self.job.version}-{salt}")  # noqa: S311


def limits_of(spec: AxleSpec, *, used: bool) -> Limits:
    """What a sheet asks of the truth."""
    sheet = spec.sheet
    return Limits(
        sheet.single("depth_tolerance") or depth_tolerance(),
        sheet.backlash_limits(),
        places=4,
        pinion=sheet.range("pinion_preload_used" if used else "pinion_preload_new"),
        carrier=sheet.range("carrier_preload"),
        runout=sheet.single("ring_runout") or 1.0,
    )


def simulated_axle(job: Job) -> Simulated | None:
    """The simulated axle of a practice job; nothing for a real one."""
    if not job.practice:
        return None
    return Simulated(job, job.practice_run, spec_of(job))


def read_instrument(
    job: Job, kind: ReadingKind, place: int, places: int, pushed: str = ""
) -> Quantity | None:
    """Read the simulated axle; nothing for a real job, whose instruments stand on the line."""
    simulated = simulated_axle(job)
    if simulated is None:
        return None
    measurement_request = MeasurementRequest(kind.kind, place, places=places or kind.places, pushed=pushed)
    source = simulated.source(place)
    if has_seal(kind.kind) and not kind.kind.startswith("arrival"):
        one, other = (
            f"{value / float(INCH_POUND.factor):.1f}"
            for value in both_ways(simulated.axle, measurement_request, source)
        )
        mean = (Decimal(one) + Decimal(other)) / 2
        return Quantity(f"{one}/{other} {INCH_POUND.symbol}", mean, INCH_POUND)
    value = read(simulated.axle, measurement_request, source)
    if kind.dimension is Dimension.TORQUE:
        unit = FOOT_POUND if kind.bolt else INCH_POUND
        return parse(f"{value / float(unit.factor):.1f} {unit.symbol}", unit, kind.title)
    if kind.grades:
        return Quantity(kind.grades[int(value) - 1], Decimal(int(value)), THOU)
    return parse(f"{value / float(THOU.factor):.1f} {THOU.symbol}", THOU, kind.title)
