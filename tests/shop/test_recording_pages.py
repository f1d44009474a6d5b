"""A recording to its verdict: uploaded, listened to by the worker, kept; refused in words; before and after."""

from __future__ import annotations

import io
import json
import struct
from datetime import timedelta

import numpy as np
import pytest
import soundfile
from django.core.files.storage import default_storage
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.test import Client
from django.test.utils import CaptureQueriesContext
from django.utils import timezone
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from axle.errors import AxleError
from axle.noise.recording import analyse
from axle.simulator.recorder import RecordingWorld
from shop.jobs import chain
from shop.jobs.actions import recordings
from shop.jobs.exchange import read, seal
from shop.jobs.models import Job, NoiseLine, SoundFile, SoundWork
from shop.noise import sound_files, worker
from shop.noise.recorded import given_by
from tests.shop.conftest import entry, post, words

RATE = 8000


def drive(truth="gear_drive", seconds=20.0, level=14.0, subtype="PCM_16", kind="WAV", channels=1):
    """A simulated drive as a file, and its speed and marks as they are typed."""
    taken = RecordingWorld(8202, (RATE,), teeth=(9, 38)).recording(truth, 2, level=level, seconds=seconds)
    out = io.BytesIO()
    soundfile.write(
        out, np.repeat(taken.sound[:, None], channels, axis=1), RATE, format=kind, subtype=subtype
    )
    speed = ", ".join(f"{t:.0f} {v * 3.6:.1f} km/h" for t, v in taken.speeds[::2])
    spans = ", ".join(f"{a:.1f}-{b:.1f} {state}" for a, b, state in taken.marks if b - a > 0.3)
    return out.getvalue(), {
        "speed": speed,
        "spans": spans,
        "around": f"{taken.circumference * 1000:.0f} mm",
    }


def upload(client, job, raw, name="drive.wav", page="recordings", **given):
    """Send the form with a file."""
    address = f"/jobs/{job.number}/{page}"
    form = {
        "version": str(Job.objects.get(pk=job.pk).version),
        "entry": entry(),
        "do": "record",
        "recorder": "phone",
        "speed_kind": "marks",
        "around": "2200 mm",
        "speed": "50",
        **given,
    }
    if raw is not None:
        form["sound"] = SimpleUploadedFile(name, raw)
    return client.post(address, form, follow=True)


def works(job):
    return SoundWork.objects.filter(line__job=job)


def test_a_recording_comes_to_a_verdict_that_is_kept_and_stands_on_the_sheet(pages, van):
    raw, told = drive()
    page = words(upload(pages, van, raw, **told))
    assert "It is listened to now." in page
    assert "It waits: 0 %." in page
    assert worker.work_once()
    assert not worker.work_once()
    work = works(van).get()
    assert (work.state, work.progress, work.words) == ("done", 100, "")
    page = words(pages.get(f"/jobs/{van.number}/recordings"))
    assert "the gears, on the drive side" in page
    assert "louder on drive" in page or "heard on drive" in page
    answer = post(pages, van, "recordings", do="keep", work=work.pk)
    assert "Kept: it stands on the build sheet." in words(answer)
    assert "by a recording the gears, on the drive side" in words(pages.get(f"/jobs/{van.number}/sheet"))
    # It goes with the job's file: what it said, and the digest of what was heard.
    lines = seal.sealed(Job.objects.get(pk=van.pk))["noise_lines"]
    assert [row["kind"] for row in lines] == ["recorded", "heard"]
    assert chain.check(van).holds


def test_before_and_after_stand_beside_each_other(pages, van):
    for page, truth in (("recordings", "gear_drive"), ("recordings/after", "healthy")):
        raw, told = drive(truth)
        upload(pages, van, raw, page=page, **told)
        assert worker.work_once()
    page = words(pages.get(f"/jobs/{van.number}/recordings/after"))
    assert "before now change" in page
    assert "gear mesh, whole" in page
    row = page.split("gear mesh, whole")[1][:60]
    assert "gone" in row or "−" in row


@pytest.mark.parametrize(
    ("kind", "subtype", "channels"),
    [
        ("WAV", "PCM_16", 1),
        ("WAV", "PCM_24", 2),
        ("WAV", "PCM_32", 1),
        ("WAV", "FLOAT", 2),
        ("FLAC", "PCM_24", 1),
    ],
)
def test_every_kind_of_file_is_taken(pages, van, kind, subtype, channels):
    raw, told = drive(seconds=8.0, kind=kind, subtype=subtype, channels=channels)
    upload(pages, van, raw, name=f"drive.{kind.lower()}", **told)
    row = NoiseLine.objects.get(job=van, kind="recorded")
    assert row.values["rate"] == RATE
    assert row.values["seconds"] == pytest.approx(8.0)
    with SoundFile.objects.get(line__job=van).file.open("rb") as file:
        assert file.read() == raw


