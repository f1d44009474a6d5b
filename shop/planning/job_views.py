"""Pages of one job: its parts, its estimate and account, its promise."""

from __future__ import annotations

import csv
import io
from collections.abc import Mapping
from decimal import Decimal, InvalidOperation
from typing import Any

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.template.loader import render_to_string
from django.utils import timezone

from axle.errors import AxleError
from axle.gearing.both_ends import ratio_match
from axle.ledger.sums import parse_amount
from axle.procedure.steps import step_named
from shop.config.answers import file_answer
from shop.config.cells import text_cell
from shop.jobs import loading, queries
from shop.jobs.actions import money as money_actions
from shop.jobs.actions import part_lines
from shop.jobs.actions.money import Offer
from shop.jobs.actions.part_lines import NewLine
from shop.jobs.job_axle import JobAxle
from shop.jobs.models import Job, MoneySheet, PartLine
from shop.people import rules
from shop.people.bridge import display_for
from shop.people.hours import currency_of, terms_of
from shop.people.models import User
from shop.people.request import USER_ERRORS, day_in, one_of, user_of, whole_number
from shop.people.rules import Right
from shop.planning import calendars, draft
from shop.planning import plan as plans
from shop.planning.board import PlanPage
from shop.planning.parts_page import missing_tools, parts_page, shims_wanted
from shop.reports.pdf import as_pdf
from shop.stock.models import Supplier
from shop.worksheets.page import entry_in, version_in, worksheet


def parts_list(request: HttpRequest, number: int) -> HttpResponse:
    """What a job wants, why, from whom, and where it stands."""

    def act(job: Job, given: Mapping[str, str]) -> str:
        user = user_of(request)
        acts = {"draw": _draw, "add": _add, "line": _change, "spoil": _spoil, "missing": _missing}
        name = given.get("do", "")
        if name not in acts:
            raise AxleError("act", given=f"“{name[:20]}”", wanted="one of the page's buttons")
        return acts[name](user, job, given)

    return worksheet(
        request, number, name="parts-list", template="planning/parts.html", gather=parts_page, act=act
    )


def _draw(user: User, job: Job, given: Mapping[str, str]) -> str:
    names = [name.removeprefix("part-") for name in given if name.startswith("part-")]
    if not names:
        raise AxleError("bill of parts", given="no line ticked", wanted="one line or more")
    count = part_lines.draw_up(user, job, version_in(given), names)
    return f"{count} lines are on the list."


def _add(user: User, job: Job, given: Mapping[str, str]) -> str:
    line = NewLine(
        given.get("words", ""),
        one_of(PartLine.Kind, given.get("kind") or PartLine.Kind.PART, "kind"),
        quantity=quantity_in(given.get("quantity") or "1", "quantity"),
        why=given.get("why", ""),
        owner=one_of(PartLine.Owner, given.get("owner") or PartLine.Owner.SHOP, "owner"),
        supplier=_supplier(user, given.get("supplier")),
        price=_amount(given.get("price"), "price"),
    )
    row = part_lines.add_line(user, job, version_in(given), line, entry_in(given))
    return f"{row.words} is on the list."


def _change(user: User, job: Job, given: Mapping[str, str]) -> str:
    fields: dict[str, object] = {}
    if given.get("state"):
        fields["state"] = one_of(PartLine.State, given["state"], "state")
    if given.get("details"):
        fields["quantity"] = quantity_in(given.get("quantity", ""), "quantity")
        fields["owner"] = one_of(PartLine.Owner, given.get("owner") or PartLine.Owner.SHOP, "owner")
        fields["claim"] = given.get("claim", "").strip()[:200]
        fields["claim_settled"] = given.get("claim_settled", "").strip()[:200]
        if rules.may(user, Right.ORDER):
            fields["supplier"] = _supplier(user, given.get("supplier"))
            fields["price"] = _amount(given.get("price"), "price")
            fields["charge"] = _amount(given.get("charge"), "price to the customer")
            fields["credit"] = _amount(given.get("credit"), "credit") or Decimal(0)
    row = part_lines.change_line(
        user, job, version_in(given), whole_number(given.get("line"), "line"), fields
    )
    return f"{row.words}: {row.get_state_display()}."


def _spoil(user: User, job: Job, given: Mapping[str, str]) -> str:
    row = part_lines.spoil(
        user,
        job,
        version_in(given),
        whole_number(given.get("line"), "line"),
        given.get("reason", ""),
        entry_in(given),
    )
    return f"{row.words}: spoilt, and a new one is needed."


