"""Instruments, heights and the drawer over HTTP, as the pinion asks for them."""

from __future__ import annotations

import json
import re
import uuid
from datetime import date, timedelta

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse

from axle.layout import Place
from axle.measure.parse import parse
from axle.measure.units import INCH_POUND, THOU
from shop.instruments.models import Instrument
from shop.instruments.services import Given, keep
from shop.jobs import loading
from shop.jobs.actions import opening, packs
from shop.jobs.models import Job, Reading
from shop.jobs.reconcile import reconcile
from shop.people.rules import Rejected
from shop.stock import services as stock
from shop.stock.models import Kit, ShimLot, StockMovement
from shop.stock.services import Lot
from tests.shop.test_bench import HTMX, send, words
from tests.shop.test_pinion_pages import read

# ---- instruments


def test_an_overdue_instrument_is_warned_of_and_stays_with_the_reading(pages, owner):
    wrench = Instrument.objects.of(owner.shop).get(name="Beam wrench")
    send(pages, "9", kind="pinion_torque", number=414, station="pinion_preload", status=200, tool=wrench.pk)
    row = Reading.objects.last()
    assert (row.instrument, row.overdue[:13]) == ("Beam wrench", "overdue since")
    assert float(row.resolution) == pytest.approx(0.112985, rel=1e-4)
    page = words(pages.get("/jobs/414/?station=pinion_preload&kind=pinion_torque&place=1"))
    assert "Beam wrench was overdue for calibration" in page
    assert "▲ overdue since" in page


def test_an_instrument_of_another_kind_or_shop_is_refused(pages, owner, stranger):
    micrometer = Instrument.objects.of(owner.shop).get(name="Micrometer 1")
    kind = {"kind": "pinion_torque", "number": 414, "station": "pinion_preload", "status": 422}
    assert "choose another instrument" in words(send(pages, "9", tool=micrometer.pk, **kind))
    theirs = keep(stranger, Given("Theirs", "rotating_wrench", parse("1", INCH_POUND)))
    assert "not in use in this shop's register" in words(send(pages, "9", tool=theirs.pk, **kind))
    assert pages.get(reverse("instrument", args=[theirs.pk])).status_code == 404
    assert "Theirs" not in words(pages.get("/instruments/"))


def test_the_register_is_kept_by_page(pages, apprentice, client):
    given = {
        "name": "Depth dial 2",
        "kind": "depth_dial",
        "resolution": "0.5",
        "shows": "figure",
        "revolution": "0.1 in",
        "calibrated_on": "2026-01-10",
        "due_on": "2027-01-10",
    }
    assert pages.post("/instruments/", given).status_code == 302
    dial = Instrument.objects.get(name="Depth dial 2")
    assert float(dial.revolution) == pytest.approx(2.54)
    assert "good until 10 January 2027" in words(pages.get("/instruments/"))
    for change, said in (
        ({"name": "Depth dial 3", "revolution": ""}, "how much one revolution of its dial is"),
        ({"name": "Depth dial 3", "due_on": "2026-01-01"}, "a day after its calibration"),
        ({"name": "Depth dial 3", "resolution": "1 in-lb"}, "a length in thou"),
        ({"name": "Depth dial 2"}, "a name that no other instrument has"),
        ({"name": "X", "resolution": "0"}, "more than 0 is wanted"),
    ):
        answer = pages.post("/instruments/", given | change)
        assert answer.status_code == 422
        assert said in words(answer)
    pages.post(reverse("retire-instrument", args=[dial.pk]), {"retired": "1"})
    dial.refresh_from_db()
    assert dial.retired
    client.force_login(apprentice)
    assert "An apprentice does not change the register" in words(client.post("/instruments/", given))


def test_a_dial_that_means_the_figure_says_so_by_its_register(pages, fresh, owner):
    opening.confirm_mark(owner, fresh.job, fresh.job.version, parse("0", THOU), "longer")
    dial = keep(
        owner,
        Given(
            "Figure dial",
            "depth_dial",
            resolution=parse("0.5", THOU),
            shows="figure",
            revolution=parse("100", THOU),
        ),
    )
    read(pages, fresh, "70", "dial_travel", tool=dial.pk, status=200)
    # From memory: one revolution less the travel is the figure, so 70 on a 100 dial is a shim of 30.
    assert "= 30.0 thou." in loading.load(fresh.job).standings["depth"].result.why[0]


