"""A noise in a real browser: by account, by hand, by a recording, before and after."""

from __future__ import annotations

import io
import re
from threading import Thread

import soundfile
from django.db import connection, transaction
from playwright.sync_api import Page, expect

from axle.simulator.recorder import RecordingWorld
from shop.jobs.actions import recordings
from shop.jobs.models import NoiseLine, SoundWork
from shop.noise import worker

JOB = 415


def drive(truth: str, number: int = 2) -> tuple[bytes, dict[str, str]]:
    """A simulated drive with the works van's teeth, and what is typed beside it."""
    taken = RecordingWorld(8301, (8000,), teeth=(9, 38)).recording(truth, number, level=14.0, seconds=20.0)
    out = io.BytesIO()
    soundfile.write(out, taken.sound, taken.rate, format="FLAC", subtype="PCM_16")
    speed = ", ".join(f"{t:.0f} {v * 3.6:.1f} km/h" for t, v in taken.speeds[::2])
    spans = ", ".join(f"{a:.1f}-{b:.1f} {state}" for a, b, state in taken.marks if b - a > 0.3)
    return out.getvalue(), {
        "speed": speed,
        "spans": spans,
        "around": f"{taken.circumference * 1000:.0f} mm",
    }


def record(page: Page, truth: str) -> None:
    raw, told = drive(truth)
    form = page.locator(".recording-form")
    if not form.is_visible():
        page.locator("details summary", has_text="recording").first.click()
    form.locator("[name=sound]").set_input_files(
        {"name": f"{truth}.flac", "mimeType": "audio/flac", "buffer": raw}
    )
    for name, value in told.items():
        form.locator(f"[name={name}]").fill(value)
    form.get_by_role("button", name="Keep and listen").click()
    expect(page.locator(".listening")).to_contain_text("waits")
    assert worker.work_once()
    # The page asks by itself, and shows what came of it.
    expect(page.locator(".heard").first).to_be_visible(timeout=12_000)


def test_a_complaint_to_its_odds_by_account(lash: Page, live_server):
    lash.goto(f"{live_server.url}/jobs/{JOB}/noise")
    for question, answer in (("sound", "hum"), ("surface", "changes"), ("neutral", "yes")):
        with lash.expect_navigation():
            lash.locator(
                f"#ask-{question} button", has_text=re.compile(answer, re.IGNORECASE)
            ).first.click()
    expect(lash.locator(".noise-say")).to_contain_text("Said first: no axle work cures this.")
    expect(lash.locator(".noise-say")).to_contain_text("a tyre, or its tread")
    lash.reload()
    expect(lash.locator(".ratio-big")).to_contain_text("a tyre, or its tread")


def test_a_click_under_the_hand_names_its_check(lash: Page, live_server):
    lash.goto(f"{live_server.url}/jobs/{JOB}/by-hand")
    for flank, feel in (("drive", "click"), ("coast", "smooth")):
        with lash.expect_navigation():
            lash.locator(f"#turn-{flank}").get_by_role("button", name=feel).click()
    expect(lash.locator(".noise-say")).to_contain_text("speaks for a pinion that is too deep")
    lash.get_by_label("times", exact=True).fill("12")
    lash.get_by_label("in turns").fill("12")
    with lash.expect_navigation():
        lash.get_by_role("button", name="Write it down").click()
    expect(lash.locator("main")).to_contain_text("once a turn of the pinion")


def test_a_recording_to_its_verdict_and_before_and_after(lash: Page, live_server):
    lash.goto(f"{live_server.url}/jobs/{JOB}/recordings")
    record(lash, "gear_drive")
    expect(lash.locator(".ratio-big")).to_contain_text("the gears, on")
    expect(lash.locator(".heard-axle svg")).to_contain_text("Gears")
    expect(lash.locator("svg.order-spectrum").first).to_contain_text("mesh")
    picture = lash.request.get(live_server.url + lash.locator("input.speed-map").get_attribute("src"))
    assert picture.body()[:4] == b"\x89PNG"
    player = lash.locator("audio[data-sound]")
    lash.wait_for_function("document.querySelector('audio[data-sound]').readyState >= 1")
    assert player.evaluate("a => Math.round(a.duration)") == 20
    with lash.expect_navigation():
        lash.get_by_role("button", name="Keep this verdict").click()
    lash.goto(f"{live_server.url}/jobs/{JOB}/sheet")
    expect(lash.locator("body")).to_contain_text("by a recording the gears, on")
    lash.goto(f"{live_server.url}/jobs/{JOB}/recordings/after")
    record(lash, "healthy")
    expect(lash.locator(".levels")).to_contain_text("before")
    expect(lash.locator(".levels tr", has_text="gear mesh, whole")).to_contain_text(
        re.compile(r"gone|−\d+ dB")
    )
    assert NoiseLine.objects.filter(job__number=JOB, kind="heard").count() == 1


def test_stretches_are_marked_while_it_plays(lash: Page, live_server):
    lash.goto(f"{live_server.url}/jobs/{JOB}/recordings")
    record(lash, "tyre")
    lash.locator("details summary", has_text="recording").first.click()
    lash.wait_for_function("document.querySelector('audio[data-sound]').readyState >= 1")
    field = lash.locator("[data-spans]")
    field.fill("")
    lash.get_by_role("button", name="drive from here").click()
    lash.evaluate("document.querySelector('audio[data-sound]').currentTime = 7.5")
    lash.get_by_role("button", name="coast from here").click()
    expect(field).to_have_value(re.compile(r"^0\.0-7\.5 drive, 7\.5-(19|20)\.\d coast$"))
    with lash.expect_navigation():
        lash.get_by_role("button", name=re.compile("again, with this")).click()
    expect(lash.locator(".listening")).to_contain_text("waits")
    assert SoundWork.objects.order_by("-id")[0].given["spans"][0][2] == "drive"


def test_two_workers_never_take_the_same(lash: Page, live_server):
    """One holds the row in its transaction; the other skips it at once, and finds nothing."""
    lash.goto(f"{live_server.url}/jobs/{JOB}/recordings")
    raw, told = drive("tyre")
    form = lash.locator(".recording-form")
    form.locator("[name=sound]").set_input_files(
        {"name": "a.flac", "mimeType": "audio/flac", "buffer": raw}
    )
    for name, value in told.items():
        form.locator(f"[name={name}]").fill(value)
    with lash.expect_navigation():
        form.get_by_role("button", name="Keep and listen").click()
    found = []

    def other() -> None:
        found.append(recordings.take_next())
        connection.close()

    with transaction.atomic():
        held = SoundWork.objects.select_for_update(skip_locked=True).get(line__job__number=JOB)
        thread = Thread(target=other)
        thread.start()
        thread.join(10)
    assert found == [None]
    assert held.state == "waiting"
    assert recordings.take_next().pk == held.pk
