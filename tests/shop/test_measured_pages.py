"""Runout, torques and waits of the guided work, over HTTP."""

from __future__ import annotations

import io
import json
import re
import uuid
import zipfile
from datetime import timedelta

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.utils import timezone
from PIL import Image

from shop.jobs import loading
from shop.jobs.actions import photos
from shop.jobs.exchange import read, write
from shop.jobs.models import Job, Move, Photo, Reading, RegisterLine, StepMark, Tightening, Timer
from tests.shop.test_guided_work import HELD, job_of, post, send, words


def test_a_resent_form_is_stored_once(pages):
    entry = str(uuid.uuid4())
    before = RegisterLine.objects.count(), Reading.objects.count(), StepMark.objects.count()
    for _ in range(2):
        post(pages, "register", {"item": "gear", "event": "back", "words": "", "entry": entry})
        post(
            pages, "runout", {"part": "ring", "places": "8", "readings": "1 2 3 4 3 2 1 0", "entry": entry}
        )
        send(pages, "step", {"station": "ring_gear", "step": "ring-face", "mark": "done", "entry": entry})
    after = RegisterLine.objects.count(), Reading.objects.count(), StepMark.objects.count()
    assert [b - a for a, b in zip(before, after, strict=True)] == [1, 8, 1]


def test_runout_is_not_read_through_side_play(pages):
    job = job_of(413)
    send(pages, "reading", {"kind": "arrival_side_play", "value": "3", "station": "arrival"}, number=413)
    row = {"part": "ring", "places": "8", "readings": "1 2 3 4 3 2 1 0"}
    answer = post(pages, "runout", row, number=413)
    assert "runout is not believed through it" in words(answer)
    waived = {
        "station": "arrival",
        "step": HELD,
        "mark": "waived",
        "reason": "set is scrap, runout only for the record",
    }
    send(pages, "step", waived, number=413, status=200)
    assert post(pages, "runout", row, number=413).status_code == 200
    assert loading.load(job).state.play_accepted


def test_places_are_taken_one_by_one_into_one_run(pages):
    for value in ("1", "2", "3", "4", "3", "2", "1"):
        post(
            pages,
            "runout",
            {"part": "flange", "places": "8", "readings": value, "run": "0" if value == "x" else _run()},
        )
    assert "place 8 of 8" in words(pages.get("/jobs/415/runout?part=flange"))
    before = len(loading.load(job_of(415)).state.runs)
    post(pages, "runout", {"part": "flange", "places": "8", "readings": "0", "run": _run()})
    runs = loading.load(job_of(415)).state.runs
    assert len(runs) == before + 1
    assert runs[-1].result.places == 8


def _run() -> str:
    rows = Reading.objects.filter(assembly__job__number=415, kind="flange_run").order_by("-id")
    # A run that is whole begins a new one.
    last = rows.first()
    mine = [r for r in rows if r.conditions["run"] == last.conditions["run"]]
    return "0" if len(mine) % 8 == 0 else str(last.conditions["run"])


def test_a_clocking_keeps_what_was_expected_beside_what_came_of_it(pages):
    told = loading.load(job_of(415)).diagnosis
    assert told.act == "clock"
    holes = told.best.holes
    text = words(post(pages, "clock", {"holes": str(holes)}))
    assert "read around again" in text
    move = Move.objects.filter(job__number=415).last()
    assert move.expected[0]["low"] <= told.best.total <= move.expected[0]["high"]
    axle = loading.load(job_of(415))
    assert axle.standings["ring_gear"].stale == "the ring gear was re-clocked"
    row = "1.3 1.8 2.6 3.2 3.5 3.4 3.0 2.3 1.5 0.9 0.7 0.8"
    text = words(post(pages, "runout", {"part": "ring", "places": "12", "readings": row}))
    assert "2.8" in text.split("Expected and come of it")[1][:900]
    assert loading.load(job_of(415)).standings["ring_gear"].is_done


