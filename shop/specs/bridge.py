"""Between a sheet's rows and the core's plain data."""

from typing import Any

from axle.spec.reader import GEAR_FIGURES, GEAR_WORDS, LAYOUT_CHOICES
from shop.specs.models import SpecSheet, SpecValue


def plain(sheet: SpecSheet) -> dict[str, Any]:
    """Copy a sheet as plain data: what a job keeps, and what a file holds."""
    return {
        "name": sheet.name,
        "layout": {name: getattr(sheet, name) for name in LAYOUT_CHOICES},
        "gears": {
            "pinion_teeth": sheet.pinion_teeth,
            "ring_teeth": sheet.ring_teeth,
            "ring_diameter": float(sheet.ring_diameter),
            **{name: getattr(sheet, name) for name in GEAR_WORDS if getattr(sheet, name)},
            **{
                name: float(getattr(sheet, name))
                for name in GEAR_FIGURES
                if getattr(sheet, name) is not None
            },
        },
        "chart": sheet.chart,
        "backlash_rule": sheet.backlash_rule,
        "stance": sheet.stance,
        **({"torque_figure": sheet.torque_figure} if sheet.torque_figure != "running" else {}),
        "values": {value.key: _value(value) for value in sheet.values.all()},
    }


def _value(value: SpecValue) -> dict[str, Any]:
    """One row; what it does not have is left out, as in files of before."""
    row: dict[str, Any] = {
        "low": _text(value.low),
        "high": _text(value.high),
        "unit": value.unit,
        "source": value.source,
        "note": value.note,
    }
    if value.tolerance is not None:
        row["tolerance"] = _text(value.tolerance)
    if value.second:
        row |= {"second": value.second, "in_force": value.in_force}
    return row


def rows(data: dict[str, Any]) -> tuple[dict[str, Any], list[SpecValue]]:
    """Take plain data apart into a sheet's own fields and its values, not yet saved."""
    fields = {
        "name": data["name"],
        "note": data.get("note", ""),
        "backlash_rule": data["backlash_rule"],
        "stance": data["stance"],
        "torque_figure": data.get("torque_figure", "running"),
        **data["layout"],
        **dict.fromkeys(GEAR_WORDS, ""),
        **dict.fromkeys(GEAR_FIGURES),
        **data["gears"],
        **({"chart": data["chart"]} if "chart" in data else {}),
    }
    values = [SpecValue(key=key, **row) for key, row in data["values"].items()]
    return fields, values


def _text(number: Any) -> str | None:
    return None if number is None else f"{number.normalize():f}"
