"""Run the closed loop, and print its tables.

``python -m benchmarks.closed_loop run WORLD BUILDER AXLES [FIRST]``: so many axles of a world, built by
"lash", by "told" (the same, told the axle's own figures: the bound), or by "thumb"; "faults" builds axles
with planted faults. ``learn WORLD SHOPS JOBS AXLES``: shops that learn. ``tables``: all of it. Runs go on
where they were broken off.
"""

from __future__ import annotations

import os
import sys
from pathlib import Path

from axle.simulator.fault import Fault
from benchmarks.closed_loop import learning, tables
from benchmarks.closed_loop.run import Job, run

FOLDER = Path(".lash/closed_loop")
WORLDS = ("mild", "usual", "rough", "held_out 1", "held_out 2", "held_out 3")
_DATA = Path("axle/decision/measured.toml")


def main(arguments: list[str]) -> None:
    """Do what is asked."""
    if not arguments or arguments[0] == "tables":
        _tables()
    elif arguments[0] == "run":
        world, builder, axles = arguments[1], arguments[2], int(arguments[3])
        first = int(arguments[4]) if len(arguments) > 4 else 0
        path = FOLDER / f"{world.replace(' ', '_')}-{builder}.jsonl"
        faults = list(Fault)
        jobs = [
            Job(world, n, fault=faults[n % len(faults)].value)
            if builder == "faults"
            else Job(world, n, builder)
            for n in range(first, first + axles)
        ]
        run(jobs, path, int(os.environ.get("PROCESSES", "2")))
    elif arguments[0] == "learn":
        world, shops, jobs, axles = arguments[1], *map(int, arguments[2:5])
        learning.run(world, shops, jobs, axles, FOLDER / f"{world}-learned.jsonl")
    else:
        sys.exit(f"“{arguments[0]}” was given; run, learn or tables is wanted.")


def _tables() -> None:
    for title, text in (
        ("By world", tables.world_table(FOLDER, WORLDS)),
        ("By school", tables.cells(FOLDER, WORLDS[:3], lambda row: row.school)),
        ("By carrier", tables.cells(FOLDER, WORLDS[:3], lambda row: row.layout.split()[2])),
        ("Said and came", tables.band_table(FOLDER, WORLDS)),
        ("Planted faults", tables.fault_table(FOLDER, WORLDS[:3])),
        ("Effort", tables.effort(FOLDER, WORLDS)),
        ("Shops that learn", learning.words(FOLDER / "usual-learned.jsonl")),
    ):
        print(f"## {title}\n\n{text}\n")
    _DATA.write_text(tables.measured(FOLDER, WORLDS))


if __name__ == "__main__":
    main(sys.argv[1:])
