"""Run axles of one world, each by one builder, and keep each as soon as it is built."""

from __future__ import annotations

import time
from collections.abc import Iterable
from concurrent.futures import ProcessPoolExecutor, as_completed
from dataclasses import dataclass
from pathlib import Path

from axle.simulator.fault import Fault
from axle.simulator.workshop import draw_shop
from axle.simulator.world import world_named
from benchmarks.closed_loop import lash_follower, rule_of_thumb
from benchmarks.closed_loop.rows import Row, rows_of
from benchmarks.closed_loop.shop import case

BUILDERS = ("lash", "told", "thumb")
_SAID_EVERY = 60.0


@dataclass(frozen=True)
class Job:
    """One axle to be built.

    :param world: in which.
    :param number: it is drawn from.
    :param builder: "lash"; "told", the same that knows the axle's own figures; or "thumb".
    :param preloads: whether both preloads are judged.
    :param fault: what is wrong with it, or "".
    :param shop: number of the shop it comes to, or nothing for one of its own.
    """

    world: str
    number: int
    builder: str = "lash"
    preloads: bool = True
    fault: str = ""
    shop: int | None = None


def build(job: Job) -> Row:
    """Build one axle."""
    shop = draw_shop(world_named(job.world), job.shop) if job.shop is not None else None
    fault = Fault(job.fault) if job.fault else None
    drawn = case(job.number, preloads=job.preloads, fault=fault, world=job.world, shop=shop)
    if job.builder == "thumb":
        return Row.of(rule_of_thumb.build(drawn))
    return Row.of(lash_follower.build(drawn, told=job.builder == "told"))


def run(jobs: Iterable[Job], path: Path, processes: int = 2) -> None:
    """Build axles, log each at once, and leave out those that the file holds already."""
    have = {row.number for row in rows_of(path)}
    wanted = [job for job in jobs if job.number not in have]
    if not wanted:
        return
    path.parent.mkdir(parents=True, exist_ok=True)
    began = said = time.perf_counter()
    with path.open("a") as file, ProcessPoolExecutor(processes) as pool:
        for count, done in enumerate(as_completed([pool.submit(build, job) for job in wanted]), start=1):
            file.write(done.result().line + "\n")
            file.flush()
            if time.perf_counter() - said > _SAID_EVERY:
                said = time.perf_counter()
                print(f"{path.name}: {count} of {len(wanted)}, {said - began:.0f} s", flush=True)
    print(f"{path.name}: {len(wanted)} axles in {time.perf_counter() - began:.0f} s", flush=True)
