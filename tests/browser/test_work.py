"""The guided work in a real browser: arrivals, a wait, a deviation, out of order, a lost shim, a photo."""

from __future__ import annotations

import io
import re
from datetime import timedelta

import pytest
from django.utils import timezone
from PIL import Image
from playwright.sync_api import Page, expect

from shop.jobs import loading
from shop.jobs.models import Job, Photo, StepMark, Timer
from tests.browser.conftest import sign_in
from tests.browser.test_walk import enter, press, several


def open_job(page: Page, address: str, title: str, sheet: str) -> int:
    page.goto(f"{address}/jobs/new")
    page.get_by_label("Axle").fill(title)
    page.get_by_label("Spec sheet").select_option(label=sheet)
    page.get_by_role("button", name="Open the job").click()
    page.wait_for_url(re.compile(r"/jobs/\d+/$"))
    return int(page.url.rstrip("/").rsplit("/", 1)[1])


def take_down(page: Page, job: str, complaint: str, oil: str) -> None:
    page.goto(f"{job}/arrival")
    page.get_by_label("Customer's complaint").fill(complaint)
    page.get_by_label("Oil as found").select_option(oil)
    page.get_by_label("Mileage", exact=True).fill("88 400")
    page.get_by_role("button", name="Store the record").click()
    expect(page.get_by_role("status")).to_contain_text("taken down")
    for flank in ("Drive", "Coast"):
        form = page.locator("fieldset", has_text=flank)
        for end, value in (("from toe", "30"), ("to heel", "70"), ("from root", "30"), ("to top", "72")):
            form.get_by_label(end).fill(value)
        form.get_by_role("button", name="Mark as found").click()
        expect(page.get_by_role("status")).to_contain_text(f"The {flank.lower()} flank as found is kept")


def read_as_received(page: Page, job: str) -> None:
    page.goto(f"{job}/?station=arrival")
    for value in ("0", "3", "11", "12", "11.5", "12", "24"):
        enter(page, value)


def write(page: Page, item: str, words: str, event: str = "Came off") -> None:
    page.locator(".register-items a", has_text=item).click()
    hand = page.locator(".findings-hand")
    expect(hand.get_by_role("heading", level=2)).to_contain_text(item)
    hand.get_by_role("textbox").fill(words)
    hand.get_by_role("button", name=event).click()
    expect(page.get_by_role("status")).to_contain_text(f"Written: {item.lower()}")


def sent(page: Page) -> None:
    """Enter, and the page that comes of it."""
    with page.expect_response(lambda answer: answer.request.method == "POST"):
        page.keyboard.press("Enter")
    expect(page.locator(".htmx-request")).to_have_count(0)


def have_the_tools(page: Page) -> None:
    """The tools are at hand, and the answer has come: what is asked for next knows of it."""
    with page.expect_navigation():
        page.get_by_role("button", name="All of it is at hand").click()


def finish(page: Page, job: str, station: str) -> None:
    page.goto(f"{job}/?station={station}")
    if page.locator("[data-key=F7]").count():
        several(page)


def state_of(number: int) -> dict[str, str]:
    axle = loading.load(Job.objects.get(number=number))
    return {s.step.step: s.status.value for s in axle.progress}


def test_a_whole_arrival_on_a_drop_out(lash: Page, live_server):
    number = open_job(lash, live_server.url, "Gritter 4, centre", "Truck centre, drop-out, adjusters")
    job = f"{live_server.url}/jobs/{number}"
    lash.goto(f"{job}/work")
    expect(lash.locator(".sequence")).to_contain_text("nothing but the carrier's own bearings drags")
    take_down(lash, job, "Howls on the overrun", "dark")
    read_as_received(lash, job)
    lash.goto(f"{job}/tools")
    have_the_tools(lash)
    lash.goto(f"{job}/register")
    write(lash, "Small tools and dial tips", "5", "Counted out")
    for item in ("Bearing cap, left", "Bearing cap, right", "Adjuster, left", "Adjuster, right"):
        write(lash, item, "punched, dots down, hole 4")
    write(lash, "Ring gear to carrier", "scribed line at bolt 1")
    write(lash, "Depth shims", "20 + 9.5")
    expect(lash.locator(".register-list").nth(1)).to_contain_text("✓ Shims measured")
    finish(lash, job, "arrival")
    finish(lash, job, "teardown")
    expect(lash.locator(".job-ladder a", has_text="Teardown")).to_contain_text("done")
    steps = state_of(number)
    assert {s for name, s in steps.items() if name.startswith(("arrival", "teardown"))} <= {"done"} | (
        {steps["arrival-flange-runout"], steps["arrival-runout-cause"]}
    )
    assert "teardown-spread" not in steps
    assert "teardown-marks-adjusters" in steps


