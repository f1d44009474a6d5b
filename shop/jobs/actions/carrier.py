"""Changes to a job's carrier: its adjusters and their book, and moves planned by hand."""

import uuid
from dataclasses import dataclass, replace
from decimal import Decimal

from axle.carrier.adjuster_log import DONE_WORDS, AdjusterEntry, AdjusterEvent, after
from axle.decision.carrier.start import check_setting
from axle.decision.carrier.what_if import what_if
from axle.decision.move import Move as Advice
from axle.errors import AxleError, quoted
from axle.layout import Place
from axle.measure.units import Display, Quantity
from axle.procedure.choices import choices
from axle.procedure.names import StationName
from shop.jobs import clock, loading
from shop.jobs.actions.job_change import job_change
from shop.jobs.actions.moves import keep_move
from shop.jobs.actions.packs import rebuild
from shop.jobs.actions.steps import choose
from shop.jobs.adjuster_log import adjuster_log
from shop.jobs.job_axle import JobAxle
from shop.jobs.models import CarrierLine, Job, Move, Position
from shop.people.models import User
from shop.people.rules import Rejected


class Harmful(Exception):
    """Settings that would lock the gears or unload a bearing: said, and kept when sent again."""


@dataclass(frozen=True)
class WantedSides:
    """What a planned move is to bring, in the core's unit; what is left out stays as it is."""

    backlash: float | None = None
    interference: float | None = None
    deeper: float = 0.0


def choose_school(user: User, job: Job, version: int, school: str, reason: str) -> None:
    """Follow a school on this job; another than the shop's usual wants a reason."""
    known = choices()["school"]
    facts = loading.load(job).plan.facts
    if school not in known.values or not known.values[school].possible(facts):
        possible = [value.title for value in known.values.values() if value.possible(facts)]
        given = known.values[school].title if school in known.values else school[:20]
        raise AxleError(
            known.title,
            given=f"“{given}”",
            wanted=" or ".join(possible),
            do="What it depends on is chosen under the work: the order, the sleeve.",
        )
    choose(user, job, version=version, given={"school": school}, reason=reason)


def planned(axle: JobAxle, wanted: WantedSides) -> Advice | None:
    """The move that brings what is wanted, or nothing where nothing is known of either side."""
    return what_if(
        axle.state,
        axle.display,
        backlash=wanted.backlash,
        interference=wanted.interference,
        deeper=wanted.deeper,
    )


def make_plan(user: User, job: Job, version: int, wanted: WantedSides, display: Display) -> Move:
    """Do a move that was planned by hand: fit its packs from the drawer, keep what it expects."""
    with job_change(job, user, version) as change:
        axle = replace(loading.load(change.job), display=display)
        _must_stand(change.job)
        advice = planned(axle, wanted)
        if advice is None or not any(swap.change for swap in advice.swaps):
            raise Rejected("There is nothing to change for that: both sides stand as planned.")
        move = keep_move(user, axle, advice)
        change.what = f"took the planned move “{advice.title}”"
    return move


def set_adjusters(
    user: User, job: Job, version: int, ring: Decimal, far: Decimal, *, knowing: bool = True
) -> None:
    """Record how far both adjusters are turned in, in holes from their marks.

    :raises Harmful: the first time, for positions that would lock the gears or unload a bearing.
    """
    with job_change(job, user, version) as change:
        axle = loading.load(change.job)
        if not axle.spec.layout.has_adjusters:
            raise AxleError("adjusters", given="holes", wanted="an axle with threaded adjusters")
        _must_stand(change.job)
        harm = check_setting(axle.state, axle.display, ring, far)
        if harm and not knowing:
            raise Harmful(" ".join(harm))
        rebuild(user, axle, {}, {Place.RING: ring, Place.FAR: far}, note="adjusters set")
        change.what = "set the adjusters"


def write_line(
    user: User,
    job: Job,
    version: int,
    done: AdjusterEvent,
    entry: uuid.UUID,
    *,
    ring: Decimal = Decimal(0),
    far: Decimal = Decimal(0),
    torque: Quantity | None = None,
    words: str = "",
) -> CarrierLine:
    """Write one line into the book of adjusters and caps."""
    known = CarrierLine.objects.filter(job=job, entry=entry).first()
    if known is not None:
        return known
    with job_change(job, user, version) as change:
        axle = loading.load(change.job)
        if done in (AdjusterEvent.MARKED, AdjusterEvent.ASIDE, AdjusterEvent.BACK):
            _check_adjusters(axle, done)
        after(
            adjuster_log(change.job), AdjusterEntry(done, float(ring), float(far))
        )  # refuses what cannot follow
        row = CarrierLine.objects.create(
            job=change.job,
            done=done.value,
            ring=ring,
            far=far,
            words=words.strip()[:200],
            entry=entry,
            at=clock.now(),
            person=user,
            by=user.called,
            settings=loading.as_json(axle.state.settings),
        )
        if done in (AdjusterEvent.LOOSE, AdjusterEvent.NIPPED, AdjusterEvent.TORQUED):
            _set_caps(axle, done, torque)
        change.what = f"wrote down: {DONE_WORDS[done]}"
    return row


def _must_stand(job: Job) -> None:
    if adjuster_log(job).is_aside:
        raise Rejected("The carrier stands aside: bring it back first, by the holes it went.")


def _check_adjusters(axle: JobAxle, done: AdjusterEvent) -> None:
    if not axle.spec.layout.has_adjusters:
        raise AxleError("adjusters", given="holes", wanted="an axle with threaded adjusters")
    if done is AdjusterEvent.MARKED and not axle.standings[StationName.CARRIER_PRELOAD].is_done:
        raise AxleError(
            "marks",
            given="marks before the preload is right",
            wanted="the carrier's preload in range",
            do="Marks made before are worth nothing.",
        )


def _set_caps(axle: JobAxle, done: AdjusterEvent, torque: Quantity | None) -> None:
    """Loose or nipped caps count as no torque; another torque is another bore."""
    value = Decimal(0)
    if done is AdjusterEvent.TORQUED:
        limits = axle.spec.sheet.range("cap_torque")
        if torque is not None:
            if not 5 <= torque.core <= 400:
                raise AxleError(
                    "caps", given=quoted(torque.text), wanted="5 to 400 N·m", do="Check the unit."
                )
            value = round(torque.core, 2)
        elif limits is not None:
            value = round(Decimal(str(limits.aim)), 2)
        else:
            raise AxleError("caps", given="torqued, no figure", wanted="the torque on them")
    Position.objects.update_or_create(
        assembly=axle.assembly, place=Place.CAPS.value, defaults={"value": value}
    )
