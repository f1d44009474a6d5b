"""The whole state of one axle, as plain values: what the advice looks at."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace
from decimal import Decimal
from functools import cached_property
from typing import Any, Final

from axle.advice.runs import Run
from axle.contact.making import Making
from axle.contact.mark import Flanked
from axle.contact.patch import Patch
from axle.contact.reading import depth_tolerance
from axle.depth.marks import Mark
from axle.errors import AxleError
from axle.gearset import GearSet
from axle.layout import Layout, Place
from axle.limits import Range
from axle.procedure.conditions import BacklashConditions, TorqueConditions, conditions_of
from axle.procedure.stations import kind_named
from axle.shims import Piece
from axle.spec import Sheet

Settings = Mapping[Place, Decimal]
_UNMARKED: Final = Mark()
_USUAL: Final = Making()


@dataclass(frozen=True)
class Taken:
    """One valid reading: not struck by a later row.

    :param kind: as in ``readings.toml``.
    :param place: place around the ring, from 1.
    :param value: in the core's unit [mm or N·m].
    :param order: rises with time; the later of two readings has the larger.
    :param assembly: number of the assembly it was taken on.
    :param settings: what was in the axle when it was read, by place [mm or holes].
    :param conditions: as they are kept beside it; what is not said is as usual.
    :param tool: name of the instrument, or "".
    :param step: the instrument's resolution [mm or N·m], or nothing where it is not known.
    :param overdue: since when its calibration was overdue, in words, or "".
    :param count: readings it is the mean of.
    :param offs: half of what each of them, read both ways, showed one way more than the other [N·m].
    :param apart: largest difference between one of them and the mean of those before it, with its sign.
    """

    kind: str
    place: int
    value: float
    order: int
    assembly: int
    settings: Settings
    conditions: Mapping[str, Any] = field(default_factory=dict)
    tool: str = ""
    step: float | None = None
    overdue: str = ""
    count: int = 1
    apart: float = 0.0
    offs: tuple[float, ...] = ()

    @cached_property
    def backlash_conditions(self) -> BacklashConditions:
        """How backlash was read."""
        found = conditions_of(self.kind, self.conditions)
        return found if isinstance(found, BacklashConditions) else BacklashConditions()

    @cached_property
    def torque_conditions(self) -> TorqueConditions:
        """How a rotating torque was read; end play is read under the usual ones."""
        found = conditions_of(self.kind, self.conditions)
        return found if isinstance(found, TorqueConditions) else TorqueConditions()


@dataclass(frozen=True)
class Print:
    """One print of an assembly, by flank word ("drive", "coast").

    :param assembly: number of the assembly.
    :param order: rises with time, as a reading's.
    :param settings: what was in the axle when it was printed.
    :param flanks: what is wiped, by flank word.
    :param number: of the print within its assembly, from 1.
    :param making: how it was made.
    """

    assembly: int
    order: int
    settings: Settings
    flanks: Mapping[str, Flanked]
    number: int = 1
    making: Making = _USUAL


@dataclass(frozen=True)
class Signature:
    """A person's word for a station: that it is done, or that a deviation is accepted.

    :param order: rises with time; a reading taken later voids it.
    :param deviation: whether it accepts what is out of range.
    :param reason: why, for a deviation.
    :param person: who signed.
    :param settings: what was in the axle when it was signed.
    """

    order: int
    deviation: bool
    reason: str
    person: str
    settings: Settings


@dataclass(frozen=True)
class AxleState:
    """One axle as its records tell it.

    :param layout: where it keeps its shims.
    :param gears: the gear set.
    :param sheet: the limits it is built to.
    :param new_bearings: whether the pinion bearings are new.
    :param mark: mark on the pinion.
    :param settings: what is in the axle now, by place: pack thickness [mm] or holes turned in.
    :param taken: valid readings.
    :param prints: marked patterns.
    :param signatures: latest signature by station.
    :param ways: chosen way by station, where not the usual one.
    :param drawer: pieces at hand by place, those fitted at that place included.
    :param fitted: pieces fitted at a place.
    :param assembly: number of the assembly in hand.
    :param stations: stations in the order of this job's work; the usual order when empty.
    :param found: patches as found on arrival, by flank word: the target of a used set.
    :param used_gears: whether the set was run before, so that its old pattern is its target.
    :param runs: runs of runout readings, oldest first.
    :param ring_bolts: number of ring gear bolts, 2 or more.
    :param play_accepted: whether runout is read in spite of side play, on somebody's signature.
    :param old_packs: packs that came out on teardown, by place [mm].
    :param use: what the axle is for, as in ``choices.toml``.
    :param trial: which bearings it is tried with, as in ``choices.toml``.
    :param school: by which school the carrier's preload is found, as in ``choices.toml``.
    :param lash_places: number of places around the ring at which backlash is read.
    :param hole_step: holes between two positions at which an adjuster locks.
    :param usual_packs: whether the packs that came out are a start: not of another carrier or housing.
    :param overshoot: chance of overshooting a sleeve that is accepted at each bite.
    :param chart: the gear maker's chart as the shop drew it, by flank word, or empty.
    :param aim: what a print is held to, as in ``choices.toml``.
    :param policy: what a move aims at beside the chance, as in ``choices.toml``.
    :param spacer_kit: whether the preload pack is a spacer and shims in place of a sleeve.
    :param not_part: stations that are not part of the job: nothing is asked or judged there.
    :param fixed: places that the job does not change.
    :param finished_ratios: backlash per ring gear movement of the shop's finished jobs on this layout, each
        with its standard uncertainty [1].
    """

    layout: Layout
    gears: GearSet
    sheet: Sheet
    new_bearings: bool = True
    mark: Mark = _UNMARKED
    settings: Settings = field(default_factory=dict)
    taken: tuple[Taken, ...] = ()
    prints: tuple[Print, ...] = ()
    signatures: Mapping[str, Signature] = field(default_factory=dict)
    ways: Mapping[str, str] = field(default_factory=dict)
    drawer: Mapping[Place, tuple[Piece, ...]] = field(default_factory=dict)
    fitted: Mapping[Place, tuple[Piece, ...]] = field(default_factory=dict)
    assembly: int = 1
    stations: tuple[str, ...] = ()
    found: Mapping[str, Patch] = field(default_factory=dict)
    used_gears: bool = False
    runs: tuple[Run, ...] = ()
    ring_bolts: int = 10
    play_accepted: bool = False
    old_packs: Mapping[Place, Decimal] = field(default_factory=dict)
    use: str = "road"
    trial: str = "final"
    overshoot: float = 0.05
    school: str = "subtraction"
    lash_places: int = 4
    hole_step: float = 0.5
    usual_packs: bool = True
    chart: Mapping[str, Patch] = field(default_factory=dict)
    aim: str = "usual"
    policy: str = "limits"
    finished_ratios: tuple[tuple[float, float], ...] = ()
    spacer_kit: bool = False
    not_part: frozenset[str] = frozenset()
    fixed: frozenset[Place] = frozenset()

    def __post_init__(self) -> None:
        if self.assembly < 1:
            raise AxleError("assembly", given=f"{self.assembly}", wanted="1 or more")

    @property
    def half_turn(self) -> int:
        """Bolt holes nearest to half a turn of the ring gear: where two clockings tell the most."""
        return self.ring_bolts // 2

    def setting(self, place: Place) -> Decimal:
        """Pack thickness [mm] or holes at a place; 0 where nothing is fitted."""
        return self.settings.get(place, Decimal(0))

    def latest(self, kind: str, place: int = 1) -> Taken | None:
        """The newest valid reading of a kind at a place, or nothing."""
        found = [t for t in self.taken if t.kind == kind and t.place == place]
        return max(found, key=lambda t: t.order) if found else None

    def around(self, kind: str) -> dict[int, Taken]:
        """The newest valid reading of a kind at each place."""
        found: dict[int, Taken] = {}
        for reading in sorted(self.taken, key=lambda t: t.order):
            if reading.kind == kind:
                found[reading.place] = reading
        return dict(sorted(found.items()))

    def places_of(self, kind: str) -> int:
        """Number of places around the ring at which a kind is read on this job."""
        what = kind_named(kind)
        return self.lash_places if what.most else what.places

    def repeats(self, kind: str) -> tuple[Taken, ...]:
        """Readings of a kind that repeat the newest one: same shim, bearings and slinger."""
        found = list(self.around(kind).values())
        if not found:
            return ()
        newest = max(found, key=lambda t: t.order)
        return tuple(t for t in found if all(_same(t, newest, place) for place in _STANDS))

    @property
    def depth_tolerance(self) -> float:
        """How far off the pinion may stand either way [mm]: the sheet's, else what a pattern shows."""
        return self.sheet.single("depth_tolerance") or depth_tolerance()

    @property
    def depth_tolerance_source(self) -> str:
        """Where :attr:`depth_tolerance` comes from, in words."""
        if self.sheet.single("depth_tolerance"):
            return self.sheet.source("depth_tolerance")
        return "common practice: what a pattern shows"

    def preload_range(self) -> Range | None:
        """The sheet's pinion preload for these bearings and this use, or nothing."""
        return self.sheet.range(self.preload_key)

    @property
    def preload_key(self) -> str:
        """The sheet's key for the pinion preload of these bearings and this use."""
        if self.use == "track" and self.sheet.range("pinion_preload_racing") is not None:
            return "pinion_preload_racing"
        return "pinion_preload_new" if self.new_bearings else "pinion_preload_used"


