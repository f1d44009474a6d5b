"""Shops that learn: so many jobs each, then further axles with what was learned and without."""

from __future__ import annotations

import json
import time
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

import numpy as np

from axle.learning.learned import JobFigure, learn, priors_of
from axle.simulator.workshop import draw_shop
from axle.simulator.world import world_named
from axle.state.priors import Priors
from axle.stations.job_figures import job_figures
from benchmarks.closed_loop import lash_follower
from benchmarks.closed_loop.shop import case

_SAMPLES = 2000
# Each shop's axles are drawn from numbers of its own.
_APART = 1009


def job_of(world: str, shop: int, number: int) -> tuple[JobFigure, ...]:
    """What one finished job of a shop shows; nothing where it was not finished."""
    drawn = case(number, preloads=True, world=world, shop=draw_shop(world_named(world), shop))
    outcome, state = lash_follower.finish(drawn)
    return job_figures(state) if outcome.done else ()


def pair_of(world: str, shop: int, number: int, priors: Priors) -> tuple[bool, bool]:
    """Whether an axle was right at the second assembly, without and with what the shop has learned."""
    own = draw_shop(world_named(world), shop)
    found = []
    for held in (Priors(), priors):
        outcome = lash_follower.build(case(number, preloads=True, world=world, shop=own, priors=held))
        found.append(outcome.right and outcome.builds <= 2)
    return found[0], found[1]


def run(world: str, shops: int, jobs: int, axles: int, path: Path, processes: int = 2) -> None:
    """Let shops learn; each shop is kept as a line as soon as it is done, and left out if it is there."""
    have = {json.loads(line)["shop"] for line in path.read_text().splitlines()} if path.exists() else set()
    path.parent.mkdir(parents=True, exist_ok=True)
    began = time.perf_counter()
    with ProcessPoolExecutor(processes) as pool, path.open("a") as file:
        for shop in (s for s in range(shops) if s not in have):
            first = shop * _APART
            shown = pool.map(job_of, *zip(*[(world, shop, first + n) for n in range(jobs)], strict=True))
            priors = priors_of(learn(figure for figures in shown for figure in figures))
            more = [(world, shop, first + jobs + n, priors) for n in range(axles)]
            pairs = list(pool.map(pair_of, *zip(*more, strict=True)))
            file.write(json.dumps({"shop": shop, "pairs": pairs}) + "\n")
            file.flush()
            print(f"{path.name}: shop {shop}, {time.perf_counter() - began:.0f} s", flush=True)


def words(path: Path) -> str:
    """Mean gain with its interval by bootstrap over shops."""
    shops = [json.loads(line)["pairs"] for line in path.read_text().splitlines()] if path.exists() else []
    if not shops:
        return "No shops were run."
    without, with_ = (np.array([np.mean([p[n] for p in pairs]) for pairs in shops]) for n in (0, 1))
    gains, source = with_ - without, np.random.default_rng(2)
    low, high = np.quantile(source.choice(gains, (_SAMPLES, len(gains))).mean(axis=1), (0.025, 0.975))
    return (
        f"{len(shops)} shops, {len(shops[0])} further axles each: right at the second assembly "
        f"{100 * without.mean():.1f} % without and {100 * with_.mean():.1f} % with what was learned, a "
        f"gain of "
        f"{100 * gains.mean():+.1f} points ({100 * low:+.1f} to {100 * high:+.1f})."
    )
