"""The bill of parts of one axle, each line with its reason."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from enum import Enum
from functools import cache
from typing import Final

import msgspec

from axle.data_file import read_table
from axle.errors import AxleError
from axle.procedure.choices import Condition, Facts, condition_from, holds
from axle.procedure.findings import Found
from axle.procedure.findings import parts as inspected_parts
from axle.procedure.sequence import Plan
from axle.procedure.steps import Step, tools


class Kind(Enum):
    """What a line of a job's parts is."""

    PART = "part"
    CONSUMABLE = "consumable"
    SHIM = "shim"
    TOOL = "tool"
    OUTSIDE = "outside"
    CORE = "core"
    WASTED = "wasted"


KIND_WORDS: Final = {
    Kind.PART: "part",
    Kind.CONSUMABLE: "consumable",
    Kind.SHIM: "shims",
    Kind.TOOL: "tool bought for the job",
    Kind.OUTSIDE: "work done outside",
    Kind.CORE: "core deposit",
    Kind.WASTED: "spoilt here",
}


class _Row(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    title: str
    kind: str
    quantity: float = 1
    unit: str = ""
    rule: str = ""
    when: dict[str, list[str]] = {}
    findings: tuple[str, ...] = ()
    tools: tuple[str, ...] = ()
    prompt: str = ""


@dataclass(frozen=True)
class Part:
    """A part that a job may want.

    :param part: its name in records.
    :param title: in general terms.
    :param kind: what it is.
    :param quantity: for one axle.
    :param unit: "" for pieces.
    :param rule: why it is new, or "" where only a finding asks for it.
    :param when: facts under which the rule holds.
    :param findings: inspected parts whose replacement asks for it.
    :param tools: what of ``tools.toml`` it is.
    :param prompt: what is asked while the axle is open, or "".
    """

    part: str
    title: str
    kind: Kind
    quantity: float
    unit: str
    rule: str
    when: Condition
    findings: tuple[str, ...]
    tools: tuple[str, ...]
    prompt: str


@dataclass(frozen=True)
class Wanted:
    """A line of the bill.

    :param part: what.
    :param quantity: how much of it.
    :param why: the rule or the finding that asks for it, as a sentence begins.
    """

    part: Part
    quantity: float
    why: str


@cache
def parts() -> Mapping[str, Part]:
    """Every part by name.

    :raises AxleError: when the file names a tool or an inspected part that does not exist.
    :source: ``data/parts.toml``; common practice, no source.

    >>> parts()["sleeve"].kind is Kind.PART
    True
    """
    found = {}
    for name, row in read_table(__file__, "data/parts.toml", dict[str, _Row]).items():
        wrong = [t for t in row.tools if t not in tools()]
        wrong += [f for f in row.findings if f not in inspected_parts()]
        if wrong:
            raise AxleError("parts.toml", given=", ".join(wrong), wanted="tools and inspected parts")
        found[name] = Part(
            name,
            row.title,
            Kind(row.kind),
            quantity=row.quantity,
            unit=row.unit,
            rule=row.rule,
            when=condition_from("parts.toml", row.when),
            findings=row.findings,
            tools=row.tools,
            prompt=row.prompt,
        )
    return found


def bill(facts: Facts, found: Iterable[Found], plan: Plan) -> tuple[Wanted, ...]:
    """The parts that an axle wants.

    :param facts: its layout and what was chosen.
    :param found: the findings that stand.
    :param plan: the work; a part that no step of it asks for is not wanted by rule.
    :returns: one line for each part: the finding is its reason where there is one.
    :source: ``data/parts.toml``.
    """
    asked = {need.tool.tool for need in plan.needs}
    replaced = {f.part: f for f in found if f.decision == "replace"}
    lines = []
    for part in parts().values():
        because = [replaced[name] for name in part.findings if name in replaced]
        if because:
            titles = inspected_parts()
            why = "; ".join(f"{titles[f.part].title}: {f.seen.title}" for f in because)
            lines.append(Wanted(part, part.quantity, f"found: {why}"))
        elif part.rule and holds(part.when, facts) and (not part.tools or asked & set(part.tools)):
            lines.append(Wanted(part, part.quantity, part.rule))
    return tuple(lines)


def steps_waiting(part: str, steps: Iterable[Step]) -> tuple[str, ...]:
    """The steps of a job that cannot be done before a part is here.

    :param part: its name; one that is not known holds nothing.
    :param steps: of the job, in order.
    :returns: names of steps, in order; consumables hold the steps that ask for them too.
    """
    known = parts().get(part)
    names = set(known.tools) if known else set()
    return tuple(step.step for step in steps if names & set(step.tools))


def prompts(lines: Iterable[Wanted]) -> tuple[tuple[Part, str], ...]:
    """What is worth asking while the axle is open.

    :param lines: the bill.
    :returns: (part, question) for each line that has one.
    """
    return tuple((line.part, line.part.prompt) for line in lines if line.part.prompt)


@dataclass(frozen=True)
class KitSaving:
    """A kit that covers lines of a bill.

    :param kit: its name.
    :param covers: parts of the bill that it covers.
    :param price: of the kit.
    :param apart: of the same parts one by one.
    """

    kit: str
    covers: tuple[str, ...]
    price: float
    apart: float

    @property
    def saves(self) -> float:
        """What the kit saves, below 0 where it costs more."""
        return self.apart - self.price


def kit_savings(
    wanted: Mapping[str, float],
    kits: Iterable[tuple[str, Mapping[str, float], float]],
    prices: Mapping[str, float],
) -> tuple[KitSaving, ...]:
    """Kits that cover several lines, the one that saves most first.

    :param wanted: quantity by part.
    :param kits: (name, quantity by part, price) of each.
    :param prices: price of one, by part; a part without a price is not counted.
    :source: a kit is bought where it costs less than the parts of it that are wanted.

    >>> kits = [("kit", {"a": 1, "b": 2, "c": 1}, 50.0)]
    >>> kit_savings({"a": 1, "b": 2}, kits, {"a": 30.0, "b": 20.0})[0].saves
    20.0
    """
    found = []
    for name, holds_parts, price in kits:
        covers = {part: min(wanted[part], count) for part, count in holds_parts.items() if part in wanted}
        apart = sum(count * prices[part] for part, count in covers.items() if part in prices)
        if len(covers) > 1 and apart > 0:
            found.append(KitSaving(name, tuple(covers), price, apart))
    return tuple(sorted(found, key=lambda saving: -saving.saves))
