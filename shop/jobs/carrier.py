"""Changes to a job's carrier: its adjusters and their book, and moves planned by hand."""

import uuid
from dataclasses import dataclass, replace
from decimal import Decimal

from axle.advice.carrier_start import check_setting
from axle.advice.carrier_what_if import what_if
from axle.advice.moves import Move as Advice
from axle.carrier.book import DONE_WORDS, Done, Line, after
from axle.errors import AxleError, quoted
from axle.layout import Place
from axle.procedure.choices import choices
from axle.units import Display, Quantity
from shop.jobs import bridge, clock
from shop.jobs.assemblies import rebuild
from shop.jobs.book import book
from shop.jobs.change import changing
from shop.jobs.models import CarrierLine, Job, Move, Position
from shop.jobs.moves import keep_move
from shop.jobs.work import choose
from shop.people.models import User
from shop.people.rules import Refused


class Harmful(Exception):
    """Settings that would lock the gears or unload a bearing: said, and kept when sent again."""


@dataclass(frozen=True)
class Wanted:
    """What a planned move is to bring, in the core's unit; what is left out stays as it is."""

    backlash: float | None = None
    interference: float | None = None
    deeper: float = 0.0


def choose_school(user: User, job: Job, version: int, school: str, reason: str) -> None:
    """Follow a school on this job; another than the shop's usual wants a reason."""
    known = choices()["school"]
    facts = bridge.load(job).plan.facts
    if school not in known.values or not known.values[school].possible(facts):
        possible = [value.title for value in known.values.values() if value.possible(facts)]
        given = known.values[school].title if school in known.values else school[:20]
        raise AxleError(
            known.title,
            given=f"“{given}”",
            wanted=" or ".join(possible),
            do="What it depends on is chosen under the work: the order, the sleeve.",
        )
    choose(user, job, version, {"school": school}, reason)


def planned(axle: bridge.Axle, wanted: Wanted) -> Advice | None:
    """The move that brings what is wanted, or nothing where nothing is known of either side."""
    return what_if(
        axle.state,
        axle.display,
        backlash=wanted.backlash,
        interference=wanted.interference,
        deeper=wanted.deeper,
    )


def make_plan(user: User, job: Job, version: int, wanted: Wanted, display: Display) -> Move:
    """Do a move that was planned by hand: fit its packs from the drawer, keep what it expects."""
    with changing(job, user, version) as change:
        axle = replace(bridge.load(change.job), display=display)
        _must_stand(change.job)
        advice = planned(axle, wanted)
        if advice is None or not any(swap.change for swap in advice.swaps):
            raise Refused("There is nothing to change for that: both sides stand as planned.")
        move = keep_move(user, axle, advice)
        change.what = f"took the planned move “{advice.title}”"
    return move


def set_adjusters(
    user: User, job: Job, version: int, ring: Decimal, far: Decimal, *, knowing: bool = True
) -> None:
    """Record how far both adjusters are turned in, in holes from their marks.

    :raises Harmful: the first time, for positions that would lock the gears or unload a bearing.
    """
    with changing(job, user, version) as change:
        axle = bridge.load(change.job)
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
    done: Done,
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
    with changing(job, user, version) as change:
        axle = bridge.load(change.job)
        if done in (Done.MARKED, Done.ASIDE, Done.BACK):
            _check_adjusters(axle, done)
        after(book(change.job), Line(done, float(ring), float(far)))  # refuses what cannot follow
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
            settings=bridge.as_json(axle.state.settings),
        )
        if done in (Done.LOOSE, Done.NIPPED, Done.TORQUED):
            _set_caps(axle, done, torque)
        change.what = f"wrote down: {DONE_WORDS[done]}"
    return row


def _must_stand(job: Job) -> None:
    if book(job).is_aside:
        raise Refused("The carrier stands aside: bring it back first, by the holes it went.")


def _check_adjusters(axle: bridge.Axle, done: Done) -> None:
    if not axle.spec.layout.has_adjusters:
        raise AxleError("adjusters", given="holes", wanted="an axle with threaded adjusters")
    if done is Done.MARKED and not axle.standings["carrier_preload"].is_done:
        raise AxleError(
            "marks",
            given="marks before the preload is right",
            wanted="the carrier's preload in range",
            do="Marks made before are worth nothing.",
        )


def _set_caps(axle: bridge.Axle, done: Done, torque: Quantity | None) -> None:
    """Loose or nipped caps count as no torque; another torque is another bore."""
    value = Decimal(0)
    if done is Done.TORQUED:
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
