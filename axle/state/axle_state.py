"""The whole state of one axle, as plain values: what the advice looks at."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from decimal import Decimal
from typing import Final

from axle.contact.patch import Patch
from axle.contact.reading import depth_tolerance
from axle.depth.marks import Mark
from axle.errors import AxleError
from axle.gearset import GearSet
from axle.layout import Layout, Place
from axle.measure.range import Range
from axle.procedure.stations import kind_named
from axle.shims.pieces import Piece
from axle.spec.sheet import Sheet
from axle.state.felt import Felt
from axle.state.priors import Priors
from axle.state.reading import Print, Reading, Run, Signature
from axle.state.settings import Settings

_UNMARKED: Final = Mark()
_STARTING: Final = Priors()
# Under this chance that all is in range a reading comes before the signature; a shop sets its own.
SIGN_AT: Final = 0.95


@dataclass(frozen=True)
class AxleState:
    """One axle as its records tell it.

    :param layout: where it keeps its shims.
    :param gears: the gear set.
    :param sheet: the limits it is built to.
    :param new_bearings: whether the pinion bearings are new.
    :param mark: mark on the pinion.
    :param settings: what is in the axle now, by place: pack thickness [mm] or holes turned in.
    :param readings: valid readings.
    :param prints: marked patterns.
    :param signatures: latest signature by station.
    :param methods: chosen way by station, where not the usual one.
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
    :param felt: what was felt when the gears were turned by hand.
    :param priors: what is held of hands, instruments and parts before the job shows its own.
    :param sign_at: chance that all is in range under which a reading comes before the signature.
    """

    layout: Layout
    gears: GearSet
    sheet: Sheet
    new_bearings: bool = True
    mark: Mark = _UNMARKED
    settings: Settings = field(default_factory=Settings)
    readings: tuple[Reading, ...] = ()
    prints: tuple[Print, ...] = ()
    signatures: Mapping[str, Signature] = field(default_factory=dict)
    methods: Mapping[str, str] = field(default_factory=dict)
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
    felt: tuple[Felt, ...] = ()
    priors: Priors = _STARTING
    sign_at: float = SIGN_AT

    def __post_init__(self) -> None:
        object.__setattr__(self, "settings", Settings.of(self.settings))
        if self.assembly < 1:
            raise AxleError("assembly", given=f"{self.assembly}", wanted="1 or more")

    @property
    def half_turn(self) -> int:
        """Bolt holes nearest to half a turn of the ring gear: where two clockings tell the most."""
        return self.ring_bolts // 2

    def setting(self, place: Place) -> Decimal:
        """Pack thickness [mm] or holes at a place; 0 where nothing is fitted."""
        return self.settings.at(place)

    def latest(self, kind: str, place: int = 1) -> Reading | None:
        """The newest valid reading of a kind at a place, or nothing."""
        found = [t for t in self.readings if t.kind == kind and t.place == place]
        return max(found, key=lambda t: t.order) if found else None

    def around(self, kind: str) -> dict[int, Reading]:
        """The newest valid reading of a kind at each place."""
        found: dict[int, Reading] = {}
        for reading in sorted(self.readings, key=lambda t: t.order):
            if reading.kind == kind:
                found[reading.place] = reading
        return dict(sorted(found.items()))

    def places_of(self, kind: str) -> int:
        """Number of places around the ring at which a kind is read on this job."""
        what = kind_named(kind)
        return self.lash_places if what.most else what.places

    def repeats(self, kind: str) -> tuple[Reading, ...]:
        """Readings of a kind that repeat the newest one: same shim, bearings and slinger."""
        found = list(self.around(kind).values())
        if not found:
            return ()
        newest = max(found, key=lambda t: t.order)
        return tuple(t for t in found if t.settings.same_at(newest.settings, _STANDS))

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


# What the pinion stands on: a reading of depth is repeated only while all of it stays.
_STANDS = (Place.DEPTH, Place.BEARINGS, Place.SLINGER)
