"""A print repeats from tooth to tooth, what the brush missed does not (common practice, no source)."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from axle.photo.patches import HIGH, LONG, Wiped, patches_in
from axle.photo.repeats import repeated

LARGE, SECOND, SMALL = (80, 150, 25, 55), (170, 210, 25, 45), (20, 36, 30, 42)


def area(*boxes: tuple[int, int, int, int]) -> np.ndarray:
    mask = np.zeros((HIGH, LONG), dtype=bool)
    for left, right, top, bottom in boxes:
        mask[top:bottom, left:right] = True
    return mask


def wiped(*boxes, small=()) -> Wiped:
    mask = area(*boxes)
    return Wiped(patches_in(mask), mask, contrast=5.0, edge=0.05, bare=0, small=area(*small))


def moved(box, by: int):
    return box[0] + by, box[1] + by, *box[2:]


def test_two_teeth_tell_nothing():
    both = (wiped(LARGE, SECOND), wiped(LARGE))
    assert repeated(both) == both


def test_a_second_patch_on_one_tooth_alone_is_a_bare_spot():
    first, *others = repeated([wiped(LARGE, SECOND), wiped(LARGE), wiped(LARGE)])
    assert (len(first.patches), first.bare) == (1, 1)
    assert np.array_equal(first.mask, area(LARGE))
    assert [tooth.bare for tooth in others] == [0, 0]


@pytest.mark.parametrize("by", [-8, 0, 8])
def test_a_second_patch_that_wanders_a_little_stays(by):
    teeth = repeated([wiped(LARGE, SECOND), wiped(LARGE, moved(SECOND, by)), wiped(LARGE)])
    assert [len(tooth.patches) for tooth in teeth] == [2, 2, 1]


def test_a_small_patch_counts_where_two_others_have_it():
    teeth = [wiped(LARGE, small=(SMALL,)) for _ in range(3)]
    assert all(np.array_equal(tooth.mask, area(LARGE, SMALL)) for tooth in repeated(teeth))
    assert all(np.array_equal(t.mask, area(LARGE)) for t in repeated([*teeth[:2], wiped(LARGE)]))


@given(st.lists(st.integers(-60, 60), min_size=3, max_size=7))
def test_the_largest_patch_of_a_tooth_always_stays(shifts):
    """However far prints wander: nothing is read from a tooth that has lost its print."""
    teeth = [wiped(moved(LARGE, by)) for by in shifts]
    for before, after in zip(teeth, repeated(teeth), strict=True):
        assert np.array_equal(before.mask, after.mask)


@given(st.permutations(range(4)))
def test_the_order_of_teeth_does_not_matter(order):
    teeth = [wiped(LARGE, SECOND), wiped(LARGE), wiped(LARGE, SECOND, small=(SMALL,)), wiped(LARGE)]
    plain = repeated(teeth)
    for place, tooth in zip(order, repeated([teeth[i] for i in order]), strict=True):
        assert np.array_equal(tooth.mask, plain[place].mask)
        assert tooth.bare == plain[place].bare
