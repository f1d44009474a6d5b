"""What is kept of one axle of a run, as a line of a file: runs go on where they were broken off."""

from __future__ import annotations

import json
from collections.abc import Iterator
from dataclasses import asdict, dataclass, fields
from pathlib import Path
from typing import Any

from benchmarks.closed_loop.lash_follower import Outcome


@dataclass(frozen=True)
class Row:
    """One axle.

    :param number: it is drawn from.
    :param gauge: whether its depth was gauged.
    :param layout: where it keeps its shims, in words.
    :param school: of its carrier's preload.
    :param preloads: whether both preloads were judged.
    :param builds: assemblies.
    :param pinions: times the pinion was put together.
    :param carriers: times the carrier was.
    :param readings: readings and prints.
    :param done: it was called done.
    :param right: and truly in range.
    :param wrong: what was not.
    :param signed: chance that all is in range, as it was said at the signature; 0 where none was.
    :param moves: by change: the chance said, and whether all was in range then.
    :param times: of each advice [s].
    :param named: faults that were named, with the build.
    :param stopped: the work ended in a stop.
    :param stop: what it said.
    :param fault: what was wrong with it, or "".
    :param planted: whether that came to bear.
    :param impossible: readings asked for that nobody can take.
    """

    number: int
    gauge: bool
    layout: str
    school: str
    preloads: bool
    builds: int
    pinions: int
    carriers: int
    readings: int
    done: bool
    right: bool
    wrong: tuple[str, ...]
    signed: float
    moves: tuple[tuple[float, bool], ...]
    times: tuple[float, ...]
    named: tuple[tuple[str, int], ...]
    stopped: bool
    stop: str
    fault: str
    planted: bool
    impossible: int

    @classmethod
    def of(cls, found: Outcome) -> Row:
        """What is kept of an outcome."""
        layout, fault = found.case.layout, found.case.true_axle.fault
        parts = (layout.depth_shim, layout.preload_by, layout.carrier_by)
        return cls(
            number=found.case.number,
            gauge=found.case.depth_method != "trial",
            layout=" ".join(part.value for part in parts),
            school=found.case.school,
            preloads=found.case.preloads,
            builds=found.builds,
            pinions=found.pinions,
            carriers=found.carriers,
            readings=found.readings,
            done=found.done,
            right=found.right,
            wrong=found.wrong,
            signed=found.signed,
            moves=tuple(found.moves),
            times=tuple(round(t, 4) for t in found.times),
            named=tuple((str(key), build) for key, build in found.named),
            stopped=found.stopped,
            stop=found.stop,
            fault=fault.value if fault else "",
            planted=found.planted,
            impossible=found.impossible,
        )

    @classmethod
    def from_line(cls, line: str) -> Row:
        """A row of a file."""
        told: dict[str, Any] = json.loads(line)
        told["moves"] = tuple((p, bool(came)) for p, came in told["moves"])
        told["named"] = tuple((key, build) for key, build in told["named"])
        for name in ("wrong", "times"):
            told[name] = tuple(told[name])
        return cls(**{field.name: told[field.name] for field in fields(cls)})

    @property
    def line(self) -> str:
        """The row as a line of a file."""
        return json.dumps(asdict(self), separators=(",", ":"))

    def right_at(self, build: int) -> bool:
        """Done by that build, and truly in range."""
        return self.right and self.builds <= build


def rows_of(path: Path) -> Iterator[Row]:
    """Rows of a file; a last line that was broken off is left out."""
    if not path.exists():
        return
    for line in path.read_text().splitlines():
        try:
            yield Row.from_line(line)
        except (json.JSONDecodeError, KeyError):
            continue
