"""Pages about spec sheets."""

from typing import Any

from django.contrib import messages
from django.db.models import Count
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render

from axle.contact.gears import not_computed
from axle.spec.reader import read_spec, starter_specs
from axle.spec.sheet import spec_keys
from shop.drawing import flanks
from shop.drawing.section import section
from shop.drawing.svg import Svg
from shop.people import rules
from shop.people.request import USER_ERRORS, plain_number, posts_only, user_of
from shop.people.rules import Right
from shop.specs import bridge, services
from shop.specs.forms import SheetForm, begun_from, starter
from shop.specs.models import SheetVersion, SpecSheet


def sheets(request: HttpRequest) -> HttpResponse:
    """Every sheet of the shop."""
    user = user_of(request)
    own = SpecSheet.objects.of(user.shop).select_related("parent").annotate(built=Count("jobs"))
    context = {"sheets": own, "may_edit": rules.may(user, Right.SHEETS)}
    return render(request, "specs/sheets.html", context)


def new_sheet(request: HttpRequest) -> HttpResponse:
    """A new sheet: by its layout, as a copy, or as a child that shares what is common."""
    user = user_of(request)
    given = request.GET
    if "copy" in given or "parent" in given:
        of = plain_number(given.get("copy") or given.get("parent"), 0, longest=18)
        source = get_object_or_404(SpecSheet.objects.of(user.shop), pk=of)
        plain = bridge.plain(source) | {"note": source.note, "name": f"{source.name}, copy"[:80]}
        return _form(request, None, plain, parent=source if "parent" in given else None)
    if "from" not in given and request.method == "GET":
        return render(
            request,
            "specs/layouts.html",
            {"layouts": _layouts(), "may_edit": rules.may(user, Right.SHEETS)},
        )
    key = given.get("from", "")
    return _form(
        request, None, begun_from(key, user.shop.units if user.shop else "thou"), hints=starter(key)
    )


def edit_sheet(request: HttpRequest, sheet_id: int) -> HttpResponse:
    """A sheet of the shop."""
    sheet = _own(request, sheet_id)
    return _form(request, sheet, bridge.plain(sheet) | {"note": sheet.note})


def version(request: HttpRequest, sheet_id: int, number: int) -> HttpResponse:
    """A sheet as it was in one version, and the jobs that were built to it."""
    sheet = _own(request, sheet_id)
    kept = get_object_or_404(SheetVersion, sheet=sheet, number=number)
    spec = read_spec(kept.plain)
    rows = [
        {"title": spec_keys()[key].title, "value": value, "source": value.source_words}
        for key, value in spec.sheet.values.items()
    ]
    jobs = sheet.jobs.filter(built_to_version=number).order_by("number")
    return render(request, "specs/version.html", {"sheet": sheet, "kept": kept, "rows": rows, "jobs": jobs})


@posts_only
def follow(request: HttpRequest, sheet_id: int) -> HttpResponse:
    """Take over what changed on the parent, or leave it."""
    sheet = _own(request, sheet_id)
    try:
        count = services.follow_parent(user_of(request), sheet, request.POST.getlist("take"))
        messages.success(
            request, f"{count} taken over from “{sheet.parent}”." if count else "Left as it is."
        )
    except USER_ERRORS as error:
        messages.error(request, str(error))
    return redirect("edit-sheet", sheet_id)


def _own(request: HttpRequest, sheet_id: int) -> SpecSheet:
    sheet: SpecSheet = get_object_or_404(SpecSheet.objects.of(user_of(request).shop), pk=sheet_id)
    return sheet


def _layouts() -> list[dict[str, Any]]:
    """A picture of each layout that the starters have."""
    found = []
    for key, row in starter_specs().items():
        spec = read_spec(row)
        found.append(
            {"key": key, "name": row["name"], "note": row["note"], "drawing": section(spec.layout)}
        )
    return found


def _form(
    request: HttpRequest,
    sheet: SpecSheet | None,
    plain: dict[str, Any],
    *,
    parent: SpecSheet | None = None,
    hints: dict[str, Any] | None = None,
) -> HttpResponse:
    user = user_of(request)
    assert user.shop is not None  # the guard lets nobody without a shop on
    form = SheetForm(user.shop, request.POST or None, plain=plain, existing=sheet, hints=hints)
    if request.method == "POST" and form.is_valid():
        try:
            saved = services.save_sheet(user, form.plain, sheet, parent)
        except USER_ERRORS as error:
            form.add_error(None, str(error))
        else:
            messages.success(request, f"“{saved.name}” is kept. Jobs that are open keep their own copy.")
            for line in form.odd_torques():
                messages.warning(request, line)
            why = not_computed(read_spec(bridge.plain(saved)).gears)
            if why:
                messages.warning(request, f"No pattern is computed for it: {why} The usual chart is read.")
            return redirect("sheets")
    return render(
        request,
        "specs/sheet.html",
        {
            "form": form,
            "sheet": sheet,
            "parent": parent,
            "hints": hints is not None,
            "may_edit": rules.may(user, Right.SHEETS),
            "chart": _chart(sheet),
            "versions": _versions(sheet),
            "offers": _offers(sheet),
        },
        status=422 if form.errors else 200,
    )


def _versions(sheet: SpecSheet | None) -> list[dict[str, Any]]:
    if sheet is None:
        return []
    jobs: dict[int, list[Any]] = {}
    for job in sheet.jobs.order_by("number"):
        jobs.setdefault(job.built_to_version, []).append(job)
    return [{"version": v, "jobs": jobs.get(v.number, [])} for v in sheet.versions.all()[:20]]


def _offers(sheet: SpecSheet | None) -> list[dict[str, str]]:
    """What changed on the parent, in words."""
    if sheet is None:
        return []
    return [
        {"key": key, "title": spec_keys()[key].title, "here": _words(here), "there": _words(there)}
        for key, (here, there) in services.offered(sheet).items()
    ]


def _words(row: dict[str, Any] | None) -> str:
    if row is None:
        return "nothing"
    ends = [str(row[part]) for part in ("low", "high") if row.get(part)]
    return f"{' to '.join(ends)} {row['unit']}"


def _chart(sheet: SpecSheet | None) -> list[Svg]:
    """The gear maker's chart as the shop drew it, by flank."""
    drawn = read_spec(bridge.plain(sheet)).chart if sheet else {}
    return [flanks.flank(name, None, flanks.Shown(target=[patch.outline])) for name, patch in drawn.items()]
