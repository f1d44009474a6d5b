"""Pages about spec sheets."""

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render

from axle.contact.gears import not_computed
from axle.spec.reader import read_spec, starter_specs
from shop.drawing import flanks
from shop.drawing.svg import Svg
from shop.people import rules
from shop.people.request import USER_ERRORS, user_of
from shop.people.rules import Right
from shop.specs import bridge, services
from shop.specs.forms import SheetForm, starter
from shop.specs.models import SpecSheet


def sheets(request: HttpRequest) -> HttpResponse:
    """Every sheet of the shop, and the starters."""
    user = user_of(request)
    return render(
        request,
        "specs/sheets.html",
        {
            "sheets": SpecSheet.objects.of(user.shop),
            "may_edit": rules.may(user, Right.SHEETS),
            "starters": [(key, row["name"], row["note"]) for key, row in starter_specs().items()],
        },
    )


def new_sheet(request: HttpRequest) -> HttpResponse:
    """A new sheet, begun from a starter."""
    return _form(request, None)


def edit_sheet(request: HttpRequest, sheet_id: int) -> HttpResponse:
    """A sheet of the shop."""
    return _form(request, get_object_or_404(SpecSheet.objects.of(user_of(request).shop), pk=sheet_id))


def _form(request: HttpRequest, sheet: SpecSheet | None) -> HttpResponse:
    user = user_of(request)
    plain = bridge.plain(sheet) | {"note": sheet.note} if sheet else starter(request.GET.get("from", ""))
    assert user.shop is not None  # the fence gives nobody without a shop a sheet to edit
    form = SheetForm(user.shop, request.POST or None, plain=plain, existing=sheet)
    if request.method == "POST" and form.is_valid():
        try:
            saved = services.save_sheet(user, form.plain, sheet)
        except USER_ERRORS as error:
            form.add_error(None, str(error))
        else:
            messages.success(request, f"“{saved.name}” is kept. Jobs that are open keep their own copy.")
            why = not_computed(read_spec(bridge.plain(saved)).gears)
            if why:
                messages.warning(request, f"No pattern is computed for it: {why} The usual chart is read.")
            return redirect("sheets")
    return render(
        request,
        "specs/sheet.html",
        {"form": form, "sheet": sheet, "may_edit": rules.may(user, Right.SHEETS), "chart": _chart(sheet)},
        status=422 if form.errors else 200,
    )


def _chart(sheet: SpecSheet | None) -> list[Svg]:
    """The gear maker's chart as the shop drew it, by flank."""
    drawn = read_spec(bridge.plain(sheet)).chart if sheet else {}
    return [flanks.flank(name, None, flanks.Shown(target=[patch.outline])) for name, patch in drawn.items()]
