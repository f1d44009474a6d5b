"""Build sheet, job file, readings: what leaves the shop, and the job file that comes in."""

import csv
import io
import json
from typing import Any

from django.contrib import messages
from django.contrib.auth.decorators import login_not_required
from django.core.paginator import Paginator
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import redirect, render
from django.template.loader import render_to_string

from shop.bench.panels.frame import frame
from shop.config.answers import file_answer
from shop.config.cells import text_cell
from shop.jobs import chain, loading, queries
from shop.jobs.exchange import file_models, read, seal, write
from shop.jobs.formatting import layout_words
from shop.jobs.forms import ImportForm
from shop.jobs.models import Job, Reading
from shop.people.bridge import display_for
from shop.people.request import USER_ERRORS, user_of
from shop.reports import page, record_page
from shop.reports.pdf import as_pdf


def sheet(request: HttpRequest, number: int) -> HttpResponse:
    """The build sheet on screen; the sheet alone where the station of signing asks for it."""
    context = _context(request, number)
    if request.headers.get("HX-Request"):
        return render(request, "reports/partials/paper.html", context)
    return render(request, "reports/sheet.html", context | frame(context["axle"], "sheet"))


def sheet_pdf(request: HttpRequest, number: int) -> HttpResponse:
    """The build sheet as PDF."""
    pdf = as_pdf(render_to_string("reports/sheet_print.html", _context(request, number), request))
    return file_answer(pdf, "application/pdf", f"job-{number:04d}-build-sheet.pdf", shown=True)


def job_json(request: HttpRequest, number: int) -> HttpResponse:
    """The whole job as one file; with its photos where it has any, as one archive."""
    job = queries.job_of(user_of(request), number)
    if job.practice:
        messages.error(request, "A practice axle is no record: it has no job file.")
        return redirect("bench", number)
    if job.photos.exists():
        try:
            text = json.dumps(seal.sealed(job), indent=1, ensure_ascii=False).encode()
            return file_answer(write.archive(job, text), "application/zip", f"job-{number:04d}.zip")
        except USER_ERRORS as problem:
            messages.error(request, str(problem))
            return redirect("photos", number)
    answer = JsonResponse(seal.sealed(job), json_dumps_params={"indent": 1, "ensure_ascii": False})
    answer["Content-Disposition"] = f'attachment; filename="job-{number:04d}.json"'
    return answer


def record(request: HttpRequest, number: int) -> HttpResponse:
    """Everything that was written down of a job, the newest first, and whether it is as it was written."""
    user = user_of(request)
    axle = loading.load(queries.job_of(user, number), display_for(user))
    rows = Paginator(record_page.rows(axle), 60).get_page(request.GET.get("page"))
    context = {
        "job": axle.job,
        "rows": rows,
        "verdict": chain.check(axle.job),
        "signed": axle.job.state == Job.State.SIGNED,
        **frame(axle, "record"),
    }
    return render(request, "reports/record.html", context)


def readings_csv(request: HttpRequest, number: int) -> HttpResponse:
    """Every reading, struck ones too, as CSV."""
    job = queries.job_of(user_of(request), number)
    out = io.StringIO()
    table = csv.writer(out)
    table.writerow(
        [
            "assembly",
            "kind",
            "place",
            "typed",
            "unit",
            "value_core",
            "core_unit",
            "at",
            "by",
            "instrument",
            "resolution_core",
            "overdue",
            "conditions",
            "confidence",
            "struck",
            "reason",
        ]
    )
    rows = list(Reading.objects.filter(assembly__job=job).select_related("assembly").order_by("id"))
    struck = {row.strikes_id for row in rows}
    from axle.procedure.stations import kind_named

    for row in rows:
        if row.value is not None:
            table.writerow(
                [
                    row.assembly.number,
                    row.kind,
                    row.place,
                    text_cell(row.typed),
                    text_cell(row.unit),
                    row.value,
                    kind_named(row.kind).core_unit,
                    row.at.isoformat(),
                    text_cell(row.by),
                    text_cell(row.instrument),
                    row.resolution,
                    text_cell(row.overdue),
                    json.dumps(row.conditions),
                    row.confidence,
                    "yes" if row.pk in struck else "no",
                    text_cell(row.reason),
                ]
            )
    return file_answer(out.getvalue().encode(), "text/csv; charset=utf-8", f"job-{number:04d}-readings.csv")


def import_job(request: HttpRequest) -> HttpResponse:
    """Take a job file in, or refuse it whole in words."""
    sent = request.method == "POST"
    form = ImportForm(request.POST, request.FILES) if sent else ImportForm()
    if sent and form.is_valid():
        file = form.cleaned_data["file"]
        try:
            job, keeps = read.read_job(user_of(request), file, file.size)
        except USER_ERRORS as error:
            form.add_error("file", str(error))
        else:
            if not keeps:
                messages.success(request, f"Its number is taken here: it is job {job.shown_number} now.")
            return redirect("bench", job.number)
    return render(request, "reports/import.html", {"form": form}, status=422 if form.errors else 200)


@login_not_required
def job_schema(request: HttpRequest) -> HttpResponse:
    """The published schema of a job file."""
    return JsonResponse(file_models.schema(), json_dumps_params={"indent": 2, "ensure_ascii": False})


def _context(request: HttpRequest, number: int) -> dict[str, Any]:
    user = user_of(request)
    axle = loading.load(queries.job_of(user, number), display_for(user))
    return page.context(axle) | {"layout_words": layout_words(axle)}