def test_a_whole_arrival_on_a_spread_integral_axle(lash: Page, live_server):
    number = open_job(lash, live_server.url, "Gritter 5, rear", "Van rear, integral, solid spacer")
    job = f"{live_server.url}/jobs/{number}"
    take_down(lash, job, "Whine on the pull", "water")
    read_as_received(lash, job)
    lash.goto(f"{job}/spread")
    for value in ("8", "16", "21"):
        lash.get_by_label("Spread now").fill(value)
        sent(lash)
        expect(lash.get_by_role("status").first).to_contain_text("Logged")
    expect(lash.locator(".alarm")).to_contain_text("over the limit. Let it back now.")
    lash.get_by_label("Spread now").fill("0")
    sent(lash)
    expect(lash.locator(".alarm")).to_have_count(0)
    lash.goto(f"{job}/register")
    write(lash, "Small tools and dial tips", "4", "Counted out")
    for item in ("Bearing cap, left", "Bearing cap, right", "Ring gear to carrier"):
        write(lash, item, "punched, dots down")
    for item, words in (
        ("Depth shims", "27"),
        ("Preload shims", "20"),
        ("Left side shims", "120 + 60"),
        ("Right side shims", "120 + 66"),
        ("C-clips and lock bolt", "2 and 1"),
    ):
        write(lash, item, words)
    lash.goto(f"{job}/tools")
    have_the_tools(lash)
    finish(lash, job, "arrival")
    finish(lash, job, "teardown")
    expect(lash.locator(".job-ladder a", has_text="Teardown")).to_contain_text("done")
    # Water opened the flush steps.
    lash.goto(f"{job}/?station=inspect")
    expect(lash.locator(".step-list")).to_contain_text("Flush everything the oil reached")
    expect(lash.locator(".step-body")).to_contain_text("Look for")


def test_a_wait_survives_a_reload_and_another_machine_and_sounds_when_due(lash: Page, live_server, browser):
    lash.goto(f"{live_server.url}/jobs/415/?station=ring_gear&step=ring-seat")
    Timer.objects.all().delete()
    lash.goto(f"{live_server.url}/jobs/415/?station=ring_gear&step=ring-seat")
    lash.get_by_label("Minutes").fill("15")
    lash.get_by_role("button", name="start: ring gear in the oven").click()
    expect(lash.locator(".entry .notice, .step-body .notice")).to_contain_text("15 min")
    lash.reload()
    expect(lash.locator("#timers")).to_contain_text(re.compile(r"14:\d\d|15:00"))
    other = browser.new_context().new_page()
    sign_in(other, live_server.url, "mattis")
    expect(other.locator("#timers")).to_contain_text("ring gear in the oven")
    expect(other.locator("#job-list")).to_contain_text("◷ ring gear in the oven")
    other.context.close()
    # Time goes by, whoever looks.
    Timer.objects.update(due_at=timezone.now() - timedelta(seconds=5))
    lash.reload()
    expect(lash.locator(".timer.is-due")).to_contain_text("due")
    expect(lash.locator("html")).to_have_attribute("data-rang", re.compile(r"[1-9]"))
    lash.locator("#timers > summary").click()
    lash.get_by_role("button", name="Stop the bell").click()
    expect(lash.locator(".timer")).to_have_count(0)
    assert Timer.objects.get().ended_by == "Ines Korb"


