"""From tyres to an order line and a tag: the ratio's pages, what they refuse, and what a job file keeps."""

from __future__ import annotations

import io
import json
import re
import uuid
from datetime import timedelta
from decimal import Decimal

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import DatabaseError, transaction
from django.test import Client
from django.utils import timezone

from axle.errors import AxleError
from axle.gearing.fits import order_questions
from axle.gearing.vehicle import fields
from shop.gearing.inputs import RatioInputs
from shop.jobs import chain, loading, noted_lines
from shop.jobs.actions import part_lines, signing
from shop.jobs.exchange import read, seal
from shop.jobs.models import Job, PartLine, RatioLine
from shop.people.rules import Rejected
from shop.stock.models import GearOffer, Supplier
from shop.vehicles.models import Vehicle
from tests.shop.conftest import open_van_job, post, words

FIGURES = {
    "f-tyre_rear": "225/75R16",
    "f-tyre_rear_new": "245/75R16",
    "f-ratio_rear": "38/9",
    "f-gears": "4.2 2.3 1.4 1 0.77",
    "f-idle": "800",
    "f-torque_peak": "1800",
    "f-limit": "4300",
    "f-cruise": "100 km/h",
    "f-sensor": "shaft",
    "f-drive_teeth": "8",
    "f-driven_teeth": "19",
}


@pytest.fixture
def described(pages, van) -> Job:
    post(pages, van, "vehicle", do="keep", name="Milk van", end="rear", **FIGURES)
    van.refresh_from_db()
    return van


def choose(pages, job, teeth="41-11"):
    page = pages.get(f"/jobs/{job.number}/ratio").content.decode()
    key = re.search(rf"\?set=({teeth}[a-z-]*)", page)[1]
    return post(pages, job, "ratio", do="choose", set=key)


def test_a_vehicle_is_described_once_and_shared_by_its_jobs(pages, owner, described):
    row = Vehicle.objects.get(name="Milk van")
    assert row.figures["tyre_rear"] == "225/75R16"
    other = open_van_job(owner)
    post(pages, other, "vehicle", do="pick", vehicle=row.pk, end="front")
    other.refresh_from_db()
    assert (other.vehicle, other.vehicle_end) == (row, "front")
    page = words(pages.get("/vehicles"))
    assert f"{described.number:04d}" in page
    assert f"{other.number:04d}" in page
    page = words(pages.get(f"/jobs/{other.number}/ratio"))
    assert "its set is not chosen yet" in page
    # Once it is, this end is held to it.
    choose(pages, described)
    page = words(pages.get(f"/jobs/{other.number}/ratio"))
    assert "its set is not chosen yet" not in page


@pytest.mark.parametrize(
    ("field", "text", "said"),
    [
        ("tyre_rear", "1/0R16", "a size as 265/70R17"),
        ("slip", "-3", "0.0 % to 30.0 %"),
        ("gears", "4.2 zero", "a number from 0.3 to 20"),
        ("cruise", "65 mph km/h", "one number with one unit"),
        ("ratio_rear", "0/9", "5 to 20"),
        ("curve", "2000:300", "two or more"),
        ("carrier_rear", "3.73", "two ratios"),
        ("limit", "500", "1,000 rpm to 20,000 rpm"),
    ],
)
def test_a_field_of_the_vehicle_that_cannot_be_used_is_named_and_nothing_is_lost(
    pages, van, field, text, said
):
    answer = post(
        pages,
        van,
        "vehicle",
        do="keep",
        name="Milk van",
        end="rear",
        **FIGURES | {f"f-{field}": text, "f-idle": "810"},
    )
    assert answer.status_code == 422
    assert said in words(answer)
    assert 'value="810"' in answer.content.decode()
    assert not Vehicle.objects.filter(name="Milk van").exists()


def test_two_people_do_not_write_over_each_others_vehicle(pages, described):
    row = Vehicle.objects.get(name="Milk van")
    given = {"do": "keep", "held": "1", "name": "Milk van", "end": "rear", **FIGURES}
    first = post(pages, described, "vehicle", vehicle_version=row.version, **given | {"f-idle": "790"})
    assert "is kept" in words(first)
    late = post(pages, described, "vehicle", vehicle_version=row.version, **given | {"f-idle": "700"})
    assert late.status_code == 422
    assert "changed this vehicle since" in words(late)
    row.refresh_from_db()
    assert row.figures["idle"] == "790"


