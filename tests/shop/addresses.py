"""Every address of the program, from its own table: a new one cannot be forgotten by the tests that use it."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from django.urls import URLPattern, URLResolver, get_resolver

from shop.people.rules import Right

# What each form is a right of. A form that is not here fails a test.
RIGHT_OF = {
    "sign-in": Right.OWN,
    "second-factor-code": Right.OWN,
    "sign-out": Right.OWN,
    "set-up": Right.OWN,
    "own-password": Right.OWN,
    "second-factor": Right.OWN,
    "end-own-sign-ins": Right.OWN,
    "units": Right.OWN,
    "foot-switch": Right.OWN,
    "people": Right.PEOPLE,
    "role": Right.PEOPLE,
    "reset-password": Right.PEOPLE,
    "let-go": Right.PEOPLE,
    "end-sign-ins": Right.PEOPLE,
    "remove-second-factor": Right.PEOPLE,
    "ways": Right.SHOP,
    "shop": Right.SHOP,
    "owned-tools": Right.SHOP,
    "use-figures": Right.SHOP,
    "gather-figures": Right.SHOP,
    "another-shop": Right.SHOP,
    "demo-shop": Right.SHOP,
    "shop-second-factor": Right.SHOP,
    "hours": Right.SHOP,
    "absence": Right.OWN,
    "make-plan": Right.SCHEDULE,
    "move-stretch": Right.SCHEDULE,
    "plan-calendar": Right.OWN,
    "parts-list": Right.PARTS,
    "money": Right.MONEY,
    "place-order": Right.ORDER,
    "receive-line": Right.PARTS,
    "supplier": Right.ORDER,
    "supplier-price": Right.ORDER,
    "gear-sets": Right.ORDER,
    "vehicle": Right.MEASURE,
    "counted": Right.MEASURE,
    "ratio": Right.PLAN,
    "oil": Right.MEASURE,
    "road-test": Right.MEASURE,
    "break-in": Right.MEASURE,
    "by-hand": Right.MEASURE,
    "recordings": Right.MEASURE,
    "recordings-after": Right.MEASURE,
    "noise": Right.MEASURE,
    "noise-after": Right.MEASURE,
    "new-job": Right.OPEN,
    "import-job": Right.IMPORT,
    "new-sheet": Right.SHEETS,
    "edit-sheet": Right.SHEETS,
    "follow-sheet": Right.SHEETS,
    "maker-chart": Right.SHEETS,
    "drawer": Right.STOCK_IN,
    "kits": Right.STOCK_IN,
    "receive-kit": Right.STOCK_IN,
    "mic": Right.STOCK_IN,
    "condition": Right.STOCK_IN,
    "drawer-table": Right.STOCK_OUT,
    "scrap": Right.STOCK_OUT,
    "low": Right.STOCK_OUT,
    "instruments": Right.INSTRUMENTS,
    "instrument": Right.INSTRUMENTS,
    "retire-instrument": Right.INSTRUMENTS,
    "order-instrument": Right.MEASURE,
    "work": Right.PLAN,
    "school": Right.PLAN,
    "pattern-target": Right.PLAN,
    "torque": Right.TORQUES,
    "sign": Right.SIGN,
    "waive-all": Right.SIGN,
    "tighten": Right.SIGN,
    "reopen": Right.REOPEN,
    "reading": Right.MEASURE,
    "confirm-mark": Right.MEASURE,
    "undo": Right.MEASURE,
    "redo": Right.MEASURE,
    "strike": Right.MEASURE,
    "way": Right.MEASURE,
    "take-move": Right.MEASURE,
    "adjusters": Right.MEASURE,
    "lash-places": Right.PLAN,
    "sleeve": Right.MEASURE,
    "shape": Right.MEASURE,
    "fit": Right.MEASURE,
    "step": Right.MEASURE,
    "station-done": Right.MEASURE,
    "timer": Right.MEASURE,
    "end-timer": Right.MEASURE,
    "photo": Right.MEASURE,
    "mark-pattern": Right.MEASURE,
    "mark-pattern-words": Right.MEASURE,
    "pattern-print": Right.MEASURE,
    "pattern-upload": Right.MEASURE,
    "pattern-photo": Right.MEASURE,
    "pattern-read": Right.MEASURE,
    "tools": Right.MEASURE,
    "arrival": Right.MEASURE,
    "register": Right.MEASURE,
    "back-in": Right.MEASURE,
    "findings": Right.MEASURE,
    "runout": Right.MEASURE,
    "clock": Right.MEASURE,
    "heights": Right.MEASURE,
    "carrier": Right.MEASURE,
    "spread": Right.MEASURE,
    "practice-start": Right.PRACTISE,
    "practice-answer": Right.PRACTISE,
    "practice-round-hint": Right.PRACTISE,
    "practice-hint": Right.PRACTISE,
    "practice-nut": Right.PRACTISE,
    "practice-name": Right.PRACTISE,
    "practice-print": Right.PRACTISE,
    "practice-finish": Right.PRACTISE,
}
# Answered to anybody, signed in or not.
PUBLIC = {"sign-in", "set-up", "healthy", "job-schema", "plan-feed", "phone"}


def addresses() -> Iterator[tuple[str, dict[str, Any]]]:
    """Name of each address, and its parts with their converters."""
    yield from _under(get_resolver().url_patterns, {})


def _under(patterns: list[Any], before: dict[str, Any]) -> Iterator[tuple[str, dict[str, Any]]]:
    for pattern in patterns:
        parts = before | dict(pattern.pattern.converters)
        if isinstance(pattern, URLResolver):
            yield from _under(pattern.url_patterns, parts)
        elif isinstance(pattern, URLPattern):
            yield str(pattern.name), parts