def test_a_hold_is_passed_by_a_signed_deviation(lash: Page, live_server):
    lash.goto(f"{live_server.url}/jobs/415/?station=final&step=final-register")
    expect(lash.locator(".step-held")).to_contain_text("Hold.")
    lash.locator("summary", has_text="Sign past this hold").click()
    with lash.expect_response(lambda answer: answer.request.method == "POST") as answer:
        lash.get_by_role("button", name="Sign the deviation").click()
    assert answer.value.status == 422
    expect(lash.get_by_role("alert").first).to_contain_text("why the hold is passed")
    lash.get_by_label("Reason, kept on the build sheet").fill("caps replaced with the housing")
    press(lash, "Enter")
    expect(lash.locator(".step-list a.is-current")).to_contain_text("signed")
    lash.goto(f"{live_server.url}/jobs/415/sheet")
    expect(lash.locator("body")).to_contain_text("caps replaced with the housing")


def test_a_step_out_of_order_warns_what_goes_stale(lash: Page, live_server):
    lash.goto(f"{live_server.url}/jobs/413/?station=final&step=final-bearings")
    press(lash, "F6")
    warning = lash.locator(".order-warning")
    expect(warning).to_contain_text("Out of order.")
    expect(warning).to_contain_text("It makes stale what is read of")
    assert not StepMark.objects.filter(step="final-bearings").exists()
    press(lash, "Enter")
    lash.goto(f"{live_server.url}/jobs/413/?station=depth")
    expect(lash.locator(".verdict")).to_contain_text("Stale: other bearings were fitted.")
    expect(lash.locator(".job-ladder a", has_text="Pinion depth")).to_contain_text("stale")
    expect(lash.locator(".station-panel tr.is-stale").first).to_be_visible()
    lash.get_by_role("link", name="axle", exact=True).click()
    expect(lash.locator(".callout.is-stale").first).to_be_visible()


def test_a_lost_shim_holds_until_it_is_found(lash: Page, live_server):
    lash.goto(f"{live_server.url}/jobs/415/register")
    write(lash, "Left side shims", "not in the tray", "Lost")
    expect(lash.locator(".register-list.is-open").first).to_contain_text("lost (not in the tray)")
    lash.goto(f"{live_server.url}/jobs/415/?station=teardown&step=teardown-shims-reconcile")
    expect(lash.locator(".step-held")).to_contain_text("lost (not in the tray)")
    expect(lash.locator(".job-ladder a", has_text="Teardown")).not_to_contain_text("11/11")
    lash.goto(f"{live_server.url}/jobs/415/register")
    write(lash, "Left side shims", "120 + 60 + 10", "Back in")
    lash.goto(f"{live_server.url}/jobs/415/?station=teardown&step=teardown-shims-reconcile")
    expect(lash.locator(".step-held")).to_have_count(0)


def test_a_photo_from_the_tablet_is_kept_on_its_step(lash: Page, live_server):
    out = io.BytesIO()
    Image.new("RGB", (640, 480), "grey").save(out, "JPEG")
    lash.goto(f"{live_server.url}/jobs/415/?station=teardown&step=teardown-shims")
    with lash.expect_response(lambda answer: answer.request.method == "POST"):
        lash.locator("input[type=file]").set_input_files(
            {"name": "shims.jpg", "mimeType": "image/jpeg", "buffer": out.getvalue()}
        )
    expect(lash.locator(".step-photos img")).to_have_count(1)
    assert Photo.objects.latest("pk").step == "teardown-shims"
    # The picture comes in its own time, after the page that shows it.
    expect(lash.locator(".step-photos img")).to_have_js_property("naturalWidth", 640)
    lash.goto(f"{live_server.url}/jobs/415/photos")
    expect(lash.locator("figure")).to_contain_text("Measure every shim")


@pytest.mark.parametrize("number", [415])
def test_a_gear_is_clocked_by_the_page_s_own_best_position(lash: Page, live_server, number):
    lash.goto(f"{live_server.url}/jobs/{number}/runout")
    expect(lash.locator(".move-title")).to_contain_text("Clock the gear by 2 holes against")
    lash.get_by_role("button", name="It is clocked so").click()
    expect(lash.get_by_role("status")).to_contain_text("read around again")
    lash.locator("#readings, #values").fill("1.3 1.8 2.6 3.2 3.5 3.4 3.0 2.3 1.5 0.9 0.7 0.8")
    lash.keyboard.press("Enter")
    expect(lash.locator(".move-title")).to_contain_text("Runout in range")
    row = lash.locator("tr", has_text="Clock the gear by 8 holes")
    expect(row).to_contain_text("◌ 2.")
    expect(row).to_contain_text("2.8")
