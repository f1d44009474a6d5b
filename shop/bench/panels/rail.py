"""The ladder of stations."""

from __future__ import annotations

from typing import Any

from django.urls import reverse

from axle.layout import Place
from axle.measure.units import show
from axle.procedure.stations import stations
from axle.stations.station_state import Standing, Status
from axle.workflow.progress import work_at
from shop.jobs.job_axle import JobAxle


def rail_rows(axle: JobAxle, current: str) -> list[dict[str, Any]]:
    bench = reverse("bench", args=[axle.job.number])
    rows = []
    for name in axle.plan.stations:
        status = axle.status_of(name).value
        work = work_at(name, axle.progress)
        standing = axle.standings.get(name)
        if standing is not None and standing.is_done and status == Status.BEGUN.value:
            # Judged, but its list is not whole: the sign is half, and the words say why.
            status_words = f"{standing.status.value}, steps open"
        else:
            status_words = status if stations()[name].is_measured else status.replace("in range", "done")
        counted = f"{work.passed}/{work.count}" if work.count else "–"
        rows.append(
            {
                "title": stations()[name].title,
                "status": status_words,
                "key": status.replace(" ", "-"),
                "note": _rail_note(axle, name, standing) if standing else counted,
                "steps": counted,
                "link": f"{bench}?station={name}",
                "current": name == current,
                "in_hand": name == axle.station,
            }
        )
    return rows


def _rail_note(axle: JobAxle, name: str, standing: Standing) -> str:
    if standing.status is Status.STALE:
        return "stale"
    if standing.status is Status.NOT_PART:
        return "–"
    if standing.signature:
        return "signed"
    result = standing.result
    if result is None:
        return ""
    if name == "depth" and axle.state.setting(Place.DEPTH):
        return axle.display.show(axle.state.setting(Place.DEPTH))
    if result.value is None:
        return result.words
    unit = axle.display.unit_for(result.dimension)
    sign = "▲ " if standing.status is Status.OUT else ""
    return f"{sign}{show(result.value, unit)}"
