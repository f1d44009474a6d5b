"""The steps of the work, loaded from ``steps/`` and held to their schema and to each other."""

from __future__ import annotations

import csv
import json
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import Any

from jsonschema import Draft202012Validator

from axle.data_file import read_table
from axle.errors import AxleError
from axle.layout import Place
from axle.procedure.choices import Condition, Facts, choices, condition_from, holds
from axle.procedure.stations import reading_kinds, stations

_HERE = Path(__file__).parent / "data"
_KEYS = {"station": "a station", "nil": "a reading kind", "choice": "a choice"}


@dataclass(frozen=True)
class Hold:
    """What lets the work past a step: a condition on readings or records, or a signature.

    :param by: "station", "nil", "read", "choice", "pattern", "list", "final" or "signature".
    :param of: what it asks for, by name.
    :param where: facts under which it holds the work up; elsewhere the step is only shown.
    """

    by: str
    of: tuple[str, ...]
    where: Condition


@dataclass(frozen=True)
class Step:
    """One step of the work.

    :param step: its name in records.
    :param station: the station it belongs to.
    :param title: what is done, a few words.
    :param why: why it is done.
    :param do: what to do, in order.
    :param look: what to look for.
    :param cautions: cautions of this step alone.
    :param hazards: names of ``hazards.toml``.
    :param tools: names of ``tools.toml``: tools, gauges, stands, consumables, parts.
    :param readings: reading kinds it wants.
    :param hold: what lets the work past it, or nothing.
    :param when: facts under which the step belongs to the job.
    :param after: steps that come before it, where the job has them.
    :param hands_on: minutes of work.
    :param waiting: minutes of waiting that follow.
    :param wait: what is waited for, or "".
    :param changes: places that doing it changes; what that makes stale is in ``stale.toml``.
    :param treats: subjects of ``subjects.csv`` that it treats.
    :param view: the page it is done on, or "".
    :param proof: what of the records shows that it was done, beside its readings.
    :param alone: whether it is only ever marked by itself, never together with others.
    """

    step: str
    station: str
    title: str
    why: str
    do: tuple[str, ...]
    look: tuple[str, ...]
    cautions: tuple[str, ...]
    hazards: tuple[str, ...]
    tools: tuple[str, ...]
    readings: tuple[str, ...]
    hold: Hold | None
    when: Condition
    after: tuple[str, ...]
    hands_on: int
    waiting: int
    wait: str
    changes: tuple[Place, ...]
    treats: tuple[str, ...]
    view: str
    proof: tuple[str, ...] = ()
    alone: bool = False

    def belongs(self, facts: Facts) -> bool:
        """Say whether the step belongs to an axle with these facts."""
        return holds(self.when, facts)

    @property
    def goes_with_others(self) -> bool:
        """Whether it may be marked together with others: no hold, no reading, no change of the axle."""
        return self.hold is None and not self.readings and not self.changes and not self.alone

    @property
    def all_cautions(self) -> tuple[str, ...]:
        """The general cautions of its hazards, then its own."""
        return tuple(hazards()[name].text for name in self.hazards) + self.cautions

    @property
    def text(self) -> str:
        """Everything it says, for a search."""
        return " ".join((self.title, self.why, *self.do, *self.look, *self.cautions))


@dataclass(frozen=True)
class Hazard:
    """A way to get hurt, with its caution and the words in a step that call for it."""

    hazard: str
    text: str
    words: str


@dataclass(frozen=True)
class Tool:
    """A tool, gauge, stand, consumable or part."""

    tool: str
    title: str
    kind: str
    stops: bool


@dataclass(frozen=True)
class Subject:
    """A subject that the work must treat somewhere: one line of ``subjects.csv``."""

    subject: str
    station: str
    words: str


