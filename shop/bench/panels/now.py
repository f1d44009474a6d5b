"""The one Now of a job: what is done next, why, and where."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Final

from django.urls import reverse

from axle.decision.move import Act
from axle.measure.units import percent
from axle.procedure.names import StationName
from axle.procedure.stations import kind_named, station_of, stations
from axle.stations.station_state import Slot
from shop.bench.panels.practice import practice_card
from shop.jobs.job_axle import JobAxle
from shop.jobs.models import Job


@dataclass(frozen=True)
class Now:
    """The one thing that is done next: strip, entry and card all take it from here.

    :param words: what it is.
    :param why: the reason, one sentence.
    :param link: where it is done, where that is not here.
    :param act: how it is done from here: "" (the entry does it), "move" or "sleeve".
    :param is_page: that is a page of its own, not a station.
    :param is_step: it is a step of the work.
    :param slot: the reading that it is.
    """

    words: str
    why: str = ""
    link: str = ""
    act: str = ""
    is_page: bool = False
    is_step: bool = False
    slot: Slot | None = None

    @property
    def is_move(self) -> bool:
        """Whether something in the axle is changed."""
        return bool(self.act)


_NOW_ACTS: Final = {Act.CHANGE: "move", Act.REPLACE: "sleeve"}


def now_from(axle: JobAxle) -> Now:
    """The one thing that is done next, for a page beside the bench: with a way to where it is done.

    :param axle: the job.
    """
    now = now_at(axle, "", None, goes_on=False)
    if now.act:
        bench = reverse("bench", args=[axle.job.number])
        return replace(now, act="", link=f"{bench}?station={axle.move.station}")
    return now


def now_at(axle: JobAxle, station: str, slot: Slot | None, *, goes_on: bool) -> Now:
    """The one thing that is done next.

    :param axle: the job.
    :param station: that is shown, or "".
    :param slot: the reading that is entered there.
    :param goes_on: the station is done, and the work goes on.
    """
    if axle.job.state == Job.State.SIGNED:
        return Now("The build sheet is signed", "It can be printed, and found again in ten years.")
    bench = reverse("bench", args=[axle.job.number])
    # Whoever measures although steps before are open is told of the measuring; the list stays open.
    measures = station in stations() and stations()[station].is_measured and not goes_on
    if not measures and not stations()[axle.station].is_measured:
        step = axle.step.step
        here = station == step.station
        link = "" if here else f"{bench}?station={step.station}&step={step.step}"
        return Now(step.title, step.why, link, is_step=True)
    practice = practice_card(axle, station)
    move = axle.move
    if practice is not None and not practice["shows_move"]:
        return _reading_now(axle, station, slot)
    why = move.why[0] if move.why else ""
    if move.act in _NOW_ACTS:
        if move.probability is not None:
            why = f"{percent(move.probability)} sure that all is in range next."
        return Now(move.title, why, act=_NOW_ACTS[move.act])
    if move.asks:
        return replace(_reading_now(axle, station, Slot(*move.asks[0])), why=why)
    if move.station == StationName.RING_GEAR and axle.state.runs:
        return Now(move.title, why, reverse("runout", args=[axle.job.number]), is_page=True)
    link = "" if move.station == station else f"{bench}?station={move.station}"
    return Now(move.title, why, link)


def _reading_now(axle: JobAxle, station: str, slot: Slot | None) -> Now:
    """The reading that is taken next."""
    if slot is None:
        return Now(stations()[axle.station].title)
    kind = kind_named(slot.kind)
    at = kind.place_words(slot.place, axle.state.places_of(slot.kind))
    there = station_of(slot.kind)
    bench = reverse("bench", args=[axle.job.number])
    link = "" if there == station else f"{bench}?station={there}&kind={slot.kind}&place={slot.place}"
    again = axle.state.around(slot.kind).get(slot.place)
    once_more = " once more" if again is not None and again.settings.same_as(axle.state.settings) else ""
    return Now(f"Read {kind.title.lower()}{f', {at}' if at else ''}{once_more}", kind.hint, link, slot=slot)
