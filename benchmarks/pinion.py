"""The pinion's arithmetic: packs, depth, preload. `.venv/bin/python -m benchmarks.pinion`.

Pack choice from 50, 500 and 5,000 pieces (target 100 ms at 500), also from sizes averaged to
0.00001 mm, which share no step; the number line and an order; a depth result from three methods;
a preload fit of three trials with the chance of the next pack; the next bite of a sleeve's nut.
"""

from __future__ import annotations

import math
import random
import statistics
import time
import tracemalloc
from collections.abc import Callable
from decimal import Decimal

from axle.depth.compare import compare
from axle.depth.marks import Mark, Masters
from axle.depth.methods import Bar, by_bar, by_bridge, by_gauge_block
from axle.layout import CarrierBy, DepthShim, Layout, PreloadBy
from axle.measure.uncertainty import Measured
from axle.preload.bites import Bite, next_bite
from axle.preload.curve import PINION_SLOPE, Trial, chances, fit, torque_at
from axle.shims.choose import choose, reachable, to_order
from axle.shims.pieces import Piece

HEAD = Layout(DepthShim.HEAD, PreloadBy.SPACER, CarrierBy.OUTBOARD)
CLOSE = Decimal("0.0127")


def drawer(count: int, seed: int, step: str = "0.00254") -> list[Piece]:
    """Shims between 3 and 60 thou, on a step."""
    source = random.Random(seed)
    fine = Decimal(step)
    sizes = (Decimal(source.uniform(0.08, 1.5)) // fine * fine for _ in range(count))
    return [Piece(key, size.quantize(Decimal("0.00001"))) for key, size in enumerate(sizes)]


def timed(words: str, act: Callable[[int], object], times: int = 20, target: str = "") -> None:
    """Print the median and the largest of some runs."""
    taken = []
    for seed in range(times):
        began = time.perf_counter()
        act(seed)
        taken.append(1000 * (time.perf_counter() - began))
    print(f"{words:58s} median {statistics.median(taken):7.1f} ms, largest {max(taken):7.1f} ms {target}")


def packs() -> None:
    """Choice, number line and order."""
    for count in (50, 500, 5000):
        drawers = [drawer(count, seed) for seed in range(20)]
        wanted = [Decimal(random.Random(s).randint(150, 700)) * Decimal("0.00254") for s in range(20)]
        target = "(target 100 ms)" if count == 500 else ""
        timed(
            f"pack from {count:5d} pieces",
            lambda s, d=drawers, w=wanted: choose(w[s], CLOSE, d[s]),
            target=target,
        )
    fine = [drawer(500, seed, "0.00001") for seed in range(8)]
    timed(
        "pack from   500 pieces averaged to 0.00001 mm",
        lambda s: choose(Decimal("0.83"), CLOSE, fine[s]),
        8,
        "(target 100 ms)",
    )
    middling = [drawer(500, seed) for seed in range(20)]
    timed(
        "number line around a pack, 500 pieces",
        lambda s: reachable(Decimal("0.83"), Decimal("0.127"), middling[s]),
    )
    few = [drawer(40, seed) for seed in range(20)]
    sizes = [Decimal(n) * Decimal("0.0254") for n in range(2, 62, 3)]
    timed(
        "what to order, 40 pieces, 20 sizes",
        lambda s: to_order(Decimal(4), Decimal("0.0025"), few[s], sizes),
    )
    tracemalloc.start()
    choose(Decimal("0.83"), CLOSE, drawer(5000, 1))
    most = tracemalloc.get_traced_memory()[1] / 1e6
    print(f"memory for a pack from 5,000 pieces: {most:.1f} MB at the most")
    tracemalloc.stop()


def depth(seed: int) -> float:
    """Three methods and their comparison."""
    mark, trial = Mark(0.0508), Measured(0.5, 0.004)
    gauge = by_gauge_block(HEAD, trial, Measured(0.3 + seed / 1000, 0.007), mark)
    bar = by_bar(
        HEAD,
        trial,
        bar=Bar(Measured(20.0), Measured(76.0), Measured(0.55)),
        mark=mark,
        masters=Masters(96.2),
    )
    master = Masters(seat=136.2, head=Measured(40.0, 0.002))
    bridge = by_bridge(
        HEAD, trial, reach=Measured(98.0, 0.004), reading=Measured(1.4), mark=mark, masters=master
    )
    return compare([gauge, bar, bridge]).thickness


def preload(seed: int) -> float:
    """A fit of three trials, and the chance of the next pack."""
    trials = [Trial(0.0, end_play=0.02), Trial(0.03, torque=0.2 + seed / 100), Trial(0.05, torque=1.1)]
    curve = fit(trials, PINION_SLOPE)
    return chances(curve, curve.setting_for(2.2), 1.8, 2.7)[1]


def assemblies() -> None:
    """How many packs 500 made-up axles take to the range, in steps of a quarter thou."""
    counts, low, high = [], 14 * 0.11298, 19 * 0.11298
    for seed in range(500):
        source = random.Random(seed)
        slope = PINION_SLOPE.coefficient * math.exp(source.gauss(0, 0.35))
        zero, pack, trials = source.uniform(0.3, 0.9), 0.9 + source.uniform(0.0, 0.15), []
        while len(trials) < 9:
            tight = zero - pack
            torque = torque_at(tight, slope) * source.gauss(1, 0.03)
            if low <= torque <= high:
                break
            play = max(-tight + source.gauss(0, 0.005), 0.0)
            trials.append(Trial(-pack, torque=torque) if tight > 0 else Trial(-pack, end_play=play))
            curve = fit(trials, PINION_SLOPE)
            pack = round(-curve.setting_for((low + high) / 2) / 0.00635) * 0.00635
        counts.append(len(trials) + 1)
    shares = ", ".join(f"{n}: {counts.count(n) / 5:.0f} %" for n in sorted(set(counts)))
    print(f"packs from a loose start to 14-19 in·lb, {shares} (the first is the start itself)")


def main() -> None:
    """Print every figure."""
    packs()
    timed("depth by three methods, compared", depth)
    timed("preload: fit of three trials and a chance", preload)
    bites = [Bite(0.1, 0.0), Bite(0.3, 15.0), Bite(0.7, 12.0), Bite(1.1, 10.0)]
    timed("next bite of a sleeve's nut", lambda _: next_bite(bites, 2.0, 3.0))
    assemblies()


if __name__ == "__main__":
    main()
