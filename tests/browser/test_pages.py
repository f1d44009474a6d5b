"""What a real browser shows: accessibility, drag, keys, two people, a database that goes away."""

from __future__ import annotations

import re
import threading

import pytest
from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import Page, expect

from axle.procedure.stations import stations
from instruments.simulated import Conversation, Server
from shop.jobs.models import Finding, Job, Pattern, Reading
from tests.browser.conftest import sign_in
from tests.browser.test_walk import enter, press

VIEWS = [
    "/",
    "/jobs/new",
    "/drawer/",
    "/sheets/",
    "/sheets/new",
    "/people",
    "/jobs/import",
    "/jobs/411/sheet",
    "/jobs/412/",
    "/jobs/412/?station=pattern",
    "/jobs/413/?station=carrier_preload",
    "/jobs/411/?station=sheet",
    "/jobs/414/?station=pinion_preload",
    "/jobs/415/?station=teardown",
    "/jobs/412/?station=torque",
    "/jobs/413/work",
    "/jobs/415/tools",
    "/jobs/414/arrival",
    "/jobs/415/register",
    "/jobs/412/findings",
    "/jobs/415/findings?part=gears&sign=scored",
    "/jobs/412/back-in",
    "/jobs/412/moves",
    "/moves",
    "/jobs/415/runout",
    "/jobs/415/spread",
    "/jobs/411/torque",
    "/jobs/415/photos",
    "/jobs/413/?station=depth",
    "/jobs/413/?station=depth&view=mark",
    "/jobs/416/",
    "/instruments/",
    "/drawer/make?family=depth&wanted=28.4",
    "/jobs/413/heights",
    "/practice/",
    "/practice/people",
    "/practice/3",
    "/chances",
    "/plan",
    "/orders",
    "/shop/hours",
    "/shop/standing",
    "/jobs/413/parts",
    "/jobs/412/money",
]


# Colours change with the theme over some hundred milliseconds: what is on its way is no colour of the page's.
TO_DARK = (
    "document.documentElement.dataset.theme = 'dark';"
    "Promise.allSettled(document.getAnimations().map(change => change.finished))"
)


def axe_finds(page: Page, only: str = "") -> list[str]:
    rules = {"runOnly": [only]} if only else {}
    found = Axe().run(page, options={"resultTypes": ["violations"], **rules}).response["violations"]
    return [f"{v['id']}: {v['nodes'][0]['html'][:160]}" for v in found]


def test_axe_finds_nothing_on_any_main_view(lash: Page, live_server):
    for view in VIEWS:
        lash.goto(live_server.url + view)
        assert axe_finds(lash) == [], view
        # Colours change with the theme, shapes and names do not.
        lash.evaluate(TO_DARK)
        assert axe_finds(lash, only="color-contrast") == [], f"{view}, dark"
    lash.get_by_label("Menu of Ines Korb").click()
    lash.get_by_role("button", name="Sign out").click()
    # A page that is still on its way has nothing in it, and axe would say so.
    lash.get_by_role("main").wait_for()
    lash.wait_for_url("**/sign-in**", wait_until="load")
    assert axe_finds(lash) == [], "sign-in"


def test_a_patch_is_marked_by_drag(lash: Page, live_server):
    lash.goto(f"{live_server.url}/jobs/412/?station=pattern&view=draw")
    before = Pattern.objects.count()
    box = lash.locator("svg.flank-drive").bounding_box()
    with lash.expect_response(lambda answer: answer.request.method == "POST") as answer:
        lash.mouse.move(box["x"] + 0.42 * box["width"], box["y"] + 0.44 * box["height"])
        lash.mouse.down()
        lash.mouse.move(box["x"] + 0.64 * box["width"], box["y"] + 0.74 * box["height"], steps=4)
        lash.mouse.up()
    assert answer.value.status == 200
    assert Pattern.objects.count() == before + 1
    marked = Pattern.objects.last()
    assert marked.flank == "drive"
    us = [u for u, _ in marked.outline]
    assert 0.2 < min(us) < max(us) < 0.8


