"""A move taken: its packs fitted from the drawer, and kept with what it expects."""

from axle.advice.moves import Move as Advice
from shop.jobs import bridge, clock
from shop.jobs.assemblies import rebuild
from shop.jobs.models import Move
from shop.people.models import User


def keep_move(user: User, axle: bridge.Axle, advice: Advice) -> Move:
    """Fit a move's packs or turn its adjusters, and keep it; inside a change of the job."""
    packs = {s.place: [p.key for p in s.pack.pieces] for s in advice.swaps if s.pack is not None}
    holes = {s.place: s.after for s in advice.swaps if s.pack is None}
    assembly = rebuild(user, axle, packs, holes, note=advice.title)
    return Move.objects.create(
        job=axle.job,
        assembly=assembly,
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
        chance=advice.chance,
        parts=dict(advice.parts),
        taken_at=clock.now(),
        taken_by=user,
        by=user.called,
    )
