"""A housing that is spread: how far, since when, and whether it is over its limit."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from typing import Any, Final

from axle.measure.range import Range, RangeSide
from axle.measure.units import show
from axle.procedure.names import KindName
from shop.jobs.job_axle import JobAxle
from shop.jobs.models import Reading

# Where the sheet gives none [mm]: 20 thou, common practice.
USUAL_LIMIT: Final = 0.508


def spread_readings(axle: JobAxle) -> list[Reading]:
    """Every valid reading of the housing's spread, oldest first."""
    return [row for row in axle.valid_readings() if row.kind == KindName.SPREAD]


def spread_limit(axle: JobAxle) -> float:
    """How far this housing may be spread [mm]."""
    return axle.spec.sheet.single("housing_spread") or USUAL_LIMIT


def spread_since(rows: Sequence[Reading]) -> datetime | None:
    """When the housing was spread that is spread now; nothing where it is back."""
    since: datetime | None = None
    for row in rows:
        since = (since or row.at) if row.value else None
    return since


def spread_strip(axle: JobAxle) -> dict[str, Any] | None:
    """What every page of a job says while its housing is spread; nothing else."""
    rows = spread_readings(axle)
    since = spread_since(rows)
    if since is None:
        return None
    value, unit = float(rows[-1].value or 0), axle.display.length
    return {
        "value": f"{show(value, unit)} {unit.symbol}",
        "since": since,
        "over": Range(0.0, spread_limit(axle)).side(value) is RangeSide.OVER,
    }
