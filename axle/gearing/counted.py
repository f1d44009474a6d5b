"""What is in there now: the ratio from counted turns, from counted teeth, or from a tag."""

from __future__ import annotations

import math
import re
from collections.abc import Iterable
from dataclasses import dataclass
from enum import Enum
from itertools import pairwise
from typing import Final

from axle.errors import AxleError, quoted
from axle.gearing.offers import Offer, pairs_near, read_pair
from axle.gearing.teeth import TeethMeeting

# A wheel's mark is set to its place within so much of a turn, common practice, no source.
_WHEEL_MARK: Final = 0.01
_MOST_SHOWN: Final = 12
_MOST_TURNS: Final = 200.0


class Wheels(Enum):
    """What the wheels do while the turns are counted."""

    BOTH = "both"
    HELD = "held"
    FREE = "free"


WHEELS_WORDS: Final = {
    Wheels.BOTH: "both wheels counted",
    Wheels.HELD: "one wheel held, the other counted",
    Wheels.FREE: "one wheel turned, the other left free",
}
# Differentials that turn both shafts as one, or may.
_LOCKED: Final = ("spool", "mechanical")


@dataclass(frozen=True)
class Count:
    """Turns of the pinion counted against those of the wheels, in one direction.

    :param wheels: what the wheels did.
    :param pinion: turns of the pinion, signed, not 0.
    :param left: turns of the left wheel, signed; 0 where it was held.
    :param right: turns of the right wheel.
    :param start: δ at the start: how wide the pinion's place is known [turns], 0 to 1; backlash taken up
        the same way at both ends is no part of it.
    :param end: δ at the end.
    :param differential: what is in the carrier, as the job has it.
    :raises AxleError: where the count says nothing, naming why.
    """

    wheels: Wheels
    pinion: float
    left: float
    right: float
    start: float = 0.125
    end: float = 0.125
    differential: str = "open"

    def __post_init__(self) -> None:
        if self.wheels is Wheels.FREE:
            raise AxleError(
                "counted turns",
                given="one wheel turned with the other left free",
                wanted="both wheels counted, or one held",
                do="With one wheel free the differential turns instead of the pinion: it says nothing.",
            )
        if self.wheels is Wheels.HELD and self.differential in _LOCKED:
            raise AxleError(
                "counted turns",
                given="one wheel held on a spool or locker",
                wanted="both wheels counted",
                do="A spool, a locked or a binding locker cannot be held on one side.",
            )
        if self.wheels is Wheels.HELD and self.left and self.right:
            raise AxleError(
                "held wheel", given="turns of both wheels", wanted="0 turns of the one that is held"
            )
        for what, value in (
            ("pinion", self.pinion),
            ("left wheel", self.left),
            ("right wheel", self.right),
        ):
            if abs(value) > _MOST_TURNS:
                raise AxleError(
                    f"turns of the {what}", given=f"{value:g}", wanted=f"at most {_MOST_TURNS:g}"
                )
        for what, value in (("start", self.start), ("end", self.end)):
            if not 0 <= value <= 1:
                raise AxleError(f"part turn at the {what}", given=f"{value:g}", wanted="0 to 1 turn")
        if not self.pinion or not self.mean:
            raise AxleError(
                "counted turns",
                given="no turn of the pinion"
                if not self.pinion
                else "wheels that turned against each other",
                wanted="turns of the pinion and of the wheels",
            )

    @property
    def mean(self) -> float:
        """n: turns of the ring gear, half of both wheels' together, signed."""
        return (self.left + self.right) / 2

    @property
    def ratio(self) -> float:
        """The pinion's turns over the ring gear's, without a sign [1]."""
        return abs(self.pinion / self.mean)

    @property
    def marks(self) -> float:
        """How wide the ring gear's turns are known, from the marks on the wheels [turns]."""
        return _WHEEL_MARK / 2 if self.wheels is Wheels.HELD else _WHEEL_MARK

    @property
    def width(self) -> float:
        """How wide the pinion's turns are known: both ends, and the wheels' marks [turns]."""
        return self.start + self.end + self.ratio * self.marks

    @property
    def interval(self) -> tuple[float, float]:
        """Least and largest ratio that the count allows [1]."""
        pinion, ring = abs(self.pinion), abs(self.mean)
        ends, marks = (self.start + self.end) / 2, self.marks / 2
        if ring <= marks:
            raise AxleError(
                "turns of the wheels", given=f"{ring:g} of the ring gear", wanted="a turn or more"
            )
        return max(1.0, (pinion - ends) / (ring + marks)), (pinion + ends) / (ring - marks)


@dataclass(frozen=True)
class InThere:
    """What ratio an axle has, as far as it is known.

    :param low: least that is possible [1].
    :param high: largest.
    :param fits: tooth pairs that could be it, likeliest first: those on the shop's list, then the nearest.
    :param words: how it is known.
    :param turns: of each counted wheel, after which the nearest two of them are told apart, or nothing.
    :param same: pairs among them with one and the same ratio: no count tells them apart.
    """

    low: float
    high: float
    fits: tuple[Offer, ...]
    words: str
    turns: int | None = None
    same: tuple[str, ...] = ()

    @property
    def is_settled(self) -> bool:
        """Whether one tooth pair alone could be it."""
        return len(self.fits) == 1


