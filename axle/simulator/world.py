"""The worlds that axles are simulated in: how far parts, hands and instruments differ there.

A world lies over ``spreads.toml`` as a file of its own in ``worlds``. Without one an axle has neither hands
nor wear: the bench of practice. The world that is held out is drawn anew from its hyper-spreads at each
number.
"""

from __future__ import annotations

import math
import random
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from typing import Any, Final

from axle.data_file import read_table
from axle.errors import AxleError

WORLDS: Final = ("mild", "usual", "rough")
HELD_OUT: Final = "held_out"


@dataclass(frozen=True)
class World:
    """One world.

    :param name: "mild", "usual", "rough", or "held_out" with its number.
    :param groups: figures by group and name, as in its file.
    """

    name: str
    groups: Mapping[str, Mapping[str, Any]]

    def figure(self, group: str, name: str) -> float:
        """One figure."""
        return float(self.groups[group][name])

    def within(self, group: str, name: str, source: random.Random) -> float:
        """A figure drawn between both ends of its range."""
        low, high = self.groups[group][name]
        return source.uniform(low, high)


@cache
def world_named(name: str) -> World:
    """A world by its name; "held_out 3" is the third one drawn from the hyper-spreads.

    :param name: as in :data:`WORLDS`, or "held_out" with a whole number.
    :raises AxleError: for another name.
    :source: files of ``worlds``: from memory.

    >>> world_named("usual").figure("hands", "misread_chance")
    0.015
    """
    held, _, number = name.partition(" ")
    if held == HELD_OUT and number.isdigit():
        return World(name, _drawn_world(int(number)))
    if name not in WORLDS:
        raise AxleError("world", given=f"“{name}”", wanted=", ".join((*WORLDS, "held_out 1, 2 and so on")))
    return World(name, _file(name))


def _file(name: str) -> Mapping[str, Mapping[str, Any]]:
    return read_table(__file__, f"worlds/{name}.toml", dict[str, dict[str, Any]])


def _drawn_world(number: int) -> Mapping[str, Mapping[str, Any]]:
    """The usual world with every figure multiplied by a factor of its own."""
    draw, source = _file(HELD_OUT)["draw"], random.Random(f"held out {number}")

    def changed(name: str, value: Any) -> Any:
        if name in draw["fixed"]:
            return value
        most = math.log(draw["most"])
        factor = math.exp(min(max(source.gauss(0.0, draw["log_std"]), -most), most))
        return [end * factor for end in value] if isinstance(value, list) else value * factor

    return {
        group: {name: changed(name, value) for name, value in figures.items()}
        for group, figures in _file("usual").items()
    }
