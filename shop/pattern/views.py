"""Marking the pattern: by drag, or by four numbers."""

import math
import uuid

from django.http import HttpRequest, HttpResponse

from axle.contact.reading import Patch
from axle.errors import AxleError
from shop.bench.page import Asked
from shop.bench.views import change
from shop.config.http import posts_only, user_of, whole_number
from shop.drawing.flanks import patch_from_drag
from shop.jobs import services
from shop.jobs.models import Job


@posts_only
def mark(request: HttpRequest, number: int) -> HttpResponse:
    """Keep the patch of one flank."""
    given = request.POST
    flank = given.get("flank", "")

    def put(job: Job) -> Asked:
        if given.get("x0"):
            x0, y0, x1, y1 = (_coordinate(given.get(name, "")) for name in ("x0", "y0", "x1", "y1"))
            patch = patch_from_drag(flank, x0, y0, x1, y1)
        else:
            patch = Patch.from_percent(
                *(given.get(name, "") for name in ("toe", "heel", "root", "top")), flank=flank
            )
        try:
            entry = uuid.UUID(given.get("entry", ""))
        except ValueError:
            raise AxleError("entry", given="no identity", wanted="the page's own", do="Reload.") from None
        services.mark_pattern(
            user_of(request), job, whole_number(given.get("version"), "page version"), flank=flank,
            patch=patch, entry=entry,
        )  # fmt: skip
        return Asked(station="pattern")

    return change(request, number, Asked(station="pattern", typed=flank), put)


def _coordinate(text: str) -> float:
    try:
        value = float(text)
    except ValueError:
        value = math.nan
    if not math.isfinite(value):
        raise AxleError("drag", given=f"“{text[:20]}”", wanted="a place on the drawing")
    return value


