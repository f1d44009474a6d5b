"""Simulated instruments on the line protocol of docs/instruments.md: truth, variation, noise, step."""

from __future__ import annotations

import math
import random
import time
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from functools import cache
from typing import Any, Final

from axle.data_file import read_table
from axle.errors import AxleError

# One of each unit in the unit that the channels of its dimension are written in.
_IN: Final = {"in": 1.0, "mm": 25.4}
_INCH_POUND: Final = {"in-lb": 1.0, "ft-lb": 1 / 12, "N-m": 0.1129848}
_DECIMALS: Final = {"in": 4, "mm": 3, "in-lb": 1, "ft-lb": 1, "N-m": 2}
# Over a hand's own scatter a held maximum of a turning torque stands by about its breakaway.
_BREAKAWAY: Final = 1.25
# So long after a reading the hand is still where it was [s].
_HOLDS_S: Final = 3.0


@dataclass(frozen=True)
class Channel:
    """What one instrument reads of one kind.

    :param unit: unit in which it answers.
    :param truth: mean value in the unit.
    :param around: amplitude of the variation once around the ring, in the unit.
    :param noise: standard deviation of one reading, in the unit.
    :param step: resolution in the unit, more than 0.
    """

    unit: str
    truth: float
    around: float
    noise: float
    step: float

    def read(self, place: int, places: int, source: random.Random) -> float:
        """Take one reading at a place, rounded to the instrument's step; never below zero."""
        angle = 2 * math.pi * (place - 1) / max(places, 1)
        value = self.truth + self.around * math.cos(angle) + source.gauss(0.0, self.noise)
        return max(round(value / self.step) * self.step, 0.0)

    @property
    def is_length(self) -> bool:
        """Whether it reads a length rather than a torque."""
        return self.unit in _IN


@dataclass
class Tool:
    """One simulated instrument.

    :param name: its name on the line.
    :param words: what it says of itself.
    :param lengths: whether it reads lengths rather than torques.
    :param unit: the unit it answers in, or "" for each channel's own.
    :param offset: what it shows at nothing, in its channels' unit: an instrument that was not zeroed.
    :param zeroes: whether it can be zeroed at all.
    :param holds: whether it holds its maximum.
    """

    name: str
    words: str
    lengths: bool
    unit: str = ""
    offset: float = 0.0
    zeroes: bool = True
    holds: bool = False

    def set(self, word: str, rest: list[str]) -> str:
        """Zero it, set its unit, or switch its held maximum; gives its answer."""
        if (word, rest) == ("ZERO", []):
            if not self.zeroes:
                return "ERROR it does not zero"
            self.offset = 0.0
            return "ZERO"
        if word == "UNITS" and len(rest) == 1:
            known = _IN if self.lengths else _INCH_POUND
            if rest[0] not in known:
                return f"ERROR it reads in {' or '.join(known)}"
            self.unit = rest[0]
            return f"UNITS {rest[0]}"
        if word == "MAX" and rest in (["on"], ["off"]):
            self.holds = rest == ["on"]
            return f"MAX {rest[0]}"
        return "ERROR not understood"


@dataclass
class Bench:
    """A set of instruments on one line; what is set on one of them stays set.

    :param source: random numbers of the noise.
    :param tools: the instruments by name.
    :param clock: seconds, from anywhere.
    :param held: when each kind was last read at a place, and what it showed.
    """

    source: random.Random
    tools: dict[str, Tool] = field(default_factory=lambda: {tool.name: tool for tool in usual_tools()})
    clock: Callable[[], float] = time.monotonic
    held: dict[tuple[str, int], tuple[float, float]] = field(default_factory=dict)

    def shows(self, kind: str, place: int, places: int) -> float:
        """What a channel shows; a hand that stays at a place holds what it found there."""
        now = self.clock()
        at, value = self.held.get((kind, place), (-math.inf, 0.0))
        if now - at > _HOLDS_S:
            value = channels()[kind].read(place, places, self.source)
        self.held[kind, place] = (now, value)
        return value

    def talk(self) -> Talk:
        """Begin a conversation: the set as a whole until one of its instruments is opened."""
        return Talk(self)


@dataclass
class Talk:
    """One conversation on the line.

    :param bench: the instruments.
    :param opened: the instrument that was opened, or nothing.
    """

    bench: Bench
    opened: Tool | None = None

    def answer(self, line: str) -> str:
        """Answer one line; never raises."""
        words = line.split()
        try:
            return self._answer(words[0] if words else "", words[1:])
        except (AxleError, ValueError) as problem:
            return f"ERROR {problem.what}" if isinstance(problem, AxleError) else "ERROR not understood"

    def _answer(self, word: str, rest: list[str]) -> str:
        if word == "READ" and len(rest) == 3:
            return self._read(rest[0], int(rest[1]), int(rest[2]))
        if word == "OPEN" and len(rest) == 1:
            self.opened = self.bench.tools.get(rest[0])
            return f"OPEN {rest[0]}" if self.opened else "ERROR no instrument of that name"
        if (word, rest) == ("ID", []):
            return f"ID {self.opened.words if self.opened else 'simulated bench set'}"
        if (word, rest) == ("LIST", []):
            return f"LIST {' '.join(self.bench.tools)}"
        if self.opened is None:
            return "ERROR not understood"
        return self.opened.set(word, rest)

    def _read(self, kind: str, place: int, places: int) -> str:
        channel = channels().get(kind)
        if channel is None or not 1 <= place <= places <= 99:
            return "ERROR nothing of that kind can be read"
        tool = self.opened or next(t for t in self.bench.tools.values() if t.lengths is channel.is_length)
        if tool.lengths is not channel.is_length:
            return f"ERROR {tool.name} does not read that"
        value = self.bench.shows(kind, place, places) + tool.offset
        if tool.holds and not channel.is_length:
            value *= _BREAKAWAY
        unit = tool.unit or channel.unit
        factors = _IN if channel.is_length else _INCH_POUND
        shown = value * factors[unit] / factors[channel.unit]
        return f"VALUE {shown:.{_DECIMALS[unit]}f} {unit}{' MAX' if tool.holds else ''}"


def usual_tools() -> tuple[Tool, ...]:
    """The instruments of the simulated set.

    :source: made up.
    """
    return (
        Tool("indicator", "digital indicator, 0.0001 in", lengths=True),
        Tool("micrometer", "micrometer, 0.0001 in", lengths=True),
        Tool("wrench", "rotating-torque wrench, 0.5 in-lb", lengths=False),
        Tool("bolt-wrench", "torque wrench for bolts, 1 ft-lb", lengths=False, zeroes=False),
    )


@cache
def channels() -> Mapping[str, Channel]:
    """Every channel by reading kind.

    :source: ``instruments.toml``, made up.

    >>> channels()["backlash"].unit
    'in'
    """
    rows = read_table(__file__, "instruments.toml", dict[str, dict[str, Any]])
    return {kind: Channel(**row) for kind, row in rows.items()}


def answer(line: str, source: random.Random) -> str:
    """Answer one line as a set nobody has touched.

    :param line: a line of the protocol.
    :param source: random numbers of the noise.
    :returns: the answer; never raises.
    :source: the project's own protocol.

    >>> answer("READ arrival_side_play 1 1", random.Random(1))
    'VALUE 0.0000 in'
    """
    return Bench(source).talk().answer(line)
