"""Stations and reading kinds, loaded from their data files and checked when loaded."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass, field
from decimal import Decimal
from functools import cache
from typing import Any

from axle.data_file import read_table
from axle.errors import AxleError
from axle.layout import Hand, Housing, Layout
from axle.measure.parse import Plausible
from axle.measure.units import Dimension, Unit, show
from axle.procedure.choices import Condition, condition_from, holds, layout_facts
from axle.spec.sheet import spec_keys

# Between two lines of its scale an instrument is read to so much of its step.
_READ_BETWEEN = Decimal("0.75")


@dataclass(frozen=True)
class ReadingKind:
    """What can be read: one entry of ``readings.toml``.

    :param kind: its name in records.
    :param title: in the trade's words.
    :param hint: how to take it, one or two sentences.
    :param dimension: what it measures.
    :param places: number of places around the ring; 1 where there is only one.
    :param plausible: range outside which an entry is questioned [mm or N·m].
    :param signed: whether it may be negative.
    :param bolt: whether it is a bolt's torque.
    :param limit: key of the sheet that judges it, or "".
    :param step: usual resolution of the instrument [mm or N·m].
    :param after: stations without which it cannot be taken.
    :param series: whether a later reading leaves the earlier ones standing.
    :param repeats: how often it may be read over on one setting; 1 where it is read once.
    :param names: what its places are called, or nothing.
    :param needs: key of the sheet without which it is not asked for, or "".
    :param instruments: kinds of instruments it can be read with.
    :param most: places around the ring at the most, where their number is chosen; 0 where it is not.
    :param keeps: whether it outlives a change of the packs, since it tells where zero play lies.
    :param grades: words of a judgement; its value is the number of the word, from 1.
    :param peak: whether an instrument may hold its maximum.
    :param mesh: "closed" where pinion and ring gear have to be in mesh, "parted" where not, else "".
    :param twice: whether it decides a pack that is dear to change, so that it is read twice.
    :param hints: (facts, how to take it where they hold), the first that holds instead of ``hint``.
    """

    kind: str
    title: str
    hint: str
    dimension: Dimension
    places: int
    plausible: Plausible
    signed: bool
    bolt: bool
    limit: str
    step: float
    after: tuple[str, ...] = ()
    series: bool = False
    repeats: int = 1
    names: tuple[str, ...] = ()
    needs: str = ""
    instruments: tuple[str, ...] = ()
    most: int = 0
    keeps: bool = False
    grades: tuple[str, ...] = ()
    peak: bool = False
    mesh: str = ""
    twice: bool = False
    hints: tuple[tuple[Condition, str], ...] = ()

    def hint_on(self, layout: Layout) -> str:
        """How to take it on a layout.

        :param layout: the axle's layout.
        """
        facts = layout_facts(layout)
        return next((words for where, words in self.hints if holds(where, facts)), self.hint)

    @property
    def last_place(self) -> int:
        """The highest number that a reading's place can have."""
        return max(self.places, self.most, self.repeats, len(self.names), 1)

    @property
    def finest(self) -> Decimal | None:
        """What can be read at all of a length [mm]: a bare number under it was meant in another unit."""
        if self.dimension is not Dimension.LENGTH or self.signed or self.names:
            return None
        return Decimal(str(self.step)) * _READ_BETWEEN

    def repeats_offered(self, taken: Collection[int]) -> tuple[int, ...]:
        """Numbers of the repeated readings that are there, and of the one more that can be taken."""
        if self.repeats == 1:
            return ()
        return tuple(range(1, min(max(taken, default=0) + 1, self.repeats) + 1))

    def place_words(self, place: int, places: int = 0) -> str:
        """Name one place: around the ring, a repeat, or by its own name; "" where there is one."""
        if self.names:
            return self.names[place - 1] if 1 <= place <= len(self.names) else ""
        if self.repeats > 1:
            return f"reading {place} of {self.repeats}"
        return f"place {place} of {places or self.places}" if self.places > 1 else ""

    def check(self, core: Decimal, given: str, unit: Unit | None = None) -> None:
        """Refuse a value that this kind cannot have.

        :param core: the value [mm or N·m].
        :param given: as typed, for the error.
        :param unit: the reader's, for the error; the core's when left out.
        :raises AxleError: for a negative value where none can be, or an absurd size.
        """
        if self.grades and not (core == int(core) and 1 <= core <= len(self.grades)):
            raise AxleError(self.title, given=f"“{given}”", wanted=" or ".join(self.grades))
        if core < 0 and not self.signed:
            raise AxleError(self.title, given=f"“{given}”", wanted="0 or more")
        most = 20 * max(abs(self.plausible.low), abs(self.plausible.high), Decimal(1))
        if abs(core) > most:
            ends = (self.plausible.low, self.plausible.high)
            shown = [show(end, unit) if unit else str(end) for end in ends]
            symbol = unit.symbol if unit else self.core_unit
            raise AxleError(
                self.title,
                given=f"“{given}”",
                wanted=f"{shown[0]} to {shown[1]} {symbol}",
                do="Check the unit.",
            )

    @property
    def core_unit(self) -> str:
        """Symbol of the core's unit for this kind."""
        return {Dimension.LENGTH: "mm", Dimension.TORQUE: "N·m", Dimension.COUNT: "holes"}[self.dimension]


@dataclass(frozen=True)
class Method:
    """One way to settle a station: the readings that it takes, in order."""

    name: str
    title: str
    kinds: tuple[str, ...]
    where: Condition = field(default_factory=dict)