def _missing(user: User, job: Job, given: Mapping[str, str]) -> str:
    """Sizes that the drawer could not make, and tools marked missing, become lines with one press."""
    axle = loading.load(job, display_for(user))
    lines = list(job.part_lines.all())
    held = {(line.family, line.size) for line in lines}
    new = [
        NewLine(
            f"{shim['family'].label.capitalize()} shim, {shim['size'].normalize():f} mm",
            PartLine.Kind.SHIM,
            quantity=Decimal(2),
            why="a pack that may be wanted cannot be made without it",
            family=shim["family"].value,
            size=shim["size"],
        )
        for shim in shims_wanted(axle)
        if (shim["family"].value, shim["size"]) not in held
    ]
    new += [
        NewLine(
            title, PartLine.Kind.TOOL, part=f"tool-{tool}"[:30], why="marked missing on the list of tools"
        )
        for tool, title in missing_tools(axle, lines)
    ]
    if not new:
        raise AxleError("what is missing", given="nothing", wanted="a size to buy or a tool marked missing")
    count = part_lines.add_lines(user, job, version_in(given), new)
    return f"{count} lines are on the list."


def quantity_in(text: str, what: str) -> Decimal:
    """A quantity of a form."""
    try:
        value = Decimal(text.strip().replace(",", "."))
    except InvalidOperation:
        value = Decimal("NaN")
    if not value.is_finite() or value <= 0 or value > part_lines.MOST:
        raise AxleError(what, given=f"“{text[:16]}”", wanted=f"more than 0, to {part_lines.MOST}")
    return value.quantize(Decimal("0.01"))


def _amount(text: str | None, what: str) -> Decimal | None:
    return parse_amount(text, what) if text and text.strip() else None


def _supplier(user: User, text: str | None) -> Supplier | None:
    if not text:
        return None
    row: Supplier | None = (
        Supplier.objects.of(user.shop).filter(pk=whole_number(text, "supplier"), retired=False).first()
    )
    if row is None:
        raise AxleError("supplier", given="one that is not this shop's", wanted="one of the list")
    return row


def money(request: HttpRequest, number: int) -> HttpResponse:
    """Promise, estimate, supplements, account: what was said, what was agreed, what is due."""

    def act(job: Job, given: Mapping[str, str]) -> str:
        user = user_of(request)
        acts = {
            "promise": _promise,
            "estimate": _estimate,
            "supplement": _supplement,
            "account": _account,
            "answer": _answer,
            "payment": _payment,
        }
        name = given.get("do", "")
        if name not in acts:
            raise AxleError("act", given=f"“{name[:20]}”", wanted="one of the page's buttons")
        return acts[name](user, job, given)

    return worksheet(
        request, number, name="money", template="planning/money.html", gather=money_page, act=act
    )


def money_page(axle: JobAxle, query: Mapping[str, str]) -> dict[str, Any]:
    """Everything that the page of a job's money shows."""
    job = axle.job
    shop = job.shop
    assert shop is not None
    sheets = list(job.money_sheets.prefetch_related("answers").order_by("id"))
    hours, by_group = draft.compared(job)
    projected = plans.projected(shop) if not job.practice and job.state == Job.State.OPEN else None
    promise = None
    if projected is not None:
        shown = PlanPage(projected, projected.inputs.clock.monday)
        promise = next((row for row in shown.promises() if row.job.pk == job.pk), None)
    return {
        "draft": draft.estimate(job) if job.state == Job.State.OPEN else None,
        "final": draft.account(job, None),
        "worked": draft.hours_worked(job),
        "sheets": [{"sheet": sheet, "answer": sheet.answers.last()} for sheet in sheets],
        "payments": list(job.payments.order_by("id")),
        "hours": hours,
        "groups": by_group,
        "assemblies": job.summary.get("hours", {}).items(),
        "promise": promise,
        "vehicle": [
            {"job": other, "match": ratio_match(axle.spec.gears.ratio, loading.spec_of(other).gears.ratio)}
            for other in money_actions.vehicle_of(job)
            if other.pk != job.pk
        ],
        "promise_at": terms_of(shop).promise_at,
        "terms": terms_of(shop),
        "currency": currency_of(shop),
        "open_steps": [(s.step.step, s.step.title) for s in axle.progress if not s.is_passed],
        "today": timezone.localdate(),
    }


def _promise(user: User, job: Job, given: Mapping[str, str]) -> str:
    day = given.get("day", "").strip()
    promised = day_in(day, "promise") if day else None
    partner = given.get("belongs_to", "").strip()
    money_actions.promise(
        user,
        job,
        version_in(given),
        promised,
        whole_number(given.get("urgency") or "1", "urgency"),
        whole_number(partner, "job that shares the vehicle", 1) if partner else None,
    )
    return f"Promised for {promised:%a %-d %b}." if promised else "Nothing is promised any more."


def _estimate(user: User, job: Job, given: Mapping[str, str]) -> str:
    found = draft.estimate(job)
    assert found.hours is not None
    hours = (found.hours.low, found.hours.median, found.hours.high)
    words = given.get("words", "")
    sheet = _issue(user, job, given, MoneySheet.Kind.ESTIMATE, found, hours=hours, words=words)
    return f"Estimate {sheet.number} is written."


