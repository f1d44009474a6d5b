"""The carrier over HTTP: schools, backlash conditions, planned moves, the book, instruments on the line."""

from __future__ import annotations

import contextlib
import io
import json
import socketserver
import threading
import time
import uuid
from datetime import date
from decimal import Decimal

import pytest
from django.db import DatabaseError, connection

from axle.carrier.book import Done
from axle.errors import AxleError
from axle.layout import Place
from axle.procedure.stations import kind_named, stations
from axle.units import THOU, parse
from demo.load import Bench
from instruments.simulated import Conversation, Server
from shop.instruments import line
from shop.instruments.models import Instrument
from shop.jobs import bridge, services
from shop.jobs.exchange import read_job, write_job
from shop.jobs.models import CarrierLine, Job, Reading
from shop.jobs.services import NewJob
from shop.specs.models import SpecSheet
from tests.shop.test_bench import HTMX, send, words

ADJUSTERS = 417


@pytest.fixture
def at(client, owner):
    client.force_login(owner)
    return client


def job(number: int = ADJUSTERS) -> Job:
    return Job.objects.get(number=number)


def post(client, page="carrier", number=ADJUSTERS, **given):
    given = {"version": job(number).version, "entry": str(uuid.uuid4())} | given
    return client.post(f"/jobs/{number}/{page}", given)


def state(number: int = ADJUSTERS):
    return bridge.load(job(number)).state


# ---- schools


def test_a_new_job_follows_the_shop_s_usual_school(owner):
    sheet = SpecSheet.objects.of(owner.shop).get(name__startswith="Van rear")
    owner.shop.schools = {"outboard": "feelers"}
    owner.shop.save()
    made = services.open_job(
        owner, sheet, NewJob("Van", "", "", date(2026, 3, 2), None, True, parse("0", THOU), "longer")
    )
    assert bridge.load(made).plan.facts["school"] == "feelers"
    owner.shop.schools = {"outboard": "both_sides"}
    owner.shop.save()
    assert bridge.load(Job.objects.get(pk=made.pk)).plan.facts["school"] == "feelers", (
        "an open job keeps its own"
    )


def test_another_school_than_the_usual_wants_a_reason(at):
    refused = post(at, does="school", school="zero_float")
    assert refused.status_code == 422
    assert "“zero end float” without a reason was given" in words(refused)
    kept = post(at, does="school", school="zero_float", reason="maker asks for none")
    assert kept.status_code == 302
    assert "maker asks for none" in words(at.get("/jobs/417/?station=carrier_preload"))
    assert job().reasons == {"school": "maker asks for none"}
    assert post(at, does="school", school="holes").status_code == 302
    assert job().reasons == {}


def test_a_school_that_the_axle_cannot_follow_is_refused(at):
    refused = post(at, does="school", school="feelers", reason="as always")
    assert refused.status_code == 422
    assert "Carrier preload is found by" in words(refused)


def test_the_owner_alone_sets_the_shop_s_ways(client, apprentice, owner):
    client.force_login(apprentice)
    client.post("/people/ways", {"school-outboard": "tap_in"})
    owner.shop.refresh_from_db()
    assert owner.shop.schools["outboard"] == "subtraction"
    client.force_login(owner)
    answer = client.post("/people/ways", {"school-adjusters": "tap_in"}, follow=True)
    assert "“tap-in feel” was given" in words(answer)
    client.post("/people/ways", {"school-outboard": "tap_in", "ring_side": "crown side", "far_side": ""})
    owner.shop.refresh_from_db()
    assert (owner.shop.schools, owner.shop.ring_side_name) == ({"outboard": "tap_in"}, "crown side")
    assert "crown side" in words(client.get("/jobs/412/"))


# ---- backlash


def test_conditions_are_kept_with_a_reading_and_judge_it(at):
    send(
        at,
        "9",
        place="2",
        questioned="9",
        lash="1",
        places="4",
        caps="nipped",
        settled="1",
        held="1",
        status=200,
    )
    row = Reading.objects.order_by("-id").first()
    assert row.conditions["caps"] == "nipped"
    page = words(at.get("/jobs/412/?station=backlash&kind=backlash&place=3"))
    assert "Caps nipped." in page
    assert "s-doubt" in page