def test_a_page_that_is_behind_keeps_no_vehicle(pages, van):
    given = {"do": "keep", "name": "Milk van", "end": "rear", **FIGURES}
    late = pages.post(f"/jobs/{van.number}/vehicle", given | {"version": van.version + 7})
    assert late.status_code == 409
    assert not Vehicle.objects.filter(name="Milk van").exists()
    assert "is kept" in words(post(pages, van, "vehicle", **given))


def test_sets_stand_side_by_side_and_the_restoring_one_is_named_first(pages, described):
    answer = pages.get(f"/jobs/{described.number}/ratio")
    page = words(answer)
    assert "38/9" in page
    assert "engine at 62 mph, top gear" in page
    assert "<svg" in answer.content.decode()
    # Taller tyres want a higher ratio: 4.22 by its teeth comes nearest of 4.22 and 3.73.
    assert re.search(r"38/9 \(4\.22\): engine speed", page)


def test_a_choice_flows_into_sheet_choices_and_parts_and_waits_for_the_customer(pages, described):
    answer = choose(pages, described)
    assert "is chosen" in words(answer)
    described.refresh_from_db()
    gears = loading.spec_of(described).gears
    assert (gears.pinion_teeth, gears.ring_teeth) == (11, 41)
    assert described.choices["ratio"] == "changed"
    line = described.part_lines.get(part="gear_set")
    assert line.words == "Ring and pinion 41/11, sold as 3.73"
    assert line.price == Decimal("376.00")
    assert line.supplier.name == "Talbahn gears and bearings"
    stands = noted_lines.ratio_of(described)
    assert stands.chosen.old_ratio == pytest.approx(38 / 9)
    assert "The customer has not answered yet." in stands.holds


def test_the_order_is_held_until_everything_is_looked_up_and_agreed(pages, owner, described):
    choose(pages, described)
    line = described.part_lines.get(part="gear_set")
    due = timezone.localdate() + timedelta(days=4)
    with pytest.raises(Rejected, match="is not ordered yet"):
        part_lines.place_order(owner, [line.pk], line.supplier_id, due, uuid.uuid4())
    given = {f"q-{name}": "28" for name in order_questions()}
    assert "Kept." in words(post(pages, described, "ratio", do="look_up", **given))
    with pytest.raises(Rejected, match="has not answered"):
        part_lines.place_order(owner, [line.pk], line.supplier_id, due, uuid.uuid4())
    post(pages, described, "ratio", do="answer", who="Ada Horn", how="at the counter", agreed="no")
    with pytest.raises(Rejected, match="said no"):
        part_lines.place_order(owner, [line.pk], line.supplier_id, due, uuid.uuid4())
    post(pages, described, "ratio", do="answer", who="Ada Horn", how="at the counter", agreed="yes")
    order = part_lines.place_order(owner, [line.pk], line.supplier_id, due, uuid.uuid4())
    assert list(order.lines.all()) == [line]
    # Another set while this one is on its way is refused in words.
    answer = choose(pages, described, "38-9")
    assert answer.status_code == 422
    assert "returned or called off first" in words(answer)


def test_counted_teeth_come_before_what_the_vehicle_says(pages, described):
    post(pages, described, "counted", do="teeth", ring="41", pinion="11")
    page = words(pages.get(f"/jobs/{described.number}/ratio"))
    assert "Counted: 41/11." in page
    assert "3.727" in page


def test_a_signed_sheet_tells_the_vehicle_its_ratio_and_the_job_keeps_its_own(pages, owner, described):
    choose(pages, described)
    described.refresh_from_db()
    signing._tell_vehicle(owner, described)
    row = Vehicle.objects.get(name="Milk van")
    assert row.figures["ratio_rear"] == "41/11"
    found = RatioInputs(loading.load(Job.objects.get(pk=described.pk)))
    assert found.old_ratio == pytest.approx(38 / 9)


def test_splines_that_differ_are_said_and_hold_nothing(pages, described):
    choose(pages, described)
    given = {f"q-{name}": "28" for name in order_questions()} | {"q-yoke_splines": "27"}
    page = words(post(pages, described, "ratio", do="look_up", **given))
    assert "Another yoke goes with the set" in page


def test_another_set_after_backlash_was_read_is_another_job(pages, owner):
    job = Job.objects.of(owner.shop).get(number=412)
    answer = choose(pages, job)
    assert answer.status_code == 422
    assert "Open a new job for another set" in words(answer)


