"""The one bridge from a job's rows to the whole state of its axle, as the core wants it."""

from collections import defaultdict
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from decimal import Decimal
from functools import cached_property
from typing import Any

from axle.advice.lash import learned
from axle.advice.moves import Move as Advice
from axle.advice.next_move import next_move
from axle.advice.progress import Mark as MarkKind
from axle.advice.progress import (
    Records,
    StepStanding,
    progress,
    station_in_hand,
    step_in_hand,
    work_at,
)
from axle.advice.runs import Diagnosis, diagnose
from axle.advice.standing import Standing, Status, stand
from axle.advice.state import AxleState, Settings, averaged
from axle.contact.goal import Goal, goal_of, goals
from axle.contact.making import Making
from axle.depth.marks import HUNDREDTH_STEP, THOU_STEP, Mark, MarkConvention
from axle.errors import AxleError
from axle.fasteners.groups import Group, torque_sheet
from axle.fasteners.signing import GroupStanding, Tightened, open_torques, stand_torques
from axle.gearset import GearSet, Stance
from axle.layout import Place
from axle.procedure.choices import HOLE_STEP, LASH_PLACES, OVERSHOOT, Build, still_possible
from axle.procedure.findings import Found, contaminated, not_looked_at, questions
from axle.procedure.register import LISTS, Entry, Event, open_items
from axle.procedure.sequence import Plan, plan
from axle.procedure.stations import stations
from axle.specfile import AxleSpec, read_spec
from axle.units import HUNDREDTH_MM, IMPERIAL, MM, THOU, Display, parse
from shop.jobs.models import (
    Assembly,
    Finding,
    Job,
    PackPiece,
    Pattern,
    PrintMade,
    Reading,
    RegisterLine,
    StepMark,
    Tightening,
)
from shop.jobs.rows import (
    Drawer,
    making_at,
    marks_from,
    order_of,
    patch_of,
    pieces_at,
    prints_from,
    runs_from,
    settings_from,
    settings_of,
    signatures_from,
    taken_from,
    unstruck,
)


@dataclass(frozen=True)
class Axle:
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
        return Records(marks_from(self.step_marks), lists, frozenset(self.job.choices))

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
        return Status.BEGUN if standing.is_done and work.held and station != "sheet" else standing.status

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
            Tightened(row.group, row.stage, float(row.value), order_of(row), settings_from(row.settings))
            for row in self.tightenings
        ]
        return stand_torques(self.groups, signed, self.spec.layout, self.state.settings, self.display)

    @property
    def register_lines(self) -> tuple[Entry, ...]:
        """The register of parts and marks, oldest line first."""
        return tuple(
            Entry(row.item, Event(row.event), row.words, tuple(Decimal(p) for p in row.pieces), row.count)
            for row in self.register
        )

    @property
    def found(self) -> tuple[Found, ...]:
        """The findings that stand: the newest on each part."""
        newest = {row.part: row for row in self.findings}
        return tuple(Found(r.part, r.sign, r.decision, r.reason) for r in newest.values())

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
        asked = questions(self.found, self.job.choices.get("oil", ""))
        return tuple(line for line in asked if line.startswith("Metal"))

    def _tools_open(self) -> tuple[str, ...]:
        words = {"missing": "missing", "": "not ticked yet"}
        return tuple(
            f"{need.tool.title}: {words[self.job.tools.get(need.tool.tool, '')]}; first wanted at "
            f"“{need.first.title.lower()}”."
            for need in self.plan.needs
            if need.tool.stops and self.job.tools.get(need.tool.tool) != "have"
        )

    @cached_property
    def move(self) -> Advice:
        """The next move."""
        return next_move(self.state, self.display, self.standings)

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


