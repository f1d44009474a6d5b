"""The pinion over HTTP: marks, ways, conditions, instruments, heights, and the drawer around them."""

from __future__ import annotations

import json
import re
import uuid
from datetime import date, timedelta

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse

from axle.layout import Place
from axle.units import INCH_POUND, THOU, parse
from demo.load import Bench
from shop.instruments.models import Instrument
from shop.instruments.services import Given, keep
from shop.jobs import bridge, services
from shop.jobs.models import Job, Reading
from shop.jobs.reconcile import reconcile
from shop.jobs.services import NewJob
from shop.people.rules import Refused
from shop.specs.models import SpecSheet
from shop.stock import services as stock
from shop.stock.models import Kit, ShimLot, StockMovement
from shop.stock.services import Lot
from tests.shop.test_bench import HTMX, send, words


@pytest.fixture
def at(client, owner):
    client.force_login(owner)
    return client


@pytest.fixture
def fresh(owner) -> Bench:
    """A new job on the works van's sheet, its mark not confirmed yet."""
    sheet = SpecSheet.objects.of(owner.shop).get(name__startswith="Van rear")
    given = NewJob("Test van", "", "", date(2026, 3, 2), None, True, parse("2", THOU), "longer")
    return Bench(owner, services.open_job(owner, sheet, given))


def read(client, bench, value, kind, **more):
    station = more.pop("station", "depth")
    return send(client, value, kind=kind, number=bench.number, station=station, **more)


def state(bench):
    return bridge.load(bench.job).state


# ---- the mark


def test_nothing_is_worked_out_from_a_mark_before_its_meaning_is_confirmed(at, fresh):
    bench = f"/jobs/{fresh.number}/"
    assert "What does the mark mean?" in words(at.get(f"{bench}?station=depth"))
    read(at, fresh, "30", "depth_feeler", status=200)
    axle = bridge.load(fresh.job)
    assert axle.standings["depth"].result.words == "confirm the mark"
    mark = {"version": fresh.job.version, "mark": "2", "convention": "shorter"}
    answer = at.post(f"{bench}mark", mark, headers=HTMX)
    assert answer.status_code == 200
    # By hand, in thou: 30 by the feeler, and a shorter pinion wants 2 more under its head.
    assert bridge.load(fresh.job).standings["depth"].result.why[0].endswith("= 32.0 thou.")
    assert fresh.job.mark_confirmed.startswith("Ines Korb")
    assert fresh.job.history.count() > 1


def test_the_picture_of_a_mark_follows_the_convention_that_is_tried(at, fresh):
    page = f"/jobs/{fresh.number}/?station=depth&view=mark&mark=2&convention="
    assert "further out from the ring gear: a thinner depth shim" in words(at.get(f"{page}longer"))
    assert "closer in to the ring gear: a thicker depth shim" in words(at.get(f"{page}shorter"))
    assert "whole distance" in words(at.get(f"{page}distance&mark=96.5 mm"))
    assert at.get(f"{page}sideways").status_code == 200
    assert fresh.job.mark_confirmed == ""


@pytest.mark.parametrize(
    ("mark", "convention", "said"),
    [
        ("5 mm", "longer", "Check its unit: thou, or hundredths of a millimetre."),
        ("50", "shorter", "1 mm (39 thou) or less, either way is wanted"),
        ("2", "distance", "20 to 300 mm is wanted"),
        ("two", "longer", "mark on the pinion: “two” was given"),
        ("2", "sideways", "mark: “sideways” was given; a known convention is wanted"),
    ],
)
def test_a_mark_that_cannot_be_is_refused_in_words(at, fresh, mark, convention, said):
    given = {"version": fresh.job.version, "mark": mark, "convention": convention}
    answer = at.post(f"/jobs/{fresh.number}/mark", given, headers=HTMX)
    assert answer.status_code == 422
    assert said in words(answer)
    assert not fresh.job.mark_confirmed


