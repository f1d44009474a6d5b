"""Pages about jobs as a whole: the list, a new one."""

from django.core.paginator import Paginator
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render

from shop.jobs import queries
from shop.jobs.actions import opening
from shop.jobs.actions.opening import NewJob
from shop.jobs.forms import NewJobForm
from shop.people.request import user_of


def jobs(request: HttpRequest) -> HttpResponse:
    """Every job: where it stands, what is out, what is next, how long since touched."""
    search = request.GET.get("q", "")[:80]
    page = Paginator(queries.jobs_of(user_of(request), search), 25).get_page(request.GET.get("page"))
    partial = request.headers.get("HX-Request") and request.headers.get("HX-Target") == "job-list"
    template = "jobs/partials/list.html" if partial else "jobs/jobs.html"
    return render(request, template, {"page": page, "search": search})


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