def test_two_people_on_one_job(lash: Page, live_server, browser):
    lash.goto(f"{live_server.url}/jobs/412/?station=backlash&kind=backlash&place=2")
    other = browser.new_context().new_page()
    sign_in(other, live_server.url, "mattis")
    other.goto(f"{live_server.url}/jobs/412/?station=backlash&kind=backlash&place=1")
    enter(other, "11.4")
    press(other, "Enter")  # read already on this setting: once more means it
    lash.keyboard.type("11.0")
    press_expecting(lash, "Enter", 409)
    expect(lash.get_by_role("alert").first).to_contain_text("Mattis Oran read backlash 11.4")
    expect(lash.locator("input.value")).to_have_value("11.0")
    expect(lash.locator("input.value")).to_be_focused()
    assert not Reading.objects.filter(typed="11.0").exists()
    press(lash, "Enter")
    expect(lash.locator("#echo")).to_contain_text("Place 2 is read already on this setting.")
    press(lash, "Enter")
    assert Reading.objects.filter(typed="11.0", place=2).count() == 1
    other.context.close()


def press_expecting(page: Page, key: str, status: int) -> None:
    with page.expect_response(lambda answer: answer.request.method == "POST") as answer:
        page.keyboard.press(key)
    assert answer.value.status == status


def test_a_lost_database_keeps_the_entry_and_sends_it_again(lash: Page, live_server, monkeypatch):
    from django.db import OperationalError

    from shop.jobs import queries

    lash.goto(f"{live_server.url}/jobs/412/?station=backlash&kind=backlash&place=3")
    real = queries.job_of

    def lost(*args, **kwargs):
        raise OperationalError(2006, "Server has gone away")

    monkeypatch.setattr(queries, "job_of", lost)
    expect(lash.locator("input.value")).to_be_focused()
    lash.keyboard.type("11.2")
    press_expecting(lash, "Enter", 503)
    expect(lash.locator("#line")).to_contain_text("The records cannot be reached. Not stored yet.")
    expect(lash.locator("input.value")).to_have_value("11.2")
    with lash.expect_response(lambda answer: answer.status == 200 and answer.request.method == "POST"):
        monkeypatch.setattr(queries, "job_of", real)
    expect(lash.locator("#line")).to_be_hidden()
    press(lash, "Enter")
    assert Reading.objects.filter(typed="11.2", place=3).count() == 1


def test_an_unusual_value_is_questioned_at_the_bench(lash: Page, live_server):
    lash.goto(f"{live_server.url}/jobs/412/?station=pinion_preload&kind=pinion_torque&place=1")
    enter(lash, "19 ft-lb")
    expect(lash.locator("#echo")).to_contain_text("Did you mean 19 in·lb?")
    lash.get_by_role("button", name="19 in·lb").click()
    expect(lash.locator("input.value")).to_have_value("19 in·lb")
    # The carrier is in mesh by now: it is said when it was read.
    lash.locator("select[name=mesh]").select_option("before")
    lash.locator("input.value").focus()
    enter(lash, "")
    assert Reading.objects.filter(typed="19 in·lb").exists()


def test_keys(lash: Page, live_server):
    lash.goto(f"{live_server.url}/jobs/412/")
    # A letter in the field is a letter, never a shortcut.
    lash.keyboard.type("?")
    expect(lash.locator("dialog")).to_be_hidden()
    lash.keyboard.press("Escape")
    lash.keyboard.type("?")
    expect(lash.locator("dialog")).to_be_visible()
    lash.keyboard.press("Escape")
    press(lash, "PageDown", "GET")
    expect(lash.locator(".entry h2")).to_contain_text("Contact pattern")
    press(lash, "PageUp", "GET")
    expect(lash.locator(".entry h2")).to_contain_text("Backlash")
    count = Reading.objects.count()
    # In a field Ctrl+Z is the field's own; outside it the last act is undone, and can be done again.
    lash.locator("input.value").focus()
    lash.keyboard.press("Control+z")
    assert Reading.objects.count() == count
    lash.keyboard.press("Escape")
    press(lash, "Control+z")
    expect(lash.locator(".notice")).to_contain_text("It stays on record")
    with lash.expect_response(lambda answer: answer.request.method == "POST"):
        lash.get_by_role("button", name=re.compile("^Again")).first.click()
    expect(lash.locator(".notice")).to_contain_text("Again: ")


