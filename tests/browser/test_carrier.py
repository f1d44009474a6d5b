"""The carrier in a real browser: each kind of position from first fit to in range, by keyboard."""

from __future__ import annotations

import threading

import pytest
from playwright.sync_api import Page, expect

from axle.layout import Place
from demo.player import Bench
from instruments.simulated import Conversation, Server
from shop.jobs import loading
from shop.jobs.models import Reading
from shop.people.models import Shop, User
from tests.browser.test_pinion import at_depth, go, state, way
from tests.browser.test_walk import enter, press, title

KINDS = [
    ("Van rear", "both_sides", ("120 60 8", "120 60 10")),
    ("Blower", "one_side", ("40 20", "40 20 3")),
    ("Light axle", "cover_loose", ("40 20", "40 20 3")),
    ("Truck centre", "holes", None),
]


def at_carrier(sheet: str, school: str, packs: tuple[str, str] | None) -> Bench:
    """A new job with the pinion signed and loose first packs in."""
    bench = at_depth(sheet, order="pinion_first")
    bench.choose(school=school)
    bench.fit(Place.DEPTH, "30")
    bench.sign("depth", "measured on another bench")
    bench.sign("pinion_preload", "measured on another bench")
    if packs is not None:
        for place, sizes in zip((Place.RING, Place.FAR), packs, strict=True):
            bench.fit(place, *sizes.split())
    return bench


def around(page: Page, *values: str) -> None:
    for value in values:
        enter(page, value)


@pytest.mark.parametrize(("sheet", "school", "packs"), KINDS, ids=[row[0] for row in KINDS])
def test_from_first_fit_to_in_range_with_one_planned_move(lash: Page, live_server, sheet, school, packs):
    Shop.objects.update(schools={})
    bench = at_carrier(sheet, school, packs)
    go(lash, live_server, bench, "carrier_preload")
    title(lash, "Play left between the packs")
    enter(lash, "5")
    expect(lash.locator(".station-panel")).to_contain_text("Play left")
    move = lash.locator("#move")
    expect(move).to_contain_text("Read the backlash too, before the sides change")
    move.get_by_role("link", name="Backlash").click()
    title(lash, "Backlash, place 1 of 4")
    around(lash, "14", "14.3", "14.6", "14.2")
    expect(move).to_contain_text("Change both sides: backlash and preload")
    for words in ("expected", "Smallest backlash", "Spread around the ring", "Carrier interference"):
        expect(move).to_contain_text(words)
    before = dict(state(bench.number).settings)
    press(lash, "F4")
    settings = state(bench.number).settings
    assert settings[Place.RING] != before.get(Place.RING, 0)
    go(lash, live_server, bench, "backlash")
    smallest = round(foretold(bench) / 0.0254, 1)
    around(lash, *(f"{smallest + step:.1f}" for step in (0.0, 0.3, 0.6, 0.2)))
    expect(lash.locator(".job-ladder")).to_contain_text(f"{smallest:.1f}")
    status = {name: s.status.value for name, s in standings(bench).items()}
    assert status["carrier_preload"] == "in range"
    assert status["backlash"] == "in range"


def foretold(bench: Bench) -> float:
    """The smallest backlash that the move taken last was expected to bring [mm]."""
    found = next(e for e in bench.job.moves.last().expected if e["label"] == "Smallest backlash")
    return (found["low"] + found["high"]) / 2


def standings(bench: Bench):
    return loading.load(bench.job).standings


def test_thin_spacers_solve_both_sides(lash: Page, live_server):
    Shop.objects.update(schools={})
    bench = at_carrier("Van rear", "feelers", None)
    go(lash, live_server, bench, "carrier_preload")
    title(lash, "Thin spacers, each side")
    enter(lash, "180")
    enter(lash, "15-17")
    title(lash, "Smallest backlash, thin spacers in")
    enter(lash, "18")
    move = lash.locator("#move")
    expect(move).to_contain_text("Fit both side packs")
    press(lash, "F4")
    expect(lash.locator(".job-ladder")).to_contain_text("Carrier preload")
    assert standings(bench)["carrier_preload"].status.value == "in range"


def test_under_covers_the_first_packs_are_left_loose_and_the_play_is_read_twice(lash: Page, live_server):
    # Common practice, no source: an indicator tells play, feelers only that a blade enters.
    Shop.objects.update(schools={})
    bench = at_carrier("Light axle", "cover_loose", None)
    go(lash, live_server, bench, "carrier_preload")
    way(lash, "Thin spacers")
    figures = {"Thin spacers": "60", "Total play": "24", "Smallest backlash": "18"}
    for words, value in figures.items():
        title(lash, words)
        enter(lash, value)
    move = lash.locator("#move")
    while move.get_by_text("Read once more").count():
        press(lash, "F4", "GET")
        asked = lash.locator(".entry h2").inner_text()
        enter(lash, next(value for words, value in figures.items() if words in asked))
    expect(move).to_contain_text("a little loose, to read the play")
    expect(move).to_contain_text("narrow for feelers")
    expect(move).to_contain_text("End play of the carrier")
    press(lash, "F4")
    expect(move).to_contain_text("Read: end play of the carrier")
    press(lash, "F4", "GET")
    title(lash, "End play of the carrier")
    enter(lash, "3.6")
    expect(move).to_contain_text("Read once more: end play of the carrier")
    press(lash, "F4", "GET")
    enter(lash, "3.4")
    expect(move).to_contain_text("Change both sides")
    press(lash, "F4")
    assert standings(bench)["carrier_preload"].status.value == "in range"


def test_take_by_foot_and_when_it_holds_steady(lash: Page, live_server, settings):
    User.objects.filter(username="ines").update(foot_switch="PageDown")
    with Server(("127.0.0.1", 0), Conversation) as server:
        settings.LASH_INSTRUMENT = f"127.0.0.1:{server.server_address[1]}"
        threading.Thread(target=server.serve_forever, daemon=True).start()
        lash.goto(f"{live_server.url}/jobs/412/?station=carrier_preload&kind=carrier_end_play")
        title(lash, "End play of the carrier")
        lash.keyboard.press("PageDown")
        expect(lash.locator("#value")).to_contain_text("taken; Enter stores it")
        lash.keyboard.press("PageDown")
        expect(lash.locator("#echo")).to_contain_text("Last:")
        assert Reading.objects.order_by("-id").first().instrument == "simulated bench set"
        lash.goto(f"{live_server.url}/jobs/412/?station=carrier_preload&kind=carrier_end_play")
        lash.get_by_role("button", name="Steady").click()
        expect(lash.locator("#value")).to_contain_text("hold it still")
        expect(lash.locator("#value")).to_contain_text("held for two seconds")
        lash.get_by_role("button", name="Steady").click()
        expect(lash.locator("#value")).to_contain_text("hold it still")
        lash.locator("#value input.value").fill("7")
        lash.wait_for_timeout(900)
        expect(lash.locator("#value input.value")).to_have_value("7")
        server.shutdown()


def test_a_depth_change_is_planned_before_it_is_made(lash: Page, live_server):
    lash.goto(f"{live_server.url}/jobs/412/carrier")
    lash.get_by_label("pinion deeper by").fill("3")
    lash.keyboard.press("Enter")
    plan = lash.locator("#plan")
    expect(plan).to_contain_text("closes the backlash by about")
    expect(plan).to_contain_text("To hold")
    plan.get_by_role("button", name="Do it").click()
    expect(lash.get_by_role("status").first).to_contain_text("fitted, assembly")
