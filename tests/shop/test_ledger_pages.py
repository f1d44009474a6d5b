"""A job's parts and money from the pages, orders over all jobs, and what a job file carries of them."""

from __future__ import annotations

import io
import json
import uuid
from datetime import timedelta
from decimal import Decimal

import pytest
from django.db import DatabaseError, transaction
from django.test import Client
from django.utils import timezone

from shop.jobs import chain, loading
from shop.jobs.actions import part_lines
from shop.jobs.exchange import read, seal
from shop.jobs.models import CustomerAnswer, Delivery, Job, MoneySheet, Order, PartLine, Payment
from shop.people.rules import Rejected
from shop.stock.models import PriceLine, ShimLot, Supplier
from tests.shop.conftest import entry, open_van_job, post, words


def test_the_bill_is_put_on_the_list_once(pages, van):
    page = words(pages.get(f"/jobs/{van.number}/parts"))
    assert "Pinion seal" in page
    assert "a seal is single use" in page
    post(pages, van, "parts", do="draw", **{"part-pinion_seal": "on", "part-oil": "on"})
    post(pages, van, "parts", do="draw", **{"part-pinion_seal": "on", "part-sealant": "on"})
    names = sorted(van.part_lines.values_list("part", flat=True))
    assert names == ["oil", "pinion_seal", "sealant"]
    seal_line = van.part_lines.get(part="pinion_seal")
    assert (seal_line.state, seal_line.price) == ("needed", Decimal("12.60"))


@pytest.mark.parametrize(
    ("given", "said"),
    [
        ({"do": "draw"}, "no line ticked"),
        ({"do": "draw", "part-gold": "on"}, "lines of this job's bill"),
        ({"do": "add", "words": ""}, "in general terms"),
        ({"do": "add", "words": "rag", "quantity": "-2"}, "more than 0"),
        ({"do": "add", "words": "rag", "quantity": "1e9"}, "more than 0"),
        ({"do": "add", "words": "rag", "price": "-3"}, "0 to"),
        ({"do": "add", "words": "rag", "kind": "magic"}, "part"),
        ({"do": "add", "words": "rag", "supplier": "999999"}, "one of the list"),
        ({"do": "line", "line": "999999", "state": "here"}, "not on this job's list"),
        ({"do": "nothing"}, "one of the page's buttons"),
    ],
)
def test_bad_input_on_the_parts_list_is_answered_in_words(pages, van, given, said):
    answer = post(pages, van, "parts", **given)
    assert answer.status_code == 422
    assert said in words(answer)
    assert not van.part_lines.exists()


def test_an_order_spans_jobs_and_a_delivery_is_taken_in_once(pages, owner, van):
    other = open_van_job(owner)
    for job in (van, other):
        post(pages, job, "parts", do="add", words="Pinion seal", quantity="2")
    lines = PartLine.objects.filter(job__in=(van, other))
    supplier = Supplier.objects.of(owner.shop).first()
    due = timezone.localdate() + timedelta(days=2)
    given = {
        "line": [line.pk for line in lines],
        "supplier": supplier.pk,
        "due": str(due),
        "entry": entry(),
    }
    pages.post("/orders/place", given)
    pages.post("/orders/place", given)
    order = Order.objects.of(owner.shop).first()
    assert Order.objects.of(owner.shop).filter(entry=given["entry"]).count() == 1
    assert set(order.lines.values_list("job", flat=True)) == {van.pk, other.pk}
    line = lines[0]
    once = entry()
    for _ in range(2):
        pages.post(f"/orders/lines/{line.pk}", {"quantity": "1", "entry": once})
    line.refresh_from_db()
    assert (line.received, line.state, Delivery.objects.filter(line=line).count()) == (1, "on its way", 1)
    answer = pages.post(f"/orders/lines/{line.pk}", {"quantity": "2", "entry": entry()})
    assert answer.status_code == 422
    assert "2 ordered, 1 here already" in words(answer)
    pages.post(f"/orders/lines/{line.pk}", {"quantity": "1", "entry": entry()})
    line.refresh_from_db()
    assert line.state == "here"
    assert "nothing more of it is awaited" in words(
        pages.post(f"/orders/lines/{line.pk}", {"quantity": "1", "entry": entry()})
    )
    assert "nothing more" not in words(pages.get("/orders"))


