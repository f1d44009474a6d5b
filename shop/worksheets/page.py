"""One page of a worksheet: its form, and what becomes of what was typed."""

from __future__ import annotations

import uuid
from collections.abc import Callable, Mapping
from typing import Any

from django.conf import settings
from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse

from shop.bench.panels.frame import frame
from shop.jobs import loading, queries
from shop.jobs.actions.job_change import VersionConflict
from shop.jobs.models import Job
from shop.people import rules
from shop.people.bridge import display_for
from shop.people.request import USER_ERRORS, entry_of, user_of, whole_number
from shop.people.rules import Right

Act = Callable[[Job, Mapping[str, str]], str]


def worksheet(
    request: HttpRequest,
    number: int,
    name: str,
    gather: Callable[..., dict[str, Any]],
    act: Act | None,
    template: str = "",
) -> HttpResponse:
    """Show a page; on a post make its change, and lose nothing of what was typed when it is refused."""
    user = user_of(request)
    job = queries.job_of(user, number)
    error, status = "", 200
    if request.method == "POST" and act is not None:
        try:
            messages.success(request, act(job, request.POST.dict()))
            return redirect(f"{reverse(name, args=[number])}{_anchor(request)}")
        except VersionConflict as stale:
            error, status = f"{stale} Nothing of yours is lost: look, then send it again.", 409
        except USER_ERRORS as problem:
            error, status = str(problem), 422
        job = queries.job_of(user, number)
    axle = loading.load(job, display_for(user))
    typed = request.POST.dict() if status != 200 else {}
    shared = {
        "axle": axle,
        "job": job,
        "display": axle.display,
        "error": error,
        "typed": typed,
        "here": name,
        "signed": job.state == Job.State.SIGNED,
        "may_sign": rules.may(user, Right.SIGN, practice=job.practice),
        "entry_id": str(uuid.uuid4()),
        **frame(axle, name),
        "has_instrument": bool(settings.LASH_INSTRUMENT) or job.practice,
    }
    query = request.GET.dict()
    file = template if "/" in template else f"worksheets/{template or name}.html"
    return render(request, file, shared | gather(axle, query), status=status)


def _anchor(request: HttpRequest) -> str:
    """Back to where the form stood on a long page."""
    anchor = request.POST.get("anchor", "")
    return f"#{anchor}" if anchor.replace("-", "").replace("_", "").isalnum() else ""


def version_in(given: Mapping[str, str]) -> int:
    return whole_number(given.get("version"), "page version")


def entry_in(given: Mapping[str, str]) -> uuid.UUID:
    return entry_of(given.get("entry"))
