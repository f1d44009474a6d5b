"""A job's parts: what the bill asks for, what stands on the list, what is worth asking while it is open."""

from __future__ import annotations

from collections.abc import Mapping
from decimal import Decimal
from typing import Any, Final

from axle.layout import Place
from axle.parts.bill import KitSaving, Wanted, bill, kit_savings, parts
from axle.parts.lines import OPEN, LineState, following
from axle.parts.shims_to_buy import ShimToBuy, shims_to_buy
from axle.shims.pieces import Piece
from shop.jobs.job_axle import JobAxle
from shop.jobs.models import PartLine
from shop.people.hours import currency_of
from shop.people.models import Shop
from shop.stock.models import Family, PriceLine, Supplier
from shop.stock.queries import catalogue

# Round the pack in hand a change may ask for so much more or less, and a pack comes so near [mm].
_AROUND: Final = Decimal("0.25")
_CLOSE: Final = Decimal("0.013")
_FAMILY_OF: Final[Mapping[Place, Family]] = {
    Place.DEPTH: Family.DEPTH,
    Place.PRELOAD: Family.PRELOAD,
    Place.RING: Family.SIDE,
    Place.FAR: Family.SIDE,
}


def parts_page(axle: JobAxle, query: Mapping[str, str]) -> dict[str, Any]:
    """Everything that the page of a job's parts shows.

    :param axle: the job.
    :param query: what the address asks for.
    """
    shop = axle.job.shop
    lines = list(axle.job.part_lines.select_related("supplier", "order").order_by("id"))
    wanted = bill(axle.plan.facts, axle.found, axle.plan)
    there = {line.part for line in lines}
    return {
        "lines": [_row(line) for line in lines],
        "proposed": [line for line in wanted if line.part.part not in there],
        "prompts": _prompts(wanted, lines),
        "kits": _kits(shop, lines),
        "shims": shims_wanted(axle),
        "tools": missing_tools(axle, lines),
        "suppliers": list(Supplier.objects.of(shop).filter(retired=False)),
        "kinds": PartLine.Kind.choices,
        "owners": PartLine.Owner.choices,
        "currency": currency_of(shop),
        "open_line": query.get("line", ""),
        "known": list(parts().values()),
    }


def _row(line: PartLine) -> dict[str, Any]:
    state = LineState(line.state)
    return {
        "line": line,
        "key": line.state.replace(" ", "-"),
        "next": [other.value for other in following(state) if other is not LineState.ORDERED],
        "may_spoil": state in (LineState.HERE, LineState.FITTED),
    }


def _prompts(wanted: tuple[Wanted, ...], lines: list[PartLine]) -> list[tuple[str, str, str]]:
    """(part, title, question): what is worth asking while the axle is open, of what is on the list."""
    shown = {line.part for line in lines if LineState(line.state) in OPEN}
    return [
        (line.part.part, line.part.title, line.part.prompt)
        for line in wanted
        if line.part.prompt and line.part.part in shown
    ]


def _kits(shop: Shop | None, lines: list[PartLine]) -> tuple[KitSaving, ...]:
    """Kits that cover several open lines."""
    open_lines = {
        line.part: float(line.quantity) for line in lines if line.part and LineState(line.state) in OPEN
    }
    rows = list(PriceLine.objects.of(shop).filter(supplier__retired=False).select_related("supplier"))
    kits = [
        (
            f"{row.words} ({row.supplier.name})",
            {n: float(q) for n, q in row.holds.items()},
            float(row.price),
        )
        for row in rows
        if row.holds
    ]
    prices: dict[str, float] = {}
    for row in rows:
        if row.part and float(row.price) < prices.get(row.part, float("inf")):
            prices[row.part] = float(row.price)
    return kit_savings(open_lines, kits, prices)


def shims_wanted(axle: JobAxle) -> list[dict[str, Any]]:
    """Sizes to buy so that the packs around the ones in hand can be made."""
    found = []
    for place in axle.spec.layout.shim_places:
        if place not in _FAMILY_OF or place in axle.state.fixed:
            continue
        size = axle.state.settings.get(place) or Decimal(0)
        if size <= _AROUND:
            continue
        family = _FAMILY_OF[place]
        drawer: tuple[Piece, ...] = tuple(axle.state.drawer.get(place, ()))
        sizes = catalogue(axle.job.shop, (family.value,))
        bought: tuple[ShimToBuy, ...] = shims_to_buy(
            drawer, sizes, low=size - _AROUND, high=size + _AROUND, close=_CLOSE, most=2
        )
        found += [
            {"place": place, "family": family, "size": shim.size, "closes": shim.closes} for shim in bought
        ]
    return found


def missing_tools(axle: JobAxle, lines: list[PartLine]) -> list[tuple[str, str]]:
    """(tool, title) of tools that are marked missing and not on the list."""
    there = {line.part for line in lines}
    return [
        (need.tool.tool, need.tool.title)
        for need in axle.plan.needs
        if need.tool.kind in ("tool", "gauge", "stand")
        and axle.tool_state(need.tool.tool) == "missing"
        and f"tool-{need.tool.tool}" not in there
    ]
