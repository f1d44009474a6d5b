"""Adjusters and their log, and instruments on the line, over HTTP."""

from __future__ import annotations

import contextlib
import io
import json
import socketserver
import threading
import time
import uuid
from decimal import Decimal

import pytest
from django.db import DatabaseError, connection

from axle.errors import AxleError
from axle.layout import Place
from axle.procedure.stations import kind_named, stations
from axle.stations.station_state import Status
from demo.player import Bench
from instruments.simulated import Conversation, Server
from shop.instruments import line
from shop.instruments.models import Instrument
from shop.jobs import loading
from shop.jobs.actions import opening
from shop.jobs.exchange.read import read_job
from shop.jobs.exchange.write import write_job
from shop.jobs.models import CarrierLine
from shop.specs.models import SpecSheet
from tests.shop.test_bench import HTMX, send, words
from tests.shop.test_carrier_pages import ADJUSTERS, job, new_job, post, state

# ---- adjusters and their log


def adjust(client, ring, far, **more):
    given = {"version": job().version, "station": "backlash", "ring": ring, "far": far} | more
    return client.post("/jobs/417/adjusters", given, headers=HTMX)


def test_positions_that_would_lock_the_gears_are_said_before_they_are_recorded(pages):
    before = dict(state().settings)
    answer = adjust(pages, "15", "-11")
    assert "The gears would lock" in words(answer)
    assert 'value="15"' in answer.content.decode()
    assert dict(state().settings) == before
    adjust(pages, "15", "-11", knowing="1")
    assert state().settings[Place.RING] == Decimal(15), "how they stand is recorded when it is meant"


def test_the_carrier_is_moved_aside_and_brought_back_by_as_many_holes(pages):
    assert post(pages, does="aside", holes="-4").status_code == 302
    refused = send(
        pages,
        "9",
        number=ADJUSTERS,
        places="8",
        questioned="9",
        lash="1",
        held="1",
        settled="1",
        status=422,
    )
    assert "The carrier stands aside" in words(refused)
    assert adjust(pages, "1", "1").status_code == 422
    short = post(pages, does="back", holes="3")
    assert short.status_code == 422
    assert (
        "+3 holes on the ring side was given; +4 holes on the ring side is wanted. Count again."
        in words(short)
    )
    assert post(pages, does="back", holes="4").status_code == 302
    assert loading.load(job()).standings["backlash"].status is Status.OUT, "nothing went stale"


def test_caps_nipped_make_the_backlash_stale_until_they_are_torqued(pages):
    post(pages, does="nipped")
    assert loading.load(job()).standings["backlash"].stale == "the caps were torqued otherwise"
    refused = post(pages, does="torqued", torque="9000")
    assert "5 to 400 N·m is wanted" in words(refused)
    post(pages, does="torqued", torque="")
    assert loading.load(job()).standings["backlash"].stale == ""


@pytest.mark.parametrize(
    "given",
    [{"does": "aside", "holes": "0"}, {"does": "aside", "holes": "two"}, {"does": "dance"}, {"does": ""}],
)
def test_lines_that_cannot_be_written_are_refused(pages, given):
    assert post(pages, **given).status_code == 422


def test_marks_before_the_preload_is_right_are_refused(owner, pages):
    refused = post(pages, number=413, does="marked")
    assert "marks before the preload is right was given" in words(refused)
    assert "an axle with threaded adjusters is wanted" in words(post(pages, number=412, does="marked"))


def test_the_book_is_append_only_and_sent_twice_is_written_once(pages, owner):
    entry = str(uuid.uuid4())
    count = CarrierLine.objects.count()
    post(pages, does="torqued", entry=entry)
    post(pages, does="torqued", entry=entry)
    assert CarrierLine.objects.count() == count + 1
    row = CarrierLine.objects.order_by("-id").first()
    with pytest.raises(TypeError):
        row.save()
    with pytest.raises(DatabaseError), connection.cursor() as sql:
        sql.execute("UPDATE jobs_carrierline SET ring = 9 WHERE id = %s", [row.pk])


def test_the_book_comes_with_the_job_file(owner, stranger):
    data = write_job(job())
    assert [row["done"] for row in data["carrier_lines"]] == ["torqued", "marked", "aside", "back"]
    text = json.dumps(data).encode()
    made, _ = read_job(stranger, io.BytesIO(text), len(text))
    assert made.carrier_lines.count() == 4
    data["carrier_lines"][-1]["ring"] = "5.00000000"
    data["carrier_lines"][-1]["far"] = "-5.00000000"
    broken = json.dumps(data).encode()
    with pytest.raises(AxleError, match="carrier_lines, brought back"):
        read_job(stranger, io.BytesIO(broken), len(broken))


