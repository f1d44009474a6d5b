"""Pages of a job's ratio: the vehicle, the sets, what is in there now, the tag; lists of the shop."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from django.contrib import messages
from django.db import transaction
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.template.loader import render_to_string
from django.utils import timezone

from axle.errors import AxleError, quoted
from axle.gearing.fits import order_questions
from axle.gearing.lines import Answered, LookedUp
from axle.road.oil import oil_wanted
from shop.config.answers import file_answer
from shop.config.table_file import LARGEST_FILE
from shop.drawing.ratio_tag import TagWords, ratio_tag
from shop.gearing.counted_page import counted_page, note_from
from shop.gearing.inputs import RatioInputs
from shop.gearing.page import ratio_page
from shop.gearing.vehicle_page import vehicle_form, words_from
from shop.jobs import loading, noted_lines, queries
from shop.jobs.actions import noting, ratio
from shop.jobs.job_axle import JobAxle
from shop.jobs.models import Job, RatioLine
from shop.people import rules
from shop.people.bridge import display_for
from shop.people.hours import currency_of
from shop.people.request import USER_ERRORS, user_of, whole_number
from shop.people.rules import Right, shop_of
from shop.reports.pdf import as_pdf
from shop.stock import gear_sets
from shop.stock.models import GearOffer, Supplier
from shop.vehicles import services as vehicles
from shop.vehicles.models import Vehicle
from shop.worksheets.page import entry_in, version_in, worksheet


def ratio_of_job(request: HttpRequest, number: int) -> HttpResponse:
    """Sets side by side; the choice, the customer's answer, what is looked up before it is ordered."""

    def act(job: Job, given: Mapping[str, str]) -> str:
        acts = {"choose": _choose, "answer": _answer, "look_up": _look_up}
        name = given.get("do", "")
        if name not in acts:
            raise AxleError("act", given=quoted(name, 20), wanted="one of the page's buttons")
        return acts[name](request, job, given)

    return worksheet(
        request, number, name="ratio", template="gearing/ratio.html", gather=ratio_page, act=act
    )


def _choose(request: HttpRequest, job: Job, given: Mapping[str, str]) -> str:
    user = user_of(request)
    found = RatioInputs(loading.load(job, display_for(user)))
    one = found.find(given.get("set", ""))
    if one is None:
        raise AxleError("set", given=quoted(given.get("set", ""), 20), wanted="one of the list")
    best = found.recommended.best.offer if found.recommended else None
    reasons = found.recommended.reasons if found.recommended and best == one.offer else ()
    reasons = reasons or tuple(point.words for point in one.drawbacks)
    ratio.choose_set(
        user, job, version_in(given), one, entry_in(given), reasons=reasons, old_ratio=found.old_ratio
    )
    return f"{one.offer.name} is chosen: sheet, steps and parts follow it. Ask the customer now."


def _answer(request: HttpRequest, job: Job, given: Mapping[str, str]) -> str:
    name = " ".join(given.get("who", "").split())[:120]
    if len(name) < 2:
        raise AxleError("customer", given=quoted(name), wanted="the name of who answered")
    agreed = given.get("agreed") == "yes"
    answer = Answered(agreed, name, given.get("how", "").strip()[:120])
    ratio.answer_set(user_of(request), job, version_in(given), answer, entry_in(given))
    return f"{name} said {'yes' if agreed else 'no'}."


def _look_up(request: HttpRequest, job: Job, given: Mapping[str, str]) -> str:
    answers = {
        name: text.strip()
        for name in order_questions()
        if (text := given.get(f"q-{name}", "")).strip() != noted_lines.ratio_of(job).answers.get(name, "")
    }
    if not answers:
        raise AxleError("order", given="nothing new", wanted="one answer or more")
    ratio.note_ratio(
        user_of(request), job, version_in(given), "looked_up", LookedUp(answers), entry_in(given)
    )
    return "Kept."


def vehicle_of_job(request: HttpRequest, number: int) -> HttpResponse:
    """The vehicle around the axle: chosen from the shop's, or described."""

    def act(job: Job, given: Mapping[str, str]) -> str:
        user = user_of(request)
        end = given.get("end", job.vehicle_end)
        if given.get("do") == "pick":
            chosen = whole_number(given.get("vehicle") or "0", "vehicle")
            row = vehicles.vehicle_of(user, chosen) if chosen else None
            ratio.link_vehicle(user, job, version_in(given), row, end)
            return (
                f"This axle is the {end} one of {row}." if row else "This axle belongs to no vehicle now."
            )
        held = job.vehicle if given.get("held") else None
        seen = whole_number(given.get("vehicle_version") or "0", "version of the vehicle")
        # Both or neither: a page that is behind leaves no vehicle whose name is then taken.
        with transaction.atomic():
            row = vehicles.keep(user, words_from(given), held.pk if held else None, seen)
            ratio.link_vehicle(user, job, version_in(given), row, end)
        return f"{row} is kept; every job on it reads the same."

    def gather(axle: JobAxle, query: Mapping[str, str]) -> dict[str, Any]:
        typed = request.POST.dict() if request.method == "POST" and request.POST.get("do") == "keep" else {}
        held = axle.job.vehicle if "new" not in query else None
        return {
            "vehicle": held,
            "vehicles": list(Vehicle.objects.of(axle.job.shop)),
            "form": vehicle_form(held, typed),
            "new": held is None,
        }

    return worksheet(
        request, number, name="vehicle", template="gearing/vehicle.html", gather=gather, act=act
    )


