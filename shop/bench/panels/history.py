"""Assemblies with what was read on them, and forecasts that did not hold."""

from __future__ import annotations

from typing import Any

from axle.decision.move import Expected
from axle.measure.units import Dimension, show
from axle.procedure.names import KindName
from shop.jobs.job_axle import JobAxle
from shop.jobs.models import Assembly, Reading
from shop.jobs.rows import settings_of

# The station whose number tells whether a forecast held.
_FORETOLD = {
    "Smallest backlash": "backlash",
    "Pinion rotating torque": "pinion_preload",
    "Carrier torque": "carrier_preload",
}


def missed_forecasts(axle: JobAxle) -> list[str]:
    """What the move of this assembly foretold and the readings since do not bear out."""
    made = axle.job.moves.standing().filter(assembly=axle.assembly).order_by("-id").first()
    if made is None:
        return []
    lines = []
    for row in made.expected:
        expected = Expected(
            row["label"], row["low"], high=row["high"], dimension=Dimension(row["dimension"])
        )
        read = made.outcome.get(_FORETOLD.get(expected.label, ""), {}).get("value")
        if read is None or not expected.is_missed_by(read):
            continue
        unit = axle.display.unit_for(expected.dimension)
        band = f"{show(expected.low, unit)}–{show(expected.high, unit)} {unit.symbol}"
        lines.append(
            f"The move “{made.title}” foretold {band} ({expected.label.lower()}), "
            f"and {show(read, unit)} was read: what it was worked out from does not hold. "
            "Read again; look for a cup left behind, or a piece that is not what it says."
        )
    return lines


def history_rows(axle: JobAxle, most: int = 4) -> list[dict[str, Any]]:
    """The newest assemblies, the newest last, each with its packs and what was read on it."""
    valid = axle.valid_readings()
    return [_assembly_row(axle, assembly, valid) for assembly in axle.assemblies[-most:]]


def _assembly_row(axle: JobAxle, assembly: Assembly, valid: list[Reading]) -> dict[str, Any]:
    layout = axle.spec.layout
    totals = {
        place.value: show(setting, axle.display.length)
        if place in layout.shim_places
        else f"{setting:.1f} h"
        for place, setting in settings_of(assembly, axle.pieces).items()
    }
    lash = [r.value for r in valid if r.assembly_id == assembly.pk and r.kind == KindName.BACKLASH]
    limits = axle.spec.sheet.range("backlash")
    smallest = min((v for v in lash if v is not None), default=None)
    side = limits.side(float(smallest)) if limits and smallest is not None else ""
    return {
        "assembly": assembly,
        "current": assembly.pk == axle.assembly.pk,
        "depth": totals.get("depth", "—"),
        "sides": f"{totals.get('ring', '—')} / {totals.get('far', '—')}",
        "lash": show(smallest, axle.display.length) if smallest is not None else "—",
        "out": side in ("under", "over"),
    }
