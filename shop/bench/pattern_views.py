"""The pattern station's changes, its map, and the page that reads a photo."""

from __future__ import annotations

from dataclasses import replace

from django.contrib import messages
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse

from axle.errors import AxleError
from axle.measure.parse import parse
from axle.photo.places import place_shares
from axle.procedure.names import StationName
from axle.stations.pattern import read_print
from axle.stations.pattern_map import map_of, print_map
from shop.bench.panels import pattern, pattern_chart, pattern_guide, pattern_photo
from shop.bench.panels.frame import frame
from shop.bench.print_forms import corners_from, patches_from, place_from, read_beside, seen_from
from shop.jobs import loading, queries
from shop.jobs.actions import photos, prints
from shop.jobs.actions.job_change import VersionConflict
from shop.jobs.job_axle import JobAxle
from shop.jobs.models import Pattern, Photo
from shop.people.bridge import display_for
from shop.people.request import USER_ERRORS, entry_of, one_of, posts_only, user_of, version_of


def predicted(request: HttpRequest, number: int) -> HttpResponse:
    """The computed pattern where the sliders stand, as path data and words."""
    user = user_of(request)
    job, display = queries.job_of(user, number), display_for(user)
    try:
        depth, ring = (
            float(parse(request.GET.get(name, ""), display.length, name).core) for name in ("depth", "ring")
        )
        mapped = map_of(*loading.gears_of(job))
        if mapped is None:
            raise AxleError("pattern", given="a set that cannot be computed", wanted="one that can")
        return JsonResponse(pattern.predicted(mapped, display, depth, ring))
    except AxleError as problem:
        return JsonResponse({"error": str(problem)}, status=422)


def whole_chart(request: HttpRequest, number: int) -> HttpResponse:
    """The whole chart of the set, to be printed and hung up."""
    user = user_of(request)
    axle = loading.load(queries.job_of(user, number), display_for(user))
    mapped, says = print_map(axle.state), read_print(axle.state)
    return render(
        request,
        "pattern/chart.html",
        {
            "axle": axle,
            "job": axle.job,
            "display": axle.display,
            "chart": pattern_chart.chart(
                axle, mapped, None if says is None or says.stale else says, "whole"
            )
            if mapped
            else None,
            "refused": pattern_chart.refused(axle),
            "gears": pattern_chart.gear_rows(axle),
            **frame(axle, "pattern-chart", StationName.PATTERN),
            "page_title": "Chart of the set",
        },
    )


def guide(request: HttpRequest) -> HttpResponse:
    """How to make a print, how to read it, and why charts disagree."""
    return render(request, "pattern/guide.html", pattern_guide.context(display_for(user_of(request))))


def upload(request: HttpRequest, number: int) -> HttpResponse:
    """Keep a photo of a print and go on to read it."""
    user = user_of(request)
    job = queries.job_of(user, number)
    bench = f"{reverse('bench', args=[number])}?station=pattern&view=photo"
    if request.method != "POST":
        return redirect(bench)
    try:
        file = request.FILES.get("photo")
        if file is None:
            raise AxleError("photo", given="nothing", wanted="a picture from the camera or a file")
        kept = photos.keep(
            user,
            job,
            version_of(request),
            pattern.STEP,
            file,
            file.size or 0,
            entry_of(request.POST.get("entry")),
            "print of the contact pattern",
        )
    except (*USER_ERRORS, VersionConflict) as problem:
        messages.error(request, str(problem))
        return redirect(bench)
    given = request.POST.dict()
    flank = "coast" if given.get("flank") == "coast" else "drive"
    found = "&found=1" if given.get("found") else ""
    address = reverse("pattern-photo", args=[number, kept.pk])
    return redirect(f"{address}?flank={flank}&place={place_from(given)}{found}")


def photo(request: HttpRequest, number: int, photo_id: int) -> HttpResponse:
    """Read a photo: point at the corners, look at what was found, correct it, keep it."""
    user = user_of(request)
    axle, row = _photo(request, number, photo_id)
    given = request.GET.dict() | request.POST.dict()
    error = ""
    if request.method == "POST":
        try:
            flank = one_of(Pattern.Flank, given.get("flank"), "flank").value
            spread, beside = read_beside(given)
            corners = place_shares(row.width, row.height, corners_from(given.get("corners", "")))
            seen = replace(
                seen_from(given, place_from(given)),
                taken=Pattern.Taken.AS_FOUND if given.get("found") else Pattern.Taken.PHOTO,
                photo=row.entry,
                corners=corners,
                spread=spread,
                beside=beside,
            )
            prints.mark(
                user,
                axle.job,
                version_of(request),
                flank=flank,
                patches=patches_from(flank, given),
                entry=entry_of(given.get("entry")),
                seen=seen,
            )
        except (*USER_ERRORS, VersionConflict) as problem:
            error = str(problem)
        else:
            messages.success(request, f"The {flank} flank is kept, read from the photo.")
            back = f"{reverse('arrival', args=[number])}#pattern"
            return redirect(
                back if given.get("found") else f"{reverse('bench', args=[number])}?station=pattern"
            )
    return render(
        request,
        "pattern/photo.html",
        pattern_photo.context(axle, row, given)
        | frame(axle, "pattern-photo", StationName.PATTERN)
        | {"error": error, "page_title": "Print from a photo"},
        status=422 if error else 200,
    )


@posts_only
def read(request: HttpRequest, number: int, photo_id: int) -> HttpResponse:
    """What the photo shows of the flank that was pointed at: nothing is stored yet."""
    axle, row = _photo(request, number, photo_id)
    return render(
        request, "pattern/partials/found.html", pattern_photo.found(axle, row, request.POST.dict())
    )


def _photo(request: HttpRequest, number: int, photo_id: int) -> tuple[JobAxle, Photo]:
    user = user_of(request)
    job = queries.job_of(user, number)
    row: Photo = get_object_or_404(Photo, job=job, pk=photo_id)
    return loading.load(job, display_for(user)), row