@pytest.mark.parametrize(
    ("more", "said"),
    [
        ({"caps": "glued"}, "caps: “glued” was given"),
        ({"lean": "70"}, "0 to 45 ° is wanted"),
        ({"lean": "steep"}, "indicator off its line: “steep” was given"),
        ({"radius": "2"}, "20 to 300 mm is wanted"),
        ({"places": "99"}, "3 to 12 is wanted"),
    ],
)
def test_conditions_that_cannot_be_are_answered_in_words(at, more, said):
    answer = send(
        at,
        "9",
        place="2",
        questioned="9",
        lash="1",
        held="1",
        settled="1",
        **({"places": "4"} | more),
        status=422,
    )
    assert said in words(answer)
    assert 'value="9"' in answer.content.decode()


def test_one_place_read_twice_is_questioned(at):
    count = Reading.objects.count()
    answer = send(at, "9.1", place="2", twice=False, status=200)
    assert "Place 2 is read already on this setting." in words(answer)
    assert Reading.objects.count() == count
    send(at, "9.1", place="2", questioned="9.1", status=200)
    newest = Reading.objects.order_by("-id").first()
    assert newest.strikes is not None, "the first stays, struck"


def test_millimetres_typed_for_thousandths_are_questioned(at):
    answer = words(send(at, "9 mm", place="2", twice=False, status=200))
    assert "9 mm? That is unusual here. Did you mean 9 thou?" in answer
    assert "That is unusual here" in words(send(at, "230", place="2", status=200))


def test_more_places_keep_those_that_fall_together(at):
    send_places = at.post(
        "/jobs/412/places", {"version": job(412).version, "lash_places": "eight"}, headers=HTMX
    )
    assert send_places.status_code == 200
    standing = bridge.load(job(412)).standings["backlash"]
    assert [slot.place for slot in standing.missing] == [2, 4, 6, 8]
    refused = at.post(
        "/jobs/412/places", {"version": job(412).version, "lash_places": "ninety"}, headers=HTMX
    )
    assert refused.status_code == 422


def test_tap_in_is_kept_as_its_words(at):
    post(at, number=412, does="school", school="tap_in", reason="cast shims on this one")
    page = words(at.get("/jobs/412/?station=carrier_preload&kind=tap_in"))
    assert "light taps" in page
    send(at, "light taps", kind="tap_in", number=412, station="carrier_preload", status=200)
    assert Reading.objects.order_by("-id").first().as_typed == "light taps"
    assert bridge.load(job(412)).standings["carrier_preload"].is_done
    refused = send(at, "gently", kind="tap_in", number=412, station="carrier_preload", status=422)
    assert "falls in or slides in by hand or light taps or heavy blows is wanted" in words(refused)


# ---- planned moves


def test_a_move_planned_by_hand_names_sides_three_ways_and_is_done(at):
    page = words(at.get("/jobs/417/carrier?backlash=10&interference=&deeper="))
    for part in (
        "Ring-gear side · right · “tooth side”",
        "near edge goes",
        "Sum check:",
        "Lock holes near it",
    ):
        assert part in page
    before = dict(state().settings)
    assert post(at, does="plan", backlash="10", interference="", deeper="").status_code == 302
    after = state().settings
    assert after[Place.RING] - before[Place.RING] == -(after[Place.FAR] - before[Place.FAR]) > 0
    move = job().moves.order_by("-id").first()
    assert {e["label"] for e in move.expected} >= {"Smallest backlash", "Spread around the ring"}


@pytest.mark.parametrize(
    ("query", "said"),
    [
        ("backlash=200", "31.5 thou at the most is wanted. Thousandths or millimetres?"),
        ("backlash=-3", "Gears without backlash lock"),
        ("interference=-2", "It would leave the bearings unloaded"),
        ("interference=27", "that this case takes"),
        ("backlash=nine", "backlash wanted: “nine” was given"),
        ("deeper=2 in-lb", "a length in thou is wanted"),
        ("side_span=9", "span of the carrier's cups, mm: 9 was given"),
        ("housing_rise=hot", "housing warmer by, °C or °F: “hot” was given"),
    ],
)
def test_what_cannot_be_planned_is_said_and_nothing_is_lost(at, query, said):
    answer = at.get(f"/jobs/417/carrier?{query}")
    assert answer.status_code == 200
    assert said in words(answer)


