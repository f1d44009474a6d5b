"""A job's ratio, its road and its noise, from its rows."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import date
from typing import TypeVar

from axle.gearing.lines import RatioStanding, ratio_standing, read_ratio_line
from axle.gearing.offers import Offer
from axle.noise.lines import HandFelt, NoiseNote, read_noise_line, reading_of
from axle.road.lines import RoadStanding, read_road_line, road_standing
from axle.state.felt import Felt
from shop.jobs.models import Job, NoiseLine, RatioLine, RoadLine
from shop.jobs.rows import settings_from

Row = TypeVar("Row", RatioLine, RoadLine, NoiseLine)
# The kind of a row that does nothing but strike another.
STRUCK = "struck"


def standing_rows(rows: Iterable[Row]) -> list[Row]:
    """Rows that are neither struck nor strike another."""
    every = list(rows)
    gone = {row.strikes_id for row in every if row.strikes_id}
    return [row for row in every if row.pk not in gone and row.strikes_id is None]


def ratio_of(job: Job, offers: Iterable[Offer] = ()) -> RatioStanding:
    """Where a job's ratio stands."""
    rows = standing_rows(job.ratio_lines.order_by("id"))
    return ratio_standing([read_ratio_line(row.kind, row.values) for row in rows], offers)


def road_of(job: Job) -> RoadStanding:
    """Where a job's road stands."""
    rows = standing_rows(job.road_lines.order_by("id"))
    return road_standing([read_road_line(row.kind, row.values) for row in rows])


def noise_of(job: Job) -> list[NoiseNote]:
    """What was told of a job's noise, oldest first."""
    rows = standing_rows(job.noise_lines.order_by("id"))
    return [read_noise_line(row.kind, row.values) for row in rows]


def felt_of(job: Job) -> tuple[Felt, ...]:
    """What the hand felt of each assembly, oldest first: readings that count in the judgement."""
    rows = standing_rows(job.noise_lines.filter(kind__in=("felt", STRUCK)).order_by("id"))
    found = ((read_noise_line(row.kind, row.values), row) for row in rows)
    return tuple(
        reading_of(line, settings_from(row.settings), row.pk)
        for line, row in found
        if isinstance(line, HandFelt)
    )


def check_due(job: Job) -> date | None:
    """The day of the next check of a job's break-in, or nothing."""
    if job.practice or not job.road_lines.filter(kind="break_in").exists():
        return None
    stands = road_of(job).break_in
    return stands.check.due if stands is not None and stands.check is not None else None
