"""Simulated instruments: a truth, its variation around the ring, noise, and a resolution."""

from __future__ import annotations

import math
import random
import tomllib
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from pathlib import Path

from axle.errors import AxleError


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


@cache
def channels() -> Mapping[str, Channel]:
    """Every channel by reading kind.

    :source: ``instruments.toml``, made up.

    >>> channels()["backlash"].unit
    'in'
    """
    with (Path(__file__).parent / "instruments.toml").open("rb") as file:
        return {kind: Channel(**row) for kind, row in tomllib.load(file).items()}


def answer(line: str, source: random.Random) -> str:
    """Answer one line of the instruments' protocol (docs/instruments.md).

    :param line: "ID", or "READ kind place places".
    :param source: random numbers of the noise.
    :returns: "ID …", "VALUE number unit", or "ERROR words"; never raises.
    :source: the project's own protocol.

    >>> answer("READ arrival_side_play 1 1", random.Random(1))
    'VALUE 0.0000 in'
    """
    words = line.split()
    try:
        if words == ["ID"]:
            return "ID simulated bench set, indicator 0.0001 in, torque wrench 0.5 in-lb"
        if len(words) == 4 and words[0] == "READ":
            place, places = int(words[2]), int(words[3])
            if words[1] not in channels() or not 1 <= place <= places <= 99:
                raise AxleError("channel", given=line[:40], wanted="a known kind and place")
            channel = channels()[words[1]]
            decimals = 4 if channel.unit == "in" else 1
            return f"VALUE {channel.read(place, places, source):.{decimals}f} {channel.unit}"
    except (AxleError, ValueError):
        return "ERROR nothing of that kind can be read"
    return "ERROR not understood"
