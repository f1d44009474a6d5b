"""The bench's changes of the pattern: patches, how a print was made, its target, the maker's chart."""

from __future__ import annotations

from dataclasses import replace

from django.http import HttpRequest, HttpResponse

from axle.advice.printed import Prints
from axle.contact.patch import Patch
from axle.errors import AxleError
from shop.bench.answers import change_job
from shop.bench.page import Asked
from shop.config.http import entry_of, posts_only, user_of, version_of
from shop.jobs import bridge, prints, work
from shop.jobs.models import Job, Pattern
from shop.jobs.prints import Seen
from shop.jobs.rows import mark_from
from shop.pattern import page
from shop.pattern.marks import patches_from, place_from, seen_from

_FLANKS = ("drive", "coast")


@posts_only
def mark(request: HttpRequest, number: int) -> HttpResponse:
    """Keep what is wiped on one flank: a line drawn around it, corners dragged, or four numbers."""
    given = request.POST.dict()
    flank = given.get("flank", "")
    asked = Asked(station="pattern", typed=flank, view=given.get("view", ""), place=place_from(given))

    def put(job: Job) -> Asked:
        axle = bridge.load(job)
        patches = patches_from(flank, given)
        row = page.mark_row(axle, flank, asked.place)
        if given.get("shape") and row is not None:
            # Corners that are dragged correct what was seen: how it was seen stays.
            seen = Seen(
                asked.place,
                row.tooth,
                row.edge,
                row.strength,
                Pattern.Taken(row.taken),
                row.photo_entry,
                row.corners,
            )
        else:
            seen = seen_from(given, asked.place)
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
        return _after(asked, job)

    return change_job(request, number, asked, put)


@posts_only
def mark_words(request: HttpRequest, number: int) -> HttpResponse:
    """Mark both flanks in three words each."""
    given = request.POST.dict()
    asked = Asked(station="pattern", view="words", place=place_from(given), kept=given)

    def put(job: Job) -> Asked:
        marks = {}
        for flank in _FLANKS:
            words = (given.get(f"{flank}-{name}", "") for name in ("height", "length", "size"))
            marks[flank] = [Patch.quick(*words)], entry_of(given.get(f"{flank}-entry"))
        seen = replace(seen_from(given, asked.place), taken=Pattern.Taken.QUICK)
        prints.mark_all(user_of(request), job, version_of(request), marks, seen)
        return _after(asked, job)

    return change_job(request, number, asked, put)


@posts_only
def make(request: HttpRequest, number: int) -> HttpResponse:
    """Say how the print was made, or begin another one of the same assembly."""
    given = request.POST.dict()
    again = bool(given.get("again"))
    asked = Asked(station="pattern", view="made", kept=given)

    def put(job: Job) -> Asked:
        fields = ("compound", "load", "direction", "turns", "teeth", "places")
        told = {name: given[name] for name in fields if name in given}
        prints.make(
            user_of(request), job, version_of(request), told, entry_of(given.get("entry")), again=again
        )
        notice = "Another print of the same assembly: mark it as it is." if again else "Kept."
        return Asked(station="pattern", view="draw" if again else "", notice=notice)

    return change_job(request, number, asked, put)


@posts_only
def target(request: HttpRequest, number: int) -> HttpResponse:
    """Hold prints to another target."""
    chosen = request.POST.get("aim", "")
    asked = Asked(station="pattern", view="target")

    def put(job: Job) -> Asked:
        offered = Prints(bridge.load(job).state).goals
        if chosen != "usual" and chosen not in {school.value for school in offered}:
            raise AxleError(
                "target",
                given=f"“{chosen[:20]}”",
                wanted=" or ".join(school.value for school in offered),
                do="Draw the maker's chart or mark the old wear on arrival first.",
            )
        work.choose(user_of(request), job, version_of(request), {"aim": chosen})
        return asked

    return change_job(request, number, asked, put)


@posts_only
def maker_chart(request: HttpRequest, number: int) -> HttpResponse:
    """Keep one flank of the gear maker's chart as drawn, or the patch in hand; or take the chart off."""
    given = request.POST.dict()
    flank = given.get("flank", "")
    asked = Asked(station="pattern", view="target")

    def put(job: Job) -> Asked:
        user, version = user_of(request), version_of(request)
        if given.get("drop"):
            prints.drop_chart(user, job, version)
            return replace(asked, notice="The maker's chart is off this job; the sheet keeps its own.")
        prints.keep_chart(user, job, version, flank, patches_from(flank, given)[0])
        return replace(asked, notice=f"The maker's chart, {flank} flank, is kept with these gears.")

    return change_job(request, number, asked, put)


def _after(asked: Asked, job: Job) -> Asked:
    """Back to the same tab while a flank is still to be marked; then on, once the pattern is right."""
    whole = job.settled is None or page.is_whole(job.settled)
    stays = asked.view in ("draw", "numbers", "words") and not whole
    return Asked(station="pattern", view=asked.view if stays else "", moves_on=whole)