def test_nothing_known_of_either_side_is_said(at):
    assert "Nothing is known of either side yet" in words(
        at.get("/jobs/413/carrier?backlash=9")
    ) or "holes" in words(at.get("/jobs/413/carrier?backlash=9"))
    assert "Nothing is known of either side yet" in words(at.get("/jobs/414/carrier?backlash=9"))


# ---- adjusters and their book


def adjust(client, ring, far, **more):
    given = {"version": job().version, "station": "backlash", "ring": ring, "far": far} | more
    return client.post("/jobs/417/adjusters", given, headers=HTMX)


def test_positions_that_would_lock_the_gears_are_said_before_they_are_recorded(at):
    before = dict(state().settings)
    answer = adjust(at, "15", "-11")
    assert "The gears would lock" in words(answer)
    assert 'value="15"' in answer.content.decode()
    assert dict(state().settings) == before
    adjust(at, "15", "-11", knowing="1")
    assert state().settings[Place.RING] == Decimal(15), "how they stand is recorded when it is meant"


def test_the_carrier_is_moved_aside_and_brought_back_by_as_many_holes(at):
    assert post(at, does="aside", holes="-4").status_code == 302
    refused = send(
        at, "9", number=ADJUSTERS, places="8", questioned="9", lash="1", held="1", settled="1", status=422
    )
    assert "The carrier stands aside" in words(refused)
    assert adjust(at, "1", "1").status_code == 422
    short = post(at, does="back", holes="3")
    assert short.status_code == 422
    assert (
        "+3 holes on the ring side was given; +4 holes on the ring side is wanted. Count again."
        in words(short)
    )
    assert post(at, does="back", holes="4").status_code == 302
    assert bridge.load(job()).standings["backlash"].status.value == "out", "nothing went stale"


def test_caps_nipped_make_the_backlash_stale_until_they_are_torqued(at):
    post(at, does="nipped")
    assert bridge.load(job()).standings["backlash"].stale == "the caps were torqued otherwise"
    refused = post(at, does="torqued", torque="9000")
    assert "5 to 400 N·m is wanted" in words(refused)
    post(at, does="torqued", torque="")
    assert bridge.load(job()).standings["backlash"].stale == ""


@pytest.mark.parametrize(
    "given",
    [{"does": "aside", "holes": "0"}, {"does": "aside", "holes": "two"}, {"does": "dance"}, {"does": ""}],
)
def test_lines_that_cannot_be_written_are_refused(at, given):
    assert post(at, **given).status_code == 422


def test_marks_before_the_preload_is_right_are_refused(owner, at):
    refused = post(at, number=413, does="marked")
    assert "marks before the preload is right was given" in words(refused)
    assert "an axle with threaded adjusters is wanted" in words(post(at, number=412, does="marked"))


def test_the_book_is_append_only_and_sent_twice_is_written_once(at, owner):
    entry = str(uuid.uuid4())
    count = CarrierLine.objects.count()
    post(at, does="torqued", entry=entry)
    post(at, does="torqued", entry=entry)
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


def test_the_chosen_instrument_is_read_and_named(at, owner, settings):
    tool = Instrument.objects.of(owner.shop).get(name="Bench indicator")
    with peer(Conversation, settings):
        answer = at.get(
            "/jobs/412/take", {"kind": "backlash", "place": "1", "places": "4", "tool": str(tool.pk)}
        )
        assert 'name="instrument" value="Bench indicator"' in words(answer)
        wrench = Instrument.objects.of(owner.shop).get(name="Beam wrench")
        wrong = at.get(
            "/jobs/412/take", {"kind": "backlash", "place": "1", "places": "4", "tool": str(wrench.pk)}
        )
        assert "“wrench does not read that” was given" in words(wrong)
        feelers = Instrument.objects.of(owner.shop).get(name="Feelers, long set")
        off = at.get("/jobs/412/take", {"kind": "backlash", "tool": str(feelers.pk), "value": "9"})
        assert "“Feelers, long set”, which is not connected was given" in words(off)
        assert 'value="9"' in words(off)


def test_a_unit_a_zero_and_a_held_maximum_are_set_on_the_instrument(at, owner, settings):
    wrench = Instrument.objects.of(owner.shop).get(name="Beam wrench")
    with peer(Conversation, settings) as server:
        server.bench.tools["wrench"].offset = 4.0

        def order(what):
            return words(at.post(f"/instruments/{wrench.pk}/order", {"order": what}, follow=True))

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


