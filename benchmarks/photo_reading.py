"""How often a photograph of a print is read right: python -m benchmarks.photo_reading LEVEL COUNT [FIRST].

Each picture is drawn from its seed, pointed at with a finger that is off by 1 to 2 % of the length both
ways, and read; a refusal counts as missed unless "of those read" is said. Two processes.
"""

from __future__ import annotations

import resource
import sys
import time
from multiprocessing import Pool

import numpy as np

from axle.contact.compound import Compound
from axle.contact.cut import cut, families
from axle.contact.patch import Patch
from axle.errors import AxleError
from axle.photo.reading import read_photo
from axle.simulator.ring_scenes import some_snap

_FAMILIES = sorted(families())


def main() -> None:
    """Draw, read, say."""
    level, count = sys.argv[1], int(sys.argv[2])
    first = int(sys.argv[3]) if len(sys.argv) > 3 else 50_000
    jobs = [(level, seed) for seed in range(first, first + count)]
    with Pool(2) as pool:
        rows = pool.map(_one, jobs, chunksize=4)
    for number, name in enumerate(("6 taps, edges", "4 taps, edges", "6 taps alone", "4 taps alone")):
        _say(f"{level}, {name}", [row[number] for row in rows])
    print(f"largest process {resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss / 1024:.0f} MB")


def _one(job: tuple[str, int]) -> list[tuple[np.ndarray | None, np.ndarray, str, float]]:
    level, seed = job
    item = cut(_FAMILIES[seed % len(_FAMILIES)], 11, 41, 222.0)
    snap = some_snap(level, seed, item)
    truth = np.array(Patch(snap.scene.outlines[0][0]).centroid)
    found = []
    for edges in (True, False):
        for count in (6, 4):
            began = time.perf_counter()
            try:
                reading = read_photo(
                    snap.shot.image,
                    snap.taps(seed + 1, count=count),
                    item,
                    Compound(snap.scene.paint.colour),
                    convex=snap.scene.convex,
                    focal=snap.focal,
                    edges=edges,
                )
            except AxleError as refused:
                cause = getattr(refused, "cause", None)
                found.append((None, np.zeros(2), cause.value if cause else "words", 0.0))
                continue
            took = time.perf_counter() - began
            found.append((np.array(reading.middle) - truth, np.array(reading.spread), "", took))
    return found


def _say(name: str, rows: list[tuple[np.ndarray | None, np.ndarray, str, float]]) -> None:
    read = [(off, spread, took) for off, spread, _, took in rows if off is not None]
    causes = [cause for off, _, cause, _ in rows if off is None]
    off, spread = (np.array([row[i] for row in read]) for i in (0, 1))
    most = np.abs(off).max(axis=1)
    named = ", ".join(f"{c} {causes.count(c)}" for c in sorted(set(causes))) or "none"
    once, twice = (np.round(np.mean(np.abs(off) < n * spread, 0), 2) for n in (1, 2))
    print(f"{name}: {len(rows)} pictures, refused {len(causes)} ({named})")
    print(f"  within 0.03 {np.sum(most < 0.03) / len(rows):.3f} of all")
    print(f"  of those read: within 0.05 {np.mean(most < 0.05):.3f}, beyond 0.1 {np.mean(most > 0.1):.3f}")
    wide = np.round(np.median(spread, 0), 3)
    print(f"  covered by one spread {once}, by two {twice}; the median spread is {wide}")
    print(f"  scatter {np.round(off.std(0), 4)}, mean {np.round(off.mean(0), 4)}")
    print(f"  {np.median([row[2] for row in read]):.2f} s a picture")


if __name__ == "__main__":
    main()
