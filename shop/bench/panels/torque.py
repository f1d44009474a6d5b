"""The next stage of the torque sheet, with the bolts drawn in their order."""

from __future__ import annotations

import uuid
from typing import Any

from axle.procedure.names import StationName
from shop.drawing.bolts import bolts
from shop.jobs.formatting import in_both
from shop.jobs.job_axle import JobAxle
from shop.jobs.models import Job

# Groups of bolts that a wrench on the line can be read for.
BOLT_KINDS = {"ring": "ring_bolt_torque", "nut": "pinion_nut_torque", "caps": "cap_torque"}


def torque_panel(axle: JobAxle, station: str, *, may_sign: bool) -> dict[str, Any] | None:
    """The next stage that is turned at a station, with the bolts drawn in their order; all at the last."""
    here = [g for g in axle.torques if station in (StationName.TORQUE, g.group.at)]
    standing = next((g for g in here if g.next_stage and not g.next_stage.waits), None)
    if standing is None or standing.next_stage is None:
        return None
    unit = standing.group.unit_in(axle.display)
    stage = standing.next_stage
    return {
        "group": standing.group,
        "stage": stage,
        "unit": unit.symbol,
        "note": standing.group.note_in(axle.display),
        "both": in_both(stage.stage.wanted, unit),
        "drawing": bolts(standing.group),
        "entry": str(uuid.uuid4()),
        "kind": BOLT_KINDS.get(standing.group.group, ""),
        "label": f"Torque, {unit.symbol}",
        "locked": axle.job.state == Job.State.SIGNED or not may_sign,
    }