def test_another_shop_sees_nothing_of_it(client, stranger):
    client.force_login(stranger)
    assert client.get("/jobs/417/carrier").status_code == 404
    assert post(client, does="nipped").status_code == 404


# ---- instruments on the line


@contextlib.contextmanager
def peer(handler, settings):
    with Server(("127.0.0.1", 0), handler) as server:
        settings.LASH_INSTRUMENT = f"127.0.0.1:{server.server_address[1]}"
        threading.Thread(target=server.serve_forever, daemon=True).start()
        yield server
        server.shutdown()


def saying(*replies: bytes, pause: float = 0.0):
    class Handler(socketserver.StreamRequestHandler):
        def handle(self):
            for reply in replies:
                self.rfile.readline()
                for byte in reply if pause else [reply]:
                    with contextlib.suppress(OSError):
                        self.wfile.write(bytes([byte]) if pause else byte)
                    time.sleep(pause)

    return Handler


def test_the_chosen_instrument_is_read_and_named(pages, owner, settings):
    tool = Instrument.objects.of(owner.shop).get(name="Bench indicator")
    with peer(Conversation, settings):
        answer = pages.get(
            "/jobs/412/take", {"kind": "backlash", "place": "1", "places": "4", "tool": str(tool.pk)}
        )
        assert 'name="instrument" value="Bench indicator"' in words(answer)
        wrench = Instrument.objects.of(owner.shop).get(name="Beam wrench")
        wrong = pages.get(
            "/jobs/412/take", {"kind": "backlash", "place": "1", "places": "4", "tool": str(wrench.pk)}
        )
        assert "“wrench does not read that” was given" in words(wrong)
        feelers = Instrument.objects.of(owner.shop).get(name="Feelers, long set")
        off = pages.get("/jobs/412/take", {"kind": "backlash", "tool": str(feelers.pk), "value": "9"})
        assert "“Feelers, long set”, which is not connected was given" in words(off)
        assert 'value="9"' in words(off)


def test_a_unit_a_zero_and_a_held_maximum_are_set_on_the_instrument(pages, owner, settings):
    wrench = Instrument.objects.of(owner.shop).get(name="Beam wrench")
    with peer(Conversation, settings) as server:
        server.bench.tools["wrench"].offset = 4.0

        def order(what):
            return words(pages.post(f"/instruments/{wrench.pk}/order", {"order": what}, follow=True))

        assert "rotating-torque wrench" in order("identify")
        assert float(line.take(kind_named("carrier_torque"), 1, line="wrench").value) > 14
        assert "zeroed" in order("zero")
        assert server.bench.tools["wrench"].offset == 0.0
        assert "reads in N-m" in order("N-m")
        assert line.take(kind_named("carrier_torque"), 1, line="wrench").unit.symbol == "N·m"
        assert "holds its maximum" in order("max_on")
        with pytest.raises(Exception, match="its held maximum was given; a steady reading is wanted"):
            line.take(kind_named("carrier_torque"), 1, line="wrench")
        assert "“dance” was given" in order("dance")
        assert "it reads in in-lb or ft-lb or N-m" in order("mm")
        server.bench.tools["bolt-wrench"].holds = True
        assert line.take(kind_named("adjuster_pull"), 1, line="bolt-wrench").unit.symbol == "ft·lb"


@pytest.mark.parametrize(
    ("replies", "pause", "said"),
    [
        ((b"OPEN wrench\n", b"VALUE 9 in\n"), 0, "the answer “OPEN wrench” was given"),
        ((b"OPEN indicator\nVALUE 9 in\n", b"VALUE 9 in\n"), 0, "the answer “OPEN indicator” was given"),
        ((b"OPEN indicator\n", b"VALUE 0.009 in MAX\n"), 0, "its held maximum was given"),
        ((b"OPEN indicator\n", b"VALUE 0.009 in-lb\n"), 0, "a reading in in·lb was given"),
        ((b"OPEN indicator\n", b"VALUE 1e9 in\n"), 0, "the unit “e9 in” was given"),
        ((b"OPEN indicator\n", b"VALUE nan in\n"), 0, "instrument: “nan in” was given"),
        ((b"OPEN indicator\n", b"VALUE 0.009 in " + b"x" * 500), 0, "the answer"),
        ((b"OPEN indicator\n", b"\xff\xfe\x00\n"), 0, "the answer"),
        ((b"ERROR away\n",), 0, "no “indicator” on the line was given"),
        ((b"OPEN indicator\n", b"VALUE 0.009 in\n" * 3), 0, "the answer"),
        ((b"OPEN indicator\n", b"V" * 60), 0.1, "no answer was given"),
    ],
)
def test_a_hostile_peer_is_refused_in_words_and_in_time(settings, replies, pause, said):
    began = time.monotonic()
    with (
        peer(saying(*replies, pause=pause), settings),
        pytest.raises(Exception, match="instrument") as refused,
    ):
        line.take(kind_named("backlash"), 1, 4, line="indicator")
    assert said in str(refused.value)
    assert time.monotonic() - began < 4, "a dribble of bytes does not hold the page"


