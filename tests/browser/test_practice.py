"""A whole practice axle by keyboard, from the first reading to its score; a round of questions by digits."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from axle.practice.ladder import exercise_named
from shop.jobs.actions import exercises
from shop.jobs.models import PracticeRun
from shop.people.models import User

# More presses than a whole axle ever takes.
MOST = 70


def settled(page: Page) -> None:
    page.wait_for_load_state()
    expect(page.locator(".htmx-request")).to_have_count(0)


def go(page: Page, key: str) -> None:
    """A key that leads to another page."""
    with page.expect_navigation():
        page.keyboard.press(key)
    settled(page)


def press(page: Page, key: str) -> None:
    with page.expect_response(lambda answer: "/jobs/" in answer.url):
        page.keyboard.press(key)
    settled(page)


def follow(page: Page) -> str:
    """Go where the card's own link leads, if it has one; its title."""
    title = page.locator("#move .move-title").inner_text()
    link = page.locator("#move .move-acts a.act")
    if link.count():
        link.first.focus()
        press(page, "Enter")
    return title


def take(page: Page) -> None:
    """Keypad *, then Enter: what the instrument shows is stored."""
    press(page, "NumpadMultiply")
    expect(page.locator("#value[data-taken]")).to_be_visible()
    press(page, "Enter")
    if page.locator(".goes-on").count():
        press(page, "Enter")


def print_both(page: Page) -> None:
    for flank in ("drive", "coast"):
        page.locator(f"button[name=flank][value={flank}]").focus()
        go(page, "Enter")
        keep = page.get_by_role("button", name=f"Store the {flank} flank")
        expect(keep).to_be_visible()
        keep.focus()
        go(page, "Enter")


def step_on(page: Page) -> bool:
    """One thing more, as the hint says; no more once the torques are next."""
    if page.locator("[data-key=F9]").count():
        go(page, "F9")
    card = page.locator("#move .move-title")
    if not card.count():
        return False
    if page.locator("#now form [data-key=F4], #move form [data-key=F4]").count():
        press(page, "F4")
        return True
    title = follow(page)
    if "Confirm what the mark means" in title:
        number = re.search(r"/jobs/(\d+)/", page.url)[1]
        page.goto(f"{page.url.split('/jobs/')[0]}/jobs/{number}/?station=depth&view=mark")
        page.get_by_role("button", name="Yes, it means this").focus()
        press(page, "Enter")
    elif "Mark the" in title or "Print" in title:
        print_both(page)
    elif "Read" in title and "nut" not in title:
        take(page)
    else:
        return False
    return True


def test_a_whole_practice_axle_by_keyboard_to_its_score(lash: Page, live_server):
    page = lash
    person = User.objects.get(username="ines")
    run = exercises.start_with(person, exercise_named("whole-axle"), 4242)
    page.goto(f"{live_server.url}/practice/{run.pk}")
    settled(page)
    expect(page.get_by_role("heading", name="Practice", exact=True)).to_be_visible()
    for _ in range(MOST):
        if not step_on(page):
            break
    expect(page.locator(".practice")).to_contain_text("5 of 5 in range")
    go(page, "F10")
    expect(page.locator(".score")).to_contain_text("points")
    expect(page.get_by_text("Truly in range, all of it.")).to_be_visible()
    ended = PracticeRun.objects.get(pk=run.pk)
    assert ended.points is not None
    assert ended.hints > 5
    assert ended.job.assemblies.count() <= 4
    # The ladder remembers it, and the list of jobs does not know it.
    page.goto(f"{live_server.url}/practice/")
    expect(page.locator(".rung.is-done")).to_contain_text("A whole axle, side shims and spacer")
    page.goto(f"{live_server.url}/")
    expect(page.get_by_text(str(ended.job.number))).to_have_count(0)


def test_a_round_of_questions_by_digits(lash: Page, live_server):
    page = lash
    page.goto(f"{live_server.url}/practice/")
    page.locator("button[value=which-way]").focus()
    go(page, "Enter")
    for number in range(1, 9):
        expect(page.get_by_text(f"Question {number} of 8")).to_be_visible()
        page.evaluate("document.activeElement.blur()")
        go(page, "1")
        expect(page.locator(".round-last")).to_contain_text(re.compile("Right|Not so"))
    expect(page.locator(".score")).to_contain_text("points")


def test_practice_fits_a_narrow_screen(lash: Page, live_server):
    page = lash
    page.set_viewport_size({"width": 820, "height": 1180})
    run = exercises.start_with(User.objects.get(username="ines"), exercise_named("whole-fault"), 11)
    for address in ("/practice/", "/practice/people", f"/jobs/{run.job.number}/", "/chances"):
        page.goto(live_server.url + address)
        settled(page)
        wide = page.evaluate("document.documentElement.scrollWidth - document.documentElement.clientWidth")
        assert wide <= 0, address
