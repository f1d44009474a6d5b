"""Whether a set goes into this axle, and what has to be known before it is ordered."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from enum import Enum
from functools import cache
from typing import Final

import msgspec

from axle.data_file import read_table
from axle.errors import AxleError, quoted
from axle.gearing.offers import Offer

# From about here a pinion will not pass the ring gear with the carrier in its place: from memory, common
# practice; the axle itself decides.
PASSES_UP_TO: Final = 4.75
_LONGEST: Final = 60
# A carrier is named by ratios with two places.
_NAMED: Final = 0.006


class CarrierFit(Enum):
    """Whether this axle's carrier takes a set."""

    FITS = "fits"
    THICK = "thick"
    OTHER = "other"
    UNKNOWN = "unknown"


def carrier_fit(offer: Offer, takes: tuple[float, float] | None) -> CarrierFit:
    """Hold a set to the carrier break.

    :param offer: the set.
    :param takes: least and largest ratio of this axle's carrier [1], or nothing where nobody knows.
    :returns: whether it fits, fits since it is made thick, or wants another carrier.
    :source: the carrier break, common practice, no source.

    >>> carrier_fit(Offer(10, 41), (3.08, 3.73)).value
    'other'
    """
    if takes is None:
        return CarrierFit.UNKNOWN
    low, high = takes
    if offer.carrier_low is not None and offer.carrier_high is not None:
        # What the seller says of the carrier it bolts to.
        inside = offer.carrier_low <= high + _NAMED and offer.carrier_high >= low - _NAMED
    else:
        inside = low - _NAMED <= offer.ratio <= high + _NAMED or offer.thick
    if not inside:
        return CarrierFit.OTHER
    return CarrierFit.THICK if offer.thick else CarrierFit.FITS


def passes(offer: Offer) -> bool:
    """Whether the pinion is likely to pass the ring gear with the carrier in its place.

    :param offer: the set; a thick ring gear lies nearer.
    :source: common practice, no source; the axle itself decides.

    >>> passes(Offer(11, 41)), passes(Offer(8, 43))
    (True, False)
    """
    return offer.ratio <= PASSES_UP_TO and not offer.thick


class OrderQuestion(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What has to be answered before a set is ordered, as in ``data/order.toml``."""

    title: str
    hint: str
    like: str = ""
    else_: str = msgspec.field(default="", name="else")


@cache
def order_questions() -> Mapping[str, OrderQuestion]:
    """Everything that holds an order until it is answered, by name.

    :source: ``data/order.toml``.

    >>> order_questions()["yoke_splines"].like
    'pinion_splines'
    """
    return read_table(__file__, "data/order.toml", dict[str, OrderQuestion])


@dataclass(frozen=True)
class OrderCheck:
    """What stands between a set and its order.

    :param open: titles of questions that nobody answered.
    :param differ: what does not fit, and what it takes.
    """

    open: tuple[str, ...]
    differ: tuple[str, ...]

    @property
    def may_order(self) -> bool:
        """Whether every question is answered; what differs is ordered with it, and holds nothing."""
        return not self.open


def check_order(answers: Mapping[str, str]) -> OrderCheck:
    """Hold the answers to each other.

    :param answers: text by question.
    :raises AxleError: for a question that is not asked, or too long an answer.
    :source: ``data/order.toml``; common practice, no source.

    >>> check_order({}).may_order
    False
    """
    for name, text in answers.items():
        if name not in order_questions():
            raise AxleError("question", given=quoted(name), wanted="one of the list")
        if len(text) > _LONGEST:
            raise AxleError(
                order_questions()[name].title, given=quoted(text), wanted=f"at most {_LONGEST} characters"
            )
    said = {name: " ".join(text.lower().split()) for name, text in answers.items() if text.strip()}
    still = tuple(question.title for name, question in order_questions().items() if name not in said)
    differ = tuple(
        f"{question.title}: {said[name]}; {order_questions()[question.like].title.lower()}: "
        f"{said[question.like]}. {question.else_}"
        for name, question in order_questions().items()
        if question.like and name in said and question.like in said and said[name] != said[question.like]
    )
    return OrderCheck(still, differ)
