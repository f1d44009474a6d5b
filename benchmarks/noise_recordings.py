"""What recordings say, on worlds that the weights were not set on.

``python -m benchmarks.noise_recordings``

Each world draws its own ranges for speeds, roads, paths, gears, bearings, tyres, engines and phones; each
recording draws out of these. Its truth is not known to the analysis. Arguments: worlds, first world.
"""

from __future__ import annotations

import json
import os
import sys
import time
from collections import Counter, defaultdict
from concurrent.futures import ProcessPoolExecutor
from typing import Any

os.environ.setdefault("OMP_NUM_THREADS", "1")

import numpy as np

from axle.noise.bands import split
from axle.noise.recording import Given, ToldSpeed, analyse
from axle.noise.verdict import heard_causes
from axle.simulator.recorder import TRUTHS, RecordingWorld

SECONDS = 62.0
RATES = (16_000, 22_050)
HEALTHY = 2
# Three of four recordings are marked; of two of five the bearings' figures are known, of three the gear.
MARKED, FIGURES, GEAR = 0.75, 0.4, 0.6


def one(asked: tuple[int, str, int]) -> dict[str, Any]:
    seed, truth, number = asked
    taken = RecordingWorld(seed, RATES).recording(truth, number, seconds=SECONDS)
    source = np.random.default_rng([seed, number, 9])
    marked, figures, gear = source.random() < MARKED, source.random() < FIGURES, source.random() < GEAR
    given = Given(
        "phone_accelerometer" if taken.accelerometer else "phone",
        ToldSpeed("table", text=_table(taken.speeds)),
        taken.circumference,
        *taken.teeth,
        spans=tuple(m for m in taken.marks if m[1] - m[0] > 0.2) if marked else (),
        bearings=dict(taken.bearings) if figures else {},
        gear=taken.gear if gear else 0.0,
    )
    began = time.perf_counter()
    result = analyse(split(iter(np.array_split(taken.sound, 40)), taken.rate), given)
    return {
        "truth": truth,
        "level": taken.level,
        "first": result.outcomes[0].names,
        "two": [name for one in result.outcomes[:2] for name in one.names],
        "chance": result.outcomes[0].chance,
        "all": {name: one.chance for one in result.outcomes for name in one.names},
        "seconds": time.perf_counter() - began,
    }


def _table(speeds: np.ndarray) -> str:
    return "time,m/s\n" + "\n".join(f"{moment:.1f},{speed:.3f}" for moment, speed in speeds)


def main(worlds: int = 50, first: int = 9000) -> None:
    asked = [
        (seed, truth, number)
        for seed in range(first, first + worlds)
        for truth in TRUTHS
        for number in range(HEALTHY if truth == "healthy" else 1)
    ]
    with ProcessPoolExecutor(2) as pool:
        rows = list(pool.map(one, asked, chunksize=4))
    ill = [row for row in rows if row["truth"] != "healthy"]
    well = [row for row in rows if row["truth"] == "healthy"]
    by_truth = {
        truth: [
            round(float(np.mean([truth in row[key] for row in ill if row["truth"] == truth])), 2)
            for key in ("first", "two")
        ]
        for truth in TRUTHS
        if truth != "healthy"
    }
    by_level = {
        words: [
            round(
                float(np.mean([row["truth"] in row[key] for row in ill if low <= row["level"] < high])), 3
            )
            for key in ("first", "two")
        ]
        for words, low, high in (("-10 dB", -11, -9), ("0 to 10 dB", -1, 10), ("10 to 20 dB", 10, 21))
    }
    # A group that the engine or the tyre is in does not blame the axle: it says that it cannot tell.
    named = [row for row in well if any(_of_the_axle(name) for name in row["first"])]
    blamed = [row for row in named if all(_of_the_axle(name) for name in row["first"])]
    bands: dict[int, list[tuple[float, bool]]] = defaultdict(list)
    for row in rows:
        chance, right = _said(row)
        bands[min(int(chance * 5), 4)].append((chance, right))
    print(
        json.dumps(
            {
                "recordings": len(ill),
                "first": round(float(np.mean([row["truth"] in row["first"] for row in ill])), 3),
                "among two": round(float(np.mean([row["truth"] in row["two"] for row in ill])), 3),
                "by truth, first and among two": by_truth,
                "by level, first and among two": by_level,
                "healthy": len(well),
                "healthy, the axle blamed": len(blamed),
                "healthy, the axle in a group that is not told apart": len(named) - len(blamed),
                "odds: said, came, of": {
                    f"{band * 20} to {band * 20 + 20} %": [
                        round(float(np.mean([c for c, _ in found])), 2),
                        round(float(np.mean([r for _, r in found])), 2),
                        len(found),
                    ]
                    for band, found in sorted(bands.items())
                },
                "size of the first": Counter(len(row["first"]) for row in rows),
                "taken for": Counter(
                    f"{row['truth']} > {row['first'][0]}" for row in ill if row["truth"] not in row["first"]
                ).most_common(12),
                "analysis, median s": round(float(np.median([row["seconds"] for row in rows])), 2),
            },
            indent=1,
        )
    )


def _share(came: list[bool]) -> float:
    return round(float(np.mean(came)), 3)


def _of_the_axle(name: str) -> bool:
    return heard_causes()[name].group in ("gear", "bearing")


def _said(row: dict[str, Any]) -> tuple[float, bool]:
    """The chance said of the first, and whether it came; of a healthy one that it is not the axle."""
    if row["truth"] != "healthy":
        return row["chance"], row["truth"] in row["first"]
    if all(_of_the_axle(name) for name in row["first"]):
        return row["chance"], False
    if any(_of_the_axle(name) for name in row["first"]):
        return row["chance"], True
    return sum(chance for name, chance in row["all"].items() if not _of_the_axle(name)), True


if __name__ == "__main__":
    main(*(int(argument) for argument in sys.argv[1:]))
