"""Threaded adjusters: travel, lock holes, and which way a hand turns them."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from enum import Enum

from axle.errors import AxleError
from axle.layout import Side


class Threads(Enum):
    """Hand of the adjusters' threads."""

    RIGHT = "right"
    LEFT = "left"
    OPPOSED = "opposed"


class Stands(Enum):
    """Where the builder stands: behind the axle (the open cover), or in front, at the pinion."""

    BEHIND = "behind"
    FRONT = "front"


def thickness_per_hole(pitch: float, holes_per_turn: int) -> float:
    """Free travel of a threaded adjuster per lock hole, the same as a thicker shim outboard.

    :param pitch: thread pitch [mm], more than 0.
    :param holes_per_turn: lock holes around the adjuster, more than 0.
    :returns: travel [mm] per hole; past zero play the bearings and housing give way too.
    :source: the thread.

    >>> round(thickness_per_hole(1.5, 30), 3)
    0.05
    """
    return pitch / holes_per_turn


def turned_in_is_clockwise(side: Side, threads: Threads) -> bool:
    """Say whether an adjuster winds in clockwise for somebody who faces it from outside.

    :param side: the side of the housing it sits on, as seen from behind the axle.
    :param threads: hand of both threads; opposed is left-hand on the left side alone.
    :source: a right-hand thread advances clockwise, whatever the unit of its pitch.

    >>> turned_in_is_clockwise(Side.LEFT, Threads.RIGHT)
    True
    """
    left_hand = threads is Threads.LEFT or (threads is Threads.OPPOSED and side is Side.LEFT)
    return not left_hand


def near_edge_goes_down(side: Side, threads: Threads, stands: Stands, *, turns_in: bool) -> bool:
    """Say which way the edge next to the builder goes while an adjuster is turned.

    :param side: the side of the housing it sits on, as seen from behind the axle.
    :param threads: hand of both threads.
    :param stands: where the builder stands.
    :param turns_in: whether the adjuster is to be wound in, not out.
    :source: a right-hand screw, no unit: seen from the left end a clockwise turn brings the edge on the
        right, next to somebody behind the axle, down.

    >>> near_edge_goes_down(Side.LEFT, Threads.RIGHT, Stands.BEHIND, turns_in=True)
    True
    >>> near_edge_goes_down(Side.RIGHT, Threads.RIGHT, Stands.BEHIND, turns_in=True)
    False
    """
    clockwise = turned_in_is_clockwise(side, threads) == turns_in
    seen_from_left = side is Side.LEFT
    behind = stands is Stands.BEHIND
    return clockwise == (seen_from_left == behind)


def turn_words(side: Side, threads: Threads, stands: Stands, holes: float) -> str:
    """Say which way a hand turns an adjuster, as seen from outside and from where the builder stands.

    :param side: the side of the housing it sits on, as seen from behind the axle.
    :param threads: hand of both threads.
    :param stands: where the builder stands.
    :param holes: holes to be wound in, below zero out; not 0.
    :raises AxleError: for 0 holes.
    :source: :func:`near_edge_goes_down`; no unit.

    >>> turn_words(Side.LEFT, Threads.RIGHT, Stands.BEHIND, -1.5)
    'out: anticlockwise facing it from outside; from behind, its near edge goes up'
    """
    if not holes:
        raise AxleError("adjuster", given="0 holes", wanted="a move in or out")
    turns_in = holes > 0
    clockwise = turned_in_is_clockwise(side, threads) == turns_in
    down = near_edge_goes_down(side, threads, stands, turns_in=turns_in)
    seen = {Stands.BEHIND: "from behind", Stands.FRONT: "from in front"}[stands]
    return (
        f"{'in' if turns_in else 'out'}: {'clockwise' if clockwise else 'anticlockwise'} facing it from "
        f"outside; {seen}, its near edge goes {'down' if down else 'up'}"
    )


def on_lock(holes: float, step: float) -> bool:
    """Say whether the lock goes in at a position.

    :param holes: position in lock holes from the mark.
    :param step: holes between two positions that lock: 1, or ½ where a lock can be turned over.
    :source: common practice.

    >>> on_lock(3.5, 0.5), on_lock(3.25, 0.5)  # unit: holes
    (True, False)
    """
    return abs(holes / step - round(holes / step)) < 1e-6


@dataclass(frozen=True)
class LockChoice:
    """Both adjusters at lock holes, and how far from what is wanted that is.

    :param ring: holes of the ring side's adjuster.
    :param far: holes of the far side's.
    :param miss: what the caller's measure of it came to; smaller is better.
    """

    ring: float
    far: float
    miss: float


def nearest_locks(
    ring: float, far: float, step: float, miss: Callable[[float, float], float], reach: int = 2
) -> Sequence[LockChoice]:
    """Lock holes around a wanted position of both adjusters, the best first.

    Both together: rounding each by itself could put both errors into the preload.

    :param ring: wanted position of the ring side [holes].
    :param far: wanted position of the far side [holes].
    :param step: holes between two positions that lock, more than 0.
    :param miss: measure of how bad a pair of positions is; infinite for one that cannot be.
    :param reach: steps looked at to either side.
    :raises AxleError: for a step that is not more than 0.
    :source: exhaustive search of the lattice.

    >>> found = nearest_locks(2.3, -2.3, 0.5, lambda r, f: (r - 2.3) ** 2 + (f + 2.3) ** 2)
    >>> found[0].ring, found[0].far
    (2.5, -2.5)
    """
    if step <= 0:
        raise AxleError("lock", given=f"a step of {step:g} holes", wanted="more than 0")
    around = [
        [(math.floor(wanted / step) + k) * step for k in range(1 - reach, reach + 1)]
        for wanted in (ring, far)
    ]
    found = [LockChoice(r, f, miss(r, f)) for r in around[0] for f in around[1]]
    return sorted((c for c in found if math.isfinite(c.miss)), key=lambda c: c.miss)
