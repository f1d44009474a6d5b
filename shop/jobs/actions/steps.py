"""Changes to how a job is worked: choices, marks on steps, deviations, the arrival record, tools."""

import uuid
from collections.abc import Mapping, Sequence
from decimal import Decimal

from axle.errors import AxleError, quoted
from axle.layout import Place
from axle.procedure.choices import SLINGER_AT, Build, choices, still_possible
from axle.procedure.findings import parts
from axle.procedure.scope import scope_named
from axle.procedure.steps import Step, tools
from axle.workflow.progress import StepMarkKind, StepStanding, goes_stale, open_before
from shop.jobs import clock, loading
from shop.jobs.actions.job_change import job_change
from shop.jobs.actions.packs import rebuild
from shop.jobs.job_axle import JobAxle
from shop.jobs.models import Job, Position, StepMark
from shop.people import rules
from shop.people.models import User
from shop.people.rules import Right

MILES = ("miles", "km")
# Before the name of a part that the findings replace, on the list before starting.
PART = "part-"


class OutOfOrder(Exception):
    """A step that others come before: said with what goes stale, done when it is sent again."""

    def __init__(self, step: Step, before: tuple[StepStanding, ...], stale: tuple[str, ...]) -> None:
        self.step, self.before, self.stale = step, before, stale
        super().__init__(f"{step.title}: {len(before)} steps before it are open")


def choose(
    user: User,
    job: Job,
    version: int,
    given: Mapping[str, str],
    reason: str = "",
    scope: str | None = None,
) -> tuple[str, ...]:
    """Choose parts and variants; the sequence follows. Names choices that fell with another.

    Another school than the shop's usual wants a reason, kept with the job.
    """
    rules.require_right(user, Right.PLAN, practice=job.practice)
    with job_change(job, user, version) as change:
        if scope is not None:
            change.job.scope = scope_named(scope).scope
        axle = loading.load(change.job)
        layout = axle.spec.layout
        facts = axle.build.facts
        wanted = {
            **change.job.choices,
            **{n: v for n, v in given.items() if v != facts.get(n) or n == "oil"},
        }
        for name, value in wanted.items():
            if name not in choices() or value not in choices()[name].values:
                raise AxleError(
                    "choice", given=f"“{name[:20]}: {value[:30]}”", wanted="one that is offered"
                )
        kept = still_possible(layout, wanted, change.job.scope)
        fallen = tuple(choices()[name].title for name in wanted if name not in kept)
        Build(layout, change.job.new_bearings, kept, scope=change.job.scope)
        # The way of measuring follows the school that was chosen last.
        follows = {"depth": "depth_by", "carrier_preload": "school"}
        for station, name in follows.items():
            if given.get(name, facts[name]) != facts[name]:
                change.job.ways = {s: way for s, way in change.job.ways.items() if s != station}
        if kept.get("slinger", facts["slinger"]) != facts["slinger"]:
            # It stands in the stacks: what was read with or without it no longer holds.
            Position.objects.update_or_create(
                assembly=axle.assembly,
                place=Place.SLINGER.value,
                defaults={"value": Decimal(SLINGER_AT[kept.get("slinger", "no")])},
            )
        change.job.choices = kept
        if "school" in given:
            _keep_reason(user, change.job, axle=axle, school=given["school"], reason=reason)
        change.job.save(update_fields=["scope", "choices", "ways", "reasons"])
        change.what = "chose parts and order of the work"
    return fallen


def _keep_reason(user: User, job: Job, axle: JobAxle, school: str, reason: str) -> None:
    """Hold a chosen school to the shop's usual: another one says why."""
    usual = user.shop.schools.get(axle.spec.layout.carrier_by.value) if user.shop else None
    if usual is None or (school == axle.build.facts["school"] and not reason.strip()):
        return
    others = {name: why for name, why in job.reasons.items() if name != "school"}
    if school == usual:
        job.reasons = others
        return
    if len(reason.strip()) < 4:
        titles = choices()["school"].values
        raise AxleError(
            choices()["school"].title,
            given=f"“{titles[school].title}” without a reason",
            wanted=f"why this axle goes another way than the shop's usual, {titles[usual].title}",
        )
    job.reasons = {**others, "school": reason.strip()[:200]}