def test_a_steady_reading_is_waited_for_and_a_typed_one_stays(at, settings):
    given = {"kind": "carrier_end_play", "place": "1", "steady": "1"}
    with peer(Conversation, settings):
        first = words(at.get("/jobs/412/take", given))
        assert "hold it still" in first
        seen = first.split('name="seen" value="')[1].split('"')[0]
        value = seen.split(":")[1]
        old = ";".join(f"{time.time() - 2.6 + k / 2:.2f}:{value}" for k in range(6))
        assert "held for two seconds" in words(at.get("/jobs/412/take", given | {"seen": old}))
        wild = ";".join(f"{time.time() - 40 + k:.2f}:{k % 2}" for k in range(20))
        assert "did not hold still" in words(at.get("/jobs/412/take", given | {"seen": wild}))
        typed = words(at.get("/jobs/412/take", given | {"seen": seen, "value": "8.5"}))
        assert 'value="8.5"' in typed
        assert "data-taken" not in typed


def test_a_foot_switch_is_one_of_the_keys_nobody_types(at, owner):
    at.post("/me/foot-switch", {"foot_switch": "PageDown"})
    assert 'data-foot="PageDown"' in words(at.get("/jobs/412/"))
    assert "one of the keys that the list names" in words(
        at.post("/me/foot-switch", {"foot_switch": "e"}, follow=True)
    )


def test_every_school_has_its_picture(owner, at):
    for number in (412, 417):
        layout = bridge.load(job(number)).spec.layout
        for way in stations()["carrier_preload"].ways_on(layout):
            kind = way.kinds[0]
            page = words(at.get(f"/jobs/{number}/?station=carrier_preload&kind={kind}"))
            assert "carrier-way" in page or "curve" in page, way.way


@pytest.mark.parametrize("sheet", ["Van rear", "Truck centre", "Blower", "Light axle"])
@pytest.mark.parametrize("units", ["thou", "mm"])
def test_every_page_answers_before_anything_is_read(owner, at, sheet, units):
    owner.units = units
    owner.save()
    owner.shop.ring_side_name = "the side with the thirty-tooth"
    owner.shop.save()
    kept = SpecSheet.objects.of(owner.shop).get(name__startswith=sheet)
    made = services.open_job(
        owner, kept, NewJob("x", "", "", date(2026, 3, 2), None, True, parse("0", THOU), "longer")
    )
    layout = bridge.load(made).spec.layout
    assert at.get(f"/jobs/{made.number}/carrier?backlash=9 thou").status_code == 200
    assert at.get(f"/jobs/{made.number}/?station=backlash").status_code == 200
    for way in stations()["carrier_preload"].ways_on(layout):
        for kind in way.kinds:
            assert at.get(f"/jobs/{made.number}/?station=carrier_preload&kind={kind}").status_code == 200, (
                kind
            )


def test_a_side_pack_that_would_not_go_in_is_warned_of(at):
    page = words(at.get("/jobs/412/pack?place=ring&wanted=120+%2B+120&station=carrier_preload"))
    assert "As named" in page
    send(at, "3", kind="zero_play", number=412, station="carrier_preload", status=200)
    page = words(at.get("/jobs/412/pack?place=ring&wanted=120+%2B+120&station=carrier_preload"))
    assert "will not go into the case" in page
    assert "gears would lock" in page


def test_hole_positions_of_a_job_are_written_by_its_bench(owner):
    bench = Bench(owner, job())
    bench.book(Done.NIPPED)
    assert state().settings[Place.CAPS] == 0


def test_take_reaches_the_other_pages_fields(at, settings):
    with peer(Conversation, settings):
        height = words(
            at.get("/jobs/412/take-field", {"kind": "stand_inner", "place": "2", "name": "stand_inner-2"})
        )
        assert 'name="stand_inner-2" value="30.' in height
        bolt = words(at.get("/jobs/412/take-field", {"kind": "cap_torque", "name": "value", "big": "1"}))
        assert "ft·lb" in bolt
        assert "✓ taken" in bolt
        wrong = words(at.get("/jobs/412/take-field", {"kind": "horn", "name": "value", "value": "7"}))
        assert 'value="7"' in wrong
        assert "▲" in wrong
    assert "data-takes" in words(at.get("/jobs/412/heights"))
    assert "data-takes" in words(at.get("/jobs/412/?station=torque"))