def load(job: Job, display: Display = IMPERIAL) -> Axle:
    """Read all rows of a job that bear on its state; the same few queries whatever the job."""
    spec = read_spec(job.sheet)
    assemblies = tuple(job.assemblies.prefetch_related("positions").order_by("number"))
    readings = tuple(Reading.objects.filter(assembly__job=job).order_by("id"))
    pieces = tuple(PackPiece.objects.filter(assembly__job=job).select_related("lot"))
    register = tuple(job.register.order_by("id"))
    patterns = tuple(Pattern.objects.filter(assembly__job=job).order_by("id"))
    made = tuple(PrintMade.objects.filter(assembly__job=job).order_by("id"))
    numbers = {assembly.pk: assembly.number for assembly in assemblies}
    current = assemblies[-1]
    settings = settings_of(current, pieces)
    fitted = pieces_at(current, pieces)
    findings = tuple(job.findings.order_by("id"))
    build = build_of(
        job,
        spec,
        findings,
        overshot=_overshot(job, spec, readings),
        final_parts=bool(settings.get(Place.BEARINGS)),
    )
    work = plan(build)
    groups = torque_sheet(work.facts, spec.sheet, job.fasteners)
    marks = tuple(job.step_marks.order_by("id"))
    waived = marks_from(marks).get("arrival-side-play")
    state = AxleState(
        layout=spec.layout,
        gears=spec.gears,
        sheet=spec.sheet,
        new_bearings=job.new_bearings,
        mark=Mark(
            float(job.mark_value),
            MarkConvention(job.mark_convention),
            mark_step(job.mark_typed),
            confirmed=bool(job.mark_confirmed),
        ),
        settings=settings,
        taken=averaged(taken_from(reading, numbers) for reading in unstruck(readings)),
        prints=prints_from(patterns, made, numbers),
        signatures=signatures_from(job.sign_offs.order_by("id")),
        ways={**build.ways, **job.ways},
        drawer=Drawer(job, spec, fitted),
        fitted=fitted,
        assembly=current.number,
        stations=work.stations,
        found={row.flank: patch_of(row.outline) for row in patterns if row.taken == Pattern.Taken.AS_FOUND},
        used_gears=work.facts["gears"] == "used",
        runs=runs_from(readings),
        ring_bolts=next((group.count for group in groups if group.group == "ring"), 10),
        play_accepted=waived is not None and waived.mark is MarkKind.WAIVED,
        old_packs=old_packs(register, spec, kit=work.facts["spacer_kit"] == "kit"),
        spacer_kit=work.facts["spacer_kit"] == "kit",
        use=work.facts["use"],
        trial=work.facts["trial"],
        overshoot=OVERSHOOT[work.facts["overshoot"]],
        school=work.facts["school"],
        lash_places=LASH_PLACES[work.facts["lash_places"]],
        hole_step=HOLE_STEP[work.facts["locks"]],
        usual_packs=work.facts["carrier_from"] == "own",
        chart=spec.chart,
        aim=work.facts["aim"],
        policy=work.facts["policy"],
        finished_ratios=_finished_ratios(job, spec),
        not_part=work.scope.without,
        fixed=work.scope.fixed,
    )
    return Axle(
        job,
        spec,
        state,
        display,
        assemblies,
        readings,
        pieces,
        patterns,
        made,
        build,
        work,
        groups,
        marks,
        register,
        findings,
        tuple(job.tightenings.order_by("id")),
    )


# So many of the newest finished jobs are looked at for what a shop reads of backlash.
_FINISHED = 20


def _finished_ratios(job: Job, spec: AxleSpec) -> tuple[tuple[float, float], ...]:
    """Backlash per ring gear movement of the shop's finished jobs that are set up the same way."""
    if spec.sheet.stance is not Stance.UNSURE:
        return ()
    finished = Job.objects.of(job.shop).filter(state=Job.State.SIGNED, practice=False).exclude(pk=job.pk)
    return tuple(
        (row["summary"]["ratio"][0], row["summary"]["ratio"][1])
        for row in finished.order_by("-touched_at").values("summary", "sheet")[:_FINISHED]
        if row["summary"].get("ratio")
        and row["sheet"]["layout"]["carrier_by"] == spec.layout.carrier_by.value
        and row["sheet"]["stance"] == spec.sheet.stance.value
    )


def gears_of(job: Job) -> tuple[GearSet, Goal]:
    """A job's gears and the target its prints are held to, without the rest: a slider moves often."""
    spec = read_spec(job.sheet)
    found = Pattern.objects.filter(assembly__job=job, taken=Pattern.Taken.AS_FOUND).order_by("id")
    facts = build_of(job, spec, ()).facts
    old = {row.flank: patch_of(row.outline) for row in found} if facts["gears"] == "used" else {}
    return spec.gears, goal_of(goals(old, spec.chart), facts["aim"])


