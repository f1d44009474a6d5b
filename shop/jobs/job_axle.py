"""A job's rows, read once, and what the core makes of them."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping
from dataclasses import dataclass
from decimal import Decimal
from functools import cached_property

from axle.contact.print_conditions import Making
from axle.decision.move import Move as Advice
from axle.fasteners.groups import Group
from axle.fasteners.signing import GroupStanding, Tightened, open_torques, stand_torques
from axle.layout import Place
from axle.measure.units import Display
from axle.parts.bill import steps_waiting
from axle.parts.lines import AWAITED, LineState
from axle.procedure.choices import Build
from axle.procedure.findings import Found, not_looked_at, questions
from axle.procedure.names import StationName
from axle.procedure.register import LISTS, Entry, Event, open_items
from axle.procedure.sequence import Plan
from axle.procedure.stations import stations
from axle.spec.reader import AxleSpec
from axle.state.axle_state import AxleState
from axle.stations.made_up import made_up_titles
from axle.stations.runout import Diagnosis, diagnose
from axle.stations.station_state import Standing, Status, stand
from axle.workflow.progress import Records, StepStanding, progress, station_in_hand, step_in_hand, work_at
from shop.jobs.advice import advised
from shop.jobs.models import (
    Assembly,
    Finding,
    Fit,
    Job,
    MoneySheet,
    Move,
    PackPiece,
    PartLine,
    Pattern,
    PrintMade,
    Reading,
    RegisterLine,
    StepMark,
    Tightening,
)
from shop.jobs.rows import making_at, marks_from, order_of, settings_from, unstruck


@dataclass(frozen=True)
class JobAxle:
    """A job's rows, read once, and what the core makes of them."""

    job: Job
    spec: AxleSpec
    state: AxleState
    display: Display
    assemblies: tuple[Assembly, ...]
    readings: tuple[Reading, ...]
    pieces: tuple[PackPiece, ...]
    patterns: tuple[Pattern, ...]
    prints_made: tuple[PrintMade, ...]
    build: Build
    plan: Plan
    groups: tuple[Group, ...]
    step_marks: tuple[StepMark, ...]
    register: tuple[RegisterLine, ...]
    findings: tuple[Finding, ...]
    tightenings: tuple[Tightening, ...]
    fits: tuple[Fit, ...] = ()
    part_lines: tuple[PartLine, ...] = ()
    # Supplements that nobody has answered yet.
    unanswered: tuple[MoneySheet, ...] = ()

    @cached_property
    def moves(self) -> tuple[Move, ...]:
        """Every move that was made, those taken back too."""
        return tuple(self.job.moves.order_by("id"))

    @property
    def assembly(self) -> Assembly:
        """The assembly in hand."""
        return self.assemblies[-1]

    @property
    def print_number(self) -> int:
        """Number of the print in hand of the assembly in hand."""
        rows: list[PrintMade | Pattern] = [*self.prints_made, *self.patterns]
        return max((row.number for row in rows if row.assembly_id == self.assembly.pk), default=1)

    @property
    def making(self) -> Making:
        """How the print in hand was made; else how the newest before it was."""
        return making_at(self.prints_made, (self.assembly.pk, self.print_number))

    @cached_property
    def standings(self) -> Mapping[str, Standing]:
        """Where every station stands."""
        return stand(self.state, self.display)

    @cached_property
    def station(self) -> str:
        """The station in hand by the order of the work."""
        return station_in_hand(self.plan, self.standings, self.progress)

    @cached_property
    def records(self) -> Records:
        """Marks on steps, and what each list still waits for."""
        facts = self.plan.facts
        lines = self.register_lines
        fitted = self._fitted_by_item()
        lists = {name: open_items(name, facts, lines, fitted) for name in LISTS}
        lists["findings"] = not_looked_at(self.found, self.plan.scope.parts) + self._metal_unexplained()
        lists["torques"] = open_torques(self.torques)
        lists["tools"] = self._tools_open()
        torqued = frozenset(s.group.group for s in self.torques if s.is_done)
        marks = marks_from(self.step_marks)
        return Records(marks, lists, frozenset(self.job.choices), torqued, awaited=self.awaited)

    @cached_property
    def awaited(self) -> Mapping[str, tuple[str, ...]]:
        """By step, the parts and answers that it waits for, in words."""
        found: dict[str, list[str]] = defaultdict(list)
        for line in self.part_lines:
            if line.order_id is not None and LineState(line.state) in AWAITED:
                due = f", due {line.due_on:%a %-d %b}" if line.due_on else ""
                for step in steps_waiting(line.part, self.plan.steps):
                    found[step].append(f"Waits for {line.words.lower()}: {line.state}{due}.")
        for sheet in self.unanswered:
            found[sheet.step].append(f"Waits for the customer's answer to supplement {sheet.number}.")
        return {step: tuple(words) for step, words in found.items()}

    @cached_property
    def progress(self) -> tuple[StepStanding, ...]:
        """Where every step of the work stands."""
        return progress(self.plan, self.state, self.standings, self.records)

    @property
    def step(self) -> StepStanding:
        """The step in hand."""
        return step_in_hand(self.progress, self.station)

    def status_of(self, station: str) -> Status:
        """The state of any station, for its sign: measured, or settled by its steps."""
        if station in self.plan.scope.without:
            return Status.NOT_PART
        work = work_at(station, self.progress)
        if not stations()[station].is_measured:
            return work.status
        standing = self.standings[station]
        whole = work.passed == work.count or station == StationName.SHEET or self.job.practice
        return standing.status if whole or not standing.is_done else Status.BEGUN

    @property
    def not_done(self) -> tuple[StepStanding, ...]:
        """Steps that nobody did and nothing proves: signing names each as a deviation."""
        return tuple(s for s in self.progress if not s.is_passed and s.step.station != StationName.SHEET)

    @property
    def made_up(self) -> tuple[str, ...]:
        """Measured stations with a result that rests on a made-up figure; a practice axle's all do."""
        if self.job.practice:
            return ()
        return tuple(
            name for name, s in self.standings.items() if s.result and made_up_titles(self.state, name)
        )

    @property
    def out_of_order(self) -> tuple[StepStanding, ...]:
        """Steps that were done before others that come first, knowingly."""
        return tuple(s for s in self.progress if s.is_passed and s.marked and s.marked.before)

    @property
    def open_holds(self) -> tuple[StepStanding, ...]:
        """Hold points that let nobody past yet, beside those of measured stations."""
        return tuple(
            s
            for s in self.progress
            if s.held and not s.is_passed and s.step.hold and s.step.hold.by != "station"
        )

    @property
    def passed_over(self) -> tuple[StepStanding, ...]:
        """Open hold points of stations that lie before the one in hand."""
        now = self.plan.stations.index(self.station)
        return tuple(s for s in self.open_holds if self.plan.stations.index(s.step.station) < now)

    @cached_property
    def torques(self) -> tuple[GroupStanding, ...]:
        """The torque sheet as it stands."""
        signed = [
            Tightened(
                row.group,
                row.stage,
                torque=float(row.value),
                order=order_of(row),
                settings=settings_from(row.settings),
            )
            for row in self.tightenings
        ]
        return stand_torques(
            self.groups, signed, layout=self.spec.layout, settings=self.state.settings, display=self.display
        )

    @property
    def register_lines(self) -> tuple[Entry, ...]:
        """The register of parts and marks, oldest line first."""
        return tuple(
            Entry(
                row.item,
                Event(row.event),
                words=row.words,
                pieces=tuple(Decimal(p) for p in row.pieces),
                count=row.count,
            )
            for row in self.register
        )

    @property
    def found(self) -> tuple[Found, ...]:
        """The findings that stand: the newest on each part."""
        newest = {row.part: row for row in self.findings}
        return tuple(Found(r.part, r.sign, decision=r.decision, reason=r.reason) for r in newest.values())

    @cached_property
    def diagnosis(self) -> Diagnosis:
        """Which part the runout runs blame."""
        return diagnose(self.state, self.display)

    def _fitted_by_item(self) -> dict[str, int]:
        counts: dict[str, int] = defaultdict(int)
        for piece in self.pieces:
            if piece.assembly_id == self.assembly.pk:
                counts[item_of(Place(piece.place), self.spec)] += 1
        return counts

    def _metal_unexplained(self) -> tuple[str, ...]:
        """Metal in the oil, as it was taken down, that no finding accounts for."""
        lines = questions(self.found, self.job.choices.get("oil", ""))
        return tuple(line for line in lines if line.startswith("Metal"))

    def tool_state(self, name: str) -> str:
        """Whether a tool is at hand: "have", "missing", or "" where nobody said; what the shop has, is."""
        held = self.job.tools.get(name, "")
        return str(held or ("have" if name in self.job.shop.tools_owned else ""))

    def _tools_open(self) -> tuple[str, ...]:
        words = {"missing": "missing", "": "not ticked yet"}
        return tuple(
            f"{need.tool.title}: {words[self.tool_state(need.tool.tool)]}; first wanted at "
            f"“{need.first.title.lower()}”."
            for need in self.plan.needs
            if need.tool.stops and self.tool_state(need.tool.tool) != "have"
        )

    @cached_property
    def move(self) -> Advice:
        """The next move."""
        return advised(self.state, self.display)

    def valid_readings(self) -> list[Reading]:
        """Readings that no later row has struck."""
        return unstruck(self.readings)

    def pieces_of(self, assembly: Assembly) -> dict[str, list[PackPiece]]:
        """Pieces by place in one assembly."""
        found: dict[str, list[PackPiece]] = defaultdict(list)
        for piece in self.pieces:
            if piece.assembly_id == assembly.pk:
                found[piece.place].append(piece)
        return found


def item_of(place: Place, spec: AxleSpec) -> str:
    """The register's item for the shims of a place."""
    if place in (Place.RING, Place.FAR):
        return f"shim_{spec.layout.side_of(place).value}"
    return f"shim_{place.value}"
