"""Drawings: one for every layout, sound as XML, and the flank's map there and back."""

from __future__ import annotations

import math
import xml.etree.ElementTree as ET

import pytest
from hypothesis import given
from hypothesis import strategies as st

from axle.contact.mark import FlankMark
from axle.contact.patch import Patch
from axle.errors import AxleError
from axle.layout import CarrierBy, DepthShim, Housing, Layout, Place, PreloadBy, Side, every_layout
from axle.measure.range import Range
from axle.measure.units import THOU
from shop.drawing import dials, flanks
from shop.drawing.section import Callout, FlankPair, section
from shop.drawing.svg import STYLES, Svg

SVG = "{http://www.w3.org/2000/svg}"


def marks(svg: Svg, style: str) -> list[ET.Element]:
    return [e for e in ET.fromstring(str(svg)).iter() if e.get("class") == f"s-{style}"]  # noqa: S314


@pytest.mark.parametrize("layout", every_layout()[::5], ids=str)
def test_every_layout_has_its_section(layout):
    drawn = section(layout)
    assert ET.fromstring(str(drawn)).tag == f"{SVG}svg"  # noqa: S314 - our own text
    assert marks(drawn, "shim"), "the shims are drawn in the compound's yellow"
    assert "mirrored" not in str(drawn)
    assert ("scale(-1 1)" in str(drawn)) == (layout.ring_side is Side.RIGHT)


def test_layouts_that_differ_are_drawn_differently():
    same = {"housing": Housing.SIDE_COVER}
    drawings = {
        (depth, preload, carrier): str(section(Layout(depth, preload, carrier, **same)))
        for depth in DepthShim
        for preload in (PreloadBy.SLEEVE, PreloadBy.SPACER)
        for carrier in CarrierBy
    }
    assert len(set(drawings.values())) == len(drawings)
    housings = {
        str(section(Layout(DepthShim.HEAD, PreloadBy.SLEEVE, carrier_by=CarrierBy.OUTBOARD, housing=h)))
        for h in Housing
    }
    assert len(housings) == len(Housing)


@pytest.mark.parametrize("side", Side)
def test_callouts_stand_on_the_side_of_their_part(side):
    layout = Layout(DepthShim.HEAD, PreloadBy.SPACER, CarrierBy.OUTBOARD, ring_side=side)
    callouts = tuple(
        Callout(place.value, place.value, value="1.0", unit="2 pieces", status="in range", link="/x")
        for place in (Place.RING, Place.FAR)
    )
    tags = [float(tag.get("x")) for tag in marks(section(layout, callouts), "tag")]
    ring, far = tags
    assert (ring < far) == (side is Side.LEFT)


@pytest.mark.parametrize(
    ("status", "sign"), [("out", "▲"), ("stale", "◌"), ("in range", ""), ("not begun", "")]
)
def test_a_status_is_told_by_shape_and_dash_as_well_as_colour(status, sign):
    layout = Layout(DepthShim.HEAD, PreloadBy.SPACER, CarrierBy.OUTBOARD)
    drawn = section(
        layout, (Callout("backlash", "Backlash", value="9.1", unit="7–11", status=status, link="/x"),)
    )
    (value,) = marks(drawn, "value")
    assert value.text.startswith(sign)
    (tag,) = marks(drawn, "tag")
    assert (tag.get("stroke-dasharray") is not None) == (status in ("stale", "not begun"))


def test_texts_are_escaped():
    layout = Layout(DepthShim.HEAD, PreloadBy.SPACER, CarrierBy.OUTBOARD)
    drawn = str(section(layout, (), FlankPair({}, "<b>&", status="out", link="/x")))
    assert "<b>" not in drawn
    assert "&lt;b&gt;&amp;" in drawn


@given(st.sampled_from(["drive", "coast"]), st.floats(0, 1), st.floats(0, 1))
def test_the_flank_maps_there_and_back(name, u, v):
    view = flanks.FlankView(name)
    assert view.to_flank(*view.to_picture(u, v)) == pytest.approx((u, v), abs=1e-9)


def test_the_coast_flank_is_seen_from_the_other_side():
    drive, coast = flanks.FlankView("drive"), flanks.FlankView("coast")
    assert drive.to_picture(0, 0.5)[0] < drive.to_picture(1, 0.5)[0]
    assert coast.to_picture(0, 0.5)[0] > coast.to_picture(1, 0.5)[0]
    # Up the tooth is up on the picture.
    assert drive.to_picture(0.5, 1)[1] < drive.to_picture(0.5, 0)[1]


