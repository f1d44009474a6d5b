"""The ladder of a job: its stations in five groups, and the pages that stand at each."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Final

from django.urls import reverse

from axle.layout import Place
from axle.measure.units import show
from axle.procedure.names import StationName
from axle.procedure.stations import StationGroup, station_groups, stations
from axle.stations.station_state import Standing, Status
from axle.workflow.progress import work_at
from shop.jobs.job_axle import JobAxle

OVERVIEW: Final = "overview"
# Pages of a job by the station at which they stand: (address, title).
PAGES: Final[Mapping[str, tuple[tuple[str, str], ...]]] = {
    OVERVIEW: (
        ("work", "Sequence"),
        ("parts-list", "Parts to order"),
        ("money", "Estimate, account"),
        ("photos", "Photos"),
        ("record", "Log"),
    ),
    "arrival": (
        ("arrival", "Arrival record"),
        ("noise", "Noise"),
        ("recordings", "Recording"),
        ("vehicle", "Vehicle"),
        ("counted", "Ratio now"),
        ("ratio", "Which ratio"),
        ("tools", "Tools and parts"),
    ),
    "teardown": (("register", "Parts that came off"),),
    "inspect": (("findings", "Findings"),),
    "fit": (("heights", "Bearings changed"),),
    "ring_gear": (("runout", "Runout around"),),
    "depth": (("moves", "What moves"),),
    "carrier_preload": (("carrier", "Plan both sides"), ("spread", "Spreading")),
    "backlash": (("carrier", "Plan both sides"), ("moves", "What moves"), ("by-hand", "By hand")),
    "pattern": (("moves", "What moves"), ("by-hand", "By hand")),
    "final": (("back-in", "Everything back in"),),
    "torque": (("torque", "Torques"),),
    "finish": (
        ("oil", "Oil"),
        ("road-test", "Road test"),
        ("break-in", "Break-in"),
        ("noise-after", "Noise"),
        ("recordings-after", "Recording"),
    ),
    "sheet": (("money", "Estimate, account"), ("record", "Log")),
}


@dataclass(frozen=True)
class LadderRow:
    """One station of the ladder.

    :param title: its name.
    :param status: where it stands, in words.
    :param key: of its sign.
    :param note: its value, or how many of its steps are done.
    :param steps: how many of its steps are done.
    :param link: its address.
    :param current: it is shown.
    :param in_hand: the work is at it.
    """

    title: str
    status: str
    key: str
    note: str
    steps: str
    link: str
    current: bool
    in_hand: bool


@dataclass(frozen=True)
class LadderGroup:
    """Stations that are shown together.

    :param title: its name.
    :param count: how many are done.
    :param key: of its sign.
    :param link: the first of its stations that is not done.
    :param rows: its stations where it is open.
    :param in_hand: the work is in it.
    :param current: it is of one station, and that is shown.
    """

    title: str
    count: str
    key: str
    link: str
    rows: tuple[LadderRow, ...]
    in_hand: bool
    current: bool


@dataclass(frozen=True)
class Tab:
    """A page that stands at a station.

    :param title: its name.
    :param link: its address.
    :param current: it is shown.
    """

    title: str
    link: str
    current: bool


def ladder(axle: JobAxle, current: str) -> tuple[LadderGroup, ...]:
    """The groups of a job's stations; the one that is shown is open.

    :param axle: the job.
    :param current: station that is shown, or "overview".
    """
    return tuple(_group(axle, group, current) for group in station_groups())


def tabs(axle: JobAxle, station: str, page: str = "") -> tuple[Tab, ...]:
    """The pages that stand at a station.

    :param axle: the job.
    :param station: that is shown, or "overview".
    :param page: that is shown, or "" for the station itself.
    """
    number = axle.job.number
    return tuple(
        Tab(title, reverse(name, args=[number]), current=name == page)
        for name, title in PAGES.get(station, ())
    )


def _group(axle: JobAxle, group: StationGroup, current: str) -> LadderGroup:
    names = [name for name in group.stations if name in axle.plan.stations]
    done = [name for name in names if axle.status_of(name).is_done]
    first = next((name for name in names if name not in done), names[-1] if names else StationName.SHEET)
    statuses = [axle.status_of(name) for name in names]
    key = "not-begun"
    if Status.OUT in statuses:
        key = "out"
    elif len(done) == len(names):
        key = "in-range"
    elif done or Status.BEGUN in statuses:
        key = "begun"
    shows = current in names and len(names) > 1
    return LadderGroup(
        title=group.title,
        count=f"{len(done)} of {len(names)}" if len(names) > 1 else "",
        key=key,
        link=f"{reverse('bench', args=[axle.job.number])}?station={first}",
        rows=tuple(_row(axle, name, current) for name in names) if shows else (),
        in_hand=axle.station in names,
        current=current in names and len(names) == 1,
    )


def _row(axle: JobAxle, name: str, current: str) -> LadderRow:
    status = axle.status_of(name).value
    work = work_at(name, axle.progress)
    standing = axle.standings.get(name)
    if standing is not None and standing.is_done and status == Status.BEGUN.value:
        # Judged, but its list is not whole: the sign is half, and the words say why.
        status_words = f"{standing.status.value}, steps open"
    else:
        status_words = status if stations()[name].is_measured else status.replace("in range", "done")
    counted = f"{work.passed}/{work.count}" if work.count else "–"
    return LadderRow(
        title=stations()[name].title,
        status=status_words,
        key=status.replace(" ", "-"),
        note=_note(axle, name, standing) if standing else counted,
        steps=counted,
        link=f"{reverse('bench', args=[axle.job.number])}?station={name}",
        current=name == current,
        in_hand=name == axle.station,
    )


def _note(axle: JobAxle, name: str, standing: Standing) -> str:
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
