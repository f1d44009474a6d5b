"""Before against after: what became of each line, where both recordings could have heard it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Final

from axle.noise.evidence import SEEN
from axle.noise.recording import Level, Result

# Speeds that are compared lie so near to each other.
_NEAR: Final = (0.9, 1.1)


@dataclass(frozen=True)
class Compared:
    """One line, before and now.

    :param name: of the level.
    :param before: over its third octave [dB]; nothing where it did not stand out, or was not to be heard.
    :param now: the same.
    :param change: from before to now [dB], where both stand out.
    :param gone: it stood out before, could have been heard now, and does not stand out.
    :param missing: it stood out before, and what it needs (load, low orders) was not recorded now.
    """

    name: str
    before: float | None
    now: float | None
    change: float | None
    gone: bool
    missing: bool


def compared(now: Mapping[str, Level], before: Mapping[str, Level]) -> tuple[Compared, ...]:
    """What became of each line that stands out in either recording.

    :param now: levels of the recording after.
    :param before: levels of the one before; empty where there is none.
    :source: level over its third octave; a line that could not be heard is not called gone.

    >>> one = compared({"mesh all": Level(-40.0, 0.0)}, {"mesh all": Level(8.0, 90.0)})[0]
    >>> one.gone, one.change
    (True, None)
    >>> compared({}, {"mesh drive": Level(8.0, 90.0)})[0].gone
    False
    """
    found = []
    for name in dict.fromkeys([*now, *before]):
        levels = [_over(side.get(name)) for side in (before, now)]
        was, is_now = levels
        if was is None and is_now is None:
            continue
        found.append(
            Compared(
                name,
                was,
                is_now,
                change=None if was is None or is_now is None else is_now - was,
                gone=was is not None and is_now is None and name in now,
                missing=was is not None and name not in now,
            )
        )
    return tuple(found)


def _over(level: Level | None) -> float | None:
    return level.over if level is not None and level.sigmas > SEEN else None


def driven_alike(now: Result, before: Result) -> bool:
    """Whether both were driven at about one speed.

    :param now: the recording after.
    :param before: the one before.
    :source: levels grow with speed; common practice.
    """
    return _NEAR[0] < now.speed / max(before.speed, 0.1) < _NEAR[1]
