"""The pinion in a real browser: one axle of each kind of layout through depth and preload."""

from __future__ import annotations

from datetime import date

import pytest
from playwright.sync_api import Page, expect

from axle.layout import Place
from axle.measure.parse import parse
from axle.measure.units import THOU
from demo.player import Bench
from shop.jobs import loading
from shop.jobs.actions import opening
from shop.jobs.actions.opening import NewJob
from shop.jobs.models import Job
from shop.people.models import User
from shop.specs.models import SpecSheet
from shop.stock.models import ShimLot
from tests.browser.test_walk import enter, press, title


def at_depth(sheet: str, mark: str = "0", **choices: str) -> Bench:
    """A new job with everything before the pinion done."""
    owner = User.objects.get(username="ines")
    kept = SpecSheet.objects.of(owner.shop).get(name__startswith=sheet)
    new_job = NewJob(
        f"Test of {sheet}",
        "",
        complaint="",
        arrived_on=date(2026, 3, 2),
        promised_on=None,
        new_bearings=True,
        mark=parse(mark, THOU),
        mark_convention="longer",
    )
    bench = Bench(owner, opening.open_job(owner, kept, new_job))
    if choices:
        bench.choose(**choices)
    bench.arrive("2", ("12", "12", "12", "12"), "24")
    bench.run("ring", *["1", "1.6", "2", "1.6", "1", "0.4", "0", "0.4"])
    return bench


def state(number: int):
    return loading.load(Job.objects.get(number=number)).state


def go(page: Page, live_server, bench: Bench, station: str) -> None:
    """The station's page, whatever the work has in hand; the move stands on it."""
    page.goto(f"{live_server.url}/jobs/{bench.number}/?station={station}")


def way(page: Page, name: str) -> None:
    with page.expect_response(lambda answer: answer.request.method == "POST"):
        page.get_by_role("button", name=name, exact=True).click()
    expect(page.locator(".htmx-request")).to_have_count(0)


def test_head_shim_and_spacer_two_ways_compared_and_trials(lash: Page, live_server):
    bench = at_depth("Van rear")
    lash.goto(f"{live_server.url}/jobs/{bench.number}/?station=depth")
    title(lash, "Feeler between gauge block and arbor")
    enter(lash, "29-31")
    panel = lash.locator(".station-panel")
    expect(panel).to_contain_text("30.0")
    way(lash, "Bar on slips")
    for value in ("22 mm", "74.5 mm", "12"):
        enter(lash, value)
    # By hand: 22 + 74.5 + 12 thou less 96.5 mm is a shim of 12, where the block says 30.
    expect(panel).to_contain_text("disagree by 18")
    lash.keyboard.press("Escape")
    press(lash, "Control+z")
    enter(lash, "30.4")
    expect(panel).to_contain_text("together")
    expect(panel).not_to_contain_text("disagree")
    expect(panel).to_contain_text("Packs from the drawer")
    press(lash, "F4")
    # A pack to start from, out of the sheet; then end play, a trial, and the pack with its chance.
    go(lash, live_server, bench, "pinion_preload")
    expect(lash.locator("#move")).to_contain_text("Fit a preload pack to start from")
    press(lash, "F4")
    go(lash, live_server, bench, "pinion_preload")
    way(lash, "End play")
    enter(lash, "1.5")
    expect(lash.locator("#move")).to_contain_text("sure")
    press(lash, "F4")
    go(lash, live_server, bench, "pinion_preload")
    expect(panel).to_contain_text("Trials")
    way(lash, "Rotating torque")
    enter(lash, "13/11")
    expect(panel).to_contain_text("read both ways")
    press(lash, "F4")
    go(lash, live_server, bench, "pinion_preload")
    enter(lash, "22")
    expect(lash.locator(".job-ladder a", has_text="Pinion preload")).to_contain_text("in range")
    assert {"both", "seal", "oil"} <= set(
        next(
            t for t in state(bench.number).readings if t.value < 1.5 and t.kind == "pinion_torque"
        ).conditions
    )


