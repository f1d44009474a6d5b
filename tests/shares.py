"""How much of a long statistical test the gate runs: a seeded share; ``./test --all`` runs the whole."""

from __future__ import annotations

import os

from scipy.stats import binom

_ALL = bool(os.environ.get("LASH_ALL"))
# A share that holds the whole's rate falls under its bound once in so many trees.
_ONCE_IN = 0.01


def share_of(whole: int, gate: int) -> int:
    """So many of the whole: the first ones by seed, so that a gate says the same of a tree twice."""
    return whole if _ALL else gate


def least_right(rate: float, count: int) -> int:
    """How many have to be right: the rate itself over the whole; a share may fall short by its own scatter."""
    return round(rate * count) if _ALL else int(binom.ppf(_ONCE_IN, count, rate))
