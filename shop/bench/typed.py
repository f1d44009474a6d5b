"""What a builder typed for one reading: the value, and the conditions beside it."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Any, Final

from axle.errors import AxleError, quoted
from axle.feeler import parse_feeler
from axle.preload.trials import both_ways
from axle.procedure.conditions import has_dial, has_seal, is_feeler
from axle.procedure.stations import ReadingKind
from axle.units import Display, Quantity, parse

_BOTH: Final = re.compile(r"\s*([\d.]+)\s*/\s*([\d.]+)\s*(.*)", re.DOTALL | re.ASCII)
# Kept in the form when an entry is questioned or refused.
KEPT: Final = (
    "confidence", "seal", "oil", "attitude", "figure", "nut", "nut_torque", "turned", "shows", "tool",
)  # fmt: skip


def typed_reading(
    kind: ReadingKind, given: Mapping[str, str], display: Display
) -> tuple[Quantity, dict[str, Any]]:
    """Read a value with its conditions from a form.

    :raises AxleError: naming the field that cannot be used.
    """
    text = given.get("value", "")
    unit = display.unit_for(kind.dimension, bolt=kind.bolt)
    if is_feeler(kind.kind):
        quantity, interval = parse_feeler(text, unit, kind.title)
        if interval is None:
            return quantity, {}
        return quantity, {"passes": float(interval.passes), "binds": float(interval.binds)}
    if has_seal(kind.kind):
        return _torque(kind, given, display)
    quantity = parse(text, unit, kind.title)
    if has_dial(kind.kind) and given.get("shows", "travel") != "travel":
        shows, _, revolution = given["shows"].partition(":")
        return quantity, {"shows": shows, "revolution": _float("revolution", revolution)}
    return quantity, {}


def _torque(
    kind: ReadingKind, given: Mapping[str, str], display: Display
) -> tuple[Quantity, dict[str, Any]]:
    text, unit = given.get("value", ""), display.unit_for(kind.dimension, bolt=kind.bolt)
    conditions: dict[str, Any] = {"seal": bool(given.get("seal"))}
    for name in ("oil", "attitude", "figure", "nut"):
        if given.get(name):
            conditions[name] = given[name]
    if given.get("turned", "").strip():
        conditions["turned"] = _float("nut turned", given["turned"])
    if given.get("nut_torque", "").strip():
        at_nut = parse(given["nut_torque"], display.bolt_torque, "torque at the nut")
        conditions["nut_torque"] = float(at_nut.core)
    both = _BOTH.fullmatch(text)
    if both is None:
        return parse(text, unit, kind.title), conditions
    one, other = (parse(f"{part} {both[3]}".strip(), unit, kind.title) for part in both.groups()[:2])
    mean, _ = both_ways(float(one.value), float(other.value))
    quantity = parse(f"{round(mean, 6)} {one.unit.symbol}", unit, kind.title)
    return Quantity(text.strip(), quantity.value, one.unit), conditions | {
        "both": [float(one.core), float(other.core)]
    }


def _float(what: str, text: str) -> float:
    try:
        return float(text)
    except ValueError:
        raise AxleError(what, given=quoted(text, 20), wanted="a number") from None
