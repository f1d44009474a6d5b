"""Pages about people: who is in the shop, and how each reads."""

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils.http import url_has_allowed_host_and_scheme

from shop.people import rules, services
from shop.people.forms import NewPersonForm
from shop.people.models import FootSwitch, Role, User
from shop.people.request import USER_ERRORS, posts_only, user_of, whole_number
from shop.people.rules import Right


def _carriers(user: User) -> list[dict[str, object]]:
    """Each kind of carrier with the schools it can follow, and this shop's usual."""
    titles = {
        "outboard": "Side shims",
        "under_cone": "Shims under the cones",
        "covers": "Side covers",
        "adjusters": "Threaded adjusters",
    }
    usual = user.shop.schools if user.shop else {}
    return [
        {"name": name, "title": titles[name], "schools": schools, "usual": usual.get(name, "")}
        for name, schools in services.schools_on().items()
    ]


@posts_only
def units(request: HttpRequest) -> HttpResponse:
    """Switch the reader's units and return to the page in hand."""
    services.set_units(user_of(request), request.POST.get("units", ""))
    back = request.POST.get("back", "/")
    if not url_has_allowed_host_and_scheme(back, {request.get_host()}):
        back = "/"
    return redirect(back)


def people(request: HttpRequest) -> HttpResponse:
    """Everybody in the shop; the owner lets people in and changes roles."""
    user = user_of(request)
    form = NewPersonForm(request.POST or None)
    if request.method == "POST" and form.is_valid():
        try:
            person = services.add_person(user, **form.cleaned_data)
        except USER_ERRORS as error:
            messages.error(request, str(error))
        else:
            messages.success(request, f"{person.called} can sign in now.")
        return redirect("people")
    return render(
        request,
        "people/people.html",
        {
            "people": User.objects.filter(shop=user.shop).order_by("first_name"),
            "form": form,
            "roles": Role.choices,
            "may_edit": rules.may(user, Right.PEOPLE),
            "foot_switches": FootSwitch.choices,
            "carriers": _carriers(user),
        },
        status=422 if form.errors else 200,
    )


@posts_only
def foot_switch(request: HttpRequest) -> HttpResponse:
    """Say which key the reader's foot switch sends."""
    try:
        services.set_foot_switch(user_of(request), request.POST.get("foot_switch", ""))
        messages.success(request, "Kept: the foot switch takes a reading, pressed again it stores it.")
    except USER_ERRORS as error:
        messages.error(request, str(error))
    return redirect("people")


@posts_only
def ways(request: HttpRequest) -> HttpResponse:
    """Set the shop's usual schools and its words for the carrier's sides."""
    given = request.POST
    schools = {
        name.removeprefix("school-"): str(value)
        for name, value in given.items()
        if name.startswith("school-")
    }
    try:
        services.set_ways(user_of(request), schools, given.get("ring_side", ""), given.get("far_side", ""))
        messages.success(request, "Kept. Jobs opened from now on follow it.")
    except USER_ERRORS as error:
        messages.error(request, str(error))
    return redirect("people")


@posts_only
def role(request: HttpRequest, person_id: int) -> HttpResponse:
    """Change a person's role."""
    try:
        person = services.set_role(
            user_of(request), whole_number(str(person_id), "person"), request.POST.get("role", "")
        )
        messages.success(request, f"{person.called} is {person.get_role_display()} now.")
    except USER_ERRORS as error:
        messages.error(request, str(error))
    return redirect("people")
