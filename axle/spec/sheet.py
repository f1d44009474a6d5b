"""Spec sheets: the limits and torques of an axle, each value with where it comes from."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from decimal import Decimal
from enum import Enum
from functools import cache
from typing import Any

from axle.data_file import read_table
from axle.errors import AxleError
from axle.gearset import Stance
from axle.measure.parse import unit_named
from axle.measure.range import Range
from axle.measure.units import HUNDREDTH_MM, MM, NEWTON_METRE, Dimension, Unit
from axle.spec.limits import BacklashLimits, BacklashRule

_METRIC = (MM, HUNDREDTH_MM, NEWTON_METRE)


class Source(Enum):
    """Where a value of a sheet comes from."""

    MAKER = "maker"
    PUBLISHED = "published"
    COMMON_PRACTICE = "common_practice"
    HOUSE_RULE = "house_rule"
    NOT_SAID = "not_said"
    DEMO = "demo"


class Figure(Enum):
    """What a sheet's rotating torques are: the steady running figure, or the breakaway peak."""

    RUNNING = "running"
    BREAKAWAY = "breakaway"


SOURCE_WORDS: Mapping[Source, str] = {
    Source.MAKER: "maker's sheet",
    Source.PUBLISHED: "published",
    Source.COMMON_PRACTICE: "common practice",
    Source.HOUSE_RULE: "house rule",
    Source.NOT_SAID: "source not said",
    Source.DEMO: "made up for the demo",
}


@dataclass(frozen=True)
class SpecKey:
    """What a sheet can say: one line of ``spec_keys.toml``.

    :param key: its name in files and records.
    :param title: in the trade's words.
    :param dimension: what it measures.
    :param has_low: whether it has a low limit.
    :param has_high: whether it has a high limit.
    :param bolt: whether it is a bolt's torque, which has its own unit.
    :param section: heading under which a sheet shows it.
    :param where: values of the layout's choices that have it; every layout where it is empty.
    """

    key: str
    title: str
    dimension: Dimension
    has_low: bool
    has_high: bool
    bolt: bool
    section: str
    where: Mapping[str, tuple[str, ...]] = field(default_factory=dict)

    def belongs(self, layout: Mapping[str, str]) -> bool:
        """Say whether an axle of a layout has it.

        :param layout: value by choice, as a sheet keeps it.
        """
        return all(layout.get(name) in values for name, values in self.where.items())


@dataclass(frozen=True)
class SpecValue:
    """One value of a sheet as it was typed.

    A low figure alone is "at least", a high one alone "at most". The same figure in both is the one figure
    that a sheet gives: what it may be off is its tolerance, or else what is usual.

    :param low: low limit in ``unit``, or nothing.
    :param high: high limit, or the value itself where the key has no low limit.
    :param unit: unit of all figures.
    :param source: where it comes from.
    :param note: which book, page or person.
    :param tolerance: how far off one figure may be, or nothing.
    :param second: what another manual gives for the same, or nothing.
    :param by_second: whether the second is the one that is in force.
    :raises AxleError: when low exceeds high, a figure is negative, or nothing is chosen that is there.
    """

    low: Decimal | None
    high: Decimal | None
    unit: Unit
    source: Source
    note: str = ""
    tolerance: Decimal | None = None
    second: SpecValue | None = None
    by_second: bool = False

    def __post_init__(self) -> None:
        for limit in (self.low, self.high, self.tolerance):
            if limit is not None and limit < 0:
                raise AxleError("limit", given=f"{limit} {self.unit.symbol}", wanted="0 or more")
        if self.low is not None and self.high is not None and self.low > self.high:
            raise AxleError(
                "limits",
                given=f"{self.low} to {self.high} {self.unit.symbol}",
                wanted="the lower figure first",
            )
        if self.tolerance is not None and not self.is_one_figure:
            raise AxleError(
                "tolerance",
                given=f"± {self.tolerance} {self.unit.symbol} beside a range",
                wanted="one figure, the same as low and as high, or no tolerance",
            )
        if self.by_second and self.second is None:
            raise AxleError(
                "second range", given="nothing", wanted="the figures that are said to be in force"
            )

    @property
    def is_one_figure(self) -> bool:
        """Whether the sheet gives one figure rather than a range."""
        return self.low is not None and self.low == self.high

    @property
    def in_force(self) -> SpecValue:
        """The figures that the work goes by: these, or the second manual's."""
        return self.second if self.by_second and self.second is not None else self

    @property
    def source_words(self) -> str:
        """Where these figures come from, in words."""
        words = SOURCE_WORDS[self.source]
        return f"{words}, {self.note}" if self.note else words

    def range(self, kind: str) -> Range | None:
        """These limits in the core's unit, or nothing where no figure is given.

        :param kind: what it is for its usual tolerance, as in ``tolerances.toml``.
        """
        if self.low is None and self.high is None:
            return None
        factor = self.unit.factor
        low = float(self.low * factor) if self.low is not None else 0.0
        high = float(self.high * factor) if self.high is not None else float("inf")
        if not self.is_one_figure:
            return Range(low, high)
        told = self.tolerance
        off = float(told * factor) if told is not None else usual_tolerance(kind, low)
        return Range(max(low - off, 0.0), high + off, low)