def test_take_reads_the_instrument_and_enter_stores_it(lash: Page, live_server, settings):
    with Server(("127.0.0.1", 0), Conversation) as server:
        settings.LASH_INSTRUMENT = f"127.0.0.1:{server.server_address[1]}"
        threading.Thread(target=server.serve_forever, daemon=True).start()
        lash.goto(f"{live_server.url}/jobs/412/?station=backlash&kind=backlash&place=4")
        press(lash, "NumpadMultiply", "GET")
        expect(lash.locator("input.value")).to_have_value(re.compile(r"^0\.00\d\d in$"))
        press(lash, "Enter")
        expect(lash.locator("#echo")).to_contain_text("read already")
        press(lash, "Enter")
        server.shutdown()
    row = Reading.objects.last()
    assert (row.unit, row.instrument) == ("in", "simulated bench set")


@pytest.mark.parametrize("width", [1280, 820])
def test_the_next_thing_is_in_sight(lash: Page, live_server, width):
    """The entry and the move stand on the first screen; numbers are readable at an arm's length."""
    lash.set_viewport_size({"width": width, "height": 800 if width > 1000 else 1180})
    lash.goto(f"{live_server.url}/jobs/412/?station=backlash&view=axle")
    expect(lash.locator("input.value")).to_be_in_viewport(ratio=1)
    expect(lash.locator("#move-title")).to_be_in_viewport()

    def size(selector: str) -> float:
        return float(lash.locator(selector).first.evaluate("e => parseFloat(getComputedStyle(e).fontSize)"))

    assert size("input.value") >= 40
    assert size(".do b") >= 32
    assert size(".axle-section .s-value") >= 26
    assert size(".axle-section .s-tag-unit") >= 16
    small = lash.evaluate(
        """() => [...document.querySelectorAll('.entry button, .move button, .job-ladder > a:not(.hidden)')]
        .filter(e => e.offsetParent && !e.closest('.keypad'))
        .map(e => [e.innerText, e.getBoundingClientRect().height]).filter(([, h]) => h < 44)"""
    )
    assert small == []


def test_touch_gets_a_keypad_with_large_keys(lash: Page, live_server, browser):
    touch = browser.new_context(
        viewport={"width": 820, "height": 1180}, has_touch=True, is_mobile=True
    ).new_page()
    sign_in(touch, live_server.url, "lio")
    touch.goto(f"{live_server.url}/jobs/412/?station=backlash&kind=backlash&place=1")
    for digit in "10.8":
        touch.get_by_role("group", name="Keypad").get_by_role("button", name=digit, exact=True).tap()
    expect(touch.locator("input.value")).to_have_value("10.8")
    for name in ("Next", "Undo"):
        assert (
            touch.locator(".entry-acts")
            .get_by_role("button", name=re.compile(name))
            .bounding_box()["height"]
            >= 64
        )
    for _ in range(2):  # the place is read already: once more means it
        with touch.expect_response(lambda answer: answer.request.method == "POST"):
            touch.get_by_role("button", name=re.compile("Next")).tap()
        expect(touch.locator(".htmx-request")).to_have_count(0)
    # The tightest place is now in range: its verdict is looked at before the work goes on.
    expect(touch.locator(".goes-on")).to_contain_text("Backlash: in range")
    with touch.expect_response(lambda answer: answer.request.method == "GET"):
        touch.locator(".goes-on a.act").tap()
    expect(touch.locator(".job-ladder [aria-current]")).not_to_contain_text("Backlash")
    assert Reading.objects.filter(typed="10.8").exists()
    touch.context.close()