def test_a_mark_in_hundredths_has_its_own_last_place(fresh, owner):
    services.confirm_mark(owner, fresh.job, fresh.job.version, parse("5 1/100mm", THOU), "longer")
    mark = state(fresh).mark
    assert (mark.value, mark.step) == (pytest.approx(0.05), 0.01)


# ---- readings with intervals, repeats and conditions


def test_feelers_are_kept_as_an_interval(at, fresh):
    read(at, fresh, "11-13", "depth_feeler", status=200)
    row = Reading.objects.last()
    assert (row.typed, float(row.value)) == ("11-13", pytest.approx(12 * 0.0254))
    assert row.conditions == {"passes": pytest.approx(0.2794), "binds": pytest.approx(0.3302)}
    read(at, fresh, "<2", "depth_feeler", status=200)
    assert Reading.objects.last().conditions["passes"] == 0
    answer = read(at, fresh, "13-11", "depth_feeler", status=422)
    assert "the blade that passes, then the thicker one that binds" in words(answer)


def test_repeats_are_averaged_until_the_shim_is_changed(at, fresh, owner):
    services.confirm_mark(owner, fresh.job, fresh.job.version, parse("0", THOU), "longer")
    for place, value in enumerate(("30", "31", "32"), start=1):
        read(at, fresh, value, "depth_feeler", place=str(place), status=200)
    assert (
        bridge.load(fresh.job).standings["depth"].result.why[-2].startswith("Wanted depth shim 31.0 ± 0.")
    )
    fresh.fit(Place.DEPTH, "30")
    read(at, fresh, "2", "depth_feeler", status=200)
    # One reading on the new shim: the three on none are another setting.
    assert [t.place for t in state(fresh).repeats("depth_feeler")] == [1]
    assert "too shallow" not in bridge.load(fresh.job).standings["depth"].result.words


def test_two_ways_are_compared_on_the_page(at):
    page = words(at.get("/jobs/413/?station=depth"))
    assert "together" in page
    assert "Gauge block" in page
    assert "Packs from the drawer" in page


def test_a_torque_read_both_ways_is_free_of_the_wrench_s_zero(at):
    given = {"oil": "oiled", "attitude": "level", "nut_torque": "200", "station": "pinion_preload"}
    send(at, "20/16", kind="pinion_torque", number=414, status=200, **given)
    row = Reading.objects.last()
    assert float(row.value) == pytest.approx(18 * 0.112985, rel=1e-4)
    assert row.conditions["both"] == [pytest.approx(2.2597, rel=1e-3), pytest.approx(1.8078, rel=1e-3)]
    assert row.conditions["nut_torque"] == pytest.approx(271.16, rel=1e-3)
    assert "the mean is free of the wrench's zero" in words(at.get("/jobs/414/?station=pinion_preload"))


def test_conditions_are_kept_when_an_entry_is_questioned(at):
    answer = send(
        at,
        "19 ft-lb",
        kind="pinion_torque",
        number=414,
        station="pinion_preload",
        status=200,
        oil="dry",
        seal="1",
        confidence="makeshift",
    )
    page = answer.content.decode()
    assert 'value="dry" selected' in page
    assert re.search(r'name="seal" value="1" checked', page)
    assert re.search(r'name="confidence" value="makeshift" checked', page)


def test_trials_under_other_conditions_are_left_out_and_said_so(at):
    send(at, "9", kind="pinion_torque", number=414, station="pinion_preload", status=200, oil="dry")
    # By common practice dry bearings read otherwise: the newest reading's conditions govern.
    job = Job.objects.get(number=414)
    fresh = Bench(job.touched_by, job)
    fresh.fit(Place.PRELOAD, "20", "20")
    send(at, "4", kind="pinion_torque", number=414, station="pinion_preload", status=200, oil="oiled")
    page = words(at.get("/jobs/414/?station=pinion_preload"))
    assert "a trial read with dry" in page
    assert "left out" in page


