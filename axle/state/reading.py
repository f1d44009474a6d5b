"""What is read, printed and signed: each with what was in the axle at the time."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Any, Final

from axle.contact.mark import Flanked
from axle.contact.print_conditions import Making
from axle.layout import Place
from axle.procedure.conditions import BacklashConditions, TorqueConditions, conditions_of
from axle.procedure.names import KindName
from axle.runout import Runout, read_around
from axle.state.settings import Settings


@dataclass(frozen=True)
class Run:
    """One run of readings around the ring gear or the carrier flange.

    :param number: number of the run on its job.
    :param part: "ring" or "flange".
    :param turns: readings by turn [mm]; whole turns only.
    :param order: rises with time.
    :param settings: what was in the axle then.
    :param step: resolution of the indicator [mm].
    """

    number: int
    part: str
    turns: tuple[tuple[float, ...], ...]
    order: int
    settings: Settings
    step: float = 0.0127

    def __post_init__(self) -> None:
        object.__setattr__(self, "settings", Settings.of(self.settings))

    @property
    def clock(self) -> int:
        """Bolt holes by which the gear had been turned on its flange."""
        return int(self.settings.at(Place.CLOCK))

    @cached_property
    def result(self) -> Runout:
        """What the run says."""
        return read_around(self.turns, self.step)

    @property
    def vector_uncertainty(self) -> float:
        """Standard uncertainty of the first order's vector [mm]."""
        first = self.result.order(1)
        return first.uncertainty if first else 0.0


_USUAL: Final = Making()


@dataclass(frozen=True)
class Reading:
    """One valid reading: not struck by a later row.

    :param kind: as in ``readings.toml``.
    :param place: place around the ring, from 1.
    :param value: in the core's unit [mm or N·m].
    :param order: rises with time; the later of two readings has the larger.
    :param assembly: number of the assembly it was taken on.
    :param settings: what was in the axle when it was read, by place [mm or holes].
    :param conditions: as they are kept beside it; what is not said is as usual.
    :param tool: name of the instrument, or "".
    :param step: the instrument's resolution [mm or N·m], or nothing where it is not known.
    :param overdue: since when its calibration was overdue, in words, or "".
    :param count: readings it is the mean of.
    :param offs: half of what each of them, read both ways, showed one way more than the other [N·m].
    :param discrepancy: largest difference between one of them and the mean of those before it, signed.
    """

    kind: str
    place: int
    value: float
    order: int
    assembly: int
    settings: Settings
    conditions: Mapping[str, Any] = field(default_factory=dict)
    tool: str = ""
    step: float | None = None
    overdue: str = ""
    count: int = 1
    discrepancy: float = 0.0
    offs: tuple[float, ...] = ()

    def __post_init__(self) -> None:
        object.__setattr__(self, "settings", Settings.of(self.settings))

    @cached_property
    def backlash_conditions(self) -> BacklashConditions:
        """How backlash was read."""
        conditions = conditions_of(self.kind, self.conditions)
        return conditions if isinstance(conditions, BacklashConditions) else BacklashConditions()

    @cached_property
    def torque_conditions(self) -> TorqueConditions:
        """How a rotating torque was read; end play is read under the usual ones."""
        conditions = conditions_of(self.kind, self.conditions)
        return conditions if isinstance(conditions, TorqueConditions) else TorqueConditions()


@dataclass(frozen=True)
class Print:
    """One print of an assembly, by flank word ("drive", "coast").

    :param assembly: number of the assembly.
    :param order: rises with time, as a reading's.
    :param settings: what was in the axle when it was printed.
    :param flanks: what is wiped, by flank word.
    :param number: of the print within its assembly, from 1.
    :param making: how it was made.
    """

    assembly: int
    order: int
    settings: Settings
    flanks: Mapping[str, Flanked]
    number: int = 1
    making: Making = _USUAL

    def __post_init__(self) -> None:
        object.__setattr__(self, "settings", Settings.of(self.settings))


@dataclass(frozen=True)
class Signature:
    """A person's word for a station: that it is done, or that a deviation is accepted.

    :param order: rises with time; a reading taken later voids it.
    :param deviation: whether it accepts what is out of range.
    :param reason: why, for a deviation.
    :param person: who signed.
    :param settings: what was in the axle when it was signed.
    """

    order: int
    deviation: bool
    reason: str
    person: str
    settings: Settings

    def __post_init__(self) -> None:
        object.__setattr__(self, "settings", Settings.of(self.settings))


def average_repeats(taken: Iterable[Reading]) -> tuple[Reading, ...]:
    """Bring readings that were read again on purpose together with those they repeat.

    A reading marked "again" counts with the one before it of its kind and place, on the same settings:
    their mean stands for both, in the place in time of the newer.

    :param taken: valid readings [mm or N·m].
    :returns: as many or fewer, by time.
    :source: mean of repeated readings; its spread falls with the root of their number.
    """
    found: dict[tuple[str, int], list[Reading]] = {}
    for reading in sorted(taken, key=lambda t: t.order):
        chain = found.setdefault((reading.kind, reading.place), [])
        last = chain[-1] if chain else None
        if last is not None and reading.conditions.get("again") and last.settings == reading.settings:
            count, off = last.count + 1, reading.value - last.value
            mean = last.value + off / count
            if reading.kind == KindName.BACKLASH and abs(off) > _NO_SCATTER:
                mean = reading.value
            apart = max(last.discrepancy, off, key=abs)
            how = {name: value for name, value in reading.conditions.items() if name != "again"}
            offs = (*last.offs, *_off(reading))
            chain[-1] = replace(
                reading, value=mean, count=count, discrepancy=apart, conditions=how, offs=offs
            )
        else:
            chain.append(replace(reading, offs=reading.offs or _off(reading)))
    return tuple(sorted((t for chain in found.values() for t in chain), key=lambda t: t.order))


def _off(reading: Reading) -> tuple[float, ...]:
    both = reading.conditions.get("both")
    return ((both[0] - both[1]) / 2,) if both else ()


# Two readings of backlash on one setting further apart than this [mm] are no scatter: a cup came home, or
# one was misread. The newer one counts then. 1 thou, common practice.
_NO_SCATTER: Final = 0.0254
