"""The page of the instrument register."""

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone

from shop.instruments import services
from shop.instruments.forms import InstrumentForm
from shop.instruments.models import Instrument
from shop.instruments.queries import full_scale_words, register_of
from shop.people import rules
from shop.people.bridge import display_for
from shop.people.request import USER_ERRORS, posts_only, user_of
from shop.people.rules import Right


def instruments(request: HttpRequest) -> HttpResponse:
    """The register, and an instrument more."""
    return _register(request, None)


def instrument(request: HttpRequest, instrument_id: int) -> HttpResponse:
    """The register with one instrument opened to be corrected."""
    own = Instrument.objects.of(user_of(request).shop)
    return _register(request, get_object_or_404(own, pk=instrument_id))


def _register(request: HttpRequest, opened: Instrument | None) -> HttpResponse:
    user = user_of(request)
    display = display_for(user)
    start = None
    if opened is not None:
        start = {
            "name": opened.name,
            "kind": opened.kind,
            "resolution": opened.resolution_typed,
            "full_scale": full_scale_words(opened),
            "shows": opened.shows,
            "revolution": display.show(opened.revolution) if opened.revolution else "",
            "calibrated_on": opened.calibrated_on,
            "due_on": opened.due_on,
            "line": opened.line,
        }
    form = InstrumentForm(request.POST or None, display=display, initial=start)
    if request.method == "POST" and form.is_valid():
        try:
            kept = services.keep(user, form.given, opened.pk if opened else None)
        except USER_ERRORS as error:
            form.add_error(None, str(error))
        else:
            messages.success(request, f"{kept.name} is in the register.")
            return redirect("instruments")
    return render(
        request,
        "instruments/instruments.html",
        {
            "rows": register_of(user.shop, timezone.localdate(), display),
            "form": form,
            "display": display,
            "opened": opened,
            "may_edit": rules.may(user, Right.INSTRUMENTS),
        },
        status=422 if form.errors else 200,
    )


@posts_only
def order(request: HttpRequest, instrument_id: int) -> HttpResponse:
    """Identify a connected instrument, zero it, set its unit, or switch its held maximum."""
    try:
        words = services.order(user_of(request), instrument_id, request.POST.get("order", ""))
        messages.success(request, words)
    except USER_ERRORS as error:
        messages.error(request, str(error))
    return redirect("instruments")


@posts_only
def retire(request: HttpRequest, instrument_id: int) -> HttpResponse:
    """Take an instrument out of use, or bring it back."""
    try:
        retired = request.POST.get("retired") == "1"
        row = services.retire(user_of(request), instrument_id, retired=retired)
        messages.success(request, f"{row.name} is {'out of use' if retired else 'in use again'}.")
    except USER_ERRORS as error:
        messages.error(request, str(error))
    return redirect("instruments")