def test_a_deviation_is_signed_at_the_bench(lash: Page, live_server):
    lash.goto(f"{live_server.url}/jobs/412/?station=backlash")
    lash.keyboard.press("F8")
    lash.get_by_label("Reason, kept on the build sheet").fill("hot use: loose end wanted by the yard")
    press(lash, "Enter")
    expect(lash.locator(".job-ladder a", has_text="Backlash")).to_contain_text("signed")
    lash.goto(f"{live_server.url}/jobs/412/sheet")
    expect(lash.locator(".build-sheet")).to_contain_text("hot use: loose end wanted by the yard")


def test_the_search_narrows_without_a_reload(lash: Page, live_server):
    lash.get_by_role("searchbox").press_sequentially("funicular maint")
    expect(lash.locator("#job-list tbody tr")).to_have_count(1)
    expect(lash).to_have_url(re.compile("q=funic"))
    assert Job.objects.filter(practice=False).count() == 8


def test_what_another_person_reads_appears_by_itself_and_never_under_the_hand(
    lash: Page, live_server, browser
):
    lash.goto(f"{live_server.url}/jobs/412/?station=backlash&kind=backlash&place=2")
    expect(lash.locator("input.value")).to_be_focused()
    lash.keyboard.type("11")
    other = browser.new_context().new_page()
    sign_in(other, live_server.url, "mattis")
    other.goto(f"{live_server.url}/jobs/412/?station=backlash&kind=backlash&place=1")
    enter(other, "11.4")
    press(other, "Enter")  # read already on this setting: once more means it
    other.context.close()
    # Longer than the page takes to ask: what is half typed is still there.
    lash.wait_for_timeout(6000)
    expect(lash.locator("input.value")).to_have_value("11")
    lash.locator("input.value").fill("")
    expect(lash.locator(".entry .notice")).to_contain_text("Mattis Oran read backlash", timeout=8000)
    expect(lash.locator("input.value")).to_be_focused()


# Every station, and the pages that stand beside them: nothing wider than the screen, nothing that axe objects to.
STATIONS = ("overview", *stations())
BESIDE = (
    "arrival",
    "register",
    "back-in",
    "findings",
    "runout",
    "carrier",
    "moves",
    "work",
    "tools",
    "torque",
    "record",
    "sheet",
    "parts",
    "money",
)


@pytest.mark.parametrize(("width", "height"), [(820, 1180), (390, 800)])
def test_every_station_fits_a_tablet_and_a_phone(lash: Page, live_server, width, height):
    lash.set_viewport_size({"width": width, "height": height})
    views = [f"/jobs/412/?station={name}" for name in STATIONS] + [f"/jobs/412/{name}" for name in BESIDE]
    for view in ("/", "/practice/", "/me", "/plan", "/orders", "/shop/hours", *views):
        lash.goto(live_server.url + view)
        wide = lash.evaluate("document.documentElement.scrollWidth")
        assert wide <= width, f"{view} is {wide} px wide on {width}"
        assert axe_finds(lash) == [], view
        lash.evaluate(TO_DARK)
        assert axe_finds(lash, only="color-contrast") == [], f"{view}, dark"
        lash.evaluate("document.documentElement.dataset.theme = 'light'")


def test_a_form_waits_for_the_link_and_is_kept_once(lash: Page, live_server):
    """Offline for a moment: what was written is said to wait, and is kept once when the link is back."""
    lash.goto(f"{live_server.url}/jobs/415/findings?part=gears&sign=scored")
    lash.get_by_label("Why, a few words").fill("drive side, near the toe")
    before = Finding.objects.count()
    lash.context.set_offline(True)
    lash.get_by_role("button", name="Replace").click()
    expect(lash.locator("#line")).to_contain_text("Not stored yet")
    expect(lash.get_by_label("Why, a few words")).to_have_value("drive side, near the toe")
    lash.context.set_offline(False)
    expect(lash.get_by_role("status").first).to_contain_text("scored or scuffed flank", timeout=15_000)
    assert Finding.objects.count() == before + 1
    assert Finding.objects.latest("pk").decision == "replace"
