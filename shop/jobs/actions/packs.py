"""Putting packs and settings into an axle: the assembly in hand, or a new one."""

from collections.abc import Mapping
from decimal import Decimal

from axle.errors import AxleError
from axle.layout import Place
from shop.jobs import clock, loading
from shop.jobs.actions.job_change import job_change
from shop.jobs.job_axle import JobAxle
from shop.jobs.models import Assembly, Job, PackPiece, Position
from shop.jobs.rows import family_of
from shop.people.models import User
from shop.stock import services as stock


def rebuild(
    user: User,
    axle: JobAxle,
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
        _carry_over(current, target, out=out, held=held, packs=set(packs), holes=set(holes))
    for place, lots in packs.items():
        reason = f"job {axle.job.number}, assembly {target.number}, {place.value}"
        for piece in out.get(place.value, []):
            if piece.lot_id:
                stock.put_back(user, piece.lot_id, reason, job=axle.job.number, place=place.value)
        families = family_of(place, axle.spec)
        for position, lot_id in enumerate(lots, start=1):
            lot = stock.withdraw(
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


def choose_shape(user: User, job: Job, version: int, place: Place, shape: str) -> None:
    """Say which shape of shim fits a place of this axle; "" for any."""
    with job_change(job, user, version) as change:
        if place not in loading.load(change.job).spec.layout.shim_places:
            raise AxleError("shape", given=f"the {place.value} place", wanted="a place of this layout")
        kept = {name: known for name, known in change.job.shapes.items() if name != place.value}
        change.job.shapes = kept | ({place.value: shape.strip()[:40]} if shape.strip() else {})
        change.job.save(update_fields=["shapes"])
        change.what = f"chose the shape of the {place.value} shims"


def fit_pack(user: User, job: Job, version: int, place: Place, lots: list[int]) -> None:
    """Fit named pieces at a place by hand; starts a new assembly when a pack comes out."""
    with job_change(job, user, version) as change:
        axle = loading.load(change.job)
        if place not in axle.spec.layout.shim_places:
            raise AxleError("pack", given=f"the {place.value} place", wanted="a place of this layout")
        if not lots:
            raise AxleError("pack", given="no piece", wanted="at least one piece from the drawer")
        rebuild(user, axle, {place: lots}, {}, note=f"{place.value} pack fitted")
        change.what = f"fitted the {Place(place).value} pack"


def new_sleeve(user: User, job: Job, version: int) -> None:
    """Record that a new collapsible sleeve is in: what was read on the old one no longer holds."""
    with job_change(job, user, version) as change:
        axle = loading.load(change.job)
        if axle.spec.layout.has_preload_pack:
            raise AxleError("sleeve", given="a new sleeve", wanted="an axle that has one")
        number = axle.state.setting(Place.PRELOAD) + 1
        rebuild(user, axle, {}, {Place.PRELOAD: number}, note="new sleeve", always=True)
        change.what = "fitted a new sleeve"