@pytest.mark.parametrize("name", ["drive", "coast"])
def test_a_drag_gives_the_patch_that_was_dragged(name):
    view = flanks.FlankView(name)
    x0, x1 = view.to_picture(0.25, 0.5)[0], view.to_picture(0.65, 0.5)[0]
    y0, y1 = view.to_picture(0.45, 0.3)[1], view.to_picture(0.45, 0.7)[1]
    patch = flanks.patch_from_drag(name, x1, y0, x0, y1)
    assert patch.reach == pytest.approx((0.25, 0.65, 0.3, 0.7), abs=1e-6)


def test_a_drag_off_the_flank_is_held_to_it():
    patch = flanks.patch_from_drag("drive", -500, -500, 5000, 5000)
    assert patch.reach == (0.0, 1.0, 0.0, 1.0)
    with pytest.raises(AxleError, match="a line drawn around the wiped area"):
        flanks.patch_from_drag("drive", 100, 100, 101, 101)


def test_what_is_stale_is_not_drawn_as_current():
    patch = Patch.box(0.2, 0.6, 0.3, 0.7)
    mark = FlankMark((patch,))
    assert marks(flanks.flank("drive", mark, flanks.Shown(stale=True)), "flank-stale")
    assert not marks(flanks.flank("drive", mark), "flank-stale")
    assert len(marks(flanks.flank("drive", mark, flanks.Shown(ghosts=[patch, patch])), "ghost")) == 2


def test_the_needle_points_where_the_reading_is():
    limits = Range(7 * 0.0254, 11 * 0.0254)
    (needle,) = marks(dials.gauge(10 * 0.0254, limits, THOU), "needle-ok")
    x, y = (float(n) for n in needle.get("d").split("L")[1].split())
    # A dial of 20 thou over 270°, zero at −135°: 10 thou stands upright.
    assert math.degrees(math.atan2(x - 105, 102 - y)) == pytest.approx(0, abs=0.2)
    assert marks(dials.gauge(12 * 0.0254, limits, THOU), "needle")


def test_what_is_expected_is_hollow_and_dashed():
    drawn = dials.gauge(None, Range(0.1, 0.3), THOU, expected=Range(0.2, 0.22))
    (arc,) = marks(drawn, "expected")
    assert arc.get("fill") == "none"
    assert arc.get("stroke-dasharray")
    assert not marks(drawn, "needle")
    assert all(
        m.get("fill") == "none" for m in marks(dials.stack([1.0, 0.5], THOU, hollow=True), "expected")
    )


def test_places_around_the_ring_stand_at_their_angle():
    drawn = dials.around({1: 0.2, 2: 0.25}, 4, Range(0.1, 0.3), THOU, in_hand=3)
    assert len(marks(drawn, "ink")) == 2
    assert len(marks(drawn, "in-hand")) == 1
    assert len(marks(drawn, "wanting")) == 1
    first, second = marks(drawn, "ink")
    assert float(first.get("cx")) == pytest.approx(113)  # place 1 at the top
    assert float(second.get("cy")) == pytest.approx(104)  # place 2 a quarter turn on


def test_a_pack_is_drawn_to_scale():
    drawn = dials.stack([1.0, 0.5, 0.25], THOU)
    widths = [float(r.get("width")) for r in ET.fromstring(str(drawn)).iter(f"{SVG}rect")]  # noqa: S314
    assert widths[0] / widths[1] == pytest.approx(2, rel=0.01)
    assert widths[0] / widths[2] == pytest.approx(4, rel=0.01)


def test_every_style_has_plain_attributes_for_paper():
    for name, style in STYLES.items():
        assert style, name


def test_a_value_by_assembly_says_each_of_them_and_marks_what_is_out():
    from axle.measure.range import Range
    from axle.measure.units import THOU
    from shop.drawing.assembly_chart import ByAssembly, assembly_chart

    thou = 0.0254
    shown = ByAssembly(
        "Backlash, smallest", [(1, 18 * thou), (3, 8.5 * thou)], Range(6 * thou, 10 * thou), THOU
    )
    drawn = str(assembly_chart(shown))
    assert "Backlash, smallest in thou. assembly 1: 18.0, assembly 3: 8.5." in drawn
    assert "▲18.0" in drawn
    assert "▲8.5" not in drawn
    assert drawn.count("<circle") == 2
    # One assembly, and a range without a top: nothing to join, and nothing divides by nothing.
    one = str(assembly_chart(ByAssembly("Carrier", [(1, 2.0)], Range(1.0, float("inf")), THOU)))
    assert one.count("<circle") == 1
    assert "nan" not in one
    assert "inf" not in one
