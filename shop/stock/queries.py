"""What the drawer holds, where its pieces are, and what runs low."""

from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from decimal import Decimal

from django.db.models import Sum

from axle.measure.parse import parse, unit_named
from axle.shims.pieces import Piece, PieceRole
from shop.people.models import Shop
from shop.stock.models import Condition, Family, Kit, ShimLot, StockMovement

Kind = StockMovement.Kind


@dataclass(frozen=True)
class Whereabouts:
    """Where the pieces of one lot are."""

    lot: ShimLot
    out: tuple[tuple[int, str, int], ...]
    scrapped: int

    @property
    def is_low(self) -> bool:
        """Whether fewer are left than the shop wants to have."""
        return self.lot.low_at > self.lot.quantity


def whereabouts(shop: Shop | None) -> list[Whereabouts]:
    """Every lot with the jobs and places that hold pieces of it."""
    lots = list(ShimLot.objects.of(shop))
    moved = (
        StockMovement.objects.filter(lot__shop=shop)
        .values("lot_id", "kind", "job_number", "place")
        .annotate(pieces=Sum("change"))
    )
    out: dict[int, dict[tuple[int, str], int]] = defaultdict(lambda: defaultdict(int))
    scrapped: dict[int, int] = defaultdict(int)
    for row in moved:
        if row["kind"] == Kind.SCRAP:
            scrapped[row["lot_id"]] -= row["pieces"]
        elif row["job_number"] is not None:
            out[row["lot_id"]][row["job_number"], row["place"]] -= row["pieces"]
    return [
        Whereabouts(
            lot,
            tuple((job, place, n) for (job, place), n in sorted(out[lot.pk].items()) if n),
            scrapped[lot.pk],
        )
        for lot in lots
    ]


def by_family(rows: list[Whereabouts]) -> list[tuple[str, list[Whereabouts]]]:
    """Lots under their family's name."""
    return [(words, [row for row in rows if row.lot.family == value]) for value, words in Family.choices]


def shapes_of(shop: Shop | None, families: tuple[str, ...]) -> list[str]:
    """The shapes that a shop's drawer knows for some families."""
    found = ShimLot.objects.of(shop).filter(family__in=families).exclude(shape="")
    return sorted(set(found.values_list("shape", flat=True)))


def out_for(shop: Shop | None, job_number: int) -> dict[tuple[int, str], int]:
    """Pieces that a job has out, by lot and place, as the movements tell."""
    rows = (
        StockMovement.objects.filter(lot__shop=shop, job_number=job_number)
        .values("lot_id", "place")
        .annotate(pieces=Sum("change"))
    )
    return {(row["lot_id"], row["place"]): -row["pieces"] for row in rows if row["pieces"]}


def catalogue(shop: Shop | None, families: tuple[str, ...]) -> list[Decimal]:
    """Sizes that can be ordered for some families: what is, or was, in the drawer or in a kit."""
    lots = ShimLot.objects.of(shop).filter(family__in=families).exclude(condition=Condition.DAMAGED)
    sizes = set(lots.values_list("nominal", flat=True))
    for kit in Kit.objects.of(shop):
        for line in kit.lines:
            if line["family"] in families:
                sizes.add(parse(line["nominal"], unit_named(line["unit"]), "kit").core)
    return sorted(size.quantize(Decimal("0.00001")) for size in sizes)


def piece_of(lot: ShimLot | None, thickness: Decimal, *, fitted: bool = False) -> Piece:
    """One piece as the core takes it; what came with a job's file has no lot here."""
    if lot is None:
        return Piece(0, thickness, fitted=fitted)
    return Piece(
        lot.pk,
        thickness,
        role=PieceRole(lot.role),
        cast=lot.cast,
        fitted=fitted,
        miced=lot.is_miced,
        own=lot.tray_job is not None,
    )


def sound_lots(shop: Shop | None, *, practice: bool = False) -> list[ShimLot]:
    """Lots that hold pieces which may be fitted: the shop's own, or the practice bench's."""
    lots = ShimLot.objects.for_practice(shop) if practice else ShimLot.objects.of(shop)
    return list(lots.filter(quantity__gt=0).exclude(condition=Condition.DAMAGED))


def loose(lots: Iterable[ShimLot], families: Sequence[str], shape: str = "") -> list[Piece]:
    """Pieces of some families and one shape; no pack takes more than a dozen of one size.

    Where the drawer has the shape that is asked for, pieces without a named one are not offered.
    """
    lots = [lot for lot in lots if lot.family in families and lot.shape in ("", shape)]
    if shape and any(lot.shape == shape for lot in lots):
        lots = [lot for lot in lots if lot.shape == shape]
    return [piece_of(lot, lot.miced) for lot in lots for _ in range(min(lot.quantity, 12))]


def pieces_for(shop: Shop | None, family: str, shape: str = "") -> list[Piece]:
    """The drawer's sound pieces of a family, as the core takes them."""
    return loose(sound_lots(shop), (family,), shape)
