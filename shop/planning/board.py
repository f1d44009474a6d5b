"""The plan as it is shown: the week's board, each person's now and day, promises."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from math import isfinite
from typing import Any, Final

from django.urls import reverse
from django.utils import timezone

from axle.procedure.flow import machines
from axle.procedure.steps import steps
from axle.schedule.calendars import DAY
from axle.schedule.expand import steps_of
from axle.schedule.horizon import is_block
from axle.schedule.job_work import AGAIN
from axle.schedule.problem import BENCH, Placed, Stretch
from shop.drawing.week_board import Bar, Board, BoardDay, BoardRow
from shop.jobs.models import Job
from shop.people.hours import closed_days, terms_of
from shop.planning.plan import Projected

# A day without hours is drawn as if it had these [min].
_EMPTY_DAY: Final = (8 * 60, 17 * 60)
_WEEK: Final = 7
_NEXT: Final = 3
_WAIT_SHOWN: Final = 15


@dataclass(frozen=True)
class PlannedWork:
    """A stretch in the plan, as a person reads it.

    :param job: the job.
    :param title: what is done, a few words.
    :param start: when.
    :param end: when it is done.
    :param key: of the stretch.
    :param step: its first step.
    :param link: where it is done.
    :param wait: what follows, in words, or "".
    :param part: what it waits for, or "".
    """

    job: Job
    title: str
    start: datetime
    end: datetime
    key: str
    step: str
    link: str
    wait: str = ""
    part: str = ""


@dataclass(frozen=True)
class PersonNow:
    """What one person does now, and next.

    :param name: who.
    :param link: the person's day.
    :param now: what is in hand or begins at once, or nothing.
    :param later: what comes then.
    :param away: when the person works again, where not now.
    """

    name: str
    link: str
    now: PlannedWork | None
    later: tuple[PlannedWork, ...]
    away: datetime | None


@dataclass(frozen=True)
class Promise:
    """A job with its promise.

    :param job: the job.
    :param ends: when it is done by the plan, or nothing.
    :param chance: of its promise, or nothing.
    :param late: by how much, in words, or "".
    :param risky: the chance is below what the shop asks.
    :param safe_day: the day that can be promised with the chance the shop asks.
    """

    job: Job
    ends: datetime | None
    chance: float | None
    late: str
    risky: bool
    safe_day: datetime | None


class PlanPage:
    """A projected plan, ready to be shown.

    :param plan: the plan.
    :param week: the first of the seven days that are shown.
    :param chosen: key of the stretch that is shown beside the board.
    """

    def __init__(self, plan: Projected, week: date, chosen: str = "") -> None:
        self.plan, self.week, self.chosen = plan, week, chosen
        self.inputs = plan.inputs
        self.problem = plan.inputs.problem
        self.terms = terms_of(plan.inputs.shop)

    def board(self) -> Board:
        """What is drawn."""
        days = tuple(self._days())
        rows = [self._person(name) for name in self.inputs.people]
        rows += list(self._machines())
        return Board(days, tuple(rows), now=self.inputs.now)

    def _days(self) -> Iterator[BoardDay]:
        first = (self.week - self.inputs.clock.monday).days * DAY
        spans = self.problem.shop_hours.spans
        low = min((start % DAY for start, _ in spans), default=_EMPTY_DAY[0])
        high = max((end % DAY or DAY for _, end in spans), default=_EMPTY_DAY[1])
        closed = closed_days(self.terms.country, self.terms.region, self.week, _WEEK)
        for number in range(_WEEK):
            day = self.week + timedelta(days=number)
            begins = first + number * DAY
            works = any(begins <= start < begins + DAY for start, _ in spans)
            if not works and day.weekday() >= 5 and day not in closed:
                continue
            why = "" if works else "public holiday" if day in closed else "closed"
            yield BoardDay(f"{day:%a %-d %b}", begins + low, begins + high, closed=why)

    def _person(self, name: str) -> BoardRow:
        person = self.inputs.people[name]
        own = [placed for placed in self.plan.schedule.placed if placed.person == name]
        bars: list[Bar] = []
        for run in _runs(own):
            bars += [self._run(run), *(self._bar(placed) for placed in run)]
        return BoardRow(
            person.first_name or person.username,
            tuple(bars),
            link=reverse("plan-person", args=[person.pk]),
        )

    def _run(self, run: list[Placed]) -> Bar:
        """Stretches in a row on one job, with its number and what most of it is."""
        job = self.job_of(run[0].key)
        longest = max(run, key=lambda placed: placed.end - placed.start)
        return Bar(
            run[0].start,
            run[-1].end,
            f"{job.shown_number}\n{self.title_of(self.problem.stretch[longest.key])}",
            "",
            late=self.plan.late_minutes(str(job.number)) > 0,
        )

    def _bar(self, placed: Placed) -> Bar:
        stretch, job = self.problem.stretch[placed.key], self.job_of(placed.key)
        title = self.title_of(stretch)
        late = self.plan.late_minutes(placed.key.split(":")[0]) > 0
        words = f"{self._when(placed)}, job {job.shown_number} {job.title}: {title}"
        return Bar(
            placed.start,
            placed.end,
            "",
            words
            + ("; the job is late" if late else "")
            + ("; set by hand" if self._pinned(placed) else ""),
            kind="part",
            key=placed.key,
            link=f"{reverse('plan')}?week={self.week}&at={placed.key}#stretch",
            pinned=self._pinned(placed),
            begun=stretch.begun,
            chosen=placed.key == self.chosen,
        )

    def _pinned(self, placed: Placed) -> bool:
        job, _, step = placed.key.partition(":")
        return step in self.inputs.works[job].pins

    def _when(self, placed: Placed) -> str:
        start, end = (self.moment(minute) for minute in (placed.start, placed.end))
        last = f"{end:%H:%M}" if start.date() == end.date() else f"{end:%a %H:%M}"
        return f"{start:%a %H:%M} to {last}"

    def _machines(self) -> Iterator[BoardRow]:
        """Machines in use, and what waits without anybody."""
        counted = [name for name in self.inputs.means.counted if name != BENCH]
        for name in counted:
            bars = tuple(self._machine_bars(name))
            if bars:
                yield BoardRow(machines()[name].title, bars, is_person=False)
        waits = tuple(self._waits())
        if waits:
            yield BoardRow("Waits", waits, is_person=False)

    def _machine_bars(self, name: str) -> Iterator[Bar]:
        for placed in self.plan.schedule.placed:
            stretch = self.problem.stretch[placed.key]
            number = self.job_of(placed.key).shown_number
            if name in stretch.machines:
                yield Bar(placed.start, placed.end, number, f"{self._when(placed)}, job {number}")
            if name in stretch.wait_machines and stretch.wait:
                over = placed.end + stretch.wait
                yield Bar(placed.end, over, number, f"job {number}, nobody needed", kind="wait")

    def _waits(self) -> Iterator[Bar]:
        for placed in self.plan.schedule.placed:
            stretch = self.problem.stretch[placed.key]
            if stretch.wait >= _WAIT_SHOWN and not stretch.wait_machines:
                number, words = self.job_of(placed.key).shown_number, self.wait_words(stretch)
                yield Bar(
                    placed.end, placed.end + stretch.wait, number, f"job {number}: {words}", kind="wait"
                )

    def job_of(self, key: str) -> Job:
        """The job of a stretch."""
        return self.inputs.jobs[key.split(":", maxsplit=1)[0]]

    def moment(self, minute: float) -> datetime:
        """A minute of the plan's clock, by the shop's clock."""
        return timezone.localtime(self.inputs.clock.moment(minute))

    def title_of(self, stretch: Stretch) -> str:
        """What a stretch is, in a few words."""
        if stretch.steps == (AGAIN,):
            return "Further assemblies, expected"
        known = steps()
        names = [name for name in stretch.steps if name in known]
        longest = max(names, key=lambda name: known[name].hands_on)
        title = known[names[0] if not is_block(stretch.key) else longest].title
        return f"{title} and {len(names) - 1} more" if len(names) > 1 else title

    def wait_words(self, stretch: Stretch) -> str:
        """What is waited for after a stretch."""
        known = steps()
        named = [known[name].wait for name in stretch.steps if name in known and known[name].wait]
        return f"{named[-1] if named else 'a wait'}, {stretch.wait:.0f} min"

    def doing(self, placed: Placed) -> PlannedWork:
        """A stretch as a person reads it."""
        stretch, job = self.problem.stretch[placed.key], self.job_of(placed.key)
        step = next((name for name in stretch.steps if name in steps()), "")
        bench = reverse("bench", args=[job.number])
        link = f"{bench}?station={steps()[step].station}&step={step}" if step else bench
        return PlannedWork(
            job,
            self.title_of(stretch),
            self.moment(placed.start),
            self.moment(placed.end),
            placed.key,
            step,
            link,
            wait=self.wait_words(stretch) if stretch.wait >= _WAIT_SHOWN else "",
            part=stretch.part if stretch.not_before >= placed.start - 1 else "",
        )

    def people(self) -> tuple[PersonNow, ...]:
        """What each person does now and next."""
        return tuple(self._now_of(name) for name in self.inputs.people)

    def _now_of(self, name: str) -> PersonNow:
        now = self.inputs.now
        own = [p for p in self.plan.schedule.placed if p.person == name and p.end > now]
        hours = self.inputs.hours[name]
        begins = hours.start_at(now, 0.0, pauses=True)
        person = self.inputs.people[name]
        is_now = bool(own) and own[0].start <= max(begins, now) + 1
        return PersonNow(
            person.called,
            reverse("plan-person", args=[person.pk]),
            self.doing(own[0]) if is_now and own else None,
            tuple(self.doing(p) for p in own[1 if is_now else 0 :][:_NEXT]),
            self.moment(begins) if isfinite(begins) and begins > now + 1 else None,
        )

    def promises(self) -> tuple[Promise, ...]:
        """Every open job with its promise, the soonest first."""
        asked = self.terms.promise_at / 100
        found = []
        for name, job in self.inputs.jobs.items():
            end = self.plan.schedule.ends.get(name)
            chance = self.plan.chance(name)
            late = self.plan.late_minutes(name)
            found.append(
                Promise(
                    job,
                    self.moment(end) if end is not None and isfinite(end) else None,
                    chance,
                    hours_late(late) if late > 0 else "",
                    chance is not None and chance < asked,
                    self.plan.day_for(name, asked),
                )
            )
        return tuple(sorted(found, key=lambda p: (p.job.promised_on or date.max, p.job.number)))

    def day_of(self, name: str, day: date) -> list[dict[str, Any]]:
        """A person's steps on one day, each stretch with its steps."""
        low = self.inputs.clock.at(day)
        found = []
        for placed in self.plan.schedule.placed:
            if placed.person != name or placed.end <= low or placed.start >= low + DAY:
                continue
            stretch = self.problem.stretch[placed.key]
            rows = [
                {
                    "title": row.step.title if row.step else "Further assembly",
                    "start": self.moment(row.start),
                    "end": self.moment(row.end),
                }
                for row in steps_of(placed, stretch, self.inputs.hours[name], self.inputs.times)
                if row.end > low and row.start < low + DAY
            ]
            found.append({"doing": self.doing(placed), "steps": rows})
        return found


def _runs(placed: list[Placed]) -> list[list[Placed]]:
    """Stretches of one person, those in a row on one job together."""
    runs: list[list[Placed]] = []
    for place in placed:
        job = place.key.split(":")[0]
        if runs and runs[-1][-1].key.split(":")[0] == job and place.start <= runs[-1][-1].end + 1:
            runs[-1].append(place)
        else:
            runs.append([place])
    return runs


def hours_late(minutes: float) -> str:
    """How late, in words."""
    hours = minutes / 60
    return f"{hours:.0f} working hours late" if hours >= 1.5 else f"{minutes:.0f} min late"
