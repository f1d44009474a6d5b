"""What is read, printed and signed: each with what was in the axle at the time."""

from __future__ import annotations

import math
from bisect import bisect_left
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Any, Final

from axle.contact.mark import Flanked
from axle.contact.print_conditions import Making
from axle.layout import Place
from axle.measure.repeats import LENGTH_SLIPS, TORQUE_SLIPS, brought_together
from axle.measure.uncertainty import rectangular
from axle.measure.units import Dimension
from axle.procedure.conditions import BacklashConditions, TorqueConditions, conditions_of, is_feeler
from axle.procedure.stations import kind_named
from axle.runout import Runout, read_around
from axle.state.priors import Priors, Quantity
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
_STARTING: Final = Priors()
# Step between two blades of a set of feelers [mm]: a thou.
_BLADES: Final = 0.0254


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
    :param values: all of them, as they were read, oldest first; the one where there is one.
    :param std: standard deviation of what they come to where they disagree [mm or N·m], else 0.
    :param disagrees: they differ by more than such readings do, and one more is wanted.
    :param scatters: they do so however often they are read.
    :param humps: what they may be of where they disagree, as (value, chance), the likeliest first.
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
    values: tuple[float, ...] = ()
    std: float = 0.0
    disagrees: bool = False
    scatters: bool = False
    humps: tuple[tuple[float, float], ...] = ()

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


def average_repeats(
    taken: Iterable[Reading], loads: Iterable[int] = (), priors: Priors = _STARTING
) -> tuple[Reading, ...]:
    """Bring readings that were read again on purpose together with those they repeat.

    A reading marked "again" counts with those before it of its kind and place, on the same settings: what
    they come to stands for all of them, in the place in time of the newest. What was read before a load and
    after it is not brought together: bearings settle.

    :param taken: valid readings [mm or N·m].
    :param loads: when the axle was loaded: orders of its prints.
    :param priors: what is held of hands and instruments.
    :returns: as many or fewer, by time.
    :source: :func:`axle.measure.repeats.brought_together`.
    """
    found: dict[tuple[str, int], list[Reading]] = {}
    loaded = sorted(loads)
    for reading in sorted(taken, key=lambda t: t.order):
        chain = found.setdefault((reading.kind, reading.place), [])
        last = chain[-1] if chain else None
        same = last is not None and last.settings == reading.settings and last.assembly == reading.assembly
        if (
            last is not None
            and same
            and reading.conditions.get("again")
            and bisect_left(loaded, last.order) == bisect_left(loaded, reading.order)
        ):
            chain[-1] = _with_one_more(last, reading, priors)
        else:
            own = reading.values or (reading.value,)
            chain.append(replace(reading, offs=reading.offs or _off(reading), values=own))
    return tuple(sorted((t for chain in found.values() for t in chain), key=lambda t: t.order))


# What a reading that is taken again says nothing of: the nut stands where it stood.
_OF_THE_NUT: Final = ("turned", "nut_torque")


def _with_one_more(last: Reading, reading: Reading, priors: Priors) -> Reading:
    """A reading with those that it repeats."""
    values = (*last.values, reading.value)
    is_torque = kind_named(reading.kind).dimension is Dimension.TORQUE
    once = repeatability_of(reading, priors)
    told = brought_together(values, once, TORQUE_SLIPS if is_torque else LENGTH_SLIPS)
    kept = {name: last.conditions[name] for name in _OF_THE_NUT if name in last.conditions}
    # Two that disagree: what is read last is what came home after a tap, until one more tells.
    value = reading.value if len(values) == 2 and not told.agrees else told.value
    how = kept | {name: value for name, value in reading.conditions.items() if name != "again"}
    return replace(
        reading,
        value=value,
        count=len(values),
        discrepancy=max(last.discrepancy, reading.value - last.value, key=abs),
        conditions=how,
        offs=(*last.offs, *_off(reading)),
        values=values,
        std=0.0 if told.agrees else told.std,
        disagrees=told.wants_more,
        scatters=told.scatters,
        humps=() if told.agrees else tuple((hump.value, hump.probability) for hump in told.humps),
    )


def repeatability_of(reading: Reading, priors: Priors = _STARTING) -> float:
    """Standard deviation of repeatability of one reading of a kind [mm or N·m].

    :param reading: of that kind.
    :param priors: what is held of hands and instruments.
    :source: ``priors.toml``; the instrument's step.
    """
    kind = kind_named(reading.kind)
    step = rectangular(reading.step or kind.step)
    if kind.dimension is Dimension.TORQUE:
        share = priors.centre(Quantity.TORQUE_SHARE) * reading.value
        turnings = 2 if reading.conditions.get("both") else 1
        scatter = priors.centre(Quantity.TORQUE_SCATTER)
        return math.hypot(step, scatter, share) / math.sqrt(turnings)
    if is_feeler(reading.kind):
        return math.hypot(rectangular(_BLADES), priors.centre(Quantity.FEELER_SCATTER))
    return math.hypot(step, priors.centre(Quantity.INDICATOR_SCATTER))


def _off(reading: Reading) -> tuple[float, ...]:
    both = reading.conditions.get("both")
    return ((both[0] - both[1]) / 2,) if both else ()
