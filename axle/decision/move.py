"""The shapes of advice: a move, its changes, and what is expected of it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from decimal import Decimal
from enum import Enum
from typing import TypedDict, Unpack

from axle.layout import Place
from axle.measure.units import Dimension
from axle.procedure.stations import stations
from axle.shims.pieces import Pack
from axle.stations.result import Outcome
from axle.stations.station_state import Standing


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


class Details(TypedDict, total=False):
    """What a move may say beside its title and station; each as in :class:`Move`."""

    swaps: tuple[Swap, ...]
    expected: tuple[Expected, ...]
    stales: tuple[str, ...]
    why: tuple[str, ...]
    notes: tuple[str, ...]
    others: tuple[tuple[Place, Pack], ...]
    asks: tuple[tuple[str, int], ...]
    again: bool
    amount: float
    probability: float | None
    parts: tuple[tuple[str, float], ...]
    runner_up: str
    faults: tuple[str, ...]
    then: Move | None


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
    :param probability: that all is in range once it is done, or nothing where it is not judged.
    :param parts: by station, what that chance is made of.
    :param runner_up: the next best move, and why not that one.
    :param faults: what may be wrong with the axle, as in ``faults.toml``.
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
    probability: float | None = None
    parts: tuple[tuple[str, float], ...] = ()
    runner_up: str = ""
    faults: tuple[str, ...] = ()
    then: Move | None = None

    @classmethod
    def change(cls, title: str, station: str, **rest: Unpack[Details]) -> Move:
        """Change packs or adjusters."""
        return cls(Act.CHANGE, title, station, **rest)

    @classmethod
    def read(cls, title: str, station: str, **rest: Unpack[Details]) -> Move:
        """Take a reading, before anything is changed."""
        return cls(Act.READ, title, station, **rest)

    @classmethod
    def look(cls, title: str, station: str, **rest: Unpack[Details]) -> Move:
        """Look, and decide: no change of shims follows."""
        return cls(Act.LOOK, title, station, **rest)

    @classmethod
    def make_print(cls, title: str, station: str, **rest: Unpack[Details]) -> Move:
        """Print both flanks."""
        return cls(Act.PRINT, title, station, **rest)

    @classmethod
    def tighten(cls, title: str, station: str, **rest: Unpack[Details]) -> Move:
        """Turn the nut of a sleeve on."""
        return cls(Act.TIGHTEN, title, station, **rest)

    @classmethod
    def replace_sleeve(cls, title: str, station: str, **rest: Unpack[Details]) -> Move:
        """Fit a new sleeve."""
        return cls(Act.REPLACE, title, station, **rest)

    @classmethod
    def sign(cls, title: str, station: str, **rest: Unpack[Details]) -> Move:
        """Sign the build sheet."""
        return cls(Act.SIGN, title, station, **rest)

    @classmethod
    def done(cls, title: str, station: str, **rest: Unpack[Details]) -> Move:
        """Nothing is left to do."""
        return cls(Act.DONE, title, station, **rest)

    @property
    def changes(self) -> Mapping[Place, Decimal]:
        """What it sets, by place [mm or holes]."""
        return {swap.place: swap.after for swap in self.swaps}

    @property
    def ready_change(self) -> Move | None:
        """The change that can be made now: this move, or the one that its reading comes before."""
        return self if self.act is Act.CHANGE else self.then


def look(standing: Standing) -> Move:
    """Say what a station came to where no change of shims follows from it.

    :param standing: the station as it stands.
    :source: common practice.
    """
    result = standing.result
    why = result.why if result else ()
    if result and result.outcome is Outcome.CONFIRM_THE_MARK:
        notes = ("Nothing is worked out from a mark whose sign is not sure.",)
        return Move.look("Confirm what the mark means", standing.station, why=why, notes=notes)
    title = f"{stations()[standing.station].title}: {result.words if result else 'look'}"
    notes = ("No change of shims follows from this. Read again, or sign it with a reason.",)
    return Move.look(title, standing.station, why=why, notes=notes)