def a_wav(*, rate=RATE, seconds=6.0, channels=1, subtype="PCM_16"):
    out = io.BytesIO()
    sound = 0.1 * np.random.default_rng(1).standard_normal((int(rate * seconds), channels))
    soundfile.write(out, sound, rate, format="WAV", subtype=subtype)
    return out.getvalue()


@pytest.mark.parametrize(
    ("raw", "given", "wanted"),
    [
        (None, {}, "a file of sound"),
        (b"", {}, "WAV or FLAC"),
        (b"no sound at all", {}, "a file that is no sound"),
        (a_wav(rate=4000), {}, "4000 Hz"),
        (a_wav(channels=3), {}, "3 channels"),
        (a_wav(seconds=1.0), {}, "1.0 s"),
        (a_wav(subtype="PCM_U8"), {}, "PCM_U8"),
        (a_wav(subtype="ULAW"), {}, "ULAW"),
        (a_wav(), {"around": "round"}, "tyre"),
        (a_wav(), {"around": ""}, "tyre"),
        (a_wav(), {"speed": ""}, "a speed"),
        (a_wav(), {"speed": "fast"}, "fast"),
        (a_wav(), {"speed": "0 400"}, "400"),
        (a_wav(), {"spans": "0-9 sideways"}, "sideways"),
        (a_wav(), {"recorder": "ear"}, "phone"),
        (a_wav(), {"speed_kind": "guess"}, "marks, table"),
        (a_wav(), {"speed_kind": "track"}, "no file"),
        (a_wav(), {"speed_kind": "tone", "at": "3", "frequency": "9"}, "20"),
        (a_wav(), {"bearing-wheel": "9 30 20 0"}, "less than the pitch diameter"),
        (a_wav(), {"tread": "3"}, "10"),
        (a_wav(), {"gear": "x"}, "engine turns"),
    ],
)
def test_what_is_no_recording_is_refused_in_words(pages, van, raw, given, wanted):
    answer = upload(pages, van, raw, **given)
    assert answer.status_code == 422
    assert wanted in words(answer)
    assert not works(van).exists()
    assert not NoiseLine.objects.filter(job=van).exists()


def test_a_file_that_is_too_large_is_refused_before_it_is_read():
    with pytest.raises(AxleError, match="501 MB"):
        sound_files.check_size(501_000_000)


@given(st.binary(max_size=400), st.booleans(), st.integers(0, 60))
@settings(max_examples=80, suppress_health_check=[HealthCheck.function_scoped_fixture])
def test_a_broken_file_gives_words(noise, whole, at):
    """Random bytes, and a good file with some of its bytes overwritten or its end cut off."""
    good = a_wav(seconds=4.5)
    raw = noise if whole else good[:at] + noise + good[at + len(noise) : len(good) - 37 * at]
    for look in (
        lambda file: sound_files.looked_at(file, table=False),
        lambda file: sound_files.taken_apart(file, table=False, progress=lambda _: None),
        lambda file: sound_files.looked_at(file, table=True),
    ):
        try:
            look(io.BytesIO(raw))
        except AxleError as problem:
            assert problem.wanted  # noqa: PT017 - either a recording or words


def test_a_header_that_promises_more_than_there_is_does_no_harm(pages, van):
    raw = bytearray(a_wav(seconds=5.0))
    at = raw.index(b"data")
    raw[at + 4 : at + 8] = struct.pack("<I", 2_000_000_000)
    answer = upload(pages, van, bytes(raw))
    assert answer.status_code in (200, 422)
    worker.work_once()
    assert not works(van).filter(state="running").exists()


def test_a_standing_vehicle_says_so_after_the_worker_listened(pages, van):
    upload(pages, van, a_wav(), speed="1 km/h")
    assert worker.work_once()
    assert works(van).get().state == "failed"
    assert "faster than a walk" in words(pages.get(f"/jobs/{van.number}/recordings"))


def test_a_worker_that_stopped_is_taken_over_and_given_up_in_the_end(pages, van):
    upload(pages, van, a_wav())
    taken = recordings.take_next()
    assert taken.state == "running"
    assert recordings.take_next() is None
    for more in range(2):
        works(van).update(beat_at=timezone.now() - timedelta(minutes=5))
        again = recordings.take_next()
        assert (again.pk, again.tries) == (taken.pk, more + 2)
    works(van).update(beat_at=timezone.now() - timedelta(minutes=5))
    assert recordings.take_next() is None
    assert "three times" in works(van).get().words