@dataclass(frozen=True)
class Sheet:
    """The limits a job is built to.

    :param name: the sheet's name.
    :param values: what it says, by key.
    :param backlash_rule: whether the smallest backlash governs, or every place.
    :param stance: how the indicator stands at the heel for this sheet's figures.
    :param figure: what its rotating torques are.
    :raises AxleError: for a key that no sheet has.
    """

    name: str
    values: Mapping[str, SpecValue]
    backlash_rule: BacklashRule = BacklashRule.SMALLEST
    stance: Stance = Stance.UNSURE
    figure: Figure = Figure.RUNNING

    def __post_init__(self) -> None:
        unknown = sorted(set(self.values) - set(spec_keys()))
        if unknown:
            raise AxleError("spec sheet", given=f"“{unknown[0]}”", wanted="a value that sheets have")
        for key, value in self.values.items():
            if value.unit.dimension is not spec_keys()[key].dimension:
                raise AxleError(
                    spec_keys()[key].title,
                    given=f"a value in {value.unit.symbol}",
                    wanted=f"a {spec_keys()[key].dimension.value}",
                )

    @property
    def is_metric(self) -> bool:
        """Whether most of its lengths and torques are given in millimetres and newton metres."""
        units = [
            value.unit for value in self.values.values() if value.unit.dimension is not Dimension.COUNT
        ]
        return sum(unit in _METRIC for unit in units) * 2 > len(units)

    def range(self, key: str) -> Range | None:
        """Limits of a key in the core's unit, or nothing when the sheet does not give them.

        :param key: as in ``spec_keys.toml``.
        """
        value = self.values.get(key)
        if value is None:
            return None
        known = spec_keys()[key]
        if not known.has_low:
            figure = value.in_force.high
            return None if figure is None else Range(0.0, float(figure * value.in_force.unit.factor))
        return value.in_force.range("bolt" if known.bolt else known.dimension.value)

    def single(self, key: str) -> float | None:
        """A key's one figure in the core's unit, or nothing."""
        limits = self.range(key)
        return limits.high if limits else None

    def source(self, key: str) -> str:
        """Where a key's figure comes from, in words."""
        value = self.values.get(key)
        return "not on the sheet" if value is None else value.in_force.source_words

    def is_made_up(self, key: str) -> bool:
        """Whether a key's figure is nobody's: a starter's, not taken from any sheet.

        :param key: as in ``spec_keys.toml``.
        """
        value = self.values.get(key)
        return value is not None and value.in_force.source is Source.DEMO

    def not_in_force(self, key: str) -> SpecValue | None:
        """What the other of two manuals gives for a key, or nothing."""
        value = self.values.get(key)
        if value is None or value.second is None:
            return None
        return value if value.by_second else value.second

    def backlash_limits(self) -> BacklashLimits | None:
        """Backlash limits with spread and rule, or nothing when the sheet has none."""
        limits, spread = self.range("backlash"), self.single("backlash_spread")
        if limits is None:
            return None
        return BacklashLimits(
            limits.low,
            limits.high,
            variation=spread or float("inf"),
            rule=self.backlash_rule,
            target=limits.target,
        )


@cache
def _tolerances() -> Mapping[str, tuple[float, float]]:
    """Least tolerance in the core's unit and share of the figure, by what it is for."""
    rows = read_table(__file__, "data/tolerances.toml", dict[str, Any])
    return {
        kind: (float(Decimal(row["least"]) * unit_named(row["unit"]).factor), row["share"])
        for kind, row in rows.items()
    }


def usual_tolerance(kind: str, figure: float) -> float:
    """How far off one figure may be where its sheet says nothing of it.

    :param kind: "length", "torque" (a rotating torque), "bolt" or "count".
    :param figure: the figure [mm or N·m].
    :returns: either way [mm or N·m].
    :source: ``tolerances.toml``, common practice.

    >>> round(usual_tolerance("torque", 0.5), 3), round(usual_tolerance("length", 0.2), 4)
    (0.113, 0.0254)
    """
    least, share = _tolerances()[kind]
    return max(least, share * figure)


@cache
def spec_keys() -> Mapping[str, SpecKey]:
    """What sheets can say, in the order in which they show it.

    :source: ``spec_keys.toml``.
    """
    rows = read_table(__file__, "data/spec_keys.toml", dict[str, Any])
    return {
        key: SpecKey(
            key=key,
            title=row["title"],
            dimension=Dimension(row["dimension"]),
            has_low="low" in row["limits"],
            has_high="high" in row["limits"],
            bolt=row.get("bolt", False),
            section=row["section"],
            where={name: tuple(values) for name, values in row.get("where", {}).items()},
        )
        for key, row in rows.items()
    }


def spec_value(
    key: str,
    low: str | None,
    high: str | None,
    unit: str,
    source: str,
    note: str = "",
    tolerance: str | None = None,
) -> SpecValue:
    """Build a value from the texts of a file or a form.

    :param key: as in ``spec_keys.toml``.
    :param low: low limit, or nothing.
    :param high: high limit, or nothing.
    :param unit: unit of both, any usual spelling.
    :param source: a value of :class:`Source`.
    :param note: which book, page or person.
    :param tolerance: how far off one figure may be, or nothing.
    :raises AxleError: for an unknown key, unit or source, or a text that is no number.
    :source: common practice.

    >>> spec_value("backlash", "7", "11", "thou", "demo").unit.symbol
    'thou'
    """
    if key not in spec_keys():
        raise AxleError("spec sheet", given=f"“{key}”", wanted="a value that sheets have")
    try:
        kind = Source(source)
    except ValueError:
        raise AxleError("source", given=f"“{source}”", wanted=", ".join(s.value for s in Source)) from None
    return SpecValue(
        _number(key, low),
        _number(key, high),
        unit=unit_named(unit),
        source=kind,
        note=note,
        tolerance=_number(key, tolerance),
    )


def _number(key: str, text: str | None) -> Decimal | None:
    if text is None or not str(text).strip():
        return None
    try:
        number = Decimal(str(text).strip())
    except ArithmeticError:
        number = Decimal("NaN")
    if not number.is_finite() or abs(number) > 100_000:
        raise AxleError(spec_keys()[key].title, given=f"“{str(text)[:24]}”", wanted="a number such as 8.5")
    return number