@pytest.mark.parametrize(
    ("given", "said"),
    [
        ({"line": []}, "lines are gone"),
        ({"due": "tomorrow"}, "a day, as"),
        ({"due": "2020-01-01"}, "today or a later day"),
        ({"supplier": "999999"}, "not one of this shop's"),
        ({"entry": "none"}, "entry"),
    ],
)
def test_a_bad_order_is_refused_in_words(pages, owner, van, given, said):
    post(pages, van, "parts", do="add", words="Pinion seal")
    usual = {
        "line": [van.part_lines.get().pk],
        "supplier": Supplier.objects.of(owner.shop).first().pk,
        "due": str(timezone.localdate()),
        "entry": entry(),
    }
    answer = pages.post("/orders/place", usual | given)
    assert answer.status_code == 422
    assert said in words(answer)
    assert van.part_lines.get().state == "needed"


def test_delivered_shims_go_into_the_drawer_as_they_are_miced(pages, owner, van):
    row = part_lines.add_line(
        owner,
        van,
        van.version,
        part_lines.NewLine(
            "Depth shim, 0.8 mm", "shim", quantity=Decimal(3), family="depth", size=Decimal("0.8")
        ),
        uuid.uuid4(),
    )
    supplier = Supplier.objects.of(owner.shop).first()
    part_lines.place_order(owner, [row.pk], supplier.pk, timezone.localdate(), uuid.uuid4())
    pages.post(f"/orders/lines/{row.pk}", {"quantity": "3", "miced": "31.6 31.4", "entry": entry()})
    lot = ShimLot.objects.of(owner.shop).filter(family="depth", miced=Decimal("0.80010")).first()
    assert lot is not None, "the mean of both readings, 31.5 thou"
    assert lot.quantity == 3


def test_a_part_on_order_holds_its_step_in_words_until_it_is_here(pages, owner, van):
    post(pages, van, "parts", do="draw", **{"part-pinion_seal": "on"})
    line = van.part_lines.get()
    due = timezone.localdate() + timedelta(days=3)
    part_lines.place_order(owner, [line.pk], Supplier.objects.of(owner.shop)[0].pk, due, uuid.uuid4())
    van.refresh_from_db()
    held = {s.step.step: s.held for s in loading.load(van).progress if s.held}
    seal_steps = [name for name, lines in held.items() if any("pinion seal" in text for text in lines)]
    assert seal_steps
    part_lines.receive(owner, line.pk, Decimal(1), uuid.uuid4())
    van.refresh_from_db()
    after = {s.step.step: s.held for s in loading.load(van).progress}
    assert not any("pinion seal" in text for name in seal_steps for text in after[name])


def test_what_was_spoilt_is_needed_again_and_what_came_wrong_is_claimed(pages, van):
    post(pages, van, "parts", do="add", words="Collapsible sleeve", price="7.40")
    line = van.part_lines.get()
    post(pages, van, "parts", do="line", line=line.pk, state="here")
    post(pages, van, "parts", do="spoil", line=line.pk, reason="one bite too many")
    kinds = list(van.part_lines.order_by("id").values_list("kind", "state"))
    assert kinds == [("wasted", "here"), ("part", "needed")]
    new = van.part_lines.last()
    post(
        pages,
        van,
        "parts",
        do="line",
        line=new.pk,
        details="1",
        quantity="1",
        owner="shop",
        price="7.40",
        claim="too short",
        claim_settled="credited",
        credit="7.40",
    )
    new.refresh_from_db()
    assert (new.claim, new.credit) == ("too short", Decimal("7.40"))
    assert "too short" in words(pages.get(f"/jobs/{van.number}/parts"))


def test_suppliers_and_prices_are_rows_of_the_shop(pages, owner):
    pages.post("/orders/suppliers", {"name": "Ridge bearings", "days": "2"})
    row = Supplier.objects.of(owner.shop).get(name="Ridge bearings")
    pages.post(f"/orders/suppliers/{row.pk}/prices", {"part": "sleeve", "price": "6,90"})
    assert PriceLine.objects.get(supplier=row).price == Decimal("6.90")
    for given, said in (
        ({"name": "Ridge bearings", "days": "2"}, "not on the list yet"),
        ({"name": "X", "days": "2"}, "two letters"),
        ({"name": "Other", "days": "soon"}, "0 to 365"),
    ):
        answer = pages.post("/orders/suppliers", given)
        assert answer.status_code == 422
        assert said in words(answer)
    for given, said in (
        ({"part": "sleeve", "price": "-1"}, "0 to"),
        ({"part": "gold", "price": "1"}, "a part of the list"),
        ({"part": "", "price": "1"}, "one part, or the parts"),
        ({"part": "", "holds": ["sleeve"], "price": "1"}, "two parts or more"),
    ):
        answer = pages.post(f"/orders/suppliers/{row.pk}/prices", given)
        assert answer.status_code == 422
        assert said in words(answer)


