"""Reading a marked pattern, against the trade's table and an independent centroid."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from axle.contact.patch import Patch
from axle.contact.reading import (
    read_flank,
    read_pattern,
    target_patch,
)
from axle.errors import AxleError
from axle.measure.range import BacklashLevel

THOU = 0.0254
starts, widths = st.floats(0.03, 0.5), st.floats(0.1, 0.45)
boxes = st.tuples(starts, widths, starts, widths).map(
    lambda b: Patch.box(b[0], b[0] + b[1], b[2], b[2] + b[3])
)
PLACES = {"low": (0.05, 0.45), "central": (0.28, 0.72), "high": (0.55, 0.95)}
LENGTHS = {"toe": (0.05, 0.4), "central": (0.24, 0.66), "heel": (0.6, 0.95)}


def at(height: str, length: str = "central") -> Patch:
    return Patch.box(*LENGTHS[length], *PLACES[height])


def raster(patch: Patch) -> tuple[float, float, float]:
    """Area and centroid by counting points of a fine grid inside the outline (ray casting)."""
    n = 400
    us, vs = np.meshgrid((np.arange(n) + 0.5) / n, (np.arange(n) + 0.5) / n)
    inside = np.zeros_like(us, dtype=bool)
    corners = [*patch.outline, patch.outline[0]]
    for (u0, v0), (u1, v1) in pairwise(corners):
        crosses = (v0 > vs) != (v1 > vs)
        with np.errstate(divide="ignore", invalid="ignore"):
            reach = (u1 - u0) * (vs - v0) / (v1 - v0) + u0
        inside ^= crosses & (us < reach)
    return float(inside.mean()), float(us[inside].mean()), float(vs[inside].mean())


@pytest.mark.parametrize(
    "outline",
    [
        ((0.1, 0.1), (0.6, 0.2), (0.7, 0.6), (0.2, 0.5)),
        ((0.2, 0.2), (0.8, 0.3), (0.4, 0.9)),
        ((0.1, 0.5), (0.3, 0.1), (0.8, 0.2), (0.9, 0.6), (0.5, 0.9), (0.2, 0.8)),
    ],
)
def test_area_and_centroid_against_a_count_of_points(outline):
    patch = Patch(outline)
    area, u, v = raster(patch)
    assert patch.area == pytest.approx(area, abs=2e-3)
    assert patch.centroid == pytest.approx((u, v), abs=2e-3)


@given(boxes)
def test_a_patch_reaches_as_far_as_it_was_typed(patch):
    again = Patch.from_percent(*(f"{100 * share:.6f}" for share in patch.reach))
    assert again.reach == pytest.approx(patch.reach, abs=1e-6)
    assert again.centroid == pytest.approx(patch.centroid, abs=1e-6)


@pytest.mark.parametrize(
    ("drive", "coast", "says"),
    [
        # Common practice, no source: both low is too deep, both high too shallow, whatever the
        # coast flank does lengthwise; flanks that contradict each other are not depth.
        ("low", "low", "too deep"),
        ("high", "high", "too shallow"),
        ("low", "central", "too deep"),
        ("high", "central", "too shallow"),
        ("central", "low", "too deep"),
        ("central", "high", "too shallow"),
        ("low", "high", "unclear"),
        ("high", "low", "unclear"),
        ("central", "central", "good"),
    ],
)
@pytest.mark.parametrize("along", ["toe", "central", "heel"])
def test_the_trade_s_table(drive, coast, says, along):
    pattern_reading = read_pattern(at(drive), at(coast, along), backlash=BacklashLevel.IN_RANGE)
    assert (pattern_reading.drive.height, pattern_reading.coast.height) == (drive, coast)
    assert pattern_reading.says == says
    assert (pattern_reading.depth_error > 0) == (says == "too deep")
    assert (pattern_reading.depth_error < 0) == (says == "too shallow")


@pytest.mark.parametrize("level", ["tight", "loose", "not read"])
@pytest.mark.parametrize("height", ["low", "high"])
def test_depth_is_not_advised_while_backlash_is_out(level, height):
    # Common practice, no source: backlash is measured first; closing it on a pinion that is too
    # deep makes it worse.
    pattern_reading = read_pattern(at(height), at(height), backlash=level)
    assert pattern_reading.says == "unclear"
    assert pattern_reading.depth_error == 0
    assert not pattern_reading.good
    assert pattern_reading.findings[0] == (
        f"Backlash is {level}. Depth is not told from a pattern until it is in range."
    )


def test_the_schools_disagreement_is_stated():
    pattern_reading = read_pattern(at("low"), at("low"), backlash=BacklashLevel.IN_RANGE)
    assert pattern_reading.disputed == (
        "One school reads low on both flanks as tight backlash. Yours is in range, so it is depth."
    )


def test_both_towards_the_heel_is_not_cured_by_backlash():
    # Common practice, no source: charts say ring gear too far; it moves little.
    pattern_reading = read_pattern(
        at("central", "heel"), at("central", "heel"), backlash=BacklashLevel.IN_RANGE
    )
    assert any(
        "suspect the cut, the offset or the shaft angle" in line for line in pattern_reading.findings
    )
    assert any("too far" in line for line in pattern_reading.findings)


@pytest.mark.parametrize(
    ("box", "edge"),
    [
        ((0.0, 0.4, 0.3, 0.7), "toe"),
        ((0.6, 1.0, 0.3, 0.7), "heel"),
        ((0.3, 0.6, 0.0, 0.7), "root"),
        ((0.3, 0.6, 0.3, 1.0), "top"),
    ],
)
def test_a_hard_edge_is_never_good(box, edge):
    # Common practice, no source: an edge at top, root or ends is overload: do not run.
    patch = Patch.box(*box)
    assert edge in read_flank(patch, 0.45).edges
    pattern_reading = read_pattern(patch, at("central"), backlash=BacklashLevel.IN_RANGE)
    assert not pattern_reading.good
    assert any(f"runs over the {edge}" in line for line in pattern_reading.findings)


def test_coast_higher_than_drive_is_told():
    pattern_reading = read_pattern(
        at("central"), Patch.box(0.2, 0.6, 0.36, 0.8), backlash=BacklashLevel.IN_RANGE
    )
    assert any("coast sits" in line and "higher" in line for line in pattern_reading.findings)


def test_the_target_itself_is_good():
    pattern_reading = read_pattern(
        target_patch("drive"), target_patch("coast"), backlash=BacklashLevel.IN_RANGE
    )
    assert pattern_reading.good
    assert pattern_reading.depth_error == 0


def test_five_thou_deep_is_read_as_about_five():
    # From a trial on one usual set (from memory): 5 thou deeper moves the drive patch 0.10 of the
    # height down and the coast patch 0.15.
    drive, coast = Patch.box(0.25, 0.65, 0.18, 0.60), Patch.box(0.2, 0.6, 0.14, 0.56)
    pattern_reading = read_pattern(drive, coast, backlash=BacklashLevel.IN_RANGE)
    assert pattern_reading.depth_error / THOU == pytest.approx(5, abs=0.6)


@pytest.mark.parametrize(
    ("call", "words"),
    [
        (lambda: Patch(((0, 0), (1, 1))), "2 corners was given"),
        (lambda: Patch(((0, 0), (1.2, 0), (1, 1))), "120% of the length"),
        (lambda: Patch(((0.1, 0.1), (0.2, 0.2), (0.3, 0.3))), "an outline without area"),
        (lambda: Patch.box(0.6, 0.2, 0.1, 0.5), "patch length: from 60% to 20% was given"),
        (lambda: Patch.box(0.2, 0.6, 0.5, 0.5), "patch height"),
        (lambda: Patch.from_percent("", "60", "10", "50", flank="drive"), "drive patch, toe end: nothing"),
        (lambda: Patch.from_percent("20", "160", "10", "50"), "heel end: “160” was given; a number from 0"),
        (lambda: Patch.from_percent("20", "nan", "10", "50"), "heel end: “nan”"),
        (lambda: Patch.from_percent("20", "60", "low", "50"), "root end: “low”"),
    ],
)
def test_what_cannot_be_a_patch_is_refused(call, words):
    with pytest.raises(AxleError) as refused:
        call()
    assert words in str(refused.value)
