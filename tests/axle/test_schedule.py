"""Plans: classic instances with known optima, a case solved by hand, and what every plan keeps to."""

from dataclasses import replace
from datetime import date

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from axle.errors import AxleError
from axle.layout import every_layout
from axle.procedure.choices import Build
from axle.procedure.flow import may_do
from axle.procedure.sequence import plan
from axle.schedule.calendars import WorkingTime, joined, parse_hours, working_time
from axle.schedule.clashes import Hold, ways_out
from axle.schedule.durations import StepTimes
from axle.schedule.expand import steps_of
from axle.schedule.horizon import is_block, with_blocks
from axle.schedule.job_work import Begun, JobWork, PartComes, ShopMeans, work_order
from axle.schedule.list_schedule import list_schedule
from axle.schedule.problem import BENCH, Goal, Problem, Stretch, WorkOrder, lateness
from axle.schedule.solver import Effort, solve
from axle.schedule.timetable import timetable
from benchmarks.schedule.shops import Shop
from tests.axle.schedule_check import faults
from tests.shares import share_of

# The two instances of Fisher and Thompson, Probabilistic learning combinations of local job-shop scheduling
# rules (1963): machine and minutes of each operation, a line for each job. Optima 55 and 930 (the second
# proven by Carlier and Pinson, An algorithm for solving the job-shop problem, 1989).
SIX = """2 1 0 3 1 6 3 7 5 3 4 6
1 8 2 5 4 10 5 10 0 10 3 4
2 5 3 4 5 8 0 9 1 1 4 7
1 5 0 5 2 5 3 3 4 8 5 9
2 9 1 3 4 5 5 4 0 3 3 1
1 3 3 3 5 9 0 10 4 4 2 1"""
TEN = """0 29 1 78 2 9 3 36 4 49 5 11 6 62 7 56 8 44 9 21
0 43 2 90 4 75 9 11 3 69 1 28 6 46 5 46 7 72 8 30
1 91 0 85 3 39 2 74 8 90 5 10 7 12 6 89 9 45 4 33
1 81 2 95 0 71 4 99 6 9 8 52 7 85 3 98 9 22 5 43
2 14 0 6 1 22 5 61 3 26 4 69 8 21 7 49 9 72 6 53
2 84 1 2 5 52 3 95 8 48 9 72 0 47 6 65 4 6 7 25
1 46 0 37 3 61 2 13 6 32 5 21 9 32 8 89 7 30 4 55
2 31 0 86 1 46 5 74 4 32 6 88 8 19 9 48 7 36 3 79
0 76 1 69 3 76 5 51 2 85 9 11 6 40 7 89 4 26 8 74
1 85 0 13 2 61 6 7 8 64 9 76 5 47 3 52 4 90 7 45"""
QUICK = Effort(lists=40, deterministic=0.02, rounds=2)