@pytest.mark.parametrize(
    ("more", "said"),
    [
        ({"turned": "-5"}, "never backed off"),
        ({"turned": "far"}, "nut turned: “far” was given; a number is wanted"),
        ({"nut_torque": "tight"}, "torque at the nut: “tight” was given"),
        ({"oil": "tar"}, "oil: “tar” was given"),
        ({"tool": "x"}, "instrument: “x” was given"),
        ({"tool": "999999"}, "not in use in this shop's register"),
    ],
)
def test_conditions_that_cannot_be_are_refused_and_kept_in_the_form(at, more, said):
    count = Reading.objects.count()
    answer = send(at, "12", kind="pinion_torque", number=416, station="pinion_preload", status=422, **more)
    assert said in words(answer)
    assert Reading.objects.count() == count


def test_negative_end_play_is_refused(at):
    answer = send(at, "-2", kind="pinion_end_play", number=414, station="pinion_preload", status=422)
    assert "0 or more is wanted" in words(answer)


def test_a_head_taller_than_its_master_is_refused_in_words(at):
    send(at, "140 mm", kind="head_height", number=413, station="depth", questioned="140 mm", status=200)
    assert "less than the master dimension, 131.200 mm" in words(at.get("/jobs/413/?station=depth"))


def test_bites_lead_to_a_stop_and_an_overshoot_to_a_new_sleeve(at):
    bite = {"kind": "pinion_torque", "number": 416, "station": "pinion_preload", "status": 200}
    send(at, "20", turned="15", **bite)
    assert bridge.load(Job.objects.get(number=416)).standings["pinion_preload"].is_done
    assert "■ Stop." in words(at.get("/jobs/416/?station=pinion_preload"))
    send(at, "30", turned="5", **bite)
    axle = bridge.load(Job.objects.get(number=416))
    assert axle.move.title == "Fit a new sleeve"
    assert "preload-resleeve" in {step.step for step in axle.plan.steps}
    assert "never back off" in words(at.get("/jobs/416/?station=pinion_preload"))


# ---- instruments


def test_an_overdue_instrument_is_warned_of_and_stays_with_the_reading(at, owner):
    wrench = Instrument.objects.of(owner.shop).get(name="Beam wrench")
    send(at, "9", kind="pinion_torque", number=414, station="pinion_preload", status=200, tool=wrench.pk)
    row = Reading.objects.last()
    assert (row.instrument, row.overdue[:13]) == ("Beam wrench", "overdue since")
    assert float(row.resolution) == pytest.approx(0.112985, rel=1e-4)
    page = words(at.get("/jobs/414/?station=pinion_preload&kind=pinion_torque&place=1"))
    assert "Beam wrench was overdue for calibration" in page
    assert "▲ overdue since" in page


def test_an_instrument_of_another_kind_or_shop_is_refused(at, owner, stranger):
    micrometer = Instrument.objects.of(owner.shop).get(name="Micrometer 1")
    kind = {"kind": "pinion_torque", "number": 414, "station": "pinion_preload", "status": 422}
    assert "choose another instrument" in words(send(at, "9", tool=micrometer.pk, **kind))
    theirs = keep(stranger, Given("Theirs", "rotating_wrench", parse("1", INCH_POUND)))
    assert "not in use in this shop's register" in words(send(at, "9", tool=theirs.pk, **kind))
    assert at.get(reverse("instrument", args=[theirs.pk])).status_code == 404
    assert "Theirs" not in words(at.get("/instruments/"))


