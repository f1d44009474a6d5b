"""The pattern in a real browser: a photo read to its verdict, the sliders, three places, corners by keyboard."""

from __future__ import annotations

import json
import re
import time

import pytest
from playwright.sync_api import Page, expect

from axle.contact.gears import cut_of
from axle.simulator.ring_scenes import as_file, print_snap
from axle.stations.pattern_map import print_map
from shop.jobs import loading
from shop.jobs.models import Job, Pattern, Photo
from tests.browser.test_pages import axe_finds
from tests.shop.test_pattern_pages import AT, FlankView, axle

BENCH = f"/jobs/{AT}/?station=pattern"


@pytest.fixture
def prints(tmp_path):
    """Photos of both flanks of an axle 5 thou too deep, with the flank's corners in the picture."""
    state = loading.load(Job.objects.get(number=AT)).state
    shown = print_map(state).at(5 * 0.0254, 0.0).outlines
    made = {}
    for seed, (flank, lines) in enumerate(shown.items()):
        outline = tuple((float(u), float(v)) for u, v in max(lines, key=len)[::2])
        convex = (flank == "drive") == state.gears.drive_convex
        snap = print_snap(
            cut_of(state.gears), outline, convex=convex, colour="blue", seed=seed, size=(1000, 750)
        )
        path = tmp_path / f"{flank}.jpg"
        path.write_bytes(as_file(snap))
        made[flank] = path, snap.shot.points[0][:4]
    return made


def tap(page: Page, corners) -> None:
    """Tap the corners of a flank on the photo, in the order that the page asks for."""
    box = page.locator(".photo-svg").bounding_box()
    scale = min(box["width"] / 1000, box["height"] / 750)
    left = box["x"] + (box["width"] - 1000 * scale) / 2
    top = box["y"] + (box["height"] - 750 * scale) / 2
    for name, (x, y) in zip(("toe-root", "heel-root", "heel-top", "toe-top"), corners, strict=True):
        expect(page.locator("#corner-next")).to_contain_text(f"Tap the {name} corner.")
        page.mouse.click(left + x * scale, top + y * scale)


def draw(page: Page, flank: str, outline) -> None:
    """Draw around a patch with the mouse."""
    svg, view = page.locator(f"svg.flank-{flank}"), FlankView(flank)
    screen = svg.evaluate("s => { const m = s.getScreenCTM(); return [m.a, m.e, m.d, m.f] }")
    points = [view.to_picture(u, v) for u, v in [*outline, outline[0]]]
    places = [(screen[0] * x + screen[1], screen[2] * y + screen[3]) for x, y in points]
    with page.expect_response(lambda answer: answer.request.method == "POST") as answer:
        page.mouse.move(*places[0])
        page.mouse.down()
        for place in places[1:]:
            page.mouse.move(*place, steps=3)
        page.mouse.up()
    assert answer.value.status == 200


def test_two_photos_to_the_verdict(lash: Page, live_server, prints):
    lash.goto(f"{live_server.url}{BENCH}&view=made")
    lash.get_by_label("Compound").select_option("blue")
    lash.get_by_label("Places").fill("1")
    lash.get_by_role("button", name="Store").click()
    expect(lash.locator(".entry")).to_contain_text("Kept.")
    lash.get_by_role("button", name="Print again").click()
    for flank in ("drive", "coast"):
        expect(lash.locator(".entry h2")).to_contain_text(f"mark the {flank} flank")
        lash.get_by_role("link", name="Photo", exact=True).click()
        expect(lash.locator(".photo-form select[name=flank]")).to_have_value(flank)
        path, corners = prints[flank]
        lash.locator("input[name=photo]").set_input_files(path)
        lash.wait_for_url("**/pattern/photo/*")
        tap(lash, corners)
        expect(lash.locator("#found")).to_contain_text("of the flank is wiped")
        if flank == "drive":
            assert axe_finds(lash) == []
            before = json.loads(lash.locator("#photo-form input[name=corners]").input_value())
            with lash.expect_response("**/read"):
                lash.locator(".corner-handle").nth(3).press("Shift+ArrowRight")
            after = json.loads(lash.locator("#photo-form input[name=corners]").input_value())
            assert after[3][0] - before[3][0] == pytest.approx(10)
            with lash.expect_response("**/read"):
                lash.locator(".corner-handle").nth(3).press("Shift+ArrowLeft")
            expect(lash.locator("#found")).to_contain_text("of the flank is wiped")
        lash.get_by_role("button", name=f"Store the {flank} flank").click()
        lash.wait_for_url(f"**{BENCH}")
    expect(lash.locator("#move")).to_contain_text("too deep by")
    expect(lash.locator("#move")).to_contain_text(
        "cannot be told from this print; backlash 9.2 is in range"
    )
    expect(lash.locator(".set-chart .is-nearest")).to_have_count(1)
    told = axle().standings["pattern"].result
    assert told.words == "too deep"
    assert {row.taken for row in Pattern.objects.order_by("-id")[:2]} == {"photo"}


