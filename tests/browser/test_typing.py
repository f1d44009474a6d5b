"""Nothing typed is lost: a builder types faster than a slow link answers."""

from __future__ import annotations

from playwright.sync_api import Page, expect

from shop.jobs.models import Reading
from tests.shares import share_of

# The whole: 50 entries over a link that takes 1.5 s; the gate types fewer over a quicker one.
ENTRIES, SECONDS = share_of(50, 12), 1.5 if share_of(2, 1) == 2 else 0.5


def slow_down(page: Page) -> None:
    """A link on which every answer to a form takes its time."""
    import time

    def late(route) -> None:
        time.sleep(SECONDS)
        route.continue_()

    page.route("**/reading", late)


def test_entries_typed_ahead_of_the_answers_are_kept_in_order(lash: Page, live_server):
    """Run around the ring by hand: 12 places of backlash on a job that was never read, and round again."""
    lash.goto(f"{live_server.url}/jobs/413/?station=depth&kind=depth_feeler")
    expect(lash.locator("input.value")).to_be_focused()
    before = set(Reading.objects.values_list("pk", flat=True))
    values = [f"{28 + n / 10:.1f}" for n in range(ENTRIES)]
    slow_down(lash)
    for value in values:
        lash.keyboard.type(value, delay=4)
        lash.keyboard.press("Enter")
        # What a person cannot type while the answer is swapped in is a few milliseconds.
        lash.wait_for_timeout(40)
    expect(lash.locator("#waiting")).to_be_hidden(timeout=int(ENTRIES * SECONDS * 2500 + 20_000))
    expect(lash.locator(".htmx-request")).to_have_count(0, timeout=20_000)
    lash.wait_for_timeout(int(SECONDS * 1000) + 800)
    rows = Reading.objects.exclude(pk__in=before).filter(value__isnull=False).order_by("pk")
    assert [row.typed for row in rows] == values


def test_an_entry_half_typed_is_there_when_the_answer_comes(lash: Page, live_server):
    lash.goto(f"{live_server.url}/jobs/413/?station=depth&kind=depth_feeler")
    expect(lash.locator("input.value")).to_be_focused()
    slow_down(lash)
    with lash.expect_response(lambda answer: answer.request.method == "POST"):
        lash.keyboard.type("29.5")
        lash.keyboard.press("Enter")
        lash.keyboard.type("30.")
    expect(lash.locator(".htmx-request")).to_have_count(0)
    lash.keyboard.type("2")
    expect(lash.locator("input.value")).to_have_value("30.2")


def test_another_unit_or_theme_throws_no_entry_away(lash: Page, live_server):
    lash.goto(f"{live_server.url}/jobs/413/?station=depth&kind=depth_feeler")
    expect(lash.locator("input.value")).to_be_focused()
    lash.keyboard.type("29.5")
    lash.get_by_label("Menu of Ines Korb").click()
    lash.get_by_role("button", name="Light or dark").click()
    expect(lash.locator("input.value")).to_have_value("29.5")
    lash.get_by_role("button", name="mm", exact=True).click()
    lash.get_by_label("Menu of Ines Korb").click()
    expect(lash.get_by_role("button", name="mm", exact=True)).to_have_attribute("aria-pressed", "true")
    # With the unit in which it was typed: 29.5 mm would be another reading.
    expect(lash.locator("input.value")).to_have_value("29.5 thou")
