"""A small seeded share of the closed loop: the whole run and its tables are in benchmarks/closed_loop."""

from __future__ import annotations

from functools import cache

import pytest

from axle.simulator.fault import Fault
from benchmarks.closed_loop import lash_follower, rule_of_thumb
from benchmarks.closed_loop.shop import case

SHARE = range(500, 516)


@cache
def ours(number: int, preloads: bool):
    return lash_follower.build(case(number, preloads=preloads))


@pytest.mark.parametrize("preloads", [False, True])
def test_following_lash_an_axle_is_right_with_few_strip_downs(preloads):
    found = [ours(number, preloads) for number in SHARE]
    second = sum(o.right and o.builds <= 2 for o in found)
    third = sum(o.right and o.builds <= 3 for o in found)
    # The targets stand in docs/closed_loop.md with what the whole run reaches; here 16 axles, by seed.
    assert second >= 0.7 * len(found), [o.log for o in found if o.builds > 2]
    assert third >= 0.85 * len(found)
    assert sum(o.done and not o.right for o in found) <= 2


def test_it_needs_fewer_strip_downs_than_rules_of_thumb():
    theirs = [rule_of_thumb.build(case(number, preloads=False)) for number in SHARE]
    mine = [ours(number, False) for number in SHARE]
    assert sum(o.builds for o in mine) < 0.8 * sum(o.builds for o in theirs)
    assert sum(o.right and o.builds <= 2 for o in mine) > sum(o.right and o.builds <= 2 for o in theirs)


def test_what_was_said_to_be_sure_came_in():
    moves = [move for preloads in (False, True) for n in SHARE for move in ours(n, preloads).moves]
    sure = [held for chance, held in moves if chance > 0.9]
    assert len(sure) >= 6
    assert sum(sure) >= 0.8 * len(sure)


@pytest.mark.parametrize(
    "fault",
    [Fault.GEAR_RUNOUT, Fault.SLINGER_OUT, Fault.WRENCH_NOT_ZERO, Fault.WRONG_MARK, Fault.BENT_PINION],
)
def test_what_is_wrong_is_named_or_the_work_stops(fault):
    found = [
        lash_follower.build(case(number, preloads=True, fault=fault)) for number in (600, 601, 602, 603)
    ]
    told = [any(key == fault.value for key, _ in o.named) or o.stopped for o in found]
    assert sum(told) >= 3, [o.log[-3:] for o in found]


def test_the_same_axle_goes_the_same_way_twice():
    first, second = (lash_follower.build(case(510, preloads=True)) for _ in range(2))
    assert first.log == second.log


def test_swapped_caps_are_named_before_the_pinion_is_in():
    # Common practice, no source: with the pinion out, a carrier that drags far more than its packs make it
    # has its caps, or a bearing, wrong.
    outcome = lash_follower.build(case(7, preloads=True, fault=Fault.SWAPPED_CAPS))
    assert outcome.stopped
    assert ("swapped_caps", 1) in outcome.named
    assert not any("backlash" in line for line in outcome.log)