def test_cup_shim_to_a_step_old_shim_mark_confirmed_and_coupled(lash: Page, live_server):
    bench = at_depth("Blower rear", "2", depth_by="old")
    lash.goto(f"{live_server.url}/jobs/{bench.number}/?station=depth")
    form = lash.locator(".mark-form")
    expect(form).to_contain_text("a thinner depth shim")
    form.get_by_label("+ is shorter").check()
    expect(form).to_contain_text("a thicker depth shim")
    form.get_by_label("+ is longer").check()
    expect(form).to_contain_text("a thinner depth shim")
    form.get_by_role("button", name="Yes, it means this").click()
    expect(lash.locator(".station-panel")).to_contain_text("further out")
    way(lash, "Old shim")
    enter(lash, "31")
    enter(lash, "1")
    # By hand, in thou: 31 − 2 + 1 = 30.
    expect(lash.locator("#move dd b").first).to_have_text("+30.0")
    press(lash, "F4")
    go(lash, live_server, bench, "pinion_preload")
    lash.locator("#move summary", has_text="Why").click()
    expect(lash.locator("#move")).to_contain_text("against a step it starts loose")
    press(lash, "F4")
    before = state(bench.number).setting(Place.PRELOAD)
    assert before > 0
    # A deeper pinion asks for the same at the preload pack, in the same move.
    lash.goto(f"{live_server.url}/jobs/{bench.number}/?station=depth&kind=old_shim")
    enter(lash, "34")
    expect(lash.locator("#move")).to_contain_text("Preload pack")
    press(lash, "F4")
    assert float(state(bench.number).setting(Place.PRELOAD) - before) == pytest.approx(
        3 * 0.0254, abs=0.013
    )


def test_cartridge_off_the_axle_is_crushed_by_bites_to_a_stop(lash: Page, live_server):
    lash.goto(f"{live_server.url}/jobs/416/")
    title(lash, "Rotating torque of the pinion")
    expect(lash.locator(".station-panel")).to_contain_text("Next bite: 20°")
    lash.get_by_label("nut turned, °").fill("20")
    lash.locator("input.value").focus()
    enter(lash, "20.5")
    expect(lash.locator(".job-ladder a", has_text="Pinion preload")).to_contain_text("in range")
    # The cartridge is right before it goes in: depth is next.
    title(lash, "Feeler between gauge block and arbor")
    lash.goto(f"{live_server.url}/jobs/416/?station=pinion_preload")
    expect(lash.locator(".bite")).to_contain_text("Stop.")


def test_head_shim_and_sleeve_by_dial_and_an_overshoot(lash: Page, live_server):
    bench = at_depth("Light axle", order="pinion_first", depth_by="dial")
    lash.goto(f"{live_server.url}/jobs/{bench.number}/?station=depth")
    title(lash, "Travel off the plate")
    lash.get_by_label("dial shows").select_option(label="figure pointed at, 0.100 in a turn")
    lash.locator("input.value").focus()
    enter(lash, "70")
    # From memory: on such a gauge a figure of 70 is a travel of 30.
    expect(lash.locator("#move dd b").first).to_have_text("+30.0")
    press(lash, "F4")
    go(lash, live_server, bench, "pinion_preload")
    for turned, torque in (("0", "1"), ("20", "9"), ("15", "31")):
        lash.get_by_label("nut turned, °").fill(turned)
        lash.locator("input.value").focus()
        enter(lash, torque)
    expect(lash.locator(".bite")).to_contain_text("The sleeve is spent")
    # Before a sleeve is thrown away its torque is read again.
    press(lash, "F4", "GET")
    enter(lash, "31")
    expect(lash.locator("#move")).to_contain_text("Never back the nut off")
    press(lash, "F4")
    expect(lash.locator(".entry .notice")).to_contain_text("New sleeve")
    lash.get_by_label("nut turned, °").fill("-5")
    lash.locator("input.value").focus()
    lash.keyboard.type("3")
    with lash.expect_response(lambda answer: answer.request.method == "POST") as answer:
        lash.keyboard.press("Enter")
    assert answer.value.status == 422
    expect(lash.get_by_role("alert").first).to_contain_text("never backed off")
    expect(lash.get_by_label("nut turned, °")).to_have_value("-5")


def test_shims_are_received_by_keyboard_a_size_at_a_time(lash: Page, live_server):
    lash.goto(f"{live_server.url}/drawer/")
    lash.get_by_label("Fits").select_option(label="pinion preload")
    lash.locator("#id_bin").fill("K7")
    field = lash.get_by_label("As mic'd")
    field.focus()
    for sizes, pieces in (("16.1 16.0 16.2", "4"), ("17", "2")):
        expect(field).to_be_focused()
        lash.keyboard.type(sizes)
        lash.keyboard.press("Tab")
        lash.keyboard.type(pieces)
        lash.keyboard.press("Enter")
        expect(lash.get_by_role("status").first).to_contain_text(f"{pieces} ×")
    lots = ShimLot.objects.filter(bin="K7").order_by("miced")
    # The mean of three readings, by hand 16.1.
    assert [(float(lot.miced), lot.quantity) for lot in lots] == [
        (pytest.approx(16.1 * 0.0254, abs=1e-5), 4),
        (pytest.approx(17 * 0.0254), 2),
    ]
