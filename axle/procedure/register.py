"""The register of parts and marks: what came off, how it is told apart, and what is still out."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from decimal import Decimal
from enum import Enum
from functools import cache
from typing import Any

from axle.data_file import read_table
from axle.errors import AxleError, quoted
from axle.measure.parse import parse
from axle.measure.units import Display
from axle.procedure.choices import Condition, Facts, condition_from, holds
from axle.procedure.scope import scope_of

LISTS = ("marks", "shims", "back", "tools_in")
_PIECES = 12
# Items that are no thin shims: up to some 2 in long.
_LONG = ("spacer", "old_sleeve")


class Event(Enum):
    """What happened to an item."""

    OFF = "off"
    BACK = "back"
    SCRAPPED = "scrapped"
    LOST = "lost"


@dataclass(frozen=True)
class Item:
    """Something that comes off and is asked for again.

    :param item: its name in records.
    :param title: in the trade's words.
    :param kind: "mark", "shim", "part", "scrap" or "tool".
    :param ask: what is written down as it comes off.
    :param when: facts under which the job has it.
    :param measured: whether its size is written down, as a shim's is.
    """

    item: str
    title: str
    kind: str
    ask: str
    when: Condition
    measured: bool = False


@dataclass(frozen=True)
class Entry:
    """One line of the register.

    :param item: name of the item.
    :param event: what happened to it.
    :param words: mark, way up, place or reason, as written.
    :param pieces: thickness of each piece of a shim pack [mm].
    :param count: number of small tools, of a tool entry.
    """

    item: str
    event: Event
    words: str = ""
    pieces: tuple[Decimal, ...] = ()
    count: int = 0


@cache
def items() -> Mapping[str, Item]:
    """Every item by name.

    :source: ``register.toml``; common practice.
    """
    rows = read_table(__file__, "data/register.toml", dict[str, Any])
    return {
        name: Item(
            name,
            row["title"],
            kind=row["kind"],
            ask=row["ask"],
            when=condition_from(name, row.get("when", {})),
            measured=row.get("measured", row["kind"] == "shim"),
        )
        for name, row in rows.items()
    }


def items_of(facts: Facts) -> tuple[Item, ...]:
    """The items of one job.

    :param facts: what the axle is.
    :source: ``register.toml``.

    >>> [item.item for item in items_of({"slinger": "yes"})]
    ['gear', 'shim_depth', 'slinger', 'tools']
    """
    left_out = scope_of(facts).items
    return tuple(i for i in items().values() if i.item not in left_out and holds(i.when, facts))


def entry(item: Item, event: Event, words: str, display: Display) -> Entry:
    """Check what is written of an item.

    :param item: the item.
    :param event: what happened to it.
    :param words: as typed: a mark, pieces with +, a number, or a reason.
    :param display: units in which thicknesses are typed.
    :returns: the line, its pieces and count read out of the words.
    :raises AxleError: where what the item needs is not there.
    :source: common practice.

    >>> from axle.measure.units import IMPERIAL
    >>> entry(items()["shim_depth"], Event.OFF, "20 + 9", IMPERIAL).pieces
    (Decimal('0.5080'), Decimal('0.2286'))
    """
    text = words.strip()[:200]
    if event in (Event.SCRAPPED, Event.LOST) and item.kind != "scrap" and len(text) < 4:
        raise AxleError(item.title, given=quoted(text), wanted="why, in a few words")
    if event is Event.OFF and item.kind == "mark" and len(text) < 3:
        raise AxleError(
            f"{item.title}, mark",
            given=quoted(text),
            wanted="how it is marked, punched or scribed, and which way is up",
        )
    if event is Event.OFF and item.kind == "mark" and "paint" in text.lower() and len(text) < 12:
        raise AxleError(
            f"{item.title}, mark",
            given="paint alone",
            wanted="a punched or scribed mark",
            do="Paint washes off in the first bath.",
        )
    pieces: tuple[Decimal, ...] = ()
    count = 0
    if item.measured and event in (Event.OFF, Event.BACK) and text.lower() not in ("", "none"):
        pieces = _pieces(item, text, display)
    if item.kind == "shim" and event is Event.OFF and not text:
        raise AxleError(item.title, given="nothing", wanted="each piece as mic'd, or none")
    if item.kind == "tool":
        if not (text.isascii() and text.isdigit() and 0 <= int(text) <= 500):
            raise AxleError(item.title, given=quoted(text), wanted="a number, 0 to 500")
        count = int(text)
    return Entry(item.item, event, words=text, pieces=pieces, count=count)


def open_items(
    of: str, facts: Facts, lines: Iterable[Entry], fitted: Mapping[str, int] | None = None
) -> tuple[str, ...]:
    """Say what a list of the register still waits for.

    :param of: "marks", "shims", "back" or "tools_in".
    :param facts: what the axle is.
    :param lines: every line of the register, oldest first.
    :param fitted: number of pieces fitted now by shim item, where that is known: a pack that was
        changed on purpose asks for no old pieces back.
    :returns: one sentence for each open item; none when the list is closed.
    :raises AxleError: for a list that does not exist.
    :source: common practice.

    >>> open_items("marks", {"carrier_by": "covers"}, ())[0]
    'Side cover, left: not marked yet.'
    """
    if of not in LISTS:
        raise AxleError("list", given=f"“{of}”", wanted=", ".join(LISTS))
    last: dict[str, Entry] = {}
    first: dict[str, Entry] = {}
    for line in lines:
        last[line.item] = line
        if line.event is Event.OFF:
            first[line.item] = line
    found = []
    for item in items_of(facts):
        words = _open(
            of,
            item,
            off=first.get(item.item),
            now=last.get(item.item),
            fitted=(fitted or {}).get(item.item, 0),
        )
        if words:
            found.append(f"{item.title}: {words}")
    return tuple(found)


def _open(of: str, item: Item, off: Entry | None, now: Entry | None, fitted: int) -> str:  # noqa: C901, PLR0911 - one line for each way to be open
    if of == "marks":
        return "not marked yet." if item.kind == "mark" and off is None else ""
    if of == "shims":
        if now is not None and now.event is Event.LOST and item.kind == "shim":
            return f"lost ({now.words}). Look behind the pulled bearings."
        return "not measured yet." if item.kind == "shim" and off is None else ""
    if of == "tools_in":
        if item.kind != "tool":
            return ""
        if off is None:
            return "not counted out, so they cannot be counted in."
        if now is None or now.event is Event.OFF:
            return f"{off.count} out, not counted in yet."
        missing = off.count - now.count
        return f"{missing} of {off.count} not back: look in the housing." if missing > 0 else ""
    if item.kind == "tool":
        return ""
    if off is None:
        # What was never written down cannot be asked back: that is not the same as accounted for.
        return "never written down, so it cannot be asked back." if item.kind in ("mark", "shim") else ""
    if now is None or now.event is Event.OFF:
        return "" if item.kind == "scrap" or (item.kind == "shim" and fitted) else "not back yet."
    if now.event is Event.LOST:
        return f"lost ({now.words}): it is still in the axle until it is found."
    short = len(off.pieces) - len(now.pieces)
    if item.kind == "shim" and now.event is Event.BACK and now.pieces and short > 0 and not fitted:
        return f"{len(off.pieces)} pieces came off, {len(now.pieces)} are back: look behind the bearings."
    return ""


def _pieces(item: Item, text: str, display: Display) -> tuple[Decimal, ...]:
    parts = [part for part in text.split("+") if part.strip()]
    if not 1 <= len(parts) <= _PIECES:
        raise AxleError(item.title, given=f"{len(parts)} pieces", wanted=f"1 to {_PIECES}, with + between")
    found = tuple(parse(part, display.length, item.title).core for part in parts)
    most = 49 if item.item in _LONG else 20
    for piece, part in zip(found, parts, strict=True):
        if not Decimal("0.02") <= piece <= most:
            raise AxleError(
                item.title,
                given=f"a piece of “{part.strip()}”",
                wanted=f"0.02 to {most} mm",
                do="Check the unit.",
            )
    return found