def test_a_torque_that_cannot_be_meant_is_questioned_once(pages):
    given = {"group": "ring", "stage": "1", "value": "720"}
    answer = send(pages, "tighten", given, status=200)
    assert "Was it in in·lb, not ft·lb?" in words(answer)
    assert not Tightening.objects.filter(job__number=415).exists()
    answer = send(pages, "tighten", given | {"questioned": "720"}, status=422)
    assert "28–32 ft·lb is wanted" in words(answer)


def test_a_stage_set_otherwise_says_why_and_the_adapter_is_worked_in(pages):
    given = {"group": "ring", "stage": "1", "value": "36", "words": "new bolts, first stage of their maker"}
    send(pages, "tighten", given, status=200)
    assert Tightening.objects.get(job__number=415).words.startswith("new bolts")
    given = {"group": "ring", "stage": "2", "value": "40", "length": "400", "adapter": "50"}
    send(pages, "tighten", given, status=200)
    row = Tightening.objects.filter(job__number=415).last()
    # Lever arms: 40 at the wrench is 40·450/400 at the bolt.
    assert float(row.value) / 1.3558179 == pytest.approx(45, abs=0.01)
    assert "with an adapter" in row.typed


def test_the_last_stage_stores_the_reading_and_a_change_makes_it_stale(pages):
    for stage, value in (("1", "30"), ("2", "45"), ("3", "60"), ("4", "60")):
        send(pages, "tighten", {"group": "ring", "stage": stage, "value": value}, status=200)
    assert loading.load(job_of(415)).state.latest("ring_bolt_torque").value == pytest.approx(60 * 1.3558179)
    post(pages, "clock", {"holes": "3"})
    text = words(pages.get("/jobs/415/torque"))
    assert "stale: the ring gear was re-clocked" in text


def test_a_group_is_corrected_from_the_part_in_hand(pages):
    given = {
        "group": "ring",
        "count": "12",
        "thread": "M12x1.25",
        "grade": "10.9",
        "hand": "left",
        "coating": "dry patch",
        "low": "90",
        "high": "100",
        "source": "sheet, page 4",
    }
    text = words(post(pages, "torque", given))
    assert "12 × M12x1.25, 10.9" in text
    assert "left-hand: tightens anticlockwise" in text
    assert "Sheet, page 4" in text
    assert loading.load(job_of(415)).state.ring_bolts == 12


def test_the_spreading_log_alarms_and_says_how_long(pages):
    text = words(post(pages, "spread", {"value": "12"}))
    assert "Spread for" in text
    text = words(post(pages, "spread", {"value": "21"}))
    assert "over the limit. Let it back now." in text
    text = words(post(pages, "spread", {"value": "0"}))
    assert "It was over its limit" in text
    assert "Spread for" not in text
    assert Reading.objects.filter(kind="spread", assembly__job__number=415).count() == 3


def test_a_wait_runs_in_the_records_until_it_is_heard(pages, owner):
    send(
        pages,
        "timer",
        {"station": "ring_gear", "step": "ring-seat", "title": "kiln", "minutes": "20"},
        status=200,
    )
    timer = Timer.objects.get(title="kiln")
    assert timer.due_at - timer.started_at == timedelta(minutes=20)
    assert re.search(r"kiln</a> <b>(19:5|20:00)", words(pages.get("/timers")))
    Timer.objects.filter(pk=timer.pk).update(due_at=timezone.now() - timedelta(seconds=65))
    text = words(pages.get("/timers"))
    assert "due, 1:05 ago" in text
    assert f'data-ring="{timer.pk}"' in text
    assert "kiln" in words(pages.get("/"))
    pages.post(f"/timers/415/{timer.pk}/end")
    assert "kiln" not in words(pages.get("/timers"))
    assert Timer.objects.get(pk=timer.pk).ended_by == owner.called