def test_an_estimate_is_written_agreed_and_never_changed(pages, van):
    post(pages, van, "parts", do="draw", **{"part-pinion_seal": "on"})
    page = words(pages.get(f"/jobs/{van.number}/money"))
    assert "hours of work are left, 8 times in 10 between" in page
    post(pages, van, "money", do="estimate", words="Shafts")
    sheet = van.money_sheets.get()
    totals = {name: Decimal(sheet.totals[name]) for name in ("net", "tax", "gross", "least", "most")}
    assert totals["net"] == sum(Decimal(line["amount"]) for line in sheet.lines)
    assert totals["gross"] == totals["net"] + totals["tax"]
    assert totals["least"] < totals["gross"] < totals["most"]
    post(
        pages, van, "money", do="answer", sheet=sheet.pk, agreed="yes", who="Works yard", how="by telephone"
    )
    answer = CustomerAnswer.objects.get(job=van)
    assert (answer.agreed, answer.name) == (True, "Works yard")
    for model in (MoneySheet, CustomerAnswer):
        with pytest.raises(DatabaseError), transaction.atomic():
            model.objects.filter(job=van).update(at=timezone.now())
    assert chain.check(van).holds


def test_a_supplement_holds_its_step_until_it_is_answered(pages, van):
    post(
        pages,
        van,
        "money",
        do="supplement",
        words="Cracked cap found, a new one bored in",
        price="95",
        hours="1.5",
        step="final-torque",
    )
    sheet = van.money_sheets.get(kind="supplement")
    assert len(sheet.lines) == 2
    van.refresh_from_db()
    step = next(s for s in loading.load(van).progress if s.step.step == "final-torque")
    assert any("supplement 1" in line for line in step.held)
    post(pages, van, "money", do="answer", sheet=sheet.pk, agreed="no", who="Works yard")
    van.refresh_from_db()
    step = next(s for s in loading.load(van).progress if s.step.step == "final-torque")
    assert not any("supplement" in line for line in step.held)


def test_an_account_is_parts_that_came_hours_and_less_what_was_paid(pages, van):
    """By hand, with the demo's terms: 2 h at 72.00, 3 % small things 4.32, a seal at 12.60 and 22 % 15.37;
    net 163.69, tax 20 % 32.74, gross 196.43; 60.00 paid, 136.43 due."""
    post(pages, van, "parts", do="draw", **{"part-pinion_seal": "on"})
    line = van.part_lines.get()
    post(pages, van, "parts", do="line", line=line.pk, state="here")
    post(pages, van, "money", do="payment", amount="60", words="deposit")
    post(pages, van, "money", do="account", hours="2")
    sheet = van.money_sheets.get(kind="account")
    assert [sheet.totals[name] for name in ("net", "tax", "gross", "due")] == [
        "163.69",
        "32.74",
        "196.43",
        "136.43",
    ]
    pdf = pages.get(f"/jobs/{van.number}/money/{sheet.pk}.pdf")
    assert pdf.content.startswith(b"%PDF")
    table = pages.get(f"/jobs/{van.number}/money/{sheet.pk}.csv").content.decode().splitlines()
    assert table[0].startswith("job,sheet,number,group")
    assert table[-1].endswith("196.43")
    assert pages.get(f"/jobs/412/money/{sheet.pk}.pdf").status_code == 404


@pytest.mark.parametrize(
    ("given", "said"),
    [
        ({"do": "promise", "day": "2020-01-01"}, "today or a later day"),
        ({"do": "promise", "day": "soon"}, "a day, as"),
        ({"do": "promise", "urgency": "9"}, "usual"),
        ({"do": "promise", "belongs_to": "99999"}, "no other job"),
        ({"do": "supplement", "words": "x"}, "what was found"),
        ({"do": "supplement", "words": "A crack in the cap", "price": "-1"}, "0 to"),
        ({"do": "supplement", "words": "A crack in the cap"}, "one line or more"),
        ({"do": "payment", "amount": "0"}, "an amount"),
        ({"do": "payment", "amount": "lots"}, "an amount"),
        ({"do": "answer", "sheet": "999999", "who": "Works yard"}, "not an estimate"),
        ({"do": "account", "hours": "minus"}, "more than 0"),
        ({"do": "nothing"}, "one of the page's buttons"),
    ],
)
def test_bad_input_on_the_money_page_is_answered_in_words(pages, van, given, said):
    answer = post(pages, van, "money", **given)
    assert answer.status_code == 422
    assert said in words(answer)
    assert not van.money_sheets.exists()
    assert not van.payments.exists()