# ---- heights


def test_heights_are_entered_together_and_say_what_they_change(pages, fresh):
    page = f"/jobs/{fresh.number}/heights"
    given = {
        "version": fresh.job.version,
        "entry": str(uuid.uuid4()),
        "stand_inner-2": "1180.0",
        "stand_inner-3": "1182.5",
        "slinger_thickness-1": "20",
    }
    assert pages.post(page, given).status_code == 302
    shown = words(pages.get(page))
    # By hand: a taller final bearing takes 2.5 thou out of a head shim, a slinger its thickness.
    assert "Set-up bearings for final ones" in shown
    assert "−2.5" in shown
    assert "−20.0" in shown
    wrong = given | {"version": fresh.job.version, "stand_inner-1": "tall", "entry": str(uuid.uuid4())}
    answer = pages.post(page, wrong)
    assert answer.status_code == 422
    assert "Stand height of the inner bearing, old: “tall” was given" in words(answer)
    assert 'value="tall"' in answer.content.decode()
    thin = pages.post(page, wrong | {"stand_inner-1": "30.1", "entry": str(uuid.uuid4())})
    assert "Did you mean 30.1 mm?" in words(thin)
    metric = given | {
        "version": fresh.job.version,
        "stand_outer-2": "20.003 mm",
        "entry": str(uuid.uuid4()),
    }
    pages.post(page, metric)
    assert 'name="stand_outer-2" value="20.003 mm"' in pages.get(page).content.decode()
    count = Reading.objects.count()
    again = metric | {"version": fresh.job.version, "entry": str(uuid.uuid4())}
    pages.post(page, again)
    assert Reading.objects.count() == count  # nothing new, nothing written


# ---- the drawer


def test_the_drawer_goes_out_as_a_table_and_comes_back_alike(pages, owner, client, stranger):
    table = pages.get("/drawer/table.csv").content
    assert table.startswith(b"family,shape,role,cast,nominal,miced,unit,quantity,condition")
    client.force_login(stranger)
    file = SimpleUploadedFile("shims.csv", table, "text/csv")
    assert client.post("/drawer/table", {"file": file}).status_code == 302
    columns = ("family", "shape", "role", "cast", "nominal", "miced", "condition", "bin", "quantity")
    ours, theirs = (
        sorted(ShimLot.objects.of(u.shop).filter(quantity__gt=0).values_list(*columns))
        for u in (owner, stranger)
    )
    assert ours == theirs


def test_the_drawer_s_own_table_read_back_changes_nothing_and_a_count_in_it_is_kept(pages, owner):
    table = pages.get("/drawer/table.csv").content
    columns = ("pk", "family", "miced", "condition", "bin", "quantity")
    before = sorted(ShimLot.objects.of(owner.shop).values_list(*columns))
    assert (
        pages.post("/drawer/table", {"file": SimpleUploadedFile("a.csv", table, "text/csv")}).status_code
        == 302
    )
    assert sorted(ShimLot.objects.of(owner.shop).values_list(*columns)) == before
    # One line counted anew; a line without a number is a delivery.
    lines = table.decode().split("\r\n")
    lot = next(row for row in before if row[-1] > 1)
    at_line = next(i for i, line in enumerate(lines) if line.endswith(f",{lot[0]}"))
    cells = lines[at_line].split(",")
    cells[lines[0].split(",").index("quantity")] = "1"
    counted = "\r\n".join([lines[0], ",".join(cells)]).encode()
    assert (
        pages.post("/drawer/table", {"file": SimpleUploadedFile("b.csv", counted, "text/csv")}).status_code
        == 302
    )
    assert ShimLot.objects.get(pk=lot[0]).quantity == 1