def mark_step(
    user: User,
    job: Job,
    version: int,
    step: str,
    mark: StepMarkKind,
    entry: uuid.UUID,
    *,
    reason: str = "",
    knowing: bool = False,
) -> StepMark:
    """Mark a step begun, done, taken back, or passed with a signed reason.

    :raises OutOfOrder: the first time a step is done before those that come before it.
    """
    known = StepMark.objects.filter(job=job, entry=entry).first()
    if known is not None:
        return known
    if mark is StepMarkKind.WAIVED:
        _require_deviation(user, job, reason, wanted="why the hold is passed, in a few words")
    with job_change(job, user, version) as change:
        axle = loading.load(change.job)
        axle.plan.find(step)  # a step that this job does not have is refused
        standing = next(s for s in axle.progress if s.step.step == step)
        before: tuple[StepStanding, ...] = ()
        if mark is StepMarkKind.DONE:
            before = _check_done(user, axle, standing, knowing=knowing)
        if mark is StepMarkKind.WAIVED and not standing.held:
            raise AxleError(standing.step.title, given="a deviation", wanted="a hold that is not met")
        if mark is StepMarkKind.DONE and Place.BEARINGS in standing.step.changes:
            count = axle.state.setting(Place.BEARINGS) + 1
            rebuild(user, axle, {}, {Place.BEARINGS: count}, note="final bearings", always=True)
            axle = loading.load(change.job)
        row = StepMark.objects.create(
            job=change.job,
            step=step,
            mark=mark.value,
            reason=reason.strip()[:500],
            before=[s.step.step for s in before],
            entry=entry,
            at=clock.now(),
            person=user,
            by=user.called,
            settings=loading.as_json(axle.state.settings),
        )
        words = {
            StepMarkKind.BEGUN: "began",
            StepMarkKind.DONE: "did",
            StepMarkKind.UNDONE: "took back",
            StepMarkKind.WAIVED: "signed past",
        }[mark]
        change.what = f"{words} “{standing.step.title.lower()}”"
    return row


def markable_at(axle: JobAxle, station: str) -> tuple[list[StepStanding], list[StepStanding]]:
    """The steps of a station that may be marked together, and those that stay open when they are."""
    open_here = [s for s in axle.progress if s.step.station == station and not s.is_passed]
    together = [s for s in open_here if s.step.goes_with_others and not s.held]
    return together, [s for s in open_here if s not in together]


def mark_together(
    user: User, job: Job, version: int, station: str, names: Sequence[str]
) -> tuple[StepStanding, ...]:
    """Mark the named steps of a station done, and no other; gives those that stay open.

    Holds, steps that a reading proves or that change the axle, a road test and a hand-over are done alone.
    """
    with job_change(job, user, version) as change:
        axle = loading.load(change.job)
        together, rest = markable_at(axle, station)
        wanted = [s for s in together if s.step.step in set(names)]
        if not wanted:
            raise AxleError("station", given="no step", wanted="one or more that may be marked together")
        now = clock.now()
        for standing in wanted:
            StepMark.objects.create(
                job=change.job,
                step=standing.step.step,
                mark=StepMarkKind.DONE.value,
                at=now,
                person=user,
                by=user.called,
                settings=loading.as_json(axle.state.settings),
            )
        change.what = f"did {len(wanted)} steps"
    return (*[s for s in together if s not in wanted], *rest)


def waive_all(user: User, job: Job, version: int, reason: str) -> int:
    """Sign past every hold that is still open, with one reason: a deviation each."""
    _require_deviation(user, job, reason, wanted="why the holds are passed, in a few words")
    with job_change(job, user, version) as change:
        axle = loading.load(change.job)
        held = axle.open_holds
        for standing in held:
            StepMark.objects.create(
                job=change.job,
                step=standing.step.step,
                mark=StepMarkKind.WAIVED.value,
                reason=reason.strip()[:500],
                at=clock.now(),
                person=user,
                by=user.called,
                settings=loading.as_json(axle.state.settings),
            )
        change.what = f"signed past {len(held)} holds"
    return len(held)