def test_an_apprentice_puts_parts_on_the_list_and_no_price(apprentice, van):
    client = Client()
    client.force_login(apprentice)
    assert post(client, van, "parts", do="add", words="Rag").status_code == 200
    answer = post(client, van, "parts", do="add", words="Gold", price="5")
    assert answer.status_code == 422
    assert "An apprentice does not order" in words(answer)


def test_one_vehicle_has_one_promise_one_account_and_one_match_of_ratios(pages, owner, van):
    front = open_van_job(owner)
    day = timezone.localdate() + timedelta(days=9)
    post(pages, front, "money", do="promise", day=str(day), urgency="1", belongs_to=str(van.number))
    van.refresh_from_db()
    assert van.promised_on == day
    page = words(pages.get(f"/jobs/{van.number}/money"))
    assert "Ratios match" in page
    assert "Account as it stands" in page
    assert "Account as it stands" not in words(pages.get(f"/jobs/{front.number}/money"))
    post(pages, front, "parts", do="add", words="Pinion seal", price="10")
    post(pages, front, "parts", do="line", line=front.part_lines.get().pk, state="here")
    post(pages, van, "money", do="account", hours="1")
    lines = [line["words"] for line in van.money_sheets.get(kind="account").lines]
    assert f"Job {front.shown_number}: Pinion seal" in lines
    third = open_van_job(owner)
    answer = post(pages, third, "money", do="promise", urgency="1", belongs_to=str(front.number))
    assert "name that one" in words(answer)


def test_shims_of_the_drawer_are_charged_and_a_core_is_paid_back(pages, owner, van):
    """By hand: two pieces at 3.10 and 22 % are 7.56; a core deposit of 40.00 comes back when it is returned."""
    from demo.player import Bench

    Bench(owner, van).fit("depth", "20", "10")
    supplier = Supplier.objects.of(owner.shop).get(name__startswith="Talbahn")
    pages.post(
        f"/orders/suppliers/{supplier.pk}/prices", {"part": "gear_set", "price": "400", "core": "40"}
    )
    post(pages, van, "parts", do="draw", **{"part-gear_set": "on"})
    core = van.part_lines.get(kind="core")
    assert core.price == Decimal(40)
    for state in ("here", "returned"):
        post(pages, van, "parts", do="line", line=core.pk, state=state)
    post(pages, van, "money", do="account", hours="1")
    lines = {line["words"]: Decimal(line["amount"]) for line in van.money_sheets.get(kind="account").lines}
    assert lines["Depth shims used"] == Decimal("7.56")
    assert lines[core.words] == Decimal(-40)


def test_two_people_cannot_order_the_same_line(owner, van, pages):
    post(pages, van, "parts", do="add", words="Pinion seal")
    line = van.part_lines.get()
    supplier = Supplier.objects.of(owner.shop).first()
    part_lines.place_order(owner, [line.pk], supplier.pk, timezone.localdate(), uuid.uuid4())
    with pytest.raises(Rejected, match="ordered already"):
        part_lines.place_order(owner, [line.pk], supplier.pk, timezone.localdate(), uuid.uuid4())


def test_a_job_file_carries_parts_and_money_without_loss(owner):
    job = Job.objects.of(owner.shop).get(number=412)
    assert job.part_lines.exists()
    assert job.answers.exists()
    first = seal.sealed(job)
    text = json.dumps(first).encode()
    again, keeps = read.read_job(owner, io.BytesIO(text), len(text))
    assert not keeps
    second = seal.sealed(again)
    for name in ("part_lines", "money_sheets", "answers", "payments"):
        assert second[name] == first[name], name
    assert Payment.objects.filter(job=again).count() == Payment.objects.filter(job=job).count()
    assert MoneySheet.objects.filter(job=again, from_file=True).exists()
    # A file of before has none of it.
    older = {
        k: v
        for k, v in first.items()
        if k not in ("part_lines", "money_sheets", "answers", "payments", "seal")
    }
    older["format"] = "lash-job/5"
    older["job"].pop("urgency")
    text = json.dumps(older).encode()
    plain, _ = read.read_job(owner, io.BytesIO(text), len(text))
    assert not plain.part_lines.exists()
    assert plain.urgency == 1