def test_rows_that_others_hold_are_skipped(owner):
    assert owner.shop
    with CaptureQueriesContext(connection) as asked:
        recordings.take_next()
    assert any("FOR UPDATE SKIP LOCKED" in query["sql"] for query in asked)


def test_a_fault_of_the_worker_ends_one_recording_and_not_the_next(pages, van, monkeypatch):
    upload(pages, van, a_wav(), speed="60 km/h")
    monkeypatch.setattr(worker, "analyse", lambda *_: 1 / 0)
    assert worker.work_once()
    assert "server's log" in works(van).get().words
    monkeypatch.setattr(worker, "analyse", analyse)
    raw, told = drive(seconds=12.0)
    upload(pages, van, raw, **told)
    SoundFile.objects.filter(line__job=van).first().file.delete(save=False)
    assert worker.work_once()
    assert works(van).last().state == "done"


def test_listened_to_again_with_more_told_and_from_a_tone_of_the_map(pages, van):
    raw, told = drive()
    upload(pages, van, raw, **told)
    worker.work_once()
    line = NoiseLine.objects.get(job=van, kind="recorded")
    page = words(
        post(
            pages,
            van,
            "recordings",
            do="again",
            line=line.pk,
            recorder="phone",
            speed_kind="marks",
            tread="38",
            **told,
        )
    )
    assert "is listened to again" in page
    assert works(van).last().given["tread"] == 38
    worker.work_once()
    given = {"do": "again", "line": line.pk, "map.x": "300", "map.y": "200"}
    assert "is listened to again" in words(post(pages, van, "recordings", **given))
    last = works(van).last()
    assert last.given["speed"]["kind"] == "tone"
    assert 20 <= last.given["speed"]["frequency"] <= 1600
    assert worker.work_once()
    assert "no order is named" in words(pages.get(f"/jobs/{van.number}/recordings"))


def test_an_accelerometer_s_table_is_a_recording_too(pages, van):
    taken = RecordingWorld(8203, (400,), teeth=(9, 38)).recording(
        "shaft", 2, level=12.0, seconds=40.0, rate=400
    )
    table = "time,x\n" + "\n".join(f"{n / 400:.4f},{x:.4f}" for n, x in enumerate(taken.sound))
    speed = ", ".join(f"{t:.0f} {v * 3.6:.1f} km/h" for t, v in taken.speeds[::2])
    around = f"{taken.circumference * 1000:.0f} mm"
    upload(
        pages,
        van,
        table.encode(),
        name="phone.csv",
        recorder="phone_accelerometer",
        speed=speed,
        around=around,
    )
    assert worker.work_once()
    assert works(van).get().state == "done"
    assert "driveshaft" in words(pages.get(f"/jobs/{van.number}/recordings"))


def test_the_sound_is_played_whole_or_in_parts(pages, van):
    raw = a_wav()
    upload(pages, van, raw)
    line = NoiseLine.objects.get(job=van, kind="recorded")
    address = f"/jobs/{van.number}/recordings/{line.pk}/sound"
    whole = pages.get(address)
    assert b"".join(whole.streaming_content) == raw
    part = pages.get(address, headers={"range": "bytes=100-199"})
    assert (part.status_code, part.content) == (206, raw[100:200])
    assert part["Content-Range"] == f"bytes 100-199/{len(raw)}"
    assert pages.get(address, headers={"range": f"bytes={len(raw)}-"}).status_code == 416
    assert pages.get(address, headers={"range": "bytes=junk"}).status_code == 200


def test_the_map_is_a_picture_and_another_shop_sees_none_of_it(pages, van, stranger):
    raw, told = drive(seconds=12.0)
    upload(pages, van, raw, **told)
    work = works(van).get()
    address = f"/jobs/{van.number}/recordings/{work.pk}"
    assert pages.get(f"{address}/map.png").status_code == 404
    assert "It waits" in words(pages.get(f"{address}/state"))
    worker.work_once()
    assert pages.get(f"{address}/state")["HX-Refresh"] == "true"
    assert pages.get(f"{address}/map.png").content[:4] == b"\x89PNG"
    elsewhere = Client()
    elsewhere.force_login(stranger)
    for path in ("map.png", "state", "sound"):
        assert elsewhere.get(f"{address}/{path}").status_code == 404
    assert pages.get(f"/jobs/{van.number}/recordings/99999/map.png").status_code == 404


def test_a_struck_recording_is_listened_to_no_more(pages, van):
    upload(pages, van, a_wav())
    line = NoiseLine.objects.get(job=van, kind="recorded")
    assert "Struck" in words(
        post(pages, van, "recordings", do="strike", line=line.pk, reason="the wrong van")
    )
    answer = post(pages, van, "recordings", do="again", line=line.pk)
    assert answer.status_code == 422
    assert "struck, or was never there" in words(answer)
    assert NoiseLine.objects.filter(job=van, kind="recorded").count() == 1


