"""What steps take, and what a promise is worth."""

import math
import random
from datetime import date, datetime, timedelta

import numpy as np
import pytest
from scipy.stats import norm

from axle.layout import every_layout
from axle.procedure.choices import Build
from axle.procedure.sequence import plan
from axle.procedure.steps import step_named
from axle.schedule.calendars import WorkingTime
from axle.schedule.durations import Assemblies, StepTimes, Timed, assemblies_of, assumptions, learn
from axle.schedule.job_work import JobWork
from axle.schedule.list_schedule import list_schedule
from axle.schedule.problem import Problem, Stretch, WorkOrder
from axle.schedule.promise import hours_of, outlook, range_of
from axle.schedule.timing import hours_between, spent
from benchmarks.schedule.real_shop import kept_promises
from tests.shares import share_of

WEEK = dict.fromkeys(range(5), ((480, 720), (780, 1020)))


def timed(job: int, minutes: float, *, over_break: bool = False, role: str = "builder") -> Timed:
    return Timed(
        str(job), "depth-block", "depth", 10.0, minutes, over_break=over_break, role=role, layout="outboard"
    )


def test_a_whole_axle_adds_up_to_a_working_day():
    """Common practice, no source: taking in, setting and closing one axle is a day's work."""
    for layout in every_layout():
        hours = plan(Build(layout)).hands_on / 60
        assert 6.5 < hours < 10.5


def test_a_shop_s_pace_is_learned_from_its_jobs_and_slowly():
    one = learn([timed(1, 15.0)])
    many = learn([timed(job, 15.0) for job in range(40)])
    assert 1.0 < one.shop.factor < 1.15
    assert many.shop.factor == pytest.approx(1.5, rel=0.05)
    assert many.jobs == 40
    assert (
        many.minutes(step_named("depth-block"), "builder", "outboard")
        > 1.4 * step_named("depth-block").hands_on
    )


def test_a_step_left_open_over_lunch_and_one_only_ticked_say_nothing():
    assert learn([timed(1, 90.0), timed(2, 0.2), timed(3, 12.0, over_break=True)]).jobs == 0


def test_one_bad_job_does_not_move_the_others():
    """Against the plain mean: a job three times as slow is drawn in."""
    rows = [timed(job, 10.0) for job in range(9)] + [timed(99, 38.0)]
    assert learn(rows).shop.factor < np.mean([1.0] * 9 + [3.8]) - 0.05


def test_an_apprentice_s_pace_is_apart_from_the_shop_s():
    rows = [timed(job, 10.0) for job in range(20)] + [
        timed(100 + job, 20.0, role="apprentice") for job in range(20)
    ]
    times = learn(rows)
    step = step_named("depth-block")
    slow, usual = (times.minutes(step, role) for role in ("apprentice", "builder"))
    assert slow / usual == pytest.approx(2.0, rel=0.15)


def test_the_width_of_a_step_is_that_of_what_was_timed():
    """Lognormal times of a known width: the width that is learned goes to it."""
    draw = random.Random(4)
    rows = [timed(job, 10 * math.exp(draw.gauss(0, 0.25))) for job in range(400)]
    assert learn(rows).width == pytest.approx(0.25, rel=0.12)


def test_assemblies_are_a_share_of_the_shop_s_own_jobs():
    assert sum(assemblies_of([]).shares) == pytest.approx(1)
    own = assemblies_of([1] * 50 + [2] * 50)
    assert own.shares[0] == pytest.approx(0.48, abs=0.02)
    # A Dirichlet prior's mean, by hand: (10 · 0.273 + 50) / 110.
    assert own.shares[0] == pytest.approx((10 * assumptions().assemblies["shares"][0] + 50) / 110)


