"""The prints' part of a job file: how each was made, what is wiped on each flank, the maker's chart."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from axle.contact.making import making_of
from axle.errors import AxleError
from shop.jobs.models import AppendOnly, Assembly, Pattern, PrintMade
from shop.jobs.rows import patch_of

# What a file of before did not have, and what it was then.
_SINCE = {
    "more": [],
    "number": 1,
    "place": 1,
    "tooth": None,
    "edge": "feathered",
    "strength": "clear",
    "photo_entry": None,
    "corners": [],
}
_Common = Callable[[AppendOnly], dict[str, Any]]


def write(assembly: Assembly, common: _Common) -> dict[str, Any]:
    """The prints of one assembly as plain data."""
    return {
        "patterns": [
            common(row)
            | {"flank": row.flank, "outline": row.outline, "taken": row.taken, "note": row.note}
            | {name: getattr(row, name) for name in _SINCE}
            | {"photo_entry": str(row.photo_entry) if row.photo_entry else None}
            for row in assembly.patterns.order_by("id")
        ],
        "prints": [
            common(row) | {"number": row.number, "making": row.making}
            for row in assembly.prints.order_by("id")
        ],
    }


def check(
    where: str,
    assembly: Mapping[str, Any],
    refuse: Callable[[str, str, str], Any],
    row: Callable[[Mapping[str, Any], str], None],
) -> None:
    """Hold the prints of a file to what the core knows; ``row`` checks what all rows share."""
    for index, given in enumerate(assembly["patterns"]):
        at = f"{where}/patterns/{index}"
        row(given, at)
        for name, outline in (
            ("outline", given["outline"]),
            *((f"more/{n}", outline) for n, outline in enumerate(given.get("more", []))),
        ):
            try:
                patch_of(outline)
            except AxleError as problem:
                refuse(f"{at}/{name}", problem.given, problem.wanted)
    for index, given in enumerate(assembly.get("prints", [])):
        at = f"{where}/prints/{index}"
        row(given, at)
        try:
            making_of(given["making"])
        except AxleError as problem:
            refuse(f"{at}/making, {problem.what}", problem.given, problem.wanted)


def make(
    assembly: Assembly, given: Mapping[str, Any], shared: Callable[[dict[str, Any]], dict[str, Any]]
) -> None:
    """Make the rows of one assembly's prints."""
    for row in given["patterns"]:
        since = {name: row.get(name, usual) for name, usual in _SINCE.items()}
        Pattern.objects.create(
            assembly=assembly,
            flank=row["flank"],
            outline=row["outline"],
            taken=row["taken"],
            note=row["note"],
            **since,
            **shared(row),
        )
    for row in given.get("prints", []):
        PrintMade.objects.create(
            assembly=assembly, number=row["number"], making=row["making"], **shared(row)
        )
