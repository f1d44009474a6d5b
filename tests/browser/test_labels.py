"""Words in drawings: none over another, none cut off at the edge, in both unit systems and both themes."""

from __future__ import annotations

import pytest
from playwright.sync_api import Page

from axle.procedure.stations import stations
from shop.people.models import User

# Every text of a drawing by where it is painted; overlapping pairs and texts beyond the drawing's edge.
MEASURE = """() => {
  const found = [];
  const shown = (e) => e.getClientRects().length && e.textContent.trim() && getComputedStyle(e).visibility !== "hidden";
  for (const svg of document.querySelectorAll("main svg")) {
    if (svg.parentElement.closest("svg") || !svg.getClientRects().length) continue;
    const edge = svg.getBoundingClientRect();
    const texts = [...svg.querySelectorAll("text")].filter(shown).map((e) => [e.textContent.trim(), e.getBoundingClientRect()]);
    texts.forEach(([words, r], n) => {
      if (r.left < edge.left - 2 || r.right > edge.right + 2 || r.top < edge.top - 3 || r.bottom > edge.bottom + 3)
        found.push(`${svg.getAttribute("class")}: “${words}” is cut`);
      for (const [other, o] of texts.slice(n + 1)) {
        const wide = Math.min(r.right, o.right) - Math.max(r.left, o.left);
        const high = Math.min(r.bottom, o.bottom) - Math.max(r.top, o.top);
        // The boxes of a font are taller than its letters: a third of a line may lie over the next one's.
        if (wide > 2 && high > Math.min(r.height, o.height) * 0.42)
          found.push(`${svg.getAttribute("class")}: “${words}” lies over “${other}”`);
      }
    });
  }
  return found;
}"""
BESIDE = ("findings", "findings?part=gears", "register", "back-in", "runout", "torque", "moves", "sheet")


def views() -> list[str]:
    found = [f"/jobs/{job}/?station={name}" for job in (412, 417) for name in ("overview", *stations())]
    found += [f"/jobs/415/{name}" for name in BESIDE]
    found += ["/jobs/415/?station=teardown&step=teardown-spread", "/jobs/413/?station=depth&view=mark"]
    return [*found, "/drawer/", "/sheets/new", "/moves?carrier_by=adjusters", "/practice/3"]


@pytest.mark.parametrize("units", ["thou", "mm"])
def test_words_in_drawings_are_whole_and_apart(lash: Page, live_server, units):
    User.objects.filter(username="ines").update(units=units)
    faults = []
    for view in views():
        lash.goto(live_server.url + view)
        lash.wait_for_load_state("networkidle")
        faults += [f"{view}: {fault}" for fault in lash.evaluate(MEASURE)]
    assert not faults, "\n".join(faults)
