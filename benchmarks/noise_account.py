"""Simulated customers: how often the account alone names the right group, and whether its odds hold."""

from __future__ import annotations

import time
from collections import Counter

from axle.noise.account import by_group, causes, odds
from axle.simulator.customers import NoisyWorld

# Worlds 0 to 39 were looked at while the weight of an answer was set; these were not.
_FIRST = 5000
_WORLDS = 40
_CUSTOMERS = 100
_EDGES = (0.0, 0.4, 0.6, 0.8, 0.9, 1.001)


def main() -> None:
    """Print shares by group and the table of odds."""
    right: Counter[str] = Counter()
    second: Counter[str] = Counter()
    told: Counter[str] = Counter()
    bins: dict[int, list[tuple[float, bool]]] = {}
    start = time.perf_counter()
    for seed in range(_FIRST, _FIRST + _WORLDS):
        world = NoisyWorld(seed)
        for _ in range(_CUSTOMERS):
            customer = world.customer()
            group = causes()[customer.cause].group
            groups = by_group(odds(customer.answers))
            first = next(iter(groups))
            told[group] += 1
            right[group] += first == group
            second[group] += group in list(groups)[:2]
            place = next(n for n, edge in enumerate(_EDGES[1:]) if groups[first] < edge)
            bins.setdefault(place, []).append((groups[first], first == group))
    count = sum(told.values())
    print(f"{count} customers of {_WORLDS} worlds, {time.perf_counter() - start:.0f} s")
    print(
        f"right group first {sum(right.values()) / count:.1%}, among two {sum(second.values()) / count:.1%}"
    )
    for group, number in told.most_common():
        print(f"  {group}: {right[group] / number:.0%} of {number}")
    for place in sorted(bins):
        rows = bins[place]
        said, came = (
            sum(chance for chance, _ in rows) / len(rows),
            sum(held for _, held in rows) / len(rows),
        )
        print(f"  said {said:.0%}, came {came:.0%} of {len(rows)}")


if __name__ == "__main__":
    main()
