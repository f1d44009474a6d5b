"""The whole main job by keyboard, from an empty job to the signed PDF, at 1280x800."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect


def enter(page: Page, text: str) -> None:
    """Type into the field that has the focus, press Enter, and wait for the answer."""
    expect(page.locator("input.value")).to_be_focused()
    if page.locator("[data-claims]").count():
        page.keyboard.press("F9")
    with page.expect_response(lambda answer: answer.request.method == "POST") as answer:
        page.keyboard.type(text)
        page.keyboard.press("Enter")
    assert answer.value.status == 200, answer.value.text()
    expect(page.locator(".htmx-request")).to_have_count(0)
    go_on(page)


def go_on(page: Page) -> None:
    """After a station's last reading its verdict is looked at; Enter goes on."""
    if page.locator(".goes-on").count():
        expect(page.locator(".goes-on a.act")).to_be_focused()
        press(page, "Enter", "GET")


def several(page: Page) -> None:
    """The steps that may be marked together: listed first, then marked."""
    press(page, "F7", "GET")
    expect(page.locator(".together h2")).to_contain_text("Mark these as done?")
    press(page, "Enter")


def turn(page: Page, words: str) -> None:
    """Turn the stage in hand to what is wanted: nothing stands in the field."""
    title(page, words)
    expect(page.locator("input.value")).to_have_value("")
    wanted = re.search(r"Wanted ([\d.]+)", page.locator("#tighten .echo").inner_text())[1]
    enter(page, str(round(float(wanted)) + 1))


def press(page: Page, key: str, method: str = "POST") -> None:
    if (key, method) == ("F4", "POST") and page.locator("[data-key='Shift+F4']").count():
        key = "Shift+F4"  # the move at once, without the reading that the Now asks for before it
    with page.expect_response(lambda answer: answer.request.method == method) as answer:
        page.keyboard.press(key)
    assert answer.value.status == 200, answer.value.text()
    expect(page.locator(".htmx-request")).to_have_count(0)


def title(page: Page, words: str) -> None:
    expect(page.locator(".entry h2")).to_contain_text(words)


def fit(page: Page, wanted: str) -> None:
    """Fit a pack by hand: F2, the pieces, Enter to find, Enter to fit."""
    press(page, "F2", "GET")
    choose(page, wanted)


def choose(page: Page, wanted: str) -> None:
    """Type pieces into the open pack form, Enter to find, Enter to fit the first offer."""
    expect(page.locator("#wanted")).to_be_focused()
    page.keyboard.type(wanted)
    press(page, "Enter", "GET")
    expect(page.locator(".offer button").first).to_be_focused()
    press(page, "Enter")


def type_print(page: Page) -> None:
    """Both flanks by four numbers each, in the form that is open."""
    for flank, numbers in (("Drive", ("24", "68", "28", "74")), ("Coast", ("22", "62", "26", "70"))):
        expect(page.locator("fieldset", has_text=flank).get_by_label("from toe")).to_be_focused()
        for value in numbers[:-1]:
            page.keyboard.type(value)
            page.keyboard.press("Tab")
        page.keyboard.type(numbers[-1])
        press(page, "Enter")
    go_on(page)


def again(page: Page, **torques: str) -> None:
    """Read a torque once more as long as the card asks for it: the same figure each time."""
    for _ in range(6):
        words = page.locator("#move .move-title").inner_text()
        if not words.startswith("Read again"):
            return
        link = page.locator("#move .move-acts a.act")
        if link.count():
            link.first.focus()
            press(page, "Enter", "GET")
        enter(page, torques["whole" if "whole" in words else "pinion"])


