"""A whole spec as plain data, as files and a job's own copy keep it: layout, gears and limits."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace
from enum import Enum
from functools import cache
from typing import Any, TypeVar

from axle.contact.cut import usual_family
from axle.contact.gears import usual_figures
from axle.contact.patch import Patch
from axle.data_file import read_table
from axle.errors import AxleError
from axle.gearset import GearSet, Stance
from axle.layout import (
    CarrierBy,
    DepthShim,
    Flank,
    Hand,
    Housing,
    Layout,
    PreloadBy,
    Side,
    SpacerSeat,
)
from axle.spec.limits import BacklashRule
from axle.spec.sheet import Figure, Sheet, SpecValue, spec_value

LAYOUT_CHOICES: Mapping[str, type[Enum]] = {
    "depth_shim": DepthShim,
    "preload_by": PreloadBy,
    "carrier_by": CarrierBy,
    "housing": Housing,
    "ring_side": Side,
    "spacer_seat": SpacerSeat,
    "drive_flank": Flank,
    "bolt_hand": Hand,
}
# What is asked of a gear set beside its teeth and its ring gear's diameter: lengths in mm, angles in
# degrees. What nobody knows is taken from the family of cut, or from usual tooth proportions.
FROM_FAMILY = ("face_width", "offset", "ring_spiral", "drive_angle", "coast_angle")
PROPORTIONS = ("cutter_radius", "working_depth", "addendum_share")
GEAR_FIGURES = (*FROM_FAMILY, *PROPORTIONS)
GEAR_WORDS = ("family", "hand")
HANDS: Mapping[str, str] = {"": "not known", "left": "left", "right": "right"}
_ANGLES = ("ring_spiral", "drive_angle", "coast_angle")
_Kind = TypeVar("_Kind", bound=Enum)


@dataclass(frozen=True)
class AxleSpec:
    """What a job is built to.

    :param layout: where it keeps its shims.
    :param gears: its gear set.
    :param sheet: its limits.
    :param chart: the gear maker's chart as the shop drew it, by flank word, or empty.
    """

    layout: Layout
    gears: GearSet
    sheet: Sheet
    chart: Mapping[str, Patch]


def read_spec(data: Mapping[str, Any]) -> AxleSpec:
    """Read a spec from plain data; lengths in mm, angles in degrees, limits as typed.

    :param data: mapping with ``name``, ``layout``, ``gears``, ``values``, ``backlash_rule``,
        ``stance`` and, where the shop drew it, the maker's ``chart``.
    :raises AxleError: naming the first entry that cannot be used.
    :source: the project's own job format, docs/format.md.

    >>> read_spec(starter_specs()["works-van"]).layout.depth_shim.value
    'head'
    """
    layout = _mapping(data, "layout")
    choices: dict[str, Any] = {name: _choice(kind, layout, name) for name, kind in LAYOUT_CHOICES.items()}
    layout_made = Layout(**choices)
    values = {str(key): _spec_value(str(key), row) for key, row in _mapping(data, "values").items()}
    return AxleSpec(
        layout_made,
        _gear_set(_mapping(data, "gears"), drive_convex=layout_made.drive_flank is Flank.CONVEX),
        sheet=Sheet(
            str(data.get("name", "")),
            values,
            backlash_rule=_choice(BacklashRule, data, "backlash_rule"),
            stance=_choice(Stance, data, "stance"),
            figure=_choice(Figure, {"torque_figure": Figure.RUNNING.value, **data}, "torque_figure"),
        ),
        chart={
            name: Patch(tuple((float(u), float(v)) for u, v in outline))
            for name, outline in (data.get("chart") or {}).items()
        },
    )


def _spec_value(key: str, row: Mapping[str, Any]) -> SpecValue:
    """One row of a sheet, with what a second manual gives for it."""
    value = spec_value(
        key,
        row.get("low"),
        high=row.get("high"),
        unit=str(row.get("unit")),
        source=str(row.get("source")),
        note=str(row.get("note", "")),
        tolerance=row.get("tolerance"),
    )
    if not row.get("second"):
        return value
    return replace(value, second=_spec_value(key, row["second"]), by_second=row.get("in_force") == "second")


def _gear_set(data: Mapping[str, Any], *, drive_convex: bool) -> GearSet:
    pinion_teeth, ring_teeth = _teeth(data, "pinion_teeth"), _teeth(data, "ring_teeth")
    diameter = _figure(data, "ring_diameter")
    known = {name: _figure(data, name) for name in GEAR_FIGURES if data.get(name) not in (None, "")}
    for name in _ANGLES:
        if name in known:
            known[name] = math.radians(known[name])
    hand = str(data.get("hand") or "")
    if hand not in HANDS:
        raise AxleError("pinion's hand", given=f"“{hand[:20]}”", wanted="left or right")
    family = str(data.get("family") or usual_family(known.get("offset")))
    rest = {name: known.pop(name, 0.0) for name in PROPORTIONS}
    figures = usual_figures(
        family,
        pinion_teeth,
        ring_teeth=ring_teeth,
        ring_diameter=diameter,
        known=known,
        drive_convex=drive_convex,
    )
    return GearSet(
        pinion_teeth,
        ring_teeth,
        ring_diameter=diameter,
        face_width=figures["face_width"],
        offset=figures["offset"],
        ring_spiral=figures["ring_spiral"],
        drive_angle=figures["drive_angle"],
        coast_angle=figures["coast_angle"],
        family=family,
        cutter_radius=rest["cutter_radius"],
        working_depth=rest["working_depth"],
        addendum_share=rest["addendum_share"],
        drive_convex=drive_convex,
        assumed=tuple(name for name in FROM_FAMILY if name not in known),
    )


@cache
def starter_specs() -> Mapping[str, dict[str, Any]]:
    """Starter sheets by name, made up and to be replaced from the maker's sheet.

    :source: ``starter_specs.toml``.
    """
    rows = read_table(__file__, "data/starter_specs.toml", dict[str, Any])
    usual, sheets = rows.pop("usual"), {}
    for key, row in rows.items():
        sheets[key] = {
            "name": row["name"],
            "note": row.get("note", ""),
            "layout": usual["layout"] | row["layout"],
            "gears": usual["gears"] | row["gears"],
            "backlash_rule": row.get("backlash_rule", "smallest"),
            "stance": row.get("stance", "unsure"),
            "values": {
                name: {"low": None, "source": "demo", "note": ""} | value
                for name, value in (usual["values"] | row["values"]).items()
            },
        }
    return sheets


def _choice(kind: type[_Kind], data: Mapping[str, Any], name: str) -> _Kind:
    given = data.get(name)
    try:
        return kind(given)
    except ValueError:
        wanted = " or ".join(str(member.value) for member in kind)
        raise AxleError(name.replace("_", " "), given=f"“{given}”", wanted=wanted) from None


def _mapping(data: Mapping[str, Any], name: str) -> Mapping[str, Any]:
    found = data.get(name)
    if not isinstance(found, Mapping):
        raise AxleError(name, given="nothing usable", wanted="a group of values")
    return found


def _figure(data: Mapping[str, Any], name: str) -> float:
    try:
        return float(data[name])
    except (KeyError, TypeError, ValueError):
        raise AxleError(name.replace("_", " "), given=f"“{data.get(name)}”", wanted="a number") from None


def _teeth(data: Mapping[str, Any], name: str) -> int:
    try:
        return int(data[name])
    except (KeyError, TypeError, ValueError):
        raise AxleError(
            name.replace("_", " "), given=f"“{data.get(name)}”", wanted="a whole number of teeth"
        ) from None


@cache
def choice_words() -> Mapping[str, dict[str, str]]:
    """Words for every choice of a spec, by choice and value; "title" heads each.

    :raises AxleError: when a choice has no words or words have no choice.
    :source: ``layout_words.toml``.

    >>> choice_words()["stance"]["square"]
    'square to the flank'
    """
    words = read_table(__file__, "data/layout_words.toml", dict[str, dict[str, str]])
    kinds: dict[str, type[Enum]] = {
        **LAYOUT_CHOICES,
        "backlash_rule": BacklashRule,
        "stance": Stance,
        "torque_figure": Figure,
    }
    for name, kind in kinds.items():
        if set(words.get(name, ())) - {"title"} != {str(member.value) for member in kind}:
            raise AxleError("layout_words.toml", given=f"“{name}”", wanted="words for every value")
    return words