def _supplement(user: User, job: Job, given: Mapping[str, str]) -> str:
    words = given.get("words", "").strip()
    if len(words) < 4:
        raise AxleError("supplement", given=f"“{words}”", wanted="what was found and what it needs")
    hours = given.get("hours", "").strip()
    found = draft.supplement(
        job,
        words[:120],
        quantity_in(given.get("quantity") or "1", "quantity"),
        _amount(given.get("price"), "price"),
        quantity_in(hours, "hours") if hours and hours.strip("0.,") else Decimal(0),
    )
    step = given.get("step", "")
    if step:
        step_named(step)
    sheet = _issue(user, job, given, MoneySheet.Kind.SUPPLEMENT, found, words=words, step=step)
    return f"Supplement {sheet.number} is written; its step opens once it is answered."


def _account(user: User, job: Job, given: Mapping[str, str]) -> str:
    hours = given.get("hours", "").strip()
    found = draft.account(job, quantity_in(hours, "hours") if hours else None)
    words = given.get("words", "")
    sheet = _issue(user, job, given, MoneySheet.Kind.ACCOUNT, found, words=words)
    return f"Account {sheet.number} is written."


def _issue(
    user: User,
    job: Job,
    given: Mapping[str, str],
    kind: str,
    found: draft.Draft,
    *,
    hours: tuple[float, ...] = (),
    words: str = "",
    step: str = "",
) -> MoneySheet:
    """Write a draft as it stands."""
    assert job.shop is not None
    tax = terms_of(job.shop).tax
    offer = Offer(kind, found.lines, found.totals, tax=tax, hours=hours, words=words, step=step)
    return money_actions.issue(user, job, version_in(given), offer, entry_in(given))


def _answer(user: User, job: Job, given: Mapping[str, str]) -> str:
    row = money_actions.answer(
        user,
        job,
        version_in(given),
        whole_number(given.get("sheet"), "sheet"),
        given.get("agreed") == "yes",
        given.get("who", ""),
        given.get("how", ""),
        entry_in(given),
    )
    return f"{row.name} said {'yes' if row.agreed else 'no'}."


def _payment(user: User, job: Job, given: Mapping[str, str]) -> str:
    amount = parse_amount(given.get("amount", ""), "payment", below_zero=True)
    money_actions.pay(user, job, version_in(given), amount, given.get("words", ""), entry_in(given))
    return "The payment is taken down."


def money_pdf(request: HttpRequest, number: int, paper_id: int) -> HttpResponse:
    """An estimate, a supplement or an account on paper."""
    job, sheet = _sheet(request, number, paper_id)
    assert job.shop is not None
    text = render_to_string(
        "planning/money_print.html",
        {
            "job": job,
            "sheet": sheet,
            "currency": currency_of(job.shop),
            "answer": sheet.answers.last(),
            "terms": terms_of(job.shop),
        },
        request,
    )
    name = f"job-{job.shown_number}-{sheet.kind}-{sheet.number}.pdf"
    return file_answer(as_pdf(text), "application/pdf", name, shown=True)


def money_csv(request: HttpRequest, number: int, paper_id: int) -> HttpResponse:
    """The lines of an estimate, a supplement or an account as a table."""
    job, sheet = _sheet(request, number, paper_id)
    out = io.StringIO()
    table = csv.writer(out)
    table.writerow(
        ["job", "sheet", "number", "group", "words", "quantity", "unit", "price", "amount", "currency"]
    )
    for line in sheet.lines:
        table.writerow(
            [
                job.shown_number,
                sheet.kind,
                sheet.number,
                line["group"],
                text_cell(line["words"]),
                line["quantity"],
                line["unit"],
                line["price"],
                line["amount"],
                sheet.currency,
            ]
        )
    for name in ("net", "tax", "gross"):
        table.writerow(
            [job.shown_number, sheet.kind, sheet.number, "sum", name, "", "", "", sheet.totals[name]]
        )
    name = f"job-{job.shown_number}-{sheet.kind}-{sheet.number}.csv"
    return file_answer(out.getvalue(), "text/csv; charset=utf-8", name)


def _sheet(request: HttpRequest, number: int, paper_id: int) -> tuple[Job, MoneySheet]:
    job = queries.job_of(user_of(request), number)
    sheet = MoneySheet.objects.filter(job=job, pk=paper_id).first()
    if sheet is None:
        raise Http404("There is no such sheet of this job.")
    return job, sheet


def job_event(request: HttpRequest, number: int) -> HttpResponse:
    """A job's promise as a calendar file."""
    job = queries.job_of(user_of(request), number)
    try:
        return calendars.as_file(calendars.job_calendar(job, request), f"job-{job.shown_number}.ics")
    except USER_ERRORS as problem:
        messages.error(request, str(problem))
        return redirect("money", number)