def test_the_register_is_kept_by_page(at, apprentice, client):
    given = {
        "name": "Depth dial 2",
        "kind": "depth_dial",
        "resolution": "0.5",
        "shows": "figure",
        "revolution": "0.1 in",
        "calibrated_on": "2026-01-10",
        "due_on": "2027-01-10",
    }
    assert at.post("/instruments/", given).status_code == 302
    dial = Instrument.objects.get(name="Depth dial 2")
    assert float(dial.revolution) == pytest.approx(2.54)
    assert "good until 10 January 2027" in words(at.get("/instruments/"))
    for change, said in (
        ({"name": "Depth dial 3", "revolution": ""}, "how much one revolution of its dial is"),
        ({"name": "Depth dial 3", "due_on": "2026-01-01"}, "a day after its calibration"),
        ({"name": "Depth dial 3", "resolution": "1 in-lb"}, "a length in thou"),
        ({"name": "Depth dial 2"}, "a name that no other instrument has"),
        ({"name": "X", "resolution": "0"}, "more than 0 is wanted"),
    ):
        answer = at.post("/instruments/", given | change)
        assert answer.status_code == 422
        assert said in words(answer)
    at.post(reverse("retire-instrument", args=[dial.pk]), {"retired": "1"})
    dial.refresh_from_db()
    assert dial.retired
    client.force_login(apprentice)
    assert "An apprentice does not change the register" in words(client.post("/instruments/", given))


def test_a_dial_that_means_the_figure_says_so_by_its_register(at, fresh, owner):
    services.confirm_mark(owner, fresh.job, fresh.job.version, parse("0", THOU), "longer")
    dial = keep(owner, Given("Figure dial", "depth_dial", parse("0.5", THOU), "figure", parse("100", THOU)))
    read(at, fresh, "70", "dial_travel", tool=dial.pk, status=200)
    # From memory: one revolution less the travel is the figure, so 70 on a 100 dial is a shim of 30.
    assert "= 30.0 thou." in bridge.load(fresh.job).standings["depth"].result.why[0]


# ---- heights


def test_heights_are_entered_together_and_say_what_they_change(at, fresh):
    page = f"/jobs/{fresh.number}/heights"
    given = {
        "version": fresh.job.version,
        "entry": str(uuid.uuid4()),
        "stand_inner-2": "1180.0",
        "stand_inner-3": "1182.5",
        "slinger_thickness-1": "20",
    }
    assert at.post(page, given).status_code == 302
    shown = words(at.get(page))
    # By hand: a taller final bearing takes 2.5 thou out of a head shim, a slinger its thickness.
    assert "Set-up bearings for final ones" in shown
    assert "−2.5" in shown
    assert "−20.0" in shown
    wrong = given | {"version": fresh.job.version, "stand_inner-1": "tall", "entry": str(uuid.uuid4())}
    answer = at.post(page, wrong)
    assert answer.status_code == 422
    assert "Stand height of the inner bearing, old: “tall” was given" in words(answer)
    assert 'value="tall"' in answer.content.decode()
    thin = at.post(page, wrong | {"stand_inner-1": "30.1", "entry": str(uuid.uuid4())})
    assert "Did you mean 30.1 mm?" in words(thin)
    metric = given | {
        "version": fresh.job.version,
        "stand_outer-2": "20.003 mm",
        "entry": str(uuid.uuid4()),
    }
    at.post(page, metric)
    assert 'name="stand_outer-2" value="20.003 mm"' in at.get(page).content.decode()
    count = Reading.objects.count()
    again = metric | {"version": fresh.job.version, "entry": str(uuid.uuid4())}
    at.post(page, again)
    assert Reading.objects.count() == count  # nothing new, nothing written


# ---- the drawer


def test_the_drawer_goes_out_as_a_table_and_comes_back_alike(at, owner, client, stranger):
    table = at.get("/drawer/table.csv").content
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


def test_the_drawer_s_own_table_read_back_changes_nothing_and_a_count_in_it_is_kept(at, owner):
    table = at.get("/drawer/table.csv").content
    columns = ("pk", "family", "miced", "condition", "bin", "quantity")
    before = sorted(ShimLot.objects.of(owner.shop).values_list(*columns))
    assert (
        at.post("/drawer/table", {"file": SimpleUploadedFile("a.csv", table, "text/csv")}).status_code
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
        at.post("/drawer/table", {"file": SimpleUploadedFile("b.csv", counted, "text/csv")}).status_code
        == 302
    )
    assert ShimLot.objects.get(pk=lot[0]).quantity == 1


