"""The shim drawer's page."""

from django.contrib import messages
from django.db.models import F
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render

from shop.config.http import IN_WORDS, posts_only, user_of
from shop.people.bridge import display_for
from shop.stock import services
from shop.stock.forms import ReceiveForm
from shop.stock.models import Family, ShimLot, StockMovement


def drawer(request: HttpRequest) -> HttpResponse:
    """What is in the drawer by family, what moved lately, and receiving more."""
    user = user_of(request)
    display = display_for(user)
    form = ReceiveForm(request.POST or None, unit=display.length)
    if request.method == "POST" and form.is_valid():
        given = form.cleaned_data
        try:
            lot = services.receive(
                user, family=given["family"], nominal=given["nominal"] or given["miced"],
                miced=given["miced"], quantity=given["quantity"], condition=given["condition"],
                bin_name=given["bin"],
            )  # fmt: skip
        except IN_WORDS as error:
            form.add_error(None, str(error))
        else:
            messages.success(
                request, f"{given['quantity']} × {display.show(lot.miced)} {display.length.symbol} "
                f"into the drawer for {lot.get_family_display()}.",
            )  # fmt: skip
            return redirect("drawer")
    lots = list(ShimLot.objects.of(user.shop))
    return render(
        request, "stock/drawer.html",
        {
            "families": _by_family(lots),
            "lots": lots, "form": form, "display": display,
            "movements": StockMovement.objects.filter(lot__shop=user.shop).select_related("lot", "person")
            .order_by(F("id").desc())[:12],
        },
        status=422 if form.errors else 200,
    )  # fmt: skip


@posts_only
def condition(request: HttpRequest, lot_id: int) -> HttpResponse:
    """Say that a lot is damaged, or sound."""
    try:
        lot = services.set_condition(user_of(request), lot_id, request.POST.get("condition", ""))
        messages.success(request, f"The {lot.typed} lot is {lot.get_condition_display()} now.")
    except IN_WORDS as error:
        messages.error(request, str(error))
    return redirect("drawer")


def _by_family(lots: list[ShimLot]) -> list[tuple[str, list[ShimLot]]]:
    return [(words, [lot for lot in lots if lot.family == value]) for value, words in Family.choices]
