"""Pages about jobs as a whole: the list, a new one."""

from typing import Final

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render

from shop.jobs import listing, queries
from shop.jobs.actions import opening
from shop.jobs.actions.opening import NewJob
from shop.jobs.forms import NewJobForm
from shop.people.request import plain_number, user_of

_LONGEST: Final = 80


def jobs(request: HttpRequest) -> HttpResponse:
    """Jobs: their ladder, what is next, when they are promised, who was last at them."""
    search = request.GET.get("q", "")[:_LONGEST]
    context = listing.context(
        user_of(request), search, request.GET.get("show", ""), plain_number(request.GET.get("page"), 1)
    )
    partial = request.headers.get("HX-Request") and request.headers.get("HX-Target") == "job-list"
    template = "jobs/partials/list.html" if partial else "jobs/jobs.html"
    return render(request, template, context)


def switch(request: HttpRequest) -> HttpResponse:
    """The open jobs that a bench switches between."""
    return render(request, "jobs/partials/switch.html", {"jobs": queries.open_jobs(user_of(request))})


def begin(request: HttpRequest) -> HttpResponse:
    """What a new shop puts in first; each line ticks itself."""
    rows = queries.first_things(user_of(request))
    first_open = next((row for row in rows if not row["done"]), None)
    for row in rows:
        row["next"] = row is first_open
    context = {"rows": rows, "all_done": first_open is None}
    return render(request, "jobs/begin.html", context)


def new_job(request: HttpRequest) -> HttpResponse:
    """Open a job from a sheet."""
    user = user_of(request)
    form = NewJobForm(user, request.POST or None)
    if request.method == "POST" and form.is_valid():
        given = form.cleaned_data
        job = opening.open_job(
            user,
            given["sheet"],
            NewJob(
                title=given["title"],
                customer=given["customer"],
                complaint=given["complaint"],
                arrived_on=given["arrived_on"],
                promised_on=given["promised_on"],
                new_bearings=given["bearings"] == "new",
                mark=given["mark"],
                mark_convention=given["mark_convention"],
                scope=given["scope"],
            ),
        )
        return redirect("bench", job.number)
    return render(request, "jobs/new.html", {"form": form}, status=422 if form.errors else 200)
