"""Spec sheets: the limits and torques of an axle, each value with where it comes from."""

from __future__ import annotations

import tomllib
from collections.abc import Mapping
from dataclasses import dataclass
from decimal import Decimal
from enum import Enum
from functools import cache
from pathlib import Path

from axle.backlash import BacklashLimits, Rule
from axle.errors import AxleError
from axle.gearset import Stance
from axle.units import Dimension, Unit, unit_named


class Source(Enum):
    """Where a value of a sheet comes from."""

    MAKER = "maker"
    PUBLISHED = "published"
    COMMON_PRACTICE = "common_practice"
    HOUSE_RULE = "house_rule"
    DEMO = "demo"


SOURCE_WORDS: Mapping[Source, str] = {
    Source.MAKER: "maker's sheet",
    Source.PUBLISHED: "published",
    Source.COMMON_PRACTICE: "common practice",
    Source.HOUSE_RULE: "house rule",
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
    """

    key: str
    title: str
    dimension: Dimension
    has_low: bool
    has_high: bool
    bolt: bool
    section: str


@dataclass(frozen=True)
class SpecValue:
    """One value of a sheet as it was typed.

    :param low: low limit in ``unit``, or nothing.
    :param high: high limit, or the value itself where the key has no low limit.
    :param unit: unit of both.
    :param source: where it comes from.
    :param note: which book, page or person.
    :raises AxleError: when low exceeds high, or a limit is negative.
    """

    low: Decimal | None
    high: Decimal | None
    unit: Unit
    source: Source
    note: str = ""

    def __post_init__(self) -> None:
        for limit in (self.low, self.high):
            if limit is not None and limit < 0:
                raise AxleError("limit", given=f"{limit} {self.unit.symbol}", wanted="0 or more")
        if self.low is not None and self.high is not None and self.low > self.high:
            raise AxleError(
                "limits",
                given=f"{self.low} to {self.high} {self.unit.symbol}",
                wanted="the lower figure first",
            )


@dataclass(frozen=True)
class Range:
    """Limits in the core's unit, ends included; an open end is infinite or zero.

    :param low: [mm or N·m].
    :param high: [mm or N·m].
    """

    low: float
    high: float

    @property
    def middle(self) -> float:
        """Half way between the limits."""
        return (self.low + self.high) / 2

    def side(self, value: float) -> str:
        """Say "under", "in range" or "over" for a value; limits are inclusive."""
        # A limit typed as 0.007 in and a reading typed as 7 thou must meet: binary rounding of
        # either must not decide.
        hair = 1e-9 * max(1.0, abs(value))
        if value < self.low - hair:
            return "under"
        return "over" if value > self.high + hair else "in range"


@dataclass(frozen=True)
class Sheet:
    """The limits a job is built to.

    :param name: the sheet's name.
    :param values: what it says, by key.
    :param backlash_rule: whether the smallest backlash governs, or every place.
    :param stance: how the indicator stands at the heel for this sheet's figures.
    :raises AxleError: for a key that no sheet has.
    """

    name: str
    values: Mapping[str, SpecValue]
    backlash_rule: Rule = Rule.SMALLEST
    stance: Stance = Stance.ALONG

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

    def range(self, key: str) -> Range | None:
        """Limits of a key in the core's unit, or nothing when the sheet does not give them.

        :param key: as in ``spec_keys.toml``.
        """
        value = self.values.get(key)
        if value is None or (value.low is None and value.high is None):
            return None
        factor = value.unit.factor
        low = float(value.low * factor) if value.low is not None else 0.0
        high = float(value.high * factor) if value.high is not None else float("inf")
        return Range(low, high)

    def single(self, key: str) -> float | None:
        """A key's one figure in the core's unit, or nothing."""
        limits = self.range(key)
        return limits.high if limits else None

    def source(self, key: str) -> str:
        """Where a key's figure comes from, in words."""
        value = self.values.get(key)
        if value is None:
            return "not on the sheet"
        words = SOURCE_WORDS[value.source]
        return f"{words}, {value.note}" if value.note else words

    def backlash_limits(self) -> BacklashLimits | None:
        """Backlash limits with spread and rule, or nothing when the sheet has none."""
        limits, spread = self.range("backlash"), self.single("backlash_spread")
        if limits is None:
            return None
        return BacklashLimits(limits.low, limits.high, spread or float("inf"), self.backlash_rule)


@cache
def spec_keys() -> Mapping[str, SpecKey]:
    """What sheets can say, in the order in which they show it.

    :source: ``spec_keys.toml``.
    """
    with (Path(__file__).parent / "spec_keys.toml").open("rb") as file:
        rows = tomllib.load(file)
    return {
        key: SpecKey(
            key=key,
            title=row["title"],
            dimension=Dimension(row["dimension"]),
            has_low="low" in row["limits"],
            has_high="high" in row["limits"],
            bolt=row.get("bolt", False),
            section=row["section"],
        )
        for key, row in rows.items()
    }


def spec_value(
    key: str, low: str | None, high: str | None, unit: str, source: str, note: str = ""
) -> SpecValue:
    """Build a value from the texts of a file or a form.

    :param key: as in ``spec_keys.toml``.
    :param low: low limit, or nothing.
    :param high: high limit, or nothing.
    :param unit: unit of both, any usual spelling.
    :param source: a value of :class:`Source`.
    :param note: which book, page or person.
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
    return SpecValue(_number(key, low), _number(key, high), unit_named(unit), kind, note)


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
