"""What a builder chooses about one axle beyond its layout: its parts, and the order of the work.

Everything a step or a rule can ask about an axle is a fact: a name with a word for its value, from
the layout, from the bearings, and from the choices of ``choices.toml``.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cache
from typing import Any, Final

from axle.data_file import read_table
from axle.errors import AxleError
from axle.layout import Layout
from axle.procedure.scope import scope_named, scopes
from axle.spec.reader import LAYOUT_CHOICES

Facts = Mapping[str, str]
Condition = Mapping[str, tuple[str, ...]]

# Facts that follow from the layout or the bearings, with the values they can have.
DERIVED: Mapping[str, tuple[str, ...]] = {
    "coupled": ("yes", "no"),
    "bearings": ("new", "used"),
    "overshot": ("yes", "no"),
    "parts": ("trial", "final"),
    "scope": tuple(scopes()),
}

# What the values of some choices come to: chance of overshoot that is accepted at each bite, places
# around the ring, holes between two positions that lock, and where a slinger stands (1 behind the
# pinion's head, 2 in the preload stack, 0 where it bears on neither).
OVERSHOOT: Final[Mapping[str, float]] = {"none": 0.05, "one": 0.01, "five": 0.05, "ten": 0.10}
LASH_PLACES: Final[Mapping[str, int]] = {"three": 3, "four": 4, "six": 6, "eight": 8, "twelve": 12}
HOLE_STEP: Final[Mapping[str, float]] = {"half": 0.5, "whole": 1.0}
SLINGER_AT: Final[Mapping[str, int]] = {"no": 0, "yes": 1, "stack": 2, "flange": 0}


@dataclass(frozen=True)
class Value:
    """One value of a choice.

    :param value: its name in records.
    :param title: in the trade's words.
    :param why: why somebody chooses it.
    :param where: facts under which it can be chosen.
    :param unless: facts under which it cannot: all of them together.
    :param methods: way of measuring by station that goes with it.
    """

    value: str
    title: str
    why: str
    where: Condition
    unless: Condition
    methods: Mapping[str, str]

    def possible(self, facts: Facts) -> bool:
        """Say whether it can be chosen on an axle with these facts."""
        return holds(self.where, facts) and not (self.unless and holds(self.unless, facts))


@dataclass(frozen=True)
class Choice:
    """One choice: its title, its group on the page, its values and what is usual.

    :param choice: its name in records.
    :param title: in the trade's words.
    :param group: "parts", "arrival" or "variants".
    :param values: by name.
    :param default: (value, condition), the first that holds is usual.
    """

    choice: str
    title: str
    group: str
    values: Mapping[str, Value]
    default: tuple[tuple[str, Condition], ...]

    def usual(self, facts: Facts) -> str:
        """The usual value on an axle with these facts."""
        for value, condition in self.default:
            if holds(condition, facts) and self.values[value].possible(facts):
                return value
        return next(name for name, value in self.values.items() if value.possible(facts))


@dataclass(frozen=True)
class Build:
    """One axle as it is to be built: its layout, its bearings and what was chosen.

    :param layout: where it keeps its shims.
    :param new_bearings: whether the pinion bearings are new.
    :param chosen: value by choice; what is not chosen is as usual.
    :param overshot: whether a sleeve was tightened past its range, so that it has to be replaced.
    :param scope: what the job covers, as in ``scope.toml``.
    :param final_parts: whether the final bearings have gone in after a trial on set-up ones.
    :raises AxleError: for a choice that does not exist or cannot be made on this axle.

    >>> from axle.layout import CarrierBy, DepthShim, PreloadBy
    >>> layout = Layout(DepthShim.HEAD, PreloadBy.SLEEVE, CarrierBy.OUTBOARD)
    >>> Build(layout).facts["order"]
    'pinion_first'
    """

    layout: Layout
    new_bearings: bool = True
    chosen: Mapping[str, str] = field(default_factory=dict)
    overshot: bool = False
    final_parts: bool = False
    scope: str = "whole"

    def __post_init__(self) -> None:
        known = choices()
        facts = self.facts
        for name, value in self.chosen.items():
            if name not in known or value not in known[name].values:
                raise AxleError("choice", given=f"“{name}: {value}”", wanted="one that an axle has")
            if not known[name].values[value].possible(facts):
                possible = [v.title for v in known[name].values.values() if v.possible(facts)]
                raise AxleError(
                    known[name].title,
                    given=f"“{known[name].values[value].title}”",
                    wanted=" or ".join(possible),
                    do="Change what it depends on first.",
                )

    @property
    def facts(self) -> dict[str, str]:
        """Every fact of the axle by name; what was not chosen is as usual."""
        facts = layout_facts(self.layout) | {
            "bearings": "new" if self.new_bearings else "used",
            "overshot": "yes" if self.overshot else "no",
            "parts": "final" if self.final_parts else "trial",
            "scope": scope_named(self.scope).scope,
        }
        for name, choice in choices().items():
            facts[name] = self.chosen.get(name) or choice.usual(facts)
        return facts

    @property
    def methods(self) -> dict[str, str]:
        """The way of measuring by station that goes with the choices."""
        facts = self.facts
        found: dict[str, str] = {}
        for name, choice in choices().items():
            found.update(choice.values[facts[name]].methods)
        return found


def layout_facts(layout: Layout) -> dict[str, str]:
    """Facts that follow from the layout.

    :param layout: the axle's layout.
    :source: :mod:`axle.layout`.

    >>> from axle.layout import CarrierBy, DepthShim, PreloadBy
    >>> layout_facts(Layout(DepthShim.CUP, PreloadBy.SPACER, CarrierBy.OUTBOARD))["coupled"]
    'yes'
    """
    facts = {name: str(getattr(layout, name).value) for name in LAYOUT_CHOICES}
    return facts | {"coupled": "yes" if layout.preload_per_depth else "no"}


def still_possible(layout: Layout, chosen: Mapping[str, str], scope: str = "whole") -> dict[str, str]:
    """Drop choices that another choice has made impossible; the rest stays.

    :param layout: the axle's layout.
    :param chosen: value by choice.
    :param scope: what the job covers.
    :source: ``choices.toml``.
    """
    kept = {
        name: value
        for name, value in chosen.items()
        if name in choices() and value in choices()[name].values
    }
    for _ in range(len(kept)):
        facts = layout_facts(layout) | {
            "bearings": "new",
            "overshot": "no",
            "parts": "trial",
            "scope": scope,
        }
        for name, choice in choices().items():
            facts[name] = kept.get(name) or choice.usual(facts)
        fallen = [n for n, v in kept.items() if not choices()[n].values[v].possible(facts)]
        if not fallen:
            break
        kept.pop(fallen[-1])
    return kept


def holds(condition: Condition, facts: Facts) -> bool:
    """Say whether every fact of a condition has one of its values; a fact not known yet does not.

    :param condition: wanted values by fact.
    :param facts: value by fact.
    :source: ``choices.toml``.

    >>> holds({"gears": ("used",)}, {"gears": "used"}), holds({}, {})
    (True, True)
    """
    return all(facts.get(name) in values for name, values in condition.items())


def condition_from(
    where: str, row: Mapping[str, Any], *, more: Mapping[str, Any] | None = None
) -> Condition:
    """Read a condition from a data file, holding its names and values to what axles have.

    :param where: which entry it stands in, for the error.
    :param row: values by fact.
    :param more: facts that are being read in the same file, with their values.
    :raises AxleError: for a fact or a value that no axle has.
    :source: ``choices.toml``, :mod:`axle.layout`.
    """
    known = known_facts() if more is None else {**_layout_values(), **DERIVED, **more}
    for name, values in row.items():
        wrong = [value for value in values if name not in known or value not in known[name]]
        if wrong or name not in known:
            raise AxleError(where, given=f"“{name}: {wrong}”", wanted="a fact that axles have")
    return {name: tuple(values) for name, values in row.items()}


def known_facts() -> dict[str, tuple[str, ...]]:
    """Every fact an axle can be asked for, with the values it can have.

    :source: ``choices.toml``, :mod:`axle.layout`.
    """
    chosen = {name: tuple(choice.values) for name, choice in choices().items()}
    return {**_layout_values(), **DERIVED, **chosen}


@cache
def choices() -> Mapping[str, Choice]:
    """Every choice by name, in the order in which one may depend on another.

    :raises AxleError: when the data file asks for a fact that no axle has.
    :source: ``choices.toml``.
    """
    rows = read_table(__file__, "data/choices.toml", dict[str, Any])
    given = {name: tuple(row["values"]) for name, row in rows.items()}
    found = {}
    for name, row in rows.items():
        values = {
            key: Value(
                key,
                value["title"],
                why=value["why"],
                where=condition_from(f"choices.toml, {name}", value.get("where", {}), more=given),
                unless=condition_from(f"choices.toml, {name}", value.get("unless", {}), more=given),
                methods=value.get("methods", {}),
            )
            for key, value in row["values"].items()
        }
        default = tuple(
            (line["value"], condition_from(f"choices.toml, {name}", line.get("where", {}), more=given))
            for line in row["default"]
        )
        found[name] = Choice(name, row["title"], group=row["group"], values=values, default=default)
    return found


def _layout_values() -> dict[str, tuple[str, ...]]:
    return {name: tuple(str(m.value) for m in kind) for name, kind in LAYOUT_CHOICES.items()}
