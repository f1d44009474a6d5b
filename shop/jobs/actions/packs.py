"""Putting packs and settings into an axle: the assembly in hand, or a new one."""

import uuid
from collections.abc import Mapping, Sequence
from decimal import Decimal
from typing import Any

from axle.errors import AxleError
from axle.layout import Place
from shop.jobs import clock, loading
from shop.jobs.actions.job_change import job_change
from shop.jobs.job_axle import JobAxle
from shop.jobs.models import Assembly, Fit, Job, PackPiece, Position
from shop.jobs.rows import family_of
from shop.people.models import User
from shop.people.rules import Rejected
from shop.stock import services as stock


def rebuild(
    user: User,
    axle: JobAxle,
    packs: Mapping[Place, Sequence[int]],
    holes: Mapping[Place, Decimal | None],
    note: str,
    *,
    always: bool = False,
    undoes: Fit | None = None,
    entry: uuid.UUID | None = None,
) -> Fit:
    """Put packs and adjusters in; a place that was empty is filled in the assembly in hand.

    An empty pack, or nothing for a setting, takes out what was there.
    """
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
    fitted = {}
    for place, lots in packs.items():
        reason = f"job {axle.job.number}, assembly {target.number}, {place.value}"
        for piece in out.get(place.value, []):
            if piece.lot_id:
                stock.put_back(user, piece.lot_id, reason, job=axle.job.number, place=place.value)
        fitted[place.value] = _fit_place(user, axle, target, place=place, lots=lots, reason=reason)
    for place, value in holes.items():
        if value is None:
            Position.objects.filter(assembly=target, place=place.value).delete()
        else:
            Position.objects.update_or_create(assembly=target, place=place.value, defaults={"value": value})
    return Fit.objects.create(
        job=axle.job,
        assembly=target,
        note=note[:200],
        before=_as_kept(
            {p.value: out.get(p.value, []) for p in packs}, {p: held.get(p.value) for p in holes}
        ),
        after=_as_kept(fitted, holes),
        undoes=undoes,
        entry=entry or uuid.uuid4(),
        at=clock.now(),
        person=user,
        by=user.called,
        settings=loading.as_json(axle.state.settings),
    )


def _fit_place(
    user: User, axle: JobAxle, target: Assembly, *, place: Place, lots: Sequence[int], reason: str
) -> list[PackPiece]:
    families = family_of(place, axle.spec)
    pieces = []
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
        pieces.append(
            PackPiece.objects.create(
                assembly=target, place=place.value, position=position, thickness=lot.miced, lot=lot
            )
        )
    return pieces


def _as_kept(
    packs: Mapping[str, Sequence[PackPiece]], holes: Mapping[Place, Decimal | None]
) -> dict[str, Any]:
    """What was in the places that change, as a fit keeps it."""
    return {
        "packs": {
            place: [[piece.lot_id, f"{piece.thickness:.5f}"] for piece in pieces]
            for place, pieces in packs.items()
        },
        "set": {place.value: None if value is None else f"{value:.2f}" for place, value in holes.items()},
    }


def put_back_as(user: User, axle: JobAxle, kept: Mapping[str, Any], note: str, **more: Any) -> Fit:
    """Put in what a fit kept of before, or of after.

    :raises Rejected: where pieces are no lot's of this shop, as a file brings them in.
    """
    packs: dict[Place, list[int]] = {}
    for place, pieces in kept.get("packs", {}).items():
        if any(lot is None for lot, _ in pieces):
            raise Rejected("The pieces that were in there are in no drawer of this shop: fit them by hand.")
        packs[Place(place)] = [lot for lot, _ in pieces]
    holes = {
        Place(place): None if value is None else Decimal(value)
        for place, value in kept.get("set", {}).items()
    }
    return rebuild(user, axle, packs, holes, note, **more)


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
