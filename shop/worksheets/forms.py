"""Reading the forms of these pages that are more than one field."""

from collections.abc import Mapping
from typing import Any

from axle.errors import AxleError
from axle.measure.parse import parse
from axle.measure.units import Display, Unit
from shop.people.request import whole_number


def own_group_from(given: Mapping[str, str], display: Display) -> dict[str, Any]:
    """Read a group of the shop's own; no higher figure means "at least".

    :raises AxleError: naming the field that cannot be used.
    """
    found: dict[str, Any] = {
        name: given.get(name, "").strip()[:most]
        for name, most in (
            ("title", 40),
            ("shape", 20),
            ("thread", 24),
            ("grade", 24),
            ("hand", 5),
            ("coating", 60),
            ("source", 120),
            ("after", 20),
            ("note", 120),
        )
    }
    found["count"] = whole_number(given.get("count"), "count", 1, 40)
    found["low"] = float(parse(given.get("low", ""), display.bolt_torque, "torque").core)
    if given.get("high", "").strip():
        found["high"] = float(parse(given["high"], display.bolt_torque, "higher torque").core)
    return {name: value for name, value in found.items() if value != ""}


def correction_from(given: Mapping[str, str], unit: Unit) -> dict[str, Any]:
    """Read a correction of a group of fasteners; an empty field leaves the group as it is.

    :param unit: of torques that are typed without one.
    :raises AxleError: naming the field that cannot be used.
    """
    found: dict[str, Any] = {}
    if given.get("count", "").strip():
        found["count"] = whole_number(given["count"], "count", 1, 40)
    for name in ("thread", "grade", "hand", "coating"):
        if given.get(name, "").strip():
            found[name] = given[name].strip()[:60]
    low, high = given.get("low", "").strip(), given.get("high", "").strip()
    if low or high:
        if not (low and high):
            raise AxleError("torque", given="one figure", wanted="a lower and a higher one")
        found["low"] = float(parse(low, unit, "lower torque").core)
        found["high"] = float(parse(high, unit, "higher torque").core)
        found["source"] = given.get("source", "").strip()[:120]
    if not found:
        raise AxleError("correction", given="nothing", wanted="at least one field")
    return found