def test_a_table_with_wrong_rows_names_each_and_takes_none(at):
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
    answer = at.post("/drawer/table", {"file": file})
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
def test_a_file_that_is_no_table_is_refused(at, data, said):
    answer = at.post("/drawer/table", {"file": SimpleUploadedFile("x.csv", data, "text/csv")})
    assert answer.status_code == 422
    assert said in words(answer)


def test_a_kit_is_received_as_a_unit_and_mic_d_afterwards(at, owner):
    lines = "depth 40 x2\npreload 6 x3 ring 41\nside 70 x2 base cast"
    assert at.post("/drawer/kits", {"name": "Van kit", "lines": lines}).status_code == 302
    kit = Kit.objects.get(name="Van kit")
    at.post(reverse("receive-kit", args=[kit.pk]), {"count": "2", "bin": "K1"})
    lots = {lot.family: lot for lot in ShimLot.objects.of(owner.shop).filter(kit="Van kit")}
    assert {f: lot.quantity for f, lot in lots.items()} == {"depth": 4, "preload": 6, "side": 4}
    assert (lots["side"].role, lots["side"].cast, lots["preload"].shape) == ("base", True, "ring 41")
    assert not lots["depth"].is_miced
    # Mic'd three times, the mean counts: by hand (40.1 + 40.2 + 40.3)/3 = 40.2.
    sizes = {"readings": "40.1 40.2 40.3", "pieces": "3"}
    at.post(reverse("mic", args=[lots["depth"].pk]), sizes)
    sorted_out = ShimLot.objects.get(kit="Van kit", family="depth", is_miced=True)
    assert (sorted_out.quantity, float(sorted_out.miced)) == (3, pytest.approx(40.2 * 0.0254, abs=1e-5))
    lots["depth"].refresh_from_db()
    assert lots["depth"].quantity == 1
    answer = at.post("/drawer/kits", {"name": "Bad", "lines": "roof 40 x2\nforty"})
    assert answer.status_code == 422
    assert "Line 1: family: “roof” was given" in words(answer)
    assert "Line 2: kit: “forty” was given" in words(answer)


def test_a_lot_tells_where_its_pieces_are_and_what_runs_low(at, owner):
    lot = ShimLot.objects.of(owner.shop).get(family="depth", typed="29.1")
    page = words(at.get(reverse("lot", args=[lot.pk])))
    assert "1 in job <a" in page
    assert "0412</a>, depth" in page
    at.post(reverse("scrap", args=[lot.pk]), {"pieces": "1", "reason": "creased"})
    lot.refresh_from_db()
    assert lot.quantity == 0
    assert StockMovement.objects.filter(lot=lot, kind="scrap").count() == 1
    assert "0 of 2" in words(at.get("/drawer/"))
    answer = at.post(reverse("scrap", args=[lot.pk]), {"pieces": "1", "reason": "creased"}, follow=True)
    assert "as many as the lot has" in words(answer)
    at.post(reverse("low", args=[lot.pk]), {"low_at": "0"})
    assert "Running low" not in words(at.get("/drawer/"))


def test_what_could_be_made_and_what_to_order(at):
    page = words(at.get("/drawer/make?family=depth&wanted=28.4"))
    assert "thicknesses can be made around 28.4 thou" in page
    assert "To order:" in page
    assert "✓" in words(at.get("/drawer/make?family=depth&wanted=29"))
    answer = at.get("/drawer/make?family=depth&wanted=thin")
    assert answer.status_code == 422
    assert "wanted pack: “thin” was given" in words(answer)