@pytest.mark.parametrize(
    ("given", "said"),
    [
        ({"do": "nothing"}, "one of the page's buttons"),
        ({"do": "choose", "set": "1-0"}, "one of the list"),
        ({"do": "answer", "who": "A"}, "the name of who answered"),
        ({"do": "answer", "who": "Ada Horn", "agreed": "yes"}, "a set that was chosen"),
        ({"do": "look_up"}, "nothing new"),
    ],
)
def test_bad_input_on_the_ratio_page_is_answered_in_words(pages, van, given, said):
    answer = post(pages, van, "ratio", **given)
    assert answer.status_code == 422
    assert said in words(answer)


def test_counted_turns_leave_pairs_and_teeth_settle_them(pages, van):
    page = words(
        post(
            pages,
            van,
            "counted",
            do="counted",
            wheels="both",
            turns="12.7",
            left="3",
            right="3",
            part="eighth",
        )
    )
    assert "Between" in page
    assert "38/9" in page
    page = words(post(pages, van, "counted", do="teeth", ring="38", pinion="9"))
    assert "✓ 38/9, 4.222" in page
    page = words(post(pages, van, "counted", do="tag", tag="4L10"))
    assert "limited slip" in page


@pytest.mark.parametrize(
    ("given", "said"),
    [
        ({"do": "counted", "wheels": "free", "turns": "4", "left": "1", "right": "0"}, "it says nothing"),
        (
            {"do": "counted", "wheels": "both", "turns": "4", "left": "", "right": "1"},
            "turns of the left wheel",
        ),
        (
            {"do": "counted", "wheels": "both", "turns": "x", "left": "1", "right": "1"},
            "turns of the pinion",
        ),
        ({"do": "counted", "wheels": "both", "turns": "200", "left": "1", "right": "1"}, "Count again"),
        ({"do": "teeth", "ring": "0", "pinion": "9"}, "5 to 20"),
        ({"do": "tag", "tag": "?"}, "as 41 11 or 3.73"),
        ({"do": "strike", "line": "1", "reason": "no"}, "in a few words"),
        ({"do": "strike", "line": "999999", "reason": "misread"}, "was never there"),
    ],
)
def test_a_bad_count_is_refused_in_words(pages, van, given, said):
    answer = post(pages, van, "counted", **given)
    assert answer.status_code == 422
    assert said in words(answer)


def test_a_struck_count_stays_and_counts_no_more(pages, van):
    post(pages, van, "counted", do="teeth", ring="41", pinion="11")
    row = RatioLine.objects.get(job=van)
    post(pages, van, "counted", do="strike", line=row.pk, reason="counted the wrong gear")
    assert noted_lines.ratio_of(van).settled is None
    assert RatioLine.objects.filter(job=van).count() == 2
    with transaction.atomic(), pytest.raises(DatabaseError):
        RatioLine.objects.filter(pk=row.pk).update(kind="tag")
    assert chain.check(van).holds


def test_a_spool_cannot_be_held_on_one_side(pages, van):
    van.choices = {**van.choices, "differential": "spool"}
    van.save()
    answer = post(pages, van, "counted", do="counted", wheels="held", turns="4", left="2", right="")
    assert "cannot be held on one side" in words(answer)


def test_gear_sets_go_in_as_rows_and_as_a_table_and_come_out_unchanged(pages, owner):
    pages.post("/gear-sets", {"teeth": "43/8", "sold_as": "5.38", "price": "510", "thick": "no"})
    assert GearOffer.objects.of(owner.shop).filter(ring=43, pinion=8).exists()
    text = pages.get("/gear-sets.csv").content
    count = GearOffer.objects.of(owner.shop).count()
    answer = pages.post(
        "/gear-sets", {"do": "table", "file": SimpleUploadedFile("s.csv", text)}, follow=True
    )
    assert f"{count} sets taken in" in words(answer)
    assert GearOffer.objects.of(owner.shop).count() == count
    assert pages.get("/gear-sets.csv").content == text
    row = GearOffer.objects.of(owner.shop).get(ring=43)
    assert "off the list" in words(pages.post("/gear-sets", {"off": row.pk}, follow=True))
    again = pages.post("/gear-sets", {"off": row.pk})
    assert again.status_code == 422


