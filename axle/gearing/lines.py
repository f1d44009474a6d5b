"""What is written down of a job's ratio: counts, the choice, the customer's answer, what was looked up."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Annotated, Any, Final

import msgspec
from msgspec import Meta

from axle.data_file import as_shape
from axle.errors import AxleError
from axle.gearing.counted import Count, InThere, Wheels, from_counted_turns, from_tag, from_teeth
from axle.gearing.fits import OrderCheck, check_order
from axle.gearing.offers import Offer
from axle.gearing.teeth import TeethMeeting

_Words = Annotated[str, Meta(max_length=200)]
_Name = Annotated[str, Meta(max_length=120)]
_Turns = Annotated[float, Meta(ge=-200, le=200)]


class Counted(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """Turns that were counted."""

    wheels: str
    pinion: _Turns
    left: _Turns
    right: _Turns
    start: float = 0.125
    end: float = 0.125
    differential: Annotated[str, Meta(max_length=20)] = "open"


class Teeth(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """Teeth that were counted."""

    pinion: int
    ring: int


class Tag(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What a tag says."""

    words: Annotated[str, Meta(min_length=1, max_length=20)]


class Chosen(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """The set that the builder chose."""

    pinion: int
    ring: int
    sold_as: Annotated[str, Meta(max_length=8)] = ""
    supplier: Annotated[str, Meta(max_length=80)] = ""
    price: Annotated[str, Meta(max_length=16)] = ""
    days: int | None = None
    thick: bool = False
    carrier: Annotated[str, Meta(max_length=12)] = ""
    # Teeth that the job's sheet had before, and the ratio that was in the axle.
    before: Annotated[str, Meta(max_length=12)] = ""
    old_ratio: Annotated[float, Meta(ge=1, le=12)] | None = None
    reasons: Annotated[list[Annotated[str, Meta(max_length=400)]], Meta(max_length=20)] = []

    @property
    def offer(self) -> Offer:
        """The set."""
        return Offer(
            self.pinion, self.ring, self.sold_as, days=self.days, supplier=self.supplier, thick=self.thick
        )


class Answered(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """The customer's answer to the choice that stood then."""

    agreed: bool
    name: Annotated[str, Meta(min_length=2, max_length=120)]
    how: _Name = ""


class LookedUp(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What was looked up before the set is ordered, by question."""

    answers: Annotated[dict[str, Annotated[str, Meta(max_length=60)]], Meta(max_length=20)]


RatioNote = Counted | Teeth | Tag | Chosen | Answered | LookedUp
KINDS: Final[Mapping[str, type[RatioNote]]] = {
    "counted": Counted,
    "teeth": Teeth,
    "tag": Tag,
    "chosen": Chosen,
    "answered": Answered,
    "looked_up": LookedUp,
}


def read_ratio_line(kind: str, values: Mapping[str, Any]) -> RatioNote:
    """A row of a job's ratio, held to what its kind has.

    :param kind: its name.
    :param values: plain data.
    :raises AxleError: for a kind that is none, or a row that its kind cannot have.
    :source: :data:`KINDS`.

    >>> read_ratio_line("teeth", {"pinion": 11, "ring": 41}).ring
    41
    """
    if kind not in KINDS:
        raise AxleError("ratio", given=f"“{kind[:20]}”", wanted=", ".join(KINDS))
    line = as_shape("ratio", values, KINDS[kind])
    if isinstance(line, Teeth | Chosen):
        TeethMeeting(line.pinion, line.ring)
    elif isinstance(line, Counted):
        from_counted_turns(count_of(line))
    elif isinstance(line, Tag):
        from_tag(line.words)
    elif isinstance(line, LookedUp):
        check_order(line.answers)
    return line


def count_of(line: Counted) -> Count:
    """The count behind a row.

    :param line: the row.
    :raises AxleError: for wheels that are none, or a count that says nothing.
    :source: :class:`axle.gearing.counted.Count`.
    """
    try:
        wheels = Wheels(line.wheels)
    except ValueError:
        raise AxleError(
            "wheels", given=f"“{line.wheels[:20]}”", wanted=", ".join(kind.value for kind in Wheels)
        ) from None
    return Count(wheels, line.pinion, line.left, line.right, line.start, line.end, line.differential)


@dataclass(frozen=True)
class RatioStanding:
    """Where a job's ratio stands.

    :param counted: what is in there now by each way, oldest first.
    :param chosen: the set that stands, or nothing.
    :param answer: of the customer to it, or nothing.
    :param order: what has to be known before it is ordered.
    :param answers: what was looked up for that, by question.
    """

    counted: tuple[InThere, ...]
    chosen: Chosen | None
    answer: Answered | None
    order: OrderCheck
    answers: Mapping[str, str]

    @property
    def settled(self) -> Offer | None:
        """The one tooth pair that is in there: by teeth before a count, by a count before a tag."""
        settled = [found.fits[0] for found in self.counted if found.is_settled]
        return settled[-1] if settled else None

    @property
    def holds(self) -> tuple[str, ...]:
        """Why the chosen set is not ordered yet, in sentences; nothing where none is chosen."""
        if self.chosen is None:
            return ()
        why = [f"Not looked up yet: {title[0].lower() + title[1:]}." for title in self.order.open]
        if self.answer is None:
            why.append("The customer has not answered yet.")
        elif not self.answer.agreed:
            why.append(f"{self.answer.name} said no to this set.")
        return tuple(why)


def ratio_standing(lines: Iterable[RatioNote], offers: Iterable[Offer] = ()) -> RatioStanding:
    """Where a job's ratio stands, from its rows.

    :param lines: that stand, oldest first.
    :param offers: of the shop's own list.
    :returns: an answer counts for the choice before it; a later choice wants another.
    :source: the rows in their order.

    >>> ratio_standing([Chosen(11, 41)]).holds[-1]
    'The customer has not answered yet.'
    """
    known = tuple(offers)
    counted: list[InThere] = []
    chosen: Chosen | None = None
    answer: Answered | None = None
    answers: dict[str, str] = {}
    for line in lines:
        if isinstance(line, Counted):
            counted.append(from_counted_turns(count_of(line), known))
        elif isinstance(line, Teeth):
            counted.append(from_teeth(line.pinion, line.ring))
        elif isinstance(line, Tag):
            counted.append(from_tag(line.words, known))
        elif isinstance(line, Chosen):
            chosen, answer = line, None
        elif isinstance(line, Answered):
            answer = line if chosen is not None else None
        else:
            answers |= line.answers
    return RatioStanding(tuple(counted), chosen, answer, check_order(answers), answers)
