"""The last act on a job, and the last one that was undone: a reading, a fit, a mark on steps, a print.

Nothing is taken off the record: undoing writes a row that strikes, takes back or refits. What is done again
carries an identity made of the undoing's own, so it is known as that and happens once.
"""

from __future__ import annotations

import uuid
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Final

from axle.layout import Place
from axle.procedure.stations import kind_named, station_of
from axle.procedure.steps import step_named
from axle.workflow.progress import StepMarkKind
from shop.jobs.job_axle import JobAxle
from shop.jobs.models import AppendOnly, Fit, Pattern, Reading, StepMark

# The reason on rows that undo.
UNDONE: Final = "undone at the bench"
_MARKS: Final = {StepMarkKind.BEGUN: "begun", StepMarkKind.DONE: "done", StepMarkKind.WAIVED: "signed past"}
_PLACES: Final = {
    Place.DEPTH: "depth shim",
    Place.PRELOAD: "preload pack",
    Place.RING: "ring side",
    Place.FAR: "far side",
    Place.CLOCK: "ring gear's bolt position",
    Place.BEARINGS: "set of bearings",
}


@dataclass(frozen=True)
class LastAct:
    """One act as a person sees it.

    :param words: what it was, with its value and place.
    :param station: where it was done, or "".
    :param rows: what stands on record of it.
    :param undoing: the rows that undid it; none while it stands.
    """

    words: str
    station: str
    rows: Sequence[AppendOnly]
    undoing: Sequence[AppendOnly] = ()

    @property
    def at(self) -> datetime:
        """When it was done, or undone."""
        return max(row.at for row in self.undoing or self.rows)


def again_entry(undoing: AppendOnly) -> uuid.UUID:
    """The identity of what is done again after it was undone."""
    return uuid.uuid5(undoing.entry, "again")


def last_act(axle: JobAxle) -> LastAct | None:
    """The newest act that stands, to be undone."""
    return max(_standing(axle), key=lambda act: act.at, default=None)


def last_undone(axle: JobAxle) -> LastAct | None:
    """The newest act that was undone and may be done again: nothing else was done since."""
    rows = _rows(axle)
    entries = {row.entry for row in rows}
    undone = [act for act in _undone(axle) if again_entry(act.undoing[0]) not in entries]
    newest = max(undone, key=lambda act: act.at, default=None)
    if newest is None:
        return None
    repeated = {again_entry(row) for row in rows}
    later = [row for row in rows if row.at > newest.at and row.entry not in repeated]
    return None if any(not _undoes(row) for row in later) else newest


def _rows(axle: JobAxle) -> list[AppendOnly]:
    patterns = Pattern.objects.filter(assembly__job=axle.job)
    return [*axle.readings, *axle.step_marks, *axle.fits, *patterns]


def _undoes(row: AppendOnly) -> bool:
    """Whether a row only undoes another."""
    if isinstance(row, Reading):
        return row.value is None and row.reason == UNDONE
    if isinstance(row, StepMark):
        return row.mark == StepMarkKind.UNDONE.value and row.reason == UNDONE
    if isinstance(row, Fit):
        return row.undoes_id is not None
    return isinstance(row, Pattern) and row.withdraws is not None


def _standing(axle: JobAxle) -> list[LastAct]:
    acts = [LastAct(_reading_words(axle, row), _station_of(row), [row]) for row in axle.valid_readings()]
    acts += [
        LastAct(_fit_words(axle, fit), _fit_station(fit), [fit])
        for fit in axle.fits
        if fit.undoes_id is None and fit.pk not in {other.undoes_id for other in axle.fits}
    ]
    newest = {row.step: row for row in axle.step_marks}
    marked = [row for row in newest.values() if StepMarkKind(row.mark) in _MARKS]
    acts += [
        LastAct(_mark_words(rows), step_named(rows[0].step).station, rows) for rows in _together(marked)
    ]
    acts += [LastAct(_print_words([row]), "pattern", [row]) for row in axle.patterns]
    return acts


def _undone(axle: JobAxle) -> list[LastAct]:
    struck = {row.strikes_id: row for row in axle.readings if _undoes(row)}
    acts = [
        LastAct(_reading_words(axle, row), _station_of(row), [row], [struck[row.pk]])
        for row in axle.readings
        if row.pk in struck
    ]
    fits = {fit.pk: fit for fit in axle.fits}
    acts += [
        LastAct(_fit_words(axle, fits[fit.undoes_id]), "", [fits[fit.undoes_id]], [fit])
        for fit in axle.fits
        if fit.undoes_id in fits
    ]
    for undoing in _together(row for row in axle.step_marks if _undoes(row)):
        before = [
            max((m for m in axle.step_marks if m.step == row.step and m.pk < row.pk), key=lambda m: m.pk)
            for row in undoing
        ]
        acts.append(LastAct(_mark_words(before), step_named(before[0].step).station, before, undoing))
    prints = {row.entry: row for row in Pattern.objects.filter(assembly__job=axle.job)}
    acts += [
        LastAct(_print_words([prints[row.withdraws]]), "pattern", [prints[row.withdraws]], [row])
        for row in prints.values()
        if row.withdraws in prints
    ]
    return acts


def _together(rows: Iterable[StepMark]) -> list[list[StepMark]]:
    """Marks by the moment at which they were made: what was marked together is undone together."""
    by_moment: dict[tuple[datetime, int], list[StepMark]] = {}
    for row in rows:
        by_moment.setdefault((row.at, row.person_id), []).append(row)
    return list(by_moment.values())


def _station_of(row: Reading) -> str:
    return station_of(row.kind)


def _reading_words(axle: JobAxle, row: Reading) -> str:
    kind = kind_named(row.kind)
    at = f", place {row.place}" if kind.places > 1 or kind.most else ""
    return f"{kind.title.lower()}{at}: {row.as_typed}"


def _fit_words(axle: JobAxle, fit: Fit) -> str:
    move = next((m for m in axle.moves if m.fit_id == fit.pk), None)
    if move is not None:
        return f"the move “{move.title.lower()}”"
    parts = []
    for place, pieces in fit.after.get("packs", {}).items():
        sizes = " + ".join(axle.display.show(float(size)) for _, size in pieces) or "nothing"
        parts.append(f"{_PLACES.get(Place(place), place)}: {sizes} {axle.display.length.symbol}")
    parts += [
        f"{_PLACES.get(Place(place), place)}: {value or 'nothing'}"
        for place, value in fit.after.get("set", {}).items()
    ]
    return f"fitted, {'; '.join(parts)}" if parts else fit.note


def _fit_station(fit: Fit) -> str:
    places = {*fit.after.get("packs", {}), *fit.after.get("set", {})}
    by_place = {"depth": "depth", "preload": "pinion_preload", "clock": "ring_gear"}
    return next((station for place, station in by_place.items() if place in places), "carrier_preload")


def _mark_words(rows: Sequence[StepMark]) -> str:
    word = _MARKS.get(StepMarkKind(rows[0].mark), rows[0].mark)
    if len(rows) > 1:
        return f"{len(rows)} steps {word}"
    return f"“{step_named(rows[0].step).title.lower()}” {word}"


def _print_words(rows: Sequence[Pattern]) -> str:
    return f"{rows[0].flank} flank of print {rows[0].number}, place {rows[0].place}"
