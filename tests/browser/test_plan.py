"""A job's plan and money in a real browser: estimate, yes, order, delivery, plan, a supplement, the account."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from shop.jobs.models import Job, PartLine
from shop.planning.models import Pin
from tests.browser.test_work import open_job


def shows(page: Page, words: str) -> None:
    expect(page.get_by_role("status").first).to_contain_text(words)


def test_an_axle_from_its_estimate_to_its_account(lash: Page, live_server):
    base = live_server.url
    number = open_job(lash, base, "Yard crane, rear", "Van rear, integral, solid spacer")
    job = f"{base}/jobs/{number}"

    # What it wants, with the reasons, put on the list in one go.
    lash.goto(f"{job}/parts")
    expect(lash.get_by_text("a seal is single use")).to_be_visible()
    lash.get_by_role("button", name="Put the ticked on the list").click()
    shows(lash, "lines are on the list")

    # The estimate with its range, and the customer's yes.
    lash.goto(f"{job}/money")
    expect(lash.get_by_text("8 times in 10 between").first).to_be_visible()
    lash.get_by_role("button", name="Write the estimate").click()
    shows(lash, "Estimate 1 is written")
    lash.get_by_label("the customer's name").fill("Works yard, office")
    lash.get_by_role("button", name="Yes").click()
    shows(lash, "Works yard, office said yes")

    # Ordered from one list over all jobs, taken in by keyboard.
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
    row = lash.locator("form.receive-line", has_text=f"{number:04d}").first
    row.get_by_label("came").focus()
    lash.keyboard.press("Enter")
    shows(lash, "here")
    assert PartLine.objects.filter(job__number=number, state="here").count() == 1

    # In the plan, with a chance beside its promise.
    lash.goto(f"{job}/money")
    day = lash.evaluate("new Date(Date.now() + 20 * 864e5).toISOString().slice(0, 10)")
    lash.get_by_label("promised for").fill(day)
    lash.get_by_role("button", name="Promise", exact=True).click()
    shows(lash, "Promised for")
    lash.goto(f"{base}/plan")
    lash.get_by_role("button", name="Plan anew").click()
    shows(lash, "The plan is made")
    promise = lash.locator("#promises tr", has_text="Yard crane, rear")
    expect(promise).to_contain_text("%")

    # A finding changes the price: the step waits for the answer.
    lash.goto(f"{job}/money")
    lash.get_by_text("A supplement: a finding changes the price").click()
    form = lash.locator("form", has=lash.get_by_role("button", name="Write the supplement"))
    form.get_by_label("what was found, and what it needs").fill("Cap cracked; a new one is bored in")
    form.get_by_label("part costs the customer").fill("95")
    form.get_by_label("before the step").select_option("final-torque")
    form.get_by_role("button", name="Write the supplement").click()
    shows(lash, "Supplement 1 is written")
    lash.goto(f"{job}/?station=torque&step=final-torque")
    expect(lash.get_by_text("Waits for the customer's answer to supplement 1").first).to_be_visible()
    lash.goto(f"{job}/money")
    lash.get_by_label("the customer's name").fill("Works yard, office")
    lash.get_by_role("button", name="Yes").click()
    shows(lash, "said yes")

    # The account, on paper and as a table.
    lash.get_by_label("hours charged").fill("7.5")
    lash.get_by_role("button", name="Write the account").click()
    shows(lash, "Account 1 is written")
    sheet = Job.objects.get(number=number).money_sheets.get(kind="account")
    paper = lash.request.get(f"{job}/money/{sheet.pk}.pdf")
    assert paper.body().startswith(b"%PDF")
    assert f"{sheet.totals['gross']}" in lash.request.get(f"{job}/money/{sheet.pk}.csv").text()


def test_a_bar_is_moved_by_hand_and_by_keys_once_its_consequence_was_seen(lash: Page, live_server):
    Pin.objects.all().delete()
    lash.goto(f"{live_server.url}/plan")
    bar = lash.locator(".board-wide a.bar[data-stretch^='416:']").first
    bar.focus()
    lash.keyboard.press("Enter")
    form = lash.locator("#move-form")
    expect(form).to_be_visible()
    days = lash.evaluate(
        "(n) => { const d = new Date(); do d.setDate(d.getDate() + 1); while (d.getDay() !== n); return d.toISOString().slice(0, 10); }",
        2,
    )
    form.get_by_label("day").fill(days)
    form.get_by_label("time").fill("09:00")
    lash.get_by_role("button", name="What follows").click()
    expect(lash.get_by_role("heading", name="What follows, not kept yet")).to_be_visible()
    assert not Pin.objects.exists()
    lash.get_by_role("button", name="Keep it").click()
    shows(lash, "the plan goes around it")
    assert Pin.objects.count() == 1

    box = lash.locator(".board-wide a.bar[data-stretch^='417:']").first.bounding_box()
    lash.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    lash.mouse.down()
    lash.mouse.move(box["x"] + box["width"] / 2 + 260, box["y"] + box["height"] / 2, steps=6)
    lash.mouse.up()
    lash.wait_for_url(re.compile(r"/plan/move"))
    follows = lash.get_by_role("heading", name="What follows, not kept yet")
    refused = lash.get_by_role("alert")
    expect(follows.or_(refused).first).to_be_visible()
    assert Pin.objects.count() == 1
