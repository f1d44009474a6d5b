"""The register: what came off and what goes back, each part with its balloon on the section."""

from __future__ import annotations

import uuid
from collections.abc import Mapping
from typing import Any, Final

from django.urls import reverse
from django.utils.http import urlencode

from axle.procedure.register import LISTS, Item, items, items_of
from shop.drawing.tagged import Balloon, tagged
from shop.jobs.job_axle import JobAxle
from shop.jobs.models import RegisterLine
from shop.jobs.reconcile import reconcile
from shop.stock import tray

_EVENTS: Final = {"off": "came off", "back": "back in", "scrapped": "thrown away", "lost": "lost"}
_LISTS: Final = {
    "marks": "Marks",
    "shims": "Shims measured",
    "back": "Back in at reassembly",
    "tools_in": "Small tools counted in",
}
# Which lists are closed at teardown, and which as it goes together.
_TAKING_OFF, _GOING_BACK = ("marks", "shims"), ("back", "tools_in")


def register_page(axle: JobAxle, query: Mapping[str, str], *, going_back: bool = False) -> dict[str, Any]:
    """Every item with its history, and one of them in hand.

    :param going_back: the axle goes together; else it comes apart.
    """
    here = reverse("back-in" if going_back else "register", args=[axle.job.number])
    lines: dict[str, list[RegisterLine]] = {}
    for row in axle.register:
        lines.setdefault(row.item, []).append(row)
    rows = [
        _row(axle, item, index, lines.get(item.item, []), here)
        for index, item in enumerate(items_of(axle.plan.facts), start=1)
    ]
    in_hand = _in_hand(rows, query.get("item", ""), going_back=going_back)
    balloons = [
        Balloon(
            row["item"].item,
            row["item"].title,
            row["number"],
            state="back" if row["last"] == "scrapped" else row["last"],
            link=row["link"],
            current=row is in_hand,
        )
        for row in rows
    ]
    lists = [(_LISTS[name], axle.records.open_lists[name]) for name in _shown(going_back=going_back)]
    return {
        "going_back": going_back,
        "still_open": any(waiting for _, waiting in lists),
        "here": here,
        "rows": rows,
        "in_hand": in_hand,
        "offers": _offers(in_hand["item"], in_hand["last"], going_back=going_back) if in_hand else [],
        "needs_words": in_hand is not None and (not going_back or in_hand["item"].kind == "tool"),
        "drawing": tagged(axle.state.layout, balloons),
        "lists": lists,
        "packs": reconcile(axle),
        "own": [(item_title(own.lot.tray_item), own) for own in tray.owned(axle.job.shop, axle.job.number)],
        "entry": str(uuid.uuid4()),
    }


def item_title(item: str) -> str:
    """An item of the register as its title."""
    return items()[item].title


def event_words(event: str) -> str:
    """What happened to an item, in words."""
    return _EVENTS[event]


def _shown(*, going_back: bool) -> tuple[str, ...]:
    of = _GOING_BACK if going_back else _TAKING_OFF
    return tuple(name for name in LISTS if name in of)


def _row(axle: JobAxle, item: Item, index: int, said: list[RegisterLine], here: str) -> dict[str, Any]:
    off = [row for row in said if row.event == "off"]
    last = said[-1].event if said else ""
    return {
        "item": item,
        "number": index,
        "lines": [
            {
                "event": _EVENTS[row.event],
                "key": row.event,
                "words": row.words or str(row.count or ""),
                "by": row.signed_by,
                "at": row.at,
            }
            for row in said
        ],
        "last": last,
        "mark": (off[-1].words or str(off[-1].count or "")) if off else "",
        "link": f"{here}?{urlencode({'item': item.item})}",
    }


def _in_hand(rows: list[dict[str, Any]], asked: str, *, going_back: bool) -> dict[str, Any] | None:
    """The item that was asked for, else the next one that is still to be written."""
    for row in rows:
        if row["item"].item == asked:
            return row
    waits = (
        (lambda row: row["last"] == "off" and row["item"].kind != "scrap")
        if going_back
        else (lambda row: not row["last"])
    )
    return next((row for row in rows if waits(row)), None)


def _offers(item: Item, last: str, *, going_back: bool) -> list[tuple[str, str]]:
    """What can be written of an item, the usual first."""
    if item.kind == "tool":
        counted = [("off", "Counted out"), ("back", "Counted in")]
        return counted[::-1] if going_back or last == "off" else counted
    if item.kind == "scrap":
        return [("scrapped", "Thrown away")]
    if not last:
        return [("off", "Came off")]
    rest = [("scrapped", "Thrown away"), ("lost", "Lost")]
    if going_back or last in ("off", "lost"):
        return [("back", "Back in"), *rest, ("off", "Correct")]
    return [("off", "Correct"), ("back", "Back in"), *rest]
