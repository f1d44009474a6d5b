"""Write down behaviour, or compare two records of it."""

from __future__ import annotations

import difflib
import sys
from pathlib import Path

from benchmarks.behaviour.loops import write_loops
from benchmarks.behaviour.pages import write_pages

_MOST_LINES = 12


def compare(before: Path, after: Path) -> int:
    """Name each file that differs with its first lines; say how many there are."""
    names = sorted({p.name for folder in (before, after) for p in folder.glob("*.txt")})
    differing = 0
    for name in names:
        one, other = ((folder / name) for folder in (before, after))
        texts = [p.read_text(encoding="utf-8").splitlines() if p.exists() else [] for p in (one, other)]
        lines = list(difflib.unified_diff(*texts, lineterm="", n=0))[2:]
        if lines:
            differing += 1
            print(f"{name}: {len(lines)} lines", *lines[:_MOST_LINES], sep="\n  ")
    print(f"{differing} of {len(names)} differ.")
    return differing


if __name__ == "__main__":
    what, *folders = sys.argv[1:]
    if what == "loops":
        write_loops(Path(folders[0]))
    elif what == "pages":
        write_pages(Path(folders[0]))
    else:
        sys.exit(1 if compare(Path(folders[0]), Path(folders[1])) else 0)