def test_the_last_piece_is_not_in_two_places(owner, fresh):
    one = parse("37.3", THOU)
    lot = stock.receive(owner, Lot("depth", one, (one,)))
    services.fit_pack(owner, fresh.job, fresh.job.version, Place.DEPTH, [lot.pk])
    with pytest.raises(Refused, match=f"the last one went to job {fresh.number}, assembly 1, depth"):
        services.fit_pack(
            owner, Job.objects.get(number=413), Job.objects.get(number=413).version, Place.DEPTH, [lot.pk]
        )


def test_a_shim_of_another_shape_or_family_is_not_fitted(at, owner, fresh):
    size = parse("41", THOU)
    shaped = stock.receive(owner, Lot("depth", size, (size,), 2, shape="ring 62"))
    wrong = ShimLot.objects.of(owner.shop).filter(family="side", shape="").first()
    for lot, said in ((shaped, "has no shape chosen"), (wrong, "does not fit there")):
        with pytest.raises(Refused, match=said):
            services.fit_pack(owner, fresh.job, fresh.job.version, Place.DEPTH, [lot.pk])
    shape = {"version": fresh.job.version, "place": "depth", "shape": "ring 62", "station": "depth"}
    assert at.post(f"/jobs/{fresh.number}/shape", shape, headers=HTMX).status_code == 200
    offered = words(at.get(f"/jobs/{fresh.number}/pack?place=depth&wanted=41&station=depth", headers=HTMX))
    assert "Fit 41.0" in offered
    services.fit_pack(owner, fresh.job, fresh.job.version, Place.DEPTH, [shaped.pk])


def test_what_came_out_is_held_to_what_went_in(at, owner):
    axle = bridge.load(Job.objects.get(number=412))
    lines = {line.place: line for line in reconcile(axle)}
    assert all(line.agrees for line in lines.values())
    assert [float(p) for p in lines["depth"].old] == [pytest.approx(30.1 * 0.0254)]
    assert "all accounted for" in words(at.get("/jobs/412/register"))
    # A piece that the drawer gave and nobody fitted is missed.
    lot = ShimLot.objects.of(owner.shop).filter(family="depth", quantity__gt=1, shape="").first()
    stock.take(owner, lot.pk, ("depth",), "job 412", job=412, place="depth")
    assert "1 not in the axle. Look for it before it is built." in words(at.get("/jobs/412/register"))


def test_a_second_kit_of_the_same_name_replaces_the_list(owner):
    size = parse("20", THOU)
    stock.keep_kit(owner, "Twice", [Lot("depth", size, (), 2)])
    stock.keep_kit(owner, "Twice", [Lot("depth", size, (), 4)])
    assert [line["quantity"] for line in Kit.objects.get(name="Twice").lines] == [4]
    assert json.dumps(Kit.objects.get(name="Twice").lines)


def test_due_dates_are_told_by_the_day(owner):
    today = date(2026, 3, 4)
    given = Given("Due soon", "micrometer", parse("0.1", THOU), due_on=today + timedelta(days=10))
    assert keep(owner, given).due_on == date(2026, 3, 14)


def test_the_build_sheet_says_how_depth_was_found_and_what_was_overdue(at, owner):
    page = words(at.get("/jobs/412/sheet"))
    assert re.search(r"wanted 29\.0 ± 0\.\d, gauge block", page)
    wrench = Instrument.objects.of(owner.shop).get(name="Beam wrench")
    send(at, "22", kind="pinion_torque", number=412, station="pinion_preload", status=200, tool=wrench.pk)
    assert "Beam wrench, overdue since" in words(at.get("/jobs/412/sheet"))


def test_a_unit_that_was_typed_is_not_written_twice(at):
    send(at, "90 mm", kind="bridge_reach", number=413, station="depth", status=200)
    page = words(at.get("/jobs/413/?station=depth&kind=bridge_reach"))
    assert "Last: 90 mm, " in page
