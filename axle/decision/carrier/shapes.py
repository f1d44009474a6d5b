"""The shapes of a planned move of the carrier: where it starts, what it brings, which holes lock."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Final

from axle.carrier.sides import Seat, SideChange
from axle.carrier.spacers import Gaps, Spacers
from axle.decision.move import Swap
from axle.layout import Place
from axle.shims.pieces import Pack

# What a predicted backlash repeats to beside its ratio [mm]: a reading's own step and hand.
REPEATS: Final = 0.0085


@dataclass(frozen=True)
class Start:
    """Where a plan starts from: a seat, and the backlash that was read on it.

    :param seat: how the carrier sat when the backlash was read.
    :param smallest: governing backlash there [mm], or nothing before one was read.
    :param largest: largest place [mm], or nothing.
    :param std: standard uncertainty of ``smallest`` [mm].
    :param by: where it was read, in words.
    :param measured: what a first fit was measured by, where both packs follow in closed form.
    :param locked: whether the gears lock there: the backlash is 0 or less, nobody knows by how much.
    """

    seat: Seat
    smallest: float | None = None
    largest: float | None = None
    std: float = REPEATS
    by: str = ""
    measured: Spacers | Gaps | None = None
    locked: bool = False

    def after(self, opened: float, u: float) -> tuple[float, float] | None:
        """Smallest backlash once it was opened by so much, with its standard uncertainty [mm].

        :param opened: change of the backlash [mm].
        :param u: its standard uncertainty [mm].
        :returns: nothing before a backlash was read; from locked gears anything up to ``opened``.
        """
        if self.smallest is None:
            return None
        if self.locked:
            # Somewhere between still locked and all of it: a rectangle (JCGM 100:2008, 4.3.7).
            return opened / 2, math.hypot(max(opened, 0.0) / math.sqrt(12), u, self.std)
        return self.smallest + opened, math.hypot(u, self.std)

    @property
    def fresh(self) -> bool:
        """Whether both packs are fitted anew, so that the middle of the range costs nothing more."""
        return self.measured is not None and self.smallest is not None


@dataclass(frozen=True)
class SidesPlan:
    """Both sides as they are to be, and what is expected of them.

    :param start: where it starts.
    :param wanted: governing backlash that is aimed at [mm], or nothing.
    :param interference: interference that is aimed at [mm].
    :param change: what the arithmetic asks of both sides [mm of thickness].
    :param deeper: how much deeper the pinion comes in the same move [mm].
    :param swaps: what can be made, the ring side first.
    :param notes: what the drawer lacks.
    :param others: other packs that could be made.
    :param smallest: predicted smallest backlash with its standard uncertainty [mm], or nothing.
    :param variation: predicted spread around the ring [mm], or nothing.
    :param made: interference that the swaps make [mm].
    """

    start: Start
    wanted: float | None
    interference: float
    change: SideChange
    deeper: float = 0.0
    swaps: tuple[Swap, ...] = ()
    notes: tuple[str, ...] = ()
    others: tuple[tuple[Place, Pack], ...] = ()
    smallest: tuple[float, float] | None = None
    variation: float | None = None
    made: float = 0.0

    @property
    def changes(self) -> bool:
        """Whether anything is to be changed at all."""
        return any(swap.change for swap in self.swaps)


@dataclass(frozen=True)
class LockRow:
    """Both adjusters at lock holes, and what is expected there.

    :param ring: holes of the ring side's.
    :param far: holes of the far side's.
    :param smallest: smallest backlash expected [mm], or nothing.
    :param interference: interference expected [mm]; below zero it is play.
    :param in_range: whether both are in range, as far as they are known.
    """

    ring: float
    far: float
    smallest: float | None
    interference: float
    in_range: bool
