"""Pages about a shop as a whole: set-up, settings, the demo, another shop."""

from django.contrib import messages
from django.contrib.auth import login, logout
from django.contrib.auth.decorators import login_not_required
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render

from axle.procedure.steps import Tool, tools
from shop.people import rules, shops
from shop.people.forms import SetUpForm, ShopForm
from shop.people.models import BackupMade, Shop, User
from shop.people.request import USER_ERRORS, posts_only, user_of
from shop.people.rules import Right

_BACKEND = "django.contrib.auth.backends.ModelBackend"
TOOL_GROUPS = {"stand": "Stands and lifting", "tool": "Tools", "gauge": "Gauges"}
_USUAL = {"units": "thou", "currency": "EUR", "time_zone": "Europe/Vienna"}


@login_not_required
def set_up(request: HttpRequest) -> HttpResponse:
    """The first page of an installation without a shop: make one, with its owner."""
    if shops.open_shops():
        return redirect("sign-in")
    form = SetUpForm(request.POST or None, initial=_USUAL)
    if request.method == "POST" and form.is_valid():
        try:
            owner = shops.set_up(form.shop_words, form.owner_words)
        except USER_ERRORS as error:
            form.add_error(None, str(error))
        else:
            login(request, owner, _BACKEND)
            return redirect("begin")
    return render(
        request, "people/set_up.html", {"form": form, "first": True}, status=422 if form.errors else 200
    )


def another(request: HttpRequest) -> HttpResponse:
    """Open one more shop on this server, and go on in it."""
    user = user_of(request)
    form = SetUpForm(request.POST or None, initial=_USUAL)
    if request.method == "POST" and form.is_valid():
        try:
            owner = shops.open_another(user, form.shop_words, form.owner_words)
        except USER_ERRORS as error:
            form.add_error(None, str(error))
        else:
            logout(request)
            login(request, owner, _BACKEND)
            return redirect("begin")
    return render(
        request,
        "people/set_up.html",
        {"form": form, "may": rules.may(user, Right.SHOP)},
        status=422 if form.errors else 200,
    )


def shop(request: HttpRequest) -> HttpResponse:
    """The shop's name, units, currency and clock; its backups; the demo."""
    user = user_of(request)
    own = user.shop
    assert own is not None  # the guard lets nobody without a shop on
    start = {
        name: getattr(own, name) for name in ("name", "place", "units", "currency", "time_zone", "sign_at")
    }
    form = ShopForm(request.POST or None, initial=start)
    if request.method == "POST" and form.is_valid():
        try:
            shops.change(user, form.shop_words)
        except USER_ERRORS as error:
            form.add_error(None, str(error))
        else:
            messages.success(request, "Kept.")
            return redirect("shop")
    age = shops.backup_age()
    return render(
        request,
        "people/shop.html",
        {
            "form": form,
            "may_edit": rules.may(user, Right.SHOP),
            "backup": BackupMade.objects.order_by("-at").first(),
            "backup_is_old": age is not None and age.days >= 2,
            "others": Shop.objects.filter(removed_at=None).exclude(pk=own.pk).count(),
        },
        status=422 if form.errors else 200,
    )


def owned_tools(request: HttpRequest) -> HttpResponse:
    """Tools, gauges and stands, ticked once: a job then lists only what is missing."""
    user = user_of(request)
    own = user.shop
    assert own is not None  # the guard lets nobody without a shop on
    error = ""
    if request.method == "POST":
        try:
            count = len(shops.own_tools(user, request.POST.getlist("tool")))
        except USER_ERRORS as problem:
            error = str(problem)
        else:
            messages.success(request, f"{count} tools are the shop's: no job asks for them any more.")
            return redirect("owned-tools")
    groups: dict[str, list[tuple[Tool, bool]]] = {title: [] for title in TOOL_GROUPS.values()}
    for tool in tools().values():
        if tool.kind in TOOL_GROUPS:
            groups[TOOL_GROUPS[tool.kind]].append((tool, tool.tool in own.tools_owned))
    return render(
        request,
        "people/owned_tools.html",
        {"groups": groups, "error": error, "may_edit": rules.may(user, Right.SHOP)},
        status=422 if error else 200,
    )


@posts_only
def demo(request: HttpRequest) -> HttpResponse:
    """Set the demo shop back to how it began, or remove it."""
    user, again = user_of(request), request.POST.get("do") == "again"
    name = user.username
    try:
        shops.remove_demo(user, again=again)
    except USER_ERRORS as error:
        messages.error(request, str(error))
        return redirect("shop")
    logout(request)
    fresh = User.objects.filter(username=name, is_active=True).first() if again else None
    if fresh is not None:
        login(request, fresh, _BACKEND)
        messages.success(request, "The demo is as it began.")
        return redirect("jobs")
    return redirect("sign-in" if shops.open_shops() else "set-up")
