"""What steps take: usual minutes at first, then what the shop's own jobs show."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cache
from math import exp, log
from typing import Final

import msgspec
import numpy as np

from axle.data_file import read_table
from axle.procedure.steps import Step

# Median absolute deviation of a normal distribution, as a share of its standard deviation.
_MAD: Final = 0.6745
# A job is drawn in to so many times the middle one of its group.
_FAR: Final = 2.5


class _Widths(msgspec.Struct, frozen=True):
    step: float
    axle: float
    person: float
    supplier: float
    delivery: float


class _Evidence(msgspec.Struct, frozen=True):
    left_open: float
    ticked: float
    gap: float


class _Weights(msgspec.Struct, frozen=True):
    jobs: float
    spread: float
    assemblies: float


class Assumptions(msgspec.Struct, frozen=True):
    """What is taken for granted until the shop's own jobs say otherwise: ``data/spreads.toml``."""

    width: _Widths
    evidence: _Evidence
    weight: _Weights
    assemblies: dict[str, tuple[float, ...]]


@cache
def assumptions() -> Assumptions:
    """What is taken for granted.

    :source: ``data/spreads.toml``.
    """
    return read_table(__file__, "data/spreads.toml", Assumptions)


@dataclass(frozen=True)
class Timed:
    """One step of one job, as its record times it.

    :param job: which job.
    :param step: the step's name.
    :param station: its station.
    :param usual: its usual minutes, above 0.
    :param minutes: working minutes between begun and done, 0 or more.
    :param over_break: whether a break lay between: it was left open.
    :param role: of the person.
    :param layout: where the carrier's shims are: "outboard", "adjusters", …
    """

    job: str
    step: str
    station: str
    usual: float
    minutes: float
    over_break: bool
    role: str
    layout: str

    @property
    def is_evidence(self) -> bool:
        """Whether it says anything: not left open over a break, not far too long, not only ticked."""
        known = assumptions().evidence
        ratio = self.minutes / self.usual
        return not self.over_break and known.ticked <= ratio <= known.left_open


@dataclass(frozen=True)
class Learned:
    """A share of the usual minutes that a group of steps takes.

    :param factor: times the usual, above 0.
    :param jobs: jobs that it rests on.
    """

    factor: float
    jobs: int


@dataclass(frozen=True)
class StepTimes:
    """What steps take in one shop.

    :param shop: all steps.
    :param roles: by role, beside the shop's.
    :param layouts: by layout, beside these.
    :param stations: by station, beside these.
    :param steps: by step, beside these.
    :param width: standard deviation of the logarithm of one step's time.
    :param jobs: jobs that it rests on.
    """

    shop: Learned = Learned(1.0, 0)
    roles: Mapping[str, Learned] = field(default_factory=dict)
    layouts: Mapping[str, Learned] = field(default_factory=dict)
    stations: Mapping[str, Learned] = field(default_factory=dict)
    steps: Mapping[str, Learned] = field(default_factory=dict)
    width: float = field(default_factory=lambda: assumptions().width.step)
    jobs: int = 0

    def minutes(self, step: Step, role: str = "", layout: str = "") -> float:
        """What a step takes on the average.

        :param step: the step.
        :param role: of who does it, or "".
        :param layout: of the axle, or "".
        :returns: minutes, 0 for a step that takes none.
        """
        factor = self.shop.factor
        groups = (
            (self.roles, role),
            (self.layouts, layout),
            (self.stations, step.station),
            (self.steps, step.step),
        )
        for group, name in groups:
            factor *= group[name].factor if name in group else 1.0
        return step.hands_on * factor


