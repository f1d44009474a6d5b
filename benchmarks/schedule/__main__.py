"""Measures the plan.

python -m benchmarks.schedule speed
python -m benchmarks.schedule rule 100
python -m benchmarks.schedule long 6 SECONDS
python -m benchmarks.schedule promises 60
"""

import sys
import time

import numpy as np

from axle.schedule.list_schedule import list_schedule
from axle.schedule.problem import lateness
from axle.schedule.promise import outlook
from axle.schedule.solver import Effort, solve
from benchmarks.schedule.real_shop import kept_promises
from benchmarks.schedule.shops import Shop


def speed() -> None:
    """30 and 300 jobs, two people."""
    for jobs in (30, 300):
        shop = Shop(1, jobs)
        begun = time.perf_counter()
        found = solve(shop.problem)
        planned = time.perf_counter() - begun
        outlook(shop.problem, found.schedule, shop.works, shop.times)
        drawn = time.perf_counter() - begun - planned
        stretches = sum(len(order.stretches) for order in shop.problem.orders)
        print(f"{jobs} jobs, {stretches} stretches: {planned:.2f} s, draws {drawn:.2f} s, cut {found.cut}")


def rule(count: int) -> None:
    """Against the simple rule, over so many shops."""
    rows = []
    for seed in range(count):
        shop = Shop(seed)
        begun = time.perf_counter()
        found = solve(shop.problem)
        seconds = time.perf_counter() - begun
        simple = list_schedule(shop.problem)
        rows.append(
            (lateness(shop.problem, simple.ends), lateness(shop.problem, found.schedule.ends), seconds)
        )
        print(seed, f"load {shop.load:.2f}", " ".join(f"{value:.2f}" for value in rows[-1]), flush=True)
    simple_late, late, seconds = np.array(rows).T
    print(f"worse than the rule on {np.sum(late > simple_late + 1e-6)} of {count}")
    print(f"mean weighted lateness {simple_late.mean():.2f} h by the rule, {late.mean():.2f} h planned")
    print(f"seconds: median {np.median(seconds):.2f}, most {seconds.max():.2f}")


def long(count: int, limit: float) -> None:
    """Against a long run, over so many shops."""
    rows = []
    for seed in range(count):
        shop = Shop(seed)
        usual = solve(shop.problem)
        best = usual
        begun = time.perf_counter()
        lists = 1500
        while time.perf_counter() - begun < limit:
            effort = Effort(
                lists=lists, places=10**9, deterministic=1.0, each=0.05, freed=5, rounds=40, wall=limit
            )
            best = min((best, solve(shop.problem, effort, [best.schedule])), key=lambda s: s.cost)
            lists *= 2
        rows.append([lateness(shop.problem, s.schedule.ends) for s in (usual, best)])
        print(seed, f"usual {rows[-1][0]:.2f} long {rows[-1][1]:.2f}", flush=True)
    usual_late, long_late = np.array(rows).T
    print(f"mean: usual {usual_late.mean():.2f}, long {long_late.mean():.2f}")


def promises(count: int) -> None:
    """What was said of promises against what came, over so many shops."""
    rows = [row for seed in range(count) for row in kept_promises(seed)]
    said, kept, shops = np.array([(r.said, r.kept, r.shop) for r in rows]).T
    bands = np.array_split(np.argsort(said, kind="stable"), 5)
    random = np.random.default_rng(1)
    print(f"{len(rows)} promises of {count} shops; Brier {np.mean((said - kept) ** 2):.3f}")
    for band in bands:
        means = []
        for _ in range(400):
            weight = np.bincount(random.integers(0, count, count), minlength=count)[shops[band].astype(int)]
            if weight.sum():
                means.append(np.average(kept[band], weights=weight))
        low95, high95 = np.quantile(means, [0.025, 0.975])
        print(
            f"said {said[band].mean():.2f} ({said[band].min():.2f} to {said[band].max():.2f}), "
            f"came {kept[band].mean():.2f} ({low95:.2f} to {high95:.2f}), {len(band)} promises"
        )


if __name__ == "__main__":
    what, numbers = sys.argv[1], [float(text) for text in sys.argv[2:]]
    if what == "speed":
        speed()
    elif what == "rule":
        rule(int(numbers[0]))
    elif what == "long":
        long(int(numbers[0]), numbers[1])
    else:
        promises(int(numbers[0]))
