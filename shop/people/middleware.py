"""What stands between a session and the pages: ended sign-ins, passwords to change, the second factor."""

from collections.abc import Callable
from typing import Final
from zoneinfo import ZoneInfo

from django.contrib import messages
from django.contrib.auth import logout
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import ResolverMatch
from django.utils import timezone
from django.utils.cache import add_never_cache_headers

from shop.people import second_factor, sign_ins
from shop.people.models import User
from shop.people.throttle import mark_browser

# Pages that somebody reaches who still has to do something about the account.
_ACCOUNT: Final = frozenset({"sign-out", "own-password", "second-factor", "second-factor-code"})


class AccountGuard:
    """Let a person on only with a sign-in that holds, a password of their own, and what the shop asks."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        try:
            response = self.get_response(request)
        finally:
            timezone.deactivate()
        mark_browser(request, response)
        if isinstance(request.user, User):
            # A page of the shop is not left behind on a machine that others use.
            add_never_cache_headers(response)
        return response

    def process_view(
        self, request: HttpRequest, view: object, args: object, kwargs: object
    ) -> HttpResponse | None:
        """Answer in the page's place while something about the account is open."""
        user = request.user
        if not isinstance(user, User):
            return None
        if not sign_ins.is_open(request, user):
            logout(request)
            messages.error(request, "This sign-in was ended. Sign in again.")
            return redirect("sign-in")
        timezone.activate(ZoneInfo(user.shop.time_zone) if user.shop else timezone.get_default_timezone())
        match: ResolverMatch | None = request.resolver_match
        if match is not None and match.url_name in _ACCOUNT:
            return None
        if user.has_second_factor and not user.is_verified():  # type: ignore[attr-defined]
            return redirect("second-factor-code")
        if user.must_change_password:
            return redirect("own-password")
        if user.shop is None:
            return render(request, "people/no_shop.html", status=403)
        if not user.has_second_factor and second_factor.is_required(user):
            return redirect("second-factor")
        return None
