"""Pages where people look before they read: what they draw, and what comes of a tap."""

from __future__ import annotations

import uuid
import xml.etree.ElementTree as ET
from datetime import datetime, timedelta
from decimal import Decimal
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from axle.backlash.ratios import prior_ratios
from axle.decision.carrier.what_moves import what_moves
from axle.errors import AxleError
from axle.gearset import GearSet, Stance
from axle.layout import CarrierBy, DepthShim, Housing, Layout, Place, PreloadBy, Side, every_layout
from axle.measure.units import IMPERIAL, METRIC
from axle.practice.mistakes import Belief, mistakes
from axle.procedure.findings import parts
from axle.procedure.register import items
from axle.procedure.steps import steps
from axle.shims.choose import choose
from axle.shims.coverage import coverage
from axle.shims.pieces import Piece
from shop.drawing.damage import damage
from shop.drawing.day_line import Wait, day_line
from shop.drawing.exploded import ExplodedPart, exploded
from shop.drawing.polar import places_around
from shop.drawing.step_pictures import pictured, step_picture
from shop.drawing.tagged import Balloon, tagged
from shop.jobs import loading
from shop.jobs.models import Job
from tests.shop.test_guided_work import post, words

RATIOS = prior_ratios(GearSet(11, 41), Stance.UNSURE)
SHIMS = Layout(DepthShim.HEAD, PreloadBy.SPACER, CarrierBy.OUTBOARD)
COVERS = Layout(DepthShim.HEAD, PreloadBy.SPACER, CarrierBy.COVERS, housing=Housing.SIDE_COVER)


def sound_xml(drawing: str) -> ET.Element:
    return ET.fromstring(drawing)  # noqa: S314 - our own text


# ---- drawings


def test_every_sign_of_every_part_is_drawn_and_no_two_of_a_part_alike():
    for name, part in parts().items():
        drawn = [damage(name, sign.sign).split("</svg>")[0].split(">", 1)[1] for sign in part.signs]
        assert len(set(drawn)) == len(drawn), name
        for sign in part.signs:
            assert sign.title in sound_xml(damage(name, sign.sign)).get("aria-label", "")


def test_a_sign_that_is_not_drawn_is_refused():
    with pytest.raises(AxleError, match="a part and a sign"):
        damage("gears", "melted")


def test_every_part_of_the_exploded_view_leads_to_its_finding():
    shown = [ExplodedPart(name, part.short, "open", f"/x?{name}") for name, part in parts().items()]
    links = [e.get("href") for e in sound_xml(exploded(shown)).iter() if e.tag.endswith("}a")]
    assert set(links) == {f"/x?{name}" for name in parts()}


def test_at_least_twenty_five_steps_have_a_picture_and_each_is_a_step():
    assert len(pictured()) >= 25
    assert pictured() <= set(steps())
    for step in pictured():
        drawing, title = step_picture(step)
        assert sound_xml(drawing).get("aria-label") == title


@pytest.mark.parametrize("side", Side)
def test_every_item_of_the_register_has_a_balloon_of_its_own(side):
    layout = Layout(DepthShim.CUP, PreloadBy.SPACER, CarrierBy.UNDER_CONE, ring_side=side)
    balloons = [
        Balloon(name, item.title, n, "off", f"/{name}") for n, (name, item) in enumerate(items().items(), 1)
    ]
    drawn = sound_xml(tagged(layout, balloons))
    assert [e.get("href") for e in drawn.iter() if e.tag.endswith("}a")] == [f"/{name}" for name in items()]
    assert drawn.get("role") == "group"


def test_the_ring_is_drawn_before_it_is_read_with_a_number_at_each_place():
    texts = [e.text for e in sound_xml(str(places_around(8, 10))).iter() if e.get("class") == "s-title"]
    assert texts == [str(n) for n in range(1, 9)]


# ---- what the drawer makes


SIZES = st.lists(st.integers(20, 120), min_size=1, max_size=5, unique=True)


@given(SIZES, st.integers(30, 200))
def test_a_gap_is_where_no_pack_comes_near_and_nothing_else_is(sizes, wanted):
    pieces = [Piece(n, Decimal(size) / 100) for n, size in enumerate(sizes)]
    close, low, high = Decimal("0.03"), Decimal("0.30"), Decimal("2.00")
    found = coverage(pieces, low, high, close)
    asked = Decimal(wanted) / 100
    in_gap = any(gap.low < asked < gap.high for gap in found.gaps)
    made = choose(asked, close, pieces).pack is not None
    at_an_edge = any(asked in (gap.low, gap.high) for gap in found.gaps)
    assert at_an_edge or in_gap is not made
    assert all(one.high <= other.low for one, other in pairwise(found.gaps))


