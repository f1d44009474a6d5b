"""What a pinion seal drags, where neither the sheet nor the axle in hand tells."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache

from axle.data_file import read_table
from axle.errors import AxleError
from axle.measure.parse import parse, unit_named


@dataclass(frozen=True)
class SealDrag:
    """Rotating torque that a seal adds.

    :param torque: [N·m], 0 or more.
    :param spread: standard uncertainty [N·m].
    :param source: where it comes from, in words.
    """

    torque: float
    spread: float
    source: str


def drag_between(low: float, high: float, source: str) -> SealDrag:
    """A drag that lies between two figures, ends included as two standard deviations.

    :param low: [N·m].
    :param high: [N·m], not under ``low``.
    :param source: in words.
    :raises AxleError: for figures the wrong way round.
    :source: the project's own reading of a range.

    >>> drag_between(0.2, 0.6, "a sheet").torque
    0.4
    """
    if low > high:
        raise AxleError("seal drag", given=f"{low:g} to {high:g} N·m", wanted="the lower figure first")
    return SealDrag((low + high) / 2, (high - low) / 4, source)


@cache
def usual_drag() -> SealDrag:
    """What a new seal usually adds.

    :source: ``seal.toml``, from memory.

    >>> usual_drag().spread > 0
    True
    """
    row = read_table(__file__, "seal.toml", dict[str, dict[str, str]])["usual"]
    low, high = (float(parse(row[end], unit_named(row["unit"])).core) for end in ("low", "high"))
    return drag_between(low, high, row["source"])