def counted(request: HttpRequest, number: int) -> HttpResponse:
    """What is in there now: from counted turns, from teeth, from a tag."""

    def act(job: Job, given: Mapping[str, str]) -> str:
        user = user_of(request)
        if given.get("do") == "strike":
            line = whole_number(given.get("line"), "line")
            reason = given.get("reason", "")
            noting.strike(RatioLine, user, job, version_in(given), line, reason, entry_in(given))
            return "Struck: it stays to be seen, and counts no more."
        if given.get("do") not in ("counted", "teeth", "tag"):
            raise AxleError(
                "act", given=quoted(given.get("do", ""), 20), wanted="one of the page's buttons"
            )
        differential = loading.load(job).plan.facts["differential"]
        kind, note = note_from(given, differential)
        ratio.note_ratio(user, job, version_in(given), kind, note, entry_in(given))
        return "Written down."

    return worksheet(
        request, number, name="counted", template="gearing/counted.html", gather=counted_page, act=act
    )


def ratio_pdf(request: HttpRequest, number: int) -> HttpResponse:
    """The sets side by side, for the customer."""
    user = user_of(request)
    axle = loading.load(queries.job_of(user, number), display_for(user))
    text = render_to_string(
        "gearing/ratio_print.html",
        {**ratio_page(axle, request.GET.dict()), "job": axle.job, "today": timezone.localdate()},
        request,
    )
    return file_answer(
        as_pdf(text), "application/pdf", f"job-{axle.job.shown_number}-ratio.pdf", shown=True
    )


def tag(request: HttpRequest, number: int) -> HttpResponse:
    """The ratio tag, to print or to stamp after."""
    user = user_of(request)
    axle = loading.load(queries.job_of(user, number), display_for(user))
    text = render_to_string(
        "gearing/tag_print.html",
        {"job": axle.job, "tag": tag_drawing(axle), "today": timezone.localdate()},
        request,
    )
    return file_answer(as_pdf(text), "application/pdf", f"job-{axle.job.shown_number}-tag.pdf", shown=True)


def tag_drawing(axle: JobAxle) -> Any:
    """The tag of a job: the teeth it is built with, its day, its oil."""
    gears, facts = axle.spec.gears, axle.plan.facts
    filled = noted_lines.road_of(axle.job).oil
    oil = filled.grade if filled else oil_wanted(facts["use"], facts["differential"]).grade
    if filled and filled.additive:
        oil = f"{oil}, {filled.additive}"
    today = timezone.localdate()
    return ratio_tag(
        TagWords(
            f"{gears.ring_teeth}/{gears.pinion_teeth}",
            f"{gears.ratio:.2f}",
            f"{today.day} {today:%b %Y}",
            f"job {axle.job.shown_number}",
            oil,
        )
    )


def sets(request: HttpRequest) -> HttpResponse:
    """The gear sets that the shop can get: one by one, and as a table in."""
    user = user_of(request)
    error = ""
    if request.method == "POST":
        try:
            messages.success(request, _change_sets(request))
            return redirect("gear-sets")
        except USER_ERRORS as problem:
            error = str(problem)
    shop = shop_of(user)
    rows = GearOffer.objects.of(shop).select_related("supplier")
    return render(
        request,
        "gearing/sets.html",
        {
            "error": error,
            "typed": request.POST.dict() if error else {},
            "rows": [(row, gear_sets.as_offer(row)) for row in rows],
            "suppliers": list(Supplier.objects.of(shop).filter(retired=False)),
            "columns": ", ".join(gear_sets.COLUMNS),
            "currency": currency_of(shop),
            "may_order": rules.may(user, Right.ORDER),
        },
        status=422 if error else 200,
    )


def _change_sets(request: HttpRequest) -> str:
    user, given = user_of(request), request.POST.dict()
    if given.get("off"):
        gear_sets.drop(user, whole_number(given["off"], "set"))
        return "It is off the list."
    if given.get("do") == "table":
        file = request.FILES.get("file")
        if file is None:
            raise AxleError("table of gear sets", given="no file", wanted="a CSV file")
        count = gear_sets.take_in(user, file.read(LARGEST_FILE + 1))
        return f"{count} set{'' if count == 1 else 's'} taken in."
    row = gear_sets.keep(user, given)
    return f"{gear_sets.as_offer(row).name} is on the list."


def sets_csv(request: HttpRequest) -> HttpResponse:
    """The list as CSV."""
    name = f"gear-sets-{timezone.localdate():%Y-%m-%d}.csv"
    return file_answer(gear_sets.as_table(user_of(request).shop), "text/csv; charset=utf-8", name)


def all_vehicles(request: HttpRequest) -> HttpResponse:
    """The vehicles that the shop knows, with their jobs."""
    shop = shop_of(user_of(request))
    rows = Vehicle.objects.of(shop).prefetch_related("jobs")
    return render(request, "gearing/vehicles.html", {"vehicles": rows})
