"""Pages about people: who is in the shop, and how each reads."""

from collections.abc import Callable

from django.contrib import messages
from django.http import HttpRequest, HttpResponse, HttpResponseRedirect
from django.shortcuts import redirect, render
from django.utils.http import url_has_allowed_host_and_scheme

from shop.people import rules, services, sign_ins
from shop.people.forms import NewPersonForm
from shop.people.models import Role, SecondFactor, User
from shop.people.request import USER_ERRORS, posts_only, user_of
from shop.people.rules import Right

_LONGEST_BACK = 2000


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
    own = back.startswith("/") and url_has_allowed_host_and_scheme(back, {request.get_host()})
    return HttpResponseRedirect(back if own and len(back) < _LONGEST_BACK else "/")


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
            "people": User.objects.filter(shop=user.shop).order_by("-is_active", "first_name"),
            "form": form,
            "may_edit": rules.may(user, Right.PEOPLE),
            "second_factors": SecondFactor.choices,
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
    return redirect("me")


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


def person(request: HttpRequest, person_id: int) -> HttpResponse:
    """One of the shop's people, for its owner."""
    return _person(request, person_id)


def _person(request: HttpRequest, person_id: int, password: str = "") -> HttpResponse:
    try:
        found = services.person_of(user_of(request), person_id)
    except USER_ERRORS as error:
        messages.error(request, str(error))
        return redirect("people")
    context = {
        "person": found,
        "roles": Role.choices,
        "sign_ins": sign_ins.open_of(found),
        # Shown this once: it is kept nowhere.
        "password": password,
    }
    return render(request, "people/person.html", context)


@posts_only
def role(request: HttpRequest, person_id: int) -> HttpResponse:
    """Change a person's role."""

    def act(owner: User) -> str:
        person = services.set_role(owner, person_id, request.POST.get("role", ""))
        return f"{person.called} is {person.get_role_display()} now."

    return _done(request, act, person_id)


@posts_only
def reset_password(request: HttpRequest, person_id: int) -> HttpResponse:
    """Give somebody a password that lets in once; it is shown this once."""
    try:
        _, password = services.reset_password(user_of(request), person_id)
    except USER_ERRORS as error:
        messages.error(request, str(error))
        return redirect("people")
    return _person(request, person_id, password)


@posts_only
def let_go(request: HttpRequest, person_id: int) -> HttpResponse:
    """Let somebody go, or in again."""

    def act(owner: User) -> str:
        if request.POST.get("back"):
            return f"{services.take_back(owner, person_id).called} can sign in again."
        return f"{services.let_go(owner, person_id).called} is let go and signed out. The records stay."

    return _done(request, act, person_id)


@posts_only
def end_sign_ins(request: HttpRequest, person_id: int) -> HttpResponse:
    """End every sign-in of a person."""

    def act(owner: User) -> str:
        count = services.end_sign_ins(owner, person_id)
        return f"{count} sign-in{'' if count == 1 else 's'} ended."

    return _done(request, act, person_id)


@posts_only
def remove_second_factor(request: HttpRequest, person_id: int) -> HttpResponse:
    """Take a lost device away."""

    def act(owner: User) -> str:
        return f"{services.remove_second_factor(owner, person_id).called} signs in by password alone."

    return _done(request, act, person_id)


@posts_only
def second_factor(request: HttpRequest) -> HttpResponse:
    """Say who signs in with a second factor."""
    try:
        services.set_second_factor(user_of(request), request.POST.get("second_factor", ""))
        messages.success(request, "Kept: it is asked for at the next page.")
    except USER_ERRORS as error:
        messages.error(request, str(error))
    return redirect("people")


def _done(request: HttpRequest, act: Callable[[User], str], person_id: int) -> HttpResponse:
    try:
        messages.success(request, act(user_of(request)))
    except USER_ERRORS as error:
        messages.error(request, str(error))
    return redirect("person", person_id)
