"""Sign-ins: kept, listed, ended at once."""

import uuid
from datetime import timedelta
from typing import Any, Final

from django.contrib.auth import update_session_auth_hash
from django.contrib.auth.signals import user_logged_in
from django.db.models import QuerySet
from django.dispatch import receiver
from django.http import HttpRequest
from django.utils import timezone

from shop.people.models import SignIn, User
from shop.people.throttle import address_of, browser_of

# Kept in the session: which sign-in it belongs to.
KEY: Final = "sign_in"
_SEEN_STEP: Final = timedelta(minutes=5)


@receiver(user_logged_in)
def keep(sender: object, request: HttpRequest, user: User, **more: Any) -> None:
    """Write a sign-in down; a password that lets in once is spent by it."""
    now = timezone.now()
    browser = browser_of(request) or uuid.uuid4()
    request.browser = browser  # type: ignore[attr-defined]  # left on the answer by the guard
    row = SignIn.objects.create(
        user=user,
        at=now,
        seen_at=now,
        address=address_of(request)[:45],
        program=str(request.META.get("HTTP_USER_AGENT", ""))[:200],
        browser=browser,
    )
    request.session[KEY] = row.pk
    if user.password_once:
        user.set_unusable_password()
        user.password_once = False
        user.save(update_fields=["password", "password_once"])
        update_session_auth_hash(request, user)


def is_open(request: HttpRequest, user: User) -> bool:
    """Whether the session's sign-in still holds; says now and then that it was seen."""
    row = SignIn.objects.filter(pk=key_of(request), user=user).first()
    if row is None or row.ended_at is not None:
        return False
    if timezone.now() - row.seen_at > _SEEN_STEP:
        row.seen_at = timezone.now()
        row.save(update_fields=["seen_at"])
    return True


def key_of(request: HttpRequest) -> int:
    """Which sign-in this session belongs to; 0 for none."""
    return int(request.session.get(KEY, 0))


def open_of(user: User) -> QuerySet[SignIn]:
    """A person's sign-ins that hold, the last seen first."""
    return user.sign_ins.filter(ended_at=None)


def end(by: User, rows: QuerySet[SignIn]) -> int:
    """End sign-ins: their next request finds itself signed out."""
    return rows.filter(ended_at=None).update(ended_at=timezone.now(), ended_by=by.called)
