"""The form of a vehicle, made from the fields that the core asks."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from axle.errors import AxleError
from axle.gearing.tyres import Rolling
from axle.gearing.vehicle import GROUPS, LONGEST, End, fields, problems, vehicle_from
from axle.measure.figures import LENGTH
from shop.vehicles.models import Vehicle
from shop.vehicles.services import VehicleWords


def words_from(given: Mapping[str, str]) -> VehicleWords:
    """A vehicle as the form gives it."""
    figures = {name: given.get(f"f-{name}", "") for name in fields()}
    return VehicleWords(given.get("name", ""), given.get("note", ""), figures)


def vehicle_form(vehicle: Vehicle | None, typed: Mapping[str, str]) -> dict[str, Any]:
    """The fields by group, as typed where that was refused, else as they are kept."""
    kept = vehicle.figures if vehicle else {}
    values = {name: typed.get(f"f-{name}", "") if typed else kept.get(name, "") for name in fields()}
    wrong = problems({name: text for name, text in values.items() if text})
    groups = []
    for group, title in GROUPS.items():
        rows = [
            {
                "name": f"f-{name}",
                "title": field.title,
                "hint": field.hint,
                "choices": list(field.values.items()),
                "value": values[name],
                "wrong": str(wrong[name]) if name in wrong and typed else "",
                "wide": field.kind in ("gears", "curve"),
            }
            for name, field in fields().items()
            if field.group == group
        ]
        # What is known, or wrong, is shown open; tyres, axles and gearbox always.
        is_open = any(row["value"] for row in rows) or group in ("tyres", "axles", "gearbox", "engine")
        groups.append({"title": title, "rows": rows, "open": is_open})
    name = typed.get("name", "") if typed else vehicle.name if vehicle else ""
    note = typed.get("note", "") if typed else vehicle.note if vehicle else ""
    return {"groups": groups, "name": name, "note": note, "longest": LONGEST, "tyres": tyre_rows(kept)}


def tyre_rows(figures: Mapping[str, str]) -> list[dict[str, str]]:
    """What the tyres come to: how far a wheel goes in a turn, how well that is known, and from what."""
    try:
        vehicle = vehicle_from(figures)
    except AxleError:
        return []
    found = []
    for words, tyres in (("as it was", vehicle.before), ("from now on", vehicle.after)):
        front, rear = tyres.get(End.FRONT), tyres.get(End.REAR)
        if front is not None and front == rear:
            found.append(_tyre_row(words, front))
        elif front is not None and rear is not None:
            found += [_tyre_row(f"front, {words}", front), _tyre_row(f"rear, {words}", rear)]
    return found


def _tyre_row(words: str, tyre: Rolling) -> dict[str, str]:
    return {
        "words": words,
        "rolls": LENGTH.both(tyre.value),
        "share": f"± {tyre.share * 200:.1f} %",
        "turns": f"{tyre.turns_per_km:.0f} /km",
        "source": tyre.words,
    }
