"""Changes to a job's runout runs, and what was expected of a clocking beside what came of it."""

import uuid
from collections.abc import Sequence
from decimal import Decimal

from axle.errors import AxleError
from axle.layout import Place
from axle.measure.units import Quantity
from axle.procedure.conditions import checked
from axle.procedure.names import KindName, StationName
from axle.procedure.stations import kind_named
from axle.runout import MOST_PLACES, clockings
from axle.stations.runout import tell_apart
from shop.jobs import clock, loading
from shop.jobs.actions.job_change import job_change
from shop.jobs.actions.packs import rebuild
from shop.jobs.job_axle import JobAxle
from shop.jobs.models import Fit, Job, Move, Reading
from shop.people.models import User
from shop.people.rules import Rejected

KINDS = {"ring": "ring_run", "flange": "flange_run"}


def add_run(
    user: User,
    job: Job,
    version: int,
    part: str,
    places: int,
    run: int,
    values: Sequence[Quantity],
    entry: uuid.UUID,
    instrument: str = "",
) -> int:
    """Keep one or more whole turns of a run, or its next single place; gives the run's number.

    A run number of 0 starts a new run.
    """
    kind = _kind(part)
    if not 3 <= places <= MOST_PLACES:
        raise AxleError("places", given=f"{places}", wanted=f"3 to {MOST_PLACES}")
    if not values:
        raise AxleError("readings", given="nothing", wanted=f"{places} readings, one for each place")
    if len(values) != 1 and len(values) % places:
        raise AxleError(
            "readings",
            given=f"{len(values)} readings",
            wanted=f"{places} a turn, or one alone",
            do="Count them: one may be missing or double.",
        )
    if Reading.objects.filter(entry=entry, assembly__job=job).exists():
        return run
    for value in values:
        kind_named(kind).check(value.core, value.text)
    with job_change(job, user, version) as change:
        axle = loading.load(change.job)
        _check_play(axle)
        rows = [row for row in axle.valid_readings() if row.kind == kind]
        number = run or 1 + max((row.conditions["run"] for row in rows), default=0)
        mine = [row for row in rows if row.conditions["run"] == number]
        if mine and mine[0].conditions["places"] != places:
            raise AxleError(
                "places",
                given=f"{places}",
                wanted=f"{mine[0].conditions['places']}, as the run began",
                do="Or start a new run.",
            )
        settings = loading.as_json(axle.state.settings)
        if mine and mine[0].settings.get("clock") != settings.get("clock"):
            raise Rejected("The gear was clocked since that run began: start a new run.")
        for index, value in enumerate(values, start=len(mine)):
            Reading.objects.create(
                entry=entry if index == len(mine) else uuid.uuid4(),
                assembly=axle.assembly,
                kind=kind,
                place=index % places + 1,
                typed=value.text,
                unit=value.unit.symbol,
                value=value.core,
                at=clock.now(),
                person=user,
                by=user.called,
                settings=settings,
                instrument=instrument,
                conditions=checked(kind, {"run": number, "places": places, "turn": index // places + 1}),
            )
        change.what = f"read the {part} around, {len(values)} place{'s' if len(values) > 1 else ''}"
    return number


def set_clock(user: User, job: Job, version: int, holes: int) -> None:
    """Record that the ring gear was turned on its flange by bolt holes; keeps what was expected."""
    with job_change(job, user, version) as change:
        axle = loading.load(change.job)
        bolts = axle.state.ring_bolts
        now = int(axle.state.setting(Place.CLOCK))
        if not holes % bolts > 0:
            raise AxleError("clocking", given=f"{holes} holes", wanted=f"1 to {bolts - 1} holes")
        to = Decimal((now + holes) % bolts)
        fit = rebuild(user, axle, {}, {Place.CLOCK: to}, note="ring gear re-clocked", always=True)
        _keep_clocking(user, axle, fit, holes % bolts)
        change.what = f"clocked the gear by {holes % bolts} holes"


def _keep_clocking(user: User, axle: JobAxle, fit: Fit, holes: int) -> Move:
    """Keep a clocking as a move, with the runout that was expected of it."""
    split = tell_apart(axle.state)
    expected = []
    if split is not None:
        position = clockings(split, axle.state.ring_bolts)[holes]
        expected = [
            {
                "label": "Ring gear runout",
                "low": max(position.total - position.uncertainty, 0.0),
                "high": position.total + position.uncertainty,
                "dimension": "length",
            }
        ]
    before = axle.state.setting(Place.CLOCK)
    return Move.objects.create(
        job=axle.job,
        assembly=fit.assembly,
        fit=fit,
        title=f"Clock the gear by {holes} holes",
        station=StationName.RING_GEAR,
        swaps=[
            {
                "place": "clock",
                "before": str(before),
                "after": str(Decimal(int(before + holes) % axle.state.ring_bolts)),
                "pieces": [],
            }
        ],
        expected=expected,
        why=list(axle.diagnosis.why),
        taken_at=clock.now(),
        taken_by=user,
        by=user.called,
    )


def _kind(part: str) -> str:
    if part not in KINDS:
        raise AxleError("part", given=f"“{part[:20]}”", wanted="ring or flange")
    return KINDS[part]


def _check_play(axle: JobAxle) -> None:
    """Runout cannot be read through side play, unless somebody signed for it."""
    play = axle.state.latest(KindName.ARRIVAL_SIDE_PLAY)
    if play is None and not axle.state.play_accepted:
        raise Rejected("Read the side play first: runout cannot be read through it.")
    if play is not None and play.value > 0 and not axle.state.play_accepted:
        shown = axle.display.show(play.value)
        raise Rejected(
            f"Side play is {shown} {axle.display.length.symbol}, not nil: runout is not believed through "
            "it. "
            "Take it out and read it again, or sign the step “read the side play” with a reason."
        )