def _require_deviation(user: User, job: Job, reason: str, *, wanted: str) -> None:
    """Who may sign a deviation, and that a reason stands beside it."""
    rules.require_right(user, Right.SIGN, practice=job.practice)
    if len(reason.strip()) < 4:
        raise AxleError("reason", given=quoted(reason), wanted=wanted)


def record_arrival(
    user: User,
    job: Job,
    version: int,
    *,
    complaint: str,
    use: str,
    oil: str,
    gears: str,
    mileage: str,
    unit: str,
    noise: str,
    note: str,
) -> None:
    """Keep what is taken down on arrival beside the readings."""
    digits = mileage.strip().replace(",", "").replace(" ", "")
    if digits and not (digits.isascii() and digits.isdigit() and len(digits) <= 7):
        raise AxleError("mileage", given=f"“{mileage.strip()[:20]}”", wanted="a whole number, or nothing")
    if unit not in MILES:
        raise AxleError("mileage", given=f"the unit “{unit[:10]}”", wanted="miles or km")
    for name, value in (("use", use), ("oil", oil), ("gears", gears)):
        if value not in choices()[name].values:
            wanted = ", ".join(v.title for v in choices()[name].values.values())
            raise AxleError(choices()[name].title, given=f"“{value[:20]}”", wanted=wanted)
    with job_change(job, user, version) as change:
        held = change.job
        held.complaint = complaint.strip()[:2000]
        held.arrival = {
            "mileage": int(digits) if digits else None,
            "unit": unit,
            "noise": noise.strip()[:500],
            "note": note.strip()[:1000],
        }
        held.choices = {**held.choices, "use": use, "gears": gears}
        if oil != "not_seen":
            held.choices["oil"] = oil
        else:
            held.choices.pop("oil", None)
        held.save(update_fields=["complaint", "arrival", "choices"])
        change.what = "took down the arrival"


def is_listed(name: str) -> bool:
    """Whether the list before starting can have such a line: a tool, or a part that is replaced."""
    return name in tools() or (name.startswith(PART) and name.removeprefix(PART) in parts())


def tick_tools(user: User, job: Job, version: int, have: Mapping[str, str]) -> None:
    """Keep what is at hand and what is missing, by tool."""
    for name, state in have.items():
        if not is_listed(name) or state not in ("have", "missing", ""):
            raise AxleError("list", given=f"“{name[:20]}: {state[:12]}”", wanted="have or missing")
    with job_change(job, user, version) as change:
        change.job.tools = {name: state for name, state in {**change.job.tools, **have}.items() if state}
        change.job.save(update_fields=["tools"])
        missing = sum(state == "missing" for state in change.job.tools.values())
        change.what = f"ticked the list, {missing} missing" if missing else "ticked the list"


def _check_done(
    user: User, axle: JobAxle, standing: StepStanding, *, knowing: bool
) -> tuple[StepStanding, ...]:
    """Refuse what cannot be done yet; gives the steps before it that are open all the same."""
    hold = standing.step.hold
    if standing.held and not (hold and hold.by == "signature"):
        raise AxleError(
            standing.step.title,
            given=standing.held[0].rstrip("."),
            wanted="its reading or record in range",
            do="Or sign a deviation with a reason.",
        )
    before = open_before(standing.step.step, axle.progress)
    if hold and hold.by == "signature":
        rules.require_right(user, Right.SIGN, practice=axle.job.practice)
        held = [s for s in before if s.held]
        if held:
            # Oil is the last thing: it hides whatever was not measured before it.
            raise AxleError(
                standing.step.title,
                given=f"“{held[0].step.title.lower()}” still open",
                wanted="every hold before it met, or signed past with its reason",
            )
    stale = goes_stale(standing.step, axle.spec.layout)
    if before and not knowing:
        raise OutOfOrder(standing.step, before, stale)
    return before
