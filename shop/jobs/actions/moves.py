"""A move taken: its packs fitted from the drawer, and kept with what it expects."""

from axle.decision.move import Move as Advice
from axle.layout import Place
from shop.jobs import clock, loading
from shop.jobs.actions.job_change import job_change
from shop.jobs.actions.packs import rebuild
from shop.jobs.adjuster_log import adjuster_log
from shop.jobs.job_axle import JobAxle
from shop.jobs.models import Job, Move
from shop.people.models import User
from shop.people.rules import Rejected


def keep_move(user: User, axle: JobAxle, advice: Advice) -> Move:
    """Fit a move's packs or turn its adjusters, and keep it; inside a change of the job."""
    packs = {s.place: [p.key for p in s.pack.pieces] for s in advice.swaps if s.pack is not None}
    holes = {s.place: s.after for s in advice.swaps if s.pack is None}
    fit = rebuild(user, axle, packs, holes, note=advice.title)
    return Move.objects.create(
        job=axle.job,
        assembly=fit.assembly,
        fit=fit,
        title=advice.title,
        station=advice.station,
        swaps=[
            {
                "place": s.place.value,
                "before": str(s.before),
                "after": str(s.after),
                "pieces": [str(p.thickness) for p in s.pack.pieces] if s.pack else [],
            }
            for s in advice.swaps
        ],
        expected=[
            {"label": e.label, "low": e.low, "high": e.high, "dimension": e.dimension.value}
            for e in advice.expected
        ],
        why=list(advice.why),
        chance=advice.probability,
        parts=dict(advice.parts),
        taken_at=clock.now(),
        taken_by=user,
        by=user.called,
    )


def apply_move(user: User, job: Job, version: int) -> Move:
    """Do the next move: fit its packs from the drawer and keep it with what it expects."""
    with job_change(job, user, version) as change:
        axle = loading.load(change.job)
        advice = axle.move.ready_change
        if advice is None:
            raise Rejected("There is no change of shims to make now: the page was behind.")
        if adjuster_log(change.job).is_aside and any(
            s.place in (Place.RING, Place.FAR) for s in advice.swaps
        ):
            raise Rejected("The carrier stands aside: bring it back first, by the holes it went.")
        move = keep_move(user, axle, advice)
        change.what = f"took the move “{advice.title}”"
    return move
