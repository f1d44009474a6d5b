"""Packs, sleeves and adjusters put in by hand."""

from __future__ import annotations

from decimal import Decimal

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from axle.errors import AxleError
from axle.layout import Place
from axle.measure.parse import parse
from axle.measure.units import HOLE
from axle.procedure.names import StationName
from shop.bench.panels import packs
from shop.bench.request import PageRequest
from shop.bench.responses import change_job
from shop.jobs import loading, queries
from shop.jobs.actions import carrier, steps
from shop.jobs.actions import packs as packs_actions
from shop.jobs.models import Job
from shop.people.bridge import display_for
from shop.people.request import one_of, posts_only, user_of, version_of, whole_number


@posts_only
def adjusters(request: HttpRequest, number: int) -> HttpResponse:
    """Record how far both adjusters are turned in."""
    station = request.POST.get("station", "carrier_preload")

    def put(job: Job) -> PageRequest:
        holes: list[Decimal] = []
        for name, words in (("ring", "ring-side adjuster"), ("far", "far-side adjuster")):
            typed = parse(request.POST.get(name, ""), HOLE, words)
            if not -200 <= typed.value <= 200 or typed.value % Decimal("0.25"):
                raise AxleError(words, given=f"“{typed.text}”", wanted="holes in quarters, −200 to 200")
            holes.append(typed.value)
        knowing = bool(request.POST.get("knowing"))
        try:
            carrier.set_adjusters(
                user_of(request), job, version_of(request), holes[0], holes[1], knowing=knowing
            )
        except carrier.Harmful as harm:
            kept = {"ring": request.POST.get("ring", ""), "far": request.POST.get("far", "")}
            return PageRequest(station=station, harm=str(harm), kept=kept)
        return PageRequest(station=station, notice="Adjusters recorded.")

    return change_job(request, number, PageRequest(station=station), put)


@posts_only
def places(request: HttpRequest, number: int) -> HttpResponse:
    """Read backlash at another number of places around the ring."""
    chosen = request.POST.get("lash_places", "")

    def put(job: Job) -> PageRequest:
        steps.choose(user_of(request), job, version_of(request), {"lash_places": chosen})
        return PageRequest(station=StationName.BACKLASH)

    return change_job(request, number, PageRequest(station=StationName.BACKLASH), put)


@posts_only
def sleeve(request: HttpRequest, number: int) -> HttpResponse:
    """Record that a new sleeve is in."""

    def put(job: Job) -> PageRequest:
        packs_actions.new_sleeve(user_of(request), job, version_of(request))
        return PageRequest(
            station=StationName.PINION_PRELOAD, notice="New sleeve: its readings start again."
        )

    return change_job(request, number, PageRequest(station=StationName.PINION_PRELOAD), put)


def pack(request: HttpRequest, number: int) -> HttpResponse:
    """Offer packs for a wanted thickness, or for named pieces, out of the drawer."""
    user = user_of(request)
    axle = loading.load(queries.job_of(user, number), display_for(user))
    place, wanted = request.GET.get("place", ""), request.GET.get("wanted", "")
    station = request.GET.get("station", "")
    error, offers, made = "", [], None
    shapes: list[str] = []
    try:
        where = one_of(Place, place, "place")
        shapes = packs.shapes(axle, where)
        if wanted.strip():
            made = packs.made_for(axle, where, wanted)
            offers = packs.offers(axle, where, wanted)
    except AxleError as problem:
        if place not in {p.value for p in Place}:
            # Nothing can be offered for a place that is none: the whole page would be of nothing.
            return HttpResponse(str(problem), status=422, content_type="text/plain; charset=utf-8")
        error = str(problem)
    return render(
        request,
        "bench/partials/pack.html",
        {
            "axle": axle,
            "job": axle.job,
            "display": axle.display,
            "place": place,
            "wanted": wanted,
            "error": error,
            "offers": offers,
            "made": made,
            "station_name": station,
            "shapes": shapes,
            "shape": axle.job.shapes.get(place, ""),
        },
    )


@posts_only
def shape(request: HttpRequest, number: int) -> HttpResponse:
    """Say which shape of shim a place takes."""
    station = request.POST.get("station", "")

    def put(job: Job) -> PageRequest:
        place, chosen = one_of(Place, request.POST.get("place"), "place"), request.POST.get("shape", "")
        packs_actions.choose_shape(user_of(request), job, version_of(request), place, chosen)
        words = (
            f"Only shims of the shape “{chosen}” are offered there."
            if chosen
            else "Only shims without a named shape are offered."
        )
        return PageRequest(station=station, notice=words)

    return change_job(request, number, PageRequest(station=station), put)


@posts_only
def fit(request: HttpRequest, number: int) -> HttpResponse:
    """Fit a pack by hand."""
    station = request.POST.get("station", "")

    def put(job: Job) -> PageRequest:
        lots = [whole_number(lot, "shim") for lot in request.POST.get("lots", "").split(",") if lot]
        place = one_of(Place, request.POST.get("place"), "place")
        packs_actions.fit_pack(user_of(request), job, version_of(request), place, lots)
        return PageRequest(station=station, notice="Fitted from the drawer.")

    return change_job(request, number, PageRequest(station=station), put)
