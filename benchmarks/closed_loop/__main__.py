"""Run the closed loop and print its tables.

``python -m benchmarks.closed_loop [axles] [first]``: so many axles for each of the two tables (1056 when
left out), numbered from the first; then the same share of faults. Both builders have the same axles.
"""

from __future__ import annotations

import math
import sys
import time
from collections.abc import Callable, Iterable, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from statistics import median

from axle.decision.calibration import reliability_bins
from axle.simulator.fault import Fault
from benchmarks.closed_loop import lash_follower, rule_of_thumb
from benchmarks.closed_loop.lash_follower import Outcome
from benchmarks.closed_loop.shop import case

_AXLES, _FAULTY = 1056, 300
_Z = 1.96
_POOLED = 200


@dataclass(frozen=True)
class Row:
    """What is kept of one axle, small enough to send between processes."""

    way: str
    layout: str
    builds: int
    pinions: int
    carriers: int
    readings: int
    done: bool
    right: bool
    wrong: tuple[str, ...]
    moves: tuple[tuple[float, bool], ...]
    times: tuple[float, ...]
    named: tuple[tuple[str, int], ...]
    stopped: bool
    fault: str
    planted: bool

    @property
    def strict(self) -> int:
        """Assemblies where every trial of the pinion alone counts as one."""
        return max(self.builds, self.pinions, self.carriers)

    def right_at(self, build: int) -> bool:
        """Done by that build, and truly in range."""
        return self.right and self.builds <= build


def _row(found: Outcome) -> Row:
    layout = found.case.layout
    parts = (layout.depth_shim, layout.preload_by, layout.carrier_by)
    fault = found.case.true_axle.fault
    return Row(
        "gauge" if found.case.depth_method != "trial" else "no gauge",
        " ".join(p.value for p in parts),
        builds=found.builds,
        pinions=found.pinions,
        carriers=found.carriers,
        readings=found.readings,
        done=found.done,
        right=found.right,
        wrong=found.wrong,
        moves=tuple(found.moves),
        times=tuple(found.times),
        named=tuple(found.named),
        stopped=found.stopped,
        fault=fault.value if fault else "",
        planted=found.planted,
    )


def run_lash(job: tuple[int, bool, str]) -> Row:
    """One axle by Lash."""
    number, preloads, fault = job
    return _row(lash_follower.build(case(number, preloads=preloads, fault=Fault(fault) if fault else None)))


def run_thumb(job: tuple[int, bool, str]) -> Row:
    """The same axle by rules of thumb."""
    number, preloads, _ = job
    return _row(rule_of_thumb.build(case(number, preloads=preloads)))


def main(axles: int, first: int) -> None:
    """Print both tables, the faults and the times."""
    began = time.perf_counter()
    times: list[float] = []
    with ProcessPoolExecutor(2) as pool:
        for preloads in (False, True):
            jobs = [(first + n, preloads, "") for n in range(axles)]
            ours = list(pool.map(run_lash, jobs, chunksize=8))
            theirs = list(pool.map(run_thumb, jobs, chunksize=8))
            times += [t for row in ours for t in row.times]
            title = "Pattern, backlash and both preloads" if preloads else "Pattern and backlash alone"
            _table(title, ours, theirs)
        faults = [fault.value for fault in Fault]
        count = min(_FAULTY, axles)
        jobs = [(first + n, True, faults[n % len(faults)]) for n in range(count)]
        _faults(list(pool.map(run_lash, jobs, chunksize=8)))
    times.sort()
    print(
        f"\nAdvice: {len(times)} moves, median {1000 * median(times):.0f} ms, 95th percentile "
        f"{1000 * times[int(0.95 * len(times))]:.0f}, 99th {1000 * times[int(0.99 * len(times))]:.0f}, "
        f"largest {1000 * times[-1]:.0f} (wanted under 300)."
    )
    print(f"{(time.perf_counter() - began) / 60:.0f} min in all.")