@dataclass(frozen=True)
class Station:
    """A station of the work: one entry of ``stations.toml``."""

    station: str
    title: str
    methods: tuple[Method, ...]
    cautions: tuple[str, ...]
    left_hand: str = ""
    spread: str = ""
    also: tuple[str, ...] = ()

    def cautions_for(self, layout: Layout) -> tuple[str, ...]:
        """The cautions that apply on a layout, left-hand threads first."""
        lines = [self.left_hand] if self.left_hand and layout.bolt_hand is Hand.LEFT else []
        lines += self.cautions
        if self.spread and layout.housing is Housing.INTEGRAL:
            lines.append(self.spread)
        return tuple(lines)

    def methods_on(self, layout: Layout) -> tuple[Method, ...]:
        """The methods that can be used on a layout."""
        facts = layout_facts(layout)
        return tuple(method for method in self.methods if holds(method.where, facts))

    @property
    def kinds(self) -> tuple[str, ...]:
        """Every reading kind that belongs to the station."""
        return tuple(dict.fromkeys(kind for method in self.methods for kind in method.kinds)) + self.also

    @property
    def is_measured(self) -> bool:
        """Whether readings, a pattern or a signature settle it, rather than its steps alone."""
        return bool(self.methods)


@cache
def reading_kinds() -> Mapping[str, ReadingKind]:
    """Every reading kind by name.

    :raises AxleError: when the data file names a limit that no sheet has.
    :source: ``readings.toml``.
    """
    kinds = {}
    for name, row in _load("readings.toml").items():
        limit = row.get("limit", "")
        if limit and limit not in spec_keys() and limit != "pinion_preload":
            raise AxleError("readings.toml", given=f"the limit “{limit}”", wanted="a sheet's key")
        if set(row.get("after", ())) - set(_load("stations.toml")):
            raise AxleError("readings.toml", given=f"{name}, after", wanted="stations of the work")
        low, high = row["plausible"]
        kinds[name] = ReadingKind(
            kind=name,
            title=row["title"],
            hint=row["hint"],
            dimension=Dimension(row["dimension"]),
            places=row.get("places", 1),
            plausible=Plausible(Decimal(str(low)), Decimal(str(high))),
            signed=row.get("signed", False),
            bolt=row.get("bolt", False),
            limit=limit,
            step=row["step"],
            after=tuple(row.get("after", ())),
            series=row.get("series", False),
            repeats=row.get("repeats", 1),
            names=tuple(row.get("names", ())),
            needs=row.get("needs", ""),
            instruments=tuple(row.get("instruments", ())),
            most=row.get("most", 0),
            keeps=row.get("keeps", False),
            grades=tuple(row.get("grades", ())),
            peak=row.get("peak", False),
            mesh=row.get("mesh", ""),
            twice=row.get("twice", False),
            hints=tuple(
                (condition_from(name, other["where"]), other["hint"]) for other in row.get("else", ())
            ),
        )
    return kinds


@cache
def stations() -> Mapping[str, Station]:
    """Every station by name, in the order of the work.

    :raises AxleError: when the data file names a reading kind that does not exist.
    :source: ``stations.toml``.
    """
    found = {}
    for name, row in _load("stations.toml").items():
        methods = tuple(
            Method(
                w["id"], w["title"], kinds=tuple(w["kinds"]), where=condition_from(name, w.get("where", {}))
            )
            for w in row["methods"]
        )
        station = Station(
            name,
            row["title"],
            methods=methods,
            cautions=tuple(row["cautions"]),
            left_hand=row.get("left_hand", ""),
            spread=row.get("spread", ""),
            also=tuple(row.get("also", ())),
        )
        for kind in station.kinds:
            if kind not in reading_kinds():
                raise AxleError("stations.toml", given=f"“{kind}”", wanted="a known reading kind")
        found[name] = station
    return found


@dataclass(frozen=True)
class StationGroup:
    """Stations that are shown together.

    :param group: as in ``groups.toml``.
    :param title: its name.
    :param stations: in the order of the work.
    """

    group: str
    title: str
    stations: tuple[str, ...]


@cache
def station_groups() -> tuple[StationGroup, ...]:
    """The five groups of stations, in the order of the work.

    :raises AxleError: when the data file names a station that does not exist, or leaves one out.
    :source: ``groups.toml``.

    >>> [group.title for group in station_groups()]
    ['Take in', 'Prepare', 'Set', 'Close', 'Sign']
    """
    found = tuple(
        StationGroup(name, row["title"], tuple(row["stations"]))
        for name, row in _load("groups.toml").items()
    )
    listed = [name for group in found for name in group.stations]
    if sorted(listed) != sorted(stations()):
        raise AxleError("groups.toml", given=", ".join(listed), wanted="every station once")
    return found


def kind_named(name: str) -> ReadingKind:
    """Find a reading kind.

    :param name: as in ``readings.toml``.
    :raises AxleError: when there is none of that name.
    :source: ``readings.toml``.

    >>> kind_named("backlash").places
    4
    """
    kind = reading_kinds().get(name)
    if kind is None:
        raise AxleError("reading", given=f"the kind “{name[:30]}”", wanted="one that a station takes")
    return kind


def station_of(kind: str) -> str:
    """Name the station at which a kind is read.

    :param kind: as in ``readings.toml``.
    :source: ``stations.toml``.

    >>> station_of("bar_gap")
    'depth'
    """
    return next(name for name, station in stations().items() if kind in station.kinds)


def _load(name: str) -> dict[str, Any]:
    return read_table(__file__, f"data/{name}", dict[str, Any])
