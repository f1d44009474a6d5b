"""The bench's changes of the pattern: patches, how a print was made, its target, the maker's chart."""

from __future__ import annotations

from dataclasses import replace

from django.http import HttpRequest, HttpResponse

from axle.contact.patch import Patch
from axle.errors import AxleError
from axle.procedure.names import StationName
from axle.stations.print_target import Prints
from shop.bench.panels import pattern
from shop.bench.print_forms import patches_from, place_from, seen_from
from shop.bench.request import PageRequest
from shop.bench.responses import change_job
from shop.jobs import loading
from shop.jobs.actions import prints, steps
from shop.jobs.actions.prints import Seen
from shop.jobs.models import Job, Pattern
from shop.jobs.rows import mark_from
from shop.people.request import entry_of, posts_only, user_of, version_of

_FLANKS = ("drive", "coast")


@posts_only
def mark(request: HttpRequest, number: int) -> HttpResponse:
    """Keep what is wiped on one flank: a line drawn around it, corners dragged, or four numbers."""
    given = request.POST.dict()
    flank = given.get("flank", "")
    page_request = PageRequest(
        station=StationName.PATTERN, typed=flank, view=given.get("view", ""), place=place_from(given)
    )

    def put(job: Job) -> PageRequest:
        axle = loading.load(job)
        patches = patches_from(flank, given)
        row = pattern.mark_row(axle, flank, page_request.place)
        if given.get("shape") and row is not None:
            # Corners that are dragged correct what was seen: how it was seen stays.
            seen = Seen(
                page_request.place,
                row.tooth,
                edge=row.edge,
                strength=row.strength,
                taken=Pattern.Taken(row.taken),
                photo=row.photo_entry,
                corners=row.corners,
                spread=row.spread,
            )
        else:
            seen = seen_from(given, page_request.place)
        if given.get("add") and row is not None:
            patches = [*mark_from(row).patches, *patches]
        prints.mark(
            user_of(request),
            job,
            version_of(request),
            flank=flank,
            patches=patches,
            entry=entry_of(given.get("entry")),
            seen=seen,
        )
        return _after(page_request, job)

    return change_job(request, number, page_request, put)


@posts_only
def mark_words(request: HttpRequest, number: int) -> HttpResponse:
    """Mark both flanks in three words each."""
    given = request.POST.dict()
    page_request = PageRequest(
        station=StationName.PATTERN, view="words", place=place_from(given), kept=given
    )

    def put(job: Job) -> PageRequest:
        marks = {}
        for flank in _FLANKS:
            words = (given.get(f"{flank}-{name}", "") for name in ("height", "length", "size"))
            marks[flank] = [Patch.quick(*words)], entry_of(given.get(f"{flank}-entry"))
        seen = replace(seen_from(given, page_request.place), taken=Pattern.Taken.QUICK)
        prints.mark_all(user_of(request), job, version_of(request), marks, seen)
        return _after(page_request, job)

    return change_job(request, number, page_request, put)


@posts_only
def make(request: HttpRequest, number: int) -> HttpResponse:
    """Say how the print was made, or begin another one of the same assembly."""
    given = request.POST.dict()
    again = bool(given.get("again"))
    page_request = PageRequest(station=StationName.PATTERN, view="made", kept=given)

    def put(job: Job) -> PageRequest:
        fields = ("compound", "load", "direction", "turns", "teeth", "places")
        told = {name: given[name] for name in fields if name in given}
        prints.make(
            user_of(request), job, version_of(request), told, entry_of(given.get("entry")), again=again
        )
        notice = "Another print of the same assembly: mark it as it is." if again else "Kept."
        return PageRequest(station=StationName.PATTERN, view="draw" if again else "", notice=notice)

    return change_job(request, number, page_request, put)


@posts_only
def target(request: HttpRequest, number: int) -> HttpResponse:
    """Hold prints to another target."""
    chosen = request.POST.get("aim", "")
    page_request = PageRequest(station=StationName.PATTERN, view="target")

    def put(job: Job) -> PageRequest:
        offered = Prints(loading.load(job).state).targets
        if chosen != "usual" and chosen not in {school.value for school in offered}:
            raise AxleError(
                "target",
                given=f"“{chosen[:20]}”",
                wanted=" or ".join(school.value for school in offered),
                do="Draw the maker's chart or mark the old wear on arrival first.",
            )
        steps.choose(user_of(request), job, version_of(request), {"aim": chosen})
        return page_request

    return change_job(request, number, page_request, put)


@posts_only
def maker_chart(request: HttpRequest, number: int) -> HttpResponse:
    """Keep one flank of the gear maker's chart as drawn, or the patch in hand; or take the chart off."""
    given = request.POST.dict()
    flank = given.get("flank", "")
    page_request = PageRequest(station=StationName.PATTERN, view="target")

    def put(job: Job) -> PageRequest:
        user, version = user_of(request), version_of(request)
        if given.get("drop"):
            prints.drop_chart(user, job, version)
            return replace(
                page_request, notice="The maker's chart is off this job; the sheet keeps its own."
            )
        prints.keep_chart(user, job, version, flank, patches_from(flank, given)[0])
        return replace(page_request, notice=f"The maker's chart, {flank} flank, is kept with these gears.")

    return change_job(request, number, page_request, put)


def _after(asked: PageRequest, job: Job) -> PageRequest:
    """Back to the same tab while a flank is still to be marked; then on, once the pattern is right."""
    whole = job.axle_after is None or pattern.is_whole(job.axle_after)
    stays = asked.view in ("draw", "numbers", "words") and not whole
    return PageRequest(station=StationName.PATTERN, view=asked.view if stays else "", moves_on=whole)