@pytest.mark.parametrize(("low", "high"), [("0", "1"), ("1", "1"), ("2", "1")])
def test_a_range_that_is_none_is_refused(low, high):
    with pytest.raises(AxleError, match="thin before thick"):
        coverage([Piece(1, Decimal("0.5"))], Decimal(low), Decimal(high), Decimal("0.01"))


def test_the_drawer_is_drawn_as_bins_with_what_it_makes(pages):
    text = pages.get("/drawer/").content.decode()
    assert text.count('class="bin ') > 20
    assert "packs can be made of these" in text
    assert "The same as a list" in text


# ---- what moves: signs as the trade has them


@pytest.mark.parametrize(
    ("layout", "place", "sign"),
    [
        # Common practice, no source: a thicker shim on the ring gear's side closes the backlash where the shims
        # hold the bearings, and opens it under bolted covers; a thicker head shim goes deeper and closes it.
        (SHIMS, Place.RING, -1),
        (SHIMS, Place.FAR, 1),
        (COVERS, Place.RING, 1),
        (COVERS, Place.FAR, -1),
        (SHIMS, Place.DEPTH, -1),
    ],
)
def test_which_way_backlash_goes(layout, place, sign):
    assert what_moves(layout, RATIOS, {place: 0.1}, IMPERIAL).backlash * sign > 0


def test_equal_and_opposite_moves_the_gear_and_leaves_the_preload():
    # Common practice, no source.
    for layout in every_layout():
        found = what_moves(layout, RATIOS, {Place.RING: 0.1, Place.FAR: -0.1}, IMPERIAL, per_hole=0.1)
        assert found.carrier == pytest.approx(0.0)
        assert found.backlash


def test_a_thicker_pack_between_the_cones_is_looser_and_a_sleeve_is_spoilt_by_depth():
    # Common practice, no source.
    assert what_moves(SHIMS, RATIOS, {Place.PRELOAD: 0.05}, METRIC).pinion == pytest.approx(-0.05)
    sleeve = Layout(DepthShim.HEAD, PreloadBy.SLEEVE, CarrierBy.OUTBOARD)
    found = what_moves(sleeve, RATIOS, {Place.DEPTH: 0.05}, METRIC)
    assert found.pinion is None
    assert found.spoils_sleeve
    assert any("new sleeve" in line for line in found.lines)


def test_coupled_stacks_follow_one_another():
    # Common practice, no source: behind the inner cup both stacks share the shaft's length.
    coupled = Layout(DepthShim.CUP, PreloadBy.SPACER, CarrierBy.OUTBOARD)
    both = what_moves(coupled, RATIOS, {Place.DEPTH: 0.1, Place.PRELOAD: 0.1}, METRIC)
    alone = what_moves(coupled, RATIOS, {Place.DEPTH: 0.1}, METRIC)
    assert both.pinion == pytest.approx(0.0)
    assert alone.pinion == pytest.approx(0.1)


def test_a_change_that_no_axle_has_is_refused():
    with pytest.raises(AxleError, match="at most 1 mm"):
        what_moves(SHIMS, RATIOS, {Place.DEPTH: 2.0}, METRIC)


def test_what_moves_answers_on_a_job_and_on_every_layout(pages):
    text = words(pages.get("/jobs/412/moves?move-ring=4&move-far=-4"))
    assert "to the pinion" in text
    part = pages.get("/jobs/412/moves?move-depth=2", headers={"HX-Request": "true"}).content.decode()
    assert "<html" not in part
    assert "deeper" in part
    assert "under a cover" in words(pages.get("/moves?carrier_by=covers&move-ring=5"))
    assert pages.get("/moves?carrier_by=glue").status_code == 422
    assert pages.get("/moves?depth_shim=cup&preload_by=sleeve&carrier_by=adjusters").status_code in (
        200,
        422,
    )
    for odd in ("1e9", "--", "９", "", "99999999999"):
        assert pages.get("/jobs/412/moves", {"move-ring": odd}).status_code == 200


# ---- findings and register


