"""The shapes of advice: a move, its changes, and what is expected of it."""

from __future__ import annotations

from dataclasses import dataclass
from decimal import Decimal
from enum import Enum

from axle.layout import Place
from axle.shims import Pack
from axle.units import Dimension


class Act(Enum):
    """What kind of thing is to be done next."""

    READ = "read"
    CHANGE = "change"
    TIGHTEN = "tighten"
    REPLACE = "replace"
    PRINT = "print"
    LOOK = "look"
    SIGN = "sign"
    DONE = "done"


@dataclass(frozen=True)
class Swap:
    """A change at one place: a pack for another, or an adjuster turned by holes.

    :param place: where.
    :param before: thickness [mm] or holes now.
    :param after: the same after the change.
    :param pack: the pieces to fit; nothing for an adjuster.
    :param asked: what the arithmetic asked for, before the drawer had its say.
    """

    place: Place
    before: Decimal
    after: Decimal
    pack: Pack | None
    asked: Decimal

    @property
    def change(self) -> Decimal:
        """After less before [mm or holes]."""
        return self.after - self.before


# A forecast has failed where a reading is further off than so many standard deviations.
_FAILED = 3.0


@dataclass(frozen=True)
class Expected:
    """A reading that is predicted, never shown as if it were measured.

    :param label: what will be read.
    :param low: one standard deviation below, in the core's unit.
    :param high: one above, not under ``low``.
    :param dimension: what it measures.
    """

    label: str
    low: float
    high: float
    dimension: Dimension

    @classmethod
    def around(cls, label: str, middle: float, spread: float, dimension: Dimension) -> Expected:
        """One standard deviation either way of what is expected; nothing that is read lies below 0."""
        low, high = (max(middle + sign * spread, 0.0) for sign in (-1, 1))
        return cls(label, low, high, dimension)

    def is_missed_by(self, value: float) -> bool:
        """Whether what was read lies so far off that the forecast has failed: three standard deviations.

        :param value: what was read, in the core's unit.
        """
        half = (self.high - self.low) / 2
        return abs(value - self.low - half) > _FAILED * max(half, 1e-6)


@dataclass(frozen=True)
class Move:
    """One next move.

    :param act: what kind of thing it is.
    :param title: what to do, a few words.
    :param station: where it is done.
    :param swaps: changes of packs or adjusters.
    :param expected: what the next readings should be.
    :param stales: stations and readings that it makes stale.
    :param why: numbered lines of arithmetic and reasons.
    :param notes: what stays as it is, what is provisional, what the drawer lacks.
    :param others: other packs that could be made, by place.
    :param asks: readings that are asked for, as (kind, place); those the station still wants when empty.
    :param again: they repeat what was read, and the mean counts.
    :param amount: turn of the nut [degrees], for a bite.
    :param chance: that all is in range once it is done, or nothing where it is not judged.
    :param parts: by station, what that chance is made of.
    :param runner_up: the next best move, and why not that one.
    :param suspects: what may be wrong with the axle, as in ``suspects.toml``.
    :param then: for a reading or a print, the change that it is taken before, and that can be made at once.
    """

    act: Act
    title: str
    station: str
    swaps: tuple[Swap, ...] = ()
    expected: tuple[Expected, ...] = ()
    stales: tuple[str, ...] = ()
    why: tuple[str, ...] = ()
    notes: tuple[str, ...] = ()
    others: tuple[tuple[Place, Pack], ...] = ()
    asks: tuple[tuple[str, int], ...] = ()
    again: bool = False
    amount: float = 0.0
    chance: float | None = None
    parts: tuple[tuple[str, float], ...] = ()
    runner_up: str = ""
    suspects: tuple[str, ...] = ()
    then: Move | None = None

    @property
    def change(self) -> Move | None:
        """The change that can be made now: this move, or the one that its reading comes before."""
        return self if self.act is Act.CHANGE else self.then