def test_a_builder_takes_one_axle_from_arrival_to_a_signed_build_sheet(lash: Page, live_server):
    page = lash
    # A new job, by Tab and keys alone.
    page.goto(f"{live_server.url}/jobs/new")
    page.get_by_label("Axle").focus()
    page.keyboard.type("Gritter 2, rear")
    page.keyboard.press("Tab")
    page.keyboard.type("Works yard")
    page.keyboard.press("Tab")
    page.keyboard.press("Tab")
    page.keyboard.type("Van")
    page.get_by_label("Mark on the pinion").focus()
    page.keyboard.type("-0")
    page.keyboard.press("Enter")
    page.wait_for_url(re.compile(r"/jobs/\d+/$"))
    number = page.url.rstrip("/").rsplit("/", 1)[1]

    title(page, "Side play")
    enter(page, "0")
    enter(page, "2.5")
    for place, value in enumerate(("14", "13.5", "14.5", "14"), start=1):
        title(page, f"place {place} of 4")
        enter(page, value)
    enter(page, "31")

    # Teardown to clean parts: the steps of a station together; what a list or a reading holds stays open.
    for station in ("Teardown", "Inspection", "Preparation", "Bearings fitted"):
        expect(page.locator(".step-count")).to_contain_text(station)
        several(page)
    title(page, "Ring gear runout, mounted")
    enter(page, "2")

    # Depth: the dragging feeler is the wanted shim; the drawer makes it; F4 fits it.
    title(page, "Feeler between gauge block and arbor")
    enter(page, "27")
    expect(page.locator("#move")).to_contain_text("Fit the depth shim")
    expect(page.locator("#move dd b")).to_have_text("+27.0")
    press(page, "F4")
    expect(page.locator(".job-ladder a", has_text="Pinion depth")).to_contain_text("in range")

    # Pinion preload: too loose at first, one move puts it into the middle.
    title(page, "Rotating torque of the pinion")
    fit(page, "20 + 3")
    enter(page, "14")
    expect(page.locator("#move")).to_contain_text("Change the preload pack")
    expect(page.locator("#move .expected")).to_contain_text("expected")
    press(page, "F4")
    title(page, "Rotating torque of the pinion")
    enter(page, "23")

    # The carrier: both side packs, then rotating torque of the whole, by subtraction.
    title(page, "Rotating torque of the whole")
    fit(page, "120 + 60 + 10")
    page.locator(".pack", has_text="Far side").get_by_role("link").click()
    choose(page, "120 + 60 + 12.1")
    enter(page, "26.9")
    expect(page.locator(".job-ladder a", has_text="Carrier preload")).to_contain_text("in range")

    # Backlash loose: both sides change by what the gears' angles say, preload stays.
    for value in ("13.1", "12.8", "13.4", "13"):
        enter(page, value)
    again(page, whole="26.9", pinion="23")
    expect(page.locator("#move")).to_contain_text("Close the backlash")
    expect(page.locator("#move")).to_contain_text("Carrier preload unchanged")
    page.locator("#move summary", has_text="Why").click()
    expect(page.locator("#move ol")).to_contain_text("Move the ring gear")
    press(page, "F4")
    expect(page.locator(".job-ladder a", has_text="Backlash")).to_contain_text("stale")
    title(page, "Rotating torque of the whole")
    enter(page, "26.9")
    for value in ("9.3", "8.9", "9.5", "9.2"):
        enter(page, value)

    # The pattern by four numbers a flank.
    title(page, "mark the drive flank")
    page.get_by_role("link", name="Numbers").click()
    type_print(page)

    # Final build, then the torque sheet stage by stage: what is wanted is shown, and typed as set.
    expect(page.locator(".step-count")).to_contain_text("Final build")
    several(page)
    for words in (
        "Ring gear bolts: 50%",
        "Ring gear bolts: 75%",
        "Ring gear bolts: full",
        "Ring gear bolts: check",
    ):
        turn(page, words)
    turn(page, "Pinion nut")
    while page.locator("#tighten").count():
        turn(page, "")
    expect(page.locator(".step-count")).to_contain_text("Oil and road")
    several(page)
    page.goto(f"{live_server.url}/jobs/{number}/?station=sheet")

    # What no record closes is signed past, with its reason on the sheet.
    expect(page.locator(".sign-form")).to_contain_text("Still open")
    expect(page.locator(".open-holds")).to_contain_text("Mark the bearing caps")
    page.keyboard.press("F8")
    page.keyboard.type("taken over half-way from another bench")
    press(page, "Enter")
    # What nobody marked stands on the sheet too, and wants its reason.
    expect(page.locator(".sign-form")).to_contain_text("Not done, ")
    page.get_by_label("Why steps are not done").fill("done on paper, the list was short of time")
    press(page, "F8")
    expect(page.locator(".sign-form")).to_contain_text("Signed by Ines Korb")
    pdf = page.request.get(f"{live_server.url}/jobs/{number}/sheet.pdf")
    assert pdf.status == 200
    text = _text_of(pdf.body())
    for words in (
        "Gritter 2, rear",
        "taken over half-way from another bench",
        "Signed by Ines Korb",
        "9.3 · 8.9 · 9.5 · 9.2",
        "120.0 + 60.0",
        "done on paper, the list was short of time",
    ):
        assert words in text
    assert "Not signed" not in text


def _text_of(pdf: bytes) -> str:
    import io

    from pypdf import PdfReader

    reader = PdfReader(io.BytesIO(pdf))
    # One page where it fits; a dozen deviations with their reasons go on to a second.
    assert len(reader.pages) <= 2
    return " ".join(" ".join(page.extract_text() for page in reader.pages).split())


def test_no_main_view_scrolls_sideways_on_a_desk_or_a_tablet(lash: Page, live_server):
    pages = (
        "work",
        "tools",
        "arrival",
        "register",
        "findings",
        "runout",
        "spread",
        "torque",
        "photos",
        "heights",
    )
    views = [f"/jobs/{job}/{name}" for job in (415,) for name in pages]
    views += ["/", "/jobs/new", "/drawer/", "/sheets/", "/people", "/jobs/411/sheet", "/jobs/import"]
    views += [
        "/instruments/",
        "/drawer/make?family=depth&wanted=28.4",
        "/jobs/413/?station=depth&view=mark",
    ]
    stations = (
        "arrival",
        "teardown",
        "inspect&step=inspect-bearings",
        "ring_gear",
        "final",
        "depth",
        "pinion_preload",
        "carrier_preload",
        "backlash",
        "pattern",
        "torque",
        "sheet",
    )
    views += [f"/jobs/{job}/?station={name}" for job in (412, 413) for name in stations]
    for view in views:
        lash.goto(live_server.url + view)
        for width, height in ((820, 1180), (1280, 800)):
            lash.set_viewport_size({"width": width, "height": height})
            needs = lash.evaluate("document.documentElement.scrollWidth")
            assert needs <= width, f"{view} is {needs} px wide on {width}"
