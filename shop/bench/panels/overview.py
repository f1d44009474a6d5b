"""The overview of a job: what is open and promised, each value by assembly, what was done last."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime
from typing import Any, Final

from django.urls import reverse
from django.utils import timezone

from axle.layout import Place
from axle.measure.range import Range
from axle.measure.units import Unit
from axle.procedure.names import KindName
from axle.procedure.stations import kind_named, stations
from axle.procedure.steps import steps as all_steps
from axle.stations.station_state import Status
from shop.drawing.assembly_chart import ByAssembly, assembly_chart
from shop.drawing.svg import Svg
from shop.jobs.job_axle import JobAxle
from shop.jobs.listing import late_by
from shop.jobs.models import Photo
from shop.jobs.rows import settings_of, unstruck

# So many open things, photos, assemblies and acts are shown; the rest is on its own page.
_OPEN: Final = 9
_PHOTOS: Final = 4
_ASSEMBLIES: Final = 6
_ACTS: Final = 4


@dataclass(frozen=True)
class OpenThing:
    """Something of a job that is open.

    :param words: what it is.
    :param key: of its sign.
    :param link: where it is done.
    """

    words: str
    key: str
    link: str


@dataclass(frozen=True)
class Chart:
    """One value by assembly.

    :param title: what it is.
    :param unit: its unit.
    :param drawing: of it.
    """

    title: str
    unit: str
    drawing: Svg


@dataclass(frozen=True)
class Act:
    """Something that was done.

    :param at: when.
    :param by: by whom.
    :param words: what.
    """

    at: datetime
    by: str
    words: str


def overview(axle: JobAxle) -> dict[str, Any]:
    """What the overview shows beside the section.

    :param axle: the job.
    """
    job, today = axle.job, timezone.localdate()
    found = list(_open_things(axle))
    return {
        "open": found[:_OPEN],
        "more": max(len(found) - _OPEN, 0),
        "late": late_by(job, today),
        "charts": tuple(_charts(axle)),
        "photos": tuple(Photo.objects.filter(job=job).order_by("-id")[:_PHOTOS]),
        "acts": tuple(sorted(_acts(axle), key=lambda act: act.at, reverse=True)[:_ACTS]),
    }


def _open_things(axle: JobAxle) -> Iterator[OpenThing]:
    """What is out of range first, then what is stale, then what was skipped, then what is not begun."""
    bench = reverse("bench", args=[axle.job.number])
    order = {Status.OUT: 0, Status.STALE: 1, Status.BEGUN: 2, Status.NOT_BEGUN: 3}
    names = [name for name in axle.plan.stations if axle.status_of(name) in order and name != "sheet"]
    said = {Status.STALE: "has to be read again", Status.BEGUN: "begun", Status.NOT_BEGUN: "not begun"}
    skipped = tuple(axle.passed_over)
    for name in sorted(names, key=lambda name: order[axle.status_of(name)]):
        status, standing = axle.status_of(name), axle.standings.get(name)
        words = said.get(status, "")
        if status is Status.OUT and standing is not None and standing.result is not None:
            words = standing.result.words
        if status is Status.NOT_BEGUN and skipped:
            yield from _skipped(axle, bench)
            skipped = ()
        yield OpenThing(
            f"{stations()[name].title}: {words}", status.value.replace(" ", "-"), f"{bench}?station={name}"
        )
    if skipped:
        yield from _skipped(axle, bench)


def _skipped(axle: JobAxle, bench: str) -> Iterator[OpenThing]:
    for held in axle.passed_over:
        step = held.step
        yield OpenThing(
            f"Skipped: {step.title}", "held", f"{bench}?station={step.station}&step={step.step}"
        )


def _charts(axle: JobAxle) -> Iterator[Chart]:
    """Each value that was read on an assembly, by assembly."""
    shown = axle.assemblies[-_ASSEMBLIES:]
    valid = axle.valid_readings()
    sheet, display = axle.spec.sheet, axle.display
    by_assembly = {assembly.pk: assembly.number for assembly in shown}

    def newest(kind: str, *, smallest: bool = False) -> list[tuple[int, float]]:
        values: dict[int, float] = {}
        for row in valid:
            if row.kind != kind or row.assembly_id not in by_assembly or row.value is None:
                continue
            number, value = by_assembly[row.assembly_id], float(row.value)
            values[number] = min(values.get(number, value), value) if smallest else value
        return sorted(values.items())

    depths = [
        (assembly.number, float(held))
        for assembly in shown
        if (held := settings_of(assembly, axle.pieces).get(Place.DEPTH))
    ]
    torque = display.torque
    rows: list[tuple[str, list[tuple[int, float]], Range | None, Unit]] = [
        ("Depth shim", depths, None, display.length),
        ("Pinion preload", newest(KindName.PINION_TORQUE), axle.state.preload_range(), torque),
        ("Whole, rotating torque", newest(KindName.TOTAL_TORQUE), None, torque),
        (
            "Backlash, smallest",
            newest(KindName.BACKLASH, smallest=True),
            sheet.range("backlash"),
            display.length,
        ),
    ]
    for title, points, limits, unit in rows:
        if points:
            yield Chart(title, unit.symbol, assembly_chart(ByAssembly(title, points, limits, unit)))


def _acts(axle: JobAxle) -> Iterator[Act]:
    """Readings that stand, and marks on steps."""
    for row in unstruck(axle.readings):
        kind = kind_named(row.kind)
        where = kind.place_words(row.place, axle.state.places_of(row.kind))
        yield Act(row.at, row.signed_by, f"{kind.title}{f', {where}' if where else ''}: {row.as_typed}")
    titles = all_steps()
    for mark in axle.step_marks:
        if mark.step in titles:
            yield Act(mark.at, mark.signed_by, f"{titles[mark.step].title}: {mark.mark}")
