"""The pages of the shim drawer."""

from collections.abc import Callable

from django.contrib import messages
from django.db.models import F, QuerySet
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils import timezone

from axle.errors import AxleError
from axle.measure.units import Display
from shop.config.table_file import LARGEST_FILE
from shop.people.bridge import display_for
from shop.people.models import Shop, User
from shop.people.request import USER_ERRORS, posts_only, user_of, whole_number
from shop.stock import bins, making, queries, services, table
from shop.stock.forms import STICKY, KitForm, ReceiveForm, TableForm
from shop.stock.models import Family, Kit, ShimLot, StockMovement


def _movements(shop: Shop | None) -> QuerySet[StockMovement]:
    """What went into and out of the shop's own drawer."""
    return StockMovement.objects.filter(lot__shop=shop, lot__practice=False, lot__tray_job=None)


def drawer(request: HttpRequest) -> HttpResponse:
    """What is in the drawer by family, where its pieces are, and receiving more."""
    user = user_of(request)
    display = display_for(user)
    sticky = {name: request.GET[name] for name in STICKY if name in request.GET}
    form = ReceiveForm(
        request.POST or None, unit=display.length, initial={"quantity": 1} | sticky, going_on=bool(sticky)
    )
    if request.method == "POST" and form.is_valid():
        given = form.cleaned_data
        try:
            lot = services.receive(user, given["lot"])
        except USER_ERRORS as error:
            form.add_error(None, str(error))
        else:
            messages.success(
                request,
                f"{given['quantity']} × {display.show(lot.miced)} {display.length.symbol} "
                f"into the drawer for {lot.get_family_display()}.",
            )
            kept = [f"{name}={given[name]}" for name in STICKY if given.get(name) not in (None, "")]
            # No place on the page is named: the field that has the focus brings itself into view.
            return redirect(f"{reverse('drawer')}?{'&'.join(kept)}")
    return _page(request, user, display, form=form)


def _page(
    request: HttpRequest,
    user: User,
    display: Display,
    *,
    form: ReceiveForm | None = None,
    kit_form: KitForm | None = None,
    row_errors: list[table.RowError] | None = None,
    error: str = "",
) -> HttpResponse:
    rows = queries.whereabouts(user.shop)
    wrong = bool((form and form.errors) or (kit_form and kit_form.errors) or row_errors or error)
    return render(
        request,
        "stock/drawer.html",
        {
            "families": bins.drawn(rows, display),
            "table": queries.by_family(rows),
            "low": [row for row in rows if row.is_low],
            "lots": rows,
            "form": form or ReceiveForm(unit=display.length),
            "display": display,
            "kits": Kit.objects.of(user.shop),
            "kit_form": kit_form or KitForm(unit=display.length),
            "table_form": TableForm(),
            "row_errors": row_errors or [],
            "table_error": error,
            "columns": ", ".join(table.COLUMNS),
            "movements": _movements(user.shop)
            .select_related("lot", "person")
            .order_by(F("id").desc())[:12],
        },
        status=422 if wrong else 200,
    )


def table_out(request: HttpRequest) -> HttpResponse:
    """The drawer as CSV, in the reader's unit."""
    user = user_of(request)
    text = table.write(ShimLot.objects.of(user.shop), display_for(user).length)
    answer = HttpResponse(text.encode(), content_type="text/csv; charset=utf-8")
    answer["Content-Disposition"] = f'attachment; filename="shims-{timezone.localdate():%Y-%m-%d}.csv"'
    return answer


@posts_only
def table_in(request: HttpRequest) -> HttpResponse:
    """Take a table of shims in, whole, or name every row that cannot be used."""
    user = user_of(request)
    display = display_for(user)
    file = request.FILES.get("file")
    try:
        if file is None:
            raise AxleError("shim table", given="no file", wanted="a CSV file")
        lots = table.read(file.read(LARGEST_FILE + 1))
        pieces, corrected = services.take_table(user, [(row.given, row.lot) for row in lots])
    except table.Unusable as problem:
        return _page(request, user, display, row_errors=problem.errors)
    except USER_ERRORS as problem:
        return _page(request, user, display, error=str(problem))
    counted = f" {corrected} lots counted anew." if corrected else ""
    taken = (
        f"{pieces} pieces in {len(lots)} lots taken in from the table." if pieces else "Nothing new in it."
    )
    messages.success(request, f"{taken}{counted}")
    return redirect("drawer")