def learn(timed: Iterable[Timed]) -> StepTimes:
    """What steps take, from the shop's own jobs.

    Each group's factor is the mean over its jobs of what they took against what was expected, a job that
    is far from the middle one drawn in to it, and all of it drawn towards 1 by ``data/spreads.toml``: a bad
    job is one vote, and a single job moves little. The groups are learned in turn on what is left.

    :param timed: steps of finished and running jobs.
    :source: winsorised means (Tukey, 1962) and shrinkage, from memory.

    >>> learn([]).shop.factor
    1.0
    """
    rows = [row for row in timed if row.is_evidence]
    if not rows:
        return StepTimes()
    expected = [row.usual for row in rows]
    names = (
        ["" for _ in rows],
        [row.role for row in rows],
        [row.layout for row in rows],
        [row.station for row in rows],
        [row.step for row in rows],
    )
    shop, roles, layouts, stations, steps = (_groups(rows, expected, group) for group in names)
    weight, known = assumptions().weight, assumptions().width.step
    jobs = len({row.job for row in rows})
    left = [log(row.minutes / usual) for row, usual in zip(rows, expected, strict=True)]
    deviation = float(np.median(np.abs(np.array(left) - np.median(left)))) / _MAD
    width = ((weight.spread * known**2 + jobs * deviation**2) / (weight.spread + jobs)) ** 0.5
    return StepTimes(shop[""], roles, layouts, stations, steps, width=width, jobs=jobs)


def _groups(rows: Sequence[Timed], expected: list[float], names: Sequence[str]) -> dict[str, Learned]:
    """The factor of each group; what is expected is changed by it."""
    sums: dict[str, dict[str, list[float]]] = defaultdict(lambda: defaultdict(lambda: [0.0, 0.0]))
    for row, usual, name in zip(rows, expected, names, strict=True):
        of_job = sums[name][row.job]
        of_job[0] += row.minutes
        of_job[1] += usual
    found = {}
    for name, by_job in sums.items():
        ratios = np.array([minutes / usual for minutes, usual in by_job.values()])
        middle = float(np.median(ratios))
        mean = float(np.mean(np.clip(ratios, middle / _FAR, middle * _FAR)))
        jobs = len(by_job)
        found[name] = Learned(exp(log(mean) * jobs / (jobs + assumptions().weight.jobs)), jobs)
    for place, name in enumerate(names):
        expected[place] *= found[name].factor
    return found


@dataclass(frozen=True)
class Assemblies:
    """How many assemblies axles of a shop take.

    :param shares: of axles that are done at the first, second, third, ...; they add up to 1.
    :param jobs: the shop's own jobs that it rests on.
    """

    shares: tuple[float, ...]
    jobs: int

    def further(self, assembly: int, chance: float | None) -> tuple[float, ...]:
        """Chances of 0, 1, 2, ... further assemblies.

        :param assembly: the one in hand, from 1; 0 where none is built yet.
        :param chance: the judgement's own chance that all is in range after the next one, or nothing.
        :returns: chances that add up to 1; from ``assembly`` 0 the first assembly is no further one.
        """
        count = len(self.shares)
        if assembly <= 0:
            return self.shares
        found, rest = [], 1.0
        for number in range(assembly, assembly + count):
            remaining = sum(self.shares[number - 1 :])
            done = self.shares[number - 1] / remaining if number <= count and remaining > 0 else 0.5
            if number == assembly and chance is not None:
                # A change is advised: this assembly is not the last, the next is with that chance.
                found.append(0.0)
                continue
            if number == assembly + 1 and chance is not None:
                done = chance
            found.append(rest * done)
            rest *= 1 - done
        found[-1] += rest
        return tuple(found)

    @property
    def mean(self) -> float:
        """Assemblies on the average."""
        return sum(number * share for number, share in enumerate(self.shares, start=1))


def assemblies_of(finished: Iterable[int]) -> Assemblies:
    """How many assemblies axles take, from the shop's own signed jobs.

    :param finished: assemblies of each, from 1.
    :source: ``data/spreads.toml``; the shares of a Dirichlet prior with its weight.

    >>> round(assemblies_of([1] * 90).shares[0], 2)
    0.93
    """
    prior, weight = assumptions().assemblies["shares"], assumptions().weight.assemblies
    counts = [0] * len(prior)
    for number in finished:
        counts[min(max(number, 1), len(prior)) - 1] += 1
    total = sum(counts)
    shares = tuple((weight * p + n) / (weight + total) for p, n in zip(prior, counts, strict=True))
    return Assemblies(tuple(s / sum(shares) for s in shares), total)
