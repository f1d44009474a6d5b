"""Calendar feeds: made, withdrawn, read."""

from __future__ import annotations

from django.contrib import messages
from django.contrib.auth.decorators import login_not_required
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.urls import reverse

from shop.people.models import User
from shop.people.request import USER_ERRORS, posts_only, user_of, whole_number
from shop.planning import calendars


@posts_only
def link(request: HttpRequest) -> HttpResponse:
    """Make a calendar address, or withdraw one."""
    user = user_of(request)
    try:
        if request.POST.get("withdraw"):
            calendars.withdraw_link(user, whole_number(request.POST["withdraw"], "address"))
            messages.success(request, "Withdrawn: whoever has the address sees nothing any more.")
            return redirect("plan")
        person = None
        if request.POST.get("whose") != "shop":
            number = whole_number(request.POST.get("whose") or str(user.pk), "person")
            person = User.objects.filter(shop=user.shop, pk=number).first() or user
        made = calendars.make_link(user, person)
    except USER_ERRORS as problem:
        messages.error(request, str(problem))
        return redirect("plan")
    # It is shown once: only who made it sees it.
    request.session["new-feed"] = request.build_absolute_uri(reverse("plan-feed", args=[made.secret]))
    return redirect(f"{reverse('plan')}#feeds")


@login_not_required
def feed(request: HttpRequest, secret: str) -> HttpResponse:
    """The calendar behind a secret address."""
    return calendars.feed_of(secret, request)