@posts_only
def kits(request: HttpRequest) -> HttpResponse:
    """Write down what a kit holds."""
    user = user_of(request)
    display = display_for(user)
    form = KitForm(request.POST, unit=display.length)
    if form.is_valid():
        try:
            kit = services.keep_kit(user, form.cleaned_data["name"], form.cleaned_data["lines"])
        except USER_ERRORS as error:
            form.add_error(None, str(error))
        else:
            messages.success(request, f"Kit “{kit.name}” is written down.")
            return redirect(f"{reverse('drawer')}#kits")
    return _page(request, user, display, kit_form=form)


@posts_only
def receive_kit(request: HttpRequest, kit_id: int) -> HttpResponse:
    """Receive a kit as a unit."""

    def act(user: User) -> str:
        count = whole_number(request.POST.get("count"), "kits", 1, 20)
        kit, pieces = services.receive_kit(user, kit_id, count, request.POST.get("bin", "")[:20])
        return f"Kit “{kit.name}”: {pieces} pieces in, by what is marked. Mic them before they are trusted."

    return _done(request, act, reverse("drawer"))


def lot(request: HttpRequest, lot_id: int) -> HttpResponse:
    """One lot: where its pieces are, mic'ing, scrapping, condition, and what moved."""
    user = user_of(request)
    row = next((r for r in queries.whereabouts(user.shop) if r.lot.pk == lot_id), None)
    if row is None:
        messages.error(request, "That shim is not in this shop's drawer.")
        return redirect("drawer")
    display = display_for(user)
    return render(
        request,
        "stock/lot.html",
        {
            "row": row,
            "lot": row.lot,
            "display": display,
            "readings": [display.show(float(reading)) for reading in row.lot.readings],
            "movements": row.lot.movements.select_related("person").order_by("-id")[:30],
        },
    )


@posts_only
def condition(request: HttpRequest, lot_id: int) -> HttpResponse:
    """Say that a lot is damaged, or sound."""

    def act(user: User) -> str:
        shim_lot = services.set_condition(user, lot_id, request.POST.get("condition", ""))
        return f"The {shim_lot.typed} lot is {shim_lot.get_condition_display()} now."

    return _done(request, act, reverse("lot", args=[lot_id]))


@posts_only
def mic(request: HttpRequest, lot_id: int) -> HttpResponse:
    """Sort pieces of a lot by what the micrometer says."""

    def act(user: User) -> str:
        display = display_for(user)
        readings = table.readings(request.POST.get("readings", "")[:200], display.length, "mic'd thickness")
        pieces = whole_number(request.POST.get("pieces"), "pieces", 1, services.MOST_OF_A_SIZE)
        found = services.mic(user, lot_id, readings, pieces)
        return f"{pieces} × {display.show(found.miced)} {display.length.symbol}, mic'd."

    return _done(request, act, reverse("lot", args=[lot_id]))


@posts_only
def scrap(request: HttpRequest, lot_id: int) -> HttpResponse:
    """Scrap pieces of a lot, with the reason."""

    def act(user: User) -> str:
        pieces = whole_number(request.POST.get("pieces"), "pieces", 1, services.MOST_OF_A_SIZE)
        found = services.scrap(user, lot_id, pieces, request.POST.get("reason", ""))
        return f"{pieces} × {found.typed} scrapped; they stay on record."

    return _done(request, act, reverse("lot", args=[lot_id]))


@posts_only
def low(request: HttpRequest, lot_id: int) -> HttpResponse:
    """Say under how many pieces a lot runs low."""

    def act(user: User) -> str:
        least = whole_number(request.POST.get("low_at"), "low under", 0, services.MOST_OF_A_SIZE)
        shim_lot = services.set_low(user, lot_id, least)
        return (
            f"The {shim_lot.typed} lot is low under {least}."
            if least
            else f"The {shim_lot.typed} lot is never low."
        )

    return _done(request, act, reverse("lot", args=[lot_id]))


def make(request: HttpRequest) -> HttpResponse:
    """What the drawer could make around a wanted thickness, and what to order."""
    user = user_of(request)
    display = display_for(user)
    family, wanted = request.GET.get("family", Family.DEPTH), request.GET.get("wanted", "")
    shape = request.GET.get("shape", "")[:40]
    made, error = None, ""
    if wanted.strip():
        try:
            made = making.could_make(user.shop, family, shape, wanted, display)
        except AxleError as problem:
            error = str(problem)
    return render(
        request,
        "stock/make.html",
        {
            "families": Family.choices,
            "family": family,
            "wanted": wanted,
            "shape": shape,
            "made": made,
            "error": error,
            "display": display,
            "shapes": queries.shapes_of(user.shop, tuple(Family.values)),
        },
        status=422 if error else 200,
    )


def _done(request: HttpRequest, act: Callable[[User], str], back: str) -> HttpResponse:
    try:
        messages.success(request, act(user_of(request)))
    except USER_ERRORS as problem:
        messages.error(request, str(problem))
    return redirect(back)
