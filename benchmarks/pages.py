"""Every page of the demo shop against a bare one: how many times as long it takes.

`./start` in one terminal, then `.venv/bin/python -m benchmarks.pages` in another. The bare page shows
one row, the shop. Median of each page over so many requests, one after another; wanted: four
times the bare page or less.
"""

from __future__ import annotations

import json
import statistics
import sys
import time
import urllib.request
from http.cookiejar import CookieJar

from axle.procedure.stations import stations
from benchmarks.posts import sign_in
from tooling.environment import STATE

BARE, REPEATS, MOST = "/shop/tools", 15, 4.0
BESIDE = (
    *(
        "work",
        "photos",
        "record",
        "arrival",
        "tools",
        "register",
        "findings",
        "heights",
        "runout",
        "carrier",
    ),
    *("spread", "moves", "back-in", "torque", "sheet"),
)
OTHERS = (
    "/",
    "/jobs/new",
    "/drawer/",
    "/sheets/",
    "/practice/",
    "/moves",
    "/chances",
    "/shop/tools",
    "/instruments/",
)


def main() -> int:
    """Ask for each page, print its median and its ratio to the bare one; 1 if a page is over."""
    address = json.loads((STATE / "running.json").read_text())["address"]
    browser = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(CookieJar()))
    sign_in(browser, address, "ines", "snow-on-the-pass")
    pages = [f"/jobs/412/?station={name}" for name in ("overview", *stations())]
    pages += [f"/jobs/412/{name}" for name in BESIDE]
    bare = _median(browser, address + BARE)
    print(f"{BARE}: {bare:.1f} ms")
    over = 0
    for page in (*pages, *OTHERS):
        took = _median(browser, address + page)
        over += took > MOST * bare
        print(f"{page}: {took:.1f} ms, × {took / bare:.1f}{' over' if took > MOST * bare else ''}")
    print(f"{over} of {len(pages) + len(OTHERS)} pages take more than {MOST:g} times the bare page")
    return 1 if over else 0


def _median(browser: urllib.request.OpenerDirector, address: str) -> float:
    times = []
    for _ in range(REPEATS):
        began = time.perf_counter()
        browser.open(address).read()
        times.append(1000 * (time.perf_counter() - began))
    return statistics.median(times)


if __name__ == "__main__":
    sys.exit(main())
