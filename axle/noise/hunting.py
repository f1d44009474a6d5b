"""The hunting tooth: one pinion tooth meeting one of the ring gear, a slow swelling of the mesh."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Final

import numpy as np

from axle.noise.bands import Bands
from axle.noise.orders import Machine
from axle.noise.tracking import Tracked, in_orders

# Turns in a block: short, so that the swelling is seen; and whole cycles that are wanted.
_TURNS: Final = 4
CYCLES: Final = 5


@dataclass(frozen=True)
class Hunting:
    """How the mesh swells as one pair of teeth comes together.

    :param period: turns of the ring gear from one meeting to the next, N1/gcd(N1, N2).
    :param cycles: how often it came in the recording; under 5 it is too short.
    :param swells: relative amplitude of the swelling [1].
    :param sigmas: how far it stands over chance.
    """

    period: float
    cycles: float
    swells: float
    sigmas: float

    @property
    def is_slow(self) -> bool:
        """Whether the teeth meet so seldom that the swelling can be heard as one."""
        return self.period >= 2 * _TURNS

    @property
    def is_long_enough(self) -> bool:
        """Whether whole cycles enough were recorded, and a block is short beside one."""
        return self.is_slow and self.cycles >= CYCLES


def hunting(bands: Bands, tracked: Tracked, machine: Machine, scale: float) -> Hunting:
    """How the mesh tone swells at the hunting tooth's order.

    The mesh's level in short blocks is taken over the angle of the ring gear; its part at gcd(N1, N2)/N1
    is held against its parts at other slow orders.

    :param bands: the recording.
    :param tracked: where the ring gear stood.
    :param machine: what is known of what turns.
    :param scale: told turns over true ones.
    :source: least squares of a sine; hunting tooth frequency of gearing handbooks, from memory.
    """
    period = machine.pinion_teeth / math.gcd(machine.pinion_teeth, machine.ring_teeth)
    whole = float(tracked.angle[-1]) / scale
    if whole / period < CYCLES or period < 2 * _TURNS:
        return Hunting(period, whole / period, 0.0, 0.0)
    blocks = in_orders(bands.low, bands.low_rate, tracked, _TURNS)
    at = machine.ring_teeth / scale * _TURNS
    rows = blocks.power[:, max(int(at) - 2, 0) : int(at) + 4].sum(axis=1)
    angle = np.interp(blocks.middles, tracked.times, tracked.angle) / scale
    level = np.log(rows + 1e-20)
    # Speed and load change slowly: they are taken out over some cycles first.
    slow = np.polynomial.Polynomial.fit(angle, level, min(12, max(2, int(whole / period / 4))))
    rest = level - slow(angle)

    def size(order: float) -> float:
        waves = np.column_stack([np.cos(2 * np.pi * order * angle), np.sin(2 * np.pi * order * angle)])
        found, *_ = np.linalg.lstsq(waves, rest, rcond=None)
        return float(np.hypot(*found))

    own = size(1 / period)
    others = [size(order) for order in np.linspace(0.4, 2.2, 25) / period if abs(order * period - 1) > 0.15]
    usual, spread = float(np.median(others)), float(np.std(others)) + 1e-9
    return Hunting(period, whole / period, swells=own / 2, sigmas=(own - usual) / spread)