def test_a_steady_reading_is_waited_for_and_a_typed_one_stays(pages, settings):
    given = {"kind": "carrier_end_play", "place": "1", "steady": "1"}
    with peer(Conversation, settings):
        first = words(pages.get("/jobs/412/take", given))
        assert "hold it still" in first
        seen = first.split('name="seen" value="')[1].split('"')[0]
        value = seen.split(":")[1]
        old = ";".join(f"{time.time() - 2.6 + k / 2:.2f}:{value}" for k in range(6))
        assert "held for two seconds" in words(pages.get("/jobs/412/take", given | {"seen": old}))
        wild = ";".join(f"{time.time() - 40 + k:.2f}:{k % 2}" for k in range(20))
        assert "did not hold still" in words(pages.get("/jobs/412/take", given | {"seen": wild}))
        typed = words(pages.get("/jobs/412/take", given | {"seen": seen, "value": "8.5"}))
        assert 'value="8.5"' in typed
        assert "data-taken" not in typed


def test_a_foot_switch_is_one_of_the_keys_nobody_types(pages, owner):
    pages.post("/me/foot-switch", {"foot_switch": "PageDown"})
    assert 'data-foot="PageDown"' in words(pages.get("/jobs/412/"))
    assert "one of the keys that the list names" in words(
        pages.post("/me/foot-switch", {"foot_switch": "e"}, follow=True)
    )


def test_every_school_has_its_picture(owner, pages):
    for number in (412, 417):
        layout = loading.load(job(number)).spec.layout
        for way in stations()["carrier_preload"].methods_on(layout):
            kind = way.kinds[0]
            page = words(pages.get(f"/jobs/{number}/?station=carrier_preload&kind={kind}"))
            assert "carrier-way" in page or "curve" in page, way.name


@pytest.mark.parametrize("sheet", ["Van rear", "Truck centre", "Blower", "Light axle"])
@pytest.mark.parametrize("units", ["thou", "mm"])
def test_every_page_answers_before_anything_is_read(owner, pages, sheet, units):
    owner.units = units
    owner.save()
    owner.shop.ring_side_name = "the side with the thirty-tooth"
    owner.shop.save()
    kept = SpecSheet.objects.of(owner.shop).get(name__startswith=sheet)
    made = opening.open_job(
        owner,
        kept,
        new_job("x"),
    )
    layout = loading.load(made).spec.layout
    assert pages.get(f"/jobs/{made.number}/carrier?backlash=9 thou").status_code == 200
    assert pages.get(f"/jobs/{made.number}/?station=backlash").status_code == 200
    for way in stations()["carrier_preload"].methods_on(layout):
        for kind in way.kinds:
            assert (
                pages.get(f"/jobs/{made.number}/?station=carrier_preload&kind={kind}").status_code == 200
            ), kind


def test_a_side_pack_that_would_not_go_in_is_warned_of(pages):
    page = words(pages.get("/jobs/412/pack?place=ring&wanted=120+%2B+120&station=carrier_preload"))
    assert "As named" in page
    send(pages, "3", kind="zero_play", number=412, station="carrier_preload", status=200)
    page = words(pages.get("/jobs/412/pack?place=ring&wanted=120+%2B+120&station=carrier_preload"))
    assert "will not go into the case" in page
    assert "gears would lock" in page


def test_hole_positions_of_a_job_are_written_by_its_bench(owner):
    bench = Bench(owner, job())
    bench.log("nipped")
    assert state().settings[Place.CAPS] == 0


def test_take_reaches_the_other_pages_fields(pages, settings):
    with peer(Conversation, settings):
        height = words(
            pages.get(
                "/jobs/412/take-field", {"kind": "stand_inner", "place": "2", "name": "stand_inner-2"}
            )
        )
        assert 'name="stand_inner-2" value="30.' in height
        bolt = words(pages.get("/jobs/412/take-field", {"kind": "cap_torque", "name": "value", "big": "1"}))
        assert "ft·lb" in bolt
        assert "✓ taken" in bolt
        wrong = words(pages.get("/jobs/412/take-field", {"kind": "horn", "name": "value", "value": "7"}))
        assert 'value="7"' in wrong
        assert "▲" in wrong
    assert "data-takes" in words(pages.get("/jobs/412/heights"))
    assert "data-takes" in words(pages.get("/jobs/412/?station=torque"))
