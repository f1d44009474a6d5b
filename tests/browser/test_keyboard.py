"""A whole job on the keyboard alone: what is entered is counted, and that no act needs the mouse."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from shop.jobs.models import Job
from tests.browser.test_walk import choose, enter, press, several, title, turn, type_print

# What an apprentice is asked to keep a whole job within.
MOST_ENTRIES = 110
OFF = {
    "Bearing cap, left": "punched, one dot",
    "Bearing cap, right": "punched, two dots",
    "Ring gear to carrier": "scribed across, high spot beside",
    "Depth shims": "27",
    "Preload shims": "20",
    "Left side shims": "120 + 60 + 10",
    "Right side shims": "120 + 60 + 12.1",
    "Solid spacer": "1250",
    "C-clips and lock bolt": "two and the bolt",
    "Small tools and dial tips": "4",
}
COUNT_MOUSE = """
window.addEventListener("pointerdown", (e) => { if (e.isTrusted) sessionStorage.setItem("mouse", "1"); }, true);
"""


def arrive(page: Page, path: str) -> None:
    """Wait for a page that a key led to."""
    page.wait_for_url(re.compile(path))
    expect(page.locator(".htmx-request")).to_have_count(0)


def until_page(page: Page, words: str) -> None:
    """Do step after step until one is done on a page of its own."""
    for _ in range(12):
        if page.locator("[data-key=F2]", has_text=words).count():
            return
        press(page, "F6")
        if page.locator(".order-warning").count():
            press(page, "Enter")


def write_off(page: Page) -> None:
    """Every part of the register, each with its own words, Enter after each."""
    page.keyboard.press("F2")
    arrive(page, "/register")
    for _ in OFF:
        words = page.locator(".findings-hand h2").inner_text()
        item = next(name for name in OFF if name in words)
        expect(page.locator("#words")).to_be_focused()
        page.keyboard.type(OFF[item])
        page.keyboard.press("Enter")
        expect(page.locator(".findings-hand h2")).not_to_contain_text(item)
    expect(page.locator(".findings-hand h2")).to_contain_text("All of it is written down")


def look_at_all(page: Page) -> None:
    """Nine parts, all sound: the digit 1 for each."""
    page.keyboard.press("F2")
    arrive(page, "/findings")
    for looked in range(1, 10):
        page.keyboard.press("1")
        expect(page.locator(".findings-draw .hint")).to_contain_text(f"{looked} of 9")
    expect(page.locator(".findings-hand h2")).to_contain_text("Every part is looked at")


def put_back(page: Page) -> None:
    """Everything back in: Enter on the first answer; the small tools by their number."""
    page.keyboard.press("F2")
    arrive(page, "/back-in")
    for _ in range(12):
        head = page.locator(".findings-hand h2").first
        words = head.inner_text()
        if "All of it is back" in words:
            return
        if page.locator("#words").count():
            page.keyboard.type(OFF["Small tools and dial tips"])
        page.keyboard.press("Enter")
        expect(head).not_to_have_text(words)


def test_a_whole_job_goes_on_the_keyboard_alone(lash: Page, live_server):
    page, sent = lash, []
    page.add_init_script(COUNT_MOUSE)
    page.on("request", lambda request: sent.append(request.url) if request.method == "POST" else None)
    number = open_job(page, live_server.url)
    take_in(page)
    set_pinion(page)
    set_carrier(page)
    mark_print(page)
    close(page)
    sign(page)
    assert Job.objects.get(number=number).state == Job.State.SIGNED
    assert page.evaluate('sessionStorage.getItem("mouse")') is None, "an act needed the mouse"
    assert len(sent) <= MOST_ENTRIES, f"{len(sent)} entries were sent"


def open_job(page: Page, address: str) -> int:
    """A new job: its name, the sheet by its first letters, the mark."""
    page.goto(f"{address}/jobs/new")
    expect(page.get_by_label("Axle")).to_be_focused()
    for typed in ("Gritter 9, rear", "Van"):
        page.keyboard.type(typed)
        for _ in range(3):
            page.keyboard.press("Tab")
    page.keyboard.type("-0")
    page.keyboard.press("Enter")
    page.wait_for_url(re.compile(r"/jobs/\d+/$"))
    return int(page.url.rstrip("/").rsplit("/", 1)[1])


def take_in(page: Page) -> None:
    """Arrival to clean parts: readings as received, parts off, findings, steps together."""
    title(page, "Side play")
    several(page)
    if not page.locator(".entry h2", has_text="Side play").count():
        press(page, "PageUp", "GET")
    title(page, "Side play")
    for value in ("0", "2.5", "14", "13.5", "14.5", "14", "31"):
        enter(page, value)
    expect(page.locator(".step-count")).to_contain_text("Teardown")
    write_off(page)
    page.keyboard.press("F4")
    arrive(page, "station=teardown")
    several(page)
    expect(page.locator(".step-count")).to_contain_text("Inspection")
    until_page(page, "Findings")
    look_at_all(page)
    page.keyboard.press("F4")
    arrive(page, "station=inspect")
    for station in ("Inspection", "Preparation", "Bearings fitted"):
        expect(page.locator(".step-count")).to_contain_text(station)
        several(page)
    title(page, "Ring gear runout, mounted")
    enter(page, "2")


def set_pinion(page: Page) -> None:
    """Depth by the gauge, preload by two packs."""
    title(page, "Feeler between gauge block and arbor")
    enter(page, "27")
    press(page, "F4")
    title(page, "Rotating torque of the pinion")
    press(page, "F2", "GET")
    choose(page, "20 + 3")
    enter(page, "14")
    press(page, "F4")
    title(page, "Rotating torque of the pinion")
    enter(page, "23")


def set_carrier(page: Page) -> None:
    """Both sides by F2, which fits what is still empty; backlash, a move, and all of it again."""
    title(page, "Rotating torque of the whole")
    for pack in ("120 + 60 + 10", "120 + 60 + 12.1"):
        press(page, "F2", "GET")
        choose(page, pack)
    for value in ("26.9", "13.1", "12.8", "13.4", "13"):
        enter(page, value)
    _read_until_move(page, {"of the whole": "26.9", "of the pinion": "23", "Backlash": "13"})
    expect(page.locator("#now")).to_contain_text("Close the backlash")
    press(page, "F4")
    title(page, "Rotating torque of the whole")
    for value in ("26.9", "9.3", "8.9", "9.5", "9.2"):
        enter(page, value)


def mark_print(page: Page) -> None:
    """A print by four numbers a flank: a digit opens them."""
    title(page, "mark the drive flank")
    press(page, "4", "GET")
    type_print(page)


def close(page: Page) -> None:
    """Everything back in, torques stage by stage, oil and road."""
    expect(page.locator(".step-count")).to_contain_text("Final build")
    until_page(page, "Everything back in")
    put_back(page)
    page.keyboard.press("F4")
    arrive(page, "station=final")
    several(page)
    while page.locator("#tighten").count():
        turn(page, "")
    expect(page.locator(".step-count")).to_contain_text("Oil and road")
    several(page)


def sign(page: Page) -> None:
    """The sheet, with a reason for what no record closes."""
    if not page.locator(".sign-form").count():
        press(page, "PageDown", "GET")
    expect(page.locator(".sign-form")).to_be_visible()
    while page.locator("details.deviation summary").count():
        page.keyboard.press("F8")
        page.keyboard.type("the rest was done on paper")
        press(page, "Enter")
    if page.get_by_label("Why steps are not done").count():
        for _ in range(60):
            if page.evaluate("document.activeElement.name") == "reason":
                break
            page.keyboard.press("Tab")
        page.keyboard.type("done on paper, the list was short of time")
    press(page, "F8")
    expect(page.locator(".sign-form")).to_contain_text("Signed by Ines Korb")


def _read_until_move(page: Page, figures: dict[str, str]) -> None:
    """Read what the Now asks for once more, each the same figure as before, until it is a move."""
    for _ in range(8):
        if page.locator("#now form").count():
            return
        press(page, "F4", "GET")
        head = page.locator(".entry h2").inner_text()
        enter(page, next(value for words, value in figures.items() if words in head))
