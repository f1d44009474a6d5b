"""Whether an instrument's reading has held still for long enough to be taken."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Final

from axle.errors import AxleError

HOLD_S: Final = 2.0
# So long a reading is watched before it is given up, and so many samples are kept of it.
PATIENCE_S: Final = 30.0
MOST_SAMPLES: Final = 24


@dataclass(frozen=True)
class Sample:
    """What the instrument showed at a moment.

    :param at: seconds, from anywhere.
    :param value: in the core's unit [mm or N·m].
    """

    at: float
    value: float


def held_steady(samples: Sequence[Sample], band: float, seconds: float = HOLD_S) -> bool:
    """Say whether a reading has stayed within a band for so long, up to its newest sample.

    :param samples: oldest first.
    :param band: largest difference that counts as still, in the samples' unit, 0 or more.
    :param seconds: how long it has to hold [s], more than 0.
    :raises AxleError: for samples out of order.
    :source: the wish of hands that are full.

    >>> held_steady([Sample(0.0, 8.5), Sample(1.0, 8.5), Sample(2.0, 8.6)], band=0.1)
    True
    """
    if any(later.at < earlier.at for earlier, later in pairwise(samples)):
        raise AxleError("samples", given="moments out of order", wanted="the oldest first")
    if not samples or samples[-1].at - samples[0].at < seconds:
        return False
    # The window begins with the last sample at or before its start: nothing in between is skipped.
    start = samples[-1].at - seconds
    first = max(i for i, sample in enumerate(samples) if sample.at <= start + 1e-9)
    window = [sample.value for sample in samples[first:]]
    return max(window) - min(window) <= band + 1e-9


def give_up(samples: Sequence[Sample]) -> bool:
    """Say whether a reading was watched for so long that it will not hold.

    :param samples: oldest first.
    :source: this module.

    >>> give_up([Sample(0.0, 1.0), Sample(31.0, 2.0)])
    True
    """
    return bool(samples) and samples[-1].at - samples[0].at > PATIENCE_S


def written(samples: Sequence[Sample]) -> str:
    """Write samples as text that a page can carry: the first, and the newest.

    :param samples: oldest first.
    :source: this module.

    >>> written([Sample(1.25, 0.2159)])
    '1.25:0.2159'
    """
    # The first is kept: how long it has been watched is told from there.
    kept = [*samples[:1], *samples[1:][-MOST_SAMPLES + 1 :]]
    return ";".join(f"{s.at:.2f}:{s.value:.6g}" for s in kept)


def read_back(text: str) -> tuple[Sample, ...]:
    """Read samples back that a page carried; what is no sample is not one.

    :param text: as :func:`written` wrote it.
    :source: this module.

    >>> read_back("1.25:0.2159;horn")
    (Sample(at=1.25, value=0.2159),)
    """
    found = []
    for part in text.split(";")[:MOST_SAMPLES]:
        at, _, value = part.partition(":")
        try:
            sample = Sample(float(at), float(value))
        except ValueError:
            continue
        if abs(sample.at) < 1e12 and abs(sample.value) < 1e6:
            found.append(sample)
    return tuple(sorted(found, key=lambda s: s.at))