def test_sent_twice_it_is_one_recording(pages, van):
    sent = entry()
    for _ in range(2):
        upload(pages, van, a_wav(), entry=sent)
    assert works(van).count() == 1
    assert given_by(RecordingWorld(1, (RATE,)).recording("tyre", 1, seconds=8.0)).recorder == "phone"


def test_a_round_for_the_ear(pages: Client):
    page = pages.post("/practice/start", {"exercise": "hear-load"}, follow=True)
    body = page.content.decode()
    assert "<audio" in body
    assert body.count('class="order-spectrum"') == 2
    run = page.request["PATH_INFO"].rstrip("/").rsplit("/", 1)[1]
    sound = pages.get(f"/practice/{run}/sound/1.wav")
    assert sound.content[:4] == b"RIFF"
    assert pages.get(f"/practice/{run}/sound/3.wav").status_code == 404
    answer = pages.post(f"/practice/{run}/answer", {"number": "1", "answer": "tyre"}, follow=True)
    assert "It was " in words(answer)


def test_a_tachometer_on_the_second_channel_is_the_speed(pages, van):
    times = np.arange(20 * RATE) / RATE
    angle = 8.0 * times + 0.1 * times**2
    sound = 0.3 * np.cos(2 * np.pi * 38 * angle) + 0.1 * np.random.default_rng(3).standard_normal(
        len(times)
    )
    # One short pulse to each turn of the driveshaft, 38/9 turns to one of the ring gear.
    pulse = 0.8 * ((angle * 38 / 9) % 1 < 0.08)
    out = io.BytesIO()
    soundfile.write(out, np.column_stack([sound, pulse]), RATE, format="WAV", subtype="PCM_16")
    upload(pages, van, out.getvalue(), speed_kind="pulses", speed="", per_turn="1")
    assert worker.work_once()
    work = works(van).get()
    assert (work.state, work.words) == ("done", "")
    assert work.result["speed"] == pytest.approx(10.0 * 2.2, rel=0.03)
    assert work.result["levels"]["mesh all"]["over"] > 5
    # A recording of one channel has none.
    upload(pages, van, a_wav(), speed_kind="pulses", speed="")
    worker.work_once()
    assert "a stereo recording" in works(van).last().words


def test_what_another_version_made_of_a_recording_is_listened_to_again(pages, van):
    raw, told = drive(seconds=8.0)
    upload(pages, van, raw, **told)
    worker.work_once()
    works(van).update(result={"made": "elsewhere"})
    page = words(pages.get(f"/jobs/{van.number}/recordings"))
    assert "Listen to it again." in page
    work = works(van).get()
    assert pages.get(f"/jobs/{van.number}/recordings/{work.pk}/map.png").status_code == 404
    answer = post(pages, van, "recordings", do="keep", work=work.pk)
    assert answer.status_code == 422
    assert "another version" in words(answer)


def test_a_job_file_brings_what_a_recording_said_without_its_sound(pages, van, owner):
    raw, told = drive()
    upload(pages, van, raw, **told)
    worker.work_once()
    post(pages, van, "recordings", do="keep", work=works(van).get().pk)
    text = json.dumps(seal.sealed(Job.objects.get(pk=van.pk))).encode()
    made, _ = read.read_job(owner, io.BytesIO(text), len(text))
    page = words(pages.get(f"/jobs/{made.number}/recordings"))
    assert "Its sound is not here" in page
    assert "the gears, on the drive side" in page
    answer = post(
        pages,
        made,
        "recordings",
        do="again",
        line=made.noise_lines.first().pk,
        recorder="phone",
        speed_kind="marks",
        **told,
    )
    assert answer.status_code == 422
    assert "Record it again." in words(answer)


def test_what_was_not_recorded_after_is_not_called_gone(pages, van):
    for page, truth, marked in (
        ("recordings", "gear_drive", True),
        ("recordings/after", "gear_drive", False),
    ):
        raw, told = drive(truth)
        upload(pages, van, raw, page=page, **(told if marked else told | {"spans": ""}))
        assert worker.work_once()
    page = words(pages.get(f"/jobs/{van.number}/recordings/after"))
    row = page.split("gear mesh, drive")[1][:60]
    assert "not recorded" in row
    assert "gone" not in row
    assert "Not on both" in page


def test_two_readers_of_a_kept_file_do_not_move_each_other(pages, van):
    """As on a disk: what the tests keep files in must not differ from it there."""
    upload(pages, van, a_wav())
    kept = works(van).get().line.sound.file.name
    with default_storage.open(kept) as one, default_storage.open(kept) as other:
        whole = one.read()
        assert len(whole) > 1000
        assert other.read() == whole