def test_a_table_with_wrong_rows_names_each_and_takes_none(pages):
    rows = (
        "family,nominal,miced,unit,quantity\r\n"
        "depth,30,30.1 30.2,thou,2\r\n"
        "roof,30,,thou,2\r\n"
        "depth,thin,,thou,2\r\n"
        "depth,30,,furlongs,2\r\n"
        "side,,,thou,2\r\n"
        "side,40,,thou,many\r\n"
    )
    before = ShimLot.objects.count()
    file = SimpleUploadedFile("shims.csv", rows.encode(), "text/csv")
    answer = pages.post("/drawer/table", {"file": file})
    assert answer.status_code == 422
    page = words(answer)
    for said in (
        "5 rows cannot be used; nothing was taken in",
        "Row 3</b> family: “roof” was given",
        "Row 4</b> nominal: “thin” was given",
        "Row 5</b> unit: the unit “furlongs” was given",
        "Row 6</b> nominal: nothing was given",
        "Row 7</b> quantity: “many” was given; a whole number, 1 to 500 is wanted",
    ):
        assert said in page
    assert ShimLot.objects.count() == before


@pytest.mark.parametrize(
    ("data", "said"),
    [
        (b"", "columns family"),
        (b"\xff\xfe\x00", "CSV in UTF-8"),
        (b"a,b\r\n1,2\r\n", "family, unit, quantity"),
        (b"family;nominal;unit;quantity\r\n", "no row"),
    ],
)
def test_a_file_that_is_no_table_is_refused(pages, data, said):
    answer = pages.post("/drawer/table", {"file": SimpleUploadedFile("x.csv", data, "text/csv")})
    assert answer.status_code == 422
    assert said in words(answer)


def test_a_kit_is_received_as_a_unit_and_mic_d_afterwards(pages, owner):
    lines = "depth 40 x2\npreload 6 x3 ring 41\nside 70 x2 base cast"
    assert pages.post("/drawer/kits", {"name": "Van kit", "lines": lines}).status_code == 302
    kit = Kit.objects.get(name="Van kit")
    pages.post(reverse("receive-kit", args=[kit.pk]), {"count": "2", "bin": "K1"})
    lots = {lot.family: lot for lot in ShimLot.objects.of(owner.shop).filter(kit="Van kit")}
    assert {f: lot.quantity for f, lot in lots.items()} == {"depth": 4, "preload": 6, "side": 4}
    assert (lots["side"].role, lots["side"].cast, lots["preload"].shape) == ("base", True, "ring 41")
    assert not lots["depth"].is_miced
    # Mic'd three times, the mean counts: by hand (40.1 + 40.2 + 40.3)/3 = 40.2.
    sizes = {"readings": "40.1 40.2 40.3", "pieces": "3"}
    pages.post(reverse("mic", args=[lots["depth"].pk]), sizes)
    sorted_out = ShimLot.objects.get(kit="Van kit", family="depth", is_miced=True)
    assert (sorted_out.quantity, float(sorted_out.miced)) == (3, pytest.approx(40.2 * 0.0254, abs=1e-5))
    lots["depth"].refresh_from_db()
    assert lots["depth"].quantity == 1
    answer = pages.post("/drawer/kits", {"name": "Bad", "lines": "roof 40 x2\nforty"})
    assert answer.status_code == 422
    assert "Line 1: family: “roof” was given" in words(answer)
    assert "Line 2: kit: “forty” was given" in words(answer)


def test_a_lot_tells_where_its_pieces_are_and_what_runs_low(pages, owner):
    lot = ShimLot.objects.of(owner.shop).get(family="depth", typed="29.1")
    page = words(pages.get(reverse("lot", args=[lot.pk])))
    assert "1 in job <a" in page
    assert "0412</a>, depth" in page
    pages.post(reverse("scrap", args=[lot.pk]), {"pieces": "1", "reason": "creased"})
    lot.refresh_from_db()
    assert lot.quantity == 0
    assert StockMovement.objects.filter(lot=lot, kind="scrap").count() == 1
    assert "0 of 2" in words(pages.get("/drawer/"))
    answer = pages.post(reverse("scrap", args=[lot.pk]), {"pieces": "1", "reason": "creased"}, follow=True)
    assert "as many as the lot has" in words(answer)
    pages.post(reverse("low", args=[lot.pk]), {"low_at": "0"})
    assert "Running low" not in words(pages.get("/drawer/"))


def test_what_could_be_made_and_what_to_order(pages):
    page = words(pages.get("/drawer/make?family=depth&wanted=28.4"))
    assert "thicknesses can be made around 28.4 thou" in page
    assert "To order:" in page
    assert "✓" in words(pages.get("/drawer/make?family=depth&wanted=29"))
    answer = pages.get("/drawer/make?family=depth&wanted=thin")
    assert answer.status_code == 422
    assert "wanted pack: “thin” was given" in words(answer)


