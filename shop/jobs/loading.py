"""The one bridge from a job's rows to the whole state of its axle, as the core wants it."""

import json
from collections.abc import Iterable
from decimal import Decimal
from functools import lru_cache
from typing import Any

from axle.contact.target import Target, target_of, targets
from axle.depth.marks import HUNDREDTH_STEP, THOU_STEP, Mark, MarkConvention
from axle.errors import AxleError
from axle.fasteners.groups import torque_sheet
from axle.gearset import GearSet, Stance
from axle.layout import Place
from axle.measure.parse import parse
from axle.measure.range import RangeSide
from axle.measure.units import HUNDREDTH_MM, IMPERIAL, MM, THOU, Display
from axle.procedure.choices import HOLE_STEP, LASH_PLACES, OVERSHOOT, Build, still_possible
from axle.procedure.findings import Found, contaminated
from axle.procedure.names import KindName
from axle.procedure.register import Event
from axle.procedure.sequence import plan
from axle.procedure.stations import station_groups, stations
from axle.spec.reader import AxleSpec, read_spec
from axle.state.axle_state import SIGN_AT, AxleState
from axle.state.reading import average_repeats
from axle.state.settings import Settings
from axle.stations.backlash import learned_ratios
from axle.stations.station_state import Status
from axle.workflow.progress import StepMarkKind as MarkKind
from shop.jobs.job_axle import JobAxle, item_of
from shop.jobs.learned import priors_for
from shop.jobs.models import (
    Assembly,
    Finding,
    Job,
    MoneySheet,
    PackPiece,
    Pattern,
    PrintMade,
    Reading,
    RegisterLine,
)
from shop.jobs.noted_lines import felt_of
from shop.jobs.rows import (
    Drawer,
    marks_from,
    patch_of,
    pieces_at,
    prints_from,
    runs_from,
    settings_of,
    signatures_from,
    standing_patterns,
    taken_from,
    unstruck,
)
from shop.jobs.work_left import hours_worked, timed_steps, work_left


def load(job: Job, display: Display = IMPERIAL) -> JobAxle:
    """Read all rows of a job that bear on its state; the same few queries whatever the job."""
    spec = spec_of(job)
    assemblies = tuple(job.assemblies.prefetch_related("positions").order_by("number"))
    readings = tuple(Reading.objects.filter(assembly__job=job).order_by("id"))
    pieces = tuple(PackPiece.objects.filter(assembly__job=job).select_related("lot"))
    register = tuple(job.register.order_by("id"))
    patterns = standing_patterns(Pattern.objects.filter(assembly__job=job).order_by("id"))
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
    prints = prints_from(patterns, made, numbers)
    priors = priors_for(job)
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
        readings=average_repeats(
            (taken_from(reading, numbers) for reading in unstruck(readings)),
            [print_.order for print_ in prints],
            priors,
        ),
        prints=prints,
        signatures=signatures_from(job.sign_offs.order_by("id")),
        methods={**build.methods, **job.ways},
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
        felt=felt_of(job),
        priors=priors,
        sign_at=float(job.shop.sign_at) / 100 if job.shop else SIGN_AT,
    )
    return JobAxle(
        job,
        spec,
        state=state,
        display=display,
        assemblies=assemblies,
        readings=readings,
        pieces=pieces,
        patterns=patterns,
        prints_made=made,
        build=build,
        plan=work,
        groups=groups,
        step_marks=marks,
        register=register,
        findings=findings,
        tightenings=tuple(job.tightenings.order_by("id")),
        fits=tuple(job.fits.order_by("id")),
        part_lines=() if job.practice else tuple(job.part_lines.order_by("id")),
        unanswered=()
        if job.practice
        else tuple(job.money_sheets.filter(kind=MoneySheet.Kind.SUPPLEMENT, answers=None).order_by("id")),
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


def gears_of(job: Job) -> tuple[GearSet, Target]:
    """A job's gears and the target its prints are held to, without the rest: a slider moves often."""
    spec = spec_of(job)
    rows = Pattern.objects.filter(assembly__job=job, taken=Pattern.Taken.AS_FOUND).order_by("id")
    found = standing_patterns(rows)
    facts = build_of(job, spec, ()).facts
    old = {row.flank: patch_of(row.outline) for row in found} if facts["gears"] == "used" else {}
    return spec.gears, target_of(targets(old, spec.chart), facts["aim"])


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
    newest = {
        row.part: Found(row.part, row.sign, decision=row.decision, reason=row.reason) for row in findings
    }
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
        limits.side(float(row.value or 0)) is RangeSide.OVER
        for row in unstruck(readings)
        if row.kind == KindName.PINION_TORQUE
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


def now_in(job: Job) -> tuple[AxleSpec, Assembly, dict[str, str]]:
    """The spec, the assembly in hand and what is in it, without the rest of the job."""
    assembly = job.assemblies.order_by("-number")[0]
    return spec_of(job), assembly, as_json(settings_of(assembly))


def as_json(settings: Settings) -> dict[str, str]:
    """Settings as they are kept beside a reading."""
    return {place.value: f"{value:.5f}" for place, value in settings.items()}


def summary(axle: JobAxle) -> dict[str, Any]:
    """What the jobs page shows of a job, in words."""
    out = [
        {"station": name, "words": standing.result.words if standing.result else ""}
        for name, standing in axle.standings.items()
        if standing.status is Status.OUT
    ]
    by_assembly, by_station, by_role = hours_worked(axle)
    return {
        "station": axle.station,
        "status": axle.status_of(axle.station).value,
        "out": out,
        "stale": [n for n, s in axle.standings.items() if s.status is Status.STALE],
        "next": axle.move.title if stations()[axle.station].is_measured else axle.step.step.title,
        "step": axle.step.step.title,
        "step_station": axle.step.step.station,
        "assembly": axle.assembly.number,
        "ladder": {
            name: axle.status_of(name).value
            for group in station_groups()
            for name in group.stations
            if name in axle.plan.stations
        },
        "ratio": _ratio_of(axle),
        "work": work_left(axle),
        "timed": timed_steps(axle),
        "hours": by_assembly,
        "stages": by_station,
        "roles": by_role,
    }


def _ratio_of(axle: JobAxle) -> list[float] | None:
    """Backlash per ring gear movement that the job's own moves showed, with its standard uncertainty."""
    ratios = learned_ratios(axle.state).ratios
    return [round(ratios.per_ring, 4), round(ratios.ring_std, 4)] if ratios.moves else None


def spec_of(job: Job) -> AxleSpec:
    """A job's own copy of its sheet, read once for each sheet: a request asks for it several times."""
    return _read(json.dumps(job.sheet, sort_keys=True))


@lru_cache(maxsize=64)
def _read(sheet: str) -> AxleSpec:
    return read_spec(json.loads(sheet))