@pytest.mark.parametrize(
    ("table", "said"),
    [
        (b"", "an empty file"),
        (b"price\n3\n", "teeth among them"),
        (b"teeth,price\n41/11,dear\n", "row 2"),
        (b"teeth;supplier\n41/11;Nobody\n", "one of the shop's suppliers"),
        (b"teeth,sold_as\n41/11,4.10\n", "as 3.73 for 41/11"),
        (b"\xff\xfe\x00", "CSV in UTF-8"),
        (b"teeth,carrier_low,carrier_high\n41/11,4,3\n", "the smaller ratio first"),
    ],
)
def test_a_bad_table_of_sets_is_refused_whole(pages, owner, table, said):
    before = GearOffer.objects.of(owner.shop).count()
    answer = pages.post("/gear-sets", {"do": "table", "file": SimpleUploadedFile("s.csv", table)})
    assert answer.status_code == 422
    assert said in words(answer)
    assert GearOffer.objects.of(owner.shop).count() == before


def test_a_set_takes_the_time_of_its_supplier(pages, owner):
    supplier = Supplier.objects.of(owner.shop).first()
    pages.post("/gear-sets", {"teeth": "43/8", "supplier": supplier.name})
    from shop.stock.gear_sets import offers_of

    offer = next(offer for offer in offers_of(owner.shop) if offer.ring == 43)
    assert offer.days == supplier.days


def test_without_a_list_every_pair_that_could_be_cut_is_compared(pages, owner, described):
    GearOffer.objects.of(owner.shop).delete()
    page = words(pages.get(f"/jobs/{described.number}/ratio"))
    assert "pairs that could be cut" in page
    assert "Nobody on the shop's list sells it." in page


def test_ratio_and_tag_are_printed(pages, described):
    for page in ("ratio.pdf", "tag.pdf"):
        answer = pages.get(f"/jobs/{described.number}/{page}")
        assert answer.content[:5] == b"%PDF-"


def test_an_apprentice_counts_and_describes_and_does_not_choose(apprentice, described):
    client = Client()
    client.force_login(apprentice)
    assert "✓ 38/9" in words(post(client, described, "counted", do="teeth", ring="38", pinion="9"))
    answer = choose(client, described)
    assert answer.status_code == 422
    assert "does not choose how a job is built" in words(answer)
    assert "does not order" in words(client.post("/gear-sets", {"teeth": "41/11"}))


def test_a_job_file_carries_vehicle_and_ratio_without_loss(pages, owner, described):
    choose(pages, described)
    post(pages, described, "ratio", do="answer", who="Ada Horn", agreed="yes")
    post(pages, described, "counted", do="teeth", ring="38", pinion="9")
    row = RatioLine.objects.get(job=described, kind="teeth")
    post(pages, described, "counted", do="strike", line=row.pk, reason="counted again below")
    described.refresh_from_db()
    data = seal.sealed(described)
    text = json.dumps(data)
    assert data["format"] == "lash-job/9"
    assert data["job"]["vehicle"]["figures"]["tyre_rear"] == "225/75R16"
    raw = text.encode()
    taken, _ = read.read_job(owner, io.BytesIO(raw), len(raw))
    assert taken.vehicle == described.vehicle
    mine, theirs = noted_lines.ratio_of(described), noted_lines.ratio_of(taken)
    assert mine == theirs
    assert chain.check(taken).holds
    assert PartLine.objects.filter(job=taken, part="gear_set").exists()


def test_a_job_file_with_a_ratio_that_cannot_be_is_refused(pages, owner, described):
    post(pages, described, "counted", do="teeth", ring="38", pinion="9")
    data = json.loads(pages.get(f"/jobs/{described.number}/job.json").content)
    for change in (
        lambda d: d["ratio_lines"][0]["values"].update(ring=0),
        lambda d: d["ratio_lines"][0].update(kind="song"),
        lambda d: d["ratio_lines"][0].update(
            strikes="0" * 8 + "-0000-4000-8000-" + "0" * 12, kind="struck"
        ),
        lambda d: d["job"]["vehicle"]["figures"].update(gears="none"),
    ):
        broken = json.loads(json.dumps(data))
        change(broken)
        raw = json.dumps(broken).encode()
        before = Job.objects.count()
        with pytest.raises(AxleError, match="job file") as problem:
            read.read_job(owner, io.BytesIO(raw), len(raw))
        assert "is wanted" in str(problem.value)
        assert Job.objects.count() == before


def test_every_field_of_a_vehicle_stands_on_its_form(pages, van):
    page = pages.get(f"/jobs/{van.number}/vehicle").content.decode()
    assert all(f'name="f-{name}"' in page for name in fields())
