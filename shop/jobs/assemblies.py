"""Putting packs and settings into an axle: the assembly in hand, or a new one."""

from collections.abc import Mapping
from decimal import Decimal

from axle.layout import Place
from shop.jobs import bridge, clock
from shop.jobs.models import Assembly, PackPiece, Position
from shop.jobs.rows import family_of
from shop.people.models import User
from shop.stock import services as stock


def rebuild(
    user: User,
    axle: bridge.Axle,
    packs: Mapping[Place, list[int]],
    holes: Mapping[Place, Decimal],
    note: str,
    *,
    always: bool = False,
) -> Assembly:
    """Put packs and adjusters in; a place that was empty is filled in the assembly in hand."""
    current = axle.assembly
    out = axle.pieces_of(current)
    held = {adjuster.place: adjuster.value for adjuster in current.positions.all()}
    replaces = (
        any(out.get(place.value) for place in packs)
        or any(place.value in held and held[place.value] != value for place, value in holes.items())
        or always
    )
    target = current
    # An assembly on which nothing was read yet is still being put together: no new one begins.
    used = current.readings.exists() or current.patterns.exists()
    if replaces and not used:
        current.pieces.filter(place__in=[place.value for place in packs]).delete()
    elif replaces:
        target = Assembly.objects.create(
            job=axle.job,
            number=current.number + 1,
            started_at=clock.now(),
            started_by=user,
            by=user.called,
            note=note[:200],
        )
        _carry_over(current, target, out, held, set(packs), set(holes))
    for place, lots in packs.items():
        reason = f"job {axle.job.number}, assembly {target.number}, {place.value}"
        for piece in out.get(place.value, []):
            if piece.lot_id:
                stock.put_back(user, piece.lot_id, reason, job=axle.job.number, place=place.value)
        families = family_of(place, axle.spec)
        for position, lot_id in enumerate(lots, start=1):
            lot = stock.take(
                user,
                lot_id,
                families,
                reason,
                job=axle.job.number,
                place=place.value,
                shape=axle.job.shapes.get(place.value, ""),
                practice=axle.job.practice,
            )
            PackPiece.objects.create(
                assembly=target, place=place.value, position=position, thickness=lot.miced, lot=lot
            )
    for place, value in holes.items():
        Position.objects.update_or_create(assembly=target, place=place.value, defaults={"value": value})
    return target


def _carry_over(
    current: Assembly,
    target: Assembly,
    out: Mapping[str, list[PackPiece]],
    held: Mapping[str, Decimal],
    packs: set[Place],
    holes: set[Place],
) -> None:
    for place, pieces in out.items():
        if Place(place) not in packs:
            for piece in pieces:
                PackPiece.objects.create(
                    assembly=target,
                    place=place,
                    position=piece.position,
                    thickness=piece.thickness,
                    lot_id=piece.lot_id,
                )
    for place, value in held.items():
        if Place(place) not in holes:
            Position.objects.create(assembly=target, place=place, value=value)
