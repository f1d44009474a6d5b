"""What views share: the signed-in person, what forms send beside their fields, errors in words."""

import uuid
from collections.abc import Callable
from datetime import date
from functools import wraps
from typing import Any, cast

from django.http import HttpRequest

from axle.errors import AxleError
from shop.people.models import User
from shop.people.rules import Rejected

# What a person did wrong or may not do; anything else is a fault of ours.
USER_ERRORS = (AxleError, Rejected)
_VERSIONS = (1, 2, 3, 4, 5)


def user_of(request: HttpRequest) -> User:
    """The signed-in person; the login middleware lets nobody else in."""
    return cast(User, request.user)


def whole_number(text: str | None, what: str, least: int = 0, most: int = 2_000_000_000) -> int:
    """Read a whole number from a form or an address.

    :raises AxleError: naming the field, what was given and what is wanted.
    """
    shown = f"“{(text or '').strip()[:24]}”"
    try:
        number = int((text or "").strip())
    except ValueError:
        raise AxleError(what, given=shown, wanted=f"a whole number from {least}") from None
    if not least <= number <= most:
        raise AxleError(what, given=shown, wanted=f"{least} to {most}")
    return number


def plain_number(text: str | None, usual: int, longest: int = 3) -> int:
    """Read a small number of an address or a hidden field; what is none counts as the usual one."""
    text = text or ""
    return int(text) if text.isascii() and text.isdigit() and len(text) <= longest else usual


def one_of(kind: type, text: str | None, what: str) -> Any:
    """Read one member of an enumeration from a form.

    :raises AxleError: when it is none of them.
    """
    try:
        return kind(text)
    except ValueError:
        wanted = ", ".join(str(member.value) for member in kind)  # type: ignore[attr-defined]
        raise AxleError(what, given=f"“{(text or '')[:24]}”", wanted=wanted) from None


def day_in(text: str | None, what: str) -> date:
    """Read a day from a form.

    :raises AxleError: naming the field, what was given and how a day is written.
    """
    try:
        return date.fromisoformat((text or "").strip())
    except ValueError:
        raise AxleError(what, given=f"“{(text or '')[:12]}”", wanted="a day, as 2026-12-01") from None


def posts_only(view: Callable[..., Any]) -> Callable[..., Any]:
    """Refuse anything but a POST, as Django's own decorator does, keeping the view's name."""
    from django.views.decorators.http import require_POST

    return wraps(view)(require_POST(view))


def version_of(request: HttpRequest) -> int:
    """The version of the job that the page was made from."""
    return whole_number(request.POST.get("version"), "page version")


def entry_of(text: str | None) -> uuid.UUID:
    """The identity that a form's page gave its entry: one of RFC 4122, as the database keeps them."""
    try:
        found = uuid.UUID(text or "")
    except ValueError:
        found = None
    if found is None or found.version not in _VERSIONS:
        raise AxleError("entry", given="no identity", wanted="the page's own", do="Reload the page.")
    return found
