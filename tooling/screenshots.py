"""One picture of each main view from the demo data, into docs/screenshots.

Run beside `./start` with fresh demo data: `.venv/bin/python -m tooling.screenshots`.
"""

from __future__ import annotations

import json
import shutil

from playwright.sync_api import Browser, sync_playwright

from axle.contact.gears import cut_of
from axle.gearset import GearSet
from axle.simulator.ring_scenes import print_snap
from demo import PASSWORD
from demo.photo import PHOTOGRAPHED
from tooling.environment import ROOT, STATE, print_status

TARGET = ROOT / "docs" / "screenshots"
WIDE, TABLET = (1280, 800), (820, 1180)
# Where the flank of the demo's photo lies in it, as somebody would point at it.
PHOTO = print_snap(
    cut_of(GearSet(11, 41)), ((0.3, 0.3), (0.6, 0.3), (0.5, 0.7)), convex=True, **PHOTOGRAPHED
)
CORNERS = json.dumps(PHOTO.shot.points[0].round().tolist())
VIEWS = {
    "bench": ("/jobs/417/", WIDE, "light"),
    "depth": ("/jobs/413/?station=depth", WIDE, "light"),
    "preload": ("/jobs/414/?station=pinion_preload", WIDE, "light"),
    "carrier": ("/jobs/417/?station=carrier_preload", WIDE, "light"),
    "pattern": ("/jobs/418/?station=pattern", WIDE, "light"),
    "pattern-photo": (f"/jobs/418/pattern/photo/1?flank=drive&corners={CORNERS}", WIDE, "light"),
    "overview": ("/jobs/417/?station=overview", WIDE, "light"),
    "jobs": ("/", WIDE, "light"),
    "drawer": ("/drawer/", WIDE, "light"),
    "plan": ("/plan", WIDE, "light"),
    "estimate": ("/jobs/413/money", WIDE, "light"),
    "build-sheet": ("/jobs/418/?station=sheet", WIDE, "light"),
    "ratio": ("/jobs/413/ratio", WIDE, "light"),
    "road-test": ("/jobs/411/road-test#heat", WIDE, "light"),
    "recording": ("/jobs/411/recordings", WIDE, "light"),
    "runout": ("/jobs/415/runout", WIDE, "light"),
    "torque": ("/jobs/411/torque", WIDE, "light"),
    "tablet": ("/jobs/412/?station=backlash", TABLET, "dark"),
    "practice-result": ("/practice/3", WIDE, "light"),
}
ARGUMENTS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--disable-dev-shm-usage",
]


def main() -> None:
    """Take every picture afresh."""
    address = json.loads((STATE / "running.json").read_text())["address"]
    shutil.rmtree(TARGET, ignore_errors=True)
    TARGET.mkdir(parents=True)
    with sync_playwright() as play:
        browser = play.chromium.launch(executable_path=shutil.which("chromium"), args=ARGUMENTS)
        for name, (path, size, theme) in VIEWS.items():
            _take(browser, address, name=name, path=path, size=size, theme=theme)
        browser.close()
    print_status(f"{len(VIEWS)} pictures in {TARGET.relative_to(ROOT)}")


def _take(browser: Browser, address: str, name: str, path: str, size: tuple[int, int], theme: str) -> None:
    touch = size == TABLET
    page = browser.new_page(
        viewport={"width": size[0], "height": size[1]}, has_touch=touch, is_mobile=touch
    )
    page.goto(f"{address}/sign-in")
    page.get_by_label("Username").fill("ines")
    page.get_by_label("Password").fill(PASSWORD)
    page.keyboard.press("Enter")
    page.wait_for_url(f"{address}/")
    page.evaluate(f"localStorage.setItem('lash-theme', '{theme}')")
    page.goto(address + path)
    page.wait_for_timeout(300)
    page.screenshot(path=TARGET / f"{name}.png")
    page.close()


if __name__ == "__main__":
    main()