def test_from_the_square_code_to_the_verdict_on_a_phone(lash: Page, live_server, prints, settings):
    """A phone's page sends both flanks; they are pointed at with a finger on a phone's width."""
    settings.LASH_PHONE_ADDRESS = live_server.url
    lash.goto(f"{live_server.url}{BENCH}&view=made")
    lash.get_by_label("Compound").select_option("blue")
    lash.get_by_label("Places").fill("1")
    lash.get_by_role("button", name="Store").click()
    expect(lash.locator(".entry")).to_contain_text("Kept.")
    lash.goto(f"{live_server.url}/jobs/{AT}/pattern/phone")
    link = lash.locator(".phone-code + p + p.hint").inner_text()
    small = lash.context.browser.new_context(viewport={"width": 390, "height": 844}, has_touch=True)
    phone = small.new_page()
    phone.goto(link)
    phone.get_by_label("Or choose some").set_input_files([prints[flank][0] for flank in ("drive", "coast")])
    phone.get_by_role("button", name="Send").click()
    expect(phone.get_by_role("status")).to_contain_text("2 photos sent. They wait at the bench")
    phone.context.add_cookies(lash.context.cookies())
    sent = [photo.pk for photo in Photo.objects.order_by("-id")[:2]][::-1]
    for number, flank in zip(sent, ("drive", "coast"), strict=True):
        phone.goto(f"{live_server.url}{BENCH}&view=photo")
        phone.locator(f'.photo-strip a[href*="/pattern/photo/{number}"]').click()
        phone.wait_for_url("**/pattern/photo/*")
        assert phone.evaluate("document.documentElement.scrollWidth") <= 390, "it scrolls sideways"
        phone.locator("select[name=flank]").select_option(flank)
        before = phone.locator(".photo-svg").bounding_box()
        tap(phone, prints[flank][1])
        expect(phone.locator("#found")).to_contain_text("of the flank is wiped")
        # The words over the photo change with each tap; it stays under the finger.
        said = re.compile("For a surer height|Read, with a question")
        expect(phone.locator("#corner-next")).to_contain_text(said)
        assert phone.locator(".photo-svg").bounding_box() == before
        phone.get_by_role("button", name=f"Store the {flank} flank").click()
        phone.wait_for_url(f"**{BENCH}")
    expect(phone.locator("#move")).to_contain_text("too deep by")
    small.close()


def test_the_drawing_follows_the_sliders(lash: Page, live_server):
    lash.goto(f"{live_server.url}{BENCH}")
    computed = lash.locator('.flank-form[data-flank="drive"] [data-role="computed"]')
    first = computed.get_attribute("d")
    expect(lash.locator("#shown-depth")).to_contain_text("deep")
    slider = lash.get_by_label("Pinion depth")
    slider.focus()
    for _ in range(16):
        lash.keyboard.press("ArrowLeft")
    expect(lash.locator("#shown-depth")).to_contain_text("shallow")
    expect(computed).not_to_have_attribute("d", first)
    # It follows while a thumb moves: the last place asked for is the one that is drawn.
    began = time.monotonic()
    slider.evaluate("s => { s.value = 8; s.dispatchEvent(new Event('input', { bubbles: true })) }")
    expect(lash.locator("#shown-depth")).to_contain_text("8.0 deep")
    assert time.monotonic() - began < 5


def test_three_places_around_the_ring(lash: Page, live_server):
    lash.goto(f"{live_server.url}{BENCH}&view=made")
    lash.get_by_label("Places").fill("3")
    lash.get_by_role("button", name="Store").click()
    expect(lash.locator(".entry")).to_contain_text("Kept.")
    lash.get_by_role("button", name="Print again").click()
    for place, up in ((1, 0.1), (2, -0.06), (3, -0.06)):
        for flank in ("drive", "coast"):
            expect(lash.locator(".entry h2")).to_contain_text(f"mark the {flank} flank, place {place}")
            middle = 0.45 + up
            draw(
                lash,
                flank,
                [(0.3, middle - 0.2), (0.55, middle - 0.2), (0.6, middle + 0.2), (0.35, middle + 0.2)],
            )
    expect(lash.locator(".place-chip").nth(2)).to_contain_text("✓3")
    expect(lash.locator("#move")).to_contain_text("Wanders around the ring gear by")
    expect(lash.locator("#move")).to_contain_text("read the runout, or print 7 places")


def test_a_corner_of_a_patch_is_put_right(lash: Page, live_server):
    lash.goto(f"{live_server.url}{BENCH}&view=draw")
    before = Pattern.objects.count()
    handle = lash.locator("svg.flank-drive .s-handle").first
    box = handle.bounding_box()
    with lash.expect_response(lambda answer: answer.request.method == "POST"):
        lash.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
        lash.mouse.down()
        lash.mouse.move(box["x"] - 12, box["y"] - 6, steps=4)
        lash.mouse.up()
    assert Pattern.objects.count() == before + 1
    assert lash.locator("svg.flank-drive .s-wiped").count() == 1


def test_the_pattern_s_pages_are_in_order(lash: Page, live_server):
    for address in (
        BENCH,
        f"{BENCH}&view=draw",
        f"{BENCH}&view=words",
        f"{BENCH}&view=photo",
        f"{BENCH}&view=target",
        f"/jobs/{AT}/pattern/chart",
        "/guide/pattern",
    ):
        lash.goto(f"{live_server.url}{address}")
        assert axe_finds(lash) == [], address
        wide = lash.evaluate("document.documentElement.scrollWidth - document.documentElement.clientWidth")
        assert wide <= 0, address