def _table(title: str, ours: Sequence[Row], theirs: Sequence[Row]) -> None:
    print(f"\n## {title}\n")
    print(
        "| rows | axles | by | carrier med, 95th | pinion med, 95th | readings | right at 2nd | at 3rd | "
        "every trial counted, 2nd | done, not in range | not done | better at 2nd, 95 % |"
    )
    print("|---|---|---|---|---|---|---|---|---|---|---|---|")
    _rows("all", ours, theirs, bool)
    for way in ("gauge", "no gauge"):
        _rows(way, ours, theirs, lambda row, way=way: row.way == way)
    for layout in sorted({row.layout for row in ours}):
        _rows(layout, ours, theirs, lambda row, layout=layout: row.layout == layout)
    print("\n| said | moves | came in | mean said | fits |\n|---|---|---|---|---|")
    for band in reliability_bins(move for row in ours for move in row.moves):
        if band.count:
            print(
                f"| {band.words} | {band.count} | {band.share:.1%} | {band.mean:.1%} | "
                f"{'yes' if band.fits else 'no'} |"
            )


def _rows(name: str, ours: Sequence[Row], theirs: Sequence[Row], of: Callable[[Row], bool]) -> None:
    mine, other = [r for r in ours if of(r)], [r for r in theirs if of(r)]
    if not mine:
        return
    low, high = _difference([r.right_at(2) for r in mine], [r.right_at(2) for r in other])
    for by, rows in (("Lash", mine), ("thumb", other)):
        n = len(rows)
        cells = [
            name,
            str(n),
            by,
            _middle(r.carriers for r in rows),
            _middle(r.pinions for r in rows),
            f"{median(r.readings for r in rows):.0f}",
            _share(r.right_at(2) for r in rows),
            _share(r.right_at(3) for r in rows),
            _share(r.right and r.strict <= 2 for r in rows),
            _share(r.done and not r.right for r in rows),
            _share(not r.done for r in rows),
            f"{low:+.1%} to {high:+.1%}{'' if n >= _POOLED else ' (few)'}" if by == "Lash" else "",
        ]
        print(f"| {' | '.join(cells)} |")


def _middle(values: Iterable[int]) -> str:
    found = sorted(values)
    return f"{median(found):.0f}, {found[int(0.95 * (len(found) - 1))]}"


def _share(values: Iterable[bool]) -> str:
    found = list(values)
    return f"{sum(found) / len(found):.1%}"


def _difference(one: Sequence[bool], other: Sequence[bool]) -> tuple[float, float]:
    """95 % interval of the difference of two shares (Newcombe's hybrid of Wilson intervals)."""
    (p1, low1, high1), (p2, low2, high2) = _wilson(one), _wilson(other)
    gap = p1 - p2
    return (
        gap - math.hypot(p1 - low1, high2 - p2),
        gap + math.hypot(high1 - p1, p2 - low2),
    )


def _wilson(found: Sequence[bool]) -> tuple[float, float, float]:
    n, p = len(found), sum(found) / len(found)
    middle = (p + _Z**2 / (2 * n)) / (1 + _Z**2 / n)
    half = _Z / (1 + _Z**2 / n) * math.sqrt(p * (1 - p) / n + _Z**2 / (4 * n**2))
    return p, middle - half, middle + half


def _faults(rows: Sequence[Row]) -> None:
    print("\n## Planted faults\n\n| fault | axles | named or stopped before the third assembly | named |")
    print("|---|---|---|---|")
    every = sorted({row.fault for row in rows})
    for fault in (*every, ""):
        mine = [row for row in rows if row.planted and fault in ("", row.fault)]
        named = [any(key == row.fault and build < 3 for key, build in row.named) for row in mine]
        found = [name or (row.stopped and row.builds < 3) for name, row in zip(named, mine, strict=True)]
        print(f"| {fault or 'all'} | {len(mine)} | {_share(found)} | {_share(named)} |")


if __name__ == "__main__":
    given = [int(word) for word in sys.argv[1:]]
    main(*(given + [_AXLES, 0][len(given) :]))