def test_another_shop_s_waits_and_photos_are_out_of_reach(client, stranger, demo):
    timer = Timer.objects.first()
    client.force_login(stranger)
    assert "oven" not in words(client.get("/timers"))
    assert client.post(f"/timers/415/{timer.pk}/end").status_code == 404
    assert client.get("/jobs/415/photos/1").status_code == 404


def test_coming_back_after_two_weeks_the_page_says_what_was_in_hand(pages):
    text = words(pages.get("/jobs/414/"))
    assert "16 days since Mattis Oran" in text or "15 days since Mattis Oran" in text
    assert "In hand:" in text
    assert "days since" not in words(pages.get("/jobs/411/"))


def test_the_sheet_waits_for_every_hold_and_one_reason_can_sign_them(pages):
    text = words(pages.get("/jobs/415/?station=sheet"))
    assert "Hold before oil" in text
    send(pages, "waive", {"reason": "trial run of the bench, axle is scrap"}, status=200)
    assert loading.load(job_of(415)).open_holds == ()


def picture(kind="JPEG", size=(80, 60), *, turned=False, place=False) -> bytes:
    image = Image.new("RGB", size, "white")
    image.paste("black", (0, 0, 12, 12))
    exif = Image.Exif()
    if turned:
        exif[0x0112] = 6  # Exif 2.3: turn a quarter clockwise to stand upright
    if place:
        exif.get_ifd(0x8825).update({1: "N", 2: (47.0, 3.0, 2.0), 3: "E", 4: (11.0, 5.0, 6.0)})
    out = io.BytesIO()
    image.save(out, kind, exif=exif.tobytes())
    return out.getvalue()


def upload(client, raw, name="p.jpg", step="ring-face"):
    file = SimpleUploadedFile(name, raw, "image/jpeg")
    return send(client, "photo", {"station": "ring_gear", "step": step, "photo": file})


@pytest.mark.parametrize("kind", ["JPEG", "PNG", "WEBP"])
def test_a_photo_is_turned_stripped_of_its_place_and_kept(pages, kind):
    raw = picture(kind, turned=True, place=True)
    assert Image.open(io.BytesIO(raw)).getexif().get_ifd(0x8825)
    sent = upload(pages, raw)
    # Sent behind the page, which then hears of it.
    assert (sent.status_code, sent["HX-Trigger"]) == (204, "photo-kept")
    photo = Photo.objects.last()
    assert (photo.width, photo.height) == (60, 80)
    shown = Image.open(photo.shown.open("rb"))
    assert shown.size == (60, 80)
    assert not shown.getexif()
    # Turned a quarter clockwise the black corner lies at the top right.
    assert sum(shown.convert("RGB").getpixel((56, 4))) < 200
    practice_run = Image.open(photo.original.open("rb"))
    assert not practice_run.getexif().get_ifd(0x8825)
    assert practice_run.getexif()[0x0112] == 6
    assert practice_run.convert("RGB").tobytes() == Image.open(io.BytesIO(raw)).convert("RGB").tobytes()
    assert pages.get(f"/jobs/415/photos/{photo.pk}")["Content-Type"] == "image/jpeg"
    assert photo.name in pages.get(f"/jobs/415/photos/{photo.pk}/original")["Content-Disposition"]


@pytest.mark.parametrize(
    ("raw", "said"),
    [
        (b"not a picture", "a file that is no picture"),
        (picture("GIF"), "JPEG, PNG or WebP is wanted"),
        (picture()[:-400], "a picture that breaks off"),
        (picture("PNG", (9000, 6000)), "at most 50 million"),
        (b"x" * (photos.LARGEST_FILE + 1), "at most 20 MB is wanted"),
    ],
    ids=["text", "gif", "cut", "points", "bytes"],
)
def test_a_picture_that_cannot_be_kept_is_refused_in_words(pages, raw, said):
    answer = upload(pages, raw)
    assert answer.status_code == 422
    assert said in words(answer)
    assert not Photo.objects.filter(job__number=415).exists()


