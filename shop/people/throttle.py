"""Who may try a password, and how soon again.

Each name is closed for a while after too many wrong passwords from one address. A browser on which the
person has signed in before counts as an address of its own, so nobody else's tries can lock its owner
out. Many names tried from one strange address are slowed, the longer the more.
"""

import hashlib
import ipaddress
import uuid
from datetime import datetime, timedelta
from typing import Any, Final

from axes.models import AccessAttempt
from django.conf import settings
from django.core.signing import BadSignature
from django.db.models import Count, Max
from django.http import HttpRequest, HttpResponse
from django.utils import timezone

from shop.people.models import SignIn

_COOKIE: Final = "lash-browser"
_YEAR: Final = timedelta(days=365)
_WINDOW: Final = timedelta(minutes=15)
# So many names a shop's own haste may get wrong; each one more doubles the wait.
_FREE: Final = 8
_LONGEST_WAIT: Final = timedelta(seconds=60)


def address_of(request: HttpRequest) -> str:
    """The address a request came from.

    Behind proxies it is the entry that the outermost trusted one wrote: as many from the right of the
    header as the setting says. What stands further left anybody may have made up.
    """
    direct = str(request.META.get("REMOTE_ADDR") or "")
    hops = settings.LASH_TRUSTED_HOPS
    if hops == 0:
        return direct
    passed = [
        part.strip() for part in request.META.get("HTTP_X_FORWARDED_FOR", "").split(",") if part.strip()
    ]
    found = passed[-hops] if len(passed) >= hops else direct
    try:
        return str(ipaddress.ip_address(found))
    except ValueError:
        return direct


def counted_as(request: HttpRequest) -> str:
    """The address under which wrong passwords are counted: a known browser is one of its own."""
    browser = browser_of(request)
    name = request.POST.get("username", "")[:150]
    if browser is not None and SignIn.objects.filter(user__username=name, browser=browser).exists():
        digest = hashlib.sha256(f"{browser} {name}".encode()).digest()
        # Unique local addresses (RFC 4193) are nobody's on the network.
        return str(ipaddress.IPv6Address(b"\xfd" + digest[:15]))
    return address_of(request) or "0.0.0.0"  # noqa: S104 - a value to count by, nothing listens


def wait_for(request: HttpRequest) -> timedelta:
    """How long this address has to wait before the next try; nothing for most.

    One name alone is closed by itself; many names are somebody who guesses.
    """
    since = timezone.now() - _WINDOW
    tried = AccessAttempt.objects.filter(ip_address=counted_as(request), attempt_time__gte=since)
    found: dict[str, Any] = tried.aggregate(
        names=Count("username", distinct=True), last=Max("attempt_time")
    )
    return wait_after(found["names"], found["last"], timezone.now())


def wait_after(names: int, last: datetime | None, now: datetime) -> timedelta:
    """What is left of the wait after wrong passwords for so many names, the last of them then."""
    if names < _FREE or last is None:
        return timedelta(0)
    wait = min(timedelta(seconds=2 ** min(names - _FREE, 10)), _LONGEST_WAIT)
    return max(last + wait - now, timedelta(0))


def browser_of(request: HttpRequest) -> uuid.UUID | None:
    """The mark that this browser carries from an earlier sign-in."""
    try:
        return uuid.UUID(request.get_signed_cookie(_COOKIE, ""))
    except (BadSignature, ValueError):
        return None


def mark_browser(request: HttpRequest, response: HttpResponse) -> None:
    """Leave this browser's mark on it."""
    browser = getattr(request, "browser", None)
    if browser is not None and browser != browser_of(request):
        response.set_signed_cookie(
            _COOKIE,
            str(browser),
            max_age=int(_YEAR.total_seconds()),
            httponly=True,
            samesite="Lax",
            secure=settings.SESSION_COOKIE_SECURE,
        )
