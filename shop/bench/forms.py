"""What a builder typed for one reading: the value, and the conditions beside it."""

from __future__ import annotations

import re
from collections.abc import Mapping
from decimal import Decimal
from typing import Any, Final

from axle.errors import AxleError, quoted
from axle.measure.feeler import parse_feeler
from axle.measure.parse import between_ends, parse
from axle.measure.units import HOLE, Display, Quantity, Unit
from axle.preload.trials import both_ways
from axle.procedure.conditions import has_dial, has_pull, has_seal, has_stance, is_feeler
from axle.procedure.stations import ReadingKind
from shop.people.request import plain_number

_BOTH: Final = re.compile(r"\s*([\d.]+)\s*/\s*([\d.]+)\s*(.*)", re.DOTALL | re.ASCII)
_BOUND: Final = re.compile(r"\s*([<>])\s*(\S.*)", re.DOTALL)
# A torque of which a hand says that it turns nothing.
_STUCK: Final = ("cannot be turned", "will not turn", "does not turn", "stuck", "locked")
# Where a dial stood at both ends of a lever's swing: 40 → 52.
_ENDS: Final = re.compile(
    r"\s*([\d.,]+)\s*(?:\N{RIGHTWARDS ARROW}|->|to|\.\.)\s*([\d.,]+)\s*(.*)", re.DOTALL
)
_LOCKED: Final = ("locked", "lock", "locks", "gears lock", "gears locked")
# Kept in the form when an entry is questioned or refused.
KEPT: Final = (
    "confidence",
    "seal",
    "oil",
    "attitude",
    "figure",
    "nut",
    "sleeve",
    "mesh",
    "nut_torque",
    "turned",
    "shows",
    "tool",
    "lash",
    "caps",
    "settled",
    "held",
    "indicator",
    "stance",
    "lean",
    "radius",
    "pushed",
    "pull",
    "instrument",
    "again",
)


def typed_reading(
    kind: ReadingKind, given: Mapping[str, str], display: Display
) -> tuple[Quantity, dict[str, Any]]:
    """Read a value with its conditions from a form.

    :raises AxleError: naming the field that cannot be used.
    """
    quantity, conditions = _typed(kind, given, display)
    return quantity, conditions | ({"again": True} if given.get("again") else {})


def _typed(
    kind: ReadingKind, given: Mapping[str, str], display: Display
) -> tuple[Quantity, dict[str, Any]]:
    text = given.get("value", "")
    if kind.grades:
        return _judgement(kind, text), {}
    unit = display.unit_for(kind.dimension, bolt=kind.bolt)
    if has_stance(kind.kind):
        # Gears that lock have no backlash that could be read: it is 0 or less.
        locked = text.strip().lower() in _LOCKED
        quantity = Quantity(text.strip(), Decimal(0), unit) if locked else _length(kind, text, unit)
        return quantity, _backlash(given, display)
    if has_pull(kind.kind):
        settled = bool(given.get("settled")) if "pull" in given else True
        return parse(text, unit, kind.title), {"settled": settled}
    if is_feeler(kind.kind):
        quantity, interval = parse_feeler(text, unit, kind.title)
        if interval is None:
            return quantity, {}
        return quantity, {"passes": float(interval.passes), "binds": float(interval.binds)}
    if has_seal(kind.kind):
        return _torque(kind, given, display)
    quantity = _length(kind, text, unit)
    if has_dial(kind.kind) and given.get("shows", "travel") != "travel":
        shows, _, revolution = given["shows"].partition(":")
        return quantity, {"shows": shows, "revolution": _float("revolution", revolution)}
    return quantity, {}


def _length(kind: ReadingKind, text: str, unit: Unit) -> Quantity:
    """A number, or both ends of a dial: what lies between them is what was read."""
    ends = _ENDS.fullmatch(text) if "indicator" in kind.instruments else None
    if ends is None:
        return parse(text, unit, kind.title)
    one, other = (parse(f"{ends[n]} {ends[3]}".strip(), unit, kind.title) for n in (1, 2))
    return between_ends(one, other, text)


def _judgement(kind: ReadingKind, text: str) -> Quantity:
    """A hand's judgement: one of the kind's words."""
    words = text.strip().lower()
    if words not in kind.grades:
        raise AxleError(kind.title, given=quoted(text, 30), wanted=" or ".join(kind.grades))
    return Quantity(words, Decimal(kind.grades.index(words) + 1), HOLE)


def _backlash(given: Mapping[str, str], display: Display) -> dict[str, Any]:
    """How backlash was read; what the form does not ask is as usual."""
    found: dict[str, Any] = {}
    if given.get("places"):
        found["places"] = plain_number(given["places"], 0)
    if "lash" not in given:
        return found
    found |= {"settled": bool(given.get("settled")), "held": bool(given.get("held"))}
    for name in ("caps", "indicator", "stance", "pushed"):
        if given.get(name):
            found[name] = given[name]
    if given.get("lean", "").strip():
        found["lean"] = _float("indicator off its line", given["lean"])
    if given.get("radius", "").strip():
        found["radius"] = float(parse(given["radius"], display.length, "radius touched").core)
    return found


def _torque(
    kind: ReadingKind, given: Mapping[str, str], display: Display
) -> tuple[Quantity, dict[str, Any]]:
    text, unit = given.get("value", ""), display.unit_for(kind.dimension, bolt=kind.bolt)
    conditions: dict[str, Any] = {"seal": bool(given.get("seal"))}
    for name in ("oil", "attitude", "figure", "nut", "sleeve", "mesh"):
        if given.get(name):
            conditions[name] = given[name]
    if given.get("turned", "").strip():
        conditions["turned"] = _float("nut turned", given["turned"])
    if given.get("nut_torque", "").strip():
        at_nut = parse(given["nut_torque"], display.bolt_torque, "torque at the nut")
        conditions["nut_torque"] = float(at_nut.core)
    bound = _BOUND.fullmatch(text)
    if bound is not None or text.strip().lower() in _STUCK:
        return _torque_bound(kind, text, bound, unit), conditions | {
            "bound": "under" if bound is not None and bound[1] == "<" else "over"
        }
    both = _BOTH.fullmatch(text)
    if both is None:
        return parse(text, unit, kind.title), conditions
    one, other = (parse(f"{part} {both[3]}".strip(), unit, kind.title) for part in both.groups()[:2])
    mean, _ = both_ways(float(one.value), float(other.value))
    quantity = parse(f"{round(mean, 6)} {one.unit.symbol}", unit, kind.title)
    return Quantity(text.strip(), quantity.value, one.unit), conditions | {
        "both": [float(one.core), float(other.core)]
    }


def _torque_bound(kind: ReadingKind, text: str, bound: re.Match[str] | None, unit: Unit) -> Quantity:
    """A torque that is only known to be more or less than a figure, or that nobody can turn."""
    if bound is not None:
        figure = parse(bound[2], unit, kind.title)
        return Quantity(text.strip(), figure.value, figure.unit)
    top = kind.plausible.high / unit.factor
    return Quantity(text.strip(), top.quantize(Decimal("0.1")), unit)


def _float(what: str, text: str) -> float:
    try:
        return float(text)
    except ValueError:
        raise AxleError(what, given=quoted(text, 20), wanted="a number") from None