def averaged(taken: Iterable[Taken]) -> tuple[Taken, ...]:
    """Bring readings that were read again on purpose together with those they repeat.

    A reading marked "again" counts with the one before it of its kind and place, on the same settings:
    their mean stands for both, in the place in time of the newer.

    :param taken: valid readings [mm or N·m].
    :returns: as many or fewer, by time.
    :source: mean of repeated readings; its spread falls with the root of their number.
    """
    found: dict[tuple[str, int], list[Taken]] = {}
    for reading in sorted(taken, key=lambda t: t.order):
        chain = found.setdefault((reading.kind, reading.place), [])
        last = chain[-1] if chain else None
        if last is not None and reading.conditions.get("again") and last.settings == reading.settings:
            count, off = last.count + 1, reading.value - last.value
            mean = last.value + off / count
            if reading.kind == "backlash" and abs(off) > _NO_SCATTER:
                mean = reading.value
            apart = max(last.apart, off, key=abs)
            how = {name: value for name, value in reading.conditions.items() if name != "again"}
            offs = (*last.offs, *_off(reading))
            chain[-1] = replace(reading, value=mean, count=count, apart=apart, conditions=how, offs=offs)
        else:
            chain.append(replace(reading, offs=reading.offs or _off(reading)))
    return tuple(sorted((t for chain in found.values() for t in chain), key=lambda t: t.order))


def _off(reading: Taken) -> tuple[float, ...]:
    both = reading.conditions.get("both")
    return ((both[0] - both[1]) / 2,) if both else ()


# Two readings of backlash on one setting further apart than this [mm] are no scatter: a cup came home, or
# one was misread. The newer one counts then. 1 thou, common practice.
_NO_SCATTER: Final = 0.0254
# What the pinion stands on: a reading of depth is repeated only while all of it stays.
_STANDS = (Place.DEPTH, Place.BEARINGS, Place.SLINGER)


def _same(one: Taken, other: Taken, place: Place) -> bool:
    return one.settings.get(place, Decimal(0)) == other.settings.get(place, Decimal(0))
