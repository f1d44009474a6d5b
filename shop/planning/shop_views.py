"""Pages under Shop: hours, machines and terms; the owner's page."""

from __future__ import annotations

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone

from axle.procedure.flow import machines
from axle.procedure.stations import stations
from shop.people import rules, terms
from shop.people.hours import WEEKDAYS, countries, currency_of, terms_of
from shop.people.models import Absence, PersonHours, Role, User
from shop.people.request import USER_ERRORS, posts_only, user_of, whole_number
from shop.people.rules import Right
from shop.planning.owner_page import learned_page, owner_page
from shop.planning.views import shop_of


def hours(request: HttpRequest) -> HttpResponse:
    """The week's hours, people's own, machines, holidays, rates."""
    user = user_of(request)
    error = ""
    if request.method == "POST":
        try:
            messages.success(request, terms.change(user, request.POST.dict(), request.POST.getlist("may")))
            return redirect("hours")
        except USER_ERRORS as problem:
            error = str(problem)
    typed = request.POST.dict() if error else {}
    shop = shop_of(user)
    kept = terms_of(shop)
    people = list(User.objects.filter(shop=shop, is_active=True).order_by("first_name"))
    own = {row.user_id: row for row in PersonHours.objects.filter(user__in=people)}
    return render(
        request,
        "planning/hours.html",
        {
            "error": error,
            "typed": typed,
            "terms": kept,
            "currency": currency_of(shop),
            "week": [
                (number, name, typed.get(f"day-{number}", kept.week.get(str(number), "")))
                for number, name in enumerate(WEEKDAYS)
            ],
            "machines": [
                (name, machine, typed.get(f"machine-{name}", kept.machines.get(name, machine.usual)))
                for name, machine in machines().items()
            ],
            "rates": [
                (role, typed.get(f"rate-{role.value}", kept.rates.get(role.value, ""))) for role in Role
            ],
            "countries": countries(),
            "people": [(person, own.get(person.pk)) for person in people],
            "stations": list(stations().values()),
            "weekdays": list(enumerate(WEEKDAYS)),
            "absences": Absence.objects.filter(
                user__in=people, last__gte=timezone.localdate()
            ).select_related("user"),
            "may_edit": rules.may(user, Right.SHOP),
            **learned_page(shop),
        },
        status=422 if error else 200,
    )


@posts_only
def absence(request: HttpRequest) -> HttpResponse:
    """Take an absence down, or take it back."""
    user = user_of(request)
    try:
        if request.POST.get("back"):
            terms.drop_absence(user, whole_number(request.POST["back"], "absence"))
            messages.success(request, "Taken back.")
        else:
            terms.add_absence(user, request.POST.dict())
            messages.success(request, "Taken down: the plan goes around it.")
    except USER_ERRORS as problem:
        messages.error(request, str(problem))
    return redirect("hours")


def owner(request: HttpRequest) -> HttpResponse:
    """Work in hand, promised and late, hours sold against hours worked, parts, what was done twice."""
    user = user_of(request)
    shop = shop_of(user)
    try:
        rules.require_right(user, Right.SHOP)
    except USER_ERRORS as problem:
        return render(request, "planning/owner.html", {"refused": str(problem)}, status=403)
    return render(request, "planning/owner.html", owner_page(shop))