def test_a_part_is_looked_at_by_its_drawings(pages):
    text = words(pages.get("/jobs/415/findings?part=gears"))
    assert "What do you see? Press its number." in text
    assert "scored or scuffed flank" in text
    chosen = words(pages.get("/jobs/415/findings?part=gears&sign=scored"))
    assert "Oil film broke" in chosen
    assert "Replace (usual)" in chosen
    refused = post(
        pages, "findings", {"part": "gears", "sign": "scored", "decision": "replace", "reason": ""}
    )
    assert "why it is replaced, in a few words" in words(refused)
    assert "Ring and pinion: scored or scuffed flank" in words(refused)
    unsaid = post(
        pages, "findings", {"part": "gears", "sign": "scored", "decision": "", "reason": "drive side"}
    )
    assert "keep, dress or replace" in words(unsaid)
    assert 'value="drive side"' in unsaid.content.decode()


def test_what_came_off_is_asked_for_again_with_its_mark(pages):
    text = words(pages.get("/jobs/412/back-in"))
    assert "Everything back in" in text
    first = next(row for row in loading.load(Job.objects.get(number=412)).register if row.event == "off")
    shown = words(pages.get(f"/jobs/412/back-in?item={first.item}"))
    assert first.words in shown
    answer = pages.post(
        "/jobs/412/back-in",
        {"version": Job.objects.get(number=412).version, "item": first.item, "event": "back", "entry": ""},
        follow=True,
    )
    assert answer.status_code in (200, 422)


def test_an_odd_item_or_part_shows_the_next_one(pages):
    for odd in ("roof", "<script>", "x" * 300):
        assert pages.get("/jobs/415/findings", {"part": odd, "sign": odd}).status_code == 200
        assert pages.get("/jobs/415/register", {"item": odd}).status_code == 200


# ---- the sheet at its station, and practice


def test_the_sheet_stands_at_the_station_of_signing(pages):
    text = pages.get("/jobs/418/?station=sheet").content.decode()
    assert 'hx-get="/jobs/418/sheet"' in text
    assert "What leaves the shop" in text
    paper = pages.get("/jobs/418/sheet", headers={"HX-Request": "true"}).content.decode()
    assert "<html" not in paper
    assert "Before: assembly 1" in paper


def belief(what: str, true: float, believed: float | None, std: float | None) -> Belief:
    return Belief(what, what.title(), true, believed, std, (f"{true}", f"{believed}"))


def test_each_mistake_names_the_reading_that_would_have_saved_it():
    held = [belief("depth", 0.12, 0.01, 0.02), belief("pinion_preload", 2.2, 1.2, 0.1)]
    told = mistakes(["depth"], held, assemblies=3, par=2, strip_downs=["Move the pinion"])
    assert "A print on this very assembly" in told[0]
    assert "luck" in told[1]
    assert "1 strip-down more" in told[2]
    assert mistakes([], [belief("depth", 0.01, 0.0, 0.02)], assemblies=2, par=2) == ()
    with pytest.raises(AxleError, match="belief"):
        belief("weather", 0.0, None, None)


def test_waits_stand_on_a_line_in_the_order_in_which_they_end():
    now = datetime(2026, 3, 2, 16, 0)
    hour = timedelta(hours=1)
    waits = [
        Wait("oven", now - hour, now + 3 * hour),
        Wait("cure", now - hour, now),
        Wait("oil", now, now + 20 * hour),
    ]
    drawn = sound_xml(day_line(waits, now))
    titles = [e.text for e in drawn.iter() if e.get("class") == "s-words"]
    assert titles == ["cure", "oven", "oil"]
    assert [e.get("class") for e in drawn.iter() if e.tag.endswith("}rect")] == [
        "s-in-hand",
        "s-wanting",
        "s-wanting",
    ]
    assert "Tue 12:00" in {e.text for e in drawn.iter()}


def test_a_spread_housing_is_on_every_page_until_it_is_back(pages):
    # Common practice, no source: a housing is not left spread.
    for typed, said in (("12", "Housing spread"), ("24", "Over the limit"), ("0", "")):
        given = {"version": Job.objects.get(number=415).version, "value": typed, "entry": str(uuid.uuid4())}
        assert pages.post("/jobs/415/spread", given).status_code == 302
        for page in ("/jobs/415/?station=teardown", "/jobs/415/findings", "/jobs/415/photos"):
            text = words(pages.get(page))
            assert (said in text) if said else ("Housing spread:" not in text), page


def test_nothing_written_off_is_not_called_back(pages, fresh):
    text = words(pages.get(f"/jobs/{fresh.job.number}/back-in"))
    assert "All of it is back" not in text
    assert "cannot be asked back" in text