def build_of(
    job: Job,
    spec: AxleSpec,
    findings: Iterable[Finding],
    *,
    overshot: bool = False,
    final_parts: bool = False,
) -> Build:
    """The axle as it is to be built; dirt that was found opens the steps that flush it out."""
    chosen = still_possible(spec.layout, job.choices, job.scope)
    newest = {row.part: Found(row.part, row.sign, row.decision, row.reason) for row in findings}
    if contaminated(newest.values()) and chosen.get("oil") not in ("water", "metal"):
        chosen["oil"] = "metal"
    return Build(
        spec.layout, job.new_bearings, chosen, overshot=overshot, final_parts=final_parts, scope=job.scope
    )


def _overshot(job: Job, spec: AxleSpec, readings: Iterable[Reading]) -> bool:
    """Whether a sleeve of this job was tightened past its range, and so has to be replaced."""
    racing = spec.sheet.range("pinion_preload_racing") if job.choices.get("use") == "track" else None
    limits = racing or spec.sheet.range("pinion_preload_new" if job.new_bearings else "pinion_preload_used")
    if spec.layout.has_preload_pack or limits is None:
        return False
    return any(
        limits.side(float(row.value or 0)) == "over"
        for row in unstruck(readings)
        if row.kind == "pinion_torque"
        and not row.conditions.get("seal")
        and row.conditions.get("sleeve", "in") == "in"
    )


def mark_step(typed: str) -> float:
    """Last place of a mark: whole hundredths of a millimetre, or whole thousandths of an inch."""
    try:
        metric = parse(typed, THOU).unit in (MM, HUNDREDTH_MM)
    except AxleError:
        metric = False
    return HUNDREDTH_STEP if metric else THOU_STEP


def old_packs(lines: Iterable[RegisterLine], spec: AxleSpec, *, kit: bool = False) -> dict[Place, Decimal]:
    """Packs that were written down as they came off, by place; a kit starts from the old sleeve."""
    off = {row.item: row.pieces for row in lines if row.event == Event.OFF.value and row.pieces}
    found = {}
    for place in spec.layout.shim_places:
        pieces = off.get("old_sleeve" if kit and place is Place.PRELOAD else item_of(place, spec))
        if pieces:
            found[place] = sum((Decimal(piece) for piece in pieces), Decimal(0))
    return found


def item_of(place: Place, spec: AxleSpec) -> str:
    """The register's item for the shims of a place."""
    if place in (Place.RING, Place.FAR):
        return f"shim_{spec.layout.side_of(place).value}"
    return f"shim_{place.value}"


def now_in(job: Job) -> tuple[AxleSpec, Assembly, dict[str, str]]:
    """The spec, the assembly in hand and what is in it, without the rest of the job."""
    assembly = job.assemblies.order_by("-number")[0]
    return read_spec(job.sheet), assembly, as_json(settings_of(assembly))


def as_json(settings: Settings) -> dict[str, str]:
    """Settings as they are kept beside a reading."""
    return {place.value: f"{value:.5f}" for place, value in settings.items()}


def summary(axle: Axle) -> dict[str, Any]:
    """What the jobs page shows of a job, in words."""
    out = [
        {"station": name, "words": standing.result.words if standing.result else ""}
        for name, standing in axle.standings.items()
        if standing.status.value == "out"
    ]
    return {
        "station": axle.station,
        "status": axle.status_of(axle.station).value,
        "out": out,
        "stale": [n for n, s in axle.standings.items() if s.status.value == "stale"],
        "next": axle.move.title if stations()[axle.station].is_measured else axle.step.step.title,
        "step": axle.step.step.title,
        "step_station": axle.step.step.station,
        "assembly": axle.assembly.number,
        "ratio": _ratio_of(axle),
    }


def _ratio_of(axle: Axle) -> list[float] | None:
    """Backlash per ring gear movement that the job's own moves showed, with its standard uncertainty."""
    ratios = learned(axle.state).ratios
    return [round(ratios.per_ring, 4), round(ratios.ring_spread, 4)] if ratios.moves else None