def from_counted_turns(count: Count, offers: Iterable[Offer] = ()) -> InThere:
    """Which tooth pairs a count of turns leaves.

    :param count: what was counted; pinion turns = R·(left + right)/2.
    :param offers: of the shop's own list; other pairs stand behind them.
    :returns: the pairs, and how many turns of a counted wheel settle it: n·|R1 − R2| > δ_start + δ_end for
        n turns of the ring gear, which turns half as often as the wheel where the other is held.
    :source: kinematics of a differential; interval arithmetic, so that the true pair is always inside.

    >>> found = from_counted_turns(Count(Wheels.BOTH, pinion=37.25, left=10, right=10))
    >>> found.low < 41 / 11 < found.high
    True
    """
    low, high = count.interval
    sold = {offer.teeth: offer for offer in offers}
    middle = (low + high) / 2
    near = [sold.pop(offer.teeth, offer) for offer in _between(low, high)]
    near += [offer for offer in sold.values() if low <= offer.ratio <= high]
    known = {offer.teeth for offer in offers}
    near.sort(key=lambda offer: (offer.teeth not in known, abs(offer.ratio - middle)))
    ratios = sorted({offer.ratio for offer in near})
    gaps = [after - before for before, after in pairwise(ratios)]
    twins = [o.teeth for o in near if sum(math.isclose(o.ratio, p.ratio) for p in near) > 1]
    more = math.ceil(count.width / min(gaps) + 1e-9) if gaps else None
    if more is not None and count.wheels is Wheels.HELD:
        more *= 2
    return InThere(low, high, tuple(near[:_MOST_SHOWN]), _counted_words(count), more, tuple(twins))


def _between(low: float, high: float) -> tuple[Offer, ...]:
    middle, half = (low + high) / 2, (high - low) / 2
    if not 1.5 <= middle <= 12:
        raise AxleError(
            "counted turns", given=f"a ratio of {middle:.2f}", wanted="1.5 to 12", do="Count again."
        )
    return pairs_near(middle, half / middle)


def _counted_words(count: Count) -> str:
    turns = f"{abs(count.pinion):g} turns of the pinion"
    if count.wheels is Wheels.HELD:
        return f"{turns} for {abs(count.left + count.right):g} of one wheel, the other held"
    return f"{turns} for {abs(count.left):g} and {abs(count.right):g} of the wheels"


def from_teeth(pinion: int, ring: int) -> InThere:
    """The ratio from counted teeth: settled.

    :param pinion: N1.
    :param ring: N2.
    :raises AxleError: for teeth that no axle has.
    :source: N2/N1.

    >>> from_teeth(11, 41).is_settled
    True
    """
    offer = Offer(pinion, ring)
    return InThere(offer.ratio, offer.ratio, (offer,), f"counted teeth: {TeethMeeting(pinion, ring).words}")


def from_tag(text: str, offers: Iterable[Offer] = ()) -> InThere:
    """The ratio from a tag, with what a letter in it says of the differential.

    A tag holds for the day on which it was fitted: a later set may be in.

    :param text: as stamped, such as "41 11", "41-11", "3.73", "3L73".
    :param offers: of the shop's own list.
    :raises AxleError: for a tag without a ratio.
    :source: a letter between the digits marks a limited slip on many axles, common practice, no source.

    >>> from_tag("3L73").words
    'the tag; the letter in it says limited slip on many axles'
    """
    typed = " ".join(text.strip().upper().split())
    letter = re.fullmatch(r"(\d)\s*([A-Z])\s*(\d{2})", typed, re.ASCII)
    number = re.fullmatch(r"(\d{1,2})[.,](\d{1,2})", typed, re.ASCII)
    words = "the tag"
    if letter:
        named = float(f"{letter[1]}.{letter[3]}")
        words += (
            f"; the letter in it says {'limited slip' if letter[2] == 'L' else 'something'} on many axles"
        )
    elif number:
        named = float(f"{number[1]}.{number[2]}")
    else:
        try:
            pinion, ring = read_pair(typed.replace(" ", "-"), "tag")
        except AxleError:
            raise AxleError(
                "tag", given=quoted(text), wanted="the teeth or the ratio on it, as 41 11 or 3.73"
            ) from None
        return InThere(
            ring / pinion, ring / pinion, (Offer(pinion, ring),), f"{words}: {ring} and {pinion} teeth"
        )
    # A name has two places: it may be rounded, or cut off.
    low, high = named - 0.01, named + 0.01
    sold = [offer for offer in offers if low <= offer.ratio <= high]
    rest = [offer for offer in _between(low, high) if offer.teeth not in {o.teeth for o in sold}]
    return InThere(low, high, tuple([*sold, *rest][:_MOST_SHOWN]), words)