def job_shop(text: str) -> Problem:
    rows = [[int(word) for word in line.split()] for line in text.splitlines()]
    always = WorkingTime(((0, 100_000),))
    orders = tuple(
        WorkOrder(
            str(job),
            tuple(Stretch(f"{job}:{n}", row[2 * n + 1], (f"m{row[2 * n]}",)) for n in range(len(row) // 2)),
        )
        for job, row in enumerate(rows)
    )
    return Problem(orders, {f"m{n}": always for n in range(len(rows))}, goal=Goal.MAKESPAN)


@pytest.mark.parametrize(
    ("instance", "best", "effort"),
    [(SIX, 55, 1.0), (TEN, 930, 3.0)],
    ids=["6 by 6", "10 by 10"],
)
def test_the_classic_job_shops_reach_their_known_optimum(instance, best, effort):
    problem = job_shop(instance)
    simple = list_schedule(problem)
    assert not faults(problem, simple)
    assert best <= simple.cost(problem) < 1.5 * best
    found = solve(problem, Effort(lists=150, deterministic=effort, wall=120))
    assert not faults(problem, found.schedule)
    assert found.cost == best
    assert found.proven


def test_a_case_with_breaks_waits_and_lags_solved_by_hand():
    """Two jobs, one person from 8 to 12 and 13 to 17; solved on paper, minute by minute."""
    hours = WorkingTime(((480, 720), (780, 1020), (1920, 2160), (2220, 2460)))
    gear = WorkOrder(
        "gear",
        (
            Stretch("gear:clean", 200, ("ines",), pauses=True),
            # Into the oven, 30 min, on at once within 5 min: 60 min that lie between two breaks.
            Stretch("gear:oven", 10, ("ines",), pauses=False, wait=30, largest_lag=5),
            Stretch("gear:seat", 20, ("ines",), pauses=False, wait=14 * 60),
            Stretch("gear:check", 30, ("ines",)),
        ),
        promise=2 * 1440,
    )
    cover = WorkOrder("cover", (Stretch("cover:on", 120, ("ines",)),), promise=1440)
    problem = Problem((gear, cover), {"ines": hours}, now=480)
    places = list_schedule(problem, lambda order, _: order.job == "cover").by_key
    # By hand: 8:00 to 11:20 cleaning; 60 min until 12:20 cross the break, so the cover goes in between,
    # 40 min before noon and 80 min from 13:00; the oven at 14:20, the seat at 15:00, done 15:20; the wait
    # runs over the night until 5:20, the check is at 8:00.
    assert (places["gear:clean"].start, places["gear:clean"].end) == (480, 680)
    assert (places["cover:on"].start, places["cover:on"].end) == (680, 860)
    assert (places["gear:oven"].start, places["gear:oven"].end) == (860, 870)
    assert (places["gear:seat"].start, places["gear:seat"].end) == (900, 920)
    assert places["gear:check"].start == 1920
    found = solve(problem)
    assert not faults(problem, found.schedule)
    assert lateness(problem, found.schedule.ends) == 0


_SPAN = st.sampled_from(
    [((480, 720), (780, 1020)), ((480, 720),), ((420, 780),), ((600, 900), (960, 1080))]
)


@st.composite
def problems(draw) -> Problem:
    people = {
        f"p{n}": WorkingTime(
            tuple((day * 1440 + low, day * 1440 + high) for day in range(60) for low, high in draw(_SPAN))
        )
        for n in range(draw(st.integers(1, 3)))
    }
    machines = {"press": draw(st.integers(1, 2)), "oven": 1, BENCH: draw(st.integers(1, 3))}
    orders = []
    for job in range(draw(st.integers(1, 5))):
        stretches = []
        count = draw(st.integers(1, 5))
        for n in range(count):
            follows = n < count - 1 and draw(st.integers(0, 5)) == 0
            stretches.append(
                Stretch(
                    f"{job}:{n}",
                    draw(st.integers(1, 40 if follows else 110)),
                    tuple(draw(st.sets(st.sampled_from(sorted(people)), min_size=1)))
                    if not follows
                    else tuple(people),
                    machines=("press",) if draw(st.booleans()) else (),
                    pauses=False if follows else draw(st.booleans()),
                    wait=draw(st.sampled_from([0, 0, 15, 90, 700])) if not follows else 10,
                    wait_machines=("oven",) if not follows and draw(st.booleans()) else (),
                    largest_lag=5 if follows else None,
                    not_before=draw(st.sampled_from([0, 0, 0, 900, 3000])),
                    apart=n > 0,
                )
            )
        last = replace(stretches[-1], largest_lag=None)
        orders.append(
            WorkOrder(
                str(job),
                (*stretches[:-1], last),
                promise=draw(st.sampled_from([None, 1000, 4000])),
                on_bench=draw(st.integers(0, 3)) == 0,
            )
        )
    return Problem(tuple(orders), people, machines, now=draw(st.sampled_from([0, 500, 700])))


@settings(max_examples=share_of(300, 40), deadline=None)
@given(problem=problems())
def test_nobody_is_in_two_places_nothing_before_what_it_follows_and_none_outside_hours(problem):
    simple = list_schedule(problem)
    assert not faults(problem, simple)
    found = solve(problem, QUICK)
    assert not faults(problem, found.schedule)
    assert found.cost <= simple.cost(problem) + 1e-9


def test_a_plan_is_never_worse_than_the_simple_rule_and_the_same_each_time():
    costs = []
    for seed in range(share_of(12, 4)):
        shop = Shop(seed, jobs=12)
        first, again = (solve(shop.problem, QUICK) for _ in range(2))
        assert first.schedule == again.schedule
        assert not faults(shop.problem, first.schedule)
        simple = list_schedule(shop.problem)
        costs.append((lateness(shop.problem, simple.ends), lateness(shop.problem, first.schedule.ends)))
        assert costs[-1][1] <= costs[-1][0] + 1e-9
    assert sum(late for _, late in costs) <= 0.9 * sum(simple for simple, _ in costs)


def test_a_kept_plan_is_where_the_search_starts():
    shop = Shop(1, jobs=8)
    good = solve(shop.problem, QUICK)
    assert (
        solve(shop.problem, Effort(lists=0, deterministic=0, rounds=0), [good.schedule]).cost <= good.cost
    )
    assert timetable(shop.problem, good.schedule.sequence).cost(shop.problem) <= good.cost + 1e-6


def test_a_pin_keeps_its_time_and_its_person_free():
    hours = working_time(date(2026, 11, 23), 5, dict.fromkeys(range(5), ((480, 1020),)))
    pinned = WorkOrder("a", (Stretch("a:0", 60, ("ines",), pinned=600),), promise=5000)
    urgent = WorkOrder("b", (Stretch("b:0", 200, ("ines",)),), promise=100)
    problem = Problem((pinned, urgent), {"ines": hours}, now=480)
    places = list_schedule(problem).by_key
    assert places["a:0"].start == 600
    assert places["b:0"].start == 660
    ways = ways_out(problem, lateness(problem, list_schedule(problem).ends))
    assert ways[0].hold is Hold.PIN
    # By hand: without the pin the urgent job is done 180 min earlier, at its weight of 1.
    assert ways[0].saves == pytest.approx(3.0)


def test_a_part_that_comes_late_is_a_way_out():
    hours = working_time(date(2026, 11, 23), 5, dict.fromkeys(range(5), ((480, 1020),)))
    order = WorkOrder("a", (Stretch("a:0", 60, ("ines",), not_before=2000, part="the seal"),), promise=1020)
    problem = Problem((order,), {"ines": hours}, now=480)
    ways = ways_out(problem, lateness(problem, list_schedule(problem).ends))
    assert (ways[0].hold, ways[0].words) == (Hold.PART, "the seal")


def test_hours_are_read_as_they_are_written_and_refused_in_words():
    assert parse_hours("7:30 to 12, 13.15-16") == ((450, 720), (795, 960))
    for text in ("8", "12-8", "8-12, 11-13", "8-25", "8:75-9"):
        with pytest.raises(AxleError, match=r"wanted"):
            parse_hours(text, "Monday")
    with pytest.raises(AxleError, match="no hours on any day"):
        working_time(date(2026, 11, 23), 7, dict.fromkeys(range(7), ()))


@given(at=st.integers(0, 5000), minutes=st.integers(1, 900))
def test_work_takes_its_minutes_whatever_breaks_lie_in_it(at, minutes):
    hours = joined([WorkingTime(((480, 720), (780, 1020))), WorkingTime(((1900, 2200), (3000, 9000)))])
    start = hours.start_at(at, minutes, pauses=True)
    end = hours.end_at(start, minutes)
    assert hours.worked_at(end) - hours.worked_at(start) == pytest.approx(minutes)
    assert hours.worked_at(start) == pytest.approx(hours.worked_at(at))
    whole = hours.start_at(at, minutes, pauses=False)
    assert hours.end_at(whole, minutes) == pytest.approx(whole + minutes)


MEANS = ShopMeans(
    {"ines": may_do("owner"), "lio": may_do("apprentice")},
    {"ines": "owner", "lio": "apprentice"},
    {"press": 0},
)


def work_of(layout, **more) -> JobWork:
    laid = plan(Build(layout))
    return JobWork("7", laid.stations, layout.carrier_by.value, laid.steps, **more)


def test_every_layout_makes_stretches_of_all_its_steps_once():
    for layout in every_layout():
        work = work_of(layout)
        order = work_order(work, StepTimes(), MEANS)
        named = [name for stretch in order.stretches for name in stretch.steps]
        assert sorted(set(named)) == sorted(step.step for step in work.steps)
        minutes = sum(step.hands_on for step in work.steps)
        # The other way of a press that is not there costs minutes; short waits are stood by.
        assert minutes - 1 <= order.minutes <= minutes + 120
        assert all(s.who == ("ines",) or set(s.who) == {"ines", "lio"} for s in order.stretches)
        sign = next(s for s in order.stretches if "finish-sheet" in s.steps)
        assert sign.who == ("ines",)


def test_a_hot_ring_gear_follows_at_once_and_a_spread_housing_is_not_left():
    layout = next(iter(every_layout()))
    order = work_order(work_of(layout), StepTimes(), MEANS)
    oven = next(s for s in order.stretches if "ring-seat" in s.steps and not s.key.endswith("+"))
    assert oven.largest_lag is not None
    assert not oven.pauses
    spread = next(s for s in order.stretches if "teardown-spread" in s.steps)
    assert "teardown-carrier" in spread.steps


def test_a_step_in_hand_a_part_and_a_pin_bear_on_its_stretch():
    layout = next(iter(every_layout()))
    work = work_of(layout)
    first, later = work.steps[0].step, next(s.step for s in work.steps if s.station == "depth")
    order = work_order(
        replace(
            work,
            begun=Begun(first, "lio", 400),
            parts={later: PartComes(5000, "the gauge")},
            pins={later: (6000, "ines")},
        ),
        StepTimes(),
        MEANS,
    )
    assert order.stretches[0].begun
    assert order.stretches[0].who == ("lio",)
    held = next(s for s in order.stretches if s.steps[0] == later)
    assert (held.not_before, held.pinned, held.who, held.part) == (5000, 6000, ("ines",), "the gauge")


def test_nobody_for_a_station_is_said_in_words():
    with pytest.raises(AxleError, match="nobody for"):
        work_order(
            work_of(next(iter(every_layout()))),
            StepTimes(),
            ShopMeans({"lio": may_do("apprentice")}, {"lio": "apprentice"}, {}),
        )


def test_later_jobs_stand_in_blocks_and_keep_their_minutes():
    shop = Shop(2, jobs=40)
    blocked = with_blocks(shop.whole)
    assert any(is_block(s.key) for order in blocked.orders for s in order.stretches)
    for whole, order in zip(shop.whole.orders, blocked.orders, strict=True):
        assert order.minutes == pytest.approx(whole.minutes)


def test_the_steps_of_a_stretch_fill_it():
    layout = next(iter(every_layout()))
    order = work_order(work_of(layout), StepTimes(), MEANS)
    hours = working_time(date(2026, 11, 23), 5, dict.fromkeys(range(5), ((480, 720), (780, 1020))))
    problem = Problem((order,), {"ines": hours, "lio": hours}, MEANS.counted, now=480)
    schedule = list_schedule(problem)
    for stretch in order.stretches:
        placed = schedule.by_key[stretch.key]
        rows = list(steps_of(placed, stretch, hours, StepTimes()))
        assert rows[0].start == placed.start
        assert rows[-1].end == pytest.approx(placed.end)
