"""The order list over all jobs, deliveries, suppliers and their prices."""

from __future__ import annotations

import csv
import io
import uuid
from typing import Any

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.template.loader import render_to_string
from django.utils import timezone

from axle.ledger.sums import parse_amount
from axle.measure.parse import parse
from axle.parts.bill import parts
from axle.parts.lines import OPEN, LineState
from shop.config.answers import file_answer
from shop.config.cells import text_cell
from shop.jobs.actions import part_lines
from shop.jobs.models import Order, PartLine
from shop.people import rules
from shop.people.bridge import display_for
from shop.people.hours import currency_of
from shop.people.models import Shop, User
from shop.people.request import USER_ERRORS, day_in, entry_of, posts_only, user_of, whole_number
from shop.people.rules import Right
from shop.planning.job_views import quantity_in
from shop.planning.views import shop_of
from shop.reports.pdf import as_pdf
from shop.stock import suppliers as supplier_services
from shop.stock.models import Supplier


def orders(request: HttpRequest) -> HttpResponse:
    """What is to be ordered, by supplier; what is on its way; suppliers."""
    return _page(request)


def _page(request: HttpRequest, error: str = "") -> HttpResponse:
    user = user_of(request)
    shop = shop_of(user)
    open_lines = _open_lines(shop)
    return render(
        request,
        "planning/orders.html",
        {
            "error": error,
            "typed": request.POST.dict() if error else {},
            "groups": _by_supplier(open_lines),
            "count": len(open_lines),
            "awaited": _awaited(shop),
            "suppliers": list(Supplier.objects.of(shop).prefetch_related("prices")),
            "known": list(parts().values()),
            "currency": currency_of(shop),
            "display": display_for(user),
            "entry_id": str(uuid.uuid4()),
            "today": timezone.localdate(),
            "may_order": rules.may(user, Right.ORDER),
        },
        status=422 if error else 200,
    )


def _open_lines(shop: Shop) -> list[PartLine]:
    """Lines of all open jobs that are to be ordered still."""
    rows = PartLine.objects.filter(
        job__shop=shop,
        job__practice=False,
        state__in=[state.value for state in OPEN],
        owner=PartLine.Owner.SHOP,
    )
    return list(rows.select_related("job", "supplier").order_by("supplier__name", "job__number", "id"))


def _by_supplier(lines: list[PartLine]) -> list[dict[str, Any]]:
    groups: dict[int | None, dict[str, Any]] = {}
    for line in lines:
        group = groups.setdefault(
            line.supplier_id,
            {
                "supplier": line.supplier,
                "lines": [],
                "due": part_lines.usual_due(line.supplier, timezone.localdate()) if line.supplier else None,
            },
        )
        group["lines"].append(line)
    # What has no supplier yet comes last.
    return sorted(groups.values(), key=lambda group: (group["supplier"] is None, str(group["supplier"])))


def _awaited(shop: Shop) -> list[dict[str, Any]]:
    """Orders of which something is still to come."""
    states = [LineState.ORDERED.value, LineState.ON_ITS_WAY.value]
    found = []
    for order in (
        Order.objects.of(shop).filter(lines__state__in=states).distinct().select_related("supplier")
    ):
        rows = list(order.lines.filter(state__in=states).select_related("job"))
        found.append({"order": order, "lines": rows, "late": order.due_on < timezone.localdate()})
    return found


@posts_only
def place(request: HttpRequest) -> HttpResponse:
    """Order the ticked lines from one supplier."""
    user = user_of(request)
    try:
        order = part_lines.place_order(
            user,
            [whole_number(text, "line") for text in request.POST.getlist("line")],
            whole_number(request.POST.get("supplier"), "supplier"),
            day_in(request.POST.get("due"), "delivery"),
            entry_of(request.POST.get("entry")),
            request.POST.get("note", ""),
        )
    except USER_ERRORS as problem:
        return _page(request, str(problem))
    messages.success(
        request,
        f"Order {order.number} to {order.supplier.name}: {order.lines.count()} lines, due {order.due_on}.",
    )
    return redirect("orders")


@posts_only
def receive(request: HttpRequest, line_id: int) -> HttpResponse:
    """Take in what came of one line."""
    user = user_of(request)
    unit = display_for(user).length
    try:
        row = part_lines.receive(
            user,
            line_id,
            quantity_in(request.POST.get("quantity", ""), "delivered"),
            entry_of(request.POST.get("entry")),
            tuple(parse(text, unit, "mic'd thickness") for text in request.POST.get("miced", "").split()),
        )
    except USER_ERRORS as problem:
        return _page(request, str(problem))
    messages.success(request, f"{row.words}, job {row.job.shown_number}: {row.get_state_display()}.")
    return redirect("orders")


def orders_csv(request: HttpRequest) -> HttpResponse:
    """The order list as a table."""
    shop = shop_of(user_of(request))
    out = io.StringIO()
    table = csv.writer(out)
    table.writerow(["supplier", "job", "part", "quantity", "unit", "state", "why", "price", "due"])
    awaited = [line for group in _awaited(shop) for line in group["lines"]]
    for line in [*_open_lines(shop), *awaited]:
        table.writerow(
            [
                text_cell(line.supplier.name if line.supplier else ""),
                line.job.shown_number,
                text_cell(line.words),
                f"{line.quantity.normalize():f}",
                line.unit,
                line.state,
                text_cell(line.why),
                "" if line.price is None else line.price,
                line.due_on or "",
            ]
        )
    return file_answer(out.getvalue(), "text/csv; charset=utf-8", "orders.csv")


def orders_pdf(request: HttpRequest) -> HttpResponse:
    """The order list on paper."""
    shop = shop_of(user_of(request))
    context = {
        "shop": shop,
        "groups": _by_supplier(_open_lines(shop)),
        "awaited": _awaited(shop),
        "currency": currency_of(shop),
        "today": timezone.localdate(),
    }
    text = render_to_string("planning/orders_print.html", context, request)
    return file_answer(as_pdf(text), "application/pdf", "orders.pdf", shown=True)


@posts_only
def supplier(request: HttpRequest) -> HttpResponse:
    """Write a supplier down, change one, or let one go."""
    user = user_of(request)
    try:
        row = supplier_services.keep_supplier(user, request.POST.dict())
    except USER_ERRORS as problem:
        return _page(request, str(problem))
    messages.success(
        request, f"{row.name}: kept." if not row.retired else f"{row.name}: no longer offered."
    )
    return redirect("orders")


@posts_only
def price(request: HttpRequest, supplier_id: int) -> HttpResponse:
    """Write down what a supplier asks, or take it off the list."""
    user = user_of(request)
    given = request.POST
    try:
        if given.get("off"):
            supplier_services.drop_price(user, whole_number(given["off"], "price"))
            messages.success(request, "Off the price list.")
            return redirect("orders")
        row = supplier_services.keep_price(
            user, supplier_id, _price_words(user, given.dict(), given.getlist("holds"))
        )
    except USER_ERRORS as problem:
        return _page(request, str(problem))
    messages.success(request, f"{row.words}: on the price list.")
    return redirect("orders")


def _price_words(user: User, given: dict[str, str], holds: list[str]) -> supplier_services.NewPrice:
    return supplier_services.NewPrice(
        given.get("part", ""),
        given.get("words", ""),
        parse_amount(given.get("price", ""), "price"),
        tuple(holds),
        parse_amount(given.get("core") or "0", "core deposit"),
    )