def test_a_job_with_photos_goes_out_and_in_whole(pages, stranger):
    upload(pages, picture(turned=True, place=True))
    answer = pages.get("/jobs/415/job.json")
    assert answer["Content-Type"] == "application/zip"
    pack = zipfile.ZipFile(io.BytesIO(answer.content))
    data = json.loads(pack.read("job.json"))
    job, keeps = read.read_job(stranger, io.BytesIO(answer.content), len(answer.content))
    assert keeps
    assert data.pop("seal")["shop"] == str(job_of(415).shop.identity)
    assert write.write_job(job) == data == write.write_job(job_of(415))
    assert job.photos.get().original.read() == job_of(415).photos.get().original.read()


def test_an_archive_without_its_photo_is_refused_whole(pages, stranger):
    upload(pages, picture())
    text = json.dumps(write.write_job(job_of(415))).encode()
    before = Job.objects.count()
    for raw in (
        text,
        _zip({"job.json": text}),
        _zip({"roof": b"x"}),
        _zip({"job.json": text}, photo=b"other"),
    ):
        with pytest.raises(ValueError, match=r"photos|without a job in it"):
            read.read_job(stranger, io.BytesIO(raw), len(raw))
    assert Job.objects.count() == before


def _zip(files: dict[str, bytes], photo: bytes | None = None) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as pack:
        for name, raw in files.items():
            pack.writestr(name, raw)
        if photo is not None:
            pack.writestr(f"photos/{Photo.objects.last().entry}", photo)
    return out.getvalue()


def test_a_file_of_the_first_format_is_taken_in(stranger, demo):
    data = write.write_job(job_of(411))
    data["format"] = "lash-job/1"
    for name in ("step_marks", "register", "findings", "tightenings", "timers", "photos"):
        del data[name]
    for name in ("choices", "arrival", "fasteners", "tools"):
        del data["job"][name]
    raw = json.dumps(data).encode()
    job, _ = read.read_job(stranger, io.BytesIO(raw), len(raw))
    assert loading.load(job).plan.steps


@pytest.mark.parametrize(
    ("edit", "said"),
    [
        (lambda d: d["job"]["choices"].update(order="roof"), "job/choices/order"),
        (lambda d: d["job"]["choices"].update(crush="after_pattern"), "job/choices/crush"),
        (lambda d: d["job"]["tools"].update(roof="have"), "job/tools/roof"),
        (lambda d: d["job"]["fasteners"].update(locks={"count": 3}), "job/fasteners/locks"),
        (lambda d: d["job"]["fasteners"].update(ring={"thread": "M11"}), "job/fasteners/ring"),
        (lambda d: d["step_marks"][0].update(step="roof"), "step_marks/0"),
        (lambda d: d["step_marks"][0].update(mark="gone"), "step_marks/0"),
        (lambda d: d["register"][0].update(item="roof"), "register/0"),
        (lambda d: d["findings"][0].update(decision="weld"), "findings/0"),
        (lambda d: d["timers"][0].update(due_at="noon"), "timers/0/due_at"),
        (lambda d: d["register"][1].update(entry=d["register"][0]["entry"]), "each entry once"),
    ],
)
def test_bad_guided_work_in_a_file_is_refused_naming_the_place(stranger, demo, edit, said):
    data = write.write_job(job_of(415))
    edit(data)
    raw = json.dumps(data).encode()
    with pytest.raises(ValueError, match=re.escape(said)):
        read.read_job(stranger, io.BytesIO(raw), len(raw))
    assert not Job.objects.of(stranger.shop).exists()


def test_the_archive_s_size_is_bounded(stranger):
    with pytest.raises(ValueError, match="at most 268 MB"):
        read.unpack(io.BytesIO(b"PK\x03\x04"), 300_000_000, read.LARGEST_FILE)