def test_further_assemblies_follow_the_judgement_s_own_chance():
    known = Assemblies((0.3, 0.5, 0.2), 0)
    assert known.further(0, None) == (0.3, 0.5, 0.2)
    assert known.further(1, None) == pytest.approx((0.3, 0.5, 0.2))
    advised = known.further(1, 0.9)
    assert advised[0] == 0
    assert advised[1] == pytest.approx(0.9)
    assert sum(advised) == pytest.approx(1)
    assert sum(known.further(7, 0.4)) == pytest.approx(1)


def test_minutes_between_two_marks_leave_the_break_out():
    monday = datetime(2026, 11, 23)
    minutes, broken = spent(
        monday + timedelta(hours=11, minutes=45), monday + timedelta(hours=13, minutes=15), WEEK
    )
    assert (minutes, broken) == (30, True)
    assert spent(monday + timedelta(hours=9), monday + timedelta(hours=9, minutes=20), WEEK) == (20, False)
    assert spent(monday + timedelta(hours=20), monday + timedelta(hours=20, minutes=20), WEEK) == (
        20,
        False,
    )


def test_hours_of_a_job_leave_the_nights_out():
    start = datetime(2026, 11, 23, 9)
    acts = [(start + timedelta(minutes=10 * n), "1") for n in range(7)]
    acts += [(start + timedelta(days=1, minutes=30 * n), "2") for n in range(3)]
    assert hours_between(acts) == {"1": 1.0, "2": 1.0}


def test_the_chance_of_one_stretch_is_that_of_its_distribution():
    """One person, one job of one step, no breaks: a lognormal's own probability (closed form)."""
    times = StepTimes()
    hours = WorkingTime(((0, 100_000),))
    order = WorkOrder("1", (Stretch("1:depth-block", 60, ("ines",), steps=("depth-block",)),), promise=75)
    problem = Problem((order,), {"ines": hours})
    schedule = list_schedule(problem)
    work = JobWork("1", ("depth",), "outboard", (step_named("depth-block"),))
    found = outlook(problem, schedule, {"1": work}, times, 4000)
    width = math.sqrt(times.width**2 + assumptions().width.axle ** 2 + assumptions().width.person ** 2)
    truth = norm.cdf((math.log(75 / 60) + width**2 / 2) / width)
    assert found.chances["1"] == pytest.approx(truth, abs=3 * math.sqrt(truth * (1 - truth) / 4000))
    assert np.mean(found.hours["1"]) == pytest.approx(1.0, rel=0.03)


def test_an_estimate_is_a_range_and_its_mean_is_the_steps_and_the_assemblies():
    layout = next(iter(every_layout()))
    steps = plan(Build(layout)).steps
    work = JobWork("1", (), "outboard", steps, further=(0.25, 0.5, 0.25), further_minutes=60)
    drawn = hours_of(work, StepTimes(), 6000)
    expected = (sum(step.hands_on for step in steps) + 60) / 60
    assert np.mean(drawn) == pytest.approx(expected, rel=0.02)
    shown = range_of(drawn)
    assert shown.low < shown.median < shown.high
    assert np.mean((drawn >= shown.low) & (drawn <= shown.high)) == pytest.approx(0.8, abs=0.01)


def test_what_is_said_of_promises_comes_about_in_shops_that_the_plan_does_not_know():
    """A small share of the benchmark's simulated shops; its figures stand in docs/plan.md."""
    rows = [row for seed in range(200, 200 + share_of(40, 8)) for row in kept_promises(seed)]
    said, kept = np.array([(row.said, row.kept) for row in rows]).T
    assert len(rows) > 100
    assert np.mean(kept) == pytest.approx(np.mean(said), abs=0.12)
    assert np.mean((said - kept) ** 2) < 0.16
    assert kept[said > 0.9].mean() > kept[said < 0.1].mean() + 0.6


def test_public_holidays_are_those_of_the_law():
    """Feiertagsruhegesetz of Austria § 1: 26 October and 8 December are public holidays."""
    holidays = pytest.importorskip("holidays")
    days = holidays.country_holidays("AT", years=2026)
    assert date(2026, 10, 26) in days
    assert date(2026, 12, 8) in days
