"""The schools of carrier preload: what each asks for where the sheet says nothing."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache

from axle.data_file import read_table
from axle.errors import AxleError
from axle.measure.parse import parse, unit_named


@dataclass(frozen=True)
class Usual:
    """What a school usually asks for.

    :param low: least interference, both sides together [mm].
    :param high: most [mm].
    :param source: where that comes from, in words.
    """

    low: float
    high: float
    source: str


@cache
def usual_interference() -> Mapping[str, Usual]:
    """Interference by school, for those that set one [mm].

    :raises AxleError: for a range the wrong way round.
    :source: ``schools.toml``, each entry its own.

    >>> round(usual_interference()["holes"].high / 0.0254, 6)
    3.0
    """
    rows = read_table(__file__, "schools.toml", dict[str, dict[str, str]])
    found = {}
    for name, row in rows.items():
        low, high = (parse(row[end], unit_named(row["unit"])).core for end in ("low", "high"))
        if not 0 <= low <= high:
            raise AxleError("schools.toml", given=f"{name}: {low} to {high} mm", wanted="low to high")
        found[name] = Usual(float(low), float(high), row["source"])
    return found