def test_the_last_piece_is_not_in_two_places(owner, fresh):
    one = parse("37.3", THOU)
    lot = stock.receive(owner, Lot("depth", one, (one,)))
    packs.fit_pack(owner, fresh.job, fresh.job.version, Place.DEPTH, [lot.pk])
    with pytest.raises(Rejected, match=f"the last one went to job {fresh.number}, assembly 1, depth"):
        packs.fit_pack(
            owner, Job.objects.get(number=413), Job.objects.get(number=413).version, Place.DEPTH, [lot.pk]
        )


def test_a_shim_of_another_shape_or_family_is_not_fitted(pages, owner, fresh):
    size = parse("41", THOU)
    shaped = stock.receive(owner, Lot("depth", size, miced=(size,), quantity=2, shape="ring 62"))
    wrong = ShimLot.objects.of(owner.shop).filter(family="side", shape="").first()
    for lot, said in ((shaped, "has no shape chosen"), (wrong, "does not fit there")):
        with pytest.raises(Rejected, match=said):
            packs.fit_pack(owner, fresh.job, fresh.job.version, Place.DEPTH, [lot.pk])
    shape = {"version": fresh.job.version, "place": "depth", "shape": "ring 62", "station": "depth"}
    assert pages.post(f"/jobs/{fresh.number}/shape", shape, headers=HTMX).status_code == 200
    offered = words(
        pages.get(f"/jobs/{fresh.number}/pack?place=depth&wanted=41&station=depth", headers=HTMX)
    )
    assert "Fit 41.0" in offered
    packs.fit_pack(owner, fresh.job, fresh.job.version, Place.DEPTH, [shaped.pk])


def test_what_came_out_is_held_to_what_went_in(pages, owner):
    axle = loading.load(Job.objects.get(number=412))
    lines = {line.place: line for line in reconcile(axle)}
    assert all(line.agrees for line in lines.values())
    assert [float(p) for p in lines["depth"].old] == [pytest.approx(30.1 * 0.0254)]
    assert "all accounted for" in words(pages.get("/jobs/412/register"))
    # A piece that the drawer gave and nobody fitted is missed.
    lot = ShimLot.objects.of(owner.shop).filter(family="depth", quantity__gt=1, shape="").first()
    stock.withdraw(owner, lot.pk, ("depth",), "job 412", job=412, place="depth")
    assert "1 not in the axle. Look for it before it is built." in words(pages.get("/jobs/412/register"))


def test_a_second_kit_of_the_same_name_replaces_the_list(owner):
    size = parse("20", THOU)
    stock.keep_kit(owner, "Twice", [Lot("depth", size, miced=(), quantity=2)])
    stock.keep_kit(owner, "Twice", [Lot("depth", size, miced=(), quantity=4)])
    assert [line["quantity"] for line in Kit.objects.get(name="Twice").lines] == [4]
    assert json.dumps(Kit.objects.get(name="Twice").lines)


def test_due_dates_are_told_by_the_day(owner):
    today = date(2026, 3, 4)
    given = Given("Due soon", "micrometer", parse("0.1", THOU), due_on=today + timedelta(days=10))
    assert keep(owner, given).due_on == date(2026, 3, 14)


def test_the_build_sheet_says_how_depth_was_found_and_what_was_overdue(pages, owner):
    page = words(pages.get("/jobs/412/sheet"))
    assert re.search(r"wanted 29\.0 ± 0\.\d, gauge block", page)
    wrench = Instrument.objects.of(owner.shop).get(name="Beam wrench")
    # The carrier is in mesh by now: a wrench would turn the whole, so it is said when it was read.
    beside = {"kind": "pinion_torque", "number": 412, "station": "pinion_preload", "tool": wrench.pk}
    send(pages, "22", status=422, **beside)
    send(pages, "22", status=200, mesh="before", **beside)
    assert "Beam wrench, overdue since" in words(pages.get("/jobs/412/sheet"))


def test_a_unit_that_was_typed_is_not_written_twice(pages):
    send(pages, "90 mm", kind="bridge_reach", number=413, station="depth", status=200)
    page = words(pages.get("/jobs/413/?station=depth&kind=bridge_reach"))
    assert "Last: 90 mm, " in page
