"""One simulated axle on the bench: what is fitted, what the instruments show, what comes apart."""

from __future__ import annotations

import random
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from decimal import Decimal

from axle.contact.patch import Patch
from axle.layout import Place
from axle.procedure.stations import kind_named
from axle.shims.pieces import Pack
from axle.simulator.axle import AxleAssembly, SimulatedAxle, out_of_range
from axle.simulator.fault import Fault
from axle.simulator.measure import MeasurementRequest, both_ways, first_settings, patches, piece_off, read
from axle.simulator.seats import Seats
from benchmarks.closed_loop.shop import Case

_PINION = frozenset({Place.DEPTH, Place.PRELOAD})
_SIDES = frozenset({Place.RING, Place.FAR})


class ImpossibleReading(Exception):
    """A reading was asked for that nobody can take as the axle stands."""


@dataclass
class Bench:
    """An axle being built.

    :param case: which one.
    :param settings: what is recorded as fitted.
    :param off: what the packs truly hold over that.
    :param builds: carrier and pinion both in, so often; a strip-down makes the next one.
    :param pinions: times the pinion was assembled.
    :param carriers: times the carrier was.
    :param readings: readings taken.
    :param in_mesh: the carrier is in and in mesh with the pinion.
    :param pinion_in: the pinion is in the case, in mesh: it was put together and has not come out since.
    """

    case: Case
    settings: dict[Place, Decimal] = field(default_factory=dict)
    off: dict[Place, float] = field(default_factory=dict)
    builds: int = 1
    pinions: int = 0
    carriers: int = 0
    readings: int = 0
    pinion_in: bool = False
    loaded: bool = False
    together: bool = False
    turned: float = 0.0
    mislabelled: bool = False
    source: random.Random = field(init=False)
    seats: Seats = field(init=False)
    in_mesh: bool = False

    def __post_init__(self) -> None:
        self.source = random.Random(self.case.number * 7 + 3)
        self.seats = Seats(self.case.true_axle, random.Random(f"seats {self.case.number}"))

    @property
    def axle(self) -> SimulatedAxle:
        """The axle as it stands."""
        return SimulatedAxle(
            self.case.true_axle,
            AxleAssembly(
                {place: float(value) for place, value in self.settings.items()},
                {
                    place: self.off.get(place, 0.0) + self.seats.off.get(place, 0.0)
                    for place in set(self.off) | set(self.seats.off)
                },
                self.loaded,
                turned=self.turned,
            ),
        )

    @property
    def first(self) -> Mapping[Place, Decimal]:
        """What came out of it, or is first tried."""
        bare = SimulatedAxle(self.case.true_axle, AxleAssembly())
        found = dict(first_settings(self.case.number, bare, preloaded=not self.case.preloads))
        return {place: Decimal(str(round(value, 5))) for place, value in found.items()}

    @property
    def preloaded(self) -> Decimal:
        """The preload pack that is right on the depth shim that is in."""
        true_axle, trial = self.case.true_axle, self.axle
        wanted = true_axle.pinion.interference(true_axle.subject.pinion_torque)
        loose = replace(
            trial, built=replace(trial.built, settings={**trial.built.settings, Place.PRELOAD: 0.0})
        )
        return Decimal(str(round((loose.pinion_interference - wanted) / 0.0254))) * Decimal("0.0254")

    @property
    def wrong(self) -> tuple[str, ...]:
        """What is truly out of range once it has run under load, as every axle does that leaves."""
        axle = self.axle
        return out_of_range(replace(axle, built=replace(axle.built, loaded=True)), self.case.limits)

    def fit(self, packs: Mapping[Place, tuple[Decimal, Pack | None]]) -> None:
        """Fit packs in one strip-down; the first ones make the first build."""
        places = {place for place, (value, _) in packs.items() if value != self.settings.get(place)}
        if self.together and places & (_PINION | _SIDES):
            self.builds += 1
            self.together = False
        if places & _PINION:
            self.pinions += 1
            self.pinion_in = False
        if places & _SIDES or (places & _PINION and self.carriers):
            self.carriers += 1
        wound = self.case.layout.has_adjusters and not places & _PINION
        if places and not wound:
            self.in_mesh = False
        self.seats.come_apart(places, {place: float(value) for place, (value, _) in packs.items()})
        for place, (value, pack) in packs.items():
            before = self.settings.get(place)
            self.settings[place] = value
            if pack is not None:
                self.off[place] = self.seats.pack_off(
                    [
                        piece_off(self.case.number, p.key, miced=p.miced, wear=self.case.true_axle.wear)
                        for p in pack.pieces
                    ]
                )
                # The first pack that replaces another holds the shim that is not what it says.
                new = before is not None and self.builds > 1 and place is not Place.PRELOAD
                new = new and not self.mislabelled
                if self.case.true_axle.fault is Fault.MISLABELLED_SHIM and new:
                    self.mislabelled = True
                    self.off[place] += self.case.true_axle.shim_off
            if place is Place.PRELOAD and pack is None:
                self.turned = 0.0  # a new sleeve

    def _reach(self, kind: str, *, parted: bool) -> None:
        """Put the axle as a reading needs it, where that is part of the work; else refuse."""
        needs = kind_named(kind).mesh
        held_by_hand = not all(place in self.settings for place in _SIDES)
        if held_by_hand:
            self.in_mesh = False  # nothing holds the carrier in yet: it is lifted out again
        if needs == "parted" and self.in_mesh and not parted:
            raise ImpossibleReading(f"{kind}: the carrier is in mesh")
        if needs == "closed":
            self.in_mesh = True

    def read(self, kind: str, place: int, places: int, pushed: str = "", *, parted: bool = False) -> float:
        """Take one reading, if it can be taken as the axle stands."""
        self._reach(kind, parted=parted)
        self.readings += 1
        return read(self.axle, MeasurementRequest(kind, place, places=places, pushed=pushed), self.source)

    def both(self, kind: str, *, parted: bool = False) -> tuple[float, float]:
        """Take a rotating torque both ways, if it can be taken as the axle stands."""
        self._reach(kind, parted=parted)
        self.readings += 2
        return both_ways(self.axle, MeasurementRequest(kind), self.source)

    def mark(self) -> Mapping[str, Patch]:
        """Print both flanks at a random place."""
        self.readings += 1
        place = self.source.randint(1, 8)
        self.in_mesh = True
        found = patches(self.axle, self.source, place, 8)
        self.loaded = True
        self.seats.come_home()
        return found

    def part_mesh(self) -> None:
        """Take the carrier out for a reading: what goes in again is another assembly."""
        if self.together:
            self.builds += 1
            self.together = False
        self.carriers += 1
        self.in_mesh = False
        self.seats.come_apart({Place.RING, Place.FAR}, self.axle.built.settings)

    def read_all(self) -> None:
        """Both are in and the backlash is read: the axle counts as built."""
        self.together = self.pinion_in = True

    def tighten(self, degrees: float) -> None:
        """Turn the nut of a sleeve on, as near as a hand can."""
        self.turned += max(degrees + self.source.gauss(0, 2.0), 1.0)