@cache
def steps() -> Mapping[str, Step]:
    """Every step by name, by station, in the order of its file.

    :raises AxleError: for an entry that breaks the schema or names what does not exist.
    :source: ``steps/``; common practice.
    """
    found: dict[str, Step] = {}
    schema = Draft202012Validator(json.loads((_HERE / "step.schema.json").read_text(encoding="utf-8")))
    for station in stations():
        file = f"steps/{station}.toml"
        rows = _load(file)
        error = next(schema.iter_errors(rows), None)
        if error is not None:
            where = "/".join(str(part) for part in error.absolute_path)
            raise AxleError(f"{file}, {where}", given=str(error.instance)[:60], wanted=error.message[:200])
        for name, row in rows.items():
            if name in found:
                raise AxleError(file, given=f"“{name}” twice", wanted="each step once")
            found[name] = _step(name, station, row)
    _check_names(found)
    return found


@cache
def hazards() -> Mapping[str, Hazard]:
    """Every hazard by name.

    :source: ``hazards.toml``; common practice.
    """
    return {name: Hazard(name, row["text"], row["words"]) for name, row in _load("hazards.toml").items()}


@cache
def tools() -> Mapping[str, Tool]:
    """Everything a step can ask for, by name.

    :source: ``tools.toml``; common practice.
    """
    return {
        name: Tool(name, row["title"], kind=row["kind"], stops=row.get("stops", True))
        for name, row in _load("tools.toml").items()
    }


@cache
def subjects() -> Mapping[str, Subject]:
    """Every subject that the work must treat, by name.

    :source: ``subjects.csv``.
    """
    with (_HERE / "subjects.csv").open(encoding="utf-8", newline="") as file:
        return {
            row["id"]: Subject(row["id"], row["station"], row["subject"]) for row in csv.DictReader(file)
        }


def step_named(name: str) -> Step:
    """Find a step.

    :param name: as in ``steps/``.
    :raises AxleError: when there is none of that name.
    :source: ``steps/``.

    >>> step_named("backlash-caps").station
    'backlash'
    """
    step = steps().get(name)
    if step is None:
        raise AxleError("step", given=f"“{name[:40]}”", wanted="one of the work's steps")
    return step


def _step(name: str, station: str, row: Mapping[str, Any]) -> Step:
    treats = tuple(row.get("treats", ())) or ((name,) if name in subjects() else ())
    return Step(
        step=name,
        station=station,
        title=row["title"],
        why=row["why"],
        do=tuple(row["do"]),
        look=tuple(row["look"]),
        cautions=tuple(row.get("cautions", ())),
        hazards=tuple(row.get("hazards", ())),
        tools=tuple(row.get("tools", ())),
        readings=tuple(row.get("readings", ())),
        hold=_hold(name, row.get("hold")),
        when=condition_from(name, row.get("when", {})),
        after=tuple(row.get("after", ())),
        hands_on=row["minutes"][0],
        waiting=row["minutes"][1],
        wait=row.get("wait", ""),
        changes=tuple(Place(place) for place in row.get("changes", ())),
        treats=treats,
        view=row.get("view", ""),
        proof=tuple(row.get("proof", ())),
        alone=row.get("alone", False),
    )


def _hold(name: str, row: Mapping[str, Any] | None) -> Hold | None:
    if row is None:
        return None
    by = next(key for key in row if key != "where")
    of = row[by]
    given = tuple(of) if isinstance(of, list) else () if of is True else (str(of),)
    known: Mapping[str, Iterable[str]] = {
        "station": stations(),
        "nil": reading_kinds(),
        "choice": choices(),
        "read": reading_kinds(),
    }
    for one in given:
        if by in known and one not in known[by]:
            raise AxleError(f"{name}, hold", given=f"“{one}”", wanted=_KEYS.get(by, "a reading kind"))
    return Hold(by, given, condition_from(name, row.get("where", {})))


def _check_names(found: Mapping[str, Step]) -> None:
    known: Mapping[str, Iterable[str]] = {
        "after": found,
        "tools": tools(),
        "hazards": hazards(),
        "readings": reading_kinds(),
        "treats": subjects(),
    }
    for step in found.values():
        for field, names in known.items():
            for name in getattr(step, field):
                if name not in names:
                    raise AxleError(f"{step.step}, {field}", given=f"“{name}”", wanted="a name that exists")
        if bool(step.wait) != bool(step.waiting):
            raise AxleError(f"{step.step}, wait", given=f"{step.waiting} min", wanted="minutes and a name")


def _load(name: str) -> dict[str, Any]:
    return read_table(__file__, f"data/{name}", dict[str, Any])
