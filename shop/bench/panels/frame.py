"""The frame around a page of a job that is not the bench: ladder, Now, tabs."""

from __future__ import annotations

from typing import Any, Final

from django.urls import reverse

from axle.procedure.stations import stations
from shop.bench.panels.ladder import OVERVIEW, PAGES, ladder, tabs
from shop.bench.panels.now import now_from
from shop.bench.panels.spread import spread_strip
from shop.jobs.job_axle import JobAxle

# Where a page stands that stands at two stations.
_HOME: Final = {
    "carrier": "backlash",
    "moves": "backlash",
    "record": OVERVIEW,
    "money": OVERVIEW,
    "sheet": "sheet",
    "leaflet": "finish",
}


def frame(axle: JobAxle, page: str, station: str = "") -> dict[str, Any]:
    """The ladder and the tabs around a page of a job.

    :param axle: the job.
    :param page: its name among the addresses.
    :param station: at which it stands, where it is none of the listed pages.
    """
    home = station or _home_of(page)
    title = "Overview" if home == OVERVIEW else stations()[home].title
    around = tabs(axle, home, page)
    return {
        "now": now_from(axle),
        "spread_strip": spread_strip(axle),
        "ladder": ladder(axle, home),
        "tabs": around,
        "home": {"title": title, "link": f"{reverse('bench', args=[axle.job.number])}?station={home}"},
        "page_title": next((tab.title for tab in around if tab.current), title),
    }


def _home_of(page: str) -> str:
    """The station at which a page stands; the overview where none is named."""
    if page in _HOME:
        return _HOME[page]
    return next((station for station, rows in PAGES.items() if page in dict(rows)), OVERVIEW)
