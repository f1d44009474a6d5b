"""The book of adjusters and caps: marks, holes moved aside and back, caps nipped and torqued."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace
from enum import Enum

from axle.errors import AxleError


class AdjusterEvent(Enum):
    """What was done."""

    MARKED = "marked"
    ASIDE = "aside"
    BACK = "back"
    LOOSE = "loose"
    NIPPED = "nipped"
    TORQUED = "torqued"


DONE_WORDS = {
    AdjusterEvent.MARKED: "adjusters marked at their locks",
    AdjusterEvent.ASIDE: "carrier moved aside",
    AdjusterEvent.BACK: "carrier brought back",
    AdjusterEvent.LOOSE: "caps loose",
    AdjusterEvent.NIPPED: "caps nipped",
    AdjusterEvent.TORQUED: "caps torqued",
}
_CAPS = (AdjusterEvent.LOOSE, AdjusterEvent.NIPPED, AdjusterEvent.TORQUED)


@dataclass(frozen=True)
class AdjusterEntry:
    """One line of the book.

    :param done: what was done.
    :param ring: holes by which the ring side's adjuster was wound in, below zero out; 0 for the rest.
    :param far: the same of the far side's.
    """

    done: AdjusterEvent
    ring: float = 0.0
    far: float = 0.0


@dataclass(frozen=True)
class AdjusterLog:
    """How adjusters and caps stand.

    :param marked: whether the adjusters are marked.
    :param ring: holes by which the ring side stands aside; 0 where it stands as recorded.
    :param far: the same of the far side.
    :param caps: the caps, or nothing where nobody wrote it down.
    """

    marked: bool = False
    ring: float = 0.0
    far: float = 0.0
    caps: AdjusterEvent | None = None

    @property
    def way_back(self) -> float:
        """Holes by which the ring side has to be wound in to be back; below zero out."""
        return -self.ring

    @property
    def is_aside(self) -> bool:
        """Whether the carrier was moved aside and not brought back."""
        return bool(self.ring or self.far)


def adjuster_log_of(lines: Iterable[AdjusterEntry]) -> AdjusterLog:
    """Read the book from its first line to its last.

    :param lines: oldest first.
    :returns: how adjusters [holes] and caps stand now.
    :raises AxleError: for a line that cannot follow those before it.
    :source: bookkeeping; common practice for what may follow what.

    >>> moved = [AdjusterEntry(AdjusterEvent.ASIDE, -6, 6), AdjusterEntry(AdjusterEvent.BACK, 6, -6)]
    >>> adjuster_log_of([AdjusterEntry(AdjusterEvent.MARKED), *moved]).is_aside
    False
    """
    book = AdjusterLog()
    for line in lines:
        book = after(book, line)
    return book


def after(book: AdjusterLog, line: AdjusterEntry) -> AdjusterLog:
    """Add one line to the book.

    :param book: how things stand.
    :param line: what was done [holes].
    :raises AxleError: for moves that lose the count: not equal and opposite, or not as far back.
    :source: common practice: marks first, then equal and opposite, and as many holes back.

    >>> after(AdjusterLog(), AdjusterEntry(AdjusterEvent.NIPPED)).caps.value  # no unit
    'nipped'
    """
    if line.done in _CAPS:
        return replace(book, caps=line.done)
    if line.done is AdjusterEvent.MARKED:
        if book.is_aside:
            raise AxleError(
                "marks", given="marks while the carrier stands aside", wanted="the carrier back first"
            )
        return replace(book, marked=True)
    if not line.ring or line.ring != -line.far:
        raise AxleError(
            "adjusters",
            given=f"{line.ring:+g} and {line.far:+g} holes",
            wanted="the same number, one in and the other out",
            do="Otherwise the preload that was set is lost.",
        )
    if line.done is AdjusterEvent.ASIDE:
        if not book.marked:
            raise AxleError(
                "adjusters",
                given="moved aside without marks",
                wanted="both adjusters marked first",
                do="Mark them once the preload is right.",
            )
        return replace(book, ring=book.ring + line.ring, far=book.far + line.far)
    if not book.is_aside or line.ring != -book.ring:
        away = (
            f"{-book.ring:+g} holes on the ring side" if book.is_aside else "a carrier that was moved aside"
        )
        raise AxleError(
            "brought back",
            given=f"{line.ring:+g} holes on the ring side",
            wanted=away,
            do="Count again. If it truly stands elsewhere, record both adjusters there: what was read is "
            "stale then.",
        )
    return replace(book, ring=0.0, far=0.0)
