"""The camera of a phone: a square code at the bench, and the one page that it leads to."""

from __future__ import annotations

import uuid
from typing import Final

import segno
from django.conf import settings
from django.contrib.auth.decorators import login_not_required
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.urls import reverse
from django.utils.safestring import mark_safe

from axle.errors import AxleError
from axle.procedure.names import StationName
from shop.bench.panels import pattern
from shop.bench.panels.frame import frame
from shop.jobs import loading, queries
from shop.jobs.actions import phone_link
from shop.jobs.actions.job_change import VersionConflict
from shop.people.bridge import display_for
from shop.people.request import USER_ERRORS, entry_of, user_of
from shop.people.rules import Rejected

# So many photos are sent at once.
_AT_ONCE: Final = 12


def code(request: HttpRequest, number: int) -> HttpResponse:
    """A square code that a phone's camera reads; or how to make one possible."""
    user = user_of(request)
    axle = loading.load(queries.job_of(user, number), display_for(user))
    found: dict[str, object] = {}
    error = ""
    if settings.LASH_PHONE_ADDRESS:
        try:
            secret, until = phone_link.made_for(user, axle.job)
        except Rejected as problem:
            error = str(problem)
        else:
            address = settings.LASH_PHONE_ADDRESS.rstrip("/") + reverse("phone", args=[secret])
            drawn = segno.make(address, error="m").svg_inline(scale=5, dark="#1b2a38", light="#ffffff")
            found = {"address": address, "until": until, "code": mark_safe(drawn)}  # noqa: S308 - drawn here
    return render(
        request,
        "pattern/phone_code.html",
        {"axle": axle, "job": axle.job, "display": axle.display, "error": error, **found}
        | frame(axle, "pattern-phone", StationName.PATTERN)
        | {"page_title": "Camera of a phone"},
    )


@login_not_required
def phone(request: HttpRequest, secret: str) -> HttpResponse:
    """The page on the phone: it takes a photo and sends it to its one job."""
    try:
        link = phone_link.opened(secret)
    except Rejected as problem:
        return render(request, "pattern/phone.html", {"over": str(problem)}, status=403)
    kept: list[str] = []
    wrong: list[str] = []
    if request.method == "POST":
        try:
            entry = entry_of(request.POST.get("entry"))
            files = [file for file in request.FILES.getlist("photo") if file]
            if not 1 <= len(files) <= _AT_ONCE:
                raise AxleError(
                    "photo",
                    given=f"{len(files)} pictures",
                    wanted=f"1 to {_AT_ONCE} from the camera or its files",
                )
            for number, file in enumerate(files):
                # Sent again over a link that broke, each is still kept once.
                own = uuid.uuid5(entry, str(number)) if number else entry
                try:
                    phone_link.add_photo(link, pattern.STEP, file, file.size or 0, own)
                    kept.append(file.name or "")
                except (*USER_ERRORS, VersionConflict) as problem:
                    wrong.append(f"{file.name}: {problem}")
        except USER_ERRORS as problem:
            wrong.append(str(problem))
    return render(
        request,
        "pattern/phone.html",
        {
            "job": link.job,
            "shown_by": link.user.called,
            "wrong": wrong,
            "kept": kept,
            "entry": uuid.uuid4(),
        },
        status=422 if wrong else 200,
    )
