"""Pack choice from drawers of 50, 200 and 500 pieces: `.venv/bin/python -m benchmarks.packs`."""

from __future__ import annotations

import random
import statistics
import time
from decimal import Decimal

from axle.shims import Piece, choose

TARGET_MS = {50: 50, 200: 50, 500: 100}


def drawer(count: int, seed: int) -> list[Piece]:
    """Shims as mic'd to a tenth of a thou, between 2 and 120 thou."""
    source = random.Random(seed)
    return [Piece(key, Decimal(source.randint(20, 1200)) * Decimal("0.00254")) for key in range(count)]


def main() -> None:
    """Time 40 choices for each size of drawer."""
    for count, target in TARGET_MS.items():
        times = []
        for seed in range(40):
            pieces = drawer(count, seed)
            wanted = Decimal(random.Random(seed).randint(200, 2200)) * Decimal("0.00254")
            began = time.perf_counter()
            choose(wanted, Decimal("0.0127"), pieces)
            times.append(1000 * (time.perf_counter() - began))
        print(
            f"{count:4d} pieces: median {statistics.median(times):5.1f} ms, "
            f"largest {max(times):5.1f} ms (target {target} ms)"
        )


if __name__ == "__main__":
    main()
