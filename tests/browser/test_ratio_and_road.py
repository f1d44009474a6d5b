"""In a real browser: from tyres to an order line and a tag; a road test with temperatures to the leaflet."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from shop.jobs.models import Job, Order
from tests.browser.test_plan import shows
from tests.browser.test_work import open_job


def test_from_tyres_to_an_order_line_and_a_tag(lash: Page, live_server):
    base = live_server.url
    number = open_job(lash, base, "Yard van, rear", "Van rear, integral, solid spacer")
    job = f"{base}/jobs/{number}"

    # What is in there now: turns leave a range, teeth settle it.
    lash.goto(f"{job}/counted")
    lash.get_by_label("Turns of the pinion").fill("42.25")
    lash.get_by_label("Turns of the left wheel").fill("10")
    lash.get_by_label("Turns of the right wheel").fill("10")
    lash.get_by_role("button", name="Write it down").first.click()
    shows(lash, "Written down")
    expect(lash.get_by_text("It could be")).to_contain_text("38/9")

    # A tyre that is none is named; the rest stays as it was typed.
    lash.goto(f"{job}/ratio")
    lash.get_by_role("link", name="Describe the vehicle").first.click()
    lash.get_by_role("textbox", name="Vehicle", exact=True).fill("Yard van")
    lash.get_by_label("Rear tyre, as it was").fill("225/0R16")
    lash.get_by_label("Rear tyre, from now on").fill("12.60 m in 5 turns")
    lash.get_by_label("Rear axle now").fill("38/9")
    lash.get_by_label("Gearbox, first to top").fill("4.2 2.3 1.4 1 0.77")
    lash.get_by_label("Cruises at").fill("62 mph")
    lash.get_by_role("button", name="Keep the vehicle").click()
    expect(lash.get_by_role("alert").first).to_contain_text("20 to 100")
    expect(lash.get_by_label("Rear tyre, from now on")).to_have_value("12.60 m in 5 turns")
    lash.get_by_label("Rear tyre, as it was").fill("225/75R16")
    lash.get_by_role("button", name="Keep the vehicle").click()
    shows(lash, "Yard van is kept")

    # Sets side by side; one is chosen, the customer says yes, what it has to fit is looked up.
    lash.goto(f"{job}/ratio")
    expect(lash.locator("svg.rpm-chart")).to_be_visible()
    lash.get_by_role("region", name="Sets side by side").get_by_role("link", name="38/9").click()
    lash.get_by_role("button", name="Build it with 38/9").click()
    shows(lash, "is chosen")
    lash.get_by_label("the customer's name").fill("Works yard, office")
    lash.get_by_role("button", name="Yes", exact=True).click()
    shows(lash, "Works yard, office said yes")
    section = lash.locator("#look-up")
    for field in section.get_by_role("textbox").all():
        field.fill("28")
    section.get_by_role("button", name="Keep the answers").click()
    shows(lash, "Kept.")
    expect(lash.get_by_role("link", name="It can be ordered.")).to_be_visible()

    # It stands on the order list and is ordered.
    lash.goto(f"{base}/orders")
    group = lash.locator(
        "form.order-group", has=lash.get_by_role("heading", name="Talbahn gears and bearings")
    )
    boxes = group.get_by_role("checkbox")
    for place in range(boxes.count()):
        boxes.nth(place).set_checked(
            f"job {number:04d}" in (boxes.nth(place).get_attribute("aria-label") or "")
        )
    group.get_by_role("button", name="Order the ticked").click()
    shows(lash, "Talbahn gears and bearings")
    line = Order.objects.order_by("-pk")[0].lines.get()
    assert line.words == "Ring and pinion 38/9, sold as 4.22"

    tag = lash.request.get(f"{job}/tag.pdf")
    assert tag.body()[:5] == b"%PDF-"
    assert Job.objects.get(number=number).sheet["gears"]["ring_teeth"] == 38


def test_a_road_test_with_temperatures_to_the_leaflet(lash: Page, live_server):
    base = live_server.url
    number = open_job(lash, base, "Post cart, rear", "Van rear, integral, solid spacer")
    job = f"{base}/jobs/{number}"

    lash.goto(f"{job}/road-test")
    lash.locator("#point-coast").get_by_role("button", name="growl").click()
    expect(lash.get_by_text("Stop: back on the stands.")).to_be_visible()
    lash.locator("#point-coast").get_by_role("button", name="nothing").click()
    expect(lash.get_by_text("Stop: back on the stands.")).to_have_count(0)

    for minute, nose, bottom in (("0", "50", "50"), ("10", "104", "95"), ("20", "140", "126")):
        lash.get_by_label("minutes from the start").fill(minute)
        lash.get_by_label(re.compile("^nose, over the pinion bearings")).fill(nose)
        lash.get_by_label(re.compile("^bottom of the housing")).fill(bottom)
        lash.get_by_role("button", name="Write them down").click()
        shows(lash, "Written down")
    expect(lash.locator("svg.heat-chart")).to_be_visible()
    expect(lash.get_by_text("usual after a drive")).to_be_visible()
    lash.get_by_role("button", name="Gone").click()
    expect(lash.get_by_text("✓ gone")).to_be_visible()

    lash.goto(f"{job}/oil")
    lash.get_by_label(re.compile("^How much went in")).fill("2.3")
    lash.get_by_role("button", name="Take it down").click()
    shows(lash, "Written down")

    lash.goto(f"{job}/break-in")
    lash.get_by_role("button", name="Hand it over").click()
    expect(lash.locator("svg.break-in-line")).to_be_visible()
    lash.get_by_role("button", name="Done", exact=True).click()
    expect(lash.get_by_text("Second easy drive").first).to_be_visible()

    lash.goto(f"{job}/leaflet")
    expect(lash.get_by_text("Stop, and call us")).to_be_visible()
    expect(lash.get_by_text("2.30 qt")).to_be_visible()
    assert lash.request.get(f"{job}/leaflet.pdf").body()[:5] == b"%PDF-"
