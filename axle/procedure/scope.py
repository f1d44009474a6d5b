"""What a job covers: stations, steps, parts and places that are not part of it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from typing import Any

from axle.data_file import read_table
from axle.errors import AxleError
from axle.layout import Place


@dataclass(frozen=True)
class Scope:
    """What one job covers.

    :param scope: its name in records.
    :param title: in the trade's words.
    :param why: why somebody chooses it.
    :param words: the sentence on the build sheet.
    :param without: stations that are not part of it.
    :param steps: steps of other stations that are not part of it.
    :param items: items of the register that it does not ask for.
    :param groups: groups of fasteners that it does not tighten.
    :param parts: parts that it does not inspect.
    :param fixed: places that it does not change.
    """

    scope: str
    title: str
    why: str
    words: str
    without: frozenset[str] = frozenset()
    steps: frozenset[str] = frozenset()
    items: frozenset[str] = frozenset()
    groups: frozenset[str] = frozenset()
    parts: frozenset[str] = frozenset()
    fixed: frozenset[Place] = frozenset()


def scope_named(name: str) -> Scope:
    """Find a scope.

    :param name: as in ``scope.toml``.
    :raises AxleError: when there is none of that name.
    :source: ``scope.toml``.

    >>> scope_named("reshim").title
    'reshim'
    """
    found = scopes().get(name)
    if found is None:
        wanted = ", ".join(scope.title for scope in scopes().values())
        raise AxleError("what the job covers", given=f"“{name[:20]}”", wanted=wanted)
    return found


def scope_of(facts: Mapping[str, str]) -> Scope:
    """The scope of a job; the whole axle where nothing is said.

    :param facts: what the axle is, as :class:`axle.procedure.choices.Build` gives them.
    :source: ``scope.toml``; common practice.

    >>> "depth" in scope_of({"scope": "carrier"}).without, scope_of({}).scope
    (True, 'whole')
    """
    return scopes()[facts.get("scope", "whole")]


@cache
def scopes() -> Mapping[str, Scope]:
    """Every scope by name.

    :source: ``scope.toml``; common practice.
    """
    rows = read_table(__file__, "data/scope.toml", dict[str, Any])
    sets = ("without", "steps", "items", "groups", "parts")
    return {
        name: Scope(
            name,
            row["title"],
            why=row["why"],
            words=row["words"],
            **{field: frozenset(row.get(field, ())) for field in sets},
            fixed=frozenset(Place(place) for place in row.get("fixed", ())),
        )
        for name, row in rows.items()
    }
